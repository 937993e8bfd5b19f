//! What to write in the place of a value that no browser takes: the nearest that one does.

use crate::style::{Validity, nearest_keyword, validity};

/// What to write for a property in the place of a value that is dropped, if that is plain.
pub(super) fn repaired(property: &str, value: &str) -> Option<String> {
    let is_taken = |text: &String| text != value && validity(property, text, false) == Validity::Taken;
    let mut tries = vec![straight(value), joined(value), pointed(value), spaced(value), parted(value)];
    tries.push(joined(&pointed(&straight(value))));
    if value.starts_with('\\') || property == "content" && !value.contains(['"', '\'']) {
        tries.push(format!("\"{value}\""));
    }
    if let Ok(number) = value.parse::<f64>() {
        tries.push(format!("{number:.0}"));
    }
    let hidden = (property == "display" && value.eq_ignore_ascii_case("hidden")).then(|| "none".to_owned());
    let word = || nearest_keyword(property, value);
    hidden.or_else(|| tries.into_iter().find(is_taken)).or_else(|| word().filter(is_taken))
}

/// With straight quotes and the minus of a keyboard.
fn straight(value: &str) -> String {
    value
        .replace(['“', '”', '„', '«', '»'], "\"")
        .replace(['‘', '’', '‚'], "'")
        .replace(['−', '–', '‐'], "-")
        .replace('\u{a0}', " ")
}

/// Numbers and their units without a blank between them.
fn joined(value: &str) -> String {
    const UNITS: &[&str] = &["px", "em", "rem", "%", "vh", "vw", "s", "ms", "deg", "pt", "ch", "fr"];
    let mut words: Vec<String> = Vec::new();
    for word in value.split(' ') {
        let is_unit = UNITS.contains(&word.to_ascii_lowercase().trim_end_matches([',', ')']));
        match words.last_mut() {
            Some(last) if is_unit && last.ends_with(|c: char| c.is_ascii_digit()) => last.push_str(word),
            _ => words.push(word.to_owned()),
        }
    }
    words.join(" ")
}

/// With points in numbers in the place of commas.
fn pointed(value: &str) -> String {
    let letters: Vec<char> = value.chars().collect();
    let is_digit = |at: Option<usize>| at.and_then(|at| letters.get(at)).is_some_and(char::is_ascii_digit);
    let point = |(at, letter): (usize, &char)| match letter {
        ',' if is_digit(at.checked_sub(1)) && is_digit(Some(at + 1)) => '.',
        letter => *letter,
    };
    letters.iter().enumerate().map(point).collect()
}

/// With blanks around the signs of a calculation.
fn spaced(value: &str) -> String {
    let mut out = String::new();
    for (at, letter) in value.char_indices() {
        let is_behind_value =
            value[..at].trim_end().ends_with(|c: char| c.is_ascii_alphanumeric() || "%)".contains(c));
        match letter {
            '+' | '-'
                if is_behind_value
                    && value.contains('(')
                    && !value[..at].ends_with(|c: char| c.is_ascii_alphabetic())
                    || letter == '+' && is_behind_value =>
            {
                out.push_str(&format!(" {letter} "));
            }
            letter => out.push(letter),
        }
    }
    out.replace("  ", " ")
}

/// With commas between the arguments of a function.
fn parted(value: &str) -> String {
    match (value.find('('), value.rfind(')')) {
        (Some(open), Some(close)) if open < close => {
            let inner = value[open + 1..close].split_whitespace().collect::<Vec<_>>().join(", ");
            format!("{}({inner}){}", &value[..open], &value[close + 1..])
        }
        _ => value.to_owned(),
    }
}

#[cfg(test)]
mod tests {
    use super::repaired;

    #[test]
    fn what_was_meant_is_what_a_browser_takes() {
        for (property, value, expected) in [
            ("z-index", "−4", Some("-4")),
            ("margin", "10 px", Some("10px")),
            ("margin", "1 px 2 em", Some("1px 2em")),
            ("width", "1,5px", Some("1.5px")),
            ("z-index", "1.5", Some("2")),
            ("display", "hidden", Some("none")),
            ("content", "\\f005", Some("\"\\f005\"")),
            ("content", "“x”", Some("\"x\"")),
            ("transform", "translate(10px 20px)", Some("translate(10px, 20px)")),
            ("text-align", "centre", Some("center")),
            ("width", "calc(100%-10px)", Some("calc(100% - 10px)")),
            ("width", "calc(1px+2px)", Some("calc(1px + 2px)")),
            ("color", "reed", Some("red")),
            ("width", "nonsense of a kind", None),
        ] {
            assert_eq!(repaired(property, value).as_deref(), expected, "{property}: {value}");
        }
    }
}
