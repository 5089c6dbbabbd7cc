//! The relative pose that most features of two views agree on.
//!
//! MSAC (Torr and Zisserman 2000) over five-point samples, locally optimised (Chum, Matas
//! and Kittler 2003): whenever a sample is the best so far, rotation and direction of the
//! shift are refined on its inliers by Gauss-Newton on Sampson distances.

use super::{essential_matrices, sampson_squared};
use crate::camera::Pose;
use nalgebra::{DMatrix, DVector, Matrix3, Rotation3, UnitQuaternion, Vector3};

/// How two views lie to each other.
#[derive(Clone, Debug)]
pub struct RelativePose {
    /// `second_from_first`, the shift of unit length.
    pub pose: Pose,
    /// Which pairs agree and lie in front of both cameras.
    pub inliers: Vec<bool>,
    /// MSAC cost: squared distances over squared threshold, each at most 1.
    pub cost: f64,
}

/// How to look for it.
#[derive(Clone, Copy, Debug)]
pub struct RelativePoseSearch {
    /// Largest Sampson distance of an inlier, tangent (px over focal length).
    pub threshold: f64,
    /// Most samples drawn.
    pub samples: usize,
    /// Seed of the draw.
    pub seed: u64,
}

/// The pose that most pairs of bearings agree on; `None` below 8 pairs or without consensus.
pub fn relative_pose(
    pairs: &[(Vector3<f64>, Vector3<f64>)],
    search: &RelativePoseSearch,
) -> Option<RelativePose> {
    if pairs.len() < 8 {
        return None;
    }
    let mut random = fastrand::Rng::with_seed(search.seed);
    let limit = search.threshold * search.threshold;
    let mut best: Option<(f64, Matrix3<f64>)> = None;
    let mut needed = search.samples;
    let mut drawn = 0;
    while drawn < needed {
        drawn += 1;
        let chosen = draw_five(pairs.len(), &mut random);
        for essential in essential_matrices(&chosen.map(|i| pairs[i])) {
            let cost = msac(&essential, pairs, limit);
            if best.is_none_or(|(least, _)| cost < least) {
                let (cost, essential) = refined(essential, pairs, limit)
                    .filter(|(c, _)| *c < cost)
                    .unwrap_or((cost, essential));
                best = Some((cost, essential));
                needed = needed.min(drawn + samples_needed(1.0 - cost / pairs.len() as f64));
            }
        }
    }
    let (cost, essential) = best?;
    in_front(&essential, pairs, limit).map(|(pose, inliers)| RelativePose {
        pose,
        inliers,
        cost,
    })
}

/// Samples until one is free of outliers with 99.9 %, given the share of inliers.
fn samples_needed(inlier_share: f64) -> usize {
    let clean = inlier_share.clamp(0.05, 0.98).powi(5);
    (0.001f64.ln() / (1.0 - clean).ln()).ceil() as usize
}

fn draw_five(count: usize, random: &mut fastrand::Rng) -> [usize; 5] {
    let mut chosen = [usize::MAX; 5];
    for i in 0..5 {
        loop {
            let candidate = random.usize(..count);
            if !chosen[..i].contains(&candidate) {
                chosen[i] = candidate;
                break;
            }
        }
    }
    chosen
}

fn msac(essential: &Matrix3<f64>, pairs: &[(Vector3<f64>, Vector3<f64>)], limit: f64) -> f64 {
    pairs
        .iter()
        .map(|(a, b)| (sampson_squared(essential, a, b) / limit).min(1.0))
        .sum()
}

/// The four decompositions; the one with most inliers in front of both cameras.
fn in_front(
    essential: &Matrix3<f64>,
    pairs: &[(Vector3<f64>, Vector3<f64>)],
    limit: f64,
) -> Option<(Pose, Vec<bool>)> {
    decompositions(essential)?
        .into_iter()
        .map(|pose| {
            let agrees = |(a, b): &(Vector3<f64>, Vector3<f64>)| {
                sampson_squared(essential, a, b) < limit && depths_are_positive(&pose, a, b)
            };
            let inliers: Vec<bool> = pairs.iter().map(agrees).collect();
            (pose, inliers)
        })
        .max_by_key(|(_, inliers)| inliers.iter().filter(|i| **i).count())
}

fn decompositions(essential: &Matrix3<f64>) -> Option<[Pose; 4]> {
    let svd = essential.svd(true, true);
    let (mut u, mut v_t) = (svd.u?, svd.v_t?);
    u *= u.determinant().signum();
    v_t *= v_t.determinant().signum();
    let w = Matrix3::new(0.0, -1.0, 0.0, 1.0, 0.0, 0.0, 0.0, 0.0, 1.0);
    let t = u.column(2).into_owned();
    let turn = |m: Matrix3<f64>| {
        UnitQuaternion::from_rotation_matrix(&Rotation3::from_matrix_unchecked(m))
    };
    let (a, b) = (turn(u * w * v_t), turn(u * w.transpose() * v_t));
    Some([
        Pose::from_parts(a, t),
        Pose::from_parts(a, -t),
        Pose::from_parts(b, t),
        Pose::from_parts(b, -t),
    ])
}

fn depths_are_positive(pose: &Pose, a: &Vector3<f64>, b: &Vector3<f64>) -> bool {
    // d_b b = d_a R a + t, solved in the least-squares sense.
    let ra = pose.camera_from_world.rotation * a;
    let t = pose.camera_from_world.translation.vector;
    let (aa, ab, bb) = (ra.norm_squared(), ra.dot(b), b.norm_squared());
    let (at, bt) = (ra.dot(&t), b.dot(&t));
    let determinant = aa * bb - ab * ab;
    let depth_a = (ab * bt - bb * at) / determinant;
    let depth_b = (aa * bt - ab * at) / determinant;
    depth_a > 0.0 && depth_b > 0.0
}

/// Gauss-Newton over rotation (3) and direction of the shift (2), numeric derivatives.
fn refined(
    essential: Matrix3<f64>,
    pairs: &[(Vector3<f64>, Vector3<f64>)],
    limit: f64,
) -> Option<(f64, Matrix3<f64>)> {
    let (mut pose, _) = in_front(&essential, pairs, limit)?;
    let of = |pose: &Pose| {
        pose.camera_from_world.translation.vector.cross_matrix()
            * pose
                .camera_from_world
                .rotation
                .to_rotation_matrix()
                .into_inner()
    };
    for _ in 0..4 {
        let current = of(&pose);
        let inliers: Vec<_> = pairs
            .iter()
            .filter(|(a, b)| sampson_squared(&current, a, b) < limit)
            .collect();
        if inliers.len() < 8 {
            return None;
        }
        let residuals = |p: &Pose| {
            let e = of(p);
            DVector::from_iterator(
                inliers.len(),
                inliers.iter().map(|(a, b)| signed_sampson(&e, a, b)),
            )
        };
        let base = residuals(&pose);
        const STEP: f64 = 1e-6;
        let mut jacobian = DMatrix::zeros(inliers.len(), 5);
        for k in 0..5 {
            let mut change = [0.0; 5];
            change[k] = STEP;
            jacobian.set_column(k, &((residuals(&changed(&pose, &change)) - &base) / STEP));
        }
        let normal = jacobian.tr_mul(&jacobian);
        let step = normal.cholesky()?.solve(&jacobian.tr_mul(&base));
        pose = changed(&pose, &[-step[0], -step[1], -step[2], -step[3], -step[4]]);
    }
    let essential = of(&pose);
    Some((msac(&essential, pairs, limit), essential))
}

fn changed(pose: &Pose, change: &[f64; 5]) -> Pose {
    let t = pose.camera_from_world.translation.vector;
    let helper = if t.x.abs() < 0.6 {
        Vector3::x()
    } else {
        Vector3::y()
    };
    let side = t.cross(&helper).normalize();
    let up = side.cross(&t);
    let rotation = UnitQuaternion::new(Vector3::new(change[0], change[1], change[2]))
        * pose.camera_from_world.rotation;
    Pose::from_parts(
        rotation,
        (t + side * change[3] + up * change[4]).normalize(),
    )
}

fn signed_sampson(essential: &Matrix3<f64>, a: &Vector3<f64>, b: &Vector3<f64>) -> f64 {
    let (a, b) = (a / -a.z, b / -b.z);
    let (ea, eb) = (essential * a, essential.tr_mul(&b));
    b.dot(&ea)
        / (ea.x * ea.x + ea.y * ea.y + eb.x * eb.x + eb.y * eb.y)
            .sqrt()
            .max(1e-12)
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::Point3;

    #[test]
    fn a_third_of_outliers_does_not_move_the_pose() {
        let mut random = fastrand::Rng::with_seed(8);
        let truth = Pose::from_parts(
            UnitQuaternion::new(Vector3::new(0.03, -0.12, 0.02)),
            Vector3::new(0.9, 0.1, -0.2).normalize(),
        );
        let pairs: Vec<_> = (0..240)
            .map(|i| {
                let mut draw = |range: f64| (random.f64() - 0.5) * 2.0 * range;
                let p = Point3::new(draw(4.0), draw(2.5), -8.0 + draw(3.0));
                let shifted = if i % 3 == 0 {
                    p + Vector3::new(draw(1.0), 0.8, draw(1.0))
                } else {
                    p
                };
                let b = (truth.camera_from_world * shifted).coords;
                let b = b / -b.z + Vector3::new(draw(3e-4), draw(3e-4), 0.0);
                (p.coords / -p.z, b)
            })
            .collect();
        let search = RelativePoseSearch {
            threshold: 1e-3,
            samples: 500,
            seed: 1,
        };
        let found = relative_pose(&pairs, &search).unwrap();
        assert!(found.pose.turn_to_rad(&truth) < 0.003);
        let t = |p: &Pose| p.camera_from_world.translation.vector;
        assert!(t(&found.pose).angle(&t(&truth)) < 0.02);
        assert!(found.inliers.iter().filter(|i| **i).count() >= 155);
    }
}
