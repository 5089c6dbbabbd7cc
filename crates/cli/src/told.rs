//! Progress on standard error, memory for the report.

use parallax_core::progress::Progress;
use std::sync::Mutex;
use std::time::{Duration, Instant};

/// Writes a line when the stage changes, and at most twice a second in between.
pub struct Lines {
    last: Mutex<(&'static str, Instant)>,
}

impl Lines {
    /// Nothing written yet.
    pub fn new() -> Self {
        Self {
            last: Mutex::new(("", Instant::now())),
        }
    }
}

impl Progress for Lines {
    fn report(&self, stage: &'static str, done: usize, total: usize) {
        let Ok(mut last) = self.last.lock() else {
            return;
        };
        if last.0 != stage || last.1.elapsed() > Duration::from_millis(500) || done == total {
            eprintln!("{stage} {done}/{total}");
            *last = (stage, Instant::now());
        }
    }
}

/// Peak memory of this process in bytes, where the system tells it.
pub fn peak_memory_bytes() -> Option<u64> {
    let status = std::fs::read_to_string("/proc/self/status").ok()?;
    let line = status.lines().find(|l| l.starts_with("VmHWM:"))?;
    let kib: u64 = line.split_whitespace().nth(1)?.parse().ok()?;
    Some(kib * 1024)
}
