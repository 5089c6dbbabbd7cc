//! How long work says how far it is, and how it is told to stop.

/// Told to a long computation; answers whether it should go on.
pub trait Progress: Sync {
    /// `done` of `total` steps of `stage` are finished.
    fn report(&self, stage: &'static str, done: usize, total: usize);

    /// True once the work should be given up at the next safe place.
    fn is_cancelled(&self) -> bool {
        false
    }
}

/// Where long work leaves what it needs to go on after it was interrupted.
pub trait Checkpoints<T>: Sync {
    /// What an earlier, interrupted run of the same work left.
    fn left(&self) -> Option<T>;

    /// Whether so much was done since that something should be left again.
    fn is_due(&self) -> bool;

    /// Leaves it. That it cannot be kept is no failure of the work.
    fn leave(&self, underway: &T);
}

/// Work that begins anew.
impl<T> Checkpoints<T> for Silent {
    fn left(&self) -> Option<T> {
        None
    }

    fn is_due(&self) -> bool {
        false
    }

    fn leave(&self, _underway: &T) {}
}

/// Progress that nobody follows.
pub struct Silent;

impl Progress for Silent {
    fn report(&self, _stage: &'static str, _done: usize, _total: usize) {}
}
