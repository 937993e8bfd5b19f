//! The keys of a board, with their meaning: the source of the published JSON Schema, and of the
//! names that an unknown key is held against.

#![allow(dead_code, reason = "these types are read for their schema alone")]

use std::collections::BTreeMap;
use std::sync::LazyLock;

use schemars::{JsonSchema, Schema, schema_for};

use super::host::HostKind;
use crate::markup::Slot;
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
    /// The kind of place.
    #[serde(default)]
    kind: HostKind,
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
    /// Codes of findings about it that have been answered, such as `stays-hidden`: they are not told
    /// any more. Why, a comment can say.
    #[serde(default)]
    accept: Vec<String>,
    /// Leaves the pin out, as if it were not on the board.
    #[serde(default)]
    off: bool,
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
}

pub(super) static KEYS: LazyLock<Keys> = LazyLock::new(|| Keys {
    board: keys_of(&schema_for!(BoardKeys)),
    site: keys_of(&schema_for!(SiteKeys)),
    host: keys_of(&schema_for!(HostKeys)),
    check: keys_of(&schema_for!(CheckKeys)),
    library: keys_of(&schema_for!(LibraryKeys)),
    pin: keys_of(&schema_for!(PinKeys)),
    expect: keys_of(&schema_for!(ExpectKeys)),
});

fn keys_of(schema: &Schema) -> Vec<String> {
    let properties = schema.get("properties").and_then(|properties| properties.as_object());
    let mut keys: Vec<String> =
        properties.map(|properties| properties.keys().cloned().collect()).unwrap_or_default();
    keys.sort();
    keys
}
