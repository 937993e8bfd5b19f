//! `check`: each finding where it belongs, and nothing where all is well.

use std::collections::HashMap;

use crate::session::Session;

const PAGE: &str = "<!doctype html><html><head><style>.title { color: teal } h2 { margin: 1px !important } @keyframes sail { to { top: 1px } }</style></head><body><main id=fares class=wide>\
    <h2 class=title>Fares</h2><p id=twice></p><p id=twice style='color: red'></p></main></body></html>";

/// A site of three pages with one pin, whose keys and files are given.
fn pinned(keys: &str, css: &str, js: &str) -> Session {
    Session::with(&[
        ("deft-pin.toml", &format!("[site]\nroot = 'site'\n[pin.p]\n{keys}\n")),
        ("p.css", css),
        ("p.js", js),
        ("q.css", "h2 { padding: 1px }"),
        (
            "site/index.html",
            "<!doctype html><head></head><body class=front><script src=app.js></script></body>",
        ),
        ("site/app.js", "document.body.classList.add('is-late')"),
        ("site/fares/index.html", PAGE),
        ("site/fares/group.html", PAGE),
    ])
}

#[test]
fn each_finding_has_its_code_severity_place_and_help() {
    // Keys, sheet, script; then code, severity, what is marked, words of message or help, and the
    // codes of what else is said.
    #[rustfmt::skip]
    let table: &[[&str; 8]] = &[
        ["pages = ['/fare/']\nstyle = 'p.css'", "h2{}", "", "no-page", "error", "'/fare/'", "the nearest paths are `/fares/`",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<b>x', place = 'before', at = 'h2' }]", "", "", "bad-markup", "error", "<b>", "write `</b>`",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<p>a<div>b</div></p>', place = 'before', at = 'h2' }]", "", "", "bad-markup", "error", "<div>", "a browser ends the `<p>` before it",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<p>a<b>b</p>', place = 'before', at = 'h2' }, { text = '<i>x</i>', place = 'before', at = 'h2' }]", "", "", "bad-markup", "error", "<b>", "write `</b>` before `</p>`",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<div>a', place = 'append', at = '#fares' }, { text = '<i>x</i>', place = 'append', at = '#fares' }]", "", "", "bad-markup", "error", "<div>", "is never ended",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<i a=1 a=2>x</i>', place = 'before', at = 'h2' }]", "", "", "bad-markup", "error", "a", "twice",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<script>go()</script>', place = 'before', at = 'h2' }]", "", "", "bad-markup", "error", "<script>", "the pin's `script`",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<div>x</div>', place = 'prepend', at = '#fares > p' }]", "", "", "bad-markup", "error", "<", "ends the `<p>`","many-places"],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<i>x</i>', place = 'append', at = 'h3' }]", "", "", "no-place", "error", "'h3'", "nor anything of nearly that name",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<i>x</i>', place = 'append', at = '.titel' }]", "", "", "no-place", "error", "'.titel'", "did you mean `.title`?",""],
        ["pages = ['/']\nmarkup = [{ text = '<i>x</i>', place = 'append', at = '.is-late' }]", "", "", "no-place", "error", "'.is-late'", "start = \"appears .is-late\"",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<i>x</i>', place = 'append', at = 'p' }]", "", "", "many-places", "note", "'p'", "matches 2 elements",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<i id=fares>x</i>', place = 'append', at = 'h2' }]", "", "", "duplicate-id", "error", "fares", "2 times",""],
        ["pages = ['/fares/*']\nmark = [{ id = 'a', at = 'h2' }]\nmarkup = [{ text = '<i id=a>x</i>', place = 'after', at = 'h2' }]", "", "", "duplicate-id", "error", "'a'", "2 times","duplicate-id"],
        ["pages = ['/fares/*']\nscript = 'p.js'\nmarkup = [{ text = '<button onclick=\"closeId()\">x</button>', place = 'append', at = 'h2' }]", "", "function closeIt() {}", "missing-library", "warning", "closeId", "did you mean `closeIt`?",""],
        ["pages = ['/fares/*']\nmark = [{ id = 'a', at = 'main' }]", "", "", "taken-id", "error", "'a'", "use `#fares`",""],
        ["pages = ['/fares/*']\nmark = [{ id = 'a', at = '.nope' }]", "", "", "no-place", "error", "'.nope'", "the mark is not put in",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nstart = 'seen #fare'", "", "1", "never-starts", "error", "'seen #fare'", "did you mean `#fares`?",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nstart = 'playing h2 at 3s'", "", "1", "never-starts", "error", "'playing h2 at 3s'", "has no clock",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nstart = 'appears h2'", "", "1", "starts-at-once", "note", "'appears h2'", "from the beginning",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nstart = 'leaving'", "", "1", "never-starts", "note", "'leaving'", "touch screen",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nfrom = 2028-01-01\nuntil = 2027-01-01", "", "1", "never-starts", "error", "2027-01-01", "the earlier date as `from`",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nuntil = 2020-01-01", "", "1", "past-date", "warning", "2020-01-01", "still to come",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'\nonce = 'visitor'", "h2{opacity:.9}", "", "never-starts", "warning", "p", "nothing to begin",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'\nvalues = { size = '12px' }", "h2{font-size:{{sise}}}", "", "unfilled", "error", "{{sise}}", "did you mean `{{size}}`?",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "document.getElementById('ELEMENT_ID')", "unfilled", "warning", "ELEMENT_ID", "your own",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "console.log(new Date(2027, 12, 24))", "in-vain", "warning", "new Date(2027, 12, 24)", "write 11",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<a href=\"LINK_URL\">x</a>', place = 'append', at = '#fares' }]", "", "", "unfilled", "warning", "LINK_URL", "the address that is meant",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "const key = 'YOUR-KEY'", "unfilled", "warning", "YOUR-KEY", "your own",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nvalues = { when = 2020-01-01 }", "", "console.log(values.when)", "past-date", "warning", "2020-01-01", "is past",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nvalues = { when = '3px' }", "", "console.log(1)", "unused-value", "warning", "when", "in the pin's files",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'\nvalues = { c = { type = 'colour', value = 'tael' } }", "h2{color:{{c}}}", "", "bad-value", "error", "'tael'", "`#a33400`",""],
        ["pages = ['/fares/*']\nscript = 'p.js'\nvalues = { l = { type = 'list', value = ['a'], each = 'p' } }", "", "console.log(values.l)", "count-differs", "error", "'a'", "add 1 entry",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'\nscript = 'p.js'", "h2{outline: 1px solid #a33400}", "document.body.style.color = '#A33400'", "same-number", "note", "#a33400", "stands in 2 files",""],
        ["skip = ['*']\nstyle = 'p.css'", "h2{}", "", "no-page", "error", "'*'", "no page at all",""],
        ["pages = ['/fares/*']\nwithin = '#Fares'\nstyle = 'p.css'", "h2{}", "", "no-element", "error", "'#Fares'", "did you mean `#fares`?",""],
        ["pages = ['/fares/*']\nwithin = '#title'\nstyle = 'p.css'", "h2{}", "", "no-element", "error", "'#title'", "did you mean `.title`?",""],
        ["having = '.wyde'\nstyle = 'p.css'", "h2{}", "", "no-element", "error", "'.wyde'", "did you mean `.wide`?",""],
        ["within = '#fares'\nstyle = 'p.css'", "h2{}", "", "no-element", "error", "'#fares'", "add `having = \"#fares\"`",""],
        ["pages = ['/']\nwithin = '.is-late'\nstyle = 'p.css'", "p{}", "", "at-run-time", "note", "'.is-late'", "adds it at run time",""],
        ["pages = ['/fares/*']\nwithin = '#twice'\nstyle = 'p.css'", ":scope{}", "", "many-elements", "warning", "'#twice'", "has it 2 times",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'", ".titel{}", "", "no-match", "error", ".titel", "did you mean `.title`?",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'", "h2, .gone{}", "", "no-match", "warning", ".gone", "nor anything of nearly that name",""],
        ["pages = ['/fares/*']\nwithin = 'p'\nstyle = 'p.css'", "h2{}", "", "empty-fence", "error", "h2", "matches outside of `p`",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'", "p > h2{}", "", "no-match", "error", "p > h2", "not in this relation",""],
        ["pages = ['/']\nstyle = 'p.css'", ".is-late{}", "", "at-run-time", "note", ".is-late", "`app.js:1` adds `.is-late`",""],
        ["pages = ['/']\nstyle = 'p.css'\nscript = 'p.js'", ".mine{}", "x.className = 'mine'", "at-run-time", "note", ".mine", "`p.js:1` adds `.mine`","missing-library"],
        ["style = 'p.css'", "h2{}", "", "partly-matched", "note", "h2", "on 2 of its 3 pages",""],
        ["style = 'p.css'", "body{colr:red}", "", "dropped-declaration", "error", "colr", "did you mean `color`?",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'\nexpect = { pages = 1 }", "h2{}", "", "too-wide", "error", "1", "is on 2 pages, and it expects to be on 1",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'\nexpect = { elements = 1 }", "p{opacity:.9}", "", "too-wide", "error", "1", "touches 2 elements on `/fares/`",""],
        ["pages = ['/fares/*']\nwithin = '#fares'\nstyle = 'p.css'\nexpect = { pages = 2, elements = 3 }", "p{opacity:.9}", "", "too-wide", "error", "3", "touches 1 element",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'", "@keyframes sail{to{opacity:.9}}", "", "leak", "warning", "@keyframes sail", "of the same name",""],
        ["style = 'p.css'", "body{width: 10}", "", "dropped-declaration", "error", "width: 10", "a length needs a unit",""],
        ["style = 'p.css'", "body{color: blu}", "", "dropped-declaration", "error", "color: blu", "`blu` is no value of `color`",""],
        ["pages = ['/fares/*']\nwithin = '[id=fares]'\nstyle = 'p.css'", "main > :nth-child(3) {}", "", "brittle-target", "warning", "main > :nth-child(3)", "counts siblings",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'", "h2{color:navy}", "", "beaten", "error", "color:navy", "by specificity, (0,1,0) over (0,0,1)",""],
        ["pages = ['/fares/*']\nwithin = '#fares'\nstyle = 'p.css'", "h2{margin:0}", "", "beaten", "error", "margin:0", "only `!important` beats `!important`",""],
        ["pages = ['/fares/*']\nstyle = 'p.css'", "p{color:navy}", "", "partly-beaten", "warning", "color:navy", "only `!important` beats a style attribute",""],
        ["pages = ['/fares/*']\nwithin = '#fares'\nstyle = 'p.css'", "h2{color:navy !important}", "", "needless-important", "note", "color:navy", "wins without",""],
        ["pages = ['/fares/*']\nwithin = '#fares'\nstyle = 'p.css'", "h2{color:teal}", "", "no-change", "note", "color:teal", "changes nothing",""],
        ["pages = ['/fares/*']\nwithin = '#fares'\nstyle = 'p.css'\n[pin.q]\nstyle = 'q.css'", "h2{padding:0}", "", "pin-clash", "warning", "padding: 1px", "that of `p` wins by specificity, (1,0,1) over (0,0,1)","partly-matched"],
        ["style = 'p.css'", "body{color:red\n margin:0}", "", "dropped-declaration", "error", "color:red", "semicolon before `margin`",""],
        ["style = 'p.css'", "body{color red}", "", "dropped-declaration", "error", "color red", "no colon after it",""],
        ["style = 'p.css'", "body{color:'red}\n", "", "dropped-declaration", "error", "'red}", "quote is not closed",""],
        ["style = 'p.css'", "body{color:red} /* x", "", "dropped-declaration", "error", "/", "comment is never closed",""],
        ["style = 'p.css'", "body{color:red}} body{margin:0}", "", "dropped-declaration", "error", "}", "closes nothing",""],
        ["style = 'p.css'", "body{// x\n color:red}", "", "dropped-declaration", "error", "// x", "starts no comment",""],
        ["style = 'p.css'", "body:hovr{}", "", "bad-selector", "error", "body:hovr", "did you mean `:hover`?",""],
        ["style = 'p.css'", "@include x;", "", "dropped-declaration", "error", "@include", "for a preprocessor",""],
        ["style = 'p.css'", "body{ @extend .x; }", "", "dropped-declaration", "error", "@extend", "for a preprocessor",""],
        ["style = 'p.css'", "@medai print{}", "", "dropped-declaration", "error", "@medai", "did you mean `@media`?",""],
        ["style = 'p.css'", ".1a{}", "", "bad-selector", "error", ".1a", "no name begins with a digit",""],
        ["style = 'p.css'", "body..x{}", "", "bad-selector", "error", "body..x", "a dot has no name of a class",""],
        ["style = 'p.css'", "body{text-align: centre}", "", "dropped-declaration", "error", "text-align: centre", "`text-align: center`",""],
        ["style = 'p.css'", "body, body::-moz-selection{}", "", "bad-selector", "warning", "body::-moz-selection", "give this selector a rule of its own",""],
        ["style = 'p.css'", "body::before:hover{}", "", "bad-selector", "error", "body::before:hover", "put that before the pseudo-element",""],
        ["style = 'p.css'", "body{width: calc(100%-10px)}", "", "dropped-declaration", "error", "width: calc(100%-10px)", "is no value of `width`",""],
        ["style = 'p.css'", "@media (max-width: 600) { body{opacity:.9} }", "", "bad-query", "error", "(max-width: 600)", "did you mean `600px`?",""],
        ["style = 'p.css'", "@media print, phone { body{opacity:.9} }", "", "bad-query", "warning", "phone", "the other parts decide alone",""],
        ["style = 'p.css'", "@media screen and max-width: 6px { body{opacity:.9} }", "", "bad-query", "error", "screen", "write `screen and (max-width: 6px)`",""],
        ["style = 'p.css'", "@container (min-width: 300) { body{opacity:.9} }", "", "bad-query", "error", "(min-width: 300)", "`300px`",""],
        ["style = 'p.css'", "@supports (display: grdi) { body{opacity:.9} }", "", "bad-query", "error", "(display: grdi)", "did you mean `display: grid`?",""],
        ["style = 'p.css'", "@supports display: grid { body{opacity:.9} }", "", "bad-query", "error", "display: grid", "without brackets",""],
        ["style = 'p.css'", "<style>\nbody{opacity:.9}\n</style>", "", "foreign-text", "error", "<style>", "take the tags out",""],
        ["style = 'p.css'", "<!-- body{opacity:.9} -->", "", "foreign-text", "warning", "<!--", "what stands behind it applies",""],
        ["style = 'p.css'", "body::before{content: '&nbsp;'}", "", "foreign-text", "error", "&nbsp;", "write `",""],
        ["style = 'p.css'", "body{color:\u{a0}red}", "", "foreign-text", "error", "\u{a0}red", "a no-break space",""],
        ["style = 'p.css'", "body{background:url(“a.png”)}", "", "foreign-text", "error", "“a.png”", "straight quotes","missing-file"],
        ["style = 'p.css'", "body{text-wrap: pretty}", "", "not-everywhere", "warning", "text-wrap: pretty", "Firefox drops",""],
        ["style = 'p.css'", "body{text-wrap: balance; text-wrap: pretty}", "", "not-everywhere", "note", "text-wrap: pretty", "goes by what stands beside it",""],
        ["style = 'p.css'", "body{-moz-border-radius: 3px}", "", "not-everywhere", "warning", "-moz-border-radius", "write `border-radius: 3px` behind it",""],
        ["style = 'p.css'", "body, body::checkmark{opacity:.9}", "", "not-everywhere", "warning", "body::checkmark", "drops the whole rule",""],
        ["style = 'p.css'", "body{font: $base}", "", "dropped-declaration", "error", "font: $base", "variables of a preprocessor",""],
        ["style = 'p.css'", "body, . front{opacity:.9}", "", "bad-selector", "error", ". front", "did you mean `body, .front`?",""],
        ["style = 'p.css'", "body{animation: fade 1s}", "", "unset-name", "error", "animation: fade 1s", "nothing there has `@keyframes fade`",""],
        ["style = 'p.css'", "@keyframes fades{to{opacity:.9}} body{animation: fade 1s}", "", "unset-name", "error", "animation: fade 1s", "did you mean `fades`?",""],
        ["style = 'p.css'", ":root{--ink: red} body{color: var(--inc)}", "", "unset-name", "error", "color: var(--inc)", "did you mean `--ink`?",""],
        ["style = 'p.css'", "body{z-index: 2}", "", "no-effect", "warning", "z-index: 2", "add `position: relative`",""],
        ["style = 'p.css'", "body{gap: 2em}", "", "no-effect", "warning", "gap: 2em", "flex containers and grids",""],
        ["style = 'p.css'", "body{position: sticky}", "", "no-effect", "warning", "position: sticky", "no edge",""],
        ["style = 'p.css'", "body::before{color: red; top: 0}", "", "no-effect", "error", "color: red", "add `content: ",""],
        ["style = 'p.css'", "body{vertical-align: middle}", "", "no-effect", "warning", "vertical-align", "is a block",""],
        ["style = 'p.css'", "body a[href=#x]{}", "", "bad-selector", "error", "body a[href=#x]", "did you mean `body a[href=\"#x\"]`?",""],
        ["style = 'p.css'", "body::hover{}", "", "bad-selector", "error", "body::hover", "did you mean `body:hover`?",""],
        ["style = 'p.css'", "#.front{}", "", "bad-selector", "error", "#.front", "did you mean `.front`?",""],
        ["style = 'p.css'", "body:nth-child(2 n){}", "", "bad-selector", "error", "body:nth-child(2 n)", "did you mean `body:nth-child(2n)`?",""],
        ["style = 'p.css'", "body{padding: auto}", "", "dropped-declaration", "error", "padding: auto", "centres a block",""],
        ["style = 'p.css'", "body{padding: -1px}", "", "dropped-declaration", "error", "padding: -1px", "no negative value",""],
        ["style = 'p.css'", "body{float: center}", "", "dropped-declaration", "error", "float: center", "nothing floats in the middle",""],
        ["style = 'p.css'", "body{color: #12345}", "", "dropped-declaration", "error", "color: #12345", "3, 4, 6 or 8 digits",""],
        ["style = 'p.css'", "body{bg-color: red}", "", "dropped-declaration", "error", "bg-color", "did you mean `background-color`?",""],
        ["style = 'p.css'", "body{line-clamp: 3}", "", "dropped-declaration", "warning", "line-clamp: 3", "put what all take before it",""],
        ["style = 'p.css'", "body{flex: 1}", "", "no-effect", "warning", "flex: 1", "what stands in a flex container",""],
        ["style = 'p.css'", "body{opacity: 50}", "", "no-effect", "warning", "opacity: 50", "from 0 to 100%",""],
        ["style = 'p.css'", "@apply x;", "", "dropped-declaration", "error", "@apply", "for a preprocessor",""],
        ["style = 'p.css'", "body{ @apply x; }", "", "dropped-declaration", "error", "@apply", "for a preprocessor",""],
        ["style = 'p.css'", "@sorrel { body{opacity:.9} }", "", "dropped-declaration", "error", "@sorrel", "dropped with its block",""],
        ["style = 'p.css'", "body{ &-small{opacity:.9} }", "", "bad-selector", "error", "&-small", "write the whole name",""],
        ["style = 'p.css'", "body{ .gone{opacity:.9} }", "", "no-match", "error", ".gone", "inside of `body`",""],
        ["style = 'p.css'", "body{ opacity:.9; .gone &, &{opacity:.8} }", "", "no-match", "warning", ".gone &", "inside of `body`",""],
        ["style = 'p.css'", "body{ ..x{opacity:.9} }", "", "bad-selector", "error", "..x", "a dot has no name",""],
        ["style = 'p.css'", ".gone{ opacity:.9; b{opacity:.9} &:hover{opacity:.8} }", "", "no-match", "error", ".gone", "nor anything of nearly that name",""],
        ["style = 'p.css'", "body{width: var(width)}", "", "dropped-declaration", "error", "width: var(width)", "is no value of `width`",""],
        ["style = 'p.css'", "@scope (body) { .gone{opacity:.9} }", "", "no-match", "error", ".gone", "nor anything of nearly that name",""],
        ["style = 'p.css'", "// x\nbody{}", "", "bad-selector", "error", "// x", "write `/* … */`",""],
        ["script = 'p.js'", "", "let a = ;", "bad-syntax", "error", ";", "runs none of it",""],
        ["script = 'p.js'", "", "f(", "bad-syntax", "error", "(", "runs none of it",""],
        ["script = 'p.js'", "", "import a from 'b'", "bad-syntax", "error", "import", "classic script",""],
        ["style = 'p.csv'", "", "", "missing-file", "error", "'p.csv'", "did you mean `p.css`?",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "const own = 'q.csv'; fetch(own)", "missing-file", "note", "fetch(own)", "unless a server makes it",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "fetch('q.css'); fetch('/api'); fetch('https://a.example/x.json').catch(String); fetch('../ap.js')", "missing-file", "warning", "fetch('../ap.js')", "did you mean `../app.js`?",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "import('./w.js')", "missing-file", "note", "'./w.js'", "nor one beside the script",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "new Image().src = './qq.css'", "missing-file", "warning", "new Image().src = './qq.css'", "did you mean `./q.css`?",""],
        ["pages = ['/fares/*']\nscript = 'p.js'", "", "for (const n of ['q']) document.body.dataset.file = `${n}` + './' + n + '.css'; fetch('./q' + '.css')", "missing-file", "warning", "'./q' + '.css'", "`q.css`",""],
        ["pages = ['/fares/*']\nmarkup = [{ text = '<a href=\"../app.js\">x</a>', place = 'append', at = 'h2' }]\nstyle = 'p.css'", "h2{background:url(no.png)}", "", "missing-file", "warning", "url(no.png)", "cannot be loaded",""],
        ["style = 'p.css'", "body{background:url(no.png)}", "", "missing-file", "warning", "url(no.png)", "`no.png` cannot be loaded",""],
        ["within = 'body'\nstyle = 'p.css'", "@page{margin:0}", "", "not-confined", "warning", "@page", "how the whole page is printed",""],
        ["style = 'p.css'", "@import 'x.css';", "", "not-confined", "error", "'x.css'", "cannot be taken in",""],
        ["script = 'p.js'\nafter = ['p']", "", "", "cycle", "error", "'p'", "`p` comes after itself",""],
        ["script = 'p.js'\n[library.l]\nscript = 'p.js'", "", "", "unused-library", "warning", "l", "no pin needs the library `l`",""],
    ];
    for [keys, css, js, code, severity, marked, words, others] in table {
        let session = pinned(keys, css, js);
        let answer = session.run("check --format json");
        let json = answer.json();
        let shown = format!("{keys}\n{css}\n{js}\n{json:#}");
        let findings = json["findings"].as_array().unwrap();
        let finding = findings.iter().find(|f| f["code"] == *code).unwrap_or_else(|| panic!("{shown}"));
        let mut codes = answer.codes();
        codes.remove(codes.iter().position(|other| other == code).unwrap());
        assert_eq!(codes.join(" "), *others, "{shown}");
        assert_eq!(finding["severity"], *severity, "{shown}");
        let text = session.read(finding["file"].as_str().unwrap());
        let line = text.lines().nth(finding["line"].as_u64().unwrap() as usize - 1).unwrap_or_default();
        let from = finding["column"].as_u64().unwrap() as usize - 1;
        assert!(
            line[from..].starts_with(marked.lines().next().unwrap()),
            "{marked:?} is not marked in {line:?}: {shown}"
        );
        let told = format!("{} {}", finding["message"], finding["help"]).replace("\\\"", "\"");
        assert!(told.contains(words), "{words:?}: {shown}");
        let is_failed = findings.iter().any(|finding| finding["severity"] == "error");
        assert_eq!(answer.status, i32::from(is_failed), "{shown}");
    }
}

#[test]
fn where_all_is_well_nothing_is_said() {
    let session = pinned(
        "pages = ['/fares/*']\nwithin = '#fares'\nstyle = 'p.css'\nscript = 'p.js'",
        "h2:hover { color: red }",
        "document.title += 1",
    );
    let answer = session.good("check");
    assert_eq!(answer.stdout, "");
    assert!(answer.stderr.starts_with("nothing to say about 1 pin on 2 of 3 pages"), "{}", answer.stderr);
    assert_eq!(session.good("check -q").stderr, "");
}

#[test]
fn the_same_finding_on_many_pages_is_told_once_with_the_pages() {
    let session = pinned("pages = ['/fares/*']\nwithin = '#nothing'\nstyle = 'p.css'", "h2{}", "");
    for page in 0..50 {
        session.write(&format!("site/fares/{page}.html"), PAGE);
    }
    let answer = session.run("check --format json").json();
    assert_eq!(answer["pages"], 53);
    assert_eq!(answer["findings"].as_array().unwrap().len(), 1);
    assert_eq!(answer["findings"][0]["pages"].as_array().unwrap().len(), 52);
    let text = session.run("check").stdout;
    assert!(text.contains("and 48 more pages") && text.lines().count() < 20, "{text}");
}

#[test]
fn answers_do_not_depend_on_threads() {
    let session = pinned("style = 'p.css'", ".a{} .b{} h2{} .is-late{} p > h2{}", "");
    for page in 0..200 {
        session.write(&format!("site/p{page}.html"), if page % 7 == 0 { "<p class=a>" } else { PAGE });
    }
    let with = |threads: &str| {
        session.command("check --format json").env("RAYON_NUM_THREADS", threads).output().unwrap().stdout
    };
    assert_eq!(with("1"), with("4"));
}

#[test]
fn severities_decide_the_exit_status() {
    let session = pinned("style = 'p.css'", "h2{}", "");
    assert_eq!(session.run("check").status, 0, "a note alone");
    assert_eq!(session.run("check --fail-on note").status, 1);
    assert_eq!(session.run("check --fail-on warning").status, 0);
    assert_eq!(session.run("check --fail-on never").status, 2);
}

#[test]
fn text_for_a_person_fits_shows_the_lines_and_obeys_nobody() {
    let session =
        pinned("pages = ['/fares/*']\nstyle = 'p.css'", ".\u{202e}\u{1b}Mx{}\n.titel { color: red }", "");
    session.write("site/fares/\u{1b}[2Jx.html", PAGE);
    let answer = session.run("check --color always");
    assert!(
        answer.stdout.contains("\u{1b}[") && answer.stdout.contains(".titel { color: red }"),
        "{}",
        answer.stdout
    );
    let plain = session.run("check --color never").stdout;
    assert!(!plain.contains('\u{1b}') && !plain.contains('\u{202e}'), "{plain:?}");
    assert!(plain.lines().all(|line| line.chars().count() <= 100), "{plain}");
    let no_color = session.command("check").env("NO_COLOR", "1").output().unwrap();
    assert!(!String::from_utf8(no_color.stdout).unwrap().contains('\u{1b}'));
}

/// What the board answers with `accept` is told no more, and an entry that answers nothing is.
#[test]
fn what_has_been_answered_is_not_told_again() {
    let css = "h2 { display: none }\n.gone {}";
    let on = "pages = ['/fares/*']\nstyle = 'p.css'";
    let table: &[(&str, &[&str])] = &[
        ("", &["no-match", "stays-hidden"]),
        ("accept = ['stays-hidden']", &["no-match"]),
        ("accept = ['stays-hidden', 'no-match']", &[]),
        ("[check]\naccept = ['stays-hidden', 'no-match']", &[]),
        ("accept = ['stays-hidden']\n[check]\naccept = ['no-match']", &[]),
        // Each finding is answered by its own pin's entry first.
        ("accept = ['no-match']\n[check]\naccept = ['no-match', 'stays-hidden']", &["answers-nothing"]),
        ("accept = ['no-page', 'stays-hidden']", &["answers-nothing", "no-match"]),
        ("accept = ['stays-hiden']", &["answers-nothing", "no-match", "stays-hidden"]),
        ("[check]\naccept = ['under']", &["answers-nothing", "no-match", "stays-hidden"]),
        ("off = true\naccept = ['under']", &[]),
    ];
    for (keys, codes) in table {
        let session = pinned(&format!("{on}\n{keys}"), css, "");
        let answer = session.run("check --format json");
        let mut told = answer.codes();
        told.sort();
        assert_eq!(told, *codes, "{keys}");
        assert_eq!(answer.status, i32::from(codes.contains(&"no-match")), "{keys}");
    }
    let session = pinned(&format!("{on}\naccept = ['stays-hiden']"), css, "");
    assert!(session.run("check").stdout.contains("did you mean `stays-hidden`?"));
}

#[test]
fn some_pins_alone_can_be_looked_at_with_their_libraries() {
    let session = pinned("style = 'p.css'\nneeds = ['l']", "body { colr: red }", "");
    session.write(
        "deft-pin.toml",
        session.read("deft-pin.toml")
            + "[pin.q]\nstyle = 'q2.css'\n[pin.r]\noff = true\nstyle = 'q.css'\n[library.l]\nscript = 'no.js'\n\
               [library.m]\nscript = 'nor.js'\n[check]\naccept = ['under']\n",
    );
    session.write("q2.css", ".gone {}");
    let codes = |arguments: &str| {
        let mut codes = session.run(&format!("check --format json {arguments}")).codes();
        codes.sort();
        codes.join(" ")
    };
    assert_eq!(
        codes(""),
        "answers-nothing dropped-declaration missing-file missing-file no-match unused-library"
    );
    assert_eq!(codes("p"), "dropped-declaration missing-file");
    assert_eq!(codes("q"), "no-match");
    assert_eq!(codes("q p"), "dropped-declaration missing-file no-match");
    assert!(session.good("check r").stderr.contains("the pin `r` is off"));
    session.refused("check z", "the board has no pin `z`");
}

#[test]
fn a_build_in_quiet_repeats_no_notes_and_ends_well_where_it_was_told_to_go_on() {
    let session = pinned("style = 'p.css'", "h2 { opacity: .9 } .gone {}", "");
    assert!(session.run("build --out out").stderr.contains("partly-matched"));
    let quiet = session.run("build --out out -q").stderr;
    assert!(!quiet.contains("partly-matched") && quiet.contains("no-match"), "{quiet}");
    assert_eq!(session.run("build --out out").status, 1);
    session.good("build --out out --anyway");
}

/// What Chromium does not know of selectors counts in the engines that do.
#[test]
fn why_knows_the_selectors_of_other_engines() {
    let page = "<!doctype html><html lang=en-GB><title>x</title><style>
        p { color: red }
        p:is(:-moz-any-link, .a), p:-moz-focusring { color: green }
        p, p:-moz-user-disabled { left: 1px }
        p, p::-ms-clear { left: 2px }
        p:lang(\"en\", \"de\") { top: 1px }
        [class=\"a\" s] { right: 2px }
        p, p::-webkit-nope { order: 3 }
        </style><p class=a>x</p>";
    let session = Session::with(&[("site/index.html", page)]);
    for (engine, property, winner) in [
        ("chromium", "color", Some("red")),
        ("firefox", "color", Some("green")),
        ("safari", "color", Some("red")),
        ("chromium", "left", None),
        ("firefox", "left", Some("1px")),
        ("safari", "left", None),
        ("chromium", "top", None),
        ("firefox", "top", Some("1px")),
        ("chromium", "right", None),
        ("firefox", "right", Some("2px")),
        ("firefox", "order", Some("3")),
        ("chromium", "order", Some("3")),
    ] {
        let answer =
            session.good(&format!("why --site site / p {property} --engine {engine} --format json")).json();
        let found = answer["elements"][0]["properties"][0]["winner"]["value"].as_str();
        assert_eq!(found, winner, "{engine} {property}: {answer:#}");
    }
}

/// Which engines count is the board's to say, and `why` answers for any of them.
#[test]
fn engines_that_do_not_count_are_not_told_and_can_be_asked() {
    let css = "h2 { text-wrap: balance; text-wrap: pretty; vertical-align: center; -moz-user-select: none } h2, h2::checkmark { order: 1 }";
    let on = "pages = ['/fares/*']\nstyle = 'p.css'\naccept = ['no-effect', 'no-match']";
    for (engines, told) in [
        ("", 4),
        ("engines = ['chromium', 'firefox', 'safari']", 4),
        ("engines = ['chromium']", 2),
        ("engines = ['safari']", 1),
        ("engines = ['firefox']", 2),
    ] {
        let session = pinned(on, css, "");
        let board =
            session.read("deft-pin.toml").replace("root = 'site'", &format!("root = 'site'\n{engines}"));
        session.write("deft-pin.toml", board);
        let codes = session.run("check --format json").codes();
        let found = codes.iter().filter(|code| *code == "not-everywhere").count();
        assert_eq!(found, told, "{engines}: {codes:?}");
    }
    let session = pinned(on, css, "");
    for (engine, property, value) in [
        ("chromium", "text-wrap", "pretty"),
        ("safari", "text-wrap", "pretty"),
        ("firefox", "text-wrap", "balance"),
        ("firefox", "vertical-align", "center"),
        ("chromium", "vertical-align", ""),
        ("firefox", "order", ""),
        ("chromium", "order", "1"),
    ] {
        let why = session.good(&format!("why /fares/ h2 {property} --engine {engine} --format json")).json();
        let found = why["elements"][0]["properties"].as_array().unwrap();
        let winners: Vec<_> = found.iter().filter_map(|own| own["winner"]["value"].as_str()).collect();
        let is_it = if value.is_empty() { winners.is_empty() } else { winners.contains(&value) };
        assert!(is_it, "{engine} {property}: {why:#}");
    }
    session.refused("why /fares/ h2 --engine gecko", "possible values");
    let board =
        session.read("deft-pin.toml").replace("root = 'site'", "root = 'site'\nengines = ['firefix']");
    session.write("deft-pin.toml", board);
    session.refused("check", "did you mean `firefox`?");
}

/// What people paste and what is right, on a page that has a use for all of it.
#[rustfmt::skip]
const RIGHT: &[&str] = &[
    ".card { display: flex; gap: 1rem; align-items: center; border: 1px solid #ccc; border-radius: 8px; padding: 1rem } .card:hover { box-shadow: 0 2px 8px rgb(0 0 0 / .2) } .note { color: #555; font: 400 1rem/1.5 system-ui, sans-serif }",
    ".note::before { content: '\\201C'; font-size: 3em; position: absolute; left: -0.5em; top: 0 } .note { position: relative }",
    "@media (max-width: 40em) { .card { flex-direction: column } } .card { display: flex }",
    "@media (prefers-reduced-motion: no-preference) { .title { animation: rise .4s ease-out both } } @keyframes rise { from { opacity: 0; transform: translateY(1em) } }",
    ":root { --accent: #0d5c75 } .title { color: var(--accent); border-bottom: 2px solid currentColor }",
    ".list { list-style: none; margin: 0; padding: 0; display: grid; grid-template-columns: repeat(auto-fit, minmax(10rem, 1fr)); gap: 1rem } .list li { padding: .5rem }",
    "img { max-width: 100%; height: auto; display: block; object-fit: cover }",
    "a { color: inherit; text-decoration: none; transition: color .2s } a:hover { color: teal } a:focus-visible { outline: 2px solid teal; outline-offset: 2px }",
    "table { width: 100%; border-collapse: collapse } td { padding: .5rem; text-align: left; border-bottom: 1px solid #ddd; vertical-align: top }",
    ".topbar { position: sticky; top: 0; z-index: 10; background: white }",
    ".title { background: linear-gradient(90deg, teal, navy); -webkit-background-clip: text; background-clip: text; -webkit-text-fill-color: transparent; color: transparent }",
    ".note { display: -webkit-box; -webkit-line-clamp: 3; -webkit-box-orient: vertical; overflow: hidden }",
    ".note { width: min(100%, 60ch); margin-inline: auto; padding-block: 1em }",
    ".card { container-type: inline-size } @container (min-width: 30em) { .note { columns: 2; column-gap: 2em } }",
    ".title { text-wrap: balance; letter-spacing: -.01em; font-variant-numeric: tabular-nums }",
    "input[type=text] { border-color: teal; accent-color: teal } input::placeholder { color: #999 }",
    ".card { backdrop-filter: blur(4px); -webkit-backdrop-filter: blur(4px); background: rgb(255 255 255 / .8) }",
    ".wide { margin-left: calc(50% - 50vw); width: 100vw }",
    "html { scroll-behavior: smooth; scroll-padding-top: 4rem } ::selection { background: gold }",
    ".note b { display: inline-block; transform: rotate(-2deg) }",
    ".card { position: relative } .card::after { content: ''; position: absolute; inset: 0; pointer-events: none; border: 2px dashed teal }",
    ".brand { background: url(data:image/png;base64,iVBORw0KGgo=) no-repeat left center / contain; padding-left: 2em }",
    "@media print { .topbar { display: none } a[href]::after { content: ' (' attr(href) ')' } }",
    "@supports (display: grid) { .list { display: grid; gap: 1em } }",
    "@layer base, theme; @layer theme { .title { color: teal } }",
    ".card { &:hover { color: teal } & .note { margin: 0 } @media (min-width: 40em) { padding: 2em } }",
    ".list { columns: 2 } .list li { break-inside: avoid }",
    ".note { -webkit-line-clamp: 3; line-clamp: 3; display: -webkit-box; -webkit-box-orient: vertical; overflow: hidden }",
    ".card { > .note { margin: 0 } .note:is(p) { b { margin: 0 } } }",
    "@scope (.card) { > .note { margin: 0 } :scope { opacity: .9 } .note b { margin: 0 } & > .list { margin: 0 } }",
    "@namespace url(http://www.w3.org/1999/xhtml); @namespace s url(http://www.w3.org/2000/svg); .note { margin: 0 }",
    "@font-face { font-family: 'Sorrel'; src: local('Sorrel'), url(data:font/woff2;base64,AAAA) format('woff2'); font-display: swap } .title { font-family: Sorrel, serif }",
];

#[test]
fn right_styles_draw_nothing() {
    let page = "<!doctype html><title>t</title><body class=front><header class=topbar><a class=brand href=/>S</a></header>\
        <main id=content class=container-fluid><h1 class=title>Ferries</h1><section id=status class='card wide'><p class=note>Note <b>bold</b></p>\
        <ul class=list><li>a</li><li>b</li></ul><img src=a.png alt=''><input type=text><table><tr><td>x</td></tr></table></section></main>";
    for within in ["", "within = 'body'"] {
        for style in RIGHT {
            let session = Session::with(&[
                ("deft-pin.toml", &format!("[site]\nroot = 'site'\n[pin.p]\nstyle = 'p.css'\n{within}\n")),
                ("p.css", style),
                ("site/index.html", page),
            ]);
            let told = session.run("check --format json");
            let codes: Vec<_> = told.codes().into_iter().filter(|code| code != "empty-fence").collect();
            assert_eq!(codes, Vec::<String>::new(), "{within} {style}\n{}", told.stdout);
        }
    }
}

#[test]
fn hostile_files_get_an_answer() {
    let deep = "<div>".repeat(100_000);
    let session = pinned(
        "style = 'p.css'\nscript = 'p.js'",
        &format!("{}{{}}", ":is(".repeat(50_000)),
        &"(".repeat(50_000),
    );
    session.write("site/deep.html", deep);
    session.write("site/nul.html", vec![0u8; 100_000]);
    session.write(
        "site/attrs.html",
        format!("<p {}>", (0..50_000).map(|n| format!("a{n}=1 ")).collect::<String>()),
    );
    session.write("site/open.html", "<!--".repeat(100_000));
    session.write("site/utf16.html", b"\xff\xfe<\0p\0".repeat(20_000));
    let answer = session.run("check --format json");
    assert_eq!(answer.status, 1, "{}", answer.stderr);
    assert!(answer.codes().contains(&"bad-syntax".to_owned()));
    session.good("build --out out --anyway");
}

/// What a sheet of a pin is told of, on a page with a bar that stays, a title and an offer.
#[test]
fn styles_that_come_to_little_are_told() {
    let page = "<!doctype html><head><link rel=stylesheet href=/s.css></head><body><div class=bar>b</div>\
        <main id=m><h2 class=title>t</h2><p class=offer>o</p></main><script>f('more', 'is-open')</script>";
    let site = "@font-face { font-family: Quay; src: url(q.woff2) }\n.bar { position: sticky; z-index: 50 }\n\
        .offer.is-shown { display: block }";
    let table: [(&str, &str, &[&str]); 47] = [
        // A sheet of fonts on another host stays where it stands, in front, where nothing confines the pin.
        (
            "",
            "@import url('https://fonts.example/css?family=Quai'); h2 { font-family: Quai, serif }",
            &["foreign-asset"],
        ),
        (
            "",
            "h2 { opacity: .9 } @import url('https://fonts.example/x.css');",
            &["foreign-asset", "not-confined"],
        ),
        (
            "within = '#m'",
            "@import url('https://fonts.example/x.css'); h2 { opacity: .9 }",
            &["foreign-asset", "not-confined"],
        ),
        // A name that a script only looks up is one mistake in two places.
        ("script = 'look.js'", "#offers { opacity: .9 }", &["no-match", "lost-lookup"]),
        ("", "h2 { animation: var(--a, none) 1s; color: var(--b, red) }", &[]),
        (
            "",
            "@position-try --up { inset: auto 0 0 auto } @page { margin: 2cm; @top-left { content: 'x' } } h2 { opacity: .9 }",
            &[],
        ),
        // What no element has is not told twice.
        ("", ".gone { color: var(--none); animation: none1 1s }", &["no-match"]),
        ("", "h2 { color: var(--none) }", &["unset-name"]),
        ("", "h2 { gap: 1em } @media (min-width: 9em) { h2 { display: flex } }", &[]),
        ("", "h2 { z-index: 2 } h2:hover { position: relative }", &[]),
        ("", "*, ::before { border-width: 0; animation-duration: 1ms }", &[]),
        ("", "p { --a: 1px; top: var(--a); position: relative }", &[]),
        ("", "main { display: grid } h2 { justify-self: end; grid-column: 1 }", &[]),
        ("", "h2 { -webkit-user-select: none; -moz-user-select: none; user-select: none }", &[]),
        ("", "@supports (text-wrap: pretty) { h2 { text-wrap: pretty } }", &[]),
        ("", "h2 { filter: alpha(opacity=50); *zoom: 1; _top: 1px; width: 1px\\9 }", &[]),
        ("", "h2 { -webkit-box-shadow: 0 0 1px red; box-shadow: 0 0 1px red }", &[]),
        (
            "",
            "@media screen, handheld { h2 { opacity: .9 } } @media (width >= 1px) { h2 { opacity: .9 } }",
            &[],
        ),
        ("", "h2.is-open { opacity: .9 }", &["at-run-time"]),
        ("", "h2::-moz-selection { opacity: .9 }", &[]),
        ("", "h2 { color: rgb(from teal r g b / .5); width: -moz-available; writing-mode: tb-rl }", &[]),
        ("", "h2 { background: -moz-linear-gradient(top, red, blue) }", &[]),
        ("", "h2 { opacity: sibling-index(); font-weight: if(style(--x): 1; else: 2) }", &["not-everywhere"]),
        ("adds = ['is-open']", "h2.is-open { opacity: .9 }", &[]),
        ("adds = ['is-late']", "h2.is-open { opacity: .9 }", &["at-run-time"]),
        ("adds = ['never']\nwithin = '.never'", "h2 { opacity: .9 }", &[]),
        ("within = '#m'", "body { opacity: .9 }", &["empty-fence"]),
        ("within = '#m'", "body h2 { opacity: .9 }", &[]),
        ("", "h2 { font-family: Quai, serif }", &["font-not-loaded"]),
        ("", "h2 { font: 2em/1 'quay', serif }", &[]),
        ("", "h2 { font-family: Georgia }", &["no-fallback-font"]),
        ("", "h2 { font-family: inherit }", &[]),
        ("", "h2 { font-family: var(--f, serif) }", &[]),
        ("", "@font-face { font-family: Buoy; src: url(b.woff2) } h2 { font-family: Buoy, serif }", &[]),
        ("within = '#m'", "@font-face { font-family: B; src: url(b.woff2) } h2 { font: 1px B, serif }", &[]),
        ("", ".title { display: none }", &["stays-hidden"]),
        ("", ".title { opacity: 0 } .title:hover { opacity: 1 }", &[]),
        ("", ".offer { display: none }", &[]),
        ("", "@media print { .title { visibility: hidden } }", &[]),
        ("", "#m { display: none } @media (min-width: 9em) { #m { display: block } }", &[]),
        ("", ".title { position: fixed; z-index: 5 }", &["under"]),
        ("", ".title { position: fixed; z-index: 51 }", &[]),
        ("", "#m { position: relative; z-index: 51 } .title { position: sticky; top: 1px; z-index: 2 }", &[]),
        ("", ".title { position: absolute; z-index: 2 }", &[]),
        ("script = 'p.js'", "#m .offer { opacity: .9 }", &["name-taken"]),
        ("script = 'p.js'\nadds = ['mine']", ".mine { opacity: .9 }", &[]),
        ("script = 'p.js'", ".title { opacity: .9 }", &[]),
    ];
    for (keys, style, codes) in table {
        let session = Session::with(&[
            ("deft-pin.toml", &format!("[site]\nroot = 'site'\n[pin.p]\nstyle = 'p.css'\n{keys}\n")),
            ("p.css", style),
            ("b.woff2", ""),
            ("p.js", "document.body.classList.add('offer', 'mine')"),
            ("look.js", "document.getElementById('offers').hidden = true"),
            ("site/s.css", site),
            ("site/index.html", page),
        ]);
        let mut told = session.run("check --format json").codes();
        let mut codes = codes.to_vec();
        told.sort();
        codes.sort();
        assert_eq!(told, codes, "{keys} {style}");
    }
}

#[test]
fn what_a_sheet_imports_from_beside_the_board_is_taken_in() {
    let session = Session::with(&[
        ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nwithin = '#m'\nstyle = 'pins/p.css'\n"),
        (
            "pins/p.css",
            "@layer top, low;\n@import 'more/a.css' layer(low) screen;\n@import url('p.css');\np { opacity: .9 }\n",
        ),
        ("pins/more/a.css", "@import \"b.css\";\n.b { background: url(i/x.svg); colr: red }\n"),
        ("pins/more/b.css", "\u{feff}@keyframes go { to { opacity: .9 } }\n.b { animation: go 1s }\n"),
        ("pins/more/i/x.svg", "<svg/>"),
        ("site/index.html", "<!doctype html><main id=m><p class=b>x</p></main>"),
    ]);
    let answer = session.run("check --format json").json();
    let finding = &answer["findings"][0];
    assert_eq!(answer["findings"].as_array().unwrap().len(), 1, "{answer}");
    assert_eq!(
        (
            finding["code"].as_str(),
            finding["file"].as_str(),
            finding["line"].as_u64(),
            finding["column"].as_u64()
        ),
        (Some("dropped-declaration"), Some("pins/more/a.css"), Some(2), Some(32))
    );
    session.run("build --out out --anyway");
    let sheets = session.files("out/_pins");
    let (_, sheet) = sheets.iter().find(|(name, _)| name.ends_with(".css")).unwrap();
    let sheet = String::from_utf8(sheet.clone()).unwrap();
    for part in [
        "@layer p-top, p-low;", "@media screen { @layer p-low { ", "@keyframes p-go", "animation: p-go 1s",
        ".b:is(#m, #m *) { background: url(\"x.", "p:is(#m, #m *) { opacity: .9 }",
    ] {
        assert!(sheet.contains(part), "{part}: {sheet}");
    }
    let why = session.run("why / .b animation-name --format json").json();
    let winner = &why["elements"][0]["properties"][0]["winner"];
    assert_eq!(
        (winner["file"].as_str(), winner["line"].as_u64()),
        (Some("pins/more/b.css"), Some(2)),
        "{why}"
    );
    for (import, told) in [
        ("@import 'https://cdn.example/x.css';", "not-confined"),
        ("@import 'nowhere.css';", "not-confined"),
        ("@import '../../out.css';", "not-confined"),
        ("p { opacity: .9 } @import 'more/a.css';", "not-confined"),
    ] {
        session.write("pins/p.css", import);
        let codes = session.run("check --format json").codes();
        assert!(codes.contains(&told.to_owned()), "{import}: {codes:?}");
    }
}

#[test]
fn sarif_says_the_same() {
    let session =
        pinned("pages = ['/fares/*', '/fare/']\nstyle = 'p.css'", "h2{colr:red}\np{color:navy}", "");
    let plain = session.run("check --format json").json();
    let answer = session.run("check --format sarif");
    assert_eq!(answer.status, 1);
    let sarif = answer.json();
    assert_eq!(sarif["version"], "2.1.0");
    let run = &sarif["runs"][0];
    let (results, findings) = (run["results"].as_array().unwrap(), plain["findings"].as_array().unwrap());
    assert!(results.len() == findings.len() && results.len() > 2, "{sarif}");
    for (result, finding) in results.iter().zip(findings) {
        assert_eq!((&result["ruleId"], &result["level"]), (&finding["code"], &finding["severity"]));
        let rule = &run["tool"]["driver"]["rules"][result["ruleIndex"].as_u64().unwrap() as usize];
        assert_eq!(rule["id"], finding["code"]);
        assert!(
            result["message"]["text"].as_str().unwrap().starts_with(finding["message"].as_str().unwrap())
        );
        let place = &result["locations"][0]["physicalLocation"];
        assert_eq!(place["artifactLocation"]["uri"], finding["file"]);
        let region = &place["region"];
        assert_eq!((&region["startLine"], &region["startColumn"]), (&finding["line"], &finding["column"]));
        assert_eq!(
            (&region["endLine"], &region["endColumn"]),
            (&finding["end_line"], &finding["end_column"])
        );
        assert_eq!(result["properties"]["pages"], finding["pages"]);
        let related = result["relatedLocations"].as_array().unwrap();
        assert_eq!(related.len(), finding["related"].as_array().unwrap().len());
    }
}

/// What a pin's script is told of on a page, and, as often, what it must not be told of.
#[test]
fn scripts_that_stop_on_a_page_are_told_and_no_others() {
    let mut wrong = Vec::new();
    for case in crate::cases::SCRIPTS {
        let found: Vec<_> = case
            .session()
            .run("check --format json")
            .codes()
            .into_iter()
            .filter(|code| !matches!(code.as_str(), "unused-library" | "no-page" | "overwrites"))
            .collect();
        if found != case.codes {
            wrong.push(format!("{case:?}: {found:?}"));
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}

/// Scripts as people paste them: what is told of each on its page, and what is not.
#[test]
fn pasted_scripts_are_told_what_they_come_to() {
    let cases = crate::cases::pasted::cases();
    let session = crate::cases::pasted::session(&cases);
    let answer = session.run("check --format json --today 2026-11-26").json();
    let findings = answer["findings"].as_array().unwrap();
    let mut by_pin: HashMap<&str, Vec<String>> = HashMap::new();
    for finding in findings.iter().filter(|finding| finding["severity"] != "note") {
        let one = format!("{} {}", finding["severity"].as_str().unwrap(), finding["code"].as_str().unwrap());
        let told = by_pin.entry(finding["pin"].as_str().unwrap_or_default()).or_default();
        if !told.contains(&one) {
            told.push(one);
        }
    }
    let mut wrong = Vec::new();
    for (at, case) in cases.iter().enumerate() {
        let told = by_pin.remove(&*format!("c{at}")).unwrap_or_default();
        if told != case.told {
            wrong.push(format!("{case:?}: {told:?}"));
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
    let clean = cases.iter().filter(|case| case.told.is_empty()).count();
    assert!(cases.len() >= 300 && clean * 5 >= cases.len() * 2, "{clean} of {} are clean", cases.len());
}

/// A slip of a member that an object of a script has is told with that.
#[test]
fn the_nearest_member_of_an_object_is_named() {
    for (script, near) in [
        ("const fares = { adult: { price: 4 } }; fares.adlt.price", Some("adult")),
        ("const fares = { show() {} }; fares.shwo()", Some("show")),
        ("class Boat { sail() {} } new Boat().sial()", Some("sail")),
        ("class Boat { static all() {} } class Ferry extends Boat {} Ferry.alll()", Some("all")),
        ("const fares = { adult: 4 }; fares.pier.berth", None),
        ("const fares = { '#handed': 4 }; fares.handed.x", None),
    ] {
        let session = Session::with(&[
            ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.a]\nscript = 'a.js'\n"),
            ("a.js", script),
            ("site/index.html", "<!doctype html><title>x</title><p>x</p>"),
        ]);
        let answer = session.run("check --format json").json();
        let help = answer["findings"][0]["help"].as_str().unwrap_or_default();
        match near {
            Some(near) => assert_eq!(help, format!("did you mean `{near}`?"), "{script}"),
            None => assert!(!help.contains("did you mean"), "{script}: {help}"),
        }
    }
}

/// What the pages themselves do, each in a file of its own, is told once.
#[test]
fn what_is_the_same_on_all_pages_is_told_once() {
    const PAGE: &str = "<!doctype html><title>x</title><body><p>x</p>";
    for (script, of_page, code, told) in [
        (
            "window.onload = () => {};", "window.onload = () => {};", "overwrites",
            "the page itself sets `onload`",
        ),
        (
            "let pier = 1; window.fares = {};", "let pier = 2;", "bad-syntax",
            "the page itself declares `pier` before",
        ),
        ("window.pier = 1;", "function pier() {}", "overwrites", "the page itself defines `pier`"),
    ] {
        let page = format!("{PAGE}<script>{of_page}</script>");
        let names = ["site/index.html", "site/piers/index.html", "site/fares.html"];
        let (board, library) =
            ("[site]\nroot = 'site'\n[library.own]\nscript = 'own.js'\n", script.starts_with("let"));
        let pin = if library {
            "[pin.a]\nstyle = 'a.css'\nneeds = ['own']\n"
        } else {
            "[pin.a]\nscript = 'own.js'\n"
        };
        let mut files = vec![("deft-pin.toml", format!("{board}{pin}")), ("own.js", script.to_owned())];
        files.push(("a.css", "p { margin: 0 }".to_owned()));
        files.extend(names.map(|name| (name, page.clone())));
        let files: Vec<(&str, &str)> = files.iter().map(|(name, text)| (*name, text.as_str())).collect();
        let answer = Session::with(&files).run("check --format json").json();
        let all = answer["findings"].as_array().unwrap().iter();
        let found: Vec<&serde_json::Value> = all.filter(|finding| finding["code"] == code).collect();
        assert_eq!(found.len(), 1, "{script}: {answer:#}");
        assert!(found[0]["message"].as_str().unwrap().contains(told), "{script}: {answer:#}");
        assert_eq!(found[0]["pages"].as_array().map(Vec::len), Some(3), "{script}: {answer:#}");
    }
}

/// What pins share, what files of the site define, and what others do to it.
/// Functions of other scripts are run: what stops in them is told where they are called, in the script of the pin.
#[test]
fn what_other_scripts_do_is_run_where_it_is_called() {
    const SITE: &str = "var open = null, count = 1;\nfunction byKind(kind) { if (kind === 'adult') return { price: 4 }; }\nfunction show(el) { el.classList.add('on'); }\nfunction keep(el) { open = el; }\nclass Menu { #all; constructor(el) { this.#all = el.querySelectorAll('a'); } get first() { return this.#all[0]; } }\nwindow.Cart = function () { this.lines = []; };\nCart.prototype.add = function (line) { this.lines.push(line); return this; };\nconst later = async f => f(await null);";
    const OWN: &str = "const count = { n: 1 }; function own() { return count.n; }";
    for (script, told) in [
        ("byKind('adult').price.toFixed()", ""),
        ("byKind('dog').price.toFixed()", "`byKind('dog')` has no value here"),
        ("show(document.querySelector('p'))", ""),
        ("show(document.querySelector('#nope'))", "`#nope` finds nothing on the page"),
        ("show('#one')", "in the function of another script that is called here: a text has no `classList`"),
        ("try { show(null) } catch { document.title = 'x' }", ""),
        ("keep(document.querySelector('p')); open.hidden = true", ""),
        ("new Menu(document.querySelector('nav')).first.title = 'x'", ""),
        ("new Menu(document.querySelector('p')).first.title = 'x'", "`a` finds nothing there"),
        ("new Menu(null)", "in the function of another script that is called here: `el` has no value"),
        ("new Cart().add({ n: 1 }).add({ n: 2 }).lines[1].n.toFixed()", ""),
        ("new Cart().add({ n: 1 }).lines[1].n", "has no value here"),
        ("later(none => none.x)", "`none` has no value here"),
        ("own().toFixed(); count.toFixed()", ""),
        ("own().trim()", "a number has no `trim`"),
    ] {
        let session = Session::with(&[
            (
                "deft-pin.toml",
                "[site]\nroot = 'site'\n[pin.shares]\nscript = 'shares.js'\nshare = ['own']\n[pin.calls]\nscript = 'calls.js'\nafter = ['shares']\n",
            ),
            ("shares.js", OWN),
            ("calls.js", script),
            (
                "site/index.html",
                &format!(
                    "<!doctype html><title>x</title><body><nav><a href=/>x</a></nav><p id=one>x</p><script>{SITE}</script>"
                ),
            ),
        ]);
        let answer = session.run("check --format json").json();
        let all = answer["findings"].as_array().unwrap().iter();
        let found: Vec<&serde_json::Value> = all.filter(|finding| finding["severity"] == "error").collect();
        assert_eq!(found.len(), usize::from(!told.is_empty()), "{script}: {found:#?}");
        for finding in found {
            assert!(finding["message"].as_str().unwrap().contains(told), "{script}: {finding}");
            assert_eq!(finding["file"], "calls.js", "{script}: {finding}");
        }
    }
}

#[test]
fn what_other_scripts_define_is_known_by_its_declarations() {
    const SHARED: &str = "const Fares = { adult: { price: 4 }, of(name) { return this[name] } }\nclass Boat { sail() { return 'x' } }";
    const FILE: &str = "var Piers = window.Piers || {}; Piers.north = { berths: 2 }; var mode = 'day';";
    for (script, other, told) in [
        ("Fares.adult.price.toFixed(2); new Boat().sail().trim(); Fares.of('adult')", "", ""),
        ("Fares.child.price.toFixed(2)", "", "`Fares.child` has no value here"),
        ("Fares.child.price.toFixed(2)", "Fares.child = { price: 2 }", ""),
        ("Fares.child.price.toFixed(2)", "for (const name of ['child']) Fares[name] = { price: 2 }", ""),
        ("Fares.child.price.toFixed(2)", "Object.assign(Fares, { child: { price: 2 } })", ""),
        ("Fares.child.price.toFixed(2)", "eval('Fares.child = { price: 2 }')", ""),
        ("new Boat().stop()", "", "`new Boat().stop` is no function"),
        ("new Boat().stop()", "Boat.prototype.stop = () => {}", ""),
        ("Boat()", "", "without `new` is no function"),
        ("Piers.north.berths.toFixed()", "", ""),
        ("Piers.south.berths.toFixed()", "", "`Piers.south` has no value here"),
        ("Piers.south.berths.toFixed()", "Piers.south = { berths: 1 }", ""),
        ("Piers.north.berths.push(3)", "", "a number has no `push`"),
        // Texts and numbers are known as well, until something may change them.
        ("if (Piers.north.berths > 2) document.querySelector('#berths').remove()", "", ""),
        (
            "if (Piers.north.berths === 2) document.querySelector('#berths').remove()",
            "",
            "`#berths` finds nothing",
        ),
        (
            "if (Piers.north.berths === 2) document.querySelector('#berths').remove()",
            "Piers.north.berths = 3",
            "",
        ),
        (
            "if (Piers.north.berths === 2) document.querySelector('#berths').remove()",
            "for (const p of Object.values(Piers)) p.berths += 1",
            "",
        ),
        ("if (mode === 'day') document.querySelector('#berths').remove()", "", "`#berths` finds nothing"),
        (
            "if (mode === 'day') document.querySelector('#berths').remove()",
            "window[localStorage.which] = 'night'",
            "",
        ),
    ] {
        let session = Session::with(&[
            (
                "deft-pin.toml",
                "[site]\nroot = 'site'\n[pin.shares]\nscript = 'shares.js'\nshare = ['Fares', 'Boat']\n[pin.other]\nscript = 'other.js'\nafter = ['shares']\n[pin.reads]\nscript = 'reads.js'\nafter = ['shares', 'other']\n",
            ),
            ("shares.js", SHARED),
            ("other.js", other),
            ("reads.js", script),
            ("site/piers.js", FILE),
            (
                "site/index.html",
                "<!doctype html><title>x</title><script src=piers.js></script><body><p>x</p>",
            ),
        ]);
        let answer = session.run("check --format json").json();
        let all = answer["findings"].as_array().unwrap().iter();
        let found: Vec<&str> = all
            .filter(|finding| finding["severity"] != "note")
            .map(|finding| finding["message"].as_str().unwrap())
            .collect();
        match told {
            "" => assert!(found.is_empty(), "{script}, {other}: {found:?}"),
            told => assert!(found.len() == 1 && found[0].contains(told), "{script}, {other}: {found:?}"),
        }
    }
}

/// What another script may put in, change or move is not missed, by its tag, an attribute or its place; a name that
/// stands nowhere is.
#[test]
fn what_other_scripts_may_put_in_is_not_missed() {
    let ask = |selector: &str| {
        format!("addEventListener('load', () => {{ document.querySelector('{selector}').title = 'x' }})")
    };
    for (other, selector, is_missed) in [
        ("document.body.append(document.createElement('dialog'))", "dialog", false),
        ("document.body.innerHTML += '<mark>late</mark>'", "mark", false),
        ("console.log('mark', dialog)", "dialog", true),
        ("document.querySelector('p').dataset.openNow = ''", "[data-open-now]", false),
        ("document.querySelector('p').ariaBusy = 'true'", "p[aria-busy]", false),
        ("if (document.querySelector('p').dataset.open) go()", "[data-close]", true),
        ("document.querySelector('#tides').append(document.querySelector('#note'))", "#tides .low", false),
        ("document.querySelector('#tides').append('x')", "#tides .hihg", true),
        ("console.log(document.querySelector('#note'))", "#tides .low", true),
        ("document.querySelector('#tides').insertRow().insertCell()", "#tides td", false),
        ("document.body.append(new Image())", "img", false),
        ("document.body.append(document.createElement('dialog'))", "dialog.tide", true),
    ] {
        let session = Session::with(&[
            ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.reads]\nscript = 'reads.js'\n"),
            ("reads.js", &ask(selector)),
            ("site/other.js", &format!("document.addEventListener('DOMContentLoaded', () => {{ {other} }})")),
            (
                "site/index.html",
                "<!doctype html><title>x</title><script src=other.js></script><body><p id=note class=low>x</p><table id=tides></table>",
            ),
        ]);
        let answer = session.run("check --format json").json();
        let told = answer["findings"].to_string().contains("lost-lookup");
        assert_eq!(told, is_missed, "{other}: {selector}: {answer:#}");
    }
}

/// What is done in vain is told with what to write, and the same done right is not.
#[test]
fn what_is_in_vain_is_told_with_what_to_write() {
    for (wrong, says, write, right) in [
        (
            "p.textContent = '<b>late</b>'", "shown as it is written", "innerHTML",
            "p.innerHTML = '<b>late</b>'",
        ),
        ("p.append('caf&eacute;', '<hr>')", "`<hr>` is shown", "insertAdjacentHTML", "p.append('a < b')"),
        ("p.textContent = 'caf&eacute;'", "`&eacute;` is shown", "é", "p.textContent = 'é'"),
        (
            "const fare = 4; p.textContent = '${fare}'", "backticks", "`${fare}`",
            "const fare = 4; p.textContent = `${fare}`",
        ),
        (
            "p.innerHTML = '<script>go()</script>'", "never runs", "createElement",
            "p.innerHTML = '<script type=application/json>{}</script>'",
        ),
        (
            "p.innerHTML = ['a', 'b'].map(x => `<i>${x}</i>`)", "commas", ".join(\"\")",
            "p.innerHTML = ['a', 'b'].map(x => `<i>${x}</i>`).join('')",
        ),
        ("p.className += 'open'", "`lowopen`", "classList.add(\"open\")", "p.className += ' open'"),
        ("p.style.cssText = 'colour: red'", "`colour`", "color", "p.style.cssText = 'color: red'"),
        ("p.scrollTop = '10px'", "a number", "10", "p.scrollTop = '10'"),
        ("select.value = 'west'", "one of its options", "", "select.value = 'north'"),
        (
            "document.addEventListener('load', go); function go() {}", "comes to the window", "window",
            "window.addEventListener('load', go); function go() {}",
        ),
        (
            "p.addEventListener('hover', () => {})", "the name of an event", "mouseenter",
            "p.addEventListener('mouseenter', () => {})",
        ),
        (
            "p.addEventListener('submit', () => {})", "comes to forms", "form",
            "document.addEventListener('submit', () => {})",
        ),
        (
            "p.removeEventListener('click', () => {})",
            "a new one",
            "",
            "const f = () => {}; p.addEventListener('click', f); p.removeEventListener('click', f)",
        ),
        (
            "p.scrollIntoView({ behaviour: 'smooth' })", "no option `behaviour`", "behavior",
            "p.scrollIntoView({ behavior: 'smooth' })",
        ),
        (
            "p.animate({ 'margin-top': '1px' }, 9)", "no property `margin-top`", "marginTop",
            "p.animate({ marginTop: '1px' }, 9)",
        ),
        (
            "if (typeof p === 'null') p.remove()", "never gives `null`", "p === null",
            "if (p === null) p.remove()",
        ),
        (
            "if (location.hash === 'fares') p.remove()", "begins with `#`", "\"#fares\"",
            "if (location.hash === '#fares') p.remove()",
        ),
        (
            "if (select.value === 5) p.remove()", "never the number", "\"5\"",
            "if (select.value === '5') p.remove()",
        ),
        (
            "onkeydown = e => e; document.addEventListener('keydown', e => { if (e.key === 'Esc') p.remove() })",
            "never `Esc`",
            "\"Escape\"",
            "document.addEventListener('keydown', e => { if (e.key === 'Esc' || e.key === 'Escape') p.remove() })",
        ),
        (
            "if (new Date().getMonth() === 12) p.remove()", "0 to 11", "11",
            "if (new Date().getMonth() === 11) p.remove()",
        ),
        (
            "if (!p instanceof Element) p.remove()", "worked out first", "!(p instanceof Element)",
            "if (!(p instanceof Element)) p.remove()",
        ),
        (
            "if (1 < p.offsetTop < 3) p.remove()", "worked out first", "&&",
            "if (1 < p.offsetTop && p.offsetTop < 3) p.remove()",
        ),
        (
            "if (p.id.indexOf('x')) p.remove()", "-1 for none", "!== -1",
            "if (p.id.indexOf('x') > -1) p.remove()",
        ),
        (
            "if (matchMedia('max-width: 9em').matches) p.remove()", "never holds", "(max-width: 9em)",
            "if (matchMedia('(max-width: 9em)').matches) p.remove()",
        ),
        (
            "switch (document.readyState) { case 'loaded': p.remove() }",
            "never `loaded`",
            "\"complete\"",
            "switch (document.readyState) { case 'complete': p.remove() }",
        ),
        (
            "setTimeout(100, () => {})", "comes first", "setTimeout(function, milliseconds)",
            "setTimeout(() => {}, 100)",
        ),
        ("fetch('/').then(r => r.text)", "not called", "r.text()", "fetch('/').then(r => r.text())"),
        (
            "p.id.replace('a', 'b')", "something new", "p.id = p.id.replace('a', 'b')",
            "p.id = p.id.replace('a', 'b')",
        ),
    ] {
        let found = |script: &str| {
            let session = Session::with(&[
                ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.a]\nscript = 'a.js'\n"),
                (
                    "a.js",
                    &format!(
                        "const p = document.querySelector('p'), select = document.querySelector('select');\n{script};\n"
                    ),
                ),
                (
                    "site/index.html",
                    "<!doctype html><title>x</title><body><p class=low>x</p><select><option>north</select>",
                ),
            ]);
            let answer = session.run("check --format json").json();
            let all = answer["findings"].as_array().unwrap().iter();
            all.filter(|own| own["severity"] != "note").cloned().collect::<Vec<_>>()
        };
        let told = found(wrong);
        let [one] = &told[..] else { panic!("{wrong}: {told:#?}") };
        assert_eq!(
            (one["code"].as_str(), one["severity"].as_str()),
            (Some("in-vain"), Some("warning")),
            "{one:#}"
        );
        assert!(one["message"].as_str().unwrap().contains(says), "{one:#}");
        assert!(one["help"].to_string().contains(&write.replace('"', "\\\"")), "{one:#}");
        assert!(found(right).is_empty(), "{right}: {:#?}", found(right));
    }
}

/// What goes beyond a fence by a name or a count is told, where the page feels it.
#[test]
fn counts_and_names_that_leave_the_fence_are_told() {
    const BEFORE: &str = "<h3>Piers</h3>";
    const BEHIND: &str = "<h3>Fares</h3><q>Calm</q><i class=card>x</i>";
    let site = |before: &str, behind: &str, css: &str| {
        format!(
            "<!doctype html><title>x</title><style>{css}</style><body>{before}<main id=m><h2>Tides</h2><p class=k>x</p></main>{behind}</body>"
        )
    };
    const COUNTS: &str = "h3 { counter-increment: step } h3::before { content: counter(step) }";
    const CARD: &str = ".card { view-transition-name: card }";
    for (page, sheet, told) in [
        (site(BEFORE, BEHIND, COUNTS), "h2 { counter-increment: step }", "warning"),
        (site(BEFORE, BEHIND, COUNTS), "h2 { counter-set: step 4 }", "warning"),
        // One of its own, one that ends with the target, one that nobody shows behind it.
        (site(BEFORE, BEHIND, COUNTS), "h2 { counter-reset: step; counter-increment: step }", ""),
        (site("", BEHIND, COUNTS), "h2 { counter-increment: step }", ""),
        (site(BEFORE, "", COUNTS), "h2 { counter-increment: step }", ""),
        (site(BEFORE, BEHIND, COUNTS), "h2 { counter-increment: other }", ""),
        (site(BEFORE, BEHIND, ""), "h2::before { content: open-quote 'a' }", "warning"),
        (
            site(BEFORE, BEHIND, ""),
            "h2::before { content: open-quote } h2::after { content: close-quote }",
            "",
        ),
        (
            site(BEFORE, BEHIND, ""),
            "h2::before { content: open-quote } h2::after { content: no-close-quote }",
            "",
        ),
        (site(BEFORE, "<p>x</p>", ""), "h2::before { content: open-quote }", ""),
        (site(BEFORE, BEHIND, CARD), ".k { view-transition-name: card }", "warning"),
        (site(BEFORE, "", CARD), ".k { view-transition-name: card }", ""),
        (site(BEFORE, BEHIND, CARD), ".k { view-transition-name: none }", ""),
        (
            site("", "", ""),
            "@property --tide { syntax: '*'; inherits: true } h2 { color: var(--tide, red) }",
            "note",
        ),
        (
            site("", "", ""),
            "@property --tide { syntax: '*'; inherits: true } h2 { --tide: red; color: var(--tide) }",
            "",
        ),
    ] {
        let session = Session::with(&[
            ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nwithin = '#m'\nstyle = 'p.css'\n"),
            ("p.css", sheet),
            ("site/index.html", &page),
        ]);
        let answer = session.run("check --format json").json();
        let findings = answer["findings"].as_array().unwrap();
        let leaks: Vec<_> = findings.iter().filter(|finding| finding["code"] == "leak").collect();
        let severity = leaks.first().map_or("", |finding| finding["severity"].as_str().unwrap());
        assert!(severity == told && leaks.len() < 2, "{sheet}\n{page}\n{answer:#}");
    }
}

/// What stands in `@scope` is held against the elements in its range, and a range that is empty is told once.
#[test]
fn rules_in_a_scope_match_what_is_in_it() {
    let page = "<!doctype html><title>x</title><main><section id=a><h2>Piers</h2><p>x</p></section></main><footer id=foot><p>y</p></footer><my-card>z</my-card>";
    for (sheet, told) in [
        ("@scope (.nope) { p { color: red } h2 { color: red } }", "`@scope (.nope)` matches nothing"),
        ("@scope (main) { p { color: red } }", ""),
        ("@scope (main) { main { color: red } }", ""),
        ("@scope (main) { > section { color: red } & { color: red } :scope h2 { color: red } }", ""),
        ("@scope (main) { > h2 { color: red } }", "`> h2` inside of `@scope (main)`"),
        ("@scope (#foot) { h2 { color: red } }", "`h2` inside of `@scope (#foot)`"),
        ("@scope (#foot) { p::first-line { color: red } }", ""),
        (
            "@scope (main) { @scope (:scope > footer) { p { color: red } } }",
            "`@scope (:scope > footer)` inside",
        ),
        ("main { @scope (& > section) { h2 { color: red } } }", ""),
        ("@scope { p { color: red } }", "`@scope` names no root"),
        ("my-card::part(title) { color: red }", ""),
        ("footer::part(title):hover { color: red }", ""),
        ("h2::part(x), .nope::part(x) { color: red }", "`.nope::part(x)` matches nothing"),
        ("::slotted(p) { color: red }", "`::slotted(p)` matches nothing"),
    ] {
        let session = Session::with(&[
            ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nstyle = 'p.css'\n"),
            ("p.css", sheet),
            ("site/index.html", page),
        ]);
        let answer = session.run("check --format json").json();
        let findings = answer["findings"].as_array().unwrap();
        let said: Vec<_> = findings.iter().map(|finding| finding["message"].as_str().unwrap()).collect();
        let is_right =
            if told.is_empty() { said.is_empty() } else { said.len() == 1 && said[0].contains(told) };
        assert!(is_right, "{sheet}: {said:#?}");
    }
}

/// What covers an element that stays in view is shown itself, and is named where the two part.
#[test]
fn what_lies_over_a_bar_is_named_where_they_part() {
    const BAR: &str = "#bar { position: fixed; z-index: 5 }";
    for (body, site, told) in [
        ("<p class=x>a</p>", ".x { position: relative; z-index: 9 }", "`p.x` with `z-index: 9`"),
        ("<p class=x>a</p>", ".x { z-index: 9 }", ""),
        ("<p class=x>a</p>", ".x { position: relative; z-index: 9; display: none }", ""),
        ("<p class=x hidden>a</p>", ".x { position: relative; z-index: 9 }", ""),
        ("<div hidden><p class=x>a</p></div>", ".x { position: relative; z-index: 9 }", ""),
        ("<p class=x>a</p>", ".x { position: relative; z-index: 9; visibility: hidden }", ""),
        ("<dialog class=x>a</dialog>", ".x { position: fixed; z-index: 9 }", ""),
        (
            "<div class=y><p class=x>a</p></div>",
            ".y { position: relative; z-index: 2 } .x { position: relative; z-index: 99 }",
            "",
        ),
        (
            "<div class=y><p class=x>a</p></div>",
            ".y { opacity: .9 } .x { position: relative; z-index: 99 }", "",
        ),
        (
            "<div class=y><p class=x>a</p></div>",
            ".y { transform: scale(2) } .x { position: relative; z-index: 99 }",
            "",
        ),
        (
            "<div class=y><p class=x>a</p></div>",
            ".y { isolation: isolate } .x { position: relative; z-index: 99 }",
            "",
        ),
        (
            "<div class=y><p class=x>a</p></div>",
            ".y { opacity: 1 } .x { position: relative; z-index: 99 }", "`p.x` with `z-index: 99`",
        ),
        (
            "<div class=y><p class=x>a</p></div>",
            ".y { position: relative; z-index: 7 } .x { position: relative; z-index: 99 }",
            "`div.y` with `z-index: 7`",
        ),
        (
            "<div class=y><p class=x>a</p></div>", ".y { display: flex } .x { z-index: 99 }",
            "`p.x` with `z-index: 99`",
        ),
    ] {
        let page = format!(
            "<!doctype html><title>x</title><style>{site}</style><body>{body}<div id=bar>b</div></body>"
        );
        let session = Session::with(&[
            ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nstyle = 'p.css'\n"),
            ("p.css", BAR),
            ("site/index.html", &page),
        ]);
        let answer = session.run("check --format json").json();
        let findings = answer["findings"].as_array().unwrap();
        let under = findings.iter().find(|finding| finding["code"] == "under");
        let said = under.map_or("", |finding| finding["message"].as_str().unwrap());
        assert!(said.is_empty() == told.is_empty() && said.contains(told), "{page}: {said}");
    }
    let page = "<!doctype html><title>x</title><style>.head { position: relative; z-index: 1 } .x { position: absolute; z-index: 3 }</style>\
        <header class=head><div id=bar>b</div></header><p class=x>a</p>";
    let session = Session::with(&[
        ("deft-pin.toml", "[site]\nroot = 'site'\n[pin.p]\nstyle = 'p.css'\n"),
        ("p.css", BAR),
        ("site/index.html", page),
    ]);
    let text = session.run("check").stdout;
    assert!(
        text.contains("in `header.head` with `z-index: 1`") && text.contains("which it cannot leave"),
        "{text}"
    );
}
