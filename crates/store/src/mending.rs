//! A shot whose state cannot be read: what of it can, and going on with that.

use crate::edits::{Kept, put};
use crate::{ShotState, Store, StoreError, to_text};
use serde_json::Value;

/// What a kept text still says: each member that can be read and is sound, the others as in `new`.
pub(crate) fn salvaged(text: &str, new: ShotState) -> ShotState {
    let Ok(Value::Object(members)) = serde_json::from_str(text) else {
        return new;
    };
    members.into_iter().fold(new, |state, (name, value)| {
        let with = serde_json::to_value(&state).ok().and_then(|mut whole| {
            *whole.get_mut(&name)? = value;
            serde_json::from_value::<ShotState>(whole)
                .ok()?
                .checked()
                .ok()
        });
        with.unwrap_or(state)
    })
}

impl Store {
    /// Puts what can be read of a damaged state in its place, as an edit that keeps the damaged
    /// text. A sound state stays as it is.
    pub async fn mend(&self, shot: i64) -> Result<(), StoreError> {
        const LABEL: &str = "go on with what can be read";
        let seen = self.shot(shot).await?;
        let mut writing = self.writing().await?;
        let row = sqlx::query!("SELECT state, version FROM shots WHERE id = ?", shot)
            .fetch_one(&mut *writing)
            .await?;
        if serde_json::from_str::<ShotState>(&row.state).is_ok() {
            return Ok(());
        }
        let state = salvaged(&row.state, ShotState::new(seen.width_px, seen.height_px));
        let after = to_text("state", &state)?;
        sqlx::query!("DELETE FROM edits WHERE shot_id = ? AND undone = 1", shot)
            .execute(&mut *writing)
            .await?;
        sqlx::query!(
            "INSERT INTO edits (shot_id, label, before, after) VALUES (?, ?, ?, ?)",
            shot,
            LABEL,
            row.state,
            after
        )
        .execute(&mut *writing)
        .await?;
        let before = Kept {
            state: Value::Null,
            version: row.version,
        };
        let after = serde_json::to_value(&state).map_err(|source| StoreError::Damaged {
            what: "state",
            source,
        })?;
        put(&mut writing, shot, &before, &after, LABEL).await?;
        writing.commit().await
    }
}
