//! Statements, as they run (ECMA-262, "ECMAScript Language: Statements and Declarations").

use std::sync::Arc;

use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::unfinished::Part;
use super::value::{Certainty, EnvironmentId, Value};
use crate::script::program::{
    Case, DeclarationKind, DeclaredFunction, Expression, ExpressionId, Handler, Pattern, PatternId, Scope,
    Statement, StatementId, Variable,
};

impl<'m> Machine<'m> {
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
        for DeclaredFunction { variable, function, hoisted } in &scope.functions {
            let closure = self.closure(*function);
            self.declare(*variable, closure.clone(), true);
            if let Some(hoisted) = hoisted {
                self.hoists(*hoisted, closure);
            }
        }
    }

    /// A function that is declared in a block is there behind it as well, outside of strict code (ECMA-262, B.3.3).
    fn hoists(&mut self, variable: Variable, function: Value) {
        let inner = self.environment;
        let Some(parent) = self.environments[inner.0 as usize].parent else { return };
        self.environment = parent;
        let outer = self.scope_of(variable);
        self.environment = inner;
        let Some(outer) = outer else { return };
        let is_strong = self.is_strong(self.environments[outer.0 as usize].born);
        if let Some(place) = self.environments[outer.0 as usize].places.get_mut(&variable) {
            place.value = if is_strong { function } else { place.value.clone().or(function) };
        }
    }

    pub(super) fn statements(&mut self, statements: &'m [StatementId]) -> Run<()> {
        for (at, statement) in statements.iter().enumerate() {
            let result = self.statement(*statement);
            self.keep_rest(&result, || Part::Statements(&statements[at + 1..]));
            result?;
        }
        Ok(())
    }

    pub(super) fn statement(&mut self, id: StatementId) -> Run<()> {
        self.step(1)?;
        let result = self.deeper(|this| this.run_statement(id));
        self.keep_first(&result, || Part::Statement(id));
        result
    }

    /// Declares variables with their values.
    pub(super) fn variables(
        &mut self,
        kind: DeclarationKind,
        all: &'m [(PatternId, Option<ExpressionId>)],
    ) -> Run<()> {
        for (at, (pattern, value)) in all.iter().enumerate() {
            let value = match value {
                Some(value) => {
                    let result = self.answered(*value);
                    self.keep_first(&result, || Part::Variables(kind, &all[at..]));
                    result?
                }
                // `var` without a value leaves what is there.
                None if kind == DeclarationKind::Var => continue,
                None => Value::UNDEFINED,
            };
            if let (Some(given), Pattern::Local(variable), true) =
                (all[at].1, self.program.pattern(*pattern), self.asked_member.is_some())
            {
                self.asks_by_variable(*variable, given);
            }
            self.bind(*pattern, value, Some(kind))?;
        }
        Ok(())
    }

    fn run_statement(&mut self, id: StatementId) -> Run<()> {
        let program = self.program;
        match program.statement(id) {
            Statement::Empty => {}
            Statement::Expression(own) => {
                let value = self.answered(*own)?;
                self.check_idle(*own, &value);
            }
            Statement::Variables(kind, all) => self.variables(*kind, all)?,
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
                let mut rounds = self.rounds(*test, *update, *body, assigned);
                rounds.has_own_names = !scope.late.is_empty();
                let begun = self.at_once(|this| init.map_or(Ok(()), |init| this.statement(init)));
                let result = begun.and_then(|()| self.run_loop(&rounds));
                self.environment = outer;
                result?;
            }
            Statement::While { test, body, assigned } => {
                let rounds = self.rounds(Some(*test), None, *body, assigned);
                self.run_loop(&rounds)?
            }
            Statement::DoWhile { body, test, assigned } => {
                let mut rounds = self.rounds(Some(*test), None, *body, assigned);
                rounds.runs_first = true;
                self.run_loop(&rounds)?
            }
            Statement::ForIn { scope, head, over, body, assigned } => {
                self.check_keys(head, *over);
                let over = self.answered(*over)?;
                let keys = self.keys(&over);
                self.run_each((scope, head), keys, *body, assigned)?;
            }
            Statement::ForOf { scope, head, over, awaits, body, assigned } => {
                let span = program.span(*over);
                let over = self.answered(*over)?;
                let mut items = self.iterated(&over, span)?;
                if *awaits {
                    self.waits_for_each(&mut items);
                }
                let seen = self.state_of(&over);
                let result = self.run_each((scope, head), items, *body, assigned);
                if matches!(result, Ok(()) | Err(Stop::Wait)) {
                    self.was_gone_over(seen);
                }
                result?;
            }
            Statement::Return(value) => {
                let value = value.map_or(Ok(Value::UNDEFINED), |value| self.answered(value))?;
                return Err(Stop::Return(value));
            }
            Statement::Throw(value) => {
                let thrown = self.answered(*value)?;
                // What is thrown in some case is meant to be.
                if self.certainty == Certainty::Certain {
                    self.notes_stop(program.span(*value), RunFaultKind::Thrown);
                }
                self.throws_itself = true;
                return Err(Stop::Throw(thrown));
            }
            Statement::Try { block, handler, finalizer } => {
                self.run_try(*block, handler.as_ref(), *finalizer)?
            }
            Statement::Switch { scope, value, cases } => {
                let asked = *value;
                let (value, of) = match self.program.expression(asked) {
                    Expression::Member { .. } => self.member_and_owner(asked)?,
                    _ => (self.answered(asked)?, Value::UNDEFINED),
                };
                self.check_cases((asked, &value, &of), cases);
                if self.may_ask() {
                    for test in cases.iter().filter_map(|case| case.test) {
                        if let Expression::Text(text) = self.program.expression(test) {
                            self.asks_whether_equal(asked, &Value::text(text));
                        }
                    }
                }
                let outer = self.open(scope);
                let result = self.run_switch(&value, cases);
                self.environment = outer;
                result?;
            }
            Statement::Labeled(label, body) => {
                let result = self.labeled(label, *body);
                self.keep_rest(&result, || Part::Labeled(label));
                match result {
                    Err(Stop::Break(Some(own)) | Stop::Continue(Some(own))) if own == *label => {}
                    other => other?,
                }
            }
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
        if let (Statement::Empty, None) = (self.program.statement(consequent), alternate) {
            let span = self.program.span(test);
            self.is_vain("the `;` behind this test ends the `if`".to_owned(), None, span);
        }
        self.check_test(test);
        let tested = self.answered(test)?;
        self.check_tested(test, &tested);
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

    fn run_try(
        &mut self,
        block: StatementId,
        handler: Option<&'m Handler>,
        finalizer: Option<StatementId>,
    ) -> Run<()> {
        let (before, environment) = ((self.certainty, self.region), self.environment);
        let thrown = self.thrown.take();
        self.tries += u32::from(handler.is_some());
        let result = self.statement(block);
        self.tries -= u32::from(handler.is_some());
        self.environment = environment;
        if self.keep_rest(&result, || Part::Try(handler, finalizer)) {
            return result;
        }
        self.after_block(result, handler, finalizer, before, thrown)
    }

    /// What is behind the block of a `try`, with what that has come to, and what was certain before.
    pub(super) fn after_block(
        &mut self,
        mut result: Run<()>,
        handler: Option<&'m Handler>,
        finalizer: Option<StatementId>,
        before: (Certainty, u32),
        thrown: Option<Certainty>,
    ) -> Run<()> {
        let may_have_thrown = self.thrown;
        if let Some(handler) = handler {
            // What was thrown in it is caught.
            self.thrown = thrown;
            if self.frame.returned.is_none() {
                (self.certainty, self.region) = before;
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
            if self.keep_rest(&result, || Part::Finally(finalizer)) {
                return result;
            }
            self.at_once(|this| this.statement(finalizer))?;
        }
        result
    }

    fn run_handler(&mut self, handler: &'m Handler, error: Value) -> Run<()> {
        let outer = self.open(&handler.scope);
        let bound = match handler.parameter {
            Some(parameter) => self.bind(parameter, error, Some(DeclarationKind::Let)),
            None => Ok(()),
        };
        let result = bound.and_then(|()| self.statement(handler.body));
        self.environment = outer;
        result
    }

    fn run_switch(&mut self, value: &Value, cases: &'m [Case]) -> Run<()> {
        let mut doubt: Option<Certainty> = None;
        let mut start = None;
        for (at, case) in cases.iter().enumerate() {
            let Some(test) = case.test else { continue };
            let tested = self.at_once(|this| this.expression(test))?;
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
        match self.fall_through(&cases[start..]) {
            Err(Stop::Break(None)) => Ok(()),
            other => other,
        }
    }

    /// The cases of a `switch` from one on.
    pub(super) fn fall_through(&mut self, cases: &'m [Case]) -> Run<()> {
        for (at, case) in cases.iter().enumerate() {
            let result = self.statements(&case.body);
            self.keep_rest(&result, || Part::Cases(&cases[at + 1..]));
            result?;
        }
        Ok(())
    }
}
