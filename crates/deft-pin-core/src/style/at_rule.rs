//! The at-rules that mean something here, by their names: the one place that lists them. What each
//! part of the tool makes of a kind stands in a `match` of its own, so the compiler names the places
//! to look at when a kind is added.

/// The kind of an at-rule.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum AtRuleKind {
    /// `@charset` (css-syntax-3): no real rule, and of no effect on a decoded text.
    Charset,
    /// `@import` (css-cascade-5).
    Import,
    /// `@namespace` (css-namespaces-3).
    Namespace,
    /// `@layer` (css-cascade-5), as a list of names or with a block.
    Layer,
    /// `@media` (css-conditional-3).
    Media,
    /// `@supports` (css-conditional-3).
    Supports,
    /// `@container` (css-conditional-5).
    Container,
    /// `@starting-style` (css-transitions-2).
    StartingStyle,
    /// `@scope` (css-cascade-6).
    Scope,
    /// `@font-face` (css-fonts-4).
    FontFace,
    /// `@font-feature-values` (css-fonts-4).
    FontFeatureValues,
    /// `@font-palette-values` (css-fonts-4).
    FontPaletteValues,
    /// `@keyframes` (css-animations-1), with the prefix too that browsers still take.
    Keyframes,
    /// `@keyframes` with a prefix that browsers drop: its blocks are keyframes all the same.
    DroppedKeyframes,
    /// `@counter-style` (css-counter-styles-3).
    CounterStyle,
    /// `@property` (css-properties-values-api-1).
    Property,
    /// `@position-try` (css-anchor-position-1).
    PositionTry,
    /// `@function` (css-mixins-1).
    Function,
    /// `@page` (css-page-3).
    Page,
    /// `@view-transition` (css-view-transitions-2).
    ViewTransition,
    /// Any other.
    Other,
}

impl AtRuleKind {
    /// The kind of an at-rule, by its name in lower case, without the `@`.
    pub fn of(name: &str) -> Self {
        match name {
            "charset" => AtRuleKind::Charset,
            "import" => AtRuleKind::Import,
            "namespace" => AtRuleKind::Namespace,
            "layer" => AtRuleKind::Layer,
            "media" => AtRuleKind::Media,
            "supports" => AtRuleKind::Supports,
            "container" => AtRuleKind::Container,
            "starting-style" => AtRuleKind::StartingStyle,
            "scope" => AtRuleKind::Scope,
            "font-face" => AtRuleKind::FontFace,
            "font-feature-values" => AtRuleKind::FontFeatureValues,
            "font-palette-values" => AtRuleKind::FontPaletteValues,
            "keyframes" | "-webkit-keyframes" => AtRuleKind::Keyframes,
            "counter-style" => AtRuleKind::CounterStyle,
            "property" => AtRuleKind::Property,
            "position-try" => AtRuleKind::PositionTry,
            "function" => AtRuleKind::Function,
            "page" => AtRuleKind::Page,
            "view-transition" => AtRuleKind::ViewTransition,
            name if name.ends_with("-keyframes") => AtRuleKind::DroppedKeyframes,
            _ => AtRuleKind::Other,
        }
    }

    /// Whether rules may stand in its block, and mean there what they mean around it
    /// (css-conditional-3, "conditional group rules"; layers and starting styles are like them).
    pub fn is_group(self) -> bool {
        use AtRuleKind::*;
        matches!(self, Media | Supports | Container | StartingStyle | Layer)
    }

    /// Whether its blocks are keyframes, whose selectors are none.
    pub fn is_keyframes(self) -> bool {
        matches!(self, AtRuleKind::Keyframes | AtRuleKind::DroppedKeyframes)
    }

    /// Whether it gives something a name by which a sheet uses it.
    pub fn defines_a_name(self) -> bool {
        use AtRuleKind::*;
        matches!(
            self,
            Keyframes
                | FontFace
                | FontPaletteValues
                | CounterStyle
                | Property
                | PositionTry
                | Function
                | Layer
        )
    }
}

#[cfg(test)]
mod tests {
    use super::AtRuleKind;

    #[test]
    fn prefixes_that_browsers_drop_are_a_kind_of_their_own() {
        let kinds = ["keyframes", "-webkit-keyframes", "-moz-keyframes", "keyframe", "-webkit-media"];
        use AtRuleKind::*;
        assert_eq!(kinds.map(AtRuleKind::of), [Keyframes, Keyframes, DroppedKeyframes, Other, Other]);
    }
}
