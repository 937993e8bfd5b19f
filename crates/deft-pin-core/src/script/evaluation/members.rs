//! Members of values: read, set, asked for.

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::iterators::{ASYNC_ITERATOR, ITERATOR};
use super::machine::{Machine, Run, Turn};
use super::platform::{self, Interface};
use super::query::is_method_of_sets;
use super::query_has::{SETS, is_of_elements};
use super::symbols::is_symbol;
use super::value::{Absence, Doubt, EXACT, HANDED, Kind, Node, ObjectId, Value};
use super::world::GlobalState;
use crate::script::program::{Expression, ExpressionId};
use crate::source::Span;

impl Machine<'_> {
    /// The interface that a value is of; none where that is not known.
    pub(super) fn interface_of(&self, value: &Value) -> Option<Interface> {
        Some(match value {
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Plain => "Object",
                Kind::Array(_) => "Array",
                Kind::Function(_)
                | Kind::Class(..)
                | Kind::Native(..)
                | Kind::QueryMethod(_)
                | Kind::Bound(..)
                | Kind::Other(..)
                | Kind::Settler(..)
                | Kind::GoesOn(..)
                | Kind::Constructor(_) => "Function",
                Kind::Instance(of) | Kind::List(of, _) => of,
                Kind::Window => "Window",
                Kind::Document => "HTMLDocument",
                Kind::Element(node) => self.interface_of_node(*node),
                Kind::Tokens(_) => "DOMTokenList",
                Kind::Style => "CSSStyleDeclaration",
                Kind::Date(_) => "Date",
                Kind::RegExp(_) => "RegExp",
                Kind::Promise(_) => "Promise",
                Kind::Proxy(target, _) => return self.interface_of(&Value::Object(*target)),
                Kind::Dataset(_) | Kind::Getter(_) | Kind::QueryFunction | Kind::Query(..) => return None,
            },
            other => return other.primitive(),
        })
    }

    /// A member of what an expression comes to.
    pub(super) fn member(
        &mut self,
        value: &Value,
        key: Option<&Arc<str>>,
        of: ExpressionId,
        span: Span,
    ) -> Run<Value> {
        if let Value::Undefined(absence) | Value::Null(absence) = value {
            let runs_on = match self.program.expression(of) {
                Expression::Member { object, .. } => self.runs_on(*object),
                _ => None,
            };
            return Err(self.of_nothing(*absence, of, runs_on));
        }
        if let (Value::Object(id), Some(key)) = (value, key)
            && let Some(part) = self.asks_by_member(*id, key, of)
        {
            return Ok(part);
        }
        self.member_at(value, key, span)
    }

    /// An item of a list, nobody knows which: where it has none, nothing.
    fn some_item(&mut self, list: ObjectId) -> Value {
        let is_exact = self.tells_present(list);
        let object = self.object(list);
        match &object.kind {
            Kind::List(of, items)
                if self.has_number_key
                    && items.is_empty()
                    && !object.is_open
                    && (is_exact || !self.is_growing(of)) =>
            {
                Value::Undefined(self.absence_of_item(&Value::Object(list)))
            }
            Kind::Array(items) if !object.is_open && items.iter().all(Value::has_no_markup) => {
                Value::Unknown(Doubt::Page)
            }
            _ => Value::OPEN,
        }
    }

    /// A member of a value that has some.
    pub(super) fn member_at(&mut self, value: &Value, key: Option<&Arc<str>>, span: Span) -> Run<Value> {
        let id = match value {
            Value::Unknown(doubt) => return Ok(Value::Unknown(*doubt)),
            Value::Object(id) => *id,
            Value::Undefined(_) | Value::Null(_) => {
                return match self.no_members(value, span) {
                    Some(stop) => Err(stop),
                    None => Ok(Value::OPEN),
                };
            }
            _ if key.is_some_and(|key| is_symbol(key)) => return Ok(self.iterator_of("String", key)),
            _ => return Ok(self.primitive_member(value, key)),
        };
        if self.proxied(id).is_some() {
            return self.member_of_proxy(id, key, span);
        }
        let Some(key) = key else { return Ok(self.some_item(id)) };
        if is_symbol(key)
            && let Some(own) = self.member_by_symbol(id, key)
        {
            return Ok(own);
        }
        if let Some(found) = self.own_member(id, key, span)? {
            return Ok(found);
        }
        self.inherited_member(id, key, span)
    }

    fn primitive_member(&mut self, value: &Value, key: Option<&Arc<str>>) -> Value {
        let (Some(key), Some(of)) = (key, self.interface_of(value)) else { return Value::OPEN };
        if let Value::Some("String", doubt) | Value::Pieced(_, doubt) = value {
            if &**key == "length" {
                return Value::Some("Number", *doubt);
            }
            if key.parse::<usize>().is_ok() {
                return Value::OPEN;
            }
        }
        if let Value::Text(text) = value {
            if &**key == "length" {
                return Value::Number(text.encode_utf16().count() as f64);
            }
            if let Ok(at) = key.parse::<usize>() {
                let units: Vec<u16> = text.encode_utf16().skip(at).take(1).collect();
                return match units.as_slice() {
                    [unit] => Value::text(&String::from_utf16_lossy(&[*unit])),
                    _ => self.missing_place(key),
                };
            }
        }
        self.platform_member(of, key, false)
    }

    pub(super) fn missing_place(&mut self, name: &str) -> Value {
        Value::Undefined(Some(self.absent(Absence::Place { name: name.to_owned() })))
    }

    /// What was set on an object itself.
    fn own_member(&mut self, id: ObjectId, key: &Arc<str>, span: Span) -> Run<Option<Value>> {
        let is_exact = self.tells_present(id);
        let object = self.object(id);
        let is_storage = matches!(object.kind, Kind::Instance("Storage"));
        if let Some(own) = object.members.get(key).cloned().filter(|_| !is_storage) {
            if let Some(Kind::Getter(getter)) = self.kind(&own).cloned() {
                let value = self.call(&getter, Value::Object(id), Arguments::default(), span)?;
                return Ok(Some(value));
            }
            return Ok(Some(own));
        }
        let is_open = object.is_open;
        Ok(match &object.kind {
            Kind::Plain if is_open => self.member_of_prototype(id, key),
            Kind::Array(items) => match (&**key, key.parse::<usize>()) {
                ("length", _) if is_open => Some(Value::Some("Number", Doubt::Open)),
                ("length", _) => Some(Value::Number(items.len() as f64)),
                (_, Ok(at)) => Some(match items.get(at) {
                    Some(item) => item.clone(),
                    None if is_open => Value::OPEN,
                    None => Value::Undefined(self.absence_of_item(&Value::Object(id))),
                }),
                _ => None,
            },
            Kind::List(ITERATOR, _) if &**key == "next" => {
                Some(self.made(Kind::Native(ITERATOR, Arc::clone(key))))
            }
            Kind::List(ASYNC_ITERATOR, _) => Some(Value::OPEN),
            Kind::List(ITERATOR, _) => matches!(&**key, "return" | "throw").then_some(Value::OPEN),
            Kind::List(of, items) => match (&**key, key.parse::<usize>()) {
                ("length", _) if is_open || !is_exact && self.is_growing(of) => Some(Value::A_NUMBER),
                ("length", _) => Some(Value::Number(items.len() as f64)),
                (_, Ok(at)) => Some(match items.get(at) {
                    Some(item) => item.clone(),
                    None if is_open || !is_exact && self.is_growing(of) => Value::OPEN,
                    None => Value::Undefined(self.absence_of_item(&Value::Object(id))),
                }),
                // Elements of a collection are its members by their names.
                _ if *of != "NodeList" && platform::member(of, key).is_none() => {
                    let (of, items) = (*of, items.clone());
                    match self.named_item(of, &items, key) {
                        Some(found) => Some(found),
                        None if is_open => Some(Value::OPEN),
                        None => None,
                    }
                }
                _ => None,
            },
            Kind::Window if self.has_no_handler(key) => {
                Some(Value::Null(Some(self.absent(Absence::Place { name: key.to_string() }))))
            }
            Kind::Window => Some(self.member_of_window(key)?),
            Kind::Document => self.document_member(key, span)?,
            Kind::Element(node) => {
                let node = *node;
                self.element_member(id, node, key)
            }
            Kind::Tokens(element) => match platform::member("DOMTokenList", key) {
                _ if let Some(known) = self.token_member(*element, key) => Some(known),
                Some(member) if !member.is_function => Some(self.typed(member.result)),
                None if key.parse::<usize>().is_ok() => Some(Value::OPEN),
                _ => None,
            },
            Kind::Style | Kind::Instance("CSSStyleDeclaration") => {
                match platform::member("CSSStyleDeclaration", key) {
                    Some(member) if member.is_function => None,
                    Some(member) => Some(self.typed(member.result)),
                    _ if self.is_of_styles(key) => Some(Value::A_TEXT),
                    _ => {
                        let of = "CSSStyleDeclaration";
                        Some(Value::Undefined(Some(
                            self.absent(Absence::Member { of, name: Arc::clone(key) }),
                        )))
                    }
                }
            }
            Kind::Dataset(element) => {
                let element = *element;
                Some(self.dataset_member(element, key))
            }
            Kind::Constructor(of) => {
                let of = *of;
                match platform::static_member(of, key) {
                    Some(member) if member.is_function => Some(self.made(Kind::Native(of, Arc::clone(key)))),
                    Some(_) if of == "Math" => Some(math_constant(key)),
                    Some(_) if of == "Symbol" => Some(self.known_symbol(key)),
                    Some(_) => Some(Value::OPEN),
                    None if &**key == "prototype" => Some(self.prototype_of_interface(of)),
                    None if matches!(&**key, "name" | "revocable") => Some(Value::OPEN),
                    None if platform::member("Function", key).is_some()
                        || platform::member("Object", key).is_some() =>
                    {
                        None
                    }
                    None if self.may_be_added(of, key) || self.world.has_text(&format!("{of}.{key}")) => {
                        Some(Value::OPEN)
                    }
                    None => Some(Value::Undefined(Some(
                        self.absent(Absence::Member { of, name: Arc::clone(key) }),
                    ))),
                }
            }
            Kind::Instance("Text") if self.texts.contains_key(&id) => {
                let text = self.texts[&id];
                self.member_of_text(text, key)
            }
            Kind::Instance("Location") if matches!(&**key, "search" | "hash") => Some(self.blank_part()),
            Kind::Instance("Location") if &**key == "href" => Some(self.here()),
            Kind::Instance("MediaQueryList") if &**key == "matches" => Some(self.media_matches(id)),
            Kind::Instance("Screen") if matches!(&**key, "width" | "availWidth") => {
                Some(self.screen_size(key))
            }
            Kind::Instance("History") if &**key == "state" => {
                // A visitor may have gone back.
                if let Some(own) = self.globals.get(super::first_visit::STATE) {
                    let is_own = self.turn.is_none_or(|turn| turn < Turn::Timer);
                    return Ok(Some(if is_own { own.clone() } else { Value::OPEN }));
                }
                if !self.has_no_states() {
                    return Ok(Some(Value::OPEN));
                }
                Some(Value::Null(Some(self.absent(Absence::Place { name: "history.state".to_owned() }))))
            }
            Kind::Instance("NamedNodeMap") if platform::member("NamedNodeMap", key).is_none() => {
                self.attribute_member(id, key)
            }
            Kind::Instance("URL") if &**key == "searchParams" => self.parameters_of(id),
            Kind::Instance("Map" | "Set") if &**key == "size" => Some(self.size_of(id)),
            Kind::Instance("CSSStyleSheet") if matches!(&**key, "cssRules" | "rules") => self.rules_of(id),
            Kind::Instance("Map" | "Set" | "WeakMap" | "WeakSet") if key.parse::<usize>().is_ok() => {
                Some(Value::Undefined(Some(self.absent(Absence::Place { name: key.to_string() }))))
            }
            // How long it is, is not kept.
            Kind::Instance(of) if of.ends_with("Array") && key.parse::<usize>().is_ok() => Some(Value::OPEN),
            Kind::Instance("Storage") if platform::member("Storage", key).is_none() => {
                Some(self.stored(id, key, Value::UNDEFINED))
            }
            Kind::QueryFunction => Some(self.query_static(key)),
            Kind::Query(elements, absence) => {
                let (elements, absence) = (elements.clone(), *absence);
                Some(self.query_member(elements, absence, key))
            }
            Kind::Native(..) if &**key == "length" => Some(Value::A_NUMBER),
            Kind::Function(_) if &**key == "name" => Some(Value::Some("String", Doubt::Page)),
            Kind::Function(_) if &**key == "prototype" => {
                let prototype = self.make(Kind::Plain);
                self.object_mut(prototype).members.insert(Self::name("constructor"), Value::Object(id));
                self.object_mut(prototype).marks.entry(Self::name("constructor")).or_default().is_unlisted =
                    true;
                self.object_mut(id).members.insert(Arc::clone(key), Value::Object(prototype));
                Some(Value::Object(prototype))
            }
            Kind::Other(_, perhaps) if &**key == "prototype" => {
                // Whatever is set there, all that comes of it has.
                let perhaps = *perhaps;
                self.object_mut(perhaps).is_open = true;
                Some(Value::OPEN)
            }
            Kind::Class(..) if &**key == "prototype" => Some(Value::OPEN),
            Kind::RegExp(_) if &**key == "lastIndex" => Some(Value::OPEN),
            _ => None,
        })
    }

    /// A member of an object of a script whose name is nearly that one: its own, or one that it inherits.
    pub(super) fn near_own(&self, of: ObjectId, name: &str) -> Option<String> {
        const LONGEST: usize = 20;
        let line = std::iter::successors(Some(of), |at| self.object(*at).parent).take(LONGEST);
        let mut names: Vec<&str> = Vec::new();
        for at in line {
            let object = self.object(at);
            let is_listed = |key: &&Arc<str>| !object.marks.get(*key).is_some_and(|mark| mark.is_unlisted);
            names.extend(object.members.keys().filter(is_listed).map(|key| &**key));
        }
        names.retain(|own| !own.starts_with(['#', '@']));
        crate::source::nearest(name, names).map(str::to_owned)
    }

    fn member_of_window(&mut self, key: &Arc<str>) -> Run<Value> {
        if self.is_lexical(key) {
            return Ok(self.missing_place(&format!("window.{key}")));
        }
        Ok(match self.global_value(key)? {
            Some(found) => found,
            None => Value::Undefined(Some(self.absent(Absence::Global { name: key.to_string() }))),
        })
    }

    /// Whether a name is that of a global of another script which is no member of `window`, and nothing else is.
    fn is_lexical(&mut self, key: &str) -> bool {
        let is_set = |this: &Self| this.world.sets_member(key);
        platform::global(key).is_none()
            && self.world.is_lexical(key)
            && !self.once(&format!("#sets {key}"), is_set)
            && !self.is_set_here(key)
            && self.world.global(key, self.is_later) == GlobalState::There
    }

    /// Whether nothing has set a handler of the window by then (HTML, "event handler IDL attributes").
    fn has_no_handler(&self, key: &str) -> bool {
        let is_handler = key.starts_with("on") && platform::global(key).is_some();
        is_handler
            && !self.is_later
            && !self.touched.attributes.contains(&*format!("window {key}"))
            && self.world.knows_all()
            && !self.world.mentions(key)
            && self
                .world
                .document()
                .body()
                .is_none_or(|body| body.data().attr(&super::lookups::local(key)).is_none())
    }

    /// What an object has by what it inherits from.
    fn inherited_member(&mut self, id: ObjectId, key: &Arc<str>, span: Span) -> Run<Value> {
        let mut at = self.object(id).parent;
        let mut is_open = self.object(id).is_open;
        let mut is_bare = self.object(id).is_bare;
        for _ in 0..20 {
            let Some(parent) = at else { break };
            let object = self.object(parent);
            if let Some(own) = object.members.get(key).cloned() {
                return match self.kind(&own).cloned() {
                    Some(Kind::Getter(getter)) => {
                        self.call(&getter, Value::Object(id), Arguments::default(), span)
                    }
                    _ => Ok(own),
                };
            }
            is_open |= object.is_open;
            is_bare |= object.is_bare;
            at = object.parent;
        }
        // A list has its methods, whatever else is in it.
        let is_method = match &self.object(id).kind {
            Kind::Array(_) => platform::member("Array", key).is_some_and(|own| own.is_function),
            Kind::List(of, _) => platform::member(of, key).is_some_and(|own| own.is_function),
            _ => false,
        };
        if is_open && !is_method && !self.has_never(id, key) {
            return Ok(Value::OPEN);
        }
        match self.interface_of(&Value::Object(id)) {
            Some(_) if is_bare => Ok(self.missing_place(key)),
            Some(of) if self.may_be_given(id, of, key) => Ok(Value::OPEN),
            Some(of) => {
                let object = self.object(id);
                let is_instance =
                    matches!(object.kind, Kind::Instance(_)) && !object.members.contains_key(EXACT);
                let is_own = matches!(object.kind, Kind::Plain | Kind::Class(..) | Kind::Other(..));
                Ok(match self.platform_member(of, key, is_instance) {
                    Value::Undefined(_) if is_own => {
                        let absence = Absence::OwnMember { of: id, name: Arc::clone(key) };
                        Value::Undefined(Some(self.absent(absence)))
                    }
                    found => found,
                })
            }
            None => Ok(Value::OPEN),
        }
    }

    /// Whether something of which not all is known has no member of that name for certain: a name is a slip of a method
    /// that it has (`foreach`), or one of other interfaces. Nobody gives a list such a member.
    fn has_never(&mut self, id: ObjectId, key: &str) -> bool {
        const OF_ELEMENTS: &[&str] = &["classList", "dataset", "innerHTML", "style", "textContent"];
        let (of, others): (_, &[Interface]) = match &self.object(id).kind {
            Kind::Array(_) => ("Array", &["String", "Number", "Promise"]),
            Kind::List(of, _) => (of, &["Array", "String", "Number", "Promise"]),
            Kind::Instance(of) if is_keeper(of) => (of, &[]),
            _ => return false,
        };
        if platform::member(of, key).is_some()
            || platform::member("Object", key).is_some()
            || self.is_set_here(key)
        {
            return false;
        }
        let is_slip =
            platform::near(of, key).is_some_and(|near| near.eq_ignore_ascii_case(key) || near.len() > 4);
        let is_of_elements = OF_ELEMENTS.contains(&key)
            || platform::member("HTMLElement", key).is_some_and(|member| member.is_function);
        let is_strange =
            is_keeper(of) || is_of_elements || others.iter().any(|of| platform::member(of, key).is_some());
        let is_set = |this: &Self| this.world.sets_member(key);
        (is_slip && !self.world.mentions(key)) || (is_strange && !self.once(&format!("#sets {key}"), is_set))
    }

    /// Whether another script may have given this node a member of its own: it was handed a node and says the name, or
    /// sets a member of that name.
    fn may_be_given(&mut self, id: ObjectId, of: Interface, key: &str) -> bool {
        if !matches!(self.object(id).kind, Kind::Element(_) | Kind::Document)
            || platform::member(of, key).is_some()
        {
            return false;
        }
        let is_handed = self.object(id).members.contains_key(HANDED) && self.world.mentions(key);
        let is_set = |this: &Self| this.world.sets_member(key);
        is_handed || !is_method_of_sets(key) && self.once(&format!("#sets {key}"), is_set)
    }

    /// A member of one element that a list of elements is asked for.
    pub(super) fn of_list(&self, of: Interface, name: &str, throws: bool) -> Option<RunFaultKind> {
        const LISTS: &[&str] = &["NodeList", "HTMLCollection", "HTMLAllCollection", "RadioNodeList", SETS];
        let is_list = LISTS.contains(&of);
        let is_elements = platform::member(of, name).is_none() && is_of_elements(name);
        (is_list && is_elements).then(|| RunFaultKind::OfList {
            of: of.to_owned(),
            name: name.to_owned(),
            throws,
        })
    }

    /// The value that stands for an element of the page.
    pub(super) fn page_element(&mut self, node: crate::markup::NodeId) -> Value {
        self.element(Node::Page(node))
    }

    pub(super) fn element(&mut self, node: Node) -> Value {
        if let Some(id) = self.elements.get(&node) {
            return Value::Object(*id);
        }
        let region = self.region;
        if matches!(node, Node::Page(_)) {
            self.region = 0;
        }
        let id = self.make(Kind::Element(node));
        self.region = region;
        self.elements.insert(node, id);
        Value::Object(id)
    }
}

/// Whether what an object of this interface is given is kept in it, and its members are those of the interface.
pub(super) fn is_keeper(of: Interface) -> bool {
    const KEEPERS: &[&str] = &["FormData", "Headers", "Map", "Set", "URLSearchParams", "WeakMap", "WeakSet"];
    KEEPERS.contains(&of)
}

fn math_constant(name: &str) -> Value {
    Value::Number(match name {
        "PI" => std::f64::consts::PI,
        "E" => std::f64::consts::E,
        "SQRT2" => std::f64::consts::SQRT_2,
        "LN2" => std::f64::consts::LN_2,
        "LN10" => std::f64::consts::LN_10,
        _ => return Value::OPEN,
    })
}
