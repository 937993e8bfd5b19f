//! Guards: the few lines of JavaScript that let code act on its pages alone, where the box that it is pasted into is on
//! more of them. They never throw, and leave nothing on other pages.

use std::collections::BTreeSet;
use std::fmt::Write as _;

use crate::board::{Pin, literal};
use crate::code::{PageId, Table};
use crate::site::Page;

/// The pages that code acts on, as a test that runs on them.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct PageTest {
    /// Any of these will do.
    pub any: Vec<PinTest>,
    /// Paths that it does not act on all the same, as they stand in URLs.
    pub except: Vec<String>,
}

/// The pages that a pin is for.
#[derive(Clone, Debug, Default, PartialEq, Eq, Hash)]
pub struct PinTest {
    /// Regular expressions for paths, any of which will do; none where every path does.
    pub paths: Vec<String>,
    /// Regular expressions for paths that it is not for.
    pub skip: Vec<String>,
    /// What a page has to hold: a selector.
    pub having: Option<String>,
}

impl PinTest {
    /// The pages that a pin is for.
    pub fn of(pin: &Pin) -> Self {
        PinTest {
            paths: pin.pages.iter().map(|pattern| pattern.script_source()).collect(),
            skip: pin.skip.iter().map(|pattern| pattern.script_source()).collect(),
            having: pin.having.as_ref().map(|having| having.text.clone()),
        }
    }

    /// Whether paths have a part in it.
    pub fn asks_for_paths(&self) -> bool {
        !(self.paths.is_empty() && self.skip.is_empty())
    }

    fn script(&self) -> String {
        let mut parts = Vec::new();
        if !self.paths.is_empty() {
            parts.push(format!("{}.test(p)", expression(&self.paths)));
        }
        if !self.skip.is_empty() {
            parts.push(format!("!{}.test(p)", expression(&self.skip)));
        }
        parts.extend(
            self.having.as_ref().map(|having| format!("document.querySelector({})", literal(having))),
        );
        if parts.is_empty() { "true".to_owned() } else { parts.join(" && ") }
    }
}

/// How the addresses under which a site is seen become the paths of its pages.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct PageAddresses {
    /// The folders at the top of the site that hold pages: by them its root is found in the address of a file.
    folders: Vec<String>,
    /// The paths of pages that are no folder's, without their `.html`: hosts serve them so too.
    flat: Vec<String>,
    /// The paths of folders that are pages, without their slash.
    nested: Vec<String>,
}

/// The most folders at the top that are named in a guard.
const MOST_FOLDERS: usize = 40;

impl PageAddresses {
    /// The addresses of some pages.
    pub fn of(pages: &Table<PageId, Page>) -> Self {
        let mut folders = BTreeSet::new();
        let (mut flat, mut nested) = (Vec::new(), Vec::new());
        for page in pages.iter() {
            let path = page.path.encoded();
            folders.extend(path[1..].split_once('/').map(|(folder, _)| folder.to_owned()));
            flat.extend(path.strip_suffix(".html").map(str::to_owned));
            nested.extend(path.strip_suffix('/').filter(|path| !path.is_empty()).map(str::to_owned));
        }
        let folders = if folders.len() > MOST_FOLDERS { Vec::new() } else { folders.into_iter().collect() };
        PageAddresses { folders, flat, nested }
    }

    /// What makes the path of a page of `p`, the path of its address, for some tests.
    fn script(&self, tests: &[PageTest]) -> String {
        let folders: Vec<String> = self.folders.iter().map(|folder| escaped(folder)).collect();
        let mut text = match folders.as_slice() {
            [] => "if (location.protocol === \"file:\") { p = p.replace(/^.*\\//, \"/\"); } ".to_owned(),
            folders => format!(
                "if (location.protocol === \"file:\") {{ p = p.replace(/^.*?(?=\\/(?:{})\\/)|^.*(?=\\/)/, \"\"); }} ",
                folders.join("|")
            ),
        };
        text.push_str("p = p.replace(/\\/index\\.html?$/, \"/\"); ");
        // Most pages are folders; the others count only where it makes a difference.
        let tests: Vec<PathTest> = tests.iter().map(PathTest::of).collect();
        let differs = |path: &&String| {
            let (flat, folder) = (format!("{path}.html"), format!("{path}/"));
            tests.iter().any(|test| test.holds(&flat) != test.holds(&folder))
        };
        let differ: Vec<String> =
            self.flat.iter().filter(|path| differs(path)).map(|path| escaped(path)).collect();
        let bare = "!/\\/$|\\.html?$/.test(p)";
        let _ = match differ.as_slice() {
            [] => write!(text, "if ({bare}) {{ p += \"/\"; }} "),
            // Where nearly all are, none is named.
            differ if differ.len() > MOST_FOLDERS => {
                let folders = self.nested.iter().filter(|path| differs(path));
                let folders: Vec<String> = folders.take(MOST_FOLDERS).map(|path| escaped(path)).collect();
                match folders.is_empty() {
                    true => write!(text, "if ({bare}) {{ p += \".html\"; }} "),
                    false => write!(
                        text,
                        "if ({bare}) {{ p += /^(?:{})$/.test(p) ? \"/\" : \".html\"; }} ",
                        folders.join("|")
                    ),
                }
            }
            differ => write!(
                text,
                "if ({bare}) {{ p += /^(?:{})$/.test(p) ? \".html\" : \"/\"; }} ",
                differ.join("|")
            ),
        };
        text
    }
}

/// A test as far as paths tell, to be asked of many.
struct PathTest {
    /// For each pin its paths and those that it is not for. These are expressions of JavaScript; what is none here
    /// counts as no match.
    any: Vec<(Option<regex::Regex>, Option<regex::Regex>)>,
    every: Vec<bool>,
}

impl PathTest {
    fn of(test: &PageTest) -> Self {
        let compiled = |sources: &[String]| {
            let text = format!("^(?:{})$", sources.join("|"));
            if sources.is_empty() { None } else { regex::Regex::new(&text).ok() }
        };
        PathTest {
            any: test.any.iter().map(|pin| (compiled(&pin.paths), compiled(&pin.skip))).collect(),
            every: test.any.iter().map(|pin| pin.paths.is_empty()).collect(),
        }
    }

    fn holds(&self, path: &str) -> bool {
        let is_match = |own: &Option<regex::Regex>| own.as_ref().is_some_and(|own| own.is_match(path));
        let mut pins = self.any.iter().zip(&self.every);
        pins.any(|((paths, skip), every)| (*every || is_match(paths)) && !is_match(skip))
    }
}

impl PageTest {
    /// What of it is still to be asked where paths have been told apart already: none where these tell all.
    pub fn without_paths(&self) -> Option<PageTest> {
        match self.any.as_slice() {
            [only] => {
                let having = only.having.clone()?;
                let any = vec![PinTest { having: Some(having), ..PinTest::default() }];
                Some(PageTest { any, except: Vec::new() })
            }
            // What one of several pins asks may be for its own pages alone.
            _ => self.asks_the_document().then(|| PageTest { any: self.any.clone(), except: Vec::new() }),
        }
    }

    /// Whether it asks what is in the page.
    pub fn asks_the_document(&self) -> bool {
        self.any.iter().any(|pin| pin.having.is_some())
    }

    /// The test as an expression.
    pub fn script(&self, addresses: &PageAddresses) -> String {
        let test = self.expression();
        let asks_for_paths = self.any.iter().any(PinTest::asks_for_paths) || !self.except.is_empty();
        let path = if asks_for_paths { addresses.script(std::slice::from_ref(self)) } else { String::new() };
        match self.asks_the_document() {
            // A browser of old may not know a selector.
            true => format!(
                "(function (p) {{ {path}try {{ return {test}; }} catch (error) {{ return false; }} }})(location.pathname)"
            ),
            false => format!("(function (p) {{ {path}return {test}; }})(location.pathname)"),
        }
    }

    /// The test as an expression over `p`, the path of the page.
    fn expression(&self) -> String {
        let mut any: Vec<String> = self.any.iter().map(PinTest::script).collect();
        any.dedup();
        let mut test = match any.as_slice() {
            [] => "false".to_owned(),
            [only] => only.clone(),
            any => format!("({})", any.join(" || ")),
        };
        if !self.except.is_empty() {
            let except: Vec<String> = self.except.iter().map(|path| escaped(path)).collect();
            let _ = write!(test, " && !/^(?:{})$/.test(p)", except.join("|"));
        }
        test
    }

    /// Code that does something where the test holds: at once, or as soon as the page holds what it has to.
    pub fn around(&self, addresses: &PageAddresses, act: &str, may_be_early: bool) -> String {
        let test = self.script(addresses);
        if !(may_be_early && self.asks_the_document()) {
            return format!("if ({test}) {{ {act} }}");
        }
        format!(
            "(function (act) {{ var done, more = new MutationObserver(look); function look() {{ if (!done && {test}) {{ done = true; more.disconnect(); act(); }} }} \
             look(); if (done || document.readyState !== \"loading\") {{ return; }} more.observe(document, {{ subtree: true, childList: true }}); \
             window.addEventListener(\"DOMContentLoaded\", function () {{ look(); done = true; more.disconnect(); }}, true); }})(function () {{ {act} }});"
        )
    }
}

/// A script that lets the elements right before it count, one for each test and in their order: sheets that are there
/// for no medium. None of the tests may ask what is in the page.
pub fn gate(tests: &[PageTest], addresses: &PageAddresses) -> String {
    let path = addresses.script(tests);
    let tests: Vec<String> = tests.iter().rev().map(PageTest::expression).collect();
    format!(
        "(function (own, p) {{ {path}[{}].forEach(function (on) {{ own = own && own.previousElementSibling; if (own && on) {{ own.removeAttribute(\"media\"); }} }}); }})(document.currentScript, location.pathname);",
        tests.join(", ")
    )
}

/// Regular expressions of which any will do, as one.
fn expression(sources: &[String]) -> String {
    let flag = if sources.iter().any(|own| own.contains("\\p{") || own.contains("\\u{")) { "u" } else { "" };
    format!("/^(?:{})$/{flag}", sources.join("|"))
}

/// A path as it stands in a regular expression of JavaScript.
fn escaped(path: &str) -> String {
    regex::escape(path).replace('/', "\\/").replace("\\-", "-").replace("\\~", "~")
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::board::Board;
    use crate::source::FilePath;

    fn pages(files: &[&str]) -> Table<PageId, Page> {
        files.iter().map(|file| Page::new(FilePath::parse(file).unwrap())).collect()
    }

    #[test]
    fn a_test_is_one_expression_that_parses() {
        let board = Board::parse(
            "[site]\nroot = 's'\n[pin.a]\npages = ['/piers/*', '/:a/b-c/']\nskip = ['/piers/old/']\nhaving = 'main'\nneeds = []\n",
        )
        .unwrap();
        let pin = board.pins.iter().next().unwrap();
        let test = PageTest { any: vec![PinTest::of(pin)], except: vec!["/x/".to_owned()] };
        let addresses = PageAddresses::of(&pages(&["index.html", "piers/index.html", "contact.html"]));
        for act in [test.around(&addresses, "go();", true), test.around(&addresses, "go();", false)] {
            assert_eq!(crate::script::syntax_flaws(&act), [], "{act}");
        }
        let text = test.script(&addresses);
        assert!(text.contains(r"/^(?:\/piers\/.*|(?:\/([^\/]+?))\/b-c\/)$/.test(p)"), "{text}");
        assert!(text.contains(r"!/^(?:\/piers\/old\/)$/.test(p)"), "{text}");
        assert!(text.contains(r#"document.querySelector("main")"#), "{text}");
    }
}
