//! The frame page of a preview, worked with as somebody does: files are written, pins are switched, pages are scrolled.

use std::time::{Duration, Instant};

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::{Served, Session};

const BOARD: &str = "[site]\nroot = 'site'\n
[pin.notice]\nwithin = 'main'\nstyle = 'pins/notice.css'\n
[pin.bell]\npages = ['/']\nscript = 'pins/bell.js'\nstyle = 'pins/bell.css'\n";

fn ferries() -> Session {
    let long = "<p>tide</p>".repeat(200);
    let page = |title: &str| {
        format!(
            "<!doctype html><title>{title}</title><link rel=stylesheet href=/site.css><main><h1>{title}</h1><a id=go href='/fares/'>Fares</a>{long}</main>"
        )
    };
    Session::with(&[
        ("deft-pin.toml", BOARD),
        (
            "pins/notice.css",
            "h1 { color: rgb(1, 2, 3) } @media (max-width: 500px) { h1 { letter-spacing: 3px } } @media (min-width: 1000px) { h1 { letter-spacing: 5px } }",
        ),
        ("pins/bell.css", "a { color: rgb(9, 9, 9) }"),
        ("pins/bell.js", "document.documentElement.dataset.bell = 'rung';"),
        ("site/site.css", "h1 { margin-left: 1px }"),
        ("site/index.html", &page("Ferries")),
        ("site/fares/index.html", &page("Fares")),
    ])
}

/// Asks again until a script of a page gives what is expected.
fn wait_for(browser: &Browser, script: &str, expected: &Value) {
    let until = Instant::now() + Duration::from_secs(25);
    loop {
        let given = browser.run(script, vec![]);
        if given == *expected {
            return;
        }
        assert!(Instant::now() < until, "{script}: {given}, and not {expected}");
        std::thread::sleep(Duration::from_millis(20));
    }
}

/// What a script says of the view with this number; `w` is its window.
fn in_view(number: usize, script: &str) -> String {
    format!(
        // A view that is on its way to its page has nothing in it yet.
        "try {{ const w = document.querySelectorAll('iframe')[{number}]?.contentWindow; return w && w.document.querySelector('h1') ? ({script}) : null; }} catch (error) {{ return null; }}"
    )
}

fn style(of: &str, name: &str) -> String {
    format!("w.getComputedStyle(w.document.querySelector('{of}')).{name}")
}

fn frame(browser: &Browser, served: &Served) {
    browser.go(&served.url("/_pins/#/"));
    wait_for(browser, &in_view(2, &style("h1", "color")), &json!("rgb(1, 2, 3)"));
    wait_for(browser, "return document.querySelectorAll('.pin').length", &json!(2));
}

#[test]
fn a_sheet_is_shown_at_once_and_nothing_is_lost() {
    let session = ferries();
    let mut served = session.preview("");
    let browser = Browser::open();
    // A page alone, and the same in the frame page.
    for (go, view) in [("/", None), ("/_pins/#/", Some(1))] {
        browser.go(&served.url(go));
        let script = |script: &str| match view {
            None => format!("const w = window; return {script}"),
            Some(number) => in_view(number, script),
        };
        session.write("pins/notice.css", "h1 { color: rgb(1, 2, 3) }");
        wait_for(&browser, &script(&style("h1", "color")), &json!("rgb(1, 2, 3)"));
        browser.run(&script("(w.kept = 'kept', w.scrollTo(0, 900), w.scrollY)"), vec![]);
        let mark = browser.run(&script("w.performance.timeOrigin"), vec![]);
        session.write("pins/notice.css", "h1 { color: rgb(4, 5, 6) }");
        wait_for(&browser, &script(&style("h1", "color")), &json!("rgb(4, 5, 6)"));
        assert_eq!(
            browser.run(&script("[w.kept, w.scrollY, w.performance.timeOrigin]"), vec![]),
            json!(["kept", 900, mark])
        );
        // A sheet of the site's own.
        session.write("site/site.css", "h1 { margin-left: 7px }");
        wait_for(&browser, &script(&style("h1", "marginLeft")), &json!("7px"));
        assert_eq!(browser.run(&script("w.kept"), vec![]), json!("kept"));
        // A script: the page is loaded again, where it was.
        session.write("pins/bell.js", format!("document.documentElement.dataset.bell = '{go}';"));
        wait_for(&browser, &script("w.document.documentElement.dataset.bell"), &json!(go));
        wait_for(&browser, &script("[w.kept === undefined, w.scrollY]"), &json!([true, 900]));
        // A mistake in the board: the page stays as it is.
        browser.run(&script("(w.kept = 'still')"), vec![]);
        session.write("deft-pin.toml", BOARD.replace("within", "wihtin"));
        served.hear("the last good one is served on");
        if view.is_some() {
            wait_for(
                &browser,
                "return !document.getElementById('trouble').hidden && /within/.test(document.getElementById('trouble').textContent)",
                &json!(true),
            );
        }
        assert_eq!(browser.run(&script("w.kept"), vec![]), json!("still"));
        session.write("deft-pin.toml", BOARD);
        served.hear("the board is good again");
        served.heard.clear();
        if view.is_some() {
            wait_for(&browser, "return document.getElementById('trouble').hidden", &json!(true));
        }
        // Nothing of ours is in the page.
        let own = browser.run(
            &script("[w.document.querySelectorAll('script:not([data-deft-pin])').length, w.location.search]"),
            vec![],
        );
        assert_eq!(own, json!([0, ""]));
        session.write("site/site.css", "h1 { margin-left: 1px }");
        session.write("pins/bell.js", "document.documentElement.dataset.bell = 'rung';");
        wait_for(&browser, &script("w.document.documentElement.dataset.bell"), &json!("rung"));
    }
}

#[test]
fn what_changed_before_a_page_listened_is_shown() {
    let session = ferries();
    let served = session.preview("");
    let browser = Browser::open();
    browser.go(&served.url("/"));
    browser.run("const ask = new XMLHttpRequest(); ask.open('GET', '/', false); ask.send(); window.old = ask.responseText", vec![]);
    session.write("pins/notice.css", "h1 { color: rgb(4, 5, 6) }");
    session.write("site/site.css", "h1 { margin-left: 7px }");
    let look = |of: &str| {
        format!(
            "const w = {of}, h1 = w.document.querySelector('h1'), own = h1 && w.getComputedStyle(h1); return own ? [own.color, own.marginLeft] : null"
        )
    };
    wait_for(&browser, &look("window"), &json!(["rgb(4, 5, 6)", "7px"]));
    // The page as it was made before, which the change has passed by.
    browser.run(
        "const frame = document.body.appendChild(document.createElement('iframe')), d = frame.contentDocument; d.open(); d.write(window.old); d.close()",
        vec![],
    );
    wait_for(
        &browser,
        &look("document.querySelector('iframe').contentWindow"),
        &json!(["rgb(4, 5, 6)", "7px"]),
    );
}

#[test]
fn pins_are_switched_in_the_frame_page() {
    let session = ferries();
    let served = session.preview("");
    let browser = Browser::open();
    browser.resize(1280, 800);
    frame(&browser, &served);
    let press = |pin: usize, button: usize| {
        browser.run(
            &format!("document.querySelectorAll('.pin')[{pin}].querySelectorAll('.choose button')[{button}].click()"),
            vec![],
        );
    };
    let look = format!(
        "[{}, {}, w.document.documentElement.dataset.bell || '']",
        style("h1", "color"),
        style("a", "color")
    );
    let rows = [
        (None, json!(["rgb(1, 2, 3)", "rgb(9, 9, 9)", "rung"])),
        (Some((0, 1)), json!(["rgb(0, 0, 0)", "rgb(9, 9, 9)", "rung"])),
        (Some((0, 0)), json!(["rgb(1, 2, 3)", "rgb(9, 9, 9)", "rung"])),
        (Some((0, 2)), json!(["rgb(1, 2, 3)", "rgb(0, 0, 238)", ""])),
        (Some((1, 0)), json!(["rgb(1, 2, 3)", "rgb(9, 9, 9)", "rung"])),
    ];
    for (pressed, expected) in rows {
        if let Some((pin, button)) = pressed {
            press(pin, button);
        }
        for view in 0..3 {
            wait_for(&browser, &in_view(view, &look), &expected);
        }
        wait_for(&browser, &in_view(0, "w.location.search"), &json!(""));
    }
    // A page that is loaded again keeps the choice.
    press(1, 1);
    wait_for(&browser, &in_view(1, &look), &json!(["rgb(1, 2, 3)", "rgb(0, 0, 238)", ""]));
    session.write(
        "site/index.html",
        session.read("site/index.html").replace(">Ferries</h1>", " id=new>Boats</h1>"),
    );
    wait_for(&browser, &in_view(1, "w.document.querySelector('h1').textContent"), &json!("Boats"));
    wait_for(&browser, &in_view(1, &look), &json!(["rgb(1, 2, 3)", "rgb(0, 0, 238)", ""]));
}

#[test]
fn widths_have_their_media_queries_and_views_go_together() {
    let session = ferries();
    let served = session.preview("");
    let browser = Browser::open();
    browser.resize(1280, 800);
    frame(&browser, &served);
    for (view, spacing, width) in [(0, "3px", 390), (1, "normal", 820), (2, "5px", 1280)] {
        wait_for(
            &browser,
            &in_view(view, &format!("[{}, w.innerWidth]", style("h1", "letterSpacing"))),
            &json!([spacing, width]),
        );
    }
    // The plain page stands beside it, and scrolls with it.
    browser.run("document.getElementById('plain').click()", vec![]);
    wait_for(&browser, &in_view(4, &style("h1", "color")), &json!("rgb(0, 0, 0)"));
    wait_for(&browser, &in_view(5, &style("h1", "color")), &json!("rgb(1, 2, 3)"));
    browser.run(&in_view(5, "w.scrollTo(0, 400)"), vec![]);
    wait_for(&browser, &in_view(4, "w.scrollY"), &json!(400));
    wait_for(&browser, &in_view(0, "w.scrollY > 100"), &json!(true));
    // A link takes all of them along.
    browser.run(&in_view(1, "w.document.getElementById('go').click()"), vec![]);
    for view in 0..6 {
        wait_for(&browser, &in_view(view, "w.document.title"), &json!("Fares"));
    }
    wait_for(&browser, &in_view(4, &style("h1", "color")), &json!("rgb(0, 0, 0)"));
    wait_for(
        &browser,
        "return [location.hash, document.getElementById('page').value, document.querySelectorAll('.pin').length]",
        &json!(["#/fares/", "/fares/", 1]),
    );
    // A script that goes elsewhere does too.
    browser.run(&in_view(0, "(w.location.href = '/')"), vec![]);
    for view in 0..6 {
        wait_for(&browser, &in_view(view, "w.document.title"), &json!("Ferries"));
    }
    wait_for(&browser, &in_view(0, &style("h1", "color")), &json!("rgb(0, 0, 0)"));
    // What pins touch is drawn around.
    browser.run("document.getElementById('outline').click()", vec![]);
    wait_for(
        &browser,
        "return document.querySelectorAll('.view:not(.plain) .outlines i').length >= 6 && !document.querySelector('.plain .outlines')",
        &json!(true),
    );
    assert_eq!(
        browser.run(&in_view(1, "w.document.querySelector('.outlines') === null"), vec![]),
        json!(true)
    );
}

#[test]
fn pages_of_other_origins_get_nothing() {
    let session = ferries();
    let served = session.preview("");
    let other = session.preview("--site site");
    let browser = Browser::open();
    browser.go(&other.url("/"));
    let of = served.url("");
    let tried = browser.run_async(&format!(
        "const done = arguments[arguments.length - 1], results = [];
        const note = (name, what) => what.then(() => results.push(name + ' got in'), () => results.push(name + ' kept out'));
        const element = (tag, set) => new Promise((good, bad) => {{ const own = document.createElement(tag); own.onload = good; own.onerror = bad; set(own); document.head.append(own); }});
        Promise.all([
          note('fetch', fetch('{of}/_pins/site')),
          note('script', element('script', own => own.src = '{of}/_pins/reload.js')),
          note('sheet', element('link', own => {{ own.rel = 'stylesheet'; own.href = '{of}/site.css'; }})),
          note('events', new Promise((good, bad) => {{ const own = new EventSource('{of}/_pins/events'); own.onopen = good; own.onerror = bad; }})),
        ]).then(() => done(results.sort().join(', ')));"
    ));
    assert_eq!(tried, "events kept out, fetch kept out, script kept out, sheet kept out");
}

#[test]
fn pins_run_under_the_policy_of_a_server() {
    let policies = [
        "default-src 'self'",
        "default-src 'none'",
        "script-src 'nonce-abc' 'strict-dynamic'; style-src 'nonce-abc'; connect-src 'none'; object-src 'none'",
        "default-src https://elsewhere.example; script-src 'unsafe-eval'; style-src-elem 'none'",
        "script-src 'none', style-src 'none', default-src 'none'",
    ];
    let browser = Browser::open();
    for policy in policies {
        let session = ferries();
        session.write("pins/bell.js", "document.documentElement.dataset.bell = 'rung';");
        let nginx = session.nginx("site", &format!("add_header Content-Security-Policy \"{policy}\";"));
        let served = session.preview(&format!("--of http://127.0.0.1:{}", nginx.port));
        // What the page's own scripts may not do they may not do here.
        let page = session
            .read("site/index.html")
            .replace("</main>", "</main><script>document.title = 'run'</script>");
        session.write("site/index.html", page);
        browser.go(&served.url("/"));
        let look = format!(
            "const w = window; return [w.document.documentElement.dataset.bell, {}, w.document.title]",
            style("h1", "color")
        );
        wait_for(&browser, &look, &json!(["rung", "rgb(1, 2, 3)", "Ferries"]));
        session.write("pins/notice.css", "h1 { color: rgb(4, 5, 6) }");
        wait_for(
            &browser,
            &format!("const w = window; return {}", style("h1", "color")),
            &json!("rgb(4, 5, 6)"),
        );
    }
}
