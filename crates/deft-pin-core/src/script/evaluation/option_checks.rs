//! Options that the platform refuses by what standards say in words: numbers out of range, texts of another grammar.

use std::sync::{Arc, LazyLock};

use regex::Regex;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Stop};
use super::platform;
use super::value::{Kind, Value};
use crate::source::Span;

/// A timing function (css-easing-2, 2).
static EASING: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(?i)^\s*(?:linear|ease|ease-in|ease-out|ease-in-out|step-start|step-end|(?:cubic-bezier|steps|linear)\(.*\)|var\(.*|inherit|initial|unset)\s*$").ok()
});

/// A margin of lengths in pixels or percentages (Intersection Observer, 2.2).
static MARGIN: LazyLock<Option<Regex>> = LazyLock::new(|| {
    Regex::new(r"(?i)^\s*(?:[-+]?(?:\d+\.?\d*|\.\d+)(?:px|%|in|cm|mm|pt|pc|q)(?:\s+|$)){0,4}$").ok()
});

fn fits(grammar: &LazyLock<Option<Regex>>, text: &str) -> bool {
    grammar.as_ref().is_none_or(|grammar| grammar.is_match(text))
}

impl Machine<'_> {
    /// What is thrown where a method is given what it does not take.
    pub(super) fn refused(
        &mut self,
        method: &str,
        given: impl Into<String>,
        takes: &str,
        write: Option<&str>,
        span: Span,
    ) -> Stop {
        let kind = RunFaultKind::RefusedArgument {
            method: method.to_owned(),
            given: given.into(),
            takes: takes.to_owned(),
            write: write.map(str::to_owned),
        };
        self.throws(span, kind)
    }

    /// A member of an object of options, as far as it is known.
    pub(super) fn option(&self, options: &Value, name: &str) -> Option<Value> {
        let Value::Object(id) = options else { return None };
        let object = self.object(*id);
        object.members.get(name).filter(|_| matches!(object.kind, Kind::Plain)).cloned()
    }

    /// What `animate` refuses (Web Animations, "process a keyframes argument" and "timing properties").
    pub(super) fn refused_animation(&mut self, arguments: &Arguments, span: Span) -> Option<Stop> {
        let (frames, timing) = (arguments.get(0), arguments.get(1));
        let items = match self.kind(&frames) {
            Some(Kind::Array(items)) => items.clone(),
            Some(Kind::Plain) => vec![frames.clone()],
            _ => Vec::new(),
        };
        for of in items.iter().chain([&timing]) {
            if let Some(Value::Text(easing)) = self.option(of, "easing")
                && !fits(&EASING, &easing)
            {
                let near = if easing.contains('-') { "ease-in-out" } else { "ease" };
                return Some(self.refused(
                    "animate",
                    &*easing,
                    "for `easing` a timing function",
                    Some(near),
                    span,
                ));
            }
        }
        let mut last = 0.0;
        for frame in &items {
            if let Some(Value::Number(offset)) = self.option(frame, "offset") {
                if !(0.0..=1.0).contains(&offset) {
                    let given = format!("offset: {offset}");
                    return Some(
                        self.refused("animate", given, "for `offset` a number from 0 to 1", None, span),
                    );
                }
                if offset < last {
                    return Some(self.refused(
                        "animate",
                        format!("offset: {offset}"),
                        "offsets that do not go back",
                        None,
                        span,
                    ));
                }
                last = offset;
            }
        }
        for (name, takes) in [("duration", "a number of milliseconds"), ("iterations", "a number from 0 on")]
        {
            let given = match self.option(&timing, name) {
                Some(Value::Number(own)) if own < 0.0 || own.is_nan() => Some(own.to_string()),
                Some(Value::Text(own)) if name == "duration" && &*own != "auto" => Some(format!("\"{own}\"")),
                Some(Value::Text(own))
                    if name == "iterations" && own.trim().parse::<f64>().is_err() && &*own != "Infinity" =>
                {
                    Some(format!("\"{own}\""))
                }
                _ => None,
            };
            if let Some(given) = given {
                let digits: String = given.chars().filter(|c| c.is_ascii_digit()).collect();
                let write = (given.starts_with('"') && !digits.is_empty()).then_some(digits);
                let takes = format!("for `{name}` {takes}");
                return Some(self.refused("animate", given, &takes, write.as_deref(), span));
            }
        }
        None
    }

    /// What `new IntersectionObserver` refuses (Intersection Observer, "initialize a new IntersectionObserver").
    pub(super) fn refused_observer(&mut self, options: &Value, span: Span) -> Option<Stop> {
        let method = "new IntersectionObserver";
        let thresholds = match self.option(options, "threshold") {
            Some(Value::Object(id)) => match &self.object(id).kind {
                Kind::Array(items) => items.clone(),
                _ => Vec::new(),
            },
            Some(own) => vec![own],
            None => Vec::new(),
        };
        for threshold in thresholds {
            let number = match threshold {
                Value::Undefined(_) => continue,
                ref own => self.as_number(own),
            };
            if let Ok(number) = number
                && !(0.0..=1.0).contains(&number)
            {
                let share = (number / 100.0).to_string();
                let write = (number > 1.0 && number <= 100.0).then_some(share);
                let given = format!("threshold: {number}");
                return Some(self.refused(
                    method,
                    given,
                    "for `threshold` numbers from 0 to 1",
                    write.as_deref(),
                    span,
                ));
            }
        }
        for name in ["rootMargin", "scrollMargin"] {
            if let Some(Value::Text(margin)) = self.option(options, name)
                && !fits(&MARGIN, &margin)
            {
                let takes = format!("for `{name}` lengths in `px` or `%`");
                let is_number = margin.trim().parse::<f64>().is_ok();
                let write = is_number.then(|| format!("{}px", margin.trim()));
                return Some(self.refused(method, &*margin, &takes, write.as_deref(), span));
            }
        }
        match self.option(options, "root") {
            Some(own) if own.primitive().is_some() => {
                Some(self.refused(method, "root", "for `root` an element", None, span))
            }
            _ => None,
        }
    }

    /// What `performance.measure` refuses: marks that nobody sets (User Timing, "convert a mark to a timestamp").
    pub(super) fn refused_measure(&mut self, arguments: &Arguments, span: Span) -> Option<Stop> {
        let is_literal = |given: &str| given.starts_with(['"', '\'']);
        if !self.once("#marks", |this| this.text.split(".mark(").skip(1).all(is_literal)) {
            return None;
        }
        for value in arguments.values.iter().skip(1).take(2) {
            let Value::Text(mark) = value else { continue };
            let is_said_once = |this: &Self| {
                let quoted = ['"', '\'', '`'].map(|quote| format!("{quote}{mark}{quote}"));
                quoted.iter().map(|text| this.text.matches(text.as_str()).count()).sum::<usize>() == 1
            };
            let is_timing = platform::member("PerformanceTiming", mark).is_some();
            if self.once(&format!("#mark {mark}"), is_said_once) && !is_timing && !self.world.mentions(mark) {
                return Some(
                    self.refused("measure", &**mark, "the name of a mark that is set before", None, span),
                );
            }
        }
        None
    }

    /// What shapes of a canvas refuse: a radius below nothing (HTML, "Building paths").
    pub(super) fn refused_radius(&mut self, name: &str, arguments: &Arguments, span: Span) -> Option<Stop> {
        let places: &[usize] = match name {
            "arc" => &[2],
            "arcTo" => &[4],
            "ellipse" => &[2, 3],
            _ => &[2, 5],
        };
        let radius = places
            .iter()
            .map(|at| arguments.get(*at))
            .find(|given| matches!(given, Value::Number(radius) if *radius < 0.0))?;
        Some(self.out_of_range(name, &radius, "a radius from 0 on", span))
    }

    /// What a format of spans of time refuses (ECMA-402, "SingularRelativeTimeUnit").
    pub(super) fn refused_unit(&mut self, name: &str, unit: &Value, span: Span) -> Option<Stop> {
        const UNITS: &[&str] = &["second", "minute", "hour", "day", "week", "month", "quarter", "year"];
        let Value::Text(given) = unit else { return None };
        if UNITS.contains(&given.strip_suffix('s').unwrap_or(given)) {
            return None;
        }
        let near = crate::source::nearest(given, UNITS.iter().copied());
        Some(self.refused(name, &**given, "a unit, as `day` or `hour`", near, span))
    }

    /// What functions for texts refuse that are no addresses, or not of the characters that they read (ECMA-262, "Decode";
    /// HTML, "Base64 utility methods").
    pub(super) fn refused_text(&mut self, name: &str, given: &Value, span: Span) -> Option<Stop> {
        let Value::Text(text) = given else { return None };
        let text = Arc::clone(text);
        let takes = match name {
            "btoa" if text.chars().any(|c| u32::from(c) > 0xff) => "characters up to `ÿ` alone",
            "atob" => {
                let bare: String = text.chars().filter(|c| !c.is_ascii_whitespace()).collect();
                let body = bare.trim_end_matches('=');
                let is_base64 = body.chars().all(|c| c.is_ascii_alphanumeric() || "+/".contains(c))
                    && body.len() % 4 != 1
                    && bare.len() - body.len() <= 2
                    && (bare.len() == body.len() || bare.len().is_multiple_of(4));
                if is_base64 {
                    return None;
                }
                "a text in Base64"
            }
            "decodeURIComponent" | "decodeURI" => {
                let bytes = text.as_bytes();
                let is_digit = |at: usize| bytes.get(at).is_some_and(u8::is_ascii_hexdigit);
                let is_cut =
                    (0..bytes.len()).any(|at| bytes[at] == b'%' && !(is_digit(at + 1) && is_digit(at + 2)));
                let is_broken = percent_encoding::percent_decode_str(&text).decode_utf8().is_err();
                if !is_cut && !is_broken {
                    return None;
                }
                "`%` with two digits behind it alone"
            }
            _ => return None,
        };
        Some(self.refused(name, &*text, takes, None, span))
    }

    /// What `requestSubmit` refuses: what is no button of the form (HTML, "requestSubmit").
    pub(super) fn refused_submitter(&mut self, arguments: &Arguments, span: Span) -> Option<Stop> {
        let node = self.node_of(&arguments.get(0))?;
        let submits = match &*self.tag_of(node) {
            "button" => match self.attribute(node, "type") {
                Value::Text(of) => !matches!(&*of.to_ascii_lowercase(), "button" | "reset"),
                Value::Null(_) => true,
                _ => return None,
            },
            "input" => match self.attribute(node, "type") {
                Value::Text(of) => matches!(&*of.to_ascii_lowercase(), "submit" | "image"),
                Value::Null(_) => false,
                _ => return None,
            },
            _ => false,
        };
        let given = arguments.expressions.first().map(|own| self.written(self.program.span(*own)));
        let given = given.unwrap_or_default();
        (!submits).then(|| self.refused("requestSubmit", given, "a button that submits the form", None, span))
    }

    /// Whether an object has these members and no others.
    pub(super) fn is_closed(&self, value: &Value) -> bool {
        matches!(value, Value::Object(id) if !self.object(*id).is_open && self.object(*id).parent.is_none())
    }
}
