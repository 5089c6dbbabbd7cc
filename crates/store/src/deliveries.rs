//! Deliveries: packages that were handed on, with their receipts.

use crate::budget::MOST_PACKAGES;
use crate::{ShotState, Store, StoreError};
use std::collections::BTreeMap;

/// A delivery without its package.
#[derive(Clone, Debug)]
pub struct KeptDelivery {
    /// Its number.
    pub id: i64,
    /// Fingerprint of what it was made from.
    pub inputs: String,
    /// The receipt, JSON.
    pub receipt: String,
    /// The recipe it was made by, by its id in the shot; 0 of before there were recipes.
    pub recipe: i64,
    /// Which of the deliveries by that recipe it is.
    pub version: i64,
    /// What the package is called.
    pub name: String,
    /// What changed against the one before, as a sentence; empty of the first.
    pub changed: String,
    /// The folder into which it was written as well; empty where it was not.
    pub folder: String,
    /// When it was made, ISO 8601.
    pub made: String,
    /// The folder of the undistorted plate that goes along; empty where none does.
    pub plate: String,
    /// By how much its frames are numbered higher than its files are.
    pub plate_by: i64,
}

/// A delivery that is to be kept.
pub struct NewDelivery<'a> {
    /// The recipe it was made by.
    pub recipe: u32,
    /// Which of the deliveries by that recipe it is.
    pub version: i64,
    /// What the package is called.
    pub name: &'a str,
    /// Fingerprint of what it was made from.
    pub inputs: &'a str,
    /// The receipt, JSON.
    pub receipt: &'a str,
    /// The package, a zip archive.
    pub package: &'a [u8],
    /// The neutral camera of everything, for what changes with the next one.
    pub camera: &'a str,
    /// What changed against the one before.
    pub changed: &'a str,
    /// The folder into which it was written as well.
    pub folder: &'a str,
    /// When it was made, ISO 8601.
    pub made: &'a str,
    /// The folder of the undistorted plate that goes along.
    pub plate: &'a str,
    /// By how much its frames are numbered higher than its files are.
    pub plate_by: i32,
}

impl Store {
    /// Keeps a delivery and makes it the shot's latest, as one edit.
    pub async fn keep_delivery(&self, shot: i64, new: &NewDelivery<'_>) -> Result<i64, StoreError> {
        let mut writing = self.writing().await?;
        let id = sqlx::query!(
            "INSERT INTO deliveries
             (shot_id, inputs, receipt, package, recipe, version, name, camera, changed, folder, made, plate, plate_by)
             VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
            shot,
            new.inputs,
            new.receipt,
            new.package,
            new.recipe,
            new.version,
            new.name,
            new.camera,
            new.changed,
            new.folder,
            new.made,
            new.plate,
            new.plate_by
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        Self::edit_in(&mut writing, shot, "deliver", None, |state| {
            let mut delivered = state.delivered.clone();
            delivered.insert(new.recipe, id);
            Ok(ShotState {
                delivery: Some(id),
                delivered,
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
        sqlx::query_as!(
            KeptDelivery,
            "SELECT id, inputs, receipt, recipe, version, name, changed, folder, made, plate, plate_by
             FROM deliveries WHERE id = ?",
            id
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::Missing {
            what: "delivery",
            id,
        })
    }

    /// Those of a shot's deliveries that a state names, by recipe; what is gone is left out.
    pub async fn delivered(
        &self,
        shot: i64,
        state: &ShotState,
    ) -> Result<BTreeMap<u32, KeptDelivery>, StoreError> {
        let wanted = serde_json::to_string(&state.delivered.values().collect::<Vec<_>>()).map_err(
            |source| StoreError::Damaged {
                what: "state",
                source,
            },
        )?;
        let rows = sqlx::query_as!(
            KeptDelivery,
            "SELECT id, inputs, receipt, recipe, version, name, changed, folder, made, plate, plate_by
             FROM deliveries WHERE shot_id = ? AND id IN (SELECT value FROM json_each(?))",
            shot,
            wanted
        )
        .fetch_all(&self.pool)
        .await?;
        let mut by_id: BTreeMap<i64, KeptDelivery> = rows.into_iter().map(|r| (r.id, r)).collect();
        let own = state.delivered.iter();
        Ok(own
            .filter_map(|(recipe, id)| Some((*recipe, by_id.remove(id)?)))
            .collect())
    }

    /// The highest version by a recipe of a shot, undone ones too, so that no two have the same; 0 before the first.
    pub async fn last_version(&self, shot: i64, recipe: u32) -> Result<i64, StoreError> {
        let version = sqlx::query_scalar!(
            "SELECT COALESCE(MAX(version), 0) AS \"version!: i64\" FROM deliveries WHERE shot_id = ? AND recipe = ?",
            shot,
            recipe
        )
        .fetch_one(&self.pool)
        .await?;
        Ok(version)
    }

    /// Folders of undistorted plates that go along with the latest deliveries of a shot.
    pub async fn delivered_plates(&self, shot: i64) -> Result<Vec<String>, StoreError> {
        let plates = sqlx::query_scalar!(
            "SELECT plate FROM deliveries WHERE plate <> '' AND id IN (
                SELECT MAX(id) FROM deliveries WHERE shot_id = ? GROUP BY recipe
             )",
            shot
        )
        .fetch_all(&self.pool)
        .await?;
        Ok(plates)
    }

    /// The neutral camera of a delivery; empty where it was cleared.
    pub async fn delivered_camera(&self, id: i64) -> Result<String, StoreError> {
        let camera = sqlx::query_scalar!("SELECT camera FROM deliveries WHERE id = ?", id)
            .fetch_optional(&self.pool)
            .await?;
        Ok(camera.unwrap_or_default())
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
