//! Edits: every change of state, with undo and redo.

use crate::{ShotState, Store, StoreError, of_text, to_text};
use serde::Serialize;

/// What undo and redo would do next.
#[derive(Clone, Debug, Default, Serialize)]
pub struct History {
    /// Label of the edit that undo takes back.
    pub undo: Option<String>,
    /// Label of the edit that redo does again.
    pub redo: Option<String>,
}

impl Store {
    /// Changes a shot's state by a function of the present one, as one edit. Edits that were
    /// undone are forgotten. Nothing is written when nothing changes.
    pub async fn edit(
        &self,
        shot: i64,
        label: &str,
        change: impl FnOnce(&ShotState) -> Result<ShotState, StoreError>,
    ) -> Result<ShotState, StoreError> {
        let mut transaction = self.pool.begin_with("BEGIN IMMEDIATE").await?;
        let next = Self::edit_in(&mut transaction, shot, label, change).await?;
        transaction.commit().await?;
        Ok(next)
    }

    pub(crate) async fn edit_in(
        connection: &mut sqlx::SqliteConnection,
        shot: i64,
        label: &str,
        change: impl FnOnce(&ShotState) -> Result<ShotState, StoreError>,
    ) -> Result<ShotState, StoreError> {
        let before = sqlx::query_scalar!("SELECT state FROM shots WHERE id = ?", shot)
            .fetch_optional(&mut *connection)
            .await?
            .ok_or(StoreError::Missing {
                what: "shot",
                id: shot,
            })?;
        let next = change(&of_text("state", &before)?)?;
        let after = to_text("state", &next)?;
        if after == before {
            return Ok(next);
        }
        sqlx::query!("DELETE FROM edits WHERE shot_id = ? AND undone = 1", shot)
            .execute(&mut *connection)
            .await?;
        sqlx::query!(
            "INSERT INTO edits (shot_id, label, before, after) VALUES (?, ?, ?, ?)",
            shot,
            label,
            before,
            after
        )
        .execute(&mut *connection)
        .await?;
        sqlx::query!("UPDATE shots SET state = ? WHERE id = ?", after, shot)
            .execute(&mut *connection)
            .await?;
        Ok(next)
    }

    /// Takes back the last edit; its label, or `None` when there is none.
    pub async fn undo(&self, shot: i64) -> Result<Option<String>, StoreError> {
        let mut transaction = self.pool.begin_with("BEGIN IMMEDIATE").await?;
        let last = sqlx::query!(
            "SELECT id, label, before FROM edits WHERE shot_id = ? AND undone = 0 ORDER BY id DESC LIMIT 1",
            shot
        )
        .fetch_optional(&mut *transaction)
        .await?;
        let Some(last) = last else { return Ok(None) };
        sqlx::query!("UPDATE edits SET undone = 1 WHERE id = ?", last.id)
            .execute(&mut *transaction)
            .await?;
        sqlx::query!("UPDATE shots SET state = ? WHERE id = ?", last.before, shot)
            .execute(&mut *transaction)
            .await?;
        transaction.commit().await?;
        Ok(Some(last.label))
    }

    /// Does the edit again that was last undone; its label, or `None` when there is none.
    pub async fn redo(&self, shot: i64) -> Result<Option<String>, StoreError> {
        let mut transaction = self.pool.begin_with("BEGIN IMMEDIATE").await?;
        let next = sqlx::query!(
            "SELECT id, label, after FROM edits WHERE shot_id = ? AND undone = 1 ORDER BY id ASC LIMIT 1",
            shot
        )
        .fetch_optional(&mut *transaction)
        .await?;
        let Some(next) = next else { return Ok(None) };
        sqlx::query!("UPDATE edits SET undone = 0 WHERE id = ?", next.id)
            .execute(&mut *transaction)
            .await?;
        sqlx::query!("UPDATE shots SET state = ? WHERE id = ?", next.after, shot)
            .execute(&mut *transaction)
            .await?;
        transaction.commit().await?;
        Ok(Some(next.label))
    }

    /// What undo and redo would do.
    pub async fn history(&self, shot: i64) -> Result<History, StoreError> {
        let undo = sqlx::query_scalar!(
            "SELECT label FROM edits WHERE shot_id = ? AND undone = 0 ORDER BY id DESC LIMIT 1",
            shot
        )
        .fetch_optional(&self.pool)
        .await?;
        let redo = sqlx::query_scalar!(
            "SELECT label FROM edits WHERE shot_id = ? AND undone = 1 ORDER BY id ASC LIMIT 1",
            shot
        )
        .fetch_optional(&self.pool)
        .await?;
        Ok(History { undo, redo })
    }
}
