//! The core by itself.

mod boards;
mod cascade;
mod compare;
mod content;
mod drawing;
mod finding;
mod findings;
mod language;
mod live;
mod made;
mod odd_pages;
mod odd_sheets;
mod pages;
mod placing;
mod reading;
mod running;
mod scripts;
mod sets;
mod sheets;
mod tree;
