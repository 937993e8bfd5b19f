//! A sheet made ready for the cascade: every style rule with its selectors as they match, nesting
//! resolved, and with the layer, the scopes and the conditions that it stands in. Made once for a
//! file, whatever the number of pages that load it.

use std::sync::OnceLock;

use rustc_hash::{FxHashMap, FxHashSet};

use super::compile::{CompiledSheet, compile, compile_for_all_engines};
use super::declaration::sets_flow;
use super::edit::{Edit, apply};
use super::property_id::PropertyId;
use super::rule::{CascadeRule, Definition, Import, Mention};
use super::set_names::{UsedName, set_names};
use super::sharing::SharingFacts;
use crate::markup::{NamedPart, SelectorIndex, names_in};
use crate::source::{FilePath, Position, SourceText, Span};

/// A sheet ready for the cascade.
#[derive(Debug, Default)]
pub struct StyleRules {
    /// The sheet's text, for what is shown of it.
    pub text: SourceText,
    /// The text as it was before it was edited, and the edits.
    written: Option<Written>,
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
    /// The selectors of the rules that are too many to be looked into.
    pub too_many: Vec<Span>,
    names: OnceLock<FxHashMap<NamedPart, Span>>,
    sharing: OnceLock<SharingFacts>,
    set_names: OnceLock<FxHashSet<UsedName>>,
    /// For each longhand the rules that set it, by it or by a shorthand.
    setters: OnceLock<FxHashMap<PropertyId, Vec<u32>>>,
    /// Whether some rule sets `writing-mode` or `direction`.
    pub(super) sets_flow: bool,
}

impl StyleRules {
    /// Makes a sheet ready.
    pub fn new(text: String) -> Self {
        let compiled = compile(&text);
        StyleRules::compiled(text, compiled)
    }

    /// The same sheet with the rules too whose selectors other engines than Chromium know.
    pub fn for_all_engines(&self) -> Self {
        let text = self.text.as_str().to_owned();
        let compiled = compile_for_all_engines(&text);
        StyleRules { written: self.written.clone(), ..StyleRules::compiled(text, compiled) }
    }

    fn compiled(text: String, compiled: CompiledSheet) -> Self {
        let mut out = StyleRules {
            rules: compiled.rules,
            mentions: compiled.mentions,
            imports: compiled.imports,
            definitions: compiled.definitions,
            registered: compiled.registered,
            too_many: compiled.too_many,
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
        rules.written = Some(Written::new(written.clone(), &edits));
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

    /// The keyframes that it defines, and the custom properties that it sets.
    pub fn set_names(&self) -> &FxHashSet<UsedName> {
        self.set_names.get_or_init(|| set_names(&self.rules, &self.definitions, &self.text))
    }

    /// The rules that set a longhand, by it or by a shorthand.
    pub fn setters(&self, longhand: &PropertyId) -> impl Iterator<Item = &CascadeRule> {
        let setters = self.setters.get_or_init(|| {
            let mut setters: FxHashMap<PropertyId, Vec<u32>> = FxHashMap::default();
            for (number, rule) in (0..).zip(&self.rules) {
                for longhand in rule.declarations.iter().flat_map(|own| own.property.longhands()) {
                    let rules = setters.entry(longhand.clone()).or_default();
                    if rules.last() != Some(&number) {
                        rules.push(number);
                    }
                }
            }
            setters
        });
        let numbers = setters.get(longhand).into_iter().flatten();
        numbers.map(|number| &self.rules[*number as usize])
    }

    /// What has to be known of its selectors for elements that are alike to share one answer.
    pub(super) fn sharing(&self) -> &SharingFacts {
        self.sharing.get_or_init(|| SharingFacts::of(&self.rules))
    }

    /// The line and column of a place, in the text as it was written.
    pub fn position(&self, at: u32) -> Position {
        match &self.written {
            None => self.text.position(at),
            Some(written) => written.text.position(written.before(at)),
        }
    }

    /// The file that a place is from, where the sheet is made of several.
    pub fn file(&self, at: u32) -> Option<&FilePath> {
        let written = self.written.as_ref()?;
        written.text.file(written.before(at))
    }

    /// A span as one of the file that it is from.
    pub fn own_span(&self, span: Span) -> Span {
        match &self.written {
            None => span,
            Some(written) => written.text.own_span(written.span_before(span)),
        }
    }

    /// The text of a span, as it was written.
    pub fn written(&self, span: Span) -> &str {
        match &self.written {
            None => self.text.slice(span),
            Some(written) => written.text.slice(written.span_before(span)),
        }
    }

    /// The whole text, as it was written, and a span in it.
    pub fn source(&self, span: Span) -> (&str, Span) {
        match &self.written {
            None => (self.text.as_str(), span),
            Some(written) => (written.text.as_str(), written.span_before(span)),
        }
    }
}

/// The text of a sheet as it was before it was edited.
#[derive(Clone, Debug)]
struct Written {
    text: SourceText,
    /// The edits, in order.
    edits: Vec<Edited>,
}

/// An edit, by where it stands in the edited text.
#[derive(Clone, Copy, Debug)]
struct Edited {
    start: u32,
    end: u32,
    /// The place in the text before the edits, and how much of it was replaced.
    from: u32,
    length: u32,
}

impl Written {
    fn new(text: SourceText, edits: &[Edit]) -> Self {
        let mut shift = 0i64;
        let edited = |edit: &Edit| {
            let start = (i64::from(edit.span.start) + shift) as u32;
            let (written, length) = (edit.text.len() as u32, edit.span.end - edit.span.start);
            shift += i64::from(written) - i64::from(length);
            Edited { start, end: start + written, from: edit.span.start, length }
        };
        let edits = edits.iter().map(edited).collect();
        Written { text, edits }
    }

    /// Where a place of the edited text was before.
    fn before(&self, at: u32) -> u32 {
        let after = self.edits.partition_point(|edit| edit.start <= at);
        match self.edits[..after].last() {
            None => at,
            Some(edit) if at < edit.end => edit.from,
            Some(edit) => edit.from + edit.length + (at - edit.end),
        }
    }

    fn span_before(&self, span: Span) -> Span {
        Span { start: self.before(span.start), end: self.before(span.end) }
    }
}
