//! What becomes of the values in a program: asked alone, kept, given to others, changed.

use std::sync::Arc;

use oxc_syntax::operator::{AssignmentOperator, LogicalOperator};
use rustc_hash::{FxHashMap, FxHashSet};

use super::{
    ClassId, Expression, ExpressionId, FunctionId, Item, Key, Pattern, PatternId, Program, Statement,
    Variable,
};

/// What the global object is called.
pub(in crate::script) const WINDOWS: &[&str] = &["globalThis", "self", "window"];

/// Methods that change what is in a list.
pub(super) const CHANGERS: &[&str] =
    &["copyWithin", "fill", "pop", "push", "reverse", "shift", "sort", "splice", "unshift"];

/// The names that lead from a value to a member of a member of it.
pub(super) type Path = Vec<Arc<str>>;

/// What a script does to a global of others, or to a variable of its own.
#[derive(Clone, Debug, Default)]
pub(super) struct Handling {
    /// The members that it gives to others.
    pub(super) given: Vec<Path>,
    /// The members that it sets, each with the expression that is the target.
    pub(super) set: Vec<(Path, ExpressionId)>,
    /// The lists of which it changes what is in them.
    pub(super) lists: Vec<Path>,
    /// How often it is given another value as a whole.
    pub(super) times_set: usize,
}

/// What a variable is given.
#[derive(Clone, Copy, Debug)]
pub(super) enum Given {
    /// What an expression comes to.
    Value(ExpressionId),
    /// The same, added to what it is.
    Added(ExpressionId),
    Number,
    /// It is declared without a value.
    Nothing,
    Unknown,
}

/// What has a name: a variable, or a global.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub(super) enum Root {
    Local(Variable),
    Global(Arc<str>),
}

/// A member of what has a name.
pub(super) type Part = (Root, Arc<str>);

/// What a variable is declared as.
#[derive(Clone, Copy, Debug)]
pub(super) enum Made {
    Function(FunctionId),
    Class(ClassId),
}

/// What a script does to values by their names.
#[derive(Debug, Default)]
pub(super) struct Handlings {
    pub(super) globals: FxHashMap<Arc<str>, Handling>,
    pub(super) locals: FxHashMap<Variable, Handling>,
    /// The names of the members that are set of objects which nobody follows.
    pub(super) set_names: FxHashSet<Arc<str>>,
    /// Whether members may be set of which the name is not known, of such objects.
    pub(super) sets_any: bool,
    /// Whether globals may be set of which the name is not known.
    pub(super) sets_globals: bool,
    /// Whether lists may be changed that nobody follows.
    pub(super) changes_lists: bool,
    /// What each variable is given, and how often.
    pub(super) given_to: FxHashMap<Variable, Vec<Given>>,
    /// What each variable is declared with.
    pub(super) declared_with: FxHashMap<Variable, ExpressionId>,
    /// The variables that have what an expression comes to which something else is set to as well.
    pub(super) kept_by: FxHashMap<ExpressionId, Variable>,
    /// What each member is set to that is set as a whole.
    pub(super) set_to: FxHashMap<ExpressionId, ExpressionId>,
    /// The members that are made where they are set, each time.
    pub(super) own_parts: FxHashSet<Part>,
    /// What members are set to that are set once.
    pub(super) set_once: FxHashMap<Part, ExpressionId>,
    /// The variables of the top level.
    pub(super) tops: FxHashSet<Variable>,
    /// Texts that may be code.
    code: Vec<Arc<str>>,
    /// The parameters that are the global object.
    pub(super) windows: FxHashSet<Variable>,
    /// The functions and classes that are declared, each once.
    pub(super) made: FxHashMap<Variable, Made>,
}

impl Program {
    pub(super) fn handlings(&self) -> Handlings {
        let mut found = Handlings {
            tops: self.top.plain.iter().chain(&self.top.late).copied().collect(),
            ..Handlings::default()
        };
        self.note_declared(&mut found);
        self.note_made(&mut found);
        self.note_given(&mut found);
        self.note_own_parts(&mut found);
        self.note_sets(&mut found);
        found.code = self.texts_of_code().cloned().collect();
        let uses = self.uses(&found);
        for id in (0..self.expressions.len() as u32).map(ExpressionId) {
            match self.expression(id) {
                Expression::Local(variable) => {
                    self.follow(&uses, id, found.locals.entry(*variable).or_default());
                }
                Expression::Global(name) => {
                    self.follow(&uses, id, found.globals.entry(Arc::clone(name)).or_default());
                }
                Expression::Member { object, key: Key::Name(name), .. } if found.is_window(self, *object) => {
                    self.follow(&uses, id, found.globals.entry(Arc::clone(name)).or_default());
                }
                _ => {}
            }
        }
        found
    }

    /// The texts that may be code: `eval("fares.adult = 4")`.
    fn texts_of_code(&self) -> impl Iterator<Item = &Arc<str>> {
        let texts = self.expressions.iter().flat_map(|(_, expression)| match expression {
            Expression::Text(text) => std::slice::from_ref(text),
            Expression::Template { texts, .. } => texts,
            _ => &[],
        });
        texts.filter(|text| text.contains(['=', '(']))
    }

    /// Whether a name stands in a text that may be code.
    pub(in crate::script) fn is_in_code(&self, name: &str) -> bool {
        self.texts_of_code().any(|text| text.contains(name))
    }

    /// What variables are declared with, and the parameters that are the global object.
    fn note_declared(&self, found: &mut Handlings) {
        for (_, statement) in &self.statements {
            let Statement::Variables(_, all) = statement else { continue };
            for (pattern, value) in all {
                if let (Pattern::Local(variable), Some(value)) = (self.pattern(*pattern), value) {
                    let last = self.last_value(*value);
                    found.declared_with.insert(*variable, last);
                    if last != *value {
                        found.kept_by.insert(last, *variable);
                    }
                }
            }
        }
        for (_, expression) in &self.expressions {
            let Expression::Call { callee, arguments, .. } = expression else { continue };
            let Expression::Function(function) = self.expression(*callee) else { continue };
            let parameters = self.function(*function).parameters.iter();
            for (parameter, item) in parameters.zip(arguments) {
                let Item::Value(value) = item else { continue };
                let is_window =
                    found.is_window(self, *value) || matches!(self.expression(*value), Expression::This);
                if let (true, Pattern::Local(variable)) = (is_window, self.pattern(*parameter)) {
                    found.windows.insert(*variable);
                }
            }
        }
    }

    /// What variables and members are given as a whole.
    fn note_given(&self, found: &mut Handlings) {
        let mut by_pattern: FxHashMap<PatternId, Given> = FxHashMap::default();
        for (_, statement) in &self.statements {
            let Statement::Variables(_, all) = statement else { continue };
            by_pattern.extend(
                all.iter().map(|(pattern, value)| (*pattern, value.map_or(Given::Nothing, Given::Value))),
            );
        }
        for (_, expression) in &self.expressions {
            match expression {
                Expression::Assign { operator, target, value } => {
                    let given = match operator {
                        AssignmentOperator::Assign => Given::Value(*value),
                        AssignmentOperator::Addition => Given::Added(*value),
                        AssignmentOperator::LogicalAnd
                        | AssignmentOperator::LogicalOr
                        | AssignmentOperator::LogicalNullish => Given::Unknown,
                        _ => Given::Number,
                    };
                    // What is missing is made by the other two.
                    let is_made = matches!(given, Given::Value(_))
                        || matches!(
                            operator,
                            AssignmentOperator::LogicalOr | AssignmentOperator::LogicalNullish
                        );
                    if let (true, Pattern::Member(id)) = (is_made, self.pattern(*target)) {
                        found.set_to.insert(*id, *value);
                    }
                    by_pattern.insert(*target, given);
                }
                Expression::Update { target, .. } => drop(by_pattern.insert(*target, Given::Number)),
                _ => {}
            }
        }
        for (at, (_, pattern)) in self.patterns.iter().enumerate() {
            let given = by_pattern.get(&PatternId(at as u32)).copied().unwrap_or(Given::Unknown);
            match pattern {
                Pattern::Local(variable) => found.given_to.entry(*variable).or_default().push(given),
                Pattern::Global(name) => found.globals.entry(Arc::clone(name)).or_default().times_set += 1,
                _ => {}
            }
        }
    }

    /// The functions and classes that are declared by name.
    fn note_made(&self, found: &mut Handlings) {
        let inner = self.functions.iter().map(|function| &function.scope);
        let blocks = self.statements.iter().filter_map(|(_, statement)| match statement {
            Statement::Block(scope, _) => Some(scope),
            _ => None,
        });
        let functions =
            std::iter::once(&self.top).chain(inner).chain(blocks).flat_map(|scope| &scope.functions);
        let classes = self.statements.iter().filter_map(|(_, statement)| match statement {
            Statement::Class(variable, id) => Some((*variable, Made::Class(*id))),
            _ => None,
        });
        let all = functions.map(|own| (own.variable, Made::Function(own.function))).chain(classes);
        for (variable, made) in all {
            // Of several by one name the last is there.
            if found.made.insert(variable, made).is_some() {
                found.given_to.entry(variable).or_default().push(Given::Unknown);
            }
        }
    }

    /// The names of the members that are set of objects which are not followed.
    fn note_sets(&self, found: &mut Handlings) {
        for (_, pattern) in &self.patterns {
            let Pattern::Member(id) = pattern else { continue };
            match self.expression(*id) {
                Expression::Member { object, key: Key::Name(name), .. }
                    if !self.is_followed(*object, found) =>
                {
                    found.set_names.insert(Arc::clone(name));
                }
                Expression::Member { key: Key::Name(name), .. } => found.sets_any |= **name == *"__proto__",
                Expression::Member { object, .. } => match self.expression(*object) {
                    _ if found.is_window(self, *object) => found.sets_globals = true,
                    _ if self.is_followed(*object, found) || self.is_fresh(*object, found) => {}
                    // Of that member nobody tells what is in it.
                    Expression::Member { key: Key::Name(name), .. } => {
                        found.set_names.insert(Arc::clone(name));
                    }
                    _ => found.sets_any = true,
                },
                _ => found.sets_any = true,
            }
        }
        // Functions that set members of what they are given.
        const SETTERS: &[&str] = &[
            "assign", "defaults", "defineProperties", "defineProperty", "extend", "merge", "set",
            "setPrototypeOf",
        ];
        for (_, expression) in &self.expressions {
            let Expression::Call { callee, arguments, .. } = expression else { continue };
            let Expression::Member { object, key: Key::Name(name), .. } = self.expression(*callee) else {
                continue;
            };
            found.changes_lists |= CHANGERS.contains(&&**name) && !self.is_fresh(*object, found);
            let is_global = matches!(self.expression(*object), Expression::Global(_));
            if let (true, true, Some(Item::Value(first))) =
                (is_global, SETTERS.contains(&&**name), arguments.first())
            {
                found.sets_any |= !self.is_fresh(*first, found);
                found.sets_globals |= found.is_window(self, *first);
            }
        }
    }

    /// What a global is made as where it is not there, for one that is taken where it is: `App = window.App || {}`.
    pub(super) fn made_if_missing(
        &self,
        name: &str,
        value: ExpressionId,
        found: &Handlings,
    ) -> Option<ExpressionId> {
        let Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, right) =
            self.expression(value)
        else {
            return None;
        };
        let is_it = match self.expression(*left) {
            Expression::Global(own) => **own == *name,
            Expression::Local(variable) => **self.name(*variable) == *name,
            Expression::Member { object, key: Key::Name(own), .. } => {
                **own == *name && found.is_window(self, *object)
            }
            _ => false,
        };
        is_it.then_some(*right)
    }

    /// Whether what is done to an object is noted by the name that it has: it is a global, or what a variable was
    /// declared as.
    fn is_followed(&self, id: ExpressionId, found: &Handlings) -> bool {
        match self.expression(id) {
            Expression::Global(_) => true,
            Expression::Local(variable) => {
                let is_made = found.declared_with.get(variable).is_some_and(|value| {
                    let made = self.made_if_missing(self.name(*variable), *value, found).unwrap_or(*value);
                    matches!(
                        self.expression(made),
                        Expression::Object(_) | Expression::Function(_) | Expression::Class(_)
                    )
                });
                is_made || found.made.contains_key(variable) || found.windows.contains(variable)
            }
            Expression::Member { object, key: Key::Name(name), .. } => {
                let is_name = !matches!(self.expression(*object), Expression::Member { .. });
                let is_own_part =
                    || self.part_of(id, found).is_some_and(|part| found.own_parts.contains(&part));
                found.is_window(self, *object)
                    || **name == *"prototype" && is_name && self.is_followed(*object, found)
                    || self.is_followed(*object, found) && is_own_part()
            }
            _ => false,
        }
    }

    /// What an expression comes to that sets something to it: `a = b = {}`.
    pub(super) fn last_value(&self, id: ExpressionId) -> ExpressionId {
        let mut at = id;
        while let Expression::Assign { operator: AssignmentOperator::Assign, value, .. } = self.expression(at)
        {
            at = *value;
        }
        at
    }

    /// Whether what an expression comes to was made where it stands, or by the platform: no global is the same object.
    fn is_fresh(&self, id: ExpressionId, found: &Handlings) -> bool {
        /// So far it is followed.
        const LONGEST: usize = 20;
        const LOOKUPS: &[&str] = &["createElement", "getElementById", "querySelector"];
        let mut at = id;
        // A member of what a variable has may be reached by other names as well.
        let (mut is_kept, mut is_part) = (false, false);
        for _ in 0..LONGEST {
            at = match self.expression(at) {
                Expression::New { .. } => return true,
                Expression::Object(_) | Expression::Array(_) => return !is_part,
                // Those are followed by their names.
                Expression::Global(_) => return !is_kept,
                Expression::Member { object, .. } => {
                    is_part |= is_kept;
                    *object
                }
                Expression::Local(variable) => match found.declared_with.get(variable) {
                    Some(value) if !matches!(self.expression(*value), Expression::Local(_)) => {
                        is_kept = true;
                        *value
                    }
                    _ => return false,
                },
                Expression::Call { callee, .. } => {
                    let Expression::Member { object, key: Key::Name(name), .. } = self.expression(*callee)
                    else {
                        return false;
                    };
                    let of = match self.expression(*object) {
                        Expression::Global(of) => &**of,
                        _ => "",
                    };
                    return LOOKUPS.contains(&&**name) || matches!(of, "document" | "Object");
                }
                _ => return false,
            };
        }
        false
    }
}

impl Handlings {
    /// What is asked of them once the script's own variables are looked through.
    pub(super) fn of_globals(self) -> Handlings {
        Handlings {
            globals: self.globals,
            set_names: self.set_names,
            sets_any: self.sets_any,
            sets_globals: self.sets_globals,
            changes_lists: self.changes_lists,
            code: self.code,
            ..Handlings::default()
        }
    }

    /// Whether a name stands in a text that may be code.
    pub(super) fn is_in_code(&self, name: &str) -> bool {
        self.code.iter().any(|text| text.contains(name))
    }

    /// Whether an expression is the global object by one of its names.
    pub(super) fn is_window(&self, program: &Program, id: ExpressionId) -> bool {
        match program.expression(id) {
            Expression::Global(name) => WINDOWS.contains(&&**name),
            Expression::Local(variable) => self.windows.contains(variable),
            _ => false,
        }
    }
}
