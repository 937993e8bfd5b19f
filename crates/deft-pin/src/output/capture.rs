//! What a capture brought, for a person and for programs.

use std::path::Path;

use serde::Serialize;

use super::json::printed;
use super::notes::{ERROR, FAINT, WARNING};
use super::text::{columns, counted, cut, plain};
use crate::capturing::{Captured, Left, LeftWhy};

#[derive(Serialize)]
struct CaptureAnswer<'a> {
    version: u32,
    folder: String,
    pages: usize,
    files: usize,
    kept: usize,
    left: Vec<LeftAnswer<'a>>,
    renamed: Vec<Pair<'a>>,
    redirects: Vec<Pair<'a>>,
    elsewhere: &'a std::collections::BTreeMap<String, usize>,
    beyond: usize,
}

#[derive(Serialize)]
struct LeftAnswer<'a> {
    why: &'static str,
    url: &'a str,
    from: Option<&'a str>,
    message: &'a str,
}

#[derive(Serialize)]
struct Pair<'a> {
    url: &'a str,
    to: &'a str,
}

/// The answer of `capture` for programs.
///
/// # Errors
/// It cannot be written as JSON.
pub fn capture_json(captured: &Captured, folder: &Path) -> serde_json::Result<String> {
    let left = captured.left.iter().map(|own| LeftAnswer {
        why: own.why.name(),
        url: &own.url,
        from: own.from.as_deref(),
        message: &own.message,
    });
    printed(&CaptureAnswer {
        version: 1,
        folder: folder.display().to_string(),
        pages: captured.pages,
        files: captured.files,
        kept: captured.kept,
        left: left.collect(),
        renamed: captured.renamed.iter().map(|(url, to)| Pair { url, to }).collect(),
        redirects: captured.redirects.iter().map(|(url, to)| Pair { url, to }).collect(),
        elsewhere: &captured.elsewhere,
        beyond: captured.beyond,
    })
}

/// The most lines of one kind that are shown.
const MOST: usize = 12;

/// What could not be taken as it is, the worst first.
pub fn captured(captured: &Captured) -> String {
    let mut out = String::new();
    let of = |why: LeftWhy| captured.left.iter().filter(|own| own.why == why).collect::<Vec<&Left>>();
    for (why, head) in [
        (LeftWhy::Login, "wants a login"),
        (LeftWhy::Problem, "could not be had"),
        (LeftWhy::Missing, "not there"),
        (LeftWhy::Robots, "left alone by robots.txt"),
    ] {
        let list = of(why);
        let style = if why == LeftWhy::Robots { WARNING } else { ERROR };
        let rows = list.iter().map(|own| {
            let from = own.from.as_deref().map(|from| format!("  from {from}")).unwrap_or_default();
            let message = match why {
                LeftWhy::Robots => String::new(),
                _ => format!("  {}", own.message),
            };
            format!("{}{message}{from}", own.url)
        });
        out.push_str(&section(&format!("{style}{head}{style:#}"), list.len(), rows.collect()));
    }
    let pairs = |list: &[(String, String)]| list.iter().map(|(url, to)| format!("{url}  {to}")).collect();
    let renamed = pairs(&captured.renamed);
    out.push_str(&section(
        "pages under another name: addresses that no file can have",
        captured.renamed.len(),
        renamed,
    ));
    let others =
        captured.elsewhere.iter().map(|(host, count)| format!("{host}  {}", counted(*count, "time")));
    out.push_str(&section(
        "on other servers, and not taken: how often pages load from them",
        captured.elsewhere.len(),
        others.collect(),
    ));
    if captured.beyond > 0 {
        let pages = counted(captured.beyond, "page");
        out.push_str(&format!(
            "{pages} beyond the limits: --pages and --depth say how far links are followed\n"
        ));
    }
    out
}

fn section(head: &str, count: usize, rows: Vec<String>) -> String {
    if count == 0 {
        return String::new();
    }
    let mut out = format!("{head} ({count})\n");
    for row in rows.iter().take(MOST) {
        out.push_str(&format!("  {}\n", cut(&plain(row), columns().saturating_sub(2))));
    }
    if count > MOST {
        out.push_str(&format!("  {FAINT}{} more: --format json has all{FAINT:#}\n", count - MOST));
    }
    out
}
