//! What scripts hand to functions and queues that may be about a person: by the key that it stands
//! under, or by where it comes from.

use oxc_ast::ast::{
    Argument, ArrayExpressionElement, ArrowFunctionExpression, CallExpression, Class, Expression, Function,
    IdentifierReference, ObjectPropertyKind, StaticMemberExpression, StringLiteral,
};
use oxc_ast_visit::{Visit, walk};
use oxc_syntax::scope::ScopeFlags;

use super::globals::is_browser_global;
use super::values::{Value, Values, span_of};
use crate::source::Span;

/// A value that says of itself that it is about a person, handed to a function.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Given {
    /// The function, as a path from a global: `dataLayer.push`.
    pub to: String,
    /// What says so: a key, or a name in the value.
    pub says: String,
    /// Where.
    pub span: Span,
}

/// What a call hands over. Values that are written out are nobody's.
pub(super) fn given<'a>(values: &Values<'_, 'a>, call: &'a CallExpression<'a>, gives: &mut Vec<Given>) {
    let says_little = |argument: &Argument<'_>| argument.as_expression().is_some_and(tells_little);
    if call.arguments.iter().all(says_little) {
        return;
    }
    let Some(to) = path(values, &call.callee, 0) else { return };
    for argument in &call.arguments {
        let expression = match argument {
            Argument::SpreadElement(spread) => &spread.argument,
            argument => match argument.as_expression() {
                Some(expression) => expression,
                None => continue,
            },
        };
        of_value(values, &to, None, expression, 0, gives);
    }
}

/// How deep into objects and from variable to variable it is looked.
const DEEPEST: usize = 4;
/// The most expressions that a value is taken apart into.
const BUDGET: usize = 100;

fn of_value<'a>(
    values: &Values<'_, 'a>,
    to: &str,
    key: Option<(&str, Span)>,
    value: &'a Expression<'a>,
    depth: usize,
    gives: &mut Vec<Given>,
) {
    if depth > DEEPEST {
        return;
    }
    match value.without_parentheses() {
        Expression::ObjectExpression(object) => {
            for property in &object.properties {
                if let ObjectPropertyKind::ObjectProperty(own) = property {
                    let name = own.key.static_name();
                    let key = name.as_ref().map(|name| (name.as_ref(), span_of(&**own)));
                    of_value(values, to, key, &own.value, depth + 1, gives);
                }
            }
            return;
        }
        Expression::ArrayExpression(array) => {
            let items = array.elements.iter().filter_map(ArrayExpressionElement::as_expression);
            items.for_each(|item| of_value(values, to, key, item, depth + 1, gives));
            return;
        }
        // Of these it is known only whether something is so, or how much of it there is.
        value if tells_little(value) => return,
        _ => {}
    }
    let mut sources = Sources { values, words: Vec::new(), depth: 0, budget: BUDGET };
    sources.visit_expression(value);
    let about_somebody = sources.words.iter().any(|word| parts(word).iter().any(|part| is_somebody(part)));
    let by_key = key.filter(|(name, _)| says_person(name, about_somebody));
    let by_source = || sources.words.iter().find(|word| says_person(word, about_somebody && key.is_none()));
    let (says, span) = match (by_key, by_source()) {
        (Some((name, span)), _) => (name.to_owned(), span),
        (None, Some(word)) => (word.clone(), span_of(value)),
        (None, None) => return,
    };
    gives.push(Given { to: to.to_owned(), says, span });
}

fn tells_little(value: &Expression<'_>) -> bool {
    use oxc_syntax::operator::UnaryOperator::{LogicalNot, Typeof, Void};
    match value {
        value if value.is_literal() => true,
        Expression::TemplateLiteral(template) => template.expressions.is_empty(),
        Expression::UnaryExpression(own) => matches!(own.operator, LogicalNot | Typeof | Void),
        Expression::BinaryExpression(own) => own.operator.is_equality() || own.operator.is_compare(),
        Expression::StaticMemberExpression(own) => own.property.name == "length",
        Expression::CallExpression(own) => {
            own.callee.as_member_expression().and_then(|member| member.static_property_name()).is_some_and(
                |name| matches!(name, "includes" | "test" | "has" | "contains" | "checkValidity"),
            )
        }
        Expression::ConditionalExpression(own) => {
            tells_little(&own.consequent) && tells_little(&own.alternate)
        }
        Expression::FunctionExpression(_) | Expression::ArrowFunctionExpression(_) => true,
        _ => false,
    }
}

/// The path from a global that an expression names.
fn path<'a>(values: &Values<'_, 'a>, expression: &'a Expression<'a>, depth: usize) -> Option<String> {
    if depth > DEEPEST {
        return None;
    }
    let named = || {
        values.of(expression).into_iter().find_map(|value| match value {
            Value::Named(name) => Some(name.into_owned()),
            _ => None,
        })
    };
    match expression.without_parentheses() {
        Expression::Identifier(name) if values.symbol(name).is_none() => {
            // Of the browser's own, few send anything.
            let sends = !is_browser_global(&name.name) || matches!(&*name.name, "fetch" | "navigator");
            sends.then(|| name.name.to_string())
        }
        Expression::StaticMemberExpression(member) => {
            let is_global = values.of(&member.object).iter().any(|value| matches!(value, Value::Global));
            match is_global {
                true => Some(member.property.name.to_string()),
                false => {
                    let object = path(values, &member.object, depth + 1)?;
                    Some(format!("{object}.{}", member.property.name))
                }
            }
        }
        _ => named(),
    }
}

/// The names that a value is made from, followed through variables.
struct Sources<'v, 's, 'a> {
    values: &'v Values<'s, 'a>,
    words: Vec<String>,
    depth: usize,
    /// How many names are still looked at.
    budget: usize,
}

impl<'a> Visit<'a> for Sources<'_, '_, 'a> {
    fn visit_expression(&mut self, expression: &Expression<'a>) {
        if self.budget > 0 {
            self.budget -= 1;
            walk::walk_expression(self, expression);
        }
    }

    // What functions do is not where a value comes from.
    fn visit_function(&mut self, _: &Function<'a>, _: ScopeFlags) {}

    fn visit_arrow_function_expression(&mut self, _: &ArrowFunctionExpression<'a>) {}

    fn visit_class(&mut self, _: &Class<'a>) {}

    fn visit_identifier_reference(&mut self, name: &IdentifierReference<'a>) {
        self.words.push(name.name.to_string());
        let Some(symbol) = self.values.symbol(name).filter(|_| self.depth < DEEPEST) else { return };
        self.depth += 1;
        for source in self.values.sources(symbol) {
            self.visit_expression(source);
        }
        self.depth -= 1;
    }

    fn visit_static_member_expression(&mut self, member: &StaticMemberExpression<'a>) {
        self.words.push(member.property.name.to_string());
        walk::walk_static_member_expression(self, member);
    }

    /// Texts within a value are what it is asked by: `form.get("email")`.
    fn visit_string_literal(&mut self, text: &StringLiteral<'a>) {
        if text.value.len() < 100 {
            self.words.push(text.value.to_string());
        }
    }
}

/// The words that a name is made of, in lower case: `contactEmail` is `contact`, `email`.
fn parts(name: &str) -> Vec<String> {
    let mut parts = vec![String::new()];
    let mut last_lower = false;
    for c in name.chars() {
        if !c.is_alphanumeric() || (c.is_uppercase() && last_lower) {
            parts.push(String::new());
        }
        if c.is_alphanumeric() {
            parts.last_mut().into_iter().for_each(|part| part.extend(c.to_lowercase()));
        }
        last_lower = c.is_lowercase() || c.is_numeric();
    }
    parts.retain(|part| !part.is_empty());
    parts
}

/// Words that mean something about a person wherever they stand.
const PERSONAL: &[&str] = &[
    "email", "emails", "mail", "phone", "telephone", "tel", "cellphone", "msisdn", "firstname", "lastname",
    "fullname", "surname", "forename", "street", "postcode", "postalcode", "zipcode", "birthday",
    "birthdate", "dob", "passport", "iban", "cardnumber", "creditcard", "password", "username", "nickname",
];
/// Words for people, which make a name or an address theirs, as `value` does, which somebody typed.
const PEOPLE: &[&str] = &[
    "value", "user", "customer", "passenger", "guest", "visitor", "contact", "person", "profile", "member",
    "traveller", "client", "first", "last", "full", "given", "family", "maiden", "your", "billing",
    "delivery", "home", "postal", "shipping",
];
/// Words that tell how somebody was asked, not what they said.
const ASIDE: &[&str] = &[
    "consent", "count", "valid", "template", "campaign", "subscribed", "optin", "error", "label", "id",
    "type", "placeholder", "event", "button", "link",
];

fn is_somebody(part: &str) -> bool {
    PEOPLE.contains(&part)
}

fn says_person(name: &str, about_somebody: bool) -> bool {
    let parts = parts(name);
    let has = |words: &[&str]| parts.iter().any(|part| words.contains(&part.as_str()));
    if has(ASIDE) {
        return false;
    }
    let is_theirs = has(PEOPLE) || about_somebody;
    has(PERSONAL) || (has(&["name", "address", "mobile"]) && is_theirs)
}
