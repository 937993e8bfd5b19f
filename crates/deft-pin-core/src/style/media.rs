//! Media queries (mediaqueries-5): read from their text, and settled for a given viewport as far
//! as that goes.
//!
//! It is long since each media feature has its arm, and its test a row for each.

use cssparser::{Parser, Token};

use super::component::{Tok, tokens};
use super::math::{Unit, calculated, fits};
use super::media_features::{FeatureValues, media_feature};
use super::supports::rest_of;
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
pub(super) struct Query {
    pub(super) negated: bool,
    pub(super) medium: Option<String>,
    pub(super) condition: Option<Condition>,
}

#[derive(Clone, Debug, PartialEq)]
pub(super) enum Condition {
    Feature(Feature),
    Not(Box<Condition>),
    And(Vec<Condition>),
    Or(Vec<Condition>),
    /// What may be a condition of a later standard: unknown, and so false (3.1, `<general-enclosed>`);
    /// its text without the brackets.
    Unknown(String),
}

#[derive(Clone, Debug, PartialEq)]
pub(super) struct Feature {
    /// Its name in lower case, without `min-` and `max-`.
    pub(super) name: String,
    /// Its name in lower case, as it is written.
    pub(super) written: String,
    /// Comparisons of the feature with values; empty in a boolean context.
    pub(super) comparisons: Vec<(Comparison, Value)>,
}

#[derive(Clone, Copy, Debug, PartialEq)]
pub(super) enum Comparison {
    Equal,
    Less,
    LessOrEqual,
    Greater,
    GreaterOrEqual,
}

#[derive(Clone, Debug, PartialEq)]
pub(super) enum Value {
    /// A number, and whether it is whole.
    Number(f64, bool),
    /// A number with a unit, in lower case.
    Dimension(f64, String),
    Ratio(f64, f64),
    Word(String),
    /// A calculation: its function and what stands in it.
    Calculation(Box<Tok>),
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

pub(super) fn query(input: &mut Parser<'_>) -> Result<Query, Bad> {
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

pub(super) fn condition(input: &mut Parser<'_>, with_or: bool) -> Result<Condition, Bad> {
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
                Err(_) => Condition::Unknown(rest_of(input)),
            })
        }),
        Token::Function(name) => {
            let inner = input.parse_nested_block(|input| Ok::<_, Bad>(rest_of(input)))?;
            Ok(Condition::Unknown(format!("{name}({inner})")))
        }
        _ => Err(Bad::unexpected_token()),
    }
}

/// `min-width: 20em`, `width >= 20em`, `20em <= width < 40em`, `hover`.
fn feature(input: &mut Parser<'_>) -> Result<Feature, Bad> {
    let named = input.try_parse(|input| {
        let name = input.expect_ident()?.to_ascii_lowercase();
        if input.is_exhausted() {
            return Ok(Feature { written: name.clone(), name, comparisons: Vec::new() });
        }
        if input.try_parse(|input| input.expect_colon()).is_ok() {
            let value = value(input)?;
            let (comparison, bare) = unbounded(&name);
            return Ok(Feature { name: bare, written: name, comparisons: vec![(comparison, value)] });
        }
        let comparison = comparison(input)?;
        Ok::<_, Bad>(Feature { written: name.clone(), name, comparisons: vec![(comparison, value(input)?)] })
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
    Ok(Feature { written: name.clone(), name, comparisons })
}

/// A name without `min-` or `max-`, which stand behind a vendor's prefix; and what they compare.
fn unbounded(name: &str) -> (Comparison, String) {
    let vendor = if name.starts_with("-webkit-") { "-webkit-" } else { "" };
    match name[vendor.len()..].split_once('-') {
        Some(("min", rest)) => (Comparison::GreaterOrEqual, format!("{vendor}{rest}")),
        Some(("max", rest)) => (Comparison::LessOrEqual, format!("{vendor}{rest}")),
        _ => (Comparison::Equal, name.to_owned()),
    }
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

fn value(input: &mut Parser<'_>) -> Result<Value, Bad> {
    let token = input.next()?.clone();
    Ok(match token {
        Token::Number { value, int_value, .. } => {
            let below = input.try_parse(|input| {
                input.expect_delim('/')?;
                Ok::<_, Bad>(f64::from(input.expect_number()?))
            });
            match below {
                Ok(below) => Value::Ratio(value.into(), below),
                Err(_) => Value::Number(value.into(), int_value.is_some()),
            }
        }
        Token::Dimension { value, unit, .. } => Value::Dimension(value.into(), unit.to_ascii_lowercase()),
        Token::Ident(word) => Value::Word(word.to_ascii_lowercase()),
        Token::Function(name) => {
            let inner = input.parse_nested_block(tokens)?;
            Value::Calculation(Box::new(Tok::Function(name.to_string(), inner)))
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
        let condition = match &self.condition {
            None => Truth::Yes,
            Some(condition) => match condition.holds(viewport) {
                Some(truth) => truth,
                // What is unknown stays so when negated, unless the medium decides (3.1).
                None => return Truth::from(self.negated && medium == Truth::No),
            },
        };
        let both = medium.and(condition);
        if self.negated { !both } else { both }
    }
}

impl Condition {
    /// `None` is *unknown*, which stays so when negated, and is false in the end.
    fn holds(&self, viewport: &Viewport) -> Option<Truth> {
        match self {
            Condition::Unknown(_) => None,
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

/// What a value comes to.
enum Size {
    Known(f64),
    /// It depends on what is not known of the viewport.
    Open,
}

impl Value {
    /// Whether a feature of this kind takes it.
    fn is_one_of(&self, values: FeatureValues) -> bool {
        let has_unit = |unit: &str, kind| Unit::of(unit) == kind;
        match (values, self) {
            (FeatureValues::Lengths, Value::Number(number, _)) => *number == 0.0,
            (FeatureValues::Lengths, Value::Dimension(_, unit)) => has_unit(unit, Unit::Length),
            (FeatureValues::Resolutions, Value::Dimension(_, unit)) => has_unit(unit, Unit::Resolution),
            (FeatureValues::Ratios, Value::Number(number, _)) => *number >= 0.0,
            (FeatureValues::Ratios, Value::Ratio(above, below)) => *above >= 0.0 && *below >= 0.0,
            (FeatureValues::Counts, Value::Number(_, is_whole)) => *is_whole,
            (FeatureValues::PixelRatios, Value::Number(..)) => true,
            (FeatureValues::Flags, Value::Number(number, _)) => matches!(*number, 0.0 | 1.0),
            (FeatureValues::Words(words), Value::Word(word)) => words.contains(&word.as_str()),
            (values, Value::Calculation(calculation)) => {
                let units: &[Unit] = match values {
                    FeatureValues::Lengths => &[Unit::Length],
                    FeatureValues::Resolutions => &[Unit::Resolution],
                    FeatureValues::Words(_) => return false,
                    _ => &[Unit::Number],
                };
                matches!(&**calculation, Tok::Function(name, inner) if fits(name, inner, units, &[]) == Some(true))
            }
            _ => false,
        }
    }

    /// How large it is: pixels, or a number.
    fn size(&self, viewport: &Viewport) -> Size {
        let pixels = |number: f64, unit: &str| pixels(number, unit, viewport);
        let size = match self {
            Value::Number(number, _) => Some(*number),
            Value::Ratio(above, below) => Some(above / below),
            Value::Dimension(number, unit) => pixels(*number, unit),
            Value::Calculation(calculation) => calculated(calculation, &pixels),
            Value::Word(_) => None,
        };
        size.map_or(Size::Open, Size::Known)
    }
}

/// Pixels in a font-relative unit: those of the initial font, which media queries go by (1.3).
const EM: f64 = 16.0;

/// A length in CSS pixels, where it is known.
fn pixels(number: f64, unit: &str, viewport: &Viewport) -> Option<f64> {
    let (width, height) = (viewport.width, viewport.height);
    let one = match unit {
        "px" => 1.0,
        "em" | "rem" => EM,
        "cm" => 96.0 / 2.54,
        "mm" => 96.0 / 25.4,
        "q" => 96.0 / 101.6,
        "in" => 96.0,
        "pt" => 96.0 / 72.0,
        "pc" => 16.0,
        unit => match unit.strip_prefix(['s', 'l', 'd']).unwrap_or(unit) {
            "vw" | "vi" => width? / 100.0,
            "vh" | "vb" => height? / 100.0,
            "vmin" => width?.min(height?) / 100.0,
            "vmax" => width?.max(height?) / 100.0,
            _ => return None,
        },
    };
    Some(number * one)
}

impl Feature {
    /// Whether Chromium knows it with its values; what it does not know is false, and stays so when
    /// negated.
    pub(super) fn is_known(&self) -> bool {
        media_feature(&self.name).is_some_and(|feature| feature.is_chromiums && self.fits(feature.values))
    }

    /// Whether values of this kind can be asked for as it does.
    pub(super) fn fits(&self, values: FeatureValues) -> bool {
        let is_equal = |(comparison, _): &(Comparison, Value)| *comparison == Comparison::Equal;
        let can_compare =
            values.is_range() || self.name == self.written && self.comparisons.iter().all(is_equal);
        can_compare && self.comparisons.iter().all(|(_, value)| value.is_one_of(values))
    }

    fn holds(&self, viewport: &Viewport) -> Option<Truth> {
        if !self.is_known() {
            return None;
        }
        let number = |known: Option<f64>| self.compared(known, viewport);
        Some(match self.name.as_str() {
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
            "color" => number(Some(8.0)),
            "color-index" | "monochrome" | "grid" => number(Some(0.0)),
            "prefers-color-scheme" => self.worded(viewport.scheme.as_deref()),
            // What a page cannot know beforehand of a device or a visitor.
            _ => Truth::AtRunTime,
        })
    }

    fn compared(&self, own: Option<f64>, viewport: &Viewport) -> Truth {
        let Some(own) = own else { return Truth::AtRunTime };
        if self.comparisons.is_empty() {
            return Truth::from(own != 0.0);
        }
        self.comparisons.iter().fold(Truth::Yes, |sum, (comparison, value)| {
            let Size::Known(value) = value.size(viewport) else { return sum.and(Truth::AtRunTime) };
            let holds = match comparison {
                Comparison::Equal => (own - value).abs() < f64::EPSILON,
                Comparison::Less => own < value,
                Comparison::LessOrEqual => own <= value,
                Comparison::Greater => own > value,
                Comparison::GreaterOrEqual => own >= value,
            };
            sum.and(holds.into())
        })
    }

    fn worded(&self, own: Option<&str>) -> Truth {
        match (self.comparisons.as_slice(), own) {
            (_, None) => Truth::AtRunTime,
            ([(_, Value::Word(word))], Some(own)) => Truth::from(word == own),
            (_, Some(_)) => Truth::Yes,
        }
    }

    /// The least and the greatest size that it allows, in pixels or as a number.
    pub(super) fn bounds(&self) -> (f64, f64) {
        let mut bounds = (f64::NEG_INFINITY, f64::INFINITY);
        for (comparison, value) in &self.comparisons {
            let Size::Known(value) = value.size(&Viewport::default()) else { continue };
            match comparison {
                Comparison::Equal => bounds = (bounds.0.max(value), bounds.1.min(value)),
                Comparison::Less | Comparison::LessOrEqual => bounds.1 = bounds.1.min(value),
                Comparison::Greater | Comparison::GreaterOrEqual => bounds.0 = bounds.0.max(value),
            }
        }
        bounds
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
