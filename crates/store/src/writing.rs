//! A transaction that writes. One that is not committed takes its connection with it: after a full
//! disk SQLite may leave a connection inside a transaction that can neither go on nor be taken
//! back, and whoever got that connection next would fail.

use crate::{Store, StoreError};
use sqlx::Sqlite;
use sqlx::pool::PoolConnection;
use sqlx::sqlite::SqliteConnection;
use std::ops::{Deref, DerefMut};
use tokio::sync::watch;

/// A connection inside a transaction.
pub(crate) struct Writing {
    connection: Option<PoolConnection<Sqlite>>,
    stirred: watch::Sender<u64>,
}

impl Store {
    /// Begins to write; nobody else writes until this is committed or dropped.
    pub(crate) async fn writing(&self) -> Result<Writing, StoreError> {
        let mut writing = Writing {
            connection: Some(self.pool.acquire().await?),
            stirred: self.stirred.clone(),
        };
        sqlx::query("BEGIN IMMEDIATE")
            .execute(&mut *writing)
            .await?;
        Ok(writing)
    }
}

impl Writing {
    /// Keeps what was written, all of it or nothing.
    pub(crate) async fn commit(mut self) -> Result<(), StoreError> {
        sqlx::query("COMMIT").execute(&mut *self).await?;
        // Back to the others.
        self.connection = None;
        self.stirred.send_modify(|count| *count += 1);
        Ok(())
    }
}

impl Drop for Writing {
    fn drop(&mut self) {
        // Closed instead of handed on: SQLite takes back what was not committed.
        if let Some(connection) = self.connection.take() {
            drop(connection.detach());
        }
    }
}

impl Deref for Writing {
    type Target = SqliteConnection;

    fn deref(&self) -> &SqliteConnection {
        match &self.connection {
            Some(connection) => connection,
            None => unreachable!("a committed transaction is not used"),
        }
    }
}

impl DerefMut for Writing {
    fn deref_mut(&mut self) -> &mut SqliteConnection {
        match &mut self.connection {
            Some(connection) => connection,
            None => unreachable!("a committed transaction is not used"),
        }
    }
}
