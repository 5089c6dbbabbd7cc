//! What a solve came to: cameras, landmarks, what was set aside, figures and verdict.
//!
//! Positions are in the world of the solve (the first camera at its origin, ten units to the
//! median landmark of the first frame) until they are oriented; covariances are those of the
//! gauge in which the first camera does not move ([`super::bundle::covariance`]).

use super::believed::Steady;
use super::bodies::Body;
use super::certain::{CameraCovariance, PointCovariance};
use super::constraints::ConstraintMiss;
use super::doubts::Doubt;
use super::lens_check::LensSuspicion;
use super::moves::{CameraMove, Tried};
use super::rows::RowCameras;
use super::survey::{NoHold, SurveyMiss};
use super::together::Jump;
use super::zoom_check::ZoomSuspicion;
use crate::camera::{Eye, Intrinsics, Pose};
use crate::lens::Term;
use crate::spaces::{FrameNumber, TrackId, WorldPoint};
use serde::{Deserialize, Serialize};

/// The camera of one frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct SolvedFrame {
    /// The frame.
    pub frame: FrameNumber,
    /// Where the camera stands.
    pub pose: Pose,
    /// Its focal length where that changes from frame to frame, px; `None` where all frames have
    /// that of the attempt's lens.
    #[serde(default)]
    pub focal_px: Option<f64>,
    /// Standard error of that, px.
    #[serde(default)]
    pub focal_sigma_px: Option<f64>,
    /// Root mean square of the residuals on this frame, px.
    pub rms_px: f64,
    /// How many landmarks it sees.
    pub features: usize,
    /// How certain turn and place are; `None` where the evidence does not say.
    #[serde(default)]
    pub covariance: Option<CameraCovariance>,
}

/// A solved feature.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(from = "KeptLandmark")]
pub struct Landmark {
    /// Its track.
    pub track: TrackId,
    /// Where it is.
    pub point: WorldPoint,
    /// How certain its place is; `None` where the evidence does not say.
    pub covariance: Option<PointCovariance>,
    /// Root mean square of its residuals, px.
    pub rms_px: f64,
    /// Residual on each frame that sees it, px.
    pub residuals_px: Vec<(FrameNumber, f32)>,
    /// Greatest angle between its rays, degrees.
    pub parallax_deg: f64,
}

/// A landmark as it is kept: attempts of before covariances were kept state standard errors,
/// negative ones where they were unknown.
#[derive(Deserialize)]
struct KeptLandmark {
    track: TrackId,
    point: WorldPoint,
    #[serde(default)]
    covariance: Option<PointCovariance>,
    #[serde(default)]
    sigma: Option<[f64; 3]>,
    rms_px: f64,
    residuals_px: Vec<(FrameNumber, f32)>,
    parallax_deg: f64,
}

impl From<KeptLandmark> for Landmark {
    fn from(kept: KeptLandmark) -> Self {
        let of_sigma = |sigma| PointCovariance::of_sigma(sigma).ok();
        Self {
            track: kept.track,
            point: kept.point,
            covariance: kept.covariance.or_else(|| kept.sigma.and_then(of_sigma)),
            rms_px: kept.rms_px,
            residuals_px: kept.residuals_px,
            parallax_deg: kept.parallax_deg,
        }
    }
}

/// Why a track takes no part.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum SetAside {
    /// It does not move as the static scene does: on a mover, or slipping.
    AgainstTheScene,
    /// It moves with another body than the scene.
    AnotherBody,
    /// Its residual exceeds the artist's limit.
    AboveLimit,
    /// Its rays are too parallel, or too few frames see it.
    TooLittleParallax,
}

/// Whether the camera can be relied on.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// All frames solved, evidence ample.
    Good,
    /// Usable, with something to look at: weak frames, uncertain focal length, large residuals.
    NeedsALook,
}

/// One saved solve.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Attempt {
    /// How the camera moves. Of one that only turns or rests landmarks are directions, set at a
    /// stated distance ([`super::locked::FAR`]).
    #[serde(default)]
    pub moves: CameraMove,
    /// What was held against each other to find that, and whether it zooms; empty where it was
    /// stated or the first model left nothing to explain.
    #[serde(default)]
    pub tried: Vec<Tried>,
    /// The lens; where it zooms, as it was on the first frame.
    pub lens: Intrinsics,
    /// Standard error of the focal length, px; `None` when it was given.
    pub focal_sigma_px: Option<f64>,
    /// Standard errors of k1 and k2; `None` when they were given.
    pub radial_sigma: Option<[f64; 2]>,
    /// Standard errors of all lens terms that were solved, the focal length aside.
    #[serde(default)]
    pub lens_errors: Vec<(Term, f64)>,
    /// How steadily the camera was taken to move, units of this world.
    #[serde(default)]
    pub steady: Option<Steady>,
    /// What surveyed landmarks miss; places are in metres where they hold the world.
    #[serde(default)]
    pub survey: Vec<SurveyMiss>,
    /// What constraints miss.
    #[serde(default)]
    pub constraints: Vec<ConstraintMiss>,
    /// Why the survey holds nothing, where there is one that does not.
    #[serde(default)]
    pub survey_unused: Option<NoHold>,
    /// Whether the focal length was solved; `None` in attempts of before that was kept.
    #[serde(default)]
    pub focal_solved: Option<bool>,
    /// Whether radial terms were solved along.
    #[serde(default)]
    pub lens_solved: bool,
    /// Read-out time of the rolling shutter with its standard error (0 where it was stated), frames; `None`
    /// where all rows are taken to be exposed at once. Cameras are those of the middle row.
    #[serde(default)]
    pub readout: Option<(f64, f64)>,
    /// Lens terms that the solve did not have and that would explain what is left.
    #[serde(default)]
    pub lens_suspicion: Option<LensSuspicion>,
    /// A zoom that the solve did not have and that would explain what is left.
    #[serde(default)]
    pub zoom_suspicion: Option<ZoomSuspicion>,
    /// How far CG of true proportions would slip for one standard error of the focal length, px rms;
    /// `None` where that was given, or is not known.
    #[serde(default)]
    pub slip_px: Option<f64>,
    /// By how much what stands on two frames may jump between them, where it is most; `None` where that
    /// is not known.
    #[serde(default)]
    pub jump: Option<Jump>,
    /// Cameras, ascending by frame.
    pub frames: Vec<SolvedFrame>,
    /// Landmarks, ascending by track.
    pub landmarks: Vec<Landmark>,
    /// Tracks that take no part, with the reason.
    pub set_aside: Vec<(TrackId, SetAside)>,
    /// Root mean square of all residuals, px.
    pub rms_px: f64,
    /// Positions that take part.
    pub positions: usize,
    /// Median over the landmarks of the greatest angle between rays, degrees.
    pub parallax_deg: f64,
    /// The two frames it grew from.
    pub started_from: (FrameNumber, FrameNumber),
    /// Whether it can be relied on.
    pub verdict: Verdict,
    /// The rigid bodies that were found, the scene first; empty in attempts of before they were
    /// looked for.
    #[serde(default)]
    pub bodies: Vec<Body>,
    /// What speaks against relying on it, the reasons of the verdict.
    #[serde(default)]
    pub doubts: Vec<Doubt>,
}

impl Attempt {
    /// Whether radial terms were solved along; attempts of before that was kept tell by their
    /// standard errors.
    pub fn has_solved_lens(&self) -> bool {
        self.lens_solved || self.radial_sigma.is_some()
    }

    /// What speaks against relying on it, as sentences; of attempts of before doubts were kept,
    /// that they were not.
    pub fn reasons(&self) -> Vec<String> {
        if self.doubts.is_empty() && self.verdict == Verdict::NeedsALook {
            return vec![
                "it was solved by an earlier version, which did not keep its reasons".to_owned(),
            ];
        }
        self.doubts.iter().map(Doubt::to_string).collect()
    }

    /// Root mean square of what no lens explains, px: of what is left with a suspected lens, where
    /// there is one.
    pub fn unexplained_px(&self) -> f64 {
        self.lens_suspicion
            .map_or(self.rms_px, |lens| lens.rms_px.min(self.rms_px))
    }

    /// The camera of each row, by index of the solved frame.
    pub fn rows(&self) -> RowCameras {
        let eyes = self.frames.iter().map(|f| Some(self.eye(f))).collect();
        let frames: Vec<FrameNumber> = self.frames.iter().map(|f| f.frame).collect();
        let readout = self.readout.map(|(frames, _)| frames);
        RowCameras::of(eyes, &frames, readout)
    }

    /// The camera of a frame.
    pub fn eye(&self, frame: &SolvedFrame) -> Eye {
        Eye {
            lens: self.lens_at(frame),
            pose: frame.pose,
        }
    }

    /// How the camera of a frame draws.
    pub fn lens_at(&self, frame: &SolvedFrame) -> Intrinsics {
        frame
            .focal_px
            .map_or(self.lens, |focal_px| self.lens.with_focal(focal_px))
    }

    /// Whether the focal length changes from frame to frame.
    pub fn zooms(&self) -> bool {
        self.frames.iter().any(|f| f.focal_px.is_some())
    }

    /// Whether surveyed landmarks hold it, so that it stands in their world and is in metres.
    pub fn is_surveyed(&self) -> bool {
        self.survey.iter().any(|miss| miss.used)
    }

    /// The camera of a frame.
    pub fn pose(&self, frame: FrameNumber) -> Option<&Pose> {
        self.frames
            .binary_search_by_key(&frame, |f| f.frame)
            .ok()
            .map(|i| &self.frames[i].pose)
    }

    /// The landmark of a track.
    pub fn landmark(&self, track: TrackId) -> Option<&Landmark> {
        self.landmarks
            .binary_search_by_key(&track, |l| l.track)
            .ok()
            .map(|i| &self.landmarks[i])
    }
}
