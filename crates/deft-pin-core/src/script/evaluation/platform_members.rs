//! Members by the table of the platform, and what other scripts and the script itself may give to an interface.

use super::machine::{Machine, Run, WINDOW};
use super::platform::{self, Interface};
use super::value::{Absence, Doubt, Kind, Value};
use std::sync::Arc;

/// Interfaces whose objects have members by names that are not their interface's.
const HAVE_NAMED_MEMBERS: &[&str] = &[
    "CSSStyleDeclaration", "DOMStringMap", "Error", "HTMLFormControlsCollection", "HTMLOptionsCollection",
    "NamedNodeMap", "Storage", "Window",
];

/// What of the navigator differs from visit to visit, and not from browser to browser.
const OF_VISITS: &[&str] = &["cookieEnabled", "geolocation", "language", "maxTouchPoints", "onLine"];

/// What errors of some kinds and of some browsers have beside their interface's members.
const OF_ERRORS: &[&str] = &[
    "cause", "code", "columnNumber", "description", "errors", "fileName", "lineNumber", "number", "result",
    "stack",
];

/// Interfaces of data that a script makes itself: these do not differ from visit to visit.
pub(super) const DATA: &[&str] =
    &["AbortController", "AbortSignal", "Blob", "Headers", "Range", "Request", "Selection"];

impl Machine<'_> {
    /// A member by the table of the platform.
    pub(super) fn platform_member(&mut self, of: Interface, key: &Arc<str>, is_instance: bool) -> Value {
        if let Some(given) = self.given_to_all(of, key) {
            return given;
        }
        let found = platform::member(of, key).or_else(|| platform::member("Object", key));
        let is_set = found.is_none()
            && is_instance
            && platform::is_extended(of)
            && (platform::is_member_below(of, key) || self.is_set_here(key));
        let is_vague = platform::extends(of, "Error") && OF_ERRORS.contains(&&**key)
            || is_instance && (is_set || HAVE_NAMED_MEMBERS.contains(&of) || key.parse::<u32>().is_ok());
        match found {
            // Nobody's visit comes from a browser of every kind.
            Some(member) if of == "Navigator" && !member.is_function && !OF_VISITS.contains(&&**key) => {
                if member.result == "string" {
                    Value::Some("String", Doubt::Open)
                } else {
                    Value::OPEN
                }
            }
            Some(member) if member.is_function => self.made(Kind::Native(of, Arc::clone(key))),
            // What a page has is the same on each visit, whatever it is.
            Some(member)
                if DATA.contains(&member.of) || platform::extends(member.of, "Node") && !is_of_visit(key) =>
            {
                self.typed(member.result).of_page()
            }
            Some(member) => self.typed(member.result),
            // Another script may have given all of the kind such a member.
            None if self.may_be_added(of, key) || &**key == "constructor" || is_vague => Value::OPEN,
            None if of == "Object" => self.missing_place(key),
            None if platform::interface(of).is_none() => Value::OPEN,
            None => Value::Undefined(Some(self.absent(Absence::Member { of, name: Arc::clone(key) }))),
        }
    }

    /// Whether the script itself may set a member of that name: it stands elsewhere than behind a dot, or before an
    /// equals sign.
    pub(super) fn is_set_here(&mut self, name: &str) -> bool {
        if let Some(known) = self.known.set_here.get(name) {
            return *known;
        }
        let member = format!(".{name}");
        let is_set = self.text.matches(name).count() > self.text.matches(member.as_str()).count()
            || self.text.contains(&format!("{member} ="))
            || self.text.contains(&format!("{member}="));
        self.known.set_here.insert(name.to_owned(), is_set);
        is_set
    }

    /// Whether a script may give a member of that name to all of an interface: it names the prototype of that, or of one
    /// that it extends, and the member. One that the platform itself has elsewhere stands in many scripts that do no
    /// such thing.
    pub(super) fn may_be_added(&mut self, of: Interface, name: &str) -> bool {
        let key = format!("{of}.{name}");
        if let Some(known) = self.known.added.get(&key) {
            return *known;
        }
        let own = format!("prototype.{name}");
        let is_own = names_prototype(of, |prototype| self.text.contains(prototype))
            && (self.text.contains(&own) || self.is_set_here(name));
        let is_added = is_own
            || match platform::is_member_of_any(name) {
                true => {
                    let is_it = |owner: &str| match platform::interface(owner) {
                        Some(owner) => {
                            owner == "Object" || platform::extends(of, owner) || platform::extends(owner, of)
                        }
                        // Nobody knows what that is.
                        None => true,
                    };
                    self.world.gives_member(name, &is_it)
                        || self.gives_prototype(of) && self.world.mentions(name)
                }
                false => self.world.mentions(name) && self.has_prototype_of(of),
            };
        self.known.added.insert(key, is_added);
        is_added
    }

    /// Whether another script hands over the prototype of an interface, or one that it extends, or sets members of it by
    /// texts.
    fn gives_prototype(&self, of: Interface) -> bool {
        names_prototype(of, |prototype| {
            [',', '['].iter().any(|end| self.world.has_text(&format!("{prototype}{end}")))
        })
    }

    /// Whether another script names the prototype of an interface, or of one that it extends.
    fn has_prototype_of(&self, of: Interface) -> bool {
        let is_dom = platform::extends(of, "EventTarget") || of.starts_with("HTML");
        names_prototype(of, |prototype| self.world.has_text(prototype))
            || is_dom && self.world.has_text("HTMLElement.prototype")
            || !self.world.knows_all()
    }

    /// A value of a type of the platform.
    pub(super) fn typed(&mut self, of: &str) -> Value {
        match of {
            "void" => Value::UNDEFINED,
            "promise" => self.waiting(Value::OPEN),
            _ if let Some(of) = of.strip_prefix("promise:") => {
                let value = self.typed(of);
                self.waiting(value)
            }
            "string" => Value::A_TEXT,
            "number" => Value::A_NUMBER,
            "boolean" => Value::A_BOOLEAN,
            // Ordinary visits have one, and have none.
            "string?" | "number?" => Value::VISIT,
            "Window" => Value::Object(WINDOW),
            // Which one is not known.
            "Document" => self.made(Kind::Instance("HTMLDocument")),
            _ => match platform::interface(of) {
                // Of these nothing is known but that they are there.
                Some(of) => self.made(Kind::Instance(of)),
                None => Value::OPEN,
            },
        }
    }

    /// Whether a value has a member.
    pub(super) fn has_member(&mut self, value: &Value, key: &Arc<str>) -> Run<Result<bool, Doubt>> {
        let Value::Object(id) = value else { return Ok(Err(Doubt::Open)) };
        if self.proxied(*id).is_some() {
            return self.proxy_has(*id, key);
        }
        let object = self.object(*id);
        if object.members.contains_key(key) {
            return Ok(Ok(true));
        }
        if object.is_open {
            let is_there = self.member_of_prototype(*id, key).is_some();
            return Ok(if is_there { Ok(true) } else { Err(Doubt::Open) });
        }
        if let Some(parent) = object.parent {
            let parent = Value::Object(parent);
            return match self.deeper(|this| this.has_member(&parent, key))? {
                Ok(false) if !matches!(self.object(*id).kind, Kind::Plain) => Ok(Err(Doubt::Open)),
                other => Ok(other),
            };
        }
        let object = self.object(*id);
        Ok(match &object.kind {
            Kind::Plain if object.is_bare => Ok(false),
            Kind::Plain => Ok(platform::member("Object", key).is_some()),
            Kind::Window => match self.global_value(key)? {
                Some(Value::Unknown(_)) => match platform::global(key) {
                    Some(_) => Ok(true),
                    None => Err(Doubt::Open),
                },
                Some(_) => Ok(true),
                None => Ok(false),
            },
            Kind::Document | Kind::Element(_) | Kind::Style => match self.interface_of(value) {
                Some(of) if platform::member(of, key).is_some() => Ok(true),
                _ => Err(Doubt::Open),
            },
            Kind::Instance(of) if platform::member(of, key).is_some() => Ok(true),
            _ => Err(Doubt::Open),
        })
    }
}

/// Whether the prototype of an interface, or of one that it extends, is named somewhere.
fn names_prototype(of: Interface, has: impl Fn(&str) -> bool) -> bool {
    let mut all = std::iter::successors(Some(of), |of| platform::parent(of));
    all.any(|of| has(&format!("{of}.prototype")))
}

/// Whether a member of an element differs from visit to visit: where it is, and what a visitor did to it.
fn is_of_visit(name: &str) -> bool {
    const PLACES: &[&str] = &["client", "offset", "scroll", "selected", "selection"];
    const OTHERS: &[&str] = &[
        "checked", "complete", "currentTime", "duration", "ended", "hidden", "open", "paused", "value",
        "volume",
    ];
    PLACES.iter().any(|place| name.starts_with(place)) || OTHERS.contains(&name)
}
