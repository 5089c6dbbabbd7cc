//! Attempts: saved solves of a shot, side by side.

use crate::{ShotState, Store, StoreError, of_text, to_text};
use parallax_core::solve::Attempt;
use serde::Serialize;

/// An attempt in a list.
#[derive(Clone, Debug, Serialize)]
pub struct AttemptEntry {
    /// Its number in the database.
    pub id: i64,
    /// Its number among the attempts of its shot, from 1.
    pub number: i64,
    /// What was solved.
    pub label: String,
    /// Root mean square of its residuals, px.
    pub rms_px: f64,
}

/// An attempt with what it was made from.
#[derive(Clone, Debug)]
pub struct KeptAttempt {
    /// Its number.
    pub id: i64,
    /// The tracks it was solved from.
    pub run: i64,
    /// Fingerprint of what it was made from.
    pub inputs: String,
    /// The solve.
    pub attempt: Attempt,
}

impl Store {
    /// Keeps an attempt and makes it the shot's current one, as one edit.
    pub async fn keep_attempt(
        &self,
        shot: i64,
        run: i64,
        label: &str,
        inputs: &str,
        attempt: &Attempt,
    ) -> Result<i64, StoreError> {
        let result = to_text("attempt", attempt)?;
        let mut writing = self.writing().await?;
        let id = sqlx::query!(
            "INSERT INTO attempts (shot_id, run_id, label, inputs, rms_px, result) VALUES (?, ?, ?, ?, ?, ?)",
            shot,
            run,
            label,
            inputs,
            attempt.rms_px,
            result
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        Self::edit_in(&mut writing, shot, "solve", None, |state| {
            Ok(ShotState {
                attempt: Some(id),
                ..state.clone()
            })
        })
        .await?;
        writing.commit().await?;
        Ok(id)
    }

    /// One attempt.
    pub async fn attempt(&self, id: i64) -> Result<KeptAttempt, StoreError> {
        let row = sqlx::query!(
            "SELECT run_id, inputs, result FROM attempts WHERE id = ?",
            id
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::Missing {
            what: "attempt",
            id,
        })?;
        Ok(KeptAttempt {
            id,
            run: row.run_id,
            inputs: row.inputs,
            attempt: of_text("attempt", &row.result)?,
        })
    }

    /// All attempts of a shot, newest first.
    pub async fn attempts(&self, shot: i64) -> Result<Vec<AttemptEntry>, StoreError> {
        Ok(sqlx::query_as!(
            AttemptEntry,
            "SELECT id, ROW_NUMBER() OVER (ORDER BY id) AS \"number!: i64\", label, rms_px FROM attempts WHERE shot_id = ? ORDER BY id DESC",
            shot
        )
        .fetch_all(&self.pool)
        .await?)
    }
}
