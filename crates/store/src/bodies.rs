//! Camera bodies that are kept for other shots, by name.

use crate::{Invalid, Store, StoreError};
use parallax_core::plate::FilmBack;
use serde::{Deserialize, Serialize};

/// A body and the whole of its film back.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Body {
    /// Its name.
    pub name: String,
    /// Its film back.
    #[serde(flatten)]
    pub film_back: FilmBack,
}

/// Bodies that are kept at most.
const MOST_BODIES: i64 = 500;
/// Longest name.
const LONGEST_NAME: usize = 80;

impl Store {
    /// All kept bodies by name.
    pub async fn bodies(&self) -> Result<Vec<Body>, StoreError> {
        let rows = sqlx::query!(
            "SELECT name, width_mm, height_mm FROM bodies ORDER BY name COLLATE NOCASE"
        )
        .fetch_all(&self.pool)
        .await?;
        let body = |r: (String, f64, f64)| Body {
            name: r.0,
            film_back: FilmBack {
                width_mm: r.1,
                height_mm: r.2,
            },
        };
        Ok(rows
            .into_iter()
            .map(|r| body((r.name, r.width_mm, r.height_mm)))
            .collect())
    }

    /// Keeps a body; one of the same name is replaced.
    pub async fn keep_body(&self, body: &Body) -> Result<(), StoreError> {
        let name = body.name.trim();
        if name.is_empty()
            || name.chars().count() > LONGEST_NAME
            || name.chars().any(char::is_control)
        {
            return Err(Invalid::Name { most: LONGEST_NAME }.into());
        }
        if !body.film_back.is_plausible() {
            return Err(Invalid::FilmBack.into());
        }
        let count = sqlx::query_scalar!("SELECT COUNT(*) FROM bodies")
            .fetch_one(&self.pool)
            .await?;
        if count >= MOST_BODIES {
            return Err(Invalid::TooMany {
                what: "bodies",
                most: MOST_BODIES,
            }
            .into());
        }
        let FilmBack {
            width_mm,
            height_mm,
        } = body.film_back;
        sqlx::query!(
            "INSERT OR REPLACE INTO bodies (name, width_mm, height_mm) VALUES (?, ?, ?)",
            name,
            width_mm,
            height_mm
        )
        .execute(&self.pool)
        .await?;
        Ok(())
    }

    /// Forgets a body; shots that were given its film back keep it.
    pub async fn forget_body(&self, name: &str) -> Result<(), StoreError> {
        let done = sqlx::query!("DELETE FROM bodies WHERE name = ?", name)
            .execute(&self.pool)
            .await?;
        if done.rows_affected() == 0 {
            let name = name.to_owned();
            return Err(Invalid::NoSuchName { what: "body", name }.into());
        }
        Ok(())
    }
}
