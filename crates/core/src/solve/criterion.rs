//! Which of two models explains a shot better for its number of unknowns?
//!
//! The Bayesian information criterion (Schwarz 1978) with a bounded cost for each position, in the manner of Torr's GRIC
//! (1998).

use super::views::Views;
use super::{Attempt, CameraMove};

/// A position that is missed by so many standard errors, or not at all explained, costs as much.
const FARTHEST: f64 = 3.0;
/// So many positions of a track count as one: errors on neighbouring frames are alike.
const ALIKE: f64 = 5.0;
/// Whether an attempt explains these positions better than another for its number of unknowns.
pub fn explains_more(views: &Views, one: &Attempt, other: &Attempt) -> bool {
    let unit_px = unit_px(views, [one, other].into_iter());
    criterion(one, views, unit_px) < criterion(other, views, unit_px)
}

/// What the best of these leaves of a position, px, where that is more than is claimed.
pub fn unit_px<'a>(views: &Views, attempts: impl Iterator<Item = &'a Attempt>) -> f64 {
    let left = attempts.map(|a| a.rms_px / std::f64::consts::SQRT_2);
    left.fold(f64::INFINITY, f64::min)
        .clamp(0.5 * views.typical_sigma_px, f64::MAX)
}

/// The information criterion of an attempt over all positions of a shot. Places count for every
/// track, explained or not, as in GRIC: else leaving short ones unexplained would gain.
pub fn criterion(attempt: &Attempt, views: &Views, unit_px: f64) -> f64 {
    let all: usize = views.seen.iter().map(Vec::len).sum();
    let most = FARTHEST * FARTHEST;
    let residuals = attempt.landmarks.iter().flat_map(|l| &l.residuals_px);
    let (mut explained, mut cost) = (0, 0.0);
    for (_, length) in residuals {
        explained += 1;
        cost += (f64::from(*length) / unit_px).powi(2).min(most);
    }
    let unexplained = all.saturating_sub(explained);
    cost += most * unexplained as f64;
    let of_camera = match attempt.moves {
        CameraMove::Free => 6,
        CameraMove::Nodal => 3,
        CameraMove::Locked => 0,
    } + usize::from(attempt.zooms());
    let of_point = if attempt.moves == CameraMove::Free {
        3
    } else {
        2
    };
    let unknowns = of_camera * attempt.frames.len() + of_point * views.tracks.len();
    let effective = (all as f64 / ALIKE).max(2.0);
    cost / ALIKE + unknowns as f64 * effective.ln()
}
