//! Work in the background while it runs: how far it is, how it is told to stop, how it ended.

use crate::error::ApiError;
use crate::said::words::short;
use parallax_core::progress::Progress;
use parallax_store::jobs::{Job, JobKind, JobState};
use serde::Serialize;
use std::sync::Mutex;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};
use std::time::Instant;

/// How far a running job is; also how it is told to stop.
pub struct JobProgress {
    stage: Mutex<(&'static str, Instant)>,
    done: AtomicUsize,
    total: AtomicUsize,
    cancelled: AtomicBool,
}

impl Default for JobProgress {
    fn default() -> Self {
        let (done, total, cancelled) = (
            AtomicUsize::new(0),
            AtomicUsize::new(0),
            AtomicBool::new(false),
        );
        Self {
            stage: Mutex::new(("", Instant::now())),
            done,
            total,
            cancelled,
        }
    }
}

/// How far a job is.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub struct JobStanding {
    /// What is being done.
    pub stage: &'static str,
    /// Steps done.
    pub done: usize,
    /// Steps in all.
    pub total: usize,
    /// Time that the stage will still take if it goes on as it has, s; unknown at its beginning.
    pub left_s: Option<f64>,
}

/// A job as pages show it.
#[derive(Serialize)]
pub struct JobRow {
    id: i64,
    kind: JobKind,
    about: i64,
    state: JobState,
    message: String,
    stage: &'static str,
    done: usize,
    total: usize,
    left_s: Option<f64>,
}

impl JobRow {
    /// A job with how far it is.
    pub fn of(job: &Job, standing: JobStanding) -> Self {
        let JobStanding {
            stage,
            done,
            total,
            left_s,
        } = standing;
        Self {
            id: job.id,
            kind: job.kind,
            about: job.about,
            state: job.state,
            message: job.message.clone(),
            stage,
            done,
            total,
            left_s: left_s.map(|s| short(s, 1)),
        }
    }
}

/// A stage has to have run so long before its end is guessed, s.
const LEAST_SEEN_S: f64 = 1.0;

impl Progress for JobProgress {
    fn report(&self, stage: &'static str, done: usize, total: usize) {
        if let Ok(mut current) = self.stage.lock()
            && current.0 != stage
        {
            *current = (stage, Instant::now());
        }
        self.done.store(done, Ordering::Relaxed);
        self.total.store(total, Ordering::Relaxed);
    }

    fn is_cancelled(&self) -> bool {
        self.cancelled.load(Ordering::Relaxed)
    }
}

impl JobProgress {
    /// Asks the job to stop.
    pub fn cancel(&self) {
        self.cancelled.store(true, Ordering::Relaxed);
    }

    /// How far it is now.
    pub fn now(&self) -> JobStanding {
        let (stage, since) = self
            .stage
            .lock()
            .map_or_else(|_| ("", Instant::now()), |s| *s);
        let (done, total) = (
            self.done.load(Ordering::Relaxed),
            self.total.load(Ordering::Relaxed),
        );
        let left_s = left_s(since.elapsed().as_secs_f64(), done, total);
        JobStanding {
            stage,
            done,
            total,
            left_s,
        }
    }
}

fn left_s(seen_s: f64, done: usize, total: usize) -> Option<f64> {
    let told = done > 0 && done <= total && seen_s >= LEAST_SEEN_S;
    told.then(|| seen_s * (total - done) as f64 / done as f64)
}

/// How a job ended when it did not finish.
pub enum Stopped {
    Cancelled(String),
    Failed(String),
}

impl<E: Into<ApiError>> From<E> for Stopped {
    fn from(error: E) -> Self {
        Self::Failed(error.into().to_string())
    }
}

pub async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, Stopped> + Send + 'static,
) -> Result<T, Stopped> {
    match tokio::task::spawn_blocking(work).await {
        Ok(done) => done,
        Err(error) => Err(ApiError::from(error).into()),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::halfway(10.0, 50, 100, Some(10.0))]
    #[case::nearly(9.0, 90, 100, Some(1.0))]
    #[case::nothing_done(10.0, 0, 100, None)]
    #[case::too_soon(0.5, 1, 100, None)]
    #[case::nothing_to_do(10.0, 0, 0, None)]
    fn the_time_left_goes_by_what_was_done(
        #[case] seen_s: f64,
        #[case] done: usize,
        #[case] total: usize,
        #[case] left: Option<f64>,
    ) {
        assert_eq!(left_s(seen_s, done, total), left);
    }
}
