//! Functions of the language itself: of arrays, texts, objects, numbers (ECMA-262, 19 to 28).

use std::sync::Arc;

use super::expressions::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run, Stop};
use super::platform::{self, Interface};
use super::statements::Items;
use super::value::{Certainty, Doubt, Kind, ObjectId, Value};
use crate::script::globals::is_browser_global;
use crate::source::Span;

impl Machine<'_> {
    /// A global that browsers have by themselves.
    pub(super) fn platform_global(&mut self, name: &Arc<str>) -> Option<Value> {
        let value = match &**name {
            "document" => Value::Object(super::machine::DOCUMENT),
            "location" => self.location(),
            "localStorage" | "sessionStorage" => self.made(Kind::Instance("Storage")),
            "event" => Value::OPEN,
            "console" => self.made(Kind::Constructor("console")),
            _ => match platform::global(name) {
                Some(member) if member.is_function => self.made(Kind::Native("Window", Arc::clone(name))),
                Some(member) => self.typed(member.result),
                None => match platform::interface(name) {
                    Some(of) => self.made(Kind::Constructor(of)),
                    None if is_browser_global(name) => Value::OPEN,
                    None => return None,
                },
            },
        };
        Some(value)
    }

    /// A call of a function of the platform.
    pub(super) fn call_native(
        &mut self,
        of: Interface,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        match of {
            "Window" => self.call_window(name, this, arguments, span),
            "jQuery" => self.call_query_static(name, &arguments, span),
            "Function" => self.call_function_method(name, this, arguments, span),
            "Promise" if self.is_constructor(&this) => Ok(self.call_promise_itself(name, &arguments)),
            "Promise" => Ok(self.call_promise(name, &this, &arguments)),
            "Array" if self.is_constructor(&this) => self.call_array_itself(name, arguments, span),
            "Array" => self.call_array(name, this, arguments, span),
            "NodeList" | "DOMTokenList" | "HTMLCollection"
                if matches!(name, "forEach" | "entries" | "values" | "keys") =>
            {
                self.call_array(name, this, arguments, span)
            }
            "String" => self.call_text(name, &this, &arguments, span),
            "Number" => self.call_number(name, &this, &arguments, span),
            "Math" => Ok(self.call_math(name, &arguments)),
            "Object" => self.call_object(name, this, arguments, span),
            "Date" => self.call_date(name, &this, &arguments, span),
            "JSON" if name == "parse" => self.parse_json(&arguments, span),
            "JSON" | "Reflect" | "Symbol" | "Intl" => Ok(Value::Unknown(
                arguments.values.iter().filter_map(Value::doubt).max().unwrap_or(Doubt::Open),
            )),
            _ => self.call_platform(of, name, this, arguments, span),
        }
    }

    /// `JSON.parse`.
    fn parse_json(&mut self, arguments: &Arguments, span: Span) -> Run<Value> {
        let text = match self.as_text(&arguments.get(0)) {
            Ok(text) => text,
            Err(doubt) => return Ok(Value::Unknown(doubt)),
        };
        if arguments.values.len() > 1 {
            return Ok(Value::OPEN);
        }
        match serde_json::from_str(&text) {
            Ok(parsed) => Ok(self.of_json(&parsed)),
            Err(_) if text.contains("\\u") => Ok(Value::OPEN),
            Err(error) => {
                let kind = RunFaultKind::RefusedArgument {
                    method: "JSON.parse".to_owned(),
                    given: text.chars().take(40).collect(),
                    takes: format!("JSON: {error}"),
                    write: None,
                };
                Err(self.throws(span, kind))
            }
        }
    }

    fn of_json(&mut self, parsed: &serde_json::Value) -> Value {
        match parsed {
            serde_json::Value::Null => Value::NULL,
            serde_json::Value::Bool(own) => Value::Boolean(*own),
            serde_json::Value::Number(own) => own.as_f64().map_or(Value::OPEN, Value::Number),
            serde_json::Value::String(own) => self.bounded(own),
            serde_json::Value::Array(items) => {
                let items = items.iter().map(|item| self.of_json(item)).collect();
                self.array(items, false)
            }
            serde_json::Value::Object(members) => {
                let id = self.make(Kind::Plain);
                for (key, value) in members {
                    let value = self.of_json(value);
                    self.object_mut(id).members.insert(Arc::from(key.as_str()), value);
                }
                Value::Object(id)
            }
        }
    }

    fn is_constructor(&self, value: &Value) -> bool {
        matches!(self.kind(value), Some(Kind::Constructor(_)))
    }

    /// `call`, `apply` and `bind`.
    fn call_function_method(
        &mut self,
        name: &str,
        function: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let this = arguments.get(0);
        let rest = arguments.values.get(1..).unwrap_or_default().to_vec();
        match name {
            "call" => {
                let given = Arguments { values: rest, expressions: Vec::new(), is_open: arguments.is_open };
                self.call(&function, this, given, span)
            }
            "apply" => {
                let list = arguments.get(1);
                let items = match list {
                    Value::Undefined(_) | Value::Null(_) => Items::default(),
                    ref list => self.iterated(list, span)?,
                };
                let given =
                    Arguments { values: items.known, expressions: Vec::new(), is_open: items.more.is_some() };
                self.call(&function, this, given, span)
            }
            "bind" => Ok(self.made(Kind::Bound(function, this, rest))),
            _ => Ok(Value::OPEN),
        }
    }

    fn call_array_itself(&mut self, name: &str, arguments: Arguments, span: Span) -> Run<Value> {
        match name {
            "isArray" => Ok(match arguments.get(0) {
                Value::Unknown(doubt) => Value::Unknown(doubt),
                ref own => Value::Boolean(matches!(self.kind(own), Some(Kind::Array(_)))),
            }),
            "of" => Ok(self.array(arguments.values, arguments.is_open)),
            "from" => {
                let source = arguments.get(0);
                let items = match (&source, self.kind(&source)) {
                    (_, Some(Kind::Plain)) => Items { known: Vec::new(), more: Some(Doubt::Open) },
                    _ => self.iterated(&source, span)?,
                };
                let list = self.array(items.known, items.more.is_some());
                self.keep_absence(&source, &list);
                match arguments.get(1) {
                    Value::Undefined(_) => Ok(list),
                    function => self.call_array("map", list, Arguments::of(vec![function]), span),
                }
            }
            _ => Ok(Value::OPEN),
        }
    }

    pub(super) fn array(&mut self, items: Vec<Value>, is_open: bool) -> Value {
        let id = self.make(Kind::Array(items));
        self.object_mut(id).is_open = is_open;
        Value::Object(id)
    }

    /// An empty list that is made from another is empty for the same reason.
    fn keep_absence(&mut self, from: &Value, to: &Value) {
        let absence = self.absence_of_item(from);
        if let (Some(absence), Value::Object(id)) = (absence, to) {
            self.object_mut(*id).members.insert(Arc::from("#absence"), Value::Null(Some(absence)));
        }
    }

    /// Calls a function for each item, as methods of lists do. Gives back what it came to for each that is known, and
    /// whether there may be more.
    fn for_items(
        &mut self,
        list: &Value,
        function: &Value,
        this: &Value,
        span: Span,
        mut then: impl FnMut(&mut Self, &Value, Value) -> bool,
    ) -> Run<Option<Doubt>> {
        let items = self.iterated(list, span)?;
        if items.known.is_empty() && items.more.is_none() {
            return Ok(None);
        }
        if !matches!(function, Value::Object(_) | Value::Unknown(_)) {
            return Err(self.throws(span, RunFaultKind::NotAFunction { what: self.written(span) }));
        }
        for (at, item) in items.known.iter().enumerate() {
            let given = Arguments::of(vec![item.clone(), Value::Number(at as f64), list.clone()]);
            let result = self.call(function, this.clone(), given, span)?;
            if !then(self, item, result) {
                return Ok(None);
            }
        }
        if let Some(doubt) = items.more {
            let certainty = Certainty::from(doubt);
            let given = Arguments::of(vec![Value::OPEN, Value::OPEN, list.clone()]);
            let result = self
                .perhaps(certainty, |this_machine| this_machine.call(function, this.clone(), given, span));
            if let Err(stop) = result {
                self.may_stop(stop, certainty)?;
            }
        }
        Ok(items.more)
    }

    pub(super) fn call_array(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        let (function, own_this) = (arguments.get(0), arguments.get(1));
        match name {
            "forEach" => {
                self.for_items(&this, &function, &own_this, span, |_, _, _| true)?;
                Ok(Value::UNDEFINED)
            }
            "map" | "flatMap" => {
                let mut results = Vec::new();
                let more = self.for_items(&this, &function, &own_this, span, |_, _, result| {
                    results.push(result);
                    true
                })?;
                let list = self.array(results, more.is_some() || name == "flatMap");
                self.keep_absence(&this, &list);
                Ok(list)
            }
            "filter" => {
                let mut kept = Vec::new();
                let mut doubt = None;
                let more = self.for_items(&this, &function, &own_this, span, |_, item, result| {
                    match result.truth() {
                        Ok(true) => kept.push(item.clone()),
                        Ok(false) => {}
                        Err(own) => doubt = Some(own),
                    }
                    true
                })?;
                let list = if doubt.is_some() { Vec::new() } else { kept };
                let list = self.array(list, more.is_some() || doubt.is_some());
                self.keep_absence(&this, &list);
                Ok(list)
            }
            "find" | "findLast" | "findIndex" | "some" | "every" => {
                let mut doubt = None;
                let mut found = None;
                let wanted = name != "every";
                let more =
                    self.for_items(&this, &function, &own_this, span, |_, item, result| {
                        match result.truth() {
                            Ok(truth) if truth == wanted => {
                                found = Some(item.clone());
                                false
                            }
                            Ok(_) => true,
                            Err(own) => {
                                doubt = doubt.max(Some(own));
                                true
                            }
                        }
                    })?;
                let doubt = doubt.max(more);
                Ok(match (name, found, doubt) {
                    (_, _, Some(doubt)) => Value::Unknown(doubt),
                    ("some", found, None) => Value::Boolean(found.is_some()),
                    ("every", found, None) => Value::Boolean(found.is_none()),
                    ("find" | "findLast", Some(item), None) => item,
                    ("findIndex", Some(_), None) => Value::OPEN,
                    ("findIndex", None, None) => Value::Number(-1.0),
                    (_, None, None) => Value::Undefined(self.absence_of_item(&this)),
                    _ => Value::OPEN,
                })
            }
            "reduce" | "reduceRight" => {
                let items = self.iterated(&this, span)?;
                if items.more.is_some() {
                    self.hand_over(&function)?;
                    return Ok(Value::OPEN);
                }
                let mut known = items.known.into_iter();
                let mut result = match arguments.values.get(1) {
                    Some(first) => first.clone(),
                    None => match known.next() {
                        Some(first) => first,
                        None => return Ok(Value::OPEN),
                    },
                };
                for item in known {
                    let given = Arguments::of(vec![result, item, Value::OPEN, this.clone()]);
                    result = self.call(&function, Value::UNDEFINED, given, span)?;
                }
                Ok(result)
            }
            "push" | "unshift" | "pop" | "shift" | "splice" | "sort" | "reverse" | "fill" => {
                self.change_array(name, &this, arguments)
            }
            "concat" | "slice" | "toSorted" | "toReversed" | "with" | "flat" => {
                let items = self.iterated(&this, span)?;
                let mut known = items.known;
                let mut more = items.more.is_some();
                match name {
                    "concat" => {
                        for value in &arguments.values {
                            match self.kind(value) {
                                Some(Kind::Array(own)) => {
                                    known.extend(own.iter().cloned());
                                    more |= matches!(value, Value::Object(id) if self.object(*id).is_open);
                                }
                                _ => known.push(value.clone()),
                            }
                        }
                    }
                    "slice" if !more => {
                        let length = known.len() as f64;
                        let at = |value: Value, otherwise: f64| match (&value, self.as_number(&value)) {
                            (Value::Undefined(_), _) => Ok(otherwise),
                            (_, Ok(at)) if at < 0.0 => Ok((length + at).max(0.0)),
                            (_, Ok(at)) => Ok(at.min(length)),
                            (_, Err(doubt)) => Err(doubt),
                        };
                        match (at(arguments.get(0), 0.0), at(arguments.get(1), length)) {
                            (Ok(start), Ok(end)) if start <= end => {
                                known = known[start as usize..end as usize].to_vec();
                            }
                            (Ok(_), Ok(_)) => known.clear(),
                            _ => (known, more) = (Vec::new(), true),
                        }
                    }
                    "flat" | "with" => more = true,
                    _ => {}
                }
                let list = self.array(if more && name != "concat" { Vec::new() } else { known }, more);
                self.keep_absence(&this, &list);
                Ok(list)
            }
            "at" => {
                let items = self.iterated(&this, span)?;
                Ok(match (self.as_number(&arguments.get(0)), items.more) {
                    (Ok(at), None) => {
                        let at = if at < 0.0 { items.known.len() as f64 + at } else { at };
                        let found = if at < 0.0 { None } else { items.known.get(at as usize) };
                        found.cloned().unwrap_or(Value::Undefined(self.absence_of_item(&this)))
                    }
                    _ => Value::OPEN,
                })
            }
            "includes" | "indexOf" => {
                let items = self.iterated(&this, span)?;
                let mut doubt = items.more;
                for (at, item) in items.known.iter().enumerate() {
                    match self.strictly_equal(item, &arguments.get(0)) {
                        Ok(true) => {
                            return Ok(if name == "includes" {
                                Value::Boolean(true)
                            } else {
                                Value::Number(at as f64)
                            });
                        }
                        Ok(false) => {}
                        Err(own) => doubt = doubt.max(Some(own)),
                    }
                }
                Ok(match doubt {
                    Some(doubt) => Value::Unknown(doubt),
                    None if name == "includes" => Value::Boolean(false),
                    None => Value::Number(-1.0),
                })
            }
            "join" => {
                let items = self.iterated(&this, span)?;
                let between = match arguments.get(0) {
                    Value::Undefined(_) => Ok(Arc::from(",")),
                    ref own => self.as_text(own),
                };
                let texts: Result<Vec<Arc<str>>, Doubt> =
                    items.known.iter().map(|item| self.as_text(item)).collect();
                Ok(match (texts, between, items.more) {
                    (Ok(texts), Ok(between), None) => self.bounded(&texts.join(&*between)),
                    _ => Value::OPEN,
                })
            }
            "entries" | "keys" | "values" => {
                let items = self.iterated(&this, span)?;
                let mut out = Vec::new();
                for (at, item) in items.known.into_iter().enumerate() {
                    let at = Value::Number(at as f64);
                    out.push(match name {
                        "entries" => self.array(vec![at, item], false),
                        "keys" => at,
                        _ => item,
                    });
                }
                let list = self.make(Kind::List("Iterator", out));
                self.object_mut(list).is_open = items.more.is_some();
                Ok(Value::Object(list))
            }
            _ => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
                Ok(Value::OPEN)
            }
        }
    }

    fn change_array(&mut self, name: &str, this: &Value, arguments: Arguments) -> Run<Value> {
        let Value::Object(id) = this else { return Ok(Value::OPEN) };
        if matches!(name, "sort") {
            self.hand_over(&arguments.get(0))?;
        }
        let is_strong = self.is_strong(self.object(*id).born);
        let object = self.object_mut(*id);
        let is_open = object.is_open;
        let Kind::Array(items) = &mut object.kind else { return Ok(Value::OPEN) };
        if !is_strong {
            // It has been done or not.
            object.is_open = true;
            if name != "push" {
                items.clear();
            }
            return Ok(Value::OPEN);
        }
        if items.len() + arguments.values.len() > 2000 {
            object.is_open = true;
            return Ok(Value::OPEN);
        }
        object.is_open |= arguments.is_open;
        Ok(match name {
            "push" if !is_open => {
                items.extend(arguments.values);
                Value::Number(items.len() as f64)
            }
            "unshift" if !is_open => {
                items.splice(0..0, arguments.values);
                Value::Number(items.len() as f64)
            }
            "pop" if !is_open => items.pop().unwrap_or(Value::UNDEFINED),
            "shift" if !is_open => {
                if items.is_empty() {
                    Value::UNDEFINED
                } else {
                    items.remove(0)
                }
            }
            "reverse" if !is_open => {
                items.reverse();
                this.clone()
            }
            "push" => Value::OPEN,
            _ => {
                items.clear();
                object.is_open = true;
                if matches!(name, "sort" | "fill" | "reverse") { this.clone() } else { Value::OPEN }
            }
        })
    }

    fn call_text(&mut self, name: &str, this: &Value, arguments: &Arguments, span: Span) -> Run<Value> {
        let this = match self.as_text(this) {
            Ok(text) => text,
            Err(doubt) => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
                return Ok(self.of_some_text(name, doubt));
            }
        };
        let first = self.as_text(&arguments.get(0));
        let is_plain = matches!(arguments.get(0), Value::Text(_) | Value::Number(_));
        let number = |at: usize| self.as_number(&arguments.get(at)).ok();
        Ok(match (name, first) {
            ("trim", _) => Value::text(this.trim()),
            ("trimStart", _) => Value::text(this.trim_start()),
            ("trimEnd", _) => Value::text(this.trim_end()),
            ("toLowerCase" | "toLocaleLowerCase", _) => self.bounded(&this.to_lowercase()),
            ("toUpperCase" | "toLocaleUpperCase", _) => self.bounded(&this.to_uppercase()),
            ("toString" | "valueOf", _) => Value::Text(this),
            ("includes", Ok(part)) if is_plain => Value::Boolean(this.contains(&*part)),
            ("startsWith", Ok(part)) if is_plain && arguments.values.len() == 1 => {
                Value::Boolean(this.starts_with(&*part))
            }
            ("endsWith", Ok(part)) if is_plain && arguments.values.len() == 1 => {
                Value::Boolean(this.ends_with(&*part))
            }
            ("indexOf", Ok(part)) if is_plain && this.is_ascii() => {
                Value::Number(this.find(&*part).map_or(-1.0, |at| at as f64))
            }
            ("concat", Ok(part)) if arguments.values.len() == 1 => self.bounded(&format!("{this}{part}")),
            ("replace", Ok(part)) if is_plain && matches!(arguments.get(1), Value::Text(_)) => {
                let Value::Text(with) = arguments.get(1) else { return Ok(Value::OPEN) };
                if with.contains('$') { Value::OPEN } else { self.bounded(&this.replacen(&*part, &with, 1)) }
            }
            ("repeat", _) if number(0).is_some_and(|count| count < 0.0) => {
                return Err(self.out_of_range("repeat", &arguments.get(0), "a number from 0 on", span));
            }
            ("repeat", _) => match number(0) {
                Some(count) if (0.0..1000.0).contains(&count) => self.bounded(&this.repeat(count as usize)),
                _ => Value::OPEN,
            },
            ("split", Ok(part)) if matches!(arguments.get(0), Value::Text(_)) => {
                let parts: Vec<Value> = match part.is_empty() {
                    true => this.chars().map(|c| Value::text(&c.to_string())).take(500).collect(),
                    false => this.split(&*part).map(Value::text).take(500).collect(),
                };
                self.array(parts, false)
            }
            ("split", _) if matches!(self.kind(&arguments.get(0)), Some(Kind::RegExp)) => {
                // There is a first one at least, and nobody can tell how many.
                self.array(Vec::new(), true)
            }
            ("slice" | "substring", _) if this.is_ascii() => {
                let length = this.len() as f64;
                let place = |at: usize, otherwise: f64| match (arguments.values.get(at), number(at)) {
                    (None | Some(Value::Undefined(_)), _) => Some(otherwise),
                    (_, Some(at)) if at < 0.0 => {
                        Some(if name == "slice" { (length + at).max(0.0) } else { 0.0 })
                    }
                    (_, at) => at.map(|at| at.min(length)),
                };
                match (place(0, 0.0), place(1, length)) {
                    (Some(start), Some(end)) if start <= end => {
                        Value::text(&this[start as usize..end as usize])
                    }
                    (Some(_), Some(_)) => Value::text(""),
                    _ => Value::OPEN,
                }
            }
            ("charAt", _) if this.is_ascii() => match number(0).unwrap_or(f64::NAN) {
                at if at >= 0.0 => Value::text(this.get(at as usize..at as usize + 1).unwrap_or_default()),
                _ => Value::OPEN,
            },
            _ => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
                match self.of_some_text(name, Doubt::Open) {
                    // Whether it is found is certain, and not known here.
                    Value::Unknown(_) => Value::OPEN,
                    other => other,
                }
            }
        })
    }

    /// What a method of a text gives that is not known.
    fn of_some_text(&mut self, name: &str, doubt: Doubt) -> Value {
        match name {
            "trim" | "trimStart" | "trimEnd" | "toLowerCase" | "toUpperCase" | "toLocaleLowerCase"
            | "toLocaleUpperCase" | "slice" | "substring" | "substr" | "replace" | "replaceAll"
            | "concat" | "repeat" | "padStart" | "padEnd" | "charAt" | "normalize" | "toString"
            | "valueOf" => Value::Some("String", doubt),
            "indexOf" | "lastIndexOf" | "search" | "charCodeAt" | "localeCompare" => {
                Value::Some("Number", doubt)
            }
            "includes" | "startsWith" | "endsWith" => Value::Some("Boolean", doubt),
            "split" | "matchAll" => self.array(Vec::new(), true),
            "match" | "at" | "codePointAt" => Value::VISIT,
            _ => Value::OPEN,
        }
    }

    /// A number that a method does not take.
    pub(super) fn out_of_range(&mut self, method: &str, given: &Value, takes: &str, span: Span) -> Stop {
        let given = self.as_text(given).map_or_else(|_| String::new(), |text| text.to_string());
        let (method, takes) = (method.to_owned(), takes.to_owned());
        self.throws(span, RunFaultKind::RefusedArgument { method, given, takes, write: None })
    }

    fn call_number(&mut self, name: &str, this: &Value, arguments: &Arguments, span: Span) -> Run<Value> {
        if self.is_constructor(this) {
            return Ok(match (name, self.as_number(&arguments.get(0))) {
                ("isNaN", Ok(own)) => Value::Boolean(own.is_nan()),
                ("isFinite", Ok(own)) => Value::Boolean(own.is_finite()),
                ("isInteger", Ok(own)) => Value::Boolean(own.is_finite() && own.fract() == 0.0),
                (_, Err(doubt)) => Value::Unknown(doubt),
                _ => Value::OPEN,
            });
        }
        if name == "toFixed"
            && self
                .as_number(&arguments.get(0))
                .is_ok_and(|digits| !(0.0..=100.0).contains(&digits) && !digits.is_nan())
        {
            return Err(self.out_of_range("toFixed", &arguments.get(0), "a number from 0 to 100", span));
        }
        Ok(match (name, self.as_text(this), self.as_number(&arguments.get(0))) {
            ("toString", Ok(text), _) if arguments.values.is_empty() => Value::Text(text),
            ("toString" | "toLocaleString" | "toPrecision" | "toExponential", text, _) => {
                Value::Some("String", text.err().unwrap_or(Doubt::Open))
            }
            ("toFixed", _, Ok(digits)) => match self.as_number(this) {
                Ok(own) if (0.0..20.0).contains(&digits) => {
                    Value::text(&format!("{own:.*}", digits as usize))
                }
                _ => Value::OPEN,
            },
            (_, Err(doubt), _) => Value::Unknown(doubt),
            _ => Value::OPEN,
        })
    }

    fn call_math(&mut self, name: &str, arguments: &Arguments) -> Value {
        if name == "random" {
            return Value::A_NUMBER;
        }
        let numbers: Result<Vec<f64>, Doubt> =
            arguments.values.iter().map(|value| self.as_number(value)).collect();
        let numbers = match numbers {
            Ok(_) if arguments.is_open => return Value::OPEN,
            Ok(numbers) => numbers,
            Err(doubt) => return Value::Some("Number", doubt),
        };
        let first = numbers.first().copied().unwrap_or(f64::NAN);
        Value::Number(match name {
            "floor" => first.floor(),
            "ceil" => first.ceil(),
            "round" => (first + 0.5).floor(),
            "trunc" => first.trunc(),
            "abs" => first.abs(),
            "sqrt" => first.sqrt(),
            "sign" => {
                if first == 0.0 {
                    0.0
                } else {
                    first.signum()
                }
            }
            "max" => numbers.iter().copied().fold(f64::NEG_INFINITY, f64::max),
            "min" => numbers.iter().copied().fold(f64::INFINITY, f64::min),
            "pow" => first.powf(numbers.get(1).copied().unwrap_or(f64::NAN)),
            _ => return Value::OPEN,
        })
    }

    fn call_object(&mut self, name: &str, this: Value, arguments: Arguments, span: Span) -> Run<Value> {
        let first = arguments.get(0);
        if !self.is_constructor(&this) {
            return Ok(match (name, self.as_text(&first)) {
                ("hasOwnProperty", Ok(key)) => match self.kind(&this) {
                    Some(Kind::Plain) if matches!(&this, Value::Object(id) if !self.object(*id).is_open) => {
                        let Value::Object(id) = this else { return Ok(Value::OPEN) };
                        Value::Boolean(self.object(id).members.contains_key(&key))
                    }
                    _ => Value::OPEN,
                },
                _ => Value::OPEN,
            });
        }
        match name {
            "keys" | "values" | "entries" => {
                if let Value::Undefined(_) | Value::Null(_) = first {
                    return Err(self.no_members(&first, span).unwrap_or(Stop::Halt));
                }
                let (Value::Object(id), Some(Kind::Plain)) = (&first, self.kind(&first)) else {
                    return Ok(self.array(Vec::new(), true));
                };
                let is_open = self.object(*id).is_open;
                let members: Vec<(Arc<str>, Value)> = self
                    .object(*id)
                    .members
                    .iter()
                    .map(|(key, value)| (Arc::clone(key), value.clone()))
                    .collect();
                let mut out = Vec::new();
                for (key, value) in members {
                    let key = Value::Text(key);
                    out.push(match name {
                        "keys" => key,
                        "values" => value,
                        _ => self.array(vec![key, value], false),
                    });
                }
                Ok(self.array(if is_open { Vec::new() } else { out }, is_open))
            }
            "assign" => {
                for source in arguments.values.iter().skip(1) {
                    self.assign_members(&first, source, span)?;
                }
                Ok(first)
            }
            "freeze" | "seal" | "preventExtensions" => Ok(first),
            "create" => {
                let id = self.make(Kind::Plain);
                match first {
                    Value::Object(parent) => self.object_mut(id).parent = Some(parent),
                    Value::Null(_) => {}
                    _ => self.object_mut(id).is_open = true,
                }
                if arguments.values.len() > 1 {
                    self.object_mut(id).is_open = true;
                }
                Ok(Value::Object(id))
            }
            "defineProperty" | "defineProperties" => {
                if let (Value::Object(id), Ok(key)) = (&first, self.as_text(&arguments.get(1))) {
                    self.define(*id, key);
                } else if let Value::Object(id) = &first {
                    self.object_mut(*id).is_open = true;
                }
                Ok(first)
            }
            _ => {
                for value in &arguments.values {
                    self.hand_over(value)?;
                }
                Ok(Value::OPEN)
            }
        }
    }

    fn define(&mut self, id: ObjectId, key: Arc<str>) {
        if matches!(self.object(id).kind, Kind::Window) {
            self.set_global(key, Value::OPEN);
        } else {
            self.put_member(id, key, Value::OPEN);
        }
    }

    /// `Object.assign`: each member is set, as an assignment does.
    fn assign_members(&mut self, to: &Value, from: &Value, span: Span) -> Run<()> {
        let (Value::Object(id), Value::Object(source)) = (to, from) else {
            if let (Value::Object(id), Value::Unknown(_)) = (to, from) {
                self.object_mut(*id).is_open = true;
            }
            return Ok(());
        };
        let members: Vec<(Arc<str>, Value)> = self
            .object(*source)
            .members
            .iter()
            .map(|(key, value)| (Arc::clone(key), value.clone()))
            .collect();
        let is_platform = matches!(
            self.object(*id).kind,
            Kind::Element(_) | Kind::Style | Kind::Dataset(_) | Kind::Document
        );
        for (key, value) in members {
            if matches!(self.object(*id).kind, Kind::Window) {
                self.set_window_member(&key, value, span);
            } else if !is_platform || !self.set_platform_member(*id, &key, &value, span)? {
                self.put_member(*id, key, value);
            }
        }
        let is_open = self.object(*source).is_open;
        self.object_mut(*id).is_open |= is_open && !is_platform;
        Ok(())
    }
}
