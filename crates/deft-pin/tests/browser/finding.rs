//! Selectors that `locate` gives match in Chromium what they are given for, and nothing else.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

/// What a selector matches in a page's text, as places among all elements in tree order. The page
/// is parsed by the browser, but its scripts do not run.
const MATCHED: &str = "const page = new DOMParser().parseFromString(arguments[0], 'text/html');
  // Where scripts do not run, what is in a <noscript> is elements; in a page as it is shown, text.
  page.querySelectorAll('noscript').forEach(e => e.textContent = '');
  const all = [...page.querySelectorAll('*')];
  return [...page.querySelectorAll(arguments[1])].map(e => all.indexOf(e));";

#[test]
fn the_best_selector_of_each_element_of_the_demo_is_unique_in_chromium() {
    let session = Session::new();
    session.good("demo . -q");
    let browser = Browser::open();
    browser.go("about:blank");
    let mut tried = 0;
    for page in ["/", "/fares/", "/piers/marram/", "/contact.html"] {
        let file = match page.strip_suffix('/') {
            Some(folder) => format!("site{folder}/index.html"),
            None => format!("site{page}"),
        };
        let text = session.read(&file);
        let mut command = session.command("locate --selector --all --format json --page");
        let output = command.args([page, "body *"]).output().unwrap();
        let answer: Value = serde_json::from_slice(&output.stdout).unwrap();
        for element in answer["elements"].as_array().unwrap() {
            for way in element["selectors"].as_array().unwrap() {
                let matched = browser.run(MATCHED, vec![json!(text), way["selector"].clone()]);
                let line = matched[0].as_u64().map(|at| line_of(&browser, &text, at));
                assert_eq!(matched.as_array().unwrap().len(), 1, "{page} {way}");
                assert_eq!(line, element["element"].as_str().map(str::to_owned), "{page} {way}");
                tried += 1;
            }
        }
    }
    assert!(tried > 400, "{tried}");
}

/// The short name of an element.
fn line_of(browser: &Browser, text: &str, at: u64) -> String {
    let script = "const page = new DOMParser().parseFromString(arguments[0], 'text/html');
      const e = page.querySelectorAll('*')[arguments[1]];
      return e.localName + (e.id ? '#' + e.id : e.classList.length ? '.' + e.classList[0] : '');";
    browser.run(script, vec![json!(text), json!(at)]).as_str().unwrap().to_owned()
}

/// Selectors for elements drawn at random from pages that nobody here wrote: run by
/// `scripts/real-trees.sh`, which names the sample.
#[test]
#[ignore = "needs a sample that scripts/real-trees.sh makes"]
fn selectors_of_a_sample_are_unique_in_chromium() {
    let path = std::env::var("DEFT_PIN_SAMPLE").expect("DEFT_PIN_SAMPLE names a file");
    let rows: Vec<Value> = serde_json::from_str(&std::fs::read_to_string(path).unwrap()).unwrap();
    let browser = Browser::open();
    browser.go("about:blank");
    for row in &rows {
        let matched = browser.run(MATCHED, vec![row["text"].clone(), row["selector"].clone()]);
        assert_eq!(matched, json!([row["place"]]), "{}", row["selector"]);
    }
    println!("{} selectors, each unique in Chromium", rows.len());
}
