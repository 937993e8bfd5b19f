//! Proxies (ECMA-262, "Proxy Object Internal Methods and Internal Slots"): what is done to one is handed to its traps.

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::value::{Doubt, Kind, ObjectId, Value};
use crate::source::Span;

/// Proxies of proxies are followed for so many.
const DEEPEST: usize = 20;

impl Machine<'_> {
    /// `new Proxy(target, handler)`.
    pub(super) fn new_proxy(&mut self, arguments: &Arguments, span: Span) -> Run<Value> {
        let (target, handler) = (arguments.get(0), arguments.get(1));
        let (Value::Object(own), Value::Object(by)) = (&target, &handler) else {
            if target.doubt().or(handler.doubt()).is_some_and(|doubt| doubt != Doubt::Now) {
                self.hand_over_all(arguments)?;
                return Ok(Value::OPEN);
            }
            return Err(self.refused("new Proxy", self.written(span), "two objects", None, span));
        };
        let handled = self.object(*by);
        let inner = std::iter::successors(Some(*own), |at| self.proxied(*at).map(|(target, _)| target));
        let is_deep = inner.take(DEEPEST).count() == DEEPEST;
        if is_deep || !matches!(handled.kind, Kind::Plain) || handled.is_open || handled.parent.is_some() {
            self.hand_over_all(arguments)?;
            return Ok(Value::OPEN);
        }
        Ok(self.made(Kind::Proxy(*own, *by)))
    }

    /// What a proxy stands for, and what handles it.
    pub(super) fn proxied(&self, id: ObjectId) -> Option<(ObjectId, ObjectId)> {
        match self.object(id).kind {
            Kind::Proxy(target, handler) => Some((target, handler)),
            _ => None,
        }
    }

    /// The function of a handler for what is done; none where it has none.
    fn trap(&self, handler: ObjectId, name: &str) -> Option<Value> {
        let own = self.object(handler).members.get(name)?;
        (!matches!(own, Value::Undefined(_) | Value::Null(_))).then(|| own.clone())
    }

    /// A member of a proxy that is asked for.
    pub(super) fn member_of_proxy(&mut self, id: ObjectId, key: Option<&Arc<str>>, span: Span) -> Run<Value> {
        let Some((target, handler)) = self.proxied(id) else { return Ok(Value::OPEN) };
        let target = Value::Object(target);
        match (self.trap(handler, "get"), key) {
            (Some(trap), Some(key)) => {
                let given = Arguments::of(vec![target, Value::Text(Arc::clone(key)), Value::Object(id)]);
                self.call(&trap, Value::Object(handler), given, span)
            }
            (Some(trap), None) => {
                self.hand_over(&trap)?;
                Ok(Value::OPEN)
            }
            (None, key) => self.deeper(|this| this.member_at(&target, key, span)),
        }
    }

    /// A member of a proxy that is set.
    pub(super) fn set_on_proxy(
        &mut self,
        id: ObjectId,
        key: Option<Arc<str>>,
        value: Value,
        span: Span,
    ) -> Run<()> {
        let Some((target, handler)) = self.proxied(id) else { return Ok(()) };
        match (self.trap(handler, "set"), key) {
            (Some(trap), Some(key)) => {
                let given = vec![Value::Object(target), Value::Text(key), value, Value::Object(id)];
                self.call(&trap, Value::Object(handler), Arguments::of(given), span).map(drop)
            }
            (Some(trap), None) => {
                self.hand_over(&value)?;
                self.hand_over(&trap)
            }
            (None, key) => self.deeper(|this| this.set_member_of(target, key, value, span)),
        }
    }

    /// Whether a proxy has a member.
    pub(super) fn proxy_has(&mut self, id: ObjectId, key: &Arc<str>) -> Run<Result<bool, Doubt>> {
        let Some((target, handler)) = self.proxied(id) else { return Ok(Err(Doubt::Open)) };
        match self.trap(handler, "has") {
            Some(trap) => {
                let given = Arguments::of(vec![Value::Object(target), Value::Text(Arc::clone(key))]);
                let at = self.called_at;
                Ok(self.call(&trap, Value::Object(handler), given, at)?.truth())
            }
            None => self.deeper(|this| this.has_member(&Value::Object(target), key)),
        }
    }

    /// `delete` of a member of a proxy.
    pub(super) fn deletes_of_proxy(&mut self, id: ObjectId, key: Option<Arc<str>>) -> Run<()> {
        let Some((target, handler)) = self.proxied(id) else { return Ok(()) };
        match (self.trap(handler, "deleteProperty"), key) {
            (Some(trap), Some(key)) => {
                let given = Arguments::of(vec![Value::Object(target), Value::Text(key)]);
                let at = self.called_at;
                self.call(&trap, Value::Object(handler), given, at).map(drop)
            }
            (Some(trap), None) => self.hand_over(&trap),
            (None, key) => self.deeper(|this| this.deletes(&Value::Object(target), key)),
        }
    }

    /// A call of a proxy.
    pub(super) fn call_proxy(
        &mut self,
        (target, handler): (ObjectId, ObjectId),
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let target = Value::Object(target);
        match self.trap(handler, "apply") {
            Some(trap) => {
                let list = self.array(arguments.values, arguments.is_open);
                let given = Arguments::of(vec![target, this, list]);
                self.call(&trap, Value::Object(handler), given, span)
            }
            None => self.deeper(|machine| machine.call(&target, this, arguments, span)),
        }
    }

    /// What a function of the platform works on, where it is called on a proxy or given one: what that stands for, where
    /// its handler does not see what is read.
    pub(super) fn unproxied(&mut self, value: &Value) -> Run<Value> {
        const READING: &[&str] = &["get", "ownKeys", "getOwnPropertyDescriptor"];
        let Value::Object(id) = value else { return Ok(value.clone()) };
        let Some((target, handler)) = self.proxied(*id) else { return Ok(value.clone()) };
        if READING.iter().any(|name| self.trap(handler, name).is_some()) {
            self.hand_over(&Value::Object(handler))?;
            return Ok(Value::OPEN);
        }
        // What it changes there is told, in which order nobody knows.
        if let Some(trap) = self.trap(handler, "set") {
            self.hand_over(&trap)?;
        }
        self.deeper(|this| this.unproxied(&Value::Object(target)))
    }
}
