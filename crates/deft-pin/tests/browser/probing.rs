//! What a script of the host puts in is probed in a browser.

use serde_json::Value;

use crate::session::Session;

/// The states of all parts, each once.
fn states(json: &Value) -> Vec<String> {
    let pages = json["pages"].as_array().unwrap().iter();
    let parts = pages.flat_map(|page| page["pins"].as_array().unwrap().clone());
    let mut rows: Vec<String> = parts.map(|own| own["state"].as_str().unwrap().to_owned()).collect();
    rows.sort();
    rows.dedup();
    rows
}

#[test]
fn pages_are_probed_after_their_scripts_have_run() {
    for kind in ["inserted", "site-slots", "blocks"] {
        let session = Session::new();
        session.good("demo");
        let board = session.read("deft-pin-demo/boxes.toml").replace("page-slots", kind);
        session.write("deft-pin-demo/boxes.toml", board);
        let published = session.run("publish --board deft-pin-demo/boxes.toml --anyway");
        assert_eq!(published.status, 0, "{kind}: {}{}", published.stdout, published.stderr);
        let server = session.preview("--board deft-pin-demo/boxes.toml --pasted --plain");
        let url = server.url("/");
        let probe = |more: &str| {
            let answer = session
                .run(&format!("probe {url} --board deft-pin-demo/boxes.toml --pause 0 --format json {more}"));
            (answer.status, answer)
        };
        let (status, answer) = probe("--browser");
        assert!(!answer.stdout.is_empty(), "{kind}: {}", answer.stderr);
        let json: Value = serde_json::from_str(&answer.stdout).unwrap();
        assert_eq!((status, states(&json)), (0, vec!["live".to_owned()]), "{kind}: {}", answer.stdout);
        let (status, answer) = probe("");
        match kind {
            "inserted" => assert!(status == 2 && answer.stderr.contains("--browser"), "{}", answer.stderr),
            _ => assert_eq!(status, 0, "{kind}: {}", answer.stdout),
        }
    }
}
