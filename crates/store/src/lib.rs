//! What is kept: shots, edits, tracks, attempts, deliveries and jobs in SQLite.
//!
//! One file per table. Every query is checked at compile time against the migrations. The
//! database runs in write-ahead mode; a result and the edit that makes it current are written
//! in one transaction, so that a process killed at any moment leaves whole results or none.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod attempts;
pub mod bodies;
pub mod budget;
pub mod constraints;
pub mod deliveries;
pub mod difference;
pub mod edits;
pub mod guests;
pub mod hand_paths;
pub mod invalid;
pub mod jobs;
pub mod known;
pub mod lens;
pub mod lenses;
mod mending;
pub mod models;
pub mod photo;
pub mod pins;
pub mod shots;
pub mod slips;
pub mod state;
pub mod statements;
pub mod things;
pub mod track_runs;
pub mod tracking;
pub mod undistortions;
mod writing;

#[cfg(test)]
mod tests;

pub use invalid::Invalid;
pub use state::ShotState;

use sqlx::SqlitePool;
use sqlx::sqlite::{
    SqliteAutoVacuum, SqliteConnectOptions, SqliteJournalMode, SqlitePoolOptions, SqliteSynchronous,
};
use std::path::Path;
use tokio::sync::watch;

/// Why something is not kept or not found.
#[derive(Debug, thiserror::Error)]
pub enum StoreError {
    /// The database refused.
    #[error("the project's database answered: {0}")]
    Database(#[from] sqlx::Error),
    /// Another layout than this version's.
    #[error("the project's database cannot be brought up to date: {0}")]
    Migration(#[from] sqlx::migrate::MigrateError),
    /// A stored text is damaged.
    #[error("a stored {what} cannot be read: {source}")]
    Damaged {
        /// What.
        what: &'static str,
        /// Why.
        source: serde_json::Error,
    },
    /// Another process works on this data folder.
    #[error(
        "another True Parallax works on {} already; end it, or start this one with another --data",
        folder.display()
    )]
    InUse {
        /// The folder.
        folder: std::path::PathBuf,
    },
    /// The data folder cannot be used.
    #[error("the data folder {} cannot be used: {source}", folder.display())]
    Folder {
        /// The folder.
        folder: std::path::PathBuf,
        /// Why.
        source: std::io::Error,
    },
    /// Nothing of this number.
    #[error("there is no {what} {id}")]
    Missing {
        /// What was asked for.
        what: &'static str,
        /// Its number.
        id: i64,
    },
    /// A package that was cleared for room.
    #[error("this package was cleared for room: the last {most} of a shot are kept. Deliver again")]
    Cleared {
        /// How many are kept.
        most: i64,
    },
    /// A change that makes no sense.
    #[error("{0}. Nothing was changed")]
    Invalid(#[from] Invalid),
    /// An edit that builds on a state that has changed since.
    #[error(
        "this was changed meanwhile ({}). Nothing was changed; look at it as it is now and do it again",
        if since.is_empty() { "long ago".to_owned() } else { since.join(", ") }
    )]
    Late {
        /// What was done since, oldest first.
        since: Vec<String>,
    },
    /// An edit that does not fit the state it is to be taken back from, or done again on.
    #[error("`{label}` does not fit what is kept of the shot any more; nothing was changed")]
    CannotStep {
        /// Its label.
        label: String,
    },
}

/// The open database.
#[derive(Clone)]
pub struct Store {
    pool: SqlitePool,
    /// Told of whatever was written, for those who show it.
    stirred: watch::Sender<u64>,
}

impl Store {
    /// Opens (or makes) the database at a path and brings it up to date.
    pub async fn open(path: &Path) -> Result<Self, StoreError> {
        let options = SqliteConnectOptions::new()
            .filename(path)
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            .foreign_keys(true)
            .auto_vacuum(SqliteAutoVacuum::Incremental)
            .busy_timeout(std::time::Duration::from_secs(10));
        let pool = SqlitePoolOptions::new()
            .max_connections(4)
            .connect_with(options)
            .await?;
        sqlx::migrate!("./migrations").run(&pool).await?;
        let (stirred, _) = watch::channel(0);
        Ok(Self { pool, stirred })
    }

    /// Changes its value whenever shots or their work have changed.
    pub fn stirred(&self) -> watch::Receiver<u64> {
        self.stirred.subscribe()
    }

    pub(crate) fn stir(&self) {
        self.stirred.send_modify(|count| *count += 1);
    }
}

fn to_text<T: serde::Serialize>(what: &'static str, value: &T) -> Result<String, StoreError> {
    serde_json::to_string(value).map_err(|source| StoreError::Damaged { what, source })
}

fn of_text<T: serde::de::DeserializeOwned>(
    what: &'static str,
    text: &str,
) -> Result<T, StoreError> {
    serde_json::from_str(text).map_err(|source| StoreError::Damaged { what, source })
}
