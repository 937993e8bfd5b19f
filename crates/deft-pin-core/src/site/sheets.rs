//! The style sheets of a page, in the order in which they count, with all that they import.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, OnceLock};

use html5ever::{LocalName, local_name};

use super::loads::{Load, LoadKind, LoadTarget, address_in, loads};
use super::pages::{Page, Site};
use crate::markup::{Document, ElementRef};
use crate::source::{FilePath, Files, Position, position_in};
use crate::style::{Condition, LayerPath, PageSheet, StyleRules};

/// Where a sheet of a page comes from.
#[derive(Clone, Debug, PartialEq, Eq)]
pub enum SheetOrigin {
    /// The page has it by itself.
    Site,
    /// A pin of that name brings it in.
    Pin(String),
    /// A library of that name.
    Library(String),
}

impl std::fmt::Display for SheetOrigin {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            SheetOrigin::Site => f.write_str("site"),
            SheetOrigin::Pin(name) => write!(f, "pin:{name}"),
            SheetOrigin::Library(name) => write!(f, "library:{name}"),
        }
    }
}

/// What there is to say of a sheet beside its rules.
#[derive(Clone, Debug)]
pub struct SheetPlace {
    /// Where it comes from.
    pub origin: SheetOrigin,
    /// Its file: the page's own for one in the page.
    pub file: FilePath,
    /// For a sheet in the page, where its text begins there.
    pub inner: Option<Position>,
    /// For a sheet in the page, the byte of the page's text that its own begins at.
    pub start: u32,
}

impl SheetPlace {
    /// A place in the sheet's text as a place in its file.
    pub fn position(&self, own: Position) -> Position {
        match self.inner {
            None => own,
            Some(start) if own.line == 1 => {
                Position { line: start.line, column: start.column + own.column - 1 }
            }
            Some(start) => Position { line: start.line + own.line - 1, column: own.column },
        }
    }
}

/// A sheet that a plan puts into a page.
#[derive(Clone, Debug)]
pub struct PlacedSheet {
    /// The byte of the page's text that it stands at.
    pub at: u32,
    /// Its rules.
    pub rules: Arc<StyleRules>,
    /// Where it comes from.
    pub origin: SheetOrigin,
    /// Its file, as seen from the board.
    pub file: FilePath,
}

/// The sheets of a page.
#[derive(Debug, Default)]
pub struct PageSheets {
    /// The sheets.
    pub sheets: Vec<PageSheet>,
    /// For each, where it comes from.
    pub places: Vec<SheetPlace>,
    /// Sheets that could not be looked into: on other hosts, or not there.
    pub unread: Vec<String>,
}

/// A sheet, once it has been read; `None` for one that cannot be.
type ReadSheet = OnceLock<Option<Arc<StyleRules>>>;

/// The sheets of a site, each read and made ready once for all the pages that load it.
#[derive(Default)]
pub struct SheetFiles(Mutex<HashMap<FilePath, Arc<ReadSheet>>>);

impl SheetFiles {
    fn get(&self, file: &FilePath, files: &dyn Files, site: &Site) -> Option<Arc<StyleRules>> {
        let cell = {
            let mut all = self.0.lock().unwrap_or_else(std::sync::PoisonError::into_inner);
            Arc::clone(all.entry(file.clone()).or_default())
        };
        cell.get_or_init(|| {
            let bytes = files.read(&site.path_of(file)).ok()?;
            let text = String::from_utf8_lossy(&bytes);
            let text = text.strip_prefix('\u{feff}').unwrap_or(&text).to_owned();
            Some(Arc::new(StyleRules::new(text)))
        })
        .clone()
    }
}

/// The most sheets that a page may come to have by imports.
const MOST: usize = 2_000;

struct Gathering<'a> {
    files: &'a dyn Files,
    site: &'a Site,
    known: &'a SheetFiles,
    out: PageSheets,
}

/// Gathers the sheets of a page, those that a plan puts there among them.
pub fn page_sheets(
    (text, document): (&str, &Document),
    page: &Page,
    (files, site): (&dyn Files, &Site),
    known: &SheetFiles,
    placed: Vec<PlacedSheet>,
) -> PageSheets {
    let mut gathering = Gathering { files, site, known, out: PageSheets::default() };
    let mut placed = placed.into_iter().peekable();
    let all = loads(document, page);
    let preferred = preferred_title(document, &all);
    for load in all.iter().filter(|load| load.kind == LoadKind::Style) {
        let Some(element) = document.element(load.element) else { continue };
        while let Some(own) = placed.next_if(|own| own.at <= element.data().start()) {
            gathering.place(own);
        }
        if applies(element, title(document, load), preferred.as_deref()) {
            gathering.load(load, element, text, page);
        }
    }
    placed.for_each(|own| gathering.place(own));
    gathering.out
}

/// The title of the set of sheets that is switched on (CSSOM 6.2).
pub(super) fn preferred_title(document: &Document, all: &[Load]) -> Option<String> {
    let mut titles = all.iter().filter_map(|load| title(document, load));
    titles.find(|(_, alternate)| !alternate).map(|(name, _)| name)
}

/// The title of a sheet's element, and whether it is an alternative.
pub(super) fn title(document: &Document, load: &Load) -> Option<(String, bool)> {
    let element = document.element(load.element).filter(|_| load.kind == LoadKind::Style)?;
    let title = element.data().attr(&local_name!("title")).filter(|title| !title.is_empty())?;
    Some((title.to_owned(), is_alternate(element)))
}

fn is_alternate(element: ElementRef<'_>) -> bool {
    let rel = element.data().attr(&local_name!("rel")).unwrap_or_default();
    rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("alternate"))
}

/// Whether a sheet is one, and is switched on (HTML 4.2.4, 4.2.6; CSSOM 6.2: of the sheets with a
/// title, those of the first title that is no alternative's).
pub(super) fn applies(
    element: ElementRef<'_>,
    title: Option<(String, bool)>,
    preferred: Option<&str>,
) -> bool {
    let data = element.data();
    let is_link = data.is_html(&local_name!("link"));
    let kind = data.attr(&local_name!("type")).unwrap_or_default().trim();
    let is_css = kind.is_empty() || kind.eq_ignore_ascii_case("text/css");
    let is_off = is_link && data.attr(&local_name!("disabled")).is_some();
    let is_chosen = match title {
        Some((title, _)) => preferred == Some(title.as_str()),
        None => !(is_link && is_alternate(element)),
    };
    is_css && !is_off && is_chosen
}

impl Gathering<'_> {
    fn place(&mut self, placed: PlacedSheet) {
        self.out.sheets.push(PageSheet::alone(placed.rules));
        self.out.places.push(SheetPlace { origin: placed.origin, file: placed.file, inner: None, start: 0 });
    }

    fn load(&mut self, load: &Load, element: ElementRef<'_>, page_text: &str, page: &Page) {
        let media = element.data().attr(&LocalName::from("media")).unwrap_or_default();
        let conditions = if media.trim().is_empty() { Vec::new() } else { vec![Condition::media(media)] };
        let (rules, file, inner, start) = match &load.target {
            LoadTarget::Inline(id) => {
                let text = element.document().text_of(*id);
                let start = match element.data().origin {
                    crate::markup::Origin::Tag(span) => span.end,
                    crate::markup::Origin::Implied(at) => at,
                };
                let inner = position_in(page_text, start);
                (Arc::new(StyleRules::new(text)), page.file.clone(), Some(inner), start)
            }
            LoadTarget::Local(file) => match self.known.get(file, self.files, self.site) {
                Some(rules) => (rules, file.clone(), None, 0),
                None => return self.out.unread.push(file.to_string()),
            },
            LoadTarget::Remote(url) | LoadTarget::Refused(url) => return self.out.unread.push(url.clone()),
        };
        let place = SheetPlace { origin: SheetOrigin::Site, file, inner, start };
        self.add(rules, place, conditions, Vec::new(), Some(element.id), &mut Vec::new());
    }

    /// Adds a sheet and all that it imports; its place in the list.
    fn add(
        &mut self,
        rules: Arc<StyleRules>,
        place: SheetPlace,
        conditions: Vec<Condition>,
        layer: Vec<(u32, LayerPath)>,
        owner: Option<crate::markup::NodeId>,
        around: &mut Vec<FilePath>,
    ) -> usize {
        let number = self.out.sheets.len();
        self.out.sheets.push(PageSheet {
            rules: Arc::clone(&rules),
            conditions: conditions.clone(),
            layer: layer.clone(),
            owner,
            imported: Vec::new(),
            is_imported: !around.is_empty(),
        });
        self.out.places.push(place.clone());
        around.push(place.file.clone());
        let mut imported = Vec::new();
        for import in &rules.imports {
            let target = address_in(&place.file, &import.url);
            let file = match target {
                LoadTarget::Local(file) => file,
                LoadTarget::Remote(url) | LoadTarget::Refused(url) => {
                    self.out.unread.push(url);
                    imported.push(None);
                    continue;
                }
                LoadTarget::Inline(_) => continue,
            };
            // A sheet that imports one around it is left out, as browsers do.
            let is_circle = around.contains(&file) && !(around.len() == 1 && place.inner.is_some());
            let found = (!is_circle && self.out.sheets.len() < MOST)
                .then(|| self.known.get(&file, self.files, self.site));
            let Some(Some(inner)) = found else {
                if !is_circle {
                    self.out.unread.push(file.to_string());
                }
                imported.push(None);
                continue;
            };
            let mut all = conditions.clone();
            all.extend(import.conditions.iter().cloned());
            let mut path = layer.clone();
            if let Some(first) = &import.layer {
                let names = std::iter::once(first).chain(&import.sublayers).cloned().collect();
                path.push((number as u32 + 1, names));
            }
            let own = SheetPlace { origin: place.origin.clone(), file, inner: None, start: 0 };
            imported.push(Some(self.add(inner, own, all, path, owner, around)));
        }
        around.pop();
        self.out.sheets[number].imported = imported;
        number
    }
}
