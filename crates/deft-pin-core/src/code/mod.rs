//! What every piece of code is to everybody: whose it is, of what kind, where it is, and what the
//! addresses in it mean.

mod beside_mark;
mod id;
mod location;
mod origin;
mod resolve;

pub use beside_mark::{beside_mark, beside_marks_in, has_beside_marks, with_addresses};
pub use id::{Id, LibraryId, PageId, PinId, Table};
pub use location::{Address, Location};
pub use origin::{CodeKind, Origin, Owner};
pub use resolve::{
    BoardAddress, depth_of, encode_path, encode_segment, file_of, file_url, is_on_site, resolve,
    resolve_beside, resolve_in, site_host,
};
