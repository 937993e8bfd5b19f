//! What a script sets, and nothing comes of it.

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::Machine;
use super::platform::{self, Interface};
use super::value::{Kind, Node, ObjectId, Value};
use crate::script::program::Expression;
use crate::script::style_names::property_of;
use crate::source::Span;
use crate::style;

/// What people write for members that are called otherwise.
const OTHERWISE: &[(&str, &str)] = &[
    ("check", "checked"),
    ("class", "className"),
    ("content", "textContent"),
    ("css", "style.cssText"),
    ("cssText", "style.cssText"),
    ("disable", "disabled"),
    ("for", "htmlFor"),
    ("hide", "hidden"),
    ("html", "innerHTML"),
    ("link", "href"),
    ("source", "src"),
    ("text", "textContent"),
    ("url", "href"),
    ("val", "value"),
    ("visible", "hidden"),
];
/// Members that only some elements have.
const OF_OTHERS: &[&str] = &[
    "action", "alt", "checked", "disabled", "href", "loop", "max", "maxLength", "min", "multiple", "muted",
    "open", "placeholder", "poster", "readOnly", "rel", "required", "selected", "src", "srcset", "target",
    "value",
];
/// What people write for attributes: members of elements.
const MEMBERS: &[&str] = &["innerHTML", "innerText", "outerHTML", "textContent"];

impl Machine<'_> {
    /// A member of an element, the document or a store is set to something that it does not keep.
    pub(super) fn check_kept(&mut self, id: ObjectId, key: &str, value: &Value, span: Span) {
        let (of, node) = match &self.object(id).kind {
            Kind::Element(node) => (self.interface_of_node(*node), Some(*node)),
            Kind::Document => ("HTMLDocument", None),
            Kind::Instance("Storage") => ("Storage", None),
            _ => return,
        };
        if self.check_text(of, node, key, value, span) || of == "Storage" {
            return;
        }
        if key == "style" && self.is_without_text(value) {
            let given = self.written_value("an object");
            let takes = "a text of declarations";
            self.gives_vainly(key, &given, takes, Some("Object.assign(element.style, …)".to_owned()), span);
        } else if let ("style", Value::Text(text)) = (key, value) {
            self.check_declarations(text, span);
        }
        if let Some(event) = key.strip_prefix("on").filter(|event| platform::is_event(event))
            && value.is_nothing() == Ok(false)
            && of != "HTMLBodyElement"
        {
            self.check_comes(&Value::Object(id), event, &Value::UNDEFINED, span);
        }
        self.check_handler(of, key, value, span);
        self.check_truth(of, key, value, span);
        if let (Some(_), Value::Text(text), Some(rest)) = (node, value, key.strip_prefix("aria"))
            && platform::member(of, key).is_some()
        {
            let attribute = format!("aria-{}", rest.to_ascii_lowercase());
            self.check_spoken(key, &attribute, Some(text), span);
        }
        if let (Some(_), "role", Value::Text(text)) = (node, key, value) {
            self.check_spoken(key, key, Some(text), span);
        }
        if let Some(node) = node {
            self.check_choice(node, key, value, span);
            let is_foreign = OF_OTHERS.contains(&key) && platform::member(of, key).is_none();
            if is_foreign && !self.tag_of(node).contains('-') {
                self.check_foreign(of, key, span);
            }
        }
    }

    /// A value that a control does not take: none of its options, or a mark that it does not have.
    fn check_choice(&mut self, node: Node, key: &str, value: &Value, span: Span) {
        let tag = self.tag_of(node);
        match (&*tag, key, value) {
            ("select", "selectedIndex", Value::Number(at)) if self.lacks_choice(node, *at) => {
                self.gives_vainly(key, &at.to_string(), "the number of one of its options", None, span);
            }
            ("select", "value", Value::Text(text)) if !text.is_empty() && self.lacks_option(node, text) => {
                let takes = "the value of one of its options";
                self.gives_vainly(key, &format!("\"{text}\""), takes, None, span);
            }
            ("input", "checked", _) if matches!(node, Node::Page(_)) => {
                if let Some(Value::Text(kind)) = self.type_at_present(node, &tag)
                    && !matches!(&*kind, "checkbox" | "radio")
                {
                    self.is_vain(format!("an input of type `{kind}` cannot be checked"), None, span);
                }
            }
            _ => {}
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

    pub(super) fn gives_vainly(
        &mut self,
        method: &str,
        given: &str,
        takes: &str,
        write: Option<String>,
        span: Span,
    ) {
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
        } else if of == "HTMLDocument" {
            let of_elements = platform::member("HTMLElement", key).filter(|own| own.is_writable);
            if of_elements.is_some() {
                let of = if key.starts_with("scroll") { "scrollingElement" } else { "body" };
                let says = format!("the document has no `{key}`, elements have");
                self.is_vain(says, Some(format!("document.{of}.{key}")), span);
            }
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
    pub(super) fn is_named_again(&mut self, key: &str) -> bool {
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

    /// What functions of the platform pass over.
    pub(super) fn check_vain_call(&mut self, of: Interface, name: &str, arguments: &Arguments, span: Span) {
        self.check_options(name, arguments, span);
        match name {
            "animate" => self.check_keyframes(arguments, span),
            "scroll" | "scrollBy" | "scrollTo" => self.check_places(name, arguments, span),
            "setAttribute" => self.check_attribute(arguments, span),
            "createElement" => self.check_used(arguments, span),
            "getAttribute" | "hasAttribute" | "removeAttribute" => {
                if let Value::Text(own) = arguments.get(0) {
                    self.check_attribute_name(name, &own, span);
                }
            }
            "append" | "prepend" | "before" | "after" | "replaceWith" | "replaceChildren"
                if matches!(of, "Element" | "Document" | "DocumentFragment" | "CharacterData")
                    || platform::extends(of, "Node") =>
            {
                self.check_put(name, arguments, span);
            }
            "insertAdjacentHTML" => {
                if let Some(written) = arguments.expressions.get(1) {
                    self.check_joined(*written, &arguments.get(1));
                }
                if let Value::Text(text) = arguments.get(1) {
                    self.assigned = arguments.expressions.get(1).copied();
                    self.check_markup(name, &text, span);
                }
            }
            "removeEventListener" => self.check_taken_off(arguments, span),
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
            "insertAdjacentText" => {
                if let Value::Text(text) = arguments.get(1) {
                    self.check_shown(name, &text, span);
                }
            }
            "createTextNode" => {
                if let Value::Text(text) = arguments.get(0) {
                    self.check_shown(name, &text, span);
                }
            }
            "setTimeout" | "setInterval" => {
                if let (Value::Number(_), Some(Kind::Function(_))) =
                    (arguments.get(0), self.kind(&arguments.get(1)))
                {
                    let write = format!("{name}(function, milliseconds)");
                    self.is_vain("the function comes first, and then the time".to_owned(), Some(write), span);
                }
                if let delay @ Value::Text(_) = arguments.get(1)
                    && self.as_number(&delay).is_ok_and(f64::is_nan)
                    && let Value::Text(text) = &delay
                {
                    let takes = "a number of milliseconds: this counts as 0";
                    self.gives_vainly(name, &format!("\"{text}\""), takes, None, span);
                }
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

    /// A name that no attribute has; whether it was told.
    fn check_attribute_name(&mut self, method: &str, name: &str, span: Span) -> bool {
        let write = match name {
            "className" => "class".to_owned(),
            "htmlFor" => "for".to_owned(),
            _ if MEMBERS.contains(&name) => format!("element.{name}"),
            _ if let Some(bare) = name.strip_prefix('[').and_then(|own| own.strip_suffix(']')) => {
                bare.to_owned()
            }
            _ => match name.strip_prefix(['.', '#']) {
                Some(_) if name.starts_with('.') => "class".to_owned(),
                Some(_) => "id".to_owned(),
                None => return false,
            },
        };
        self.gives_vainly(method, name, "the name of an attribute", Some(write), span);
        true
    }

    /// An attribute that nobody reads, or one that says yes whatever stands in it.
    fn check_attribute(&mut self, arguments: &Arguments, span: Span) {
        let Value::Text(name) = arguments.get(0) else { return };
        let given = arguments.get(1);
        let lower = name.to_ascii_lowercase();
        if self.check_attribute_name("setAttribute", &name, span) {
            return;
        }
        let spoken = match &given {
            Value::Text(text) => Some(&**text),
            Value::Boolean(true) => Some("true"),
            Value::Boolean(false) => Some("false"),
            _ => None,
        };
        self.check_spoken("setAttribute", &lower, spoken, span);
        let written = arguments.expressions.get(1).map(|own| self.written(self.program.span(*own)));
        self.assigned = arguments.expressions.get(1).copied();
        if let ("class" | "id", Value::Text(text)) = (&*lower, &given)
            && self.check_marked(&lower, text, span)
        {
            return;
        }
        if let Value::Text(text) = &given
            && self.check_unfilled("setAttribute", text, span)
        {
            return;
        }
        let key = if &*lower == "class" { "className" } else { "setAttribute" };
        let is_code = lower.starts_with("on");
        if !is_code && matches!(given, Value::Object(_)) && self.check_no_text("Element", key, &given, span) {
            return;
        }
        if lower.starts_with("on") && matches!(self.kind(&given), Some(Kind::Function(_))) {
            let (given, write) =
                (written.clone().unwrap_or_default(), written.map(|own| format!("element.{lower} = {own}")));
            let takes =
                format!("for `{name}` a text of code: of a function it makes one that is never called");
            self.gives_vainly("setAttribute", &given, &takes, write, span);
        } else if platform::is_event(&name)
            && platform::member("HTMLElement", &format!("on{name}")).is_some()
            && matches!(&given, Value::Text(text) if text.contains('('))
        {
            self.gives_vainly(
                "setAttribute",
                &name,
                "the name of an attribute",
                Some(format!("on{name}")),
                span,
            );
        } else if let ("style", Value::Text(text)) = (&*lower, &given) {
            self.check_declarations(text, span);
        } else if let Some(property) = name.strip_prefix("style.") {
            let write = Some(format!("element.style.{property} = …"));
            self.gives_vainly("setAttribute", &name, "the name of an attribute", write, span);
        } else if arguments.values.len() > 1
            && YES.contains(&&*lower)
            && match &given {
                Value::Boolean(false) | Value::Undefined(_) | Value::Null(_) => true,
                Value::Text(text) => is_no(text),
                _ => false,
            }
        {
            let given = match &given {
                Value::Boolean(_) => "false",
                Value::Text(text) => text,
                _ => "nothing",
            };
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

/// The number that a text begins with: of `10px` it is `10`.
pub(super) fn leading_number(text: &str) -> Option<String> {
    let end = text.find(|c: char| !c.is_ascii_digit() && c != '.').unwrap_or(text.len());
    (end > 0).then(|| text[..end].to_owned())
}
