//! `completions`: what a shell offers while a command is being typed.

use anyhow::Result;
use clap::CommandFactory as _;

use crate::arguments::{Arguments, Completions};
use crate::exit::Exit;

/// Prints the completions for a shell.
pub fn run(command: &Completions) -> Result<Exit> {
    clap_complete::generate(command.shell, &mut Arguments::command(), "deft-pin", &mut std::io::stdout());
    Ok(Exit::Good)
}
