//! The value definition syntax (css-values-4, 2): the grammars of values that the standards
//! publish, read into trees.

use std::sync::LazyLock;

use rustc_hash::FxHashMap;

/// A part of a grammar.
#[derive(Debug)]
pub(super) enum Node {
    /// A keyword.
    Keyword(String),
    /// A character that stands for itself; not the comma.
    Literal(char),
    /// A comma, which goes with what it parts (2.1).
    Comma,
    /// `<name>`, with the range of its numbers.
    Type(String, Option<(f64, f64)>),
    /// `<'property'>`
    Property(String),
    /// A function and what stands in it.
    Function(String, Box<Node>),
    /// A block in parentheses.
    Block(Box<Node>),
    /// One after the other.
    Sequence(Vec<Node>),
    /// All of them, in any order: `&&`.
    All(Vec<Node>),
    /// One or more of them, in any order: `||`.
    Some(Vec<Node>),
    /// One of them: `|`.
    One(Vec<Node>),
    /// So many times, parted by commas or not.
    Repeat { node: Box<Node>, least: usize, most: usize, commas: bool },
    /// At least one part of it has to be there: `!`.
    Required(Box<Node>),
    /// Something that this reader does not know.
    Unknown,
}

/// Made by `scripts/property-table.sh`.
const TYPES: &str = include_str!("../../data/types.txt");

static TYPE_GRAMMARS: LazyLock<FxHashMap<&'static str, Node>> = LazyLock::new(|| {
    let rows = TYPES.lines().filter(|line| !line.starts_with('#'));
    let published = rows.filter_map(|row| row.split_once('\t'));
    published.chain(TYPES_OF_CHROMIUM).map(|(name, grammar)| (name, parse(grammar))).collect()
});

/// Types that no published grammar writes down, or that one writes down otherwise: of several words that are a font's
/// name each may be any.
const TYPES_OF_CHROMIUM: [(&str, &str); 2] = [
    ("font-family-name", "<string> | <custom-ident> | <ident> <ident>+"),
    ("timeline-range-name", "cover | contain | entry | exit | entry-crossing | exit-crossing | scroll"),
];

/// What Chromium goes by where the published grammar is another, or none is published.
const CHROMIUMS: &[(&str, &str)] = &[
    ("-webkit-animation-duration", "[ auto | <time [0s,∞]> ]#"),
    ("-webkit-background-clip", "[ <visual-box> | border | padding | content | text ]#"),
    ("-webkit-border-after", "<line-width> || <line-style> || <color>"),
    ("-webkit-border-before", "<line-width> || <line-style> || <color>"),
    ("-webkit-border-end", "<line-width> || <line-style> || <color>"),
    ("-webkit-border-start", "<line-width> || <line-style> || <color>"),
    ("-webkit-clip-path", "none | <url> | [ <basic-shape> || <geometry-box> ]"),
    ("-webkit-column-rule", "<'column-rule'>"),
    ("-webkit-mask-clip", "[ <coord-box> | border | padding | content | text | no-clip ]#"),
    ("-webkit-mask-position", "<bg-position>#"),
    (
        "-webkit-mask-position-x",
        "[ center | [ [ left | right | x-start | x-end ]? <length-percentage>? ]! ]#",
    ),
    (
        "-webkit-mask-position-y",
        "[ center | [ [ top | bottom | y-start | y-end ]? <length-percentage>? ]! ]#",
    ),
    ("-webkit-text-emphasis", "<'text-emphasis-style'> || <'text-emphasis-color'>"),
    (
        "clip",
        "auto | rect( [ <length> | auto ]{4} ) | rect( [ <length> | auto ] , [ <length> | auto ] , [ <length> | auto ] , [ <length> | auto ] )",
    ),
    (
        "cursor",
        "[ [ <url> | <image-set()> ] <number>{2}? , ]* [ <cursor-predefined> | -webkit-grab | -webkit-grabbing | -webkit-zoom-in | -webkit-zoom-out ]",
    ),
    ("fill", "none | <color> | <url> [ none | <color> ]? | context-fill | context-stroke"),
    ("font-feature-settings", "normal | [ <opentype-tag> [ <integer> | on | off ]? ]#"),
    ("inset-block-end", "<'top'>"),
    ("inset-block-start", "<'top'>"),
    ("inset-inline-end", "<'top'>"),
    ("inset-inline-start", "<'top'>"),
    ("shape-outside", "none | [ <basic-shape> || <shape-box> ] | <image>"),
    ("stroke", "none | <color> | <url> [ none | <color> ]? | context-fill | context-stroke"),
];

static PROPERTY_GRAMMARS: LazyLock<FxHashMap<&'static str, Node>> = LazyLock::new(|| {
    let rows = super::properties::properties();
    let published = rows.filter_map(|property| Some((property.name, parse(property.grammar?))));
    published.chain(CHROMIUMS.iter().map(|(name, grammar)| (*name, parse(grammar)))).collect()
});

/// The grammar of a type or a function, the latter by its name with `()`.
pub(super) fn of_type(name: &str) -> Option<&'static Node> {
    TYPE_GRAMMARS.get(name)
}

/// The grammar of a property's value.
pub(super) fn of_property(name: &str) -> Option<&'static Node> {
    PROPERTY_GRAMMARS.get(name)
}

/// A grammar from its text.
pub(super) fn parse(text: &str) -> Node {
    let mut reader = Reader { rest: text };
    let node = reader.alternatives();
    reader.blanks();
    if reader.rest.is_empty() { node } else { Node::Unknown }
}

struct Reader<'t> {
    rest: &'t str,
}

impl Reader<'_> {
    fn blanks(&mut self) {
        self.rest = self.rest.trim_start();
    }

    fn take(&mut self, mark: &str) -> bool {
        self.blanks();
        match self.rest.strip_prefix(mark) {
            Some(rest) => {
                self.rest = rest;
                true
            }
            None => false,
        }
    }

    /// `|` binds least, then `||`, `&&`, and standing side by side most (2.2).
    fn alternatives(&mut self) -> Node {
        let mut all = vec![self.some()];
        loop {
            self.blanks();
            if self.rest.starts_with("||") || !self.take("|") {
                return single(all, Node::One);
            }
            all.push(self.some());
        }
    }

    fn some(&mut self) -> Node {
        let mut all = vec![self.all()];
        while self.take("||") {
            all.push(self.all());
        }
        single(all, Node::Some)
    }

    fn all(&mut self) -> Node {
        let mut all = vec![self.sequence()];
        while self.take("&&") {
            all.push(self.sequence());
        }
        single(all, Node::All)
    }

    fn sequence(&mut self) -> Node {
        let mut all = Vec::new();
        loop {
            self.blanks();
            let ends =
                self.rest.is_empty() || self.rest.starts_with(['|', ']', ')']) || self.rest.starts_with("&&");
            if ends {
                return single(all, Node::Sequence);
            }
            let term = self.term();
            all.push(self.multiplied(term));
        }
    }

    fn term(&mut self) -> Node {
        if self.take("[") {
            let inner = self.alternatives();
            return if self.take("]") { inner } else { self.give_up() };
        }
        if self.take("<") {
            return self.reference();
        }
        if self.take("(") {
            let inner = self.alternatives();
            return if self.take(")") { Node::Block(Box::new(inner)) } else { self.give_up() };
        }
        if self.take(",") {
            return Node::Comma;
        }
        if self.take("'") {
            let Some((text, rest)) = self.rest.split_once('\'') else { return self.give_up() };
            self.rest = rest;
            let mut characters = text.chars();
            return match (characters.next(), characters.next()) {
                (Some(one), None) => Node::Literal(one),
                _ => Node::Keyword(text.to_owned()),
            };
        }
        let is_name = |c: char| c.is_alphanumeric() || c == '-' || c == '_' || c == '@' || c == '.';
        let end = self.rest.find(|c| !is_name(c)).unwrap_or(self.rest.len());
        if end == 0 {
            let mut characters = self.rest.chars();
            let one = characters.next();
            self.rest = characters.as_str();
            return one.map_or(Node::Unknown, Node::Literal);
        }
        let name = self.rest[..end].to_owned();
        self.rest = &self.rest[end..];
        if let Some(rest) = self.rest.strip_prefix('(') {
            self.rest = rest;
            let inner = self.alternatives();
            return if self.take(")") { Node::Function(name, Box::new(inner)) } else { self.give_up() };
        }
        Node::Keyword(name)
    }

    fn give_up(&mut self) -> Node {
        self.rest = "";
        Node::Unknown
    }

    fn reference(&mut self) -> Node {
        let Some((inner, rest)) = self.rest.split_once('>') else { return self.give_up() };
        self.rest = rest;
        let inner = inner.trim();
        if let Some(name) = inner.strip_prefix('\'').and_then(|name| name.strip_suffix('\'')) {
            return Node::Property(name.to_owned());
        }
        let (name, range) = match inner.split_once('[') {
            Some((name, range)) => (name.trim(), range.trim_end_matches(']').split_once(',')),
            None => (inner, None),
        };
        let bound = |text: &str| match text.trim() {
            "∞" | "+∞" => f64::INFINITY,
            "-∞" | "−∞" => f64::NEG_INFINITY,
            number => number.trim_end_matches(|c: char| c.is_alphabetic()).parse().unwrap_or(f64::NAN),
        };
        let range = range.map(|(low, high)| (bound(low), bound(high)));
        Node::Type(name.to_owned(), range.filter(|(low, high)| !low.is_nan() && !high.is_nan()))
    }

    fn multiplied(&mut self, mut node: Node) -> Node {
        const MANY: usize = usize::MAX;
        loop {
            let repeat =
                |node: Node, least, most, commas| Node::Repeat { node: Box::new(node), least, most, commas };
            // A multiplier stands right behind what it multiplies.
            let Some(mark) = self.rest.chars().next() else { return node };
            match mark {
                '*' => node = repeat(node, 0, MANY, false),
                '+' => node = repeat(node, 1, MANY, false),
                '?' => node = repeat(node, 0, 1, false),
                '!' => node = Node::Required(Box::new(node)),
                '#' => {
                    self.rest = &self.rest[1..];
                    let (least, most) = self.counts().unwrap_or((1, MANY));
                    node = repeat(node, least, most, true);
                    continue;
                }
                '{' => match self.counts() {
                    Some((least, most)) => {
                        node = repeat(node, least, most, false);
                        continue;
                    }
                    None => return self.give_up(),
                },
                _ => return node,
            }
            self.rest = &self.rest[1..];
        }
    }

    /// `{2}`, `{1,4}`, `{2,}`
    fn counts(&mut self) -> Option<(usize, usize)> {
        let (inner, rest) = self.rest.strip_prefix('{')?.split_once('}')?;
        self.rest = rest;
        let number = |text: &str| text.trim().parse().ok();
        match inner.split_once(',') {
            None => number(inner).map(|count| (count, count)),
            Some((least, most)) if most.trim().is_empty() => Some((number(least)?, usize::MAX)),
            Some((least, most)) => Some((number(least)?, number(most)?)),
        }
    }
}

fn single(mut all: Vec<Node>, make: impl FnOnce(Vec<Node>) -> Node) -> Node {
    if all.len() == 1 { all.remove(0) } else { make(all) }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn has_unknown(node: &Node) -> bool {
        match node {
            Node::Unknown => true,
            Node::Function(_, inner) | Node::Block(inner) | Node::Required(inner) => has_unknown(inner),
            Node::Repeat { node, .. } => has_unknown(node),
            Node::Sequence(all) | Node::All(all) | Node::Some(all) | Node::One(all) => {
                all.iter().any(has_unknown)
            }
            _ => false,
        }
    }

    #[test]
    fn every_grammar_of_the_tables_can_be_read() {
        for (name, grammar) in PROPERTY_GRAMMARS.iter() {
            assert!(!has_unknown(grammar), "{name}: {grammar:?}");
        }
        assert!(PROPERTY_GRAMMARS.len() > 700);
        // Of the types, those of preludes have signs of their own.
        assert!(TYPE_GRAMMARS.values().filter(|grammar| has_unknown(grammar)).count() < 20);
    }
}
