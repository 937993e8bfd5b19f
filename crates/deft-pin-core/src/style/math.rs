//! What calculations come to (css-values-4, "type checking").

use super::component::{Tok, parts};

/// The kinds of units.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum Unit {
    Number,
    Percentage,
    Length,
    Angle,
    Time,
    Frequency,
    Resolution,
    Flex,
    Other,
}

impl Unit {
    /// The kind of a unit, in lower case.
    pub(super) fn of(unit: &str) -> Self {
        match unit {
            "deg" | "grad" | "rad" | "turn" => Unit::Angle,
            "s" | "ms" => Unit::Time,
            "hz" | "khz" => Unit::Frequency,
            "dpi" | "dpcm" | "dppx" | "x" => Unit::Resolution,
            "fr" => Unit::Flex,
            "em" | "rem" | "ex" | "rex" | "cap" | "rcap" | "ch" | "rch" | "ic" | "ric" | "lh" | "rlh"
            | "px" | "cm" | "mm" | "q" | "in" | "pt" | "pc" | "cqw" | "cqh" | "cqi" | "cqb" | "cqmin"
            | "cqmax" => Unit::Length,
            unit => {
                let viewport =
                    unit.strip_prefix(['s', 'l', 'd']).filter(|rest| rest.starts_with('v')).unwrap_or(unit);
                match viewport {
                    "vw" | "vh" | "vi" | "vb" | "vmin" | "vmax" => Unit::Length,
                    _ => Unit::Other,
                }
            }
        }
    }

    /// Its place in a [`Type`]; none for numbers, and for what nothing is calculated with.
    fn place(self) -> Option<usize> {
        Some(match self {
            Unit::Percentage => 0,
            Unit::Length => 1,
            Unit::Angle => 2,
            Unit::Time => 3,
            Unit::Frequency => 4,
            Unit::Resolution => 5,
            Unit::Number | Unit::Flex | Unit::Other => return None,
        })
    }
}

/// What a calculation comes to: the powers of percentages, lengths, angles, times, frequencies and
/// resolutions in it.
type Type = [i8; 6];

const NUMBER: Type = [0; 6];
const ANGLE: Type = [0, 0, 1, 0, 0, 0];

/// Why a calculation has no type.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
enum NoType {
    /// No browser takes it.
    Wrong,
    /// Something stands in it that is not known here.
    Unknown,
}

/// Functions that come to a number, a length or the like (css-values-4 and -5, "mathematical
/// expressions", "tree counting functions").
pub(super) fn is_math(function: &str) -> bool {
    const MATH: &[&str] = &[
        "calc", "-webkit-calc", "min", "max", "clamp", "round", "mod", "rem", "sin", "cos", "tan", "asin",
        "acos", "atan", "atan2", "pow", "sqrt", "hypot", "log", "exp", "abs", "sign", "progress", "random",
        "sibling-count", "sibling-index",
    ];
    MATH.iter().any(|name| function.eq_ignore_ascii_case(name))
}

/// Whether a calculation comes to one of some units; `None` where that is not known. `words` stand for
/// numbers in it.
pub(super) fn fits(function: &str, inner: &[Tok], units: &[Unit], words: &[&str]) -> Option<bool> {
    let takes_percentages = units.contains(&Unit::Percentage);
    let calculation = Calculation {
        mixes_with: units.iter().find_map(|unit| unit.place()).filter(|_| takes_percentages),
        words,
    };
    match calculation.function(&function.to_ascii_lowercase(), inner) {
        Err(NoType::Wrong) => Some(false),
        Err(NoType::Unknown) => None,
        Ok(found) => Some(units.iter().any(|unit| match unit.place() {
            None => *unit == Unit::Number && found == NUMBER,
            Some(place) => found == power(place),
        })),
    }
}

fn power(place: usize) -> Type {
    let mut one = NUMBER;
    one[place] = 1;
    one
}

struct Calculation<'w> {
    /// What percentages are of, where they are taken beside it.
    mixes_with: Option<usize>,
    words: &'w [&'w str],
}

impl Calculation<'_> {
    /// The type of a sum: products with `+` and `-` between them.
    fn sum(&self, tokens: &[Tok]) -> Result<Type, NoType> {
        let is_sign = |token: &Tok| matches!(token, Tok::Mark('+' | '-'));
        let mut parts = tokens.split(is_sign).map(|part| self.product(part));
        let first = parts.next().ok_or(NoType::Wrong)??;
        parts.try_fold(first, |one, other| self.same(one, other?))
    }

    /// Two that are added or compared have to be of one type; percentages are of what they are taken
    /// beside.
    fn same(&self, one: Type, other: Type) -> Result<Type, NoType> {
        if one == other {
            return Ok(one);
        }
        let Some(place) = self.mixes_with else { return Err(NoType::Wrong) };
        let whole = |mut of: Type| {
            of[place] += std::mem::take(&mut of[0]);
            of
        };
        // Without anything else beside them, percentages stay what they are.
        let place_is_its_own = place == 0;
        if !place_is_its_own && whole(one) == whole(other) { Ok(whole(one)) } else { Err(NoType::Wrong) }
    }

    fn product(&self, tokens: &[Tok]) -> Result<Type, NoType> {
        let mut found = NUMBER;
        let mut by = 1;
        let mut expects_value = true;
        for token in tokens {
            match token {
                Tok::Mark(mark @ ('*' | '/')) if !expects_value => {
                    by = if *mark == '*' { 1 } else { -1 };
                    expects_value = true;
                }
                token if expects_value => {
                    let value = self.value(token)?;
                    found.iter_mut().zip(value).for_each(|(found, power)| *found += by * power);
                    expects_value = false;
                }
                // Two values, and nothing between them: `100% -10px`.
                _ => return Err(NoType::Wrong),
            }
        }
        if expects_value { Err(NoType::Wrong) } else { Ok(found) }
    }

    fn value(&self, token: &Tok) -> Result<Type, NoType> {
        match token {
            Tok::Number(..) => Ok(NUMBER),
            Tok::Percentage(_) => Ok(power(0)),
            Tok::Dimension(_, unit) => Unit::of(unit).place().map(power).ok_or(NoType::Wrong),
            Tok::Word(word) => {
                let is_known = |words: &[&str]| words.iter().any(|own| word.eq_ignore_ascii_case(own));
                match is_known(&["e", "pi", "infinity", "-infinity", "nan"]) || is_known(self.words) {
                    true => Ok(NUMBER),
                    false => Err(NoType::Wrong),
                }
            }
            Tok::Block('(', inner) => self.sum(inner),
            Tok::Function(name, inner) => self.function(&name.to_ascii_lowercase(), inner),
            _ => Err(NoType::Wrong),
        }
    }

    fn function(&self, name: &str, inner: &[Tok]) -> Result<Type, NoType> {
        let mut parts: Vec<&[Tok]> = parts(inner).collect();
        let is_alone = |part: &[Tok], words: &[&str]| matches!(part, [word] if words.iter().any(|own| word.is_word(own)));
        let count = |parts: &[&[Tok]], most: usize| match (1..=most).contains(&parts.len()) {
            true => Ok(()),
            false => Err(NoType::Wrong),
        };
        let alike = |parts: &[&[Tok]]| {
            let mut types = parts.iter().map(|part| self.sum(part));
            let first = types.next().ok_or(NoType::Wrong)??;
            types.try_fold(first, |one, other| self.same(one, other?))
        };
        let only = |parts: &[&[Tok]], wanted: &[Type]| match alike(parts)? {
            found if wanted.contains(&found) => Ok(found),
            _ => Err(NoType::Wrong),
        };
        match name {
            "calc" | "-webkit-calc" => count(&parts, 1).and_then(|()| alike(&parts)),
            "min" | "max" | "hypot" => alike(&parts),
            "clamp" if parts.len() == 3 => {
                let bounds = [0, 2].map(|at| is_alone(parts[at], &["none"]));
                let kept: Vec<&[Tok]> =
                    (0..3).filter(|at| *at == 1 || !bounds[at / 2]).map(|at| parts[at]).collect();
                alike(&kept)
            }
            "round" => {
                let has_strategy = is_alone(parts[0], &["nearest", "up", "down", "to-zero", "line-width"]);
                parts.drain(..usize::from(has_strategy));
                count(&parts, 2)?;
                let found = alike(&parts)?;
                // A step of one goes without saying for numbers alone.
                if parts.len() == 1 && found != NUMBER { Err(NoType::Wrong) } else { Ok(found) }
            }
            "mod" | "rem" if parts.len() == 2 => alike(&parts),
            "sin" | "cos" | "tan" => {
                count(&parts, 1).and_then(|()| only(&parts, &[NUMBER, ANGLE])).map(|_| NUMBER)
            }
            "asin" | "acos" | "atan" => {
                count(&parts, 1).and_then(|()| only(&parts, &[NUMBER])).map(|_| ANGLE)
            }
            "atan2" if parts.len() == 2 => alike(&parts).map(|_| ANGLE),
            "pow" if parts.len() == 2 => only(&parts, &[NUMBER]),
            "sqrt" | "exp" => count(&parts, 1).and_then(|()| only(&parts, &[NUMBER])),
            "log" => count(&parts, 2).and_then(|()| only(&parts, &[NUMBER])),
            "abs" => count(&parts, 1).and_then(|()| alike(&parts)),
            "sign" => count(&parts, 1).and_then(|()| alike(&parts)).map(|_| NUMBER),
            "progress" if parts.len() == 3 => alike(&parts).map(|_| NUMBER),
            "random" => {
                let is_option = |token: &Tok| matches!(token, Tok::Word(_));
                let has_options = parts[0].iter().all(is_option) && !parts[0].is_empty()
                    || parts[0].first().is_some_and(|token| token.is_word("fixed"));
                parts.drain(..usize::from(has_options));
                if matches!(parts.len(), 2 | 3) { alike(&parts) } else { Err(NoType::Wrong) }
            }
            "sibling-count" | "sibling-index" if inner.is_empty() => Ok(NUMBER),
            "clamp" | "mod" | "rem" | "atan2" | "pow" | "progress" | "sibling-count" | "sibling-index" => {
                Err(NoType::Wrong)
            }
            _ => Err(NoType::Unknown),
        }
    }
}

/// What a calculation of plain sums, products and bounds comes to, where each length in it is known.
pub(super) fn calculated(token: &Tok, length: &dyn Fn(f64, &str) -> Option<f64>) -> Option<f64> {
    match token {
        Tok::Number(number, _) => Some(*number),
        Tok::Dimension(number, unit) => length(*number, unit),
        Tok::Block('(', inner) => calculated_sum(inner, length),
        Tok::Function(name, inner) => {
            let values: Option<Vec<f64>> = parts(inner).map(|part| calculated_sum(part, length)).collect();
            let values = values?;
            match (name.to_ascii_lowercase().as_str(), values.as_slice()) {
                ("calc", [value]) => Some(*value),
                ("min", values) => values.iter().copied().reduce(f64::min),
                ("max", values) => values.iter().copied().reduce(f64::max),
                ("clamp", [low, value, high]) => Some(value.min(*high).max(*low)),
                _ => None,
            }
        }
        _ => None,
    }
}

fn calculated_sum(tokens: &[Tok], length: &dyn Fn(f64, &str) -> Option<f64>) -> Option<f64> {
    let mut sum = 0.0;
    let mut sign = 1.0;
    let mut product: Option<f64> = None;
    let mut divides = false;
    for token in tokens {
        match token {
            Tok::Mark(mark @ ('+' | '-')) => {
                sum += sign * product.take()?;
                sign = if *mark == '+' { 1.0 } else { -1.0 };
            }
            Tok::Mark('*') => divides = false,
            Tok::Mark('/') => divides = true,
            token => {
                let value = calculated(token, length)?;
                product = Some(match product {
                    None => value,
                    Some(product) if divides => product / value,
                    Some(product) => product * value,
                });
            }
        }
    }
    Some(sum + sign * product?)
}

#[cfg(test)]
mod tests {
    use cssparser::Parser;

    use super::super::component::tokens;
    use super::*;

    #[test]
    fn calculations_come_to_what_the_standard_says() {
        let length = [Unit::Length, Unit::Percentage];
        let table: &[(&str, &[Unit], Option<bool>)] = &[
            ("calc(100% - 10px)", &length, Some(true)),
            ("calc(100% -10px)", &length, Some(false)),
            ("calc(100%-10px)", &length, Some(false)),
            ("calc(1px+ 2px)", &length, Some(false)),
            ("calc(10px*2+5)", &length, Some(false)),
            ("calc(20)", &length, Some(false)),
            ("calc(1px * 2px)", &length, Some(false)),
            ("calc(4px / 2px * 1px)", &length, Some(true)),
            ("calc(1px * (2 + 3))", &length, Some(true)),
            ("calc(pi * 1px)", &length, Some(true)),
            ("calc(r + 1)", &[Unit::Number], Some(false)),
            ("calc(50%)", &[Unit::Length], Some(false)),
            ("calc(50% + 1px)", &[Unit::Length], Some(false)),
            ("calc(50%)", &[Unit::Percentage], Some(true)),
            ("calc(1fr + 1px)", &length, Some(false)),
            ("min(1px, 2%, 3em)", &length, Some(true)),
            ("min(1px, 2)", &length, Some(false)),
            ("clamp(1px, 2px)", &length, Some(false)),
            ("clamp(none, 2px, 3%)", &length, Some(true)),
            ("round(up, 1.5px, 1px)", &length, Some(true)),
            ("round(1.5px)", &length, Some(false)),
            ("round(1.5)", &[Unit::Number], Some(true)),
            ("calc(sin(1rad) * 1px)", &length, Some(true)),
            ("calc(sign(1px) * 1px)", &length, Some(true)),
            ("pow(2px, 2)", &length, Some(false)),
            ("atan2(1px, 2px)", &[Unit::Angle], Some(true)),
            ("sibling-index()", &[Unit::Number], Some(true)),
            ("sibling-index()", &length, Some(false)),
            ("calc(sibling-index() * 10px)", &length, Some(true)),
            ("random(--a element-shared, 1px, 10px)", &length, Some(true)),
            ("random(1px)", &length, Some(false)),
            ("calc(anchor(top) + 1px)", &length, None),
            ("calc()", &length, Some(false)),
        ];
        for (text, units, expected) in table {
            let found = tokens(&mut Parser::new(text)).unwrap();
            let [Tok::Function(name, inner)] = found.as_slice() else { panic!("{text}") };
            assert_eq!(fits(name, inner, units, &[]), *expected, "{text}");
        }
    }
}
