//! The parser's tree into a program: expressions.

use std::sync::Arc;
use std::sync::atomic::{AtomicU32, Ordering};

use oxc_ast::ast::{
    Argument, ArrayExpressionElement, ArrowFunctionExpression, CallExpression, ChainElement, Class,
    ClassElement, Expression, FormalParameters, Function, MemberExpression, MethodDefinitionKind,
    ObjectPropertyKind, PropertyKey, PropertyKind, SimpleAssignmentTarget, StaticBlock,
};
use oxc_semantic::{Semantic, SemanticBuilder, SymbolFlags};
use oxc_span::GetSpan;
use oxc_syntax::operator::UpdateOperator;
use oxc_syntax::scope::ScopeId;
use oxc_syntax::symbol::SymbolId;

use rustc_hash::FxHashSet;

use super::{
    ClassId, ClassMember, DeclarationKind, DeclaredFunction, ExpressionId, FunctionBody, FunctionId,
    FunctionKind, Item, Key, MemberKind, ObjectPart, Pattern, PatternId, Program, Scope, Statement,
    StatementId, Variable,
};
use crate::script::regular::Regular;
use crate::script::syntax::{ScriptKind, flaw_of, with_early_errors, with_program_as};
use crate::source::Span;

impl Program {
    /// The program of a text; none where it does not parse or cannot be read.
    pub(in crate::script) fn of(text: &str, kind: ScriptKind) -> Option<Program> {
        with_program_as(text, kind, |program, flaws| {
            let checked = SemanticBuilder::new().with_check_syntax_error(true).build(program);
            if !with_early_errors(flaws, checked.diagnostics.errors().map(flaw_of)).is_empty() {
                return None;
            }
            Some(Program::lowered(program, &checked.semantic))
        })
        .ok()
        .flatten()
    }

    /// A script that is parsed, and has no early errors.
    pub(in crate::script) fn lowered<'a>(
        program: &oxc_ast::ast::Program<'a>,
        semantic: &Semantic<'a>,
    ) -> Program {
        static COUNT: AtomicU32 = AtomicU32::new(0);
        let number = COUNT.fetch_add(1, Ordering::Relaxed);
        // About half of the nodes of a script are expressions.
        let count = semantic.nodes().len() / 2;
        let mut lowering = Lowering {
            semantic,
            program: Program { number, expressions: Vec::with_capacity(count), ..Program::default() },
            assigned: Vec::new(),
            parameters: FxHashSet::default(),
            has_super: false,
        };
        lowering.run(program);
        lowering.program
    }
}

pub(super) struct Lowering<'s, 'a> {
    pub(super) semantic: &'s Semantic<'a>,
    pub(super) program: Program,
    /// For each loop around, the variables that are assigned in it.
    pub(super) assigned: Vec<Vec<Variable>>,
    /// The parameters of all functions so far.
    parameters: FxHashSet<SymbolId>,
    /// Whether `super` has come up.
    has_super: bool,
}

pub(super) fn span_of(node: &impl GetSpan) -> Span {
    let span = node.span();
    Span { start: span.start, end: span.end }
}

impl<'a> Lowering<'_, 'a> {
    fn run(&mut self, program: &oxc_ast::ast::Program<'a>) {
        let scoping = self.semantic.scoping();
        self.program.names = scoping.symbol_names().map(Arc::from).collect();
        self.program.is_strict = program.source_type.is_module()
            || program.directives.iter().any(|directive| directive.directive == "use strict");
        self.program.top = self.scope(program.scope_id.get(), &program.body);
        self.program.body = self.statements(&program.body);
    }

    pub(super) fn put(&mut self, span: Span, expression: super::Expression) -> ExpressionId {
        self.program.expressions.push((span, expression));
        ExpressionId(self.program.expressions.len() as u32 - 1)
    }

    pub(super) fn put_statement(&mut self, span: Span, statement: Statement) -> StatementId {
        self.program.statements.push((span, statement));
        StatementId(self.program.statements.len() as u32 - 1)
    }

    pub(super) fn put_pattern(&mut self, span: Span, pattern: Pattern) -> PatternId {
        self.program.patterns.push((span, pattern));
        PatternId(self.program.patterns.len() as u32 - 1)
    }

    /// What is declared in a scope. Functions are in its statements.
    pub(super) fn scope(&mut self, id: Option<ScopeId>, statements: &[oxc_ast::ast::Statement<'a>]) -> Scope {
        let Some(id) = id else { return Scope::default() };
        let scoping = self.semantic.scoping();
        let (mut plain, mut late) = (Vec::new(), Vec::new());
        for symbol in scoping.get_bindings(id).values() {
            let (flags, variable) = (scoping.symbol_flags(*symbol), Variable(symbol.index() as u32));
            if flags.contains(SymbolFlags::BlockScopedVariable) || flags.contains(SymbolFlags::Class) {
                late.push(variable);
            } else {
                plain.push(variable);
            }
        }
        plain.sort_unstable();
        late.sort_unstable();
        let functions = self.declared_functions(id, statements);
        Scope { plain: plain.into(), late: late.into(), functions: functions.into() }
    }

    /// The functions that are declared in some statements of a scope.
    pub(super) fn declared_functions(
        &mut self,
        id: ScopeId,
        statements: &[oxc_ast::ast::Statement<'a>],
    ) -> Vec<DeclaredFunction> {
        let mut functions = Vec::new();
        for statement in statements {
            let function = match statement {
                oxc_ast::ast::Statement::FunctionDeclaration(own) => own,
                oxc_ast::ast::Statement::ExportDeclaration(own) => match &own.declaration {
                    oxc_ast::ast::Declaration::FunctionDeclaration(own) => own,
                    _ => continue,
                },
                oxc_ast::ast::Statement::ExportDefaultDeclaration(own) => match &own.declaration {
                    oxc_ast::ast::ExportDefaultDeclarationKind::FunctionDeclaration(own) => own,
                    _ => continue,
                },
                _ => continue,
            };
            functions.extend(self.declared_function(id, function));
        }
        functions
    }

    /// A function that is declared in a scope.
    pub(super) fn declared_function(
        &mut self,
        id: ScopeId,
        function: &oxc_ast::ast::Function<'a>,
    ) -> Option<DeclaredFunction> {
        let symbol = function.id.as_ref().and_then(|name| name.symbol_id.get())?;
        let hoisted = match function.r#async || function.generator {
            true => None,
            false => self.hoisted(id, symbol),
        };
        let lowered = self.function(function);
        Some(DeclaredFunction { variable: Variable(symbol.index() as u32), function: lowered, hoisted })
    }

    /// The variable of a function around a block that a function in the block is given to as well, outside of strict code
    /// (ECMA-262, B.3.3).
    fn hoisted(&self, block: ScopeId, symbol: SymbolId) -> Option<Variable> {
        let scoping = self.semantic.scoping();
        let name = scoping.symbol_ident(symbol);
        let mut at = block;
        if scoping.scope_flags(at).is_var() || scoping.scope_flags(at).is_strict_mode() {
            return None;
        }
        loop {
            at = scoping.scope_parent_id(at)?;
            let around = scoping.get_binding(at, name);
            let is_lexical = around.is_some_and(|own| {
                let flags = scoping.symbol_flags(own);
                own != symbol
                    && (flags.intersects(SymbolFlags::BlockScopedVariable | SymbolFlags::Class)
                        || !scoping.scope_flags(at).is_var())
            });
            if is_lexical {
                return None;
            }
            if scoping.scope_flags(at).is_var() {
                // A parameter stays what it is.
                let around = around.filter(|own| !self.parameters.contains(own));
                return around.map(|own| Variable(own.index() as u32));
            }
        }
    }

    pub(super) fn expressions<'e>(
        &mut self,
        all: impl IntoIterator<Item = &'e Expression<'a>>,
    ) -> Box<[ExpressionId]>
    where
        'a: 'e,
    {
        all.into_iter().map(|own| self.expression(own)).collect()
    }

    pub(super) fn expression(&mut self, expression: &Expression<'a>) -> ExpressionId {
        use super::Expression as Out;
        let span = span_of(expression);
        let out = match expression {
            Expression::NullLiteral(_) => Out::Null,
            Expression::BooleanLiteral(own) => Out::Boolean(own.value),
            Expression::NumericLiteral(own) => Out::Number(own.value),
            Expression::StringLiteral(own) => Out::Text(Arc::from(own.value.as_str())),
            Expression::RegExpLiteral(own) => {
                let (pattern, flags) = (own.regex.pattern.text.as_str(), own.regex.flags.to_string());
                Out::RegExp(Arc::new(Regular::new(pattern, &flags)))
            }
            Expression::TemplateLiteral(own) => {
                Out::Template { texts: texts_of(own), values: self.expressions(&own.expressions) }
            }
            Expression::TaggedTemplateExpression(own) => {
                let tag = self.expression(&own.tag);
                Out::Tagged {
                    tag,
                    texts: texts_of(&own.quasi),
                    values: self.expressions(&own.quasi.expressions),
                }
            }
            Expression::Identifier(own) => match self.variable(own) {
                Some(variable) => Out::Local(variable),
                None => Out::Global(Arc::from(own.name.as_str())),
            },
            Expression::ThisExpression(_) => Out::This,
            Expression::Super(_) => {
                self.has_super = true;
                Out::Super
            }
            Expression::ParenthesizedExpression(own) => return self.expression(&own.expression),
            Expression::ArrayExpression(own) => {
                let item = |element: &ArrayExpressionElement<'a>, this: &mut Self| match element {
                    ArrayExpressionElement::SpreadElement(own) => {
                        Item::Spread(this.expression(&own.argument))
                    }
                    ArrayExpressionElement::Elision(_) => Item::Hole,
                    other => {
                        other.as_expression().map_or(Item::Hole, |own| Item::Value(this.expression(own)))
                    }
                };
                Out::Array(own.elements.iter().map(|element| item(element, self)).collect())
            }
            Expression::ObjectExpression(own) => {
                Out::Object(own.properties.iter().map(|property| self.object_part(property)).collect())
            }
            Expression::FunctionExpression(own) => Out::Function(self.function(own)),
            Expression::ArrowFunctionExpression(own) => Out::Function(self.arrow(own)),
            Expression::ClassExpression(own) => Out::Class(self.class(own)),
            Expression::UnaryExpression(own) => Out::Unary(own.operator, self.expression(&own.argument)),
            Expression::UpdateExpression(own) => {
                let target = self.simple_target(&own.argument);
                let by = if own.operator == UpdateOperator::Increment { 1.0 } else { -1.0 };
                Out::Update { target, is_prefix: own.prefix, by }
            }
            Expression::BinaryExpression(own) => {
                Out::Binary(own.operator, self.expression(&own.left), self.expression(&own.right))
            }
            Expression::LogicalExpression(own) => {
                Out::Logical(own.operator, self.expression(&own.left), self.expression(&own.right))
            }
            Expression::ConditionalExpression(own) => Out::Conditional(
                self.expression(&own.test),
                self.expression(&own.consequent),
                self.expression(&own.alternate),
            ),
            Expression::AssignmentExpression(own) => {
                let target = self.target(&own.left);
                Out::Assign { operator: own.operator, target, value: self.expression(&own.right) }
            }
            Expression::CallExpression(own) => self.call(own),
            Expression::NewExpression(own) => {
                let callee = self.expression(&own.callee);
                Out::New { callee, arguments: self.arguments(&own.arguments) }
            }
            Expression::ChainExpression(own) => {
                let inner = match &own.expression {
                    ChainElement::CallExpression(call) => self.call(call),
                    other => match other.as_member_expression() {
                        Some(member) => self.member(member),
                        None => Out::Opaque(Box::new([])),
                    },
                };
                let inner = self.put(span, inner);
                Out::Chain(inner)
            }
            Expression::SequenceExpression(own) => Out::Sequence(self.expressions(&own.expressions)),
            Expression::AwaitExpression(own) => Out::Await(self.expression(&own.argument)),
            Expression::YieldExpression(own) => {
                match (own.argument.as_ref().map(|argument| self.expression(argument)), own.delegate) {
                    (Some(inner), true) => Out::YieldAll(inner),
                    (inner, _) => Out::Yield(inner),
                }
            }
            Expression::BigIntLiteral(_) => Out::BigInt,
            Expression::ImportExpression(own) => Out::Import(self.expression(&own.source)),
            Expression::PrivateInExpression(own) => Out::Opaque(Box::new([self.expression(&own.right)])),
            other => match other.as_member_expression() {
                Some(member) => self.member(member),
                None => Out::Opaque(Box::new([])),
            },
        };
        self.put(span, out)
    }

    pub(super) fn member(&mut self, member: &MemberExpression<'a>) -> super::Expression {
        let object = self.expression(member.object());
        let key = match member {
            MemberExpression::StaticMemberExpression(own) => Key::Name(Arc::from(own.property.name.as_str())),
            MemberExpression::ComputedMemberExpression(own) => match &own.expression {
                Expression::StringLiteral(text) => Key::Name(Arc::from(text.value.as_str())),
                other => Key::Computed(self.expression(other)),
            },
            MemberExpression::PrivateFieldExpression(own) => Key::Name(private_name(&own.field.name)),
        };
        super::Expression::Member { object, key, is_optional: member.optional() }
    }

    fn call(&mut self, call: &CallExpression<'a>) -> super::Expression {
        let callee = self.expression(&call.callee);
        let arguments = self.arguments(&call.arguments);
        super::Expression::Call { callee, arguments, is_optional: call.optional }
    }

    fn arguments(&mut self, arguments: &[Argument<'a>]) -> Box<[Item]> {
        let mut items = Vec::with_capacity(arguments.len());
        for argument in arguments {
            items.push(match argument {
                Argument::SpreadElement(own) => Item::Spread(self.expression(&own.argument)),
                other => match other.as_expression() {
                    Some(own) => Item::Value(self.expression(own)),
                    None => Item::Hole,
                },
            });
        }
        items.into()
    }

    pub(super) fn key(&mut self, key: &PropertyKey<'a>) -> Key {
        match key {
            PropertyKey::StaticIdentifier(own) => Key::Name(Arc::from(own.name.as_str())),
            PropertyKey::PrivateIdentifier(own) => Key::Name(private_name(&own.name)),
            other => match (other.static_name(), other.as_expression()) {
                (Some(name), _) => Key::Name(Arc::from(&*name)),
                (None, Some(own)) => Key::Computed(self.expression(own)),
                (None, None) => Key::Name(Arc::from("")),
            },
        }
    }

    fn object_part(&mut self, property: &ObjectPropertyKind<'a>) -> ObjectPart {
        match property {
            ObjectPropertyKind::SpreadProperty(own) => ObjectPart::Spread(self.expression(&own.argument)),
            ObjectPropertyKind::ObjectProperty(own) => {
                let key = self.key(&own.key);
                let value = self.expression(&own.value);
                match own.kind {
                    PropertyKind::Init => ObjectPart::Value(key, value),
                    PropertyKind::Get => ObjectPart::Getter(key, value),
                    PropertyKind::Set => ObjectPart::Setter(key, value),
                }
            }
        }
    }

    pub(super) fn function(&mut self, function: &Function<'a>) -> FunctionId {
        let outer = std::mem::take(&mut self.assigned);
        let statements = function.body.as_ref().map_or(&[][..], |body| &body.statements);
        let mut scope = self.scope(function.scope_id.get(), statements);
        let (parameters, rest) = self.parameters(&function.params);
        let symbol =
            function.id.as_ref().filter(|_| function.is_expression()).and_then(|id| id.symbol_id.get());
        let own_variable = symbol.map(|symbol| Variable(symbol.index() as u32));
        // Its own name is around its scope, where nothing in it has that name.
        scope.plain = scope.plain.iter().copied().filter(|own| Some(*own) != own_variable).collect();
        let lowered = super::Function {
            own_variable,
            scope,
            parameters,
            rest,
            body: FunctionBody::Statements(self.statements(statements)),
            kind: match (function.generator, function.r#async) {
                (true, true) => FunctionKind::AsyncGenerator,
                (true, false) => FunctionKind::Generator,
                (false, true) => FunctionKind::Async,
                (false, false) => FunctionKind::Plain,
            },
            is_arrow: false,
            is_strict: self.is_strict(function.scope_id.get()),
            span: span_of(function),
        };
        self.assigned = outer;
        self.put_function(lowered)
    }

    fn arrow(&mut self, arrow: &ArrowFunctionExpression<'a>) -> FunctionId {
        let outer = std::mem::take(&mut self.assigned);
        let statements = match &arrow.body {
            oxc_ast::ast::ArrowFunctionBody::FunctionBody(body) => &body.statements[..],
            _ => &[],
        };
        let scope = self.scope(arrow.scope_id.get(), statements);
        let (parameters, rest) = self.parameters(&arrow.params);
        let body = match arrow.body.as_expression() {
            Some(own) => FunctionBody::Expression(self.expression(own)),
            None => FunctionBody::Statements(self.statements(statements)),
        };
        let kind = if arrow.r#async { FunctionKind::Async } else { FunctionKind::Plain };
        let is_strict = self.is_strict(arrow.scope_id.get());
        self.assigned = outer;
        self.put_function(super::Function {
            own_variable: None,
            scope,
            parameters,
            rest,
            body,
            kind,
            is_arrow: true,
            is_strict,
            span: span_of(arrow),
        })
    }

    fn is_strict(&self, scope: Option<ScopeId>) -> bool {
        scope.is_some_and(|scope| self.semantic.scoping().scope_flags(scope).is_strict_mode())
    }

    fn put_function(&mut self, function: super::Function) -> FunctionId {
        self.program.functions.push(function);
        FunctionId(self.program.functions.len() as u32 - 1)
    }

    fn parameters(&mut self, parameters: &FormalParameters<'a>) -> (Box<[PatternId]>, Option<PatternId>) {
        let names = parameters.items.iter().flat_map(|own| own.pattern.get_binding_identifiers());
        self.parameters.extend(names.filter_map(|name| name.symbol_id.get()));
        let mut items = Vec::with_capacity(parameters.items.len());
        for own in &parameters.items {
            let pattern = self.binding(&own.pattern);
            items.push(match &own.initializer {
                Some(value) => {
                    let value = self.expression(value);
                    self.put_pattern(span_of(own), Pattern::Default(pattern, value))
                }
                None => pattern,
            });
        }
        let rest = parameters.rest.as_ref().map(|rest| self.binding(&rest.rest.argument));
        (items.into(), rest)
    }

    pub(super) fn class(&mut self, class: &Class<'a>) -> ClassId {
        let parent = class.heritage.as_ref().map(|heritage| self.expression(&heritage.expression));
        let mut members = Vec::new();
        let mut constructor = None;
        let mut calls_super = false;
        for element in &class.body.body {
            match element {
                ClassElement::MethodDefinition(own) => {
                    let key = self.key(&own.key);
                    let outer = std::mem::take(&mut self.has_super);
                    let function = self.function(&own.value);
                    let has_super = std::mem::replace(&mut self.has_super, outer);
                    let kind = match own.kind {
                        MethodDefinitionKind::Constructor => {
                            calls_super = has_super;
                            constructor = Some(function);
                            continue;
                        }
                        MethodDefinitionKind::Method => MemberKind::Method(function),
                        MethodDefinitionKind::Get => MemberKind::Getter(function),
                        MethodDefinitionKind::Set => MemberKind::Setter(function),
                    };
                    members.push(ClassMember { key, is_static: own.r#static, kind });
                }
                ClassElement::PropertyDefinition(own) => {
                    let key = self.key(&own.key);
                    let value = own.value.as_ref().map(|value| self.expression(value));
                    members.push(ClassMember {
                        key,
                        is_static: own.r#static,
                        kind: MemberKind::Field(value),
                    });
                }
                ClassElement::StaticBlock(own) => members.push(self.static_block(own)),
                _ => {}
            }
        }
        let name = class.id.as_ref();
        let lowered = super::Class {
            own_variable: name
                .and_then(|id| id.symbol_id.get())
                .map(|symbol| Variable(symbol.index() as u32)),
            parent,
            calls_super,
            constructor,
            members: members.into(),
        };
        self.program.classes.push(lowered);
        ClassId(self.program.classes.len() as u32 - 1)
    }

    fn static_block(&mut self, block: &StaticBlock<'a>) -> ClassMember {
        let scope = self.scope(block.scope_id.get(), &block.body);
        let body = self.statements(&block.body);
        ClassMember { key: Key::Name(Arc::from("")), is_static: true, kind: MemberKind::Block(scope, body) }
    }

    pub(super) fn simple_target(&mut self, target: &SimpleAssignmentTarget<'a>) -> PatternId {
        let span = span_of(target);
        match target {
            SimpleAssignmentTarget::AssignmentTargetIdentifier(own) => self.name_target(own),
            other => {
                let member = match other.as_member_expression() {
                    Some(member) => self.member(member),
                    None => super::Expression::Opaque(Box::new([])),
                };
                let member = self.put(span, member);
                self.put_pattern(span, Pattern::Member(member))
            }
        }
    }

    pub(super) fn declaration_kind(kind: oxc_ast::ast::VariableDeclarationKind) -> DeclarationKind {
        match kind {
            oxc_ast::ast::VariableDeclarationKind::Var => DeclarationKind::Var,
            oxc_ast::ast::VariableDeclarationKind::Let => DeclarationKind::Let,
            _ => DeclarationKind::Const,
        }
    }
}

/// A private name cannot be any other member's.
fn private_name(name: &str) -> Arc<str> {
    Arc::from(format!("#{name}"))
}

/// The texts of a template, between its values.
fn texts_of(template: &oxc_ast::ast::TemplateLiteral<'_>) -> Box<[Arc<str>]> {
    let text = |quasi: &oxc_ast::ast::TemplateElement<'_>| {
        Arc::from(quasi.value.cooked.as_ref().map_or("", |text| text.as_str()))
    };
    template.quasis.iter().map(text).collect()
}
