//! Names that CSS shares across a whole page: keyframes, fonts, counter styles, registered
//! properties, layers and containers. A fenced sheet gets names of its own for those that it
//! defines, and its uses with them.

use cssparser::{ParseError, Parser, Token, serialize_identifier, serialize_string};
use rustc_hash::FxHashSet;

use super::at_rule::AtRuleKind;
use super::edit::Edit;
use super::fonts::families_start;
use super::name_flow::{NameFlow, NameKind, each_declaration};
use super::sheet::{AtRule, Block, Declaration, Item, Rule, Sheet};
use super::values::is_wide;
use super::variables::variables;
use crate::source::Span;

/// The edits that give the shared names that a sheet defines the name of its pin, but for those
/// that it shares on purpose.
pub(super) fn renames(text: &str, sheet: &Sheet, pin: &str, share: &[String]) -> Vec<Edit> {
    let mut work = Work::of(text, sheet, pin);
    work.defined.retain(|(_, name)| !share.contains(name));
    if !work.defined.is_empty() {
        sheet.rules.iter().for_each(|rule| work.rule(rule));
    }
    work.edits
}

/// The names that a sheet defines for the whole page.
pub fn defined_names(text: &str, sheet: &Sheet) -> Vec<String> {
    let mut names: Vec<String> =
        Work::of(text, sheet, "").defined.into_iter().map(|(_, name)| name).collect();
    names.sort();
    names
}

/// The words of a value that stand in no function: names and keywords.
pub fn plain_words(value: &str) -> Vec<String> {
    let own = words(value, 0).into_iter().filter(|word| word.functions.is_empty() && !word.is_string);
    own.map(|word| word.name).collect()
}

/// The counters that a value shows (css-lists-3, 4.7): the names in `counter()` and `counters()`.
pub fn shown_counters(value: &str) -> Vec<String> {
    let in_counter = |word: &Word| {
        let inner = word.functions.last().map_or("", String::as_str);
        matches!(inner, "counter" | "counters") && !word.is_later && !word.is_string
    };
    words(value, 0).into_iter().filter(in_counter).map(|word| word.name).collect()
}

struct Work<'t> {
    text: &'t str,
    pin: &'t str,
    flow: NameFlow,
    defined: FxHashSet<(NameKind, String)>,
    edits: Vec<Edit>,
}

/// A word of a value: an identifier or a string, with where it stands and what it stands in.
struct Word {
    name: String,
    span: Span,
    is_string: bool,
    /// The functions around it, outermost first, in lower case.
    functions: Vec<String>,
    /// How many commas of the value's own stand before it.
    part: usize,
    /// Whether a comma stands before it within the innermost function.
    is_later: bool,
}

fn words(text: &str, base: usize) -> Vec<Word> {
    let mut found = Vec::new();
    let mut functions = Vec::new();
    scan(&mut Parser::new(text), base, &mut functions, 0, &mut found);
    found
}

fn scan(
    input: &mut Parser<'_>,
    base: usize,
    functions: &mut Vec<String>,
    part: usize,
    found: &mut Vec<Word>,
) {
    let mut commas = 0;
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        let span = Span::new(base + start, base + input.position().byte_index());
        let part = if functions.is_empty() { commas } else { part };
        let mut word = |name: &str, is_string: bool, functions: &[String]| {
            found.push(Word {
                name: name.to_owned(),
                span,
                is_string,
                functions: functions.to_vec(),
                part,
                is_later: commas > 0,
            });
        };
        match token {
            Token::Ident(name) => word(&name, false, functions),
            Token::QuotedString(name) => word(&name, true, functions),
            Token::Comma => commas += 1,
            // What follows is no part of the value (css-cascade-5, "important").
            Token::Delim('!') if functions.is_empty() => return,
            Token::Function(_)
            | Token::ParenthesisBlock
            | Token::SquareBracketBlock
            | Token::CurlyBracketBlock => {
                let name = match &token {
                    Token::Function(name) => name.to_ascii_lowercase(),
                    _ => String::new(),
                };
                functions.push(name);
                let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
                    scan(input, base, functions, part, found);
                    Ok(())
                });
                functions.pop();
            }
            _ => {}
        }
    }
}

/// The functions of a sheet's own that a value calls, as words without their brackets (css-mixins-1).
fn custom_functions(text: &str, base: usize) -> Vec<Word> {
    fn collect(input: &mut Parser<'_>, base: usize, found: &mut Vec<Word>) {
        loop {
            let start = input.position().byte_index();
            let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
            if let Token::Function(name) = &token
                && name.starts_with("--")
            {
                let end = input.position().byte_index() - 1;
                found.push(Word {
                    name: name.to_string(),
                    span: Span::new(base + start, base + end),
                    is_string: false,
                    functions: Vec::new(),
                    part: 0,
                    is_later: false,
                });
            }
            if matches!(
                token,
                Token::Function(_)
                    | Token::ParenthesisBlock
                    | Token::SquareBracketBlock
                    | Token::CurlyBracketBlock
            ) {
                let _: Result<(), ParseError<()>> = input.parse_nested_block(|input| {
                    collect(input, base, found);
                    Ok(())
                });
            }
        }
    }
    let mut found = Vec::new();
    collect(&mut Parser::new(text), base, &mut found);
    found
}

/// The families in a value, by its parts: words in a row are one name, a string is one alone.
fn families(words: &[Word]) -> Vec<&[Word]> {
    let mut found = Vec::new();
    let mut rest = words;
    while let Some(first) = rest.first() {
        let goes_on = |word: &&Word| {
            !first.is_string && !word.is_string && word.functions.is_empty() && word.part == first.part
        };
        let length = 1 + rest[1..].iter().take_while(goes_on).count();
        if first.functions.is_empty() {
            found.push(&rest[..length]);
        }
        rest = &rest[length..];
    }
    found
}

/// The name that words in a row are.
fn joined(words: &[Word]) -> String {
    words.iter().map(|word| word.name.as_str()).collect::<Vec<_>>().join(" ")
}

/// What the first word of a container query's prelude may be beside a name.
fn is_query_word(word: &str) -> bool {
    ["not", "and", "or", "style", "scroll-state", "none"].iter().any(|own| word.eq_ignore_ascii_case(own))
}

impl<'t> Work<'t> {
    fn of(text: &'t str, sheet: &Sheet, pin: &'t str) -> Self {
        let flow = NameFlow::of(text, sheet);
        let mut work = Work { text, pin, flow, defined: FxHashSet::default(), edits: Vec::new() };
        sheet.rules.iter().for_each(|rule| work.collect(rule));
        // A registered property that the sheet does not set has its values from outside, by that name.
        let mut set: FxHashSet<String> = FxHashSet::default();
        each_declaration(sheet, &mut |own| {
            if own.is_custom() {
                set.insert(own.name.clone());
            }
        });
        work.defined.retain(|(kind, name)| *kind != NameKind::Property || set.contains(name));
        work
    }

    fn slice(&self, span: Span) -> &str {
        &self.text[span.range()]
    }

    fn define(&mut self, kind: NameKind, name: &str) {
        self.defined.insert((kind, name.to_owned()));
    }

    fn has(&self, kind: NameKind, name: &str) -> bool {
        self.defined.contains(&(kind, name.to_owned()))
    }

    fn collect(&mut self, rule: &Rule) {
        let block = match rule {
            Rule::Style(style) => Some(&style.block),
            Rule::At(at) => {
                self.collect_at(at);
                at.block.as_ref()
            }
        };
        for item in block.iter().flat_map(|block| &block.items) {
            match item {
                Item::Rule(rule) => self.collect(rule),
                Item::Declaration(own) if is_container(&own.name) => {
                    let named: Vec<_> = container_words(self.slice(own.value), own.value.start as usize);
                    for word in named {
                        self.define(NameKind::Container, &word.name);
                    }
                }
                Item::Declaration(own) => {
                    if let Some(kind) = kind_named(&own.name) {
                        for word in words(self.slice(own.value), 0) {
                            if word.functions.is_empty() && is_own_name(&word, kind) {
                                self.define(kind, &word.name);
                            }
                        }
                    }
                }
            }
        }
    }

    fn collect_at(&mut self, at: &AtRule) {
        let prelude = words(self.slice(at.prelude), at.prelude.start as usize);
        let first = prelude.first().map(|word| word.name.clone());
        match (at.kind(), first) {
            (AtRuleKind::Keyframes, Some(name)) => self.define(NameKind::Keyframes, &name),
            (AtRuleKind::CounterStyle, Some(name)) => self.define(NameKind::CounterStyle, &name),
            (AtRuleKind::Property, Some(name)) => self.define(NameKind::Property, &name),
            (AtRuleKind::PositionTry, Some(name)) => self.define(NameKind::PositionTry, &name),
            (AtRuleKind::FontPaletteValues, Some(name)) => self.define(NameKind::Palette, &name),
            (AtRuleKind::Function, _) => {
                for own in custom_functions(self.slice(at.prelude), 0).into_iter().take(1) {
                    self.define(NameKind::Function, &own.name);
                }
            }
            (AtRuleKind::Layer, Some(_)) => {
                // Of `a.b` the name on the outside is the page's; what is inside goes with it.
                let text = self.text;
                for name in text[at.prelude.range()].split(',') {
                    let outer = name.split('.').next().unwrap_or_default().trim();
                    self.define(NameKind::Layer, outer);
                }
            }
            (AtRuleKind::FontFace, _) => {
                for name in self.face(at) {
                    self.define(NameKind::Font, &name.to_lowercase());
                }
            }
            _ => {}
        }
    }

    fn face(&self, at: &AtRule) -> Vec<String> {
        let own = at.block.iter().flat_map(|block| &block.items).find_map(|item| match item {
            Item::Declaration(own) if own.name.eq_ignore_ascii_case("font-family") => Some(own),
            _ => None,
        });
        let named = own.map(|own| words(self.slice(own.value), own.value.start as usize)).unwrap_or_default();
        families(&named).into_iter().map(joined).collect()
    }

    fn rule(&mut self, rule: &Rule) {
        match rule {
            Rule::Style(style) => self.block(&style.block),
            Rule::At(at) => {
                self.at_rule(at);
                if let Some(block) = &at.block {
                    self.block(block);
                }
            }
        }
    }

    fn block(&mut self, block: &Block) {
        for item in &block.items {
            match item {
                Item::Rule(rule) => self.rule(rule),
                Item::Declaration(own) => self.declaration(own),
            }
        }
    }

    fn at_rule(&mut self, at: &AtRule) {
        let prelude = words(self.slice(at.prelude), at.prelude.start as usize);
        let kind = match at.kind() {
            AtRuleKind::Keyframes => NameKind::Keyframes,
            AtRuleKind::PositionTry => NameKind::PositionTry,
            AtRuleKind::FontPaletteValues => NameKind::Palette,
            AtRuleKind::Function => {
                self.functions(at.prelude);
                // Its parameters are read as custom properties are.
                for word in &prelude {
                    if self.has(NameKind::Property, &word.name) {
                        self.rename(word);
                    }
                }
                return;
            }
            AtRuleKind::CounterStyle => NameKind::CounterStyle,
            AtRuleKind::Property => NameKind::Property,
            AtRuleKind::Container => NameKind::Container,
            AtRuleKind::Layer => {
                // The first word of each part; after a dot stands a name inside of another.
                let mut part = None;
                for word in prelude.iter().filter(|word| word.functions.is_empty()) {
                    if part.replace(word.part) != Some(word.part) && self.has(NameKind::Layer, &word.name) {
                        self.rename(word);
                    }
                }
                return;
            }
            _ => return,
        };
        let named = prelude.first().filter(|first| first.functions.is_empty() && self.has(kind, &first.name));
        if let Some(first) = named.filter(|first| kind != NameKind::Container || !is_query_word(&first.name))
        {
            self.rename(first);
        }
        if kind == NameKind::Container {
            for word in &prelude {
                if self.has(NameKind::Property, &word.name) {
                    self.rename(word);
                }
            }
        }
    }

    fn declaration(&mut self, own: &Declaration) {
        let name = own.name.to_ascii_lowercase();
        if self.has(NameKind::Property, &own.name) {
            let new = format!("--{}-{}", self.pin, own.name.trim_start_matches('-'));
            self.edits.push(Edit { span: own.name_span(), text: new });
        }
        self.functions(own.value);
        let all = words(self.slice(own.value), own.value.start as usize);
        let bare = name.strip_prefix("-webkit-").unwrap_or(&name);
        match bare {
            "font-family" | "font" => {
                // In the shorthand they stand behind the size.
                let value = self.slice(own.value);
                let start = if bare == "font" { families_start(value).unwrap_or_default() } else { 0 };
                let behind = |word: &Word| word.span.start as usize >= own.value.start as usize + start;
                let first = all.iter().position(behind).unwrap_or(all.len());
                families(&all[first..]).into_iter().for_each(|family| self.family(family));
            }
            _ if is_container(bare) => {
                for word in container_words(self.slice(own.value), own.value.start as usize) {
                    if self.has(NameKind::Container, &word.name) {
                        self.rename(&word);
                    }
                }
            }
            _ => {}
        }
        // What a custom property is read for, its value is named for.
        let flows = self.flow.kinds(&own.name).to_vec();
        let is_font = matches!(bare, "font-family" | "font") || flows.contains(&NameKind::Font);
        if is_font {
            self.fallback_families(&all);
        }
        if flows.contains(&NameKind::Font) {
            families(&all).into_iter().for_each(|family| self.family(family));
        }
        let is_animation = bare == "animation" || flows.contains(&NameKind::Keyframes);
        let keywords = if is_animation { animation_keywords(&all) } else { Vec::new() };
        for word in all.iter().filter(|word| !keywords.contains(&word.span)) {
            // What stands in for a variable stands where the variable does.
            let outside = word.functions.iter().all(|name| name == "var")
                && (word.functions.is_empty() || word.is_later);
            let function = word.functions.last().map_or("", String::as_str);
            let in_counter =
                word.functions.last().is_some_and(|name| name == "counter" || name == "counters");
            let is_used = match bare {
                "animation" | "animation-name" if outside => self.has(NameKind::Keyframes, &word.name),
                _ if outside
                    && FLOWING.iter().any(|own| flows.contains(own) && self.has(*own, &word.name)) =>
                {
                    true
                }
                "position-try" | "position-try-fallbacks" if outside => {
                    self.has(NameKind::PositionTry, &word.name)
                }
                "font-palette" => self.has(NameKind::Palette, &word.name),
                "counter-reset" | "counter-increment" | "counter-set" if outside => {
                    self.has(NameKind::Counter, &word.name)
                }
                "anchor-name" | "position-anchor" if outside => self.has(NameKind::Anchor, &word.name),
                "animation-timeline"
                | "timeline-scope"
                | "scroll-timeline"
                | "scroll-timeline-name"
                | "view-timeline"
                | "view-timeline-name"
                    if outside =>
                {
                    self.has(NameKind::Timeline, &word.name)
                }
                _ if matches!(function, "anchor" | "anchor-size") && !word.is_later => {
                    self.has(NameKind::Anchor, &word.name)
                }
                _ if in_counter && !word.is_later && !word.is_string => {
                    self.has(NameKind::Counter, &word.name)
                }
                "system" | "fallback" if outside && !word.is_string => {
                    self.has(NameKind::CounterStyle, &word.name)
                }
                "list-style" | "list-style-type" if outside && !word.is_string => {
                    self.has(NameKind::CounterStyle, &word.name)
                }
                _ => {
                    in_counter
                        && word.is_later
                        && !word.is_string
                        && self.has(NameKind::CounterStyle, &word.name)
                }
            };
            if is_used || !word.is_string && self.has(NameKind::Property, &word.name) {
                self.rename(word);
            }
        }
    }

    /// The sheet's own functions that are called in a piece of it.
    fn functions(&mut self, piece: Span) {
        if self.defined.iter().any(|(kind, _)| *kind == NameKind::Function) {
            for own in custom_functions(self.slice(piece), piece.start as usize) {
                if self.has(NameKind::Function, &own.name) {
                    self.rename(&own);
                }
            }
        }
    }

    /// Families that stand in for a variable: those of one word, and those in quotes.
    fn fallback_families(&mut self, all: &[Word]) {
        let stands_in = |word: &&Word| {
            !word.functions.is_empty() && word.functions.iter().all(|name| name == "var") && word.is_later
        };
        for word in all.iter().filter(stands_in) {
            self.family(std::slice::from_ref(word));
        }
    }

    /// A family of one or more words.
    fn family(&mut self, family: &[Word]) {
        let name = joined(family);
        let (Some(first), Some(last)) = (family.first(), family.last()) else { return };
        if self.has(NameKind::Font, &name.to_lowercase()) {
            let mut text = String::new();
            let _ = serialize_string(&format!("{} {name}", self.pin), &mut text);
            self.edits.push(Edit { span: Span { start: first.span.start, end: last.span.end }, text });
        }
    }

    fn rename(&mut self, word: &Word) {
        let new = match word.name.strip_prefix("--") {
            Some(rest) => format!("--{}-{rest}", self.pin),
            None => format!("{}-{}", self.pin, word.name),
        };
        let mut text = String::new();
        let _ = match word.is_string {
            true => serialize_string(&new, &mut text),
            false => serialize_identifier(&new, &mut text),
        };
        self.edits.push(Edit { span: word.span, text });
    }
}

/// The keyframes that a declaration names; none where a variable or a keyword for all properties gives them.
pub(super) fn keyframes_named(property: &str, value: &str) -> Vec<String> {
    let bare = property.strip_prefix("-webkit-").unwrap_or(property);
    if !matches!(bare, "animation" | "animation-name") || !variables(value).is_empty() {
        return Vec::new();
    }
    let all = words(value, 0);
    let keywords = if bare == "animation" { animation_keywords(&all) } else { Vec::new() };
    let is_name = |word: &&Word| {
        let is_none =
            ["none", "auto"].iter().any(|own| word.name.eq_ignore_ascii_case(own)) || is_wide(&word.name);
        word.functions.is_empty() && !keywords.contains(&word.span) && (word.is_string || !is_none)
    };
    all.iter().filter(is_name).map(|word| word.name.clone()).collect()
}

/// The keywords that properties of an animation have, but for its name.
const ANIMATION_KEYWORDS: [&[&str]; 5] = [
    &["ease", "ease-in", "ease-out", "ease-in-out", "linear", "step-start", "step-end"],
    &["infinite"],
    &["normal", "reverse", "alternate", "alternate-reverse"],
    &["forwards", "backwards", "both"],
    &["running", "paused"],
];

/// Where words of `animation` are keywords of its other properties: the first of each property is, and
/// another one is the name (css-animations-1, "the animation shorthand property").
fn animation_keywords(all: &[Word]) -> Vec<Span> {
    let mut taken: Vec<(usize, usize)> = Vec::new();
    let mut found = Vec::new();
    for word in all.iter().filter(|word| word.functions.is_empty() && !word.is_string) {
        let is_its = |words: &&[&str]| words.iter().any(|one| word.name.eq_ignore_ascii_case(one));
        let Some(property) = ANIMATION_KEYWORDS.iter().position(is_its) else { continue };
        if !taken.contains(&(word.part, property)) {
            taken.push((word.part, property));
            found.push(word.span);
        }
    }
    found
}

/// The kinds of names that travel through custom properties as words.
const FLOWING: [NameKind; 4] =
    [NameKind::Keyframes, NameKind::CounterStyle, NameKind::PositionTry, NameKind::Palette];

/// The kind of name that a property gives to something.
fn kind_named(property: &str) -> Option<NameKind> {
    Some(match property.to_ascii_lowercase().as_str() {
        "counter-reset" => NameKind::Counter,
        "anchor-name" => NameKind::Anchor,
        "scroll-timeline" | "scroll-timeline-name" | "view-timeline" | "view-timeline-name" => {
            NameKind::Timeline
        }
        _ => return None,
    })
}

/// Whether a word is a name that a sheet has made up; `list-item` is the counter of all lists.
fn is_own_name(word: &Word, kind: NameKind) -> bool {
    let is_reserved = is_wide(&word.name) || word.name.eq_ignore_ascii_case("none");
    match kind {
        NameKind::Counter => !is_reserved && !word.name.eq_ignore_ascii_case("list-item"),
        _ => word.name.starts_with("--"),
    }
}

fn is_container(property: &str) -> bool {
    property.eq_ignore_ascii_case("container") || property.eq_ignore_ascii_case("container-name")
}

/// The names in the value of `container` or `container-name`.
fn container_words(value: &str, base: usize) -> Vec<Word> {
    let names = value.split('/').next().unwrap_or_default();
    let wide = ["none", "inherit", "initial", "unset", "revert", "revert-layer"];
    let mut found = words(names, base);
    found.retain(|word| {
        word.functions.is_empty() && !wide.iter().any(|own| word.name.eq_ignore_ascii_case(own))
    });
    found
}

#[cfg(test)]
mod tests {
    use super::super::edit::apply;
    use super::*;

    #[test]
    fn what_a_sheet_defines_gets_its_own_name_and_nothing_else_does() {
        let table = [
            (
                "@keyframes turn{to{rotate:1turn}} a{animation:2s turn,blink 1s} b{animation-name:'turn'} .turn{color:red}",
                "@keyframes p-turn{to{rotate:1turn}} a{animation:2s p-turn,blink 1s} b{animation-name:\"p-turn\"} .turn{color:red}",
            ),
            (
                "@font-face{font-family:Sorrel Sans;src:url(a)} a{font:bold 12px/1 Sorrel Sans,serif} b{font-family:'sorrel sans',Sorrel}",
                "@font-face{font-family:\"p Sorrel Sans\";src:url(a)} a{font:bold 12px/1 \"p Sorrel Sans\",serif} b{font-family:\"p sorrel sans\",Sorrel}",
            ),
            (
                "@counter-style tick{symbols:x} a{list-style:tick inside} b{content:counter(tick,tick) 'tick'}",
                "@counter-style p-tick{symbols:x} a{list-style:p-tick inside} b{content:counter(tick,p-tick) 'tick'}",
            ),
            (
                "@property --deep{syntax:'*'} a{--deep:1;--other:2;color:var(--deep, var(--other));transition:--deep 1s}",
                "@property --p-deep{syntax:'*'} a{--p-deep:1;--other:2;color:var(--p-deep, var(--other));transition:--p-deep 1s}",
            ),
            ("@layer base, base.in; @layer base{a{b:c}}", "@layer p-base, p-base.in; @layer p-base{a{b:c}}"),
            (
                "a{container:card / inline-size} @container card (width>1px){b{c:d}} @container other (width>1px){b{c:d}}",
                "a{container:p-card / inline-size} @container p-card (width>1px){b{c:d}} @container other (width>1px){b{c:d}}",
            ),
            (
                "a{animation:turn 1s;font-family:Sorrel;color:var(--deep)}",
                "a{animation:turn 1s;font-family:Sorrel;color:var(--deep)}",
            ),
            (
                "@keyframes turn{} a{--spin:turn 1s linear;--name:turn;--other:turn} b{animation:var(--spin)} c{animation-name:var(--deep,turn)} d{--deep:var(--name)}",
                "@keyframes p-turn{} a{--spin:p-turn 1s linear;--name:p-turn;--other:turn} b{animation:var(--spin)} c{animation-name:var(--deep,p-turn)} d{--deep:var(--name)}",
            ),
            (
                "@font-face{font-family:Icons;src:url(a)} a{--f:'Icons',serif} b{font-family:var(--f,'Icons')} c{--x:Icons}",
                "@font-face{font-family:\"p Icons\";src:url(a)} a{--f:\"p Icons\",serif} b{font-family:var(--f,\"p Icons\")} c{--x:Icons}",
            ),
            (
                "@counter-style tick{symbols:x} @counter-style tock{system:extends tick;fallback:tick}",
                "@counter-style p-tick{symbols:x} @counter-style p-tock{system:extends p-tick;fallback:p-tick}",
            ),
            (
                "a{counter-reset:stop 2 list-item} b{counter-increment:stop other} c{content:counter(stop) counters(stop,'.') counter(other)}",
                "a{counter-reset:p-stop 2 list-item} b{counter-increment:p-stop other} c{content:counter(p-stop) counters(p-stop,'.') counter(other)}",
            ),
            (
                "a{anchor-name:--pier} b{position-anchor:--pier;top:anchor(--pier bottom);left:anchor(--quay left)}",
                "a{anchor-name:--p-pier} b{position-anchor:--p-pier;top:anchor(--p-pier bottom);left:anchor(--quay left)}",
            ),
            (
                "a{scroll-timeline:--tide block} b{animation-timeline:--tide} c{timeline-scope:--tide,--other}",
                "a{scroll-timeline:--p-tide block} b{animation-timeline:--p-tide} c{timeline-scope:--p-tide,--other}",
            ),
            (
                "@font-face{font-family:Own Icons;src:url(a)} a{font-family:Own Icons !important} b{font-family:own icons,serif!important}",
                "@font-face{font-family:\"p Own Icons\";src:url(a)} a{font-family:\"p Own Icons\" !important} b{font-family:\"p own icons\",serif!important}",
            ),
            (
                "@position-try --above{bottom:0} a{position-try:most-width --above,--other} b{--p:--above;position-try-fallbacks:var(--p)}",
                "@position-try --p-above{bottom:0} a{position-try:most-width --p-above,--other} b{--p:--p-above;position-try-fallbacks:var(--p)}",
            ),
            (
                "@font-palette-values --cool{font-family:Own;base-palette:1} @font-face{font-family:Own;src:url(a)} a{font-palette:--cool}",
                "@font-palette-values --p-cool{font-family:\"p Own\";base-palette:1} @font-face{font-family:\"p Own\";src:url(a)} a{font-palette:--p-cool}",
            ),
            (
                "@function --half(--x){result:calc(var(--x)/2)} @function --quarter(--x){result:--half(--half(var(--x)))} a{width:calc(1px + --half(2px));height:--other(1px)}",
                "@function --p-half(--x){result:calc(var(--x)/2)} @function --p-quarter(--x){result:--p-half(--p-half(var(--x)))} a{width:calc(1px + --p-half(2px));height:--other(1px)}",
            ),
            (
                "@property --in{syntax:'*'} a{color:var(--in)}",
                "@property --in{syntax:'*'} a{color:var(--in)}",
            ),
            ("@keyframes kept{} a{animation:kept 1s}", "@keyframes kept{} a{animation:kept 1s}"),
            (
                "@font-face{font-family:ẞ  é} a{font:1em Ünter  ẞ\té,ẞ é;font-family:'ß é',Ünter\n\nẞ é} b{font:small ẞ  é}",
                "@font-face{font-family:\"p ẞ é\"} a{font:1em Ünter  ẞ\té,\"p ẞ é\";font-family:\"p ß é\",Ünter\n\nẞ é} b{font:small \"p ẞ é\"}",
            ),
        ];
        for (text, expected) in table {
            let edits = renames(text, &Sheet::parse(text), "p", &["kept".to_owned()]);
            assert_eq!(apply(text, edits), expected, "{text}");
        }
    }
}
