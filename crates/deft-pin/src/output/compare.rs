//! A comparison: as a table, as JSON, and as a report that is one page.

use std::fs::{self, File};
use std::io::{BufWriter, Write as _};
use std::path::Path;

use anyhow::{Context as _, Result};
use base64::Engine as _;
use deft_pin_core::compare::How;
use serde::Serialize;

use super::json::printed;
use super::notes::{ERROR, FAINT, GOOD, WARNING};
use super::table::{Styled, table};
use super::text::{columns, counted, cut, html_text, plain, shortened, wrapped};
use crate::comparing::{ComparedPage, ComparedWidth, Everywhere, everywhere};

#[derive(Serialize)]
struct CompareAnswer<'a> {
    version: u32,
    pages: &'a [ComparedPage],
    /// The pins that nothing narrows, with how many of these pages they changed.
    everywhere: Vec<Everywhere>,
}

/// The answer of `compare` for programs.
pub fn compare_json(pages: &[ComparedPage]) -> serde_json::Result<String> {
    printed(&CompareAnswer { version: 1, pages, everywhere: everywhere(pages) })
}

/// How many elements of a page are named.
const NAMED: usize = 8;

/// The pages with what changed on each, for a person.
pub fn compared(pages: &[ComparedPage]) -> String {
    let widths = pages.iter().map(|page| page.widths.iter().map(|own| own.width).collect::<Vec<u32>>());
    let widths = widths.max_by_key(Vec::len).unwrap_or_default();
    let names: Vec<String> = widths.iter().map(u32::to_string).collect();
    let mut head = vec!["page"];
    head.extend(names.iter().map(String::as_str));
    head.push("pins");
    let rows = pages.iter().map(|page| {
        let mut row = vec![Styled::plain(shortened(&page.page, 34))];
        if page.failed.is_some() {
            row.push(Styled("not seen".to_owned(), ERROR));
            row.extend(widths.iter().skip(1).map(|_| Styled::plain("")));
        } else {
            row.extend(page.widths.iter().map(|width| cell(page, width)));
        }
        row.push(match page.pins.as_slice() {
            [] => Styled::faint("none is for it"),
            pins => Styled::plain(cut(&pins.join(", "), 30)),
        });
        row
    });
    let mut text = table(&head, &[], rows.collect());
    for Everywhere { pin, changed } in everywhere(pages) {
        let told = format!(
            "`{pin}` has no `pages`, `within` or `having` and is for all of every page: it changed {changed} of {}",
            counted(pages.len(), "page")
        );
        text.push_str(&format!("\n{}\n", wrapped(&told, "", "")));
    }
    for page in pages.iter().filter(|page| !page.is_same() || page.is_wrong()) {
        text.push('\n');
        text.push_str(&details(page));
    }
    text
}

fn cell(page: &ComparedPage, width: &ComparedWidth) -> Styled {
    let count = width.elements.iter().filter(|own| own.how != How::Pushed).count();
    let pushed = width.elements.len() - count;
    match (width.same, count, pushed) {
        (true, ..) if !page.meant => Styled("as it was".to_owned(), GOOD),
        (true, ..) => Styled::faint("as it was"),
        (false, 0, 0) => Styled("pixels".to_owned(), WARNING),
        (false, count, pushed) => {
            let text = if pushed > 0 { format!("{count}, pushes {pushed}") } else { count.to_string() };
            if page.meant { Styled::plain(text) } else { Styled(text, ERROR) }
        }
    }
}

/// What changed on a page: at the width where most did, since the others show much the same.
fn details(page: &ComparedPage) -> String {
    let mut text = format!("{}\n", plain(&page.page));
    if let Some(why) = &page.failed {
        return text + &format!("{}\n", wrapped(&format!("it could not be shown: {why}"), "  ", "  "));
    }
    if !page.meant && !page.is_same() {
        let told = "no pin is for this page, and it changed: that is a guard that does not hold, or a mistake of Deft Pin";
        text.push_str(&format!("{ERROR}{}{ERROR:#}\n", wrapped(told, "  ", "  ")));
    }
    let own = |width: &&ComparedWidth| width.elements.iter().filter(|own| own.how != How::Pushed).count();
    if let Some(width) = page.widths.iter().filter(|width| !width.same).max_by_key(own) {
        let told: Vec<_> = width.elements.iter().filter(|own| own.how != How::Pushed).collect();
        let rows = told.iter().take(NAMED).map(|element| {
            let what = match element.how {
                How::New => "new".to_owned(),
                How::Gone => "gone".to_owned(),
                _ => {
                    let text = element.text.iter().map(|_| "text".to_owned());
                    text.chain(element.properties.iter().cloned()).collect::<Vec<_>>().join(", ")
                }
            };
            vec![
                Styled::plain(format!(
                    "  {}",
                    shortened(&element.element, columns().saturating_sub(52).max(28))
                )),
                Styled::plain(cut(&what, 32)),
                Styled::faint(cut(element.pin.as_deref().unwrap_or("?"), 16)),
            ]
        });
        let more = told.len().saturating_sub(NAMED);
        text.push_str(&table(
            &[&format!("  at {}", width.width), "what differs", "pin"],
            &[],
            rows.collect(),
        ));
        if more > 0 {
            text.push_str(&format!("{FAINT}  and {}{FAINT:#}\n", counted(more, "other element")));
        }
    }
    if page.widths.iter().any(|width| !width.settled) {
        text.push_str(&format!(
            "{WARNING}  it did not come to rest in time: this is what was seen by then{WARNING:#}\n"
        ));
    }
    for line in &page.console {
        let style = if line.severity == "error" { ERROR } else { WARNING };
        let told = format!("new {} in the console: {}", line.severity, line.message);
        text.push_str(&format!("{style}{}{style:#}\n", wrapped(&told, "  ", "    ")));
    }
    text
}

/// The most bytes of pictures that the report holds in itself.
const HELD: u64 = 48 << 20;

/// Writes the report: a page that shows before and after, with its pictures in it for as long as that is not too much.
/// Those of pages that did not change stand beside it.
///
/// # Errors
/// It cannot be written, or a picture cannot be read.
pub fn write_report(file: &Path, pictures: &Path, board: &str, pages: &[ComparedPage]) -> Result<()> {
    let (head, tail) = include_str!("compare.html")
        .split_once("{{ pages }}")
        .context("the report has no place for pages")?;
    let mut out = BufWriter::new(File::create(file)?);
    let title = html_text(board);
    out.write_all(head.replace("{{ board }}", &title).as_bytes())?;
    out.write_all(safe(&serde_json::to_string(pages)?).as_bytes())?;
    out.write_all(b"</script>\n")?;
    let mut held = 0;
    let changed = pages.iter().flat_map(|page| &page.widths).filter(|width| !width.same);
    for name in changed.flat_map(|width| [&width.before, &width.after]) {
        let size = fs::metadata(pictures.join(name))?.len();
        held += size;
        if held > HELD {
            break;
        }
        let bytes = fs::read(pictures.join(name))?;
        let text = base64::engine::general_purpose::STANDARD.encode(bytes);
        writeln!(out, "<script type=\"text/plain\" data-picture=\"{name}\">{text}</script>")?;
    }
    out.write_all(tail.strip_prefix("</script>").unwrap_or(tail).as_bytes())?;
    out.flush().context("it cannot be written")
}

/// JSON as it can stand in an element of a script.
fn safe(json: &str) -> String {
    json.replace('<', "\\u003c").replace('\u{2028}', "\\u2028").replace('\u{2029}', "\\u2029")
}
