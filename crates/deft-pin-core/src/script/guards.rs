//! What a script copes with: globals and elements that it asks for before it uses them.

use oxc_ast::AstKind;
use oxc_ast::ast::{AssignmentTarget, Expression, Statement};
use oxc_semantic::{NodeId, SymbolId};
use oxc_span::{GetSpan, Span};
use oxc_syntax::operator::{BinaryOperator, LogicalOperator, UnaryOperator};

use super::added::words_of;
use super::reader::Reader;
use super::record::When;
use super::values::{Value, leaves, symbol_of};

/// How far a test is followed, through variables too.
const DEEPEST: usize = 8;

fn inside(part: Span, below: Span) -> bool {
    part.start <= below.start && below.end <= part.end
}

impl<'a> Reader<'_, 'a> {
    /// Whether a script copes without a global where a node reads it: `typeof X`, `window.X &&`, `X?.`,
    /// `if (window.X)`, `if (!window.X) return`, `try`.
    pub(super) fn is_guarded(&self, node: NodeId, name: &str) -> bool {
        let nodes = self.values.semantic.nodes();
        let mut below = nodes.kind(node).span();
        // Whether what runs where a test holds, or does not, runs where the global is.
        let tells = |test: &'a Expression<'a>, holds: bool| match self.if_absent(test, name, 0) {
            Some(truth) => truth != holds,
            None => self.mentions(test.span(), name),
        };
        for kind in nodes.ancestor_kinds(node) {
            let found = match kind {
                // `typeof` asks for the name itself: what it is the object of has to be there.
                AstKind::UnaryExpression(own) => {
                    own.operator == UnaryOperator::Typeof
                        && own.argument.span() == below
                        && own.argument.without_parentheses().span() == nodes.kind(node).span()
                }
                AstKind::TryStatement(own) => own.handler.is_some() && inside(own.block.span, below),
                AstKind::IfStatement(own) if !inside(own.test.span(), below) => {
                    tells(&own.test, inside(own.consequent.span(), below))
                }
                AstKind::ConditionalExpression(own) if !inside(own.test.span(), below) => {
                    tells(&own.test, inside(own.consequent.span(), below))
                }
                AstKind::LogicalExpression(own) if inside(own.right.span(), below) => {
                    tells(&own.left, own.operator == LogicalOperator::And)
                }
                AstKind::WhileStatement(own) if inside(own.body.span(), below) => tells(&own.test, true),
                AstKind::ForStatement(own) if inside(own.body.span(), below) => {
                    own.test.as_ref().is_some_and(|test| tells(test, true))
                }
                AstKind::SwitchStatement(own) if !inside(own.discriminant.span(), below) => {
                    self.mentions(own.discriminant.span(), name)
                }
                // A name may mean a property of what it is with.
                AstKind::WithStatement(own) => inside(own.body.span(), below),
                AstKind::CallExpression(own) => is_caught(&own.callee, below),
                AstKind::FunctionBody(own) => self.leaves_before(&own.statements, below, name),
                AstKind::BlockStatement(own) => self.leaves_before(&own.body, below, name),
                AstKind::Program(own) => self.leaves_before(&own.body, below, name),
                _ => false,
            };
            if found {
                return true;
            }
            below = kind.span();
        }
        false
    }

    /// Whether a statement before a place leaves, where a global is not there.
    fn leaves_before(&self, statements: &'a [Statement<'a>], below: Span, name: &str) -> bool {
        leaving(statements, below)
            .any(|test| self.if_absent(test, name, 0).unwrap_or_else(|| self.mentions(test.span(), name)))
    }

    /// What a test comes to where a global is not there, as far as that is certain.
    fn if_absent(&self, test: &'a Expression<'a>, name: &str, depth: usize) -> Option<bool> {
        if depth > DEEPEST {
            return None;
        }
        let next = |test: &'a Expression<'a>| self.if_absent(test, name, depth + 1);
        match test.without_parentheses() {
            Expression::UnaryExpression(own) if own.operator == UnaryOperator::LogicalNot => {
                next(&own.argument).map(|truth| !truth)
            }
            Expression::LogicalExpression(own) => {
                let (left, right) = (next(&own.left), next(&own.right));
                match own.operator {
                    LogicalOperator::And if left == Some(false) || right == Some(false) => Some(false),
                    LogicalOperator::And => left.zip(right).map(|(left, right)| left && right),
                    LogicalOperator::Or if left == Some(true) || right == Some(true) => Some(true),
                    LogicalOperator::Or => left.zip(right).map(|(left, right)| left || right),
                    LogicalOperator::Coalesce => None,
                }
            }
            Expression::BinaryExpression(own) if own.operator == BinaryOperator::In => {
                (self.values.text(&own.left).as_deref() == Some(name)).then_some(false)
            }
            Expression::BinaryExpression(own) => {
                let same = match own.operator {
                    BinaryOperator::Equality | BinaryOperator::StrictEquality => true,
                    BinaryOperator::Inequality | BinaryOperator::StrictInequality => false,
                    _ => return None,
                };
                let is_strict =
                    matches!(own.operator, BinaryOperator::StrictEquality | BinaryOperator::StrictInequality);
                let (asked, other) = match self.is_it(&own.left, name) {
                    Some(asked) => (asked, &own.right),
                    None => (self.is_it(&own.right, name)?, &own.left),
                };
                let is_nothing = match (asked, other.without_parentheses()) {
                    (Asked::Kind, other) => self.values.text(other)? == "undefined",
                    (Asked::Value, Expression::NullLiteral(_)) => !is_strict,
                    (Asked::Value, Expression::Identifier(other)) => other.name == "undefined",
                    (Asked::Value, Expression::UnaryExpression(other)) => {
                        other.operator == UnaryOperator::Void
                    }
                    _ => return None,
                };
                Some(is_nothing == same)
            }
            Expression::Identifier(own) => match self.values.symbol(own) {
                None => (own.name == name).then_some(false),
                Some(symbol) => match self.values.sources(symbol) {
                    [source] => next(source),
                    _ => None,
                },
            },
            // A function of one `return` comes to what that does.
            Expression::CallExpression(own) => match self.values.callees(&own.callee, 0).as_slice() {
                [callable] => next(callable.only_result()?),
                _ => None,
            },
            other => self.is_it(other, name).map(|_| false),
        }
    }

    /// Whether an expression is a global, or asks for its type.
    fn is_it(&self, expression: &'a Expression<'a>, name: &str) -> Option<Asked> {
        match expression.without_parentheses() {
            Expression::UnaryExpression(own) if own.operator == UnaryOperator::Typeof => {
                self.is_it(&own.argument, name).map(|_| Asked::Kind)
            }
            Expression::Identifier(own) => {
                (own.name == name && self.values.symbol(own).is_none()).then_some(Asked::Value)
            }
            other => {
                let member = other.as_member_expression()?;
                let object = self.values.of(member.object());
                let is_global = object.iter().any(|value| matches!(value, Value::Global));
                (is_global && member.static_property_name()? == name).then_some(Asked::Value)
            }
        }
    }

    /// Whether what an assignment to a name gives it is made from what it has, `x = x || {}`, or it
    /// is asked for first.
    pub(super) fn is_cautious(&self, target: NodeId, name: &str) -> bool {
        let by_value = match self.values.semantic.nodes().parent_kind(target) {
            AstKind::AssignmentExpression(own) => {
                own.operator.is_logical() || self.mentions(own.right.span(), name)
            }
            _ => false,
        };
        by_value || self.is_tested(target, name)
    }

    /// Whether a node runs only where a global of that name is of some type already: `if (typeof name == "number")`.
    pub(super) fn is_for_known(&self, node: NodeId, name: &str) -> bool {
        let nodes = self.values.semantic.nodes();
        let mut below = nodes.kind(node).span();
        nodes.ancestor_kinds(node).take_while(|kind| !matches!(kind, AstKind::Function(_))).any(|kind| {
            let found = match kind {
                AstKind::IfStatement(own) => {
                    inside(own.consequent.span(), below) && says_type_of(&own.test, name)
                }
                AstKind::LogicalExpression(own) if own.operator == LogicalOperator::And => {
                    inside(own.right.span(), below) && says_type_of(&own.left, name)
                }
                _ => false,
            };
            below = kind.span();
            found
        })
    }

    /// Whether a node runs by a test that has to do with a global, however it turns out.
    fn is_tested(&self, node: NodeId, name: &str) -> bool {
        let nodes = self.values.semantic.nodes();
        let mut below = nodes.kind(node).span();
        let says = |test: Span, below: Span| !inside(test, below) && self.mentions(test, name);
        nodes.ancestor_kinds(node).any(|kind| {
            let found = match kind {
                AstKind::IfStatement(own) => says(own.test.span(), below),
                AstKind::ConditionalExpression(own) => says(own.test.span(), below),
                AstKind::LogicalExpression(own) => says(own.left.span(), below),
                AstKind::FunctionBody(own) => leaves_by(&own.statements, below, &|test| says(test, below)),
                _ => false,
            };
            below = kind.span();
            found
        })
    }

    /// Whether a variable is used as an object while the script runs, and never asked for being one.
    pub(super) fn is_relied_on(&self, symbol: SymbolId) -> bool {
        let references = self.values.semantic.symbol_references(symbol);
        let reads = references.filter(|reference| reference.is_read()).map(|reference| reference.node_id());
        let mut reads: Vec<NodeId> = reads.collect();
        reads.sort_by_key(|node| self.values.semantic.nodes().kind(*node).span().start);
        let uses = |node: NodeId| {
            self.is_used_as_object(node) && self.when(node) == Some(When::Now) && !self.is_tried(node)
        };
        if reads.first().is_some_and(|first| uses(*first)) {
            return true;
        }
        let mut relied = false;
        for node in reads {
            if self.is_demanded(node) {
                relied = true;
                continue;
            }
            if self.is_asked(node) || self.is_tried(node) {
                return false;
            }
            relied |= uses(node);
        }
        relied
    }

    pub(super) fn mentions(&self, part: Span, name: &str) -> bool {
        words_of(&self.text[part.start as usize..part.end as usize]).any(|word| word == name)
    }

    /// Whether a script copes with a lookup that finds nothing: what it gives back is not used at
    /// once in a way that fails, or it is asked first, by itself or in the variable that holds it.
    pub(super) fn copes(&self, call: NodeId) -> bool {
        let nodes = self.values.semantic.nodes();
        if self.is_tried(call) || self.is_asked_alike(call) {
            return true;
        }
        let is_many = match nodes.kind(call) {
            AstKind::CallExpression(call) => match call.callee.as_member_expression() {
                Some(member) => !member
                    .static_property_name()
                    .is_some_and(|name| matches!(name, "getElementById" | "querySelector")),
                None => !self.values.is_own_lookup(call),
            },
            _ => false,
        };
        let own = nodes.kind(call).span();
        if is_many {
            // Of a collection the first may be missing.
            return match nodes.parent_kind(call) {
                AstKind::ComputedMemberExpression(member) => {
                    let is_number = matches!(member.expression, Expression::NumericLiteral(_));
                    !(is_number && member.object.span() == own && !self.is_safe(nodes.parent_id(call)))
                }
                _ => true,
            };
        }
        let held = match nodes.parent_kind(call) {
            AstKind::VariableDeclarator(declarator) => symbol_of(&declarator.id),
            AstKind::AssignmentExpression(assignment) if assignment.right.span() == own => {
                if self.is_asked(nodes.parent_id(call)) {
                    return true;
                }
                match &assignment.left {
                    AssignmentTarget::AssignmentTargetIdentifier(name) => self.values.symbol(name),
                    _ => None,
                }
            }
            _ => return !self.is_used_as_object(call),
        };
        let Some(symbol) = held else { return true };
        let references = self.values.semantic.symbol_references(symbol);
        let mut fails = false;
        for node in references.filter(|reference| reference.is_read()).map(|reference| reference.node_id()) {
            if self.is_asked(node) {
                return true;
            }
            let is_used = self.is_used_as_object(node) && !self.is_tried(node);
            fails |= is_used && self.when(node) == Some(When::Now);
        }
        !fails
    }

    /// Whether nothing fails where what a node stands for is nothing.
    pub(super) fn is_safe(&self, node: NodeId) -> bool {
        !self.is_used_as_object(node) || self.is_tried(node) || self.is_asked_alike(node)
    }

    fn is_tried(&self, node: NodeId) -> bool {
        let mut below = self.values.semantic.nodes().kind(node).span();
        self.values.semantic.nodes().ancestor_kinds(node).any(|kind| {
            let found = match kind {
                AstKind::TryStatement(own) => own.handler.is_some() && inside(own.block.span, below),
                AstKind::CallExpression(own) => is_caught(&own.callee, below),
                _ => false,
            };
            below = kind.span();
            found
        })
    }

    /// Whether a test around a node, or one that leaves before it, has the same text in it.
    fn is_asked_alike(&self, node: NodeId) -> bool {
        let nodes = self.values.semantic.nodes();
        let own = nodes.kind(node).span();
        let text = &self.text[own.start as usize..own.end as usize];
        let says = |test: Span| {
            !inside(test, own) && self.text[test.start as usize..test.end as usize].contains(text)
        };
        nodes.ancestor_kinds(node).any(|kind| match kind {
            AstKind::IfStatement(own) => says(own.test.span()),
            AstKind::ConditionalExpression(own) => says(own.test.span()),
            AstKind::LogicalExpression(own) => says(own.left.span()),
            AstKind::WhileStatement(own) => says(own.test.span()),
            AstKind::FunctionBody(body) => leaves_by(&body.statements, own, &says),
            AstKind::BlockStatement(body) => leaves_by(&body.body, own, &says),
            AstKind::Program(body) => leaves_by(&body.body, own, &says),
            _ => false,
        })
    }

    fn is_used_as_object(&self, node: NodeId) -> bool {
        let nodes = self.values.semantic.nodes();
        let own = nodes.kind(node).span();
        match nodes.parent_kind(node) {
            AstKind::StaticMemberExpression(member) => member.object.span() == own && !member.optional,
            AstKind::ComputedMemberExpression(member) => member.object.span() == own && !member.optional,
            _ => false,
        }
    }

    /// Whether a script gives up where a name is nothing: `if (!x) throw …`.
    fn is_demanded(&self, node: NodeId) -> bool {
        let nodes = self.values.semantic.nodes();
        let mut around = nodes.ancestor_kinds(node);
        let is_not =
            |kind| matches!(kind, AstKind::UnaryExpression(own) if own.operator == UnaryOperator::LogicalNot);
        if !around.next().is_some_and(is_not) {
            return false;
        }
        let mut outer = around.skip_while(|kind| matches!(kind, AstKind::ParenthesizedExpression(_)));
        matches!(outer.next(), Some(AstKind::IfStatement(own)) if throws(&own.consequent))
    }

    /// Whether a name is asked for being something.
    fn is_asked(&self, node: NodeId) -> bool {
        let nodes = self.values.semantic.nodes();
        let own = nodes.kind(node).span();
        match nodes.parent_kind(node) {
            AstKind::IfStatement(_)
            | AstKind::ConditionalExpression(_)
            | AstKind::LogicalExpression(_)
            | AstKind::BinaryExpression(_)
            | AstKind::WhileStatement(_) => true,
            AstKind::ForStatement(around) => around.test.as_ref().is_some_and(|test| test.span() == own),
            AstKind::UnaryExpression(unary) => unary.operator == UnaryOperator::LogicalNot,
            AstKind::StaticMemberExpression(member) => member.object.span() == own && member.optional,
            AstKind::ParenthesizedExpression(_) => self.is_asked(nodes.parent_id(node)),
            _ => false,
        }
    }
}

/// What a test asks of a global.
enum Asked {
    Value,
    Kind,
}

/// Whether a statement comes to nothing but an error.
fn throws(statement: &Statement<'_>) -> bool {
    match statement {
        Statement::ThrowStatement(_) => true,
        Statement::BlockStatement(block) => block.body.iter().any(throws),
        _ => false,
    }
}

/// The tests before a place by which a script leaves what it is in.
fn leaving<'s, 'a>(statements: &'s [Statement<'a>], below: Span) -> impl Iterator<Item = &'s Expression<'a>> {
    let before = statements.iter().take_while(move |own| own.span().start < below.start).take(200);
    before.filter_map(|statement| match statement {
        Statement::IfStatement(own) if leaves(&own.consequent) => Some(&own.test),
        _ => None,
    })
}

fn leaves_by(statements: &[Statement<'_>], below: Span, says: &dyn Fn(Span) -> bool) -> bool {
    leaving(statements, below).any(|test| says(test.span()))
}

/// Whether what fails in a part of a callee is caught by it: `….catch(…)`.
fn is_caught(callee: &Expression<'_>, below: Span) -> bool {
    let member = callee.as_member_expression();
    member
        .is_some_and(|member| member.static_property_name() == Some("catch") && inside(callee.span(), below))
}

/// Whether a test asks that a global of a name is of some type: `typeof name == "number"`.
fn says_type_of(test: &Expression<'_>, name: &str) -> bool {
    let Expression::BinaryExpression(own) = test.without_parentheses() else { return false };
    let is_equal = matches!(own.operator, BinaryOperator::Equality | BinaryOperator::StrictEquality);
    let is_type = |side: &Expression<'_>| match side.without_parentheses() {
        Expression::UnaryExpression(inner) => {
            inner.operator == UnaryOperator::Typeof
                && matches!(&inner.argument, Expression::Identifier(own) if own.name == name)
        }
        _ => false,
    };
    let is_kind = |side: &Expression<'_>| match side.without_parentheses() {
        Expression::StringLiteral(kind) => kind.value != "undefined",
        _ => false,
    };
    is_equal && (is_type(&own.left) && is_kind(&own.right) || is_type(&own.right) && is_kind(&own.left))
}
