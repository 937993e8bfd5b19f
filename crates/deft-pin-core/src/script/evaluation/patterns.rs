//! Values put where they belong: declared, assigned, taken apart (ECMA-262, "Destructuring Binding Patterns").

use std::sync::Arc;

use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Absence, Certainty, Kind, Value};
use crate::script::program::{DeclarationKind, Expression, ExpressionId, Key, Pattern, PatternId};

impl Machine<'_> {
    /// Binds a value to a pattern: in a declaration, or else in an assignment.
    pub(super) fn bind(&mut self, id: PatternId, value: Value, declared: Option<DeclarationKind>) -> Run<()> {
        self.step(1)?;
        let program = self.program;
        let span = program.pattern_span(id);
        match program.pattern(id) {
            Pattern::Local(variable) => match declared {
                Some(kind) => {
                    self.initialise(*variable, value, kind == DeclarationKind::Const);
                    Ok(())
                }
                None => self.set_variable(*variable, value, span),
            },
            Pattern::Global(name) => {
                if self.frame.is_strict && self.global_value(name)?.is_none() {
                    return Err(self.throws(span, RunFaultKind::NoGlobal { name: name.to_string() }));
                }
                self.set_window_member(name, value, span);
                Ok(())
            }
            Pattern::Member(member) => {
                let Expression::Member { object, key, .. } = program.expression(*member) else {
                    return Ok(());
                };
                let of = *object;
                let object = self.expression(of)?;
                let key = self.key(key)?;
                self.set_member(&object, key, value, of, span)
            }
            Pattern::Default(inner, default) => {
                let value = match &value {
                    Value::Undefined(_) => self.expression(*default)?,
                    Value::Unknown(doubt) => {
                        let certainty = Certainty::from(*doubt);
                        match self.perhaps(certainty, |this| this.expression(*default)) {
                            Ok(own) => value.or(own),
                            Err(stop) => {
                                self.may_stop(stop, certainty)?;
                                value
                            }
                        }
                    }
                    _ => value,
                };
                self.bind(*inner, value, declared)
            }
            Pattern::Array { items, rest } => {
                let all = self.iterated(&value, span)?;
                let absence = self.absence_of_item(&value);
                for (at, item) in items.iter().enumerate() {
                    let Some(item) = item else { continue };
                    let value = match all.known.get(at) {
                        Some(value) => value.clone(),
                        None if all.more.is_some() => Value::OPEN,
                        None => Value::Undefined(absence),
                    };
                    self.bind(*item, value, declared)?;
                }
                if let Some(rest) = rest {
                    let left = all.known.get(items.len()..).unwrap_or_default().to_vec();
                    let array = self.make(Kind::Array(left));
                    self.object_mut(array).is_open = all.more.is_some();
                    self.bind(*rest, Value::Object(array), declared)?;
                }
                Ok(())
            }
            Pattern::Object { parts, rest } => {
                if let Some(stop) = self.no_members(&value, span) {
                    return Err(stop);
                }
                let mut taken = Vec::new();
                for (key, part) in parts {
                    let key = match key {
                        Key::Name(name) => Some(Arc::clone(name)),
                        computed => self.key(computed)?,
                    };
                    let member = self.member_at(&value, key.as_ref(), span)?;
                    if let Some(key) = &key {
                        self.asks_by_part(&value, key, *part);
                    }
                    self.bind(*part, member, declared)?;
                    taken.push(key);
                }
                if let Some(rest) = rest {
                    let id = self.make(Kind::Plain);
                    self.copy_members(&value, id, span)?;
                    let object = self.object_mut(id);
                    object.is_open |= taken.iter().any(Option::is_none);
                    object.members.retain(|key, _| !taken.iter().flatten().any(|taken| taken == key));
                    self.bind(*rest, Value::Object(id), declared)?;
                }
                Ok(())
            }
        }
    }

    pub(super) fn set_global(&mut self, name: Arc<str>, value: Value) {
        let value = match self.globals.get(&name) {
            // Objects of the beginning are as old as globals.
            Some(before) if !self.is_strong(0) => before.clone().or(value),
            None if !self.is_strong(0) => Value::OPEN,
            _ => value,
        };
        self.globals.insert(name, value);
    }

    /// What is missing where an item of a value is.
    pub(super) fn absence_of_item(&mut self, value: &Value) -> Option<super::value::AbsenceId> {
        let Value::Object(id) = value else { return None };
        match self.object(*id).members.get("#absence") {
            Some(Value::Null(absence)) => *absence,
            _ => None,
        }
    }

    /// What is thrown where members are asked of nothing.
    pub(super) fn no_members(
        &mut self,
        value: &Value,
        span: crate::source::Span,
    ) -> Option<super::machine::Stop> {
        let absence = match value {
            Value::Undefined(absence) | Value::Null(absence) => *absence,
            _ => return None,
        };
        let kind = self.kind_of_absence(absence, || None);
        let kind = kind.unwrap_or_else(|| RunFaultKind::Nothing { what: self.written(span) });
        Some(self.throws(self.span_of_absence(absence).unwrap_or(span), kind))
    }

    /// What is thrown where a member is asked of what an expression comes to, which is nothing: `cause`, where that is
    /// known better than what is missing.
    pub(super) fn of_nothing(
        &mut self,
        absence: Option<super::value::AbsenceId>,
        of: ExpressionId,
        cause: Option<RunFaultKind>,
    ) -> super::machine::Stop {
        let written = self.written(self.program.span(of));
        let kind = cause.or_else(|| self.kind_of_absence(absence, || Some(written.clone())));
        let kind = kind.unwrap_or(RunFaultKind::Nothing { what: written });
        let at = self.span_of_absence(absence).unwrap_or(self.program.span(of));
        self.throws(at, kind)
    }

    pub(super) fn span_of_absence(
        &self,
        absence: Option<super::value::AbsenceId>,
    ) -> Option<crate::source::Span> {
        match self.absences.get(absence?.0 as usize)? {
            Absence::Element { span, .. } => Some(*span),
            _ => None,
        }
    }

    /// What fails where something that is not there is used.
    pub(super) fn kind_of_absence(
        &self,
        absence: Option<super::value::AbsenceId>,
        what: impl FnOnce() -> Option<String>,
    ) -> Option<RunFaultKind> {
        Some(match self.absences.get(absence?.0 as usize)? {
            Absence::Element { selector, is_early: true, .. } => {
                RunFaultKind::EarlyElement { selector: selector.clone() }
            }
            Absence::Element { selector, .. } => RunFaultKind::NoElement { selector: selector.clone() },
            Absence::Global { name } => RunFaultKind::NoGlobal { name: name.clone() },
            Absence::Member { of, name } => self.of_list(of, name, true).unwrap_or_else(|| {
                let near = super::platform::near(of, name).map(str::to_owned);
                RunFaultKind::NoMember { of: (*of).to_owned(), name: name.to_string(), near }
            }),
            Absence::OwnMember { of, name } => {
                let what = what().unwrap_or_else(|| name.to_string());
                match self.near_own(*of, name) {
                    Some(near) => RunFaultKind::NoOwnMember { what, near, is_called: false },
                    None => RunFaultKind::Nothing { what },
                }
            }
            Absence::Attribute { name } => RunFaultKind::Nothing { what: format!("[{name}]") },
            Absence::Place { name } => RunFaultKind::Nothing { what: what().unwrap_or_else(|| name.clone()) },
        })
    }
}
