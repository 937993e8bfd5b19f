//! Classes of the script, and what is made of them (ECMA-262, "Class Definitions").

use super::expressions::Reference;
use crate::script::program::{ClassId, ExpressionId, MemberKind};

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Closure, Doubt, EnvironmentId, Kind, ObjectId, Value};
use crate::source::Span;

impl Machine<'_> {
    pub(super) fn class(&mut self, id: ClassId) -> Run<Value> {
        let program = self.program;
        let class = program.class(id);
        if let Some(parent) = class.parent {
            self.expression(parent)?;
        }
        let environment = self.enter(self.environment);
        let made = self.make(Kind::Class(id, environment));
        self.object_mut(made).is_open = class.parent.is_some();
        let outer = std::mem::replace(&mut self.environment, environment);
        if let Some(own) = class.own_variable {
            self.declare(own, Value::Object(made), true);
        }
        let frame = self.frame.clone();
        self.frame.this = Value::Object(made);
        let result = self.static_members(id, made);
        self.frame = frame;
        self.environment = outer;
        result.map(|()| Value::Object(made))
    }

    pub(super) fn static_members(&mut self, id: ClassId, made: ObjectId) -> Run<()> {
        let program = self.program;
        // Names of members that are computed are, once, where the class is.
        for member in program.class(id).members.iter().filter(|member| !member.is_static) {
            self.key(&member.key)?;
        }
        for member in program.class(id).members.iter().filter(|member| member.is_static) {
            self.class_member(made, member)?;
        }
        Ok(())
    }

    /// One of a class of the script.
    pub(super) fn instance(
        &mut self,
        id: ClassId,
        environment: EnvironmentId,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let program = self.program;
        let class = program.class(id);
        let made = self.make(Kind::Plain);
        self.object_mut(made).is_open = class.parent.is_some();
        let outer = std::mem::replace(&mut self.environment, environment);
        let this = std::mem::replace(&mut self.frame.this, Value::Object(made));
        let mut result = Ok(());
        let (fields, methods): (Vec<_>, Vec<_>) = class
            .members
            .iter()
            .filter(|member| !member.is_static)
            .partition(|member| matches!(member.kind, MemberKind::Field(_)));
        for member in methods.into_iter().chain(fields) {
            result = self.class_member(made, member);
            if result.is_err() {
                break;
            }
        }
        self.environment = outer;
        self.frame.this = this;
        result?;
        if class.constructor.is_some() && class.parent.is_some() && !class.calls_super {
            return Err(self.throws(span, RunFaultKind::NoSuper));
        }
        if let Some(constructor) = class.constructor {
            let closure = Closure { function: constructor, environment, this: None };
            let returned = self.run_closure(&closure, Value::Object(made), arguments)?;
            if matches!(returned, Value::Object(_)) {
                return Ok(returned);
            }
        } else {
            for value in &arguments.values {
                if class.parent.is_some() {
                    self.hand_over(value)?;
                }
            }
        }
        Ok(Value::Object(made))
    }

    /// Puts a member of a class on the class itself, or on one of it.
    fn class_member(&mut self, made: ObjectId, member: &crate::script::program::ClassMember) -> Run<()> {
        let key = self.key(&member.key)?;
        let value = match &member.kind {
            MemberKind::Method(function) => self.closure(*function),
            MemberKind::Getter(function) => {
                let getter = self.closure(*function);
                self.made(Kind::Getter(getter))
            }
            MemberKind::Field(Some(value)) => self.expression(*value)?,
            MemberKind::Field(None) => Value::UNDEFINED,
            MemberKind::Setter(function) => {
                let setter = self.closure(*function);
                return self.give_setter(made, key, setter);
            }
            MemberKind::Block(scope, body) => {
                let outer = self.open(scope);
                let result = self.statements(body);
                self.environment = outer;
                return result;
            }
        };
        match key {
            Some(key) => {
                self.object_mut(made).members.insert(key, value);
            }
            None => self.object_mut(made).is_open = true,
        }
        Ok(())
    }

    /// `new`.
    pub(super) fn construct(
        &mut self,
        class: &Value,
        arguments: Arguments,
        callee: ExpressionId,
        span: Span,
    ) -> Run<Value> {
        let Value::Object(id) = class else {
            if class.doubt().is_none() {
                let reference = Reference { this: Value::UNDEFINED, value: class.clone() };
                if let Some(stop) = self.not_callable(&reference, callee) {
                    return Err(stop);
                }
            }
            let doubt = class.doubt().unwrap_or(Doubt::Open);
            self.presence.lose();
            return self.call_unknown(&Value::UNDEFINED, arguments, doubt);
        };
        match self.copied_kind(*id) {
            Kind::Class(class, environment) => self.instance(class, environment, arguments, span),
            Kind::Native("Intl", name) => {
                if matches!(&*name, "NumberFormat" | "DateTimeFormat")
                    && let Some(stop) = self.refused_format(&format!("new Intl.{name}"), &arguments, span)
                {
                    return Err(stop);
                }
                let made = self.make(Kind::Instance("Object"));
                self.object_mut(made).is_open = true;
                if &*name == "DateTimeFormat" {
                    let format = self.made(Kind::Native("DateTimeFormat", Arc::from("format")));
                    self.object_mut(made).members.insert(Arc::from("format"), format);
                }
                Ok(Value::Object(made))
            }
            // Constructors are named with a capital.
            Kind::Native(_, name) if name.starts_with(|c: char| c.is_ascii_lowercase()) => {
                let what = format!("new {}", self.written(self.program.span(callee)));
                Err(self.throws(span, super::fault::RunFaultKind::NotAFunction { what }))
            }
            Kind::Function(closure) if !self.program.function(closure.function).is_arrow => {
                let made = self.make(Kind::Plain);
                let parent = match self.object(*id).members.get("prototype") {
                    Some(Value::Object(prototype)) => Some(*prototype),
                    Some(_) => {
                        self.object_mut(made).is_open = true;
                        None
                    }
                    None => None,
                };
                self.object_mut(made).parent = parent;
                let returned = self.run_closure(&closure, Value::Object(made), arguments)?;
                Ok(if matches!(returned, Value::Object(_)) { returned } else { Value::Object(made) })
            }
            Kind::Constructor(of) => self.construct_platform(of, arguments, span),
            Kind::Function(_) => {
                let what = self.written(self.program.span(callee));
                Err(self.throws(span, RunFaultKind::NotAFunction { what: format!("new {what}") }))
            }
            _ => self.call_unknown(&Value::UNDEFINED, arguments, Doubt::Open),
        }
    }
}
