//! The files that a plate was when it was taken in.

use crate::shots::PlateFacts;
use crate::{Store, StoreError, of_text, to_text};
use parallax_media::pin::Pin;

impl Store {
    /// Pins a shot's plate to files, with what is known of them; what was pinned before is replaced.
    pub async fn pin_plate(
        &self,
        shot: i64,
        pin: &Pin,
        facts: &PlateFacts,
    ) -> Result<(), StoreError> {
        let files = to_text("list of files", pin)?;
        let pinned = Some(pin.fingerprint());
        let plate = to_text(
            "plate",
            &PlateFacts {
                pinned,
                ..facts.clone()
            },
        )?;
        let mut writing = self.writing().await?;
        sqlx::query!(
            "INSERT OR REPLACE INTO pins (shot_id, files) VALUES (?, ?)",
            shot,
            files
        )
        .execute(&mut *writing)
        .await?;
        sqlx::query!("UPDATE shots SET sequence = ? WHERE id = ?", plate, shot)
            .execute(&mut *writing)
            .await?;
        writing.commit().await
    }

    /// The files of a shot's plate; `None` for shots of before they were pinned.
    pub async fn pin(&self, shot: i64) -> Result<Option<Pin>, StoreError> {
        let row = sqlx::query_scalar!("SELECT files FROM pins WHERE shot_id = ?", shot)
            .fetch_optional(&self.pool)
            .await?;
        row.map(|files| of_text("list of files", &files))
            .transpose()
    }
}
