//! Names with dashes as names of members: properties in `style` (CSSOM), attributes in `dataset` (HTML).

/// The property that a member of a style is (CSSOM, "IDL attribute to CSS property").
pub(super) fn property_of(key: &str) -> String {
    if key == "cssFloat" {
        return "float".to_owned();
    }
    let mut out = String::new();
    if key.starts_with("webkit")
        || key.starts_with("moz") && key.get(3..4).is_some_and(|c| c != c.to_lowercase())
    {
        out.push('-');
    }
    for c in key.chars() {
        if c.is_ascii_uppercase() {
            out.push('-');
        }
        out.push(c.to_ascii_lowercase());
    }
    out
}

/// The member of a style that a property is, or of `dataset` an attribute without its `data-`.
pub(super) fn member_of(property: &str) -> String {
    let mut parts = property.split('-');
    let mut out = parts.next().unwrap_or_default().to_owned();
    for part in parts {
        let mut letters = part.chars();
        out.extend(letters.next().map(|c| c.to_ascii_uppercase()));
        out.push_str(letters.as_str());
    }
    out
}
