//! `[host]` to what the place that serves the site accepts.

use toml::de::{DeTable, DeValue};

use super::host::{BoxPlace, BoxReach, BoxTakes, ClassNames, CssBox, Host, HostBox, HostKind, MarksBy, Only};
use super::mistake::Mistake;
use super::schema::KEYS;
use super::spanned::Spanned;
use super::values::{Reader, Value, entries, kind_of, span_of};
use crate::source::Span;

/// The shortest box that anything fits into, in characters.
const SHORTEST: usize = 100;

impl Reader {
    /// Reads the table; `place` is its name on the board.
    pub(super) fn host(&mut self, table: &DeTable<'_>, place: Span) -> Host {
        let kind = table.get("kind").and_then(|value| {
            let text = self.text("kind", value)?;
            self.one_of("host", &text, &HostKind::ALL.map(HostKind::name)).map(|found| HostKind::ALL[found])
        });
        let mut host = Host { span: place, ..Host::of(kind.unwrap_or_default()) };
        let is_files = host.changes_files;
        let before = self.mistakes.len();
        for (key, value) in entries(table) {
            match key.as_str() {
                "kind" => {}
                "site" => self.boxes(&mut host, "site", BoxReach::Site, value),
                "page" => self.boxes(&mut host, "page", BoxReach::Page, value),
                "styles" => self.styles(&mut host, value),
                "scripts" => self.bare_boxes(&mut host, "scripts", BoxTakes::Js, value),
                "only" => host.only = self.only(value),
                "block" => host.block = self.selector("block", value),
                "files" => host.files = self.address_of_files(value),
                "longest" => {
                    host.longest = self.count("longest", value);
                    if host.longest.as_ref().is_some_and(|longest| **longest < SHORTEST) {
                        self.mistake(
                            span_of(value),
                            format!("`longest` is how many characters a box takes: {SHORTEST} at the least"),
                        );
                    }
                }
                "strips" => {
                    for text in self.texts("strips", value) {
                        if let Err(why) = host.strips.add(&text) {
                            let mistake = Mistake::new(text.span, format!("this {why}"));
                            self.mistakes.push(mistake.help(
                                "write `iframe` for a tag, `[style]` or `onclick` for an attribute, `@import` for an at-rule",
                            ));
                        }
                    }
                }
                "class-names" => {
                    let names = ClassNames::ALL.map(ClassNames::name);
                    let found =
                        self.text("class-names", value).and_then(|text| self.one_of("way", &text, &names));
                    host.class_names = found.map_or(host.class_names, |found| ClassNames::ALL[found]);
                }
                "reserved" => host.reserved = self.texts("reserved", value),
                "marks" => {
                    let names = MarksBy::ALL.map(MarksBy::name);
                    let found = self.text("marks", value).and_then(|text| self.one_of("way", &text, &names));
                    host.marks = found.map_or(host.marks, |found| MarksBy::ALL[found]);
                }
                "frame" => {
                    host.frame = self.texts("frame", value).into_iter().map(|word| word.value).collect();
                }
                "prefer" => {
                    let reaches = [BoxReach::Site, BoxReach::Page];
                    let names = reaches.map(BoxReach::name);
                    let found = self.text("prefer", value).and_then(|text| self.one_of("box", &text, &names));
                    host.prefer = found.map_or(host.prefer, |found| reaches[found]);
                }
                _ => {
                    self.unknown_key(&key, "[host]", &KEYS.host);
                    continue;
                }
            }
            if is_files && key.as_str() != "kind" && self.mistakes.len() == before {
                let message = format!("`{}` says nothing where whole files can be changed", *key);
                self.mistakes.push(Mistake::new(key.span, message).help(
                    "a host with boxes is of another kind: `kind = \"page-slots\"`, `\"site-slots\"`, `\"inserted\"`, `\"blocks\"` or `\"framed-blocks\"`",
                ));
            }
        }
        host.boxes.sort_unstable();
        host.boxes.dedup();
        if !is_files && host.boxes.is_empty() {
            self.mistakes.push(
                Mistake::new(place, "the host has no box at all")
                    .help("name one with `site`, `page`, `styles` or `scripts`"),
            );
        }
        host
    }

    /// Boxes of HTML of one reach; what the kind has of these is gone then.
    fn boxes(&mut self, host: &mut Host, key: &str, reach: BoxReach, value: Value<'_, '_>) {
        host.boxes.retain(|of| of.takes != BoxTakes::Html || of.reach != reach);
        let names = BoxPlace::ALL.map(BoxPlace::name);
        for text in self.texts(key, value) {
            if let Some(found) = self.one_of("box", &text, &names) {
                host.boxes.push(HostBox { reach, place: BoxPlace::ALL[found], takes: BoxTakes::Html });
            }
        }
    }

    fn styles(&mut self, host: &mut Host, value: Value<'_, '_>) {
        let DeValue::Table(table) = value.get_ref() else {
            return self.bare_boxes(host, "styles", BoxTakes::Css, value);
        };
        let mut css = CssBox { nested: true, at_rules: None };
        for (key, value) in entries(table) {
            match key.as_str() {
                "boxes" => self.bare_boxes(host, "boxes", BoxTakes::Css, value),
                "nested" => match value.get_ref() {
                    DeValue::Boolean(nested) => css.nested = *nested,
                    other => {
                        let message = format!("`nested` is true or false, and this is {}", kind_of(other));
                        self.mistake(span_of(value), message);
                    }
                },
                "at-rules" => {
                    let names = self.texts("at-rules", value).into_iter();
                    let names = names.map(|name| name.trim_start_matches('@').to_ascii_lowercase());
                    css.at_rules = Some(names.collect());
                }
                _ => self.unknown_key(&key, "[host] styles", &KEYS.styles),
            }
        }
        host.css = css;
    }

    /// Boxes of CSS or of scripts alone: for the site, for each page, or both.
    fn bare_boxes(&mut self, host: &mut Host, key: &str, takes: BoxTakes, value: Value<'_, '_>) {
        let Some(text) = self.text(key, value) else { return };
        let reaches: [&[BoxReach]; 3] =
            [&[BoxReach::Site], &[BoxReach::Page], &[BoxReach::Site, BoxReach::Page]];
        let Some(found) = self.one_of("box", &text, &["site", "page", "both"]) else { return };
        let place = if takes == BoxTakes::Css { BoxPlace::Head } else { BoxPlace::Foot };
        host.boxes.retain(|of| of.takes != takes);
        host.boxes.extend(reaches[found].iter().map(|reach| HostBox { reach: *reach, place, takes }));
    }

    fn only(&mut self, value: Value<'_, '_>) -> Option<Only> {
        let table = self.table(value, "only")?;
        let mut only = Only { before: String::new(), behind: String::new() };
        for (key, value) in entries(table) {
            match key.as_str() {
                "before" => only.before = self.text("before", value)?.value,
                "behind" => only.behind = self.text("behind", value)?.value,
                _ => self.unknown_key(&key, "[host] only", &KEYS.only),
            }
        }
        let says = |mark: &str| only.before.contains(mark) || only.behind.contains(mark);
        if !["{{path}}", "{{paths}}", "{{pattern}}"].into_iter().any(says) {
            let mistake = Mistake::new(span_of(value), "this does not say where the pages go");
            self.mistakes.push(mistake.help("write `{{path}}`, `{{paths}}` or `{{pattern}}` in `before`"));
            return None;
        }
        Some(only)
    }

    fn address_of_files(&mut self, value: Value<'_, '_>) -> Option<String> {
        let text: Spanned<String> = self.text("files", value)?;
        let is_address = text.starts_with('/') || url::Url::parse(&text).is_ok_and(|url| url.has_host());
        if !is_address || text.contains(['"', '\'', '<', '>', ' ', '?', '#']) {
            let mistake = Mistake::new(text.span, "this is no address of a folder");
            self.mistakes.push(mistake.help("write `/uploads/` or `https://files.sorrelsound.example/`"));
            return None;
        }
        Some(format!("{}/", text.trim_end_matches('/')))
    }
}
