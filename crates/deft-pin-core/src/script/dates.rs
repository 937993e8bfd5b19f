//! Dates as scripts write them in texts (ECMA-262, "Date Time String Format"; for all others what Chromium makes of them).

use crate::source::Day;

/// A date that stands in a text.
#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) struct WrittenDate {
    /// Its moment, in milliseconds since 1970-01-01; that of a place without a time zone is taken as UTC.
    pub(super) time: f64,
    /// The day that it comes to, where its month is too short for the one that is written.
    pub(super) rolls_over_to: Option<Day>,
}

/// The date that a text is; none where a browser makes none of it.
pub(super) fn written_date(text: &str) -> Option<WrittenDate> {
    let text = text.trim();
    standard(text).or_else(|| loose(text))
}

/// What the parts of a date come to.
fn date(year: i64, month: u32, day: u32, milliseconds: f64) -> Option<WrittenDate> {
    let found = Day::new(year, month, day)?;
    let rolls_over = found.date().2 != day;
    Some(WrittenDate { time: found.start() + milliseconds, rolls_over_to: rolls_over.then_some(found) })
}

fn digits(text: &str, count: usize) -> Option<(u32, &str)> {
    let (number, rest) = text.split_at_checked(count)?;
    let number = number.bytes().all(|b| b.is_ascii_digit()).then(|| number.parse().ok()).flatten()?;
    Some((number, rest))
}

/// `2027-01-05T10:00:00Z` and its shorter forms.
fn standard(text: &str) -> Option<WrittenDate> {
    let (year, mut rest) = digits(text, 4)?;
    let (mut month, mut day) = (1, 1);
    if let Some(after) = rest.strip_prefix('-') {
        (month, rest) = digits(after, 2)?;
        if let Some(after) = rest.strip_prefix('-') {
            (day, rest) = digits(after, 2)?;
        }
    }
    let mut milliseconds = 0.0;
    if let Some(after) = rest.strip_prefix('T') {
        let (hours, after) = digits(after, 2)?;
        let (minutes, after) = digits(after.strip_prefix(':')?, 2)?;
        let (seconds, after) = match after.strip_prefix(':') {
            Some(after) => digits(after, 2)?,
            None => (0, after),
        };
        let after = match after.strip_prefix('.') {
            Some(fraction) => fraction.trim_start_matches(|c: char| c.is_ascii_digit()),
            None => after,
        };
        milliseconds = clock(hours, minutes, seconds)?;
        let is_west = after.starts_with('-');
        rest = match after.strip_prefix(['+', '-']) {
            Some(zone) => {
                let (hours, after) = digits(zone, 2)?;
                let (minutes, after) = digits(after.strip_prefix(':').unwrap_or(after), 2)?;
                let offset = f64::from(hours * 60 + minutes) * 60_000.0;
                milliseconds += if is_west { offset } else { -offset };
                after
            }
            None => after.strip_prefix('Z').unwrap_or(after),
        };
    }
    if !rest.is_empty() {
        return None;
    }
    date(i64::from(year), month, day, milliseconds)
}

fn clock(hours: u32, minutes: u32, seconds: u32) -> Option<f64> {
    let is_midnight = hours == 24 && minutes == 0 && seconds == 0;
    let is_clock = hours < 24 && minutes < 60 && seconds < 60;
    (is_clock || is_midnight).then(|| f64::from((hours * 60 + minutes) * 60 + seconds) * 1000.0)
}

const MONTHS: &[&str] = &["jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec"];

/// What Chromium makes of other texts: months by their first three letters, month before day, a time somewhere.
fn loose(text: &str) -> Option<WrittenDate> {
    let mut numbers: Vec<u32> = Vec::new();
    let mut month = None;
    let mut time: Option<(u32, u32, u32)> = None;
    let mut is_afternoon = None;
    let mut has_number = false;
    let mut rest = text;
    while let Some(first) = rest.chars().next() {
        if first.is_ascii_digit() {
            let end = rest.find(|c: char| !c.is_ascii_digit()).unwrap_or(rest.len());
            let number: u32 = rest[..end].parse().ok()?;
            rest = &rest[end..];
            has_number = true;
            if time.is_none() && rest.starts_with(':') && month_or_numbers(month, &numbers) {
                let (parts, after) = clock_parts(number, rest)?;
                time = Some(parts);
                rest = after;
                if rest.starts_with(|c: char| c.is_ascii_alphabetic()) && !rest.starts_with('Z') {
                    return None;
                }
                continue;
            }
            if rest.starts_with(|c: char| c.is_alphabetic()) {
                return None;
            }
            numbers.push(number);
        } else if first.is_ascii_alphabetic() {
            let end = rest.find(|c: char| !c.is_ascii_alphabetic()).unwrap_or(rest.len());
            let word = rest[..end].to_ascii_lowercase();
            rest = &rest[end..];
            let named = MONTHS.iter().position(|name| word.starts_with(name));
            match (named, word.as_str()) {
                (Some(at), _) => month = Some(at as u32 + 1),
                (None, "am") if time.is_some() => is_afternoon = Some(false),
                (None, "pm") if time.is_some() => is_afternoon = Some(true),
                (
                    None,
                    "gmt" | "utc" | "z" | "est" | "edt" | "cst" | "cdt" | "mst" | "mdt" | "pst" | "pdt",
                ) => {}
                // Words before the first number are passed over.
                _ if !has_number => {}
                _ => return None,
            }
        } else if first == '(' {
            rest = rest.split_once(')').map_or("", |(_, after)| after);
        } else if matches!(first, '+' | '-') && time.is_some() {
            let zone = rest[1..].trim_start_matches(|c: char| c.is_ascii_digit() || c == ':');
            rest = zone;
        } else if matches!(first, ' ' | ',' | '/' | '-' | '.' | '\t' | '\n') {
            rest = &rest[1..];
        } else {
            return None;
        }
    }
    let (year, month, day) = match (month, numbers.as_slice()) {
        (Some(month), [year]) if *year > 31 => (*year, month, 1),
        (Some(month), [day]) => (2001, month, *day),
        (Some(month), [first, second, ..]) if *first > 31 => (*first, month, *second),
        (Some(month), [day, year, ..]) => (*year, month, *day),
        (None, [year]) if *year > 31 && text.len() == 4 => (*year, 1, 1),
        (None, [first, second, third]) if *first > 31 => (*first, *second, *third),
        (None, [month, day, year]) => (*year, *month, *day),
        _ => return None,
    };
    let year = match year {
        0..=49 => 2000 + year,
        50..=99 => 1900 + year,
        _ => year,
    };
    let (mut hours, minutes, seconds) = time.unwrap_or((0, 0, 0));
    if let Some(is_afternoon) = is_afternoon {
        if hours == 0 || hours > 12 {
            return None;
        }
        hours = hours % 12 + if is_afternoon { 12 } else { 0 };
    }
    date(i64::from(year), month, day, clock(hours, minutes, seconds)?)
}

/// A time stands behind a date alone.
fn month_or_numbers(month: Option<u32>, numbers: &[u32]) -> bool {
    month.is_some() || numbers.len() > 1
}

fn clock_parts(hours: u32, rest: &str) -> Option<((u32, u32, u32), &str)> {
    let mut parts = [hours, 0, 0];
    let mut rest = rest;
    for part in &mut parts[1..] {
        let Some(after) = rest.strip_prefix(':') else { break };
        let end = after.find(|c: char| !c.is_ascii_digit()).unwrap_or(after.len());
        *part = after[..end].parse().ok()?;
        rest = &after[end..];
    }
    if let Some(fraction) = rest.strip_prefix('.') {
        rest = fraction.trim_start_matches(|c: char| c.is_ascii_digit());
    }
    Some(((parts[0], parts[1], parts[2]), rest))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// As Chromium reads them.
    #[test]
    fn dates_are_read_as_a_browser_reads_them() {
        let table = include_str!("../../tests/core/dates.txt");
        for line in table.lines().filter(|line| !line.starts_with('#')) {
            let (text, expected) = line.split_once('\t').unwrap();
            let found = match written_date(text) {
                Some(date) => format!("{}", date.time),
                None => "invalid".to_owned(),
            };
            assert_eq!(found, expected, "{text}");
        }
    }

    #[test]
    fn days_that_a_month_has_not_are_those_of_the_next() {
        let rolls = |text: &str| written_date(text).unwrap().rolls_over_to.map(|day| day.to_string());
        assert_eq!(rolls("Feb 31 2027").as_deref(), Some("2027-03-03"));
        assert_eq!(rolls("2027-04-31").as_deref(), Some("2027-05-01"));
        assert_eq!(rolls("2028-02-29"), None);
    }
}
