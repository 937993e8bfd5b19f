//! The timeline of a page: which of its scripts and sheets are certain to have run, or to be
//! applied, before which others (HTML, "prepare the script element", "the
//! end").

/// How a script or a sheet of a page comes to its timing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
pub enum Execution {
    /// A script that holds the parser up until it has run.
    Classic,
    /// A script that runs once the page is parsed, in its timing.
    Defer,
    /// A script that runs as soon as it is there.
    Async,
    /// A module, which runs like a deferred script.
    Module,
    /// A module that runs as soon as it and what it imports are there.
    AsyncModule,
    /// What never runs: data, `nomodule`, types that are no script's.
    Never,
    /// A script that waits for the page: it runs at its `DOMContentLoaded`.
    Ready,
    /// A script that waits for something that happens once the page is parsed, or never.
    Later,
    /// A script that a script of the host puts in, at a time that nothing settles: such ones run in their order.
    Inserted,
    /// A sheet in the page.
    Style,
    /// A sheet in the page that imports others: it is applied once these are there.
    ImportingStyle,
    /// A sheet that is linked.
    Link,
}

impl Execution {
    /// The name that answers use.
    pub fn name(self) -> &'static str {
        match self {
            Execution::Classic => "classic",
            Execution::Defer => "defer",
            Execution::Async => "async",
            Execution::Module => "module",
            Execution::AsyncModule => "async-module",
            Execution::Never => "never",
            Execution::Ready => "ready",
            Execution::Later => "later",
            Execution::Inserted => "inserted",
            Execution::Style | Execution::ImportingStyle => "style",
            Execution::Link => "link",
        }
    }

    /// Whether it is a sheet.
    pub fn is_sheet(self) -> bool {
        matches!(self, Execution::Style | Execution::ImportingStyle | Execution::Link)
    }

    /// Whether it runs at a time that nothing settles.
    pub fn is_async(self) -> bool {
        matches!(self, Execution::Async | Execution::AsyncModule | Execution::Inserted)
    }

    /// Whether it waits until the page is parsed.
    pub fn waits_for_the_parser(self) -> bool {
        matches!(self, Execution::Defer | Execution::Module | Execution::Ready | Execution::Later)
    }
}

/// What the timeline needs to know of a script or a sheet, in the order of the document.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub struct Timing {
    /// How it comes to its timing.
    pub execution: Execution,
    /// For a module, whether it, or what it imports, may wait on its way: others do not wait for
    /// the rest of it. For a sheet, whether it may come to nothing: its media do not hold for
    /// certain.
    pub is_loose: bool,
}

/// What is certain to come before what.
#[derive(Clone, Debug, PartialEq, Eq)]
pub struct Timeline {
    timings: Vec<Timing>,
    /// How many scripts that hold the parser up stand before each place.
    classics: Vec<u32>,
    /// Whether some script of the list that runs at the end is certain to come before listeners.
    has_list: bool,
}

impl Timeline {
    /// The order of some timings.
    pub fn new(timings: &[Timing]) -> Self {
        let mut count = 0;
        let mut classics = vec![0];
        for timing in timings {
            count += u32::from(timing.execution == Execution::Classic);
            classics.push(count);
        }
        let in_list = |timing: &Timing| {
            timing.execution == Execution::Defer
                || (timing.execution == Execution::Module && !timing.is_loose)
        };
        Timeline { timings: timings.to_vec(), classics, has_list: timings.iter().any(in_list) }
    }

    /// Whether one is certain to come before another: by itself, or by way of others.
    pub fn is_before(&self, early: usize, late: usize) -> bool {
        let (a, b) = (self.timings[early], self.timings[late]);
        early != late && (is_before((early, a), (late, b)) || self.is_before_by_way((early, a), (late, b)))
    }

    /// A sheet comes before all that a script comes before which it holds up. Every other way over
    /// others is there by itself too.
    fn is_before_by_way(&self, (early, a): (usize, Timing), (late, b): (usize, Timing)) -> bool {
        if !a.execution.is_sheet() || a.is_loose {
            return false;
        }
        let classics = |to: usize| self.classics[to] > self.classics[early + 1];
        match b.execution {
            Execution::Async | Execution::AsyncModule => early < late && classics(late),
            other if other.is_sheet() => early < late && classics(late),
            Execution::Ready | Execution::Later => self.has_list || classics(self.timings.len()),
            _ => false,
        }
    }

    /// Those that come right before one: without those that come before another one of these.
    pub fn right_before(&self, late: usize) -> Vec<usize> {
        let mut all: Vec<usize> =
            (0..self.timings.len()).filter(|early| self.is_before(*early, late)).collect();
        // What many others come before is looked at first, so that few are compared.
        let rank = |at: usize| match self.timings[at].execution {
            Execution::Ready | Execution::Later => 0,
            Execution::Defer | Execution::Module => 1,
            Execution::Classic => 2,
            _ => 3,
        };
        all.sort_by_key(|at| (rank(*at), std::cmp::Reverse(*at)));
        let mut last: Vec<usize> = Vec::new();
        for early in all {
            if !last.iter().any(|middle| self.is_before(early, *middle)) {
                last.retain(|other| !self.is_before(*other, early));
                last.push(early);
            }
        }
        last.sort_unstable();
        last
    }
}

fn is_before((early, a): (usize, Timing), (late, b): (usize, Timing)) -> bool {
    use Execution::{
        Async, AsyncModule, Classic, Defer, ImportingStyle, Inserted, Later, Link, Module, Never, Ready,
        Style,
    };
    let in_order = early < late;
    match (a.execution, b.execution) {
        // They are put in one after the other, and what waits among them was put in behind.
        (Inserted, Inserted | Ready | Later) => in_order,
        (Inserted, _) | (_, Inserted) => false,
        (Never, _) | (_, Never) | (Async | AsyncModule | Later, _) => false,
        // The parser does not go on before it has run.
        (Classic, Classic | Async | AsyncModule | Style | ImportingStyle | Link) => in_order,
        (Classic, Defer | Module | Ready | Later) => true,
        // Listeners come after all of the list, in the order in which they were added.
        (Defer, Ready | Later) => true,
        (Module, Ready | Later) => !a.is_loose,
        (Ready, Ready | Later) => in_order,
        (Ready, _) => false,
        // "The list of scripts that will execute when the document has finished parsing."
        (Defer, Defer | Module) => in_order,
        (Module, Defer | Module) => in_order && !a.is_loose,
        (Defer | Module, _) => false,
        // A sheet in the page is applied where it stands, unless it waits for what it imports.
        (Style, Style | ImportingStyle | Link | Async | AsyncModule) => in_order && !a.is_loose,
        // Sheets hold up the scripts behind them, and deferred ones all of them ("has no style sheet
        // that is blocking scripts").
        (Style | ImportingStyle | Link, Classic | Ready | Later) => in_order && !a.is_loose,
        (Style | ImportingStyle | Link, Defer | Module) => !a.is_loose,
        (ImportingStyle | Link, _) => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Everything that follows from each pair by itself.
    fn closed(timings: &[Timing]) -> Vec<Vec<bool>> {
        let count = timings.len();
        let pair = |early, late| early != late && is_before((early, timings[early]), (late, timings[late]));
        let mut before: Vec<Vec<bool>> =
            (0..count).map(|late| (0..count).map(|early| pair(early, late)).collect()).collect();
        for middle in 0..count {
            for late in 0..count {
                for early in 0..count {
                    before[late][early] |= before[late][middle] && before[middle][early];
                }
            }
        }
        before
    }

    #[test]
    fn ways_over_others_are_all_there() {
        let executions = [
            Execution::Classic,
            Execution::Defer,
            Execution::Async,
            Execution::Module,
            Execution::AsyncModule,
            Execution::Never,
            Execution::Ready,
            Execution::Later,
            Execution::Inserted,
            Execution::Style,
            Execution::ImportingStyle,
            Execution::Link,
        ];
        // Every row of four, loose and not.
        for row in 0..(executions.len() * 2).pow(4) {
            let timings: Vec<Timing> = (0..4)
                .map(|place| row / (executions.len() * 2).pow(place) % (executions.len() * 2))
                .map(|kind| Timing { execution: executions[kind / 2], is_loose: kind % 2 == 1 })
                .collect();
            let (timeline, closed) = (Timeline::new(&timings), closed(&timings));
            for (late, before) in closed.iter().enumerate() {
                let said: Vec<bool> = (0..4).map(|early| timeline.is_before(early, late)).collect();
                assert_eq!(&said, before, "{late} {timings:?}");
                let is_implied = |early: usize| (0..4).any(|middle| before[middle] && closed[middle][early]);
                let right: Vec<usize> =
                    (0..4).filter(|early| before[*early] && !is_implied(*early)).collect();
                assert_eq!(timeline.right_before(late), right, "{late} {timings:?}");
            }
        }
    }
}
