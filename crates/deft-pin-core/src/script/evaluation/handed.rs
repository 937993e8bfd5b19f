//! What the functions of other scripts are given: elements that are not there, selectors that find nothing.

use super::arguments::Arguments;
use super::fault::{HandedOver, RunFaultKind};
use super::machine::{Machine, Run};
use super::platform;
use super::value::{Absence, Certainty, Doubt, Kind, Value};
use crate::markup::{NamedPart, SelectorList, names_in, parse_selectors};
use crate::script::program::ExpressionId;
use crate::source::Span;

/// So deep is looked for elements and selectors in what a function is given.
const DEEPEST: u32 = 2;

/// Of a list and of an object so many values are looked at.
const MOST: usize = 20;

/// Longer texts are no selector.
const LONGEST: usize = 100;

impl Machine<'_> {
    /// Looks at what a function of another script is given, before it is called.
    pub(super) fn check_handed(
        &mut self,
        function: &Value,
        this: &Value,
        callee: ExpressionId,
        arguments: &Arguments,
        is_new: bool,
    ) -> Run<()> {
        // What nobody tells need not be looked for.
        if self.certainty == Certainty::Perhaps || self.tries > 0 {
            return Ok(());
        }
        if let Some(Kind::Query(Some(elements), Some(absence))) = self.kind(this)
            && elements.is_empty()
            && function.doubt().is_some()
        {
            // A plugin, which does to none of them what it does.
            if let Some(Absence::Element { selector, span, is_early: false }) =
                self.absences.get(absence.0 as usize).cloned()
            {
                self.note(span, RunFaultKind::EmptySet { selector, near: None });
            }
            return Ok(());
        }
        let is_unknown = match self.kind(function) {
            Some(Kind::Other(sketch, _)) => {
                let sketch = sketch.clone();
                !self.is_known_elsewhere(&sketch, is_new)
            }
            _ => function.doubt() == Some(Doubt::Script),
        };
        if !is_unknown {
            return Ok(());
        }
        let program = self.program;
        let to = program.span(callee);
        for (at, value) in arguments.values.iter().enumerate() {
            let Some(written) = arguments.expressions.get(at) else { break };
            self.check_handed_value(value, program.span(*written), to, 0)?;
            if at == 0 {
                self.check_handed_name(value, program.span(*written), to);
            }
        }
        Ok(())
    }

    fn check_handed_value(&mut self, value: &Value, span: Span, to: Span, depth: u32) -> Run<()> {
        self.step(1)?;
        match value {
            Value::Null(Some(absence)) => {
                let Some(Absence::Element { selector, span, is_early }) =
                    self.absences.get(absence.0 as usize).cloned()
                else {
                    return Ok(());
                };
                let kind = match is_early {
                    true => HandedOver::Early,
                    false => HandedOver::Nothing,
                };
                self.notes_handed(span, selector, to, kind);
            }
            Value::Text(text) if looks_like_selector(text) => {
                let Ok(selectors) = parse_selectors(text) else { return Ok(()) };
                if self.is_said_elsewhere(&selectors) {
                    return Ok(());
                }
                if let Value::Null(Some(absence)) = self.find(None, text, &selectors, None, span)?
                    && let Some(Absence::Element { is_early: false, .. }) =
                        self.absences.get(absence.0 as usize)
                {
                    self.notes_handed(span, text.to_string(), to, HandedOver::Selector);
                }
            }
            Value::Object(id) if depth < DEEPEST => {
                let object = self.object(*id);
                let inner: Vec<Value> = match &object.kind {
                    Kind::Plain => object.members.values().take(MOST).cloned().collect(),
                    Kind::Array(items) => items.iter().take(MOST).cloned().collect(),
                    _ => return Ok(()),
                };
                for value in inner {
                    self.check_handed_value(&value, span, to, depth + 1)?;
                }
            }
            _ => {}
        }
        Ok(())
    }

    /// A word that is nearly the ID of an element: which ones there are the page knows.
    fn check_handed_name(&mut self, value: &Value, span: Span, to: Span) {
        let Value::Text(word) = value else { return };
        let is_name = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_');
        let is_long = (4..=LONGEST).contains(&word.len()) && word.chars().all(is_name);
        if !is_long || platform::is_event(word) || self.world.mentions(word) {
            return;
        }
        let id = NamedPart::Id((&**word).into());
        if !self.world.has_name(&id) && !self.touched.has(&id) && !self.touched.anything {
            self.notes_handed(span, format!("#{word}"), to, HandedOver::Name);
        }
    }

    /// Whether a name of a selector stands in another script, which may make or mean something else by it.
    fn is_said_elsewhere(&self, selectors: &SelectorList) -> bool {
        let names: Vec<NamedPart> = selectors.slice().iter().flat_map(names_in).collect();
        names.iter().any(|name| !self.world.has_name(name) && self.world.mentions(name.name()))
    }

    fn notes_handed(&mut self, span: Span, selector: String, to: Span, how: HandedOver) {
        let to = self.written(to);
        let outer = self.certainty;
        self.certainty = outer.max(Certainty::SomeVisit);
        self.note(span, RunFaultKind::HandedOver { selector, to, how, near: None });
        self.certainty = outer;
    }
}

/// Whether a text begins as a selector by a class or an ID does.
fn looks_like_selector(text: &str) -> bool {
    let mut letters = text.chars();
    text.len() <= LONGEST
        && matches!(letters.next(), Some('.' | '#'))
        && letters.next().is_some_and(|c| c.is_ascii_alphabetic() || matches!(c, '-' | '_'))
}
