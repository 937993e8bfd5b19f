//! What to write in the place of a declaration that no browser takes: the nearest that one does.

use cssparser::{Parser, Token};

use crate::source::nearest;
use crate::style::{PropertyId, Validity, nearest_keyword, validity};

/// What to write in the place of a declaration whose value is dropped, if that is plain.
pub(super) fn repaired(property: &str, value: &str) -> Option<String> {
    // What was meant by more than that is not plain, and each of its words would be tried.
    const LONGEST: usize = 500;
    if value.len() > LONGEST {
        return None;
    }
    let is_taken = |text: &String| text != value && validity(property, text, false) == Validity::Taken;
    let called = called(property, value).map(str::to_owned);
    let mut tries: Vec<String> = called.into_iter().collect();
    tries.extend([straight(value), joined(value), pointed(value), spaced(value), parted(value)]);
    tries.push(joined(&pointed(&straight(value))));
    if value.starts_with('\\') || property == "content" && !value.contains(['"', '\'']) {
        tries.push(format!("\"{value}\""));
    }
    if let Ok(number) = value.parse::<f64>() {
        tries.push(format!("{number:.0}"));
    }
    let is_hexadecimal = value.chars().all(|c| c.is_ascii_hexdigit()) && matches!(value.len(), 3 | 4 | 6 | 8);
    tries.extend(is_hexadecimal.then(|| format!("#{value}")));
    let code =
        value.strip_prefix("0x").or_else(|| value.strip_prefix("0X")).or_else(|| value.strip_prefix("##"));
    tries.extend(code.map(|code| format!("#{code}")));
    // A function's bracket stands right behind its name.
    tries.push(value.replace(" (", "("));
    tries.push(value.replace(':', " / "));
    tries.extend(["circle", "ellipse", "inset"].contains(&value).then(|| format!("{value}()")));
    tries.extend(value.strip_suffix("px").map(str::to_owned));
    tries.extend((value == "0").then(|| "0deg".to_owned()));
    tries.extend(["left", "right", "top", "bottom"].map(|side| {
        let opposite = match side {
            "left" => "right",
            "right" => "left",
            "top" => "bottom",
            _ => "top",
        };
        // Without `to` the side was the one that it comes from.
        value.replace(&format!("gradient({side},"), &format!("gradient(to {opposite},"))
    }));
    tries.extend(with_parts_of_color(value));
    tries.extend(as_variable(value));
    tries.extend(
        [" - ", " + ", " * ", " / "]
            .iter()
            .any(|sign| value.contains(sign))
            .then(|| format!("calc({value})")),
    );
    // Names of colours and the like are one word.
    let is_words = value.chars().all(|c| c.is_ascii_alphabetic() || c == ' ');
    tries.extend(is_words.then(|| value.replace(' ', "")));
    let bare = value.trim_matches(['"', '\'']);
    if bare.contains(['.', '/']) && !bare.contains(['(', ' ', ',']) {
        tries.push(format!("url(\"{bare}\")"));
    }
    tries.push(bare.to_owned());
    tries.push(value.replace(",)", ")").replace(", )", ")"));
    tries.push(value.trim_end_matches(',').to_owned());
    tries.push(value.replace(',', " ").split_ascii_whitespace().collect::<Vec<_>>().join(" "));
    // A time of a hundred and more was counted in thousandths.
    let is_long =
        value.split([' ', ',', '(', ')']).any(|part| part.parse::<f64>().is_ok_and(|number| number >= 100.0));
    let time = if is_long { "ms" } else { "s" };
    tries.extend(["px", time, "deg"].map(|unit| with_unit(value, unit)));
    if let Some(right) = tries.into_iter().find(is_taken) {
        return Some(format!("{property}: {right}"));
    }
    if let Some(bare) = value.strip_suffix("important").map(str::trim)
        && validity(property, bare, false) == Validity::Taken
    {
        return Some(format!("{property}: {bare} !important"));
    }
    // A word is taken for another property's; a number or a colour is not.
    let is_word = value.chars().all(|c| c.is_ascii_alphabetic() || c == '-');
    let mut beside = beside(property).iter().filter(|other| is_word && **other != property);
    let other = beside.find(|other| validity(other, value, false) == Validity::Taken);
    let other = other.map(|other| format!("{other}: {value}"));
    let near = || with_near_words(property, value).into_iter().find(is_taken);
    other.or_else(|| Some(format!("{property}: {}", near()?)))
}

/// What people call things that have another name.
fn called(property: &str, value: &str) -> Option<&'static str> {
    let word = value.to_ascii_lowercase();
    Some(match (property, word.as_str()) {
        ("cursor", "hand") => "pointer",
        ("display", "hidden" | "invisible" | "hide") => "none",
        ("display", "visible" | "shown") => "block",
        ("visibility", "none" | "invisible") => "hidden",
        ("visibility", "block" | "show" | "shown") => "visible",
        ("overflow" | "overflow-x" | "overflow-y", "none") => "hidden",
        ("align-items" | "align-self" | "align-content", "top") => "start",
        ("align-items" | "align-self" | "align-content", "bottom") => "end",
        ("position", "top" | "center" | "left" | "right" | "bottom") => "absolute",
        ("cursor", "finger" | "link" | "click") => "pointer",
        ("vertical-align", "center" | "centre") => "middle",
        ("text-align" | "justify-content" | "align-items" | "align-self" | "align-content", "middle") => {
            "center"
        }
        ("font-weight", "semibold" | "semi-bold" | "demibold" | "demi-bold") => "600",
        ("font-weight", "medium") => "500",
        ("font-weight", "regular" | "book") => "400",
        ("font-weight", "light") => "300",
        ("font-weight", "thin") => "100",
        ("font-weight", "extrabold" | "extra-bold") => "800",
        ("font-weight", "black" | "heavy") => "900",
        ("text-transform", "upper" | "caps") => "uppercase",
        ("text-transform", "lower") => "lowercase",
        ("white-space", "no-wrap") => "nowrap",
        ("flex-wrap", "no-wrap") => "nowrap",
        ("position", "float") => "absolute",
        ("flex-direction", "vertical") => "column",
        ("flex-direction", "horizontal") => "row",
        ("resize", "all" | "yes" | "true") => "both",
        ("user-select" | "pointer-events", "false" | "no" | "off" | "disabled") => "none",
        ("border-style" | "outline-style", "line" | "plain") => "solid",
        ("list-style" | "list-style-type", "bullet" | "bullets" | "dot" | "dots") => "disc",
        ("list-style" | "list-style-type", "number" | "numbers") => "decimal",
        ("background-repeat", "none" | "no" | "false") => "no-repeat",
        ("background-size", "fill" | "full") => "cover",
        ("background-size", "fit") => "contain",
        ("object-fit", "crop") => "cover",
        ("object-fit", "stretch") => "fill",
        _ => return None,
    })
}

/// `rgba(#fff, .5)` as preprocessors have it, with the parts of the colour written out.
fn with_parts_of_color(value: &str) -> Option<String> {
    let inner = value.strip_prefix("rgba(").or_else(|| value.strip_prefix("rgb("))?.strip_suffix(')')?;
    let (code, alpha) = inner.split_once(',')?;
    let code = code.trim().strip_prefix('#')?;
    let long: String = match code.len() {
        3 => code.chars().flat_map(|digit| [digit, digit]).collect(),
        6 => code.to_owned(),
        _ => return None,
    };
    let part = |at: usize| u8::from_str_radix(long.get(at..at + 2)?, 16).ok();
    Some(format!("rgb({} {} {} / {})", part(0)?, part(2)?, part(4)?, alpha.trim()))
}

/// `var(name)` and a custom property's name alone, as the value of that.
fn as_variable(value: &str) -> Option<String> {
    match value.strip_prefix("var(").and_then(|rest| rest.strip_suffix(')')) {
        Some(name) => Some(format!("var(--{})", name.trim_start_matches('-'))),
        None => (value.starts_with("--") && !value.contains(' ')).then(|| format!("var({value})")),
    }
}

/// What is said of a value that is none for a reason that everybody runs into.
pub(super) fn advice(property: &str, value: &str) -> Option<&'static str> {
    let value = value.trim();
    Some(match (property, value) {
        ("float", "center" | "centre" | "middle") => {
            "nothing floats in the middle: `margin-inline: auto` centres a block, `text-align: center` what is in it"
        }
        (padding, _) if padding.starts_with("padding") && value.split(' ').any(|part| part == "auto") => {
            "a padding is never `auto`: `margin: auto` centres a block"
        }
        _ if value.starts_with('#')
            && value[1..].chars().all(|c| c.is_ascii_hexdigit())
            && !matches!(value.len(), 4 | 5 | 7 | 9) =>
        {
            "a colour by its code has 3, 4, 6 or 8 digits"
        }
        _ if value.ends_with('!') => "take the `!` out, or write `!important`",
        _ if is_negative(property, value) => {
            "it takes no negative value: move the box by a `margin`, or `translate`"
        }
        _ => return None,
    })
}

/// Whether a value would be taken but for its sign.
fn is_negative(property: &str, value: &str) -> bool {
    let positive =
        value.split(' ').map(|part| part.strip_prefix('-').unwrap_or(part)).collect::<Vec<_>>().join(" ");
    positive != value && validity(property, &positive, false) == Validity::Taken
}

/// Properties of one family, whose words are taken for each other's.
fn beside(property: &str) -> &'static [&'static str] {
    match property.split('-').next() {
        Some("font" | "text") => {
            &["font-weight", "font-style", "text-align", "text-decoration", "text-transform", "font-size"]
        }
        Some("display" | "visibility" | "float" | "position") => {
            &["visibility", "display", "position", "float"]
        }
        Some("background") => &["background", "background-size", "background-repeat", "background-position"],
        _ => &[],
    }
}

/// With a unit behind each number that has none and is not zero.
fn with_unit(value: &str, unit: &str) -> String {
    let mut out = String::new();
    note_with_unit(value, &mut Parser::new(value), unit, &mut out);
    out
}

fn note_with_unit(text: &str, input: &mut Parser<'_>, unit: &str, out: &mut String) {
    loop {
        let start = input.position().byte_index();
        let Ok(token) = input.next_including_whitespace_and_comments().cloned() else { return };
        out.push_str(&text[start..input.position().byte_index()]);
        match token {
            Token::Number { value, .. } if value != 0.0 => out.push_str(unit),
            Token::Function(_) | Token::ParenthesisBlock => {
                let nested: Result<(), cssparser::ParseError<()>> = input.parse_nested_block(|input| {
                    note_with_unit(text, input, unit, out);
                    Ok(())
                });
                if nested.is_ok() {
                    out.push(')');
                }
            }
            _ => {}
        }
    }
}

/// With one word, or one unit, in the place of another that is nearly the same.
fn with_near_words(property: &str, value: &str) -> Vec<String> {
    const UNITS: &[&str] = &["px", "em", "rem", "vh", "vw", "ms", "deg", "pt", "ch", "fr", "s"];
    let words: Vec<&str> = value.split(' ').collect();
    let replaced = |at: usize, word: &str| {
        let mut words = words.clone();
        words[at] = word;
        words.join(" ")
    };
    let mut tries = Vec::new();
    for (at, word) in words.iter().enumerate() {
        tries.extend(nearest_keyword(property, word).map(|near| replaced(at, &near)));
        for longhand in PropertyId::of(property).longhands() {
            tries.extend(nearest_keyword(longhand.name(), word).map(|near| replaced(at, &near)));
        }
        let number = word.trim_end_matches(|c: char| c.is_ascii_alphabetic());
        let unit = &word[number.len()..];
        if !number.is_empty() && !unit.is_empty() {
            let near = nearest(&unit.to_ascii_lowercase(), UNITS.iter().copied());
            tries.extend(near.map(|near| replaced(at, &format!("{number}{near}"))));
        }
    }
    tries
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
            ("z-index", "−4", "z-index: -4"),
            ("margin", "10 px", "margin: 10px"),
            ("margin", "1 px 2 em", "margin: 1px 2em"),
            ("width", "1,5px", "width: 1.5px"),
            ("z-index", "1.5", "z-index: 2"),
            ("display", "hidden", "display: none"),
            ("content", "\\f005", "content: \"\\f005\""),
            ("content", "“x”", "content: \"x\""),
            ("transform", "translate(10px 20px)", "transform: translate(10px, 20px)"),
            ("text-align", "centre", "text-align: center"),
            ("width", "calc(100%-10px)", "width: calc(100% - 10px)"),
            ("width", "calc(1px+2px)", "width: calc(1px + 2px)"),
            ("width", "calc(100% - 10)", "width: calc(100% - 10px)"),
            ("width", "10pxx", "width: 10px"),
            ("width", "100", "width: 100px"),
            ("transition", "all 0.3", "transition: all 0.3s"),
            ("transform", "rotate(45)", "transform: rotate(45deg)"),
            ("color", "reed", "color: red"),
            ("color", "ff0000", "color: #ff0000"),
            ("color", "'red'", "color: red"),
            ("color", "rgb(255,0,0,)", "color: rgb(255,0,0)"),
            ("color", "red important", "color: red !important"),
            ("margin", "10px, 20px", "margin: 10px 20px"),
            ("border", "1px red sold", "border: 1px red solid"),
            ("background-image", "a.png", "background-image: url(\"a.png\")"),
            ("cursor", "hand", "cursor: pointer"),
            ("vertical-align", "center", "vertical-align: middle"),
            ("font-weight", "semibold", "font-weight: 600"),
            ("font-weight", "italic", "font-style: italic"),
            ("font", "bold", "font-weight: bold"),
            ("text-decoration", "bold", "font-weight: bold"),
            ("visibility", "none", "visibility: hidden"),
            ("grid-template-columns", "1fr, 1fr", "grid-template-columns: 1fr 1fr"),
            ("color", "0xff0000", "color: #ff0000"),
            ("color", "rgba(#fff, .5)", "color: rgb(255 255 255 / .5)"),
            ("color", "dark blue", "color: darkblue"),
            ("width", "100% - 10px", "width: calc(100% - 10px)"),
            ("width", "var(width)", "width: var(--width)"),
            ("width", "--width", "width: var(--width)"),
            ("flex-direction", "vertical", "flex-direction: column"),
            ("z-index", "10px", "z-index: 10"),
            ("width", "calc (100% - 20px)", "width: calc(100% - 20px)"),
            ("aspect-ratio", "16:9", "aspect-ratio: 16 / 9"),
            ("clip-path", "circle", "clip-path: circle()"),
            (
                "background", "linear-gradient(left, red, blue)",
                "background: linear-gradient(to right, red, blue)",
            ),
            ("font-weight", "700px", "font-weight: 700"),
            ("text-shadow", "#000", ""),
            ("padding", "auto", ""),
            ("padding", "-10px", ""),
            ("width", "nonsense of a kind", ""),
        ] {
            assert_eq!(repaired(property, value).unwrap_or_default(), expected, "{property}: {value}");
        }
    }
}
