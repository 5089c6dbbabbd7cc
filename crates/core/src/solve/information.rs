//! A finished solve as normal equations again: what all its cameras, lens and landmarks are certain to together.
//!
//! An attempt keeps how certain each camera and landmark is by itself. Questions about several of them together
//! (how far is a floor tilted, how far does CG slip from frame to frame) need what their errors have in common:
//! it is in the same normal equations as at the end of the solve, which are made anew from its cameras, landmarks
//! and tracks. Beliefs of a survey, of lengths and of frames that were carried over are left aside, so that errors
//! are rather stated too large.

use super::adjust::Back;
use super::bundle::covariance::{AtRest, Functional};
use super::bundle::{FreeLens, Loss, Problem};
use super::finish::{LAST_SCALE_PX, MISFIT_PX};
use super::moves::Kind;
use super::views::Views;
use super::world::{FEWEST_SIGHTS, World};
use super::{Attempt, CameraMove, SolveOptions, Steady};
use crate::camera::{Eye, Intrinsics};
use crate::lens::{LensTerms, Term};
use crate::orient::Together;
use crate::spaces::{FrameNumber, TrackId};
use crate::tracks::Track;
use nalgebra::{DMatrix, Vector3};
use std::collections::HashMap;

/// A solved shot as far as its normal equations need it.
pub struct SolvedShot {
    /// How the camera moves.
    pub moves: CameraMove,
    /// Its lens; where it zooms, that of the first frame.
    pub lens: Intrinsics,
    /// Cameras by frame.
    pub cameras: Vec<(FrameNumber, Eye)>,
    /// Landmarks by track, world.
    pub landmarks: Vec<(TrackId, Vector3<f64>)>,
    /// Which numbers of the lens were solved.
    pub free: FreeLens,
    /// Whether each frame has a focal length of its own.
    pub zooms: bool,
    /// Read-out time of a rolling shutter, frames.
    pub readout: Option<f64>,
    /// What was known of the focal length, that of the first frame where it zooms, px, with its standard error.
    pub focal_about: Option<(f64, f64)>,
    /// How steadily the camera was taken to move.
    pub steady: Option<Steady>,
}

impl SolvedShot {
    /// Of an attempt, of whose focal length that was known.
    pub fn of_attempt(attempt: &Attempt, focal_about: Option<(f64, f64)>) -> Self {
        let has = |term: Term| attempt.lens_errors.iter().any(|(own, _)| *own == term);
        let radial = [Term::K1, Term::K2, Term::K3];
        let zooms = attempt.zooms();
        let lens = LensTerms {
            radial: radial.into_iter().filter(|term| has(*term)).count(),
            tangential: has(Term::P1),
            centre: has(Term::CentreX),
            by_zoom: has(Term::K1ByZoom),
        };
        let lens = match attempt.radial_sigma {
            Some(_) if lens.radial == 0 => LensTerms { radial: 2, ..lens },
            _ => lens,
        };
        let focal = attempt
            .focal_solved
            .unwrap_or(attempt.focal_sigma_px.is_some());
        let seeing = attempt
            .frames
            .iter()
            .filter(|f| f.features >= FEWEST_SIGHTS);
        let landmarks = attempt.landmarks.iter();
        Self {
            moves: attempt.moves,
            lens: attempt.lens,
            cameras: seeing.map(|f| (f.frame, attempt.eye(f))).collect(),
            landmarks: landmarks.map(|l| (l.track, l.point.0.coords)).collect(),
            free: FreeLens {
                focal: focal && !zooms,
                lens,
                readout: attempt.readout.is_some_and(|(_, sigma)| sigma > 0.0),
            },
            zooms,
            readout: attempt.readout.map(|(frames, _)| frames),
            focal_about,
            steady: attempt.steady,
        }
    }
}

/// The normal equations of a solved shot.
pub struct Information {
    /// The problem that was solved.
    pub problem: Problem,
    /// Its equations at rest.
    pub at_rest: AtRest,
    /// Frame of each camera, ascending.
    pub frames: Vec<FrameNumber>,
    points: HashMap<TrackId, usize>,
}

impl Information {
    /// Of a shot and the tracks that it was solved from; `None` where they do not determine it.
    pub fn of(shot: &SolvedShot, tracks: &[Track]) -> Option<Self> {
        let views = Views::of(tracks, &SolveOptions::nothing_known(shot.lens));
        let mut world = World::empty(&views, shot.lens, shot.free);
        let (moves, zooms) = (shot.moves, shot.zooms);
        world.motion = Kind { moves, zooms }.motion();
        world.readout = shot.readout;
        match shot.zooms {
            true => world.believed.focal_at_first_px = shot.focal_about,
            false => world.believed.focal_px = shot.focal_about,
        }
        world.believed.steady = shot.steady;
        if shot.zooms {
            world.set_zooming();
        }
        for (frame, eye) in &shot.cameras {
            let Ok(at) = views.frames.binary_search(frame) else {
                continue;
            };
            world.poses[at] = Some(eye.pose);
            if let Some(focal_px) = world.focals_px.get_mut(at) {
                *focal_px = eye.lens.focal_px;
            }
        }
        let landmarks: HashMap<TrackId, Vector3<f64>> = shot.landmarks.iter().copied().collect();
        let turns = shot.moves != CameraMove::Free;
        for (slot, track) in world.points.iter_mut().zip(&views.tracks) {
            let place = landmarks.get(track).copied();
            *slot = place.map(|p| if turns { p.normalize() } else { p });
        }
        world.drop_misfits(&views, MISFIT_PX);
        let (problem, Back { frames, points, .. }) = world.problem(&views);
        let at_rest = AtRest::of(&problem, Loss::Cauchy(views.in_sigmas(LAST_SCALE_PX)))?;
        let points = points.iter().enumerate();
        Some(Self {
            frames: frames.iter().map(|f| views.frames[*f]).collect(),
            points: points
                .map(|(at, track)| (views.tracks[*track], at))
                .collect(),
            problem,
            at_rest,
        })
    }
}

impl Together for Information {
    fn covariance(&self, tracks: &[TrackId]) -> Option<DMatrix<f64>> {
        let mut functionals: Vec<Functional> = Vec::with_capacity(3 * tracks.len());
        let mut own = Vec::with_capacity(tracks.len());
        for track in tracks {
            let (alone, along) = self
                .at_rest
                .point(&self.problem, *self.points.get(track)?)?;
            own.push(alone);
            functionals.extend(along);
        }
        let mut all = self.at_rest.between(&functionals)?;
        for (at, alone) in own.iter().enumerate() {
            let mut block = all.fixed_view_mut::<3, 3>(3 * at, 3 * at);
            block += alone;
        }
        Some(all * self.at_rest.factor)
    }
}
