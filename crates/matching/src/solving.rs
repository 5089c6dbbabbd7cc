//! What is known of camera and lens, and the solve that uses it.

use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::correct::solve_with_lens;
use parallax_core::plate::FilmBack;
use parallax_core::progress::{Checkpoints, Progress, Silent};
use parallax_core::solve::smoothing::{self, SmoothingCost};
use parallax_core::solve::underway::Underway;
use parallax_core::solve::{
    Attempt, CameraMove, Candidates, Constraints, FocalKnowledge, LensTerms, Readout, SolveError,
    SolveOptions, Steady, Surveyed, solve_scene, solve_scene_again,
};
use parallax_core::spaces::{FrameNumber, TrackId};
use parallax_core::tracks::Track;
use parallax_formats::survey_csv::SurveyPoint;
use serde::Serialize;
use std::collections::{HashMap, HashSet};

/// One standard error of a focal length that a zoom is stated to begin with exactly, as a share of it.
const AS_EXACT: f64 = 1e-4;

/// What is known of the focal length; of one that is stated to change, on the first frame.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Focal {
    /// Nothing: it is solved.
    #[default]
    Unknown,
    /// Millimetres on the film back.
    Mm(Stated),
    /// Px of the plate.
    Px(Stated),
}

/// A value, exact or with a standard error.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Stated {
    /// The value.
    pub value: f64,
    /// One standard error; `None` where the value is to be kept.
    pub sigma: Option<f64>,
}

impl From<f64> for Stated {
    fn from(value: f64) -> Self {
        Self { value, sigma: None }
    }
}

impl Stated {
    fn times(self, factor: f64) -> Self {
        Self {
            value: self.value * factor,
            sigma: self.sigma.map(|sigma| sigma * factor),
        }
    }
}

/// What is known of the lens.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum GivenLens {
    /// Nothing.
    #[default]
    None,
    /// Terms that hold for the focal length stated with them.
    Calibrated(Intrinsics),
    /// Terms that hold for the camera's own focal length, whatever that is found to be.
    OfThisCamera(Distortion),
}

/// All that a solve depends on besides its tracks.
#[derive(Clone, Debug, PartialEq)]
pub struct Solving {
    /// Width of the plate, px.
    pub width_px: u32,
    /// Height of the plate, px.
    pub height_px: u32,
    /// Frames of the plate between in and out.
    pub frames: usize,
    /// The film back, stated or assumed; matters where the focal length is stated in mm.
    pub film_back: FilmBack,
    /// What is known of the focal length.
    pub focal: Focal,
    /// How the camera moves, where that is stated.
    pub moves: Option<CameraMove>,
    /// Whether the focal length changes, where that is stated.
    pub zooms: Option<bool>,
    /// What is known of the lens.
    pub lens: GivenLens,
    /// What is known of a rolling shutter, frames.
    pub readout: Readout,
    /// Which terms of the lens are solved along.
    pub solve_lens: LensTerms,
    /// How steadily the camera is taken to move, units of the solve's world.
    pub steady: Option<Steady>,
    /// Landmarks that were measured on the set.
    pub survey: Vec<Surveyed>,
    /// What is known of several landmarks together.
    pub constraints: Constraints,
    /// Frames from which the solve starts, where they are stated.
    pub start_from: Option<(FrameNumber, FrameNumber)>,
    /// Features whose residual exceeds this are dropped, px.
    pub limit_px: Option<f64>,
}

impl Solving {
    /// The focal length in px where it is stated.
    pub fn stated_focal_px(&self) -> Option<Stated> {
        match self.focal {
            Focal::Unknown => None,
            Focal::Mm(mm) => Some(mm.times(self.film_back.focal_px(1.0, self.width_px))),
            Focal::Px(px) => Some(px),
        }
    }

    fn focal_knowledge(&self) -> FocalKnowledge {
        match (self.stated_focal_px(), self.zooms) {
            (None, _) => FocalKnowledge::Unknown,
            (Some(known), Some(true)) => {
                let px = known.value;
                let sigma_px = known.sigma.unwrap_or(AS_EXACT * px);
                FocalKnowledge::AtFirst { px, sigma_px }
            }
            (Some(Stated { value, sigma: None }), _) => FocalKnowledge::Known(value),
            (
                Some(Stated {
                    value: px,
                    sigma: Some(sigma_px),
                }),
                _,
            ) => FocalKnowledge::About { px, sigma_px },
        }
    }

    /// The focal length with its standard error, px, where it is known about: that of all frames, or of the first.
    pub fn focal_about_px(&self) -> Option<(f64, f64)> {
        let focal = self.focal_knowledge();
        focal.about().or(focal.at_first())
    }

    fn options(&self) -> SolveOptions {
        let plain = Intrinsics::centred(self.width_px, self.height_px, 1.0);
        let distortion = match self.lens {
            GivenLens::OfThisCamera(distortion) => distortion,
            GivenLens::None | GivenLens::Calibrated(_) => Distortion::NONE,
        };
        SolveOptions {
            lens: Intrinsics {
                distortion,
                ..plain
            },
            focal: self.focal_knowledge(),
            focal_to_begin_with: None,
            moves: self.moves,
            zooms: self.zooms,
            plate_frames: Some(self.frames),
            readout: self.readout,
            solve_lens: self.solve_lens,
            steady: self.steady,
            survey: self.survey.clone(),
            constraints: self.constraints.clone(),
            start_from: self.start_from,
            limit_px: self.limit_px,
        }
    }

    /// Solves camera and landmarks: anew, or where an interrupted run left it, or again from an
    /// attempt.
    pub fn solve(
        &self,
        candidates: Candidates<'_>,
        from: Option<&Attempt>,
        checkpoints: &dyn Checkpoints<Underway>,
        progress: &dyn Progress,
    ) -> Result<Attempt, SolveError> {
        let options = self.options();
        match (self.lens, from) {
            (GivenLens::Calibrated(lens), from) => {
                solve_with_lens(candidates, &options, &lens, from, checkpoints, progress)
            }
            (_, Some(attempt)) => solve_scene_again(candidates, &options, attempt, progress),
            (_, None) => solve_scene(candidates, &options, checkpoints, progress),
        }
    }

    /// What a steadier camera would cost, from where an attempt stands.
    pub fn smoothing_cost(
        &self,
        candidates: Candidates<'_>,
        attempt: &Attempt,
        steady: Steady,
        progress: &dyn Progress,
    ) -> Result<SmoothingCost, SolveError> {
        smoothing::cost(
            candidates.tracks,
            &self.options(),
            attempt,
            steady,
            progress,
        )
    }

    /// Solves a body of an attempt by itself, as if it were the scene; the scene is number 0. `None` where
    /// the attempt has no such body.
    pub fn solve_body(
        &self,
        tracks: &[Track],
        attempt: &Attempt,
        number: usize,
        progress: &dyn Progress,
    ) -> Option<Result<Attempt, SolveError>> {
        let body = attempt.bodies.get(number)?;
        let own: HashSet<TrackId> = body.tracks.iter().copied().collect();
        let own: Vec<Track> = tracks
            .iter()
            .filter(|t| own.contains(&t.id))
            .cloned()
            .collect();
        let candidates = Candidates {
            tracks: &own,
            suspected: &HashSet::new(),
        };
        Some(self.solve(candidates, None, &Silent, progress))
    }
}

/// A name whatever the case of its letters.
pub(crate) fn as_key(name: &str) -> String {
    name.trim().to_lowercase()
}

/// Tracks by their names; of two of one name the first.
pub(crate) fn by_name(
    names: impl IntoIterator<Item = (TrackId, String)>,
) -> HashMap<String, TrackId> {
    let mut by_name = HashMap::new();
    for (track, name) in names {
        by_name.entry(as_key(&name)).or_insert(track);
    }
    // Many have none.
    by_name.remove("");
    by_name
}

/// Surveyed points with the tracks of the same names, and the names that no track has.
pub fn matched(
    points: &[SurveyPoint],
    names: impl IntoIterator<Item = (TrackId, String)>,
) -> (Vec<Surveyed>, Vec<String>) {
    let by_name = by_name(names);
    let (mut found, mut lacking) = (Vec::new(), Vec::new());
    for point in points {
        match by_name.get(&as_key(&point.name)) {
            Some(track) => found.push(Surveyed {
                track: *track,
                at_m: point.at_m,
                sigma_m: point.sigma_m,
            }),
            None => lacking.push(point.name.clone()),
        }
    }
    (found, lacking)
}
