//! Arrays that are sorted (ECMA-262, "Array.prototype.sort").

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::value::{Kind, Value};
use crate::source::Span;

/// Longer arrays are not sorted.
const MOST: usize = 100;

impl Machine<'_> {
    /// The items of an array, sorted; in an order that is not known where what compares them does not tell.
    pub(super) fn sorted(&mut self, items: Vec<Value>, by: &Value, span: Span) -> Run<Vec<Value>> {
        if items.len() > MOST {
            self.hand_over(by)?;
            return Ok(mixed(&items));
        }
        let mut known = true;
        // What has no value comes last.
        let (blank, items): (Vec<Value>, Vec<Value>) =
            items.into_iter().partition(|item| matches!(item, Value::Undefined(_)));
        let mut sorted = self.sorted_part(items.clone(), by, span, &mut known)?;
        sorted.extend(blank.iter().cloned());
        Ok(if known { sorted } else { mixed(&[items, blank].concat()) })
    }

    /// Numbers that are sorted by their texts, and stand in another order then.
    pub(super) fn check_sorted(&mut self, items: &[Value], by: &Value, span: Span) {
        if !matches!(by, Value::Undefined(_)) || items.len() > MOST {
            return;
        }
        let of = |item: &Value| if let Value::Number(own) = item { Some(*own) } else { None };
        let Some(mut numbers) = items.iter().map(of).collect::<Option<Vec<f64>>>() else { return };
        numbers.sort_by(f64::total_cmp);
        let mut texts: Vec<String> = numbers.iter().map(f64::to_string).collect();
        if texts.is_sorted() {
            return;
        }
        texts.sort();
        let says =
            format!("`sort` compares texts, and so the order is {}", texts[..texts.len().min(6)].join(", "));
        self.is_vain(says, Some("sort((a, b) => a - b)".to_owned()), span);
    }

    /// Whether what an array is to be sorted by is no function.
    pub(super) fn compares_nothing(&self, by: &Value) -> bool {
        let is_object = matches!(self.kind(by), Some(Kind::Plain | Kind::Array(_) | Kind::Element(_)));
        !matches!(by, Value::Undefined(_))
            && (is_object || by.primitive().is_some() || by.is_nothing() == Ok(true))
    }

    fn sorted_part(
        &mut self,
        mut items: Vec<Value>,
        by: &Value,
        span: Span,
        known: &mut bool,
    ) -> Run<Vec<Value>> {
        if items.len() < 2 {
            return Ok(items);
        }
        let right = items.split_off(items.len() / 2);
        let left = self.sorted_part(items, by, span, known)?;
        let right = self.sorted_part(right, by, span, known)?;
        let (mut left, mut right) = (left.into_iter().peekable(), right.into_iter().peekable());
        let mut out = Vec::new();
        while let (Some(first), Some(second)) = (left.peek(), right.peek()) {
            let is_behind = self.comes_behind(first, second, by, span)?;
            *known &= is_behind.is_some();
            out.extend(if is_behind == Some(true) { right.next() } else { left.next() });
        }
        out.extend(left);
        out.extend(right);
        Ok(out)
    }

    /// Whether one item comes behind another; none where that is not known.
    fn comes_behind(&mut self, first: &Value, second: &Value, by: &Value, span: Span) -> Run<Option<bool>> {
        if let Value::Undefined(_) = by {
            let texts = self.as_text(first).ok().zip(self.as_text(second).ok());
            return Ok(texts.map(|(first, second)| first.encode_utf16().gt(second.encode_utf16())));
        }
        let given = Arguments::of(vec![first.clone(), second.clone()]);
        let result = self.call(by, Value::UNDEFINED, given, span)?;
        Ok(self.as_number(&result).ok().map(|order| order > 0.0))
    }
}

/// As many items, each of which may be any of these.
fn mixed(items: &[Value]) -> Vec<Value> {
    let any = items.iter().cloned().reduce(Value::or).unwrap_or(Value::OPEN);
    vec![any; items.len()]
}
