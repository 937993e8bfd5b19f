//! Names of a script that code in its texts asks the page for: handlers in markup that it puts in, `javascript:`
//! addresses, texts that are handed to timers, callbacks that are named in an address.

use std::collections::BTreeSet;

use oxc_ast::AstKind;
use oxc_ast::ast::{CallExpression, Expression};
use oxc_semantic::SemanticBuilder;

use super::added::words_of;
use super::frame::AskedName;
use super::syntax::{ScriptKind, with_program_as};
use super::values::span_of;
use crate::source::Span;

/// Without one of these a script has no such text.
const SIGNS: &[&str] = &[
    "javascript:", "callback", "onload=", "setTimeout", "setInterval", "setAttribute", "=\"", "='", "=\\\"",
    "=\\'",
];

/// The names at the top level of a pin's script that code in its texts asks the page for, each once.
pub fn asked_names(text: &str) -> Vec<AskedName> {
    if !SIGNS.iter().any(|sign| text.contains(sign)) {
        return Vec::new();
    }
    let found = with_program_as(text, ScriptKind::Confined, |program, _| {
        let checked = SemanticBuilder::new().with_build_nodes(true).build(program);
        let scoping = checked.semantic.scoping();
        let own: BTreeSet<&str> =
            scoping.get_bindings(scoping.root_scope_id()).keys().map(|name| name.as_str()).collect();
        let mut found: Vec<AskedName> = Vec::new();
        for node in checked.semantic.nodes().iter() {
            let (text, span) = match node.kind() {
                AstKind::StringLiteral(text) => (text.value.as_str(), span_of(text)),
                AstKind::TemplateElement(part) => {
                    (part.value.cooked.as_ref().map_or("", |text| text.as_str()), span_of(part))
                }
                _ => continue,
            };
            let is_code = match checked.semantic.nodes().parent_kind(node.id()) {
                AstKind::CallExpression(call) => runs_text(call, span),
                _ => false,
            };
            let code = if is_code { text.to_owned() } else { code_in(text) };
            for word in words_of(&code).filter(|word| own.contains(word)) {
                if !found.iter().any(|known| known.name == word) {
                    found.push(AskedName { name: word.to_owned(), span });
                }
            }
        }
        found
    });
    found.unwrap_or_default()
}

/// The names at the top level of a pin's script that pieces of code outside of it ask for, each where it is declared.
pub fn names_asked_by(text: &str, codes: &[String]) -> Vec<AskedName> {
    if codes.is_empty() {
        return Vec::new();
    }
    let found = with_program_as(text, ScriptKind::Confined, |program, _| {
        let checked = SemanticBuilder::new().build(program);
        let scoping = checked.semantic.scoping();
        let own = scoping.get_bindings(scoping.root_scope_id());
        let mut found: Vec<AskedName> = Vec::new();
        for word in codes.iter().flat_map(|code| words_of(code)) {
            let Some((name, symbol)) = own.iter().find(|(name, _)| name.as_str() == word) else { continue };
            if !found.iter().any(|known| known.name == word) {
                let span = scoping.symbol_span(*symbol);
                found.push(AskedName {
                    name: name.to_string(),
                    span: Span { start: span.start, end: span.end },
                });
            }
        }
        found
    });
    found.unwrap_or_default()
}

/// Whether a call runs a text that it is given: a timer, or an attribute for an event.
fn runs_text(call: &CallExpression<'_>, text: Span) -> bool {
    let name = match &call.callee {
        Expression::Identifier(name) => name.name.as_str(),
        other => match other.as_member_expression().and_then(|member| member.static_property_name()) {
            Some(name) => name,
            None => return false,
        },
    };
    let argument = |at: usize| call.arguments.get(at).and_then(|own| own.as_expression());
    let is_at = |at: usize| argument(at).is_some_and(|own| span_of(own) == text);
    match name {
        "setTimeout" | "setInterval" => is_at(0),
        "setAttribute" | "attr" => {
            let is_handler =
                matches!(argument(0), Some(Expression::StringLiteral(own)) if own.value.starts_with("on"));
            is_handler && is_at(1)
        }
        _ => false,
    }
}

/// The code in a text: in attributes for events, behind `javascript:`, and the name of a callback.
fn code_in(text: &str) -> String {
    let mut code = String::new();
    if text.contains('<') || text.contains('=') {
        let mut rest = text;
        while let Some(at) = rest.find(" on").or_else(|| rest.find("\non")) {
            rest = &rest[at + 3..];
            let name = rest.len() - rest.trim_start_matches(|c: char| c.is_ascii_alphabetic()).len();
            let Some(value) = rest[name..].trim_start().strip_prefix('=').map(str::trim_start) else {
                continue;
            };
            let inside = match value.chars().next() {
                Some(quote @ ('"' | '\'')) => value[1..].split(quote).next().unwrap_or_default(),
                _ => value.split([' ', '>']).next().unwrap_or_default(),
            };
            code.push(' ');
            code.push_str(inside);
        }
    }
    if let Some((_, inside)) = text.split_once("javascript:") {
        code.push(' ');
        code.push_str(inside.split(['"', '\'']).next().unwrap_or_default());
    }
    for name in callbacks_of(text) {
        code.push(' ');
        code.push_str(name);
    }
    code
}

/// The globals that an address of a script names to be called back.
pub fn callbacks_of(address: &str) -> impl Iterator<Item = &str> {
    let query = address.split_once('?').map_or("", |(_, query)| query);
    let query = query.split('#').next().unwrap_or_default();
    let named = query.split('&').filter_map(|part| part.trim_start_matches("amp;").split_once('='));
    named.filter_map(|(key, path)| {
        let is_key = matches!(key, "callback" | "onload" | "cb" | "jsonp" | "jsonpcallback");
        let name = path.split('.').next().unwrap_or_default();
        let is_name = name.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '$'))
            && !name.starts_with(|c: char| c.is_ascii_digit());
        (is_key && is_name && !name.is_empty()).then_some(name)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_are_asked_for_by_code_in_texts() {
        for (text, expected) in [
            ("function go() {} el.innerHTML = '<button onclick=\"go()\">x</button>'", &["go"][..]),
            ("function go(n) {} el.innerHTML = `<a class=x onclick='go(${1})'>x</a>`", &["go"]),
            ("function go() {} setTimeout('go()', 10)", &["go"]),
            ("function go() {} setTimeout(go, 10); el.title = 'go()'", &[]),
            ("const go = () => {}; el.setAttribute('onclick', 'go()')", &["go"]),
            ("const go = () => {}; el.setAttribute('title', 'go()')", &[]),
            ("let go = 1; a.href = 'javascript:go()'", &["go"]),
            ("function initMap() {} s.src = 'https://maps.example/js?key=1&callback=initMap'", &["initMap"]),
            ("function initMap() {} s.src = 'https://maps.example/js?key=1'", &[]),
            ("(function () { function go() {} el.innerHTML = '<b onclick=\"go()\">' })()", &[]),
        ] {
            let names: Vec<String> = asked_names(text).into_iter().map(|own| own.name).collect();
            assert_eq!(names, expected, "{text}");
        }
    }
}
