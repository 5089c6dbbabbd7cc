//! Shots: name, plate and state.

use crate::{ShotState, Store, StoreError, of_text, to_text};
use parallax_core::photo::stated::Stated;
use parallax_core::plate::FrameRate;
use parallax_media::movie::MovieFacts;
use parallax_media::picture::Coding;
use serde::{Deserialize, Serialize};

/// The movie that a plate is taken out of.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct TakenMovie {
    /// Where it is.
    pub path: String,
    /// What it holds.
    #[serde(flatten)]
    pub facts: MovieFacts,
}

/// What was found on disk when the shot was made.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct PlateFacts {
    /// How files are named.
    pub pattern: String,
    /// Digits of the number.
    pub padding: usize,
    /// First frame.
    pub first: i32,
    /// Last frame.
    pub last: i32,
    /// Files there are.
    pub count: usize,
    /// Missing ranges, inclusive.
    pub gaps: Vec<(i32, i32)>,
    /// Other sequences in the folder.
    pub others: Vec<(String, usize)>,
    /// What a photograph's file says of its camera.
    #[serde(default)]
    pub stated: Option<Stated>,
    /// How its values are coded, where that was looked at.
    #[serde(default)]
    pub coding: Option<Coding>,
    /// The rate that the pictures' headers state.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rate: Option<FrameRate>,
    /// The movie that it comes from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub movie: Option<TakenMovie>,
}

/// One shot.
#[derive(Clone, Debug, Serialize)]
pub struct Shot {
    /// Its number.
    pub id: i64,
    /// Its name.
    pub name: String,
    /// The plate's folder.
    pub folder: String,
    /// What the folder holds.
    pub plate: PlateFacts,
    /// Picture width, px.
    pub width_px: u32,
    /// Picture height, px.
    pub height_px: u32,
    /// What the artist decided.
    pub state: ShotState,
}

struct Row {
    id: i64,
    name: String,
    folder: String,
    sequence: String,
    width_px: i64,
    height_px: i64,
    state: String,
}

impl Row {
    fn shot(self) -> Result<Shot, StoreError> {
        Ok(Shot {
            id: self.id,
            name: self.name,
            folder: self.folder,
            plate: of_text("plate", &self.sequence)?,
            width_px: self.width_px as u32,
            height_px: self.height_px as u32,
            state: of_text("state", &self.state)?,
        })
    }
}

impl Store {
    /// Makes a shot.
    pub async fn add_shot(
        &self,
        name: &str,
        folder: &str,
        plate: &PlateFacts,
        size: (u32, u32),
        state: &ShotState,
    ) -> Result<i64, StoreError> {
        let (sequence, state) = (to_text("plate", plate)?, to_text("state", state)?);
        let (width, height) = (i64::from(size.0), i64::from(size.1));
        let done = sqlx::query!(
            "INSERT INTO shots (name, folder, sequence, width_px, height_px, state) VALUES (?, ?, ?, ?, ?, ?)",
            name,
            folder,
            sequence,
            width,
            height,
            state
        )
        .execute(&self.pool)
        .await?;
        Ok(done.last_insert_rowid())
    }

    /// All shots, oldest first.
    pub async fn shots(&self) -> Result<Vec<Shot>, StoreError> {
        let rows = sqlx::query_as!(
            Row,
            "SELECT id, name, folder, sequence, width_px, height_px, state FROM shots ORDER BY id"
        )
        .fetch_all(&self.pool)
        .await?;
        rows.into_iter().map(Row::shot).collect()
    }

    /// One shot.
    pub async fn shot(&self, id: i64) -> Result<Shot, StoreError> {
        sqlx::query_as!(
            Row,
            "SELECT id, name, folder, sequence, width_px, height_px, state FROM shots WHERE id = ?",
            id
        )
        .fetch_optional(&self.pool)
        .await?
        .ok_or(StoreError::Missing { what: "shot", id })?
        .shot()
    }
}
