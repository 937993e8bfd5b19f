//! What working on a tree of pages costs, held against the bare parse of the same files: our own
//! adapter of html5gum and html5ever, and nothing else.
//!
//! `cargo bench` makes a tree of a few thousand pages at Sorrel Sound Ferries; `DEFT_PIN_TREE=DIR`
//! takes another folder, whose pages are in `DIR/site` (boards are written beside it, and taken away
//! again), and `DEFT_PIN_WORDS` what to look for there. All runs are programs of their own and take
//! turns; what is compared is their CPU time, by the medians, and what is told is the most memory
//! that each took.

use std::fs;
use std::hint::black_box;
use std::path::{Path, PathBuf};
use std::process::{Command, Stdio};
use std::time::Duration;

use deft_pin_core::markup::parse;
use rayon::prelude::*;

/// Pages and turns of a bench, and of a test that only sees whether it runs.
const BENCH: (usize, usize) = (4000, 7);
const TEST: (usize, usize) = (60, 1);

/// The sheets of the three rows of `check`: how many elements a pin touches.
const SHEETS: [(&str, &str); 3] = [
    ("narrow", "body { outline-color: teal }"),
    ("links", "a:hover { color: #0d5c75 }"),
    (
        "broad",
        "a { color: #0d5c75 } li { margin-left: 2px } div { outline-color: red } p { line-height: 1.5 }\
         td { padding: 3px } span { letter-spacing: 1px } ul { list-style: square } code { font-size: 90% }\
         th { text-align: left } table { border-collapse: collapse }",
    ),
];

/// Says to this program that it is to parse the pages of a folder and no more.
const PARSE_ONLY: &str = "DEFT_PIN_PARSE_ONLY";

fn main() {
    if let Some(site) = std::env::var_os(PARSE_ONLY) {
        return bare_parse(Path::new(&site));
    }
    // Cargo says so where it is a bench.
    let (count, turns) = if std::env::args().any(|argument| argument == "--bench") { BENCH } else { TEST };
    let made = tempfile::tempdir().expect("a folder for the tree");
    let given = std::env::var_os("DEFT_PIN_TREE").map(PathBuf::from);
    let tree = given.unwrap_or_else(|| {
        make_tree(made.path(), count).expect("the tree can be written");
        made.path().to_owned()
    });
    let site = tree.join("site");
    let words = std::env::var("DEFT_PIN_WORDS").unwrap_or_else(|_| "Sailing today".to_owned());
    let boards = Boards::write(&tree).expect("the boards can be written");
    let mut rows = vec![(("bare parse".to_owned()), this_program(&site))];
    for (name, board) in &boards.0 {
        let mut command = program(&["check", "--board"]);
        command.arg(board);
        rows.push((format!("check, {name}"), command));
    }
    for (name, arguments) in [("survey", vec!["survey", "--site"]), ("locate", vec!["locate", "--site"])] {
        let mut command = program(&arguments);
        command.arg(&site);
        if name == "locate" {
            command.arg("--text").arg(&words);
        }
        rows.push((name.to_owned(), command));
    }
    let mut runs: Vec<Vec<Used>> = rows.iter().map(|_| Vec::new()).collect();
    for _ in 0..turns {
        for ((_, command), runs) in rows.iter_mut().zip(&mut runs) {
            runs.push(used(command));
        }
    }
    let mut pages = Vec::new();
    find_pages(&site, &mut pages);
    let bytes: u64 = pages.iter().filter_map(|page| fs::metadata(page).ok()).map(|page| page.len()).sum();
    println!("{} pages, {:.1} MB, {} threads", pages.len(), bytes as f64 / 1e6, rayon::current_num_threads());
    let median = |runs: &[Used]| {
        let mut all: Vec<Duration> = runs.iter().map(|run| run.time).collect();
        all.sort();
        all[all.len() / 2].as_secs_f64()
    };
    let bare = median(&runs[0]);
    for ((name, _), runs) in rows.iter().zip(&runs) {
        let most = runs.iter().map(|run| run.memory).max().unwrap_or_default();
        let time = median(runs);
        println!(
            "{name:<16} {:>7.2} s of CPU, {:.2} times the bare parse, {:>5} MB",
            time,
            time / bare.max(0.001),
            most / 1024
        );
    }
}

/// What a run used.
struct Used {
    /// CPU time, of all threads.
    time: Duration,
    /// The most memory, in KiB.
    memory: u64,
}

/// Runs a program to its end.
fn used(command: &mut Command) -> Used {
    let before = cpu_time_of_children();
    let mut child = command.stdout(Stdio::null()).stderr(Stdio::null()).spawn().expect("the program runs");
    let mut memory = 0;
    while child.try_wait().expect("the program can be asked").is_none() {
        let status = fs::read_to_string(format!("/proc/{}/status", child.id())).unwrap_or_default();
        let most = status.lines().find_map(|line| line.strip_prefix("VmHWM:"));
        let most = most.and_then(|size| size.trim().trim_end_matches(" kB").parse().ok());
        memory = memory.max(most.unwrap_or(0));
        std::thread::sleep(Duration::from_millis(5));
    }
    Used { time: cpu_time_of_children().saturating_sub(before), memory }
}

/// The CPU time of all children that have ended (`proc_pid_stat(5)`, fields 16 and 17), in steps of
/// 10 ms.
fn cpu_time_of_children() -> Duration {
    let stat = fs::read_to_string("/proc/self/stat").unwrap_or_default();
    let fields = stat.rsplit_once(')').map_or("", |(_, fields)| fields);
    let ticks =
        fields.split_ascii_whitespace().skip(13).take(2).filter_map(|field| field.parse::<u64>().ok());
    Duration::from_millis(10 * ticks.sum::<u64>())
}

fn program(arguments: &[&str]) -> Command {
    let mut command = Command::new(env!("CARGO_BIN_EXE_deft-pin"));
    command.arg("-q").args(arguments);
    command
}

fn this_program(site: &Path) -> Command {
    let mut command = Command::new(std::env::current_exe().expect("this program has a name"));
    command.env(PARSE_ONLY, site);
    command
}

fn bare_parse(site: &Path) {
    let mut pages = Vec::new();
    find_pages(site, &mut pages);
    pages.par_iter().for_each(|page| {
        let bytes = fs::read(page).unwrap_or_default();
        black_box(parse(&bytes));
    });
}

/// The boards of the rows, gone with this value.
struct Boards(Vec<(&'static str, PathBuf)>);

impl Boards {
    fn write(tree: &Path) -> std::io::Result<Self> {
        let mut boards = Boards(Vec::new());
        for (name, css) in SHEETS {
            let board = tree.join(format!("bench-{name}.toml"));
            fs::write(board.with_extension("css"), css)?;
            let text = format!("[site]\nroot = 'site'\n[pin.{name}]\nstyle = 'bench-{name}.css'\n");
            fs::write(&board, text)?;
            boards.0.push((name, board));
        }
        Ok(boards)
    }
}

impl Drop for Boards {
    fn drop(&mut self) {
        for (_, board) in &self.0 {
            drop(fs::remove_file(board));
            drop(fs::remove_file(board.with_extension("css")));
        }
    }
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

/// The demo's pages again and again, on as many paths.
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
    Ok(())
}
