//! The exit statuses that scripts rely on.

use std::process::ExitCode;

/// How a run ended.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Exit {
    /// Nothing was found that weighs as much as `--fail-on` says.
    Good,
    /// Something was found.
    Findings,
    /// It could not run: bad arguments, a bad board, a file that cannot be read or written.
    CouldNotRun,
}

impl From<Exit> for ExitCode {
    fn from(exit: Exit) -> Self {
        ExitCode::from(match exit {
            Exit::Good => 0,
            Exit::Findings => 1,
            Exit::CouldNotRun => 2,
        })
    }
}
