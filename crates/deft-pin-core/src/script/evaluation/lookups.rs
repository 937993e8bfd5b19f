//! Elements that a script looks up (DOM, "querySelector" and the like).

use std::rc::Rc;
use std::sync::Arc;

use html5ever::LocalName;

use super::arguments::Arguments;
use super::machine::{Machine, Run, Turn};
use super::selector_checks::{asks_for_code, escaped, mended, quoted};
use super::value::{Absence, Certainty, Found, Kind, Node, Value};
use crate::markup::{
    Assume, NamedPart, NodeId, SelectorList, Sought, asked_selectors, names_in, parse_selectors,
};
use crate::script::program::{Expression, Key};
use crate::script::style_names::member_of;
use crate::source::Span;

impl Machine<'_> {
    /// The call of a method that looks elements up.
    pub(super) fn look_up(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        let scope = match self.kind(this) {
            Some(Kind::Document | Kind::Window) => None,
            Some(Kind::Element(node)) => Some(*node),
            _ if name == "querySelector" && self.is_somewhere(this) => {
                return self.look_up_somewhere(arguments, span);
            }
            _ => return Ok(Value::OPEN),
        };
        let is_all = !matches!(name, "getElementById" | "querySelector");
        if name.starts_with("query") && self.is_whole_address(arguments) {
            let written = arguments.expressions.first().map(|own| self.written(self.program.span(*own)));
            let given = written.unwrap_or_default();
            let write = given.strip_suffix(".href").map(|of| match of.ends_with("location") {
                true => format!("{of}.hash"),
                false => format!("{of}.getAttribute(\"href\")"),
            });
            return Err(self.refused_selector(name, &given, "this is a whole address", write, span));
        }
        if name.starts_with("query") && self.is_no_text(&arguments.get(0)) {
            let written = arguments.expressions.first().map(|own| self.written(self.program.span(*own)));
            let why = "this is an object, and a selector is a text";
            return Err(self.refused_selector(name, &written.unwrap_or_default(), why, None, span));
        }
        if name == "getElementById" && self.is_no_text(&arguments.get(0)) {
            let absence = self.absent(Absence::Place { name: self.written(span) });
            return Ok(Value::Null(Some(absence)));
        }
        let Ok(text) = self.as_text(&arguments.get(0)) else {
            if let Some(given) = arguments.expressions.first()
                && let Some(nothing) = self.find_by_shape(name, scope, *given, span)?
            {
                return Ok(nothing);
            }
            let list = if name == "querySelectorAll" { "NodeList" } else { "HTMLCollection" };
            return Ok(if is_all { self.open_list(list) } else { Value::OPEN });
        };
        if text.is_empty() && name.starts_with("query") {
            return Err(self.refused_selector(name, &text, "it is empty", None, span));
        }
        let selector = match name {
            "getElementById" => {
                self.check_name(name, &text, "#", span);
                if text.is_empty() {
                    return Ok(self.nothing(text.to_string(), span, false));
                }
                format!("#{}", escaped(&text))
            }
            "getElementsByClassName" => {
                self.check_name(name, &text, ".", span);
                text.split_ascii_whitespace().map(|name| format!(".{}", escaped(name))).collect()
            }
            "getElementsByTagName" if &*text != "*" => escaped(&text),
            "getElementsByName" => format!("[name={}]", quoted(&text)),
            _ => text.to_string(),
        };
        let list = match name {
            "querySelectorAll" | "getElementsByName" => "NodeList",
            _ => "HTMLCollection",
        };
        self.records_lookup(&selector, span);
        if selector.is_empty() {
            return Ok(self.list(list, Vec::new(), Some((selector, span))));
        }
        match asked_selectors(&selector) {
            Err(error) if name.starts_with("query") => {
                let write = mended(&text);
                Err(self.refused_selector(name, &text, &error.to_string(), write, span))
            }
            Err(_) => Ok(Value::OPEN),
            Ok(selectors) => self.find(scope, &selector, &selectors, is_all.then_some(list), span),
        }
    }

    /// Whether what is given is the whole address that an element or the page has (HTML, "the `href` getter").
    fn is_whole_address(&self, arguments: &Arguments) -> bool {
        let Some(written) = arguments.expressions.first() else { return false };
        let is_address = match self.program.expression(*written) {
            Expression::Member { key: Key::Name(name), .. } => {
                matches!(&**name, "href" | "URL" | "baseURI")
            }
            _ => false,
        };
        is_address && matches!(arguments.get(0), Value::Some("String", _) | Value::Pieced(..))
    }

    /// What is looked up in some element of the page, nobody knows in which: nothing, where the page has nothing of it.
    fn look_up_somewhere(&mut self, arguments: &Arguments, span: Span) -> Run<Value> {
        let Value::Text(text) = arguments.get(0) else { return Ok(Value::OPEN) };
        let Ok(selectors) = parse_selectors(&text) else { return Ok(Value::OPEN) };
        if text.contains(":scope") {
            return Ok(Value::OPEN);
        }
        Ok(match self.find(None, &text, &selectors, None, span)? {
            nothing @ Value::Null(Some(_)) => nothing,
            _ => Value::OPEN,
        })
    }

    /// What a selector finds: one element, or a list of some interface.
    pub(super) fn find(
        &mut self,
        scope: Option<Node>,
        selector: &str,
        selectors: &SelectorList,
        list: Option<&'static str>,
        span: Span,
    ) -> Run<Value> {
        let found = self.find_now(scope, selector, selectors, list, span)?;
        let is_nothing = match (&found, self.kind(&found)) {
            (Value::Null(_), _) => true,
            (Value::Object(id), Some(Kind::List(_, items))) => items.is_empty() && !self.object(*id).is_open,
            _ => false,
        };
        // What it asks for, another script may give.
        if is_nothing && selector.contains('[') && self.others_give(selector) {
            return Ok(list.map_or(Value::OPEN, |list| self.open_list(list)));
        }
        Ok(found)
    }

    /// Whether another script gives an attribute to elements that a selector asks for.
    fn others_give(&mut self, selector: &str) -> bool {
        let asked = selector.split('[').skip(1).filter_map(|part| {
            let end = part.find(|c: char| !(c.is_alphanumeric() || matches!(c, '-' | '_' | ':')))?;
            Some(part[..end].to_ascii_lowercase()).filter(|name| !name.is_empty())
        });
        let asked: Vec<String> = asked.collect();
        asked.into_iter().any(|name| {
            self.once(&format!("#gives {name}"), |this| {
                // jQuery by itself gives none.
                if !name.contains('-') && !this.world.acts_with(&name) {
                    return false;
                }
                let member = match name.strip_prefix("data-") {
                    Some(own) => format!("dataset.{}", member_of(own)),
                    None => format!(".{name}"),
                };
                let mut signs = vec![format!("{member} ="), format!("{member}=")];
                for way in ["setAttribute", "toggleAttribute", "attr"] {
                    signs.push(format!("{way}('{name}'"));
                    signs.push(format!("{way}(\"{name}\""));
                }
                if name.starts_with("data-") {
                    signs.push(name.clone());
                }
                signs.iter().any(|sign| this.world.has_text(sign))
            })
        })
    }

    fn find_now(
        &mut self,
        scope: Option<Node>,
        selector: &str,
        selectors: &SelectorList,
        list: Option<&'static str>,
        span: Span,
    ) -> Run<Value> {
        let asks_for_code = asks_for_code(selector, selectors);
        if !asks_for_code && let Some(value) = self.find_present(scope, selector, selectors, list, span)? {
            return Ok(value);
        }
        if let Some(node @ Node::Made(_)) = scope
            && let Some(value) = self.find_in_made(node, selector, selectors, list, span)?
        {
            return Ok(value);
        }
        let found = self.found_on_page(scope, selector, selectors)?;
        let by_script = self.may_be_made(selector, selectors) || asks_for_code;
        let is_changed = self.is_changed(selectors);
        let by_others =
            (found.nodes.is_empty() || list.is_some()) && self.world.may_be_made(selectors, self.is_later);
        let is_open = by_script
            || is_changed
            || by_others
            || found.has_doubtful
            || found.nodes.is_empty() && self.may_come_meanwhile(selectors);
        let nodes: Vec<NodeId> =
            found.nodes.iter().copied().filter(|node| self.gone(*node).is_none()).collect();
        let is_certain =
            |node: &NodeId| self.gone(*node).is_none_or(|certainty| certainty == Certainty::Certain);
        let is_gone = nodes.len() < found.nodes.len();
        // What was taken out for certain is there no more, if nothing comes in.
        let is_surely_gone = is_gone && !self.is_later && found.nodes.iter().all(is_certain);
        if list.is_none() && !by_script && self.is_lost(selector, selectors, &found) {
            return Ok(self.nothing(selector.to_owned(), span, false));
        }
        if let Some(list) = list {
            let items = nodes.iter().map(|node| self.page_element(*node)).collect();
            let value = self.list(list, items, Some((selector.to_owned(), span)));
            if let Value::Object(id) = value {
                let doubt = is_open || (is_gone && !is_surely_gone && nodes.is_empty());
                self.object_mut(id).is_open = doubt || (found.is_early && by_others);
            }
            return Ok(value);
        }
        if let Some(first) = nodes.first() {
            return Ok(match by_script || is_changed || found.has_doubtful {
                true => self.made(Kind::Instance("HTMLElement")),
                false => self.page_element(*first),
            });
        }
        // What the script has made itself is there, as far as anybody can tell.
        if by_script && !self.touched.anything && !is_gone {
            return Ok(self.made(Kind::Instance("HTMLElement")));
        }
        if is_open || is_gone && !is_surely_gone {
            return Ok(Value::OPEN);
        }
        Ok(self.nothing(selector.to_owned(), span, found.is_early))
    }

    /// Whether all that a selector finds on the page as it is served has lost a name in it by now, and nothing else has
    /// come to have it.
    fn is_lost(&self, text: &str, selectors: &SelectorList, found: &Found) -> bool {
        let lost = &self.touched.lost;
        let is_plain = text.chars().all(|c| c.is_alphanumeric() || matches!(c, '.' | '#' | '-' | '_'));
        let [selector] = selectors.slice() else { return false };
        let is_open = lost.is_empty()
            || !is_plain
            || self.is_later
            || found.nodes.is_empty()
            || found.has_doubtful
            || self.touched.anything
            || self.touched.own_words.is_some();
        if is_open || self.world.may_be_made(selectors, false) {
            return false;
        }
        let names = names_in(selector);
        let has_lost = |node: &NodeId| lost.iter().any(|(own, part)| own == node && names.contains(part));
        names.iter().all(|name| !self.touched.has(name)) && found.nodes.iter().all(has_lost)
    }

    /// Whether what stands elsewhere in the script may have made what a selector asks for, whose names it has there: the
    /// script has waited for something, or a timer may have come before.
    pub(super) fn may_come_meanwhile(&self, selectors: &SelectorList) -> bool {
        /// So many milliseconds a page may take to be loaded.
        const LOADING: u64 = 3_000;
        let is_loading = matches!(self.turn, Some(Turn::Parsed | Turn::Loaded));
        let may_have_come = |(turn, at, _): &(Turn, u64, u32)| *turn == Turn::Timer && *at < LOADING;
        (self.frame.has_waited || is_loading && self.tasks.keys().any(may_have_come))
            && selectors.slice().iter().any(|selector| {
                let names = names_in(selector);
                let mut own = names.iter().filter(|part| !matches!(part, NamedPart::Tag(_))).peekable();
                own.peek().is_some() && own.all(|part| self.text.matches(part.name()).nth(1).is_some())
            })
    }

    /// The `null` of an element that is not there.
    pub(super) fn nothing(&mut self, selector: String, span: Span, is_early: bool) -> Value {
        Value::Null(Some(self.absent(Absence::Element { selector, span, is_early })))
    }

    /// A list of elements, with what found them.
    pub(super) fn list(&mut self, of: &'static str, items: Vec<Value>, by: Option<(String, Span)>) -> Value {
        let is_empty = items.is_empty();
        let id = self.make(Kind::List(of, items));
        if let Some((selector, span)) = by.filter(|_| is_empty) {
            let absence = self.nothing(selector, span, false);
            self.object_mut(id).members.insert(Arc::from("#absence"), absence);
        }
        Value::Object(id)
    }

    pub(super) fn open_list(&mut self, of: &'static str) -> Value {
        let id = self.make(Kind::List(of, Vec::new()));
        self.object_mut(id).is_open = true;
        Value::Object(id)
    }

    pub(super) fn found_on_page(
        &mut self,
        scope: Option<Node>,
        selector: &str,
        selectors: &SelectorList,
    ) -> Run<Rc<Found>> {
        let key = (scope, selector.to_owned(), self.is_later);
        if let Some(known) = self.known.found.get(&key) {
            return Ok(Rc::clone(known));
        }
        let document = self.world.document();
        let within = match scope {
            None => None,
            Some(Node::Page(node)) => document.element(node),
            // Nothing of the page is in what the script makes, but what it puts there.
            Some(Node::Made(_)) => {
                return Ok(Rc::new(Found { has_doubtful: self.touched.is_moved, ..Found::default() }));
            }
        };
        let until = self.world.parsed_until().filter(|_| !self.is_later);
        let mut found = Found::default();
        let mut sought = Sought::by(selectors);
        let mut count = 0_u32;
        for element in document.elements() {
            count += 1;
            if within.is_some_and(|within| within == element || !element.is_within(within)) {
                continue;
            }
            if !sought.finds(element, Assume::May, within) {
                continue;
            }
            if until.is_some_and(|until| element.data().start() >= until) {
                found.is_early = true;
            } else if sought.finds(element, Assume::Must, within) {
                found.nodes.push(element.id);
            } else {
                found.has_doubtful = true;
            }
        }
        self.step(count / 20)?;
        let found = Rc::new(found);
        self.known.found.insert(key, Rc::clone(&found));
        Ok(found)
    }

    /// Whether what the script itself has made so far may be found.
    fn may_be_made(&self, selector: &str, selectors: &SelectorList) -> bool {
        let touched = &self.touched;
        if touched.anything {
            return true;
        }
        if touched.is_nothing() {
            return false;
        }
        let selector_text = selector;
        selectors.slice().iter().any(|selector| {
            let parts = names_in(selector);
            let is_known = |part: &NamedPart| touched.has(part) || self.page_has(part);
            if !parts.iter().all(is_known) {
                return false;
            }
            // Attributes are asked for in brackets.
            let by_attribute = selector_text.contains('[') && !touched.attributes.is_empty();
            parts.iter().any(|part| touched.has(part)) || parts.is_empty() || by_attribute
        })
    }

    /// Whether what the page has may be found no more, or is elsewhere.
    fn is_changed(&self, selectors: &SelectorList) -> bool {
        let touched = &self.touched;
        touched.is_moved
            || (!touched.taken.is_empty()
                && selectors
                    .slice()
                    .iter()
                    .flat_map(names_in)
                    .any(|part| touched.taken.contains(part.name())))
    }

    fn page_has(&self, part: &NamedPart) -> bool {
        self.world.has_name(part)
    }
}

/// A name as the page keeps it.
pub(super) fn local(name: &str) -> LocalName {
    LocalName::from(name)
}
