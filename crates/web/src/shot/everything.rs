//! All that is read of a shot so that something can be shown and said of it.

use crate::app::App;
use crate::error::ApiError;
use crate::shot::tracks::{self, ShotTracks};
use crate::shot::world;
use parallax_core::orient::Orientation;
use parallax_media::pin::Differences;
use parallax_store::StoreError;
use parallax_store::attempts::KeptAttempt;
use parallax_store::deliveries::KeptDelivery;
use parallax_store::jobs::{Job, JobKind, JobState};
use parallax_store::shots::Shot;
use parallax_store::slips::MeasuredSlip;
use parallax_store::undistortions::Undistortion;
use std::collections::BTreeMap;
use std::sync::Arc;

/// A shot with what there is of it.
pub struct Everything {
    /// The shot itself.
    pub shot: Shot,
    /// Its tracks.
    pub tracks: ShotTracks,
    /// Its current attempt.
    pub attempt: Option<Arc<KeptAttempt>>,
    /// Its latest delivery by each recipe.
    pub delivered: BTreeMap<u32, KeptDelivery>,
    /// Its plate undistorted.
    pub undistorted: Option<Undistortion>,
    /// How the artist's world lies, where there is an attempt.
    pub orientation: Option<Arc<Orientation>>,
    /// Slip that was measured under places of the attempt, with numbers.
    pub slips: Vec<(i64, MeasuredSlip)>,
    /// Its work.
    pub jobs: Vec<Job>,
    /// In what the folder differs from the files that the plate is.
    pub differences: Differences,
    /// What of the shot cannot be read.
    pub damaged: Vec<&'static str>,
}

/// What is damaged where the shot itself is.
pub const THE_SHOT: &str = "the shot itself";

/// The state of a shot, where that cannot be read.
pub fn of_state(shot: &Shot) -> Vec<&'static str> {
    shot.damage.iter().map(|_| THE_SHOT).collect()
}

/// What was read; nothing where it is damaged or gone, which is noted.
pub fn readable<T>(
    read: Result<T, ApiError>,
    what: &'static str,
    damaged: &mut Vec<&'static str>,
) -> Result<Option<T>, ApiError> {
    match read {
        Ok(read) => Ok(Some(read)),
        Err(ApiError::Store(StoreError::Damaged { .. } | StoreError::Missing { .. })) => {
            damaged.push(what);
            Ok(None)
        }
        Err(error) => Err(error),
    }
}

/// The latest deliveries of a shot by recipe; none where one is damaged, which is noted.
pub async fn delivered(
    app: &App,
    shot: &Shot,
    damaged: &mut Vec<&'static str>,
) -> Result<BTreeMap<u32, KeptDelivery>, ApiError> {
    let read = app.store.delivered(shot.id, &shot.state).await;
    let read = readable(read.map_err(ApiError::from), "its deliveries", damaged)?;
    Ok(read.unwrap_or_default())
}

impl Everything {
    /// Reads all of a shot that takes footage; `jobs` were read before it, so that whoever reads that work is
    /// done reads what it came to as well.
    pub async fn read(app: &App, shot: Shot, jobs: Vec<Job>) -> Result<Self, ApiError> {
        let mut damaged = of_state(&shot);
        let tracks = readable(tracks::of(app, &shot).await, "its tracks", &mut damaged)?;
        let tracks = tracks.unwrap_or_else(ShotTracks::none);
        let attempt = match shot.state.attempt {
            Some(id) => {
                let read = app.attempt(id).await.map_err(ApiError::from);
                readable(read, "the current attempt", &mut damaged)?
            }
            None => None,
        };
        let delivered = delivered(app, &shot, &mut damaged).await?;
        let undistorted = match shot.state.undistorted {
            Some(kept) => {
                let read = app.store.undistortion(shot.id, kept).await;
                let read = read.map_err(ApiError::from);
                readable(read, "the undistorted plate", &mut damaged)?
            }
            None => None,
        };
        let slips = match &attempt {
            Some(attempt) => app.store.slips(attempt.id).await?,
            None => Vec::new(),
        };
        let differences = app.differences(&shot).await?;
        let orientation = match &attempt {
            Some(attempt) => Some(world::certain_orientation(app, &shot, attempt, &tracks).await?),
            None => None,
        };
        Ok(Self {
            shot,
            tracks,
            attempt,
            delivered,
            undistorted,
            orientation,
            slips,
            jobs,
            differences,
            damaged,
        })
    }

    /// Whether work of one of these kinds waits or runs.
    pub fn is_at(&self, kinds: &[JobKind]) -> bool {
        let is_active = |j: &Job| matches!(j.state, JobState::Queued | JobState::Running);
        self.jobs
            .iter()
            .any(|j| kinds.contains(&j.kind) && is_active(j))
    }
}
