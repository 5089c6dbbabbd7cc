//! Plates that were undistorted: where they are, with their receipts.

use crate::{ShotState, Store, StoreError};

/// An undistorted plate on disk.
#[derive(Clone, Debug)]
pub struct Undistortion {
    /// Its number.
    pub id: i64,
    /// Fingerprint of what it was made from.
    pub inputs: String,
    /// Its folder.
    pub folder: String,
    /// The receipt, JSON.
    pub receipt: String,
}

impl Store {
    /// Keeps an undistorted plate and makes it the shot's latest, as one edit.
    pub async fn keep_undistortion(
        &self,
        shot: i64,
        inputs: &str,
        folder: &str,
        receipt: &str,
    ) -> Result<i64, StoreError> {
        let mut writing = self.writing().await?;
        let id = sqlx::query!(
            "INSERT INTO undistortions (shot_id, inputs, folder, receipt) VALUES (?, ?, ?, ?)",
            shot,
            inputs,
            folder,
            receipt
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        let next = |state: &ShotState| {
            Ok(ShotState {
                undistorted: Some(id),
                ..state.clone()
            })
        };
        Self::edit_in(&mut writing, shot, "undistort the plate", None, next).await?;
        writing.commit().await?;
        Ok(id)
    }

    /// One undistorted plate of a shot.
    pub async fn undistortion(&self, shot: i64, id: i64) -> Result<Undistortion, StoreError> {
        let row = sqlx::query!(
            "SELECT inputs, folder, receipt FROM undistortions WHERE id = ? AND shot_id = ?",
            id,
            shot
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::Missing {
            what: "undistorted plate",
            id,
        })?;
        Ok(Undistortion {
            id,
            inputs: row.inputs,
            folder: row.folder,
            receipt: row.receipt,
        })
    }
}
