//! Operators (ECMA-262, "Type Conversion" and "Testing and Comparison Operations").

use std::sync::Arc;

use oxc_syntax::operator::BinaryOperator;

use super::fault::RunFaultKind;
use super::first_visit::written_query;
use super::machine::{Machine, Run, Stop};
use super::piece::{Piece, may_be_seen_as};
use super::platform::Interface;
use super::value::{Doubt, Kind, Moment, Value};
use crate::source::Span;

impl Machine<'_> {
    /// A value as a text, where that is known.
    pub(super) fn as_text(&self, value: &Value) -> Result<Arc<str>, Doubt> {
        Ok(match value {
            Value::Unknown(doubt) | Value::Some(_, doubt) | Value::Pieced(_, doubt) => {
                return Err(*doubt);
            }
            Value::Undefined(_) => Arc::from("undefined"),
            Value::Null(_) => Arc::from("null"),
            Value::Boolean(own) => Arc::from(if *own { "true" } else { "false" }),
            Value::Number(own) => number_text(*own).ok_or(Doubt::Open)?,
            Value::Text(own) => Arc::clone(own),
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Array(items) if !self.object(*id).is_open && items.len() < 200 => {
                    let texts: Result<Vec<Arc<str>>, Doubt> = items
                        .iter()
                        .map(|item| match item {
                            Value::Undefined(_) | Value::Null(_) => Ok(Arc::from("")),
                            Value::Object(_) => Err(Doubt::Open),
                            other => self.as_text(other),
                        })
                        .collect();
                    let joined = texts?.join(",");
                    self.charge(joined.len() / 64);
                    Arc::from(joined)
                }
                Kind::Instance("URLSearchParams") => match self.query_of(value) {
                    Some(pairs) => Arc::from(written_query(&pairs)),
                    None => return Err(Doubt::Open),
                },
                _ => Arc::from(format!("[object {}]", self.said_interface(value).ok_or(Doubt::Open)?)),
            },
        })
    }

    /// What an object says that it is, where it becomes a text, as objects of the platform do that have no text of their own
    /// (WebIDL, "class string").
    fn said_interface(&self, value: &Value) -> Option<Interface> {
        let Value::Object(id) = value else { return None };
        if matches!(self.object(*id).kind, Kind::Dataset(_)) {
            return Some("DOMStringMap");
        }
        let of = self.interface_of(value)?;
        match self.object(*id).kind {
            Kind::List("NodeList" | "HTMLCollection" | "RadioNodeList", _) => Some(of),
            Kind::Element(_) if !matches!(of, "HTMLAnchorElement" | "HTMLAreaElement") => Some(of),
            _ => None,
        }
    }

    /// A value as a number, where that is known.
    pub(super) fn as_number(&self, value: &Value) -> Result<f64, Doubt> {
        Ok(match value {
            Value::Unknown(doubt) | Value::Some(_, doubt) | Value::Pieced(_, doubt) => {
                return Err(*doubt);
            }
            Value::Undefined(_) => f64::NAN,
            Value::Null(_) => 0.0,
            Value::Boolean(own) => f64::from(u8::from(*own)),
            Value::Number(own) => *own,
            Value::Text(own) => text_number(own),
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Date(Moment::At(time) | Moment::Local(time)) => *time,
                Kind::Date(Moment::Now) => return Err(Doubt::Now),
                Kind::Date(Moment::Unknown) => return Err(Doubt::Visit),
                _ => return Err(Doubt::Open),
            },
        })
    }

    pub(super) fn number_value(&self, value: &Value) -> Value {
        match self.as_number(value) {
            Ok(number) => Value::Number(number),
            Err(doubt) => Value::Some("Number", doubt),
        }
    }

    pub(super) fn strictly_equal(&self, left: &Value, right: &Value) -> Result<bool, Doubt> {
        if let (Value::Some(of, _), other) | (other, Value::Some(of, _)) = (left, right)
            && other.is_nothing().is_ok()
            && other.primitive() != Some(of)
        {
            return Ok(false);
        }
        if let Some(are_same) = Self::same_addresses(left, right) {
            return Ok(are_same);
        }
        match (left, right) {
            (Value::Pieced(pieces, _), Value::Text(text)) | (Value::Text(text), Value::Pieced(pieces, _))
                if matches!(&**pieces, [Piece::OneOf(texts)] if !texts.contains(text))
                    || matches!(&**pieces, [Piece::Seen(letters)] if !may_be_seen_as(letters, text)) =>
            {
                Ok(false)
            }
            _ if left.doubt().is_some() || right.doubt().is_some() => {
                Err(left.doubt().max(right.doubt()).unwrap_or(Doubt::Open))
            }
            (Value::Undefined(_), Value::Undefined(_)) | (Value::Null(_), Value::Null(_)) => Ok(true),
            (Value::Number(a), Value::Number(b)) => Ok(a == b),
            // Two that stand for one of an interface may be the same.
            (Value::Object(a), Value::Object(b)) if a != b => {
                let is_vague = |id| matches!(self.object(id).kind, Kind::Instance(_));
                if is_vague(*a) || is_vague(*b) { Err(Doubt::Open) } else { Ok(false) }
            }
            _ => Ok(left.is_same(right)),
        }
    }

    fn loosely_equal(&self, left: &Value, right: &Value) -> Result<bool, Doubt> {
        match (left.is_nothing(), right.is_nothing()) {
            (Ok(a), Ok(b)) if a || b => return Ok(a && b),
            _ => {}
        }
        let is_same_type = matches!(
            (left, right),
            (Value::Text(_), Value::Text(_))
                | (Value::Object(_), Value::Object(_))
                | (Value::Number(_), Value::Number(_))
                | (Value::Boolean(_), Value::Boolean(_))
        );
        if is_same_type || left.doubt().is_some() || right.doubt().is_some() {
            return self.strictly_equal(left, right);
        }
        if matches!(left, Value::Object(_)) || matches!(right, Value::Object(_)) {
            return Err(Doubt::Open);
        }
        Ok(self.as_number(left)? == self.as_number(right)?)
    }

    pub(super) fn binary(
        &mut self,
        operator: BinaryOperator,
        left: &Value,
        right: &Value,
        span: Span,
    ) -> Run<Value> {
        use BinaryOperator as Op;
        let keeps_objects =
            matches!(operator, Op::StrictEquality | Op::StrictInequality | Op::In | Op::Instanceof)
                || matches!((left, right), (Value::Object(_), Value::Object(_)))
                    && matches!(operator, Op::Equality | Op::Inequality)
                || operator.is_equality()
                    && (left.is_nothing() != Ok(false) || right.is_nothing() != Ok(false));
        let (left, right) = match keeps_objects {
            true => (left.clone(), right.clone()),
            false => (self.primitive_of(left, false, span)?, self.primitive_of(right, false, span)?),
        };
        let (left, right) = (&left, &right);
        if let Some(value) = self.against_the_clock(operator, left, right, span) {
            return Ok(value);
        }
        if let Some(stop) = self.not_mixed(operator, left, right, span) {
            return Err(stop);
        }
        if operator.is_arithmetic()
            && left.primitive() == Some("BigInt")
            && right.primitive() == Some("BigInt")
        {
            return Ok(left.clone());
        }
        let truth = |result: Result<bool, Doubt>| match result {
            Ok(truth) => Value::Boolean(truth),
            Err(doubt) => Value::Some("Boolean", doubt),
        };
        let negated = |result: Result<bool, Doubt>| truth(result.map(|truth| !truth));
        Ok(match operator {
            Op::StrictEquality => truth(self.strictly_equal(left, right)),
            Op::StrictInequality => negated(self.strictly_equal(left, right)),
            Op::Equality => truth(self.loosely_equal(left, right)),
            Op::Inequality => negated(self.loosely_equal(left, right)),
            Op::LessThan | Op::LessEqualThan | Op::GreaterThan | Op::GreaterEqualThan
                if self.check_compared(left, right, span) =>
            {
                Value::Boolean(false)
            }
            Op::LessThan => truth(self.compared(left, right, |a, b| a < b, |a, b| a < b)),
            Op::LessEqualThan => truth(self.compared(left, right, |a, b| a <= b, |a, b| a <= b)),
            Op::GreaterThan => truth(self.compared(left, right, |a, b| a > b, |a, b| a > b)),
            Op::GreaterEqualThan => truth(self.compared(left, right, |a, b| a >= b, |a, b| a >= b)),
            Op::Addition => self.added(left, right),
            Op::Subtraction => self.calculated(left, right, |a, b| a - b),
            Op::Multiplication => self.calculated(left, right, |a, b| a * b),
            Op::Division => self.calculated(left, right, |a, b| a / b),
            Op::Remainder => self.calculated(left, right, |a, b| a % b),
            Op::Exponential => self.calculated(left, right, f64::powf),
            Op::BitwiseOR => self.combined(left, right, |a, b| a | b),
            Op::BitwiseAnd => self.combined(left, right, |a, b| a & b),
            Op::BitwiseXOR => self.combined(left, right, |a, b| a ^ b),
            Op::ShiftLeft => self.combined(left, right, |a, b| a.wrapping_shl(b as u32)),
            Op::ShiftRight => self.combined(left, right, |a, b| a.wrapping_shr(b as u32)),
            Op::ShiftRightZeroFill => self.calculated(left, right, |a, b| {
                f64::from((whole_bits(a) as u32).wrapping_shr(whole_bits(b) as u32))
            }),
            Op::In => match (self.as_text(left), right) {
                (Ok(name), Value::Object(_)) => truth(self.has_member(right, &name)?),
                (_, Value::Unknown(doubt)) => Value::Unknown(*doubt),
                (_, Value::Undefined(_) | Value::Null(_)) => match self.no_members(right, span) {
                    Some(stop) => return Err(stop),
                    None => Value::OPEN,
                },
                (_, own) if own.primitive().is_some() => {
                    let given = self.written(span);
                    return Err(self.refused("in", given, "an object behind it", None, span));
                }
                _ => Value::OPEN,
            },
            Op::Instanceof if self.is_no_class(right) => {
                let given = self.written(span);
                return Err(self.refused("instanceof", given, "a class or a function behind it", None, span));
            }
            Op::Instanceof => truth(self.is_instance(left, right)),
        })
    }

    /// A time that is held against that of the visit: what is left until one that is past has run out for good.
    fn against_the_clock(
        &mut self,
        operator: BinaryOperator,
        left: &Value,
        right: &Value,
        span: Span,
    ) -> Option<Value> {
        use BinaryOperator as Op;
        let is_now = |machine: &Self, value: &Value| machine.as_number(value) == Err(Doubt::Now);
        // Times are in milliseconds: from 1973 to 2096.
        let time = |machine: &Self, value: &Value| {
            machine.as_number(value).ok().filter(|time| (1e11..4e12).contains(time))
        };
        let (time, is_left) = match (time(self, left), time(self, right)) {
            (Some(time), None) if is_now(self, right) => (time, true),
            (None, Some(time)) if is_now(self, left) => (time, false),
            _ => return None,
        };
        let runs_out = match operator {
            Op::Subtraction | Op::GreaterThan | Op::GreaterEqualThan => is_left,
            Op::LessThan | Op::LessEqualThan => !is_left,
            _ => return None,
        };
        let day = crate::source::Day::of_time(time);
        if runs_out && self.world.today().is_some_and(|today| day < today) {
            self.note(span, RunFaultKind::PastDate { day: day.to_string() });
        }
        Some(match operator {
            BinaryOperator::Subtraction => Value::A_NUMBER,
            _ => Value::A_BOOLEAN,
        })
    }

    /// Numbers of two kinds, or a symbol, in a calculation: that throws (ECMA-262, "ApplyStringOrNumericBinaryOperator").
    fn not_mixed(
        &mut self,
        operator: BinaryOperator,
        left: &Value,
        right: &Value,
        span: Span,
    ) -> Option<Stop> {
        if !operator.is_arithmetic() && !operator.is_bitwise() {
            return None;
        }
        for value in [left, right] {
            if let Err(stop) = self.check_symbol(value, span) {
                return Some(stop);
            }
        }
        let is_big = |value: &Value| value.primitive() == Some("BigInt");
        let is_other = |value: &Value| match value {
            Value::Undefined(_) | Value::Null(_) => true,
            // A text is put together with the other's.
            value if operator == BinaryOperator::Addition => {
                matches!(value.primitive(), Some("Number" | "Boolean"))
            }
            value => value.primitive().is_some_and(|of| of != "BigInt"),
        };
        let is_mixed = is_big(left) && is_other(right) || is_other(left) && is_big(right);
        is_mixed.then(|| self.mixes("a BigInt and a value of another kind are put together", span))
    }

    /// A symbol where a text or a number is made of it: that throws.
    pub(super) fn check_symbol(&mut self, value: &Value, span: Span) -> Run<()> {
        match self.kind(value) {
            Some(Kind::Instance("Symbol")) => {
                Err(self.mixes("a symbol cannot be made a text or a number by itself", span))
            }
            _ => Ok(()),
        }
    }

    pub(super) fn mixes(&mut self, what: &str, span: Span) -> Stop {
        self.throws(span, RunFaultKind::Mixed { what: what.to_owned() })
    }

    /// Whether a value is none that can be called, for certain.
    fn is_no_class(&self, value: &Value) -> bool {
        value.primitive().is_some()
            || value.is_nothing() == Ok(true)
            || matches!(self.kind(value), Some(Kind::Array(_) | Kind::Element(_) | Kind::List(..)))
    }

    fn is_instance(&self, left: &Value, right: &Value) -> Result<bool, Doubt> {
        match (left, self.kind(right)) {
            (Value::Unknown(doubt) | Value::Some(_, doubt) | Value::Pieced(_, doubt), _) => Err(*doubt),
            (Value::Object(_), Some(Kind::Constructor(of))) => match self.interface_of(left) {
                Some(own) if super::platform::extends(own, of) => Ok(true),
                Some(own) if *of == "Object" => Ok(!own.is_empty()),
                _ => Err(Doubt::Open),
            },
            (Value::Object(id), Some(Kind::Function(_) | Kind::Class(..))) => {
                let Value::Object(function) = right else { return Err(Doubt::Open) };
                match (&self.object(*id).kind, self.object(*function).members.get("prototype")) {
                    // The browser's own are made by no function of the script.
                    (
                        Kind::Window | Kind::Document | Kind::Element(_) | Kind::Array(_) | Kind::List(..),
                        _,
                    ) => Ok(false),
                    (Kind::Plain, Some(Value::Object(prototype))) => {
                        let mut parents =
                            std::iter::successors(self.object(*id).parent, |at| self.object(*at).parent);
                        let is_of = parents.by_ref().take(20).any(|at| at == *prototype);
                        if is_of { Ok(true) } else { Err(Doubt::Open) }
                    }
                    _ => Err(Doubt::Open),
                }
            }
            (Value::Object(_), _) => Err(Doubt::Open),
            _ => Ok(false),
        }
    }

    fn compared(
        &self,
        left: &Value,
        right: &Value,
        numbers: impl Fn(f64, f64) -> bool,
        texts: impl Fn(&str, &str) -> bool,
    ) -> Result<bool, Doubt> {
        if let (Value::Text(a), Value::Text(b)) = (left, right) {
            return Ok(texts(a, b));
        }
        match (self.as_number(left), self.as_number(right)) {
            (Ok(a), Ok(b)) => Ok(numbers(a, b)),
            (a, b) => Err(a.err().max(b.err()).unwrap_or(Doubt::Open)),
        }
    }

    fn calculated(&self, left: &Value, right: &Value, calculate: impl Fn(f64, f64) -> f64) -> Value {
        match (self.as_number(left), self.as_number(right)) {
            (Ok(a), Ok(b)) => Value::Number(calculate(a, b)),
            // With what is no number nothing is one, whatever the other is.
            (Ok(own), Err(_)) | (Err(_), Ok(own)) if own.is_nan() && calculate(1.0, own).is_nan() => {
                Value::Number(f64::NAN)
            }
            (a, b) => Value::Some("Number", a.err().max(b.err()).unwrap_or(Doubt::Open)),
        }
    }

    fn combined(&self, left: &Value, right: &Value, combine: impl Fn(i32, i32) -> i32) -> Value {
        self.calculated(left, right, |a, b| f64::from(combine(whole_bits(a), whole_bits(b))))
    }

    fn added(&self, left: &Value, right: &Value) -> Value {
        let is_text = |value: &Value| {
            matches!(value, Value::Text(_) | Value::Object(_)) || value.primitive() == Some("String")
        };
        if is_text(left) || is_text(right) {
            return self.put_together(&[left.clone(), right.clone()]);
        }
        // What is not known may be a text.
        if let (Value::Unknown(doubt), _) | (_, Value::Unknown(doubt)) = (left, right) {
            return Value::Unknown(*doubt);
        }
        self.calculated(left, right, |a, b| a + b)
    }
}

/// The bits of a number that is taken for a whole one (ECMA-262, "ToInt32").
pub(super) fn whole_bits(number: f64) -> i32 {
    const SIZE: f64 = 4_294_967_296.0;
    if !number.is_finite() {
        return 0;
    }
    number.trunc().rem_euclid(SIZE) as u32 as i32
}

/// A number as it is written (ECMA-262, "Number::toString"); none for those that need an exponent.
fn number_text(number: f64) -> Option<Arc<str>> {
    if number.is_nan() {
        return Some(Arc::from("NaN"));
    }
    if number.is_infinite() {
        return Some(Arc::from(if number > 0.0 { "Infinity" } else { "-Infinity" }));
    }
    let size = number.abs();
    (size == 0.0 || (1e-6..1e21).contains(&size)).then(|| Arc::from(format!("{}", number + 0.0)))
}

/// The number that a text is (ECMA-262, "StringToNumber").
fn text_number(text: &str) -> f64 {
    let text = text.trim();
    if text.is_empty() {
        return 0.0;
    }
    if let Some(digits) = text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")) {
        return u64::from_str_radix(digits, 16).map_or(f64::NAN, |number| number as f64);
    }
    for (mark, base) in [("0b", 2), ("0B", 2), ("0o", 8), ("0O", 8)] {
        if let Some(digits) = text.strip_prefix(mark) {
            return u64::from_str_radix(digits, base).map_or(f64::NAN, |number| number as f64);
        }
    }
    match text {
        "Infinity" | "+Infinity" => f64::INFINITY,
        "-Infinity" => f64::NEG_INFINITY,
        _ if text.contains(|c: char| c.is_ascii_alphabetic() && !matches!(c, 'e' | 'E')) => f64::NAN,
        _ => text.parse().unwrap_or(f64::NAN),
    }
}
