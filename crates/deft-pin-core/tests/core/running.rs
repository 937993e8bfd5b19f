//! Scripts run against a page before they run: what is certain, what is not, and what is never said.

use crate::made::Made;
use deft_pin_core::check::{Code, Severity};

/// What each page has.
const BODY: &str = "<nav id=menu class=bar data-port=Sorrel><a class=link href=/fares/>Fares</a><a class=link href=#>Piers</a></nav>\
    <main id=main><h1>Fares</h1><p class=price>12</p><form name=book><input name=port></form></main>";

/// What is told of a script in a page with a head: each as `!` for an error or `?` for a warning, and its message.
fn told(head: &str, keys: &str, script: &str) -> Vec<String> {
    let made = Made::of(&format!(
        "--- deft-pin.toml\n[pin.p]\nscript = 'p.js'\n{keys}\n--- p.js\n{script}\n--- site/site.js\nvar Sorrel = {{ ready(f) {{ f() }} }}\n\
         --- site/index.html\n<!doctype html><html><head>{head}</head><body>{BODY}</body></html>\n"
    ));
    let of_scripts = [
        Code::Throws,
        Code::InVain,
        Code::LostLookup,
        Code::EarlyLookup,
        Code::MissingLibrary,
        Code::PastDate,
    ];
    let findings = made.findings().into_iter().filter(|finding| of_scripts.contains(&finding.code));
    let marked = findings.map(|finding| {
        let mark = if finding.severity == Severity::Error { '!' } else { '?' };
        format!("{mark} {}", finding.message)
    });
    marked.collect()
}

/// Holds what is told of each script against the beginning of the messages; nothing where that is empty.
fn hold(cases: &[(&str, &str)]) {
    hold_in("", "", cases);
}

fn hold_in(head: &str, keys: &str, cases: &[(&str, &str)]) {
    let mut wrong = Vec::new();
    for (script, expected) in cases {
        let told = told(head, keys, script);
        let is_right = match (told.as_slice(), *expected) {
            ([], "") => true,
            ([only], expected) => !expected.is_empty() && only.starts_with(expected),
            _ => false,
        };
        if !is_right {
            wrong.push(format!("{script}\n  expected {expected:?}\n  told {told:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn conditions_are_followed_where_they_go() {
    hold(&[
        ("if (false) nope()", ""),
        ("if (true) nope(); else ok()", "! nothing on the page defines `nope`"),
        ("const on = 1 > 2; on && nope()", ""),
        ("const on = 'a' + 'b' === 'ab'; on && nope()", "! nothing on the page defines `nope`"),
        ("(1 ? 0 : nope)", ""),
        ("switch ('a') { case 'a': break; default: nope() }", ""),
        ("switch ('b') { case 'a': break; default: nope() }", "! nothing on the page defines `nope`"),
        ("(function () { return; nope() })()", ""),
        ("for (const x of []) nope()", ""),
        ("for (const x of [1]) nope()", "! nothing on the page defines `nope`"),
        ("let i = 0; while (i < 3) i++; if (i !== 3) nope()", ""),
        ("do { if (true) break; nope() } while (true)", ""),
        ("a: for (;;) { for (;;) { break a } nope() }", ""),
        ("if (typeof nope === 'function') nope()", ""),
        ("window.nope && nope()", ""),
        ("window.nope?.draw()", ""),
        ("let x = null; x ??= { go() {} }; x.go()", ""),
        ("let x; x?.go(); x ||= 1; x.toFixed()", ""),
    ]);
}

#[test]
fn what_differs_from_visit_to_visit_is_a_warning_and_what_nobody_knows_is_nothing() {
    hold(&[
        ("if (innerWidth < 600) nope()", "? nothing on the page defines `nope`"),
        ("if (matchMedia('(width < 40em)').matches) nope()", "? nothing on the page defines `nope`"),
        ("if (localStorage.getItem('seen')) nope()", "? nothing on the page defines `nope`"),
        ("Math.random() < .5 || nope()", "? nothing on the page defines `nope`"),
        ("if (new Date().getHours() > 17) nope()", "? nothing on the page defines `nope`"),
        ("menu.addEventListener('click', () => nope())", "? nothing on the page defines `nope`"),
        ("onscroll = () => nope()", "? nothing on the page defines `nope`"),
        ("fetch('/x').then(() => nope())", "? nothing on the page defines `nope`"),
        ("if (/MSIE/.test(navigator.userAgent)) nope()", "? nothing on the page defines `nope`"),
        ("if (navigator.userAgent === 'x') nope()", ""),
        ("function never() { nope() }", ""),
        ("if (innerWidth < 600) return; nope()", "? nothing on the page defines `nope`"),
    ]);
}

#[test]
fn what_runs_later_is_as_certain_as_what_calls_it() {
    hold(&[
        (
            "document.addEventListener('DOMContentLoaded', () => nope())",
            "! nothing on the page defines `nope`",
        ),
        ("addEventListener('load', function () { nope() })", "! nothing on the page defines `nope`"),
        ("onload = () => nope()", "! nothing on the page defines `nope`"),
        ("setTimeout(() => nope(), 100)", "! nothing on the page defines `nope`"),
        ("requestAnimationFrame(() => nope())", "! nothing on the page defines `nope`"),
        ("queueMicrotask(() => nope())", "! nothing on the page defines `nope`"),
        (
            "Promise.resolve(1).then(n => n.toFixed()).then(() => nope())",
            "! nothing on the page defines `nope`",
        ),
        ("Promise.resolve(1).then(() => nope()).catch(() => {})", ""),
        ("new Promise(go => setTimeout(go, 10)).then(() => nope())", "! nothing on the page defines `nope`"),
        ("(async () => { nope() })()", "! nothing on the page defines `nope`"),
        ("(async () => { try { await (async () => nope())() } catch {} })()", ""),
        ("new IntersectionObserver(() => nope()).observe(menu)", "? nothing on the page defines `nope`"),
        ("menu.onclick = { handleEvent() { nope() } }", ""),
        (
            "menu.addEventListener('click', { handleEvent() { nope() } })",
            "? nothing on the page defines `nope`",
        ),
    ]);
}

#[test]
fn functions_and_classes_are_run() {
    hold(&[
        ("const f = (a, { b = 2 } = {}, ...c) => a + b + c.length; if (f(1, {}, 3, 4) !== 5) nope()", ""),
        ("(function f(n) { if (n) return f(n - 1); nope() })(3)", "! nothing on the page defines `nope`"),
        (
            "function f() { return arguments.length } if (f(1, 2) === 2) nope()",
            "! nothing on the page defines `nope`",
        ),
        (
            "class A { static n = 1; #x = 2; get x() { return this.#x } } if (new A().x + A.n !== 3) nope()",
            "",
        ),
        ("class A { go() { this.went() } } new A().go()", "! `this.went` is no function"),
        ("class A {} A()", "! `A()` without `new` is no function"),
        (
            "class B extends HTMLElement { constructor() { this.x = 1 } } new B()",
            "! the constructor of this class",
        ),
        (
            "const a = { n: 1, f() { return this.n } }; const f = a.f.bind({ n: 5 }); if (f() !== 5) nope()",
            "",
        ),
        ("const max = Math.max.apply(null, [1, 3]); if (max !== 3) nope()", ""),
        ("try { throw { a: 1 } } catch ({ a }) { if (a !== 1) nope() } finally { menu.id }", ""),
        ("throw new Error('x')", "! this is thrown, and nothing catches it"),
        ("x; let x = 1", "! `x` is used before its declaration has run"),
        ("const x = 1; x += 1", "! `x` is a constant"),
        ("var f = 1\n(2, 3)", "! no `;` ends the line"),
        ("(r = { p: { q: 1 } }).p.n = r.p.q; var r", ""),
        ("[...'ab'].entries().next().value", ""),
        (
            "const { length, [0]: first } = document.querySelectorAll('.link'); if (length !== 2 || !first.href) nope()",
            "",
        ),
    ]);
}

#[test]
fn elements_are_there_or_not() {
    hold(&[
        ("document.querySelector('.link').title = 'x'", ""),
        ("document.querySelector('.lnk').title = 'x'", "! `.lnk` finds nothing on the page"),
        ("const el = document.querySelector('.lnk'); if (!el) return; el.title = 'x'", ""),
        ("document.querySelectorAll('.lnk').forEach(() => nope())", ""),
        ("document.querySelectorAll('.link').forEach(() => nope())", "! nothing on the page defines `nope`"),
        ("const [a] = document.querySelectorAll('.lnk'); a.title = 1", "! `.lnk` finds nothing on the page"),
        ("const { style } = document.getElementById('mneu')", "! `#mneu` finds nothing on the page"),
        ("getComputedStyle(document.querySelector('.lnk'))", "! `.lnk` finds nothing on the page"),
        ("menu.append(document.createElement('b')); menu.querySelector('b').title = 'x'", ""),
        ("menu.innerHTML = '<i class=new>x</i>'; document.querySelector('.new').title = 'x'", ""),
        ("menu.innerHTML = ''; document.querySelector('.link').title = 'x'", "! `.link` finds nothing there"),
        (
            "if (innerWidth > 9) menu.innerHTML = ''; document.querySelector('.link').title = 'x'",
            "? `.link` finds nothing there",
        ),
        ("menu.remove(); main.append(menu); document.getElementById('menu').title = 'x'", ""),
        ("main.classList.add('wide'); document.querySelector('.wide').title = 'x'", ""),
        ("menu.remove(); document.getElementById('menu').title = 'x'", "! `#menu` finds nothing there"),
        ("menu.querySelector('.price').title = 'x'", "! `.price` finds nothing there"),
        // What the script has made, moved and taken out is known.
        ("menu.append(document.createElement('b')); menu.lastElementChild.title = 'x'", ""),
        (
            "menu.replaceChildren(); menu.firstElementChild.title = 'x'",
            "! `menu.firstElementChild` has no value here",
        ),
        ("menu.innerHTML = '<i></i><i></i>'; menu.children[1].title = 'x'", ""),
        (
            "menu.innerHTML = '<i></i><i></i>'; menu.children[2].title = 'x'",
            "! `menu.children[2]` has no value here",
        ),
        (
            "const copy = menu.cloneNode(true); copy.id = 'two'; main.append(copy); document.querySelector('#two').title = 1",
            "",
        ),
        ("menu.remove(); menu.parentNode.title = 'x'", "! `menu.parentNode` has no value here"),
        (
            "if (innerWidth > 9) menu.remove(); menu.parentNode.title = 'x'",
            "? `menu.parentNode` has no value",
        ),
        ("menu.append(document.body)", "! `append` is given `document.body`"),
        ("for (const b of main.children) b.remove(); main.firstElementChild.title = 'x'", ""),
        ("menu.classList.add('on'); if (!menu.matches('.on')) main.nope.x = 1", ""),
        ("menu.closest('body').title = 'x'", ""),
        ("document.forms.book.port.value = 'x'; document.book.port.focus()", ""),
        ("document.forms.boook.id", "! an `HTMLCollection` has no `boook`"),
        ("menu.dataset.port.trim(); menu.getAttribute('href').trim()", "! `[href]` has no value here"),
        ("menu.children[5].id", "! `menu.children[5]` has no value"),
        ("if (menu.classList.contains('bar')) nope()", "! nothing on the page defines `nope`"),
        ("if (location.pathname !== '/') nope()", ""),
    ]);
    hold_in(
        "",
        "slot = 'head'",
        &[
            ("document.getElementById('menu').id", "! `#menu` is looked up before it is there"),
            ("menu.id", "! `#menu` is looked up before it is there"),
            ("document.body.id", "! `body` is looked up before it is there"),
            ("document.addEventListener('DOMContentLoaded', () => menu.id)", ""),
            (
                "if (document.readyState === 'loading') addEventListener('load', () => menu.id); else nope()",
                "",
            ),
        ],
    );
    hold_in(
        "",
        "slot = 'head'\nwithin = '#menu'",
        &[(
            "root.title = 'x'; document.addEventListener('DOMContentLoaded', () => nope())",
            "! nothing on the page defines `nope`",
        )],
    );
}

#[test]
fn members_are_those_of_the_platform() {
    hold(&[
        ("menu.addEventListner('click', () => {})", "! an element has no `addEventListner`"),
        ("document.getElementByID('menu')", "! the document has no `getElementByID`"),
        ("menu.innerHtml = 'x'", "? an element has no `innerHtml`"),
        ("menu.state = { open: 1 }; menu.state.open = 2", ""),
        ("document.querySelectorAll('a').style.color = 'red'", "! this is a list of elements (NodeList)"),
        ("menu.classlist.add('x')", "! an element has no `classlist`"),
        ("document.querySelectorAll('a').title = 'red'", "? this is a list of elements"),
        ("menu.classList.add('a b')", "! `classList.add` is given `a b`"),
        ("menu.classList.add('.a')", "? `classList.add` is given `.a`"),
        ("menu.addEventListener('onclick', () => {})", "? `addEventListener` is given `onclick`"),
        ("menu.addEventListener('tide:turn', () => {})", ""),
        ("menu.addEventListener('click', go()); function go() {}", "? `go` is called here at once"),
        ("document.getElementById('#menu')", "? `getElementById` is given `#menu`"),
        ("document.querySelector('a[href=#x]')", "! `querySelector` is given `a[href=#x]`"),
        ("menu.style.colour = 'red'", "? there is no property `colour`"),
        ("menu.style.width = 40", "? `style.width` is given `40`"),
        (
            "menu.style.setProperty('backgroundColor', 'red')",
            "? `style.setProperty` is given `backgroundColor`",
        ),
        ("menu.textContent.trimm()", "! a text has no `trimm`"),
        ("menu.title('x')", "! `menu.title` is no function"),
        ("const find = document.querySelector; find('a')", "! `querySelector` is called without"),
        ("console.lgo(1)", "! a `console` has no `lgo`"),
        ("Math.flor(1)", "! a `Math` has no `flor`"),
        ("FormData(document.forms.book)", "! `FormData` without `new` is no function"),
        ("JSON.parse('{a:1}')", "! `JSON.parse` is given `{a:1}`"),
        ("menu.appendChild('x')", "! `appendChild` is given `'x'`"),
        ("location.hash.slice(1).trim(); history.state; document.cookie.split(';')", ""),
        ("Date.now() - new Date('2020-01-01')", ""),
        ("new Date('31/12/2027')", "? a browser makes no date of `31/12/2027`"),
    ]);
}

#[test]
fn other_scripts_of_the_page_count() {
    hold_in(
        "<script src=site.js></script>",
        "",
        &[
            ("Sorrel.ready(() => nope())", "! nothing on the page defines `nope`"),
            ("Sorrel.redy(() => {})", "! `Sorrel.redy` is no function"),
            ("Sorrel.tides.now().draw()", "! `Sorrel.tides` has no value here"),
        ],
    );
    // Of what nobody knows the names alone count.
    hold_in(
        "<script>window.Sorrel = open(Math.random()); Sorrel.ready = Sorrel.open.ready</script>",
        "",
        &[("Sorrel.redy(() => {})", "? no script of the page has `redy`"), ("Sorrel.tides.now().draw()", "")],
    );
    hold_in(
        "<script>HTMLElement.prototype.fadeOut = function () {}</script>",
        "",
        &[("menu.fadeOut()", ""), ("menu.fadeIn()", "! ")],
    );
    hold_in(
        "<script src='https://cdn.example/x.js'></script>",
        "",
        &[("document.querySelector('.widget').title = 'x'", ""), ("Widget.start()", "")],
    );
    hold_in(
        "<script>document.querySelector('main').insertAdjacentHTML('beforeend', '<p id=late>')</script>",
        "",
        &[("document.getElementById('late').title = 'x'", "")],
    );
}

#[test]
fn scripts_without_end_get_an_answer() {
    hold(&[
        ("for (;;) {}", ""),
        ("while (true) { [].push(1) }", ""),
        ("(function f() { f() })()", ""),
        ("const f = n => f(n + 1); f(0)", ""),
        ("let s = 'x'; for (let i = 0; i < 60; i++) s += s", ""),
        ("const a = []; for (let i = 0; i < 190; i++) a.push('x'.repeat(900)); for (;;) String(a)", ""),
        ("const o = {}; for (let i = 0; i < 300; i++) o[i] = i; for (;;) ({ ...o, ...o })", ""),
        ("const a = []; for (let i = 0; i < 900; i++) a[i] = i; for (;;) a[5] = a[6]", ""),
        ("const t = 'x'.repeat(900); let u; for (;;) u = t + t + t", ""),
        ("const a = []; a.push(a); String(a); JSON.stringify(a)", "! `JSON.stringify` is given"),
        ("const o = {}; o.o = o; Object.assign(o, o); for (const k in o) o[k]", ""),
        ("function f() { setTimeout(f, 0) } f()", ""),
        ("function f() { Promise.resolve().then(f) } f()", ""),
        ("const t = { then(done) { done(t) } }; Promise.resolve(t)", ""),
        ("class A { constructor() { new A() } } new A()", ""),
        ("[1, 2, 3].reduce((a, b) => [a, a, b].map(x => [x, x]), [])", ""),
    ]);
    let deep = format!("{}1{}", "[".repeat(900), "]".repeat(900));
    hold(&[(deep.as_str(), "")]);
    let calls = format!("const f = x => x; {}1{}", "f(".repeat(900), ")".repeat(900));
    hold(&[(calls.as_str(), "")]);
}

/// What is told of a library in a page that has a script of its own before it, or behind it.
fn told_of_library(library: &str, site: &str, is_before: bool) -> Vec<String> {
    let (head, foot, slot) = if is_before { (site, "", "foot") } else { ("", site, "head") };
    let made = Made::of(&format!(
        "--- deft-pin.toml\n[library.tides]\nscript = 'tides.js'\n[pin.p]\nscript = 'p.js'\nneeds = ['tides']\nslot = '{slot}'\n--- tides.js\nwindow.TideGraph = {{}};\n{library}\n--- p.js\n\
         document.title = 'x'\n--- site/index.html\n<!doctype html><html><head><script>{head}</script></head><body>{BODY}</body>\
         <script>{foot}</script></html>\n"
    ));
    let findings = made.findings().into_iter().filter(|finding| finding.code == Code::BadSyntax);
    findings.map(|finding| finding.message).collect()
}

#[test]
fn names_are_declared_once_for_all_scripts() {
    for (library, site, is_before, expected) in [
        ("const tides = 1", "var tides = 2", true, Some("before, so a browser runs none of this script")),
        ("var tides = 1", "let tides = 2", true, Some("before, so a browser runs none of this script")),
        ("class Tide {}", "function Tide() {}", true, Some("before, so a browser runs none of this script")),
        (
            "let tides = 1",
            "const tides = 2",
            false,
            Some("after this, so a browser runs none of that script"),
        ),
        ("var tides = 1", "var tides = 2", true, None),
        ("function tides() {}", "var tides = 2", true, None),
        ("const tides = 1", "{ let tides = 2 }", true, None),
        ("(function () { const tides = 1 })()", "let tides = 2", true, None),
        ("const tides = 1", "window.tides = 2", true, None),
    ] {
        let told = told_of_library(library, site, is_before);
        let is_right = match (told.as_slice(), expected) {
            ([], None) => true,
            ([only], Some(expected)) => only.contains(expected),
            _ => false,
        };
        assert!(is_right, "{library} | {site}: {told:?}");
    }
}
