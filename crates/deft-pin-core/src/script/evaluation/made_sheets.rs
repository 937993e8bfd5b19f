//! Style sheets that scripts make and change rule by rule (CSSOM, "The CSSStyleSheet Interface").

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::value::{EXACT, Kind, ObjectId, Value};
use crate::markup::parse_selectors;
use crate::source::Span;
use crate::style::{AtRuleKind, Rule, Sheet};

/// Where it is kept how many rules a sheet has.
const RULES: &str = "#rules";
/// Where the list of them is kept.
const LIST: &str = "#list of rules";
/// Where an element keeps its sheet, and the text that this was made from.
const SHEET: &str = "#sheet";
const TEXT: &str = "#sheet text";

/// How many rules a browser keeps of a text; none where that is not certain.
fn rules_in(text: &str) -> Option<usize> {
    let sheet = Sheet::parse(text);
    let is_kept = |rule: &Rule| match rule {
        Rule::Style(own) => parse_selectors(&text[own.prelude.range()]).is_ok(),
        Rule::At(own) => {
            matches!(own.kind(), AtRuleKind::Media | AtRuleKind::Keyframes | AtRuleKind::FontFace)
                && own.block.is_some()
        }
    };
    (sheet.skipped.is_empty() && sheet.rules.iter().all(is_kept)).then_some(sheet.rules.len())
}

/// Whether a text is certainly not one whole rule (css-syntax-3, "Parse a rule").
fn is_no_rule(text: &str) -> bool {
    let sheet = Sheet::parse(text);
    match sheet.rules.as_slice() {
        [Rule::Style(own)] => {
            sheet.skipped.iter().any(|skipped| !skipped.in_block)
                || parse_selectors(&text[own.prelude.range()]).is_err()
        }
        [Rule::At(_)] => false,
        _ => true,
    }
}

impl Machine<'_> {
    /// A sheet with so many rules.
    pub(super) fn made_sheet(&mut self, rules: Option<usize>) -> Value {
        let made = self.make(Kind::Instance("CSSStyleSheet"));
        let members = &mut self.object_mut(made).members;
        members.insert(Arc::from(EXACT), Value::NULL);
        if let Some(count) = rules {
            members.insert(Arc::from(RULES), Value::Number(count as f64));
        }
        Value::Object(made)
    }

    /// The sheet of a `style` element of that text.
    pub(super) fn sheet_of(&mut self, element: ObjectId, text: &Value) -> Value {
        let Value::Text(text) = text else { return self.made_sheet(None) };
        let own = &self.object(element).members;
        if let (Some(Value::Text(before)), Some(sheet)) = (own.get(TEXT), own.get(SHEET))
            && before == text
        {
            return sheet.clone();
        }
        let sheet = self.made_sheet(rules_in(text));
        self.put_member(element, Arc::from(TEXT), Value::Text(Arc::clone(text)));
        self.put_member(element, Arc::from(SHEET), sheet.clone());
        sheet
    }

    /// The rules of a sheet; none where it is not known how many there are.
    pub(super) fn rules_of(&mut self, sheet: ObjectId) -> Option<Value> {
        let count = self.count_of_rules(sheet)?;
        if let Some(known) = self.object(sheet).members.get(LIST) {
            return Some(known.clone());
        }
        let list = self.list("CSSRuleList", vec![Value::OPEN; count], None);
        self.put_member(sheet, Arc::from(LIST), list.clone());
        Some(list)
    }

    /// The list of a sheet's rules follows what is done to the sheet.
    fn follows_rules(&mut self, sheet: ObjectId) {
        let count = self.count_of_rules(sheet);
        let Some(Value::Object(list)) = self.object(sheet).members.get(LIST).cloned() else { return };
        let list = self.object_mut(list);
        list.is_open |= count.is_none();
        if let Kind::List(_, items) = &mut list.kind {
            *items = vec![Value::OPEN; count.unwrap_or_default()];
        }
    }

    fn count_of_rules(&self, sheet: ObjectId) -> Option<usize> {
        match self.object(sheet).members.get(RULES)? {
            Value::Number(count) if *count < 1000.0 => Some(*count as usize),
            _ => None,
        }
    }

    /// A method of a sheet; none for others.
    pub(super) fn call_sheet(
        &mut self,
        name: &str,
        sheet: ObjectId,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let count = self.count_of_rules(sheet);
        let first = arguments.get(0);
        let (result, after) = match name {
            "insertRule" => {
                let place = match arguments.get(1) {
                    Value::Undefined(_) => Ok(0.0),
                    given => self.as_number(&given),
                };
                if let (Ok(place), Some(count)) = (&place, count)
                    && (*place < 0.0 || *place > count as f64)
                {
                    let takes = format!("a place from 0 to {count}: the sheet has {count} rules by then");
                    return Err(self.refused(name, place.to_string(), &takes, None, span));
                }
                if let Value::Text(text) = &first
                    && is_no_rule(text)
                {
                    let given = text.to_string();
                    return Err(self.refused(name, given, "one whole rule: `selector { … }`", None, span));
                }
                (place.map_or(Value::A_NUMBER, Value::Number), count.map(|count| count + 1))
            }
            "addRule" => (Value::Number(-1.0), count.map(|count| count + 1)),
            "deleteRule" | "removeRule" => {
                let place = match &first {
                    Value::Undefined(_) => Ok(0.0),
                    given => self.as_number(given),
                };
                if let (Ok(place), Some(count)) = (place, count)
                    && (place < 0.0 || place >= count as f64)
                {
                    let takes = format!("a place of a rule: the sheet has {count} rules by then");
                    return Err(self.refused(name, place.to_string(), &takes, None, span));
                }
                (Value::UNDEFINED, count.map(|count| count.saturating_sub(1)))
            }
            "replaceSync" => match &first {
                Value::Text(text) => (Value::UNDEFINED, rules_in(text)),
                _ => (Value::UNDEFINED, None),
            },
            "replace" => {
                self.put_member(sheet, Arc::from(RULES), Value::OPEN);
                self.follows_rules(sheet);
                return Ok(None);
            }
            _ => return Ok(None),
        };
        let after = after.map_or(Value::OPEN, |count| Value::Number(count as f64));
        self.put_member(sheet, Arc::from(RULES), after);
        self.follows_rules(sheet);
        Ok(Some(result))
    }
}

#[cfg(test)]
mod tests {
    use super::{is_no_rule, rules_in};

    #[test]
    fn rules_are_counted_where_a_browser_keeps_them_for_certain() {
        for (text, count) in [
            ("", Some(0)),
            (".a { color: red } .b { colr: red }", Some(2)),
            ("@media print { p { color: red } } p {}", Some(2)),
            ("@import 'x.css'; p {}", None),
            (".a:hovr {} p {}", None),
            ("p { color: red } color: red", None),
        ] {
            assert_eq!(rules_in(text), count, "{text}");
        }
    }

    #[test]
    fn what_is_no_rule_is_known_as_that() {
        for (text, is_none) in [
            (".a { color: red }", false),
            (".a { color: red", false),
            ("@media print { p { color: red } }", false),
            ("color: red", true),
            ("", true),
            (".a {} .b {}", true),
            ("..a { color: red }", true),
        ] {
            assert_eq!(is_no_rule(text), is_none, "{text}");
        }
    }
}
