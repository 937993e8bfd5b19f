//! Deft Pin: scopes custom CSS and JavaScript to chosen pages, sections and elements of a site
//! that some other system renders.

#![forbid(unsafe_code)]

mod arguments;
mod asked;
mod building;
mod commands;
mod exit;
mod folder;
mod outcome;
mod output;
mod project;
mod site_run;
mod staging;

use clap::Parser as _;

use arguments::{Arguments, Command};
use exit::Exit;

fn main() -> std::process::ExitCode {
    let arguments = Arguments::parse();
    output::prepare(&arguments.common);
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
        Command::Completions(command) => commands::completions::run(command),
    };
    done.unwrap_or_else(|failure| {
        output::failure(&failure);
        Exit::CouldNotRun
    })
    .into()
}
