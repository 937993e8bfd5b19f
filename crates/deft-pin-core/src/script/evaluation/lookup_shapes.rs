//! Selectors of which a part alone is known: where nothing on the page has the shape of one, it finds nothing, whatever
//! the rest comes to.

use super::arguments::Arguments;
use std::sync::Arc;

use super::iterators::ITERATOR;
use super::machine::{Machine, Run};
use super::piece::{OPEN, shapes_of};
use super::platform;
use super::value::{Kind, Node, Value};
use crate::markup::parse_selectors;
use crate::script::program::{Expression, ExpressionId};
use crate::source::Span;
use oxc_syntax::operator::BinaryOperator;

/// So many texts an expression may come to.
const MOST: usize = 6;

/// A selector that finds all that one of a shape can find; none where the shape does not tell.
fn widened(shape: &str) -> Option<String> {
    let mut out = String::new();
    let mut rest = shape;
    while let Some(at) = rest.find(OPEN) {
        let before = &rest[..at];
        let behind = rest[at..].trim_start_matches(OPEN);
        let start = before.rfind(['[', '#', '.', '(', ' ', '>', '+', '~', ','])?;
        let (mark, name) = (&before[start..=start], &before[start + 1..]);
        out.push_str(&before[..start]);
        rest = match mark {
            "[" => {
                let (attribute, value) = name.split_once('=')?;
                let end = behind.find(']')?;
                let value = value.trim_start_matches(['"', '\'']);
                let is_plain = !attribute.ends_with(['~', '|', '^', '$', '*']);
                match is_plain && !value.is_empty() {
                    true => out.push_str(&format!("[{attribute}^=\"{value}\"]")),
                    false => {
                        out.push_str(&format!("[{}]", attribute.trim_end_matches(['~', '|', '^', '$', '*'])))
                    }
                }
                &behind[end + 1..]
            }
            "#" | "." if !name.is_empty() => {
                let (attribute, sign) = if mark == "#" { ("id", "^") } else { ("class", "*") };
                out.push_str(&format!("[{attribute}{sign}=\"{name}\"]"));
                // What ends the name is not held against anything.
                let end = behind.find(|c: char| !(c.is_alphanumeric() || c == '-' || c == '_'));
                &behind[end.unwrap_or(behind.len())..]
            }
            "(" => {
                let class = before[..start].rfind(':')?;
                let end = behind.find(')')?;
                if !before[class..start].starts_with(":nth-") {
                    return None;
                }
                out.truncate(out.len() - (start - class));
                &behind[end + 1..]
            }
            _ => return None,
        };
    }
    out.push_str(rest);
    Some(if out.trim().is_empty() { "*".to_owned() } else { out })
}

/// The part of a shape that is known and longest, as it may stand in another script.
fn longest_known(shape: &str) -> &str {
    let parts = shape.split(|c: char| !(c.is_alphanumeric() || c == '-' || c == '_'));
    parts.max_by_key(|part| part.len()).unwrap_or_default()
}

impl Machine<'_> {
    /// What a lookup by a selector finds that is known in part, or is one of several: nothing, where the page has nothing
    /// of that shape; none where it may be there.
    pub(super) fn find_by_shape(
        &mut self,
        method: &str,
        scope: Option<Node>,
        given: ExpressionId,
        span: Span,
    ) -> Run<Option<Value>> {
        if !matches!(method, "getElementById" | "querySelector") {
            return Ok(None);
        }
        let Some(shapes) = self.shapes(given, 0) else { return Ok(None) };
        let mut first = None;
        for shape in shapes {
            let shape = if method == "getElementById" { format!("#{shape}") } else { shape };
            let Some(selector) = widened(&shape) else { return Ok(None) };
            let Ok(selectors) = parse_selectors(&selector) else { return Ok(None) };
            let known = longest_known(&shape);
            if known.len() < 2 || shape.contains(OPEN) && self.world.has_text(known) {
                return Ok(None);
            }
            match self.find(scope, &selector, &selectors, None, span)? {
                value @ Value::Null(Some(_)) => first = first.or(Some(value)),
                _ => return Ok(None),
            }
        }
        Ok(first)
    }

    /// The texts of which an argument is one, where it is not known which; none where there may be others.
    pub(super) fn choices(&self, arguments: &Arguments, at: usize) -> Option<Vec<Value>> {
        let shapes = self.shapes_of(arguments, at)?;
        let is_known = shapes.iter().all(|shape| !shape.contains(OPEN));
        is_known.then(|| shapes.iter().map(|shape| Value::text(shape)).collect())
    }

    /// What the words begin with of the texts that an expression comes to; none where that is not known.
    pub(super) fn words_of(&self, id: ExpressionId) -> Option<Vec<Arc<str>>> {
        let shapes = self.shapes(id, 0)?;
        shapes.iter().flat_map(|shape| shape.split_ascii_whitespace()).map(beginning).collect()
    }

    /// What the texts begin with of which an argument is one; none where that is not known.
    pub(super) fn beginnings_of(&self, arguments: &Arguments, at: usize) -> Option<Vec<Arc<str>>> {
        self.shapes_of(arguments, at)?.iter().map(|shape| beginning(shape)).collect()
    }

    /// The texts that an argument comes to, where it is not known which.
    fn shapes_of(&self, arguments: &Arguments, at: usize) -> Option<Vec<String>> {
        let is_known = self.as_text(&arguments.get(at)).is_ok();
        let given = arguments.expressions.get(at).filter(|_| !is_known)?;
        let shapes = self.shapes(*given, 0)?;
        match arguments.get(at) {
            // It tells more than how it is written.
            Value::Pieced(pieces, _) if shapes.iter().all(|shape| shape.chars().all(|c| c == OPEN)) => {
                Some(shapes_of(&pieces))
            }
            _ => Some(shapes),
        }
    }

    /// Whether a value is an object whose text is the name of its kind in square brackets (ECMA-262,
    /// "Object.prototype.toString").
    pub(super) fn is_no_text(&self, value: &Value) -> bool {
        let Value::Object(id) = value else { return false };
        let object = self.object(*id);
        let is_bare = !object.is_open && !object.members.contains_key("toString") && object.parent.is_none();
        match &object.kind {
            // The text of a link is its address.
            Kind::Element(node) => !matches!(&*self.tag_of(*node), "a" | "area") && is_bare,
            Kind::List(of, _) => *of != ITERATOR && !object.members.contains_key("toString"),
            Kind::Query(..) | Kind::Window | Kind::Document => true,
            Kind::Plain => is_bare,
            Kind::Instance(of) => platform::extends(of, "Event"),
            _ => false,
        }
    }

    /// The texts that an expression comes to, each with a mark where it is not known.
    fn shapes(&self, id: ExpressionId, depth: u32) -> Option<Vec<String>> {
        let open = || vec![OPEN.to_string()];
        if depth > 20 {
            return None;
        }
        let shapes = match self.program.expression(id) {
            Expression::Text(text) => vec![text.to_string()],
            Expression::Number(number) => vec![number.to_string()],
            Expression::Template { texts, values } => {
                let mut all = vec![String::new()];
                for (place, text) in texts.iter().enumerate() {
                    all.iter_mut().for_each(|own| own.push_str(text));
                    if let Some(value) = values.get(place) {
                        all = joined(&all, &self.shapes(*value, depth + 1)?)?;
                    }
                }
                all
            }
            Expression::Binary(BinaryOperator::Addition, left, right) => {
                joined(&self.shapes(*left, depth + 1)?, &self.shapes(*right, depth + 1)?)?
            }
            Expression::Conditional(_, one, other) => {
                let mut all = self.shapes(*one, depth + 1)?;
                all.extend(self.shapes(*other, depth + 1)?);
                all
            }
            Expression::Local(variable) => {
                let place = self.scope_of(*variable);
                let environment = place.map(|id| &self.environments[id.0 as usize]);
                match environment.and_then(|own| own.places.get(variable)).map(|own| &own.value) {
                    Some(Value::Text(text)) => vec![text.to_string()],
                    Some(Value::Number(number)) => vec![number.to_string()],
                    Some(Value::Pieced(pieces, _)) => shapes_of(pieces),
                    _ => open(),
                }
            }
            _ => open(),
        };
        (shapes.len() <= MOST).then_some(shapes)
    }
}

/// What is known of a shape from its beginning on; none where that is nothing.
fn beginning(shape: &str) -> Option<Arc<str>> {
    let known = shape.split(OPEN).next().unwrap_or_default();
    (!known.is_empty()).then(|| Arc::from(known))
}

/// Each of some texts with each of others behind it.
fn joined(left: &[String], right: &[String]) -> Option<Vec<String>> {
    let all = left.iter().flat_map(|left| right.iter().map(move |right| format!("{left}{right}")));
    (left.len() * right.len() <= MOST).then(|| all.collect())
}

#[cfg(test)]
mod tests {
    use super::widened;

    #[test]
    fn what_is_not_known_of_a_selector_is_left_out() {
        for (shape, wide) in [
            ("#pier-\u{e000}", Some("[id^=\"pier-\"]")),
            ("main .tab-\u{e000}.on", Some("main [class*=\"tab-\"].on")),
            ("[data-day=\"\u{e000}\"] td", Some("[data-day] td")),
            ("a[href='/fares/\u{e000}']", Some("a[href^=\"/fares/\"]")),
            ("li:nth-child(\u{e000}) a", Some("li a")),
            ("#\u{e000}", None),
            ("\u{e000}", None),
            ("#menu \u{e000}", None),
        ] {
            assert_eq!(widened(shape).as_deref(), wide, "{shape}");
        }
    }
}
