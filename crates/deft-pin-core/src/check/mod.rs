//! What there is to say before anything is published: facts of each page, and the findings that
//! follow from all of them.

mod apart;
mod beaten;
mod board;
mod brittle;
mod covered;
mod facts;
mod fight;
mod finding;
mod fonts;
mod hidden;
mod kept;
mod leaning;
mod names;
mod needs;
mod order;
mod outside;
mod overwrites;
mod personal;
mod policy;
mod probe;
mod script;
mod spare;
mod style;
mod taken;
mod target;
mod timeline;
mod trouble;
mod twice;
mod view;
mod width;

pub use apart::tells_pages_apart;
pub use covered::Covered;
pub use facts::{Detail, Missing, PageFacts, PinFacts, Witness};
pub use fight::{Fight, Leak, Rival};
pub use finding::{Code, Finding, Place, Related, Severity};
pub use fonts::FontGap;
pub use leaning::{Better, Leaning};
pub use order::{is_found, troubles};
pub use policy::Stopped;
pub use probe::Probe;
pub use spare::Spare;
pub use taken::Taken;
pub use timeline::ScriptTrouble;
pub use trouble::{Scene, Trouble, TroubleKind};
pub use twice::Pasted;

use crate::find::Feature;
use crate::plan::Plan;
use crate::site::Site;
use crate::source::FilePath;

/// Everything that a run over a site found: what the findings are made of.
#[derive(Clone, Copy)]
pub struct Ground<'a> {
    /// The board's own file.
    pub board_file: &'a FilePath,
    /// The plan.
    pub plan: &'a Plan<'a>,
    /// The site.
    pub site: &'a Site,
    /// The facts of each page that some pin is for, in the order of the site's pages.
    pub facts: &'a [PageFacts],
    /// What the root element and the body of each page say of it, where that matters on the
    /// host; else none.
    pub features: &'a [Vec<Feature>],
}

impl Ground<'_> {
    /// What the pages that a pin is for say about it, with their places in the site's list.
    fn pages_of(&self, pin: usize) -> impl Iterator<Item = (usize, &PinFacts)> {
        self.facts.iter().flat_map(move |page| {
            page.pins.iter().filter(move |facts| facts.pin as usize == pin).map(|facts| (page.page, facts))
        })
    }
}

/// Every finding, ordered by file and place. The same thing on many pages is one finding.
pub fn findings(ground: &Ground<'_>) -> Vec<Finding> {
    let mut findings = Vec::new();
    board::findings(ground, &mut findings);
    target::findings(ground, &mut findings);
    style::findings(ground, &mut findings);
    script::findings(ground, &mut findings);
    brittle::findings(ground, &mut findings);
    apart::findings(ground, &mut findings);
    beaten::findings(ground, &mut findings);
    width::findings(ground, &mut findings);
    fonts::findings(ground, &mut findings);
    hidden::findings(ground, &mut findings);
    covered::findings(ground, &mut findings);
    taken::findings(ground, &mut findings);
    timeline::findings(ground, &mut findings);
    needs::findings(ground, &mut findings);
    outside::findings(ground, &mut findings);
    personal::findings(ground, &mut findings);
    policy::findings(ground, &mut findings);
    spare::findings(ground, &mut findings);
    twice::findings(ground, &mut findings);
    let board = ground.board_file;
    findings.sort_by(|a, b| {
        let key = |finding: &Finding| {
            (finding.place.file != *board, finding.place.file.clone(), finding.place.span)
        };
        key(a).cmp(&key(b)).then(a.code.cmp(&b.code)).then_with(|| a.message.cmp(&b.message))
    });
    // Two pins that share a file share what is wrong with it.
    findings.dedup_by(|b, a| (a.code, &a.place, &a.message) == (b.code, &b.place, &b.message));
    findings
}
