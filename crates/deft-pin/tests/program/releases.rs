//! Releases: what was published is kept whole, shown, and put back.

use std::collections::BTreeMap;
use std::process::Stdio;
use std::time::Duration;

use crate::session::Session;
use serde_json::{Value, json};

const BOARD: &str = "[site]\nroot = 'site'\n
[pin.notice]\npages = ['/']\nwithin = 'main'\nstyle = 'pins/notice.css'\n
[pin.bell]\npages = ['/fares.html']\nscript = 'pins/bell.js'\n";

fn ferries(host: &str) -> Session {
    Session::with(&[
        ("deft-pin.toml", &format!("{BOARD}\n{host}")),
        ("pins/notice.css", "h1 { color: teal }\n"),
        ("pins/bell.js", "document.title = 'bell';\n"),
        ("site/index.html", "<!doctype html><title>x</title><main><h1>Ferries</h1></main>"),
        ("site/fares.html", "<!doctype html><title>x</title><main><h1>Fares</h1></main>"),
        ("site/about.html", "<!doctype html><title>x</title><main><h1>About</h1></main>"),
    ])
}

fn releases(session: &Session) -> Vec<Value> {
    session.good("history --format json").json()["releases"].as_array().unwrap().clone()
}

/// What somebody publishes: the pages and files, or the pieces.
fn published(session: &Session, folder: &str) -> BTreeMap<String, Vec<u8>> {
    let is_text = |name: &String| !name.ends_with("build.json") && !name.starts_with("paste.");
    session.files(folder).into_iter().filter(|(name, _)| is_text(name)).collect()
}

#[test]
fn what_is_published_is_kept_and_comes_back() {
    for (host, folder) in [
        ("", "published"),
        ("[host]\nkind = 'page-slots'", "paste-up"),
        ("[host]\nkind = 'site-slots'", "paste-up"),
    ] {
        let session = ferries(host);
        session.refused("history", "nothing has been published yet");
        session.refused("undo", "nothing has been published yet");
        let first = session.good("publish --note begin");
        assert!(first.stdout.contains("this is the first release"), "{}", first.stdout);
        assert!(first.stderr.contains("published as release 1"), "{}", first.stderr);
        let one = published(&session, folder);
        session.refused("undo", "none before it");
        // A pin changes, one goes, one comes.
        session.write("pins/notice.css", "h1 { color: navy }\n");
        session.write("pins/late.css", "h1 { margin: 0 }\n");
        let board = session.read("deft-pin.toml").replace(
            "[pin.bell]\npages = ['/fares.html']\nscript = 'pins/bell.js'",
            "[pin.late]\npages = ['/fares.html']\nstyle = 'pins/late.css'",
        );
        session.write("deft-pin.toml", &board);
        let second = session.good("publish --note change");
        for words in [
            "since release 1: + late, notice changed, − bell", "- h1 { color: teal }",
            "+ h1 { color: navy }", "gone pins/bell.js", "new pins/late.css",
        ] {
            assert!(second.stdout.contains(words), "{words}: {}", second.stdout);
        }
        assert!(second.stdout.contains(" changed: "), "{}", second.stdout);
        let two = published(&session, folder);
        assert_ne!(one, two);
        // Back, and the board stays.
        let back = session.good("undo");
        assert!(back.stderr.contains("release 1 is back, as release 3"), "{}", back.stderr);
        assert!(back.stderr.contains("--board-too"), "{}", back.stderr);
        assert_eq!(published(&session, folder), one, "{host}");
        assert_eq!(session.read("deft-pin.toml"), board);
        let rows = releases(&session);
        let told = |own: &Value| json!([own["release"], own["undoes"], own["note"], own["pins"]]);
        assert_eq!(
            told(&rows[0]),
            json!([3, 1, null, {"new": ["bell"], "changed": ["notice"], "gone": ["late"]}])
        );
        assert_eq!(
            told(&rows[1]),
            json!([2, null, "change", {"new": ["late"], "changed": ["notice"], "gone": ["bell"]}])
        );
        assert_eq!(
            told(&rows[2]),
            json!([1, null, "begin", {"new": ["bell", "notice"], "changed": [], "gone": []}])
        );
        assert_eq!(rows[0]["pages"], 2, "{host}");
        // And forth, with the board.
        session.write("pins/notice.css", "h1 { color: olive }\n");
        let forth = session.good("undo 2 --board-too");
        assert!(
            forth.stderr.contains("what was there is kept: pins/notice.css as releases/bytes/"),
            "{}",
            forth.stderr
        );
        assert_eq!(published(&session, folder), two, "{host}");
        assert_eq!(session.read("pins/notice.css"), "h1 { color: navy }\n");
        // Shown.
        let table = session.good("history").stdout;
        assert!(table.lines().count() == 5 && table.contains("as release 2"), "{table}");
        let one = session.good("history 1").stdout;
        assert!(one.contains("begin") && one.contains("pins: bell, notice"), "{one}");
        let difference = session.good("history --diff 1 2 --format json").json();
        assert_eq!(difference["pins"]["changed"], json!(["notice"]));
        assert_eq!((&difference["before"], &difference["after"]), (&json!(1), &json!(2)));
        assert_eq!(session.good("history --diff 2 4 --format json").json()["files"], json!([]));
        session.refused("history 9", "there are 1 to 4");
    }
}

#[test]
fn the_site_is_that_of_now_with_the_pins_of_then() {
    let session = ferries("");
    session.good("publish");
    session.write("pins/notice.css", "h1 { color: navy }\n");
    session.good("publish");
    session.write("site/index.html", "<!doctype html><title>x</title><main><h1>New boats</h1></main>");
    std::fs::remove_file(session.path("pins/bell.js")).unwrap();
    session.good("undo 1");
    let page = session.read("published/index.html");
    assert!(page.contains("New boats"), "{page}");
    let files = session.files("published/_pins");
    let has = |text: &str| files.values().any(|bytes| String::from_utf8_lossy(bytes).contains(text));
    assert!(has("teal") && !has("navy") && has("'bell'"), "{:?}", files.keys());
}

#[test]
fn errors_stop_a_release_and_what_moved_on_the_board_is_no_change() {
    let session = ferries("");
    session.good("publish");
    let board = session.read("deft-pin.toml");
    let (notice, bell) = (board.find("[pin.notice]").unwrap(), board.find("[pin.bell]").unwrap());
    let moved = format!("{}{}\n{}", &board[..notice], &board[bell..], &board[notice..bell]);
    session.write("deft-pin.toml", format!("# a note\n{moved}"));
    let told = session.good("publish").stdout;
    assert!(told.contains("since release 1: no pin changed"), "{told}");
    session.write("pins/notice.css", "h1 { colour: navy }\n");
    let answer = session.run("publish");
    assert_eq!(answer.status, 1, "{}", answer.stderr);
    assert!(answer.stderr.contains("nothing was published"), "{}", answer.stderr);
    assert_eq!(releases(&session).len(), 2);
    assert!(
        !session.files("published/_pins").values().any(|bytes| bytes.windows(6).any(|own| own == b"colour"))
    );
    session.good("publish --anyway");
    assert_eq!(releases(&session)[0]["findings"], 1);
    // What was kept and changed since is no release any more.
    let kept = session.files("releases/bytes");
    let (name, _) = kept.iter().find(|(_, bytes)| bytes.starts_with(b"h1 { color: teal")).unwrap();
    session.write(&format!("releases/bytes/{name}"), "h1 { color: pink }");
    session.refused("undo 1", "is not what was kept there");
}

#[test]
fn a_kill_leaves_whole_releases_alone() {
    let session = ferries("");
    session.good("publish");
    let mut last = 1;
    for number in 0..100_u64 {
        session.write("pins/notice.css", format!("h1 {{ color: rgb(1, 2, {number}) }}\n"));
        let arguments = if number % 3 == 2 { "undo" } else { "publish --quiet" };
        let mut child =
            session.command(arguments).stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        std::thread::sleep(Duration::from_micros(number * 7919 % 40_000));
        let _ = child.kill();
        let _ = child.wait();
        let rows = releases(&session);
        let count = rows.len();
        assert!(count == last || count == last + 1, "{count} after {last}");
        last = count;
        let newest = rows[0]["release"].as_u64().unwrap();
        assert_eq!(newest as usize, count);
        // Every one of them is whole.
        if number % 10 == 9 {
            for own in 1..=newest {
                session.good(&format!("history --diff 1 {own} --format json"));
            }
        }
        // What is published is whole too: the page leads to a file that is there.
        let page = session.read("published/index.html");
        let file = page.split("_pins/").nth(1).unwrap().split('"').next().unwrap();
        assert!(session.path(&format!("published/_pins/{file}")).is_file(), "{file}");
    }
    session.good("publish");
    assert!(!session.files("releases").keys().any(|name| name.contains("unfinished")));
}

#[test]
fn two_at_once_are_one_after_the_other() {
    let session = ferries("");
    session.good("publish");
    let lock = std::fs::File::create(session.path("releases/.lock")).unwrap();
    lock.lock().unwrap();
    session.refused("publish", "a release is being made right now");
    session.refused("undo", "a release is being made right now");
    drop(lock);
    session.good("publish");
    assert_eq!(releases(&session).len(), 2);
}

#[test]
fn a_paste_up_is_held_against_the_last_release() {
    let session = ferries("[host]\nkind = 'page-slots'");
    let changes = || {
        let json = session.good("paste --format json").json();
        let pieces = json["pieces"].as_array().unwrap().iter();
        pieces.map(|own| own["change"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    assert_eq!(changes(), ["new", "new"]);
    assert_eq!(changes(), ["same", "same"], "before there is a release, against the paste-up that is there");
    session.good("publish");
    session.write("pins/notice.css", "h1 { color: navy }\n");
    // However often it is pasted up: what is live is the release.
    for _ in 0..2 {
        assert_eq!(changes(), ["changed", "same"]);
        assert!(session.read("paste-up/paste.html").contains("teal"), "the text of the release is shown");
    }
    session.write("pins/notice.css", "h1 { color: teal }\n");
    assert_eq!(changes(), ["same", "same"]);
    session.write(
        "deft-pin.toml",
        session.read("deft-pin.toml").replace("[pin.bell]", "[pin.bell]\noff = true"),
    );
    assert_eq!(changes(), ["same", "gone"]);
}
