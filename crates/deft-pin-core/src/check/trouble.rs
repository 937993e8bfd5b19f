//! What does not work out on the timeline of a page.

use std::sync::Arc;

use super::finding::{Code, Severity};
use crate::markup::Document;
use crate::script::{Timeline, When};
use crate::site::{Handler, PageStep};
use crate::source::Span;
use crate::style::StyleRules;

/// Something that does not work out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Trouble {
    /// The step that it befalls, by its place among the page's.
    pub step: usize,
    /// Where in its script.
    pub span: Span,
    /// What.
    pub kind: TroubleKind,
}

/// What does not work out.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum TroubleKind {
    /// A global that nothing on the page defines.
    Missing {
        /// Its name.
        name: String,
        /// When it is read.
        when: When,
        /// One of nearly that name, which something on the page defines.
        near: Option<String>,
    },
    /// A global that is defined after it is read.
    Late {
        /// Its name.
        name: String,
        /// The step that defines it.
        by: usize,
    },
    /// A global that may be defined before it is read, or after.
    Race {
        /// Its name.
        name: String,
        /// The step that defines it.
        by: usize,
    },
    /// An element that is parsed after a script looks it up.
    Early {
        /// The selector.
        selector: String,
        /// The line on which the element begins.
        line: u32,
    },
    /// An element that is not on the page.
    Lost {
        /// The selector.
        selector: String,
        /// When it is looked up.
        when: When,
        /// The first name in it that the page does not have.
        name: Option<String>,
        /// A name of the page that is nearly that one.
        near: Option<String>,
    },
    /// An element that is not on the page as it is served: a script makes it.
    Made {
        /// The selector.
        selector: String,
        /// The step whose script adds a name in it.
        by: usize,
        /// That name.
        name: String,
    },
    /// A global that something else on the page defines too.
    Overwrites {
        /// Its name.
        name: String,
        /// The step that defines it; none for one that browsers have.
        by: Option<usize>,
    },
    /// A name that a pin's script keeps to itself and the page asks for.
    Kept {
        /// The name.
        name: String,
        /// The step of the page that reads it.
        by: Option<usize>,
        /// Or the attribute for an event that does, and its line on the page.
        handler: Option<(String, u32)>,
    },
    /// A name that a script adds and nothing knows, near one that something does.
    Unknown {
        /// The name, as in a selector.
        name: String,
        /// The one that is known.
        near: String,
        /// Whether a rule knows it; else an element has it.
        in_rule: bool,
    },
}

impl TroubleKind {
    /// The step that it has to do with.
    pub fn by(&self) -> Option<usize> {
        match self {
            TroubleKind::Late { by, .. } | TroubleKind::Race { by, .. } | TroubleKind::Made { by, .. } => {
                Some(*by)
            }
            TroubleKind::Overwrites { by, .. } | TroubleKind::Kept { by, .. } => *by,
            _ => None,
        }
    }

    /// Execution much it weighs.
    pub fn severity(&self) -> Severity {
        match self {
            TroubleKind::Missing { when, .. } | TroubleKind::Lost { when, .. } => match when {
                When::Now => Severity::Error,
                _ => Severity::Warning,
            },
            TroubleKind::Kept { handler: None, .. } => Severity::Warning,
            TroubleKind::Late { .. } | TroubleKind::Early { .. } | TroubleKind::Kept { .. } => {
                Severity::Error
            }
            TroubleKind::Race { .. } | TroubleKind::Overwrites { .. } | TroubleKind::Unknown { .. } => {
                Severity::Warning
            }
            TroubleKind::Made { .. } => Severity::Note,
        }
    }

    /// What kind of finding it is.
    pub fn code(&self) -> Code {
        match self {
            TroubleKind::Missing { .. } => Code::MissingLibrary,
            TroubleKind::Late { .. } => Code::LateLibrary,
            TroubleKind::Race { .. } => Code::Race,
            TroubleKind::Early { .. } => Code::EarlyLookup,
            TroubleKind::Lost { .. } | TroubleKind::Made { .. } => Code::LostLookup,
            TroubleKind::Overwrites { .. } => Code::Overwrites,
            TroubleKind::Unknown { .. } => Code::NameMismatch,
            TroubleKind::Kept { .. } => Code::NotShared,
        }
    }
}

/// A page with its timeline, as it is looked at for what does not work out.
pub struct Scene<'p> {
    /// Its steps, in the order of the document.
    pub steps: &'p [PageStep],
    /// What is certain to come before what.
    pub timeline: &'p Timeline,
    /// Its attributes for events.
    pub handlers: &'p [Handler<'p>],
    /// Its text.
    pub text: &'p str,
    /// Its tree.
    pub document: &'p Document,
    /// Names that somebody says scripts add.
    pub adds: &'p [String],
    /// The libraries that it has a copy of by itself.
    pub own: &'p [String],
    /// Whether only what befalls scripts of the board is asked for.
    pub of_board: bool,
    /// Its sheets; none where some could not be read.
    pub sheets: &'p dyn Fn() -> Option<Vec<Arc<StyleRules>>>,
}
