//! How far would CG of true proportions slip against the plate?
//!
//! Landmarks fit what was followed whatever the focal length is: a wrong one bends their world instead,
//! and what is built to measure does not fit a bent world. So the solve is moved by one standard error of
//! its focal length, all else following ([`Certainty::by_focal`]). Places of the world as it was, on the
//! landmarks and before them, are brought into that world by the best change of place, direction and scale;
//! what the moved cameras see them off from where the others saw them, over all frames, is the slip.

use super::bundle::Problem;
use super::bundle::covariance::Certainty;
use crate::camera::Similarity;
use crate::camera::registration::{self, Sight, registered};
use crate::spaces::WorldPoint;

/// Landmarks and frames that are looked at, spread over all.
const MOST_POINTS: usize = 150;
const MOST_FRAMES: usize = 20;
/// CG stands on landmarks, and at this share of their distance from the middle of the path.
const BEFORE: f64 = 0.7;

/// Root mean square slip in px for one standard error of the focal length; `None` where that is given or
/// the camera does not travel.
pub fn slip_px(problem: &Problem, certainty: &Certainty) -> Option<f64> {
    let step = certainty.by_focal.as_ref()?;
    if problem.motion.is_on_the_spot() {
        return None;
    }
    let moved = problem.stepped(step);
    let centre = problem.poses[problem.poses.len() / 2].centre().0.coords;
    let stride = problem.points.len().div_ceil(MOST_POINTS).max(1);
    let places: Vec<WorldPoint> = problem
        .points
        .iter()
        .step_by(stride)
        .flat_map(|p| [*p, centre + (p - centre) * BEFORE])
        .map(|p| WorldPoint(p.into()))
        .collect();
    let stride = problem.poses.len().div_ceil(MOST_FRAMES).max(1);
    let sights: Vec<Sight> = (0..problem.poses.len())
        .step_by(stride)
        .flat_map(|camera| {
            let lens = problem.lens_of(camera);
            let (moved_lens, moved_pose) = (moved.lens_of(camera), moved.poses[camera]);
            let pose = problem.poses[camera];
            places.iter().filter_map(move |point| {
                let px = lens.project(&pose, point)?;
                lens.holds(px).then_some(Sight {
                    lens: moved_lens,
                    pose: moved_pose,
                    point: *point,
                    px,
                })
            })
        })
        .collect();
    // Errors are small: from where it was.
    let change = registered(Similarity::identity(), &sights);
    let slip_px = registration::rms_px(&change, &sights);
    (slip_px.is_finite() && !sights.is_empty()).then_some(slip_px)
}
