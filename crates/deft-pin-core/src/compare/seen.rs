//! A page as a browser showed it: its elements with their boxes and computed styles.

use std::collections::HashMap;

use serde::Serialize;

/// A box on a page, in CSS pixels from its top left corner.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Rectangle {
    /// How far from the left.
    pub x: f64,
    /// How far from the top.
    pub y: f64,
    /// How wide.
    pub width: f64,
    /// How high.
    pub height: f64,
}

impl Serialize for Rectangle {
    /// As four whole numbers: left, top, width and height.
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        [self.x, self.y, self.width, self.height].map(|own| own.round() as i64).serialize(serializer)
    }
}

impl Rectangle {
    /// Whether two boxes have the same size, but for what rounding makes of it.
    pub fn is_as_large_as(&self, other: &Rectangle) -> bool {
        (self.width - other.width).abs() < 0.02 && (self.height - other.height).abs() < 0.02
    }

    /// Whether two boxes are the same, but for what rounding makes of them.
    pub fn is_like(&self, other: &Rectangle) -> bool {
        let pairs =
            [(self.x, other.x), (self.y, other.y), (self.width, other.width), (self.height, other.height)];
        pairs.iter().all(|(own, other)| (own - other).abs() < 0.02)
    }
}

/// An element, or a pseudo-element that has a box.
#[derive(Clone, Debug, Default)]
pub struct SeenElement {
    /// The element that it is in, by its place in the list; none for the root.
    pub parent: Option<usize>,
    /// Its name in lower case; `::before` for a pseudo-element.
    pub name: String,
    /// Its ID.
    pub id: Option<String>,
    /// Its attributes, as they are written, by name.
    pub attributes: Vec<(String, String)>,
    /// The texts that are right in it, one behind the other.
    pub text: String,
    /// Its box; none where it is not rendered.
    pub rectangle: Option<Rectangle>,
    /// Its computed style, in the order of [`SeenPage::properties`]; empty where it is not rendered.
    pub style: Vec<u32>,
    /// Whether it is in a shadow tree, where selectors of the page do not come.
    pub is_in_shadow: bool,
}

/// A page as a browser showed it.
#[derive(Clone, Debug, Default)]
pub struct SeenPage {
    /// The properties that styles are of.
    pub properties: Vec<String>,
    /// The texts that styles are numbers of.
    pub values: Vec<String>,
    /// The elements in tree order: an element comes before what is in it.
    pub elements: Vec<SeenElement>,
}

impl SeenPage {
    /// The computed value of a property of an element, by its place; empty where it is not rendered.
    pub fn value(&self, element: usize, property: usize) -> &str {
        let value = self.elements[element].style.get(property);
        value.and_then(|value| self.values.get(*value as usize)).map_or("", String::as_str)
    }

    /// The children of each element, in order.
    pub(super) fn children(&self) -> Vec<Vec<usize>> {
        let mut children = vec![Vec::new(); self.elements.len()];
        for (own, element) in self.elements.iter().enumerate() {
            if let Some(list) = element.parent.and_then(|parent| children.get_mut(parent)) {
                list.push(own);
            }
        }
        children
    }
}

/// The selectors of a page's elements.
pub struct Addresses<'p> {
    page: &'p SeenPage,
    /// How many elements have an ID.
    ids: HashMap<&'p str, usize>,
    /// For each element which of its kind it is among its siblings, from one.
    numbers: Vec<usize>,
    /// How many of a kind there are in an element.
    counts: HashMap<(Option<usize>, &'p str), usize>,
}

impl<'p> Addresses<'p> {
    /// Counts what tells elements apart.
    pub fn of(page: &'p SeenPage) -> Self {
        let mut addresses =
            Addresses { page, ids: HashMap::new(), numbers: Vec::new(), counts: HashMap::new() };
        for element in &page.elements {
            if let Some(id) = &element.id {
                *addresses.ids.entry(id).or_default() += 1;
            }
            let count = addresses.counts.entry((element.parent, &element.name)).or_default();
            *count += 1;
            addresses.numbers.push(*count);
        }
        addresses
    }

    /// A selector of an element: its ID where no other has it, or the way from the nearest element that has one.
    pub fn get(&self, element: usize) -> String {
        let mut steps: Vec<String> = Vec::new();
        let mut at = Some(element);
        let mut pseudo = "";
        while let Some(own) = at {
            let it = &self.page.elements[own];
            at = it.parent;
            if it.name.starts_with("::") {
                pseudo = &it.name;
                continue;
            }
            if let Some(id) = it.id.as_deref().filter(|id| self.ids.get(id) == Some(&1)) {
                let mut selector = "#".to_owned();
                // Writing to a string does not fail.
                let _ = cssparser::serialize_identifier(id, &mut selector);
                steps.push(selector);
                break;
            }
            if it.name == "html" && !steps.is_empty() {
                break;
            }
            steps.push(match self.counts.get(&(it.parent, it.name.as_str())) {
                None | Some(1) => it.name.clone(),
                Some(_) => format!("{}:nth-of-type({})", it.name, self.numbers[own]),
            });
        }
        steps.reverse();
        format!("{}{pseudo}", steps.join(" > "))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn elements_are_named_by_the_way_to_them() {
        let rows = [
            (None, "html", "", "html"),
            (Some(0), "body", "", "body"),
            (Some(1), "main", "status", "#status"),
            (Some(2), "p", "", "#status > p:nth-of-type(1)"),
            (Some(2), "p", "", "#status > p:nth-of-type(2)"),
            (Some(4), "::before", "", "#status > p:nth-of-type(2)::before"),
            (Some(1), "div", "twice", "body > div:nth-of-type(1)"),
            (Some(1), "div", "twice", "body > div:nth-of-type(2)"),
            (Some(7), "a", "5", "#\\35 "),
        ];
        let element = |row: &(Option<usize>, &str, &str, &str)| SeenElement {
            parent: row.0,
            name: row.1.to_owned(),
            id: Some(row.2.to_owned()).filter(|id| !id.is_empty()),
            ..SeenElement::default()
        };
        let page = SeenPage { elements: rows.iter().map(element).collect(), ..SeenPage::default() };
        let addresses = Addresses::of(&page);
        for (number, row) in rows.iter().enumerate() {
            assert_eq!(addresses.get(number), row.3);
        }
    }
}
