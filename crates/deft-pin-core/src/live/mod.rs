//! A page that somebody serves, held against what was published for it: what is live, what is an earlier release's, what
//! is missing, what stands there twice, what somebody or the host has changed, and what is of no release.
//!
//! What was published is known by its text ([`PublishedPart`]), not by where it stands: hosts put things where they
//! like. Texts are compared without blanks, since hosts add and take those; without comments too where that is needed.

mod archive;
mod code_text;
mod held;
mod judge;
mod judge_contents;
mod leftovers;
mod part_kind;
mod published;
mod served;
mod tree_text;

pub use archive::{Archive, ReleaseNumber};
pub use code_text::squeezed;
pub use held::{Held, HeldPage, PartState};
pub use judge::held;
pub use part_kind::PartKind;
pub use published::{PartLook, PublishedElement, PublishedPart, elements_of, file_name, nodes_of};
pub use served::{AssetText, ServedElement, ServedPage};
