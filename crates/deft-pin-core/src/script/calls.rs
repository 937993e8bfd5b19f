//! What the calls of a script say: names that they add, globals that they define, what they load, and
//! events that they wait for.

use oxc_ast::AstKind;
use oxc_ast::ast::{BinaryOperator, CallExpression, Expression, ObjectPropertyKind};
use smallvec::SmallVec;

use super::added::AddedName;
use super::outside::Outside;
use super::reader::Reader;
use super::record::{PageEvent, ScriptFacts, When};
use super::uses::Uses;
use super::values::{Value, plain, span_of};

/// Methods by which a script does something to a page, now or once something happens.
const ACTS: &[&str] = &[
    "addEventListener", "append", "appendChild", "attachEvent", "define", "insertBefore", "observe", "on",
    "prepend", "querySelectorAll", "ready", "registerElement", "write",
];

impl<'a> Reader<'_, 'a> {
    /// Whether a call may define anything, since it runs a text.
    pub(super) fn is_eval(&self, call: &CallExpression<'a>) -> bool {
        matches!(&call.callee, Expression::Identifier(name) if name.name == "eval" && self.values.symbol(name).is_none())
    }

    pub(super) fn is_page(&self, object: &'a Expression<'a>) -> bool {
        self.values.of(object).iter().any(|value| matches!(value, Value::Global | Value::Document))
    }

    /// The event of the page as a whole that a call waits for.
    fn awaited(&self, call: &'a CallExpression<'a>) -> Option<PageEvent> {
        let first = call.arguments.first()?.as_expression()?;
        let query =
            |value: &Value<'a>| matches!(value, Value::Named(name) if name == "$" || name == "jQuery");
        let (object, method) = match &call.callee {
            // Such a function runs what it is given once the page is parsed.
            callee @ Expression::Identifier(name) => {
                if self.values.of(callee).iter().any(query) {
                    let is_function = |value: &Value<'a>| matches!(value, Value::Function(_));
                    return self.values.of(first).iter().any(is_function).then_some(PageEvent::Parsed);
                }
                (None, name.name.as_str())
            }
            callee => {
                let member = callee.as_member_expression()?;
                (Some(member.object()), member.static_property_name()?)
            }
        };
        let is_page = object.is_none_or(|object| self.is_page(object));
        match (method, self.values.text(first).as_deref()) {
            ("addEventListener", Some("DOMContentLoaded")) if is_page => Some(PageEvent::Parsed),
            ("addEventListener", Some("load")) if is_page => Some(PageEvent::Loaded),
            ("ready", None) => Some(PageEvent::Parsed),
            _ => None,
        }
    }

    pub(super) fn of_call(
        &self,
        call: &'a CallExpression<'a>,
        when: When,
        defines: &mut Uses,
        out: &mut ScriptFacts,
    ) {
        // What libraries have for this (`$(…)`, `ready(…)`) does not miss what is past.
        let is_listener = match &call.callee {
            Expression::Identifier(name) => name.name == "addEventListener",
            callee => callee
                .as_member_expression()
                .is_some_and(|member| member.static_property_name() == Some("addEventListener")),
        };
        if when != When::Later && is_listener {
            out.listens.extend(self.awaited(call));
        }
        let Some(member) = call.callee.as_member_expression() else { return };
        let Some(method) = member.static_property_name() else { return };
        let arguments: SmallVec<[&'a Expression<'a>; 4]> = plain(&call.arguments).collect();
        let is_global = |one: Option<&&'a Expression<'a>>| {
            one.is_some_and(|one| self.values.of(one).iter().any(|value| matches!(value, Value::Global)))
        };
        out.acts |= when == When::Now && ACTS.contains(&method);
        let object = match member.object() {
            Expression::Identifier(name) if self.values.symbol(name).is_none() => name.name.as_str(),
            _ => "",
        };
        match (object, method) {
            ("Object", "assign" | "defineProperties") if is_global(arguments.first()) => {
                for value in arguments[1..].iter().flat_map(|one| self.values.of(one)) {
                    let Value::Object(object) = value else { continue };
                    for property in &object.properties {
                        if let ObjectPropertyKind::ObjectProperty(own) = property
                            && let Some(name) = own.key.static_name()
                        {
                            defines.define(
                                &name,
                                span_of(&**own),
                                self.planned(call.node_id.get(), when),
                                false,
                            );
                        }
                    }
                }
            }
            ("Object" | "Reflect", "defineProperty") if is_global(arguments.first()) => {
                if let Some(name) = arguments.get(1).and_then(|one| self.values.text(one)) {
                    defines.define(&name, span_of(call), self.planned(call.node_id.get(), when), false);
                }
            }
            (_, "add" | "toggle" | "replace") if is_class_list(member.object()) => {
                let wanted =
                    if method == "replace" { &arguments[1.min(arguments.len())..] } else { &arguments };
                let count = if method == "toggle" { 1 } else { wanted.len() };
                wanted.iter().take(count).for_each(|one| self.added(one, false, &mut out.adds));
            }
            (_, "createElement") => {
                let tag = arguments.first().and_then(|one| self.values.text(one));
                if tag.is_some_and(|tag| tag.eq_ignore_ascii_case("script")) && !self.is_asked_about(call) {
                    self.inserts(call.node_id.get(), when, out);
                }
            }
            (_, "getScript" | "write" | "writeln" | "importScripts") => {
                self.inserts(call.node_id.get(), when, out);
            }
            (_, "addClass" | "toggleClass") => {
                arguments.first().iter().for_each(|one| self.added(one, false, &mut out.adds));
            }
            (_, "setAttribute" | "attr") => {
                let name = arguments.first().and_then(|one| self.values.text(one)).unwrap_or_default();
                if let (Some(value), "src" | "href") = (arguments.get(1), &*name) {
                    self.outside(value, name == "href", &mut out.outside);
                }
                if let (Some(value), "id" | "class") = (arguments.get(1), &*name) {
                    self.added(value, name == "id", &mut out.adds);
                }
            }
            _ => {}
        }
    }

    /// Whether only the members of what a call gives are asked for: `"onload" in document.createElement("script")`.
    fn is_asked_about(&self, call: &CallExpression<'a>) -> bool {
        let parent = self.values.semantic.nodes().parent_kind(call.node_id.get());
        matches!(parent, AstKind::BinaryExpression(own) if own.operator == BinaryOperator::In)
    }

    /// Takes note of a script that is put into the page.
    pub(super) fn inserts(&self, node: oxc_semantic::NodeId, when: When, out: &mut ScriptFacts) {
        let when = match self.planned(node, when) {
            (When::Later, false) => When::Perhaps,
            (when, _) => when,
        };
        // What is certain counts.
        out.inserts_scripts = Some(match out.inserts_scripts {
            None | Some(When::Perhaps) => when,
            Some(before) if when == When::Perhaps => before,
            Some(before) => before.min(when),
        });
    }

    /// What an address loads, where that is on another host. A link is followed, if it is not one
    /// to a sheet.
    pub(super) fn outside(&self, address: &'a Expression<'a>, is_link: bool, outside: &mut Vec<Outside>) {
        if let Some(url) = self.values.text(address) {
            outside.extend(Outside::of(&url, span_of(address)).filter(|own| !is_link || own.is_sheet()));
        }
    }

    /// The names in what is given as a class or an ID: of several that it may be, all.
    pub(super) fn added(&self, value: &'a Expression<'a>, is_id: bool, adds: &mut Vec<AddedName>) {
        for one in self.values.of(value) {
            let Value::Text(text) = one else { continue };
            let names = text.split_ascii_whitespace();
            adds.extend(names.map(|name| AddedName { name: name.to_owned(), is_id, span: span_of(value) }));
        }
    }
}

fn is_class_list(object: &Expression<'_>) -> bool {
    object
        .as_member_expression()
        .and_then(|member| member.static_property_name())
        .is_some_and(|name| name == "classList")
}
