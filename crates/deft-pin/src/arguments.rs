//! The command line: every command and option, with help written for a person.
//!
//! It is long since each option stands here with its help: this is where wording is changed.

use std::path::PathBuf;

use clap::{Args, Parser, Subcommand, ValueEnum, ValueHint};
use deft_pin_core::check::Severity;
use deft_pin_core::source::Day;

/// Scopes custom CSS and JavaScript to chosen pages, sections and elements of a site that some
/// other system renders, and says before anything is published where each of them lands.
#[derive(Debug, Parser)]
#[command(
    version,
    about,
    max_term_width = 100,
    after_help = "\
Try it:
  deft-pin demo                 the whole way on a made-up ferry line's site
  deft-pin survey --site site   the pages of a folder, and how to tell them apart
  deft-pin init site            a starter board for your own folder of pages
  deft-pin check                everything there is to say about the board
  deft-pin preview --open       the site with its pins, to look at while you work
  deft-pin compare              before and after, in Chromium, at several widths
  deft-pin build --out out      a customised copy of the site
  deft-pin paste                or what to paste where, on a host that takes no files

Exit status: 0 all is well, 1 there are findings (see --fail-on), 2 it could not run."
)]
pub struct Arguments {
    /// What to do.
    #[command(subcommand)]
    pub command: Command,
    /// Options of every command.
    #[command(flatten)]
    pub common: Common,
}

/// Options of every command.
#[derive(Clone, Debug, Args)]
pub struct Common {
    /// The board to work with.
    #[arg(long, global = true, value_name = "FILE", default_value = "deft-pin.toml", value_hint = ValueHint::FilePath)]
    pub board: PathBuf,
    /// When to use colours. NO_COLOR in the environment switches them off too.
    #[arg(long, global = true, value_name = "WHEN", default_value = "auto")]
    pub color: Color,
    /// The day that dates are held against; today by itself.
    #[arg(long, global = true, value_name = "DATE")]
    pub today: Option<Day>,
    /// Say nothing but the answer.
    #[arg(short, long, global = true)]
    pub quiet: bool,
    /// Say more of what is going on; twice for all of it.
    #[arg(short, long, global = true, action = clap::ArgAction::Count)]
    pub verbose: u8,
}

/// When to use colours.
#[derive(Clone, Copy, Debug, ValueEnum)]
pub enum Color {
    /// When a terminal shows them.
    Auto,
    /// Always.
    Always,
    /// Never.
    Never,
}

/// What an answer looks like.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub enum Format {
    /// For a person.
    #[default]
    Text,
    /// For a program.
    Json,
}

/// What the answer of `check` looks like.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, ValueEnum)]
pub enum CheckFormat {
    /// For a person.
    #[default]
    Text,
    /// For a program.
    Json,
    /// For code hosts and editors: SARIF 2.1.0.
    Sarif,
}

/// The commands.
#[derive(Debug, Subcommand)]
pub enum Command {
    /// Unpacks a demo site and goes the whole way on it.
    Demo(Demo),
    /// Writes a starter board for a folder of pages.
    Init(Init),
    /// Shows the pages of a site, or the sections and IDs of one page.
    Survey(Survey),
    /// Finds an element, and a selector for it that is likely to last.
    Locate(Locate),
    /// Gives the look of an element as a class of your own.
    Lift(Lift),
    /// Shows which pages and elements each pin touches.
    Reach(Reach),
    /// Says who wins a property of an element, and by which step of the cascade.
    Why(Why),
    /// Draws the timeline of a page: which scripts and sheets come when, and what holds or does not.
    Order(Order),
    /// Says where every customisation lands, and what is wrong with it.
    Check(Check),
    /// Writes a customised copy of the site.
    Build(Build),
    /// Writes what to paste where, for a host that takes pieces in boxes.
    Paste(Paste),
    /// Serves the site with its pins on this machine, in a frame that shows it at several widths.
    Preview(Preview),
    /// Compares pages without and with their pins, in Chromium, at several widths.
    Compare(Compare),
    /// Checks, builds or pastes up, and keeps what was published as a release.
    Publish(Publish),
    /// Shows the releases, and what each changed.
    History(History),
    /// Puts an earlier release back, as a new one.
    Undo(Undo),
    /// Holds the pages of a live site against the last release.
    Probe(Probe),
    /// Takes a site from a server or an archive into a folder.
    Capture(Capture),
    /// Prints a shell's completions for these commands.
    Completions(Completions),
}

/// `demo`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin demo                 into the folder deft-pin-demo
  deft-pin demo /tmp/ferries    into another one")]
pub struct Demo {
    /// The folder to unpack it into; made where it is missing.
    #[arg(value_name = "DIR", default_value = "deft-pin-demo", value_hint = ValueHint::DirPath)]
    pub dir: PathBuf,
}

/// `init`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin init site                          writes deft-pin.toml beside the folder site
  deft-pin init site --board boards/a.toml    is refused: a board lies beside or above its site")]
pub struct Init {
    /// The folder of rendered pages, beside the board or below it.
    #[arg(value_name = "SITE", value_hint = ValueHint::DirPath)]
    pub site: PathBuf,
}

/// Which site to look at.
#[derive(Clone, Debug, Args)]
pub struct Where {
    /// A folder of pages to look at as it stands, with no board.
    #[arg(long, value_name = "DIR", conflicts_with = "board", value_hint = ValueHint::DirPath)]
    pub site: Option<PathBuf>,
}

/// `survey`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin survey                        the pages of the board's site
  deft-pin survey --site site            the pages of a folder, with no board
  deft-pin survey /timetable/ --ids      one page: its sections, and the IDs in each
  deft-pin survey --section '.block'     where the site has its own kind of sections")]
pub struct Survey {
    /// The page, by its path or its file. Without it, all pages.
    #[arg(value_name = "PAGE")]
    pub page: Option<String>,
    /// Which site.
    #[command(flatten)]
    pub place: Where,
    /// What counts as a section: a selector. The board may say it too.
    #[arg(long, value_name = "SELECTOR")]
    pub section: Option<String>,
    /// Names the IDs in each section too.
    #[arg(long)]
    pub ids: bool,
    /// Shows every row, however many there are.
    #[arg(long)]
    pub all: bool,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// `locate`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin locate 'Sailing today'                   by the text that a visitor sees
  deft-pin locate status                            by ID, class or kind of element
  deft-pin locate 'main > section:nth-child(2)'     by a selector from the inspector
  deft-pin locate 'Adults' --page /fares/ --copy    only the best selector, for use in a shell")]
pub struct Locate {
    /// Words on the page, an ID, a class, or a selector.
    #[arg(value_name = "WORDS-OR-SELECTOR")]
    pub wanted: String,
    /// Which site.
    #[command(flatten)]
    pub place: Where,
    /// Looks on this page alone, given by its path or its file.
    #[arg(long, value_name = "PAGE")]
    pub page: Option<String>,
    /// Takes it for words, whatever it looks like.
    #[arg(long, conflicts_with = "selector")]
    pub text: bool,
    /// Takes it for a selector, whatever it looks like.
    #[arg(long)]
    pub selector: bool,
    /// Prints only the best selector for the first element found.
    #[arg(long, conflicts_with = "format")]
    pub copy: bool,
    /// Shows every element that is found, however many there are.
    #[arg(long)]
    pub all: bool,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// `lift`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin lift / .button --as call                    prints the rules
  deft-pin lift / .button --as call --out pins/call.css
  deft-pin lift /fares/ 'table' --as rates --resolve   with custom properties put in by value")]
pub struct Lift {
    /// The page, by its path or its file.
    #[arg(value_name = "PAGE")]
    pub page: String,
    /// The element; of several that match, the first.
    #[arg(value_name = "SELECTOR")]
    pub selector: String,
    /// The name of the class.
    #[arg(long = "as", value_name = "NAME")]
    pub name: String,
    /// Which site.
    #[command(flatten)]
    pub place: Where,
    /// Puts custom properties in by value instead of carrying them along.
    #[arg(long)]
    pub resolve: bool,
    /// Takes what the element inherits too.
    #[arg(long)]
    pub inherited: bool,
    /// The file to write; one that is there is left alone. Without it the rules are printed, and
    /// their addresses are relative to the board's folder, or to this one with --site.
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub out: Option<PathBuf>,
}

/// `reach`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin reach                         every pin: its pages, and what its rules match there
  deft-pin reach storm-notice            one pin
  deft-pin reach --format json | jq '.pins[].pages[].page'")]
pub struct Reach {
    /// The pin. Without it, all pins.
    #[arg(value_name = "PIN")]
    pub pin: Option<String>,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// `order`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin order /timetable/                  what runs when on a page, with the board's pins
  deft-pin order / --site site                the page as it stands, without any board
  deft-pin order / --format json | jq '.steps[] | [.id, .how, .file]'")]
pub struct Order {
    /// The page: its path, such as `/timetable/`.
    #[arg(value_name = "PAGE")]
    pub page: String,
    #[command(flatten)]
    pub place: Where,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
    /// Writes the timeline as a picture besides, for a report: an SVG file.
    #[arg(long, value_name = "FILE")]
    pub svg: Option<PathBuf>,
}

/// What is known of where a page is shown.
#[derive(Clone, Debug, Args)]
pub struct Shown {
    /// The width of the viewport, in CSS pixels. What depends on it is left open without.
    #[arg(long, value_name = "PIXELS")]
    pub width: Option<f64>,
    /// The height of the viewport, in CSS pixels.
    #[arg(long, value_name = "PIXELS")]
    pub height: Option<f64>,
    /// The kind of medium.
    #[arg(long, value_name = "TYPE", default_value = "screen", value_parser = ["screen", "print"])]
    pub media: String,
    /// The colour scheme that the visitor prefers.
    #[arg(long, value_name = "SCHEME", value_parser = ["light", "dark"])]
    pub scheme: Option<String>,
}

/// `why`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin why /fares/ '#fare-table td' color          who sets the colour, and who does not get to
  deft-pin why / h1 --width 390                        everything that is set on it, on a phone
  deft-pin why / '.button' background --state hover    while the pointer is over it
  deft-pin why / '.card' width --engine safari         in another browser than Chromium and those made from it
  deft-pin why / '*' --format json --width 1280 --height 800")]
pub struct Why {
    /// The page, by its path or its file.
    #[arg(value_name = "PAGE")]
    pub page: String,
    /// The elements.
    #[arg(value_name = "SELECTOR")]
    pub selector: String,
    /// The property; a shorthand stands for its longhands. Without it, everything that is set.
    #[arg(value_name = "PROPERTY")]
    pub property: Option<String>,
    /// Which site.
    #[command(flatten)]
    pub place: Where,
    /// Where the page is shown.
    #[command(flatten)]
    pub shown: Shown,
    /// A state that the elements are in: hover, focus, active, checked.
    #[arg(long, value_name = "NAME", value_delimiter = ',')]
    pub state: Vec<String>,
    /// The engine that answers: what it drops takes no part.
    #[arg(long, value_name = "NAME", default_value = "chromium", value_parser = ["chromium", "firefox", "safari"])]
    pub engine: String,
    /// A pseudo-element of the elements: before, after.
    #[arg(long, value_name = "NAME")]
    pub pseudo: Option<String>,
    /// Shows every element that matches, however many there are.
    #[arg(long)]
    pub all: bool,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// What counts as a failure.
#[derive(Debug, Args)]
pub struct FailOn {
    /// The least severity that makes the exit status 1.
    #[arg(long, value_name = "SEVERITY", default_value = "error", value_parser = ["note", "warning", "error"])]
    fail_on: String,
}

impl From<Severity> for FailOn {
    fn from(severity: Severity) -> Self {
        FailOn { fail_on: severity.name().to_owned() }
    }
}

impl FailOn {
    /// The severity that was chosen.
    pub fn severity(&self) -> Severity {
        self.fail_on.parse().unwrap_or(Severity::Error)
    }
}

/// `check`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin check                                the board in this folder
  deft-pin check storm-notice fares             these pins alone, and the libraries that they need
  deft-pin check --fail-on warning              exit status 1 for warnings too
  deft-pin check --format json | jq '.findings[].code'")]
pub struct Check {
    /// The pins to look at. Without it, all of them.
    #[arg(value_name = "PIN")]
    pub pins: Vec<String>,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: CheckFormat,
    /// What counts as a failure.
    #[command(flatten)]
    pub fail_on: FailOn,
    /// Tells every finding, however many of one kind there are in a file.
    #[arg(long)]
    pub all: bool,
}

/// `build`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin build --out out                  files for the pins in out/_pins/, linked from the pages
  deft-pin build --out out --inline         the pins' code in the pages themselves
  deft-pin build --out out --anyway         even if check finds errors")]
pub struct Build {
    /// The folder to write the customised copy to. One that an earlier build wrote is replaced;
    /// any other is left alone.
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub out: PathBuf,
    /// Puts the code into the pages instead of linking files, wherever it can stand in a page
    /// without changing what it means.
    #[arg(long)]
    pub inline: bool,
    /// The folder of the copy that the linked files go to.
    #[arg(long, value_name = "NAME", default_value = "_pins")]
    pub folder: String,
    /// Adds `integrity` to what links a library's local files. Browsers then refuse these files
    /// in a folder that is opened without a server.
    #[arg(long)]
    pub integrity: bool,
    /// Writes the copy even if there are findings that count as a failure, and ends with 0 then.
    #[arg(long)]
    pub anyway: bool,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
    /// What counts as a failure.
    #[command(flatten)]
    pub fail_on: FailOn,
    /// Tells every finding, however many of one kind there are in a file.
    #[arg(long)]
    pub all: bool,
}

impl Build {
    /// A build into a folder, with nothing else said.
    pub fn of(out: PathBuf) -> Self {
        Build {
            out,
            inline: false,
            folder: "_pins".to_owned(),
            integrity: false,
            anyway: false,
            format: Format::Text,
            fail_on: FailOn { fail_on: "error".to_owned() },
            all: false,
        }
    }
}

/// `paste`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin paste                             into the folder paste-up; open paste-up/paste.html
  deft-pin paste --out drafts/paste-up       into another one
  deft-pin paste --short                     without comments and blanks, where a box takes little
  deft-pin paste --format json | jq '.pieces[] | select(.change != \"same\") | .file'

The board says under [host] which boxes there are: `kind = \"page-slots\"`, and its other keys.")]
pub struct Paste {
    /// The folder to write the paste-up to. One that an earlier paste-up wrote is replaced, and what changed since
    /// then is shown; any other is left alone.
    #[arg(long, value_name = "DIR", default_value = "paste-up", value_hint = ValueHint::DirPath)]
    pub out: PathBuf,
    /// Takes comments, and blanks that only people need, out of the code in the pieces.
    #[arg(long)]
    pub short: bool,
    /// Writes it even if there are findings that count as a failure, and ends with 0 then.
    #[arg(long)]
    pub anyway: bool,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
    /// What counts as a failure.
    #[command(flatten)]
    pub fail_on: FailOn,
    /// Tells every finding, however many of one kind there are in a file.
    #[arg(long)]
    pub all: bool,
}

impl Paste {
    /// A paste-up into a folder, with nothing else said.
    pub fn of(out: PathBuf) -> Self {
        Paste {
            out,
            short: false,
            anyway: false,
            format: Format::Text,
            fail_on: FailOn { fail_on: "error".to_owned() },
            all: false,
        }
    }
}

/// `preview`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin preview                               the board's site; the address is printed
  deft-pin preview /fares/ --open                one page, in the browser at once
  deft-pin preview --pasted                      as the host of the board would serve it from its boxes
  deft-pin preview --of http://127.0.0.1:8080    a server that runs already, with the pins in its pages

It goes on until it is stopped (Ctrl-C). Pages show each change by themselves; sheets do so without loading again.")]
pub struct Preview {
    /// The page to begin with, by its path or its file. Without it, the first one.
    #[arg(value_name = "PAGE")]
    pub page: Option<String>,
    /// Which site.
    #[command(flatten)]
    pub place: Where,
    /// The port to listen on; a free one by itself.
    #[arg(long, value_name = "PORT", value_parser = clap::value_parser!(u16).range(1..))]
    pub port: Option<u16>,
    /// Shows pages as the host of the board would serve them, with the paste-up in its boxes.
    #[arg(long, conflicts_with_all = ["of", "site"])]
    pub pasted: bool,
    /// Stands in front of a server that runs: its pages are fetched, and shown with the pins.
    #[arg(long, value_name = "URL", conflicts_with = "site", value_hint = ValueHint::Url)]
    pub of: Option<String>,
    /// Opens the address in the browser.
    #[arg(long)]
    pub open: bool,
    /// Leaves the small script out of pages that loads them again after a change.
    #[arg(long)]
    pub plain: bool,
    /// The folder that the files of pins and the frame page are under.
    #[arg(long, value_name = "NAME", default_value = "_pins")]
    pub folder: String,
}

/// `compare`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin compare                            every page that a pin is for, and some of the others
  deft-pin compare /fares/ --widths 390       one page, on a phone
  deft-pin compare --all                      all pages, to see that the others stayed as they were
  deft-pin compare --against last-week        with the pages in another folder, instead of those without pins
  deft-pin compare --against 3                with the pins of release 3, to see what has changed since
  deft-pin compare --format json | jq '.pages[] | select(.meant | not) | .page'

Pictures, compare.json and the report compare.html are written to the folder of --out. Exit status 1: a page that no
pin is for changed, or the console has new errors. Needs Chromium and its driver.")]
pub struct Compare {
    /// The pages, by their paths or files. Without them, every page that a pin is for.
    #[arg(value_name = "PAGE")]
    pub pages: Vec<String>,
    /// The widths of the window, in CSS pixels.
    #[arg(long, value_name = "PIXELS", value_delimiter = ',', default_value = "390,820,1280", value_parser = clap::value_parser!(u32).range(200..=3840))]
    pub widths: Vec<u32>,
    /// The folder to write to. One that an earlier run wrote is replaced; any other is left alone.
    #[arg(long, value_name = "DIR", default_value = "compared", value_hint = ValueHint::DirPath)]
    pub out: PathBuf,
    /// Holds the pages against those in this folder, an earlier build say; or against the release of this number.
    #[arg(long, value_name = "DIR|N", value_hint = ValueHint::DirPath)]
    pub against: Option<PathBuf>,
    /// Compares every page that no pin is for as well, and not some of them alone.
    #[arg(long)]
    pub all: bool,
    /// Shows pages as the host of the board would serve them, with the paste-up in its boxes.
    #[arg(long)]
    pub pasted: bool,
    /// The driver of Chromium, where it is not on the path.
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub driver: Option<PathBuf>,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// `publish`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin publish --note 'the winter timetable'    says what changed since the last release, and makes the next one
  deft-pin publish --out /srv/ferries               where the customised copy of the site goes

Releases are kept in the folder releases beside the board (boxes.releases for boxes.toml). On a host with boxes the paste-up is written: go through it.")]
pub struct Publish {
    /// What to write beside the release.
    #[arg(long, value_name = "TEXT")]
    pub note: Option<String>,
    /// The folder to write to: published by itself, or paste-up on a host with boxes. One that an earlier run wrote is
    /// replaced; any other is left alone.
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub out: Option<PathBuf>,
    /// Publishes even if there are findings that count as a failure.
    #[arg(long)]
    pub anyway: bool,
    /// What counts as a failure.
    #[command(flatten)]
    pub fail_on: FailOn,
}

/// `history`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin history                 every release, the newest first
  deft-pin history 3               one of them in full
  deft-pin history --diff 2 5      what changed from one to another")]
pub struct History {
    /// The release. Without it, all of them.
    #[arg(value_name = "N", conflicts_with = "diff")]
    pub release: Option<u32>,
    /// Two releases, to be held against each other.
    #[arg(long, num_args = 2, value_names = ["A", "B"])]
    pub diff: Option<Vec<u32>>,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// `undo`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin undo                    the release before the last one, again
  deft-pin undo 3                  release 3 again
  deft-pin undo 3 --board-too      and the board with its files as they were then

The pages of the site are those of now, with the pins as they were then; on a host with boxes it is exactly the pieces of
that release. It becomes a release of its own, so that it can be undone as well.")]
pub struct Undo {
    /// The release to put back. Without it, the one before the last.
    #[arg(value_name = "N")]
    pub release: Option<u32>,
    /// The folder to write to: published by itself, or paste-up on a host with boxes.
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub out: Option<PathBuf>,
    /// What to write beside the new release.
    #[arg(long, value_name = "TEXT")]
    pub note: Option<String>,
    /// Puts the board and its files back too. What stood there is kept in the folder of releases.
    #[arg(long)]
    pub board_too: bool,
}

/// `probe`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin probe https://www.sorrel-sound.example/         every page that the last release has something on
  deft-pin probe http://127.0.0.1:8080 --pages '/piers/*'  some pages
  deft-pin probe https://… --sample 20 --own-site          a few of many, whatever robots.txt says

What has become of each part of each pin: live; stale, an earlier release's; missing; doubled, there more than once; altered, by the host or by somebody; stray, of no release. The exit status is 1 unless all is live.")]
pub struct Probe {
    /// The address of the site, where its first page is.
    #[arg(value_name = "URL", value_hint = ValueHint::Url)]
    pub url: String,
    /// The pages, by patterns of their paths as on the board. Without them, those that a release has something on.
    #[arg(long, value_name = "PATTERN", num_args = 1..)]
    pub pages: Vec<String>,
    /// Looks at so many pages at most, such that every part is seen.
    #[arg(long, value_name = "N", value_parser = clap::value_parser!(u32).range(1..))]
    pub sample: Option<u32>,
    /// How the server is asked.
    #[command(flatten)]
    pub manners: ServerManners,
    /// Looks at pages in Chromium, after their scripts have run.
    #[arg(long)]
    pub browser: bool,
    /// The driver of Chromium, where it is not on the path.
    #[arg(long, value_name = "FILE", value_hint = ValueHint::FilePath)]
    pub driver: Option<PathBuf>,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// `capture`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin capture https://www.sorrel-sound.example/ --into site    pages by links and sitemap.xml, with what they load
  deft-pin capture https://… --into site --below /journal/ --pages 200
  deft-pin capture ferries.har --into site                          what a browser noted (save all as HAR, with content)
  deft-pin capture ferries.warc.gz --into site                      what an archive noted

A run that was stopped goes on where it was. Addresses stay as they are: the folder is the site, ready for `deft-pin init site`. Only capture a site that is yours to look after.")]
pub struct Capture {
    /// The address of the site, or a HAR or WARC file.
    #[arg(value_name = "URL|FILE", value_hint = ValueHint::AnyPath)]
    pub from: String,
    /// The folder to write to: a new one, or one that an earlier run has begun.
    #[arg(long, value_name = "DIR", value_hint = ValueHint::DirPath)]
    pub into: PathBuf,
    /// Takes so many pages at most.
    #[arg(long, value_name = "N", default_value_t = 500, value_parser = clap::value_parser!(u32).range(1..))]
    pub pages: u32,
    /// Follows so many links in a row at most.
    #[arg(long, value_name = "N", default_value_t = 20)]
    pub depth: u32,
    /// Takes pages alone whose paths begin with this.
    #[arg(long, value_name = "PATH", default_value = "/")]
    pub below: String,
    /// Captures a site anew that is there whole.
    #[arg(long)]
    pub again: bool,
    /// How the server is asked.
    #[command(flatten)]
    pub manners: ServerManners,
    /// What the answer looks like.
    #[arg(long, value_name = "FORMAT", default_value = "text")]
    pub format: Format,
}

/// How a server is asked.
#[derive(Clone, Copy, Debug, Args)]
pub struct ServerManners {
    /// The pause after each request, in milliseconds; two are made at once.
    #[arg(long, value_name = "MS", default_value_t = 200, value_parser = clap::value_parser!(u64).range(0..=60_000))]
    pub pause: u64,
    /// The site is your own: what its robots.txt asks of others is left aside.
    #[arg(long)]
    pub own_site: bool,
}

impl ServerManners {
    /// The same as it is kept to.
    pub fn manners(self) -> crate::fetching::Manners {
        crate::fetching::Manners {
            pause: std::time::Duration::from_millis(self.pause),
            is_own_site: self.own_site,
        }
    }
}

/// `completions`
#[derive(Debug, Args)]
#[command(after_help = "\
Examples:
  deft-pin completions bash > ~/.local/share/bash-completion/completions/deft-pin
  deft-pin completions zsh > ~/.zfunc/_deft-pin")]
pub struct Completions {
    /// The shell.
    #[arg(value_name = "SHELL")]
    pub shell: clap_complete::Shell,
}
