//! Tests that come to the same whatever the page is like.

use oxc_syntax::operator::{AssignmentOperator, BinaryOperator, LogicalOperator, UnaryOperator};

use super::machine::Machine;
use super::value::{Absence, Kind, Value};
use crate::script::program::{Case, Expression, ExpressionId, Key, Pattern};
use crate::source::Span;
use crate::style::{self, MediaFaultKind};

/// What gives -1 for *none*.
const PLACES: &[&str] = &["findIndex", "findLastIndex", "indexOf", "lastIndexOf", "search"];

impl Machine<'_> {
    /// `!a in b`, `!a instanceof B`: what is asked is whether `true` or `false` is it.
    pub(super) fn check_negated(
        &mut self,
        operator: BinaryOperator,
        left: ExpressionId,
        right: ExpressionId,
    ) {
        let program = self.program;
        let Expression::Unary(UnaryOperator::LogicalNot, inner) = program.expression(left) else { return };
        let word = match operator {
            BinaryOperator::In => "in",
            BinaryOperator::Instanceof => "instanceof",
            _ => return,
        };
        let (inner, right) = (self.written(program.span(*inner)), self.written(program.span(right)));
        let says = format!("`!{inner}` is worked out first, and is `true` or `false`");
        self.is_vain(says, Some(format!("!({inner} {word} {right})")), program.span(left));
    }

    /// A test that sets something to what is always the same.
    pub(super) fn check_test(&mut self, test: ExpressionId) {
        let program = self.program;
        let Expression::Assign { operator: AssignmentOperator::Assign, target, value } =
            program.expression(test)
        else {
            return;
        };
        let is_literal = matches!(
            program.expression(*value),
            Expression::Text(_) | Expression::Number(_) | Expression::Boolean(_) | Expression::Null
        );
        let target = match program.pattern(*target) {
            Pattern::Local(_) | Pattern::Global(_) | Pattern::Member(_) => program.pattern_span(*target),
            _ => return,
        };
        if is_literal {
            let (target, value) = (self.written(target), self.written(program.span(*value)));
            let says = format!("this sets `{target}` and asks nothing: it comes to the same each time");
            self.is_vain(says, Some(format!("{target} === {value}")), program.span(test));
        }
    }

    /// `a < b < c`: what is compared with `c` is `true` or `false`.
    pub(super) fn check_chain(&mut self, operator: BinaryOperator, left: ExpressionId, right: ExpressionId) {
        let program = self.program;
        let Expression::Binary(inner, a, b) = program.expression(left) else { return };
        let is_order = |operator: BinaryOperator| operator.is_compare();
        if !is_order(operator) || !is_order(*inner) {
            return;
        }
        let [a, b, c] = [*a, *b, right].map(|id| self.written(program.span(id)));
        let says =
            format!("`{}` is worked out first, and is `true` or `false`", self.written(program.span(left)));
        let write = format!("{a} {} {b} && {b} {} {c}", inner.as_str(), operator.as_str());
        self.is_vain(says, Some(write), program.span(left));
    }

    /// `a === "x" || "y"`, `a !== "x" || a !== "y"`: always true.
    fn check_choice_of_two(&mut self, test: ExpressionId) {
        let program = self.program;
        let Expression::Logical(LogicalOperator::Or, left, right) = program.expression(test) else { return };
        let (span, written) = (program.span(test), |id: ExpressionId| self.written(program.span(id)));
        let last = match program.expression(*left) {
            Expression::Logical(LogicalOperator::Or, _, inner) => *inner,
            _ => *left,
        };
        let Expression::Binary(operator, asked, fixed) = program.expression(last) else { return };
        let told = match program.expression(*right) {
            Expression::Text(text) if operator.is_equality() && !text.is_empty() => {
                let (asked, right) = (written(*asked), written(*right));
                let write = format!("{asked} {} {right}", operator.as_str());
                (format!("{right} by itself is always true"), write)
            }
            Expression::Binary(other, also, fixed_too)
                if matches!(operator, BinaryOperator::StrictInequality | BinaryOperator::Inequality)
                    && other == operator
                    && written(*asked) == written(*also)
                    && written(*fixed) != written(*fixed_too)
                    && [fixed, fixed_too].iter().all(|id| {
                        matches!(program.expression(**id), Expression::Text(_) | Expression::Number(_))
                    }) =>
            {
                (format!("one of the two is always true, whatever `{}` is", written(*asked)), "&&".to_owned())
            }
            _ => return,
        };
        self.is_vain(told.0, Some(told.1), span);
    }

    /// The tests of a `switch` that never hold.
    pub(super) fn check_cases(&mut self, asked: (ExpressionId, &Value, &Value), cases: &[Case]) {
        for test in cases.iter().filter_map(|case| case.test) {
            self.check_comparison(BinaryOperator::StrictEquality, asked, test);
        }
    }

    /// A test of a call that always gives an object.
    pub(super) fn check_tested(&mut self, test: ExpressionId, value: &Value) {
        if let (Expression::Member { key: Key::Name(name), object, .. }, Value::Undefined(Some(absence))) =
            (self.program.expression(test), value)
            && let Some(Absence::Member { of: "Promise", .. }) = self.absences.get(absence.0 as usize)
        {
            let object = self.written(self.program.span(*object));
            let says = format!("`{object}` is a promise, which has no `{name}`: this is never true");
            return self.is_vain(says, Some(format!("(await {object}).{name}")), self.program.span(test));
        }
        let Expression::Call { callee, .. } = self.program.expression(test) else {
            return self.check_choice_of_two(test);
        };
        let span = self.program.span(test);
        let written = self.written(span);
        if let Expression::Member { key: Key::Name(name), .. } = self.program.expression(*callee)
            && PLACES.contains(&&**name)
            && value.primitive() == Some("Number")
        {
            let says = format!("`{name}` gives -1 for none, which is true like any number but 0");
            return self.is_vain(says, Some(format!("{written} !== -1")), span);
        }
        match self.kind(value) {
            Some(Kind::Promise(_)) => {
                let says = format!("`{written}` gives a promise, which is always true");
                self.is_vain(says, Some(format!("await {written}")), span);
            }
            Some(Kind::Instance("MediaQueryList")) => {
                let says = format!("`{written}` gives an object, which is always true");
                self.is_vain(says, Some(format!("{written}.matches")), span);
            }
            _ => {}
        }
    }

    /// Media queries that never hold.
    pub(super) fn check_queries(&mut self, queries: &str, span: Span) {
        use MediaFaultKind as Kind;
        let faults = style::media_faults(queries);
        let Some(fault) = faults.first().filter(|fault| fault.is_only) else { return };
        let query = queries[fault.span.range()].trim();
        let write = match &fault.kind {
            Kind::OldMedium { .. } | Kind::Contradiction { .. } => return,
            Kind::MissingBrackets => Some(format!("({query})")),
            Kind::MissingUnit { number } => Some(format!("{number}px")),
            Kind::UnknownFeature { nearest, .. } => nearest.clone(),
            Kind::UnknownMedium { nearest, .. } => nearest.map(str::to_owned),
            _ => None,
        };
        self.is_vain(format!("the query `{query}` never holds"), write, span);
    }

    /// Whether a list of elements is compared with a number, which is never less nor more.
    pub(super) fn check_compared(&mut self, left: &Value, right: &Value, span: Span) -> bool {
        let is_list = |this: &Self, value: &Value| {
            matches!(this.kind(value), Some(Kind::List("NodeList" | "HTMLCollection" | "DOMTokenList", _)))
        };
        let is_number = |value: &Value| matches!(value, Value::Number(_) | Value::Some("Number", _));
        let is_vain = (is_list(self, left) && is_number(right)) || (is_number(left) && is_list(self, right));
        if is_vain {
            let says = "a list of elements is neither less nor more than a number".to_owned();
            self.is_vain(says, Some("list.length".to_owned()), span);
        }
        is_vain
    }
}
