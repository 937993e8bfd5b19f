//! The parser's tree into a program: statements.

use std::sync::Arc;

use oxc_ast::ast::{
    CatchClause, Declaration, ExportDefaultDeclarationKind, ForStatementInit, ForStatementLeft,
    ImportDeclarationSpecifier, Statement, VariableDeclaration,
};
use oxc_span::GetSpan;
use oxc_syntax::scope::ScopeId;

use super::lowering::{Lowering, span_of};
use super::{Case, Expression, Handler, LoopHead, Scope, Statement as Out, StatementId, Variable};
use crate::source::Span;

impl<'a> Lowering<'_, 'a> {
    pub(super) fn statements(&mut self, statements: &[Statement<'a>]) -> Box<[StatementId]> {
        statements.iter().map(|statement| self.statement(statement)).collect()
    }

    /// What an `if` runs. A function that is declared there stands as in a block (ECMA-262, B.3.4).
    fn branch(&mut self, statement: &Statement<'a>) -> StatementId {
        let Statement::FunctionDeclaration(function) = statement else { return self.statement(statement) };
        let symbol = function.id.as_ref().and_then(|name| name.symbol_id.get());
        let around = symbol.map(|symbol| self.semantic.scoping().symbol_scope_id(symbol));
        let mut declared = around.and_then(|around| self.declared_function(around, function));
        if let Some(own) = &mut declared {
            own.hoisted = own.hoisted.or(Some(own.variable));
        }
        let scope = Scope { functions: declared.into_iter().collect(), ..Scope::default() };
        self.put_statement(span_of(&**function), Out::Block(scope, Box::default()))
    }

    pub(super) fn statement(&mut self, statement: &Statement<'a>) -> StatementId {
        let span = span_of(statement);
        let out = match statement {
            Statement::ExpressionStatement(own) => Out::Expression(self.expression(&own.expression)),
            Statement::BlockStatement(own) => {
                let scope = self.scope(own.scope_id.get(), &own.body);
                Out::Block(scope, self.statements(&own.body))
            }
            Statement::VariableDeclaration(own) => self.variables(own),
            Statement::ClassDeclaration(own) => self.class_declaration(own),
            Statement::IfStatement(own) => Out::If {
                test: self.expression(&own.test),
                consequent: self.branch(&own.consequent),
                alternate: own.alternate.as_ref().map(|alternate| self.branch(alternate)),
            },
            Statement::ForStatement(own) => {
                self.assigned.push(Vec::new());
                let scope = self.scope(own.scope_id.get(), &[]);
                let init = own.init.as_ref().map(|init| match init {
                    ForStatementInit::VariableDeclaration(own) => {
                        let variables = self.variables(own);
                        self.put_statement(span_of(&**own), variables)
                    }
                    other => {
                        let span = other.span();
                        let inner = match other.as_expression() {
                            Some(own) => self.expression(own),
                            None => self.put(span_of(other), Expression::Opaque(Box::new([]))),
                        };
                        self.put_statement(Span { start: span.start, end: span.end }, Out::Expression(inner))
                    }
                });
                let test = own.test.as_ref().map(|test| self.expression(test));
                let update = own.update.as_ref().map(|update| self.expression(update));
                let body = self.statement(&own.body);
                Out::For { scope, init, test, update, body, assigned: self.assigned_in_loop() }
            }
            Statement::ForInStatement(own) => {
                let over = self.expression(&own.right);
                let (scope, head, body, assigned) = self.each(own.scope_id.get(), &own.left, &own.body);
                Out::ForIn { scope, head, over, body, assigned }
            }
            Statement::ForOfStatement(own) => {
                let over = self.expression(&own.right);
                let (scope, head, body, assigned) = self.each(own.scope_id.get(), &own.left, &own.body);
                Out::ForOf { scope, head, over, awaits: own.r#await, body, assigned }
            }
            Statement::WhileStatement(own) => {
                self.assigned.push(Vec::new());
                let test = self.expression(&own.test);
                let body = self.statement(&own.body);
                Out::While { test, body, assigned: self.assigned_in_loop() }
            }
            Statement::DoWhileStatement(own) => {
                self.assigned.push(Vec::new());
                let body = self.statement(&own.body);
                let test = self.expression(&own.test);
                Out::DoWhile { body, test, assigned: self.assigned_in_loop() }
            }
            Statement::ReturnStatement(own) => {
                Out::Return(own.argument.as_ref().map(|argument| self.expression(argument)))
            }
            Statement::ThrowStatement(own) => Out::Throw(self.expression(&own.argument)),
            Statement::TryStatement(own) => {
                let scope = self.scope(own.block.scope_id.get(), &own.block.body);
                let body = self.statements(&own.block.body);
                let block = self.put_statement(span_of(&*own.block), Out::Block(scope, body));
                let handler = own.handler.as_ref().map(|handler| self.handler(handler));
                let finalizer = own.finalizer.as_ref().map(|block| {
                    let scope = self.scope(block.scope_id.get(), &block.body);
                    let body = self.statements(&block.body);
                    self.put_statement(span_of(&**block), Out::Block(scope, body))
                });
                Out::Try { block, handler, finalizer }
            }
            Statement::SwitchStatement(own) => {
                let value = self.expression(&own.discriminant);
                let mut scope = self.scope(own.scope_id.get(), &[]);
                if let Some(id) = own.scope_id.get() {
                    let all = own.cases.iter().map(|case| &case.consequent);
                    let functions = all.flat_map(|case| self.declared_functions(id, case));
                    scope.functions = functions.collect();
                }
                let mut cases = Vec::with_capacity(own.cases.len());
                for case in &own.cases {
                    let test = case.test.as_ref().map(|test| self.expression(test));
                    cases.push(Case { test, body: self.statements(&case.consequent) });
                }
                Out::Switch { scope, value, cases: cases.into() }
            }
            Statement::LabeledStatement(own) => {
                Out::Labeled(Arc::from(own.label.name.as_str()), self.statement(&own.body))
            }
            Statement::BreakStatement(own) => {
                Out::Break(own.label.as_ref().map(|label| Arc::from(label.name.as_str())))
            }
            Statement::ContinueStatement(own) => {
                Out::Continue(own.label.as_ref().map(|label| Arc::from(label.name.as_str())))
            }
            Statement::WithStatement(own) => {
                Out::With(self.expression(&own.object), self.statement(&own.body))
            }
            Statement::ImportDeclaration(own) => {
                let local = |specifier: &ImportDeclarationSpecifier<'a>| {
                    let symbol = specifier.local().symbol_id.get()?;
                    Some(Variable(symbol.index() as u32))
                };
                Out::Import(own.specifiers.iter().flatten().filter_map(local).collect())
            }
            Statement::ExportDeclaration(own) => match &own.declaration {
                Declaration::VariableDeclaration(own) => self.variables(own),
                Declaration::ClassDeclaration(own) => self.class_declaration(own),
                _ => Out::Empty,
            },
            Statement::ExportDefaultDeclaration(own) => match &own.declaration {
                ExportDefaultDeclarationKind::ClassDeclaration(own) => self.class_declaration(own),
                other => match other.as_expression() {
                    Some(own) => Out::Expression(self.expression(own)),
                    None => Out::Empty,
                },
            },
            _ => Out::Empty,
        };
        self.put_statement(span, out)
    }

    /// What was assigned in the loop that ends here, which is assigned in those around it too.
    fn assigned_in_loop(&mut self) -> Box<[Variable]> {
        let mut all = self.assigned.pop().unwrap_or_default();
        all.sort_unstable();
        all.dedup();
        if let Some(outer) = self.assigned.last_mut() {
            outer.extend(all.iter().copied());
        }
        all.into()
    }

    fn each(
        &mut self,
        scope: Option<ScopeId>,
        left: &ForStatementLeft<'a>,
        body: &Statement<'a>,
    ) -> (super::Scope, LoopHead, StatementId, Box<[Variable]>) {
        self.assigned.push(Vec::new());
        let scope = self.scope(scope, &[]);
        let head = match left {
            ForStatementLeft::VariableDeclaration(own) => match own.declarations.first() {
                Some(first) => LoopHead::Declared(self.binding(&first.id)),
                None => LoopHead::Assigned(self.no_target(span_of(left))),
            },
            other => match other.as_assignment_target() {
                Some(target) => LoopHead::Assigned(self.target(target)),
                None => LoopHead::Assigned(self.no_target(span_of(left))),
            },
        };
        let body = self.statement(body);
        (scope, head, body, self.assigned_in_loop())
    }

    fn no_target(&mut self, span: Span) -> super::PatternId {
        let nothing = self.put(span, Expression::Opaque(Box::new([])));
        self.put_pattern(span, super::Pattern::Member(nothing))
    }

    fn handler(&mut self, handler: &CatchClause<'a>) -> Handler {
        let mut scope = self.scope(handler.scope_id.get(), &[]);
        let parameter = handler.param.as_ref().map(|parameter| self.binding(&parameter.pattern));
        let mut inner = self.scope(handler.body.scope_id.get(), &handler.body.body);
        // The parameter is no variable of the block.
        let caught = parameter.map(|parameter| self.program.variables_of(parameter)).unwrap_or_default();
        let is_own = |variable: &Variable| !caught.contains(variable) && !scope.plain.contains(variable);
        inner.plain = inner.plain.iter().copied().filter(is_own).collect();
        inner.late = inner.late.iter().copied().filter(|own| !caught.contains(own)).collect();
        let others: Vec<Variable> = scope.plain.iter().copied().filter(|own| !caught.contains(own)).collect();
        scope.plain = caught.into_iter().chain(others).collect();
        scope.late = Box::default();
        let body = self.statements(&handler.body.body);
        let body = self.put_statement(span_of(&*handler.body), Out::Block(inner, body));
        Handler { scope, parameter, body }
    }

    fn variables(&mut self, declaration: &VariableDeclaration<'a>) -> Out {
        let mut all = Vec::with_capacity(declaration.declarations.len());
        for own in &declaration.declarations {
            let pattern = self.binding(&own.id);
            all.push((pattern, own.init.as_ref().map(|init| self.expression(init))));
        }
        Out::Variables(Self::declaration_kind(declaration.kind), all.into())
    }

    fn class_declaration(&mut self, class: &oxc_ast::ast::Class<'a>) -> Out {
        let symbol = class.id.as_ref().and_then(|id| id.symbol_id.get());
        let lowered = self.class(class);
        match symbol {
            Some(symbol) => Out::Class(Variable(symbol.index() as u32), lowered),
            None => Out::Empty,
        }
    }
}
