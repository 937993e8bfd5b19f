//! Pages that nobody here wrote: what `why` says of their elements is so in Chromium. Run by
//! `scripts/real-trees.sh`, which names the folder that the trees are in.

use serde_json::{Value, json};

use crate::dice::Dice;
use crate::driver::Browser;
use crate::session::Session;

/// Puts what is said to win into the element itself, stronger than anything, and `revert` for all
/// else: if what is said is right and complete, no computed value changes. Gives back what did, and
/// how many longhands were held.
const HELD: &str = "const probe = document.createElement('p'), wrong = []; let held = 0, open = 0;
  // Some shorthands are listed among computed values.
  const isLonghand = name => {
    // What the attribute `lang` comes to, inside of the browser alone.
    if (name == '-webkit-locale') return false;
    probe.style.cssText = name + ': initial';
    return probe.style.length == 1 && probe.style[0] == name;
  };
  const longhands = new Set([...getComputedStyle(document.documentElement)].filter(isLonghand));
  for (const [selector, claims, unsettled] of arguments[0]) {
    const found = document.querySelectorAll(selector);
    if (found.length != 1) { wrong.push(selector + ' is ' + found.length + ' elements'); continue; }
    const element = found[0], own = element.getAttribute('style'), style = getComputedStyle(element);
    const names = [...style].filter(name => longhands.has(name)), before = names.map(name => style.getPropertyValue(name));
    const values = {};
    // The padding that cells have by themselves is an attribute's here, not one of the browser's sheet.
    if (/^t[dh]$/.test(element.localName)) ['top', 'right', 'bottom', 'left'].forEach(side => values['padding-' + side] = '1px');
    const skipped = new Set(unsettled);
    for (const [name, declared, shorthand, value] of claims) {
      probe.style.cssText = (shorthand || declared) + ':' + value;
      const text = probe.style.getPropertyValue(declared);
      // Addresses are relative to their sheet, and what variables give is not known before.
      if (!text || /url\\(|var\\(/.test(text)) skipped.add(name); else values[name] = text;
    }
    for (const name of names) if (!skipped.has(name)) element.style.setProperty(name, values[name] || 'revert', 'important');
    names.forEach((name, at) => {
      if (skipped.has(name)) { open += 1; return; }
      held += 1;
      const after = style.getPropertyValue(name);
      if (after != before[at]) wrong.push(selector + ' ' + name + ' is ' + before[at] + ', said ' + (values[name] || 'nothing') + ', which comes to ' + after);
    });
    if (own === null) element.removeAttribute('style'); else element.setAttribute('style', own);
  }
  return [held, open, wrong];";

#[test]
#[ignore = "needs trees that scripts/real-trees.sh fetches"]
fn what_wins_on_real_pages_is_as_why_says() {
    let trees = std::env::var("DEFT_PIN_TREES").expect("DEFT_PIN_TREES names a folder");
    let browser = Browser::without_scripts();
    browser.resize(1280, 800);
    let session = Session::new();
    let mut dice = Dice::seeded(1931);
    let mut folders: Vec<_> = std::fs::read_dir(trees).unwrap().map(|entry| entry.unwrap().path()).collect();
    folders.sort();
    let (mut held, mut open, mut pages, mut wrong) = (0, 0, 0, Vec::new());
    for folder in folders.iter().filter(|folder| folder.join("site").is_dir()) {
        let survey = session.run(&format!("survey --site {}/site --format json", folder.display())).json();
        let all = survey["pages"].as_array().unwrap();
        for _ in 0..20 {
            let page = &all[dice.below(all.len())];
            let (path, file) = (page["page"].as_str().unwrap(), page["file"].as_str().unwrap());
            let mut command = session.command("why --format json --width 1280 --height 800 --site");
            let output = command.arg(folder.join("site")).args([path, "*"]).output().unwrap();
            let answer: Value = serde_json::from_slice(&output.stdout).expect("an answer");
            let elements = answer["elements"].as_array().unwrap();
            let step = elements.len().div_ceil(60).max(1);
            let claims: Vec<Value> = elements.iter().step_by(step).map(claims_of).collect();
            browser.go(&format!("file://{}", folder.join("site").join(file).display()));
            let found = browser.run(HELD, vec![json!(claims)]);
            held += found[0].as_u64().unwrap();
            open += found[1].as_u64().unwrap();
            pages += 1;
            wrong.extend(found[2].as_array().unwrap().iter().map(|text| format!("{file}: {text}")));
        }
    }
    println!("{pages} pages, {held} longhands as said, {open} that the computed value cannot tell");
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong[..wrong.len().min(40)].join("\n"));
}

/// What is said of an element: name, declared name, shorthand and value of what certainly wins, and
/// the names that are not settled.
fn claims_of(element: &Value) -> Value {
    let properties = element["properties"].as_array().unwrap();
    let is_sure =
        |property: &&Value| property["winner"]["match"] == "yes" && property.get("may_win").is_none();
    let sure = properties.iter().filter(is_sure).map(|property| {
        let winner = &property["winner"];
        let declared = winner.get("declared").unwrap_or(&property["property"]);
        json!([property["property"], declared, winner["shorthand"], winner["value"]])
    });
    let unsettled = properties.iter().filter(|property| !is_sure(property));
    let unsettled = unsettled.map(|property| property["property"].clone());
    json!([element["element"], sure.collect::<Vec<_>>(), unsettled.collect::<Vec<_>>()])
}

/// The one pin of the board: it listens to what fails.
const LISTENS: &str = "window.failed = []; addEventListener('error', function (event) {
  if (event.message) failed.push(event.message + ' ' + event.filename);
});";

#[test]
#[ignore = "needs trees that scripts/real-trees.sh fetches"]
fn what_is_said_to_fail_on_real_pages_fails() {
    let trees = std::env::var("DEFT_PIN_TREES").expect("DEFT_PIN_TREES names a folder");
    let browser = Browser::open();
    let session = Session::new();
    let mut dice = Dice::seeded(77);
    let mut folders: Vec<_> = std::fs::read_dir(trees).unwrap().map(|entry| entry.unwrap().path()).collect();
    folders.sort();
    let (mut pages, mut failing, mut said, mut wrong) = (0, 0, 0, Vec::new());
    for folder in folders.iter().filter(|folder| folder.join("site").is_dir()) {
        let survey = session.run(&format!("survey --site {}/site --format json", folder.display())).json();
        let all = survey["pages"].as_array().unwrap();
        let drawn: Vec<&Value> = (0..40).map(|_| &all[dice.below(all.len())]).collect();
        let paths: Vec<String> = drawn.iter().map(|page| page["page"].to_string()).collect();
        std::fs::write(folder.join("listens.js"), LISTENS).unwrap();
        let board = format!(
            "[site]\nroot = 'site'\n[pin.listens]\npages = [{}]\nscript = 'listens.js'\nslot = 'head-start'\n",
            paths.join(", ")
        );
        std::fs::write(folder.join("trivial.toml"), board).unwrap();
        let board = folder.join("trivial.toml").display().to_string();
        let check = session.run(&format!("check --board {board} --format json"));
        let errors = check.json()["findings"].as_array().unwrap().clone();
        let errors: Vec<_> = errors.iter().filter(|finding| finding["severity"] == "error").collect();
        assert!(errors.is_empty(), "{errors:?}");
        let out = folder.join("trivial-out");
        session.good(&format!("build --board {board} --out {} --anyway", out.display()));
        for page in drawn {
            let (path, file) = (page["page"].as_str().unwrap(), page["file"].as_str().unwrap());
            let mut command = session.command("order --format json --site");
            let output = command.arg(folder.join("site")).arg(path).output().unwrap();
            let answer: Value = serde_json::from_slice(&output.stdout).expect("an answer");
            let stops: Vec<&Value> = answer["findings"]
                .as_array()
                .unwrap()
                .iter()
                .filter(|finding| finding["severity"] == "error")
                .collect();
            browser.go(&format!("file://{}", out.join(file).display()));
            let failed =
                browser.run("return new Promise(done => setTimeout(() => done(window.failed), 100))", vec![]);
            let failed = failed.as_array().unwrap();
            pages += 1;
            failing += u32::from(!failed.is_empty());
            said += u32::from(!stops.is_empty());
            if failed.len() < stops.len() {
                wrong.push(format!("{file}: {stops:?}, and {failed:?}"));
            }
        }
    }
    println!("{pages} pages: on {failing} something fails, on {said} it is said so");
    assert!(wrong.is_empty(), "{} wrong:\n{}", wrong.len(), wrong[..wrong.len().min(20)].join("\n"));
}
