//! Which parts of a script run now, which later, and which never.

use rustc_hash::{FxHashMap, FxHashSet};

use oxc_ast::AstKind;
use oxc_ast::ast::{
    Argument, BindingIdentifier, CallExpression, ClassElement, ClassType, Expression, FunctionType,
    NewExpression, ObjectPropertyKind, Statement,
};
use oxc_semantic::NodeId;
use oxc_span::GetSpan;
use oxc_syntax::operator::{BinaryOperator, UnaryOperator};

use super::record::When;
use super::syntax::ScriptKind;
use super::values::{Callable, Possible, Value, Values, leaves, plain};

/// Methods that call what they are given at once.
const AT_ONCE: &[&str] = &[
    "forEach", "map", "filter", "some", "every", "find", "findIndex", "findLast", "reduce", "reduceRight",
    "sort", "flatMap", "from", "replace", "replaceAll", "each", "grep", "fromEntries", "assign",
];

/// Functions that call what they are given later.
const WAITS: &[&str] = &[
    "addEventListener", "queueMicrotask", "ready", "requestAnimationFrame", "requestIdleCallback",
    "setInterval", "setTimeout", "then",
];

pub(super) struct Reader<'s, 'a> {
    pub(super) text: &'a str,
    pub(super) kind: ScriptKind,
    pub(super) share: &'s [String],
    pub(super) values: Values<'s, 'a>,
    /// The functions that run now, or perhaps.
    pub(super) runs: FxHashMap<NodeId, When>,
    /// The nodes that never run in a browser; nothing where all may run.
    pub(super) dead: Vec<bool>,
    /// For each function, where its first `await` ends.
    pub(super) awaits: FxHashMap<Option<NodeId>, u32>,
}

enum Invocation<'a> {
    Call(&'a CallExpression<'a>),
    New(&'a NewExpression<'a>),
}

impl<'s, 'a> Reader<'s, 'a> {
    /// Finds out which functions run now: what the top level calls, what that calls, and so on.
    pub(super) fn run(&mut self) {
        self.find_dead();
        let nodes = self.values.semantic.nodes();
        // Each with the function that it stands in.
        let mut invocations: Vec<(Option<NodeId>, Invocation<'a>)> = Vec::new();
        for id in &self.values.steering {
            let function = self.values.function_of[id.index()];
            match nodes.kind(*id) {
                AstKind::CallExpression(call) if !self.is_dead(*id) => {
                    invocations.push((function, Invocation::Call(call)));
                }
                AstKind::NewExpression(new) if !self.is_dead(*id) => {
                    invocations.push((function, Invocation::New(new)));
                }
                AstKind::AwaitExpression(own) => note_await(&mut self.awaits, function, own.span.end),
                AstKind::ForOfStatement(own) if own.r#await => {
                    note_await(&mut self.awaits, function, own.right.span().end);
                }
                _ => {}
            }
        }
        invocations.sort_by_key(|(function, _)| *function);
        // What is passed to functions is known better the second time.
        for _ in 0..3 {
            let known = self.runs.len();
            self.values.forget();
            let mut done: FxHashSet<Option<NodeId>> = FxHashSet::default();
            let mut waiting: Vec<(Option<NodeId>, When)> = vec![(None, When::Now)];
            while let Some((function, when)) = waiting.pop() {
                if !done.insert(function) {
                    continue;
                }
                let first = invocations.partition_point(|(around, _)| *around < function);
                let inside = invocations[first..].iter().take_while(|(around, _)| *around == function);
                inside.for_each(|(_, invocation)| self.invoke(invocation, when, &mut waiting));
            }
            if known == self.runs.len() || !self.values.has_passed_functions {
                break;
            }
        }
        self.values.forget();
    }

    /// Finds the nodes that never run.
    fn find_dead(&mut self) {
        let nodes = self.values.semantic.nodes();
        let mut functions: FxHashSet<NodeId> = FxHashSet::default();
        // What never runs, by where it stands.
        let mut parts: FxHashSet<oxc_span::Span> = FxHashSet::default();
        for id in &self.values.steering {
            match nodes.kind(*id) {
                kind @ AstKind::Function(_) => functions.extend(self.is_never_called(kind).then_some(*id)),
                kind @ (AstKind::IfStatement(_)
                | AstKind::ConditionalExpression(_)
                | AstKind::LogicalExpression(_)) => parts.extend(self.dead_part(kind)),
                kind @ (AstKind::PropertyDefinition(_) | AstKind::MethodDefinition(_)) => {
                    parts.extend(self.unused_part(*id, kind));
                }
                _ => {}
            }
        }
        if functions.is_empty() && parts.is_empty() {
            return;
        }
        self.dead.reserve(nodes.len());
        for (id, node) in nodes.iter_enumerated() {
            let parent = nodes.parent_id(id);
            let is_below = || self.dead.get(parent.index()).copied().unwrap_or(false);
            let is_dead = parent != id
                && (is_below() || functions.contains(&id) || parts.contains(&node.kind().span()));
            self.dead.push(is_dead);
        }
    }

    fn is_dead(&self, node: NodeId) -> bool {
        self.dead.get(node.index()).copied().unwrap_or(false)
    }

    /// Whether a function is declared and nothing mentions it, nor can anything outside of the script.
    fn is_never_called(&self, node: AstKind<'a>) -> bool {
        let AstKind::Function(own) = node else { return false };
        let id = own.id.as_ref().filter(|_| own.r#type == FunctionType::FunctionDeclaration);
        id.is_some_and(|id| self.is_never_mentioned(id))
    }

    /// Where the value of a field or a method stands, of a class that is declared and that nothing mentions: no object of
    /// it is ever made.
    fn unused_part(&self, member: NodeId, kind: AstKind<'a>) -> Option<oxc_span::Span> {
        let value = match kind {
            AstKind::PropertyDefinition(field) if !field.r#static => field.value.as_ref()?.span(),
            AstKind::MethodDefinition(method) => method.value.span(),
            _ => return None,
        };
        let class = self.values.semantic.nodes().ancestor_kinds(member).find_map(|kind| match kind {
            AstKind::Class(class) => Some(class),
            _ => None,
        })?;
        let id = class.id.as_ref().filter(|_| class.r#type == ClassType::ClassDeclaration)?;
        self.is_never_mentioned(id).then_some(value)
    }

    /// Whether a name that is declared is mentioned nowhere, nor can be by anything outside of the script.
    fn is_never_mentioned(&self, id: &BindingIdentifier<'a>) -> bool {
        let Some(symbol) = id.symbol_id.get() else { return false };
        let scoping = self.values.semantic.scoping();
        let is_seen_outside = scoping.symbol_scope_id(symbol) == scoping.root_scope_id()
            && (self.kind != ScriptKind::Confined || self.share.iter().any(|own| own == id.name.as_str()));
        !is_seen_outside && scoping.symbol_is_unused(symbol)
    }

    /// Which part of a test never runs.
    fn dead_part(&self, test: AstKind<'a>) -> Option<oxc_span::Span> {
        match test {
            AstKind::IfStatement(own) => match self.values.truth(&own.test)? {
                true => own.alternate.as_ref().map(GetSpan::span),
                false => Some(own.consequent.span()),
            },
            AstKind::ConditionalExpression(own) => match self.values.truth(&own.test)? {
                true => Some(own.alternate.span()),
                false => Some(own.consequent.span()),
            },
            AstKind::LogicalExpression(own) => {
                use oxc_syntax::operator::LogicalOperator::{And, Or};
                let is_settled =
                    matches!((self.values.truth(&own.left)?, own.operator), (false, And) | (true, Or));
                is_settled.then(|| own.right.span())
            }
            _ => None,
        }
    }

    /// Whether a node never runs by what is known once all calls are: a test around it that is settled by what a
    /// bundle gives its modules.
    pub(super) fn is_ruled_out(&self, node: NodeId) -> bool {
        let nodes = self.values.semantic.nodes();
        let mut inner = node;
        for around in nodes.ancestor_ids(node) {
            if self.dead_part(nodes.kind(around)) == Some(nodes.kind(inner).span()) {
                return true;
            }
            inner = around;
        }
        false
    }

    fn invoke(&mut self, invocation: &Invocation<'a>, when: When, waiting: &mut Vec<(Option<NodeId>, When)>) {
        let (callee, arguments): (&'a Expression<'a>, &'a [Argument<'a>]) = match invocation {
            Invocation::Call(call) => (&call.callee, &call.arguments),
            Invocation::New(new) => (&new.callee, &new.arguments),
        };
        let bare = callee.without_parentheses();
        let member = bare.as_member_expression();
        let name = member.and_then(|member| member.static_property_name());
        let mut called = self.values.callees(callee, 0);
        let is_applied = called.is_empty() && matches!(name, Some("call" | "apply"));
        let is_promise = matches!(bare, Expression::Identifier(name) if name.name == "Promise" && self.values.symbol(name).is_none());
        let calls_given = is_promise || name.is_some_and(|name| AT_ONCE.contains(&name));
        let is_any = member.is_some() && name.is_none();
        let is_new = matches!(invocation, Invocation::New(_));
        // What is given to the platform's own tells nothing.
        if called.is_empty() && !is_applied && !calls_given && !is_any && !is_new {
            return;
        }
        let given: Vec<Possible<'a>> = plain(arguments).map(|one| self.values.of(one)).collect();
        let mut this = (!is_new && member.is_none()).then_some(&[Value::Global][..]);
        let mut passed = &given[..];
        let mut how = when;
        if let Some(member) = member.filter(|_| is_applied) {
            called = self.values.callees(member.object(), 0);
            if called.is_empty() {
                called = self.of_any(member.object());
                how = how.max(When::Perhaps);
            }
            this = given.first().map(Possible::as_slice);
            passed = if name == Some("call") { given.get(1..).unwrap_or_default() } else { &[] };
        }
        if is_any {
            called.extend(self.of_any(bare));
            how = how.max(When::Perhaps);
        }
        if calls_given {
            called.extend(functions(&given));
        }
        let class = is_new.then(|| self.values.class(callee)).flatten();
        for element in class.iter().flat_map(|class| &class.body.body) {
            if let ClassElement::PropertyDefinition(field) = element {
                self.note_run(field.node_id.get(), how, waiting);
            }
        }
        for callable in called {
            if let Callable::Function(function) = callable
                && function.generator
            {
                continue;
            }
            let this = this.filter(|_| {
                let is_plain = bare.as_member_expression().is_none();
                !is_plain || !self.is_strict(callable) && !asks_for_new(callable)
            });
            self.values.pass(callable, this, passed);
            self.note_run(callable.id(), how, waiting);
        }
    }

    fn note_run(&mut self, function: NodeId, how: When, waiting: &mut Vec<(Option<NodeId>, When)>) {
        let known = self.runs.entry(function).or_insert(how);
        *known = (*known).min(how);
        waiting.push((Some(function), how));
    }

    /// All functions in the object and array literals that `object[…]` is taken from: a bundle's modules.
    fn of_any(&self, expression: &'a Expression<'a>) -> Vec<Callable<'a>> {
        let values = self.any_members(expression, 0).into_iter();
        let functions = values.filter_map(|value| match value {
            Value::Function(callable) => Some(callable),
            _ => None,
        });
        functions.collect()
    }

    /// What `object[…]` may come to, whichever member it is.
    fn any_members(&self, expression: &'a Expression<'a>, depth: usize) -> Possible<'a> {
        const DEEPEST: usize = 2;
        let Expression::ComputedMemberExpression(member) = expression.without_parentheses() else {
            return Possible::new();
        };
        let mut objects = self.values.of(&member.object);
        if objects.is_empty() && depth < DEEPEST {
            objects = self.any_members(&member.object, depth + 1);
        }
        let place = self.values.text(&member.expression);
        let mut found = Possible::new();
        for value in objects {
            match (value, &place) {
                (Value::Object(object), place) => {
                    for property in &object.properties {
                        let ObjectPropertyKind::ObjectProperty(own) = property else { continue };
                        if place.is_none() || place.as_deref() == own.key.static_name().as_deref() {
                            found.extend(self.values.of(&own.value));
                        }
                    }
                }
                (Value::Array(array), place) => {
                    let only = place.as_ref().map(|place| place.parse::<usize>().ok());
                    for (at, element) in array.elements.iter().enumerate() {
                        if only.is_none_or(|only| only == Some(at))
                            && let Some(element) = element.as_expression()
                        {
                            found.extend(self.values.of(element));
                        }
                    }
                }
                _ => {}
            }
        }
        found
    }

    fn is_strict(&self, callable: Callable<'a>) -> bool {
        let scope = match callable {
            Callable::Function(function) => function.scope_id.get(),
            Callable::Arrow(arrow) => arrow.scope_id.get(),
        };
        scope.is_some_and(|scope| self.values.semantic.scoping().scope_flags(scope).is_strict_mode())
    }

    pub(super) fn is_strict_at(&self, node: NodeId) -> bool {
        let scope = self.values.semantic.nodes().get_node(node).scope_id();
        self.values.semantic.scoping().scope_flags(scope).is_strict_mode()
    }

    /// When a node runs; never where that is dead code.
    pub(super) fn when(&self, node: NodeId) -> Option<When> {
        if self.is_dead(node) {
            return None;
        }
        let nodes = self.values.semantic.nodes();
        let start = nodes.kind(node).span().start;
        let mut when = When::Now;
        let mut at = self.values.function_of[node.index()];
        loop {
            if at.is_some() && self.awaits.get(&at).is_some_and(|end| start >= *end) {
                return Some(When::Later);
            }
            let Some(function) = at else { return Some(when) };
            match self.runs.get(&function) {
                None => return Some(When::Later),
                Some(run) => when = when.max(*run),
            }
            at = self.values.function_of[function.index()];
        }
    }

    /// When a node runs, and for one that runs later whether that is certain to wait for something.
    pub(super) fn planned(&self, node: NodeId, when: When) -> (When, bool) {
        if when != When::Later {
            return (when, false);
        }
        // The outermost function that does not run by itself.
        let mut outermost = None;
        let mut at = self.values.function_of[node.index()];
        while let Some(function) = at {
            if !self.runs.contains_key(&function) {
                outermost = Some(function);
            }
            at = self.values.function_of[function.index()];
        }
        let scheduled =
            outermost.is_some_and(|function| self.waits(function) || self.is_named_to_wait(function));
        (when, scheduled)
    }

    /// Whether a node is what a function is given that calls it later.
    fn waits(&self, node: NodeId) -> bool {
        let AstKind::CallExpression(call) = self.values.semantic.nodes().parent_kind(node) else {
            return false;
        };
        let name = match &call.callee {
            Expression::Identifier(name) => Some(name.name.as_str()),
            callee => callee.as_member_expression().and_then(|own| own.static_property_name()),
        };
        // What scripts name themselves, the very script that waits for it may send.
        let is_of_browser = |event: &str| {
            event == "DOMContentLoaded" || event.bytes().all(|letter| letter.is_ascii_lowercase())
        };
        let is_known = match (name, call.arguments.first()) {
            (Some("addEventListener"), Some(Argument::StringLiteral(event))) => is_of_browser(&event.value),
            (Some("addEventListener"), _) => false,
            _ => true,
        };
        is_known && name.is_some_and(|name| WAITS.contains(&name))
    }

    /// Whether a function has a name, and that is handed to what calls it later and is used nowhere else.
    fn is_named_to_wait(&self, function: NodeId) -> bool {
        /// Where there are more uses, they are not looked at.
        const MOST: usize = 20;
        let nodes = self.values.semantic.nodes();
        let symbol = match (nodes.kind(function), nodes.parent_kind(function)) {
            (AstKind::Function(own), _) if own.is_declaration() => {
                own.id.as_ref().and_then(|id| id.symbol_id.get())
            }
            (_, AstKind::VariableDeclarator(own)) => {
                own.id.get_binding_identifier().and_then(|id| id.symbol_id.get())
            }
            _ => None,
        };
        let Some(symbol) = symbol else { return false };
        let count = self.values.semantic.scoping().get_resolved_reference_ids(symbol).len();
        let mut uses = self.values.semantic.symbol_references(symbol);
        (1..=MOST).contains(&count) && uses.all(|own| self.waits(own.node_id()))
    }
}

fn note_await(awaits: &mut FxHashMap<Option<NodeId>, u32>, function: Option<NodeId>, at: u32) {
    let end = awaits.entry(function).or_insert(at);
    *end = (*end).min(at);
}

/// Whether a function goes on only where it was called with `new`: `if (!(this instanceof Own)) return new Own()`.
fn asks_for_new(callable: Callable<'_>) -> bool {
    let Callable::Function(function) = callable else { return false };
    let asks = |statement: &Statement<'_>| match statement {
        Statement::IfStatement(own) => {
            let Expression::UnaryExpression(test) = own.test.without_parentheses() else { return false };
            let is_instance = matches!(
                test.argument.without_parentheses(),
                Expression::BinaryExpression(inner) if inner.operator == BinaryOperator::Instanceof
            );
            test.operator == UnaryOperator::LogicalNot && is_instance && leaves(&own.consequent)
        }
        _ => false,
    };
    let body = function.body.iter().flat_map(|body| &body.statements);
    body.take(4).any(asks)
}

fn functions<'a>(values: &[Possible<'a>]) -> Vec<Callable<'a>> {
    let all = values.iter().flatten();
    all.filter_map(|value| match value {
        Value::Function(callable) => Some(*callable),
        _ => None,
    })
    .collect()
}
