//! What the evaluation says that expressions of the language come to is what an engine says, or nothing at all.
//! `scripts/language-table.mjs` writes the table.

use crate::made::Made;
use deft_pin_core::check::Code;

/// The expressions, each with what it comes to.
fn table() -> impl Iterator<Item = (&'static str, &'static str)> {
    include_str!("language.txt").lines().filter_map(|line| line.split_once('\t'))
}

/// A test that fails where an expression does not come to a value.
fn holds(expression: &str, value: &str) -> String {
    match value {
        "NaN" => format!("{{ const own = {expression}; own !== own || nope(); }}\n"),
        value => format!("({expression}) === {value} || nope();\n"),
    }
}

/// How often a script is told to call what is not there, in each case or on some visit.
fn told(script: &str) -> usize {
    let made = Made::of(&format!(
        "--- deft-pin.toml\n[pin.p]\nscript = 'p.js'\n--- p.js\n{script}\n\
         --- site/index.html\n<!doctype html><html><body><main>x</main></body></html>\n"
    ));
    made.findings().iter().filter(|finding| finding.code == Code::MissingLibrary).count()
}

#[test]
fn no_expression_comes_to_anything_else() {
    let rows: Vec<(&str, &str)> = table().collect();
    assert!(rows.len() > 1_500, "{} expressions", rows.len());
    let mut wrong = Vec::new();
    for rows in rows.chunks(40) {
        let scripts: Vec<String> = rows.iter().map(|(expression, value)| holds(expression, value)).collect();
        // One by one only where one of them is wrong.
        if told(&scripts.concat()) > 0 {
            wrong.extend(scripts.into_iter().filter(|script| told(script) > 0));
        }
    }
    assert_eq!(wrong, Vec::<String>::new());
}

#[test]
fn most_expressions_come_to_something() {
    let rows: Vec<(&str, &str)> = table().step_by(9).collect();
    let is_told = |(expression, value): &&(&str, &str)| {
        told(&holds(expression, value).replace("=== ", "!== ").replace("own !== own", "own === own")) > 0
    };
    let known = rows.iter().filter(is_told).count();
    assert!(known * 10 > rows.len() * 7, "{known} of {}", rows.len());
}
