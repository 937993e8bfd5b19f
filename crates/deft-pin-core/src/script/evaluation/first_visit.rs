//! What a first visit finds: nothing is stored, no cookie is set, and the address is the page's own, with neither a query
//! nor a fragment (HTML, "Web storage", "cookies"; URL, "URLSearchParams").

use std::sync::Arc;

use url::form_urlencoded;

use super::arguments::Arguments;
use super::machine::Machine;
use super::piece::SitePart;
use super::refused_addresses::{is_no_whole, is_unreadable_on};
use super::value::{Absence, Certainty, Kind, ObjectId, Value};

/// Where what was looked for in a query is kept.
const QUERY: &str = "#query";
/// The member of an address that its parameters are under.
const PARAMETERS: &str = "#parameters";

/// What stands for a cookie that the script has set.
const COOKIE: &str = "#cookie";

/// Where the state is that the script has given to where the visitor is.
pub(super) const STATE: &str = "#state";

/// Ways to write where the page is.
const ADDRESSES: &[&str] = &[
    "location", "location.href", "document.URL", "document.location", "document.location.href",
    "window.location", "window.location.href",
];

impl Machine<'_> {
    /// Whether what a first visit finds is still so: a visitor may change it with what he does.
    pub(super) fn is_first(&mut self) -> bool {
        self.asks.first = true;
        self.visit.is_first && (!self.is_later || self.certainty == Certainty::Certain)
    }

    /// The address of the page, as an ordinary visit has it.
    pub(super) fn here(&mut self) -> Value {
        const CHANGING: &[&str] = &["pushState", "replaceState", "location.hash", "navigation"];
        let is_kept = self.once("#here", |this| {
            !CHANGING.iter().any(|word| this.text.contains(word)) && this.world.knows_all()
        });
        match self.world.path().map(str::to_owned) {
            Some(path) if is_kept => match self.is_first() {
                true => Self::address_on_site(&path),
                false => Self::address_begun_with(&path),
            },
            _ => Value::A_TEXT,
        }
    }

    /// The window that opened this one, which an ordinary visit does not have (HTML, "window.opener").
    pub(super) fn opener(&mut self) -> Value {
        match self.is_first() {
            true => Value::Null(Some(self.absent(Absence::Place { name: "window.opener".to_owned() }))),
            false => Value::VISIT,
        }
    }

    /// A part of the page's address that an ordinary visit has nothing in.
    pub(super) fn blank_part(&mut self) -> Value {
        match self.is_first() {
            true => Value::text(""),
            false => Value::A_TEXT,
        }
    }

    /// Whether nothing on the page keeps anything with where a visitor was (HTML, "history.state").
    pub(super) fn has_no_states(&mut self) -> bool {
        self.once("#states", |this| {
            const KEEPING: &[&str] = &["pushState", "replaceState", "navigation"];
            this.world.knows_all()
                && KEEPING.iter().all(|word| !this.text.contains(word) && !this.world.has_text(word))
        })
    }

    /// `document.cookie`.
    pub(super) fn cookies(&mut self) -> Value {
        let is_blank = self.is_first()
            && self.once(COOKIE, |this| this.world.knows_all() && !this.world.has_text("cookie"));
        match self.globals.get(COOKIE) {
            _ if !is_blank => Value::A_TEXT,
            None => Value::text(""),
            Some(own @ Value::Text(_)) => own.clone(),
            Some(_) => Value::A_TEXT,
        }
    }

    /// The script sets a cookie, or may have done so.
    pub(super) fn sets_cookie(&mut self, given: &Value) {
        let before = match self.globals.get(COOKIE) {
            None => Some(Arc::from("")),
            Some(Value::Text(own)) => Some(Arc::clone(own)),
            Some(_) => None,
        };
        let after = match (before, given) {
            (Some(before), Value::Text(given)) if self.changes_surely() => with_cookie(&before, given),
            _ => None,
        };
        self.globals.insert(Arc::from(COOKIE), after.map_or(Value::OPEN, |after| Value::text(&after)));
    }

    /// What the texts of scripts tell, which takes as long as they are: each is asked once.
    pub(super) fn once(&mut self, asked: &str, tell: impl FnOnce(&Self) -> bool) -> bool {
        if let Some(known) = self.known.told_by_texts.get(asked) {
            return *known;
        }
        let told = tell(self);
        self.known.told_by_texts.insert(asked.to_owned(), told);
        told
    }

    /// `localStorage` and `sessionStorage`.
    pub(super) fn storage(&mut self, name: &str) -> Value {
        let key: Arc<str> = Arc::from(format!("#{name}"));
        if let Some(known) = self.globals.get(&key) {
            return known.clone();
        }
        let region = std::mem::replace(&mut self.region, 0);
        let storage = self.made(Kind::Instance("Storage"));
        self.region = region;
        self.globals.insert(key, storage.clone());
        storage
    }

    /// What is stored under a name.
    pub(super) fn stored(&mut self, storage: ObjectId, key: &str, nothing: Value) -> Value {
        let own = self.object(storage).members.get(key).cloned().map(|own| match own {
            Value::Null(_) => nothing.clone(),
            own => own,
        });
        // What the script has just stored is there on each visit.
        match own {
            Some(own) if !self.is_later || self.is_first() => return own,
            _ if !self.is_first() => return Value::VISIT,
            _ => {}
        }
        let object = self.object(storage);
        let is_open = object.is_open;
        let is_others = is_open
            || self
                .once(&format!("#others {key}"), |this| !this.world.knows_all() || this.world.has_text(key));
        // What is called later may come after what stores it.
        let is_set_later =
            self.is_later && self.once(&format!("#set {key}"), |this| this.text.matches(key).count() > 1);
        if is_others || is_set_later { Value::VISIT } else { nothing }
    }

    /// A method of what is stored; none for others.
    pub(super) fn call_storage(
        &mut self,
        name: &str,
        storage: ObjectId,
        arguments: &Arguments,
    ) -> Option<Value> {
        let key = self.as_text(&arguments.get(0)).ok();
        Some(match (name, key) {
            ("getItem", Some(key)) => self.stored(storage, &key, Value::NULL),
            ("setItem", Some(key)) => {
                let written = arguments.expressions.get(1).copied();
                self.assigned = written;
                let span = written.map(|own| self.program.span(own)).unwrap_or_default();
                self.check_text("Storage", None, "setItem", &arguments.get(1), span);
                let value = match self.as_text(&arguments.get(1)) {
                    Ok(text) => Value::Text(text),
                    Err(doubt) => Value::Some("String", doubt),
                };
                self.put_member(storage, key, value);
                Value::UNDEFINED
            }
            ("setItem", None) => {
                self.object_mut(storage).is_open = true;
                Value::UNDEFINED
            }
            ("removeItem", Some(key)) => {
                self.put_member(storage, key, Value::NULL);
                Value::UNDEFINED
            }
            _ => return None,
        })
    }

    /// What `new URLSearchParams` and `new URL` are given, where that is known.
    pub(super) fn keep_query(&mut self, made: ObjectId, arguments: &Arguments) {
        let is_url = matches!(self.object(made).kind, Kind::Instance("URL"));
        let written = arguments.expressions.first().map(|own| self.written(self.program.span(*own)));
        let is_here = written.is_some_and(|written| ADDRESSES.contains(&written.as_str()));
        let query = match (is_url, arguments.values.first()) {
            (_, Some(_)) if is_url && is_here && self.is_first() => Value::text(""),
            (true, Some(Value::Text(address))) => {
                let behind = address.split('#').next().unwrap_or_default().split_once('?');
                Value::text(behind.map_or("", |(_, query)| query))
            }
            (false, Some(Value::Text(query))) => Value::text(query.trim_start_matches('?')),
            (false, None) => Value::text(""),
            (false, Some(given)) => match self.query_made_of(&given.clone()) {
                Some(query) => Value::text(&query),
                None => return self.keep_form(made, &arguments.get(0)),
            },
            _ => return,
        };
        if is_url && is_here {
            if let Some(path) = self.world.path() {
                self.object_mut(made).members.insert(Arc::from("pathname"), Value::text(path));
            }
            self.object_mut(made).members.insert(Arc::from("hash"), Value::text(""));
        }
        self.object_mut(made).members.insert(Arc::from(QUERY), query);
    }

    /// The query that is made of an object's members, of pairs, or of another query (URL, "URLSearchParams").
    fn query_made_of(&mut self, given: &Value) -> Option<String> {
        let Value::Object(id) = given else { return None };
        if self.object(*id).is_open {
            return None;
        }
        let pair = |machine: &Self, item: &Value| match machine.kind(item) {
            Some(Kind::Array(parts)) if parts.len() == 2 => {
                Some((machine.as_text(&parts[0]).ok()?, machine.as_text(&parts[1]).ok()?))
            }
            _ => None,
        };
        let pairs: Vec<(Arc<str>, Arc<str>)> = match &self.object(*id).kind {
            Kind::Plain => {
                let members = self.object(*id).members.iter();
                let texts = members.map(|(key, value)| Some((Arc::clone(key), self.as_text(value).ok()?)));
                texts.collect::<Option<_>>()?
            }
            Kind::Array(items) => items.iter().map(|item| pair(self, item)).collect::<Option<_>>()?,
            Kind::Instance("URLSearchParams") => {
                let all = self.query_of(given)?;
                all.into_iter().map(|(key, value)| (Arc::from(key), Arc::from(value))).collect()
            }
            _ => return None,
        };
        Some(form_urlencoded::Serializer::new(String::new()).extend_pairs(pairs).finish())
    }

    /// Keeps the parts of an address that is written out whole (URL, "API").
    pub(super) fn keep_address(&mut self, made: ObjectId, arguments: &Arguments) {
        if let Some(address) = Self::joined_on_site(arguments)
            && matches!(self.object(made).kind, Kind::Instance("URL"))
        {
            self.keep_address_on_site(made, &address);
            return;
        }
        let (Value::Text(address), 1) = (arguments.get(0), arguments.values.len()) else { return };
        if !matches!(self.object(made).kind, Kind::Instance("URL")) || address.len() > 2_000 {
            return;
        }
        let Ok(parsed) = url::Url::parse(&address) else { return };
        let port = parsed.port().map_or_else(String::new, |port| port.to_string());
        let hostname = parsed.host_str().unwrap_or_default().to_owned();
        let host = if port.is_empty() { hostname.clone() } else { format!("{hostname}:{port}") };
        let marked = |mark: char, part: Option<&str>| match part {
            Some(part) if !part.is_empty() => format!("{mark}{part}"),
            _ => String::new(),
        };
        for (name, part) in [
            ("href", parsed.as_str().to_owned()),
            ("protocol", format!("{}:", parsed.scheme())),
            ("hostname", hostname),
            ("host", host),
            ("port", port),
            ("pathname", parsed.path().to_owned()),
            ("hash", marked('#', parsed.fragment())),
            ("search", marked('?', parsed.query())),
        ] {
            // What a script gives it later is its own then.
            self.object_mut(made).members.insert(Arc::from(name), Value::text(&part));
        }
    }

    /// The same for an address on the site, of which the host is not known.
    fn keep_address_on_site(&mut self, made: ObjectId, address: &url::Url) {
        let marked = |mark: char, part: Option<&str>| {
            Value::text(
                &part
                    .filter(|part| !part.is_empty())
                    .map_or_else(String::new, |part| format!("{mark}{part}")),
            )
        };
        let query = address.query().unwrap_or_default();
        let known = [
            ("href", Self::address_on_site(&address[url::Position::BeforePath..])),
            ("pathname", Value::text(address.path())),
            ("hash", marked('#', address.fragment())),
            ("search", marked('?', address.query())),
            (QUERY, Value::text(query)),
        ];
        let of_site = ["host", "hostname", "origin"].into_iter();
        let of_site = of_site.filter_map(|key| Some((key, SitePart::of(key)?.value())));
        for (name, part) in known.into_iter().chain(of_site) {
            self.object_mut(made).members.insert(Arc::from(name), part);
        }
    }

    /// `searchParams` of an address whose query is known.
    pub(super) fn parameters_of(&mut self, address: ObjectId) -> Option<Value> {
        // By these the address itself may change.
        for part in ["href", "search"] {
            self.object_mut(address).members.shift_remove(part);
        }
        if let Some(known) = self.object(address).members.get(PARAMETERS) {
            return Some(known.clone());
        }
        let query = self.object(address).members.get(QUERY)?.clone();
        let made = self.make(Kind::Instance("URLSearchParams"));
        self.object_mut(made).members.insert(Arc::from(QUERY), query);
        self.put_member(address, Arc::from(PARAMETERS), Value::Object(made));
        Some(Value::Object(made))
    }

    /// The names and values of the parameters of a query, where that is known.
    pub(super) fn query_of(&self, of: &Value) -> Option<Vec<(String, String)>> {
        let Value::Object(id) = of else { return None };
        let Some(Value::Text(query)) = self.object(*id).members.get(QUERY) else { return None };
        Some(form_urlencoded::parse(query.as_bytes()).into_owned().collect())
    }

    /// A query with a parameter set, added or taken; none where that is not known.
    fn changed_query(&self, name: &str, of: ObjectId, arguments: &Arguments) -> Option<Value> {
        let mut all = self.query_of(&Value::Object(of))?;
        if name == "sort" {
            return None;
        }
        let key = self.as_text(&arguments.get(0)).ok()?;
        if name != "append" {
            all.retain(|(own, _)| **own != *key);
        }
        if name != "delete" {
            all.push((key.to_string(), self.as_text(&arguments.get(1)).ok()?.to_string()));
        }
        let mut query = form_urlencoded::Serializer::new(String::new());
        Some(Value::text(&query.extend_pairs(all).finish()))
    }

    /// A method of the parameters of a query, where that is known.
    pub(super) fn call_parameters(
        &mut self,
        name: &str,
        of: ObjectId,
        arguments: &Arguments,
    ) -> Option<Value> {
        if matches!(name, "set" | "append" | "delete" | "sort") && !self.is_of_form(of) {
            let changed = self.changed_query(name, of, arguments).unwrap_or(Value::OPEN);
            self.put_member(of, Arc::from(QUERY), changed);
            return Some(Value::UNDEFINED);
        }
        if self.is_of_form(of) {
            return self.call_form_data(name, of, arguments);
        }
        let all = self.query_of(&Value::Object(of))?;
        if name == "toString" {
            return Some(Value::text(&written_query(&all)));
        }
        let key = self.as_text(&arguments.get(0)).ok()?;
        if name == "getAll" {
            let own = all.iter().filter(|(name, _)| **name == *key);
            let values = own.map(|(_, value)| Value::text(value)).collect();
            return Some(self.array(values, false));
        }
        let found = all.iter().find(|(name, _)| **name == *key);
        match name {
            "get" => Some(found.map_or(Value::NULL, |(_, value)| Value::text(value))),
            "has" if arguments.values.len() == 1 => Some(Value::Boolean(found.is_some())),
            _ => None,
        }
    }

    /// What is thrown by an address without what it is relative to (URL, "URL class").
    pub(super) fn is_no_address(&self, arguments: &Arguments) -> bool {
        match (arguments.values.as_slice(), arguments.get(1)) {
            ([Value::Text(address)] | [Value::Text(address), Value::Undefined(_)], _) => is_no_whole(address),
            // They are taken for the words.
            (
                [Value::Undefined(_) | Value::Null(_)]
                | [Value::Undefined(_) | Value::Null(_), Value::Undefined(_)],
                _,
            ) => true,
            ([Value::Text(address), _], Value::Text(base)) => url::Url::parse(&base)
                .map_or_else(|_| is_no_whole(&base), |base| is_unreadable_on(&base, address)),
            _ => false,
        }
    }
}

/// A query as it is written (URL, "application/x-www-form-urlencoded serializing").
pub(super) fn written_query(pairs: &[(String, String)]) -> String {
    form_urlencoded::Serializer::new(String::new()).extend_pairs(pairs).finish()
}

/// The cookies of a page once one more is set (RFC 6265, "The Set-Cookie Header"); none where a browser may refuse it.
fn with_cookie(before: &str, given: &str) -> Option<String> {
    let mut parts = given.split(';').map(str::trim);
    let (name, value) = parts.next()?.split_once('=')?;
    let (name, value) = (name.trim(), value.trim());
    let mut is_gone = false;
    for part in parts {
        let (attribute, of) = part.split_once('=').unwrap_or((part, ""));
        match (attribute.trim().to_ascii_lowercase().as_str(), of.trim()) {
            ("max-age", of) => is_gone = of.parse::<f64>().ok()? <= 0.0,
            ("expires", of) => is_gone = of.contains("1970"),
            ("path", "/") | ("samesite", _) | ("", _) => {}
            _ => return None,
        }
    }
    const LONGEST: usize = 4_000;
    if name.is_empty() || name.starts_with("__") || before.len() + given.len() > LONGEST {
        return None;
    }
    let is_other = |own: &&str| own.split('=').next() != Some(name);
    let mut all: Vec<&str> = before.split("; ").filter(|own| !own.is_empty()).filter(is_other).collect();
    let own = format!("{name}={value}");
    if !is_gone {
        // One that is set anew keeps its place.
        match before.split("; ").position(|own| own.split('=').next() == Some(name)) {
            Some(at) if !before.is_empty() => all.insert(at.min(all.len()), &own),
            _ => all.push(&own),
        }
    }
    Some(all.join("; "))
}
