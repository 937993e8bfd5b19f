//! What is kept or shown as a text, and is meant otherwise.

use super::arguments::Arguments;
use super::machine::Machine;
use super::platform::{self, Interface};
use super::vain_sets::leading_number;
use super::value::{Absence, Kind, Node, Value};
use crate::script::program::{Expression, ExpressionId};
use crate::source::{Span, nearest};

/// Members that keep a text.
const TEXTS: &[&str] = &[
    "alt", "classList", "className", "cookie", "href", "id", "innerHTML", "innerText", "outerHTML",
    "pattern", "placeholder", "src", "textContent", "title", "value",
];
/// Those in which `null` is a text like others (Web IDL, "LegacyNullToEmptyString").
const KEEPS_NULL: &[&str] = &["alt", "className", "href", "id", "placeholder", "src", "title"];
/// Members that keep markup.
const MARKUP: &[&str] = &["innerHTML", "outerHTML"];
/// Members of which the text is shown as it is.
const SHOWN: &[&str] = &["innerText", "textContent"];
/// Elements in which code is shown, or no markup is read.
const PLAIN: &[&str] =
    &["code", "kbd", "noscript", "option", "pre", "samp", "script", "style", "template", "textarea", "title"];
/// Elements that people write in texts.
const TAGS: &[&str] = &[
    "a", "b", "button", "div", "em", "h1", "h2", "h3", "h4", "i", "li", "ol", "p", "section", "small",
    "span", "strong", "sub", "sup", "table", "td", "tr", "u", "ul",
];
/// References to characters that people write in texts.
const REFERENCES: &[(&str, &str)] = &[
    ("&amp;", "&"),
    ("&copy;", "©"),
    ("&eacute;", "é"),
    ("&euro;", "€"),
    ("&gt;", ">"),
    ("&hellip;", "…"),
    ("&laquo;", "«"),
    ("&larr;", "←"),
    ("&lt;", "<"),
    ("&mdash;", "—"),
    ("&nbsp;", "\\u00a0"),
    ("&ndash;", "–"),
    ("&pound;", "£"),
    ("&quot;", "\\\""),
    ("&raquo;", "»"),
    ("&rarr;", "→"),
    ("&times;", "×"),
];
/// What members take that take one of some words (HTML).
const WORDS: &[(&str, &str, &[&str])] = &[
    ("HTMLButtonElement", "type", &["button", "reset", "submit"]),
    ("HTMLIFrameElement", "loading", &["eager", "lazy"]),
    ("HTMLImageElement", "loading", &["eager", "lazy"]),
    (
        "HTMLInputElement",
        "type",
        &[
            "button", "checkbox", "color", "date", "datetime-local", "email", "file", "hidden", "image",
            "month", "number", "password", "radio", "range", "reset", "search", "submit", "tel", "text",
            "time", "url", "week",
        ],
    ),
];

impl Machine<'_> {
    /// A member that keeps a text is set to something else, or to a text that is meant otherwise; whether that was told.
    pub(super) fn check_text(
        &mut self,
        of: Interface,
        node: Option<Node>,
        key: &str,
        value: &Value,
        span: Span,
    ) -> bool {
        let is_text = of == "Storage" || (TEXTS.contains(&key) && platform::member(of, key).is_some());
        if is_text && self.check_no_text(of, key, value, span) {
            return true;
        }
        let tag = node.map(|node| self.tag_of(node));
        let is_plain = tag.as_ref().is_some_and(|tag| PLAIN.contains(&&**tag));
        // Nothing is shown in them.
        if let Some(tag @ ("br" | "hr" | "img" | "input")) = tag.as_deref()
            && (SHOWN.contains(&key) || key == "innerHTML")
            && !matches!(value, Value::Text(text) if text.is_empty())
            && value.is_nothing() == Ok(false)
        {
            let write = match tag {
                "input" => Some("value".to_owned()),
                "img" => Some("alt".to_owned()),
                _ => None,
            };
            self.is_vain(format!("an element `{tag}` shows nothing that is in it"), write, span);
            return true;
        }
        let Value::Text(text) = value else { return false };
        if key == "cookie" && of == "HTMLDocument" {
            return self.check_cookie(text, span);
        }
        if matches!(key, "className" | "id") && self.check_marked(key, text, span) {
            return true;
        }
        let is_list = match key {
            // In a class a comma may stand, and hardly at its end.
            "className" => text.split_ascii_whitespace().any(|word| word.ends_with(',')),
            "rel" => text.contains(','),
            _ => false,
        };
        if is_list && platform::member(of, key).is_some() {
            let write = text.split([',', ' ']).filter(|word| !word.is_empty()).collect::<Vec<_>>().join(" ");
            self.gives_vainly(key, text, "words with blanks between", Some(format!("\"{write}\"")), span);
            return true;
        }
        if SHOWN.contains(&key) && !is_plain || key == "title" && of == "HTMLDocument" {
            return self.check_shown(key, text, span);
        }
        if SHOWN.contains(&key) && tag.as_deref() == Some("style") {
            self.check_sheet(text, span);
            return true;
        }
        if MARKUP.contains(&key) && tag.as_deref() != Some("template") {
            return self.check_cells(key, tag.as_deref(), text, span) || self.check_markup(key, text, span);
        }
        if let Some((_, _, words)) = WORDS.iter().find(|own| (own.0, own.1) == (of, key)) {
            let lower = text.to_ascii_lowercase();
            if !lower.is_empty() && !words.contains(&lower.as_str()) {
                let write = nearest(&lower, words.iter().copied()).map(|near| format!("\"{near}\""));
                let takes = format!("one of `{}`", words.join("`, `"));
                let takes = if words.len() > 4 { "the name of a type".to_owned() } else { takes };
                self.gives_vainly(key, text, &takes, write, span);
                return true;
            }
        }
        let is_number =
            platform::member(of, key).is_some_and(|own| own.result == "number" && own.is_writable);
        if is_number && self.as_number(value).is_ok_and(f64::is_nan) {
            let write = leading_number(text);
            self.gives_vainly(key, &format!("\"{text}\""), "a number", write, span);
            return true;
        }
        false
    }

    /// A class or an ID that is given with the mark that it has in selectors.
    pub(super) fn check_marked(&mut self, key: &str, text: &str, span: Span) -> bool {
        let (mark, what) = if matches!(key, "id") { ('#', "an ID") } else { ('.', "classes") };
        let is_marked = |word: &str| {
            word.strip_prefix(mark).is_some_and(|rest| rest.starts_with(|c: char| c.is_ascii_alphabetic()))
        };
        if !text.split_ascii_whitespace().any(is_marked) {
            return false;
        }
        let bare: Vec<&str> = text
            .split_ascii_whitespace()
            .map(|word| if is_marked(word) { &word[1..] } else { word })
            .collect();
        let takes = format!("{what} without `{mark}`");
        self.gives_vainly(key, text, &takes, Some(format!("\"{}\"", bare.join(" "))), span);
        true
    }

    /// What has no text of its own.
    pub(super) fn check_no_text(&mut self, of: Interface, key: &str, value: &Value, span: Span) -> bool {
        let given = |this: &Self, otherwise: &str| this.written_value(otherwise);
        let keeps = |what: &str| format!("a text: it keeps `{what}` alone");
        if self.is_without_text(value) {
            let given = given(self, "an object");
            let write = Some(format!("JSON.stringify({given})"));
            self.gives_vainly(key, &given, &keeps("[object Object]"), write, span);
            return true;
        }
        let (takes, given, write) = match value {
            // What an element does not say is left as it is by scripts that are for many.
            Value::Undefined(absence)
                if !matches!(key, "textContent" | "cookie")
                    && of != "Storage"
                    && absence.is_none_or(|own| {
                        matches!(self.absences.get(own.0 as usize), Some(Absence::Place { .. }))
                    }) =>
            {
                (keeps("undefined"), given(self, "undefined"), None)
            }
            Value::Null(_) if KEEPS_NULL.contains(&key) => (keeps("null"), given(self, "null"), None),
            Value::Number(number) if number.is_nan() => (keeps("NaN"), given(self, "NaN"), None),
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Element(_) if MARKUP.contains(&key) || SHOWN.contains(&key) => {
                    let given = given(self, "an element");
                    let write = Some(format!("element.replaceChildren({given})"));
                    ("a text: of an element it keeps its type alone".to_owned(), given, write)
                }
                Kind::Promise(_) => {
                    let given = given(self, "a promise");
                    let write = Some(format!("await {given}"));
                    (keeps("[object Promise]"), given, write)
                }
                Kind::Function(_) | Kind::Native(..) => {
                    let given = given(self, "a function");
                    let is_name =
                        given.bytes().all(|byte| byte.is_ascii_alphanumeric() || b"._$".contains(&byte));
                    let write = is_name.then(|| format!("{given}()"));
                    ("a text: of a function it keeps the code".to_owned(), given, write)
                }
                Kind::List(of @ ("NodeList" | "HTMLCollection"), _) => {
                    (keeps(&format!("[object {of}]")), given(self, "a list"), None)
                }
                Kind::Instance(of @ ("Map" | "Set" | "WeakMap" | "WeakSet")) => {
                    (keeps(&format!("[object {of}]")), given(self, "a collection"), None)
                }
                Kind::RegExp(_) if key == "pattern" => {
                    let given = given(self, "a regular expression");
                    let write = Some(format!("{given}.source"));
                    ("a text without `/` around it".to_owned(), given, write)
                }
                Kind::Array(_) => return self.check_list_as_text(key, value, span),
                _ => return false,
            },
            _ => return false,
        };
        self.gives_vainly(key, &given, &takes, write, span);
        true
    }

    /// A list becomes a text with commas between.
    fn check_list_as_text(&mut self, key: &str, value: &Value, span: Span) -> bool {
        let Some(Kind::Array(items)) = self.kind(value) else { return false };
        let has_objects = items.iter().any(|item| self.is_without_text(item));
        let is_several = items.len() > 1;
        let given = self.written_value("a list");
        let (takes, write) = match key {
            _ if has_objects => (
                "a text: of each object it keeps `[object Object]` alone",
                format!("JSON.stringify({given})"),
            ),
            "classList" | "className" if is_several => {
                ("a text: commas stand between", format!("{given}.join(\" \")"))
            }
            _ => return false,
        };
        self.gives_vainly(key, &given, takes, Some(write), span);
        true
    }

    /// A text that is shown as it is written.
    pub(super) fn check_shown(&mut self, key: &str, text: &str, span: Span) -> bool {
        if let Some(tag) = tag_in(text) {
            let takes = format!("a text: `<{tag}>` is shown as it is written");
            let write = (key != "title").then(|| "innerHTML".to_owned());
            self.gives_vainly(key, &short(text), &takes, write, span);
            return true;
        }
        let known = REFERENCES.iter().find(|(own, _)| text.contains(own));
        let known = known.map(|(own, character)| ((*own).to_owned(), (*character).to_owned()));
        if let Some((reference, character)) = known.or_else(|| numbered(text)) {
            let takes = format!("a text: `{reference}` is shown as it is written");
            self.gives_vainly(key, &short(text), &takes, Some(character), span);
            return true;
        }
        self.check_unfilled(key, text, span)
    }

    /// A text with places for values in it that are not filled, or with what has no value.
    pub(super) fn check_unfilled(&mut self, key: &str, text: &str, span: Span) -> bool {
        if let Some(name) = place_in(text)
            && self.program.has_variable(name)
            && !self.text.contains("\\${")
            && self.assigned.is_some_and(|own| matches!(self.program.expression(own), Expression::Text(_)))
        {
            let takes = format!("a text: `${{{name}}}` is filled between backticks alone");
            self.gives_vainly(key, &short(text), &takes, Some(format!("`{}`", short(text))), span);
            return true;
        }
        const EMPTY: &[&str] = &["undefined", "NaN", "[object "];
        let is_word = |word: &str| {
            text.split(|c: char| !c.is_alphanumeric()).any(|own| own == word.trim_matches(['[', ' ']))
        };
        let empty = EMPTY.iter().find(|word| text.contains(**word) && is_word(word));
        // What `typeof` gives is a text.
        let is_type = text == "undefined" && self.text.contains("typeof");
        if let Some(word) = empty.filter(|word| !is_type && !self.program.has_text_with(word)) {
            let takes = format!("a text: `{}` in it was no text", word.trim_matches(['[', ' ']));
            self.gives_vainly(key, &short(text), &takes, None, span);
            return true;
        }
        false
    }

    /// What is put in as texts and is meant otherwise.
    pub(super) fn check_put(&mut self, name: &str, arguments: &Arguments, span: Span) {
        for (at, value) in arguments.values.iter().enumerate() {
            let written = arguments.expressions.get(at).copied();
            let shown = |this: &Self, otherwise: &str| {
                written.map_or_else(|| otherwise.to_owned(), |own| this.written(this.program.span(own)))
            };
            let (given, takes, write) = match value {
                Value::Undefined(_) => {
                    (shown(self, "undefined"), "nodes and texts: it shows `undefined`", None)
                }
                Value::Text(text) => {
                    let Some(tag) = tag_in(text) else { continue };
                    let place = match name {
                        "prepend" => "afterbegin",
                        "before" => "beforebegin",
                        "after" => "afterend",
                        _ => "beforeend",
                    };
                    let takes = format!("nodes and texts: `<{tag}>` is shown as it is written");
                    let write = format!("element.insertAdjacentHTML(\"{place}\", …)");
                    self.gives_vainly(name, &short(text), &takes, Some(write), span);
                    continue;
                }
                _ if self.is_without_text(value) => {
                    (shown(self, "an object"), "nodes and texts: it shows `[object Object]`", None)
                }
                _ => match self.kind(value) {
                    Some(Kind::Array(_) | Kind::List("NodeList" | "HTMLCollection", _)) => {
                        let given = shown(self, "a list");
                        let write = format!("...{given}");
                        (given, "nodes and texts: a list becomes one text", Some(write))
                    }
                    Some(Kind::Promise(_)) => {
                        let given = shown(self, "a promise");
                        let write = format!("await {given}");
                        (given, "nodes and texts: it shows `[object Promise]`", Some(write))
                    }
                    Some(Kind::Function(_) | Kind::Native(..)) => {
                        (shown(self, "a function"), "nodes and texts: it shows the code", None)
                    }
                    _ => continue,
                },
            };
            self.gives_vainly(name, &given, takes, write, span);
        }
    }

    /// Whether two classes are glued together: `className += "open"`.
    pub(super) fn check_glued(&mut self, key: &str, before: &Value, added: &Value, span: Span) {
        let (Value::Text(before), Value::Text(added)) = (before, added) else { return };
        let is_glued = matches!(key, "classList" | "className")
            && before.ends_with(|c: char| c.is_ascii_alphanumeric())
            && added.starts_with(|c: char| c.is_ascii_alphabetic());
        if is_glued {
            let last = before.rsplit(' ').next().unwrap_or_default();
            let says = format!("this makes one class `{last}{added}` of two");
            self.is_vain(says, Some(format!("classList.add(\"{}\")", added.trim())), span);
        }
    }

    /// What was set last, as the script has it.
    pub(super) fn written_value(&self, otherwise: &str) -> String {
        const LONGEST: usize = 40;
        let written = self.assigned.map(|own: ExpressionId| self.written(self.program.span(own)));
        written.filter(|own| own.len() <= LONGEST).unwrap_or_else(|| otherwise.to_owned())
    }

    /// Whether a value is an object that has no text of its own.
    pub(super) fn is_without_text(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        let has_text = || {
            object
                .members
                .keys()
                .any(|key| matches!(&**key, "toString" | "valueOf" | "toJSON") || key.starts_with("@@"))
        };
        matches!(object.kind, Kind::Plain) && !object.is_open && object.parent.is_none() && !has_text()
    }
}

/// An element that stands in a text, with its end.
fn tag_in(text: &str) -> Option<&str> {
    let mut rest = text;
    while let Some((_, behind)) = rest.split_once("</") {
        let end = behind.find(|c: char| !c.is_ascii_alphanumeric()).unwrap_or(behind.len());
        let tag = &behind[..end];
        let is_begun = || text.contains(&format!("<{tag}>")) || text.contains(&format!("<{tag} "));
        if TAGS.contains(&tag) && behind[end..].starts_with('>') && is_begun() {
            return Some(tag);
        }
        rest = behind;
    }
    const ALONE: &[(&str, &str)] =
        &[("<br>", "br"), ("<br/>", "br"), ("<br />", "br"), ("<hr>", "hr"), ("<img ", "img")];
    ALONE.iter().find(|(own, _)| text.contains(own)).map(|(_, tag)| *tag)
}

/// The first reference to a character by its number, and the character.
fn numbered(text: &str) -> Option<(String, String)> {
    let (_, rest) = text.split_once("&#")?;
    let (number, _) = rest.split_once(';')?;
    let code = match number.strip_prefix(['x', 'X']) {
        Some(digits) => u32::from_str_radix(digits, 16).ok()?,
        None => number.parse().ok()?,
    };
    let character = char::from_u32(code).filter(|own| !own.is_control() && !own.is_whitespace())?;
    Some((format!("&#{number};"), character.to_string()))
}

/// The name in the first place for a value: `${name}`, `${name.member}`.
fn place_in(text: &str) -> Option<&str> {
    let (_, rest) = text.split_once("${")?;
    let end = rest.find(|c: char| !(c.is_alphanumeric() || matches!(c, '_' | '$')))?;
    (end > 0 && rest[end..].starts_with(['}', '.', '[', '(', ' '])).then(|| &rest[..end])
}

/// The beginning of a text.
pub(super) fn short(text: &str) -> String {
    const LONGEST: usize = 40;
    match text.char_indices().nth(LONGEST) {
        Some((at, _)) => format!("{}…", text[..at].trim_end()),
        None => text.to_owned(),
    }
}
