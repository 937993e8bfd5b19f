//! Markup and styles of a script of which browsers drop a part.

use super::machine::Machine;
use super::vain_texts::short;
use crate::source::Span;
use crate::style::{self, Item, Sheet};

impl Machine<'_> {
    /// Markup with a script in it, which is never run (HTML, "already started").
    pub(super) fn check_markup(&mut self, key: &str, text: &str, span: Span) -> bool {
        if has_script(text) {
            let takes = "markup: a script in it never runs";
            let write = Some("document.createElement(\"script\")".to_owned());
            self.gives_vainly(key, &short(text), takes, write, span);
            return true;
        }
        if let Some((_, rest)) = text.split_once("<style")
            && let Some((sheet, _)) = rest.split_once('>').and_then(|(_, rest)| rest.split_once("</style"))
        {
            self.check_sheet(sheet, span);
        }
        self.check_unfilled(key, text, span)
    }

    /// Parts of a table in an element that is none of one: browsers drop their tags (HTML, "parsing main inbody").
    pub(super) fn check_cells(&mut self, key: &str, tag: Option<&str>, text: &str, span: Span) -> bool {
        const PARTS: &[&str] = &["caption", "col", "colgroup", "tbody", "td", "tfoot", "th", "thead", "tr"];
        let is_of_table = |tag: &str| tag == "table" || PARTS.contains(&tag) || tag.contains(['-', ':']);
        // The context is what it stands in.
        let Some(tag) = tag.filter(|tag| !is_of_table(tag) && key == "innerHTML") else { return false };
        let Some(rest) = text.trim_start().strip_prefix('<') else { return false };
        let end = rest.find(|c: char| !c.is_ascii_alphanumeric()).unwrap_or(rest.len());
        let part = rest[..end].to_ascii_lowercase();
        if !PARTS.contains(&part.as_str()) || matches!(tag, "math" | "svg") {
            return false;
        }
        let takes = format!("what may stand in `{tag}`: `<{part}>` is dropped, and what is in it is left");
        self.gives_vainly(key, &short(text), &takes, Some("<table>".to_owned()), span);
        true
    }

    /// Declarations that browsers drop.
    pub(super) fn check_declarations(&mut self, text: &str, span: Span) {
        if !text.trim().is_empty() && !text.contains([':', '{', '$', '/']) {
            self.gives_vainly("style", text, "declarations, as `color: red`", None, span);
            return;
        }
        self.check_sheet(&format!("a{{{text}}}"), span);
    }

    /// The same in a sheet.
    pub(super) fn check_sheet(&mut self, text: &str, span: Span) {
        /// Longer ones are not made by hand.
        const LONGEST: usize = 4_000;
        if text.len() > LONGEST || text.contains("${") {
            return;
        }
        self.charge(text.len());
        let sheet = Sheet::parse(text);
        let mut found = Vec::new();
        for (rule, _) in sheet.style_rules() {
            for item in &rule.block.items {
                if let Item::Declaration(own) = item {
                    found.push((own.name.clone(), text[own.value.range()].to_owned()));
                }
            }
        }
        for (name, value) in found {
            // Written for browsers of old.
            if name.starts_with(['-', '_', '*']) || value.contains("progid") || value.contains("alpha(") {
                continue;
            }
            match style::is_property(&name.to_ascii_lowercase()) {
                true => {
                    let value = value.rsplit_once("!important").map_or(&*value, |(value, _)| value);
                    self.check_style_value(|| name.clone(), &name.to_ascii_lowercase(), value, span);
                }
                false => {
                    let near = style::nearest_property(&name).map(str::to_owned);
                    self.is_vain(format!("there is no property `{name}`"), near, span);
                }
            }
        }
    }
}

/// Whether markup has a script that browsers would run if it stood in the page.
fn has_script(text: &str) -> bool {
    let lower = text.to_ascii_lowercase();
    let mut rest = &lower[..];
    while let Some((_, behind)) = rest.split_once("<script") {
        let Some((start, more)) = behind.split_once('>') else { return false };
        let is_data = start.split_once("type").is_some_and(|(_, kind)| {
            !["javascript", "module", "ecmascript"].iter().any(|own| kind.contains(own))
                && kind.trim_start().starts_with('=')
        });
        let is_whole = more.contains("</script") || start.contains("src");
        if !is_data && is_whole && (start.is_empty() || start.starts_with([' ', '\n', '\t'])) {
            return true;
        }
        rest = behind;
    }
    false
}
