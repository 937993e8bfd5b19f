//! The addresses in a script's texts: what may be a file beside the script, and how it stands in its text.

use std::sync::LazyLock;

use oxc_ast::ast::{
    Argument, AssignmentExpression, BinaryExpression, CallExpression, ComputedMemberExpression, Directive,
    ExportAllDeclaration, ExportFromDeclaration, Expression, ImportDeclaration, ImportExpression,
    NewExpression, PropertyKey, StringLiteral, SwitchCase, TaggedTemplateExpression, TemplateElement,
    TemplateLiteral,
};
use oxc_ast_visit::{Visit, walk};
use oxc_span::GetSpan as _;
use oxc_syntax::operator::BinaryOperator;
use regex::Regex;

use super::syntax::{ScriptKind, with_program_as};
use super::values::span_of;
use crate::source::Span;

/// How an address stands in a script.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum AddressForm {
    /// It is all of a literal, in whose stead another expression may stand.
    Literal,
    /// It says which module is meant, and stays a literal (ECMA-262, 16.2.2).
    Specifier,
    /// It is a part of a literal: of markup, or of a sheet's text.
    Part {
        /// What the literal stands in: `"`, `'` or a backquote.
        quote: char,
        /// All of the literal, with what it stands in.
        literal: Span,
    },
    /// It is the beginning of an address that is put together as the script runs.
    Beginning,
}

/// A text in a script that may be the address of a file.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ScriptAddress {
    /// The address, or its beginning.
    pub address: String,
    /// What has to be written anew where the address is another.
    pub span: Span,
    /// How it stands there.
    pub form: AddressForm,
    /// For one that is put together, what it ends in.
    pub end: String,
    /// Whether it counts from the script that it stands in, and not from the page.
    pub is_from_script: bool,
    /// Whether the file is to run as a script of its own, apart from the page.
    pub is_of_worker: bool,
}

/// The texts of a script that may be relative addresses of files, in order: not those that are compared, joined,
/// used as keys, or to look something up. None of a script that does not parse.
pub fn addresses(text: &str, kind: ScriptKind) -> Vec<ScriptAddress> {
    let found = with_program_as(text, kind, |program, flaws| {
        let mut visitor =
            Addresses { text, found: Vec::new(), is_from_script: false, is_of_worker: false, is_part: false };
        if flaws.is_empty() {
            visitor.visit_program(program);
        }
        visitor.found.sort_by_key(|address| address.span);
        visitor.found
    });
    found.unwrap_or_default()
}

/// Methods whose texts are looked for in something, and are nobody's address.
const LOOKERS: &[&str] = &[
    "includes", "startsWith", "endsWith", "indexOf", "lastIndexOf", "match", "matchAll", "test", "replace",
    "replaceAll", "split", "search", "localeCompare", "concat", "querySelector", "querySelectorAll",
    "closest", "matches", "getElementById", "getElementsByClassName", "getElementsByTagName",
    "getElementsByName", "getItem", "removeItem", "log", "warn", "error", "info", "debug", "assign",
];

struct Addresses<'t> {
    text: &'t str,
    found: Vec<ScriptAddress>,
    is_from_script: bool,
    is_of_worker: bool,
    /// Whether what is visited is a part of a text that is put together.
    is_part: bool,
}

impl Addresses<'_> {
    fn take(&mut self, address: &str, span: Span, form: AddressForm) {
        let is_from_script = self.is_from_script || form == AddressForm::Specifier;
        let (address, is_of_worker) = (address.to_owned(), self.is_of_worker);
        self.found.push(ScriptAddress {
            address,
            span,
            form,
            end: String::new(),
            is_from_script,
            is_of_worker,
        });
    }

    /// What stands in something whose addresses count from elsewhere.
    fn within(&mut self, is_from_script: bool, is_of_worker: bool, then: impl FnOnce(&mut Self)) {
        let outer = (self.is_from_script, self.is_of_worker);
        (self.is_from_script, self.is_of_worker) = (is_from_script, is_of_worker || outer.1);
        then(self);
        (self.is_from_script, self.is_of_worker) = outer;
    }

    /// A text: an address as it is, or one with addresses in it.
    fn literal(&mut self, value: &str, span: Span) {
        match may_be_address(value) {
            true => self.take(value, span, AddressForm::Literal),
            false => self.parts(span),
        }
    }

    /// The same in a literal of one piece.
    fn parts(&mut self, literal: Span) {
        self.parts_of(literal, literal);
    }

    /// The addresses in the markup or the sheet's text that a piece of a literal holds, each whole in it.
    fn parts_of(&mut self, piece: Span, literal: Span) {
        let written = &self.text[piece.range()];
        let quote = self.text[literal.range()].chars().next().unwrap_or('"');
        for found in IN_MARKUP.captures_iter(written) {
            let Some(address) = found.iter().skip(1).flatten().next() else { continue };
            if may_be_address(address.as_str()) && address.end() < written.len() {
                let from = piece.start as usize;
                let span = Span::new(from + address.start(), from + address.end());
                self.take(address.as_str(), span, AddressForm::Part { quote, literal });
            }
        }
    }

    /// A part of what is compared or joined: it is no address by itself.
    fn joined<'a>(&mut self, expression: &Expression<'a>) {
        match expression.without_parentheses() {
            Expression::StringLiteral(text) => self.parts(span_of(&**text)),
            Expression::TemplateLiteral(text) if text.expressions.is_empty() => self.parts(span_of(&**text)),
            other => self.visit_expression(other),
        }
    }

    /// A text that is put together: it may be the address of one of several files.
    fn together<'a>(&mut self, expression: &Expression<'a>, span: Span) {
        let (mut beginning, mut end) = (String::new(), String::new());
        ends_of(expression, &mut beginning, &mut end);
        if may_begin_address(&beginning) && (beginning.contains('/') || end.contains('.')) {
            self.take(&beginning, span, AddressForm::Beginning);
            if let Some(own) = self.found.last_mut() {
                own.end = end;
            }
        }
    }

    fn specifier(&mut self, text: &StringLiteral<'_>) {
        if text.value.starts_with('.') && may_be_address(&text.value) {
            self.take(&text.value, span_of(text), AddressForm::Specifier);
        }
    }
}

impl<'a> Visit<'a> for Addresses<'_> {
    fn visit_string_literal(&mut self, text: &StringLiteral<'a>) {
        self.literal(&text.value, span_of(text));
    }

    fn visit_template_literal(&mut self, text: &TemplateLiteral<'a>) {
        match (text.expressions.is_empty(), text.quasis.first().and_then(|quasi| quasi.value.cooked.as_ref()))
        {
            (true, Some(value)) => self.literal(value, span_of(text)),
            _ => {
                let literal = span_of(text);
                text.quasis.iter().for_each(|quasi| self.parts_of(span_of(quasi), literal));
                walk::walk_template_literal(self, text);
            }
        }
    }

    fn visit_directive(&mut self, _: &Directive<'a>) {}

    fn visit_tagged_template_expression(&mut self, tagged: &TaggedTemplateExpression<'a>) {
        self.visit_expression(&tagged.tag);
        tagged.quasi.expressions.iter().for_each(|own| self.visit_expression(own));
    }

    fn visit_property_key(&mut self, key: &PropertyKey<'a>) {
        if !matches!(key, PropertyKey::StringLiteral(_)) {
            walk::walk_property_key(self, key);
        }
    }

    fn visit_computed_member_expression(&mut self, member: &ComputedMemberExpression<'a>) {
        self.visit_expression(&member.object);
        self.joined(&member.expression);
    }

    fn visit_binary_expression(&mut self, own: &BinaryExpression<'a>) {
        self.joined(&own.left);
        self.joined(&own.right);
    }

    fn visit_expression(&mut self, expression: &Expression<'a>) {
        let is_addition = matches!(expression, Expression::BinaryExpression(own) if own.operator == BinaryOperator::Addition);
        let is_part = std::mem::replace(&mut self.is_part, is_addition);
        let is_template =
            matches!(expression, Expression::TemplateLiteral(own) if !own.expressions.is_empty());
        if !is_part && (is_addition || is_template) {
            let span = expression.span();
            self.together(expression, Span::new(span.start as usize, span.end as usize));
        }
        walk::walk_expression(self, expression);
        self.is_part = is_part;
    }

    fn visit_switch_case(&mut self, case: &SwitchCase<'a>) {
        case.consequent.iter().for_each(|statement| self.visit_statement(statement));
    }

    fn visit_assignment_expression(&mut self, own: &AssignmentExpression<'a>) {
        let target = own.left.as_member_expression().and_then(|member| member.static_property_name());
        // Where the page goes is no file of the script's.
        let goes = own.left.get_identifier_name() == Some("location") || target == Some("location");
        let is_of_location =
            own.left.as_member_expression().is_some_and(|member| is_location(member.object()));
        self.visit_assignment_target(&own.left);
        if goes || is_of_location {
            return self.joined(&own.right);
        }
        self.visit_expression(&own.right);
    }

    fn visit_call_expression(&mut self, call: &CallExpression<'a>) {
        let member = call.callee.as_member_expression();
        let name = match member {
            Some(member) => member.static_property_name(),
            None => call.callee.get_identifier_reference().map(|own| own.name.as_str()),
        };
        self.visit_expression(&call.callee);
        let is_looker = member.is_some_and(|member| {
            name.is_some_and(|name| LOOKERS.contains(&name)) || is_location(member.object())
        });
        for argument in &call.arguments {
            match argument.as_expression() {
                Some(own) if is_looker => self.joined(own),
                _ => self.visit_argument(argument),
            }
        }
    }

    fn visit_new_expression(&mut self, own: &NewExpression<'a>) {
        let name = own.callee.get_identifier_reference().map(|callee| callee.name.as_str());
        let is_worker = matches!(name, Some("Worker" | "SharedWorker"));
        let is_from_script = name == Some("URL")
            && matches!(own.arguments.get(1).and_then(Argument::as_expression), Some(base) if is_own_url(base));
        self.visit_expression(&own.callee);
        for (number, argument) in own.arguments.iter().enumerate() {
            self.within(is_from_script, is_worker && number == 0, |own| match argument.as_expression() {
                Some(expression) if matches!(name, Some("RegExp" | "Error")) => own.joined(expression),
                _ => own.visit_argument(argument),
            });
        }
    }

    fn visit_import_expression(&mut self, import: &ImportExpression<'a>) {
        // What has no dot before it is a name for an import map.
        let is_bare =
            matches!(&import.source, Expression::StringLiteral(text) if !text.value.starts_with('.'));
        if !is_bare {
            self.within(true, false, |own| own.visit_expression(&import.source));
        }
    }

    fn visit_import_declaration(&mut self, import: &ImportDeclaration<'a>) {
        self.specifier(&import.source);
    }

    fn visit_export_all_declaration(&mut self, export: &ExportAllDeclaration<'a>) {
        self.specifier(&export.source);
    }

    fn visit_export_from_declaration(&mut self, export: &ExportFromDeclaration<'a>) {
        self.specifier(&export.source);
    }
}

/// Whether an expression is the address of the script that it stands in: `import.meta.url`.
fn is_own_url(expression: &Expression<'_>) -> bool {
    let member = expression.without_parentheses().as_member_expression();
    member.is_some_and(|member| {
        member.static_property_name() == Some("url")
            && matches!(member.object().without_parentheses(), Expression::ImportMeta(_))
    })
}

/// Whether an expression is where the page is, as an object.
fn is_location(expression: &Expression<'_>) -> bool {
    match expression.without_parentheses() {
        Expression::Identifier(own) => own.name == "location" || own.name == "history",
        other => other
            .as_member_expression()
            .and_then(|member| member.static_property_name())
            .is_some_and(|name| name == "location"),
    }
}

/// The texts that an expression which puts texts together begins and ends with.
fn ends_of(expression: &Expression<'_>, beginning: &mut String, end: &mut String) {
    match expression.without_parentheses() {
        Expression::StringLiteral(text) => {
            *beginning = text.value.to_string();
            *end = beginning.clone();
        }
        Expression::TemplateLiteral(text) => {
            let cooked = |quasi: Option<&TemplateElement<'_>>| {
                quasi
                    .and_then(|quasi| quasi.value.cooked.as_ref())
                    .map(ToString::to_string)
                    .unwrap_or_default()
            };
            (*beginning, *end) = (cooked(text.quasis.first()), cooked(text.quasis.last()));
        }
        Expression::BinaryExpression(own) if own.operator == BinaryOperator::Addition => {
            ends_of(&own.left, beginning, &mut String::new());
            ends_of(&own.right, &mut String::new(), end);
        }
        _ => {}
    }
}

/// Whether a text may be the relative address of a file: with an extension, and of the characters of one.
fn may_be_address(text: &str) -> bool {
    const LONGEST: usize = 512;
    let path = text.split(['?', '#']).next().unwrap_or_default();
    let name = path.rsplit('/').next().unwrap_or_default();
    let is_extension = |text: &str| {
        text.len() <= 10
            && text.starts_with(|c: char| c.is_ascii_alphabetic())
            && text.chars().all(|c| c.is_ascii_alphanumeric())
    };
    let is_odd = |c: char| c.is_control() || "<>\"'`\\|*:".contains(c);
    text.len() <= LONGEST
        && !path.starts_with('/')
        && !path.contains(is_odd)
        && name.rsplit_once('.').is_some_and(|(stem, end)| !stem.is_empty() && is_extension(end))
}

/// Whether a text may be the beginning of one.
fn may_begin_address(text: &str) -> bool {
    let is_path = |c: char| c.is_alphanumeric() || "-_./~%".contains(c);
    text.len() > 1 && !text.starts_with('/') && text != "./" && text != "../" && text.chars().all(is_path)
}

/// Addresses in markup and in the texts of sheets.
static IN_MARKUP: LazyLock<Regex> = LazyLock::new(|| {
    match Regex::new(
        r#"(?i)\b(?:src|href|poster|data-src)\s*=\s*(?:\\?["']([^"'\\<>]+)\\?["']|([^\s"'\\<>]+)(?:[\s>]))|\burl\(\s*\\?["']?([^"'()\\<>\s]+)\\?["']?\s*\)"#,
    ) {
        Ok(regex) => regex,
        Err(_) => unreachable!("an expression written here"),
    }
});

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn texts_that_may_be_addresses_are_told_from_others() {
        // A script, and what in it may be the address of a file.
        let table: &[(&str, &str)] = &[
            ("fetch('data.json')", "data.json"),
            ("const a = './a b.svg?x#y'; img.src = a", "./a b.svg?x#y"),
            ("img.src = `waves.svg`", "waves.svg"),
            ("['a.jpg', \"../b.webp\"].forEach(show)", "a.jpg ../b.webp"),
            ("load({ path: 'boat.json', 'c.css': 1 })", "boat.json"),
            ("if (name === 'waves.svg') go(); switch (name) { case 'a.svg': go() }", ""),
            ("name.endsWith('waves.svg'); map['a.svg']; document.querySelector('a.svg')", ""),
            ("location.href = 'thanks.html'; location.assign('a.html'); location = 'b.html'", ""),
            (
                "'use strict.js'; tag`a.svg`; go('/a.svg', 'https://a.example/a.svg', 'a', 'v1.2', 'a.b c')",
                "",
            ),
            ("o.innerHTML = '<img alt=\"x\" src=\"a.svg\"> <a href=b.pdf >'", "<a.svg <b.pdf"),
            ("o.innerHTML = \"<img src='a.svg'>\" + x + `<img src=\"b.svg\" alt=${y}>`", "<a.svg <b.svg"),
            ("o.innerHTML = `<img src=\"${x}.svg\">`", ""),
            ("o.style.background = 'no-repeat url(a.svg) 0 0'", "<a.svg"),
            ("import('./a.js'); import('a.js')", "./a.js"),
            ("new Worker('w.js'); new URL('u.svg', location.href)", "worker w.js u.svg"),
            ("fetch('data/' + id + '.json')", "data/…"),
            ("fetch(`./tides-${id}.json`); go('a' + 'b'); go(x + '.json')", "./tides-…"),
            ("go('data/' + file('x/' + y + '.png') + '.json')", "data/… x/…"),
        ];
        for (script, expected) in table {
            let found = addresses(script, ScriptKind::Confined);
            let shown: Vec<String> = found
                .iter()
                .map(|own| match own.form {
                    _ if own.is_of_worker => format!("worker {}", own.address),
                    AddressForm::Part { .. } => format!("<{}", own.address),
                    AddressForm::Beginning => format!("{}…", own.address),
                    AddressForm::Literal | AddressForm::Specifier => own.address.clone(),
                })
                .collect();
            assert_eq!(shown.join(" "), *expected, "{script}");
        }
        let module = "import a from './a.js'; export * from './b.js'; export { c } from './c.js'; import 'bare.js'; \
            new URL('d.svg', import.meta.url); fetch('e.json')";
        let found = addresses(module, ScriptKind::Module);
        let shown: Vec<_> = found.iter().map(|own| (own.address.as_str(), own.is_from_script)).collect();
        assert_eq!(
            shown,
            [("./a.js", true), ("./b.js", true), ("./c.js", true), ("d.svg", true), ("e.json", false)]
        );
    }
}
