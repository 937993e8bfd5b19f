//! Libraries on pages: which come, in which order, which are there already, and what is told of them
//! and of what scripts do to each other.

use crate::session::Session;

/// The demo library of these tests, and others that lean on it.
const TIDE: &str = "/*! tide 2.1.0 */\n(function (root) { root.Tide = { go: function () {} } })(this)";
const SWELL: &str = "(function (root) { var Tide = root.Tide; root.Swell = { go: Tide.go } })(this)";

/// A board of one site whose page `/` has that in its head and in its body.
fn board(board: &str, head: &str, body: &str, script: &str, style: &str) -> Session {
    let page = format!(
        "<!doctype html><html><head><title>Pier</title>{head}</head><body><nav id=menu class=bar></nav>{body}</body></html>"
    );
    let text = format!("[site]\nroot = 'site'\n{board}");
    Session::with(&[
        ("deft-pin.toml", &text),
        ("p.js", script),
        ("p.css", style),
        ("tide.js", TIDE),
        ("swell.js", SWELL),
        ("tide.css", ".tide { color: red }"),
        ("site/index.html", &page),
        ("site/tide-2.0.min.js", "Tide={go(){}}"),
        ("site/tide-1.9.js", "var Tide = { go() {} }"),
        ("site/other.js", "window.Tide = { go() {} }"),
        ("site/app.js", "window.App = { pier: 1 }; addEventListener('load', () => showPier())"),
    ])
}

const TIDE_PIN: &str =
    "[library.tide]\nscript = 'tide.js'\n[pin.p]\nscript = 'p.js'\npages = ['/']\nneeds = ['tide']\n";

/// The board, the page's head and body, the pin's script and sheet, the codes.
type Row<'r> = (String, String, &'r str, &'r str, &'r str, &'r [&'r str]);

/// What is told, by code, besides what every site with one page is told.
fn codes(session: &Session) -> Vec<String> {
    session.run("check --format json").codes()
}

#[test]
fn each_finding_is_there_and_its_trap_is_clean() {
    let pin = "[pin.p]\nscript = 'p.js'\npages = ['/']\n";
    let both = "[pin.p]\nscript = 'p.js'\nstyle = 'p.css'\npages = ['/']\nadds = ['is-on']\n";
    let styled = |more: &str| {
        format!("[library.tide]\nstyle = 'tide.css'\n{more}[pin.p]\npages = ['/']\nneeds = ['tide']\n")
    };
    let remote = |more: &str| {
        format!(
            "[library.far]\nscript = 'https://cdn.example/far.js'\n{more}[pin.p]\npages = ['/']\nneeds = ['far']\n"
        )
    };
    let hash = format!("integrity = {{ 'https://cdn.example/far.js' = 'sha384-{}' }}\n", "A".repeat(64));
    let (tide, none) = (TIDE_PIN.to_owned(), String::new());
    let meta = |policy: &str| format!("<meta http-equiv=Content-Security-Policy content=\"{policy}\">");
    #[rustfmt::skip]
    let table: Vec<Row> = vec![
        (tide.clone(), none.clone(), "", "Tide.go()", "", &[]),
        (tide.clone(), none.clone(), "", "document.title", "", &["unused-library"]),
        (tide.clone(), none.clone(), "<a onclick='Tide.go()'></a>", "document.title", "", &[]),
        (tide.clone(), "<script src=tide-1.9.js></script>".into(), "", "Tide.go()", "", &["twice"]),
        (tide.clone(), "<script src=tide-2.0.min.js></script>".into(), "", "Tide.go()", "", &["twice"]),
        (tide.clone(), "<script src=tide-2.0.min.js async></script>".into(), "", "Tide.go()", "", &["twice"]),
        (tide.clone(), "<script src=other.js></script>".into(), "", "Tide.go()", "", &[]),
        (tide.clone(), format!("<script>{TIDE}</script>"), "", "Tide.go()", "", &[]),
        (format!("[library.more]\nscript = 'tide.js'\nneeds = ['tide']\n{tide}"), none.clone(), "", "Tide.go()", "", &["unused-library", "twice"]),
        (pin.into(), "<script>  document.title =  'x' </script>".into(), "", "document.title = 'x'\n", "", &["twice"]),
        (both.into(), "<style>.bar { color: red }</style>".into(), "", "", ".bar  { color: red }", &["twice", "no-change"]),
        (format!("[library.tide]\nscript = 'tide.js'\n{pin}"), none.clone(), "", "Tide.go()", "", &["inferred-need"]),
        (format!("[library.tide]\nscript = 'tide.js'\n{pin}"), none.clone(), "", "window.Tide && Tide.go()", "", &["unused-library"]),
        ("[library.tide]\nscript = 'tide.js'\n[library.ebb]\nscript = 'ebb.js'\n[pin.p]\nscript = 'p.js'\n".into(), none.clone(), "", "Tide.go()", "", &["inferred-need", "inferred-need", "needs-cycle"]),
        (styled(""), none.clone(), "", "", "", &["unused-style"]),
        (styled(""), none.clone(), "<p class=tide></p>", "", "", &[]),
        (styled(""), "<script>function f(e) { e.classList.add('tide') }</script>".into(), "", "", "", &[]),
        (pin.into(), "<script src=app.js></script>".into(), "", "window.App = 1; window.showPier = function () {}", "", &["overwrites"]),
        (pin.into(), "<script>var App = 1</script>".into(), "", "window.App = window.App || {}", "", &[]),
        (pin.into(), "<script>var App = 1</script>".into(), "", "var App = 2", "", &[]),
        (pin.into(), none.clone(), "", "window.fetch = function () {}", "", &["overwrites"]),
        (pin.into(), none.clone(), "", "if (!window.fetch) window.fetch = function () {}", "", &[]),
        (pin.into(), none.clone(), "", "window.name = 'x'; location = '#'; window.onload = function () {}", "", &[]),
        (pin.into(), "<script>window.onload = function () {}</script>".into(), "", "window.onload = function () { showPier() }; function showPier() {}", "", &["overwrites"]),
        (both.into(), none.clone(), "", "document.body.classList.add('went')", ".is-on { color: red }", &[]),
        (both.into(), none.clone(), "", "document.body.classList.add('is-onn')", ".is-on { color: red }", &["name-mismatch"]),
        (both.replace("is-on", "is-open"), none.clone(), "", "document.body.classList.add('is-opne')", ".is-open { color: red }", &["name-mismatch"]),
        (both.replace("is-on", "is-open"), none.clone(), "", "document.body.classList.add('is-opne'); document.querySelector('.is-opne')", ".is-open { color: red }", &[]),
        (pin.into(), "<style>.menu-open { color: red }</style>".into(), "", "document.body.className = 'menuopen'", "", &["name-mismatch"]),
        (format!("trackers = ['dl']\n{pin}"), "<script>dl = []</script>".into(), "", "dl.push({ email: menu.dataset.x })", "", &["personal-data"]),
        (pin.into(), "<script>dl = []</script>".into(), "", "dl.push({ email: menu.dataset.x })", "", &[]),
        (format!("trackers = ['dl']\n{pin}"), "<script>dl = []; dlx = []</script>".into(), "", "dlx.push({ email: menu.dataset.x }); dl.push({ has: !!menu.email })", "", &[]),
        (remote(""), none.clone(), "", "", "", &["foreign-asset", "no-integrity"]),
        (remote(&hash), none.clone(), "", "", "", &["foreign-asset"]),
        (both.into(), none.clone(), "", "", "nav { background: url(http://a.example/b.png) }", &["foreign-asset", "plain-http"]),
        (both.into(), none.clone(), "", "location.href = 'https://a.example/'", "nav { background: url(b.png#https://a.example) }", &["missing-file"]),
        (format!("policy = \"script-src 'none'\"\n{pin}"), none.clone(), "", "", "", &["blocked-by-policy"]),
        (format!("policy = \"script-src 'self'\"\n{pin}"), none.clone(), "", "", "", &[]),
        (pin.into(), meta("default-src 'none'"), "", "", "", &["blocked-by-policy"]),
        (pin.into(), meta("default-src 'none'; script-src 'self'"), "", "", "", &[]),
        (pin.into(), meta("script-src https://www.sorrel.example"), "", "", "", &[]),
        (format!("{pin}slot = 'head-start'\n"), meta("default-src 'none'"), "", "", "", &[]),
        (pin.into(), none.clone(), "<button onclick='go()'></button>", "function go() {}", "", &["inferred-share"]),
        (pin.into(), "<script src=https://a.example/b.js></script>".into(), "<button onclick='go()'></button>", "function go() {}", "", &["inferred-share"]),
        (format!("{pin}[pin.q]\nscript = 'q.js'\n"), "<script src=https://a.example/b.js></script>".into(), "", "function go() {}", "", &["inferred-share"]),
        (pin.into(), "<script>addEventListener('load', () => go())</script>".into(), "", "function go() {}", "", &["not-shared"]),
        (pin.into(), "<script async src='https://a.example/m.js?callback=go'></script>".into(), "", "function go() {}", "", &["inferred-share"]),
        (format!("{pin}share = ['go']\n"), none.clone(), "<button onclick='go()'></button>", "function go() {}", "", &[]),
        (pin.into(), "<script src=app.js></script>".into(), "", "function showPier() {}", "", &["not-shared"]),
        (pin.into(), "<script src=app.js></script><b id=showPier></b>".into(), "", "function showPier() {}", "", &[]),
        (pin.into(), "<script src=app.js></script><script src=https://a.example/b.js></script>".into(), "", "function showPier() {}", "", &[]),
        (pin.into(), "<script defer src=makes.js></script>".into(), "", "document.querySelector('.made').id", "", &["lost-lookup"]),
    ];
    let mut wrong = Vec::new();
    for (text, head, body, script, style, expected) in table {
        let session = board(&text, &head, body, script, style);
        session.write("site/makes.js", "document.body.className = 'made'");
        session.write("q.js", "addEventListener('click', () => go())");
        if text.contains("ebb.js") {
            session.write("tide.js", "var Tide = { go: Ebb.go }");
            session.write("ebb.js", "var Ebb = { go: Tide.go }");
        }
        let mut found = codes(&session);
        found.sort();
        let mut expected: Vec<String> = expected.iter().map(|code| (*code).to_owned()).collect();
        expected.sort();
        if found != expected {
            wrong.push(format!("{text} {head} {script}: {found:?}, not {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_functions_of_a_library_are_given_is_looked_at() {
    let library = "window.Tide = { draw: function (box, options) { box.tide = this; return this }, on: function (name, then) { this[name] = then }, Chart: function (box) { box.classList.add('tide-box') } }";
    let table: &[(&str, &[&str])] = &[
        ("Tide.draw(document.querySelector('#menu'))", &[]),
        ("Tide.draw(document.querySelector('#mnu'))", &["lost-lookup"]),
        ("Tide.draw({ box: document.querySelector('.map') })", &["lost-lookup"]),
        ("Tide.draw({ box: { at: document.getElementById('map') } })", &["lost-lookup"]),
        ("const box = document.querySelector('.map'); if (box) Tide.draw(box)", &[]),
        ("new Tide.Chart(document.getElementById('chart'), { kind: 'bar' })", &["lost-lookup"]),
        ("new Tide.Chart('.bar')", &[]),
        ("new Tide.Chart('.baar')", &["in-vain"]),
        ("Tide.draw('#menu', { rest: '.pier' })", &[]),
        ("Tide.draw('#menu', { rest: ['.baar'] })", &["in-vain"]),
        ("Tide.draw('#bar')", &["in-vain"]),
        ("Tide.draw('menu')", &[]),
        ("Tide.draw('menuu')", &["in-vain"]),
        ("Tide.draw('menus')", &[]),
        ("Tide.draw('menu2')", &[]),
        ("Tide.draw('mine')", &[]),
        // A class that the library or the script makes.
        ("Tide.draw('.tide-boxx'); Tide.draw('.tide-box')", &[]),
        ("document.querySelector('#menu').className = 'baar'; Tide.draw('.baar')", &[]),
        ("Tide.draw('#menu'); Tide.draw(document.querySelector('.tide-box'))", &[]),
        ("Tide.draw('#menu'); Tide.draw(document.querySelector('.pier'))", &["lost-lookup"]),
        ("Tide.draw(menu); menu.tide.draw(menu)", &[]),
        ("document.querySelector('.bar').tide.draw()", &[]),
        ("menu.tidee.draw()", &["throws"]),
        ("Tide.on('ebb', () => { const hours = [1, 2]; hours.frEach(console.log) })", &["throws"]),
        ("Tide.draw('#menu', { then() { null.x } })", &["throws"]),
        ("Tide.draw('#menu', { onError() { throw new Error('no tide') } })", &[]),
        ("Tide.on('ebb', hour => { hour.drwa() })", &["in-vain"]),
        ("Tide.on('ebb', hour => { hour.draw() })", &[]),
    ];
    let mut wrong = Vec::new();
    for (script, expected) in table {
        let session = board(TIDE_PIN, "", "<p class=foot>North</p>", script, "");
        session.write("tide.js", library);
        let found = codes(&session);
        if found != *expected {
            wrong.push(format!("{script}: {found:?}, not {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

/// The scripts that a page loads in the end, by their files.
fn loaded(session: &Session) -> Vec<String> {
    session.run("build --out out --anyway");
    let page = session.read("out/index.html");
    let sources = page.split("<script src=").skip(1).map(|rest| {
        let address = rest.trim_start_matches('"').split(['"', '>', ' ']).next().unwrap_or_default();
        let name = address.rsplit('/').next().unwrap_or_default();
        // Without the hash.
        name.split('.').next().unwrap_or_default().to_owned()
    });
    sources.collect()
}

#[test]
fn libraries_come_once_and_in_their_order() {
    let two = "[library.swell]\nscript = 'swell.js'\n[library.tide]\nscript = 'tide.js'\n[pin.p]\nscript = 'p.js'\npages = ['/']\n";
    let table = [
        // The board, the head, the script; then what the page loads.
        (two.to_owned(), "", "Swell.go()", vec!["tide", "swell", "p"]),
        (format!("{two}needs = ['swell', 'tide']\n"), "", "Swell.go()", vec!["tide", "swell", "p"]),
        (two.replace("'swell.js'", "'swell.js'\nneeds = []"), "", "Swell.go()", vec!["swell", "p"]),
        (two.to_owned(), "", "Tide.go()", vec!["tide", "p"]),
        (two.to_owned(), "<script src=other.js></script>", "Tide.go()", vec!["other", "p"]),
        (two.to_owned(), "<script src=other.js defer></script>", "Tide.go()", vec!["other", "tide", "p"]),
        (TIDE_PIN.to_owned(), "<script src=tide-2.0.min.js></script>", "Tide.go()", vec!["tide-2", "p"]),
        (TIDE_PIN.to_owned(), "<script src=tide-1.9.js></script>", "Tide.go()", vec!["tide-1", "tide", "p"]),
        (
            TIDE_PIN.replace("'tide.js'", "['tide.js', 'swell.js']"),
            "<script src=tide-2.0.min.js></script>",
            "Tide.go()",
            vec!["tide-2", "tide", "tide-swell", "p"],
        ),
        (
            TIDE_PIN.replace("'tide.js'", "['tide.js', 'swell.js']"),
            "<script src=tide-2.0.min.js></script><script src=swell.js></script>",
            "Tide.go()",
            vec!["tide-2", "swell", "p"],
        ),
        (TIDE_PIN.replace("'tide.js'", "'tide.js'\npresent = '.bar'"), "", "Tide.go()", vec!["p"]),
        (
            TIDE_PIN.replace("'tide.js'", "'tide.js'\npresent = ':not(*)'"),
            "<script src=tide-2.0.min.js></script>",
            "Tide.go()",
            vec!["tide-2", "tide", "p"],
        ),
        (
            TIDE_PIN.replace("'tide.js'", "'tide.js'\ndefines = ['Other']"),
            "<script src=other.js></script>",
            "Tide.go()",
            vec!["other", "tide", "p"],
        ),
    ];
    for (text, head, script, expected) in table {
        assert_eq!(loaded(&board(&text, head, "", script, "")), expected, "{text} {head}");
    }
}

#[test]
fn a_file_of_another_host_carries_its_integrity() {
    let hash = format!("sha256-{}=", "A".repeat(43));
    let text = format!(
        "[library.far]\nscript = 'https://cdn.example/far.js'\nintegrity = {{ 'https://cdn.example/far.js' = '{hash}' }}\n[pin.p]\nneeds = ['far']\n"
    );
    let session = board(&text, "", "", "", "");
    session.good("build --out out");
    let expected =
        format!("src=\"https://cdn.example/far.js\" integrity=\"{hash}\" crossorigin=\"anonymous\"");
    assert!(session.read("out/index.html").contains(&expected));
    session
        .write("deft-pin.toml", format!("[site]\nroot = 'site'\n{}", text.replace("far.js' =", "fra.js' =")));
    session.refused("check", "did you mean `https://cdn.example/far.js`?");
    session.write("deft-pin.toml", format!("[site]\nroot = 'site'\n{}", text.replace("sha256-", "sha1-")));
    session.refused("check", "no hash of a file");
}

#[test]
fn order_tells_what_attributes_for_events_need() {
    let body = "<form><button onclick=\"value; submit(); go(form); document.querySelector('.bar').id\"></button></form><p onmouseover=' '></p>";
    let session = board("", "<script>addEventListener('DOMContentLoaded', () => 1)</script>", body, "", "");
    let answer = session.good("order / --format json").json();
    let handler = &answer["handlers"][0];
    assert_eq!((handler["attribute"].as_str(), handler["line"].as_u64()), (Some("onclick"), Some(1)));
    assert_eq!(handler["reads"].to_string(), r#"["go"]"#);
    assert_eq!(handler["looks_up"].to_string(), r#"[".bar"]"#);
    assert_eq!(answer["steps"][0]["listens"].to_string(), r#"["DOMContentLoaded"]"#);
    let text = session.good("order /").stdout;
    for words in ["on events, by attributes", "onclick of", "at DOMContentLoaded  s0 goes on"] {
        assert!(text.contains(words), "{text}");
    }
}

#[test]
fn order_writes_a_picture_besides() {
    let session = board(TIDE_PIN, "<script src=other.js async></script>", "", "Tide.go(); None.x", "");
    let answer = session.good("order / --svg order.svg --format json").json();
    assert_eq!(answer["steps"].as_array().unwrap().len(), 3);
    let picture = session.read("order.svg");
    assert!(picture.starts_with("<svg ") && picture.ends_with("</svg>\n"), "{picture}");
    for words in
        ["tide.js", "needs None, Tide", "prefers-color-scheme: dark", "@media print", "class=\"any\""]
    {
        assert!(picture.contains(words), "{words}: {picture}");
    }
    session.refused("order / --svg none/order.svg", "cannot be written");
}

#[test]
fn what_the_page_does_not_wait_for_is_not_there_at_once() {
    // Keys of a library of another host, its address's end, the script, and each finding with words of it.
    type Case<'c> = (&'c str, &'c str, &'c str, &'c [(&'c str, &'c str)]);
    let table: &[Case<'_>] = &[
        ("load = 'blocking'\ndefines = ['Far']", "", "Far.go()", &[]),
        ("load = 'async'\ndefines = ['Far']", "", "Far.go()", &[("race", "load = \\\"async\\\"")]),
        ("load = 'defer'\ndefines = ['Far']", "", "Far.go()", &[("late-library", "load = \\\"defer\\\"")]),
        ("load = 'async'", "", "Far.go()", &[("race", "`far`")]),
        ("load = 'defer'", "", "Far.go()", &[("late-library", "`far`")]),
        ("load = 'async'", "", "window.Far && Far.go()", &[]),
        ("load = 'async'\ndefines = ['Far']", "", "addEventListener('load', () => Far.go())", &[]),
        (
            "load = 'defer'\ndefines = ['Far']",
            "",
            "addEventListener('DOMContentLoaded', () => Far.go())",
            &[],
        ),
        ("load = 'async'\ndefines = ['Far']", "", "Fra.go()", &[("missing-library", "did you mean `Far`")]),
        ("", "?callback=initMap", "function initMap() {}", &[("inferred-share", "`initMap`")]),
        ("", "?x=1&callback=boot.far", "var boot = { far() {} }", &[("inferred-share", "`boot`")]),
        ("", "?callback=initMaps", "function initMap() {}", &[("missing-library", "did you mean `initMap`")]),
        (
            "",
            "?callback=start",
            "function initMap() {}",
            &[("missing-library", "nothing on the page defines")],
        ),
        ("", "?callback=?", "document.title", &[]),
        ("", "?cb=12345", "document.title", &[]),
    ];
    for (keys, end, script, expected) in table {
        let text = format!(
            "[check]\naccept = ['foreign-asset', 'no-integrity']\n[library.far]\nscript = 'https://cdn.example/far.js{end}'\n{keys}\n[pin.p]\npages = ['/']\nneeds = ['far']\nscript = 'p.js'\n"
        );
        let session = board(&text, "", "", script, "");
        let answer = session.run("check --format json");
        let found = answer.codes();
        let codes: Vec<&str> = expected.iter().map(|(code, _)| *code).collect();
        assert_eq!(found, codes, "{keys} {end} {script}: {}", answer.stdout);
        for (_, words) in *expected {
            assert!(answer.stdout.contains(words), "{keys} {end} {script}: {}", answer.stdout);
        }
        session.run("build --out out --anyway");
        let load = keys.split('\'').nth(1).filter(|load| keys.starts_with("load") && *load != "blocking");
        let written = load.map_or(String::new(), |load| format!(" {load}"));
        let end = end.replace('&', "&amp;");
        let tag = format!("<script src=\"https://cdn.example/far.js{end}\"{written} data-deft-pin=");
        assert!(session.read("out/index.html").contains(&tag), "{}", session.read("out/index.html"));
    }
    let local = "[library.tide]\nscript = 'tide.js'\nload = 'async'\n[pin.p]\nscript = 'p.js'\npages = ['/']\nneeds = ['tide']\n";
    board(local, "", "", "Tide.go()", "").refused("check", "has no script of another host");
}

#[test]
fn a_circle_is_told_as_the_circle_and_two_versions_as_that() {
    let circle = "[library.a]\nscript = 'tide.js'\n[library.b]\nscript = 'swell.js'\n[library.c]\nscript = 'c.js'\n[pin.p]\nscript = 'p.js'\npages = ['/']\nneeds = ['a', 'b', 'c']\n";
    let session = board(circle, "", "", "A.x; B.x; C.x", "");
    session.write("tide.js", "window.A = B.x");
    session.write("swell.js", "window.B = { x: C.x }");
    session.write("c.js", "window.C = { x: A.x }");
    let answer = session.run("check --format json");
    assert_eq!(answer.codes(), ["needs-cycle", "inferred-need", "inferred-need"]);
    assert!(answer.stdout.contains("since it needs `b`, which needs `c`: a circle"), "{}", answer.stdout);

    let twice = "[library.a]\nscript = 'tide.js'\n[library.b]\nscript = 'old.js'\n[pin.p]\nscript = 'p.js'\npages = ['/']\nneeds = ['a', 'b']\n";
    let session = board(twice, "", "", "Tide.go()", "");
    session.write("old.js", "/*! tide v1.4.0 */ var Tide = { go() {} }");
    let answer = session.run("check --format json");
    assert_eq!(answer.codes(), ["overwrites"]);
    let words = "this is version 1.4.0 of what `tide.js` brings as version 2.1.0";
    assert!(answer.stdout.contains(words), "{}", answer.stdout);
}
