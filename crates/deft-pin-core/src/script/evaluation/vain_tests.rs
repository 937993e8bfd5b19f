//! Tests that come to the same whatever the page is like: comparisons with what is never there.

use oxc_syntax::operator::{AssignmentOperator, BinaryOperator, LogicalOperator, UnaryOperator};

use super::machine::{Machine, Run};
use super::platform;
use super::value::{Absence, Kind, Value};
use crate::script::program::{Case, Expression, ExpressionId, Key, Pattern};
use crate::script::style_names::property_of;
use crate::source::{Span, nearest};
use crate::style::{self, MediaFaultKind};

/// What `typeof` gives (ECMA-262, "The typeof Operator").
const TYPES: &[&str] =
    &["bigint", "boolean", "function", "number", "object", "string", "symbol", "undefined"];
/// What gives an element or `null`.
const LOOKUPS: &[&str] = &["closest", "getAttribute", "getElementById", "getItem", "querySelector"];
/// What gives a number.
const NUMBERS: &[&str] = &[
    "findIndex", "getDate", "getDay", "getFullYear", "getHours", "getMinutes", "getMonth", "getSeconds",
    "getTime", "indexOf", "lastIndexOf", "search",
];
/// What gives `true` or `false`.
const TRUTHS: &[&str] =
    &["contains", "endsWith", "every", "hasAttribute", "includes", "matches", "some", "startsWith", "test"];
/// What gives -1 for *none*.
const PLACES: &[&str] = &["findIndex", "findLastIndex", "indexOf", "lastIndexOf", "search"];
/// What gives a text or `null`.
const TEXTS: &[&str] = &["getAttribute", "getItem"];
/// Interfaces of addresses in their parts (HTML, URL).
const ADDRESSES: &[&str] = &["HTMLAnchorElement", "HTMLAreaElement", "Location", "URL"];
/// Keys of a keyboard that have names of several letters (UI Events, "KeyboardEvent key Values").
const KEYS: &[&str] = &[
    "Alt", "ArrowDown", "ArrowLeft", "ArrowRight", "ArrowUp", "Backspace", "CapsLock", "ContextMenu",
    "Control", "Delete", "End", "Enter", "Escape", "Home", "Insert", "Meta", "PageDown", "PageUp", "Shift",
    "Tab",
];
/// What people write for them, and what old browsers gave.
const KEYS_OTHERWISE: &[(&str, &str)] = &[
    ("cmd", "Meta"),
    ("ctrl", "Control"),
    ("del", "Delete"),
    ("down", "ArrowDown"),
    ("esc", "Escape"),
    ("left", "ArrowLeft"),
    ("return", "Enter"),
    ("right", "ArrowRight"),
    ("space", " "),
    ("spacebar", " "),
    ("up", "ArrowUp"),
];
/// Elements of HTML that drawings and feeds have none of by that name.
const HTML_ALONE: &[&str] = &[
    "button", "details", "dialog", "div", "fieldset", "footer", "form", "h1", "h2", "h3", "h4", "h5", "h6",
    "iframe", "img", "input", "label", "li", "main", "nav", "ol", "option", "p", "section", "select", "span",
    "summary", "table", "td", "textarea", "th", "tr", "ul",
];

/// A test that says nothing, and what to write.
type Told = (String, Option<String>);

fn told(says: String, write: impl Into<Option<String>>) -> Option<Told> {
    Some((says, write.into()))
}

impl Machine<'_> {
    /// A comparison with what the script has there as it stands: what is compared with that, and where it is a member,
    /// what it is a member of.
    pub(super) fn compared_operand(&mut self, id: ExpressionId, other: ExpressionId) -> Run<(Value, Value)> {
        match self.program.expression(id) {
            Expression::Member { .. } if self.is_fixed(other) => self.member_and_owner(id),
            _ => Ok((self.expression(id)?, Value::UNDEFINED)),
        }
    }

    /// Whether an expression is a text, a number or a name of the language.
    fn is_fixed(&self, id: ExpressionId) -> bool {
        match self.program.expression(id) {
            Expression::Text(_) | Expression::Number(_) | Expression::Boolean(_) => true,
            Expression::Global(name) => matches!(&**name, "NaN" | "undefined"),
            // What is made where it stands is no other object.
            Expression::Array(_)
            | Expression::Object(_)
            | Expression::Function(_)
            | Expression::New { .. } => true,
            _ => false,
        }
    }

    /// A test for what never is.
    pub(super) fn check_comparison(
        &mut self,
        operator: BinaryOperator,
        (asked, value, of): (ExpressionId, &Value, &Value),
        fixed: ExpressionId,
    ) {
        if !self.is_fixed(fixed) {
            return self.check_chain(operator, asked, fixed);
        }
        if operator.is_compare() {
            self.check_chain(operator, asked, fixed);
        }
        let is_strict = matches!(operator, BinaryOperator::StrictEquality | BinaryOperator::StrictInequality);
        let told = match operator.is_equality() {
            true => self.never_equal(asked, value, of, fixed, is_strict),
            false => self.never_less(asked, value, of, fixed),
        };
        if let Some((says, write)) = told {
            self.is_vain(says, write, self.program.span(asked));
        }
    }

    fn never_equal(
        &self,
        asked: ExpressionId,
        value: &Value,
        of: &Value,
        fixed: ExpressionId,
        is_strict: bool,
    ) -> Option<Told> {
        let program = self.program;
        let (written, given) = (self.written(program.span(asked)), self.written(program.span(fixed)));
        let fixed = program.expression(fixed);
        match (program.expression(asked), fixed) {
            (_, Expression::Array(_) | Expression::Object(_) | Expression::Function(_))
                if is_strict || matches!(value, Value::Object(_)) =>
            {
                told(format!("`{given}` is made here, and is no other object"), None)
            }
            (_, Expression::New { .. }) if matches!(value, Value::Object(_)) => {
                told(format!("`{given}` is made here, and is no other object"), None)
            }
            (
                _,
                Expression::Array(_)
                | Expression::Object(_)
                | Expression::Function(_)
                | Expression::New { .. },
            ) => None,
            (_, Expression::Global(name)) if **name == *"NaN" => {
                told("nothing equals `NaN`, not even itself".into(), format!("Number.isNaN({written})"))
            }
            (Expression::Unary(UnaryOperator::Typeof, _), Expression::Global(_)) => {
                told("`typeof` gives a text".into(), "\"undefined\"".to_owned())
            }
            (Expression::Unary(UnaryOperator::Typeof, inner), Expression::Text(text))
                if !TYPES.contains(&&**text) =>
            {
                let inner = self.written(program.span(*inner));
                let write = match text.to_ascii_lowercase().as_str() {
                    "null" => Some(format!("{inner} === null")),
                    "array" => Some(format!("Array.isArray({inner})")),
                    "nan" => Some(format!("Number.isNaN({inner})")),
                    lower => nearest(lower, TYPES.iter().copied()).map(|near| format!("\"{near}\"")),
                };
                told(format!("`typeof` never gives `{text}`"), write)
            }
            (
                Expression::Unary(UnaryOperator::LogicalNot, inner),
                Expression::Text(_) | Expression::Number(_),
            ) if is_strict => {
                let inner = self.written(program.span(*inner));
                told(
                    format!("`{written}` is `true` or `false`, and never {given}"),
                    format!("{inner} !== {given}"),
                )
            }
            (Expression::Call { .. }, _) if matches!(self.kind(value), Some(Kind::Promise(_))) => {
                told(format!("`{written}` gives a promise, and never {given}"), format!("await {written}"))
            }
            (Expression::Call { callee, .. }, fixed) => {
                let Expression::Member { key: Key::Name(name), .. } = program.expression(*callee) else {
                    return None;
                };
                let name = &**name;
                match fixed {
                    Expression::Global(_)
                        if is_strict && LOOKUPS.contains(&name) && value.doubt().is_none() =>
                    {
                        told(format!("`{name}` gives `null` and never `undefined`"), "null".to_owned())
                    }
                    Expression::Boolean(_) | Expression::Number(_)
                        if is_strict && TEXTS.contains(&name) && is_text_or_nothing(value) =>
                    {
                        told(format!("`{name}` gives a text, and never {given}"), format!("\"{given}\""))
                    }
                    Expression::Text(_) | Expression::Boolean(_) | Expression::Null
                        if is_strict && NUMBERS.contains(&name) && value.primitive() == Some("Number") =>
                    {
                        told(format!("`{name}` gives a number, and never {given}"), None)
                    }
                    Expression::Text(_) | Expression::Number(_)
                        if is_strict && TRUTHS.contains(&name) && value.primitive() == Some("Boolean") =>
                    {
                        told(format!("`{name}` gives `true` or `false`, and never {given}"), written.clone())
                    }
                    Expression::Number(number) => never_of_date(name, *number),
                    _ => None,
                }
            }
            (Expression::Global(name), fixed) => {
                let member =
                    platform::global(name).filter(|own| !own.is_function && own.result == "number")?;
                match fixed {
                    Expression::Text(text) if is_strict && member.result == "number" => {
                        told(format!("`{name}` is a number, and never a text"), text.to_string())
                    }
                    _ => None,
                }
            }
            (Expression::Member { key: Key::Name(name), .. }, Expression::Number(_))
                if matches!(value, Value::Undefined(_)) && self.near_of_missing(name, value).is_some() =>
            {
                told(format!("there is no `{name}` here"), self.near_of_missing(name, value))
            }
            (Expression::Member { key: Key::Name(name), .. }, fixed) => {
                self.never_of_member(name, of, value, &written, fixed, is_strict)
            }
            _ => None,
        }
    }

    fn never_of_member(
        &self,
        name: &str,
        of: &Value,
        value: &Value,
        written: &str,
        fixed: &Expression,
        is_strict: bool,
    ) -> Option<Told> {
        let Value::Object(id) = of else { return None };
        let of = match self.object(*id).kind {
            Kind::Dataset(_) => "DOMStringMap",
            _ => self.interface_of(of)?,
        };
        let is_own = self.object(*id).members.get(name).is_some_and(|own| own.doubt().is_none());
        if is_own && !of.ends_with("Event") && of != "Location" {
            return None;
        }
        let member = match of {
            "Window" => platform::global(name),
            _ => platform::member(of, name),
        };
        let result = match (of, member) {
            (_, Some(_)) if name == "hidden" => match fixed {
                Expression::Text(text) if **text == *"until-found" => return None,
                _ => "boolean",
            },
            ("DOMStringMap" | "Storage", None) => "string",
            ("CSSStyleDeclaration", _) if style::is_property(&property_of(name)) => "string",
            (_, Some(member)) if !member.is_function => member.result.trim_end_matches('?'),
            _ => return None,
        };
        match (result, fixed) {
            ("string", Expression::Number(number)) if is_strict && is_text_or_nothing(value) => {
                told(format!("`{written}` is a text, and never the number {number}"), format!("\"{number}\""))
            }
            ("string", Expression::Boolean(is)) if is_strict && is_text_or_nothing(value) => {
                told(format!("`{written}` is a text, and never {is}"), format!("\"{is}\""))
            }
            ("number", Expression::Text(text)) if is_strict => {
                told(format!("`{written}` is a number, and never the text \"{text}\""), text.to_string())
            }
            ("boolean", Expression::Text(text)) if !matches!(&**text, "" | "0" | "1") || is_strict => {
                told(format!("`{written}` is `true` or `false`, and never a text"), written.to_owned())
            }
            ("string", Expression::Text(text)) => self.never_text(of, name, written, text),
            // An object is no text.
            ("EventTarget" | "Element" | "HTMLElement" | "Node", Expression::Text(text)) if is_strict => {
                let write =
                    text.starts_with(['#', '.', '[']).then(|| format!("{written}.matches(\"{text}\")"));
                told(format!("`{written}` is an element, and never a text"), write)
            }
            _ => None,
        }
    }

    /// The name of a member that is meant by one that is not there.
    fn near_of_missing(&self, name: &str, value: &Value) -> Option<String> {
        let Value::Undefined(Some(absence)) = value else { return None };
        match self.absences.get(absence.0 as usize)? {
            Absence::Member { of, .. } => platform::near(of, name).map(str::to_owned),
            _ => None,
        }
    }

    /// A text that a member of the platform never is.
    fn never_text(&self, of: &str, name: &str, written: &str, text: &str) -> Option<Told> {
        let begins = |mark: &str| {
            told(
                format!("`{written}` begins with `{mark}` where it is not empty"),
                format!("\"{mark}{text}\""),
            )
        };
        let is_element = of.starts_with("HTML") && of.ends_with("Element");
        match name {
            _ if text.is_empty() => None,
            "hash" if ADDRESSES.contains(&of) && !text.starts_with('#') => begins("#"),
            "search" if ADDRESSES.contains(&of) && !text.starts_with('?') => begins("?"),
            "pathname" if ADDRESSES.contains(&of) && !text.starts_with('/') => begins("/"),
            "protocol" if ADDRESSES.contains(&of) && !text.ends_with(':') => {
                told(format!("`{written}` ends with `:`"), format!("\"{text}:\""))
            }
            "href" if ADDRESSES.contains(&of) && !text.contains(':') => told(
                format!("`{written}` is a whole address, and never `{text}`"),
                written.strip_suffix("href").map(|of| format!("{of}pathname")),
            ),
            "host" | "hostname" if ADDRESSES.contains(&of) && text.contains('/') => {
                told(format!("`{written}` has neither a protocol nor a path"), None)
            }
            "visibilityState" if !matches!(text, "hidden" | "visible") => told(
                format!("`{written}` is `hidden` or `visible`, and never `{text}`"),
                format!("\"{}\"", text.to_ascii_lowercase()),
            ),
            "readyState"
                if of == "HTMLDocument" && !matches!(text, "loading" | "interactive" | "complete") =>
            {
                told(
                    format!("`{written}` is `loading`, `interactive` or `complete`, and never `{text}`"),
                    "\"complete\"".to_owned(),
                )
            }
            "tagName" | "nodeName"
                if is_element
                    && text.bytes().any(|byte| byte.is_ascii_lowercase())
                    && (of != "HTMLElement" || HTML_ALONE.contains(&text)) =>
            {
                told(
                    format!("`{written}` is in capital letters for an element of HTML"),
                    format!("\"{}\"", text.to_ascii_uppercase()),
                )
            }
            "localName" if is_element && text.bytes().any(|byte| byte.is_ascii_uppercase()) => told(
                format!("`{written}` is in small letters for an element of HTML"),
                format!("\"{}\"", text.to_ascii_lowercase()),
            ),
            "className" | "id" if is_element && text.starts_with(['.', '#']) => {
                told(format!("`{written}` has no mark before it"), format!("\"{}\"", &text[1..]))
            }
            "key" if of == "KeyboardEvent" => self.never_key(written, text),
            "code" if of == "KeyboardEvent" => {
                let write = match text {
                    " " => "Space".to_owned(),
                    _ if text.len() == 1 && text.bytes().all(|byte| byte.is_ascii_alphabetic()) => {
                        format!("Key{}", text.to_ascii_uppercase())
                    }
                    _ if text.len() == 1 && text.bytes().all(|byte| byte.is_ascii_digit()) => {
                        format!("Digit{text}")
                    }
                    _ => {
                        let is_it = |key: &&&str| key.eq_ignore_ascii_case(text) && **key != text;
                        (*KEYS.iter().chain(&["Space"]).find(is_it)?).to_owned()
                    }
                };
                told(format!("`{written}` is never `{text}`"), format!("\"{write}\""))
            }
            _ => None,
        }
    }

    fn never_key(&self, written: &str, text: &str) -> Option<Told> {
        let lower = text.to_ascii_lowercase();
        let is_it = |key: &&&str| key.eq_ignore_ascii_case(text);
        let meant = match KEYS.iter().find(is_it) {
            Some(key) if *key == text => return None,
            Some(key) => key,
            None => KEYS_OTHERWISE.iter().find(|(own, _)| *own == lower).map(|(_, key)| key)?,
        };
        // Beside the name that is right stands the one that old browsers gave.
        let is_beside = [format!("\"{meant}\""), format!("'{meant}'"), format!("`{meant}`")]
            .iter()
            .any(|quoted| self.text.contains(quoted.as_str()));
        if is_beside {
            return None;
        }
        told(format!("`{written}` is never `{text}`"), format!("\"{meant}\""))
    }

    /// What is neither less nor more than a text that is no number, and an element that is asked for its length.
    fn never_less(
        &self,
        asked: ExpressionId,
        value: &Value,
        of: &Value,
        fixed: ExpressionId,
    ) -> Option<Told> {
        let program = self.program;
        let written = self.written(program.span(asked));
        match (program.expression(asked), program.expression(fixed)) {
            (_, Expression::Text(text))
                if matches!(value, Value::Number(_) | Value::Some("Number", _))
                    && self.as_number(&Value::text(text)).is_ok_and(f64::is_nan) =>
            {
                let digits: String = text.chars().take_while(|c| c.is_ascii_digit() || *c == '.').collect();
                let write = (!digits.is_empty()).then_some(digits);
                told(format!("`{written}` is a number, and \"{text}\" is none"), write)
            }
            (Expression::Member { key: Key::Name(name), .. }, Expression::Number(_))
                if self.near_of_missing(name, value).is_some() =>
            {
                told(format!("there is no `{name}` here"), self.near_of_missing(name, value))
            }
            (Expression::Member { key: Key::Name(name), .. }, Expression::Number(_))
                if **name == *"length" && matches!(value, Value::Undefined(_)) =>
            {
                let Some(Kind::Element(_)) = self.kind(of) else { return None };
                let of = written.strip_suffix(".length").unwrap_or(&written);
                told(format!("`{of}` is one element and has no `length`"), of.to_owned())
            }
            _ => None,
        }
    }

    /// `!a in b`, `!a instanceof B`: what is asked is whether `true` or `false` is it.
    pub(super) fn check_negated(
        &mut self,
        operator: BinaryOperator,
        left: ExpressionId,
        right: ExpressionId,
    ) {
        let program = self.program;
        let Expression::Unary(UnaryOperator::LogicalNot, inner) = program.expression(left) else { return };
        let word = match operator {
            BinaryOperator::In => "in",
            BinaryOperator::Instanceof => "instanceof",
            _ => return,
        };
        let (inner, right) = (self.written(program.span(*inner)), self.written(program.span(right)));
        let says = format!("`!{inner}` is worked out first, and is `true` or `false`");
        self.is_vain(says, Some(format!("!({inner} {word} {right})")), program.span(left));
    }

    /// A test that sets something to what is always the same.
    pub(super) fn check_test(&mut self, test: ExpressionId) {
        let program = self.program;
        let Expression::Assign { operator: AssignmentOperator::Assign, target, value } =
            program.expression(test)
        else {
            return;
        };
        let is_literal = matches!(
            program.expression(*value),
            Expression::Text(_) | Expression::Number(_) | Expression::Boolean(_) | Expression::Null
        );
        let target = match program.pattern(*target) {
            Pattern::Local(_) | Pattern::Global(_) | Pattern::Member(_) => program.pattern_span(*target),
            _ => return,
        };
        if is_literal {
            let (target, value) = (self.written(target), self.written(program.span(*value)));
            let says = format!("this sets `{target}` and asks nothing: it comes to the same each time");
            self.is_vain(says, Some(format!("{target} === {value}")), program.span(test));
        }
    }

    /// `a < b < c`: what is compared with `c` is `true` or `false`.
    fn check_chain(&mut self, operator: BinaryOperator, left: ExpressionId, right: ExpressionId) {
        let program = self.program;
        let Expression::Binary(inner, a, b) = program.expression(left) else { return };
        let is_order = |operator: BinaryOperator| operator.is_compare();
        if !is_order(operator) || !is_order(*inner) {
            return;
        }
        let [a, b, c] = [*a, *b, right].map(|id| self.written(program.span(id)));
        let says =
            format!("`{}` is worked out first, and is `true` or `false`", self.written(program.span(left)));
        let write = format!("{a} {} {b} && {b} {} {c}", inner.as_str(), operator.as_str());
        self.is_vain(says, Some(write), program.span(left));
    }

    /// `a === "x" || "y"`, `a !== "x" || a !== "y"`: always true.
    fn check_choice_of_two(&mut self, test: ExpressionId) {
        let program = self.program;
        let Expression::Logical(LogicalOperator::Or, left, right) = program.expression(test) else { return };
        let (span, written) = (program.span(test), |id: ExpressionId| self.written(program.span(id)));
        let last = match program.expression(*left) {
            Expression::Logical(LogicalOperator::Or, _, inner) => *inner,
            _ => *left,
        };
        let Expression::Binary(operator, asked, fixed) = program.expression(last) else { return };
        let told = match program.expression(*right) {
            Expression::Text(text) if operator.is_equality() && !text.is_empty() => {
                let (asked, right) = (written(*asked), written(*right));
                let write = format!("{asked} {} {right}", operator.as_str());
                (format!("{right} by itself is always true"), write)
            }
            Expression::Binary(other, also, fixed_too)
                if matches!(operator, BinaryOperator::StrictInequality | BinaryOperator::Inequality)
                    && other == operator
                    && written(*asked) == written(*also)
                    && written(*fixed) != written(*fixed_too)
                    && [fixed, fixed_too].iter().all(|id| {
                        matches!(program.expression(**id), Expression::Text(_) | Expression::Number(_))
                    }) =>
            {
                (format!("one of the two is always true, whatever `{}` is", written(*asked)), "&&".to_owned())
            }
            _ => return,
        };
        self.is_vain(told.0, Some(told.1), span);
    }

    /// The tests of a `switch` that never hold.
    pub(super) fn check_cases(&mut self, asked: (ExpressionId, &Value, &Value), cases: &[Case]) {
        for test in cases.iter().filter_map(|case| case.test) {
            self.check_comparison(BinaryOperator::StrictEquality, asked, test);
        }
    }

    /// A test of a call that always gives an object.
    pub(super) fn check_tested(&mut self, test: ExpressionId, value: &Value) {
        let Expression::Call { callee, .. } = self.program.expression(test) else {
            return self.check_choice_of_two(test);
        };
        let span = self.program.span(test);
        let written = self.written(span);
        if let Expression::Member { key: Key::Name(name), .. } = self.program.expression(*callee)
            && PLACES.contains(&&**name)
            && value.primitive() == Some("Number")
        {
            let says = format!("`{name}` gives -1 for none, which is true like any number but 0");
            return self.is_vain(says, Some(format!("{written} !== -1")), span);
        }
        match self.kind(value) {
            Some(Kind::Promise(_)) => {
                let says = format!("`{written}` gives a promise, which is always true");
                self.is_vain(says, Some(format!("await {written}")), span);
            }
            Some(Kind::Instance("MediaQueryList")) => {
                let says = format!("`{written}` gives an object, which is always true");
                self.is_vain(says, Some(format!("{written}.matches")), span);
            }
            _ => {}
        }
    }

    /// Media queries that never hold.
    pub(super) fn check_queries(&mut self, queries: &str, span: Span) {
        use MediaFaultKind as Kind;
        let faults = style::media_faults(queries);
        let Some(fault) = faults.first().filter(|fault| fault.is_only) else { return };
        let query = queries[fault.span.range()].trim();
        let write = match &fault.kind {
            Kind::OldMedium { .. } | Kind::Contradiction { .. } => return,
            Kind::MissingBrackets => Some(format!("({query})")),
            Kind::MissingUnit { number } => Some(format!("{number}px")),
            Kind::UnknownFeature { nearest, .. } => nearest.clone(),
            Kind::UnknownMedium { nearest, .. } => nearest.map(str::to_owned),
            _ => None,
        };
        self.is_vain(format!("the query `{query}` never holds"), write, span);
    }

    /// Whether a list of elements is compared with a number, which is never less nor more.
    pub(super) fn check_compared(&mut self, left: &Value, right: &Value, span: Span) -> bool {
        let is_list = |this: &Self, value: &Value| {
            matches!(this.kind(value), Some(Kind::List("NodeList" | "HTMLCollection" | "DOMTokenList", _)))
        };
        let is_number = |value: &Value| matches!(value, Value::Number(_) | Value::Some("Number", _));
        let is_vain = (is_list(self, left) && is_number(right)) || (is_number(left) && is_list(self, right));
        if is_vain {
            let says = "a list of elements is neither less nor more than a number".to_owned();
            self.is_vain(says, Some("list.length".to_owned()), span);
        }
        is_vain
    }
}

fn is_text_or_nothing(value: &Value) -> bool {
    value.primitive() == Some("String")
        || value.is_nothing() == Ok(true)
        || matches!(value, Value::Unknown(_))
}

/// A number that a part of a date never is (ECMA-262, "Date.prototype").
fn never_of_date(name: &str, number: f64) -> Option<Told> {
    let (range, write) = match name {
        "getMonth" | "getUTCMonth" => (0.0..=11.0, (number == 12.0).then_some("11")),
        "getDay" | "getUTCDay" => (0.0..=6.0, (number == 7.0).then_some("0")),
        "getDate" | "getUTCDate" => (1.0..=31.0, None),
        "getHours" | "getUTCHours" => (0.0..=23.0, (number == 24.0).then_some("0")),
        "getMinutes" | "getSeconds" | "getUTCMinutes" | "getUTCSeconds" => (0.0..=59.0, None),
        "getYear" if number > 1900.0 => {
            return told("`getYear` counts from 1900".into(), format!("getFullYear() === {number}"));
        }
        _ => return None,
    };
    if range.contains(&number) {
        return None;
    }
    told(
        format!("`{name}` gives {} to {}, and never {number}", range.start(), range.end()),
        write.map(str::to_owned),
    )
}
