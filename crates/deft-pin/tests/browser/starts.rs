//! The browser as the referee of starts: each pin begins when it is to, as often as it is to, and never else.

use std::collections::HashMap;
use std::sync::{Arc, Mutex};
use std::time::Duration;

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::server::{Serving, serve};
use crate::session::Session;

/// A long page that notes when it is parsed and loaded, with an element far down.
const PAGE: &str = "<!doctype html><html><head><title>t</title>HEAD<script>window.log = [];
addEventListener('DOMContentLoaded', () => log.push('parsed')); addEventListener('load', () => log.push('loaded'));</script></head>
<body style='margin:0'><button id=b><i>go</i></button><p id=other>o</p><div style='height:4000px'></div><p id=far>far</p>
<div style='height:4000px'></div><script>log.push('foot')</script></body></html>";

/// The name of each case, the keys of its pin, and what the head of its page has.
const CASES: &[(&str, &str, &str)] = &[
    ("now", "", ""),
    ("once-page", "once = 'page'", ""),
    ("ready", "start = 'ready'\nslot = 'head'", ""),
    ("loaded", "start = 'loaded'", ""),
    ("after", "start = 'after 3s'", ""),
    ("pixels", "start = 'scrolled 600px'", ""),
    ("percent", "start = 'scrolled 90%'", ""),
    ("seen", "start = 'seen #far'", ""),
    ("click", "start = 'click #b'", ""),
    ("leaving", "start = 'leaving'", ""),
    ("appears", "start = 'appears .later'\nadds = ['later']", ""),
    ("session", "once = 'session'\nstart = 'ready'", ""),
    ("visitor", "once = 'visitor'", ""),
    (
        "denied",
        "once = 'visitor'",
        "<script>Object.defineProperty(window, 'localStorage', { get() { throw new Error('denied') } })</script>",
    ),
    ("early", "from = 2990-01-01", ""),
    ("late", "until = 2001-01-01", ""),
    ("between", "from = 2001-01-01\nuntil = 2990-01-01T00:00:00Z\nstart = 'ready'", ""),
    ("within", "within = '#other'\nstart = 'click #b'", ""),
];

fn site() -> (Session, u16) {
    let session = Session::new();
    let mut board = "[site]\nroot = 'site'\n".to_owned();
    for (name, keys, head) in CASES {
        session.write(&format!("site/{name}.html"), PAGE.replace("HEAD", head));
        let at = if *name == "within" { "" } else { ", at = '#b'" };
        board += &format!(
            "[pin.{name}]\npages = ['/{name}.html']\nscript = 'go.js'\n{keys}\nmarkup = [{{ text = '<b class=\"made\">x</b>', place = 'after'{at} }}]\n"
        );
    }
    session.write("deft-pin.toml", board);
    session.write(
        "go.js",
        "log.push('go ' + document.querySelectorAll('.made').length + ' ' + (root.id || 'document'));",
    );
    session.run("build --out out --anyway");
    let files = session.files("out").into_iter().map(|(path, bytes)| {
        let kind = if path.ends_with(".js") { "text/javascript" } else { "text/html" };
        (format!("/{path}"), (kind, String::from_utf8(bytes).unwrap()))
    });
    let files: HashMap<_, _> = files.collect();
    (session, serve(Arc::new(Mutex::new(files)), Serving::AtOnce))
}

#[test]
fn pins_begin_when_they_are_to() {
    let (_session, port) = site();
    let browser = Browser::open();
    browser.resize(1000, 800);
    let open = |name: &str| browser.go(&format!("http://127.0.0.1:{port}/{name}.html"));
    let log = || browser.run("return log.join(', ')", vec![]);
    let act = |script: &str| {
        browser.run(script, vec![]);
        std::thread::sleep(Duration::from_millis(150));
    };
    // A busy machine takes its time.
    let said = |expected: &str, why: &str| {
        let comes = || log() == json!(expected);
        let came = (0..100).any(|turn| {
            turn > 0 && {
                std::thread::sleep(Duration::from_millis(50));
                comes()
            } || comes()
        });
        assert!(came, "{why}: {} is not {expected}", log());
    };
    let plain = "foot, parsed, loaded";
    let begun = "foot, parsed, loaded, go 1 document";

    open("now");
    said("foot, go 1 document, parsed, loaded", "at once");
    open("once-page");
    said("foot, go 1 document, parsed, loaded", "once a page is at once");
    open("once-page");
    said("foot, go 1 document, parsed, loaded", "and again when it is opened again");
    open("ready");
    // The pin stands before the page's own listener.
    assert!(
        log().as_str().unwrap().contains("foot, parsed, go 1 document")
            || log() == json!("foot, go 1 document, parsed, loaded"),
        "{}",
        log()
    );
    open("loaded");
    said(begun, "once it is loaded");

    open("after");
    said(plain, "not yet");
    said(begun, "after its time");

    open("pixels");
    act("scrollTo(0, 590)");
    said(plain, "not quite there");
    act("scrollTo(0, 600)");
    act("scrollTo(0, 0); ");
    act("scrollTo(0, 700)");
    said(begun, "once, at 600 pixels");
    open("percent");
    act("scrollTo(0, (document.documentElement.scrollHeight - innerHeight) * .89)");
    said(plain, "at 89 per cent");
    act("scrollTo(0, document.documentElement.scrollHeight)");
    said(begun, "at the end");

    open("seen");
    act("scrollTo(0, 2000)");
    said(plain, "not in view");
    act("document.querySelector('#far').scrollIntoView()");
    said(begun, "in view");

    open("click");
    act("document.querySelector('#other').click()");
    said(plain, "another element");
    act("document.querySelector('#b i').click(); document.querySelector('#b').click()");
    said(begun, "the element, by what is in it, and once");
    open("within");
    act("document.querySelector('#b').click()");
    said("foot, parsed, loaded, go 1 other", "for its target");

    open("leaving");
    act(
        "document.documentElement.dispatchEvent(new MouseEvent('mouseleave', { clientY: 300, clientX: -5 }))",
    );
    said(plain, "out at the side");
    act("document.documentElement.dispatchEvent(new MouseEvent('mouseleave', { clientY: -2 }))");
    said(begun, "out at the top");

    open("appears");
    said(plain, "not there");
    act("document.querySelector('#other').classList.add('later')");
    said(begun, "there by its class");

    for (name, first) in [
        ("session", "foot, go 1 document, parsed, loaded"),
        ("visitor", "foot, go 1 document, parsed, loaded"),
    ] {
        open(name);
        let begins = |why: &str| {
            let came = (0..100).any(|_| {
                std::thread::sleep(Duration::from_millis(30));
                log().as_str().is_some_and(|told| told.contains("go 1 document"))
            });
            assert!(came, "{name} {why}: {} {first}", log());
        };
        begins("at first");
        browser.run("location.reload()", vec![]);
        said(plain, name);
        browser.run("sessionStorage.clear(); localStorage.clear(); location.reload()", vec![]);
        begins("with nothing kept");
    }
    for _ in 0..2 {
        open("denied");
        said("foot, go 1 document, parsed, loaded", "where storage is denied, once a page");
    }
    open("early");
    said(plain, "before its first day");
    open("late");
    said(plain, "after its last day");
    open("between");
    assert!(log().as_str().unwrap().contains("go 1 document"), "between its days: {}", log());
    let errors = browser.run("return performance.getEntriesByType('resource').length", vec![]);
    assert!(errors != Value::Null);
}

#[test]
fn the_demos_film_and_notice_begin() {
    let session = Session::new();
    session.good("demo");
    let browser = Browser::open();
    let page =
        |path: &str| format!("file://{}", session.path(&format!("deft-pin-demo/out/{path}")).display());
    browser.go(&page("journal/kittiwake/index.html"));
    let wait = |script: &str| {
        for _ in 0..100 {
            if browser.run(&format!("return !!({script})"), vec![]) == json!(true) {
                return true;
            }
            std::thread::sleep(Duration::from_millis(50));
        }
        false
    };
    assert!(wait("document.querySelector('#sea-trial').readyState > 0"), "the film is there");
    assert!(!wait_not(&browser, ".film-link"), "no button before its time");
    // The visitor skips ahead.
    browser.run("document.querySelector('#sea-trial').currentTime = 4", vec![]);
    assert!(wait("document.querySelector('#sea-trial + .film-link a')"), "a button behind the film");

    browser.go(&page("index.html"));
    browser.run("localStorage.clear()", vec![]);
    browser.go(&page("index.html"));
    assert!(!wait_not(&browser, ".gale-warning"), "no notice at first");
    assert!(wait("document.querySelector('.gale-warning.is-open')"), "the notice after three seconds");
    assert!(wait("getComputedStyle(document.querySelector('.gale-warning')).opacity === '1'"), "it comes in");
    browser.run("document.querySelector('.gale-warning button').click()", vec![]);
    assert!(wait("!document.querySelector('.gale-warning')"), "its button closes it");

    browser.go(&page("piers/ellery/index.html"));
    assert!(wait("document.querySelectorAll('.picture a').length === 3"), "a link for each picture");
    let links = browser
        .run("return [...document.querySelectorAll('.picture a')].map(a => a.getAttribute('href'))", vec![]);
    assert_eq!(links, json!(["/timetable/", "/fares/", "/piers/marram/"]));
    assert_eq!(
        browser.run("return document.querySelector('#pictures').textContent", vec![]),
        json!("Pictures")
    );
}

/// Whether something is there right away.
fn wait_not(browser: &Browser, selector: &str) -> bool {
    browser.run("return !!document.querySelector(arguments[0])", vec![json!(selector)]) == json!(true)
}

/// What somebody wants: its name, the board, its files, the page, what a visitor does there, and what is so then.
type Wish = (
    &'static str,
    &'static str,
    &'static [(&'static str, &'static str)],
    &'static str,
    &'static str,
    &'static str,
);

/// What people want, each in a board of a few lines on the demo's pages.
const WISHES: &[Wish] = &[
    (
        "a pop-up after a while, once a visit, that its own button closes",
        "[pin.pop]\npages = ['/']\nscript = 'a.js'\nshare = ['closePop']\nstart = 'after 300ms'\nonce = 'session'\n[[pin.pop.markup]]\ntext = '<aside class=pop>Gale <button onclick=\"closePop()\">x</button></aside>'\nplace = 'append'\nat = 'body'",
        &[(
            "a.js",
            "const pop = document.querySelector('.pop');\nfunction closePop() { pop.hidden = true; }",
        )],
        "index.html",
        "setTimeout(() => document.querySelector('.pop button').click(), 700)",
        "document.querySelector('.pop[hidden]') && sessionStorage.getItem('deft-pin:pop') === '1'",
    ),
    (
        "a countdown in a text that has no ID",
        "[pin.count]\npages = ['/']\nscript = 'a.js'\n[pin.count.values]\nuntil = { type = 'date', value = '2990-01-05T10:00Z' }\n[[pin.count.mark]]\nat = '.status-line--small'\nid = 'left'",
        &[(
            "a.js",
            "const days = Math.floor((values.until - Date.now()) / 86400000);\ndocument.getElementById('left').textContent = `${days} days until {{until}}`;",
        )],
        "index.html",
        "",
        "/^3\\d{5} days until 2990-01-05T10:00Z$/.test(document.querySelector('#left.status-line--small').textContent)",
    ),
    (
        "a link for each picture of a gallery that a script builds",
        "[pin.links]\npages = ['/built.html']\nscript = 'a.js'\nstart = 'appears .built .picture:nth-child(3)'\nadds = ['picture', 'built']\n[pin.links.values]\nplaces = ['/fares/', '/piers/', '/about/']",
        &[
            (
                "a.js",
                "document.querySelectorAll('.built .picture').forEach((picture, at) => {\n  picture.innerHTML = `<a href=\"${values.places[at]}\">more</a>`;\n});",
            ),
            (
                "site/built.html",
                "<!doctype html><html lang=en><head><title>b</title></head><body><main><ul class=built></ul></main><script>setTimeout(() => { document.querySelector('.built').innerHTML = '<li class=\"picture\"></li>'.repeat(3) }, 200)</script></body></html>",
            ),
        ],
        "built.html",
        "",
        "[...document.querySelectorAll('.built .picture a')].map(a => a.getAttribute('href')).join() === '/fares/,/piers/,/about/'",
    ),
    (
        "a class that a script gives on scrolling",
        "[pin.bar]\npages = ['/']\nscript = 'a.js'\nstyle = 'a.css'\nstart = 'scrolled 100px'",
        &[
            ("a.js", "document.querySelector('#site-header').classList.add('is-small');"),
            ("a.css", "#site-header.is-small { outline: 7px solid teal }"),
        ],
        "index.html",
        "scrollTo(0, 150)",
        "getComputedStyle(document.querySelector('#site-header')).outlineWidth === '7px'",
    ),
    (
        "a box with an icon from one class",
        "[pin.box]\npages = ['/fares/']\nstyle = 'a.css'\n[[pin.box.mark]]\nat = '#fare-table'\nclass = 'boxed'",
        &[(
            "a.css",
            ".boxed { position: relative }\n.boxed::before { content: '\\2693'; position: absolute }",
        )],
        "fares/index.html",
        "",
        "getComputedStyle(document.querySelector('#fare-table.boxed'), '::before').content === '\"\u{2693}\"'",
    ),
    (
        "a notice from a date until a date",
        "[pin.notice]\npages = ['/']\nfrom = 2026-01-01\nuntil = 2990-01-01\n[[pin.notice.markup]]\ntext = '<p class=\"winter\">The winter timetable holds.</p>'\nplace = 'before'\nat = '#status h2'",
        &[],
        "index.html",
        "",
        "document.querySelector('#status .winter + h2')",
    ),
];

#[test]
fn what_people_want_takes_few_lines() {
    let browser = Browser::open();
    browser.resize(1000, 600);
    for (name, board, files, page, act, then) in WISHES {
        assert!(board.lines().count() <= 15, "{name}");
        let session = Session::new();
        session.run("demo");
        for (file, text) in *files {
            session.write(&format!("deft-pin-demo/{file}"), text);
        }
        session.write("deft-pin-demo/own.toml", format!("[site]\nroot = 'site'\n{board}\n"));
        let told = session.good("check --board deft-pin-demo/own.toml --today 2026-11-26 --fail-on warning");
        assert!(!told.stdout.contains("warning"), "{name}: {}", told.stdout);
        session.good("build --board deft-pin-demo/own.toml --out own");
        browser.go(&format!("file://{}", session.path(&format!("own/{page}")).display()));
        browser.run("sessionStorage.clear(); localStorage.clear(); window.fine = true; addEventListener('error', () => { window.fine = false })", vec![]);
        browser.go(&format!("file://{}", session.path(&format!("own/{page}")).display()));
        browser.run(act, vec![]);
        let is_so = (0..300).any(|_| {
            std::thread::sleep(Duration::from_millis(50));
            browser.run(&format!("return !!({then})"), vec![]) == json!(true)
        });
        assert!(is_so, "{name}: {}", browser.run("return document.body.innerHTML.slice(0, 3000)", vec![]));
    }
}

/// What a pin puts in, for two pages: what comes later stands where it would stand from the beginning.
const CONTENT: &[&str] = &[
    "{ text = '<i>1</i>', place = 'after', at = 'h2' }, { text = '<b>2</b>', place = 'after', at = 'h2' }, { text = '<u>3</u>', place = 'before', at = 'p' }, { text = '<s>4</s>', place = 'before', at = 'p' }",
    "{ text = '<i>1</i>', place = 'prepend', at = 'li' }, { text = '<b>2</b>', place = 'prepend', at = 'li' }, { text = '<u>3</u> x', place = 'append', at = 'ul' }, { text = '<li>4</li>', place = 'append', at = 'ul' }",
    "{ text = '<div class=a><em>n</em></div>', place = 'wrap', at = 'h2' }, { text = '<p>new</p>', place = 'replace', at = '#x' }",
    "{ text = '<section><div></div></section>', place = 'wrap', at = 'ul' }, { text = 'x<i>1</i>', place = 'append' }",
    "{ text = '<p title=\"&lt;&quot;\">é &amp; 😀 {{word}}</p>', place = 'prepend' }, { text = '<tr><td>n</td></tr>', place = 'after', at = 'tr' }",
];

#[test]
fn what_comes_later_stands_where_it_would_have_stood() {
    const BODY: &str = "<!doctype html><html lang=en><head><title>t</title></head><body><main id=m><h2>One</h2><p id=x>a</p><ul><li>1</li><li>2</li></ul><table><tbody><tr><td>c</td></tr></tbody></table></main><p>out</p></body></html>";
    let session = Session::new();
    let mut board = "[site]\nroot = 'site'\n".to_owned();
    for (at, content) in CONTENT.iter().enumerate() {
        for start in ["now", "ready"] {
            session.write(&format!("site/{start}{at}.html"), BODY);
            board += &format!(
                "[pin.{start}{at}]\npages = ['/{start}{at}.html']\nwithin = '#m'\nstart = '{start}'\nmarkup = [{content}]\nvalues = {{ word = \"it's </script>\" }}\n"
            );
        }
    }
    session.write("deft-pin.toml", board);
    session.run("build --out out --anyway");
    let browser = Browser::open();
    let tree = |page: String| {
        browser.go(&format!("file://{}", session.path(&format!("out/{page}.html")).display()));
        browser.run("document.querySelectorAll('script').forEach(script => script.remove()); document.normalize(); return document.body.innerHTML", vec![])
    };
    for (at, content) in CONTENT.iter().enumerate() {
        let (now, later) = (tree(format!("now{at}")), tree(format!("ready{at}")));
        assert_eq!(now, later, "{content}");
        assert_ne!(now, json!(BODY.split("<body>").nth(1).unwrap()), "{content}");
    }
}
