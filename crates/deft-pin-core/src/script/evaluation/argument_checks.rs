//! Arguments that the platform refuses (WebIDL, "Overload resolution algorithm" and "JavaScript type mapping").

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Stop};
use super::platform::{self, Interface};
use super::platform_calls::{ArgumentType, Needs, needs, required_members, typed_members, words};
use super::value::{Kind, Value};
use crate::source::{Span, nearest};

/// Where `insertAdjacentHTML` and its like put something, whatever the case.
const PLACES: &[&str] = &["beforebegin", "afterbegin", "beforeend", "afterend"];

/// What is wrong with an argument.
pub(super) struct Refusal {
    pub(super) takes: String,
    pub(super) write: Option<String>,
    /// What was given, where that is a member of the argument.
    pub(super) given: Option<String>,
}

impl Refusal {
    fn new(takes: impl Into<String>) -> Self {
        Refusal { takes: takes.into(), write: None, given: None }
    }
}

/// How a function of the platform is written: `new` is a constructor, `!` stands before what an interface itself has.
pub(super) fn method_name(of: Interface, name: &str) -> String {
    if name == "new" { format!("new {of}") } else { name.trim_start_matches('!').to_owned() }
}

impl Machine<'_> {
    /// What is thrown where a function of the platform is given less than it needs, or something of another type.
    pub(super) fn refused_call(
        &mut self,
        of: Interface,
        name: &str,
        arguments: &Arguments,
        span: Span,
    ) -> Option<Stop> {
        let needs = needs(of, name)?;
        if arguments.values.len() < needs.count && !arguments.is_open {
            let method = method_name(of, name);
            let (takes, given) = (needs.count, arguments.values.len());
            return Some(self.throws(span, RunFaultKind::TooFewArguments { method, takes, given }));
        }
        let (at, refusal) = self.first_refusal(name, needs, arguments)?;
        let method = method_name(of, name);
        let value = arguments.get(at);
        if let Value::Undefined(_) | Value::Null(_) = value {
            return self.no_node(&method, &value, arguments, at, span);
        }
        let written = arguments.expressions.get(at).map(|own| self.written(self.program.span(*own)));
        let given = refusal.given.or(written).unwrap_or_else(|| "this".to_owned());
        let kind =
            RunFaultKind::RefusedArgument { method, given, takes: refusal.takes, write: refusal.write };
        Some(self.throws(span, kind))
    }

    /// The same for a method of an object, or of an interface itself.
    pub(super) fn refused_platform_call(
        &mut self,
        of: Interface,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Option<Stop> {
        // It tells more of what it refuses.
        if name == "dispatchEvent" {
            return None;
        }
        match self.is_constructor(this) {
            true => self.refused_call(of, &format!("!{name}"), arguments, span),
            false => self.refused_call(of, name, arguments, span),
        }
    }

    fn first_refusal(&self, name: &str, needs: Needs, arguments: &Arguments) -> Option<(usize, Refusal)> {
        if matches!(name, "insertAdjacentHTML" | "insertAdjacentElement" | "insertAdjacentText")
            && let Value::Text(place) = arguments.get(0)
            && !PLACES.iter().any(|own| own.eq_ignore_ascii_case(&place))
        {
            return Some((0, word_refusal(&place, PLACES.iter().copied())));
        }
        let given = arguments.values.iter().enumerate();
        given.zip(needs.types()).find_map(|((at, value), (wanted, may_be_null))| {
            let is_left_out = at >= needs.count && matches!(value, Value::Undefined(_));
            let is_null = may_be_null && matches!(value, Value::Undefined(_) | Value::Null(_));
            if is_left_out || is_null {
                return None;
            }
            Some((at, self.refusal(value, wanted)?))
        })
    }

    /// Whether an object cannot be gone over, for certain.
    pub(super) fn is_no_list(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        if object.is_open {
            return false;
        }
        match &object.kind {
            Kind::Plain => matches!(self.method_by_symbol(*id, "iterator"), Ok(None)),
            Kind::Element(node) => !matches!(&*self.tag_of(*node), "form" | "select"),
            Kind::Document | Kind::Date(_) | Kind::RegExp(_) | Kind::Promise(_) | Kind::Function(_) => true,
            // What can be gone over has one of these.
            Kind::Instance(of) => {
                platform::interface(of).is_some()
                    && !["entries", "forEach", "length", "next", "values"]
                        .iter()
                        .any(|name| platform::member(of, name).is_some())
            }
            _ => false,
        }
    }

    /// What a value is, in as few words as a script writes it.
    pub(super) fn named(&self, value: &Value) -> String {
        match (value, self.as_text(value)) {
            (Value::Text(text), _) => format!("\"{text}\""),
            (Value::Undefined(_), _) => "undefined".to_owned(),
            (Value::Number(_) | Value::Boolean(_) | Value::Null(_), Ok(text)) => text.to_string(),
            _ => self.interface_of(value).unwrap_or("{…}").to_owned(),
        }
    }

    /// Why a value is none of a type; none where it may be one.
    pub(super) fn refusal(&self, value: &Value, wanted: ArgumentType) -> Option<Refusal> {
        let is_primitive = value.primitive().is_some();
        let is_nothing = value.is_nothing() == Ok(true);
        match wanted {
            ArgumentType::Any => None,
            ArgumentType::Interface(of) => {
                let is_other = match self.kind(value) {
                    // What else has been given such members stands for one.
                    Some(Kind::Query(..) | Kind::Plain | Kind::Array(_) | Kind::List(..)) => true,
                    Some(Kind::Instance(own)) => {
                        !platform::extends(own, of) && !platform::extends(of, own) && !own.is_empty()
                    }
                    // An element is of its tag's interface, and of no other.
                    Some(Kind::Element(_) | Kind::Document | Kind::Window) => {
                        self.interface_of(value).is_some_and(|own| !platform::extends(own, of))
                    }
                    _ => false,
                };
                let is_open = matches!(value, Value::Object(id) if self.object(*id).is_open && !matches!(self.object(*id).kind, Kind::Array(_) | Kind::List(..)));
                (is_primitive || is_nothing || is_other && !is_open).then(|| {
                    Refusal::new(match of {
                        "Element" | "Node" | "HTMLElement" => "an element".to_owned(),
                        _ if of.starts_with(['A', 'E', 'I', 'O']) => format!("an `{of}`"),
                        _ => format!("a `{of}`"),
                    })
                })
            }
            ArgumentType::Function | ArgumentType::Listener => {
                let is_object = matches!(
                    self.kind(value),
                    Some(Kind::Plain | Kind::Array(_) | Kind::List(..) | Kind::Element(_))
                ) && wanted == ArgumentType::Function;
                (is_primitive || is_nothing || is_object).then(|| {
                    let called = matches!(value, Value::Text(text) if text.ends_with("()"));
                    let write = match value {
                        Value::Text(text) if called => Some(text.trim_end_matches("()").to_owned()),
                        _ => None,
                    };
                    Refusal { write, ..Refusal::new("a function") }
                })
            }
            ArgumentType::Object => (is_primitive || is_nothing).then(|| Refusal::new("an object")),
            ArgumentType::List => {
                (is_primitive || is_nothing || self.is_no_list(value)).then(|| Refusal::new("a list"))
            }
            ArgumentType::ListOf(of) => {
                if let Some(refusal) = self.refusal(value, ArgumentType::List) {
                    return Some(refusal);
                }
                let Some(Kind::Array(items)) = self.kind(value) else { return None };
                let refused = items.iter().find(|item| {
                    let is_it = self.refusal(item, ArgumentType::Interface(of)).is_some();
                    // A place that is left out is none of a list that is told whole.
                    is_it && !matches!(item, Value::Undefined(None))
                })?;
                let takes = match of {
                    "Element" => "a list of elements".to_owned(),
                    _ => format!("a list of `{of}`"),
                };
                Some(Refusal { given: Some(format!("[{}]", self.named(refused))), ..Refusal::new(takes) })
            }
            ArgumentType::Number => {
                let is_none = self.as_number(value).is_ok_and(|number| !number.is_finite());
                is_none.then(|| Refusal::new("a number"))
            }
            ArgumentType::Word(of) => match value {
                Value::Text(text) if !words(of).any(|word| word == &**text) => {
                    Some(word_refusal(text, words(of)))
                }
                _ => None,
            },
            ArgumentType::Options(of, may_be_other) => {
                if is_primitive && !may_be_other {
                    return Some(Refusal::new("an object with options"));
                }
                let Value::Object(id) = value else { return None };
                let object = self.object(*id);
                let is_whole =
                    matches!(object.kind, Kind::Plain) && !object.is_open && object.parent.is_none();
                let lacks =
                    |member: &&str| matches!(object.members.get(*member), None | Some(Value::Undefined(_)));
                if let Some(member) = required_members(of).find(lacks).filter(|_| is_whole && !may_be_other) {
                    let (takes, given) =
                        (format!("an object with `{member}`"), format!("none with `{member}`"));
                    return Some(Refusal { given: Some(given), ..Refusal::new(takes) });
                }
                if !matches!(object.kind, Kind::Plain) {
                    return None;
                }
                typed_members(of).find_map(|(member, (wanted, may_be_null))| {
                    let value = object.members.get(member)?;
                    // One that is `undefined` is not there.
                    let is_left_out = matches!(value, Value::Undefined(_))
                        || matches!(value, Value::Null(_))
                            && (may_be_null || matches!(wanted, ArgumentType::Options(..)));
                    let refusal = self.refusal(value, wanted).filter(|_| !is_left_out)?;
                    let is_word = matches!(wanted, ArgumentType::Word(_));
                    let given = refusal.given.filter(|_| !is_word).unwrap_or_else(|| self.named(value));
                    let write = refusal.write.map(|word| match is_word {
                        true => format!("{member}: \"{word}\""),
                        false => format!("{member}: {word}"),
                    });
                    Some(Refusal {
                        takes: format!("for `{member}` {}", refusal.takes),
                        write,
                        given: Some(format!("{member}: {given}")),
                    })
                })
            }
        }
    }
}

/// A word that is none of those that are taken.
fn word_refusal(given: &str, words: impl Iterator<Item = &'static str> + Clone) -> Refusal {
    let all: Vec<&str> = words.clone().filter(|word| !word.is_empty()).collect();
    let takes = match all.as_slice() {
        [only] => format!("`{only}` alone"),
        many if many.len() < 9 => {
            format!("one of {}", many.iter().map(|word| format!("`{word}`")).collect::<Vec<_>>().join(", "))
        }
        _ => "another word".to_owned(),
    };
    let near = nearest(&given.to_ascii_lowercase(), words).map(str::to_owned);
    Refusal { takes, write: near, given: Some(given.to_owned()) }
}
