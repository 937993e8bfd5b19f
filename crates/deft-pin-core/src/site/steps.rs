//! The steps of a page: its scripts and sheets, in the order of the document, each with how it comes
//! to run and what it needs and gives.

use std::borrow::Cow;
use std::fmt;
use std::sync::Arc;

use html5ever::local_name;

use super::loads::{Load, charset_of, switched_on_load};
use super::modules::{ImportFlaw, PageModules};
use super::parsed::ParsedPage;
use super::sheets::{applies, preferred_title, title};
use super::shelf::Shelf;
use crate::code::{Address, CodeKind, Location, Origin};
use crate::markup::{Document, ElementRef, Slot};
use crate::script::{Execution, LookUp, ScriptFacts, ScriptFile, ScriptKind, Timing, When};
use crate::source::FilePath;
use crate::style::{MediaList, Truth, Viewport};

/// A script or a sheet of a page.
#[derive(Clone, Debug)]
pub struct PageStep {
    /// How it comes to run, or to be applied.
    pub timing: Timing,
    /// Where its code is: as seen from the site, or from the board for what a plan puts there.
    pub location: Location,
    /// The line of its element in the page as it is served.
    pub line: u32,
    /// Where it stands.
    pub part: PagePart,
    /// The byte of the page's text at which it comes to run, if the parser waits for it.
    pub at: u32,
    /// Where it comes from.
    pub origin: Origin,
    /// What there is to run or to apply.
    pub code: StepCode,
}

/// The part of a page that a step stands in.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum PagePart {
    /// The page's own head.
    Head,
    /// The page's own body.
    Body,
    /// The slot that a plan puts it into.
    Slot(Slot),
    /// A block of the host.
    Block,
}

impl fmt::Display for PagePart {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        match self {
            PagePart::Head => f.write_str("head"),
            PagePart::Body => f.write_str("body"),
            PagePart::Slot(slot) => slot.fmt(f),
            PagePart::Block => f.write_str("block"),
        }
    }
}

/// What there is to run or to apply.
#[derive(Clone, Debug)]
pub enum StepCode {
    /// A sheet of the page, a file of the site or of the board.
    Sheet,
    /// A script that could be read.
    Script(StepScript),
    /// A sheet or script that could not be looked into: on another host, or not there.
    Unread(CodeKind),
}

/// A script that runs, with what comes along.
#[derive(Clone, Debug)]
pub struct StepScript {
    /// The script.
    pub file: Arc<ScriptFile>,
    /// How it is read.
    pub kind: ScriptKind,
    /// The modules that it imports, and those that they do.
    pub imported: Vec<Arc<ScriptFile>>,
    /// Whether it imports modules that could not be looked into.
    pub has_unknown_imports: bool,
    /// What keeps it from running in what it imports.
    pub import_flaws: Vec<ImportFlaw>,
}

/// Scripts of a site that are longer are libraries.
const LONG_SCRIPT: usize = 20 << 10;

impl PageStep {
    /// Whether it is a sheet or a script.
    pub fn kind(&self) -> CodeKind {
        match &self.code {
            StepCode::Sheet => CodeKind::Style,
            StepCode::Script(_) => CodeKind::Script,
            StepCode::Unread(kind) => *kind,
        }
    }

    /// Whether it stands in the page.
    pub fn is_inline(&self) -> bool {
        self.location == Location::Inline
    }

    /// Whether it could not be looked into.
    pub fn is_unread(&self) -> bool {
        matches!(self.code, StepCode::Unread(_))
    }

    /// The name of its file or its address; for what stands in the page, the page's own file.
    pub fn file_name<'n>(&'n self, page: &'n FilePath) -> &'n str {
        match &self.location {
            Location::Inline => page.as_str(),
            Location::Linked(address) => address.as_str(),
            Location::Refused(address) => address,
        }
    }

    /// The file or the address that its element names; none for what stands in the page.
    pub fn address(&self) -> Option<&str> {
        match &self.location {
            Location::Inline => None,
            Location::Linked(address) => Some(address.as_str()),
            Location::Refused(address) => Some(address),
        }
    }

    /// Its script, where that could be read.
    pub fn script(&self) -> Option<&StepScript> {
        match &self.code {
            StepCode::Script(script) => Some(script),
            StepCode::Sheet | StepCode::Unread(_) => None,
        }
    }

    /// Its script, where that could be read, and the modules that run with it.
    pub fn scripts(&self) -> impl Iterator<Item = &Arc<ScriptFile>> {
        self.script().into_iter().flat_map(|script| std::iter::once(&script.file).chain(&script.imported))
    }

    fn running(&self) -> Option<&StepScript> {
        self.script().filter(|_| self.timing.execution != Execution::Never)
    }

    /// The facts of a script that runs and can be read.
    pub fn facts(&self) -> Option<&ScriptFacts> {
        self.running().map(|script| script.file.facts(script.kind))
    }

    /// Those facts, and those of the modules that run with it.
    pub fn all_facts(&self) -> impl Iterator<Item = &ScriptFacts> {
        let imported = self.script().into_iter().flat_map(|script| &script.imported);
        self.facts().into_iter().chain(imported.map(|script| script.facts(ScriptKind::Module)))
    }

    /// Whether something runs with it that could not be looked into.
    pub fn hides_something(&self) -> bool {
        self.timing.execution != Execution::Never
            && match &self.code {
                StepCode::Sheet => false,
                StepCode::Script(script) => {
                    script.has_unknown_imports || self.all_facts().any(ScriptFacts::is_unread)
                }
                StepCode::Unread(kind) => *kind == CodeKind::Script,
            }
    }

    /// Whether it, or a module that runs with it, puts more scripts into the page. What a library has functions
    /// for, which nobody calls by themselves, does not count.
    pub fn inserts_scripts(&self) -> bool {
        let is_long = self.script().is_some_and(|script| script.file.text.as_str().len() > LONG_SCRIPT);
        let is_library = self.origin.library().is_some() || is_long;
        let counts = |when: When| when != When::Perhaps || !is_library;
        self.all_facts().filter_map(|facts| facts.inserts_scripts).any(counts)
    }

    /// Whether nobody can tell what comes to be defined by it.
    pub fn may_define_anything(&self) -> bool {
        self.hides_something() || self.inserts_scripts()
    }

    /// Whether scripts that it inserts may run at once: their code stands in it, or they are written into the page
    /// (HTML, "prepare the script element").
    pub fn inserts_code(&self) -> bool {
        self.scripts().any(|script| script.may_insert_code())
    }

    /// The selector of what it looks up, in which `:scope` has become the target of its pin.
    pub fn selector<'l>(&self, looked: &'l LookUp) -> Cow<'l, str> {
        let Some(rest) = looked.selector.strip_prefix(":scope ") else {
            return Cow::Borrowed(&looked.selector);
        };
        let frame = self.script().and_then(|script| script.file.frame.as_ref());
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
    /// The slot or the block that it is in.
    pub part: PagePart,
    /// Where it comes from.
    pub origin: Origin,
    /// Where its code is, as seen from the board.
    pub address: Address,
    /// What there is to run or to apply.
    pub code: StepCode,
    /// How it comes to its timing.
    pub timing: Timing,
}

/// The steps that a page has by itself.
pub fn page_steps(page: &ParsedPage<'_>, loads: &[Load], shelf: &Shelf<'_>) -> Vec<PageStep> {
    let document = &page.document;
    let preferred = preferred_title(document, loads);
    let mut modules = None;
    let body = document.body().map(|body| body.data().start());
    let mut steps = Vec::new();
    for load in loads {
        let Some(element) = document.element(load.element) else { continue };
        let is_in_body = body.is_some_and(|body| element.data().start() > body);
        let (timing, code) = match load.kind {
            CodeKind::Style if applies(element, title(document, load), preferred.as_deref()) => {
                let is_read = load.location == Location::Inline || load.location.local().is_some();
                let code = if is_read { StepCode::Sheet } else { StepCode::Unread(CodeKind::Style) };
                (sheet_timing(element, load, document), code)
            }
            CodeKind::Style => continue,
            CodeKind::Script => {
                let (execution, kind) = script_execution(element);
                let mut timing = Timing { execution, is_loose: false };
                let file = match &load.location {
                    Location::Inline => {
                        let text = document.text_of(element.id);
                        if text.is_empty() {
                            timing.execution = Execution::Never;
                        }
                        Some(shelf.inline_script(&text))
                    }
                    location => location.local().and_then(|file| match kind {
                        ScriptKind::Module => shelf.module(file),
                        _ => shelf.script(file, charset_of(element).unwrap_or(page.encoding())),
                    }),
                };
                let is_module = matches!(timing.execution, Execution::Module | Execution::AsyncModule);
                let Some(file) = file else {
                    timing.is_loose = is_module;
                    let code = StepCode::Unread(CodeKind::Script);
                    steps.push(own_step(page, load, element, is_in_body, timing, code));
                    continue;
                };
                let mut script = StepScript {
                    file,
                    kind,
                    imported: Vec::new(),
                    has_unknown_imports: false,
                    import_flaws: Vec::new(),
                };
                if is_module {
                    let modules = modules.get_or_insert_with(|| PageModules::of(page));
                    let found = modules.imported_by(&script.file, load.location.local(), shelf);
                    // What waits on its way lets others pass (HTML, "run a module script").
                    let awaits = |script: &Arc<ScriptFile>| script.facts(ScriptKind::Module).awaits;
                    timing.is_loose =
                        !found.is_whole || awaits(&script.file) || found.modules.iter().any(awaits);
                    script.has_unknown_imports = !found.is_whole;
                    script.imported = found.modules;
                    script.import_flaws = found.flaws;
                }
                (timing, StepCode::Script(script))
            }
        };
        steps.push(own_step(page, load, element, is_in_body, timing, code));
    }
    steps
}

fn own_step(
    page: &ParsedPage<'_>,
    load: &Load,
    element: ElementRef<'_>,
    is_in_body: bool,
    timing: Timing,
    code: StepCode,
) -> PageStep {
    PageStep {
        timing,
        location: load.location.clone(),
        line: page.line_of(element),
        part: if is_in_body { PagePart::Body } else { PagePart::Head },
        at: element.data().start(),
        origin: Origin::Site,
        code,
    }
}

/// The steps of a page with those that a plan puts there, in the order of the document. What a
/// plan puts before an element stands before it.
pub fn with_placed(steps: &[PageStep], placed: Vec<PlacedStep>, page: &ParsedPage<'_>) -> Vec<PageStep> {
    let mut all = Vec::with_capacity(steps.len() + placed.len());
    let mut placed = placed.into_iter().peekable();
    for step in steps {
        while let Some(before) = placed.next_if(|placed| placed.at <= step.at) {
            all.push(of_plan(before, page));
        }
        all.push(step.clone());
    }
    all.extend(placed.map(|placed| of_plan(placed, page)));
    all
}

fn of_plan(placed: PlacedStep, page: &ParsedPage<'_>) -> PageStep {
    PageStep {
        timing: placed.timing,
        location: Location::Linked(placed.address),
        line: page.position(placed.at).line,
        part: placed.part,
        at: placed.at,
        origin: placed.origin,
        code: placed.code,
    }
}

fn sheet_timing(element: ElementRef<'_>, load: &Load, document: &Document) -> Timing {
    let media = element.data().attr(&local_name!("media")).unwrap_or_default();
    let is_medium =
        || media.trim().is_empty() || MediaList::parse(media).holds(&Viewport::default()) == Truth::Yes;
    let holds = switched_on_load(element).is_none() && is_medium();
    match &load.location {
        Location::Inline => {
            let imports = document.text_of(load.element).to_ascii_lowercase().contains("@import");
            let execution = if imports { Execution::ImportingStyle } else { Execution::Style };
            Timing { execution, is_loose: !holds }
        }
        _ => Timing { execution: Execution::Link, is_loose: !holds },
    }
}

/// How a script element comes to run (HTML, "prepare the script element").
fn script_execution(element: ElementRef<'_>) -> (Execution, ScriptKind) {
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
    let execution = match source {
        Some(source) if source.trim().is_empty() => Execution::Never,
        _ if !is_module && attr("nomodule").is_some() => Execution::Never,
        _ if !is_module && !is_for_window(attr("for"), attr("event")) => Execution::Never,
        _ if is_module && is_async => Execution::AsyncModule,
        _ if is_module => Execution::Module,
        Some(_) if is_async => Execution::Async,
        Some(_) if attr("defer").is_some() => Execution::Defer,
        _ => Execution::Classic,
    };
    (execution, kind)
}

/// Scripts of old said what they are for; those that are not for the window's load do not run.
fn is_for_window(for_what: Option<&str>, event: Option<&str>) -> bool {
    let (Some(for_what), Some(event)) = (for_what, event) else { return true };
    let event = event.trim().to_ascii_lowercase();
    for_what.trim().eq_ignore_ascii_case("window") && matches!(event.as_str(), "onload" | "onload()")
}

/// The JavaScript MIME types (MIME Sniffing, "JavaScript MIME type").
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
