//! Scripts that work with sets of elements, on a page with a library of such sets. What comes of each was seen in
//! Chromium with the library itself.

use crate::made::Made;
use deft_pin_core::check::{Code, Severity};

/// What the page has.
const BODY: &str = "<nav id=menu class=nav><ul><li><a class=link href=/timetable/>Timetable</a></li><li><a class=link href=#fares \
    data-fare=12>Fares</a></li></ul></nav><main><section id=status data-port=Sorrel hidden><h2>Sailing today</h2><p class=lead>All \
    sailings run.</p></section><section id=fares><table id=fare-table><tbody><tr><td>Adult</td><td class=price>12.50</td></tr><tr>\
    <td>Child</td><td class=price>6.00</td></tr></tbody></table><select id=pier><option value=n>North</option><option value=s \
    selected>South</option></select></section><form id=booking><input id=email type=email><input type=checkbox id=bike><button \
    type=submit>Book</button></form><div class=carousel><img src=a.png alt=A><img src=b.png alt=B></div></main>";

/// What is told of a script: each as `!` for an error or `?` for a warning, and its code.
fn told(script: &str) -> Vec<String> {
    let made = Made::of(&format!(
        "--- deft-pin.toml\n[library.sets]\nscript = 'sets.js'\n[pin.p]\nscript = 'p.js'\nneeds = ['sets']\n--- sets.js\n/* jQuery v3.7.1 */ \
         window.jQuery = window.$ = function () {{}}\n--- p.js\n{script}\n--- site/index.html\n<!doctype html><html><body>{BODY}</body></html>\n"
    ));
    let of_scripts = [Code::Throws, Code::InVain, Code::LostLookup, Code::MissingLibrary];
    let findings = made.findings().into_iter().filter(|finding| of_scripts.contains(&finding.code));
    let mark = |severity| if severity == Severity::Error { '!' } else { '?' };
    findings.map(|finding| format!("{} {}", mark(finding.severity), finding.code.name())).collect()
}

fn hold(cases: &[(&str, &str)]) {
    let is_wrong = |(script, expected): &&(&str, &str)| told(script).join(", ") != **expected;
    let wrong: Vec<String> = cases
        .iter()
        .filter(is_wrong)
        .map(|(script, expected)| format!("{script}\n  expected {expected:?}, told {:?}", told(script)))
        .collect();
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn its_own_selectors_find_what_they_say() {
    hold(&[
        ("$('.nav li:last').addClass('z'); document.querySelector('.z').title = ''", ""),
        ("$('.nav li:eq(1) a').get(0).title = ''", ""),
        ("$('.nav li:eq(-1) a').get(0).title = ''", ""),
        ("$('.nav li:eq(2) a').get(0).title = ''", "! lost-lookup"),
        ("$('.carousel img:gt(0)').get(0).title = ''; $('.carousel img:lt(1)').get(0).title = ''", ""),
        ("$('.carousel img:gt(0)').get(1).title = ''", "! throws"),
        ("$('tr:odd').addClass('odd'); document.querySelector('tr.odd').title = ''", ""),
        ("$('tr:odd').addClass('odd'); document.querySelectorAll('tr.odd')[1].title = ''", "! throws"),
        ("$('tr:even').find('.price').get(0).title = ''", ""),
        ("$('a:contains(\"Fares\")').get(0).href.trim()", ""),
        ("$('a:contains(\"Piers\")').get(0).href.trim()", "! lost-lookup"),
        ("$('#booking :input').get(2).title = ''; $(':header').get(0).title = ''", ""),
        ("$('#booking :input').get(3).title = ''", "! throws"),
        (
            "$(':checkbox').get(0).title = ''; $(':submit').get(0).title = ''; $(':radio').length.toFixed()",
            "",
        ),
        ("$(':radio').get(0).title = ''", "! lost-lookup"),
        ("$('.link').filter(':first').get(0).title = ''; $('.link').not(':first').get(0).title = ''", ""),
        ("$('.link').not(':first').get(1).title = ''", "! throws"),
        // What is shown nobody can tell from the page.
        ("$('p:visible').get(9)", ""),
    ]);
}

#[test]
fn what_they_tell_of_their_elements_is_known() {
    hold(&[
        (
            "$('.link').toArray().forEach(function (a) { a.title = '' }); $('.link').get().length.toFixed()",
            "",
        ),
        ("$('.link').forEach(function () {})", "! throws"),
        ("$('.price').map(function () { return parseFloat($(this).text()) }).get()[1].toFixed()", ""),
        ("$('.price').map(function () { return parseFloat($(this).text()) }).get()[2].toFixed()", "! throws"),
        ("$('tr').filter(function (i) { return i > 0 }).get(0).title = ''", ""),
        ("$('tr').filter(function (i) { return i > 0 }).get(1).title = ''", "! throws"),
        ("$('.link').slice(1).get(0).title = ''; $('.link').slice(1).get(1).title = ''", "! throws"),
        ("$('.link').eq(1).data('fare').toFixed(); $('#status').data('port').trim()", ""),
        ("$('.link').eq(0).data('fare').toFixed()", "! throws"),
        ("$('#status').data('open', { a: 1 }); $('#status').data('open').a.toFixed()", ""),
        ("$('#status').data('open').a", "! throws"),
        (
            "$.map([1, 2], function (n) { return n })[1].toFixed(); $.grep([1], function (n) { return n > 1 })[0].toFixed()",
            "! throws",
        ),
        ("$.extend({ a: 1 }, { b: 2 }).b.toFixed(); $.extend({ a: 1 }, { b: 2 }).c.toFixed()", "! throws"),
    ]);
}

#[test]
fn what_is_put_around_elements_is_there() {
    hold(&[
        (
            "$('.carousel img').wrap('<p class=w></p>'); document.querySelectorAll('.w > img')[1].title = ''",
            "",
        ),
        (
            "$('.carousel img').wrap('<p class=w></p>'); document.querySelectorAll('.w > img')[2].title = ''",
            "! throws",
        ),
        (
            "$('.carousel img').wrapAll('<p><b></b></p>'); document.querySelector('.carousel > p > b > img + img').title = ''",
            "",
        ),
        (
            "$('.carousel img').wrapAll('<p>'); document.querySelector('.carousel > img').title = ''",
            "! lost-lookup",
        ),
        ("$('.lead').wrapInner('<b>'); document.querySelector('.lead b').title = ''", ""),
        ("$('.lead').unwrap(); document.querySelector('main > .lead').title = ''", ""),
        ("$('.lead').unwrap(); document.querySelector('#status').title = ''", "! lost-lookup"),
    ]);
}
