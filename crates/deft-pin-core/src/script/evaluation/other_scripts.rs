//! What other scripts of the page define: objects, functions and classes, as far as their declarations tell.

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{DOCUMENT, Machine, Run, Turn};
use super::members::is_keeper;
use super::platform;
use super::selector_checks::escaped;
use super::value::{Absence, Doubt, Kind, Mark, Moment, ObjectId, Promise, PromiseState, Value};
use crate::markup::{Sought, parse_selectors};
use crate::script::program::{Sketch, SketchedGlobal, SketchedMembers};
use crate::script::record::PageEvent;
use crate::source::Span;

const LISTS: &[&str] = &["HTMLCollection", "NodeList"];

/// The interface of a type that may be `null` as well.
fn of_result(result: &str) -> &str {
    match result {
        "Document" => "HTMLDocument",
        other => other.trim_end_matches('?'),
    }
}

impl Machine<'_> {
    /// A global that another script has defined.
    pub(super) fn made_elsewhere(&mut self, name: &Arc<str>) -> Value {
        let global = if self.codes.own().is_in_code(name) { None } else { self.world.sketch(name) };
        let Some(global) = global else {
            let unknown = Value::Unknown(Doubt::Script);
            // Nobody asks that again.
            self.globals.insert(Arc::clone(name), unknown.clone());
            return unknown;
        };
        if let Some(value) = self.value_at_first(name, &global) {
            // It is another one later, and is asked for again.
            return value;
        }
        let made = global.made_with.and_then(|made_with| self.made_of_literals(made_with));
        let value = made.unwrap_or_else(|| self.sketched_global(global));
        self.globals.insert(Arc::clone(name), value.clone());
        value
    }

    /// What a global is that has no value yet: the script runs before what gives it one.
    fn value_at_first(&mut self, name: &Arc<str>, global: &SketchedGlobal) -> Option<Value> {
        let (sketch, until) = global.at_first.as_ref()?;
        // Scripts that run at any time tell nothing of that.
        self.world.parsed_until()?;
        let is_before = match self.turn {
            None => !self.is_later && !self.frame.has_waited,
            Some(turn) => turn == Turn::Parsed && *until == PageEvent::Loaded && !self.frame.has_waited,
        };
        if !is_before {
            return None;
        }
        let absence = Some(self.absent(Absence::Place { name: name.to_string() }));
        Some(if *sketch == Sketch::Null { Value::Null(absence) } else { Value::Undefined(absence) })
    }

    /// What another script has at its top level, or in a scope of which there is one.
    pub(super) fn sketched_global(&mut self, global: SketchedGlobal) -> Value {
        // It is there before the script runs, and is the same each time.
        let region = std::mem::replace(&mut self.region, 0);
        // Members that may be there are those of all that is in it, and are not listed.
        let perhaps = match self.scripts.get(&global.script) {
            Some(known) => *known,
            None => self.make(Kind::Plain),
        };
        self.scripts.insert(global.script, perhaps);
        for name in global.perhaps {
            let object = self.object_mut(perhaps);
            object.marks.insert(Arc::clone(&name), Mark { is_unlisted: true, is_fixed: false });
            object.members.insert(name, Value::Unknown(Doubt::Script));
        }
        let value = self.sketched(&global.sketch, perhaps);
        self.region = region;
        value
    }

    fn sketched(&mut self, sketch: &Sketch, perhaps: ObjectId) -> Value {
        match sketch {
            Sketch::Unknown | Sketch::Perhaps | Sketch::LookUp { .. } | Sketch::Receiver => {
                Value::Unknown(Doubt::Script)
            }
            Sketch::Same(of) => match self.sketched_by.get(&(perhaps, *of)) {
                Some(known) => Value::Object(*known),
                None => Value::Unknown(Doubt::Script),
            },
            Sketch::Primitive(of) => Value::Some(of, Doubt::Script),
            Sketch::Text(text) => Value::Text(Arc::clone(text)),
            Sketch::Number(number) => Value::Number(*number),
            Sketch::Boolean(is) => Value::Boolean(*is),
            Sketch::Nothing => Value::UNDEFINED,
            Sketch::Null => Value::NULL,
            Sketch::Element { method, given, until } => {
                self.looked_up_elsewhere(method, given, *until).unwrap_or(Value::Unknown(Doubt::Script))
            }
            Sketch::Promise => {
                let state = PromiseState::Waiting(Value::Unknown(Doubt::Script));
                Value::Object(self.promise(Promise { state, ..Promise::default() }))
            }
            Sketch::List(None) => self.array(Vec::new(), true),
            Sketch::List(Some(items)) => {
                let items = items.iter().map(|item| self.sketched(item, perhaps)).collect();
                self.array(items, false)
            }
            Sketch::Object(_, Some(of)) if let Some(known) = self.sketched_by.get(&(perhaps, *of)) => {
                Value::Object(*known)
            }
            Sketch::Object(members, of) => {
                let made = self.with_sketched(Kind::Plain, members, perhaps);
                if let (Some(of), Value::Object(id)) = (of, &made) {
                    self.sketched_by.insert((perhaps, *of), *id);
                }
                made
            }
            Sketch::Class { members, code, .. } => match self.class_elsewhere(*code, sketch, perhaps) {
                Some(class) => class,
                None => self.with_sketched(Kind::Other(Arc::new(sketch.clone()), perhaps), members, perhaps),
            },
            Sketch::Function { members: Some(members), .. } => {
                let kind = Kind::Other(Arc::new(sketch.clone()), perhaps);
                self.with_sketched(kind, members, perhaps)
            }
            Sketch::Function { members: None, .. } => {
                let made = self.make(Kind::Other(Arc::new(sketch.clone()), perhaps));
                self.object_mut(made).is_open = true;
                Value::Object(made)
            }
            Sketch::Instance(of, members) => match platform::interface(of) {
                Some("Date") => self.with_sketched(Kind::Date(Moment::Unknown), members, perhaps),
                Some(of) => {
                    let made = self.with_sketched(Kind::Instance(of), members, perhaps);
                    // What it was made of and what is in it nobody tells.
                    if let (Value::Object(id), true) = (&made, is_keeper(of)) {
                        self.object_mut(*id).is_open = true;
                    }
                    made
                }
                None => Value::Unknown(Doubt::Script),
            },
            Sketch::OfPlatform { path, is_called, then } => self
                .sketched_of_platform(path, *is_called, then.as_ref())
                .unwrap_or(Value::Unknown(Doubt::Script)),
        }
    }

    /// The element that another script has looked up while it ran: `null` where it was not there yet.
    fn looked_up_elsewhere(
        &mut self,
        method: &str,
        given: &str,
        until: Option<Option<u32>>,
    ) -> Option<Value> {
        let until = until?;
        let selector =
            if method == "getElementById" { format!("#{}", escaped(given)) } else { given.to_owned() };
        let selectors = parse_selectors(&selector).ok()?;
        if self.world.may_be_made(&selectors, false) {
            return None;
        }
        let mut sought = Sought::by(&selectors);
        let document = self.world.document();
        self.charge(document.count() / 20);
        for element in document.elements() {
            let is_there = sought.surely_finds(element, None)?;
            if is_there && until.is_none_or(|until| element.data().start() < until) {
                return None;
            }
        }
        let name = format!("document.{method}(\"{given}\")");
        Some(Value::Null(Some(self.absent(Absence::Place { name }))))
    }

    /// An object with its members.
    fn with_sketched(&mut self, kind: Kind, members: &SketchedMembers, perhaps: ObjectId) -> Value {
        let made = self.make(kind);
        self.object_mut(made).parent = Some(perhaps);
        for (name, sketch) in members {
            let value = self.sketched(sketch, perhaps);
            let object = self.object_mut(made);
            object.members.insert(Arc::clone(name), value);
            if *sketch == Sketch::Perhaps {
                object.marks.insert(Arc::clone(name), Mark { is_unlisted: true, is_fixed: false });
            }
        }
        Value::Object(made)
    }

    /// What a member of a global of the platform comes to, by its type alone: it was asked earlier.
    fn sketched_of_platform(
        &mut self,
        path: &[Arc<str>],
        is_called: bool,
        then: Option<&Arc<str>>,
    ) -> Option<Value> {
        let (first, rest) = path.split_first()?;
        let mut member = platform::global(first)?;
        for name in rest {
            if member.is_function {
                return None;
            }
            member = platform::member(platform::interface(of_result(member.result))?, name)?;
        }
        if member.is_function != is_called {
            return None;
        }
        if let Some(name) = then {
            member = platform::member(platform::interface(of_result(member.result))?, name)?;
            if member.is_function {
                return None;
            }
        }
        Some(match member.result {
            "string" => Value::Some("String", Doubt::Script),
            "number" => Value::Some("Number", Doubt::Script),
            "boolean" => Value::Some("Boolean", Doubt::Script),
            of if LISTS.contains(&of) => {
                let list = self.list(platform::interface(of)?, Vec::new(), None);
                if let Value::Object(id) = list {
                    self.object_mut(id).is_open = true;
                }
                list
            }
            _ => return None,
        })
    }

    /// A call of what another script has defined. What it is given may be called and changed.
    pub(super) fn call_elsewhere(
        &mut self,
        (sketch, perhaps): (&Sketch, ObjectId),
        this: &Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        // Where it is to be looked up in nothing, that throws or not.
        let is_looked_up = |result: &Sketch| match result {
            Sketch::LookUp { within, .. } => {
                !within.is_some_and(|at| matches!(arguments.get(at), Value::Null(_)))
            }
            _ => false,
        };
        if let Sketch::Function { code, result, .. } = sketch
            && !is_looked_up(result)
            && let Some(closure) = self.function_elsewhere(*code)
        {
            let arguments = Arguments { expressions: Vec::new(), ..arguments };
            return match self.run_closure(&closure, this.clone(), arguments)? {
                Value::Unknown(_) if **result != Sketch::Receiver => Ok(self.sketched(result, perhaps)),
                value => Ok(value),
            };
        }
        match sketch {
            Sketch::Function { result, .. }
                if let Sketch::LookUp { method, argument, within } = &**result =>
            {
                let within = within.map_or(Value::UNDEFINED, |at| arguments.get(at));
                let within = match within {
                    Value::Undefined(_) | Value::Null(_) => Value::Object(DOCUMENT),
                    other => other,
                };
                let Some(of) = self.interface_of(&within) else { return Ok(Value::Unknown(Doubt::Script)) };
                let own = Arguments::of(vec![arguments.get(*argument)]);
                self.call_native(of, method, within, own, span)
            }
            Sketch::Function { result, .. } => {
                // What it is called on is its own.
                let own = if matches!(this, Value::Object(id) if self.object(*id).parent == Some(perhaps)) {
                    Value::UNDEFINED
                } else {
                    this.clone()
                };
                let unknown = self.call_unknown(&own, arguments, Doubt::Script)?;
                if **result == Sketch::Receiver && matches!(this, Value::Object(_)) {
                    return Ok(this.clone());
                }
                Ok(if **result == Sketch::Unknown { unknown } else { self.sketched(result, perhaps) })
            }
            Sketch::Class { .. } => {
                let what = self.written(span);
                Err(self.throws(span, RunFaultKind::NotAFunction { what: format!("{what}` without `new") }))
            }
            _ => self.call_unknown(this, arguments, Doubt::Script),
        }
    }

    /// Whether what a call of something of another script does is known: its code is run, or it looks something up, or
    /// it cannot be called so.
    pub(super) fn is_known_elsewhere(&mut self, sketch: &Sketch, is_new: bool) -> bool {
        match sketch {
            Sketch::Function { makes, .. } if is_new && **makes == Sketch::Nothing => true,
            Sketch::Function { result, .. } if !is_new && matches!(**result, Sketch::LookUp { .. }) => true,
            Sketch::Function { code, makes, .. } => {
                (!is_new || matches!(**makes, Sketch::Object(..))) && self.function_elsewhere(*code).is_some()
            }
            Sketch::Class { .. } => !is_new,
            _ => false,
        }
    }

    /// The same with `new`; none for what makes nothing.
    pub(super) fn construct_elsewhere(
        &mut self,
        (sketch, perhaps): (&Sketch, ObjectId),
        arguments: Arguments,
    ) -> Run<Option<Value>> {
        let (Sketch::Function { makes, .. } | Sketch::Class { makes, .. }) = sketch else {
            return self.call_unknown(&Value::UNDEFINED, arguments, Doubt::Script).map(Some);
        };
        if **makes == Sketch::Nothing {
            return Ok(None);
        }
        if let (Sketch::Function { code, .. }, Sketch::Object(..)) = (sketch, &**makes)
            && let Some(closure) = self.function_elsewhere(*code)
        {
            let (made, prototype) = (self.make(Kind::Plain), self.sketched(makes, perhaps));
            if let Value::Object(prototype) = prototype {
                self.object_mut(made).parent = Some(prototype);
            }
            let arguments = Arguments { expressions: Vec::new(), ..arguments };
            self.run_closure(&closure, Value::Object(made), arguments)?;
            return Ok(Some(Value::Object(made)));
        }
        let unknown = self.call_unknown(&Value::UNDEFINED, arguments, Doubt::Script)?;
        Ok(Some(if **makes == Sketch::Unknown { unknown } else { self.sketched(makes, perhaps) }))
    }
}
