//! Media queries (mediaqueries-5): read from their text, and settled for a given viewport as far
//! as that goes.
//!
//! It is long since each media feature has its arm, and its test a row for each.

use cssparser::{Parser, Token};

use super::truth::Truth;

/// What is known of where a page is shown. What is not said is left open.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Viewport {
    /// The width, in CSS pixels.
    pub width: Option<f64>,
    /// The height, in CSS pixels.
    pub height: Option<f64>,
    /// The media type: `screen`, unless another is said.
    pub medium: Option<String>,
    /// The colour scheme that the visitor prefers: `light` or `dark`.
    pub scheme: Option<String>,
}

/// A list of media queries.
#[derive(Clone, Debug, PartialEq)]
pub struct MediaList {
    queries: Vec<Query>,
}

#[derive(Clone, Debug, PartialEq)]
struct Query {
    negated: bool,
    medium: Option<String>,
    condition: Option<Condition>,
}

#[derive(Clone, Debug, PartialEq)]
enum Condition {
    Feature(Feature),
    Not(Box<Condition>),
    And(Vec<Condition>),
    Or(Vec<Condition>),
    /// What may be a condition of a later standard: unknown, and so false (3.1, `<general-enclosed>`).
    Unknown,
}

#[derive(Clone, Debug, PartialEq)]
struct Feature {
    name: String,
    /// Comparisons of the feature with values; empty in a boolean context.
    comparisons: Vec<(Comparison, Value)>,
}

#[derive(Clone, Copy, Debug, PartialEq)]
enum Comparison {
    Equal,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
}

#[derive(Clone, Debug, PartialEq)]
enum Value {
    Pixels(f64),
    Number(f64),
    Ratio(f64, f64),
    Word(String),
    Other,
}

type Bad = cssparser::ParseError<()>;

impl MediaList {
    /// Reads a list. A query that is none counts as `not all` (3.2).
    pub fn parse(text: &str) -> Self {
        let mut input = Parser::new(text);
        let mut queries = Vec::new();
        if input.is_exhausted() {
            return MediaList { queries };
        }
        loop {
            let query = input.parse_until_before(cssparser::Delimiter::Comma, query);
            let none = Query { negated: true, medium: None, condition: None };
            queries.push(query.unwrap_or(none));
            if input.next().is_err() {
                return MediaList { queries };
            }
        }
    }

    /// Whether it holds. An empty list does.
    pub fn holds(&self, viewport: &Viewport) -> Truth {
        if self.queries.is_empty() {
            return Truth::Yes;
        }
        self.queries.iter().map(|query| query.holds(viewport)).fold(Truth::No, Truth::or)
    }
}

fn query(input: &mut Parser<'_>) -> Result<Query, Bad> {
    if let Ok(condition) = input.try_parse(|input| {
        let condition = condition(input, true)?;
        input.expect_exhausted()?;
        Ok::<_, Bad>(condition)
    }) {
        return Ok(Query { negated: false, medium: None, condition: Some(condition) });
    }
    let mut word = input.expect_ident()?.to_ascii_lowercase();
    let mut negated = false;
    if word == "not" || word == "only" {
        negated = word == "not";
        word = input.expect_ident()?.to_ascii_lowercase();
    }
    if matches!(word.as_str(), "not" | "and" | "or" | "only" | "layer") {
        return Err(Bad::unexpected_token());
    }
    let mut condition = None;
    if !input.is_exhausted() {
        input.expect_ident_matching("and")?;
        condition = Some(self::condition(input, false)?);
        input.expect_exhausted()?;
    }
    Ok(Query { negated, medium: Some(word), condition })
}

fn condition(input: &mut Parser<'_>, with_or: bool) -> Result<Condition, Bad> {
    if input.try_parse(|input| input.expect_ident_matching("not")).is_ok() {
        return Ok(Condition::Not(Box::new(in_parens(input)?)));
    }
    let first = in_parens(input)?;
    for (word, make) in [("and", Condition::And as fn(Vec<Condition>) -> Condition), ("or", Condition::Or)] {
        if (word == "and" || with_or) && input.try_parse(|input| input.expect_ident_matching(word)).is_ok() {
            let mut all = vec![first, in_parens(input)?];
            while input.try_parse(|input| input.expect_ident_matching(word)).is_ok() {
                all.push(in_parens(input)?);
            }
            return Ok(make(all));
        }
    }
    Ok(first)
}

fn in_parens(input: &mut Parser<'_>) -> Result<Condition, Bad> {
    match input.next()?.clone() {
        Token::ParenthesisBlock => input.parse_nested_block(|input| {
            let nested = input.try_parse(|input| {
                let condition = condition(input, true)?;
                input.expect_exhausted()?;
                Ok::<_, Bad>(condition)
            });
            if let Ok(nested) = nested {
                return Ok(nested);
            }
            let feature = input.try_parse(|input| {
                let feature = feature(input)?;
                input.expect_exhausted()?;
                Ok::<_, Bad>(feature)
            });
            Ok(match feature {
                Ok(feature) => Condition::Feature(feature),
                Err(_) => {
                    while input.next().is_ok() {}
                    Condition::Unknown
                }
            })
        }),
        Token::Function(_) => {
            input.parse_nested_block(|input| {
                while input.next().is_ok() {}
                Ok::<_, Bad>(())
            })?;
            Ok(Condition::Unknown)
        }
        _ => Err(Bad::unexpected_token()),
    }
}

/// `min-width: 20em`, `width >= 20em`, `20em <= width < 40em`, `hover`.
fn feature(input: &mut Parser<'_>) -> Result<Feature, Bad> {
    let named = input.try_parse(|input| {
        let name = input.expect_ident()?.to_ascii_lowercase();
        if input.is_exhausted() {
            return Ok(Feature { name, comparisons: Vec::new() });
        }
        if input.try_parse(|input| input.expect_colon()).is_ok() {
            let value = value(input)?;
            let (comparison, name) = match name.split_once('-') {
                Some(("min", rest)) => (Comparison::GreaterOrEqual, rest.to_owned()),
                Some(("max", rest)) => (Comparison::LessOrEqual, rest.to_owned()),
                _ => (Comparison::Equal, name),
            };
            return Ok(Feature { name, comparisons: vec![(comparison, value)] });
        }
        let comparison = comparison(input)?;
        Ok::<_, Bad>(Feature { name, comparisons: vec![(comparison, value(input)?)] })
    });
    if let Ok(named) = named {
        return Ok(named);
    }
    let low = value(input)?;
    let written = comparison(input)?;
    let first = mirrored(written);
    let name = input.expect_ident()?.to_ascii_lowercase();
    let mut comparisons = vec![(first, low)];
    if !input.is_exhausted() {
        let second = comparison(input)?;
        // Both have to lead the same way, and neither to be equal (mediaqueries-4, "range contexts").
        let leads_up = |comparison| match comparison {
            Comparison::Less | Comparison::LessOrEqual => Some(true),
            Comparison::Greater | Comparison::GreaterOrEqual => Some(false),
            Comparison::Equal => None,
        };
        if leads_up(second).is_none() || leads_up(second) != leads_up(written) {
            return Err(Bad::unexpected_token());
        }
        comparisons.push((second, value(input)?));
    }
    Ok(Feature { name, comparisons })
}

fn comparison(input: &mut Parser<'_>) -> Result<Comparison, Bad> {
    let sign = match input.next()? {
        Token::Delim(sign) => *sign,
        _ => return Err(Bad::unexpected_token()),
    };
    let or_equal = sign != '='
        && input
            .try_parse(|input| match input.next_including_whitespace() {
                Ok(Token::Delim('=')) => Ok(()),
                _ => Err(Bad::unexpected_token()),
            })
            .is_ok();
    match (sign, or_equal) {
        ('=', _) => Ok(Comparison::Equal),
        ('<', false) => Ok(Comparison::Less),
        ('<', true) => Ok(Comparison::LessOrEqual),
        ('>', false) => Ok(Comparison::Greater),
        ('>', true) => Ok(Comparison::GreaterOrEqual),
        _ => Err(Bad::unexpected_token()),
    }
}

fn mirrored(comparison: Comparison) -> Comparison {
    match comparison {
        Comparison::Equal => Comparison::Equal,
        Comparison::Less => Comparison::Greater,
        Comparison::LessOrEqual => Comparison::GreaterOrEqual,
        Comparison::Greater => Comparison::Less,
        Comparison::GreaterOrEqual => Comparison::LessOrEqual,
    }
}

/// Pixels in a font-relative unit: those of the initial font, which media queries go by (1.3).
const EM: f64 = 16.0;

fn value(input: &mut Parser<'_>) -> Result<Value, Bad> {
    let token = input.next()?.clone();
    Ok(match token {
        Token::Number { value, .. } => {
            let value = f64::from(value);
            let below = input.try_parse(|input| {
                input.expect_delim('/')?;
                Ok::<_, Bad>(f64::from(input.expect_number()?))
            });
            match below {
                Ok(below) => Value::Ratio(value, below),
                Err(_) => Value::Number(value),
            }
        }
        Token::Dimension { value, unit, .. } => {
            let value = f64::from(value);
            match unit.to_ascii_lowercase().as_str() {
                "px" => Value::Pixels(value),
                "em" | "rem" => Value::Pixels(value * EM),
                "ch" | "ex" => Value::Other,
                "cm" => Value::Pixels(value * 96.0 / 2.54),
                "mm" => Value::Pixels(value * 96.0 / 25.4),
                "in" => Value::Pixels(value * 96.0),
                "pt" => Value::Pixels(value * 96.0 / 72.0),
                "pc" => Value::Pixels(value * 16.0),
                _ => Value::Other,
            }
        }
        Token::Ident(word) => Value::Word(word.to_ascii_lowercase()),
        Token::Function(_) => {
            input.parse_nested_block(|input| {
                while input.next().is_ok() {}
                Ok::<_, Bad>(())
            })?;
            Value::Other
        }
        _ => return Err(Bad::unexpected_token()),
    })
}

impl Query {
    fn holds(&self, viewport: &Viewport) -> Truth {
        let medium = match self.medium.as_deref() {
            None | Some("all") => {
                Truth::from(self.medium.is_some() || self.condition.is_some() || !self.negated)
            }
            Some(medium) => Truth::from(viewport.medium.as_deref().unwrap_or("screen") == medium),
        };
        if self.negated && self.medium.is_none() {
            return Truth::No;
        }
        let condition = self
            .condition
            .as_ref()
            .map_or(Truth::Yes, |condition| condition.holds(viewport).unwrap_or(Truth::No));
        let both = medium.and(condition);
        if self.negated { !both } else { both }
    }
}

impl Condition {
    /// `None` is *unknown*, which stays so when negated, and is false in the end.
    fn holds(&self, viewport: &Viewport) -> Option<Truth> {
        match self {
            Condition::Unknown => None,
            Condition::Feature(feature) => feature.holds(viewport),
            Condition::Not(inner) => inner.holds(viewport).map(|truth| !truth),
            Condition::And(all) => {
                let truths: Vec<_> = all.iter().map(|one| one.holds(viewport)).collect();
                if truths.contains(&Some(Truth::No)) {
                    return Some(Truth::No);
                }
                truths.into_iter().try_fold(Truth::Yes, |sum, truth| Some(sum.and(truth?)))
            }
            Condition::Or(all) => {
                let truths: Vec<_> = all.iter().map(|one| one.holds(viewport)).collect();
                if truths.contains(&Some(Truth::Yes)) {
                    return Some(Truth::Yes);
                }
                truths.into_iter().try_fold(Truth::No, |sum, truth| Some(sum.or(truth?)))
            }
        }
    }
}

/// Features of a device or a visitor that a page cannot know beforehand.
const OPEN: &[&str] = &[
    "any-hover", "any-pointer", "color", "color-gamut", "color-index", "device-aspect-ratio",
    "device-height", "device-posture", "device-width", "display-mode", "dynamic-range",
    "environment-blending", "forced-colors", "grid", "horizontal-viewport-segments", "hover",
    "inverted-colors", "monochrome", "nav-controls", "overflow-block", "overflow-inline", "pointer",
    "prefers-contrast", "prefers-reduced-data", "prefers-reduced-motion", "prefers-reduced-transparency",
    "resolution", "scan", "scripting", "shape", "update", "vertical-viewport-segments", "video-color-gamut",
    "video-dynamic-range", "-webkit-device-pixel-ratio", "-webkit-transform-3d",
];

impl Feature {
    fn holds(&self, viewport: &Viewport) -> Option<Truth> {
        let number = |known: Option<f64>| match known {
            // A comparison that is none is false whatever the viewport.
            None => self.compared(1.0).map(|_| Truth::AtRunTime),
            Some(own) => self.compared(own),
        };
        match self.name.as_str() {
            "width" => number(viewport.width),
            "height" => number(viewport.height),
            "aspect-ratio" => {
                number(viewport.width.zip(viewport.height).map(|(width, height)| width / height))
            }
            "orientation" => {
                let portrait = viewport.width.zip(viewport.height).map(|(width, height)| height >= width);
                self.worded(portrait.map(|portrait| if portrait { "portrait" } else { "landscape" }))
            }
            // Of the screens that there are.
            "color" => self.compared(8.0),
            "color-index" | "monochrome" | "grid" => self.compared(0.0),
            "prefers-color-scheme" => self.worded(viewport.scheme.as_deref()),
            // A prefix before a vendor's: `-webkit-min-device-pixel-ratio`.
            name if OPEN.contains(&name) || name.starts_with("-webkit-m") => Some(Truth::AtRunTime),
            _ => None,
        }
    }

    /// Whether its value is a number without a unit.
    fn counts(&self) -> bool {
        matches!(self.name.as_str(), "aspect-ratio" | "color" | "color-index" | "monochrome" | "grid")
    }

    fn compared(&self, own: f64) -> Option<Truth> {
        if self.comparisons.is_empty() {
            return Some(Truth::from(own != 0.0));
        }
        self.comparisons.iter().try_fold(Truth::Yes, |sum, (comparison, value)| {
            let value = match value {
                Value::Pixels(value) if !self.counts() => *value,
                Value::Number(value) if *value == 0.0 || self.counts() => *value,
                Value::Ratio(above, below) if self.name == "aspect-ratio" => above / below,
                Value::Other => return Some(sum.and(Truth::AtRunTime)),
                _ => return None,
            };
            let holds = match comparison {
                Comparison::Equal => (own - value).abs() < f64::EPSILON,
                Comparison::Less => own < value,
                Comparison::LessOrEqual => own <= value,
                Comparison::Greater => own > value,
                Comparison::GreaterOrEqual => own >= value,
            };
            Some(sum.and(holds.into()))
        })
    }

    fn worded(&self, own: Option<&str>) -> Option<Truth> {
        match (self.comparisons.as_slice(), own) {
            ([(Comparison::Equal, Value::Word(_))], None) => Some(Truth::AtRunTime),
            ([], None) => Some(Truth::AtRunTime),
            ([], Some(_)) => Some(Truth::Yes),
            ([(Comparison::Equal, Value::Word(word))], Some(own)) => Some(Truth::from(word == own)),
            _ => None,
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn queries_are_settled_as_far_as_the_viewport_is_known() {
        use Truth::{AtRunTime as Open, No, Yes};
        let wide = Viewport { width: Some(1280.0), height: Some(800.0), ..Viewport::default() };
        let table = [
            ("", Yes, Yes),
            ("all", Yes, Yes),
            ("screen", Yes, Yes),
            ("print", No, No),
            ("not print", Yes, Yes),
            ("only screen and (min-width: 600px)", Open, Yes),
            ("(max-width: 40em)", Open, No),
            ("(width >= 80rem)", Open, Yes),
            ("(width > 80rem)", Open, No),
            ("(40em < width <= 1280px)", Open, Yes),
            ("not (min-width: 600px)", Open, No),
            ("not all and (min-width: 600px)", Open, No),
            ("print, (orientation: landscape)", Open, Yes),
            ("(min-aspect-ratio: 16/10)", Open, Yes),
            ("(min-width: 600px) and (hover: hover)", Open, Open),
            ("(min-width: 600px) or (hover: hover)", Open, Yes),
            ("(prefers-color-scheme: dark)", Open, Open),
            ("(min-width: 600)", No, No),
            ("(sea-level: 3m)", No, No),
            ("not (sea-level: 3m)", No, No),
            ("(width", Open, Yes),
            ("screen and", No, No),
            ("&, screen", Yes, Yes),
        ];
        for (text, open, settled) in table {
            let list = MediaList::parse(text);
            assert_eq!(
                (list.holds(&Viewport::default()), list.holds(&wide)),
                (open, settled),
                "{text}: {list:?}"
            );
        }
    }
}
