//! Sheets and attributes in odd places: the colour that is said to win is the one that Chromium computes.

use serde_json::Value;

use crate::driver::Browser;
use crate::session::Session;

/// Pages with an element `.x`; `s.css` makes it red, `sub/s.css` blue.
const PAGES: &[&str] = &[
    "<link rel=stylesheet href=s.css><base href=other/><p class=x>x</p>",
    "<base href=sub/><link rel=stylesheet href=s.css><p class=x>x</p>",
    "<base href=sub/><style>@import 's.css';</style><p class=x>x</p>",
    "<style>@import 's.css';</style><base href=sub/><p class=x>x</p>",
    "<svg><style>.x{color:red}</style></svg><p class=x>x</p>",
    "<meta http-equiv=default-style content=b><style title=a>.x{color:red}</style><style title=b>.x{color:blue}</style><p class=x>x</p>",
    "<style title=a>.x{color:red}</style><style title=b>.x{color:blue}</style><p class=x>x</p>",
    "<style>.x{color:red}</style><p class=x style='color: blue}; margin: 1px'>x</p>",
    "<style>.x{color:red}</style><p class=x style='margin: 1px}; color: blue'>x</p>",
    "<style>.x{color:red}</style><p class=x style='{color: blue}; color: green'>x</p>",
    "<style>svg{color:green}</style><svg><rect class=x color=red /></svg>",
    "<style>rect{color:green}</style><svg><rect class=x color=red /></svg>",
    "<svg color=blue><g class=x color=red;><rect /></g></svg>",
    "<meta http-equiv=content-language content=de><style>.x{color:red}:lang(de) .x{color:blue}</style><p class=x>x</p>",
    "<meta http-equiv=content-language content=de><style>.x{color:red}.x:lang(de){color:blue}</style><p class=x lang=en>x</p>",
    "<style>option{color:red}option:disabled{color:blue}</style><select disabled><option class=x>x</select>",
    "<style>option{color:red}option:disabled{color:blue}</style><select><optgroup disabled><option class=x>x</select>",
    "<style>option{color:red}option:disabled{color:blue}</style><select disabled><optgroup><option class=x>x</select>",
    "<style>.x{color:red}.x:required{color:blue}</style><input type=submit class=x required>",
    "<style>.x{color:red}.x:required{color:blue}</style><input type=email class=x required>",
    "<style>.x{color:red}.x:required{color:blue}</style><input type=range class=x required>",
    "<style>.x{color:red}.x:optional{color:blue}</style><input type=submit class=x required>",
    "<style>.x{color:red}.x:required{color:blue}</style><div class=x required></div>",
    "<link rel=stylesheet type=' text/css ' href=s.css><p class=x>x</p>",
    "<style type='text/css; charset=utf-8'>.x{color:red}</style><p class=x>x</p>",
    "<link rel=preload as=style href=s.css><p class=x>x</p>",
];

const COLOURS: &[(&str, &str)] =
    &[("red", "rgb(255, 0, 0)"), ("blue", "rgb(0, 0, 255)"), ("green", "rgb(0, 128, 0)"), ("", "")];

#[test]
fn sheets_and_attributes_are_seen_as_chromium_sees_them() {
    let browser = Browser::open();
    let session = Session::with(&[("site/s.css", ".x{color:red}"), ("site/sub/s.css", ".x{color:blue}")]);
    let mut wrong = Vec::new();
    for page in PAGES {
        session.write("site/index.html", format!("<!doctype html><meta charset=utf-8>{page}"));
        let answer = session.run("why / .x color --site site --format json --width 800 --height 600").json();
        let winner = &answer["elements"][0]["properties"][0]["winner"];
        assert_ne!(winner["match"], "at-run-time", "{page}");
        let said = winner["value"].as_str().unwrap_or_default().to_owned();
        browser.go(&format!("file://{}", session.path("site/index.html").display()));
        let script = "const e = document.querySelector('.x'), own = getComputedStyle(e).color; \
            e.style.setProperty('color', 'unset', 'important'); const without = getComputedStyle(e).color; return [own, without]";
        let found: Value = browser.run(script, vec![]);
        let said = COLOURS.iter().find(|(name, _)| *name == said).map_or("?", |(_, computed)| computed);
        let is_right = match said {
            "" => found[0] == found[1],
            said => found[0] == said,
        };
        if !is_right && !browser.is_too_old_for(page) {
            wrong.push(format!("{page}: said {said:?}, is {found}"));
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
    for page in [
        "<link rel=stylesheet media=print href=s.css onload=\"this.media='all'\"><p class=x>x</p>",
        "<link rel=preload as=style href=s.css onload=\"this.rel='stylesheet'\"><p class=x>x</p>",
    ] {
        session.write("site/index.html", format!("<!doctype html>{page}"));
        let answer = session.run("why / .x color --site site --format json").json();
        assert_eq!(answer["elements"][0]["properties"][0]["winner"]["match"], "at-run-time", "{page}");
    }
}
