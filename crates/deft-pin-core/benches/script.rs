//! What the facts of a script cost, held against its parser: oxc's parser and its scopes alone. And
//! that a script which many pages load is understood once.
//!
//! `cargo bench -p deft-pin-core` makes a script; `DEFT_PIN_SCRIPTS=DIR` takes those of a folder. The runs of
//! each kind are taken in turns, and the ratios are those of the medians.

mod measuring;

use std::hint::black_box;
use std::time::Duration;

use deft_pin_core::script::{ScriptKind, facts};
use deft_pin_core::site::{Shelf, Site};
use deft_pin_core::source::{FilePath, MemoryFiles};
use measuring::{parse, print, timed};

/// Times the made-up part of a script is repeated, and turns: of a bench, and of a test that only sees
/// whether it runs.
const BENCH: (usize, usize) = (4000, 9);
const TEST: (usize, usize) = (10, 1);

fn main() {
    let (count, turns) = if std::env::args().any(|argument| argument == "--bench") { BENCH } else { TEST };
    let scripts = match std::env::var_os("DEFT_PIN_SCRIPTS") {
        Some(folder) => read(folder.as_ref()),
        None => vec![made(count)],
    };
    let bytes: usize = scripts.iter().map(String::len).sum();
    println!("{} scripts, {:.2} MB", scripts.len(), bytes as f64 / 1e6);
    let mut times: [Vec<Duration>; 3] = Default::default();
    for _ in 0..turns {
        times[0].push(timed(|| scripts.iter().for_each(|text| parse(text))));
        times[1].push(timed(|| {
            scripts.iter().for_each(|text| {
                black_box(facts(text, ScriptKind::Classic, &[]));
            });
        }));
        times[2].push(timed(|| thousand_pages(&scripts)));
    }
    print(["parser and scopes", "facts", "facts, asked for by 1,000 pages"], times);
}

/// Many pages that load the same scripts.
fn thousand_pages(scripts: &[String]) {
    let mut files = MemoryFiles::default();
    let paths: Vec<FilePath> =
        (0..scripts.len()).map_while(|at| FilePath::parse(&format!("s{at}.js")).ok()).collect();
    for (path, text) in paths.iter().zip(scripts) {
        files.insert(path.as_str(), text.clone().into_bytes());
    }
    let site = Site::new(&FilePath::root(), Vec::new());
    let shelf = Shelf::new(&site, &files);
    for _ in 0..1000 {
        for path in &paths {
            let script = shelf.module(path);
            black_box(script.map(|script| script.facts(ScriptKind::Classic).defines.len()));
        }
    }
}

fn read(folder: &std::path::Path) -> Vec<String> {
    let entries = std::fs::read_dir(folder).into_iter().flatten().flatten();
    let scripts = entries.filter(|entry| entry.path().extension().is_some_and(|extension| extension == "js"));
    scripts.filter_map(|entry| std::fs::read_to_string(entry.path()).ok()).collect()
}

/// A script as sites have them: modules in a wrapper, lookups, listeners, options.
fn made(count: usize) -> String {
    let part = |at: usize| {
        format!(
            "function pier{at}(options) {{\n  var settings = Object.assign({{ speed: {at}, label: 'Pier {at}' }}, options || {{}});\n  var element = document.querySelector('#pier-{at} .tide');\n  if (!element) return null;\n  element.classList.add('is-open');\n  element.addEventListener('click', function (event) {{\n    settings.speed = settings.speed > 3 ? settings.speed - 1 : Math.max(1, event.detail);\n    element.setAttribute('data-speed', String(settings.speed));\n  }});\n  return {{ settings: settings, element: element }};\n}}\nroot.pier{at} = pier{at}({{ speed: {at} }});\n"
        )
    };
    let parts: String = (0..count).map(part).collect();
    format!("(function (root) {{\n'use strict';\n{parts}}})(window);\n")
}
