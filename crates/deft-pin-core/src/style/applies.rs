//! Which declarations do nothing on an element though they win: each property's "applies to" in its standard,
//! as far as the boxes of a page tell for certain.

use super::boxes::{ElementBox, Settled, is_block, is_flex, is_grid, is_inline};
use super::cascade::Cascade;
use crate::markup::ElementRef;

/// Why a declaration does nothing on an element.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash, serde::Serialize)]
pub enum NoEffect {
    /// It is for flex containers and grids, and the element is neither.
    NoContainer,
    /// It is for flex containers.
    NoFlex,
    /// It is for grids.
    NoGrid,
    /// It is for items of flex containers and grids, and the parent is neither.
    NoItem,
    /// It is for items of flex containers.
    NoFlexItem,
    /// It is for items of grids.
    NoGridItem,
    /// The parent, a flex container or a grid, places the element itself.
    IsItem,
    /// An absolutely positioned box does not float.
    IsAbsolute,
    /// A box in a line of text has no such size, and is not turned or cut.
    IsInline,
    /// It is for boxes in a line of text and for cells of tables.
    IsBlock,
    /// Rows and cells of tables have no such distance.
    IsTablePart,
    /// It is for tables.
    NoTable,
    /// `position` is `static`.
    IsStatic,
    /// `position: sticky`, and no edge to stick to.
    NoEdge,
    /// `position: sticky`, and an ancestor that neither scrolls nor shows what flows over it.
    IsCut,
    /// It is for images, films and the like.
    NotReplaced,
    /// The border has no style.
    NoBorderStyle,
    /// There is no background image.
    NoBackgroundImage,
    /// There is no mask image.
    NoMaskImage,
    /// There is no animation.
    NoAnimation,
    /// The animation takes no time.
    NoDuration,
    /// What flows over is shown.
    ShowsOverflow,
    /// More than the whole: the most that there is counts.
    BeyondWhole,
    /// Text in `content` is for pseudo-elements.
    ContentOfElement,
    /// The pseudo-element has no `content`, so it is not there.
    NoContent,
    /// Browsers make no pseudo-element in this kind of element.
    NoPseudo,
}

/// What a longhand needs, for those that some elements have no use for.
fn need(longhand: &str) -> Option<Need> {
    Some(match longhand {
        "justify-content" | "align-items" | "row-gap" | "column-gap" => Need::Container,
        "flex-direction" | "flex-wrap" => Need::Flex,
        "grid-template-columns"
        | "grid-template-rows"
        | "grid-template-areas"
        | "grid-auto-flow"
        | "grid-auto-columns"
        | "grid-auto-rows" => Need::Grid,
        "order" | "align-self" => Need::Item,
        "flex-grow" | "flex-shrink" | "flex-basis" => Need::FlexItem,
        "grid-row-start" | "grid-row-end" | "grid-column-start" | "grid-column-end" => Need::GridItem,
        "float" => Need::Flow,
        "clear" => Need::BlockInFlow,
        "vertical-align" => Need::InlineLevel,
        "width" | "height" | "min-width" | "min-height" | "max-width" | "max-height" | "aspect-ratio"
        | "overflow-x" | "overflow-y" | "transform" | "rotate" | "scale" | "translate" | "column-count"
        | "column-width" => Need::Box,
        "margin-top" | "margin-bottom" => Need::Margin,
        "margin-left" | "margin-right" => Need::SideMargin,
        "padding-top" | "padding-bottom" | "padding-left" | "padding-right" => Need::Padding,
        "table-layout" => Need::Table,
        "top" | "right" | "bottom" | "left" => Need::Positioned,
        "z-index" => Need::PositionedOrItem,
        "position" => Need::Edge,
        "clip" => Need::Absolute,
        "object-fit" | "object-position" => Need::Replaced,
        "border-top-color" | "border-top-width" => Need::BorderStyle("border-top-style"),
        "border-right-color" | "border-right-width" => Need::BorderStyle("border-right-style"),
        "border-bottom-color" | "border-bottom-width" => Need::BorderStyle("border-bottom-style"),
        "border-left-color" | "border-left-width" => Need::BorderStyle("border-left-style"),
        "background-size"
        | "background-repeat"
        | "background-position-x"
        | "background-position-y"
        | "background-attachment" => Need::BackgroundImage,
        "mask-size" | "mask-repeat" | "mask-position" => Need::MaskImage,
        "animation-delay"
        | "animation-direction"
        | "animation-duration"
        | "animation-fill-mode"
        | "animation-iteration-count"
        | "animation-play-state"
        | "animation-timing-function" => Need::Animation,
        "animation-name" => Need::Duration,
        "text-overflow" | "resize" => Need::Overflow,
        "opacity" => Need::Share,
        "content" => Need::Pseudo,
        _ => return None,
    })
}

#[derive(Clone, Copy)]
enum Need {
    Container,
    Flex,
    Grid,
    Item,
    FlexItem,
    GridItem,
    Flow,
    BlockInFlow,
    InlineLevel,
    Box,
    Margin,
    SideMargin,
    Padding,
    Table,
    Positioned,
    PositionedOrItem,
    Edge,
    Absolute,
    Replaced,
    BorderStyle(&'static str),
    BackgroundImage,
    MaskImage,
    Animation,
    Duration,
    Overflow,
    Share,
    Pseudo,
}

/// Whether a longhand may do nothing, on some element or on a pseudo-element of this name.
pub fn may_have_no_effect(longhand: &str, part: Option<&str>) -> bool {
    part.is_some() || need(longhand).is_some()
}

/// Why a longhand with a value, its own or that of a shorthand (`is_whole` tells), has no effect on an element or on
/// its `::before` or `::after`; none where it has,
/// or may have.
pub fn no_effect<'p>(
    cascade: &mut Cascade<'p>,
    element: ElementRef<'p>,
    part: Option<&str>,
    longhand: &str,
    (value, is_whole): (&str, bool),
) -> Option<NoEffect> {
    if let Some(part) = part {
        if !matches!(part, "before" | "after") {
            return None;
        }
        const NONE_INSIDE: &[&str] =
            &["img", "br", "video", "audio", "iframe", "canvas", "textarea", "select", "embed"];
        if NONE_INSIDE.contains(&&*element.data().name.local) {
            return Some(NoEffect::NoPseudo);
        }
        // A quotation has its quotes by itself.
        let has_own = element.data().name.local.eq("q");
        let mut own = ElementBox::new(cascade, element, Some(part));
        if !has_own && own.settled("content").is_unset_or(&["none", "normal"]) {
            return Some(NoEffect::NoContent);
        }
    }
    let need = need(longhand).filter(|_| !resets(longhand, value, is_whole))?;
    unmet(need, &mut ElementBox::new(cascade, element, part), value)
}

/// Whether a value sets nothing but what holds anyway: such a declaration is a reset.
fn resets(longhand: &str, value: &str, is_whole: bool) -> bool {
    let value = value.trim().to_ascii_lowercase();
    let initial = super::properties::property(longhand).and_then(|property| property.initial);
    let is_zero =
        matches!(value.as_str(), "0" | "0px") && !matches!(longhand, "top" | "right" | "bottom" | "left");
    is_zero
        || is_whole && initial == Some(value.as_str())
        || super::values::is_wide(&value)
        || matches!(value.as_str(), "none" | "auto" | "normal" | "visible")
        || value.contains("var(")
}

/// Why what a longhand needs is certainly not there.
fn unmet(need: Need, own: &mut ElementBox<'_, '_>, value: &str) -> Option<NoEffect> {
    let value = value.trim().to_ascii_lowercase();
    let is_other = |display: &str| {
        !is_block(display)
            && !is_inline(display)
            && display != "inline-block"
            && !display.starts_with("table")
    };
    match need {
        Need::Container | Need::Flex | Need::Grid => {
            let display = own.display()?;
            if own.is_replaced()
                || matches!(&*own.element.data().name.local, "fieldset" | "summary" | "details")
            {
                return None;
            }
            let (flex, grid) = (is_flex(&display), is_grid(&display));
            let is_flow = !flex && !grid && !is_other(&display);
            let has_columns = !own.settled("column-count").is_unset_or(&["auto"])
                || !own.settled("column-width").is_unset_or(&["auto"]);
            match need {
                Need::Container => (is_flow && !has_columns).then_some(NoEffect::NoContainer),
                Need::Flex => (is_flow || grid).then_some(NoEffect::NoFlex),
                _ => (is_flow || flex && !display.contains("-box")).then_some(NoEffect::NoGrid),
            }
        }
        Need::Item | Need::FlexItem | Need::GridItem => {
            let parent = own.parent_display()?;
            let (flex, grid) = (is_flex(&parent), is_grid(&parent));
            if !flex && !grid && is_other(&parent) || own.is_absolute()? {
                return None;
            }
            match need {
                Need::Item => (!flex && !grid).then_some(NoEffect::NoItem),
                Need::FlexItem => (!flex).then_some(NoEffect::NoFlexItem),
                _ => (!grid).then_some(NoEffect::NoGridItem),
            }
        }
        Need::Flow if own.is_absolute()? => Some(NoEffect::IsAbsolute),
        Need::Flow => own.is_item()?.then_some(NoEffect::IsItem),
        Need::BlockInFlow if own.is_item()? => Some(NoEffect::IsItem),
        Need::BlockInFlow => {
            // A line break clears, too.
            let is_break = own.element.data().name.local.eq("br");
            (is_inline(&own.display()?) && !is_break).then_some(NoEffect::IsInline)
        }
        Need::InlineLevel => {
            let display = own.display()?;
            (is_block(&display) && !own.is_replaced()).then_some(NoEffect::IsBlock)
        }
        Need::Box => (is_inline(&own.display()?) && !own.is_replaced()).then_some(NoEffect::IsInline),
        Need::Margin | Need::SideMargin => {
            let display = own.display()?;
            let is_part = display.starts_with("table-") && display != "table-caption";
            match need {
                _ if own.is_replaced() => None,
                _ if is_part => Some(NoEffect::IsTablePart),
                Need::Margin if is_inline(&display) => Some(NoEffect::IsInline),
                _ => None,
            }
        }
        Need::Padding => {
            let display = own.display()?;
            let is_part =
                display.starts_with("table-") && !matches!(display.as_str(), "table-caption" | "table-cell");
            is_part.then_some(NoEffect::IsTablePart)
        }
        Need::Table => {
            let display = own.display()?;
            (!display.contains("table") || display.starts_with("table-")).then_some(NoEffect::NoTable)
        }
        Need::Positioned => own.settled("position").is_unset_or(&["static"]).then_some(NoEffect::IsStatic),
        Need::PositionedOrItem => (own.settled("position").is_unset_or(&["static"]) && !own.is_item()?)
            .then_some(NoEffect::IsStatic),
        Need::Edge if value == "sticky" || value == "-webkit-sticky" => {
            let mut edges = ["top", "right", "bottom", "left"].into_iter();
            match edges.all(|edge| own.settled(edge).is_unset_or(&["auto"])) {
                true => Some(NoEffect::NoEdge),
                false => own.is_cut().then_some(NoEffect::IsCut),
            }
        }
        Need::Edge => None,
        Need::Absolute => (!own.is_absolute()?).then_some(NoEffect::IsStatic),
        Need::Replaced => (!own.is_replaced()).then_some(NoEffect::NotReplaced),
        Need::BorderStyle(style) => {
            // Browsers give these a border by themselves.
            const BORDERED: &[&str] = &[
                "input", "button", "select", "textarea", "hr", "fieldset", "iframe", "table", "td", "th",
                "dialog", "mark",
            ];
            let is_plain = !BORDERED.contains(&&*own.element.data().name.local) || own.is_part();
            let is_none = match own.settled(style) {
                Settled::Unset => true,
                Settled::Value(value) => matches!(value.as_str(), "none" | "hidden" | "0"),
                Settled::Open => false,
            };
            (is_plain && is_none).then_some(NoEffect::NoBorderStyle)
        }
        Need::BackgroundImage => {
            is_without(own.settled("background-image")).then_some(NoEffect::NoBackgroundImage)
        }
        Need::MaskImage => is_without(own.settled("mask-image")).then_some(NoEffect::NoMaskImage),
        Need::Animation => {
            own.settled("animation-name").is_unset_or(&["none"]).then_some(NoEffect::NoAnimation)
        }
        Need::Duration => {
            let duration = own.settled("animation-duration");
            let takes_no_time = match duration.value() {
                _ if duration == Settled::Unset => true,
                // The shorthand.
                Some(whole) => !whole.contains('(') && !whole.split([' ', ',']).any(is_time),
                None => false,
            };
            let has_timeline =
                !own.settled("animation-timeline").is_unset_or(&["auto"]) && duration == Settled::Unset;
            (takes_no_time && !has_timeline).then_some(NoEffect::NoDuration)
        }
        Need::Overflow => {
            let is_text_area = own.is_replaced();
            let all_show =
                ["overflow-x", "overflow-y"].iter().all(|axis| own.settled(axis).is_unset_or(&["visible"]));
            (all_show && !is_text_area).then_some(NoEffect::ShowsOverflow)
        }
        Need::Share => {
            let number = value.strip_suffix('%').map_or_else(
                || value.parse::<f64>().ok(),
                |percent| percent.parse::<f64>().ok().map(|percent| percent / 100.0),
            );
            number.is_some_and(|number| number > 1.0).then_some(NoEffect::BeyondWhole)
        }
        Need::Pseudo => {
            let is_text =
                value.starts_with(['"', '\'']) || value.starts_with("counter") || value.starts_with("attr(");
            (!own.is_part() && is_text).then_some(NoEffect::ContentOfElement)
        }
    }
}

/// Whether there is no image: nothing says one, and no shorthand brings one along.
fn is_without(image: Settled) -> bool {
    match image {
        Settled::Unset => true,
        Settled::Value(value) => !["url(", "gradient(", "image", "element(", "paint(", "cross-fade("]
            .iter()
            .any(|own| value.contains(own)),
        Settled::Open => false,
    }
}

fn is_time(word: &str) -> bool {
    let number = word.strip_suffix("ms").or_else(|| word.strip_suffix('s'));
    number.is_some_and(|number| number.parse::<f64>().is_ok_and(|number| number != 0.0))
}
