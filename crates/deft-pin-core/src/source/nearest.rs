//! The nearest known name to one that was not found.

/// The candidate that a person most likely meant: the one that differs from `wanted` only in
/// case or in dashes, underscores and blanks, else the one with the fewest edits, as long as
/// these are few for the length of the name. Among equals the first one wins.
pub fn nearest<'a>(wanted: &str, candidates: impl IntoIterator<Item = &'a str>) -> Option<&'a str> {
    let folded = fold(wanted);
    let allowed = (wanted.chars().count() / 3).min(4);
    let mut best: Option<(usize, &str)> = None;
    for candidate in candidates {
        if candidate == wanted {
            continue;
        }
        let distance = if fold(candidate) == folded {
            0
        } else if allowed == 0 || candidate.len().abs_diff(wanted.len()) > 4 * allowed {
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

fn fold(name: &str) -> String {
    name.chars()
        .filter(|c| !matches!(c, '-' | '_') && !c.is_whitespace())
        .flat_map(char::to_lowercase)
        .collect()
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
