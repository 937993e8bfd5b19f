//! What tests of a script come to on every page in a browser.

use oxc_ast::ast::Expression;
use oxc_syntax::operator::{BinaryOperator, LogicalOperator, UnaryOperator};

use super::values::{DEEPEST, Possible, Value, Values, is_global_object, property};

impl<'a> Values<'_, 'a> {
    /// Whether an expression is sure to be true or false on a page in a browser.
    pub(super) fn truth(&self, expression: &'a Expression<'a>) -> Option<bool> {
        self.truth_at(expression, 0)
    }

    fn truth_at(&self, expression: &'a Expression<'a>, depth: usize) -> Option<bool> {
        if depth > DEEPEST {
            return None;
        }
        match expression {
            Expression::BooleanLiteral(own) => Some(own.value),
            Expression::NumericLiteral(own) => Some(own.value != 0.0),
            Expression::ParenthesizedExpression(own) => self.truth_at(&own.expression, depth + 1),
            Expression::UnaryExpression(own) if own.operator == UnaryOperator::LogicalNot => {
                self.truth_at(&own.argument, depth + 1).map(|truth| !truth)
            }
            Expression::LogicalExpression(own) => {
                let (left, right) =
                    (self.truth_at(&own.left, depth + 1), self.truth_at(&own.right, depth + 1));
                match own.operator {
                    // `module && module.exports`
                    LogicalOperator::And
                        if right == Some(true) && self.is_member_of(&own.right, &own.left) =>
                    {
                        Some(true)
                    }
                    LogicalOperator::And if left == Some(false) || right == Some(false) => Some(false),
                    LogicalOperator::And if left == Some(true) => right,
                    LogicalOperator::Or if left == Some(true) || right == Some(true) => Some(true),
                    LogicalOperator::Or if left == Some(false) => right,
                    _ => None,
                }
            }
            Expression::BinaryExpression(own) => {
                let same = match own.operator {
                    BinaryOperator::Equality | BinaryOperator::StrictEquality => true,
                    BinaryOperator::Inequality | BinaryOperator::StrictInequality => false,
                    // `"undefined" > typeof window`, as minifiers write it.
                    BinaryOperator::LessThan => {
                        let kind = self.kind_of(&own.left)?;
                        return (self.text_at(&own.right, depth + 1)? == "u").then_some(kind != "undefined");
                    }
                    BinaryOperator::GreaterThan => {
                        let kind = self.kind_of(&own.left)?;
                        return (self.text_at(&own.right, depth + 1)? == "u").then_some(kind == "undefined");
                    }
                    _ => return None,
                };
                let (kind, other) = match (self.kind_of(&own.left), self.kind_of(&own.right)) {
                    (Some(kind), _) => (kind, &own.right),
                    (_, Some(kind)) => (kind, &own.left),
                    _ => return None,
                };
                let other = self.text_at(other, depth + 1)?;
                Some((kind == other) == same)
            }
            // What a bundle gives its modules in the place of what other environments have.
            Expression::StaticMemberExpression(member) if member.property.name == "exports" => {
                let objects = self.at(&member.object, depth + 1);
                let has_exports = |value: &Value<'_>| match value {
                    Value::Object(object) => property(object, "exports").is_some(),
                    _ => false,
                };
                (!objects.is_empty() && objects.iter().all(has_exports)).then_some(true)
            }
            Expression::Identifier(name) if self.symbol(name).is_none() => {
                if is_global_object(&name.name) || name.name == "document" {
                    Some(true)
                } else {
                    (name.name == "undefined").then_some(false)
                }
            }
            _ => None,
        }
    }

    /// Whether an expression is a member of what a name means.
    fn is_member_of(&self, member: &'a Expression<'a>, object: &'a Expression<'a>) -> bool {
        match (member.without_parentheses(), object.without_parentheses()) {
            (Expression::StaticMemberExpression(member), Expression::Identifier(object)) => {
                let own = match &member.object {
                    Expression::Identifier(own) => self.symbol(own),
                    _ => None,
                };
                own.is_some() && own == self.symbol(object)
            }
            _ => false,
        }
    }

    /// What `typeof` says of a global that every browser has, or that none has.
    fn kind_of(&self, expression: &'a Expression<'a>) -> Option<&'static str> {
        let Expression::UnaryExpression(own) = expression.without_parentheses() else { return None };
        if own.operator != UnaryOperator::Typeof {
            return None;
        }
        let Expression::Identifier(name) = own.argument.without_parentheses() else { return None };
        if self.symbol(name).is_some() {
            let is_module = matches!(&*name.name, "module" | "exports");
            let values = if is_module { self.of(&own.argument) } else { Possible::new() };
            let are_objects = values.iter().all(|value| matches!(value, Value::Object(_)));
            return (!values.is_empty() && are_objects).then_some("object");
        }
        match &*name.name {
            name if is_global_object(name) || name == "document" || name == "navigator" => Some("object"),
            "module" | "exports" | "require" | "define" | "process" | "global" | "__dirname" | "Deno"
            | "importScripts" => Some("undefined"),
            "Symbol" | "Promise" | "Map" | "Set" | "WeakMap" | "Proxy" => Some("function"),
            _ => None,
        }
    }
}
