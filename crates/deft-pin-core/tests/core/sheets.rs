//! What a browser drops of a sheet, what it loads, and what a fence makes of names that are known to
//! the whole page.

use deft_pin_core::style::{
    Fence, LossKind, Sheet, Strength, Validity, apply, fence, flaws, inline_safe, losses, members, urls,
    validity,
};
use proptest::prelude::*;

/// What is lost, each as its kind.
fn lost(text: &str) -> String {
    let found = losses(text, &Sheet::parse(text));
    let name = |kind: &LossKind| {
        let drawn = format!("{kind:?}");
        drawn.split([' ', '{', '(']).next().unwrap_or_default().to_owned()
    };
    found.iter().map(|loss| name(&loss.kind)).collect::<Vec<_>>().join(" ")
}

#[test]
fn what_people_paste_is_lost_only_where_a_browser_drops_it() {
    #[rustfmt::skip]
    let table = [
        // Nothing is lost.
        ("", ""),
        ("/* only a comment */", ""),
        ("h2{color:teal}", ""),
        ("h2{color:teal;;}", ""),
        ("h2 { ; color: teal }", ""),
        ("h2{}", ""),
        ("@charset 'utf-8'; h2{color:teal}", ""),
        ("h2 { -webkit-font-smoothing: antialiased; -moz-osx-font-smoothing: grayscale }", ""),
        ("h2 { --empty:; --space: ; --json: { a: 1 } }", ""),
        ("h2 { width: calc(100% - (2 * 1rem)) }", ""),
        ("h2 { background: url(a.png) no-repeat, url('b;c.png') }", ""),
        ("h2::after { content: '; } /* no comment */' }", ""),
        ("h2 { color: teal !important }", ""),
        ("h2 { color: teal!important; margin: 0 ! important }", ""),
        ("@media (min-width: 40em) and (not (hover)) { h2 { color: teal } }", ""),
        ("@font-face { font-family: Quay; src: url(q.woff2) format('woff2'); font-display: swap }", ""),
        ("@page :first { margin: 1cm; @top-left { content: 'x' } }", ""),
        ("@property --x { syntax: '<length>'; inherits: false; initial-value: 0px }", ""),
        ("@counter-style pier { system: cyclic; symbols: '>'; suffix: ' ' }", ""),
        ("h2 { &:hover { color: teal } @media print { color: navy } }", ""),
        ("h2 { color: red; .note & { color: teal } }", ""),
        ("@layer base, look; @layer base { h2 { color: teal } }", ""),
        ("@container card (width > 20em) { h2 { color: teal } }", ""),
        ("@supports (display: grid) and (not (display: inline-grid)) { h2 { float: left } }", ""),
        ("<!-- h2{color:teal} -->", "Foreign Foreign"),
        ("h2 { color: teal; /* color: navy; */ }", ""),
        ("H2 { COLOR: TEAL; Margin: 0 AUTO }", ""),
        ("@KEYFRAMES sail { FROM { TOP: 0 } 50.5% { top: 1px } to { top: 2px } }", ""),
        // One thing is lost.
        ("h2 { colour: teal }", "UnknownProperty"),
        ("h2 { color: tael }", "BadValue"),
        ("h2 { margin: 10 }", "BadValue"),
        ("h2 { color: teal important }", "BadValue"),
        ("h2 { color: teal !importnat }", "BadImportant"),
        ("h2 { color teal }", "MissingColon"),
        ("h2 { color: }", "EmptyValue"),
        ("h2 { color: teal\n margin: 0 }", "MissingSemicolon"),
        ("h2 { // teal\n color: teal }", "SlashComment"),
        ("h2 { color: teal", "Flaw"),
        ("h2 { color: teal }}", "Flaw"),
        ("h2 { color: rgb(1, 2, 3 }", "Flaw"),
        ("h2 { content: 'x }", "Flaw"),
        ("h2 { color: teal } /* x", "Flaw"),
        ("@media print { color: teal }", "OutsideRule"),
        ("@font-face { font-family: Quay; src: url(q.woff2); colour: teal }", "UnknownDescriptor"),
        ("@keyframes k { to { opcity: 1 } }", "UnknownProperty"),
        ("h2 { &:hover { colr: teal } }", "UnknownProperty"),
        ("@scope (main) { h2 { colr: teal } }", "UnknownProperty"),
        ("@layer x { @media print { h2 { margin: 1 } } }", "BadValue"),
        ("h2 { transition: color 2 }", "BadValue"),
        ("h2 { background: url(a.png }", "Flaw"),
        // Queries that never hold, and their right neighbours.
        ("@container (min-width: 20em) { h2 { color: teal } }", ""),
        ("@container card (inline-size > 20em) and (orientation: portrait) { h2 { color: teal } }", ""),
        ("@container style(--wide: true) { h2 { color: teal } }", ""),
        ("@container (min-width: 20) { h2 { color: teal } }", "BadQuery"),
        ("@container card (min-widht: 20em) { h2 { color: teal } }", "BadQuery"),
        ("@container min-width: 20em { h2 { color: teal } }", "BadQuery"),
        ("@supports (display: grid) { h2 { color: teal } }", ""),
        ("@supports not (display: grid) { h2 { color: teal } }", ""),
        ("@supports (-webkit-touch-callout: none) { h2 { color: teal } }", ""),
        ("@supports (-moz-appearance: meterbar) and (not (display: flex)) { h2 { color: teal } }", ""),
        ("@supports selector(h2:has(b)) { h2 { color: teal } }", ""),
        ("@supports (display: gird) { h2 { color: teal } }", "BadSupports"),
        ("@supports display: grid { h2 { color: teal } }", "BadSupports"),
        ("@supports (display: grid) or (color: teal) and (top: 0) { h2 { color: teal } }", "BadSupports"),
        ("@media screen { @media (max-width: 600) { h2 { color: teal } } }", "BadQuery"),
        ("h2 { @media (orientation: potrait) { color: teal } }", "BadQuery"),
        ("@import url(a.css) screen and (max-width: 40em);", ""),
        // What is no CSS.
        ("<style>h2 { color: teal }</style>", "Foreign Foreign"),
        ("h2 { color: teal }\n</style>", "Foreign"),
        ("main > h2, a<b { color: teal }", ""),
        ("h2::after { content: '<b> & “quotes” &amp' }", ""),
        ("h2::after { content: '&mdash;' }", "Foreign"),
        ("h2 { font-family: “Quay”, serif }", "Foreign"),
        ("h2 { color:\u{a0}teal }", "Foreign"),
        // Written for browsers of old, and for other engines alone.
        ("h2 { *display: inline; _height: 1px; width: 1px\\9; filter: alpha(opacity=50) }", ""),
        ("h2 { filter: progid:DXImageTransform.Microsoft.gradient(startColorstr='#fff', endColorstr='#000') }", ""),
        ("h2 { width: -moz-available; -o-transition: all 1s; display: -ms-flexbox }", ""),
        ("h2 { vertical-align: center }", ""),
        ("h2 { vertical-align: centre }", "BadValue"),
        // Each thing for itself.
        ("h2 { colr: teal; mrgin: 0 }", "UnknownProperty UnknownProperty"),
        ("h2 { color: tael } p { color: nvy }", "BadValue BadValue"),
    ];
    let mut wrong = Vec::new();
    for (text, expected) in table {
        let found = lost(text);
        if found != expected {
            wrong.push(format!("{text}: {found:?}, not {expected:?}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn a_fence_gives_names_of_the_whole_page_names_of_its_own() {
    // The sheet, the names that it shares, and what has to be in what comes of it.
    #[rustfmt::skip]
    let table: &[(&str, &[&str], &[&str])] = &[
        ("@keyframes sail{to{top:0}} h2{animation:sail 1s}", &[], &["@keyframes p-sail{", "animation:p-sail 1s"]),
        ("@keyframes sail{to{top:0}} h2{animation:sail 1s}", &["sail"], &["@keyframes sail{", "animation:sail 1s"]),
        ("@keyframes 'sail'{to{top:0}} h2{animation-name:sail}", &[], &["p-sail", "animation-name:p-sail"]),
        ("@-webkit-keyframes sail{to{top:0}} h2{-webkit-animation:sail 1s}", &[], &["@-webkit-keyframes p-sail"]),
        ("h2{animation:fade 1s}", &[], &["animation:fade 1s"]),
        ("@keyframes ease{to{top:0}} h2{animation:1s ease ease}", &[], &["1s ease p-ease"]),
        ("@keyframes ease{to{top:0}} h2{animation:1s ease}", &[], &["animation:1s ease}"]),
        ("@keyframes both{to{top:0}} h2{animation:both 1s,1s both both}", &[], &["animation:both 1s,1s both p-both}"]),
        ("@keyframes paused{to{top:0}} h2{animation-name:paused}", &[], &["animation-name:p-paused"]),
        ("@keyframes both{to{top:0}} h2{animation:1s 'both' both}", &[], &["animation:1s \"p-both\" both}"]),
        ("@layer look{h2{top:0}}", &[], &["@layer p-look{"]),
        ("@layer a,b.c;@layer a{h2{top:0}}", &[], &["@layer p-a,p-b.c;"]),
        ("@property --gap{syntax:'*';inherits:false} h2{--gap:1px;margin:var(--gap)}", &[], &["--p-gap"]),
        ("h2{--gap:1px;margin:var(--gap)}", &[], &["--gap:1px;margin:var(--gap)"]),
        ("@counter-style pier{symbols:'>'} ol{list-style:pier}", &[], &["@counter-style p-pier", "list-style:p-pier"]),
        ("main{container:card/inline-size} @container card (width>1px){h2{top:0}}", &[], &["container:p-card/", "@container p-card "]),
        ("@font-face{font-family:Quay;src:url(q.woff2)} h2{font:1em Quay,serif}", &[], &["font:1em \"p Quay\",serif"]),
    ];
    let mut wrong = Vec::new();
    for (text, share, parts) in table {
        let share: Vec<String> = share.iter().map(|name| (*name).to_owned()).collect();
        let Ok(fenced) = fence(text, &Sheet::parse(text), &Fence::around("#m", "p", Strength::Raise, &share))
        else {
            wrong.push(format!("{text} is refused"));
            continue;
        };
        let fenced = apply(text, fenced.edits);
        let missing: Vec<_> = parts.iter().filter(|part| !fenced.contains(**part)).collect();
        if !missing.is_empty() {
            wrong.push(format!("{text}: {missing:?} is not in {fenced}"));
        }
    }
    assert!(wrong.is_empty(), "{}", wrong.join("\n"));
}

#[test]
fn addresses_in_a_sheet_are_found_where_a_browser_loads_them() {
    #[rustfmt::skip]
    let table = [
        ("h2{background:url(a.png)}", "a.png"),
        ("h2{background:url( 'a b.png' ) , URL(c.png)}", "a b.png c.png"),
        ("@import 'x.css' layer(y); @import url(z.css);", "x.css z.css"),
        ("@namespace svg 'http://www.w3.org/2000/svg'; h2{top:0}", ""),
        ("@font-face{font-family:Q;src:url(q.woff2) format('woff2'),local('Q')}", "q.woff2"),
        ("h2{background:image-set('a.png' 1x,url(b.png) 2x)}", "a.png b.png"),
        ("h2{content:'url(no.png)'} /* url(no.png) */", ""),
        ("h2{background:url(a\\)b.png)}", "a)b.png"),
        ("h2{filter:url(#shade)}", "#shade"),
        ("h2{--x:url(a.png)}", "a.png"),
    ];
    for (text, expected) in table {
        let found: Vec<String> = urls(text).into_iter().map(|own| own.url).collect();
        assert_eq!(found.join(" "), expected, "{text}");
    }
}

#[test]
fn lists_are_parted_at_their_own_commas_alone() {
    let table = [
        ("a, b", "a|b"),
        ("a:is(b, c), d", "a:is(b, c)|d"),
        ("[x='a,b'] , c", "[x='a,b']|c"),
        ("a\\,b, c", "a\\,b|c"),
        ("a /* , */, b", "a /* , */|b"),
        ("a", "a"),
    ];
    for (text, expected) in table {
        let found: Vec<&str> = members(text).into_iter().map(|span| text[span.range()].trim()).collect();
        assert_eq!(found.join("|"), expected, "{text}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 300, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn a_sheet_in_a_page_never_ends_the_element_and_is_the_same_sheet(text in "[a-z{}:;'/<> *!-]{0,40}(</style)?[a-z{}]{0,9}") {
        if let Some(safe) = inline_safe(&text) {
            prop_assert!(!safe.to_ascii_lowercase().contains("</style"), "{safe}");
            if !text.contains("</style") {
                prop_assert_eq!(&safe, &text);
            }
        }
    }

    #[test]
    fn numbers_with_units_are_lengths_and_numbers_without_are_none(number in 1u32..5000, unit in "(px|em|rem|%|vw|cm)") {
        for property in ["width", "margin-left", "padding-top", "font-size", "top"] {
            let value = format!("{number}{unit}");
            prop_assert_eq!(validity(property, &value, false), Validity::Taken, "{}: {}", property, value);
            let bare = number.to_string();
            prop_assert_eq!(validity(property, &bare, false), Validity::Dropped, "{}: {}", property, bare);
        }
    }

    #[test]
    fn what_is_closed_has_no_flaw(depth in 0usize..30, text in "[a-z: ;,]{0,20}") {
        let closed = format!("a{}{text}{}", "{(".repeat(depth), ")}".repeat(depth));
        prop_assert!(flaws(&closed).is_empty(), "{closed}");
        let open = format!("a{}{text}{}", "{(".repeat(depth + 1), ")}".repeat(depth));
        prop_assert!(!flaws(&open).is_empty(), "{open}");
    }
}
