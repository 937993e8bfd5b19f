//! Chains of members and calls: `a.b?.c(d).e`.

use super::machine::{Machine, Run};
use super::value::{Doubt, Value};
use crate::script::program::{Expression, ExpressionId, Key};

/// What is called, and on what.
pub(super) struct Reference {
    pub(super) this: Value,
    pub(super) value: Value,
}

/// Where an optional chain ends early.
pub(super) enum Link<T> {
    On(T),
    Ended,
}

impl Machine<'_> {
    /// A member or a call, with what it is a member of. In an optional chain the rest may be left out.
    pub(super) fn link(&mut self, id: ExpressionId) -> Run<Link<Reference>> {
        self.step(1)?;
        self.deeper(|this| this.follow_link(id))
    }

    /// What a member comes to, and what it is a member of.
    pub(super) fn member_and_owner(&mut self, id: ExpressionId) -> Run<(Value, Value)> {
        Ok(match self.link(id)? {
            Link::On(reference) => (reference.value, reference.this),
            Link::Ended => (Value::UNDEFINED, Value::UNDEFINED),
        })
    }

    fn follow_link(&mut self, id: ExpressionId) -> Run<Link<Reference>> {
        let program = self.program;
        let span = program.span(id);
        match program.expression(id) {
            Expression::Member { object, key, is_optional } => {
                let of = *object;
                if matches!(program.expression(of), Expression::Super) {
                    let key = self.key(key)?;
                    let value = self.super_member(key.as_ref(), span)?;
                    return Ok(Link::On(Reference { this: self.frame.this.clone(), value }));
                }
                let Link::On(reference) = self.link(of)? else { return Ok(Link::Ended) };
                let value = reference.value;
                if *is_optional && let Ok(true) = value.is_nothing() {
                    return Ok(Link::Ended);
                }
                if !is_optional && value.doubt().is_some() {
                    self.check_racing_member(of);
                }
                let key = self.key(key)?;
                let found = match self.member_by_owner(&value, of, key.as_ref()) {
                    Some(found) => found,
                    None => self.member(&value, key.as_ref(), of, span)?,
                };
                Ok(Link::On(Reference { this: value, value: found }))
            }
            Expression::Call { callee, arguments, is_optional } => {
                let is_super = matches!(program.expression(*callee), Expression::Super);
                let Link::On(reference) = self.link(*callee)? else { return Ok(Link::Ended) };
                if *is_optional && let Ok(true) = reference.value.is_nothing() {
                    return Ok(Link::Ended);
                }
                let arguments = self.items(arguments)?;
                if is_super {
                    let value = self.call_super(arguments, span)?;
                    return Ok(Link::On(Reference { this: Value::UNDEFINED, value }));
                }
                if let Some(stop) = self.not_callable(&reference, *callee) {
                    return Err(stop);
                }
                self.check_handed(&reference.value, &reference.this, *callee, &arguments, false)?;
                if let (
                    Some(Doubt::Visit | Doubt::Now | Doubt::Bare | Doubt::Open | Doubt::Script),
                    Expression::Member { key: Key::Name(name), .. },
                ) = (reference.value.doubt(), program.expression(*callee))
                {
                    self.check_heard(name, &reference.this, program.span(*callee));
                    if let Some(refused) = self.refused_by_owner(*callee, &arguments, span) {
                        return Ok(Link::On(Reference { this: Value::UNDEFINED, value: refused? }));
                    }
                    self.call_by_name(name, &arguments, span);
                } else if reference.value.doubt().is_some() {
                    self.presence.lose();
                }
                let value = self.call(&reference.value, reference.this, arguments, span)?;
                Ok(Link::On(Reference { this: Value::UNDEFINED, value }))
            }
            _ => {
                let value = self.expression(id)?;
                Ok(Link::On(Reference { this: Value::UNDEFINED, value }))
            }
        }
    }
}
