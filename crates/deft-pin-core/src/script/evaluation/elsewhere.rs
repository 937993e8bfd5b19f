//! Functions and classes of other scripts of the page, run where the script calls them: what is theirs is known as far as
//! their declarations tell.

use rustc_hash::FxHashMap;

use super::machine::{Environment, Machine};
use super::value::{Closure, Doubt, EnvironmentId, ObjectId, Value};
use crate::script::program::{
    ClassId, ClassMember, ExpressionId, FunctionId, MemberKind, Program, Sketch, Variable,
};

impl<'m> Machine<'m> {
    /// The program of what was made in a scope.
    pub(super) fn program_of(&self, environment: EnvironmentId) -> &'m Program {
        let place = self.environments[environment.0 as usize].code;
        self.codes.all[usize::from(place)].0.program
    }

    /// Runs what was made in a scope, of this script or another.
    pub(super) fn in_code_of<T>(
        &mut self,
        environment: EnvironmentId,
        run: impl FnOnce(&mut Self) -> T,
    ) -> T {
        let place = self.environments[environment.0 as usize].code;
        if place == self.codes.running {
            return run(self);
        }
        let outer = (self.codes.running, self.codes.called_at, self.program);
        let (assigned, asked) = (self.assigned.take(), self.asked_member.take());
        if outer.0 == 0 {
            self.codes.called_at = self.called_at;
        }
        self.codes.running = place;
        self.program = self.codes.all[usize::from(place)].0.program;
        let result = run(self);
        (self.codes.running, self.codes.called_at, self.program) = outer;
        (self.assigned, self.asked_member) = (assigned, asked);
        result
    }

    /// The scope around a script of the page; none where its code is not run.
    fn scope_of_script(&mut self, number: u32) -> Option<EnvironmentId> {
        let known = match self.codes.places.get(&number) {
            Some(known) => *known,
            None => {
                let code = self.world.code(number);
                let place = code.and_then(|_| u16::try_from(self.codes.all.len()).ok());
                if let (Some(code), Some(place)) = (code, place) {
                    self.environments.push(Environment {
                        parent: None,
                        places: FxHashMap::default(),
                        born: 0,
                        code: place,
                    });
                    let environment = EnvironmentId(self.environments.len() as u32 - 1);
                    self.codes.all.push((code, environment));
                }
                self.codes.places.insert(number, place);
                place
            }
        };
        known.map(|place| self.codes.all[usize::from(place)].1)
    }

    /// A function of another script.
    pub(super) fn function_elsewhere(&mut self, (number, function): (u32, FunctionId)) -> Option<Closure> {
        let environment = self.scope_of_script(number)?;
        let is_arrow = self.program_of(environment).function(function).is_arrow;
        let this = is_arrow.then_some(Value::Unknown(Doubt::Script));
        Some(Closure { function, environment, this, home: None })
    }

    /// A class of another script, where it is as it is declared; with what has the members that it may have as well.
    pub(super) fn class_elsewhere(
        &mut self,
        (number, class): (u32, ClassId),
        sketch: &Sketch,
        perhaps: ObjectId,
    ) -> Option<Value> {
        let environment = self.scope_of_script(number)?;
        let program = self.program_of(environment);
        let has_own = |member: &ClassMember| {
            member.is_static && matches!(member.kind, MemberKind::Field(_) | MemberKind::Block(..))
        };
        if !program.sketches().is_untouched(class, sketch) || program.class(class).members.iter().any(has_own)
        {
            return None;
        }
        let outer = std::mem::replace(&mut self.environment, environment);
        let made = self.in_code_of(environment, |this| this.class(class));
        self.environment = outer;
        let Ok(Value::Object(made)) = made else { return None };
        let prototype = self.prototype_of(made);
        for own in [Some(made), prototype].into_iter().flatten() {
            self.object_mut(own).parent.get_or_insert(perhaps);
        }
        Some(Value::Object(made))
    }

    /// What another script has made of literals alone.
    pub(super) fn made_of_literals(&mut self, (number, id): (u32, ExpressionId)) -> Option<Value> {
        let environment = self.scope_of_script(number)?;
        let (outer, region) = (self.environment, std::mem::replace(&mut self.region, 0));
        self.environment = environment;
        // What it throws is that script's own.
        self.tries += 1;
        let value = self.in_code_of(environment, |this| this.expression(id));
        self.tries -= 1;
        (self.environment, self.region) = (outer, region);
        value.ok().filter(|value| !matches!(value, Value::Unknown(_)))
    }

    /// What a variable of the script is that runs, where it stands in none of the scopes that were entered.
    pub(super) fn variable_elsewhere(&mut self, variable: Variable) -> Value {
        let place = self.codes.running;
        if place == 0 {
            return Value::OPEN;
        }
        let program = self.program;
        if self.codes.is_global(variable) {
            let name = program.name(variable).clone();
            // What the script itself has by that name is not followed.
            if self.codes.own().has_variable(&name) {
                return Value::Unknown(Doubt::Script);
            }
            return match self.globals.get(&name) {
                Some(known) => known.clone(),
                None => self.made_elsewhere(&name),
            };
        }
        if let Some(known) = self.codes.variables.get(&(place, variable)) {
            return known.clone();
        }
        let value = match self.world.variable(program.number, variable) {
            Some(global) => self.sketched_global(global),
            None => Value::Unknown(Doubt::Script),
        };
        self.codes.variables.insert((place, variable), value.clone());
        value
    }

    /// A variable of the script that runs is set, which stands in none of the scopes that were entered.
    pub(super) fn set_elsewhere(&mut self, variable: Variable) {
        let place = self.codes.running;
        if place == 0 {
            return;
        }
        let unknown = Value::Unknown(Doubt::Script);
        match self.codes.is_global(variable) {
            true => drop(self.globals.insert(self.program.name(variable).clone(), unknown)),
            false => drop(self.codes.variables.insert((place, variable), unknown)),
        }
    }
}
