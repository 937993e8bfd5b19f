//! What goes wrong is noted, where a visit comes to it.

use std::sync::Arc;

use super::fault::{RunFault, RunFaultKind};
use super::machine::{Machine, Stop};
use super::value::{Certainty, EXACT, Kind, Value};
use crate::source::Span;

/// So many faults are told of one script.
const MOST_FAULTS: usize = 200;

impl Machine<'_> {
    /// Notes what goes wrong, where a visit comes to it.
    pub(super) fn note(&mut self, span: Span, kind: RunFaultKind) -> Option<usize> {
        // What is another script's is told there.
        if self.codes.called_at().is_some() { None } else { self.notes(span, kind) }
    }

    fn notes(&mut self, span: Span, kind: RunFaultKind) -> Option<usize> {
        let is_told = self.certainty != Certainty::Perhaps && self.tries == 0;
        if !is_told || self.faults.len() >= MOST_FAULTS {
            return None;
        }
        let known = self.faults.iter_mut().position(|(fault, _)| fault.span == span && fault.kind == kind);
        if let Some(at) = known {
            let fault = &mut self.faults[at].0;
            if self.certainty < fault.certainty {
                (fault.certainty, fault.is_later) = (self.certainty, self.is_later);
            }
            return Some(at);
        }
        let fault = RunFault { span, certainty: self.certainty, is_later: self.is_later, kind };
        self.faults.push((fault, true));
        Some(self.faults.len() - 1)
    }

    /// Notes what stops the script, in its own code or in what it calls of another script's.
    pub(super) fn notes_stop(&mut self, span: Span, kind: RunFaultKind) {
        use RunFaultKind as Is;
        match (self.codes.called_at(), kind) {
            (None, kind) => self.notes(span, kind),
            // What is not on the page is told in the same words everywhere.
            (
                Some(called_at),
                kind @ (Is::EarlyElement { .. } | Is::NoElement { .. } | Is::NoGlobal { .. }),
            ) => self.notes(called_at, kind),
            (Some(called_at), kind) => self.notes(called_at, Is::Inside { kind: Box::new(kind) }),
        };
    }

    /// The same for what throws.
    pub(super) fn throws(&mut self, span: Span, kind: RunFaultKind) -> Stop {
        self.notes_stop(span, kind);
        self.throws_itself = false;
        let error = self.make(Kind::Instance("Error"));
        self.object_mut(error).members.insert(Arc::from(EXACT), Value::NULL);
        Stop::Throw(Value::Object(error))
    }

    /// What the script's text is there, shortened.
    pub(super) fn written(&self, span: Span) -> String {
        let text = self.codes.text().get(span.start as usize..span.end as usize).unwrap_or_default();
        let line = text.split_whitespace().collect::<Vec<_>>().join(" ");
        match line.char_indices().nth(60) {
            Some((at, _)) => format!("{}…", &line[..at]),
            None => line,
        }
    }
}
