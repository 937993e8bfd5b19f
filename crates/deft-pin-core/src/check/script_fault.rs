//! What does not work out for a script on the timeline of a page.

use serde::Serialize;

use super::code::{Code, Severity};
use crate::script::{Certainty, HandedOver, RunFaultKind, When};
use crate::site::ImportFlawKind;
use crate::source::Span;

/// Something that does not work out for a step of a page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct StepFault {
    /// The step, by its place among the page's.
    pub step: usize,
    /// Where in its script.
    pub span: Span,
    /// How certain it is that the script comes there.
    pub certainty: Certainty,
    /// What. Other steps are named by their places.
    pub kind: FaultKind<usize>,
}

impl StepFault {
    /// Something that is wrong by itself, whether or not the script comes there.
    pub fn of(step: usize, span: Span, kind: FaultKind<usize>) -> Self {
        StepFault { step, span, certainty: Certainty::Certain, kind }
    }

    /// How much it weighs.
    pub fn severity(&self) -> Severity {
        self.kind.severity(self.certainty)
    }
}

/// What does not work out. `S` is what other steps are named by.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum FaultKind<S> {
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
        by: S,
    },
    /// A global that may be defined before it is read, or after.
    Race {
        /// Its name.
        name: String,
        /// The step that defines it.
        by: S,
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
        by: S,
        /// That name.
        name: String,
    },
    /// A global that something else defines too.
    Overwrites {
        /// Its name.
        name: String,
        /// What does.
        by: OtherDefiner<S>,
    },
    /// A name that a pin's script keeps to itself and the page asks for.
    Unshared {
        /// The name.
        name: String,
        /// What asks for it.
        by: Asker<S>,
    },
    /// A name that two scripts declare for the whole page, one of them for itself alone.
    DeclaredTwice {
        /// The name.
        name: String,
        /// The other script.
        by: S,
        /// Whether the other one comes first, so that this one does not run; else it is the other that does not.
        comes_first: bool,
    },
    /// A module cannot run for something in what it imports.
    Import {
        /// The module that it imports, in which that stands; none for itself.
        module: Option<String>,
        /// What is wrong there.
        kind: ImportFlawKind,
    },
    /// Something goes wrong where the script runs.
    Runs(RunFaultKind),
    /// A name that a script adds and nothing knows, near one that something does.
    UnknownName {
        /// The name, as in a selector.
        name: String,
        /// The one that is known.
        near: String,
        /// Whether a rule knows it; else an element has it.
        in_rule: bool,
    },
}

/// What else defines a global.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum OtherDefiner<S> {
    /// A step of the page.
    Step(S),
    /// Browsers have it by themselves.
    Browser,
}

/// What asks for a name.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
pub enum Asker<S> {
    /// A step of the page.
    Step(S),
    /// An event handler content attribute.
    EventHandler {
        /// Its name: `onclick`.
        attribute: String,
        /// Its line on the page.
        line: u32,
    },
}

impl<S> FaultKind<S> {
    /// The same, with other steps named otherwise.
    pub fn with_steps<T>(self, name_of: impl Fn(S) -> T) -> FaultKind<T> {
        match self {
            FaultKind::Missing { name, when, near } => FaultKind::Missing { name, when, near },
            FaultKind::Late { name, by } => FaultKind::Late { name, by: name_of(by) },
            FaultKind::Race { name, by } => FaultKind::Race { name, by: name_of(by) },
            FaultKind::Early { selector, line } => FaultKind::Early { selector, line },
            FaultKind::Lost { selector, when, name, near } => FaultKind::Lost { selector, when, name, near },
            FaultKind::Made { selector, by, name } => FaultKind::Made { selector, by: name_of(by), name },
            FaultKind::Overwrites { name, by } => FaultKind::Overwrites {
                name,
                by: match by {
                    OtherDefiner::Step(step) => OtherDefiner::Step(name_of(step)),
                    OtherDefiner::Browser => OtherDefiner::Browser,
                },
            },
            FaultKind::Unshared { name, by } => FaultKind::Unshared {
                name,
                by: match by {
                    Asker::Step(step) => Asker::Step(name_of(step)),
                    Asker::EventHandler { attribute, line } => Asker::EventHandler { attribute, line },
                },
            },
            FaultKind::UnknownName { name, near, in_rule } => FaultKind::UnknownName { name, near, in_rule },
            FaultKind::DeclaredTwice { name, by, comes_first } => {
                FaultKind::DeclaredTwice { name, by: name_of(by), comes_first }
            }
            FaultKind::Import { module, kind } => FaultKind::Import { module, kind },
            FaultKind::Runs(kind) => FaultKind::Runs(kind),
        }
    }

    /// The same without what differs from page to page where one thing is wrong: lines, and names
    /// that are near.
    pub(super) fn without_examples(self) -> Self {
        match self {
            FaultKind::Missing { name, when, .. } => FaultKind::Missing { name, when, near: None },
            FaultKind::Early { selector, .. } => FaultKind::Early { selector, line: 0 },
            FaultKind::Lost { selector, when, name, .. } => {
                FaultKind::Lost { selector, when, name, near: None }
            }
            FaultKind::Runs(RunFaultKind::EmptySet { selector, .. }) => {
                FaultKind::Runs(RunFaultKind::EmptySet { selector, near: None })
            }
            FaultKind::Runs(RunFaultKind::HandedOver { selector, to, how, .. }) => {
                FaultKind::Runs(RunFaultKind::HandedOver { selector, to, how, near: None })
            }
            FaultKind::Unshared { name, by: Asker::EventHandler { attribute, .. } } => {
                FaultKind::Unshared { name, by: Asker::EventHandler { attribute, line: 0 } }
            }
            other => other,
        }
    }

    /// How much it weighs, where the script comes there as certainly as that. Only what happens each time is an error.
    pub fn severity(&self, certainty: Certainty) -> Severity {
        match self {
            _ if certainty != Certainty::Certain => self.code().severity().min(Severity::Warning),
            FaultKind::Unshared { by: Asker::Step(_), .. } => Severity::Warning,
            FaultKind::Made { .. } => Severity::Note,
            FaultKind::Runs(RunFaultKind::Wipes) => Severity::Error,
            // A server may have what the folder of its pages has not.
            FaultKind::Runs(RunFaultKind::MissingFile { near: None, .. }) => Severity::Note,
            FaultKind::Runs(RunFaultKind::MissingFile { .. } | RunFaultKind::BareSpecifier { .. }) => {
                Severity::Warning
            }
            _ => self.code().severity(),
        }
    }

    /// What kind of finding it is.
    pub fn code(&self) -> Code {
        match self {
            FaultKind::Missing { .. } => Code::MissingLibrary,
            FaultKind::Late { .. } => Code::LateLibrary,
            FaultKind::Race { .. } => Code::Race,
            FaultKind::Early { .. } => Code::EarlyLookup,
            FaultKind::Lost { .. } | FaultKind::Made { .. } => Code::LostLookup,
            FaultKind::Overwrites { .. } => Code::Overwrites,
            FaultKind::UnknownName { .. } => Code::NameMismatch,
            FaultKind::Unshared { .. } => Code::NotShared,
            FaultKind::DeclaredTwice { .. } => Code::BadSyntax,
            FaultKind::Import { kind: ImportFlawKind::NotExported { .. }, .. } => Code::BadSyntax,
            FaultKind::Import { .. } => Code::MissingFile,
            FaultKind::Runs(kind) => code_of(kind),
        }
    }
}

/// What kind of finding something is that goes wrong where a script runs.
fn code_of(kind: &RunFaultKind) -> Code {
    match kind {
        RunFaultKind::NoElement { .. } | RunFaultKind::HandedOver { how: HandedOver::Nothing, .. } => {
            Code::LostLookup
        }
        RunFaultKind::EarlyElement { .. } | RunFaultKind::HandedOver { how: HandedOver::Early, .. } => {
            Code::EarlyLookup
        }
        RunFaultKind::NoGlobal { .. } => Code::MissingLibrary,
        RunFaultKind::Inside { kind } => code_of(kind),
        // A plugin that nothing brings.
        RunFaultKind::NoMember { of, .. } if of == "jQuery" => Code::MissingLibrary,
        RunFaultKind::NoMember { .. }
        | RunFaultKind::OfList { throws: true, .. }
        | RunFaultKind::ReadOnly { throws: true, .. }
        | RunFaultKind::NotAFunction { .. }
        | RunFaultKind::NoOwnMember { .. }
        | RunFaultKind::Nothing { .. }
        | RunFaultKind::Detached { .. }
        | RunFaultKind::RefusedArgument { .. }
        | RunFaultKind::TooFewArguments { .. }
        | RunFaultKind::Thrown
        | RunFaultKind::Mixed { .. }
        | RunFaultKind::NoSuper
        | RunFaultKind::EarlyThis
        | RunFaultKind::NoSemicolon { .. }
        | RunFaultKind::TooEarly { .. }
        | RunFaultKind::ConstantSet { .. } => Code::Throws,
        RunFaultKind::IgnoredMember { .. }
        | RunFaultKind::OfList { throws: false, .. }
        | RunFaultKind::ReadOnly { throws: false, .. }
        | RunFaultKind::VainArgument { .. }
        | RunFaultKind::Vain { .. }
        | RunFaultKind::Commas { .. }
        | RunFaultKind::EmptySet { .. }
        | RunFaultKind::HandedOver { .. }
        | RunFaultKind::CalledAtOnce { .. }
        | RunFaultKind::UnheardMember { .. }
        | RunFaultKind::NoDate { .. }
        | RunFaultKind::NoMonth { .. }
        | RunFaultKind::NotWritten
        | RunFaultKind::Wipes => Code::InVain,
        RunFaultKind::MissingFile { .. } | RunFaultKind::BareSpecifier { .. } => Code::MissingFile,
        RunFaultKind::NoCallback { .. } => Code::MissingLibrary,
        RunFaultKind::PastDate { .. } => Code::PastDate,
    }
}
