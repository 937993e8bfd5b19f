//! A script evaluated against a page, before it runs: values as far as they are known, each piece of code with how
//! certain it is that it runs, and what goes wrong there.
//!
//! What is not known is *unknown* and never fails. A test that nothing decides lets both ways run, which are uncertain
//! then, and what they set is uncertain behind them.

mod argument_checks;
mod arguments;
mod array_making;
mod arrays;
mod asked_selectors;
mod assignments;
mod callable;
mod calls;
mod classes;
mod clock;
mod codes;
mod collections;
mod constructors;
mod controls;
mod custom_elements;
mod delegated;
mod dispatching;
mod document_members;
mod element_members;
mod element_styles;
mod elements;
mod elsewhere;
mod events;
mod expressions;
mod fault;
mod first_visit;
mod form_data;
mod formats;
mod gatherings;
mod handed;
mod iterators;
mod json;
mod kept_values;
mod link_parts;
mod links;
mod listeners;
mod lookup_shapes;
mod lookups;
mod loops;
mod machine;
mod made;
mod made_events;
mod made_node;
mod made_sheets;
mod members;
mod methods;
mod mutations;
mod natives;
mod navigator;
mod never_texts;
mod noting;
mod number_texts;
mod object_functions;
mod objects;
mod operators;
mod option_checks;
mod other_scripts;
mod own_members;
mod patterns;
mod piece;
mod pieces;
mod platform;
mod platform_calls;
mod platform_members;
mod presence;
mod present_answers;
mod present_changes;
mod present_lists;
mod present_names;
mod present_page;
mod present_puts;
mod present_sets;
mod present_tables;
mod promises;
mod prototypes;
mod proxies;
mod query;
mod query_changes;
mod query_effects;
mod query_events;
mod query_grammar;
mod query_has;
mod query_selectors;
mod query_statics;
mod query_values;
mod query_ways;
mod query_wraps;
mod read_only;
mod recorded;
mod refused_addresses;
mod refused_attributes;
mod refused_calls;
mod refused_sets;
mod regular_matches;
mod repeated;
mod scopes;
mod screens;
mod selector_checks;
mod serialised;
mod set_members;
mod site_addresses;
mod sorting;
mod statements;
mod structured;
mod symbols;
mod tasks;
mod texts;
mod tokens;
mod touched;
mod tree;
mod unfinished;
mod vain_attributes;
mod vain_comparisons;
mod vain_listeners;
mod vain_lists;
mod vain_markup;
mod vain_options;
mod vain_sets;
mod vain_statements;
mod vain_tests;
mod vain_texts;
mod value;
mod visit;
mod waiting;
mod walkers;
mod window_calls;
mod world;

use super::frame::{Frame, FrameValue, VALUES};
use super::program::{Program, Statement, StatementId};
use crate::source::Span;
pub use codes::Code;
pub use fault::{HandedOver, RunFault, RunFaultKind};
use machine::{Known, Machine, Stop};
pub(super) use recorded::recorded;
pub use value::Certainty;
use value::{EnvironmentId, Kind, Value};
use visit::{Chance, Screen, Visit};
pub use world::{AskedFile, GlobalState, Root, World, Writing};

/// What goes wrong where a script runs on a page.
/// The functions that its frame shares are called by some visitor.
pub(super) fn run_faults(
    program: &Program,
    text: &str,
    world: &dyn World,
    frame: Option<&Frame>,
) -> Vec<RunFault> {
    let mut known = Known::default();
    let mut run = |visit: Visit| {
        let mut machine = Machine::new(program, text, world);
        machine.known = std::mem::take(&mut known);
        machine.visit = visit;
        if let Some(frame) = frame {
            machine.give_values(&frame.values);
        }
        machine.run_program(frame.map_or(&[], |frame| &frame.share));
        known = machine.known;
        let told = machine.faults.into_iter().filter(|(_, is_told)| *is_told).map(|(fault, _)| fault);
        (told.collect::<Vec<RunFault>>(), machine.asks)
    };
    let (mut faults, asks) = run(Visit::default());
    // What goes wrong on a first visit alone, or on a screen of one size alone, some visits come to.
    let screens: &[Option<Screen>] = match (asks.screen, asks.first) {
        (true, _) => &[Some(Screen::Wide), Some(Screen::Narrow)],
        (false, true) => &[None],
        (false, false) => &[],
    };
    let visit = |screen: &Option<Screen>| Visit { is_first: asks.first, screen: *screen, chance: None };
    let found: Vec<Vec<RunFault>> = screens.iter().map(|screen| run(visit(screen)).0).collect();
    // And so what goes wrong at some time.
    let chances: &[Chance] = if asks.chance { &[Chance::Least, Chance::Most] } else { &[] };
    let by_chance = chances.iter().map(|chance| run(Visit { chance: Some(*chance), ..Visit::default() }).0);
    let is_among = |fault: &RunFault, all: &[RunFault]| {
        all.iter().any(|known| known.span == fault.span && known.kind == fault.kind)
    };
    let told: Vec<(Span, Certainty)> = faults.iter().map(|fault| (fault.span, fault.certainty)).collect();
    for (fault, is_of_first) in found
        .iter()
        .flatten()
        .map(|fault| (fault.clone(), asks.first))
        .chain(by_chance.flatten().map(|fault| (fault, false)))
    {
        // What goes wrong there in any case is not told of some visits as well.
        let is_told =
            told.iter().any(|(span, certainty)| *span == fault.span && *certainty == Certainty::Certain);
        if !is_told && !is_among(&fault, &faults) {
            let is_on_all = is_of_first && found.iter().all(|all| is_among(&fault, all));
            let least = if is_on_all { Certainty::FirstVisit } else { Certainty::SomeVisit };
            faults.push(RunFault { certainty: fault.certainty.max(least), ..fault });
        }
    }
    faults.sort_by(|a, b| (a.span, &a.kind).cmp(&(b.span, &b.kind)));
    faults.dedup();
    faults
}

impl Machine<'_> {
    /// Callbacks that addresses name have to be there by the time that what is loaded calls them.
    fn check_callbacks(&mut self) {
        for (name, span) in std::mem::take(&mut self.callbacks) {
            let program = self.program;
            let own: Vec<&str> = program
                .top
                .plain
                .iter()
                .chain(&program.top.late)
                .map(|variable| &**program.name(*variable))
                .chain(self.globals.keys().map(|name| &**name))
                .collect();
            if own.contains(&&*name) || self.world.is_defined(&name) {
                continue;
            }
            let near = crate::source::nearest(&name, own).map(str::to_owned);
            self.note(span, RunFaultKind::NoCallback { name: name.to_string(), near });
        }
    }

    /// A module that is asked for by a name has to be in the page's import map (HTML, "resolve a module specifier").
    fn asks_for_module(&mut self, specifier: &Value, span: Span) {
        let is_address = |text: &str| text.starts_with(['.', '/']) || text.contains(':');
        // What is caught is expected.
        let behind = self.text.get(span.end as usize..).unwrap_or_default();
        let statement = behind.split(';').next().unwrap_or_default();
        if statement.contains(".catch(") {
            return;
        }
        match specifier {
            Value::Text(text) if !is_address(text) && !self.world.has_import_map() => {
                self.note(span, RunFaultKind::BareSpecifier { specifier: text.to_string() });
            }
            specifier => self.asks_for_file(specifier, span),
        }
    }

    /// A file that is asked for by an address has to be there.
    fn asks_for_file(&mut self, address: &Value, span: Span) {
        let Value::Text(address) = address else { return };
        let kind = match self.world.asked_file(address) {
            AskedFile::MayBeThere => return,
            AskedFile::Missing { near } => RunFaultKind::MissingFile { address: address.to_string(), near },
        };
        self.note(span, kind);
    }

    /// The script has stopped. What comes next is looked at as well: it runs once that is mended.
    fn go_on_after(&mut self, statement: StatementId) {
        self.weaken(Certainty::SomeVisit);
        self.environment = EnvironmentId(0);
        match self.program.statement(statement) {
            Statement::Variables(_, all) => {
                for (pattern, _) in all {
                    for variable in self.program.variables_of(*pattern) {
                        self.declare(variable, Value::OPEN, true);
                    }
                }
            }
            Statement::Class(variable, _) => self.declare(*variable, Value::OPEN, true),
            _ => {}
        }
    }

    /// The values of the board, as members of `values`.
    fn give_values(&mut self, values: &[FrameValue]) {
        if values.is_empty() {
            return;
        }
        let id = self.make(Kind::Plain);
        for value in values {
            let known = match serde_json::from_str(&value.code) {
                Ok(serde_json::Value::String(text)) => Value::text(&text),
                Ok(serde_json::Value::Number(number)) => number.as_f64().map_or(Value::OPEN, Value::Number),
                _ => Value::OPEN,
            };
            self.object_mut(id).members.insert(value.name.as_str().into(), known);
        }
        self.globals.insert(VALUES.into(), Value::Object(id));
    }

    fn run_program(&mut self, share: &[String]) {
        let program = self.program;
        let root = match self.world.root() {
            Root::None => None,
            Root::Document => Some(Value::Object(machine::DOCUMENT)),
            Root::Element(node) => Some(self.page_element(node)),
        };
        if let Some(root) = root {
            self.globals.insert(super::frame::ROOT.into(), root);
        }
        self.declare_all(&program.top);
        for statement in &program.body {
            match self.statement(*statement) {
                Ok(()) => {}
                Err(Stop::Halt) => return,
                Err(Stop::Throw(_)) if !self.throws_itself => self.go_on_after(*statement),
                Err(_) => break,
            }
        }
        self.certainty = Certainty::Certain;
        self.region = 0;
        self.thrown = None;
        self.tries = 0;
        for variable in program.top.plain.iter().chain(&program.top.late) {
            let is_shared = share.iter().any(|name| **name == **program.name(*variable));
            let value = self.environments[0].places.get(variable).map(|place| place.value.clone());
            let is_called = value
                .as_ref()
                .is_some_and(|value| matches!(self.kind(value), Some(Kind::Function(_) | Kind::Bound(..))));
            if let Some(value) = value.filter(|_| is_shared && is_called) {
                let span = crate::source::Span { start: 0, end: 0 };
                self.later(value, vec![Value::OPEN; 4], machine::Turn::Visitor, Certainty::SomeVisit, span);
            }
        }
        // Past the bound nothing more is looked at.
        let result = self.run_tasks().and_then(|()| {
            (self.certainty, self.tries, self.is_later) = (Certainty::Certain, 0, true);
            self.supposes_elements()?;
            self.run_tasks()?;
            self.go_on_with_all();
            self.run_tasks()
        });
        if result.is_ok() {
            (self.certainty, self.tries, self.is_later) = (Certainty::Certain, 0, true);
            self.check_callbacks();
        }
    }
}
