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

/// At-rules that are dropped with all that is in them, and some that look so and are not.
const ODD_RULES: &[&str] = &[
    "@layer a, b", "@layer 1", "@layer initial", "@layer a . b", "@layer base.", "@layer BASE", "@nope",
    "@scope (.a", "@scope .a", "@scope (.a) to", "@scope (.a) to (> .b)", "@scope (.a, :nope)",
    "@scope (:scope > .b)", "@layer base/**/.deep", "@media", "@-moz-document url()", "@scope (#i1)",
];

const SUPPORTS: &[&str] = &[
    "@supports not (display: grid)", "@supports (display: nope)", "@supports (display: grid) and (order: 1)",
    "@supports (display: grid) and (order: 1) or (top: 0)", "@supports display: grid", "@supports (--x: 1)",
    "@supports selector(:is(.a, :nope))", "@supports selector(::-moz-placeholder)",
    "@supports selector(.a, .b)", "@supports selector(a > b)", "@supports (order: 1 !important)",
    "@supports nope(x) or (order: 1)", "@supports not nope(x)", "@supports (not (order: 1.5))",
    "@supports (order: 1.5) or (not (top: red))", "@supports font-tech(color-COLRv1)",
    "@supports font-format(woff2)", "@supports (order:1)or (top:0)", "@supports ((order: 1))",
    "@supports (ORDER: 1)", "@supports not(order: 1)", "@supports (-moz-order: 1)",
];

const ODD_MEDIA: &[&str] = &[
    "@media (min-width: 600)", "@media (width >= 600px) and (color)", "@media (600px <= width <= 2000px)",
    "@media (600px <= width >= 100px)", "@media screen and (min-width)",
    "@media (min-width: calc(10px * 3))", "@media not screen, (nope)", "@media (not (nope))",
    "@media not (nope: 1)", "@media (nope) or (width > 1px)", "@media only screen and(min-width: 1px)",
    "@media (orientation: portrait)", "@media (aspect-ratio > 1.2)", "@media (min-aspect-ratio: 16/9)",
    "@media all and (max-width: 50em)", "@media (width)", "@media ALL",
    "@media screen and (min-width: 1px), print", "@media (min-width: 1px) and (max-width: 90vw)",
    "@media or", "@media (max-width: 80rem) and (not (max-height: 20em))", "@media (device-width: 0)",
    "@media layer",
];

const NAMESPACES: &[&str] = &[
    "@namespace s 'http://www.w3.org/2000/svg';",
    "@namespace 'http://www.w3.org/1999/xhtml';",
    "@namespace s url(http://www.w3.org/2000/svg); @namespace h 'http://www.w3.org/1999/xhtml';",
    "@namespace 'http://www.w3.org/2000/svg';",
    "@namespace s '';",
    "@namespace s 's'; @namespace s 'http://www.w3.org/2000/svg';",
];

const CLASSES: &[&str] = &["a", "b", "c", "d", "e"];

pub struct Maker<'d> {
    pub dice: &'d mut Dice,
    pub number: usize,
    pub ids: usize,
    /// Whether there are declarations of `all`, and values that every property takes.
    pub wide: bool,
    /// Whether some elements have a shadow tree.
    pub shadows: bool,
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
        match self.dice.below(21) {
            17 => self.dice.pick(&["s|*", "*|rect", "|p", "s|rect", "*|*", "svg *", "h|div"]).to_owned(),
            18 => format!(
                "{}{}",
                self.dice.pick(&["rect", "g", "svg", "*"]),
                self.dice.pick(&["", ".a", "[class]", ":not(.b)"])
            ),
            19 => self.odd_compound(),
            20 => format!(":nth-child({} of *|*.{class})", self.dice.pick(&["1", "2n+1", "even", "-n+2"])),
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

    /// What other engines know, what none does, and what only a shadow tree has a use for.
    fn odd_compound(&mut self) -> String {
        let class = self.dice.pick(CLASSES);
        match self.dice.below(14) {
            0 => format!(":is(.{class}, :-moz-any-link)"),
            1 => format!(":where(.{class}, :nope, ::before)"),
            2 => format!(":-webkit-any(.{class}, p)"),
            3 => format!(":not(.{class}, .a)"),
            4 => format!(".{class}:-moz-focusring"),
            5 => format!(".{class}:host"),
            6 => format!(":host-context(.{class})"),
            7 => format!(":host(.{class}) p"),
            8 => ":is()".to_owned(),
            9 => format!("[class~={class} i]"),
            10 => format!("[class={class} s]"),
            11 => format!("[|class~={class}]"),
            12 => format!(":has(> .{class})"),
            _ => format!(":is(.{class}):where(:not(#i1))"),
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
            return match self.dice.below(12) {
                9 => format!("{} {{ {inner} }}", self.dice.pick(ODD_RULES)),
                10 => format!("{} {{ {inner} }}", self.dice.pick(SUPPORTS)),
                11 => format!("{} {{ {inner} }}", self.dice.pick(ODD_MEDIA)),
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
        if self.dice.once_in(5) {
            sheet.push_str(self.dice.pick(NAMESPACES));
        }
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
        if depth > 0 && self.dice.once_in(8) {
            let inner = self.svg(0);
            return format!("<svg{attributes}>{inner}</svg>");
        }
        let shadow = if self.shadows && self.dice.once_in(6) { self.shadow() } else { String::new() };
        let children: String = match depth {
            0..3 if tag != "p" => (0..self.dice.below(4)).map(|_| self.element(depth + 1)).collect(),
            _ => "x".to_owned(),
        };
        let slot = if self.shadows && self.dice.once_in(8) { " slot=s" } else { "" };
        format!("<{tag}{attributes}{slot}>{shadow}{children}</{tag}>")
    }

    fn svg(&mut self, depth: usize) -> String {
        let mut inner = String::new();
        for _ in 0..1 + self.dice.below(2) {
            let class = self.dice.pick(CLASSES);
            let style = if self.dice.once_in(5) {
                format!(" style=\"{}\"", self.declarations())
            } else {
                String::new()
            };
            match depth < 2 && self.dice.once_in(2) {
                true => inner.push_str(&format!("<g class={class}{style}>{}</g>", self.svg(depth + 1))),
                false => inner.push_str(&format!("<rect class={class}{style} />")),
            }
        }
        inner
    }

    /// A shadow tree, with a sheet of its own.
    fn shadow(&mut self) -> String {
        let mut sheet = String::new();
        for _ in 0..2 + self.dice.below(4) {
            let class = self.dice.pick(CLASSES);
            let selector = match self.dice.below(9) {
                0 | 1 => ":host".to_owned(),
                2 => format!(":host(.{class})"),
                3 => format!("::slotted(.{class})"),
                4 => "::slotted(*)".to_owned(),
                5 => format!("slot, .{class}"),
                6 => format!(":host-context(.{class})"),
                7 => format!(":host(:not(.{class})) slot"),
                _ => format!("div ::slotted(.{class})"),
            };
            let layer = if self.dice.once_in(5) { "@layer base" } else { "@media all" };
            sheet.push_str(&format!("{layer} {{ {selector} {{ {} }} }}", self.declarations()));
        }
        let class = self.dice.pick(CLASSES);
        let around = self
            .dice
            .pick(&["<slot></slot>", "<div class=CLASS><slot></slot><slot name=s></slot></div>", "<p></p>"]);
        let around = around.replace("CLASS", class);
        format!("<template shadowrootmode=open><style>{sheet}</style>{around}</template>")
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

/// The computed values of some properties: of the elements that selectors name, of their `::before`, and of what
/// they inherit from. None of what is not shown.
const COMPUTED: &str = "return arguments[0].map(selector => {
  const element = document.querySelector(selector);
  const of = (element, pseudo) => {
    const style = getComputedStyle(element, pseudo);
    return arguments[1].map(name => style.getPropertyValue(name).trim());
  };
  const isShown = getComputedStyle(element).getPropertyValue('order') !== '';
  return isShown && [of(element), of(element, '::before'), of(element.assignedSlot ?? element.parentElement)];
})";

#[test]
fn the_declaration_that_is_said_to_win_wins_in_chromium() {
    let mut dice = Dice::seeded(1931);
    let browser = Browser::whole();
    browser.resize(1280, 800);
    let names: Vec<&str> = TOLD.iter().map(|(name, ..)| *name).collect();
    let session = Session::new();
    let (mut told, mut untold) = (0, 0);
    for number in 0..cases(30) {
        let mut maker = Maker { dice: &mut dice, number: 0, ids: 0, wide: true, shadows: number % 2 == 1 };
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
            let rows = computed.as_array().unwrap();
            for (element, row) in elements.iter().zip(rows).filter(|(_, row)| row.is_array()) {
                let own = &row[usize::from(pseudo.is_some())];
                // A pseudo-element's parent is its element.
                let inherited = if pseudo.is_some() { &row[0] } else { &row[2] };
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
                    let expected = match said {
                        Some("inherit") => inherited[at].as_str().unwrap().to_owned(),
                        None | Some("unset") if inherits => inherited[at].as_str().unwrap().to_owned(),
                        None | Some("unset" | "initial") => (*initial).to_owned(),
                        Some(value) => value.to_owned(),
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
