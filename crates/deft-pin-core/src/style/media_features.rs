//! The media features of browsers (mediaqueries-4 and -5), with the values that each takes.

/// What the values of a feature are.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub(super) enum FeatureValues {
    /// Lengths; can be compared with `min-`, `max-` and signs.
    Lengths,
    /// Ratios; can be compared.
    Ratios,
    /// Whole numbers; can be compared.
    Counts,
    /// Resolutions, such as `2dppx`; can be compared.
    Resolutions,
    /// Numbers without a unit; can be compared, with `-webkit-min-` and `-webkit-max-` in front.
    PixelRatios,
    /// `0` or `1`.
    Flags,
    /// Words.
    Words(&'static [&'static str]),
}

impl FeatureValues {
    /// Whether values can be compared in size.
    pub(super) fn is_range(self) -> bool {
        !matches!(self, FeatureValues::Words(_) | FeatureValues::Flags)
    }
}

/// A media feature.
#[derive(Clone, Copy, Debug)]
pub(super) struct MediaFeature {
    pub(super) name: &'static str,
    pub(super) values: FeatureValues,
    /// Whether Chromium knows it.
    pub(super) is_chromiums: bool,
}

const fn of(name: &'static str, values: FeatureValues) -> MediaFeature {
    MediaFeature { name, values, is_chromiums: true }
}

const fn words(name: &'static str, words: &'static [&'static str]) -> MediaFeature {
    of(name, FeatureValues::Words(words))
}

const fn others(name: &'static str, words: &'static [&'static str]) -> MediaFeature {
    MediaFeature { name, values: FeatureValues::Words(words), is_chromiums: false }
}

/// Every feature. What Chromium knows of them it was asked itself.
const FEATURES: &[MediaFeature] = &[
    of("width", FeatureValues::Lengths),
    of("height", FeatureValues::Lengths),
    of("device-width", FeatureValues::Lengths),
    of("device-height", FeatureValues::Lengths),
    of("aspect-ratio", FeatureValues::Ratios),
    of("device-aspect-ratio", FeatureValues::Ratios),
    of("color", FeatureValues::Counts),
    of("color-index", FeatureValues::Counts),
    of("monochrome", FeatureValues::Counts),
    of("horizontal-viewport-segments", FeatureValues::Counts),
    of("vertical-viewport-segments", FeatureValues::Counts),
    of("resolution", FeatureValues::Resolutions),
    of("-webkit-device-pixel-ratio", FeatureValues::PixelRatios),
    of("grid", FeatureValues::Flags),
    of("-webkit-transform-3d", FeatureValues::Flags),
    words("orientation", &["portrait", "landscape"]),
    words("hover", &["none", "hover"]),
    words("any-hover", &["none", "hover"]),
    words("pointer", &["none", "coarse", "fine"]),
    words("any-pointer", &["none", "coarse", "fine"]),
    words("color-gamut", &["srgb", "p3", "rec2020"]),
    words(
        "display-mode",
        &[
            "fullscreen", "standalone", "minimal-ui", "browser", "picture-in-picture",
            "window-controls-overlay", "tabbed", "unframed",
        ],
    ),
    words("dynamic-range", &["standard", "high"]),
    words("forced-colors", &["none", "active"]),
    words("overflow-block", &["none", "scroll", "paged"]),
    words("overflow-inline", &["none", "scroll"]),
    words("prefers-color-scheme", &["light", "dark"]),
    words("prefers-contrast", &["no-preference", "less", "more", "custom"]),
    words("prefers-reduced-motion", &["no-preference", "reduce"]),
    words("prefers-reduced-transparency", &["no-preference", "reduce"]),
    words("scan", &["interlace", "progressive"]),
    words("scripting", &["none", "initial-only", "enabled"]),
    words("update", &["none", "slow", "fast"]),
    words("device-posture", &["continuous", "folded"]),
    others("inverted-colors", &["none", "inverted"]),
    others("nav-controls", &["none", "back"]),
    others("prefers-reduced-data", &["no-preference", "reduce"]),
    others("environment-blending", &["opaque", "additive", "subtractive"]),
    others("shape", &["rect", "round"]),
    others("video-color-gamut", &["srgb", "p3", "rec2020"]),
    others("video-dynamic-range", &["standard", "high"]),
];

/// The feature of a name in lower case, without `min-` and `max-`.
pub(super) fn media_feature(name: &str) -> Option<&'static MediaFeature> {
    FEATURES.iter().find(|feature| feature.name == name)
}

/// The names that a query may have in brackets: those of features, with `min-` and `max-` too where
/// values are compared.
pub(super) fn feature_names() -> impl Iterator<Item = String> {
    FEATURES.iter().filter(|feature| !feature.name.starts_with('-')).flat_map(|feature| {
        let bounds: &[&str] = if feature.values.is_range() { &["", "min-", "max-"] } else { &[""] };
        bounds.iter().map(move |bound| format!("{bound}{}", feature.name))
    })
}
