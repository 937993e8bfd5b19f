//! The browser as the referee of values: whatever the text of a value, it comes out of the parsers of CSS, JavaScript
//! and HTML as one value, and nothing else changes.

use serde_json::{Value, json};

use crate::dice::{Dice, cases};
use crate::driver::Browser;
use crate::session::Session;

const TEXTS: &[&str] = &[
    "plain", "", " ", "it's", "say \"so\"", "back\\slash", "a`b`", "${x}", "line\nend", "tab\tend",
    "</script>", "</style><p>", "<!-- a", "-->", "]]>", "{ } ; :", "}", "*/", "/* ", "//", "&amp; &lt",
    "&#39;", "\u{2028}\u{2029}", "😀 é ü", "\u{1}", "a{b}c", "url(x)", "!important", "\\", "\\\\'", "'",
    "\"", "`", "$", "{{x", "x}}", "#a .b", "[x='y']", "^a+(b|c)?.*$", "<script>", "\r\n", "\u{85}",
    "javascript:alert(1)", "--", "a=b", "<b onclick=x>", "\u{feff}x", "a\\", "a\\26 b",
];
const PIECES: &[&str] = &[
    "'", "\"", "`", "\\", "${", "}", "{", "</script>", "<!--", "-->", "\n", " ", "a", "0", ";", "*/", "/*",
    "&", "\u{2028}", "😀", "(", ")", "/", "[", "]", "<", ">", "=", "#", "\\26 ", "é",
];

/// What the page made of each value, in each place.
const READ: &str = "return got.map((row, at) => {
  const element = document.querySelector('.v' + at), of = pseudo => getComputedStyle(element, pseudo).content;
  return [...row, element.title, element.dataset.a, element.dataset.b, element.textContent, of('::before'), of('::after')];
})";

fn page_of(texts: &[String]) -> Session {
    let session = Session::with(&[(
        "site/index.html",
        "<!doctype html><html><head><meta charset=utf-8><title>t</title></head><body><main></main></body></html>",
    )]);
    let mut board = "[site]\nroot = 'site'\n[pin.a]\nscript = 'a.js'\nstyle = 'a.css'\nmarkup = [{ file = 'a.html', place = 'append', at = 'main' }]\n[pin.a.values]\n".to_owned();
    let (mut script, mut style, mut markup) = ("window.got = [];\n".to_owned(), String::new(), String::new());
    for (at, text) in texts.iter().enumerate() {
        board += &format!("v{at} = {{ type = 'text', value = {} }}\n", toml_text(text));
        script += &format!(
            "got.push([{{{{v{at}}}}}, '{{{{v{at}}}}}', \"{{{{v{at}}}}}\", `{{{{v{at}}}}}`, values.v{at}, /^(?:{{{{v{at}}}}})$/.test(values.v{at})]);\n"
        );
        style += &format!(
            ".v{at}::before {{ content: {{{{v{at}}}}} }}\n.v{at}::after {{ content: \"{{{{v{at}}}}}\" }}\n"
        );
        markup += &format!(
            "<p class=v{at} title=\"{{{{v{at}}}}}\" data-a={{{{v{at}}}}} data-b='{{{{v{at}}}}}'>{{{{v{at}}}}}</p>\n"
        );
    }
    for (file, text) in [("deft-pin.toml", board), ("a.js", script), ("a.css", style), ("a.html", markup)] {
        session.write(file, text);
    }
    session
}

/// A text of TOML, with everything but letters as an escape.
fn toml_text(text: &str) -> String {
    let letter =
        |c: char| if c.is_ascii_alphanumeric() { c.to_string() } else { format!("\\U{:08x}", c as u32) };
    format!("\"{}\"", text.chars().map(letter).collect::<String>())
}

#[test]
fn values_come_out_as_they_were_said() {
    let mut dice = Dice::seeded(11);
    let mut texts: Vec<String> = TEXTS.iter().map(|text| (*text).to_owned()).collect();
    for _ in 0..cases(60) {
        let length = 1 + dice.below(6);
        texts.push((0..length).map(|_| dice.pick(PIECES)).collect());
    }
    let session = page_of(&texts);
    let browser = Browser::open();
    for manner in ["", "--inline"] {
        session.run(&format!("build --out out --anyway {manner}"));
        browser.go(&format!("file://{}", session.path("out/index.html").display()));
        let read = browser.run(READ, vec![]);
        let rows = read.as_array().unwrap_or_else(|| panic!("{read}"));
        assert_eq!(rows.len(), texts.len(), "{manner}");
        for (text, row) in texts.iter().zip(rows) {
            let own = json!(text);
            // A page's parser makes one line end of two, and of the others; an attribute keeps them.
            let in_page = json!(text.replace("\r\n", "\n").replace('\r', "\n"));
            let css = |at: usize| unquoted(&row[at]);
            for at in [0, 1, 2, 3, 4] {
                assert_eq!(row[at], own, "{manner} script {at} {text:?}");
            }
            assert_eq!(row[5], json!(true), "{manner} regular expression {text:?}");
            for at in [6, 7, 8, 9] {
                assert_eq!(row[at], in_page, "{manner} markup {at} {text:?}");
            }
            for at in [10, 11] {
                assert_eq!(
                    css(at).as_deref(),
                    Some(text.as_str()),
                    "{manner} style {at} {text:?}: {}",
                    row[at]
                );
            }
        }
    }
}

/// What a computed `content` says: a string of CSS, as Chromium writes it.
fn unquoted(value: &Value) -> Option<String> {
    let inner = value.as_str()?.strip_prefix('"')?.strip_suffix('"')?;
    let mut out = String::new();
    let mut letters = inner.chars().peekable();
    while let Some(c) = letters.next() {
        if c != '\\' {
            out.push(c);
            continue;
        }
        let mut hex = String::new();
        while let Some(digit) = letters.next_if(|c| c.is_ascii_hexdigit() && hex.len() < 6) {
            hex.push(digit);
        }
        if hex.is_empty() {
            out.extend(letters.next());
        } else {
            letters.next_if_eq(&' ');
            out.extend(u32::from_str_radix(&hex, 16).ok().and_then(char::from_u32));
        }
    }
    Some(out)
}
