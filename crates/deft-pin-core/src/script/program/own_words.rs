//! The words in a script's own texts that may be names in markup which it puts together.

use std::sync::Arc;

use rustc_hash::FxHashSet;

use super::{Expression, ExpressionId, Item, Key, Program};

/// Functions that look for what they are given, and bring nothing in.
const LOOKUPS: &[&str] = &[
    "closest", "getElementById", "getElementsByClassName", "getElementsByName", "getElementsByTagName",
    "matches", "querySelector", "querySelectorAll",
];

/// Words, each once.
pub(in crate::script) type Words = FxHashSet<Arc<str>>;

impl Program {
    /// The words of all texts but those that something is looked for by.
    pub(in crate::script) fn own_words(&self) -> &Arc<Words> {
        self.own_words.get_or_init(|| Arc::new(self.find_own_words()))
    }

    fn find_own_words(&self) -> Words {
        let mut asked: FxHashSet<ExpressionId> = FxHashSet::default();
        for (_, expression) in &self.expressions {
            let Expression::Call { callee, arguments, .. } = expression else { continue };
            let Expression::Member { key: Key::Name(name), .. } = self.expression(*callee) else { continue };
            if LOOKUPS.contains(&&**name) {
                let values = arguments.iter().filter_map(|item| match item {
                    Item::Value(id) => Some(*id),
                    _ => None,
                });
                asked.extend(values);
            }
        }
        let mut words = Words::default();
        for (at, (_, expression)) in self.expressions.iter().enumerate() {
            let texts: &[Arc<str>] = match expression {
                Expression::Text(text) => std::slice::from_ref(text),
                Expression::Template { texts, .. } | Expression::Tagged { texts, .. } => texts,
                _ => continue,
            };
            if asked.contains(&ExpressionId(crate::source::offset(at))) {
                continue;
            }
            // A selector in a text of its own is looked for, too.
            for text in texts.iter().filter(|text| text.contains('<') || !text.starts_with(['#', '.'])) {
                let is_of_word = |c: char| c.is_alphanumeric() || matches!(c, '-' | '_');
                let own = text.split(|c| !is_of_word(c)).filter(|word| !word.is_empty());
                words.extend(own.map(Arc::from));
            }
        }
        words
    }
}
