//! What a script does wherever it runs: its evaluation without a page, of which nothing is known there.

use super::codes::Code;
use super::machine::{Machine, Turn};
use super::presence::Recorded;
use super::value::Certainty;
use super::world::{AskedFile, GlobalState, Root, World, Writing};
use crate::markup::{Document, NamedPart, SelectorList, parse};
use crate::script::added::{AddedName, names_of_markup};
use crate::script::frame::Frame;
use crate::script::globals::is_browser_global;
use crate::script::program::{Program, SketchedGlobal, Variable};
use crate::script::record::{GlobalUse, LookUp, When};
use crate::source::{Day, Span};

/// So many steps are taken for that.
const MOST_STEPS: u32 = 20_000;
/// So much is taken note of.
const MOST: usize = 500;

/// What a script does for certain wherever it runs, by its evaluation.
pub(crate) fn recorded(program: &Program, text: &str, frame: Option<&Frame>) -> Recorded {
    NOTHING.with(|document| {
        let world = Nowhere { document };
        let mut machine = Machine::new(program, text, &world);
        machine.most_steps = MOST_STEPS;
        machine.recorded = Some(Recorded::default());
        machine.presence.lose();
        if let Some(frame) = frame {
            machine.give_values(&frame.values);
        }
        machine.run_program(frame.map_or(&[], |frame| &frame.share));
        machine.recorded.unwrap_or_default()
    })
}

impl Machine<'_> {
    /// When what runs now runs; none where that is not certain.
    fn when(&self) -> Option<When> {
        let is_certain =
            self.certainty == Certainty::Certain && self.thrown.is_none() && !self.frame.has_waited;
        // Microtasks run before the next script does (HTML, "clean up after running script").
        let is_now = matches!(self.turn, None | Some(Turn::Microtask));
        let when = if is_now { When::Now } else { When::Later };
        is_certain.then_some(when)
    }

    /// Takes note of a global that the script defines.
    pub(super) fn records_global(&mut self, name: &str, span: Span) {
        let Some(when) = self.when().filter(|_| self.recorded.is_some() && !is_browser_global(name)) else {
            return;
        };
        let scheduled = self.turn.is_some_and(|turn| turn < Turn::Visitor);
        let name = name.to_owned();
        if let Some(own) = self.recorded.as_mut().filter(|own| own.defines.len() < MOST) {
            own.defines.push(GlobalUse { name, span, when, guarded: false, scheduled });
        }
    }

    /// Takes note of what the script looks up.
    pub(super) fn records_lookup(&mut self, selector: &str, span: Span) {
        let Some(when) = self.when() else { return };
        if let Some(own) = self.recorded.as_mut().filter(|own| own.looks_up.len() < MOST) {
            // Whether it copes with nothing being there is told on each page.
            own.looks_up.push(LookUp { selector: selector.to_owned(), span, when, guarded: true });
        }
    }

    /// Takes note of names that the script gives to elements.
    pub(super) fn records_names(&mut self, names: &str, is_id: bool) {
        let is_certain = self.when().is_some();
        let span = self.called_at;
        if let Some(own) = self.recorded.as_mut().filter(|own| is_certain && own.adds.len() < MOST) {
            let names = names.split_ascii_whitespace();
            own.adds.extend(names.map(|name| AddedName { name: name.to_owned(), is_id, span }));
        }
    }

    /// The same for those in markup.
    pub(super) fn records_markup(&mut self, markup: &str) {
        let is_certain = self.when().is_some();
        let span = self.called_at;
        if let Some(own) = self.recorded.as_mut().filter(|own| is_certain && own.adds.len() < MOST) {
            names_of_markup(markup, span, &mut own.adds);
        }
    }
}

/// A page of which nothing is known.
struct Nowhere<'d> {
    document: &'d Document,
}

thread_local! {
    /// What it has: nothing.
    static NOTHING: Document = parse(b"").1;
}

impl World for Nowhere<'_> {
    fn document(&self) -> &Document {
        self.document
    }

    fn path(&self) -> Option<&str> {
        None
    }

    fn parsed_until(&self) -> Option<u32> {
        None
    }

    fn writing(&self) -> Writing {
        Writing::IntoPage
    }

    fn global(&self, _: &str, _: bool) -> GlobalState {
        GlobalState::Unknown
    }

    fn is_defined(&self, _: &str) -> bool {
        true
    }

    fn is_made(&self, _: &str) -> bool {
        false
    }

    fn sketch(&self, _: &str) -> Option<SketchedGlobal> {
        None
    }

    fn variable(&self, _: u32, _: Variable) -> Option<SketchedGlobal> {
        None
    }

    fn code(&self, _: u32) -> Option<Code<'_>> {
        None
    }

    fn is_lexical(&self, _: &str) -> bool {
        false
    }

    fn has_name(&self, _: &NamedPart) -> bool {
        true
    }

    fn mentions(&self, _: &str) -> bool {
        true
    }

    fn sets_member(&self, _: &str) -> bool {
        true
    }

    fn acts_with(&self, _: &str) -> bool {
        true
    }

    fn has_text(&self, _: &str) -> bool {
        true
    }

    fn gives_member(&self, _: &str, _: &dyn Fn(&str) -> bool) -> bool {
        true
    }

    fn near_word(&self, _: &str) -> Option<Option<String>> {
        None
    }

    fn may_be_made(&self, _: &SelectorList, _: bool) -> bool {
        true
    }

    fn knows_all(&self) -> bool {
        false
    }

    fn has_import_map(&self) -> bool {
        true
    }

    fn asked_file(&self, _: &str) -> AskedFile {
        AskedFile::MayBeThere
    }

    fn today(&self) -> Option<Day> {
        None
    }

    fn is_first_run(&self) -> bool {
        true
    }

    fn root(&self) -> Root {
        Root::None
    }
}
