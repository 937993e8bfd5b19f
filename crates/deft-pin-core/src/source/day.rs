//! Days of the calendar.

use std::fmt;
use std::str::FromStr;

/// The milliseconds of a day.
const DAY_MS: f64 = 86_400_000.0;

/// A day of the Gregorian calendar.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct Day {
    /// How many days it is after 1970-01-01.
    number: i64,
}

impl Day {
    /// The day of a date; one past the end of its month is one of the next. None for a month that is none.
    pub fn new(year: i64, month: u32, day: u32) -> Option<Day> {
        if !(1..=12).contains(&month) || !(1..=31).contains(&day) {
            return None;
        }
        // Years begin in March here, so that the odd day comes last.
        let (year, month) = if month > 2 { (year, month - 3) } else { (year - 1, month + 9) };
        let era = year.div_euclid(400);
        let of_era = year.rem_euclid(400);
        let of_year = i64::from((153 * month + 2) / 5 + day - 1);
        let number = era * 146_097 + of_era * 365 + of_era / 4 - of_era / 100 + of_year - 719_468;
        Some(Day { number })
    }

    /// The day that a time is on, in milliseconds since 1970-01-01 (UTC).
    pub fn of_time(milliseconds: f64) -> Day {
        Day { number: (milliseconds / DAY_MS).floor() as i64 }
    }

    /// Its first moment, in milliseconds since 1970-01-01 (UTC).
    pub fn start(self) -> f64 {
        self.number as f64 * DAY_MS
    }

    /// The day of the week, from 0 for a Sunday.
    pub fn weekday(self) -> u32 {
        // The first day was a Thursday.
        (self.number + 4).rem_euclid(7) as u32
    }

    /// The day so many days after it.
    pub fn after(self, days: u32) -> Day {
        Day { number: self.number + i64::from(days) }
    }

    /// The year, the month from 1 and the day from 1.
    pub fn date(self) -> (i64, u32, u32) {
        let shifted = self.number + 719_468;
        let (era, of_era) = (shifted.div_euclid(146_097), shifted.rem_euclid(146_097));
        let year = (of_era - of_era / 1460 + of_era / 36_524 - of_era / 146_096) / 365;
        let of_year = of_era - (365 * year + year / 4 - year / 100);
        let month = (5 * of_year + 2) / 153;
        let day = of_year - (153 * month + 2) / 5 + 1;
        let (month, year) = if month < 10 { (month + 3, year) } else { (month - 9, year + 1) };
        (year + era * 400, u32::try_from(month).unwrap_or(1), u32::try_from(day).unwrap_or(1))
    }
}

impl fmt::Display for Day {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        let (year, month, day) = self.date();
        write!(f, "{year:04}-{month:02}-{day:02}")
    }
}

impl FromStr for Day {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let wrong = || format!("`{text}` is no day: write it as 2027-01-05");
        let mut parts = text.splitn(3, '-');
        let mut part = |digits: usize| {
            parts.next().filter(|part| part.len() == digits && part.bytes().all(|b| b.is_ascii_digit()))
        };
        let (year, month, day) =
            part(4).zip(part(2)).zip(part(2)).map(|((a, b), c)| (a, b, c)).ok_or_else(wrong)?;
        let number = |part: &str| part.parse::<u32>().unwrap_or(0);
        let found = Day::new(i64::from(number(year)), number(month), number(day)).ok_or_else(wrong)?;
        // A month may be too short for the day.
        if found.to_string() == text { Ok(found) } else { Err(wrong()) }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn days_are_read_and_written() {
        for text in ["1970-01-01", "2000-02-29", "2027-01-05", "1899-12-31", "2400-02-29"] {
            let day: Day = text.parse().unwrap();
            assert_eq!((day.to_string().as_str(), Day::of_time(day.start())), (text, day));
        }
        assert_eq!("2027-01-05".parse::<Day>().unwrap().start(), 1_799_107_200_000.0);
        for text in ["2027-02-29", "2027-13-01", "2027-1-5", "27-01-05", "2027-01-00", "", "soon"] {
            assert!(text.parse::<Day>().is_err(), "{text}");
        }
        assert_eq!(Day::new(2027, 2, 30).unwrap().to_string(), "2027-03-02");
    }
}
