//! The modules that a module of a page imports, by way of its import map (HTML, "resolve a module
//! specifier"). What a specifier means is worked out by `import_map`.

use std::collections::BTreeSet;
use std::sync::Arc;

use html5ever::local_name;
use import_map::ImportMap;
use url::Url;

use super::loads::base_url;
use super::parsed::ParsedPage;
use super::shelf::Shelf;
use crate::code::{file_of, file_url, is_on_site, site_host};
use crate::markup::{Document, ElementRef};
use crate::script::{ScriptFile, ScriptKind};
use crate::source::{FilePath, Span, files_in, nearest};

/// The first import map of a page.
pub fn import_map(document: &Document) -> Option<ElementRef<'_>> {
    document.elements().find(|element| {
        let kind = element.attr(&local_name!("type")).unwrap_or_default();
        element.data().name.local == local_name!("script") && kind.trim().eq_ignore_ascii_case("importmap")
    })
}

/// What specifiers mean on a page.
pub(super) struct PageModules {
    /// The page's first import map, or an empty one.
    map: ImportMap,
    /// The names that it has.
    keys: Vec<String>,
    /// What the page's own addresses start from.
    base: Url,
}

/// The modules that run before another one.
#[derive(Default)]
pub(super) struct ImportedModules {
    pub(super) modules: Vec<Arc<ScriptFile>>,
    /// Whether all of them could be read.
    pub(super) is_whole: bool,
    /// What keeps them from running.
    pub(super) flaws: Vec<ImportFlaw>,
}

/// What keeps a module from running: a browser runs none of it, nor of those that import it.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct ImportFlaw {
    /// The place, where that is in the module that was asked for.
    pub span: Option<Span>,
    /// The module that has it; none where it stands in the page.
    pub module: Option<FilePath>,
    /// What is wrong.
    pub kind: ImportFlawKind,
}

/// What is wrong with an import.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum ImportFlawKind {
    /// The module is not there.
    Missing {
        /// As it is named.
        specifier: String,
        /// A module that is there, of nearly that name.
        near: Option<String>,
    },
    /// The specifier is no address, and no import map of the page has it.
    Bare {
        /// The specifier.
        specifier: String,
        /// An address that would do, or a key of the import map of nearly that spelling.
        near: Option<String>,
    },
    /// The module exports no such name.
    NotExported {
        /// The name.
        name: String,
        /// The module, as it is named.
        specifier: String,
        /// A name that it exports, of nearly that spelling.
        near: Option<String>,
    },
}

/// The most modules that are followed from one.
const MOST: usize = 500;

impl PageModules {
    pub(super) fn of(page: &ParsedPage<'_>) -> Self {
        let base = base_url(&page.document, page.page).unwrap_or_else(site_host);
        let text = import_map(&page.document).map(|element| page.document.text_of(element.id));
        let keys = text.as_deref().map(keys_of).unwrap_or_default();
        let map = text.and_then(|text| import_map::parse_from_json(base.clone(), &text).ok());
        let map = map.map_or_else(|| ImportMap::new(base.clone()), |parsed| parsed.import_map);
        PageModules { map, keys, base }
    }

    /// What a module imports, and what that imports, each once. `file` is the module's own; none
    /// where it stands in the page.
    pub(super) fn imported_by(
        &self,
        script: &Arc<ScriptFile>,
        file: Option<&FilePath>,
        shelf: &Shelf<'_>,
    ) -> ImportedModules {
        let mut imported = ImportedModules { modules: Vec::new(), is_whole: true, flaws: Vec::new() };
        let mut seen: BTreeSet<FilePath> = BTreeSet::new();
        let from = file.and_then(file_url).unwrap_or_else(|| self.base.clone());
        let mut waiting: Vec<(Url, Arc<ScriptFile>, bool)> = vec![(from, Arc::clone(script), true)];
        while let Some((from, script, is_root)) = waiting.pop() {
            for import in &script.facts(ScriptKind::Module).imports {
                let mut flaw = |span: Span, kind| {
                    let module = file_of(&from).filter(|_| !(is_root && file.is_none()));
                    imported.flaws.push(ImportFlaw { span: is_root.then_some(span), module, kind });
                };
                let resolved = self.map.resolve(&import.specifier, &from);
                if resolved.is_err() {
                    let near = self.meant_by(&import.specifier, &from, shelf);
                    flaw(import.span, ImportFlawKind::Bare { specifier: import.specifier.clone(), near });
                }
                let url = resolved.ok().filter(is_on_site);
                let Some((url, file)) = url.and_then(|url| Some((url.clone(), file_of(&url)?))) else {
                    imported.is_whole = false;
                    continue;
                };
                match self.exports_of(&url, &file, shelf) {
                    None if !shelf.site().others.is_empty() && !shelf.site().has_other(&file) => {
                        let near = near_module(&import.specifier, &file, shelf);
                        flaw(
                            import.span,
                            ImportFlawKind::Missing { specifier: import.specifier.clone(), near },
                        );
                    }
                    Some(exported) => {
                        for (name, span) in import.names.iter().filter(|(name, _)| !exported.contains(name)) {
                            let near = nearest(name, exported.iter().map(String::as_str)).map(str::to_owned);
                            let specifier = import.specifier.clone();
                            flaw(*span, ImportFlawKind::NotExported { name: name.clone(), specifier, near });
                        }
                    }
                    None => {}
                }
                if seen.len() >= MOST || !seen.insert(file.clone()) {
                    imported.is_whole &= seen.len() < MOST;
                    continue;
                }
                match shelf.module(&file) {
                    Some(module) => {
                        imported.modules.push(Arc::clone(&module));
                        waiting.push((url, module, false));
                    }
                    None => imported.is_whole = false,
                }
            }
        }
        imported
    }

    /// All names that a module exports; none where that cannot be told.
    fn exports_of(&self, url: &Url, file: &FilePath, shelf: &Shelf<'_>) -> Option<Vec<String>> {
        let mut names = Vec::new();
        let mut seen = BTreeSet::from([file.clone()]);
        let mut waiting = vec![(url.clone(), file.clone(), true)];
        while let Some((url, file, is_first)) = waiting.pop() {
            let module = shelf.module(&file)?;
            let facts = module.facts(ScriptKind::Module);
            if !facts.flaws.is_empty() || seen.len() > MOST {
                return None;
            }
            // What is exported by default is not among all names (ECMA-262, 16.2.1.7.2.1).
            names.extend(facts.exports.names.iter().filter(|name| is_first || *name != "default").cloned());
            for specifier in &facts.exports.all_of {
                let inner = self.map.resolve(specifier, &url).ok().filter(is_on_site)?;
                let path = file_of(&inner)?;
                if seen.insert(path.clone()) {
                    waiting.push((inner, path, false));
                }
            }
        }
        Some(names)
    }

    /// What is meant by a specifier that is neither an address nor in the import map.
    fn meant_by(&self, specifier: &str, from: &Url, shelf: &Shelf<'_>) -> Option<String> {
        let dotted = format!("./{specifier}");
        let file = from.join(&dotted).ok().and_then(|url| file_of(&url));
        match file.filter(|file| shelf.site().has_other(file)) {
            Some(_) => Some(dotted),
            None => nearest(specifier, self.keys.iter().map(String::as_str)).map(str::to_owned),
        }
    }
}

/// The names in the text of an import map.
fn keys_of(text: &str) -> Vec<String> {
    let map: Option<serde_json::Value> = serde_json::from_str(text).ok();
    let imports = map.as_ref().and_then(|map| map["imports"].as_object());
    imports.into_iter().flat_map(|imports| imports.keys().cloned()).collect()
}

/// A module that is there, of nearly the name of one that is not, as it would be named.
fn near_module(specifier: &str, file: &FilePath, shelf: &Shelf<'_>) -> Option<String> {
    let folder = file.folder();
    let beside =
        files_in(&shelf.site().others, &folder).filter(|other| matches!(other.extension(), "js" | "mjs"));
    // One without its extension is named as it is.
    let whole = beside
        .clone()
        .find(|other| other.name().rsplit_once('.').is_some_and(|(stem, _)| stem == file.name()));
    let near = whole.map(FilePath::name).or_else(|| nearest(file.name(), beside.map(FilePath::name)))?;
    Some(format!("{}{near}", specifier.strip_suffix(file.name())?))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::site::{Page, Site};
    use crate::source::MemoryFiles;

    #[test]
    fn specifiers_mean_what_the_import_map_says() {
        let files = MemoryFiles::from([
            ("index.html", ""),
            ("js/tide.js", "import './wave.js'; export const tide = 1"),
            ("js/wave.js", "export const wave = 1"),
            ("js/old/tide.js", "export const old = 1"),
            ("lib/a/x.js", "export const x = 1"),
        ]);
        let site = Site::list(&files, &FilePath::root()).unwrap();
        let shelf = Shelf::new(&site, &files);
        let map = "<script type=importmap>{\"imports\": {\"tide\": \"/js/tide.js\", \"lib/\": \"./lib/\"},\
            \"scopes\": {\"/js/old/\": {\"tide\": \"/js/old/tide.js\"}}}</script>";
        let table = [
            (map, "import 'tide'", None, 2, true),
            (map, "import 'lib/a/x.js'", None, 1, true),
            (map, "import 'tide'", Some("js/old/start.js"), 1, true),
            (map, "import 'bare'", None, 0, false),
            ("", "import './js/wave.js'", None, 1, true),
            ("", "import './wave.js'", Some("js/start.js"), 1, true),
            ("<base href=/js/>", "import './wave.js'", None, 1, true),
            ("", "import 'https://cdn.example/x.js'", None, 0, false),
            ("<script type=importmap>{</script>", "import 'tide'", None, 0, false),
        ];
        for (html, script, file, count, is_whole) in table {
            let page = Page::new(FilePath::parse("index.html").unwrap());
            let page = ParsedPage::new(&page, html.as_bytes());
            let script = Arc::new(ScriptFile::new(script.to_owned()));
            let file = file.map(|file| FilePath::parse(file).unwrap());
            let found = PageModules::of(&page).imported_by(&script, file.as_ref(), &shelf);
            assert_eq!((found.modules.len(), found.is_whole), (count, is_whole), "{html} {script:?}");
        }
    }
}
