//! A family of findings: what one page says of it, and what follows from what all pages say.

use std::fmt::Debug;
use std::hash::Hash;

use serde::Serialize;

use super::explanations::Questions;
use super::facts::FactsByPage;
use super::finding::Finding;
use super::input::CheckInput;
use super::page_checker::PageChecker;

/// A family of findings. Each is a file of its own, and a row in the list of families.
pub(super) trait Family {
    /// What one page says: plain data, which depends on that page, the plan and shared files alone.
    type Fact: Clone + Debug + Eq + Hash + Serialize;

    /// What a page says.
    fn facts(page: &PageChecker<'_>, facts: &mut Vec<Self::Fact>);

    /// What has to be asked of a few pages, so that findings can say why.
    fn questions(_: &CheckInput<'_>, _: &FactsByPage<Self::Fact>, _: &mut Questions) {}

    /// What follows from what all pages say.
    fn findings(input: &CheckInput<'_>, facts: &FactsByPage<Self::Fact>, findings: &mut Vec<Finding>);
}

/// The fact of families that ask the board alone: there is none.
#[derive(Clone, Debug, PartialEq, Eq, Hash, Serialize)]
pub enum NoFact {}

/// Makes of the list of families the facts of one page, those of all pages, and what is done with
/// both.
macro_rules! families {
    ($($(#[$doc:meta])* $name:ident: $family:ty;)*) => {
        /// What one page says.
        #[derive(Clone, Debug, PartialEq, Eq, Serialize)]
        pub struct PageFacts {
            /// The page.
            pub page: PageId,
            $($(#[$doc])* $name: Vec<<$family as Family>::Fact>,)*
        }

        /// What all pages say that were looked at.
        #[derive(Clone, Debug, Default)]
        pub struct SiteFacts {
            $($(#[$doc])* $name: FactsByPage<<$family as Family>::Fact>,)*
        }

        impl PageFacts {
            pub(super) fn of(checker: &PageChecker<'_>) -> Self {
                let mut facts = PageFacts { page: checker.id(), $($name: Vec::new(),)* };
                $(<$family as Family>::facts(checker, &mut facts.$name);)*
                facts
            }
        }

        impl SiteFacts {
            /// Adds what a page says. Pages are added in the order of the site.
            pub fn add(&mut self, facts: PageFacts) {
                $(self.$name.add(facts.page, facts.$name);)*
            }

            pub(super) fn questions(&self, input: &CheckInput<'_>) -> Questions {
                let mut questions = Questions::default();
                $(<$family as Family>::questions(input, &self.$name, &mut questions);)*
                questions
            }

            pub(super) fn findings(&self, input: &CheckInput<'_>) -> Vec<Finding> {
                let mut findings = Vec::new();
                $(<$family as Family>::findings(input, &self.$name, &mut findings);)*
                findings
            }
        }
    };
}

pub(super) use families;
