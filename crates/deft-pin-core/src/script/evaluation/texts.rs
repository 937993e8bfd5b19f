//! Texts, numbers and their methods (ECMA-262, "String Objects", "Number Objects", "The Math Object").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run, Stop};
use super::piece::{Piece, may_be_markup, may_be_seen_as};
use super::value::{Doubt, Kind, Value};
use crate::source::Span;

/// What `toFixed` gives (ECMA-262, "Number.prototype.toFixed"): of two that are as near, the larger one.
fn fixed(own: f64, digits: usize) -> Value {
    if !own.is_finite() || own.abs() >= 1e21 {
        return Value::Some("String", Doubt::Open);
    }
    let exact = format!("{:.*}", digits + 60, own.abs());
    let rest = &exact[exact.len() - 60..];
    let is_tie = rest.starts_with('5') && rest[1..].bytes().all(|digit| digit == b'0');
    let nearest = match is_tie {
        true => {
            let scale = 10_f64.powi(digits as i32);
            format!("{:.*}", digits, (own.abs() * scale).ceil() / scale)
        }
        false => format!("{:.*}", digits, own.abs()),
    };
    Value::text(&if own < 0.0 { format!("-{nearest}") } else { nearest })
}

/// So many parts of a text are replaced.
pub(super) const MOST_PARTS: usize = 300;

/// What is put in for a match (ECMA-262, "GetSubstitution"); none where that asks for what is around it.
pub(super) fn expanded(with: &str, groups: &[Option<&str>]) -> Option<String> {
    let mut out = String::new();
    let mut rest = with;
    while let Some(at) = rest.find('$') {
        out.push_str(&rest[..at]);
        let behind = &rest[at + 1..];
        let digits = behind.bytes().take(2).take_while(u8::is_ascii_digit).count();
        let number = (1..=digits).rev().find_map(|count| {
            let number: usize = behind[..count].parse().ok()?;
            (1..groups.len()).contains(&number).then_some((count, number))
        });
        rest = match (behind.chars().next(), number) {
            (Some('$'), _) => {
                out.push('$');
                &behind[1..]
            }
            (Some('&'), _) => {
                out.push_str(groups.first().copied().flatten().unwrap_or_default());
                &behind[1..]
            }
            (Some('`' | '\'' | '<'), _) => return None,
            (_, Some((count, number))) => {
                out.push_str(groups[number].unwrap_or_default());
                &behind[count..]
            }
            _ => {
                out.push('$');
                behind
            }
        };
    }
    out.push_str(rest);
    Some(out)
}

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
        if let Some(value) = self.of_seen_text(name, this, arguments) {
            return Ok(value);
        }
        if let Some(value) = self.of_address(name, this, arguments) {
            return Ok(value);
        }
        let this = match self.as_text(this) {
            Ok(text) => text,
            Err(doubt) => {
                self.hand_over_all(arguments)?;
                let brings_markup = |value: &Value| match value {
                    Value::Text(text) => may_be_markup(text),
                    value => !matches!(value, Value::Number(_) | Value::Undefined(_)),
                };
                // What it is to begin with is replaced by something else, or filled up.
                let doubt =
                    if arguments.values.iter().any(brings_markup) { doubt.with_markup() } else { doubt };
                return Ok(match name {
                    "split" => self.parts_of_some_text(doubt, arguments),
                    _ => self.of_some_text(name, doubt),
                });
            }
        };
        if let Some(value) = self.match_text(name, &this, arguments, span)? {
            return Ok(value);
        }
        let first = self.as_text(&arguments.get(0));
        let is_plain = matches!(arguments.get(0), Value::Text(_) | Value::Number(_));
        if let Some(value) = self.at_places(name, &this, arguments) {
            return Ok(value);
        }
        let number = |at: usize| self.as_number(&arguments.get(at)).ok();
        Ok(match (name, first) {
            ("trim", _) => Value::text(this.trim()),
            ("trimStart" | "trimLeft", _) => Value::text(this.trim_start()),
            ("trimEnd" | "trimRight", _) => Value::text(this.trim_end()),
            ("toLowerCase" | "toLocaleLowerCase", _) => self.bounded(&this.to_lowercase()),
            ("toUpperCase" | "toLocaleUpperCase", _) => self.bounded(&this.to_uppercase()),
            ("toString" | "valueOf", _) => Value::Text(this),
            ("concat", _) if !arguments.is_open => {
                let own = Value::Text(Arc::clone(&this));
                let all: Vec<Value> = std::iter::once(own).chain(arguments.values.iter().cloned()).collect();
                self.put_together(&all)
            }
            ("replace" | "replaceAll", Ok(part)) if is_plain => {
                let most = if name == "replace" { 1 } else { usize::MAX };
                self.replaced(&this, &part, most, &arguments.get(1), span)?
            }
            ("localeCompare", Ok(other)) if is_plain && *other == *this => Value::Number(0.0),
            ("normalize", Ok(form)) if is_plain && !matches!(&*form, "NFC" | "NFD" | "NFKC" | "NFKD") => {
                let takes = "one of `NFC`, `NFD`, `NFKC`, `NFKD`";
                return Err(self.refused("normalize", &*form, takes, None, span));
            }
            ("repeat", _) if number(0).is_some_and(|count| count < 0.0 || count.is_infinite()) => {
                return Err(self.out_of_range("repeat", &arguments.get(0), "a number from 0 on", span));
            }
            ("repeat", _) => match number(0) {
                Some(count) if (0.0..1000.0).contains(&count) => self.bounded(&this.repeat(count as usize)),
                _ => Value::OPEN,
            },
            ("split", Ok(part)) if matches!(arguments.get(0), Value::Text(_)) => {
                let most = match (arguments.get(1), number(1)) {
                    (Value::Undefined(_), _) => 500,
                    (_, Some(most)) if most >= 0.0 => (most as usize).min(500),
                    _ => return Ok(self.array(Vec::new(), true)),
                };
                let parts: Vec<Value> = match part.is_empty() {
                    true => this.chars().map(|c| Value::text(&c.to_string())).take(most).collect(),
                    false => this.split(&*part).map(Value::text).take(most).collect(),
                };
                self.array(parts, false)
            }
            ("split", _) if matches!(self.kind(&arguments.get(0)), Some(Kind::RegExp(_))) => {
                // There is a first one at least, and nobody can tell how many.
                self.array(Vec::new(), true)
            }
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

    /// A method of a text that counts its places; none of others, and where that cannot be told.
    fn at_places(&mut self, name: &str, this: &str, arguments: &Arguments) -> Option<Value> {
        const METHODS: &[&str] = &[
            "at", "charAt", "charCodeAt", "codePointAt", "slice", "substring", "substr", "indexOf",
            "lastIndexOf", "includes", "startsWith", "endsWith", "padStart", "padEnd",
        ];
        // Of others a character takes two places.
        if !METHODS.contains(&name) || this.chars().any(|c| c.len_utf16() > 1) {
            return None;
        }
        let given = |at: usize| match arguments.values.get(at) {
            None | Some(Value::Undefined(_)) => Some(None),
            Some(value) => {
                self.as_number(value).ok().map(|own| Some(if own.is_nan() { 0.0 } else { own.trunc() }))
            }
        };
        self.charge(this.len() / 8);
        let units: Vec<char> = this.chars().collect();
        let length = units.len() as f64;
        // From the end, where it is below nothing.
        let from_end = |place: f64| if place < 0.0 { (length + place).max(0.0) } else { place.min(length) };
        let within = |place: f64| place.clamp(0.0, length);
        let part = |start: f64, end: f64| {
            let own: String = units.iter().take(end.max(start) as usize).skip(start as usize).collect();
            Value::text(&own)
        };
        let sought = || match arguments.get(0) {
            Value::Text(text) => Some(text.chars().collect::<Vec<char>>()),
            Value::Number(_) => Some(self.as_text(&arguments.get(0)).ok()?.chars().collect()),
            _ => None,
        };
        Some(match name {
            "at" | "charAt" | "charCodeAt" | "codePointAt" => {
                let place = given(0)?.unwrap_or(0.0);
                let place = if name == "at" && place < 0.0 { place + length } else { place };
                let own = units.get(place as usize).filter(|_| place >= 0.0).copied();
                match (name, own) {
                    ("at" | "charAt", Some(own)) => Value::text(&own.to_string()),
                    ("charAt", None) => Value::text(""),
                    ("charCodeAt", None) => Value::Number(f64::NAN),
                    (_, None) => Value::UNDEFINED,
                    (_, Some(own)) => Value::Number(f64::from(u32::from(own))),
                }
            }
            "slice" => part(from_end(given(0)?.unwrap_or(0.0)), from_end(given(1)?.unwrap_or(length))),
            "substring" => {
                let (start, end) = (within(given(0)?.unwrap_or(0.0)), within(given(1)?.unwrap_or(length)));
                part(start.min(end), start.max(end))
            }
            "substr" => {
                let start = from_end(given(0)?.unwrap_or(0.0));
                part(start, within(start + given(1)?.unwrap_or(length).max(0.0)))
            }
            "padStart" | "padEnd" => {
                let filler: Vec<char> = match arguments.get(1) {
                    Value::Undefined(_) => vec![' '],
                    _ => self.as_text(&arguments.get(1)).ok()?.chars().collect(),
                };
                let missing = (given(0)?.unwrap_or(0.0) - length).max(0.0) as usize;
                let filled: String = filler.iter().cycle().take(missing.min(1000)).collect();
                if name == "padStart" {
                    Value::text(&(filled + this))
                } else {
                    Value::text(&format!("{this}{filled}"))
                }
            }
            _ => {
                let sought = sought()?;
                let count = sought.len();
                let is_at = |at: usize| units.get(at..at + count) == Some(&sought[..]);
                let last = units.len().checked_sub(count);
                match name {
                    "startsWith" => Value::Boolean(is_at(within(given(1)?.unwrap_or(0.0)) as usize)),
                    "endsWith" => {
                        let end = within(given(1)?.unwrap_or(length)) as usize;
                        Value::Boolean(end.checked_sub(count).is_some_and(is_at))
                    }
                    "lastIndexOf" => {
                        let from = given(1)?.map_or(usize::MAX, |from| from.max(0.0) as usize);
                        let found = last.and_then(|last| (0..=last.min(from)).rev().find(|at| is_at(*at)));
                        Value::Number(found.map_or(-1.0, |at| at as f64))
                    }
                    _ => {
                        let from = within(given(1)?.unwrap_or(0.0)) as usize;
                        self.charge(units.len() / 8);
                        let found = last.and_then(|last| (from..=last).find(|at| is_at(*at)));
                        match name {
                            "includes" => Value::Boolean(found.is_some()),
                            _ => Value::Number(found.map_or(-1.0, |at| at as f64)),
                        }
                    }
                }
            }
        })
    }

    /// A text with what is found in it replaced, so many times.
    fn replaced(&mut self, text: &str, part: &str, most: usize, with: &Value, span: Span) -> Run<Value> {
        let places: Vec<usize> =
            text.match_indices(part).map(|(at, _)| at).take(most.min(MOST_PARTS)).collect();
        if places.len() == MOST_PARTS {
            return Ok(Value::Some("String", Doubt::Open));
        }
        let mut out = Vec::with_capacity(places.len() * 2 + 1);
        let mut end = 0;
        for at in places {
            let by = match with {
                Value::Text(with) => match expanded(with, &[Some(part)]) {
                    Some(by) => Value::text(&by),
                    None => return Ok(Value::Some("String", Doubt::Open)),
                },
                Value::Object(_) => {
                    let place = text[..at].encode_utf16().count() as f64;
                    let given = vec![Value::text(part), Value::Number(place), Value::text(text)];
                    self.call(with, Value::UNDEFINED, Arguments::of(given), span)?
                }
                with => with.clone(),
            };
            out.extend([Value::text(&text[end..at]), by]);
            end = at + part.len();
        }
        out.push(Value::text(&text[end..]));
        Ok(self.put_together(&out))
    }

    /// What a method gives of what is seen of a text of the page.
    fn of_seen_text(&self, name: &str, this: &Value, arguments: &Arguments) -> Option<Value> {
        let Value::Pieced(pieces, _) = this else { return None };
        let [Piece::Seen(letters)] = &**pieces else { return None };
        let lacks = |given: &Value| matches!(given, Value::Text(text) if !may_be_seen_as(letters, text));
        match name {
            "trim" | "trimStart" | "trimEnd" | "toLowerCase" | "toUpperCase" | "toLocaleLowerCase"
            | "toLocaleUpperCase" | "toString" | "valueOf" => Some(this.clone()),
            "includes" | "startsWith" | "endsWith" if lacks(&arguments.get(0)) => Some(Value::Boolean(false)),
            "indexOf" | "lastIndexOf" if lacks(&arguments.get(0)) => Some(Value::Number(-1.0)),
            _ => None,
        }
    }

    /// The parts of a text that is not known: a first one there always is, where the text that parts them is not empty.
    fn parts_of_some_text(&mut self, doubt: Doubt, arguments: &Arguments) -> Value {
        let is_parted = matches!(arguments.get(0), Value::Text(by) if !by.is_empty());
        let first = is_parted && matches!(arguments.get(1), Value::Undefined(_));
        self.array(if first { vec![Value::Some("String", doubt)] } else { Vec::new() }, true)
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
            let is_asked = matches!(name, "isNaN" | "isFinite" | "isInteger" | "isSafeInteger");
            if is_asked && arguments.get(0).doubt().is_none() && !matches!(arguments.get(0), Value::Number(_))
            {
                return Ok(Value::Boolean(false));
            }
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
                Value::Some("String", text.err().unwrap_or(Doubt::Open).without_markup())
            }
            ("toFixed", _, Ok(digits)) => match self.as_number(this) {
                Ok(own) if digits.is_nan() || (0.0..20.0).contains(&digits) => fixed(own, digits as usize),
                _ => Value::Some("String", this.doubt().unwrap_or(Doubt::Open).without_markup()),
            },
            (_, Err(doubt), _) => Value::Unknown(doubt),
            _ => Value::OPEN,
        })
    }

    pub(super) fn call_math(&mut self, name: &str, arguments: &Arguments) -> Value {
        if name == "random" {
            return self.visit.chance.map_or(Value::A_NUMBER, |chance| Value::Number(chance.number()));
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
            "max" | "min" if numbers.iter().any(|number| number.is_nan()) => f64::NAN,
            "max" => numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max),
            "min" => numbers.iter().copied().fold(f64::INFINITY, f64::min),
            "pow" => first.powf(numbers.get(1).copied().unwrap_or(f64::NAN)),
            _ => return Value::OPEN,
        })
    }
}
