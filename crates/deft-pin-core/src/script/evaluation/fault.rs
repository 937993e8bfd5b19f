//! What goes wrong where a script runs.

use super::value::Certainty;
use crate::source::Span;

/// Something that goes wrong where a script runs.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct RunFault {
    /// Where.
    pub span: Span,
    /// How certain it is that the script comes there.
    pub certainty: Certainty,
    /// Whether it comes there once it has run from top to bottom: in a listener, a timer, a promise.
    pub is_later: bool,
    /// What.
    pub kind: RunFaultKind,
}

/// What a function of another script is given in place of an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum HandedOver {
    /// `null`, since nothing was found.
    Nothing,
    /// `null`, since the element is parsed later.
    Early,
    /// A selector that finds nothing.
    Selector,
    /// A word, which is nearly an ID.
    Name,
}

/// What goes wrong.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum RunFaultKind {
    /// An element that is used was looked up and is not there.
    NoElement {
        /// By what.
        selector: String,
    },
    /// An element that is used was looked up before it is parsed.
    EarlyElement {
        /// By what.
        selector: String,
    },
    /// A global that is used is not there.
    NoGlobal {
        /// Its name.
        name: String,
    },
    /// A member that is called does not exist: the call throws.
    NoMember {
        /// What it was asked of: the name of an interface.
        of: String,
        /// Its name.
        name: String,
        /// A member that it has, of nearly that name.
        near: Option<String>,
    },
    /// A value is given to a member that does not exist: nothing comes of it.
    IgnoredMember {
        /// What it was given to: the name of an interface.
        of: String,
        /// Its name.
        name: String,
        /// A member that it has, of nearly that name.
        near: String,
    },
    /// A member is set that cannot be set.
    ReadOnly {
        /// What it is a member of: the name of an interface, `freeze` for an object that is frozen, nothing for one
        /// that has a getter alone.
        of: String,
        /// Its name.
        name: String,
        /// Whether that throws: it does in strict code.
        throws: bool,
    },
    /// A member of one element is asked of a list of elements.
    OfList {
        /// The name of the list's interface.
        of: String,
        /// The member.
        name: String,
        /// Whether that throws.
        throws: bool,
    },
    /// What is called is no function.
    NotAFunction {
        /// What, as the script has it.
        what: String,
    },
    /// A line is read on with the next, since no `;` ends it; what comes out throws.
    NoSemicolon {
        /// The end of the line.
        before: String,
    },
    /// An object of a script has no member of that name, and one of nearly that.
    NoOwnMember {
        /// The member, as the script has it.
        what: String,
        /// The name that there is.
        near: String,
        /// Whether it is called.
        is_called: bool,
    },
    /// Something is asked of what has no value.
    Nothing {
        /// What, as the script has it.
        what: String,
    },
    /// Something does nothing.
    Vain {
        /// What, in words.
        says: String,
        /// What to write.
        write: Option<String>,
    },
    /// A list of markup becomes a text, with commas in it.
    Commas {
        /// The list, as it is written.
        list: String,
    },
    /// A method of the platform is called on something else than it is for.
    Detached {
        /// Its name.
        name: String,
    },
    /// An argument that the platform refuses: the call throws.
    RefusedArgument {
        /// The method.
        method: String,
        /// What it was given.
        given: String,
        /// What it takes.
        takes: String,
        /// What to write.
        write: Option<String>,
    },
    /// A call with fewer arguments than it needs: it throws.
    TooFewArguments {
        /// The method.
        method: String,
        /// So many it needs.
        takes: usize,
        /// So many it is given.
        given: usize,
    },
    /// An argument by which nothing can be found or done.
    VainArgument {
        /// The method.
        method: String,
        /// What it was given.
        given: String,
        /// What it takes.
        takes: String,
        /// What to write.
        write: Option<String>,
    },
    /// Values of kinds that cannot be put together.
    Mixed {
        /// In words.
        what: String,
    },
    /// A variable is used before it is set.
    TooEarly {
        /// Its name.
        name: String,
    },
    /// A constant is set again.
    ConstantSet {
        /// Its name.
        name: String,
    },
    /// What a set of elements is asked to do is done to none of them.
    EmptySet {
        /// What found them.
        selector: String,
        /// A name of the page that is nearly the first one in it that the page does not have.
        near: Option<String>,
    },
    /// A function of another script is given what is not on the page.
    HandedOver {
        /// What was looked for.
        selector: String,
        /// The function, as the script has it.
        to: String,
        /// In which way it is given.
        how: HandedOver,
        /// A name of the page that is nearly the first one in it that the page does not have.
        near: Option<String>,
    },
    /// A listener that is called at once, so that there is none.
    CalledAtOnce {
        /// What is called.
        what: String,
    },
    /// A constructor of a class that extends another does not call that one's.
    NoSuper,
    /// A constructor of a class that extends another uses `this` before it calls that one's.
    EarlyThis,
    /// The script throws by itself, and nothing catches that.
    Thrown,
    /// Something goes wrong in a function of another script that is called.
    Inside {
        /// What.
        kind: Box<RunFaultKind>,
    },
    /// A member of what another script makes, of a name that stands nowhere on the page.
    UnheardMember {
        /// Its name.
        name: String,
        /// A name of nearly that spelling that another script has.
        near: String,
    },
    /// A text that is no date, or a day that its month does not have.
    NoDate {
        /// As it is written.
        written: String,
        /// The day that a browser makes of it.
        becomes: Option<String>,
    },
    /// A callback that an address names, and that nothing defines.
    NoCallback {
        /// Its name.
        name: String,
        /// A name that the script defines, of nearly that spelling.
        near: Option<String>,
    },
    /// A module is asked for by what is no address, and the page has no import map.
    BareSpecifier {
        /// What it is asked for by.
        specifier: String,
    },
    /// A file that is asked for is not there.
    MissingFile {
        /// Its address.
        address: String,
        /// An address of nearly that spelling, whose file is there.
        near: Option<String>,
    },
    /// What is written takes the place of the whole page.
    Wipes,
    /// What is written is nowhere: the script does not hold up the parser.
    NotWritten,
    /// The month behind the last one.
    NoMonth {
        /// The month of the next year that a browser makes of it.
        becomes: String,
    },
    /// What is left until a time that is past.
    PastDate {
        /// Its day.
        day: String,
    },
}
