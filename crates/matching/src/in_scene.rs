//! What is handed on besides camera and landmarks: planes of the set that are stated, and things that move by
//! themselves.

use nalgebra::{Matrix3, Rotation3, UnitQuaternion, Vector3};
use parallax_core::camera::Similarity;
use parallax_core::guest::{What, stand_ins};
use parallax_core::orient::{End, Facing, Fact, Orientation, StandingPlane, Stated};
use parallax_core::progress::Progress;
use parallax_core::render::{Piece, light};
use parallax_core::solve::Attempt;
use parallax_core::solve::bodies::motion::{BodyLength, BodyMotion, DistanceBy, motion};
use parallax_core::spaces::{TrackId, WorldPoint};
use parallax_core::tracks::Track;
use parallax_formats::delivery::{Delivered, Landmark, MovingBody};
use parallax_formats::tracks_csv::Called;
use std::collections::BTreeMap;
use std::sync::Arc;

/// The set reaches beyond the features that are stated to lie on it, by so much.
const BEYOND: f64 = 1.5;

/// A stated plane as a piece of the set that does nothing yet.
pub fn piece_of(plane: &StandingPlane) -> Option<Piece> {
    Some(Piece {
        at: plane.middle.0,
        normal: plane.normal.try_normalize(1e-9)?,
        half_m: [BEYOND * plane.reach; 2],
        catches: false,
        solid: false,
    })
}

/// Stated planes with the ground, as surfaces; `landmark` is where a feature is in the artist's world.
pub fn set(
    orientation: &Orientation,
    stated: &[Stated],
    landmark: impl Fn(TrackId) -> Option<WorldPoint>,
) -> Vec<Delivered> {
    let mut out = Vec::new();
    for (id, statement) in stated.iter().filter(|(_, s)| !s.off) {
        let Fact::Plane { name, faces, on } = &statement.fact else {
            continue;
        };
        let standing = match faces {
            Facing::Ground => ground(orientation, *id, on.iter().filter_map(|t| landmark(*t))),
            _ => orientation.planes.iter().find(|p| p.id == *id).cloned(),
        };
        let name = match name.trim() {
            "" => format!("plane {id}"),
            name => name.to_owned(),
        };
        out.extend(standing.and_then(|plane| surface(name, &piece_of(&plane)?)));
    }
    out
}

/// The ground as far as its features reach.
fn ground(
    orientation: &Orientation,
    id: u32,
    on: impl Iterator<Item = WorldPoint>,
) -> Option<StandingPlane> {
    let height = orientation.ground.filter(|_| orientation.levelled)?;
    let level = |p: WorldPoint| Vector3::new(p.0.x, height, p.0.z);
    let places: Vec<Vector3<f64>> = on.map(level).collect();
    if places.is_empty() {
        return None;
    }
    let middle = places.iter().sum::<Vector3<f64>>() / places.len() as f64;
    let reach = places.iter().map(|p| (p - middle).norm());
    Some(StandingPlane {
        id,
        middle: WorldPoint(middle.into()),
        normal: Vector3::y(),
        reach: reach.fold(0.0, f64::max),
    })
}

fn surface(name: String, piece: &Piece) -> Option<Delivered> {
    let size_m = piece.half_m.map(|half| 2.0 * half);
    if !size_m.iter().all(|s| s.is_finite() && *s > 0.0) {
        return None;
    }
    let (right, up) = light::about(&piece.normal);
    let axes = Matrix3::from_columns(&[right, piece.normal, -up]);
    let there = Similarity {
        rotation: UnitQuaternion::from_rotation_matrix(&Rotation3::from_matrix_unchecked(axes)),
        translation: piece.at.coords,
        scale: 1.0,
    };
    let mesh = stand_ins::plain(&What::Plane { size_m })?;
    Some(Delivered::still(name, Arc::new(mesh), there))
}

/// Lengths that are stated between two features; they say how far away a body is where both are on it.
pub fn lengths(stated: &[Stated]) -> Vec<BodyLength> {
    let length = |(_, statement): &Stated| match &statement.fact {
        Fact::Length {
            between: [End::Feature(a), End::Feature(b)],
            length_m,
            ..
        } if !statement.off => Some(BodyLength {
            between: [*a, *b],
            length: *length_m,
        }),
        _ => None,
    };
    stated.iter().filter_map(length).collect()
}

/// Things of an attempt that move by themselves, in the artist's world, and why others are not among them.
pub fn bodies(
    tracks: &[Track],
    attempt: &Attempt,
    (orientation, lengths): (&Orientation, &[BodyLength]),
    called: impl Fn(TrackId) -> Called,
    progress: &dyn Progress,
) -> (Vec<MovingBody>, Vec<String>) {
    let (mut moving, mut left_out) = (Vec::new(), Vec::new());
    // Without a scale a length in metres says nothing.
    let lengths = if orientation.scaled { lengths } else { &[] };
    for number in 1..attempt.bodies.len() {
        let name = name(attempt, number, &called);
        progress.report("bodies", number, attempt.bodies.len());
        let known = (&orientation.change, lengths);
        match motion(tracks, attempt, number, known, progress) {
            Some(Ok(found)) => moving.push(handed_on(name, &found, &called)),
            Some(Err(reason)) => left_out.push(format!("{name}: {reason}")),
            None => {}
        }
    }
    (moving, left_out)
}

/// A body is called by the group that most of its features are in.
fn name(attempt: &Attempt, number: usize, called: impl Fn(TrackId) -> Called) -> String {
    let mut groups: BTreeMap<String, usize> = BTreeMap::new();
    let tracks = &attempt.bodies[number].tracks;
    for track in tracks {
        *groups.entry(called(*track).group).or_default() += 1;
    }
    let most = groups.into_iter().max_by_key(|(_, count)| *count);
    match most {
        Some((group, count)) if !group.is_empty() && 2 * count > tracks.len() => group,
        _ => format!("body {number}"),
    }
}

fn handed_on(name: String, found: &BodyMotion, called: impl Fn(TrackId) -> Called) -> MovingBody {
    let point = |p: &parallax_core::solve::bodies::motion::BodyPoint| {
        let Called { name, group, .. } = called(p.track);
        Landmark {
            name: match name.is_empty() {
                true => p.track.to_string(),
                false => name,
            },
            group,
            colour: None,
            place: p.place,
            covariance: p.covariance,
            residual_px: p.rms_px,
        }
    };
    MovingBody {
        name,
        points: found.points.iter().map(point).collect(),
        moves: found.moves.clone(),
        seen: found.seen,
        is_assumed: !matches!(found.by, DistanceBy::Lengths(_)),
        distance_by: found.by.to_string(),
    }
}
