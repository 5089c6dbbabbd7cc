//! Work that is stopped again and again, and goes on from what it left.

use parallax_core::progress::{Checkpoints, Progress};
use serde::Serialize;
use serde::de::DeserializeOwned;
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Keeps what is left as text, as a file would.
pub struct Kept {
    text: Mutex<Option<String>>,
    /// Whether something is left at every step, not only when it is stopped.
    always: bool,
    times: AtomicUsize,
}

impl Kept {
    pub fn new(always: bool) -> Self {
        Self {
            text: Mutex::new(None),
            always,
            times: AtomicUsize::new(0),
        }
    }

    /// How often something was left.
    pub fn times(&self) -> usize {
        self.times.load(Ordering::Relaxed)
    }
}

impl<T: Serialize + DeserializeOwned> Checkpoints<T> for Kept {
    fn left(&self) -> Option<T> {
        let text = self.text.lock().unwrap();
        text.as_ref().map(|t| serde_json::from_str(t).unwrap())
    }

    fn is_due(&self) -> bool {
        self.always
    }

    fn leave(&self, underway: &T) {
        self.times.fetch_add(1, Ordering::Relaxed);
        *self.text.lock().unwrap() = Some(serde_json::to_string(underway).unwrap());
    }
}

/// Says that it is cancelled once it was asked so often.
pub struct Patience(AtomicUsize);

impl Patience {
    pub fn of(times: usize) -> Self {
        Self(AtomicUsize::new(times))
    }
}

impl Progress for Patience {
    fn report(&self, _stage: &'static str, _done: usize, _total: usize) {}

    fn is_cancelled(&self) -> bool {
        let less = |n: usize| n.checked_sub(1);
        self.0
            .fetch_update(Ordering::Relaxed, Ordering::Relaxed, less)
            .is_err()
    }
}

/// Does work until it is not cancelled, with the patience for each go; how often it was.
pub fn persisted<T, E>(
    patience: impl Fn(usize) -> usize,
    work: impl Fn(&Patience) -> Result<T, E>,
    is_cancelled: impl Fn(&E) -> bool,
) -> (T, usize)
where
    E: std::fmt::Debug,
{
    for stops in 0.. {
        match work(&Patience::of(patience(stops))) {
            Ok(done) => return (done, stops),
            Err(error) => assert!(is_cancelled(&error), "{error:?}"),
        }
        assert!(stops < 5000, "it gets nowhere");
    }
    unreachable!()
}
