//! What legs of hand tracks found, kept by all that they depend on: going back to an earlier key
//! finds its path still there.

use crate::{Store, StoreError, of_text, to_text};
use parallax_core::track::hand::Path;
use std::collections::HashMap;

impl Store {
    /// The paths of these legs that were followed with these inputs, by the fingerprint of their leg.
    pub async fn hand_paths(
        &self,
        shot: i64,
        inputs: &str,
        legs: &[String],
    ) -> Result<HashMap<String, Path>, StoreError> {
        let legs = to_text("legs", &legs)?;
        let rows = sqlx::query!(
            "SELECT leg, path FROM hand_paths WHERE shot_id = ? AND inputs = ?
             AND leg IN (SELECT value FROM json_each(?))",
            shot,
            inputs,
            legs
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter()
            .map(|row| Ok((row.leg, of_text("path", &row.path)?)))
            .collect()
    }

    /// Keeps paths, all or none.
    pub async fn keep_hand_paths(
        &self,
        shot: i64,
        inputs: &str,
        paths: &HashMap<String, Path>,
    ) -> Result<(), StoreError> {
        let mut writing = self.writing().await?;
        for (leg, path) in paths {
            let path = to_text("path", path)?;
            sqlx::query!(
                "INSERT OR REPLACE INTO hand_paths (shot_id, inputs, leg, path) VALUES (?, ?, ?, ?)",
                shot,
                inputs,
                leg,
                path
            )
            .execute(&mut *writing)
            .await?;
        }
        writing.commit().await?;
        Ok(())
    }
}
