//! The change of world by which cameras of one world see points of another where they were seen.

use super::{Intrinsics, Pose, Similarity};
use crate::spaces::{PlatePx, WorldPoint};
use nalgebra::{DMatrix, DVector, SMatrix, SVector, UnitQuaternion, Vector3};

/// A point of the other world, and where a camera of this one should see it.
#[derive(Clone, Copy, Debug)]
pub struct Sight {
    /// How the camera draws.
    pub lens: Intrinsics,
    /// Where it stands, this world.
    pub pose: Pose,
    /// The point, the other world.
    pub point: WorldPoint,
    /// Where it should be seen.
    pub px: PlatePx,
}

impl Sight {
    /// How far off the point is seen after a change of world, px; `None` behind the camera.
    pub fn residual(&self, change: &Similarity) -> Option<nalgebra::Vector2<f64>> {
        self.lens
            .project(&self.pose, &change.point(&self.point))
            .map(|px| px.offset_from(self.px))
    }
}

/// Root mean square of all residuals, px; a point behind a camera counts a thousand.
pub fn rms_px(change: &Similarity, sights: &[Sight]) -> f64 {
    let off = |s: &Sight| s.residual(change).map_or(1e3, |r| r.norm());
    let squares: f64 = sights.iter().map(|s| off(s).powi(2)).sum();
    (squares / sights.len().max(1) as f64).sqrt()
}

fn changed(base: &Similarity, by: &SVector<f64, 7>) -> Similarity {
    Similarity {
        rotation: UnitQuaternion::new(Vector3::new(by[0], by[1], by[2])) * base.rotation,
        translation: base.translation + Vector3::new(by[3], by[4], by[5]),
        scale: base.scale * by[6].exp(),
    }
}

/// The change of world with the least residuals, from a first one: Gauss-Newton with damping on seven
/// numbers.
pub fn registered(mut change: Similarity, sights: &[Sight]) -> Similarity {
    let residuals = |c: &Similarity| -> DVector<f64> {
        DVector::from_iterator(
            2 * sights.len(),
            sights
                .iter()
                .flat_map(|s| s.residual(c).map_or([0.0; 2], |r| [r.x, r.y])),
        )
    };
    let mut damping = 1e-3;
    let mut base = residuals(&change);
    for _ in 0..40 {
        let mut jacobian = DMatrix::zeros(base.len(), 7);
        for k in 0..7 {
            let mut by = SVector::<f64, 7>::zeros();
            by[k] = 1e-6;
            jacobian.set_column(k, &((residuals(&changed(&change, &by)) - &base) / 1e-6));
        }
        let mut normal =
            SMatrix::<f64, 7, 7>::from_iterator(jacobian.tr_mul(&jacobian).iter().copied());
        let side = SVector::<f64, 7>::from_iterator(jacobian.tr_mul(&base).iter().copied());
        for k in 0..7 {
            normal[(k, k)] *= 1.0 + damping;
        }
        let Some(factor) = normal.cholesky() else {
            break;
        };
        let next = changed(&change, &-factor.solve(&side));
        let trial = residuals(&next);
        if trial.norm_squared() < base.norm_squared() {
            let done = base.norm_squared() - trial.norm_squared() < 1e-9 * base.norm_squared();
            (change, base) = (next, trial);
            damping *= 0.2;
            if done {
                break;
            }
        } else {
            damping *= 10.0;
        }
    }
    change
}
