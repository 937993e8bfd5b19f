//! Members that are set and that nothing knows, and properties that are set in styles (CSSOM).

use crate::script::style_names::{member_of, property_of};
use crate::style;

use super::fault::RunFaultKind;
use super::machine::Machine;
use super::platform::{self, Interface};
use super::value::Value;
use crate::source::Span;

impl Machine<'_> {
    /// A member that is set and that nothing knows, of nearly the name of one that is known.
    pub(super) fn check_member(&mut self, of: Interface, key: &str, span: Span) {
        if platform::member(of, key).is_some() || self.world.mentions(key) {
            return;
        }
        let Some(near) = platform::near(of, key) else { return self.check_foreign(of, key, span) };
        let is_writable = platform::member(of, near).is_some_and(|member| member.is_writable);
        let is_read = self.text.matches(key).count() > 1;
        if is_writable && (near.eq_ignore_ascii_case(key) || !is_read) {
            let kind = RunFaultKind::IgnoredMember {
                of: of.to_owned(),
                name: key.to_owned(),
                near: near.to_owned(),
            };
            self.note(span, kind);
        } else if !is_writable {
            self.check_foreign(of, key, span);
        }
    }

    /// Whether a style has a member beside those of its interface: one of a property, or a place.
    pub(super) fn is_of_styles(&mut self, key: &str) -> bool {
        style::is_property(&property_of(key))
            || key.parse::<usize>().is_ok()
            || key.to_ascii_lowercase().starts_with("webkit")
            || self.may_be_added("CSSStyleDeclaration", key)
            || [format!(".{key} ="), format!(".{key}=")].iter().any(|set| self.text.contains(set))
            || self.world.mentions(key)
    }

    /// A property that is set in an element's style.
    pub(super) fn check_style(&mut self, key: &str, value: &Value, span: Span) {
        let property = property_of(key);
        if let ("cssText", Value::Text(text)) = (key, value) {
            self.check_declarations(text, span);
        }
        if key == "cssText" || property.starts_with("--") {
            return;
        }
        const PREFIXED: &[&str] = &["Moz", "Ms", "O", "Webkit"];
        let is_capital = key.starts_with(|c: char| c.is_ascii_uppercase())
            && !PREFIXED.iter().any(|prefix| key.starts_with(prefix));
        if is_capital && style::is_property(property.trim_start_matches('-')) {
            let near = member_of(property.trim_start_matches('-'));
            self.note(
                span,
                RunFaultKind::IgnoredMember { of: "style".to_owned(), name: key.to_owned(), near },
            );
            return;
        }
        if !style::is_property(&property) {
            // All properties are looked through for that.
            self.charge(200);
            if let Some(near) = style::nearest_property(&property) {
                let near = member_of(near);
                let kind = RunFaultKind::IgnoredMember { of: "style".to_owned(), name: key.to_owned(), near };
                self.note(span, kind);
            } else {
                self.check_unknown_property(key, span);
            }
            return;
        }
        let Ok(text) = self.as_text(value) else { return };
        // `null` takes it away (CSSOM, "LegacyNullToEmptyString").
        if matches!(value, Value::Null(_)) {
            return;
        }
        self.check_style_value(|| format!("style.{key}"), &property, &text, span);
    }

    pub(super) fn is_dropped(&self, property: &str, text: &str) -> bool {
        let is_quirky = self.world.document().quirks() == html5ever::tree_builder::QuirksMode::Quirks;
        style::validity(property, text, is_quirky) == style::Validity::Dropped
    }

    /// A value that is set in an element's style, and that browsers drop.
    pub(super) fn check_style_value(
        &mut self,
        method: impl FnOnce() -> String,
        property: &str,
        text: &str,
        span: Span,
    ) {
        let text = text.trim();
        if text.is_empty() || !self.is_dropped(property, text) {
            return;
        }
        let write = text
            .parse::<f64>()
            .ok()
            .map(|_| format!("{text}px"))
            .filter(|own| !self.is_dropped(property, own));
        let kind = RunFaultKind::VainArgument {
            method: method(),
            given: text.to_owned(),
            takes: format!("a value that `{property}` has"),
            write,
        };
        self.note(span, kind);
    }
}
