//! The built program, run on files in a folder of its own.

mod answers;
mod build;
mod capture;
#[path = "../cases/mod.rs"]
mod cases;
mod check;
mod ci;
mod find;
mod in_front;
mod libraries;
mod paste;
mod preview;
mod printed;
mod probe;
mod releases;
#[cfg(unix)]
mod robust;
#[path = "../session/mod.rs"]
mod session;
mod start;
mod whole_way;
