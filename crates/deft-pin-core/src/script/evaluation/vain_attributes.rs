//! Attributes for assistive technology that say nothing, and what of a cookie browsers pass over.

use super::machine::Machine;
use crate::source::{Span, nearest};

/// The attributes of WAI-ARIA, without `aria-`, and the words that they take; none where they take others (WAI-ARIA 1.3,
/// "Supported States and Properties").
const ARIA: &[(&str, &[&str])] = &[
    ("actions", &[]),
    ("activedescendant", &[]),
    ("atomic", TRUTH),
    ("autocomplete", &["both", "inline", "list", "none"]),
    ("braillelabel", &[]),
    ("brailleroledescription", &[]),
    ("busy", TRUTH),
    ("checked", MIXED),
    ("colcount", &[]),
    ("colindex", &[]),
    ("colindextext", &[]),
    ("colspan", &[]),
    ("controls", &[]),
    ("current", &["date", "false", "location", "page", "step", "time", "true"]),
    ("describedby", &[]),
    ("description", &[]),
    ("details", &[]),
    ("disabled", TRUTH),
    ("dropeffect", &[]),
    ("errormessage", &[]),
    ("expanded", OPEN_TRUTH),
    ("flowto", &[]),
    ("grabbed", OPEN_TRUTH),
    ("haspopup", &["dialog", "false", "grid", "listbox", "menu", "tree", "true"]),
    ("hidden", OPEN_TRUTH),
    ("invalid", &["false", "grammar", "spelling", "true"]),
    ("keyshortcuts", &[]),
    ("label", &[]),
    ("labelledby", &[]),
    ("level", &[]),
    ("live", &["assertive", "off", "polite"]),
    ("modal", TRUTH),
    ("multiline", TRUTH),
    ("multiselectable", TRUTH),
    ("orientation", &["horizontal", "undefined", "vertical"]),
    ("owns", &[]),
    ("placeholder", &[]),
    ("posinset", &[]),
    ("pressed", MIXED),
    ("readonly", TRUTH),
    ("relevant", &[]),
    ("required", TRUTH),
    ("roledescription", &[]),
    ("rowcount", &[]),
    ("rowindex", &[]),
    ("rowindextext", &[]),
    ("rowspan", &[]),
    ("selected", OPEN_TRUTH),
    ("setsize", &[]),
    ("sort", &["ascending", "descending", "none", "other"]),
    ("valuemax", &[]),
    ("valuemin", &[]),
    ("valuenow", &[]),
    ("valuetext", &[]),
];
const TRUTH: &[&str] = &["false", "true"];
const OPEN_TRUTH: &[&str] = &["false", "true", "undefined"];
const MIXED: &[&str] = &["false", "mixed", "true", "undefined"];
/// The roles (WAI-ARIA 1.3, "Definition of Roles").
const ROLES: &[&str] = &[
    "alert", "alertdialog", "application", "article", "banner", "blockquote", "button", "caption", "cell",
    "checkbox", "code", "columnheader", "combobox", "comment", "complementary", "contentinfo", "definition",
    "deletion", "dialog", "directory", "document", "emphasis", "feed", "figure", "form", "generic", "grid",
    "gridcell", "group", "heading", "image", "img", "insertion", "link", "list", "listbox", "listitem",
    "log", "main", "mark", "marquee", "math", "menu", "menubar", "menuitem", "menuitemcheckbox",
    "menuitemradio", "meter", "navigation", "none", "note", "option", "paragraph", "presentation",
    "progressbar", "radio", "radiogroup", "region", "row", "rowgroup", "rowheader", "scrollbar", "search",
    "searchbox", "sectionfooter", "sectionheader", "separator", "slider", "spinbutton", "status", "strong",
    "subscript", "suggestion", "superscript", "switch", "tab", "table", "tablist", "tabpanel", "term",
    "textbox", "time", "timer", "toolbar", "tooltip", "tree", "treegrid", "treeitem",
];
/// What people write for roles.
const ROLES_OTHERWISE: &[(&str, &str)] = &[
    ("btn", "button"),
    ("footer", "contentinfo"),
    ("header", "banner"),
    ("modal", "dialog"),
    ("nav", "navigation"),
    ("popup", "dialog"),
];
/// What stands in a cookie behind its value (RFC 6265bis, "The Set-Cookie Header Field").
const OF_COOKIES: &[&str] =
    &["domain", "expires", "httponly", "max-age", "partitioned", "path", "priority", "samesite", "secure"];

impl Machine<'_> {
    /// An attribute for assistive technology that there is none of, or with a word that it does not take.
    pub(super) fn check_spoken(&mut self, method: &str, attribute: &str, given: Option<&str>, span: Span) {
        if attribute == "role" {
            return self.check_role(method, given, span);
        }
        let Some(name) = attribute.strip_prefix("aria-") else { return };
        let Some((_, words)) = ARIA.iter().find(|own| own.0 == name) else {
            let near = nearest(name, ARIA.iter().map(|own| own.0)).map(|near| format!("aria-{near}"));
            // A sheet may ask for it, and another script.
            if let (Some(near), false) = (near, self.world.has_text(attribute)) {
                self.gives_vainly(method, attribute, "the name of an attribute", Some(near), span);
            }
            return;
        };
        let Some(given) = given.filter(|given| !given.is_empty()) else { return };
        if words.is_empty() || words.contains(&given.to_ascii_lowercase().as_str()) {
            return;
        }
        let lower = given.to_ascii_lowercase();
        let write = match lower.as_str() {
            "1" | "on" | "open" | "yes" if words.contains(&"true") => Some("true"),
            "0" | "closed" | "no" | "off" if words.contains(&"false") => Some("false"),
            lower if lower == name && words.contains(&"true") => Some("true"),
            lower => nearest(lower, words.iter().copied()),
        };
        let takes = format!("for `{attribute}` one of `{}`", words.join("`, `"));
        self.gives_vainly(method, given, &takes, write.map(|word| format!("\"{word}\"")), span);
    }

    fn check_role(&mut self, method: &str, given: Option<&str>, span: Span) {
        let is_role = |word: &str| {
            let lower = word.to_ascii_lowercase();
            ROLES.contains(&lower.as_str()) || lower.starts_with("doc-") || lower.starts_with("graphics-")
        };
        let Some(given) = given.filter(|given| !given.trim().is_empty()) else { return };
        if given.split_ascii_whitespace().any(is_role) {
            return;
        }
        let lower = given.trim().to_ascii_lowercase();
        let known = ROLES_OTHERWISE.iter().find(|(own, _)| *own == lower).map(|(_, role)| *role);
        let near = known.or_else(|| nearest(&lower, ROLES.iter().copied()));
        self.gives_vainly(
            method,
            given,
            "for `role` one of WAI-ARIA",
            near.map(|near| format!("\"{near}\"")),
            span,
        );
    }

    /// What of a cookie browsers pass over.
    pub(super) fn check_cookie(&mut self, text: &str, span: Span) -> bool {
        for part in text.split(';').skip(1).map(str::trim).filter(|part| !part.is_empty()) {
            let (name, value) =
                part.split_once('=').map_or((part, None), |(name, value)| (name, Some(value)));
            let (name, value) = (name.trim().to_ascii_lowercase(), value.map(str::trim));
            if !OF_COOKIES.contains(&name.as_str()) {
                let near = nearest(&name, OF_COOKIES.iter().copied()).map(str::to_owned);
                let says = match value {
                    Some(_) => format!("a cookie has no `{name}`: another one is set by a line of its own"),
                    None => format!("a cookie has no `{name}`"),
                };
                self.is_vain(says, near, span);
                return true;
            }
            let write = match (name.as_str(), value.unwrap_or_default()) {
                ("max-age", value) if value.parse::<i64>().is_err() => {
                    (format!("`max-age` takes a number of seconds, and not `{value}`"), Some("max-age=86400"))
                }
                ("expires", value) if !is_like_a_date(value) => (
                    format!(
                        "`expires` takes a date, and not `{value}`: the cookie goes with the browser's session"
                    ),
                    Some("max-age=86400"),
                ),
                ("samesite", value)
                    if !["lax", "none", "strict"].contains(&value.to_ascii_lowercase().as_str()) =>
                {
                    (format!("`samesite` takes `lax`, `none` or `strict`, and not `{value}`"), Some("lax"))
                }
                _ => continue,
            };
            self.is_vain(write.0, write.1.map(str::to_owned), span);
            return true;
        }
        false
    }
}

/// Whether a text has a day, a month and a year in it, as the date of a cookie does (RFC 6265, "Dates").
fn is_like_a_date(text: &str) -> bool {
    const MONTHS: &[&str] =
        &["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];
    let lower = text.to_ascii_lowercase();
    MONTHS.iter().any(|month| lower.contains(month)) && lower.contains(|c: char| c.is_ascii_digit())
}
