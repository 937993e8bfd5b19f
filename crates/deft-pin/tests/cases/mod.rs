//! Scripts of a pin on a page: what stops there, and what does not.

pub mod pasted;

use crate::session::Session;

/// Two libraries of the board define the same, so that which one is meant cannot be told.
const LIBRARY: &str = "(function (root) { root.Chart = { draw() {} } })(this)";

/// What the page has by itself.
const BODY: &str = "<nav id=menu class=bar></nav><form name=search><input name=port></form>\
    <template><p class=inside id=held></p></template><x-tide></x-tide><svg><g id=drawn></g></svg>\
    <a id=Chart2 href='#'></a><img name=Chart3 alt=''>";

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
            "<!doctype html><html><head><script>errors = []; addEventListener('error', e => e.message && errors.push(e.message))</script>{}</head><body>{BODY}</body></html>",
            self.page
        );
        Session::with(&[
            ("deft-pin.toml", &board),
            ("p.js", self.script),
            ("q.js", ""),
            ("chart.js", LIBRARY),
            ("more.js", LIBRARY),
            ("site/late.js", "var Chart = { draw() {} }"),
            ("site/module.js", "window.Chart = { draw() {} }"),
            ("site/exports.js", "export var Chart = { draw() {} }"),
            ("site/takes.js", "import './module.js'; export var more = 1"),
            ("site/other.html", ""),
            ("site/index.html", &page),
        ])
    }
}

#[rustfmt::skip]
pub const SCRIPTS: &[Case] = &[
    Case::new("", "Chart.draw()", "", &["missing-library"]),
    Case::new("", "typeof Chart == 'undefined' || Chart.draw()", "", &[]),
    Case::new("", "typeof Chart.draw == 'undefined' || Chart.draw()", "", &["missing-library"]),
    Case::new("", "typeof window.Chart == 'undefined' || Chart.draw()", "", &[]),
    Case::new("", "const has = () => !!window.Chart; if (has()) Chart.draw()", "", &[]),
    Case::new("", "function has() { return typeof Chart !== 'undefined' } has() && Chart.draw()", "", &[]),
    Case::new("", "class Tide { x = Chart.draw() }", "", &[]),
    Case::new("", "class Tide { go() { Chart.draw() } static stop() { Chart.draw() } }", "", &[]),
    Case::new("", "class Tide { x = Chart.draw() } new Tide()", "", &["missing-library"]),
    Case::new("", "const Tide = class { x = Chart.draw() }; new Tide()", "", &["missing-library"]),
    Case::new("", "class Tide { static x = Chart.draw() }", "", &["missing-library"]),
    Case::new("", "class Tide { [Chart.name] = 1 }", "", &["missing-library"]),
    Case::new("", "class Tide extends Chart {}", "", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script src=late.js></script><base href=/none/>", &[]),
    Case::new("", "Chart.draw()", "<script src=late.js async></script>", &["race"]),
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
    // Guards of every kind.
    Case::new("", "Chart?.draw()", "", &["missing-library"]),
    Case::new("", "window.Chart?.draw()", "", &[]),
    Case::new("", "window['Chart'] && window['Chart'].draw()", "", &[]),
    Case::new("", "'Chart' in window && Chart.draw()", "", &[]),
    Case::new("", "if ('Chart' in window) Chart.draw()", "", &[]),
    Case::new("", "if (typeof Chart === 'undefined') { console.log(1) } else { Chart.draw() }", "", &[]),
    Case::new("", "if (typeof Chart === 'undefined') { Chart.draw() }", "", &["missing-library"]),
    Case::new("", "if (!window.Chart) { Chart.draw() }", "", &["missing-library"]),
    Case::new("", "var has = typeof Chart !== 'undefined'; if (has) Chart.draw()", "", &[]),
    Case::new("", "switch (typeof Chart) { case 'object': Chart.draw() }", "", &[]),
    Case::new("", "for (; window.Chart;) { Chart.draw(); break }", "", &[]),
    Case::new("", "while (window.Chart) { Chart.draw(); break }", "", &[]),
    Case::new("", "var C = window.Chart || { draw() {} }; C.draw()", "", &[]),
    Case::new("", "var C = window.Chart; C && C.draw()", "", &[]),
    Case::new("", "var { Chart } = window; if (Chart) Chart.draw()", "", &[]),
    Case::new("", "window.Chart.draw()", "", &["missing-library"]),
    Case::new("", "new window.Chart()", "", &["missing-library"]),
    Case::new("", "self.Chart.draw()", "", &["missing-library"]),
    Case::new("", "globalThis['Chart'].draw()", "", &["missing-library"]),
    Case::new("", "var w = window; w.Chart.draw()", "", &["missing-library"]),
    Case::new("", "Chart = Chart || {}", "", &["missing-library"]),
    Case::new("", "window.Chart = window.Chart || {}", "", &[]),
    Case::new("", "try { null.x } catch (error) { Chart.draw() }", "", &["missing-library"]),
    Case::new("", "try { 1 } finally { Chart.draw() }", "", &["missing-library"]),
    Case::new("", "new Promise(() => { Chart.draw() }).catch(() => {})", "", &[]),
    // Hoisting and shadowing.
    Case::new("", "{ let Chart = { draw() {} }; Chart.draw() }", "", &[]),
    Case::new("", "{ let Chart = 1 } Chart.draw()", "", &["missing-library"]),
    Case::new("", "for (let Chart of [{ draw() {} }]) Chart.draw()", "", &[]),
    Case::new("", "(({ Chart }) => Chart.draw())({ Chart: { draw() {} } })", "", &[]),
    Case::new("", "try { throw { draw() {} } } catch (Chart) { Chart.draw() }", "", &[]),
    Case::new("", "class A { static Chart = { draw() {} }; static { this.Chart.draw() } }", "", &[]),
    Case::new("", "label: for (;;) { break label }", "", &[]),
    Case::new("", "({ Chart: 1 }).Chart; ({ Chart() {} }).Chart()", "", &[]),
    Case::new("", "with ({ Chart: { draw() {} } }) { Chart.draw() }", "", &[]),
    Case::new("", "arguments.length; undefined; NaN; Infinity", "", &[]),
    Case::new("", "eval('var Chart = { draw() {} }'); Chart.draw()", "", &[]),
    // Functions that run at once, and those that do not.
    Case::new("", "[1].map(() => Chart.draw())", "", &["missing-library"]),
    Case::new("", "(async () => { Chart.draw() })().catch(() => {})", "", &[]),
    Case::new("", "var o = { go() { Chart.draw() } }; o.go()", "", &["missing-library"]),
    Case::new("", "var o = { get go() { return Chart } }; o.go", "", &["missing-library"]),
    Case::new("", "new (class { constructor() { Chart.draw() } })()", "", &["missing-library"]),
    Case::new("", "if (false) Chart.draw()", "", &[]),
    Case::new("", "customElements.define('x-tide', class extends HTMLElement { connectedCallback() { Chart.draw() } })", "", &["missing-library"]),
    // Names by other scripts.
    Case::new("", "Chart.draw()", "<script>Object.assign(window, { Chart: { draw() {} } })</script>", &[]),
    Case::new("", "Chart.draw()", "<script>Object.defineProperty(window, 'Chart', { value: { draw() {} } })</script>", &[]),
    Case::new("", "Chart.draw()", "<script>this.Chart = { draw() {} }</script>", &[]),
    Case::new("", "Chart.draw()", "<script>function Chart() {} Chart.draw = Chart</script>", &[]),
    Case::new("", "Chart.draw()", "<script>!function () { Chart = { draw() {} } }()</script>", &[]),
    Case::new("", "Chart.draw()", "<script>setTimeout(() => { window.Chart = { draw() {} } }, 500)</script>", &["race"]),
    Case::new("", "Chart.draw()", "<script>function make() { window.Chart = { draw() {} } }</script><script>make()</script>", &[]),
    Case::new("", "Chart.draw()", "<script>(function () { var Chart = 1 })()</script>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script type=module src=module.js></script>", &["late-library"]),
    Case::new("", "Chart.draw()", "<script type=module src=takes.js></script>", &["late-library"]),
    Case::new("", "Chart.draw()", "<script type=module src=exports.js></script>", &["missing-library"]),
    Case::new("", "addEventListener('load', () => Chart.draw())", "<script type=module src=takes.js></script>", &[]),
    Case::new("", "addEventListener('load', () => Chart.draw())", "<script type=importmap>{\"imports\":{\"t\":\"./takes.js\"}}</script><script type=module>import 't'</script>", &[]),
    Case::new("", "Chart.draw()", "<script type='text/JavaScript'>var Chart = { draw() {} }</script>", &[]),
    Case::new("", "Chart.draw()", "<script type='text/javascript;x'>var Chart = { draw() {} }</script>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script src=''>var Chart = { draw() {} }</script>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<script src=none.js></script>", &[]),
    Case::new("", "Chart.draw()", "<noscript><script>var Chart = { draw() {} }</script></noscript>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<template><script>var Chart = { draw() {} }</script></template>", &["missing-library"]),
    Case::new("", "Chart.draw()", "<svg><script>var Chart = { draw() {} }</script></svg>", &[]),
    Case::new("", "Chart.draw()", "<script>var Chart = { draw() {} } }</script>", &["missing-library"]),
    // Elements that are globals.
    Case::new("", "Chart2.hidden = true; Chart3.hidden = true; search.hidden = true; drawn.id", "", &[]),
    Case::new("", "port.value", "", &["missing-library"]),
    Case::new("", "held.id", "", &["missing-library"]),
    // Lookups.
    Case::new("", "document.querySelector('.inside').remove()", "", &["lost-lookup"]),
    Case::new("", "document.querySelector('template').content.querySelector('.inside').remove()", "", &[]),
    Case::new("", "document.forms.search.hidden = true", "", &[]),
    Case::new("", "document.querySelector('x-tide').hidden = true", "", &[]),
    Case::new("", "document.querySelector('X-TIDE').hidden = true", "", &[]),
    Case::new("", "document.getElementById('MENU').hidden = true", "", &["lost-lookup"]),
    Case::new("", "document.querySelector('#menu .none').hidden = true", "", &["lost-lookup"]),
    Case::new("", "document.querySelector('#menu').querySelector('.none').hidden = true", "", &["lost-lookup"]),
    Case::new("", "document.querySelector('#menu').closest('body').id", "", &[]),
    Case::new("", "document.getElementsByClassName('none')[0].id", "", &["lost-lookup"]),
    Case::new("", "document.querySelectorAll('.none')[0].id", "", &["lost-lookup"]),
    Case::new("", "document.getElementsByClassName('none').length", "", &[]),
    Case::new("", "var m = document.querySelector('.none'); if (!m) return; m.id", "", &[]),
    Case::new("", "var m = document.querySelector('.none'); m && m.remove()", "", &[]),
    Case::new("", "var m = document.querySelector('.none') || document.body; m.id", "", &[]),
    Case::new("", "(document.querySelector('.none') || document.body).id", "", &[]),
    Case::new("", "var m = document.querySelector('.none') ?? document.body; m.id", "", &[]),
    Case::new("", "var m; while (m = document.querySelector('.none')) { m.remove() }", "", &[]),
    Case::new("", "var m = document.querySelector('.none'); try { m.remove() } catch {}", "", &[]),
    Case::new("", "if (document.querySelector('.none')) document.querySelector('.none').remove()", "", &[]),
    Case::new("", "function find(id) { return document.getElementById(id) } find('none').id", "", &["lost-lookup"]),
    Case::new("", "const $ = (s, r = document) => r.querySelector(s); $('#menu').id; $('#mneu').id", "", &["lost-lookup"]),
    Case::new("", "const $ = (s, r = document) => r.querySelector(s); $('#menu').id; $('.none')?.remove()", "", &[]),
    Case::new("", "document.getElementById('none').addEventListener('x', () => {})", "", &["lost-lookup"]),
    Case::new("", "setTimeout(() => document.getElementById('none').remove())", "", &["lost-lookup"]),
    Case::new("", "document.body.insertAdjacentHTML('beforeend', '<p id=made>'); document.getElementById('made').remove()", "", &[]),
    Case::new("", "var p = document.createElement('p'); p.id = 'made'; document.body.append(p); document.getElementById('made').remove()", "", &[]),
    Case::new("slot = 'head'", "document.body.hidden = true", "", &["early-lookup"]),
    Case::new("slot = 'body-start'", "document.getElementById('menu').hidden = true", "", &["early-lookup"]),
    Case::new("slot = 'body-start'", "document.body.hidden = true", "", &[]),
    Case::new("slot = 'head'", "requestAnimationFrame(() => document.getElementById('menu').id)", "", &[]),
    Case::new("slot = 'head'\nwithin = '#menu'", "root.hidden = true; document.getElementById('drawn').id", "", &[]),
    Case::new("within = '#menu'", "root.querySelector('.none').remove()", "", &["lost-lookup"]),
    Case::new("within = '#mneu'", "Chart.draw()", "", &["no-element"]),
    // Names that stay in the pin.
    Case::new("", "function open2() {}", "<script>addEventListener('load', () => open2())</script>", &["not-shared"]),
    Case::new("share = ['open2']", "function open2() {}", "<script>addEventListener('load', () => open2())</script>", &[]),
    Case::new("", "function open2() {} window.open2 = open2", "<script>addEventListener('load', () => open2())</script>", &[]),
    Case::new("", "function open2() {}", "<script>addEventListener('load', () => typeof open2 == 'function' && open2())</script>", &[]),
];
