//! A file's text: bytes to characters, byte spans, lines and columns, and where files come from.

mod day;
mod encoding;
mod files;
mod nearest;
mod text;

pub use day::Day;
pub use encoding::{Decoded, decode_script, decode_sheet, unshifted, utf8_text};
pub use files::{
    FileError, FilePath, Files, LARGEST_CODE, LARGEST_FILE, MemoryFiles, PathError, files_in, read_code,
};
pub use nearest::nearest;
pub(crate) use text::offset;
pub use text::{Fragment, LineIndex, Position, SourceText, Span};
