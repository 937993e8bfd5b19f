//! Classes of the script, and what is made of them (ECMA-262, "Class Definitions").

use super::links::Reference;
use crate::script::program::{ClassId, ClassMember, Expression, ExpressionId, MemberKind};

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::platform;
use super::value::{Closure, Doubt, EXACT, Kind, ObjectId, Value};
use crate::source::Span;

/// Longer lines of classes that extend each other are not followed.
const LONGEST_LINEAGE: usize = 50;
/// The member of a class that has its methods.
const PROTOTYPE: &str = "prototype";

impl<'m> Machine<'m> {
    pub(super) fn class(&mut self, id: ClassId) -> Run<Value> {
        let program = self.program;
        let class = program.class(id);
        let base = match class.parent {
            Some(parent) => Some(self.expression(parent)?),
            None => None,
        };
        if let (Some(Value::Undefined(_)), Some(parent)) = (&base, class.parent) {
            let what = format!("class extends {}", self.written(program.span(parent)));
            return Err(self.throws(program.span(parent), RunFaultKind::NotAFunction { what }));
        }
        let environment = self.enter(self.environment);
        let made = self.make(Kind::Class(id, environment));
        let prototype = self.make(Kind::Plain);
        self.object_mut(made).members.insert(Self::name(PROTOTYPE), Value::Object(prototype));
        self.object_mut(prototype).members.insert(Self::name("constructor"), Value::Object(made));
        match base {
            Some(Value::Object(base)) if matches!(self.object(base).kind, Kind::Class(..)) => {
                self.object_mut(made).parent = Some(base);
                self.object_mut(prototype).parent = self.prototype_of(base);
            }
            _ => {
                // Of these it is known what they have.
                let is_known = match base.as_ref().and_then(|base| self.kind(base)) {
                    Some(Kind::Constructor("EventTarget" | "HTMLElement")) => true,
                    Some(Kind::Constructor(of)) if platform::extends(of, "Error") => true,
                    _ => class.parent.is_none(),
                };
                self.object_mut(made).is_open = class.parent.is_some();
                self.object_mut(prototype).is_open = !is_known;
            }
        }
        let outer = std::mem::replace(&mut self.environment, environment);
        if let Some(own) = class.own_variable {
            self.declare(own, Value::Object(made), true);
        }
        let frame = self.frame.clone();
        self.frame.this = Value::Object(made);
        self.frame.home = Some(made);
        let result = self.class_members(id, made, prototype);
        self.frame = frame;
        self.environment = outer;
        result.map(|()| Value::Object(made))
    }

    /// Gives a class what is its own, and its prototype the methods.
    fn class_members(&mut self, id: ClassId, made: ObjectId, prototype: ObjectId) -> Run<()> {
        let program = self.program;
        let members = || program.class(id).members.iter();
        for member in members().filter(|member| !member.is_static) {
            match member.kind {
                // The names of fields are worked out once, where the class is.
                MemberKind::Field(_) => drop(self.key(&member.key)?),
                _ => self.class_member(prototype, member)?,
            }
        }
        members().filter(|member| member.is_static).try_for_each(|member| self.class_member(made, member))
    }

    /// The object that has the methods of a class.
    pub(super) fn prototype_of(&self, class: ObjectId) -> Option<ObjectId> {
        match self.object(class).members.get(PROTOTYPE) {
            Some(Value::Object(prototype)) => Some(*prototype),
            _ => None,
        }
    }

    /// One of a class of the script.
    fn instance(&mut self, class: ObjectId, arguments: Arguments, span: Span) -> Run<Value> {
        let made = match self.new_custom(class, span)? {
            Some(Value::Object(made)) => made,
            _ => self.make_of(class),
        };
        self.becomes_instance(made, class, arguments, span)
    }

    /// The global that the last class of a line extends.
    pub(super) fn root_of(&self, class: ObjectId) -> Option<&str> {
        let bases = std::iter::successors(Some(class), |class| self.base_of(*class));
        let Kind::Class(last, scope) = self.object(bases.take(LONGEST_LINEAGE).last()?).kind else {
            return None;
        };
        let program = self.program_of(scope);
        match program.expression(program.class(last).parent?) {
            Expression::Global(name) => Some(name),
            _ => None,
        }
    }

    /// An object for one of a class, as what it extends last makes them.
    fn make_of(&mut self, class: ObjectId) -> ObjectId {
        let root = self.root_of(class).and_then(platform::interface);
        let Some(of) = root.filter(|of| *of == "EventTarget" || platform::extends(of, "Error")) else {
            return self.make(Kind::Plain);
        };
        let made = self.make(Kind::Instance(of));
        self.object_mut(made).members.insert(Arc::from(EXACT), Value::NULL);
        made
    }

    /// Makes an object one of a class: its methods, its fields, and what its constructor does.
    pub(super) fn becomes_instance(
        &mut self,
        made: ObjectId,
        class: ObjectId,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        self.object_mut(made).parent = self.prototype_of(class);
        let returned = self.constructed(made, class, arguments, span)?;
        Ok(if matches!(returned, Value::Object(_)) { returned } else { Value::Object(made) })
    }

    /// The class of the script that another one extends.
    fn base_of(&self, class: ObjectId) -> Option<ObjectId> {
        self.object(class).parent
    }

    /// Gives an object the fields of a class.
    fn gives_fields(&mut self, made: ObjectId, class: ObjectId) -> Run<()> {
        let Kind::Class(id, environment) = self.object(class).kind else { return Ok(()) };
        let program = self.program_of(environment);
        let outer = std::mem::replace(&mut self.environment, environment);
        let this = std::mem::replace(&mut self.frame.this, Value::Object(made));
        let home = self.frame.home.replace(class);
        let is_field =
            |member: &&ClassMember| !member.is_static && matches!(member.kind, MemberKind::Field(_));
        let mut fields = program.class(id).members.iter().filter(is_field);
        let result = self.in_code_of(environment, |machine| {
            fields.try_for_each(|member| machine.class_member(made, member))
        });
        self.environment = outer;
        self.frame.this = this;
        self.frame.home = home;
        result
    }

    /// Runs the constructor of a class.
    fn constructed(
        &mut self,
        made: ObjectId,
        class: ObjectId,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let Kind::Class(id, environment) = self.object(class).kind else { return Ok(Value::UNDEFINED) };
        let own = self.program_of(environment).class(id);
        let (extends, calls_super) = (own.parent.is_some(), own.calls_super);
        if own.constructor.is_some() && extends && !calls_super {
            return Err(self.throws(span, RunFaultKind::NoSuper));
        }
        if !extends {
            self.gives_fields(made, class)?;
        }
        match own.constructor {
            Some(function) => {
                let closure = Closure { function, environment, this: None, home: Some(class) };
                if extends {
                    self.unmade.push(made);
                }
                let result = self.run_closure(&closure, Value::Object(made), arguments);
                self.unmade.retain(|own| *own != made);
                result
            }
            None if extends => {
                self.deeper(|this| this.calls_base(made, class, arguments, span))?;
                Ok(Value::UNDEFINED)
            }
            None => Ok(Value::UNDEFINED),
        }
    }

    /// `super(…)`: the constructor of what a class extends, and the fields of the class.
    fn calls_base(&mut self, made: ObjectId, class: ObjectId, arguments: Arguments, span: Span) -> Run<()> {
        match self.base_of(class) {
            Some(base) => {
                self.constructed(made, base, arguments, span)?;
            }
            None => {
                self.hand_over_all(&arguments)?;
                self.gives_message(made, &arguments);
            }
        }
        self.gives_fields(made, class)
    }

    /// The same, where it is called.
    pub(super) fn call_super(&mut self, arguments: Arguments, span: Span) -> Run<Value> {
        if let (Value::Object(made), Some(class)) = (self.frame.this.clone(), self.frame.home) {
            self.unmade.retain(|own| *own != made);
            self.calls_base(made, class, arguments, span)?;
        } else {
            self.hand_over_all(&arguments)?;
        }
        Ok(self.frame.this.clone())
    }

    /// `super.name`: a method of what the class extends whose method runs (ECMA-262, "MakeSuperPropertyReference").
    pub(super) fn super_member(&mut self, key: Option<&Arc<str>>, span: Span) -> Run<Value> {
        let (Some(key), Some(home)) = (key, self.frame.home) else { return Ok(Value::OPEN) };
        let is_static = matches!(self.kind(&self.frame.this), Some(Kind::Class(..)));
        let base = self.base_of(home);
        let holder = if is_static { base } else { base.and_then(|base| self.prototype_of(base)) };
        let Some(holder) = holder else { return Ok(Value::OPEN) };
        // A getter is called on what the method was.
        let holders = std::iter::successors(Some(holder), |at| self.object(*at).parent);
        let own = holders.take(LONGEST_LINEAGE).find_map(|at| self.object(at).members.get(key)).cloned();
        match own.as_ref().and_then(|own| self.kind(own)).cloned() {
            Some(Kind::Getter(getter)) => {
                let this = self.frame.this.clone();
                self.call(&getter, this, Arguments::default(), span)
            }
            _ => self.member_at(&Value::Object(holder), Some(key), span),
        }
    }

    /// Puts a member of a class on the class itself, or on one of it.
    fn class_member(&mut self, made: ObjectId, member: &'m ClassMember) -> Run<()> {
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
                let object = self.object_mut(made);
                if key.starts_with('#') {
                    object.marks.entry(Arc::clone(&key)).or_default().is_unlisted = true;
                }
                object.members.insert(key, value);
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
            self.check_handed(class, &Value::UNDEFINED, callee, &arguments, true)?;
            let doubt = class.doubt().unwrap_or(Doubt::Open);
            self.presence.lose();
            return self.call_unknown(&Value::UNDEFINED, arguments, doubt);
        };
        match self.copied_kind(*id) {
            Kind::Class(..) => self.instance(*id, arguments, span),
            Kind::Native("Intl", name) => self.formatter(&name, &arguments, span),
            // Constructors are named with a capital.
            Kind::Native(_, name) if name.starts_with(|c: char| c.is_ascii_lowercase()) => {
                Err(self.no_constructor(callee, span))
            }
            Kind::Function(closure) if !self.function_of(&closure).is_arrow => {
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
            Kind::Other(sketch, perhaps) => {
                self.check_handed(class, &Value::UNDEFINED, callee, &arguments, true)?;
                match self.construct_elsewhere((&sketch, perhaps), arguments)? {
                    Some(made) => Ok(made),
                    None => Err(self.no_constructor(callee, span)),
                }
            }
            Kind::Function(_) => Err(self.no_constructor(callee, span)),
            Kind::Plain
            | Kind::Array(_)
            | Kind::List(..)
            | Kind::Element(_)
            | Kind::Date(_)
            | Kind::Promise(_)
                if !self.object(*id).is_open =>
            {
                Err(self.no_constructor(callee, span))
            }
            _ => self.call_unknown(&Value::UNDEFINED, arguments, Doubt::Open),
        }
    }

    /// What is thrown where `new` is asked of what makes nothing.
    fn no_constructor(&mut self, callee: ExpressionId, span: Span) -> Stop {
        let what = format!("new {}", self.written(self.program.span(callee)));
        self.throws(span, RunFaultKind::NotAFunction { what })
    }
}
