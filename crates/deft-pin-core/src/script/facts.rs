//! Facts of a script: the globals that it defines and reads, the elements that it looks up, and the
//! names that it adds to the page, each now (while it runs from top to bottom) or later (in
//! listeners, timers, promises and functions that nothing calls at once).

use std::collections::BTreeMap;

use rustc_hash::{FxHashMap, FxHashSet};

use oxc_ast::AstKind;
use oxc_ast::ast::{
    Argument, AssignmentTarget, CallExpression, Expression, FunctionType, NewExpression, ObjectPropertyKind,
};
use oxc_semantic::{NodeId, SemanticBuilder, SymbolFlags};
use oxc_span::GetSpan;
use oxc_syntax::operator::UnaryOperator;

use super::added::{AddedName, names_of_markup};
use super::frame::ROOT;
use super::globals::is_browser_global;
use super::outside::{Outside, in_markup};
use super::personal::{Given, given};
use super::syntax::{ScriptFlaw, ScriptKind, flaw_of, with_early_errors, with_program_as};
use super::values::{Callable, Value, Values, plain, span_of, symbol_of};
use crate::source::Span;

/// When a piece of a script runs.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum When {
    /// While the script runs from top to bottom.
    Now,
    /// That cannot be told.
    Perhaps,
    /// After it: in a listener, a timer, a promise.
    Later,
}

impl When {
    /// The name that answers use.
    pub fn name(self) -> &'static str {
        match self {
            When::Now => "now",
            When::Perhaps => "perhaps",
            When::Later => "later",
        }
    }
}

/// An event that tells how far a page is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum PageEvent {
    /// `DOMContentLoaded`: it is parsed, and its deferred scripts have run.
    Parsed,
    /// `load`: its images and sheets are there as well.
    Loaded,
}

impl PageEvent {
    /// Its name in the DOM.
    pub fn name(self) -> &'static str {
        match self {
            PageEvent::Parsed => "DOMContentLoaded",
            PageEvent::Loaded => "load",
        }
    }
}

/// A global that a script defines or reads.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct GlobalUse {
    /// Its name.
    pub name: String,
    /// Where, at first.
    pub span: Span,
    /// When, at the earliest.
    pub when: When,
    /// For one that is read: whether the script copes without it, everywhere. For one that is
    /// defined: whether it is left alone where it is there already.
    pub guarded: bool,
    /// For one that is defined later: whether that waits for an event or a timer for certain, and is
    /// not in a function that another script may call at any time.
    pub scheduled: bool,
}

/// Elements that a script looks up in the page.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct LookUp {
    /// By what: a selector, of an ID for `getElementById`.
    pub selector: String,
    /// Where.
    pub span: Span,
    /// When.
    pub when: When,
    /// Whether the script copes with nothing being found.
    pub guarded: bool,
}

/// What a script's text says of it.
#[derive(Clone, Debug, Default)]
pub struct ScriptFacts {
    /// The globals that it defines.
    pub defines: Vec<GlobalUse>,
    /// The globals that it reads, and neither browsers have nor it defines before.
    pub reads: Vec<GlobalUse>,
    /// The elements that it looks up.
    pub looks_up: Vec<LookUp>,
    /// The names that it adds.
    pub adds: Vec<AddedName>,
    /// What it hands to functions that says of itself that it is about a person.
    pub gives: Vec<Given>,
    /// What it loads from other hosts.
    pub outside: Vec<Outside>,
    /// Whether it does something to the page by itself, with nobody calling it.
    pub acts: bool,
    /// Whether a module waits at its top level.
    pub awaits: bool,
    /// The modules that a module imports, as it names them.
    pub imports: Vec<String>,
    /// The names at the top level of a confined script that stay in it.
    pub keeps: Vec<(String, Span)>,
    /// The events of the page as a whole that it waits for.
    pub listens: Vec<PageEvent>,
    /// Whether it may put other scripts into the page, which nobody can know of here.
    pub inserts_scripts: bool,
    /// What keeps it from running.
    pub flaws: Vec<ScriptFlaw>,
}

/// The facts of a classic script or a module. Any text gets an answer; one that does not parse has
/// flaws and nothing else. `share` are the names that a pin's script gives to the page.
pub fn facts(text: &str, kind: ScriptKind, share: &[String]) -> ScriptFacts {
    let read = with_program_as(text, kind, |program, flaws| {
        let checked =
            SemanticBuilder::new().with_check_syntax_error(true).with_build_nodes(true).build(program);
        let flaws = with_early_errors(flaws, checked.diagnostics.errors().map(flaw_of));
        if !flaws.is_empty() {
            return ScriptFacts { flaws, ..ScriptFacts::default() };
        }
        let values = Values::new(&checked.semantic, kind);
        let mut reader = Reader {
            text,
            kind,
            share,
            values,
            runs: FxHashMap::default(),
            dead: Vec::new(),
            awaits: FxHashMap::default(),
        };
        reader.run();
        reader.facts()
    });
    read.unwrap_or_else(|flaw| ScriptFacts { flaws: vec![flaw], ..ScriptFacts::default() })
}

/// Methods that call what they are given at once.
const AT_ONCE: &[&str] = &[
    "forEach", "map", "filter", "some", "every", "find", "findIndex", "findLast", "reduce", "reduceRight",
    "sort", "flatMap", "from", "replace", "replaceAll", "each", "grep", "fromEntries", "assign",
];

/// Methods by which a script does something to a page, now or once something happens.
const ACTS: &[&str] = &[
    "addEventListener", "append", "appendChild", "attachEvent", "define", "insertBefore", "observe", "on",
    "prepend", "querySelectorAll", "ready", "registerElement", "write",
];

/// Functions that call what they are given later.
const WAITS: &[&str] = &[
    "addEventListener", "queueMicrotask", "ready", "requestAnimationFrame", "requestIdleCallback",
    "setInterval", "setTimeout", "then",
];

/// Names by which scripts tell that they run elsewhere than in a browser.
const ELSEWHERE: &[&str] = &["module", "exports", "require", "define", "process", "global", "Deno", "Bun"];

pub(super) struct Reader<'s, 'a> {
    pub(super) text: &'a str,
    kind: ScriptKind,
    share: &'s [String],
    pub(super) values: Values<'s, 'a>,
    /// The functions that run now, or perhaps.
    runs: FxHashMap<NodeId, When>,
    /// The nodes that never run in a browser.
    dead: Vec<bool>,
    /// For each function, where its first `await` ends.
    awaits: FxHashMap<Option<NodeId>, u32>,
}

enum Invocation<'a> {
    Call(&'a CallExpression<'a>),
    New(&'a NewExpression<'a>),
}

impl<'s, 'a> Reader<'s, 'a> {
    /// Finds out which functions run now: what the top level calls, what that calls, and so on.
    fn run(&mut self) {
        let nodes = self.values.semantic.nodes();
        let mut inside: FxHashMap<Option<NodeId>, Vec<Invocation<'a>>> = FxHashMap::default();
        for (id, node) in nodes.iter_enumerated() {
            let parent = nodes.parent_id(id);
            let is_dead = parent != id
                && (self.dead.get(parent.index()).copied().unwrap_or(false)
                    || self.is_dead_part(nodes.kind(parent), node.kind())
                    || self.is_never_called(node.kind()));
            self.dead.push(is_dead);
            let function = self.values.function_of[id.index()];
            match node.kind() {
                AstKind::CallExpression(call) if !is_dead => {
                    inside.entry(function).or_default().push(Invocation::Call(call));
                }
                AstKind::NewExpression(new) if !is_dead => {
                    inside.entry(function).or_default().push(Invocation::New(new));
                }
                AstKind::AwaitExpression(own) => {
                    let end = self.awaits.entry(function).or_insert(own.span.end);
                    *end = (*end).min(own.span.end);
                }
                _ => {}
            }
        }
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
                for invocation in inside.get(&function).into_iter().flatten() {
                    self.invoke(invocation, when, &mut waiting);
                }
            }
            if known == self.runs.len() {
                break;
            }
        }
        self.values.forget();
    }

    /// Whether a function is declared and nothing mentions it, nor can anything outside of the script.
    fn is_never_called(&self, node: AstKind<'a>) -> bool {
        let AstKind::Function(own) = node else { return false };
        let Some(id) = own.id.as_ref().filter(|_| own.r#type == FunctionType::FunctionDeclaration) else {
            return false;
        };
        let Some(symbol) = id.symbol_id.get() else { return false };
        let scoping = self.values.semantic.scoping();
        let is_seen_outside = scoping.symbol_scope_id(symbol) == scoping.root_scope_id()
            && (self.kind != ScriptKind::Confined || self.share.iter().any(|own| own == id.name.as_str()));
        !is_seen_outside && scoping.symbol_is_unused(symbol)
    }

    fn is_dead_part(&self, parent: AstKind<'a>, node: AstKind<'a>) -> bool {
        let is = |part: &dyn GetSpan| part.span() == node.span();
        match parent {
            AstKind::IfStatement(own) => match self.values.truth(&own.test) {
                Some(true) => own.alternate.as_ref().is_some_and(|part| part.span() == node.span()),
                Some(false) => is(&own.consequent),
                None => false,
            },
            AstKind::ConditionalExpression(own) => match self.values.truth(&own.test) {
                Some(true) => is(&own.alternate),
                Some(false) => is(&own.consequent),
                None => false,
            },
            AstKind::LogicalExpression(own) if is(&own.right) => {
                use oxc_syntax::operator::LogicalOperator::{And, Or};
                matches!((self.values.truth(&own.left), own.operator), (Some(false), And) | (Some(true), Or))
            }
            _ => false,
        }
    }

    fn invoke(&mut self, invocation: &Invocation<'a>, when: When, waiting: &mut Vec<(Option<NodeId>, When)>) {
        let (callee, arguments): (&'a Expression<'a>, &'a [Argument<'a>]) = match invocation {
            Invocation::Call(call) => (&call.callee, &call.arguments),
            Invocation::New(new) => (&new.callee, &new.arguments),
        };
        let given: Vec<Vec<Value<'a>>> = plain(arguments).map(|one| self.values.of(one)).collect();
        let bare = callee.without_parentheses();
        let mut called = self.values.callees(callee, 0);
        let mut this = matches!(invocation, Invocation::Call(_)).then(|| vec![Value::Global]);
        let mut passed = given.clone();
        let mut how = when;
        if let Some(member) = bare.as_member_expression() {
            this = None;
            match member.static_property_name() {
                Some(name) if matches!(name, "call" | "apply") && called.is_empty() => {
                    called = self.values.callees(member.object(), 0);
                    if called.is_empty() {
                        called = self.of_any(member.object());
                        how = how.max(When::Perhaps);
                    }
                    this = given.first().cloned();
                    passed =
                        if name == "call" { given.iter().skip(1).cloned().collect() } else { Vec::new() };
                }
                Some(_) => {}
                None => {
                    called.extend(self.of_any(bare));
                    how = how.max(When::Perhaps);
                }
            }
            if member.static_property_name().is_some_and(|name| AT_ONCE.contains(&name)) {
                called.extend(functions(&given));
            }
        }
        if matches!(bare, Expression::Identifier(name) if name.name == "Promise" && self.values.symbol(name).is_none())
        {
            called.extend(functions(&given));
        }
        for callable in called {
            if let Callable::Function(function) = callable
                && function.generator
            {
                continue;
            }
            let this =
                this.clone().filter(|_| !self.is_strict(callable) || bare.as_member_expression().is_some());
            self.values.pass(callable, this, passed.clone());
            let known = self.runs.entry(callable.id()).or_insert(how);
            *known = (*known).min(how);
            waiting.push((Some(callable.id()), how));
        }
    }

    /// All functions in the object literals that `object[…]` is taken from: a bundle's modules.
    fn of_any(&self, expression: &'a Expression<'a>) -> Vec<Callable<'a>> {
        let Some(member) = expression.without_parentheses().as_member_expression() else { return Vec::new() };
        if member.static_property_name().is_some() {
            return Vec::new();
        }
        let mut found = Vec::new();
        for value in self.values.of(member.object()) {
            let Value::Object(object) = value else { continue };
            for property in &object.properties {
                let ObjectPropertyKind::ObjectProperty(own) = property else { continue };
                found.extend(self.values.callees(&own.value, 0));
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

    fn is_strict_at(&self, node: NodeId) -> bool {
        let scope = self.values.semantic.nodes().get_node(node).scope_id();
        self.values.semantic.scoping().scope_flags(scope).is_strict_mode()
    }

    /// When a node runs; never where that is dead code.
    pub(super) fn when(&self, node: NodeId) -> Option<When> {
        if self.dead[node.index()] {
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

    fn facts(&self) -> ScriptFacts {
        let mut defines = Uses::default();
        let mut reads = Uses::default();
        let keeps = self.top_level(&mut defines);
        let first_read = self.unresolved(&mut defines, &mut reads);
        let mut out =
            ScriptFacts { keeps, awaits: self.awaits.contains_key(&None), ..ScriptFacts::default() };
        for (id, node) in self.values.semantic.nodes().iter_enumerated() {
            if !tells_something(node.kind()) {
                continue;
            }
            let Some(when) = self.when(id) else { continue };
            self.of_members(id, node.kind(), when, &mut defines, &mut reads);
            match node.kind() {
                AstKind::CallExpression(call) => {
                    self.of_call(call, when, &mut defines, &mut out);
                    given(&self.values, call, &mut out.gives);
                    out.inserts_scripts |= self.is_eval(call);
                    if let Some(selector) = self.values.lookup(call) {
                        let guarded = self.copes(id);
                        out.looks_up.push(LookUp { selector, span: span_of(call), when, guarded });
                    }
                }
                AstKind::ImportDeclaration(own) => out.imports.push(own.source.value.to_string()),
                AstKind::ExportAllDeclaration(own) => out.imports.push(own.source.value.to_string()),
                AstKind::ExportFromDeclaration(own) => out.imports.push(own.source.value.to_string()),
                AstKind::ImportExpression(own) => {
                    out.inserts_scripts = true;
                    self.outside(&own.source, false, &mut out.outside);
                }
                AstKind::StaticMemberExpression(own) if own.property.name == "body" => {
                    let is_document =
                        self.values.of(&own.object).iter().any(|value| matches!(value, Value::Document));
                    let is_new = !out.looks_up.iter().any(|known| known.selector == "body");
                    if is_document && is_new && when == When::Now && !self.is_safe(id) {
                        let (selector, span) = ("body".to_owned(), span_of(own));
                        out.looks_up.push(LookUp { selector, span, when, guarded: false });
                    }
                }
                AstKind::StringLiteral(text) => {
                    names_of_markup(&text.value, span_of(text), &mut out.adds);
                    in_markup(&text.value, span_of(text), &mut out.outside);
                }
                AstKind::TemplateElement(part) => {
                    let text = part.value.cooked.as_ref().map_or("", |text| text.as_str());
                    names_of_markup(text, span_of(part), &mut out.adds);
                    in_markup(text, span_of(part), &mut out.outside);
                }
                AstKind::AssignmentExpression(own) => {
                    if let AssignmentTarget::StaticMemberExpression(member) = &own.left {
                        if member.property.name == "onload" && self.is_page(&member.object) {
                            out.listens.push(PageEvent::Loaded);
                        }
                        let is_id = member.property.name == "id";
                        if is_id || member.property.name == "className" {
                            self.added(&own.right, is_id, &mut out.adds);
                        }
                        if matches!(&*member.property.name, "src" | "href" | "poster") {
                            self.outside(&own.right, member.property.name == "href", &mut out.outside);
                        }
                    }
                }
                _ => {}
            }
        }
        out.adds.sort();
        out.adds.dedup_by(|b, a| (a.is_id, &a.name) == (b.is_id, &b.name));
        out.listens.sort();
        out.listens.dedup();
        out.defines = defines.into_list();
        // What a script defines itself is not asked of others, but where it is read before that.
        let is_own = |own: &GlobalUse, read: &GlobalUse| {
            own.name == read.name && first_read.get(&read.name).is_none_or(|at| *at > own.span.start)
        };
        let mut reads = reads.into_list();
        reads.retain(|read| !out.defines.iter().any(|own| is_own(own, read)));
        out.reads = reads;
        out
    }

    /// What is declared at the top level of a script: globals of a classic one; those of a confined
    /// one that stay in it are given back.
    fn top_level(&self, defines: &mut Uses) -> Vec<(String, Span)> {
        let mut keeps = Vec::new();
        if self.kind == ScriptKind::Module {
            return keeps;
        }
        let scoping = self.values.semantic.scoping();
        for (name, symbol) in scoping.get_bindings(scoping.root_scope_id()) {
            let flags = scoping.symbol_flags(*symbol);
            if !flags.intersects(SymbolFlags::Variable | SymbolFlags::Function | SymbolFlags::Class) {
                continue;
            }
            let span = scoping.symbol_span(*symbol);
            let span = Span { start: span.start, end: span.end };
            if self.kind == ScriptKind::Classic || self.share.iter().any(|own| own == name.as_str()) {
                let sources = self.values.sources(*symbol);
                let is_cautious = sources.iter().any(|source| self.mentions(source.span(), name));
                defines.define(name, span, (When::Now, false), is_cautious);
            } else {
                keeps.push((name.to_string(), span));
            }
        }
        keeps.sort();
        keeps
    }

    /// Globals by their bare names. Gives back where each is first read at the top level, with
    /// nothing that guards it; for one that is read in order to define it, that is before it.
    fn unresolved(&self, defines: &mut Uses, reads: &mut Uses) -> FxHashMap<String, u32> {
        let mut first_read: FxHashMap<String, u32> = FxHashMap::default();
        let scoping = self.values.semantic.scoping();
        for (name, references) in scoping.root_unresolved_references() {
            let name: &str = name;
            for reference in references.iter().take(200).map(|id| scoping.get_reference(*id)) {
                let node = reference.node_id();
                let Some(when) = self.when(node) else { continue };
                let span = span_of(&self.values.semantic.nodes().kind(node));
                if reference.is_write() && !self.is_strict_at(node) && self.kind != ScriptKind::Module {
                    defines.define(name, span, self.planned(node, when), self.is_cautious(node, name));
                }
                let is_root = self.kind == ScriptKind::Confined && name == ROOT;
                if reference.is_read() && !is_browser_global(name) && !is_root {
                    let guarded = self.is_guarded(node, name);
                    if guarded && ELSEWHERE.contains(&name) {
                        continue;
                    }
                    if !guarded && self.values.function_of[node.index()].is_none() {
                        let at = self.assigned_with(node, name).unwrap_or(span.start).min(span.start);
                        let first = first_read.entry(name.to_owned()).or_insert(at);
                        *first = at.min(*first);
                    }
                    reads.note(name, span, when, guarded);
                }
            }
        }
        first_read
    }

    /// Where the assignment to a name begins in which it is read: `x = x || {}`.
    fn assigned_with(&self, node: NodeId, name: &str) -> Option<u32> {
        self.values.semantic.nodes().ancestor_kinds(node).find_map(|kind| match kind {
            AstKind::AssignmentExpression(own) => match &own.left {
                AssignmentTarget::AssignmentTargetIdentifier(target) if target.name == name => {
                    Some(own.span.start)
                }
                _ => None,
            },
            _ => None,
        })
    }

    /// Properties of the global object that are read or assigned.
    fn of_members(&self, id: NodeId, kind: AstKind<'a>, when: When, defines: &mut Uses, reads: &mut Uses) {
        let (object, name) = match kind {
            AstKind::StaticMemberExpression(own) => (&own.object, own.property.name.to_string()),
            AstKind::ComputedMemberExpression(own) => match self.values.text(&own.expression) {
                Some(name) => (&own.object, name),
                None => return,
            },
            _ => return,
        };
        if !self.values.of(object).iter().any(|value| matches!(value, Value::Global)) {
            return;
        }
        let span = span_of(&kind);
        let is_name = |part: oxc_span::Span| part == kind.span();
        match self.values.semantic.nodes().parent_kind(id) {
            AstKind::AssignmentExpression(own) if is_name(own.left.span()) => {
                defines.define(&name, span, self.planned(id, when), self.is_cautious(id, &name));
            }
            AstKind::UnaryExpression(own) if own.operator == UnaryOperator::Delete => {}
            // Only what is used further fails where the global is not there.
            AstKind::CallExpression(own) if is_name(own.callee.span()) && !own.optional => {
                self.member_read(id, &name, span, when, false, reads);
            }
            AstKind::NewExpression(own) if is_name(own.callee.span()) => {
                self.member_read(id, &name, span, when, false, reads);
            }
            AstKind::StaticMemberExpression(own) if is_name(own.object.span()) && !own.optional => {
                self.member_read(id, &name, span, when, false, reads);
            }
            // So does what it is handed on to.
            AstKind::VariableDeclarator(own) => {
                let relied = symbol_of(&own.id).is_some_and(|symbol| self.is_relied_on(symbol));
                self.member_read(id, &name, span, when, !relied, reads);
            }
            AstKind::CallExpression(own) => {
                let at = own.arguments.iter().position(|argument| is_name(argument.span()));
                let called = self.values.callees(&own.callee, 0);
                let mut taken =
                    called.iter().filter_map(|callable| callable.parameters().get(at?).copied()?);
                let relied = taken.any(|symbol| self.is_relied_on(symbol));
                self.member_read(id, &name, span, when, !relied, reads);
            }
            _ => self.member_read(id, &name, span, when, true, reads),
        }
    }

    /// Whether a call may define anything, since it runs a text.
    fn is_eval(&self, call: &CallExpression<'a>) -> bool {
        matches!(&call.callee, Expression::Identifier(name) if name.name == "eval" && self.values.symbol(name).is_none())
    }

    /// When a node runs, and for one that runs later whether that is certain to wait for something.
    fn planned(&self, node: NodeId, when: When) -> (When, bool) {
        if when != When::Later {
            return (when, false);
        }
        let nodes = self.values.semantic.nodes();
        // The outermost function that does not run by itself.
        let mut outermost = None;
        let mut at = self.values.function_of[node.index()];
        while let Some(function) = at {
            if !self.runs.contains_key(&function) {
                outermost = Some(function);
            }
            at = self.values.function_of[function.index()];
        }
        let scheduled = outermost.is_some_and(|function| match nodes.parent_kind(function) {
            AstKind::CallExpression(call) => {
                let name = match &call.callee {
                    Expression::Identifier(name) => Some(name.name.as_str()),
                    callee => callee.as_member_expression().and_then(|own| own.static_property_name()),
                };
                name.is_some_and(|name| WAITS.contains(&name))
            }
            _ => false,
        });
        (when, scheduled)
    }

    fn is_page(&self, object: &'a Expression<'a>) -> bool {
        self.values.of(object).iter().any(|value| matches!(value, Value::Global | Value::Document))
    }

    /// The event of the page as a whole that a call waits for.
    fn awaited(&self, call: &'a CallExpression<'a>) -> Option<PageEvent> {
        let first = call.arguments.first()?.as_expression()?;
        let query =
            |value: &Value<'a>| matches!(value, Value::Named(name) if name == "$" || name == "jQuery");
        let (object, method) = match &call.callee {
            // Such a function runs what it is given once the page is parsed.
            callee @ Expression::Identifier(name) => {
                if self.values.of(callee).iter().any(query) {
                    let is_function = |value: &Value<'a>| matches!(value, Value::Function(_));
                    return self.values.of(first).iter().any(is_function).then_some(PageEvent::Parsed);
                }
                (None, name.name.as_str())
            }
            callee => {
                let member = callee.as_member_expression()?;
                (Some(member.object()), member.static_property_name()?)
            }
        };
        let is_page = object.is_none_or(|object| self.is_page(object));
        match (method, self.values.text(first).as_deref()) {
            ("addEventListener", Some("DOMContentLoaded")) if is_page => Some(PageEvent::Parsed),
            ("addEventListener", Some("load")) if is_page => Some(PageEvent::Loaded),
            ("ready", None) => Some(PageEvent::Parsed),
            _ => None,
        }
    }

    fn member_read(&self, id: NodeId, name: &str, span: Span, when: When, guarded: bool, reads: &mut Uses) {
        if !is_browser_global(name) {
            reads.note(name, span, when, guarded || self.is_guarded(id, name));
        }
    }

    fn of_call(&self, call: &'a CallExpression<'a>, when: When, defines: &mut Uses, out: &mut ScriptFacts) {
        if when != When::Later {
            out.listens.extend(self.awaited(call));
        }
        let Some(member) = call.callee.as_member_expression() else { return };
        let Some(method) = member.static_property_name() else { return };
        let arguments: Vec<&'a Expression<'a>> = plain(&call.arguments).collect();
        let is_global = |one: Option<&&'a Expression<'a>>| {
            one.is_some_and(|one| self.values.of(one).iter().any(|value| matches!(value, Value::Global)))
        };
        out.acts |= when == When::Now && ACTS.contains(&method);
        let object = match member.object() {
            Expression::Identifier(name) if self.values.symbol(name).is_none() => name.name.to_string(),
            _ => String::new(),
        };
        match (object.as_str(), method) {
            ("Object", "assign" | "defineProperties") if is_global(arguments.first()) => {
                for value in arguments[1..].iter().flat_map(|one| self.values.of(one)) {
                    let Value::Object(object) = value else { continue };
                    for property in &object.properties {
                        if let ObjectPropertyKind::ObjectProperty(own) = property
                            && let Some(name) = own.key.static_name()
                        {
                            defines.define(
                                &name,
                                span_of(&**own),
                                self.planned(call.node_id.get(), when),
                                false,
                            );
                        }
                    }
                }
            }
            ("Object" | "Reflect", "defineProperty") if is_global(arguments.first()) => {
                if let Some(name) = arguments.get(1).and_then(|one| self.values.text(one)) {
                    defines.define(&name, span_of(call), self.planned(call.node_id.get(), when), false);
                }
            }
            (_, "add" | "toggle" | "replace") if is_class_list(member.object()) => {
                let wanted =
                    if method == "replace" { &arguments[1.min(arguments.len())..] } else { &arguments };
                let count = if method == "toggle" { 1 } else { wanted.len() };
                wanted.iter().take(count).for_each(|one| self.added(one, false, &mut out.adds));
            }
            (_, "createElement") => {
                let tag = arguments.first().and_then(|one| self.values.text(one));
                out.inserts_scripts |= tag.is_some_and(|tag| tag.eq_ignore_ascii_case("script"));
            }
            (_, "getScript" | "write" | "writeln" | "importScripts") => out.inserts_scripts = true,
            (_, "addClass" | "toggleClass") => {
                arguments.first().iter().for_each(|one| self.added(one, false, &mut out.adds));
            }
            (_, "setAttribute" | "attr") => {
                let name = arguments.first().and_then(|one| self.values.text(one)).unwrap_or_default();
                if let (Some(value), "src" | "href") = (arguments.get(1), name.as_str()) {
                    self.outside(value, name == "href", &mut out.outside);
                }
                if let (Some(value), "id" | "class") = (arguments.get(1), name.as_str()) {
                    self.added(value, name == "id", &mut out.adds);
                }
            }
            _ => {}
        }
    }

    /// What an address loads, where that is on another host. A link is followed, if it is not one
    /// to a sheet.
    fn outside(&self, address: &'a Expression<'a>, is_link: bool, outside: &mut Vec<Outside>) {
        if let Some(url) = self.values.text(address) {
            outside.extend(Outside::of(&url, span_of(address)).filter(|own| !is_link || own.is_sheet()));
        }
    }

    /// The names in what is given as a class or an ID: of several that it may be, all.
    fn added(&self, value: &'a Expression<'a>, is_id: bool, adds: &mut Vec<AddedName>) {
        for one in self.values.of(value) {
            let Value::Text(text) = one else { continue };
            let names = text.split_ascii_whitespace();
            adds.extend(names.map(|name| AddedName { name: name.to_owned(), is_id, span: span_of(value) }));
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
            | AstKind::ImportExpression(_)
            | AstKind::StringLiteral(_)
            | AstKind::TemplateElement(_)
            | AstKind::AssignmentExpression(_)
    )
}

fn functions<'a>(values: &[Vec<Value<'a>>]) -> Vec<Callable<'a>> {
    let all = values.iter().flatten();
    all.filter_map(|value| match value {
        Value::Function(callable) => Some(*callable),
        _ => None,
    })
    .collect()
}

fn is_class_list(object: &Expression<'_>) -> bool {
    object
        .as_member_expression()
        .and_then(|member| member.static_property_name())
        .is_some_and(|name| name == "classList")
}

/// Uses of globals, by name: the first and earliest of each.
#[derive(Default)]
struct Uses(BTreeMap<String, GlobalUse>);

impl Uses {
    fn note(&mut self, name: &str, span: Span, when: When, guarded: bool) {
        let new = GlobalUse { name: name.to_owned(), span, when, guarded, scheduled: false };
        match self.0.get_mut(name) {
            None => {
                self.0.insert(name.to_owned(), new);
            }
            // The earliest that nothing guards tells the most.
            Some(known) if (guarded, when, span) < (known.guarded, known.when, known.span) => *known = new,
            Some(_) => {}
        }
    }

    /// The earliest counts, and whether each of them leaves alone what is there.
    fn define(&mut self, name: &str, span: Span, (when, scheduled): (When, bool), guarded: bool) {
        let new = GlobalUse { name: name.to_owned(), span, when, guarded, scheduled };
        let known = self.0.entry(name.to_owned()).or_insert_with(|| new.clone());
        let all_guarded = known.guarded && guarded;
        if (new.when, new.guarded, new.span) < (known.when, known.guarded, known.span) {
            *known = new;
        }
        known.guarded = all_guarded;
        known.scheduled &= scheduled;
    }

    fn into_list(self) -> Vec<GlobalUse> {
        self.0.into_values().collect()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn drawn(uses: &[GlobalUse]) -> String {
        let draw = |own: &GlobalUse| {
            let mark = match own.when {
                When::Now => "",
                When::Perhaps => "~",
                When::Later => "+",
            };
            format!("{mark}{}{}", own.name, if own.guarded { "?" } else { "" })
        };
        uses.iter().map(draw).collect::<Vec<_>>().join(" ")
    }

    #[test]
    fn globals_that_a_script_defines_and_reads() {
        // The text, what it defines, what it reads: `+` later, `~` perhaps, `?` guarded.
        let table = [
            ("var a; let b; const c = 1; class D {} function e() {}", "D a b c e", ""),
            ("(function () { var x = 1; y = 2; })()", "y", ""),
            ("(function () { 'use strict'; y = 2; })()", "", ""),
            ("window.App = {}; self['More'] = 1; globalThis.x = App", "App More x", ""),
            ("(function (w) { w.Dock = {}; })(window)", "Dock", ""),
            ("(function (w) { w.Dock = {}; }).call(this, this)", "Dock", ""),
            ("(function () { this.Dock = 1 })(); (function () { 'use strict'; this.Not = 1 })()", "Dock", ""),
            (
                "(function (g, f) { typeof exports === 'object' && typeof module !== 'undefined' ? f(exports, require('a')) : typeof define === 'function' && define.amd ? define(['exports', 'a'], f) : (g = typeof globalThis !== 'undefined' ? globalThis : g || self, f(g.Quay = {}, g.Tide)); })(this, function (exports, a) { Later; function f() { Never } })",
                "Quay",
                "Later Tide?",
            ),
            (
                "!function(e,t){\"object\"==typeof exports&&\"undefined\"!=typeof module?t(exports):t((e=e||self).Pier={})}(this,function(e){})",
                "Pier",
                "",
            ),
            ("Object.assign(window, { A: 1, B() {} }); Object.defineProperty(self, 'C', {})", "A B C", ""),
            (
                "const w = window; w.Alias = 1; var root = typeof self == 'object' && self || this; root.R = 2",
                "Alias R root w",
                "",
            ),
            ("setTimeout(function () { window.Late = 1; Needed.x })", "+Late", "+Needed"),
            ("document.addEventListener('x', () => Map2.y); Chart.z", "", "Chart +Map2"),
            (
                "if (typeof Chart !== 'undefined') Chart.go(); window.Chart2 && Chart2.go(); Chart3?.x; try { C4() } catch {}",
                "",
                "C4? Chart? Chart2? Chart3",
            ),
            ("(function () { if (!window.Chart) return; Chart.go() })()", "", "Chart?"),
            (
                "start(); function start() { Chart.go() } function never() { Other.go() }",
                "never start",
                "Chart +Other",
            ),
            (
                "[1].forEach(function () { Each.x }); new Promise(r => { Prom.x }).then(() => { Then.x })",
                "",
                "Each Prom +Then",
            ),
            ("var App = { init: function () { Needs.x } }; App.init()", "App", "Needs"),
            ("var M = {}; M.go = () => Needs.x; M.go()", "M", "Needs"),
            ("class A { constructor() { Needs.x } late() { Other.x } } new A()", "A", "Needs +Other"),
            ("async function f() { First.x; await 1; Second.x } f()", "f", "First +Second"),
            (
                "(() => { var t = { 1: (m, e) => { window.Bundled = 1 } }; function r(n) { t[n](0, {}) } r(1) })()",
                "~Bundled",
                "",
            ),
            ("import x from './x.js'; var inModule = 1; window.M = x", "", ""),
            ("window.x = window.x || {}; window.y.z = 1; delete window.q", "x?", "y"),
            ("function f(a) { a.x } f(Chart)", "f", "Chart"),
            ("var jQuery = 1; (function ($) { $.fn })(jQuery)", "jQuery", ""),
        ];
        for (text, defines, reads) in table {
            let found = facts(text, ScriptKind::Classic, &[]);
            assert_eq!(drawn(&found.defines), defines, "{text}");
            assert_eq!(drawn(&found.reads), reads, "{text}");
        }
        let module = facts(
            "import x from './x.js'; var inModule = 1; window.M = x; await Top.y",
            ScriptKind::Module,
            &[],
        );
        assert_eq!((drawn(&module.defines).as_str(), module.awaits), ("M", true));
    }

    #[test]
    fn what_a_script_hands_over_and_loads_from_elsewhere() {
        let table = [
            ("dataLayer.push({ event: 'sent', email: form.email.value })", "dataLayer.push email", ""),
            ("window.dataLayer.push({ user: { contactPhone: p } })", "dataLayer.push contactPhone", ""),
            (
                "var q = window.dataLayer = window.dataLayer || []; q.push({ mail: m })",
                "dataLayer.push mail",
                "",
            ),
            ("track('signup', user.email)", "track email", ""),
            (
                "measure.send('x', [document.querySelector('input[name=phone]').value])",
                "measure.send input[name=phone]",
                "",
            ),
            ("const e = new FormData(f).get('email'); track({ contact: e })", "track email", ""),
            ("track({ name: passenger.name })", "track name", ""),
            ("track({ name: pier.name, method: 'email', email_consent: yes, hasEmail: !!email })", "", ""),
            ("track({ phone: true, mail: n.length, address: page.address })", "", ""),
            ("track('email_signup'); track({ event: 'email', mail: a === b })", "", ""),
            ("(function (p) { p.send(p.email) })(x)", "x.send email", ""),
            (
                "i.src = 'https://img.example/a.png'; a.href = 'https://b.example/'",
                "",
                "https://img.example/a.png",
            ),
            ("l.href = '//c.example/x.css'", "", "https://c.example/x.css"),
            ("s.setAttribute('src', 'http://d.example/' + 'x.js')", "", "http://d.example/x.js!"),
            ("import('https://e.example/m.js')", "", "https://e.example/m.js"),
            (
                "x.innerHTML = '<a href=https://f.example><img alt=x src=\"https://g.example/h.png\">'",
                "",
                "https://g.example/h.png",
            ),
        ];
        for (text, gives, outside) in table {
            let found = facts(text, ScriptKind::Classic, &[]);
            let given: Vec<_> = found.gives.iter().map(|own| format!("{} {}", own.to, own.says)).collect();
            let loaded: Vec<_> = found
                .outside
                .iter()
                .map(|own| format!("{}{}", own.url, if own.is_plain { "!" } else { "" }))
                .collect();
            assert_eq!(
                (given.join(", "), loaded.join(", ")),
                (gives.to_owned(), outside.to_owned()),
                "{text}"
            );
        }
    }

    #[test]
    fn elements_that_a_script_looks_up_and_names_that_it_adds() {
        let table = [
            ("document.getElementById('a').x", "#a now fails", ""),
            ("document.querySelector('.a > b')", ".a > b now", ""),
            ("const d = document, id = 'x'; d.getElementById(id + '-y')", "#x-y now", ""),
            ("var r = document.querySelector('#r'); r.querySelectorAll('li')", "#r now fails, #r li now", ""),
            ("$('.card').find('a').addClass('is-on is-far')", ".card a now, .card now", ".is-far .is-on"),
            ("(function ($) { $(function () { $('#late').hide() }) })(jQuery)", "#late later", ""),
            ("$('<p class=\"made\" id=p1>')", "", ".made #p1"),
            ("x.addEventListener('click', () => { document.getElementById('c').y })", "#c later fails", ""),
            ("var e = document.getElementById('q'); if (e) e.x", "#q now", ""),
            ("var e = document.getElementById('q'); e.x()", "#q now fails", ""),
            ("var e = document.getElementById('q'); setTimeout(() => e.x())", "#q now", ""),
            ("document.getElementById('q')?.x", "#q now", ""),
            (
                "b.classList.add('one', w ? 'two' : 'three'); b.classList.toggle('four', true); b.classList.remove('no')",
                "",
                ".four .one .three .two",
            ),
            (
                "p.className = 'k l'; p.id = 'm'; p.setAttribute('class', `n`); p.innerHTML = `<b class='o ${x} p'>`",
                "",
                ".k .l .n .o #m",
            ),
        ];
        for (text, looks_up, adds) in table {
            let found = facts(text, ScriptKind::Classic, &[]);
            let lookups: Vec<_> = found
                .looks_up
                .iter()
                .map(|own| {
                    format!("{} {}{}", own.selector, own.when.name(), if own.guarded { "" } else { " fails" })
                })
                .collect();
            let mut names: Vec<_> = found
                .adds
                .iter()
                .map(|own| (own.is_id, format!("{}{}", if own.is_id { "#" } else { "." }, own.name)))
                .collect();
            names.sort();
            let names: Vec<_> = names.into_iter().map(|(_, name)| name).collect();
            assert_eq!(
                (lookups.join(", "), names.join(" ")),
                (looks_up.to_owned(), adds.to_owned()),
                "{text}"
            );
        }
    }
}
