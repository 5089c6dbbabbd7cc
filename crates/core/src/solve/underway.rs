//! A solve that was interrupted, so that it can go on: the world as far as it is known, and what
//! was being done with it.

use super::views::Views;
use super::world::World;
use crate::spaces::FrameNumber;
use serde::{Deserialize, Serialize};

/// What is done with the world next.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub enum Stage {
    /// Key frames are added ([`super::grow`]).
    Growing {
        /// Cameras that stood when all was last adjusted.
        adjusted_at: usize,
    },
    /// Key frames are added that hang on by little.
    Bridging {
        /// Cameras that stood when all was last adjusted.
        adjusted_at: usize,
    },
    /// All key frames stand that can; the frames between are filled in.
    Grown,
    /// All is adjusted ([`super::finish`]).
    Finishing {
        /// Rounds that are done.
        rounds: usize,
        /// Tracks that were dropped for their residual, by index; empty before the first round.
        above_limit: Vec<bool>,
    },
}

impl Stage {
    /// The beginning of the end.
    pub fn of_finish() -> Self {
        Self::Finishing {
            rounds: 0,
            above_limit: Vec::new(),
        }
    }
}

/// What a solve needs to go on.
#[derive(Clone, Serialize, Deserialize)]
pub struct Underway {
    /// Cameras and landmarks so far.
    pub world: World,
    /// The pair of frames that it grew from.
    pub started_from: (FrameNumber, FrameNumber),
    /// What comes next.
    pub stage: Stage,
}

impl Underway {
    /// Whether it can be of these tracks.
    pub fn is_of(&self, views: &Views) -> bool {
        let World {
            poses,
            points,
            angles_rad,
            left_out,
            banned,
            focals_px,
            ..
        } = &self.world;
        let tracks = views.tracks.len();
        let seen = views.seen.iter().map(Vec::len);
        poses.len() == views.frames.len()
            && (focals_px.is_empty() || focals_px.len() == poses.len())
            && [points.len(), angles_rad.len(), left_out.len(), banned.len()] == [tracks; 4]
            && left_out.iter().map(Vec::len).eq(seen)
            && match &self.stage {
                Stage::Finishing { above_limit, .. } => {
                    above_limit.is_empty() || above_limit.len() == tracks
                }
                _ => true,
            }
    }
}
