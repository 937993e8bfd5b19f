//! What a part of what was published is.

/// What a part is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PartKind {
    /// A sheet.
    Style,
    /// A script.
    Script,
    /// Markup that stands in the page.
    Markup,
    /// An ID or a class that was given to an element.
    Mark,
    /// A script that only helps others: it keeps them to their pages.
    Guard,
}

impl PartKind {
    /// Every kind.
    pub const ALL: [PartKind; 5] =
        [PartKind::Style, PartKind::Script, PartKind::Markup, PartKind::Mark, PartKind::Guard];

    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            PartKind::Style => "style",
            PartKind::Script => "script",
            PartKind::Markup => "markup",
            PartKind::Mark => "mark",
            PartKind::Guard => "guard",
        }
    }

    /// The kind that is written with the same elements.
    pub(super) fn family(self) -> PartKind {
        if self == PartKind::Guard { PartKind::Script } else { self }
    }
}
