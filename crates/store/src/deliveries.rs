//! Deliveries: packages that were handed on, with their receipts.

use crate::budget::MOST_PACKAGES;
use crate::{ShotState, Store, StoreError};

/// A delivery without its package.
#[derive(Clone, Debug)]
pub struct KeptDelivery {
    /// Its number.
    pub id: i64,
    /// Fingerprint of what it was made from.
    pub inputs: String,
    /// The receipt, JSON.
    pub receipt: String,
}

impl Store {
    /// Keeps a delivery and makes it the shot's latest, as one edit.
    pub async fn keep_delivery(
        &self,
        shot: i64,
        inputs: &str,
        receipt: &str,
        package: &[u8],
    ) -> Result<i64, StoreError> {
        let mut writing = self.writing().await?;
        let id = sqlx::query!(
            "INSERT INTO deliveries (shot_id, inputs, receipt, package) VALUES (?, ?, ?, ?)",
            shot,
            inputs,
            receipt,
            package
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        Self::edit_in(&mut writing, shot, "deliver", None, |state| {
            Ok(ShotState {
                delivery: Some(id),
                ..state.clone()
            })
        })
        .await?;
        Self::clear_packages(&mut writing, shot).await?;
        writing.commit().await?;
        Ok(id)
    }

    /// One delivery.
    pub async fn delivery(&self, id: i64) -> Result<KeptDelivery, StoreError> {
        let row = sqlx::query!("SELECT inputs, receipt FROM deliveries WHERE id = ?", id)
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::Missing {
                what: "delivery",
                id,
            })?;
        Ok(KeptDelivery {
            id,
            inputs: row.inputs,
            receipt: row.receipt,
        })
    }

    /// The package of a delivery of a shot, a zip archive; [`StoreError::Cleared`] where it was
    /// cleared for room.
    pub async fn package(&self, shot: i64, id: i64) -> Result<Vec<u8>, StoreError> {
        let package = sqlx::query_scalar!(
            "SELECT package FROM deliveries WHERE id = ? AND shot_id = ?",
            id,
            shot
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::Missing {
            what: "delivery",
            id,
        })?;
        if package.is_empty() {
            return Err(StoreError::Cleared {
                most: MOST_PACKAGES,
            });
        }
        Ok(package)
    }
}
