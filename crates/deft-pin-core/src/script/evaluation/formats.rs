//! Formats of numbers, dates and words: what they are made of, and what they refuse (ECMA-402).

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::value::{Doubt, Kind, Value};
use crate::source::Span;

/// The member of what makes plurals as English does.
const ENGLISH: &str = "#english";

impl Machine<'_> {
    /// What `Intl` has, called without `new`: some are made all the same (ECMA-402, "Intl.NumberFormat"), most refuse.
    pub(super) fn call_intl(&mut self, name: &str, arguments: &Arguments, span: Span) -> Run<Value> {
        match name {
            "Collator" | "DateTimeFormat" | "NumberFormat" => self.formatter(name, arguments, span),
            _ if name.starts_with(|c: char| c.is_ascii_uppercase()) => {
                let what = format!("Intl.{name}` without `new");
                Err(self.throws(span, RunFaultKind::NotAFunction { what }))
            }
            _ => Ok(Value::Unknown(
                arguments.values.iter().filter_map(Value::doubt).max().unwrap_or(Doubt::Open),
            )),
        }
    }

    /// `new Intl.NumberFormat(…)` and its like.
    pub(super) fn formatter(&mut self, name: &str, arguments: &Arguments, span: Span) -> Run<Value> {
        let method = format!("new Intl.{name}");
        let stop = match name {
            "NumberFormat" | "DateTimeFormat" => self.refused_format(&method, arguments, span),
            _ => self.refused_language(&method, &arguments.get(0), span),
        };
        if let Some(stop) = stop {
            return Err(stop);
        }
        if let Some(stop) = self.refused_words(name, &arguments.get(1), span) {
            return Err(stop);
        }
        self.check_options(name, arguments, span);
        let made = self.make(Kind::Instance("Object"));
        self.object_mut(made).is_open = true;
        let of = match name {
            "DateTimeFormat" => Some(("DateTimeFormat", "format")),
            "RelativeTimeFormat" => Some(("RelativeTimeFormat", "format")),
            "NumberFormat" => Some(("NumberFormat", "format")),
            "PluralRules" => Some(("PluralRules", "select")),
            _ => None,
        };
        if let Some((of, method)) = of {
            let format = self.made(Kind::Native(of, Arc::from(method)));
            self.object_mut(made).members.insert(Arc::from(method), format);
        }
        let is_english = matches!(arguments.get(0), Value::Text(language) if language.starts_with("en"));
        let options = arguments.get(1);
        let kind = match self.option(&options, "type") {
            Some(Value::Text(kind)) => Some(kind),
            None if matches!(options, Value::Undefined(_)) || self.is_closed(&options) => {
                Some(Arc::from("cardinal"))
            }
            _ => None,
        };
        if let ("PluralRules", true, Some(kind)) = (name, is_english, kind) {
            self.object_mut(made).members.insert(Arc::from(ENGLISH), Value::Text(kind));
        }
        Ok(Value::Object(made))
    }

    /// What the plurals of English call a number (Unicode CLDR, "Language Plural Rules"); none for other languages.
    pub(super) fn plural_of(&self, rules: &Value, number: &Value) -> Option<Value> {
        let Value::Object(id) = rules else { return None };
        let Value::Text(kind) = self.object(*id).members.get(ENGLISH)? else { return None };
        let number = self.as_number(number).ok()?;
        let is_teen = (11.0..=13.0).contains(&(number % 100.0));
        Some(Value::text(match (&**kind, number % 10.0) {
            ("cardinal", _) if number == 1.0 => "one",
            ("ordinal", last) if !is_teen && last == 1.0 => "one",
            ("ordinal", last) if !is_teen && last == 2.0 => "two",
            ("ordinal", last) if !is_teen && last == 3.0 => "few",
            _ => "other",
        }))
    }

    /// What formats of numbers and dates refuse (ECMA-402, "SetNumberFormatUnitOptions", "ToDateTimeFormattable").
    pub(super) fn refused_format(&mut self, method: &str, arguments: &Arguments, span: Span) -> Option<Stop> {
        if let Some(stop) = self.refused_language(method, &arguments.get(0), span) {
            return Some(stop);
        }
        self.refused_options(method, arguments, span)
    }

    /// The same for the language alone (BCP 47, "Language-Tag").
    pub(super) fn refused_language(&mut self, method: &str, language: &Value, span: Span) -> Option<Stop> {
        if let Value::Text(locale) = language {
            let is_tag =
                |part: &str| (1..=8).contains(&part.len()) && part.chars().all(|c| c.is_ascii_alphanumeric());
            let first = locale.split('-').next().unwrap_or_default();
            let is_language = (2..=8).contains(&first.len())
                && first.len() != 4
                && first.chars().all(|c| c.is_ascii_alphabetic());
            if !is_language && &**locale != "x" && !locale.starts_with("x-") || !locale.split('-').all(is_tag)
            {
                let write = locale.replace('_', "-");
                let write = (write != **locale).then_some(write);
                let takes = "a language, as `en-GB`";
                return Some(self.refused(method, &**locale, takes, write.as_deref(), span));
            }
        }
        None
    }

    fn refused_options(&mut self, method: &str, arguments: &Arguments, span: Span) -> Option<Stop> {
        let options = arguments.get(1);
        if matches!(options, Value::Null(_)) {
            return Some(self.refused(method, "null", "an object with options", None, span));
        }
        let style = self.option(&options, "style");
        let is_currency = matches!(&style, Some(Value::Text(style)) if &**style == "currency");
        match self.option(&options, "currency") {
            None if is_currency && self.is_closed(&options) => {
                let takes = "with `style: \"currency\"` a `currency`";
                return Some(self.refused(method, "no currency", takes, Some("currency: \"GBP\""), span));
            }
            Some(Value::Text(code)) if code.len() != 3 || !code.chars().all(|c| c.is_ascii_alphabetic()) => {
                return Some(
                    self.refused(method, &*code, "for `currency` a code of three letters", None, span),
                );
            }
            _ => {}
        }
        const RANGES: &[(&str, f64, f64)] = &[
            ("minimumFractionDigits", 0.0, 100.0),
            ("maximumFractionDigits", 0.0, 100.0),
            ("minimumIntegerDigits", 1.0, 21.0),
            ("minimumSignificantDigits", 1.0, 21.0),
            ("maximumSignificantDigits", 1.0, 21.0),
        ];
        for (name, least, most) in RANGES {
            if let Some(Value::Number(own)) = self.option(&options, name)
                && !(*least..=*most).contains(&own)
            {
                let takes = format!("for `{name}` a number from {least} to {most}");
                return Some(self.refused(method, own.to_string(), &takes, None, span));
            }
        }
        let digits = |name| match self.option(&options, name) {
            Some(Value::Number(own)) => Some(own),
            _ => None,
        };
        if let (Some(least), Some(most)) = (digits("minimumFractionDigits"), digits("maximumFractionDigits"))
            && least > most
        {
            let takes = "for `maximumFractionDigits` no less than for `minimumFractionDigits`";
            return Some(self.refused(method, most.to_string(), takes, None, span));
        }
        const WORDS: &[(&str, &[&str])] = &[
            ("style", &["decimal", "percent", "currency", "unit"]),
            ("dateStyle", &["full", "long", "medium", "short"]),
            ("timeStyle", &["full", "long", "medium", "short"]),
            ("weekday", &["narrow", "short", "long"]),
            ("month", &["2-digit", "numeric", "narrow", "short", "long"]),
            ("day", &["2-digit", "numeric"]),
            ("year", &["2-digit", "numeric"]),
            ("hour", &["2-digit", "numeric"]),
            ("minute", &["2-digit", "numeric"]),
            ("second", &["2-digit", "numeric"]),
        ];
        let is_date = method.contains("Date") || method.contains("Time");
        for (name, words) in WORDS {
            if (*name == "style") == is_date {
                continue;
            }
            if let Some(Value::Text(own)) = self.option(&options, name)
                && !words.contains(&&*own)
            {
                let all: Vec<String> = words.iter().map(|word| format!("`{word}`")).collect();
                let takes = format!("for `{name}` one of {}", all.join(", "));
                let near = crate::source::nearest(&own, words.iter().copied());
                return Some(self.refused(method, &*own, &takes, near, span));
            }
        }
        let has = |name| self.option(&options, name).is_some_and(|own| !matches!(own, Value::Undefined(_)));
        let has_part = ["weekday", "year", "month", "day", "hour", "minute", "second"]
            .into_iter()
            .find(|name| has(name));
        if is_date
            && let Some(part) = has_part
            && (has("dateStyle") || has("timeStyle"))
        {
            let takes = "either `dateStyle` and `timeStyle` or the parts";
            return Some(self.refused(method, part, takes, None, span));
        }
        None
    }

    /// What other formats refuse: a word that is none of an option's (ECMA-402, "GetOption").
    pub(super) fn refused_words(&mut self, of: &str, options: &Value, span: Span) -> Option<Stop> {
        const WORDS: &[(&str, &str, &[&str])] = &[
            ("ListFormat", "type", &["conjunction", "disjunction", "unit"]),
            ("ListFormat", "style", &["long", "short", "narrow"]),
            ("PluralRules", "type", &["cardinal", "ordinal"]),
            ("RelativeTimeFormat", "numeric", &["always", "auto"]),
            ("RelativeTimeFormat", "style", &["long", "short", "narrow"]),
            ("Collator", "usage", &["sort", "search"]),
            ("Collator", "sensitivity", &["base", "accent", "case", "variant"]),
            (
                "DisplayNames",
                "type",
                &["language", "region", "script", "currency", "calendar", "dateTimeField"],
            ),
            ("Segmenter", "granularity", &["grapheme", "word", "sentence"]),
        ];
        WORDS.iter().filter(|(own, ..)| *own == of).find_map(|(_, name, words)| {
            let Some(Value::Text(given)) = self.option(options, name) else { return None };
            if words.contains(&&*given) {
                return None;
            }
            let all: Vec<String> = words.iter().map(|word| format!("`{word}`")).collect();
            let takes = format!("for `{name}` one of {}", all.join(", "));
            let near = crate::source::nearest(&given, words.iter().copied());
            Some(self.refused(&format!("new Intl.{of}"), &*given, &takes, near, span))
        })
    }

    /// What `format` of a format of dates refuses: what is no moment.
    pub(super) fn refused_moment(&mut self, given: &Value, span: Span) -> Option<Stop> {
        match given {
            Value::Text(text) if self.as_number(given).is_ok_and(f64::is_nan) => {
                let (text, write) = (Arc::clone(text), format!("new Date(\"{text}\")"));
                Some(self.refused("format", &*text, "a date", Some(&write), span))
            }
            _ => None,
        }
    }
}
