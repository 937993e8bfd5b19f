//! What a check finds while somebody works: of each new run, what is new and what is gone.

use std::collections::HashMap;

use deft_pin_core::check::Finding;

/// What changed between two checks.
#[derive(Debug, Default)]
pub struct Changed {
    /// Findings that were not there before.
    pub new: Vec<Finding>,
    /// Findings that are there no more.
    pub gone: Vec<Finding>,
}

/// Holds two checks against each other. Lines move as somebody types: a finding is the same if it says the same of the
/// same file.
pub fn changed(before: &[Finding], after: &[Finding]) -> Changed {
    Changed { new: less(after, before), gone: less(before, after) }
}

/// The findings of one check that another one has not.
fn less(findings: &[Finding], others: &[Finding]) -> Vec<Finding> {
    let key = |own: &Finding| (own.code, own.place.file.clone(), own.pin.clone(), own.message.clone());
    let mut counts: HashMap<_, usize> = HashMap::new();
    others.iter().for_each(|own| *counts.entry(key(own)).or_default() += 1);
    let is_new = |own: &&Finding| match counts.get_mut(&key(own)) {
        Some(count) if *count > 0 => {
            *count -= 1;
            false
        }
        _ => true,
    };
    findings.iter().filter(is_new).cloned().collect()
}
