//! Jobs: long work that survives a restart.
//!
//! A job that was running when the process ended is queued again; its results are only ever
//! written whole, so it starts over from what was there before. One that was running at two
//! deaths of the process is not begun a third time. The same work of a shot is queued once.

use crate::{Invalid, Store, StoreError};
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
    /// Draws guests over the plate as a movie.
    Movie,
}

/// What a job waits behind: work of one class is done one after the other, classes side by side.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Class {
    /// Work that an artist waits for with a hand on the mouse: it lasts seconds.
    Short,
    /// Everything else.
    Long,
}

impl Class {
    /// Both.
    pub const ALL: [Self; 2] = [Self::Short, Self::Long];
}

impl JobKind {
    /// The class of this work.
    pub fn class(self) -> Class {
        match self {
            Self::Hand | Self::Deliver | Self::DeliverStale => Class::Short,
            Self::Ingest
            | Self::Track
            | Self::Judge
            | Self::Solve
            | Self::SolveAgain
            | Self::Undistort
            | Self::Movie => Class::Long,
        }
    }
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
    /// What of the shot it is about, by its id; 0 where its kind says it all.
    pub about: i64,
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
                    other => {
                        let (word, what) = (other.to_owned(), stringify!($type));
                        Err(Invalid::Word { word, what }.into())
                    }
                }
            }
        }
    };
}

words!(JobKind { Ingest => "ingest", Track => "track", Hand => "hand", Judge => "judge", Solve => "solve", SolveAgain => "solve_again", Deliver => "deliver", DeliverStale => "deliver_stale", Undistort => "undistort", Movie => "movie" });
words!(JobState { Queued => "queued", Running => "running", Done => "done", Failed => "failed", Cancelled => "cancelled" });

struct Row {
    id: i64,
    shot_id: i64,
    kind: String,
    about: i64,
    state: String,
    message: String,
}

impl Row {
    fn job(self) -> Result<Job, StoreError> {
        Ok(Job {
            id: self.id,
            shot_id: self.shot_id,
            kind: JobKind::of_word(&self.kind)?,
            about: self.about,
            state: JobState::of_word(&self.state)?,
            message: self.message,
        })
    }
}

/// A job that was running when the process died so often is given up.
const MOST_DEATHS: i64 = 2;

impl Store {
    /// Queues a job; `None` when the same work of the shot waits or is being done already.
    pub async fn add_job(&self, shot: i64, kind: JobKind) -> Result<Option<i64>, StoreError> {
        self.add_job_about(shot, kind, 0).await
    }

    /// Queues a job about one thing of the shot, such as a recipe; the same of another thing is other work.
    pub async fn add_job_about(
        &self,
        shot: i64,
        kind: JobKind,
        about: u32,
    ) -> Result<Option<i64>, StoreError> {
        let kind = kind.word();
        let done = sqlx::query!(
            "INSERT INTO jobs (shot_id, kind, state, about)
             SELECT ?, ?, 'queued', ? WHERE NOT EXISTS (
                SELECT 1 FROM jobs WHERE shot_id = ? AND kind = ? AND about = ?
                AND state IN ('queued', 'running')
             )",
            shot,
            kind,
            about,
            shot,
            kind,
            about
        )
        .execute(&self.pool)
        .await?;
        self.stir();
        Ok((done.rows_affected() > 0).then(|| done.last_insert_rowid()))
    }

    /// Queues work that has to see what was changed just now: again although the same is being
    /// done, once although it waits.
    pub async fn add_job_after(&self, shot: i64, kind: JobKind) -> Result<(), StoreError> {
        let kind = kind.word();
        sqlx::query!(
            "INSERT INTO jobs (shot_id, kind, state)
             SELECT ?, ?, 'queued' WHERE NOT EXISTS (
                SELECT 1 FROM jobs WHERE shot_id = ? AND kind = ? AND state = 'queued'
             )",
            shot,
            kind,
            shot,
            kind
        )
        .execute(&self.pool)
        .await?;
        self.stir();
        Ok(())
    }

    /// Takes the oldest queued job of a class and marks it as running. Shots in the bin wait, and a delivery for the
    /// undistorted plate that is made for its recipe.
    pub async fn take_job(&self, class: Class) -> Result<Option<Job>, StoreError> {
        let is_short = class == Class::Short;
        let row = sqlx::query_as!(
            Row,
            "UPDATE jobs SET state = 'running', starts = starts + 1 WHERE id = (
                SELECT jobs.id FROM jobs JOIN shots ON shots.id = jobs.shot_id
                WHERE jobs.state = 'queued' AND shots.binned IS NULL
                AND (jobs.kind IN ('hand', 'deliver', 'deliver_stale')) = ?
                AND NOT (jobs.kind IN ('deliver', 'deliver_stale') AND EXISTS (
                    SELECT 1 FROM jobs AS plate WHERE plate.kind = 'undistort' AND plate.shot_id = jobs.shot_id
                    AND plate.about = jobs.about AND plate.id < jobs.id AND plate.state IN ('queued', 'running')
                ))
                ORDER BY jobs.id LIMIT 1
             )
             RETURNING id AS \"id!\", shot_id AS \"shot_id!\", kind AS \"kind!\", about AS \"about!\", state AS \"state!\", message AS \"message!\"",
            is_short
        )
        .fetch_optional(&self.pool)
        .await?;
        if row.is_some() {
            self.stir();
        }
        row.map(Row::job).transpose()
    }

    /// Queues a job again that was stopped because the application ends in good order.
    pub async fn put_back(&self, id: i64) -> Result<(), StoreError> {
        let said = "goes on after the application was ended";
        sqlx::query!(
            "UPDATE jobs SET state = 'queued', starts = starts - 1, message = ? WHERE id = ?",
            said,
            id
        )
        .execute(&self.pool)
        .await?;
        self.stir();
        Ok(())
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
        self.stir();
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
        self.stir();
        Ok(done.rows_affected() > 0)
    }

    /// Queues again what was running when the process died; how many there were. What was running
    /// at its second death has failed: it may be what the process died of.
    pub async fn requeue_interrupted(&self) -> Result<u64, StoreError> {
        let given_up = "the application died twice while this was being done, so it is not begun again by itself. \
                        Nothing was changed; try it with other material or settings";
        sqlx::query!(
            "UPDATE jobs SET state = 'failed', message = ? WHERE state = 'running' AND starts >= ?",
            given_up,
            MOST_DEATHS
        )
        .execute(&self.pool)
        .await?;
        let done = sqlx::query!(
            "UPDATE jobs SET state = 'queued', message = 'begun again after the application had stopped' WHERE state = 'running'"
        )
        .execute(&self.pool)
        .await?;
        self.stir();
        Ok(done.rows_affected())
    }

    /// The latest jobs of a shot, newest first.
    pub async fn jobs(&self, shot: i64) -> Result<Vec<Job>, StoreError> {
        let rows = sqlx::query_as!(
            Row,
            "SELECT id, shot_id, kind, about, state, message FROM jobs WHERE shot_id = ? ORDER BY id DESC LIMIT 12",
            shot
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter().map(Row::job).collect()
    }
}
