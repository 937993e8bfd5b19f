//! A page's timeline as a picture: a row for each script and sheet, time from left to right. It reads
//! on paper, and in light and dark.

use deft_pin_core::check::FaultKind;
use deft_pin_core::code::Origin;
use deft_pin_core::script::{Execution, GlobalUse, PageEvent, When};
use deft_pin_core::site::PageStep;

use super::order::{Timed, defines, said};
use super::text::{cut, plain};

/// The width of the picture, in CSS pixels.
const WIDTH: usize = 1200;
/// Where the part with the bars begins.
const LEFT: usize = 430;
const RIGHT: usize = 24;
/// The room between `DOMContentLoaded` and `load`, in which its name fits.
const LAST: usize = 160;
const TOP: usize = 116;
const ROW: usize = 24;
const NOTE: usize = 15;

const STYLE: &str = "
  :root { --ink: #14262e; --faint: #5d7078; --rule: #c9d5d9; --paper: #fbfdfd; --runs: #1c6e5f; --sheet: #8a6a1f; --wrong: #b3261e; --pin: #e6f2ef }
  @media (prefers-color-scheme: dark) { :root { --ink: #e3ecee; --faint: #9db0b7; --rule: #36474e; --paper: #10191d; --runs: #58bfa8; --sheet: #d9b45a; --wrong: #ff8a80; --pin: #17302c } }
  @media print { :root { --ink: #000; --faint: #444; --rule: #999; --paper: #fff; --runs: #000; --sheet: #555; --wrong: #000; --pin: #eee } }
  svg { background: var(--paper) } text { font: 13px ui-sans-serif, system-ui, sans-serif; fill: var(--ink) }
  .page { font-size: 19px; font-weight: 600 } .faint { fill: var(--faint) } .small { font-size: 11px } .id { font-family: ui-monospace, monospace; font-size: 12px }
  .rule { stroke: var(--rule) } .runs { fill: var(--runs) } .sheet { fill: var(--sheet) } .wrong { fill: var(--wrong) }
  .any { fill: none; stroke: var(--runs); stroke-dasharray: 5 4 } .own { fill: var(--pin) } .before { fill: none; stroke: var(--faint); stroke-width: 1.2 }
  .race { fill: none; stroke: var(--wrong); stroke-width: 1.6; stroke-dasharray: 2 3 }
";

/// Where a step's bar is.
struct Bar {
    y: usize,
    from: usize,
    to: usize,
}

/// A line below a step.
struct Note {
    /// Whether it says that something does not work out.
    is_wrong: bool,
    text: String,
}

/// How each of these pictures begins.
const HEAD: &str = "<svg xmlns=\"http://www.w3.org/2000/svg\" class=\"deft-pin-order\"";

/// Whether a file is such a picture, which a later one may replace.
pub fn is_order_svg(bytes: &[u8]) -> bool {
    bytes.starts_with(HEAD.as_bytes())
}

/// The picture of a page's timeline, as SVG 1.1.
pub fn order_svg(all: &Timed<'_>) -> String {
    let notes: Vec<Vec<Note>> = (0..all.steps().len()).map(|at| notes(all, at)).collect();
    let parsed_at = |how: Execution| how.is_sheet() || how == Execution::Classic;
    let count = |belongs: &dyn Fn(Execution) -> bool| {
        all.steps().iter().filter(|step| belongs(step.timing.execution)).count()
    };
    let (parsing, waiting) = (count(&parsed_at), count(&|how| how.waits_for_the_parser()));
    let unit = (WIDTH - LEFT - RIGHT - LAST) / (parsing + waiting + 2).max(4);
    let ready = LEFT + (parsing + 1) * unit;
    let fired = ready + (waiting + 1) * unit;
    let end = WIDTH - RIGHT;
    let (mut y, mut parse, mut wait) = (TOP, 0, 0);
    let mut bars = Vec::new();
    for (step, notes) in all.steps().iter().zip(&notes) {
        let how = step.timing.execution;
        let (from, to) = if parsed_at(how) {
            parse += 1;
            (LEFT + parse * unit - unit / 2, LEFT + parse * unit + unit / 2)
        } else if how.waits_for_the_parser() {
            wait += 1;
            (ready + wait * unit - unit / 2, ready + wait * unit + unit / 2)
        } else if how.is_async() {
            (LEFT + parse * unit + unit / 2, end)
        } else {
            (LEFT, LEFT)
        };
        bars.push(Bar { y, from, to: to.max(from) });
        y += ROW + NOTE * notes.len() + 8;
    }
    let height = y + 20;
    let mut out = format!(
        "{HEAD} viewBox=\"0 0 {WIDTH} {height}\" width=\"{WIDTH}\" height=\"{height}\" role=\"img\">\n<title>What runs when on {page}</title>\n<style>{STYLE}</style>\n<defs><marker id=\"tip\" viewBox=\"0 0 6 6\" refX=\"5\" refY=\"3\" markerWidth=\"6\" markerHeight=\"6\" orient=\"auto\"><path d=\"M0 0 6 3 0 6z\" class=\"faint\"/></marker></defs>\n<text class=\"page\" x=\"24\" y=\"34\">{page}</text>\n",
        page = escaped(all.path()),
    );
    out.push_str(&legend(all));
    for (x, label) in
        [(LEFT, "parsing starts"), (ready, "parsed"), (fired, "DOMContentLoaded"), (end, "load")]
    {
        let anchor = if x == end { "end" } else { "start" };
        let at = if x == end { x } else { x + 4 };
        out.push_str(&format!(
            "<line class=\"rule\" x1=\"{x}\" x2=\"{x}\" y1=\"84\" y2=\"{height}\"/><text class=\"small faint\" text-anchor=\"{anchor}\" x=\"{at}\" y=\"94\">{label}</text>\n"
        ));
    }
    for (at, (step, bar)) in all.steps().iter().zip(&bars).enumerate() {
        out.push_str(&row(all, at, (step, bar), &notes[at]));
    }
    for (at, bar) in bars.iter().enumerate() {
        for early in all.page.timeline().right_before(at) {
            out.push_str(&arrow("before", &bars[early], bar, true));
        }
    }
    for fault in all.faults {
        if let FaultKind::Race { by, .. } | FaultKind::Late { by, .. } = &fault.kind {
            out.push_str(&arrow("race", &bars[*by], &bars[fault.step], false));
        }
    }
    out.push_str("</svg>\n");
    out
}

fn legend(all: &Timed<'_>) -> String {
    let runs = all.steps().iter().filter(|step| !step.timing.execution.is_sheet()).count();
    let marks = [
        ("<rect class=\"runs\" x=\"0\" y=\"-9\" width=\"16\" height=\"10\" rx=\"2\"/>", "a script runs"),
        ("<rect class=\"sheet\" x=\"0\" y=\"-6\" width=\"16\" height=\"4\"/>", "a sheet is applied"),
        (
            "<rect class=\"any\" x=\"0\" y=\"-9\" width=\"16\" height=\"10\" rx=\"2\"/>",
            "a script runs at any time from here on",
        ),
        (
            "<line class=\"before\" marker-end=\"url(#tip)\" x1=\"0\" x2=\"16\" y1=\"-4\" y2=\"-4\"/>",
            "certain to come before",
        ),
        ("<line class=\"race\" x1=\"0\" x2=\"16\" y1=\"-4\" y2=\"-4\"/>", "comes too late, or may"),
    ];
    let mut out = format!(
        "<text class=\"small faint\" text-anchor=\"end\" x=\"{}\" y=\"34\">{runs} scripts, {} style sheets, in the order of the document</text>\n",
        WIDTH - RIGHT,
        all.steps().len() - runs
    );
    let mut x = 24;
    for (mark, label) in marks {
        out.push_str(&format!("<g transform=\"translate({x} 62)\">{mark}<text class=\"small faint\" x=\"22\">{label}</text></g>\n"));
        x += 34 + label.len() * 6;
    }
    out
}

fn row(all: &Timed<'_>, at: usize, (step, bar): (&PageStep, &Bar), notes: &[Note]) -> String {
    let how = step.timing.execution;
    let (y, middle) = (bar.y, bar.y + ROW / 2);
    let mut out = String::new();
    if step.origin != Origin::Site {
        let height = ROW + NOTE * notes.len() + 2;
        let right = WIDTH - RIGHT;
        out.push_str(&format!(
            "<rect class=\"own\" x=\"16\" y=\"{y}\" width=\"{}\" height=\"{height}\" rx=\"4\"/>\n",
            right - 16
        ));
    }
    let owner = all.owner(step).unwrap_or_else(|| format!("line {}", step.line));
    let what = match step.is_inline() && !how.is_sheet() {
        true => format!("inline {}", how.name()),
        false => how.name().to_owned(),
    };
    let inline = || format!("in the page, {}", step.part);
    let name = step.address().map_or_else(inline, str::to_owned);
    let faint = if how == Execution::Never { " class=\"faint\"" } else { "" };
    out.push_str(&format!(
        "<text class=\"id faint\" x=\"24\" y=\"{base}\">s{at}</text><text{faint} x=\"58\" y=\"{base}\">{}</text><text class=\"small faint\" text-anchor=\"end\" x=\"{}\" y=\"{base}\">{}</text>\n",
        escaped(&cut(&name, 34)),
        LEFT - 14,
        escaped(&cut(&format!("{what}, {owner}"), 30)),
        base = middle + 4,
    ));
    let width = (bar.to - bar.from).max(3);
    match how {
        Execution::Never => out.push_str(&format!(
            "<text class=\"small faint\" x=\"{}\" y=\"{}\">never runs</text>\n",
            LEFT + 8,
            middle + 4
        )),
        how if how.is_sheet() => out.push_str(&format!(
            "<rect class=\"sheet\" x=\"{}\" y=\"{}\" width=\"{width}\" height=\"4\"/>\n",
            bar.from,
            middle - 2
        )),
        how => {
            let class = if how.is_async() { "any" } else { "runs" };
            out.push_str(&format!(
                "<rect class=\"{class}\" x=\"{}\" y=\"{}\" width=\"{width}\" height=\"12\" rx=\"2\"/>\n",
                bar.from,
                middle - 6
            ));
        }
    }
    for (number, Note { is_wrong, text }) in notes.iter().enumerate() {
        let class = if *is_wrong { "small wrong" } else { "small faint" };
        out.push_str(&format!(
            "<text class=\"{class}\" x=\"58\" y=\"{}\">{}</text>\n",
            y + ROW + NOTE * number + 9,
            escaped(&cut(text, if *is_wrong { 175 } else { 62 }))
        ));
    }
    out
}

/// What a step gives and needs, and what does not work out for it: that last one's lines may run
/// across the whole picture.
fn notes(all: &Timed<'_>, at: usize) -> Vec<Note> {
    let step = &all.steps()[at];
    let mut notes = Vec::new();
    let names = |uses: &[GlobalUse], wanted: &dyn Fn(&GlobalUse) -> bool| {
        let names: Vec<&str> = uses.iter().filter(|own| wanted(own)).map(|own| own.name.as_str()).collect();
        names.join(", ")
    };
    if let Some(facts) = step.facts() {
        let gives = defines(step).join(", ");
        let needs = names(&facts.reads, &|own| !own.guarded && own.when != When::Perhaps);
        let events: Vec<&str> = facts.listens.iter().map(|event: &PageEvent| event.name()).collect();
        for (label, text) in [("gives", gives), ("needs", needs), ("goes on at", events.join(", "))] {
            if !text.is_empty() {
                notes.push(Note { is_wrong: false, text: format!("{label} {text}") });
            }
        }
    }
    let faults = all.faults.iter().filter(|fault| fault.step == at);
    let told = faults.map(|fault| said(fault).replace('`', "\""));
    notes.extend(told.map(|text| Note { is_wrong: true, text }));
    notes
}

fn arrow(class: &str, from: &Bar, to: &Bar, has_tip: bool) -> String {
    let (x1, y1) = (from.to, from.y + ROW / 2);
    let (x2, y2) = (to.from, to.y + ROW / 2);
    let bend = x1.max(x2 + 6).min(x1 + 14);
    let tip = if has_tip { " marker-end=\"url(#tip)\"" } else { "" };
    format!(
        "<path class=\"{class}\"{tip} d=\"M{x1} {y1} C{bend} {y1} {} {y2} {x2} {y2}\"/>\n",
        x2.saturating_sub(14)
    )
}

/// A text as XML 1.0 holds it ("Character Data and Markup").
fn escaped(text: &str) -> String {
    // The two that are no characters there.
    let text = plain(text).replace(['\u{fffe}', '\u{ffff}'], "\u{fffd}");
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}
