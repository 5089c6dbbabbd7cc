//! Tracks as they are used, measured once: what of them does not depend on what the artist says of them.

use parallax_core::judge;
use parallax_core::spaces::TrackId;
use parallax_core::tracks::Track;
use std::collections::HashMap;
use std::collections::hash_map::DefaultHasher;
use std::hash::{Hash, Hasher};

/// Tracks with their measures.
pub struct Used {
    /// The tracks.
    pub tracks: Vec<Track>,
    /// How much each shakes, px.
    pub jitters_px: HashMap<TrackId, f64>,
    /// Of each, in their order, what does not change with what is said of it.
    pub measures: Vec<Measure>,
}

/// What is measured of a track.
pub struct Measure {
    /// Tells its positions from others of it.
    pub mark: u64,
    /// Mean standard error of its positions, px.
    pub sigma_px: f64,
    /// The frame on which it is least certain.
    pub worst: Option<i32>,
}

impl Measure {
    fn of(track: &Track) -> Self {
        let sigmas = track.samples.iter().map(|s| s.covariance.sigma_px());
        let count = track.samples.len().max(1) as f64;
        let worst = track.samples.iter().zip(sigmas.clone());
        let worst = worst.max_by(|a, b| a.1.total_cmp(&b.1));
        Self {
            mark: mark(track),
            sigma_px: sigmas.sum::<f64>() / count,
            worst: worst.map(|(s, _)| s.frame.0),
        }
    }
}

fn mark(track: &Track) -> u64 {
    let mut hash = DefaultHasher::new();
    for s in &track.samples {
        s.frame.0.hash(&mut hash);
        for v in [s.px.x, s.px.y, s.covariance.sigma_px()] {
            v.to_bits().hash(&mut hash);
        }
    }
    hash.finish()
}

impl Used {
    /// Measures tracks.
    pub fn of(tracks: Vec<Track>) -> Self {
        Self {
            jitters_px: judge::jitters_px(&tracks),
            measures: tracks.iter().map(Measure::of).collect(),
            tracks,
        }
    }
}
