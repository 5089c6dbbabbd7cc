//! What is seen on a row hangs on the neighbours of the camera that sees it: how much, and by which of their unknowns?
//!
//! Where rows are read one after the other a camera is carried on along a path through its neighbours
//! ([`super::rolling`]), so that each residual has derivatives by up to [`MOST_NEAR`] cameras besides its own. Were paths
//! held while an adjustment steps, it would rest where the slope of the cost is not zero: shorter focal lengths and other
//! turns pass for each other, and what tells them apart is in part how paths follow.

use super::coupling::multiply;
use super::derivatives::Derivatives;
use super::reduced::Block;
use super::residual::OfPath;
use super::rolling::{MOST_NEAR, Near};
use super::{CAMERA, FOCAL, Problem};
use crate::camera::Eye;
use faer::MatRef;
use nalgebra::{Matrix3, SMatrix, UnitQuaternion, Vector3};

/// What a residual changes by with the unknowns of a camera.
pub type ByCamera = SMatrix<f64, 2, CAMERA>;

/// What a change changes by with the unknowns of a camera.
type ChangeByCamera = SMatrix<f64, 7, CAMERA>;

/// A camera that what another one sees hangs on.
#[derive(Clone, Copy, Debug)]
pub struct Beside {
    /// Index of the camera; that of the one which sees it where there is none.
    pub camera: usize,
    /// What the residual changes by with it.
    pub by: ByCamera,
}

impl Beside {
    /// Nothing beside a camera.
    pub fn none(camera: usize) -> Self {
        Self {
            camera,
            by: ByCamera::zeros(),
        }
    }
}

/// How the path of a camera follows its neighbours: what the change to each changes by with the camera itself and with
/// the neighbour.
pub struct PathSlopes(Vec<(Near, [ChangeByCamera; 2])>);

impl PathSlopes {
    /// Of all cameras; none where rows are read at once.
    pub fn all(problem: &Problem) -> Vec<Self> {
        let Some(rolling) = &problem.rolling else {
            return Vec::new();
        };
        let eyes = problem.eyes();
        let of = |camera: usize| {
            let near = rolling.near(camera).iter();
            let by = |near: &Near| change_by(&eyes[camera], &eyes[near.camera]);
            Self(near.map(|near| (*near, by(near))).collect())
        };
        (0..eyes.len()).map(of).collect()
    }

    /// What a residual changes by with the camera that sees it, by its path alone.
    pub fn own(&self, of_path: &OfPath) -> ByCamera {
        let by = self
            .0
            .iter()
            .map(|(near, [own, _])| own * near.at(of_path.time));
        of_path.by_change * by.sum::<ChangeByCamera>()
    }

    /// By its neighbours; `camera` is the one that sees it.
    pub fn beside(&self, camera: usize, of_path: &OfPath) -> [Beside; MOST_NEAR] {
        let mut out = [Beside::none(camera); MOST_NEAR];
        for (beside, (near, [_, by])) in out.iter_mut().zip(&self.0) {
            *beside = Beside {
                camera: near.camera,
                by: of_path.by_change * by * near.at(of_path.time),
            };
        }
        out
    }
}

/// What the change from one camera to another changes by with both. With turns ω applied after the rotation and shifts
/// added to the translation ([`crate::camera::Pose::perturbed`]) the rotation between them is turned by ω₂ after and -ω₁
/// before, and where the second is, as the first sees it, is D t₂ - t₁ with the rotation D from the second to the first.
fn change_by(from: &Eye, to: &Eye) -> [ChangeByCamera; 2] {
    let [a, b] = [from, to].map(|eye| eye.pose.camera_from_world);
    let between: UnitQuaternion<f64> = b.rotation * a.rotation.inverse();
    // Of the logarithm of a rotation.
    let cross = between.scaled_axis().cross_matrix();
    let (first, second) = (cross * 0.5, cross * cross * of_second(between.angle()));
    let back = between.inverse().to_rotation_matrix().into_inner();
    let place: Vector3<f64> = b.translation.vector;
    let identity = Matrix3::identity();
    let by = |turn: Matrix3<f64>, place_by_turn: Matrix3<f64>, place: Matrix3<f64>, zoom: f64| {
        let mut by = ChangeByCamera::zeros();
        by.fixed_view_mut::<3, 3>(0, 0).copy_from(&turn);
        by.fixed_view_mut::<3, 3>(3, 0).copy_from(&place_by_turn);
        by.fixed_view_mut::<3, 3>(3, 3).copy_from(&place);
        by[(6, FOCAL)] = zoom;
        by
    };
    [
        by(
            -(identity + first + second),
            -(back * place).cross_matrix(),
            -identity,
            -1.0 / from.lens.focal_px,
        ),
        by(
            identity - first + second,
            back * place.cross_matrix(),
            back,
            1.0 / to.lens.focal_px,
        ),
    ]
}

/// What the square of a rotation vector's cross product counts for in what the logarithm of the rotation changes by: in the
/// inverse of the left Jacobian of rotations (Barfoot 2017).
fn of_second(angle: f64) -> f64 {
    match angle < 1e-2 {
        true => (1.0 + angle * angle / 60.0) / 12.0,
        false => 1.0 / (angle * angle) - 0.5 / (angle * (0.5 * angle).tan()),
    }
}

/// Cameras that what a camera sees hangs on, ascending, itself among them: they are linked.
pub fn around(problem: &Problem, camera: usize) -> impl Iterator<Item = usize> + Clone {
    let near = problem.rolling.as_ref().map(|rolling| rolling.near(camera));
    let near = near.unwrap_or(&[]).iter().map(|near| near.camera);
    let before = near.clone().filter(move |near| *near < camera);
    let after = near.filter(move |near| *near > camera);
    before.chain([camera]).chain(after)
}

/// Blocks between cameras that the residuals of one of them hang on together, its own with itself not among them: row,
/// column and what is added.
pub fn between(
    derivatives: &Derivatives,
    problem: &Problem,
    camera: usize,
    observations: &[usize],
) -> Vec<(usize, usize, Block)> {
    let around: Vec<usize> = around(problem, camera).collect();
    let size = CAMERA * around.len();
    // Of each residual, two columns of derivatives by all of them.
    let mut laid = Vec::with_capacity(2 * size * observations.len());
    for at in observations {
        let Some(l) = derivatives.linear[*at].as_ref() else {
            continue;
        };
        // As they stand around it: those before it, itself, those after it.
        let beside = derivatives.beside(*at);
        let before = beside.iter().filter(|b| b.camera < camera).map(|b| &b.by);
        let after = beside.iter().filter(|b| b.camera > camera).map(|b| &b.by);
        let all = before.chain([&l.camera]).chain(after);
        for of_residual in 0..2 {
            all.clone()
                .for_each(|by| laid.extend(by.row(of_residual).iter()));
        }
    }
    let mut product = vec![0.0; size * size];
    multiply(&mut product, size, &laid, &laid);
    let product = MatRef::from_column_major_slice(&product, size, size);
    let block = |row: usize, column: usize| {
        let at = |r, c| product[(CAMERA * row + r, CAMERA * column + c)];
        (around[row], around[column], Block::from_fn(at))
    };
    let pairs = (0..around.len()).flat_map(|row| (0..row).map(move |column| (row, column)));
    pairs.map(|(row, column)| block(row, column)).collect()
}

#[cfg(test)]
mod tests {
    use super::super::rolling::change;
    use super::*;
    use crate::camera::{Intrinsics, Pose};
    use rstest::rstest;

    fn eye(turn: Vector3<f64>, place: Vector3<f64>, focal_px: f64) -> Eye {
        Eye {
            lens: Intrinsics::centred(1280, 720, focal_px),
            pose: Pose::from_parts(UnitQuaternion::new(turn), place),
        }
    }

    fn moved(eye: &Eye, slot: usize, by: f64) -> Eye {
        let mut step = [0.0; CAMERA];
        step[slot] = by;
        let [a, b, c, d, e, f, focal_px] = step;
        Eye {
            lens: eye.lens.with_focal(eye.lens.focal_px + focal_px),
            pose: eye
                .pose
                .perturbed(Vector3::new(a, b, c), Vector3::new(d, e, f)),
        }
    }

    /// From hands that hardly shake to a whip pan that turns nearly round.
    #[rstest]
    fn a_change_changes_with_both_cameras_as_is_said(
        #[values(0.0, 1e-3, 0.05, 1.0, 2.9)] turn: f64,
        #[values(0, 1)] of: usize,
        #[values(0, 1, 2, 3, 4, 5, 6)] slot: usize,
    ) {
        let first = Vector3::new(0.3, -0.8, 0.2);
        let axis = Vector3::new(0.6, 0.0, 0.8);
        let then = UnitQuaternion::new(axis * turn) * UnitQuaternion::new(first);
        let eyes = [
            eye(first, Vector3::new(0.4, -1.0, 5.0), 900.0),
            eye(then.scaled_axis(), Vector3::new(-0.3, 1.2, 4.0), 950.0),
        ];
        let after = |by: f64| {
            let mut eyes = eyes;
            eyes[of] = moved(&eyes[of], slot, by);
            change(&eyes[0], &eyes[1])
        };
        let slope = (after(1e-5) - after(-1e-5)) / 2e-5;
        let said = change_by(&eyes[0], &eyes[1])[of].column(slot).into_owned();
        assert!((slope - said).amax() < 1e-7, "{said} for {slope}");
    }
}
