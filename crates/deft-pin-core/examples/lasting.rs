//! How well the selectors that `locate` gives last, measured on a real tree of pages: elements
//! drawn at random, and the page changed as templates change. For `scripts/real-trees.sh`.
//!
//! `lasting FOLDER COUNT [SAMPLE.json]` prints shares and lengths, and writes a sample for a
//! browser to hold against its own matching.

use std::fs;
use std::path::{Path, PathBuf};

use deft_pin_core::find::{Lasting, PageIndex, lasting_selectors};
use deft_pin_core::markup::{Document, ElementRef, Origin, parse, parse_selectors};
use deft_pin_core::style::{Edit, apply};

/// Numbers that are the same in every run (xorshift).
struct Dice(u64);

impl Dice {
    fn below(&mut self, end: usize) -> usize {
        self.0 ^= self.0 << 13;
        self.0 ^= self.0 >> 7;
        self.0 ^= self.0 << 17;
        (self.0 % end.max(1) as u64) as usize
    }
}

fn pages(folder: &Path, found: &mut Vec<PathBuf>) {
    let mut entries: Vec<_> =
        fs::read_dir(folder).into_iter().flatten().flatten().map(|entry| entry.path()).collect();
    entries.sort();
    for path in entries {
        if path.is_symlink() {
            continue;
        }
        if path.is_dir() {
            pages(&path, found);
        } else if path.extension().is_some_and(|extension| extension == "html" || extension == "htm") {
            found.push(path);
        }
    }
}

/// Classes as a build makes them.
fn with_generated_classes(text: &str, document: &Document) -> String {
    let mut edits = Vec::new();
    for (number, element) in document.elements().enumerate() {
        let Origin::Tag(span) = element.data().origin else { continue };
        let tag = &text[span.range()];
        if let Some(at) = tag.find("class=\"") {
            let hash = (number as u32).wrapping_mul(2_654_435_761);
            edits.push(Edit::insert(span.start + at as u32 + 7, format!("made-{hash:08x} ")));
        }
    }
    apply(text, edits)
}

/// The same classes as the next build makes them.
fn regenerated(text: &str) -> String {
    let mut parts = text.split("made-");
    let mut changed = parts.next().unwrap_or_default().to_owned();
    for part in parts {
        let (hash, rest) = part.split_at_checked(8).unwrap_or((part, ""));
        let next = u32::from_str_radix(hash, 16).map_or(hash.to_owned(), |hash| format!("{:08x}", !hash));
        changed.push_str(&format!("made-{next}{rest}"));
    }
    changed
}

fn tags(element: ElementRef<'_>) -> Option<(deft_pin_core::source::Span, deft_pin_core::source::Span)> {
    match (element.data().origin, element.data().end_tag) {
        (Origin::Tag(start), Some(end)) => Some((start, end)),
        _ => None,
    }
}

fn is_box(element: &ElementRef<'_>) -> bool {
    matches!(
        &*element.data().name.local,
        "div" | "section" | "article" | "main" | "header" | "footer" | "aside" | "nav" | "li" | "td" | "dd"
    )
}

fn chain(element: ElementRef<'_>) -> Vec<ElementRef<'_>> {
    std::iter::successors(Some(element), |element| element.parent()).collect()
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Change {
    Wrapper,
    Sibling,
    Classes,
    Moved,
}

/// The edits of one change, if the page has room for it around the element.
fn change(change: Change, element: ElementRef<'_>, text: &str, dice: &mut Dice) -> Option<Vec<Edit>> {
    match change {
        Change::Classes => Some(Vec::new()),
        Change::Wrapper => {
            let boxes: Vec<_> = chain(element).into_iter().skip(1).filter(is_box).filter_map(tags).collect();
            let (start, end) = *boxes.get(dice.below(boxes.len()))?;
            Some(vec![Edit::insert(start.end, "<div class=\"shell\">"), Edit::insert(end.start, "</div>")])
        }
        Change::Sibling => {
            let chain = chain(element);
            let fitting: Vec<_> =
                chain.into_iter().filter(|e| is_box(e) || &*e.data().name.local == "p").collect();
            let before = fitting.get(dice.below(fitting.len()))?;
            let Origin::Tag(span) = before.data().origin else { return None };
            let name = &before.data().name.local;
            Some(vec![Edit::insert(span.start, format!("<{name}></{name}>"))])
        }
        Change::Moved => {
            let chain = chain(element);
            let document = element.document();
            let pairs: Vec<_> = chain
                .into_iter()
                .filter(|e| is_box(e) || &*e.data().name.local == "p")
                .filter_map(|one| {
                    let parent = one.parent()?;
                    let mut siblings = document.children(parent.id).filter_map(|id| document.element(id));
                    siblings.find(|sibling| *sibling == one)?;
                    Some((tags(one)?, tags(siblings.next()?)?))
                })
                .collect();
            let (one, other) = *pairs.get(dice.below(pairs.len()))?;
            let text = text[other.0.start as usize..other.1.end as usize].to_owned();
            let cut = Edit {
                span: deft_pin_core::source::Span { start: other.0.start, end: other.1.end },
                text: String::new(),
            };
            Some(vec![Edit::insert(one.0.start, text), cut])
        }
    }
}

/// The way that an inspector copies: every step by its place.
fn plain_path(element: ElementRef<'_>) -> String {
    let document = element.document();
    let mut steps: Vec<String> = chain(element)
        .into_iter()
        .map(|e| {
            let siblings = e.parent().map(|parent| {
                document.children(parent.id).filter_map(|id| document.element(id)).collect::<Vec<_>>()
            });
            let place = siblings.and_then(|siblings| siblings.iter().position(|other| *other == e));
            match place {
                Some(place) => format!("{}:nth-child({})", e.data().name.local, place + 1),
                None => "html".to_owned(),
            }
        })
        .collect();
    steps.reverse();
    steps.join(" > ")
}

fn finds(selector: &str, document: &Document) -> bool {
    let Ok(list) = parse_selectors(selector) else { return false };
    let index = PageIndex::new(document);
    let found = index.matched(&list, 2);
    let marked = |id| {
        document
            .element(id)
            .is_some_and(|e| e.data().attrs.iter().any(|a| &*a.name.local == "data-probe-mark"))
    };
    found.len() == 1 && marked(found[0])
}

fn main() {
    let mut arguments = std::env::args().skip(1);
    let folder = PathBuf::from(arguments.next().expect("a folder"));
    let count: usize = arguments.next().and_then(|count| count.parse().ok()).expect("a count");
    let sample = arguments.next();
    let mut files = Vec::new();
    pages(&folder, &mut files);
    let mut dice = Dice(0x5022_e100_5eed_0001);
    let changes = [Change::Wrapper, Change::Sibling, Change::Classes, Change::Moved];
    let (mut drawn, mut unique, mut positional, mut lengths) = (0, 0, 0, Vec::new());
    let mut lasted = [[0usize; 3]; 5];
    let mut rows = Vec::new();
    let started = std::time::Instant::now();
    let mut spent = std::time::Duration::ZERO;
    while drawn < count {
        let bytes = fs::read(&files[dice.below(files.len())]).expect("a page that can be read");
        let (decoded, document) = parse(&bytes);
        let text = with_generated_classes(decoded.text(), &document);
        let (decoded, document) = parse(text.as_bytes());
        if decoded.text() != text {
            continue;
        }
        let elements: Vec<_> = document.elements().collect();
        let Some(body) = document.body() else { continue };
        let place = dice.below(elements.len());
        let element = elements[place];
        if !element.is_within(body) || element == body || tags(element).is_none() {
            continue;
        }
        drawn += 1;
        let before = std::time::Instant::now();
        let index = PageIndex::new(&document);
        let best: Lasting = lasting_selectors(&index, element, 1).remove(0);
        spent += before.elapsed();
        unique += usize::from(index.is_unique(&best.selector, element.id));
        positional += usize::from([":nth", ":first", ":last"].iter().any(|nth| best.selector.contains(nth)));
        lengths.push(best.selector.len());
        let plain = plain_path(element);
        if rows.len() < 200 {
            rows.push((text.clone(), best.selector.clone(), place));
        }
        let mark = |element: ElementRef<'_>| {
            let Origin::Tag(span) = element.data().origin else { unreachable!("it has tags") };
            Edit::insert(span.start + 1 + element.data().name.local.len() as u32, " data-probe-mark=\"1\"")
        };
        for (row, changes) in changes.iter().map(std::slice::from_ref).chain([&changes[..]]).enumerate() {
            // Each change is made to the page that the one before it left.
            let mut changed = apply(&text, vec![mark(element)]);
            let mut made = true;
            for kind in changes {
                let (_, document) = parse(changed.as_bytes());
                let marked = document
                    .elements()
                    .find(|e| e.data().attrs.iter().any(|a| &*a.name.local == "data-probe-mark"));
                let edits = marked.and_then(|marked| change(*kind, marked, &changed, &mut dice));
                let Some(edits) = edits else {
                    made = false;
                    break;
                };
                changed = apply(&changed, edits);
                if *kind == Change::Classes {
                    changed = regenerated(&changed);
                }
            }
            if !made {
                continue;
            }
            let (_, document) = parse(changed.as_bytes());
            lasted[row][0] += 1;
            lasted[row][1] += usize::from(finds(&best.selector, &document));
            lasted[row][2] += usize::from(finds(&plain, &document));
        }
    }
    lengths.sort_unstable();
    let share = |part: usize, whole: usize| 100.0 * part as f64 / whole.max(1) as f64;
    println!(
        "{drawn} elements: {:.1} % unique, {:.1} % by position, median length {} ({} at most), {:.2} ms each, {:.0} s in all",
        share(unique, drawn),
        share(positional, drawn),
        lengths[lengths.len() / 2],
        lengths[lengths.len() - 1],
        spent.as_secs_f64() * 1000.0 / drawn as f64,
        started.elapsed().as_secs_f64(),
    );
    for (row, name) in
        ["a wrapper", "a sibling before", "classes anew", "a part moved", "all of it"].iter().enumerate()
    {
        let [made, best, plain] = lasted[row];
        println!(
            "  {name:<16} {made:>5} pages: {:>5.1} % still found, by the path from the root {:>5.1} %",
            share(best, made),
            share(plain, made)
        );
    }
    if let Some(sample) = sample {
        let rows: Vec<_> = rows
            .into_iter()
            .map(|(text, selector, place)| serde_json::json!({"text": text, "selector": selector, "place": place}))
            .collect();
        fs::write(&sample, serde_json::to_string(&rows).expect("plain values")).expect("a file to write");
    }
}
