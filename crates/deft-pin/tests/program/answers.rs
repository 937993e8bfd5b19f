//! What all answers have in common: plain JSON, text that fits and obeys nobody, colours that mean
//! nothing but what the text says, mistakes that name what was meant.

use crate::session::Session;

/// Each command that looks at a site, with what it is asked.
const ASKED: &[&str] = &[
    "survey", "survey /fares/", "survey /fares/ --ids", "locate Fares", "locate #fare-table", "locate h2",
    "lift /fares/ h2 --as fare-head", "reach", "reach front", "why /fares/ h2", "why /fares/ h2 color",
    "order /fares/", "check", "check --board faulty.toml",
];

fn demo() -> Session {
    let session = Session::new();
    session.good("demo");
    session
}

/// The text without what colours it.
fn plain(text: &str) -> String {
    let mut pieces = text.split('\u{1b}');
    let mut out = pieces.next().unwrap_or_default().to_owned();
    pieces.for_each(|piece| out.push_str(piece.split_once('m').map_or("", |(_, rest)| rest)));
    out
}

fn in_demo(session: &Session, arguments: &str) -> crate::session::Answer {
    let mut command = session.command(arguments);
    command.current_dir(session.path("deft-pin-demo"));
    let output = command.output().unwrap();
    let text = |bytes| String::from_utf8(bytes).unwrap();
    crate::session::Answer {
        status: output.status.code().unwrap(),
        stdout: text(output.stdout),
        stderr: text(output.stderr),
    }
}

#[test]
fn text_fits_and_says_the_same_in_colour_and_when_quiet() {
    let session = demo();
    for asked in ASKED {
        let answer = in_demo(&session, asked);
        assert!(answer.status < 2, "{asked}: {}", answer.stderr);
        assert!(!answer.stdout.contains('\u{1b}'), "{asked}: {}", answer.stdout);
        for line in answer.stdout.lines().chain(answer.stderr.lines()) {
            assert!(line.chars().count() <= 100 || line.split_whitespace().count() < 3, "{asked}: {line}");
            assert!(!line.ends_with(' '), "{asked}: {line:?}");
        }
        let quiet = in_demo(&session, &format!("{asked} -q"));
        assert_eq!((quiet.stdout.as_str(), quiet.status), (answer.stdout.as_str(), answer.status), "{asked}");
        let coloured = in_demo(&session, &format!("{asked} --color always"));
        assert_eq!(plain(&coloured.stdout), answer.stdout, "{asked}");
        let mut command = session.command(&format!("{asked} --color auto"));
        command.current_dir(session.path("deft-pin-demo")).env("NO_COLOR", "1");
        assert_eq!(command.output().unwrap().stdout, answer.stdout.as_bytes(), "{asked}");
    }
}

#[test]
fn json_says_its_version_and_is_the_same_each_time() {
    let session = demo();
    for asked in ASKED.iter().filter(|asked| !asked.starts_with("lift")) {
        let asked = format!("{asked} --format json");
        let answer = in_demo(&session, &asked);
        let json = answer.json();
        assert_eq!(json["version"], 1, "{asked}");
        assert!(answer.stdout.starts_with("{\n  \"version\": 1"), "{asked}: {}", answer.stdout);
        assert!(answer.stdout.ends_with("}\n") && !answer.stdout.contains("null,\n      null"), "{asked}");
        for threads in ["1", "8"] {
            let mut command = session.command(&asked);
            command.current_dir(session.path("deft-pin-demo")).env("RAYON_NUM_THREADS", threads);
            assert_eq!(command.output().unwrap().stdout, answer.stdout.as_bytes(), "{asked} {threads}");
        }
    }
}

#[test]
fn what_is_misspelt_is_told_with_what_was_meant() {
    let session = demo();
    let table = [
        ("survey /fare/", "/fares/"),
        ("order /timetabel/", "/timetable/"),
        ("why /piers/elery/ h2", "/piers/ellery/"),
        ("why /fares/ h2 colr", "color"),
        ("reach frnt", "front"),
        ("why /fares/ h2[", "h2["),
        ("lift /fares/ .no-such --as x", ".no-such"),
        ("check --board faulty.tml", "faulty.tml"),
        ("chek", "check"),
        ("check --formt json", "--format"),
        ("check --format jsn", "json"),
        ("survey --site sit", "sit"),
    ];
    for (asked, words) in table {
        let answer = in_demo(&session, asked);
        assert_eq!(answer.status, 2, "{asked}: {}{}", answer.stdout, answer.stderr);
        assert!(answer.stderr.contains(words), "{asked}: {}", answer.stderr);
        assert!(answer.stdout.is_empty(), "{asked}: {}", answer.stdout);
        assert!(!answer.stderr.contains("panicked"), "{asked}: {}", answer.stderr);
    }
}

#[test]
fn the_exit_status_is_what_a_script_relies_on() {
    let session = demo();
    let table = [
        ("check", 0),
        ("check --board faulty.toml", 1),
        ("check --board faulty.toml --format json", 1),
        ("check --board faulty.toml --format sarif", 1),
        ("build --out copy", 0),
        ("build --out faulty-copy --board faulty.toml", 1),
        ("build --out faulty-copy --board faulty.toml --anyway", 0),
        ("locate no-such-words-anywhere", 2),
        ("check --board no.toml", 2),
    ];
    for (asked, status) in table {
        let answer = in_demo(&session, asked);
        assert_eq!(answer.status, status, "{asked}: {}{}", answer.stdout, answer.stderr);
    }
}

#[test]
fn what_is_read_and_skipped_is_logged_when_asked_for() {
    let session = demo();
    let usual = in_demo(&session, "check");
    let (once, twice) = (in_demo(&session, "check -v"), in_demo(&session, "check -vv"));
    assert_eq!((usual.stdout.as_str(), usual.status), (once.stdout.as_str(), once.status));
    assert!(usual.stderr.lines().count() < once.stderr.lines().count(), "{}", once.stderr);
    assert!(once.stderr.lines().count() < twice.stderr.lines().count(), "{}", twice.stderr);
    assert!(once.stderr.contains("deft-pin.toml"), "{}", once.stderr);
    assert!(twice.stderr.contains("reading the page fares/index.html"), "{}", twice.stderr);
    // Nothing of how pages are parsed, which would bury it.
    assert!(twice.stderr.lines().count() < 200, "{}", twice.stderr);
}
