//! What becomes of each value in a program: it is asked alone, kept, given to others, changed.

use std::sync::Arc;

use oxc_syntax::operator::{LogicalOperator, UnaryOperator};

use super::handled::{CHANGERS, Handling, Handlings, Path};
use super::{
    Expression, ExpressionId, FunctionBody, Item, Key, ObjectPart, Pattern, PatternId, Program, Statement,
    Variable,
};

/// Through so many expressions a value is followed.
const FARTHEST: usize = 100;

/// What becomes of a value.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Use {
    /// It is given to something that nobody looked into.
    Given,
    /// It is tested, compared, written, gone over: nobody else comes to have it.
    Asked,
    /// A variable of the script keeps it, or a function of it gives it back.
    Kept,
    /// An expression reads a member of it, or is the same value.
    Within(ExpressionId),
    /// It is called.
    Called,
    /// It is the member that is set or deleted.
    Set,
}

impl Program {
    /// What becomes of the value of each expression.
    pub(super) fn uses(&self, found: &Handlings) -> Vec<Use> {
        let mut uses = vec![Use::Given; self.expressions.len()];
        let mut put = |id: &ExpressionId, of: Use| uses[id.0 as usize] = of;
        for (at, (_, expression)) in self.expressions.iter().enumerate() {
            let own = ExpressionId(at as u32);
            match expression {
                Expression::Member { object, key, .. } => {
                    put(object, Use::Within(own));
                    if let Key::Computed(key) = key {
                        put(key, Use::Asked);
                    }
                }
                Expression::Chain(inner) | Expression::Await(inner) => put(inner, Use::Within(own)),
                Expression::Call { callee, arguments, .. } => {
                    put(callee, Use::Called);
                    let of = match self.expression(*callee) {
                        Expression::Local(variable) if self.is_own_function(*variable, found) => Use::Kept,
                        Expression::Function(_) => Use::Kept,
                        _ if self.only_asks(*callee) => Use::Asked,
                        _ if self.is_merging(*callee, arguments) => Use::Kept,
                        _ => continue,
                    };
                    for item in arguments {
                        if let Item::Value(id) = item {
                            put(id, of);
                        }
                    }
                }
                Expression::New { callee, .. } => put(callee, Use::Called),
                Expression::Unary(UnaryOperator::Delete, inner) => put(inner, Use::Set),
                Expression::Unary(_, inner) => put(inner, Use::Asked),
                Expression::Binary(_, left, right) => {
                    put(left, Use::Asked);
                    put(right, Use::Asked);
                }
                Expression::Logical(operator, left, right) => {
                    let is_and = *operator == LogicalOperator::And;
                    put(left, if is_and { Use::Asked } else { Use::Within(own) });
                    put(right, Use::Within(own));
                }
                Expression::Conditional(test, first, second) => {
                    put(test, Use::Asked);
                    put(first, Use::Within(own));
                    put(second, Use::Within(own));
                }
                Expression::Sequence(all) => {
                    all.iter().for_each(|inner| put(inner, Use::Asked));
                    if let Some(last) = all.last() {
                        put(last, Use::Within(own));
                    }
                }
                Expression::Template { values, .. } => values.iter().for_each(|value| put(value, Use::Asked)),
                Expression::Assign { value, .. } => put(value, Use::Kept),
                Expression::Object(parts) => {
                    for part in parts {
                        if let ObjectPart::Value(_, value) | ObjectPart::Spread(value) = part {
                            put(value, Use::Within(own));
                        }
                    }
                }
                Expression::Array(items) => {
                    for item in items {
                        if let Item::Value(value) | Item::Spread(value) = item {
                            put(value, Use::Within(own));
                        }
                    }
                }
                _ => {}
            }
        }
        for (_, statement) in &self.statements {
            match statement {
                Statement::Expression(id)
                | Statement::If { test: id, .. }
                | Statement::ForIn { over: id, .. }
                | Statement::ForOf { over: id, .. }
                | Statement::While { test: id, .. }
                | Statement::DoWhile { test: id, .. }
                | Statement::Switch { value: id, .. } => put(id, Use::Asked),
                Statement::For { test, update, .. } => {
                    test.iter().chain(update).for_each(|id| put(id, Use::Asked));
                }
                Statement::Variables(_, all) => {
                    all.iter()
                        .filter_map(|(_, value)| value.as_ref())
                        .for_each(|value| put(value, Use::Kept));
                }
                Statement::Return(Some(id)) => put(id, Use::Kept),
                _ => {}
            }
        }
        for function in &self.functions {
            if let FunctionBody::Expression(id) = &function.body {
                put(id, Use::Kept);
            }
        }
        for at in 0..self.patterns.len() {
            match self.pattern(PatternId(at as u32)) {
                Pattern::Member(id) => put(id, Use::Set),
                Pattern::Default(_, id) => put(id, Use::Kept),
                _ => {}
            }
        }
        uses
    }

    /// Whether a variable has a function of the script, and nothing else.
    fn is_own_function(&self, variable: Variable, found: &Handlings) -> bool {
        let given = found.given_to.get(&variable).map_or(&[][..], Vec::as_slice);
        match found.declared_with.get(&variable) {
            Some(value) => given.len() == 1 && matches!(self.expression(*value), Expression::Function(_)),
            None => given.is_empty() && found.made.contains_key(&variable),
        }
    }

    /// Whether a function of the platform asks what it is given, and neither keeps nor changes it.
    fn only_asks(&self, callee: ExpressionId) -> bool {
        const FUNCTIONS: &[&str] = &[
            "Boolean", "Number", "String", "alert", "clearInterval", "clearTimeout", "decodeURIComponent",
            "encodeURIComponent", "isFinite", "isNaN", "parseFloat", "parseInt", "requestAnimationFrame",
            "setInterval", "setTimeout",
        ];
        const OBJECTS: &[&str] = &["Array", "JSON", "Math", "Number", "Object", "console"];
        const CHANGING: &[&str] = &["assign", "defineProperties", "defineProperty", "setPrototypeOf"];
        match self.expression(callee) {
            Expression::Global(name) => FUNCTIONS.contains(&&**name),
            Expression::Member { object, key: Key::Name(name), .. } => {
                matches!(self.expression(*object), Expression::Global(of) if OBJECTS.contains(&&**of))
                    && !CHANGING.contains(&&**name)
            }
            _ => false,
        }
    }

    /// Whether a call gives a new object the members of others.
    pub(super) fn is_merging(&self, callee: ExpressionId, arguments: &[Item]) -> bool {
        let Expression::Member { object, key: Key::Name(name), .. } = self.expression(callee) else {
            return false;
        };
        let is_new = |item: &Item| matches!(item, Item::Value(own) if matches!(self.expression(*own), Expression::Object(_)));
        matches!(self.expression(*object), Expression::Global(of) if **of == *"Object")
            && **name == *"assign"
            && arguments.first().is_some_and(is_new)
    }

    /// What becomes of a value and of its members.
    pub(super) fn follow(&self, uses: &[Use], from: ExpressionId, handling: &mut Handling) {
        let mut path = Path::new();
        let mut at = from;
        // A member by a name that is not known may be any of them.
        let mut is_any = false;
        for _ in 0..FARTHEST {
            match uses[at.0 as usize] {
                Use::Called if path.last().is_some_and(|name| CHANGERS.contains(&&**name)) => {
                    path.pop();
                    return handling.lists.push(path);
                }
                Use::Asked | Use::Kept | Use::Called => return,
                Use::Set if is_any => return handling.given.push(path),
                Use::Set if path.is_empty() => return handling.times_set += 1,
                Use::Set => return handling.set.push((path, at)),
                Use::Given => return handling.given.push(path),
                Use::Within(next) => {
                    match self.expression(next) {
                        Expression::Member { key: Key::Name(name), .. } if !is_any => {
                            path.push(Arc::clone(name))
                        }
                        Expression::Member { key: Key::Computed(_), .. } => is_any = true,
                        _ => {}
                    }
                    at = next;
                }
            }
        }
        handling.given.push(Path::new());
    }
}
