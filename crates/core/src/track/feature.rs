//! A feature while it is followed: what it looks like, how fast it goes, and whether the place
//! found on the next picture is to be believed.

use super::TrackOptions;
use super::follow::{self, Alignment, Reference, Scratch, Warp};
use super::picture::{Plane, Pyramid};
use crate::spaces::PlatePx;
use crate::tracks::Covariance;
use nalgebra::{Matrix2, Vector2};
use serde::{Deserialize, Serialize};

/// Soft detail may go so many times as far: it is near the lens more often than not, where all goes fast.
const SOFT_REACH: f64 = 2.0;
/// Going back has to lead to within this distance of the start, px.
const RETURN_PX: f64 = 0.7;
/// Pyramid level on which a feature is looked for first when its speed is known.
const EXPECTED_COARSEST: usize = 2;
/// From this correlation on the first reference is still the same detail.
const DRIFT_TOLD: f64 = 0.6;
/// Share of the newest frame in what is usual for a feature.
const LATELY: f64 = 0.2;
/// The reference is renewed once it is this much less alike than grain alone explains.
/// Renewing lets small errors add up, so it should be rare. Chosen, not measured.
const RENEW_LOSS: f64 = 0.10;

/// A feature on the picture that was looked at last.
#[derive(Clone, Serialize, Deserialize)]
pub(super) struct Feature {
    /// Where it is and how its reference lies there.
    pub warp: Warp,
    reference: Reference,
    /// How certain positions have been lately, against this reference.
    usual: Option<Covariance>,
    /// How certain the position was when this reference was cut: what follows is relative to it.
    base: Covariance,
    /// How certain its position was when it was noted last.
    last: Covariance,
    /// Best correlation that this reference has had: what grain alone leaves of it.
    best_correlation: f64,
    velocity: Option<Vector2<f64>>,
    /// The first reference, once it has been renewed, and the shape it had by then.
    birth: Option<Box<(Reference, Matrix2<f64>)>>,
    /// Frames in a row on which it was too uncertain to be noted.
    pub doubts: usize,
}

/// What noting a position came to.
pub(super) struct Noted {
    /// How certain the position is.
    pub covariance: Covariance,
    /// How far off the first reference it is, px, where that was looked at and could be told.
    pub drift_px: Option<f64>,
}

impl Feature {
    /// Begins at `centre`. `None` where nothing can be aligned to.
    pub fn cut(
        picture: &Plane,
        centre: PlatePx,
        pattern_px: usize,
        scratch: &mut Scratch,
    ) -> Option<Self> {
        Some(Self {
            warp: Warp {
                centre,
                shape: Matrix2::identity(),
            },
            reference: Reference::cut(picture, centre, pattern_px, scratch)?,
            usual: None,
            base: Covariance::isotropic(0.0),
            last: Covariance::isotropic(0.0),
            best_correlation: 0.0,
            velocity: None,
            birth: None,
            doubts: 0,
        })
    }

    /// Side of its pattern, px.
    pub fn side_px(&self) -> usize {
        self.reference.side_px()
    }

    /// Whether it is of soft detail: its pattern is larger than usual.
    pub fn is_soft(&self, options: &TrackOptions) -> bool {
        self.side_px() > options.pattern_px
    }

    /// Where its speed leads.
    pub fn expected(&self) -> PlatePx {
        self.warp.centre.moved(self.velocity.unwrap_or_default())
    }

    /// Moves to the place found.
    pub fn go(&mut self, found: &Alignment) {
        self.velocity = Some(found.warp.centre.offset_from(self.warp.centre));
        self.warp = found.warp;
    }

    /// Moves without having been seen; its speed is not known then.
    pub fn drift_along(&mut self, motion: Vector2<f64>) {
        self.velocity = None;
        self.warp.centre = self.warp.centre.moved(motion);
    }

    /// Notes the position moved to, and renews the reference where the feature has changed its
    /// looks. `None` where it should have been renewed and cannot be.
    pub fn note(
        &mut self,
        found: &Alignment,
        picture: &Plane,
        scratch: &mut Scratch,
    ) -> Option<Noted> {
        self.doubts = 0;
        self.best_correlation = self.best_correlation.max(found.correlation);
        let covariance = self.claimed(found.covariance);
        self.last = covariance;
        let mut drift_px = None;
        // At the border there is no patch to be cut.
        let room_px = Reference::room_px(self.side_px());
        let fits = follow::fits(picture, found.warp.centre, room_px);
        if fits && self.needs_renewal(found) {
            self.renew(picture, scratch)?;
            drift_px = self.drift_px(picture, scratch);
        }
        Some(Noted {
            covariance,
            drift_px,
        })
    }

    /// Takes what is there now as its looks; what is found from now on is relative to where it is
    /// now. `None` where nothing can be aligned to.
    pub fn renew(&mut self, picture: &Plane, scratch: &mut Scratch) -> Option<()> {
        let reference = Reference::cut(picture, self.warp.centre, self.side_px(), scratch)?;
        let first = std::mem::replace(&mut self.reference, reference);
        match &mut self.birth {
            None => self.birth = Some(Box::new((first, self.warp.shape))),
            Some(birth) => birth.1 = self.warp.shape * birth.1,
        }
        (self.usual, self.base) = (None, self.last);
        self.best_correlation = 0.0;
        self.warp.shape = Matrix2::identity();
        Some(())
    }

    /// How certain a position is: one frame tells it but roughly, so that no frame is claimed to
    /// be more certain than the last ones were on average.
    fn claimed(&mut self, found: Covariance) -> Covariance {
        let usual = self.usual.map_or(found, |u| u.mixed(&found, LATELY));
        self.usual = Some(usual);
        let own = if found.sigma_px() > usual.sigma_px() {
            found
        } else {
            usual
        };
        own.plus(&self.base)
    }

    fn needs_renewal(&self, found: &Alignment) -> bool {
        let singular = found.warp.shape.singular_values();
        let bent = singular[1] < 0.6 || singular[0] > 1.7;
        let lost = 1.0 - found.correlation > 2.0 * (1.0 - self.best_correlation) + RENEW_LOSS;
        lost || bent
    }

    /// How far the first reference says the feature is from where it is followed, px. `None` where
    /// that cannot be seen any more.
    fn drift_px(&self, picture: &Plane, scratch: &mut Scratch) -> Option<f64> {
        let (first, shape) = &**self.birth.as_ref()?;
        let found = first.align(
            picture,
            Warp {
                centre: self.warp.centre,
                shape: *shape,
            },
            scratch,
        )?;
        (found.correlation >= DRIFT_TOLD).then(|| found.warp.centre.distance_px(self.warp.centre))
    }

    /// Looks for it around where it should be, after it was out of sight: on a grid of places within
    /// `around_px`. Only what is as alike as it was while it was seen counts.
    pub fn found_again(
        &self,
        picture: &Plane,
        around_px: f64,
        options: &TrackOptions,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let step = self.side_px() as f64 / 3.0;
        let steps = (around_px / step).ceil() as i32;
        let places = (-steps..=steps)
            .flat_map(|x| (-steps..=steps).map(move |y| Vector2::new(f64::from(x), f64::from(y))));
        let at = |place: Vector2<f64>| {
            let start = Warp {
                centre: self.warp.centre.moved(place * step),
                ..self.warp
            };
            let found = self.reference.align(picture, start, scratch)?;
            let off = found.warp.centre.offset_from(self.warp.centre);
            let near = off.amax() <= around_px + step;
            let alike =
                1.0 - found.correlation <= 2.0 * (1.0 - self.best_correlation) + 0.5 * RENEW_LOSS;
            let certain = found.covariance.sigma_px() <= options.max_followed_sigma_px();
            (near && alike && certain).then_some(found)
        };
        places
            .filter_map(at)
            .max_by(|a, b| a.correlation.total_cmp(&b.correlation))
    }
}

/// From one picture to the next.
#[derive(Clone, Copy)]
pub(super) struct Step<'a> {
    pub options: &'a TrackOptions,
    pub before: &'a Pyramid,
    pub after: &'a Pyramid,
}

impl Step<'_> {
    /// Where its own speed leads, or stands still where it has none.
    pub fn by_own_speed(&self, feature: &Feature, scratch: &mut Scratch) -> Option<Alignment> {
        self.expected(feature, feature.velocity.unwrap_or_default(), scratch)
    }

    /// Where a motion leads, or else by search within the reach around it.
    pub fn by_motion(
        &self,
        feature: &Feature,
        motion: Vector2<f64>,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        self.expected(feature, motion, scratch)
            .or_else(|| self.searched(feature, motion, scratch))
    }

    /// How far a feature may go from frame to frame, across and up-down, px.
    fn reach_px(&self, feature: &Feature) -> (f64, f64) {
        let times = match feature.is_soft(self.options) {
            true => SOFT_REACH,
            false => 1.0,
        };
        let usual = (self.options.reach_x_px, self.options.reach_y_px);
        (times * usual.0, times * usual.1)
    }

    fn expected(
        &self,
        feature: &Feature,
        motion: Vector2<f64>,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let from = feature.warp.centre;
        let last = self.before.count() - 1;
        // A feature that has a speed is near where it is expected.
        let coarsest = if feature.velocity.is_some() {
            EXPECTED_COARSEST.min(last)
        } else {
            last
        };
        let levels = (1.min(coarsest), coarsest);
        let side = self.options.pattern_px;
        let to = follow::shift_between(
            self.before,
            self.after,
            from,
            from.moved(motion),
            side,
            levels,
            scratch,
        )?;
        self.settled(feature, to, scratch)
    }

    fn searched(
        &self,
        feature: &Feature,
        motion: Vector2<f64>,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let from = feature.warp.centre;
        let level = 2.min(self.before.count() - 1);
        let reach = self.reach_px(feature);
        let near = follow::search(
            self.before,
            self.after,
            from,
            from.moved(motion),
            reach,
            level,
            scratch,
        )?;
        let side = self.options.pattern_px;
        // On the next coarser level a usual pattern is as large as one of soft detail.
        let finest = usize::from(feature.is_soft(self.options)).min(level);
        let to = follow::shift_between(
            self.before,
            self.after,
            from,
            near,
            side,
            (finest, level),
            scratch,
        )?;
        self.settled(feature, to, scratch)
    }

    /// Aligns to the reference at the place found and judges the result.
    fn settled(&self, feature: &Feature, to: PlatePx, scratch: &mut Scratch) -> Option<Alignment> {
        let start = Warp {
            centre: to,
            shape: feature.warp.shape,
        };
        let alignment = feature
            .reference
            .align(self.after.level(0), start, scratch)?;
        let (from, centre) = (feature.warp.centre, alignment.warp.centre);
        let motion = centre.offset_from(from);
        let reach = self.reach_px(feature);
        let within_reach = motion.x.abs() <= reach.0 && motion.y.abs() <= reach.1;
        let alike = alignment.correlation >= self.options.least_correlation();
        let certain = alignment.covariance.sigma_px() <= 4.0 * self.options.max_found_sigma_px();
        if !(within_reach && alike && certain) {
            return None;
        }
        let side = feature.side_px();
        let back =
            follow::shift_between(self.after, self.before, centre, from, side, (0, 0), scratch)?;
        (back.distance_px(from) <= RETURN_PX).then_some(alignment)
    }
}

/// Levels of the pyramid: the pattern at the coarsest covers the reach.
pub(super) fn pyramid_levels(options: &TrackOptions) -> usize {
    let reach = options.reach_x_px.max(options.reach_y_px);
    let capture = options.pattern_px as f64 / 3.0;
    let levels = (reach / capture).log2().ceil().max(0.0) as usize + 1;
    levels.clamp(2, 5)
}
