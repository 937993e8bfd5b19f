//! `why`: who wins the properties of an element, and by which step.

use anyhow::{Result, bail};
use deft_pin_core::find::{PageIndex, address};
use deft_pin_core::markup::ElementRef;
use deft_pin_core::page::{PageAnalysis, SiteContext};
use deft_pin_core::plan::Plan;
use deft_pin_core::style::{
    Applied, Cascade, Engine, Outcome, PageSheet, PropertyId, Truth, Viewport, is_inherited, is_property,
    nearest_property,
};

use crate::arguments::{Common, Format, Why};
use crate::asked::{selector, unmatched, viewport};
use crate::exit::Exit;
use crate::output::{self, Asked, InheritedOutcome, SchemeOutcome, WhyElement};
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
    let engine = Engine::ALL.into_iter().find(|engine| engine.name() == command.engine);
    let sheets = match engine {
        Some(engine) if engine != Engine::Chromium => {
            Some(page.sheets().sheets.iter().map(PageSheet::for_all_engines).collect::<Vec<_>>())
        }
        _ => None,
    };
    let sheets = sheets.as_deref().unwrap_or(&page.sheets().sheets);
    let mut styles = Styles::new(&page, sheets, engine.unwrap_or(Engine::Chromium), command);
    let answer = explain(&elements, shown, command, &index, &mut styles);
    let asked = Asked { page: &page, board: &project.board, sheets: page.sheets(), total: elements.len() };
    output::print(&match command.format {
        Format::Json => output::why_json(&asked, &answer)?,
        Format::Text => output::why(&asked, &answer, command.property.as_deref(), command.pseudo.as_deref()),
    })?;
    Ok(Exit::Good)
}

fn explain<'p>(
    elements: &[ElementRef<'p>],
    shown: usize,
    command: &Why,
    index: &PageIndex<'p>,
    styles: &mut Styles<'p>,
) -> Vec<WhyElement<'p>> {
    let pseudo = command.pseudo.as_deref().map(|name| name.trim_start_matches(':').to_ascii_lowercase());
    let property = command.property.as_deref().map(PropertyId::of);
    let asked = property.as_ref().map(PropertyId::longhands);
    let explained = elements.iter().take(shown).map(|&element| {
        let mut outcomes = styles.outcomes(element, pseudo.as_deref());
        if let Some(asked) = asked {
            let is_asked = |SchemeOutcome { outcome, .. }: &SchemeOutcome<'_>| {
                let all = std::iter::once(&outcome.winner).chain(&outcome.losers).chain(&outcome.may_win);
                let mut declared = all.filter_map(|one| one.longhand.as_ref());
                asked.contains(&outcome.property) || declared.any(|one| asked.contains(one))
            };
            outcomes.retain(is_asked);
        }
        let missing = asked.into_iter().flatten().filter(|name| {
            is_inherited(name.name())
                && pseudo.is_none()
                && outcomes.iter().all(|own| own.outcome.property != **name)
        });
        let inherits = missing.filter_map(|name| {
            let (from, outcome) = styles.inherited_from(element, name)?;
            Some(InheritedOutcome { from, address: address(index, from), outcome })
        });
        let inherits = inherits.collect();
        WhyElement { element, address: address(index, element), outcomes, inherits }
    });
    explained.collect()
}

/// The page's styles: in the colour scheme that was said, or as far as they go without, and in both.
struct Styles<'p> {
    said: Cascade<'p>,
    light_and_dark: Option<[Cascade<'p>; 2]>,
}

impl<'p> Styles<'p> {
    fn new(page: &'p PageAnalysis<'p>, sheets: &'p [PageSheet], engine: Engine, command: &Why) -> Self {
        let viewport = viewport(&command.shown);
        let cascade = |viewport: Viewport| {
            let states = command.state.iter().map(|name| name.trim_start_matches(':').to_ascii_lowercase());
            let cascade = Cascade::new(page.document(), sheets, viewport, states.collect());
            cascade.untouched().for_engine(engine)
        };
        let is_open = viewport.scheme.is_none() && sheets.iter().any(PageSheet::asks_for_scheme);
        let of_scheme =
            |scheme: &str| cascade(Viewport { scheme: Some(scheme.to_owned()), ..viewport.clone() });
        let light_and_dark = is_open.then(|| [of_scheme("light"), of_scheme("dark")]);
        Styles { said: cascade(viewport), light_and_dark }
    }

    fn outcomes(&mut self, element: ElementRef<'p>, pseudo: Option<&str>) -> Vec<SchemeOutcome<'p>> {
        let open = self.said.outcomes(element, pseudo);
        let mut by_scheme =
            self.light_and_dark.as_mut().map(|both| both.each_mut().map(|one| one.outcomes(element, pseudo)));
        let apart = open.into_iter().map(|outcome| match &mut by_scheme {
            Some(both) => of_both_schemes(outcome, both),
            None => SchemeOutcome { outcome, dark: None },
        });
        apart.collect()
    }

    fn inherited_from(
        &mut self,
        element: ElementRef<'p>,
        property: &PropertyId,
    ) -> Option<(ElementRef<'p>, SchemeOutcome<'p>)> {
        let (from, outcome) = self.said.inherited_from(element, property)?;
        let both = self.outcomes(from, None).into_iter().find(|own| own.outcome.property == *property);
        Some((from, both.unwrap_or(SchemeOutcome { outcome, dark: None })))
    }
}

/// An outcome that leaves the colour scheme open, told for both where something else wins in each.
fn of_both_schemes<'p>(open: Outcome<'p>, both: &[Vec<Outcome<'p>>; 2]) -> SchemeOutcome<'p> {
    let of = |outcomes: &[Outcome<'p>]| outcomes.iter().find(|own| own.property == open.property).cloned();
    let (Some(light), Some(dark)) = (of(&both[0]), of(&both[1])) else {
        return SchemeOutcome { outcome: open, dark: None };
    };
    let is_sure = [&light, &dark].iter().all(|one| one.winner.matched == Truth::Yes);
    if !is_sure || light.winner.is_same(&dark.winner) {
        return SchemeOutcome { outcome: open, dark: None };
    }
    // What wins in a dark scheme is among what may win, as with every other condition.
    let is_new = |one: &&Applied<'p>| !light.may_win.iter().any(|known| known.is_same(one));
    let of_dark = open.may_win.iter().filter(is_new).filter(|one| !one.is_same(&light.winner)).cloned();
    let may_win = of_dark.chain(light.may_win.iter().cloned()).collect();
    SchemeOutcome { outcome: Outcome { may_win, ..light }, dark: Some(dark.winner) }
}
