//! Members that a script makes itself, of what has a name: what is done to these is followed by their names.

use std::sync::Arc;

use oxc_syntax::operator::LogicalOperator;
use rustc_hash::FxHashMap;

use super::handled::{Handlings, Part, Root};
use super::{Expression, ExpressionId, Key, ObjectPart, Pattern, Program, Variable};

impl Program {
    /// The members of what has a name that are made where they are set, each time: what is done to them is followed.
    pub(super) fn note_own_parts(&self, found: &mut Handlings) {
        // How often each is set, to what at last, and whether that is its own each time.
        let mut parts: FxHashMap<Part, (u32, Option<ExpressionId>, bool)> = FxHashMap::default();
        let mut note = |part: Part, value: Option<ExpressionId>| {
            let known = parts.entry(part).or_insert((0, None, true));
            let is_own = value.is_some_and(|value| self.is_own_value(value));
            *known = (known.0 + 1, value, known.2 && is_own);
        };
        let mut of_literal = |root: &Root, value: ExpressionId| {
            let Expression::Object(all) = self.expression(value) else { return };
            for part in all {
                if let ObjectPart::Value(Key::Name(name), value) = part {
                    note((root.clone(), Arc::clone(name)), Some(*value));
                }
            }
        };
        for (variable, value) in &found.declared_with {
            let made = self.made_if_missing(self.name(*variable), *value, found).unwrap_or(*value);
            of_literal(&self.root_of_variable(*variable, found), made);
        }
        for (target, value) in &found.set_to {
            if let Some(Root::Global(name)) = self.root_of(*target, found) {
                let made = self.made_if_missing(&name, *value, found).unwrap_or(*value);
                of_literal(&Root::Global(name), made);
            }
        }
        for (_, pattern) in &self.patterns {
            let Pattern::Member(id) = pattern else { continue };
            let Some(part) = self.part_of(*id, found) else { continue };
            note(part, found.set_to.get(id).map(|value| self.first_value(*id, *value)));
        }
        for (part, (count, value, is_own)) in parts {
            if let (1, Some(value)) = (count, value) {
                found.set_once.insert(part.clone(), value);
            }
            if is_own {
                found.own_parts.insert(part);
            }
        }
    }

    /// What a variable is called by: one of the top level may be called as a global as well.
    pub(super) fn root_of_variable(&self, variable: Variable, found: &Handlings) -> Root {
        match found.tops.contains(&variable) {
            true => Root::Global(Arc::clone(self.name(variable))),
            false => Root::Local(variable),
        }
    }

    /// What a member is set to the first time: `ui.fares = ui.fares || {}`.
    pub(super) fn first_value(&self, target: ExpressionId, value: ExpressionId) -> ExpressionId {
        match self.expression(value) {
            Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, right)
                if self.is_same_place(*left, target) =>
            {
                *right
            }
            _ => value,
        }
    }

    /// Whether two expressions name the same member of the same variable.
    fn is_same_place(&self, mut one: ExpressionId, mut other: ExpressionId) -> bool {
        /// So many names lead there at most.
        const LONGEST: usize = 20;
        for _ in 0..LONGEST {
            (one, other) = match (self.expression(one), self.expression(other)) {
                (Expression::Local(one), Expression::Local(other)) => return one == other,
                (Expression::Global(one), Expression::Global(other)) => return one == other,
                (
                    Expression::Member { object: one, key: Key::Name(name), .. },
                    Expression::Member { object: other, key: Key::Name(same), .. },
                ) if name == same => (*one, *other),
                _ => return false,
            };
        }
        false
    }

    fn is_own_value(&self, id: ExpressionId) -> bool {
        matches!(self.expression(id), Expression::Object(_) | Expression::Function(_) | Expression::Class(_))
    }

    /// The variable or the global that an expression names.
    fn root_of(&self, id: ExpressionId, found: &Handlings) -> Option<Root> {
        match self.expression(id) {
            Expression::Local(variable) => Some(self.root_of_variable(*variable, found)),
            Expression::Global(name) => Some(Root::Global(Arc::clone(name))),
            Expression::Member { object, key: Key::Name(name), .. } if found.is_window(self, *object) => {
                Some(Root::Global(Arc::clone(name)))
            }
            _ => None,
        }
    }

    pub(super) fn part_of(&self, id: ExpressionId, found: &Handlings) -> Option<Part> {
        let Expression::Member { object, key: Key::Name(name), .. } = self.expression(id) else {
            return None;
        };
        Some((self.root_of(*object, found)?, Arc::clone(name)))
    }
}
