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

/// Progress that nobody follows.
pub struct Silent;

impl Progress for Silent {
    fn report(&self, _stage: &'static str, _done: usize, _total: usize) {}
}
