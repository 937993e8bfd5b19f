//! The script for continuous integration does what its page says.

use std::path::Path;
use std::process::Command;

use crate::session::Session;

fn run(session: &Session, board: &str) -> (Option<i32>, String) {
    let script = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/ci.sh");
    let program = Path::new(env!("CARGO_BIN_EXE_deft-pin")).parent().unwrap();
    let path = format!("{}:{}", program.display(), std::env::var("PATH").unwrap());
    let mut command = Command::new("sh");
    command.arg(script).args([board, "kept"]).current_dir(session.path("")).env("PATH", path);
    let output = command.output().unwrap();
    (output.status.code(), String::from_utf8_lossy(&output.stdout).into_owned())
}

#[test]
fn findings_and_pictures_are_kept() {
    let session = Session::with(&[
        (
            "good.toml",
            "[site]\nroot = 'site'\n[pin.tint]\npages = ['/']\nwithin = 'main'\nstyle = 'tint.css'",
        ),
        (
            "bad.toml",
            "[site]\nroot = 'site'\n[pin.tint]\npages = ['/']\nwithin = '#mian'\nstyle = 'tint.css'",
        ),
        ("tint.css", "h1 { color: teal }"),
        ("site/index.html", "<!doctype html><title>x</title><main id=main><h1>Ferries</h1></main>"),
        ("site/fares.html", "<!doctype html><title>x</title><main><h1>Fares</h1></main>"),
    ]);
    let (status, told) = run(&session, "good.toml");
    assert_eq!(status, Some(0), "{told}");
    let sarif: serde_json::Value = serde_json::from_str(&session.read("kept/findings.sarif")).unwrap();
    assert_eq!(sarif["version"], "2.1.0");
    assert!(session.read("kept/compared/compare.html").contains("data-picture"));
    let (status, told) = run(&session, "bad.toml");
    assert_eq!(status, Some(1), "{told}");
    assert!(session.read("kept/findings.txt").contains("no-element"), "{told}");
    assert!(session.path("kept/compared/compare.json").is_file());
    assert_eq!(run(&session, "none.toml").0, Some(2));
}
