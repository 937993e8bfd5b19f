//! Whether the text of a script tells all that it defines, looks up and adds: it need not be run for that.

use super::handled::WINDOWS;
use super::{Expression, ExpressionId, Item, Key, ObjectPart, Pattern, Program};

/// Whether a method looks elements up.
fn looks_up(name: &str) -> bool {
    matches!(
        name,
        "closest"
            | "getElementById"
            | "getElementsByClassName"
            | "getElementsByName"
            | "getElementsByTagName"
            | "getElementsByTagNameNS"
            | "matches"
            | "namedItem"
            | "querySelector"
            | "querySelectorAll"
    )
}

/// Whether a method gives elements names, or brings in markup.
fn gives(name: &str) -> bool {
    matches!(
        name,
        "add"
            | "createContextualFragment"
            | "insertAdjacentHTML"
            | "parseFromString"
            | "setAttribute"
            | "setAttributeNS"
            | "setHTML"
            | "setHTMLUnsafe"
            | "toggle"
            | "write"
            | "writeln"
    )
}

const MEMBERS: &[&str] = &["class", "classList", "className", "id", "innerHTML", "outerHTML", "srcdoc"];
/// Globals by which anything may be done.
const OPEN: &[&str] = &["$", "Function", "Proxy", "Reflect", "eval", "jQuery"];

impl Program {
    /// Whether everything that it looks up, defines and adds stands in it as it is.
    pub(in crate::script) fn is_told_by_text(&self) -> bool {
        // What is named and not called is called by another name.
        let is_asking = |expression: &Expression| match expression {
            Expression::Member { key: Key::Name(name), .. } => looks_up(name) || gives(name),
            _ => false,
        };
        let is_called_so = |expression: &Expression| match expression {
            Expression::Call { callee, .. } => is_asking(self.expression(*callee)),
            _ => false,
        };
        let all = || self.expressions.iter().map(|(_, expression)| expression);
        all().all(|expression| self.is_plain(expression))
            && all().filter(|own| is_asking(own)).count() == all().filter(|own| is_called_so(own)).count()
            && self.patterns.iter().all(|(_, pattern)| match pattern {
                // A member is set of what is not known; what is looked up is an element.
                Pattern::Member(id) => match self.expression(*id) {
                    Expression::Member { object, key: Key::Name(_), .. } => match self.expression(*object) {
                        Expression::This => false,
                        Expression::Call { .. } => self.is_call_of(*object, looks_up),
                        _ => true,
                    },
                    _ => false,
                },
                _ => true,
            })
    }

    fn is_plain(&self, expression: &Expression) -> bool {
        match expression {
            // What is the global object stands for a name of it alone.
            Expression::Global(name) => !WINDOWS.contains(&&**name) && !OPEN.contains(&&**name),
            Expression::Super | Expression::Class(_) | Expression::Tagged { .. } => false,
            Expression::Import(_) | Expression::Opaque(_) => false,
            Expression::Call { callee, arguments, .. } => {
                let name = match self.expression(*callee) {
                    Expression::Member { key: Key::Name(name), .. } => &**name,
                    Expression::Member { .. } => return false,
                    _ => return true,
                };
                let is_value = |item: &Item| match item {
                    Item::Value(id) => self.is_whole(*id),
                    _ => false,
                };
                let is_text = |item: &Item| match item {
                    Item::Value(id) => matches!(self.expression(*id), Expression::Text(_)),
                    _ => false,
                };
                let is_of_classes = |id: ExpressionId| matches!(self.expression(id), Expression::Member { key: Key::Name(of), .. } if **of == *"classList");
                if let ("replace", Expression::Member { object, .. }) = (name, self.expression(*callee)) {
                    return !is_of_classes(*object);
                }
                if looks_up(name) {
                    return arguments.iter().all(is_text);
                }
                !gives(name) || arguments.iter().all(is_value)
            }
            Expression::Member { object, key: Key::Name(name), .. } => {
                !(**name == *"document" && matches!(self.expression(*object), Expression::This))
            }
            Expression::Object(parts) => parts.iter().all(|part| match part {
                ObjectPart::Value(Key::Name(name), _) => !MEMBERS.contains(&&**name),
                ObjectPart::Value(Key::Computed(_), _) => false,
                _ => true,
            }),
            Expression::Assign { target, value, .. } => match self.pattern(*target) {
                Pattern::Member(id) => match self.expression(*id) {
                    Expression::Member { key: Key::Name(name), .. } => match &**name {
                        "innerHTML" | "outerHTML" => self.is_whole(*value),
                        "classList" => false,
                        name => {
                            !MEMBERS.contains(&name) || matches!(self.expression(*value), Expression::Text(_))
                        }
                    },
                    _ => false,
                },
                _ => true,
            },
            _ => true,
        }
    }

    /// Whether the names in a text are whole, whatever is put in between its parts.
    fn is_whole(&self, id: ExpressionId) -> bool {
        let is_closed = |text: &str| text.rfind('<') <= text.rfind('>');
        match self.expression(id) {
            Expression::Text(text) => is_closed(text),
            Expression::Number(_) | Expression::Boolean(_) | Expression::Null => true,
            Expression::Template { texts, .. } => {
                texts.iter().all(|text| is_closed(text) && text.contains('<'))
            }
            Expression::Binary(_, left, right) => {
                let is_mark = |id: ExpressionId| matches!(self.expression(id), Expression::Text(text) if text.contains('<'));
                (is_mark(*left) || is_mark(*right))
                    && [*left, *right].into_iter().all(|id| {
                        !matches!(
                            self.expression(id),
                            Expression::Text(_) | Expression::Template { .. } | Expression::Binary(..)
                        ) || self.is_whole(id)
                    })
            }
            _ => false,
        }
    }
}
