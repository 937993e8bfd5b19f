//! A file's text: bytes to characters, byte spans, lines and columns, and where files come from.

mod encoding;
mod files;
mod nearest;
mod text;

pub use encoding::Decoded;
pub use files::{FileError, FilePath, Files, MemoryFiles, PathError};
pub use nearest::nearest;
pub use text::{Piece, Position, SourceText, Span};
pub(crate) use text::{offset, position_in};
