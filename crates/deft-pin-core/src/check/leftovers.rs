//! Findings about what a template left to be filled in: a key, an address, an ID, a text.

use std::sync::LazyLock;

use regex::Regex;

use super::code::{Code, Severity};
use super::facts::FactsByPage;
use super::family::{Family, NoFact};
use super::finding::{Finding, Place};
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::markup::{MarkupPiece, markup_pieces, tag_attributes};
use crate::plan::FileText;
use crate::script::{TextPlace, text_places};
use crate::source::Span;

pub(super) struct Leftovers;

/// What is left over, and what belongs there.
struct Sign {
    pattern: &'static str,
    help: &'static str,
}

const OWN: &str = "write your own there";

/// The signs of something that was to be filled in.
const SIGNS: &[Sign] = &[
    Sign { pattern: r"\b(?:[A-Z]+[-_])*YOUR(?:[-_ ][A-Z0-9]+)+\b", help: OWN },
    Sign {
        pattern: r"\byour[-_](?:[a-z]+[-_])*(?:id|key|token|domain|site|account|username|name|url|email|container|pixel|measurement|tracking|project|element|form|company|code)(?:[-_]here)?\b",
        help: OWN,
    },
    Sign { pattern: r"[\[<{(](?:INSERT|ENTER|REPLACE|PASTE|ADD|YOUR)[ _-][A-Z0-9 _-]+[\]>})]", help: OWN },
    Sign {
        pattern: r"[\[<](?i:insert|enter|replace with|paste|add|your) [a-z][a-z ]*(?: here)?[\]>]",
        help: OWN,
    },
    Sign {
        pattern: r"\b(?:INSERT|ENTER|REPLACE|PASTE)[_ -](?:[A-Z0-9]+[_ -])*(?:HERE|ID|KEY|TOKEN|URL|CODE)\b",
        help: OWN,
    },
    Sign {
        pattern: r"\b(?:[A-Z]{1,4}-)X{3,}(?:-[X0-9]+)*\b|\bX{6,}\b",
        help: "write the identifier that the service gave you",
    },
    Sign {
        pattern: r"(?i)//(?:www\.)?(?:example\.(?:com|org|net)|(?:your|my)-?(?:site|domain|website|company|store|shop|server)\.[a-z]{2,})\b|@(?:example|yourdomain|yoursite)\.(?:com|org|net)\b",
        help: "write the address that is meant",
    },
    Sign { pattern: r"(?i)\blorem ipsum\b", help: "write the text that is meant" },
];

static ANY: LazyLock<Regex> = LazyLock::new(|| {
    let all: Vec<String> = SIGNS.iter().map(|sign| format!("(?:{})", sign.pattern)).collect();
    pattern(&all.join("|"))
});

static EACH: LazyLock<Vec<Regex>> =
    LazyLock::new(|| SIGNS.iter().map(|sign| pattern(sign.pattern)).collect());

fn pattern(text: &str) -> Regex {
    #[allow(clippy::expect_used, reason = "the patterns are our own, and a test reads all of them")]
    Regex::new(text).expect("a pattern of our own")
}

impl Family for Leftovers {
    type Fact = NoFact;

    fn facts(_: &PageChecker<'_>, _: &mut Vec<NoFact>) {}

    fn findings(input: &CheckInput<'_>, _: &FactsByPage<NoFact>, findings: &mut Vec<Finding>) {
        for (pin, planned) in input.plan().pins.entries() {
            let script = planned.script.iter().map(|file| (file, script_texts as Texts));
            let style = planned.style.iter().map(|style| (&style.file, style_texts as Texts));
            let markup = planned.markup.iter().map(|markup| (&markup.text, markup_texts as Texts));
            for (file, texts) in script.chain(style).chain(markup) {
                findings.extend(of_file(file, texts).into_iter().map(|found| found.pin(input.pin_name(pin))));
            }
        }
    }
}

/// The places of a file in which something may be left over.
type Texts = fn(&str) -> Vec<Span>;

fn of_file(file: &FileText, texts: Texts) -> Vec<Finding> {
    let text = file.text.as_str();
    // Few files have any sign: those alone are cut into their texts.
    if !ANY.is_match(text) {
        return Vec::new();
    }
    let mut found: Vec<(Span, &str)> = Vec::new();
    for span in texts(text) {
        let inner = file.text.slice(span);
        for (sign, regex) in SIGNS.iter().zip(EACH.iter()) {
            // The bare host is what scripts hold relative addresses against, and nothing is fetched from there.
            let is_base = |hit: &regex::Match<'_>| {
                hit.as_str().starts_with("//")
                    && inner[hit.end()..].trim_matches(['/', '"', '\'', '`']).is_empty()
            };
            let is_script = file.script.is_some();
            found.extend(
                regex
                    .find_iter(inner)
                    .filter(|hit| !(is_script && is_base(hit)))
                    .map(|hit| (Span::new(hit.start(), hit.end()).shifted(span.start as usize), sign.help)),
            );
        }
    }
    found.sort_unstable();
    found.dedup_by(|b, a| b.0.start < a.0.end);
    let told = found.into_iter().map(|(span, help)| {
        let message = format!("`{}` looks as if it was left to be filled in", file.text.slice(span));
        Finding::new(Code::Unfilled, Place::new(&file.path, &file.text, span), message)
            .severity(Severity::Warning)
            .help(help)
    });
    told.collect()
}

fn script_texts(text: &str) -> Vec<Span> {
    let is_text = |place: &TextPlace| matches!(place, TextPlace::Quoted | TextPlace::Template);
    text_places(text).into_iter().filter(|(_, place)| is_text(place)).map(|(span, _)| span).collect()
}

/// All of a sheet but its comments.
fn style_texts(text: &str) -> Vec<Span> {
    let (mut found, mut from) = (Vec::new(), 0);
    while let Some(start) = text[from..].find("/*").map(|at| from + at) {
        found.push(Span::new(from, start));
        from = text[start + 2..].find("*/").map_or(text.len(), |end| start + end + 4);
    }
    found.push(Span::new(from, text.len()));
    found
}

/// Texts and the values of attributes.
fn markup_texts(text: &str) -> Vec<Span> {
    let mut found = Vec::new();
    for (span, piece) in markup_pieces(text) {
        match piece {
            MarkupPiece::Text { .. } => found.push(span),
            MarkupPiece::StartTag { .. } => {
                let attributes = tag_attributes(&text[span.range()]).1.into_iter();
                found.extend(attributes.filter_map(|own| Some(own.value?.shifted(span.start as usize))));
            }
            MarkupPiece::EndTag { .. } | MarkupPiece::Comment => {}
        }
    }
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_was_left_to_be_filled_in_is_known() {
        for text in [
            "YOUR_API_KEY", "YOUR-ID", "your-api-key", "your_tracking_id_here", "<YOUR PIXEL ID>",
            "[INSERT DATE]", "[your name]", "G-XXXXXXXXXX", "UA-XXXXX-X", "GTM-XXXX",
            "https://example.com/a.js", "//www.yoursite.com", "info@yourdomain.com", "Lorem ipsum dolor",
            "XXXXXXXX", "REPLACE_WITH_YOUR_KEY", "ENTER_ID", "[enter your name here]",
        ] {
            assert!(ANY.is_match(text), "{text}");
        }
        for text in [
            "your bookmark", "Your ticket", "https://cdn.example/x.js", "xxxxxxxx-xxxx-4xxx", "[A-Z]",
            "<DIV>", "XXL", "MMXXVI", "XXX", "your-seat", "sample.com", "examples.company", "[data-id]",
            "INSERT", "ENTER", "example", "YOURS", "add-on", "<input>", "[role]", "MAX-WIDTH",
        ] {
            assert!(!ANY.is_match(text), "{text}");
        }
    }
}
