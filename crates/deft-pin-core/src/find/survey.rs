//! What there is to know of a page before anything is written for it.

use rustc_hash::FxHashMap;

use super::index::PageIndex;
use super::marker::{Feature, features};
use super::outline::{Section, outline};
use crate::markup::{NodeId, SelectorList, Slot};
use crate::site::{Load, ParsedPage, loads};

/// What there is to know of a page.
#[derive(Clone, Debug)]
pub struct PageSurvey {
    /// Its title.
    pub title: String,
    /// What its root element and body say of it.
    pub features: Vec<Feature>,
    /// How many sections it has.
    pub section_count: usize,
    /// How many different IDs it has.
    pub id_count: usize,
    /// The rest, which takes more room.
    pub detail: Option<Box<Detail>>,
}

/// What takes more room to know.
#[derive(Clone, Debug)]
pub struct Detail {
    /// The sections, in tree order.
    pub sections: Vec<SectionSurvey>,
    /// The IDs, in tree order of their first elements.
    pub ids: Vec<IdSurvey>,
    /// The slots that the page has.
    pub slots: Vec<Slot>,
    /// Whether the page has a `<head>` tag.
    pub has_head_tag: bool,
    /// Whether the page has a `<body>` tag.
    pub has_body_tag: bool,
    /// What it loads, in order.
    pub loads: Vec<Load>,
}

/// A section, with what finds it.
#[derive(Clone, Debug)]
pub struct SectionSurvey {
    /// The section.
    pub section: Section,
    /// The best selector for it.
    pub selector: String,
    /// The line that it begins at, from 1.
    pub line: u32,
    /// How many elements have its ID; 0 where it has none.
    pub times: usize,
}

/// An ID.
#[derive(Clone, Debug)]
pub struct IdSurvey {
    /// The ID.
    pub id: String,
    /// The name of the first element that has it.
    pub tag: String,
    /// The line that this begins at, from 1.
    pub line: u32,
    /// How many elements of the page have it.
    pub times: usize,
    /// The innermost section that it is in or is: a place in the list.
    pub section: Option<usize>,
}

/// Looks at a page. `section` says what counts as a section where the site has its own way.
pub fn survey(page: &ParsedPage<'_>, section: Option<&SelectorList>, detailed: bool) -> PageSurvey {
    let document = &page.document;
    let outline = outline(document, section);
    if !detailed {
        let mut ids: Vec<&str> = document.elements().filter_map(|element| element.data().id()).collect();
        ids.sort_unstable();
        ids.dedup();
        return PageSurvey {
            title: outline.title,
            features: features(document),
            section_count: outline.sections.len(),
            id_count: ids.len(),
            detail: None,
        };
    }
    let index = PageIndex::new(document);
    let line = |id: NodeId| document.element(id).map_or(0, |element| page.line_of(element));
    let sections: Vec<SectionSurvey> = outline
        .sections
        .into_iter()
        .map(|section| SectionSurvey {
            selector: section.selector(&index),
            line: line(section.element),
            times: section.id.as_deref().map_or(0, |id| index.times(id)),
            section,
        })
        .collect();
    let ids = ids(&index, &sections, line);
    let slots = document.slots();
    let detail = Detail {
        slots: Slot::ALL.into_iter().filter(|slot| slots.gap(*slot).is_some()).collect(),
        has_head_tag: slots.has_head_tag(),
        has_body_tag: slots.has_body_tag(),
        loads: loads(document, page.page),
        sections,
        ids,
    };
    PageSurvey {
        title: outline.title,
        features: features(document),
        section_count: detail.sections.len(),
        id_count: detail.ids.len(),
        detail: Some(Box::new(detail)),
    }
}

fn ids(index: &PageIndex<'_>, sections: &[SectionSurvey], line: impl Fn(NodeId) -> u32) -> Vec<IdSurvey> {
    let places: FxHashMap<NodeId, usize> =
        sections.iter().enumerate().map(|(at, survey)| (survey.section.element, at)).collect();
    let mut seen = rustc_hash::FxHashSet::default();
    let mut ids = Vec::new();
    for element in index.elements() {
        let Some(id) = element.data().id() else { continue };
        if !seen.insert(id) {
            continue;
        }
        let mut around = std::iter::successors(Some(element), |element| element.parent());
        ids.push(IdSurvey {
            id: id.to_owned(),
            tag: element.data().name.local.to_string(),
            line: line(element.id),
            times: index.times(id),
            section: around.find_map(|element| places.get(&element.id).copied()),
        });
    }
    ids
}
