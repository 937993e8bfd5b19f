//! `closest` and `matches`: what elements are asked by selectors (DOM, "Interface Element").

use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Absence, Kind, Node, Value};
use crate::markup::{Assume, ElementRef, SelectorList, Sought, parse_selectors};
use crate::source::Span;

impl Machine<'_> {
    /// `closest` and `matches`.
    pub(super) fn ask_selector(
        &mut self,
        name: &str,
        (this, node): (&Value, Option<Node>),
        given: &Value,
        span: Span,
    ) -> Run<Value> {
        let Ok(text) = self.as_text(given) else { return Ok(Value::OPEN) };
        let selectors = match parse_selectors(&text) {
            Ok(selectors) => selectors,
            Err(error) => {
                let kind = RunFaultKind::RefusedArgument {
                    method: name.to_owned(),
                    given: text.to_string(),
                    takes: format!("a selector: {error}"),
                    write: None,
                };
                return Err(self.throws(span, kind));
            }
        };
        if let Some(known) =
            node.and_then(|node| self.asked_at_present(name, node, (&text, &selectors), span))
        {
            return Ok(known);
        }
        let Some(Node::Page(node)) = node else {
            self.asks_for_target(this, &text);
            if name == "closest" && self.may_come_from_elsewhere(this, &selectors) {
                return Ok(Value::NULL);
            }
            // Of what a visitor comes to there are those that match.
            let document = self.world.document();
            let mut sought = Sought::by(&selectors);
            let is_there = document.elements().any(|element| sought.finds(element, Assume::Must, None));
            return Ok(match (name, is_there) {
                ("closest", true) => self.made(Kind::Instance("HTMLElement")),
                ("matches", _) => Value::A_BOOLEAN,
                _ => Value::OPEN,
            });
        };
        let is_changed = self.touched.is_moved
            || self.touched.anything
            || !self.touched.classes.is_empty()
            || self.touched.own_words.is_some()
            || !self.touched.taken.is_empty()
            || !self.touched.attributes.is_empty()
            || !self.touched.ids.is_empty();
        if is_changed || self.world.may_be_made(&selectors, self.is_later) {
            return Ok(Value::OPEN);
        }
        let document = self.world.document();
        let mut at = document.element(node);
        let mut sought = Sought::by(&selectors);
        while let Some(element) = at {
            match (name, sought.surely_finds(element, None)) {
                (_, None) => return Ok(Value::OPEN),
                ("matches", Some(is_found)) => return Ok(Value::Boolean(is_found)),
                (_, Some(true)) => {
                    let found = element.id;
                    return Ok(self.page_element(found));
                }
                _ => at = element.parent(),
            }
        }
        Ok(Value::Null(Some(self.absent(Absence::Element {
            selector: text.to_string(),
            span,
            is_early: false,
        }))))
    }

    /// Whether an event that is listened for on much comes from something else, on some visit, than what a selector
    /// finds, or what is in that.
    fn may_come_from_elsewhere(&mut self, target: &Value, selectors: &SelectorList) -> bool {
        let Value::Object(id) = target else { return false };
        let Some(within) = self.object(*id).members.get(super::events::WITHIN).cloned() else { return false };
        self.asks.first = true;
        if !self.visit.is_first {
            return false;
        }
        let document = self.world.document();
        let top = match self.kind(&within) {
            Some(Kind::Document | Kind::Window) => document.body().map(|body| body.id),
            Some(Kind::Element(Node::Page(node))) => Some(*node),
            _ => None,
        };
        let Some(top) = top else { return false };
        let mut sought = Sought::by(selectors);
        document.elements().any(|element| {
            self.charge(1);
            let around = || std::iter::successors(Some(element), |at| at.parent());
            // Nobody comes to what is hidden.
            let is_hidden = |at: ElementRef<'_>| at.data().attr(&html5ever::local_name!("hidden")).is_some();
            element.id != top
                && around().any(|at| at.id == top)
                && !around().any(is_hidden)
                && !matches!(&*element.data().name.local, "script" | "style" | "template" | "br" | "option")
                && !around().any(|at| sought.finds(at, Assume::May, None))
        })
    }
}
