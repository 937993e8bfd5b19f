//! A script's text so that it can stand between `<script>` tags without ending there early.

use oxc_ast::ast::{Program, RegExpLiteral, StringLiteral, TaggedTemplateExpression, TemplateElement};
use oxc_ast_visit::{Visit, walk};

use super::syntax::with_program;
use crate::source::Span;
use crate::style::{Edit, apply};

/// The same script with nothing in it that the tokenizer of a page would take for its end
/// (`</script`) or for the start of an escaped part (`<!--`): HTML, "restrictions for
/// contents of script elements". `None` where that cannot be had without changing what it means.
pub fn inline_safe(text: &str) -> Option<String> {
    let places: Vec<usize> = dangers(text).collect();
    if places.is_empty() {
        return Some(text.to_owned());
    }
    with_program(text, |program, flaws| {
        if !flaws.is_empty() {
            return None;
        }
        let mut literals = Literals { spans: Vec::new(), raw: Vec::new() };
        literals.visit_program(program);
        let edits =
            places.iter().map(|&at| edit_at(text, program, &literals, at)).collect::<Option<Vec<_>>>()?;
        let safe = apply(text, edits);
        let harmless = dangers(&safe).next().is_none();
        harmless.then_some(safe)
    })
    .ok()
    .flatten()
}

fn dangers(text: &str) -> impl Iterator<Item = usize> + '_ {
    text.match_indices('<').map(|(at, _)| at).filter(|&at| {
        let rest = &text.as_bytes()[at..];
        rest.starts_with(b"<!--") || rest.len() >= 8 && rest[..8].eq_ignore_ascii_case(b"</script")
    })
}

fn edit_at(text: &str, program: &Program<'_>, literals: &Literals, at: usize) -> Option<Edit> {
    let inside = |span: &Span| span.range().contains(&at);
    let comment = program.comments.iter().any(|c| inside(&Span { start: c.span.start, end: c.span.end }));
    let less_than = Span::new(at, at + 1);
    if literals.raw.iter().any(inside) {
        // A tag function sees the text as it is written, so no other writing will do.
        return None;
    }
    if literals.spans.iter().any(inside) {
        return Some(Edit { span: less_than, text: "\\x3C".to_owned() });
    }
    let opens_comment = text[at..].starts_with("<!--");
    match (comment, opens_comment) {
        // A comment that is opened the old way (ECMA-262 B.1.1), or one in a comment.
        (_, true) if !comment || starts_comment(program, at) => {
            Some(Edit { span: Span::new(at, at + 4), text: "//".to_owned() })
        }
        (true, _) => Some(Edit::insert(Span::at(at + 1).start, "\\")),
        // Less than, and a regular expression.
        (false, _) => Some(Edit::insert(Span::at(at + 1).start, " ")),
    }
}

fn starts_comment(program: &Program<'_>, at: usize) -> bool {
    program.comments.iter().any(|comment| comment.span.start as usize == at)
}

/// The literals in which a character can be written as an escape, and those in which it cannot.
struct Literals {
    spans: Vec<Span>,
    raw: Vec<Span>,
}

impl<'a> Visit<'a> for Literals {
    fn visit_string_literal(&mut self, literal: &StringLiteral<'a>) {
        self.spans.push(Span { start: literal.span.start, end: literal.span.end });
    }

    fn visit_reg_exp_literal(&mut self, literal: &RegExpLiteral<'a>) {
        // The slash that opens a regular expression is no part of what it matches.
        self.spans.push(Span { start: literal.span.start + 1, end: literal.span.end });
    }

    fn visit_template_element(&mut self, element: &TemplateElement<'a>) {
        self.spans.push(Span { start: element.span.start, end: element.span.end });
    }

    fn visit_tagged_template_expression(&mut self, tagged: &TaggedTemplateExpression<'a>) {
        self.raw.extend(
            tagged.quasi.quasis.iter().map(|quasi| Span { start: quasi.span.start, end: quasi.span.end }),
        );
        walk::walk_tagged_template_expression(self, tagged);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn scripts_stay_what_they_are_and_end_where_they_end() {
        let table = [
            ("a('</script>')", Some("a('\\x3C/script>')")),
            ("a(`</SCRIPT>${b}<!--`)", Some("a(`\\x3C/SCRIPT>${b}\\x3C!--`)")),
            ("a = x </script/.test(b)", Some("a = x < /script/.test(b)")),
            ("a = /x<\\/b<!--/u", Some("a = /x<\\/b\\x3C!--/u")),
            ("a() // </script> <!--\nb", Some("a() // <\\/script> <\\!--\nb")),
            ("<!-- old\na()", Some("// old\na()")),
            ("String.raw`</script>`", None),
            ("a <b", Some("a <b")),
            ("a('</script>'", None),
        ];
        for (text, expected) in table {
            assert_eq!(inline_safe(text).as_deref(), expected, "{text}");
        }
    }
}
