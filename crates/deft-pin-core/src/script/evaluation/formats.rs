//! Formats of numbers, dates and words: what they are made of, and what they refuse (ECMA-402).

use std::sync::{Arc, LazyLock};

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::value::{Doubt, Kind, Moment, Value};
use crate::source::Span;

/// The member of what makes plurals as English does.
const ENGLISH: &str = "#english";

/// The words that options of dates take, and of numbers (ECMA-402, "Intl.DateTimeFormat", "Intl.NumberFormat").
const OF_DATES: &[(&str, &[&str])] = &[
    ("dateStyle", &["full", "long", "medium", "short"]),
    ("timeStyle", &["full", "long", "medium", "short"]),
    ("weekday", &["narrow", "short", "long"]),
    ("era", &["narrow", "short", "long"]),
    ("dayPeriod", &["narrow", "short", "long"]),
    ("month", &["2-digit", "numeric", "narrow", "short", "long"]),
    ("day", &["2-digit", "numeric"]),
    ("year", &["2-digit", "numeric"]),
    ("hour", &["2-digit", "numeric"]),
    ("hourCycle", &["h11", "h12", "h23", "h24"]),
    ("minute", &["2-digit", "numeric"]),
    ("second", &["2-digit", "numeric"]),
    ("timeZoneName", &["short", "long", "shortOffset", "longOffset", "shortGeneric", "longGeneric"]),
];
const OF_NUMBERS: &[(&str, &[&str])] = &[
    ("style", &["decimal", "percent", "currency", "unit"]),
    ("currencyDisplay", &["code", "symbol", "narrowSymbol", "name"]),
    ("currencySign", &["standard", "accounting"]),
    ("unitDisplay", &["short", "narrow", "long"]),
    ("notation", &["standard", "scientific", "engineering", "compact"]),
    ("compactDisplay", &["short", "long"]),
    ("signDisplay", &["auto", "never", "always", "exceptZero", "negative"]),
];
/// Units (ECMA-402, "Sanctioned Single Unit Identifiers").
const UNITS: &[&str] = &[
    "acre", "bit", "byte", "celsius", "centimeter", "day", "degree", "fahrenheit", "fluid-ounce", "foot",
    "gallon", "gigabit", "gigabyte", "gram", "hectare", "hour", "inch", "kilobit", "kilobyte", "kilogram",
    "kilometer", "liter", "megabit", "megabyte", "meter", "microsecond", "mile", "mile-scandinavian",
    "milliliter", "millimeter", "millisecond", "minute", "month", "nanosecond", "ounce", "percent",
    "petabyte", "pound", "second", "stone", "terabit", "terabyte", "week", "yard", "year",
];

/// The names of the IANA Time Zone Database that have a part of the world in front.
static ZONES: LazyLock<Vec<&str>> = LazyLock::new(|| {
    include_str!("../../../data/zones.txt").lines().filter(|line| !line.starts_with('#')).collect()
});

/// Whether a text is the name of a time zone, or a difference to UTC (ECMA-402, "IsTimeZoneOffsetString").
fn is_time_zone(zone: &str) -> bool {
    const BARE: &[&str] = &[
        "act", "aet", "agt", "art", "ast", "bet", "bst", "cat", "cet", "cnt", "cst", "cst6cdt", "ctt",
        "cuba", "eat", "ect", "eet", "egypt", "eire", "est", "est5edt", "gb", "gb-eire", "gmt", "gmt+0",
        "gmt-0", "gmt0", "greenwich", "hongkong", "hst", "iceland", "iet", "iran", "israel", "ist",
        "jamaica", "japan", "jst", "kwajalein", "libya", "met", "mit", "mst", "mst7mdt", "navajo", "net",
        "nst", "nz", "nz-chat", "plt", "pnt", "poland", "portugal", "prc", "prt", "pst", "pst8pdt", "roc",
        "rok", "singapore", "sst", "turkey", "uct", "universal", "utc", "vst", "w-su", "wet", "zulu",
    ];
    let lower = zone.to_ascii_lowercase();
    let is_below = |text: &str, end: u8| {
        text.len() == 2
            && text.bytes().all(|c| c.is_ascii_digit())
            && text.parse().is_ok_and(|own: u8| own < end)
    };
    let is_difference = |hours: &str| match hours.split_at_checked(2) {
        Some((hours, "")) => is_below(hours, 24),
        Some((hours, minutes)) => is_below(hours, 24) && is_below(minutes.trim_start_matches(':'), 60),
        None => false,
    };
    match lower.strip_prefix(['+', '-']) {
        Some(hours) => is_difference(hours),
        // Old names that ICU has beside those of the database.
        None if lower.starts_with("systemv/") || lower == "us/pacific-new" => true,
        None if lower.contains('/') => ZONES.iter().any(|own| own.eq_ignore_ascii_case(zone)),
        None => BARE.contains(&lower.as_str()),
    }
}

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
        let is_date = method.contains("Date") || method.contains("Time");
        if !is_date && let Some(stop) = self.refused_unit_of_number(method, &options, span) {
            return Some(stop);
        }
        if let Some(Value::Text(zone)) = self.option(&options, "timeZone").filter(|_| is_date)
            && !is_time_zone(&zone)
        {
            let takes = "for `timeZone` one of the IANA database, as `Europe/London`";
            let near = crate::source::nearest(&zone, ZONES.iter().copied());
            return Some(self.refused(method, &*zone, takes, near, span));
        }
        for (name, words) in if is_date { OF_DATES } else { OF_NUMBERS } {
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

    /// Units that are none (ECMA-402, "IsWellFormedUnitIdentifier").
    fn refused_unit_of_number(&mut self, method: &str, options: &Value, span: Span) -> Option<Stop> {
        let is_unit = matches!(self.option(options, "style"), Some(Value::Text(style)) if &*style == "unit");
        match self.option(options, "unit") {
            None if is_unit && self.is_closed(options) => {
                let takes = "with `style: \"unit\"` a `unit`";
                Some(self.refused(method, "no unit", takes, Some("unit: \"kilometer\""), span))
            }
            Some(Value::Text(unit)) => {
                let parts = unit.split_once("-per-").map_or((&*unit, None), |(one, per)| (one, Some(per)));
                let is_known = |unit: &str| UNITS.contains(&unit);
                if is_known(parts.0) && parts.1.is_none_or(is_known) {
                    return None;
                }
                let near = crate::source::nearest(&unit, UNITS.iter().copied());
                Some(self.refused(
                    method, &*unit, "for `unit` one by its name in English, as `kilometer`", near, span,
                ))
            }
            _ => None,
        }
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
            Value::Number(number) if number.is_nan() => {
                Some(self.refused("format", "NaN", "a date", None, span))
            }
            Value::Object(id) if matches!(self.object(*id).kind, Kind::Date(Moment::At(time) | Moment::Local(time)) if time.is_nan()) => {
                Some(self.refused("format", "an invalid date", "a date", None, span))
            }
            _ => None,
        }
    }
}
