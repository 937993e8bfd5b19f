//! Whether a browser takes a declaration's value or drops it: by what Chromium says of words, by the
//! grammars that the standards publish, and by what these say in words. What they do not cover is
//! unknown, never dropped.
//!
//! It is long since a grammar is matched by functions that call each other in turn (a sequence, any
//! order, repetition, a type), and since its test lists values by the hundred.

use cssparser::Parser;

use super::component::{Tok, any, parts, tokens};
use super::grammar::{Node, of_property, of_type};
use super::keywords::{is_known, is_word_of_any, takes_beside, takes_kind, takes_names, takes_word};
use super::math::{Unit, fits, is_math};
use super::not_chromiums::is_not_chromiums;
use super::properties::{Property, property};
use super::truth::Truth;
use super::value_rules::{breaks_rule, has_wrong_substitution, is_color_space};

/// What becomes of a declaration.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Validity {
    /// A browser takes it.
    Taken,
    /// A browser drops it.
    Dropped,
    /// Chromium drops it, and another engine takes or took it, or may come to: it takes no part in a
    /// page, and is no mistake.
    Elsewhere,
    /// The grammars do not tell.
    Unknown,
}

/// Judges the value of a property, without its `!important`. `quirks` says whether the page is in
/// quirks mode, where some lengths need no unit and some colours no `#` (quirks, 3).
pub fn validity(name: &str, value: &str, quirks: bool) -> Validity {
    if name.starts_with("--") {
        return Validity::Taken;
    }
    let Some(known) = property(name) else {
        return match name.split('-').nth(1) {
            // Old names of some properties, by which they still go.
            Some("epub") if name.starts_with('-') => Validity::Unknown,
            _ if name.starts_with('-') => Validity::Elsewhere,
            _ => Validity::Dropped,
        };
    };
    let Ok(tokens) = tokens(&mut Parser::new(value)) else { return Validity::Dropped };
    match tokens.as_slice() {
        [] => return Validity::Dropped,
        [Tok::Word(word)] if is_wide(word) => return Validity::Taken,
        _ => {}
    }
    if has_wrong_substitution(&tokens) {
        return Validity::Dropped;
    }
    if is_not_chromiums(known.name, &tokens) {
        return Validity::Elsewhere;
    }
    // In a rule Chromium takes what stands in `@page` (css-page-3, 6.1).
    if known.name == "size" && is_page_size(&tokens) {
        return Validity::Taken;
    }
    // What is put in at run time is judged then (css-variables-1, 3.1).
    if any(&tokens, &|token| matches!(token, Tok::Function(name, _) if is_substituted(name))) {
        return Validity::Taken;
    }
    let is_svg = is_svg_length(known.name);
    let svg = Quirks { unitless: is_svg, hashless: false, is_svg };
    let quirks = if quirks { Quirks::of(known.name) } else { svg };
    match tokens.as_slice() {
        [one]
            if kind_of(one).is_some_and(|kind| takes_kind(known.name, kind) == Some(false))
                && !quirks.allow(one) =>
        {
            match of_components(known, &tokens, quirks) {
                Validity::Taken | Validity::Elsewhere => Validity::Elsewhere,
                _ => Validity::Dropped,
            }
        }
        [Tok::Word(word)] if !quirks.hashless && !word.starts_with("--") => of_word(known, word, &tokens),
        _ => of_components(known, &tokens, quirks),
    }
}

/// The kind of a component, as Chromium was asked about it; none for words and functions.
fn kind_of(token: &Tok) -> Option<&'static str> {
    Some(match token {
        Tok::Number(0.0, _) => "zero",
        Tok::Number(..) => "number",
        Tok::Percentage(_) => "percentage",
        Tok::Text(_) => "text",
        Tok::Url => "url",
        Tok::Hash(_) => "hash",
        Tok::Dimension(_, unit) => match Unit::of(unit) {
            Unit::Length => "length",
            Unit::Angle => "angle",
            Unit::Time => "time",
            Unit::Flex => "flex",
            Unit::Resolution => "resolution",
            Unit::Frequency => "frequency",
            Unit::Number | Unit::Percentage | Unit::Other => return None,
        },
        _ => return None,
    })
}

/// A size of paper and which way it lies, each at most once.
fn is_page_size(tokens: &[Tok]) -> bool {
    let lies = |token: &Tok| token.is_word("portrait") || token.is_word("landscape");
    let paper = |token: &Tok| {
        matches!(token, Tok::Word(word) if takes_word("size", word) == Some(true)) && !token.is_word("auto")
    };
    match tokens {
        [only] => lies(only) || paper(only),
        [first, second] => lies(first) && paper(second) || paper(first) && lies(second),
        _ => false,
    }
}

/// Judges a word alone: Chromium has said itself which it takes.
fn of_word(known: &Property, word: &str, tokens: &[Tok]) -> Validity {
    match takes_word(known.name, word) {
        Some(true) => Validity::Taken,
        Some(false) if takes_names(known.name) => Validity::Dropped,
        Some(false) if word.starts_with('-') => Validity::Elsewhere,
        // A standard's, and not Chromium's yet.
        Some(false) => match of_components(known, tokens, Quirks::default()) {
            Validity::Taken | Validity::Elsewhere => Validity::Elsewhere,
            _ => Validity::Dropped,
        },
        None => of_components(known, tokens, Quirks::default()),
    }
}

/// Judges the components of a value by the property's grammar, and by what no grammar writes down.
fn of_components(known: &Property, tokens: &[Tok], quirks: Quirks) -> Validity {
    if any(tokens, &is_other_engines) {
        return Validity::Elsewhere;
    }
    if breaks_rule(known.name, tokens) {
        return Validity::Dropped;
    }
    // Of an alias that has no grammar of its own, the longhand's counts.
    let grammar = of_property(known.name).or_else(|| match known.longhands.as_slice() {
        [one] => of_property(one),
        _ => None,
    });
    let open = || match is_never_beside(known.name, tokens) {
        true => Validity::Dropped,
        false => Validity::Unknown,
    };
    let Some(grammar) = grammar else { return open() };
    let mut matching = Matching { quirks, steps: 0, unknown: false };
    if matching.all(grammar, tokens) {
        // What Chromium does not know it drops.
        return if is_known(known.name) { Validity::Taken } else { Validity::Elsewhere };
    }
    // Browsers keep spellings of old that no standard lists.
    let is_vendors = |token: &Tok| match token {
        Tok::Word(name) | Tok::Function(name, _) => name.starts_with('-') && !name.starts_with("--"),
        _ => false,
    };
    // So they do with words that no grammar has: a list of them may be taken as each is.
    let is_kept_word = |token: &Tok| match token {
        Tok::Word(word) if is_wide(word) => false,
        Tok::Word(word) => takes_word(known.name, word) == Some(true),
        Tok::Comma => true,
        _ => false,
    };
    let has_kept_words = tokens.iter().all(is_kept_word)
        && tokens.iter().any(|token| {
            matches!(token, Tok::Word(_)) && !Matching::default().all(grammar, std::slice::from_ref(token))
        });
    if matching.unknown || any(tokens, &is_vendors) || has_kept_words || is_kept(known.name, tokens) {
        return open();
    }
    Validity::Dropped
}

/// Whether Chromium takes a component nowhere beside another in the values of a property, as it was asked. Of numbers
/// and lengths it was not asked for all places.
fn is_never_beside(property: &str, tokens: &[Tok]) -> bool {
    let [_, _, ..] = tokens else { return false };
    let never = |kind: &str| takes_beside(property, kind) == Some(false);
    never("pair")
        || tokens.iter().any(|token| match token {
            Tok::Word(word) => !word.starts_with('-') && !is_word_of_any(word) && never("word"),
            Tok::Number(..) | Tok::Percentage(_) => false,
            Tok::Dimension(_, unit) if Unit::of(unit) == Unit::Length => false,
            other => kind_of(other).is_some_and(never),
        })
}

/// Functions of other engines, and those that Chromium had once.
fn is_other_engines(token: &Tok) -> bool {
    const KEPT: &[&str] = &[
        "-webkit-linear-gradient", "-webkit-repeating-linear-gradient", "-webkit-radial-gradient",
        "-webkit-repeating-radial-gradient", "-webkit-gradient", "-webkit-image-set", "-webkit-cross-fade",
        "-webkit-calc",
    ];
    let Tok::Function(name, _) = token else { return false };
    name.starts_with('-')
        && !name.starts_with("--")
        && !KEPT.iter().any(|kept| name.eq_ignore_ascii_case(kept))
}

/// Whether components are what a grammar describes; none where that is not known.
pub(super) fn matches_grammar(grammar: &Node, tokens: &[Tok]) -> Option<bool> {
    let mut matching = Matching::default();
    let matches = matching.all(grammar, tokens);
    (matches || !matching.unknown).then_some(matches)
}

/// Whether a browser supports a declaration, as `@supports` asks.
pub(super) fn supported(name: &str, value: &str) -> Truth {
    match validity(name, value, false) {
        Validity::Taken => Truth::Yes,
        Validity::Dropped | Validity::Elsewhere => Truth::No,
        Validity::Unknown => Truth::AtRunTime,
    }
}

/// The CSS-wide keywords (css-cascade-5, 7.3).
pub(crate) fn is_wide(word: &str) -> bool {
    let wide = ["initial", "inherit", "unset", "revert", "revert-layer", "revert-rule"];
    wide.iter().any(|keyword| word.eq_ignore_ascii_case(keyword))
}

fn is_substituted(function: &str) -> bool {
    ["var", "env", "attr", "if", "inherit"].iter().any(|name| function.eq_ignore_ascii_case(name))
        || function.len() > 2 && function.starts_with("--")
}

/// Whether a browser may take what no standard of today lists: keywords of old, and properties whose
/// published grammar is another than the one that browsers have.
fn is_kept(property: &str, tokens: &[Tok]) -> bool {
    const WORDS: &[(&str, &[&str])] = &[
        ("overflow", &["overlay"]),
        ("overflow-x", &["overlay"]),
        ("overflow-y", &["overlay"]),
        ("overflow-anchor", &["visible"]),
        ("image-rendering", &["optimizespeed", "optimizequality"]),
        ("zoom", &["normal", "reset", "document"]),
        ("contain-intrinsic-size", &["auto"]),
        ("resize", &["auto"]),
        ("timeline-trigger-name", &["none"]),
        ("font-variant-alternates", &["historical-forms"]),
        ("content", &["open-quote", "close-quote", "no-open-quote", "no-close-quote"]),
    ];
    const APART: &[&str] = &[
        "-webkit-mask", "-webkit-perspective", "alignment-baseline", "baseline-shift", "border-shape", "d",
        "offset", "ruby-overhang", "speak", "timeline-trigger",
    ];
    // Chromium takes more than the standards write: images beside texts, and percentages of a step
    // anywhere.
    let is_more = |token: &Tok| match token {
        Tok::Function(name, inner) => {
            name.eq_ignore_ascii_case("linear")
                || name.eq_ignore_ascii_case("shape") && inner.last() == Some(&Tok::Comma)
        }
        Tok::Url => property == "content",
        Tok::Number(..) => property == "rotate",
        _ => false,
    };
    if any(tokens, &is_more) {
        return true;
    }
    let is_word = |kept: &[&str]| {
        any(tokens, &|token| match token {
            Tok::Word(word) => kept.iter().any(|own| word.eq_ignore_ascii_case(own)),
            _ => false,
        })
    };
    // A comma too many is passed over in lists of rules between columns, and in some shorthands.
    matches!(tokens.last(), Some(Tok::Comma)) && property.contains("rule")
        || matches!(property, "border" | "border-block" | "border-inline") && tokens.contains(&Tok::Comma)
        || APART.contains(&property)
        || WORDS.iter().any(|(name, kept)| *name == property && is_word(kept))
}

/// What quirks mode allows for a property (quirks, 3.2 and 3.4).
#[derive(Clone, Copy, Default)]
struct Quirks {
    unitless: bool,
    hashless: bool,
    /// Whether it is a length of SVG, which needs no unit anywhere.
    is_svg: bool,
}

impl Quirks {
    /// Whether a component may be what the page's mode or SVG lets stand without a unit or a mark.
    fn allow(self, token: &Tok) -> bool {
        match token {
            Tok::Number(..) => self.unitless || self.hashless,
            Tok::Dimension(..) => self.hashless,
            _ => false,
        }
    }

    fn of(property: &str) -> Self {
        let unitless = matches!(
            property,
            "background-position"
                | "border-spacing"
                | "border-width"
                | "bottom"
                | "clip"
                | "font-size"
                | "height"
                | "left"
                | "letter-spacing"
                | "margin"
                | "max-height"
                | "max-width"
                | "min-height"
                | "min-width"
                | "padding"
                | "right"
                | "text-indent"
                | "top"
                | "vertical-align"
                | "width"
                | "word-spacing"
                | "border-top-width"
                | "border-right-width"
                | "border-bottom-width"
                | "border-left-width"
        ) || matches!(
            property.rsplit_once('-'),
            Some(("margin" | "padding", "top" | "right" | "bottom" | "left"))
        );
        let hashless = matches!(
            property,
            "background-color"
                | "border-color"
                | "border-top-color"
                | "border-right-color"
                | "border-bottom-color"
                | "border-left-color"
                | "color"
        );
        Quirks { unitless, hashless, is_svg: false }
    }
}

/// Properties of SVG whose lengths need no unit (SVG 2, 4.3).
fn is_svg_length(property: &str) -> bool {
    matches!(
        property,
        "x" | "y"
            | "cx"
            | "cy"
            | "r"
            | "rx"
            | "ry"
            | "stroke-width"
            | "stroke-dashoffset"
            | "stroke-dasharray"
    )
}

/// The most steps that are taken before a value counts as unknown.
const STEPS: usize = 20_000;
/// The most grammars inside of grammars.
const DEPTH: usize = 120;

#[derive(Default)]
struct Matching {
    quirks: Quirks,
    steps: usize,
    unknown: bool,
}

/// What is to match after a node has: from a place on.
type Then<'t> = &'t mut dyn FnMut(&mut Matching, usize) -> bool;

impl Matching {
    /// Whether a grammar matches all of some components.
    fn all(&mut self, node: &Node, tokens: &[Tok]) -> bool {
        self.node(node, tokens, 0, 0, &mut |_, at| at == tokens.len())
    }

    fn node(&mut self, node: &Node, tokens: &[Tok], at: usize, depth: usize, then: Then<'_>) -> bool {
        self.steps += 1;
        if self.steps > STEPS || depth > DEPTH {
            self.unknown = true;
            return false;
        }
        let next = tokens.get(at);
        match node {
            Node::Unknown => {
                self.unknown = true;
                false
            }
            Node::Keyword(word) => match next {
                Some(Tok::Word(own)) if own.eq_ignore_ascii_case(word) => then(self, at + 1),
                Some(Tok::Number(number, _)) if word.parse() == Ok(*number) => then(self, at + 1),
                _ => false,
            },
            Node::Literal(mark) => match next {
                Some(Tok::Mark(own)) if own == mark => then(self, at + 1),
                _ => false,
            },
            Node::Comma => matches!(next, Some(Tok::Comma)) && then(self, at + 1),
            Node::Function(name, inner) => match next {
                Some(Tok::Function(own, tokens)) if own.eq_ignore_ascii_case(name) => {
                    self.whole(inner, tokens, depth + 1) && then(self, at + 1)
                }
                _ => false,
            },
            Node::Block(inner) => match next {
                Some(Tok::Block('(', tokens)) => self.whole(inner, tokens, depth + 1) && then(self, at + 1),
                _ => false,
            },
            Node::Sequence(all) => self.sequence(all, tokens, at, at, depth + 1, then),
            Node::All(all) => self.in_any_order(all, 0, true, tokens, at, depth + 1, then),
            Node::Some(all) => self.in_any_order(all, 0, false, tokens, at, depth + 1, then),
            Node::One(all) => all.iter().any(|one| self.node(one, tokens, at, depth + 1, then)),
            Node::Repeat { node, least, most, commas } => {
                self.repeat((node, *least, *most, *commas), 0, tokens, at, depth + 1, then)
            }
            Node::Required(inner) => {
                self.node(inner, tokens, at, depth + 1, &mut |matching, end| end > at && then(matching, end))
            }
            Node::Property(name) => match of_property(name) {
                Some(grammar) => self.node(grammar, tokens, at, depth + 1, then),
                None => {
                    self.unknown = true;
                    false
                }
            },
            Node::Type(name, range) => self.of_type(name, *range, tokens, at, depth, then),
        }
    }

    fn whole(&mut self, node: &Node, tokens: &[Tok], depth: usize) -> bool {
        self.node(node, tokens, 0, depth, &mut |_, at| at == tokens.len())
    }

    fn sequence(
        &mut self,
        all: &[Node],
        tokens: &[Tok],
        start: usize,
        at: usize,
        depth: usize,
        then: Then<'_>,
    ) -> bool {
        let Some((first, rest)) = all.split_first() else { return then(self, at) };
        let mut go_on = |matching: &mut Matching, end: usize| {
            matching.sequence(rest, tokens, start, end, depth + 1, then)
        };
        if self.node(first, tokens, at, depth, &mut go_on) {
            return true;
        }
        // A comma goes with what it parts: where nothing stands before or behind it, it goes too.
        matches!(first, Node::Comma) && (at == start || at == tokens.len()) && go_on(self, at)
    }

    #[allow(clippy::too_many_arguments, reason = "the state of one search")]
    fn in_any_order(
        &mut self,
        all: &[Node],
        used: u64,
        every: bool,
        tokens: &[Tok],
        at: usize,
        depth: usize,
        then: Then<'_>,
    ) -> bool {
        for (number, one) in all.iter().enumerate().take(64) {
            if used & (1 << number) != 0 {
                continue;
            }
            let used = used | (1 << number);
            let mut go_on = |matching: &mut Matching, end: usize| {
                (end > at || every) && matching.in_any_order(all, used, every, tokens, end, depth + 1, then)
            };
            if self.node(one, tokens, at, depth, &mut go_on) {
                return true;
            }
        }
        let done = if every { used.count_ones() as usize == all.len() } else { used != 0 };
        done && then(self, at)
    }

    fn repeat(
        &mut self,
        what: (&Node, usize, usize, bool),
        done: usize,
        tokens: &[Tok],
        at: usize,
        depth: usize,
        then: Then<'_>,
    ) -> bool {
        let (node, least, most, commas) = what;
        if done < most {
            let from = match (commas && done > 0, tokens.get(at)) {
                (false, _) => Some(at),
                (true, Some(Tok::Comma)) => Some(at + 1),
                (true, _) => None,
            };
            if let Some(from) = from {
                let mut go_on = |matching: &mut Matching, end: usize| {
                    (end > at || done < least)
                        && matching.repeat(what, done + 1, tokens, end, depth + 1, then)
                };
                if self.node(node, tokens, from, depth, &mut go_on) {
                    return true;
                }
            }
        }
        done >= least && then(self, at)
    }

    fn of_type(
        &mut self,
        name: &str,
        range: Option<(f64, f64)>,
        tokens: &[Tok],
        at: usize,
        depth: usize,
        then: Then<'_>,
    ) -> bool {
        let next = tokens.get(at);
        if let Some(Tok::Function(function, inner)) = next
            && self.is_newer(name, function, inner, depth)
        {
            return then(self, at + 1);
        }
        if let Some(fits) = self.basic(name, range, next) {
            return fits && then(self, at + 1);
        }
        // The radius of a basic shape may be a percentage alone (css-shapes-1, 3.1).
        if name == "radial-size"
            && self.basic("length-percentage", None, next) == Some(true)
            && then(self, at + 1)
        {
            return true;
        }
        match of_type(name) {
            Some(grammar) => self.node(grammar, tokens, at, depth + 1, then),
            None => {
                // Only where something stands that may be of that type does it stay open.
                self.unknown |= next.is_some();
                false
            }
        }
    }

    /// Whether a function is a color or an image by a standard that the grammars are older than
    /// (css-color-5).
    fn is_newer(&mut self, name: &str, function: &str, inner: &[Tok], depth: usize) -> bool {
        let is = |wanted: &str| function.eq_ignore_ascii_case(wanted);
        let mut is_type = |name: &str, tokens: &[Tok]| {
            self.of_type(name, None, tokens, 0, depth + 1, &mut |_, end| end == tokens.len())
        };
        match name {
            "color" if is("contrast-color") => is_type("color", inner),
            "color" if inner.first().is_some_and(|first| first.is_word("from")) => {
                let Some((origin, rest)) = inner[1..].split_first() else { return false };
                is_type("color", std::slice::from_ref(origin)) && has_channels(function, rest)
            }
            "image" if is("light-dark") => {
                let mut parts = parts(inner);
                let mut is_image =
                    |part: &[Tok]| matches!(part, [word] if word.is_word("none")) || is_type("image", part);
                let is_pair = parts.clone().count() == 2;
                is_pair && parts.all(&mut is_image)
            }
            _ => false,
        }
    }

    /// Whether a component is of a type that no grammar describes; `None` for all other types.
    fn basic(&mut self, name: &str, range: Option<(f64, f64)>, next: Option<&Tok>) -> Option<bool> {
        let within = |value: f64| range.is_none_or(|(low, high)| low <= value && value <= high);
        let units: &[Unit] = match name {
            "length" => &[Unit::Length],
            "length-percentage" => &[Unit::Length, Unit::Percentage],
            "percentage" => &[Unit::Percentage],
            "number" | "integer" => &[Unit::Number],
            "angle" => &[Unit::Angle],
            "angle-percentage" => &[Unit::Angle, Unit::Percentage],
            "time" => &[Unit::Time],
            "time-percentage" => &[Unit::Time, Unit::Percentage],
            "frequency" => &[Unit::Frequency],
            "frequency-percentage" => &[Unit::Frequency, Unit::Percentage],
            "resolution" => &[Unit::Resolution],
            "flex" => &[Unit::Flex],
            _ => return self.basic_word(name, next),
        };
        Some(match next {
            Some(Tok::Number(value, whole)) => match units {
                [Unit::Number] => (name == "number" || *whole) && within(*value),
                [Unit::Length, ..] => *value == 0.0 || self.quirks.unitless && within(*value),
                _ => false,
            },
            Some(Tok::Percentage(value)) => units.contains(&Unit::Percentage) && within(*value),
            Some(Tok::Dimension(value, unit)) => units.contains(&Unit::of(unit)) && within(*value),
            Some(Tok::Function(function, inner)) if is_math(function) => {
                let comes_to = |units: &[Unit]| fits(function, inner, units, &[]);
                let found = comes_to(units);
                self.unknown |= found.is_none();
                // Lengths of SVG are numbers too.
                let is_number = || self.quirks.is_svg && comes_to(&[Unit::Number]) == Some(true);
                found == Some(true) || units[0] == Unit::Length && is_number()
            }
            _ => false,
        })
    }

    fn basic_word(&mut self, name: &str, next: Option<&Tok>) -> Option<bool> {
        let word = match next {
            Some(Tok::Word(word)) => Some(word.as_str()),
            _ => None,
        };
        Some(match name {
            "string" | "string-token" | "target-name" => matches!(next, Some(Tok::Text(_))),
            "ident" | "ident-token" => word.is_some(),
            // Never a CSS-wide keyword (css-values-4, 4.2).
            "custom-ident" => {
                word.is_some_and(|word| !is_wide(word) && !word.eq_ignore_ascii_case("default"))
            }
            // Four characters of ASCII (css-fonts-4, 6.12).
            "opentype-tag" => matches!(next, Some(Tok::Text(tag)) if tag.len() == 4 && tag.is_ascii()),
            "dashed-ident" | "custom-property-name" => word.is_some_and(|word| word.starts_with("--")),
            "zero" => matches!(next, Some(Tok::Number(value, _)) if *value == 0.0),
            "dimension" => matches!(next, Some(Tok::Dimension(..))),
            "id" => matches!(next, Some(Tok::Hash(_))),
            "hex-color" => match next {
                Some(Tok::Hash(text)) => is_hex(text, &[3, 4, 6, 8]),
                Some(Tok::Word(text)) => self.quirks.hashless && is_hex(text, &[3, 6]),
                Some(Tok::Number(value, true)) => self.quirks.hashless && (0.0..=999_999.0).contains(value),
                Some(Tok::Dimension(value, unit)) => {
                    self.quirks.hashless && is_hex(&format!("{value}{unit}"), &[3, 6])
                }
                _ => false,
            },
            "url" => match next {
                Some(Tok::Url) => true,
                Some(Tok::Function(function, inner)) => {
                    let is_url = function.eq_ignore_ascii_case("url") || function.eq_ignore_ascii_case("src");
                    let is_modifier = |token: &Tok| matches!(token, Tok::Function(..));
                    let text = inner.split_first().filter(|(first, _)| matches!(first, Tok::Text(_)));
                    is_url && text.is_some_and(|(_, rest)| rest.iter().all(is_modifier))
                }
                _ => false,
            },
            "line-names" => match next {
                Some(Tok::Block('[', inner)) => inner.iter().all(|token| matches!(token, Tok::Word(_))),
                _ => false,
            },
            _ => return None,
        })
    }
}

/// Whether these are the channels of a relative color, as its function has them (css-color-5, "relative
/// colors").
fn has_channels(function: &str, tokens: &[Tok]) -> bool {
    let function = function.to_ascii_lowercase();
    let (names, tokens): ([&str; 4], &[Tok]) = match function.as_str() {
        "rgb" | "rgba" => (["r", "g", "b", "alpha"], tokens),
        "hsl" | "hsla" => (["h", "s", "l", "alpha"], tokens),
        "hwb" => (["h", "w", "b", "alpha"], tokens),
        "lab" | "oklab" => (["l", "a", "b", "alpha"], tokens),
        "lch" | "oklch" => (["l", "c", "h", "alpha"], tokens),
        "color" => match tokens.split_first() {
            Some((Tok::Word(space), rest)) if space.to_ascii_lowercase().starts_with("xyz") => {
                (["x", "y", "z", "alpha"], rest)
            }
            Some((Tok::Word(space), rest)) if is_color_space(space) => (["r", "g", "b", "alpha"], rest),
            _ => return false,
        },
        _ => return false,
    };
    let is_channel = |token: &Tok| match token {
        Tok::Number(..) | Tok::Percentage(_) => true,
        Tok::Dimension(_, unit) => names.contains(&"h") && Unit::of(unit) == Unit::Angle,
        Tok::Word(word) => {
            word.eq_ignore_ascii_case("none") || names.iter().any(|own| word.eq_ignore_ascii_case(own))
        }
        Tok::Function(name, inner) if is_math(name) => {
            let units = [Unit::Number, Unit::Percentage, Unit::Angle];
            units.iter().any(|unit| fits(name, inner, &[*unit], &names) != Some(false))
        }
        _ => false,
    };
    match tokens {
        [a, b, c] => [a, b, c].into_iter().all(is_channel),
        [a, b, c, Tok::Mark('/'), alpha] => [a, b, c, alpha].into_iter().all(is_channel),
        _ => false,
    }
}

fn is_hex(text: &str, lengths: &[usize]) -> bool {
    lengths.contains(&text.len()) && text.bytes().all(|b| b.is_ascii_hexdigit())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn values_are_judged_as_browsers_judge_them() {
        let taken = "width:10px width:0 width:calc(100%_-_2em) width:min(10px,50%) width:auto width:inherit width:var(--x) \
            color:red color:RED color:#abc color:#aabbccdd color:rgb(1,2,3) color:rgb(1_2_3_/_50%) color:rgba(0,0,0,.5) color:currentcolor \
            color:hsl(120deg_100%_50%) color:color-mix(in_srgb,red,blue) margin:0_auto margin:1px_2px_3px_4px \
            background:red background:url(x.png)_no-repeat_center/cover background:url(a.png),linear-gradient(to_right,red,blue_50%),#fff \
            background-image:linear-gradient(45deg,red,blue) font:12px/1.5_serif font:italic_bold_.8em/1.2_Arial,sans-serif \
            font-family:Arial,'Gill_Sans',sans-serif font-family:Sorrel_Sans,serif font-weight:700 border:1px_solid_red border:none border:solid \
            transition:color_.2s_ease-in-out,opacity_1s transform:translate(-50%,10px)_rotate(45deg) transform:translateX(10px) \
            display:flex display:inline-block display:grid display:-webkit-box flex:1 flex:1_1_0 flex:0_0_50% \
            grid-template-columns:repeat(auto-fill,minmax(10em,1fr)) grid-template-columns:[a]_1fr_[b]_auto grid-area:1/2/3/4 \
            content:'x' content:none content:counter(a) content:'a'_attr(b) z-index:-1 opacity:.5 opacity:50% line-height:1.5 \
            box-shadow:0_0_2px_red box-shadow:inset_0_1px_0_#fff,0_0_0_1px_rgba(0,0,0,.1) animation:a_2s_infinite_alternate \
            overflow:hidden overflow:hidden_auto cursor:pointer cursor:url(x.cur),auto list-style:none aspect-ratio:16/9 inset:0 \
            filter:blur(2px) filter:drop-shadow(0_0_2px_red) clip-path:polygon(0_0,100%_0,50%_50%) text-decoration:underline_dotted \
            will-change:transform user-select:none appearance:none vertical-align:middle white-space:nowrap word-break:break-word \
            background-position:left_10px_top_5px background-size:cover background-size:10px_auto text-align:center float:left src:x";
        let dropped = "width:10 width:10quux width:-5px width:red colour:red color:10px color:blu color:#ab color:rgb(1,2) margin:1px_2px_3px_4px_5px \
            margin:auto_red z-index:1.5 z-index:2px opacity:1px display:flexx font-weight:boldd border:1px_solid_red_blue float:centre \
            position:middle padding:-1px padding:auto transition:color_2 transform:rotate(45) overflow:hiden text-align:middle \
            width:10px! font-size:10 line-height:1.5foo background-image:red";
        for (pairs, expected) in [(taken, Validity::Taken), (dropped, Validity::Dropped)] {
            for pair in pairs.split_whitespace() {
                let (name, value) = pair.split_once(':').unwrap();
                let value = value.replace('_', " ");
                let found = validity(name, &value, false);
                let allowed = found == expected
                    || found == Validity::Unknown && (value.contains("-webkit-") || name == "src");
                assert!(allowed || name == "src", "{name}: {value} is {found:?}");
            }
        }
    }

    #[test]
    fn quirks_mode_takes_lengths_without_units_and_colours_without_a_mark() {
        for (name, value) in [("width", "10"), ("margin", "10 20"), ("color", "ff0000"), ("color", "123")] {
            assert_eq!(validity(name, value, true), Validity::Taken, "{name}: {value}");
            assert_eq!(validity(name, value, false), Validity::Dropped, "{name}: {value}");
        }
        assert_eq!(validity("line-height", "10px 2", true), Validity::Dropped);
    }
}
