//! Which features should the artist not trust, and what speaks against them?
//!
//! Before anything is delivered: [`movers`] asks the epipolar geometry of frame pairs, [`scene`]
//! holds tracks against short solves of the shot, [`habits`] looks at each track by itself and
//! at tracks that follow the same detail. What the geometry speaks against and
//! what is too short to matter is set aside by itself and can be brought back; the rest is for the artist to decide.

mod habits;
mod movers;
mod scene;

pub use habits::jitters_px;
pub use movers::movers;

use crate::camera::Intrinsics;
use crate::progress::Progress;
use crate::spaces::{FrameNumber, TrackId};
use crate::tracks::Track;
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

/// What speaks against a track.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Why {
    /// It moves by itself; the figure is how far from where the scene would be, px.
    Mover,
    /// It follows the crossing of a near and a far edge, which is no place; the figure as above.
    FalseCorner,
    /// It has left the detail it was born on; the figure is by how much, px.
    Drifts,
    /// It shakes more than its neighbours; the figure is by how much, px.
    Jitters,
    /// It follows the same detail as another; the figure is how far apart they are, px.
    Duplicate,
    /// It lives too short a time to matter; the figure is its life, frames.
    Short,
}

impl Why {
    /// Whether such a track is set aside without being asked.
    pub fn sets_aside(self) -> bool {
        matches!(self, Self::Mover | Self::FalseCorner | Self::Short)
    }
}

/// A track that should not be trusted.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Suspect {
    /// The track.
    pub track: TrackId,
    /// What speaks against it.
    pub why: Why,
    /// How much, as [`Why`] says.
    pub figure: f64,
    /// Where it shows most.
    pub frame: FrameNumber,
    /// The track it doubles.
    pub other: Option<TrackId>,
}

/// All suspects, each with the gravest reason, in the order of tracks. The lens carries the size
/// of the plate and what is known of its terms; its focal length is not read. Cancelled, it
/// says nothing.
pub fn suspects(tracks: &[Track], lens: &Intrinsics, progress: &dyn Progress) -> Vec<Suspect> {
    let mut out: Vec<Suspect> = movers(tracks, lens.width_px, progress)
        .iter()
        .filter_map(|id| mover(tracks, *id))
        .collect();
    let known: HashSet<TrackId> = out.iter().map(|s| s.track).collect();
    let rest: Vec<Track> = tracks
        .iter()
        .filter(|t| !known.contains(&t.id))
        .cloned()
        .collect();
    out.extend(scene::against(&rest, lens, progress));
    let known: HashSet<TrackId> = out
        .iter()
        .filter(|s| s.why == Why::Mover)
        .map(|s| s.track)
        .collect();
    out.extend(
        movers::beside(tracks, &known, lens.width_px)
            .iter()
            .filter_map(|id| mover(tracks, *id)),
    );
    if progress.is_cancelled() {
        return Vec::new();
    }
    out.extend(habits::suspects(tracks, lens.width_px));
    out.sort_by_key(|s| (s.track, s.why));
    out.dedup_by_key(|s| s.track);
    out
}

fn mover(tracks: &[Track], id: TrackId) -> Option<Suspect> {
    let track = tracks.iter().find(|t| t.id == id)?;
    let frame = track.samples.get(track.samples.len() / 2)?.frame;
    Some(Suspect {
        track: id,
        why: Why::Mover,
        figure: 0.0,
        frame,
        other: None,
    })
}
