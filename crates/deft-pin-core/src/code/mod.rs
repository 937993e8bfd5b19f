//! What every piece of code is to everybody: whose it is, of what kind, and where it is.

mod id;
mod location;
mod origin;

pub use id::{Id, LibraryId, PageId, PinId, Table};
pub use location::{Address, Location};
pub use origin::{CodeKind, Origin, Owner};
