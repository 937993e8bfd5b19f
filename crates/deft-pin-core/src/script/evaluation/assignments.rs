//! Assignments (ECMA-262, "Assignment Operators").

use crate::script::program::{Expression, ExpressionId, Pattern, PatternId};
use oxc_syntax::operator::{AssignmentOperator, LogicalOperator};
use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::value::{Certainty, Kind, Value};
use crate::source::Span;

/// What is assigned to.
pub(super) enum Target {
    Pattern(PatternId),
    Member { object: Value, key: Option<Arc<str>>, of: ExpressionId, span: Span },
}

impl Machine<'_> {
    pub(super) fn assign(
        &mut self,
        operator: AssignmentOperator,
        target: PatternId,
        value: ExpressionId,
    ) -> Run<Value> {
        let span = self.program.span(value);
        let target = self.target(target)?;
        if operator == AssignmentOperator::Assign {
            let given = self.expression(value)?;
            if matches!(&target, Target::Member { key: Some(key), .. } if matches!(&**key, "innerHTML" | "outerHTML"))
            {
                self.check_joined(value, &given);
            }
            self.assigned = Some(value);
            self.put(&target, given.clone())?;
            return Ok(given);
        }
        let before = self.target_value(&target)?;
        if let Some(logical) = operator.to_logical_operator() {
            let goes_on = match logical {
                LogicalOperator::And => before.truth(),
                LogicalOperator::Or => before.truth().map(|truth| !truth),
                LogicalOperator::Coalesce => before.is_nothing(),
            };
            return match goes_on {
                Ok(true) => {
                    let value = self.expression(value)?;
                    self.put(&target, value.clone())?;
                    Ok(value)
                }
                Ok(false) => Ok(before),
                Err(doubt) => {
                    let certainty = Certainty::from(doubt);
                    let result = self.perhaps(certainty, |this| {
                        let value = this.expression(value)?;
                        this.put(&target, value.clone())?;
                        Ok(value)
                    });
                    match result {
                        Ok(value) => Ok(before.or(value)),
                        Err(stop) => self.may_stop(stop, certainty).map(|()| before),
                    }
                }
            };
        }
        let right = self.expression(value)?;
        if operator == AssignmentOperator::Addition {
            self.check_joined(value, &right);
        }
        let result = match operator.to_binary_operator() {
            Some(operator) => self.binary(operator, &before, &right, span)?,
            None => Value::OPEN,
        };
        self.assigned = Some(value);
        if let (Target::Member { key: Some(key), .. }, AssignmentOperator::Addition) = (&target, operator) {
            self.check_glued(key, &before, &right, span);
        }
        if !self.adds_markup(&target, &before, &right, span)? {
            self.put(&target, result.clone())?;
        }
        Ok(result)
    }

    /// `innerHTML += …` where what was there before is not known: it stays, and the rest comes behind it.
    fn adds_markup(&mut self, target: &Target, before: &Value, added: &Value, span: Span) -> Run<bool> {
        let Target::Member { object, key: Some(key), .. } = target else { return Ok(false) };
        let is_kept = &**key == "innerHTML"
            && matches!(self.kind(object), Some(Kind::Element(_)))
            && before.primitive() == Some("String")
            && self.as_text(before).is_err()
            && self.as_text(added).is_ok();
        if is_kept {
            let arguments = Arguments::of(vec![Value::text("beforeend"), added.clone()]);
            let name: Arc<str> = Arc::from("insertAdjacentHTML");
            let method = self.made(Kind::Native("Element", name));
            self.call(&method, object.clone(), arguments, span)?;
        }
        Ok(is_kept)
    }

    /// What is assigned to: its object and its name are evaluated once, before the value is.
    pub(super) fn target(&mut self, id: PatternId) -> Run<Target> {
        let program = self.program;
        let span = program.pattern_span(id);
        let Pattern::Member(member) = program.pattern(id) else { return Ok(Target::Pattern(id)) };
        let Expression::Member { object, key, .. } = program.expression(*member) else {
            return Ok(Target::Pattern(id));
        };
        let of = *object;
        let object = self.expression(of)?;
        let key = self.key(key)?;
        Ok(Target::Member { object, key, of, span })
    }

    pub(super) fn target_value(&mut self, target: &Target) -> Run<Value> {
        match target {
            Target::Pattern(id) => self.pattern_value(*id),
            Target::Member { object, key, of, span } => self.member(object, key.as_ref(), *of, *span),
        }
    }

    pub(super) fn put(&mut self, target: &Target, value: Value) -> Run<()> {
        match target {
            Target::Pattern(id) => self.bind(*id, value, None),
            Target::Member { object, key, of, span } => {
                self.set_member(object, key.clone(), value, *of, *span)
            }
        }
    }

    /// What a pattern that is assigned to has so far.
    pub(super) fn pattern_value(&mut self, id: PatternId) -> Run<Value> {
        let program = self.program;
        let span = program.pattern_span(id);
        match program.pattern(id) {
            Pattern::Local(variable) => self.variable(*variable, span),
            Pattern::Global(name) => self.global(name, span, true),
            Pattern::Member(member) => self.expression(*member),
            _ => Ok(Value::OPEN),
        }
    }
}
