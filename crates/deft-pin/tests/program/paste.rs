//! `paste`: what goes into the boxes of a host, driven as at a terminal.

use crate::session::Session;
use serde_json::{Value, json};

const PAGE: &str = "<!doctype html><html><head><title>P</title></head><body><main><h1>Fares</h1><p class=lead>x</p></main></body></html>";

/// A site of three pages with two pins: one for all of them, one for two; and its board, all but the host.
fn ferries() -> Session {
    let session = Session::new();
    for file in ["index.html", "fares/index.html", "piers/index.html"] {
        session.write(&format!("site/{file}"), PAGE);
    }
    session.write("all.css", "h1 { color: teal }\n");
    session.write("some.css", ".lead { color: navy; background: url(dot.svg) }\n");
    session.write("dot.svg", "<svg xmlns='http://www.w3.org/2000/svg'/>");
    session.write("some.js", "document.title = 'some';\n");
    session
}

const PINS: &str = "[pin.all]\nstyle = 'all.css'\n[pin.some]\npages = ['/fares/', '/piers/']\nstyle = 'some.css'\nscript = 'some.js'\n";

fn board(session: &Session, host: &str, pins: &str) {
    session.write("deft-pin.toml", format!("[site]\nroot = 'site'\n[host]\n{host}\n{pins}"));
}

/// Each piece of an answer as `name where slot takes change pages`.
fn drawn(answer: &Value) -> Vec<String> {
    let pieces = answer["pieces"].as_array().unwrap().iter();
    let draw = pieces.map(|piece| {
        let pages: Vec<&str> = piece["pages"].as_array().unwrap().iter().filter_map(Value::as_str).collect();
        let text = |key: &str| piece[key].as_str().unwrap_or("-").to_owned();
        let parts =
            [text("piece"), text("where"), text("slot"), text("takes"), text("change"), pages.join(",")];
        parts.join(" ").trim_end().to_owned()
    });
    draw.collect()
}

#[test]
fn each_kind_of_host_gets_its_pieces() {
    let table: &[(&str, &[&str])] = &[
        ("kind = 'site-slots'", &["site-head site head html new", "site-foot site foot html new"]),
        ("kind = 'page-slots'", &["site-head site head html new", "site-foot site foot html new"]),
        (
            "kind = 'page-slots'\nprefer = 'page'",
            &[
                "site-head site head html new", "pages-fares-and-1-head page head html new /fares/,/piers/",
                "pages-fares-and-1-foot page foot html new /fares/,/piers/",
            ],
        ),
        (
            "kind = 'inserted'",
            &[
                "inserted-all-head site head html new", "inserted-some-head site head html new",
                "inserted-some-foot site foot html new",
            ],
        ),
        (
            "kind = 'blocks'",
            &[
                "page-home-block page block html new /",
                "pages-fares-and-1-block page block html new /fares/,/piers/",
            ],
        ),
        (
            "kind = 'site-slots'\nsite = []\nstyles = 'site'\nscripts = 'site'",
            &["site-styles site styles css new", "site-scripts site scripts js new"],
        ),
    ];
    for (host, expected) in table {
        let session = ferries();
        board(&session, host, PINS);
        let answer = session.good("paste --format json").json();
        assert_eq!(drawn(&answer), *expected, "{host}");
        for piece in answer["pieces"].as_array().unwrap() {
            let text = session.read(&format!("paste-up/{}", piece["file"].as_str().unwrap()));
            assert_eq!(text.chars().count() as u64, piece["characters"].as_u64().unwrap(), "{host}");
            assert_eq!(piece["sha256"].as_str().map(str::len), Some(64), "{host}");
        }
        let kept: Value = serde_json::from_str(&session.read("paste-up/paste.json")).unwrap();
        assert_eq!(kept["pieces"], answer["pieces"], "{host}");
    }
}

#[test]
fn what_changed_since_the_last_paste_up_is_told() {
    let session = ferries();
    let host = "kind = 'page-slots'\nprefer = 'page'";
    board(&session, host, &format!("{PINS}[pin.home]\npages = ['/']\nstyle = 'all.css'\n"));
    session.good("paste");
    board(&session, host, PINS);
    session.write("some.js", "document.title = 'other';\n");
    let answer = session.good("paste --format json").json();
    let expected = [
        "site-head site head html same",
        "pages-fares-and-1-head page head html same /fares/,/piers/",
        "pages-fares-and-1-foot page foot html changed /fares/,/piers/",
        "page-home-head page head - gone /",
    ];
    assert_eq!(drawn(&answer), expected);
    assert_eq!(answer["pieces"][3]["file"], Value::Null);
    let page = session.read("paste-up/paste.html");
    for part in [
        "What changed", "document.title = &#x27;other&#x27;", "Boxes to empty", "Paste this on these 2 pages",
    ] {
        assert!(page.contains(part), "{part}");
    }
    assert!(!session.path("paste-up/pieces/page-home-head.html").exists());
    // The folder of somebody's own is left alone.
    session.write("mine/note.txt", "x");
    session.refused("paste --out mine", "no build of Deft Pin's");
}

#[test]
fn what_a_box_does_not_take_stops_the_paste_up() {
    let session = ferries();
    board(&session, "kind = 'page-slots'\nlongest = 100", PINS);
    let answer = session.run("paste");
    assert_eq!(answer.status, 1);
    assert!(
        answer.stderr.contains("too-long") && answer.stderr.contains("more than its box takes"),
        "{}",
        answer.stderr
    );
    assert!(!session.path("paste-up").exists());
    assert_eq!(session.run("paste --anyway").status, 0);
    assert!(session.path("paste-up/paste.html").exists());
    // A sheet with a NUL would be read as something else.
    session.write("all.css", "h1 { color: teal } /* \0 */\n");
    board(&session, "kind = 'page-slots'", PINS);
    let answer = session.run("check --format json");
    assert!(answer.codes().contains(&"out-of-reach".to_owned()), "{}", answer.stdout);
}

#[test]
fn files_are_carried_along_or_uploaded() {
    let session = ferries();
    board(&session, "kind = 'page-slots'", PINS);
    session.good("paste");
    assert!(session.read("paste-up/pieces/site-head.html").contains("url(\"data:image/svg+xml;base64,"));
    board(&session, "kind = 'page-slots'\nfiles = '/up'", PINS);
    let answer = session.good("paste --format json").json();
    let name = answer["uploads"][0]["as"].as_str().unwrap();
    assert!(session.read("paste-up/pieces/site-head.html").contains(&format!("url(\"/up/{name}\")")));
    assert_eq!(session.read(&format!("paste-up/files/{name}")), session.read("dot.svg"));
    session.write("dot.svg", format!("<svg>{}</svg>", "x".repeat(300_000)));
    board(&session, "kind = 'page-slots'", PINS);
    let answer = session.run("check --format json");
    assert_eq!(answer.codes(), ["out-of-reach"]);
}

#[test]
fn names_are_given_by_hand_where_the_editor_can() {
    let session = ferries();
    let pins = "[pin.m]\nwithin = 'main'\n[[pin.m.mark]]\nat = 'h1'\nid = 'fares'\nclass = 'big'\nattributes = { data-x = '1' }\n";
    board(&session, "kind = 'page-slots'\nmarks = 'by-hand'", pins);
    let answer = session.good("paste --format json").json();
    let row = json!({"what": "mark", "pin": "m", "page": "/fares/", "selector": "h1", "id": "fares", "class": "big"});
    assert!(answer["by_hand"].as_array().unwrap().contains(&row), "{answer}");
    let foot = session.read("paste-up/pieces/site-foot.html");
    assert!(foot.contains("data-x") && !foot.contains("\"big\""), "{foot}");
    assert!(session.read("paste-up/paste.html").contains("Names to give by hand"));
}

#[test]
fn a_host_says_what_it_is() {
    let session = ferries();
    board(&session, "kind = 'files'", PINS);
    session.refused("paste", "deft-pin build --out DIR");
    let table = [
        ("kind = 'site-slots'\nsite = ['head', 'feet']", "there is no box `feet`"),
        ("kind = 'files'\nlongest = 500", "says nothing where whole files can be changed"),
        ("kind = 'page-slots'\nlongest = 5", "100 at the least"),
        ("kind = 'page-slots'\nstrips = ['a b']", "names no tag, attribute or at-rule"),
        ("kind = 'page-slots'\nonly = { before = '{% if %}' }", "does not say where the pages go"),
        ("kind = 'page-slots'\nfiles = 'up'", "is no address of a folder"),
        ("kind = 'blocks'\npage = []", "has no box at all"),
        ("kind = 'page-slots'\nstyle = 'site'", "did you mean `styles`?"),
        ("kind = 'inserted'\nprefer = 'pages'", "did you mean `page`?"),
        ("kind = 'page-slots'\nstyles = { boxes = 'site', neste = false }", "did you mean `nested`?"),
    ];
    for (host, words) in table {
        board(&session, host, PINS);
        session.refused("check", words);
    }
    // A build shows the pages as they would be if files could be changed.
    board(&session, "kind = 'site-slots'", PINS);
    let answer = session.good("build --out out");
    assert!(answer.stderr.contains("deft-pin paste"), "{}", answer.stderr);
    assert!(!session.read("out/index.html").contains("some"));
}

#[test]
fn boxes_of_css_take_what_the_board_says() {
    let session = ferries();
    session.write("all.css", "main { h1 { color: teal; &:hover { color: red } } }\n");
    let host = "kind = 'site-slots'\nsite = []\nscripts = 'site'\nstyles = { boxes = 'site', nested = false, at-rules = ['media'] }";
    board(&session, host, PINS);
    session.good("paste");
    let sheet = session.read("paste-up/pieces/site-styles.css");
    assert!(
        sheet.contains(":is(main) h1 { color: teal; }\n:is(:is(main) h1):hover { color: red; }"),
        "{sheet}"
    );
    // What is for some pages is kept there by a class of the root element.
    assert!(sheet.contains(".lead:where(:root.deft-pin-some, :root.deft-pin-some *)"), "{sheet}");
    let scripts = session.read("paste-up/pieces/site-scripts.js");
    assert!(scripts.contains("classList.add(\"deft-pin-some\")"), "{scripts}");
    session.write("all.css", "@supports (top: 0) { h1 { color: teal } }\n");
    assert_eq!(session.run("check --format json").codes(), ["page-apart", "stripped"]);
}

#[test]
fn sheets_in_one_box_of_css_keep_their_imports_and_namespaces() {
    let session = ferries();
    let host = "kind = 'site-slots'\nsite = []\nstyles = 'site'";
    board(&session, host, "[pin.one]\nstyle = 'all.css'\n[pin.two]\nstyle = 'two.css'\n");
    session.write("all.css", "h1 { color: teal }\n");
    let svg = "@namespace svg url(http://www.w3.org/2000/svg);";
    session
        .write("two.css", format!("@import url(https://fonts.test/own);\n{svg}\nsvg|a {{ fill: teal }}\n"));
    session.run("paste --anyway");
    assert_eq!(
        session.read("paste-up/pieces/site-styles.css"),
        format!(
            "@import url(https://fonts.test/own);\n{svg}\n/* one */\nh1 {{ color: teal }}\n/* two */\nsvg|a {{ fill: teal }}\n"
        )
    );
    // One that would count for the other sheet too cannot be there.
    session.write("two.css", "@namespace url(http://www.w3.org/2000/svg);\na { fill: teal }\n");
    assert!(session.run("check --format json").codes().contains(&"out-of-reach".to_owned()));
    session.run("paste --anyway");
    assert!(!session.read("paste-up/pieces/site-styles.css").contains("fill"));
    // Alone in the box it can.
    board(&session, host, "[pin.two]\nstyle = 'two.css'\n");
    session.run("paste --anyway");
    assert!(session.read("paste-up/pieces/site-styles.css").starts_with("@namespace url("));
}

#[test]
fn a_host_keeps_pieces_to_pages_by_its_own_means() {
    let session = ferries();
    let table = [
        ("{{paths}}", "PINS", "{if /fares/, /piers/}\n<style data-deft-pin=\"some\">"),
        ("{{path}}", "PINS", "{if /piers/}\n<style data-deft-pin=\"some\">"),
        (
            "{{pattern}}", "[pin.some]\npages = ['/f*']\nstyle = 'some.css'\n",
            "{if /f*}\n<style data-deft-pin=\"some\">",
        ),
        // Two patterns are no one condition: a guard does it.
        ("{{pattern}}", "PINS", "<style data-deft-pin=\"some\" media=\"not all\">"),
        (
            "{{paths}}",
            "[pin.some]\nhaving = 'h1'\npages = ['/']\nstyle = 'some.css'\n",
            "{if /}\n<style data-deft-pin=\"some\" media=\"not all\">",
        ),
    ];
    for (mark, pins, expected) in table {
        let pins = if pins == "PINS" { PINS } else { pins };
        board(
            &session,
            &format!("kind = 'site-slots'\nonly = {{ before = '{{if {mark}}}', behind = '{{end}}' }}"),
            pins,
        );
        session.good("paste");
        let head = session.read("paste-up/pieces/site-head.html");
        assert!(head.contains(expected), "{mark} {pins}: {head}");
    }
}

#[test]
fn what_a_host_takes_out_is_gone_round() {
    let session = ferries();
    session.write("lib.js", "var Tides = 1;\n");
    let pins = format!(
        "[library.lib]\nscript = 'lib.js'\nstyle = ['all.css', 'https://files.sorrelsound.example/tides.css']\n{PINS}needs = ['lib']\n"
    );
    let table = [
        ("", "<style data-deft-pin=\"lib\" media=\"not all\">", "type=\"text/plain\""),
        (
            "'style'",
            "<link rel=\"stylesheet\" href=\"data:text/css;charset=utf-8;base64,",
            "type=\"text/plain\"",
        ),
        ("'link'", "@import \"https://files.sorrelsound.example/tides.css\"", "type=\"text/plain\""),
        ("'[type]'", "<style data-deft-pin=\"lib\" media=\"not all\">", "made.text = \"var Tides = 1;\\n\""),
        ("'[media]'", "h1:where(:root.deft-pin-lib, :root.deft-pin-lib *)", "type=\"text/plain\""),
    ];
    for (strips, in_head, in_foot) in table {
        board(&session, &format!("kind = 'site-slots'\nstrips = [{strips}]"), &pins);
        session.run("paste --anyway");
        let (head, foot) =
            (session.read("paste-up/pieces/site-head.html"), session.read("paste-up/pieces/site-foot.html"));
        assert!(head.contains(in_head), "{strips}: {head}");
        assert!(foot.contains(in_foot), "{strips}: {foot}");
    }
}

#[test]
fn a_frame_holds_what_stands_in_it_and_no_more() {
    let session = ferries();
    let pins = "[pin.offer]\nstyle = 'all.css'\nscript = 'some.js'\n[[pin.offer.markup]]\ntext = '<h1>Children sail free</h1>'\nplace = 'append'\nat = 'main'\n\
                [pin.out]\nstyle = 'some.css'\n";
    board(&session, "kind = 'framed-blocks'", pins);
    let answer = session.run("paste --anyway --format json").json();
    assert_eq!(drawn(&answer), ["pages-home-and-2-block page block html new /,/fares/,/piers/"]);
    assert_eq!(answer["findings"][0]["code"], "out-of-reach");
    let text = session.read("paste-up/pieces/pages-home-and-2-block.html");
    let places: Vec<usize> =
        ["<style", "<h1>", "<script"].iter().map(|part| text.find(part).unwrap()).collect();
    assert!(places.is_sorted() && !text.contains(".lead"), "{text}");
    board(&session, "kind = 'framed-blocks'\nframe = ['allow-popups']", pins);
    assert_eq!(session.run("check --format json").codes(), ["out-of-reach", "out-of-reach"]);
}

#[test]
fn short_pieces_say_the_same() {
    let session = ferries();
    session.write("all.css", "/* a comment */\nh1 {\n  color: teal;\n}\n");
    board(&session, "kind = 'page-slots'", PINS);
    session.good("paste --short");
    let head = session.read("paste-up/pieces/site-head.html");
    assert!(head.contains("h1{color: teal}") && !head.contains("comment"), "{head}");
}

#[test]
fn the_demo_board_for_boxes_has_the_same_pins() {
    let folder = concat!(env!("CARGO_MANIFEST_DIR"), "/demo/");
    let read = |name: &str| std::fs::read_to_string(format!("{folder}{name}")).unwrap();
    let bare = |name: &str| {
        let mut board: toml::Table = read(name).parse().unwrap();
        board.remove("host");
        board
    };
    assert_eq!(bare("boxes.toml"), bare("deft-pin.toml"));
}

#[test]
fn nothing_is_to_be_said_of_the_demo_on_hosts_that_reach_its_pages() {
    let session = Session::new();
    session.good("demo d");
    let board = session.read("d/deft-pin.toml");
    for kind in ["files", "page-slots", "site-slots", "inserted", "blocks"] {
        session.write("d/hosted.toml", format!("{board}\n[host]\nkind = '{kind}'\n"));
        let answer = session.run("check --board d/hosted.toml --format json");
        let said: Value = serde_json::from_str(&answer.stdout).unwrap();
        assert_eq!(said["findings"], json!([]), "{kind}");
    }
}
