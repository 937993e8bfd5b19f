//! The parser's tree into a program: what is bound and assigned to.

use std::sync::Arc;

use oxc_ast::ast::{
    AssignmentTarget, AssignmentTargetMaybeDefault, AssignmentTargetProperty, BindingPattern,
    IdentifierReference,
};

use super::lowering::{Lowering, span_of};
use super::{Key, Pattern, PatternId, Variable};

impl<'a> Lowering<'_, 'a> {
    /// The variable of the script that a name means; none for a global.
    pub(super) fn variable(&self, name: &IdentifierReference<'a>) -> Option<Variable> {
        let reference = self.semantic.scoping().get_reference(name.reference_id.get()?);
        reference.symbol_id().map(|symbol| Variable(symbol.index() as u32))
    }

    /// Notes for the loops around that a variable is set in them.
    fn note(&mut self, variable: Variable) {
        if let Some(innermost) = self.assigned.last_mut() {
            innermost.push(variable);
        }
    }

    pub(super) fn binding(&mut self, pattern: &BindingPattern<'a>) -> PatternId {
        let span = span_of(pattern);
        let out = match pattern {
            BindingPattern::BindingIdentifier(own) => match own.symbol_id.get() {
                Some(symbol) => {
                    let variable = Variable(symbol.index() as u32);
                    self.note(variable);
                    Pattern::Local(variable)
                }
                None => Pattern::Global(Arc::from(own.name.as_str())),
            },
            BindingPattern::ArrayPattern(own) => {
                let mut items = Vec::with_capacity(own.elements.len());
                for element in &own.elements {
                    items.push(element.as_ref().map(|element| self.binding(element)));
                }
                let rest = own.rest.as_ref().map(|rest| self.binding(&rest.argument));
                Pattern::Array { items: items.into(), rest }
            }
            BindingPattern::ObjectPattern(own) => {
                let mut parts = Vec::with_capacity(own.properties.len());
                for property in &own.properties {
                    let key = self.key(&property.key);
                    parts.push((key, self.binding(&property.value)));
                }
                let rest = own.rest.as_ref().map(|rest| self.binding(&rest.argument));
                Pattern::Object { parts: parts.into(), rest }
            }
            BindingPattern::AssignmentPattern(own) => {
                let left = self.binding(&own.left);
                Pattern::Default(left, self.expression(&own.right))
            }
        };
        self.put_pattern(span, out)
    }

    pub(super) fn name_target(&mut self, name: &IdentifierReference<'a>) -> PatternId {
        let pattern = match self.variable(name) {
            Some(variable) => {
                self.note(variable);
                Pattern::Local(variable)
            }
            None => Pattern::Global(Arc::from(name.name.as_str())),
        };
        self.put_pattern(span_of(name), pattern)
    }

    pub(super) fn target(&mut self, target: &AssignmentTarget<'a>) -> PatternId {
        let span = span_of(target);
        match target {
            AssignmentTarget::ArrayAssignmentTarget(own) => {
                let mut items = Vec::with_capacity(own.elements.len());
                for element in &own.elements {
                    items.push(element.as_ref().map(|element| self.target_or_default(element)));
                }
                let rest = own.rest.as_ref().map(|rest| self.target(&rest.target));
                self.put_pattern(span, Pattern::Array { items: items.into(), rest })
            }
            AssignmentTarget::ObjectAssignmentTarget(own) => {
                let mut parts = Vec::with_capacity(own.properties.len());
                for property in &own.properties {
                    parts.push(match property {
                        AssignmentTargetProperty::AssignmentTargetPropertyIdentifier(own) => {
                            let mut pattern = self.name_target(&own.binding);
                            if let Some(value) = &own.init {
                                let value = self.expression(value);
                                pattern = self.put_pattern(span_of(&**own), Pattern::Default(pattern, value));
                            }
                            (Key::Name(Arc::from(own.binding.name.as_str())), pattern)
                        }
                        AssignmentTargetProperty::AssignmentTargetPropertyProperty(own) => {
                            let key = self.key(&own.name);
                            (key, self.target_or_default(&own.binding))
                        }
                    });
                }
                let rest = own.rest.as_ref().map(|rest| self.target(&rest.target));
                self.put_pattern(span, Pattern::Object { parts: parts.into(), rest })
            }
            other => match other.as_simple_assignment_target() {
                Some(simple) => self.simple_target(simple),
                None => {
                    let nothing = self.put(span, super::Expression::Opaque(Box::new([])));
                    self.put_pattern(span, Pattern::Member(nothing))
                }
            },
        }
    }

    fn target_or_default(&mut self, target: &AssignmentTargetMaybeDefault<'a>) -> PatternId {
        match target {
            AssignmentTargetMaybeDefault::AssignmentTargetWithDefault(own) => {
                let inner = self.target(&own.binding);
                let value = self.expression(&own.init);
                self.put_pattern(span_of(&**own), Pattern::Default(inner, value))
            }
            other => match other.as_assignment_target() {
                Some(target) => self.target(target),
                None => {
                    let span = span_of(other);
                    let nothing = self.put(span, super::Expression::Opaque(Box::new([])));
                    self.put_pattern(span, Pattern::Member(nothing))
                }
            },
        }
    }
}
