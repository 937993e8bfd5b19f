//! The computing behind Deft Pin: from a board and a folder of rendered pages to what each
//! customisation reaches, what is wrong with it, and the customised pages.
//!
//! ```
//! use deft_pin_core::{board::Board, code::PageId, page::SiteContext, plan::Plan, site::Site, source::MemoryFiles};
//! let html = "<!doctype html><main id=fares><h2>Fares</h2></main><h2>Journal</h2>";
//! let files = MemoryFiles::from([("site/fares.html", html), ("f.css", "h2 { color: teal }")]);
//! let board = Board::parse("[site]\nroot = 'site'\n[pin.f]\nwithin = '#fares'\nstyle = 'f.css'").unwrap();
//! let site = Site::list(&files, &board.root).unwrap();
//! let plan = Plan::new(&board, &files);
//! let context = SiteContext::new(&plan, &site, &files);
//! let page = context.page(PageId::FIRST, html.as_bytes());
//! assert_eq!(page.sheets().sheets[0].rules.text.as_str(), "h2:is(#fares, #fares *) { color: teal }");
//! ```
//!
//! Everything is a pure function from bytes and values to values. Files are reached through one
//! small trait, [`source::Files`]; nothing is printed, and no clock, network or global state is
//! used.
//!
//! The modules are rooms, from the ground up; an upper one uses a lower one, never the other way:
//! [`source`], [`code`], [`markup`], [`style`] and [`script`], [`compare`] and [`live`], [`site`], [`find`], [`board`],
//! [`start`], [`plan`], [`page`], [`emit`], [`check`]. A run over a site makes one [`page::SiteContext`], and
//! asks a [`page::PageAnalysis`] for each page; [`emit::Emitter`] makes bytes of it, and
//! [`check::Checker`] facts and, of the facts of all pages, findings.

#![forbid(unsafe_code)]
#![deny(missing_docs)]

pub mod board;
pub mod check;
pub mod code;
pub mod compare;
pub mod emit;
pub mod find;
pub mod live;
pub mod markup;
pub mod page;
pub mod plan;
pub mod script;
pub mod site;
pub mod source;
pub mod start;
pub mod style;
