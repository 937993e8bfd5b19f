//! Expressions, as they are evaluated (ECMA-262, "ECMAScript Language: Expressions").

use std::sync::Arc;

use oxc_syntax::operator::{BinaryOperator, LogicalOperator, UnaryOperator};

use super::arguments::{Arguments, Items};
use super::fault::RunFaultKind;
use super::links::{Link, Reference};
use super::machine::{Machine, Run};
use super::operators::whole_bits;
use super::value::{Certainty, Doubt, Kind, Value};
use crate::script::program::{Expression, ExpressionId, Item, Key, ObjectPart};

impl Machine<'_> {
    pub(super) fn expression(&mut self, id: ExpressionId) -> Run<Value> {
        self.step(1)?;
        self.deeper(|this| this.evaluate(id))
    }

    fn evaluate(&mut self, id: ExpressionId) -> Run<Value> {
        let program = self.program;
        let span = program.span(id);
        Ok(match program.expression(id) {
            Expression::Null => Value::NULL,
            Expression::Boolean(own) => Value::Boolean(*own),
            Expression::Number(own) => Value::Number(*own),
            Expression::Text(own) => Value::Text(Arc::clone(own)),
            Expression::RegExp(regular) => self.made(Kind::RegExp(Arc::clone(regular))),
            Expression::Template { texts, values } => {
                let mut parts = Vec::with_capacity(texts.len() + values.len());
                for (place, text) in texts.iter().enumerate() {
                    parts.push(Value::Text(Arc::clone(text)));
                    let Some(value) = values.get(place) else { continue };
                    let own = *value;
                    let value = self.expression(own)?;
                    self.check_joined(own, &value);
                    self.check_symbol(&value, program.span(own))?;
                    parts.push(self.primitive_of(&value, true, program.span(own))?);
                }
                self.put_together(&parts)
            }
            Expression::Tagged { tag, texts, values } => {
                let Link::On(reference) = self.link(*tag)? else { return Ok(Value::OPEN) };
                let items: Vec<Value> = texts.iter().map(|text| Value::Text(Arc::clone(text))).collect();
                let raw = self.array(items.clone(), false);
                let strings = self.make(Kind::Array(items));
                self.object_mut(strings).members.insert(Self::name("raw"), raw);
                let mut given = vec![Value::Object(strings)];
                for value in values {
                    given.push(self.expression(*value)?);
                }
                if let Some(stop) = self.not_callable(&reference, *tag) {
                    return Err(stop);
                }
                if reference.value.doubt().is_some() {
                    self.presence.lose();
                }
                self.call(&reference.value, reference.this, Arguments::of(given), span)?
            }
            Expression::Local(variable) => self.variable(*variable, span)?,
            Expression::Global(name) => self.global(name, span, true)?,
            Expression::This => {
                if let (Value::Object(this), false) = (&self.frame.this, self.unmade.is_empty())
                    && self.unmade.contains(this)
                {
                    return Err(self.throws(span, RunFaultKind::EarlyThis));
                }
                self.frame.this.clone()
            }
            Expression::Super => Value::OPEN,
            Expression::Array(items) => {
                let arguments = self.items(items)?;
                let id = self.make(Kind::Array(arguments.values));
                self.object_mut(id).is_open = arguments.is_open;
                Value::Object(id)
            }
            Expression::Object(parts) => self.object_literal(parts)?,
            Expression::Function(function) => self.closure(*function),
            Expression::Class(class) => self.class(*class)?,
            Expression::Unary(operator, inner) => self.unary(*operator, *inner)?,
            Expression::Update { target, is_prefix, by } => {
                let target = self.target(*target)?;
                let before = self.target_value(&target)?;
                let after = match self.as_number(&before) {
                    _ if before.primitive() == Some("BigInt") => before.clone(),
                    Ok(number) => Value::Number(number + by),
                    Err(doubt) => Value::Some("Number", doubt),
                };
                self.put(&target, after.clone())?;
                match *is_prefix || before.primitive() == Some("BigInt") {
                    true => after,
                    false => self.number_value(&before),
                }
            }
            Expression::Binary(operator, left, right) => {
                let (left_value, right_value) = match operator.is_equality() || operator.is_compare() {
                    true => self.compared_operands(*operator, *left, *right)?,
                    false => {
                        self.check_negated(*operator, *left, *right);
                        let (left_value, right_value) = (self.expression(*left)?, self.expression(*right)?);
                        if *operator == BinaryOperator::Addition {
                            self.check_joined(*left, &left_value);
                            self.check_joined(*right, &right_value);
                        }
                        (left_value, right_value)
                    }
                };
                if operator.is_equality() && self.may_ask() {
                    self.asks_whether_equal(*left, &right_value);
                    self.asks_whether_equal(*right, &left_value);
                }
                self.binary(*operator, &left_value, &right_value, program.span(*right))?
            }
            Expression::Logical(operator, left, right) => {
                let left = self.expression(*left)?;
                self.logical(*operator, left, *right)?
            }
            Expression::Conditional(test, consequent, alternate) => {
                let tested = self.expression(*test)?;
                match tested.truth() {
                    Ok(true) => self.expression(*consequent)?,
                    Ok(false) => self.expression(*alternate)?,
                    Err(doubt) => {
                        let certainty = Certainty::from(doubt);
                        let one = self.perhaps_value(certainty, *consequent)?;
                        let other = self.perhaps_value(certainty, *alternate)?;
                        match (one, other) {
                            (Some(one), Some(other)) => one.or(other),
                            (Some(one), None) | (None, Some(one)) => one,
                            (None, None) => Value::OPEN,
                        }
                    }
                }
            }
            Expression::Assign { operator, target, value } => self.assign(*operator, *target, *value)?,
            Expression::Member { .. } | Expression::Call { .. } => match self.link(id)? {
                Link::On(reference) => reference.value,
                Link::Ended => Value::UNDEFINED,
            },
            Expression::Chain(inner) => match self.link(*inner)? {
                Link::On(reference) => reference.value,
                Link::Ended => Value::UNDEFINED,
            },
            Expression::New { callee, arguments } => {
                let Link::On(Reference { this, value: class }) = self.link(*callee)? else {
                    return Ok(Value::OPEN);
                };
                if let Expression::Member { key: Key::Name(name), .. } = program.expression(*callee) {
                    self.check_heard(name, &this, program.span(*callee));
                }
                let arguments = self.items(arguments)?;
                self.construct(&class, arguments, *callee, span)?
            }
            Expression::Sequence(all) => {
                let mut last = Value::UNDEFINED;
                for own in all {
                    last = self.expression(*own)?;
                }
                last
            }
            Expression::Await(inner) => self.wait_for(id, *inner)?,
            Expression::Yield(inner) => {
                let value = inner.map_or(Ok(Value::UNDEFINED), |inner| self.expression(inner))?;
                self.gives(value)?
            }
            Expression::YieldAll(inner) => {
                let value = self.expression(*inner)?;
                self.gives_all(&value, program.span(*inner))?
            }
            Expression::BigInt => Value::Some("BigInt", Doubt::Page),
            Expression::Import(inner) => {
                let address = self.expression(*inner)?;
                let span = self.program.span(*inner);
                self.asks_for_module(&address, span);
                self.waiting(Value::OPEN)
            }
            Expression::Opaque(parts) => {
                for part in parts {
                    self.expression(*part)?;
                }
                Value::OPEN
            }
        })
    }

    /// Evaluates what may not be; none where it is left.
    fn perhaps_value(&mut self, certainty: Certainty, id: ExpressionId) -> Run<Option<Value>> {
        match self.perhaps(certainty, |this| this.expression(id)) {
            Ok(value) => Ok(Some(value)),
            Err(stop) => {
                self.may_stop(stop, certainty)?;
                Ok(None)
            }
        }
    }

    fn logical(&mut self, operator: LogicalOperator, left: Value, right: ExpressionId) -> Run<Value> {
        let goes_on = match operator {
            LogicalOperator::And => left.truth(),
            LogicalOperator::Or => left.truth().map(|truth| !truth),
            LogicalOperator::Coalesce => left.is_nothing(),
        };
        Ok(match goes_on {
            Ok(true) => self.expression(right)?,
            Ok(false) => left,
            Err(doubt) => match self.perhaps_value(Certainty::from(doubt), right)? {
                // An object is what it is of the two, or nothing.
                // Neither holds.
                Some(value) if operator == LogicalOperator::And && value.truth() == Ok(false) => {
                    Value::Boolean(false)
                }
                Some(value) if operator == LogicalOperator::And => {
                    Value::Unknown(value.doubt().map_or(doubt, |own| own.max(doubt)))
                }
                Some(value) => left.or(value),
                None => left,
            },
        })
    }

    fn unary(&mut self, operator: UnaryOperator, inner: ExpressionId) -> Run<Value> {
        let program = self.program;
        if operator == UnaryOperator::Typeof
            && let Expression::Global(name) = program.expression(inner)
        {
            let value = self.global(name, program.span(inner), false)?;
            return Ok(self.type_of(&value));
        }
        if operator == UnaryOperator::Delete {
            if let Expression::Member { object, key, .. } = program.expression(inner) {
                let object = self.expression(*object)?;
                let key = self.key(key)?;
                self.deletes(&object, key)?;
            }
            return Ok(Value::Boolean(true));
        }
        let mut value = self.expression(inner)?;
        if matches!(
            operator,
            UnaryOperator::UnaryPlus | UnaryOperator::UnaryNegation | UnaryOperator::BitwiseNot
        ) {
            value = self.primitive_of(&value, false, program.span(inner))?;
        }
        Ok(match operator {
            UnaryOperator::Typeof => self.type_of(&value),
            UnaryOperator::Void => Value::UNDEFINED,
            UnaryOperator::LogicalNot => match value.truth() {
                Ok(truth) => Value::Boolean(!truth),
                Err(doubt) => Value::Some("Boolean", doubt),
            },
            UnaryOperator::UnaryPlus => {
                if value.primitive() == Some("BigInt") {
                    return Err(self.mixes("a BigInt cannot be made a number by `+`", program.span(inner)));
                }
                self.check_symbol(&value, program.span(inner))?;
                self.number_value(&value)
            }
            UnaryOperator::UnaryNegation if value.primitive() == Some("BigInt") => value,
            UnaryOperator::UnaryNegation => match self.as_number(&value) {
                Ok(number) => Value::Number(-number),
                Err(doubt) => Value::Some("Number", doubt),
            },
            UnaryOperator::BitwiseNot => match self.as_number(&value) {
                Ok(number) => Value::Number(f64::from(!whole_bits(number))),
                Err(doubt) => Value::Some("Number", doubt),
            },
            UnaryOperator::Delete => Value::Boolean(true),
        })
    }

    pub(super) fn type_of(&self, value: &Value) -> Value {
        match (self.type_name(value), value) {
            (Some(name), _) => Value::text(name),
            (None, value) => Value::Some("String", value.doubt().unwrap_or(Doubt::Open)),
        }
    }

    /// What `typeof` gives for a value; none for one of which nothing is known.
    pub(super) fn type_name(&self, value: &Value) -> Option<&'static str> {
        Some(match value {
            Value::Unknown(_) => return None,
            Value::Some("String", _) | Value::Pieced(..) => "string",
            Value::Some("Number", _) => "number",
            Value::Some("BigInt", _) => "bigint",
            Value::Some(..) => "boolean",
            Value::Undefined(_) => "undefined",
            Value::Null(_) => "object",
            Value::Boolean(_) => "boolean",
            Value::Number(_) => "number",
            Value::Text(_) => "string",
            Value::Object(id) => match self.object(*id).kind {
                Kind::Proxy(target, _) => return self.type_name(&Value::Object(target)),
                Kind::Function(_)
                | Kind::Class(..)
                | Kind::Native(..)
                | Kind::QueryMethod(_)
                | Kind::Bound(..)
                | Kind::Other(..)
                | Kind::Settler(..)
                | Kind::GoesOn(..)
                | Kind::Constructor(_)
                | Kind::QueryFunction => "function",
                Kind::Instance("Symbol") => "symbol",
                _ => "object",
            },
        })
    }

    fn object_literal(&mut self, parts: &[ObjectPart]) -> Run<Value> {
        let id = self.make(Kind::Plain);
        for part in parts {
            match part {
                ObjectPart::Value(key, value) => {
                    let key = self.key(key)?;
                    let value = self.expression(*value)?;
                    match (key, &value) {
                        (Some(key), Value::Object(parent)) if &*key == "__proto__" => {
                            self.object_mut(id).parent = Some(*parent);
                        }
                        (Some(key), _) => {
                            self.object_mut(id).members.insert(key, value);
                        }
                        (None, _) => self.object_mut(id).is_open = true,
                    }
                }
                ObjectPart::Getter(key, value) => {
                    let key = self.key(key)?;
                    let getter = self.expression(*value)?;
                    let getter = self.made(Kind::Getter(getter));
                    if let Some(key) = key {
                        self.object_mut(id).members.insert(key, getter);
                    }
                }
                ObjectPart::Setter(key, value) => {
                    let key = self.key(key)?;
                    let setter = self.expression(*value)?;
                    self.give_setter(id, key, setter)?;
                }
                ObjectPart::Spread(value) => {
                    let span = self.program.span(*value);
                    let value = self.expression(*value)?;
                    self.copy_members(&value, id, span)?;
                }
            }
        }
        Ok(Value::Object(id))
    }

    pub(super) fn key(&mut self, key: &Key) -> Run<Option<Arc<str>>> {
        Ok(match key {
            Key::Name(name) => Some(Arc::clone(name)),
            Key::Computed(id) => {
                let value = self.expression(*id)?;
                self.has_number_key = value.primitive() == Some("Number");
                self.asks_by_chance(&value);
                match &value {
                    Value::Object(id) if let Some(key) = self.symbol_key(*id) => Some(key),
                    value => self.as_text(value).ok(),
                }
            }
        })
    }

    pub(super) fn items(&mut self, items: &[Item]) -> Run<Arguments> {
        let mut arguments = Arguments::for_many(items.len());
        for item in items {
            match item {
                Item::Hole => arguments.values.push(Value::UNDEFINED),
                Item::Value(id) => {
                    let value = self.expression(*id)?;
                    if !arguments.is_open {
                        arguments.values.push(value);
                        arguments.expressions.push(*id);
                    } else {
                        self.hand_over(&value)?;
                    }
                }
                Item::Spread(id) => {
                    let value = self.expression(*id)?;
                    let Items { known, more } = self.iterated(&value, self.program.span(*id))?;
                    if !arguments.is_open {
                        arguments.expressions.extend(known.iter().map(|_| *id));
                        arguments.values.extend(known);
                    }
                    arguments.is_open |= more.is_some();
                }
            }
        }
        Ok(arguments)
    }

    /// The two that are compared.
    fn compared_operands(
        &mut self,
        operator: BinaryOperator,
        left: ExpressionId,
        right: ExpressionId,
    ) -> Run<(Value, Value)> {
        let (left_value, of_left) = self.compared_operand(left, right)?;
        let (right_value, of_right) = self.compared_operand(right, left)?;
        self.check_comparison(operator, (left, &left_value, &of_left), right);
        self.check_comparison(operator, (right, &right_value, &of_right), left);
        Ok((left_value, right_value))
    }

    /// A text that is not longer than what is kept.
    pub(super) fn bounded(&self, text: &str) -> Value {
        self.charge(text.len() / 64);
        if text.len() > 20_000 { Value::OPEN } else { Value::text(text) }
    }
}
