//! Scripts of a pin on a page: what stops there, and what does not.

use crate::session::Session;

/// Two libraries of the board define the same, so that which one is meant cannot be told.
const LIBRARY: &str = "(function (root) { root.Chart = { draw() {} } })(this)";

/// A pin's script, with the scripts that the page has by itself.
#[derive(Debug)]
pub struct Case {
    /// Keys of the pin.
    pub keys: &'static str,
    /// Its script.
    pub script: &'static str,
    /// What the page's head has.
    pub page: &'static str,
    /// What is told of it.
    pub codes: &'static [&'static str],
}

impl Case {
    const fn new(
        keys: &'static str,
        script: &'static str,
        page: &'static str,
        codes: &'static [&'static str],
    ) -> Self {
        Case { keys, script, page, codes }
    }

    /// A board and a site for it. The page keeps the errors that come up in `errors`.
    pub fn session(&self) -> Session {
        let board = format!(
            "[site]\nroot = 'site'\n[library.chart]\nscript = 'chart.js'\n[library.more]\nscript = 'more.js'\n\
             [pin.p]\nscript = 'p.js'\npages = ['/']\n{}\n[pin.q]\nneeds = ['more']\npages = ['/other']\nscript = 'q.js'\n",
            self.keys
        );
        let page = format!(
            "<!doctype html><html><head><script>errors = []; addEventListener('error', e => e.message && errors.push(e.message))</script>{}</head><body><nav id=menu></nav></body></html>",
            self.page
        );
        Session::with(&[
            ("deft-pin.toml", &board),
            ("p.js", self.script),
            ("q.js", ""),
            ("chart.js", LIBRARY),
            ("more.js", LIBRARY),
            ("site/late.js", "var Chart = { draw() {} }"),
            ("site/other.html", ""),
            ("site/index.html", &page),
        ])
    }
}

#[rustfmt::skip]
pub const SCRIPTS: &[Case] = &[
    Case::new("", "Chart.draw()", "", &["missing-library"]),
    Case::new("", "typeof Chart == 'undefined' || Chart.draw()", "", &[]),
    Case::new("", "window.Chart && Chart.draw()", "", &[]),
    Case::new("", "if (window.Chart) { Chart.draw() }", "", &[]),
    Case::new("", "(function () { if (!window.Chart) return; Chart.draw() })()", "", &[]),
    Case::new("", "try { Chart.draw() } catch (error) {}", "", &[]),
    Case::new("", "Chart.draw()", "<script>var Chart = { draw() {} }</script>", &[]),
    Case::new("", "Chart.draw()", "<script>window.Chart = { draw() {} }</script>", &[]),
    Case::new("", "Chart.draw()", "<script>(function (w) { w.Chart = { draw() {} } })(this)</script>", &[]),
    Case::new("", "Chart.draw()", "<script>class Chart { static draw() {} }</script>", &[]),
    Case::new("", "Chart.draw()", "<script>let Chart = { draw() {} }</script>", &[]),
    Case::new("", "Chart.draw()", "<script type=module>var Chart = { draw() {} }</script>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script type=text/plain>var Chart = { draw() {} }</script>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script nomodule>var Chart = { draw() {} }</script>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script src='https://cdn.example/c.js'></script>", &[]),
    Case::new("", "Chart.draw()", "<script src=late.js defer></script>", &["late-library"]),
    Case::new("", "Chart.draw()", "<script src=late.js async></script>", &["race"]),
    Case::new("", "Chart.draw()", "<script src=late.js></script>", &[]),
    Case::new("slot = 'head-start'", "Chart.draw()", "<script src=late.js></script>", &["late-library"]),
    Case::new("", "addEventListener('load', () => Chart.draw())", "<script src=late.js async></script>", &[]),
    Case::new("", "addEventListener('load', () => Chart.draw())", "", &["missing-library"]),
    Case::new("needs = ['chart']", "Chart.draw()", "", &[]),
    Case::new("", "menu.hidden = true", "", &[]),
    Case::new("share = ['draw']", "function draw() { Chart.draw() }", "", &["missing-library"]),
    Case::new("", "function draw() { Chart.draw() }", "", &[]),
    Case::new("", "function Chart() {} Chart.draw = Chart; Chart.draw()", "", &[]),
    Case::new("", "var s = document.createElement('script'); document.body.append(s); Chart.draw()", "", &[]),
    Case::new("", "draw(); function draw() { Chart.draw() }", "", &["missing-library"]),
    Case::new("", "(function (Chart) { Chart.draw() })({ draw() {} })", "", &[]),
    Case::new("", "document.getElementById('menu').hidden = true", "", &[]),
    Case::new("", "document.getElementById('mneu').hidden = true", "", &["lost-lookup"]),
    Case::new("", "document.getElementById('mneu')?.remove()", "", &[]),
    Case::new("", "var m = document.getElementById('mneu'); if (m) m.remove()", "", &[]),
    Case::new("", "var m = document.getElementById('mneu'); m.remove()", "", &["lost-lookup"]),
    Case::new("", "document.querySelectorAll('.none').forEach(e => e.remove())", "", &[]),
    Case::new("slot = 'head'", "document.getElementById('menu').hidden = true", "", &["early-lookup"]),
    Case::new(
            "slot = 'head'",
            "addEventListener('DOMContentLoaded', () => { document.getElementById('menu').hidden = true })",
            "",
            &[],
        ),
    Case::new(
            "slot = 'head'",
            "document.documentElement.classList.add('x'); document.querySelector('html').id",
            "",
            &[],
        ),
    Case::new(
            "",
            "document.querySelector('.made').remove()",
            "<script>document.write('<p class=made>')</script>",
            &[],
        ),
    Case::new("adds = ['made']", "document.querySelector('.made').remove()", "", &[]),
    Case::new("", "var a = document; a.querySelector('#me' + 'nu').remove()", "", &[]),
];
