//! What is done to the page at present by methods of jQuery's sets.

use std::sync::Arc;

use super::arguments::Arguments;
use super::machine::{Machine, Run};
use super::value::{Doubt, Kind, Node, Value};
use crate::markup::NodeId;
use crate::source::Span;

/// Methods that change the tree in a way that is not followed.
const NOT_FOLLOWED: &[&str] = &["clone", "load", "replaceAll"];

/// Of so many elements a function is asked what they are given.
const MOST_ASKED: usize = 20;

impl Machine<'_> {
    /// What a method of a set does to the page at present.
    pub(super) fn query_changes(
        &mut self,
        name: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
        span: Span,
    ) -> Run<()> {
        if self.presence.is_lost() {
            return Ok(());
        }
        let nodes: Option<Vec<Node>> =
            elements.and_then(|all| all.iter().map(|element| self.node_of(element)).collect());
        match name {
            "addClass" | "removeClass" | "toggleClass" | "attr" | "prop" | "removeAttr" => {
                self.query_gives(name, nodes.as_deref(), arguments);
            }
            "css" | "show" | "hide" | "toggle" | "fadeIn" | "fadeOut" | "fadeToggle" | "fadeTo"
            | "slideUp" | "slideDown" | "slideToggle" | "animate" | "height" | "width" => {
                self.presence.vague.attributes.insert(Arc::from("style"));
            }
            "val" if !arguments.values.is_empty() => match nodes {
                Some(nodes) => nodes.iter().for_each(|node| self.gets_value(*node, &arguments.get(0))),
                None => self.presence.vague.states = true,
            },
            // Without a function they make the event happen.
            "click" | "change" | "focus" | "blur" | "submit" if arguments.values.is_empty() => {
                self.query_triggers(name, elements, arguments, span)?;
            }
            "trigger" | "triggerHandler" => match arguments.get(0) {
                Value::Text(event) => self.query_triggers(&event, elements, arguments, span)?,
                _ => self.presence.lose(),
            },
            "html" | "text" if arguments.values.is_empty() => {}
            _ if NOT_FOLLOWED.contains(&name) => {
                let is_kept = match name {
                    "clone" => nodes.is_some(),
                    // As an event.
                    "load" => matches!(arguments.get(0), Value::Object(_)),
                    _ => false,
                };
                if !is_kept {
                    self.presence.lose();
                }
            }
            "html" | "text" | "remove" | "detach" | "empty" | "append" | "prepend" | "before" | "after"
            | "replaceWith" | "wrap" | "wrapAll" | "wrapInner" | "unwrap" => {
                let is_done = match &nodes {
                    Some(nodes) if self.changes_surely() => {
                        self.query_changes_tree(name, nodes, arguments, span)?.is_some()
                    }
                    _ => false,
                };
                self.was_changed(is_done);
            }
            "appendTo" | "prependTo" | "insertBefore" | "insertAfter" => {
                let is_done = match (&nodes, self.changes_surely()) {
                    (Some(nodes), true) => {
                        let way = match name {
                            "appendTo" => "append",
                            "prependTo" => "prepend",
                            "insertBefore" => "before",
                            _ => "after",
                        };
                        match self.query_target(&arguments.get(0), span)? {
                            Some(targets) => {
                                let own = self.present_ids(nodes);
                                self.query_puts(way, &targets, &own).is_some()
                            }
                            None => false,
                        }
                    }
                    _ => false,
                };
                self.was_changed(is_done);
            }
            _ => {}
        }
        Ok(())
    }

    fn was_changed(&mut self, is_done: bool) {
        self.presence.changes += 1;
        if !is_done {
            self.presence.lose();
        }
    }

    fn present_ids(&mut self, nodes: &[Node]) -> Option<Vec<NodeId>> {
        nodes.iter().map(|node| self.present_node(*node)).collect()
    }

    /// Classes and attributes.
    fn query_gives(&mut self, name: &str, nodes: Option<&[Node]>, arguments: &Arguments) {
        let (first, second) = (arguments.get(0), arguments.get(1));
        if matches!(name, "attr" | "prop") && arguments.values.len() < 2 {
            match (self.kind(&first), nodes) {
                (Some(Kind::Plain), Some(nodes)) => {
                    let Value::Object(id) = first else { return };
                    let members: Vec<(Arc<str>, Value)> =
                        self.object(id).members.clone().into_iter().collect();
                    let nodes = nodes.to_vec();
                    for (key, value) in members {
                        for node in &nodes {
                            let given = self.as_text(&value).ok().map(Some);
                            self.gives_at_present(*node, Some(&key), given);
                        }
                    }
                }
                (Some(Kind::Plain), None) => self.presence.lose(),
                _ => {}
            }
            return;
        }
        let is_class = name.ends_with("Class");
        let Some(nodes) = nodes else {
            match is_class {
                true => self.is_vague_name(&first),
                false => self.is_vague_attribute(&first),
            }
            return;
        };
        match name {
            "addClass" | "removeClass" | "toggleClass" => {
                let Ok(text) = self.as_text(&first) else {
                    self.presence.vague.all_names = true;
                    return;
                };
                let method = name.trim_end_matches("Class");
                for class in text.split_ascii_whitespace() {
                    let mut given = vec![Value::text(class)];
                    given.extend(arguments.values.get(1).cloned());
                    for node in nodes {
                        self.called_on_classes(method, *node, &Arguments::of(given.clone()));
                    }
                }
            }
            "removeAttr" => {
                let key = self.as_text(&first).ok();
                for node in nodes {
                    self.gives_at_present(*node, key.as_deref(), Some(None));
                }
            }
            "prop" => {
                let key = self.as_text(&first).ok();
                for node in nodes {
                    match &key {
                        Some(key) => self.set_at_present(*node, key, &second),
                        None => self.presence.lose(),
                    }
                }
            }
            _ => {
                let key = self.as_text(&first).ok();
                let given = self.as_text(&second).ok().map(Some);
                for node in nodes {
                    self.gives_at_present(*node, key.as_deref(), given.clone());
                }
            }
        }
    }

    /// What methods do that change what is in the elements of a set, or stands beside them.
    fn query_changes_tree(
        &mut self,
        name: &str,
        nodes: &[Node],
        arguments: &Arguments,
        span: Span,
    ) -> Run<Option<()>> {
        let first = arguments.get(0);
        let is_function = matches!(self.kind(&first), Some(Kind::Function(_) | Kind::Bound(..)));
        let key = if name == "text" { "textContent" } else { "innerHTML" };
        if is_function && matches!(name, "text" | "html") {
            return self.query_fills_by(key, nodes, &first, span);
        }
        if is_function || arguments.is_open {
            return Ok(None);
        }
        Ok(match name {
            "text" | "html" => {
                let is_text =
                    matches!(first, Value::Text(_) | Value::Number(_) | Value::Pieced(..)) || name == "text";
                nodes.iter().try_for_each(|node| {
                    let text = self.as_text(&first).map_or_else(|_| first.clone(), Value::Text);
                    is_text.then(|| self.fills_at_present(*node, key, &text)).flatten()
                })
            }
            "remove" | "detach" if arguments.values.is_empty() => nodes.iter().try_for_each(|node| {
                let id = self.present_node(*node)?;
                if !self.is_settled(id) {
                    return None;
                }
                self.changed_page()?.document.detach(id);
                Some(())
            }),
            "unwrap" => {
                let Some(targets) = self.present_ids(nodes) else { return Ok(None) };
                arguments.values.is_empty().then(|| self.query_unwraps(&targets)).flatten()
            }
            "wrap" | "wrapAll" | "wrapInner" => {
                let Some(targets) = self.present_ids(nodes) else { return Ok(None) };
                match self.query_contents(&first, span)? {
                    Some(around) => self.query_wraps(name, &targets, &around),
                    None => None,
                }
            }
            "empty" => nodes.iter().try_for_each(|node| {
                let id = self.present_node(*node)?;
                self.empties(id)
            }),
            "append" | "prepend" | "before" | "after" | "replaceWith" => {
                let Some(targets) = self.present_ids(nodes) else { return Ok(None) };
                let mut contents = Vec::new();
                for value in &arguments.values {
                    let Some(own) = self.query_contents(value, span)? else { return Ok(None) };
                    contents.extend(own);
                }
                self.query_puts(name, &targets, &Some(contents))
            }
            _ => None,
        })
    }

    /// Calls the function that tells what each element is given, with its place and what it has so far:
    /// `.attr("href", (at, before) => …)`.
    pub(super) fn query_asks_each(
        &mut self,
        name: &str,
        elements: Option<&[Value]>,
        arguments: &Arguments,
        span: Span,
    ) -> Run<()> {
        let (function, has_before) = match name {
            "attr" | "prop" | "css" => (arguments.get(1), true),
            "addClass" | "removeClass" | "toggleClass" | "val" | "width" | "height" => {
                (arguments.get(0), true)
            }
            "append" | "prepend" => (arguments.get(0), true),
            "before" | "after" | "replaceWith" | "wrap" | "wrapInner" => (arguments.get(0), false),
            _ => return Ok(()),
        };
        if !matches!(self.kind(&function), Some(Kind::Function(_) | Kind::Bound(..))) {
            return Ok(());
        }
        for (at, element) in elements.unwrap_or_default().iter().take(MOST_ASKED).enumerate() {
            let before = match (name, self.node_of(element)) {
                ("attr", Some(node)) => {
                    let key = self.as_text(&arguments.get(0)).ok();
                    match key.and_then(|key| self.attribute_at_present(node, &key)) {
                        Some(Value::Null(absence)) => Value::Undefined(absence),
                        Some(known) => known,
                        None => Value::OPEN,
                    }
                }
                ("addClass" | "removeClass" | "toggleClass" | "append" | "prepend", _) => Value::A_TEXT,
                _ => Value::OPEN,
            };
            let given = if has_before {
                vec![Value::Number(at as f64), before]
            } else {
                vec![Value::Number(at as f64)]
            };
            self.call(&function, element.clone(), Arguments::of(given), span)?;
        }
        Ok(())
    }

    /// Gives each element what a function makes of its place and of what is in it.
    fn query_fills_by(&mut self, key: &str, nodes: &[Node], function: &Value, span: Span) -> Run<Option<()>> {
        for (at, node) in nodes.iter().enumerate() {
            let before = self.present_member(*node, key).unwrap_or(Value::Some("String", Doubt::Open));
            let element = self.element(*node);
            let given = Arguments::of(vec![Value::Number(at as f64), before]);
            let text = self.call(function, element, given, span)?;
            let Ok(text) = self.as_text(&text) else { return Ok(None) };
            if self.fills_at_present(*node, key, &Value::Text(text)).is_none() {
                return Ok(None);
            }
        }
        Ok(Some(()))
    }

    /// The nodes that a value stands for which is put somewhere: markup, an element, a set.
    fn query_contents(&mut self, value: &Value, span: Span) -> Run<Option<Vec<NodeId>>> {
        if let Value::Text(_) | Value::Number(_) | Value::Pieced(..) = value {
            let Some(page) = self.changed_page() else { return Ok(None) };
            let fragment = page.document.make_fragment();
            let is_read = self.puts_markup(value, ("template", fragment, None)).is_some();
            let document = self.present_document();
            return Ok(document.filter(|_| is_read).map(|document| document.children(fragment).collect()));
        }
        self.query_target(value, span).map(|targets| targets.filter(|_| !matches!(value, Value::Text(_))))
    }

    /// The elements that a value stands for, one of which something is put into or beside.
    fn query_target(&mut self, value: &Value, span: Span) -> Run<Option<Vec<NodeId>>> {
        let value = match value {
            Value::Text(text) if !text.trim_start().starts_with('<') => self.query_found(None, text, span)?,
            value => value.clone(),
        };
        let nodes: Option<Vec<Node>> = match self.kind(&value) {
            Some(Kind::Element(node)) => Some(vec![*node]),
            Some(Kind::Query(Some(elements), _)) => elements.iter().map(|own| self.node_of(own)).collect(),
            _ => None,
        };
        Ok(nodes.and_then(|nodes| self.present_ids(&nodes)))
    }

    /// Puts nodes into each of some elements, or beside it: copies into all but the last.
    fn query_puts(&mut self, way: &str, targets: &[NodeId], contents: &Option<Vec<NodeId>>) -> Option<()> {
        let contents = contents.as_deref()?;
        for (at, target) in targets.iter().enumerate() {
            let is_last = at + 1 == targets.len();
            let document = self.present_document()?;
            let own = document.node(*target);
            let (parent, before) = match way {
                "append" => (*target, None),
                "prepend" => (*target, document.children(*target).next()),
                "before" | "replaceWith" => (own.parent()?, Some(*target)),
                _ => (own.parent()?, own.next()),
            };
            if !self.is_settled(parent) || contents.iter().any(|id| Some(*id) == before) {
                return None;
            }
            let document = &mut self.changed_page()?.document;
            if contents.iter().any(|id| document.is_in(parent, *id)) {
                return None;
            }
            let nodes: Vec<NodeId> =
                contents.iter().map(|id| if is_last { *id } else { document.copy(*id, true) }).collect();
            for id in &nodes {
                document.put(*id, parent, before);
            }
            if way == "replaceWith" {
                document.detach(*target);
            }
            self.charge(nodes.len());
            self.comes_in(&nodes);
        }
        Some(())
    }

    /// The elements that markup becomes which `$` is given; none where that cannot be told.
    pub(super) fn made_by_query(&mut self, markup: &Value, attributes: &Value) -> Option<Vec<Value>> {
        if self.presence.is_lost() {
            return None;
        }
        let fragment = self.changed_page()?.document.make_fragment();
        let trimmed = match markup {
            Value::Text(text) => Value::text(text.trim()),
            Value::Pieced(..) => markup.clone(),
            _ => return None,
        };
        self.puts_markup(&trimmed, ("template", fragment, None))?;
        let document = self.present_document()?;
        let children: Vec<NodeId> = document.children(fragment).collect();
        if children.iter().any(|id| document.element(*id).is_none()) {
            return None;
        }
        let page = self.changed_page()?;
        children.iter().for_each(|id| page.document.detach(*id));
        let made: Vec<Value> = children.into_iter().map(|id| self.present_value(id)).collect();
        self.gives_by_query(&made, attributes)?;
        Some(made)
    }

    /// Gives made elements what an object says: `$("<p>", { id: …, text: … })`.
    fn gives_by_query(&mut self, made: &[Value], attributes: &Value) -> Option<()> {
        let (Value::Object(id), Some(Kind::Plain)) = (attributes, self.kind(attributes)) else {
            return Some(());
        };
        if self.object(*id).is_open {
            return None;
        }
        let members: Vec<(Arc<str>, Value)> = self.object(*id).members.clone().into_iter().collect();
        for (key, value) in members {
            for element in made {
                let node = self.node_of(element)?;
                match &*key {
                    "text" => self.fills_at_present(node, "textContent", &value)?,
                    "html" => self.fills_at_present(node, "innerHTML", &value)?,
                    "css" | "width" | "height" | "offset" | "val" | "data" | "on" | "click" => {}
                    _ if matches!(value, Value::Object(_)) => {}
                    key => {
                        let key = if key == "className" { "class" } else { key };
                        let given = self.as_text(&value).ok().map(Some);
                        self.gives_at_present(node, Some(key), given);
                    }
                }
            }
        }
        Some(())
    }
}
