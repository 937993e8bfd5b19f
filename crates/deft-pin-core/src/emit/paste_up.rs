//! The paste-up: what to paste into which box of the host, in order.

use std::collections::{BTreeMap, BTreeSet, HashMap};

use super::output_files::OutputFiles;
use super::paste_page::PastePage;
use super::pasted_assets::PastedAssets;
use super::piece_text::{Pasted, PieceLength, PieceWriter};
use super::rule_guard::{PageMarkers, RuleGuard};
use crate::board::{BoxPlace, BoxReach, BoxTakes, Host, HostBox, Mark, MarksBy, Only, literal};
use crate::code::{CodeKind, LibraryId, Owner, PageId, PinId};
use crate::markup::Slot;
use crate::page::SiteContext;
use crate::plan::{CodeKey, CodeSource, Part, Plan};
use crate::site::Page;
use crate::start::{ContentScript, LateMark, PageAddresses, PageTest, PinTest};

/// Everything that a host gets: pieces for its boxes, what is done by hand, what is uploaded.
#[derive(Clone, Debug, Default)]
pub struct PasteUp {
    /// The pieces, in the order in which to go through them.
    pub pieces: Vec<Piece>,
    /// What somebody gives to elements by hand.
    pub by_hand: Vec<ByHand>,
    /// The names of the files to upload, among those of the output.
    pub uploads: BTreeSet<String>,
    /// What could not be put into any box.
    pub left_out: Vec<LeftOut>,
}

/// What is pasted into one box.
#[derive(Clone, Debug)]
pub struct Piece {
    /// Its name, and that of its file.
    pub name: String,
    /// The box.
    pub of: HostBox,
    /// The pages into whose boxes it goes; none for a box of the site.
    pub pages: Vec<PageId>,
    /// The parts of the text, in order. They stand one behind the other.
    pub parts: Vec<PiecePart>,
    /// The pins whose code is in it.
    pub pins: Vec<PinId>,
    /// The libraries whose code is in it.
    pub libraries: Vec<LibraryId>,
    /// The pages on which it does something.
    pub only: Vec<PageId>,
    /// The patterns of pages by which the host keeps it to them, where the host does that; nothing said means all.
    pub patterns: Vec<String>,
    /// The patterns of pages that it is not for.
    pub but: Vec<String>,
}

impl Piece {
    /// The text to paste.
    pub fn text(&self) -> String {
        self.parts.iter().map(|part| part.text.as_str()).collect()
    }

    /// How long the text is, in characters.
    pub fn characters(&self) -> usize {
        self.parts.iter().map(|part| part.text.chars().count()).sum()
    }
}

/// A part of a piece.
#[derive(Clone, Debug)]
pub struct PiecePart {
    /// The text.
    pub text: String,
    /// The part of the plan that it is; none for what only helps others.
    pub of: Option<Part>,
    /// The pages on which the host shows it; none where it is on all that have the box.
    pub shown_on: Option<Vec<PageId>>,
    /// The text as the host shows it there, without its own means of keeping it to pages.
    pub shown: String,
}

/// An ID or classes that somebody gives to an element of a page in the host's editor.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ByHand {
    /// The pin.
    pub pin: PinId,
    /// Which of its marks.
    pub number: usize,
    /// The page.
    pub page: PageId,
    /// The element, as the board says it.
    pub selector: String,
    /// The ID.
    pub id: Option<String>,
    /// The classes, as they are typed in.
    pub class: Option<String>,
}

/// A part of the plan that no box of the host can hold.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub struct LeftOut {
    /// The pin that misses it.
    pub pin: PinId,
    /// Of which kind it is; none for markup and marks.
    pub kind: Option<CodeKind>,
    /// Why.
    pub why: OutOfReach,
}

/// Why something cannot be put into a box.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum OutOfReach {
    /// No box takes such code.
    NoBox,
    /// It stands outside the frame in which the host's blocks are.
    OutsideTheFrame,
    /// Nothing there can keep it to its pages.
    NotKept,
    /// The text cannot stand in a page without meaning something else.
    NotSafe,
}

impl PasteUp {
    /// Puts together what the pages of a site say: one entry a page that was looked at, in the order of the site.
    pub fn new(
        context: &SiteContext<'_>,
        files: &OutputFiles,
        pages: &[PastePage],
        length: PieceLength,
    ) -> Self {
        let plan = context.plan;
        let host = &plan.board.host;
        let writer = PieceWriter {
            plan,
            files,
            assets: PastedAssets::new(files, host.files.as_deref()),
            addresses: PageAddresses::of(&context.site().pages),
            length,
        };
        let mut work = Work {
            context,
            plan,
            host,
            writer,
            pages,
            on: HashMap::new(),
            lacking: HashMap::new(),
            markers: PageMarkers::of(pages.iter().map(|own| (own.page, own.features.as_slice()))),
            left_out: BTreeSet::new(),
        };
        for page in pages {
            for part in &page.parts {
                work.on.entry(*part).or_default().push(page.page);
            }
            for code in &page.has_by_itself {
                work.lacking.entry(Part::Code(*code)).or_default().push(page.page);
            }
        }
        let mut pieces = Vec::new();
        for of in host.boxes.iter().copied() {
            match of.reach {
                BoxReach::Site if host.inserts => pieces.extend(work.inserted(of)),
                BoxReach::Site => pieces.extend(work.of_site(of)),
                BoxReach::Page => pieces.extend(work.of_pages(of)),
            }
        }
        // The boxes of the site first: there are few of them.
        pieces.sort_by_key(|piece| piece.of.reach);
        name_pieces(&mut pieces, context);
        work.find_left_out();
        let by_hand = work.by_hand();
        let left_out = work.left_out.into_iter().collect();
        PasteUp { pieces, by_hand, uploads: work.writer.assets.uploads(), left_out }
    }
}

/// The most pages for which a part is repeated, each time under a condition of the host's own.
const MOST_CONDITIONS: usize = 12;

struct Work<'w> {
    context: &'w SiteContext<'w>,
    plan: &'w Plan<'w>,
    host: &'w Host,
    writer: PieceWriter<'w>,
    pages: &'w [PastePage],
    /// The pages that each part is on.
    on: HashMap<Part, Vec<PageId>>,
    /// The pages that have what a part would bring by themselves.
    lacking: HashMap<Part, Vec<PageId>>,
    markers: PageMarkers,
    left_out: BTreeSet<LeftOut>,
}

/// What is being written into one box.
#[derive(Default)]
struct Pieces {
    parts: Vec<PiecePart>,
    pins: BTreeSet<PinId>,
    libraries: BTreeSet<LibraryId>,
    only: BTreeSet<PageId>,
    /// The last script of another host in it.
    awaited: Option<String>,
    /// The sheets behind which a script has to follow that lets them count.
    gated: Vec<PageTest>,
    /// The same of the part that is being written.
    open: Option<PageTest>,
    /// The parts of which it was noted whether the page holds what they ask for.
    held: Vec<Part>,
}

impl<'w> Work<'w> {
    fn page(&self, id: PageId) -> &'w Page {
        &self.context.site().pages[id]
    }

    /// What keeps a part to its pages in a box of the site; none where it is for every page.
    fn test(&self, part: Part) -> Option<PageTest> {
        let except: Vec<String> = self
            .lacking
            .get(&part)
            .into_iter()
            .flatten()
            .map(|page| self.page(*page).path.encoded())
            .collect();
        if self.plan.is_everywhere(part) && except.is_empty() {
            return None;
        }
        let pins = self.plan.pins_of(part);
        let any = pins.iter().map(|pin| PinTest::of(&self.plan.board.pins[*pin])).collect();
        Some(PageTest { any, except })
    }

    /// One piece for a box of the whole site.
    fn of_site(&mut self, of: HostBox) -> Option<Piece> {
        let mut pieces = Pieces::default();
        if of.takes != BoxTakes::Css {
            self.root_classes(of, &mut pieces);
        }
        let parts: Vec<Part> = self.parts_in(of, |part| self.on.contains_key(&part));
        self.holding(of, &parts, &mut pieces);
        self.content(of, &parts, &mut pieces, true);
        for part in parts {
            let Part::Code(code) = part else { continue };
            let test = self.test_in(part, &pieces);
            let shown_on = self.on.get(&part).cloned().unwrap_or_default();
            // Several sheets are let through by one script.
            if !pieces.gated.is_empty()
                && (code.kind == CodeKind::Script || test.as_ref().is_none_or(PageTest::asks_the_document))
            {
                self.close_gate(of, &mut pieces);
            }
            let wraps = if test.is_some() { self.wraps(part) } else { Vec::new() };
            // What the page has to hold is asked there all the same.
            let inner = if wraps.is_empty() { test } else { test.and_then(|test| test.without_paths()) };
            let Some(shown) = self.code(of, code, inner.as_ref(), &mut pieces) else { continue };
            let text = match wraps.is_empty() {
                true => PiecePart::of(shown, part),
                false => PiecePart {
                    text: wraps
                        .iter()
                        .map(|only| format!("{}\n{shown}{}\n", only.before, only.behind))
                        .collect(),
                    of: Some(part),
                    shown_on: Some(self.meant(part)),
                    shown,
                },
            };
            pieces.add(self.plan, part, &shown_on, text);
            if let Some(test) = pieces.open.take() {
                pieces.gated.push(test);
            } else if !pieces.gated.is_empty() {
                self.close_gate_before_last(of, &mut pieces);
            }
        }
        self.close_gate(of, &mut pieces);
        pieces.into_piece(of, Vec::new())
    }

    /// Writes the script that lets the sheets count that were written last.
    fn close_gate(&self, of: HostBox, pieces: &mut Pieces) {
        let tests = std::mem::take(&mut pieces.gated);
        if !tests.is_empty() {
            pieces.parts.push(PiecePart::helping(self.writer.gate(of, &tests)));
        }
    }

    /// The same in front of the part that was written last, which is none of these sheets.
    fn close_gate_before_last(&self, of: HostBox, pieces: &mut Pieces) {
        let last = pieces.parts.pop();
        self.close_gate(of, pieces);
        pieces.parts.extend(last);
    }

    /// A script that notes what the page holds before anything is put into it, for those behind that ask for it.
    fn holding(&self, of: HostBox, parts: &[Part], pieces: &mut Pieces) {
        let has_content = parts.iter().any(|part| matches!(part, Part::Content(_)));
        if !has_content || of.takes != BoxTakes::Html || of.place != BoxPlace::Foot {
            return;
        }
        let scripts =
            parts.iter().filter(|part| matches!(part, Part::Code(code) if code.kind == CodeKind::Script));
        let asking: Vec<(Part, PageTest)> = scripts
            .filter_map(|part| Some((*part, self.test(*part).filter(PageTest::asks_the_document)?)))
            .collect();
        if asking.is_empty() {
            return;
        }
        let rows: Vec<String> = asking
            .iter()
            .enumerate()
            .map(|(number, (_, test))| format!("[\"{number}\", {}]", test.script(&self.writer.addresses)))
            .collect();
        let text = format!(
            "document.currentScript.setAttribute(\"data-holds\", [{}].filter(function (own) {{ return own[1]; }}).map(function (own) {{ return own[0]; }}).join(\" \"));",
            rows.join(", ")
        );
        pieces.held = asking.into_iter().map(|(part, _)| part).collect();
        pieces.parts.push(PiecePart::helping(format!("<script data-deft-pin>{text}</script>")));
    }

    /// What keeps a part to its pages in a box: of what the page has to hold, what was noted of that before.
    fn test_in(&self, part: Part, pieces: &Pieces) -> Option<PageTest> {
        match pieces.held.iter().position(|own| *own == part) {
            Some(number) => {
                let having = Some(format!("script[data-holds~=\"{number}\"]"));
                Some(PageTest { any: vec![PinTest { having, ..PinTest::default() }], except: Vec::new() })
            }
            None => self.test(part),
        }
    }

    /// The pages of the site for which a part is, as far as their paths tell.
    fn meant(&self, part: Part) -> Vec<PageId> {
        let pins = self.plan.pins_of(part);
        let pages = self.context.site().pages.entries();
        pages
            .filter(|(_, page)| pins.iter().any(|pin| self.plan.is_for(*pin, &page.path)))
            .map(|(id, _)| id)
            .collect()
    }

    /// The host's own means by which a part is kept to its pages, filled in: the part stands in each of them once.
    /// None where they cannot say it.
    fn wraps(&self, part: Part) -> Vec<Only> {
        let Some(only) = self.host.only.as_ref().filter(|_| !self.lacking.contains_key(&part)) else {
            return Vec::new();
        };
        let says = |mark: &str| only.before.contains(mark) || only.behind.contains(mark);
        let filled = |mark: &str, value: &str| Only {
            before: only.before.replace(mark, value),
            behind: only.behind.replace(mark, value),
        };
        let paths: Vec<&str> =
            self.meant(part).into_iter().map(|page| self.page(page).path.as_str()).collect();
        if says("{{paths}}") {
            return vec![filled("{{paths}}", &paths.join(", "))];
        }
        if says("{{pattern}}") {
            // More than one condition might hold on one page.
            return match self.plan.pins_of(part).as_slice() {
                [pin] => match (&*self.plan.board.pins[*pin].pages, &*self.plan.board.pins[*pin].skip) {
                    ([pattern], []) => vec![filled("{{pattern}}", pattern.as_str())],
                    _ => Vec::new(),
                },
                _ => Vec::new(),
            };
        }
        match paths.len() <= MOST_CONDITIONS {
            true => paths.iter().map(|path| filled("{{path}}", path)).collect(),
            false => Vec::new(),
        }
    }

    /// The parts in a box that are wanted, in order.
    fn parts_in(&self, of: HostBox, is_wanted: impl Fn(Part) -> bool) -> Vec<Part> {
        self.context.layout.in_box(of).into_iter().filter(|part| is_wanted(*part)).collect()
    }

    /// Classes of the root element by which the rules of other boxes are kept to their pages.
    fn root_classes(&mut self, of: HostBox, pieces: &mut Pieces) {
        let place = self.host.place_for(Slot::HeadStart, CodeKind::Script);
        let is_first =
            place == Some(of.place) && self.host.boxes_at(of.place, CodeKind::Script).first() == Some(&of);
        if !is_first {
            return;
        }
        for code in self.context.layout.guarded_by_rules() {
            let part = Part::Code(*code);
            let (Some(on), Some(RuleGuard::Class(class)), Some(test)) =
                (self.on.get(&part).cloned(), self.rule_guard(*code), self.test(part))
            else {
                continue;
            };
            let act = format!("document.documentElement.classList.add({});", literal(&class));
            let text = test.around(&self.writer.addresses, &act, true);
            let name = self.plan.name_of(code.owner);
            let text = match of.takes {
                BoxTakes::Html => format!("<script data-deft-pin=\"{name}\">{text}</script>\n"),
                BoxTakes::Css | BoxTakes::Js => format!("{text}\n"),
            };
            pieces.add(self.plan, part, &on, PiecePart { of: None, ..PiecePart::of(text, part) });
        }
    }

    /// How the rules of a sheet are kept to its pages; none where nothing can.
    fn rule_guard(&self, code: CodeKey) -> Option<RuleGuard> {
        let part = Part::Code(code);
        let pins = self.plan.pins_of(part);
        let asks_the_document = pins.iter().any(|pin| self.plan.board.pins[*pin].having.is_some());
        let is_whole = self.pages.len() == self.context.site().pages.len();
        let marker = (is_whole && !asks_the_document && !self.lacking.contains_key(&part))
            .then(|| self.markers.guard(&self.meant(part)))
            .flatten();
        let class = || {
            let place = self.host.place_for(Slot::HeadStart, CodeKind::Script)?;
            let is_of_site =
                self.host.boxes_at(place, CodeKind::Script).iter().any(|of| of.reach == BoxReach::Site);
            is_of_site.then(|| RuleGuard::Class(format!("deft-pin-{}", self.plan.name_of(code.owner))))
        };
        marker.map(RuleGuard::Marker).or_else(class)
    }

    /// The text of a sheet or a script in a box; what cannot be written is noted.
    fn code(
        &mut self,
        of: HostBox,
        code: CodeKey,
        test: Option<&PageTest>,
        pieces: &mut Pieces,
    ) -> Option<String> {
        let is_ruled = test.is_some() && self.context.layout.guarded_by_rules().contains(&code);
        let guard = is_ruled.then(|| self.rule_guard(code));
        if guard == Some(None) {
            self.leave_out(Part::Code(code), OutOfReach::NotKept);
            return None;
        }
        let selector = guard.flatten().map(|guard| guard.selector());
        let is_remote = matches!(self.plan.code(code), Some(CodeSource::Remote(_)))
            || (self.host.files.is_some() && matches!(code.owner, Owner::Library(_)));
        let pasted = Pasted {
            code,
            name: self.plan.name_of(code.owner),
            test,
            rule_guard: selector.as_deref(),
            waits_for: pieces.awaited.as_deref().filter(|_| self.host.inserts || of.takes == BoxTakes::Js),
        };
        let text = self.writer.text(of, &pasted);
        if text.is_some() && self.writer.is_gated(of, &pasted) {
            pieces.open = test.cloned();
        }
        if is_remote && code.kind == CodeKind::Script {
            pieces.awaited = Some(self.plan.name_of(code.owner).to_owned());
        }
        if text.is_none() {
            let is_kept = selector.is_none();
            self.leave_out(Part::Code(code), if is_kept { OutOfReach::NotSafe } else { OutOfReach::NotKept });
        }
        text
    }

    /// The script that puts in markup and gives names, for those pins whose content is in a box.
    fn content(&mut self, of: HostBox, parts: &[Part], pieces: &mut Pieces, is_guarded: bool) {
        let mut script = ContentScript::default();
        let mut first = None;
        let mut shown_on = BTreeSet::new();
        for part in parts {
            let Part::Content(pin) = *part else { continue };
            let test = if is_guarded { self.test(*part) } else { None };
            let own = &self.plan.board.pins[pin];
            let within = own.within.as_ref().map(|within| within.text.clone());
            let marks = own.marks.iter().map(|mark| self.late_mark(mark, within.clone()));
            let marks = marks.filter(|mark| !mark.is_empty()).collect();
            let markup = match self.plan.pins[pin].beginning {
                None => self.plan.pins[pin].markup.iter().map(|markup| markup.late(own)).collect(),
                Some(_) => Vec::new(),
            };
            script.add(test.map(|test| test.script(&self.writer.addresses)), marks, markup);
            first = first.or(Some(*part));
            pieces.pins.insert(pin);
            shown_on.extend(self.on.get(part).into_iter().flatten().copied());
        }
        let Some(first) = first.filter(|_| !script.is_empty()) else { return };
        let may_be_early = self.host.inserts || of.place < BoxPlace::Foot;
        let text = script.script(may_be_early);
        let text = match of.takes {
            BoxTakes::Html => match crate::script::inline_safe(&text) {
                Some(text) => format!("<script data-deft-pin>{text}</script>"),
                None => return self.leave_out(first, OutOfReach::NotSafe),
            },
            BoxTakes::Css | BoxTakes::Js => match crate::script::inline_safe(&text) {
                Some(text) => text,
                None => return self.leave_out(first, OutOfReach::NotSafe),
            },
        };
        pieces.only.extend(shown_on);
        pieces.parts.push(PiecePart::of(text, first));
    }

    /// A mark as a script gives it: without what somebody gives by hand.
    fn late_mark(&self, mark: &Mark, within: Option<String>) -> LateMark {
        let by_hand = self.host.marks == MarksBy::ByHand;
        let attributes =
            mark.attributes.iter().map(|(name, value)| (name.value.clone(), value.value.clone())).collect();
        LateMark {
            at: mark.at.as_ref().map(|at| at.text.clone()),
            within,
            id: mark.id.as_ref().filter(|_| !by_hand).map(|id| id.value.clone()),
            classes: match by_hand {
                true => Vec::new(),
                false => mark.classes.iter().map(|class| class.value.clone()).collect(),
            },
            attributes,
        }
    }

    /// Pieces that a script of the host puts in, each on its own pages.
    fn inserted(&mut self, of: HostBox) -> Vec<Piece> {
        let parts = self.parts_in(of, |part| self.on.contains_key(&part));
        // What is for the same pages goes together, as long as nothing of other pages has to come between.
        let mut groups: Vec<(Vec<PageId>, Vec<Part>)> = Vec::new();
        for part in parts {
            let mut pages = self.meant(part);
            if let Some(lacking) = self.lacking.get(&part) {
                pages.retain(|page| !lacking.contains(page));
            }
            let meets = |other: &[PageId]| other.iter().any(|page| pages.binary_search(page).is_ok());
            let mut at = None;
            for (number, (own, _)) in groups.iter().enumerate().rev() {
                if *own == pages {
                    at = Some(number);
                    break;
                }
                if meets(own) {
                    break;
                }
            }
            match at {
                Some(at) => groups[at].1.push(part),
                None => groups.push((pages, vec![part])),
            }
        }
        let mut found = Vec::new();
        for (_, parts) in groups {
            let mut pieces = Pieces::default();
            self.content(of, &parts, &mut pieces, false);
            for part in &parts {
                let Part::Code(code) = *part else { continue };
                let inner = self.test(*part).and_then(|test| test.without_paths());
                let Some(text) = self.code(of, code, inner.as_ref(), &mut pieces) else { continue };
                let on = self.on.get(part).cloned().unwrap_or_default();
                pieces.add(self.plan, *part, &on, PiecePart::of(text, *part));
            }
            let Some(mut piece) = pieces.into_piece(of, Vec::new()) else { continue };
            let Some(first) = parts.first() else { continue };
            let shown_on: Option<Vec<PageId>> = match self.plan.is_everywhere(*first)
                && !self.lacking.contains_key(first)
            {
                true => None,
                false => Some(
                    self.meant(*first)
                        .into_iter()
                        .filter(|page| !self.lacking.get(first).is_some_and(|lacking| lacking.contains(page)))
                        .collect(),
                ),
            };
            if shown_on.is_some() {
                for pin in self.plan.pins_of(*first) {
                    let own = &self.plan.board.pins[pin];
                    piece.patterns.extend(own.pages.iter().map(|pattern| pattern.as_str().to_owned()));
                    piece.but.extend(own.skip.iter().map(|pattern| pattern.as_str().to_owned()));
                }
                let lacking = self.lacking.get(first).into_iter().flatten();
                piece.but.extend(lacking.map(|page| self.page(*page).path.as_str().to_owned()));
                for list in [&mut piece.patterns, &mut piece.but] {
                    list.sort();
                    list.dedup();
                }
            }
            piece.parts.iter_mut().for_each(|part| part.shown_on = shown_on.clone());
            found.push(piece);
        }
        found
    }

    /// The pieces for the boxes of pages; those of the same text are one.
    fn of_pages(&mut self, of: HostBox) -> Vec<Piece> {
        let in_box = self.context.layout.in_box(of);
        let mut by_parts: BTreeMap<Vec<Part>, Vec<PageId>> = BTreeMap::new();
        for page in self.pages {
            let parts: Vec<Part> = in_box.iter().copied().filter(|part| page.parts.contains(part)).collect();
            let parts = match self.host.is_framed {
                true => self.framed_parts(page),
                false => parts,
            };
            if !parts.is_empty() {
                by_parts.entry(parts).or_default().push(page.page);
            }
        }
        let mut found: Vec<Piece> = Vec::new();
        for (parts, pages) in by_parts {
            let mut pieces = Pieces::default();
            if self.host.is_framed {
                self.framed(of, &parts, &pages, &mut pieces);
            } else {
                self.content(of, &parts, &mut pieces, false);
            }
            for part in &parts {
                let Part::Code(code) = *part else { continue };
                if self.host.is_framed && code.kind == CodeKind::Style {
                    continue;
                }
                let Some(text) = self.code(of, code, None, &mut pieces) else { continue };
                pieces.add(self.plan, *part, &pages, PiecePart::of(text, *part));
            }
            found.extend(pieces.into_piece(of, pages));
        }
        found.sort_by_key(|piece| piece.pages.first().copied());
        found
    }

    /// What of a page can stand in a frame: pins whose markup is for the very place of the block.
    fn framed_parts(&self, page: &PastePage) -> Vec<Part> {
        let fits = |part: &&Part| self.plan.pins_of(**part).iter().any(|pin| fits_frame(self.plan, *pin));
        let mut parts: Vec<Part> = page.parts.iter().filter(fits).copied().collect();
        parts.sort_by_key(|part| matches!(part, Part::Code(code) if code.kind == CodeKind::Script));
        parts
    }

    /// The sheets and the markup of pins, as they stand in a frame of their own.
    fn framed(&mut self, of: HostBox, parts: &[Part], pages: &[PageId], pieces: &mut Pieces) {
        for part in parts {
            match *part {
                Part::Code(code) if code.kind == CodeKind::Style => {
                    let Some(text) = self.code(of, code, None, pieces) else { continue };
                    pieces.add(self.plan, *part, pages, PiecePart::of(text, *part));
                }
                Part::Content(pin) => {
                    let html: String =
                        self.plan.pins[pin].markup.iter().map(|own| own.text.text.as_str()).collect();
                    let end = if html.ends_with('\n') { "" } else { "\n" };
                    pieces.add(self.plan, *part, pages, PiecePart::of(format!("{html}{end}"), *part));
                }
                Part::Code(_) => {}
            }
        }
    }

    fn leave_out(&mut self, part: Part, why: OutOfReach) {
        let kind = match part {
            Part::Content(_) => None,
            Part::Code(code) => Some(code.kind),
        };
        self.left_out.extend(self.plan.pins_of(part).into_iter().map(|pin| LeftOut { pin, kind, why }));
    }

    /// Notes what has no box at all.
    fn find_left_out(&mut self) {
        for left in left_out_by_host(self.context) {
            self.left_out.insert(left);
        }
    }

    fn by_hand(&self) -> Vec<ByHand> {
        let rows = self.pages.iter().flat_map(|page| page.by_hand.iter().map(move |own| (page.page, own)));
        let rows = rows.map(|(page, own)| {
            let pin = &self.plan.board.pins[own.pin];
            let mark = &pin.marks[own.number];
            let selector = match (&mark.at, &pin.within) {
                (Some(at), Some(within)) if within.text.contains(',') => {
                    format!(":is({}) {}", within.text, at.text)
                }
                (Some(at), Some(within)) => format!("{} {}", within.text, at.text),
                (Some(only), None) | (None, Some(only)) => only.text.clone(),
                (None, None) => String::new(),
            };
            let classes: Vec<&str> = mark.classes.iter().map(|class| class.as_str()).collect();
            ByHand {
                pin: own.pin,
                number: own.number,
                page,
                selector,
                id: mark.id.as_ref().map(|id| id.value.clone()),
                class: (!classes.is_empty()).then(|| classes.join(" ")),
            }
        });
        rows.collect()
    }
}

/// What no box of a host can hold, as the board alone tells.
pub fn left_out_by_host(context: &SiteContext<'_>) -> Vec<LeftOut> {
    let plan = context.plan;
    let host = &plan.board.host;
    if host.changes_files {
        return Vec::new();
    }
    let mut found = BTreeSet::new();
    for (pin, own) in plan.board.active_pins() {
        let planned = &plan.pins[pin];
        let mut lacks = |kind: Option<CodeKind>, why| found.insert(LeftOut { pin, kind, why });
        if host.is_framed && !fits_frame(plan, pin) {
            lacks(None, OutOfReach::OutsideTheFrame);
            continue;
        }
        let takes = |kind| host.takes(kind);
        if planned.style.is_some() && !takes(CodeKind::Style) {
            lacks(Some(CodeKind::Style), OutOfReach::NoBox);
        }
        if planned.script.is_some() && !takes(CodeKind::Script) {
            lacks(Some(CodeKind::Script), OutOfReach::NoBox);
        }
        let is_by_script =
            own.marks.iter().any(|mark| host.marks == MarksBy::ByScript || !mark.attributes.is_empty())
                || (planned.beginning.is_none() && !planned.markup.is_empty() && !host.is_framed);
        if is_by_script && !takes(CodeKind::Script) {
            lacks(None, OutOfReach::NoBox);
        }
    }
    found.into_iter().collect()
}

/// Whether all of a pin can stand in the frame of a block: it is markup for that place, with its style and script.
pub fn fits_frame(plan: &Plan<'_>, pin: PinId) -> bool {
    let planned = &plan.pins[pin];
    let own = &plan.board.pins[pin];
    let block = plan.board.host.block.as_ref().map_or("main", |block| block.text.as_str());
    let is_there = |markup: &crate::plan::PlannedMarkup| {
        let at = markup.at.as_ref().or(own.within.as_deref()).map(|at| at.text.trim());
        at == Some(block) && markup.place == crate::markup::MarkupPlace::Append
    };
    !planned.markup.is_empty() && own.marks.is_empty() && planned.markup.iter().all(is_there)
}

impl Pieces {
    fn add(&mut self, plan: &Plan<'_>, part: Part, on: &[PageId], text: PiecePart) {
        match part {
            Part::Code(CodeKey { owner: Owner::Library(library), .. }) => {
                self.libraries.insert(library);
            }
            _ => self.pins.extend(plan.pins_of(part)),
        }
        self.only.extend(on.iter().copied());
        self.parts.push(text);
    }

    fn into_piece(self, of: HostBox, pages: Vec<PageId>) -> Option<Piece> {
        if self.parts.is_empty() {
            return None;
        }
        Some(Piece {
            name: String::new(),
            of,
            pages,
            parts: self.parts,
            pins: self.pins.into_iter().collect(),
            libraries: self.libraries.into_iter().collect(),
            only: self.only.into_iter().collect(),
            patterns: Vec::new(),
            but: Vec::new(),
        })
    }
}

impl PiecePart {
    /// One that only helps others.
    fn helping(text: String) -> Self {
        PiecePart { shown: text.clone(), text, of: None, shown_on: None }
    }

    fn of(text: String, part: Part) -> Self {
        PiecePart { shown: text.clone(), text, of: Some(part), shown_on: None }
    }
}

/// The pieces of a host's boxes get names that say where they go, and that stay as pins come and go.
fn name_pieces(pieces: &mut [Piece], context: &SiteContext<'_>) {
    let mut taken: BTreeMap<String, usize> = BTreeMap::new();
    for piece in pieces {
        let place = match piece.of.takes {
            BoxTakes::Css => "styles",
            BoxTakes::Html => piece.of.place.name(),
            BoxTakes::Js => "scripts",
        };
        let name = match (piece.of.reach, piece.pages.as_slice()) {
            (BoxReach::Site, _) if context.plan.board.host.inserts => {
                let pins: Vec<&str> = piece
                    .pins
                    .iter()
                    .take(2)
                    .map(|pin| context.plan.board.pins[*pin].name.as_str())
                    .collect();
                let library = piece
                    .libraries
                    .first()
                    .map(|library| context.plan.board.libraries[*library].name.as_str());
                let what = match pins.is_empty() {
                    true => library.unwrap_or("libraries").to_owned(),
                    false => pins.join("-"),
                };
                format!("inserted-{what}-{place}")
            }
            (BoxReach::Site, _) => piece.of.name(),
            (BoxReach::Page, [only]) => {
                format!("page-{}-{place}", slug(context.site().pages[*only].path.as_str()))
            }
            (BoxReach::Page, pages) => {
                let first = pages.first().map_or("", |page| context.site().pages[*page].path.as_str());
                format!("pages-{}-and-{}-{place}", slug(first), pages.len().saturating_sub(1))
            }
        };
        let times = taken.entry(name.clone()).or_default();
        *times += 1;
        piece.name = if *times == 1 { name } else { format!("{name}-{times}") };
    }
}

/// A path as a part of a file's name.
fn slug(path: &str) -> String {
    let path = path.trim_matches('/').trim_end_matches(".html");
    let words: Vec<String> = path
        .split(|c: char| !c.is_ascii_alphanumeric())
        .filter(|word| !word.is_empty())
        .map(str::to_ascii_lowercase)
        .collect();
    match words.is_empty() {
        true => "home".to_owned(),
        false => words.join("-").chars().take(60).collect(),
    }
}
