//! What checking and building a tree of pages costs, held against the bare parse of the same files:
//! html5gum's tokens and html5ever's tree builder, on the same threads.
//!
//! `cargo bench` makes a tree of a few thousand pages at Sorrel Sound Ferries; `DEFT_PIN_TREE=DIR`
//! takes another folder that holds a board and its site. The runs of the three are taken in turns,
//! and the ratios are those of the medians.

use std::fs;
use std::hint::black_box;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::{Duration, Instant};

use deft_pin_core::markup::parse;
use rayon::prelude::*;

/// Pages and turns of a bench, and of a test that only sees whether it runs.
const BENCH: (usize, usize) = (4000, 7);
const TEST: (usize, usize) = (60, 1);

fn main() {
    // Cargo says so where it is a bench.
    let (count, turns) = if std::env::args().any(|argument| argument == "--bench") { BENCH } else { TEST };
    let made = tempfile::tempdir().expect("a folder for the tree");
    let given = std::env::var_os("DEFT_PIN_TREE").map(PathBuf::from);
    let tree = given.unwrap_or_else(|| {
        make_tree(made.path(), count).expect("the tree can be written");
        made.path().to_owned()
    });
    let out = tempfile::tempdir().expect("a folder for the copy");
    let mut pages = Vec::new();
    find_pages(&tree.join("site"), &mut pages);
    let bytes: u64 = pages.iter().filter_map(|page| fs::metadata(page).ok()).map(|page| page.len()).sum();
    println!("{} pages, {:.1} MB, {} threads", pages.len(), bytes as f64 / 1e6, rayon::current_num_threads());
    let board = tree.join("deft-pin.toml");
    let copy = out.path().join("copy");
    let mut times: [Vec<Duration>; 4] = Default::default();
    for _ in 0..turns {
        times[0].push(timed(|| bare_parse(&pages)));
        times[1].push(timed(|| bare_parse_and_copy(&pages, &out.path().join("bare"))));
        times[2].push(timed(|| run(&["check", "--board"], &board, None)));
        times[3].push(timed(|| run(&["build", "--anyway", "--board"], &board, Some(&copy))));
    }
    let medians = times.map(|mut row| {
        row.sort();
        row[row.len() / 2]
    });
    let names = ["bare parse", "bare parse, and every file written", "check: all but the writing", "build"];
    for (name, median) in names.iter().zip(medians) {
        let ratio = median.as_secs_f64() / medians[0].as_secs_f64();
        println!("{name:<36} {:>8.1} ms   {ratio:.2} times the bare parse", median.as_secs_f64() * 1e3);
    }
}

fn timed(work: impl FnOnce()) -> Duration {
    let started = Instant::now();
    work();
    started.elapsed()
}

fn bare_parse(pages: &[PathBuf]) {
    pages.par_iter().for_each(|page| {
        let bytes = fs::read(page).unwrap_or_default();
        black_box(parse(&bytes));
    });
}

/// The bare parse with the copying that a build has to do besides: what no build can be below.
fn bare_parse_and_copy(pages: &[PathBuf], into: &Path) {
    fs::create_dir_all(into).expect("a folder for copies");
    pages.par_iter().enumerate().for_each(|(at, page)| {
        let bytes = fs::read(page).unwrap_or_default();
        black_box(parse(&bytes));
        fs::write(into.join(at.to_string()), bytes).expect("a copy");
    });
    fs::remove_dir_all(into).expect("the copies can go");
}

fn run(arguments: &[&str], board: &Path, out: Option<&Path>) {
    let mut command = Command::new(env!("CARGO_BIN_EXE_deft-pin"));
    command.args(arguments).arg(board).arg("-q").stdout(Stdio::null()).stderr(Stdio::null());
    if let Some(out) = out {
        command.arg("--out").arg(out);
    }
    command.status().expect("the program runs");
}

fn find_pages(folder: &Path, pages: &mut Vec<PathBuf>) {
    let mut entries: Vec<_> =
        fs::read_dir(folder).into_iter().flatten().flatten().map(|e| e.path()).collect();
    entries.sort();
    for path in entries {
        // A folder behind a link is there a second time.
        if path.is_symlink() {
            continue;
        }
        if path.is_dir() {
            find_pages(&path, pages);
        } else if path.extension().is_some_and(|e| e == "html" || e == "htm") {
            pages.push(path);
        }
    }
}

/// The demo's pages again and again, with its own pins, on as many paths.
fn make_tree(into: &Path, count: usize) -> std::io::Result<()> {
    let demo = Path::new(env!("CARGO_MANIFEST_DIR")).join("demo");
    let mut pages = Vec::new();
    find_pages(&demo.join("site"), &mut pages);
    for at in 0..count {
        let page = &pages[at % pages.len()];
        let text = fs::read_to_string(page)?;
        // Pages of a journal are long: the main part is there several times over.
        let start = text.find("<section").unwrap_or(0);
        let end = text.rfind("</section>").map_or(0, |end| end + 10);
        let longer = format!("{}{}{}", &text[..start], text[start..end].repeat(1 + at % 8), &text[end..]);
        let folder = into
            .join("site")
            .join(["piers", "journal", "timetable", "fares"][at % 4])
            .join(format!("{:02}", at % 97));
        fs::create_dir_all(&folder)?;
        fs::write(folder.join(format!("p{at}.html")), longer)?;
    }
    let pins = [
        ("front", "having = '.hero'"),
        ("storm-notice", "having = '#status'\nwithin = '#status'"),
        ("fares", "having = '#fare-table'\nwithin = '#fare-table'"),
        ("tide-chart", "pages = ['/piers/*']\nhaving = '#tides'\nwithin = '#tides'"),
        ("gallery", "pages = ['/piers/*']\nhaving = '.gallery'\nwithin = '.section.gallery'"),
        ("reading", "pages = ['/journal/*']\nhaving = '.entry-body'"),
        ("contact", "having = '.contact-form'\nwithin = '.contact-form'"),
        ("night", ""),
    ];
    let mut board = String::from("[site]\nroot = 'site'\n");
    fs::create_dir_all(into.join("pins"))?;
    for (name, keys) in pins {
        let style = format!("pins/{name}.css");
        fs::copy(demo.join(&style), into.join(&style))?;
        board.push_str(&format!("[pin.{name}]\nstyle = '{style}'\n{keys}\n"));
    }
    fs::copy(demo.join("pins/waves.svg"), into.join("pins/waves.svg"))?;
    fs::write(into.join("deft-pin.toml"), board)
}
