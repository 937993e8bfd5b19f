//! The pages of a site and the paths that they go by.

use std::collections::HashSet;
use std::fmt;

use serde::{Serialize, Serializer};

use crate::code::{PageId, Table, encode_path, site_host};
use crate::source::{FileError, FilePath, Files};

/// The path of a page in its site's URLs: `/`, `/timetable/`, `/about.html`. Shown as people
/// write it; percent-encoded where a URL is needed.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct PagePath(String);

impl PagePath {
    /// The path of the page that a file below the site's root is.
    fn of(file: &FilePath) -> Self {
        let path = file.as_str();
        match file.name() {
            "index.html" | "index.htm" => PagePath(format!("/{}", &path[..path.len() - file.name().len()])),
            _ => PagePath(format!("/{path}")),
        }
    }

    /// The path as people write it.
    pub fn as_str(&self) -> &str {
        &self.0
    }

    /// The path in a URL, on a host that stands for the site's own.
    pub fn url(&self) -> url::Url {
        let mut url = site_host();
        url.set_path(&self.encoded());
        url
    }

    /// The path as it stands in a URL.
    pub fn encoded(&self) -> String {
        encode_path(&self.0)
    }
}

impl fmt::Display for PagePath {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}

impl Serialize for PagePath {
    fn serialize<S: Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.serialize_str(&self.0)
    }
}

/// A page: its path, and the file below the site's root that it is.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Page {
    /// The path in the site's URLs.
    pub path: PagePath,
    /// The file, as seen from the site's root.
    pub file: FilePath,
}

impl Page {
    /// The page that a file below the site's root is.
    pub fn new(file: FilePath) -> Self {
        Page { path: PagePath::of(&file), file }
    }
}

/// The pages and other files of a site.
#[derive(Clone, Debug)]
pub struct Site {
    /// The folder that holds the site, as seen from the board.
    pub root: FilePath,
    /// The pages, by path.
    pub pages: Table<PageId, Page>,
    /// Every other file, as seen from the root, by name.
    pub others: Vec<FilePath>,
}

impl Site {
    /// Lists a site. `.html` and `.htm` files are pages; where a folder has both an `index.html`
    /// and an `index.htm`, the first is the folder's page and the second goes by its name.
    ///
    /// # Errors
    /// The folder cannot be listed.
    pub fn list(files: &dyn Files, root: &FilePath) -> Result<Self, FileError> {
        Ok(Site::new(root, files.list(root)?))
    }

    /// A site of these files, as seen from the board; those that are not below the root are no
    /// part of it.
    pub fn new(root: &FilePath, files: Vec<FilePath>) -> Self {
        let mut pages = Vec::new();
        let mut others = Vec::new();
        for path in files {
            let Some(file) = path.below(root) else { continue };
            let extension = file.extension().to_ascii_lowercase();
            if extension == "html" || extension == "htm" {
                pages.push(Page::new(file));
            } else {
                others.push(file);
            }
        }
        others.sort();
        pages.sort_by(|a, b| (&a.path, b.file.extension()).cmp(&(&b.path, a.file.extension())));
        let mut taken = HashSet::new();
        for page in &mut pages {
            if !taken.insert(page.path.clone()) {
                page.path = PagePath(format!("/{}", page.file));
            }
        }
        Site { root: root.clone(), pages: Table::new(pages), others }
    }

    /// Whether it has a file that is no page.
    pub fn has_other(&self, file: &FilePath) -> bool {
        self.others.binary_search(file).is_ok()
    }

    /// A site of one page, whatever its file is called.
    pub fn of_page(root: &FilePath, page: Page) -> Self {
        Site { root: root.clone(), pages: Table::new(vec![page]), others: Vec::new() }
    }

    /// A file of the site, as seen from the board.
    pub fn path_of(&self, file: &FilePath) -> FilePath {
        // A file below the root joined to the root never leaves it.
        self.root.join(file.as_str()).unwrap_or_else(|_| file.clone())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::source::MemoryFiles;

    #[test]
    fn pages_go_by_their_url_paths() {
        let files = MemoryFiles::from([
            ("site/index.html", ""),
            ("site/index.htm", ""),
            ("site/about.html", ""),
            ("site/piers/Port Ellery/index.HTML", ""),
            ("site/fares/index.html", ""),
            ("site/css/site.css", ""),
            ("other/x.html", ""),
        ]);
        let site = Site::list(&files, &FilePath::parse("site").unwrap()).unwrap();
        let paths: Vec<_> = site.pages.iter().map(|page| page.path.as_str()).collect();
        assert_eq!(paths, ["/", "/index.htm", "/about.html", "/fares/", "/piers/Port Ellery/index.HTML"]);
        assert_eq!(site.pages.iter().next().unwrap().file.as_str(), "index.html");
        assert_eq!(site.others.iter().map(FilePath::as_str).collect::<Vec<_>>(), ["css/site.css"]);
        assert_eq!(site.pages.iter().last().unwrap().path.encoded(), "/piers/Port%20Ellery/index.HTML");
    }
}
