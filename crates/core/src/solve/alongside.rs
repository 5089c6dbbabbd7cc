//! Where does one attempt lie in the world of another?
//!
//! Each solve has a world of its own. Two are laid on each other by the landmarks that both have and of which
//! both know the depth best: the half with the widest rays (Umeyama 1991). Of a camera that only turns the
//! directions are laid on each other.

use super::{Attempt, CameraMove};
use crate::camera::Similarity;
use crate::spaces::WorldPoint;
use crate::statistics::median;

/// So many landmarks are needed.
const FEWEST: usize = 6;

/// The change of world that lays an attempt on another; `None` where they have too little in common.
pub fn laid_on(attempt: &Attempt, other: &Attempt) -> Option<Similarity> {
    let common: Vec<(WorldPoint, WorldPoint, f64)> = attempt
        .landmarks
        .iter()
        .filter_map(|l| {
            let there = other.landmark(l.track)?;
            let widest = l.parallax_deg.min(there.parallax_deg);
            Some((l.point, there.point, widest))
        })
        .collect();
    let mut angles: Vec<f64> = common.iter().map(|c| c.2).collect();
    let wide = median(&mut angles)?;
    let known = common.iter().filter(|c| c.2 >= wide);
    let (from, to): (Vec<WorldPoint>, Vec<WorldPoint>) = known.map(|c| (c.0, c.1)).unzip();
    if from.len() < FEWEST {
        return None;
    }
    let change = Similarity::fitting(&from, &to)?;
    let turns = |a: &Attempt| a.moves != CameraMove::Free;
    match (turns(attempt), turns(other)) {
        (false, false) => Some(change),
        // Directions have no size and stand about the camera.
        (true, true) => Some(Similarity {
            rotation: change.rotation,
            ..Similarity::identity()
        }),
        _ => None,
    }
}
