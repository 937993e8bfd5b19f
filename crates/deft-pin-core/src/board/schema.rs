//! The keys of a board, with their meaning: the source of the published JSON Schema, and of the
//! names that an unknown key is held against.

#![allow(dead_code, reason = "these types are read for their schema alone")]

use std::collections::BTreeMap;
use std::sync::LazyLock;

use schemars::{JsonSchema, Schema, schema_for};

use super::host::{BoxPlace, BoxReach, ClassNames, HostKind, MarksBy};
use super::model::ScriptLoad;
use super::start::Once;
use super::value::ValueKind;
use crate::markup::{MarkupPlace, Slot};
use crate::style::{Engine, Strength};

/// A board for Deft Pin: a site, the libraries that may be brought in, and the pins.
#[derive(JsonSchema)]
#[schemars(title = "Deft Pin board", deny_unknown_fields)]
struct BoardKeys {
    /// The site that the pins are for.
    site: SiteKeys,
    /// What the place that serves the site accepts.
    #[serde(default)]
    host: Option<HostKeys>,
    /// What `check` says, and what it need not say any more.
    #[serde(default)]
    check: Option<CheckKeys>,
    /// CSS and JavaScript that somebody else wrote, by a name of your choice.
    #[serde(default)]
    library: BTreeMap<String, LibraryKeys>,
    /// The customisations, by a name of your choice.
    #[serde(default)]
    pin: BTreeMap<String, PinKeys>,
    /// Values that all pins may name: `{{name}}` in their files and selectors.
    #[serde(default)]
    values: BTreeMap<String, ValueKeys>,
}

/// A value: a text, a number, a date or a list of them, or a table that says its type.
#[derive(JsonSchema)]
#[serde(untagged)]
enum ValueKeys {
    /// The value alone.
    Bare(BareValue),
    /// The value with its type.
    Typed(TypedValueKeys),
}

/// A text, a number, a date or a list of them.
#[derive(JsonSchema)]
#[serde(untagged)]
enum BareValue {
    /// A text, or a date.
    Text(String),
    /// A number.
    Number(f64),
    /// A list.
    List(Vec<BareItem>),
}

/// A text or a number.
#[derive(JsonSchema)]
#[serde(untagged)]
enum BareItem {
    /// A text, or a date.
    Text(String),
    /// A number.
    Number(f64),
}

/// A value with its type.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct TypedValueKeys {
    /// What it is. Without it, its text tells.
    #[serde(default, rename = "type")]
    kind: Option<ValueKind>,
    /// What is in a list.
    #[serde(default)]
    of: Option<ValueKind>,
    /// The value itself.
    value: BareValue,
    /// For a list: a selector. There has to be an entry for each element that it matches.
    #[serde(default)]
    each: Option<String>,
}

/// The site that the pins are for.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct SiteKeys {
    /// The folder of rendered pages, as seen from the board.
    root: String,
    /// What counts as a section of a page, for `survey`: a selector. Without it, landmarks,
    /// sections, and elements with an ID that hold a heading.
    #[serde(default)]
    section: Option<String>,
    /// Functions and queues through which visits are measured, such as `dataLayer` or
    /// `measure.send`: what pins' scripts give them is looked at for personal data.
    #[serde(default)]
    trackers: Vec<String>,
    /// The engines of browsers that count: `chromium`, `firefox`, `safari`. What one of them drops and
    /// another takes is told. Without it, all three in their current versions.
    #[serde(default)]
    engines: Option<Vec<Engine>>,
    /// The Content-Security-Policy that the site is served with, where it is not in the pages.
    #[serde(default)]
    policy: Option<String>,
}

/// What the place that serves the site accepts.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct HostKeys {
    /// The kind of place: a starting point, above which each other key stands.
    #[serde(default)]
    kind: HostKind,
    /// The boxes of HTML for the whole site.
    #[serde(default)]
    site: Option<Vec<BoxPlace>>,
    /// The boxes of HTML that each page has.
    #[serde(default)]
    page: Option<Vec<BoxPlace>>,
    /// Boxes that take CSS alone: `site`, `page` or `both`, or a table that says what they take.
    #[serde(default)]
    styles: Option<StylesKeys>,
    /// Boxes that take JavaScript alone: `site`, `page` or `both`. They stand at the foot.
    #[serde(default)]
    scripts: Option<BareBoxes>,
    /// Text around a piece in a box of the site that keeps it to some pages, in the host's own language.
    #[serde(default)]
    only: Option<OnlyKeys>,
    /// Where a block stands: a selector of the element at whose end it is. Without it `main`, or the body.
    #[serde(default)]
    block: Option<String>,
    /// The address under which uploaded files are. Without it nothing can be uploaded.
    #[serde(default)]
    files: Option<String>,
    /// The longest text that a box takes, in characters.
    #[serde(default)]
    longest: Option<usize>,
    /// What does not survive: tags (`iframe`), attributes (`[style]`, `onclick`, `on*`), at-rules (`@import`).
    #[serde(default)]
    strips: Vec<String>,
    /// What becomes of class names that are given in the host's editor.
    #[serde(default, rename = "class-names")]
    class_names: ClassNames,
    /// Class names, IDs and globals of the host's own code; `*` stands for any text.
    #[serde(default)]
    reserved: Vec<String>,
    /// How elements come by IDs and classes.
    #[serde(default)]
    marks: MarksBy,
    /// What the frame of a framed block allows: keywords of `sandbox`.
    #[serde(default)]
    frame: Option<Vec<String>>,
    /// The boxes in which what is for some pages is put, where both can hold it.
    #[serde(default)]
    prefer: Option<BoxReach>,
}

/// Boxes that take CSS alone.
#[derive(JsonSchema)]
#[serde(untagged)]
enum StylesKeys {
    /// Which there are.
    Boxes(BareBoxes),
    /// Which there are, and what they take.
    Table(StylesTable),
}

/// Boxes of CSS, and what they take.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct StylesTable {
    /// Which there are.
    boxes: Option<BareBoxes>,
    /// Whether they take rules in rules; else these are written flat.
    nested: Option<bool>,
    /// The at-rules that they take. Without it, all.
    #[serde(rename = "at-rules")]
    at_rules: Option<Vec<String>>,
}

/// For what there is a box.
#[derive(JsonSchema)]
#[serde(rename_all = "kebab-case")]
enum BareBoxes {
    /// One for the whole site.
    Site,
    /// One for each page.
    Page,
    /// Both.
    Both,
}

/// Text around a piece.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct OnlyKeys {
    /// What stands before it: with `{{path}}`, `{{paths}}` or `{{pattern}}` in it.
    before: String,
    /// What stands behind it.
    #[serde(default)]
    behind: String,
}

/// What `check` says of the whole board.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct CheckKeys {
    /// Codes of findings that have been answered: they are not told any more, whichever pin they
    /// are about. Why, a comment can say.
    #[serde(default)]
    accept: Vec<String>,
}

/// A library: what pins need and somebody else wrote.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct LibraryKeys {
    /// Its style sheets: a file beside the board or an https URL, or a list of them.
    #[serde(default)]
    style: Option<OneOrMany>,
    /// Its scripts: a file beside the board or an https URL, or a list of them.
    #[serde(default)]
    script: Option<OneOrMany>,
    /// Other libraries that have to come before it. Without it, what its scripts read tells.
    #[serde(default)]
    needs: Vec<String>,
    /// The globals that it defines. Without it, its scripts tell.
    #[serde(default)]
    defines: Vec<String>,
    /// By what a page shows that it has a copy of its own, so that no second one is brought in: a
    /// selector. Without it, copies are known by their text, their file's name, or what they define.
    #[serde(default)]
    present: Option<String>,
    /// How its scripts of other hosts are loaded: `blocking` (the page waits for them), `async` (they run as soon as
    /// they are there) or `defer` (they run once all of the page has been parsed).
    #[serde(default)]
    load: ScriptLoad,
    /// For addresses on other hosts, the hash that a browser holds the file against, as in the
    /// `integrity` attribute of HTML.
    #[serde(default)]
    integrity: BTreeMap<String, String>,
}

/// One address, or a list of them in order.
#[derive(JsonSchema)]
#[serde(untagged)]
enum OneOrMany {
    /// One.
    One(String),
    /// Several, in order.
    Many(Vec<String>),
}

/// A pin: one customisation and its target.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct PinKeys {
    /// The pages it is for: URL patterns of their paths, such as `/piers/*`. Without it, every page.
    #[serde(default)]
    pages: Vec<String>,
    /// Pages that it is not for, among those.
    #[serde(default)]
    skip: Vec<String>,
    /// Only pages that hold an element which this selector matches.
    #[serde(default)]
    having: Option<String>,
    /// The section or element that its CSS is confined to: a selector.
    #[serde(default)]
    within: Option<String>,
    /// Whether `:root`, `html` and `body` in its CSS mean what `within` matches too.
    #[serde(default, rename = "as-page")]
    as_page: bool,
    /// Its style sheet: a file beside the board.
    #[serde(default)]
    style: Option<String>,
    /// Whether what its CSS says gets stronger by the target's selector.
    #[serde(default)]
    strength: Strength,
    /// Names of its CSS (keyframes, fonts, counter styles, registered properties, layers,
    /// containers) that it shares with the page instead of getting its own for them.
    #[serde(default)]
    share: Vec<String>,
    /// Classes and IDs, without `.` and `#`, that scripts add at run time: selectors may wait for
    /// them, and nothing is said about it.
    #[serde(default)]
    adds: Vec<String>,
    /// Its script: a file beside the board.
    #[serde(default)]
    script: Option<String>,
    /// The libraries that it needs.
    #[serde(default)]
    needs: Vec<String>,
    /// The pins whose scripts come before its own.
    #[serde(default)]
    after: Vec<String>,
    /// What `check` holds the pin to.
    #[serde(default)]
    expect: Option<ExpectKeys>,
    /// Where its script stands. Styles stand in the head.
    #[serde(default)]
    slot: Slot,
    /// HTML that it puts into pages: a list of tables, each begun with `[[pin.NAME.markup]]`.
    #[serde(default)]
    markup: Vec<MarkupKeys>,
    /// What it gives to elements of pages: a list of tables, each begun with `[[pin.NAME.mark]]`.
    #[serde(default)]
    mark: Vec<MarkKeys>,
    /// Values of its own: `{{name}}` in its files and selectors. They come before those of the board.
    #[serde(default)]
    values: BTreeMap<String, ValueKeys>,
    /// When its script runs and its markup comes: `now`, `ready`, `loaded`, `after 3s`, `scrolled 40%`,
    /// `scrolled 600px`, `seen SELECTOR`, `click SELECTOR`, `leaving`, `playing SELECTOR at 10:22`,
    /// `appears SELECTOR`.
    #[serde(default)]
    start: Option<String>,
    /// How often it begins: once each time that the page is opened, once as long as the tab is open,
    /// or once for each visitor.
    #[serde(default)]
    once: Option<Once>,
    /// The first day, perhaps with a time, on which it begins: `2027-01-05`, `2027-01-05T10:00`.
    #[serde(default)]
    from: Option<String>,
    /// The last day, or the moment after which it does not begin any more.
    #[serde(default)]
    until: Option<String>,
    /// Codes of findings about it that have been answered, such as `stays-hidden`: they are not told
    /// any more. Why, a comment can say.
    #[serde(default)]
    accept: Vec<String>,
    /// Leaves the pin out, as if it were not on the board.
    #[serde(default)]
    off: bool,
}

/// HTML that a pin puts into pages.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct MarkupKeys {
    /// The HTML: a file beside the board.
    #[serde(default)]
    file: Option<String>,
    /// The HTML itself.
    #[serde(default)]
    text: Option<String>,
    /// Where it stands, as seen from the element.
    place: MarkupPlace,
    /// The element: a selector, looked for in the pin's target. Without it, the target itself.
    #[serde(default)]
    at: Option<String>,
}

/// What a pin gives to elements of pages.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct MarkKeys {
    /// The elements: a selector, looked for in the pin's target. Without it, the target itself.
    #[serde(default)]
    at: Option<String>,
    /// An ID.
    #[serde(default)]
    id: Option<String>,
    /// Classes, added to those that the element has.
    #[serde(default)]
    class: Option<String>,
    /// Other attributes with their values, such as `{ href = "/fares/" }`; `true` for one without a value.
    #[serde(default)]
    attributes: BTreeMap<String, AttributeValue>,
}

/// The value of an attribute.
#[derive(JsonSchema)]
#[serde(untagged)]
enum AttributeValue {
    /// A text.
    Text(String),
    /// A number.
    Number(f64),
    /// `true`: the attribute without a value.
    Bare(bool),
}

/// What `check` holds a pin to.
#[derive(JsonSchema)]
#[schemars(deny_unknown_fields)]
struct ExpectKeys {
    /// On how many pages it is.
    #[serde(default)]
    pages: Option<usize>,
    /// How many elements it touches on each page: those of its target, or without one those that
    /// its rules match.
    #[serde(default)]
    elements: Option<usize>,
}

/// The JSON Schema of a board, for editors.
pub fn schema() -> Schema {
    schema_for!(BoardKeys)
}

/// The keys of the board itself and of each kind of table in it, in the order of the schema.
pub(super) struct Keys {
    pub(super) board: Vec<String>,
    pub(super) site: Vec<String>,
    pub(super) host: Vec<String>,
    pub(super) check: Vec<String>,
    pub(super) library: Vec<String>,
    pub(super) pin: Vec<String>,
    pub(super) expect: Vec<String>,
    pub(super) markup: Vec<String>,
    pub(super) mark: Vec<String>,
    pub(super) value: Vec<String>,
    pub(super) styles: Vec<String>,
    pub(super) only: Vec<String>,
}

pub(super) static KEYS: LazyLock<Keys> = LazyLock::new(|| Keys {
    board: keys_of(&schema_for!(BoardKeys)),
    site: keys_of(&schema_for!(SiteKeys)),
    host: keys_of(&schema_for!(HostKeys)),
    check: keys_of(&schema_for!(CheckKeys)),
    library: keys_of(&schema_for!(LibraryKeys)),
    pin: keys_of(&schema_for!(PinKeys)),
    expect: keys_of(&schema_for!(ExpectKeys)),
    markup: keys_of(&schema_for!(MarkupKeys)),
    mark: keys_of(&schema_for!(MarkKeys)),
    value: keys_of(&schema_for!(TypedValueKeys)),
    styles: keys_of(&schema_for!(StylesTable)),
    only: keys_of(&schema_for!(OnlyKeys)),
});

fn keys_of(schema: &Schema) -> Vec<String> {
    let properties = schema.get("properties").and_then(|properties| properties.as_object());
    let mut keys: Vec<String> =
        properties.map(|properties| properties.keys().cloned().collect()).unwrap_or_default();
    keys.sort();
    keys
}
