//! Whether other scripts of a page may bring in what a selector finds nothing of.

use std::sync::Arc;

use crate::markup::{NamedPart, Selector, SelectorList, attributes_in, names_in};
use crate::script::{ScriptFacts, ScriptFile};
use crate::site::PageStep;

use super::run_world::is_query_alone;
use super::timeline_faults::Looker;

impl Looker<'_> {
    /// Whether another script may bring in an element that a selector finds, before the script of a step asks for it.
    pub(super) fn may_be_made(&self, at: usize, selectors: &SelectorList, is_later: bool) -> bool {
        let frame = self.steps[at].script().and_then(|script| script.file.frame.as_ref());
        let is_brought = |name: &NamedPart| frame.is_some_and(|frame| frame.brings.contains(name));
        let timeline = self.page.timeline();
        let is_other = |by: usize| by != at && (is_later || !timeline.is_before(at, by));
        let others: Vec<&PageStep> =
            self.steps.iter().enumerate().filter(|(by, _)| is_other(*by)).map(|(_, step)| step).collect();
        others.iter().any(|step| step.hides_something())
            || selectors.slice().iter().any(|selector| {
                let names = names_in(selector);
                let is_known = names.iter().any(|name| {
                    self.is_announced(name.name()) || is_brought(name) || self.page.lacks_content(name)
                });
                is_known || self.may_come_to_match(selector, &names, &others)
            })
    }

    fn may_come_to_match(&self, selector: &Selector, names: &[NamedPart], others: &[&PageStep]) -> bool {
        let adds = |facts: &ScriptFacts, name: &NamedPart| {
            let is_id = matches!(name, NamedPart::Id(_));
            facts.adds.iter().any(|added| added.name == name.name() && added.is_id == is_id)
        };
        if names.iter().any(|name| others.iter().any(|step| step.all_facts().any(|facts| adds(facts, name))))
        {
            return true;
        }
        // jQuery does what it is told alone.
        let acting: Vec<&Arc<ScriptFile>> =
            others.iter().filter(|step| !is_query_alone(step)).flat_map(|step| step.scripts()).collect();
        let any = |asked: &dyn Fn(&ScriptFile) -> bool| acting.iter().any(|script| asked(script));
        let mut is_new = false;
        for name in names.iter().filter(|name| !self.page.names().has(name)) {
            match name {
                NamedPart::Tag(tag) if any(&|script| script.makes_element(tag)) => is_new = true,
                _ => return false,
            }
        }
        let document = self.page.document();
        for name in attributes_in(selector) {
            let is_set = any(&|script| script.sets_attribute(name));
            if !is_set && !document.elements().any(|element| element.attr(name).is_some()) {
                return false;
            }
            is_new |= is_set;
        }
        // All of it is there, and elsewhere: it may be moved, or more of it put in.
        is_new
            || any(&|script| {
                script.moves_elements()
                    && names.iter().any(|name| match name {
                        NamedPart::Tag(tag) => script.makes_element(tag),
                        _ => script.has_word(name.name()),
                    })
            })
    }
}
