//! What is known of camera and lens, and the solve that uses it.

use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::correct::solve_with_lens;
use parallax_core::plate::FilmBack;
use parallax_core::progress::{Checkpoints, Progress};
use parallax_core::solve::underway::Underway;
use parallax_core::solve::{
    Attempt, CameraMove, Candidates, FocalKnowledge, Readout, SolveError, SolveOptions,
    solve_scene, solve_scene_again,
};

/// What is known of the focal length.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Focal {
    /// Nothing: it is solved.
    #[default]
    Unknown,
    /// Millimetres on the film back.
    Mm(f64),
    /// Px of the plate.
    Px(f64),
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
#[derive(Clone, Copy, Debug, PartialEq)]
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
    /// Whether two radial terms are solved along.
    pub solve_lens: bool,
    /// Features whose residual exceeds this are dropped, px.
    pub limit_px: Option<f64>,
}

impl Solving {
    /// The focal length in px where it is stated.
    pub fn stated_focal_px(&self) -> Option<f64> {
        match self.focal {
            Focal::Unknown => None,
            Focal::Mm(mm) => Some(self.film_back.focal_px(mm, self.width_px)),
            Focal::Px(px) => Some(px),
        }
    }

    fn options(&self) -> SolveOptions {
        let known = self.stated_focal_px();
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
            focal: known.map_or(FocalKnowledge::Unknown, FocalKnowledge::Known),
            moves: self.moves,
            zooms: self.zooms,
            plate_frames: Some(self.frames),
            readout: self.readout,
            solve_lens: self.solve_lens,
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
}
