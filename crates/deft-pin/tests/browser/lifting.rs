//! A lifted class makes a plain element of the same kind look the same in Chromium.

use serde_json::{Value, json};

use crate::dice::Dice;
use crate::driver::Browser;
use crate::session::Session;

/// Puts a plain element into the page and gives it the class; then what the lifted rules set and is
/// not the same on both. A style of its own comes last, as a pin's does.
const DIFFERENT: &str = "const own = document.querySelector(arguments[0]);
  const style = document.createElement('style');
  style.textContent = arguments[1];
  document.head.append(style);
  const plain = document.createElement(own.localName);
  plain.innerHTML = own.innerHTML;
  const different = [], before = new Map();
  let compared = 0;
  // The element's own look as it is while nothing stands behind it that did not before.
  for (const pseudo of [null, '::before', '::after']) {
    const looks = getComputedStyle(own, pseudo);
    for (const name of looks) before.set(pseudo + name, looks.getPropertyValue(name));
  }
  // The plain one stands where none of the site's rules for that part of the page reach, but in
  // a box that passes on what the element's own box does.
  const around = getComputedStyle(own.parentElement), box = document.createElement('div');
  box.style.cssText = `all: initial; display: block; width: ${own.parentElement.clientWidth || 500}px`;
  for (const name of ['font', 'color', 'line-height', 'letter-spacing', 'text-align', 'list-style', 'visibility'])
    box.style.setProperty(name, around.getPropertyValue(name));
  box.append(plain);
  document.body.append(box);
  plain.className = 'lifted';
  for (const rule of style.sheet.cssRules) {
    if (!rule.selectorText || !/^\\.lifted(::before|::after)?$/.test(rule.selectorText)) continue;
    const pseudo = rule.selectorText.includes('::') ? rule.selectorText.slice(7) : null;
    for (const name of rule.style) {
      compared++;
      if (!before.has(pseudo + name)) continue;
      const a = before.get(pseudo + name), b = getComputedStyle(plain, pseudo).getPropertyValue(name);
      if (a !== b) different.push([name, a, b]);
    }
  }
  style.remove();
  box.remove();
  return [compared, different];";

/// Lifts elements of a site drawn at random, and holds them against the browser: how many
/// properties were the same.
fn hold(browser: &Browser, session: &Session, site: &str, wanted: usize) -> usize {
    let mut dice = Dice::seeded(50);
    let pages = session.good(&format!("survey --site {site} --all --format json")).json();
    let pages = pages["pages"].as_array().unwrap();
    let mut held = 0;
    let mut compared = 0;
    while held < wanted {
        let page = &pages[dice.below(pages.len())];
        let (path, file) = (page["page"].as_str().unwrap(), page["file"].as_str().unwrap());
        let mut command = session.command(&format!("why --site {site} --format json"));
        let output = command.args([path, "body *:not(script, style, br)"]).output().unwrap();
        let Ok(answer) = serde_json::from_slice::<Value>(&output.stdout) else { continue };
        let elements = answer["elements"].as_array().unwrap();
        let element = &elements[dice.below(elements.len())];
        let selector = element["element"].as_str().unwrap();
        let mut command = session.command(&format!("lift --site {site} --as lifted --resolve"));
        let output = command.args([path, selector]).output().unwrap();
        let css = String::from_utf8(output.stdout).unwrap();
        // Addresses are relative to the session's folder, where the browser is not.
        let css = css.replace("url(\"", &format!("url(\"file://{}/", session.path("").display()));
        browser.go(&format!("file://{}/{file}", session.path(site).display()));
        let found = browser.run(DIFFERENT, vec![json!(selector), json!(css)]);
        assert_eq!(found[1], json!([]), "{path} {selector}\n{css}");
        compared += found[0].as_u64().unwrap() as usize;
        held += 1;
    }
    compared
}

#[test]
fn a_lifted_class_looks_the_same_in_chromium() {
    let session = Session::new();
    session.good("demo . -q");
    let browser = Browser::without_scripts();
    browser.resize(1280, 800);
    let compared = hold(&browser, &session, "site", 50);
    println!("{compared} properties of 50 elements");
    assert!(compared > 200, "{compared}");
}

/// The same on pages that nobody here wrote: run by `scripts/real-trees.sh`, which names the folder.
#[test]
#[ignore = "needs a tree that scripts/real-trees.sh fetches"]
fn a_lifted_class_looks_the_same_on_a_real_tree() {
    let session = Session::new();
    let site = std::env::var("DEFT_PIN_TREE").expect("DEFT_PIN_TREE names a folder");
    let browser = Browser::without_scripts();
    browser.resize(1280, 800);
    println!("{} properties of 50 elements, each the same", hold(&browser, &session, &site, 50));
}
