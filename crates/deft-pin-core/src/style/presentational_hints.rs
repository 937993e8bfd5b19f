//! Attributes of presentation (HTML, "rendering"): `bgcolor`, `width`, `align` and their like, as the
//! declarations that they stand for. They are weaker than anything in a sheet (css-cascade-5, 6.5).
//!
//! It is long since it is a table: each element and each of its attributes has its arm, in the order of
//! the standard.

use html5ever::{LocalName, ns};

use crate::markup::{Element, ElementRef};

/// What an element's attributes of presentation come to, as declarations.
pub(super) fn presentational_hints(element: ElementRef<'_>) -> String {
    let data = element.data();
    let mut hints = PresentationalHints { data, out: String::new() };
    if data.name.ns == ns!(svg) {
        hints.svg();
    }
    if data.name.ns != ns!(html) {
        return hints.out;
    }
    match &*data.name.local {
        "body" => hints.body(),
        "table" => hints.table(),
        "thead" | "tbody" | "tfoot" | "tr" => {
            hints.ground();
            hints.alignment();
            hints.length("height", "height", Zero::Counts);
        }
        "td" | "th" => hints.cell(element),
        "col" | "colgroup" => hints.length("width", "width", Zero::Counts),
        "img" | "iframe" | "embed" | "object" | "video" | "canvas" | "input" => hints.replaced(),
        "font" => hints.font(),
        "hr" => hints.rule(),
        "p" | "div" | "h1" | "h2" | "h3" | "h4" | "h5" | "h6" => hints.alignment(),
        "br" => hints.clear(),
        "ul" | "ol" | "li" => hints.list(),
        "caption" => hints.caption(),
        _ => {}
    }
    hints.out
}

/// Whether a length of zero counts, or is as if there were none.
#[derive(Clone, Copy, PartialEq)]
enum Zero {
    Counts,
    IsNone,
}

struct PresentationalHints<'e> {
    data: &'e Element,
    out: String,
}

/// The presentation attributes of SVG that go by the names of properties (SVG 2, 6.6).
const SVG_ATTRIBUTES: &[&str] = &[
    "alignment-baseline", "baseline-shift", "clip-path", "clip-rule", "color", "color-interpolation",
    "color-interpolation-filters", "cursor", "direction", "display", "dominant-baseline", "fill",
    "fill-opacity", "fill-rule", "filter", "flood-color", "flood-opacity", "font-family", "font-size",
    "font-size-adjust", "font-stretch", "font-style", "font-variant", "font-weight", "image-rendering",
    "letter-spacing", "lighting-color", "marker-end", "marker-mid", "marker-start", "mask", "mask-type",
    "opacity", "overflow", "paint-order", "pointer-events", "shape-rendering", "stop-color", "stop-opacity",
    "stroke", "stroke-dasharray", "stroke-dashoffset", "stroke-linecap", "stroke-linejoin",
    "stroke-miterlimit", "stroke-opacity", "stroke-width", "text-anchor", "text-decoration", "text-overflow",
    "text-rendering", "transform-origin", "unicode-bidi", "vector-effect", "visibility", "white-space",
    "word-spacing", "writing-mode",
];

impl<'e> PresentationalHints<'e> {
    /// Presentation attributes of SVG: what they say is what a declaration would say, and lengths need no unit.
    fn svg(&mut self) {
        for own in &self.data.attrs {
            let name = &*own.name.local;
            if own.name.ns != ns!()
                || !SVG_ATTRIBUTES.contains(&name)
                || own.value.contains([';', '{', '}', '!'])
            {
                continue;
            }
            let is_length = matches!(name, "font-size" | "letter-spacing" | "word-spacing");
            let value = own.value.trim();
            match is_length && value.parse::<f64>().is_ok() {
                true => self.set(name, &format!("{value}px")),
                false => self.set(name, value),
            }
        }
    }

    fn attr(&self, name: &str) -> Option<&'e str> {
        self.data.attr(&LocalName::from(name))
    }

    fn word(&self, name: &str) -> String {
        self.attr(name).unwrap_or_default().trim().to_ascii_lowercase()
    }

    fn set(&mut self, property: &str, value: &str) {
        self.out.push_str(&format!("{property}: {value}; "));
    }

    fn length(&mut self, attribute: &str, property: &str, zero: Zero) {
        if let Some(value) = self.attr(attribute).and_then(|text| dimension(text, zero)) {
            self.set(property, &value);
        }
    }

    fn colour(&mut self, attribute: &str, property: &str) {
        if let Some(value) = self.attr(attribute).and_then(legacy_colour) {
            self.set(property, &value);
        }
    }

    /// `bgcolor` and `background`.
    fn ground(&mut self) {
        self.colour("bgcolor", "background-color");
        if let Some(address) = self.attr("background").map(str::trim).filter(|address| !address.is_empty()) {
            let mut quoted = String::new();
            // Writing to a string does not fail.
            let _ = cssparser::serialize_string(address, &mut quoted);
            self.set("background-image", &format!("url({quoted})"));
        }
    }

    /// `align` and `valign` of what holds text.
    fn alignment(&mut self) {
        let is_block =
            matches!(&*self.data.name.local, "p" | "div" | "h1" | "h2" | "h3" | "h4" | "h5" | "h6");
        match self.word("align").as_str() {
            "left" => self.set("text-align", "-webkit-left"),
            "right" => self.set("text-align", "-webkit-right"),
            "center" | "middle" => self.set("text-align", "-webkit-center"),
            "absmiddle" if !is_block => self.set("text-align", "center"),
            "justify" => self.set("text-align", "justify"),
            _ => {}
        }
        if let word @ ("top" | "middle" | "bottom" | "baseline") = self.word("valign").as_str()
            && !is_block
        {
            self.set("vertical-align", word);
        }
    }

    fn body(&mut self) {
        self.ground();
        self.colour("text", "color");
        // Browsers take the left one for both sides, and the upper one (HTML, "flow content", has them apart).
        for (attributes, sides) in [
            (["leftmargin", "marginwidth"], ["margin-left", "margin-right"]),
            (["topmargin", "marginheight"], ["margin-top", "margin-bottom"]),
        ] {
            for (attribute, side) in attributes.into_iter().flat_map(|name| sides.map(|side| (name, side))) {
                self.length(attribute, side, Zero::Counts);
            }
        }
    }

    fn table(&mut self) {
        self.ground();
        self.length("width", "width", Zero::IsNone);
        self.length("height", "height", Zero::IsNone);
        match self.word("align").as_str() {
            word @ ("left" | "right") => self.set("float", word),
            "center" => self.set("margin-inline", "auto"),
            _ => {}
        }
        if let Some(spacing) = self.attr("cellspacing").and_then(pixels) {
            self.set("border-spacing", &format!("{spacing}px"));
        }
        let bordered = self.attr("bordercolor").and_then(legacy_colour);
        if let Some(text) = self.attr("border") {
            // What is no number counts as one (HTML, "tables").
            let width = pixels(text).unwrap_or(1);
            self.set("border-width", &format!("{width}px"));
            if width > 0 {
                self.set("border-style", if bordered.is_some() { "solid" } else { "outset" });
            }
        }
        if let Some(colour) = bordered {
            self.set("border-color", &colour);
        }
    }

    fn cell(&mut self, element: ElementRef<'e>) {
        let mut ancestors = std::iter::successors(element.parent(), |at| at.parent());
        let table = ancestors.find(|at| &*at.data().name.local == "table");
        if let Some(table) = table {
            let of_table = PresentationalHints { data: table.data(), out: String::new() };
            if let Some(padding) = of_table.attr("cellpadding").and_then(pixels) {
                self.set("padding", &format!("{padding}px"));
            }
            if of_table.attr("border").is_some_and(|text| pixels(text).unwrap_or(1) > 0) {
                self.set("border-width", "1px");
                let has_colour = of_table.attr("bordercolor").is_some_and(|text| !text.is_empty());
                self.set("border-style", if has_colour { "solid" } else { "inset" });
                self.set("border-color", "inherit");
            }
        }
        self.ground();
        self.alignment();
        self.length("width", "width", Zero::IsNone);
        self.length("height", "height", Zero::IsNone);
        if self.attr("nowrap").is_some() {
            self.set("white-space", "nowrap");
        }
    }

    fn replaced(&mut self) {
        let name = &*self.data.name.local;
        let is_image = name == "img" || (name == "input" && self.word("type") == "image");
        if name == "input" && !is_image {
            return;
        }
        if name != "canvas" {
            self.length("width", "width", Zero::Counts);
            self.length("height", "height", Zero::Counts);
        }
        if matches!(name, "img" | "video" | "canvas" | "input") {
            let number = |text: &str| dimension(text, Zero::Counts)?.strip_suffix("px").map(str::to_owned);
            let whole = |text: &str| pixels(text).map(|pixels| pixels.to_string());
            let read = |text| if name == "canvas" { whole(text) } else { number(text) };
            if let (Some(width), Some(height)) =
                (self.attr("width").and_then(read), self.attr("height").and_then(read))
            {
                self.set("aspect-ratio", &format!("auto {width} / {height}"));
            }
        }
        if name == "iframe" {
            if matches!(self.word("frameborder").as_str(), "0" | "no") {
                self.set("border-width", "0");
            }
        } else if matches!(name, "img" | "input" | "object")
            && let Some(width) = self.attr("border").map(|text| pixels(text).unwrap_or(0))
        {
            self.set("border-width", &format!("{width}px"));
            self.set("border-style", "solid");
        }
        if matches!(name, "img" | "embed" | "object" | "input") {
            for (attribute, sides) in
                [("hspace", ["margin-left", "margin-right"]), ("vspace", ["margin-top", "margin-bottom"])]
            {
                sides.into_iter().for_each(|side| self.length(attribute, side, Zero::Counts));
            }
        }
        if !matches!(name, "video" | "canvas") {
            match self.word("align").as_str() {
                word @ ("left" | "right") => {
                    self.set("float", word);
                    self.set("vertical-align", "top");
                }
                "top" => self.set("vertical-align", "top"),
                "middle" => self.set("vertical-align", "-webkit-baseline-middle"),
                "center" | "absmiddle" | "abscenter" => self.set("vertical-align", "middle"),
                "bottom" => self.set("vertical-align", "baseline"),
                "texttop" => self.set("vertical-align", "text-top"),
                "absbottom" => self.set("vertical-align", "bottom"),
                _ => {}
            }
        }
    }

    fn font(&mut self) {
        self.colour("color", "color");
        if let Some(face) = self.attr("face").filter(|face| !face.trim().is_empty()) {
            self.set("font-family", face);
        }
        if let Some(size) = self.attr("size").and_then(font_size) {
            self.set("font-size", size);
        }
    }

    fn rule(&mut self) {
        match self.word("align").as_str() {
            "left" => {
                self.set("margin-left", "0");
                self.set("margin-right", "auto");
            }
            "right" => {
                self.set("margin-left", "auto");
                self.set("margin-right", "0");
            }
            "center" => self.set("margin-inline", "auto"),
            _ => {}
        }
        let colour = self.attr("color").and_then(legacy_colour);
        let has_shade = self.attr("noshade").is_none();
        if !has_shade || colour.is_some() {
            self.set("border-style", "solid");
        }
        match colour {
            Some(colour) => {
                self.set("border-color", &colour);
                self.set("background-color", &colour);
            }
            None if !has_shade => {
                self.set("border-color", "gray");
                self.set("background-color", "gray");
            }
            None => {}
        }
        self.length("width", "width", Zero::Counts);
        if let Some(size) = self.attr("size").and_then(pixels) {
            match size {
                0 | 1 => self.set("border-bottom-width", "0"),
                more => self.set("height", &format!("{}px", more - 2)),
            }
        }
    }

    fn clear(&mut self) {
        match self.word("clear").as_str() {
            word @ ("left" | "right") => self.set("clear", word),
            "all" | "both" => self.set("clear", "both"),
            _ => {}
        }
    }

    fn list(&mut self) {
        let kind = match self.attr("type").unwrap_or_default() {
            "1" => "decimal",
            "a" => "lower-alpha",
            "A" => "upper-alpha",
            "i" => "lower-roman",
            "I" => "upper-roman",
            word => match word.to_ascii_lowercase().as_str() {
                "disc" => "disc",
                "circle" => "circle",
                "square" => "square",
                "none" => "none",
                _ => return,
            },
        };
        self.set("list-style-type", kind);
    }

    fn caption(&mut self) {
        if self.word("align") == "bottom" {
            self.set("caption-side", "bottom");
        }
    }
}

/// The rules for parsing dimension values (HTML): a length in pixels, or a percentage.
fn dimension(text: &str, zero: Zero) -> Option<String> {
    let text = text.trim_start_matches(|c: char| c.is_ascii_whitespace());
    let whole = text.len() - text.trim_start_matches(|c: char| c.is_ascii_digit()).len();
    if whole == 0 {
        return None;
    }
    let mut end = whole;
    if let Some(rest) = text[whole..].strip_prefix('.') {
        let digits = rest.len() - rest.trim_start_matches(|c: char| c.is_ascii_digit()).len();
        if digits > 0 {
            end += 1 + digits;
        }
    }
    let number: f64 = text[..end].parse().ok()?;
    if zero == Zero::IsNone && number == 0.0 {
        return None;
    }
    let unit = if text[end..].starts_with('%') { "%" } else { "px" };
    Some(format!("{number}{unit}"))
}

/// The rules for parsing non-negative integers (HTML).
fn pixels(text: &str) -> Option<u32> {
    let text = text.trim_start_matches(|c: char| c.is_ascii_whitespace());
    let text = text.strip_prefix('+').unwrap_or(text);
    let end = text.find(|c: char| !c.is_ascii_digit()).unwrap_or(text.len());
    text[..end].parse().ok()
}

/// The rules for parsing a legacy colour value (HTML): nearly anything is a colour.
fn legacy_colour(text: &str) -> Option<String> {
    let text = text.trim_matches(|c: char| c.is_ascii_whitespace());
    if text.is_empty() || text.eq_ignore_ascii_case("transparent") {
        return None;
    }
    let is_word = text.bytes().all(|byte| byte.is_ascii_alphabetic());
    if is_word && super::values::validity("color", text, false) == super::values::Validity::Taken {
        let is_colour = !matches!(
            text.to_ascii_lowercase().as_str(),
            "inherit" | "initial" | "unset" | "revert" | "currentcolor"
        );
        return is_colour.then(|| text.to_ascii_lowercase());
    }
    let hex = |text: &str| !text.is_empty() && text.bytes().all(|byte| byte.is_ascii_hexdigit());
    if let Some(short) = text.strip_prefix('#').filter(|short| short.len() == 3 && hex(short)) {
        return Some(format!("#{short}"));
    }
    // What lies past the basic plane counts for two digits.
    let mut digits: String =
        text.chars().map(|c| if c as u32 > 0xffff { "00".to_owned() } else { c.to_string() }).collect();
    digits = digits.chars().take(128).collect();
    if let Some(rest) = digits.strip_prefix('#') {
        digits = rest.to_owned();
    }
    let mut digits: Vec<char> =
        digits.chars().map(|c| if c.is_ascii_hexdigit() { c.to_ascii_lowercase() } else { '0' }).collect();
    while digits.is_empty() || !digits.len().is_multiple_of(3) {
        digits.push('0');
    }
    let length = digits.len() / 3;
    let mut parts: Vec<&[char]> = digits.chunks(length).collect();
    if length > 8 {
        parts.iter_mut().for_each(|part| *part = &part[length - 8..]);
    }
    while parts[0].len() > 2 && parts.iter().all(|part| part[0] == '0') {
        parts.iter_mut().for_each(|part| *part = &part[1..]);
    }
    let part = |part: &&[char]| -> String {
        let two: String = part.iter().take(2).collect();
        format!("{two:0>2}")
    };
    Some(format!("#{}", parts.iter().map(part).collect::<String>()))
}

/// The rules for parsing a legacy font size (HTML).
fn font_size(text: &str) -> Option<&'static str> {
    let text = text.trim_start();
    let (sign, rest) = match text.chars().next()? {
        '+' => (1, &text[1..]),
        '-' => (-1, &text[1..]),
        _ => (0, text),
    };
    let size = i64::from(pixels(rest.strip_prefix('+').map_or(rest, |_| "x"))?);
    let size = if sign == 0 { size } else { 3 + sign * size };
    let names = ["x-small", "small", "medium", "large", "x-large", "xx-large", "xxx-large"];
    Some(names[(size.clamp(1, 7) - 1) as usize])
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn nearly_anything_is_a_colour() {
        let table = [
            ("Red", Some("red")),
            ("#abc", Some("#abc")),
            ("chucknorris", Some("#c00000")),
            ("", None),
            ("transparent", None),
            ("#a", Some("#0a0000")),
        ];
        for (text, expected) in &table {
            assert_eq!(legacy_colour(text).as_deref(), *expected, "{text}");
        }
        assert_eq!(dimension(" 12.5%x", Zero::Counts).as_deref(), Some("12.5%"));
        assert_eq!(dimension("12em", Zero::Counts).as_deref(), Some("12px"));
        assert_eq!(dimension("0", Zero::IsNone), None);
        assert_eq!(font_size("+1"), Some("large"));
    }
}
