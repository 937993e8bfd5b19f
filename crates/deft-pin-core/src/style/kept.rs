//! Sheets that are kept to some pages by their own rules.

use super::edit::apply;
use super::fence::{Fence, Strength, fence};
use super::sheet::Sheet;

/// A sheet whose rules count only where a selector matches, with the same strength as before; none where something in
/// it cannot be kept so. `name` goes in front of the names that it would share with other pages.
pub fn kept_to(text: &str, guard: &str, name: &str) -> Option<String> {
    let around = Fence::around(guard, name, Strength::Keep, &named_before(text, name));
    let fenced = fence(text, &Sheet::parse(text), &around).ok()?;
    Some(apply(text, fenced.edits))
}

/// The names in a sheet that have a name in front already: where the sheet was fenced in a part of the page before.
fn named_before(text: &str, name: &str) -> Vec<String> {
    let is_part = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_');
    let (dashed, custom) = (format!("{name}-"), format!("--{name}-"));
    let words = text.split(|c| !is_part(c));
    let mut found: Vec<String> = words
        .filter(|word| word.starts_with(&dashed) || word.starts_with(&custom))
        .map(str::to_owned)
        .collect();
    // A font's name may be of several words.
    for quote in ['"', '\''] {
        let spaced = format!("{quote}{name} ");
        let fonts = text.match_indices(&spaced).filter_map(|(at, _)| text[at + 1..].split(quote).next());
        // Fonts are the same whatever the case (css-fonts-4, 5.1).
        found.extend(fonts.flat_map(|font| [font.to_owned(), font.to_lowercase()]));
    }
    found.sort();
    found.dedup();
    found
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn names_get_the_name_of_their_pin_once() {
        let fenced = "@keyframes p1-sail { to { top: 0 } } @font-face { font-family: \"p1 Own\"; src: local(serif) } \
            h2 { animation: p1-sail 1s; font-family: \"p1 Own\", serif } @layer p1-a { h2 { color: red } }";
        let kept = kept_to(fenced, ":root.on", "p1").unwrap();
        assert!(!kept.contains("p1-p1") && !kept.contains("p1 p1"), "{kept}");
        let own = "@keyframes sail { to { top: 0 } } h2 { animation: sail 1s }";
        assert!(kept_to(own, ":root.on", "p1").unwrap().contains("animation: p1-sail"));
    }
}
