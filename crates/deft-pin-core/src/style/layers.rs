//! The order of a page's cascade layers (css-cascade-5, 6.4.3): by first mention, layers inside
//! of others before what these have outside of any.

use rustc_hash::FxHashMap;

use super::rule::LayerName;

/// `a.b, c`: the names of layers; none where one of them is no name (css-cascade-5, "layer naming").
/// Chromium takes CSS-wide keywords too, which the standard leaves out.
pub(super) fn layer_names(text: &str) -> Vec<Vec<LayerName>> {
    let mut input = cssparser::Parser::new(text);
    let path = |input: &mut cssparser::Parser<'_>| {
        let mut path = vec![LayerName::Named(input.expect_ident()?.to_string())];
        while let Ok(token) = input.try_parse(|input| input.next_including_whitespace().cloned()) {
            match token {
                cssparser::Token::Delim('.') => match input.next_including_whitespace()? {
                    cssparser::Token::Ident(name) => path.push(LayerName::Named(name.to_string())),
                    _ => return Err(cssparser::ParseError::unexpected_token()),
                },
                cssparser::Token::WhiteSpace(_) => break,
                _ => return Err(cssparser::ParseError::unexpected_token()),
            }
        }
        input.expect_exhausted()?;
        Ok::<_, cssparser::ParseError<()>>(path)
    };
    input.parse_comma_separated(path).unwrap_or_default()
}

/// The layers of a page. Which is stronger, their ranks say.
#[derive(Debug)]
pub(super) struct Layers {
    nodes: Vec<Node>,
    ranks: Vec<u32>,
}

#[derive(Debug, Default)]
struct Node {
    children: FxHashMap<(u32, LayerName), usize>,
    in_order: Vec<usize>,
}

impl Default for Layers {
    fn default() -> Self {
        Layers { nodes: vec![Node::default()], ranks: Vec::new() }
    }
}

/// What stands in no layer.
pub(super) const UNLAYERED: usize = 0;

impl Layers {
    /// The layer of a path below another one. Anonymous names belong to one sheet, by its number.
    pub(super) fn enter(&mut self, from: usize, sheet: u32, path: &[LayerName]) -> usize {
        let mut at = from;
        for name in path {
            let sheet = if matches!(name, LayerName::Anonymous(_)) { sheet } else { 0 };
            let key = (sheet, name.clone());
            at = match self.nodes[at].children.get(&key) {
                Some(known) => *known,
                None => {
                    let new = self.nodes.len();
                    self.nodes.push(Node::default());
                    self.nodes[at].children.insert(key, new);
                    self.nodes[at].in_order.push(new);
                    new
                }
            };
        }
        at
    }

    /// Fixes the order, once every layer is known.
    pub(super) fn settle(&mut self) {
        self.ranks = vec![0; self.nodes.len()];
        let mut next = 0;
        // From the root down, each layer after those in it.
        let mut waiting = vec![(UNLAYERED, false)];
        while let Some((at, seen)) = waiting.pop() {
            if seen {
                self.ranks[at] = next;
                next += 1;
            } else {
                waiting.push((at, true));
                waiting.extend(self.nodes[at].in_order.iter().rev().map(|child| (*child, false)));
            }
        }
    }

    /// How strong a layer is for what is not important: the more, the stronger.
    pub(super) fn rank(&self, layer: usize) -> u32 {
        self.ranks[layer]
    }
}
