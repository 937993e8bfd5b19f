//! What a sheet has to say in front of all its rules: what it imports, and its namespaces.

use super::at_rule::AtRuleKind;
use super::sheet::{AtRule, Rule, Sheet};

/// A sheet taken apart, so that others can stand in one text with it.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct SheetParts {
    /// Its imports, with the layers that it names before them (css-cascade-5, "importing stylesheets").
    pub imports: String,
    /// Its namespaces (css-namespaces-3, "syntax").
    pub namespaces: String,
    /// All else.
    pub rules: String,
}

impl SheetParts {
    /// Takes a sheet apart.
    pub fn of(text: &str) -> SheetParts {
        let sheet = Sheet::parse(text);
        let in_front = sheet.rules.iter().map_while(|rule| match rule {
            Rule::At(at) if at.stands_in_front() => Some(at),
            _ => None,
        });
        let head: Vec<&AtRule> = in_front.collect();
        let behind_imports =
            head.iter().rposition(|at| at.kind() == AtRuleKind::Import).map_or(0, |last| last + 1);
        let mut parts = SheetParts::default();
        let mut done = 0;
        for (number, at) in head.iter().enumerate() {
            let goes_to = match at.kind() {
                AtRuleKind::Import => &mut parts.imports,
                AtRuleKind::Layer if number < behind_imports => &mut parts.imports,
                AtRuleKind::Namespace => &mut parts.namespaces,
                _ => continue,
            };
            goes_to.push_str(text[at.span.range()].trim());
            goes_to.push('\n');
            parts.rules.push_str(&text[done..at.span.start as usize]);
            done = at.span.end as usize;
            done += usize::from(text[done..].starts_with('\n'));
        }
        parts.rules.push_str(&text[done..]);
        parts
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_sheet_is_taken_apart_in_front_of_its_rules() {
        let table = [
            ("/* a */\np { top: 0 }", "", "", "/* a */\np { top: 0 }"),
            ("/* a */\n@import 'x';\np { top: 0 }", "@import 'x';\n", "", "/* a */\np { top: 0 }"),
            (
                "@layer a, b;@import 'x' layer(b);@namespace s 'u'; @layer c; p { top: 0 }",
                "@layer a, b;\n@import 'x' layer(b);\n",
                "@namespace s 'u';\n",
                " @layer c; p { top: 0 }",
            ),
            // Behind a rule neither counts.
            ("p { top: 0 } @import 'x';", "", "", "p { top: 0 } @import 'x';"),
            ("@layer a { } @import 'x';", "", "", "@layer a { } @import 'x';"),
        ];
        for (text, imports, namespaces, rules) in table {
            let parts = SheetParts::of(text);
            assert_eq!(
                (parts.imports.as_str(), parts.namespaces.as_str(), parts.rules.as_str()),
                (imports, namespaces, rules),
                "{text}"
            );
        }
    }
}
