//! What expressions of a script come to, as far as they tell by themselves.

use std::sync::Arc;

use indexmap::IndexMap;
use oxc_syntax::operator::{BinaryOperator, LogicalOperator, UnaryOperator};
use rustc_hash::FxBuildHasher;

use super::sketch::{Sketch, SketchedMembers};
use super::sketching::{DEEPEST, Sketcher};
use super::{Expression, ExpressionId, Item, Key, ObjectPart};

/// Of longer lists nobody tells what is in them.
const MOST_ITEMS: usize = 60;

/// What methods come to that have one meaning everywhere.
const TEXTS: &[&str] = &[
    "charAt", "join", "padEnd", "padStart", "repeat", "stringify", "substring", "toDateString", "toFixed",
    "toISOString", "toLocaleDateString", "toLocaleString", "toLocaleTimeString", "toLowerCase",
    "toUpperCase", "trim", "trimEnd", "trimStart",
];
const NOTHING: &[&str] = &["addEventListener", "forEach", "removeEventListener", "setAttribute"];
const NUMBERS: &[&str] = &[
    "charCodeAt", "getDate", "getDay", "getFullYear", "getHours", "getMinutes", "getMonth", "getSeconds",
    "getTime",
];
const BOOLEANS: &[&str] = &["endsWith", "hasAttribute", "isArray", "matches", "startsWith"];
/// What the document, its address and the browser tell in texts.
const TEXT_MEMBERS: &[&str] = &[
    "cookie", "hash", "host", "hostname", "href", "lang", "language", "origin", "pathname", "protocol",
    "referrer", "search", "title", "userAgent",
];
/// Functions of the language.
const FUNCTIONS: &[(&str, Sketch)] = &[
    ("Boolean", Sketch::BOOLEAN),
    ("Number", Sketch::NUMBER),
    ("String", Sketch::TEXT),
    ("decodeURIComponent", Sketch::TEXT),
    ("encodeURIComponent", Sketch::TEXT),
    ("isFinite", Sketch::BOOLEAN),
    ("isNaN", Sketch::BOOLEAN),
    ("parseFloat", Sketch::NUMBER),
    ("parseInt", Sketch::NUMBER),
];
/// Constructors whose objects are known by what they have.
const CONSTRUCTORS: &[&str] = &[
    "AbortController", "Audio", "BroadcastChannel", "DOMParser", "Date", "EventSource", "EventTarget",
    "FileReader", "FormData", "Headers", "Image", "IntersectionObserver", "Map", "MutationObserver",
    "Request", "ResizeObserver", "Response", "Set", "TextDecoder", "TextEncoder", "URL", "URLSearchParams",
    "WeakMap", "WeakSet", "WebSocket", "Worker", "XMLHttpRequest",
];

/// The members of an object that is being put together.
type Gathered = IndexMap<Arc<str>, Sketch, FxBuildHasher>;

impl Sketcher<'_> {
    pub(super) fn expression(&self, id: ExpressionId, depth: u32) -> Sketch {
        if depth > DEEPEST || !self.charge(1) {
            return Sketch::Unknown;
        }
        let inner = |id: &ExpressionId| self.expression(*id, depth + 1);
        match self.program.expression(id) {
            Expression::Null => Sketch::Null,
            Expression::Boolean(own) => Sketch::Boolean(*own),
            Expression::Number(own) => Sketch::Number(*own),
            Expression::Text(text) => Sketch::Text(Arc::clone(text)),
            Expression::Template { texts, .. } => match &texts[..] {
                [text] => Sketch::Text(Arc::clone(text)),
                _ => Sketch::TEXT,
            },
            Expression::Local(variable) => self.variable(*variable, depth + 1),
            Expression::This => Sketch::Receiver,
            Expression::RegExp(_) => Sketch::Instance(Arc::from("RegExp"), SketchedMembers::new()),
            Expression::Global(_) => self.of_platform(id).unwrap_or(Sketch::Unknown),
            Expression::Object(parts) => self.object(parts, depth),
            Expression::Array(items) => self.list(items, depth),
            Expression::Function(id) => self.function(*id, depth),
            Expression::Class(id) => self.class(*id, depth),
            Expression::Unary(operator, value) => match operator {
                UnaryOperator::LogicalNot | UnaryOperator::Delete => Sketch::BOOLEAN,
                UnaryOperator::Typeof => Sketch::TEXT,
                UnaryOperator::UnaryPlus => Sketch::NUMBER,
                UnaryOperator::UnaryNegation => match inner(value) {
                    Sketch::Number(own) => Sketch::Number(-own),
                    Sketch::NUMBER => Sketch::NUMBER,
                    _ => Sketch::Unknown,
                },
                UnaryOperator::Void => Sketch::Nothing,
                _ => Sketch::Unknown,
            },
            Expression::Binary(operator, left, right) => binary(*operator, inner(left), inner(right)),
            // What is stored, or a text.
            Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, right)
                if self.may_be_text(*left) && inner(right).primitive() == Some("String") =>
            {
                Sketch::TEXT
            }
            Expression::Logical(_, left, right) => inner(left).or(inner(right)),
            Expression::Conditional(_, one, other) => inner(one).or(inner(other)),
            Expression::Sequence(all) => all.last().map_or(Sketch::Unknown, inner),
            Expression::Assign { value, .. } => inner(value),
            Expression::Chain(own) => inner(own),
            Expression::Member { object, key: Key::Name(name), .. } => self.member(id, *object, name, depth),
            Expression::Call { callee, arguments, .. } => self.call(*callee, arguments, depth),
            Expression::New { callee, .. } => self.made_new(*callee, depth),
            _ => Sketch::Unknown,
        }
    }

    /// Whether an expression comes to a text or to nothing: what is stored, an attribute.
    fn may_be_text(&self, id: ExpressionId) -> bool {
        let Expression::Call { callee, .. } = self.program.expression(id) else { return false };
        matches!(
            self.program.expression(*callee),
            Expression::Member { key: Key::Name(name), .. } if matches!(&**name, "getAttribute" | "getItem")
        )
    }

    /// The names that lead to a member of a global.
    fn path_of(&self, id: ExpressionId) -> Option<Vec<Arc<str>>> {
        let mut path = Vec::new();
        let mut at = id;
        loop {
            match self.program.expression(at) {
                Expression::Global(name) => {
                    path.push(Arc::clone(name));
                    path.reverse();
                    return Some(path);
                }
                Expression::Member { object, key: Key::Name(name), .. } => {
                    path.push(Arc::clone(name));
                    at = *object;
                }
                _ => return None,
            }
        }
    }

    fn of_platform(&self, id: ExpressionId) -> Option<Sketch> {
        let path = self.path_of(id)?;
        let names = (path.first().map(|name| &**name), path.last().map(|name| &**name));
        Some(match names {
            (Some("document" | "location" | "navigator"), Some(name)) if TEXT_MEMBERS.contains(&name) => {
                Sketch::TEXT
            }
            _ => Sketch::OfPlatform { path, is_called: false, then: None },
        })
    }

    fn member(&self, id: ExpressionId, object: ExpressionId, name: &Arc<str>, depth: u32) -> Sketch {
        match self.of_platform(id) {
            Some(known) => known,
            None => match self.expression(object, depth + 1) {
                Sketch::OfPlatform { path, is_called: true, then: None } => {
                    Sketch::OfPlatform { path, is_called: true, then: Some(Arc::clone(name)) }
                }
                Sketch::List(_) if **name == *"length" => Sketch::NUMBER,
                of if **name == *"length" && of.primitive() == Some("String") => Sketch::NUMBER,
                _ => Sketch::Unknown,
            },
        }
    }

    fn call(&self, callee: ExpressionId, arguments: &[Item], depth: u32) -> Sketch {
        let argument = |at: usize| match arguments.get(at) {
            Some(Item::Value(id)) => self.expression(*id, depth + 1),
            _ => Sketch::Unknown,
        };
        if let Some(id) = self.called_at_once(callee) {
            return self.called(self.program.function(id), depth).without_receiver();
        }
        match self.program.expression(callee) {
            Expression::Global(name) if **name == *"fetch" => Sketch::Promise,
            Expression::Global(name) => match FUNCTIONS.iter().find(|(own, _)| **own == **name) {
                Some((_, result)) => result.clone(),
                None => Sketch::OfPlatform { path: vec![Arc::clone(name)], is_called: true, then: None },
            },
            Expression::Local(variable) => match self.variable(*variable, depth + 1) {
                Sketch::Function { result, .. } => result.without_receiver(),
                _ => Sketch::Unknown,
            },
            Expression::Member { object, key: Key::Name(name), .. } => {
                let of = match self.program.expression(*object) {
                    Expression::Global(of) => &**of,
                    _ => "",
                };
                match (of, &**name) {
                    ("Object", "freeze" | "seal" | "preventExtensions") => argument(0),
                    _ if self.program.is_merging(callee, arguments) => self.merged(arguments, depth),
                    ("JSON", "parse") => match argument(0) {
                        Sketch::Text(text) if arguments.len() == 1 => self.read_json(&text),
                        _ => Sketch::Unknown,
                    },
                    ("Object", "keys" | "values" | "entries" | "getOwnPropertyNames") | ("Array", _) => {
                        Sketch::List(None)
                    }
                    ("Math", _) | ("Date" | "performance", "now") => Sketch::NUMBER,
                    (_, name) if TEXTS.contains(&name) => Sketch::TEXT,
                    (_, name) if NOTHING.contains(&name) => Sketch::Nothing,
                    (_, name) if NUMBERS.contains(&name) => Sketch::NUMBER,
                    (_, name) if BOOLEANS.contains(&name) => Sketch::BOOLEAN,
                    (_, name) => self.method(callee, *object, name, depth),
                }
            }
            _ => Sketch::Unknown,
        }
    }

    fn method(&self, callee: ExpressionId, object: ExpressionId, name: &str, depth: u32) -> Sketch {
        const LISTS: &[&str] = &["concat", "filter", "flat", "flatMap", "map", "slice"];
        match self.expression(object, depth + 1).without_value() {
            Sketch::TEXT if name == "split" => Sketch::List(None),
            Sketch::TEXT if matches!(name, "replace" | "replaceAll" | "slice" | "concat") => Sketch::TEXT,
            Sketch::List(_) if LISTS.contains(&name) => Sketch::List(None),
            Sketch::List(_) if name == "join" => Sketch::TEXT,
            own @ (Sketch::Object(..) | Sketch::Class { .. }) => match own.member(name) {
                Some(Sketch::Function { result, .. }) if **result == Sketch::Receiver => own.clone(),
                Some(Sketch::Function { result, .. }) => (**result).clone(),
                _ => Sketch::Unknown,
            },
            _ => match self.path_of(callee) {
                Some(path) => Sketch::OfPlatform { path, is_called: true, then: None },
                None => Sketch::Unknown,
            },
        }
    }

    fn made_new(&self, callee: ExpressionId, depth: u32) -> Sketch {
        match self.program.expression(callee) {
            Expression::Global(name) if **name == *"Promise" => Sketch::Promise,
            Expression::Global(name) if **name == *"Array" => Sketch::List(None),
            Expression::Global(name) if CONSTRUCTORS.contains(&&**name) => {
                Sketch::Instance(Arc::clone(name), SketchedMembers::new())
            }
            Expression::Local(variable) => match self.variable(*variable, depth + 1) {
                Sketch::Function { makes, .. } | Sketch::Class { makes, .. } if *makes != Sketch::Nothing => {
                    *makes
                }
                _ => Sketch::Unknown,
            },
            _ => Sketch::Unknown,
        }
    }

    fn list(&self, items: &[Item], depth: u32) -> Sketch {
        if items.len() > MOST_ITEMS {
            return Sketch::List(None);
        }
        let item = |item: &Item| match item {
            Item::Value(id) => Some(self.expression(*id, depth + 1)),
            _ => None,
        };
        Sketch::List(items.iter().map(item).collect())
    }

    /// An object with the members of all arguments (ECMA-262, "Object.assign").
    fn merged(&self, arguments: &[Item], depth: u32) -> Sketch {
        let mut members = Gathered::default();
        for argument in arguments {
            let Item::Value(id) = argument else { return Sketch::Unknown };
            if !self.takes_over(&mut members, *id, depth) {
                return Sketch::Unknown;
            }
        }
        Sketch::Object(members.into_iter().collect(), None)
    }

    /// Gives an object the members of another; not, where these are not known.
    fn takes_over(&self, members: &mut Gathered, other: ExpressionId, depth: u32) -> bool {
        match self.expression(other, depth + 1) {
            Sketch::Object(others, _) => {
                members.extend(others);
                true
            }
            Sketch::Null | Sketch::Nothing => true,
            _ => false,
        }
    }

    /// What a text of JSON comes to.
    fn read_json(&self, text: &str) -> Sketch {
        match serde_json::from_str(text) {
            Ok(value) if self.charge(u32::try_from(text.len() / 8).unwrap_or(u32::MAX)) => of_json(value),
            _ => Sketch::Unknown,
        }
    }

    fn object(&self, parts: &[ObjectPart], depth: u32) -> Sketch {
        let mut members = Gathered::default();
        for part in parts {
            let (name, member) = match part {
                ObjectPart::Spread(other) => match self.takes_over(&mut members, *other, depth) {
                    true => continue,
                    false => return Sketch::Unknown,
                },
                ObjectPart::Value(Key::Name(name), value) => (name, self.expression(*value, depth + 1)),
                ObjectPart::Getter(Key::Name(name), _) | ObjectPart::Setter(Key::Name(name), _) => {
                    (name, Sketch::Unknown)
                }
                _ => return Sketch::Unknown,
            };
            // It is inherited from what is given there.
            if **name == *"__proto__" {
                return Sketch::Unknown;
            }
            members.insert(Arc::clone(name), member);
        }
        Sketch::Object(members.into_iter().collect(), None)
    }
}

fn of_json(value: serde_json::Value) -> Sketch {
    use serde_json::Value as Is;
    match value {
        Is::Null => Sketch::Null,
        Is::Bool(is) => Sketch::Boolean(is),
        Is::Number(number) => number.as_f64().map_or(Sketch::NUMBER, Sketch::Number),
        Is::String(text) => Sketch::Text(text.into()),
        Is::Array(items) if items.len() > MOST_ITEMS => Sketch::List(None),
        Is::Array(items) => Sketch::List(Some(items.into_iter().map(of_json).collect())),
        Is::Object(members) => {
            let each = members.into_iter().map(|(name, value)| (name.into(), of_json(value)));
            Sketch::Object(each.collect(), None)
        }
    }
}

fn binary(operator: BinaryOperator, left: Sketch, right: Sketch) -> Sketch {
    use BinaryOperator as Is;
    if let (Is::Addition, Sketch::Text(one), Sketch::Text(other)) = (operator, &left, &right) {
        return Sketch::Text(format!("{one}{other}").into());
    }
    let (left, right) = (left.without_value(), right.without_value());
    match operator {
        Is::Addition if left == Sketch::TEXT || right == Sketch::TEXT => Sketch::TEXT,
        Is::Addition if left != Sketch::NUMBER || right != Sketch::NUMBER => Sketch::Unknown,
        Is::Addition
        | Is::Subtraction
        | Is::Multiplication
        | Is::Division
        | Is::Remainder
        | Is::Exponential => Sketch::NUMBER,
        Is::Equality
        | Is::Inequality
        | Is::StrictEquality
        | Is::StrictInequality
        | Is::LessThan
        | Is::LessEqualThan
        | Is::GreaterThan
        | Is::GreaterEqualThan
        | Is::In
        | Is::Instanceof => Sketch::BOOLEAN,
        _ => Sketch::Unknown,
    }
}
