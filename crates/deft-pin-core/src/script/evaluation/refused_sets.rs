//! Values that members of elements refuse, and methods that elements refuse in the state that they are in (HTML).

use super::arguments::Arguments;
use super::machine::{Machine, Run, Turn};
use super::platform::{self, Interface};
use super::present_tables::parts_of;
use super::value::{Node, Value};
use crate::source::Span;

/// Members that throw where they are given a number below that, each with its interface.
const AT_LEAST: &[(&str, &str, f64)] = &[
    ("HTMLInputElement", "size", 1.0),
    ("HTMLInputElement", "maxLength", 0.0),
    ("HTMLInputElement", "minLength", 0.0),
    ("HTMLTextAreaElement", "maxLength", 0.0),
    ("HTMLTextAreaElement", "minLength", 0.0),
];

/// What `contentEditable` can be.
const EDITABLE: &[&str] = &["true", "false", "plaintext-only", "inherit"];

/// Types of `input` whose values go up and down by steps.
const STEPPED: &[&str] = &["date", "datetime-local", "month", "number", "range", "time", "week"];

/// Types of `input` in which a part of the text can be selected.
const SELECTABLE: &[&str] = &["text", "search", "url", "tel", "password"];

impl Machine<'_> {
    /// Throws where a member of an element refuses a value.
    pub(super) fn refused_set(
        &mut self,
        node: Node,
        of: Interface,
        key: &str,
        value: &Value,
        span: Span,
    ) -> Run<()> {
        const REFUSING: &[&str] = &[
            "contentEditable", "maxLength", "minLength", "playbackRate", "selectionDirection",
            "selectionEnd", "selectionStart", "size", "value", "volume",
        ];
        if !REFUSING.contains(&key) {
            return Ok(());
        }
        let extends = |interface: &str| platform::extends(of, interface);
        // What is no number is refused before.
        let number = self.as_number(value).ok().filter(|number| !number.is_nan());
        let member = format!("{key} =");
        let given = || match value {
            Value::Text(text) => text.to_string(),
            Value::Number(number) => number.to_string(),
            Value::Undefined(_) => "undefined".to_owned(),
            _ => "this".to_owned(),
        };
        if key == "playbackRate"
            && extends("HTMLMediaElement")
            && number.is_some_and(|rate| rate != 0.0 && !(0.0625..=16.0).contains(&rate))
        {
            return Err(self.refused(&member, given(), "0, or a number from 0.0625 to 16", None, span));
        }
        if key == "volume"
            && extends("HTMLMediaElement")
            && number.is_some_and(|number| !(0.0..=1.0).contains(&number))
        {
            return Err(self.refused(&member, given(), "a number from 0 to 1", None, span));
        }
        let least = AT_LEAST.iter().find(|(interface, own, _)| *own == key && extends(interface));
        if let (Some((_, _, least)), Some(number)) = (least, number)
            && number < *least
        {
            let takes = format!("a number from {least} on");
            return Err(self.refused(&member, given(), &takes, None, span));
        }
        let text = self.as_text(value).ok();
        if let ("contentEditable", Some(text)) = (key, &text)
            && !EDITABLE.iter().any(|own| own.eq_ignore_ascii_case(text))
        {
            let takes = "`true`, `false`, `plaintext-only` or `inherit`";
            return Err(self.refused(&member, given(), takes, None, span));
        }
        let is_file = extends("HTMLInputElement") && self.has_type(node, &["file"]) == Some(true);
        if let ("value", Some(text), true) = (key, &text, is_file)
            && !text.is_empty()
        {
            return Err(self.refused("value = ", given(), "nothing but `\"\"` for files", None, span));
        }
        if matches!(key, "selectionStart" | "selectionEnd" | "selectionDirection") {
            self.check_selectable(node, &member, span)?;
        }
        Ok(())
    }

    /// Throws where an element refuses what a method does, in the state that it is in.
    pub(super) fn refused_state(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<()> {
        if name == "getRangeAt" && self.nothing_is_selected() {
            let (given, takes) =
                (self.written(span), "a place below `rangeCount`, and nothing is selected yet");
            return Err(self.refused(name, given, takes, None, span));
        }
        let Some(node) = self.node_of(this) else { return Ok(()) };
        match name {
            "insertRow" | "insertCell" | "deleteRow" | "deleteCell" => {
                let (Some(count), Ok(place)) =
                    (self.count_of_parts(name, node), self.as_number(&arguments.get(0)))
                else {
                    return Ok(());
                };
                // Behind the last one there is room for one more.
                let last = if name.starts_with("insert") { count } else { count.saturating_sub(1) };
                let is_wrong =
                    place < -1.0 || place > last as f64 || count == 0 && name.starts_with("delete");
                if !is_wrong || place == -1.0 {
                    return Ok(());
                }
                let part = if name.ends_with("Row") { "row" } else { "cell" };
                let takes = format!("a place among what is there, {count} {part}s");
                Err(self.refused(name, place.to_string(), &takes, None, span))
            }
            "stepUp" | "stepDown"
                if &*self.tag_of(node) == "input" && self.has_type(node, STEPPED) == Some(false) =>
            {
                let takes = "an `input` of numbers, dates or times";
                Err(self.refused(name, self.written(span), takes, None, span))
            }
            "setSelectionRange" | "setRangeText" => self.check_selectable(node, name, span),
            "showModal" | "showPopover" if self.is_out_of_page(node) => {
                let takes = "an element that is on the page: put it in first";
                let given = self.written(span);
                Err(self.refused(name, given, takes, None, span))
            }
            // What is open, a visitor can have closed.
            "showModal"
                if self.turn.is_none_or(|turn| turn < Turn::Visitor)
                    && self.has_at_present(node, "open") == Some(true) =>
            {
                let given = self.written(span);
                let takes = "a `dialog` that is not open yet: without `open` in its markup";
                Err(self.refused(name, given, takes, None, span))
            }
            "showPopover" | "hidePopover" | "togglePopover"
                if self.has_at_present(node, "popover") == Some(false) =>
            {
                let given = self.written(span);
                Err(self.refused(name, given, "an element with the attribute `popover`", None, span))
            }
            _ => Ok(()),
        }
    }

    /// Whether nothing on the page can be selected yet.
    fn nothing_is_selected(&mut self) -> bool {
        const SELECT: &[&str] = &[
            "addRange", "selectAllChildren", "setBaseAndExtent", "select(", "focus(", "collapse(", "extend(",
            "modify(", "setPosition(",
        ];
        self.turn.is_none_or(|turn| turn < Turn::Visitor)
            && !SELECT.iter().any(|word| self.text.contains(word))
            && !self.frame.has_waited
    }

    /// How many rows a table has, or how many cells a row, where that is known.
    fn count_of_parts(&mut self, name: &str, node: Node) -> Option<usize> {
        if !self.is_present() {
            return None;
        }
        let is_of = match &*self.tag_of(node) {
            "table" | "tbody" | "thead" | "tfoot" => name.ends_with("Row"),
            "tr" => name.ends_with("Cell"),
            _ => false,
        };
        let id = self.present_node(node).filter(|_| is_of)?;
        Some(parts_of(self.present_document()?, name, id).len())
    }

    fn check_selectable(&mut self, node: Node, method: &str, span: Span) -> Run<()> {
        if &*self.tag_of(node) == "input" && self.has_type(node, SELECTABLE) == Some(false) {
            let given = self.written(span);
            let takes = "an `input` of text, and none of e-mail addresses, numbers or choices";
            return Err(self.refused(method, given, takes, None, span));
        }
        Ok(())
    }

    /// Whether an `input` is of one of some types; none where that cannot be told.
    fn has_type(&mut self, node: Node, types: &[&str]) -> Option<bool> {
        match self.attribute_at_present(node, "type")? {
            Value::Text(own) => Some(types.iter().any(|kind| own.eq_ignore_ascii_case(kind))),
            Value::Null(_) => Some(types.contains(&"text")),
            _ => None,
        }
    }

    /// Whether an element has an attribute at present; none where that cannot be told.
    fn has_at_present(&mut self, node: Node, name: &str) -> Option<bool> {
        match self.attribute_at_present(node, name)? {
            Value::Null(_) => Some(false),
            Value::Text(_) => Some(true),
            _ => None,
        }
    }

    /// Whether an element that the script has made is not on the page, for certain.
    fn is_out_of_page(&mut self, node: Node) -> bool {
        if !matches!(node, Node::Made(_)) || !self.is_present() || !self.changes_surely() {
            return false;
        }
        let Some(id) = self.present_node(node) else { return false };
        self.present_document().is_some_and(|document| !document.is_in_tree(id))
    }
}
