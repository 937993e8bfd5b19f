//! What stands around a pin's code so that it begins when it is to, and on its pages alone: triggers, how often,
//! between which dates, guards. A few lines of plain JavaScript, that do the same in every browser and never throw.

mod guard;
mod putting;

use std::fmt::Write as _;

pub use guard::{PageAddresses, PageTest, PinTest, gate};
pub use putting::{ContentScript, LateMark, LateMarkup};

use crate::board::{Moment, Once, Pin, Scroll, Start, literal};

/// When and how often a pin begins, and what it puts into the page then.
#[derive(Clone, Debug, PartialEq, Eq, Hash)]
pub struct Beginning {
    /// What it waits for.
    pub start: Start<String>,
    /// How often it begins, and the name under which that is kept.
    pub once: Option<(Once, String)>,
    /// Before that it does not begin.
    pub from: Option<Moment>,
    /// After that it does not begin any more.
    pub until: Option<Moment>,
    /// Whether its script may stand before what it is for has been parsed.
    pub stands_early: bool,
    /// What it puts into the page.
    pub markup: Vec<LateMarkup>,
}

impl Beginning {
    /// When a pin begins; none where nothing has to be waited for.
    pub fn of(pin: &Pin, stands_early: bool, markup: Vec<LateMarkup>) -> Option<Beginning> {
        pin.waits_to_begin().then(|| Beginning {
            start: pin.start.value.clone().map_texts(),
            once: pin.once.as_ref().map(|once| (once.value, format!("deft-pin:{}", *pin.name))),
            from: pin.from.as_ref().map(|from| from.value),
            until: pin.until.as_ref().map(|until| until.value),
            stands_early,
            markup,
        })
    }

    /// A pin's script, which begins when it is to. Its lines keep their numbers.
    pub fn around(&self, framed: &str) -> String {
        let markup = putting::put_in(self.markup.iter().map(|piece| (piece, None)));
        // What stands there has a style before the script changes it, so that changes can be seen.
        let settle = if markup.is_empty() { "" } else { "void document.documentElement.offsetWidth; " };
        format!(
            "(function (run) {{ {guard}{trigger} }})(function () {{ {markup}{settle}{framed}}});\n",
            guard = self.guard(),
            trigger = self.trigger(),
        )
    }

    /// The function that begins, once, where dates and what is kept of earlier visits let it.
    fn guard(&self) -> String {
        let mut text = "var begun = false; function begin() { if (begun) { return; } ".to_owned();
        // Writing to a string does not fail.
        match (&self.from, &self.until) {
            (None, None) => {}
            (from, until) => {
                let mut tests = Vec::new();
                tests.extend(from.map(|from| format!("Date.now() < {}", from.script())));
                tests.extend(until.map(|until| format!("Date.now() >= {}", until.script_end())));
                let _ = write!(text, "if ({}) {{ return; }} ", tests.join(" || "));
            }
        }
        text.push_str("begun = true; ");
        let store = self.once.as_ref().and_then(|(once, key)| match once {
            Once::Page => None,
            Once::Session => Some(("sessionStorage", key)),
            Once::Visitor => Some(("localStorage", key)),
        });
        if let Some((store, key)) = store {
            let key = literal(key);
            // Where storage is denied, even to ask for it throws.
            let _ = write!(
                text,
                "try {{ if (window.{store}.getItem({key})) {{ return; }} window.{store}.setItem({key}, \"1\"); }} catch (error) {{}} "
            );
        }
        text.push_str("run(); } ");
        text
    }

    fn trigger(&self) -> String {
        let ready = "document.readyState === \"loading\" ? window.addEventListener(\"DOMContentLoaded\", wait, true) : wait();";
        let waiting = |what: &str| format!("function wait() {{ {what} }} {ready}");
        match &self.start {
            Start::Now if !self.stands_early => "begin();".to_owned(),
            Start::Now | Start::Ready => waiting("begin();"),
            Start::Loaded => {
                "document.readyState === \"complete\" ? begin() : window.addEventListener(\"load\", begin);".to_owned()
            }
            Start::After(milliseconds) => waiting(&format!("setTimeout(begin, {milliseconds});")),
            Start::Scrolled(scroll) => {
                let far = match scroll {
                    Scroll::Pixels(pixels) => pixels.to_string(),
                    // A browser's positions are fractions of pixels.
                    Scroll::Percent(percent) => format!(
                        "(document.documentElement.scrollHeight - window.innerHeight) * {} - 1",
                        f64::from(*percent) / 10_000.0
                    ),
                };
                format!(
                    "function look() {{ if (window.scrollY >= {far}) {{ window.removeEventListener(\"scroll\", look); begin(); }} }} \
                     window.addEventListener(\"scroll\", look, {{ passive: true }}); \
                     document.readyState === \"complete\" ? look() : window.addEventListener(\"load\", look);"
                )
            }
            Start::Seen(selector) => {
                let selector = literal(selector);
                waiting(&format!(
                    "var seen = new IntersectionObserver(function (entries) {{ if (entries.some(function (entry) {{ return entry.isIntersecting; }})) {{ seen.disconnect(); more.disconnect(); begin(); }} }}); \
                     function look() {{ document.querySelectorAll({selector}).forEach(function (element) {{ seen.observe(element); }}); }} \
                     var more = new MutationObserver(look); more.observe(document, {{ subtree: true, childList: true }}); look();"
                ))
            }
            Start::Click(selector) => {
                let selector = literal(selector);
                format!(
                    "document.addEventListener(\"click\", function (event) {{ if (event.target.closest && event.target.closest({selector})) {{ begin(); }} }}, true);"
                )
            }
            Start::Leaving => {
                "document.documentElement.addEventListener(\"mouseleave\", function (event) { if (event.clientY <= 0) { begin(); } });".to_owned()
            }
            Start::Playing(selector, milliseconds) => {
                let (selector, at) = (literal(selector), f64::from(*milliseconds) / 1000.0);
                format!(
                    "[\"timeupdate\", \"seeking\", \"seeked\"].forEach(function (name) {{ document.addEventListener(name, function (event) {{ var media = event.target; \
                     if (media.matches && media.matches({selector}) && media.currentTime >= {at}) {{ begin(); }} }}, true); }});"
                )
            }
            Start::Appears(selector) => {
                let selector = literal(selector);
                format!(
                    "function look() {{ if (document.querySelector({selector})) {{ more.disconnect(); begin(); }} }} \
                     var more = new MutationObserver(look); more.observe(document, {{ subtree: true, childList: true, attributes: true }}); look();"
                )
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::board::Board;
    use crate::markup::MarkupPlace;

    #[test]
    fn what_begins_at_once_is_left_alone_and_the_rest_parses() {
        let starts = [
            "now", "ready", "loaded", "after 3s", "scrolled 40%", "scrolled 600px", "seen #a > b",
            "click [x='y']", "leaving", "playing video at 10:22", "appears .x",
        ];
        for (start, slot) in starts.iter().flat_map(|start| [(start, "foot"), (start, "head")]) {
            for more in
                ["", "once = 'session'", "once = 'visitor'\nfrom = 2027-01-05\nuntil = 2027-02-05T10:00Z"]
            {
                let text = format!(
                    "[site]\nroot = 's'\n[pin.a]\nscript = 'a.js'\nstart = {start:?}\nslot = '{slot}'\n{more}"
                );
                let board = Board::parse(&text).unwrap();
                let late = LateMarkup {
                    html: "<p>'\"</script>".to_owned(),
                    place: MarkupPlace::Wrap,
                    at: Some("#a".to_owned()),
                    within: Some("main".to_owned()),
                };
                let beginning =
                    Beginning::of(&board.pins[crate::code::PinId::FIRST], slot == "head", vec![late]);
                let Some(beginning) = beginning else {
                    assert_eq!((*start, more), ("now", ""));
                    continue;
                };
                let script = beginning.around("(function (root) {go()\n}).call(window, document);\n");
                assert_eq!(crate::script::syntax_flaws(&script), [], "{script}");
                assert!(!script.contains("</script"), "{script}");
                assert_eq!(script.lines().next().map(|line| line.ends_with("{go()")), Some(true), "{script}");
            }
        }
    }
}
