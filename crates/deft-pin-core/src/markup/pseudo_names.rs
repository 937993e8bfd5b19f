//! The names of pseudo-classes and pseudo-elements: those of the standards, and those of Chromium.

/// States of a running page, by the names of their pseudo-classes.
pub(super) const RUN_TIME_STATES: &[&str] = &[
    "active", "active-view-transition", "autofill", "checked", "current", "default", "defined", "focus",
    "focus-visible", "focus-within", "fullscreen", "future", "hover", "in-range", "indeterminate",
    "interest-source", "interest-target", "invalid", "modal", "open", "out-of-range", "past",
    "picture-in-picture", "placeholder-shown", "popover-open", "read-only", "read-write", "target",
    "target-after", "target-before", "target-current", "user-invalid", "user-valid", "valid", "visited",
    "xr-overlay",
];

/// States of the parts of scroll bars.
pub(super) const SCROLLBAR_STATES: &[&str] = &[
    "corner-present", "decrement", "double-button", "end", "horizontal", "increment", "no-button",
    "single-button", "start", "vertical", "window-inactive",
];

/// States that a standard has, and Chromium has not.
pub(super) const OTHER_STATES: &[&str] = &[
    "blank", "buffering", "has-slotted", "heading", "local-link", "muted", "paused", "playing", "seeking",
    "stalled", "target-within", "user-error", "volume-locked",
];

/// Pseudo-classes with a prefix that Chromium knows.
pub(super) const PREFIXED_STATES: &[&str] =
    &["-webkit-autofill", "-webkit-drag", "-webkit-full-page-media", "-webkit-full-screen"];

/// Pseudo-elements that take no pseudo-class behind them.
pub(super) const WITHOUT_STATES: &[&str] = &[
    "after", "backdrop", "before", "cue", "first-letter", "first-line", "grammar-error", "marker",
    "placeholder", "spelling-error", "target-text",
];

/// Pseudo-elements of the standards, by name.
pub(super) const PSEUDO_ELEMENTS: &[&str] = &[
    "after", "backdrop", "before", "checkmark", "column", "cue", "details-content", "file-selector-button",
    "first-letter", "first-line", "grammar-error", "marker", "picker-icon", "placeholder", "scroll-marker",
    "scroll-marker-group", "search-text", "selection", "spelling-error", "target-text", "view-transition",
];

/// Pseudo-elements that Chromium supports with its prefix, without that.
pub(super) const WEBKIT_PSEUDO_ELEMENTS: &[&str] = &[
    "calendar-picker-indicator", "color-swatch", "color-swatch-wrapper", "date-and-time-value",
    "datetime-edit", "datetime-edit-ampm-field", "datetime-edit-day-field", "datetime-edit-fields-wrapper",
    "datetime-edit-hour-field", "datetime-edit-millisecond-field", "datetime-edit-minute-field",
    "datetime-edit-month-field", "datetime-edit-second-field", "datetime-edit-text",
    "datetime-edit-week-field", "datetime-edit-year-field", "file-upload-button", "inner-spin-button",
    "input-placeholder", "media-controls", "media-controls-current-time-display", "media-controls-enclosure",
    "media-controls-fullscreen-button", "media-controls-mute-button", "media-controls-overlay-enclosure",
    "media-controls-overlay-play-button", "media-controls-panel", "media-controls-play-button",
    "media-controls-time-remaining-display", "media-controls-timeline",
    "media-controls-toggle-closed-captions-button", "media-controls-volume-slider", "media-slider-container",
    "media-slider-thumb", "media-text-track-container", "media-text-track-display",
    "media-text-track-region", "meter-bar", "meter-even-less-good-value", "meter-inner-element",
    "meter-optimum-value", "meter-suboptimum-value", "progress-bar", "progress-inner-element",
    "progress-value", "resizer", "scrollbar", "scrollbar-button", "scrollbar-corner", "scrollbar-thumb",
    "scrollbar-track", "scrollbar-track-piece", "search-cancel-button", "slider-container",
    "slider-runnable-track", "slider-thumb", "textfield-decoration-container",
];

/// Pseudo-elements that take an argument.
pub(super) const FUNCTIONAL_PSEUDO_ELEMENTS: &[&str] = &[
    "cue", "highlight", "picker", "scroll-button", "view-transition-group", "view-transition-group-children",
    "view-transition-image-pair", "view-transition-new", "view-transition-old",
];

/// Pseudo-classes that depend on the tree alone, and those that take an argument.
pub(super) const OTHER_PSEUDO_CLASSES: &[&str] = &[
    "any-link", "dir", "disabled", "empty", "enabled", "first-child", "first-of-type", "has", "host", "is",
    "lang", "last-child", "last-of-type", "link", "not", "nth-child", "nth-last-child", "nth-last-of-type",
    "nth-of-type", "only-child", "only-of-type", "optional", "required", "root", "scope", "where",
];
