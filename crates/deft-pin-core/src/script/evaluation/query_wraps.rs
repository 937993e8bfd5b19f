//! jQuery's methods that put elements around others, and take them away.

use super::machine::Machine;
use crate::markup::NodeId;

impl Machine<'_> {
    /// `wrap`, `wrapInner`, `wrapAll`: `around` is what is put around the elements, copied where there are several.
    pub(super) fn query_wraps(&mut self, name: &str, targets: &[NodeId], around: &[NodeId]) -> Option<()> {
        let around = *around.first()?;
        let document = self.present_document()?;
        // What is on the page already is not moved itself.
        let (mut parents, mut inner) = (Vec::new(), Vec::new());
        for target in targets {
            parents.push(document.node(*target).parent()?);
            inner.push(document.children(*target).collect::<Vec<_>>());
        }
        for parent in &parents {
            if !self.is_settled(*parent) {
                return None;
            }
        }
        let page = self.changed_page()?;
        let document = &mut page.document;
        match name {
            "wrapAll" => {
                let (first, parent) = (*targets.first()?, *parents.first()?);
                let wrapper = document.copy(around, true);
                document.put(wrapper, parent, Some(first));
                let deepest = deepest_in(document, wrapper);
                targets.iter().for_each(|target| document.put(*target, deepest, None));
            }
            "wrapInner" => {
                for (target, inner) in targets.iter().zip(inner) {
                    let wrapper = document.copy(around, true);
                    document.put(wrapper, *target, None);
                    let deepest = deepest_in(document, wrapper);
                    inner.into_iter().for_each(|own| document.put(own, deepest, None));
                }
            }
            _ => {
                for (target, parent) in targets.iter().zip(parents) {
                    let wrapper = document.copy(around, true);
                    document.put(wrapper, parent, Some(*target));
                    let deepest = deepest_in(document, wrapper);
                    document.put(*target, deepest, None);
                }
            }
        }
        self.charge(targets.len());
        Some(())
    }

    /// `unwrap`: the parents of the elements go, and what is in them stays.
    pub(super) fn query_unwraps(&mut self, targets: &[NodeId]) -> Option<()> {
        for target in targets {
            let document = self.present_document()?;
            let Some(parent) = document.parent_element(*target).map(|own| own.id) else { continue };
            if document.body().is_some_and(|body| body.id == parent) || !targets.contains(target) {
                continue;
            }
            let inner: Vec<NodeId> = document.children(parent).collect();
            let outer = document.node(parent).parent()?;
            if !self.is_settled(outer) {
                return None;
            }
            let page = self.changed_page()?;
            inner.into_iter().for_each(|own| page.document.put(own, outer, Some(parent)));
            page.document.detach(parent);
        }
        Some(())
    }
}

/// The first element in the first element of another, and so on, down to one that has none in it.
fn deepest_in(document: &crate::markup::Document, id: NodeId) -> NodeId {
    std::iter::successors(Some(id), |at| document.child_elements(*at).next()).last().unwrap_or(id)
}
