//! What speaks against relying on a camera?
//!
//! A solve that found a camera states each reason for which an artist should look before using
//! it. Without any the verdict is good. Lengths in px are compared at 1280 px width.

mod sentences;

use super::attempt::{SolvedFrame, Verdict};
use super::constraints::ConstraintMiss;
use super::focal_check::Contradiction;
use super::survey::{NoHold, SurveyMiss};
use super::together::Jump;
use super::zoom_check::ZoomSuspicion;
use crate::spaces::FrameNumber;
use serde::{Deserialize, Serialize};

/// One reason not to rely on a camera without having looked.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "why", rename_all = "snake_case")]
pub enum Doubt {
    /// Something else moves rigidly and is nearly as likely the scene.
    Rival {
        /// Share of the picture that the scene covers, percent.
        scene_percent: f64,
        /// Share of the picture that the other body covers, percent.
        rival_percent: f64,
    },
    /// A frame rests on few landmarks.
    FewFeatures {
        /// The frame with the fewest.
        frame: FrameNumber,
        /// How many it sees.
        features: usize,
    },
    /// Frames have no camera.
    FramesLost {
        /// Frames with a camera.
        solved: usize,
        /// Frames with tracks.
        all: usize,
    },
    /// Most of what was followed takes no part.
    LittleUsed {
        /// Share of the positions that do, percent.
        percent: f64,
    },
    /// Landmarks explain little of the picture on a frame.
    LittleCover {
        /// The frame on which they explain least.
        frame: FrameNumber,
        /// Share of the picture in which one of them is the nearest feature, percent.
        percent: f64,
    },
    /// The focal length is vague.
    FocalUncertain {
        /// One standard error, percent of the focal length.
        percent: f64,
    },
    /// CG of true proportions is expected to slip.
    Slips {
        /// Root mean square for one standard error of the focal length, px.
        px: f64,
    },
    /// The evidence does not determine camera, lens and landmarks, so that no error can be stated.
    Undetermined,
    /// Landmarks miss what was followed by much.
    LargeResiduals {
        /// Root mean square, px.
        rms_px: f64,
    },
    /// The rays of most landmarks are nearly parallel.
    LittleParallax {
        /// Median of the greatest angle between rays, degrees.
        parallax_deg: f64,
    },
    /// Parts of the shot hang together by little.
    Jumps {
        /// A frame before the weak place.
        before: FrameNumber,
        /// One after it.
        after: FrameNumber,
        /// By how much what stands on both may jump, one standard error, px.
        px: f64,
    },
    /// Frames see nothing of the scene, and their cameras stand on how steadily it moves before and after.
    Carried {
        /// The first of them.
        first: FrameNumber,
        /// The last of them.
        last: FrameNumber,
        /// How many there are.
        frames: usize,
        /// By how much they may be off, one standard error, px, where that is known.
        px: Option<f64>,
    },
    /// Lens terms that the solve did not have would explain what is left.
    LensLeftOut,
    /// A camera that rests and zooms explains the shot as well, and is ruled out by what is stated.
    MayRestAndZoom {
        /// By what factor the picture grows from the first frame to the last.
        factor: f64,
    },
    /// The picture speaks for another focal length than is stated.
    FocalContradicted {
        /// By how much that is longer, percent of the stated one.
        percent: f64,
        /// Root mean square of the residuals with the stated one and with that, px.
        rms_px: [f64; 2],
    },
    /// A focal length that changes would explain what is left.
    FocalChanges {
        /// The shortest, px.
        shortest_px: f64,
        /// The longest, px.
        longest_px: f64,
        /// Root mean square of the residuals without and with it, px.
        rms_px: [f64; 2],
    },
    /// A survey was stated and holds nothing.
    SurveyUnused {
        /// Why.
        because: NoHold,
    },
    /// Surveyed landmarks contradict the others.
    SurveyContradicted {
        /// How many do.
        points: usize,
        /// How far off the worst is, m.
        most_m: f64,
    },
    /// Surveyed landmarks are missed by more than they are uncertain.
    SurveyMissed {
        /// How far off the worst is, m.
        most_m: f64,
        /// In standard errors of its measurement.
        errors: f64,
    },
    /// Constraints were stated and take no part.
    ConstraintsUnused {
        /// Whether they contradict the picture; else there are no places that they could hold.
        contradict: bool,
    },
    /// A constraint is missed by more than it is uncertain.
    ConstraintMissed {
        /// How far off the worst is, m.
        most_m: f64,
        /// In standard errors of what was stated.
        errors: f64,
    },
    /// The adjustment ran out of steps before further ones gained nothing.
    NotConverged,
}

/// Fewer landmarks than this on a frame are few.
pub(super) const FEW_FEATURES: usize = 12;
/// Above this standard error a focal length is vague, share.
const VAGUE_FOCAL: f64 = 0.02;
/// Above this jump CG is seen to jump, px at 1280.
const MOST_JUMP_PX: f64 = 0.5;
/// Above this slip CG is seen to swim, px at 1280.
const MOST_SLIP_PX: f64 = 0.5;
/// Above this residual features are missed by much, px at 1280.
const LARGE_RMS_PX: f64 = 0.6;
/// A surveyed landmark or a constraint is missed by more than chance where it is off by so many standard errors.
const MOST_SURVEY_ERRORS: f64 = 5.0;
/// Below this angle there is little parallax, degrees.
const LEAST_PARALLAX_DEG: f64 = 1.0;

/// The figures of a solve that doubts are raised from.
pub struct Figures<'a> {
    /// Its cameras.
    pub frames: &'a [SolvedFrame],
    /// Frames that have tracks.
    pub all_frames: usize,
    /// Focal length and its standard error, px, where it was solved.
    pub focal_px: Option<(f64, Option<f64>)>,
    /// Whether errors could be stated.
    pub determined: bool,
    /// Px of the plate for one at 1280.
    pub px_scale: f64,
    /// Root mean square of the residuals, px of the plate.
    pub rms_px: f64,
    /// Median of the greatest angle between the rays of a landmark, degrees; `None` of a camera that
    /// does not travel, which needs none.
    pub parallax_deg: Option<f64>,
    /// Whether a lens is suspected that was left out.
    pub lens_suspected: bool,
    /// How far CG would slip for one standard error of the focal length, px of the plate, where that was
    /// solved.
    pub slip_px: Option<f64>,
    /// The greatest jump between frames.
    pub jump: Option<Jump>,
    /// Frames that stand on those around them, ascending.
    pub carried: &'a [FrameNumber],
    /// By how much these may be off, one standard error, px of the plate.
    pub carried_px: Option<f64>,
    /// A zoom that is suspected and was left out.
    pub zoom: Option<ZoomSuspicion>,
    /// A focal length for which the picture speaks, against a stated one.
    pub contradiction: Option<Contradiction>,
    /// Whether the adjustment came to rest.
    pub converged: bool,
    /// What surveyed landmarks miss.
    pub survey: &'a [SurveyMiss],
    /// Why a survey that was stated holds nothing.
    pub survey_unused: Option<NoHold>,
    /// Whether constraints were stated.
    pub constrained: bool,
    /// What they miss.
    pub constraints: &'a [ConstraintMiss],
}

/// All doubts that figures raise, the gravest first.
pub fn raised(figures: &Figures<'_>) -> Vec<Doubt> {
    let at_1280 = |px: f64| px / figures.px_scale;
    let mut out = Vec::new();
    if !figures.converged {
        out.push(Doubt::NotConverged);
    }
    if figures.lens_suspected {
        out.push(Doubt::LensLeftOut);
    }
    if let Some(contradiction) = &figures.contradiction {
        out.push(Doubt::FocalContradicted {
            percent: 100.0 * contradiction.longer,
            rms_px: [figures.rms_px, contradiction.rms_px],
        });
    }
    if let Some(zoom) = &figures.zoom {
        out.push(Doubt::FocalChanges {
            shortest_px: zoom.shortest_px,
            longest_px: zoom.longest_px,
            rms_px: [figures.rms_px, zoom.rms_px],
        });
    }
    if let Some(parallax_deg) = figures.parallax_deg
        && parallax_deg < LEAST_PARALLAX_DEG
    {
        out.push(Doubt::LittleParallax { parallax_deg });
    }
    if !figures.determined {
        out.push(Doubt::Undetermined);
    }
    if let Some((focal_px, Some(sigma_px))) = figures.focal_px
        && sigma_px > VAGUE_FOCAL * focal_px
    {
        let percent = 100.0 * sigma_px / focal_px;
        out.push(Doubt::FocalUncertain { percent });
    }
    if let Some(px) = figures.slip_px.filter(|px| at_1280(*px) > MOST_SLIP_PX) {
        out.push(Doubt::Slips { px });
    }
    if let Some(jump) = figures.jump.filter(|jump| at_1280(jump.px) > MOST_JUMP_PX) {
        let Jump { before, after, px } = jump;
        out.push(Doubt::Jumps { before, after, px });
    }
    if at_1280(figures.rms_px) > LARGE_RMS_PX {
        let rms_px = figures.rms_px;
        out.push(Doubt::LargeResiduals { rms_px });
    }
    if let Some(because) = figures.survey_unused {
        out.push(Doubt::SurveyUnused { because });
    }
    out.extend(of_survey(figures.survey));
    out.extend(of_constraints(figures));
    if figures.frames.len() < figures.all_frames {
        out.push(Doubt::FramesLost {
            solved: figures.frames.len(),
            all: figures.all_frames,
        });
    }
    if let (Some(first), Some(last)) = (figures.carried.first(), figures.carried.last()) {
        out.push(Doubt::Carried {
            first: *first,
            last: *last,
            frames: figures.carried.len(),
            px: figures.carried_px,
        });
    }
    let stands_by_itself = |f: &&SolvedFrame| figures.carried.binary_search(&f.frame).is_err();
    let standing = figures.frames.iter().filter(stands_by_itself);
    if let Some(weakest) = standing.min_by_key(|f| f.features)
        && weakest.features < FEW_FEATURES
    {
        out.push(Doubt::FewFeatures {
            frame: weakest.frame,
            features: weakest.features,
        });
    }
    out
}

/// What a survey raises that holds the world.
fn of_survey(misses: &[SurveyMiss]) -> Vec<Doubt> {
    let worst = |used: bool| {
        let those = misses.iter().filter(|m| m.used == used);
        those.max_by(|a, b| a.distance_m().total_cmp(&b.distance_m()))
    };
    let mut out = Vec::new();
    let Some(most) = worst(true) else {
        return out;
    };
    if let Some(astray) = worst(false) {
        out.push(Doubt::SurveyContradicted {
            points: misses.iter().filter(|m| !m.used).count(),
            most_m: astray.distance_m(),
        });
    }
    let errors = most.distance_m() / most.sigma_m;
    if errors > MOST_SURVEY_ERRORS {
        let most_m = most.distance_m();
        out.push(Doubt::SurveyMissed { most_m, errors });
    }
    out
}

/// What constraints raise.
fn of_constraints(figures: &Figures<'_>) -> Option<Doubt> {
    let misses = figures.constraints;
    let travels = figures.parallax_deg.is_some();
    if figures.constrained && (!travels || misses.iter().any(|m| !m.used)) {
        return Some(Doubt::ConstraintsUnused {
            contradict: travels,
        });
    }
    let worst = misses
        .iter()
        .max_by(|a, b| a.errors().total_cmp(&b.errors()))?;
    (worst.errors() > MOST_SURVEY_ERRORS).then(|| Doubt::ConstraintMissed {
        most_m: worst.off_m.abs(),
        errors: worst.errors(),
    })
}

/// What doubts come to.
pub fn verdict(doubts: &[Doubt]) -> Verdict {
    if doubts.is_empty() {
        Verdict::Good
    } else {
        Verdict::NeedsALook
    }
}

#[cfg(test)]
mod tests;
