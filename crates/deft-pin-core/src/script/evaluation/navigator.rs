//! What hangs on the navigator, which some browsers have and others have not, and not on each page: whatever is there, a
//! name that it never has is missing, and what its functions refuse they refuse.

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::platform::{self, Interface};
use super::value::{Absence, Kind, Value};
use crate::script::program::{Expression, ExpressionId, Key};
use crate::source::Span;

impl Machine<'_> {
    /// A member of what is known by its name alone: one that nothing of the navigator has, whatever a browser has there
    /// (`navigator.clipboard.writeTxt`), or a method of a prototype (`Array.prototype.slice`).
    pub(super) fn member_by_owner(
        &mut self,
        value: &Value,
        of: ExpressionId,
        key: Option<&Arc<str>>,
    ) -> Option<Value> {
        value.doubt()?;
        let Expression::Member { object, key: Key::Name(owner), .. } = self.program.expression(of) else {
            return None;
        };
        if let (Expression::Global(of), "prototype", Some(key)) =
            (self.program.expression(*object), &**owner, key)
        {
            // A method of the language's own, to be called on something else.
            let of = platform::interface(of).filter(|of| matches!(*of, "Array" | "Object" | "String"))?;
            let is_method = platform::member(of, key).is_some_and(|own| own.is_function);
            return is_method.then(|| self.made(Kind::Native(of, Arc::clone(key))));
        }
        let of = self.of_navigator(of)?;
        let key = key?;
        let is_strange = platform::member(of, key).is_none()
            && platform::member("Object", key).is_none()
            && !self.may_be_added(of, key)
            && !self.is_set_here(key);
        is_strange.then(|| Value::Undefined(Some(self.absent(Absence::Member { of, name: Arc::clone(key) }))))
    }

    /// What a call of a function of something of the navigator throws, or is rejected by, whether a browser has it there
    /// or not; none where it may go well.
    pub(super) fn refused_by_owner(
        &mut self,
        callee: ExpressionId,
        arguments: &Arguments,
        span: Span,
    ) -> Option<Run<Value>> {
        let Expression::Member { object, key: Key::Name(name), .. } = self.program.expression(callee) else {
            return None;
        };
        let of = self.of_navigator(*object)?;
        if self.may_be_added(of, name) || self.is_set_here(name) {
            return None;
        }
        let first_fault = self.faults.len();
        let stop = self.refused_call(of, name, arguments, span)?;
        Some(match platform::gives_promise(of, name) {
            true => self.promise_of(Err(stop), None, first_fault),
            false => Err(stop),
        })
    }

    /// The interface of something of the navigator: `navigator.clipboard`.
    fn of_navigator(&self, of: ExpressionId) -> Option<Interface> {
        let Expression::Member { object, key: Key::Name(owner), .. } = self.program.expression(of) else {
            return None;
        };
        let (Expression::Global(name) | Expression::Member { key: Key::Name(name), .. }) =
            self.program.expression(*object)
        else {
            return None;
        };
        let of = platform::member("Navigator", owner).filter(|_| &**name == "navigator")?.result;
        platform::interface(of.trim_end_matches('?'))
    }
}
