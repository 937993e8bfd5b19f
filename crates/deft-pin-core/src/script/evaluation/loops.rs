//! Loops: how often they go round, and over what (ECMA-262, "Iteration Statements").

use std::sync::Arc;

use super::arguments::Items;
use super::machine::{Machine, Run, Stop};
use super::unfinished::{Each, Part, Rounds};
use super::value::{Certainty, EnvironmentId, Value};
use crate::script::program::{DeclarationKind, ExpressionId, LoopHead, Scope, StatementId, Variable};

/// So often a loop goes round before it counts as one that nobody can tell.
const MOST_ROUNDS: usize = 400;

impl<'m> Machine<'m> {
    /// A loop, with the label that was before it.
    pub(super) fn rounds<'l>(
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

    pub(super) fn run_loop(&mut self, rounds: &Rounds<'m>) -> Run<()> {
        self.go_round(rounds, 0, None)
    }

    /// The rounds from one on; `begun` is what that has come to, where it has begun already.
    pub(super) fn go_round(
        &mut self,
        rounds: &Rounds<'m>,
        first: usize,
        mut begun: Option<Run<()>>,
    ) -> Run<()> {
        let (certainty, region) = (self.certainty, self.region);
        for round in first..MOST_ROUNDS {
            if let Some(test) = rounds.test.filter(|_| begun.is_none() && !(rounds.runs_first && round == 0))
            {
                match self.at_once(|this| this.expression(test))?.truth() {
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
            let result = begun.take().unwrap_or_else(|| self.statement(rounds.body));
            self.keep_rest(&result, || Part::Loop(rounds.clone(), round));
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
                self.at_once(|this| this.expression(update))?;
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
    fn run_unknown_loop(&mut self, certainty: Certainty, rounds: &Rounds<'m>) -> Run<()> {
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
    pub(super) fn run_each(
        &mut self,
        (scope, head): (&'m Scope, &'m LoopHead),
        items: Items,
        body: StatementId,
        assigned: &'m [Variable],
    ) -> Run<()> {
        let label = self.label.take();
        self.go_over(Each { scope, head, body, assigned, label }, items, None)
    }

    /// Goes over items; `begun` is what the round before them has come to, where that has begun already.
    pub(super) fn go_over(&mut self, each: Each<'m>, items: Items, mut begun: Option<Run<()>>) -> Run<()> {
        let (certainty, region) = (self.certainty, self.region);
        let Items { known, more } = items;
        let mut known = known.into_iter();
        loop {
            let result = match begun.take() {
                Some(result) => result,
                None => match known.next() {
                    Some(item) => self.round(each.scope, each.head, item, each.body),
                    None => break,
                },
            };
            let mut is_over = false;
            self.keep_rest(&result, || {
                Part::Each(each.clone(), Items { known: known.as_slice().to_vec(), more })
            });
            Self::after_round(result, each.label.as_ref(), &mut is_over)?;
            if is_over {
                self.end_loop(certainty, region);
                return Ok(());
            }
        }
        if let Some(doubt) = more {
            let perhaps = Certainty::from(doubt);
            each.assigned.iter().for_each(|variable| self.forget_variable(*variable));
            let result = self.perhaps(perhaps, |this| {
                let mut is_over = false;
                let result = this.round(each.scope, each.head, Value::OPEN, each.body);
                Self::after_round(result, each.label.as_ref(), &mut is_over)
            });
            each.assigned.iter().for_each(|variable| self.forget_variable(*variable));
            result.or_else(|stop| self.may_stop(stop, perhaps))?;
        }
        self.end_loop(certainty, region);
        Ok(())
    }

    fn round(&mut self, scope: &'m Scope, head: &'m LoopHead, item: Value, body: StatementId) -> Run<()> {
        let outer = self.open(scope);
        let bound = match head {
            LoopHead::Declared(pattern) => self.bind(*pattern, item, Some(DeclarationKind::Let)),
            LoopHead::Assigned(pattern) => self.bind(*pattern, item, None),
        };
        let result = bound.and_then(|()| self.statement(body));
        self.environment = outer;
        result
    }
}
