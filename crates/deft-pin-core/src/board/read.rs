//! A board's text to the board. Every mistake is found in one go, each with its place.
//!
//! It is long since each table of the board has its reader here, one after the other, as the board's
//! reference lists its keys.

use std::collections::BTreeMap;

use toml::de::{DeTable, DeValue};

use super::host::Host;
use super::mistake::Mistake;
use super::model::{Board, Expect, Library, Pin, ScriptLoad};
use super::schema::KEYS;
use super::spanned::{SelectorText, Spanned};
use super::start::Start;
use super::values::{Entry, Reader, Value, entries, span_of};
use crate::code::{Address, Table};
use crate::markup::Slot;
use crate::source::{FilePath, SourceText, Span, nearest};
use crate::style::{Engine, Engines, Strength};

impl Board {
    /// Reads a board.
    ///
    /// # Errors
    /// All of its mistakes, in the order of the text.
    pub fn parse(text: &str) -> Result<Self, Vec<Mistake>> {
        let (table, errors) = DeTable::parse_recoverable(text);
        let mut reader = Reader::default();
        for error in &errors {
            let span = error.span().map_or(Span::at(0), |range| Span::new(range.start, range.end));
            reader.mistakes.push(Mistake::new(span, format!("this is not TOML: {}", error.message())));
        }
        if !errors.is_empty() {
            reader.mistakes.sort();
            return Err(reader.mistakes);
        }
        let board = reader.board(text, table.get_ref());
        match board {
            Some(board) if reader.mistakes.is_empty() => Ok(board),
            _ => {
                reader.mistakes.sort();
                Err(reader.mistakes)
            }
        }
    }
}

/// The name that a board's file usually has.
const USUAL_FILE: &str = "deft-pin.toml";

/// What `[site]` says.
#[derive(Default)]
struct SiteTable {
    root: Option<Spanned<FilePath>>,
    section: Option<Spanned<SelectorText>>,
    trackers: Vec<Spanned<String>>,
    engines: Option<Engines>,
    policy: Option<Spanned<String>>,
}

impl Reader {
    fn board(&mut self, text: &str, table: &DeTable<'_>) -> Option<Board> {
        let top = entries(table);
        // Names first, so that what refers to them can be read in one pass.
        self.libraries = self.names(&top, "library");
        self.pins = self.names(&top, "pin");
        let clashes: Vec<_> = self.pins.iter().filter(|pin| self.libraries.contains(pin)).cloned().collect();
        let mut site = SiteTable::default();
        let mut host = Host::default();
        let mut accept = Vec::new();
        let mut libraries = Vec::new();
        let mut pins = Vec::new();
        let mut site_seen = false;
        // What texts have in double braces.
        let values = top.iter().find(|(key, _)| key.as_str() == "values");
        if let Some(table) = values.and_then(|(_, value)| self.table(value, "[values]")) {
            self.board_values = self.values(table);
        }
        for (key, value) in &top {
            match key.as_str() {
                "site" => {
                    site_seen = true;
                    if let Some(table) = self.table(value, "[site]") {
                        site = self.site(table, key.span);
                    }
                }
                "host" => {
                    if let Some(table) = self.table(value, "[host]") {
                        host = self.host(table, key.span);
                    }
                }
                "values" => {}
                "check" => {
                    if let Some(table) = self.table(value, "[check]") {
                        accept = self.check(table);
                    }
                }
                "library" => {
                    if let Some(table) = self.table(value, "[library.NAME]") {
                        for (name, value) in entries(table) {
                            libraries.extend(self.library(name, value));
                        }
                    }
                }
                "pin" => {
                    if let Some(table) = self.table(value, "[pin.NAME]") {
                        for (name, value) in entries(table) {
                            if clashes.contains(&name.value) {
                                let message = format!("`{}` is the name of a library too", *name);
                                self.mistakes.push(
                                    Mistake::new(name.span, message).help("what is put into pages is marked with the name: give the pin another one"),
                                );
                            }
                            pins.extend(self.pin(name, value));
                        }
                    }
                }
                _ => self.unknown_key(key, "a board", &KEYS.board),
            }
        }
        if !site_seen {
            let mistake = Mistake::new(Span::at(0), "the board does not say which site it is for");
            self.mistakes.push(
                mistake.help("add `[site]` and under it `root = \"FOLDER\"`, the folder with the pages"),
            );
        }
        let SiteTable { root, section, trackers, engines, policy } = site;
        let engines = engines.unwrap_or(Engines::ALL);
        let text = SourceText::new(text.to_owned());
        let (libraries, pins) = (Table::new(libraries), Table::new(pins));
        let values = std::mem::take(&mut self.board_values);
        let file = FilePath::parse(USUAL_FILE).unwrap_or_else(|_| FilePath::root());
        Some(Board {
            file,
            text,
            root: root?,
            section,
            trackers,
            policy,
            engines,
            host,
            values,
            accept,
            libraries,
            pins,
        })
    }

    fn names(&self, top: &[Entry<'_, '_>], kind: &str) -> Vec<String> {
        let tables = top.iter().filter(|(key, _)| key.as_str() == kind).filter_map(|(_, value)| match value
            .get_ref()
        {
            DeValue::Table(table) => Some(table),
            _ => None,
        });
        // Only what is a table becomes a library or a pin, so that places in the lists agree.
        tables
            .flat_map(|table| entries(table))
            .filter(|(_, value)| matches!(value.get_ref(), DeValue::Table(_)))
            .map(|(name, _)| name.value)
            .collect()
    }

    fn site(&mut self, table: &DeTable<'_>, place: Span) -> SiteTable {
        let mut site = SiteTable::default();
        let before = self.mistakes.len();
        for (key, value) in entries(table) {
            match key.as_str() {
                "root" => {
                    site.root = self.text("root", value).and_then(|path| {
                        // A board may lie in the site's own folder.
                        let own = Spanned { value: FilePath::root(), span: path.span };
                        if matches!(path.as_str(), "." | "./") { Some(own) } else { self.file("root", path) }
                    });
                }
                "section" => site.section = self.selector("section", value),
                "trackers" => site.trackers = self.texts("trackers", value),
                "engines" => site.engines = self.engines(value),
                "policy" => site.policy = self.text("policy", value),
                _ => self.unknown_key(&key, "[site]", &KEYS.site),
            }
        }
        if site.root.is_none() && self.mistakes.len() == before {
            let mistake = Mistake::new(place, "`[site]` does not say where the pages are");
            self.mistakes.push(mistake.help("add `root = \"FOLDER\"`, the folder with the pages"));
        }
        site
    }

    fn engines(&mut self, value: Value<'_, '_>) -> Option<Engines> {
        let names = Engine::ALL.map(Engine::name);
        let texts = self.texts("engines", value);
        let before = self.mistakes.len();
        let found: Vec<Engine> = texts
            .iter()
            .filter_map(|text| self.one_of("engine", text, &names).map(|found| Engine::ALL[found]))
            .collect();
        if found.is_empty() && self.mistakes.len() == before && matches!(value.get_ref(), DeValue::Array(_)) {
            self.mistake(span_of(value), "`engines` names no engine");
        }
        (!found.is_empty()).then(|| Engines::of(found))
    }

    fn check(&mut self, table: &DeTable<'_>) -> Vec<Spanned<String>> {
        let mut accept = Vec::new();
        for (key, value) in entries(table) {
            match key.as_str() {
                "accept" => accept = self.texts("accept", value),
                _ => self.unknown_key(&key, "[check]", &KEYS.check),
            }
        }
        accept
    }

    fn library(&mut self, name: Spanned<String>, value: Value<'_, '_>) -> Option<Library> {
        let table = self.table(value, "[library.NAME]")?;
        self.name(&name, "library");
        let mut library = Library {
            name,
            styles: Vec::new(),
            scripts: Vec::new(),
            needs: Vec::new(),
            says_needs: table.get("needs").is_some(),
            defines: Vec::new(),
            present: None,
            integrity: BTreeMap::new(),
            load: ScriptLoad::Blocking,
        };
        let mut load = None;
        let mut integrity = Vec::new();
        for (key, value) in entries(table) {
            match key.as_str() {
                "style" => library.styles = self.sources("style", value),
                "script" => library.scripts = self.sources("script", value),
                "needs" => library.needs = self.libraries_named("needs", value),
                "defines" => {
                    library.defines = self.texts("defines", value).into_iter().map(|own| own.value).collect();
                }
                "present" => library.present = self.selector("present", value),
                "load" => load = self.text("load", value),
                "integrity" => {
                    if let Some(table) = self.table(value, "integrity") {
                        integrity = entries(table);
                    }
                }
                _ => self.unknown_key(&key, "a library", &KEYS.library),
            }
        }
        for (address, value) in integrity {
            self.integrity(&mut library, &address, value);
        }
        if let Some(text) = load {
            let found = self.one_of("load", &text, &ScriptLoad::ALL.map(ScriptLoad::name));
            library.load = found.map_or(library.load, |found| ScriptLoad::ALL[found]);
            if library.scripts.iter().all(|source| matches!(source.value, Address::Local(_))) {
                let message = format!("the library `{}` has no script of another host", *library.name);
                let help = "`load` is for those: what lies beside the board runs where it stands";
                self.mistakes.push(Mistake::new(text.span, message).help(help));
            }
        }
        if table.get("style").is_none() && table.get("script").is_none() {
            let message = format!("the library `{}` has neither a `style` nor a `script`", *library.name);
            self.mistake(library.name.span, message);
        }
        Some(library)
    }

    /// What a file of another host is held against; the address has to be one of the library's.
    fn integrity(&mut self, library: &mut Library, address: &Spanned<String>, value: Value<'_, '_>) {
        let Some(text) = self.text("integrity", value) else { return };
        let urls: Vec<&str> = library
            .styles
            .iter()
            .chain(&library.scripts)
            .filter_map(|source| match &source.value {
                Address::Remote(url) => Some(url.as_str()),
                Address::Local(_) => None,
            })
            .collect();
        let normal = url::Url::parse(address).map(|url| url.to_string());
        let Some(url) = urls.iter().find(|url| normal.as_deref() == Ok(**url)) else {
            let message = format!("the library `{}` loads nothing from `{}`", *library.name, **address);
            let near = nearest(address, urls.iter().copied()).map(|near| format!("did you mean `{near}`?"));
            let help = near.unwrap_or_else(|| {
                "`integrity` has the library's addresses on other hosts, each with its hash".to_owned()
            });
            self.mistakes.push(Mistake::new(address.span, message).help(help));
            return;
        };
        let is_hash = |word: &str| {
            ["sha256-", "sha384-", "sha512-"].iter().any(|kind| word.len() > 40 && word.starts_with(kind))
        };
        if text.is_empty() || !text.split_ascii_whitespace().all(is_hash) {
            let mistake = Mistake::new(text.span, "this is no hash of a file");
            self.mistakes.push(
                mistake.help("it reads `sha256-`, `sha384-` or `sha512-`, and then the hash in Base64"),
            );
            return;
        }
        library.integrity.insert((*url).to_owned(), text.value);
    }

    fn sources(&mut self, key: &str, value: Value<'_, '_>) -> Vec<Spanned<Address>> {
        let texts = match value.get_ref() {
            DeValue::Array(_) => self.texts(key, value),
            _ => self.text(key, value).into_iter().collect(),
        };
        let mut sources = Vec::new();
        for text in texts {
            let span = text.span;
            if text.starts_with("https://") || text.starts_with("http://") {
                match url::Url::parse(&text) {
                    Ok(url) => sources.push(Spanned { value: Address::Remote(url.to_string()), span }),
                    Err(error) => self.mistake(span, format!("this is no URL: {error}")),
                }
            } else if let Some(file) = self.file(key, text) {
                sources.push(Spanned { value: Address::Local(file.value), span });
            }
        }
        sources
    }

    fn expect(&mut self, table: &DeTable<'_>) -> Expect {
        let mut expect = Expect::default();
        for (key, value) in entries(table) {
            match key.as_str() {
                "pages" => expect.pages = self.count("pages", value),
                "elements" => expect.elements = self.count("elements", value),
                _ => self.unknown_key(&key, "[pin.NAME.expect]", &KEYS.expect),
            }
        }
        expect
    }

    fn pin(&mut self, name: Spanned<String>, value: Value<'_, '_>) -> Option<Pin> {
        let table = self.table(value, "[pin.NAME]")?;
        self.name(&name, "pin");
        let mut pin = Pin {
            slot: Spanned { value: Slot::default(), span: name.span },
            name,
            pages: Vec::new(),
            skip: Vec::new(),
            having: None,
            within: None,
            as_page: false,
            style: None,
            strength: Strength::default(),
            share: Vec::new(),
            adds: Vec::new(),
            accept: Vec::new(),
            expect: Expect::default(),
            script: None,
            needs: Vec::new(),
            after: Vec::new(),
            markup: Vec::new(),
            marks: Vec::new(),
            start: Spanned { value: Start::Now, span: Span::default() },
            once: None,
            from: None,
            until: None,
            values: Vec::new(),
            used_values: Vec::new(),
            off: false,
        };
        let values = table.get("values").and_then(|value| self.table(value, "[pin.NAME.values]"));
        self.own_values = values.map(|table| self.values(table)).unwrap_or_default();
        self.used_values.clear();
        let has_target = table.get("within").is_some();
        for (key, value) in entries(table) {
            match key.as_str() {
                "pages" => pin.pages = self.patterns("pages", value),
                "skip" => pin.skip = self.patterns("skip", value),
                "having" => pin.having = self.selector("having", value),
                "within" => pin.within = self.selector("within", value),
                "style" => pin.style = self.text("style", value).and_then(|path| self.file("style", path)),
                "script" => {
                    pin.script = self.text("script", value).and_then(|path| self.file("script", path))
                }
                "strength" => {
                    let names = Strength::ALL.map(Strength::name);
                    let found =
                        self.text("strength", value).and_then(|text| self.one_of("strength", &text, &names));
                    pin.strength = found.map_or(pin.strength, |found| Strength::ALL[found]);
                }
                "accept" => pin.accept = self.texts("accept", value),
                "adds" => {
                    pin.adds = self.texts("adds", value).into_iter().map(|name| name.value).collect();
                }
                "share" => {
                    pin.share = self.texts("share", value).into_iter().map(|name| name.value).collect();
                }
                "expect" => {
                    if let Some(table) = self.table(value, "[pin.NAME.expect]") {
                        pin.expect = self.expect(table);
                    }
                }
                "needs" => pin.needs = self.libraries_named("needs", value),
                "after" => {
                    let known = self.pins.clone();
                    pin.after = self.named("after", value, "pin", &known);
                }
                "slot" => pin.slot = self.slot(value).unwrap_or(pin.slot),
                "values" => {}
                "markup" => {
                    for (table, span) in self.tables(value, "pin.NAME.markup") {
                        pin.markup.extend(self.markup(table, span, has_target));
                    }
                }
                "mark" => {
                    for (table, span) in self.tables(value, "pin.NAME.mark") {
                        pin.marks.push(self.mark(table, span, has_target));
                    }
                }
                "off" => pin.off = self.boolean("off", value),
                "as-page" => {
                    pin.as_page = self.boolean("as-page", value);
                    if pin.as_page && !has_target {
                        let message =
                            "`as-page` lets the target stand for the page, and there is no `within`";
                        self.mistake(span_of(value), message.to_owned());
                    }
                }
                other => {
                    if self.beginning(&mut pin, other, value).is_none() {
                        self.unknown_key(&key, "a pin", &KEYS.pin);
                    }
                }
            }
        }
        pin.values = std::mem::take(&mut self.own_values);
        pin.used_values = std::mem::take(&mut self.used_values);
        if ["style", "script", "needs", "markup", "mark"].iter().all(|key| table.get(*key).is_none()) {
            let message = format!("the pin `{}` puts nothing into pages", *pin.name);
            let mistake = Mistake::new(pin.name.span, message);
            self.mistakes.push(
                mistake.help("give it a `style`, a `script`, markup, a mark, or libraries that it `needs`"),
            );
        }
        Some(pin)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::code::{Id as _, LibraryId, PinId};

    fn mistakes(text: &str) -> Vec<String> {
        let found = Board::parse(text).map(|_| ()).unwrap_err();
        found
            .into_iter()
            .map(|m| {
                format!(
                    "{} | {} | {}",
                    text.get(m.span.range()).unwrap_or("?"),
                    m.message,
                    m.help.unwrap_or_default()
                )
            })
            .collect()
    }

    #[test]
    fn a_board_with_everything_is_read_in_its_order() {
        let text = "[site]\nroot = 'site'\n[library.z]\nscript = ['a.js', 'https://cdn.example/b.js']\n[library.a]\nstyle = 'a.css'\nneeds = ['z']\n\
            [pin.two]\npages = ['/', '/piers/*']\nskip = ['/piers/old']\nhaving = 'main'\nwithin = '#status, .x > p'\nstyle = 'p/two.css'\n\
            script = 'p/two.js'\nneeds = ['a']\nafter = ['one']\nslot = 'body-start'\noff = true\n[pin.one]\nneeds = ['z']\n";
        let board = Board::parse(text).unwrap();
        assert_eq!(board.libraries.iter().map(|l| l.name.as_str()).collect::<Vec<_>>(), ["z", "a"]);
        assert_eq!(
            board.libraries[LibraryId::new(0)].scripts[1].value,
            Address::Remote("https://cdn.example/b.js".to_owned())
        );
        let pin = &board.pins[PinId::new(0)];
        assert_eq!(
            (pin.name.as_str(), *pin.needs[0], *pin.after[0], *pin.slot, pin.off),
            ("two", LibraryId::new(1), PinId::new(1), Slot::BodyStart, true)
        );
        assert_eq!(board.text.slice(pin.within.as_ref().unwrap().span), "'#status, .x > p'");
    }

    #[test]
    fn every_mistake_is_found_in_one_go_with_its_place_and_the_nearest_name() {
        let text = "[sight]\n[site]\nroot = '../up'\n[library.tide]\nscript = 'a.js'\n[pin.a]\npage = ['/']\nscript = 3\nneeds = ['tied']\n\
            within = 'a['\nwithn = 'b'\nslot = 'fot'\n[pin.'b c']\nstyle = '/etc/x'\npages = ['fares']\nafter = ['z']\n[pin.d]\n";
        let expected = [
            "sight | a board has no key `sight` | its keys are `check`, `host`, `library`, `pin`, `site`, `values`",
            "'../up' | `root` names a path that leads out of the folder | what a board uses has to be in the board's own folder, or below it",
            "page | a pin has no key `page` | did you mean `pages`?",
            "3 | `script` is a text in quotes, and this is a number | ",
            "'tied' | the board has no library `tied` | did you mean `tide`?",
            "'a[' | `within` is no selector: it stops in the middle | ",
            "withn | a pin has no key `withn` | did you mean `within`?",
            "'fot' | there is no slot `fot` | did you mean `foot`?",
            "'b c' | a pin's name has letters, digits, `-` and `_` alone | ",
            "'/etc/x' | `style` names an absolute path | what a board uses has to be in the board's own folder, or below it",
            "'fares' | the pattern has to start with `/`, as the paths of pages do | did you mean `/fares`?",
            "'z' | the board has no pin `z` | there are `a`, `b c`, `d`",
            "d | the pin `d` puts nothing into pages | give it a `style`, a `script`, markup, a mark, or libraries that it `needs`",
        ];
        assert_eq!(mistakes(text), expected);
        assert_eq!(mistakes("[pin.x]\nstyle='a'").len(), 1);
        assert!(mistakes("a = = 1\n[b")[0].contains("this is not TOML"));
        assert_eq!(mistakes("site = 3\npin = []").len(), 2);
    }

    #[test]
    fn the_reader_knows_exactly_the_keys_of_the_schema() {
        let value = |key: &str| match key {
            "off" | "as-page" => "true".to_owned(),
            "pages" | "skip" => "['/']".to_owned(),
            "needs" | "after" => "[]".to_owned(),
            "slot" => "'foot'".to_owned(),
            "strength" => "'keep'".to_owned(),
            "accept" | "share" | "adds" | "defines" | "trackers" => "['x']".to_owned(),
            "integrity" => "{}".to_owned(),
            "expect" => "{ pages = 1, elements = 2 }".to_owned(),
            "kind" => "'page-slots'".to_owned(),
            "site" | "page" => "['head']".to_owned(),
            "styles" | "scripts" | "prefer" => "'site'".to_owned(),
            "only" => "{ before = '{{path}}', behind = '' }".to_owned(),
            "files" => "'/f/'".to_owned(),
            "longest" => "500".to_owned(),
            "strips" | "reserved" | "frame" => "['x']".to_owned(),
            "class-names" => "'kept'".to_owned(),
            "marks" => "'by-hand'".to_owned(),
            "engines" => "['firefox']".to_owned(),
            "markup" => "[{ text = '<p>', place = 'before', at = 'a' }]".to_owned(),
            "mark" => "[{ id = 'x', at = 'a' }]".to_owned(),
            "values" => "{ x = 1 }".to_owned(),
            "start" => "'seen a'".to_owned(),
            "once" => "'page'".to_owned(),
            "load" => "'async'".to_owned(),
            "from" | "until" => "2027-01-05".to_owned(),
            _ => "'a'".to_owned(),
        };
        let rows =
            |keys: &[String]| keys.iter().map(|key| format!("{key} = {}\n", value(key))).collect::<String>();
        let text = format!(
            "[site]\n{}[host]\n{}[check]\n{}[library.l]\n{}[pin.p]\n{}",
            rows(&KEYS.site),
            rows(&KEYS.host),
            rows(&KEYS.check),
            rows(&KEYS.library).replace("script = 'a'", "script = 'https://a.example/a'"),
            rows(&KEYS.pin)
        );
        Board::parse(&text).unwrap();
        assert_eq!(KEYS.board, ["check", "host", "library", "pin", "site", "values"]);
    }
}
