//! How far is a solved camera from the truth, in px of the plate?
//!
//! The solved world has a gauge of its own. The true points are brought into it by the
//! similarity that makes their projections through the solved cameras fall nearest to where
//! the true cameras see them (Gauss-Newton on seven numbers, started from camera centres and
//! directions); what is left is the error that CG would show.

use nalgebra::{UnitQuaternion, Vector3};
use parallax_core::camera::registration::{self, Sight, registered};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::spaces::PlatePx;
use parallax_core::statistics::median;
use parallax_formats::camera_reader::{CameraFile, CameraFrame};

/// What is left after the best alignment.
#[derive(Clone, Debug)]
pub struct Difference {
    /// Root mean square over all true points inside the picture, px.
    pub rms_px: f64,
    /// The same at 1280 px width.
    pub rms_px_at_1280: f64,
    /// Largest distance, px.
    pub worst_px: f64,
    /// (solved - true) / true focal length of the first frame.
    pub focal_share: f64,
    /// The same, where it is largest over all frames.
    pub worst_focal_share: f64,
    /// Frames that both have.
    pub frames: usize,
    /// Root mean square and median of each frame that has a true point in the picture, px: where something passes
    /// close before the lens its few points are far off for a camera that is hardly so.
    pub by_frame: Vec<(i32, f64, f64)>,
    /// Largest turn between solved and true camera, degrees.
    pub worst_turn_deg: f64,
}

/// How far true points are seen from where they are, px.
fn distances_px(sights: &[Sight], change: &Similarity) -> Vec<f64> {
    let off = |s: &Sight| s.residual(change).map_or(1e3, |r| r.norm());
    sights.iter().map(off).collect()
}

/// Lens and camera of the frames that two files share, solved and true.
fn pairs(solved: &CameraFile, truth: &CameraFile) -> Vec<Pair> {
    let pair = |s: &CameraFrame| {
        let t = truth.frames.iter().find(|t| t.frame == s.frame)?;
        Some((
            solved.intrinsics(s),
            solved.pose(s)?,
            truth.intrinsics(t),
            truth.pose(t)?,
            s.frame,
        ))
    };
    solved.frames.iter().filter_map(pair).collect()
}

/// True points that the true camera of a frame sees, for its solved one.
fn sights_of(truth: &CameraFile, (lens, pose, true_lens, true_pose, _): &Pair) -> Vec<Sight> {
    let (width, height) = (f64::from(truth.width), f64::from(truth.height));
    let inside = |px: &PlatePx| px.x >= 0.0 && px.y >= 0.0 && px.x <= width && px.y <= height;
    let seen = truth.points.iter().filter_map(|p| {
        let px = true_lens
            .project(true_pose, &truth.point(p))
            .filter(inside)?;
        Some(Sight {
            lens: *lens,
            pose: *pose,
            point: truth.point(p),
            px,
        })
    });
    seen.collect()
}

/// From the true world to the solved one, with what it was found from; `None` when the files share fewer than three
/// frames or no true point is in the picture.
fn registered_by(truth: &CameraFile, pairs: &[Pair]) -> Option<(Similarity, Vec<Sight>)> {
    if pairs.len() < 3 {
        return None;
    }
    let some = pairs.iter().step_by(pairs.len().div_ceil(40));
    let sights: Vec<Sight> = some.flat_map(|pair| sights_of(truth, pair)).collect();
    if sights.is_empty() {
        return None;
    }
    Some((registered(start(pairs)?, &sights), sights))
}

/// From the true world to the solved one, as [`compare`] lays them over each other.
pub fn aligned(solved: &CameraFile, truth: &CameraFile) -> Option<Similarity> {
    Some(registered_by(truth, &pairs(solved, truth))?.0)
}

/// Holds a solved camera file against the truth. `None` when they share fewer than three
/// frames or no true point is in the picture.
pub fn compare(solved: &CameraFile, truth: &CameraFile) -> Option<Difference> {
    let pairs = pairs(solved, truth);
    let (change, sights) = registered_by(truth, &pairs)?;
    let width = f64::from(truth.width);
    let rms_px = registration::rms_px(&change, &sights);
    let by_frame = pairs.iter().filter_map(|pair| {
        let sights = sights_of(truth, pair);
        let middle = median(&mut distances_px(&sights, &change))?;
        Some((pair.4, registration::rms_px(&change, &sights), middle))
    });
    let by_frame = by_frame.collect();
    let turn = |(_, s, _, t, _): &Pair| change.pose(t).turn_to_rad(s).to_degrees();
    Some(Difference {
        rms_px,
        rms_px_at_1280: rms_px * 1280.0 / width,
        worst_px: distances_px(&sights, &change)
            .into_iter()
            .fold(0.0, f64::max),
        focal_share: pairs[0].0.focal_px / pairs[0].2.focal_px - 1.0,
        worst_focal_share: pairs
            .iter()
            .map(|(s, _, t, _, _)| s.focal_px / t.focal_px - 1.0)
            .max_by(|a, b| a.abs().total_cmp(&b.abs()))?,
        frames: pairs.len(),
        by_frame,
        worst_turn_deg: pairs.iter().map(turn).fold(0.0, f64::max),
    })
}

/// Lens and camera of a frame, solved and true, and its number.
type Pair = (Intrinsics, Pose, Intrinsics, Pose, i32);

/// Rotation by the mean turn between the cameras, scale and shift by their centres.
fn start(pairs: &[Pair]) -> Option<Similarity> {
    let turn = |(_, s, _, t, _): &Pair| {
        (s.camera_from_world.rotation.inverse() * t.camera_from_world.rotation)
            .to_rotation_matrix()
            .into_inner()
    };
    let svd = pairs
        .iter()
        .map(turn)
        .sum::<nalgebra::Matrix3<f64>>()
        .svd(true, true);
    let rotation = UnitQuaternion::from_rotation_matrix(&nalgebra::Rotation3::from_matrix(
        &(svd.u? * svd.v_t?),
    ));
    let solved: Vec<Vector3<f64>> = pairs.iter().map(|p| p.1.centre().0.coords).collect();
    let truth: Vec<Vector3<f64>> = pairs.iter().map(|p| p.3.centre().0.coords).collect();
    let mean = |places: &[Vector3<f64>]| places.iter().sum::<Vector3<f64>>() / places.len() as f64;
    let (ms, mt) = (mean(&solved), mean(&truth));
    let spread = |places: &[Vector3<f64>], m: Vector3<f64>| {
        places
            .iter()
            .map(|p| (p - m).norm_squared())
            .sum::<f64>()
            .sqrt()
    };
    // Cameras that only turn have no scale; any draws the same picture.
    let ratio = spread(&solved, ms) / spread(&truth, mt);
    let scale = if ratio.is_finite() && ratio > 1e-6 {
        ratio
    } else {
        1.0
    };
    Some(Similarity {
        rotation,
        scale,
        translation: ms - rotation * mt * scale,
    })
}
