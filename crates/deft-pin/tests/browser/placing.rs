//! The browser as the referee: on odd pages, opened from the folder that `build` wrote, Chromium
//! finds what was put in where it was meant to be, runs it, and applies it to the target alone.

use serde_json::Value;

use crate::driver::Browser;
use crate::session::Session;

/// What the report script left in an attribute of the root element.
fn report(browser: &Browser, session: &Session, page: &str) -> Value {
    browser.go(&format!("file://{}", session.path(page).display()));
    let left = browser.run("return document.documentElement.getAttribute('data-report')", vec![]);
    serde_json::from_str(left.as_str().unwrap_or_else(|| panic!("no report on {page}"))).unwrap()
}

/// For each element that was put in: whether it is in the head or the body, and how many of the
/// page's own elements stand before and behind it there.
const REPORT: &str = "addEventListener('load', function () {
  var report = {};
  document.querySelectorAll('[data-deft-pin]').forEach(function (element) {
    var part = element.closest('head, body'), seen = false, before = 0, behind = 0;
    part.querySelectorAll('*').forEach(function (other) {
      if (other === element) seen = true;
      else if (!other.hasAttribute('data-deft-pin')) seen ? behind++ : before++;
    });
    report[element.dataset.deftPin] = [part.localName, before, behind];
  });
  report.color = getComputedStyle(document.body || document.head).getPropertyValue('--seen').trim();
  document.documentElement.setAttribute('data-report', JSON.stringify(report));
});";

#[test]
fn chromium_finds_everything_in_its_slot_on_odd_pages() {
    let pages = [
        "<!doctype html>\n<html>\n<head>\n<title>Fares</title>\n</head>\n<body>\n<p>one</p>\n</body>\n</html>",
        "<p>no tags at all",
        "<title>Fares</title>",
        "<head></head><title>late</title><p>",
        "<body><p>one</body><p>more</html> <!-- </body> -->",
        "<body><script>var s = '</body>';</script><p>x</body>",
        "<body><p>x<!-- never closed </body>",
        "<body><textarea>never closed</body>",
        "<body><svg><g></body>",
        "<body><svg><foreignObject><div></body>",
        "<body><template><p></body>",
        "<body><p>cut off <a href='x",
        "<body><p>a</",
        "<body><select><option>x</body>",
        "<head><template></head><p>",
        "<!doctype html><html><head><meta charset=windows-1252></head><body><p>\u{e9}</body></html>",
    ];
    let session = Session::with(&[
        (
            "deft-pin.toml",
            "[site]\nroot = 'site'\n[pin.h]\nscript = 'h.js'\nslot = 'head-start'\n[pin.s]\nstyle = 's.css'\n[pin.b]\nscript = 'h.js'\nslot = 'body-start'\n[pin.f]\nscript = 'f.js'\n",
        ),
        ("h.js", "window.seen = (window.seen || 0) + 1; // </script> <!--"),
        ("f.js", REPORT),
        ("s.css", "* { --seen: yes } /* </style> */"),
    ]);
    for (number, page) in pages.iter().enumerate() {
        session.write(&format!("site/deep/er/p{number}.html"), page);
    }
    let browser = Browser::open();
    for manner in ["", "--inline"] {
        session.good(&format!("build --out out {manner}"));
        for (number, page) in pages.iter().enumerate() {
            let found = report(&browser, &session, &format!("out/deep/er/p{number}.html"));
            let shown = format!("{manner} {page:?}: {found}");
            assert_eq!((&found["h"][0], &found["h"][1]), (&"head".into(), &0.into()), "{shown}");
            assert_eq!((&found["s"][0], &found["s"][2]), (&"head".into(), &0.into()), "{shown}");
            assert_eq!((&found["b"][0], &found["b"][1]), (&"body".into(), &0.into()), "{shown}");
            assert_eq!((&found["f"][0], &found["f"][2]), (&"body".into(), &0.into()), "{shown}");
            assert_eq!(found["color"], "yes", "{shown}");
        }
    }
}

/// Which of a page's elements have the colour that the pin gives, by their IDs.
const COLOURED: &str = "addEventListener('load', function () {
  var all = [].slice.call(document.querySelectorAll('[id]'));
  var hit = all.filter(function (e) { return getComputedStyle(e).color === 'rgb(1, 2, 3)'; });
  document.documentElement.setAttribute('data-report', JSON.stringify(hit.map(function (e) { return e.id; })));
});";

#[test]
fn chromium_applies_a_fenced_sheet_to_the_target_alone() {
    // Every element has a colour of its own, so that none is inherited.
    let page = "<!doctype html><style>* { color: red }</style><body class=dark><h2 id=a class=x>a</h2><section id=s><h2 id=b class=x>b</h2>\
        <div id=c><p id=d class=x>d</p><p id=e>e</p></div></section><section id=t><h2 id=f class=x>f</h2><p id=g>g</p></section></body>";
    let table: &[(&str, &str, &[&str])] = &[
        ("#s", "h2 { color: rgb(1, 2, 3) }", &["b"]),
        ("#s", ".x, p { color: rgb(1, 2, 3) }", &["b", "d", "e"]),
        ("#s", ":scope { color: rgb(1, 2, 3) }", &["s"]),
        ("#s", ":scope > div p:first-child { color: rgb(1, 2, 3) }", &["d"]),
        ("#s", ".dark h2 { color: rgb(1, 2, 3) }", &["b"]),
        ("#s", "section:has(p) { color: rgb(1, 2, 3) }", &["s"]),
        ("#s", "h2 ~ section h2, body { color: rgb(1, 2, 3) }", &["b"]),
        ("section", "h2:not(:scope .x) { color: rgb(1, 2, 3) }", &[]),
        ("#s, #g", "* { color: rgb(1, 2, 3) }", &["s", "b", "c", "d", "e", "g"]),
        ("#s", "@media (min-width: 1px) { p { color: rgb(1, 2, 3) } }", &["d", "e"]),
        ("#s", "p { color: rgb(1, 2, 3) } #c p { color: red } #e { color: rgb(1, 2, 3) }", &[]),
    ];
    let session = Session::with(&[("f.js", COLOURED), ("site/index.html", page)]);
    let browser = Browser::open();
    for (within, css, expected) in table {
        session.write(
            "deft-pin.toml",
            format!(
                "[site]\nroot = 'site'\n[pin.p]\nwithin = '{within}'\nstyle = 'p.css'\nscript = 'f.js'\n"
            ),
        );
        session.write("p.css", css);
        session.run("build --out out --anyway");
        let found = report(&browser, &session, "out/index.html");
        assert_eq!(found, serde_json::json!(expected), "{css} within {within}");
    }
}
