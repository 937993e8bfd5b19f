//! What cannot be set: that throws in strict code, and nothing comes of it elsewhere (ECMA-262, "PutValue").

use std::sync::Arc;

use crate::script::style_names::property_of;

use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::platform::{self, Interface};
use super::value::{Kind, ObjectId, Value};
use crate::source::Span;
use crate::style;

/// The member of a style that is computed.
pub(super) const COMPUTED: &str = "#computed";

/// Methods that change the array that they are called on.
const CHANGE_ARRAYS: &[&str] =
    &["copyWithin", "fill", "pop", "push", "reverse", "shift", "sort", "splice", "unshift"];

impl Machine<'_> {
    /// Tells of what cannot be set.
    fn refuses_change(&mut self, of: &str, name: &str, span: Span) -> Run<()> {
        let throws = self.frame.is_strict;
        let kind = RunFaultKind::ReadOnly { of: of.to_owned(), name: name.to_owned(), throws };
        if throws {
            return Err(self.throws(span, kind));
        }
        self.note(span, kind);
        Ok(())
    }

    /// Whether a member cannot be set on an object: it is frozen, or has but a getter for that. Tells it then.
    pub(super) fn cannot_change(&mut self, id: ObjectId, key: &Arc<str>, span: Span) -> Run<bool> {
        if self.object(id).is_frozen {
            self.refuses_change(FROZEN, key, span)?;
            return Ok(true);
        }
        if self.object(id).marks.get(key).is_some_and(|own| own.is_fixed) {
            self.refuses_change(FIXED, key, span)?;
            return Ok(true);
        }
        if !self.has_only_getter(id, key) {
            return Ok(false);
        }
        self.refuses_change("", key, span)?;
        Ok(true)
    }

    fn has_only_getter(&self, id: ObjectId, key: &Arc<str>) -> bool {
        let mut at = Some(id);
        for _ in 0..20 {
            let Some(own) = at else { return false };
            let object = self.object(own);
            if object.setters.iter().any(|(name, _)| name == key) {
                return false;
            }
            if let Some(value) = object.members.get(key) {
                return matches!(self.kind(value), Some(Kind::Getter(_)));
            }
            at = object.parent;
        }
        false
    }

    /// Whether a member of an interface cannot be set. Tells it then.
    pub(super) fn check_writable(
        &mut self,
        id: ObjectId,
        of: Interface,
        key: &Arc<str>,
        span: Span,
    ) -> Run<bool> {
        if let Some(stop) = self.refused_style(id, key, span) {
            return Err(stop);
        }
        let is_refused = platform::member(of, key).is_some_and(|own| !own.is_function && !own.is_writable);
        let has_own = |id: ObjectId| {
            let object = self.object(id);
            object.members.contains_key(key) || object.setters.iter().any(|(name, _)| name == key)
        };
        // What an event has by itself is kept with it.
        let is_event = platform::extends(of, "Event");
        let is_own = !is_event && has_own(id) || self.object(id).parent.is_some_and(has_own);
        // A list of choices is one of another kind, whose length can be set.
        if of == "HTMLCollection" && &**key == "length" {
            return Ok(false);
        }
        if !is_refused || is_own || self.may_be_added(of, key) {
            return Ok(false);
        }
        self.refuses_change(of, key, span)?;
        Ok(true)
    }

    /// What is thrown where a computed style is changed (CSSOM, "CSSStyleDeclaration": the readonly flag).
    pub(super) fn refused_style(&mut self, id: ObjectId, name: &str, span: Span) -> Option<Stop> {
        if !self.object(id).members.contains_key(COMPUTED) {
            return None;
        }
        let changes = matches!(name, "removeProperty" | "setProperty" | "cssText")
            || style::is_property(&property_of(name));
        if !changes {
            return None;
        }
        let kind = RunFaultKind::RefusedArgument {
            method: name.to_owned(),
            given: self.written(span),
            takes: "no computed style: that can be read alone".to_owned(),
            write: Some("element.style".to_owned()),
        };
        Some(self.throws(span, kind))
    }

    /// A text, a number or a boolean that is given a member.
    pub(super) fn sets_on_primitive(&mut self, value: &Value, key: &Arc<str>, span: Span) -> Run<()> {
        let Some(of) = value.primitive() else { return Ok(()) };
        let is_part = of == "String" && (&**key == "length" || key.parse::<usize>().is_ok());
        match is_part || self.frame.is_strict {
            true => self.refuses_change(of, key, span),
            false => {
                self.sets_vainly(of, key, span);
                Ok(())
            }
        }
    }

    /// A method that changes an array that is frozen, which throws.
    pub(super) fn changes_frozen(&mut self, name: &str, this: &Value, span: Span) -> Run<()> {
        let Value::Object(id) = this else { return Ok(()) };
        if !self.object(*id).is_frozen || !CHANGE_ARRAYS.contains(&name) {
            return Ok(());
        }
        let kind = RunFaultKind::ReadOnly { of: FROZEN.to_owned(), name: name.to_owned(), throws: true };
        Err(self.throws(span, kind))
    }
}

/// What stands for an object that is frozen.
const FROZEN: &str = "freeze";
/// What stands for a member that was made so that it cannot be set.
const FIXED: &str = "defineProperty";
