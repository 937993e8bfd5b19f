//! The commands, one file each.

pub mod build;
pub mod capture;
pub mod check;
pub mod compare;
pub mod completions;
pub mod demo;
pub mod history;
pub mod init;
pub mod lift;
pub mod locate;
pub mod order;
pub mod paste;
pub mod preview;
pub mod probe;
pub mod publish;
pub mod reach;
pub mod survey;
pub mod undo;
pub mod why;
