//! Which way is up, where is the origin, how long is a metre?
//!
//! The ground is the least-squares plane of the picked landmarks (smallest eigenvector of
//! their covariance), its normal turned to the side on which the cameras stand. The origin
//! is a picked landmark, else the middle of the ground landmarks. +X runs to the first
//! camera's right, so that the camera looks roughly along -Z. Scale comes from a known
//! distance between two landmarks.
//!
//! Everything picked is kept as names of tracks, so that it holds for every later attempt
//! that solves them.

use crate::camera::{Pose, Similarity};
use crate::solve::certain::PointCovariance;
use crate::solve::{Attempt, CameraMove};
use crate::spaces::{TrackId, WorldPoint};
use nalgebra::{Matrix3, Rotation3, UnitQuaternion, Vector3};
use serde::{Deserialize, Serialize};

/// What the artist picked.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Picks {
    /// Landmarks that lie on the ground, at least three.
    pub ground: Vec<TrackId>,
    /// The landmark at the world's origin.
    pub origin: Option<TrackId>,
    /// Two landmarks and the distance between them in metres.
    pub distance: Option<(TrackId, TrackId, f64)>,
}

/// Where the world lies now.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Orientation {
    /// From the solve's world to the artist's.
    pub change: Similarity,
    /// Whether the ground is upright.
    pub levelled: bool,
    /// Whether the unit is the metre.
    pub scaled: bool,
    /// Root mean square distance of the ground landmarks from their plane, new units.
    pub flatness: f64,
    /// Standard error of the scale, share, from the uncertainty of the two landmarks taken as
    /// independent, for a length that is exact; `None` where there is no scale, or the solve
    /// does not say how certain they are.
    pub scale_share_sigma: Option<f64>,
}

impl Orientation {
    /// The world of an attempt as it was solved: in that of its survey, where one holds it.
    pub fn of_attempt(attempt: &Attempt) -> Self {
        let is_surveyed = attempt.is_surveyed();
        Self {
            levelled: is_surveyed,
            scaled: is_surveyed,
            ..Self::as_solved()
        }
    }

    /// A world as it was solved, of which nothing is known.
    pub fn as_solved() -> Self {
        Self {
            change: Similarity::identity(),
            levelled: false,
            scaled: false,
            flatness: 0.0,
            scale_share_sigma: None,
        }
    }
}

/// Why the picks do not orient the world.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum OrientError {
    /// A picked landmark is not in the solve.
    #[error("{0} is picked but not solved in this attempt; pick another landmark in its place")]
    NotSolved(TrackId),
    /// Too few for a plane.
    #[error("the ground needs 3 landmarks that lie on it; {found} picked")]
    TooFewGround {
        /// Picked so far.
        found: usize,
    },
    /// All in a row.
    #[error("the ground landmarks lie in one line; pick one to the side of it")]
    InOneLine,
    /// A distance that cannot be.
    #[error("the distance is {0} m; it has to be greater than 0")]
    Distance(f64),
    /// The two landmarks are one place.
    #[error("the two landmarks of the distance are in the same place; pick two that are apart")]
    SamePlace,
    /// The camera does not travel.
    #[error(
        "the camera does not travel, so that landmarks are directions and show neither a ground nor distances; clear what is picked, and the world is as the first camera stood"
    )]
    Directions,
}

/// A solved landmark as orienting needs it: name, place, and how certain that is.
pub type Placed = (TrackId, WorldPoint, Option<PointCovariance>);

/// Finds the change of an attempt's world. What a survey holds is upright and in metres already.
pub fn oriented(attempt: &Attempt, picks: &Picks) -> Result<Orientation, OrientError> {
    if attempt.moves != CameraMove::Free && *picks != Picks::default() {
        return Err(OrientError::Directions);
    }
    let landmarks = attempt.landmarks.iter();
    let landmarks: Vec<Placed> = landmarks
        .map(|l| (l.track, l.point, l.covariance))
        .collect();
    let cameras: Vec<Pose> = attempt.frames.iter().map(|f| f.pose).collect();
    let picked = orient(&landmarks, &cameras, picks)?;
    let solved = Orientation::of_attempt(attempt);
    Ok(Orientation {
        levelled: picked.levelled || solved.levelled,
        scaled: picked.scaled || solved.scaled,
        ..picked
    })
}

/// Finds the change of world. `landmarks` ascending by track.
pub fn orient(
    landmarks: &[Placed],
    cameras: &[Pose],
    picks: &Picks,
) -> Result<Orientation, OrientError> {
    let find = |id: TrackId| -> Result<&Placed, OrientError> {
        let at = landmarks
            .binary_search_by_key(&id, |l| l.0)
            .map_err(|_| OrientError::NotSolved(id))?;
        Ok(&landmarks[at])
    };
    let mut change = Similarity::identity();
    let ground: Vec<WorldPoint> = picks
        .ground
        .iter()
        .map(|id| Ok(find(*id)?.1))
        .collect::<Result<_, _>>()?;
    let levelled = !ground.is_empty();
    if levelled {
        change = change.then(&levelling(&ground, cameras)?);
    }
    let mut scale_share_sigma = None;
    if let Some((a, b, metres)) = picks.distance {
        if !(metres.is_finite() && metres > 0.0) {
            return Err(OrientError::Distance(metres));
        }
        let (a, b) = (find(a)?, find(b)?);
        let apart = a.1.distance(b.1);
        if apart < 1e-9 {
            return Err(OrientError::SamePlace);
        }
        scale_share_sigma = along(a, b)
            .zip(along(b, a))
            .map(|(a, b)| a.hypot(b) / apart);
        let scale = metres / apart;
        change = change.then(&Similarity {
            scale,
            ..Similarity::identity()
        });
    }
    let origin = match picks.origin {
        Some(id) => Some(change.point(&find(id)?.1)),
        None if levelled => Some(middle(
            &ground.iter().map(|p| change.point(p)).collect::<Vec<_>>(),
        )),
        None => None,
    };
    if let Some(origin) = origin {
        change = change.then(&Similarity {
            translation: -origin.0.coords,
            ..Similarity::identity()
        });
    }
    let flatness = flatness(&ground.iter().map(|p| change.point(p)).collect::<Vec<_>>());
    Ok(Orientation {
        change,
        levelled,
        scaled: picks.distance.is_some(),
        flatness,
        scale_share_sigma,
    })
}

/// Standard error of `a` along the line to `b`.
fn along(a: &Placed, b: &Placed) -> Option<f64> {
    let direction = (b.1.0 - a.1.0).normalize();
    a.2.map(|covariance| covariance.along(&direction))
}

fn middle(points: &[WorldPoint]) -> WorldPoint {
    let sum: Vector3<f64> = points.iter().map(|p| p.0.coords).sum();
    WorldPoint((sum / points.len() as f64).into())
}

fn levelling(ground: &[WorldPoint], cameras: &[Pose]) -> Result<Similarity, OrientError> {
    if ground.len() < 3 {
        return Err(OrientError::TooFewGround {
            found: ground.len(),
        });
    }
    let centre = middle(ground).0;
    let covariance: Matrix3<f64> = ground
        .iter()
        .map(|p| (p.0 - centre) * (p.0 - centre).transpose())
        .sum();
    let eigen = covariance.symmetric_eigen();
    let mut order = [0, 1, 2];
    order.sort_by(|&i, &j| eigen.eigenvalues[i].total_cmp(&eigen.eigenvalues[j]));
    let [least, second, most] = order.map(|i| eigen.eigenvalues[i].max(0.0));
    if second <= 1e-4 * most || most <= 0.0 || least.is_nan() {
        return Err(OrientError::InOneLine);
    }
    let mut up: Vector3<f64> = eigen.eigenvectors.column(order[0]).into_owned();
    let above = cameras
        .iter()
        .filter(|c| (c.centre().0 - centre).dot(&up) > 0.0)
        .count();
    if above * 2 < cameras.len() {
        up = -up;
    }
    let right_of_camera = cameras.first().map_or(Vector3::x(), |c| {
        c.camera_from_world.rotation.inverse() * Vector3::x()
    });
    let flat = right_of_camera - up * up.dot(&right_of_camera);
    let right = if flat.norm() > 1e-6 {
        flat.normalize()
    } else {
        up.cross(&Vector3::z()).normalize()
    };
    let back = right.cross(&up);
    let rows = Matrix3::from_rows(&[right.transpose(), up.transpose(), back.transpose()]);
    let rotation = UnitQuaternion::from_rotation_matrix(&Rotation3::from_matrix_unchecked(rows));
    Ok(Similarity {
        rotation,
        ..Similarity::identity()
    })
}

fn flatness(ground: &[WorldPoint]) -> f64 {
    if ground.is_empty() {
        return 0.0;
    }
    let height = middle(ground).0.y;
    (ground.iter().map(|p| (p.0.y - height).powi(2)).sum::<f64>() / ground.len() as f64).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::Point3;
    use proptest::prelude::*;
    use rstest::rstest;

    fn world(change: &Similarity) -> (Vec<Placed>, Vec<Pose>) {
        let places = [
            (-2.0, 0.0, 1.0),
            (1.5, 0.0, -3.0),
            (3.0, 0.0, 2.0),
            (0.0, 0.0, 0.0),
            (0.0, 2.04, 0.0),
            (6.0, 0.0, 4.0),
        ];
        let landmarks = places.iter().enumerate().map(|(i, &(x, y, z))| {
            (
                TrackId(i as u32 + 1),
                change.point(&WorldPoint::new(x, y, z)),
                PointCovariance::of_sigma([0.01; 3]).ok(),
            )
        });
        let camera = Pose::looking_at(
            &Point3::new(1.0, 1.6, 8.0),
            &Point3::new(0.0, 1.0, 0.0),
            &Vector3::y(),
        );
        (landmarks.collect(), vec![change.pose(&camera)])
    }

    fn picks() -> Picks {
        Picks {
            ground: vec![TrackId(1), TrackId(2), TrackId(3)],
            origin: Some(TrackId(4)),
            distance: Some((TrackId(4), TrackId(5), 2.04)),
        }
    }

    proptest! {
        #[test]
        fn any_world_is_put_upright_and_to_scale(
            turn in prop::array::uniform3(-3.0..3.0f64), shift in prop::array::uniform3(-9.0..9.0f64), scale in 0.05..20.0f64
        ) {
            let hidden = Similarity { rotation: UnitQuaternion::new(turn.into()), translation: shift.into(), scale };
            let (landmarks, cameras) = world(&hidden);
            let found = orient(&landmarks, &cameras, &picks()).unwrap();
            let top = found.change.point(&landmarks[4].1).0;
            prop_assert!((top - Point3::new(0.0, 2.04, 0.0)).norm() < 1e-6);
            let eye = found.change.pose(&cameras[0]).centre().0;
            prop_assert!((eye.y - 1.6).abs() < 1e-6, "the camera stands above the ground");
            prop_assert!(found.flatness < 1e-9);
            let right = found.change.pose(&cameras[0]).camera_from_world.rotation.inverse() * Vector3::x();
            prop_assert!(right.x > 0.99);
        }
    }

    #[rstest]
    #[case::unsolved(Picks { origin: Some(TrackId(99)), ..picks() }, OrientError::NotSolved(TrackId(99)))]
    #[case::two_points(Picks { ground: vec![TrackId(1), TrackId(2)], ..picks() }, OrientError::TooFewGround { found: 2 })]
    #[case::negative(Picks { distance: Some((TrackId(1), TrackId(2), -1.0)), ..picks() }, OrientError::Distance(-1.0))]
    #[case::one_place(Picks { distance: Some((TrackId(1), TrackId(1), 1.0)), ..picks() }, OrientError::SamePlace)]
    #[case::in_a_row(Picks { ground: vec![TrackId(3), TrackId(4), TrackId(6)], ..picks() }, OrientError::InOneLine)]
    fn what_cannot_be_is_refused(#[case] picks: Picks, #[case] expected: OrientError) {
        let (landmarks, cameras) = world(&Similarity::identity());
        assert_eq!(orient(&landmarks, &cameras, &picks).unwrap_err(), expected);
    }
}
