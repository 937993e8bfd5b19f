//! Sheets that a pin's sheet imports from beside the board, taken in where they are imported: in
//! the layer and under the conditions of the import (css-cascade-5, 2).

use std::sync::Arc;

use cssparser::{Parser, Token};

use crate::code::{BoardAddress, resolve_beside};
use crate::source::{FilePath, Files, Fragment, SourceText, Span, read_code, utf8_text};
use crate::style::{AtRuleKind, Flaw, FlawKind, Import, LayerName, Rule, Sheet, StyleRules, flaws};

/// Imports of imports deeper than this are not followed.
const DEEPEST: usize = 16;
/// The most files that a sheet may take in: each import of a file counts.
const MOST: usize = 1000;
/// The most bytes that a sheet may come to by its imports.
const LONGEST: usize = 16 << 20;

/// A sheet with what it imports in it.
pub(super) struct Assembly {
    pub(super) text: String,
    fragments: Vec<Fragment>,
    /// Each file that it is made of, with the places where its pieces begin.
    pub(super) imported: usize,
}

impl Assembly {
    /// Takes in what a sheet imports. What cannot be taken in stays an import.
    pub(super) fn of(files: &dyn Files, path: &FilePath, text: &str) -> Self {
        let mut assembly = Assembly { text: String::new(), fragments: Vec::new(), imported: 0 };
        assembly.take(files, path, text, &mut vec![path.clone()]);
        assembly
    }

    /// The text, whose places are those of the files that it is made of.
    pub(super) fn into_text(self) -> SourceText {
        if self.imported == 0 {
            SourceText::new(self.text)
        } else {
            SourceText::assembled(self.text, self.fragments)
        }
    }

    fn take(&mut self, files: &dyn Files, path: &FilePath, text: &str, way: &mut Vec<FilePath>) {
        let own = Arc::new(SourceText::new(text.to_owned()));
        let imports = StyleRules::new(text.to_owned()).imports;
        let mut from = 0;
        for import in &imports {
            if way.len() > DEEPEST || self.imported >= MOST || self.text.len() > LONGEST {
                break;
            }
            let Some((target, inner)) = local(files, path, import) else { continue };
            self.fragment(path, &own, Span { start: from, end: import.span.start });
            from = import.span.end;
            self.imported += 1;
            // What imports itself, by whatever way, ends there.
            if way.contains(&target) {
                continue;
            }
            let headers = headers(import);
            headers.iter().for_each(|header| self.text.push_str(&format!("{header} {{ ")));
            way.push(target.clone());
            self.take(files, &target, &inner, way);
            way.pop();
            self.text.push_str(&" }".repeat(headers.len()));
            self.text.push('\n');
        }
        self.fragment(path, &own, Span::new(from as usize, text.len()));
    }

    fn fragment(&mut self, path: &FilePath, own: &Arc<SourceText>, span: Span) {
        let at = Span::at(self.text.len()).start;
        self.text.push_str(own.slice(span));
        self.fragments.push(Fragment { at, file: path.clone(), own: Arc::clone(own), from: span.start });
    }
}

/// The file that an import means and its text, where that is beside the board and whole.
fn local(files: &dyn Files, path: &FilePath, import: &Import) -> Option<(FilePath, String)> {
    let target = match resolve_beside(path, &import.url) {
        BoardAddress::Beside(target, suffix) if suffix.is_empty() => target,
        _ => return None,
    };
    let text = utf8_text(read_code(files, &target).ok()?).ok()?;
    // What is left open would take up what comes after it.
    let is_open = |flaw: &Flaw| !matches!(flaw.kind, FlawKind::BadUrl);
    let is_whole = !flaws(&text).iter().any(is_open);
    let is_namespace = |rule: &Rule| matches!(rule, Rule::At(at) if at.kind() == AtRuleKind::Namespace);
    let takes_names = Sheet::parse(&text).rules.iter().any(is_namespace);
    let end = missing_end(&text);
    (is_whole && !takes_names).then(|| (target, text + end))
}

/// What ends a rule that the end of its file ends: there it is over (css-syntax-3, "consume a qualified
/// rule" and "consume an at-rule"), and before another rule it would take that up.
fn missing_end(text: &str) -> &'static str {
    let mut input = Parser::new(text);
    let mut end = "";
    while let Ok(token) = input.next() {
        end = match (token, end) {
            (Token::CurlyBracketBlock, _) => "",
            (Token::Semicolon, "\n;") => "",
            (Token::AtKeyword(_), "") => "\n;",
            (Token::CDO | Token::CDC, "") => "",
            (_, "") => "\n{}",
            (_, open) => open,
        };
    }
    end
}

/// The at-rules that stand around what is imported.
fn headers(import: &Import) -> Vec<String> {
    let mut headers: Vec<String> = import.conditions.iter().map(|condition| condition.text.clone()).collect();
    if let Some(layer) = &import.layer {
        let name = |layer: &LayerName| match layer {
            LayerName::Named(name) => Some(name.clone()),
            LayerName::Anonymous(_) => None,
        };
        let names: Vec<String> = std::iter::once(layer).chain(&import.sublayers).filter_map(name).collect();
        headers.push(format!("@layer {}", names.join(".")).trim_end().to_owned());
    }
    headers
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::MemoryFiles;

    #[test]
    fn a_rule_that_the_end_of_its_file_ends_takes_up_nothing() {
        // The end of the imported sheet, and what has to stand behind it.
        let table = [
            ("p{}", ""),
            ("@layer x", "\n;"),
            ("@layer x;", ""),
            ("@layer x /* y */ ", "\n;"),
            ("@media screen", "\n;"),
            ("@media screen{p{}}", ""),
            (".broken", "\n{}"),
            (".broken;", "\n{}"),
            (".broken; .next", "\n{}"),
            ("p{} .broken", "\n{}"),
            ("@import 'y.css' screen", "\n;"),
            ("a;{}", ""),
            ("<!-- -->", ""),
            ("/* x */", ""),
            ("@x{} y", "\n{}"),
            ("", ""),
        ];
        for (text, end) in table {
            assert_eq!(missing_end(text), end, "{text}");
            let both = format!("{text}{end}\n.next{{color:red}}");
            let rules = StyleRules::new(both.clone()).rules;
            let last = rules.last().map(|rule| both[rule.prelude.range()].trim().to_owned());
            assert_eq!(last.as_deref(), Some(".next"), "{text}");
        }
    }

    #[test]
    fn a_tree_of_imports_is_cut_where_it_has_too_many() {
        let mut files = MemoryFiles::default();
        for level in 0..16 {
            files.insert(&format!("{level}.css"), format!("@import '{}.css';", level + 1).repeat(3));
        }
        files.insert("16.css", "p{color:red}");
        let text = "@import '0.css';";
        let assembly = Assembly::of(&files, &FilePath::parse("a.css").unwrap(), text);
        assert_eq!(assembly.imported, MOST);
        assert!(assembly.into_text().as_str().contains("@import"));
    }
}
