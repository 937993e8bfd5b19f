//! The codes of findings: what kind of thing each says, its name, and how much it weighs.

use std::fmt;
use std::str::FromStr;

use serde::{Serialize, Serializer};

/// How much a finding weighs.
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

macro_rules! codes {
    ($($(#[$doc:meta])* $code:ident = $name:literal, $severity:ident;)*) => {
        /// What kind of thing a finding says. `docs/findings.md` has each with an example.
        #[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
        pub enum Code {
            $($(#[$doc])* $code,)*
        }

        impl Code {
            /// Every code.
            pub const ALL: &[Code] = &[$(Code::$code,)*];

            /// The name that answers and documents use.
            pub fn name(self) -> &'static str {
                match self {
                    $(Code::$code => $name,)*
                }
            }

            /// How much a finding of this code weighs, where nothing makes it lighter.
            pub fn severity(self) -> Severity {
                match self {
                    $(Code::$code => Severity::$severity,)*
                }
            }
        }
    };
}

codes! {
    /// An entry of `accept` answers no finding.
    AnswersNothing = "answers-nothing", Warning;
    /// A selector waits for a name that a script adds.
    AtRunTime = "at-run-time", Note;
    /// A query of an at-rule never holds.
    BadQuery = "bad-query", Error;
    /// A script does not parse.
    BadSyntax = "bad-syntax", Error;
    /// A selector is not valid.
    BadSelector = "bad-selector", Error;
    /// A declaration of a pin wins nowhere.
    Beaten = "beaten", Error;
    /// A selector leans on a name that a machine made, or on a position.
    BrittleTarget = "brittle-target", Warning;
    /// Something that is no CSS stands in a sheet.
    ForeignText = "foreign-text", Error;
    /// A file is in another encoding than UTF-8.
    BadEncoding = "bad-encoding", Error;
    /// Pins or libraries that come after each other in a circle.
    Cycle = "cycle", Error;
    /// A browser drops something without a word.
    DroppedDeclaration = "dropped-declaration", Error;
    /// An element is looked up before it is there.
    EarlyLookup = "early-lookup", Error;
    /// A script stands in an earlier slot than what it comes after.
    EarlySlot = "early-slot", Error;
    /// A rule matches outside of the target alone, so that the fence leaves nothing of it.
    EmptyFence = "empty-fence", Error;
    /// A font is used that nothing loads.
    FontNotLoaded = "font-not-loaded", Warning;
    /// A global is defined after it is read.
    LateLibrary = "late-library", Error;
    /// A name that a sheet defines for the whole page is one of the site's.
    Leak = "leak", Warning;
    /// An element is looked up that is not there.
    LostLookup = "lost-lookup", Error;
    /// The target is an ID that a page has more than once.
    ManyElements = "many-elements", Warning;
    /// A file that the board names is not there.
    MissingFile = "missing-file", Error;
    /// A global is read that nothing on the page defines.
    MissingLibrary = "missing-library", Error;
    /// A list of fonts ends without a generic family.
    NoFallbackFont = "no-fallback-font", Warning;
    /// A pin brings in a name that the site has already.
    NameTaken = "name-taken", Warning;
    /// A declaration is important and need not be.
    NeedlessImportant = "needless-important", Note;
    /// A declaration sets what holds already.
    NoChange = "no-change", Note;
    /// A declaration wins and does nothing on what it is for.
    NoEffect = "no-effect", Warning;
    /// A target matches nothing on a page.
    NoElement = "no-element", Error;
    /// Some of the engines that count drop what others take.
    NotEverywhere = "not-everywhere", Warning;
    /// A selector of a pin's sheet matches nothing on any page.
    NoMatch = "no-match", Error;
    /// A pattern matches no page.
    NoPage = "no-page", Error;
    /// What no box of the host can hold, or bring to where it is meant for.
    OutOfReach = "out-of-reach", Error;
    /// A piece is longer than its box takes.
    TooLong = "too-long", Error;
    /// What does not survive in the boxes of the host.
    Stripped = "stripped", Error;
    /// The host makes another name of a class.
    Rewritten = "rewritten", Error;
    /// A name that the host's own code uses.
    ReservedName = "reserved-name", Warning;
    /// An order that would hold in the page's slots does not in the boxes of the host.
    LateBox = "late-box", Error;
    /// A page has nothing that tells it from the others where one text stands on all of them.
    PageApart = "page-apart", Note;
    /// A page has no place for a slot.
    NoSlot = "no-slot", Error;
    /// Something in a sheet would reach past the target.
    NotConfined = "not-confined", Error;
    /// A declaration of a pin loses on some of what it is for.
    PartlyBeaten = "partly-beaten", Warning;
    /// A script is too much to be read.
    Unread = "unread", Error;
    /// A date is past that something runs out at.
    PastDate = "past-date", Warning;
    /// Two pins set the same property of the same element.
    PinClash = "pin-clash", Warning;
    /// A selector matches on some of the pages only.
    PartlyMatched = "partly-matched", Note;
    /// A global may be defined before it is read, or after.
    Race = "race", Warning;
    /// A pin hides an element that nothing shows again.
    StaysHidden = "stays-hidden", Note;
    /// A script throws, and stops there.
    Throws = "throws", Error;
    /// Something that a script does, and nothing comes of.
    InVain = "in-vain", Warning;
    /// A pin is on other pages, or touches other numbers of elements, than it expects.
    TooWide = "too-wide", Error;
    /// What stays in view is covered by something else.
    Under = "under", Note;
    /// A page's policy stops what is put in.
    BlockedByPolicy = "blocked-by-policy", Error;
    /// Something is loaded from another host.
    ForeignAsset = "foreign-asset", Note;
    /// A need that the board does not say.
    InferredNeed = "inferred-need", Note;
    /// A name that the page gets from a pin's script, which the board does not say.
    InferredShare = "inferred-share", Note;
    /// A script adds a name that nothing knows.
    NameMismatch = "name-mismatch", Warning;
    /// A file of another host is held against nothing.
    NoIntegrity = "no-integrity", Warning;
    /// A global is somebody else's.
    Overwrites = "overwrites", Warning;
    /// Something about a person is handed to what measures visits.
    PersonalData = "personal-data", Warning;
    /// Something is asked for over plain HTTP.
    PlainHttp = "plain-http", Warning;
    /// A page gets the same twice.
    Twice = "twice", Warning;
    /// No rule of a library's sheet matches.
    UnusedStyle = "unused-style", Warning;
    /// The page asks for a name that a pin's script keeps to itself.
    NotShared = "not-shared", Error;
    /// A library reads what another one defines that needs it.
    NeedsCycle = "needs-cycle", Error;
    /// Keyframes or a custom property are used that nothing sets.
    UnsetName = "unset-name", Error;
    /// Markup that a browser reads otherwise than it is written.
    BadMarkup = "bad-markup", Error;
    /// A value is not what it is said to be.
    BadValue = "bad-value", Error;
    /// A list has another number of entries than there are elements.
    CountDiffers = "count-differs", Error;
    /// An ID is there more than once with what a pin brings.
    DuplicateId = "duplicate-id", Error;
    /// Markup or a mark is put in at several elements of a page.
    ManyPlaces = "many-places", Note;
    /// A pin never begins.
    NeverStarts = "never-starts", Error;
    /// There is no element for markup or a mark.
    NoPlace = "no-place", Error;
    /// A number or a colour stands in several files of a pin.
    SameNumber = "same-number", Note;
    /// What a start waits for is there already.
    StartsAtOnce = "starts-at-once", Note;
    /// The element that is to get an ID has another one.
    TakenId = "taken-id", Error;
    /// Something has not been filled in.
    Unfilled = "unfilled", Error;
    /// Nothing names a value.
    UnusedValue = "unused-value", Warning;
    /// A library that nothing needs, or nothing uses.
    UnusedLibrary = "unused-library", Warning;
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
