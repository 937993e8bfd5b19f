//! Judges parts that are no elements of their own: code among other code, markup, names.

use super::code_text::{TELLING, shortest};
use super::held::{Held, PartState};
use super::judge::{Judge, line};
use super::part_kind::PartKind;
use super::published::PublishedPart;
use super::served::Mark;
use super::tree_text::{tag_text, tree_text};

impl Judge<'_> {
    /// Where a code stands among other code.
    pub(super) fn among_other_code(&self, kind: PartKind, squeezed: &str) -> Option<String> {
        let elements = self.of.page.elements.iter();
        let mut elements =
            elements.filter(|there| there.mark == Mark::None && there.kind.family() == kind.family());
        if let Some(there) = elements.find(|there| there.own.squeezed.contains(squeezed)) {
            return Some(line(there));
        }
        let mut assets = self.of.assets.iter().filter(|asset| asset.kind.family() == kind.family());
        let holds = assets.find(|asset| asset.squeezed.contains(squeezed))?;
        Some(format!("in `{}`", holds.address))
    }

    /// Code from a box that takes code alone: wherever the host has put it.
    pub(super) fn of_code(&self, part: &PublishedPart, text: &str, squeezed: &str) -> Held {
        let mut places = Vec::new();
        let mut free = Vec::new();
        for there in self.of.page.elements.iter().filter(|there| there.kind.family() == part.kind.family()) {
            let times = there.own.squeezed.matches(squeezed).count();
            places.extend(std::iter::repeat_n(line(there), times));
            free.push((line(there), there.own.squeezed.as_str(), Some(there)));
        }
        for asset in self.of.assets.iter().filter(|asset| asset.kind.family() == part.kind.family()) {
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
        let short = shortest(part.kind, text);
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
        if squeezed.len() >= TELLING && self.of.page.shows(squeezed) {
            return self.row(part, PartState::Altered, "its text is shown on the page".to_owned());
        }
        self.lacking(part, "it")
    }

    pub(super) fn of_nodes(&self, part: &PublishedPart, trees: &[String], text: &str, times: usize) -> Held {
        let Some(first) = trees.first() else {
            let is_there = self.of.page.shows(text);
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
        if words.len() >= TELLING && self.of.page.shows(&words) {
            let message = "its words are there, in other elements or with other attributes".to_owned();
            return self.row(part, PartState::Altered, message);
        }
        self.lacking(part, "its markup")
    }

    pub(super) fn of_names(&self, part: &PublishedPart, id: Option<&str>, classes: &[String]) -> Held {
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
}

fn is_plain_tag(tag: &str) -> bool {
    !tag.contains(' ')
}

fn count_word(times: usize) -> String {
    if times == 1 { "once".to_owned() } else { format!("{times} times") }
}
