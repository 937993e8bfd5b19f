//! The commands, one file each.

pub mod build;
pub mod check;
pub mod completions;
pub mod demo;
pub mod init;
pub mod lift;
pub mod locate;
pub mod order;
pub mod paste;
pub mod reach;
pub mod survey;
pub mod why;
