//! Statements, as they run (ECMA-262, "ECMAScript Language: Statements and Declarations").

use super::arguments::Items;
use std::sync::Arc;

use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::value::{Certainty, EnvironmentId, Kind, Value};
use crate::script::program::{
    Case, DeclarationKind, ExpressionId, Handler, LoopHead, Scope, Statement, StatementId, Variable,
};

/// So often a loop goes round before it counts as one that nobody can tell.
const MOST_ROUNDS: usize = 400;

/// A loop.
struct Rounds<'l> {
    test: Option<ExpressionId>,
    update: Option<ExpressionId>,
    body: StatementId,
    /// What is assigned to in it.
    assigned: &'l [Variable],
    /// Whether the test comes behind the first round.
    runs_first: bool,
    /// Whether each round has names of its own.
    has_own_names: bool,
    label: Option<Arc<str>>,
}

impl Machine<'_> {
    /// Declares what a scope has, in a new scope inside of the one that this is in. Gives back the outer one.
    pub(super) fn open(&mut self, scope: &Scope) -> EnvironmentId {
        let outer = self.environment;
        if !scope.is_empty() {
            self.environment = self.enter(outer);
            self.declare_all(scope);
        }
        outer
    }

    pub(super) fn declare_all(&mut self, scope: &Scope) {
        for variable in &scope.plain {
            self.declare(*variable, Value::UNDEFINED, true);
        }
        for variable in &scope.late {
            self.declare(*variable, Value::UNDEFINED, false);
        }
        for (variable, function) in &scope.functions {
            let closure = self.closure(*function);
            self.declare(*variable, closure, true);
        }
    }

    pub(super) fn statements(&mut self, statements: &[StatementId]) -> Run<()> {
        statements.iter().try_for_each(|statement| self.statement(*statement))
    }

    pub(super) fn statement(&mut self, id: StatementId) -> Run<()> {
        self.step(1)?;
        self.deeper(|this| this.run_statement(id))
    }

    fn run_statement(&mut self, id: StatementId) -> Run<()> {
        let program = self.program;
        match program.statement(id) {
            Statement::Empty => {}
            Statement::Expression(own) => {
                self.expression(*own)?;
            }
            Statement::Variables(kind, all) => {
                for (pattern, value) in all {
                    let value = match value {
                        Some(value) => self.expression(*value)?,
                        // `var` without a value leaves what is there.
                        None if *kind == DeclarationKind::Var => continue,
                        None => Value::UNDEFINED,
                    };
                    self.bind(*pattern, value, Some(*kind))?;
                }
            }
            Statement::Class(variable, class) => {
                let class = self.class(*class)?;
                self.initialise(*variable, class, false);
            }
            Statement::Block(scope, body) => {
                let outer = self.open(scope);
                let result = self.statements(body);
                self.environment = outer;
                result?;
            }
            Statement::If { test, consequent, alternate } => self.run_if(*test, *consequent, *alternate)?,
            Statement::For { scope, init, test, update, body, assigned } => {
                let outer = self.open(scope);
                let rounds = self.rounds(*test, *update, *body, assigned);
                let result = init.map_or(Ok(()), |init| self.statement(init)).and_then(|()| {
                    self.run_loop(&Rounds { has_own_names: !scope.late.is_empty(), ..rounds })
                });
                self.environment = outer;
                result?;
            }
            Statement::While { test, body, assigned } => {
                let rounds = self.rounds(Some(*test), None, *body, assigned);
                self.run_loop(&rounds)?
            }
            Statement::DoWhile { body, test, assigned } => {
                let rounds = self.rounds(Some(*test), None, *body, assigned);
                self.run_loop(&Rounds { runs_first: true, ..rounds })?
            }
            Statement::ForIn { scope, head, over, body, assigned } => {
                let over = self.expression(*over)?;
                let keys = self.keys(&over);
                self.run_each(scope, head, keys, *body, assigned)?;
            }
            Statement::ForOf { scope, head, over, body, assigned } => {
                let span = program.span(*over);
                let over = self.expression(*over)?;
                let items = self.iterated(&over, span)?;
                let seen = self.state_of(&over);
                self.run_each(scope, head, items, *body, assigned)?;
                self.was_gone_over(seen);
            }
            Statement::Return(value) => {
                let value = value.map_or(Ok(Value::UNDEFINED), |value| self.expression(value))?;
                return Err(Stop::Return(value));
            }
            Statement::Throw(value) => {
                let thrown = self.expression(*value)?;
                // What is thrown in some case is meant to be.
                if self.certainty == Certainty::Certain {
                    self.note(program.span(*value), RunFaultKind::Thrown);
                }
                self.throws_itself = true;
                return Err(Stop::Throw(thrown));
            }
            Statement::Try { block, handler, finalizer } => {
                self.run_try(*block, handler.as_ref(), *finalizer)?
            }
            Statement::Switch { scope, value, cases } => {
                let value = self.expression(*value)?;
                let outer = self.open(scope);
                let result = self.run_switch(&value, cases);
                self.environment = outer;
                result?;
            }
            Statement::Labeled(label, body) => match self.labeled(label, *body) {
                Err(Stop::Break(Some(own)) | Stop::Continue(Some(own))) if own == *label => {}
                other => other?,
            },
            Statement::Break(label) => return Err(Stop::Break(label.clone())),
            Statement::Continue(label) => return Err(Stop::Continue(label.clone())),
            Statement::With(object, body) => {
                self.expression(*object)?;
                // Any name may mean a member of it.
                let result = self.perhaps(Certainty::Perhaps, |this| this.statement(*body));
                if let Err(stop) = result {
                    self.may_stop(stop, Certainty::Perhaps)?;
                }
            }
            Statement::Import(variables) => {
                for variable in variables {
                    self.declare(*variable, Value::OPEN, true);
                }
            }
        }
        Ok(())
    }

    fn run_if(
        &mut self,
        test: ExpressionId,
        consequent: StatementId,
        alternate: Option<StatementId>,
    ) -> Run<()> {
        let tested = self.expression(test)?;
        match tested.truth() {
            Ok(true) => self.statement(consequent),
            Ok(false) => alternate.map_or(Ok(()), |alternate| self.statement(alternate)),
            Err(doubt) => self.either(
                Certainty::from(doubt),
                |this| this.statement(consequent),
                |this| alternate.map_or(Ok(()), |other| this.statement(other)),
            ),
        }
    }

    /// Runs one of two pieces of code, which is not known.
    pub(super) fn either(
        &mut self,
        certainty: Certainty,
        first: impl FnOnce(&mut Self) -> Run<()>,
        second: impl FnOnce(&mut Self) -> Run<()>,
    ) -> Run<()> {
        let one = self.perhaps(certainty, first);
        let other = self.perhaps(certainty, second);
        match (one, other) {
            (Ok(()), Ok(())) => Ok(()),
            (Err(stop), Ok(())) | (Ok(()), Err(stop)) => self.may_stop(stop, certainty),
            (Err(Stop::Return(one)), Err(Stop::Return(other))) => Err(Stop::Return(one.or(other))),
            (Err(one), Err(other)) => {
                let is_throw = matches!(one, Stop::Throw(_));
                let (kept, noted) = if is_throw { (other, one) } else { (one, other) };
                self.may_stop(noted, certainty)?;
                Err(kept)
            }
        }
    }

    fn labeled(&mut self, label: &Arc<str>, body: StatementId) -> Run<()> {
        self.label = Some(Arc::clone(label));
        let result = self.statement(body);
        self.label = None;
        result
    }

    /// A loop, with the label that was before it.
    fn rounds<'l>(
        &mut self,
        test: Option<ExpressionId>,
        update: Option<ExpressionId>,
        body: StatementId,
        assigned: &'l [Variable],
    ) -> Rounds<'l> {
        let label = self.label.take();
        Rounds { test, update, body, assigned, runs_first: false, has_own_names: false, label }
    }

    /// Whether a loop goes on after one round.
    fn after_round(result: Run<()>, label: Option<&Arc<str>>, is_over: &mut bool) -> Run<()> {
        match result {
            Ok(()) | Err(Stop::Continue(None)) => Ok(()),
            Err(Stop::Continue(Some(own))) if Some(&own) == label => Ok(()),
            Err(Stop::Break(None)) => {
                *is_over = true;
                Ok(())
            }
            Err(other) => Err(other),
        }
    }

    fn run_loop(&mut self, rounds: &Rounds<'_>) -> Run<()> {
        let (certainty, region) = (self.certainty, self.region);
        for round in 0..MOST_ROUNDS {
            if let Some(test) = rounds.test.filter(|_| !(rounds.runs_first && round == 0)) {
                match self.expression(test)?.truth() {
                    Ok(true) => {}
                    Ok(false) => {
                        self.end_loop(certainty, region);
                        return Ok(());
                    }
                    Err(doubt) => {
                        let result = self.run_unknown_loop(Certainty::from(doubt), rounds);
                        self.end_loop(certainty, region);
                        return result;
                    }
                }
            }
            let mut is_over = false;
            let result = self.statement(rounds.body);
            Self::after_round(result, rounds.label.as_ref(), &mut is_over)?;
            if is_over {
                self.end_loop(certainty, region);
                return Ok(());
            }
            // What was made in a round keeps the names of that round (ECMA-262, "CreatePerIterationEnvironment").
            if rounds.has_own_names {
                let copy = self.environments[self.environment.0 as usize].clone();
                self.environments.push(copy);
                self.environment = EnvironmentId(self.environments.len() as u32 - 1);
            }
            if let Some(update) = rounds.update {
                self.expression(update)?;
            }
        }
        let result = self.run_unknown_loop(Certainty::Perhaps, rounds);
        self.end_loop(certainty, region);
        result
    }

    /// What may have been left within a loop has no say behind it, unless it threw.
    fn end_loop(&mut self, certainty: Certainty, region: u32) {
        let may_have_left = self.thrown.is_some() || self.frame.returned.is_some();
        if !may_have_left {
            (self.certainty, self.region) = (certainty, region);
        }
    }

    /// A loop of which nobody can tell how often it goes round.
    fn run_unknown_loop(&mut self, certainty: Certainty, rounds: &Rounds<'_>) -> Run<()> {
        rounds.assigned.iter().for_each(|variable| self.forget_variable(*variable));
        let result = self.perhaps(certainty, |this| {
            let mut is_over = false;
            let result = this.statement(rounds.body);
            Self::after_round(result, rounds.label.as_ref(), &mut is_over)?;
            if let Some(update) = rounds.update {
                this.expression(update)?;
            }
            rounds.test.map_or(Ok(()), |test| this.expression(test).map(drop))
        });
        rounds.assigned.iter().for_each(|variable| self.forget_variable(*variable));
        result.or_else(|stop| self.may_stop(stop, certainty))
    }

    /// Goes over items. What is not known of them comes at the end.
    fn run_each(
        &mut self,
        scope: &Scope,
        head: &LoopHead,
        items: Items,
        body: StatementId,
        assigned: &[Variable],
    ) -> Run<()> {
        let (certainty, region) = (self.certainty, self.region);
        let label = self.label.take();
        for item in items.known {
            let mut is_over = false;
            let result = self.round(scope, head, item, body);
            Self::after_round(result, label.as_ref(), &mut is_over)?;
            if is_over {
                self.end_loop(certainty, region);
                return Ok(());
            }
        }
        if let Some(doubt) = items.more {
            let perhaps = Certainty::from(doubt);
            assigned.iter().for_each(|variable| self.forget_variable(*variable));
            let result = self.perhaps(perhaps, |this| {
                let mut is_over = false;
                let result = this.round(scope, head, Value::OPEN, body);
                Self::after_round(result, label.as_ref(), &mut is_over)
            });
            assigned.iter().for_each(|variable| self.forget_variable(*variable));
            result.or_else(|stop| self.may_stop(stop, perhaps))?;
        }
        self.end_loop(certainty, region);
        Ok(())
    }

    fn round(&mut self, scope: &Scope, head: &LoopHead, item: Value, body: StatementId) -> Run<()> {
        let outer = self.open(scope);
        let bound = match head {
            LoopHead::Declared(pattern) => self.bind(*pattern, item, Some(DeclarationKind::Let)),
            LoopHead::Assigned(pattern) => self.bind(*pattern, item, None),
        };
        let result = bound.and_then(|()| self.statement(body));
        self.environment = outer;
        result
    }

    fn run_try(
        &mut self,
        block: StatementId,
        handler: Option<&Handler>,
        finalizer: Option<StatementId>,
    ) -> Run<()> {
        let (certainty, region, environment) = (self.certainty, self.region, self.environment);
        let thrown = self.thrown.take();
        self.tries += u32::from(handler.is_some());
        let result = self.statement(block);
        self.tries -= u32::from(handler.is_some());
        self.environment = environment;
        let may_have_thrown = self.thrown;
        let mut result = result;
        if let Some(handler) = handler {
            // What was thrown in it is caught.
            self.thrown = thrown;
            if self.frame.returned.is_none() {
                (self.certainty, self.region) = (certainty, region);
            }
            result = match result {
                Err(Stop::Throw(error)) => self.run_handler(handler, error),
                other => {
                    // Something that nobody can tell may throw there as well.
                    let doubt = may_have_thrown.unwrap_or(Certainty::Perhaps);
                    let caught = self.perhaps(doubt, |this| {
                        let error = Value::OPEN;
                        this.run_handler(handler, error)
                    });
                    if may_have_thrown.is_some()
                        && let Err(stop) = caught
                    {
                        self.may_stop(stop, doubt)?;
                    }
                    other
                }
            };
        } else {
            self.thrown = thrown.max(may_have_thrown);
        }
        if let Some(finalizer) = finalizer {
            self.statement(finalizer)?;
        }
        result
    }

    fn run_handler(&mut self, handler: &Handler, error: Value) -> Run<()> {
        let outer = self.open(&handler.scope);
        let bound = match handler.parameter {
            Some(parameter) => self.bind(parameter, error, Some(DeclarationKind::Let)),
            None => Ok(()),
        };
        let result = bound.and_then(|()| self.statement(handler.body));
        self.environment = outer;
        result
    }

    fn run_switch(&mut self, value: &Value, cases: &[Case]) -> Run<()> {
        let mut doubt: Option<Certainty> = None;
        let mut start = None;
        for (at, case) in cases.iter().enumerate() {
            let Some(test) = case.test else { continue };
            let tested = self.expression(test)?;
            match self.strictly_equal(value, &tested) {
                Ok(true) if doubt.is_none() => {
                    start = Some(at);
                    break;
                }
                Ok(false) => {}
                Ok(true) => break,
                Err(own) => doubt = doubt.max(Some(Certainty::from(own))),
            }
        }
        if let Some(doubt) = doubt {
            // Each may run, by itself.
            for case in cases {
                let result = self.perhaps(doubt, |this| this.statements(&case.body));
                match result {
                    Ok(()) | Err(Stop::Break(None)) => {}
                    Err(stop) => self.may_stop(stop, doubt)?,
                }
            }
            return Ok(());
        }
        let default = || cases.iter().position(|case| case.test.is_none());
        let Some(start) = start.or_else(default) else { return Ok(()) };
        for case in &cases[start..] {
            match self.statements(&case.body) {
                Ok(()) => {}
                Err(Stop::Break(None)) => return Ok(()),
                Err(other) => return Err(other),
            }
        }
        Ok(())
    }

    /// The names of the members of a value, as `for … in` goes over them.
    fn keys(&self, value: &Value) -> Items {
        let Value::Object(id) = value else {
            return match value {
                Value::Unknown(doubt) => Items { known: Vec::new(), more: Some(*doubt) },
                Value::Text(_) => Items { known: Vec::new(), more: Some(super::value::Doubt::Open) },
                _ => Items::default(),
            };
        };
        let object = self.object(*id);
        let more = object.is_open.then_some(super::value::Doubt::Open);
        match &object.kind {
            Kind::Plain => {
                Items { known: object.members.keys().map(|key| Value::Text(Arc::clone(key))).collect(), more }
            }
            Kind::List(of, items) if more.is_none() => {
                let names: &[&str] = match *of {
                    "NodeList" => &["length", "item", "entries", "forEach", "keys", "values"],
                    _ => &["length", "item", "namedItem"],
                };
                let places = (0..items.len()).map(|at| Value::text(&at.to_string()));
                let known = places.chain(names.iter().map(|name| Value::text(name))).collect();
                Items { known, more }
            }
            Kind::Array(items) => {
                Items { known: (0..items.len()).map(|at| Value::text(&at.to_string())).collect(), more }
            }
            _ => Items { known: Vec::new(), more: Some(super::value::Doubt::Open) },
        }
    }
}
