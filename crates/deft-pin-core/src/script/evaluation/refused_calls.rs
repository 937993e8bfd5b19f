//! What functions of the platform and of the language refuse by the value itself, where the type is right.

use super::argument_checks::method_name;
use super::arguments::Arguments;
use super::machine::{Machine, Stop};
use super::platform::{self, Interface};
use super::value::Value;
use crate::source::Span;

/// Numbers that have to be in a range: of which interface, by which function, at which place, from, to, and in words.
const RANGES: &[(&str, &str, usize, f64, f64, &str)] = &[
    ("CanvasGradient", "addColorStop", 0, 0.0, 1.0, "a number from 0 to 1"),
    ("IDBFactory", "open", 1, 1.0, f64::MAX, "a version from 1 on"),
    ("AbortSignal", "timeout", 0, 0.0, f64::MAX, "milliseconds, from 0 on"),
    ("String", "fromCodePoint", 0, 0.0, 1_114_111.0, "a code point from 0 to 1114111"),
];

/// Texts that have to be one of some: of which interface, by which function, at which place.
const WORDS: &[(&str, &str, usize, &[&str])] =
    &[("CanvasRenderingContext2D", "createPattern", 1, &["", "repeat", "repeat-x", "repeat-y", "no-repeat"])];

impl Machine<'_> {
    /// What is thrown where a function of the platform refuses a value; `new` for a constructor.
    pub(super) fn refused_value(
        &mut self,
        of: Interface,
        name: &str,
        arguments: &Arguments,
        span: Span,
    ) -> Option<Stop> {
        for (_, _, at, least, most, takes) in RANGES.iter().filter(|row| row.0 == of && row.1 == name) {
            if let Value::Number(given) = arguments.get(*at)
                && !(*least..=*most).contains(&given)
            {
                return Some(self.refused(&method_name(of, name), given.to_string(), takes, None, span));
            }
        }
        for (_, _, at, words) in WORDS.iter().filter(|row| row.0 == of && row.1 == name) {
            if let Value::Text(given) = arguments.get(*at)
                && !words.contains(&&*given)
            {
                let all: Vec<String> = words.iter().skip(1).map(|word| format!("`{word}`")).collect();
                let near = crate::source::nearest(&given, words.iter().copied());
                let takes = format!("one of {}", all.join(", "));
                return Some(self.refused(&method_name(of, name), &*given, &takes, near, span));
            }
        }
        if let Some(stop) = self.refused_address(of, name, arguments, span) {
            return Some(stop);
        }
        match (of, name) {
            (_, "scroll" | "scrollBy" | "scrollTo")
                if (of == "Window" || platform::extends(of, "Element"))
                    && arguments.values.len() == 1
                    && arguments.get(0).primitive().is_some() =>
            {
                let write = format!("{name}(0, …)");
                let given = self.written(span);
                Some(self.refused(name, given, "two numbers, or an object", Some(&write), span))
            }
            ("Window", "fetch") | ("Request", "new") => {
                self.refused_body(&method_name(of, name), &arguments.get(1), span)
            }
            ("Response", "new") => match self.option(&arguments.get(1), "status") {
                Some(Value::Number(status)) if !(200.0..600.0).contains(&status) => {
                    let takes = "for `status` a number from 200 to 599";
                    Some(self.refused(&method_name(of, name), status.to_string(), takes, None, span))
                }
                _ => None,
            },
            ("TextDecoder", "new") => match arguments.get(0) {
                Value::Text(label) if encoding_rs::Encoding::for_label(label.as_bytes()).is_none() => {
                    Some(self.refused(
                        &method_name(of, name),
                        &*label,
                        "the label of an encoding, as `utf-8`",
                        None,
                        span,
                    ))
                }
                _ => None,
            },
            ("Window", "postMessage") if self.holds_function(&arguments.get(0), 0) => {
                let given = self.written(span);
                Some(self.refused(
                    &method_name(of, name),
                    given,
                    "values without functions and elements in them",
                    None,
                    span,
                ))
            }
            _ if name == "new" && of.ends_with("Array") && of != "Array" => match arguments.get(0) {
                Value::Number(length) if length < 0.0 => Some(self.refused(
                    &method_name(of, name),
                    length.to_string(),
                    "a length from 0 on",
                    None,
                    span,
                )),
                _ => None,
            },
            _ => None,
        }
    }

    /// A body in a request that has none (Fetch, "new Request").
    fn refused_body(&mut self, method: &str, options: &Value, span: Span) -> Option<Stop> {
        let has_body = self.option(options, "body").is_some_and(|own| own.is_nothing() == Ok(false));
        let is_bare = match self.option(options, "method") {
            None | Some(Value::Undefined(_)) => self.is_closed(options),
            Some(Value::Text(own)) => own.eq_ignore_ascii_case("get") || own.eq_ignore_ascii_case("head"),
            Some(_) => false,
        };
        (has_body && is_bare).then(|| {
            let takes = "no `body` with the method `GET`";
            self.refused(method, "a body", takes, Some("method: \"POST\""), span)
        })
    }

    /// What `BigInt(…)` refuses (ECMA-262, "NumberToBigInt" and "StringToBigInt").
    pub(super) fn refused_bigint(&mut self, given: &Value, span: Span) -> Option<Stop> {
        let text = match given {
            Value::Number(number) if number.fract() != 0.0 || !number.is_finite() => number.to_string(),
            Value::Text(text) => {
                let digits = text.trim();
                let is_whole = digits.strip_prefix(['-', '+']).unwrap_or(digits);
                let is_number = is_whole.chars().all(|c| c.is_ascii_digit());
                let is_coded =
                    ["0x", "0o", "0b", "0X", "0O", "0B"].iter().any(|mark| digits.starts_with(mark));
                if is_number || is_coded {
                    return None;
                }
                text.to_string()
            }
            _ => return None,
        };
        Some(self.refused("BigInt", text, "a whole number", None, span))
    }
}
