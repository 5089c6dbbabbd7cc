//! Slip of a place, frame by frame, and over the picture.
//!
//! With M the derivatives of where a place is seen by cameras and lens, T those by the place, K the covariance and
//! Q = I - T T⁺, what takes the best place that stands still out, slip has the covariance Q M K Mᵀ Qᵀ. Its standard
//! error on a frame is the root of the trace of that frame's two rows: the expected distance, px.

use super::joint::{Joint, Seen};
use crate::spaces::{FrameNumber, PlatePx};
use nalgebra::{DMatrix, Vector3};
use rayon::prelude::*;
use serde::Serialize;

/// Expected slip of a place.
#[derive(Clone, Debug, Serialize)]
pub struct Slip {
    /// On each frame on which it lies in the picture: the frame, where it is seen, one standard error, px.
    pub frames: Vec<(FrameNumber, PlatePx, f64)>,
    /// Root mean square over these frames, px.
    pub rms_px: f64,
    /// The frame on which it slips most, and by how much, px.
    pub worst: (FrameNumber, f64),
}

/// Why nothing can be forecast of a place.
#[derive(Clone, Copy, Debug, PartialEq, Eq, thiserror::Error)]
pub enum NoForecast {
    /// Hardly in the picture.
    #[error(
        "the place lies in the picture of {0} of the frames that are looked at; slip shows from three on"
    )]
    HardlySeen(usize),
}

/// Slip over the picture of one frame, at one distance.
#[derive(Clone, Debug, Serialize)]
pub struct Field {
    /// Columns and rows.
    pub size: [usize; 2],
    /// Root mean square slip of what stands there, px, row by row; `None` where it cannot be told.
    pub px: Vec<Option<f64>>,
}

/// Fewer frames show no slip.
const FEWEST_FRAMES: usize = 3;
/// Singular values below this share of the greatest say nothing of a place.
const SINGULAR: f64 = 1e-6;

/// Takes out what a place that stands still can account for: Q.
pub fn without_place(by_place: &DMatrix<f64>) -> DMatrix<f64> {
    let rows = by_place.nrows();
    let svd = by_place.clone().svd(true, false);
    let greatest = svd.singular_values.max();
    let mut q = DMatrix::identity(rows, rows);
    if let Some(u) = svd.u {
        for (k, value) in svd.singular_values.iter().enumerate() {
            if *value > SINGULAR * greatest {
                let column = u.column(k);
                q -= column * column.transpose();
            }
        }
    }
    q
}

/// Slip of each of the frames of a covariance, px.
pub fn sigmas(covariance: &DMatrix<f64>, factor: f64) -> Vec<f64> {
    let frames = 0..covariance.nrows() / 2;
    let of = |k: usize| covariance[(2 * k, 2 * k)] + covariance[(2 * k + 1, 2 * k + 1)];
    frames.map(|k| (factor * of(k)).max(0.0).sqrt()).collect()
}

/// Root mean square of some figures.
pub fn rms(values: &[f64]) -> f64 {
    (values.iter().map(|v| v * v).sum::<f64>() / values.len().max(1) as f64).sqrt()
}

/// Covariance of the slip of a place that is seen so, not scaled.
fn covariance(joint: &Joint, seen: &Seen) -> DMatrix<f64> {
    let functions = without_place(&seen.by_place) * &seen.by_unknowns;
    joint.between(&functions)
}

/// Expected slip of a place of the solve's world.
pub fn forecast(joint: &Joint, place: &Vector3<f64>) -> Result<Slip, NoForecast> {
    let seen = joint.seen(place);
    if seen.cameras.len() < FEWEST_FRAMES {
        return Err(NoForecast::HardlySeen(seen.cameras.len()));
    }
    let px = sigmas(&covariance(joint, &seen), joint.factor);
    let known: Vec<(usize, f64)> = seen
        .cameras
        .iter()
        .map(|k| joint.cameras[*k])
        .zip(px.iter().copied())
        .collect();
    let problem = joint.problem();
    let all = (known[0].0..=known[known.len() - 1].0).filter_map(|camera| {
        let lens = problem.lens_of(camera);
        let seen = lens.project(
            &problem.poses[camera],
            &crate::spaces::WorldPoint((*place).into()),
        );
        let seen = seen.filter(|px| lens.holds(*px))?;
        Some((joint.frames[camera], seen, between(&known, camera)))
    });
    let frames: Vec<_> = all.collect();
    let worst = frames.iter().max_by(|a, b| a.2.total_cmp(&b.2));
    let worst = worst.map_or((joint.frames[0], 0.0), |w| (w.0, w.2));
    Ok(Slip {
        rms_px: rms(&frames.iter().map(|f| f.2).collect::<Vec<_>>()),
        frames,
        worst,
    })
}

/// The figure of a camera from those of the ones before and after it.
fn between(known: &[(usize, f64)], camera: usize) -> f64 {
    let after = known.partition_point(|(own, _)| *own < camera);
    match (after.checked_sub(1).map(|k| known[k]), known.get(after)) {
        (Some(before), Some(after)) => {
            let share = (camera - before.0) as f64 / (after.0 - before.0) as f64;
            before.1 + share * (after.1 - before.1)
        }
        (Some(one), None) => one.1,
        (None, after) => after.map_or(0.0, |after| after.1),
    }
}

/// Root mean square slip of what stands on the rays of a frame at a distance (units of the solve), over its picture.
pub fn field(
    joint: &Joint,
    frame: FrameNumber,
    distance: f64,
    [columns, rows]: [usize; 2],
) -> Option<Field> {
    let camera = joint.frames.binary_search(&frame).ok()?;
    let problem = joint.problem();
    let (lens, pose) = (problem.lens_of(camera), problem.poses[camera]);
    let (width, height) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let at = |index: usize| {
        let share = |k: usize, count: usize| (k as f64 + 0.5) / count as f64;
        let x = share(index % columns, columns) * width;
        let y = share(index / columns, rows) * height;
        let ray = lens.lens_point(PlatePx::new(x, y))?.ray().normalize();
        let place =
            pose.centre().0.coords + pose.camera_from_world.rotation.inverse() * ray * distance;
        Some(forecast(joint, &place).ok()?.rms_px)
    };
    let px = (0..columns * rows).into_par_iter().map(at).collect();
    let size = [columns, rows];
    Some(Field { size, px })
}
