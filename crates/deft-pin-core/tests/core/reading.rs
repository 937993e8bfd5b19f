//! What a script does as a browser runs it: what runs when, what it copes with, what it defines, and
//! in which order what comes.

use deft_pin_core::script::{GlobalUse, ScriptFacts, ScriptKind, When, facts};

fn drawn(uses: &[GlobalUse]) -> String {
    let draw = |own: &GlobalUse| {
        let mark = match own.when {
            When::Now => "",
            When::Perhaps => "~",
            When::Later => "+",
        };
        format!("{mark}{}{}", own.name, if own.guarded { "?" } else { "" })
    };
    uses.iter().map(draw).collect::<Vec<_>>().join(" ")
}

fn classic(text: &str) -> ScriptFacts {
    facts(text, ScriptKind::Classic, &[])
}

/// What a script looks up, when, and whether it fails where nothing is found.
fn lookups(facts: &ScriptFacts) -> String {
    let draw = facts.looks_up.iter().map(|own| {
        format!("{} {}{}", own.selector, own.when.name(), if own.guarded { "" } else { " fails" })
    });
    draw.collect::<Vec<_>>().join(", ")
}

/// The names that a script adds, classes before IDs, in the order of the alphabet.
fn added(facts: &ScriptFacts) -> Vec<String> {
    let mut names: Vec<(bool, &str)> = facts.adds.iter().map(|own| (own.is_id, own.name.as_str())).collect();
    names.sort_unstable();
    names.iter().map(|(is_id, name)| format!("{}{name}", if *is_id { "#" } else { "." })).collect()
}

fn hold(table: &[(&str, &str)], what: impl Fn(&str) -> String) {
    let mut wrong = Vec::new();
    for (text, expected) in table {
        let found = what(text);
        if found != *expected {
            wrong.push(format!("{text}\n    {found:?}, not {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_global_that_is_asked_for_before_it_is_used_is_coped_with() {
    // What is read: `?` where the script copes without it.
    #[rustfmt::skip]
    let table = [
        ("Chart.go()", "Chart"),
        ("if (typeof Chart != 'undefined') Chart.go()", "Chart?"),
        ("if (typeof Chart === 'undefined') { stop() } else { Chart.go() } function stop() {}", "Chart?"),
        ("if (typeof Chart === 'undefined') { Chart.go() }", "Chart"),
        ("if (typeof Chart == 'function') new Chart()", "Chart?"),
        ("if (!!window.Chart) Chart.go()", "Chart?"),
        ("if ('Chart' in window) Chart.go()", "Chart?"),
        ("if (!('Chart' in window)) Chart.go()", "Chart"),
        ("if (window.Chart == null) { Chart.go() }", "Chart"),
        ("if (window.Chart != null) { Chart.go() }", "Chart?"),
        ("if (window.Chart === undefined) throw 1; Chart.go()", "Chart?"),
        ("if (self.Chart && other) Chart.go()", "Chart? other"),
        ("if (window.Chart || false) Chart.go()", "Chart?"),
        ("window.Chart ? Chart.go() : 0", "Chart?"),
        ("window.Chart ? 0 : Chart.go()", "Chart"),
        ("typeof Chart == 'undefined' || Chart.go()", "Chart?"),
        ("typeof Chart == 'undefined' && Chart.go()", "Chart"),
        ("window.Chart?.go()", "Chart?"),
        ("window.Chart.go()", "Chart"),
        ("var c = window.Chart; c.go()", "Chart"),
        ("var c = window.Chart; if (c) c.go()", "Chart?"),
        ("var has = !!window.Chart; if (has) Chart.go()", "Chart?"),
        ("const has = typeof Chart !== 'undefined'; has && Chart.go()", "Chart?"),
        ("try { Chart.go() } catch (e) { }", "Chart?"),
        ("try { Chart.go() } finally { }", "Chart"),
        ("try { } catch (e) { Chart.go() }", "Chart"),
        ("while (window.Chart) { Chart.go(); break }", "Chart?"),
        ("for (; window.Chart;) { Chart.go(); break }", "Chart?"),
        ("switch (typeof Chart) { case 'object': Chart.go() }", "Chart?"),
        ("function f() { if (!window.Chart) return; Chart.go() } f()", "Chart?"),
        ("function f() { if (window.Chart) return; Chart.go() } f()", "Chart"),
        ("{ if (!window.Chart) throw Error('x'); } Chart.go()", "Chart"),
        ("const ready = () => !!window.Chart; if (ready()) Chart.go()", "Chart?"),
        ("function off() { return !window.Chart } if (off()) Chart.go()", "Chart"),
        ("function ready() { return typeof Chart !== 'undefined' } if (ready()) Chart.go()", "Chart?"),
        ("if (window.Chart) { setTimeout(() => Chart.go()) }", "Chart?"),
        ("typeof Chart", "Chart?"),
        ("typeof (Chart)", "Chart?"),
        ("typeof window.Chart", "Chart?"),
        ("typeof window.Chart.go", "Chart"),
        ("typeof Chart.go", "Chart"),
        ("void Chart", "Chart"),
        ("delete window.Chart", ""),
        ("Promise.resolve().then(() => Chart.go()).catch(() => {})", "+Chart?"),
        ("var Chart = window.Chart || {}; Chart.go", ""),
        ("(window.Chart || Backup).go()", "Backup Chart?"),
        ("document.title && Chart.go()", "Chart"),
        ("let o = { Chart: 1 }; if (o.Chart) Chart.go()", "Chart?"),
    ];
    hold(&table, |text| drawn(&classic(text).reads));
}

#[test]
fn what_runs_now_and_what_later() {
    // What is read: `+` later, `~` perhaps.
    #[rustfmt::skip]
    let table = [
        ("A.x", "A"),
        ("(function () { A.x })()", "A"),
        ("(() => A.x)()", "A"),
        ("!function () { A.x }()", "A"),
        ("new function () { A.x }", "A"),
        ("(function () { A.x }).call(this)", "A"),
        ("(function () { A.x }).apply(null, [])", "A"),
        ("function f() { A.x }", "+A"),
        ("function f() { A.x } f()", "A"),
        ("f(); function f() { g() } function g() { A.x }", "A"),
        ("const f = () => A.x; f()", "A"),
        ("let f; f = function () { A.x }; f()", "A"),
        ("var o = { f() { A.x } }; o.f()", "A"),
        ("var o = { f: { g: () => A.x } }; o.f.g()", "A"),
        ("class C { static { A.x } }", "A"),
        ("class C { x = A.x }", "+A"),
        ("class C { x = A.x } new C()", "A"),
        ("const C = class { x = A.x }; new C()", "A"),
        ("new (class { x = A.x })()", "A"),
        ("class C { static x = A.x }", "A"),
        ("class C { [A.x] = 1 }", "A"),
        ("function f() { class C { x = A.x } } f()", ""),
        ("class C extends A {}", "A"),
        ("[1, 2].map(() => A.x)", "A"),
        ("Object.keys({}).forEach(function () { A.x })", "A"),
        ("'x'.replace(/x/, () => A.x)", "A"),
        ("setTimeout(() => A.x, 0)", "+A"),
        ("requestAnimationFrame(function () { A.x })", "+A"),
        ("addEventListener('load', () => A.x)", "+A"),
        ("window.onload = function () { A.x }", "+A"),
        ("document.body.onclick = () => A.x", "+A"),
        ("Promise.resolve(1).then(() => A.x)", "+A"),
        ("new Promise(() => A.x)", "A"),
        ("fetch('x').then(r => A.x)", "+A"),
        ("async function f() { A.x; await 0; B.x } f()", "A +B"),
        ("(async () => { await 0; A.x })()", "+A"),
        ("async function f() { for await (const x of y) A.x } f()", "+A y"),
        ("function* g() { A.x } g()", "+A"),
        ("function* g() { A.x } [...g()]", "+A"),
        ("if (0) { A.x }", ""),
        ("if (false) { A.x } else { B.x }", "B"),
        ("function f() { return; A.x } f()", "A"),
        ("`${A.x}`", "A"),
        ("A`x`", "A"),
        ("with (Math) { A.x }", "A?"),
        ("x => A.x", "+A"),
        ("eval('A.x')", ""),
        ("A = 1; A.x", ""),
        ("A += 1", "A"),
        ("A++", "A"),
        ("for (A of [1]) A.x", ""),
        ("var { A } = window", ""),
        ("({ A } = {})", ""),
        ("label: for (;;) { A.x; break label }", "A"),
    ];
    hold(&table, |text| drawn(&classic(text).reads));
}

#[test]
fn what_a_script_defines_is_global_where_a_browser_makes_it_so() {
    // In a classic script, as a module, and in the frame of a pin that shares `A`.
    #[rustfmt::skip]
    let table = [
        ("var A = 1", "A", "", "A"),
        ("let A = 1", "A", "", "A"),
        ("const A = 1", "A", "", "A"),
        ("class A {}", "A", "", "A"),
        ("function A() {}", "A", "", "A"),
        ("var B = 1", "B", "", ""),
        ("A = 1", "A", "", "A"),
        ("window.A = 1", "A", "A", "A"),
        ("window['A'] = 1", "A", "A", "A"),
        ("globalThis.B = 1", "B", "B", "B"),
        ("this.A = 1", "A", "", "A"),
        ("var { A, b: [C] } = x", "A C", "", "A"),
        ("var A, B", "A B", "", "A"),
        ("if (1) { var A = 1 }", "A", "", "A"),
        ("if (1) { let A = 1 }", "", "", ""),
        ("{ function A() {} }", "A", "", "A"),
        ("(function () { var A = 1 })()", "", "", ""),
        ("(function () { A = 1 })()", "A", "", "A"),
        ("'use strict'; (function () { B = 1 })()", "", "", ""),
        ("Object.assign(window, { A, B: 2 })", "A B", "A B", "A B"),
        ("Object.defineProperty(window, 'A', { value: 1 })", "A", "A", "A"),
        ("setTimeout(() => { window.A = 1 })", "+A", "+A", "+A"),
        ("window.A.b = 1", "", "", ""),
        ("window.A ||= 1", "A", "A", "A"),
        ("window.A ??= {}", "A", "A", "A"),
        ("for (var A in {}) ;", "A", "", "A"),
        ("try { x } catch (A) { }", "", "", ""),
        ("export var A = 1", "", "", ""),
    ];
    let share = ["A".to_owned()];
    let mut wrong = Vec::new();
    for (text, in_classic, in_module, in_frame) in table {
        let all = [
            (ScriptKind::Classic, &[][..], in_classic),
            (ScriptKind::Module, &[], in_module),
            (ScriptKind::Confined, &share, in_frame),
        ];
        for (kind, share, expected) in all {
            let mut found: Vec<String> =
                facts(text, kind, share).defines.iter().map(|own| drawn(std::slice::from_ref(own))).collect();
            found.sort();
            found.dedup();
            let found = found.join(" ").replace('?', "");
            if found != expected {
                wrong.push(format!("{text} as {kind:?}: {found:?}, not {expected:?}"));
            }
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn what_a_pin_keeps_to_itself_is_what_its_frame_keeps() {
    let share = ["A".to_owned()];
    #[rustfmt::skip]
    let table = [
        ("function A() {} function b() {}", "b"),
        ("var c = 1; let d; const e = 2; class F {}", "F c d e"),
        ("window.g = 1", ""),
        ("(function () { var h })()", ""),
    ];
    hold(&table, |text| {
        let facts = facts(text, ScriptKind::Confined, &share);
        let mut names: Vec<&str> = facts.keeps.iter().map(|(name, _)| name.as_str()).collect();
        names.sort_unstable();
        names.join(" ")
    });
}

#[test]
fn elements_that_a_script_looks_up() {
    // The selector, when it is looked up, and whether the script fails where nothing is found.
    #[rustfmt::skip]
    let table = [
        ("document.getElementById('pier')", "#pier now"),
        ("document.getElementById('pier').hidden = true", "#pier now fails"),
        ("window.document.getElementById('pier').hidden", "#pier now fails"),
        ("document['getElementById']('pier').hidden", "#pier now fails"),
        ("document.querySelector('.a, .b').hidden", ".a, .b now fails"),
        ("document.querySelector(`#${'pier'}`).hidden", "#pier now fails"),
        ("document.querySelector('#' + 'pier').hidden", "#pier now fails"),
        ("const id = 'pier'; document.getElementById(id).hidden", "#pier now fails"),
        ("document.getElementById(anything).hidden", ""),
        ("document.querySelectorAll('.a').forEach(x => x.hidden)", ".a now"),
        ("document.querySelectorAll('.a')[0].hidden", ".a now fails"),
        ("document.getElementsByClassName('a')[0].hidden", ".a now fails"),
        ("document.querySelector('.a')?.hidden", ".a now"),
        ("const a = document.querySelector('.a'); a.hidden = 1", ".a now fails"),
        ("const a = document.querySelector('.a'); a && a.remove()", ".a now"),
        ("const a = document.querySelector('.a'); if (!a) { throw 1 } a.remove()", ".a now"),
        ("(function () { const a = document.querySelector('.a'); if (!a) return; a.remove() })()", ".a now"),
        ("try { document.querySelector('.a').remove() } catch {}", ".a now"),
        ("addEventListener('load', () => document.querySelector('.a').remove())", ".a later fails"),
        ("document.querySelector('.a').addEventListener('click', () => {})", ".a now fails"),
        ("document.body.querySelector('.a').remove()", "body .a now fails"),
    ];
    hold(&table, |text| lookups(&classic(text)));
}

#[test]
fn names_that_a_script_adds() {
    #[rustfmt::skip]
    let table = [
        ("x.classList.add('a')", ".a"),
        ("x.classList.add('a', 'b')", ".a .b"),
        ("x.classList.add(...['a', 'b'])", ""),
        ("x.classList.toggle('a')", ".a"),
        ("x.classList.replace('a', 'b')", ".b"),
        ("x.classList.remove('a')", ""),
        ("x.classList.contains('a')", ""),
        ("x.className = 'a b'", ".a .b"),
        ("x.className += ' a'", ".a"),
        ("x.id = 'a'", "#a"),
        ("x.setAttribute('class', 'a')", ".a"),
        ("x.setAttribute('id', 'a')", "#a"),
        ("x.innerHTML = '<p class=a id=b>'", ".a #b"),
        ("x.insertAdjacentHTML('beforeend', '<p class=\"a b\">')", ".a .b"),
        ("const on = 'a'; x.classList.add(on)", ".a"),
        ("x.classList.add(y ? 'a' : 'b')", ".a .b"),
        ("$(x).addClass('a b')", ".a .b"),
        ("$(x).toggleClass('a')", ".a"),
        ("y.className", ""),
    ];
    hold(&table, |text| {
        let mut names = added(&classic(text));
        names.dedup();
        names.join(" ")
    });
}

#[test]
fn globals_that_a_script_defines_and_reads() {
    // The text, what it defines, what it reads: `+` later, `~` perhaps, `?` guarded.
    let table = [
        ("var a; let b; const c = 1; class D {} function e() {}", "D a b c e", ""),
        ("(function () { var x = 1; y = 2; })()", "y", ""),
        ("(function () { 'use strict'; y = 2; })()", "", ""),
        ("window.App = {}; self['More'] = 1; globalThis.x = App", "App More x", ""),
        ("(function (w) { w.Dock = {}; })(window)", "Dock", ""),
        ("(function (w) { w.Dock = {}; }).call(this, this)", "Dock", ""),
        ("(function () { this.Dock = 1 })(); (function () { 'use strict'; this.Not = 1 })()", "Dock", ""),
        (
            "(function (g, f) { typeof exports === 'object' && typeof module !== 'undefined' ? f(exports, require('a')) : typeof define === 'function' && define.amd ? define(['exports', 'a'], f) : (g = typeof globalThis !== 'undefined' ? globalThis : g || self, f(g.Quay = {}, g.Tide)); })(this, function (exports, a) { Later; function f() { Never } })",
            "Quay",
            "Later Tide?",
        ),
        (
            "!function(e,t){\"object\"==typeof exports&&\"undefined\"!=typeof module?t(exports):t((e=e||self).Pier={})}(this,function(e){})",
            "Pier",
            "",
        ),
        ("Object.assign(window, { A: 1, B() {} }); Object.defineProperty(self, 'C', {})", "A B C", ""),
        (
            "const w = window; w.Alias = 1; var root = typeof self == 'object' && self || this; root.R = 2",
            "Alias R root w",
            "",
        ),
        ("setTimeout(function () { window.Late = 1; Needed.x })", "+Late", "+Needed"),
        ("document.addEventListener('x', () => Map2.y); Chart.z", "", "Chart +Map2"),
        (
            "if (typeof Chart !== 'undefined') Chart.go(); window.Chart2 && Chart2.go(); Chart3?.x; try { C4() } catch {}",
            "",
            "C4? Chart? Chart2? Chart3",
        ),
        ("(function () { if (!window.Chart) return; Chart.go() })()", "", "Chart?"),
        (
            "start(); function start() { Chart.go() } function never() { Other.go() }",
            "never start",
            "Chart +Other",
        ),
        (
            "[1].forEach(function () { Each.x }); new Promise(r => { Prom.x }).then(() => { Then.x })",
            "",
            "Each Prom +Then",
        ),
        ("var App = { init: function () { Needs.x } }; App.init()", "App", "Needs"),
        ("var M = {}; M.go = () => Needs.x; M.go()", "M", "Needs"),
        ("class A { constructor() { Needs.x } late() { Other.x } } new A()", "A", "Needs +Other"),
        ("async function f() { First.x; await 1; Second.x } f()", "f", "First +Second"),
        (
            "(() => { var t = { 1: (m, e) => { window.Bundled = 1 } }; function r(n) { t[n](0, {}) } r(1) })()",
            "~Bundled",
            "",
        ),
        ("import x from './x.js'; var inModule = 1; window.M = x", "", ""),
        ("(function (g) { if (!g) throw Error(); g.x })(window.Chart)", "", "Chart"),
        ("(function (g) { if (!g) return; g.x })(window.Chart)", "", "Chart?"),
        ("window.x = window.x || {}; window.y.z = 1; delete window.q", "x?", "y"),
        ("function f(a) { a.x } f(Chart)", "f", "Chart"),
        ("var jQuery = 1; (function ($) { $.fn })(jQuery)", "jQuery", ""),
    ];
    for (text, defines, reads) in table {
        let found = classic(text);
        assert_eq!(drawn(&found.defines), defines, "{text}");
        assert_eq!(drawn(&found.reads), reads, "{text}");
    }
    let module =
        facts("import x from './x.js'; var inModule = 1; window.M = x; await Top.y", ScriptKind::Module, &[]);
    assert_eq!((drawn(&module.defines).as_str(), module.awaits), ("M", true));
}

#[test]
fn what_a_script_hands_over_and_loads_from_elsewhere() {
    let table = [
        ("dataLayer.push({ event: 'sent', email: form.email.value })", "dataLayer.push email", ""),
        ("window.dataLayer.push({ user: { contactPhone: p } })", "dataLayer.push contactPhone", ""),
        ("var q = window.dataLayer = window.dataLayer || []; q.push({ mail: m })", "dataLayer.push mail", ""),
        ("track('signup', user.email)", "track email", ""),
        (
            "measure.send('x', [document.querySelector('input[name=phone]').value])",
            "measure.send input[name=phone]",
            "",
        ),
        ("const e = new FormData(f).get('email'); track({ contact: e })", "track email", ""),
        ("track({ name: passenger.name })", "track name", ""),
        ("track({ name: pier.name, method: 'email', email_consent: yes, hasEmail: !!email })", "", ""),
        ("track({ name: form.name, mobile: isMobile(), address: location.href })", "", ""),
        ("track({ name: form.elements.name.value })", "track name", ""),
        ("track({ phone: true, mail: n.length, address: page.address })", "", ""),
        ("track('email_signup'); track({ event: 'email', mail: a === b })", "", ""),
        ("(function (p) { p.send(p.email) })(x)", "x.send email", ""),
        (
            "i.src = 'https://img.example/a.png'; a.href = 'https://b.example/'",
            "",
            "https://img.example/a.png",
        ),
        ("l.href = '//c.example/x.css'", "", "https://c.example/x.css"),
        ("s.setAttribute('src', 'http://d.example/' + 'x.js')", "", "http://d.example/x.js!"),
        ("import('https://e.example/m.js')", "", "https://e.example/m.js"),
        (
            "x.innerHTML = '<a href=https://f.example><img alt=x src=\"https://g.example/h.png\">'",
            "",
            "https://g.example/h.png",
        ),
    ];
    for (text, gives, outside) in table {
        let found = classic(text);
        let given: Vec<_> = found.gives.iter().map(|own| format!("{} {}", own.to, own.says)).collect();
        let loaded: Vec<_> = found
            .outside
            .iter()
            .map(|own| format!("{}{}", own.url, if own.is_plain { "!" } else { "" }))
            .collect();
        assert_eq!((given.join(", "), loaded.join(", ")), (gives.to_owned(), outside.to_owned()), "{text}");
    }
}

#[test]
fn elements_that_a_script_looks_up_and_names_that_it_adds() {
    let table = [
        ("document.getElementById('a').x", "#a now fails", ""),
        ("document.querySelector('.a > b')", ".a > b now", ""),
        ("const d = document, id = 'x'; d.getElementById(id + '-y')", "#x-y now", ""),
        ("var r = document.querySelector('#r'); r.querySelectorAll('li')", "#r now fails, #r li now", ""),
        ("$('.card').find('a').addClass('is-on is-far')", ".card a now, .card now", ".is-far .is-on"),
        ("(function ($) { $(function () { $('#late').hide() }) })(jQuery)", "#late later", ""),
        ("$('<p class=\"made\" id=p1>')", "", ".made #p1"),
        ("x.addEventListener('click', () => { document.getElementById('c').y })", "#c later fails", ""),
        ("var e = document.getElementById('q'); if (e) e.x", "#q now", ""),
        ("var e = document.getElementById('q'); e.x()", "#q now fails", ""),
        ("var e = document.getElementById('q'); setTimeout(() => e.x())", "#q now", ""),
        ("document.getElementById('q')?.x", "#q now", ""),
        (
            "b.classList.add('one', w ? 'two' : 'three'); b.classList.toggle('four', true); b.classList.remove('no')",
            "",
            ".four .one .three .two",
        ),
        (
            "p.className = 'k l'; p.id = 'm'; p.setAttribute('class', `n`); p.innerHTML = `<b class='o ${x} p'>`",
            "",
            ".k .l .n .o #m",
        ),
    ];
    for (text, looks_up, adds) in table {
        let found = classic(text);
        assert_eq!(
            (lookups(&found), added(&found).join(" ")),
            (looks_up.to_owned(), adds.to_owned()),
            "{text}"
        );
    }
}

/// What bundles bring, whose modules are functions in a list: `~` where it is not certain, `?` where it is only for
/// want of another.
#[test]
fn bundles_bring_the_globals_of_their_modules() {
    const LOADER: &str = "!function(t){var e={};function n(r){if(e[r])return e[r].exports;var o=e[r]={i:r,exports:{}};return t[r].call(o.exports,o,o.exports,n),o.exports}n(0)}";
    let bundle = |modules: &str| format!("{LOADER}([{modules}])");
    const SHIM: &str = "function(t,e){var g=function(){return this}();try{g=g||Function('return this')()}catch(o){}t.exports=g}";
    let packed = "(function e(t,n,r){function s(o){if(!n[o]){var l=n[o]={exports:{}};t[o][0].call(l.exports,function(e){return s(t[o][1][e])},l,l.exports)}return n[o].exports}s(r[0])})({1:[function(require,module,exports){window.Pier=1},{}]},{},[1])";
    let deep = format!("window.Pier = {}1{}", "go(a, b, ".repeat(40), ")".repeat(40));
    let table = [
        (bundle("function(t,e,n){window.Pier=function(){}}"), "~Pier"),
        (bundle("function(t,e,n){'undefined'!=typeof window&&(window.Pier=1)}"), "~Pier"),
        (bundle(&format!("function(t,e,n){{(function(g){{g.Pier=1}}).call(e,n(1))}},{SHIM}")), "~Pier"),
        (bundle("function(t,e,n){var w=n(1);w.default.Pier=1},function(t,e){e.default=window}"), "~Pier"),
        (bundle("function(t,e,n){var w=n(1);w.Pier=1},function(t,e){e.default=window}"), ""),
        (bundle("function(t,e,n){t&&t.exports?t.exports=1:this.Pier=1}"), ""),
        (packed.to_owned(), "~Pier"),
        ("!function(r,f){r.Pier=f()}(Object('undefined'!=typeof self?self:this),function(){})".to_owned(), "Pier"),
        ("var g=function(){return this||(0,eval)('this')}();g.Pier=1".to_owned(), "Pier g"),
        ("new Function('return this')().Pier=1".to_owned(), "Pier"),
        ("var c={exports:{}};(function(module){if(module.exports){module.exports=1}else{window.Pier=1}})(c)".to_owned(), "c"),
        ("function Pier(e){if(!(this instanceof Pier))return new Pier(e);this.el=e}Pier(1)".to_owned(), "Pier"),
        ("function Pier(e){var self=this;if(!(self instanceof Pier)){return new Pier(e)}self.el=e}Pier(1)".to_owned(), "Pier"),
        ("function go(e){this.el=e}go(1)".to_owned(), "el go"),
        ("if(typeof Pier=='number')Pier=1".to_owned(), ""),
        ("typeof Pier=='undefined'&&(Pier=1)".to_owned(), "Pier?"),
        ("(function(n,v){window[n]=v})('Pier',1)".to_owned(), "Pier"),
        // Calls in calls cost no more than they are.
        (deep, "Pier"),
    ];
    let table: Vec<(&str, &str)> = table.iter().map(|(text, expected)| (text.as_str(), *expected)).collect();
    hold(&table, |text| drawn(&classic(text).defines));
}
