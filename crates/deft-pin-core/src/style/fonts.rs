//! Font families as declarations name them (css-fonts-4, 2.1), and as the addresses of font
//! services do.

use cssparser::{Parser, Token};

use super::declaration::StyleDeclaration;
use super::engines::Engine;
use super::rules::StyleRules;
use crate::source::Span;

/// A use of font families by a declaration.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct FontUse {
    /// The declaration.
    pub span: Span,
    /// The families, in order, as names without quotes.
    pub families: Vec<String>,
    /// Whether the list ends in a generic family, which always is there.
    pub has_fallback: bool,
}

const GENERIC: &[&str] = &[
    "serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "ui-serif", "ui-sans-serif",
    "ui-monospace", "ui-rounded", "math", "emoji", "fangsong",
];

const WIDE: &[&str] = &["inherit", "initial", "unset", "revert", "revert-layer"];

/// Families that come with common operating systems, in lower case; fonts under these names need
/// not be loaded.
const INSTALLED: &[&str] = &[
    "-apple-system", "andale mono", "apple color emoji", "arial", "arial black", "arial narrow", "avenir",
    "avenir next", "baskerville", "blinkmacsystemfont", "book antiqua", "brush script mt", "calibri",
    "cambria", "candara", "cantarell", "century gothic", "charter", "comic sans ms", "consolas",
    "constantia", "copperplate", "corbel", "courier", "courier new", "dejavu sans", "dejavu sans mono",
    "dejavu serif", "didot", "droid sans", "franklin gothic medium", "futura", "garamond", "geneva",
    "georgia", "gill sans", "helvetica", "helvetica neue", "hoefler text", "impact", "iowan old style",
    "liberation mono", "liberation sans", "liberation serif", "lucida bright", "lucida console",
    "lucida grande", "lucida sans", "lucida sans typewriter", "lucida sans unicode", "marker felt", "menlo",
    "microsoft sans serif", "monaco", "ms gothic", "noto color emoji", "noto sans", "noto serif", "optima",
    "oxygen", "oxygen-sans", "palatino", "palatino linotype", "papyrus", "perpetua", "rockwell",
    "roboto mono", "san francisco", "segoe print", "segoe ui", "segoe ui emoji", "segoe ui symbol",
    "sf mono", "sf pro", "sf pro text", "sitka text", "tahoma", "times", "times new roman", "trebuchet ms",
    "ubuntu", "ubuntu mono", "verdana", "webdings", "wingdings",
];

/// Whether a family needs no loading: a generic one, or one that systems bring along.
pub fn is_installed(family: &str) -> bool {
    let family = family.to_ascii_lowercase();
    GENERIC.contains(&family.as_str()) || INSTALLED.contains(&family.as_str())
}

/// What the rules of a sheet use of fonts. Declarations whose families a variable gives are left
/// out: what they come to is not known here.
pub fn font_uses(rules: &StyleRules) -> Vec<FontUse> {
    rules.rules.iter().flat_map(|rule| &rule.declarations).filter_map(|own| font_use(rules, own)).collect()
}

fn font_use(rules: &StyleRules, declaration: &StyleDeclaration) -> Option<FontUse> {
    if declaration.is_dropped(&rules.text, false, Engine::Chromium) {
        return None;
    }
    let value = rules.text.slice(declaration.value);
    let (families, has_fallback) = declared_families(declaration.property.name(), value)?;
    Some(FontUse { span: declaration.span, families, has_fallback })
}

/// The families that a declaration names, without generic ones, and whether the list ends in a
/// generic one; `None` where it names none.
pub(crate) fn declared_families(property: &str, value: &str) -> Option<(Vec<String>, bool)> {
    match property {
        "font-family" => families(value),
        "font" => families(&value[families_start(value)?..]),
        _ => None,
    }
}

/// In the value of `font`, where the families begin: after the size and its line height.
pub(super) fn families_start(value: &str) -> Option<usize> {
    const SIZES: &[&str] = &[
        "xx-small", "x-small", "small", "medium", "large", "x-large", "xx-large", "xxx-large", "smaller",
        "larger", "normal",
    ];
    let mut input = Parser::new(value);
    let mut start = None;
    while let Ok(token) = input.next().cloned() {
        let is_size = match &token {
            Token::Dimension { .. } | Token::Percentage { .. } | Token::Number { .. } => true,
            Token::Ident(word) => SIZES.contains(&word.to_ascii_lowercase().as_str()),
            Token::Delim('/') => true,
            Token::Function(name) if name.eq_ignore_ascii_case("var") => return None,
            Token::Function(_) => true,
            Token::Comma => break,
            _ => false,
        };
        if is_size {
            start = Some(input.position().byte_index());
            if let Token::Function(_) = token {
                let _: Result<(), cssparser::ParseError<()>> = input.parse_nested_block(|input| {
                    while input.next().is_ok() {}
                    Ok(())
                });
                start = Some(input.position().byte_index());
            }
        }
    }
    start
}

/// The families of a list, and whether the last is a generic one.
fn families(list: &str) -> Option<(Vec<String>, bool)> {
    let mut input = Parser::new(list);
    let mut found: Vec<(String, bool)> = Vec::new();
    let mut current: Option<(String, bool)> = None;
    loop {
        match input.next().cloned() {
            Ok(Token::Ident(word)) => match &mut current {
                Some((name, _)) => {
                    name.push(' ');
                    name.push_str(&word);
                }
                None => current = Some((word.to_string(), false)),
            },
            Ok(Token::QuotedString(name)) => current = Some((name.to_string(), true)),
            Ok(Token::Comma) => found.extend(current.take()),
            Ok(_) => return None,
            Err(_) => {
                found.extend(current.take());
                break;
            }
        }
    }
    let is = |words: &[&str], (name, quoted): &(String, bool)| {
        !quoted && words.contains(&name.to_ascii_lowercase().as_str())
    };
    let last = found.last()?;
    if found.len() == 1 && is(WIDE, last) {
        return None;
    }
    let has_fallback = is(GENERIC, last) || is(WIDE, last);
    let named = found.iter().filter(|one| !is(GENERIC, one)).map(|(name, _)| name.clone()).collect();
    Some((named, has_fallback))
}

/// The families that an address asks a font service for, by its `family` parameters; none where
/// it has no such parameter.
pub fn families_in_url(address: &str) -> Vec<String> {
    let absolute = if address.starts_with("//") { format!("https:{address}") } else { address.to_owned() };
    let Ok(url) = url::Url::parse(&absolute) else { return Vec::new() };
    let asked = url.query_pairs().filter(|(name, _)| name == "family");
    let names = asked.flat_map(|(_, value)| {
        let one = |part: &str| part.split(':').next().unwrap_or_default().trim().to_owned();
        value.split('|').map(one).collect::<Vec<_>>()
    });
    names.filter(|name| !name.is_empty()).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn families_are_read_from_both_properties() {
        type Read = Option<(&'static [&'static str], bool)>;
        let table: [(&str, Read); 8] = [
            ("font-family: 'Harbour Sans', Georgia, serif", Some((&["Harbour Sans", "Georgia"], true))),
            ("font-family: Harbour  Sans", Some((&["Harbour Sans"], false))),
            ("font: italic 700 12px/1.2 Quay, 'serif'", Some((&["Quay", "serif"], false))),
            ("font: calc(1em + 2px) Quay", Some((&["Quay"], false))),
            ("font: medium/normal system-ui", Some((&[], true))),
            ("font: inherit", None),
            ("font-family: inherit", None),
            ("font-family: var(--a), serif", None),
        ];
        for (text, expected) in table {
            let rules = StyleRules::new(format!("a{{{text}}}"));
            let found = font_uses(&rules).pop().map(|found| (found.families, found.has_fallback));
            let expected = expected
                .map(|(names, fallback)| (names.iter().map(|name| (*name).to_owned()).collect(), fallback));
            assert_eq!(found, expected, "{text}");
        }
        assert_eq!(families_in_url("//fonts.example/css?family=A+B:400,700|C&family=D"), ["A B", "C", "D"]);
        assert!(families_in_url("https://x.example/a.css").is_empty());
    }
}
