//! A script as it is evaluated: the parser's tree with each name resolved, in tables that own what they hold, so that a
//! script which is on many pages is parsed once and evaluated on each.

mod at_first;
mod handled;
mod idle;
mod literals;
mod lowering;
mod lowering_patterns;
mod lowering_statements;
mod own_parts;
mod own_words;
mod sketch;
mod sketched_functions;
mod sketched_values;
mod sketches;
mod sketching;
mod told;
mod uses;

use std::sync::{Arc, OnceLock};

use oxc_syntax::operator::{AssignmentOperator, BinaryOperator, LogicalOperator, UnaryOperator};

pub(super) use handled::WINDOWS;
pub(super) use own_words::Words;
pub use sketch::{Sketch, SketchedMembers};
pub use sketches::SketchedGlobal;
use sketches::Sketches;

use super::regular::Regular;
use crate::source::Span;

/// An expression of a program, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct ExpressionId(u32);

/// A statement of a program, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct StatementId(u32);

/// A pattern or a target of an assignment, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub(super) struct PatternId(u32);

/// A function of a program, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct FunctionId(u32);

/// A class of a program, by its place in the table.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct ClassId(u32);

/// A variable of a program.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Variable(pub(super) u32);

/// A script.
#[derive(Debug, Default)]
pub(super) struct Program {
    expressions: Vec<(Span, Expression)>,
    statements: Vec<(Span, Statement)>,
    patterns: Vec<(Span, Pattern)>,
    functions: Vec<Function>,
    classes: Vec<Class>,
    /// The names of the variables.
    names: Vec<Arc<str>>,
    /// What is declared at its top level.
    pub(super) top: Scope,
    /// What it does from top to bottom.
    pub(super) body: Box<[StatementId]>,
    /// Whether it is a module or says `"use strict"`.
    pub(super) is_strict: bool,
    /// Its number: no other program has it.
    pub(super) number: u32,
    /// The words of its own texts, once they are asked for.
    own_words: OnceLock<Arc<Words>>,
    /// What its globals are, once that is asked for.
    sketches: OnceLock<Sketches>,
    /// What it makes and never uses, once that is asked for.
    idle: OnceLock<idle::Idle>,
}

/// A function that a scope declares.
#[derive(Clone, Copy, Debug)]
pub(super) struct DeclaredFunction {
    pub(super) variable: Variable,
    pub(super) function: FunctionId,
    /// The variable around the block that is given it as well (ECMA-262, B.3.3).
    pub(super) hoisted: Option<Variable>,
}

/// What is declared in one scope.
#[derive(Debug, Default)]
pub(super) struct Scope {
    /// `var`s and parameters, which are `undefined` at first.
    pub(super) plain: Box<[Variable]>,
    /// `let`, `const` and classes, which cannot be used before they are set.
    pub(super) late: Box<[Variable]>,
    /// Functions, which are there at once.
    pub(super) functions: Box<[DeclaredFunction]>,
}

impl Scope {
    /// Whether nothing is declared in it.
    pub(super) fn is_empty(&self) -> bool {
        self.plain.is_empty() && self.late.is_empty() && self.functions.is_empty()
    }
}

/// A function.
#[derive(Debug)]
pub(super) struct Function {
    /// Its name as a variable of its own: of a function expression with a name.
    pub(super) own_variable: Option<Variable>,
    /// Its parameters and variables.
    pub(super) scope: Scope,
    pub(super) parameters: Box<[PatternId]>,
    pub(super) rest: Option<PatternId>,
    pub(super) body: FunctionBody,
    /// What calls of it come to, and what `this` is in it.
    pub(super) kind: FunctionKind,
    /// Whether it has `this` of its own, and can be called with `new`.
    pub(super) is_arrow: bool,
    pub(super) is_strict: bool,
    /// All of it.
    pub(super) span: Span,
}

impl Function {
    /// What it gives at its end, where it comes there.
    pub(super) fn last_result(&self, program: &Program) -> Option<ExpressionId> {
        match &self.body {
            FunctionBody::Expression(own) => Some(*own),
            FunctionBody::Statements(all) => match program.statement(*all.last()?) {
                Statement::Return(own) => *own,
                _ => None,
            },
        }
    }
}

/// What a call of a function comes to.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum FunctionKind {
    /// What it returns.
    Plain,
    /// A promise.
    Async,
    /// An iterator, which runs it bit by bit.
    Generator,
    /// The same of promises.
    AsyncGenerator,
}

/// What a function does.
#[derive(Debug)]
pub(super) enum FunctionBody {
    Expression(ExpressionId),
    Statements(Box<[StatementId]>),
}

/// A class.
#[derive(Debug)]
pub(super) struct Class {
    /// Its name as a variable inside of it.
    pub(super) own_variable: Option<Variable>,
    pub(super) parent: Option<ExpressionId>,
    /// Whether its constructor calls that of its parent.
    pub(super) calls_super: bool,
    pub(super) constructor: Option<FunctionId>,
    pub(super) members: Box<[ClassMember]>,
}

/// A member of a class.
#[derive(Debug)]
pub(super) struct ClassMember {
    pub(super) key: Key,
    pub(super) is_static: bool,
    pub(super) kind: MemberKind,
}

/// What a member of a class is.
#[derive(Debug)]
pub(super) enum MemberKind {
    Method(FunctionId),
    Getter(FunctionId),
    Setter(FunctionId),
    Field(Option<ExpressionId>),
    /// A `static { }` block.
    Block(Scope, Box<[StatementId]>),
}

/// How a member is named.
#[derive(Clone, Debug)]
pub(super) enum Key {
    Name(Arc<str>),
    Computed(ExpressionId),
}

/// One element of an array or an argument.
#[derive(Debug)]
pub(super) enum Item {
    Value(ExpressionId),
    Spread(ExpressionId),
    Hole,
}

/// One property of an object literal.
#[derive(Debug)]
pub(super) enum ObjectPart {
    Value(Key, ExpressionId),
    Getter(Key, ExpressionId),
    Setter(Key, ExpressionId),
    Spread(ExpressionId),
}

/// An expression.
#[derive(Debug)]
pub(super) enum Expression {
    Null,
    Boolean(bool),
    Number(f64),
    Text(Arc<str>),
    RegExp(Arc<Regular>),
    Template {
        texts: Box<[Arc<str>]>,
        values: Box<[ExpressionId]>,
    },
    Tagged {
        tag: ExpressionId,
        texts: Box<[Arc<str>]>,
        values: Box<[ExpressionId]>,
    },
    Local(Variable),
    Global(Arc<str>),
    This,
    Super,
    Array(Box<[Item]>),
    Object(Box<[ObjectPart]>),
    Function(FunctionId),
    Class(ClassId),
    Unary(UnaryOperator, ExpressionId),
    Update {
        target: PatternId,
        is_prefix: bool,
        by: f64,
    },
    Binary(BinaryOperator, ExpressionId, ExpressionId),
    Logical(LogicalOperator, ExpressionId, ExpressionId),
    Conditional(ExpressionId, ExpressionId, ExpressionId),
    Assign {
        operator: AssignmentOperator,
        target: PatternId,
        value: ExpressionId,
    },
    Member {
        object: ExpressionId,
        key: Key,
        is_optional: bool,
    },
    Call {
        callee: ExpressionId,
        arguments: Box<[Item]>,
        is_optional: bool,
    },
    New {
        callee: ExpressionId,
        arguments: Box<[Item]>,
    },
    /// Where an optional chain ends.
    Chain(ExpressionId),
    Sequence(Box<[ExpressionId]>),
    Await(ExpressionId),
    Yield(Option<ExpressionId>),
    /// `yield*`.
    YieldAll(ExpressionId),
    /// A whole number of any size.
    BigInt,
    Import(ExpressionId),
    /// Something of which only the parts are evaluated.
    Opaque(Box<[ExpressionId]>),
}

/// What is assigned to, or bound.
#[derive(Debug)]
pub(super) enum Pattern {
    Local(Variable),
    Global(Arc<str>),
    Member(ExpressionId),
    Array { items: Box<[Option<PatternId>]>, rest: Option<PatternId> },
    Object { parts: Box<[(Key, PatternId)]>, rest: Option<PatternId> },
    Default(PatternId, ExpressionId),
}

/// How variables are declared.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum DeclarationKind {
    Var,
    Let,
    Const,
}

/// What a loop goes over.
#[derive(Debug)]
pub(super) enum LoopHead {
    Declared(PatternId),
    Assigned(PatternId),
}

/// A statement.
#[derive(Debug)]
pub(super) enum Statement {
    Empty,
    Expression(ExpressionId),
    Variables(DeclarationKind, Box<[(PatternId, Option<ExpressionId>)]>),
    Class(Variable, ClassId),
    Block(Scope, Box<[StatementId]>),
    If {
        test: ExpressionId,
        consequent: StatementId,
        alternate: Option<StatementId>,
    },
    For {
        scope: Scope,
        init: Option<StatementId>,
        test: Option<ExpressionId>,
        update: Option<ExpressionId>,
        body: StatementId,
        assigned: Box<[Variable]>,
    },
    ForIn {
        scope: Scope,
        head: LoopHead,
        over: ExpressionId,
        body: StatementId,
        assigned: Box<[Variable]>,
    },
    ForOf {
        scope: Scope,
        head: LoopHead,
        over: ExpressionId,
        /// Whether it waits for each item.
        awaits: bool,
        body: StatementId,
        assigned: Box<[Variable]>,
    },
    While {
        test: ExpressionId,
        body: StatementId,
        assigned: Box<[Variable]>,
    },
    DoWhile {
        body: StatementId,
        test: ExpressionId,
        assigned: Box<[Variable]>,
    },
    Return(Option<ExpressionId>),
    Throw(ExpressionId),
    Try {
        block: StatementId,
        handler: Option<Handler>,
        finalizer: Option<StatementId>,
    },
    Switch {
        scope: Scope,
        value: ExpressionId,
        cases: Box<[Case]>,
    },
    Labeled(Arc<str>, StatementId),
    Break(Option<Arc<str>>),
    Continue(Option<Arc<str>>),
    With(ExpressionId, StatementId),
    /// Names that a module imports from another.
    Import(Box<[Variable]>),
}

/// The `catch` of a `try`.
#[derive(Debug)]
pub(super) struct Handler {
    pub(super) scope: Scope,
    pub(super) parameter: Option<PatternId>,
    pub(super) body: StatementId,
}

/// One case of a `switch`.
#[derive(Debug)]
pub(super) struct Case {
    pub(super) test: Option<ExpressionId>,
    pub(super) body: Box<[StatementId]>,
}

impl Program {
    pub(super) fn expression(&self, id: ExpressionId) -> &Expression {
        &self.expressions[id.0 as usize].1
    }

    pub(super) fn span(&self, id: ExpressionId) -> Span {
        self.expressions[id.0 as usize].0
    }

    pub(super) fn statement(&self, id: StatementId) -> &Statement {
        &self.statements[id.0 as usize].1
    }

    pub(super) fn pattern(&self, id: PatternId) -> &Pattern {
        &self.patterns[id.0 as usize].1
    }

    /// Whether there is a variable of that name.
    pub(super) fn has_variable(&self, name: &str) -> bool {
        self.names.iter().any(|own| **own == *name)
    }

    /// Whether a text of the script has some letters in it, and more.
    pub(super) fn has_text_with(&self, letters: &str) -> bool {
        let has = |text: &str| text.contains(letters) && text != letters;
        self.expressions.iter().any(|(_, expression)| match expression {
            Expression::Text(text) => has(text),
            Expression::Template { texts, .. } => texts.iter().any(|text| has(text)),
            _ => false,
        })
    }

    /// Whether a variable is what a function is given.
    pub(super) fn is_parameter(&self, variable: Variable) -> bool {
        let is_it = |pattern: &PatternId| match self.pattern(*pattern) {
            Pattern::Local(own) => *own == variable,
            Pattern::Default(inner, _) => {
                matches!(self.pattern(*inner), Pattern::Local(own) if *own == variable)
            }
            _ => false,
        };
        self.functions.iter().any(|function| function.parameters.iter().any(is_it))
    }

    pub(super) fn pattern_span(&self, id: PatternId) -> Span {
        self.patterns[id.0 as usize].0
    }

    pub(super) fn function(&self, id: FunctionId) -> &Function {
        &self.functions[id.0 as usize]
    }

    pub(super) fn class(&self, id: ClassId) -> &Class {
        &self.classes[id.0 as usize]
    }

    /// The variables that a pattern binds.
    pub(super) fn variables_of(&self, pattern: PatternId) -> Vec<Variable> {
        let mut found = Vec::new();
        let mut waiting = vec![pattern];
        while let Some(id) = waiting.pop() {
            match self.pattern(id) {
                Pattern::Local(variable) => found.push(*variable),
                Pattern::Array { items, rest } => waiting.extend(items.iter().flatten().chain(rest)),
                Pattern::Object { parts, rest } => {
                    waiting.extend(parts.iter().map(|(_, part)| part).chain(rest))
                }
                Pattern::Default(inner, _) => waiting.push(*inner),
                Pattern::Global(_) | Pattern::Member(_) => {}
            }
        }
        found
    }

    pub(super) fn name(&self, variable: Variable) -> &Arc<str> {
        &self.names[variable.0 as usize]
    }

    /// Whether a variable is declared at the top level.
    pub(super) fn is_at_top(&self, variable: Variable) -> bool {
        let top = &self.top;
        let mut all = top.plain.iter().chain(&top.late).chain(top.functions.iter().map(|own| &own.variable));
        all.any(|own| *own == variable)
    }
}
