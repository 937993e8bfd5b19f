//! `history`: the releases, and what each changed.

use anyhow::{Result, bail};

use crate::arguments::{Common, Format, History};
use crate::exit::Exit;
use crate::output::{self, Notes};
use crate::project::Project;
use crate::publishing::{SinceLast, kept_files};
use crate::releases::{PinChanges, Store, differences};

/// Shows releases.
pub fn run(common: &Common, command: &History) -> Result<Exit> {
    let project = Project::of_board(&common.board, Notes::of(common))?;
    let store = Store::beside(project.folder.root(), &project.board_file);
    if let Some([before, after]) = command.diff.as_deref().and_then(|own| <&[u32; 2]>::try_from(own).ok()) {
        let (before, after) = (store.get(*before)?, store.get(*after)?);
        let since = SinceLast {
            pins: PinChanges::between(&before.pins, &after.pins),
            files: differences(&kept_files(&store, &before)?, &kept_files(&store, &after)?),
            last: Some(before),
        };
        output::print(&match command.format {
            Format::Json => output::difference_json(&since, after.release)?,
            Format::Text => output::since_last(&since),
        })?;
        return Ok(Exit::Good);
    }
    let releases = match command.release {
        Some(number) => vec![store.get(number)?],
        None => store.all()?,
    };
    if releases.is_empty() && command.format == Format::Text {
        bail!("nothing has been published yet: `deft-pin publish` makes the first release");
    }
    output::print(&match (command.format, command.release) {
        (Format::Json, _) => output::history_json(&releases)?,
        (Format::Text, Some(_)) => releases.iter().map(output::release).collect(),
        (Format::Text, None) => output::history(&releases),
    })?;
    Ok(Exit::Good)
}
