//! Two looks at a page: what changed, and which pin is behind it.

use deft_pin_core::compare::{How, PinReachSeen, Rectangle, SeenElement, SeenPage, blame, changes};

const PROPERTIES: [&str; 5] = ["color", "border-top-color", "font-variant", "height", "padding-top"];

/// A page from lines: `name#id x,y,w,h property=value "text"`, indented by what it is in; `-` for no box.
fn page(lines: &str) -> SeenPage {
    let mut page = SeenPage { properties: PROPERTIES.map(str::to_owned).to_vec(), ..SeenPage::default() };
    let mut open: Vec<(usize, usize)> = Vec::new();
    for line in lines.lines().filter(|line| !line.trim().is_empty()) {
        let depth = line.len() - line.trim_start().len();
        while open.last().is_some_and(|(own, _)| *own >= depth) {
            open.pop();
        }
        let (line, text) = line
            .trim()
            .split_once(" \"")
            .map_or((line.trim(), ""), |(line, text)| (line, text.trim_end_matches('"')));
        let mut words = line.split(' ');
        let name = words.next().unwrap();
        let (name, id) = name.split_once('#').map_or((name, None), |(name, id)| (name, Some(id.to_owned())));
        let place = words.next().unwrap();
        let numbers: Vec<f64> = place.split(',').filter_map(|own| own.parse().ok()).collect();
        let rectangle = match numbers[..] {
            [x, y, width, height] => Some(Rectangle { x, y, width, height }),
            _ => None,
        };
        let said: Vec<(&str, &str)> = words.filter_map(|word| word.split_once('=')).collect();
        let value = |name: &str| {
            let own = said.iter().find(|own| own.0 == name).map(|own| own.1.to_owned());
            own.unwrap_or_else(|| match name {
                "color" | "border-top-color" => "black".to_owned(),
                "height" => numbers.get(3).map(f64::to_string).unwrap_or_default(),
                _ => "initial".to_owned(),
            })
        };
        let style: Vec<u32> = PROPERTIES
            .iter()
            .map(|name| {
                page.values.push(value(name));
                u32::try_from(page.values.len() - 1).unwrap()
            })
            .collect();
        page.elements.push(SeenElement {
            parent: open.last().map(|own| own.1),
            name: name.to_owned(),
            id,
            text: text.to_owned(),
            style: if rectangle.is_some() { style } else { Vec::new() },
            rectangle,
            ..SeenElement::default()
        });
        open.push((depth, page.elements.len() - 1));
    }
    page
}

const BEFORE: &str = "html 0,0,100,60
 head -
 body 0,0,100,60
  h1#top 0,0,100,20 \"Ferries\"
  p#a 0,20,100,20 \"First\"
   b 10,20,20,20 \"bold\"
  p#b 0,40,100,20 \"Second\"";

fn told(after: &str) -> Vec<String> {
    let found = changes(&page(BEFORE), &page(after));
    let how = |how: How| format!("{how:?}").to_lowercase();
    let text = |own: bool| if own { " text" } else { "" };
    found
        .iter()
        .map(|own| {
            let row = format!(
                "{} {}{} {}",
                how(own.how),
                own.address,
                text(own.text.is_some()),
                own.properties.join(" ")
            );
            row.trim_end().to_owned()
        })
        .collect()
}

#[test]
fn what_changed_is_named() {
    let rows: [(&str, &str, &[&str]); 9] = [
        ("", "", &[]),
        // What follows a colour is not named beside it, nor a shorthand beside its parts, nor a size beside a box.
        (
            "p#a 0,20,100,20 ",
            "p#a 0,20,100,20 color=red border-top-color=red font-variant=x ",
            &["look #a color"],
        ),
        ("p#a 0,20,100,20 ", "p#a 0,20,100,20 border-top-color=red ", &["look #a border-top-color"]),
        ("\"First\"", "\"Last\"", &["look #a text"]),
        ("\"First\"", "\"  First \"", &[]),
        ("p#b 0,40,100,20 \"Second\"", "p#b - \"Second\"", &["look #b display"]),
        ("   b 10,20,20,20 \"bold\"\n", "", &["gone #a > b"]),
        ("   b 10", "   i#new 0,20,10,20\n   b 10", &["new #new"]),
        ("p#b 0,40,100,20", "p#b 0,45,100,20", &["pushed #b"]),
    ];
    for (from, to, expected) in rows {
        let after = if from.is_empty() { BEFORE.to_owned() } else { BEFORE.replacen(from, to, 1) };
        assert_eq!(told(&after), expected, "{from:?} to {to:?}");
    }
}

#[test]
fn what_is_not_rendered_is_not_told() {
    assert!(told(&BEFORE.replace(" head -", " head -\n  script -\n  link -")).is_empty());
}

#[test]
fn the_pin_behind_a_change_is_found() {
    let pin = |name: &str, touched: &[usize], within: Option<&[usize]>| PinReachSeen {
        name: name.to_owned(),
        touched: touched.to_vec(),
        within: within.map(<[usize]>::to_vec),
        ..PinReachSeen::default()
    };
    let after = page(
        "html 0,0,100,90
 head -
 body 0,0,100,90
  h1#top 0,0,100,20 color=red \"Ferries\"
  p#a 0,20,100,30 padding-top=10px \"First\"
   b 10,30,20,20 color=blue \"bold\"
   i 40,30,20,20 \"made\"
  p#b 0,50,100,20 \"Second\"
  div#c 0,70,100,20 \"made\"",
    );
    let found = changes(&page(BEFORE), &after);
    let names: Vec<&str> = found.iter().map(|own| own.address.as_str()).collect();
    assert_eq!(names, ["html", "body", "#top", "#a", "#a > b", "#a > i", "#b", "#c"]);
    let by = |pins: &[PinReachSeen]| -> Vec<String> {
        blame(&after, &found, pins).iter().map(|own| own.first().cloned().unwrap_or_default()).collect()
    };
    // A rule, what it makes its element push, and a script in its target.
    let scripted = PinReachSeen { has_script: true, ..pin("script", &[], Some(&[4])) };
    let markup = PinReachSeen { has_markup: true, ..pin("markup", &[8], None) };
    let pins = [pin("red", &[3], None), pin("wide", &[4], None), scripted, markup];
    assert_eq!(by(&pins), ["wide", "wide", "red", "wide", "wide", "wide", "wide", "markup"]);
    // The only pin of a page is behind all of it.
    assert!(by(&[pin("only", &[], None)]).iter().all(|own| own == "only"));
    // Where no pin is, none is named.
    assert!(by(&[]).iter().all(String::is_empty));
}
