//! From tracks to camera and landmarks.
//!
//! 0. [`moves`] decides how the camera moved and whether it zooms, where nobody states it, by
//!    what explains the whole shot.
//! 1. [`views`] puts the tracks in order; [`evidence`] asks whether they hold parallax.
//! 2. [`start`] finds a pair of frames to start from, and a focal length where it is unknown:
//!    five-point consensus over a scan of focal lengths, each grown over a few frames and
//!    scored by a short adjustment.
//! 3. [`grow`] adds to the [`world`] frame after frame by resection ([`resect`]) and landmarks by
//!    triangulation ([`mod@triangulate`]), adjusting as it goes and leaving out what does not fit
//!    ([`misfits`]); [`parts`] that hang together by little are solved apart and joined.
//! 4. [`finish`] adjusts everything ([`bundle`]) and sets aside what does not belong; figures,
//!    certainty ([`certain`]) and doubts ([`doubts`]) of the [`Attempt`] are [`stated`].
//!
//! 5. [`bodies`] asks whether what was set aside, and what is left, is another rigid body, and
//!    which one is the scene.
//!
//! Degenerate evidence ends in a named [`SolveError`], never in a camera that is said to be good.

pub mod adjust;
pub mod alongside;
pub mod attempt;
pub mod believed;
pub mod bodies;
pub mod bundle;
mod carried;
pub mod certain;
pub mod constraints;
mod criterion;
pub mod curves;
pub mod doubts;
mod error;
pub mod evidence;
pub mod finish;
mod focal_check;
pub mod forecast;
mod freed;
pub mod grow;
pub mod information;
pub mod lens_check;
pub mod limit;
pub mod locked;
mod locked_zoom;
pub mod misfits;
pub mod moves;
pub mod on_demand;
pub mod parts;
pub mod readout_check;
pub mod resect;
pub mod rows;
pub mod smoothing;
pub mod start;
pub mod stated;
pub mod survey;
pub mod together;
pub mod triangulate;
pub mod two_view;
pub mod underway;
mod valley;
pub mod views;
pub mod world;
pub mod zoom_check;

pub use attempt::{Attempt, Landmark, SetAside, SolvedFrame, Verdict};
pub use believed::Steady;
pub use bodies::{Body, Candidates, solve_scene, solve_scene_again};
pub use constraints::{ConstraintMiss, Constraints, KnownLength, KnownPlane};
pub use doubts::Doubt;
pub use error::SolveError;
pub use lens_check::LensSuspicion;
pub use moves::{CameraMove, Tried};
pub use survey::{SurveyMiss, Surveyed};
pub use together::Jump;
pub use zoom_check::ZoomSuspicion;

pub use crate::lens::LensTerms;

use crate::camera::Intrinsics;
use crate::progress::{Checkpoints, Progress, Silent};
use crate::spaces::FrameNumber;
use crate::tracks::Track;
use bundle::{FreeLens, Motion};
use serde::{Deserialize, Serialize};
use underway::{Stage, Underway};

/// What is known of the focal length.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum FocalKnowledge {
    /// Nothing: it is solved.
    Unknown,
    /// Its value, px, which is kept.
    Known(f64),
    /// Its value with a standard error: it is solved, and pulled towards this.
    About {
        /// The value, px.
        px: f64,
        /// One standard error, px.
        sigma_px: f64,
    },
    /// It changes; of the first frame it is known about.
    AtFirst {
        /// Its value there, px.
        px: f64,
        /// One standard error, px.
        sigma_px: f64,
    },
}

impl FocalKnowledge {
    /// Whether it is solved.
    pub fn is_solved(&self) -> bool {
        !matches!(self, Self::Known(_))
    }

    /// Its value, px, as far as it is known.
    fn px(&self) -> Option<f64> {
        match self {
            Self::Unknown => None,
            Self::Known(px) | Self::About { px, .. } | Self::AtFirst { px, .. } => Some(*px),
        }
    }

    /// Value and standard error, px, of one that is known about.
    pub fn about(&self) -> Option<(f64, f64)> {
        match self {
            Self::About { px, sigma_px } => Some((*px, *sigma_px)),
            Self::Unknown | Self::Known(_) | Self::AtFirst { .. } => None,
        }
    }

    /// Value and standard error, px, of one that changes and is known about on the first frame.
    pub fn at_first(&self) -> Option<(f64, f64)> {
        match self {
            Self::AtFirst { px, sigma_px } => Some((*px, *sigma_px)),
            Self::Unknown | Self::Known(_) | Self::About { .. } => None,
        }
    }
}

/// What is known of the read-out time of a rolling shutter.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Readout {
    /// Nothing: it is looked for, and solved along where the evidence is clear.
    #[default]
    Unknown,
    /// All rows are exposed at once.
    None,
    /// From the first row to the last, frames.
    Known(f64),
    /// Nothing is stated, but another solve of the shot found about so many frames: it is started with, and
    /// solved along where the evidence is clear here too.
    Found(f64),
}

impl Readout {
    /// Whether it is solved along where there is one.
    pub fn is_solved(self) -> bool {
        matches!(self, Self::Unknown | Self::Found(_))
    }

    /// What a solve starts with, frames.
    fn to_start_with(self) -> Option<f64> {
        match self {
            Self::Known(frames) | Self::Found(frames) => Some(frames),
            Self::Unknown | Self::None => None,
        }
    }

    /// With what a solve found, where nothing is stated.
    fn or_found(self, attempt: &Attempt) -> Self {
        match (self, attempt.readout) {
            (Self::Unknown | Self::Found(_), Some((frames, _))) => Self::Found(frames),
            _ => self,
        }
    }
}

/// What to solve.
#[derive(Clone, Debug)]
pub struct SolveOptions {
    /// Picture size, centre and the lens terms as given. Its focal length is not read.
    pub lens: Intrinsics,
    /// What is known of the focal length.
    pub focal: FocalKnowledge,
    /// One that it begins with where nothing is known, px, as another solve of the same camera found it. It is no
    /// statement: nothing pulls towards it.
    pub focal_to_begin_with: Option<f64>,
    /// How the camera moves, where that is stated.
    pub moves: Option<CameraMove>,
    /// Whether the focal length changes, where that is stated. A known one does not, but for one that is known at first.
    pub zooms: Option<bool>,
    /// Frames of the plate between in and out, where they are known: one without any feature has no
    /// camera either.
    pub plate_frames: Option<usize>,
    /// What is known of how rows are read.
    pub readout: Readout,
    /// Which terms of the lens are solved along.
    pub solve_lens: LensTerms,
    /// How steadily the camera is taken to move in the end, units of the world that is handed on.
    pub steady: Option<Steady>,
    /// Landmarks that were measured on the set.
    pub survey: Vec<Surveyed>,
    /// What is known of several landmarks together.
    pub constraints: Constraints,
    /// Frames from which the solve starts, the earlier first; `None` where they are found. The first alone
    /// counts where the camera only turns.
    pub start_from: Option<(FrameNumber, FrameNumber)>,
    /// Features whose root mean square residual exceeds this are dropped, px.
    pub limit_px: Option<f64>,
}

/// Least number of tracks a solve begins with.
pub const FEWEST_TRACKS: usize = 12;

impl SolveOptions {
    /// Nothing is stated but the lens's size, centre and terms: everything is found out, nothing of the
    /// lens solved along.
    pub fn nothing_known(lens: Intrinsics) -> Self {
        Self {
            lens,
            focal: FocalKnowledge::Unknown,
            focal_to_begin_with: None,
            moves: None,
            zooms: None,
            plate_frames: None,
            readout: Readout::Unknown,
            solve_lens: LensTerms::NONE,
            steady: None,
            survey: Vec::new(),
            constraints: Constraints::default(),
            start_from: None,
            limit_px: None,
        }
    }

    /// The same with the focal length stated to change or to stay.
    fn zooming(&self, zooms: bool) -> Self {
        Self {
            zooms: Some(zooms),
            ..self.clone()
        }
    }

    /// How cameras may stand to each other; freely where nothing is stated.
    pub fn motion(&self) -> Motion {
        let moves = self.moves.unwrap_or_default();
        let zooms = self.zooms == Some(true);
        moves::Kind { moves, zooms }.motion()
    }

    /// Terms of the lens that all frames share and that are unknown at the end of a solve.
    pub fn free_lens(&self) -> FreeLens {
        FreeLens {
            focal: self.focal.is_solved() && self.zooms != Some(true),
            lens: self.solve_lens,
            readout: false,
        }
    }

    fn validated(&self) -> Result<(), SolveError> {
        let bad = |what, value, range| Err(SolveError::OutOfRange { what, value, range });
        let width = f64::from(self.lens.width_px);
        let focals = [self.focal.px(), self.focal_to_begin_with];
        let is_possible = |f: &f64| f.is_finite() && (0.1 * width..=50.0 * width).contains(f);
        if let Some(f) = focals.into_iter().flatten().find(|f| !is_possible(f)) {
            return bad(
                "focal length in px",
                f,
                "between a tenth and fifty times the picture's width",
            );
        }
        if let Some((px, sigma_px)) = self.focal.about().or(self.focal.at_first())
            && !(sigma_px.is_finite() && (1e-5 * px..=px).contains(&sigma_px))
        {
            let range = "between a hundred-thousandth of the focal length and all of it";
            return bad("standard error of the focal length in px", sigma_px, range);
        }
        if self.solve_lens.radial > 3 {
            let radial = self.solve_lens.radial as f64;
            return bad("number of radial terms", radial, "3 at most");
        }
        let steady = self.steady.unwrap_or_default();
        if let Some(wanders) = [steady.place, steady.turn_deg]
            .into_iter()
            .flatten()
            .find(|w| !(w.is_finite() && *w > 0.0))
        {
            return bad("change of speed in a frame", wanders, "greater than 0");
        }
        if let Some(one) = self.survey.iter().find(|s| !s.is_possible()) {
            let value = f64::from(one.track.0);
            let range = "a track whose place is within 1000 km and whose standard errors are from a thousandth of a mm on";
            return bad("surveyed track", value, range);
        }
        if let Some(metres) = self.constraints.impossible() {
            let range = "between a thousandth of a mm and 1000 km";
            return bad("length or error of a constraint in m", metres, range);
        }
        if let Readout::Known(frames) = self.readout
            && !(frames.is_finite() && frames.abs() <= 1.0)
        {
            return bad("read-out time in frames", frames, "between -1 and 1");
        }
        if let Some(limit) = self.limit_px
            && !(limit.is_finite() && limit > 0.0)
        {
            return bad("limit in px", limit, "greater than 0");
        }
        Ok(())
    }
}

/// Solves camera and landmarks from tracks.
pub fn solve(
    tracks: &[Track],
    options: &SolveOptions,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    go_on(tracks, options, &Silent, progress)
}

/// [`solve`] from where an interrupted run of it was, with the same tracks and options.
pub fn go_on(
    tracks: &[Track],
    options: &SolveOptions,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    options.validated()?;
    let views = views::Views::of(tracks, options);
    if views.tracks.len() < FEWEST_TRACKS {
        return Err(SolveError::TooFewTracks {
            found: views.tracks.len(),
            needed: FEWEST_TRACKS,
        });
    }
    if views.frames.len() < 3 {
        return Err(SolveError::TooFewFrames {
            found: views.frames.len(),
            needed: 3,
        });
    }
    if let Some((first, last)) = options.start_from {
        let followed = |frame: &FrameNumber| views.frames.binary_search(frame).is_ok();
        if let Some(lost) = [first, last].into_iter().find(|f| !followed(f)) {
            let value = f64::from(lost.0);
            let range = "a frame on which features were followed";
            return Err(SolveError::OutOfRange {
                what: "frame from which the solve starts",
                value,
                range,
            });
        }
    }
    moves::decided(&views, options, checkpoints, progress)
}

/// Solves again from where an attempt stands: same frames, the tracks and the limit as they
/// are now. Landmarks that the attempt did not have are triangulated anew.
pub fn solve_again(
    tracks: &[Track],
    options: &SolveOptions,
    from: &Attempt,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    options.validated()?;
    let views = views::Views::of(tracks, options);
    if views.tracks.len() < FEWEST_TRACKS {
        return Err(SolveError::TooFewTracks {
            found: views.tracks.len(),
            needed: FEWEST_TRACKS,
        });
    }
    let as_solved = moves::as_solved(from);
    if !as_solved.is_allowed_by(options) {
        // Another kind of camera cannot be reached from where this one stands.
        return moves::decided(&views, options, &Silent, progress);
    }
    if from.moves == CameraMove::Locked && !from.zooms() {
        return locked::locked(&views, options);
    }
    let (stated, options) = (options, &as_solved.stated_in(options));
    let mut world = world::World::from_attempt(&views, options, from);
    world.triangulate_missing(&views);
    grow::fill_between(&views, &mut world, progress)?;
    let underway = Underway {
        world,
        started_from: from.started_from,
        stage: Stage::of_finish(),
    };
    // Soon done: it is begun anew when it is interrupted.
    let again = finish::finish(&views, options, underway, &Silent, progress)?;
    let growth = || moves::growth(&views, options, &evidence::key_frames(&views));
    let again = locked_zoom::doubted(&views, stated, growth, again, progress)?;
    Ok(Attempt {
        tried: from.tried.clone(),
        ..again
    })
}
