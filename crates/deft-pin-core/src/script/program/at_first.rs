//! Globals that have no value at first, and are given one once something happens to the page.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::handled::{Given, Handlings};
use super::sketch::Sketch;
use super::{Expression, ExpressionId, Item, Key, Pattern, Program};
use crate::script::record::PageEvent;
use crate::source::Span;

impl Program {
    /// The variables of the top level that are `null` or `undefined` until an event of the page, each with that event.
    pub(super) fn without_value_at_first(
        &self,
        found: &Handlings,
    ) -> FxHashMap<Arc<str>, (Sketch, PageEvent)> {
        /// Each value is held against all listeners.
        const MOST: usize = 50;
        let listeners = self.listeners_of_page();
        if listeners.is_empty() || listeners.len() > MOST {
            return FxHashMap::default();
        }
        let event_of = |value: ExpressionId| {
            let span = self.span(value);
            let around = listeners.iter().filter(|(own, _)| own.start <= span.start && span.end <= own.end);
            around.map(|(_, event)| *event).max()
        };
        let variables = self.top.plain.iter().chain(&self.top.late);
        let at_first = variables.filter_map(|variable| {
            let given = found.given_to.get(variable)?;
            let mut first = Sketch::Nothing;
            let mut event: Option<PageEvent> = None;
            for own in given {
                let value = match own {
                    Given::Value(value) => value,
                    Given::Nothing => continue,
                    _ => return None,
                };
                match (event_of(*value), self.expression(*value)) {
                    // The earliest counts.
                    (Some(own), _) => event = Some(event.map_or(own, |known| known.min(own))),
                    (None, Expression::Null) if found.declared_with.get(variable) == Some(value) => {
                        first = Sketch::Null;
                    }
                    (None, Expression::Global(name)) if **name == *"undefined" => {}
                    (None, _) => return None,
                }
            }
            Some((Arc::clone(self.name(*variable)), (first, event?)))
        });
        at_first.collect()
    }

    /// Where functions stand that are called once the page is parsed, or once it is loaded, and never else.
    fn listeners_of_page(&self) -> Vec<(Span, PageEvent)> {
        // Such an event may be sent by the script itself.
        let sends = |(_, expression): &(Span, Expression)| match expression {
            Expression::Member { key: Key::Name(name), .. } => {
                matches!(&**name, "dispatchEvent" | "trigger" | "triggerHandler")
            }
            _ => false,
        };
        if self.expressions.iter().any(sends) {
            return Vec::new();
        }
        let event_named = |name: &str| match name {
            "DOMContentLoaded" => Some(PageEvent::Parsed),
            "load" => Some(PageEvent::Loaded),
            _ => None,
        };
        let function = |id: ExpressionId| match self.expression(id) {
            Expression::Function(own) => Some(self.function(*own).span),
            _ => None,
        };
        let is_page = |id: ExpressionId| matches!(self.expression(id), Expression::Global(name) if matches!(&**name, "document" | "window"));
        let listener = |(_, expression): &(Span, Expression)| match expression {
            Expression::Call { callee, arguments, .. } => {
                let [Item::Value(event), Item::Value(own), ..] = &arguments[..] else { return None };
                let Expression::Text(event) = self.expression(*event) else { return None };
                let is_listening = match self.expression(*callee) {
                    Expression::Global(name) => **name == *"addEventListener",
                    Expression::Member { object, key: Key::Name(name), .. } => {
                        **name == *"addEventListener" && is_page(*object)
                    }
                    _ => false,
                };
                Some((function(*own)?, event_named(event).filter(|_| is_listening)?))
            }
            Expression::Assign { target, value, .. } => {
                let Pattern::Member(member) = self.pattern(*target) else { return None };
                match self.expression(*member) {
                    Expression::Member { object, key: Key::Name(name), .. }
                        if **name == *"onload" && is_page(*object) =>
                    {
                        Some((function(*value)?, PageEvent::Loaded))
                    }
                    _ => None,
                }
            }
            _ => None,
        };
        self.expressions.iter().filter_map(listener).collect()
    }
}
