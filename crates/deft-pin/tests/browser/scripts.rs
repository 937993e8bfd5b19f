//! Scripts of pins in Chromium: what is said to stop stops, and what is not does not.

use serde_json::{Value, json};

use crate::cases::SCRIPTS;
use crate::driver::Browser;

#[test]
fn what_is_said_to_stop_stops_and_nothing_else() {
    let browser = Browser::open();
    let mut tried = 0;
    for case in SCRIPTS {
        // What comes of a race, or of a host that cannot be reached here, tells nothing; what is loaded later may
        // come to anything, and what
        // runs before the page's own first script is not heard of.
        if case.codes == ["race"]
            || case.page.contains("https:")
            || case.keys.contains("head-start")
            || case.keys.contains("adds")
            || case.script.contains("createElement")
        {
            continue;
        }
        let session = case.session();
        session.run("build --out out --anyway");
        // A script that stands after what the case is about, so that functions for later run as well.
        browser.go(&format!("file://{}", session.path("out/index.html").display()));
        let errors = browser.run(
            "return new Promise(done => setTimeout(() => { if (typeof draw == 'function') try { draw() } catch (e) { errors.push(e.message) } done(errors) }, 50))",
            vec![],
        );
        let stops = !case.codes.is_empty();
        assert_eq!(errors != json!([]), stops, "{case:?}: {errors}");
        assert!(matches!(errors, Value::Array(_)));
        tried += 1;
    }
    assert!(tried > 30, "{tried}");
}
