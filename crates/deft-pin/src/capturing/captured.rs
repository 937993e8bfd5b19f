//! What a capture brought, and what it left.

use std::collections::BTreeMap;

/// What a capture brought.
#[derive(Debug, Default)]
pub struct Captured {
    /// How many pages there are.
    pub pages: usize,
    /// How many other files there are.
    pub files: usize,
    /// How many of them an earlier run had brought.
    pub kept: usize,
    /// What could not be taken.
    pub left: Vec<Left>,
    /// Pages that are files of another name than their addresses say: the address and the file.
    pub renamed: Vec<(String, String)>,
    /// Addresses that lead to others.
    pub redirects: Vec<(String, String)>,
    /// For each other server how many addresses of it pages load from.
    pub elsewhere: BTreeMap<String, usize>,
    /// How many pages are beyond the limits.
    pub beyond: usize,
}

/// Something that could not be taken.
#[derive(Clone, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub struct Left {
    /// Why, in short.
    pub why: LeftWhy,
    /// The address.
    pub url: String,
    /// The page or file that leads to it.
    pub from: Option<String>,
    /// Why, in words.
    pub message: String,
}

/// Why something was left.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
pub enum LeftWhy {
    /// It wants a login.
    Login,
    /// It is not there.
    Missing,
    /// `robots.txt` asks to stay away.
    Robots,
    /// There was no answer that can be read.
    Problem,
}

impl LeftWhy {
    /// Its name.
    pub fn name(self) -> &'static str {
        match self {
            LeftWhy::Login => "login",
            LeftWhy::Missing => "missing",
            LeftWhy::Robots => "robots",
            LeftWhy::Problem => "problem",
        }
    }
}
