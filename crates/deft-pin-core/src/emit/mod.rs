//! Placements into bytes: the files that go along with the pages, and the pages with what was
//! put into them.

mod emitter;
mod output_files;
mod proof;
mod tags;
mod writer;

pub use emitter::{EmittedPage, Emitter, Refused};
pub use output_files::{EmittedCode, OutputFiles};
pub use tags::text_in;
pub use writer::Embedding;
