//! Values: what is said to be dropped, Chromium drops, and what is said to be taken it takes.

use deft_pin_core::markup::parse_selectors;
use deft_pin_core::style::{StyleRules, Validity, properties, validity};
use serde_json::json;

use crate::dice::{Dice, cases};
use crate::driver::Browser;

/// Values of many kinds: each is right for some property and wrong for most.
const VALUES: &[&str] = &[
    "auto", "none", "normal", "inherit", "initial", "unset", "revert", "revert-layer", "default", "0", "1",
    "10", "-1", "1.5", "0.5", "100", "400", "1000", "1001", "10px", "-10px", "1.5em", "2rem", "50%", "-50%",
    "150%", "10vw", "1fr", "1s", "200ms", "-1s", "45deg", "0.5turn", "90", "10quux", "96dpi", "2x", "red",
    "RED", "transparent", "currentcolor", "canvastext", "#abc", "#abcd", "#aabbcc", "#ab", "abc",
    "rgb(1, 2, 3)", "rgb(1 2 3 / 50%)", "rgba(1,2,3,.5)", "rgb(1, 2)", "hsl(120 50% 50%)", "hwb(120 0% 0%)",
    "lab(50% 20 30)", "oklch(50% .2 30)", "color(display-p3 1 0 0)", "color-mix(in srgb, red, blue)",
    "light-dark(red, blue)", "calc(1px + 2%)", "calc(10px * 2)", "calc(1 + 2)", "calc(1px + 1s)",
    "min(1px, 2%)", "clamp(1px, 2px, 3px)", "max(1, 2)", "var(--x)", "env(x, 1px)", "'text'", "\"text\"",
    "url(a.png)", "url('a.png')", "url(#f)", "linear-gradient(red, blue)",
    "linear-gradient(to right, red 10%, blue)", "linear-gradient(45, red, blue)",
    "radial-gradient(circle at center, red, blue)", "conic-gradient(red, blue)", "image-set(url(a.png) 1x)",
    "left", "right", "top", "center", "bottom", "start", "end", "left top", "top left", "center center",
    "left 10px top 5px", "middle", "baseline", "both", "block", "inline", "inline-block", "flex", "grid",
    "inline flex", "block flow", "contents", "table", "list-item", "hidden", "visible", "scroll",
    "auto scroll", "clip", "fixed", "sticky", "relative", "absolute", "static", "1px 2px", "1px 2px 3px",
    "1px 2px 3px 4px", "1px 2px 3px 4px 5px", "1px, 2px", "1px / 2px", "1 / 2", "16/9", "auto 16/9", "1 1 0",
    "1 1 auto", "0 auto", "bold", "bolder", "italic", "oblique 10deg", "small-caps", "larger", "xx-small",
    "medium", "thin", "serif", "Sorrel Sans, serif", "'Sorrel Sans'", "12px serif",
    "italic bold 12px/1.5 serif", "caption", "solid", "dotted", "1px solid red", "solid 1px",
    "1px solid red blue", "thick double", "underline", "underline dotted red", "overline underline", "wavy",
    "uppercase", "capitalize", "nowrap", "pre-wrap", "break-word", "break-all", "keep-all", "anywhere",
    "row", "column", "row wrap", "column-reverse", "wrap", "space-between", "space-around", "stretch",
    "first baseline", "safe center", "repeat", "no-repeat", "repeat-x", "round space", "cover", "contain",
    "10px auto", "border-box", "content-box", "padding-box", "text", "ease", "linear", "ease-in-out",
    "steps(2, end)", "cubic-bezier(.1,.2,.3,.4)", "cubic-bezier(2,.2,3,.4)", "color 1s", "all 1s ease 2s",
    "opacity 1s, color 2s", "a 1s infinite", "a", "--a", "infinite", "alternate", "forwards", "paused",
    "translate(10px)", "translate(10px, 20%)", "rotate(45deg)", "rotate(45)", "scale(1.5)", "scale(2, 3)",
    "matrix(1,0,0,1,0,0)", "perspective(10px)", "translateX(1px) rotate(1deg)", "translate(red)",
    "blur(2px)", "brightness(1.2)", "drop-shadow(1px 2px red)", "opacity(50%)", "blur(2px) opacity(.5)",
    "0 0 2px red", "inset 0 0 2px red", "1px 1px", "0 0 2px red, 1px 1px blue", "0 0 -2px red",
    "circle(50%)", "polygon(0 0, 1px 1px, 2px 0)", "inset(1px)", "rect(1px, 2px, 3px, 4px)", "path('M0 0')",
    "disc", "square inside", "decimal", "lower-roman", "inside", "outside url(a.png)", "counter(a)",
    "counters(a, '.')", "attr(title)", "open-quote", "'a' counter(b)", "'a' / 'b'", "a 1", "a b", "a 1 b 2",
    "1fr 2fr", "100px 1fr auto", "repeat(2, 1fr)", "repeat(auto-fill, minmax(10px, 1fr))", "[a] 1fr [b]",
    "minmax(1fr, 10px)", "fit-content(10px)", "min-content", "max-content", "fit-content", "subgrid",
    "'a b' 'c d'", "'a b' 'c'", "span 2", "1 / span 2", "a / b", "auto-flow", "dense", "row dense",
    "pointer", "url(a.cur), auto", "url(a.cur) 1 2, pointer", "url(a.cur)", "grab", "not-allowed",
    "vertical", "horizontal", "vertical-rl", "horizontal-tb", "ltr", "rtl", "isolate", "embed", "multiply",
    "screen", "crisp-edges", "pixelated", "smooth", "proximity", "x mandatory", "y", "manipulation", "pan-x",
    "all", "searchfield", "button", "transform", "transform, opacity", "layout paint", "strict", "size",
    "avoid", "always", "page", "2", "3 20em", "20em", "balance", "under", "over", "filled dot", "'*'",
    "weight style", "from-font", "normal 1", "swap", "optional", "U+26", "1, 2", ",", "/", "10px,",
    "red, blue", "",
];

#[test]
fn what_is_said_of_a_value_is_what_chromium_does() {
    let browser = Browser::open();
    browser.go("about:blank");
    let pairs: Vec<(&str, &str)> = properties()
        .map(|property| property.name)
        .filter(|name| !name.starts_with('@'))
        .flat_map(|name| VALUES.iter().map(move |value| (name, *value)))
        .collect();
    hold(&browser, &pairs, 40);
}

/// Declarations as people write them, right and wrong, a line each.
fn declarations() -> Vec<(&'static str, &'static str)> {
    include_str!("declarations.txt").lines().filter_map(|line| line.split_once(": ")).collect()
}

/// What Chromium makes of declarations in a sheet.
fn taken(browser: &Browser, pairs: &[(String, String)]) -> Vec<bool> {
    let script = "const style = document.head.appendChild(document.createElement('style')); \
        const found = arguments[0].map(([name, value]) => { style.textContent = `x { ${name}: ${value}\n}`; \
        const rule = style.sheet.cssRules[0]; return !!rule && rule.style.length > 0 }); style.remove(); return found";
    let found = browser.run(script, vec![json!(pairs)]);
    found.as_array().unwrap().iter().map(|taken| taken.as_bool().unwrap()).collect()
}

/// What is said and Chromium does not do: what is called dropped, and what is called taken.
fn wrong(pairs: &[(String, String)], taken: &[bool]) -> [Vec<String>; 2] {
    let mut wrong = [Vec::new(), Vec::new()];
    for ((name, value), taken) in pairs.iter().zip(taken) {
        let row = || format!("{name}: {value}");
        match validity(name, value, false) {
            Validity::Dropped | Validity::Elsewhere if *taken => wrong[0].push(row()),
            Validity::Taken if !taken => wrong[1].push(row()),
            _ => {}
        }
    }
    wrong
}

#[test]
fn declarations_that_people_write_are_judged_as_chromium_judges_them() {
    let browser = Browser::open();
    browser.go("data:text/html,<!doctype html>");
    let pairs: Vec<_> =
        declarations().into_iter().map(|(name, value)| (name.to_owned(), value.to_owned())).collect();
    assert!(pairs.len() > 800);
    let taken = taken(&browser, &pairs);
    let [dropped, mut kept] = wrong(&pairs, &taken);
    kept.retain(|case| !browser.is_too_old_for(case));
    assert!(dropped.is_empty() && kept.is_empty(), "called dropped: {dropped:#?}\ncalled taken: {kept:#?}");
    // What is dropped is not passed over either.
    let is_open = |(name, value): &(String, String)| validity(name, value, false) == Validity::Unknown;
    let open = pairs.iter().zip(taken).filter(|(pair, is_taken)| !is_taken && is_open(pair));
    let open: Vec<_> = open.map(|(pair, _)| pair).collect();
    assert!(open.len() * 200 <= pairs.len(), "{} left open: {open:?}", open.len());
}

/// Selectors as people write them, right and wrong, a line each.
#[test]
fn selectors_that_people_write_are_judged_as_chromium_judges_them() {
    let browser = Browser::open();
    browser.go("data:text/html,<!doctype html>");
    let selectors: Vec<&str> =
        include_str!("selectors.txt").lines().filter(|line| !line.trim().is_empty()).collect();
    assert!(selectors.len() > 330);
    let script = "const style = document.head.appendChild(document.createElement('style')); \
        return arguments[0].map(selector => { style.textContent = `zz {}\n${selector} { color: red }`; \
        const rule = style.sheet.cssRules[1]; return !!rule && !!rule.selectorText })";
    let found = browser.run(script, vec![json!(selectors)]);
    let mut wrong = Vec::new();
    for (selector, taken) in selectors.iter().zip(found.as_array().unwrap()) {
        if parse_selectors(selector).is_ok() != taken.as_bool().unwrap() && !browser.is_too_old_for(selector)
        {
            wrong.push(format!("{selector}: Chromium says {taken}"));
        }
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
}

/// The same declarations with mistakes put into them.
#[test]
fn declarations_with_mistakes_in_them_are_judged_as_chromium_judges_them() {
    let browser = Browser::open();
    browser.go("data:text/html,<!doctype html>");
    let mut dice = Dice::seeded(13);
    let rows = declarations();
    let words = |value: &str| -> Vec<String> {
        let mut words = vec![String::new()];
        for c in value.chars() {
            let is_own = |c: char| " ,/()".contains(c);
            if is_own(c) || words.last().unwrap().ends_with(is_own) {
                words.push(String::new());
            }
            words.last_mut().unwrap().push(c);
        }
        words
    };
    let all: Vec<String> = rows
        .iter()
        .flat_map(|(_, value)| words(value))
        .filter(|word| !" ,/()".contains(word.as_str()))
        .collect();
    let is_whole = |value: &str| {
        let mut depth = 0;
        let closes = value.chars().all(|c| {
            depth += i32::from(c == '(') - i32::from(c == ')');
            depth >= 0
        });
        closes
            && depth == 0
            && value.matches('"').count().is_multiple_of(2)
            && !value.contains([';', '!', '{', '}'])
    };
    let mut pairs = Vec::new();
    while pairs.len() < cases(3000) {
        let (name, value) = rows[dice.below(rows.len())];
        let mut words = words(value);
        let at = dice.below(words.len());
        match dice.below(7) {
            0 => drop(words.remove(at)),
            1 => words.insert(at, words[at].clone()),
            2 => words.insert(at, dice.pick(&[", ", " / ", " 1px ", " none ", " auto "]).to_owned()),
            3 => words[at] = all[dice.below(all.len())].clone(),
            4 => words.push(format!(" {}", all[dice.below(all.len())])),
            5 => words[at] = format!("-{}", words[at]),
            _ => words[at] = format!("calc({}{})", words[at], dice.pick(&["", " + 1px", " * 2", " -2px"])),
        }
        let value = words.concat().trim().to_owned();
        if !value.is_empty() && is_whole(&value) {
            pairs.push((name.to_owned(), value));
        }
    }
    let [dropped, kept] = wrong(&pairs, &taken(&browser, &pairs));
    println!("{} mutated: {dropped:#?} called dropped, {kept:#?} called taken", pairs.len());
    assert!(dropped.len() * 2000 <= pairs.len(), "{dropped:#?}");
    assert!(kept.len() * 200 <= pairs.len(), "{kept:#?}");
}

/// The declarations of real sheets: run by `scripts/real-sheets.sh`, which names their folder.
#[test]
#[ignore = "needs sheets that scripts/real-sheets.sh fetches"]
fn what_is_said_of_the_values_of_real_sheets_is_what_chromium_does() {
    let folder = std::env::var("DEFT_PIN_SHEETS").expect("DEFT_PIN_SHEETS names a folder");
    let mut found = std::collections::BTreeSet::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let rules = StyleRules::new(std::fs::read_to_string(entry.unwrap().path()).unwrap());
        for declaration in rules.rules.iter().flat_map(|rule| &rule.declarations) {
            let value = rules.text.slice(declaration.value).to_owned();
            found.insert((declaration.property.to_string(), value));
        }
    }
    let browser = Browser::open();
    browser.go("about:blank");
    let named = found.iter().filter(|(name, _)| !name.starts_with("--"));
    let pairs: Vec<(&str, &str)> = named.map(|(name, value)| (name.as_str(), value.as_str())).collect();
    hold(&browser, &pairs, 4);
}

/// Holds pairs of properties and values against the browser. Of those whose property it knows, one
/// in `open_most` at most may be left open.
fn hold(browser: &Browser, pairs: &[(&str, &str)], open_most: usize) {
    let script = "return arguments[0].map(([name, value]) => [CSS.supports(name, 'initial'), CSS.supports(name, value)])";
    let found = browser.run(script, vec![json!(pairs)]);
    let (mut known, mut agree, mut open) = (0, 0, 0);
    let mut left = std::collections::BTreeMap::new();
    let (mut wrongly_dropped, mut wrongly_taken) = (Vec::new(), Vec::new());
    for ((name, value), supported) in pairs.iter().zip(found.as_array().unwrap()) {
        if supported[0] == false {
            continue;
        }
        known += 1;
        match (validity(name, value, false), supported[1].as_bool().unwrap()) {
            (Validity::Unknown, _) => {
                open += 1;
                *left.entry(*name).or_insert(0) += 1;
            }
            (Validity::Taken, true) | (Validity::Dropped | Validity::Elsewhere, false) => agree += 1,
            (Validity::Dropped | Validity::Elsewhere, true) => {
                wrongly_dropped.push(format!("{name}: {value}"))
            }
            (Validity::Taken, false) => wrongly_taken.push(format!("{name}: {value}")),
        }
    }
    println!("{known} pairs: {agree} agree, {open} left open, {} wrongly taken", wrongly_taken.len());
    if std::env::var("DEFT_PIN_SHOW").is_ok() {
        println!("taken: {wrongly_taken:#?}\nopen: {left:?}");
    }
    assert!(wrongly_dropped.is_empty(), "{}: {wrongly_dropped:#?}", wrongly_dropped.len());
    assert!(agree * 1000 >= (known - open) * 995, "{agree} of {}", known - open);
    // Left open are names of one browser that no standard gives a grammar for.
    assert!(open * open_most < known, "{open}");
}
