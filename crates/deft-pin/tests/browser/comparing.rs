//! Comparing in Chromium: what pins touch is named, and nothing else.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

fn page(body: &str) -> String {
    format!("<!doctype html><title>x</title><link rel=stylesheet href=/site.css>{body}")
}

const BODY: &str = "<header id=top><h1>Ferries</h1></header><main id=main><p id=first>First</p><p id=second class=fare>Second <b>4.50</b></p>
<div id=box><i id=in>In</i></div></main><footer id=foot>Foot</footer>";

fn site(board: &str, files: &[(&str, &str)]) -> Session {
    let session = Session::with(files);
    session.write("deft-pin.toml", format!("[site]\nroot = 'site'\n{board}"));
    session.write("site/site.css", "body { margin: 0; font: 16px/20px sans-serif } p, div, h1 { margin: 0 }");
    session.write("site/index.html", page(BODY));
    for name in ["fares", "piers", "journal"] {
        session.write(&format!("site/{name}/index.html"), page(&BODY.replace("Ferries", name)));
    }
    session
}

/// The elements of a page at its first width: `how element (pin): what`.
fn elements(answer: &Value, page: &str) -> Vec<String> {
    let pages = answer["pages"].as_array().unwrap();
    let page = pages.iter().find(|own| own["page"] == page).unwrap();
    let rows = page["widths"][0]["elements"].as_array().unwrap().iter();
    let text = |value: &Value| value.as_str().unwrap_or("-").to_owned();
    let row = |own: &Value| {
        let mut what: Vec<String> = own["properties"].as_array().unwrap().iter().map(text).collect();
        if own["text"].is_array() {
            what.insert(0, "text".to_owned());
        }
        format!("{} {} ({}) {}", text(&own["how"]), text(&own["element"]), text(&own["pin"]), what.join(" "))
    };
    rows.map(row).map(|row| row.trim_end().to_owned()).collect()
}

/// Pins of a page of their own, with their files, and the elements that are to be named.
struct Row {
    board: &'static str,
    files: &'static [(&'static str, &'static str)],
    expected: &'static [&'static str],
}

const ROWS: &[Row] = &[
    Row {
        board: "[pin.tint]\nstyle = 'a.css'",
        files: &[("a.css", "#first { color: red }")],
        expected: &["look #first (tint) color"],
    },
    Row {
        board: "[pin.tint]\nstyle = 'a.css'",
        files: &[("a.css", "#second { color: red; --x: 1 }")],
        expected: &["look #second (tint) color", "look #second > b (tint) color"],
    },
    Row {
        board: "[pin.tint]\nstyle = 'a.css'",
        files: &[("a.css", "#first { padding-bottom: 5px }")],
        expected: &[
            "pushed html (tint)", "pushed body (tint)", "pushed #main (tint)",
            "look #first (tint) padding-bottom", "pushed #second (tint)", "pushed #second > b (tint)",
            "pushed #box (tint)", "pushed #in (tint)", "pushed #foot (tint)",
        ],
    },
    Row {
        board: "[pin.tint]\nwithin = '#box'\nstyle = 'a.css'",
        files: &[("a.css", "i { letter-spacing: 2px } p { color: red }")],
        expected: &["look #in (tint) letter-spacing"],
    },
    Row {
        board: "[pin.tint]\nstyle = 'a.css'",
        files: &[("a.css", "#first { display: none } #foot::after { content: '!' }")],
        expected: &[
            "pushed html (tint)", "pushed body (tint)", "pushed #main (tint)", "look #first (tint) display",
            "pushed #second (tint)", "pushed #second > b (tint)", "pushed #box (tint)", "pushed #in (tint)",
            "pushed #foot (tint)", "new #foot::after (tint)",
        ],
    },
    Row {
        board: "[pin.bell]\n[[pin.bell.markup]]\ntext = '<em id=bell>Ring</em>'\nplace = 'append'\nat = '#first'",
        files: &[],
        expected: &["new #bell (bell)"],
    },
    Row {
        board: "[pin.bell]\nwithin = '#second'\nscript = 'a.js'",
        files: &[("a.js", "root.querySelector('b').textContent = '5.00'; root.classList.add('new');")],
        expected: &["look #second > b (bell) text"],
    },
    Row {
        board: "[pin.bell]\nstart = 'after 3s'\n[[pin.bell.markup]]\ntext = '<em id=bell style=\"position:fixed\">Ring</em>'\nplace = 'append'\nat = 'body'",
        files: &[],
        expected: &["new #bell (bell)"],
    },
    Row {
        board: "[pin.bell]\nstart = 'seen #foot'\n[[pin.bell.markup]]\ntext = '<em id=bell style=\"position:fixed\">Ring</em>'\nplace = 'before'\nat = '#second'",
        files: &[],
        expected: &["new #bell (bell)"],
    },
    // Two pins, of which one does nothing that is seen.
    Row {
        board: "[pin.tint]\nstyle = 'a.css'\n[pin.bell]\nscript = 'a.js'",
        files: &[
            ("a.css", "#first { color: red }"),
            ("a.js", "document.getElementById('foot').title = 'x';"),
        ],
        expected: &["look #first (tint) color"],
    },
    // Two pins, each with its part.
    Row {
        board: "[pin.tint]\nstyle = 'a.css'\n[pin.bell]\nwithin = '#foot'\nscript = 'a.js'",
        files: &[
            ("a.css", "#first { text-indent: 4px }"),
            ("a.js", "root.insertAdjacentHTML('beforeend', '<u style=\"position:absolute\">made</u>');"),
        ],
        expected: &["look #first (tint) text-indent", "new #foot > u (bell)"],
    },
    // What is wrapped is where it was.
    Row {
        board: "[pin.bell]\n[[pin.bell.markup]]\ntext = '<div id=around></div>'\nplace = 'wrap'\nat = '#box'",
        files: &[],
        expected: &["new #around (bell)"],
    },
];

#[test]
fn what_pins_touch_is_named_and_nothing_else() {
    let mut board = String::new();
    let session = site("", &[]);
    for (number, row) in ROWS.iter().enumerate() {
        let path = format!("/row{number}/");
        let mut own = row.board.to_owned();
        for (name, text) in row.files {
            session.write(&format!("{number}/{name}"), text);
            own = own.replace(&format!("'{name}'"), &format!("'{number}/{name}'"));
        }
        for name in ["tint", "bell"] {
            own = own.replace(&format!("[pin.{name}]"), &format!("[pin.{name}{number}]\npages = ['{path}']"));
            own = own.replace(&format!("[[pin.{name}.markup]]"), &format!("[[pin.{name}{number}.markup]]"));
        }
        board.push_str(&own);
        board.push('\n');
        session.write(&format!("site{path}index.html"), page(BODY));
    }
    session.write("deft-pin.toml", format!("[site]\nroot = 'site'\n{board}"));
    let answer = session.run("compare --widths 600 --format json");
    assert_eq!(answer.status, 0, "{} {}", answer.stdout.len(), answer.stderr);
    let answer = answer.json();
    for (number, row) in ROWS.iter().enumerate() {
        let told = elements(&answer, &format!("/row{number}/"));
        let told: Vec<String> = told.iter().map(|own| own.replace(&format!("{number})"), ")")).collect();
        assert_eq!(told, row.expected, "{}", row.board);
    }
    for page in answer["pages"].as_array().unwrap() {
        if !page["page"].as_str().unwrap().starts_with("/row") {
            assert_eq!((&page["meant"], &page["widths"][0]["same"]), (&false.into(), &true.into()), "{page}");
        }
    }
    let report = session.read("compared/compare.html");
    let before = answer["pages"].as_array().unwrap().iter().find(|page| page["meant"] == true).unwrap();
    let picture = before["widths"][0]["before"].as_str().unwrap();
    assert!(report.contains(&format!("data-picture=\"{picture}\"")));
    assert!(session.path(&format!("compared/{}", picture.replace("before", "difference"))).is_file());
}

#[test]
fn the_same_pages_are_the_same_pictures() {
    let session = Session::new();
    session.good("demo ferries");
    let run = |out: &str| {
        let answer = session.run(&format!("compare / /journal/kittiwake/ /about/ --widths 390,1280 --board ferries/deft-pin.toml --out {out} --format json --today 2026-11-05"));
        assert_eq!(answer.status, 0, "{}", answer.stderr);
        answer.json()
    };
    let first = run("one");
    let second = run("two");
    for (a, b) in first["pages"].as_array().unwrap().iter().zip(second["pages"].as_array().unwrap()) {
        assert_eq!((&a["page"], &a["console"]), (&b["page"], &b["console"]));
        for (a, b) in a["widths"].as_array().unwrap().iter().zip(b["widths"].as_array().unwrap()) {
            for key in ["width", "settled", "differing_pixels", "areas", "heights", "same"] {
                assert_eq!(a[key], b[key], "{key} of {}", a["after"]);
            }
            let pairs = a["elements"].as_array().unwrap().iter().zip(b["elements"].as_array().unwrap());
            pairs.for_each(|(a, b)| assert_eq!(a, b));
        }
    }
    assert!(first == second);
    let (one, two) = (session.files("one"), session.files("two"));
    assert!(one.keys().filter(|name| name.ends_with(".png")).count() > 12);
    for (name, bytes) in &one {
        assert!(two[name] == *bytes, "{name} differs");
    }
    for page in first["pages"].as_array().unwrap() {
        let is_about = page["page"] == "/about/";
        for width in page["widths"].as_array().unwrap() {
            assert_eq!(width["same"], Value::Bool(is_about), "{}", page["page"]);
            for element in width["elements"].as_array().unwrap() {
                assert!(element["pin"].is_string(), "no pin is behind {element}");
            }
        }
    }
}

#[test]
fn pages_that_changed_and_were_not_meant_are_told() {
    let session =
        site("[pin.tint]\npages = ['/']\nstyle = 'tint.css'", &[("tint.css", "#first { color: red }")]);
    session.good("build --out earlier");
    let same = session.run("compare --against earlier --widths 600 --all --format json");
    assert_eq!(same.status, 0, "{}", same.stderr);
    let is_same = |page: &Value| page["widths"][0]["same"] == true;
    assert!(same.json()["pages"].as_array().unwrap().iter().all(is_same));
    // The same of a release, and what has changed since.
    session.good("publish");
    session.write("tint.css", "#first { color: red } #foot { color: red }");
    let since = session.run("compare / --against 1 --widths 600 --format json");
    assert_eq!(since.status, 0, "{}", since.stderr);
    assert_eq!(elements(&since.json(), "/"), ["look #foot (tint) color"]);
    session.refused("compare --against 7", "there is release 1 alone");
    session.write("tint.css", "#first { color: red }");
    // A guard that does not hold: what is for one page stands on another.
    let leaked = session
        .read("earlier/index.html")
        .replace("Ferries", "fares")
        .replace("href=\"_pins", "href=\"../_pins");
    session.write("earlier/fares/index.html", leaked);
    let answer = session.run("compare --against earlier --widths 600 --all --format json");
    assert_eq!(answer.status, 1);
    let answer = answer.json();
    let fares =
        answer["pages"].as_array().unwrap().iter().find(|page| page["page"] == "/fares/").unwrap().clone();
    assert_eq!((&fares["meant"], is_same(&fares)), (&false.into(), false));
    assert_eq!(elements(&answer, "/fares/"), ["look #first (-) color"]);
    let told = session.run("compare --against earlier --widths 600 --all");
    let words = told.stdout.split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(words.contains("/fares/ no pin is for this page, and it changed"), "{words}");
}

#[test]
fn a_pin_for_all_pages_is_seen_on_all() {
    let session = site("[pin.tint]\nstyle = 'tint.css'", &[("tint.css", "h1 { color: red }")]);
    let answer = session.run("compare --widths 600 --format json");
    let answer = answer.json();
    for page in ["/", "/fares/", "/piers/", "/journal/"] {
        assert_eq!(elements(&answer, page), ["look #top > h1 (tint) color"], "{page}");
    }
    assert_eq!(answer["everywhere"], serde_json::json!([{"pin": "tint", "changed": 4}]));
}

#[test]
fn what_the_console_says_anew_is_told() {
    let board = "[pin.bell]\npages = ['/']\nscript = 'bell.js'";
    let session = site(board, &[("bell.js", "console.error('no bell'); nothing.there();")]);
    session.write("site/index.html", page(&format!("{BODY}<script>console.error('own')</script>")));
    let answer = session.run("compare / --widths 600 --format json");
    assert_eq!(answer.status, 1, "{}", answer.stderr);
    let answer = answer.json();
    let own = answer["pages"].as_array().unwrap().iter().find(|page| page["page"] == "/").unwrap()["console"]
        .to_string();
    assert!(
        own.contains("no bell") && own.contains("nothing is not defined") && !own.contains("own"),
        "{own}"
    );
}

#[test]
fn pages_that_never_settle_are_cut_off() {
    let session = site(
        "[pin.tint]\npages = ['/', '/fares/', '/piers/']\nstyle = 'tint.css'",
        &[("tint.css", "#first { color: red }")],
    );
    session.write(
        "site/index.html",
        page(&format!("{BODY}<script>(function again() {{ setTimeout(again, 0); }})()</script>")),
    );
    session.write("site/fares/index.html", page(&format!("{BODY}<script>alert('stop'); confirm('really?'); setInterval(() => document.getElementById('in').textContent = performance.now(), 7)</script>")));
    session.write(
        "site/piers/index.html",
        page(&format!("{BODY}<script>setTimeout(() => location.href = '/journal/', 1000)</script>")),
    );
    let answer = session.run("compare --widths 600 --format json");
    assert!(answer.status < 2, "{}", answer.stderr);
    let answer = answer.json();
    for page in ["/", "/fares/"] {
        assert!(elements(&answer, page).contains(&"look #first (tint) color".to_owned()), "{page}: {answer}");
    }
}

/// A browser whose clock begins in the future draws nothing until then: before noon the day's own noon is.
#[test]
fn pages_are_shown_on_a_day_that_is_still_to_come() {
    let session = site(
        "[pin.tint]\npages = ['/']\nscript = 'year.js'",
        &[("year.js", "document.getElementById('first').textContent = new Date().getFullYear();")],
    );
    let started = std::time::Instant::now();
    let answer = session.run("--today 2999-05-01 compare / --widths 600 --format json").json();
    assert!(started.elapsed() < std::time::Duration::from_secs(60));
    assert!(answer.to_string().contains("2999"), "{answer}");
    assert_eq!(answer["pages"][0]["widths"][0]["settled"], true, "{answer}");
}

#[test]
fn what_is_missing_is_told() {
    let session =
        site("[pin.tint]\npages = ['/']\nstyle = 'tint.css'", &[("tint.css", "#first { color: red }")]);
    session.refused("compare --driver nowhere", "does not listen");
    session.refused("compare /fars/", "did you mean `/fares/`?");
    session.refused("compare --against nowhere", "cannot be read");
    session.refused("compare --pasted", "whole files can be changed");
    session.refused("compare --out site/x", "inside the site");
    let without = session.command("compare").env("PATH", "").output().unwrap();
    let told = String::from_utf8(without.stderr).unwrap().split_whitespace().collect::<Vec<_>>().join(" ");
    assert_eq!(without.status.code(), Some(2));
    assert!(told.contains("apt install chromium chromium-driver"), "{told}");
    assert!(!session.path("compared").exists());
}

#[test]
fn the_report_opens_without_a_server() {
    let session = site(
        "[pin.tint]\npages = ['/', '/fares/']\nstyle = 'tint.css'",
        &[("tint.css", "#first { color: red; padding: 3px }")],
    );
    session.good("compare --widths 390,600");
    let browser = Browser::open();
    browser.resize(1280, 800);
    browser.go(&format!("file://{}", session.path("compared/compare.html").display()));
    let loaded = "return [...document.images].map(own => own.complete && own.naturalWidth)";
    let wait = || std::thread::sleep(std::time::Duration::from_millis(300));
    wait();
    assert_eq!(browser.run(loaded, vec![]), json!([390, 390]));
    let names = "return [...document.querySelectorAll('nav h2')].map(own => own.textContent)";
    assert_eq!(browser.run(names, vec![]), json!(["Changed (2)", "As they were (2)"]));
    let press = |text: &str| {
        browser.run(
            "[...document.querySelectorAll('button')].find(own => own.textContent.startsWith(arguments[0])).click()",
            vec![json!(text)],
        );
        wait();
    };
    press("600");
    assert_eq!(browser.run(loaded, vec![]), json!([600, 600]));
    press("Slider");
    let over = "const input = document.querySelector('.slide input'); input.value = 20; input.dispatchEvent(new Event('input')); return document.querySelector('.over').style.width";
    assert_eq!(browser.run(over, vec![]), json!("20%"));
    // The page that stayed as it was is a picture beside, and says so.
    press("/piers/");
    assert_eq!(browser.run(loaded, vec![]), json!([600]));
    assert_eq!(
        browser.run("return document.querySelector('.told').textContent", vec![]),
        json!("It is as it was, to the pixel.")
    );
    // An element is shown on the pictures; all pages that changed are printed.
    press("/fares/");
    press("#first");
    assert_eq!(browser.run("return document.querySelectorAll('rect.on').length", vec![]), json!(1));
    browser.run("dispatchEvent(new Event('beforeprint'))", vec![]);
    let printed = "return [...document.querySelectorAll('.page-print h2')].map(own => own.textContent)";
    assert_eq!(browser.run(printed, vec![]), json!(["/ at 600", "/fares/ at 600"]));
    browser.run("dispatchEvent(new Event('afterprint'))", vec![]);
    assert_eq!(browser.run("return document.querySelectorAll('.page-print').length", vec![]), json!(0));
}
