//! What is known of a script by its text.

use super::added::AddedName;
use super::modules::{ModuleExports, ModuleImport};
use super::outside::Outside;
use super::personal::Given;
use super::syntax::ScriptFlaw;
use crate::source::Span;

/// When a piece of a script runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum When {
    /// While the script runs from top to bottom.
    Now,
    /// That cannot be told.
    Perhaps,
    /// After it: in a listener, a timer, a promise.
    Later,
}

impl When {
    /// The name that answers use.
    pub fn name(self) -> &'static str {
        match self {
            When::Now => "now",
            When::Perhaps => "perhaps",
            When::Later => "later",
        }
    }
}

/// An event that tells how far a page is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PageEvent {
    /// `DOMContentLoaded`: it is parsed, and its deferred scripts have run.
    Parsed,
    /// `load`: its images and sheets are there as well.
    Loaded,
}

impl PageEvent {
    /// Its name in the DOM.
    pub fn name(self) -> &'static str {
        match self {
            PageEvent::Parsed => "DOMContentLoaded",
            PageEvent::Loaded => "load",
        }
    }
}

/// A global that a script defines or reads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GlobalUse {
    /// Its name.
    pub name: String,
    /// Where, at first.
    pub span: Span,
    /// When, at the earliest.
    pub when: When,
    /// For one that is read: whether the script copes without it, everywhere. For one that is
    /// defined: whether it is left alone where it is there already.
    pub guarded: bool,
    /// For one that is defined later: whether that waits for an event or a timer for certain, and is
    /// not in a function that another script may call at any time.
    pub scheduled: bool,
}

/// Elements that a script looks up in the page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LookUp {
    /// By what: a selector, of an ID for `getElementById`.
    pub selector: String,
    /// Where.
    pub span: Span,
    /// When.
    pub when: When,
    /// Whether the script copes with nothing being found.
    pub guarded: bool,
}

/// A name that a classic script declares at its top level, for all scripts of the page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Declared {
    /// The name.
    pub name: String,
    /// Where.
    pub span: Span,
    /// Whether it is declared by `let`, `const` or `class`: no other script may declare it then.
    pub is_lexical: bool,
}

/// What a script's text says of it.
#[derive(Clone, Debug, Default)]
pub struct ScriptFacts {
    /// The globals that it defines.
    pub defines: Vec<GlobalUse>,
    /// What it declares at its top level for all scripts of the page.
    pub declares: Vec<Declared>,
    /// The globals that it reads, and neither browsers have nor it defines before.
    pub reads: Vec<GlobalUse>,
    /// The elements that it looks up.
    pub looks_up: Vec<LookUp>,
    /// Where it uses the body while it runs, without asking whether it is there.
    pub needs_body: Option<Span>,
    /// The names that it adds.
    pub adds: Vec<AddedName>,
    /// What it hands to functions that says of itself that it is about a person.
    pub gives: Vec<Given>,
    /// What it loads from other hosts.
    pub outside: Vec<Outside>,
    /// Whether it does something to the page by itself, with nobody calling it.
    pub acts: bool,
    /// Whether a module waits at its top level.
    pub awaits: bool,
    /// What a module takes from others.
    pub imports: Vec<ModuleImport>,
    /// What a module gives to others.
    pub exports: ModuleExports,
    /// The names at the top level of a confined script that stay in it.
    pub keeps: Vec<(String, Span)>,
    /// The events of the page as a whole that it waits for, so that it misses what is past.
    pub listens: Vec<PageEvent>,
    /// When it puts other scripts into the page, which nobody can know of here: *perhaps* where it is in a
    /// function that others may call.
    pub inserts_scripts: Option<When>,
    /// What keeps it from running, or from being read.
    pub flaws: Vec<ScriptFlaw>,
}

impl ScriptFacts {
    /// Whether nothing is known of the script, which a browser may run all the same.
    pub fn is_unread(&self) -> bool {
        self.flaws.iter().any(|flaw| flaw.is_too_much)
    }
}
