//! What somebody does in the editor of a host.

use crate::code::{PageId, PinId};

/// An ID or classes that somebody gives to an element of a page in the host's editor.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ByHand {
    /// The pin.
    pub pin: PinId,
    /// Which of its marks.
    pub number: usize,
    /// The page.
    pub page: PageId,
    /// The element, as the board says it.
    pub selector: String,
    /// The ID.
    pub id: Option<String>,
    /// The classes, as they are typed in.
    pub class: Option<String>,
}
