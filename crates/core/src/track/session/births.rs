//! Where is something new to be followed?
//!
//! Fine detail first, spread over what is not followed yet. Then soft detail: what passes near before the lens, or is out
//! of focus, holds nothing that a usual pattern could be aligned to, and fills the picture all the same. There patterns
//! of twice the side are followed, detected on the next coarser level of the pyramid (detection in scale space;
//! Lindeberg 1998, with two scales), where a usual pattern is as large: where fine detail was tried and ended soon, and
//! where there is none.

use super::{Live, Session};
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use crate::track::detect::{self, Candidate, Detector, NOISE_LEFT, Places};
use crate::track::feature::Feature;
use crate::track::follow::Scratch;
use crate::track::matte::Mask;
use crate::track::picture::{Plane, Pyramid};
use crate::track::{TrackError, TrackOptions};
use crate::tracks::{Covariance, Sample, Track, TrackKind};

/// The pyramid level on which soft detail is looked for, and its px by those of the finest level.
const SOFT_LEVEL: usize = 1;
const SOFT_SCALE: f64 = 2.0;
/// Share of the wanted number of features that may be of soft detail besides.
const SOFT_SHARE: f64 = 0.125;
/// What has been followed for so many frames is followed well enough that nothing soft is wanted near it.
const PROVEN_FRAMES: usize = 3;

/// A new feature.
struct Found {
    /// Its place.
    px: PlatePx,
    /// How certain that can be.
    sigma_px: f64,
    /// Side of its pattern.
    side_px: usize,
}

impl Found {
    /// A detail of a level with noise of so many levels, whose px are that large.
    fn of(detail: &Candidate, noise: f32, scale: f64, side_px: usize) -> Self {
        Self {
            px: scaled(detail.px, scale),
            sigma_px: scale * sigma_px(detail, noise),
            side_px,
        }
    }
}

/// A place on the finest level, of one on a level whose px are so large.
fn scaled(px: PlatePx, scale: f64) -> PlatePx {
    PlatePx::new(scale * px.x, scale * px.y)
}

/// Side of the pattern of soft detail, px.
fn soft_side_px(options: &TrackOptions) -> usize {
    2 * options.pattern_px + 1
}

/// What is claimed of a position. Soft detail is less certain than its alignment says, what is near being less flat in a
/// large patch and smeared by its motion: on a pillar that passes at 50 px a frame it is off by 1.7 times as much along the
/// motion, and by as much as is said across.
pub(super) fn claimed(covariance: Covariance, is_soft: bool) -> Covariance {
    match is_soft {
        true => covariance.plus(&covariance),
        false => covariance,
    }
}

impl Session {
    /// How many features of fine detail are followed.
    pub(super) fn fine_count(&self) -> usize {
        let is_fine = |l: &&Live| !l.feature.is_soft(&self.options);
        self.now.live.iter().filter(is_fine).count()
    }

    /// Looks for new features.
    pub(super) fn refill(&mut self, frame: FrameNumber) {
        self.now.frames_since_refill = 0;
        let place = |l: &Live| l.feature.warp.centre;
        let is_proven = |l: &&Live| {
            let seen = self.now.tracks[l.track].samples.len();
            seen >= PROVEN_FRAMES || l.feature.is_soft(&self.options)
        };
        let (proven, untried): (Vec<&Live>, Vec<&Live>) = self.now.live.iter().partition(is_proven);
        let asleep = self.now.asleep.iter().map(|a| &a.live);
        let followed: Vec<PlatePx> = proven.into_iter().chain(asleep).map(place).collect();
        let untried: Vec<PlatePx> = untried.into_iter().map(place).collect();
        let spent: Vec<PlatePx> = self.now.spent.iter().map(|s| s.0).collect();
        let taken = [&followed[..], &untried, &spent].concat();

        let look = Looked {
            pyramid: &self.before,
            mask: self.mask.as_ref(),
            options: &self.options,
        };
        let (count, fine_ones) = (self.options.count, self.fine_count());
        let soft_ones = self.now.live.len() - fine_ones;
        let (fine, everywhere) = look.fine(&taken, count.saturating_sub(fine_ones));
        let tried = Tried::new(followed, spent, untried.into_iter().chain(everywhere));
        let soft = look.soft(&tried, most_soft(&self.options).saturating_sub(soft_ones));
        let mut scratch = Scratch::default();
        let mut bear_all = |found: Vec<Found>| {
            let born = found.iter().map(|f| self.bear(frame, f, &mut scratch));
            born.filter(|is_born| *is_born).count()
        };
        let born = bear_all(fine);
        bear_all(soft);
        self.now.found_last = born;
    }

    /// Begins to follow a feature; false where nothing can be aligned to.
    fn bear(&mut self, frame: FrameNumber, found: &Found, scratch: &mut Scratch) -> bool {
        let picture = self.before.level(0);
        let Some(feature) = Feature::cut(picture, found.px, found.side_px, scratch) else {
            return false;
        };
        let expected = Covariance::isotropic(found.sigma_px);
        let first = Sample {
            frame,
            px: found.px,
            covariance: claimed(expected, feature.is_soft(&self.options)),
        };
        let track = self.now.tracks.len();
        let id = TrackId(track as u32 + 1);
        self.now.live.push(Live { track, feature });
        let track = Track::new(id, TrackKind::Auto, vec![first]);
        self.now.tracks.push(track);
        true
    }
}

/// How many features of soft detail are followed at most, besides the wanted number.
fn most_soft(options: &TrackOptions) -> usize {
    (SOFT_SHARE * options.count as f64) as usize
}

/// What is known of places before soft detail is looked for.
struct Tried {
    /// Where something is followed.
    followed: Places,
    /// Where fine detail ended soon.
    spent: Places,
    /// Where fine detail has just begun, or is to be had.
    untried: Places,
}

impl Tried {
    fn new(
        followed: Vec<PlatePx>,
        spent: Vec<PlatePx>,
        untried: impl Iterator<Item = PlatePx>,
    ) -> Self {
        Self {
            followed: Places::of(followed.into_iter()),
            spent: Places::of(spent.into_iter()),
            untried: Places::of(untried),
        }
    }

    /// Whether soft detail is wanted at a place: nothing is followed so near, and fine detail was tried there or is not
    /// to be had.
    fn wants_soft(&self, at: PlatePx, near_px: f64) -> bool {
        let any = |places: &Places| places.within(at, near_px);
        !any(&self.followed) && (any(&self.spent) || !any(&self.untried))
    }
}

/// A frame in which new features are looked for.
struct Looked<'a> {
    pyramid: &'a Pyramid,
    mask: Option<&'a Mask>,
    options: &'a TrackOptions,
}

impl Looked<'_> {
    /// Up to so many of fine detail, away from what is taken; and wherever it is to be had.
    fn fine(&self, taken: &[PlatePx], wanted: usize) -> (Vec<Found>, Vec<PlatePx>) {
        let (picture, side_px) = (self.pyramid.level(0), self.options.pattern_px);
        let noise = NOISE_LEFT * self.pyramid.noise_level().max(0.3);
        let detector = self.options.detector(picture.width(), picture.height());
        let mut candidates = detect::candidates(picture, noise, &detector);
        candidates.retain(|c| !is_left_out(self.mask, c.px, side_px));
        let everywhere = candidates.iter().map(|c| c.px).collect();
        let chosen = detect::spread(candidates, taken, detector.spacing_px, wanted).into_iter();
        let found = chosen.map(|c| Found::of(&c, noise, 1.0, side_px));
        (found.collect(), everywhere)
    }

    /// Up to so many of soft detail, where that is wanted.
    fn soft(&self, tried: &Tried, wanted: usize) -> Vec<Found> {
        if wanted == 0 || self.pyramid.count() <= SOFT_LEVEL {
            return Vec::new();
        }
        let picture = self.pyramid.level(SOFT_LEVEL);
        let noise = NOISE_LEFT * picture.noise_level().max(0.3);
        let (side_px, usual_px) = (soft_side_px(self.options), self.options.pattern_px as f64);
        let fine = self.options.detector(picture.width(), picture.height());
        let detector = Detector {
            max_sigma_px: fine.max_sigma_px / SOFT_SCALE,
            spacing_px: 0.5 * usual_px,
            ..fine
        };
        let allowed = |c: &Candidate| {
            let at = scaled(c.px, SOFT_SCALE);
            !is_left_out(self.mask, at, side_px) && tried.wants_soft(at, SOFT_SCALE * usual_px)
        };
        let mut candidates = detect::candidates(picture, noise, &detector);
        candidates.retain(allowed);
        let chosen = detect::spread(candidates, &[], detector.spacing_px, wanted).into_iter();
        let found = chosen.map(|c| Found::of(&c, noise, SOFT_SCALE, side_px));
        found.collect()
    }
}

/// How certain the place of a detail can be in a picture with noise of so many levels, px.
fn sigma_px(candidate: &Candidate, noise: f32) -> f64 {
    f64::from(noise / candidate.strength.sqrt()).max(0.01)
}

/// Where features would be placed on a picture of which nothing is followed yet, and how certain
/// they would be, px.
pub fn preview(
    picture: Plane,
    mask: Option<&Mask>,
    options: &TrackOptions,
) -> Result<Vec<(PlatePx, f64)>, TrackError> {
    let options = options.validated()?;
    let look = Looked {
        pyramid: &Pyramid::new(picture, SOFT_LEVEL + 1),
        mask,
        options: &options,
    };
    let (fine, everywhere) = look.fine(&[], options.count);
    let tried = Tried::new(Vec::new(), Vec::new(), everywhere.into_iter());
    let soft = look.soft(&tried, most_soft(&options));
    let all = fine.into_iter().chain(soft);
    Ok(all.map(|f| (f.px, f.sigma_px)).collect())
}

/// Whether a pattern of a side reaches into a matte.
pub(super) fn is_left_out(mask: Option<&Mask>, at: PlatePx, side_px: usize) -> bool {
    mask.is_some_and(|m| m.touches(at, 0.5 * side_px as f64))
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    /// Nothing soft where something is followed; where fine detail begins only once it was tried there.
    #[rstest]
    #[case::blank(false, false, false, true)]
    #[case::begun(false, false, true, false)]
    #[case::begun_again(false, true, true, true)]
    #[case::ended(false, true, false, true)]
    #[case::followed(true, false, false, false)]
    #[case::followed_by_now(true, true, true, false)]
    fn soft_detail_comes_second(
        #[case] followed: bool,
        #[case] spent: bool,
        #[case] untried: bool,
        #[case] wanted: bool,
    ) {
        let at = PlatePx::new(100.0, 80.0);
        let places = |near: bool| vec![PlatePx::new(if near { 110.0 } else { 170.0 }, 80.0)];
        let tried = Tried::new(places(followed), places(spent), places(untried).into_iter());
        assert_eq!(tried.wants_soft(at, 50.0), wanted);
    }
}
