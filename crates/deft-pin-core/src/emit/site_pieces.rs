//! The pieces for boxes of the whole site: each part with what keeps it to its pages.

use super::piece::{Piece, PiecePart};
use super::piece_maker::{Draft, PieceMaker};
use super::rule_guard::RuleGuard;
use crate::board::{BoxPlace, BoxTakes, HostBox, Only, literal};
use crate::code::CodeKind;
use crate::markup::Slot;
use crate::plan::Part;
use crate::start::{PageTest, PinTest};

/// The most pages for which a part is repeated, each time under a condition of the host's own.
const MOST_CONDITIONS: usize = 12;

impl PieceMaker<'_> {
    /// One piece for a box of the whole site.
    pub(super) fn of_site(&mut self, of: HostBox) -> Option<Piece> {
        let mut draft = Draft::default();
        if of.takes != BoxTakes::Css {
            self.root_classes(of, &mut draft);
        }
        let parts: Vec<Part> = self.parts_in(of, |part| self.on.contains_key(&part));
        self.holding(of, &parts, &mut draft);
        self.content(of, &parts, &mut draft, true);
        for part in parts {
            let Part::Code(code) = part else { continue };
            let test = self.test_in(part, &draft.held);
            let shown_on = self.on.get(&part).cloned().unwrap_or_default();
            // Several sheets are let through by one script.
            if !draft.gated.is_empty()
                && (code.kind == CodeKind::Script || test.as_ref().is_none_or(PageTest::asks_the_document))
            {
                self.close_gate(of, &mut draft);
            }
            let wraps = if test.is_some() { self.wraps(part) } else { Vec::new() };
            // What the page has to hold is asked there all the same.
            let inner = if wraps.is_empty() { test } else { test.and_then(|test| test.without_paths()) };
            let Some(shown) = self.code(of, code, inner.as_ref(), &mut draft) else { continue };
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
                    on: Vec::new(),
                },
            };
            draft.add(self.plan, part, &shown_on, text);
            if let Some(test) = draft.open.take() {
                draft.gated.push(test);
            } else if !draft.gated.is_empty() {
                self.close_gate_before_last(of, &mut draft);
            }
        }
        self.close_gate(of, &mut draft);
        draft.into_piece(of, Vec::new())
    }

    /// Writes the script that lets the sheets count that were written last.
    fn close_gate(&self, of: HostBox, draft: &mut Draft) {
        let tests = std::mem::take(&mut draft.gated);
        if !tests.is_empty() {
            draft.parts.push(PiecePart::helping(self.writer.gate(of, &tests)));
        }
    }

    /// The same in front of the part that was written last, which is none of these sheets.
    fn close_gate_before_last(&self, of: HostBox, draft: &mut Draft) {
        let last = draft.parts.pop();
        self.close_gate(of, draft);
        draft.parts.extend(last);
    }

    /// What notes what the page holds before anything is put into it, for those behind that ask for it.
    pub(super) fn holding(&self, of: HostBox, parts: &[Part], draft: &mut Draft) {
        let has_content = parts.iter().any(|part| matches!(part, Part::Content(_)));
        if !has_content || of.takes != BoxTakes::Html || of.place != BoxPlace::Foot {
            return;
        }
        // A library comes as soon as anything asks for it: what comes behind it may lean on it at once.
        let scripts = parts.iter().filter(|part| {
            matches!(part, Part::Code(code) if code.kind == CodeKind::Script && code.owner.pin().is_some())
        });
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
        draft.noting = format!(
            "document.querySelector(\"script[data-holds]\").setAttribute(\"data-holds\", [{}].filter(function (own) {{ return own[1]; }}).map(function (own) {{ return own[0]; }}).join(\" \"));\n",
            rows.join(", ")
        );
        draft.held = asking.into_iter().map(|(part, _)| part).collect();
        let carrier = "<script type=\"text/plain\" data-deft-pin data-holds></script>";
        draft.parts.push(PiecePart::helping(carrier.to_owned()));
    }

    /// What keeps a part to its pages in a box: of what the page has to hold, what was noted of that before.
    pub(super) fn test_in(&self, part: Part, held: &[Part]) -> Option<PageTest> {
        match held.iter().position(|own| *own == part) {
            Some(number) => {
                let having = Some(format!("script[data-holds~=\"{number}\"]"));
                Some(PageTest { any: vec![PinTest { having, ..PinTest::default() }], except: Vec::new() })
            }
            None => self.test(part),
        }
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

    /// Classes of the root element by which the rules of other boxes are kept to their pages.
    fn root_classes(&mut self, of: HostBox, draft: &mut Draft) {
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
            draft.add(self.plan, part, &on, PiecePart { of: None, ..PiecePart::of(text, part) });
        }
    }
}
