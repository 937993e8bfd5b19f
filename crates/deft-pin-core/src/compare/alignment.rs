//! Which element of one look at a page is which of the other.
//!
//! Two trees are walked from their roots. Among the children of a pair those that are alike with all that is in them
//! are pairs first, then those with the same name, ID and classes, then those with the same name; each time in order,
//! as many as there can be. What is left over and stands elsewhere unchanged has moved there.

use std::collections::{HashMap, HashSet};
use std::hash::{DefaultHasher, Hash, Hasher};

use similar::{Algorithm, DiffOp, capture_diff_slices};

use super::seen::{SeenElement, SeenPage};

/// Which element is which: for each of one page its place in the other.
#[derive(Debug, Default)]
pub(super) struct Alignment {
    /// For each element of the page before, the one after.
    pub(super) after: Vec<Option<usize>>,
    /// For each element of the page after, the one before.
    pub(super) before: Vec<Option<usize>>,
}

/// Aligns two looks at a page.
pub(super) fn align(before: &SeenPage, after: &SeenPage) -> Alignment {
    let ids =
        |page: &SeenPage| page.elements.iter().filter_map(|own| own.id.clone()).collect::<HashSet<String>>();
    let shared: HashSet<String> = ids(before).intersection(&ids(after)).cloned().collect();
    let mut aligner = Aligner {
        sides: [Side::of(before, &shared), Side::of(after, &shared)],
        alignment: Alignment {
            after: vec![None; before.elements.len()],
            before: vec![None; after.elements.len()],
        },
    };
    aligner.children(aligner.sides[0].roots.clone(), aligner.sides[1].roots.clone());
    aligner.moved();
    aligner.alignment
}

/// One of the two trees, with what its elements go by.
struct Side {
    roots: Vec<usize>,
    children: Vec<Vec<usize>>,
    /// What an element is with all that is in it.
    whole: Vec<u64>,
    /// What it is by its name, ID and classes.
    named: Vec<u64>,
    /// What it is by its name, and an ID that both pages have.
    tag: Vec<u64>,
    /// That ID.
    ids: Vec<Option<String>>,
}

impl Side {
    fn of(page: &SeenPage, shared: &HashSet<String>) -> Self {
        let children = page.children();
        let mut whole = vec![0; page.elements.len()];
        // Children come behind their parents.
        for (own, element) in page.elements.iter().enumerate().rev() {
            let inner: Vec<u64> = children[own].iter().map(|child| whole[*child]).collect();
            whole[own] = hash_of(&(&element.name, &element.attributes, &element.text, inner));
        }
        let class =
            |own: &[(String, String)]| own.iter().find(|own| own.0 == "class").map(|own| own.1.clone());
        let elements = page.elements.iter();
        let named = elements.map(|own| hash_of(&(&own.name, &own.id, class(&own.attributes)))).collect();
        // An ID that both pages have stays with its element.
        let id = |own: &SeenElement| own.id.clone().filter(|id| shared.contains(id));
        let tag = page.elements.iter().map(|own| hash_of(&(&own.name, id(own)))).collect();
        let ids = page.elements.iter().map(id).collect();
        let is_root = |own: &usize| page.elements[*own].parent.is_none();
        let roots = (0..page.elements.len()).filter(is_root).collect();
        Side { roots, children, whole, named, tag, ids }
    }
}

fn hash_of(value: &impl Hash) -> u64 {
    let mut hasher = DefaultHasher::new();
    value.hash(&mut hasher);
    hasher.finish()
}

struct Aligner {
    sides: [Side; 2],
    alignment: Alignment,
}

/// How much alike two elements have to be.
#[derive(Clone, Copy)]
enum Likeness {
    Whole,
    Named,
    Tag,
}

impl Aligner {
    /// Aligns lists of children, and what is in them; without recursion, since trees may be deep.
    fn children(&mut self, before: Vec<usize>, after: Vec<usize>) {
        let mut waiting = vec![(before, after)];
        while let Some((before, after)) = waiting.pop() {
            for (a, b) in self.list(&before, &after, Likeness::Whole) {
                self.alignment.after[a] = Some(b);
                self.alignment.before[b] = Some(a);
                waiting.push((self.sides[0].children[a].clone(), self.sides[1].children[b].clone()));
            }
        }
    }

    fn list(&self, before: &[usize], after: &[usize], likeness: Likeness) -> Vec<(usize, usize)> {
        if before.is_empty() || after.is_empty() {
            return Vec::new();
        }
        let keys = |side: &Side, list: &[usize]| -> Vec<u64> {
            let all = match likeness {
                Likeness::Whole => &side.whole,
                Likeness::Named => &side.named,
                Likeness::Tag => &side.tag,
            };
            list.iter().map(|own| all[*own]).collect()
        };
        let next = match likeness {
            Likeness::Whole => Some(Likeness::Named),
            Likeness::Named => Some(Likeness::Tag),
            Likeness::Tag => None,
        };
        let ops = capture_diff_slices(
            Algorithm::Myers,
            &keys(&self.sides[0], before),
            &keys(&self.sides[1], after),
        );
        let mut pairs = Vec::new();
        for op in ops {
            match op {
                DiffOp::Equal { old_index, new_index, len } => {
                    pairs.extend((0..len).map(|at| (before[old_index + at], after[new_index + at])));
                }
                DiffOp::Replace { old_index, old_len, new_index, new_len } => {
                    let (a, b) =
                        (&before[old_index..old_index + old_len], &after[new_index..new_index + new_len]);
                    pairs.extend(next.map(|next| self.list(a, b, next)).into_iter().flatten());
                }
                DiffOp::Delete { .. } | DiffOp::Insert { .. } => {}
            }
        }
        pairs
    }

    /// What is gone from one place and stands in another, unchanged or with its ID, has moved.
    fn moved(&mut self) {
        let mut gone: HashMap<u64, Vec<usize>> = HashMap::new();
        let mut named: HashMap<String, usize> = HashMap::new();
        for (own, pair) in self.alignment.after.iter().enumerate().rev() {
            if pair.is_none() {
                gone.entry(self.sides[0].whole[own]).or_default().push(own);
                named.extend(self.sides[0].ids[own].clone().map(|id| (id, own)));
            }
        }
        for own in 0..self.alignment.before.len() {
            if self.alignment.before[own].is_some() {
                continue;
            }
            let by_id = self.sides[1].ids[own].as_ref().and_then(|id| named.get(id).copied());
            let whole = || gone.get_mut(&self.sides[1].whole[own]).and_then(Vec::pop);
            let Some(from) = by_id.or_else(whole) else { continue };
            let is_same_kind = self.sides[0].tag[from] == self.sides[1].tag[own];
            if self.alignment.after[from].is_none() && is_same_kind {
                self.children(vec![from], vec![own]);
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A tree written as `name#id(inner)`, with texts in quotes.
    fn tree(text: &str) -> SeenPage {
        let mut page = SeenPage::default();
        let mut open: Vec<usize> = Vec::new();
        for part in text.split_inclusive(['(', ')', ' ']) {
            let (word, end) = part.split_at(part.len() - 1);
            let (word, end) = if end == "(" || end == ")" || end == " " { (word, end) } else { (part, "") };
            if !word.is_empty() {
                let (word, text) = word.split_once('=').unwrap_or((word, ""));
                let (name, id) = word.split_once('#').map_or((word, None), |(name, id)| (name, Some(id)));
                page.elements.push(SeenElement {
                    parent: open.last().copied(),
                    name: name.to_owned(),
                    id: id.map(str::to_owned),
                    text: text.to_owned(),
                    ..SeenElement::default()
                });
            }
            match end {
                "(" => open.push(page.elements.len() - 1),
                ")" => {
                    open.pop();
                }
                _ => {}
            }
        }
        page
    }

    #[test]
    fn elements_are_found_again() {
        let rows = [
            ("html(p p p)", "html(p p p)", "0 1 2 3"),
            ("html(p=a p=b p=c)", "html(p=a p=new p=b p=c)", "0 1 - 2 3"),
            ("html(p=a p=b)", "html(p=b)", "0 2"),
            ("html(div#x(p=a) div#y(p=b))", "html(div#x(p=a i) div#y(p=c))", "0 1 2 - 3 4"),
            ("html(main(p=a p=b))", "html(main(div(p=a) p=b))", "0 1 - 2 3"),
            ("html(p=a)", "html(p=b)", "0 1"),
            ("html(p=a)", "html(i=a)", "0 -"),
            ("html(ul(li=1 li=2 li=3))", "html(ul(li=0 li=1 li=2 li=3))", "0 1 - 2 3 4"),
            ("html", "html(p p)", "0 - -"),
            ("html(div#x(p=a))", "html(div#new(div#x(p=a p)))", "0 - 1 2 -"),
            ("html(div#x(p=a) div#y)", "html(div#y div#x(p=b))", "0 3 1 2"),
        ];
        for (before, after, expected) in rows {
            let pairs = align(&tree(before), &tree(after)).before;
            let words: Vec<String> =
                pairs.iter().map(|pair| pair.map_or("-".to_owned(), |own| own.to_string())).collect();
            assert_eq!(words.join(" "), expected, "{before} to {after}");
        }
    }
}
