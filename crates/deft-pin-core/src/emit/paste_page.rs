//! What one page says of the paste-up: the parts of the plan that are for it.

use std::collections::BTreeSet;

use crate::board::MarksBy;
use crate::code::{PageId, PinId};
use crate::find::{Feature, features};
use crate::page::{ContentPart, PageAnalysis};
use crate::plan::{CodeKey, ExistingCopies, Part};

/// What a page gets through the boxes of the host. Plain data.
#[derive(Clone, Debug)]
pub struct PastePage {
    /// The page.
    pub page: PageId,
    /// The parts of the plan that are for it.
    pub parts: BTreeSet<Part>,
    /// Files of libraries that its pins need, and that it has by itself.
    pub has_by_itself: BTreeSet<CodeKey>,
    /// What its root element and its body say of it; where rules tell pages apart.
    pub features: Vec<Feature>,
    /// Marks that somebody gives to its elements by hand.
    pub by_hand: Vec<HandMark>,
}

/// An ID or classes that somebody gives to an element in the editor of the host.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub struct HandMark {
    /// The pin.
    pub pin: PinId,
    /// Which of its marks.
    pub number: usize,
    /// The element: a selector.
    pub selector: String,
}

impl PastePage {
    /// What a page gets.
    pub fn of(page: &PageAnalysis<'_>) -> Self {
        let context = page.context();
        let (plan, layout) = (context.plan, &context.layout);
        let mut parts: BTreeSet<Part> = page.placements().iter().map(|own| Part::Code(own.code)).collect();
        let is_put = |pin: &PinId| {
            page.content().iter().any(|own| {
                let is_served =
                    matches!(own.part, ContentPart::Mark(_)) || plan.pins[*pin].beginning.is_none();
                own.pin == *pin && own.elements > 0 && is_served
            })
        };
        let with_content = page.pins().iter().filter(|pin| plan.has_served_content(**pin) && is_put(pin));
        parts.extend(with_content.map(|pin| Part::Content(*pin)));
        let all = plan.placements(page.pins(), &ExistingCopies::default(), layout).into_iter();
        let has_by_itself =
            all.map(|own| own.code).filter(|code| !parts.contains(&Part::Code(*code))).collect();
        let by_hand = match plan.board.host.marks {
            MarksBy::ByScript => Vec::new(),
            MarksBy::ByHand => page
                .content()
                .iter()
                .filter_map(|own| match own.part {
                    ContentPart::Mark(number) if own.elements > 0 && page.pins().contains(&own.pin) => {
                        let mark = &plan.board.pins[own.pin].marks[number];
                        let has_names = mark.id.is_some() || !mark.classes.is_empty();
                        has_names.then_some((own.pin, number))
                    }
                    _ => None,
                })
                .flat_map(|(pin, number)| {
                    let selectors = page.marked(pin, number).into_iter();
                    selectors.map(move |selector| HandMark { pin, number, selector })
                })
                .collect(),
        };
        let features = match layout.guarded_by_rules() {
            [] => Vec::new(),
            _ => features(page.document()),
        };
        PastePage { page: page.id, parts, has_by_itself, features, by_hand }
    }
}
