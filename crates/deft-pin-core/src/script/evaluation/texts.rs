//! Texts, numbers and their methods (ECMA-262, "String Objects", "Number Objects", "The Math Object").

use super::arguments::Arguments;
use super::machine::{Machine, Run, Stop};
use super::value::{Doubt, Kind, Value};
use crate::source::Span;

impl Machine<'_> {
    pub(super) fn call_text(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        // All that is replaced or found is asked of one that goes through all (ECMA-262, 22.1.3).
        if matches!(name, "replaceAll" | "matchAll")
            && let Some(Kind::RegExp(regular)) = self.kind(&arguments.get(0)).cloned()
            && !regular.is_global()
        {
            let (written, takes) = (regular.written(), "a regular expression with the flag `g`");
            return Err(self.refused(name, &*written, takes, Some(&format!("{written}g")), span));
        }
        let this = match self.as_text(this) {
            Ok(text) => text,
            Err(doubt) => {
                self.hand_over_all(arguments)?;
                return Ok(self.of_some_text(name, doubt));
            }
        };
        if let Some(value) = self.match_text(name, &this, arguments) {
            return Ok(value);
        }
        let first = self.as_text(&arguments.get(0));
        let is_plain = matches!(arguments.get(0), Value::Text(_) | Value::Number(_));
        let number = |at: usize| self.as_number(&arguments.get(at)).ok();
        Ok(match (name, first) {
            ("trim", _) => Value::text(this.trim()),
            ("trimStart", _) => Value::text(this.trim_start()),
            ("trimEnd", _) => Value::text(this.trim_end()),
            ("toLowerCase" | "toLocaleLowerCase", _) => self.bounded(&this.to_lowercase()),
            ("toUpperCase" | "toLocaleUpperCase", _) => self.bounded(&this.to_uppercase()),
            ("toString" | "valueOf", _) => Value::Text(this),
            ("includes", Ok(part)) if is_plain => Value::Boolean(this.contains(&*part)),
            ("startsWith", Ok(part)) if is_plain && arguments.values.len() == 1 => {
                Value::Boolean(this.starts_with(&*part))
            }
            ("endsWith", Ok(part)) if is_plain && arguments.values.len() == 1 => {
                Value::Boolean(this.ends_with(&*part))
            }
            ("indexOf", Ok(part)) if is_plain && this.is_ascii() => {
                Value::Number(this.find(&*part).map_or(-1.0, |at| at as f64))
            }
            ("concat", Ok(part)) if arguments.values.len() == 1 => self.bounded(&format!("{this}{part}")),
            ("replace", Ok(part)) if is_plain && matches!(arguments.get(1), Value::Text(_)) => {
                let Value::Text(with) = arguments.get(1) else { return Ok(Value::OPEN) };
                if with.contains('$') { Value::OPEN } else { self.bounded(&this.replacen(&*part, &with, 1)) }
            }
            ("at", _) if matches!(arguments.get(0), Value::Number(_)) && this.is_ascii() => {
                let at = number(0).unwrap_or(0.0).trunc();
                let at = if at < 0.0 { at + this.len() as f64 } else { at };
                match this.chars().nth(at as usize).filter(|_| at >= 0.0) {
                    Some(c) => Value::text(&c.to_string()),
                    None => Value::UNDEFINED,
                }
            }
            ("normalize", Ok(form)) if is_plain && !matches!(&*form, "NFC" | "NFD" | "NFKC" | "NFKD") => {
                let takes = "one of `NFC`, `NFD`, `NFKC`, `NFKD`";
                return Err(self.refused("normalize", &*form, takes, None, span));
            }
            ("repeat", _) if number(0).is_some_and(|count| count < 0.0) => {
                return Err(self.out_of_range("repeat", &arguments.get(0), "a number from 0 on", span));
            }
            ("repeat", _) => match number(0) {
                Some(count) if (0.0..1000.0).contains(&count) => self.bounded(&this.repeat(count as usize)),
                _ => Value::OPEN,
            },
            ("split", Ok(part)) if matches!(arguments.get(0), Value::Text(_)) => {
                let parts: Vec<Value> = match part.is_empty() {
                    true => this.chars().map(|c| Value::text(&c.to_string())).take(500).collect(),
                    false => this.split(&*part).map(Value::text).take(500).collect(),
                };
                self.array(parts, false)
            }
            ("split", _) if matches!(self.kind(&arguments.get(0)), Some(Kind::RegExp(_))) => {
                // There is a first one at least, and nobody can tell how many.
                self.array(Vec::new(), true)
            }
            ("slice" | "substring", _) if this.is_ascii() => {
                let length = this.len() as f64;
                let place = |at: usize, otherwise: f64| match (arguments.values.get(at), number(at)) {
                    (None | Some(Value::Undefined(_)), _) => Some(otherwise),
                    (_, Some(at)) if at < 0.0 => {
                        Some(if name == "slice" { (length + at).max(0.0) } else { 0.0 })
                    }
                    (_, at) => at.map(|at| at.min(length)),
                };
                match (place(0, 0.0), place(1, length)) {
                    (Some(start), Some(end)) if start <= end => {
                        Value::text(&this[start as usize..end as usize])
                    }
                    (Some(_), Some(_)) => Value::text(""),
                    _ => Value::OPEN,
                }
            }
            ("charAt", _) if this.is_ascii() => match number(0).unwrap_or(f64::NAN) {
                at if at >= 0.0 => Value::text(this.get(at as usize..at as usize + 1).unwrap_or_default()),
                _ => Value::OPEN,
            },
            _ => {
                self.hand_over_all(arguments)?;
                match self.of_some_text(name, Doubt::Open) {
                    // Whether it is found is certain, and not known here.
                    Value::Unknown(_) => Value::OPEN,
                    other => other,
                }
            }
        })
    }

    /// What a method of a text gives that is not known.
    pub(super) fn of_some_text(&mut self, name: &str, doubt: Doubt) -> Value {
        match name {
            "trim" | "trimStart" | "trimEnd" | "toLowerCase" | "toUpperCase" | "toLocaleLowerCase"
            | "toLocaleUpperCase" | "slice" | "substring" | "substr" | "replace" | "replaceAll"
            | "concat" | "repeat" | "padStart" | "padEnd" | "charAt" | "normalize" | "toString"
            | "valueOf" => Value::Some("String", doubt),
            "indexOf" | "lastIndexOf" | "search" | "charCodeAt" | "localeCompare" => {
                Value::Some("Number", doubt)
            }
            "includes" | "startsWith" | "endsWith" => Value::Some("Boolean", doubt),
            "split" | "matchAll" => self.array(Vec::new(), true),
            "match" | "at" | "codePointAt" => Value::VISIT,
            _ => Value::OPEN,
        }
    }

    /// A number that a method does not take.
    pub(super) fn out_of_range(&mut self, method: &str, given: &Value, takes: &str, span: Span) -> Stop {
        let given = self.as_text(given).map_or_else(|_| String::new(), |text| text.to_string());
        self.refused(method, given, takes, None, span)
    }

    pub(super) fn call_number(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        if self.is_constructor(this) {
            return Ok(match (name, self.as_number(&arguments.get(0))) {
                ("isNaN", Ok(own)) => Value::Boolean(own.is_nan()),
                ("isFinite", Ok(own)) => Value::Boolean(own.is_finite()),
                ("isInteger", Ok(own)) => Value::Boolean(own.is_finite() && own.fract() == 0.0),
                (_, Err(doubt)) => Value::Unknown(doubt),
                _ => Value::OPEN,
            });
        }
        let digits = self.as_number(&arguments.get(0)).unwrap_or(f64::NAN);
        let range = match name {
            "toString" => Some(2.0..=36.0),
            "toPrecision" => Some(1.0..=100.0),
            "toExponential" => Some(0.0..=100.0),
            _ => None,
        };
        if let Some(range) = range.filter(|range| !digits.is_nan() && !range.contains(&digits)) {
            let takes = format!("a number from {} to {}", range.start(), range.end());
            return Err(self.out_of_range(name, &arguments.get(0), &takes, span));
        }
        if name == "toFixed"
            && self
                .as_number(&arguments.get(0))
                .is_ok_and(|digits| !(0.0..=100.0).contains(&digits) && !digits.is_nan())
        {
            return Err(self.out_of_range("toFixed", &arguments.get(0), "a number from 0 to 100", span));
        }
        if name == "toLocaleString"
            && let Some(stop) = self.refused_format(name, arguments, span)
        {
            return Err(stop);
        }
        Ok(match (name, self.as_text(this), self.as_number(&arguments.get(0))) {
            ("toString", Ok(text), _) if arguments.values.is_empty() => Value::Text(text),
            ("toString" | "toLocaleString" | "toPrecision" | "toExponential", text, _) => {
                Value::Some("String", text.err().unwrap_or(Doubt::Open))
            }
            ("toFixed", _, Ok(digits)) => match self.as_number(this) {
                Ok(own) if (0.0..20.0).contains(&digits) => {
                    Value::text(&format!("{own:.*}", digits as usize))
                }
                _ => Value::OPEN,
            },
            (_, Err(doubt), _) => Value::Unknown(doubt),
            _ => Value::OPEN,
        })
    }

    pub(super) fn call_math(&mut self, name: &str, arguments: &Arguments) -> Value {
        if name == "random" {
            return Value::A_NUMBER;
        }
        let numbers: Result<Vec<f64>, Doubt> =
            arguments.values.iter().map(|value| self.as_number(value)).collect();
        let numbers = match numbers {
            Ok(_) if arguments.is_open => return Value::OPEN,
            Ok(numbers) => numbers,
            Err(doubt) => return Value::Some("Number", doubt),
        };
        let first = numbers.first().copied().unwrap_or(f64::NAN);
        Value::Number(match name {
            "floor" => first.floor(),
            "ceil" => first.ceil(),
            "round" => (first + 0.5).floor(),
            "trunc" => first.trunc(),
            "abs" => first.abs(),
            "sqrt" => first.sqrt(),
            "sign" => {
                if first == 0.0 {
                    0.0
                } else {
                    first.signum()
                }
            }
            "max" => numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max),
            "min" => numbers.iter().copied().fold(f64::INFINITY, f64::min),
            "pow" => first.powf(numbers.get(1).copied().unwrap_or(f64::NAN)),
            _ => return Value::OPEN,
        })
    }
}
