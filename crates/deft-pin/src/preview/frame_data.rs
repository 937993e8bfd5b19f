//! What the frame page asks for.

use deft_pin_core::check::Finding;
use serde::Serialize;

/// What the frame page has to know before it shows anything.
#[derive(Debug, Serialize)]
pub struct FrameSite {
    /// The board's file, or the folder.
    pub name: String,
    /// The pages by their paths.
    pub pages: Vec<FramePageName>,
    /// Whether pages are shown as the host would serve them.
    pub pasted: bool,
    /// Whether pages are left without the script that reloads them.
    pub plain: bool,
    /// The running server that pages come from.
    pub of: Option<String>,
    /// Why the board cannot be used as it is now.
    pub trouble: Option<String>,
    /// Which reading of the board this is.
    pub number: u64,
}

/// A page in the list.
#[derive(Debug, Serialize)]
pub struct FramePageName {
    /// Its path.
    pub path: String,
    /// How many pins are for it.
    pub pins: usize,
}

/// One page with its pins.
#[derive(Debug, Default, Serialize)]
pub struct FramePage {
    /// Its path.
    pub page: String,
    /// Its pins.
    pub pins: Vec<FramePin>,
    /// What a check found on it; none as long as it has not ended.
    pub findings: Option<Vec<FrameFinding>>,
    /// What of the server's policy was loosened.
    pub policy: Vec<String>,
}

/// A pin on a page.
#[derive(Debug, Serialize)]
pub struct FramePin {
    /// Its name.
    pub name: String,
    /// Its target: the selector of its section or element, or nothing for the page.
    pub within: Option<String>,
    /// What it holds: style, script, markup, marks.
    pub holds: Vec<&'static str>,
    /// Whether it is off on the board.
    pub off: bool,
    /// Whether the page holds what it asks for.
    pub here: bool,
    /// Selectors of what it touches.
    pub touched: Vec<String>,
}

/// A finding.
#[derive(Debug, Serialize)]
pub struct FrameFinding {
    /// Its severity.
    pub severity: &'static str,
    /// Its code.
    pub code: &'static str,
    /// The pin that it is about.
    pub pin: Option<String>,
    /// What is wrong.
    pub message: String,
    /// What to do.
    pub help: Option<String>,
    /// Where: file, line and column.
    pub place: String,
}

impl FrameFinding {
    /// A finding as the frame page shows it.
    pub fn of(finding: &Finding) -> Self {
        FrameFinding {
            severity: finding.severity.name(),
            code: finding.code.name(),
            pin: finding.pin.clone(),
            message: finding.message.clone(),
            help: finding.help.clone(),
            place: format!(
                "{}:{}:{}",
                finding.place.file, finding.place.start.line, finding.place.start.column
            ),
        }
    }
}
