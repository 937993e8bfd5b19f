//! What in a script is made and never used, or is asked of the wrong thing, by its text alone.

use rustc_hash::{FxHashMap, FxHashSet};

use super::{
    DeclarationKind, Expression, ExpressionId, Key, LoopHead, Pattern, Program, Statement, Variable,
};
use crate::source::Span;

/// Methods by which an element is furnished, and not put anywhere.
const FURNISHING: &[&str] = &[
    "add", "addEventListener", "append", "appendChild", "insertAdjacentHTML", "insertAdjacentText",
    "prepend", "removeAttribute", "replaceChildren", "setAttribute", "setProperty", "toggle",
    "toggleAttribute",
];
/// What gives an element something to show or to load.
const FILLING: &[&str] = &[
    "append", "appendChild", "href", "innerHTML", "innerText", "insertAdjacentHTML", "insertAdjacentText",
    "prepend", "replaceChildren", "src", "text", "textContent",
];
/// What of an element has such methods, too.
const PARTS: &[&str] = &["classList", "dataset", "style"];

/// What a script makes and never uses, and what it asks of the wrong thing.
#[derive(Debug, Default)]
pub(in crate::script) struct Idle {
    /// Calls that make elements which are furnished and never put anywhere.
    pub(in crate::script) made: FxHashSet<Span>,
    /// Members that are asked of the keys which a `for … in` goes over, by its variable.
    pub(in crate::script) keys: FxHashMap<Variable, ExpressionId>,
    /// Where each variable is read last that can be given something else: at all, and otherwise than to ask a member of it.
    last_reads: FxHashMap<Variable, (u32, u32)>,
}

impl Idle {
    /// Whether a variable that can be given something else is read behind a place: a member of it, or it as a whole.
    pub(in crate::script) fn is_read_behind(&self, variable: Variable, at: u32, is_whole: bool) -> bool {
        let last = self.last_reads.get(&variable);
        last.is_some_and(|(last, last_whole)| at < if is_whole { *last_whole } else { *last })
    }
}

impl Program {
    /// What it makes and never uses, and what it asks of the wrong thing.
    pub(in crate::script) fn idle(&self) -> &Idle {
        self.idle.get_or_init(|| Idle {
            made: self.never_put(),
            keys: self.asked_of_keys(),
            last_reads: self.last_reads(),
        })
    }

    fn last_reads(&self) -> FxHashMap<Variable, (u32, u32)> {
        let mut last: FxHashMap<Variable, (u32, u32)> = FxHashMap::default();
        for (_, statement) in &self.statements {
            let Statement::Variables(DeclarationKind::Let | DeclarationKind::Var, all) = statement else {
                continue;
            };
            let variables = all.iter().filter_map(|(pattern, _)| match self.pattern(*pattern) {
                Pattern::Local(variable) => Some((*variable, (0, 0))),
                _ => None,
            });
            last.extend(variables);
        }
        let asked = self.expressions.iter().filter_map(|(_, expression)| match expression {
            Expression::Member { object, .. } => Some(*object),
            _ => None,
        });
        let asked: FxHashSet<ExpressionId> = asked.collect();
        for (at, (span, expression)) in self.expressions.iter().enumerate() {
            if let Expression::Local(variable) = expression
                && let Some((known, whole)) = last.get_mut(variable)
            {
                *known = span.start.max(*known);
                if !asked.contains(&ExpressionId(at as u32)) {
                    *whole = span.start.max(*whole);
                }
            }
        }
        last
    }

    /// Calls of `createElement` of which the element goes nowhere.
    fn never_put(&self) -> FxHashSet<Span> {
        let mut made: FxHashMap<Variable, Span> = FxHashMap::default();
        for (_, statement) in &self.statements {
            let Statement::Variables(_, all) = statement else { continue };
            for (pattern, value) in all {
                if let (Pattern::Local(variable), Some(value)) = (self.pattern(*pattern), value)
                    && self.makes_element(*value)
                {
                    made.insert(*variable, self.span(*value));
                }
            }
        }
        let mut uses: FxHashMap<Variable, (u32, u32)> = FxHashMap::default();
        let mut filled: FxHashSet<Variable> = FxHashSet::default();
        let mut lost = FxHashSet::default();
        for (_, expression) in &self.expressions {
            match expression {
                Expression::Local(variable) => uses.entry(*variable).or_default().0 += 1,
                Expression::Assign { target, .. } => {
                    let Pattern::Member(member) = self.pattern(*target) else { continue };
                    let Expression::Member { object, key, .. } = self.expression(*member) else { continue };
                    let is_filled = matches!(key, Key::Name(name) if FILLING.contains(&&**name));
                    match self.furnished(*object) {
                        Some(variable) => {
                            uses.entry(variable).or_default().1 += 1;
                            filled.extend(is_filled.then_some(variable));
                        }
                        // `document.createElement("p").textContent = "Fog"`
                        None if is_filled && self.makes_element(*object) => {
                            lost.insert(self.span(*object));
                        }
                        None => {}
                    }
                }
                Expression::Call { callee, .. } => {
                    let Expression::Member { object, key: Key::Name(name), .. } = self.expression(*callee)
                    else {
                        continue;
                    };
                    if let Some(variable) = self.furnished(*object).filter(|_| FURNISHING.contains(&&**name))
                    {
                        uses.entry(variable).or_default().1 += 1;
                        filled.extend(FILLING.contains(&&**name).then_some(variable));
                    }
                }
                _ => {}
            }
        }
        let is_lost = |variable: &Variable| {
            filled.contains(variable) && uses.get(variable).is_some_and(|(all, own)| all == own)
        };
        lost.extend(made.into_iter().filter(|(variable, _)| is_lost(variable)).map(|(_, span)| span));
        lost
    }

    fn makes_element(&self, id: ExpressionId) -> bool {
        self.is_call_of(id, |name| name == "createElement")
    }

    /// Whether an expression looks up an element.
    pub(in crate::script) fn is_lookup(&self, id: ExpressionId) -> bool {
        self.is_call_of(id, |name| matches!(name, "getElementById" | "querySelector"))
    }

    /// Whether an expression calls a method by one of some names.
    pub(super) fn is_call_of(&self, id: ExpressionId, is_it: impl Fn(&str) -> bool) -> bool {
        let Expression::Call { callee, .. } = self.expression(id) else { return false };
        matches!(self.expression(*callee), Expression::Member { key: Key::Name(name), .. } if is_it(name))
    }

    /// The variable of an element of which this is the element or a part.
    fn furnished(&self, id: ExpressionId) -> Option<Variable> {
        match self.expression(id) {
            Expression::Local(variable) => Some(*variable),
            Expression::Member { object, key: Key::Name(name), .. } if PARTS.contains(&&**name) => {
                match self.expression(*object) {
                    Expression::Local(variable) => Some(*variable),
                    _ => None,
                }
            }
            _ => None,
        }
    }

    /// Members that are asked of the variable of a `for … in`.
    fn asked_of_keys(&self) -> FxHashMap<Variable, ExpressionId> {
        let mut keys = FxHashSet::default();
        for (_, statement) in &self.statements {
            if let Statement::ForIn { head: LoopHead::Declared(pattern), .. } = statement
                && let Pattern::Local(variable) = self.pattern(*pattern)
            {
                keys.insert(*variable);
            }
        }
        let mut found = FxHashMap::default();
        if keys.is_empty() {
            return found;
        }
        for (at, (_, expression)) in self.expressions.iter().enumerate() {
            if let Expression::Member { object, key: Key::Name(_), .. } = expression
                && let Expression::Local(variable) = self.expression(*object)
                && keys.contains(variable)
            {
                found.entry(*variable).or_insert(ExpressionId(at as u32));
            }
        }
        found
    }
}
