//! Functions and classes: made, called, handed to others (ECMA-262, "ECMAScript Language: Functions and Classes").

use std::sync::Arc;

use super::expressions::{Arguments, Reference};
use super::fault::RunFaultKind;
use super::machine::{Frame, Machine, Run, Stop, Turn};
use super::platform;
use super::value::{
    Absence, Certainty, Closure, Doubt, EnvironmentId, Kind, ObjectId, Promise, PromiseState, Value,
};
use crate::script::program::{
    ClassId, DeclarationKind, Expression, ExpressionId, FunctionBody, FunctionId, FunctionKind, Key,
    MemberKind,
};
use crate::source::Span;

impl Machine<'_> {
    pub(super) fn closure(&mut self, id: FunctionId) -> Value {
        let function = self.program.function(id);
        let this = function.is_arrow.then(|| self.frame.this.clone());
        let mut environment = self.environment;
        if let Some(own) = function.own_variable {
            environment = self.enter(environment);
            let closure = Closure { function: id, environment, this };
            let made = self.made(Kind::Function(closure));
            let outer = std::mem::replace(&mut self.environment, environment);
            self.declare(own, made.clone(), true);
            self.environment = outer;
            return made;
        }
        self.made(Kind::Function(Closure { function: id, environment, this }))
    }

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

    fn static_members(&mut self, id: ClassId, made: ObjectId) -> Run<()> {
        let program = self.program;
        // Names of members that are computed are, once, where the class is.
        for member in program.class(id).members.iter().filter(|member| !member.is_static) {
            self.key(&member.key)?;
        }
        for member in program.class(id).members.iter().filter(|member| member.is_static) {
            let key = self.key(&member.key)?;
            let value = match &member.kind {
                MemberKind::Method(function) => self.closure(*function),
                MemberKind::Getter(function) => {
                    let getter = self.closure(*function);
                    self.made(Kind::Getter(getter))
                }
                MemberKind::Setter => Value::OPEN,
                MemberKind::Field(Some(value)) => self.expression(*value)?,
                MemberKind::Field(None) => Value::UNDEFINED,
                MemberKind::Block(scope, body) => {
                    let outer = self.open(scope);
                    let result = self.statements(body);
                    self.environment = outer;
                    result?;
                    continue;
                }
            };
            if let Some(key) = key {
                self.object_mut(made).members.insert(key, value);
            }
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
            result = self.instance_member(made, member);
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
            let returned = self.run_closure(&closure, Value::Object(made), arguments, span)?;
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

    fn instance_member(&mut self, made: ObjectId, member: &crate::script::program::ClassMember) -> Run<()> {
        let key = self.key(&member.key)?;
        let value = match &member.kind {
            MemberKind::Method(function) => self.closure(*function),
            MemberKind::Getter(function) => {
                let getter = self.closure(*function);
                self.made(Kind::Getter(getter))
            }
            MemberKind::Field(Some(value)) => self.expression(*value)?,
            MemberKind::Field(None) => Value::UNDEFINED,
            MemberKind::Setter => {
                match key {
                    Some(key) => {
                        self.object_mut(made).members.entry(key).or_insert(Value::OPEN);
                    }
                    None => self.object_mut(made).is_open = true,
                }
                return Ok(());
            }
            MemberKind::Block(..) => return Ok(()),
        };
        match key {
            Some(key) => {
                self.object_mut(made).members.insert(key, value);
            }
            None => self.object_mut(made).is_open = true,
        }
        Ok(())
    }

    /// What is thrown where something that is called is no function.
    pub(super) fn not_callable(&mut self, callee: &Reference, at: ExpressionId, span: Span) -> Option<Stop> {
        let program = self.program;
        let written = self.written(program.span(at));
        if let Some(kind) = self.runs_on(at).filter(|_| !matches!(callee.value, Value::Unknown(_))) {
            let is_function = self.type_text(&callee.value).is_some_and(|of| &*of == "function");
            return (!is_function).then(|| self.throws(program.span(at), kind));
        }
        if matches!(callee.value, Value::Unknown(_)) {
            if let Some(kind) = self.no_method(callee, at) {
                return Some(self.throws(program.span(at), kind));
            }
            let is_text = self.is_never_a_function(callee, at);
            return is_text
                .then(|| self.throws(program.span(at), RunFaultKind::NotAFunction { what: written }));
        }
        let is_function = matches!(&*self.type_text(&callee.value)?, "function");
        if is_function {
            return None;
        }
        let absence = match &callee.value {
            Value::Undefined(absence) | Value::Null(absence) => *absence,
            Value::Object(id) if self.object(*id).is_open => return None,
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Instance(of) | Kind::Constructor(of) if !matches!(*of, "Error" | "Symbol") => {
                    let _ = of;
                    return None;
                }
                _ => None,
            },
            _ => None,
        };
        let place = absence.and_then(|id| self.absences.get(id.0 as usize)).cloned();
        let kind = match place {
            Some(Absence::Member { of, name }) => {
                if let Some(kind) = self.of_list(of, &name, true) {
                    return Some(self.throws(program.span(at), kind));
                }
                let near = platform::near(of, &name).map(str::to_owned);
                RunFaultKind::NoMember { of: of.to_owned(), name: name.to_string(), near }
            }
            Some(Absence::Element { .. } | Absence::Global { .. }) => {
                self.kind_of_absence(absence, || None).unwrap_or(RunFaultKind::NotAFunction { what: written })
            }
            _ => RunFaultKind::NotAFunction { what: written },
        };
        let _ = span;
        Some(self.throws(program.span(at), kind))
    }

    /// Whether a line ends behind an expression, and the next one goes on with it by a bracket.
    pub(super) fn runs_on(&self, id: ExpressionId) -> Option<RunFaultKind> {
        let span = self.program.span(id);
        let rest = self.text.get(span.end as usize..)?;
        let blanks = &rest[..rest.len() - rest.trim_start().len()];
        let goes_on = blanks.contains('\n') && rest.trim_start().starts_with(['(', '[']);
        goes_on.then(|| {
            let line = self.text.get(..span.end as usize).unwrap_or_default();
            let line = line.rsplit('\n').next().unwrap_or_default().trim();
            let before = line.char_indices().rev().nth(29).map_or(line, |(at, _)| &line[at..]);
            RunFaultKind::NoSemicolon { before: before.to_owned() }
        })
    }

    /// What is called on an object whose members of other names have texts in them, or nothing.
    fn no_method(&self, callee: &Reference, at: ExpressionId) -> Option<RunFaultKind> {
        let Expression::Member { key: Key::Name(key), .. } = self.program.expression(at) else { return None };
        let Some(Kind::Instance(of @ ("Storage" | "CSSStyleDeclaration"))) = self.kind(&callee.this) else {
            return None;
        };
        let is_there = platform::member(of, key).or_else(|| platform::member("Object", key)).is_some();
        (!is_there).then(|| RunFaultKind::NoMember {
            of: (*of).to_owned(),
            name: key.to_string(),
            near: platform::near(of, key).map(str::to_owned),
        })
    }

    /// Whether what is called is a member that has a text or a number in it always.
    fn is_never_a_function(&self, callee: &Reference, at: ExpressionId) -> bool {
        const TEXTS: &[&str] = &["innerHTML", "outerHTML", "innerText", "textContent"];
        let Expression::Member { key: Key::Name(key), .. } = self.program.expression(at) else {
            return false;
        };
        let Value::Object(id) = callee.this else { return false };
        if self.object(id).members.contains_key(key) {
            return false;
        }
        match &self.object(id).kind {
            Kind::Style => platform::member("CSSStyleDeclaration", key).is_none(),
            Kind::Element(_) | Kind::Document | Kind::Tokens(_) => {
                let found = self.interface_of(&callee.this).and_then(|of| platform::member(of, key));
                found.is_some_and(|member| {
                    !member.is_function
                        && (matches!(member.result, "string" | "number" | "boolean")
                            || TEXTS.contains(&&**key))
                })
            }
            _ => false,
        }
    }

    fn type_text(&self, value: &Value) -> Option<Arc<str>> {
        self.as_text(&self.type_of(value)).ok()
    }

    /// A call.
    pub(super) fn call(
        &mut self,
        function: &Value,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        self.step(1)?;
        let Value::Object(id) = function else {
            return self.call_unknown(&this, arguments, function.doubt().unwrap_or(Doubt::Open));
        };
        match self.object(*id).kind.clone() {
            Kind::Function(closure) => self.run_closure(&closure, this, arguments, span),
            Kind::Native(of, name) => self.call_native(of, &name, this, arguments, span),
            Kind::QueryMethod(name) => self.call_query_method(&name, this, arguments, span),
            Kind::QueryFunction => self.call_query(arguments, span),
            Kind::Bound(function, this, mut first) => {
                let arguments = Arguments {
                    values: {
                        first.extend(arguments.values);
                        first
                    },
                    expressions: Vec::new(),
                    is_open: arguments.is_open,
                };
                self.call(&function, this, arguments, span)
            }
            Kind::Settler(promise, is_fulfilled) => {
                let value = arguments.get(0);
                self.settle(promise, is_fulfilled, value);
                Ok(Value::UNDEFINED)
            }
            Kind::Constructor(of) => self.call_constructor(of, arguments, span),
            Kind::Class(..) => {
                let what = self.written(span);
                Err(self.throws(span, RunFaultKind::NotAFunction { what: format!("{what}` without `new") }))
            }
            _ => self.call_unknown(&this, arguments, Doubt::Open),
        }
    }

    /// A call of what is not known: what it is given may be changed and called.
    fn call_unknown(&mut self, this: &Value, arguments: Arguments, doubt: Doubt) -> Run<Value> {
        self.hand_over(this)?;
        for value in &arguments.values {
            self.hand_over(value)?;
        }
        Ok(Value::Unknown(doubt))
    }

    /// A member of what another script makes, which has no script of the page in it, nor anything else that is there.
    pub(super) fn check_heard(&mut self, name: &str, this: &Value, span: Span) {
        let is_library =
            this.doubt() == Some(Doubt::Script) || matches!(self.kind(this), Some(Kind::QueryFunction));
        let is_vague = matches!(this, Value::Unknown(_)) || is_library;
        if !is_vague || platform::is_member_of_any(name) {
            return;
        }
        // What nobody tells need not be looked for.
        if self.certainty == Certainty::Perhaps || self.tries > 0 || self.is_set_here(name) {
            return;
        }
        let near = match self.known.unheard.get(name) {
            Some(known) => known.clone(),
            None => {
                let near = self.near_unheard(name);
                self.known.unheard.insert(name.to_owned(), near.clone());
                near
            }
        };
        if let Some(near) = near {
            self.note(span, RunFaultKind::UnheardMember { name: name.to_owned(), near });
        }
    }

    /// For a name that stands nowhere else, one of nearly that spelling.
    fn near_unheard(&self, name: &str) -> Option<String> {
        let near = self.world.near_word(name)?;
        let own = || crate::script::added::words_of(self.text).filter(|word| *word != name);
        near.or_else(|| crate::source::nearest(name, own()).map(str::to_owned))
            .or_else(|| platform::near_any(name).map(str::to_owned))
    }

    /// A call of a member of what is not known, by a name that says that what it is given is called.
    pub(super) fn call_by_name(&mut self, name: &str, arguments: &Arguments, span: Span) {
        const CALLERS: &[&str] = &[
            "done", "init", "listen", "load", "on", "once", "ready", "start", "subscribe", "success",
            "whenReady",
        ];
        if !CALLERS.contains(&name) {
            return;
        }
        for value in arguments.values.clone() {
            if let Value::Object(id) = value
                && let Kind::Function(closure) = &self.object(id).kind
            {
                let count = self.program.function(closure.function).parameters.len();
                self.later(value, vec![Value::OPEN; count], Turn::Visitor, Certainty::SomeVisit, span);
            }
        }
    }

    /// Gives a value to what is not known. Functions may be called by it, and objects changed.
    pub(super) fn hand_over(&mut self, value: &Value) -> Run<()> {
        self.hand_over_at(value, Certainty::Perhaps, 0)
    }

    fn hand_over_at(&mut self, value: &Value, certainty: Certainty, depth: u32) -> Run<()> {
        let Value::Object(id) = value else { return Ok(()) };
        self.step(1)?;
        if depth > 4 {
            return Ok(());
        }
        match self.object(*id).kind.clone() {
            Kind::Function(closure) if !self.object(*id).members.contains_key("#handed") => {
                self.object_mut(*id).members.insert(Arc::from("#handed"), Value::NULL);
                let count = self.program.function(closure.function).parameters.len();
                let mut arguments = Arguments::of(vec![Value::OPEN; count]);
                arguments.is_open = true;
                let outer = std::mem::replace(&mut self.is_later, true);
                let result = self.perhaps(certainty, |this| {
                    this.run_closure(&closure, Value::OPEN, arguments, Span { start: 0, end: 0 })
                });
                self.is_later = outer;
                if matches!(result, Err(Stop::Halt)) {
                    return Err(Stop::Halt);
                }
            }
            Kind::Plain | Kind::Array(_) if !self.object(*id).is_open => {
                let object = self.object_mut(*id);
                object.is_open = true;
                let mut inner: Vec<Value> = object.members.values().cloned().collect();
                for member in object.members.values_mut() {
                    if !matches!(member, Value::Object(_)) {
                        *member = Value::OPEN;
                    }
                }
                if let Kind::Array(items) = &mut object.kind {
                    inner.extend(std::mem::take(items));
                }
                for value in inner.into_iter().take(200) {
                    self.hand_over_at(&value, certainty, depth + 1)?;
                }
            }
            _ => {}
        }
        Ok(())
    }

    /// Runs a function of the script.
    pub(super) fn run_closure(
        &mut self,
        closure: &Closure,
        this: Value,
        arguments: Arguments,
        _span: Span,
    ) -> Run<Value> {
        self.step(2)?;
        let program = self.program;
        let function = program.function(closure.function);
        if function.kind == FunctionKind::Generator {
            return Ok(Value::OPEN);
        }
        self.deeper(|machine| {
            let environment = machine.enter(closure.environment);
            let outer_environment = std::mem::replace(&mut machine.environment, environment);
            let this = match &closure.this {
                Some(own) => own.clone(),
                None if !function.is_strict && matches!(this, Value::Undefined(_) | Value::Null(_)) => {
                    Value::Object(super::machine::WINDOW)
                }
                None => this,
            };
            let own_arguments = match function.is_arrow {
                true => machine.frame.arguments.clone(),
                false => (!arguments.is_open).then(|| arguments.values.clone()),
            };
            let is_strict = function.is_strict;
            let frame = Frame { this, arguments: own_arguments, is_strict, returned: None };
            let outer_frame = std::mem::replace(&mut machine.frame, frame);
            let (certainty, region) = (machine.certainty, machine.region);
            let thrown = machine.thrown.take();
            let first_fault = machine.faults.len();
            let tries = machine.tries;
            let result = machine.function_body(closure.function, &arguments);
            let returned = machine.frame.returned.take();
            machine.tries = tries;
            machine.environment = outer_environment;
            machine.frame = outer_frame;
            machine.certainty = certainty;
            machine.region = region;
            let may_have_thrown = machine.thrown.take();
            machine.thrown = thrown;
            let value = match result {
                Ok(value) | Err(Stop::Return(value)) => Ok(match returned {
                    Some(other) => value.or(other),
                    None => value,
                }),
                Err(other) => Err(other),
            };
            if function.kind == FunctionKind::Async {
                return machine.promise_of(value, may_have_thrown, first_fault);
            }
            if let Some(doubt) = may_have_thrown {
                machine.thrown = machine.thrown.max(Some(doubt));
                machine.weaken(doubt);
            }
            value
        })
    }

    fn function_body(&mut self, id: FunctionId, arguments: &Arguments) -> Run<Value> {
        let program = self.program;
        let function = program.function(id);
        self.declare_all(&function.scope);
        for (at, pattern) in function.parameters.iter().enumerate() {
            self.bind(*pattern, arguments.get(at), Some(DeclarationKind::Let))?;
        }
        if let Some(rest) = function.rest {
            let left = arguments.values.get(function.parameters.len()..).unwrap_or_default().to_vec();
            let array = self.make(Kind::Array(left));
            self.object_mut(array).is_open = arguments.is_open;
            self.bind(rest, Value::Object(array), Some(DeclarationKind::Let))?;
        }
        match &function.body {
            FunctionBody::Expression(own) => self.expression(*own),
            FunctionBody::Statements(statements) => {
                self.statements(statements)?;
                Ok(Value::UNDEFINED)
            }
        }
    }

    /// The promise that an async function gives.
    fn promise_of(
        &mut self,
        result: Run<Value>,
        may_have_thrown: Option<Certainty>,
        first_fault: usize,
    ) -> Run<Value> {
        let faults: Vec<usize> = (first_fault..self.faults.len()).collect();
        let state = match result {
            Ok(value) if may_have_thrown.is_none() => match self.kind(&value) {
                Some(Kind::Promise(_)) => return Ok(value),
                _ => PromiseState::Fulfilled(value),
            },
            Ok(_) => PromiseState::Waiting(Value::OPEN),
            Err(Stop::Throw(error)) => PromiseState::Rejected(error),
            Err(other) => return Err(other),
        };
        let promise = Promise { state, faults, ..Promise::default() };
        Ok(Value::Object(self.promise(promise)))
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
                if let Some(stop) = self.not_callable(&reference, callee, span) {
                    return Err(stop);
                }
            }
            let doubt = class.doubt().unwrap_or(Doubt::Open);
            return self.call_unknown(&Value::UNDEFINED, arguments, doubt);
        };
        match self.object(*id).kind.clone() {
            Kind::Class(class, environment) => self.instance(class, environment, arguments, span),
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
                let returned = self.run_closure(&closure, Value::Object(made), arguments, span)?;
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
