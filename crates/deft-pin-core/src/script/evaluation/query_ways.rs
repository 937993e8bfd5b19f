//! From jQuery's sets to others: what stands around their elements and in them, and which of them match.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::value::{Absence, Kind, Node, Value};
use crate::markup::{Document, NodeId, Sought, parse_selectors};
use crate::source::Span;

/// What each element of a set leads to.
fn led_to(name: &str, document: &Document, id: NodeId) -> Option<Vec<NodeId>> {
    let is_element = |id: &NodeId| document.element(*id).is_some();
    let parent = document.node(id).parent();
    let siblings = || -> Vec<NodeId> {
        parent.map(|parent| document.child_elements(parent).collect()).unwrap_or_default()
    };
    let at = || siblings().iter().position(|own| *own == id).unwrap_or_default();
    let around = || std::iter::successors(parent, |at| document.node(*at).parent()).filter(is_element);
    Some(match name {
        "children" => document.child_elements(id).collect(),
        "find" => document.descendants(id).filter(is_element).collect(),
        "parent" => around().take(1).collect(),
        "parents" => around().collect(),
        "closest" => std::iter::once(id).chain(around()).collect(),
        "next" => siblings().into_iter().skip(at() + 1).take(1).collect(),
        "parentsUntil" => around().collect(),
        "nextAll" | "nextUntil" => siblings().into_iter().skip(at() + 1).collect(),
        "prev" => {
            at().checked_sub(1).and_then(|before| siblings().get(before).copied()).into_iter().collect()
        }
        "prevAll" | "prevUntil" => siblings().into_iter().take(at()).rev().collect(),
        "siblings" => siblings().into_iter().filter(|own| *own != id).collect(),
        "filter" | "not" | "is" | "has" => vec![id],
        _ => return None,
    })
}

impl Machine<'_> {
    /// What a method of a known set comes to on the page at present; none where that cannot be told.
    pub(super) fn query_way(
        &mut self,
        name: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<Value>> {
        let Some(elements) = elements.filter(|own| !own.is_empty() && self.is_present()) else {
            return Ok(None);
        };
        let first = arguments.get(0);
        let nodes: Option<Vec<Node>> = elements.iter().map(|own| self.node_of(own)).collect();
        let Some(nodes) = nodes else { return Ok(None) };
        match name {
            "first" | "last" | "eq" => {
                let at = match name {
                    "first" => 0.0,
                    "last" => -1.0,
                    _ => match self.as_number(&first) {
                        Ok(at) => at,
                        Err(_) => return Ok(None),
                    },
                };
                let at = if at < 0.0 { elements.len() as f64 + at } else { at };
                let own: Vec<Value> =
                    if at < 0.0 { None } else { elements.get(at as usize) }.into_iter().cloned().collect();
                return Ok(Some(self.query(Some(own), None)));
            }
            "attr" if arguments.values.len() == 1 => {
                let (Some(node), Ok(key)) = (nodes.first(), self.as_text(&first)) else { return Ok(None) };
                return Ok(self.attribute_at_present(*node, &key).map(|value| match value {
                    Value::Null(absence) => Value::Undefined(absence),
                    value => value,
                }));
            }
            "clone" => {
                let ids: Option<Vec<NodeId>> = nodes.iter().map(|node| self.present_node(*node)).collect();
                let (Some(ids), Some(page)) = (ids, self.changed_page()) else { return Ok(None) };
                let copies: Vec<NodeId> = ids.into_iter().map(|id| page.document.copy(id, true)).collect();
                self.step(copies.len() as u32)?;
                let elements = copies.into_iter().map(|id| self.present_value(id)).collect();
                return Ok(Some(self.query(Some(elements), None)));
            }
            "val" if arguments.values.is_empty() => {
                let Some(node) = nodes.first() else { return Ok(None) };
                let value = self.present_member(*node, "value");
                let is_blank = matches!(&value, Some(Value::Text(text)) if text.is_empty());
                // A `select` in which nothing is chosen has no value.
                if is_blank
                    && &*self.tag_of(*node) == "select"
                    && matches!(self.present_member(*node, "selectedIndex"), Some(Value::Number(at)) if at < 0.0)
                {
                    return Ok(Some(Value::NULL));
                }
                return Ok(value);
            }
            "html" if arguments.values.is_empty() => {
                return Ok(nodes.first().and_then(|node| self.present_member(*node, "innerHTML")));
            }
            "text" if arguments.values.is_empty() => {
                let mut all = String::new();
                for node in nodes {
                    match self.present_member(node, "textContent") {
                        Some(Value::Text(text)) => all.push_str(&text),
                        _ => return Ok(None),
                    }
                }
                return Ok(Some(self.bounded(&all)));
            }
            "index" => return Ok(self.query_index(elements, &nodes, arguments)),
            "add" if arguments.values.len() == 1 => {
                let found = match &first {
                    Value::Text(text) if !text.trim_start().starts_with('<') => {
                        self.query_found(None, text, span)?
                    }
                    other => other.clone(),
                };
                let more = match self.kind(&found).cloned() {
                    Some(Kind::Query(Some(more), _)) => more,
                    Some(Kind::Element(_)) => vec![found],
                    _ => return Ok(None),
                };
                let all: Vec<Value> = elements.iter().cloned().chain(more).collect();
                return Ok(self.in_page_order(&all).map(|all| self.query(Some(all), None)));
            }
            "hasClass" => {
                let mut has = false;
                for node in nodes {
                    match self.called_on_classes("contains", node, arguments) {
                        Some(Value::Boolean(own)) => has |= own,
                        _ => return Ok(None),
                    }
                }
                return Ok(Some(Value::Boolean(has)));
            }
            _ => {}
        }
        self.step(nodes.len() as u32)?;
        let selector = match &first {
            Value::Undefined(_) if arguments.values.is_empty() => None,
            Value::Text(text) => Some(Arc::clone(text)),
            _ => return Ok(None),
        };
        if let Some(text) = selector.as_ref().filter(|text| parse_selectors(text).is_err()) {
            const TAKING: &[&str] = &[
                "children", "closest", "filter", "find", "has", "is", "next", "nextAll", "not", "parent",
                "parents", "prev", "prevAll", "siblings",
            ];
            if TAKING.contains(&name)
                && let Some(stop) = self.refused_by_query(name, text, span)?
            {
                return Err(stop);
            }
            return Ok(self.led_by_query(name, &nodes, text, span));
        }
        Ok(self.led(name, &nodes, selector, span))
    }

    /// Elements in the order of the page; none where that cannot be told.
    fn in_page_order(&mut self, elements: &[Value]) -> Option<Vec<Value>> {
        let document = self.present_document()?;
        let place = |value: &Value| {
            let id = self.present_id(self.node_of(value)?)?;
            document.is_in_tree(id).then_some(id)
        };
        let among: FxHashSet<NodeId> = elements.iter().map(place).collect::<Option<_>>()?;
        self.charge(document.count() / 4);
        let order = in_order_of_page(document, &among);
        Some(order.into_iter().map(|id| self.present_value(id)).collect())
    }

    /// `.index()`: where the first element is among its siblings, or where one is in the set.
    fn query_index(&mut self, elements: &[Value], nodes: &[Node], arguments: &Arguments) -> Option<Value> {
        let at = match arguments.values.as_slice() {
            [] => {
                let id = self.present_node(*nodes.first()?)?;
                let document = self.present_document()?;
                let parent = document.node(id).parent()?;
                let is_slotted = document.is_slotted(parent);
                let at = document.child_elements(parent).position(|own| own == id);
                at.filter(|_| !is_slotted && !self.others_may_change())?
            }
            [given] => {
                let sought = match self.kind(given) {
                    Some(Kind::Query(Some(own), _)) => own.first()?.clone(),
                    Some(Kind::Element(_)) => given.clone(),
                    _ => return None,
                };
                match elements.iter().position(|own| own.is_same(&sought)) {
                    Some(at) => at,
                    None => return Some(Value::Number(-1.0)),
                }
            }
            _ => return None,
        };
        Some(Value::Number(at as f64))
    }

    /// The same by a selector that only jQuery knows.
    fn led_by_query(&mut self, name: &str, nodes: &[Node], text: &str, span: Span) -> Option<Value> {
        let ids: Vec<NodeId> = nodes.iter().map(|node| self.present_node(*node)).collect::<Option<_>>()?;
        let found = match (name, ids.as_slice()) {
            ("find", [only]) => self.found_by_query(Some(*only), text)?,
            ("filter", _) => self.left_by_query(ids, text)?,
            ("is", _) => {
                let is_met = !self.left_by_query(ids, text)?.is_empty();
                return Some(Value::Boolean(is_met));
            }
            ("not", _) => {
                let met = self.left_by_query(ids.clone(), text)?;
                ids.into_iter().filter(|id| !met.contains(id)).collect()
            }
            ("children" | "siblings" | "nextAll" | "prevAll", _) => {
                let document = self.present_document()?;
                let mut all = Vec::new();
                for id in ids {
                    all.extend(led_to(name, document, id)?);
                }
                self.left_by_query(all, text)?
            }
            _ => return None,
        };
        Some(self.query_of_found(Some(found), text, span))
    }

    fn led(&mut self, name: &str, nodes: &[Node], selector: Option<Arc<str>>, span: Span) -> Option<Value> {
        let selectors = match &selector {
            Some(text) => Some(parse_selectors(text).ok()?),
            None if matches!(name, "find" | "closest" | "filter" | "has" | "not" | "is") => return None,
            None => None,
        };
        if let (Some(text), Some(selectors)) = (&selector, &selectors)
            && self.presence.vague.hides(text, selectors)
        {
            return None;
        }
        let ids: Vec<NodeId> = nodes.iter().map(|node| self.present_node(*node)).collect::<Option<_>>()?;
        let document = self.present_document()?;
        let mut found: Vec<NodeId> = Vec::new();
        let mut seen: FxHashSet<NodeId> = FxHashSet::default();
        let mut sought = selectors.as_ref().map(Sought::by);
        let mut looked = 0;
        for id in ids {
            let around =
                if matches!(name, "children" | "find") { Some(id) } else { document.node(id).parent() };
            let ends = name.ends_with("Until");
            let is_among = matches!(name, "children" | "next" | "nextAll" | "prev" | "prevAll" | "siblings")
                || ends && name != "parentsUntil";
            if is_among && selectors.is_none() && around.is_some_and(|around| document.is_slotted(around)) {
                return None;
            }
            for own in led_to(name, document, id)? {
                looked += 1;
                let is_met = match &mut sought {
                    Some(sought) if name == "has" => {
                        let inside: Vec<NodeId> = led_to("find", document, own)?;
                        looked += inside.len();
                        let mut is_met = false;
                        for inner in inside {
                            is_met |= sought.surely_finds(document.element(inner)?, None)?;
                        }
                        is_met
                    }
                    Some(sought) => sought.surely_finds(document.element(own)?, None)?,
                    None => true,
                };
                // It ends at what is found.
                if ends && selectors.is_some() {
                    if is_met {
                        break;
                    }
                    if seen.insert(own) {
                        found.push(own);
                    }
                    continue;
                }
                if is_met != (name == "not") && seen.insert(own) {
                    found.push(own);
                    if name == "closest" {
                        break;
                    }
                }
            }
        }
        // Those of several come in the order of the page.
        if nodes.len() > 1 && found.len() > 1 {
            found = in_order_of_page(document, &seen);
            looked += document.count();
        }
        self.charge(looked / 4);
        if name == "is" {
            return Some(Value::Boolean(!found.is_empty()));
        }
        if found.is_empty() && self.others_may_change() {
            return Some(self.query(None, None));
        }
        let absence = match (&selector, &mut sought) {
            (Some(text), Some(sought)) if found.is_empty() && matches!(name, "find" | "children") => {
                let document = self.present_document()?;
                let is_nowhere = document.elements().all(|own| sought.surely_finds(own, None) == Some(false));
                is_nowhere.then(|| Absence::Element { selector: text.to_string(), span, is_early: false })
            }
            _ => None,
        };
        let absence = absence.map(|absence| self.absent(absence));
        let elements = found.into_iter().take(300).map(|id| self.present_value(id)).collect();
        Some(self.query(Some(elements), absence))
    }
}

/// Nodes in the order in which they stand on the page.
fn in_order_of_page(document: &Document, among: &FxHashSet<NodeId>) -> Vec<NodeId> {
    document.descendants(NodeId::DOCUMENT).filter(|id| among.contains(id)).collect()
}
