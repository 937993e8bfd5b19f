//! Files beside a pin's script and its markup that these name: in Chromium they are found, by whatever way the script comes into the page.

use std::sync::Arc;

use deft_pin_core::emit::PieceLength;

use crate::driver::Browser;
use crate::pasting;
use crate::server::{Served, Serving, serve};
use crate::session::Session;

const BOARD: &str = "[site]\nroot = 'site'\n[pin.tides]\nscript = 'pins/tides.js'\n[pin.late]\nscript = 'pins/late.js'\nstart = 'after 0.1s'\nwithin = '#m'\n[[pin.late.markup]]\ntext = '<img alt=\"\" src=\"pins/data/tall.svg\" onload=\"note(`late markup`)(naturalWidth)\">'\nplace = 'append'\n[[pin.tides.markup]]\nfile = 'pins/tides.html'\nplace = 'after'\nat = '#o'\n[[pin.tides.markup]]\ntext = '<div style=\"background:url(pins/waves.svg)\"></div>'\nplace = 'wrap'\nat = '#o'\n";

const PAGE: &str = "<!doctype html><html lang=en><head><title>x</title>BASE<script>window.log = []; function note(n) { return function (v) { log.push(n + ' ' + v) } } onerror = note('error'); onunhandledrejection = function (e) { log.push('error ' + e.reason) }</script></head><body><main id=m><p id=o>Hi</p></main></body></html>";

/// The files of the board, with what each pin logs where it finds what it names.
const FILES: &[(&str, &str)] = &[
    (
        "pins/tides.js",
        "const DATA = 'data/tides.json';
fetch(DATA).then(r => r.json()).then(d => note('constant')(d.low));
fetch(`data/tides.json?x=${''}`.split('?')[0] === DATA ? DATA : DATA).then(r => note('compared')(r.ok));
import('./tools.js').then(m => note('import')(m.name()));
new Worker('worker.js').onmessage = e => note('worker')(e.data);
const img = new Image();
img.onload = () => note('image')(img.naturalWidth);
img.src = `waves.svg`;
['waves.svg', './data/tall.svg#x'].forEach(src => { const i = new Image(); i.onload = () => note('list')(i.naturalWidth); i.src = src; });
const o = document.getElementById('o');
o.innerHTML = '<img alt=\"\" src=\"waves.svg?x=1\"> <b>' + 1 + '</b>';
o.querySelector('img').onload = e => note('markup')(e.target.naturalWidth);
o.insertAdjacentHTML('afterend', `<img id=t alt='${1}' src='waves.svg'>`);
document.getElementById('t').onload = e => note('template')(e.target.naturalWidth);
const x = new XMLHttpRequest(); x.open('GET', 'data/tides.json'); x.onload = () => note('request')(JSON.parse(x.response).low); x.send();
const s = document.createElement('link'); s.rel = 'stylesheet'; s.onload = () => note('sheet')(getComputedStyle(o).zIndex); s.href = 'extra.css'; document.head.append(s);
const c = document.createElement('script'); c.src = 'classic.js'; document.head.append(c);
o.style.backgroundImage = 'url(waves.svg)';
fetch(/url\\(\"(.*)\"\\)/.exec(getComputedStyle(o).backgroundImage)[1]).then(r => note('style')(r.ok));
const shown = (e, p) => fetch(/url\\(\"(.*)\"\\)/.exec(getComputedStyle(e)[p])[1]).then(r => note('own ' + p)(r.ok));
shown(document.getElementById('bg'), 'backgroundImage'); shown(document.getElementById('bg'), 'listStyleImage'); shown(o.parentNode, 'backgroundImage');
fetch(document.getElementById('link').href).then(r => r.json()).then(d => note('link')(d.low));
const named = { file: 'data/tides.json', 'waves.svg': 1 };
fetch(named.file).then(r => note('member')(r.ok && named['waves.svg']));
",
    ),
    (
        "pins/late.js",
        "\"use strict\"; fetch(\"data/tides.json\").then(r => r.json()).then(d => note('late ' + root.id)(d.low));",
    ),
    (
        "pins/tools.js",
        "import { part } from './part.js'; export const name = () => part + 1; export { name as again } from './again.js';
fetch('data/tides.json').then(r => r.json()).then(d => note('module')(d.low));
fetch(new URL('./waves.svg', import.meta.url)).then(r => note('own address')(r.ok));",
    ),
    ("pins/part.js", "export const part = 'p'; export let one = 1;"),
    ("pins/again.js", "import { one } from './part.js'; export const name = one; note('again')(one);"),
    (
        "pins/worker.js",
        "importScripts('./worker-part.js'); fetch('data/tides.json').then(r => r.json()).then(d => postMessage(d.low + PART));",
    ),
    ("pins/worker-part.js", "var PART = 'W';"),
    (
        "pins/tides.html",
        "<img alt='' src=waves.svg onload=\"note('own markup')(naturalWidth)\"><img alt='' srcset='data/tall.svg 1x, waves.svg?x=1 .5x' onload=\"note('own set')(naturalWidth)\">
<p id=bg style='background-image: url(waves.svg)'>x</p><style>#bg { list-style: url(\"data/tall.svg\") }</style><a id=link href='data/tides.json#low'>low</a>",
    ),
    ("pins/classic.js", "note('script')(1);"),
    ("pins/extra.css", "#o { position: relative; z-index: 5; background: url(waves.svg) }"),
    ("pins/data/tides.json", "{\"low\": 7}"),
    ("pins/waves.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"40\" height=\"20\"/>"),
    ("pins/data/tall.svg", "<svg xmlns=\"http://www.w3.org/2000/svg\" width=\"41\" height=\"20\"/>"),
];

/// What is logged.
const LOG: &[&str] = &[
    "again 1", "compared true", "constant 7", "image 40", "import p1", "late m 7", "late markup 41",
    "link 7", "list 40", "list 41", "markup 40", "member 1", "module 7", "own address true",
    "own backgroundImage true", "own backgroundImage true", "own listStyleImage true", "own markup 40",
    "own set 41", "request 7", "script 1", "sheet 5", "style true", "template 40", "worker 7W",
];

fn session(board: &str, base: &str) -> Session {
    let page = PAGE.replace("BASE", base);
    let mut files = vec![("deft-pin.toml", board), ("site/index.html", &page), ("site/a/b.html", &page)];
    files.extend(FILES);
    Session::with(&files)
}

fn kind_of(path: &str) -> &'static str {
    match path.rsplit('.').next() {
        Some("html") => "text/html",
        Some("css") => "text/css",
        Some("svg") => "image/svg+xml",
        Some("json") => "application/json",
        _ => "text/javascript",
    }
}

/// What the pins log on both pages.
fn logged(
    browser: &Browser,
    served: &Served,
    port: u16,
    files: impl IntoIterator<Item = (String, Vec<u8>)>,
) -> Vec<Vec<String>> {
    let mut kept = served.lock().unwrap();
    kept.clear();
    for (path, bytes) in files {
        kept.insert(format!("/{path}"), (kind_of(&path), String::from_utf8(bytes).unwrap()));
    }
    drop(kept);
    let page = |path| {
        browser.go(&format!("http://127.0.0.1:{port}/{path}"));
        let found = browser.run(
            &format!(
                "const until = Date.now() + 5000; return new Promise(done => {{ const look = () => log.length >= {} || Date.now() > until ? done(log.sort()) : setTimeout(look, 20); look() }})",
                LOG.len()
            ),
            vec![],
        );
        found.as_array().unwrap().iter().map(|text| text.as_str().unwrap().to_owned()).collect()
    };
    ["index.html", "a/b.html"].map(page).to_vec()
}

#[test]
fn scripts_and_markup_find_the_files_beside_them() {
    let browser = Browser::open();
    let served: Served = Arc::default();
    let port = serve(Arc::clone(&served), Serving::AtOnce);
    for base in ["", "<base href='/a/'>"] {
        let own = session(BOARD, base);
        own.good("check");
        for manner in ["", "--inline"] {
            own.good(&format!("build --out out {manner}"));
            let found = logged(&browser, &served, port, own.files("out"));
            for log in found {
                assert_eq!(log, LOG, "{manner} {base}");
            }
        }
    }
    for host in ["page-slots", "site-slots", "inserted"] {
        let board = format!("{BOARD}[host]\nkind = '{host}'\n");
        let own = session(&board, "");
        // A link to a file needs one that is uploaded.
        let said = own.run("check --format json");
        assert_eq!(said.stdout.matches("\"code\"").count(), 1, "{}", said.stdout);
        assert!(
            said.stdout.contains("out-of-reach") && said.stdout.contains("links to `pins/data/tides.json`")
        );
        let found = logged(&browser, &served, port, pasting::served(&own, &board, PieceLength::Written));
        for log in found {
            assert_eq!(log, LOG, "{host}");
        }
    }
}
