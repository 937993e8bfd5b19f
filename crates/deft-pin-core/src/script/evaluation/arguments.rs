//! What functions are called with, and what loops go over, as far as that is known.

use super::value::{Doubt, Value};
use crate::script::program::ExpressionId;

/// Arguments, as far as they are known.
#[derive(Clone, Debug, Default)]
pub(super) struct Arguments {
    pub(super) values: Vec<Value>,
    /// Where they stand.
    pub(super) expressions: Vec<ExpressionId>,
    /// Whether there may be more.
    pub(super) is_open: bool,
}

impl Arguments {
    pub(super) fn of(values: Vec<Value>) -> Self {
        Arguments { values, expressions: Vec::new(), is_open: false }
    }

    /// Room for so many.
    pub(super) fn for_many(count: usize) -> Self {
        Arguments {
            values: Vec::with_capacity(count),
            expressions: Vec::with_capacity(count),
            is_open: false,
        }
    }

    /// One of them; `undefined` where there are fewer.
    pub(super) fn get(&self, at: usize) -> Value {
        match self.values.get(at) {
            Some(value) => value.clone(),
            None if self.is_open => Value::OPEN,
            None => Value::UNDEFINED,
        }
    }
}

/// What a loop goes over.
#[derive(Clone, Debug, Default)]
pub(super) struct Items {
    pub(super) known: Vec<Value>,
    /// Whether there may be more.
    pub(super) more: Option<Doubt>,
}
