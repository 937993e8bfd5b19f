//! What functions and classes of a script give and make, as far as they tell by themselves.

use std::sync::Arc;

use oxc_syntax::operator::LogicalOperator;

use super::sketch::{Sketch, SketchedMembers};
use super::sketching::{DEEPEST, Sketcher};
use super::{
    ClassId, Expression, ExpressionId, Function, FunctionBody, FunctionId, FunctionKind, Item, Key,
    MemberKind, Pattern, PatternId, Statement, StatementId, Variable,
};

impl Sketcher<'_> {
    pub(super) fn function(&self, id: FunctionId, depth: u32) -> Sketch {
        let function = self.program.function(id);
        let result = match self.looks_up(function).unwrap_or_else(|| self.called(function, depth + 1)) {
            // That of the function around it.
            Sketch::Receiver if function.is_arrow => Sketch::Unknown,
            result => result,
        };
        let makes = match (function.kind, function.is_arrow) {
            (FunctionKind::Plain, false) if result == Sketch::Nothing => {
                Sketch::Object(SketchedMembers::new(), None)
            }
            (FunctionKind::Plain, false) => Sketch::Unknown,
            _ => Sketch::Nothing,
        };
        Sketch::Function {
            members: Some(SketchedMembers::new()),
            result: Box::new(result),
            makes: Box::new(makes),
            code: (self.program.number, id),
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
    pub(super) fn called(&self, function: &Function, depth: u32) -> Sketch {
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

    pub(super) fn class(&self, id: ClassId, depth: u32) -> Sketch {
        let class = self.program.class(id);
        if depth > DEEPEST {
            return Sketch::Unknown;
        }
        let (mut members, mut own) = match class.parent.map(|parent| self.expression(parent, depth + 1)) {
            None => Default::default(),
            Some(Sketch::Class { members, makes, .. }) => match *makes {
                Sketch::Object(own, _) => (members, own),
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
            false => Sketch::Object(own, None),
        };
        let sketch = Sketch::Class { members, makes: Box::new(makes), code: (self.program.number, id) };
        self.classes.borrow_mut().insert(id, sketch.clone());
        sketch
    }
}
