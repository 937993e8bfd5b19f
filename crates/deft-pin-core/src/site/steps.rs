//! The steps of a page: its scripts and sheets, in the order of the document, each with how it comes
//! to its turn and what it needs and gives.

use std::borrow::Cow;
use std::sync::Arc;

use html5ever::local_name;

use super::loads::{Load, LoadKind, LoadTarget, loads};
use super::modules::ImportMap;
use super::pages::{Page, Site};
use super::scripts::{ScriptFile, ScriptFiles};
use super::sheets::{SheetOrigin, applies, preferred_title, title};
use crate::markup::{Document, ElementRef, Slot};
use crate::script::{Execution, LookUp, ScriptFacts, ScriptKind, Timing};
use crate::source::{Files, position_in};
use crate::style::{MediaList, Truth, Viewport};

/// A script or a sheet of a page.
#[derive(Clone, Debug)]
pub struct PageStep {
    /// Execution it comes to its turn.
    pub timing: Timing,
    /// Its file as seen from the site, or from the board for what a plan puts there; the page's own
    /// where it stands in the page; its address where it is on another host.
    pub file: String,
    /// Whether it stands in the page.
    pub is_inline: bool,
    /// The line of its element in the page as it is served.
    pub line: u32,
    /// Where it stands: the slot for what a plan puts there, else `head` or `body`.
    pub slot: &'static str,
    /// The byte of the page's text at which it comes to its turn, if the parser waits for it.
    pub at: u32,
    /// Where it comes from.
    pub origin: SheetOrigin,
    /// What is known of a script that can be read.
    pub script: Option<Arc<ScriptFile>>,
    /// Whether it is read as a module.
    pub kind: ScriptKind,
    /// Whether it could not be looked into: on another host, or not there.
    pub is_unread: bool,
    /// The modules that it imports, and those that they do.
    pub imported: Vec<Arc<ScriptFile>>,
    /// Whether it imports modules that could not be looked into.
    pub has_unknown: bool,
}

impl PageStep {
    /// The facts of a script that runs and can be read.
    pub fn facts(&self) -> Option<&ScriptFacts> {
        let runs = self.timing.execution != Execution::Never && !self.timing.execution.is_sheet();
        self.script.as_ref().filter(|_| runs).map(|script| script.facts(self.kind))
    }

    /// Those facts, and those of the modules that run with it.
    pub fn all_facts(&self) -> impl Iterator<Item = &ScriptFacts> {
        let imported = self.imported.iter().map(|script| script.facts(ScriptKind::Module));
        self.facts().into_iter().chain(imported)
    }

    /// Whether something runs with it that could not be looked into.
    pub fn hides_something(&self) -> bool {
        self.timing.execution != Execution::Never
            && !self.timing.execution.is_sheet()
            && (self.is_unread || self.has_unknown)
    }

    /// Whether it, or a module that runs with it, puts more scripts into the page.
    pub fn inserts_scripts(&self) -> bool {
        self.all_facts().any(|facts| facts.inserts_scripts)
    }

    /// Whether nobody can tell what comes to be defined by it.
    pub fn may_define_anything(&self) -> bool {
        self.hides_something() || self.inserts_scripts()
    }

    /// The selector of what it looks up, in which `:scope` has become the target of its pin.
    pub fn selector<'l>(&self, looked: &'l LookUp) -> Cow<'l, str> {
        let Some(rest) = looked.selector.strip_prefix(":scope ") else {
            return Cow::Borrowed(&looked.selector);
        };
        let frame = self.script.as_ref().and_then(|script| script.frame.as_ref());
        match frame.and_then(|frame| frame.within.as_ref()) {
            Some(within) if within.contains(',') => Cow::Owned(format!(":is({within}) {rest}")),
            Some(within) => Cow::Owned(format!("{within} {rest}")),
            None => Cow::Borrowed(rest),
        }
    }
}

/// A script or a sheet that a plan puts into a page.
#[derive(Clone, Debug)]
pub struct PlacedStep {
    /// The byte of the page's text that it stands at.
    pub at: u32,
    /// Its slot.
    pub slot: Slot,
    /// Where it comes from.
    pub origin: SheetOrigin,
    /// Its file, as seen from the board, or its address.
    pub file: String,
    /// A script's text, with what is known of it; none for a sheet or a script of another host.
    pub script: Option<Arc<ScriptFile>>,
    /// Execution it comes to its turn.
    pub execution: Execution,
}

/// The steps that a page has by itself.
pub fn page_steps(
    (text, document): (&str, &Document),
    page: &Page,
    (files, site): (&dyn Files, &Site),
    known: &ScriptFiles,
) -> Vec<PageStep> {
    let all = loads(document, page);
    let preferred = preferred_title(document, &all);
    let mut steps = Vec::new();
    let map = ImportMap::of(document, page);
    let body = document.body().map(|body| body.data().start());
    for load in &all {
        let Some(element) = document.element(load.element) else { continue };
        let slot = if body.is_some_and(|body| element.data().start() > body) { "body" } else { "head" };
        let mut step = PageStep {
            timing: Timing { execution: Execution::Never, is_loose: false },
            file: page.file.to_string(),
            is_inline: matches!(load.target, LoadTarget::Inline(_)),
            line: document.position(element, text).line,
            slot,
            at: element.data().start(),
            origin: SheetOrigin::Site,
            script: None,
            kind: ScriptKind::Classic,
            is_unread: false,
            imported: Vec::new(),
            has_unknown: false,
        };
        match load.kind {
            LoadKind::Style if applies(element, title(document, load), preferred.as_deref()) => {
                step.timing = sheet_turn(element, load, document);
            }
            LoadKind::Style => continue,
            LoadKind::Script => (step.timing.execution, step.kind) = script_how(element),
        }
        match &load.target {
            LoadTarget::Inline(id) if load.kind == LoadKind::Script => {
                let text = document.text_of(*id);
                if text.is_empty() {
                    step.timing.execution = Execution::Never;
                }
                step.script = Some(known.inline(text));
            }
            LoadTarget::Inline(_) => {}
            LoadTarget::Local(file) => {
                step.file = file.to_string();
                if load.kind == LoadKind::Script {
                    step.script = known.get(file, files, site);
                    step.is_unread = step.script.is_none();
                }
            }
            LoadTarget::Remote(address) | LoadTarget::Refused(address) => {
                step.file.clone_from(address);
                step.is_unread = true;
            }
        }
        if step.timing.execution == Execution::Module || step.timing.execution == Execution::AsyncModule {
            let base = match &load.target {
                LoadTarget::Local(file) => file.clone(),
                _ => page.file.clone(),
            };
            let gathered = map.gather(&base, step.script.as_ref(), (files, site, known));
            // What waits on its way lets others pass (HTML 8.1.4.4).
            let awaits = |script: &Arc<ScriptFile>| script.facts(ScriptKind::Module).awaits;
            step.timing.is_loose = !gathered.is_whole
                || step.script.as_ref().is_none_or(awaits)
                || gathered.modules.iter().any(awaits);
            step.has_unknown = !gathered.is_whole;
            step.imported = gathered.modules;
        }
        steps.push(step);
    }
    steps
}

/// The steps of a page with those that a plan puts there, in the order of the document. What a
/// plan puts before an element stands before it.
pub fn with_placed(own: Vec<PageStep>, placed: Vec<PlacedStep>, text: &str) -> Vec<PageStep> {
    let mut steps = Vec::with_capacity(own.len() + placed.len());
    let mut placed = placed.into_iter().peekable();
    for step in own {
        while let Some(before) = placed.next_if(|placed| placed.at <= step.at) {
            steps.push(of_plan(before, text));
        }
        steps.push(step);
    }
    steps.extend(placed.map(|placed| of_plan(placed, text)));
    steps
}

fn of_plan(own: PlacedStep, text: &str) -> PageStep {
    PageStep {
        timing: Timing { execution: own.execution, is_loose: false },
        imported: Vec::new(),
        has_unknown: false,
        is_inline: false,
        line: position_in(text, own.at).line,
        slot: own.slot.name(),
        at: own.at,
        origin: own.origin,
        is_unread: own.script.is_none() && !own.execution.is_sheet(),
        script: own.script,
        kind: ScriptKind::Classic,
        file: own.file,
    }
}

fn sheet_turn(element: ElementRef<'_>, load: &Load, document: &Document) -> Timing {
    let media = element.data().attr(&local_name!("media")).unwrap_or_default();
    let holds = media.trim().is_empty() || MediaList::parse(media).holds(&Viewport::default()) == Truth::Yes;
    match &load.target {
        LoadTarget::Inline(id) => {
            let imports = document.text_of(*id).to_ascii_lowercase().contains("@import");
            Timing { execution: Execution::Style, is_loose: imports || !holds }
        }
        _ => Timing { execution: Execution::Link, is_loose: !holds },
    }
}

/// Execution a script element comes to its turn ("prepare the script element", HTML 4.12.1.1).
fn script_how(element: ElementRef<'_>) -> (Execution, ScriptKind) {
    let data = element.data();
    let attr = |name: &str| data.attr(&html5ever::LocalName::from(name));
    let written = match (attr("type"), attr("language")) {
        (Some(""), _) | (None, None | Some("")) => "text/javascript".to_owned(),
        (Some(kind), _) => kind.trim_matches(|c: char| c.is_ascii_whitespace()).to_ascii_lowercase(),
        (None, Some(language)) => format!("text/{language}").to_ascii_lowercase(),
    };
    let is_module = written == "module";
    let kind = if is_module { ScriptKind::Module } else { ScriptKind::Classic };
    if !is_module && !is_javascript(&written) {
        return (Execution::Never, kind);
    }
    let is_svg = data.name.ns == html5ever::ns!(svg);
    let source = if is_svg { attr("href") } else { attr("src") };
    let is_async = attr("async").is_some();
    let how = match source {
        Some(source) if source.trim().is_empty() => Execution::Never,
        _ if !is_module && attr("nomodule").is_some() => Execution::Never,
        _ if !is_module && !is_for_window(attr("for"), attr("event")) => Execution::Never,
        _ if is_module && is_async => Execution::AsyncModule,
        _ if is_module => Execution::Module,
        Some(_) if is_async => Execution::Async,
        Some(_) if attr("defer").is_some() => Execution::Defer,
        _ => Execution::Classic,
    };
    (how, kind)
}

/// Scripts of old said what they are for; those that are not for the window's load do not run.
fn is_for_window(for_what: Option<&str>, event: Option<&str>) -> bool {
    let (Some(for_what), Some(event)) = (for_what, event) else { return true };
    let event = event.trim().to_ascii_lowercase();
    for_what.trim().eq_ignore_ascii_case("window") && matches!(event.as_str(), "onload" | "onload()")
}

/// The JavaScript MIME types (MIME Sniffing 4.6).
fn is_javascript(kind: &str) -> bool {
    let Some((family, name)) = kind.split_once('/') else { return false };
    match family {
        "text" => matches!(
            name,
            "javascript"
                | "ecmascript"
                | "javascript1.0"
                | "javascript1.1"
                | "javascript1.2"
                | "javascript1.3"
                | "javascript1.4"
                | "javascript1.5"
                | "jscript"
                | "livescript"
                | "x-ecmascript"
                | "x-javascript"
        ),
        "application" => matches!(name, "javascript" | "ecmascript" | "x-ecmascript" | "x-javascript"),
        _ => false,
    }
}
