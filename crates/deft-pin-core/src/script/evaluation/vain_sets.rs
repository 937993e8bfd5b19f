//! What a script sets or names, and nothing comes of it.

use oxc_syntax::operator::BinaryOperator;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::Machine;
use super::platform::{self, Interface};
use super::value::{Kind, ObjectId, Value};
use crate::script::program::{Expression, ExpressionId, Key};
use crate::script::style_names::property_of;
use crate::source::Span;
use crate::style;

/// Members that keep a text.
const TEXTS: &[&str] = &[
    "alt", "className", "cookie", "href", "id", "innerHTML", "innerText", "outerHTML", "placeholder", "src",
    "textContent", "title", "value",
];
/// Members that keep markup or text, in which an element may be meant.
const CONTENTS: &[&str] = &["innerHTML", "innerText", "outerHTML", "textContent"];
/// What people write for members that are called otherwise.
const OTHERWISE: &[(&str, &str)] = &[
    ("check", "checked"),
    ("class", "className"),
    ("content", "textContent"),
    ("css", "style.cssText"),
    ("disable", "disabled"),
    ("for", "htmlFor"),
    ("hide", "hidden"),
    ("html", "innerHTML"),
    ("link", "href"),
    ("source", "src"),
    ("text", "textContent"),
    ("url", "href"),
];
/// Members that only some elements have.
const OF_OTHERS: &[&str] = &[
    "action", "alt", "checked", "disabled", "href", "max", "maxLength", "min", "placeholder", "poster",
    "readOnly", "rel", "required", "selected", "src", "srcset", "target", "value",
];
/// What people write for attributes: members of elements.
const MEMBERS: &[&str] = &["innerHTML", "innerText", "outerHTML", "textContent"];

impl Machine<'_> {
    /// A member of an element, the document or a store is set to something that it does not keep.
    pub(super) fn check_kept(&mut self, id: ObjectId, key: &str, value: &Value, span: Span) {
        let of = match &self.object(id).kind {
            Kind::Element(node) => self.interface_of_node(*node),
            Kind::Document => "HTMLDocument",
            Kind::Instance("Storage") => "Storage",
            _ => return,
        };
        let is_plain = self.is_without_text(value);
        let is_text = || of == "Storage" || (TEXTS.contains(&key) && platform::member(of, key).is_some());
        if is_plain && is_text() {
            let given = self.written_value("an object");
            self.gives_vainly(
                key,
                &given,
                "a text: of an object it keeps `[object Object]` alone",
                Some(format!("JSON.stringify({given})")),
                span,
            );
        } else if is_plain && key == "style" && of != "Storage" {
            let given = self.written_value("an object");
            let takes = "a text of declarations";
            self.gives_vainly(key, &given, takes, Some("Object.assign(element.style, …)".to_owned()), span);
        } else if CONTENTS.contains(&key) && matches!(self.kind(value), Some(Kind::Element(_))) {
            let given = self.written_value("an element");
            let takes = "a text: of an element it keeps its type alone";
            self.gives_vainly(key, &given, takes, Some(format!("element.replaceChildren({given})")), span);
        } else if of != "Storage" {
            self.check_handler(of, key, value, span);
            self.check_truth(of, key, value, span);
        }
    }

    /// A handler that is no function.
    pub(super) fn check_handler(&mut self, of: Interface, key: &str, value: &Value, span: Span) {
        let is_handler = key.starts_with("on")
            && platform::member(of, key)
                .or_else(|| platform::global(key))
                .is_some_and(|own| !own.is_function);
        if !is_handler {
            return;
        }
        let called = self.assigned.and_then(|own| match self.program.expression(own) {
            Expression::Call { callee, .. } => Some(self.written(self.program.span(*callee))),
            _ => None,
        });
        match (value, called) {
            (Value::Undefined(_) | Value::Number(_) | Value::Boolean(_), Some(what)) => {
                self.note(span, RunFaultKind::CalledAtOnce { what });
            }
            (Value::Text(text), _) => {
                let given = format!("\"{text}\"");
                self.gives_vainly(key, &given, "a function", Some(format!("() => {{ {text} }}")), span);
            }
            _ => {}
        }
    }

    /// A text for what is true or false: any text is true.
    fn check_truth(&mut self, of: Interface, key: &str, value: &Value, span: Span) {
        let Value::Text(text) = value else { return };
        let is_truth =
            platform::member(of, key).is_some_and(|own| own.result == "boolean") || key == "hidden";
        if is_truth && is_no(text) && platform::member(of, key).is_some() {
            let takes = "`true` or `false`: any text counts as `true`";
            self.gives_vainly(key, &format!("\"{text}\""), takes, Some("false".to_owned()), span);
        }
    }

    /// Whether a value is an object that has no text of its own.
    fn is_without_text(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        let has_text = || {
            object
                .members
                .keys()
                .any(|key| matches!(&**key, "toString" | "valueOf" | "toJSON") || key.starts_with("@@"))
        };
        matches!(object.kind, Kind::Plain) && !object.is_open && object.parent.is_none() && !has_text()
    }

    /// What was set last, as the script has it.
    fn written_value(&self, otherwise: &str) -> String {
        const LONGEST: usize = 40;
        let written = self.assigned.map(|own| self.written(self.program.span(own)));
        written.filter(|own| own.len() <= LONGEST).unwrap_or_else(|| otherwise.to_owned())
    }

    fn gives_vainly(&mut self, method: &str, given: &str, takes: &str, write: Option<String>, span: Span) {
        let kind = RunFaultKind::VainArgument {
            method: method.to_owned(),
            given: given.to_owned(),
            takes: takes.to_owned(),
            write,
        };
        self.note(span, kind);
    }

    pub(super) fn is_vain(&mut self, says: String, write: Option<String>, span: Span) {
        self.note(span, RunFaultKind::Vain { says, write });
    }

    /// A member that an element does not have, and that nobody reads: a property of styles, a member of other elements,
    /// a name that people write for another.
    pub(super) fn check_foreign(&mut self, of: Interface, key: &str, span: Span) {
        if !of.starts_with("HTML") || self.is_named_again(key) {
            return;
        }
        let otherwise = OTHERWISE.iter().find(|(own, _)| *own == key).map(|(_, member)| *member);
        let near = match otherwise {
            Some("style.cssText") => Some("style.cssText".to_owned()),
            Some(member) => platform::member(of, member).map(|_| member.to_owned()),
            None if is_of_styles(key) => Some(format!("style.{key}")),
            None => None,
        };
        if let Some(near) = near {
            let kind = RunFaultKind::IgnoredMember { of: of.to_owned(), name: key.to_owned(), near };
            self.note(span, kind);
        } else if OF_OTHERS.contains(&key) {
            let says = format!("an element of this type has no `{key}`, others have");
            self.is_vain(says, None, span);
        }
    }

    /// A property that no style has.
    pub(super) fn check_unknown_property(&mut self, key: &str, span: Span) {
        const PREFIXES: &[&str] = &["webkit", "moz", "ms", "o"];
        let lower = key.to_ascii_lowercase();
        let is_prefixed =
            PREFIXES.iter().any(|own| lower.strip_prefix(own).is_some_and(|rest| !rest.is_empty()));
        let is_name = key.bytes().all(|byte| byte.is_ascii_alphabetic());
        if is_name
            && !is_prefixed
            && !self.is_named_again(key)
            && platform::member("CSSStyleDeclaration", key).is_none()
        {
            self.is_vain(format!("there is no property `{key}`"), None, span);
        }
    }

    /// Whether a member of that name stands anywhere else.
    fn is_named_again(&mut self, key: &str) -> bool {
        let is_part = |c: char| c.is_alphanumeric() || matches!(c, '_' | '$');
        self.once(&format!("#again {key}"), |this| {
            let is_whole = |at: usize| {
                let before = this.text[..at].chars().next_back();
                let behind = this.text[at + key.len()..].chars().next();
                !before.is_some_and(is_part) && !behind.is_some_and(is_part)
            };
            this.text.match_indices(key).filter(|(at, _)| is_whole(*at)).count() > 1
                || this.world.mentions(key)
        })
    }

    /// A member of a text or a number is set: neither keeps it.
    pub(super) fn sets_vainly(&mut self, of: Interface, key: &str, span: Span) {
        let what = match of {
            "String" => "a text",
            "Number" => "a number",
            "Boolean" => "a truth value",
            _ => return,
        };
        // Of a drawing it may be an object.
        if key == "baseVal" {
            return;
        }
        self.is_vain(format!("{what} keeps no member, and so not `{key}`"), None, span);
    }

    /// A statement that compares, or names a function, and does nothing.
    pub(super) fn check_idle(&mut self, id: ExpressionId, value: &Value) {
        let program = self.program;
        let span = program.span(id);
        match program.expression(id) {
            Expression::Binary(BinaryOperator::Equality | BinaryOperator::StrictEquality, left, right)
                if matches!(
                    program.expression(*left),
                    Expression::Member { key: Key::Name(_), .. } | Expression::Local(_)
                ) =>
            {
                let (left, right) = (self.written(program.span(*left)), self.written(program.span(*right)));
                let says =
                    format!("this compares `{left}` with `{right}`, and nothing is done with the answer");
                self.is_vain(says, Some(format!("{left} = {right}")), span);
            }
            Expression::Member { key: Key::Name(_), .. }
                if matches!(self.kind(value), Some(Kind::Native(..) | Kind::Function(_))) =>
            {
                let what = self.written(span);
                self.is_vain(format!("`{what}` is named and not called"), Some(format!("{what}()")), span);
            }
            _ => {}
        }
    }

    /// What functions of the platform pass over.
    pub(super) fn check_vain_call(&mut self, of: Interface, name: &str, arguments: &Arguments, span: Span) {
        match name {
            "setAttribute" => self.check_attribute(arguments, span),
            "setProperty" if of == "CSSStyleDeclaration" => {
                if let Value::Text(priority) = arguments.get(2)
                    && !priority.is_empty()
                    && !priority.eq_ignore_ascii_case("important")
                {
                    let takes = "as a priority `important` or nothing";
                    self.gives_vainly(name, &priority, takes, Some("\"important\"".to_owned()), span);
                }
            }
            "toggleAttribute" => {
                if let Value::Text(text) = arguments.get(1)
                    && is_no(&text)
                {
                    let takes = "`true` or `false`: any text counts as `true`";
                    self.gives_vainly(name, &format!("\"{text}\""), takes, Some("false".to_owned()), span);
                }
            }
            "scrollIntoView" => {
                if let Value::Text(text) = arguments.get(0) {
                    let takes = "`true`, `false` or an object of options";
                    let write = format!("{{ behavior: \"{text}\" }}");
                    self.gives_vainly(name, &format!("\"{text}\""), takes, Some(write), span);
                }
            }
            "setTimeout" | "setInterval" => {
                let is_name = |text: &str| {
                    text.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '$' | '.'))
                        && text.starts_with(|c: char| !c.is_ascii_digit())
                };
                if let Value::Text(text) = arguments.get(0)
                    && is_name(&text)
                {
                    let takes = "a function: code that only names one calls nothing";
                    self.gives_vainly(name, &format!("\"{text}\""), takes, Some(text.to_string()), span);
                }
            }
            _ => {}
        }
    }

    /// An attribute that nobody reads, or one that says yes whatever stands in it.
    fn check_attribute(&mut self, arguments: &Arguments, span: Span) {
        let Value::Text(name) = arguments.get(0) else { return };
        let given = arguments.get(1);
        let lower = name.to_ascii_lowercase();
        if MEMBERS.contains(&&*name) {
            self.gives_vainly(
                "setAttribute",
                &name,
                "the name of an attribute",
                Some(format!("element.{name} = …")),
                span,
            );
        } else if matches!(&*name, "className" | "htmlFor") {
            let write = if &*name == "className" { "class" } else { "for" };
            self.gives_vainly(
                "setAttribute",
                &name,
                "the name of an attribute",
                Some(write.to_owned()),
                span,
            );
        } else if let Some(property) = name.strip_prefix("style.") {
            let write = Some(format!("element.style.{property} = …"));
            self.gives_vainly("setAttribute", &name, "the name of an attribute", write, span);
        } else if arguments.values.len() > 1
            && YES.contains(&&*lower)
            && matches!(&given, Value::Boolean(false) | Value::Undefined(_) | Value::Null(_))
        {
            let given = if matches!(given, Value::Boolean(_)) { "false" } else { "nothing" };
            let takes = format!("for `{name}` anything as yes");
            self.gives_vainly(
                "setAttribute",
                given,
                &takes,
                Some(format!("removeAttribute(\"{name}\")")),
                span,
            );
        }
    }
}

/// Attributes that say yes by being there (HTML, "boolean attributes").
const YES: &[&str] = &[
    "async", "autofocus", "autoplay", "checked", "controls", "default", "defer", "disabled",
    "formnovalidate", "hidden", "inert", "loop", "multiple", "muted", "novalidate", "open", "playsinline",
    "readonly", "required", "reversed", "selected",
];

/// Whether a name is that of a property of styles, and hardly one that people give to what they keep in an element.
fn is_of_styles(key: &str) -> bool {
    const OWN: &[&str] = &["all", "content", "marker", "offset", "order", "page", "size"];
    key.len() > 2 && !OWN.contains(&key) && style::is_property(&property_of(key))
}

/// Whether a text is meant as no.
fn is_no(text: &str) -> bool {
    matches!(text.to_ascii_lowercase().as_str(), "false" | "no" | "off")
}
