//! Comparisons with what is never there.

use oxc_syntax::operator::{BinaryOperator, UnaryOperator};

use super::machine::{Machine, Run};
use super::platform;
use super::vain_sets::leading_number;
use super::value::{Absence, Kind, Value};
use crate::script::program::{Expression, ExpressionId, Key};
use crate::script::style_names::property_of;
use crate::source::nearest;
use crate::style;

/// What `typeof` gives (ECMA-262, "The typeof Operator").
const TYPES: &[&str] =
    &["bigint", "boolean", "function", "number", "object", "string", "symbol", "undefined"];
/// What gives an element or `null`.
const LOOKUPS: &[&str] = &["closest", "getAttribute", "getElementById", "getItem", "querySelector"];
/// What gives a number.
const NUMBERS: &[&str] = &[
    "findIndex", "getDate", "getDay", "getFullYear", "getHours", "getMinutes", "getMonth", "getSeconds",
    "getTime", "indexOf", "lastIndexOf", "search",
];
/// What gives `true` or `false`.
const TRUTHS: &[&str] =
    &["contains", "endsWith", "every", "hasAttribute", "includes", "matches", "some", "startsWith", "test"];
/// What gives a text or `null`.
const TEXTS: &[&str] = &["getAttribute", "getItem"];

/// A test that says nothing, and what to write.
pub(super) type Told = (String, Option<String>);

pub(super) fn told(says: String, write: impl Into<Option<String>>) -> Option<Told> {
    Some((says, write.into()))
}

/// Sizes and places that people ask of what does not have them: of which interface, by which name, and what it is.
const SIZES: &[(&str, &str, &str)] = &[
    ("Document", "height", "document.documentElement.scrollHeight"),
    ("Document", "scrollTop", "document.documentElement.scrollTop"),
    ("Document", "width", "document.documentElement.clientWidth"),
    ("Element", "height", "clientHeight"),
    ("Element", "width", "clientWidth"),
    ("Window", "height", "innerHeight"),
    ("Window", "scrollLeft", "scrollX"),
    ("Window", "scrollTop", "scrollY"),
    ("Window", "width", "innerWidth"),
];

impl Machine<'_> {
    /// A comparison with what the script has there as it stands: what is compared with that, and where it is a member,
    /// what it is a member of.
    pub(super) fn compared_operand(&mut self, id: ExpressionId, other: ExpressionId) -> Run<(Value, Value)> {
        match self.program.expression(id) {
            Expression::Member { .. } if self.is_fixed(other) => self.member_and_owner(id),
            _ => Ok((self.expression(id)?, Value::UNDEFINED)),
        }
    }

    /// Whether an expression is a text, a number or a name of the language.
    fn is_fixed(&self, id: ExpressionId) -> bool {
        match self.program.expression(id) {
            Expression::Text(_) | Expression::Number(_) | Expression::Boolean(_) => true,
            Expression::Global(name) => matches!(&**name, "NaN" | "undefined"),
            // What is made where it stands is no other object.
            Expression::Array(_)
            | Expression::Object(_)
            | Expression::Function(_)
            | Expression::New { .. } => true,
            _ => false,
        }
    }

    /// A test for what never is.
    pub(super) fn check_comparison(
        &mut self,
        operator: BinaryOperator,
        (asked, value, of): (ExpressionId, &Value, &Value),
        fixed: ExpressionId,
    ) {
        if !self.is_fixed(fixed) {
            return self.check_chain(operator, asked, fixed);
        }
        if operator.is_compare() {
            self.check_chain(operator, asked, fixed);
        }
        let is_strict = matches!(operator, BinaryOperator::StrictEquality | BinaryOperator::StrictInequality);
        let told = match operator.is_equality() {
            true => self.never_equal(asked, value, of, fixed, is_strict),
            false => self.never_less(operator, asked, value, of, fixed),
        };
        if let Some((says, write)) = told {
            self.is_vain(says, write, self.program.span(asked));
        }
    }

    fn never_equal(
        &self,
        asked: ExpressionId,
        value: &Value,
        of: &Value,
        fixed: ExpressionId,
        is_strict: bool,
    ) -> Option<Told> {
        let program = self.program;
        // Most comparisons tell nothing, and are not written out.
        let written = || self.written(program.span(asked));
        let given = || self.written(program.span(fixed));
        match (program.expression(asked), program.expression(fixed)) {
            (_, Expression::Array(_) | Expression::Object(_) | Expression::Function(_))
                if is_strict || matches!(value, Value::Object(_)) =>
            {
                told(format!("`{}` is made here, and is no other object", given()), None)
            }
            (_, Expression::New { .. }) if matches!(value, Value::Object(_)) => {
                told(format!("`{}` is made here, and is no other object", given()), None)
            }
            (
                _,
                Expression::Array(_)
                | Expression::Object(_)
                | Expression::Function(_)
                | Expression::New { .. },
            ) => None,
            (_, Expression::Global(name)) if **name == *"NaN" => {
                told("nothing equals `NaN`, not even itself".into(), format!("Number.isNaN({})", written()))
            }
            (Expression::Unary(UnaryOperator::Typeof, _), Expression::Global(_)) => {
                told("`typeof` gives a text".into(), "\"undefined\"".to_owned())
            }
            (Expression::Unary(UnaryOperator::Typeof, inner), Expression::Text(text))
                if !TYPES.contains(&&**text) =>
            {
                let inner = self.written(program.span(*inner));
                let write = match text.to_ascii_lowercase().as_str() {
                    "null" => Some(format!("{inner} === null")),
                    "array" => Some(format!("Array.isArray({inner})")),
                    "nan" => Some(format!("Number.isNaN({inner})")),
                    lower => nearest(lower, TYPES.iter().copied()).map(|near| format!("\"{near}\"")),
                };
                told(format!("`typeof` never gives `{text}`"), write)
            }
            (
                Expression::Unary(UnaryOperator::LogicalNot, inner),
                Expression::Text(_) | Expression::Number(_),
            ) if is_strict => {
                let inner = self.written(program.span(*inner));
                told(
                    format!("`{}` is `true` or `false`, and never {}", written(), given()),
                    format!("{inner} !== {}", given()),
                )
            }
            (Expression::Call { .. }, _) if matches!(self.kind(value), Some(Kind::Promise(_))) => {
                let (written, given) = (written(), given());
                told(format!("`{written}` gives a promise, and never {given}"), format!("await {written}"))
            }
            (Expression::Call { callee, .. }, fixed) => {
                let Expression::Member { key: Key::Name(name), .. } = program.expression(*callee) else {
                    return None;
                };
                let name = &**name;
                match fixed {
                    Expression::Global(_)
                        if is_strict && LOOKUPS.contains(&name) && value.doubt().is_none() =>
                    {
                        told(format!("`{name}` gives `null` and never `undefined`"), "null".to_owned())
                    }
                    Expression::Boolean(_) | Expression::Number(_)
                        if is_strict && TEXTS.contains(&name) && is_text_or_nothing(value) =>
                    {
                        let given = given();
                        told(format!("`{name}` gives a text, and never {given}"), format!("\"{given}\""))
                    }
                    Expression::Text(_) | Expression::Boolean(_)
                        if is_strict && NUMBERS.contains(&name) && value.primitive() == Some("Number") =>
                    {
                        told(format!("`{name}` gives a number, and never {}", given()), None)
                    }
                    Expression::Text(_) | Expression::Number(_)
                        if is_strict && TRUTHS.contains(&name) && value.primitive() == Some("Boolean") =>
                    {
                        told(format!("`{name}` gives `true` or `false`, and never {}", given()), written())
                    }
                    Expression::Number(number) => never_of_date(name, *number),
                    Expression::Text(text) => never_in_case(name, text),
                    _ => None,
                }
            }
            (Expression::Global(name), fixed) => {
                platform::global(name).filter(|own| !own.is_function && own.result == "number")?;
                match fixed {
                    Expression::Text(text) if is_strict => {
                        told(format!("`{name}` is a number, and never a text"), text.to_string())
                    }
                    _ => None,
                }
            }
            (Expression::Member { key: Key::Name(name), .. }, Expression::Number(_))
                if matches!(value, Value::Undefined(_)) && self.near_of_missing(name, value).is_some() =>
            {
                told(format!("there is no `{name}` here"), self.near_of_missing(name, value))
            }
            (Expression::Member { key: Key::Name(name), .. }, fixed) => {
                self.never_of_member((name, asked), of, value, fixed, is_strict)
            }
            _ => None,
        }
    }

    fn never_of_member(
        &self,
        (name, asked): (&str, ExpressionId),
        of: &Value,
        value: &Value,
        fixed: &Expression,
        is_strict: bool,
    ) -> Option<Told> {
        let Value::Object(id) = of else { return None };
        let of = match self.object(*id).kind {
            Kind::Dataset(_) => "DOMStringMap",
            _ => self.interface_of(of)?,
        };
        let is_own = self.object(*id).members.get(name).is_some_and(|own| own.doubt().is_none());
        if is_own && !of.ends_with("Event") && of != "Location" {
            return None;
        }
        let member = match of {
            "Window" => platform::global(name),
            _ => platform::member(of, name),
        };
        let result = match (of, member) {
            (_, Some(_)) if name == "hidden" => match fixed {
                Expression::Text(text) if **text == *"until-found" => return None,
                _ => "boolean",
            },
            ("DOMStringMap" | "Storage", None) => "string",
            ("CSSStyleDeclaration", _) if style::is_property(&property_of(name)) => "string",
            (_, Some(member)) if !member.is_function => member.result.trim_end_matches('?'),
            _ => return None,
        };
        let written = self.written(self.program.span(asked));
        match (result, fixed) {
            ("string", Expression::Number(number)) if is_strict && is_text_or_nothing(value) => {
                told(format!("`{written}` is a text, and never the number {number}"), format!("\"{number}\""))
            }
            ("string", Expression::Boolean(is)) if is_strict && is_text_or_nothing(value) => {
                told(format!("`{written}` is a text, and never {is}"), format!("\"{is}\""))
            }
            ("number", Expression::Text(text)) if is_strict => {
                told(format!("`{written}` is a number, and never the text \"{text}\""), text.to_string())
            }
            ("boolean", Expression::Text(text)) if !matches!(&**text, "" | "0" | "1") || is_strict => {
                told(format!("`{written}` is `true` or `false`, and never a text"), written)
            }
            ("string", Expression::Text(text)) => self.never_text(of, name, &written, text),
            // An object is no text.
            ("EventTarget" | "Element" | "HTMLElement" | "Node", Expression::Text(text)) if is_strict => {
                let write =
                    text.starts_with(['#', '.', '[']).then(|| format!("{written}.matches(\"{text}\")"));
                told(format!("`{written}` is an element, and never a text"), write)
            }
            _ => None,
        }
    }

    /// The name of a member that is meant by one that is not there.
    fn near_of_missing(&self, name: &str, value: &Value) -> Option<String> {
        let Value::Undefined(Some(absence)) = value else { return None };
        match self.absences.get(absence.0 as usize)? {
            Absence::Member { of, .. } => {
                let is_it = |row: &&(&str, &str, &str)| row.1 == name && platform::extends(of, row.0);
                let otherwise = SIZES.iter().find(is_it).map(|row| row.2);
                otherwise.or_else(|| platform::near(of, name)).map(str::to_owned)
            }
            Absence::Global { .. } => {
                SIZES.iter().find(|row| row.0 == "Window" && row.1 == name).map(|row| row.2.to_owned())
            }
            _ => None,
        }
    }

    /// What is neither less nor more than a text that is no number, and an element that is asked for its length.
    fn never_less(
        &self,
        operator: BinaryOperator,
        asked: ExpressionId,
        value: &Value,
        of: &Value,
        fixed: ExpressionId,
    ) -> Option<Told> {
        let program = self.program;
        let written = || self.written(program.span(asked));
        match (program.expression(asked), program.expression(fixed)) {
            (Expression::Call { callee, .. }, Expression::Number(number))
                if matches!(operator, BinaryOperator::GreaterThan | BinaryOperator::GreaterEqualThan) =>
            {
                let Expression::Member { key: Key::Name(name), .. } = program.expression(*callee) else {
                    return None;
                };
                // From what it has to be on.
                let least = match operator {
                    BinaryOperator::GreaterThan => number.floor() + 1.0,
                    _ => number.ceil(),
                };
                never_of_date(name, least).filter(|_| least > 0.0 && &**name != "getYear")
            }
            (_, Expression::Text(text))
                if matches!(value, Value::Number(_) | Value::Some("Number", _))
                    && self.as_number(&Value::text(text)).is_ok_and(f64::is_nan) =>
            {
                let write = leading_number(text);
                told(format!("`{}` is a number, and \"{text}\" is none", written()), write)
            }
            (Expression::Member { key: Key::Name(name), .. }, Expression::Number(_))
                if self.near_of_missing(name, value).is_some() =>
            {
                told(format!("there is no `{name}` here"), self.near_of_missing(name, value))
            }
            (Expression::Member { key: Key::Name(name), .. }, Expression::Number(_))
                if **name == *"length" && matches!(value, Value::Undefined(_)) =>
            {
                let Some(Kind::Element(_)) = self.kind(of) else { return None };
                let written = written();
                let of = written.strip_suffix(".length").unwrap_or(&written);
                told(format!("`{of}` is one element and has no `length`"), of.to_owned())
            }
            _ => None,
        }
    }
}

fn is_text_or_nothing(value: &Value) -> bool {
    value.primitive() == Some("String")
        || value.is_nothing() == Ok(true)
        || matches!(value, Value::Unknown(_))
}

/// A text that has letters which are none any more.
fn never_in_case(name: &str, text: &str) -> Option<Told> {
    let (write, says) = match name {
        "toLowerCase" | "toLocaleLowerCase" => (text.to_lowercase(), "small"),
        "toUpperCase" | "toLocaleUpperCase" => (text.to_uppercase(), "capital"),
        _ => return None,
    };
    let is_plain = text.is_ascii() && write != text;
    if !is_plain {
        return None;
    }
    told(format!("`{name}` gives {says} letters, and never \"{text}\""), format!("\"{write}\""))
}

/// A number that a part of a date never is (ECMA-262, "Date.prototype").
fn never_of_date(name: &str, number: f64) -> Option<Told> {
    let (range, write) = match name {
        "getMonth" | "getUTCMonth" => (0.0..=11.0, (number == 12.0).then_some("11")),
        "getDay" | "getUTCDay" => (0.0..=6.0, (number == 7.0).then_some("0")),
        "getDate" | "getUTCDate" => (1.0..=31.0, None),
        "getHours" | "getUTCHours" => (0.0..=23.0, (number == 24.0).then_some("0")),
        "getMinutes" | "getSeconds" | "getUTCMinutes" | "getUTCSeconds" => (0.0..=59.0, None),
        "getYear" if number > 1900.0 => {
            return told("`getYear` counts from 1900".into(), format!("getFullYear() === {number}"));
        }
        _ => return None,
    };
    if range.contains(&number) {
        return None;
    }
    told(
        format!("`{name}` gives {} to {}, and never {number}", range.start(), range.end()),
        write.map(str::to_owned),
    )
}
