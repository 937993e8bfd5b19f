//! A script with what is known of it, worked out at the first question and kept.

use std::hash::{DefaultHasher, Hash as _, Hasher as _};
use std::sync::OnceLock;

use rustc_hash::FxHashMap;

use super::added::AddedName;
use super::evaluation::{Code, RunFault, World, recorded, run_faults};
use super::facts::facts_and_program;
use super::frame::{Frame, VALUES};
use super::program::{Program, SketchedGlobal, Variable};
use super::record::{LookUp, ScriptFacts};
use super::syntax::ScriptKind;
use crate::markup::NamedPart;
use crate::source::{SourceText, Span, nearest};

/// Longer ones are not evaluated where that is not asked for: they would not come to an end.
const LONGEST: usize = 200_000;

/// Functions of longer ones are not run where another script calls them.
const LONGEST_RUN: usize = 30_000;

/// A script with what is known of it.
#[derive(Debug, Default)]
pub struct ScriptFile {
    /// Its text.
    pub text: SourceText,
    /// For a pin's script, how it is confined.
    pub frame: Option<Frame>,
    words: OnceLock<FxHashMap<Box<str>, usize>>,
    likeness: OnceLock<u64>,
    may_insert_code: OnceLock<bool>,
    pub(super) moves_elements: OnceLock<bool>,
    classic: OnceLock<ScriptFacts>,
    module: OnceLock<ScriptFacts>,
    program: OnceLock<Option<Program>>,
}

impl ScriptFile {
    /// A script of that text.
    pub fn new(text: String) -> Self {
        ScriptFile { text: SourceText::new(text), ..ScriptFile::default() }
    }

    /// A script of that text, which runs in a frame.
    pub fn confined(text: SourceText, frame: Frame) -> Self {
        ScriptFile { text, frame: Some(frame), ..ScriptFile::default() }
    }

    /// Its facts, worked out at the first question.
    pub fn facts(&self, kind: ScriptKind) -> &ScriptFacts {
        let (kind, share) = match &self.frame {
            Some(frame) => (ScriptKind::Confined, &frame.share[..]),
            None => (kind, &[][..]),
        };
        let cell = match kind {
            ScriptKind::Classic | ScriptKind::Confined => &self.classic,
            ScriptKind::Module => &self.module,
        };
        cell.get_or_init(|| {
            let text = self.text.as_str();
            let (mut facts, program) = facts_and_program(text, kind, share, text.len() <= LONGEST);
            if let Some(program) = program {
                self.program.get_or_init(|| Some(program));
            }
            self.add_of_run(kind, &mut facts);
            if let Some(frame) = &self.frame {
                self.add_of_frame(frame, &mut facts);
            }
            facts
        })
    }

    /// What a global is that it defines; none where that cannot be told.
    pub fn sketch(&self, kind: ScriptKind, name: &str) -> Option<SketchedGlobal> {
        let global = self.sketched(kind)?.sketches().of(name)?;
        Some(global).filter(|global| !global.is_without_value() || !self.may_set_any())
    }

    /// Its code, where its program has that number and it is short enough to be run for others.
    pub fn code(&self, kind: ScriptKind, program: u32) -> Option<Code<'_>> {
        let own = self.program.get()?.as_ref().filter(|own| own.number == program)?;
        let text = self.text.as_str();
        let has_globals = self.frame.is_none() && kind == ScriptKind::Classic;
        (text.len() <= LONGEST_RUN).then_some(Code { program: own, text, has_globals })
    }

    /// What a variable is, where its program has that number; none where that cannot be told.
    pub fn variable(&self, kind: ScriptKind, program: u32, variable: Variable) -> Option<SketchedGlobal> {
        self.code(kind, program)?.program.sketches().variable(variable)
    }

    /// Whether it declares a global with `let`, `const` or `class`, and sets no member of `window` of that name.
    pub fn is_lexical(&self, kind: ScriptKind, name: &str) -> bool {
        let is_late = |program: &Program| program.top.late.iter().any(|own| **program.name(*own) == *name);
        self.frame.is_none() && self.sketched(kind).is_some_and(is_late)
    }

    /// What a global of others is after what this script may do to it; none where that cannot be told.
    pub fn sketch_after(
        &self,
        kind: ScriptKind,
        name: &str,
        global: SketchedGlobal,
    ) -> Option<SketchedGlobal> {
        if !self.has_global(name) && !self.may_set_any() {
            return Some(global);
        }
        self.sketched(kind)?.sketches().applied_to(name, global)
    }

    /// Whether it sets members of the global object of which the names do not stand in it.
    fn may_set_any(&self) -> bool {
        const SIGNS: &[&str] = &[
            "Properties(globalThis", "Properties(self", "Properties(window", "Property(globalThis",
            "Property(self", "Property(window", "assign(globalThis", "assign(self", "assign(window",
            "globalThis[", "self[", "window[",
        ];
        let text = self.text.as_str();
        text.len() <= LONGEST && SIGNS.iter().any(|sign| text.contains(sign))
    }

    /// The program, where it parses and is not too long to be looked through.
    fn sketched(&self, kind: ScriptKind) -> Option<&Program> {
        if !self.facts(kind).flaws.is_empty() || self.text.as_str().len() > LONGEST {
            return None;
        }
        let kind = if self.frame.is_some() { ScriptKind::Confined } else { kind };
        self.program.get_or_init(|| Program::of(self.text.as_str(), kind)).as_ref()
    }

    /// What it does by its evaluation that its text alone does not tell.
    fn add_of_run(&self, kind: ScriptKind, facts: &mut ScriptFacts) {
        if !facts.flaws.is_empty() || self.text.as_str().len() > LONGEST {
            return;
        }
        let program = self.program.get_or_init(|| Program::of(self.text.as_str(), kind));
        let Some(program) = program else { return };
        if program.is_told_by_text() {
            facts.looks_up.sort_by_key(|own| own.span);
            return;
        }
        let run = recorded(program, self.text.as_str(), self.frame.as_ref());
        for own in run.defines {
            let known = facts.defines.iter_mut().find(|known| known.name == own.name);
            if let Some(known) = known {
                known.when = known.when.min(own.when);
            } else {
                facts.reads.retain(|read| read.name != own.name || read.span.start < own.span.start);
                facts.defines.push(own);
            }
        }
        facts.defines.sort_by(|a, b| a.name.cmp(&b.name));
        for own in run.looks_up {
            let is_known = |known: &LookUp| known.span == own.span && known.selector == own.selector;
            if !facts.looks_up.iter().any(is_known) {
                facts.looks_up.push(own);
            }
        }
        facts.looks_up.sort_by_key(|own| own.span);
        for own in run.adds {
            if facts.adds.iter().all(|known| (known.is_id, &known.name) != (own.is_id, &own.name)) {
                facts.adds.push(own);
            }
        }
        facts.adds.sort();
    }

    /// What its frame gives it, and what its pin puts in before it runs.
    fn add_of_frame(&self, frame: &Frame, facts: &mut ScriptFacts) {
        if !frame.values.is_empty() {
            facts.reads.retain(|read| read.name != VALUES);
        }
        let start = Span { start: 0, end: 0 };
        facts.adds.extend(frame.brings.iter().filter_map(|name| {
            let is_id = matches!(name, NamedPart::Id(_));
            let is_name = is_id || matches!(name, NamedPart::Class(_));
            is_name.then(|| AddedName { name: name.name().to_owned(), is_id, span: start })
        }));
    }

    /// What goes wrong where it runs in a world. One that does not parse does not run.
    pub fn run_faults(&self, kind: ScriptKind, world: &dyn World) -> Vec<RunFault> {
        // What does not parse is not parsed again.
        if !self.facts(kind).flaws.is_empty() {
            return Vec::new();
        }
        let kind = if self.frame.is_some() { ScriptKind::Confined } else { kind };
        let program = self.program.get_or_init(|| Program::of(self.text.as_str(), kind));
        let frame = self.frame.as_ref();
        program
            .as_ref()
            .map(|program| run_faults(program, self.text.as_str(), world, frame))
            .unwrap_or_default()
    }

    /// Whether it is the same text but for blanks.
    pub fn is_like(&self, other: &ScriptFile) -> bool {
        self.likeness() == other.likeness()
    }

    /// Whether scripts that it puts into a page may have their code in them, and not behind an address.
    pub fn may_insert_code(&self) -> bool {
        const SIGNS: &[&str] =
            &[".write", "textContent", ".text", "innerHTML", "createTextNode", "eval(", "Function("];
        *self.may_insert_code.get_or_init(|| {
            let text = self.text.as_str();
            let by_address = [".src", "\"src\"", "'src'"].iter().any(|sign| text.contains(sign));
            !by_address || SIGNS.iter().any(|sign| text.contains(sign))
        })
    }

    fn likeness(&self) -> u64 {
        *self.likeness.get_or_init(|| {
            let mut hasher = DefaultHasher::new();
            self.text.as_str().split_whitespace().for_each(|word| word.hash(&mut hasher));
            hasher.finish()
        })
    }

    /// How often a word stands in it.
    pub fn count_of(&self, word: &str) -> usize {
        self.words().get(word).copied().unwrap_or(0)
    }

    /// A word in it of nearly that spelling.
    pub fn near_word(&self, word: &str) -> Option<String> {
        // The first of several by the alphabet, whatever the order in which they are kept.
        let mut all: Vec<&str> = self.words().keys().map(|own| &**own).collect();
        all.sort_unstable();
        nearest(word, all).map(str::to_owned)
    }

    /// Its words, with how often each stands in it.
    fn words(&self) -> &FxHashMap<Box<str>, usize> {
        self.words.get_or_init(|| {
            let mut counts: FxHashMap<Box<str>, usize> = FxHashMap::default();
            for word in words(self.text.as_str()) {
                match counts.get_mut(word) {
                    Some(count) => *count += 1,
                    None => {
                        counts.insert(Box::from(word), 1);
                    }
                }
            }
            counts
        })
    }

    /// Whether a word stands in it anywhere: more than it really adds, and so never a *no* where a
    /// browser might say *yes*.
    pub fn has_word(&self, word: &str) -> bool {
        self.brings(word)
            || match self.short_text() {
                Some(text) => stands_as_word(text, word),
                None => self.words().contains_key(word),
            }
    }

    /// Whether one of some words stands in it.
    pub(super) fn has_any_word(&self, all: &[&str]) -> bool {
        match self.short_text() {
            Some(text) => words(text).any(|own| all.contains(&own)) || all.iter().any(|own| self.brings(own)),
            None => all.iter().any(|own| self.has_word(own)),
        }
    }

    /// Its text, where that is looked through sooner than a table of its words is made.
    fn short_text(&self) -> Option<&str> {
        const SHORT: usize = 600;
        Some(self.text.as_str()).filter(|text| text.len() < SHORT && self.words.get().is_none())
    }

    /// Whether a global stands in it anywhere. Class names and IDs, which words are for, have no `$`.
    pub fn has_global(&self, name: &str) -> bool {
        if name.contains('$') { self.text.as_str().contains(name) } else { self.has_word(name) }
    }

    /// Whether it sets a member of that name of something, which is no prototype: `box.slider = …`.
    pub fn sets_member(&self, name: &str) -> bool {
        const SHARED: &[&str] = &["prototype", "fn", "exports"];
        let text = self.text.as_str();
        let member = format!(".{name}");
        let is_set = |at: usize| {
            let rest = text[at + member.len()..].trim_start();
            let is_assigned = rest.starts_with('=') && !rest.starts_with("==") && !rest.starts_with("=>");
            is_assigned && !SHARED.iter().any(|own| text[..at].ends_with(own))
        };
        self.has_global(name) && memchr::memmem::find_iter(text.as_bytes(), &member).any(is_set)
    }
}

impl ScriptFile {
    /// Whether a name stands in it, or the beginning of it, up to a dash or a low line, to which the rest is added.
    pub fn may_build(&self, name: &str) -> bool {
        let beginnings = name.char_indices().filter(|(at, c)| *at > 0 && matches!(c, '-' | '_'));
        self.has_word(name)
            || beginnings.map(|(at, _)| &name[..=at]).any(|beginning| self.has_word(beginning))
    }

    /// Whether its pin puts in an element of that name before it runs.
    fn brings(&self, name: &str) -> bool {
        self.frame.as_ref().is_some_and(|frame| frame.brings.iter().any(|own| own.name() == name))
    }

    /// Whether it may bring in a name: the name stands in a text of it, or as a key, otherwise than to be
    /// looked up.
    pub fn may_bring(&self, name: &str) -> bool {
        if self.brings(name) {
            return true;
        }
        if !self.has_word(name) {
            return false;
        }
        let facts = self.facts(ScriptKind::Classic);
        let looked_up =
            facts.looks_up.iter().map(|lookup| words(&lookup.selector).filter(|word| *word == name).count());
        let text = self.text.as_str();
        let named = words(text).filter(|word| *word == name && stands_as_text(text, word));
        facts.is_unread() || named.count() > looked_up.sum::<usize>()
    }
}

/// Whether a word of a script stands in quotes, or is the key of an object: a variable of that name brings
/// in nothing.
fn stands_as_text(text: &str, word: &str) -> bool {
    const NEAR: usize = 200;
    let start = word.as_ptr() as usize - text.as_ptr() as usize;
    let end = start + word.len();
    let is_inner = |c: char| c.is_alphanumeric() || " -_.#>:[]=*~+,/<&${}".contains(c);
    let is_quote = |c: Option<char>| c.is_some_and(|c| matches!(c, '"' | '\'' | '`'));
    let before = &text[text.floor_char_boundary(start.saturating_sub(NEAR))..start];
    let behind = &text[end..text.ceil_char_boundary((end + NEAR).min(text.len()))];
    let is_quoted = is_quote(before.chars().rev().find(|c| !is_inner(*c)))
        && is_quote(behind.chars().find(|c| !is_inner(*c)));
    is_quoted || behind.trim_start().starts_with(':') || before.ends_with(['"', '\'', '`'])
}

/// Runs of the characters that class names and IDs are made of.
fn words(text: &str) -> impl Iterator<Item = &str> {
    text.split(|c: char| !is_of_word(c)).filter(|word| !word.is_empty())
}

fn is_of_word(c: char) -> bool {
    !c.is_ascii() || c.is_ascii_alphanumeric() || matches!(c, '-' | '_')
}

/// Whether a word is among those of a text.
fn stands_as_word(text: &str, word: &str) -> bool {
    let is_whole = |at: usize| {
        text[at..].strip_prefix(word).is_some_and(|behind| !behind.starts_with(is_of_word))
            && !text[..at].ends_with(is_of_word)
    };
    // Most words begin with another byte.
    let Some(first) = word.bytes().next() else { return false };
    word.chars().all(is_of_word) && memchr::memchr_iter(first, text.as_bytes()).any(is_whole)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn words_of_short_and_long_texts_are_the_same() {
        let text = "note('fare-list', \"köln\", `fare-list2`); a_note.fares = 'list fare-'";
        for word in
            ["note", "a_note", "fare-list", "fare", "list", "fare-", "köln", "k", "ö", "", "fares =", "("]
        {
            assert_eq!(stands_as_word(text, word), words(text).any(|own| own == word), "{word}");
        }
    }

    #[test]
    fn a_name_that_is_only_looked_up_is_brought_by_nobody() {
        for (text, name, expected) in [
            ("document.getElementById('contents').hidden = true", "contents", false),
            (
                "const contents = document.getElementById('contents'); contents.hidden = true",
                "contents",
                false,
            ),
            ("document.querySelector('#menu .item')", "item", false),
            ("el.classList.add('open')", "open", true),
            ("el.className = `card ${wide} open`", "open", true),
            ("el.innerHTML = '<p class=\"note wide\">'", "wide", true),
            ("toggle(el, { open: true })", "open", true),
            ("document.querySelector('.open'); el.classList.add('open')", "open", true),
            ("open(1)", "open", false),
        ] {
            assert_eq!(ScriptFile::new(text.to_owned()).may_bring(name), expected, "{text}: {name}");
        }
    }

    #[test]
    fn words_are_what_names_are_made_of() {
        let script =
            ScriptFile::new("el.classList.add('is-open'); el['is-open'] = \"a_1 b\" // é".to_owned());
        for (word, count) in [("is-open", 2), ("classList", 1), ("a_1", 1), ("b", 1), ("open", 0), ("é", 1)]
        {
            assert_eq!((script.count_of(word), script.has_word(word)), (count, count > 0), "{word}");
        }
        let spaced =
            ScriptFile::new("el.classList.add('is-open');\n\n  el['is-open'] = \"a_1 b\"   // é".to_owned());
        assert!(script.is_like(&spaced) && !script.is_like(&ScriptFile::new("el".to_owned())));
    }
}
