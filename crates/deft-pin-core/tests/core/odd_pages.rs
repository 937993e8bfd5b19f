//! A generator of pages as nobody should write them: tags in any order, omitted, doubled and
//! broken off, comments, scripts and strings that look like tags, NULs, and every kind of line end.

use proptest::prelude::*;

/// As many cases as `DEFT_PIN_CASES` says, or the test's own number, from the seed that
/// `DEFT_PIN_SEED` says: by default the same cases in each run, so that what fails, fails again.
pub fn config(usual: u32) -> ProptestConfig {
    let wished = |name: &str| std::env::var(name).ok().and_then(|value| value.parse().ok());
    let seed = wished("DEFT_PIN_SEED").unwrap_or(1931);
    println!("seed {seed}");
    ProptestConfig {
        cases: wished("DEFT_PIN_CASES").map_or(usual, |cases| u32::try_from(cases).unwrap_or(usual)),
        failure_persistence: None,
        max_shrink_iters: 4000,
        rng_seed: proptest::test_runner::RngSeed::Fixed(seed),
        ..ProptestConfig::default()
    }
}

const PIECES: &[&str] = &[
    "<!DOCTYPE html>", "<!doctype", "<html>", "<html lang=en>", "<head>", "</head>", "<body>",
    "<body class=x>", "</body>", "</html>", "<title>t</title>", "<title>", "</title>",
    "<meta charset=utf-8>", "<link rel=stylesheet href=a.css>", "<style>a{}</style>", "<style>", "</style>",
    "<script>var s='</body>';</script>", "<script>", "</script>", "<script src=x></script>",
    "<!-- </body> -->", "<!--", "-->", "<!-->", "<?php ?>", "</>", "<base href=/x/>",
    "<noscript><p></noscript>", "<noscript>", "<p>", "<p id=a>", "</p>", "<div id='b' class=\"c d\">",
    "</div>", "<b>", "</b>", "<i>", "</i>", "<a href=1>", "</a>", "<nobr>", "<h1>", "</h1>", "<ul>", "<li>",
    "</li>", "</ul>", "<table>", "<tbody>", "<tr>", "<td>", "</td>", "</tr>", "</table>", "<caption>",
    "<select>", "<option>", "</select>", "<textarea>", "</textarea>", "<template>", "</template>", "<svg>",
    "<g>", "</g>", "</svg>", "<foreignObject>", "</foreignObject>", "<math>", "<mi>", "</math>",
    "<![CDATA[ x ]]>", "<frameset>", "<frame>", "</frameset>", "<iframe>", "</iframe>", "<plaintext>",
    "<br>", "<br/>", "</br>", "<img src=x>", "<image>", "<input>", "<form>", "</form>", "<button>",
    "</button>", "<object>", "</object>", "<p a=1 a=2 A=3>", "</p x=1>", "<div", "<div a", "<div a='", "<",
    "&amp;", "&lt", "&#0;", "text", " ", "\n", "\r\n", "\r", "\t", "\0", "caf\u{e9}", "\u{feff}",
    "\u{1f6a2}", "'", "\"", ">",
];

/// A page of up to forty pieces.
pub fn page() -> impl Strategy<Value = String> {
    proptest::collection::vec(prop::sample::select(PIECES), 0..40).prop_map(|pieces| pieces.concat())
}
