//! The nearest known name to one that was not found.

/// The candidate that a person most likely meant: the one that differs from `wanted` only in
/// case or in dashes, underscores and blanks, else the one with the fewest edits, as long as
/// these are few for the length of the name. Among equals the first one wins.
pub fn nearest<'a>(wanted: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let folded: Vec<char> = folded(wanted).collect();
    let (length, letters) = (wanted.chars().count(), letters(wanted));
    let allowed = (length / 3).min(4);
    let mut best: Option<(usize, &str)> = None;
    for candidate in candidates {
        if candidate == wanted {
            continue;
        }
        let distance = if self::folded(candidate).eq(folded.iter().copied()) {
            0
        } else if allowed == 0 || is_far(candidate, length, letters, allowed) {
            continue;
        } else {
            strsim::osa_distance(wanted, candidate)
        };
        if distance <= allowed && best.is_none_or(|(least, _)| distance < least) {
            best = Some((distance, candidate));
        }
    }
    best.map(|(_, candidate)| candidate)
}

/// Whether a name surely takes more edits than are allowed: it is too long or too short, or has too
/// many letters that the other does not, or lacks too many.
fn is_far(candidate: &str, length: usize, wanted: u64, allowed: usize) -> bool {
    if candidate.len() + allowed < length || candidate.len() > 4 * (length + allowed) {
        return true;
    }
    let own = letters(candidate);
    let lacking = (wanted & !own).count_ones().max((own & !wanted).count_ones());
    lacking as usize > allowed || candidate.chars().count().abs_diff(length) > allowed
}

/// The letters of a name, each by one of 64 bits.
fn letters(name: &str) -> u64 {
    name.chars().fold(0, |bits, letter| bits | 1 << (u32::from(letter) % 64))
}

fn folded(name: &str) -> impl Iterator<Item = char> + '_ {
    let kept = name.chars().filter(|c| !matches!(c, '-' | '_') && !c.is_whitespace());
    kept.flat_map(char::to_lowercase)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_what_was_meant_and_nothing_far_off() {
        let known = ["status-title", "stat", "fares", "Fare Table"];
        for (wanted, expected) in [
            ("statusTitle", Some("status-title")),
            ("status_title", Some("status-title")),
            ("fare-table", Some("Fare Table")),
            ("farse", Some("fares")),
            ("timetable", None),
            ("x", None),
        ] {
            assert_eq!(nearest(wanted, known), expected, "{wanted}");
        }
    }
}
