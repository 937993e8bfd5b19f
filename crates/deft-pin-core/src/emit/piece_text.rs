//! The text of one part of the plan in one box: what a person pastes.

use super::output_files::{EmittedCode, OutputFiles};
use super::pasted_assets::PastedAssets;
use super::tags::{Link, escaped, linked};
use crate::board::{BoxPlace, BoxTakes, Host, HostBox, ScriptLoad, literal};
use crate::code::{CodeKind, Owner};
use crate::plan::{CodeKey, CodeSource, Plan};
use crate::script;
use crate::start::{PageAddresses, PageTest, gate};
use crate::style;

/// Writes parts of the plan as they stand in boxes.
pub(super) struct PieceWriter<'w> {
    pub(super) plan: &'w Plan<'w>,
    pub(super) files: &'w OutputFiles,
    pub(super) assets: PastedAssets<'w>,
    pub(super) addresses: PageAddresses,
    pub(super) length: PieceLength,
}

/// How much text the code of a piece is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub enum PieceLength {
    /// As it was written.
    #[default]
    Written,
    /// Without comments, and without the blanks that only people need.
    Short,
}

/// A sheet or a script on its way into a box.
pub(super) struct Pasted<'p> {
    pub(super) code: CodeKey,
    /// The name that it is marked with.
    pub(super) name: &'p str,
    /// What keeps it to its pages at run time.
    pub(super) test: Option<&'p PageTest>,
    /// What keeps its rules to its pages: a selector.
    pub(super) rule_guard: Option<&'p str>,
    /// Whether a script of another host comes before it that is still on its way then.
    pub(super) waits_for: Option<&'p str>,
}

impl PieceWriter<'_> {
    fn host(&self) -> &Host {
        &self.plan.board.host
    }

    /// Whether code in a box may run before all of the page is parsed.
    fn may_be_early(&self, of: HostBox) -> bool {
        self.host().inserts || of.place < BoxPlace::Foot
    }

    /// What stands behind an element: in the head blanks are nothing to anybody, in the body they are text.
    fn line_end(of: HostBox) -> &'static str {
        if of.place < BoxPlace::BodyStart { "\n" } else { "" }
    }

    /// A sheet or a script as it stands in a box; none where it cannot be written there.
    pub(super) fn text(&self, of: HostBox, pasted: &Pasted<'_>) -> Option<String> {
        match (of.takes, pasted.code.kind) {
            (BoxTakes::Html, CodeKind::Style) => self.style_element(of, pasted),
            // Hosts put such a text into an element of the page, or into a file.
            (BoxTakes::Css, CodeKind::Style) => style::inline_safe(&self.bare_style(pasted)?),
            (BoxTakes::Html, CodeKind::Script) => self.script_element(of, pasted),
            (BoxTakes::Js, CodeKind::Script) => safe(&self.bare_script(of, pasted)?),
            (BoxTakes::Css, CodeKind::Script) | (BoxTakes::Js, CodeKind::Style) => None,
        }
    }

    /// The element that links a file of another host, or one that is uploaded; none for what stands in the piece.
    fn link(&self, pasted: &Pasted<'_>) -> Option<String> {
        let kind = pasted.code.kind;
        match (self.plan.code(pasted.code)?, pasted.code.owner) {
            (CodeSource::Remote(url), Owner::Library(library)) => {
                let library = &self.plan.board.libraries[library];
                let integrity = library.integrity.get(url).map(String::as_str);
                let link = Link::Remote { url, integrity, load: library.load };
                Some(linked(kind, pasted.name, &link))
            }
            // What somebody else wrote stays the same for long: it is uploaded once.
            (CodeSource::File(..), Owner::Library(_)) if self.host().files.is_some() => {
                let code = self.files.code(pasted.code)?;
                let address = self.assets.upload(&code.name);
                let is_elsewhere = !address.starts_with('/');
                let integrity = code.integrity.as_deref().filter(|_| is_elsewhere);
                Some(linked(
                    kind,
                    pasted.name,
                    &Link::Remote { url: &address, integrity, load: ScriptLoad::Blocking },
                ))
            }
            _ => None,
        }
    }

    /// The text of a sheet, confined to its pages by its rules where that is asked.
    fn sheet(&self, pasted: &Pasted<'_>) -> Option<String> {
        let code = self.files.code(pasted.code)?;
        let text = self.assets.text_of(code);
        let text = match self.length {
            PieceLength::Written => text,
            PieceLength::Short => style::short(&text),
        };
        match pasted.rule_guard {
            Some(guard) => style::kept_to(&text, guard, pasted.name),
            None => Some(text),
        }
    }

    fn style_element(&self, of: HostBox, pasted: &Pasted<'_>) -> Option<String> {
        let guarded = pasted.test.is_some() && pasted.rule_guard.is_none();
        // Where links do not survive, the sheet of another host is imported.
        if let Some(link) = self.link(pasted).filter(|_| !self.host().strips.has_tag("link")) {
            return match pasted.test {
                // Its rules are not at hand, and without a script nothing else keeps it to its pages.
                Some(_) if !self.host().holds(of, CodeKind::Script) => None,
                Some(test) => Some(self.written_later(&link, test, of, pasted)),
                None => Some(format!("{link}{}", Self::line_end(of))),
            };
        }
        let name = pasted.name;
        let sheet = match self.plan.code(pasted.code)? {
            CodeSource::Remote(url) => imported(url),
            CodeSource::File(..) => self.sheet(pasted)?,
        };
        let media = if guarded { " media=\"not all\"" } else { "" };
        let element = if self.host().strips.has_tag("style") {
            use base64::Engine as _;
            let text = base64::engine::general_purpose::STANDARD.encode(sheet);
            format!(
                "<link rel=\"stylesheet\" href=\"data:text/css;charset=utf-8;base64,{text}\" data-deft-pin=\"{name}\"{media}>"
            )
        } else {
            if sheet.contains('\0') {
                return None;
            }
            let text = style::inline_safe(&sheet)?;
            let end = if text.ends_with('\n') || text.is_empty() { "" } else { "\n" };
            format!("<style data-deft-pin=\"{name}\"{media}>\n{text}{end}</style>")
        };
        let Some(test) = pasted.test.filter(|_| guarded && !self.is_gated(of, pasted)) else {
            return Some(format!("{element}{}", Self::line_end(of)));
        };
        let on = "own.removeAttribute(\"media\");";
        let act = test.around(&self.addresses, on, self.may_be_early(of));
        Some(format!(
            "{element}<script data-deft-pin=\"{name}\">(function (own) {{ if (!own) {{ return; }} {act} }})(document.currentScript.previousElementSibling);</script>{}",
            Self::line_end(of)
        ))
    }

    /// Whether a sheet stands in its box for no medium, until one script for several lets it count.
    pub(super) fn is_gated(&self, of: HostBox, pasted: &Pasted<'_>) -> bool {
        let is_inline = matches!(
            (self.plan.code(pasted.code), pasted.code.owner),
            (Some(CodeSource::File(..)), Owner::Pin(_))
        ) || (self.host().files.is_none()
            && matches!(self.plan.code(pasted.code), Some(CodeSource::File(..))));
        pasted.code.kind == CodeKind::Style
            && of.takes == BoxTakes::Html
            && is_inline
            && pasted.rule_guard.is_none()
            && pasted.test.is_some_and(|test| !test.asks_the_document())
    }

    /// The script that lets sheets count that stand right before it.
    pub(super) fn gate(&self, of: HostBox, tests: &[PageTest]) -> String {
        format!("<script data-deft-pin>{}</script>{}", gate(tests, &self.addresses), Self::line_end(of))
    }

    fn bare_style(&self, pasted: &Pasted<'_>) -> Option<String> {
        let text = match self.plan.code(pasted.code)? {
            CodeSource::Remote(url) => imported(url),
            CodeSource::File(..) => self.sheet(pasted)?,
        };
        let text = if self.host().css.nested { text } else { style::flat(&text)? };
        if text.contains('\0') {
            return None;
        }
        let end = if text.ends_with('\n') { "" } else { "\n" };
        Some(format!("/* {} */\n{text}{end}", pasted.name))
    }

    fn script(&self, code: &EmittedCode) -> String {
        let text = self.assets.text_of(code);
        match self.length {
            PieceLength::Written => text,
            PieceLength::Short => script::short(&text),
        }
    }

    /// The text of a pin's script, kept to its pages.
    fn framed(&self, code: &EmittedCode, of: HostBox, pasted: &Pasted<'_>) -> String {
        let text = self.script(code);
        let text = match pasted.test {
            Some(test) => {
                let may_be_early = self.may_be_early(of);
                format!("{}\n", test.around(&self.addresses, &text, may_be_early))
            }
            None => text,
        };
        match pasted.waits_for {
            Some(library) => after_library(library, &text),
            None => text,
        }
    }

    fn script_element(&self, of: HostBox, pasted: &Pasted<'_>) -> Option<String> {
        let name = pasted.name;
        if let Some(link) = self.link(pasted) {
            return match pasted.test {
                _ if self.host().inserts => self.appended(pasted, of),
                Some(test) => Some(self.written_later(&link, test, of, pasted)),
                None => Some(format!("{link}{}", Self::line_end(of))),
            };
        }
        let code = self.files.code(pasted.code)?;
        if matches!(pasted.code.owner, Owner::Pin(_)) {
            let text = self.framed(code, of, pasted);
            let end = Self::line_end(of);
            return Some(format!("<script data-deft-pin=\"{name}\">{}</script>{end}", safe(&text)?));
        }
        let text = self.script(code);
        let end = if text.ends_with('\n') { "" } else { "\n" };
        let text = safe(&text)?;
        if pasted.test.is_none() && pasted.waits_for.is_none() {
            return Some(format!(
                "<script data-deft-pin=\"{name}\">{text}{end}</script>{}",
                Self::line_end(of)
            ));
        }
        // Where a type does not survive, text would be a script: it is one that carries the other.
        if self.host().strips.has_attribute("type") {
            let text = self.carrying(of, pasted, &self.script(code));
            return Some(format!(
                "<script data-deft-pin=\"{name}\">{}</script>{}",
                safe(&text)?,
                Self::line_end(of)
            ));
        }
        // Its names are the page's: they would not be, in a function or a block. So it stands there as text, and
        // becomes a script where it is wanted.
        let run = format!(
            "var made = document.createElement(\"script\"); made.setAttribute(\"data-deft-pin\", {}); made.text = own.text; own.replaceWith(made);",
            literal(name)
        );
        let act = match pasted.test {
            Some(test) => test.around(&self.addresses, &run, self.may_be_early(of)),
            None => run,
        };
        let act = match pasted.waits_for {
            Some(library) => after_library(library, &act),
            None => act,
        };
        Some(format!(
            "<script type=\"text/plain\" data-deft-pin=\"{name}\">{text}{end}</script><script data-deft-pin=\"{name}\">(function (own) {{ if (!own) {{ return; }} {act} }})(document.currentScript.previousElementSibling);</script>{}",
            Self::line_end(of)
        ))
    }

    fn bare_script(&self, of: HostBox, pasted: &Pasted<'_>) -> Option<String> {
        let code = match (self.plan.code(pasted.code)?, pasted.code.owner) {
            (CodeSource::File(..), Owner::Pin(_)) => {
                return Some(self.framed(self.files.code(pasted.code)?, of, pasted));
            }
            (CodeSource::File(..), Owner::Library(_)) if self.host().files.is_none() => {
                self.files.code(pasted.code)?
            }
            _ => return self.append_code(pasted, of),
        };
        let text = self.script(code);
        if pasted.test.is_none() && pasted.waits_for.is_none() {
            return Some(if text.ends_with('\n') { text } else { format!("{text}\n") });
        }
        Some(self.carrying(of, pasted, &text))
    }

    /// A script that makes another one of a text, where and when that is wanted.
    fn carrying(&self, of: HostBox, pasted: &Pasted<'_>, text: &str) -> String {
        let run = format!(
            "(function (made) {{ made.text = {}; document.head.append(made); made.remove(); }})(document.createElement(\"script\"));",
            literal(text)
        );
        let act = match pasted.test {
            Some(test) => test.around(&self.addresses, &run, self.may_be_early(of)),
            None => run,
        };
        match pasted.waits_for {
            Some(library) => after_library(library, &act),
            None => format!("{act}\n"),
        }
    }

    /// An element that the parser is given where a test holds: it holds the parser up as it would in the page.
    fn written_later(&self, element: &str, test: &PageTest, of: HostBox, pasted: &Pasted<'_>) -> String {
        let act = format!("document.write({});", literal(element));
        let may_be_early = self.may_be_early(of);
        format!(
            "<script data-deft-pin=\"{}\">{}</script>{}",
            pasted.name,
            test.around(&self.addresses, &act, may_be_early),
            Self::line_end(of)
        )
    }

    /// A script of another host that is put in by a script.
    fn appended(&self, pasted: &Pasted<'_>, of: HostBox) -> Option<String> {
        let code = self.append_code(pasted, of)?;
        Some(format!(
            "<script data-deft-pin=\"{}\">{}</script>{}",
            pasted.name,
            safe(&code)?,
            Self::line_end(of)
        ))
    }

    /// The code that puts it in. Such scripts run in the order in which they are put in.
    fn append_code(&self, pasted: &Pasted<'_>, of: HostBox) -> Option<String> {
        let (address, integrity) = match (self.plan.code(pasted.code)?, pasted.code.owner) {
            (CodeSource::Remote(url), Owner::Library(library)) => {
                (url.to_owned(), self.plan.board.libraries[library].integrity.get(url).cloned())
            }
            _ => (self.assets.upload(&self.files.code(pasted.code)?.name), None),
        };
        let integrity = integrity.map_or(String::new(), |integrity| {
            format!("made.integrity = {}; made.crossOrigin = \"anonymous\"; ", literal(&integrity))
        });
        let is_async = self.plan.load_of(pasted.code) == ScriptLoad::Async;
        let act = format!(
            "var made = document.createElement(\"script\"); made.async = {is_async}; {integrity}made.setAttribute(\"data-deft-pin\", {}); made.src = {}; document.head.append(made);",
            literal(pasted.name),
            literal(&address)
        );
        let act = match pasted.test {
            Some(test) => test.around(&self.addresses, &act, self.may_be_early(of)),
            None => act,
        };
        Some(format!("(function () {{ {act} }})();\n"))
    }
}

/// A sheet that is nothing but the one of another host.
fn imported(url: &str) -> String {
    let mut address = String::new();
    // Writing to a string does not fail.
    let _ = cssparser::serialize_string(url, &mut address);
    format!("@import {address};\n")
}

/// A script as it can stand in a page.
fn safe(text: &str) -> Option<String> {
    if text.contains('\0') { None } else { script::inline_safe(text) }
}

/// Code that runs once a script of another host, put in right before, has.
fn after_library(name: &str, act: &str) -> String {
    format!(
        "(function (run) {{ var all = document.querySelectorAll({}), last = all[all.length - 1]; if (last) {{ last.addEventListener(\"load\", run); last.addEventListener(\"error\", run); }} else {{ run(); }} }})(function () {{ {act} }});\n",
        literal(&format!("script[src][data-deft-pin=\"{}\"]", escaped(name)))
    )
}
