//! Cameras and landmarks as far as they are solved.
//!
//! A [`World`] holds one camera per frame and one landmark per track of the [`Views`], each `None`
//! until it is known, in the units of the first pair's baseline. It finds a camera from the landmarks
//! that it sees ([`super::resect`]), a landmark from the cameras that see it ([`super::triangulate`]), and
//! adjusts all of them ([`super::bundle`]). A frame that no resection fits stays `None`, a landmark whose
//! rays are nearly parallel or that misfits as well; the caller judges what is missing.

use super::believed::Believed;
use super::bundle::{FreeLens, Loss, Motion};
use super::resect::{self, Expected, Sight, Unknown};
use super::rows::RowCameras;
use super::triangulate::{Sighting, Triangulated, triangulate};
use super::views::{Seen, Views};
use super::{Attempt, FocalKnowledge, Readout, SolveOptions};
use crate::camera::{Eye, Intrinsics, Pose, Similarity};
use crate::lens::Distortion;
use crate::spaces::WorldPoint;
use nalgebra::Vector3;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::collections::HashMap;

/// Cameras by frame and landmarks by track, as far as they are solved.
#[derive(Clone, Serialize, Deserialize)]
pub struct World {
    /// The lens as it is known by now.
    pub lens: Intrinsics,
    /// Which of its terms are unknown.
    pub free: FreeLens,
    /// How cameras may stand to each other.
    #[serde(default)]
    pub motion: Motion,
    /// By index of the frame.
    pub poses: Vec<Option<Pose>>,
    /// Each camera's own focal length by index of the frame, px, known where it has a pose; empty
    /// where all have that of the lens.
    #[serde(default)]
    pub focals_px: Vec<f64>,
    /// Read-out time of a rolling shutter, frames; `None` where all rows are exposed at once.
    #[serde(default)]
    pub readout: Option<f64>,
    /// What is believed besides what was seen.
    #[serde(default)]
    pub believed: Believed,
    /// Whether it still grows, so that focal lengths are held more closely.
    #[serde(default)]
    pub is_growing: bool,
    /// By index of the track; directions of unit length where cameras only turn.
    pub points: Vec<Option<Vector3<f64>>>,
    /// Greatest angle between rays, by index of the track.
    pub angles_rad: Vec<f64>,
    /// Positions that are left out, by track and index into its list.
    pub left_out: Vec<Vec<bool>>,
    /// Tracks that are not to be triangulated again.
    pub banned: Vec<bool>,
}

/// A focal length is carried on with the rate over at least so many frames ...
const RATE_OVER: f64 = 4.0;
/// ... and is off by so much, as a share, and so much more for each frame (one standard error).
const LEAST_SIGMA: f64 = 0.003;
const SIGMA_PER_FRAME: f64 = 0.002;
/// A position within this of its landmark fits, px at 1280; wide, for the early stages.
pub(super) const FIT_PX: f64 = 3.0;
/// A camera is found from so many landmarks.
pub const FEWEST_SIGHTS: usize = 6;
/// A landmark needs this share of its positions to fit.
const FIT_SHARE: f64 = 0.6;
/// Landmarks of the grown world may have rays as parallel as this, rad.
pub(super) const LEAST_ANGLE_RAD: f64 = 0.002;

impl World {
    /// Nothing solved yet.
    pub fn empty(views: &Views, lens: Intrinsics, free: FreeLens) -> Self {
        Self {
            lens,
            free,
            motion: Motion::Free,
            focals_px: Vec::new(),
            readout: None,
            believed: Believed::default(),
            is_growing: false,
            poses: vec![None; views.frames.len()],
            points: vec![None; views.tracks.len()],
            angles_rad: vec![0.0; views.tracks.len()],
            left_out: views.seen.iter().map(|s| vec![false; s.len()]).collect(),
            banned: vec![false; views.tracks.len()],
        }
    }

    /// What an earlier attempt solved, for the tracks there are now.
    pub fn from_attempt(views: &Views, options: &SolveOptions, from: &Attempt) -> Self {
        let focal_px = match options.focal {
            FocalKnowledge::Known(focal_px) => focal_px,
            FocalKnowledge::Unknown
            | FocalKnowledge::About { .. }
            | FocalKnowledge::AtFirst { .. } => from.lens.focal_px,
        };
        let zooms = options.zooms == Some(true);
        let distortion = match options.solve_lens.any() {
            true if zooms => from.lens.distortion,
            true => Distortion {
                k1_by_zoom: 0.0,
                ..from.lens.distortion
            },
            false => options.lens.distortion,
        };
        let mut lens = Intrinsics {
            distortion,
            ..options.lens.with_focal(focal_px)
        };
        if options.solve_lens.centre {
            lens.centre = from.lens.centre;
        }
        let mut world = Self::empty(views, lens, options.free_lens());
        world.believed.focal_px = options.focal.about();
        world.believed.focal_at_first_px = options.focal.at_first();
        world.motion = options.motion();
        world.readout = match (options.readout, from.readout) {
            (Readout::None, _) => None,
            (Readout::Known(frames), _) => Some(frames),
            (Readout::Unknown | Readout::Found(_), found) => {
                found.map_or(options.readout.to_start_with(), |found| Some(found.0))
            }
        };
        if zooms {
            let focals: HashMap<_, _> = from
                .frames
                .iter()
                .map(|f| (f.frame, from.lens_at(f).focal_px))
                .collect();
            world.set_zooming();
            for (slot, frame) in world.focals_px.iter_mut().zip(&views.frames) {
                *slot = focals.get(frame).copied().unwrap_or(focal_px);
            }
        }
        // Those that stood on others ([`super::carried`]) do so again.
        let standing = from.frames.iter().filter(|f| f.features >= FEWEST_SIGHTS);
        let poses: HashMap<_, _> = standing.map(|f| (f.frame, f.pose)).collect();
        for (slot, frame) in world.poses.iter_mut().zip(&views.frames) {
            *slot = poses.get(frame).copied();
        }
        let placed = |place: Vector3<f64>| match options.motion() {
            Motion::Free => place,
            Motion::Turning | Motion::Resting => place.normalize(),
        };
        let points: HashMap<_, _> = from
            .landmarks
            .iter()
            .map(|l| (l.track, placed(l.point.0.coords)))
            .collect();
        for (slot, track) in world.points.iter_mut().zip(&views.tracks) {
            *slot = points.get(track).copied();
        }
        world
    }

    /// How many landmarks there are.
    pub fn point_count(&self) -> usize {
        self.points.iter().flatten().count()
    }

    /// How many cameras there are.
    pub fn pose_count(&self) -> usize {
        self.poses.iter().flatten().count()
    }

    /// Whether each camera has a focal length of its own.
    pub fn zooms(&self) -> bool {
        !self.focals_px.is_empty()
    }

    /// Gives each camera a focal length of its own, at first that of the lens.
    pub fn set_zooming(&mut self) {
        self.free.focal = false;
        self.focals_px = vec![self.lens.focal_px; self.poses.len()];
    }

    /// Brings it into another world.
    pub fn changed(&mut self, change: &Similarity) {
        for pose in self.poses.iter_mut().flatten() {
            *pose = change.pose(pose);
        }
        for point in self.points.iter_mut().flatten() {
            *point = change.point(&WorldPoint((*point).into())).0.coords;
        }
    }

    /// How the camera of a frame draws.
    pub fn lens_at(&self, frame: usize) -> Intrinsics {
        match self.focals_px.get(frame) {
            Some(focal_px) => self.lens.with_focal(*focal_px),
            None => self.lens,
        }
    }

    /// What is unknown of the camera of a frame: its focal length is expected to go on as it did.
    fn unknown(&self, views: &Views, frame: usize) -> Unknown {
        Unknown {
            motion: self.motion,
            zooms: self.zooms().then(|| self.expected_focal(views, frame)),
        }
    }

    fn expected_focal(&self, views: &Views, frame: usize) -> Expected {
        let time = |f: usize| f64::from(views.frames[f].0);
        let mut posed: Vec<usize> = (0..self.poses.len())
            .filter(|f| self.poses[*f].is_some())
            .collect();
        posed.sort_by_key(|f| f.abs_diff(frame));
        let Some(&near) = posed.first() else {
            return Expected::NOTHING;
        };
        let ln = |f: usize| self.focals_px[f].ln();
        let gap = (time(frame) - time(near)).abs();
        // Its rate over about as many frames as it is carried on.
        let far = posed
            .iter()
            .find(|f| (time(**f) - time(near)).abs() >= gap.max(RATE_OVER));
        let rate = far.map_or(0.0, |&f| (ln(f) - ln(near)) / (time(f) - time(near)));
        Expected {
            ln_focal: ln(near) + rate * (time(frame) - time(near)),
            sigma: LEAST_SIGMA + SIGMA_PER_FRAME * gap,
        }
    }

    /// Triangulates every track that has no landmark and whose rays differ by at least
    /// `least_angle_rad`.
    pub fn triangulate(&mut self, views: &Views, least_angle_rad: f64) {
        self.triangulate_within(views, least_angle_rad, FIT_PX);
    }

    /// The same for landmarks that may miss their positions by `limit_px` at 1280.
    pub fn triangulate_within(&mut self, views: &Views, least_angle_rad: f64, limit_px: f64) {
        let loss = Loss::Cauchy(views.in_sigmas(limit_px / FIT_PX));
        let limit_px = limit_px * views.px_scale;
        let rows = self.row_cameras(views);
        let found: Vec<Option<Triangulated>> = (0..views.tracks.len())
            .into_par_iter()
            .map(|track| {
                if self.points[track].is_some() || self.banned[track] {
                    return None;
                }
                let sights = self.sights_of(views, &rows, track);
                let is_founded = |t: &Triangulated| {
                    self.motion.is_on_the_spot() || t.angle_rad >= least_angle_rad
                };
                triangulate(self.motion, &sights, loss, limit_px)
                    .filter(|t| t.fitting_share >= FIT_SHARE && is_founded(t))
            })
            .collect();
        for (track, found) in found.into_iter().enumerate() {
            if let Some(found) = found {
                self.points[track] = Some(found.point);
                self.angles_rad[track] = found.angle_rad;
            }
        }
    }

    /// Triangulates what can be, down to nearly parallel rays.
    pub fn triangulate_missing(&mut self, views: &Views) {
        self.triangulate(views, LEAST_ANGLE_RAD);
    }

    /// The camera of a frame, where it has one.
    pub fn eye(&self, frame: usize) -> Option<Eye> {
        let pose = self.poses.get(frame).copied().flatten()?;
        let lens = self.lens_at(frame);
        Some(Eye { lens, pose })
    }

    /// What cameras are when their rows are read.
    pub fn row_cameras(&self, views: &Views) -> RowCameras {
        let eyes = (0..self.poses.len()).map(|frame| self.eye(frame));
        RowCameras::of(eyes.collect(), &views.frames, self.readout)
    }

    fn sights_of(&self, views: &Views, rows: &RowCameras, track: usize) -> Vec<Sighting> {
        let kept = views.seen[track]
            .iter()
            .zip(&self.left_out[track])
            .filter(|(_, out)| !**out);
        let sighting = |s: &Seen| {
            Some(Sighting {
                eye: rows.at(s.frame, s.px.y)?,
                seen: *s,
            })
        };
        kept.filter_map(|(s, _)| sighting(s)).collect()
    }

    /// Finds the camera of a frame from the landmarks it sees; false when fewer than `least` agree.
    pub fn resect(&mut self, views: &Views, frame: usize, least: usize) -> bool {
        if self.poses[frame].is_some() {
            return true;
        }
        let sights: Vec<Sight> = views.by_frame[frame]
            .iter()
            .filter_map(|&(track, k)| {
                Some((
                    self.points[track]?,
                    views.observation(0, 0, &views.seen[track][k]),
                ))
            })
            .collect();
        if sights.len() < least {
            return false;
        }
        let loss = Loss::Cauchy(views.in_sigmas(1.5));
        let limit_px = FIT_PX * views.px_scale;
        let near = self.nearest(frame);
        let unknown = self.unknown(views, frame);
        let from_near = near.map(|near| resect::refine(near, unknown, &sights, loss, limit_px));
        let well = |fitting: usize| fitting >= least && fitting * 10 >= sights.len() * 7;
        let found = match from_near {
            Some((eye, fitting)) if well(fitting) => Some((eye, fitting)),
            other => {
                let lens = near.map_or(self.lens, |near| near.lens);
                let fit = (loss, limit_px);
                let searched = resect::find(&lens, unknown, &sights, fit, frame as u64 + 1);
                [other, searched]
                    .into_iter()
                    .flatten()
                    .max_by_key(|(_, fitting)| *fitting)
            }
        };
        match found {
            Some((eye, fitting)) if fitting >= least && fitting * 10 >= sights.len() * 4 => {
                self.poses[frame] = Some(eye.pose);
                if let Some(focal_px) = self.focals_px.get_mut(frame) {
                    *focal_px = eye.lens.focal_px;
                }
                true
            }
            _ => false,
        }
    }

    /// The camera of the nearest frame that has one.
    fn nearest(&self, frame: usize) -> Option<Eye> {
        (1..self.poses.len())
            .flat_map(|d| [frame.checked_sub(d), Some(frame + d)])
            .flatten()
            .find_map(|f| self.eye(f))
    }
}
