//! `build`: what lands where, and what stays as it was.

use std::fs;
use std::process::Stdio;
use std::time::{Duration, Instant};

use crate::session::Session;

const PAGE: &str = "<!doctype html>\n<html><head><title>Fares</title></head>\n<body><main id=fares><h2>Fares</h2></main></body></html>\n";

fn ferries() -> Session {
    Session::with(&[
        (
            "deft-pin.toml",
            "[site]\nroot = 'site'\n[library.tide]\nscript = 'vendor/tide.js'\nstyle = 'vendor/tide.css'\n[pin.fares]\npages = ['/fares/*']\nwithin = '#fares'\nstyle = 'pins/fares.css'\nscript = 'pins/fares.js'\nneeds = ['tide']\n",
        ),
        ("pins/fares.css", "h2 { color: teal; background: url('img/wave pic.svg#a') }"),
        ("pins/img/wave pic.svg", "<svg/>"),
        ("pins/fares.js", "Tide.draw('</script>');"),
        ("vendor/tide.js", "window.Tide = { draw: function () {} };"),
        ("vendor/tide.css", "@import 'more.css'; .tide { color: red }"),
        ("vendor/more.css", ".more { background: url(img/x.png) }"),
        ("vendor/img/x.png", "png"),
        ("site/index.html", PAGE),
        ("site/fares/index.html", PAGE),
        ("site/fares/group/deep.html", PAGE),
        ("site/css/a.css", "p {}"),
        ("site/.well-known/x", "y"),
    ])
}

#[test]
fn targeted_pages_carry_their_placements_and_all_else_is_as_it_was() {
    let session = ferries();
    let answer = session.good("build --out out --format json");
    assert_eq!(
        (answer.json()["customised"].as_u64(), answer.json()["placements"].as_u64()),
        (Some(2), Some(8))
    );
    let (site, mut out) = (session.files("site"), session.files("out"));
    for untouched in ["index.html", "css/a.css", ".well-known/x"] {
        assert_eq!(site[untouched], out[untouched], "{untouched}");
    }
    let deep = session.read("out/fares/group/deep.html");
    let pieces: Vec<&str> = deep.split("<").filter(|piece| piece.contains("data-deft-pin")).collect();
    assert_eq!(pieces.len(), 4, "{deep}");
    for piece in &pieces {
        let address = piece.split('"').find(|part| part.contains("_pins/")).unwrap();
        let name = address.strip_prefix("../../_pins/").unwrap_or_else(|| panic!("{address}"));
        assert!(out.remove(&format!("_pins/{name}")).is_some(), "{name} is not there");
    }
    // Taking the elements out again gives the page back, byte for byte.
    let mut bare = deep.clone();
    for piece in pieces {
        let element = format!("<{piece}{}", if piece.starts_with("script") { "</script>" } else { "" });
        bare = bare.replace(&element, "");
    }
    assert_eq!(bare, PAGE);
    let css = out
        .iter()
        .filter(|(name, _)| name.ends_with(".css"))
        .map(|(name, _)| name.clone())
        .collect::<Vec<_>>();
    let more = css.iter().find(|name| name.contains("more")).unwrap();
    assert!(
        String::from_utf8_lossy(&out[more]).contains("url(\"x."),
        "an imported sheet's own files go along"
    );
    let wave = out.keys().find(|name| name.contains("wave")).unwrap();
    let fares = session
        .files("out/_pins")
        .into_iter()
        .find(|(name, _)| name.starts_with("fares.") && name.ends_with(".css"))
        .unwrap();
    let text = String::from_utf8(fares.1).unwrap();
    assert!(text.starts_with("h2:is(#fares, #fares *) { color: teal;"), "{text}");
    assert!(
        text.contains(&format!("url(\"{}#a\")", wave.trim_start_matches("_pins/").replace(' ', "%20"))),
        "{text}"
    );
}

#[test]
fn the_same_input_gives_the_same_output_and_another_text_another_name() {
    let session = ferries();
    session.good("build --out one");
    session.command("build --out two").env("RAYON_NUM_THREADS", "1").output().unwrap();
    assert_eq!(session.files("one"), session.files("two"));
    session.write("pins/fares.js", "window.other = 1");
    session.good("build --out two");
    let names = |folder: &str| {
        session
            .files(folder)
            .into_keys()
            .filter(|name| name.contains("_pins/fares") && name.ends_with("js"))
            .collect::<Vec<_>>()
    };
    assert_eq!(names("one").len(), 1);
    assert_ne!(names("one"), names("two"));
}

#[test]
fn inline_puts_the_code_into_the_page_and_keeps_it_in_there() {
    let session = ferries();
    session.good("build --out out --inline");
    let page = session.read("out/fares/index.html");
    assert!(page.contains("<style data-deft-pin=\"fares\">h2:is(#fares, #fares *) { color: teal; background: url(\"../_pins/wave%20pic."), "{page}");
    assert!(
        page.contains(
            "(root) {Tide.draw('\\x3C/script>');\n}, window);\n//# sourceURL=pins/fares.js\n</script>"
        ),
        "{page}"
    );
}

#[test]
fn integrity_is_there_when_asked_for_and_right() {
    let session = ferries();
    session.good("build --out out --integrity");
    let page = session.read("out/fares/index.html");
    assert_eq!(page.matches("integrity=\"sha384-").count(), 2, "the library's files alone: {page}");
    session.good("build --out out");
    assert!(!session.read("out/fares/index.html").contains("integrity"));
}

#[test]
fn having_and_off_and_skip_keep_a_pin_away() {
    let session = ferries();
    session.write("site/fares/none.html", "<body><p>No table here</p></body>");
    for (key, pages) in [("having = 'main'", 2), ("skip = ['/fares/']", 2), ("off = true", 0)] {
        session.write(
            "deft-pin.toml",
            format!(
                "[site]\nroot = 'site'\n[pin.fares]\npages = ['/fares/*']\nstyle = 'pins/fares.css'\n{key}\n"
            ),
        );
        let answer = session.good("build --out out --format json --anyway");
        assert_eq!(answer.json()["customised"], pages, "{key}");
    }
}

#[test]
fn a_failed_check_writes_nothing_unless_asked() {
    let session = ferries();
    session.good("build --out out");
    let before = session.files("out");
    session.write("pins/fares.css", "h2 { colr: red }");
    let answer = session.run("build --out out");
    assert_eq!(answer.status, 1);
    assert!(
        answer.stderr.contains("colr") && answer.stderr.contains("nothing was written"),
        "{}",
        answer.stderr
    );
    assert_eq!(session.files("out"), before);
    session.good("build --out out --anyway");
    assert_ne!(session.files("out"), before);
}

#[test]
fn places_that_are_not_its_own_are_left_alone() {
    let session = ferries();
    session.write("mine/letter.txt", "dear");
    session.write("file", "x");
    session.refused("build --out mine", "no build of Deft Pin's: nothing in it is touched");
    session.refused("build --out file", "is no folder");
    session.refused("build --out site/out", "would be inside the site");
    session.refused("build --out site", "would be inside the site");
    session.refused("build --out .", "is inside the output");
    session.refused("build --out /proc/deft-pin-out", "nothing can be written beside");
    session.refused("build --out out --folder a/b", "is no name for a folder");
    session.refused("build --out out --folder css", "the site has a `css` of its own");
    assert_eq!(session.read("mine/letter.txt"), "dear");
    fs::create_dir(session.path("empty")).unwrap();
    session.good("build --out empty");
    let left: Vec<_> = fs::read_dir(session.path(""))
        .unwrap()
        .flatten()
        .filter(|e| e.file_name().to_string_lossy().contains(".deft-pin"))
        .collect();
    assert!(left.is_empty(), "nothing half done is left behind: {left:?}");
}

#[test]
#[cfg(unix)]
fn links_are_followed_within_the_folder_and_nowhere_else() {
    let session = ferries();
    let secret = Session::with(&[("secret.txt", "secret")]);
    let link = |from: &std::path::Path, to: &str| std::os::unix::fs::symlink(from, session.path(to)).unwrap();
    link(&session.path("site/css/a.css"), "site/css/b.css");
    link(&secret.path("secret.txt"), "site/leak.txt");
    link(&secret.path(""), "site/folder");
    link(&session.path("nowhere"), "site/dangling.html");
    link(&secret.path("secret.txt"), "pins/leak.css");
    let answer = session.good("build --out out");
    assert_eq!(session.read("out/css/b.css"), "p {}");
    assert!(!session.files("out").values().any(|bytes| bytes == b"secret"));
    assert_eq!(answer.stderr.matches("left out").count(), 3, "{}", answer.stderr);
    session.write("deft-pin.toml", "[site]\nroot = 'site'\n[pin.a]\nstyle = 'pins/leak.css'\n");
    let answer = session.run("check --format json");
    assert_eq!(answer.codes(), ["missing-file"]);
    assert!(answer.stdout.contains("leads out of the folder"));
    session.write("deft-pin.toml", "[site]\nroot = 'site/folder'\n");
    session.refused("check", "leads out of the board's folder");
}

#[test]
fn a_build_that_is_killed_leaves_the_earlier_one_whole() {
    let session = ferries();
    for page in 0..3000 {
        session.write(&format!("site/fares/p{page}.html"), PAGE);
    }
    session.good("build --out out");
    let before = session.files("out");
    session.write("pins/fares.js", "window.changed = 1");
    let mut killed = 0;
    for wait in [0, 15, 40, 80] {
        let mut child =
            session.command("build --out out").stdout(Stdio::null()).stderr(Stdio::null()).spawn().unwrap();
        // Runs that were killed before leave theirs until the next one clears them away.
        let work = || {
            let entries = fs::read_dir(session.path("")).unwrap().flatten();
            let names = entries.map(|entry| entry.file_name().into_string().unwrap());
            names.filter(|name| name.starts_with(".out.") && name.ends_with(".deft-pin")).count() == 1
        };
        let begun = Instant::now();
        while !work() && begun.elapsed() < Duration::from_secs(20) && child.try_wait().unwrap().is_none() {
            std::thread::sleep(Duration::from_millis(1));
        }
        std::thread::sleep(Duration::from_millis(wait));
        let running = child.try_wait().unwrap().is_none();
        child.kill().unwrap();
        child.wait().unwrap();
        if running && work() {
            killed += 1;
            assert_eq!(session.files("out"), before, "killed after {wait} ms");
        }
    }
    assert!(killed > 0, "no run was killed in the middle");
    session.good("build --out out");
    assert_ne!(session.files("out"), before);
    let left = fs::read_dir(session.path(""))
        .unwrap()
        .flatten()
        .filter(|e| e.file_name().to_string_lossy().contains(".deft-pin"));
    assert_eq!(left.count(), 0, "what the killed runs left is swept up");
}

/// Runs the program as a user who may not do everything, whoever runs the tests.
#[cfg(unix)]
fn refused_to_a_plain_user(session: &Session, arguments: &str, words: &str) {
    use std::os::unix::process::CommandExt;
    // The program itself may be in a folder that is closed to others.
    let copy = session.path("program");
    if !copy.exists() {
        fs::copy(env!("CARGO_BIN_EXE_deft-pin"), &copy).unwrap();
    }
    let mut command = std::process::Command::new(copy);
    command.current_dir(session.path("")).args(arguments.split_ascii_whitespace());
    let root = fs::metadata("/proc/self").is_ok_and(|own| std::os::unix::fs::MetadataExt::uid(&own) == 0);
    if root {
        command.uid(65534).gid(65534);
    }
    let output = command.output().unwrap();
    let told = String::from_utf8(output.stderr).unwrap().split_whitespace().collect::<Vec<_>>().join(" ");
    assert_eq!(output.status.code(), Some(2), "{told}");
    assert!(told.contains(words), "{words:?} is not in {told:?}");
}

#[test]
#[cfg(unix)]
fn what_may_not_be_read_or_written_is_told_and_nothing_is_lost() {
    use std::os::unix::fs::PermissionsExt;
    let session = ferries();
    let mode =
        |path: &str, mode| fs::set_permissions(session.path(path), fs::Permissions::from_mode(mode)).unwrap();
    mode("", 0o755);
    session.good("build --out out");
    let before = session.files("out");
    refused_to_a_plain_user(&session, "build --out out", "nothing can be written beside `out`");
    refused_to_a_plain_user(&session, "build --out new/out", "cannot be made");
    mode("site/fares/index.html", 0o000);
    refused_to_a_plain_user(&session, "check", "the page `fares/index.html` cannot be read");
    mode("site/fares", 0o000);
    refused_to_a_plain_user(&session, "check", "the site's folder `site` cannot be read");
    mode("deft-pin.toml", 0o000);
    refused_to_a_plain_user(&session, "check", "the board `deft-pin.toml` cannot be read");
    mode("site/fares", 0o755);
    assert_eq!(session.files("out"), before);
}
