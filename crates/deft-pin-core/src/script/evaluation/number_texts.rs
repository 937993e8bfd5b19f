//! Numbers that texts begin with (ECMA-262, "parseInt", "parseFloat").

use super::value::Value;

/// `parseInt` (ECMA-262, "parseInt"): the whole number to a base that a text begins with; to base 10, or 16 behind `0x`,
/// where none is given.
pub(super) fn whole_number(text: &str, base: f64) -> f64 {
    let text = text.trim_start();
    let (is_negative, text) = match text.strip_prefix('-') {
        Some(rest) => (true, rest),
        None => (false, text.strip_prefix('+').unwrap_or(text)),
    };
    let base = if base.is_finite() { base.trunc() as i64 as i32 } else { 0 };
    let hexadecimal =
        text.strip_prefix("0x").or_else(|| text.strip_prefix("0X")).filter(|_| matches!(base, 0 | 16));
    let (base, text) = match (base, hexadecimal) {
        (_, Some(rest)) => (16, rest),
        (0, None) => (10, text),
        (base, None) => (base, text),
    };
    let Some(base) = u32::try_from(base).ok().filter(|base| (2..=36).contains(base)) else { return f64::NAN };
    let mut digits = text.chars().map_while(|c| c.to_digit(base)).peekable();
    if digits.peek().is_none() {
        return f64::NAN;
    }
    let size = digits.fold(0.0, |all, digit| all * f64::from(base) + f64::from(digit));
    if is_negative { -size } else { size }
}

/// `parseFloat`: the number that a text begins with.
pub(super) fn leading_number(text: &str) -> Value {
    let text = text.trim_start();
    let bare = text.strip_prefix(['-', '+']).unwrap_or(text);
    if bare.starts_with("Infinity") {
        return Value::Number(if text.starts_with('-') { f64::NEG_INFINITY } else { f64::INFINITY });
    }
    let end = text
        .char_indices()
        .take_while(|(at, c)| c.is_ascii_digit() || (*at == 0 && matches!(c, '-' | '+')) || *c == '.')
        .map(|(at, c)| at + c.len_utf8())
        .last()
        .unwrap_or(0);
    if text[..end].matches('.').count() > 1 || text[end..].starts_with(['x', 'X', 'e', 'E']) {
        return Value::OPEN;
    }
    Value::Number(text[..end].trim_end_matches('.').parse().unwrap_or(f64::NAN))
}

#[cfg(test)]
mod tests {
    use super::whole_number;

    #[test]
    fn whole_numbers_are_read_to_their_base() {
        for (text, base, number) in [
            ("12px", 0.0, 12.0),
            (" -7.9", 10.0, -7.0),
            ("+3", 0.0, 3.0),
            ("0x1f", 0.0, 31.0),
            ("0X1F", 16.0, 31.0),
            ("1f", 16.0, 31.0),
            ("0x1f", 10.0, 0.0),
            ("101", 2.0, 5.0),
            ("z", 36.0, 35.0),
            ("08", f64::NAN, 8.0),
        ] {
            assert_eq!(whole_number(text, base), number, "{text} to base {base}");
        }
        for (text, base) in
            [("", 0.0), ("px", 0.0), ("9", 8.0), ("1", 1.0), ("1", 37.0), ("-", 10.0), ("0x", 16.0)]
        {
            assert!(whole_number(text, base).is_nan(), "{text} to base {base}");
        }
    }
}
