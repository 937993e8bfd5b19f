//! A script of a page, run: the page around it, and what the page's other scripts do.

use crate::code::{Address, BoardAddress, Location, Origin, resolve, resolve_beside};
use crate::markup::{Assume, Document, Matcher, NamedPart, NodeId, SelectorList, parse_selectors};
use crate::script::{
    AskedFile, Certainty, Code, Execution, GlobalState, GlobalUse, HandedOver, LookUp, Root, RunFault,
    RunFaultKind, ScriptKind, SketchedGlobal, Variable, When, World, Writing,
};
use crate::site::{PageStep, base_url, import_map};
use crate::source::{Day, FilePath, Span, files_in, nearest};

use super::script_fault::{FaultKind, StepFault};
use super::timeline_faults::{Definers, Looker};

/// Longer scripts of a site are not run: they would take too many steps to come to an end.
const LONGEST: usize = 1 << 20;

/// For so many of the elements that a pin is for its script is run.
const MOST_ROOTS: usize = 3;

/// What a script of a page runs in.
struct PageWorld<'w> {
    looker: &'w Looker<'w>,
    definers: &'w Definers<'w>,
    at: usize,
    root: Root,
    is_first_run: bool,
}

impl Looker<'_> {
    /// What goes wrong where the script of a step runs; none where it is not run here.
    pub(super) fn run(&self, at: usize, definers: &Definers<'_>) -> Option<Vec<StepFault>> {
        let step = &self.steps[at];
        let script = step.script()?;
        let is_run = match step.origin {
            Origin::Site => script.file.text.as_str().len() <= LONGEST,
            origin => origin.pin().is_some(),
        };
        is_run.then(|| self.run_anyway(at, definers))
    }

    /// The same, whoever's script it is.
    pub(super) fn run_anyway(&self, at: usize, definers: &Definers<'_>) -> Vec<StepFault> {
        let step = &self.steps[at];
        let Some(script) = step.script() else { return Vec::new() };
        let mut faults: Vec<RunFault> = Vec::new();
        for (number, root) in self.roots(step).into_iter().enumerate() {
            let world = PageWorld { looker: self, definers, at, root, is_first_run: number == 0 };
            for fault in script.file.run_faults(script.kind, &world) {
                if !faults.contains(&fault) {
                    faults.push(fault);
                }
            }
        }
        faults.into_iter().filter_map(|fault| self.told(at, fault, definers)).collect()
    }

    /// What a script is for: it runs once for each.
    fn roots(&self, step: &PageStep) -> Vec<Root> {
        let Some(frame) = step.script().and_then(|script| script.file.frame.as_ref()) else {
            return vec![Root::None];
        };
        let Some(within) = &frame.within else { return vec![Root::Document] };
        let Ok(list) = parse_selectors(within) else { return Vec::new() };
        let mut matcher = Matcher::new();
        let elements = self.page.document().elements();
        let matching = elements.filter(|element| matcher.matches_any(&list, *element, Assume::May));
        matching.take(MOST_ROOTS).map(|element| Root::Element(element.id)).collect()
    }

    fn told(&self, at: usize, fault: RunFault, definers: &Definers<'_>) -> Option<StepFault> {
        let RunFault { span, certainty, is_later, kind } = fault;
        let when = if is_later { When::Later } else { When::Now };
        let kind = match kind {
            RunFaultKind::NoGlobal { name } => self
                .read(at, &read_of(&name, span, when), definers)
                .unwrap_or(FaultKind::Missing { name, when, near: None }),
            RunFaultKind::EarlyElement { selector } => {
                let first = self.first(&selector)?;
                FaultKind::Early {
                    selector,
                    line: self.page.parsed().line_of(self.page.document().element(first)?),
                }
            }
            RunFaultKind::NoElement { selector } => {
                let looked = LookUp { selector: selector.clone(), span, when, guarded: false };
                match self.look_up(at, &looked) {
                    Some(kind) => kind,
                    // The page as it is served has one, and not where or when it is looked up.
                    None if self.first(&selector).is_some() => {
                        FaultKind::Runs(RunFaultKind::NoElement { selector })
                    }
                    None => FaultKind::Lost { selector, when, name: None, near: None },
                }
            }
            RunFaultKind::EmptySet { selector, .. } => {
                let near = self.near_looked_up(at, &selector, span, when);
                FaultKind::Runs(RunFaultKind::EmptySet { selector, near })
            }
            RunFaultKind::HandedOver { selector, to, how, .. } => {
                let near = self.near_looked_up(at, &selector, span, when);
                let is_told = match (how, &near) {
                    (HandedOver::Nothing | HandedOver::Early, _) => true,
                    (HandedOver::Selector, near) => near.is_some(),
                    (HandedOver::Name, near) => near.as_ref().is_some_and(|near| is_slip(&selector, near)),
                };
                if !is_told {
                    return None;
                }
                FaultKind::Runs(RunFaultKind::HandedOver { selector, to, how, near })
            }
            kind => FaultKind::Runs(kind),
        };
        Some(StepFault { step: at, span, certainty, kind })
    }

    /// For a selector that finds nothing, the name of the page that may be meant.
    fn near_looked_up(&self, at: usize, selector: &str, span: Span, when: When) -> Option<String> {
        let looked = LookUp { selector: selector.to_owned(), span, when, guarded: false };
        match self.look_up(at, &looked) {
            Some(FaultKind::Lost { near, .. }) => near,
            _ => None,
        }
    }

    fn first(&self, selector: &str) -> Option<NodeId> {
        let list = parse_selectors(selector).ok()?;
        let mut matcher = Matcher::new();
        let mut elements = self.page.document().elements();
        elements.find(|element| matcher.matches_any(&list, *element, Assume::May)).map(|element| element.id)
    }
}

/// Whether two names are one but for a single letter, and neither one thing and several of them nor one of several.
fn is_slip(name: &str, near: &str) -> bool {
    let is_plural = |one: &str, other: &str| one.strip_suffix('s') == Some(other);
    let bare = |name: &str| name.replace(|c: char| c.is_ascii_digit(), "");
    strsim::osa_distance(name, near) == 1
        && !is_plural(name, near)
        && !is_plural(near, name)
        && bare(name) != bare(near)
}

fn read_of(name: &str, span: Span, when: When) -> GlobalUse {
    GlobalUse { name: name.to_owned(), span, when, guarded: false, scheduled: false }
}

impl PageWorld<'_> {
    fn step(&self) -> &PageStep {
        &self.looker.steps[self.at]
    }

    /// How far the page is parsed when a step runs; none where it is through by then.
    fn parsed_until_of(&self, at: usize) -> Option<u32> {
        let step = &self.looker.steps[at];
        // A script of the page has its own element already.
        let own = u32::from(step.origin == Origin::Site);
        (step.timing.execution == Execution::Classic).then_some(step.at + own)
    }

    fn others(&self) -> impl Iterator<Item = (usize, &PageStep)> {
        self.looker.steps.iter().enumerate().filter(|(at, _)| *at != self.at)
    }

    /// The steps that define a global and have run by the time it is read.
    fn definers_before(&self, name: &str, is_later: bool) -> impl Iterator<Item = &PageStep> {
        let known = self.definers.steps.get(name).into_iter().flatten().copied();
        let timeline = self.looker.page.timeline();
        known
            .filter(move |by| *by != self.at && (is_later || timeline.is_before(*by, self.at)))
            .map(|by| &self.looker.steps[by])
    }
}

impl World for PageWorld<'_> {
    fn document(&self) -> &Document {
        self.looker.page.document()
    }

    fn path(&self) -> Option<&str> {
        Some(self.looker.page.page().path.as_str())
    }

    fn parsed_until(&self) -> Option<u32> {
        self.parsed_until_of(self.at)
    }

    fn writing(&self) -> Writing {
        match self.step().timing.execution {
            Execution::Ready | Execution::Later => Writing::Wipes(Certainty::Certain),
            Execution::Inserted => Writing::Wipes(Certainty::SomeVisit),
            Execution::Async | Execution::Defer | Execution::Module | Execution::AsyncModule => {
                Writing::Ignored
            }
            _ => Writing::IntoPage,
        }
    }

    fn global(&self, name: &str, is_later: bool) -> GlobalState {
        let when = if is_later { When::Later } else { When::Now };
        let defines_query = |step: &PageStep| {
            step.all_facts().any(|facts| facts.defines.iter().any(|own| own.name == "jQuery"))
        };
        if matches!(name, "$" | "jQuery") && self.definers_before(name, is_later).next().is_some() {
            let is_query = self.definers_before(name, is_later).all(defines_query);
            return if is_query { GlobalState::Query } else { GlobalState::There };
        }
        let read = read_of(name, Span { start: 0, end: 0 }, when);
        let is_defined = self.definers.steps.get(name).is_some_and(|by| by.iter().any(|by| *by != self.at));
        match self.looker.read(self.at, &read, self.definers) {
            Some(FaultKind::Race { .. }) => GlobalState::Perhaps,
            Some(_) => GlobalState::Absent,
            None if is_defined => GlobalState::There,
            None => self.named(name, is_later),
        }
    }

    fn is_defined(&self, name: &str) -> bool {
        let is_other = self.definers.steps.get(name).is_some_and(|by| by.iter().any(|by| *by != self.at));
        is_other || self.others().any(|(_, step)| step.may_define_anything())
    }

    fn is_made(&self, name: &str) -> bool {
        let mut by = self.definers.steps.get(name).into_iter().flatten().filter(|by| **by != self.at);
        by.any(|by| {
            let mut defined = self.looker.steps[*by].all_facts().flat_map(|facts| &facts.defines);
            defined.any(|own| own.name == name && !own.guarded)
        })
    }

    fn sketch(&self, name: &str) -> Option<SketchedGlobal> {
        if !self.knows_all() {
            return None;
        }
        let definers = self.definers.steps.get(name)?;
        let mut global: Option<SketchedGlobal> = None;
        for by in definers.iter().filter(|by| **by != self.at) {
            let script = self.looker.steps[*by].script()?;
            let mut own = script.file.sketch(script.kind, name)?;
            own.sketch = own.sketch.looked_up_by(self.parsed_until_of(*by));
            global = Some(match global {
                Some(known) => known.and(own)?,
                None => own,
            });
        }
        let others = self.others().filter(|(at, _)| !definers.contains(at)).flat_map(|(_, step)| {
            let kind = step.script().map_or(ScriptKind::Classic, |script| script.kind);
            step.scripts().map(move |script| (script, kind))
        });
        let handlers = self.looker.page.event_handlers().iter();
        let handlers = handlers.map(|handler| (&handler.script, ScriptKind::Confined));
        others
            .chain(handlers)
            .try_fold(global?, |global, (script, kind)| script.sketch_after(kind, name, global))
    }

    fn variable(&self, program: u32, variable: Variable) -> Option<SketchedGlobal> {
        let mut scripts = self.others().filter_map(|(_, step)| step.script());
        let global = scripts.find_map(|script| script.file.variable(script.kind, program, variable))?;
        Some(global.with_sets(&|name| self.sets_member(name)))
    }

    fn code(&self, program: u32) -> Option<Code<'_>> {
        let mut scripts = self.others().filter_map(|(_, step)| step.script());
        scripts.find_map(|script| script.file.code(script.kind, program))
    }

    fn is_lexical(&self, name: &str) -> bool {
        let is_late = |by: &usize| {
            let script = self.looker.steps[*by].script();
            script.is_some_and(|script| script.file.is_lexical(script.kind, name))
        };
        let mut others =
            self.definers.steps.get(name).into_iter().flatten().filter(|by| **by != self.at).peekable();
        others.peek().is_some() && others.all(is_late)
    }

    fn has_name(&self, name: &NamedPart) -> bool {
        self.looker.page.names().has(name)
    }

    fn mentions(&self, name: &str) -> bool {
        self.others().flat_map(|(_, step)| step.scripts()).any(|script| script.has_word(name))
    }

    fn sets_member(&self, name: &str) -> bool {
        self.others().flat_map(|(_, step)| step.scripts()).any(|script| script.sets_member(name))
    }

    fn acts_with(&self, name: &str) -> bool {
        let acting = self.others().filter(|(_, step)| !is_query_alone(step));
        acting.flat_map(|(_, step)| step.scripts()).any(|script| script.has_word(name))
    }

    fn has_text(&self, text: &str) -> bool {
        self.others().flat_map(|(_, step)| step.scripts()).any(|script| script.text.as_str().contains(text))
    }

    fn gives_member(&self, name: &str, is_it: &dyn Fn(&str) -> bool) -> bool {
        let own = format!(".prototype.{name}");
        self.others().flat_map(|(_, step)| step.scripts()).any(|script| {
            let text = script.text.as_str();
            let is_part = |c: char| c.is_alphanumeric() || matches!(c, '_' | '$');
            text.match_indices(&own).any(|(at, _)| {
                let before = &text[..at];
                let owner = &before[before.trim_end_matches(is_part).len()..];
                !text[at + own.len()..].starts_with(is_part) && is_it(owner)
            })
        })
    }

    fn near_word(&self, name: &str) -> Option<Option<String>> {
        if !self.knows_all() || self.mentions(name) || self.looker.page.text().contains(name) {
            return None;
        }
        let scripts = self.others().flat_map(|(_, step)| step.scripts());
        Some(scripts.filter_map(|script| script.near_word(name)).next())
    }

    fn may_be_made(&self, selectors: &SelectorList, is_later: bool) -> bool {
        self.looker.may_be_made(self.at, selectors, is_later)
    }

    fn knows_all(&self) -> bool {
        !self.others().any(|(_, step)| step.hides_something())
    }

    fn has_import_map(&self) -> bool {
        import_map(self.document()).is_some()
    }

    fn asked_file(&self, address: &str) -> AskedFile {
        let Some(file) = self.file_of(address) else { return AskedFile::MayBeThere };
        let context = self.looker.page.context();
        let site = context.site();
        if site.has_other(&file) || site.others.is_empty() {
            return AskedFile::MayBeThere;
        }
        let script =
            self.step().origin.pin().and_then(|pin| context.plan.pins[pin].script.as_ref()).and_then(
                |script| match resolve_beside(&script.path, address) {
                    BoardAddress::Beside(beside, _) => Some((script, beside)),
                    _ => None,
                },
            );
        if let Some((script, beside)) = &script {
            // What the script puts together is told of the board.
            let mut known = script.urls.iter().map(|url| &url.path).chain(&script.left_behind);
            if known.any(|path| path == beside) {
                return AskedFile::MayBeThere;
            }
        }
        let itself = script.as_ref().map(|(script, _)| &script.path);
        let near_in = |all: &[FilePath], wanted: &FilePath| {
            let beside = files_in(all, &wanted.folder())
                .filter(|own| own.extension() == wanted.extension() && Some(*own) != itself);
            nearest(wanted.name(), beside.map(FilePath::name)).map(str::to_owned)
        };
        let near = script
            .as_ref()
            .and_then(|(_, beside)| near_in(context.shelf.beside(), beside))
            .or_else(|| near_in(&site.others, &file));
        AskedFile::Missing { near: near.map(|near| address.replace(file.name(), &near)) }
    }

    fn today(&self) -> Option<Day> {
        self.looker.page.context().today
    }

    fn is_first_run(&self) -> bool {
        self.is_first_run
    }

    fn root(&self) -> Root {
        self.root
    }
}

/// Whether a script is jQuery and nothing else: it names that at its beginning, and gives it to the page at its end.
pub(super) fn is_query_alone(step: &PageStep) -> bool {
    /// In so many bytes.
    const NEAR: usize = 600;
    let mut scripts = step.scripts();
    let (Some(script), None) = (scripts.next(), scripts.next()) else { return false };
    let bytes = script.text.as_str().trim().as_bytes();
    let names = |bytes: &[u8]| memchr::memmem::find(bytes, b"jQuery").is_some();
    let gives_it_alone = step.all_facts().all(|facts| {
        facts.defines.iter().all(|own| matches!(own.name.as_str(), "jQuery" | "$"))
            && facts.defines.iter().any(|own| own.name == "jQuery")
    });
    gives_it_alone
        && names(&bytes[..bytes.len().min(NEAR)])
        && names(&bytes[bytes.len().saturating_sub(NEAR)..])
}

/// What files end in that no server makes anew at each visit.
const STILL: &[&str] = &[
    "avif", "css", "csv", "gif", "geojson", "jpeg", "jpg", "js", "json", "md", "mjs", "mp3", "mp4", "ogg",
    "pdf", "png", "svg", "txt", "vtt", "wasm", "wav", "webm", "webp", "xml",
];

impl PageWorld<'_> {
    /// The file of the site that an address means, where it is one that no server makes anew at each visit.
    fn file_of(&self, address: &str) -> Option<FilePath> {
        let parsed = self.looker.page.parsed();
        let base = base_url(&parsed.document, parsed.page)?;
        let Location::Linked(Address::Local(file)) = resolve(&base, address) else { return None };
        let extension = file.extension().to_ascii_lowercase();
        STILL.contains(&extension.as_str()).then_some(file)
    }

    /// An element that is a global by its ID.
    fn named(&self, name: &str, is_later: bool) -> GlobalState {
        let until = self.parsed_until().filter(|_| !is_later);
        match self.document().elements().find(|element| element.data().id() == Some(name)) {
            Some(found) if until.is_none_or(|until| found.data().start() < until) => {
                GlobalState::Element(found.id)
            }
            Some(_) => GlobalState::EarlyElement,
            None => GlobalState::Unknown,
        }
    }
}
