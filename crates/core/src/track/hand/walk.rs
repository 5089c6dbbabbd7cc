//! Legs, followed frame by frame.
//!
//! A leg goes from picture to picture by its own speed, or by search within its reach. Where a solved camera predicts
//! it ([`HandTrack::guide`](super::HandTrack::guide)), it is looked for where the prediction leads from where
//! it was found last; on frames on which it is not seen, because something stands before it or it is out of the
//! picture, it is carried along and looked for again. What is found has to be as alike as without.

use super::super::feature::{Feature, Step, pyramid_levels};
use super::super::follow::{Alignment, Scratch};
use super::super::session::{Look, look_ahead, same_size};
use super::super::{FrameSource, TrackError};
use super::Leg;
use crate::progress::Progress;
use crate::spaces::{FrameNumber, PlatePx};
use crate::tracks::Sample;
use nalgebra::Vector2;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

/// Why a leg ended before its last frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Ended {
    /// It reached its last frame.
    Reached,
    /// Nothing at its key can be followed.
    NoDetail,
    /// It was not found again.
    Lost,
    /// It ran into a matte.
    Matte,
}

/// What following a leg found, in the order in which it was followed.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Path {
    /// Positions, without the key's own.
    pub samples: Vec<Sample>,
    /// How it ended.
    pub ended: Ended,
}

/// A leg ends where it is less certain than this, px: by then it may be on something else, and the
/// artist should key it. Chosen, not measured.
const MOST_UNCERTAIN_PX: f64 = 0.75;

/// A leg while it is followed.
struct Walk {
    leg: Leg,
    feature: Option<Feature>,
    path: Path,
    over: bool,
    /// Whether it was found on the last picture.
    in_sight: bool,
    /// How far from its prediction it was when it was found last.
    off: Vector2<f64>,
    /// A key inside a matte was put there on purpose.
    heeds_mattes: bool,
}

/// Follows legs through the frames they need, backwards and forwards. The paths come in the order of
/// the legs. Frames that the plate has not are skipped.
pub fn follow_legs(
    source: &dyn FrameSource,
    legs: &[Leg],
    progress: &dyn Progress,
) -> Result<Vec<Path>, TrackError> {
    let begun = |leg: &Leg| Walk {
        leg: leg.clone(),
        feature: None,
        in_sight: true,
        off: leg
            .predicted(leg.from.frame)
            .map_or_else(Vector2::zeros, |at| leg.from.at().offset_from(at)),
        path: Path {
            samples: Vec::new(),
            ended: Ended::Reached,
        },
        over: false,
        heeds_mattes: true,
    };
    let mut walks: Vec<Walk> = legs.iter().map(begun).collect();
    let frames = source.frames();
    let needed = |forwards: bool| -> Vec<usize> {
        let wanted = legs.iter().filter(|l| (l.to > l.from.frame) == forwards);
        let wanted: Vec<&Leg> = wanted.collect();
        (0..frames.len())
            .filter(|i| wanted.iter().any(|l| l.lies_on(frames[*i].0)))
            .collect()
    };
    let (forth, mut back) = (needed(true), needed(false));
    back.reverse();
    let (total, mut done) = (forth.len() + back.len(), 0);
    for (indices, forwards) in [(forth, true), (back, false)] {
        let mut pass: Vec<&mut Walk> = walks
            .iter_mut()
            .filter(|w| (w.leg.to > w.leg.from.frame) == forwards)
            .collect();
        let levels = pass
            .iter()
            .map(|w| pyramid_levels(&w.leg.options))
            .max()
            .unwrap_or(2);
        let mut before: Option<Look> = None;
        look_ahead(source, indices, levels, |index, look| {
            if progress.is_cancelled() {
                return Err(TrackError::Cancelled);
            }
            progress.report("track", done, total);
            done += 1;
            if let Some(before) = &before {
                same_size(&before.pyramid, &look.pyramid, frames[index])?;
            }
            let step = |scratch: &mut Scratch, walk: &mut &mut Walk| {
                walk.step(frames[index], before.as_ref(), &look, scratch)
            };
            pass.par_iter_mut().for_each_init(Scratch::default, step);
            before = Some(look);
            Ok(())
        })?;
    }
    progress.report("track", total, total);
    Ok(walks.into_iter().map(|w| w.path).collect())
}

impl Walk {
    fn step(
        &mut self,
        frame: FrameNumber,
        before: Option<&Look>,
        look: &Look,
        scratch: &mut Scratch,
    ) {
        if self.over || !self.leg.lies_on(frame.0) {
            return;
        }
        let pattern_px = self.leg.options.pattern_px;
        if frame.0 == self.leg.from.frame {
            self.feature = Feature::cut(
                look.pyramid.level(0),
                self.leg.from.at(),
                pattern_px,
                scratch,
            );
            self.heeds_mattes = !look.leaves_out(self.leg.from.at(), pattern_px);
            if self.feature.is_none() {
                self.end(Ended::NoDetail);
            }
            return;
        }
        let Some(before) = before else { return };
        match self.leg.guide.is_empty() {
            true => self.by_looks(frame, before, look, scratch),
            false => self.by_prediction(frame, before, look, scratch),
        }
    }

    /// On to the next picture; the leg is over where it is not found.
    fn by_looks(&mut self, frame: FrameNumber, before: &Look, look: &Look, scratch: &mut Scratch) {
        let Some(feature) = &mut self.feature else {
            return;
        };
        let pattern_px = self.leg.options.pattern_px;
        let step = Step {
            options: &self.leg.options,
            before: &before.pyramid,
            after: &look.pyramid,
        };
        // Where its surroundings have changed too much, what was there on the last picture may do.
        let found = found(&step, feature, scratch).or_else(|| {
            feature.renew(before.pyramid.level(0), scratch)?;
            found(&step, feature, scratch)
        });
        let Some(found) = found else {
            let hidden = self.heeds_mattes && look.leaves_out(feature.expected(), pattern_px);
            return self.end(if hidden { Ended::Matte } else { Ended::Lost });
        };
        if self.heeds_mattes && look.leaves_out(found.warp.centre, pattern_px) {
            return self.end(Ended::Matte);
        }
        if !self.goes(frame, &found, look, scratch) {
            self.end(Ended::Lost);
        }
    }

    /// On along the prediction, whether or not it is found.
    fn by_prediction(
        &mut self,
        frame: FrameNumber,
        before: &Look,
        look: &Look,
        scratch: &mut Scratch,
    ) {
        let options = self.leg.options;
        let predicted = self.leg.predicted(frame.0);
        let was_in_sight = std::mem::replace(&mut self.in_sight, false);
        if let (Some(predicted), Some(feature)) = (predicted, &mut self.feature) {
            let expected = predicted.moved(self.off);
            let motion = expected.offset_from(feature.warp.centre);
            let step = Step {
                options: &options,
                before: &before.pyramid,
                after: &look.pyramid,
            };
            let near = |found: &Alignment| {
                let off = found.warp.centre.offset_from(expected);
                off.x.abs() <= options.reach_x_px && off.y.abs() <= options.reach_y_px
            };
            let on = was_in_sight.then(|| step.by_motion(feature, motion, scratch));
            let found = on.flatten().filter(near).or_else(|| {
                feature.drift_along(motion);
                let around_px = options.reach_x_px.max(options.reach_y_px);
                let around_px = around_px.min(options.pattern_px as f64);
                let picture = look.pyramid.level(0);
                feature.found_again(picture, around_px, &options, scratch)
            });
            let found = found.filter(|found| {
                !(self.heeds_mattes && look.leaves_out(found.warp.centre, options.pattern_px))
            });
            if let Some(found) = found
                && self.goes(frame, &found, look, scratch)
            {
                self.in_sight = true;
                self.off = found.warp.centre.offset_from(predicted);
            }
        }
        if frame.0 == self.leg.to && !self.in_sight {
            self.end(Ended::Lost);
        }
    }

    /// Goes to where it was found; false where that is too uncertain.
    fn goes(
        &mut self,
        frame: FrameNumber,
        found: &Alignment,
        look: &Look,
        scratch: &mut Scratch,
    ) -> bool {
        let Some(feature) = &mut self.feature else {
            return false;
        };
        feature.go(found);
        let noted = feature.note(found, look.pyramid.level(0), scratch);
        let noted = noted.filter(|noted| noted.covariance.sigma_px() <= MOST_UNCERTAIN_PX);
        self.path.samples.extend(noted.as_ref().map(|noted| Sample {
            frame,
            px: found.warp.centre,
            covariance: noted.covariance,
        }));
        noted.is_some()
    }

    fn end(&mut self, why: Ended) {
        self.over = true;
        self.path.ended = why;
    }
}

fn found(step: &Step, feature: &Feature, scratch: &mut Scratch) -> Option<Alignment> {
    let still = Vector2::zeros();
    step.by_own_speed(feature, scratch)
        .or_else(|| step.by_motion(feature, still, scratch))
}

impl Leg {
    /// Where it is predicted on a frame.
    fn predicted(&self, frame: i32) -> Option<PlatePx> {
        let at = self.guide.binary_search_by_key(&frame, |g| g.frame).ok()?;
        Some(self.guide[at].at())
    }
}
