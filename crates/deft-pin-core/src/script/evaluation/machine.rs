//! The state of an evaluation: scopes, objects, what is certain, and what went wrong so far.

use std::cell::Cell;
use std::collections::{BTreeMap, BTreeSet};
use std::rc::Rc;
use std::sync::Arc;

use rustc_hash::FxHashMap;

use super::codes::Codes;
use super::fault::RunFault;
use super::made_node::MadeNode;
use super::presence::{AskedTarget, Listener, Presence, Reaction, Recipe, Recorded, Yielded};
use super::touched::{Gone, Touched};
use super::unfinished::{Frame, Waiting};
use super::value::{
    Absence, Certainty, EnvironmentId, Found, Gathering, Kind, Node, Object, ObjectId, Value,
};
use super::visit::{Asks, Visit};
use super::world::World;
use crate::markup::NodeId;
use crate::script::program::{ExpressionId, Program, Variable};
use crate::source::Span;

/// So many steps one evaluation takes at most; what comes after is not looked at.
const MOST_STEPS: u32 = 200_000;
/// So deep may calls, expressions and statements stand in each other.
const DEEPEST: u32 = 600;

/// Why a piece of code is left.
#[derive(Clone, Debug)]
pub(super) enum Stop {
    Return(Value),
    Throw(Value),
    Break(Option<Arc<str>>),
    Continue(Option<Arc<str>>),
    /// The function waits for something, and is gone on with later.
    Wait,
    /// The evaluation has taken too many steps.
    Halt,
}

/// What a piece of code comes to.
pub(super) type Run<T> = Result<T, Stop>;

/// A variable's place in a scope.
#[derive(Clone, Debug)]
pub(super) struct Place {
    pub(super) value: Value,
    pub(super) is_set: bool,
    pub(super) is_constant: bool,
}

/// A scope that was entered.
#[derive(Clone)]
pub(super) struct Environment {
    pub(super) parent: Option<EnvironmentId>,
    pub(super) places: FxHashMap<Variable, Place>,
    pub(super) born: u32,
    /// Which script it is of.
    pub(super) code: u16,
}

/// When a task comes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub(super) enum Turn {
    /// As soon as what runs has ended.
    Microtask,
    /// `DOMContentLoaded`.
    Parsed,
    /// `load`.
    Loaded,
    /// Timers, observers.
    Timer,
    /// Something that a visitor does.
    Visitor,
}

/// A function that is called later.
#[derive(Clone, Debug)]
pub(super) struct Task {
    pub(super) function: Value,
    pub(super) this: Value,
    pub(super) arguments: Vec<Value>,
    pub(super) certainty: Certainty,
    pub(super) is_later: bool,
    /// The promise that it settles.
    pub(super) settles: Option<ObjectId>,
    /// What the promise comes to instead of what the function does.
    pub(super) keeps: Option<(bool, Value)>,
    /// The number of the timer that calls it.
    pub(super) timer: Option<u32>,
    /// The number of the listener that it calls.
    pub(super) listener: Option<u32>,
    /// For one that is called again and again, after how many milliseconds each time.
    pub(super) interval: Option<f64>,
    /// After how many milliseconds it comes at the earliest.
    pub(super) delay: f64,
    /// Whether that is known.
    pub(super) is_timed: bool,
    pub(super) span: Span,
}

impl Task {
    /// A function that is called later, and of which nobody asks what it comes to.
    pub(super) fn later(
        function: Value,
        this: Value,
        arguments: Vec<Value>,
        certainty: Certainty,
        span: Span,
    ) -> Self {
        Task {
            function,
            this,
            arguments,
            certainty,
            is_later: true,
            settles: None,
            keeps: None,
            timer: None,
            listener: None,
            interval: None,
            delay: 0.0,
            is_timed: false,
            span,
        }
    }
}

/// What the page as it is served and the scripts' texts tell, each asked once: the same however the script runs.
#[derive(Debug, Default)]
pub(super) struct Known {
    /// What selectors find on the page, within what, and whether all of it is parsed by then.
    pub(super) found: FxHashMap<(Option<Node>, String, bool), Rc<Found>>,
    /// Whether another script may give a member of that name to all of an interface.
    pub(super) added: FxHashMap<String, bool>,
    /// Whether the script itself may set a member of that name.
    pub(super) set_here: FxHashMap<String, bool>,
    /// What texts of the scripts tell, by what was asked.
    pub(super) told_by_texts: FxHashMap<String, bool>,
    /// For names that stand nowhere else, those of nearly that spelling.
    pub(super) unheard: FxHashMap<String, Option<String>>,
}

/// The evaluation of one script.
pub(super) struct Machine<'m> {
    /// What runs.
    pub(super) program: &'m Program,
    /// The text of the script itself.
    pub(super) text: &'m str,
    pub(super) world: &'m dyn World,
    /// The scripts whose code runs.
    pub(super) codes: Codes<'m>,
    pub(super) environments: Vec<Environment>,
    pub(super) objects: Vec<Object>,
    pub(super) absences: Vec<Absence>,
    pub(super) faults: Vec<(RunFault, bool)>,
    pub(super) globals: FxHashMap<Arc<str>, Value>,
    pub(super) elements: FxHashMap<Node, ObjectId>,
    pub(super) made_nodes: Vec<MadeNode>,
    /// Nodes of copies and of pieces of markup, by the number of the copy.
    pub(super) made_within: FxHashMap<(u32, NodeId), Value>,
    /// How often the script has given names to elements, or brought in markup.
    pub(super) givings: u32,
    /// How many copies, and pieces of markup that nodes of the script's own have in them, there are.
    pub(super) copies: u32,
    pub(super) touched: Touched,
    /// What a listener has asked of where its event came from.
    pub(super) asked_targets: Vec<AskedTarget>,
    /// The member of where an event came from that was asked for last: of what, what is listened on, which.
    pub(super) asked_member: Option<(ExpressionId, Value, Arc<str>)>,
    /// The variables that such members were given to.
    pub(super) asked_variables: Vec<(Variable, Value, Arc<str>)>,
    /// The `select`s whose values a listener has asked for.
    pub(super) asked_choices: Vec<Node>,
    /// What listens for events, for certain.
    pub(super) listeners: Vec<Listener>,
    /// How many there have been.
    pub(super) listener_count: u32,
    /// The page at present.
    pub(super) presence: Presence,
    /// What is in lists that show what comes to the page later.
    pub(super) recipes: FxHashMap<ObjectId, Recipe>,
    /// Texts of the tree, by what stands for them.
    pub(super) texts: FxHashMap<ObjectId, NodeId>,
    /// The faults by which a promise that was waited for was rejected.
    pub(super) carried: Vec<usize>,
    /// Whether the script has asked for the prototype of an interface.
    pub(super) has_prototypes: bool,
    /// Promises that are waited for together.
    pub(super) gatherings: Vec<Gathering>,
    /// The functions that wait for something.
    pub(super) waiting: Waiting<'m>,
    /// What the generator that runs has given so far.
    pub(super) yielded: Option<Yielded>,
    /// What elements of the script's own classes are to be told.
    pub(super) reactions: Vec<(NodeId, Reaction)>,
    /// Elements of the page that the script takes out: as a whole, or what is in them.
    pub(super) gone: Vec<Gone>,
    pub(super) tasks: BTreeMap<(Turn, u64, u32), Task>,
    pub(super) known: Known,
    /// Callbacks that are named in addresses.
    pub(super) callbacks: Vec<(Arc<str>, Span)>,
    /// The label of the loop that comes next.
    pub(super) label: Option<Arc<str>>,
    /// How many timers the script has set.
    pub(super) timers: u32,
    /// Timers that were taken back.
    pub(super) cleared: BTreeSet<u32>,
    /// How many tasks were looked at as what is called again and again.
    pub(super) repeated: u32,
    pub(super) environment: EnvironmentId,
    pub(super) frame: Frame,
    pub(super) certainty: Certainty,
    /// The number of the piece of code that may not run, in which this stands; higher for what was entered later.
    pub(super) region: u32,
    regions: u32,
    /// What may have thrown before, and so keeps what comes next from running.
    pub(super) thrown: Option<Certainty>,
    /// Whether what was asked for last by a name that is not known was asked for by a number.
    pub(super) has_number_key: bool,
    /// What was written as JSON last, as it is when it is read again.
    pub(super) written_json: Option<Value>,
    /// In how many `try` blocks this stands.
    pub(super) tries: u32,
    pub(super) is_later: bool,
    /// Which turn it has come to; none while the script runs from top to bottom.
    pub(super) turn: Option<Turn>,
    /// Whether what runs comes in the same order on each visit.
    pub(super) is_in_order: bool,
    /// Whether what was thrown last was thrown by the script on purpose.
    pub(super) throws_itself: bool,
    /// What is supposed of the visit.
    pub(super) visit: Visit,
    /// What the script asks of it.
    pub(super) asks: Asks,
    steps: Cell<u32>,
    /// How many steps it may take.
    pub(super) most_steps: u32,
    /// What is taken note of, where no faults are asked for.
    pub(super) recorded: Option<Recorded>,
    /// Objects whose constructors have not called those of what their classes extend.
    pub(super) unmade: Vec<ObjectId>,
    /// What has the members that objects of another script may have as well, for each script.
    pub(super) scripts: FxHashMap<usize, ObjectId>,
    /// The objects of other scripts: by what has the members that they may have as well, and the variable's number.
    pub(super) sketched_by: FxHashMap<(ObjectId, u32), ObjectId>,
    /// What a member was last set from.
    pub(super) assigned: Option<ExpressionId>,
    /// Where the call stands that runs.
    pub(super) called_at: Span,
    depth: u32,
    pub(super) task_count: u32,
    /// How many milliseconds after the page is loaded it is where timers come.
    pub(super) now: u64,
}

/// The objects that are there from the beginning.
pub(super) const WINDOW: ObjectId = ObjectId(0);
pub(super) const DOCUMENT: ObjectId = ObjectId(1);

impl<'m> Machine<'m> {
    pub(super) fn new(program: &'m Program, text: &'m str, world: &'m dyn World) -> Self {
        let root = Environment { parent: None, places: FxHashMap::default(), born: 0, code: 0 };
        let mut machine = Machine {
            program,
            text,
            world,
            codes: Codes::new(program, text),
            environments: vec![root],
            objects: Vec::new(),
            absences: Vec::new(),
            faults: Vec::new(),
            globals: FxHashMap::default(),
            elements: FxHashMap::default(),
            made_nodes: Vec::new(),
            made_within: FxHashMap::default(),
            givings: 0,
            copies: 0,
            touched: Touched::default(),
            asked_targets: Vec::new(),
            asked_member: None,
            asked_variables: Vec::new(),
            asked_choices: Vec::new(),
            listeners: Vec::new(),
            listener_count: 0,
            presence: Presence::new(),
            recipes: FxHashMap::default(),
            texts: FxHashMap::default(),
            carried: Vec::new(),
            has_prototypes: false,
            gatherings: Vec::new(),
            waiting: Waiting::default(),
            yielded: None,
            reactions: Vec::new(),
            gone: Vec::new(),
            tasks: BTreeMap::new(),
            known: Known::default(),
            callbacks: Vec::new(),
            label: None,
            timers: 0,
            cleared: BTreeSet::new(),
            repeated: 0,
            environment: EnvironmentId(0),
            frame: Frame {
                this: Value::Object(WINDOW),
                arguments: None,
                is_strict: program.is_strict,
                returned: None,
                has_waited: false,
                may_wait: false,
                answers: Vec::new(),
                home: None,
            },
            certainty: Certainty::Certain,
            region: 0,
            regions: 0,
            thrown: None,
            has_number_key: false,
            written_json: None,
            tries: 0,
            is_later: false,
            turn: None,
            is_in_order: true,
            throws_itself: false,
            visit: Visit::default(),
            asks: Asks::default(),
            steps: Cell::new(0),
            most_steps: MOST_STEPS,
            recorded: None,
            unmade: Vec::new(),
            scripts: FxHashMap::default(),
            sketched_by: FxHashMap::default(),
            assigned: None,
            called_at: Span { start: 0, end: 0 },
            depth: 0,
            task_count: 0,
            now: 0,
        };
        if !world.is_first_run() {
            machine.presence.lose();
        }
        machine.make(Kind::Window);
        machine.make(Kind::Document);
        machine
    }

    /// Counts a step.
    pub(super) fn step(&mut self, cost: u32) -> Run<()> {
        self.charge(cost as usize);
        if self.steps.get() > self.most_steps { Err(Stop::Halt) } else { Ok(()) }
    }

    /// Counts what takes longer than a step; the next step may be one too many then.
    pub(super) fn charge(&self, cost: usize) {
        let cost = u32::try_from(cost).unwrap_or(u32::MAX);
        self.steps.set(self.steps.get().saturating_add(cost));
    }

    /// Goes one level deeper, where that is allowed.
    pub(super) fn deeper<T>(&mut self, run: impl FnOnce(&mut Self) -> Run<T>) -> Run<T> {
        if self.depth >= DEEPEST {
            return Err(Stop::Halt);
        }
        self.depth += 1;
        let result = stacker::maybe_grow(128 << 10, 2 << 20, || run(self));
        self.depth -= 1;
        result
    }

    /// Whether what was made at a time is changed for certain by what runs now.
    pub(super) fn is_strong(&self, born: u32) -> bool {
        born >= self.region
    }

    pub(super) fn new_region(&mut self) -> u32 {
        self.regions += 1;
        self.regions
    }

    /// Runs what may not run.
    pub(super) fn perhaps<T>(
        &mut self,
        certainty: Certainty,
        run: impl FnOnce(&mut Self) -> Run<T>,
    ) -> Run<T> {
        let (outer, region) = (self.certainty, self.region);
        self.certainty = outer.max(certainty);
        self.region = self.new_region();
        let result = run(self);
        self.certainty = outer;
        self.region = region;
        result
    }

    /// From here on it is not certain that anything runs, up to the end of what is around.
    pub(super) fn weaken(&mut self, certainty: Certainty) {
        self.certainty = self.certainty.max(certainty);
        self.region = self.new_region();
    }

    /// Takes note of a piece of code that may have been left.
    pub(super) fn may_stop(&mut self, stop: Stop, certainty: Certainty) -> Run<()> {
        match stop {
            Stop::Halt => return Err(Stop::Halt),
            Stop::Return(value) => {
                self.frame.returned = Some(match self.frame.returned.take() {
                    Some(before) => before.or(value),
                    None => value,
                });
            }
            Stop::Throw(_) => self.thrown = self.thrown.max(Some(certainty)),
            Stop::Break(_) | Stop::Continue(_) | Stop::Wait => {}
        }
        self.weaken(certainty);
        Ok(())
    }
}
