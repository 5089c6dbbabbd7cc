//! Slip that was measured in the plate under places of a solve.

use crate::{Store, StoreError};

/// Slip under one place.
#[derive(Clone, Debug, PartialEq)]
pub struct MeasuredSlip {
    /// The track whose landmark the place is; `None` of another place.
    pub track: Option<u32>,
    /// The place, in the solve's own world.
    pub place: [f64; 3],
    /// How many crops are like each other.
    pub crops: u32,
    /// Root mean square slip, px.
    pub rms_px: f64,
    /// Where the plate slips most, if that can be seen: first and last frame, and by how much, px.
    pub worst: Option<(i32, i32, f64)>,
}

/// Of an attempt the last ones are kept.
const MOST: i64 = 60;

impl Store {
    /// Keeps what was measured under a place of an attempt, instead of what was measured there before.
    pub async fn keep_slip(&self, attempt: i64, slip: &MeasuredSlip) -> Result<i64, StoreError> {
        let mut writing = self.writing().await?;
        let [x, y, z] = slip.place;
        sqlx::query!(
            "DELETE FROM measured_slips WHERE attempt_id = ? AND track IS ? AND x = ? AND y = ? AND z = ?",
            attempt,
            slip.track,
            x,
            y,
            z
        )
        .execute(&mut *writing)
        .await?;
        let (from, to, px) = match slip.worst {
            Some((from, to, px)) => (Some(from), Some(to), Some(px)),
            None => (None, None, None),
        };
        let id = sqlx::query!(
            "INSERT INTO measured_slips (attempt_id, track, x, y, z, crops, rms_px, worst_from, worst_to, worst_px)
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            attempt,
            slip.track,
            x,
            y,
            z,
            slip.crops,
            slip.rms_px,
            from,
            to,
            px
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        sqlx::query!(
            "DELETE FROM measured_slips WHERE attempt_id = ? AND id NOT IN (
                 SELECT id FROM measured_slips WHERE attempt_id = ? ORDER BY id DESC LIMIT ?)",
            attempt,
            attempt,
            MOST
        )
        .execute(&mut *writing)
        .await?;
        writing.commit().await?;
        Ok(id)
    }

    /// What was measured under places of an attempt, with numbers, the last first.
    pub async fn slips(&self, attempt: i64) -> Result<Vec<(i64, MeasuredSlip)>, StoreError> {
        let rows = sqlx::query!(
            r#"SELECT id, track AS "track: u32", x, y, z, crops AS "crops: u32", rms_px,
                   worst_from AS "worst_from: i32", worst_to AS "worst_to: i32", worst_px
               FROM measured_slips WHERE attempt_id = ? ORDER BY id DESC"#,
            attempt
        )
        .fetch_all(&self.pool)
        .await?;
        let slip = rows.into_iter().map(|row| {
            let run = row.worst_from.zip(row.worst_to).zip(row.worst_px);
            let slip = MeasuredSlip {
                track: row.track,
                place: [row.x, row.y, row.z],
                crops: row.crops,
                rms_px: row.rms_px,
                worst: run.map(|((from, to), px)| (from, to, px)),
            };
            (row.id, slip)
        });
        Ok(slip.collect())
    }

    /// Forgets one of an attempt.
    pub async fn forget_slip(&self, attempt: i64, id: i64) -> Result<(), StoreError> {
        let mut writing = self.writing().await?;
        let done = sqlx::query!(
            "DELETE FROM measured_slips WHERE id = ? AND attempt_id = ?",
            id,
            attempt
        )
        .execute(&mut *writing)
        .await?;
        writing.commit().await?;
        match done.rows_affected() {
            0 => Err(StoreError::Missing {
                what: "measured slip",
                id,
            }),
            _ => Ok(()),
        }
    }
}
