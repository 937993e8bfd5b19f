//! Statements that do nothing: what they work out is not kept.

use oxc_syntax::operator::BinaryOperator;

use super::arguments::Arguments;
use super::machine::Machine;
use super::platform;
use super::value::{Kind, Value};
use super::world::Root;
use crate::script::program::{Expression, ExpressionId, FunctionBody, Item, Key, LoopHead, Pattern};
use crate::source::Span;

/// Methods that people take for ones that change what they are called on (ECMA-262, "String.prototype",
/// "Array.prototype"). Of others, which may be called to see whether they throw, nothing is said.
const OF_TEXTS: &[&str] = &["replace", "replaceAll"];
const OF_LISTS: &[&str] = &["concat", "toReversed", "toSorted", "toSpliced"];
/// The same of those that are called to see whether they throw, but not of a variable that is read again.
const OF_VARIABLES: &[&str] = &[
    "normalize", "padEnd", "padStart", "repeat", "slice", "substr", "substring", "toFixed", "toLowerCase",
    "toPrecision", "toUpperCase", "trim", "trimEnd", "trimStart",
];
const OF_LIST_VARIABLES: &[&str] = &["filter", "flat", "flatMap", "map", "slice", "with"];

impl Machine<'_> {
    /// A statement that compares, or names a function, and does nothing.
    pub(super) fn check_idle(&mut self, id: ExpressionId, value: &Value) {
        let program = self.program;
        let span = program.span(id);
        match program.expression(id) {
            Expression::Binary(operator, left, right)
                if (operator.is_equality() || operator.is_compare())
                    && self.is_still(*left)
                    && self.is_still(*right) =>
            {
                let written = self.written(span);
                let (left, right) = (self.written(program.span(*left)), self.written(program.span(*right)));
                let (says, write) = match operator {
                    BinaryOperator::Equality | BinaryOperator::StrictEquality => (
                        format!("this compares `{left}` with `{right}`, and nothing is done with the answer"),
                        Some(format!("{left} = {right}")),
                    ),
                    _ => (format!("`{written}` is asked, and nothing is done with the answer"), None),
                };
                self.is_vain(says, write, span);
            }
            Expression::Member { key: Key::Name(_), .. }
                if matches!(self.kind(value), Some(Kind::Native(..) | Kind::Function(_))) =>
            {
                let what = self.written(span);
                self.is_vain(format!("`{what}` is named and not called"), Some(format!("{what}()")), span);
            }
            Expression::Call { callee, arguments, .. } => self.check_idle_call(id, *callee, arguments, value),
            _ => {}
        }
    }

    /// An element that is made, and never put anywhere.
    pub(super) fn check_used(&mut self, arguments: &Arguments, span: Span) {
        // These do something by themselves.
        const ACTING: &[&str] = &["audio", "canvas", "img", "video"];
        let Value::Text(tag) = arguments.get(0) else { return };
        let is_plain = !ACTING.contains(&&*tag) && !tag.contains('-') && self.world.root() != Root::None;
        if is_plain && self.program.idle().made.contains(&span) {
            self.is_vain(format!("the `{tag}` that is made here is never put into the page"), None, span);
        }
    }

    /// A member that is asked of a key: keys are texts.
    pub(super) fn check_keys(&mut self, head: &LoopHead, over: ExpressionId) {
        let program = self.program;
        let LoopHead::Declared(pattern) = head else { return };
        let Pattern::Local(variable) = program.pattern(*pattern) else { return };
        let Some(member) = program.idle().keys.get(variable).copied() else { return };
        let Expression::Member { key: Key::Name(name), .. } = program.expression(member) else { return };
        if platform::member("String", name).is_some() || self.may_be_added("String", name) {
            return;
        }
        let (key, over) = (program.name(*variable), self.written(program.span(over)));
        let says = format!("`{key}` is a text here: `for … in` goes over the names of members");
        self.is_vain(says, Some(format!("for (const {key} of {over})")), program.span(member));
    }

    /// A call of which only the answer matters, and nobody takes it.
    fn check_idle_call(&mut self, id: ExpressionId, callee: ExpressionId, arguments: &[Item], value: &Value) {
        let program = self.program;
        let Expression::Member { object, key: Key::Name(name), .. } = program.expression(callee) else {
            return;
        };
        let is_function = |item: &Item| match item {
            Item::Value(id) => matches!(program.expression(*id), Expression::Function(_)),
            _ => false,
        };
        let has_function = arguments.iter().any(is_function);
        let is_text = || OF_TEXTS.contains(&&**name) && value.primitive() == Some("String");
        let is_list = || OF_LISTS.contains(&&**name) && matches!(self.kind(value), Some(Kind::Array(_)));
        let is_of_variable = self.tries == 0 && self.is_lost_of_variable(id, *object, name, arguments, value);
        if !has_function && (is_text() || is_list()) || is_of_variable {
            let of = self.written(program.span(*object));
            let is_name = of.chars().all(|c| c.is_alphanumeric() || matches!(c, '_' | '$' | '.'));
            let span = program.span(id);
            let write = is_name.then(|| format!("{of} = {}", self.written(span)));
            self.is_vain(format!("`{name}` gives something new, and nothing is done with it"), write, span);
            return;
        }
        // A function that works something out for each, and gives it to nobody.
        if let ("forEach", [Item::Value(first)]) = (&**name, arguments)
            && let Expression::Function(function) = program.expression(*first)
            && let FunctionBody::Expression(body) = program.function(*function).body
            && let Expression::Binary(_, left, right) = program.expression(body)
            && self.is_still(*left)
            && self.is_still(*right)
        {
            let written = self.written(program.span(body));
            let says = format!("`{written}` is worked out for each, and nothing is done with it");
            self.is_vain(says, None, program.span(body));
        }
    }

    /// Whether a call makes something of a variable that is read again as it was.
    fn is_lost_of_variable(
        &self,
        id: ExpressionId,
        object: ExpressionId,
        name: &str,
        arguments: &[Item],
        value: &Value,
    ) -> bool {
        let program = self.program;
        let Expression::Local(variable) = program.expression(object) else { return false };
        let is_behind = |is_whole| program.idle().is_read_behind(*variable, program.span(id).end, is_whole);
        // What a function does that is called for each may be what is wanted.
        let is_still = |item: &Item| match item {
            Item::Value(id) => match program.expression(*id) {
                Expression::Function(own) => match &program.function(*own).body {
                    FunctionBody::Expression(body) => self.is_still(*body),
                    FunctionBody::Statements(_) => false,
                },
                _ => self.is_still(*id) && !matches!(name, "filter" | "flatMap" | "map"),
            },
            _ => false,
        };
        let needs_more = name.starts_with("to") && !name.ends_with("Case") && arguments.is_empty();
        if needs_more || !arguments.iter().all(is_still) {
            return false;
        }
        match self.kind(value) {
            Some(Kind::Array(_)) => OF_LIST_VARIABLES.contains(&name) && is_behind(false),
            _ => value.primitive() == Some("String") && OF_VARIABLES.contains(&name) && is_behind(true),
        }
    }

    /// A function that names another where it should call it: `.then(r => r.json)`.
    pub(super) fn check_idle_answer(&mut self, function: &Value, answer: &Value) {
        let Some(Kind::Native(..)) = self.kind(answer) else { return };
        let Some(Kind::Function(closure)) = self.kind(function) else { return };
        if self.environments[closure.environment.0 as usize].code == 0
            && let FunctionBody::Expression(body) = self.function_of(closure).body
        {
            self.check_idle(body, answer);
        }
    }

    /// Whether an expression does nothing but be worked out.
    fn is_still(&self, id: ExpressionId) -> bool {
        match self.program.expression(id) {
            Expression::Local(_)
            | Expression::Global(_)
            | Expression::Text(_)
            | Expression::Number(_)
            | Expression::Boolean(_)
            | Expression::Null
            | Expression::RegExp(_)
            | Expression::This => true,
            Expression::Member { object, key: Key::Name(_), .. } => {
                self.is_still(*object) || self.program.is_lookup(*object)
            }
            Expression::Template { values, .. } => values.iter().all(|value| self.is_still(*value)),
            Expression::Binary(_, left, right) => self.is_still(*left) && self.is_still(*right),
            _ => false,
        }
    }
}
