//! At-rules that browsers drop whole for what stands between their name and their block, or for what the block lacks.
//! Held against Chromium, which goes by the standards here but for one thing: its layers may have any name.

use cssparser::Parser;

use super::at_rule::AtRuleKind;
use super::component::{Tok, any, tokens};
use super::grammar;
use super::layers::layer_names;
use super::sheet::{AtRule, Declaration, Item};
use super::values::{is_wide, matches_grammar};

/// Why an at-rule is dropped.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum AtRuleFault {
    /// It needs a name, and has none.
    NoName,
    /// What stands there is no name.
    NoNameAtAll,
    /// The name is one that the standard keeps for itself.
    ReservedName,
    /// Its name begins with two dashes.
    NotDashed,
    /// It has one name, and this is more.
    SeveralNames,
    /// Nothing stands between its name and its block.
    TakesNothing,
    /// It asks nothing.
    NoCondition,
    /// It needs a block, and has none.
    NoBlock,
    /// The pseudo-class of a page is none.
    NoSuchPage,
    /// The roots and limits of a scope stand in brackets.
    NotInBrackets,
    /// A descriptor that it cannot do without is not there.
    Lacks(&'static str),
    /// The syntax of a property is none.
    BadSyntax,
    /// `inherits` is neither true nor false.
    BadInherits,
    /// The value that a property begins with is not of its syntax.
    BadInitial,
    /// That value depends on an element.
    DependentInitial,
    /// It names no address.
    NoAddress,
    /// The name of a function has no brackets.
    NoParameters,
    /// It stands behind other rules.
    TooLate,
}

/// Why a browser drops an at-rule, or makes nothing of it; none where it does not. `is_in_front` says whether nothing
/// but imports, layers' names and namespaces stands before it.
pub(super) fn fault(text: &str, at: &AtRule, is_in_front: bool) -> Option<AtRuleFault> {
    let prelude = text[at.prelude.range()].trim();
    let found = tokens(&mut Parser::new(prelude)).ok()?;
    let name = found.as_slice();
    let block = || at.block.is_none().then_some(AtRuleFault::NoBlock);
    match at.kind() {
        AtRuleKind::Keyframes => keyframes_name(name).or_else(block),
        AtRuleKind::CounterStyle => counter_name(name).or_else(block).or_else(|| {
            let system = value_of(text, at, "system").unwrap_or("symbolic").to_ascii_lowercase();
            let wanted = match system.split_ascii_whitespace().next() {
                Some("additive") => "additive-symbols",
                Some("extends") => return None,
                _ => "symbols",
            };
            lacks(text, at, &[wanted])
        }),
        AtRuleKind::Property => dashed_name(name).or_else(block).or_else(|| registration(text, at)),
        AtRuleKind::FontFace => {
            nothing(name).or_else(block).or_else(|| lacks(text, at, &["font-family", "src"]))
        }
        AtRuleKind::FontPaletteValues => {
            dashed_name(name).or_else(block).or_else(|| lacks(text, at, &["font-family"]))
        }
        AtRuleKind::FontFeatureValues if name.is_empty() => Some(AtRuleFault::NoName),
        AtRuleKind::PositionTry => dashed_name(name).or_else(block),
        AtRuleKind::StartingStyle => nothing(name),
        AtRuleKind::ViewTransition => nothing(name).or_else(block),
        AtRuleKind::Page => page(name).or_else(block),
        AtRuleKind::Container if name.is_empty() => Some(AtRuleFault::NoCondition),
        AtRuleKind::Container => container_name(name),
        AtRuleKind::Layer => layer(prelude, at.block.is_some()),
        AtRuleKind::Scope => scope(name),
        AtRuleKind::Function => function(name).or_else(block),
        AtRuleKind::Import => (!is_address(name.first())).then_some(AtRuleFault::NoAddress),
        AtRuleKind::Namespace if !is_in_front => Some(AtRuleFault::TooLate),
        AtRuleKind::Namespace => {
            let is_well = match name {
                [only] => is_address(Some(only)),
                [Tok::Word(_), address] => is_address(Some(address)),
                _ => false,
            };
            (!is_well).then_some(AtRuleFault::NoAddress)
        }
        _ => None,
    }
}

/// The name of keyframes: a word that is no keyword, or a text (css-animations-1, 3).
fn keyframes_name(name: &[Tok]) -> Option<AtRuleFault> {
    match name {
        [] => Some(AtRuleFault::NoName),
        [Tok::Word(word)] => is_reserved(word, &["none", "default"]).then_some(AtRuleFault::ReservedName),
        [Tok::Text(text)] => text.is_empty().then_some(AtRuleFault::NoName),
        several => Some(several_or_none(several)),
    }
}

/// The name of a counter style (css-counter-styles-3, 2).
fn counter_name(name: &[Tok]) -> Option<AtRuleFault> {
    const OWN: &[&str] =
        &["none", "default", "decimal", "disc", "square", "circle", "disclosure-open", "disclosure-closed"];
    match name {
        [] => Some(AtRuleFault::NoName),
        [Tok::Word(word)] => is_reserved(word, OWN).then_some(AtRuleFault::ReservedName),
        several => Some(several_or_none(several)),
    }
}

fn dashed_name(name: &[Tok]) -> Option<AtRuleFault> {
    match name {
        [] => Some(AtRuleFault::NoName),
        [Tok::Word(word)] => (word.len() < 3 || !word.starts_with("--")).then_some(AtRuleFault::NotDashed),
        several => Some(several_or_none(several)),
    }
}

/// What is wrong with more than one component where a name is due.
fn several_or_none(found: &[Tok]) -> AtRuleFault {
    match found.iter().all(|token| matches!(token, Tok::Word(_) | Tok::Comma)) {
        true => AtRuleFault::SeveralNames,
        false => AtRuleFault::NoNameAtAll,
    }
}

fn is_reserved(word: &str, own: &[&str]) -> bool {
    is_wide(word) || own.iter().any(|own| word.eq_ignore_ascii_case(own))
}

fn nothing(name: &[Tok]) -> Option<AtRuleFault> {
    (!name.is_empty()).then_some(AtRuleFault::TakesNothing)
}

/// A function's name with its parameters, and perhaps its type (css-mixins-1, 2).
fn function(name: &[Tok]) -> Option<AtRuleFault> {
    match name {
        [] => Some(AtRuleFault::NoName),
        [Tok::Function(..), ..] => None,
        [Tok::Word(_), ..] => Some(AtRuleFault::NoParameters),
        _ => Some(AtRuleFault::NoNameAtAll),
    }
}

fn is_address(token: Option<&Tok>) -> bool {
    match token {
        Some(Tok::Text(_) | Tok::Url) => true,
        Some(Tok::Function(name, _)) => ["url", "src"].iter().any(|own| name.eq_ignore_ascii_case(own)),
        _ => false,
    }
}

/// `@page`, with a name and a pseudo-class (css-page-3, 4).
fn page(name: &[Tok]) -> Option<AtRuleFault> {
    // Chromium takes no list.
    let rest = match name {
        [Tok::Word(_), rest @ ..] => rest,
        rest => rest,
    };
    let is_known = match rest {
        [] => true,
        [Tok::Mark(':'), Tok::Word(word)] => {
            ["first", "left", "right", "blank"].iter().any(|own| word.eq_ignore_ascii_case(own))
        }
        _ => false,
    };
    (!is_known).then_some(AtRuleFault::NoSuchPage)
}

/// The name in front of a container's condition (css-conditional-5).
fn container_name(name: &[Tok]) -> Option<AtRuleFault> {
    match name {
        [Tok::Word(word), ..] if is_reserved(word, &["none", "and", "or", "default"]) => {
            Some(AtRuleFault::ReservedName)
        }
        _ => None,
    }
}

fn layer(prelude: &str, has_block: bool) -> Option<AtRuleFault> {
    let names = layer_names(prelude);
    match (prelude.is_empty(), names.len(), has_block) {
        (true, _, true) | (false, 1, _) => None,
        (true, _, false) => Some(AtRuleFault::NoName),
        (false, 0, _) => Some(AtRuleFault::NoNameAtAll),
        (false, _, true) => Some(AtRuleFault::SeveralNames),
        (false, _, false) => None,
    }
}

/// `(root) to (limit)`, each in brackets and each once (css-cascade-6, 2.5).
fn scope(prelude: &[Tok]) -> Option<AtRuleFault> {
    let is_block = |token: &Tok| matches!(token, Tok::Block('(', _));
    let rest = match prelude {
        [first, rest @ ..] if is_block(first) => rest,
        rest => rest,
    };
    let is_well = match rest {
        [] => true,
        [to, limit] => to.is_word("to") && is_block(limit),
        _ => false,
    };
    (!is_well).then_some(AtRuleFault::NotInBrackets)
}

/// The last declaration of a descriptor.
fn descriptor<'a>(at: &'a AtRule, wanted: &str) -> Option<&'a Declaration> {
    at.block.iter().flat_map(|block| &block.items).rev().find_map(|item| match item {
        Item::Declaration(own) if own.name.eq_ignore_ascii_case(wanted) => Some(own),
        _ => None,
    })
}

fn value_of<'t>(text: &'t str, at: &AtRule, wanted: &str) -> Option<&'t str> {
    descriptor(at, wanted).map(|own| text[own.value.range()].trim())
}

fn lacks(text: &str, at: &AtRule, wanted: &[&'static str]) -> Option<AtRuleFault> {
    let missing = wanted.iter().find(|name| value_of(text, at, name).is_none());
    missing.map(|name| AtRuleFault::Lacks(name))
}

/// What is wrong with the registration of a custom property (css-properties-values-api-1, 2).
fn registration(text: &str, at: &AtRule) -> Option<AtRuleFault> {
    if let Some(lacking) = lacks(text, at, &["syntax", "inherits"]) {
        return Some(lacking);
    }
    let syntax = match tokens(&mut Parser::new(value_of(text, at, "syntax")?)).ok()?.as_slice() {
        [Tok::Text(syntax)] => syntax.trim().to_owned(),
        _ => return Some(AtRuleFault::BadSyntax),
    };
    let inherits = value_of(text, at, "inherits")?;
    if !["true", "false"].iter().any(|word| inherits.eq_ignore_ascii_case(word)) {
        return Some(AtRuleFault::BadInherits);
    }
    let initial = descriptor(at, "initial-value");
    if syntax == "*" {
        return None;
    }
    if !is_syntax(&syntax) {
        return Some(AtRuleFault::BadSyntax);
    }
    let Some(initial) = initial else { return Some(AtRuleFault::Lacks("initial-value")) };
    let value = tokens(&mut Parser::new(&text[initial.value.range()])).ok()?;
    let is_wide_word = matches!(value.as_slice(), [Tok::Word(word)] if is_wide(word));
    if initial.important || is_wide_word {
        return Some(AtRuleFault::BadInitial);
    }
    if any(&value, &depends_on_an_element) {
        return Some(AtRuleFault::DependentInitial);
    }
    let is_of_it = matches_grammar(&grammar::parse(&syntax), &value);
    (is_of_it == Some(false)).then_some(AtRuleFault::BadInitial)
}

/// Whether a text is the syntax of a property: names of types and words with bars between them, each perhaps with a
/// mark that says that there may be more (css-properties-values-api-1, 5).
fn is_syntax(syntax: &str) -> bool {
    const TYPES: &[&str] = &[
        "angle", "color", "custom-ident", "image", "integer", "length", "length-percentage", "number",
        "percentage", "resolution", "string", "time", "transform-function", "transform-list", "url",
    ];
    let is_one = |part: &str| {
        let part = part.trim();
        let bare = part.strip_suffix(['+', '#']).unwrap_or(part);
        match bare.strip_prefix('<').and_then(|rest| rest.strip_suffix('>')) {
            Some("transform-list") => bare == part,
            Some(name) => TYPES.contains(&name),
            None => match tokens(&mut Parser::new(bare)).as_deref() {
                Ok([Tok::Word(word)]) => !is_reserved(word, &["default"]),
                _ => false,
            },
        }
    };
    syntax.split('|').all(is_one)
}

/// Whether something comes to another value on each element.
fn depends_on_an_element(token: &Tok) -> bool {
    const OF_FONTS: &[&str] =
        &["em", "rem", "ex", "rex", "ch", "rch", "cap", "rcap", "ic", "ric", "lh", "rlh"];
    match token {
        Tok::Dimension(_, unit) => {
            let unit = unit.to_ascii_lowercase();
            OF_FONTS.contains(&unit.as_str()) || unit.starts_with("cq")
        }
        Tok::Function(name, _) => {
            ["var", "env", "attr", "if"].iter().any(|own| name.eq_ignore_ascii_case(own))
                || name.starts_with("--")
        }
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::super::sheet::{Rule, Sheet};
    use super::*;

    fn of(text: &str) -> Option<AtRuleFault> {
        match Sheet::parse(text).rules.first() {
            Some(Rule::At(at)) => fault(text, at, true),
            _ => None,
        }
    }

    #[test]
    fn what_an_at_rule_lacks_is_known() {
        use AtRuleFault::*;
        let whole = |descriptors: &str| format!("@property --s {{ {descriptors} }}");
        for (text, expected) in [
            ("@keyframes 3d { }", NoNameAtAll),
            ("@keyframes none { }", ReservedName),
            ("@keyframes fade in { }", SeveralNames),
            ("@keyframes { }", NoName),
            ("@layer a b { }", NoNameAtAll),
            ("@layer a, b { }", SeveralNames),
            ("@page :frist { }", NoSuchPage),
            ("@scope .a { }", NotInBrackets),
            ("@font-face { font-family: x }", Lacks("src")),
            ("@counter-style disc { symbols: 'x' }", ReservedName),
            ("@position-try above { }", NotDashed),
            ("@container { }", NoCondition),
            (&whole("syntax: '<length>'; inherits: true"), Lacks("initial-value")),
            (&whole("syntax: '<lenght>'; inherits: true; initial-value: 1px"), BadSyntax),
            (&whole("syntax: '<length>'; inherits: yes; initial-value: 1px"), BadInherits),
            (&whole("syntax: '<length>'; inherits: true; initial-value: red"), BadInitial),
            (&whole("syntax: '<length>'; inherits: true; initial-value: 1em"), DependentInitial),
        ] {
            assert_eq!(of(text), Some(expected), "{text}");
        }
        for well in [
            "@keyframes 'none' { }",
            "@layer { }",
            "@layer a.b, c;",
            "@page wide:first { }",
            "@scope (.a) to (.b) { }",
            "@counter-style a { system: extends decimal }",
            "@font-face { font-family: x; src: url(x) }",
            &whole("syntax: '<length> | auto'; inherits: false; initial-value: auto"),
            &whole("syntax: '*'; inherits: false"),
        ] {
            assert_eq!(of(well), None, "{well}");
        }
    }
}
