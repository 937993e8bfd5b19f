//! A moment on a board: a day, perhaps with a time and an offset from UTC.

use crate::source::Day;

/// A moment, in the visitor's time where it has no offset.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub struct Moment {
    /// The day.
    pub day: Day,
    /// The seconds of the day; none where the day alone is said.
    pub seconds: Option<u32>,
    /// How many minutes it is ahead of UTC; none for the visitor's own time.
    pub offset: Option<i32>,
}

/// The seconds of a day.
const DAY: u32 = 86_400;

impl Moment {
    /// Reads `2027-01-05`, `2027-01-05T10:00`, `2027-01-05 10:00:30+01:00`, `2027-01-05T10:00Z`.
    pub fn parse(text: &str) -> Option<Moment> {
        let text = text.trim();
        let (day, rest) = text.split_at_checked(10)?;
        let day: Day = day.parse().ok()?;
        if rest.is_empty() {
            return Some(Moment { day, seconds: None, offset: None });
        }
        let rest = rest.strip_prefix(['T', 't', ' '])?;
        let zone = rest.find(['Z', 'z', '+', '-']).unwrap_or(rest.len());
        let (clock, zone) = rest.split_at(zone);
        let clock = clock.trim_end();
        let clock = clock.split_once('.').map_or(clock, |(clock, _)| clock);
        let parts: Vec<u32> = clock.split(':').map(two_digits).collect::<Option<_>>()?;
        let seconds = match parts[..] {
            [hours, minutes] if hours < 24 && minutes < 60 => hours * 3600 + minutes * 60,
            [hours, minutes, seconds] if hours < 24 && minutes < 60 && seconds < 60 => {
                hours * 3600 + minutes * 60 + seconds
            }
            _ => return None,
        };
        let offset = match zone {
            "" => None,
            "Z" | "z" => Some(0),
            zone => {
                let (sign, zone) = zone.split_at_checked(1)?;
                let (hours, minutes) = zone.split_once(':')?;
                let (hours, minutes) = (two_digits(hours)?, two_digits(minutes)?);
                let ahead =
                    i32::try_from(hours * 60 + minutes).ok().filter(|_| hours < 24 && minutes < 60)?;
                Some(if sign == "-" { -ahead } else { ahead })
            }
        };
        Some(Moment { day, seconds: Some(seconds), offset })
    }

    /// The milliseconds since 1970-01-01 (UTC), where it is the same moment for every visitor.
    pub fn fixed(self) -> Option<f64> {
        let offset = self.offset?;
        Some(self.day.start() + f64::from(self.seconds.unwrap_or(0)) * 1000.0 - f64::from(offset) * 60_000.0)
    }

    /// An expression of JavaScript for its milliseconds since 1970-01-01 (UTC).
    pub fn script(self) -> String {
        match self.fixed() {
            Some(time) => format!("{time}"),
            None => self.local(self.seconds.unwrap_or(0)),
        }
    }

    /// The same for the moment when something that lasts until it is over: a day alone is over when it ends.
    pub fn script_end(self) -> String {
        if self.seconds.is_none() { self.local(DAY) } else { self.script() }
    }

    fn local(self, seconds: u32) -> String {
        let (year, month, day) = self.day.date();
        let (hours, minutes, seconds) = (seconds / 3600, seconds / 60 % 60, seconds % 60);
        let clock = match (hours, minutes, seconds) {
            (0, 0, 0) => String::new(),
            (hours, 0, 0) => format!(", {hours}"),
            (hours, minutes, 0) => format!(", {hours}, {minutes}"),
            (hours, minutes, seconds) => format!(", {hours}, {minutes}, {seconds}"),
        };
        format!("+new Date({year}, {}, {day}{clock})", month - 1)
    }

    /// What comes first of two, as far as days and times tell whatever the visitor's time.
    pub fn order(self) -> (Day, u32) {
        (self.day, self.seconds.unwrap_or(0))
    }
}

fn two_digits(text: &str) -> Option<u32> {
    (text.len() == 2 && text.bytes().all(|b| b.is_ascii_digit())).then(|| text.parse().ok()).flatten()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn moments_are_read_and_written_for_scripts() {
        for (text, script, end) in [
            ("2027-01-05", "+new Date(2027, 0, 5)", "+new Date(2027, 0, 5, 24)"),
            ("2027-01-05T10:30", "+new Date(2027, 0, 5, 10, 30)", "+new Date(2027, 0, 5, 10, 30)"),
            (
                "2027-12-31 23:59:58", "+new Date(2027, 11, 31, 23, 59, 58)",
                "+new Date(2027, 11, 31, 23, 59, 58)",
            ),
            ("1970-01-02T00:00Z", "86400000", "86400000"),
            ("1970-01-02T02:00:00+02:00", "86400000", "86400000"),
            ("1970-01-01T22:30-01:30", "86400000", "86400000"),
        ] {
            let moment = Moment::parse(text).unwrap();
            assert_eq!((moment.script().as_str(), moment.script_end().as_str()), (script, end), "{text}");
        }
        for text in [
            "", "2027-02-30", "5.1.2027", "2027-01-05T25:00", "2027-01-05T10", "2027-01-05T10:00+1",
            "2027-01-05x",
        ] {
            assert_eq!(Moment::parse(text), None, "{text}");
        }
    }
}
