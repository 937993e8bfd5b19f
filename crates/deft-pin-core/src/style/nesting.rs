//! What `&` stands for in rules that are nested in others (css-nesting-1, "nesting selector").

use crate::markup::{
    Namespaces, SelectorError, SelectorList, SelectorPlace, is_beside_elements, parent_uses,
};

/// How many selectors one rule may come to with its nesting written out: lists in lists multiply.
const MOST_WRITTEN_OUT: usize = 10_000;

/// The selectors of a rule that others are nested in.
#[derive(Clone, Debug)]
pub(crate) struct OuterRule {
    /// What `&` stands for: the rule's selectors without those of pseudo-elements.
    list: SelectorList,
    /// How many selectors that comes to with its own nesting written out.
    written_out: usize,
}

impl OuterRule {
    /// A rule that is nested in none.
    pub(crate) fn new(list: &SelectorList) -> Self {
        OuterRule::with(list, list.len())
    }

    fn with(list: &SelectorList, written_out: usize) -> Self {
        let elements = list.slice().iter().filter(|selector| !is_beside_elements(selector)).cloned();
        OuterRule { list: SelectorList::from_iter(elements.collect::<Vec<_>>().into_iter()), written_out }
    }

    /// Parses the selectors of a rule that is nested in another, or in none and stands in some place: the list, and
    /// what it is to the rules nested there; none where they are too many to be looked into.
    pub(crate) fn read_rule(
        outer: Option<&OuterRule>,
        place: SelectorPlace,
        text: &str,
        namespaces: &Namespaces,
    ) -> Result<Option<(SelectorList, OuterRule)>, SelectorError> {
        match outer {
            Some(outer) => outer.nested(text, namespaces),
            None => {
                let list = place.read(text, namespaces)?;
                let outer = OuterRule::new(&list);
                Ok(Some((list, outer)))
            }
        }
    }

    /// Parses selectors that are relative to the rule.
    pub(crate) fn read(&self, text: &str, namespaces: &Namespaces) -> Result<SelectorList, SelectorError> {
        Ok(SelectorPlace::Rule.read(text, namespaces)?.replace_parent_selector(&self.list))
    }

    fn nested(
        &self,
        text: &str,
        namespaces: &Namespaces,
    ) -> Result<Option<(SelectorList, OuterRule)>, SelectorError> {
        let list = SelectorPlace::Rule.read(text, namespaces)?;
        let uses: usize = list.slice().iter().map(parent_uses).sum();
        let written_out = uses.saturating_mul(self.written_out).saturating_add(list.len());
        if written_out > MOST_WRITTEN_OUT {
            return Ok(None);
        }
        let list = list.replace_parent_selector(&self.list);
        let inner = OuterRule::with(&list, written_out);
        Ok(Some((list, inner)))
    }
}
