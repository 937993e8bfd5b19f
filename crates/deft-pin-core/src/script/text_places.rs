//! Where texts stand in a script: in quotes, in templates, in regular expressions, in comments.

use oxc_ast::ast::{RegExpLiteral, StringLiteral, TemplateElement};
use oxc_ast_visit::Visit;

use super::syntax::{ScriptKind, with_program_as};
use super::values::span_of;
use crate::source::Span;

/// What kind of text stands at a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum TextPlace {
    /// One in quotes.
    Quoted,
    /// A part of a template, between its backquotes and what is put in.
    Template,
    /// A regular expression.
    RegExp,
    /// A comment.
    Comment,
}

#[derive(Default)]
struct Places(Vec<(Span, TextPlace)>);

impl<'a> Visit<'a> for Places {
    fn visit_string_literal(&mut self, text: &StringLiteral<'a>) {
        self.0.push((span_of(text), TextPlace::Quoted));
    }

    fn visit_template_element(&mut self, text: &TemplateElement<'a>) {
        self.0.push((span_of(text), TextPlace::Template));
    }

    fn visit_reg_exp_literal(&mut self, text: &RegExpLiteral<'a>) {
        self.0.push((span_of(text), TextPlace::RegExp));
    }
}

/// The texts in a pin's script, in order; none of one that does not parse.
pub fn text_places(text: &str) -> Vec<(Span, TextPlace)> {
    let found = with_program_as(text, ScriptKind::Confined, |program, _| {
        let mut places = Places::default();
        places.visit_program(program);
        places.0.extend(program.comments.iter().map(|comment| (span_of(comment), TextPlace::Comment)));
        places.0.sort_by_key(|(span, _)| *span);
        places.0
    });
    found.unwrap_or_default()
}
