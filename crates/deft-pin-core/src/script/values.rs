//! What expressions of a script may come to, as far as its text tells: the global object, a global
//! by its name, a function, an object literal, a string.
//!
//! It is long since each kind of expression has its arm, and they ask each other in turn. What calls look up
//! stands in `lookups`, what tests come to in `truths`.

use std::borrow::Cow;
use std::cell::RefCell;

use rustc_hash::FxHashMap;
use smallvec::{SmallVec, smallvec};

use super::frame::ROOT;
use super::syntax::ScriptKind;
use oxc_ast::AstKind;
use oxc_ast::ast::{
    Argument, ArrayExpression, ArrowFunctionBody, ArrowFunctionExpression, AssignmentTarget, BindingPattern,
    CallExpression, ChainElement, Class, ClassElement, Expression, Function, MethodDefinitionKind,
    ObjectExpression, ObjectPropertyKind, Statement,
};
use oxc_semantic::{NodeId, Semantic, SymbolId};
use oxc_span::GetSpan;
use oxc_syntax::operator::{BinaryOperator, LogicalOperator};

/// How far values are followed from one name to the next.
pub(super) const DEEPEST: usize = 12;
/// The most values that an expression is taken to have.
const MOST: usize = 16;

/// What an expression may come to.
#[derive(Clone)]
pub(super) enum Value<'a> {
    /// The global object.
    Global,
    /// The document.
    Document,
    /// A global that is not the browser's, or one of its functions, by name.
    Named(Cow<'a, str>),
    /// A function.
    Function(Callable<'a>),
    /// An object literal.
    Object(&'a ObjectExpression<'a>),
    /// An array literal with functions in it.
    Array(&'a ArrayExpression<'a>),
    /// What a module of a bundle gives out, by the name that it has for that.
    Exports(SymbolId),
    /// A string.
    Text(Cow<'a, str>),
    /// An element, or several, that a selector finds.
    Found(Cow<'a, str>),
}

/// All that an expression may come to, which is one value nearly always.
pub(super) type Possible<'a> = SmallVec<[Value<'a>; 1]>;

/// A function of the script.
#[derive(Clone, Copy)]
pub(super) enum Callable<'a> {
    Function(&'a Function<'a>),
    Arrow(&'a ArrowFunctionExpression<'a>),
}

impl<'a> Callable<'a> {
    pub(super) fn id(self) -> NodeId {
        match self {
            Callable::Function(function) => function.node_id.get(),
            Callable::Arrow(arrow) => arrow.node_id.get(),
        }
    }

    /// What it gives back, where that is all that it does.
    pub(super) fn only_result(self) -> Option<&'a Expression<'a>> {
        let body = match self {
            Callable::Function(function) => function.body.as_ref()?,
            Callable::Arrow(arrow) => match &arrow.body {
                ArrowFunctionBody::FunctionBody(body) => body,
                body => return body.as_expression(),
            },
        };
        match body.statements.as_slice() {
            [Statement::ReturnStatement(own)] => own.argument.as_ref(),
            _ => None,
        }
    }

    /// The symbols of its parameters, where they are plain names.
    pub(super) fn parameters(self) -> Vec<Option<SymbolId>> {
        let items = match self {
            Callable::Function(function) => &function.params.items,
            Callable::Arrow(arrow) => &arrow.params.items,
        };
        items.iter().map(|item| symbol_of(&item.pattern)).collect()
    }
}

pub(super) fn symbol_of(pattern: &BindingPattern<'_>) -> Option<SymbolId> {
    match pattern {
        BindingPattern::BindingIdentifier(name) => name.symbol_id.get(),
        _ => None,
    }
}

/// A script with what its names may stand for.
pub(super) struct Values<'s, 'a> {
    pub(super) semantic: &'s Semantic<'a>,
    /// What is assigned to each variable.
    assigned: FxHashMap<SymbolId, Vec<&'a Expression<'a>>>,
    declared: FxHashMap<SymbolId, Callable<'a>>,
    /// The classes that are declared by name.
    classes: FxHashMap<SymbolId, &'a Class<'a>>,
    /// What parameters are called with.
    passed: FxHashMap<SymbolId, Possible<'a>>,
    /// What is assigned to properties of variables.
    properties: FxHashMap<SymbolId, FxHashMap<&'a str, Vec<&'a Expression<'a>>>>,
    /// Whether functions may have been passed to others.
    pub(super) has_passed_functions: bool,
    /// Whether more is known of what functions are called with since what is remembered was forgotten.
    knows_more: bool,
    /// What functions are taken from and called by the number that is in a variable.
    called_by_number: FxHashMap<SymbolId, &'a Expression<'a>>,
    /// What functions give back.
    pub(super) returned: FxHashMap<NodeId, Vec<&'a Expression<'a>>>,
    /// What `this` is in functions that are called with one.
    this: FxHashMap<NodeId, Possible<'a>>,
    /// What variables and functions have been found to come to.
    symbols: RefCell<FxHashMap<SymbolId, Possible<'a>>>,
    results: RefCell<FxHashMap<NodeId, Possible<'a>>>,
    /// What calls have been found to come to.
    calls: RefCell<FxHashMap<NodeId, Possible<'a>>>,
    /// What modules of bundles have been found to give out, by their loader and their number.
    given_out: RefCell<FxHashMap<(NodeId, String), Possible<'a>>>,
    /// The nodes that say something of the script, and those by which is told what of it runs.
    pub(super) telling: Vec<NodeId>,
    pub(super) steering: Vec<NodeId>,
    /// The function that each node stands in.
    pub(super) function_of: Vec<Option<NodeId>>,
    kind: ScriptKind,
}

impl<'s, 'a> Values<'s, 'a> {
    pub(super) fn new(semantic: &'s Semantic<'a>, kind: ScriptKind) -> Self {
        let mut values = Values {
            semantic,
            assigned: FxHashMap::default(),
            declared: FxHashMap::default(),
            classes: FxHashMap::default(),
            passed: FxHashMap::default(),
            properties: FxHashMap::default(),
            has_passed_functions: false,
            knows_more: false,
            called_by_number: FxHashMap::default(),
            calls: RefCell::default(),
            given_out: RefCell::default(),
            returned: FxHashMap::default(),
            this: FxHashMap::default(),
            symbols: RefCell::default(),
            results: RefCell::default(),
            telling: Vec::with_capacity(semantic.nodes().len() / 2),
            steering: Vec::with_capacity(semantic.nodes().len() / 4),
            function_of: Vec::with_capacity(semantic.nodes().len()),
            kind,
        };
        for (id, node) in semantic.nodes().iter_enumerated() {
            let parent = semantic.nodes().parent_id(id);
            let function = match semantic.nodes().kind(parent) {
                _ if parent == id => None,
                AstKind::Function(_) | AstKind::ArrowFunctionExpression(_) => Some(parent),
                // A field gets its value when an object of the class is made, as by a function
                // (ECMAScript, "ClassFieldDefinitionEvaluation").
                AstKind::PropertyDefinition(own)
                    if !own.r#static
                        && own.value.as_ref().is_some_and(|value| value.span() == node.kind().span()) =>
                {
                    Some(parent)
                }
                _ => values.function_of.get(parent.index()).copied().flatten(),
            };
            values.function_of.push(function);
            let kind = node.kind();
            if tells_something(kind) {
                values.telling.push(id);
            }
            if steers(kind) {
                values.steering.push(id);
            }
            values.gather(kind, function);
        }
        values
    }

    fn gather(&mut self, kind: AstKind<'a>, function: Option<NodeId>) {
        match kind {
            AstKind::VariableDeclarator(own) => {
                if let (Some(symbol), Some(init)) = (symbol_of(&own.id), &own.init) {
                    self.assigned.entry(symbol).or_default().push(init);
                }
            }
            AstKind::FormalParameter(own) => {
                if let (Some(symbol), Some(init)) = (symbol_of(&own.pattern), &own.initializer) {
                    self.assigned.entry(symbol).or_default().push(init);
                }
            }
            AstKind::AssignmentExpression(own) => match &own.left {
                AssignmentTarget::AssignmentTargetIdentifier(name) => {
                    if let Some(symbol) = self.symbol(name) {
                        self.assigned.entry(symbol).or_default().push(&own.right);
                    }
                }
                AssignmentTarget::StaticMemberExpression(member) => {
                    self.gather_property(&member.object, &member.property.name, &own.right);
                }
                AssignmentTarget::ComputedMemberExpression(member) => {
                    if let Expression::StringLiteral(name) = &member.expression {
                        self.gather_property(&member.object, &name.value, &own.right);
                    }
                }
                _ => {}
            },
            AstKind::Function(own) => {
                if let Some(symbol) = own.id.as_ref().and_then(|id| id.symbol_id.get()) {
                    self.declared.insert(symbol, Callable::Function(own));
                }
            }
            AstKind::Class(own) => {
                let symbol = own.id.as_ref().and_then(|id| id.symbol_id.get());
                self.classes.extend(symbol.map(|symbol| (symbol, own)));
                if let Some((symbol, constructor)) = symbol.zip(constructor(own)) {
                    self.declared.insert(symbol, constructor);
                }
            }
            AstKind::CallExpression(own) => {
                // `modules[number](…)`, `modules[number].call(…)`
                let called = match own.callee.without_parentheses() {
                    Expression::StaticMemberExpression(member) if member.property.name == "call" => {
                        member.object.without_parentheses()
                    }
                    callee => callee,
                };
                if let Expression::ComputedMemberExpression(member) = called
                    && let Expression::Identifier(name) = &member.expression
                    && let Some(symbol) = self.symbol(name)
                {
                    self.called_by_number.insert(symbol, &member.object);
                }
            }
            AstKind::ReturnStatement(own) => {
                if let (Some(function), Some(argument)) = (function, &own.argument) {
                    self.returned.entry(function).or_default().push(argument);
                }
            }
            AstKind::ArrowFunctionExpression(own) => {
                if let Some(expression) = own.body.as_expression() {
                    self.returned.entry(own.node_id.get()).or_default().push(expression);
                }
            }
            _ => {}
        }
    }

    fn gather_property(&mut self, object: &Expression<'a>, name: &'a str, value: &'a Expression<'a>) {
        if let Expression::Identifier(own) = object
            && let Some(symbol) = self.symbol(own)
        {
            self.properties.entry(symbol).or_default().entry(name).or_default().push(value);
        }
    }

    /// What is assigned to a property of a variable.
    fn given_to(&self, symbol: SymbolId, name: &str) -> &[&'a Expression<'a>] {
        self.properties.get(&symbol).and_then(|own| own.get(name)).map_or(&[], Vec::as_slice)
    }

    /// The variable of the script that a name means; none for a global.
    pub(super) fn symbol(&self, name: &oxc_ast::ast::IdentifierReference<'a>) -> Option<SymbolId> {
        let reference = name.reference_id.get()?;
        self.semantic.scoping().get_reference(reference).symbol_id()
    }

    /// What is assigned to a variable.
    pub(super) fn sources(&self, symbol: SymbolId) -> &[&'a Expression<'a>] {
        self.assigned.get(&symbol).map_or(&[], Vec::as_slice)
    }

    /// Notes what a function is called with.
    pub(super) fn pass(
        &mut self,
        callable: Callable<'a>,
        this: Option<&[Value<'a>]>,
        arguments: &[Possible<'a>],
    ) {
        let symbols = callable.parameters();
        for (symbol, values) in symbols.into_iter().zip(arguments) {
            let Some(symbol) = symbol else { continue };
            let known = self.passed.entry(symbol).or_default();
            if known.len() < MOST && !values.is_empty() {
                self.has_passed_functions |= values.iter().any(holds_functions);
                known.extend(values.iter().cloned());
                self.knows_more = true;
                self.symbols.borrow_mut().remove(&symbol);
            }
        }
        if let Some(this) = this {
            let known = self.this.entry(callable.id()).or_default();
            if known.len() < MOST {
                self.has_passed_functions |= this.iter().any(holds_functions);
                self.knows_more |= !this.is_empty();
                known.extend(this.iter().cloned());
            }
        }
    }

    /// What an expression may come to.
    pub(super) fn of(&self, expression: &'a Expression<'a>) -> Possible<'a> {
        self.at(expression, 0)
    }

    pub(super) fn at(&self, expression: &'a Expression<'a>, depth: usize) -> Possible<'a> {
        if depth > DEEPEST {
            return Possible::new();
        }
        let next = |inner: &'a Expression<'a>| self.at(inner, depth + 1);
        let both = |mut first: Possible<'a>, second: Possible<'a>| {
            first.extend(second);
            first.truncate(MOST);
            first
        };
        match expression {
            Expression::Identifier(name) => match self.symbol(name) {
                Some(symbol) => self.of_symbol(symbol, depth),
                None if self.kind == ScriptKind::Confined && name.name == ROOT => {
                    smallvec![Value::Found(Cow::Borrowed(":scope"))]
                }
                None => smallvec![global(Cow::Borrowed(name.name.as_str()))],
            },
            Expression::ThisExpression(this) => self.of_this(this.node_id.get()),
            Expression::ParenthesizedExpression(inner) => next(&inner.expression),
            Expression::SequenceExpression(inner) => inner.expressions.last().map(next).unwrap_or_default(),
            Expression::AssignmentExpression(inner) => next(&inner.right),
            Expression::AwaitExpression(inner) => next(&inner.argument),
            Expression::ConditionalExpression(inner) => match self.truth(&inner.test) {
                Some(true) => next(&inner.consequent),
                Some(false) => next(&inner.alternate),
                None => both(next(&inner.consequent), next(&inner.alternate)),
            },
            Expression::LogicalExpression(inner) => match (self.truth(&inner.left), inner.operator) {
                (Some(true), LogicalOperator::And) | (Some(false), LogicalOperator::Or) => next(&inner.right),
                (Some(false), LogicalOperator::And) => Possible::new(),
                (_, LogicalOperator::And) => next(&inner.right),
                _ => both(next(&inner.left), next(&inner.right)),
            },
            Expression::FunctionExpression(function) => {
                smallvec![Value::Function(Callable::Function(function))]
            }
            Expression::ArrowFunctionExpression(arrow) => smallvec![Value::Function(Callable::Arrow(arrow))],
            Expression::ClassExpression(class) => {
                constructor(class).map(Value::Function).into_iter().collect()
            }
            Expression::ObjectExpression(object) => smallvec![Value::Object(object)],
            Expression::ArrayExpression(array) if has_functions(array) => smallvec![Value::Array(array)],
            Expression::StringLiteral(text) => smallvec![Value::Text(Cow::Borrowed(text.value.as_str()))],
            Expression::TemplateLiteral(template) if template.expressions.is_empty() => {
                let text = template.quasis.first().and_then(|quasi| quasi.value.cooked.as_ref());
                text.map(|text| Value::Text(Cow::Borrowed(text.as_str()))).into_iter().collect()
            }
            Expression::TemplateLiteral(template) => {
                let mut whole = String::new();
                for (place, quasi) in template.quasis.iter().enumerate() {
                    whole.push_str(quasi.value.cooked.as_ref().map_or("", |text| text.as_str()));
                    if let Some(inner) = template.expressions.get(place) {
                        let Some(text) = self.text_at(inner, depth + 1) else { return Possible::new() };
                        whole.push_str(&text);
                    }
                }
                smallvec![Value::Text(Cow::Owned(whole))]
            }
            Expression::BinaryExpression(inner) if inner.operator == BinaryOperator::Addition => {
                let text = |side| self.text_at(side, depth + 1);
                match (text(&inner.left), text(&inner.right)) {
                    (Some(a), Some(b)) if a.len() + b.len() < 4096 => smallvec![Value::Text(a + b)],
                    _ => Possible::new(),
                }
            }
            Expression::StaticMemberExpression(member) => {
                self.member(&member.object, Cow::Borrowed(member.property.name.as_str()), depth)
            }
            Expression::ComputedMemberExpression(member) => match self.text_at(&member.expression, depth + 1)
            {
                Some(name) => self.member(&member.object, name, depth),
                None => Possible::new(),
            },
            Expression::ChainExpression(chain) => match &chain.expression {
                ChainElement::CallExpression(call) => self.of_call(call, depth),
                ChainElement::StaticMemberExpression(member) => {
                    self.member(&member.object, Cow::Borrowed(member.property.name.as_str()), depth)
                }
                _ => Possible::new(),
            },
            Expression::CallExpression(call) => self.of_call(call, depth),
            _ => Possible::new(),
        }
    }

    fn of_symbol(&self, symbol: SymbolId, depth: usize) -> Possible<'a> {
        if let Some(known) = self.symbols.borrow().get(&symbol) {
            return known.clone();
        }
        // Where it is asked for again on the way, it adds nothing.
        self.symbols.borrow_mut().insert(symbol, Possible::new());
        let mut found = Possible::new();
        if let Some(own) = self.declared.get(&symbol) {
            found.push(Value::Function(*own));
        }
        if let Some(all) = self.assigned.get(&symbol) {
            all.iter().take(MOST).for_each(|own| found.extend(self.at(own, depth + 1)));
        }
        if let Some(all) = self.passed.get(&symbol) {
            found.extend(all.iter().cloned());
        }
        found.truncate(MOST);
        self.symbols.borrow_mut().insert(symbol, found.clone());
        found
    }

    /// What calls of a function come to.
    fn of_returned(&self, function: NodeId, depth: usize) -> Possible<'a> {
        if let Some(known) = self.results.borrow().get(&function) {
            return known.clone();
        }
        self.results.borrow_mut().insert(function, Possible::new());
        let mut found = Possible::new();
        for own in self.returned.get(&function).into_iter().flatten().take(MOST) {
            found.extend(self.at(own, depth + 1));
        }
        found.truncate(MOST);
        self.results.borrow_mut().insert(function, found.clone());
        found
    }

    /// Forgets what is remembered, since more is known by now.
    pub(super) fn forget(&mut self) {
        if !std::mem::take(&mut self.knows_more) {
            return;
        }
        self.symbols.borrow_mut().clear();
        self.results.borrow_mut().clear();
        self.calls.borrow_mut().clear();
        self.given_out.borrow_mut().clear();
    }

    fn of_this(&self, node: NodeId) -> Possible<'a> {
        let nodes = self.semantic.nodes();
        for around in nodes.ancestor_ids(node) {
            match nodes.kind(around) {
                AstKind::Function(_) => return self.this.get(&around).cloned().unwrap_or_default(),
                // There it is the class, or what is made of it.
                AstKind::StaticBlock(_) | AstKind::PropertyDefinition(_) => return Possible::new(),
                _ => {}
            }
        }
        if self.kind == ScriptKind::Module { Possible::new() } else { smallvec![Value::Global] }
    }

    fn member(&self, object: &'a Expression<'a>, name: Cow<'a, str>, depth: usize) -> Possible<'a> {
        let mut found = Possible::new();
        if let Expression::Identifier(own) = object
            && let Some(symbol) = self.symbol(own)
        {
            for own in self.given_to(symbol, &name).iter().take(MOST) {
                found.extend(self.at(own, depth + 1));
            }
        }
        for value in self.at(object, depth + 1) {
            match value {
                Value::Global => found.push(global(name.clone())),
                Value::Object(object) => {
                    if let Some(own) = property(object, &name) {
                        found.extend(self.at(own, depth + 1));
                    }
                }
                Value::Exports(symbol) => {
                    for own in self.given_to(symbol, &name).iter().take(MOST) {
                        found.extend(self.at(own, depth + 1));
                    }
                }
                Value::Array(array) => {
                    found.extend(element(array, &name).into_iter().flat_map(|own| self.at(own, depth + 1)));
                }
                Value::Document => match &*name {
                    "body" => found.push(Value::Found(Cow::Borrowed("body"))),
                    "documentElement" => found.push(Value::Found(Cow::Borrowed("html"))),
                    "defaultView" => found.push(Value::Global),
                    _ => {}
                },
                _ => {}
            }
        }
        found.truncate(MOST);
        found
    }

    fn of_call(&self, call: &'a CallExpression<'a>, depth: usize) -> Possible<'a> {
        let id = call.node_id.get();
        if let Some(known) = self.calls.borrow().get(&id) {
            return known.clone();
        }
        // Calls stand in calls, and each asks several times for what is in it.
        self.calls.borrow_mut().insert(id, Possible::new());
        let found = self.called(call, depth);
        self.calls.borrow_mut().insert(id, found.clone());
        found
    }

    fn called(&self, call: &'a CallExpression<'a>, depth: usize) -> Possible<'a> {
        if let Some(lookup) = self.lookup_at(call, depth) {
            return smallvec![Value::Found(Cow::Owned(lookup))];
        }
        let mut found = Possible::new();
        let first = plain(&call.arguments).next();
        for callable in self.callees(&call.callee, depth) {
            found.extend(self.of_returned(callable.id(), depth));
            if let Some(place) = first.and_then(|first| self.text_at(first, depth + 1)) {
                found.extend(self.of_module(callable, &place, depth));
            }
        }
        found.extend(self.of_native_call(call.callee.without_parentheses(), first, depth));
        found.truncate(MOST);
        found
    }

    /// What calls of the language's own functions come to that old code gets at the global object by.
    fn of_native_call(
        &self,
        callee: &'a Expression<'a>,
        first: Option<&'a Expression<'a>>,
        depth: usize,
    ) -> Possible<'a> {
        let is_native = |callee: &Expression<'a>, wanted: &str| matches!(callee, Expression::Identifier(name) if name.name == wanted && self.symbol(name).is_none());
        let is_eval = match callee {
            Expression::SequenceExpression(inner) => {
                inner.expressions.last().is_some_and(|last| is_native(last, "eval"))
            }
            callee => is_native(callee, "eval"),
        };
        match (callee, first) {
            // `Function("return this")()`
            (Expression::CallExpression(inner), _) if is_native(&inner.callee, "Function") => {
                smallvec![Value::Global]
            }
            (Expression::NewExpression(inner), _) if is_native(&inner.callee, "Function") => {
                smallvec![Value::Global]
            }
            (_, Some(first)) if is_eval && self.text_at(first, depth + 1).as_deref() == Some("this") => {
                smallvec![Value::Global]
            }
            (callee, Some(first)) if is_native(callee, "Object") => self.at(first, depth + 1),
            _ => Possible::new(),
        }
    }

    /// What the module of a bundle gives out that a function calls by its number: `modules[n].call(…)`.
    fn of_module(&self, loader: Callable<'a>, place: &str, depth: usize) -> Possible<'a> {
        let number = loader.parameters().first().copied().flatten();
        let Some(modules) = number.and_then(|number| self.called_by_number.get(&number)) else {
            return Possible::new();
        };
        let key = (loader.id(), place.to_owned());
        if let Some(known) = self.given_out.borrow().get(&key) {
            return known.clone();
        }
        // Where it is asked for again on the way, it adds nothing.
        self.given_out.borrow_mut().insert(key.clone(), Possible::new());
        let mut found = Possible::new();
        for value in self.at(modules, depth + 1) {
            let module = match value {
                Value::Object(object) => property(object, place),
                Value::Array(array) => element(array, place),
                _ => None,
            };
            for module in module.map(|module| self.callees(module, depth + 1)).unwrap_or_default() {
                let parameters = module.parameters();
                let own = parameters.first().copied().flatten();
                let own = own.map_or(&[][..], |own| self.given_to(own, "exports"));
                found.extend(own.iter().take(MOST).flat_map(|own| self.at(own, depth + 1)));
                found.extend(parameters.get(1).copied().flatten().map(Value::Exports));
            }
        }
        found.truncate(MOST);
        self.given_out.borrow_mut().insert(key, found.clone());
        found
    }

    /// The class that a callee of `new` is, where that is plain.
    pub(super) fn class(&self, callee: &'a Expression<'a>) -> Option<&'a Class<'a>> {
        match callee.without_parentheses() {
            Expression::ClassExpression(class) => Some(class),
            Expression::Identifier(name) => {
                let symbol = self.symbol(name)?;
                let assigned = || match self.sources(symbol) {
                    [Expression::ClassExpression(class)] => Some(&**class),
                    _ => None,
                };
                self.classes.get(&symbol).copied().or_else(assigned)
            }
            _ => None,
        }
    }

    /// The functions that a callee may be.
    pub(super) fn callees(&self, callee: &'a Expression<'a>, depth: usize) -> Vec<Callable<'a>> {
        let values = self.at(callee, depth + 1).into_iter();
        values
            .filter_map(|value| match value {
                Value::Function(callable) => Some(callable),
                _ => None,
            })
            .collect()
    }

    /// The one text that an expression is sure to be.
    pub(super) fn text(&self, expression: &'a Expression<'a>) -> Option<Cow<'a, str>> {
        self.text_at(expression, 0)
    }

    pub(super) fn text_at(&self, expression: &'a Expression<'a>, depth: usize) -> Option<Cow<'a, str>> {
        // What a function is given is noted for each time that its call is come to.
        let values = self.at(expression, depth);
        let is_it = |text: &str| values.iter().all(|value| matches!(value, Value::Text(own) if own == text));
        match values.first() {
            Some(Value::Text(text)) if is_it(text) => Some(text.clone()),
            _ => match expression.without_parentheses() {
                Expression::NumericLiteral(number) if number.value.fract() == 0.0 => {
                    Some(Cow::Owned(format!("{}", number.value)))
                }
                _ => None,
            },
        }
    }
}

/// Whether a node is of a kind that says something of its script.
fn tells_something(kind: AstKind<'_>) -> bool {
    matches!(
        kind,
        AstKind::CallExpression(_)
            | AstKind::StaticMemberExpression(_)
            | AstKind::ComputedMemberExpression(_)
            | AstKind::ImportDeclaration(_)
            | AstKind::ExportAllDeclaration(_)
            | AstKind::ExportFromDeclaration(_)
            | AstKind::ExportNamedDeclaration(_)
            | AstKind::ExportDefaultDeclaration(_)
            | AstKind::ExportDeclaration(_)
            | AstKind::ImportExpression(_)
            | AstKind::StringLiteral(_)
            | AstKind::TemplateElement(_)
            | AstKind::AssignmentExpression(_)
    )
}

/// Whether a node is of a kind by which is told what of a script runs, and when.
fn steers(kind: AstKind<'_>) -> bool {
    matches!(
        kind,
        AstKind::CallExpression(_)
            | AstKind::NewExpression(_)
            | AstKind::AwaitExpression(_)
            | AstKind::ForOfStatement(_)
            | AstKind::Function(_)
            | AstKind::IfStatement(_)
            | AstKind::ConditionalExpression(_)
            | AstKind::LogicalExpression(_)
            | AstKind::PropertyDefinition(_)
            | AstKind::MethodDefinition(_)
    )
}

pub(super) fn is_global_object(name: &str) -> bool {
    matches!(name, "window" | "self" | "globalThis" | "frames")
}

/// What a global of that name is.
fn global(name: Cow<'_, str>) -> Value<'_> {
    match &*name {
        own if is_global_object(own) => Value::Global,
        "document" => Value::Document,
        _ => Value::Named(name),
    }
}

/// Whether a value may be a function of the script, or have one in it.
fn holds_functions(value: &Value<'_>) -> bool {
    match value {
        Value::Function(_) | Value::Array(_) | Value::Exports(_) => true,
        Value::Object(object) => object.properties.iter().any(|property| match property {
            ObjectPropertyKind::ObjectProperty(own) => own.method || !own.value.is_literal(),
            ObjectPropertyKind::SpreadProperty(_) => true,
        }),
        Value::Global | Value::Document | Value::Named(_) | Value::Text(_) | Value::Found(_) => false,
    }
}

/// The constructor of a class, which `new` calls.
fn constructor<'a>(class: &'a Class<'a>) -> Option<Callable<'a>> {
    class.body.body.iter().find_map(|element| match element {
        ClassElement::MethodDefinition(own) if own.kind == MethodDefinitionKind::Constructor => {
            Some(Callable::Function(&own.value))
        }
        _ => None,
    })
}

/// The value of a property of an object literal.
pub(super) fn property<'a>(object: &'a ObjectExpression<'a>, name: &str) -> Option<&'a Expression<'a>> {
    object.properties.iter().find_map(|property| match property {
        ObjectPropertyKind::ObjectProperty(own) if own.key.static_name().as_deref() == Some(name) => {
            Some(&own.value)
        }
        _ => None,
    })
}

/// Whether some element of an array literal is a function.
fn has_functions(array: &ArrayExpression<'_>) -> bool {
    let is_function = |element: &Expression<'_>| {
        matches!(
            element.without_parentheses(),
            Expression::FunctionExpression(_) | Expression::ArrowFunctionExpression(_)
        )
    };
    array.elements.iter().filter_map(|element| element.as_expression()).any(is_function)
}

/// The element of an array literal at a place.
fn element<'a>(array: &'a ArrayExpression<'a>, place: &str) -> Option<&'a Expression<'a>> {
    array.elements.get(place.parse::<usize>().ok()?)?.as_expression()
}

/// The expressions of a call's arguments, up to the first that spreads.
pub(super) fn plain<'a>(arguments: &'a [Argument<'a>]) -> impl Iterator<Item = &'a Expression<'a>> {
    arguments.iter().map_while(Argument::as_expression)
}

/// Whether what stands behind a statement is not reached after it.
pub(super) fn leaves(statement: &Statement<'_>) -> bool {
    match statement {
        Statement::ReturnStatement(_) | Statement::ThrowStatement(_) => true,
        Statement::BlockStatement(block) => block.body.last().is_some_and(leaves),
        _ => false,
    }
}

/// Where a node's text is.
pub(super) fn span_of(node: &impl GetSpan) -> crate::source::Span {
    let span = node.span();
    crate::source::Span { start: span.start, end: span.end }
}
