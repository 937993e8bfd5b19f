//! Judges what has come of each part of a page; its own elements first, what else there is in the files beside.

use super::archive::ReleaseNumber;
use super::code_text::{TELLING, means_the_same};
use super::held::{Held, HeldPage, PartState};
use super::part_kind::PartKind;
use super::published::{PartLook, PublishedElement, PublishedPart};
use super::served::{Mark, ServedElement};

/// What has come of each part of a page, and of what is there besides.
pub fn held(of: &HeldPage<'_>) -> Vec<Held> {
    let mut judge = Judge { of, taken: vec![None; of.page.elements.len()], at: vec![None; of.parts.len()] };
    judge.assign();
    let mut rows: Vec<Held> = (0..of.parts.len()).map(|number| judge.part(number)).collect();
    rows.extend(judge.leftovers());
    rows
}

/// What is said where a host puts into the page what was linked.
const IN_THE_PAGE: &str = "its text stands in the page itself";

/// Judges the parts of a page.
pub(super) struct Judge<'j> {
    pub(super) of: &'j HeldPage<'j>,
    /// For each element of the page the part that it is.
    pub(super) taken: Vec<Option<usize>>,
    /// For each part its element.
    pub(super) at: Vec<Option<usize>>,
}

impl Judge<'_> {
    fn element(&self, number: usize) -> &ServedElement {
        &self.of.page.elements[number]
    }

    /// Finds an element for each part, the best one: its own mark and attributes before others'.
    fn assign(&mut self) {
        for rank in 0..4 {
            for number in 0..self.of.parts.len() {
                if self.at[number].is_some() {
                    continue;
                }
                let part = self.of.parts[number];
                let PartLook::Element(own) = &part.look else { continue };
                let fits = |(at, there): &(usize, &ServedElement)| {
                    self.taken[*at].is_none()
                        && is_same_code(own, part.kind, there)
                        && (rank & 1 != 0 || self.has_same_attributes(own, there))
                        && (rank & 2 != 0 || is_marked(part, there))
                };
                let found = self.of.page.elements.iter().enumerate().find(fits).map(|(at, _)| at);
                if let Some(found) = found {
                    self.taken[found] = Some(number);
                    self.at[number] = Some(found);
                }
            }
        }
    }

    fn has_same_attributes(&self, own: &PublishedElement, there: &ServedElement) -> bool {
        self.attributes_apart(own, there).is_empty()
    }

    /// The attributes that are other ones than they were.
    fn attributes_apart(&self, own: &PublishedElement, there: &ServedElement) -> Vec<String> {
        let is_passing = |name: &str| self.of.has_run && matches!(name, "media" | "type");
        let names = own.attributes.keys().chain(there.own.attributes.keys());
        let mut names: Vec<&String> = names
            .filter(|name| own.attributes.get(*name) != there.own.attributes.get(*name))
            .filter(|name| !is_passing(name))
            .collect();
        names.sort();
        names.dedup();
        let written = |of: &PublishedElement, name: &str| match of.attributes.get(name) {
            Some(value) if value.is_empty() => format!("`{name}`"),
            Some(value) => format!("`{name}=\"{value}\"`"),
            None => format!("no `{name}`"),
        };
        let say = |name: &&String| format!("{} instead of {}", written(&there.own, name), written(own, name));
        names.iter().map(say).collect()
    }

    fn part(&self, number: usize) -> Held {
        let part = self.of.parts[number];
        match &part.look {
            PartLook::Element(own) => self.of_element(number, part, own),
            PartLook::Code { text, squeezed } => self.of_code(part, text, squeezed),
            PartLook::Nodes { trees, text, times } => self.of_nodes(part, trees, text, *times),
            PartLook::Names { id, classes } => self.of_names(part, id.as_deref(), classes),
        }
    }

    pub(super) fn row(&self, part: &PublishedPart, state: PartState, message: String) -> Held {
        Held {
            name: part.name.clone(),
            pins: part.pins.clone(),
            kind: part.kind,
            piece: part.piece.clone(),
            state,
            release: (state == PartState::Live).then_some(self.of.release),
            message,
            texts: None,
            address: None,
            line: None,
        }
    }

    fn of_element(&self, number: usize, part: &PublishedPart, own: &PublishedElement) -> Held {
        let Some(at) = self.at[number] else { return self.not_there(part, own) };
        let there = self.element(at);
        let placed = |row: Held| Held { line: Some(there.line), address: there.own.address.clone(), ..row };
        let again = self.again(part, own, at);
        if !again.is_empty() {
            let message = format!("it is there more than once: again {}", again.join(", "));
            return placed(Held {
                release: Some(self.of.release),
                ..self.row(part, PartState::Doubled, message)
            });
        }
        let apart = self.attributes_apart(own, there);
        if !apart.is_empty() {
            let message = format!("its text is there, but its tag has {}", apart.join(", "));
            return placed(self.row(part, PartState::Altered, message));
        }
        let message = match there.mark {
            Mark::None if own.text.len() >= TELLING => "without its mark, `data-deft-pin`".to_owned(),
            _ => String::new(),
        };
        placed(self.row(part, PartState::Live, message))
    }

    /// Where else the same code stands.
    fn again(&self, part: &PublishedPart, own: &PublishedElement, at: usize) -> Vec<String> {
        let mut places = Vec::new();
        let code = own.code();
        let is_telling = own.address.is_some() || code.len() >= TELLING;
        for (other, there) in self.of.page.elements.iter().enumerate() {
            if other == at || self.taken[other].is_some() || there.kind.family() != part.kind.family() {
                continue;
            }
            let is_own = is_marked(part, there) && there.mark != Mark::Helper;
            let is_same = is_same_code(own, part.kind, there)
                || (code.len() >= TELLING && there.own.address.is_none() && there.own.squeezed == code);
            if is_same && (is_telling || is_own) {
                places.push(line(there));
            } else if is_own {
                let release = self.release_of(part.name.as_deref(), there);
                places.extend(
                    release.map(|release| format!("that of release {release} on line {}", there.line)),
                );
            } else if there.mark == Mark::None {
                if self.is_source(part, &there.own.squeezed) {
                    places.push(format!("as it stands in the pin's file, on line {}", there.line));
                } else if code.len() >= 2 * TELLING && there.own.squeezed.contains(code) {
                    places.push(format!("among other code on line {}", there.line));
                }
            }
        }
        for asset in self.of.assets.iter().filter(|asset| asset.kind.family() == part.kind.family()) {
            if code.len() >= TELLING && asset.squeezed == code
                || code.len() >= 2 * TELLING && asset.squeezed.contains(code)
            {
                places.push(format!("in `{}`", asset.address));
            } else if self.is_source(part, &asset.squeezed) {
                places.push(format!("as it stands in the pin's file, in `{}`", asset.address));
            }
        }
        places
    }

    /// Whether a text is the code of the pin as it was written, before it was kept to its target.
    fn is_source(&self, part: &PublishedPart, squeezed: &str) -> bool {
        squeezed.len() >= TELLING
            && self.of.archive.source_of(squeezed).is_some_and(|(pin, kind)| {
                Some(pin) == part.name.as_deref() && kind.family() == part.kind.family()
            })
    }

    /// An element that is nowhere as it was published.
    fn not_there(&self, part: &PublishedPart, own: &PublishedElement) -> Held {
        let free = || self.of.page.elements.iter().enumerate().filter(|(at, _)| self.taken[*at].is_none());
        let free =
            || free().map(|(_, there)| there).filter(|there| there.kind.family() == part.kind.family());
        for there in free().filter(|there| is_marked(part, there)) {
            let placed =
                |row: Held| Held { line: Some(there.line), address: there.own.address.clone(), ..row };
            if let Some(release) = self.release_of(part.name.as_deref(), there) {
                let row = self.row(part, PartState::Stale, self.old(release));
                return placed(Held { release: Some(release), ..row });
            }
            if own.address.is_some() && there.own.address.is_none() && there.own.squeezed == own.code() {
                return placed(self.row(part, PartState::Live, IN_THE_PAGE.to_owned()));
            }
            let is_same = own.address.is_none() && there.own.address.is_none();
            if is_same && means_the_same(part.kind, &own.text, &there.own.text) {
                let message = match self.attributes_apart(own, there) {
                    apart if apart.is_empty() => {
                        return placed(self.row(
                            part,
                            PartState::Live,
                            "written shorter by the host".to_owned(),
                        ));
                    }
                    apart => format!("its tag has {}", apart.join(", ")),
                };
                return placed(self.row(part, PartState::Altered, message));
            }
        }
        if let Some(there) = free().find(|there| is_marked(part, there)) {
            let row = self.row(part, PartState::Altered, changed(own, there));
            let is_text = own.address.is_none() && there.own.address.is_none();
            let texts = is_text.then(|| (own.text.clone(), there.own.text.clone()));
            return Held { texts, line: Some(there.line), address: there.own.address.clone(), ..row };
        }
        for there in free().filter(|there| there.mark == Mark::None) {
            if let Some(release) = self.release_of(part.name.as_deref(), there)
                && there.own.squeezed.len() >= TELLING
            {
                let row =
                    self.row(part, PartState::Stale, format!("release {release} is there, without its mark"));
                return Held { release: Some(release), line: Some(there.line), ..row };
            }
        }
        // By another way than it was published.
        let code = own.code();
        if let Some(there) = free().find(|there| self.is_source(part, &there.own.squeezed)) {
            let message = format!(
                "on line {} it stands as in the pin's file, and not as it was published: it is not kept to its target",
                there.line
            );
            let texts = (own.address.is_none()).then(|| (own.text.clone(), there.own.text.clone()));
            return Held { texts, line: Some(there.line), ..self.row(part, PartState::Altered, message) };
        }
        if own.address.is_some() && code.len() >= TELLING {
            let inline = free().find(|there| there.own.address.is_none() && there.own.squeezed == code);
            if let Some(there) = inline {
                let row = self.row(part, PartState::Live, IN_THE_PAGE.to_owned());
                return Held { line: Some(there.line), ..row };
            }
            if let Some(place) = self.among_other_code(part.kind, code) {
                return self.row(part, PartState::Live, format!("{place}, in the place of its own file"));
            }
        }
        if own.squeezed.len() >= TELLING {
            if let Some(place) = self.among_other_code(part.kind, &own.squeezed) {
                return self.row(part, PartState::Live, format!("{place}, among other code"));
            }
            if self.of.page.shows(&own.squeezed) {
                let message = format!("the tag `<{}>` is gone: its text is shown on the page", own.tag);
                return self.row(part, PartState::Altered, message);
            }
        }
        let what = match own.file_name() {
            Some(file) => format!("`{file}`, with its `<{}>`,", own.tag),
            None => format!("its `<{}>`", own.tag),
        };
        self.lacking(part, &what)
    }

    /// What is nowhere: taken out where the rest of its piece is there.
    pub(super) fn lacking(&self, part: &PublishedPart, what: &str) -> Held {
        let is_mate = |other: &usize| {
            part.piece.is_some() && self.of.parts[*other].piece == part.piece && self.at[*other].is_some()
        };
        let mates: Vec<usize> = (0..self.at.len()).filter(is_mate).collect();
        let is_new = |part: &PublishedPart| {
            self.of.release > 1 && self.of.archive.first_release_of(part) == Some(self.of.release)
        };
        // What came with the last release, of which nothing else is there either, has not been pasted yet.
        if let Some(piece) = part.piece.as_ref().filter(|_| !mates.is_empty())
            && is_new(part)
            && !mates.iter().any(|mate| is_new(self.of.parts[*mate]))
        {
            let message = format!("`{piece}` is there as an earlier release had it: paste it again");
            return self.row(part, PartState::Missing, message);
        }
        match (&part.piece, !mates.is_empty()) {
            (Some(piece), true) => {
                let message = format!(
                    "{what} was taken out by the host or by somebody: the rest of `{piece}` is there"
                );
                self.row(part, PartState::Altered, message)
            }
            (Some(piece), false) => self.row(
                part,
                PartState::Missing,
                format!("nothing of `{piece}` is there: paste it, or see whether the host takes it out"),
            ),
            (None, _) => {
                let message =
                    format!("{what} is not there: has the page been uploaded as `publish` wrote it?");
                self.row(part, PartState::Missing, message)
            }
        }
    }

    /// What is said of a text of an earlier release.
    pub(super) fn old(&self, release: ReleaseNumber) -> String {
        format!(
            "release {release} is there: release {} has not come this far, or a cache keeps it back",
            self.of.release
        )
    }

    /// The release whose element this is.
    pub(super) fn release_of(&self, name: Option<&str>, there: &ServedElement) -> Option<ReleaseNumber> {
        let release = match there.own.file_name() {
            Some(file) => self.of.archive.release_of_file(name, file),
            None => self.of.archive.release_of_code(name, &there.own.squeezed),
        };
        release.filter(|release| *release != self.of.release)
    }
}

fn is_marked(part: &PublishedPart, there: &ServedElement) -> bool {
    match (&part.name, &there.mark) {
        (Some(name), Mark::Of(own)) => name == own,
        (None, Mark::Helper) => true,
        _ => false,
    }
}

pub(super) fn is_same_code(own: &PublishedElement, kind: PartKind, there: &ServedElement) -> bool {
    if kind.family() != there.kind.family() {
        return false;
    }
    match (&own.address, &there.own.address) {
        (None, None) => own.squeezed == there.own.squeezed,
        // Files of the pins have their text's hash in their names, wherever a host has put them.
        (Some(own_address), Some(address)) => match own_address.contains("//") {
            // `//host/…` is by the scheme of the page.
            true => address == own_address || address.split_once(':').is_some_and(|own| own.1 == own_address),
            false => own.file_name() == there.own.file_name(),
        },
        _ => false,
    }
}

pub(super) fn line(there: &ServedElement) -> String {
    format!("on line {}", there.line)
}

fn changed(own: &PublishedElement, there: &ServedElement) -> String {
    match (&own.address, &there.own.address) {
        (Some(_), Some(address)) => format!("it links `{address}`, which is of no release"),
        (Some(_), None) => "its text stands in the page, and should be linked".to_owned(),
        (None, Some(address)) => format!("it links `{address}`, and its text should stand in the page"),
        (None, None) => "its text is another one, of no release".to_owned(),
    }
}
