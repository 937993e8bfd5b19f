//! What can be called, and what is said where it cannot.

use super::links::Reference;
use crate::script::program::{Expression, ExpressionId, Key};

use super::fault::RunFaultKind;
use super::machine::{Machine, Stop};
use super::platform::{self};
use super::value::{Absence, Certainty, Doubt, Kind, Value};
use super::world::GlobalState;
use crate::source::Span;

impl Machine<'_> {
    /// What is thrown where something that is called is no function.
    pub(super) fn not_callable(&mut self, callee: &Reference, at: ExpressionId) -> Option<Stop> {
        let program = self.program;
        if let Some(kind) = self.runs_on(at).filter(|_| !matches!(callee.value, Value::Unknown(_))) {
            let is_function = self.type_name(&callee.value) == Some("function");
            return (!is_function).then(|| self.throws(program.span(at), kind));
        }
        if matches!(callee.value, Value::Unknown(_)) {
            if let Some(kind) = self.no_method(callee, at).or_else(|| self.gone_from_requests(at)) {
                return Some(self.throws(program.span(at), kind));
            }
            if !self.is_never_a_function(callee, at) {
                return None;
            }
            let what = self.written(program.span(at));
            return Some(self.throws(program.span(at), RunFaultKind::NotAFunction { what }));
        }
        let is_function = self.type_name(&callee.value)? == "function";
        if is_function {
            return None;
        }
        let written = self.written(program.span(at));
        let absence = match &callee.value {
            Value::Undefined(absence) | Value::Null(absence) => *absence,
            Value::Object(id) if self.object(*id).is_open => return None,
            Value::Object(id) => match &self.object(*id).kind {
                Kind::Instance(of) | Kind::Constructor(of) if !matches!(*of, "Error" | "Symbol") => {
                    return None;
                }
                _ => None,
            },
            _ => None,
        };
        let place = absence.and_then(|id| self.absences.get(id.0 as usize)).cloned();
        let kind = match place {
            Some(Absence::Member { of, name }) => {
                if let Some(kind) = self.of_list(of, &name, true) {
                    return Some(self.throws(program.span(at), kind));
                }
                let near = platform::near(of, &name).map(str::to_owned);
                RunFaultKind::NoMember { of: of.to_owned(), name: name.to_string(), near }
            }
            Some(Absence::OwnMember { of, name }) => match self.near_own(of, &name) {
                Some(near) => RunFaultKind::NoOwnMember { what: written, near, is_called: true },
                None => RunFaultKind::NotAFunction { what: written },
            },
            Some(Absence::Element { .. } | Absence::Global { .. }) => {
                self.kind_of_absence(absence, || None).unwrap_or(RunFaultKind::NotAFunction { what: written })
            }
            _ => RunFaultKind::NotAFunction { what: written },
        };
        Some(self.throws(program.span(at), kind))
    }

    /// Whether a line ends behind an expression, and the next one goes on with it by a bracket.
    pub(super) fn runs_on(&self, id: ExpressionId) -> Option<RunFaultKind> {
        let span = self.program.span(id);
        let rest = self.codes.text().get(span.end as usize..)?;
        let blanks = &rest[..rest.len() - rest.trim_start().len()];
        let goes_on = blanks.contains('\n') && rest.trim_start().starts_with(['(', '[']);
        goes_on.then(|| {
            let line = self.codes.text().get(..span.end as usize).unwrap_or_default();
            let line = line.rsplit('\n').next().unwrap_or_default().trim();
            let before = line.char_indices().rev().nth(29).map_or(line, |(at, _)| &line[at..]);
            RunFaultKind::NoSemicolon { before: before.to_owned() }
        })
    }

    /// What is called on an object whose members of other names have texts in them, or nothing.
    pub(super) fn no_method(&self, callee: &Reference, at: ExpressionId) -> Option<RunFaultKind> {
        let Expression::Member { key: Key::Name(key), .. } = self.program.expression(at) else { return None };
        let Some(Kind::Instance(of @ ("Storage" | "CSSStyleDeclaration" | "NamedNodeMap"))) =
            self.kind(&callee.this)
        else {
            return None;
        };
        let is_there = platform::member(of, key).or_else(|| platform::member("Object", key)).is_some();
        (!is_there).then(|| RunFaultKind::NoMember {
            of: (*of).to_owned(),
            name: key.to_string(),
            near: platform::near(of, key).map(str::to_owned),
        })
    }

    /// What the answers of jQuery's requests have no more since version 3: `$.getJSON(…).success(…)`.
    fn gone_from_requests(&mut self, at: ExpressionId) -> Option<RunFaultKind> {
        const REQUESTS: &[&str] = &["ajax", "get", "getJSON", "getScript", "post"];
        let Expression::Member { object, key: Key::Name(name), .. } = self.program.expression(at) else {
            return None;
        };
        let write = match &**name {
            "success" => ".done(…)",
            "error" => ".fail(…)",
            "complete" => ".always(…)",
            _ => return None,
        };
        let Expression::Call { callee, .. } = self.program.expression(*object) else { return None };
        let Expression::Member { object: of, key: Key::Name(request), .. } = self.program.expression(*callee)
        else {
            return None;
        };
        let Expression::Global(of) = self.program.expression(*of) else { return None };
        let is_request = matches!(&**of, "$" | "jQuery") && REQUESTS.contains(&&**request);
        let is_gone =
            is_request && self.world.global(of, self.is_later) == GlobalState::Query && self.is_new_query();
        is_gone.then(|| RunFaultKind::RefusedArgument {
            method: name.to_string(),
            given: self.written(self.program.span(at)),
            takes: "nothing any more: answers of jQuery have no such method since version 3".to_owned(),
            write: Some(write.to_owned()),
        })
    }

    /// Whether what is called is a member that has a text or a number in it always.
    pub(super) fn is_never_a_function(&self, callee: &Reference, at: ExpressionId) -> bool {
        const TEXTS: &[&str] = &["innerHTML", "outerHTML", "innerText", "textContent"];
        let Expression::Member { key: Key::Name(key), .. } = self.program.expression(at) else {
            return false;
        };
        let Value::Object(id) = callee.this else { return false };
        if self.object(id).members.contains_key(key) {
            return false;
        }
        match &self.object(id).kind {
            Kind::Style => platform::member("CSSStyleDeclaration", key).is_none(),
            Kind::Element(_) | Kind::Document | Kind::Tokens(_) => {
                let found = self.interface_of(&callee.this).and_then(|of| platform::member(of, key));
                found.is_some_and(|member| {
                    !member.is_function
                        && (matches!(member.result, "string" | "number" | "boolean")
                            || TEXTS.contains(&&**key))
                })
            }
            _ => false,
        }
    }

    /// A member of what another script makes, which has no script of the page in it, nor anything else that is there.
    pub(super) fn check_heard(&mut self, name: &str, this: &Value, span: Span) {
        let is_library =
            this.doubt() == Some(Doubt::Script) || matches!(self.kind(this), Some(Kind::QueryFunction));
        let is_vague = matches!(this, Value::Unknown(_)) || is_library;
        if !is_vague || platform::is_member_of_any(name) {
            return;
        }
        // What nobody tells need not be looked for.
        if self.certainty == Certainty::Perhaps || self.tries > 0 || self.is_set_here(name) {
            return;
        }
        let near = match self.known.unheard.get(name) {
            Some(known) => known.clone(),
            None => {
                let near = self.near_unheard(name);
                self.known.unheard.insert(name.to_owned(), near.clone());
                near
            }
        };
        if let Some(near) = near {
            self.note(span, RunFaultKind::UnheardMember { name: name.to_owned(), near });
        }
    }

    /// For a name that stands nowhere else, one of nearly that spelling.
    pub(super) fn near_unheard(&self, name: &str) -> Option<String> {
        let near = self.world.near_word(name)?;
        let own = || crate::script::added::words_of(self.text).filter(|word| *word != name);
        near.or_else(|| crate::source::nearest(name, own()).map(str::to_owned))
            .or_else(|| platform::near_any(name).map(str::to_owned))
    }
}
