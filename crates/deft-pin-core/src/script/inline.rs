//! A script's text so that it can stand between `<script>` tags without ending there early.

use oxc_ast::ast::{Program, RegExpLiteral, StringLiteral, TaggedTemplateExpression, TemplateElement};
use oxc_ast_visit::{Visit, walk};

use super::syntax::with_program;
use crate::source::Span;
use crate::style::{Edit, apply, with_backslash};

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
        let mut literals = Literals::default();
        literals.visit_program(program);
        let Literals { spans, patterns, raw } = &mut literals;
        [spans, patterns, raw].into_iter().for_each(|spans| spans.sort_unstable());
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
    let inside = |spans: &[Span]| {
        let before = spans.partition_point(|span| span.start as usize <= at);
        spans[..before].last().is_some_and(|span| at < span.end as usize)
    };
    let before = program.comments.partition_point(|comment| comment.span.start as usize <= at);
    let comment = program.comments[..before].last().filter(|comment| at < comment.span.end as usize);
    if inside(&literals.raw) {
        // A tag function sees the text as it is written, so no other writing will do.
        return None;
    }
    // What looks behind itself, `(?<!--`, has to keep its `<`.
    if inside(&literals.patterns) && text[..at].ends_with("(?") {
        return Some(Edit { span: Span::new(at + 2, at + 3), text: "\\x2D".to_owned() });
    }
    if inside(&literals.spans) || inside(&literals.patterns) {
        return Some(Edit { span: with_backslash(text, at), text: "\\x3C".to_owned() });
    }
    // Behind another `<` it is the end of a shift, and what follows are operators.
    let shifts = text[..at].bytes().rev().take_while(|byte| *byte == b'<').count() % 2 == 1;
    let opens_comment = text[at..].starts_with("<!--") && (comment.is_some() || !shifts);
    match (comment, opens_comment) {
        // A comment that is opened the old way (ECMA-262 B.1.1), or one in a comment.
        (comment, true) if comment.is_none_or(|comment| comment.span.start as usize == at) => {
            Some(Edit { span: Span::new(at, at + 4), text: "//".to_owned() })
        }
        (Some(_), _) => Some(Edit::insert(Span::at(at + 1).start, "\\")),
        // Less than, and a regular expression.
        (None, _) => Some(Edit::insert(Span::at(at + 1).start, " ")),
    }
}

/// The literals in which a character can be written as an escape, and those in which it cannot.
#[derive(Default)]
struct Literals {
    spans: Vec<Span>,
    /// Regular expressions.
    patterns: Vec<Span>,
    raw: Vec<Span>,
}

impl<'a> Visit<'a> for Literals {
    fn visit_string_literal(&mut self, literal: &StringLiteral<'a>) {
        self.spans.push(Span { start: literal.span.start, end: literal.span.end });
    }

    fn visit_reg_exp_literal(&mut self, literal: &RegExpLiteral<'a>) {
        // The slash that opens a regular expression is no part of what it matches.
        self.patterns.push(Span { start: literal.span.start + 1, end: literal.span.end });
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
            (r"a('\</script>')", Some(r"a('\x3C/script>')")),
            (r"a('\\</script>')", Some(r"a('\\\x3C/script>')")),
            (r"a = /\<!--/.test(b)", Some(r"a = /\x3C!--/.test(b)")),
            (r"a = /\\<!--/.test(b)", Some(r"a = /\\\x3C!--/.test(b)")),
            (r"a = /[<!--]/.test(b)", Some(r"a = /[\x3C!--]/.test(b)")),
            ("a = /(?<!--)b/.test(c)", Some("a = /(?<!\\x2D-)b/.test(c)")),
            (r"a(`\</script>`)", Some(r"a(`\x3C/script>`)")),
            ("a = 1 <<!--b", Some("a = 1 << !--b")),
            ("a = 1 <<<!-- old\nb", Some("a = 1 <<// old\nb")),
            ("String.raw`</script>`", None),
            ("a <b", Some("a <b")),
            ("a('</script>'", None),
        ];
        for (text, expected) in table {
            assert_eq!(inline_safe(text).as_deref(), expected, "{text}");
        }
    }
}
