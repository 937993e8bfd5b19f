//! Scripts of pins in Chromium: what is said to stop stops, and what is not does not.

use std::sync::Arc;

use serde_json::{Value, json};

use crate::cases::{Case, SCRIPTS};
use crate::driver::Browser;
use crate::server::{Served, serve};

/// Whether what comes of a case tells nothing: of a race, of a host that cannot be reached here, of
/// what is loaded later and may be anything, of what runs before the page's own first script.
fn is_unsettled(case: &Case) -> bool {
    case.codes == ["race"]
        || case.page.contains("https:")
        || case.page.contains("none.js")
        || case.keys.contains("head-start")
        || case.keys.contains("adds")
        || case.script.contains("createElement('script')")
}

#[test]
fn what_is_said_to_stop_stops_and_nothing_else() {
    let browser = Browser::open();
    let served: Served = Arc::default();
    // Files have no modules, so the pages come from a server.
    let port = serve(Arc::clone(&served), false);
    let (mut tried, mut clean, mut wrong) = (0, 0, Vec::new());
    for case in SCRIPTS {
        if is_unsettled(case) {
            continue;
        }
        let session = case.session();
        session.run("build --out out --anyway");
        {
            let mut served = served.lock().unwrap();
            served.clear();
            for (path, bytes) in session.files("out") {
                let kind = if path.ends_with(".html") { "text/html" } else { "text/javascript" };
                served.insert(format!("/{path}"), (kind, String::from_utf8(bytes).unwrap()));
            }
        }
        browser.go(&format!("http://127.0.0.1:{port}/index.html"));
        // A script that stands after what the case is about, so that functions for later run as well.
        let errors = browser.run(
            "return new Promise(done => setTimeout(() => { if (typeof draw == 'function') try { draw() } catch (e) { errors.push(e.message) } done(errors) }, 50))",
            vec![],
        );
        assert!(matches!(errors, Value::Array(_)));
        // A pin without its element does not run, which is no error of the browser's.
        let stops = !case.codes.is_empty() && case.codes != ["no-element"];
        if (errors != json!([])) != stops {
            wrong.push(format!("{case:?}: {errors}"));
        }
        tried += 1;
        clean += u32::from(!stops);
    }
    assert_eq!(wrong, Vec::<String>::new());
    assert!(tried >= 120 && clean * 2 >= tried, "{clean} of {tried} are clean");
}
