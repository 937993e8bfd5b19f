//! What does not survive in the boxes of a host: tags, attributes and at-rules.

/// What a host takes out of the text in its boxes. Names are in lower case; `*` at the end of one stands for any text.
#[derive(Clone, Debug, Default, PartialEq, Eq)]
pub struct Strips {
    /// Elements, by their tags.
    pub tags: Vec<String>,
    /// Attributes.
    pub attributes: Vec<String>,
    /// At-rules of CSS, without the `@`.
    pub at_rules: Vec<String>,
}

/// Attributes that have the name of no element and that people write bare.
const ATTRIBUTES: &[&str] = &[
    "align", "class", "color", "height", "href", "id", "integrity", "media", "name", "rel", "role",
    "sandbox", "src", "srcdoc", "srcset", "tabindex", "target", "type", "width",
];

impl Strips {
    /// Adds what a text names: a tag (`iframe`, `<iframe>`), an attribute (`[style]`, `onclick`, `on*`), an at-rule
    /// (`@import`).
    ///
    /// # Errors
    /// What the text is instead, in words that follow "this".
    pub fn add(&mut self, text: &str) -> Result<(), &'static str> {
        let text = text.trim().to_ascii_lowercase();
        let unwrapped = |open: char, close: char| {
            text.strip_prefix(open)
                .map(|inner| inner.trim_end_matches(close).trim_end_matches('/').to_owned())
        };
        let is_attribute = |name: &str| {
            name.starts_with("on")
                || name.starts_with("data-")
                || name.starts_with("aria-")
                || ATTRIBUTES.contains(&name)
        };
        let (list, name) = match text.chars().next() {
            Some('@') => (&mut self.at_rules, text[1..].to_owned()),
            Some('<') => (&mut self.tags, unwrapped('<', '>').unwrap_or_default()),
            Some('[') => (&mut self.attributes, unwrapped('[', ']').unwrap_or_default()),
            _ if is_attribute(&text) => (&mut self.attributes, text),
            _ => (&mut self.tags, text),
        };
        let fits = |c: char| c.is_ascii_alphanumeric() || matches!(c, '-' | '_' | ':');
        let stem = name.strip_suffix('*').unwrap_or(&name);
        if stem.is_empty() || !stem.chars().all(fits) {
            return Err("names no tag, attribute or at-rule");
        }
        list.push(name);
        Ok(())
    }

    /// Whether elements of a name do not survive.
    pub fn has_tag(&self, name: &str) -> bool {
        has(&self.tags, name)
    }

    /// Whether attributes of a name do not survive.
    pub fn has_attribute(&self, name: &str) -> bool {
        has(&self.attributes, name)
    }

    /// Whether an at-rule does not survive.
    pub fn has_at_rule(&self, name: &str) -> bool {
        has(&self.at_rules, name)
    }

    /// Whether anything does not survive.
    pub fn is_empty(&self) -> bool {
        self.tags.is_empty() && self.attributes.is_empty() && self.at_rules.is_empty()
    }
}

fn has(list: &[String], name: &str) -> bool {
    list.iter().any(|own| match own.strip_suffix('*') {
        Some(start) => name.get(..start.len()).is_some_and(|own| own.eq_ignore_ascii_case(start)),
        None => own.eq_ignore_ascii_case(name),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_go_where_they_belong() {
        let mut strips = Strips::default();
        for text in ["script", "<IFRAME>", "[style]", "on*", "onclick", "@Import", "style", "[data-x]", "id"]
        {
            strips.add(text).unwrap();
        }
        assert_eq!(strips.tags, ["script", "iframe", "style"]);
        assert_eq!(strips.attributes, ["style", "on*", "onclick", "data-x", "id"]);
        assert_eq!(strips.at_rules, ["import"]);
        assert!(strips.has_attribute("ONLOAD") && !strips.has_tag("p"));
        for bad in ["", "<>", "a b", "@"] {
            assert!(strips.add(bad).is_err(), "{bad}");
        }
    }
}
