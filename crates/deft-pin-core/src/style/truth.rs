//! Three-valued truth: what a page at rest does not settle is neither yes nor no.

/// Whether something holds. The order is that of how far it does.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Truth {
    /// It does not.
    No,
    /// It depends on what happens at run time, or on what was not said.
    AtRunTime,
    /// It does.
    Yes,
}

impl Truth {
    /// Whether both hold.
    pub fn and(self, other: Truth) -> Truth {
        self.min(other)
    }

    /// Whether one of them holds.
    pub fn or(self, other: Truth) -> Truth {
        self.max(other)
    }
}

impl std::ops::Not for Truth {
    type Output = Truth;

    fn not(self) -> Truth {
        match self {
            Truth::Yes => Truth::No,
            Truth::AtRunTime => Truth::AtRunTime,
            Truth::No => Truth::Yes,
        }
    }
}

impl From<bool> for Truth {
    fn from(holds: bool) -> Self {
        if holds { Truth::Yes } else { Truth::No }
    }
}
