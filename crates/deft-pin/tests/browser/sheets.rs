//! Real sheets: fenced to one of two equal sections, each rule matches what it matched, cut down to
//! that section, and nothing outside of it changes. Run by `scripts/real-sheets.sh`, which names
//! the folder that they are in.

use serde_json::{Value, json};

use crate::driver::Browser;
use crate::session::Session;

/// Elements for the selectors of the sheet that is on the page: for each complex selector a chain
/// that it matches, as far as that can be made of its names.
const MADE: &str = "const seen = new Set(), out = [];
  const flat = rules => [...rules].flatMap(rule => [rule, ...flat(rule.cssRules || [])]);
  const rules = flat(document.styleSheets[0].cssRules).filter(rule => rule.selectorText && !(rule.parentRule instanceof CSSKeyframesRule));
  for (const rule of rules) for (let selector of rule.selectorText.split(/,(?![^(]*\\))/)) {
    selector = selector.replace(/::?[\\w-]+(\\([^()]*(\\([^()]*\\)[^()]*)*\\))?/g, '').trim();
    if (seen.has(selector) || seen.size > 1200) continue;
    seen.add(selector);
    const root = document.createElement('div'); let at = root;
    for (const compound of selector.split(/\\s*[>+~]\\s*|\\s+/)) {
      const tag = (compound.match(/^[a-z][a-z0-9]*/i) || ['div'])[0].toLowerCase();
      if (['html', 'body', 'head', 'script', 'style', 'link', 'iframe', 'video', 'audio'].includes(tag)) continue;
      const element = document.createElement(tag);
      for (const name of compound.match(/\\.((\\\\.|[\\w-])+)/g) || []) element.classList.add(name.slice(1).replace(/\\\\/g, ''));
      for (const [, name, value] of compound.matchAll(/\\[([\\w-]+)(?:[~|^$*]?=['\"]?([^'\"\\]]*)['\"]?)?/g)) if (!/^on|^id$/.test(name)) element.setAttribute(name, value || '');
      if (selector.includes('+') || selector.includes('~')) { at.append(element); } else { at.append(element); at = element; }
    }
    out.push(root.innerHTML);
  }
  return out.join('');";

/// For each rule of the sheet, the elements that its selector matches without its
/// pseudo-elements, as places among all. Rules inside of others say nothing on their own.
const MATCHED: &str = "const all = [...document.querySelectorAll('*')];
  const flat = rules => [...rules].flatMap(rule => rule.selectorText ? [rule] : flat(rule instanceof CSSKeyframesRule ? [] : rule.cssRules || []));
  const sheet = [...document.styleSheets].at(-1);
  return flat(sheet.cssRules).map(rule => {
    if (rule.cssRules && rule.cssRules.length) return null;
    let list = rule.selectorText.replace(/::[\\w-]+(\\([^)]*\\))?/g, '').replace(/(^|,)\\s*(?=,|$)/g, '$1*');
    list = list.replace(/:is\\(#two, #two \\*\\)(?=[^)]*$)/, match => match);
    try { return [...document.querySelectorAll(list)].map(e => all.indexOf(e)); } catch (error) { return 'bad ' + list; }
  });";

/// All computed values of every element outside of the second section; of what is around it only
/// those that its size has no part in.
const OUTSIDE: &str = "const sized = ['block-size', 'height', 'perspective-origin', 'transform-origin'];
  return [...document.querySelectorAll('*')].filter(e => !e.closest('#two')).slice(arguments[0], arguments[0] + 150).map(e => [null, '::before', '::after'].map(pseudo => {
    const style = getComputedStyle(e, pseudo);
    return [...style].filter(name => !(e.contains(document.querySelector('#two')) && sized.includes(name))).map(name => name + ':' + style.getPropertyValue(name)).join(';');
  }));";

#[test]
#[ignore = "needs sheets that scripts/real-sheets.sh fetches"]
fn real_sheets_are_confined() {
    let folder = std::env::var("DEFT_PIN_SHEETS").expect("DEFT_PIN_SHEETS names a folder");
    let browser = Browser::open();
    let mut paths: Vec<_> = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path()).collect();
    paths.sort();
    for path in &paths {
        let name = path.file_stem().unwrap().to_string_lossy().into_owned();
        let sheet = std::fs::read_to_string(path).unwrap();
        let session = Session::with(&[
            ("made.html", "<!doctype html><link rel=stylesheet href=p.css>"),
            ("p.css", &sheet),
            ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nwithin = '#two'\nstyle = 'p.css'\n"),
        ]);
        let go = |file: &str| browser.go(&format!("file://{}", session.path(file).display()));
        go("made.html");
        let linked = "const text = arguments[0]; document.head.innerHTML = ''; const style = document.createElement('style'); style.textContent = text; document.head.append(style);";
        browser.run(linked, vec![json!(sheet)]);
        let part = browser.run(MADE, vec![]);
        let page = |head: &str| {
            format!(
                "<!doctype html><html class=js lang=en><head><meta charset=utf-8>{head}</head><body class=b>\
                 <section id=one>{part}</section><section id=two>{part}</section></body></html>",
                part = part.as_str().unwrap()
            )
        };
        session.write("site/index.html", page(""));
        session.write("bare.html", page("<style></style>"));
        session.write("open.html", page(&format!("<style>{}</style>", sheet.replace("</", "<\\/"))));
        let built = session.run("build --out out --anyway --format json");
        let codes = built.codes();
        // Linked sheets of a folder are on another origin for scripts, so it goes into the page.
        let linked = session.read("out/index.html");
        let fenced = session.files("out/_pins");
        let (_, fenced) =
            fenced.iter().find(|(name, _)| name.ends_with(".css")).expect("the sheet is placed");
        let fenced = String::from_utf8(fenced.clone()).unwrap();
        assert!(linked.contains("_pins/"), "{name}");
        session.write("fenced.html", page(&format!("<style>{}</style>", fenced.replace("</", "<\\/"))));
        let (mut compared, mut matched, mut parted) = (0, 0, 0);
        for width in [1280, 390] {
            browser.resize(width, 800);
            go("open.html");
            let open = browser.run(MATCHED, vec![]);
            let inside = browser.run("const all = [...document.querySelectorAll('*')]; return all.map(e => e.closest('#two') !== null)", vec![]);
            go("fenced.html");
            let after = browser.run(MATCHED, vec![]);
            let seen = outside(&browser);
            go("bare.html");
            let bare = outside(&browser);
            assert_eq!(bare.len(), seen.len());
            for (at, (bare, seen)) in bare.iter().zip(seen).enumerate() {
                let values = |row: &Value| -> Vec<String> {
                    let texts = rows(row).into_iter().map(|text| text.as_str().unwrap().to_owned());
                    texts.flat_map(|text| text.split(';').map(str::to_owned).collect::<Vec<_>>()).collect()
                };
                if *bare != seen {
                    let (bare, seen) = (values(bare), values(&seen));
                    let changed: Vec<_> = bare.iter().zip(&seen).filter(|(a, b)| a != b).take(9).collect();
                    panic!("{name}: the element {at} outside changes: {changed:?}");
                }
                compared += 1;
            }
            // Rules that others are nested in are parted, so that the rest of the rows is off.
            let (open, after) = (rows(&open), rows(&after));
            parted = open.len().abs_diff(after.len());
            if parted == 0 {
                for (open, after) in open.iter().zip(&after) {
                    let Value::Array(open) = open else { continue };
                    let cut: Vec<_> = open
                        .iter()
                        .filter(|at| inside[at.as_u64().unwrap() as usize] == true)
                        .cloned()
                        .collect();
                    assert_eq!(*after, Value::Array(cut), "{name}");
                    matched += usize::from(!open.is_empty());
                }
            }
        }
        println!(
            "{name}: {} bytes, {compared} elements outside unchanged, {matched} rules with a match cut as meant, {parted} rules parted, {}",
            sheet.len(),
            if codes.contains(&"not-confined".to_owned()) {
                "something left out"
            } else {
                "nothing left out"
            }
        );
    }
    assert!(paths.len() >= 5, "{}", paths.len());
}

/// Asked in parts: a browser gives up on a script that takes long.
fn outside(browser: &Browser) -> Vec<Value> {
    let mut found: Vec<Value> = Vec::new();
    loop {
        let more = rows(&browser.run(OUTSIDE, vec![json!(found.len())]));
        if more.is_empty() {
            return found;
        }
        found.extend(more);
    }
}

fn rows(value: &Value) -> Vec<Value> {
    value.as_array().cloned().unwrap_or_default()
}
