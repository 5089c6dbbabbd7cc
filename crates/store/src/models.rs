//! Models that are put into plates: each is kept once, for all shots.

use crate::{Invalid, Store, StoreError};
use serde::Serialize;

/// A model without its surface.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Model {
    /// Its number.
    pub id: i64,
    /// Its name.
    pub name: String,
    /// Triangles.
    pub triangles: i64,
    /// Width, units of its file.
    pub width_m: f64,
    /// Height.
    pub height_m: f64,
    /// Depth.
    pub depth_m: f64,
}

/// A model to be kept.
#[derive(Clone, Debug)]
pub struct NewModel<'a> {
    /// Its name.
    pub name: &'a str,
    /// Checksum of its file.
    pub sha256: &'a str,
    /// Triangles.
    pub triangles: usize,
    /// Width, height and depth.
    pub size_m: [f64; 3],
    /// Its file.
    pub glb: &'a [u8],
}

/// Models that are kept at most.
const MOST_MODELS: i64 = 500;
/// Longest name.
const LONGEST_NAME: usize = 80;

impl Store {
    /// All models by name.
    pub async fn models(&self) -> Result<Vec<Model>, StoreError> {
        let rows = sqlx::query_as!(
            Model,
            "SELECT id, name, triangles, width_m, height_m, depth_m FROM models ORDER BY name COLLATE NOCASE, id"
        );
        Ok(rows.fetch_all(&self.pool).await?)
    }

    /// Keeps a model; one that is there already stays. Its number.
    pub async fn keep_model(&self, model: &NewModel<'_>) -> Result<i64, StoreError> {
        let name: String = model
            .name
            .chars()
            .filter(|c| !c.is_control())
            .take(LONGEST_NAME)
            .collect();
        if name.trim().is_empty() {
            return Err(Invalid::Name { most: LONGEST_NAME }.into());
        }
        let known = sqlx::query_scalar!("SELECT id FROM models WHERE sha256 = ?", model.sha256);
        if let Some(id) = known.fetch_optional(&self.pool).await? {
            return Ok(id);
        }
        let count = sqlx::query_scalar!("SELECT COUNT(*) FROM models")
            .fetch_one(&self.pool)
            .await?;
        if count >= MOST_MODELS {
            return Err(Invalid::TooMany {
                what: "models",
                most: MOST_MODELS,
            }
            .into());
        }
        let triangles = model.triangles as i64;
        let [width, height, depth] = model.size_m;
        // Somebody else may keep the same meanwhile: then that is it.
        let kept = sqlx::query_scalar!(
            "INSERT INTO models (name, sha256, triangles, width_m, height_m, depth_m, glb) VALUES (?, ?, ?, ?, ?, ?, ?)
             ON CONFLICT (sha256) DO UPDATE SET sha256 = excluded.sha256 RETURNING id",
            name,
            model.sha256,
            triangles,
            width,
            height,
            depth,
            model.glb
        );
        Ok(kept.fetch_one(&self.pool).await?)
    }

    /// Forgets a model.
    pub async fn forget_model(&self, id: i64) -> Result<(), StoreError> {
        let done = sqlx::query!("DELETE FROM models WHERE id = ?", id)
            .execute(&self.pool)
            .await?;
        match done.rows_affected() {
            0 => Err(StoreError::Missing { what: "model", id }),
            _ => Ok(()),
        }
    }

    /// The file of a model.
    pub async fn model_file(&self, id: i64) -> Result<Vec<u8>, StoreError> {
        let found = sqlx::query_scalar!("SELECT glb FROM models WHERE id = ?", id);
        let missing = StoreError::Missing { what: "model", id };
        found.fetch_optional(&self.pool).await?.ok_or(missing)
    }
}
