//! Who wins: on generated pages, every property of every element that `why` speaks of has in
//! Chromium the value of the declaration that is said to win, and what nothing is said to set is
//! as if nothing did.

use serde_json::{Value, json};

use crate::dice::{Dice, cases};
use crate::driver::Browser;
use crate::session::Session;

/// Properties whose computed value tells which declaration won: each declaration has a number of
/// its own. What stands for it where nothing applies, and whether it is inherited.
const TOLD: &[(&str, &str, bool)] = &[
    ("z-index", "auto", false),
    ("order", "0", false),
    ("outline-offset", "0px", false),
    ("margin-top", "0px", false),
    ("margin-right", "0px", false),
    ("margin-bottom", "0px", false),
    ("margin-left", "0px", false),
    ("padding-left", "0px", false),
    ("padding-right", "0px", false),
    ("padding-top", "0px", false),
    ("padding-bottom", "0px", false),
    ("scroll-margin-top", "0px", false),
    ("scroll-margin-left", "0px", false),
    ("text-indent", "0px", true),
    ("orphans", "2", true),
    ("--told", "", true),
];

/// What declarations set: a name, and what follows the number.
const SET: &[(&str, &str)] = &[
    ("z-index", ""),
    ("order", ""),
    ("outline-offset", "px"),
    ("margin", "px"),
    ("margin-left", "px"),
    ("margin-inline-start", "px"),
    ("margin-block", "px"),
    ("padding", "px"),
    ("padding-inline", "px"),
    ("padding-block-end", "px"),
    ("scroll-margin", "px"),
    ("text-indent", "px"),
    ("orphans", ""),
    ("--told", ""),
    ("Z-INDEX", ""),
];

/// What browsers drop.
const DROPPED: &[&str] = &[
    "z-index: 1.5", "order: 2px", "margin: 1px 2px 3px 4px 5px", "padding-left: -3px", "orphans: x",
    "margin-left: 9",
];

/// What every property takes.
const WIDE: &[&str] = &["initial", "inherit", "unset", "revert-layer", "REVERT-LAYER"];

const CLASSES: &[&str] = &["a", "b", "c", "d", "e"];

pub struct Maker<'d> {
    pub dice: &'d mut Dice,
    pub number: usize,
    pub ids: usize,
    /// Whether there are declarations of `all`, and values that every property takes.
    pub wide: bool,
}

impl Maker<'_> {
    fn declaration(&mut self) -> String {
        if self.dice.once_in(14) {
            return self.dice.pick(DROPPED).to_owned();
        }
        let (name, unit) = SET[self.dice.below(SET.len())];
        self.number += 1;
        let important = if self.dice.once_in(7) { " !important" } else { "" };
        if self.wide && self.dice.once_in(12) {
            let name = if self.dice.once_in(3) { "all" } else { name };
            return format!("{name}: {}{important}", self.dice.pick(WIDE));
        }
        format!("{name}: {}{unit}{important}", self.number)
    }

    fn declarations(&mut self) -> String {
        (0..1 + self.dice.below(3)).map(|_| self.declaration() + ";").collect()
    }

    fn compound(&mut self) -> String {
        let class = self.dice.pick(CLASSES);
        let other = self.dice.pick(CLASSES);
        let tag = self.dice.pick(&["div", "p", "span", "section"]);
        let id = self.dice.below(5);
        match self.dice.below(17) {
            0..4 => format!(".{class}"),
            4 => tag.to_owned(),
            5 => format!("#i{id}"),
            6 => format!("{tag}.{class}"),
            7 => format!(".{class}.{other}"),
            8 => format!("[data-x=\"{class}\"]"),
            9 => format!(":is(.{class}, #i{id})"),
            10 => format!(":where(.{class}, #i{id})"),
            11 => format!("{tag}:not(.{class})"),
            12 => format!(".{class}:has(.{other})"),
            13 => format!("{tag}:nth-child({})", 1 + id % 3),
            14 => format!(".{class}:hover"),
            15 => format!(":first-child.{class}"),
            _ => "*".to_owned(),
        }
    }

    fn complex(&mut self) -> String {
        let mut selector = self.compound();
        while self.dice.once_in(3) {
            let combinator = self.dice.pick(&[" ", " ", " > ", " + ", " ~ "]);
            selector = format!("{selector}{combinator}{}", self.compound());
        }
        selector
    }

    fn list(&mut self) -> String {
        let mut list = self.complex();
        if self.dice.once_in(4) {
            list = format!("{list}, {}", self.complex());
        }
        if self.dice.once_in(12) {
            list.push_str("::before");
        }
        if self.dice.once_in(40) {
            list.push_str(", :no-such-thing");
        }
        list
    }

    fn rule(&mut self, depth: usize) -> String {
        if depth < 3 && self.dice.once_in(4) {
            let inner: String = (0..1 + self.dice.below(3)).map(|_| self.rule(depth + 1)).collect();
            let layer = self.dice.pick(&["base", "base.deep", "theme", "extra"]);
            return match self.dice.below(9) {
                0 => format!("@media (min-width: 600px) {{ {inner} }}"),
                1 => format!("@media (max-width: 600px), print {{ {inner} }}"),
                2 => format!("@media not (width < 900px) {{ {inner} }}"),
                3 | 4 => format!("@layer {layer} {{ {inner} }}"),
                5 => format!("@layer {{ {inner} }}"),
                6 => format!("@supports (display: grid) and (not (display: nothing)) {{ {inner} }}"),
                7 => format!("@supports selector(:has(a)) {{ {inner} }}"),
                _ => {
                    let to = if self.dice.once_in(2) {
                        format!(" to (.{})", self.dice.pick(CLASSES))
                    } else {
                        String::new()
                    };
                    let root = self.dice.pick(CLASSES);
                    let own = match self.dice.once_in(3) {
                        true => format!(":scope {{ {} }}", self.declarations()),
                        false => format!("> .{} {{ {} }}", self.dice.pick(CLASSES), self.declarations()),
                    };
                    format!("@scope (.{root}){to} {{ {own} {inner} }}")
                }
            };
        }
        if depth < 3 && self.dice.once_in(5) {
            let nested = match self.dice.below(5) {
                0 => format!("&.{} {{ {} }}", self.dice.pick(CLASSES), self.declarations()),
                1 => format!("> .{} {{ {} }}", self.dice.pick(CLASSES), self.declarations()),
                2 => format!(".{} & {{ {} }}", self.dice.pick(CLASSES), self.declarations()),
                3 => format!("@media (min-width: 10px) {{ {} }}", self.declarations()),
                _ => format!("{} {{ {} }}", self.complex(), self.declarations()),
            };
            let after = if self.dice.once_in(2) { self.declarations() } else { String::new() };
            return format!("{} {{ {} {nested} {after} }}\n", self.list(), self.declarations());
        }
        format!("{} {{ {} }}\n", self.list(), self.declarations())
    }

    pub fn sheet(&mut self) -> String {
        let mut sheet = String::new();
        if self.dice.once_in(4) {
            sheet.push_str(
                self.dice.pick(&["@layer theme, base;", "@layer extra;", "@layer base.deep, extra;"]),
            );
        }
        let rules: String = (0..3 + self.dice.below(7)).map(|_| self.rule(0)).collect();
        sheet + &rules
    }

    pub fn element(&mut self, depth: usize) -> String {
        let tag = if depth > 2 { "span" } else { self.dice.pick(&["div", "div", "section", "p", "span"]) };
        let mut attributes = String::new();
        let count = self.dice.below(3);
        if count > 0 {
            let classes: Vec<_> = (0..count).map(|_| self.dice.pick(CLASSES)).collect();
            attributes.push_str(&format!(" class=\"{}\"", classes.join(" ")));
        }
        if self.dice.once_in(4) && self.ids < 5 {
            attributes.push_str(&format!(" id=i{}", self.ids));
            self.ids += 1;
        }
        if self.dice.once_in(6) {
            attributes.push_str(&format!(" data-x={}", self.dice.pick(CLASSES)));
        }
        if self.dice.once_in(8) {
            attributes.push_str(&format!(" style=\"{}\"", self.declarations()));
        }
        if self.dice.once_in(12) {
            attributes.push_str(" dir=rtl");
        }
        let children: String = match depth {
            0..3 if tag != "p" => (0..self.dice.below(4)).map(|_| self.element(depth + 1)).collect(),
            _ => "x".to_owned(),
        };
        format!("<{tag}{attributes}>{children}</{tag}>")
    }

    /// A page, and the files that it loads.
    fn page(&mut self, number: usize) -> (String, Vec<(String, String)>) {
        let mut files = Vec::new();
        let mut head = String::new();
        // What browsers set by themselves would be told for a declaration.
        head.push_str("<style>@layer { p, body { margin: 0 } }</style>");
        for place in 0..2 + self.dice.below(3) {
            let sheet = self.sheet();
            let media =
                self.dice.pick(&["", "", "", " media=screen", " media=print", " media='(min-width: 700px)'"]);
            match self.dice.below(4) {
                0 => {
                    files.push((format!("site/s{number}-{place}.css"), sheet));
                    head.push_str(&format!("<link rel=stylesheet href=s{number}-{place}.css{media}>"));
                }
                1 => {
                    let how = self.dice.pick(&[
                        "", " layer(base)", " layer", " layer(theme.x) screen",
                        " supports(display: grid) (min-width: 1px)", " print",
                    ]);
                    files.push((format!("site/s{number}-{place}.css"), sheet));
                    let own = self.sheet();
                    head.push_str(&format!(
                        "<style{media}>@import 's{number}-{place}.css'{how};{own}</style>"
                    ));
                }
                2 if self.dice.once_in(3) => {
                    let how = self.dice.pick(&["disabled", "title=one", "title=two", "type=text/plain"]);
                    files.push((format!("site/s{number}-{place}.css"), sheet));
                    let rel = self.dice.pick(&["stylesheet", "'alternate stylesheet'"]);
                    head.push_str(&format!("<link rel={rel} {how} href=s{number}-{place}.css>"));
                }
                _ => head.push_str(&format!("<style{media}>{sheet}</style>")),
            }
        }
        if self.dice.once_in(4) {
            head.push_str("<style>@property --told { syntax: '*'; inherits: false }</style>");
        }
        let doctype = if self.dice.once_in(6) { "" } else { "<!doctype html>" };
        let body: String = (0..2 + self.dice.below(3)).map(|_| self.element(0)).collect();
        let late =
            if self.dice.once_in(3) { format!("<style>{}</style>", self.sheet()) } else { String::new() };
        (
            format!("{doctype}<html><head><meta charset=utf-8>{head}</head><body>{body}{late}</body></html>"),
            files,
        )
    }
}

/// The computed values of some properties, for each of some selectors and a pseudo-element.
const COMPUTED: &str = "return arguments[0].map(selector => {
  const element = document.querySelector(selector);
  return [null, '::before'].map(pseudo => {
    const style = getComputedStyle(element, pseudo);
    return arguments[1].map(name => style.getPropertyValue(name).trim());
  }).concat([[...document.querySelectorAll('*')].indexOf(element.parentElement)], [[...document.querySelectorAll('*')].indexOf(element)]);
})";

#[test]
fn the_declaration_that_is_said_to_win_wins_in_chromium() {
    let mut dice = Dice::seeded(1931);
    let browser = Browser::open();
    browser.resize(1280, 800);
    let names: Vec<&str> = TOLD.iter().map(|(name, ..)| *name).collect();
    let session = Session::new();
    let (mut told, mut untold) = (0, 0);
    for number in 0..cases(60) {
        let mut maker = Maker { dice: &mut dice, number: 0, ids: 0, wide: true };
        let (page, files) = maker.page(number);
        session.write(&format!("site/p{number}.html"), &page);
        files.iter().for_each(|(path, text)| session.write(path, text));
        browser.go(&format!("file://{}", session.path(&format!("site/p{number}.html")).display()));
        for pseudo in [None, Some("before")] {
            let mut command = session.command("why --site site --format json --width 1280 --height 800");
            command.args([&format!("/p{number}.html"), "body *"]);
            command.args(pseudo.map(|name| format!("--pseudo={name}")));
            let output = command.output().unwrap();
            let answer: Value = serde_json::from_slice(&output.stdout).expect("an answer");
            let elements = answer["elements"].as_array().unwrap();
            let selectors: Vec<&Value> = elements.iter().map(|element| &element["element"]).collect();
            let computed = browser.run(COMPUTED, vec![json!(selectors), json!(names)]);
            let place = |row: &Value, at: usize| row[at][0].as_i64().or(row[at].as_i64()).unwrap();
            let rows = computed.as_array().unwrap();
            for (element, row) in elements.iter().zip(rows) {
                let own = &row[usize::from(pseudo.is_some())];
                let parent = place(row, 2);
                // A pseudo-element's parent is its element.
                let inherited = match pseudo {
                    Some(_) => Some(&row[0]),
                    None => rows.iter().find(|other| place(other, 3) == parent).map(|other| &other[0]),
                };
                for (at, (name, initial, inherits)) in TOLD.iter().enumerate() {
                    let found = own[at].as_str().unwrap();
                    let property = element["properties"]
                        .as_array()
                        .unwrap()
                        .iter()
                        .find(|property| property["property"] == *name);
                    let winner = property
                        .map(|property| &property["winner"])
                        .filter(|winner| winner["match"] == "yes");
                    let inherits = *inherits && !(*name == "--told" && page.contains("inherits: false"));
                    let said = winner.map(|winner| winner["value"].as_str().unwrap());
                    let said = match said {
                        Some(said) if said.eq_ignore_ascii_case("revert-layer") => {
                            property.and_then(|own| own["rolled_back_to"]["value"].as_str())
                        }
                        said => said,
                    };
                    let expected = match (said, inherited) {
                        (Some("inherit"), Some(row)) => row[at].as_str().unwrap().to_owned(),
                        (None | Some("unset"), Some(row)) if inherits => row[at].as_str().unwrap().to_owned(),
                        // The body's own, which nothing here asked about.
                        (Some("inherit"), None) => continue,
                        (None | Some("unset"), None) if inherits => continue,
                        (None | Some("unset" | "initial"), _) => (*initial).to_owned(),
                        (Some(value), _) => value.to_owned(),
                    };
                    if winner.is_some() {
                        told += 1
                    } else {
                        untold += 1
                    }
                    let bare = |value: &str| value.trim_end_matches("px").to_owned();
                    assert_eq!(
                        bare(found),
                        bare(&expected),
                        "page {number}, {name} of {} {pseudo:?}: {}\n{page}\n{files:#?}",
                        element["element"],
                        serde_json::to_string(&property).unwrap()
                    );
                }
            }
        }
    }
    println!("{told} winners and {untold} that nothing sets, all as in Chromium");
    assert!(told > 1000 && untold > 1000, "{told} {untold}");
}
