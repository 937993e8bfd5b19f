//! A sheet as it stands on a page: what it is under, and what it imports.

use std::sync::Arc;

use super::condition::Condition;
use super::rule::LayerPath;
use super::rules::StyleRules;
use crate::markup::NodeId;

/// A sheet on a page.
#[derive(Debug)]
pub struct PageSheet {
    /// Its rules.
    pub rules: Arc<StyleRules>,
    /// The conditions that all of it stands under: of its `media` attribute, or of the `@import`
    /// that brings it in.
    pub conditions: Vec<Condition>,
    /// The layer that it was imported into: the sheets and names from the page down.
    pub layer: Vec<(u32, LayerPath)>,
    /// The element that holds or links it, for scopes without a root of their own.
    pub owner: Option<NodeId>,
    /// The sheets that its `@import` rules bring in, by their place in the page's list.
    pub imported: Vec<Option<usize>>,
    /// The element whose shadow tree it is in, if any.
    pub shadow: Option<NodeId>,
    /// Whether another sheet imports it.
    pub is_imported: bool,
}

impl PageSheet {
    /// The same sheet with the rules too whose selectors other engines than Chromium know.
    pub fn for_all_engines(&self) -> Self {
        PageSheet {
            rules: Arc::new(self.rules.for_all_engines()),
            conditions: self.conditions.clone(),
            layer: self.layer.clone(),
            owner: self.owner,
            shadow: self.shadow,
            imported: self.imported.clone(),
            is_imported: self.is_imported,
        }
    }

    /// Whether something in it may depend on the colour scheme that the visitor prefers.
    pub fn asks_for_scheme(&self) -> bool {
        let texts = self.conditions.iter().map(|condition| condition.text.as_str());
        let mut texts = texts.chain([self.rules.text.as_str()]);
        texts.any(|text| text.to_ascii_lowercase().contains("prefers-color-scheme"))
    }

    /// A sheet that stands on its own, under no conditions.
    pub fn alone(rules: Arc<StyleRules>) -> Self {
        PageSheet {
            imported: vec![None; rules.imports.len()],
            rules,
            conditions: Vec::new(),
            layer: Vec::new(),
            owner: None,
            shadow: None,
            is_imported: false,
        }
    }
}
