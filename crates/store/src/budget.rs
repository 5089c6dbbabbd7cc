//! What a shot keeps of large results, and what goes first.
//!
//! Every run of following and every package stays in the database as long as undo may lead to it,
//! and runs are megabytes each. Of each shot the tracks of the last [`MOST_RUNS`] runs and the last
//! [`MOST_PACKAGES`] packages are kept; of what is older the row stays, so that undo still finds its
//! way, but its content is cleared. The run that the shot shows now and that of its current attempt
//! are never cleared. Attempts are kept: they are what an artist compares.

use crate::writing::Writing;
use crate::{Store, StoreError};

/// Runs of a shot whose tracks are kept.
pub const MOST_RUNS: i64 = 20;
/// Packages of a shot that are kept.
pub const MOST_PACKAGES: i64 = 20;

/// Inputs of a run whose tracks were cleared for room.
pub(crate) const CLEARED: &str = "cleared";

impl Store {
    /// Clears the tracks of old runs of a shot.
    pub(crate) async fn clear_runs(writing: &mut Writing, shot: i64) -> Result<(), StoreError> {
        sqlx::query!(
            "UPDATE track_runs SET inputs = ?, tracks = '[]', movers = '[]', suspects = '[]'
             WHERE shot_id = ? AND inputs <> ?
             AND id NOT IN (SELECT id FROM track_runs WHERE shot_id = ? ORDER BY id DESC LIMIT ?)
             AND id NOT IN (
                SELECT json_extract(state, '$.run') FROM shots
                WHERE id = ? AND json_extract(state, '$.run') IS NOT NULL
             )
             AND id NOT IN (
                SELECT run_id FROM attempts
                WHERE id = (SELECT json_extract(state, '$.attempt') FROM shots WHERE id = ?)
             )",
            CLEARED,
            shot,
            CLEARED,
            shot,
            MOST_RUNS,
            shot,
            shot
        )
        .execute(&mut **writing)
        .await?;
        Ok(())
    }

    /// Clears old packages of a shot; their receipts stay.
    pub(crate) async fn clear_packages(writing: &mut Writing, shot: i64) -> Result<(), StoreError> {
        sqlx::query!(
            "UPDATE deliveries SET package = x'', camera = '' WHERE shot_id = ? AND LENGTH(package) > 0
             AND id NOT IN (SELECT id FROM deliveries WHERE shot_id = ? ORDER BY id DESC LIMIT ?)",
            shot,
            shot,
            MOST_PACKAGES
        )
        .execute(&mut **writing)
        .await?;
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::tests::{new_delivery, track, with_shot};

    /// Runs are megabytes each: those of long ago are cleared, and undo still finds its way.
    #[tokio::test]
    async fn old_runs_and_packages_are_cleared_for_room() {
        let folder = tempfile::tempdir().unwrap();
        let (store, shot) = with_shot(folder.path()).await;
        let run = async |k: i32| {
            store
                .keep_tracks(shot, &format!("inputs {k}"), &[track(1, k)], &[])
                .await
                .unwrap()
        };
        let first = run(0).await;
        let mut last = first;
        for k in 1..=MOST_RUNS as i32 + 2 {
            last = run(k).await;
        }
        let gone = store.track_run(first).await.unwrap();
        assert!(gone.cleared && gone.tracks.is_empty());
        let kept = store.track_run(last - MOST_RUNS + 1).await.unwrap();
        assert!(!kept.cleared && kept.tracks.len() == 1);
        // Back to the step whose tracks are gone, and on again.
        for _ in 0..MOST_RUNS + 2 {
            store.undo(shot).await.unwrap();
        }
        assert_eq!(store.shot(shot).await.unwrap().state.run, Some(first));
        for _ in 0..MOST_RUNS + 2 {
            store.redo(shot).await.unwrap();
        }
        assert_eq!(store.shot(shot).await.unwrap().state.run, Some(last));

        for k in 0..=MOST_PACKAGES {
            store
                .keep_delivery(shot, &new_delivery(&format!("{k}")))
                .await
                .unwrap();
        }
        let cleared = store.package(shot, 1).await;
        assert!(
            matches!(cleared, Err(StoreError::Cleared { .. })),
            "{cleared:?}"
        );
        assert_eq!(store.package(shot, 2).await.unwrap(), b"package");
        assert_eq!(store.delivery(1).await.unwrap().receipt, "{}");
    }

    /// The run that is looked at is never cleared, however old it is.
    #[tokio::test]
    async fn the_run_that_is_shown_is_never_cleared() {
        let folder = tempfile::tempdir().unwrap();
        let (store, shot) = with_shot(folder.path()).await;
        let shown = store
            .keep_tracks(shot, "shown", &[track(1, 0)], &[])
            .await
            .unwrap();
        for _ in 0..MOST_RUNS + 5 {
            store.empty_run(shot).await.unwrap();
        }
        let mut writing = store.writing().await.unwrap();
        Store::clear_runs(&mut writing, shot).await.unwrap();
        writing.commit().await.unwrap();
        assert!(!store.track_run(shown).await.unwrap().cleared);
    }
}
