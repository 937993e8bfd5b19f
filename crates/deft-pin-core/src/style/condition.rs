//! The conditions that rules and sheets stand under.

use super::media::{MediaList, Viewport};
use super::truth::Truth;

/// A condition that rules stand under.
#[derive(Clone, Debug)]
pub struct Condition {
    /// What it asks.
    pub test: ConditionTest,
    /// Its text, as `@media (min-width: 40em)`.
    pub text: String,
}

/// What a condition asks.
#[derive(Clone, Debug)]
pub enum ConditionTest {
    /// Media queries.
    Media(MediaList),
    /// What a browser supports, as far as that can be told.
    Supports(Truth),
    /// A container's size or style, or a transition's start: settled by layout alone.
    RunTime,
}

impl Condition {
    /// A condition of a `media` attribute.
    pub fn media(text: &str) -> Self {
        let test = ConditionTest::Media(MediaList::parse(text));
        Condition { test, text: format!("@media {}", text.trim()) }
    }

    /// What a script decides at run time.
    pub fn run_time(script: &str) -> Self {
        Condition { test: ConditionTest::RunTime, text: script.trim().to_owned() }
    }

    /// Whether it holds.
    pub fn holds(&self, viewport: &Viewport) -> Truth {
        match &self.test {
            ConditionTest::Media(list) => list.holds(viewport),
            ConditionTest::Supports(truth) => *truth,
            ConditionTest::RunTime => Truth::AtRunTime,
        }
    }
}
