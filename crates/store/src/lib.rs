//! What is kept: shots, edits, tracks, attempts, deliveries and jobs in SQLite.
//!
//! One file per table. Every query is checked at compile time against the migrations. The
//! database runs in write-ahead mode; a result and the edit that makes it current are written
//! in one transaction, so that a process killed at any moment leaves whole results or none.
#![deny(missing_docs)]
#![cfg_attr(test, allow(clippy::unwrap_used))]

pub mod attempts;
pub mod bodies;
pub mod deliveries;
pub mod edits;
pub mod hand_paths;
pub mod jobs;
pub mod lens;
pub mod lenses;
pub mod photo;
pub mod shots;
pub mod state;
pub mod track_runs;
pub mod tracking;
pub mod undistortions;

pub use state::ShotState;

use sqlx::SqlitePool;
use sqlx::sqlite::{SqliteConnectOptions, SqliteJournalMode, SqlitePoolOptions, SqliteSynchronous};
use std::path::Path;

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
    /// Nothing of this number.
    #[error("there is no {what} {id}")]
    Missing {
        /// What was asked for.
        what: &'static str,
        /// Its number.
        id: i64,
    },
    /// A change that makes no sense.
    #[error("{0}")]
    Invalid(String),
}

/// The open database.
#[derive(Clone)]
pub struct Store {
    pool: SqlitePool,
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
            .busy_timeout(std::time::Duration::from_secs(10));
        let pool = SqlitePoolOptions::new()
            .max_connections(4)
            .connect_with(options)
            .await?;
        sqlx::migrate!("./migrations").run(&pool).await?;
        Ok(Self { pool })
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
