//! What expressions come to, as far as it is known before a script runs.

use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap};

use super::piece::{Piece, SitePart, may_be_markup};
use super::platform::Interface;
use crate::markup::NodeId;
use crate::script::program::{ClassId, FunctionId, Sketch};
use crate::script::regular::Regular;
use crate::source::Span;

/// A value.
#[derive(Clone, Debug)]
pub(super) enum Value {
    /// Nobody knows before it runs.
    Unknown(Doubt),
    /// A text, a number, a boolean or a BigInt; which one, nobody knows.
    Some(Interface, Doubt),
    /// A text that is put together, of which some pieces are not known.
    Pieced(Arc<[Piece]>, Doubt),
    /// `undefined`, with what is not there.
    Undefined(Option<AbsenceId>),
    /// `null`, with what is not there.
    Null(Option<AbsenceId>),
    Boolean(bool),
    Number(f64),
    Text(Arc<str>),
    Object(ObjectId),
}

/// Why a value is not known.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Doubt {
    /// It differs from visit to visit: a width, what is stored, the time. Ordinary visits have either.
    Visit,
    /// It is the time of the visit.
    Now,
    /// It differs from visit to visit, and no markup stands in it: a date, a number that is written.
    Bare,
    /// It is a text or a number of the page, the same on each visit, in which no markup stands.
    Page,
    /// It is a part of the site's own address.
    Site(SitePart),
    /// Another script of the page makes it, which can be read.
    Script,
    /// It cannot be told.
    Open,
}

impl SitePart {
    /// What it comes to: a text.
    pub(super) fn value(self) -> Value {
        Value::Some("String", Doubt::Site(self))
    }
}

impl Doubt {
    /// The same of a value in which no markup stands.
    pub(super) fn without_markup(self) -> Doubt {
        match self {
            Doubt::Visit => Doubt::Bare,
            Doubt::Script | Doubt::Open => Doubt::Page,
            other => other,
        }
    }

    /// The same of a value in which markup may stand.
    pub(super) fn with_markup(self) -> Doubt {
        match self {
            Doubt::Now | Doubt::Bare => Doubt::Visit,
            Doubt::Page | Doubt::Site(_) => Doubt::Open,
            other => other,
        }
    }

    pub(super) fn has_no_markup(self) -> bool {
        matches!(self, Doubt::Now | Doubt::Bare | Doubt::Page | Doubt::Site(_))
    }
}

/// How certain it is that a piece of code runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum Certainty {
    /// Each time that the page is shown.
    Certain,
    /// Each time that nothing is stored yet, no cookie is set and the address has neither a query nor a fragment.
    FirstVisit,
    /// In some ordinary visit: on a narrow screen, once a button is clicked.
    SomeVisit,
    /// Nobody can tell.
    Perhaps,
}

impl From<Doubt> for Certainty {
    fn from(doubt: Doubt) -> Self {
        match doubt {
            Doubt::Visit | Doubt::Now | Doubt::Bare => Certainty::SomeVisit,
            Doubt::Page | Doubt::Site(_) | Doubt::Script | Doubt::Open => Certainty::Perhaps,
        }
    }
}

/// An object, by its place in the heap.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct ObjectId(pub(super) u32);

/// A scope that was entered, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct EnvironmentId(pub(super) u32);

/// Something that is not there, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct AbsenceId(pub(super) u32);

/// Something that is not there, and has not failed yet.
#[derive(Clone, Debug)]
pub(super) enum Absence {
    /// An element that was looked up.
    Element { selector: String, span: Span, is_early: bool },
    /// A global.
    Global { name: String },
    /// A member that what it was asked of does not have.
    Member { of: Interface, name: Arc<str> },
    /// A member that an object of a script does not have.
    OwnMember { of: ObjectId, name: Arc<str> },
    /// An attribute that an element does not have.
    Attribute { name: String },
    /// A variable or property that has no value.
    Place { name: String },
}

/// A node of the page.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) enum Node {
    /// An element of the page as it is served.
    Page(NodeId),
    /// One that the script makes.
    Made(u32),
}

/// A function of the script with the scope that it was made in.
#[derive(Clone, Debug)]
pub(super) struct Closure {
    pub(super) function: FunctionId,
    pub(super) environment: EnvironmentId,
    /// What `this` is in an arrow function.
    pub(super) this: Option<Value>,
    /// The class that it stands in.
    pub(super) home: Option<ObjectId>,
}

/// The members of an object, in the order in which they were set.
pub(super) type Members = IndexMap<Arc<str>, Value, FxBuildHasher>;

/// Members as they are gone over: first those that are named by numbers, as these count (ECMA-262,
/// "OrdinaryOwnPropertyKeys").
pub(super) fn in_order(members: &Members) -> Vec<(Arc<str>, Value)> {
    let place = |key: &str| key.parse::<u32>().ok().filter(|place| place.to_string() == key);
    let mut all: Vec<(Arc<str>, Value)> =
        members.iter().map(|(key, value)| (Arc::clone(key), value.clone())).collect();
    if all.iter().any(|(key, _)| place(key).is_some()) {
        all.sort_by_key(|(key, _)| place(key).map_or(u64::MAX, u64::from));
    }
    all
}

/// An object.
#[derive(Clone, Debug)]
pub(super) struct Object {
    pub(super) kind: Kind,
    pub(super) members: Members,
    /// Whether it may have more members than these, or other values.
    pub(super) is_open: bool,
    /// What is called where a member is set.
    pub(super) setters: Vec<(Arc<str>, Value)>,
    /// What is special of some of its members.
    pub(super) marks: FxHashMap<Arc<str>, Mark>,
    /// The object that it inherits from.
    pub(super) parent: Option<ObjectId>,
    /// Whether it inherits from nothing, not even from what all objects do.
    pub(super) is_bare: bool,
    /// Whether nothing in it can be changed.
    pub(super) is_frozen: bool,
    /// When it was made.
    pub(super) born: u32,
}

/// What is special of a member.
#[derive(Clone, Copy, Debug, Default)]
pub(super) struct Mark {
    /// Whether it is not listed where others are.
    pub(super) is_unlisted: bool,
    /// Whether it cannot be set.
    pub(super) is_fixed: bool,
}

/// What an object is.
#[derive(Clone, Debug)]
pub(super) enum Kind {
    Plain,
    Array(Vec<Value>),
    Function(Closure),
    Class(ClassId, EnvironmentId),
    /// A function of the platform: of which interface, and its name.
    Native(Interface, Arc<str>),
    /// The same for the methods of jQuery's sets.
    QueryMethod(Arc<str>),
    /// A function with what it is called on and first called with.
    Bound(Value, Value, Vec<Value>),
    /// A function or a class of another script, and what has the members that it and what it makes may have as well.
    Other(Arc<Sketch>, ObjectId),
    /// What settles a promise, when called.
    Settler(ObjectId, bool),
    /// What goes on with a function that waits: by its number, and whether what it waits for was fulfilled.
    GoesOn(u32, bool),
    /// A getter, which is called where the member is read.
    Getter(Value),
    /// An interface itself: `Math`, `Date`, `HTMLElement`.
    Constructor(Interface),
    /// One of an interface, which one is not known.
    Instance(Interface),
    Window,
    Document,
    Element(Node),
    /// Elements in a list: a `NodeList`, an `HTMLCollection`.
    List(Interface, Vec<Value>),
    /// What belongs to an element: its classes, its style, its data.
    Tokens(ObjectId),
    Style,
    Dataset(ObjectId),
    Date(Moment),
    RegExp(Arc<Regular>),
    Promise(Promise),
    /// A proxy: what it stands for, and what handles it.
    Proxy(ObjectId, ObjectId),
    /// `$` and `jQuery`.
    QueryFunction,
    /// What `$(…)` gives: elements, where they are known, and what found them.
    Query(Option<Vec<Value>>, Option<AbsenceId>),
}

/// What a lookup finds on the page.
#[derive(Clone, Debug, Default)]
pub(super) struct Found {
    /// The elements that it finds for certain, in tree order.
    pub(super) nodes: Vec<NodeId>,
    /// Whether there are elements of which that is not certain.
    pub(super) has_doubtful: bool,
    /// Whether an element that is parsed later would be found.
    pub(super) is_early: bool,
}

/// What an object has that is of its very interface, and of none that extends it.
pub(super) const EXACT: &str = "#exact";

/// The member of what was handed to code that is not known: a function, a node of the page.
pub(super) const HANDED: &str = "#handed";

/// The time that a date is at.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Moment {
    /// In milliseconds since 1970-01-01 (UTC).
    At(f64),
    /// The same, for a time that is written in the time zone of the visitor, as if that were UTC.
    Local(f64),
    /// When it is made.
    Now,
    Unknown,
}

/// A promise.
#[derive(Clone, Debug, Default)]
pub(super) struct Promise {
    pub(super) state: PromiseState,
    pub(super) reactions: Vec<Reaction>,
    /// What follows where it is settled in the other way, as other visits have it.
    pub(super) otherwise: Vec<Reaction>,
    /// The faults by which it was rejected.
    pub(super) faults: Vec<usize>,
    pub(super) is_handled: bool,
    /// Whether a timer is to settle it.
    pub(super) waits_for_timer: bool,
    /// For one of several that are waited for together: which these are, and its place among them.
    pub(super) gathers: Option<(usize, usize)>,
}

/// For which of several promises another waits.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Until {
    /// All are fulfilled, or one is rejected.
    All,
    /// All are settled.
    AllSettled,
    /// One is fulfilled, or all are rejected.
    Any,
    /// One is settled.
    Race,
}

/// Promises that are waited for together.
#[derive(Clone, Debug)]
pub(super) struct Gathering {
    pub(super) until: Until,
    /// What each has come to so far.
    pub(super) values: Vec<Option<Value>>,
    /// Whether one of them waits for the platform.
    pub(super) waits: bool,
    /// By what those are rejected that the first alone may be told of.
    pub(super) faults: Vec<usize>,
    /// The promise of all.
    pub(super) result: ObjectId,
}

/// What has become of a promise.
#[derive(Clone, Debug, Default)]
pub(super) enum PromiseState {
    #[default]
    Pending,
    /// It waits for the platform: in some visit with this value.
    Waiting(Value),
    /// In some visit it is rejected, with this value.
    Failing(Value),
    Fulfilled(Value),
    Rejected(Value),
}

/// What follows upon a promise.
#[derive(Clone, Debug)]
pub(super) struct Reaction {
    pub(super) fulfilled: Value,
    pub(super) rejected: Value,
    pub(super) result: ObjectId,
    /// For `finally`, which is called with nothing and hands the value on.
    pub(super) is_final: bool,
}

/// Of so many texts one may be kept as one of them.
const MOST_CHOICES: usize = 6;

impl Value {
    pub(super) const OPEN: Value = Value::Unknown(Doubt::Open);
    pub(super) const VISIT: Value = Value::Unknown(Doubt::Visit);
    pub(super) const UNDEFINED: Value = Value::Undefined(None);
    pub(super) const NULL: Value = Value::Null(None);

    pub(super) const A_TEXT: Value = Value::Some("String", Doubt::Visit);
    pub(super) const A_NUMBER: Value = Value::Some("Number", Doubt::Visit);
    pub(super) const A_BOOLEAN: Value = Value::Some("Boolean", Doubt::Visit);

    pub(super) fn text(text: &str) -> Value {
        Value::Text(Arc::from(text))
    }

    pub(super) fn doubt(&self) -> Option<Doubt> {
        match self {
            Value::Unknown(doubt) | Value::Some(_, doubt) | Value::Pieced(_, doubt) => Some(*doubt),
            _ => None,
        }
    }

    /// Whether it is `null` or `undefined`; none where that is not known.
    pub(super) fn is_nothing(&self) -> Result<bool, Doubt> {
        match self {
            Value::Unknown(doubt) => Err(*doubt),
            Value::Undefined(_) | Value::Null(_) => Ok(true),
            _ => Ok(false),
        }
    }

    /// What a test comes to (ECMA-262, "ToBoolean").
    pub(super) fn truth(&self) -> Result<bool, Doubt> {
        Ok(match self {
            Value::Unknown(doubt) | Value::Some(_, doubt) => return Err(*doubt),
            // A piece that is known has something in it.
            Value::Pieced(pieces, doubt) => {
                let is_some = pieces.iter().any(Piece::is_something);
                return if is_some { Ok(true) } else { Err(*doubt) };
            }
            Value::Undefined(_) | Value::Null(_) => false,
            Value::Boolean(own) => *own,
            Value::Number(own) => *own != 0.0 && !own.is_nan(),
            Value::Text(own) => !own.is_empty(),
            Value::Object(_) => true,
        })
    }

    /// Whether two are the same for certain, so that either may stand for both.
    pub(super) fn is_same(&self, other: &Value) -> bool {
        match (self, other) {
            (Value::Undefined(a), Value::Undefined(b)) | (Value::Null(a), Value::Null(b)) => a == b,
            (Value::Boolean(a), Value::Boolean(b)) => a == b,
            (Value::Number(a), Value::Number(b)) => a == b || (a.is_nan() && b.is_nan()),
            (Value::Text(a), Value::Text(b)) => a == b,
            (Value::Object(a), Value::Object(b)) => a == b,
            _ => false,
        }
    }

    /// The interface of a text, a number or a boolean.
    pub(super) fn primitive(&self) -> Option<Interface> {
        match self {
            Value::Some(of, _) => Some(of),
            Value::Text(_) | Value::Pieced(..) => Some("String"),
            Value::Number(_) => Some("Number"),
            Value::Boolean(_) => Some("Boolean"),
            _ => None,
        }
    }

    /// Whether it is a text, a number or a boolean in which no markup stands.
    pub(super) fn has_no_markup(&self) -> bool {
        match self {
            Value::Text(text) => !may_be_markup(text),
            Value::Some("String", doubt) | Value::Unknown(doubt) | Value::Pieced(_, doubt) => {
                doubt.has_no_markup()
            }
            Value::Number(_) | Value::Boolean(_) | Value::Some(..) => true,
            _ => false,
        }
    }

    /// Either of two, one of which is given later: that may be done again, and what comes of it then is not known.
    pub(super) fn or_more(self, other: Value) -> Value {
        match self.or(other) {
            Value::Pieced(pieces, doubt) if matches!(&*pieces, [Piece::OneOf(_)]) => {
                Value::Some("String", doubt)
            }
            value => value,
        }
    }

    /// The same on each visit, where it is not known.
    pub(super) fn of_page(self) -> Value {
        match self {
            Value::Some(of, _) => Value::Some(of, Doubt::Page),
            Value::Unknown(_) => Value::OPEN,
            other => other,
        }
    }

    /// The texts one of which it is, where these are short.
    fn choices(&self) -> Option<Vec<Arc<str>>> {
        const LONGEST: usize = 100;
        let texts = match self {
            Value::Text(text) => vec![Arc::clone(text)],
            Value::Pieced(pieces, _) => match &**pieces {
                [Piece::OneOf(texts)] => texts.to_vec(),
                _ => return None,
            },
            _ => return None,
        };
        texts.iter().all(|text| text.len() <= LONGEST).then_some(texts)
    }

    /// Either of two.
    pub(super) fn or(self, other: Value) -> Value {
        if self.is_same(&other) {
            return self;
        }
        let is_bare = self.has_no_markup() && other.has_no_markup();
        if let (Some(own), Some(others)) = (self.choices(), other.choices()) {
            let mut all = own;
            let news: Vec<Arc<str>> = others.into_iter().filter(|text| !all.contains(text)).collect();
            all.extend(news);
            if all.len() <= MOST_CHOICES {
                let known = if is_bare { Doubt::Bare } else { Doubt::Visit };
                let doubt = self.doubt().max(other.doubt()).unwrap_or(known);
                let doubt = if is_bare { doubt } else { doubt.with_markup() };
                return Value::Pieced(Arc::from([Piece::OneOf(Arc::from(all))]), doubt);
            }
        }
        match (&self, &other) {
            (Value::Unknown(a), Value::Unknown(b)) => Value::Unknown(*a.max(b)),
            (Value::Unknown(own), _) | (_, Value::Unknown(own)) if is_bare => {
                Value::Unknown((*own).max(Doubt::Page))
            }
            _ => {
                let doubt = self.doubt().max(other.doubt());
                match (self.primitive(), other.primitive()) {
                    (Some(a), Some(b)) if a == b && a == "String" && !is_bare => {
                        Value::Some(a, doubt.map_or(Doubt::Visit, Doubt::with_markup))
                    }
                    (Some(a), Some(b)) if a == b => Value::Some(a, doubt.unwrap_or(Doubt::Bare)),
                    (Some(_), Some(_)) if is_bare => Value::Unknown(Doubt::Page),
                    _ => Value::OPEN,
                }
            }
        }
    }
}
