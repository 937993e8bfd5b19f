//! Scripts as people paste them, each the pin of a page of its own.

use crate::session::Session;

/// What each page has.
const BODY: &str = r##"<header id="top" class="bar"><a id="home" href="/">Sorrel Sound Ferries</a><nav id="menu" class="nav"><ul><li><a class="link" href="/timetable/">Timetable</a></li><li><a class="link" href="#fares" data-fare="12">Fares</a></li></ul></nav><button id="menu-button" class="button" type="button">Menu</button></header>
<main id="main"><section id="status" class="notice" data-port="Sorrel" hidden><h2>Sailing today</h2><p class="lead">All sailings run.</p><p class="small">Updated <time datetime="2026-11-26">today</time></p></section>
<section id="fares" class="fares"><h2>Fares</h2><table id="fare-table"><tbody><tr><td>Adult</td><td class="price">12.50</td></tr><tr><td>Child</td><td class="price">6.00</td></tr></tbody></table><select id="pier" name="pier"><option value="n">North</option><option value="s" selected>South</option></select></section>
<form id="booking" name="booking" action="/book"><input id="email" name="email" type="email" required><input type="checkbox" id="bike" name="bike"><textarea name="note"></textarea><button type="submit">Book</button></form>
<div class="carousel"><img src="a.png" alt="A"><img src="b.png" alt="B"></div><template id="row"><tr><td class="cell"></td></tr></template></main><footer id="foot"><p>Pier office</p></footer>"##;

/// A script with what is told of it.
#[derive(Debug)]
pub struct Pasted {
    /// The severity and the code of each finding.
    pub told: Vec<String>,
    /// Keys of the pin.
    pub keys: String,
    /// What the head of its page has.
    pub head: String,
    /// The script.
    pub script: String,
}

/// Every case.
pub fn cases() -> Vec<Pasted> {
    let mut cases: Vec<Pasted> = Vec::new();
    for line in include_str!("pasted.txt").lines().filter(|line| !line.starts_with("# ")) {
        match (line.strip_prefix("### "), cases.last_mut()) {
            (Some(head), _) => {
                let mut parts = head.splitn(3, '|').map(str::trim);
                let mut part = || parts.next().unwrap_or_default().to_owned();
                let words: Vec<String> = part().split_whitespace().map(str::to_owned).collect();
                let told = words.chunks(2).map(|pair| pair.join(" ")).filter(|pair| pair != "-").collect();
                cases.push(Pasted { told, keys: part(), head: part(), script: String::new() });
            }
            (None, Some(case)) => {
                case.script.push_str(line);
                case.script.push('\n');
            }
            (None, None) => {}
        }
    }
    cases
}

/// A site with a page for each case, which keeps the errors that come up in `errors`, and a board with its pin.
pub fn session(cases: &[Pasted]) -> Session {
    let mut board = "[site]\nroot = 'site'\n[library.sets]\nscript = 'sets.js'\n".to_owned();
    let session = Session::with(&[("sets.js", include_str!("sets.js"))]);
    for (at, case) in cases.iter().enumerate() {
        let keys: String = case
            .keys
            .split("; ")
            .map(|key| match key {
                "sets" => "needs = ['sets']\n".to_owned(),
                key => format!("{key}\n"),
            })
            .collect();
        board.push_str(&format!("[pin.c{at}]\nscript = 'c{at}.js'\npages = ['/c{at}.html']\n{keys}"));
        session.write(&format!("c{at}.js"), &case.script);
        let page = format!(
            "<!doctype html><html lang=\"en\"><head><title>Ferries</title><script src=\"errors.js\"></script>{}</head><body>{BODY}</body></html>",
            case.head
        );
        session.write(&format!("site/c{at}.html"), &page);
    }
    session.write("site/errors.js", ERRORS);
    session.write("deft-pin.toml", &board);
    session
}

/// What keeps the errors of a page.
const ERRORS: &str = "var errors = []; addEventListener('error', e => e.message && errors.push(e.message)); addEventListener('unhandledrejection', e => errors.push(String(e.reason)))";
