//! What standards say of values in words, beside the grammars: what keeps a value from being taken that
//! its property's grammar has room for.

use super::component::{Tok, any, parts};

/// Whether a value breaks a rule that no grammar writes down, so that browsers drop it.
pub(super) fn breaks_rule(property: &str, tokens: &[Tok]) -> bool {
    matches!(tokens, [Tok::Comma, _, ..])
        || any(tokens, &is_wrong_function)
        || match property {
            "box-shadow" | "text-shadow"
                if tokens.len() > 1 && tokens.iter().any(|token| token.is_word("none")) =>
            {
                true
            }
            "box-shadow" | "text-shadow" | "transition" | "transition-property" => {
                has_word_in_list(tokens, &["none"])
                    || property == "text-shadow"
                        && (tokens.iter().any(|token| token.is_word("inset"))
                            || parts(tokens).any(|part| part.iter().filter(|t| is_measure(t)).count() > 3))
            }
            "clip-path" | "offset-path" | "shape-outside" | "-webkit-clip-path"
                if any(tokens, &|token| {
                    matches!(token, Tok::Function(name, inner) if name.eq_ignore_ascii_case("path")
                        && inner.last() == Some(&Tok::Text(String::new())))
                }) =>
            {
                true
            }
            "will-change" => has_word_in_list(tokens, &["none", "all", "auto"]),
            "text-overflow" => !matches!(tokens, [Tok::Word(_)]),
            "image-orientation" => !matches!(tokens, [Tok::Word(_)]),
            "color-scheme" => {
                let last = tokens.len().saturating_sub(1);
                let is_between = |at: usize, token: &Tok| token.is_word("only") && at != 0 && at != last;
                tokens.iter().enumerate().any(|(at, token)| is_between(at, token))
                    || last > 0 && tokens.iter().any(|token| token.is_word("normal"))
            }
            "counter-reset" | "counter-increment" | "counter-set" | "view-transition-class" => {
                tokens.len() > 1 && tokens.iter().any(|token| token.is_word("none"))
            }
            "grid-area" | "grid-row" | "grid-column" | "grid-row-start" | "grid-row-end"
            | "grid-column-start" | "grid-column-end" => {
                tokens.split(|token| matches!(token, Tok::Mark('/'))).any(is_no_line)
            }
            "grid-template-areas" | "grid-template" | "grid" => {
                !are_rectangles(tokens) || has_loose_repeat(tokens) || has_reserved_line(tokens)
            }
            "animation" | "-webkit-animation" => parts(tokens).any(is_no_animation),
            "container-name" | "container" => {
                let reserved = ["none", "and", "or", "not"];
                let names = tokens.split(|token| matches!(token, Tok::Mark('/'))).next().unwrap_or_default();
                names.len() > 1 && names.iter().any(|token| reserved.iter().any(|word| token.is_word(word)))
            }
            // A generic family is no part of another's name, unless it is a newer one (css-fonts-4, "font-family").
            "font-family" | "font" => parts(tokens).any(|part| {
                part.windows(2).any(|pair| is_generic_family(&pair[0]) && matches!(pair[1], Tok::Word(_)))
                    && !part
                        .windows(2)
                        .any(|pair| matches!(pair[0], Tok::Word(_)) && is_generic_family(&pair[1]))
            }),
            "r"
            | "rx"
            | "ry"
            | "stroke-dasharray"
            | "stroke-width"
            | "stroke-miterlimit"
            | "interest-delay"
            | "interest-delay-start"
            | "interest-delay-end" => tokens.iter().any(is_negative),
            "grid-template-columns" | "grid-template-rows" => {
                has_loose_repeat(tokens) || has_reserved_line(tokens)
            }
            // Tags of OpenType (css-fonts-4, "font-feature-settings").
            "font-feature-settings" | "font-variation-settings" => tokens.iter().any(|token| {
                let is_tag = |text: &str| text.len() == 4 && text.bytes().all(|b| (0x20..0x7f).contains(&b));
                matches!(token, Tok::Text(text) if !is_tag(text))
            }),
            _ => false,
        }
}

/// Whether something that is put in at run time cannot be: `var()` without a custom property's name
/// (css-variables-1), `env()` and `attr()` without a name or with something strange behind it
/// (css-env-1, css-values-5).
pub(super) fn has_wrong_substitution(tokens: &[Tok]) -> bool {
    any(tokens, &|token| {
        let Tok::Function(name, inner) = token else { return false };
        let is_end = |at: usize| matches!(inner.get(at), None | Some(Tok::Comma));
        match (name.to_ascii_lowercase().as_str(), inner.first()) {
            ("var", Some(Tok::Word(name))) => !(name.len() > 2 && name.starts_with("--") && is_end(1)),
            ("env", Some(Tok::Word(_))) => {
                let numbers =
                    inner[1..].iter().take_while(|token| matches!(token, Tok::Number(_, true))).count();
                !is_end(1 + numbers)
            }
            ("attr", Some(Tok::Word(_))) => {
                let is_type = match inner.get(1) {
                    Some(Tok::Word(_) | Tok::Mark('%')) => true,
                    Some(Tok::Function(name, _)) => name.eq_ignore_ascii_case("type"),
                    _ => false,
                };
                // With a namespace, or with a type.
                !matches!(inner.get(1), Some(Tok::Mark('|'))) && !is_end(1 + usize::from(is_type))
            }
            // A condition, a colon and a value (css-values-5).
            ("if", _) => !inner.contains(&Tok::Mark(':')),
            ("var" | "env" | "attr", _) => true,
            _ => false,
        }
    })
}

/// Whether one of some words, which stand alone or not at all, stands in a list.
fn has_word_in_list(tokens: &[Tok], words: &[&str]) -> bool {
    tokens.len() > 1
        && parts(tokens).any(|part| matches!(part, [word] if words.iter().any(|own| word.is_word(own))))
}

/// Whether a component may be one of the lengths of a shadow.
fn is_measure(token: &Tok) -> bool {
    match token {
        Tok::Number(..) | Tok::Dimension(..) => true,
        Tok::Function(name, _) => super::math::is_math(name),
        _ => false,
    }
}

/// Whether a word is one of the generic families that every browser has, and that were there first.
pub(super) fn is_generic(word: &str) -> bool {
    ["serif", "sans-serif", "monospace", "cursive", "fantasy", "system-ui", "math"]
        .iter()
        .any(|own| word.eq_ignore_ascii_case(own))
}

fn is_generic_family(token: &Tok) -> bool {
    matches!(token, Tok::Word(word) if is_generic(word))
}

/// Whether one animation of a list says the same thing twice: it has a name and a way to fill, either of which `none`
/// may be, a duration, which may be `auto`, and a delay (css-animations-2, "the animation shorthand property").
fn is_no_animation(part: &[Tok]) -> bool {
    let count = |test: &dyn Fn(&Tok) -> bool| part.iter().filter(|token| test(token)).count();
    let is_one_of = |token: &Tok, words: &[&str]| words.iter().any(|word| token.is_word(word));
    const FILLS: &[&str] = &["forwards", "backwards", "both"];
    const OTHERS: &[&str] = &[
        "none", "auto", "ease", "ease-in", "ease-out", "ease-in-out", "linear", "step-start", "step-end",
        "infinite", "normal", "reverse", "alternate", "alternate-reverse", "running", "paused", "replace",
        "add", "accumulate",
    ];
    let is_name = |token: &Tok| match token {
        Tok::Text(_) => true,
        Tok::Word(_) => !is_one_of(token, FILLS) && !is_one_of(token, OTHERS),
        _ => false,
    };
    let names = count(&is_name);
    let nones = count(&|token| token.is_word("none"));
    let fills = count(&|token| is_one_of(token, FILLS));
    let is_time = |token: &Tok| matches!(token, Tok::Dimension(..));
    let is_first = |token: &&Tok| is_time(token) || token.is_word("auto");
    let begins_with_auto = part.iter().find(is_first).is_some_and(|token| token.is_word("auto"));
    let times = count(&is_time) + usize::from(begins_with_auto);
    // Behind the duration `auto` is a name.
    let is_auto = |token: &&Tok| token.is_word("auto");
    let behind = part.iter().skip_while(|token| !is_time(token) && !is_auto(token)).skip(1);
    let names = names + behind.filter(is_auto).count();
    names > 1 || names + nones + fills > 2 || times > 2
}

/// Whether a text is the data of a path: commands, the first of which moves, with as many numbers as each takes
/// (SVG 2, 9.3.9).
fn is_path(data: &str) -> bool {
    let mut rest = data.trim_start();
    let mut is_first = true;
    while let Some(command) = rest.chars().next() {
        let wanted = match command.to_ascii_lowercase() {
            'm' | 'l' | 't' => 2,
            'h' | 'v' => 1,
            'c' => 6,
            's' | 'q' => 4,
            'a' => 7,
            'z' => 0,
            _ => return false,
        };
        if std::mem::take(&mut is_first) && !command.eq_ignore_ascii_case(&'m') {
            return false;
        }
        rest = rest[command.len_utf8()..].trim_start();
        let mut found = 0;
        // The flags of an arc may stand without a blank between them.
        while let Some(after) = behind_number(rest, wanted == 7 && matches!(found % 7, 3 | 4)) {
            found += 1;
            rest = after.trim_start();
            if let Some(after) = rest.strip_prefix(',') {
                rest = after.trim_start();
                if behind_number(rest, false).is_none() {
                    return false;
                }
            }
        }
        let is_well = if wanted == 0 { found == 0 } else { found > 0 && found % wanted == 0 };
        if !is_well {
            return false;
        }
    }
    true
}

/// What stands behind a number at the beginning of a text.
fn behind_number(text: &str, is_flag: bool) -> Option<&str> {
    if is_flag {
        return text.strip_prefix(['0', '1']);
    }
    let digits = |text: &str| text.len() - text.trim_start_matches(|c: char| c.is_ascii_digit()).len();
    let rest = text.strip_prefix(['+', '-']).unwrap_or(text);
    let whole = digits(rest);
    let mut rest = &rest[whole..];
    let part = rest.strip_prefix('.').map(digits).filter(|part| *part > 0);
    if let Some(part) = part {
        rest = &rest[1 + part..];
    }
    if whole == 0 && part.is_none() {
        return None;
    }
    if let Some(power) = rest.strip_prefix(['e', 'E']) {
        let bare = power.strip_prefix(['+', '-']).unwrap_or(power);
        if digits(bare) > 0 {
            rest = &bare[digits(bare)..];
        }
    }
    Some(rest)
}

fn is_negative(token: &Tok) -> bool {
    match token {
        Tok::Number(value, _) | Tok::Percentage(value) | Tok::Dimension(value, _) => *value < 0.0,
        _ => false,
    }
}

fn is_wrong_function(token: &Tok) -> bool {
    let Tok::Function(name, inner) = token else { return false };
    let name = name.to_ascii_lowercase();
    // Fallbacks may be empty; of everything else each part has something in it.
    let may_be_empty = matches!(name.as_str(), "var" | "env" | "attr" | "if") || name.starts_with("--");
    // Commas behind all are passed over there.
    let may_be_empty = may_be_empty || matches!(name.as_str(), "calc-size" | "shape");
    let has_empty_part = !may_be_empty && inner.len() > 1 && parts(inner).any(<[Tok]>::is_empty);
    has_empty_part
        || match name.as_str() {
            "blur" | "brightness" | "contrast" | "grayscale" | "invert" | "opacity" | "saturate"
            | "sepia" => inner.first().is_some_and(is_negative),
            "steps" => match inner.as_slice() {
                [Tok::Number(count, _)] => *count < 1.0,
                [Tok::Number(count, _), Tok::Comma, Tok::Word(jump)] => {
                    *count < if jump.eq_ignore_ascii_case("jump-none") { 2.0 } else { 1.0 }
                }
                _ => false,
            },
            "linear" => parts(inner).count() < 2,
            "path" => matches!(inner.last(), Some(Tok::Text(data)) if !data.is_empty() && !is_path(data)),
            "circle" | "ellipse" => {
                let radii: Vec<&Tok> = inner.iter().take_while(|token| !token.is_word("at")).collect();
                radii.iter().any(|radius| is_negative(radius))
                    || radii.len() == if name == "circle" { 2 } else { 1 }
            }
            // The radius of a circle is one length, those of an ellipse are two (css-images-3, "radial gradients").
            "radial-gradient" | "repeating-radial-gradient" => {
                let first = parts(inner).next().unwrap_or_default();
                let shape = first.split(|token| token.is_word("at")).next().unwrap_or_default();
                let has = |test: &dyn Fn(&Tok) -> bool| shape.iter().any(test);
                let radii =
                    shape.iter().filter(|token| is_measure(token) || matches!(token, Tok::Percentage(_)));
                let radii = radii.count();
                has(&|token| token.is_word("circle"))
                    && (radii > 1 || has(&|token| matches!(token, Tok::Percentage(_))))
                    || radii == 1 && has(&|token| token.is_word("ellipse"))
            }
            "color" => match inner.first() {
                Some(Tok::Word(space)) if !space.eq_ignore_ascii_case("from") => !is_color_space(space),
                _ => false,
            },
            "device-cmyk" => true,
            _ => false,
        }
}

/// Color spaces of `color()` that Chromium has (css-color-4, "predefined color spaces").
pub(super) fn is_color_space(word: &str) -> bool {
    let spaces = [
        "srgb", "srgb-linear", "display-p3", "display-p3-linear", "a98-rgb", "prophoto-rgb", "rec2020",
        "xyz", "xyz-d50", "xyz-d65",
    ];
    spaces.iter().any(|space| word.eq_ignore_ascii_case(space))
}

/// Whether something is no grid line: `auto` stands alone, `span` once and not alone, and neither is a
/// name (css-grid-2, "grid-placement").
fn is_no_line(part: &[Tok]) -> bool {
    let count = |word: &str| part.iter().filter(|token| token.is_word(word)).count();
    let is_span = count("span") > 0;
    count("auto") > 0 && part.len() > 1
        || count("span") > 1
        || is_span
            && (part.len() == 1 || part.iter().any(|token| matches!(token, Tok::Number(n, _) if *n < 1.0)))
}

/// Whether a line has a name that means something else (css-grid-2, "named lines").
fn has_reserved_line(tokens: &[Tok]) -> bool {
    any(tokens, &|token| match token {
        Tok::Block('[', names) => names.iter().any(|name| name.is_word("span") || name.is_word("auto")),
        _ => false,
    })
}

/// Whether the strings of a template are rows of one length in which each name fills a rectangle
/// (css-grid-2, "grid-template-areas").
fn are_rectangles(tokens: &[Tok]) -> bool {
    let texts = tokens.iter().filter_map(|token| match token {
        Tok::Text(text) => Some(row(text)),
        _ => None,
    });
    let Some(rows) = texts.collect::<Option<Vec<_>>>() else { return false };
    let Some(width) = rows.first().map(Vec::len) else { return true };
    if width == 0 || rows.iter().any(|row| row.len() != width) {
        return false;
    }
    let mut names: Vec<&String> = rows.iter().flatten().flatten().collect();
    names.sort_unstable();
    names.dedup();
    names.into_iter().all(|name| {
        let holds = |cell: &Option<String>| cell.as_ref() == Some(name);
        let places = |row: &Vec<Option<String>>| {
            let from = row.iter().position(holds)?;
            Some((from, row.iter().rposition(holds).unwrap_or(from)))
        };
        let (from, to) =
            rows.iter().filter_map(places).fold((width, 0), |all, own| (all.0.min(own.0), all.1.max(own.1)));
        let first = rows.iter().position(|row| row.iter().any(holds)).unwrap_or(0);
        let last = rows.iter().rposition(|row| row.iter().any(holds)).unwrap_or(0);
        rows[first..=last].iter().all(|row| row[from..=to].iter().all(holds))
    })
}

/// The cells of a row of a template: names, and dots for none; `None` where something else stands there.
fn row(text: &str) -> Option<Vec<Option<String>>> {
    let mut cells = Vec::new();
    let mut rest = text.trim_start();
    while let Some(first) = rest.chars().next() {
        let is_of_name = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_' | '\\') || !c.is_ascii();
        let end = match first {
            '.' => rest.find(|c| c != '.'),
            c if is_of_name(c) => rest.find(|c| !is_of_name(c)),
            _ => return None,
        };
        let (cell, behind) = rest.split_at(end.unwrap_or(rest.len()));
        cells.push((first != '.').then(|| cell.to_owned()));
        rest = behind.trim_start();
    }
    Some(cells)
}

/// Whether a track that is repeated as often as there is room has no size of its own (css-grid-2,
/// "syntax of repeat()").
fn has_loose_repeat(tokens: &[Tok]) -> bool {
    let is_fixed = |token: &Tok| match token {
        Tok::Percentage(_) | Tok::Number(..) => true,
        Tok::Dimension(_, unit) => super::math::Unit::of(unit) == super::math::Unit::Length,
        Tok::Function(name, _) => super::math::is_math(name),
        _ => false,
    };
    let is_track = |token: &Tok| match token {
        Tok::Block('[', _) | Tok::Comma => true,
        Tok::Function(name, inner) if name.eq_ignore_ascii_case("minmax") => {
            let mut bounds = parts(inner);
            let low = bounds.next().and_then(<[Tok]>::first).is_some_and(is_fixed);
            low || bounds.next().and_then(<[Tok]>::first).is_some_and(is_fixed)
        }
        token => is_fixed(token),
    };
    tokens.iter().any(|token| match token {
        Tok::Function(name, inner) if name.eq_ignore_ascii_case("repeat") => {
            let is_auto =
                inner.first().is_some_and(|count| count.is_word("auto-fill") || count.is_word("auto-fit"));
            // In a subgrid only names are repeated.
            is_auto && !inner[1..].iter().all(is_track)
        }
        _ => false,
    })
}

#[cfg(test)]
mod tests {
    use cssparser::Parser;

    use super::super::component::tokens;
    use super::*;

    #[test]
    fn rules_in_words_are_kept() {
        let broken = "text-shadow:1px_1px_1px_1px_red;box-shadow:none,1px_1px;box-shadow:1px_1px,none;transition:none,color_1s;will-change:auto,top;\
            grid-template-areas:'a_b'_'b_a';grid-template-areas:'a_b'_'a';grid-template-areas:'';grid-template-areas:'a_b_a';grid-template-areas:'a_a'_'a_.';\
            grid-template-columns:repeat(auto-fill,1fr);grid-template-columns:repeat(auto-fit,auto);grid-template-columns:repeat(auto-fill,fit-content(9px));\
            filter:blur(-1px);filter:brightness(-10%);background:linear-gradient(red,);background:linear-gradient(,red);background:linear-gradient(red,,blue);\
            counter-reset:none_1;grid-area:auto_/_span_/_1;grid-column:span_span;grid-row-start:auto_1;transition-timing-function:steps(0);\
            transition-timing-function:linear(0);text-overflow:clip_clip;color-scheme:dark_only_light;color:color(--x_1_0_0);color:device-cmyk(0_1_1_0)";
        let kept = "text-shadow:1px_1px_1px_red;box-shadow:none;transition:none;will-change:auto;will-change:top,left;grid-template-areas:'a_b'_'c_b';\
            grid-template-areas:'a_..._b';grid-template-areas:'a_a'_'b_.';grid-template-columns:repeat(auto-fill,minmax(10px,1fr));\
            grid-template-columns:repeat(auto-fill,minmax(auto,10px));grid-template-columns:repeat(auto-fill,[a]_10px_[b])_1fr;grid-template-columns:repeat(2,1fr);\
            filter:blur(1px);background:linear-gradient(red,blue);counter-reset:none;grid-area:auto;grid-area:a_/_span_2;grid-column:span_a;\
            transition-timing-function:steps(1);transition-timing-function:linear(0,1);color:var(--x,);color-scheme:only_dark;color:color(srgb_1_0_0)";
        for (values, expected) in [(broken, true), (kept, false)] {
            for declaration in values.split(';') {
                let (property, value) = declaration.trim().split_once(':').unwrap();
                let found = tokens(&mut Parser::new(&value.replace('_', " "))).unwrap();
                assert_eq!(breaks_rule(property, &found), expected, "{declaration}");
            }
        }
        for (value, expected) in [
            ("var(--x)", false),
            ("var(--x,)", false),
            ("var(x)", true),
            ("var()", true),
            ("calc(1px * var(--x y))", true),
            ("var(--)", true),
            ("env(x 1 2, 3px)", false),
            ("env()", true),
            ("env(x y)", true),
            ("attr(data-x px, 1px)", false),
            ("attr(data-x type(<length>))", false),
            ("attr(1px)", true),
            ("attr(data-x px em)", true),
        ] {
            assert_eq!(
                has_wrong_substitution(&tokens(&mut Parser::new(value)).unwrap()),
                expected,
                "{value}"
            );
        }
    }
}
