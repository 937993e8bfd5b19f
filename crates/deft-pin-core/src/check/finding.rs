//! A finding: one thing that a check has to say.

use std::fmt;
use std::str::FromStr;

use serde::{Serialize, Serializer};

use crate::site::PagePath;
use crate::source::{FilePath, Position, SourceText, Span};

/// Execution much a finding weighs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize)]
#[serde(rename_all = "lowercase")]
pub enum Severity {
    /// Worth knowing; nothing is wrong.
    Note,
    /// Most likely not what was meant.
    Warning,
    /// Something will not happen that was meant to, or happens where it was not.
    Error,
}

impl Severity {
    /// The word for it.
    pub fn name(self) -> &'static str {
        match self {
            Severity::Note => "note",
            Severity::Warning => "warning",
            Severity::Error => "error",
        }
    }
}

impl fmt::Display for Severity {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl FromStr for Severity {
    type Err = String;

    fn from_str(name: &str) -> Result<Self, String> {
        let all = [Severity::Note, Severity::Warning, Severity::Error];
        all.into_iter()
            .find(|severity| severity.name() == name)
            .ok_or_else(|| format!("there is no severity `{name}`"))
    }
}

/// What kind of thing a finding says. `docs/findings.md` has each with an example.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Code {
    /// A selector waits for a name that a script adds.
    AtRunTime,
    /// A script does not parse.
    BadSyntax,
    /// A selector is not valid.
    BadSelector,
    /// A declaration of a pin wins nowhere.
    Beaten,
    /// A selector leans on a name that a machine made, or on a position.
    BrittleTarget,
    /// A file is in another encoding than UTF-8.
    BadEncoding,
    /// Pins or libraries that come after each other in a circle.
    Cycle,
    /// A browser drops something without a word.
    DroppedDeclaration,
    /// An element is looked up before it is there.
    EarlyLookup,
    /// A script stands in an earlier slot than what it comes after.
    EarlySlot,
    /// A rule matches outside of the target alone, so that the fence leaves nothing of it.
    EmptyFence,
    /// A font is used that nothing loads.
    FontNotLoaded,
    /// A global is defined after it is read.
    LateLibrary,
    /// A name that a sheet defines for the whole page is one of the site's.
    Leak,
    /// An element is looked up that is not there.
    LostLookup,
    /// The target is an ID that a page has more than once.
    ManyElements,
    /// A file that the board names is not there.
    MissingFile,
    /// A global is read that nothing on the page defines.
    MissingLibrary,
    /// A list of fonts ends without a generic family.
    NoFallbackFont,
    /// A pin brings in a name that the site has already.
    NameTaken,
    /// A declaration is important and need not be.
    NeedlessImportant,
    /// A declaration sets what holds already.
    NoChange,
    /// A target matches nothing on a page.
    NoElement,
    /// A selector of a pin's sheet matches nothing on any page.
    NoMatch,
    /// A pattern matches no page.
    NoPage,
    /// A page has nothing that tells it from the others where one text stands on all of them.
    PageApart,
    /// A page has no place for a slot.
    NoSlot,
    /// Something in a sheet would reach past the target.
    NotConfined,
    /// A declaration of a pin loses on some of what it is for.
    PartlyBeaten,
    /// Two pins set the same property of the same element.
    PinClash,
    /// A selector matches on some of the pages only.
    PartlyMatched,
    /// A global may be defined before it is read, or after.
    Race,
    /// A pin hides an element that nothing shows again.
    StaysHidden,
    /// A pin is on other pages, or touches other numbers of elements, than it expects.
    TooWide,
    /// What stays in view is covered by something else.
    Under,
    /// A page's policy stops what is put in.
    BlockedByPolicy,
    /// Something is loaded from another host.
    ForeignAsset,
    /// A need that the board does not say.
    InferredNeed,
    /// A script adds a name that nothing knows.
    NameMismatch,
    /// A file of another host is held against nothing.
    NoIntegrity,
    /// A global is somebody else's.
    Overwrites,
    /// Something about a person is handed to what measures visits.
    PersonalData,
    /// Something is asked for over plain HTTP.
    PlainHttp,
    /// A page gets the same twice.
    Twice,
    /// No rule of a library's sheet matches.
    UnusedStyle,
    /// The page asks for a name that a pin's script keeps to itself.
    NotShared,
    /// A library reads what another one defines that needs it.
    NeedsCycle,
    /// A library that nothing needs, or nothing uses.
    UnusedLibrary,
}

impl Code {
    /// Every code.
    pub const ALL: [Code; 48] = [
        Code::AtRunTime,
        Code::BadSyntax,
        Code::BadSelector,
        Code::Beaten,
        Code::BrittleTarget,
        Code::BadEncoding,
        Code::Cycle,
        Code::DroppedDeclaration,
        Code::EarlyLookup,
        Code::EarlySlot,
        Code::EmptyFence,
        Code::FontNotLoaded,
        Code::LateLibrary,
        Code::Leak,
        Code::LostLookup,
        Code::ManyElements,
        Code::MissingFile,
        Code::MissingLibrary,
        Code::NoFallbackFont,
        Code::NameTaken,
        Code::NeedlessImportant,
        Code::NoChange,
        Code::NoElement,
        Code::NoMatch,
        Code::NoPage,
        Code::NoSlot,
        Code::PageApart,
        Code::NotConfined,
        Code::PartlyBeaten,
        Code::PinClash,
        Code::PartlyMatched,
        Code::Race,
        Code::StaysHidden,
        Code::TooWide,
        Code::Under,
        Code::BlockedByPolicy,
        Code::ForeignAsset,
        Code::InferredNeed,
        Code::NameMismatch,
        Code::NoIntegrity,
        Code::Overwrites,
        Code::PersonalData,
        Code::PlainHttp,
        Code::Twice,
        Code::UnusedStyle,
        Code::NotShared,
        Code::NeedsCycle,
        Code::UnusedLibrary,
    ];

    /// The name that answers and documents use.
    pub fn name(self) -> &'static str {
        match self {
            Code::AtRunTime => "at-run-time",
            Code::EmptyFence => "empty-fence",
            Code::FontNotLoaded => "font-not-loaded",
            Code::NoFallbackFont => "no-fallback-font",
            Code::StaysHidden => "stays-hidden",
            Code::NameTaken => "name-taken",
            Code::EarlyLookup => "early-lookup",
            Code::LateLibrary => "late-library",
            Code::LostLookup => "lost-lookup",
            Code::MissingLibrary => "missing-library",
            Code::Race => "race",
            Code::Under => "under",
            Code::BadSyntax => "bad-syntax",
            Code::BadSelector => "bad-selector",
            Code::BrittleTarget => "brittle-target",
            Code::Beaten => "beaten",
            Code::NeedlessImportant => "needless-important",
            Code::NoChange => "no-change",
            Code::PartlyBeaten => "partly-beaten",
            Code::PinClash => "pin-clash",
            Code::Leak => "leak",
            Code::TooWide => "too-wide",
            Code::PageApart => "page-apart",
            Code::BadEncoding => "bad-encoding",
            Code::Cycle => "cycle",
            Code::DroppedDeclaration => "dropped-declaration",
            Code::EarlySlot => "early-slot",
            Code::ManyElements => "many-elements",
            Code::MissingFile => "missing-file",
            Code::NoElement => "no-element",
            Code::NoMatch => "no-match",
            Code::NoPage => "no-page",
            Code::NoSlot => "no-slot",
            Code::NotConfined => "not-confined",
            Code::PartlyMatched => "partly-matched",
            Code::BlockedByPolicy => "blocked-by-policy",
            Code::ForeignAsset => "foreign-asset",
            Code::InferredNeed => "inferred-need",
            Code::NameMismatch => "name-mismatch",
            Code::NoIntegrity => "no-integrity",
            Code::Overwrites => "overwrites",
            Code::PersonalData => "personal-data",
            Code::PlainHttp => "plain-http",
            Code::Twice => "twice",
            Code::UnusedStyle => "unused-style",
            Code::NotShared => "not-shared",
            Code::NeedsCycle => "needs-cycle",
            Code::UnusedLibrary => "unused-library",
        }
    }
}

impl fmt::Display for Code {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(self.name())
    }
}

impl Serialize for Code {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(self.name())
    }
}

/// A place in a file beside the board.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Place {
    /// The file, as seen from the board.
    pub file: FilePath,
    /// The bytes of its text.
    pub span: Span,
    /// Where the span starts.
    pub start: Position,
    /// Where it ends.
    pub end: Position,
}

impl Place {
    /// A span of a text that is in a file.
    pub fn new(file: &FilePath, text: &SourceText, span: Span) -> Self {
        let file = text.file(span.start).unwrap_or(file).clone();
        let (start, end) = (text.position(span.start), text.position(span.end));
        Place { file, span: text.own_span(span), start, end }
    }
}

/// Another place that a finding is about.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Related {
    /// What is there.
    pub message: String,
    /// Where.
    pub place: Place,
}

/// One thing to say: what is wrong, where, what follows from it, and what to do.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Finding {
    /// What kind of thing.
    pub code: Code,
    /// Execution much it weighs.
    pub severity: Severity,
    /// What is wrong, and what follows from it on the page.
    pub message: String,
    /// What to do.
    pub help: Option<String>,
    /// The pin that it is about.
    pub pin: Option<String>,
    /// Where.
    pub place: Place,
    /// The pages that it concerns.
    pub pages: Vec<PagePath>,
    /// Other places.
    pub related: Vec<Related>,
}

impl Finding {
    pub(super) fn new(code: Code, severity: Severity, place: Place, message: impl Into<String>) -> Self {
        Finding {
            code,
            severity,
            message: message.into(),
            help: None,
            pin: None,
            place,
            pages: Vec::new(),
            related: Vec::new(),
        }
    }

    pub(super) fn help(mut self, help: impl Into<String>) -> Self {
        self.help = Some(help.into());
        self
    }

    pub(super) fn pin(mut self, pin: &str) -> Self {
        self.pin = Some(pin.to_owned());
        self
    }

    pub(super) fn pages(mut self, pages: Vec<PagePath>) -> Self {
        self.pages = pages;
        self
    }

    pub(super) fn related(mut self, message: impl Into<String>, place: Place) -> Self {
        self.related.push(Related { message: message.into(), place });
        self
    }
}

/// `1 page`, `2 pages`.
pub(super) fn counted(count: usize, one: &str, many: &str) -> String {
    format!("{count} {}", if count == 1 { one } else { many })
}

/// "on all 4 pages", "on 2 of 4 pages", "on `/fares/`".
pub(super) fn share(some: &[PagePath], all: usize) -> String {
    match (some.len(), all) {
        (1, 1) => format!("on `{}`, its only page", some[0]),
        (1, all) => format!("on `{}`, one of its {all} pages", some[0]),
        (some, all) if some == all => format!("on all of its {all} pages"),
        (some, all) => format!("on {some} of its {all} pages"),
    }
}
