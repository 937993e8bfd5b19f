//! Variables, the scopes that have them, and globals.

use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::fault::RunFaultKind;
use super::machine::{Environment, Machine, Place, Run, Stop, WINDOW};
use super::platform;
use super::value::{Absence, EnvironmentId, Kind, Value};
use super::world::GlobalState;
use crate::markup::NamedPart;
use crate::script::program::{Expression, ExpressionId, Key, Variable, WINDOWS};
use crate::source::Span;

impl Machine<'_> {
    /// The scope that has a variable.
    pub(super) fn scope_of(&self, variable: Variable) -> Option<EnvironmentId> {
        let mut at = Some(self.environment);
        while let Some(id) = at {
            let environment = &self.environments[id.0 as usize];
            if environment.places.contains_key(&variable) {
                return Some(id);
            }
            at = environment.parent;
        }
        None
    }

    pub(super) fn enter(&mut self, parent: EnvironmentId) -> EnvironmentId {
        let code = self.environments[parent.0 as usize].code;
        let environment =
            Environment { parent: Some(parent), places: FxHashMap::default(), born: self.region, code };
        self.environments.push(environment);
        EnvironmentId(self.environments.len() as u32 - 1)
    }

    pub(super) fn declare(&mut self, variable: Variable, value: Value, is_set: bool) {
        let environment = &mut self.environments[self.environment.0 as usize];
        environment.places.insert(variable, Place { value, is_set, is_constant: false });
    }

    /// Gives a variable a value.
    pub(super) fn set_variable(&mut self, variable: Variable, value: Value, span: Span) -> Run<()> {
        let Some(id) = self.scope_of(variable) else {
            self.set_elsewhere(variable);
            return Ok(());
        };
        let is_strong = self.is_strong(self.environments[id.0 as usize].born);
        let either = if self.is_later { Value::or_more } else { Value::or };
        let environment = &mut self.environments[id.0 as usize];
        let Some(place) = environment.places.get_mut(&variable) else { return Ok(()) };
        if !place.is_set {
            return Err(self.too_early(variable, span));
        }
        if place.is_constant {
            let name = self.program.name(variable).to_string();
            return Err(self.throws(span, RunFaultKind::ConstantSet { name }));
        }
        place.value = if is_strong { value } else { either(place.value.clone(), value) };
        Ok(())
    }

    /// Gives a variable its first value, where it is declared.
    pub(super) fn initialise(&mut self, variable: Variable, value: Value, is_constant: bool) {
        let Some(id) = self.scope_of(variable) else { return };
        let is_strong = self.is_strong(self.environments[id.0 as usize].born);
        let environment = &mut self.environments[id.0 as usize];
        if let Some(place) = environment.places.get_mut(&variable) {
            let value = if is_strong || !place.is_set { value } else { place.value.clone().or(value) };
            *place = Place { value, is_set: true, is_constant };
        }
    }

    /// A variable is not known any more.
    pub(super) fn forget_variable(&mut self, variable: Variable) {
        let Some(id) = self.scope_of(variable) else { return self.set_elsewhere(variable) };
        if let Some(place) = self.environments[id.0 as usize].places.get_mut(&variable)
            && place.is_set
        {
            place.value = Value::OPEN;
        }
    }

    pub(super) fn too_early(&mut self, variable: Variable, span: Span) -> Stop {
        let name = self.program.name(variable).to_string();
        self.throws(span, RunFaultKind::TooEarly { name })
    }

    pub(super) fn variable(&mut self, variable: Variable, span: Span) -> Run<Value> {
        let Some(id) = self.scope_of(variable) else { return Ok(self.variable_elsewhere(variable)) };
        let Some(place) = self.environments[id.0 as usize].places.get(&variable) else {
            return Ok(Value::OPEN);
        };
        if !place.is_set {
            return Err(self.too_early(variable, span));
        }
        Ok(match &place.value {
            Value::Undefined(None) => {
                let name = self.program.name(variable).to_string();
                Value::Undefined(Some(self.absent(Absence::Place { name })))
            }
            other => other.clone(),
        })
    }

    /// A global by its name. Where it is not there, that throws, unless it is only asked for.
    pub(super) fn global(&mut self, name: &Arc<str>, span: Span, throws: bool) -> Run<Value> {
        if let Some(value) = self.global_at(name, span, throws)? {
            if throws && value.doubt().is_some() {
                self.check_racing(name, span);
            }
            return Ok(value);
        }
        if throws {
            return Err(self.throws(span, RunFaultKind::NoGlobal { name: name.to_string() }));
        }
        Ok(Value::UNDEFINED)
    }

    /// A global of another script that may come too late.
    fn check_racing(&mut self, name: &Arc<str>, span: Span) {
        if !self.globals.contains_key(name) && self.world.global(name, self.is_later) == GlobalState::Perhaps
        {
            self.note(span, RunFaultKind::NoGlobal { name: name.to_string() });
        }
    }

    /// The same where it is asked for as a member of `window`, and something of it is.
    pub(super) fn check_racing_member(&mut self, id: ExpressionId) {
        let program = self.program;
        let Expression::Member { object, key: Key::Name(name), .. } = program.expression(id) else { return };
        let is_window =
            matches!(program.expression(*object), Expression::Global(of) if WINDOWS.contains(&&**of));
        if is_window && platform::global(name).is_none() {
            self.check_racing(name, program.span(id));
        }
    }

    /// A global's value; none where there is none.
    pub(super) fn global_value(&mut self, name: &Arc<str>) -> Run<Option<Value>> {
        self.global_at(name, Span { start: 0, end: 0 }, false)
    }

    fn global_at(&mut self, name: &Arc<str>, span: Span, throws: bool) -> Run<Option<Value>> {
        if let Some(value) = self.globals.get(name) {
            return Ok(Some(value.clone()));
        }
        let value = match &**name {
            "undefined" => Value::UNDEFINED,
            "NaN" => Value::Number(f64::NAN),
            "Infinity" => Value::Number(f64::INFINITY),
            "window" | "self" | "globalThis" | "frames" | "top" | "parent" => Value::Object(WINDOW),
            "innerWidth" | "innerHeight" | "outerWidth" => self.screen_size(name),
            "opener" => self.opener(),
            "arguments" => match self.frame.arguments.clone() {
                Some(values) => self.made(Kind::Array(values)),
                None => Value::OPEN,
            },
            _ => match self.platform_global(name) {
                Some(value) => value,
                None => match self.world.global(name, self.is_later) {
                    GlobalState::There => self.made_elsewhere(name),
                    GlobalState::Perhaps | GlobalState::Unknown => Value::OPEN,
                    GlobalState::Element(node) => self.page_element(node),
                    GlobalState::Query => self.made(Kind::QueryFunction),
                    // An element that has come to have such an ID is a global by that name.
                    GlobalState::EarlyElement | GlobalState::Absent
                        if self.touched.has(&NamedPart::Id(name.as_ref().into())) =>
                    {
                        Value::OPEN
                    }
                    GlobalState::EarlyElement if throws => {
                        let selector = format!("#{}", super::selector_checks::escaped(name));
                        return Err(self.throws(span, RunFaultKind::EarlyElement { selector }));
                    }
                    GlobalState::EarlyElement | GlobalState::Absent => return Ok(None),
                },
            },
        };
        Ok(Some(value))
    }
}
