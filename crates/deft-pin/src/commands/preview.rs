//! `preview`: the site with its pins, to look at while one works.

use std::sync::Arc;

use anyhow::{Context as _, Result};
use deft_pin_core::code::encode_path;

use crate::arguments::{Common, Preview as Asked};
use crate::building::check_folder;
use crate::exit::Exit;
use crate::output::{self, Notes};
use crate::preview::{Generation, Making, PinChoice, Preview, Showing, Upstream, Watching, bind};
use crate::project::Project;

/// Serves a preview until it is stopped.
pub fn run(common: &Common, command: &Asked) -> Result<Exit> {
    let notes = Notes::of(common);
    let project = Project::open(common, &command.place)?;
    check_folder(&project, &command.folder)?;
    if command.pasted {
        project.require_boxes()?;
    }
    let upstream = command.of.as_deref().map(Upstream::new).transpose()?;
    let page = match (&command.page, &upstream) {
        (None, _) => None,
        (Some(page), Some(_)) => Some(format!("/{}", page.trim_start_matches('/'))),
        (Some(page), None) => Some(project.site.pages[project.find(page)?].path.to_string()),
    };
    let making = Making { folder: command.folder.clone(), is_pasted: command.pasted };
    let showing = Showing {
        making: making.clone(),
        is_plain: command.plain,
        is_still: false,
        is_quiet: common.quiet,
        choice: PinChoice::All,
    };
    let first = Generation::start(project, making)?;
    let preview = Preview::new(Arc::new(first), showing, upstream);
    let runtime = tokio::runtime::Builder::new_multi_thread()
        .enable_all()
        .build()
        .context("the server cannot be started")?;
    runtime.block_on(async {
        let server = bind(command.port)?;
        let origin = server.origin();
        let page = page.map(|page| format!("#{}", encode_path(&page))).unwrap_or_default();
        let address = format!("{origin}/{}/{page}", command.folder);
        output::print(&format!("{address}\n"))?;
        notes.note(&format!(
            "the frame page is at this address, the pages themselves are at {origin}/; Ctrl-C ends it"
        ));
        let (own, place) = (common.clone(), command.place.clone());
        let watching = Watching {
            preview: Arc::clone(&preview),
            reopen: Arc::new(move || Project::open(&own, &place)),
            notes,
        };
        if let Err(error) = watching.start() {
            notes.note(&format!("{}: pages do not load again by themselves", output::reasons(&error)));
        }
        if command.open && open::that_detached(&address).is_err() {
            notes.note("no browser could be opened: open the address above");
        }
        tokio::select! {
            () = server.serve(preview) => {}
            _ = tokio::signal::ctrl_c() => {}
        }
        Ok::<(), anyhow::Error>(())
    })?;
    Ok(Exit::Good)
}
