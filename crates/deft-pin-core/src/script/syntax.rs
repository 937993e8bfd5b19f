//! Whether a script parses: where it does not, a browser runs none of it.

use std::panic::{AssertUnwindSafe, catch_unwind};

use oxc_allocator::Allocator;
use oxc_ast::ast::Program;
use oxc_parser::{ParseOptions, Parser};
use oxc_semantic::SemanticBuilder;
use oxc_span::SourceType;

use super::nesting::{TooDeep, most_levels, nesting};
use crate::source::Span;

/// A place that keeps a script from running.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ScriptFlaw {
    /// What is wrong there.
    pub message: String,
    /// Where; `None` where the script as a whole cannot be read.
    pub span: Option<Span>,
    /// Another place that it has to do with: where a name is declared first.
    pub related: Option<Span>,
    /// Whether it is no mistake, and only too much to be read here: a browser may run it.
    pub is_too_much: bool,
}

/// Scripts nested more deeply than this are not parsed. Browsers stop sooner, but for chains of
/// operators, which they parse in a loop: Chromium takes some 3,000 brackets, or 15,000 `!` in a row.
const DEEPEST: usize = 20_000;
/// So many brackets in each other no browser reads.
const DEEPEST_BRACKETS: usize = 8_000;
/// The stack of the thread that parses: a part for any script, and a part for each level.
const STACK_BYTES: usize = 16 << 20;
const STACK_BYTES_PER_LEVEL: usize = 20 << 10;
/// What a short script gets of that: so much, and more for each byte of its text. It fits on the stack that is there.
const LEAST_STACK_BYTES: usize = 512 << 10;
const STACK_BYTES_PER_BYTE: usize = 2 << 10;
/// Scripts of so few levels need no thread of their own: a stack is made in less time.
const FEW_LEVELS: usize = 300;
/// Longer scripts may be of many levels, whatever their letters are.
const SHORT: usize = 1_000;

/// What keeps a classic script from running (its early errors, ECMA-262 17), in the order of the
/// text. Any text gets an answer.
pub fn syntax_flaws(text: &str) -> Vec<ScriptFlaw> {
    with_program(text, |program, flaws| {
        let checked = SemanticBuilder::new().with_check_syntax_error(true).build(program);
        with_early_errors(flaws, checked.diagnostics.errors().map(flaw_of))
    })
    .unwrap_or_else(|flaw| vec![flaw])
}

/// What the parser told and what came up in checking the tree, in the order of the text.
pub(super) fn with_early_errors(
    mut flaws: Vec<ScriptFlaw>,
    more: impl Iterator<Item = ScriptFlaw>,
) -> Vec<ScriptFlaw> {
    flaws.extend(more);
    flaws.sort_by_key(|flaw| flaw.span);
    flaws.dedup();
    flaws
}

/// Parses a classic script, and hands its tree and what is wrong with it to `then`.
///
/// # Errors
/// The script is nested too deeply to be read.
pub(super) fn with_program<T: Send>(
    text: &str,
    then: impl FnOnce(&Program<'_>, Vec<ScriptFlaw>) -> T + Send,
) -> Result<T, ScriptFlaw> {
    with_program_as(text, ScriptKind::Classic, then)
}

/// How a script is read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum ScriptKind {
    /// As a classic script.
    Classic,
    /// As a module.
    Module,
    /// As the body of a function: a pin's script.
    Confined,
}

/// The same for either kind.
pub(super) fn with_program_as<T: Send>(
    text: &str,
    kind: ScriptKind,
    then: impl for<'a> FnOnce(&'a Program<'a>, Vec<ScriptFlaw>) -> T + Send,
) -> Result<T, ScriptFlaw> {
    let levels = levels_of(text)?;
    let stack = stack_for(text, levels);
    let parse = || {
        let allocator = Allocator::default();
        let options = ParseOptions {
            parse_regular_expression: true,
            allow_return_outside_function: kind == ScriptKind::Confined,
            ..ParseOptions::default()
        };
        let source = match kind {
            ScriptKind::Classic | ScriptKind::Confined => SourceType::script(),
            ScriptKind::Module => SourceType::mjs(),
        };
        let parsed = Parser::new(&allocator, text, source).with_options(options).parse();
        let flaws = parsed.diagnostics.errors().map(flaw_of).collect();
        then(&parsed.program, flaws)
    };
    let failed = |message: &str| ScriptFlaw {
        message: message.to_owned(),
        span: None,
        related: None,
        is_too_much: true,
    };
    if levels <= FEW_LEVELS {
        let parse = AssertUnwindSafe(|| stacker::maybe_grow(stack, stack, parse));
        return catch_unwind(parse).map_err(|_| failed("it cannot be read"));
    }
    std::thread::scope(|scope| {
        let thread = std::thread::Builder::new().stack_size(stack).spawn_scoped(scope, parse);
        match thread {
            Ok(thread) => thread.join().map_err(|_| failed("it cannot be read")),
            Err(error) => Err(failed(&format!("it cannot be read: {error}"))),
        }
    })
}

/// How deeply a script is nested: of a short one that the stack has room for in any case, how deeply at most.
fn levels_of(text: &str) -> Result<usize, ScriptFlaw> {
    let most = if text.len() <= SHORT { most_levels(text) } else { usize::MAX };
    if most <= FEW_LEVELS && stacker::remaining_stack().is_some_and(|left| left > stack_for(text, most)) {
        return Ok(most);
    }
    nesting(text, DEEPEST).map_err(|TooDeep { at, brackets }| {
        let message = "it is nested too deeply to be read".to_owned();
        let is_too_much = brackets < DEEPEST_BRACKETS;
        ScriptFlaw { message, span: Some(Span::new(at, at + 1)), related: None, is_too_much }
    })
}

/// The stack that a script is parsed on, in bytes.
fn stack_for(text: &str, levels: usize) -> usize {
    let spare = STACK_BYTES.min(LEAST_STACK_BYTES + text.len() * STACK_BYTES_PER_BYTE);
    spare + levels * STACK_BYTES_PER_LEVEL
}

pub(super) fn flaw_of(diagnostic: &oxc_diagnostics::OxcDiagnostic) -> ScriptFlaw {
    let span_of = |label: &oxc_diagnostics::LabeledSpan| {
        Span::new(label.offset() as usize, label.offset() as usize + label.len() as usize)
    };
    let mut spans: Vec<Span> = diagnostic.labels.iter().map(span_of).collect();
    // Of a name that is declared twice the second place is wrong.
    let is_again = diagnostic.message.contains("already been declared") && spans.len() > 1;
    let related = is_again.then(|| spans.remove(0));
    ScriptFlaw {
        message: diagnostic.message.to_string(),
        span: spans.first().copied(),
        related,
        is_too_much: false,
    }
}

#[cfg(test)]
mod tests {
    use super::super::facts::facts;
    use super::*;

    #[test]
    fn flaws_are_those_that_stop_a_browser() {
        let table: [(&str, &[u32]); 9] = [
            ("var a = 1;", &[]),
            ("a <!-- an old comment\nb", &[]),
            ("function f() { return 1", &[23]),
            ("let a = ;", &[8]),
            ("let a; let a;", &[11]),
            ("import x from 'y'", &[0]),
            ("var s = 'open", &[8]),
            ("/(/", &[1]),
            ("with (a) { b }", &[]),
        ];
        for (text, places) in table {
            let found: Vec<_> = syntax_flaws(text).iter().map(|f| f.span.map_or(999, |s| s.start)).collect();
            assert_eq!(found, places, "{text}: {:?}", syntax_flaws(text));
        }
    }

    #[test]
    fn what_no_browser_reads_is_told_from_what_is_not_read_here() {
        let flaws = |text: &str| syntax_flaws(text).first().map(|flaw| flaw.is_too_much);
        assert_eq!(flaws(&"(".repeat(DEEPEST)), Some(false));
        assert_eq!(flaws(&format!("a{}", "+a".repeat(DEEPEST))), Some(true));
        assert_eq!(flaws(&format!("a{}", "+a".repeat(DEEPEST / 3))), None);
        assert_eq!(flaws(&format!("{}{}", "[".repeat(2000), "]".repeat(2000))), None);
    }

    #[test]
    fn scripts_made_to_exhaust_a_parser_get_an_answer() {
        for unit in [
            "(", "[", "{", "!", "a?", "a?b:", "a=>", "a=", "-", "`${", "new ", "x.y(", "if(a)",
            "if(a){}else ", "class extends ", "while(a)", "a:", "a+", "a.b", "a()", "a``", "await ",
            "yield ", "function f(){", "(class extends ", "{a:", "a??", "a**", "[...", "async()=>", "({a:",
            "for(;;)", "a,", "a&&",
        ] {
            for many in [DEEPEST / 3, DEEPEST * 3] {
                let text = unit.repeat(if unit == "yield " { many / 25 } else { many });
                facts(&text, ScriptKind::Classic, &[]);
                facts(&text, ScriptKind::Confined, &[]);
            }
        }
    }
}
