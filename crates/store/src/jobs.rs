//! Jobs: long work that survives a restart.
//!
//! A job that was running when the process ended is queued again; its results are only ever
//! written whole, so it starts over from what was there before.

use crate::{Store, StoreError};
use serde::{Deserialize, Serialize};

/// What a job does.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum JobKind {
    /// Makes viewing copies.
    Ingest,
    /// Follows features.
    Track,
    /// Follows what is keyed by hand.
    Hand,
    /// Judges tracks that were taken in or keyed.
    Judge,
    /// Solves from the beginning.
    Solve,
    /// Solves from where the current attempt stands.
    SolveAgain,
    /// Writes and proves a delivery.
    Deliver,
    /// The same although the solve is stale, marked as such.
    DeliverStale,
    /// Undistorts the plate.
    Undistort,
}

/// How a job stands.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum JobState {
    /// Waits.
    Queued,
    /// Is at work.
    Running,
    /// Finished.
    Done,
    /// Gave up, the message says why.
    Failed,
    /// The artist cancelled.
    Cancelled,
}

/// One job.
#[derive(Clone, Debug, Serialize)]
pub struct Job {
    /// Its number.
    pub id: i64,
    /// Its shot.
    pub shot_id: i64,
    /// What it does.
    pub kind: JobKind,
    /// How it stands.
    pub state: JobState,
    /// What happened.
    pub message: String,
}

macro_rules! words {
    ($type:ident { $($variant:ident => $word:literal),* }) => {
        impl $type {
            /// The word that is stored.
            pub fn word(self) -> &'static str {
                match self { $(Self::$variant => $word),* }
            }

            fn of_word(word: &str) -> Result<Self, StoreError> {
                match word {
                    $($word => Ok(Self::$variant),)*
                    other => Err(StoreError::Invalid(format!("`{other}` is not a stored {}", stringify!($type)))),
                }
            }
        }
    };
}

words!(JobKind { Ingest => "ingest", Track => "track", Hand => "hand", Judge => "judge", Solve => "solve", SolveAgain => "solve_again", Deliver => "deliver", DeliverStale => "deliver_stale", Undistort => "undistort" });
words!(JobState { Queued => "queued", Running => "running", Done => "done", Failed => "failed", Cancelled => "cancelled" });

struct Row {
    id: i64,
    shot_id: i64,
    kind: String,
    state: String,
    message: String,
}

impl Row {
    fn job(self) -> Result<Job, StoreError> {
        Ok(Job {
            id: self.id,
            shot_id: self.shot_id,
            kind: JobKind::of_word(&self.kind)?,
            state: JobState::of_word(&self.state)?,
            message: self.message,
        })
    }
}

impl Store {
    /// Queues a job.
    pub async fn add_job(&self, shot: i64, kind: JobKind) -> Result<i64, StoreError> {
        let kind = kind.word();
        let done = sqlx::query!(
            "INSERT INTO jobs (shot_id, kind, state) VALUES (?, ?, 'queued')",
            shot,
            kind
        )
        .execute(&self.pool)
        .await?;
        Ok(done.last_insert_rowid())
    }

    /// Takes the oldest queued job and marks it as running.
    pub async fn take_job(&self) -> Result<Option<Job>, StoreError> {
        let row = sqlx::query_as!(
            Row,
            "UPDATE jobs SET state = 'running' WHERE id = (SELECT id FROM jobs WHERE state = 'queued' ORDER BY id LIMIT 1)
             RETURNING id AS \"id!\", shot_id AS \"shot_id!\", kind AS \"kind!\", state AS \"state!\", message AS \"message!\""
        )
        .fetch_optional(&self.pool)
        .await?;
        row.map(Row::job).transpose()
    }

    /// States how a job ended.
    pub async fn end_job(&self, id: i64, state: JobState, message: &str) -> Result<(), StoreError> {
        let state = state.word();
        sqlx::query!(
            "UPDATE jobs SET state = ?, message = ? WHERE id = ?",
            state,
            message,
            id
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// Cancels a job that still waits; false when it does not wait (any more).
    pub async fn cancel_queued(&self, id: i64) -> Result<bool, StoreError> {
        let done = sqlx::query!(
            "UPDATE jobs SET state = 'cancelled' WHERE id = ? AND state = 'queued'",
            id
        )
        .execute(&self.pool)
        .await?;
        Ok(done.rows_affected() > 0)
    }

    /// Queues again what was running when the process ended; how many there were.
    pub async fn requeue_interrupted(&self) -> Result<u64, StoreError> {
        let done = sqlx::query!(
            "UPDATE jobs SET state = 'queued', message = 'begun again after the application had stopped' WHERE state = 'running'"
        )
        .execute(&self.pool)
        .await?;
        Ok(done.rows_affected())
    }

    /// The latest jobs of a shot, newest first.
    pub async fn jobs(&self, shot: i64) -> Result<Vec<Job>, StoreError> {
        let rows = sqlx::query_as!(
            Row,
            "SELECT id, shot_id, kind, state, message FROM jobs WHERE shot_id = ? ORDER BY id DESC LIMIT 12",
            shot
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter().map(Row::job).collect()
    }
}
