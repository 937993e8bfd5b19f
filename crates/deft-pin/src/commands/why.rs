//! `why`: who wins the properties of an element, and by which step.

use anyhow::{Result, bail};
use deft_pin_core::find::{PageIndex, address};
use deft_pin_core::markup::ElementRef;
use deft_pin_core::page::{PageAnalysis, SiteContext};
use deft_pin_core::plan::Plan;
use deft_pin_core::style::{
    Cascade, Engine, Outcome, PropertyId, is_inherited, is_property, nearest_property,
};

use crate::arguments::{Common, Format, Why};
use crate::asked::{selector, unmatched, viewport};
use crate::exit::Exit;
use crate::output::{self, Asked, WhyElement};
use crate::project::Project;

/// How many elements are shown unless all are asked for.
const SHOWN: usize = 4;

/// Says who wins.
pub fn run(common: &Common, command: &Why) -> Result<Exit> {
    let wanted = selector(&command.selector)?;
    if let Some(property) = command.property.as_deref().filter(|name| !is_property(name)) {
        let near = nearest_property(property).map(|near| format!("; did you mean `{near}`?"));
        bail!("there is no property `{property}`{}", near.unwrap_or_default());
    }
    let project = Project::open(common, &command.place)?;
    let id = project.find(&command.page)?;
    let bytes = project.read(id)?;
    let plan = Plan::new(&project.board, &project.folder);
    let context = SiteContext::new(&plan, &project.site, &project.folder);
    let page = context.page(id, &bytes);
    // What pins put in later has a look as well.
    let page = page.settled().unwrap_or(page);
    let path = page.page().path.as_str();
    let index = PageIndex::new(page.document());
    let found = index.matched(&wanted.list, usize::MAX);
    if found.is_empty() {
        bail!("{}", unmatched(&command.selector, &index, &wanted.list, path));
    }
    let elements: Vec<_> = found.iter().filter_map(|id| page.document().element(*id)).collect();
    let shown = if command.all || command.format == Format::Json { elements.len() } else { SHOWN };
    let answer = explain(&elements, shown, command, &page, &index);
    let asked = Asked {
        page: path,
        file: &page.page().file,
        board: &project.board,
        sheets: page.sheets(),
        total: elements.len(),
    };
    output::print(&match command.format {
        Format::Json => output::why_json(&asked, &answer)?,
        Format::Text => {
            output::why(&asked, &answer, command.property.as_deref(), command.pseudo.as_deref(), page.text())
        }
    })?;
    Ok(Exit::Good)
}

fn explain<'p>(
    elements: &[ElementRef<'p>],
    shown: usize,
    command: &Why,
    page: &'p PageAnalysis<'p>,
    index: &PageIndex<'p>,
) -> Vec<WhyElement<'p>> {
    let states = command.state.iter().map(|name| name.trim_start_matches(':').to_ascii_lowercase()).collect();
    let pseudo = command.pseudo.as_deref().map(|name| name.trim_start_matches(':').to_ascii_lowercase());
    let mut cascade = Cascade::new(page.document(), &page.sheets().sheets, viewport(&command.shown), states);
    if let Some(engine) = Engine::ALL.into_iter().find(|engine| engine.name() == command.engine) {
        cascade = cascade.for_engine(engine);
    }
    let property = command.property.as_deref().map(PropertyId::of);
    let asked = property.as_ref().map(PropertyId::longhands);
    elements
        .iter()
        .take(shown)
        .map(|&element| {
            let mut outcomes = cascade.outcomes(element, pseudo.as_deref());
            if let Some(asked) = asked {
                let is_asked = |outcome: &Outcome<'_>| {
                    let all = std::iter::once(&outcome.winner).chain(&outcome.losers).chain(&outcome.may_win);
                    asked.contains(&outcome.property)
                        || all
                            .into_iter()
                            .any(|one| one.longhand.as_ref().is_some_and(|one| asked.contains(one)))
                };
                outcomes.retain(is_asked);
            }
            let missing = asked.into_iter().flatten().filter(|name| {
                is_inherited(name.name())
                    && pseudo.is_none()
                    && outcomes.iter().all(|outcome| outcome.property != **name)
            });
            let inherits = missing
                .filter_map(|name| {
                    let (from, outcome) = cascade.inherited_from(element, name)?;
                    let line = page.parsed().line_of(from);
                    Some((address(index, from), line, outcome))
                })
                .collect();
            WhyElement {
                element: address(index, element),
                line: page.parsed().line_of(element),
                place: page.parsed().position(element.data().start()),
                outcomes,
                inherits,
            }
        })
        .collect()
}
