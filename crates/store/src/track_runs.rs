//! Runs of following: all tracks of one run, and which of them move by themselves.

use crate::{ShotState, Store, StoreError, of_text, to_text};
use parallax_core::spaces::TrackId;
use parallax_core::track::Track;

/// The tracks of one run.
#[derive(Clone, Debug)]
pub struct TrackRun {
    /// Its number.
    pub id: i64,
    /// Fingerprint of what it was made from.
    pub inputs: String,
    /// Tracks, ascending by id.
    pub tracks: Vec<Track>,
    /// Those that move against the camera's motion.
    pub movers: Vec<TrackId>,
}

impl Store {
    /// Keeps a run and makes it the shot's current one, as one edit.
    pub async fn keep_tracks(
        &self,
        shot: i64,
        inputs: &str,
        tracks: &[Track],
        movers: &[TrackId],
    ) -> Result<i64, StoreError> {
        let (tracks, movers) = (to_text("tracks", &tracks)?, to_text("movers", &movers)?);
        let mut transaction = self.pool.begin_with("BEGIN IMMEDIATE").await?;
        let run = sqlx::query!(
            "INSERT INTO track_runs (shot_id, inputs, tracks, movers) VALUES (?, ?, ?, ?)",
            shot,
            inputs,
            tracks,
            movers
        )
        .execute(&mut *transaction)
        .await?
        .last_insert_rowid();
        Self::edit_in(&mut transaction, shot, "follow features", |state| {
            // Numbers of tracks mean other features now.
            Ok(ShotState { run: Some(run), culled: Vec::new(), kept_movers: Vec::new(), ..state.clone() })
        })
        .await?;
        transaction.commit().await?;
        Ok(run)
    }

    /// One run.
    pub async fn track_run(&self, id: i64) -> Result<TrackRun, StoreError> {
        let row = sqlx::query!("SELECT inputs, tracks, movers FROM track_runs WHERE id = ?", id)
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::Missing { what: "track run", id })?;
        Ok(TrackRun {
            id,
            inputs: row.inputs,
            tracks: of_text("tracks", &row.tracks)?,
            movers: of_text("movers", &row.movers)?,
        })
    }
}
