//! What a board says: the site, its libraries and its pins, with the places where it says so.

use std::collections::BTreeMap;

use super::host::Host;
use super::moment::Moment;
use super::pattern::PagePattern;
use super::spanned::{SelectorText, Spanned};
use super::start::{Once, Start};
use super::value::{Value, in_scope};
use crate::code::{Address, LibraryId, Owner, PinId, Table};
use crate::markup::{MarkupPlace, Slot};
use crate::source::{FilePath, SourceText, Span};
use crate::style::{Engines, Strength};

/// CSS and JavaScript that somebody else wrote.
#[derive(Clone, Debug)]
pub struct Library {
    /// The name that the board gives it.
    pub name: Spanned<String>,
    /// Its style sheets, in order.
    pub styles: Vec<Spanned<Address>>,
    /// Its scripts, in order.
    pub scripts: Vec<Spanned<Address>>,
    /// The libraries that come before it.
    pub needs: Vec<Spanned<LibraryId>>,
    /// Whether the board says what it needs, be it nothing.
    pub says_needs: bool,
    /// The globals that it defines, where the board says so.
    pub defines: Vec<String>,
    /// By what a page shows that it has a copy of it.
    pub present: Option<Spanned<SelectorText>>,
    /// What browsers hold files of other hosts against (Subresource Integrity), by their address.
    pub integrity: BTreeMap<String, String>,
    /// How its scripts of other hosts are loaded.
    pub load: ScriptLoad,
}

/// How a script of another host is loaded (HTML, "the `script` element").
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash, serde::Serialize, schemars::JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum ScriptLoad {
    /// The page waits for it.
    #[default]
    Blocking,
    /// The page goes on, and it runs as soon as it is there.
    Async,
    /// The page goes on, and it runs once all of it has been parsed.
    Defer,
}

impl ScriptLoad {
    /// All of them.
    pub const ALL: [ScriptLoad; 3] = [ScriptLoad::Blocking, ScriptLoad::Async, ScriptLoad::Defer];

    /// The name that boards use.
    pub fn name(self) -> &'static str {
        match self {
            ScriptLoad::Blocking => "blocking",
            ScriptLoad::Async => "async",
            ScriptLoad::Defer => "defer",
        }
    }

    /// The attribute that says so, with a blank before it.
    pub fn attribute(self) -> &'static str {
        match self {
            ScriptLoad::Blocking => "",
            ScriptLoad::Async => " async",
            ScriptLoad::Defer => " defer",
        }
    }
}

/// One customisation and its target.
#[derive(Debug)]
pub struct Pin {
    /// The name that the board gives it.
    pub name: Spanned<String>,
    /// The pages that it is for; none listed means every page.
    pub pages: Vec<Spanned<PagePattern>>,
    /// Pages that it is not for.
    pub skip: Vec<Spanned<PagePattern>>,
    /// What a page has to hold.
    pub having: Option<Spanned<SelectorText>>,
    /// What its CSS is confined to.
    pub within: Option<Spanned<SelectorText>>,
    /// Whether what it is confined to stands for the page in its CSS.
    pub as_page: bool,
    /// Its style sheet.
    pub style: Option<Spanned<FilePath>>,
    /// Whether its target's specificity is added to its CSS.
    pub strength: Strength,
    /// Names of its CSS that it shares with the page.
    pub share: Vec<String>,
    /// Classes and IDs that scripts add at run time, as its author says.
    pub adds: Vec<String>,
    /// Its script.
    pub script: Option<Spanned<FilePath>>,
    /// The libraries that it needs.
    pub needs: Vec<Spanned<LibraryId>>,
    /// The pins that come before it.
    pub after: Vec<Spanned<PinId>>,
    /// What it is held to.
    pub expect: Expect,
    /// Where its script stands.
    pub slot: Spanned<Slot>,
    /// HTML that it puts into pages, in order.
    pub markup: Vec<Markup>,
    /// Names and attributes that it gives to elements of pages.
    pub marks: Vec<Mark>,
    /// When it begins.
    pub start: Spanned<Start<SelectorText>>,
    /// How often it begins.
    pub once: Option<Spanned<Once>>,
    /// Before that it does not begin.
    pub from: Option<Spanned<Moment>>,
    /// After that it does not begin any more.
    pub until: Option<Spanned<Moment>>,
    /// Its own values.
    pub values: Vec<Value>,
    /// Names of values that its texts on the board have.
    pub used_values: Vec<String>,
    /// Codes of findings about it that have been answered.
    pub accept: Vec<Spanned<String>>,
    /// Whether it is left out.
    pub off: bool,
}

/// HTML that a pin puts into pages.
#[derive(Clone, Debug)]
pub struct Markup {
    /// Where it is written.
    pub source: MarkupSource,
    /// Where it stands, as seen from an element.
    pub place: MarkupPlace,
    /// The element; none for the pin's target.
    pub at: Option<Spanned<SelectorText>>,
    /// Its table on the board.
    pub span: Span,
}

/// Where markup is written.
#[derive(Clone, Debug)]
pub enum MarkupSource {
    /// In a file beside the board.
    File(Spanned<FilePath>),
    /// On the board itself.
    Text(Spanned<String>),
}

/// What a pin gives to elements of pages.
#[derive(Clone, Debug)]
pub struct Mark {
    /// The elements; none for the pin's target.
    pub at: Option<Spanned<SelectorText>>,
    /// An ID.
    pub id: Option<Spanned<String>>,
    /// Classes.
    pub classes: Vec<Spanned<String>>,
    /// Other attributes with their values.
    pub attributes: Vec<(Spanned<String>, Spanned<String>)>,
    /// Its table on the board.
    pub span: Span,
}

/// What a pin is held to.
#[derive(Clone, Debug, Default)]
pub struct Expect {
    /// On how many pages it is.
    pub pages: Option<Spanned<usize>>,
    /// How many elements it touches on each page.
    pub elements: Option<Spanned<usize>>,
}

/// A whole board, checked.
#[derive(Debug)]
pub struct Board {
    /// The board's own file.
    pub file: FilePath,
    /// The board's own text, for showing places in it.
    pub text: SourceText,
    /// The folder of the site, as seen from the board.
    pub root: Spanned<FilePath>,
    /// What counts as a section of a page, where the site has its own way.
    pub section: Option<Spanned<SelectorText>>,
    /// Functions and queues that tell other services what visitors do.
    pub trackers: Vec<Spanned<String>>,
    /// The policy that the site is served with (Content Security Policy).
    pub policy: Option<Spanned<String>>,
    /// The engines that count.
    pub engines: Engines,
    /// What the place that serves the site accepts.
    pub host: Host,
    /// Values for all pins.
    pub values: Vec<Value>,
    /// Codes of findings that have been answered, whichever pin they are about.
    pub accept: Vec<Spanned<String>>,
    /// The libraries, as the board lists them.
    pub libraries: Table<LibraryId, Library>,
    /// The pins, as the board lists them.
    pub pins: Table<PinId, Pin>,
}

impl Pin {
    /// Whether it is for some of the pages alone.
    pub fn is_for_some_pages(&self) -> bool {
        !self.pages.is_empty() || !self.skip.is_empty() || self.having.is_some()
    }

    /// Whether a page is among its pages by its address, whether the pin is on or off.
    pub fn is_for_url(&self, url: &url::Url) -> bool {
        (self.pages.is_empty() || self.pages.iter().any(|pattern| pattern.matches_url(url)))
            && !self.skip.iter().any(|pattern| pattern.matches_url(url))
    }

    /// Whether something has to run before it begins: it begins later than the page is read, or not always.
    pub fn waits_to_begin(&self) -> bool {
        self.start.is_later() || self.once.is_some() || self.from.is_some() || self.until.is_some()
    }
}

impl Board {
    /// The board of a site that nobody customises: it has no pins and no libraries.
    pub fn bare(root: FilePath) -> Self {
        Board {
            file: FilePath::root(),
            text: SourceText::default(),
            root: Spanned { value: root, span: Span::default() },
            section: None,
            trackers: Vec::new(),
            policy: None,
            engines: Engines::ALL,
            host: Host::default(),
            values: Vec::new(),
            accept: Vec::new(),
            libraries: Table::default(),
            pins: Table::default(),
        }
    }

    /// The pins that are not left out, as the board lists them.
    pub fn active_pins(&self) -> impl DoubleEndedIterator<Item = (PinId, &Pin)> + Clone {
        self.pins.entries().filter(|(_, pin)| !pin.off)
    }

    /// The values that a pin sees: its own, and those of the board that it has none of its own for.
    pub fn values_of<'b>(&'b self, pin: &'b Pin) -> Vec<&'b Value> {
        in_scope(&pin.values, &self.values)
    }

    /// The name that the board gives a pin or a library.
    pub fn name_of(&self, owner: Owner) -> &str {
        match owner {
            Owner::Library(library) => &self.libraries[library].name,
            Owner::Pin(pin) => &self.pins[pin].name,
        }
    }
}
