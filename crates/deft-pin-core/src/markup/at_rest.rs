//! What a page that nobody has touched yet says of the states of its elements: by their attributes, as the
//! parser leaves them (HTML, 4.16.3, "pseudo-classes").

use html5ever::{LocalName, local_name};

use super::document::{Element, ElementRef};

/// Whether an element of a page that nobody has touched is in a state, by the name of its pseudo-class; none
/// where the page's own text does not tell.
pub(super) fn at_rest(element: ElementRef<'_>, state: &str) -> Option<bool> {
    match state {
        "hover"
        | "active"
        | "target"
        | "target-current"
        | "fullscreen"
        | "-webkit-full-screen"
        | "modal"
        | "popover-open"
        | "picture-in-picture"
        | "user-valid"
        | "user-invalid"
        | "interest-source"
        | "interest-target"
        | "active-view-transition"
        | "-webkit-drag"
        | "autofill"
        | "-webkit-autofill" => Some(false),
        // What asks for the focus may have it.
        "focus" | "focus-visible" => (!has(element.data(), "autofocus")).then_some(false),
        "focus-within" => {
            let document = element.document();
            let mut below = document.descendants(element.id).filter_map(|id| document.element(id));
            let asks = has(element.data(), "autofocus") || below.any(|one| has(one.data(), "autofocus"));
            (!asks).then_some(false)
        }
        "checked" => Some(is_checked(element)),
        "indeterminate" => Some(is_indeterminate(element)),
        "default" => Some(is_default(element)),
        "placeholder-shown" => Some(shows_placeholder(element)),
        "read-write" => Some(is_writable(element)),
        "read-only" => Some(!is_writable(element)),
        "open" => {
            let opens = element.is_html(&local_name!("details")) || element.is_html(&local_name!("dialog"));
            Some(opens && has(element.data(), "open"))
        }
        // Other names are those of custom elements, which scripts define.
        "defined" => (!element.name.local.contains('-')).then_some(true),
        _ => None,
    }
}

fn has(element: &Element, name: &str) -> bool {
    element.attr(&LocalName::from(name)).is_some()
}

/// The type of an `input`, in lower case; none for other elements.
fn input_type(element: ElementRef<'_>) -> Option<String> {
    let kind = || element.attr(&local_name!("type")).unwrap_or("text").trim().to_ascii_lowercase();
    element.is_html(&local_name!("input")).then(kind)
}

fn is_input(element: ElementRef<'_>, kinds: &[&str]) -> bool {
    input_type(element).is_some_and(|own| kinds.contains(&own.as_str()))
}

fn is_checked(element: ElementRef<'_>) -> bool {
    if element.is_html(&local_name!("option")) {
        return is_selected(element);
    }
    if !is_input(element, &["checkbox", "radio"]) || !has(element.data(), "checked") {
        return false;
    }
    // Of the radio buttons of a group the last one that says so is.
    !radio_group(element).iter().any(|other| other.id > element.id && has(other.data(), "checked"))
}

/// The other radio buttons of a group: of the same name, in the same form.
fn radio_group(element: ElementRef<'_>) -> Vec<ElementRef<'_>> {
    let name = element.attr(&local_name!("name")).unwrap_or_default();
    if name.is_empty() || !is_input(element, &["radio"]) {
        return Vec::new();
    }
    let form = form_of(element).map(|form| form.id);
    let all = element.document().elements_with(|one| one.attr(&local_name!("name")) == Some(name));
    let others = all.filter(|other| other.id != element.id && is_input(*other, &["radio"]));
    others.filter(|other| form_of(*other).map(|form| form.id) == form).collect()
}

/// The form that a control belongs to: by its `form` attribute, or around it.
fn form_of(element: ElementRef<'_>) -> Option<ElementRef<'_>> {
    if let Some(id) = element.attr(&local_name!("form")) {
        let mut named = element.document().elements_with(|one| one.id() == Some(id));
        return named.next().filter(|named| named.is_html(&local_name!("form")));
    }
    element.and_ancestors().skip(1).find(|around| around.is_html(&local_name!("form")))
}

/// Whether an option is chosen: of a list that takes one, the last that says so, or else the first that
/// is not disabled where the list shows one line.
fn is_selected(option: ElementRef<'_>) -> bool {
    let around = option.and_ancestors().skip(1).find(|around| around.is_html(&local_name!("select")));
    let says_so = has(option.data(), "selected");
    let Some(list) = around.filter(|list| !has(list.data(), "multiple")) else { return says_so };
    let document = option.document();
    let below = document.descendants(list.id).filter_map(|id| document.element(id));
    let options: Vec<_> = below.filter(|one| one.is_html(&local_name!("option"))).collect();
    let chosen = options.iter().rfind(|one| has(one.data(), "selected"));
    let lines = list.attr(&LocalName::from("size")).and_then(|size| size.trim().parse::<u32>().ok());
    let shows_one = lines.is_none_or(|lines| lines <= 1);
    let first = || options.iter().find(|one| shows_one && !one.is_disabled());
    chosen.or_else(first).is_some_and(|one| one.id == option.id)
}

fn is_indeterminate(element: ElementRef<'_>) -> bool {
    if element.is_html(&LocalName::from("progress")) {
        return !has(element.data(), "value");
    }
    let is_checked = |one: &ElementRef<'_>| has(one.data(), "checked");
    is_input(element, &["radio"]) && !is_checked(&element) && !radio_group(element).iter().any(is_checked)
}

fn is_default(element: ElementRef<'_>) -> bool {
    if element.is_html(&local_name!("option")) {
        return has(element.data(), "selected");
    }
    if is_input(element, &["checkbox", "radio"]) {
        return has(element.data(), "checked");
    }
    let submits = |one: ElementRef<'_>| {
        let kind = one.attr(&local_name!("type")).unwrap_or("submit").trim();
        let is_button = one.is_html(&local_name!("button"))
            && !["button", "reset"].iter().any(|other| kind.eq_ignore_ascii_case(other));
        is_button || is_input(one, &["submit", "image"])
    };
    let Some(form) = form_of(element).filter(|_| submits(element)) else { return false };
    let in_form = |one: &ElementRef<'_>| submits(*one) && form_of(*one).is_some_and(|own| own.id == form.id);
    element.document().elements().find(in_form).is_some_and(|first| first.id == element.id)
}

/// The types of `input` that hold a line of text.
const TEXTS: &[&str] = &["text", "search", "url", "tel", "email", "password", "number"];
/// The types that take a value of another kind, which their users write.
const WRITTEN: &[&str] = &["date", "month", "week", "time", "datetime-local"];
/// The types that have no text of their own.
const OTHERS: &[&str] =
    &["hidden", "range", "color", "checkbox", "radio", "file", "submit", "image", "reset", "button"];

/// Whether an element is an `input` with a line of text; a type that is none is `text`.
fn is_text_input(element: ElementRef<'_>) -> bool {
    let is_text = |kind: String| {
        TEXTS.contains(&kind.as_str())
            || !WRITTEN.contains(&kind.as_str()) && !OTHERS.contains(&kind.as_str())
    };
    input_type(element).is_some_and(is_text)
}

fn shows_placeholder(element: ElementRef<'_>) -> bool {
    if !has(element.data(), "placeholder") {
        return false;
    }
    if element.is_html(&local_name!("textarea")) {
        let text = element.document().text_of(element.id);
        return text.strip_prefix('\n').unwrap_or(&text).is_empty();
    }
    is_text_input(element) && element.attr(&local_name!("value")).unwrap_or_default().is_empty()
}

fn is_writable(element: ElementRef<'_>) -> bool {
    let is_field =
        element.is_html(&local_name!("textarea")) || is_text_input(element) || is_input(element, WRITTEN);
    if is_field {
        return !has(element.data(), "readonly") && !element.is_disabled();
    }
    let says = element.and_ancestors().find_map(|one| one.data().attr(&LocalName::from("contenteditable")));
    says.is_some_and(|says| !says.trim().eq_ignore_ascii_case("false"))
}
