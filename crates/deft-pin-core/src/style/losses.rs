//! What a browser drops of a sheet without a word, as far as names and punctuation tell.
//!
//! Only what is certain is here: whether a value fits its property is another question.

use cssparser::{Parser, Token};
use rustc_hash::FxHashMap;

use super::at_rule::AtRuleKind;
use super::at_rule_faults::{AtRuleFault, fault};
use super::declaration::Declarations;
use super::descriptors::{is_no_font_descriptor, is_no_keyframe};
use super::engines::{is_vendors, takers_of};
use super::foreign_text::{ForeignText, foreign_texts};
use super::media_faults::{MediaFault, container_fault, media_faults};
use super::properties::{is_descriptor, is_property, nearest_property};
use super::sheet::{AtRule, Block, Declaration, Item, Rule, Sheet, Skipped};
use super::supports::{SupportsFault, supports_fault};
use super::tokens::{Bracket, FlawKind, flaws};
use super::values::Validity;
use crate::source::{Span, nearest};

/// Something that a browser drops, or takes for something else than was meant.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Loss {
    /// What is wrong.
    pub kind: LossKind,
    /// Where.
    pub span: Span,
}

/// What is wrong at a place.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum LossKind {
    /// No standard has a property of that name.
    UnknownProperty {
        /// The name as written.
        name: String,
        /// The property that was most likely meant.
        nearest: Option<&'static str>,
    },
    /// No browser knows the at-rule.
    UnknownAtRule {
        /// Its name, without `@`.
        name: String,
        /// The one that was most likely meant.
        nearest: Option<&'static str>,
        /// Whether it is one of a preprocessor's.
        is_preprocessors: bool,
    },
    /// A browser makes nothing of the at-rule.
    BrokenAtRule {
        /// Its name, without `@`.
        name: String,
        /// Why.
        fault: AtRuleFault,
    },
    /// Something that is no CSS.
    Foreign(ForeignText),
    /// A media or container query never holds.
    BadQuery(MediaFault),
    /// An `@supports` asks for what no browser has.
    BadSupports(SupportsFault),
    /// The value is none that the property takes.
    BadValue {
        /// The property.
        property: String,
    },
    /// A standard has the value, and no browser takes it yet.
    NotYet,
    /// The at-rule has no descriptor of that name.
    UnknownDescriptor {
        /// The at-rule, without `@`.
        at_rule: String,
        /// The name as written.
        name: String,
    },
    /// The at-rule's descriptor takes no such value.
    BadDescriptor {
        /// The name.
        name: String,
    },
    /// The selector of a keyframe is none.
    BadKeyframe,
    /// Something that a keyframe cannot hold (css-animations-1, 3): `!important`, or how the animation itself runs.
    NotInKeyframe,
    /// A declaration runs on into the next one, and both are dropped; a custom property takes the
    /// next one up into its value.
    MissingSemicolon {
        /// The property whose value runs on.
        property: String,
        /// The name of the declaration that is swallowed.
        swallowed: String,
    },
    /// A name, and no colon after it.
    MissingColon {
        /// The property that stands there or was meant.
        name: String,
    },
    /// A property with nothing after the colon.
    EmptyValue {
        /// The property.
        name: String,
    },
    /// An exclamation mark with something else than `important` after it.
    BadImportant,
    /// A comment of the kind that other languages have: `// …`.
    SlashComment,
    /// A declaration that no rule is around.
    OutsideRule,
    /// Text that is neither a declaration nor a rule.
    NotARule,
    /// A bracket, quote or comment that nothing closes, or a closing bracket too many.
    Flaw {
        /// Which.
        kind: FlawKind,
        /// For an unclosed brace: where the first rule begins that stands at the start of its
        /// line inside it, and so was most likely meant to stand after it.
        closes_before: Option<u32>,
    },
}

/// Everything that is certain to be dropped, in the order of the text.
pub fn losses(text: &str, sheet: &Sheet) -> Vec<Loss> {
    let mut found: Vec<Loss> = flaws(text)
        .into_iter()
        .map(|flaw| {
            let closes_before = (flaw.kind == FlawKind::Unclosed(Bracket::Curly))
                .then(|| first_rule_at_margin(text, sheet, flaw.span.start))
                .flatten();
            Loss { kind: LossKind::Flaw { kind: flaw.kind, closes_before }, span: flaw.span }
        })
        .collect();
    let texts = foreign_texts(text);
    let foreign = texts.iter().map(|(_, span)| *span).collect();
    found.extend(texts.into_iter().map(|(what, span)| Loss { kind: LossKind::Foreign(what), span }));
    let mut inner: Vec<u32> = found.iter().map(|loss| loss.span.start).collect();
    inner.sort_unstable();
    for skipped in &sheet.skipped {
        // A flaw inside is the cause, and is told already.
        let next = inner.partition_point(|start| *start < skipped.span.start);
        let explained = inner.get(next).is_some_and(|start| *start < skipped.span.end);
        let raw = &text[skipped.span.range()];
        let is_hack = raw.strip_prefix('*').and_then(|rest| rest.split_once(':'));
        if !explained && !is_hack.is_some_and(|(name, _)| is_property(name.trim())) {
            found.push(skipped_loss(text, skipped));
        }
    }
    let mut walk = Walk {
        text,
        found,
        foreign,
        declarations: Declarations::of(text),
        is_in_front: true,
        unquoted: Vec::new(),
        nearest: FxHashMap::default(),
    };
    for rule in &sheet.rules {
        walk.rule(rule, Around::Nothing);
    }
    found = walk.found;
    // A syntax without its quotes is told as that.
    let unquoted = walk.unquoted;
    found.retain(|loss| {
        let before = unquoted.partition_point(|at| at.start <= loss.span.start);
        let is_in = unquoted[..before].last().is_some_and(|at| loss.span.end <= at.end);
        !matches!(loss.kind, LossKind::Foreign(_)) || !is_in
    });
    found.sort_by_key(|loss| loss.span);
    found
}

/// What a block is a part of, for the names that may stand in it.
#[derive(Clone, Copy)]
enum Around<'s> {
    Nothing,
    StyleRule,
    Keyframe,
    AtRule(&'s str),
}

struct Walk<'t> {
    text: &'t str,
    found: Vec<Loss>,
    /// Where foreign text is, which is told already, in order.
    foreign: Vec<Span>,
    declarations: Declarations<'t>,
    /// Whether a namespace may still be declared.
    is_in_front: bool,
    /// Registrations whose syntax is none, in order.
    unquoted: Vec<Span>,
    /// The nearest properties of names that are none.
    nearest: FxHashMap<String, Option<&'static str>>,
}

impl<'t> Walk<'t> {
    fn rule(&mut self, rule: &Rule, around: Around<'_>) {
        match rule {
            Rule::Style(style) => {
                self.is_in_front = false;
                let is_keyframe =
                    matches!(around, Around::AtRule(name) if AtRuleKind::of(name).is_keyframes());
                if is_keyframe && is_no_keyframe(&self.text[style.prelude.range()]) {
                    self.found.push(Loss { kind: LossKind::BadKeyframe, span: style.prelude });
                }
                self.block(&style.block, if is_keyframe { Around::Keyframe } else { Around::StyleRule });
            }
            Rule::At(at) => {
                self.found.extend(unknown_at_rule(at));
                self.queries(at);
                if let Some(fault) = fault(self.text, at, self.is_in_front) {
                    if fault == AtRuleFault::BadSyntax {
                        self.unquoted.push(at.span);
                    }
                    let kind = LossKind::BrokenAtRule { name: at.name.clone(), fault };
                    self.found.push(Loss { kind, span: Span { start: at.span.start, end: at.prelude.end } });
                }
                self.is_in_front &= at.stands_in_front();
                if let Some(block) = &at.block {
                    let inside = match at.kind() {
                        kind if kind.is_group() => around,
                        AtRuleKind::Scope => Around::StyleRule,
                        _ => Around::AtRule(&at.name),
                    };
                    self.block(block, inside);
                }
            }
        }
    }

    /// What is wrong with what an at-rule asks.
    fn queries(&mut self, at: &AtRule) {
        let text = &self.text[at.prelude.range()];
        let bad_query = |fault: MediaFault| {
            let span = fault.span.shifted(at.prelude.start as usize);
            Loss { kind: LossKind::BadQuery(fault), span }
        };
        match at.kind() {
            AtRuleKind::Media => self.found.extend(media_faults(text).into_iter().map(bad_query)),
            AtRuleKind::Container => self.found.extend(container_fault(text).map(bad_query)),
            AtRuleKind::Supports => self.found.extend(
                supports_fault(text)
                    .map(|fault| Loss { kind: LossKind::BadSupports(fault), span: at.prelude }),
            ),
            _ => {}
        }
    }

    fn block(&mut self, block: &Block, around: Around<'_>) {
        for item in &block.items {
            match item {
                Item::Rule(rule) => self.rule(rule, around),
                Item::Declaration(declaration) => self.declaration(declaration, block, around),
            }
        }
    }

    fn declaration(&mut self, declaration: &Declaration, block: &Block, around: Around<'_>) {
        let name = &declaration.name;
        let place = declaration.span;
        let next = self.foreign.partition_point(|span| span.start < place.start);
        if self.foreign.get(next).is_some_and(|span| span.start < place.end) {
            return;
        }
        let mut lose = |kind, span| self.found.push(Loss { kind, span });
        match around {
            Around::Nothing => return lose(LossKind::OutsideRule, declaration.span),
            Around::AtRule(at_rule) if AtRuleKind::of(at_rule).is_keyframes() => {
                return lose(LossKind::OutsideRule, declaration.span);
            }
            Around::Keyframe if declaration.important || is_of_the_animation(name) => {
                return lose(LossKind::NotInKeyframe, declaration.span);
            }
            Around::StyleRule | Around::Keyframe
                if is_for_old_browsers(name, &self.text[declaration.value.range()]) =>
            {
                return;
            }
            Around::StyleRule | Around::Keyframe if !is_property(name) => {
                let near = self.nearest.entry(name.clone()).or_insert_with(|| nearest_property(name));
                let kind = LossKind::UnknownProperty { name: name.clone(), nearest: *near };
                return lose(kind, declaration.name_span());
            }
            Around::AtRule(at_rule) if !may_hold(at_rule, name) => {
                let kind = LossKind::UnknownDescriptor { at_rule: at_rule.to_owned(), name: name.clone() };
                return lose(kind, declaration.name_span());
            }
            _ => {}
        }
        if declaration.value.start >= declaration.value.end {
            // A property of any syntax may begin with nothing.
            if !declaration.is_custom() && !name.eq_ignore_ascii_case("initial-value") {
                lose(LossKind::EmptyValue { name: name.clone() }, declaration.span);
            }
            return;
        }
        if let Some(kind) = value_loss(self.text, declaration) {
            self.found.push(Loss { kind, span: declaration.span });
            return;
        }
        if let Around::AtRule(at_rule) = around
            && at_rule.eq_ignore_ascii_case("font-face")
            && is_no_font_descriptor(&name.to_ascii_lowercase(), &self.text[declaration.value.range()])
        {
            let kind = LossKind::BadDescriptor { name: name.clone() };
            self.found.push(Loss { kind, span: declaration.span });
            return;
        }
        let is_style = matches!(around, Around::StyleRule | Around::Keyframe);
        let judged = self.declarations.read(declaration);
        let value = &self.text[judged.value.range()];
        // What Chromium alone drops is another question; what nobody takes is dropped.
        let kind = match judged.validity {
            Validity::Dropped => Some(LossKind::BadValue { property: name.clone() }),
            Validity::Elsewhere
                if takers_of(name, value, judged.validity).is_empty() && !is_vendors(name, value) =>
            {
                // What a browser has by another name stands beside it.
                (!has_beside(block, declaration)).then_some(LossKind::NotYet)
            }
            _ => None,
        };
        if let Some(kind) = kind.filter(|_| is_style && !has_flaw(value)) {
            self.found.push(Loss { kind, span: declaration.span });
        }
    }
}

/// Whether a declaration says how the animation itself runs, but for what may be another from keyframe to keyframe.
fn is_of_the_animation(name: &str) -> bool {
    let name = name.to_ascii_lowercase();
    let name = name.strip_prefix("-webkit-").unwrap_or(&name);
    name.starts_with("animation") && !matches!(name, "animation-timing-function" | "animation-composition")
}

/// Whether a declaration may stand in an at-rule: a descriptor of it, or a property where it takes these.
fn may_hold(at_rule: &str, name: &str) -> bool {
    match AtRuleKind::of(at_rule) {
        AtRuleKind::PositionTry => places_a_box(name),
        AtRuleKind::FontFace
        | AtRuleKind::FontPaletteValues
        | AtRuleKind::CounterStyle
        | AtRuleKind::Property
        | AtRuleKind::ViewTransition => is_descriptor(at_rule, name),
        _ => is_descriptor(at_rule, name) || is_property(name),
    }
}

/// Whether a property may stand in `@position-try` (css-anchor-position-1, 5.2).
fn places_a_box(name: &str) -> bool {
    let name = name.to_ascii_lowercase();
    let is_side =
        |side: &&str| name.strip_prefix(*side).is_some_and(|rest| rest.is_empty() || rest.starts_with('-'));
    name.starts_with("--")
        || ["inset", "margin", "top", "right", "bottom", "left"].iter().any(is_side)
        || ["width", "height", "inline-size", "block-size"]
            .iter()
            .any(|size| name.strip_suffix(size).is_some_and(|before| matches!(before, "" | "min-" | "max-")))
        || matches!(
            name.as_str(),
            "align-self" | "justify-self" | "place-self" | "position-anchor" | "position-area"
        )
}

/// Whether a block sets the same property otherwise too, or by a name with a prefix.
fn has_beside(block: &Block, declaration: &Declaration) -> bool {
    block.items.iter().any(|item| match item {
        Item::Declaration(own) if own.span != declaration.span => {
            let bare = own.name.strip_prefix('-').and_then(|rest| rest.split_once('-')).map(|(_, bare)| bare);
            own.name.eq_ignore_ascii_case(&declaration.name)
                || bare.is_some_and(|bare| bare.eq_ignore_ascii_case(&declaration.name))
        }
        _ => false,
    })
}

/// Whether a declaration is written so that browsers of old alone take it: what others make of it is meant.
fn is_for_old_browsers(name: &str, value: &str) -> bool {
    let value = value.trim();
    let is_filter = name.eq_ignore_ascii_case("filter")
        && ["progid:", "alpha("].iter().any(|start| value.to_ascii_lowercase().starts_with(start));
    let is_behavior = name.eq_ignore_ascii_case("behavior") && value.starts_with("url(");
    let is_marked = value.ends_with("\\9") || value.ends_with("\\0") || value.ends_with("!ie");
    is_filter || is_behavior || is_marked || name.strip_prefix('_').is_some_and(is_property)
}

/// An at-rule that no browser knows, where it is plain what it is.
fn unknown_at_rule(at: &AtRule) -> Option<Loss> {
    const PREPROCESSORS: &[&str] = &[
        "apply", "at-root", "config", "debug", "define-mixin", "each", "else", "error", "extend", "for",
        "forward", "if", "include", "mixin", "plugin", "responsive", "return", "screen", "source",
        "tailwind", "theme", "use", "utility", "variant", "variants", "warn", "while",
    ];
    /// Those that a standard has or had for places where this sheet is not read, or that some browser may have.
    const OTHERS: &[&str] = &[
        "annotation", "bottom-center", "bottom-left", "bottom-left-corner", "bottom-right",
        "bottom-right-corner", "character-variant", "color-profile", "custom-media", "custom-selector",
        "document", "historical-forms", "left-bottom", "left-middle", "left-top", "ornaments",
        "right-bottom", "right-middle", "right-top", "styleset", "stylistic", "swash", "top-center",
        "top-left", "top-left-corner", "top-right", "top-right-corner", "viewport", "when",
    ];
    const KNOWN: &[&str] = &[
        "container", "counter-style", "font-face", "font-feature-values", "font-palette-values", "function",
        "import", "keyframes", "layer", "media", "namespace", "page", "position-try", "property", "scope",
        "starting-style", "supports", "view-transition",
    ];
    let is_other = at.kind() == AtRuleKind::Other && !at.name.starts_with('-');
    let is_preprocessors = PREPROCESSORS.contains(&at.name.as_str());
    let nearest = nearest(&at.name, KNOWN.iter().copied()).filter(|_| !is_preprocessors);
    (is_other && !OTHERS.contains(&at.name.as_str())).then(|| Loss {
        kind: LossKind::UnknownAtRule { name: at.name.clone(), nearest, is_preprocessors },
        span: Span { start: at.span.start, end: at.span.start + 1 + at.name.len() as u32 },
    })
}

/// Whether a bracket or a quote is wrong, which is told on its own.
fn has_flaw(value: &str) -> bool {
    !flaws(value).is_empty()
}

fn value_loss(text: &str, declaration: &Declaration) -> Option<LossKind> {
    let value = &text[declaration.value.range()];
    let mut input = Parser::new(value);
    let mut name: Option<(usize, String)> = None;
    let mut exclamation = false;
    loop {
        let at = input.position().byte_index();
        match input.next_including_whitespace_and_comments() {
            Ok(Token::WhiteSpace(_) | Token::Comment(_)) => {}
            Ok(Token::Ident(ident)) => {
                if exclamation && !ident.eq_ignore_ascii_case("important") && !declaration.is_custom() {
                    return Some(LossKind::BadImportant);
                }
                name = Some((at, ident.to_string()));
                exclamation = false;
            }
            Ok(Token::Colon) => {
                let (at, swallowed) = name.take().unwrap_or_default();
                let on_new_line = value[..at].contains('\n');
                let certain = !declaration.is_custom() || on_new_line && is_property(&swallowed);
                if certain && !swallowed.is_empty() && at > 0 {
                    return Some(LossKind::MissingSemicolon {
                        property: declaration.name.clone(),
                        swallowed,
                    });
                }
            }
            Ok(Token::Delim('!')) => exclamation = true,
            Ok(_) => (name, exclamation) = (None, false),
            Err(_) => return None,
        }
    }
}

fn skipped_loss(text: &str, skipped: &Skipped) -> Loss {
    let raw = &text[skipped.span.range()];
    let kind = if raw.starts_with("//") {
        LossKind::SlashComment
    } else if skipped.in_block {
        let word = raw.split(|c: char| !c.is_ascii_alphanumeric() && c != '-').next().unwrap_or_default();
        let known = [word, raw.split_ascii_whitespace().next().unwrap_or_default()]
            .into_iter()
            .find(|name| !name.is_empty() && is_property(name));
        match known.or_else(|| nearest(word, nearest_property(word))) {
            Some(name) => LossKind::MissingColon { name: name.to_owned() },
            None => LossKind::NotARule,
        }
    } else {
        LossKind::NotARule
    };
    Loss { kind, span: skipped.span }
}

/// The first rule inside the block that opens at `brace`, on whichever level, that begins at the
/// start of its line.
fn first_rule_at_margin(text: &str, sheet: &Sheet, brace: u32) -> Option<u32> {
    let at_margin = |span: Span| {
        span.start > brace
            && text.as_bytes()[..span.start as usize].last().is_some_and(|b| matches!(b, b'\n' | b'\r'))
    };
    sheet
        .style_rules()
        .into_iter()
        .map(|(rule, _)| rule.prelude)
        .filter(|span| at_margin(*span))
        .map(|s| s.start)
        .min()
}

#[cfg(test)]
mod tests {
    use super::*;

    fn drawn(text: &str) -> Vec<String> {
        let sheet = Sheet::parse(text);
        losses(text, &sheet).into_iter().map(|loss| format!("{:?} @{}", loss.kind, loss.span.start)).collect()
    }

    #[test]
    fn what_browsers_drop_is_found() {
        let table: [(&str, &[&str]); 16] = [
            ("a { color: red; --any: { x: y }; -webkit-x: 1 }", &[]),
            ("a { colr: red }", &["UnknownProperty { name: \"colr\", nearest: Some(\"color\") } @4"]),
            (
                "a { color: red\n  margin: 0; padding: 0 }",
                &["MissingSemicolon { property: \"color\", swallowed: \"margin\" } @4"],
            ),
            (
                "a { --c: red\n  margin: 0 }",
                &["MissingSemicolon { property: \"--c\", swallowed: \"margin\" } @4"],
            ),
            ("a { --c: b: c }", &[]),
            ("a { color red; margin: 0 }", &["MissingColon { name: \"color\" } @4"]),
            ("a { color: ; }", &["EmptyValue { name: \"color\" } @4"]),
            ("a { color: red !imporant }", &["BadImportant @4"]),
            ("a { // red\n color: red; margin: 0 }", &["SlashComment @4"]),
            ("@media print { color: red }", &["OutsideRule @15"]),
            (
                "@media print { a { colour: red } }",
                &["UnknownProperty { name: \"colour\", nearest: Some(\"color\") } @19"],
            ),
            (
                "@font-face { font-family: x; src: url(y); colour: z }",
                &["UnknownDescriptor { at_rule: \"font-face\", name: \"colour\" } @42"],
            ),
            (
                "@keyframes k { from { opacity: 0 } to { opcity: 1 } }",
                &["UnknownProperty { name: \"opcity\", nearest: Some(\"opacity\") } @40"],
            ),
            (
                ".a { color: red;\n.b { margin: 0 }\n",
                &["Flaw { kind: Unclosed(Curly), closes_before: Some(17) } @3"],
            ),
            ("a { b:hover { color: red } }", &[]),
            (
                "a { color: 'x; }\nb { margin: 0 }",
                &["Flaw { kind: UnclosedString, closes_before: None } @11"],
            ),
        ];
        for (text, expected) in table {
            assert_eq!(drawn(text), expected, "{text}");
        }
    }
}
