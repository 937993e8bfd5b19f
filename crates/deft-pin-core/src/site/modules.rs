//! The modules that a module of a page imports, by way of its import map (HTML 8.1.6.2).

use std::collections::BTreeSet;
use std::sync::Arc;

use html5ever::local_name;
use serde_json::Value;

use super::loads::{LoadTarget, address_in};
use super::pages::{Page, Site};
use super::scripts::{ScriptFile, ScriptFiles};
use crate::markup::Document;
use crate::script::ScriptKind;
use crate::source::{FilePath, Files};

/// What specifiers mean on a page, by its first import map.
pub(super) struct ImportMap {
    /// Specifiers, or starts of some that end in a slash, with the addresses that they mean; the
    /// longest first.
    entries: Vec<(String, LoadTarget)>,
    /// Whether there is more to it than is understood here: scopes, or a `<base>`.
    is_beyond: bool,
}

/// The modules that run before another one.
pub(super) struct Gathered {
    pub(super) modules: Vec<Arc<ScriptFile>>,
    /// Whether all of them could be read.
    pub(super) is_whole: bool,
}

/// The most modules that are followed from one.
const MOST: usize = 500;

impl ImportMap {
    pub(super) fn of(document: &Document, page: &Page) -> Self {
        let mut map = ImportMap { entries: Vec::new(), is_beyond: document.base().is_some() };
        let element = document.elements().find(|element| {
            let kind = element.attr(&local_name!("type")).unwrap_or_default();
            element.name.local == local_name!("script") && kind.trim().eq_ignore_ascii_case("importmap")
        });
        let text = element.map(|element| document.text_of(element.id)).unwrap_or_default();
        let Ok(Value::Object(json)) = serde_json::from_str::<Value>(&text) else { return map };
        map.is_beyond |= json.contains_key("scopes");
        let entries = json.get("imports").and_then(Value::as_object).into_iter().flatten();
        for (specifier, address) in entries {
            if let Some(address) = address.as_str() {
                map.entries.push((specifier.clone(), address_in(&page.file, address)));
            }
        }
        map.entries.sort_by_key(|(specifier, _)| std::cmp::Reverse(specifier.len()));
        map
    }

    /// The file that a specifier means in a module.
    fn resolve(&self, from: &FilePath, specifier: &str) -> Option<FilePath> {
        let is_relative = ["/", "./", "../"].iter().any(|start| specifier.starts_with(start));
        let mapped = self.entries.iter().find_map(|(key, target)| {
            let rest = specifier.strip_prefix(key.as_str())?;
            match target {
                LoadTarget::Local(file) if rest.is_empty() => Some(Some(file.clone())),
                LoadTarget::Local(file) if key.ends_with('/') => Some(file.join(rest).ok()),
                _ if rest.is_empty() || key.ends_with('/') => Some(None),
                _ => None,
            }
        });
        match (mapped, is_relative) {
            (Some(mapped), _) => mapped,
            (None, true) => match address_in(from, specifier) {
                LoadTarget::Local(file) => Some(file),
                _ => None,
            },
            (None, false) => None,
        }
    }

    /// What a module imports, and what that does, each once.
    pub(super) fn gather(
        &self,
        base: &FilePath,
        script: Option<&Arc<ScriptFile>>,
        (files, site, known): (&dyn Files, &Site, &ScriptFiles),
    ) -> Gathered {
        let mut gathered = Gathered { modules: Vec::new(), is_whole: script.is_some() };
        let mut seen: BTreeSet<FilePath> = BTreeSet::new();
        let mut waiting: Vec<(FilePath, Arc<ScriptFile>)> =
            script.map(|script| (base.clone(), Arc::clone(script))).into_iter().collect();
        while let Some((from, script)) = waiting.pop() {
            for specifier in &script.facts(ScriptKind::Module).imports {
                let found = (!self.is_beyond).then(|| self.resolve(&from, specifier)).flatten();
                let Some(file) = found else {
                    gathered.is_whole = false;
                    continue;
                };
                if seen.len() >= MOST || !seen.insert(file.clone()) {
                    gathered.is_whole &= seen.len() < MOST;
                    continue;
                }
                match known.get(&file, files, site) {
                    Some(module) => {
                        gathered.modules.push(Arc::clone(&module));
                        waiting.push((file, module));
                    }
                    None => gathered.is_whole = false,
                }
            }
        }
        gathered
    }
}
