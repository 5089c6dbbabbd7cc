//! Squares that are straight in the undistorted picture, as they fall on the plate: what an artist
//! holds against straight things to see whether a lens is right. Lines reach beyond the plate, as a
//! barrel draws more than the plate's own rectangle, and end where the lens folds.

use crate::camera::Intrinsics;
use crate::spaces::{LensPoint, PlatePx};

/// Squares across the plate.
const ACROSS: f64 = 16.0;
/// Places along one half of a line.
const POINTS: i32 = 48;
/// Half the grid's extent, as a share of the picture's size.
const REACH: f64 = 0.75;
/// How far beyond the plate a line is drawn, as a share of its size.
const BEYOND: f64 = 0.2;

/// The lines of the grid, each as places in px of the plate, upright ones first.
pub fn grid(lens: &Intrinsics) -> Vec<Vec<PlatePx>> {
    let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let limit = lens.distortion.valid_radius();
    let middle = (0.5 * w - lens.centre.x, 0.5 * h - lens.centre.y);
    let place = |x: f64, y: f64| {
        let at = LensPoint::new(
            (middle.0 + x) / lens.focal_px,
            (middle.1 + y) / lens.focal_px,
        );
        (at.x.hypot(at.y) < limit).then(|| lens.plate_px(at))
    };
    let is_near = |px: &PlatePx| {
        let within = |v: f64, size: f64| v > -BEYOND * size && v < (1.0 + BEYOND) * size;
        within(px.x, w) && within(px.y, h)
    };
    let line = |of: &dyn Fn(f64) -> (f64, f64)| -> Vec<PlatePx> {
        (-POINTS..=POINTS)
            .filter_map(|k| {
                let (x, y) = of(f64::from(k) / f64::from(POINTS));
                place(x, y).filter(is_near)
            })
            .collect()
    };
    let side = w / ACROSS;
    let count = |size: f64| (REACH * size / side) as i32;
    let upright = (-count(w)..=count(w)).map(|i| line(&|t| (f64::from(i) * side, t * REACH * h)));
    let level = (-count(h)..=count(h)).map(|j| line(&|t| (t * REACH * w, f64::from(j) * side)));
    upright.chain(level).filter(|l| l.len() >= 2).collect()
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::lens::Distortion;
    use rstest::rstest;

    #[rstest]
    #[case::none(Distortion::NONE)]
    #[case::barrel(Distortion::radial(-0.2, 0.03))]
    #[case::cushion(Distortion::radial(0.12, 0.0))]
    fn lines_are_straight_once_undistorted(#[case] distortion: Distortion) {
        let lens = Intrinsics {
            distortion,
            centre: PlatePx::new(655.0, 348.0),
            ..Intrinsics::centred(1280, 720, 1100.0)
        };
        let lines = grid(&lens);
        assert!(lines.len() > 20);
        for line in lines {
            let at: Vec<LensPoint> = line
                .iter()
                .map(|px| lens.lens_point(*px).unwrap())
                .collect();
            let spread = |of: fn(&LensPoint) -> f64| {
                let all = at.iter().map(of);
                all.clone().fold(f64::MIN, f64::max) - all.fold(f64::MAX, f64::min)
            };
            assert!(spread(|p| p.x).min(spread(|p| p.y)) < 1e-9);
        }
    }
}
