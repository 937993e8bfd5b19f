//! Dates and the clock (ECMA-262, "Date Objects").

use super::arguments::Arguments;
use super::fault::RunFaultKind;
use super::machine::{Machine, Run};
use super::value::{Doubt, Kind, Moment, Value};
use crate::script::dates::written_date;
use crate::source::{Day, Span};

impl Machine<'_> {
    /// `new Date(…)`.
    pub(super) fn new_date(&mut self, arguments: &Arguments, span: Span) -> Value {
        let moment = match arguments.values.as_slice() {
            [] if !arguments.is_open => self.present_moment().map_or(Moment::Now, Moment::Local),
            [only] => self.moment_of(&only.clone(), span),
            parts => self.moment_of_parts(parts, span),
        };
        self.made(Kind::Date(moment))
    }

    fn moment_of(&mut self, value: &Value, span: Span) -> Moment {
        match value {
            Value::Number(time) => Moment::At(*time),
            Value::Undefined(_) => Moment::At(f64::NAN),
            Value::Null(_) => Moment::At(0.0),
            Value::Text(text) => {
                let text = text.to_string();
                match self.read_date(&text, span) {
                    Some(time) => Moment::At(time),
                    None => Moment::At(f64::NAN),
                }
            }
            Value::Unknown(Doubt::Now) | Value::Some(_, Doubt::Now) => Moment::Now,
            _ => match self.kind(value) {
                Some(Kind::Date(moment)) => *moment,
                _ => Moment::Unknown,
            },
        }
    }

    /// Year, month from 0, day, hours and so on.
    fn moment_of_parts(&mut self, parts: &[Value], span: Span) -> Moment {
        let numbers: Option<Vec<f64>> = parts.iter().map(|part| self.as_number(part).ok()).collect();
        let Some(numbers) = numbers.filter(|numbers| numbers.iter().all(|own| own.abs() < 1e6)) else {
            return Moment::Unknown;
        };
        let part = |at: usize, otherwise: f64| numbers.get(at).copied().unwrap_or(otherwise);
        let months = part(0, 1970.0).trunc() * 12.0 + part(1, 0.0).trunc();
        let Some(first) = first_of(months) else { return Moment::Unknown };
        // The 0th day of the month behind the last is the last day of the year.
        if part(1, 0.0) == 12.0 && part(2, 1.0) >= 1.0 {
            self.note(span, RunFaultKind::NoMonth { becomes: first.to_string()[..7].to_owned() });
        }
        let clock = [part(3, 0.0), part(4, 0.0), part(5, 0.0), part(6, 0.0)];
        Moment::Local(time_from(first, part(2, 1.0), clock))
    }

    /// The time of a date in a text. Says where that is none, or another one than is written.
    fn read_date(&mut self, text: &str, span: Span) -> Option<f64> {
        let date = written_date(text);
        let becomes = date.and_then(|date| date.rolls_over_to);
        if date.is_none() || becomes.is_some() {
            let becomes = becomes.map(|day| day.to_string());
            self.note(span, RunFaultKind::NoDate { written: text.to_owned(), becomes });
        }
        date.map(|date| date.time)
    }

    /// The methods of dates, and of `Date` itself.
    pub(super) fn call_date(
        &mut self,
        name: &str,
        this: &Value,
        arguments: &Arguments,
        span: Span,
    ) -> Run<Value> {
        if let Some(Kind::Date(Moment::At(time))) = self.kind(this)
            && time.is_nan()
            && name == "toISOString"
        {
            return Err(self.throws(span, RunFaultKind::Nothing { what: "NaN".to_owned() }));
        }
        if matches!(name, "toLocaleString" | "toLocaleDateString" | "toLocaleTimeString")
            && let Some(stop) = self.refused_format(
                if name == "toLocaleString" { "toLocaleDateString" } else { name },
                arguments,
                span,
            )
        {
            return Err(stop);
        }
        Ok(self.of_date(name, this, arguments, span))
    }

    /// What time it is in this evaluation; none where it is any.
    fn present_moment(&self) -> Option<f64> {
        self.visit.chance.zip(self.world.today()).map(|(chance, today)| chance.time(today))
    }

    /// A part of a date, in the time zone of the visitor, who may be anywhere.
    fn part_of(&self, name: &str, moment: Moment) -> Option<f64> {
        part_of(name, moment).or_else(|| match (self.visit.chance, moment) {
            (Some(_), Moment::At(time)) => part_of(name, Moment::Local(time)),
            _ => None,
        })
    }

    /// The English name of the month or of the weekday, where a text of a date is asked for that alone (ECMA-402,
    /// "FormatDateTime").
    fn named_part(&self, moment: Moment, arguments: &Arguments) -> Option<&'static str> {
        const MONTHS: [&str; 12] = [
            "January", "February", "March", "April", "May", "June", "July", "August", "September", "October",
            "November", "December",
        ];
        const WEEKDAYS: [&str; 7] =
            ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];
        let (Value::Text(language), Value::Object(options)) = (arguments.get(0), arguments.get(1)) else {
            return None;
        };
        let options = self.object(options);
        let (part, Value::Text(length)) = options.members.get_index(0)? else { return None };
        if !language.starts_with("en") || options.members.len() != 1 || options.is_open {
            return None;
        }
        let (by, names): (&str, &[&'static str]) = match &**part {
            "month" => ("getMonth", &MONTHS),
            "weekday" => ("getDay", &WEEKDAYS),
            _ => return None,
        };
        let name = *names.get(self.part_of(by, moment)? as usize)?;
        match (&**length, name) {
            ("long", _) => Some(name),
            ("short", "September") if !language.ends_with("US") => Some("Sept"),
            ("short", _) => Some(&name[..3]),
            _ => None,
        }
    }

    /// Takes note where something is found by a number that the time gives, or chance.
    pub(super) fn asks_by_chance(&mut self, key: &Value) {
        let is_any = match key.primitive() {
            Some("Number") => matches!(key.doubt(), Some(Doubt::Now | Doubt::Bare | Doubt::Visit)),
            // The name of a month or of a weekday.
            Some("String") => key.doubt() == Some(Doubt::Now),
            _ => false,
        };
        if is_any && !self.asks.chance {
            let may_be = |this: &Self| this.text.contains("Date") || this.text.contains("random");
            self.asks.chance = self.once("#chance", may_be);
        }
    }

    fn of_date(&mut self, name: &str, this: &Value, arguments: &Arguments, span: Span) -> Value {
        let moment = match self.kind(this) {
            Some(Kind::Date(moment)) => *moment,
            Some(Kind::Constructor(_)) => match (name, arguments.get(0)) {
                ("now", _) => {
                    return self.present_moment().map_or(Value::Some("Number", Doubt::Now), Value::Number);
                }
                // A date is written as a text, and that is read again.
                ("parse", value @ (Value::Text(_) | Value::Object(_))) => self.moment_of(&value, span),
                ("UTC", _) => self.moment_of_parts(&arguments.values, span),
                _ => Moment::Unknown,
            },
            _ => Moment::Unknown,
        };
        if name.starts_with("set")
            && let Value::Object(id) = this
        {
            let is_strong = self.is_strong(self.object(*id).born);
            let parts: Option<Vec<f64>> =
                arguments.values.iter().map(|part| self.as_number(part).ok()).collect();
            let moved = parts.filter(|_| is_strong).and_then(|parts| moved(name, moment, &parts));
            self.object_mut(*id).kind = Kind::Date(moved.unwrap_or(Moment::Unknown));
            return moved.map_or(Value::A_NUMBER, |_| Value::Some("Number", Doubt::Page));
        }
        if let (Moment::At(time), "toISOString" | "toJSON") = (moment, name)
            && let Some(written) = written_time(time)
        {
            return Value::text(&written);
        }
        match (name, moment) {
            ("getTime" | "valueOf" | "UTC" | "parse", Moment::At(time) | Moment::Local(time)) => {
                Value::Number(time)
            }
            ("getTime" | "valueOf" | "parse", Moment::Now) => Value::Some("Number", Doubt::Now),
            ("getTime" | "valueOf" | "parse", Moment::Unknown) => Value::A_NUMBER,
            (name, Moment::At(time) | Moment::Local(time)) if name.starts_with("get") && time.is_nan() => {
                Value::Number(f64::NAN)
            }
            (name, _) if name.starts_with("get") => match self.part_of(name, moment) {
                Some(part) => Value::Number(part),
                None => Value::A_NUMBER,
            },
            (name, moment)
                if name.starts_with("toLocale")
                    && let Some(part) = self.named_part(moment, arguments) =>
            {
                Value::text(part)
            }
            (name, moment) if name.starts_with("to") => match moment {
                Moment::Now => Value::Some("String", Doubt::Now),
                _ => Value::Some("String", Doubt::Bare),
            },
            _ => Value::VISIT,
        }
    }
}

/// The first day of a month, counted from the year 0 on.
fn first_of(months: f64) -> Option<Day> {
    Day::new(months.div_euclid(12.0) as i64, months.rem_euclid(12.0) as u32 + 1, 1)
}

/// The time on a day of a month, counted from its first, at hours, minutes, seconds and milliseconds (ECMA-262, "MakeTime").
fn time_from(first: Day, day: f64, [hours, minutes, seconds, milliseconds]: [f64; 4]) -> f64 {
    let hours = (day - 1.0) * 24.0 + hours;
    first.start() + ((hours * 60.0 + minutes) * 60.0 + seconds) * 1000.0 + milliseconds
}

/// A time as it is written in UTC (ECMA-262, "Date Time String Format"); none for years of other than four digits.
fn written_time(time: f64) -> Option<String> {
    if !(0.0..2e14).contains(&time) {
        return None;
    }
    let rest = time.floor().rem_euclid(86_400_000.0) as u64;
    let (hours, minutes) = (rest / 3_600_000, rest / 60_000 % 60);
    let (seconds, milliseconds) = (rest / 1000 % 60, rest % 1000);
    Some(format!("{}T{hours:02}:{minutes:02}:{seconds:02}.{milliseconds:03}Z", Day::of_time(time)))
}

/// A date that some of its parts were set of (ECMA-262, "Date.prototype.setMonth" and the like), in the time zone that it is
/// written in; none where that is not known.
fn moved(name: &str, moment: Moment, parts: &[f64]) -> Option<Moment> {
    let (time, part) = match moment {
        Moment::Local(time) => (time, name.strip_prefix("set").filter(|part| !part.starts_with("UTC"))?),
        Moment::At(time) => (time, name.strip_prefix("setUTC")?),
        Moment::Now | Moment::Unknown => return None,
    };
    if !time.is_finite() || time.abs() > 8e15 || parts.is_empty() || parts.iter().any(|own| own.abs() >= 1e6)
    {
        return None;
    }
    let (year, month, day) = Day::of_time(time).date();
    let of_day = time.rem_euclid(86_400_000.0);
    let given = |at: usize, otherwise: f64| parts.get(at).map_or(otherwise, |own| own.trunc());
    let clock = [
        (of_day / 3_600_000.0).floor(),
        (of_day / 60_000.0).floor().rem_euclid(60.0),
        (of_day / 1000.0).floor().rem_euclid(60.0),
        of_day.floor().rem_euclid(1000.0),
    ];
    let (year, month, day) = (year as f64, f64::from(month - 1), f64::from(day));
    let (date, from) = match part {
        "FullYear" => ([given(0, year), given(1, month), given(2, day)], 4),
        "Month" => ([year, given(0, month), given(1, day)], 4),
        "Date" => ([year, month, given(0, day)], 4),
        "Hours" => ([year, month, day], 0),
        "Minutes" => ([year, month, day], 1),
        "Seconds" => ([year, month, day], 2),
        "Milliseconds" => ([year, month, day], 3),
        _ => return None,
    };
    let clock = std::array::from_fn(|at| if at < from { clock[at] } else { given(at - from, clock[at]) });
    let moved = time_from(first_of(date[0] * 12.0 + date[1])?, date[2], clock);
    Some(match moment {
        Moment::Local(_) => Moment::Local(moved),
        _ => Moment::At(moved),
    })
}

/// What a method of a date comes to on each visit, whatever the time zone (ECMA-262, "Date.prototype.getMonth" and the
/// like).
fn part_of(name: &str, moment: Moment) -> Option<f64> {
    /// No time zone is farther from UTC, in milliseconds.
    const FARTHEST: f64 = 14.0 * 3_600_000.0;
    let (time, is_exact) = match moment {
        Moment::Local(time) => (time, !name.starts_with("getUTC")),
        Moment::At(time) => (time, name.starts_with("getUTC")),
        Moment::Now | Moment::Unknown => return None,
    };
    if !time.is_finite() || time.abs() > 8e15 {
        return None;
    }
    let part = |time: f64| {
        let (year, month, day) = Day::of_time(time).date();
        Some(match name.trim_start_matches("getUTC").trim_start_matches("get") {
            "FullYear" => year as f64,
            "Month" => f64::from(month - 1),
            "Date" => f64::from(day),
            "Day" => f64::from(Day::of_time(time).weekday()),
            "Hours" if is_exact => (time / 3_600_000.0).floor().rem_euclid(24.0),
            "Minutes" if is_exact => (time / 60_000.0).floor().rem_euclid(60.0),
            "Seconds" => (time / 1000.0).floor().rem_euclid(60.0),
            "Milliseconds" => time.floor().rem_euclid(1000.0),
            _ => return None,
        })
    };
    match is_exact {
        true => part(time),
        false => part(time - FARTHEST).filter(|early| part(time + FARTHEST) == Some(*early)),
    }
}
