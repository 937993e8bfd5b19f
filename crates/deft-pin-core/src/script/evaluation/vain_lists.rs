//! Lists that become texts by themselves: commas stand between what is in them (ECMA-262, "Array.prototype.toString").

use super::fault::RunFaultKind;
use super::machine::Machine;
use super::piece::Piece;
use super::value::{Kind, Value};
use crate::script::program::{Expression, ExpressionId, Item, Key};

impl Machine<'_> {
    /// Markup in a list that becomes a part of a text, or is put in as one.
    pub(super) fn check_joined(&mut self, id: ExpressionId, value: &Value) {
        let commas = match self.kind(value) {
            Some(Kind::Array(items)) => {
                let is_open = matches!(value, Value::Object(id) if self.object(*id).is_open);
                match items.is_empty() {
                    true => is_open && self.maps_to_markup(id),
                    false => (is_open || items.len() > 1) && items.iter().any(holds_markup),
                }
            }
            Some(_) => false,
            None => value.doubt().is_some() && value.primitive().is_none() && self.maps_to_markup(id),
        };
        if !commas {
            return;
        }
        let span = self.program.span(id);
        let list = self.written(span);
        self.note(span, RunFaultKind::Commas { list });
    }

    /// Whether it is a call of `map` with a function that makes markup.
    fn maps_to_markup(&self, id: ExpressionId) -> bool {
        let Expression::Call { callee, arguments, .. } = self.program.expression(id) else { return false };
        let is_map = matches!(self.program.expression(*callee), Expression::Member { key: Key::Name(name), .. } if **name == *"map");
        let [Item::Value(function)] = &**arguments else { return false };
        let Expression::Function(function) = self.program.expression(*function) else { return false };
        let result = self.program.function(*function).last_result(self.program);
        is_map && result.is_some_and(|own| self.is_markup(own, 0))
    }

    fn is_markup(&self, id: ExpressionId, depth: usize) -> bool {
        const DEEPEST: usize = 50;
        match self.program.expression(id) {
            Expression::Text(text) => text.contains('<'),
            Expression::Template { texts, .. } => texts.iter().any(|text| text.contains('<')),
            Expression::Binary(_, left, right) => {
                depth < DEEPEST && (self.is_markup(*left, depth + 1) || self.is_markup(*right, depth + 1))
            }
            _ => false,
        }
    }
}

fn holds_markup(item: &Value) -> bool {
    let is_markup = |text: &str| text.contains('<') && text.contains('>');
    match item {
        Value::Text(text) => is_markup(text),
        Value::Pieced(pieces, _) => {
            pieces.iter().any(|piece| matches!(piece, Piece::Known(text) if is_markup(text)))
        }
        _ => false,
    }
}
