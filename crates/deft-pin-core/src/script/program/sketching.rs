//! The globals of a script, by their declarations.

use std::cell::{Cell, RefCell};
use std::sync::Arc;

use rustc_hash::{FxHashMap, FxHashSet};

use super::handled::{Given, Handlings, Made, Root};
use super::sketch::Sketch;
use super::sketches::Sketches;
use super::{
    ClassId, Expression, ExpressionId, FunctionBody, FunctionId, FunctionKind, Item, Key, Pattern, Program,
    Statement, StatementId, Variable,
};

/// So deep a sketch goes.
pub(super) const DEEPEST: u32 = 10;
/// So many expressions of a script are looked at.
const MOST: u32 = 20_000;

impl Program {
    /// What its globals are.
    pub(in crate::script) fn sketches(&self) -> &Sketches {
        self.sketches.get_or_init(|| {
            let mut sketcher = Sketcher {
                program: self,
                handlings: self.handlings(),
                certain: FxHashSet::default(),
                known: RefCell::default(),
                classes: RefCell::default(),
                once: self.top.plain.iter().chain(&self.top.late).copied().collect(),
                left: Cell::new(MOST),
            };
            let mut set = Vec::new();
            sketcher.look_through(&self.body, &mut set, 0);
            let (declared, shared) = sketcher.declared(set);
            let once: Vec<Variable> = sketcher.once.iter().copied().collect();
            let variables = once.into_iter().map(|own| (own, sketcher.variable(own, 0))).collect();
            let classes = sketcher.classes.take();
            let of_literals = sketcher.of_literals();
            let at_first = self.without_value_at_first(&sketcher.handlings);
            Sketches {
                number: self.number,
                of_literals,
                declared,
                at_first,
                shared,
                handlings: sketcher.handlings.of_globals(),
                variables,
                classes,
            }
        })
    }
}

pub(super) struct Sketcher<'p> {
    pub(super) program: &'p Program,
    pub(super) handlings: Handlings,
    /// The members that are set whatever comes.
    certain: FxHashSet<ExpressionId>,
    /// What variables have been found to be; unknown while that is being found.
    known: RefCell<FxHashMap<Variable, Sketch>>,
    /// The classes that were looked at.
    pub(super) classes: RefCell<FxHashMap<ClassId, Sketch>>,
    /// The variables of which there is one: those of the top level, and of functions that are called there at once.
    once: FxHashSet<Variable>,
    /// How much more is looked at.
    left: Cell<u32>,
}

impl Sketcher<'_> {
    /// What the script gives the page at its top level, whatever comes.
    fn declared(
        &self,
        set: Vec<(Arc<str>, ExpressionId)>,
    ) -> (FxHashMap<Arc<str>, Sketch>, FxHashSet<Arc<str>>) {
        let mut found = FxHashMap::default();
        let mut shared = FxHashSet::default();
        let at_top = self.declared_at_top();
        let top = &self.program.top;
        let own = top.plain.iter().chain(&top.late).chain(top.functions.iter().map(|own| &own.variable));
        for variable in own {
            let name = self.program.name(*variable);
            let with = self.handlings.declared_with.get(variable);
            if with.is_some_and(|with| self.is_shared(name, *with)) {
                shared.insert(Arc::clone(name));
            }
            let sketch = self.variable(*variable, 0);
            let given = self.handlings.given_to.get(variable).map_or(0, Vec::len);
            let sketch = match with {
                Some(with) if given == 1 && at_top.contains(variable) => self.looked_up(*with, sketch),
                _ => sketch,
            };
            // What is done to it as a member of `window`.
            let sketch = match self.handlings.globals.get(name) {
                Some(handling) if handling.times_set > 0 => Sketch::Unknown,
                Some(handling) => sketch.handled(handling, |target| self.set_to(target, 0)),
                None => sketch,
            };
            let sketch = self.with_looked_up(name, sketch);
            found.insert(Arc::clone(name), sketch);
        }
        for (name, value) in set {
            let handling = self.handlings.globals.get(&name);
            let is_once = handling.is_some_and(|handling| handling.times_set == 1);
            if self.is_shared(&name, value) {
                shared.insert(Arc::clone(&name));
            }
            let sketch = match handling {
                Some(handling) if is_once => {
                    let kept = self.looked_up(value, self.kept(&name, value));
                    let sketch = kept.handled(handling, |target| self.set_to(target, 0));
                    self.with_looked_up(&name, sketch)
                }
                _ => Sketch::Unknown,
            };
            // It is told by one way alone.
            found.entry(name).and_modify(|known| *known = Sketch::Unknown).or_insert(sketch);
        }
        (found, shared)
    }

    /// The variables that are declared by statements which stand in nothing else.
    fn declared_at_top(&self) -> FxHashSet<Variable> {
        let statements = self.program.body.iter().map(|statement| self.program.statement(*statement));
        let declared = statements.filter_map(|statement| match statement {
            Statement::Variables(_, all) => Some(all.iter()),
            _ => None,
        });
        let variables = declared.flatten().filter_map(|(pattern, _)| match self.program.pattern(*pattern) {
            Pattern::Local(own) => Some(*own),
            _ => None,
        });
        variables.collect()
    }

    /// A global with the elements that its members are set to, once and at the top level.
    fn with_looked_up(&self, global: &Arc<str>, sketch: Sketch) -> Sketch {
        let Sketch::Object(mut members, of) = sketch else { return sketch };
        for (name, member) in &mut members {
            if !matches!(member, Sketch::OfPlatform { is_called: true, .. }) {
                continue;
            }
            let part = (Root::Global(Arc::clone(global)), Arc::clone(name));
            if let Some(value) = self.handlings.set_once.get(&part) {
                *member = self.looked_up(*value, std::mem::replace(member, Sketch::Unknown));
            }
        }
        Sketch::Object(members, of)
    }

    /// What an expression comes to that is worked out once, where it looks up an element of the document.
    fn looked_up(&self, id: ExpressionId, sketch: Sketch) -> Sketch {
        let Expression::Call { callee, arguments, .. } = self.program.expression(id) else { return sketch };
        let (Expression::Member { object, key: Key::Name(method), .. }, [Item::Value(given)]) =
            (self.program.expression(*callee), &arguments[..])
        else {
            return sketch;
        };
        let of_document =
            matches!(self.program.expression(*object), Expression::Global(of) if **of == *"document");
        let is_lookup = matches!(&**method, "getElementById" | "querySelector");
        match self.program.expression(*given) {
            Expression::Text(given) if of_document && is_lookup => {
                Sketch::Element { method: Arc::clone(method), given: Arc::clone(given), until: None }
            }
            _ => sketch,
        }
    }

    /// What an expression comes to that a variable may be set to as well: `const ui = window.ui = {}`.
    fn kept(&self, name: &str, value: ExpressionId) -> Sketch {
        match self.handlings.kept_by.get(&value) {
            Some(variable) => self.variable(*variable, 0),
            None => self.made_as(name, value, 0),
        }
    }

    /// Whether a global is taken where it is there, and made where it is not.
    fn is_shared(&self, name: &str, value: ExpressionId) -> bool {
        self.program.made_if_missing(name, value, &self.handlings).is_some()
    }

    /// What a global is that is set to an expression: what is there already is the same, where all scripts do so.
    fn made_as(&self, name: &str, value: ExpressionId, depth: u32) -> Sketch {
        let value = self.program.last_value(value);
        let made = self.program.made_if_missing(name, value, &self.handlings);
        self.expression(made.unwrap_or(value), depth)
    }

    /// The statements at the top level, and those of functions that are called there at once: the members of `window`
    /// that they set, and of what others.
    fn look_through(
        &mut self,
        statements: &[StatementId],
        found: &mut Vec<(Arc<str>, ExpressionId)>,
        depth: u32,
    ) {
        let program = self.program;
        for statement in statements {
            match program.statement(*statement) {
                Statement::Expression(id) | Statement::Return(Some(id)) => self.look_at(*id, found, depth),
                Statement::Variables(_, all) => {
                    all.iter()
                        .filter_map(|(_, value)| *value)
                        .for_each(|value| self.look_at(value, found, depth));
                }
                _ => {}
            }
            if matches!(program.statement(*statement), Statement::Return(_)) {
                return;
            }
        }
    }

    fn look_at(&mut self, id: ExpressionId, found: &mut Vec<(Arc<str>, ExpressionId)>, depth: u32) {
        let program = self.program;
        match program.expression(id) {
            Expression::Assign { target, value, .. } => {
                match program.pattern(*target) {
                    Pattern::Global(name) => found.push((Arc::clone(name), *value)),
                    Pattern::Member(member) => {
                        self.certain.insert(*member);
                        if let Expression::Member { object, key: Key::Name(name), .. } =
                            program.expression(*member)
                            && self.handlings.is_window(program, *object)
                        {
                            found.push((Arc::clone(name), *value));
                        }
                    }
                    _ => {}
                }
                self.look_at(*value, found, depth);
            }
            Expression::Unary(_, inner) | Expression::Chain(inner) => self.look_at(*inner, found, depth),
            Expression::Sequence(all) => all.iter().for_each(|inner| self.look_at(*inner, found, depth)),
            Expression::Call { callee, .. } if depth < DEEPEST => {
                let Some(function) = self.called_at_once(*callee).map(|id| program.function(id)) else {
                    return;
                };
                if let (FunctionKind::Plain, FunctionBody::Statements(own)) = (function.kind, &function.body)
                {
                    self.once.extend(function.scope.plain.iter().chain(&function.scope.late));
                    self.look_through(own, found, depth + 1);
                }
            }
            _ => {}
        }
    }

    /// The function that is called where it stands: `(function () { … })()`, `(function () { … }).call(this)`.
    pub(super) fn called_at_once(&self, callee: ExpressionId) -> Option<FunctionId> {
        match self.program.expression(callee) {
            Expression::Function(id) => Some(*id),
            Expression::Member { object, key: Key::Name(name), .. } if **name == *"call" => {
                match self.program.expression(*object) {
                    Expression::Function(id) => Some(*id),
                    _ => None,
                }
            }
            _ => None,
        }
    }

    /// What a member is set to, and whether it is whatever comes.
    fn set_to(&self, target: ExpressionId, depth: u32) -> (Sketch, bool) {
        let value = self.handlings.set_to.get(&target);
        let value = value.map(|value| self.program.first_value(target, *value));
        let value = value.map_or(Sketch::Unknown, |value| self.expression(value, depth + 1));
        (value, self.certain.contains(&target))
    }

    /// What a variable is.
    pub(super) fn variable(&self, variable: Variable, depth: u32) -> Sketch {
        let known = self.known.borrow().get(&variable).cloned();
        if let Some(known) = known {
            return if self.charge(known.size()) { known } else { Sketch::Unknown };
        }
        if depth > DEEPEST {
            return Sketch::Unknown;
        }
        self.known.borrow_mut().insert(variable, Sketch::Same(variable.0));
        let given = self.handlings.given_to.get(&variable).map_or(&[][..], Vec::as_slice);
        let sketch = match (self.handlings.made.get(&variable), self.handlings.declared_with.get(&variable)) {
            (Some(Made::Function(id)), None) if given.is_empty() => self.function(*id, depth),
            (Some(Made::Class(id)), None) if given.is_empty() => self.class(*id, depth),
            (None, Some(_)) => self.given(self.program.name(variable), given, depth),
            // It is declared, and nothing of the script ever gives it a value.
            (None, None) if !given.is_empty() && given.iter().all(|own| matches!(own, Given::Nothing)) => {
                Sketch::Nothing
            }
            _ => Sketch::Unknown,
        };
        let sketch = match self.handlings.locals.get(&variable) {
            Some(handling) => sketch.handled(handling, |target| self.set_to(target, depth)),
            None => sketch,
        };
        let sketch = match sketch {
            Sketch::Object(members, of) => {
                let own = || self.once.contains(&variable).then_some(variable.0);
                Sketch::Object(members, of.or_else(own))
            }
            other => other,
        };
        self.known.borrow_mut().insert(variable, sketch.clone());
        sketch
    }

    /// Whether so much more may be looked at.
    pub(super) fn charge(&self, count: u32) -> bool {
        let left = self.left.get().saturating_sub(count);
        self.left.set(left);
        left > 0
    }

    /// What a variable is that is given some values.
    fn given(&self, name: &str, given: &[Given], depth: u32) -> Sketch {
        let of = |given: &Given| match given {
            Given::Value(id) => self.made_as(name, *id, depth + 1),
            Given::Added(id) => match self.expression(*id, depth + 1).without_value() {
                own @ Sketch::Primitive("String" | "Number") => own,
                _ => Sketch::Unknown,
            },
            Given::Number => Sketch::NUMBER,
            Given::Nothing | Given::Unknown => Sketch::Unknown,
        };
        let mut all = given.iter().map(of);
        let first = all.next().unwrap_or(Sketch::Unknown);
        all.fold(first, Sketch::or)
    }
}
