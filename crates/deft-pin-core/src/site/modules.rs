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
use crate::script::{ScriptFile, ScriptKind};
use crate::source::FilePath;

/// What specifiers mean on a page.
pub(super) struct PageModules {
    /// The page's first import map, or an empty one.
    map: ImportMap,
    /// What the page's own addresses start from.
    base: Url,
}

/// The modules that run before another one.
#[derive(Default)]
pub(super) struct ImportedModules {
    pub(super) modules: Vec<Arc<ScriptFile>>,
    /// Whether all of them could be read.
    pub(super) is_whole: bool,
}

/// The most modules that are followed from one.
const MOST: usize = 500;

impl PageModules {
    pub(super) fn of(page: &ParsedPage<'_>) -> Self {
        let base = base_url(&page.document, page.page).unwrap_or_else(site_host);
        let element = page.document.elements().find(|element| {
            let kind = element.attr(&local_name!("type")).unwrap_or_default();
            element.data().name.local == local_name!("script")
                && kind.trim().eq_ignore_ascii_case("importmap")
        });
        let text = element.map(|element| page.document.text_of(element.id));
        let map = text.and_then(|text| import_map::parse_from_json(base.clone(), &text).ok());
        let map = map.map_or_else(|| ImportMap::new(base.clone()), |parsed| parsed.import_map);
        PageModules { map, base }
    }

    /// What a module imports, and what that imports, each once. `file` is the module's own; none
    /// where it stands in the page.
    pub(super) fn imported_by(
        &self,
        script: &Arc<ScriptFile>,
        file: Option<&FilePath>,
        shelf: &Shelf<'_>,
    ) -> ImportedModules {
        let mut imported = ImportedModules { modules: Vec::new(), is_whole: true };
        let mut seen: BTreeSet<FilePath> = BTreeSet::new();
        let from = file.and_then(file_url).unwrap_or_else(|| self.base.clone());
        let mut waiting: Vec<(Url, Arc<ScriptFile>)> = vec![(from, Arc::clone(script))];
        while let Some((from, script)) = waiting.pop() {
            for specifier in &script.facts(ScriptKind::Module).imports {
                let url = self.map.resolve(specifier, &from).ok().filter(is_on_site);
                let Some((url, file)) = url.and_then(|url| Some((url.clone(), file_of(&url)?))) else {
                    imported.is_whole = false;
                    continue;
                };
                if seen.len() >= MOST || !seen.insert(file.clone()) {
                    imported.is_whole &= seen.len() < MOST;
                    continue;
                }
                match shelf.module(&file) {
                    Some(module) => {
                        imported.modules.push(Arc::clone(&module));
                        waiting.push((url, module));
                    }
                    None => imported.is_whole = false,
                }
            }
        }
        imported
    }
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
