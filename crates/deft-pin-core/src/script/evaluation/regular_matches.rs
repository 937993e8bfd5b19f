//! Regular expressions, matched where both they and the text are known (ECMA-262, "RegExp (Regular Expression) Objects").

use std::sync::Arc;

use regex::{Captures, Regex};

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::texts::{MOST_PARTS, expanded};
use super::value::{Doubt, Kind, Value};
use crate::script::regular::Regular;
use crate::source::Span;

impl Machine<'_> {
    fn regular(&self, value: &Value, text: &str) -> Option<Arc<Regular>> {
        let Some(Kind::RegExp(regular)) = self.kind(value) else { return None };
        self.charge(10 + text.len() / 8);
        Some(Arc::clone(regular))
    }

    /// A method of a text that takes a regular expression; none where what comes of it is not known.
    pub(super) fn match_text(
        &mut self,
        name: &str,
        text: &str,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let regular = match (name, arguments.get(0)) {
            // These make one of a text (ECMA-262, "String.prototype.match").
            ("match" | "matchAll" | "search", Value::Text(pattern)) => {
                self.charge(10 + text.len() / 8);
                Arc::new(Regular::new(&pattern, if name == "matchAll" { "g" } else { "" }))
            }
            (_, given) => match self.regular(&given, text) {
                Some(regular) => regular,
                None => return Ok(None),
            },
        };
        let Some(compiled) = regular.for_text(text) else { return Ok(None) };
        let regex = &compiled.regex;
        Ok(Some(match name {
            "match" if compiled.is_global => {
                let all: Vec<Value> =
                    regex.find_iter(text).take(500).map(|found| Value::text(found.as_str())).collect();
                if all.is_empty() { Value::NULL } else { self.array(all, false) }
            }
            "match" => self.first_match(regex, text),
            "matchAll" if compiled.is_global => {
                let all: Vec<Captures<'_>> = regex.captures_iter(text).take(300).collect();
                let all = all.iter().map(|found| self.match_value(regex, text, found)).collect();
                self.made(Kind::List(super::iterators::ITERATOR, all))
            }
            "search" if text.is_ascii() => {
                Value::Number(regex.find(text).map_or(-1.0, |found| found.start() as f64))
            }
            "replace" | "replaceAll" => {
                let most = if compiled.is_global { MOST_PARTS } else { 1 };
                let all: Vec<Captures<'_>> = regex.captures_iter(text).take(most).collect();
                if all.len() == MOST_PARTS {
                    return Ok(Some(Value::Some("String", Doubt::Open)));
                }
                return Ok(Some(self.replaced_matches(text, &all, &arguments.get(1), span)?));
            }
            "split"
                if arguments.values.len() == 1 && regex.captures_len() == 1 && regex.find("").is_none() =>
            {
                let parts = regex.split(text).take(500).map(Value::text).collect();
                self.array(parts, false)
            }
            _ => return Ok(None),
        }))
    }

    /// A text with what a regular expression finds in it replaced.
    fn replaced_matches(&mut self, text: &str, all: &[Captures<'_>], with: &Value, span: Span) -> Run<Value> {
        let mut out = String::new();
        let mut end = 0;
        for found in all {
            let Some(whole) = found.get(0) else { continue };
            let by = match with {
                Value::Text(with) => {
                    let groups: Vec<Option<&str>> =
                        found.iter().map(|part| part.map(|part| part.as_str())).collect();
                    expanded(with, &groups)
                }
                Value::Object(_) => {
                    let place = text[..whole.start()].encode_utf16().count() as f64;
                    let parts = found
                        .iter()
                        .map(|part| part.map_or(Value::UNDEFINED, |part| Value::text(part.as_str())));
                    let given = parts.chain([Value::Number(place), Value::text(text)]).collect();
                    let by = self.call(with, Value::UNDEFINED, Arguments::of(given), span)?;
                    self.as_text(&by).ok().map(|by| by.to_string())
                }
                with => self.as_text(with).ok().map(|with| with.to_string()),
            };
            let Some(by) = by else { return Ok(Value::Some("String", Doubt::Open)) };
            out.push_str(&text[end..whole.start()]);
            out.push_str(&by);
            end = whole.end();
        }
        out.push_str(&text[end..]);
        Ok(self.bounded(&out))
    }

    /// `test` and `exec`.
    pub(super) fn match_expression(&mut self, name: &str, this: &Value, given: &Value) -> Value {
        let unknown = |doubt| match name {
            "test" => Value::Some("Boolean", doubt),
            _ => Value::Unknown(doubt),
        };
        let text = match self.as_text(given) {
            Ok(text) => text,
            Err(_) => return unknown(Doubt::Visit),
        };
        // A global one goes on where it stopped.
        let regular = self.regular(this, &text);
        let compiled = regular.as_ref().and_then(|regular| regular.for_text(&text));
        match compiled.filter(|compiled| !compiled.is_global) {
            Some(compiled) if name == "test" => Value::Boolean(compiled.regex.is_match(&text)),
            Some(compiled) => self.first_match(&compiled.regex, &text),
            // Whether a text has what is looked for differs from text to text.
            None => unknown(Doubt::Visit),
        }
    }

    fn first_match(&mut self, regex: &Regex, text: &str) -> Value {
        match regex.captures(text) {
            Some(found) => self.match_value(regex, text, &found),
            None => Value::NULL,
        }
    }

    /// What a match is, as a script gets it.
    fn match_value(&mut self, regex: &Regex, text: &str, found: &Captures<'_>) -> Value {
        let part = |at: usize| found.get(at).map_or(Value::UNDEFINED, |part| Value::text(part.as_str()));
        let parts = (0..found.len()).map(part).collect();
        let id = self.make(Kind::Array(parts));
        let groups = self.groups(regex, found);
        let start = found.get(0).map_or(0, |whole| whole.start());
        let members = &mut self.object_mut(id).members;
        members.insert(Arc::from("groups"), groups);
        members.insert(Arc::from("input"), Value::text(text));
        members.insert(Arc::from("index"), Value::Number(text[..start].encode_utf16().count() as f64));
        Value::Object(id)
    }

    fn groups(&mut self, regex: &Regex, found: &Captures<'_>) -> Value {
        let names: Vec<&str> = regex.capture_names().flatten().collect();
        if names.is_empty() {
            return Value::UNDEFINED;
        }
        let id = self.make(Kind::Plain);
        for name in names {
            let part = found.name(name).map_or(Value::UNDEFINED, |part| Value::text(part.as_str()));
            self.object_mut(id).members.insert(Arc::from(name), part);
        }
        Value::Object(id)
    }
}
