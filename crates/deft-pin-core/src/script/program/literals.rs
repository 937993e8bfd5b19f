//! Globals that are made of literals alone, and then left as they are: what they come to is worked out.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::sketching::Sketcher;
use super::{Expression, ExpressionId, Item, Key, ObjectPart, Program, Variable};

/// Functions of the language that make something of what they are given.
const FUNCTIONS: &[(&str, &[&str])] = &[
    ("Array", &["from", "of"]),
    ("JSON", &["parse"]),
    ("Object", &["entries", "freeze", "fromEntries", "keys", "values"]),
];
/// Methods of texts and lists that make something new.
const METHODS: &[&str] = &[
    "concat", "entries", "flat", "keys", "padEnd", "padStart", "repeat", "replace", "replaceAll", "slice",
    "split", "toLowerCase", "toReversed", "toSorted", "toUpperCase", "trim", "values",
];
/// Constructors of what has keys.
const CONSTRUCTORS: &[&str] = &["Map", "Set"];
/// What is asked of such values, and leaves them as they are.
const READING: &[&str] = &[
    "at", "entries", "every", "filter", "find", "findIndex", "flatMap", "forEach", "get", "has", "includes",
    "indexOf", "join", "keys", "length", "map", "size", "slice", "some", "values",
];
/// What the text of an element is asked by.
const TEXTS: &[&str] = &["innerHTML", "text", "textContent"];
/// So deep literals stand in each other.
const DEEPEST: u32 = 20;

impl Sketcher<'_> {
    /// The globals that are declared with what is made of literals, and left alone by the script.
    pub(super) fn of_literals(&self) -> FxHashMap<Arc<str>, ExpressionId> {
        let program = self.program;
        let top = &program.top;
        let mut found: FxHashMap<Variable, ExpressionId> = FxHashMap::default();
        for variable in top.plain.iter().chain(&top.late) {
            let given = self.handlings.given_to.get(variable).map_or(0, Vec::len);
            if let Some(value) = self.handlings.declared_with.get(variable)
                && given == 1
                && program.is_made_of_literals(*value)
            {
                found.insert(*variable, *value);
            }
        }
        if found.is_empty() {
            return FxHashMap::default();
        }
        let mut read: FxHashMap<Variable, u32> = FxHashMap::default();
        let mut uses: FxHashMap<Variable, u32> = FxHashMap::default();
        for (_, expression) in &program.expressions {
            match expression {
                Expression::Local(variable) => *uses.entry(*variable).or_default() += 1,
                Expression::Member { object, key: Key::Name(name), .. } if READING.contains(&&**name) => {
                    if let Expression::Local(variable) = program.expression(*object) {
                        *read.entry(*variable).or_default() += 1;
                    }
                }
                _ => {}
            }
        }
        let is_left = |variable: &Variable| uses.get(variable) == read.get(variable);
        let found = found.into_iter().filter(|(variable, _)| is_left(variable));
        found.map(|(variable, value)| (Arc::clone(program.name(variable)), value)).collect()
    }
}

impl Program {
    /// Whether an expression calls something of the language, and is made of literals otherwise.
    fn is_made_of_literals(&self, id: ExpressionId) -> bool {
        let is_called = matches!(self.expression(id), Expression::Call { .. } | Expression::New { .. });
        is_called && self.is_of_literals(id, 0)
    }

    fn is_of_literals(&self, id: ExpressionId, depth: u32) -> bool {
        if depth > DEEPEST {
            return false;
        }
        let is_item = |item: &Item| matches!(item, Item::Value(id) if self.is_of_literals(*id, depth + 1));
        match self.expression(id) {
            Expression::Null | Expression::Boolean(_) | Expression::Number(_) | Expression::Text(_) => true,
            Expression::RegExp(_) => true,
            Expression::Template { values, .. } => values.is_empty(),
            Expression::Array(items) => items.iter().all(is_item),
            Expression::Object(parts) => parts.iter().all(|part| {
                matches!(part, ObjectPart::Value(Key::Name(_), value) if self.is_of_literals(*value, depth + 1))
            }),
            Expression::New { callee, arguments } => {
                matches!(self.expression(*callee), Expression::Global(name) if CONSTRUCTORS.contains(&&**name))
                    && arguments.iter().all(is_item)
            }
            Expression::Call { callee, arguments, .. } => {
                let Expression::Member { object, key: Key::Name(name), .. } = self.expression(*callee) else {
                    return false;
                };
                let is_function = match self.expression(*object) {
                    Expression::Global(of) => {
                        FUNCTIONS.iter().any(|own| own.0 == &**of && own.1.contains(&&**name))
                    }
                    _ => METHODS.contains(&&**name) && self.is_of_literals(*object, depth + 1),
                };
                let is_data = **name == *"parse" && matches!(arguments[..], [Item::Value(id)] if self.is_text_of_element(id));
                is_function && (is_data || arguments.iter().all(is_item))
            }
            _ => false,
        }
    }

    /// `document.getElementById("data").textContent`
    fn is_text_of_element(&self, id: ExpressionId) -> bool {
        let Expression::Member { object, key: Key::Name(name), .. } = self.expression(id) else {
            return false;
        };
        let Expression::Call { arguments, .. } = self.expression(*object) else { return false };
        let is_named =
            matches!(arguments[..], [Item::Value(id)] if matches!(self.expression(id), Expression::Text(_)));
        TEXTS.contains(&&**name) && self.is_lookup(*object) && is_named
    }
}
