//! Deft Pin: scopes custom CSS and JavaScript to chosen pages, sections and elements of a site
//! that some other system renders.

#![forbid(unsafe_code)]

mod arguments;
mod asked;
mod browser;
mod building;
mod capturing;
mod commands;
mod comparing;
mod disk;
mod exit;
mod fetching;
mod folder;
mod noted_files;
mod outcome;
mod output;
mod paste_sheet;
mod pasting;
mod preview;
mod probing;
mod project;
mod publishing;
mod releases;
mod site_run;
mod staging;

use clap::Parser as _;

use arguments::{Arguments, Command};
use exit::Exit;

/// Scripts and pages are trees of many small parts.
#[global_allocator]
static ALLOCATOR: mimalloc::MiMalloc = mimalloc::MiMalloc;

/// The stack of a thread: room enough for a script of a page, whose code goes down a level for each of its own.
const STACK_BYTES: usize = 8 << 20;

/// Sets up as many threads as there are cores; where none are to be had, this one does it all.
fn prepare_threads() {
    if rayon::ThreadPoolBuilder::new().stack_size(STACK_BYTES).build_global().is_err() {
        // It fails only where there are threads already, which are then the ones to use.
        let _ = rayon::ThreadPoolBuilder::new().num_threads(1).use_current_thread().build_global();
    }
}

fn main() -> std::process::ExitCode {
    let arguments = Arguments::parse();
    output::prepare(&arguments.common);
    prepare_threads();
    let common = &arguments.common;
    let done = match &arguments.command {
        Command::Demo(command) => commands::demo::run(common, command),
        Command::Init(command) => commands::init::run(common, command),
        Command::Survey(command) => commands::survey::run(common, command),
        Command::Locate(command) => commands::locate::run(common, command),
        Command::Lift(command) => commands::lift::run(common, command),
        Command::Reach(command) => commands::reach::run(common, command),
        Command::Why(command) => commands::why::run(common, command),
        Command::Order(command) => commands::order::run(common, command),
        Command::Check(command) => commands::check::run(common, command),
        Command::Build(command) => commands::build::run(common, command),
        Command::Paste(command) => commands::paste::run(common, command),
        Command::Compare(command) => commands::compare::run(common, command),
        Command::Publish(command) => commands::publish::run(common, command),
        Command::History(command) => commands::history::run(common, command),
        Command::Undo(command) => commands::undo::run(common, command),
        Command::Preview(command) => commands::preview::run(common, command),
        Command::Probe(command) => commands::probe::run(common, command),
        Command::Capture(command) => commands::capture::run(common, command),
        Command::Completions(command) => commands::completions::run(command),
    };
    done.unwrap_or_else(|failure| {
        output::failure(&failure);
        Exit::CouldNotRun
    })
    .into()
}
