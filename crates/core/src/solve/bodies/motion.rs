//! How a thing that moves by itself goes through the scene: solved by itself, seen by the scene's cameras, and put
//! where it can be.
//!
//! One camera does not show how far away such a thing is: twice as far and twice as large it looks the same on every
//! frame. Its distance is known by a stated length between two of its features; or is what makes its motion
//! independent of the camera's, where the camera moves unevenly enough (Ozden, Cornelis, Van Eycken, Van Gool,
//! "Reconstructing 3D trajectories of independently moving objects using generic constraints", 2004); or is taken to
//! be that of the scene's landmarks around it. Which of them it was is part of the answer.

use super::super::certain::PointCovariance;
use super::super::{
    Attempt, CameraMove, FocalKnowledge, KnownLength, Landmark, Readout, SolveError, SolveOptions,
    solve,
};
use crate::camera::{Intrinsics, Pose, Similarity};
use crate::progress::Progress;
use crate::spaces::{FrameNumber, TrackId, WorldPoint};
use crate::statistics::median;
use crate::tracks::{Covariance, Sample, Track};
use nalgebra::Vector3;
use std::collections::{BTreeMap, HashSet};

/// A distance found by independence is taken where its standard error is at most this share of it.
const MOST_SHARE: f64 = 0.15;
/// Steps between frames over which unevenness is looked for.
const STEPS: [usize; 8] = [1, 2, 3, 4, 6, 8, 12, 16];
/// ... and where errors of the cameras are at most this share of what is uneven in their path.
const MOST_NOISE: f64 = 0.1;
/// Landmarks around a body that say how far away it is.
const AROUND: usize = 12;

/// A stated length between two features of a body, in units of the world that is asked for.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct BodyLength {
    /// The features.
    pub between: [TrackId; 2],
    /// The length.
    pub length: f64,
}

impl From<&KnownLength> for BodyLength {
    fn from(known: &KnownLength) -> Self {
        Self {
            between: known.between,
            length: known.length_m,
        }
    }
}

/// By what the distance of a body is known.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum DistanceBy {
    /// Stated lengths between its features, so many.
    Lengths(usize),
    /// Its motion is independent of the camera's; the standard error, share of the distance.
    Independence(f64),
    /// It is as far away as what is around it in the picture: a guess.
    Surroundings,
}

impl std::fmt::Display for DistanceBy {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Lengths(1) => write!(f, "a stated length"),
            Self::Lengths(count) => write!(f, "{count} stated lengths"),
            Self::Independence(share) => write!(
                f,
                "it is taken to move independently of the camera, which tells them to {:.0} % (one standard error)",
                (100.0 * share).max(1.0)
            ),
            Self::Surroundings => write!(
                f,
                "guessed, as far away as the landmarks around it; state a length on it"
            ),
        }
    }
}

/// A thing that moves by itself, in a space of its own with its middle at the origin.
#[derive(Clone, Debug)]
pub struct BodyMotion {
    /// Its landmarks.
    pub points: Vec<BodyPoint>,
    /// From its own space to the world on each frame of the scene's cameras, at scale 1; where it was not solved, as on
    /// the nearest frame where it was.
    pub moves: Vec<Similarity>,
    /// First and last frame on which it was solved.
    pub seen: [FrameNumber; 2],
    /// By what its distance is known.
    pub by: DistanceBy,
}

/// A landmark of a body.
#[derive(Clone, Copy, Debug)]
pub struct BodyPoint {
    /// Its track.
    pub track: TrackId,
    /// Where it is in the body's own space.
    pub place: WorldPoint,
    /// How certain that is, the body's size given; `None` where that is not known.
    pub covariance: Option<PointCovariance>,
    /// Root mean square of its residuals, px.
    pub rms_px: f64,
}

/// Why a body cannot be told.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum NoMotion {
    /// No camera could be solved against it.
    #[error(transparent)]
    Unsolved(#[from] SolveError),
    /// It shows no shape.
    #[error("seen from it the camera does not travel, so that its features show no depth")]
    NoDepth,
}

/// Solves body `number` of an attempt (the scene is 0) by itself, and tells how it moves in the world that `change`
/// makes of the attempt's. `None` where there is no such body. An error where its shape cannot be told.
pub fn motion(
    tracks: &[Track],
    attempt: &Attempt,
    number: usize,
    (change, lengths): (&Similarity, &[BodyLength]),
    progress: &dyn Progress,
) -> Option<Result<BodyMotion, NoMotion>> {
    let body = attempt.bodies.get(number).filter(|_| number > 0)?;
    let own: HashSet<TrackId> = body.tracks.iter().copied().collect();
    let own = tracks.iter().filter(|t| own.contains(&t.id));
    let straight = straightened(own, attempt);
    let lens = plain(attempt);
    let options = SolveOptions {
        focal: FocalKnowledge::Known(lens.focal_px),
        zooms: Some(false),
        readout: Readout::None,
        ..SolveOptions::nothing_known(lens)
    };
    let solved = match solve(&straight, &options, progress) {
        Ok(solved) => solved,
        Err(error) => return Some(Err(error.into())),
    };
    if solved.moves != CameraMove::Free {
        return Some(Err(NoMotion::NoDepth));
    }
    Some(Ok(placed(&solved, attempt, (change, lengths))))
}

/// The lens through which bodies are solved: of one focal length, without distortion.
fn plain(attempt: &Attempt) -> Intrinsics {
    let lens = &attempt.lens;
    Intrinsics::centred(lens.width_px, lens.height_px, lens.focal_px)
}

/// Tracks as that lens would have shown them, on frames that have a camera.
fn straightened<'a>(tracks: impl Iterator<Item = &'a Track>, attempt: &Attempt) -> Vec<Track> {
    let plain = plain(attempt);
    let lenses: BTreeMap<FrameNumber, Intrinsics> = attempt
        .frames
        .iter()
        .map(|f| (f.frame, attempt.lens_at(f)))
        .collect();
    let sample = |s: &Sample| {
        let lens = lenses.get(&s.frame)?;
        let larger = (plain.focal_px / lens.focal_px).powi(2);
        let Covariance { xx, xy, yy } = s.covariance;
        Some(Sample {
            frame: s.frame,
            px: plain.plate_px(lens.lens_point(s.px)?),
            covariance: Covariance {
                xx: xx * larger,
                xy: xy * larger,
                yy: yy * larger,
            },
        })
    };
    tracks
        .map(|t| Track {
            samples: t.samples.iter().filter_map(sample).collect(),
            ..t.clone()
        })
        .collect()
}

/// Frames on which both the scene and a body have a camera: the scene's in the world that is asked for, the body's.
type Both = Vec<(FrameNumber, Pose, Pose)>;

fn placed(
    solved: &Attempt,
    attempt: &Attempt,
    (change, lengths): (&Similarity, &[BodyLength]),
) -> BodyMotion {
    let of_body: BTreeMap<FrameNumber, Pose> =
        solved.frames.iter().map(|f| (f.frame, f.pose)).collect();
    let both: Both = attempt
        .frames
        .iter()
        .filter_map(|f| Some((f.frame, change.pose(&f.pose), *of_body.get(&f.frame)?)))
        .collect();
    let count = solved.landmarks.len().max(1) as f64;
    let sum: Vector3<f64> = solved.landmarks.iter().map(|l| l.point.0.coords).sum();
    let middle = WorldPoint((sum / count).into());
    let (size, by) = size(solved, lengths)
        .or_else(|| independent(&both, &middle))
        .or_else(|| surrounded(attempt, change, &both, &middle))
        .unwrap_or((1.0, DistanceBy::Surroundings));
    let there = |(frame, scene, body): &(FrameNumber, Pose, Pose)| {
        let back = scene.camera_from_world.rotation.inverse();
        let arm = back * body.to_camera(&middle) * size;
        let there = Similarity {
            rotation: back * body.camera_from_world.rotation,
            translation: scene.centre().0.coords + arm,
            scale: 1.0,
        };
        (*frame, there)
    };
    let moves: Vec<(FrameNumber, Similarity)> = both.iter().map(there).collect();
    let nearest = |frame: FrameNumber| {
        let far = |m: &&(FrameNumber, Similarity)| m.0.0.abs_diff(frame.0);
        moves.iter().min_by_key(far)
    };
    let own = |l: &Landmark| BodyPoint {
        track: l.track,
        place: WorldPoint(((l.point.0 - middle.0) * size).into()),
        covariance: l.covariance.map(|c| {
            c.in_world(&Similarity {
                scale: size,
                ..Similarity::identity()
            })
        }),
        rms_px: l.rms_px,
    };
    let frames = attempt.frames.iter();
    let ends = moves.first().zip(moves.last());
    let first = attempt.frames.first().map_or(FrameNumber(0), |f| f.frame);
    BodyMotion {
        points: solved.landmarks.iter().map(own).collect(),
        moves: frames
            .map(|f| nearest(f.frame).map_or_else(Similarity::identity, |m| m.1))
            .collect(),
        seen: ends.map_or([first; 2], |(a, b)| [a.0, b.0]),
        by,
    }
}

/// Units of the world in a unit of the body's solve, by stated lengths between its features.
fn size(solved: &Attempt, lengths: &[BodyLength]) -> Option<(f64, DistanceBy)> {
    let of = |stated: &BodyLength| {
        let [a, b] = stated.between.map(|t| solved.landmark(t));
        let own = a?.point.distance(b?.point);
        (own > 0.0 && stated.length > 0.0).then(|| stated.length / own)
    };
    let mut all: Vec<f64> = lengths.iter().filter_map(of).collect();
    let by = DistanceBy::Lengths(all.len());
    Some((median(&mut all)?, by))
}

/// The size that makes what is uneven in the body's motion independent of what is uneven in the camera's, over the
/// step between frames that tells it best.
fn independent(both: &Both, middle: &WorldPoint) -> Option<(f64, DistanceBy)> {
    let eyes: Vec<Vector3<f64>> = both.iter().map(|b| b.1.centre().0.coords).collect();
    let arm = |(_, scene, body): &(FrameNumber, Pose, Pose)| {
        scene.camera_from_world.rotation.inverse() * body.to_camera(middle)
    };
    let arms: Vec<Vector3<f64>> = both.iter().map(arm).collect();
    let noise = noise(&eyes)?;
    let found = STEPS
        .iter()
        .filter_map(|step| over_step(&eyes, &arms, *step, noise));
    let best = found.min_by(|a, b| a.1.total_cmp(&b.1));
    let (size, share) = best.filter(|(size, share)| *size > 0.0 && *share <= MOST_SHARE)?;
    Some((size, DistanceBy::Independence(share)))
}

/// That size over one step, with its standard error as a share of it: products at neighbouring frames are not
/// independent (Newey and West 1987).
fn over_step(
    eyes: &[Vector3<f64>],
    arms: &[Vector3<f64>],
    step: usize,
    noise: f64,
) -> Option<(f64, f64)> {
    let bend = |all: &[Vector3<f64>]| -> Vec<Vector3<f64>> {
        let middle = step..all.len().saturating_sub(step);
        middle
            .map(|k| all[k - step] - all[k] * 2.0 + all[k + step])
            .collect()
    };
    let (eyes, arms) = (bend(eyes), bend(arms));
    if eyes.len() < 4 * step.max(2) {
        return None;
    }
    let uneven: f64 = eyes.iter().map(Vector3::norm_squared).sum();
    let shared: f64 = eyes.iter().zip(&arms).map(|(e, a)| e.dot(a)).sum();
    // Errors of cameras are uneven too, and their turns share them with the body.
    let by_noise = 6.0 * noise * eyes.len() as f64 / uneven;
    if uneven <= 0.0 || shared.abs() <= f64::MIN_POSITIVE || by_noise > MOST_NOISE {
        return None;
    }
    let size = -uneven / shared;
    let own: Vec<f64> = eyes
        .iter()
        .zip(&arms)
        .map(|(e, a)| e.dot(&(e + a * size)))
        .collect();
    let lagged = |lag: usize| -> f64 { own.iter().zip(&own[lag..]).map(|(a, b)| a * b).sum() };
    let most = (2 * step).min(own.len() - 1);
    let weighted = |lag: usize| 2.0 * (1.0 - lag as f64 / (most + 1) as f64) * lagged(lag);
    let variance = lagged(0) + (1..=most).map(weighted).sum::<f64>();
    Some((size, (variance.max(0.0).sqrt() / uneven).hypot(by_noise)))
}

/// Variance of what in a path differs from one frame to the next without any order: fourth differences hold 70 times
/// that, and little of a path that goes smoothly.
fn noise(path: &[Vector3<f64>]) -> Option<f64> {
    let fourth = |w: &[Vector3<f64>]| {
        (w[0] - w[1] * 4.0 + w[2] * 6.0 - w[3] * 4.0 + w[4]).norm_squared() / 70.0
    };
    let mut all: Vec<f64> = path.windows(5).map(fourth).collect();
    // The median of squares of three normal numbers is 2.37 of the variance of each, their mean 3.
    Some(median(&mut all)? * 3.0 / 2.37)
}

/// The size that puts the body as far away as the scene's landmarks that are nearest to it in the picture.
fn surrounded(
    attempt: &Attempt,
    change: &Similarity,
    both: &Both,
    middle: &WorldPoint,
) -> Option<(f64, DistanceBy)> {
    let lens = plain(attempt);
    let scene: Vec<WorldPoint> = attempt
        .landmarks
        .iter()
        .map(|l| change.point(&l.point))
        .collect();
    let on_frame = |(_, pose, body): &(FrameNumber, Pose, Pose)| {
        let depth = -body.to_camera(middle).z;
        let at = lens.project(body, middle)?;
        let mut around: Vec<(f64, f64)> = scene
            .iter()
            .filter_map(|p| {
                let px = lens.project(pose, p)?;
                Some((px.distance_px(at), -pose.to_camera(p).z))
            })
            .collect();
        around.sort_by(|a, b| a.0.total_cmp(&b.0));
        let mut depths: Vec<f64> = around.iter().take(AROUND).map(|a| a.1).collect();
        Some(median(&mut depths)? / depth)
    };
    // A dozen frames say as much as all.
    let apart = both.len().div_ceil(12).max(1);
    let mut sizes: Vec<f64> = both.iter().step_by(apart).filter_map(on_frame).collect();
    let size = median(&mut sizes).filter(|s| *s > 0.0)?;
    Some((size, DistanceBy::Surroundings))
}
