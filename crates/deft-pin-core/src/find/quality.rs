//! What a name looks like: thought of by a person, or made by a machine that may make another one
//! tomorrow.

/// How far a name can be leant on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum NameQuality {
    /// Words of a person: `fare-table`.
    Written,
    /// Words with a number: `pier-3`, `news-2026`. It may count something that moves.
    Numbered,
    /// A state or a measure that many elements share for a while: `is-open`, `col-6`, `odd`.
    Passing,
    /// A hash, a long number or a build's suffix: `block-8683f915`, `css-1x9k2p`.
    Generated,
}

/// Words that say how an element is at the moment, or where in a row it stands.
const PASSING: &[&str] = &[
    "active", "alt", "checked", "clearfix", "closed", "collapse", "collapsed", "col", "current", "dark",
    "disabled", "even", "expanded", "first", "float", "focus", "hidden", "hover", "invisible", "last",
    "left", "light", "loaded", "loading", "odd", "open", "pending", "pull", "right", "row", "scrolled",
    "selected", "show", "shown", "sticky", "visible",
];

/// Judges the name of an ID, a class or an attribute's value.
pub fn quality(name: &str) -> NameQuality {
    // `:r1:` and the like are counters of a rendering library; no person begins a name so.
    if name.starts_with(':') || name.len() > 80 {
        return NameQuality::Generated;
    }
    let parts: Vec<&str> =
        name.split(|c: char| !c.is_alphanumeric()).filter(|part| !part.is_empty()).collect();
    let digits = name.chars().filter(char::is_ascii_digit).count();
    let letters = name.chars().filter(|c| c.is_alphabetic()).count();
    if parts.iter().any(|part| is_made_up(part)) || letters == 0 || digits > letters.max(4) {
        return NameQuality::Generated;
    }
    // An `id-1.4.3` counts chapters that the next edition moves.
    if parts.iter().filter(|part| part.bytes().all(|b| b.is_ascii_digit())).count() > 2 {
        return NameQuality::Generated;
    }
    let first = parts.first().map(|part| part.to_ascii_lowercase()).unwrap_or_default();
    let state = first == "is" || first == "has" || first == "js";
    let measure = letters <= 3 && digits > 0;
    if state && parts.len() > 1 || measure || (parts.len() <= 2 && PASSING.contains(&first.as_str())) {
        return NameQuality::Passing;
    }
    if digits > 0 { NameQuality::Numbered } else { NameQuality::Written }
}

/// Whether a run of letters and digits was made by a machine.
fn is_made_up(part: &str) -> bool {
    let bytes = part.as_bytes();
    let digits = bytes.iter().filter(|b| b.is_ascii_digit()).count();
    let longest_run = part.split(|c: char| !c.is_ascii_digit()).map(str::len).max().unwrap_or(0);
    // Four digits on their own, or at the end of a word, may be a year or a time of day.
    let may_be_a_date = digits == 4 && bytes[bytes.len() - 4..].iter().all(u8::is_ascii_digit);
    if longest_run >= 5 || longest_run == 4 && !may_be_a_date {
        return true;
    }
    if digits > 0 {
        // How often letters and digits take turns: `h2` and `utf8` once, `a1b2` three times.
        let turns =
            bytes.windows(2).filter(|pair| pair[0].is_ascii_digit() != pair[1].is_ascii_digit()).count();
        let is_hex = bytes.iter().all(u8::is_ascii_hexdigit);
        return turns >= 3 && bytes.len() >= 5
            || turns >= 2 && (is_hex && bytes.len() >= 4 || bytes.len() >= 7)
            || turns == 1 && is_hex && bytes.len() >= 6;
    }
    let letters = bytes.iter().filter(|b| b.is_ascii_alphabetic()).count();
    if letters < bytes.len() || letters < 5 {
        return false;
    }
    let vowels = bytes.iter().filter(|b| b"aeiouyAEIOUY".contains(b)).count();
    // Capitals strewn about: `kYpQzB`, but not `fareTable` or `HTMLElement`.
    let ups =
        bytes.windows(2).filter(|pair| pair[0].is_ascii_lowercase() && pair[1].is_ascii_uppercase()).count();
    ups >= 2 && letters <= 4 * ups && vowels * 4 < letters || vowels == 0 && letters >= 7
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_of_people_and_of_machines() {
        use NameQuality::*;
        let table = [
            (
                Written,
                "fare-table main-nav status-line--small siteHeader HTMLElement étape page-type-timetable",
            ),
            (Numbered, "pier-3 news-2026 h2-title utf8-names step2 fares-2027"),
            (Passing, "is-open has-banner col-6 odd mt-4 first current js-menu is_current"),
            (
                Generated,
                "block-8683f915 page-59d6047c9625 intro-88c1 css-1x9k2p :r1: 6666cd idm46428674688592 \
                 kYpQzB id-1.4.3.2 a82442da0c ember1234567 svelte-1tk3f9x 12 item-00417",
            ),
        ];
        for (expected, names) in table {
            for name in names.split_whitespace() {
                assert_eq!(quality(name), expected, "{name}");
            }
        }
    }
}
