//! A page as Chromium tells of it (DevTools protocol, `DOMSnapshot.captureSnapshot`), as elements with boxes and styles.

use deft_pin_core::compare::{Rectangle, SeenElement, SeenPage};
use serde::Deserialize;
use serde_json::Value;

#[derive(Deserialize)]
struct Snapshot {
    documents: Vec<Document>,
    strings: Vec<String>,
}

#[derive(Deserialize)]
struct Document {
    nodes: Nodes,
    layout: Layout,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Nodes {
    parent_index: Vec<i64>,
    node_type: Vec<u8>,
    node_name: Vec<i64>,
    node_value: Vec<i64>,
    attributes: Vec<Vec<i64>>,
    #[serde(default)]
    pseudo_type: Rare,
}

#[derive(Deserialize)]
#[serde(rename_all = "camelCase")]
struct Layout {
    node_index: Vec<usize>,
    styles: Vec<Vec<i64>>,
    bounds: Vec<[f64; 4]>,
}

#[derive(Default, Deserialize)]
struct Rare {
    index: Vec<usize>,
}

const ELEMENT: u8 = 1;
const TEXT: u8 = 3;
const FRAGMENT: u8 = 11;

/// Reads a snapshot; the styles in it are of these properties.
///
/// # Errors
/// It is none.
pub fn read(snapshot: Value, properties: &[String]) -> serde_json::Result<SeenPage> {
    let Snapshot { documents, strings } = serde_json::from_value(snapshot)?;
    let mut page = SeenPage { properties: properties.to_vec(), values: strings, elements: Vec::new() };
    // The first document is the page; the others are in its frames.
    let Some(document) = documents.into_iter().next() else { return Ok(page) };
    let text = |number: i64| usize::try_from(number).ok().and_then(|number| page.values.get(number));
    let nodes = &document.nodes;
    let mut places: Vec<Option<usize>> = vec![None; nodes.node_type.len()];
    let mut hidden = vec![false; nodes.node_type.len()];
    let mut elements: Vec<SeenElement> = Vec::new();
    for node in 0..nodes.node_type.len() {
        let parent = usize::try_from(nodes.parent_index[node]).ok();
        // A fragment stands for its host, and what a template holds is not shown.
        let place_of = |own: usize| places.get(own).copied().flatten();
        let outer = parent.and_then(place_of);
        hidden[node] = parent.is_some_and(|parent| hidden[parent]);
        match nodes.node_type[node] {
            ELEMENT if !hidden[node] => {
                let pairs = nodes.attributes.get(node).map(Vec::as_slice).unwrap_or_default();
                let attributes: Vec<(String, String)> = pairs
                    .chunks_exact(2)
                    .map(|pair| {
                        (
                            text(pair[0]).cloned().unwrap_or_default(),
                            text(pair[1]).cloned().unwrap_or_default(),
                        )
                    })
                    .collect();
                let id = attributes.iter().find(|own| own.0 == "id").map(|own| own.1.clone());
                let name =
                    text(nodes.node_name[node]).map(|name| name.to_ascii_lowercase()).unwrap_or_default();
                let is_pseudo = nodes.pseudo_type.index.binary_search(&node).is_ok();
                let name = if is_pseudo { format!("::{}", name.trim_start_matches(':')) } else { name };
                let is_in_shadow = outer.is_some_and(|outer| elements[outer].is_in_shadow)
                    || parent.is_some_and(|parent| nodes.node_type[parent] == FRAGMENT);
                places[node] = Some(elements.len());
                elements.push(SeenElement {
                    parent: outer,
                    name,
                    id: id.filter(|id| !id.is_empty()),
                    attributes,
                    is_in_shadow,
                    ..SeenElement::default()
                });
            }
            TEXT if !hidden[node] => {
                let own = outer.and_then(|outer| elements.get_mut(outer));
                if let Some((element, text)) = own.zip(text(nodes.node_value[node])) {
                    element.text.push_str(text);
                }
            }
            FRAGMENT => {
                let is_template = outer.is_some_and(|outer| elements[outer].name == "template");
                hidden[node] |= is_template;
                places[node] = outer;
            }
            _ => {}
        }
    }
    for ((node, styles), bounds) in
        document.layout.node_index.iter().zip(&document.layout.styles).zip(&document.layout.bounds)
    {
        let Some(element) = places.get(*node).copied().flatten() else { continue };
        if nodes.node_type[*node] != ELEMENT {
            continue;
        }
        let own = &mut elements[element];
        let [x, y, width, height] = *bounds;
        own.rectangle = Some(Rectangle { x, y, width, height });
        own.style = styles.iter().map(|value| u32::try_from(*value).unwrap_or(u32::MAX)).collect();
    }
    page.elements = elements;
    Ok(page)
}
