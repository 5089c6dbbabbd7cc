//! Shots: name, plate and state.

use crate::mending::salvaged;
use crate::{Invalid, ShotState, Store, StoreError, to_text};
use parallax_core::photo::stated::Stated;
use parallax_core::plate::FrameRate;
use parallax_core::track::matte::Matte;
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
    /// What tells its files from others ([`parallax_media::pin`]); `None` while they are not
    /// pinned, as in shots of before that was done.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pinned: Option<String>,
}

impl PlateFacts {
    /// How many frames there are between in and out, inclusive; all without a range.
    pub fn count_within(&self, range: Option<(i32, i32)>) -> usize {
        let (first, last) = range.unwrap_or((self.first, self.last));
        let (first, last) = (first.max(self.first), last.min(self.last));
        let within = |(a, b): (i32, i32)| (b.min(last) - a.max(first) + 1).max(0) as usize;
        let missing: usize = self.gaps.iter().map(|gap| within(*gap)).sum();
        within((first, last)).saturating_sub(missing)
    }
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
    /// The number of the last change of the state.
    pub version: i64,
    /// When it was put into the bin, seconds since 1970; `None` while it is not there.
    pub binned: Option<i64>,
    /// What of it cannot be read; that then stands here as in a new one.
    pub damage: Option<Damage>,
}

/// What of a shot cannot be read.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Damage {
    /// What was found on disk when it was made.
    Plate,
    /// What the artist decided.
    State,
}

/// How a shot stands.
#[derive(Clone, Debug, PartialEq, Eq, Serialize)]
pub struct Mark {
    /// Its name.
    pub name: String,
    /// The number of its last change.
    pub version: i64,
    /// What that was, where it is still known.
    pub label: Option<String>,
}

struct Row {
    id: i64,
    name: String,
    folder: String,
    sequence: String,
    width_px: i64,
    height_px: i64,
    state: String,
    version: i64,
    binned: Option<i64>,
}

impl Row {
    /// A shot whose texts are damaged can still be looked at, mended and deleted.
    fn shot(self) -> Shot {
        let side = |px: i64| u32::try_from(px).unwrap_or(1).max(1);
        let (width_px, height_px) = (side(self.width_px), side(self.height_px));
        let plate = serde_json::from_str(&self.sequence).ok();
        let mut state: Option<ShotState> = serde_json::from_str(&self.state).ok();
        if let Some(state) = &mut state {
            Matte::numbered(&mut state.mattes);
        }
        let damage = match (&plate, &state) {
            (None, _) => Some(Damage::Plate),
            (_, None) => Some(Damage::State),
            _ => None,
        };
        Shot {
            id: self.id,
            name: self.name,
            folder: self.folder,
            plate: plate.unwrap_or_else(PlateFacts::unknown),
            width_px,
            height_px,
            state: state
                .unwrap_or_else(|| salvaged(&self.state, ShotState::new(width_px, height_px))),
            version: self.version,
            binned: self.binned,
            damage,
        }
    }
}

/// Longest name of a shot.
const LONGEST_NAME: usize = 120;

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

    /// All shots, oldest first; those in the bin or those that are not.
    pub async fn shots(&self, in_bin: bool) -> Result<Vec<Shot>, StoreError> {
        let rows = sqlx::query_as!(
            Row,
            "SELECT id, name, folder, sequence, width_px, height_px, state, version, binned
             FROM shots WHERE (binned IS NOT NULL) = ? ORDER BY id",
            in_bin
        )
        .fetch_all(&self.pool)
        .await?;
        Ok(rows.into_iter().map(Row::shot).collect())
    }

    /// One shot.
    pub async fn shot(&self, id: i64) -> Result<Shot, StoreError> {
        let row = sqlx::query_as!(
            Row,
            "SELECT id, name, folder, sequence, width_px, height_px, state, version, binned
             FROM shots WHERE id = ?",
            id
        )
        .fetch_optional(&self.pool)
        .await?;
        Ok(row.ok_or(StoreError::Missing { what: "shot", id })?.shot())
    }

    /// Calls a shot otherwise.
    pub async fn rename_shot(&self, id: i64, name: &str) -> Result<(), StoreError> {
        let name = name.trim();
        let fits = (1..=LONGEST_NAME).contains(&name.chars().count());
        if !fits || name.chars().any(char::is_control) {
            return Err(Invalid::Name { most: LONGEST_NAME }.into());
        }
        let done = sqlx::query!("UPDATE shots SET name = ? WHERE id = ?", name, id)
            .execute(&self.pool)
            .await?;
        self.stir();
        found(done.rows_affected(), id)
    }

    /// How a shot stands, for whoever waits for it to change.
    pub async fn mark_of(&self, id: i64) -> Result<Mark, StoreError> {
        let row = sqlx::query_as!(
            Mark,
            "SELECT name, version, (SELECT label FROM changes WHERE shot_id = id AND changes.version = shots.version) AS label
             FROM shots WHERE id = ?",
            id
        )
        .fetch_optional(&self.pool)
        .await?;
        row.ok_or(StoreError::Missing { what: "shot", id })
    }

    /// Puts a shot into the bin, or takes it out. `now_s` counts from 1970.
    pub async fn bin_shot(&self, id: i64, now_s: Option<i64>) -> Result<(), StoreError> {
        let done = sqlx::query!("UPDATE shots SET binned = ? WHERE id = ?", now_s, id)
            .execute(&self.pool)
            .await?;
        found(done.rows_affected(), id)
    }

    /// Deletes a shot that is in the bin, with all that was made of it in the database.
    pub async fn delete_shot(&self, id: i64) -> Result<(), StoreError> {
        let done = sqlx::query!("DELETE FROM shots WHERE id = ? AND binned IS NOT NULL", id)
            .execute(&self.pool)
            .await?;
        found(done.rows_affected(), id)?;
        // Gives the room back that results took.
        sqlx::query("PRAGMA incremental_vacuum")
            .execute(&self.pool)
            .await?;
        Ok(())
    }

    /// Folders that shots lie in, those in the bin too.
    pub async fn folders(&self) -> Result<Vec<String>, StoreError> {
        Ok(sqlx::query_scalar!("SELECT folder FROM shots")
            .fetch_all(&self.pool)
            .await?)
    }
}

fn found(rows: u64, id: i64) -> Result<(), StoreError> {
    if rows > 0 {
        Ok(())
    } else {
        Err(StoreError::Missing { what: "shot", id })
    }
}

impl PlateFacts {
    /// Of a plate of which nothing is known.
    fn unknown() -> Self {
        Self {
            pattern: String::new(),
            padding: 0,
            first: 0,
            last: 0,
            count: 0,
            gaps: Vec::new(),
            others: Vec::new(),
            stated: None,
            coding: None,
            rate: None,
            movie: None,
            pinned: None,
        }
    }
}
