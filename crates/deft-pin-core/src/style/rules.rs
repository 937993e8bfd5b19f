//! A sheet made ready for the cascade: every style rule with its selectors as they match, nesting
//! resolved, and with the layer, the scopes and the conditions that it stands in. Made once for a
//! file, whatever the number of pages that load it.

use std::sync::OnceLock;

use rustc_hash::FxHashMap;

use super::compile::compile;
use super::declaration::sets_flow;
use super::edit::{Edit, apply};
use super::rule::{CascadeRule, Definition, Import, Mention};
use super::sharing::SharingFacts;
use crate::markup::{NamedPart, SelectorIndex, names_in};
use crate::source::{FilePath, Position, SourceText, Span};

/// A sheet ready for the cascade.
#[derive(Debug, Default)]
pub struct StyleRules {
    /// The sheet's text, for what is shown of it.
    pub text: SourceText,
    /// The text as it was before it was edited, and the edits.
    written: Option<(SourceText, Vec<Edit>)>,
    /// Its style rules, in the order in which they appear.
    pub rules: Vec<CascadeRule>,
    /// What matters for the order of layers, in order.
    pub(super) mentions: Vec<Mention>,
    /// The sheets that it imports.
    pub imports: Vec<Import>,
    /// `@font-face` and `@keyframes` and other at-rules that define something by name.
    pub definitions: Vec<Definition>,
    /// Custom properties that it registers, and whether they are inherited.
    pub(super) registered: Vec<(String, bool)>,
    /// Where its selectors are found by what an element needs to match them: the place of the rule
    /// and that of the selector in it.
    pub(super) index: SelectorIndex<(u32, u32)>,
    names: OnceLock<FxHashMap<NamedPart, Span>>,
    sharing: OnceLock<SharingFacts>,
    /// Whether some rule sets `writing-mode` or `direction`.
    pub(super) sets_flow: bool,
}

impl StyleRules {
    /// Makes a sheet ready.
    pub fn new(text: String) -> Self {
        let compiled = compile(&text);
        let mut out = StyleRules {
            rules: compiled.rules,
            mentions: compiled.mentions,
            imports: compiled.imports,
            definitions: compiled.definitions,
            registered: compiled.registered,
            ..StyleRules::default()
        };
        out.text = SourceText::new(text);
        let declarations = out.rules.iter().flat_map(|rule| &rule.declarations);
        out.sets_flow = declarations.into_iter().any(|own| sets_flow(&own.property));
        for (number, rule) in out.rules.iter().enumerate() {
            for (place, selector) in rule.selectors.iter().enumerate() {
                out.index.add(&selector.selector, (number as u32, place as u32));
            }
        }
        out
    }

    /// Makes a sheet ready as it stands after some edits. Places in it are those in the text as
    /// it was written.
    pub fn edited(written: &SourceText, mut edits: Vec<Edit>) -> Self {
        edits.sort_by_key(|edit| edit.span);
        let mut rules = StyleRules::new(apply(written.as_str(), edits.clone()));
        rules.written = Some((written.clone(), edits));
        rules
    }

    /// The names in its selectors, with the first selector that has each.
    pub fn names(&self) -> &FxHashMap<NamedPart, Span> {
        self.names.get_or_init(|| {
            let mut names = FxHashMap::default();
            for selector in self.rules.iter().flat_map(|rule| &rule.selectors) {
                for name in names_in(&selector.selector) {
                    names.entry(name).or_insert(selector.span);
                }
            }
            names
        })
    }

    /// What has to be known of its selectors for elements that are alike to share one answer.
    pub(super) fn sharing(&self) -> &SharingFacts {
        self.sharing.get_or_init(|| SharingFacts::of(&self.rules))
    }

    /// The line and column of a place, in the text as it was written.
    pub fn position(&self, at: u32) -> Position {
        match &self.written {
            None => self.text.position(at),
            Some((written, edits)) => written.position(before(edits, at)),
        }
    }

    /// The file that a place is from, where the sheet is made of several.
    pub fn file(&self, at: u32) -> Option<&FilePath> {
        let (written, edits) = self.written.as_ref()?;
        written.file(before(edits, at))
    }

    /// A span as one of the file that it is from.
    pub fn own_span(&self, span: Span) -> Span {
        match &self.written {
            None => span,
            Some((written, _)) => written.own_span(self.source(span).1),
        }
    }

    /// The text of a span, as it was written.
    pub fn written(&self, span: Span) -> &str {
        match &self.written {
            None => self.text.slice(span),
            Some((written, edits)) => {
                written.slice(Span { start: before(edits, span.start), end: before(edits, span.end) })
            }
        }
    }

    /// The whole text, as it was written, and a span in it.
    pub fn source(&self, span: Span) -> (&str, Span) {
        match &self.written {
            None => (self.text.as_str(), span),
            Some((written, edits)) => {
                (written.as_str(), Span { start: before(edits, span.start), end: before(edits, span.end) })
            }
        }
    }
}

/// Where a place of an edited text was before the edits.
fn before(edits: &[Edit], at: u32) -> u32 {
    let mut shift = 0i64;
    for edit in edits {
        let start = i64::from(edit.span.start) + shift;
        let end = start + edit.text.len() as i64;
        if i64::from(at) < start {
            break;
        }
        if i64::from(at) < end {
            return edit.span.start;
        }
        shift += edit.text.len() as i64 - i64::from(edit.span.end - edit.span.start);
    }
    (i64::from(at) - shift).max(0) as u32
}
