//! Runs of following: all tracks of one run, and what speaks against some of them.

use crate::budget::CLEARED;
use crate::tracking::{FIRST_HAND, TrackNote};
use crate::{Invalid, ShotState, Store, StoreError, of_text, to_text};
use parallax_core::judge::{Suspect, Why};
use parallax_core::spaces::{FrameNumber, TrackId};
use parallax_core::tracks::Track;
use std::collections::BTreeMap;

/// The tracks of one run.
#[derive(Clone, Debug)]
pub struct TrackRun {
    /// Its number.
    pub id: i64,
    /// Fingerprint of what it was made from.
    pub inputs: String,
    /// Tracks, ascending by id.
    pub tracks: Vec<Track>,
    /// Those that should not be trusted.
    pub suspects: Vec<Suspect>,
    /// Whether its tracks were cleared for room ([`crate::budget`]).
    pub cleared: bool,
}

/// Inputs of a run that holds nothing, for hand tracks alone.
pub const NOTHING_FOLLOWED: &str = "";

fn overtaken() -> StoreError {
    Invalid::OtherTracks.into()
}

impl Store {
    /// Keeps a run and makes it the shot's current one, as one edit.
    pub async fn keep_tracks(
        &self,
        shot: i64,
        inputs: &str,
        tracks: &[Track],
        suspects: &[Suspect],
    ) -> Result<i64, StoreError> {
        let fresh = |run: i64, state: &ShotState| {
            // Numbers of automatic tracks mean other features now; those of hand tracks stay.
            let by_hand =
                |ids: &[u32]| ids.iter().copied().filter(|id| *id >= FIRST_HAND).collect();
            let notes = state.notes.iter().filter(|(id, _)| **id >= FIRST_HAND);
            Ok(ShotState {
                run: Some(run),
                culled: by_hand(&state.culled),
                kept_movers: by_hand(&state.kept_movers),
                notes: notes.map(|(id, note)| (*id, note.clone())).collect(),
                ..state.clone()
            })
        };
        self.put_run(shot, "follow features", (inputs, tracks, suspects), fresh)
            .await
    }

    /// Keeps a run that has more tracks than the current one, the same ones first, and what is said of
    /// the new ones; as one edit. Refused when another run has become the current one.
    pub async fn add_tracks(
        &self,
        shot: i64,
        label: &str,
        from: Option<i64>,
        (inputs, tracks, suspects): (&str, &[Track], &[Suspect]),
        notes: &BTreeMap<u32, TrackNote>,
        aside: &[u32],
    ) -> Result<i64, StoreError> {
        let more = |run: i64, state: &ShotState| {
            if state.run != from {
                return Err(overtaken());
            }
            let mut next = ShotState {
                run: Some(run),
                ..state.clone()
            };
            next.notes
                .extend(notes.iter().map(|(id, note)| (*id, note.clone())));
            Ok(next.culled(aside, &[]))
        };
        self.put_run(shot, label, (inputs, tracks, suspects), more)
            .await
    }

    /// The tracks of a run with other suspects, as a run of its own, so that what rests on the old one is
    /// stale. It takes the place of the current one without an edit: undo takes back what the artist did.
    /// Refused when another run has become the current one.
    pub async fn judge_anew(
        &self,
        shot: i64,
        from: i64,
        suspects: &[Suspect],
    ) -> Result<i64, StoreError> {
        let suspects = to_text("suspects", &suspects)?;
        let mut writing = self.writing().await?;
        let run = sqlx::query!(
            "INSERT INTO track_runs (shot_id, inputs, tracks, movers, suspects)
             SELECT shot_id, inputs, tracks, '[]', ? FROM track_runs WHERE id = ?",
            suspects,
            from
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        let judged = |state: &ShotState| match state.run {
            Some(run_now) if run_now == from => Ok(ShotState {
                run: Some(run),
                ..state.clone()
            }),
            _ => Err(overtaken()),
        };
        Self::amend_in(&mut writing, shot, "judge tracks", judged).await?;
        Self::clear_runs(&mut writing, shot).await?;
        writing.commit().await?;
        Ok(run)
    }

    /// A run that holds nothing, for hand tracks alone: attempts belong to a run. No edit; the one that
    /// needs it names it.
    pub async fn empty_run(&self, shot: i64) -> Result<i64, StoreError> {
        let empty = sqlx::query!(
            "INSERT INTO track_runs (shot_id, inputs, tracks, movers, suspects) VALUES (?, ?, '[]', '[]', '[]')",
            shot,
            NOTHING_FOLLOWED
        );
        Ok(empty.execute(&self.pool).await?.last_insert_rowid())
    }

    async fn put_run(
        &self,
        shot: i64,
        label: &str,
        (inputs, tracks, suspects): (&str, &[Track], &[Suspect]),
        change: impl FnOnce(i64, &ShotState) -> Result<ShotState, StoreError>,
    ) -> Result<i64, StoreError> {
        let (tracks, suspects) = (to_text("tracks", &tracks)?, to_text("suspects", &suspects)?);
        let mut writing = self.writing().await?;
        let run = sqlx::query!(
            "INSERT INTO track_runs (shot_id, inputs, tracks, movers, suspects) VALUES (?, ?, ?, '[]', ?)",
            shot,
            inputs,
            tracks,
            suspects
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        Self::edit_in(&mut writing, shot, label, None, |state| change(run, state)).await?;
        Self::clear_runs(&mut writing, shot).await?;
        writing.commit().await?;
        Ok(run)
    }

    /// One run.
    pub async fn track_run(&self, id: i64) -> Result<TrackRun, StoreError> {
        let row = sqlx::query!(
            "SELECT inputs, tracks, movers, suspects FROM track_runs WHERE id = ?",
            id
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::Missing {
            what: "track run",
            id,
        })?;
        // Runs from before suspects were kept know of movers only.
        let movers: Vec<TrackId> = of_text("movers", &row.movers)?;
        let mover = |track| Suspect {
            track,
            why: Why::Mover,
            figure: 0.0,
            frame: FrameNumber(0),
            other: None,
        };
        let mut suspects: Vec<Suspect> = of_text("suspects", &row.suspects)?;
        suspects.extend(movers.into_iter().map(mover));
        Ok(TrackRun {
            id,
            cleared: row.inputs == CLEARED,
            inputs: row.inputs,
            tracks: of_text("tracks", &row.tracks)?,
            suspects,
        })
    }
}
