//! Lists that are made: of items, of something else, of lists within lists (ECMA-262, "Array Constructor").

use super::arguments::{Arguments, Items};
use super::arrays::HOLES;
use super::machine::{Machine, Run};
use super::value::{Doubt, Kind, Value};
use crate::source::Span;
use std::sync::Arc;

impl Machine<'_> {
    pub(super) fn call_array_itself(&mut self, name: &str, arguments: Arguments, span: Span) -> Run<Value> {
        match name {
            "isArray" => Ok(match arguments.get(0) {
                Value::Unknown(doubt) => Value::Unknown(doubt),
                ref own => Value::Boolean(matches!(self.kind(own), Some(Kind::Array(_)))),
            }),
            "of" => Ok(self.array(arguments.values, arguments.is_open)),
            "from" => {
                let source = arguments.get(0);
                let items = match (&source, self.kind(&source)) {
                    (_, Some(Kind::Plain)) => self.of_length(&source),
                    _ => self.iterated(&source, span)?,
                };
                let list = self.array(items.known, items.more.is_some());
                self.keep_absence(&source, &list);
                match arguments.get(1) {
                    Value::Undefined(_) => Ok(list),
                    function => self.call_array("map", list, Arguments::of(vec![function]), span),
                }
            }
            _ => Ok(Value::OPEN),
        }
    }

    /// What `splice` takes out of a list: from where up to where; none where that is not known.
    pub(super) fn spliced(&self, count: usize, arguments: &Arguments) -> Option<(usize, usize)> {
        let all = count as f64;
        if arguments.is_open || arguments.values.is_empty() {
            return None;
        }
        let start = self.as_number(&arguments.get(0)).ok().filter(|start| start.is_finite())?.trunc();
        let from = if start < 0.0 { (all + start).max(0.0) } else { start.min(all) };
        let taken = match arguments.values.len() {
            1 => all - from,
            _ => self.as_number(&arguments.get(1)).ok()?.trunc().clamp(0.0, all - from),
        };
        taken.is_finite().then_some((from as usize, (from + taken) as usize))
    }

    /// The items of what has but a length: `Array.from({ length: 3 })`.
    fn of_length(&self, source: &Value) -> Items {
        const MOST: f64 = 300.0;
        if let Value::Object(id) = source
            && let Some(Value::Number(length)) = self.object(*id).members.get("length")
            && self.object(*id).members.len() == 1
            && !self.object(*id).is_open
            && (0.0..MOST).contains(length)
        {
            return Items { known: vec![Value::UNDEFINED; *length as usize], more: None };
        }
        Items { known: Vec::new(), more: Some(Doubt::Open) }
    }

    /// The items of lists among some values, and the others as they are; none where that is not known.
    pub(super) fn flattened(&self, values: &[Value]) -> Option<Vec<Value>> {
        let mut flat = Vec::new();
        for value in values {
            match value {
                Value::Unknown(_) => return None,
                Value::Object(id) => match &self.object(*id).kind {
                    Kind::Array(_) if self.object(*id).is_open => return None,
                    Kind::Array(items) => flat.extend(items.iter().cloned()),
                    _ => flat.push(value.clone()),
                },
                value => flat.push(value.clone()),
            }
        }
        Some(flat)
    }

    /// The same as deep as that; none where it comes to too many.
    pub(super) fn flattened_to(&self, items: Vec<Value>, depth: f64) -> Option<Vec<Value>> {
        const DEEPEST: f64 = 10.0;
        const MOST: usize = 2_000;
        let mut flat = items;
        let mut left = depth.min(DEEPEST);
        while left >= 1.0 && flat.iter().any(|item| matches!(self.kind(item), Some(Kind::Array(_)))) {
            flat = self.flattened(&flat).filter(|flat| flat.len() <= MOST)?;
            self.charge(flat.len());
            left -= 1.0;
        }
        Some(flat)
    }

    pub(super) fn has_holes(&self, list: &Value) -> bool {
        matches!(list, Value::Object(id) if self.object(*id).members.contains_key(HOLES))
    }

    pub(super) fn array(&mut self, items: Vec<Value>, is_open: bool) -> Value {
        let id = self.make(Kind::Array(items));
        self.object_mut(id).is_open = is_open;
        Value::Object(id)
    }

    /// An empty list that is made from another is empty for the same reason.
    pub(super) fn keep_absence(&mut self, from: &Value, to: &Value) {
        let absence = self.absence_of_item(from);
        if let (Some(absence), Value::Object(id)) = (absence, to) {
            self.object_mut(*id).members.insert(Arc::from("#absence"), Value::Null(Some(absence)));
        }
    }
}
