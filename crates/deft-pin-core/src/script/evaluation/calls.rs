//! Functions and classes: made, called, handed to others (ECMA-262, "ECMAScript Language: Functions and Classes").

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop, Turn};
use super::unfinished::{Frame, Part};
use super::value::{Certainty, Closure, Doubt, HANDED, Kind, Promise, PromiseState, Value};
use crate::script::program::{
    DeclarationKind, ExpressionId, Function, FunctionBody, FunctionId, FunctionKind,
};
use crate::source::Span;

impl Machine<'_> {
    pub(super) fn closure(&mut self, id: FunctionId) -> Value {
        let function = self.program.function(id);
        let this = function.is_arrow.then(|| self.frame.this.clone());
        let mut environment = self.environment;
        if let Some(own) = function.own_variable {
            environment = self.enter(environment);
            let closure = Closure { function: id, environment, this, home: self.frame.home };
            let made = self.made(Kind::Function(closure));
            let outer = std::mem::replace(&mut self.environment, environment);
            self.declare(own, made.clone(), true);
            self.environment = outer;
            return made;
        }
        self.made(Kind::Function(Closure { function: id, environment, this, home: self.frame.home }))
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
        self.called_at = span;
        let Value::Object(id) = function else {
            return self.call_unknown(&this, arguments, function.doubt().unwrap_or(Doubt::Open));
        };
        match self.copied_kind(*id) {
            Kind::Function(closure) => self.run_closure(&closure, this, arguments),
            Kind::Native(of, name) => {
                let (this, mut arguments) = (self.unproxied(&this)?, arguments);
                if matches!(of, "Array" | "JSON") {
                    for value in &mut arguments.values {
                        *value = self.unproxied(value)?;
                    }
                }
                self.call_native(of, &name, this, arguments, span)
            }
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
                match is_fulfilled {
                    true => self.settle(promise, true, value),
                    false => self.rejects(promise, value, span),
                }
                Ok(Value::UNDEFINED)
            }
            Kind::GoesOn(number, is_fulfilled) => self.go_on(number, is_fulfilled, &arguments),
            Kind::Proxy(target, handler) => self.call_proxy((target, handler), this, arguments, span),
            Kind::Constructor(of) => self.call_constructor(of, arguments, span),
            Kind::Other(sketch, perhaps) => self.call_elsewhere((&sketch, perhaps), &this, arguments, span),
            Kind::Class(..) => {
                let what = self.written(span);
                Err(self.throws(span, RunFaultKind::NotAFunction { what: format!("{what}` without `new") }))
            }
            _ => self.call_unknown(&this, arguments, Doubt::Open),
        }
    }

    /// A call of what is not known: what it is given may be changed and called.
    pub(super) fn call_unknown(&mut self, this: &Value, arguments: Arguments, doubt: Doubt) -> Run<Value> {
        self.hand_over(this)?;
        // Another script of the page calls what it is given, on ordinary visits.
        for value in &arguments.values {
            match doubt {
                Doubt::Script => self.hand_to_caller(value)?,
                _ => self.hand_over(value)?,
            }
        }
        Ok(Value::Unknown(doubt))
    }

    /// A call of a member of what is not known, by a name that says that what it is given is called.
    pub(super) fn call_by_name(&mut self, name: &str, arguments: &Arguments, span: Span) {
        match super::platform::is_member_of_any(name) {
            true => self.changes_somewhere(name, arguments),
            // It is one of some other script, and nobody knows what that does.
            false => {
                self.presence.lose();
                arguments.values.iter().take(5).for_each(|value| self.may_bring(value));
            }
        }
        const CALLERS: &[&str] = &[
            "addListener", "always", "done", "finally", "init", "listen", "load", "on", "once", "ready",
            "start", "subscribe", "success", "then", "whenReady",
        ];
        // A list that comes from elsewhere has something in it, on ordinary visits.
        const GOING_OVER: &[&str] = &["forEach", "map"];
        let turn = match name {
            _ if GOING_OVER.contains(&name) => Turn::Microtask,
            _ if CALLERS.contains(&name) => Turn::Visitor,
            _ => return,
        };
        for value in arguments.values.clone() {
            if let Value::Object(id) = value
                && let Kind::Function(closure) = &self.object(id).kind
            {
                let count = self.function_of(closure).parameters.len();
                self.later(value, vec![Value::OPEN; count], turn, Certainty::SomeVisit, span);
            }
        }
    }

    /// Gives a value to what is not known. Functions may be called by it, and objects changed.
    pub(super) fn hand_over(&mut self, value: &Value) -> Run<()> {
        self.hand_over_at(value, Certainty::Perhaps, 0)
    }

    /// Gives a value to what calls it on ordinary visits.
    pub(super) fn hand_to_caller(&mut self, value: &Value) -> Run<()> {
        self.hand_over_at(value, Certainty::SomeVisit, 0)
    }

    /// Gives all arguments to what is not known.
    pub(super) fn hand_over_all(&mut self, arguments: &Arguments) -> Run<()> {
        arguments.values.iter().try_for_each(|value| self.hand_over(value))
    }

    fn hand_over_at(&mut self, value: &Value, certainty: Certainty, depth: u32) -> Run<()> {
        let Value::Object(id) = value else { return Ok(()) };
        self.step(1)?;
        if depth > 4 {
            return Ok(());
        }
        match self.copied_kind(*id) {
            Kind::Function(closure) if !self.object(*id).members.contains_key(HANDED) => {
                self.object_mut(*id).members.insert(Arc::from(HANDED), Value::NULL);
                let count = self.function_of(&closure).parameters.len();
                let mut arguments = Arguments::of(vec![Value::OPEN; count]);
                arguments.is_open = true;
                let outer = std::mem::replace(&mut self.is_later, true);
                let result =
                    self.perhaps(certainty, |this| this.run_closure(&closure, Value::OPEN, arguments));
                self.is_later = outer;
                if matches!(result, Err(Stop::Halt)) {
                    return Err(Stop::Halt);
                }
            }
            Kind::Element(node) => {
                self.presence.lose();
                self.object_mut(*id).members.insert(Arc::from(HANDED), Value::NULL);
                self.opens(node);
            }
            Kind::Promise(_) => self.is_coped_with(*id),
            Kind::Proxy(target, handler) => {
                self.hand_over_at(&Value::Object(target), certainty, depth + 1)?;
                self.hand_over_at(&Value::Object(handler), certainty, depth + 1)?;
            }
            Kind::Instance("Map" | "Set" | "WeakMap" | "WeakSet" | "XMLHttpRequest") => {
                self.object_mut(*id).is_open = true;
            }
            Kind::Plain | Kind::Array(_) if !self.object(*id).is_open => {
                let object = self.object_mut(*id);
                object.is_open = true;
                let members = object.members.iter();
                let mut inner: Vec<(Value, bool)> =
                    members.map(|(key, value)| (value.clone(), is_for_failures(key))).collect();
                for member in object.members.values_mut() {
                    if !matches!(member, Value::Object(_)) {
                        *member = Value::OPEN;
                    }
                }
                if let Kind::Array(items) = &mut object.kind {
                    inner.extend(std::mem::take(items).into_iter().map(|value| (value, false)));
                }
                for (value, is_for_failures) in inner.into_iter().take(200) {
                    let certainty = if is_for_failures { Certainty::Perhaps } else { certainty };
                    self.hand_over_at(&value, certainty, depth + 1)?;
                }
            }
            _ => {}
        }
        Ok(())
    }

    /// Runs a function of the script.
    pub(super) fn run_closure(&mut self, closure: &Closure, this: Value, arguments: Arguments) -> Run<Value> {
        match self.function_of(closure).kind {
            FunctionKind::AsyncGenerator | FunctionKind::Generator => {
                self.generator(closure, this, arguments)
            }
            FunctionKind::Plain | FunctionKind::Async => self.run_body(closure, this, arguments),
        }
    }

    /// Runs what a function does.
    pub(super) fn run_body(&mut self, closure: &Closure, this: Value, arguments: Arguments) -> Run<Value> {
        self.step(2)?;
        self.in_code_of(closure.environment, |machine| machine.run_here(closure, this, arguments))
    }

    /// The function that a closure is of.
    pub(super) fn function_of(&self, closure: &Closure) -> &Function {
        self.program_of(closure.environment).function(closure.function)
    }

    fn run_here(&mut self, closure: &Closure, this: Value, arguments: Arguments) -> Run<Value> {
        let program = self.program;
        let function = program.function(closure.function);
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
            let has_waited = machine.frame.has_waited;
            let home = closure.home;
            let is_async = function.kind == FunctionKind::Async;
            let frame = Frame {
                this,
                arguments: own_arguments,
                is_strict,
                returned: None,
                has_waited,
                may_wait: is_async,
                answers: Vec::new(),
                home,
            };
            let outer_frame = std::mem::replace(&mut machine.frame, frame);
            let (certainty, region) = (machine.certainty, machine.region);
            let thrown = machine.thrown.take();
            let first_fault = machine.faults.len();
            let tries = machine.tries;
            if is_async {
                // What it throws its promise is rejected by.
                machine.tries = 0;
            }
            let result = match machine.function_body(closure.function, &arguments) {
                Err(Stop::Wait) => Ok(machine.leave()),
                other => other,
            };
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
            if is_async {
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
            FunctionBody::Expression(own) => self.body_expression(*own),
            FunctionBody::Statements(statements) => {
                self.statements(statements)?;
                Ok(Value::UNDEFINED)
            }
        }
    }

    /// What a function is that has no statements.
    pub(super) fn body_expression(&mut self, id: ExpressionId) -> Run<Value> {
        let result = self.answered(id);
        self.keep_first(&result, || Part::Expression(id));
        result
    }

    /// The promise that an async function gives.
    pub(super) fn promise_of(
        &mut self,
        result: Run<Value>,
        may_have_thrown: Option<Certainty>,
        first_fault: usize,
    ) -> Run<Value> {
        let mut faults: Vec<usize> = (first_fault..self.faults.len()).collect();
        faults.append(&mut self.carried);
        let state = match result {
            Ok(value) if may_have_thrown.is_none() => match self.kind(&value) {
                Some(Kind::Promise(_)) => return Ok(value),
                _ => match self.adopted(&value) {
                    Some(promise) => return Ok(Value::Object(promise)),
                    None => PromiseState::Fulfilled(value),
                },
            },
            Ok(_) => PromiseState::Waiting(Value::OPEN),
            Err(Stop::Throw(error)) => PromiseState::Rejected(error),
            Err(other) => return Err(other),
        };
        let promise = Promise { state, faults, ..Promise::default() };
        Ok(Value::Object(self.promise(promise)))
    }
}

/// Whether an option is called by its name where something fails: `onError`.
fn is_for_failures(key: &str) -> bool {
    const WORDS: &[&str] = &["abort", "catch", "error", "fail", "invalid", "reject", "timeout"];
    let key = key.to_ascii_lowercase();
    WORDS.iter().any(|word| key.contains(word))
}
