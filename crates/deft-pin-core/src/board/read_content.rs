//! What a pin holds beside its files, and when it begins: values, markup, marks, starts.

use std::ops::Range;

use toml::de::{DeTable, DeValue};

use super::filling::{FilledKind, fill};
use super::mistake::Mistake;
use super::model::{Mark, Markup, MarkupSource, Pin};
use super::moment::Moment;
use super::schema::KEYS;
use super::spanned::{SelectorText, Spanned};
use super::start::{Once, STARTS, Start, StartMistake};
use super::value::{Value, ValueKind, in_scope, kind_of_text, seconds};
use super::values::{Reader, Value as TomlValue, entries, kind_of, listed, span_of};
use crate::markup::MarkupPlace;
use crate::source::{Span, nearest};

impl Reader {
    /// The values of a table, in the order of the board.
    pub(super) fn values(&mut self, table: &DeTable<'_>) -> Vec<Value> {
        let mut values = Vec::new();
        for (name, value) in entries(table) {
            let fits = |c: char| c.is_ascii_alphanumeric() || c == '-' || c == '_';
            if !name.starts_with(|c: char| c.is_ascii_alphabetic()) || !name.chars().all(fits) {
                let message =
                    "a value's name begins with a letter and has letters, digits, `-` and `_` alone";
                self.mistake(name.span, message);
                continue;
            }
            values.extend(self.value(name, value));
        }
        values
    }

    fn value(&mut self, name: Spanned<String>, value: TomlValue<'_, '_>) -> Option<Value> {
        let DeValue::Table(table) = value.get_ref() else {
            let (items, is_list) = self.items(&name, value)?;
            let kind = common_kind(&items);
            return Some(Value { name, kind, is_said: false, is_list, items, each: None });
        };
        let (mut said, mut of, mut items, mut each) = (None, None, None, None);
        for (key, value) in entries(table) {
            match key.as_str() {
                "type" => said = self.value_kind("type", value),
                "of" => of = self.value_kind("of", value),
                "value" => items = self.items(&name, value),
                "each" => each = self.selector("each", value),
                _ => self.unknown_key(&key, "a value", &KEYS.value),
            }
        }
        if table.get("value").is_none() {
            let mistake = Mistake::new(name.span, format!("the value `{}` has no `value`", *name));
            self.mistakes.push(mistake.help("write `{ type = \"…\", value = … }`, or the value alone"));
        }
        let (items, is_list) = items?;
        if said.as_ref().is_some_and(|said: &Spanned<ValueKind>| (said.value == ValueKind::List) != is_list) {
            let message = match is_list {
                true => format!("`{}` is a list, and its `type` says otherwise", *name),
                false => format!("`{}` is said to be a list, and this is one value", *name),
            };
            let help = if is_list {
                "write `type = \"list\"`, and `of` for what is in it"
            } else {
                "write `value = [\"…\", \"…\"]`"
            };
            self.mistakes.push(Mistake::new(name.span, message).help(help));
            return None;
        }
        if let Some(each) = each.as_ref().filter(|_: &&Spanned<SelectorText>| !is_list) {
            let mistake =
                Mistake::new(each.span, format!("`{}` is one value, and `each` is for lists", *name));
            self.mistakes.push(mistake.help("write `value = [\"…\", \"…\"]`, or leave `each` out"));
        }
        let kind = if is_list { of } else { said };
        let is_said = kind.is_some();
        let kind = kind.map_or_else(|| common_kind(&items), |kind| kind.value);
        Some(Value { name, kind, is_said, is_list, items, each })
    }

    fn value_kind(&mut self, key: &str, value: TomlValue<'_, '_>) -> Option<Spanned<ValueKind>> {
        let text = self.text(key, value)?;
        let found = self.one_of("type", &text, &ValueKind::ALL.map(ValueKind::name))?;
        Some(Spanned { value: ValueKind::ALL[found], span: text.span })
    }

    /// The texts of a value, and whether it is a list.
    fn items(&mut self, name: &str, value: TomlValue<'_, '_>) -> Option<(Vec<Spanned<String>>, bool)> {
        match value.get_ref() {
            DeValue::Array(items) => {
                let items: Option<Vec<_>> = items.iter().map(|item| self.item(name, item)).collect();
                items.map(|items| (items, true))
            }
            _ => self.item(name, value).map(|item| (vec![item], false)),
        }
    }

    fn item(&mut self, name: &str, value: TomlValue<'_, '_>) -> Option<Spanned<String>> {
        let text = match value.get_ref() {
            DeValue::String(text) => text.to_string(),
            DeValue::Integer(number) => match i64::from_str_radix(number.as_str(), number.radix()) {
                Ok(number) => number.to_string(),
                Err(_) => number.as_str().to_owned(),
            },
            DeValue::Float(number) => number.as_str().to_owned(),
            DeValue::Boolean(truth) => truth.to_string(),
            DeValue::Datetime(date) => date.to_string(),
            other => {
                let message = format!(
                    "`{name}` is a text, a number, a date or a list of them, and this is {}",
                    kind_of(other)
                );
                self.mistake(span_of(value), message);
                return None;
            }
        };
        Some(Spanned { value: text, span: span_of(value) })
    }

    /// A text of the board with its values put in.
    pub(super) fn filled(&mut self, key: &str, text: Spanned<String>) -> Option<Spanned<String>> {
        let all = in_scope(&self.own_values, &self.board_values);
        let filled = fill(&text, FilledKind::Style, &all);
        if let Some(place) = filled.unfilled.first() {
            let names = all.iter().map(|value| value.name.as_str());
            let help = match nearest(&place.name, names.clone()) {
                Some(near) => format!("did you mean `{{{{{near}}}}}`?"),
                None if all.is_empty() => format!("add `[values]` and under it `{} = \"…\"`", place.name),
                None => format!("there are {}", listed(names)),
            };
            let message = format!("`{key}` names the value `{}`, and there is none", place.name);
            self.mistakes.push(Mistake::new(text.span, message).help(help));
            return None;
        }
        self.used_values.extend(filled.used.iter().cloned());
        Some(Spanned { value: filled.text, span: text.span })
    }

    /// A list of tables, each with the place where it begins.
    pub(super) fn tables<'t, 'i>(
        &mut self,
        value: TomlValue<'t, 'i>,
        name: &str,
    ) -> Vec<(&'t DeTable<'i>, Span)> {
        match value.get_ref() {
            DeValue::Array(items) => {
                let tables = items.iter().filter_map(|item| Some((self.table(item, name)?, span_of(item))));
                tables.collect()
            }
            DeValue::Table(table) => vec![(table, span_of(value))],
            other => {
                let message = format!("`{name}` is a list of tables, and this is {}", kind_of(other));
                let mistake = Mistake::new(span_of(value), message);
                self.mistakes.push(mistake.help(format!("begin each of them with `[[{name}]]`")));
                Vec::new()
            }
        }
    }

    pub(super) fn markup(&mut self, table: &DeTable<'_>, span: Span, has_target: bool) -> Option<Markup> {
        let (mut file, mut text, mut place, mut at) = (None, None, None, None);
        for (key, value) in entries(table) {
            match key.as_str() {
                "file" => file = self.text("file", value).and_then(|path| self.file("file", path)),
                "text" => text = self.text("text", value),
                "place" => {
                    let names = MarkupPlace::ALL.map(MarkupPlace::name);
                    let found =
                        self.text("place", value).and_then(|text| self.one_of("place", &text, &names));
                    place = found.map(|found| MarkupPlace::ALL[found]);
                }
                "at" => at = self.selector("at", value),
                _ => self.unknown_key(&key, "markup", &KEYS.markup),
            }
        }
        let is_said = |key: &str| table.get(key).is_some();
        match (is_said("file"), is_said("text")) {
            (true, true) => self.mistake(span, "this markup has both a `file` and a `text`"),
            (false, false) => {
                let mistake = Mistake::new(span, "this markup has neither a `file` nor a `text`");
                self.mistakes
                    .push(mistake.help("write `text = \"<p>…</p>\"`, or name a `file` with the HTML"));
            }
            _ => {}
        }
        if !is_said("place") {
            let mistake = Mistake::new(span, "this markup does not say its `place`");
            let help = format!("the places are {}", listed(MarkupPlace::ALL.map(MarkupPlace::name)));
            self.mistakes.push(mistake.help(help));
        }
        self.needs_element("markup", is_said("at"), has_target, span);
        let source = file.map(MarkupSource::File).or(text.map(MarkupSource::Text))?;
        Some(Markup { source, place: place?, at, span })
    }

    fn needs_element(&mut self, what: &str, has_at: bool, has_target: bool, span: Span) {
        if !has_at && !has_target {
            let mistake = Mistake::new(span, format!("this {what} does not say which element it is for"));
            self.mistakes.push(mistake.help("add `at = \"SELECTOR\"`"));
        }
    }

    pub(super) fn mark(&mut self, table: &DeTable<'_>, span: Span, has_target: bool) -> Mark {
        let mut mark = Mark { at: None, id: None, classes: Vec::new(), attributes: Vec::new(), span };
        for (key, value) in entries(table) {
            match key.as_str() {
                "at" => mark.at = self.selector("at", value),
                "id" => mark.id = self.text("id", value).and_then(|id| self.filled_name("id", id)),
                "class" => {
                    let text = self.text("class", value).and_then(|text| self.filled_text("class", text));
                    mark.classes = text
                        .iter()
                        .flat_map(|text| {
                            let words = text.split_ascii_whitespace();
                            words
                                .map(|word| Spanned { value: word.to_owned(), span: text.span })
                                .collect::<Vec<_>>()
                        })
                        .collect();
                    for class in &mark.classes {
                        if let Some(bare) = class.value.strip_prefix('.') {
                            let mistake =
                                Mistake::new(class.span, "`class` names classes without their dots");
                            self.mistakes.push(mistake.help(format!("write `{bare}`")));
                        }
                    }
                }
                "attributes" => {
                    let Some(table) = self.table(value, "attributes") else { continue };
                    for (name, value) in entries(table) {
                        self.attribute(&mut mark, name, value);
                    }
                }
                _ => self.unknown_key(&key, "a mark", &KEYS.mark),
            }
        }
        if ["id", "class", "attributes"].iter().all(|key| table.get(*key).is_none()) {
            let mistake = Mistake::new(span, "this mark gives nothing to the element");
            self.mistakes.push(mistake.help("give it an `id`, a `class`, or `attributes`"));
        }
        self.needs_element("mark", table.get("at").is_some(), has_target, span);
        mark
    }

    fn attribute(&mut self, mark: &mut Mark, name: Spanned<String>, value: TomlValue<'_, '_>) {
        let bad =
            |c: char| c.is_whitespace() || c.is_control() || matches!(c, '"' | '\'' | '>' | '/' | '=' | '<');
        let lower = name.to_ascii_lowercase();
        let text = match value.get_ref() {
            DeValue::Boolean(true) => Some(Spanned { value: String::new(), span: span_of(value) }),
            DeValue::Integer(_) | DeValue::Float(_) => self.item(&name, value),
            _ => self.text(&name, value).and_then(|text| self.filled_text(&name, text)),
        };
        if name.is_empty() || name.contains(bad) {
            self.mistake(name.span, format!("`{}` is no name of an attribute", *name));
        } else if lower == "id" || lower == "class" {
            let mistake = Mistake::new(name.span, format!("`{lower}` has a key of its own"));
            self.mistakes.push(mistake.help(format!("write `{lower} = \"…\"` in the mark itself")));
        } else if let Some(text) = text {
            mark.attributes.push((Spanned { value: lower, span: name.span }, text));
        }
    }

    /// A text that is put in as it is, with its values in it.
    fn filled_text(&mut self, key: &str, text: Spanned<String>) -> Option<Spanned<String>> {
        let mut out = String::new();
        let mut done = 0;
        for place in super::filling::placeholders(&text) {
            let own =
                self.own_values.iter().chain(&self.board_values).find(|value| *value.name == place.name);
            let Some(value) = own else {
                // The same message as for selectors.
                self.filled(key, text);
                return None;
            };
            out.push_str(&text[done..place.span.start as usize]);
            let items: Vec<&str> = value.items.iter().map(|item| item.value.as_str()).collect();
            out.push_str(&items.join(", "));
            self.used_values.push(place.name);
            done = place.span.end as usize;
        }
        out.push_str(&text[done..]);
        Some(Spanned { value: out, span: text.span })
    }

    fn filled_name(&mut self, key: &str, name: Spanned<String>) -> Option<Spanned<String>> {
        let name = self.filled_text(key, name)?;
        if let Some(bare) = name.strip_prefix('#') {
            let mistake = Mistake::new(name.span, format!("`{key}` is a name without `#`"));
            self.mistakes.push(mistake.help(format!("write `{bare}`")));
        } else if name.is_empty() || name.contains(char::is_whitespace) {
            let mistake = Mistake::new(name.span, format!("`{key}` is a name without blanks"));
            let meant = name.split_whitespace().collect::<Vec<_>>().join("-");
            self.mistakes.push(if meant.is_empty() {
                mistake
            } else {
                mistake.help(format!("write `{meant}`"))
            });
        }
        Some(name)
    }

    /// What says when a pin begins; none for a key that does not.
    pub(super) fn beginning(&mut self, pin: &mut Pin, key: &str, value: TomlValue<'_, '_>) -> Option<()> {
        match key {
            "start" => pin.start = self.start(value).unwrap_or_else(|| pin.start.clone()),
            "once" => {
                let Some(text) = self.text("once", value) else { return Some(()) };
                let found = self.one_of("`once`", &text, &Once::ALL.map(Once::name));
                pin.once = found.map(|found| Spanned { value: Once::ALL[found], span: text.span });
            }
            "from" => pin.from = self.moment("from", value),
            "until" => pin.until = self.moment("until", value),
            _ => return None,
        }
        Some(())
    }

    fn start(&mut self, value: TomlValue<'_, '_>) -> Option<Spanned<Start<SelectorText>>> {
        let text = self.text("start", value)?;
        let span = text.span;
        let part = |range: Range<usize>| Spanned { value: text[range].to_owned(), span };
        let selector = Start::selector_in(&text).unwrap_or(text.len()..text.len());
        let (before, after) = (part(0..selector.start), part(selector.end..text.len()));
        let selector = self.filled("start", part(selector))?;
        let (before, after) = (self.filled_text("start", before)?, self.filled_text("start", after)?);
        let text = format!("{}{}{}", before.value, selector.value, after.value);
        let mistake = match Start::parse(&text) {
            Ok(start) => {
                let read = |selector: String| {
                    self.selector_text("start", Spanned { value: selector, span }).map(|found| found.value)
                };
                return start.map(read).map(|value| Spanned { value, span });
            }
            Err(StartMistake::Unknown(word)) => {
                let known = called(&word).or_else(|| nearest(&word, STARTS.map(|(word, _)| word)));
                let help = match known {
                    _ if seconds(&text).is_some() => format!("did you mean `after {}`?", text.trim()),
                    Some(near) => {
                        let example =
                            STARTS.iter().find(|(word, _)| *word == near).map_or("", |(_, example)| example);
                        format!("did you mean `{near}`? `{example}`, say")
                    }
                    None => format!("it takes {}", listed(STARTS.map(|(_, example)| example))),
                };
                Mistake::new(span, format!("there is no start `{word}`")).help(help)
            }
            Err(StartMistake::Rest { word, example }) => {
                let message = match text.trim() == word {
                    true => format!("the start `{word}` does not say what it waits for"),
                    false => format!("`{}` is no start", text.trim()),
                };
                let help = if example == word {
                    format!("write `{word}` alone")
                } else {
                    format!("write it as `{example}`")
                };
                Mistake::new(span, message).help(help)
            }
        };
        self.mistakes.push(mistake);
        None
    }

    fn moment(&mut self, key: &str, value: TomlValue<'_, '_>) -> Option<Spanned<Moment>> {
        let text = match value.get_ref() {
            DeValue::String(_) => self.text(key, value).and_then(|text| self.filled_text(key, text))?,
            DeValue::Datetime(date) => Spanned { value: date.to_string(), span: span_of(value) },
            other => {
                self.mistake(span_of(value), format!("`{key}` is a date, and this is {}", kind_of(other)));
                return None;
            }
        };
        let found = Moment::parse(&text);
        if found.is_none() {
            let mistake = Mistake::new(text.span, format!("`{key}` is no date: there is no `{}`", *text));
            self.mistakes
                .push(mistake.help("write it as `2027-01-05`, or with a time as `2027-01-05T10:00`"));
        }
        found.map(|value| Spanned { value, span: text.span })
    }
}

/// What people call starts that have another name.
fn called(word: &str) -> Option<&'static str> {
    Some(match word {
        "load" | "onload" => "loaded",
        "dom" | "domready" | "parsed" => "ready",
        "delay" | "wait" | "timer" => "after",
        "exit" | "leave" | "exit-intent" => "leaving",
        "visible" | "view" | "inview" | "in-view" => "seen",
        "clicked" | "onclick" => "click",
        "play" | "video" | "at" => "playing",
        "exists" | "added" | "appear" => "appears",
        _ => return None,
    })
}

/// What all texts of a value most likely are.
fn common_kind(items: &[Spanned<String>]) -> ValueKind {
    let kind = |item: &Spanned<String>| match item.value.parse::<f64>() {
        Ok(number) if number.is_finite() => ValueKind::Number,
        _ => kind_of_text(&item.value),
    };
    let mut kinds = items.iter().map(kind);
    let first = kinds.next().unwrap_or(ValueKind::Text);
    if kinds.all(|kind| kind == first) { first } else { ValueKind::Text }
}
