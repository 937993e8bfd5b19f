//! What it costs to evaluate the scripts of a page, held against oxc's parser and scopes for the same scripts: a page
//! of twenty small scripts, and a page with one long bundle.
//!
//! `cargo bench -p deft-pin-core --bench evaluation`. The runs of each kind are taken in turns, and the ratios are those
//! of the medians.

mod measuring;

use std::hint::black_box;
use std::time::Duration;

use deft_pin_core::board::Board;
use deft_pin_core::check::{FaultScope, timeline_faults};
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::{FilePath, MemoryFiles};
use measuring::{parse, print, timed};

/// Turns of a bench, and of a test that only sees whether it runs; and how often a part of the bundle is repeated.
const BENCH: (usize, usize) = (31, 7200);
const TEST: (usize, usize) = (1, 10);

const PAGE: &str = "<!doctype html><title>Piers</title><nav id=menu class=bar><a class=link href=#fares>Fares</a></nav>\
    <main id=fares><h2>Fares</h2><p class=lead>From</p><button id=more>More</button><div id=status hidden></div></main>";

/// Small scripts as people paste them.
const SMALL: &[&str] = &[
    "document.querySelector('#more').addEventListener('click', () => { document.querySelector('#status').hidden = false });",
    "const links = document.querySelectorAll('.link'); links.forEach(link => { link.classList.add('is-known'); link.dataset.seen = '1' });",
    "(function () { var box = document.getElementById('status'); if (!box) return; box.innerHTML = '<p class=note>' + new Date().getFullYear() + '</p>'; })();",
    "document.addEventListener('DOMContentLoaded', function () { var lead = document.querySelector('.lead'); if (lead && innerWidth > 600) lead.style.color = 'navy'; });",
    "let left = 3; const timer = setInterval(() => { left -= 1; document.querySelector('#status').textContent = left; if (!left) clearInterval(timer) }, 1000);",
];

fn main() {
    let (turns, parts) = if std::env::args().any(|argument| argument == "--bench") { BENCH } else { TEST };
    let small: Vec<String> =
        (0..20).map(|at| format!("/* {at} */ {{ {} }}", SMALL[at % SMALL.len()])).collect();
    let page: String = small.iter().map(|script| format!("<script>{script}</script>")).collect();
    compare("twenty small scripts", &format!("{PAGE}{page}"), &[], &small, turns);
    let bundle = made(parts);
    println!("a bundle of {:.2} MB", bundle.len() as f64 / 1e6);
    let page = format!("{PAGE}<script src=bundle.js></script>");
    compare(
        "a bundle",
        &page,
        &[("site/bundle.js", &bundle)],
        std::slice::from_ref(&bundle),
        turns.div_ceil(4),
    );
}

/// Prints what a page costs without its scripts' evaluation, with it, and what parsing these alone costs.
fn compare(name: &str, page: &str, more: &[(&str, &str)], scripts: &[String], turns: usize) {
    let mut files = MemoryFiles::default();
    files.insert("site/index.html", page);
    more.iter().for_each(|(path, text)| files.insert(path, *text));
    let (Ok(board), Ok(root)) = (Board::parse("[site]\nroot = 'site'\n"), FilePath::parse("site")) else {
        return;
    };
    let Ok(site) = Site::list(&files, &root) else { return };
    let plan = Plan::new(&board, &files);
    let Some(id) = site.pages.ids().next() else { return };
    let mut times: [Vec<Duration>; 4] = Default::default();
    for _ in 0..turns {
        times[0].push(timed(|| scripts.iter().for_each(|text| parse(text))));
        let context = SiteContext::new(&plan, &site, &files);
        let first = context.page(id, page.as_bytes());
        black_box(first.steps().len());
        times[1].push(timed(|| {
            let steps = first.steps().iter();
            black_box(steps.filter_map(|step| step.facts()).map(|facts| facts.reads.len()).sum::<usize>());
        }));
        times[2].push(timed(|| {
            black_box(timeline_faults(&first, FaultScope::Page).len());
        }));
        // A second page of the site that has the same scripts.
        let second = context.page(id, page.as_bytes());
        black_box(second.steps().len());
        times[3].push(timed(|| {
            black_box(timeline_faults(&second, FaultScope::Page).len());
        }));
    }
    println!("{name}");
    print(["parser and scopes", "facts", "evaluation, first page", "evaluation, next page"], times);
}

/// A bundle as sites have them: functions in a wrapper, of which some run at once.
fn made(count: usize) -> String {
    let part = |at: usize| {
        format!(
            "function pier{at}(options) {{\n  var settings = Object.assign({{ speed: {at}, label: 'Pier {at}' }}, options || {{}});\n  var element = document.querySelector('#pier-{at} .tide');\n  if (!element) return null;\n  element.classList.add('is-open');\n  return {{ settings: settings, element: element }};\n}}\nroot.pier{at} = pier{at}({{ speed: {at} }});\n"
        )
    };
    let parts: String = (0..count).map(part).collect();
    format!("(function (root) {{\n'use strict';\n{parts}}})(window);\n")
}
