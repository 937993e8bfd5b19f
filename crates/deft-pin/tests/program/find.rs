//! Finding: pages, sections and elements, and a look to take along.

use crate::session::Session;
use serde_json::{Value, json};

fn demo() -> Session {
    let session = Session::new();
    session.good("demo . -q");
    session
}

#[test]
fn a_survey_tells_pages_apart_and_shows_the_sections_of_one() {
    let session = demo();
    let answer = session.good("survey --format json").json();
    assert_eq!(answer["version"], 1);
    let pages = answer["pages"].as_array().unwrap();
    assert_eq!(pages.len(), 13);
    let fares = pages.iter().find(|page| page["page"] == "/fares/").unwrap();
    assert_eq!(
        (&fares["file"], &fares["marker"]),
        (&json!("fares/index.html"), &json!("body.page-type-fares"))
    );
    let status = |page: &Value| {
        let sections = page["sections"].as_array().unwrap();
        sections.iter().find(|section| section["id"] == "status").cloned().unwrap()
    };
    let one = session.good("survey --site site timetable/index.html --format json").json();
    let page = &one["pages"][0];
    let expected = json!({"selector": "#status", "tag": "section", "role": null, "id": "status", "line": 38,
        "depth": 2, "heading": "Sailing today", "elements": 6, "times": 1});
    assert_eq!(status(page), expected);
    let id = page["ids"].as_array().unwrap().iter().find(|id| id["id"] == "status").unwrap();
    assert_eq!(*id, json!({"id": "status", "tag": "section", "line": 38, "times": 1, "pages": 3}));
    assert_eq!(page["slots"], json!(["head-start", "head", "body-start", "foot"]));
    assert_eq!(page["loads"][0], json!({"kind": "style", "address": "assets/reset.css"}));
    let marram = session.good("survey /piers/marram/").stdout;
    assert!(marram.contains("2 times here"), "{marram}");
    assert!(marram.lines().all(|line| line.chars().count() <= 100), "{marram}");
    let own = session.good("survey / --section p --format json").json();
    assert!(own["pages"][0]["sections"].as_array().unwrap().iter().all(|section| section["tag"] == "p"));
}

#[test]
fn many_pages_are_cut_and_counted() {
    let session = Session::new();
    for number in 0..60 {
        session.write(
            &format!("site/log/{number}.html"),
            format!("<title>Log {number}</title><body class=log>"),
        );
    }
    let answer = session.good("survey --site site").stdout;
    assert!(answer.contains("and 20 more pages; --all shows them"), "{answer}");
    assert_eq!(session.good("survey --site site --all").stdout.matches("/log/").count(), 60);
    session.refused("survey --site site /log/6.htm", "there is no page `/log/6.htm`; did you mean");
    session.refused("survey --site nowhere", "the folder `nowhere` cannot be read");
    session.refused("survey --site site --section a[", "`a[` is no selector");
    session.refused("survey", "`survey` and `locate` take `--site DIR` instead");
}

#[test]
fn elements_are_located_by_text_name_and_selector() {
    let session = demo();
    let best = |arguments: &[&str]| {
        let output = session.command("locate").args(arguments).output().unwrap();
        let answer: Value = serde_json::from_slice(&output.stdout).unwrap();
        let first = &answer["elements"][0];
        (
            first["page"].clone(),
            first["line"].clone(),
            first["selectors"][0]["selector"].as_str().unwrap().to_owned(),
        )
    };
    let table: &[(&[&str], &str)] = &[
        (&["sailing  TODAY", "--format=json"], "#status h2"),
        (&["status", "--format=json"], "#status"),
        (&["main > section:nth-child(2) h2", "--page=/timetable/", "--format=json"], "#status h2"),
        (&["time", "--selector", "--page=/timetable/", "--format=json"], "#status time"),
        (&["#intro-88c1", "--page=timetable/", "--format=json"], ".intro"),
    ];
    for (arguments, expected) in table {
        assert_eq!(best(arguments).2, *expected, "{arguments:?}");
    }
    let copied = session.good("locate #intro-88c1 --page /timetable/ --copy");
    assert_eq!(copied.stdout, ".intro\n");
    session.refused("locate #Status", "nothing matches `#Status`; there is `#status`");
    session.refused("locate statusx --copy", "there is `#status`");
    session.refused("locate xyzzy", "nothing is called `xyzzy`");
    let near = session.good("locate statusx").stdout;
    assert!(near.starts_with("nothing is called `statusx`; `#status` is nearly that"), "{near}");
    let answer = session.good("locate .status --selector --format json --site site").stderr;
    assert!(answer.is_empty(), "{answer}");
}

#[test]
fn a_look_is_lifted_with_what_it_needs() {
    let session = Session::with(&[
        (
            "site/a.html",
            "<!doctype html><style>@font-face { font-family: Sound; src: url(f/s.woff2) } @keyframes turn { to { rotate: 1turn } }\
             :root { --deep: var(--sea); --sea: #0d5c75; --unused: 1 } p { color: red } .call { color: var(--deep); font: 1em Sound, serif; animation: 2s turn }\
             @media (max-width: 600px) { .call { color: black } } .call:hover { color: #fff } nav:hover .call { color: gold }\
             .call::before { content: '>'; color: teal } .call::after { color: teal } p.call { color: green !important; z-index: 1.5 }</style>\
             <link rel=stylesheet href=css/b.css><nav><p class=call style='top: 1px'>Book</p></nav>",
        ),
        ("site/css/b.css", ".call { background: url(../i/w.svg#x) }"),
        ("deft-pin.toml", "[site]\nroot = 'site'\n"),
    ]);
    let lifted = session.good("lift /a.html .call --as mine").stdout;
    let expected = "/* From /a.html, line 1: html > body > nav > p */\n\
        @font-face { font-family: Sound; src: url(\"site/f/s.woff2\") }\n@keyframes turn { to { rotate: 1turn } }\n\
        .mine {\n  font: 1em Sound, serif;\n  animation: 2s turn;\n  background: url(\"site/i/w.svg#x\");\n  top: 1px;\n  color: green;\n}\n\
        .mine::before {\n  content: '>';\n  color: teal;\n}\n";
    assert_eq!(lifted, expected);
    session.write("site/b.html", session.read("site/a.html").replace("p.call {", "p.none {"));
    let lifted = session.good("lift /b.html .call --as mine");
    for part in [
        "  --deep: var(--sea);\n  --sea: #0d5c75;\n",
        "@media (max-width: 600px) {\n  .mine {\n    color: black;\n  }\n}\n",
        ".mine:where(:hover) {\n  color: #fff;\n}\n",
    ] {
        assert!(lifted.stdout.contains(part), "{}", lifted.stdout);
    }
    assert!(!lifted.stdout.contains("unused"), "{}", lifted.stdout);
    assert!(lifted.stderr.contains("`color` of `nav:hover .call`"), "{}", lifted.stderr);
    let resolved = session.good("lift /b.html .call --as mine --resolve --out mine.css");
    assert_eq!(resolved.stdout, "");
    assert!(session.read("mine.css").contains("  color: #0d5c75;"), "{}", session.read("mine.css"));
    session.refused("lift /b.html .call --as mine --out mine.css", "stays as it is");
    session.refused("lift /b.html .cal --as mine", "`.cal` matches nothing on `/b.html`; there is a `call`");
    session.refused("lift /b.html .call --as 9", "cannot be the name of a class");
}

#[test]
fn who_wins_is_told_with_the_step_that_decides() {
    let session = Session::with(&[
        (
            "site/css/site.css",
            "@layer base { .a { width: 1px } }\n.a .b { width: 17px }\n.b { width: 2px; margin: 1px }\n.b:hover { width: 3px }",
        ),
        (
            "site/a.html",
            "<!doctype html><link rel=stylesheet href=css/site.css>\n<div class=a><p id=x class=b style='margin-inline-start: 4px'>x</p></div>",
        ),
        ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.wide]\nwithin = '.a'\nstyle = 'wide.css'\n"),
        ("wide.css", "/* wide */\np { width: 9px !important }"),
    ]);
    let why = |arguments: &str| session.good(&format!("why {arguments} --format json")).json();
    let answer = why("/a.html #x width --site site");
    assert_eq!((&answer["page"], &answer["elements"][0]["element"]), (&json!("/a.html"), &json!("#x")));
    let width = &answer["elements"][0]["properties"][0];
    let expected = json!({"value": "17px", "important": false, "selector": ".a .b", "specificity": [0, 2, 0], "layer": null,
        "origin": "site", "file": "css/site.css", "line": 2, "column": 9, "match": "yes"});
    assert_eq!((&width["winner"], &width["by"]), (&expected, &json!("specificity")));
    // `.b:hover` is as specific, and later: it may win, and no more.
    assert_eq!((&width["may_win"][0]["value"], &width["losers"][0]["value"]), (&json!("3px"), &json!("2px")));
    let hovered = why("/a.html #x width --site site --state hover");
    assert_eq!(hovered["elements"][0]["properties"][0]["winner"]["value"], "3px");
    let margin = why("/a.html #x margin --site site");
    let left = &margin["elements"][0]["properties"].as_array().unwrap()[1];
    assert_eq!(
        (&left["property"], &left["winner"]["declared"]),
        (&json!("margin-left"), &json!("margin-inline-start"))
    );
    assert_eq!((&left["by"], &left["winner"]["origin"]), (&json!("inline"), &json!("inline")));
    let pinned = why("/a.html #x width");
    let winner = &pinned["elements"][0]["properties"][0]["winner"];
    assert_eq!(
        (&winner["origin"], &winner["file"], &winner["line"], &winner["column"], &winner["selector"]),
        (&json!("pin:wide"), &json!("wide.css"), &json!(2), &json!(5), &json!("p"))
    );
    assert_eq!(pinned["elements"][0]["properties"][0]["by"], "importance");
    session.refused("why /a.html #x widht", "there is no property `widht`; did you mean `width`?");
    session.refused("why /a.html #y", "`#y` matches nothing on `/a.html`");
    let text = session.good("why /a.html #x width").stdout;
    assert!(text.contains("by importance") && text.lines().all(|line| line.chars().count() <= 100), "{text}");
}

/// Nobody has touched the page, both colour schemes count, and a declaration of an attribute stands inside of that.
#[test]
fn why_answers_for_the_page_as_it_stands() {
    let session = Session::with(&[(
        "site/a.html",
        "<!doctype html><style>
.b { color: red }
@media (prefers-color-scheme: dark) { .b { color: blue } }
@media (prefers-color-scheme: light) { .b { color: navy } }
.b:not(:hover) { top: 1px }
.b:focus { top: 2px; left: 3px }
:checked + p { right: 4px }
</style><title>x</title><input type=checkbox checked><p class=b style=\"order: 1; --x: '&quot;'; z-index: 2\">x</p>",
    )]);
    let answer = session.good("why --site site /a.html .b --format json").json();
    let of = |name: &str| {
        let properties = answer["elements"][0]["properties"].as_array().unwrap();
        properties.iter().find(|own| own["property"] == name).unwrap().clone()
    };
    let color = of("color");
    assert_eq!((&color["winner"]["value"], &color["dark"]["value"]), (&json!("navy"), &json!("blue")));
    assert_eq!(color["may_win"][0]["depends_on"], json!(["@media (prefers-color-scheme: dark)"]));
    let top = of("top");
    assert_eq!((&top["winner"]["value"], &top["winner"]["match"]), (&json!("1px"), &json!("yes")));
    assert_eq!(
        (&top["may_win"][0]["value"], &top["may_win"][0]["depends_on"]),
        (&json!("2px"), &json!([":focus"]))
    );
    let (left, right) = (of("left")["winner"].clone(), of("right")["winner"].clone());
    assert_eq!((&left["match"], &left["depends_on"]), (&json!("at-run-time"), &json!([":focus"])));
    assert_eq!(right["match"], "yes");
    let place = |name: &str| (of(name)["winner"]["line"].as_u64(), of(name)["winner"]["column"].as_u64());
    assert_eq!((place("order"), place("z-index")), ((Some(8), Some(72)), (Some(8), Some(97))));
    let dark = session.good("why --site site /a.html .b color --scheme dark --format json").json();
    assert_eq!(dark["elements"][0]["properties"][0]["winner"]["value"], "blue");
    let text = session.good("why --site site /a.html .b").stdout;
    for said in
        ["color: blue  in a dark colour scheme", "color: navy  in a light colour scheme", ", while :focus"]
    {
        assert!(text.contains(said), "{said}: {text}");
    }
}
