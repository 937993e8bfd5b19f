//! Facts of a script: the globals that it defines and reads, the elements that it looks up, and the
//! names that it adds to the page, each now (while it runs from top to bottom) or later (in
//! listeners, timers, promises and functions that nothing calls at once).

use std::borrow::Cow;

use rustc_hash::FxHashMap;

use oxc_ast::AstKind;
use oxc_ast::ast::{AssignmentTarget, Expression};
use oxc_semantic::{NodeId, SemanticBuilder, SymbolFlags};
use oxc_span::GetSpan;
use oxc_syntax::operator::UnaryOperator;

use super::added::names_of_markup;
use super::frame::ROOT;
use super::globals::is_browser_global;
use super::modules::note_module;
use super::outside::in_markup;
use super::personal::given;
use super::program::Program;
use super::reader::Reader;
use super::record::{Declared, GlobalUse, LookUp, PageEvent, ScriptFacts, When};
use super::syntax::{ScriptKind, flaw_of, with_early_errors, with_program_as};
use super::uses::Uses;
use super::values::{Value, Values, span_of, symbol_of};
use crate::source::Span;

/// The facts of a classic script or a module. Any text gets an answer; one that does not parse has
/// flaws and nothing else. `share` are the names that a pin's script gives to the page.
pub fn facts(text: &str, kind: ScriptKind, share: &[String]) -> ScriptFacts {
    facts_and_program(text, kind, share, false).0
}

/// The same, and the script as it is evaluated, where that is wanted and it parses: it is parsed once for both.
pub(super) fn facts_and_program(
    text: &str,
    kind: ScriptKind,
    share: &[String],
    wants_program: bool,
) -> (ScriptFacts, Option<Program>) {
    let read = with_program_as(text, kind, |program, flaws| {
        let checked =
            SemanticBuilder::new().with_check_syntax_error(true).with_build_nodes(true).build(program);
        let flaws = with_early_errors(flaws, checked.diagnostics.errors().map(flaw_of));
        if !flaws.is_empty() {
            return (ScriptFacts { flaws, ..ScriptFacts::default() }, None);
        }
        let lowered = wants_program.then(|| Program::lowered(program, &checked.semantic));
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
        (reader.facts(), lowered)
    });
    read.unwrap_or_else(|flaw| (ScriptFacts { flaws: vec![flaw], ..ScriptFacts::default() }, None))
}

/// Names by which scripts tell that they run elsewhere than in a browser.
const ELSEWHERE: &[&str] = &["module", "exports", "require", "define", "process", "global", "Deno", "Bun"];

impl<'a> Reader<'_, 'a> {
    fn facts(&self) -> ScriptFacts {
        let mut defines = Uses::default();
        let mut reads = Uses::default();
        let mut declares = Vec::new();
        let keeps = self.top_level(&mut defines, &mut declares);
        let first_read = self.unresolved(&mut defines, &mut reads);
        let mut out = ScriptFacts {
            keeps,
            declares,
            awaits: self.awaits.contains_key(&None),
            ..ScriptFacts::default()
        };
        for &id in &self.values.telling {
            let Some(when) = self.when(id) else { continue };
            let kind = self.values.semantic.nodes().kind(id);
            self.of_members(id, kind, when, &mut defines, &mut reads);
            match kind {
                AstKind::CallExpression(call) => {
                    self.of_call(call, when, &mut defines, &mut out);
                    given(&self.values, call, &mut out.gives);
                    if self.is_eval(call) {
                        self.inserts(id, when, &mut out);
                    }
                    if let Some(selector) = self.values.lookup(call) {
                        let guarded = self.copes(id);
                        out.looks_up.push(LookUp { selector, span: span_of(call), when, guarded });
                    }
                }
                AstKind::ImportDeclaration(_)
                | AstKind::ExportAllDeclaration(_)
                | AstKind::ExportFromDeclaration(_)
                | AstKind::ExportNamedDeclaration(_)
                | AstKind::ExportDefaultDeclaration(_)
                | AstKind::ExportDeclaration(_) => {
                    note_module(kind, &mut out.imports, &mut out.exports);
                }
                AstKind::ImportExpression(own) => {
                    self.inserts(id, when, &mut out);
                    self.outside(&own.source, false, &mut out.outside);
                }
                AstKind::StaticMemberExpression(own) if own.property.name == "body" => {
                    let is_document =
                        self.values.of(&own.object).iter().any(|value| matches!(value, Value::Document));
                    if is_document && when == When::Now && out.needs_body.is_none() && !self.is_safe(id) {
                        out.needs_body = Some(span_of(own));
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
    fn top_level(&self, defines: &mut Uses, declares: &mut Vec<Declared>) -> Vec<(String, Span)> {
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
            if self.kind == ScriptKind::Classic {
                let is_lexical = flags.intersects(SymbolFlags::BlockScopedVariable | SymbolFlags::Class);
                declares.push(Declared { name: name.to_string(), span, is_lexical });
            }
            if self.kind == ScriptKind::Classic || self.share.iter().any(|own| own == name.as_str()) {
                let sources = self.values.sources(*symbol);
                let is_cautious = sources.iter().any(|source| self.mentions(source.span(), name));
                defines.define(name, span, (When::Now, false), is_cautious);
            } else {
                keeps.push((name.to_string(), span));
            }
        }
        keeps.sort();
        declares.sort_by(|a, b| a.name.cmp(&b.name));
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
                let defines_it = reference.is_write() && !self.is_for_known(node, name);
                if defines_it && !self.is_strict_at(node) && self.kind != ScriptKind::Module {
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
            AstKind::StaticMemberExpression(own) => (&own.object, Cow::Borrowed(own.property.name.as_str())),
            AstKind::ComputedMemberExpression(own) => match self.values.text(&own.expression) {
                Some(name) if name.bytes().all(|byte| byte.is_ascii_digit()) => return,
                Some(name) => (&own.object, name),
                None => return,
            },
            _ => return,
        };
        let values = self.values.of(object);
        let is_global = |value: &Value<'_>| matches!(value, Value::Global);
        if !values.iter().any(is_global) {
            return;
        }
        let is_sure = values.iter().all(is_global) && self.is_surely_global(object);
        let span = span_of(&kind);
        let is_name = |part: oxc_span::Span| part == kind.span();
        match self.values.semantic.nodes().parent_kind(id) {
            AstKind::AssignmentExpression(own) if is_name(own.left.span()) => {
                if self.is_ruled_out(id) {
                    return;
                }
                defines.define(&name, span, self.planned(id, when), self.is_cautious(id, &name));
            }
            AstKind::UnaryExpression(own) if own.operator == UnaryOperator::Delete => {}
            // Only what is used further fails where the global is not there.
            AstKind::CallExpression(own) if is_name(own.callee.span()) && !own.optional => {
                self.member_read(id, &name, span, when, !is_sure, reads);
            }
            AstKind::NewExpression(own) if is_name(own.callee.span()) => {
                self.member_read(id, &name, span, when, !is_sure, reads);
            }
            AstKind::StaticMemberExpression(own) if is_name(own.object.span()) && !own.optional => {
                self.member_read(id, &name, span, when, !is_sure, reads);
            }
            // So does what it is handed on to.
            AstKind::VariableDeclarator(own) => {
                let relied = symbol_of(&own.id).is_some_and(|symbol| self.is_relied_on(symbol));
                self.member_read(id, &name, span, when, !relied || !is_sure, reads);
            }
            AstKind::CallExpression(own) => {
                let at = own.arguments.iter().position(|argument| is_name(argument.span()));
                let called = self.values.callees(&own.callee, 0);
                let mut taken =
                    called.iter().filter_map(|callable| callable.parameters().get(at?).copied()?);
                let relied = taken.any(|symbol| self.is_relied_on(symbol));
                self.member_read(id, &name, span, when, !relied || !is_sure, reads);
            }
            _ => self.member_read(id, &name, span, when, true, reads),
        }
    }

    /// Whether an expression that is the global object as far as it can be followed is nothing else: what a
    /// function is given may differ from call to call, unless it is called where it stands.
    fn is_surely_global(&self, object: &'a Expression<'a>) -> bool {
        let Expression::Identifier(name) = object.without_parentheses() else { return true };
        let Some(symbol) = self.values.symbol(name) else { return true };
        let nodes = self.values.semantic.nodes();
        let declared = self.values.semantic.scoping().symbol_declaration(symbol);
        let is_parameter =
            matches!(nodes.kind(declared), AstKind::FormalParameter(_) | AstKind::FormalParameters(_));
        let function = nodes
            .ancestor_ids(declared)
            .find(|id| matches!(nodes.kind(*id), AstKind::Function(_) | AstKind::ArrowFunctionExpression(_)));
        let Some(function) = function.filter(|_| is_parameter) else { return true };
        let span = nodes.kind(function).span();
        let callers = nodes.ancestor_kinds(function).take(3);
        callers.into_iter().any(|kind| match kind {
            AstKind::CallExpression(call) => call.callee.without_parentheses().span() == span,
            _ => false,
        }) || nodes.ancestor_kinds(function).take(4).any(|kind| match kind {
            // `(function () { … }).call(this)`
            AstKind::CallExpression(call) => call
                .callee
                .as_member_expression()
                .is_some_and(|member| member.object().without_parentheses().span() == span),
            _ => false,
        })
    }

    fn member_read(&self, id: NodeId, name: &str, span: Span, when: When, guarded: bool, reads: &mut Uses) {
        if !is_browser_global(name) {
            reads.note(name, span, when, guarded || self.is_guarded(id, name));
        }
    }
}
