//! The style sheets of a page, in the order in which they count, with all that they import.

use std::sync::Arc;

use encoding_rs::Encoding;
use html5ever::{LocalName, local_name};

use super::loads::{Load, base_url, charset_of, switched_on_load};
use super::parsed::ParsedPage;
use super::shelf::{Shelf, ShelfSheet};
use crate::code::{CodeKind, Location, Origin, resolve, resolve_in};
use crate::markup::{self, Document, ElementRef, NodeId};
use crate::source::{FilePath, Position, Span};
use crate::style::{Condition, LayerPath, PageSheet, StyleRules};

/// What there is to say of a sheet beside its rules.
#[derive(Clone, Debug)]
pub struct SheetPlace {
    /// Where it comes from.
    pub origin: Origin,
    /// Its file: the page's own for one in the page.
    pub file: FilePath,
    /// For a sheet in the page, where its text begins there.
    pub inside: Option<TextStart>,
}

/// Where the text of an element begins in its page.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct TextStart {
    /// The byte of the page's text.
    pub at: u32,
    /// Its line and column.
    pub position: Position,
}

impl SheetPlace {
    /// A place in the sheet's text as a place in its file.
    pub fn position(&self, inner: Position) -> Position {
        match self.inside.map(|start| start.position) {
            None => inner,
            Some(start) if inner.line == 1 => {
                Position { line: start.line, column: start.column + inner.column - 1 }
            }
            Some(start) => Position { line: start.line + inner.line - 1, column: inner.column },
        }
    }

    /// A span of the sheet's text as one of its file.
    pub fn span(&self, inner: Span) -> Span {
        let by = self.inside.map_or(0, |start| start.at);
        Span { start: inner.start + by, end: inner.end + by }
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
    pub origin: Origin,
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

/// The most sheets that a page may come to have by imports.
const MOST: usize = 2_000;

/// Gathers the sheets of a page, those that a plan puts there among them.
pub fn page_sheets(
    page: &ParsedPage<'_>,
    loads: &[Load],
    shelf: &Shelf<'_>,
    placed: Vec<PlacedSheet>,
) -> PageSheets {
    let mut gathering = Gathering { page, shelf, out: PageSheets::default() };
    let mut placed = placed.into_iter().peekable();
    let preferred = preferred_title(&page.document, loads);
    for load in loads.iter().filter(|load| load.kind == CodeKind::Style) {
        let Some(element) = page.document.element(load.element) else { continue };
        while let Some(before) = placed.next_if(|sheet| sheet.at <= element.data().start()) {
            gathering.place(before);
        }
        if applies(element, title(&page.document, load), preferred.as_deref()) {
            gathering.load(load, element);
        }
    }
    placed.for_each(|sheet| gathering.place(sheet));
    gathering.out
}

/// The title of the set of sheets that is switched on (CSSOM, "enable a CSS style sheet set").
pub(super) fn preferred_title(document: &Document, all: &[Load]) -> Option<String> {
    // A `<meta http-equiv=default-style>` says it, where it says anything (HTML, "pragma directives").
    if let Some(said) = document.pragma("default-style").map(str::trim).filter(|said| !said.is_empty()) {
        return Some(said.to_owned());
    }
    let mut titles = all.iter().filter_map(|load| title(document, load));
    titles.find(|(_, alternate)| !alternate).map(|(name, _)| name)
}

/// The title of a sheet's element, and whether it is an alternative.
pub(super) fn title(document: &Document, load: &Load) -> Option<(String, bool)> {
    let element = document.element(load.element).filter(|_| load.kind == CodeKind::Style)?;
    let title = element.data().attr(&local_name!("title")).filter(|title| !title.is_empty())?;
    Some((title.to_owned(), is_alternate(element)))
}

fn is_alternate(element: ElementRef<'_>) -> bool {
    let rel = element.data().attr(&local_name!("rel")).unwrap_or_default();
    rel.split_ascii_whitespace().any(|word| word.eq_ignore_ascii_case("alternate"))
}

/// Whether a sheet is one, and is switched on (HTML, "the link element" and "the style element";
/// CSSOM, "enable a CSS style sheet set": of the sheets with a title, those of the first title that is
/// no alternative's).
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

struct Gathering<'a> {
    page: &'a ParsedPage<'a>,
    shelf: &'a Shelf<'a>,
    out: PageSheets,
}

/// A sheet that is to be added, with what it stands under.
struct Added {
    rules: Arc<StyleRules>,
    /// The encoding that sheets which it imports take over.
    encoding: &'static Encoding,
    place: SheetPlace,
    conditions: Vec<Condition>,
    layer: Vec<(u32, LayerPath)>,
    owner: NodeId,
}

impl Gathering<'_> {
    fn place(&mut self, placed: PlacedSheet) {
        // What the plan leaves to be imported is on other hosts.
        self.out.unread.extend(placed.rules.imports.iter().map(|import| import.url.clone()));
        self.out.sheets.push(PageSheet::alone(placed.rules));
        self.out.places.push(SheetPlace { origin: placed.origin, file: placed.file, inside: None });
    }

    fn load(&mut self, load: &Load, element: ElementRef<'_>) {
        let media = element.data().attr(&LocalName::from("media")).unwrap_or_default();
        let mut conditions = if media.trim().is_empty() { Vec::new() } else { vec![Condition::media(media)] };
        if let Some(handler) = switched_on_load(element) {
            conditions = vec![Condition::run_time(handler)];
        }
        let encoding = self.page.encoding();
        let (sheet, file, inside) = match &load.location {
            Location::Inline => {
                let at = match element.data().origin {
                    markup::Origin::Tag(span) => span.end,
                    markup::Origin::Implied(at) => at,
                };
                let rules = self.shelf.inline_sheet(&element.document().text_of(element.id));
                let inside = TextStart { at, position: self.page.position(at) };
                (ShelfSheet { rules, encoding }, self.page.page.file.clone(), Some(inside))
            }
            location => {
                let environment = charset_of(element).unwrap_or(encoding);
                let file = location.local();
                let Some((file, sheet)) =
                    file.and_then(|file| Some((file, self.shelf.sheet(file, environment)?)))
                else {
                    return self.out.unread.push(load.name().to_owned());
                };
                (sheet, file.clone(), None)
            }
        };
        let added = Added {
            rules: sheet.rules,
            encoding: sheet.encoding,
            place: SheetPlace { origin: Origin::Site, file, inside },
            conditions,
            layer: Vec::new(),
            owner: element.id,
        };
        self.add(added, &mut Vec::new());
    }

    /// Adds a sheet and all that it imports; its place in the list. `around` are the files that
    /// import each other down to it.
    fn add(&mut self, added: Added, around: &mut Vec<FilePath>) -> usize {
        let Added { rules, encoding, place, conditions, layer, owner } = added;
        let number = self.out.sheets.len();
        let shadow =
            self.page.document.element(owner).and_then(|owner| owner.shadow_host()).map(|host| host.id);
        self.out.sheets.push(PageSheet {
            rules: Arc::clone(&rules),
            conditions: conditions.clone(),
            layer: layer.clone(),
            owner: Some(owner),
            shadow,
            imported: Vec::new(),
            is_imported: !around.is_empty(),
        });
        self.out.places.push(place.clone());
        around.push(place.file.clone());
        let mut imported = Vec::new();
        for import in &rules.imports {
            // In the page, an address is relative to the page's base, if that stands before it.
            let document = &self.page.document;
            let based_from = document.base().map_or(0, |base| base.data().start());
            let inside = place.inside.filter(|start| start.at > based_from);
            let base = inside.and_then(|_| base_url(document, self.page.page));
            let location = match base {
                Some(base) => resolve(&base, &import.url),
                None => resolve_in(&place.file, &import.url),
            };
            // A sheet that imports one around it is left out, as browsers do.
            let is_circle = location.local().is_some_and(|file| around.contains(file))
                && !(around.len() == 1 && place.inside.is_some());
            let found = location.local().filter(|_| !is_circle && self.out.sheets.len() < MOST);
            let Some((file, sheet)) =
                found.and_then(|file| Some((file.clone(), self.shelf.sheet(file, encoding)?)))
            else {
                if !is_circle {
                    self.out.unread.push(match location {
                        Location::Linked(address) => address.as_str().to_owned(),
                        Location::Refused(address) => address,
                        Location::Inline => continue,
                    });
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
            let inner = Added {
                rules: sheet.rules,
                encoding: sheet.encoding,
                place: SheetPlace { origin: place.origin, file, inside: None },
                conditions: all,
                layer: path,
                owner,
            };
            imported.push(Some(self.add(inner, around)));
        }
        around.pop();
        self.out.sheets[number].imported = imported;
        number
    }
}
