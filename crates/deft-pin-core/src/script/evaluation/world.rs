//! What a script runs in: the page, and what other scripts do there.

use super::codes::Code;
use super::value::Certainty;
use crate::markup::{Document, NamedPart, NodeId, SelectorList};
use crate::script::program::{SketchedGlobal, Variable};
use crate::source::Day;

/// What is known of a global that neither browsers have nor the script makes.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum GlobalState {
    /// It is there.
    There,
    /// It is not there.
    Absent,
    /// It is an element of that ID.
    Element(NodeId),
    /// It will be an element of that ID, which is not parsed yet.
    EarlyElement,
    /// It may be there, or come too late.
    Perhaps,
    /// It is jQuery.
    Query,
    /// Nobody can tell.
    Unknown,
}

/// What a script has as `root`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Root {
    /// It has none: it is no pin's.
    None,
    /// The document.
    Document,
    /// One of the elements that it is for.
    Element(NodeId),
}

/// What is known of a file that a script asks for.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AskedFile {
    /// It is there, or nobody can tell.
    MayBeThere,
    /// It is neither a file of the site nor one that goes along.
    Missing {
        /// One that there is, of nearly that name, as the script would have to write it.
        near: Option<String>,
    },
}

/// What comes of `document.write()`.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Writing {
    /// It stands where the script stands.
    IntoPage,
    /// It takes the place of the whole page.
    Wipes(Certainty),
    /// Nothing: scripts that do not hold up the parser may not write.
    Ignored,
}

/// What a script runs in.
pub trait World {
    /// The page as it is served.
    fn document(&self) -> &Document;

    /// Its path; none where that is not known.
    fn path(&self) -> Option<&str>;

    /// The byte of the page's text up to which it is parsed while the script runs from top to bottom; none where all
    /// of it is.
    fn parsed_until(&self) -> Option<u32>;

    /// What comes of `document.write()` while the script runs from top to bottom.
    fn writing(&self) -> Writing;

    /// What is known of a global, at once or later.
    fn global(&self, name: &str, is_later: bool) -> GlobalState;

    /// Whether another script defines a global, or may.
    fn is_defined(&self, name: &str) -> bool;

    /// Whether another script defines a global whatever is there already.
    fn is_made(&self, name: &str) -> bool;

    /// What a global is that another script defines; none where that cannot be told.
    fn sketch(&self, name: &str) -> Option<SketchedGlobal>;

    /// What a variable is of a script of the page, by the number of its program, whenever it is asked for; none where that
    /// cannot be told.
    fn variable(&self, program: u32, variable: Variable) -> Option<SketchedGlobal>;

    /// The code of another script, by the number of its program; none where it is not to be run.
    fn code(&self, program: u32) -> Option<Code<'_>>;

    /// Whether a global of another script is no member of `window`: it is declared with `let`, `const` or `class`
    /// (ECMA-262, "Global Environment Records").
    fn is_lexical(&self, name: &str) -> bool;

    /// Whether an element of the page has a name.
    fn has_name(&self, name: &NamedPart) -> bool;

    /// Whether another script of the page has a name anywhere: it may set a member of that name.
    fn mentions(&self, name: &str) -> bool;

    /// Whether another script of the page sets a member of that name of something.
    fn sets_member(&self, name: &str) -> bool;

    /// Whether another script has a name, of those that do something by themselves: jQuery does what it is told alone.
    fn acts_with(&self, name: &str) -> bool;

    /// Whether a text stands in another script of the page.
    fn has_text(&self, text: &str) -> bool;

    /// Whether another script gives a member of that name to a prototype: whether `is_it` says so of the name before
    /// one, `Array` of `Array.prototype.first`.
    fn gives_member(&self, name: &str, is_it: &dyn Fn(&str) -> bool) -> bool;

    /// For a name that stands nowhere on the page, nor in any other script of it: one of nearly that spelling in
    /// one of these, if there is one. None where it stands somewhere, or there are scripts that could not be looked
    /// into.
    fn near_word(&self, name: &str) -> Option<Option<String>>;

    /// Whether another script may bring in an element that a selector finds, or change those that it finds.
    fn may_be_made(&self, selectors: &SelectorList, is_later: bool) -> bool;

    /// Whether each script of the page could be looked into.
    fn knows_all(&self) -> bool;

    /// Whether the page has an import map.
    fn has_import_map(&self) -> bool;

    /// What is known of the file that an address of the script means.
    fn asked_file(&self, address: &str) -> AskedFile;

    /// The day that the visit is on; none where that is not asked.
    fn today(&self) -> Option<Day>;

    /// Whether it is the first time that the script runs on the page: it runs once for each element that it is for.
    fn is_first_run(&self) -> bool;

    /// What the script has as `root`.
    fn root(&self) -> Root;
}
