//! Edits: every change of state, with undo and redo, and what changed since somebody looked.
//!
//! Each change of a shot's state, of whatever kind, has the next number of that shot. Edits keep
//! what differs ([`crate::difference`]); those of earlier versions of the program keep whole
//! states, as does mending a damaged one ([`crate::mending`]). The last [`MOST_EDITS`] edits of a shot are kept.

use crate::difference::{Difference, Way};
use crate::things::touched;
use crate::writing::Writing;
use crate::{Invalid, ShotState, Store, StoreError, of_text, to_text};
use serde::Serialize;
use serde_json::Value;

/// Edits of a shot that are kept; the oldest go first.
pub const MOST_EDITS: i64 = 5000;
/// Changes of a shot that a late edit is held against; who comes later than that is late.
const MOST_CHANGES: i64 = 500;

/// What undo and redo would do next.
#[derive(Clone, Debug, Default, Serialize)]
pub struct History {
    /// Label of the edit that undo takes back.
    pub undo: Option<String>,
    /// Label of the edit that redo does again.
    pub redo: Option<String>,
}

/// The state of a shot as it is kept.
pub(crate) struct Kept {
    pub(crate) state: Value,
    pub(crate) version: i64,
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
        self.edit_on(shot, label, None, change).await
    }

    /// The same for somebody who saw the shot as it was after change number `on`: refused when
    /// what it changes was changed since.
    pub async fn edit_on(
        &self,
        shot: i64,
        label: &str,
        on: Option<i64>,
        change: impl FnOnce(&ShotState) -> Result<ShotState, StoreError>,
    ) -> Result<ShotState, StoreError> {
        let mut writing = self.writing().await?;
        let next = Self::edit_in(&mut writing, shot, label, on, change).await?;
        writing.commit().await?;
        Ok(next)
    }

    pub(crate) async fn edit_in(
        writing: &mut Writing,
        shot: i64,
        label: &str,
        on: Option<i64>,
        change: impl FnOnce(&ShotState) -> Result<ShotState, StoreError>,
    ) -> Result<ShotState, StoreError> {
        let kept = kept(writing, shot).await?;
        let before: ShotState =
            serde_json::from_value(kept.state.clone()).map_err(|_| Invalid::Damaged)?;
        let next = change(&before)?;
        if next == before {
            return Ok(next);
        }
        let after = serde_json::to_value(&next).map_err(|source| StoreError::Damaged {
            what: "state",
            source,
        })?;
        let difference = Difference::between(&kept.state, &after);
        if let Some(on) = on.filter(|on| *on < kept.version) {
            let mine = touched(&difference, &kept.state, &after);
            refuse_late(writing, shot, on, &mine).await?;
        }
        sqlx::query!("DELETE FROM edits WHERE shot_id = ? AND undone = 1", shot)
            .execute(&mut **writing)
            .await?;
        let change = to_text("edit", &difference)?;
        sqlx::query!(
            "INSERT INTO edits (shot_id, label, before, after, change) VALUES (?, ?, '', '', ?)",
            shot,
            label,
            change
        )
        .execute(&mut **writing)
        .await?;
        sqlx::query!(
            "DELETE FROM edits WHERE shot_id = ? AND id <= (
                SELECT id FROM edits WHERE shot_id = ? ORDER BY id DESC LIMIT 1 OFFSET ?
             )",
            shot,
            shot,
            MOST_EDITS
        )
        .execute(&mut **writing)
        .await?;
        put(writing, shot, &kept, &after, label).await?;
        Ok(next)
    }

    /// Takes back the last edit; its label, or `None` when there is none.
    pub async fn undo(&self, shot: i64) -> Result<Option<String>, StoreError> {
        self.step(shot, Way::Backwards).await
    }

    /// Does the edit again that was last undone; its label, or `None` when there is none.
    pub async fn redo(&self, shot: i64) -> Result<Option<String>, StoreError> {
        self.step(shot, Way::Forwards).await
    }

    async fn step(&self, shot: i64, way: Way) -> Result<Option<String>, StoreError> {
        let mut writing = self.writing().await?;
        let edit = match way {
            Way::Backwards => sqlx::query!(
                "SELECT id, label, before AS whole, change FROM edits
                 WHERE shot_id = ? AND undone = 0 ORDER BY id DESC LIMIT 1",
                shot
            )
            .fetch_optional(&mut *writing)
            .await?
            .map(|e| (e.id, e.label, e.whole, e.change)),
            Way::Forwards => sqlx::query!(
                "SELECT id, label, after AS whole, change FROM edits
                 WHERE shot_id = ? AND undone = 1 ORDER BY id ASC LIMIT 1",
                shot
            )
            .fetch_optional(&mut *writing)
            .await?
            .map(|e| (e.id, e.label, e.whole, e.change)),
        };
        let Some((id, label, whole, change)) = edit else {
            return Ok(None);
        };
        let kept = kept(&mut writing, shot).await?;
        let next = match change {
            Some(change) => {
                let difference: Difference = of_text("edit", &change)?;
                let next = difference.applied(&kept.state, way);
                next.ok_or(StoreError::CannotStep {
                    label: label.clone(),
                })?
            }
            // Edits of before differences were kept.
            None => of_text("state", &whole).map_err(|_| StoreError::CannotStep {
                label: label.clone(),
            })?,
        };
        let undone = i64::from(way == Way::Backwards);
        sqlx::query!("UPDATE edits SET undone = ? WHERE id = ?", undone, id)
            .execute(&mut *writing)
            .await?;
        let did = if way == Way::Backwards {
            "undo"
        } else {
            "redo"
        };
        put(&mut writing, shot, &kept, &next, &format!("{did} {label}")).await?;
        writing.commit().await?;
        Ok(Some(label))
    }

    /// Changes the state without an edit: what is no deed of the artist's.
    pub(crate) async fn amend_in(
        writing: &mut Writing,
        shot: i64,
        label: &str,
        change: impl FnOnce(&ShotState) -> Result<ShotState, StoreError>,
    ) -> Result<(), StoreError> {
        let kept = kept(writing, shot).await?;
        let before: ShotState =
            serde_json::from_value(kept.state.clone()).map_err(|_| Invalid::Damaged)?;
        let after =
            serde_json::to_value(change(&before)?).map_err(|source| StoreError::Damaged {
                what: "state",
                source,
            })?;
        put(writing, shot, &kept, &after, label).await
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

async fn kept(writing: &mut Writing, shot: i64) -> Result<Kept, StoreError> {
    let row = sqlx::query!("SELECT state, version FROM shots WHERE id = ?", shot)
        .fetch_optional(&mut **writing)
        .await?
        .ok_or(StoreError::Missing {
            what: "shot",
            id: shot,
        })?;
    let state = of_text("state", &row.state).map_err(|_| Invalid::Damaged)?;
    Ok(Kept {
        state,
        version: row.version,
    })
}

/// Keeps a state as the next one of a shot, with what it touched.
pub(crate) async fn put(
    writing: &mut Writing,
    shot: i64,
    before: &Kept,
    after: &Value,
    label: &str,
) -> Result<(), StoreError> {
    let version = before.version + 1;
    let difference = Difference::between(&before.state, after);
    let touched = touched(&difference, &before.state, after).join(" ");
    let text = to_text("state", after)?;
    sqlx::query!(
        "UPDATE shots SET state = ?, version = ? WHERE id = ?",
        text,
        version,
        shot
    )
    .execute(&mut **writing)
    .await?;
    sqlx::query!(
        "INSERT INTO changes (shot_id, version, label, members) VALUES (?, ?, ?, ?)",
        shot,
        version,
        label,
        touched
    )
    .execute(&mut **writing)
    .await?;
    let oldest = version - MOST_CHANGES;
    sqlx::query!(
        "DELETE FROM changes WHERE shot_id = ? AND version <= ?",
        shot,
        oldest
    )
    .execute(&mut **writing)
    .await?;
    Ok(())
}

/// Refuses an edit that builds on an older state, where what it changes was changed since.
async fn refuse_late(
    writing: &mut Writing,
    shot: i64,
    on: i64,
    mine: &[String],
) -> Result<(), StoreError> {
    let since = sqlx::query!(
        "SELECT version, label, members FROM changes WHERE shot_id = ? AND version > ? ORDER BY version",
        shot,
        on
    )
    .fetch_all(&mut **writing)
    .await?;
    let touches = |theirs: &str| theirs.split(' ').any(|t| mine.iter().any(|m| m == t));
    // What is not known any more may have been anything.
    let unknown = since.first().is_none_or(|first| first.version > on + 1);
    let theirs: Vec<String> = since
        .into_iter()
        .filter(|c| unknown || touches(&c.members))
        .map(|c| c.label)
        .collect();
    if theirs.is_empty() && !unknown {
        Ok(())
    } else {
        Err(StoreError::Late { since: theirs })
    }
}
