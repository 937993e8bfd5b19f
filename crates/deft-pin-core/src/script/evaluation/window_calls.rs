//! Functions of the window (HTML, "The Window object"; ECMA-262, "Function Properties of the Global Object").

use std::sync::Arc;

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::number_texts::{leading_number, whole_number};
use super::platform::{self};
use super::read_only::COMPUTED;
use super::value::{Doubt, Kind, Value};
use crate::source::Span;

/// What `encodeURIComponent` writes anew (ECMA-262, "encodeURIComponent").
const COMPONENT: &percent_encoding::AsciiSet = &percent_encoding::NON_ALPHANUMERIC
    .remove(b'-')
    .remove(b'_')
    .remove(b'.')
    .remove(b'!')
    .remove(b'~')
    .remove(b'*')
    .remove(b'\'')
    .remove(b'(')
    .remove(b')');

impl Machine<'_> {
    pub(super) fn call_window(
        &mut self,
        name: &str,
        this: Value,
        arguments: Arguments,
        span: Span,
    ) -> Run<Value> {
        const OF_THE_LANGUAGE: &[&str] = &[
            "decodeURI", "decodeURIComponent", "encodeURI", "encodeURIComponent", "escape", "eval",
            "isFinite", "isNaN", "parseFloat", "parseInt", "unescape",
        ];
        if self.is_written_out(&this) && !OF_THE_LANGUAGE.contains(&name) {
            return Err(self.throws(span, RunFaultKind::Detached { name: name.to_owned() }));
        }
        let first = arguments.get(0);
        if name != "getComputedStyle"
            && let Some(stop) = self.refused_call("Window", name, &arguments, span)
        {
            return Err(stop);
        }
        Ok(match name {
            "setTimeout"
            | "setInterval"
            | "requestAnimationFrame"
            | "requestIdleCallback"
            | "queueMicrotask" => self.call_timer(name, &arguments, span)?,
            "addEventListener" => {
                let window = Value::Object(super::machine::WINDOW);
                let this = if matches!(this, Value::Object(_)) { this } else { window };
                self.add_listener(&this, &arguments, span)
            }
            "removeEventListener" => {
                let window = Value::Object(super::machine::WINDOW);
                let this = if matches!(this, Value::Object(_)) { this } else { window };
                self.remove_listener(&this, &arguments);
                Value::UNDEFINED
            }
            "dispatchEvent" if matches!(arguments.get(0), Value::Object(_)) => {
                self.dispatches(&Value::Object(super::machine::WINDOW), &first, span)?
            }
            "atob" | "btoa" => match self.refused_text(name, &first, span) {
                Some(stop) => return Err(stop),
                None => Value::Some("String", Doubt::Open),
            },
            "structuredClone" if self.holds_function(&first, 0) => {
                let (given, takes) = (self.written(span), "values without functions and elements in them");
                return Err(self.refused(name, given, takes, None, span));
            }
            "structuredClone" => self.cloned(&first, 0),
            "clearInterval" | "clearTimeout" | "cancelAnimationFrame" | "cancelIdleCallback" => {
                self.clear_timer(&first);
                Value::UNDEFINED
            }
            "getComputedStyle" => {
                if let Some(stop) = self.no_node(name, &first, &arguments, 0, span) {
                    return Err(stop);
                }
                let style = self.make(Kind::Instance("CSSStyleDeclaration"));
                self.object_mut(style).members.insert(Arc::from(COMPUTED), Value::NULL);
                Value::Object(style)
            }
            "fetch" => {
                self.asks_for_file(&first, span);
                let response = self.made(Kind::Instance("Response"));
                self.waiting(response)
            }
            "parseInt" => {
                let base = match arguments.get(1) {
                    Value::Undefined(_) => Ok(0.0),
                    given => self.as_number(&given),
                };
                match (self.as_text(&first), base) {
                    (Ok(text), Ok(base)) => Value::Number(whole_number(&text, base)),
                    (Err(doubt), _) | (_, Err(doubt)) => Value::Some("Number", doubt),
                }
            }
            "parseFloat" => match self.as_text(&first) {
                Ok(text) => leading_number(&text),
                Err(doubt) => Value::Some("Number", doubt),
            },
            "isNaN" | "isFinite" => match self.as_number(&first) {
                Ok(own) => Value::Boolean(if name == "isNaN" { own.is_nan() } else { own.is_finite() }),
                Err(doubt) => Value::Unknown(doubt),
            },
            "encodeURIComponent" | "decodeURIComponent" | "encodeURI" | "decodeURI" => {
                if let Some(stop) = self.refused_text(name, &first, span) {
                    return Err(stop);
                }
                match (name, &first) {
                    ("encodeURIComponent", Value::Text(text)) => {
                        Value::text(&percent_encoding::utf8_percent_encode(text, COMPONENT).to_string())
                    }
                    ("decodeURIComponent", Value::Text(text)) => {
                        Value::text(&percent_encoding::percent_decode_str(text).decode_utf8_lossy())
                    }
                    _ => Value::Some("String", Doubt::Open),
                }
            }
            "matchMedia" => {
                if let Value::Text(queries) = &first {
                    self.check_queries(queries, span);
                }
                self.media_list(&first)
            }
            // It is `null` in frames that are not shown alone.
            "getSelection" => self.made(Kind::Instance("Selection")),
            "prompt" => Value::VISIT,
            "confirm" => Value::A_BOOLEAN,
            _ => {
                self.hand_over_all(&arguments)?;
                platform::global(name).map_or(Value::OPEN, |member| self.typed(member.result))
            }
        })
    }
}
