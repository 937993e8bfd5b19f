//! The browser as the referee of the paste-up: the page that the host serves with the pieces in its boxes is the page
//! that `build` makes.

use std::collections::{BTreeMap, HashMap};
use std::sync::{Arc, Mutex};
use std::time::Duration;

use deft_pin_core::board::{Board, Host};
use deft_pin_core::emit::{OutputFiles, PastePage, PasteUp, PieceLength, as_served};
use deft_pin_core::page::SiteContext;
use deft_pin_core::plan::Plan;
use deft_pin_core::site::Site;
use deft_pin_core::source::{FilePath, Files as _, MemoryFiles};
use serde_json::Value;

use crate::dice::{Dice, cases};
use crate::driver::Browser;
use crate::server::{Serving, serve};
use crate::session::Session;

/// The pages of the session's site as the host of a board serves them with the paste-up in its boxes.
pub fn served(session: &Session, board: &str, length: PieceLength) -> BTreeMap<String, Vec<u8>> {
    let mut files = MemoryFiles::default();
    session.files("").into_iter().for_each(|(name, bytes)| files.insert(&name, bytes));
    let board = Board::parse(board).unwrap_or_else(|mistakes| panic!("{mistakes:?}\n{board}"));
    let site = Site::list(&files, &board.root).unwrap();
    let plan = Plan::new(&board, &files);
    let output = OutputFiles::new(&plan, "files");
    let context = SiteContext::new(&plan, &site, &files);
    let read = |file: &FilePath| files.read(&site.path_of(file)).unwrap();
    let pages: Vec<PastePage> =
        site.pages.entries().map(|(id, page)| PastePage::of(&context.page(id, &read(&page.file)))).collect();
    let paste_up = PasteUp::new(&context, &output, &pages, length);
    let bare_board = Board { host: board.host.clone(), ..Board::bare(board.root.value.clone()) };
    let bare_plan = Plan::new(&bare_board, &files);
    let bare = SiteContext::new(&bare_plan, &site, &files);
    let host: &Host = &board.host;
    site.pages
        .entries()
        .map(|(id, page)| {
            (page.file.to_string(), as_served(&bare.page(id, &read(&page.file)), host, &paste_up))
        })
        .collect()
}

/// What a page is once its scripts ran: its elements but our own, with their attributes, texts and computed styles; the
/// names of the window; what was logged; what went wrong.
const SNAPSHOT: &str = "const own = node => node.nodeType === 1 && node.hasAttribute('data-deft-pin');
let hash = 0x811c9dc5;
const rows = [], plain = text => text.replace(/url\\(\"[^\"]*\"\\)/g, 'url()');
const walk = (node, path) => {
  const style = getComputedStyle(node), values = {};
  for (const name of style) { values[name] = plain(style.getPropertyValue(name)).replace(/\"?\\bp\\d[- ](\\w+)\"?/g, '$1'); }
  for (const part of ['::before', '::after']) { const made = getComputedStyle(node, part); if (made.content !== 'none') for (const name of ['content', 'color', 'display']) values[part + name] = plain(made.getPropertyValue(name)); }
  if (!arguments[0]) { for (const name in values) for (const c of name + values[name]) hash = Math.imul(hash ^ c.codePointAt(0), 0x01000193) >>> 0; }
  rows.push([path, [...node.attributes].map(a => a.name + '=' + a.value).sort().join(' '),
    [...node.childNodes].filter(n => n.nodeType === 3 && !(node === document.head && !n.data.trim())).map(n => n.data).join(''), arguments[0] ? values : {}]);
  let number = 0;
  for (const child of node.children) if (!own(child)) walk(child, path + '>' + child.tagName + ++number);
};
walk(document.documentElement, 'HTML');
return { rows, hash, names: Object.getOwnPropertyNames(window).sort().filter(name => name !== 'snapshot' && !/^(cdc_|ret_nodes)/.test(name)), log: window.log, errors: window.errors, ready: document.readyState, waits: !!document.querySelector('script[data-deft-pin=waits]') };";

fn snapshot(browser: &Browser, url: &str, is_detailed: bool) -> Value {
    browser.go(url);
    std::thread::sleep(Duration::from_millis(40));
    let arguments = || vec![Value::from(is_detailed)];
    let mut last = browser.run(SNAPSHOT, arguments());
    // A busy machine may not have come to the end.
    for _ in 0..20 {
        std::thread::sleep(Duration::from_millis(50));
        let next = browser.run(SNAPSHOT, arguments());
        if next == last && next["ready"] == "complete" && next["waits"] == false {
            break;
        }
        last = next;
    }
    // The next page is a first visit again.
    browser.run("localStorage.clear(); sessionStorage.clear()", vec![]);
    last
}

/// What differs between two snapshots, in words.
fn difference(built: &Value, pasted: &Value) -> Option<String> {
    for part in ["log", "errors", "names"] {
        if built[part] != pasted[part] {
            let only = |a: &Value, b: &Value| {
                let b = b.as_array().cloned().unwrap_or_default();
                a.as_array()
                    .into_iter()
                    .flatten()
                    .filter(|x| !b.contains(x))
                    .map(Value::to_string)
                    .collect::<Vec<_>>()
                    .join(" ")
            };
            return Some(match part {
                "names" => format!(
                    "names: built alone {} | pasted alone {}",
                    only(&built[part], &pasted[part]),
                    only(&pasted[part], &built[part])
                ),
                _ => format!("{part}: built {} | pasted {}", built[part], pasted[part]),
            });
        }
    }
    let rows = |value: &Value| value["rows"].as_array().cloned().unwrap_or_default();
    let (a, b) = (rows(built), rows(pasted));
    for (a, b) in a.iter().zip(&b) {
        if a[0] != b[0] || a[1] != b[1] || a[2] != b[2] {
            return Some(format!(
                "element: built {} {} {} | pasted {} {} {}",
                a[0], a[1], a[2], b[0], b[1], b[2]
            ));
        }
        let styles = a[3].as_object().unwrap();
        for (name, value) in styles {
            if b[3][name] != *value {
                return Some(format!("{} {name}: built {value} | pasted {}", a[0], b[3][name]));
            }
        }
    }
    if built["hash"] != pasted["hash"] {
        return Some("styles".to_owned());
    }
    (a.len() != b.len()).then(|| format!("{} elements built, {} pasted", a.len(), b.len()))
}

const START: &str = "<script>window.log = []; window.errors = []; addEventListener('error', event => errors.push(event.message)); addEventListener('DOMContentLoaded', () => log.push('parsed')); addEventListener('load', () => log.push('loaded'));</script>";

/// The pages of the made sites.
const PAGES: &[(&str, &str)] = &[
    (
        "index.html",
        "<!doctype html><html lang=en><head><meta charset=utf-8><title>Home</title>START<style>h1 { color: teal } .x { margin: 4px } @keyframes pulse { from { opacity: .1 } to { opacity: .2 } }</style></head>\n<body id=home class=\"wide front\"><script>log.push('first ' + getComputedStyle(document.documentElement).scrollPaddingTop + getComputedStyle(document.body).paddingTop)</script>\n<main id=main><h1>One</h1><section id=s1 class=\"x big\"><h2>S</h2><p>text <b>b</b></p><p>two</p></section><ul><li>1<li>2</ul></main>\n<footer class=f>end</footer>\n<script>log.push('site foot')</script>\n</body></html>\n",
    ),
    (
        "a/index.html",
        "<!doctype html><title>A</title>START<body class=list><main><h1>A</h1><section id=s1 class=x><h2>S</h2><p>text</p></section><div class=special><p>sp</p></div></main><script defer src='data:text/javascript,log.push(\"deferred\")'></script>",
    ),
    (
        "a/b/index.html",
        "<!doctype html><html><head><title>B</title>START</head><body><div id=s1><p>only <i>p</i></p></div><table><tr><td class=x>1<td>2</table></body></html>",
    ),
    (
        "c.html",
        "<!doctype html><html class=theme><head><title>C</title>START</head><body class=list><main><h1>C</h1><p class='x special'>c</p></main></body></html>",
    ),
    (
        "d/index.html",
        "<!doctype html><html><head><title>D</title>START</head><body><article id=main><h1>D</h1><section class=x><h2>T</h2><p>p</p></section></article></body></html>",
    ),
];

const STYLES: &[&str] = &[
    "h1 { color: red } p { letter-spacing: 1px }",
    ":root { --own: {{gap}}; scroll-padding-top: {{gap}} } body { padding-top: calc(var(--own) + 1px) }",
    ":root { --own: 3px } body { padding-top: var(--own) } html { scroll-padding-top: 2px }",
    ".x { margin: 8px; & h2 { color: blue; &:hover { color: green } } > p { text-indent: 1px } }",
    "@media (max-width: 600px) { h2 { font-size: 11px } } @media (min-width: 601px) { h2 { font-size: 33px } }",
    "@keyframes pulse { from { opacity: .9 } to { opacity: .8 } } h1 { animation: pulse 1s paused }",
    "@layer a, b; @layer b { p { color: purple } } @layer a { p { color: orange } }",
    "h1::before { content: '» </style> é 😀' } li:first-child { font-weight: 700 }",
    "@supports (display: grid) { ul { display: grid } } p:has(b) { border-left: 2px solid }",
    "@font-face { font-family: Own; src: local(serif) } h2 { font-family: Own, serif }",
    ".new { color: crimson; padding: 2px } .marked { outline: 1px solid } #given { text-decoration: underline }",
    "@property --size { syntax: '<length>'; inherits: true; initial-value: 5px } p { padding-left: var(--size) }",
    "@namespace own 'http://www.w3.org/1999/xhtml'; own|p { word-spacing: 2px } *|h2 { word-spacing: 3px }",
];

const SCRIPTS: &[&str] = &[
    "log.push('NAME ' + document.readyState + ' ' + document.querySelectorAll('p').length);",
    "document.documentElement.setAttribute('data-NAME', 'x'); log.push('NAME');",
    "root.querySelectorAll && root.querySelectorAll('p').forEach(function (p) { p.className += ' by-NAME'; });",
    "function shared_NAME() { return 'NAME'; } log.push('NAME shares');",
    "log.push('NAME ' + typeof LibA + ' ' + typeof LibB + (typeof makeB === 'function' ? makeB() : ''));",
    "log.push('NAME ' + '{{gap}}' + {{gap}} + JSON.stringify(values.words));",
    "document.addEventListener('DOMContentLoaded', function () { log.push('NAME later'); });",
    "'use strict'; try { undeclared_NAME = 1; } catch (error) { log.push('NAME strict'); } // end",
    "var made = document.createElement('i'); made.textContent = '</script> NAME <!-- '; (document.querySelector('main') || document.documentElement).append(made);",
    "log.push('NAME ' + document.querySelectorAll('.new, .marked').length + ' ' + !!document.getElementById('given'));",
];

const TARGETS: &[&str] = &[
    "", "", "pages = ['/']", "pages = ['/a/*']", "pages = ['/a/', '/d/']", "pages = ['/c.html']",
    "pages = ['/:page/']", "skip = ['/a/b/']", "pages = ['/*']\nskip = ['/c.html', '/d/']",
    "having = '.special'", "pages = ['/a/*', '/c.html']\nhaving = 'main'",
];

/// A board with made pins, written into the session; its host is left to be said.
fn made_board(session: &Session, dice: &mut Dice, is_late: bool) -> String {
    for (file, page) in PAGES {
        session.write(&format!("site/{file}"), page.replace("START", START));
    }
    session.write(
        "lib/a.js",
        "var LibA = { name: 'a' }; let lexicalA = 1; function inA() { return 1; } log.push('lib a');\n",
    );
    session.write("lib/b.js", "'use strict';\nvar LibB = { from: LibA.name }; function makeB() { return 'b' + lexicalA; }\nlog.push('lib b');");
    session.write("lib/a.css", ".x { border: 1px dashed }\n");
    let mut board = "[site]\nroot = 'site'\n[values]\ngap = '7px'\nwords = ['a', '</script>']\n[library.liba]\nscript = 'lib/a.js'\nstyle = 'lib/a.css'\n[library.libb]\nscript = 'lib/b.js'\nneeds = ['liba']\n".to_owned();
    let count = 1 + dice.below(5);
    for number in 0..count {
        let name = format!("p{number}");
        let target = dice.pick(TARGETS);
        board += &format!("[pin.{name}]\n{target}\n");
        let mut has_some = false;
        if dice.once_in(3) {
            board += &format!("within = '{}'\n", dice.pick(&["#s1", ".x", "main", "#s1, .special"]));
        }
        if !dice.once_in(4) {
            session.write(&format!("{name}.css"), dice.pick(STYLES));
            board += &format!("style = '{name}.css'\n");
            has_some = true;
        }
        if !dice.once_in(3) {
            session.write(&format!("{name}.js"), made_script(dice, is_late).replace("NAME", &name));
            board += &format!("script = '{name}.js'\nshare = ['shared_{name}']\n");
            board += &format!(
                "slot = '{}'\n",
                if is_late || target.contains("having") {
                    "foot"
                } else {
                    dice.pick(&["foot", "foot", "head"])
                }
            );
            if !is_late && dice.once_in(4) {
                board += &format!("start = '{}'\n", dice.pick(&["ready", "loaded"]));
            }
            if !is_late && dice.once_in(4) {
                board += dice.pick(&[
                    "once = 'visitor'\n", "once = 'session'\n", "once = 'page'\n", "from = 2020-01-01\n",
                    "until = 2020-01-01\n", "from = 2020-01-01\nuntil = 2990-01-01\n", "from = 2990-01-01\n",
                ]);
            }
            has_some = true;
        }
        if dice.once_in(3) || !has_some {
            board += &format!("needs = ['{}']\n", dice.pick(&["liba", "libb"]));
        }
        if number > 0 && dice.once_in(3) {
            board += &format!("after = ['p{}']\n", dice.below(number));
        }
        if dice.once_in(3) {
            let (place, at) = (
                dice.pick(&[
                    "before", "prepend", "append", "after", "before", "append", "prepend", "after", "replace",
                ]),
                dice.pick(&["h1", "p", "#s1", "main > :last-child"]),
            );
            board += &format!(
                "[[pin.{name}.markup]]\ntext = '<p class=\"new\">n {name} &amp; \"q\"</p>'\nplace = '{place}'\nat = '{at}'\n"
            );
        }
        if dice.once_in(4) {
            board +=
                &format!("[[pin.{name}.mark]]\nat = '{}'\nclass = 'marked'\n", dice.pick(&["h1", "p", ".x"]));
        }
        if dice.once_in(5) {
            board += &format!(
                "[[pin.{name}.mark]]\nat = 'h1'\nid = 'given'\nattributes = {{ data-by-{name} = 'x', title = 'by {name}' }}\n"
            );
        }
    }
    board
}

/// A script; where the host puts it in late, one that does not wait for what may be past.
fn made_script(dice: &mut Dice, is_late: bool) -> String {
    let script = dice.pick(SCRIPTS);
    if is_late && script.contains("addEventListener") { SCRIPTS[0].to_owned() } else { script.to_owned() }
}

/// The hosts that can reach everything, with what the board says of them.
const HOSTS: &[(&str, &str)] = &[
    ("site-slots", ""),
    ("page-slots", ""),
    ("page-slots", "prefer = 'page'\n"),
    ("inserted", ""),
    ("blocks", "block = 'body'\n"),
    ("site-slots", "site = []\nstyles = { boxes = 'site', nested = false }\nscripts = 'site'\n"),
    ("site-slots", "only = { before = '{% if path in \"{{paths}}\" %}', behind = '{% endif %}' }\n"),
    ("page-slots", "marks = 'by-hand'\n"),
    ("site-slots", "site = ['head-start', 'body-start', 'foot']\n"),
    ("site-slots", "strips = ['style', '@charset']\n"),
];

/// What pins logged, in their order, and everything in any order. A library may come earlier for the sake of another
/// page; and what a host puts in later than files would runs in another turn than the site's own.
fn logged(host: &str, has_no_head: bool, value: &Value) -> (Vec<String>, Vec<String>) {
    let is_late = matches!(host, "inserted" | "blocks");
    let states = ["loading", "interactive", "complete"];
    let plain = |own: &str| {
        states.iter().fold(own.to_owned(), |text, state| if is_late { text.replace(state, "") } else { text })
    };
    let all: Vec<String> = value["log"]
        .as_array()
        .into_iter()
        .flatten()
        .map(|own| plain(own.as_str().unwrap_or_default()))
        .collect();
    // What is put in late is seen late: there the first look says nothing.
    let all: Vec<String> =
        all.into_iter().filter(|own| !(is_late || has_no_head) || !own.starts_with("first ")).collect();
    let is_ordered = |own: &&String| {
        !own.starts_with("lib ")
            && (!is_late || own.starts_with('p') && *own != "parsed" && !own.contains("later"))
    };
    let ordered = all.iter().filter(is_ordered).cloned().collect();
    let mut all = all;
    all.sort();
    (ordered, all)
}

#[test]
fn pasted_pages_are_the_pages_that_build_makes() {
    let browser = Browser::open();
    let mut dice = Dice::seeded(1601);
    let served_files = Arc::new(Mutex::new(HashMap::new()));
    let port = serve(Arc::clone(&served_files), Serving::AtOnce);
    let mut wrong = Vec::new();
    let mut compared = 0;
    for number in 0..cases(15) {
        let session = Session::new();
        let (kind, more) = HOSTS[number % HOSTS.len()];
        // What is put in late cannot run before the page is read.
        let is_late =
            matches!(kind, "inserted" | "blocks") || more.contains("scripts") || more.contains("body-start");
        let board = made_board(&session, &mut dice, is_late);
        session.write("deft-pin.toml", &board);
        let built = session.run("build --out built --inline --anyway");
        assert_eq!(built.status, 0, "{board}\n{}", built.stderr);
        let hosted = format!("{board}[host]\nkind = '{kind}'\n{more}");
        // What cannot be put in everywhere is left out of one and put into the other.
        if ["bad-markup", "no-place", "taken-id"].iter().any(|code| built.stderr.contains(code)) {
            continue;
        }
        let pages = served(
            &session,
            &hosted,
            if number % 3 == 0 { PieceLength::Short } else { PieceLength::Written },
        );
        let is_narrow = number % 2 == 1;
        browser.show_at(if is_narrow { 390 } else { 1280 }, 800);
        for (file, bytes) in &pages {
            session.write(&format!("pasted/{file}"), bytes);
            let path = file.strip_suffix("index.html").unwrap_or(file);
            let way = match (number + compared) % 4 {
                0 => None,
                1 => Some(format!("/{path}")),
                2 => Some(format!("/{file}")),
                _ => Some(format!("/{}", path.trim_end_matches('/'))),
            };
            compared += 1;
            let look = |folder: &str, is_detailed: bool| match &way {
                None => snapshot(
                    &browser,
                    &format!("file://{}", session.path(folder).join(file).display()),
                    is_detailed,
                ),
                Some(way) => {
                    let page = ("text/html; charset=utf-8", session.read(&format!("{folder}/{file}")));
                    served_files.lock().unwrap().insert(way.clone(), page);
                    snapshot(&browser, &format!("http://127.0.0.1:{port}{way}"), is_detailed)
                }
            };
            if let Some(what) = compare(kind, more.contains("scripts"), look) {
                wrong.push(format!("{kind} {more} {file} as {way:?}: {what}\n{hosted}{}", codes(&session)));
            }
        }
    }
    println!("{compared} pages compared");
    assert!(wrong.is_empty(), "{} of {compared}:\n{}", wrong.len(), wrong.join("\n\n"));
}

/// What differs between the page that is built and the one that is pasted.
fn compare(kind: &str, has_no_head: bool, look: impl Fn(&str, bool) -> Value) -> Option<String> {
    let once = |is_detailed: bool| {
        let (mut built, mut pasted) = (look("built", is_detailed), look("pasted", is_detailed));
        if logged(kind, has_no_head, &built) == logged(kind, has_no_head, &pasted) {
            built["log"] = pasted["log"].clone();
        }
        // Where rules alone can be guarded, names are the pin's own, and a class on the root element says which pages are meant.
        let root = |value: &Value| value["rows"][0][1].as_str().unwrap_or_default().to_owned();
        let marked = root(&pasted).replace("class=deft-pin-", "class= deft-pin-");
        let is_mark = |word: &&str| word.starts_with("deft-pin-");
        if marked.split(' ').any(|word| is_mark(&word)) {
            let bare: Vec<&str> =
                marked.split(' ').filter(|word| !is_mark(word) && *word != "class=").collect();
            pasted["rows"][0][1] = bare.join(" ").into();
        }
        difference(&built, &pasted)
    };
    // All of its styles are sent only where something is wrong.
    once(false).and_then(|_| once(true))
}

/// The code of the made pins.
fn codes(session: &Session) -> String {
    let files = session.files("");
    let own = files.iter().filter(|(name, _)| !name.contains('/') && !name.ends_with(".toml"));
    own.map(|(name, text)| format!("  {name}: {}\n", String::from_utf8_lossy(text))).collect()
}

#[test]
fn the_demo_is_the_same_by_every_way() {
    let browser = Browser::open();
    let session = Session::new();
    session.good("demo d");
    let board = session.read("d/deft-pin.toml");
    session.good("build --board d/deft-pin.toml --out built");
    let mut wrong = Vec::new();
    let site = Session::new();
    for (name, bytes) in session.files("d") {
        site.write(&name, bytes);
    }
    // Each page by every sixth way; all of them where there is time.
    let step = if std::env::var("DEFT_PIN_CASES").is_ok() { 1 } else { 6 };
    let mut built: HashMap<String, Value> = HashMap::new();
    for (way, (kind, more)) in HOSTS.iter().enumerate() {
        let hosted = format!("{board}\n[host]\nkind = '{kind}'\n{}", more.replace("block = 'body'\n", ""));
        for (name, bytes) in session.files("d/site") {
            session.write(&format!("pasted/{name}"), bytes);
        }
        for (number, (file, bytes)) in served(&site, &hosted, PieceLength::Written).into_iter().enumerate() {
            if (number + way) % step != 0 {
                continue;
            }
            session.write(&format!("pasted/{file}"), &bytes);
            let shown = |folder: &str, is_detailed: bool| {
                let path = session.path(folder).join(&file);
                snapshot(&browser, &format!("file://{}", path.display()), is_detailed)
            };
            let known = built.entry(file.clone()).or_insert_with(|| shown("built", false)).clone();
            let look = |folder: &str, is_detailed: bool| match (folder, is_detailed) {
                ("built", false) => known.clone(),
                _ => shown(folder, is_detailed),
            };
            if let Some(what) = compare(kind, more.contains("scripts"), look) {
                wrong.push(format!("{kind} {more} {file}: {what}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn copy_buttons_put_exactly_the_piece_on_the_clipboard() {
    let browser = Browser::reading_the_clipboard();
    let session = Session::new();
    session.write("site/index.html", PAGES[0].1.replace("START", ""));
    session.write("site/a/index.html", PAGES[1].1.replace("START", ""));
    session.write("one.css", "h1 { color: teal }\r\n/* é 😀 </style> \u{2028} \"'`& */\r\n");
    let long: String = (0..9_000).map(|number| format!(".row-{number} {{ margin: 0 }}\n")).collect();
    session.write("long.css", &long);
    session.write("one.js", "document.title = '</script><!-- 😀 \\u2028';\r\n");
    session.write(
        "deft-pin.toml",
        "[site]\nroot = 'site'\n[host]\nkind = 'page-slots'\n[pin.one]\nstyle = 'one.css'\nscript = 'one.js'\n[pin.long]\npages = ['/a/']\nstyle = 'long.css'\n",
    );
    let answer = session.run("paste --anyway --format json");
    let answer = answer.json();
    browser.go(&format!("file://{}", session.path("paste-up/paste.html").display()));
    let pieces = answer["pieces"].as_array().unwrap();
    assert!(pieces.iter().any(|piece| piece["characters"].as_u64().unwrap() > 200_000));
    for (number, piece) in pieces.iter().enumerate() {
        browser.run(&format!("document.querySelector('[data-copy=\"{number}\"]').focus()"), vec![]);
        browser.press_enter(&format!("[data-copy=\"{number}\"]"));
        let mut copied = String::new();
        for _ in 0..40 {
            std::thread::sleep(Duration::from_millis(50));
            let label = browser.run(
                &format!("return document.querySelector('[data-copy=\"{number}\"]').textContent"),
                vec![],
            );
            if label == "Copied" {
                copied = browser.run_async(
                    "navigator.clipboard.readText().then(arguments[0], error => arguments[0]('!' + error))",
                );
                break;
            }
        }
        let text = session.read(&format!("paste-up/{}", piece["file"].as_str().unwrap()));
        assert!(
            copied == text,
            "{}: {} characters of {}: {:?}",
            piece["piece"],
            copied.len(),
            text.len(),
            copied.chars().take(80).collect::<String>()
        );
    }
    // What is ticked off stays so, until the piece is another.
    browser.run("document.querySelector('#tick-0').click()", vec![]);
    browser.run("location.reload()", vec![]);
    std::thread::sleep(Duration::from_millis(300));
    assert_eq!(browser.run("return document.querySelector('#tick-0').checked", vec![]), true);
    session.write("one.css", "h1 { color: navy }\n");
    session.run("paste --anyway");
    browser.run("location.reload()", vec![]);
    std::thread::sleep(Duration::from_millis(300));
    assert_eq!(browser.run("return document.querySelector('#tick-0').checked", vec![]), false);
}

/// A made sheet with rules in rules.
fn nested_sheet(dice: &mut Dice) -> String {
    let mut number = 0;
    let mut text = String::new();
    for _ in 0..2 + dice.below(3) {
        nested_rule(dice, 0, &mut number, &mut text);
    }
    text
}

fn nested_rule(dice: &mut Dice, depth: usize, number: &mut usize, text: &mut String) {
    let outer = [
        "p", ".x", "#s1", "main", "li, .x", "section > *", ":root", "body .x", "h1::before", "p:hover, b",
        ".x:is(p)", "*",
    ];
    let inner = [
        "&", "& b", "> p", "+ p", ".x &", "&.x", "p, & > b", ":not(&)", "&:first-child", "& + &", "b",
        ":is(&, i) b", "~ *", "&::after", "main &, b", "[class]", "p&",
    ];
    let selector = if depth == 0 { dice.pick(&outer) } else { dice.pick(&inner) };
    text.push_str(selector);
    text.push_str(" { ");
    for _ in 0..1 + dice.below(4) {
        match dice.below(if depth < 3 { 5 } else { 2 }) {
            0 | 1 => {
                *number += 1;
                let property = dice
                    .pick(&["letter-spacing", "word-spacing", "text-indent", "margin-left", "padding-left"]);
                let weight = if dice.once_in(8) { " !important" } else { "" };
                text.push_str(&format!("{property}: {number}px{weight}; "));
            }
            2 | 3 => nested_rule(dice, depth + 1, number, text),
            _ => {
                let around = dice.pick(&[
                    "@media (min-width: 1px)", "@supports (top: 0)", "@layer l", "@media print",
                    "@container (min-width: 1px)",
                ]);
                *number += 1;
                text.push_str(&format!("{around} {{ text-indent: {number}px; "));
                nested_rule(dice, depth + 1, number, text);
                text.push_str("} ");
            }
        }
    }
    text.push_str("} ");
}

#[test]
fn flat_sheets_match_and_win_as_nested_ones() {
    let browser = Browser::open();
    browser.go("about:blank");
    let mut dice = Dice::seeded(77);
    const JUDGE: &str = "const [html, sheets] = arguments, names = ['letter-spacing', 'word-spacing', 'text-indent', 'margin-left', 'padding-left'];
        document.documentElement.innerHTML = html;
        const style = document.head.appendChild(document.createElement('style'));
        const look = text => { style.textContent = text; return [...document.querySelectorAll('*')].map(e => { const s = getComputedStyle(e), a = getComputedStyle(e, '::after'), b = getComputedStyle(e, '::before');
          return names.map(n => s.getPropertyValue(n) + a.getPropertyValue(n) + b.getPropertyValue(n)).join() }).join(';') };
        return sheets.map(([nested, flat]) => look(nested) === look(flat));";
    let html = PAGES[0].1.replace("START", "").replace("<!doctype html>", "");
    let mut wrong = Vec::new();
    let mut is_nested = 0;
    let rounds = cases(600).div_ceil(100);
    for _ in 0..rounds {
        let sheets: Vec<(String, String)> = (0..100)
            .map(|_| {
                let nested = nested_sheet(&mut dice);
                let flat = deft_pin_core::style::flat(&nested).unwrap();
                (nested, flat)
            })
            .collect();
        is_nested += sheets.iter().filter(|(nested, flat)| nested != flat).count();
        let told = browser.run(JUDGE, vec![html.clone().into(), serde_json::json!(sheets)]);
        for (same, (nested, flat)) in told.as_array().unwrap().iter().zip(&sheets) {
            if *same != true {
                wrong.push(format!("{nested}\n{flat}"));
            }
        }
    }
    assert!(is_nested > 50 * rounds, "{is_nested}");
    assert!(
        wrong.is_empty(),
        "{} wrong:\n{}",
        wrong.len(),
        wrong.into_iter().take(5).collect::<Vec<_>>().join("\n\n")
    );
}

/// Real scripts and sheets: each goes through boxes as a library of a pin that is for one of two pages, and does there
/// what it does on the built page, and on the other page nothing.
fn real_files_go_through_boxes(kind: &str, folder: &str, hosts: &[(&str, &str)]) {
    let folder = std::env::var(folder).unwrap_or_else(|_| panic!("{folder} names a folder"));
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    paths.sort();
    let browser = Browser::open();
    let mut wrong = Vec::new();
    for path in &paths {
        let session = Session::new();
        let name = path.file_stem().unwrap().to_string_lossy().into_owned();
        let Ok(text) = std::fs::read_to_string(path) else { continue };
        for (file, page) in [PAGES[0], PAGES[4]] {
            session.write(&format!("site/{file}"), page.replace("START", START));
        }
        session.write(&format!("lib.{kind}"), text);
        session.write("p.js", "log.push('after');");
        let key = if kind == "js" { "script" } else { "style" };
        let board = format!(
            "[site]\nroot = 'site'\n[library.own]\n{key} = 'lib.{kind}'\n[pin.p]\npages = ['/']\nneeds = ['own']\nscript = 'p.js'\n"
        );
        session.write("deft-pin.toml", &board);
        session.run("build --out built --inline --anyway");
        for (host, more) in hosts {
            let pages =
                served(&session, &format!("{board}[host]\nkind = '{host}'\n{more}"), PieceLength::Written);
            for (file, bytes) in &pages {
                session.write(&format!("pasted/{file}"), bytes);
                let look = |folder: &str, is_detailed: bool| {
                    snapshot(
                        &browser,
                        &format!("file://{}", session.path(folder).join(file).display()),
                        is_detailed,
                    )
                };
                if let Some(what) = compare(host, more.contains("scripts"), look) {
                    wrong.push(format!(
                        "{name} {host} {more} {file}: {}",
                        what.chars().take(300).collect::<String>()
                    ));
                }
            }
        }
    }
    println!("{} files, {} wrong\n{}", paths.len(), wrong.len(), wrong.join("\n"));
    assert!(wrong.is_empty());
}

#[test]
#[ignore = "needs scripts that scripts/real-scripts.sh fetches"]
fn real_scripts_run_from_pieces() {
    real_files_go_through_boxes(
        "js",
        "DEFT_PIN_SCRIPTS",
        &[
            ("site-slots", ""),
            ("page-slots", ""),
            ("inserted", ""),
            ("site-slots", "site = []\nstyles = 'site'\nscripts = 'site'\n"),
        ],
    );
}

#[test]
#[ignore = "needs sheets that scripts/real-sheets.sh fetches"]
fn real_sheets_count_from_pieces() {
    real_files_go_through_boxes(
        "css",
        "DEFT_PIN_SHEETS",
        &[
            ("site-slots", ""),
            ("page-slots", "prefer = 'page'\n"),
            ("site-slots", "site = []\nstyles = { boxes = 'site', nested = false }\nscripts = 'site'\n"),
        ],
    );
}
