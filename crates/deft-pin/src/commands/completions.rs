//! `completions`: what a shell offers while a command is being typed.

use anyhow::Result;
use clap::CommandFactory as _;

use crate::arguments::{Arguments, Completions};
use crate::exit::Exit;
use crate::output;

/// Prints the completions for a shell.
pub fn run(command: &Completions) -> Result<Exit> {
    let mut script = Vec::new();
    clap_complete::generate(command.shell, &mut Arguments::command(), "deft-pin", &mut script);
    output::print(&String::from_utf8_lossy(&script))?;
    Ok(Exit::Good)
}
