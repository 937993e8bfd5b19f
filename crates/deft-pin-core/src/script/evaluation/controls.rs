//! Controls of forms: their labels, and what they have before anybody has touched them (HTML, "Form controls").

use std::sync::Arc;

use super::lookups::local;
use super::machine::{Machine, Turn};
use super::value::{Node, Value};
use crate::markup::{Document, ElementRef, NodeId};

/// Types of `input` whose value is any text.
const OF_TEXT: &[&str] = &["", "text", "search", "email", "url", "tel", "password", "hidden"];

/// Elements that a form lists as its controls (HTML, "listed elements").
pub(super) const LISTED: &[&str] = &["button", "fieldset", "input", "object", "output", "select", "textarea"];

/// So many `select`s of a listener are gone through, and so many options of each.
const MOST_CHOICES: usize = 2;
const MOST_OPTIONS: usize = 8;

/// The options of a `select`, each with its value.
fn options_of(document: &Document, select: NodeId) -> Vec<(NodeId, String)> {
    let elements = document.descendants(select).filter_map(|id| document.element(id));
    let options = elements.filter(|own| own.data().is_html(&local("option")));
    let value = |own: ElementRef<'_>| match own.data().attr(&local("value")) {
        Some(value) => value.to_owned(),
        None => text_of_option(document, own.id),
    };
    options.map(|own| (own.id, value(own))).collect()
}

/// The value of a `select` in which nothing is chosen: no option has it.
const NONE: &str = "\0";

/// The text of an option (HTML, "the text IDL attribute").
fn text_of_option(document: &Document, id: NodeId) -> String {
    document.text_of(id).split_ascii_whitespace().collect::<Vec<_>>().join(" ")
}

/// Which of its options a `select` begins with (HTML, "ask for a reset").
fn first_chosen(document: &Document, select: NodeId, options: &[(NodeId, String)]) -> Option<usize> {
    let has = |id: NodeId, name: &str| {
        document.element(id).is_some_and(|own| own.data().attr(&local(name)).is_some())
    };
    let marked = options.iter().rposition(|(id, _)| has(*id, "selected"));
    let shows_one = !has(select, "multiple") && !has(select, "size");
    marked.or_else(|| options.iter().position(|(id, _)| !has(*id, "disabled")).filter(|_| shows_one))
}

/// Whether elements of a name can have labels (HTML, "labelable elements").
pub(super) fn is_labelled(tag: &str) -> bool {
    matches!(tag, "button" | "input" | "meter" | "output" | "progress" | "select" | "textarea")
}

/// Types of `input`; others are `text` (HTML, "The input element").
const TYPES: &[&str] = &[
    "button", "checkbox", "color", "date", "datetime-local", "email", "file", "hidden", "image", "month",
    "number", "password", "radio", "range", "reset", "search", "submit", "tel", "text", "time", "url",
    "week",
];

impl Machine<'_> {
    /// The labels of a control at present (HTML, "The label element"); none where that cannot be told.
    pub(super) fn labels_of(&mut self, node: Node) -> Option<Value> {
        let is_vague = self.presence.vague.has_names() || self.presence.vague.attributes.contains("for");
        if is_vague || self.others_may_change() {
            return None;
        }
        let control = self.present_node(node)?;
        self.charge(self.present_document()?.count() / 20);
        let document = self.present_document()?;
        let id = document.element(control)?.data().id().map(str::to_owned);
        let labels = document.elements().filter(|own| own.data().is_html(&local("label")));
        let found: Vec<NodeId> = labels
            .filter(|label| match label.data().attr(&local("for")) {
                Some(of) => id.as_deref() == Some(of),
                None => {
                    let mut inside = document.descendants(label.id).filter_map(|at| document.element(at));
                    inside.find(|own| is_labelled(&own.data().name.local)).map(|own| own.id) == Some(control)
                }
            })
            .map(|label| label.id)
            .collect();
        let items = found.into_iter().map(|id| self.present_value(id)).collect();
        Some(self.list("NodeList", items, None))
    }

    /// The type of an element at present; none where that cannot be told.
    pub(super) fn type_at_present(&mut self, node: Node, tag: &str) -> Option<Value> {
        let fixed = match tag {
            "textarea" | "fieldset" | "output" => tag,
            "select" => match self.attribute_at_present(node, "multiple")? {
                Value::Null(_) => "select-one",
                _ => "select-multiple",
            },
            "input" | "button" => {
                let own = match self.attribute_at_present(node, "type")? {
                    Value::Text(own) => own.to_ascii_lowercase(),
                    _ => String::new(),
                };
                let (known, otherwise) = match tag {
                    "input" => (TYPES, "text"),
                    _ => (&["button", "reset", "submit"][..], "submit"),
                };
                known.iter().find(|known| **known == own).copied().unwrap_or(otherwise)
            }
            _ => return None,
        };
        Some(Value::text(fixed))
    }

    /// Whether a `select` has no option of that value, for certain.
    pub(super) fn lacks_option(&mut self, node: Node, value: &str) -> bool {
        self.options_for_certain(node).is_some_and(|options| options.iter().all(|(_, own)| own != value))
    }

    /// The same by its number.
    pub(super) fn lacks_choice(&mut self, node: Node, at: f64) -> bool {
        self.options_for_certain(node).is_some_and(|options| at >= options.len() as f64)
    }

    /// The options of a `select` that has some, where nobody else puts in more.
    fn options_for_certain(&mut self, node: Node) -> Option<Vec<(NodeId, String)>> {
        if !self.is_present() || self.others_may_change() {
            return None;
        }
        let (id, document) = (self.present_id(node)?, self.present_document()?);
        Some(options_of(document, id)).filter(|options| !options.is_empty())
    }

    /// The values that a visitor can give a `select`.
    pub(super) fn choices_of(&self, node: Node) -> Vec<Arc<str>> {
        let (Some(id), Some(document)) = (self.present_id(node), self.present_document()) else {
            return Vec::new();
        };
        let is_open = |id: NodeId| {
            let own = document.element(id).map(|own| own.data());
            own.is_some_and(|own| {
                own.attr(&local("disabled")).is_none() && own.attr(&local("hidden")).is_none()
            })
        };
        let is_one = document.element(id).is_some_and(|own| own.data().attr(&local("multiple")).is_none());
        let options = options_of(document, id).into_iter().filter(|(id, _)| is_one && is_open(*id));
        options.map(|(_, value)| Arc::from(value)).take(MOST_OPTIONS).collect()
    }

    /// Whether nobody has touched the page yet, and no script has changed the states of its elements: so it is on a
    /// first visit until a visitor does something.
    pub(super) fn is_untouched(&mut self) -> bool {
        const WORDS: &[&str] =
            &["value", "val", "checked", "selected", "selectedIndex", "prop", "focus", "click"];
        let is_before = self.turn.is_none_or(|turn| turn < Turn::Visitor);
        if self.presence.vague.states || !is_before {
            return false;
        }
        let is_left_alone = self.once("#other states", |this| {
            this.world.knows_all() && !WORDS.iter().any(|word| this.world.acts_with(word))
        });
        self.asks.first |= is_left_alone;
        is_left_alone && self.visit.is_first
    }

    /// `value`, `text` or `label` of an option (HTML, "The option element").
    pub(super) fn option_member(&mut self, node: Node, key: &str) -> Option<Value> {
        if let ("value", Some(given)) = (key, self.presence.values.get(&node)) {
            return Some(Value::Text(Arc::clone(given)));
        }
        if self.presence.vague.states {
            return None;
        }
        if key != "text" {
            match self.attribute_at_present(node, key)? {
                Value::Text(own) if key == "value" || !own.is_empty() => return Some(Value::Text(own)),
                _ => {}
            }
        }
        if self.presence.vague.texts || self.others_change_texts() {
            return None;
        }
        let id = self.present_node(node)?;
        Some(Value::text(&text_of_option(self.present_document()?, id)))
    }

    /// `value` of an `input` that visitors do not write in (HTML, "value", modes default and default/on).
    fn fixed_value(&mut self, node: Node) -> Option<Value> {
        let kind = match self.attribute_at_present(node, "type")? {
            Value::Text(kind) => kind.to_ascii_lowercase(),
            _ => return None,
        };
        let otherwise = match &*kind {
            "checkbox" | "radio" => "on",
            "hidden" | "submit" | "button" | "reset" | "image" => "",
            _ => return None,
        };
        if let Some(given) = self.presence.values.get(&node) {
            return Some(Value::Text(Arc::clone(given)));
        }
        if self.presence.vague.states {
            return None;
        }
        Some(match self.attribute_at_present(node, "value")? {
            value @ Value::Text(_) => value,
            _ => Value::text(otherwise),
        })
    }

    /// `value`, `checked` or `selectedIndex` of a control; none where that cannot be told.
    pub(super) fn control_member(&mut self, node: Node, key: &str) -> Option<Value> {
        let id = self.present_node(node)?;
        let tag = self.tag_of(node);
        if let ("input", "value") = (&*tag, key)
            && let Some(value) = self.fixed_value(node)
        {
            return Some(value);
        }
        // It is the attribute (HTML, "dom-button-value").
        if let ("button", "value") = (&*tag, key) {
            return match self.attribute_at_present(node, "value")? {
                Value::Null(_) => Some(Value::text("")),
                known => Some(known),
            };
        }
        let given = self.presence.values.get(&node).cloned();
        if given.is_none() && !self.is_untouched() {
            let is_choice = &*tag == "select" && matches!(key, "value" | "selectedIndex" | "selectedOptions");
            let is_new = !self.asked_choices.contains(&node) && self.asked_choices.len() < MOST_CHOICES;
            if is_choice && is_new && self.turn == Some(Turn::Visitor) {
                self.asked_choices.push(node);
            }
            return None;
        }
        let document = self.present_document()?;
        let own = document.element(id)?.data();
        match (&*tag, key) {
            ("select", "value" | "selectedIndex" | "selectedOptions") => {
                let options = options_of(document, id);
                let at = match given {
                    Some(given) => options.iter().position(|(_, value)| **value == *given),
                    None => first_chosen(document, id, &options),
                };
                if key == "selectedOptions" {
                    let chosen = at.map(|at| options[at].0);
                    let items = chosen.into_iter().map(|id| self.present_value(id)).collect();
                    return Some(self.list("HTMLCollection", items, None));
                }
                Some(match (key, at) {
                    ("value", Some(at)) => Value::text(&options[at].1),
                    ("value", None) => Value::text(""),
                    (_, at) => Value::Number(at.map_or(-1.0, |at| at as f64)),
                })
            }
            ("input", "value") => {
                let kind = own.attr(&local("type")).unwrap_or_default().to_ascii_lowercase();
                let is_text = OF_TEXT.contains(&&*kind);
                match (given, own.attr(&local("value"))) {
                    (Some(given), _) => is_text.then_some(Value::Text(given)),
                    (None, Some(value)) => is_text.then(|| Value::text(value)),
                    (None, None) => {
                        let is_empty = is_text || matches!(&*kind, "number" | "date" | "time" | "file");
                        is_empty.then(|| Value::text(""))
                    }
                }
            }
            ("textarea", "value") => {
                Some(given.map_or_else(|| Value::text(&document.text_of(id)), Value::Text))
            }
            ("input", "checked") if own.attr(&local("type")) == Some("checkbox") && given.is_none() => {
                Some(Value::Boolean(own.attr(&local("checked")).is_some()))
            }
            _ => None,
        }
    }

    /// The form that a control is of (HTML, "form owner").
    pub(super) fn form_of(&mut self, node: Node) -> Option<Value> {
        if !LISTED.contains(&&*self.tag_of(node)) || self.presence.vague.attributes.contains("form") {
            return None;
        }
        let id = self.present_node(node)?;
        let own = self.present_document()?.element(id)?;
        if own.data().attr(&local("form")).is_some() {
            return None;
        }
        let form =
            own.and_ancestors().find(|around| around.data().is_html(&local("form"))).map(|form| form.id);
        match form {
            Some(form) => Some(self.present_value(form)),
            None => self.nothing_there("form"),
        }
    }

    /// `value` of an element is set (HTML, "value").
    pub(super) fn sets_value(&mut self, node: Node, value: &Value) {
        let kind = match &*self.tag_of(node) {
            // What is in it is its value.
            "output" => return self.set_at_present(node, "textContent", value),
            "button" | "data" | "li" | "meter" | "option" | "param" | "progress" => String::new(),
            "input" => match self.attribute_at_present(node, "type") {
                Some(Value::Text(kind)) => kind.to_ascii_lowercase(),
                _ => return self.gets_value(node, value),
            },
            _ => return self.gets_value(node, value),
        };
        const BY_ATTRIBUTE: &[&str] =
            &["", "button", "checkbox", "hidden", "image", "radio", "reset", "submit"];
        if BY_ATTRIBUTE.contains(&&*kind) {
            let given = self.as_text(value).ok().map(Some);
            self.gives_at_present(node, Some("value"), given);
        }
        self.gets_value(node, value);
    }

    /// An option of a `select` is chosen; none where it is not known which that leaves.
    pub(super) fn chooses(&mut self, node: Node, key: &str, value: &Value) -> Option<()> {
        let id = self.present_node(node)?;
        let document = self.present_document()?;
        let select = match key {
            "selectedIndex" => document.element(id)?,
            _ => document
                .element(id)?
                .and_ancestors()
                .find(|around| around.data().is_html(&local("select")))?,
        };
        let is_one =
            select.data().is_html(&local("select")) && select.data().attr(&local("multiple")).is_none();
        let options = options_of(document, select.id);
        self.charge(options.len());
        let chosen = match (key, value) {
            ("selectedIndex", value) if is_one => match self.as_number(value) {
                Ok(at) if at >= 0.0 && options.get(at as usize).is_some() => &options[at as usize],
                Ok(_) => {
                    let select = self.present_value(select.id);
                    let select = self.node_of(&select)?;
                    self.gets_value(select, &Value::text(NONE));
                    return Some(());
                }
                Err(_) => return None,
            },
            ("selected", Value::Boolean(true)) => options.iter().find(|(own, _)| *own == id)?,
            _ => return None,
        };
        // Which one it is, is kept by its value.
        let is_alone = options.iter().filter(|(_, value)| *value == chosen.1).count() == 1;
        let (select, value) = (select.id, Value::text(&chosen.1));
        let select = self.present_value(select);
        let select = self.node_of(&select).filter(|_| is_one && is_alone)?;
        self.gets_value(select, &value);
        Some(())
    }

    /// A control gets a value.
    pub(super) fn gets_value(&mut self, node: Node, value: &Value) {
        match self.as_text(value) {
            Ok(text) if self.changes_surely() => {
                self.presence.soon_vague.states = true;
                self.presence.values.insert(node, text);
            }
            _ => {
                self.presence.values.remove(&node);
                self.presence.vague.states = true;
            }
        }
    }
}
