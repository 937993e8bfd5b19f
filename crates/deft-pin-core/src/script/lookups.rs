//! The elements of a page that a call looks up, by the selector that finds them.

use std::borrow::Cow;

use oxc_ast::ast::{CallExpression, Expression};

use super::values::{DEEPEST, Value, Values};

/// What a function of the script's own looks up by.
#[derive(Clone, Copy)]
enum OwnLookup {
    Id,
    Selector,
}

impl<'a> Values<'_, 'a> {
    /// The selector of the elements that a call looks up in the page.
    pub(super) fn lookup(&self, call: &'a CallExpression<'a>) -> Option<String> {
        self.lookup_at(call, 0)
    }

    pub(super) fn lookup_at(&self, call: &'a CallExpression<'a>, depth: usize) -> Option<String> {
        if depth > DEEPEST {
            return None;
        }
        let first = call.arguments.first()?.as_expression()?;
        let marked = |mark: &str, name: &str| {
            let mut out = mark.to_owned();
            // Writing to a string does not fail.
            let _ = cssparser::serialize_identifier(name, &mut out);
            out
        };
        if let Some(member) = call.callee.as_member_expression() {
            const METHODS: &[&str] = &[
                "getElementById", "querySelector", "querySelectorAll", "find", "children",
                "getElementsByClassName", "getElementsByTagName", "getElementsByName",
            ];
            let method = member.static_property_name().filter(|name| METHODS.contains(name))?;
            let text = self.text_at(first, depth + 1)?;
            let base = self.at(member.object(), depth + 1);
            let in_document = base.iter().any(|value| matches!(value, Value::Document));
            let within = base.iter().find_map(|value| match value {
                Value::Found(selector) => Some(selector.clone()),
                _ => None,
            });
            if !in_document && within.is_none() {
                return None;
            }
            let own = match method {
                "getElementById" if in_document => Cow::Owned(marked("#", &text)),
                "querySelector" | "querySelectorAll" => text,
                "find" | "children" if within.is_some() => text,
                "getElementsByClassName" => {
                    text.split_ascii_whitespace().map(|name| marked(".", name)).collect()
                }
                "getElementsByTagName" => text,
                "getElementsByName" if in_document => Cow::Owned(format!("[name={text:?}]")),
                _ => return None,
            };
            let own = own.trim();
            return Some(match within {
                // A list within something is a list of each within it.
                Some(within) if !own.contains(',') => format!("{within} {own}"),
                Some(_) => return None,
                None => own.to_owned(),
            });
        }
        if let Some(own) = self.own_lookup(&call.callee, depth) {
            let text = self.text_at(first, depth + 1)?;
            return match own {
                OwnLookup::Id => Some(marked("#", &text)),
                OwnLookup::Selector => Some(text.into_owned()),
            };
        }
        let is_query = self
            .at(&call.callee, depth + 1)
            .iter()
            .any(|value| matches!(value, Value::Named(name) if name == "$" || name == "jQuery"));
        let text = if is_query { self.text_at(first, depth + 1)? } else { return None };
        let is_selector = !text.trim_start().starts_with('<') && !text.trim().is_empty();
        is_selector.then(|| text.into_owned())
    }

    /// Whether a call is one of a function of the script's own that looks up one element.
    pub(super) fn is_own_lookup(&self, call: &'a CallExpression<'a>) -> bool {
        self.own_lookup(&call.callee, 0).is_some()
    }

    /// What a function of the script's own does with what it is given, where it does nothing but
    /// look that up: `id => document.getElementById(id)`.
    fn own_lookup(&self, callee: &'a Expression<'a>, depth: usize) -> Option<OwnLookup> {
        let callable = self.callees(callee, depth).into_iter().next()?;
        let parameter = callable.parameters().into_iter().next()??;
        let [Expression::CallExpression(inner)] = self.returned.get(&callable.id())?.as_slice() else {
            return None;
        };
        let [argument] = &inner.arguments[..] else { return None };
        let Expression::Identifier(name) = argument.as_expression()?.without_parentheses() else {
            return None;
        };
        let member = inner.callee.as_member_expression()?;
        let in_document =
            self.at(member.object(), depth + 1).iter().any(|value| matches!(value, Value::Document));
        if self.symbol(name) != Some(parameter) || !in_document {
            return None;
        }
        match member.static_property_name()? {
            "getElementById" => Some(OwnLookup::Id),
            "querySelector" => Some(OwnLookup::Selector),
            _ => None,
        }
    }
}
