//! What benches share: how long something takes, and oxc's parser and scopes alone to hold that against.

use std::hint::black_box;
use std::time::{Duration, Instant};

use oxc_allocator::Allocator;
use oxc_parser::{ParseOptions, Parser};
use oxc_semantic::SemanticBuilder;
use oxc_span::SourceType;

/// As the program has it.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// How long something takes.
pub fn timed(work: impl FnOnce()) -> Duration {
    let started = Instant::now();
    work();
    started.elapsed()
}

/// What can be had of a script without understanding it.
pub fn parse(text: &str) {
    let allocator = Allocator::default();
    let options = ParseOptions { parse_regular_expression: true, ..ParseOptions::default() };
    let parsed = Parser::new(&allocator, text, SourceType::script()).with_options(options).parse();
    let checked =
        SemanticBuilder::new().with_check_syntax_error(true).with_build_nodes(true).build(&parsed.program);
    black_box(checked.semantic.nodes().len());
}

/// Prints the median of each row of times, and its ratio to the first row's: that of the parser.
pub fn print<const N: usize>(names: [&str; N], times: [Vec<Duration>; N]) {
    let medians = times.map(|mut row| {
        row.sort();
        row[row.len() / 2]
    });
    for (name, median) in names.iter().zip(medians) {
        let ratio = median.as_secs_f64() / medians[0].as_secs_f64();
        println!("{name:<48} {:>8.2} ms   {ratio:.2} times the parser", median.as_secs_f64() * 1e3);
    }
}
