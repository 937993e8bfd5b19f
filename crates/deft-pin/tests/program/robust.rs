//! What must never happen: nothing lost, nothing let in or out, nothing that hangs, the same in and the
//! same out. `docs/limits.md` names these tests line by line.

use std::fs;
use std::os::unix::ffi::OsStrExt as _;
use std::path::Path;
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use crate::session::{Answer, Session};

const PAGE: &str = "<!doctype html><title>x</title><body><main id=m><p class=a>x</p></main></body>";

fn board(keys: &str) -> String {
    format!("[site]\nroot = 'site'\n[pin.a]\n{keys}\n")
}

/// Runs the program with 3 GB to have and two minutes to take: far more than it needs, far less than
/// what grows without bound.
fn bounded(session: &Session, arguments: &str) -> Answer {
    let program = env!("CARGO_BIN_EXE_deft-pin");
    let mut command = Command::new("sh");
    command.args(["-c", &format!("ulimit -v 3000000; exec {program} {arguments} > stdout 2> stderr")]);
    command.current_dir(session.path(".")).env("RAYON_NUM_THREADS", "2");
    let started = Instant::now();
    let mut child = command.spawn().unwrap();
    let status = loop {
        if let Some(status) = child.try_wait().unwrap() {
            break status;
        }
        if started.elapsed() > Duration::from_secs(120) {
            child.kill().unwrap();
            panic!("{arguments} takes more than two minutes");
        }
        std::thread::sleep(Duration::from_millis(20));
    };
    let text = |file| String::from_utf8_lossy(&fs::read(session.path(file)).unwrap()).into_owned();
    let (stdout, stderr) = (text("stdout"), text("stderr"));
    assert!(!stderr.contains("panicked"), "{arguments}: {stderr}");
    Answer {
        status: status.code().unwrap_or_else(|| panic!("{arguments} was stopped: {stderr}")),
        stdout,
        stderr,
    }
}

fn each(count: usize, unit: impl Fn(usize) -> String) -> String {
    (0..count).map(unit).collect()
}

#[test]
fn too_much_of_anything_gets_an_answer() {
    let style = board("style = 'a.css'");
    let within = board("style = 'a.css'\nwithin = '#m'");
    let script = board("script = 'a.js'");
    let nested = "a{&,&{".repeat(34) + "color:red" + &"}}".repeat(34);
    let in_page = |text: &str| PAGE.replace("<title>", text);
    let table: [(&str, &str, String, String, i32); 27] = [
        ("lists nested in lists", &style, PAGE.into(), nested.clone(), 1),
        ("the same with a target", &within, PAGE.into(), nested.clone(), 1),
        (
            "the same in the site's sheet",
            &style,
            in_page(&format!("<style>{nested}</style><title>")),
            "p{color:red}".into(),
            0,
        ),
        ("rules", &style, PAGE.into(), each(4_000, |n| format!(".c{n}{{color:red}}\n")), 1),
        (
            "rules in one line, with a target",
            &within,
            PAGE.into(),
            each(4_000, |n| format!(".c{n}{{color:red}}")),
            1,
        ),
        (
            "rules that match",
            &style,
            PAGE.into(),
            each(2_500, |n| format!(".a{{color:#{:03}}}", n % 1000)),
            0,
        ),
        ("declarations", &style, PAGE.into(), format!("p{{{}}}", "color:red;".repeat(10_000)), 0),
        (
            "declarations that are dropped",
            &style,
            PAGE.into(),
            format!("p{{{}}}", "colr:red;".repeat(10_000)),
            1,
        ),
        ("selectors in a list", &within, PAGE.into(), each(6_000, |n| format!(".c{n},")) + "p{color:red}", 0),
        ("compounds in a selector", &style, PAGE.into(), "p ".repeat(25_000) + "{color:red}", 1),
        (
            "elements in elements",
            &style,
            format!("<!doctype html>{}x", "<div>".repeat(500)),
            "div{gap:1px;flex:1;vertical-align:top}".into(),
            0,
        ),
        ("a name without end", &style, PAGE.into(), format!(".{}{{colr:red}}", "x".repeat(500_000)), 1),
        (
            "custom properties",
            &style,
            PAGE.into(),
            format!("p{{{}}}", each(12_500, |n| format!("--custom-{n}:red;"))),
            0,
        ),
        (
            "animations",
            &within,
            PAGE.into(),
            each(3_000, |n| format!("@keyframes k{n}{{to{{top:0}}}}.c{n}{{animation:k{n} 1s}}")),
            1,
        ),
        (
            "conditions in conditions",
            &within,
            PAGE.into(),
            "@media screen{".repeat(5_000) + "p{color:red}" + &"}".repeat(5_000),
            1,
        ),
        (
            "fonts that nothing loads",
            &style,
            PAGE.into(),
            each(3_000, |n| format!("p{{font-family:Pier{n}}}")),
            0,
        ),
        ("a chain of functions", &script, PAGE.into(), "a=>".repeat(250_000) + "1", 1),
        ("a chain of conditions", &script, PAGE.into(), "if(a){}else ".repeat(50_000) + "{}", 1),
        ("labels", &script, PAGE.into(), each(50_000, |n| format!("l{n}:")) + ";", 1),
        (
            "the same in the page",
            &script,
            in_page(&format!("<script>{}1</script><title>", "a=>".repeat(150_000))),
            "1".into(),
            0,
        ),
        ("globals", &script, PAGE.into(), each(7_500, |n| format!("g{n}.x;\n")), 1),
        (
            "lookups",
            &script,
            PAGE.into(),
            each(2_500, |n| format!("document.getElementById('x{n}').y;\n")),
            1,
        ),
        ("tags in tags", &style, "<div>".repeat(100_000), "div div{color:red}".into(), 0),
        ("tags", &style, "<p>".repeat(2_100_000), "p{color:red}".into(), 2),
        (
            "names in tags",
            &style,
            each(300_000, |n| format!("<p data-pier-{n}=1>")),
            "p{color:red}".into(),
            2,
        ),
        (
            "classes",
            &style,
            format!("<p class='{}'>", each(50_000, |n| format!("pier-{n} "))),
            "p{color:red}".into(),
            0,
        ),
        (
            "a target without end",
            &board(&format!("style = 'a.css'\nwithin = '{}'", each(3000, |n| format!(".w{n}, ")) + "p")),
            PAGE.into(),
            each(3000, |n| format!(".c{n}{{color:red}}")),
            1,
        ),
    ];
    std::thread::scope(|threads| {
        for rows in table.chunks(table.len() / 2 + 1) {
            threads.spawn(move || rows.iter().for_each(holds_row));
        }
    });
}

/// A row of the table above: the name, the board, the page, the pin's file, and the exit status.
fn holds_row((name, board, page, code, status): &(&str, &str, String, String, i32)) {
    let session = Session::with(&[("deft-pin.toml", board), ("site/index.html", page)]);
    session.write(if board.contains("a.js") { "a.js" } else { "a.css" }, code);
    let answer = bounded(&session, "check");
    let start: String = answer.stdout.chars().take(2000).collect();
    assert_eq!(answer.status, *status, "{name}: {start}{}", answer.stderr);
    assert!(answer.stdout.len() < 60_000, "{name}: {} bytes", answer.stdout.len());
    let built = bounded(&session, "build --out out --anyway --inline");
    let message: String = built.stderr.chars().take(2000).collect();
    assert!(built.status <= 1.max(*status), "{name}: {message}");
}

#[test]
fn content_without_end_gets_an_answer() {
    let markup = |place: &str, at: &str| {
        board(&format!("markup = [{{ file = 'a.html', place = '{place}', at = '{at}' }}]"))
    };
    let values = |count: usize| each(count, |n| format!("v{n} = '{n}px'\n"));
    let deep = format!("<!doctype html><body>{}x{}</body>", "<div>".repeat(400), "</div>".repeat(400));
    let many = format!("<!doctype html><body>{}</body>", "<p class=a><b>x</b></p>".repeat(5_000));
    // The board, the page, the markup, the script, and the exit status.
    let table: [(&str, String, &str, String, String, i32); 14] = [
        ("tags", markup("append", "#m"), PAGE, "<b>x</b>".repeat(10_000), String::new(), 0),
        (
            "tags in tags",
            markup("append", "#m"),
            PAGE,
            "<i>".repeat(2_500) + &"</b>".repeat(2_500),
            String::new(),
            1,
        ),
        ("drawings in drawings", markup("append", "#m"), PAGE, "<svg>".repeat(25_000), String::new(), 1),
        (
            "a tag of attributes",
            markup("append", "#m"),
            PAGE,
            format!("<p {}>x</p>", each(25_000, |n| format!("a{n} "))),
            String::new(),
            0,
        ),
        ("a comment without end", markup("append", "#m"), PAGE, "<!--".repeat(100_000), String::new(), 1),
        ("every element", markup("append", "*"), &many, "<i>x</i>".into(), String::new(), 1),
        ("every element of a kind", markup("before", "p"), &many, "<i>x</i>".into(), String::new(), 0),
        ("around every element", markup("wrap", "p"), &many, "<div></div>".into(), String::new(), 0),
        ("where it is deep", markup("prepend", "div"), &deep, "<i>x</i>".into(), String::new(), 0),
        (
            "IDs",
            markup("append", "#m"),
            PAGE,
            each(3_000, |n| format!("<i id=i{}>x</i>", n / 2)),
            String::new(),
            1,
        ),
        (
            "names without a value",
            markup("append", "#m"),
            PAGE,
            each(25_000, |n| format!("{{{{v{n}}}}} ")),
            String::new(),
            0,
        ),
        (
            "names in one attribute",
            board(&format!(
                "markup = [{{ file = 'a.html', place = 'append', at = '#m' }}]\n[pin.a.values]\n{}",
                values(2000)
            )),
            PAGE,
            format!("<p title='{}'>x</p>", each(25_000, |n| format!("{{{{v{}}}}}", n % 2000))),
            String::new(),
            0,
        ),
        (
            "values that nothing names",
            board(&format!("script = 'a.js'\n[pin.a.values]\n{}", values(3000))),
            PAGE,
            String::new(),
            format!("go({})", "'values',".repeat(25_000)),
            1,
        ),
        (
            "values in a script",
            board(&format!("script = 'a.js'\n[pin.a.values]\n{}", values(2000))),
            PAGE,
            String::new(),
            each(5_000, |n| format!("x({{{{v{}}}}}, '{{{{v{}}}}}');\n", n % 2000, n % 1999)),
            1,
        ),
    ];
    for (name, board, page, html, script, status) in table {
        let session = Session::with(&[
            ("deft-pin.toml", &board),
            ("site/index.html", page),
            ("a.html", &html),
            ("a.js", &script),
        ]);

        let answer = bounded(&session, "check");
        let start: String = answer.stdout.chars().take(2000).collect();
        assert_eq!(answer.status, status, "{name}: {start}{}", answer.stderr);
        let built = bounded(&session, "build --out out --anyway");
        assert!(built.status <= 1, "{name}: {}", built.stderr);
    }
    // Many pins, each with something for one page, and some of it wrong.
    let pins = each(400, |n| {
        let text = if n % 50 == 7 { "<tr><td>x</td></tr>" } else { "<i>x</i>" };
        format!(
            "[pin.p{n}]\nmarkup = [{{ text = '{text}', place = 'append', at = '#m' }}]\nmark = [{{ class = 'c{n}', at = '#m' }}]\n"
        )
    });
    let session = Session::with(&[
        ("deft-pin.toml", &format!("[site]\nroot = 'site'\n{pins}")),
        ("site/index.html", PAGE),
    ]);
    assert_eq!(bounded(&session, "check").status, 1);
}

#[test]
fn boards_and_sites_without_end_get_an_answer() {
    let one = |text: &str| {
        Session::with(&[
            ("deft-pin.toml", text),
            ("site/index.html", PAGE),
            ("a.css", "p{color:red}"),
            ("l.js", "1"),
        ])
    };
    let libraries = each(3000, |n| format!("[library.l{n}]\nscript = 'l.js'\nneeds = ['l{}']\n", n + 1));
    let session = one(&format!(
        "[site]\nroot = 'site'\n{libraries}[library.l3000]\nscript = 'l.js'\n[pin.a]\nscript = 'l.js'\nneeds = ['l0']\n"
    ));
    assert_eq!(bounded(&session, "check").status, 0);
    let patterns = each(30_000, |n| format!("'/log/{n}/*',"));
    assert_eq!(bounded(&one(&board(&format!("style = 'a.css'\npages = [{patterns}]"))), "check").status, 1);
    // Imports: a tree of three each, and a chain.
    let session = one(&board("style = 's0.css'"));
    for n in 0..17 {
        session.write(&format!("s{n}.css"), format!("@import 's{}.css';", n + 1).repeat(3));
    }
    session.write("s17.css", "p{color:red}");
    assert_eq!(bounded(&session, "check").status, 1);
    let chain =
        "[site]\nroot = 'site'\n[library.l]\nstyle = 'c0.css'\n[pin.a]\nstyle = 'a.css'\nneeds = ['l']\n";
    let session = one(chain);
    (0..4000).for_each(|n| session.write(&format!("c{n}.css"), format!("@import 'c{}.css';", n + 1)));
    session.write("c4000.css", "p{color:teal}");
    assert!(bounded(&session, "check").status < 2);
    // Many sections, IDs, and files that are not there.
    let sections = each(4_000, |n| format!("<section id=s{n}><h2>Sailing {n}</h2></section>"));
    let session = one(&board("style = 'b.css'"));
    session.write("site/index.html", format!("<!doctype html>{sections}"));
    for command in ["survey", "survey / --all", "locate Sailing", "locate '#s77x'"] {
        assert!(bounded(&session, command).status < 2 || command.contains("77x"), "{command}");
    }
    session.write("b.css", each(1000, |n| format!(".c{n}{{background:url(i/pier{n}.png)}}")));
    (0..1000).for_each(|n| session.write(&format!("site/i/quay{n}.png"), ""));
    assert_eq!(bounded(&session, "check").status, 1);
    // Files that are larger than what is read.
    let large = "/* */".repeat((16 << 20) / 5 + 1);
    session.write("b.css", &large);
    let answer = bounded(&session, "check");
    assert!(answer.status == 1 && answer.stdout.contains("larger than 16 MB"), "{}", answer.stdout);
    fs::File::create(session.path("site/index.html")).unwrap().set_len(5 << 30).unwrap();
    let answer = bounded(&session, "check");
    assert!(answer.status == 2 && answer.stderr.contains("larger than 64 MB"), "{}", answer.stderr);
}

#[test]
fn findings_are_told_by_the_first_of_a_kind() {
    let session = Session::with(&[("deft-pin.toml", &board("style = 'a.css'")), ("site/index.html", PAGE)]);
    session.write(
        "a.css",
        each(50, |n| format!("p {{ colr: red; z-index: {n} }}\n")) + "p { margn: 0 }\n.nowhere { top: 0 }",
    );
    let count = |answer: &str, code: &str| answer.matches(code).count();
    let text = session.run("check");
    assert_eq!(count(&text.stdout, "error dropped-declaration"), 20, "{}", text.stdout);
    assert!(
        text.stdout.contains("and 31 more of dropped-declaration in a.css; --all tells them"),
        "{}",
        text.stdout
    );
    assert!(text.stderr.contains("error"), "{}", text.stderr);
    assert_eq!(count(&session.run("check --all").stdout, "error dropped-declaration"), 51);
    let json = session.run("check --format json").json();
    let untold = json["untold"].as_array().unwrap();
    assert!(
        untold.contains(&serde_json::json!({"code": "dropped-declaration", "file": "a.css", "count": 31})),
        "{json}"
    );
    let all = session.run("check --format json --all").json();
    assert!(all.get("untold").is_none() && all["findings"].as_array().unwrap().len() > 50, "{all}");
    let sarif = session.run("check --format sarif").json();
    assert_eq!(sarif["runs"][0]["properties"]["untold"], json["untold"]);
    session.write("a.css", "p { colr: red }");
    assert!(session.run("check --format json").json().get("untold").is_none());
}

fn pipe(session: &Session, path: &str) {
    let file = session.path(path);
    fs::create_dir_all(file.parent().unwrap()).unwrap();
    assert!(Command::new("mkfifo").arg(file).status().unwrap().success());
}

#[test]
fn what_is_no_plain_file_is_never_waited_for() {
    let session = Session::with(&[
        ("deft-pin.toml", &board("style = 'a.css'\nscript = 'p.js'")),
        (
            "site/index.html",
            "<!doctype html><title>x</title><link rel=stylesheet href=s.css><script src=s.js></script><p>x",
        ),
        ("a.css", "p { background: url(i.png); color: red }"),
    ]);
    ["p.js", "i.png", "site/s.css", "site/s.js", "site/p.html"].iter().for_each(|path| pipe(&session, path));
    let answer = bounded(&session, "check");
    assert_eq!(answer.status, 1, "{}", answer.stderr);
    for told in ["`p.js`", "`i.png`", "neither a file nor a folder"] {
        assert!(
            answer.stdout.split_whitespace().collect::<Vec<_>>().join(" ").contains(told),
            "{}",
            answer.stdout
        );
    }
    assert!(answer.stderr.contains("left out `site/p.html`"), "{}", answer.stderr);
    assert_eq!(bounded(&session, "survey").status, 0);
    assert_eq!(bounded(&session, "order /").status, 0);
    // A build's mark, and the board itself.
    fs::create_dir_all(session.path("out/_pins")).unwrap();
    pipe(&session, "out/_pins/build.json");
    assert_eq!(bounded(&session, "build --out out --anyway").status, 2);
    fs::remove_file(session.path("deft-pin.toml")).unwrap();
    pipe(&session, "deft-pin.toml");
    let answer = bounded(&session, "check");
    assert!(answer.status == 2 && answer.stderr.contains("neither a file nor a folder"), "{}", answer.stderr);
    // A device.
    fs::remove_file(session.path("deft-pin.toml")).unwrap();
    std::os::unix::fs::symlink("/dev/zero", session.path("deft-pin.toml")).unwrap();
    assert_eq!(bounded(&session, "check").status, 2);
}

const COMMANDS: &[&str] = &[
    "survey", "survey /fares/ --ids", "survey --format json", "locate Fares", "locate h2 --copy",
    "lift /fares/ h2 --as x", "reach", "why /fares/ h2", "why /fares/ h2 --format json", "order /fares/",
    "check", "check --board faulty.toml", "check --board faulty.toml --format sarif", "completions bash",
];

fn demo() -> Session {
    let session = Session::new();
    session.good("demo . -q");
    session
}

#[test]
fn an_answer_that_nobody_takes_ends_quietly_or_is_told() {
    let session = demo();
    for command in COMMANDS {
        // A reader that is gone.
        let mut child =
            session.command(command).stdout(Stdio::piped()).stderr(Stdio::piped()).spawn().unwrap();
        drop(child.stdout.take());
        let output = child.wait_with_output().unwrap();
        let told = String::from_utf8_lossy(&output.stderr);
        assert!(output.status.code().is_some_and(|status| status < 2), "{command}: {told}");
        assert!(!told.contains("panicked"), "{command}: {told}");
        // A disk that is full. A right board has no answer to write.
        if *command == "check" {
            continue;
        }
        let Ok(full) = fs::File::options().write(true).open("/dev/full") else { continue };
        let output = session
            .command(command)
            .stdout(full.try_clone().unwrap())
            .stderr(Stdio::piped())
            .output()
            .unwrap();
        let told = String::from_utf8_lossy(&output.stderr);
        assert_eq!(output.status.code(), Some(2), "{command}: {told}");
        assert!(told.contains("the answer cannot be written"), "{command}: {told}");
        // Nobody to be told anything.
        let status = session.command(command).stdout(Stdio::null()).stderr(full).status().unwrap();
        assert!(status.code().is_some_and(|status| status < 2), "{command}");
    }
}

#[test]
fn a_file_that_cannot_be_written_whole_is_not_there() {
    let session = demo();
    let program = env!("CARGO_BIN_EXE_deft-pin");
    for (command, file) in [
        ("init site --board new.toml", "new.toml"),
        ("lift /fares/ h2 --as x --out new.css", "new.css"),
        ("order /fares/ --svg new.svg", "new.svg"),
        ("demo other", "other/deft-pin.toml"),
        ("build --out new", "new"),
    ] {
        // No file may have a byte.
        let limited = format!("trap '' XFSZ; ulimit -f 0; exec {program} {command}");
        let output =
            Command::new("sh").args(["-c", &limited]).current_dir(session.path(".")).output().unwrap();
        let told = String::from_utf8_lossy(&output.stderr);
        assert_eq!(output.status.code(), Some(2), "{command}: {told}");
        assert!(!session.path(file).exists(), "{command}");
        assert_eq!(session.run(command).status, 0, "{command}");
    }
    let left: Vec<_> =
        fs::read_dir(session.path(".")).unwrap().flatten().map(|entry| entry.file_name()).collect();
    assert!(left.iter().all(|name| !name.as_bytes().starts_with(b".")), "{left:?}");
}

#[test]
fn nothing_is_written_over() {
    let session = demo();
    let page = session.read("site/fares/index.html");
    session.refused(
        "order /fares/ --svg site/fares/index.html", "there is something else at `site/fares/index.html`",
    );
    assert_eq!(session.read("site/fares/index.html"), page);
    session.good("order /fares/ --svg fares.svg");
    let first = session.read("fares.svg");
    session.good("order /fares/ --svg fares.svg");
    assert_eq!(session.read("fares.svg"), first);
    session.refused("lift /fares/ h2 --as x --out fares.svg", "stays as it is");
    session.refused("init site --board fares.svg", "stays as it is");
    assert_eq!(session.read("fares.svg"), first);
}

#[test]
fn nothing_reaches_a_terminal_that_it_obeys() {
    let evil = "x\u{9b}31m\u{202e}y\u{1b}[2J\u{61c}";
    let session = Session::with(&[
        ("deft-pin.toml", &board("style = 'a.css'\nscript = 'a.js'")),
        (
            "site/index.html",
            &format!(
                "<!doctype html><title>{evil}</title><link rel=stylesheet href='{evil}.css'><p class='{evil}' id='{evil}'>{evil}</p><script>var {} = 1 // {evil}\n</script>",
                "a"
            ),
        ),
        ("a.css", &format!("p {{ content: '{evil}'; colr: red }}\n.{evil} {{ top: {evil} }}")),
        ("a.js", &format!("document.querySelector('#{evil}'); let = // {evil}\n")),
    ]);
    let is_obeyed = |c: char| c.is_control() && c != '\n' || matches!(c, '\u{202e}' | '\u{61c}');
    for command in [
        "survey", "survey / --ids", "locate x", "locate y --text", "reach", "why / p", "order /", "check",
        "order / --svg a.svg",
    ] {
        for format in ["", " --format json"] {
            if !format.is_empty() && command.contains("svg") {
                continue;
            }
            let answer = session.run(&format!("{command}{format}"));
            for text in [&answer.stdout, &answer.stderr] {
                assert!(!text.contains(is_obeyed), "{command}{format}: {text:?}");
            }
            if !format.is_empty() && answer.status < 2 {
                answer.json();
            }
        }
    }
    assert!(!session.read("a.svg").contains(is_obeyed));
    let sarif = session.run("check --format sarif");
    assert!(
        !sarif.stdout.contains(is_obeyed)
            && !sarif.json()["runs"][0]["results"].as_array().unwrap().is_empty()
    );
    // In a pipe code comes to the byte.
    session.write("site/index.html", "<!doctype html><style>p { content: '\u{9b}\u{202e}' }</style><p>x");
    assert!(session.good("lift / p --as x --site site").stdout.contains("content: '\u{9b}\u{202e}'"));
}

#[test]
fn names_of_files_stay_names() {
    let session = Session::new();
    let site = session.path("we\"b\n[pin.evil]\nstyle = \"x\"");
    let folder = "d'\"\n[pin.worse]\n\u{7f}é*";
    fs::create_dir_all(site.join(folder)).unwrap();
    for number in 0..3 {
        fs::write(site.join(folder).join(format!("{number}.html")), "<section id=fares><h2>x</h2></section>")
            .unwrap();
    }
    fs::write(
        site.join("x*%2F.html"),
        "<style>p { color: red }</style><p title='*/ body { display: none }'>x",
    )
    .unwrap();
    let output = session.command("init").arg(site.file_name().unwrap()).output().unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let text = session.read("deft-pin.toml");
    let toml: toml::Table = text.parse().unwrap_or_else(|error| panic!("{error}: {text}"));
    assert_eq!(toml.keys().collect::<Vec<_>>(), ["site"], "{text}");
    assert_eq!(toml["site"]["root"].as_str().map(Path::new), site.file_name().map(Path::new));
    assert_eq!(session.run("check").status, 0);
    // A comment in CSS ends where it ends.
    let other =
        Session::with(&[("site/x*/i.html", "<style>p { color: red }</style><p title='*/ body {}'><i>x")]);
    let lifted = other.good("lift x*/i.html p --as x --site site").stdout;
    assert_eq!(lifted.matches("*/").count(), 1, "{lifted}");
}

#[test]
fn files_whose_names_cannot_be_told_are_left_out_and_the_rest_goes_on() {
    let session = Session::with(&[
        ("deft-pin.toml", &board("style = 'a.css'")),
        ("a.css", "p{color:red}"),
        ("site/index.html", "<p>x"),
    ]);
    let name = |bytes: &[u8]| session.path("site").join(std::ffi::OsStr::from_bytes(bytes));
    for bytes in [&b"\xff.html"[..], b"C:win.html", b"a\\b.html", b"d/C:x.html", b"\x1b[2J.txt\xfe"] {
        fs::create_dir_all(name(bytes).parent().unwrap()).unwrap();
        fs::write(name(bytes), "<p>x").unwrap();
    }
    let answer = session.good("check");
    let told: Vec<&str> = answer.stderr.lines().filter(|line| line.starts_with("left out")).collect();
    let names = ["\\u{1b}[2J.txt\\xfe", "C:win.html", "a\\b.html", "d/C:x.html", "\\xff.html"];
    assert_eq!(told.len(), names.len(), "{}", answer.stderr);
    for (told, name) in told.iter().zip(names) {
        assert!(told.starts_with(&format!("left out `site/{name}`: its name ")), "{told}");
    }
    let output =
        session.command("build --out").arg(std::ffi::OsStr::from_bytes(b"o\xff\n")).output().unwrap();
    assert!(output.status.success(), "{}", String::from_utf8_lossy(&output.stderr));
    let out = session.path(".").join(std::ffi::OsStr::from_bytes(b"o\xff\n"));
    assert!(fs::read_to_string(out.join("index.html")).unwrap().contains("data-deft-pin"));
}

#[test]
fn the_same_goes_in_and_the_same_comes_out() {
    let session = demo();
    for command in COMMANDS {
        let run = |threads: usize| {
            let mut run = session.command(command);
            let output = run.env("RAYON_NUM_THREADS", threads.to_string()).output().unwrap();
            // How long it took is told beside the answer.
            (output.status.code(), String::from_utf8(output.stdout).unwrap())
        };
        let first = run(1);
        for turn in 0..5 {
            assert_eq!(run(1 + turn % 8), first, "{command}");
        }
    }
}

#[test]
fn a_missing_address_is_told_in_the_sheet_that_has_it() {
    let session = Session::with(&[
        (
            "deft-pin.toml",
            "[site]\nroot = 'site'\n[library.l]\nstyle = 'l/l.css'\n[pin.a]\nstyle = 'a.css'\nneeds = ['l']\n",
        ),
        ("site/index.html", PAGE),
        ("a.css", "@import 'in/b.css';\np { color: red }"),
        ("in/b.css", "p { top: 0 }\np { background: url(none.png) }"),
        ("l/l.css", "@import 'm.css';\n.a { left: 0 }"),
        ("l/m.css", "\n\n.a { background: url('gone.png') }"),
    ]);
    let answer = session.run("check --format json").json();
    let missing =
        answer["findings"].as_array().unwrap().iter().filter(|finding| finding["code"] == "missing-file");
    let told: Vec<_> =
        missing.map(|own| (own["file"].as_str().unwrap(), own["line"].as_u64().unwrap())).collect();
    assert_eq!(told, [("in/b.css", 2), ("l/m.css", 3)], "{answer}");
}

#[test]
fn where_there_is_no_room_for_a_stack_that_is_told() {
    let session = Session::with(&[("deft-pin.toml", &board("script = 'a.js'")), ("site/index.html", PAGE)]);
    session.write("a.js", format!("a{}", "+a".repeat(9_000)));
    let limited = format!("ulimit -v 330000; exec {} check", env!("CARGO_BIN_EXE_deft-pin"));
    let mut command = Command::new("sh");
    command.args(["-c", &limited]).current_dir(session.path(".")).env("RAYON_NUM_THREADS", "2");
    let output = command.output().unwrap();
    let told = String::from_utf8_lossy(&output.stdout) + String::from_utf8_lossy(&output.stderr);
    assert_eq!(output.status.code(), Some(1), "{told}");
    assert!(told.contains("error unread") && !told.contains("panicked"), "{told}");
    // With room it is read.
    assert!(!session.run("check").stdout.contains("unread"));
}

#[test]
fn an_unreadable_file_is_not_told_as_missing() {
    let session = Session::with(&[
        ("deft-pin.toml", &board("style = 'a.css'")),
        ("site/index.html", PAGE),
        ("a.css/x", ""),
    ]);
    let answer = session.run("check");
    assert!(
        answer.stdout.contains("it is a folder") && !answer.stdout.contains("a.css`?"),
        "{}",
        answer.stdout
    );
}

#[test]
fn odd_pages_take_code_or_say_why_not() {
    let own = "<script data-deft-pin=old></script><link rel=stylesheet data-deft-pin=old>";
    let table: [(&str, Vec<u8>); 5] = [
        ("an earlier build's elements", format!("<!doctype html><base href=/x/><p>x{own}<p>y").into_bytes()),
        ("none closed", format!("<!doctype html><meta charset=latin1><p>x\u{7f}{own}<ul><li>").into_bytes()),
        ("shifted at the end", b"<!doctype html><meta charset=iso-2022-jp><title>x</title><p>\x1b$B%9".to_vec()),
        ("shifted in the head", b"<!doctype html><meta charset=iso-2022-jp><title>\x1b$B%9\x1b(B</title><p>x\x1b$B%9\x1b(B</body></html>".to_vec()),
        ("shifted back behind it", b"<!doctype html><meta charset=iso-2022-jp><p>\x1b(Jx</body>\x1b(By".to_vec()),
    ];
    for (name, page) in table {
        let session = Session::with(&[
            ("deft-pin.toml", &board("style = 'a.css'\nscript = 'a.js'")),
            ("a.css", "p{color:red}"),
            ("a.js", "1"),
        ]);
        session.write("site/index.html", &page);
        let answer = session.run("build --out out");
        assert_eq!(answer.status, 0, "{name}: {}", answer.stderr);
        let built = fs::read(session.path("out/index.html")).unwrap();
        // What was there is there still, in its order.
        let mut rest = built.iter();
        assert!(page.iter().all(|byte| rest.any(|built| built == byte)), "{name}");
        let text = encoding_rs::Encoding::for_label(if name.starts_with("shifted") {
            b"iso-2022-jp"
        } else {
            b"latin1"
        })
        .unwrap()
        .decode(&built)
        .0;
        assert!(
            text.contains("<script src=\"") && text.contains("_pins/a.") && !text.contains('\u{fffd}'),
            "{name}: {text}"
        );
    }
    let session = Session::with(&[
        ("deft-pin.toml", &board("script = 'a.js'")),
        ("a.js", "1"),
        ("site/index.html", "<!doctype html><p>x<script>open"),
    ]);
    let answer = session.run("check");
    assert!(answer.status == 0 || answer.stdout.contains("leaves open"), "{}", answer.stdout);
}
