//! The globals of a script, by their declarations.

use std::cell::{Cell, RefCell};
use std::sync::Arc;

use oxc_syntax::operator::{BinaryOperator, LogicalOperator, UnaryOperator};
use rustc_hash::{FxHashMap, FxHashSet};

use super::handled::{Given, Handlings, Made};
use super::sketch::{Sketch, SketchedMembers, Sketches};
use super::{
    ClassId, Expression, ExpressionId, Function, FunctionBody, FunctionId, FunctionKind, Item, Key,
    MemberKind, ObjectPart, Pattern, PatternId, Program, Statement, StatementId, Variable,
};

/// So deep a sketch goes.
const DEEPEST: u32 = 10;
/// So many expressions of a script are looked at.
const MOST: u32 = 20_000;
/// Of longer lists nobody tells what is in them.
const MOST_ITEMS: usize = 60;

/// What methods come to that have one meaning everywhere.
const TEXTS: &[&str] = &[
    "charAt", "padEnd", "padStart", "repeat", "stringify", "substring", "toDateString", "toFixed",
    "toISOString", "toLocaleDateString", "toLocaleString", "toLocaleTimeString", "toLowerCase",
    "toUpperCase", "trim", "trimEnd", "trimStart",
];
const NUMBERS: &[&str] = &[
    "charCodeAt", "getDate", "getDay", "getFullYear", "getHours", "getMinutes", "getMonth", "getSeconds",
    "getTime",
];
const BOOLEANS: &[&str] = &["endsWith", "hasAttribute", "isArray", "matches", "startsWith"];
/// What the document, its address and the browser tell in texts.
const TEXT_MEMBERS: &[&str] = &[
    "cookie", "hash", "host", "hostname", "href", "lang", "language", "origin", "pathname", "protocol",
    "referrer", "search", "title", "userAgent",
];
/// Functions of the language.
const FUNCTIONS: &[(&str, Sketch)] = &[
    ("Boolean", Sketch::BOOLEAN),
    ("Number", Sketch::NUMBER),
    ("String", Sketch::TEXT),
    ("decodeURIComponent", Sketch::TEXT),
    ("encodeURIComponent", Sketch::TEXT),
    ("isFinite", Sketch::BOOLEAN),
    ("isNaN", Sketch::BOOLEAN),
    ("parseFloat", Sketch::NUMBER),
    ("parseInt", Sketch::NUMBER),
];
/// Constructors whose objects are known by what they have.
const CONSTRUCTORS: &[&str] = &[
    "AbortController", "Audio", "BroadcastChannel", "Date", "FileReader", "FormData", "Headers", "Image",
    "IntersectionObserver", "Map", "MutationObserver", "ResizeObserver", "Set", "URL", "URLSearchParams",
    "WeakMap", "WeakSet", "XMLHttpRequest",
];

impl Program {
    /// What its globals are.
    pub(in crate::script) fn sketches(&self) -> &Sketches {
        self.sketches.get_or_init(|| {
            let mut sketcher = Sketcher {
                program: self,
                handlings: self.handlings(),
                certain: FxHashSet::default(),
                known: RefCell::default(),
                left: Cell::new(MOST),
            };
            let mut set = Vec::new();
            sketcher.look_through(&self.body, &mut set, 0);
            let (declared, shared) = sketcher.declared(set);
            Sketches { declared, shared, handlings: sketcher.handlings }
        })
    }
}

struct Sketcher<'p> {
    program: &'p Program,
    handlings: Handlings,
    /// The members that are set whatever comes.
    certain: FxHashSet<ExpressionId>,
    /// What variables have been found to be; unknown while that is being found.
    known: RefCell<FxHashMap<Variable, Sketch>>,
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
        let top = &self.program.top;
        let own = top.plain.iter().chain(&top.late).chain(top.functions.iter().map(|own| &own.variable));
        for variable in own {
            let name = self.program.name(*variable);
            let with = self.handlings.declared_with.get(variable);
            if with.is_some_and(|with| self.is_shared(name, *with)) {
                shared.insert(Arc::clone(name));
            }
            let sketch = self.variable(*variable, 0);
            // What is done to it as a member of `window`.
            let sketch = match self.handlings.globals.get(name) {
                Some(handling) if handling.times_set > 0 => Sketch::Unknown,
                Some(handling) => sketch.handled(handling, |target| self.set_to(target, 0)),
                None => sketch,
            };
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
                    self.expression(value, 0).handled(handling, |target| self.set_to(target, 0))
                }
                _ => Sketch::Unknown,
            };
            // It is told by one way alone.
            found.entry(name).and_modify(|known| *known = Sketch::Unknown).or_insert(sketch);
        }
        (found, shared)
    }

    /// Whether a global is taken where it is there, and made where it is not: `App = window.App || {}`.
    fn is_shared(&self, name: &str, value: ExpressionId) -> bool {
        let Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, _) =
            self.program.expression(value)
        else {
            return false;
        };
        match self.program.expression(*left) {
            Expression::Global(own) => **own == *name,
            Expression::Local(variable) => **self.program.name(*variable) == *name,
            Expression::Member { object, key: Key::Name(own), .. } => {
                **own == *name && self.handlings.is_window(self.program, *object)
            }
            _ => false,
        }
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
                    self.look_through(own, found, depth + 1);
                }
            }
            _ => {}
        }
    }

    /// The function that is called where it stands: `(function () { … })()`, `(function () { … }).call(this)`.
    fn called_at_once(&self, callee: ExpressionId) -> Option<FunctionId> {
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
        let value = value.map_or(Sketch::Unknown, |value| self.expression(*value, depth + 1));
        (value, self.certain.contains(&target))
    }

    /// What a variable is.
    fn variable(&self, variable: Variable, depth: u32) -> Sketch {
        let known = self.known.borrow().get(&variable).cloned();
        if let Some(known) = known {
            return if self.charge(known.size()) { known } else { Sketch::Unknown };
        }
        if depth > DEEPEST {
            return Sketch::Unknown;
        }
        self.known.borrow_mut().insert(variable, Sketch::Unknown);
        let given = self.handlings.given_to.get(&variable).map_or(&[][..], Vec::as_slice);
        let sketch = match (self.handlings.made.get(&variable), self.handlings.declared_with.get(&variable)) {
            (Some(Made::Function(id)), None) if given.is_empty() => self.function(*id, depth),
            (Some(Made::Class(id)), None) if given.is_empty() => self.class(*id, depth),
            (None, Some(_)) => self.given(given, depth),
            _ => Sketch::Unknown,
        };
        let sketch = match self.handlings.locals.get(&variable) {
            Some(handling) => sketch.handled(handling, |target| self.set_to(target, depth)),
            None => sketch,
        };
        self.known.borrow_mut().insert(variable, sketch.clone());
        sketch
    }

    /// Whether so much more may be looked at.
    fn charge(&self, count: u32) -> bool {
        let left = self.left.get().saturating_sub(count);
        self.left.set(left);
        left > 0
    }

    /// What a variable is that is given some values.
    fn given(&self, given: &[Given], depth: u32) -> Sketch {
        let of = |given: &Given| match given {
            Given::Value(id) => self.expression(*id, depth + 1),
            Given::Added(id) => match self.expression(*id, depth + 1) {
                own @ Sketch::Primitive("String" | "Number") => own,
                _ => Sketch::Unknown,
            },
            Given::Number => Sketch::NUMBER,
            Given::Unknown => Sketch::Unknown,
        };
        let mut all = given.iter().map(of);
        let first = all.next().unwrap_or(Sketch::Unknown);
        all.fold(first, Sketch::or)
    }

    fn expression(&self, id: ExpressionId, depth: u32) -> Sketch {
        if depth > DEEPEST || !self.charge(1) {
            return Sketch::Unknown;
        }
        let inner = |id: &ExpressionId| self.expression(*id, depth + 1);
        match self.program.expression(id) {
            Expression::Boolean(_) => Sketch::BOOLEAN,
            Expression::Number(_) => Sketch::NUMBER,
            Expression::Text(_) | Expression::Template { .. } => Sketch::TEXT,
            Expression::Local(variable) => self.variable(*variable, depth + 1),
            Expression::Global(_) => self.of_platform(id).unwrap_or(Sketch::Unknown),
            Expression::Object(parts) => self.object(parts, depth),
            Expression::Array(items) => self.list(items, depth),
            Expression::Function(id) => self.function(*id, depth),
            Expression::Class(id) => self.class(*id, depth),
            Expression::Unary(operator, value) => match operator {
                UnaryOperator::LogicalNot | UnaryOperator::Delete => Sketch::BOOLEAN,
                UnaryOperator::Typeof => Sketch::TEXT,
                UnaryOperator::UnaryPlus => Sketch::NUMBER,
                UnaryOperator::UnaryNegation if inner(value) == Sketch::NUMBER => Sketch::NUMBER,
                _ => Sketch::Unknown,
            },
            Expression::Binary(operator, left, right) => binary(*operator, inner(left), inner(right)),
            // What is there already is the same, where all of them do so.
            Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, right)
                if self.name_of(*left).is_some_and(|name| self.is_shared(&name, id)) =>
            {
                inner(right)
            }
            // What is stored, or a text.
            Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, right)
                if self.may_be_text(*left) && inner(right) == Sketch::TEXT =>
            {
                Sketch::TEXT
            }
            Expression::Logical(_, left, right) => inner(left).or(inner(right)),
            Expression::Conditional(_, one, other) => inner(one).or(inner(other)),
            Expression::Sequence(all) => all.last().map_or(Sketch::Unknown, inner),
            Expression::Assign { value, .. } => inner(value),
            Expression::Chain(own) => inner(own),
            Expression::Member { object, key: Key::Name(name), .. } => self.member(id, *object, name, depth),
            Expression::Call { callee, arguments, .. } => self.call(*callee, arguments, depth),
            Expression::New { callee, .. } => self.made_new(*callee, depth),
            _ => Sketch::Unknown,
        }
    }

    /// Whether an expression comes to a text or to nothing: what is stored, an attribute.
    fn may_be_text(&self, id: ExpressionId) -> bool {
        let Expression::Call { callee, .. } = self.program.expression(id) else { return false };
        matches!(
            self.program.expression(*callee),
            Expression::Member { key: Key::Name(name), .. } if matches!(&**name, "getAttribute" | "getItem")
        )
    }

    /// The name of a global that an expression reads.
    fn name_of(&self, id: ExpressionId) -> Option<Arc<str>> {
        match self.program.expression(id) {
            Expression::Global(name) => Some(Arc::clone(name)),
            Expression::Local(variable) => Some(Arc::clone(self.program.name(*variable))),
            Expression::Member { key: Key::Name(name), .. } => Some(Arc::clone(name)),
            _ => None,
        }
    }

    /// The names that lead to a member of a global.
    fn path_of(&self, id: ExpressionId) -> Option<Vec<Arc<str>>> {
        let mut path = Vec::new();
        let mut at = id;
        loop {
            match self.program.expression(at) {
                Expression::Global(name) => {
                    path.push(Arc::clone(name));
                    path.reverse();
                    return Some(path);
                }
                Expression::Member { object, key: Key::Name(name), .. } => {
                    path.push(Arc::clone(name));
                    at = *object;
                }
                _ => return None,
            }
        }
    }

    fn of_platform(&self, id: ExpressionId) -> Option<Sketch> {
        let path = self.path_of(id)?;
        let names = (path.first().map(|name| &**name), path.last().map(|name| &**name));
        Some(match names {
            (Some("document" | "location" | "navigator"), Some(name)) if TEXT_MEMBERS.contains(&name) => {
                Sketch::TEXT
            }
            _ => Sketch::OfPlatform { path, is_called: false, then: None },
        })
    }

    fn member(&self, id: ExpressionId, object: ExpressionId, name: &Arc<str>, depth: u32) -> Sketch {
        match self.of_platform(id) {
            Some(known) => known,
            None => match self.expression(object, depth + 1) {
                Sketch::OfPlatform { path, is_called: true, then: None } => {
                    Sketch::OfPlatform { path, is_called: true, then: Some(Arc::clone(name)) }
                }
                Sketch::List(_) if **name == *"length" => Sketch::NUMBER,
                Sketch::Primitive("String") if **name == *"length" => Sketch::NUMBER,
                _ => Sketch::Unknown,
            },
        }
    }

    fn call(&self, callee: ExpressionId, arguments: &[Item], depth: u32) -> Sketch {
        let argument = |at: usize| match arguments.get(at) {
            Some(Item::Value(id)) => self.expression(*id, depth + 1),
            _ => Sketch::Unknown,
        };
        if let Some(id) = self.called_at_once(callee) {
            return self.called(self.program.function(id), depth);
        }
        match self.program.expression(callee) {
            Expression::Global(name) if **name == *"fetch" => Sketch::Promise,
            Expression::Global(name) => match FUNCTIONS.iter().find(|(own, _)| **own == **name) {
                Some((_, result)) => result.clone(),
                None => Sketch::OfPlatform { path: vec![Arc::clone(name)], is_called: true, then: None },
            },
            Expression::Local(variable) => match self.variable(*variable, depth + 1) {
                Sketch::Function { result, .. } => *result,
                _ => Sketch::Unknown,
            },
            Expression::Member { object, key: Key::Name(name), .. } => {
                let of = match self.program.expression(*object) {
                    Expression::Global(of) => &**of,
                    _ => "",
                };
                match (of, &**name) {
                    ("Object", "freeze" | "seal" | "preventExtensions") => argument(0),
                    ("Object", "keys" | "values" | "entries" | "getOwnPropertyNames") | ("Array", _) => {
                        Sketch::List(None)
                    }
                    ("Math", _) | ("Date" | "performance", "now") => Sketch::NUMBER,
                    (_, name) if TEXTS.contains(&name) => Sketch::TEXT,
                    (_, name) if NUMBERS.contains(&name) => Sketch::NUMBER,
                    (_, name) if BOOLEANS.contains(&name) => Sketch::BOOLEAN,
                    (_, name) => self.method(callee, *object, name, depth),
                }
            }
            _ => Sketch::Unknown,
        }
    }

    fn method(&self, callee: ExpressionId, object: ExpressionId, name: &str, depth: u32) -> Sketch {
        const LISTS: &[&str] = &["concat", "filter", "flat", "flatMap", "map", "slice"];
        match self.expression(object, depth + 1) {
            Sketch::Primitive("String") if name == "split" => Sketch::List(None),
            Sketch::Primitive("String") if matches!(name, "replace" | "replaceAll" | "slice" | "concat") => {
                Sketch::TEXT
            }
            Sketch::List(_) if LISTS.contains(&name) => Sketch::List(None),
            Sketch::List(_) if name == "join" => Sketch::TEXT,
            own @ (Sketch::Object(_) | Sketch::Class { .. }) => match own.member(name) {
                Some(Sketch::Function { result, .. }) => (**result).clone(),
                _ => Sketch::Unknown,
            },
            _ => match self.path_of(callee) {
                Some(path) => Sketch::OfPlatform { path, is_called: true, then: None },
                None => Sketch::Unknown,
            },
        }
    }

    fn made_new(&self, callee: ExpressionId, depth: u32) -> Sketch {
        match self.program.expression(callee) {
            Expression::Global(name) if **name == *"Promise" => Sketch::Promise,
            Expression::Global(name) if **name == *"Array" => Sketch::List(None),
            Expression::Global(name) if CONSTRUCTORS.contains(&&**name) => {
                Sketch::Instance(Arc::clone(name), SketchedMembers::new())
            }
            Expression::Local(variable) => match self.variable(*variable, depth + 1) {
                Sketch::Function { makes, .. } | Sketch::Class { makes, .. } if *makes != Sketch::Nothing => {
                    *makes
                }
                _ => Sketch::Unknown,
            },
            _ => Sketch::Unknown,
        }
    }

    fn list(&self, items: &[Item], depth: u32) -> Sketch {
        if items.len() > MOST_ITEMS {
            return Sketch::List(None);
        }
        let item = |item: &Item| match item {
            Item::Value(id) => Some(self.expression(*id, depth + 1)),
            _ => None,
        };
        Sketch::List(items.iter().map(item).collect())
    }

    fn object(&self, parts: &[ObjectPart], depth: u32) -> Sketch {
        let mut members = SketchedMembers::new();
        for part in parts {
            let (name, member) = match part {
                ObjectPart::Value(Key::Name(name), value) => (name, self.expression(*value, depth + 1)),
                ObjectPart::Getter(Key::Name(name), _) | ObjectPart::Setter(Key::Name(name), _) => {
                    (name, Sketch::Unknown)
                }
                _ => return Sketch::Unknown,
            };
            // It is inherited from what is given there.
            if **name == *"__proto__" {
                return Sketch::Unknown;
            }
            members.retain(|(own, _)| own != name);
            members.push((Arc::clone(name), member));
        }
        Sketch::Object(members)
    }

    fn function(&self, id: FunctionId, depth: u32) -> Sketch {
        let function = self.program.function(id);
        let result = self.looks_up(function).unwrap_or_else(|| self.called(function, depth + 1));
        let makes = match (function.kind, function.is_arrow) {
            (FunctionKind::Plain, false) if result == Sketch::Nothing => {
                Sketch::Object(SketchedMembers::new())
            }
            (FunctionKind::Plain, false) => Sketch::Unknown,
            _ => Sketch::Nothing,
        };
        Sketch::Function {
            members: Some(SketchedMembers::new()),
            result: Box::new(result),
            makes: Box::new(makes),
        }
    }

    /// What a function looks up that does nothing else: `s => document.querySelector(s)`.
    fn looks_up(&self, function: &Function) -> Option<Sketch> {
        const METHODS: &[&str] = &[
            "getElementById", "getElementsByClassName", "getElementsByTagName", "querySelector",
            "querySelectorAll",
        ];
        let id = match &function.body {
            FunctionBody::Expression(id) => *id,
            FunctionBody::Statements(own) => {
                match own.iter().map(|id| self.program.statement(*id)).collect::<Vec<_>>()[..] {
                    [Statement::Return(Some(id))] => *id,
                    _ => return None,
                }
            }
        };
        let Expression::Call { callee, arguments, .. } = self.program.expression(id) else { return None };
        let Expression::Member { object, key: Key::Name(method), .. } = self.program.expression(*callee)
        else {
            return None;
        };
        let [Item::Value(first)] = arguments[..] else { return None };
        let argument = self.parameter_of(function, first)?;
        let is_document = |id: ExpressionId| matches!(self.program.expression(id), Expression::Global(name) if **name == *"document");
        let within = match self.program.expression(*object) {
            _ if is_document(*object) => None,
            Expression::Local(_) => Some(self.parameter_of(function, *object)?),
            Expression::Logical(LogicalOperator::Or | LogicalOperator::Coalesce, left, right)
                if is_document(*right) =>
            {
                Some(self.parameter_of(function, *left)?)
            }
            _ => return None,
        };
        let is_plain = function.kind == FunctionKind::Plain && METHODS.contains(&&**method);
        is_plain.then(|| Sketch::LookUp { method: Arc::clone(method), argument, within })
    }

    /// Which parameter of a function an expression reads, one that is the document where it is left out among them.
    fn parameter_of(&self, function: &Function, id: ExpressionId) -> Option<usize> {
        let Expression::Local(variable) = self.program.expression(id) else { return None };
        let is_given =
            |variable: &Variable| self.handlings.given_to.get(variable).is_some_and(|all| all.len() > 1);
        let is_its = |pattern: &PatternId| match self.program.pattern(*pattern) {
            Pattern::Local(own) => own == variable,
            Pattern::Default(inner, value) => {
                let is_document = matches!(self.program.expression(*value), Expression::Global(name) if **name == *"document");
                is_document && matches!(self.program.pattern(*inner), Pattern::Local(own) if own == variable)
            }
            _ => false,
        };
        function.parameters.iter().position(is_its).filter(|_| !is_given(variable))
    }

    /// What calls of a function come to.
    fn called(&self, function: &Function, depth: u32) -> Sketch {
        match function.kind {
            FunctionKind::Plain => self.result(function, depth + 1),
            FunctionKind::Async => Sketch::Promise,
            FunctionKind::Generator | FunctionKind::AsyncGenerator => Sketch::Unknown,
        }
    }

    fn result(&self, function: &Function, depth: u32) -> Sketch {
        if depth > DEEPEST {
            return Sketch::Unknown;
        }
        let statements = match &function.body {
            FunctionBody::Expression(id) => return self.expression(*id, depth),
            FunctionBody::Statements(statements) => statements,
        };
        let mut given = Vec::new();
        self.returns(statements, &mut given);
        let ends = statements.last().map(|last| self.program.statement(*last));
        match (given.split_first(), ends) {
            (None, _) => Sketch::Nothing,
            (Some((first, more)), Some(Statement::Return(Some(_)))) => {
                let all = more.iter().map(|id| self.returned(*id, depth));
                all.fold(self.returned(*first, depth), Sketch::or)
            }
            (Some(_), _) if given.iter().all(Option::is_none) => Sketch::Nothing,
            _ => Sketch::Unknown,
        }
    }

    fn returned(&self, id: Option<ExpressionId>, depth: u32) -> Sketch {
        id.map_or(Sketch::Nothing, |id| self.expression(id, depth))
    }

    /// What the statements of a function give back.
    fn returns(&self, statements: &[StatementId], found: &mut Vec<Option<ExpressionId>>) {
        let mut waiting: Vec<StatementId> = statements.to_vec();
        while let Some(id) = waiting.pop() {
            match self.program.statement(id) {
                Statement::Return(value) => found.push(*value),
                Statement::Block(_, own) => waiting.extend(own),
                Statement::If { consequent, alternate, .. } => {
                    waiting.extend(alternate.iter().chain([consequent]))
                }
                Statement::For { body, .. }
                | Statement::ForIn { body, .. }
                | Statement::ForOf { body, .. }
                | Statement::While { body, .. }
                | Statement::DoWhile { body, .. }
                | Statement::Labeled(_, body)
                | Statement::With(_, body) => waiting.push(*body),
                Statement::Try { block, handler, finalizer } => {
                    waiting.push(*block);
                    waiting.extend(handler.iter().map(|handler| handler.body).chain(*finalizer));
                }
                Statement::Switch { cases, .. } => {
                    waiting.extend(cases.iter().flat_map(|case| case.body.iter().copied()));
                }
                _ => {}
            }
        }
    }

    fn class(&self, id: ClassId, depth: u32) -> Sketch {
        let class = self.program.class(id);
        if depth > DEEPEST {
            return Sketch::Unknown;
        }
        let (mut members, mut own) = match class.parent.map(|parent| self.expression(parent, depth + 1)) {
            None => Default::default(),
            Some(Sketch::Class { members, makes }) => match *makes {
                Sketch::Object(own) => (members, own),
                _ => return Sketch::Unknown,
            },
            Some(_) => return Sketch::Unknown,
        };
        for member in &class.members {
            let Key::Name(name) = &member.key else {
                match member.kind {
                    MemberKind::Block(..) => continue,
                    _ => return Sketch::Unknown,
                }
            };
            let sketch = match &member.kind {
                MemberKind::Method(id) => self.function(*id, depth + 1),
                MemberKind::Field(Some(value)) => self.expression(*value, depth + 1),
                MemberKind::Block(..) => continue,
                _ => Sketch::Unknown,
            };
            let into = if member.is_static { &mut members } else { &mut own };
            into.retain(|(known, _)| known != name);
            into.push((Arc::clone(name), sketch));
        }
        // One that gives something back makes that.
        let gives_back =
            |id: FunctionId| self.called(self.program.function(id), depth + 1) != Sketch::Nothing;
        let makes = match class.constructor.is_some_and(gives_back) {
            true => Sketch::Unknown,
            false => Sketch::Object(own),
        };
        Sketch::Class { members, makes: Box::new(makes) }
    }
}

fn binary(operator: BinaryOperator, left: Sketch, right: Sketch) -> Sketch {
    use BinaryOperator as Is;
    match operator {
        Is::Addition if left == Sketch::TEXT || right == Sketch::TEXT => Sketch::TEXT,
        Is::Addition if left != Sketch::NUMBER || right != Sketch::NUMBER => Sketch::Unknown,
        Is::Subtraction | Is::Multiplication | Is::Division | Is::Remainder | Is::Exponential
            if left != Sketch::NUMBER && right != Sketch::NUMBER =>
        {
            Sketch::Unknown
        }
        Is::Addition
        | Is::Subtraction
        | Is::Multiplication
        | Is::Division
        | Is::Remainder
        | Is::Exponential => Sketch::NUMBER,
        Is::Equality
        | Is::Inequality
        | Is::StrictEquality
        | Is::StrictInequality
        | Is::LessThan
        | Is::LessEqualThan
        | Is::GreaterThan
        | Is::GreaterEqualThan
        | Is::In
        | Is::Instanceof => Sketch::BOOLEAN,
        _ => Sketch::Unknown,
    }
}
