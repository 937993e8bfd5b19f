//! The families of findings, in the order in which they are asked.

use serde::Serialize;

use super::explanations::Questions;
use super::facts::FactsByPage;
use super::family::{Family, families};
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;
use crate::code::PageId;

families! {
    /// The board itself: patterns, files, order, and what nothing uses.
    board: super::board::Board;
    /// Values.
    values: super::values::Values;
    /// What a template left to be filled in.
    leftovers: super::leftovers::Leftovers;
    /// Literals that would be one value.
    same_numbers: super::same_number::SameNumbers;
    /// Markup and marks.
    contents: super::content::Contents;
    /// When pins begin.
    starts: super::starts::Starts;
    /// What `having` and `within` match.
    target: super::target::Targets;
    /// Slots that pages have no place for.
    no_slot: super::no_slot::LackingSlots;
    /// What no box of the host can hold.
    out_of_reach: super::out_of_reach::OutOfReaches;
    /// Pieces that are longer than their box takes.
    too_long: super::too_long::TooLong;
    /// What does not survive in the boxes of the host.
    stripped: super::stripped::Stripped;
    /// Names that the host's own code uses.
    reserved_names: super::reserved_name::ReservedNames;
    /// An order that does not hold in the boxes of the host.
    late_boxes: super::late_box::LateBoxes;
    /// What a browser drops of sheets, and what cannot be confined.
    sheet: super::sheet::Sheets;
    /// What some engines drop of sheets.
    not_everywhere: super::not_everywhere::NotEverywhere;
    /// Selectors that match nothing, or on some pages alone.
    unmatched: super::unmatched::Unmatched;
    /// Scripts that do not parse.
    bad_syntax: super::bad_syntax::BadSyntax;
    /// Selectors that the next change of a template breaks.
    brittle: super::brittle::BrittleTargets;
    /// Pages that cannot be told apart.
    page_apart: super::page_apart::PagesApart;
    /// Declarations that do nothing, and pins that fight each other.
    beaten: super::beaten::Beaten;
    /// Declarations that win and do nothing.
    no_effect: super::no_effect::NoEffects;
    /// Expectations that are not held.
    too_wide: super::too_wide::TooWide;
    /// Names for the whole page that are the site's.
    leak: super::leak::Leaks;
    /// Keyframes and custom properties that nothing sets.
    unset_names: super::unset_names::UnsetNames;
    /// Fonts that nothing loads, and lists without a fallback.
    fonts: super::fonts::Fonts;
    /// Elements that are hidden for good.
    stays_hidden: super::stays_hidden::StaysHidden;
    /// Elements that stay in view under others.
    under: super::under::Under;
    /// Names that pins bring in and the site has.
    name_taken: super::name_taken::NamesTaken;
    /// Scripts that do not work out on the timeline.
    script_faults: super::script_faults::ScriptFaults;
    /// Callbacks that nothing defines.
    callbacks: super::callbacks::Callbacks;
    /// Names that the page gets without being asked to on the board.
    inferred_share: super::inferred_share::InferredShares;
    /// Needs that the board does not say.
    needs: super::needs::Needs;
    /// What is loaded from other hosts.
    foreign_asset: super::foreign_asset::ForeignAssets;
    /// Personal data that is handed over.
    personal_data: super::personal_data::PersonalData;
    /// What a policy stops.
    blocked: super::blocked::Blocked;
    /// Libraries that a page gets for nothing.
    unused_library: super::unused_library::UnusedLibraries;
    /// What a page gets twice.
    twice: super::twice::Twice;
}
