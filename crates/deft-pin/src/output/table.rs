//! Rows in columns that line up, for a terminal.

use anstyle::Style;
use comfy_table::{Cell, CellAlignment, ContentArrangement, Table, presets};

use super::notes::FAINT;

/// A cell: its text, which fits, and its colour.
pub struct Styled(pub String, pub Style);

impl Styled {
    /// A cell in the terminal's own colour.
    pub fn plain(text: impl Into<String>) -> Self {
        Styled(text.into(), Style::new())
    }

    /// A cell that may be passed over.
    pub fn faint(text: impl Into<String>) -> Self {
        Styled(text.into(), FAINT)
    }
}

/// Rows below a head, each column as wide as its widest cell. `numbers` are the columns that are
/// aligned on the right.
pub fn table(head: &[&str], numbers: &[usize], rows: Vec<Vec<Styled>>) -> String {
    let mut table = Table::new();
    table.load_style(presets::NOTHING).set_content_arrangement(ContentArrangement::Disabled);
    let head = head.iter().map(|name| format!("{FAINT}{name}{FAINT:#}"));
    table.set_header(head);
    for row in rows {
        let cells = row.into_iter().map(|Styled(text, style)| Cell::new(format!("{style}{text}{style:#}")));
        table.add_row(cells);
    }
    for column in table.column_iter_mut() {
        column.set_padding((0, 2));
        if numbers.contains(&column.index) {
            column.set_cell_alignment(CellAlignment::Right);
        }
    }
    let lines = table.lines().map(|line| format!("{}\n", line.trim_end()));
    lines.collect()
}
