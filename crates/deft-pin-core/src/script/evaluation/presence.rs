//! What an evaluation keeps of the page at present, and of what the script does to it.

use std::rc::Rc;
use std::sync::Arc;

use indexmap::IndexMap;
use rustc_hash::{FxBuildHasher, FxHashMap, FxHashSet};

use super::value::{Node, ObjectId, Value};
use crate::markup::{Document, NamedPart, NodeId, Selector, SelectorList, names_in};
use crate::script::added::AddedName;
use crate::script::record::{GlobalUse, LookUp};
use crate::source::Span;

/// The page at present.
#[derive(Clone, Debug, Default)]
pub(super) enum Present {
    /// It is as it was served.
    #[default]
    Served,
    /// The script has changed it, and it is certain how.
    Changed(Rc<PresentPage>),
    /// Nobody can tell.
    Lost,
}

/// A page that the script has changed.
#[derive(Clone, Debug)]
pub(super) struct PresentPage {
    /// Its tree. Nodes of the page as it was served keep their places.
    pub(super) document: Document,
    /// The nodes that the script has made, by their numbers.
    pub(super) nodes: FxHashMap<u32, NodeId>,
    /// The other way round.
    pub(super) numbers: FxHashMap<NodeId, u32>,
}

/// What of the page cannot be told, where its tree can be.
#[derive(Clone, Debug, Default)]
pub(super) struct Vague {
    /// IDs and classes that elements may have, or not.
    pub(super) names: FxHashSet<Arc<str>>,
    /// What other such names begin with.
    pub(super) beginnings: FxHashSet<Arc<str>>,
    /// Whether elements may have any other.
    pub(super) all_names: bool,
    /// Attributes whose values are not known.
    pub(super) attributes: FxHashSet<Arc<str>>,
    /// Whether texts may be others.
    pub(super) texts: bool,
    /// Whether controls may be in other states than the page says.
    pub(super) states: bool,
}

/// The page at present, with how far it can be told.
#[derive(Clone, Debug, Default)]
pub(super) struct Presence {
    pub(super) page: Present,
    pub(super) vague: Vague,
    /// What cannot be told any more once the task that runs has ended.
    pub(super) soon_vague: Vague,
    /// The classes of elements of names of the script's own.
    pub(super) customs: FxHashMap<Arc<str>, Custom>,
    /// The elements that are of their classes.
    pub(super) upgraded: FxHashSet<NodeId>,
    /// The values that the script gives to controls.
    pub(super) values: FxHashMap<Node, Arc<str>>,
    /// What observers look at.
    pub(super) watches: Vec<Watch>,
    /// How often the tree had been changed when they were told last.
    pub(super) watched: u32,
    /// How often its tree was changed.
    pub(super) changes: u32,
    /// How often attributes alone were.
    pub(super) given: u32,
    /// In which piece of code changes are certain; none where their order is not.
    pub(super) region: Option<u32>,
    /// Whether nothing is certain once this script has run from top to bottom: it brings other scripts in.
    pub(super) ends: bool,
    /// Whether there are listeners of which it is not certain that they are there.
    pub(super) has_vague_listeners: bool,
    /// Whether all of the page is parsed where the script runs from top to bottom.
    pub(super) is_whole: Option<bool>,
}

impl Presence {
    pub(super) fn new() -> Self {
        Presence { region: Some(0), ..Presence::default() }
    }

    /// From now on nobody can tell what the page is.
    pub(super) fn lose(&mut self) {
        self.page = Present::Lost;
    }

    pub(super) fn is_lost(&self) -> bool {
        matches!(self.page, Present::Lost)
    }
}

impl Vague {
    /// Adds what else cannot be told.
    pub(super) fn extend(&mut self, other: Vague) {
        self.names.extend(other.names);
        self.beginnings.extend(other.beginnings);
        self.attributes.extend(other.attributes);
        self.all_names |= other.all_names;
        self.texts |= other.texts;
        self.states |= other.states;
    }

    /// Whether what a selector asks for cannot be told.
    pub(super) fn hides(&self, text: &str, selectors: &SelectorList) -> bool {
        /// Attributes that say in which states elements are.
        const OF_STATES: &[&str] = &[
            "*", "checked", "contenteditable", "dir", "disabled", "href", "lang", "max", "maxlength", "min",
            "minlength", "open", "pattern", "placeholder", "readonly", "required", "selected", "type",
            "value",
        ];
        let asks = |selector: &Selector| names_in(selector).iter().any(|part| self.has(part));
        let is_asked = |name: &Arc<str>| {
            text.contains('[') && (&**name == "*" || text.contains(&**name))
                || text.contains(':') && OF_STATES.contains(&&**name) && asks_for_state(text)
        };
        self.attributes.iter().any(is_asked)
            || self.all_names && text.contains('[')
            || selectors.slice().iter().any(asks)
    }

    fn has(&self, part: &NamedPart) -> bool {
        match part {
            NamedPart::Tag(_) => false,
            part => self.has_name(part.name()),
        }
    }

    /// Whether an element may have an ID or a class, or not.
    pub(super) fn has_name(&self, name: &str) -> bool {
        self.all_names
            || self.names.contains(name)
            || self.beginnings.iter().any(|beginning| name.starts_with(&**beginning))
    }

    /// Whether it cannot be told of some ID or class whether elements have it.
    pub(super) fn has_names(&self) -> bool {
        self.all_names || !self.names.is_empty() || !self.beginnings.is_empty()
    }
}

/// What is in a list.
#[derive(Clone, Debug)]
pub(super) struct Recipe {
    /// In what.
    pub(super) within: NodeId,
    pub(super) by: Members,
}

/// Which elements a list has.
#[derive(Clone, Debug)]
pub(super) enum Members {
    /// The children.
    Children,
    /// The same with texts.
    Nodes,
    /// The rows of a table or of a part of it.
    Rows,
    /// The cells of a row.
    Cells,
    /// The bodies of a table.
    Bodies,
    /// The controls of a form.
    Controls,
    /// Those that a selector finds.
    Selector(Arc<str>),
}

impl Members {
    /// Whether these are the options of a `select`.
    pub(super) fn is_of_options(&self) -> bool {
        matches!(self, Members::Selector(selector) if &**selector == "option")
    }

    /// The list that an element of a name has as that member.
    pub(super) fn of(tag: &str, key: &str) -> Option<Members> {
        Some(match (key, tag) {
            ("children", _) => Members::Children,
            ("rows", "table" | "tbody" | "thead" | "tfoot") => Members::Rows,
            ("cells", "tr") => Members::Cells,
            ("tBodies", "table") => Members::Bodies,
            ("elements", "form") => Members::Controls,
            ("options", "select" | "datalist") => Members::Selector(Arc::from("option")),
            _ => return None,
        })
    }
}

/// What listens for an event.
#[derive(Clone, Debug)]
pub(super) struct Listener {
    pub(super) number: u32,
    pub(super) target: ObjectId,
    pub(super) event: Arc<str>,
    /// The function that is called.
    pub(super) handler: Value,
    /// What was given to be called: it, or an object that has it.
    pub(super) given: Value,
    pub(super) manner: Manner,
}

/// How something listens.
#[derive(Clone, Debug, Default)]
pub(super) struct Manner {
    /// Whether it is told on the way in.
    pub(super) is_capture: bool,
    /// Whether it is called once alone.
    pub(super) is_once: bool,
    /// What takes it away once it is aborted.
    pub(super) signal: Option<ObjectId>,
    /// Whether it is the value of a member like `onclick`.
    pub(super) is_property: bool,
    /// Whether it listens by jQuery.
    pub(super) is_query: bool,
    /// The elements in its target that it listens for, where it is told of those alone.
    pub(super) selector: Option<Arc<str>>,
}

impl Manner {
    pub(super) const PROPERTY: Manner = Manner {
        is_capture: false,
        is_once: false,
        signal: None,
        is_property: true,
        is_query: false,
        selector: None,
    };
}

/// What a listener asked of where its event came from.
#[derive(Clone, Debug)]
pub(super) struct AskedTarget {
    pub(super) within: Value,
    pub(super) selector: String,
}

/// What a script does for certain.
#[derive(Clone, Debug, Default)]
pub(crate) struct Recorded {
    /// The globals that it defines.
    pub(crate) defines: Vec<GlobalUse>,
    /// What it looks up.
    pub(crate) looks_up: Vec<LookUp>,
    /// The names that it adds.
    pub(crate) adds: Vec<AddedName>,
}

/// Whether a selector asks for states of elements, and not for where they stand alone.
fn asks_for_state(text: &str) -> bool {
    const PLACES: &[&str] =
        &["not", "is", "where", "has", "scope", "root", "empty", "first-", "last-", "nth-", "only-"];
    let mut asked = text.split(':').skip(1).filter(|part| !part.is_empty());
    asked.any(|part| !PLACES.iter().any(|place| part.starts_with(place)))
}

/// A class that elements of a name become.
#[derive(Clone, Debug)]
pub(super) struct Custom {
    pub(super) class: ObjectId,
    /// Where the name is given.
    pub(super) span: Span,
    /// The attributes whose changes it is told of.
    pub(super) observed: Vec<Arc<str>>,
    /// Whether an element has become one.
    pub(super) is_met: bool,
}

/// What an observer looks at, and what it has seen there.
#[derive(Clone, Debug)]
pub(super) struct Watch {
    pub(super) observer: ObjectId,
    pub(super) target: NodeId,
    /// Whether it is told of children, of attributes, and of what is deeper.
    pub(super) children: bool,
    pub(super) attributes: bool,
    pub(super) subtree: bool,
    /// The children of each node.
    pub(super) seen: IndexMap<NodeId, Vec<NodeId>, FxBuildHasher>,
    /// The attributes of its target.
    pub(super) given: Vec<(Arc<str>, Arc<str>)>,
    /// What it has not been told yet.
    pub(super) records: Vec<Value>,
    /// Where it was set up.
    pub(super) span: Span,
}

/// What an element of the script's own is told.
#[derive(Clone, Debug)]
pub(super) enum Reaction {
    /// It has come into the page.
    Connected,
    /// An attribute has another value now; which it had before.
    Changed(Arc<str>, Option<Arc<str>>),
}

/// What a generator that runs has given so far.
#[derive(Clone, Debug, Default)]
pub(super) struct Yielded {
    pub(super) values: Vec<Value>,
    /// Whether it may have more.
    pub(super) is_cut: bool,
}
