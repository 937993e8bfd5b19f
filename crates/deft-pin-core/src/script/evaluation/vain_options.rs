//! Members of options that a function of the platform does not read, and what it makes of texts for numbers.

use super::arguments::Arguments;
use super::machine::Machine;
use super::vain_sets::leading_number;
use super::value::{Kind, Value};
use crate::script::style_names::{member_of, property_of};
use crate::source::{Span, nearest};
use crate::style;

/// The functions that take options: where these stand, and what they are called (CSSOM View, DOM, Fetch, HTML, Web
/// Animations; ECMA-402).
const OPTIONS: &[(&str, usize, &[&str])] = &[
    ("CustomEvent", 1, &["bubbles", "cancelable", "composed", "detail"]),
    (
        "IntersectionObserver",
        1,
        &["delay", "root", "rootMargin", "scrollMargin", "threshold", "trackVisibility"],
    ),
    ("NumberFormat", 1, FORMAT),
    ("addEventListener", 2, &["capture", "once", "passive", "signal"]),
    (
        "fetch",
        1,
        &[
            "body", "cache", "credentials", "duplex", "headers", "integrity", "keepalive", "method", "mode",
            "priority", "redirect", "referrer", "referrerPolicy", "signal", "targetAddressSpace", "window",
        ],
    ),
    ("focus", 0, &["focusVisible", "preventScroll"]),
    (
        "observe",
        1,
        &[
            "attributeFilter", "attributeOldValue", "attributes", "box", "buffered", "characterData",
            "characterDataOldValue", "childList", "entryTypes", "subtree", "type",
        ],
    ),
    ("scroll", 0, &["behavior", "left", "top"]),
    ("scrollBy", 0, &["behavior", "left", "top"]),
    ("scrollIntoView", 0, &["behavior", "block", "container", "inline"]),
    ("scrollTo", 0, &["behavior", "left", "top"]),
    ("toLocaleDateString", 1, FORMAT),
    ("toLocaleString", 1, FORMAT),
    ("toLocaleTimeString", 1, FORMAT),
];
const FORMAT: &[&str] = &[
    "calendar", "compactDisplay", "currency", "currencyDisplay", "currencySign", "dateStyle", "day",
    "dayPeriod", "era", "formatMatcher", "fractionalSecondDigits", "hour", "hour12", "hourCycle",
    "localeMatcher", "maximumFractionDigits", "maximumSignificantDigits", "minimumFractionDigits",
    "minimumIntegerDigits", "minimumSignificantDigits", "minute", "month", "notation", "numberingSystem",
    "roundingIncrement", "roundingMode", "roundingPriority", "second", "signDisplay", "style", "timeStyle",
    "timeZone", "timeZoneName", "trailingZeroDisplay", "unit", "unitDisplay", "useGrouping", "weekday",
    "year",
];
/// What stands beside the properties in a keyframe (Web Animations, "process a keyframes argument").
const OF_KEYFRAMES: &[&str] = &["composite", "cssFloat", "cssOffset", "easing", "offset"];

impl Machine<'_> {
    /// Options that a function does not read, of nearly the name of one that it does.
    pub(super) fn check_options(&mut self, name: &str, arguments: &Arguments, span: Span) {
        let Some((_, at, known)) = OPTIONS.iter().find(|own| own.0 == name) else { return };
        let Value::Object(id) = arguments.get(*at) else { return };
        let object = self.object(id);
        if !matches!(object.kind, Kind::Plain) {
            return;
        }
        let is_read = |key: &str| known.contains(&key);
        // What people write for options that are called otherwise.
        let otherwise = |key: &str| match (name, key) {
            ("fetch", "data" | "json") => Some("body"),
            ("fetch", "contentType" | "dataType") => Some("headers"),
            ("fetch", "type") => Some("method"),
            _ => None,
        };
        let near = |key: &str| {
            let same = known.iter().copied().find(|own| own.eq_ignore_ascii_case(key));
            let british = (key == "behaviour").then_some("behavior").filter(|own| is_read(own));
            same.or(british).or_else(|| nearest(key, known.iter().copied()))
        };
        let found: Vec<(String, &str)> = object
            .members
            .keys()
            .filter(|key| !is_read(key) && !key.starts_with(['#', '@']))
            .filter_map(|key| Some((key.to_string(), otherwise(key).or_else(|| near(key))?)))
            // It may be for a library that takes the same.
            .filter(|(key, _)| otherwise(key).is_some() || !self.world.mentions(key))
            .take(5)
            .collect();
        for (key, near) in found {
            self.is_vain(format!("`{name}` has no option `{key}`"), Some(near.to_owned()), span);
        }
    }

    /// Places to scroll to that are no numbers: they count as 0.
    pub(super) fn check_places(&mut self, name: &str, arguments: &Arguments, span: Span) {
        let mut places = arguments.values.clone();
        if let Value::Object(id) = arguments.get(0) {
            let members = &self.object(id).members;
            places = ["left", "top"].iter().filter_map(|key| members.get(*key).cloned()).collect();
        }
        for place in places {
            let Value::Text(text) = &place else { continue };
            if self.as_number(&place).is_ok_and(f64::is_nan) {
                let write = leading_number(text);
                self.gives_vainly(name, &format!("\"{text}\""), "numbers: this counts as 0", write, span);
            }
        }
    }

    /// What is no property in a keyframe is passed over.
    pub(super) fn check_keyframes(&mut self, arguments: &Arguments, span: Span) {
        let Value::Object(id) = arguments.get(0) else { return };
        let frames: Vec<Value> = match &self.object(id).kind {
            Kind::Array(frames) => frames.clone(),
            Kind::Plain => vec![arguments.get(0)],
            _ => return,
        };
        for frame in frames.iter().take(20) {
            let Value::Object(id) = frame else { continue };
            let object = self.object(*id);
            if !matches!(object.kind, Kind::Plain) {
                continue;
            }
            let is_property = |key: &str| {
                key.starts_with("--")
                    || OF_KEYFRAMES.contains(&key)
                    || !key.contains('-') && style::is_property(&property_of(key))
            };
            let wrong: Vec<String> = object
                .members
                .keys()
                .filter(|key| !is_property(key) && !key.starts_with(['#', '@']))
                .map(|key| key.to_string())
                .take(5)
                .collect();
            for key in wrong {
                let dashed = property_of(&key);
                let near = match style::is_property(&key) {
                    true => Some(member_of(&key)),
                    false => style::nearest_property(&dashed).map(member_of),
                };
                self.is_vain(format!("a keyframe has no property `{key}`"), near, span);
            }
        }
    }
}
