//! What jQuery's sets have, and what they had in earlier versions.

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Stop};
use super::platform::{self, Interface};
use super::value::Kind;
use crate::source::Span;

/// What stands for the interface of sets, where a member is taken for one of theirs.
pub(super) const SETS: Interface = "jQuery's sets";

/// Whether a member is one of elements or of arrays, which sets are often taken for.
pub(super) fn is_of_elements(name: &str) -> bool {
    const TAKEN_FOR: &[&str] =
        &["HTMLElement", "HTMLInputElement", "HTMLAnchorElement", "HTMLSelectElement", "Array"];
    TAKEN_FOR.iter().any(|of| platform::member(of, name).is_some())
}

impl Machine<'_> {
    /// Whether a set may have a member that jQuery does not give it: some script adds it.
    pub(super) fn may_be_of_sets(&mut self, name: &str) -> bool {
        let added = format!("fn.{name}");
        if self.text.contains(&added) || self.text.contains("fn.extend") || !self.world.knows_all() {
            return true;
        }
        match is_of_elements(name) {
            // Many scripts have much to do with these, and few give them to sets.
            true => self.world.has_text(&added) || self.world.acts_with("fn") && self.world.acts_with(name),
            false if platform::is_member_of_any(name) => {
                self.world.acts_with("fn") && self.world.acts_with(name)
            }
            false => self.world.mentions(name),
        }
    }

    /// Whether it is known to be of version 3 or later.
    pub(super) fn is_new_query(&mut self) -> bool {
        self.once("#query3", |this| {
            let signs = [
                "jQuery v3.", "jQuery JavaScript Library v3.", "jQuery v4.", "jQuery JavaScript Library v4.",
            ];
            signs.iter().any(|sign| this.world.has_text(sign)) && !this.world.has_text("JQMIGRATE")
        })
    }

    /// What is thrown where a method is called that jQuery has no more since version 3.
    pub(super) fn gone_from_query(&mut self, name: &str, arguments: &Arguments, span: Span) -> Option<Stop> {
        const GONE: &[&str] = &["size", "andSelf", "live", "die", "unload", "error"];
        let is_load = name == "load" && matches!(self.kind(&arguments.get(0)), Some(Kind::Function(_)));
        if !is_load && !GONE.contains(&name) {
            return None;
        }
        let is_new = self.is_new_query();
        if !is_new {
            return None;
        }
        let kind = RunFaultKind::RefusedArgument {
            method: name.to_owned(),
            given: self.written(span),
            takes: match is_load {
                true => "an address: since version 3, jQuery listens with `on`".to_owned(),
                false => "nothing any more: jQuery has no such method since version 3".to_owned(),
            },
            write: match name {
                "load" | "unload" | "error" => Some(format!(".on(\"{name}\", …)")),
                "size" => Some(".length".to_owned()),
                "andSelf" => Some(".addBack()".to_owned()),
                "live" => Some(".on(…)".to_owned()),
                _ => Some(".off(…)".to_owned()),
            },
        };
        Some(self.throws(span, kind))
    }
}
