//! A page as it is asked for names.

use std::cell::OnceCell;
use std::collections::BTreeSet;

use crate::markup::{Document, NamedPart};
use crate::site::{Load, Page};
use crate::source::nearest;

/// A page, with the pins that are for it and the names that it has, gathered when somebody asks
/// for the first time.
pub(super) struct View<'d> {
    pub(super) number: usize,
    pub(super) page: &'d Page,
    pub(super) document: &'d Document,
    pub(super) pins: &'d [usize],
    pub(super) names: Option<[BTreeSet<&'d str>; 3]>,
    pub(super) loads: OnceCell<Vec<Load>>,
}

impl<'d> View<'d> {
    fn of(&mut self, name: &NamedPart) -> &BTreeSet<&'d str> {
        let names = self.names.get_or_insert_with(|| {
            let mut names = [BTreeSet::new(), BTreeSet::new(), BTreeSet::new()];
            for element in self.document.elements() {
                let data = element.data();
                names[0].extend(data.id());
                names[1].extend(data.classes());
                names[2].insert(&*data.name.local);
            }
            names
        });
        match name {
            NamedPart::Id(_) => &names[0],
            NamedPart::Class(_) => &names[1],
            NamedPart::Tag(_) => &names[2],
        }
    }

    /// Whether the page has a name, as a browser would match it.
    pub(super) fn has(&self, name: &NamedPart) -> bool {
        let quirks = self.document.quirks() == html5ever::tree_builder::QuirksMode::Quirks;
        let same = |own: &str, wanted: &str| own == wanted || quirks && own.eq_ignore_ascii_case(wanted);
        self.document.elements().any(|element| match name {
            NamedPart::Id(wanted) => element.id().is_some_and(|own| same(own, wanted)),
            NamedPart::Class(wanted) => element.classes().any(|own| same(own, wanted)),
            NamedPart::Tag(wanted) => element.name.local.eq_ignore_ascii_case(wanted),
        })
    }

    /// The nearest name of the same kind; else a class where an ID was asked for, or the other
    /// way round, of the same name or nearly.
    pub(super) fn near(&mut self, name: &NamedPart) -> Option<String> {
        let wanted = name.name();
        let same = nearest(wanted, self.of(name).iter().copied()).map(str::to_owned);
        let atom = html5ever::LocalName::from(wanted);
        let (mark, other_mark, other) = match name {
            NamedPart::Id(_) => ("#", ".", NamedPart::Class(atom)),
            NamedPart::Class(_) => (".", "#", NamedPart::Id(atom)),
            NamedPart::Tag(_) => return same,
        };
        if let Some(same) = same {
            return Some(format!("{mark}{same}"));
        }
        let others = self.of(&other);
        let found = others.get(wanted).copied().or_else(|| nearest(wanted, others.iter().copied()));
        found.map(|found| format!("{other_mark}{found}"))
    }
}
