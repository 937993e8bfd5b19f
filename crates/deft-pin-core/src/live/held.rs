//! A served page held against what was published for it.

use super::archive::{Archive, ReleaseNumber};
use super::code_text::{TELLING, means_the_same, squeezed};
use super::published::{PartKind, PartLook, PublishedElement, PublishedPart};
use super::served::{AssetText, Mark, ServedElement, ServedPage};
use super::tree_text::{tag_text, tree_text};

/// What has come of a part.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PartState {
    /// It is there, once, as it was published.
    Live,
    /// An earlier release's is there.
    Stale,
    /// It is not there.
    Missing,
    /// It is there more than once.
    Doubled,
    /// Somebody or the host has changed it.
    Altered,
    /// Something is there that is of no release.
    Stray,
}

impl PartState {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            PartState::Live => "live",
            PartState::Stale => "stale",
            PartState::Missing => "missing",
            PartState::Doubled => "doubled",
            PartState::Altered => "altered",
            PartState::Stray => "stray",
        }
    }
}

/// What has come of one part on one page.
#[derive(Clone, Debug)]
pub struct Held {
    /// The pin or library that it is marked with.
    pub name: Option<String>,
    /// The pins that it is for.
    pub pins: Vec<String>,
    /// What it is.
    pub kind: PartKind,
    /// The piece that it was pasted in.
    pub piece: Option<String>,
    /// What has come of it.
    pub state: PartState,
    /// The release whose text is there; none where that is of none.
    pub release: Option<ReleaseNumber>,
    /// What is to be said of it; nothing where all is well.
    pub message: String,
    /// What was published and what is there, where these differ.
    pub texts: Option<(String, String)>,
    /// The address of the file that it links.
    pub address: Option<String>,
    /// The line of the page where it is, from 1.
    pub line: Option<u32>,
}

/// What a page is held against.
pub struct HeldPage<'h> {
    /// The page as it is served.
    pub page: &'h ServedPage,
    /// The files that it links, and that could be read.
    pub assets: &'h [&'h AssetText],
    /// What the last release has for the page.
    pub parts: &'h [&'h PublishedPart],
    /// What it has for other pages, and may stand on this one too.
    pub others: &'h [&'h PublishedPart],
    /// Everything that was published.
    pub archive: &'h Archive,
    /// The last release.
    pub release: ReleaseNumber,
    /// Whether scripts have run in it: they take what kept a sheet back.
    pub has_run: bool,
}

/// What has come of each part of a page, and of what is there besides.
pub fn held(of: &HeldPage<'_>) -> Vec<Held> {
    let mut judge = Judge { of, taken: vec![None; of.page.elements.len()], at: vec![None; of.parts.len()] };
    judge.assign();
    let mut rows: Vec<Held> = (0..of.parts.len()).map(|number| judge.part(number)).collect();
    rows.extend(judge.leftovers());
    rows
}

struct Judge<'j> {
    of: &'j HeldPage<'j>,
    /// For each element of the page the part that it is.
    taken: Vec<Option<usize>>,
    /// For each part its element.
    at: Vec<Option<usize>>,
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

    fn row(&self, part: &PublishedPart, state: PartState, message: String) -> Held {
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
        let is_telling = own.address.is_some() || own.squeezed.len() >= TELLING;
        for (other, there) in self.of.page.elements.iter().enumerate() {
            if other == at || self.taken[other].is_some() {
                continue;
            }
            let is_own = is_marked(part, there) && there.mark != Mark::Helper;
            if is_same_code(own, part.kind, there) && (is_telling || is_own) {
                places.push(line(there));
            } else if is_own && family(there.kind) == family(part.kind) {
                let release = self.release_of(part.name.as_deref(), there);
                places.extend(
                    release.map(|release| format!("that of release {release} on line {}", there.line)),
                );
            } else if there.mark == Mark::None && family(there.kind) == family(part.kind) {
                let source = self.of.archive.source_of(&there.own.squeezed);
                let is_source = source.is_some_and(|(pin, kind)| {
                    Some(pin) == part.name.as_deref() && family(kind) == family(part.kind)
                });
                if is_source && there.own.squeezed.len() >= TELLING {
                    places.push(format!("as it stands in the pin's file, on line {}", there.line));
                } else if own.squeezed.len() >= 2 * TELLING && there.own.squeezed.contains(&own.squeezed) {
                    places.push(format!("among other code on line {}", there.line));
                }
            }
        }
        if own.squeezed.len() >= 2 * TELLING && part.kind.is_code() {
            let holds = |asset: &&&AssetText| {
                family(asset.kind) == family(part.kind) && asset.squeezed.contains(&own.squeezed)
            };
            let files = self.of.assets.iter().filter(holds);
            places.extend(files.map(|asset| format!("in `{}`", asset.address)));
        }
        places
    }

    /// An element that is nowhere as it was published.
    fn not_there(&self, part: &PublishedPart, own: &PublishedElement) -> Held {
        let free = || self.of.page.elements.iter().enumerate().filter(|(at, _)| self.taken[*at].is_none());
        let free = || free().map(|(_, there)| there).filter(|there| family(there.kind) == family(part.kind));
        for there in free().filter(|there| is_marked(part, there)) {
            let placed =
                |row: Held| Held { line: Some(there.line), address: there.own.address.clone(), ..row };
            if let Some(release) = self.release_of(part.name.as_deref(), there) {
                let row = self.row(part, PartState::Stale, self.old(release));
                return placed(Held { release: Some(release), ..row });
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
        if own.squeezed.len() >= TELLING {
            if let Some(place) = self.among_other_code(part.kind, &own.squeezed) {
                return self.row(part, PartState::Live, format!("{place}, among other code"));
            }
            if self.of.page.words().contains(&own.squeezed) {
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
    fn lacking(&self, part: &PublishedPart, what: &str) -> Held {
        let is_mate = |other: &usize| {
            part.piece.is_some() && self.of.parts[*other].piece == part.piece && self.at[*other].is_some()
        };
        let has_mates = (0..self.at.len()).any(|other| is_mate(&other));
        match (&part.piece, has_mates) {
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
    fn old(&self, release: ReleaseNumber) -> String {
        format!(
            "release {release} is there: release {} has not come this far, or a cache keeps it back",
            self.of.release
        )
    }

    /// The release whose element this is.
    fn release_of(&self, name: Option<&str>, there: &ServedElement) -> Option<ReleaseNumber> {
        let release = match there.own.file_name() {
            Some(file) => self.of.archive.release_of_file(name, file),
            None => self.of.archive.release_of_code(name, &there.own.squeezed),
        };
        release.filter(|release| *release != self.of.release)
    }

    /// Where a code stands among other code.
    fn among_other_code(&self, kind: PartKind, squeezed: &str) -> Option<String> {
        let elements = self.of.page.elements.iter();
        let mut elements =
            elements.filter(|there| there.mark == Mark::None && family(there.kind) == family(kind));
        if let Some(there) = elements.find(|there| there.own.squeezed.contains(squeezed)) {
            return Some(line(there));
        }
        let mut assets = self.of.assets.iter().filter(|asset| family(asset.kind) == family(kind));
        let holds = assets.find(|asset| asset.squeezed.contains(squeezed))?;
        Some(format!("in `{}`", holds.address))
    }

    /// Code from a box that takes code alone: wherever the host has put it.
    fn of_code(&self, part: &PublishedPart, text: &str, squeezed: &str) -> Held {
        let mut places = Vec::new();
        let mut free = Vec::new();
        for there in self.of.page.elements.iter().filter(|there| family(there.kind) == family(part.kind)) {
            let times = there.own.squeezed.matches(squeezed).count();
            places.extend(std::iter::repeat_n(line(there), times));
            free.push((line(there), there.own.squeezed.as_str(), Some(there)));
        }
        for asset in self.of.assets.iter().filter(|asset| family(asset.kind) == family(part.kind)) {
            let times = asset.squeezed.matches(squeezed).count();
            places.extend(std::iter::repeat_n(format!("in `{}`", asset.address), times));
            free.push((format!("in `{}`", asset.address), &asset.squeezed, None));
        }
        match places.len() {
            0 => {}
            1 => return self.row(part, PartState::Live, String::new()),
            _ => {
                let message = format!("it is there more than once: {}", places.join(", "));
                return Held {
                    release: Some(self.of.release),
                    ..self.row(part, PartState::Doubled, message)
                };
            }
        }
        let short = super::code_text::shortest(part.kind, text);
        if let Some((place, _, _)) = free.iter().find(|(_, there, _)| there.contains(&short)) {
            return self.row(part, PartState::Live, format!("{place}, written shorter by the host"));
        }
        for (release, old) in self.of.archive.codes_of(part.name.as_deref(), part.kind) {
            if old.len() >= TELLING && free.iter().any(|(_, there, _)| there.contains(old)) {
                let row = self.row(part, PartState::Stale, self.old(release));
                return Held { release: Some(release), ..row };
            }
        }
        // The nearest one: that which shares its beginning or its end.
        let edge = |n: usize, text: &str| -> (String, String) {
            let count = text.chars().count();
            (text.chars().take(n).collect(), text.chars().skip(count.saturating_sub(n)).collect())
        };
        let (first, last) = edge(TELLING, squeezed);
        let near = free
            .iter()
            .find(|(_, there, _)| !first.is_empty() && (there.contains(&first) || there.contains(&last)));
        if let Some((place, _, there)) = near {
            let texts = there.map(|there| (text.to_owned(), there.own.text.clone()));
            return Held {
                texts,
                ..self.row(part, PartState::Altered, format!("it is another text {place}"))
            };
        }
        if squeezed.len() >= TELLING && self.of.page.words().contains(squeezed) {
            return self.row(part, PartState::Altered, "its text is shown on the page".to_owned());
        }
        self.lacking(part, "it")
    }

    fn of_nodes(&self, part: &PublishedPart, trees: &[String], text: &str, times: usize) -> Held {
        let Some(first) = trees.first() else {
            let is_there = self.of.page.words().contains(&squeezed(text));
            return match is_there {
                true => self.row(part, PartState::Live, String::new()),
                false => self.row(part, PartState::Missing, "its text is not there".to_owned()),
            };
        };
        let counts: Vec<usize> = trees.iter().map(|tree| self.of.page.count_of(tree)).collect();
        let (least, most) = (*counts.iter().min().unwrap_or(&0), *counts.iter().max().unwrap_or(&0));
        if least > times {
            let message = format!("it is there {} times, and should be {}", least, count_word(times));
            return Held { release: Some(self.of.release), ..self.row(part, PartState::Doubled, message) };
        }
        if least == times || (least > 0 && most >= times) {
            return self.row(part, PartState::Live, String::new());
        }
        if most > 0 {
            let message = format!("only {most} of {times} are there whole");
            return self.row(part, PartState::Altered, message);
        }
        for (tree, release) in self.of.archive.trees_of(part.name.as_deref()) {
            if release != self.of.release && self.of.page.count_of(tree) > 0 {
                let row = self.row(part, PartState::Stale, self.old(release));
                return Held { release: Some(release), ..row };
            }
        }
        // Somebody's own way of writing it: the element itself, or what can be read in it.
        let tag = first.lines().next().unwrap_or_default();
        let near = self.of.page.all().find(|(_, element)| !is_plain_tag(tag) && tag_text(*element) == tag);
        if let Some((document, element)) = near {
            let texts = Some((trees.concat(), tree_text(document, element)));
            let row = self.row(part, PartState::Altered, "other elements or texts are in it".to_owned());
            return Held { texts, ..row };
        }
        let words: String =
            trees.iter().flat_map(|tree| tree.lines()).filter(|line| !line.starts_with('<')).collect();
        let words = squeezed(&words);
        if words.len() >= TELLING && self.of.page.words().contains(&words) {
            let message = "its words are there, in other elements or with other attributes".to_owned();
            return self.row(part, PartState::Altered, message);
        }
        self.lacking(part, "its markup")
    }

    fn of_names(&self, part: &PublishedPart, id: Option<&str>, classes: &[String]) -> Held {
        let with_id = |wanted: &str| self.of.page.all().filter(|(_, own)| own.id() == Some(wanted)).count();
        if let Some(id) = id {
            match with_id(id) {
                0 => return self.row(part, PartState::Missing, format!("no element has the ID `{id}`")),
                1 => {}
                times => {
                    let message = format!("{times} elements have the ID `{id}`");
                    return Held {
                        release: Some(self.of.release),
                        ..self.row(part, PartState::Doubled, message)
                    };
                }
            }
        }
        match classes.iter().find(|wanted| !self.of.page.has_class(wanted)) {
            Some(class) => self.row(part, PartState::Missing, format!("no element has the class `{class}`")),
            None => self.row(part, PartState::Live, String::new()),
        }
    }

    /// What is marked as this tool's and is no part of the page.
    fn leftovers(&self) -> Vec<Held> {
        let mut rows = Vec::new();
        for (at, there) in self.of.page.elements.iter().enumerate() {
            let Mark::Of(name) = &there.mark else { continue };
            let is_other = |part: &&&PublishedPart| match &part.look {
                PartLook::Element(own) => is_same_code(own, part.kind, there),
                _ => false,
            };
            // Of what is for this page, a second one is told there; boxes of the site are on every page.
            let is_told = |row: &Held| row.line == Some(there.line) && row.name.as_ref() == Some(name);
            let is_of_page = |part: &&&PublishedPart| {
                part.name.as_ref() == Some(name) && family(part.kind) == family(there.kind)
            };
            if self.taken[at].is_some()
                || rows.iter().any(is_told)
                || self.of.others.iter().any(|own| is_other(&own))
            {
                continue;
            }
            let mates = self.of.parts.iter().filter(|own| is_of_page(own)).count();
            if mates > 0 {
                let all = self.of.page.elements.iter();
                let same = all.filter(|own| own.mark == there.mark && family(own.kind) == family(there.kind));
                let is_same_as_a_part = self.of.parts.iter().any(|own| is_other(&own));
                if is_same_as_a_part || self.release_of(Some(name), there).is_some() || same.count() <= mates
                {
                    continue;
                }
            }
            let release = self.release_of(Some(name), there);
            let (state, message) = match release {
                Some(release) => {
                    let message = format!(
                        "release {release} had it here, release {} has not: take it out",
                        self.of.release
                    );
                    (PartState::Stale, message)
                }
                None => {
                    (PartState::Stray, format!("a `<{}>` marked as its own is of no release", there.own.tag))
                }
            };
            rows.push(Held {
                name: Some(name.clone()),
                pins: vec![name.clone()],
                kind: there.kind,
                piece: None,
                state,
                release,
                message,
                texts: None,
                address: there.own.address.clone(),
                line: Some(there.line),
            });
        }
        rows
    }
}

/// Whether two kinds are written with the same elements.
fn family(kind: PartKind) -> PartKind {
    if kind == PartKind::Guard { PartKind::Script } else { kind }
}

fn is_marked(part: &PublishedPart, there: &ServedElement) -> bool {
    match (&part.name, &there.mark) {
        (Some(name), Mark::Of(own)) => name == own,
        (None, Mark::Helper) => true,
        _ => false,
    }
}

fn is_same_code(own: &PublishedElement, kind: PartKind, there: &ServedElement) -> bool {
    if family(kind) != family(there.kind) {
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

fn is_plain_tag(tag: &str) -> bool {
    !tag.contains(' ')
}

fn line(there: &ServedElement) -> String {
    format!("on line {}", there.line)
}

fn count_word(times: usize) -> String {
    if times == 1 { "once".to_owned() } else { format!("{times} times") }
}

fn changed(own: &PublishedElement, there: &ServedElement) -> String {
    match (&own.address, &there.own.address) {
        (Some(_), Some(address)) => format!("it links `{address}`, which is of no release"),
        (Some(_), None) => "its text stands in the page, and should be linked".to_owned(),
        (None, Some(address)) => format!("it links `{address}`, and its text should stand in the page"),
        (None, None) => "its text is another one, of no release".to_owned(),
    }
}
