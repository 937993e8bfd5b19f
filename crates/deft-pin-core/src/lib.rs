//! The computing behind Deft Pin: from a board and a folder of rendered pages to what each
//! customisation reaches, what is wrong with it, and the customised pages.
//!
//! Everything is a pure function from bytes and values to values. Files are reached through one
//! small trait, [`source::Files`]; nothing is printed, and no clock, network or global state is
//! used. Data flows one way through the rooms: `source` → `markup`, `style`, `script` → `site` →
//! `find` → `board` →
//! `plan` → `check` → `emit`.
//!
//! ```
//! use deft_pin_core::{board::Board, emit, plan::Plan, site::Site, source::MemoryFiles};
//!
//! let files = MemoryFiles::from([
//!     ("site/fares/index.html", "<!doctype html><head></head><body><main id=fares></main></body>"),
//!     ("pins/fares.css", "h2 { color: teal }"),
//! ]);
//! let board = Board::parse(
//!     "[site]\nroot = 'site'\n[pin.fares]\npages = ['/fares/']\nwithin = '#fares'\nstyle = 'pins/fares.css'",
//! )
//! .unwrap();
//! let site = Site::list(&files, &board.root).unwrap();
//! let plan = Plan::new(&board, &files);
//! let assets = emit::Assets::new(&plan, "_pins");
//! let run = emit::Run::new(&plan, &site, &files, &assets, emit::Manner::Inline);
//! let page = b"<!doctype html><head></head><body><main id=fares></main></body>";
//! let outcome = run.page(0, page, &run.pins_for(0));
//! let customised = String::from_utf8(outcome.bytes.unwrap()).unwrap();
//! assert!(customised.contains("h2:is(#fares, #fares *) { color: teal }"));
//! ```

#![forbid(unsafe_code)]
#![deny(missing_docs)]

pub mod board;
pub mod check;
pub mod emit;
pub mod find;
pub mod markup;
pub mod plan;
pub mod script;
pub mod site;
pub mod source;
pub mod style;
