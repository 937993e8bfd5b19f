//! Placements into bytes: the files that go along with the pages, and the pages with what was
//! put into them.

mod emitted_page;
mod emitter;
mod output_files;
mod proof;
mod tags;
mod writer;

pub use emitted_page::EmittedPage;
pub use emitter::{Embedding, Emitter, Refused};
pub use output_files::{EmittedCode, OutputFiles};
pub use tags::text_in;
