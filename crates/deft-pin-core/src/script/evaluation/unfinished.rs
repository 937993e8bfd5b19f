//! What of functions is still to run, where they are left half-way.

use std::sync::Arc;

use super::arguments::Items;
use super::value::{EnvironmentId, ObjectId, Value};
use crate::script::program::{
    Case, DeclarationKind, ExpressionId, Handler, LoopHead, PatternId, Scope, StatementId, Variable,
};

/// What a function that runs has of its own.
#[derive(Clone, Debug)]
pub(super) struct Frame {
    pub(super) this: Value,
    pub(super) arguments: Option<Vec<Value>>,
    pub(super) is_strict: bool,
    /// What it may have returned before.
    pub(super) returned: Option<Value>,
    /// Whether it has waited for something: what stands behind it has run by then.
    pub(super) has_waited: bool,
    /// Whether it can be left where it waits, and gone on with later.
    pub(super) may_wait: bool,
    /// For what the statement that runs has waited, and what came of that.
    pub(super) answers: Vec<(ExpressionId, Value)>,
    /// The class that it stands in.
    pub(super) home: Option<ObjectId>,
}

/// A loop.
#[derive(Clone)]
pub(super) struct Rounds<'l> {
    pub(super) test: Option<ExpressionId>,
    pub(super) update: Option<ExpressionId>,
    pub(super) body: StatementId,
    /// What is assigned to in it.
    pub(super) assigned: &'l [Variable],
    /// Whether the test comes behind the first round.
    pub(super) runs_first: bool,
    /// Whether each round has names of its own.
    pub(super) has_own_names: bool,
    pub(super) label: Option<Arc<str>>,
}

/// A loop over items.
#[derive(Clone)]
pub(super) struct Each<'l> {
    pub(super) scope: &'l Scope,
    pub(super) head: &'l LoopHead,
    pub(super) body: StatementId,
    /// What is assigned to in it.
    pub(super) assigned: &'l [Variable],
    pub(super) label: Option<Arc<str>>,
}

/// What of a function is still to run.
#[derive(Clone)]
pub(super) enum Part<'m> {
    /// The statement that waits.
    Statement(StatementId),
    /// Declarations, the first of which waits.
    Variables(DeclarationKind, &'m [(PatternId, Option<ExpressionId>)]),
    /// All that the function is.
    Expression(ExpressionId),
    /// The statements that come next.
    Statements(&'m [StatementId]),
    /// The rounds of a loop from one on, which has begun.
    Loop(Rounds<'m>, usize),
    /// The same over items: those that are left.
    Each(Each<'m>, Items),
    /// What is behind the block of a `try`.
    Try(Option<&'m Handler>, Option<StatementId>),
    /// A `finally`.
    Finally(StatementId),
    /// The cases of a `switch` that come next.
    Cases(&'m [Case]),
    Labeled(&'m Arc<str>),
}

/// The same, with its scope.
#[derive(Clone)]
pub(super) struct Rest<'m> {
    pub(super) part: Part<'m>,
    pub(super) environment: EnvironmentId,
}

/// A function that waits.
#[derive(Clone)]
pub(super) struct Left<'m> {
    /// What is still to run, from the innermost.
    pub(super) rests: Vec<Rest<'m>>,
    pub(super) frame: Frame,
    /// The `await`.
    pub(super) at: ExpressionId,
    /// Whether it has been gone on with.
    pub(super) has_gone_on: bool,
}

/// The functions that wait.
#[derive(Default)]
pub(super) struct Waiting<'m> {
    pub(super) left: Vec<Left<'m>>,
    /// What of the function that is being left is still to run, so far.
    pub(super) rests: Vec<Rest<'m>>,
    /// Whether nothing can be left now, since the state comes back that was before.
    pub(super) is_held: bool,
    /// What that waits for, and where.
    pub(super) awaited: Option<(ObjectId, ExpressionId)>,
}

impl Rest<'_> {
    pub(super) fn catches(&self) -> bool {
        matches!(self.part, Part::Try(Some(_), _))
    }
}
