//! Uses of custom properties in values: `var()` (css-variables-1, 3).

/// A use of a custom property in a value.
pub struct Variable {
    /// Where it begins, in bytes of the value.
    pub start: usize,
    /// Where it ends.
    pub end: usize,
    /// The custom property.
    pub name: String,
    /// What is taken where that has no value, if anything is.
    pub fallback: Option<String>,
}

/// The uses of custom properties in a value that are not inside of one another.
pub fn variables(value: &str) -> Vec<Variable> {
    let mut found = Vec::new();
    let lower = value.to_ascii_lowercase();
    let mut at = 0;
    while let Some(start) = lower[at..].find("var(").map(|start| start + at) {
        let inner = start + 4;
        let mut depth = 1;
        let close = value[inner..].char_indices().find(|(_, c)| {
            depth += match c {
                '(' => 1,
                ')' => -1,
                _ => 0,
            };
            depth == 0
        });
        let Some((length, _)) = close else { break };
        let content = &value[inner..inner + length];
        let (name, fallback) = match content.split_once(',') {
            Some((name, fallback)) => (name, Some(fallback.trim().to_owned())),
            None => (content, None),
        };
        let end = inner + length + 1;
        found.push(Variable { start, end, name: name.trim().to_owned(), fallback });
        at = end;
    }
    found
}
