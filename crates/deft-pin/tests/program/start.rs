//! The first steps: `demo`, `init`, a board with mistakes, and the published schema.

use crate::session::{Served, Session};

#[test]
fn the_demo_goes_the_whole_way_and_again() {
    let session = Session::new();
    let first = session.good("demo");
    assert!(
        first.stdout.contains("Sorrel Sound Ferries") && first.stdout.lines().count() < 50,
        "{}",
        first.stdout
    );
    assert!(first.stdout.lines().all(|line| line.chars().count() <= 100), "{}", first.stdout);
    let out = session.files("deft-pin-demo/out");
    assert_eq!(session.good("demo").stdout, first.stdout);
    assert_eq!(session.files("deft-pin-demo/out"), out);
    let right = session.good("check --board deft-pin-demo/deft-pin.toml --fail-on warning --format json");
    assert!(right.codes().is_empty(), "{:?}", right.codes());
    let wrong = session.run("check --board deft-pin-demo/faulty.toml --format json");
    assert_eq!(wrong.status, 1);
    let mut codes = wrong.codes();
    codes.sort();
    codes.dedup();
    let shown = [
        "answers-nothing", "bad-markup", "bad-query", "bad-selector", "bad-syntax", "bad-value", "beaten",
        "cycle", "dropped-declaration", "early-lookup", "early-slot", "font-not-loaded", "foreign-asset",
        "foreign-text", "late-library", "lost-lookup", "many-elements", "missing-file", "missing-library",
        "name-mismatch", "never-starts", "no-effect", "no-element", "no-fallback-font", "no-integrity",
        "no-match", "no-page", "no-place", "not-confined", "not-everywhere", "overwrites", "personal-data",
        "plain-http", "stays-hidden", "taken-id", "twice", "under", "unfilled", "unset-name",
        "unused-library", "unused-value",
    ];
    assert_eq!(codes, shown);
    session.write("deft-pin-demo/pins/front.css", "h1 { color: red }");
    session.refused("demo", "is there already and is not the demo's");
    session.good("demo other");
}

#[test]
fn init_writes_a_board_that_check_takes_and_overwrites_none() {
    let session = Session::with(&[
        ("web/index.html", "<main id=start><section id=fares></section></main>"),
        ("web/piers/a.html", "<main id=start></main>"),
        ("text.txt", ""),
    ]);
    session.good("init web");
    let board = session.read("deft-pin.toml");
    assert!(
        board.contains("root = \"web\"")
            && board.contains("within = \"#fares\"")
            && board.contains("/piers/*"),
        "{board}"
    );
    session.good("check");
    // The examples are right as they stand, but for the files that they name.
    let alive: String = board
        .lines()
        .map(|line| {
            line.strip_prefix("# ")
                .filter(|l| l.contains(" = ") || l.starts_with('['))
                .unwrap_or(if line.starts_with('#') { "" } else { line })
                .to_owned()
                + "\n"
        })
        .collect();
    session.write("alive.toml", alive);
    session.write("vendor/helper.js", "");
    ["first.css", "third.css"].iter().for_each(|file| session.write(&format!("pins/{file}"), "main {}"));
    session.write("pins/second.js", "");
    let answer = session.run("check --board alive.toml --format json");
    assert!(
        answer.json()["findings"].as_array().unwrap().iter().all(|f| f["code"] == "empty-fence"),
        "{}",
        answer.stdout
    );
    session.refused("init web", "there is a board `deft-pin.toml` already");
    assert_eq!(session.read("deft-pin.toml"), board);
    session.refused("init nothing --board a.toml", "there is no folder `nothing`");
    session.refused("init text.txt --board a.toml", "is a file");
    session.refused("init .. --board a.toml", "is not below the board's folder");
    std::fs::create_dir(session.path("bare")).unwrap();
    session.refused("init bare --board a.toml", "there is no page");
}

#[test]
fn every_mistake_of_a_board_is_shown_where_it_stands() {
    let session = Session::with(&[
        ("deft-pin.toml", "[site]\nroot = 'web'\n[pin.a]\nstile = 'a.css'\nslot = 'foots'\n"),
        ("web/index.html", ""),
    ]);
    let answer = session.run("check");
    assert_eq!((answer.status, answer.stdout.as_str()), (2, ""));
    for words in [
        "deft-pin.toml:4:1", "did you mean `style`?", "deft-pin.toml:5:8", "did you mean `foot`?",
        "3 mistakes in the board",
    ] {
        assert!(answer.stderr.contains(words), "{words}: {}", answer.stderr);
    }
    session.write("deft-pin.toml", "[site]\nroot = 'nowhere'\n");
    session.refused("check", "the site's folder `nowhere` is not there");
    session.write("deft-pin.toml", "[site]\nroot = 'file'\n");
    session.write("file", "");
    session.refused("build --out out", "is a file, and a site is a folder of pages");
    session.write("deft-pin.toml", b"[site]\nroot = '\xff'\n");
    session.refused("check", "is not in UTF-8");
    session.refused("check --board none.toml", "there is no board `none.toml` here");
    session.refused("check --board web", "is no board");
    session.refused("check --board no/where.toml", "there is no folder `no`");
}

#[test]
fn every_command_has_help_with_an_example_and_completions_work() {
    let session = Session::new();
    let overview = session.good("--help").stdout;
    // Each command stands on a line of its own below `Commands:`, with its name first.
    let list = overview.split("Commands:\n").nth(1).unwrap().lines().take_while(|line| !line.is_empty());
    let is_row = |line: &&str| line.starts_with("  ") && !line.starts_with("   ");
    let commands: Vec<&str> = list.filter(is_row).filter_map(|line| line.split_whitespace().next()).collect();
    assert!(commands.len() >= 11 && commands.contains(&"why"), "{commands:?}");
    for command in commands.into_iter().filter(|command| *command != "help") {
        let help = session.good(&format!("{command} --help")).stdout;
        assert!(help.contains("Examples:") && help.contains(&format!("deft-pin {command}")), "{help}");
        assert!(help.lines().all(|line| line.chars().count() <= 100), "{help}");
        let short = session.good(&format!("{command} -h")).stdout;
        assert!(short.lines().count() <= help.lines().count(), "{short}");
        session.refused(&format!("{command} --no-such-option"), "--no-such-option");
    }
    assert!(session.good("--help").stdout.contains("Exit status"));
    for shell in ["bash", "zsh", "fish"] {
        assert!(session.good(&format!("completions {shell}")).stdout.contains("deft-pin"));
    }
}

/// `DEFT_PIN_WRITE=1 cargo test` writes the file anew.
#[test]
fn the_published_schema_is_that_of_the_program() {
    let schema = serde_json::to_string_pretty(&deft_pin_core::board::schema::schema()).unwrap() + "\n";
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/board.schema.json");
    if std::env::var_os("DEFT_PIN_WRITE").is_some() {
        std::fs::write(path, &schema).unwrap();
    }
    assert_eq!(std::fs::read_to_string(path).unwrap(), schema);
}

/// The README, followed to the letter in an empty folder: what it says to write is written, and every command
/// that it has for the shell does what it says.
#[test]
fn the_readme_works_where_the_reader_stands() {
    let readme = std::fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../README.md")).unwrap();
    let session = Session::new();
    let (mut ran, mut served): (Vec<String>, Vec<(String, Served)>) = Default::default();
    let part = &readme[readme.find("## A first board").unwrap()..];
    let is_first = |at: usize| at < part.find("## The guide").unwrap();
    for (place, block) in part
        .split("```")
        .enumerate()
        .filter(|(place, _)| place % 2 == 1)
        .map(|(_, block)| (block.as_ptr() as usize - part.as_ptr() as usize, block))
    {
        let (kind, text) = block.split_once('\n').unwrap();
        match kind {
            "toml" if is_first(place) => {
                session.write("deft-pin.toml", session.read("deft-pin.toml") + "\n" + text);
            }
            "css" if is_first(place) => session.write("pins/fares.css", text),
            "" => {
                for line in text.lines().map(|line| line.split(" # ").next().unwrap().trim()) {
                    let is_ours = line.starts_with("deft-pin ") || line.starts_with("cp ");
                    let words = line.replace("deft-pin ", &format!("{} ", env!("CARGO_BIN_EXE_deft-pin")));
                    // Another port may be the only free one.
                    let served_there = served.iter().filter(|(port, _)| !port.is_empty());
                    let words = served_there.fold(words, |words, (port, server)| {
                        words.replace(&format!(":{port}/"), &format!(":{}/", server.port))
                    });
                    // The examples of help are no commands to type here.
                    if line.starts_with("deft-pin preview ") {
                        // It goes on until it is stopped.
                        let (arguments, port) = line.split_once(" --port ").unwrap_or((line, ""));
                        let server = session.preview(arguments.trim_start_matches("deft-pin preview "));
                        served.push((port.to_owned(), server));
                        ran.push(line.to_owned());
                    } else if is_ours && !line.contains(['<', '|', '…']) {
                        let shell = std::process::Command::new("sh")
                            .args(["-c", &words])
                            .current_dir(session.path(""))
                            .output()
                            .unwrap();
                        let said = String::from_utf8_lossy(&shell.stderr).into_owned();
                        assert!(shell.status.success(), "{line}: {said}");
                        ran.push(line.to_owned());
                    }
                }
            }
            _ => {}
        }
    }
    for needed in [
        "init site", "check", "build --out out", "survey", "locate", "lift", "why", "reach", "order",
        "paste", "preview", "compare", "publish", "history", "undo", "probe", "capture",
    ] {
        assert!(ran.iter().any(|line| line.contains(needed)), "{needed} is not in {ran:#?}");
    }
    assert!(session.read("out/fares/index.html").contains("data-deft-pin=\"fares\""));
}

#[test]
fn every_finding_is_documented_with_an_example() {
    let path = concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/findings.md");
    let text = std::fs::read_to_string(path).unwrap();
    for code in deft_pin_core::check::Code::ALL {
        let part = text.split("\n## ").find(|part| part.starts_with(&format!("{code}\n")));
        let part = part.unwrap_or_else(|| panic!("{code} is not in docs/findings.md"));
        assert!(part.contains("```toml") && part.contains(&format!(" {code}")), "{code} has no example");
    }
}

#[test]
fn every_limit_and_promise_names_a_test_that_is_there() {
    let root = std::path::Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../.."));
    let mut code = String::new();
    let mut waiting = vec![root.join("crates")];
    while let Some(folder) = waiting.pop() {
        for entry in std::fs::read_dir(folder).unwrap().flatten() {
            match entry.path() {
                path if path.is_dir() => waiting.push(path),
                path if path.extension().is_some_and(|extension| extension == "rs") => {
                    code += &std::fs::read_to_string(path).unwrap();
                }
                _ => {}
            }
        }
    }
    let text = std::fs::read_to_string(root.join("docs/limits.md")).unwrap();
    let rows = text.lines().filter(|line| line.starts_with("| ") && line.contains(" | "));
    let mut count = 0;
    for row in rows.filter(|row| !row.contains("| test |")) {
        let last = row.trim_end_matches('|').rsplit('|').next().unwrap();
        let names: Vec<&str> = last.split('`').skip(1).step_by(2).collect();
        assert!(!names.is_empty(), "no test is named: {row}");
        for name in names {
            assert!(code.contains(&format!("fn {name}(")), "there is no test `{name}`");
        }
        count += 1;
    }
    assert!(count > 20, "{count} rows");
}
