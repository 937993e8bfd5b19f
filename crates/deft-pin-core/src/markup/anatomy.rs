//! What a selector is made of: the names that an element cannot do without to match it, and the
//! one name by which the elements that could match are found fastest.

use html5ever::{LocalName, local_name};
use selectors::attr::{AttrSelectorOperator, ParsedCaseSensitivity};
use selectors::parser::Component;

use super::document::Element;
use super::selector::{Name, Names, Selector};

/// A name that a selector asks for.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum NamedPart {
    /// `#name`
    Id(LocalName),
    /// `.name`
    Class(LocalName),
    /// `name`, an element's
    Tag(LocalName),
}

impl NamedPart {
    /// Whether an element has it, letter by letter.
    pub fn is_of(&self, element: &Element) -> bool {
        match self {
            NamedPart::Id(name) => element.id.as_ref() == Some(name),
            NamedPart::Class(name) => element.classes.contains(name),
            NamedPart::Tag(name) => element.name.local == *name,
        }
    }

    /// The same as a page may match it: names of elements in any case, and in quirks mode all others as well.
    pub fn may_be_of(&self, element: &Element, is_quirky: bool) -> bool {
        let is_it = |own: &LocalName, name: &LocalName| own == name || own.eq_ignore_ascii_case(name);
        match self {
            NamedPart::Id(name) if is_quirky => element.id.as_ref().is_some_and(|own| is_it(own, name)),
            NamedPart::Class(name) if is_quirky => element.classes.iter().any(|own| is_it(own, name)),
            NamedPart::Tag(name) => is_it(&element.name.local, name),
            _ => self.is_of(element),
        }
    }

    /// The name in lower case.
    pub fn to_ascii_lowercase(&self) -> NamedPart {
        match self {
            NamedPart::Id(name) => NamedPart::Id(name.to_ascii_lowercase()),
            NamedPart::Class(name) => NamedPart::Class(name.to_ascii_lowercase()),
            NamedPart::Tag(name) => NamedPart::Tag(name.to_ascii_lowercase()),
        }
    }

    /// The bare name.
    pub fn name(&self) -> &str {
        match self {
            NamedPart::Id(name) | NamedPart::Class(name) | NamedPart::Tag(name) => name,
        }
    }
}

impl std::fmt::Display for NamedPart {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            NamedPart::Id(name) => write!(f, "#{name}"),
            NamedPart::Class(name) => write!(f, ".{name}"),
            NamedPart::Tag(name) => write!(f, "{name}"),
        }
    }
}

/// The names that have to be on a page for the selector to match anything there: those of its
/// compounds, left to right, not those in `:not()` nor in lists of several choices.
pub fn names_in(selector: &Selector) -> Vec<NamedPart> {
    let mut names = Vec::new();
    collect(selector, &mut names);
    names
}

fn collect(selector: &Selector, names: &mut Vec<NamedPart>) {
    let components: Vec<_> = selector.iter_raw_match_order().collect();
    // In match order the last compound comes first, each from its own left to its right.
    for compound in components.split(|component| component.is_combinator()).rev() {
        for component in compound {
            match component {
                Component::Is(list) | Component::Where(list) if list.len() == 1 => {
                    collect(&list.slice()[0], names)
                }
                component => names.extend(named(component)),
            }
        }
    }
}

/// The attributes that have to be on a page for a selector to match anything there.
pub fn attributes_in(selector: &Selector) -> Vec<&LocalName> {
    let names = needed_parts(selector).into_iter().filter_map(|component| match component {
        Component::AttributeInNoNamespaceExists { local_name_lower, .. } => Some(&local_name_lower.0),
        Component::AttributeInNoNamespace { local_name, .. } => Some(&local_name.0),
        Component::AttributeOther(other) => Some(&other.local_name_lower.0),
        _ => None,
    });
    names.collect()
}

/// The parts of a selector that have to be on a page for it to match anything there, those in `:has()` among them, not
/// those in lists of several choices.
fn needed_parts(selector: &Selector) -> Vec<&Component<Names>> {
    let mut found = Vec::new();
    let mut waiting = vec![selector];
    while let Some(selector) = waiting.pop() {
        for component in selector.iter_raw_match_order() {
            match component {
                Component::Is(list) | Component::Where(list) if list.len() == 1 => {
                    waiting.extend(list.slice());
                }
                Component::Has(list) if list.len() == 1 => {
                    waiting.extend(list.iter().map(|relative| &relative.selector));
                }
                component => found.push(component),
            }
        }
    }
    found
}

/// The selectors inside of a part of a selector: those in `:is()`, `:not()`, `:has()` and the like.
pub(crate) fn selectors_in(component: &Component<Names>) -> Vec<&Selector> {
    match component {
        Component::Is(list) | Component::Where(list) | Component::Negation(list) => {
            list.slice().iter().collect()
        }
        Component::Has(list) => list.iter().map(|relative| &relative.selector).collect(),
        Component::NthOf(nth) => nth.selectors().iter().collect(),
        Component::Slotted(inner) | Component::Host(Some(inner)) => vec![inner],
        _ => Vec::new(),
    }
}

/// Whether a selector is about something else than elements of its own tree: their pseudo-elements, the parts
/// of their shadow trees, or what is shown in their slots.
pub(crate) fn is_beside_elements(selector: &Selector) -> bool {
    selector.has_pseudo_element() || selector.is_part() || selector.is_slotted()
}

/// How often `&` stands in a selector.
pub(crate) fn parent_uses(selector: &Selector) -> usize {
    let of_part = |component: &Component<Names>| match component {
        Component::ParentSelector => 1,
        inner => selectors_in(inner).into_iter().map(parent_uses).sum(),
    };
    selector.iter_raw_match_order().map(of_part).sum()
}

/// Whether `:scope` stands in a selector, also where a combinator at its start means it.
pub(crate) fn asks_for_scope(selector: &Selector) -> bool {
    selector.iter_raw_match_order().any(|component| match component {
        Component::Scope | Component::ImplicitScope => true,
        inner => selectors_in(inner).into_iter().any(asks_for_scope),
    })
}

/// The addresses in `[href="…"]` that have to be on a page for the selector to match anything there.
pub fn addresses_in(selector: &Selector) -> Vec<&str> {
    let addresses = needed_parts(selector).into_iter().filter_map(|component| match component {
        Component::AttributeInNoNamespace { local_name, operator, value, case_sensitivity }
            if local_name.0 == local_name!("href")
                && *operator == AttrSelectorOperator::Equal
                && *case_sensitivity == ParsedCaseSensitivity::CaseSensitive =>
        {
            Some(value.as_ref())
        }
        _ => None,
    });
    addresses.collect()
}

fn named(component: &Component<Names>) -> Option<NamedPart> {
    match component {
        Component::ID(Name(id)) => Some(NamedPart::Id(id.clone())),
        Component::Class(Name(class)) => Some(NamedPart::Class(class.clone())),
        Component::LocalName(tag) => Some(NamedPart::Tag(tag.lower_name.0.clone())),
        _ => None,
    }
}

/// The name in the selector's last compound that the fewest elements are likely to have: an ID,
/// else a class, else an element's name. `None` where any element may match.
pub fn key_of(selector: &Selector) -> Option<NamedPart> {
    let components: Vec<_> = selector.iter_raw_match_order().collect();
    let mut compounds = components.split(|component| component.is_combinator());
    // A pseudo-element, or a part, is a compound of its own, behind the one of its element.
    let is_element = |compound: &&[&Component<_>]| {
        !compound.iter().any(|c| matches!(c, Component::PseudoElement(_) | Component::Part(_)))
    };
    compounds.find(is_element)?.iter().filter_map(|component| named(component)).min()
}

#[cfg(test)]
mod tests {
    use super::super::parse_selectors;
    use super::*;

    #[test]
    fn names_are_those_that_must_be_there() {
        let table = [
            ("main .a > p#b.c:hover", "main .a p #b .c", Some("#b")),
            ("p.c:is(#t, #t *)::before", "p .c", Some(".c")),
            ("p:is(.x):not(.y)", "p .x", Some("p")),
            ("*", "", None),
            ("ul:has(.z) > LI", "ul li", Some("li")),
        ];
        for (text, names, key) in table {
            let list = parse_selectors(text).unwrap();
            let selector = &list.slice()[0];
            let found: Vec<_> = names_in(selector).iter().map(ToString::to_string).collect();
            assert_eq!(found.join(" "), names, "{text}");
            assert_eq!(key_of(selector).map(|key| key.to_string()).as_deref(), key, "{text}");
        }
    }
}
