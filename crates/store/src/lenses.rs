//! Lenses that are kept for other shots, by body, lens, focal length and focus.

use crate::{Invalid, Store, StoreError};
use parallax_formats::lens_json::LensLabel;
use serde::Serialize;

/// A kept lens.
#[derive(Clone, Debug, Serialize)]
pub struct KeptLens {
    /// Its number.
    pub id: i64,
    /// What it is called.
    #[serde(flatten)]
    pub label: LensLabel,
    /// Its lens file, JSON.
    #[serde(skip)]
    pub file: String,
}

/// Lenses that are kept at most.
const MOST_LENSES: i64 = 2000;
/// Longest part of a label.
const LONGEST: usize = 80;

fn checked(label: &LensLabel) -> Result<LensLabel, StoreError> {
    let part = |text: &str| text.trim().to_owned();
    let tidy = LensLabel {
        body: part(&label.body),
        lens: part(&label.lens),
        focal_mm: label.focal_mm,
        focus: part(&label.focus),
    };
    let fits =
        |text: &String| text.chars().count() <= LONGEST && !text.chars().any(char::is_control);
    if tidy.lens.is_empty() || ![&tidy.body, &tidy.lens, &tidy.focus].into_iter().all(fits) {
        return Err(Invalid::Name { most: LONGEST }.into());
    }
    if tidy
        .focal_mm
        .is_some_and(|mm| !(mm.is_finite() && (1.0..=5000.0).contains(&mm)))
    {
        let mm = tidy.focal_mm.unwrap_or_default();
        return Err(Invalid::Focal { mm }.into());
    }
    Ok(tidy)
}

impl Store {
    /// All kept lenses by their labels.
    pub async fn lenses(&self) -> Result<Vec<KeptLens>, StoreError> {
        let rows = sqlx::query!(
            "SELECT id, body, lens, focal_mm, focus, file FROM lenses
             ORDER BY body COLLATE NOCASE, lens COLLATE NOCASE, focal_mm, focus"
        )
        .fetch_all(&self.pool)
        .await?;
        let kept = rows.into_iter().map(|r| KeptLens {
            id: r.id,
            label: LensLabel {
                body: r.body,
                lens: r.lens,
                focal_mm: r.focal_mm,
                focus: r.focus,
            },
            file: r.file,
        });
        Ok(kept.collect())
    }

    /// One kept lens.
    pub async fn lens(&self, id: i64) -> Result<KeptLens, StoreError> {
        let found = self.lenses().await?.into_iter().find(|l| l.id == id);
        found.ok_or(StoreError::Missing { what: "lens", id })
    }

    /// Keeps a lens; one of the same label is replaced. `file` is a lens file that was checked.
    pub async fn keep_lens(&self, label: &LensLabel, file: &str) -> Result<i64, StoreError> {
        let LensLabel {
            body,
            lens,
            focal_mm,
            focus,
        } = checked(label)?;
        let mut writing = self.writing().await?;
        let count = sqlx::query_scalar!("SELECT COUNT(*) FROM lenses")
            .fetch_one(&mut *writing)
            .await?;
        if count >= MOST_LENSES {
            return Err(Invalid::TooMany {
                what: "lenses",
                most: MOST_LENSES,
            }
            .into());
        }
        // A focal length that is not known equals itself here, which UNIQUE does not see.
        sqlx::query!(
            "DELETE FROM lenses WHERE body = ? AND lens = ? AND focal_mm IS ? AND focus = ?",
            body,
            lens,
            focal_mm,
            focus
        )
        .execute(&mut *writing)
        .await?;
        let id = sqlx::query!(
            "INSERT INTO lenses (body, lens, focal_mm, focus, file) VALUES (?, ?, ?, ?, ?)",
            body,
            lens,
            focal_mm,
            focus,
            file
        )
        .execute(&mut *writing)
        .await?
        .last_insert_rowid();
        writing.commit().await?;
        Ok(id)
    }

    /// Forgets a lens; shots that were given it keep their values.
    pub async fn forget_lens(&self, id: i64) -> Result<(), StoreError> {
        let done = sqlx::query!("DELETE FROM lenses WHERE id = ?", id)
            .execute(&self.pool)
            .await?;
        if done.rows_affected() == 0 {
            Err(StoreError::Missing { what: "lens", id })
        } else {
            Ok(())
        }
    }
}
