//! What the pieces of every kind of box are made with: tests that keep parts to their pages, and the text of a part.

use std::collections::{BTreeSet, HashMap};

use super::by_hand::ByHand;
use super::left_out::{LeftOut, OutOfReach, left_out_by_host};
use super::paste_page::PastePage;
use super::piece::{Piece, PiecePart};
use super::piece_text::{Pasted, PieceWriter};
use super::rule_guard::{PageMarkers, RuleGuard};
use crate::board::{BoxPlace, BoxReach, BoxTakes, Host, HostBox, Mark, MarksBy, ScriptLoad};
use crate::code::{CodeKind, LibraryId, Owner, PageId, PinId};
use crate::markup::{Namespaces, Slot};
use crate::page::SiteContext;
use crate::plan::{CodeKey, CodeSource, Part, Plan};
use crate::site::Page;
use crate::start::{ContentScript, LateMark, PageTest, PinTest};
use crate::style::{Sheet, SheetParts};

/// Makes the pieces of a paste-up.
pub(super) struct PieceMaker<'w> {
    pub(super) context: &'w SiteContext<'w>,
    pub(super) plan: &'w Plan<'w>,
    pub(super) host: &'w Host,
    pub(super) writer: PieceWriter<'w>,
    pub(super) pages: &'w [PastePage],
    /// The pages that each part is on.
    pub(super) on: HashMap<Part, Vec<PageId>>,
    /// The pages that have what a part would bring by themselves.
    pub(super) lacking: HashMap<Part, Vec<PageId>>,
    pub(super) markers: PageMarkers,
    pub(super) left_out: BTreeSet<LeftOut>,
}

/// What is being written into one box.
#[derive(Default)]
pub(super) struct Draft {
    pub(super) parts: Vec<PiecePart>,
    pub(super) pins: BTreeSet<PinId>,
    pub(super) libraries: BTreeSet<LibraryId>,
    pub(super) only: BTreeSet<PageId>,
    /// The last script of another host in it.
    pub(super) awaited: Option<String>,
    /// The sheets behind which a script has to follow that lets them count.
    pub(super) gated: Vec<PageTest>,
    /// The same of the part that is being written.
    pub(super) open: Option<PageTest>,
    /// The code that notes that.
    pub(super) noting: String,
    /// The namespaces that the sheets in it declare, where they are one text; none before the first.
    pub(super) namespaces: Option<Namespaces>,
    /// The parts of which it was noted whether the page holds what they ask for.
    pub(super) held: Vec<Part>,
}

impl<'w> PieceMaker<'w> {
    pub(super) fn page(&self, id: PageId) -> &'w Page {
        &self.context.site().pages[id]
    }

    /// What keeps a part to its pages in a box of the site; none where it is for every page.
    pub(super) fn test(&self, part: Part) -> Option<PageTest> {
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

    /// The pages of the site for which a part is, as far as their paths tell.
    pub(super) fn meant(&self, part: Part) -> Vec<PageId> {
        let pins = self.plan.pins_of(part);
        let pages = self.context.site().pages.entries();
        pages
            .filter(|(_, page)| pins.iter().any(|pin| self.plan.is_for(*pin, &page.path)))
            .map(|(id, _)| id)
            .collect()
    }

    /// The parts in a box that are wanted, in order.
    pub(super) fn parts_in(&self, of: HostBox, is_wanted: impl Fn(Part) -> bool) -> Vec<Part> {
        self.context.layout.in_box(of).into_iter().filter(|part| is_wanted(*part)).collect()
    }

    /// How the rules of a sheet are kept to its pages; none where nothing can.
    pub(super) fn rule_guard(&self, code: CodeKey) -> Option<RuleGuard> {
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
    pub(super) fn code(
        &mut self,
        of: HostBox,
        code: CodeKey,
        test: Option<&PageTest>,
        draft: &mut Draft,
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
            waits_for: draft.awaited.as_deref().filter(|_| self.host.inserts || of.takes == BoxTakes::Js),
        };
        let text = self.writer.text(of, &pasted);
        if text.is_some() && self.writer.is_gated(of, &pasted) {
            draft.open = test.cloned();
        }
        if let Some(text) = text.as_deref().filter(|_| of.takes == BoxTakes::Css)
            && !draft.takes_namespaces(text)
        {
            self.leave_out(Part::Code(code), OutOfReach::OtherNamespaces);
            return None;
        }
        let is_awaited = self.plan.load_of(code) == ScriptLoad::Blocking;
        if is_remote && is_awaited && code.kind == CodeKind::Script {
            draft.awaited = Some(self.plan.name_of(code.owner).to_owned());
        }
        if text.is_none() {
            let is_kept = selector.is_none();
            self.leave_out(Part::Code(code), if is_kept { OutOfReach::NotSafe } else { OutOfReach::NotKept });
        }
        text
    }

    /// The script that puts in markup and gives names, for those pins whose content is in a box.
    pub(super) fn content(&mut self, of: HostBox, parts: &[Part], draft: &mut Draft, is_guarded: bool) {
        let mut script = ContentScript::behind(std::mem::take(&mut draft.noting));
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
            draft.pins.insert(pin);
            shown_on.extend(self.on.get(part).into_iter().flatten().copied());
        }
        let Some(first) = first.filter(|_| !script.is_empty()) else { return };
        let may_be_early = self.host.inserts || of.place < BoxPlace::Foot;
        let text = self.writer.assets.markup(&script.script(may_be_early));
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
        draft.only.extend(shown_on.iter().copied());
        draft.parts.push(PiecePart { on: shown_on.into_iter().collect(), ..PiecePart::of(text, first) });
    }

    /// A mark as a script gives it: without what somebody gives by hand.
    pub(super) fn late_mark(&self, mark: &Mark, within: Option<String>) -> LateMark {
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

    pub(super) fn leave_out(&mut self, part: Part, why: OutOfReach) {
        let kind = match part {
            Part::Content(_) => None,
            Part::Code(code) => Some(code.kind),
        };
        self.left_out.extend(self.plan.pins_of(part).into_iter().map(|pin| LeftOut { pin, kind, why }));
    }

    /// Notes what has no box at all.
    pub(super) fn find_left_out(&mut self) {
        for left in left_out_by_host(self.context) {
            self.left_out.insert(left);
        }
    }

    pub(super) fn by_hand(&self) -> Vec<ByHand> {
        let rows = self.pages.iter().flat_map(|page| page.by_hand.iter().map(move |own| (page.page, own)));
        let rows = rows.map(|(page, own)| {
            let pin = &self.plan.board.pins[own.pin];
            let mark = &pin.marks[own.number];
            let classes: Vec<&str> = mark.classes.iter().map(|class| class.as_str()).collect();
            ByHand {
                pin: own.pin,
                number: own.number,
                page,
                selector: own.selector.clone(),
                id: mark.id.as_ref().map(|id| id.value.clone()),
                class: (!classes.is_empty()).then(|| classes.join(" ")),
            }
        });
        rows.collect()
    }
}

impl Draft {
    /// Whether a sheet's selectors mean the same in one text with the sheets before it, and theirs too.
    fn takes_namespaces(&mut self, text: &str) -> bool {
        let own = Sheet::parse(text).namespaces(text);
        match &mut self.namespaces {
            Some(declared) => declared.share(own),
            none => {
                *none = Some(own);
                true
            }
        }
    }

    /// Puts what sheets have to say in front of all rules there, where they are one text.
    fn gather_heads(&mut self) {
        let (mut imports, mut namespaces, mut rules) = (Vec::new(), Vec::new(), Vec::new());
        for part in std::mem::take(&mut self.parts) {
            let own = SheetParts::of(&part.shown);
            let said = |shown: String| PiecePart {
                text: part.text.replace(&part.shown, &shown),
                shown,
                ..part.clone()
            };
            imports.extend(Some(own.imports).filter(|own| !own.is_empty()).map(said));
            namespaces.extend(Some(own.namespaces).filter(|own| !own.is_empty()).map(said));
            rules.push(said(own.rules));
        }
        self.parts = imports.into_iter().chain(namespaces).chain(rules).collect();
    }

    pub(super) fn add(&mut self, plan: &Plan<'_>, part: Part, on: &[PageId], text: PiecePart) {
        match part {
            Part::Code(CodeKey { owner: Owner::Library(library), .. }) => {
                self.libraries.insert(library);
            }
            _ => self.pins.extend(plan.pins_of(part)),
        }
        self.only.extend(on.iter().copied());
        self.parts.push(PiecePart { on: on.to_vec(), ..text });
    }

    pub(super) fn into_piece(mut self, of: HostBox, pages: Vec<PageId>) -> Option<Piece> {
        if self.parts.is_empty() {
            return None;
        }
        if of.takes == BoxTakes::Css {
            self.gather_heads();
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
