//! The function that a pin's script runs in: its names stay in there, `root` is the element that it
//! is for, and where there is no such element it does not run.

use oxc_semantic::SemanticBuilder;

use super::syntax::{ScriptKind, flaw_of, with_early_errors, with_program_as};
use crate::markup::NamedPart;
use crate::source::Span;

/// A name of a script that code in one of its texts asks the page for.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct AskedName {
    /// The name.
    pub name: String,
    /// The text with the code.
    pub span: Span,
}

/// A value of the board that a pin's script sees.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct FrameValue {
    /// Its name.
    pub name: String,
    /// It as an expression.
    pub code: String,
}

/// How a pin's script is confined.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct Frame {
    /// The elements that it runs for, once for each: a selector. Without one it runs once, for the
    /// document.
    pub within: Option<String>,
    /// Names that it declares and the page may use.
    pub share: Vec<String>,
    /// Those of them that nobody said, and that code in its own texts asks the page for.
    pub asked: Vec<AskedName>,
    /// The values that it sees, as members of `values`.
    pub values: Vec<FrameValue>,
    /// What its pin puts into the page right before it runs.
    pub brings: Vec<NamedPart>,
    /// Whether it stands before its elements may have been parsed, and so waits for the page.
    pub waits: bool,
    /// Whether something else than the page's being read has to happen before it runs.
    pub starts_later: bool,
    /// The name by which a browser's messages call it.
    pub source: String,
}

/// The name that a script has for the element that it is for.
pub(super) const ROOT: &str = "root";
/// The name that a script has for the board's values.
pub(super) const VALUES: &str = "values";

impl Frame {
    /// A script in its frame. Its lines keep their numbers, and its first line moves to the right.
    pub fn around(&self, text: &str) -> String {
        let anatomy = with_program_as(text, ScriptKind::Confined, |program, flaws| {
            let checked = SemanticBuilder::new().with_check_syntax_error(true).build(program);
            let flaws = with_early_errors(flaws, checked.diagnostics.errors().map(flaw_of));
            let scoping = checked.semantic.scoping();
            let bindings = scoping.get_bindings(scoping.root_scope_id());
            flaws.is_empty().then(|| Anatomy {
                head: program.hashbang.as_ref().map_or(0, |hashbang| hashbang.span.end as usize),
                body: program.directives.last().map(|directive| directive.span.end as usize),
                names: bindings.iter().map(|(name, _)| name.to_string()).collect(),
                uses_values: scoping.root_unresolved_references().keys().any(|name| *name == VALUES),
            })
        });
        let source = self.source.replace(['\n', '\r', '\u{2028}', '\u{2029}', ' ', '"', '\''], "%20");
        let anatomy = match anatomy {
            Ok(Some(anatomy)) => anatomy,
            // What cannot be read does not run, and in a frame some of it might.
            Ok(None) => return format!("{text}\n//# sourceURL={source}\n"),
            // A browser might read it, and it would run unconfined.
            Err(flaw) => return format!("// left out: {}\n//# sourceURL={source}\n", flaw.message),
        };
        let (directives, body) = text.split_at(anatomy.body.unwrap_or(anatomy.head));
        let directives = &directives[anatomy.head..];
        let shared: String =
            self.share.iter().filter(|name| anatomy.names.contains(name)).map(|name| gate(name)).collect();
        let (mut open, mut close) = self.ends(!anatomy.names.iter().any(|name| name == ROOT));
        if anatomy.uses_values && !self.values.is_empty() {
            open.insert_str(0, "(function (values) { ");
            close.push_str(&format!(" }})({{ {} }});", self.values_text()));
        }
        let end = if anatomy.body.is_some() && !shared.is_empty() { ";" } else { "" };
        // A script may end in a comment.
        let line_end = if text.ends_with('\n') { "" } else { "\n" };
        // At the start of a line such an arrow begins a comment (ECMA-262 B.1.1).
        let arrow = if begins_with_arrow(&text[anatomy.head..]) { "//" } else { "" };
        format!("{open}{arrow}{directives}{end}{shared}{body}{line_end}{close}\n//# sourceURL={source}\n")
    }

    fn values_text(&self) -> String {
        let rows = self.values.iter().map(|value| format!("{}: {}", quoted(&value.name), value.code));
        rows.collect::<Vec<_>>().join(", ")
    }

    fn ends(&self, has_root: bool) -> (String, String) {
        let parameter = if has_root { ROOT } else { "" };
        let (open, close) = match &self.within {
            Some(within) => (
                format!("document.querySelectorAll({}).forEach(function ({parameter}) {{", quoted(within)),
                "}, window);".to_owned(),
            ),
            None => (format!("(function ({parameter}) {{"), "}).call(window, document);".to_owned()),
        };
        if !self.waits || self.starts_later {
            return (open, close);
        }
        // On its way down, so that listeners of the document which the script adds are called as well.
        let wait = "(function (run) { document.readyState === \"loading\" ? window.addEventListener(\"DOMContentLoaded\", run, true) : run(); })(function () { ";
        (format!("{wait}{open}"), format!("{close} }});"))
    }
}

#[derive(Default)]
struct Anatomy {
    /// Where a `#!` line ends, which may stand at a file's start alone.
    head: usize,
    /// Where its directives end.
    body: Option<usize>,
    /// What it declares.
    names: Vec<String>,
    /// Whether it asks for the values of the board.
    uses_values: bool,
}

/// Whether the first line of a script has nothing before a `-->` but blanks and comments.
fn begins_with_arrow(text: &str) -> bool {
    let mut rest = text.split(['\n', '\r', '\u{2028}', '\u{2029}']).next().unwrap_or_default();
    loop {
        rest = rest.trim_start_matches(|c: char| c.is_whitespace() || c == '\u{feff}');
        match rest.strip_prefix("/*").and_then(|inside| inside.split_once("*/")) {
            Some((_, after)) => rest = after,
            None => return rest.starts_with("-->"),
        }
    }
}

/// What makes a name of the script one of the page's, with whatever value it has at the time.
fn gate(name: &str) -> String {
    let value = if name == "value" { "given" } else { "value" };
    format!(
        "try {{ Object.defineProperty(window, {}, {{ configurable: true, enumerable: true, get: function () {{ return {name}; }}, set: function ({value}) {{ {name} = {value}; }} }}); }} catch (error) {{ window.{name} = {name}; }} ",
        quoted(name)
    )
}

/// A string literal that means the same in every version of the language.
pub(crate) fn quoted(text: &str) -> String {
    let quoted = serde_json::to_string(text).unwrap_or_default();
    quoted.replace('\u{2028}', "\\u2028").replace('\u{2029}', "\\u2029")
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_script_keeps_its_lines_and_its_directives() {
        let plain = Frame { source: "pins/a b.js".to_owned(), ..Frame::default() };
        let within = Frame { within: Some("#a > \"b\"".to_owned()), ..plain.clone() };
        let waits = Frame { waits: true, ..within.clone() };
        let shares = Frame { share: vec!["go".to_owned(), "none".to_owned()], ..plain.clone() };
        let end = "\n//# sourceURL=pins/a%20b.js\n";
        let table = [
            (&plain, "go()\n", format!("(function (root) {{go()\n}}).call(window, document);{end}")),
            (&plain, "a // b", format!("(function (root) {{a // b\n}}).call(window, document);{end}")),
            (&plain, "let root", format!("(function () {{let root\n}}).call(window, document);{end}")),
            (&plain, "#!x\na", format!("(function (root) {{\na\n}}).call(window, document);{end}")),
            (
                &plain,
                "'use strict'\na",
                format!("(function (root) {{'use strict'\na\n}}).call(window, document);{end}"),
            ),
            (
                &within,
                "a",
                format!(
                    "document.querySelectorAll(\"#a > \\\"b\\\"\").forEach(function (root) {{a\n}}, window);{end}"
                ),
            ),
        ];
        for (frame, text, expected) in table {
            assert_eq!(frame.around(text), expected, "{text}");
        }
        assert!(waits.around("a").contains("DOMContentLoaded"));
        let shared = shares.around("'use strict'; function go() {}");
        assert!(
            shared.starts_with("(function (root) {'use strict';;try { Object.defineProperty(window, \"go\",")
        );
        assert!(!shared.contains("none"));
        assert_eq!(plain.around("}{"), format!("}}{{{end}"));
    }
}
