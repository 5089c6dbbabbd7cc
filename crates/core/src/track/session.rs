//! Follows many features through a whole plate, picture by picture.
//!
//! Per frame: predict (own speed, else the median motion), find by translation coarse to
//! fine, align to the reference, accept or end; then, where features have ended, detect new
//! ones. Only two pyramids are alive at a time; the next picture is decoded meanwhile.
//!
//! A feature ends when its correlation with the reference falls below the strictness, when
//! going back does not lead to where it came from (Kalal, Mikolajczyk and Matas 2010), when
//! it leaves the picture or meets another, or when it is far less certain than most. Its reference is renewed while it is still well
//! followed but has changed its looks.

use super::detect::{self, Detector, NOISE_LEFT};
use super::follow::{self, Alignment, Reference, Scratch, Warp};
use super::picture::{Plane, Pyramid};
use super::{Covariance, FrameError, FrameSource, Sample, Track, TrackKind};
use crate::progress::Progress;
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use nalgebra::{Matrix2, Vector2};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::sync::mpsc;

/// What the artist controls.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TrackOptions {
    /// Features followed at the same time, 8 to 4000.
    pub count: usize,
    /// Side of the pattern, px, odd, 9 to 61.
    pub pattern_px: usize,
    /// Largest motion from frame to frame across, px.
    pub reach_x_px: f64,
    /// Largest motion from frame to frame up and down, px.
    pub reach_y_px: f64,
    /// 0 keeps what is vaguely alike, 1 only what is nearly the same.
    pub strictness: f64,
}

impl TrackOptions {
    /// What suits most plates of a size: 400 features, a reach of 6 % of the width, patterns
    /// of 25 px that grow with plates wider than 1280 px (37 px at 1920), since the same
    /// detail spreads over more px there.
    pub fn for_size(width_px: u32, _height_px: u32) -> Self {
        let reach = (0.06 * f64::from(width_px)).round();
        let pattern_px = (25 * width_px as usize / 1280).clamp(25, 45) | 1;
        Self { count: 400, pattern_px, reach_x_px: reach, reach_y_px: reach, strictness: 0.5 }
    }

    /// Checks all ranges.
    pub fn validated(self) -> Result<Self, TrackError> {
        let bad = |what, value: f64, range| Err(TrackError::OutOfRange { what, value, range });
        if !(8..=4000).contains(&self.count) {
            return bad("number of features", self.count as f64, "8 to 4000");
        }
        if !(9..=61).contains(&self.pattern_px) || self.pattern_px.is_multiple_of(2) {
            return bad("pattern size", self.pattern_px as f64, "odd, 9 to 61 px");
        }
        for (what, reach) in [("reach across", self.reach_x_px), ("reach up and down", self.reach_y_px)] {
            if !(1.0..=1000.0).contains(&reach) {
                return bad(what, reach, "1 to 1000 px");
            }
        }
        if !(0.0..=1.0).contains(&self.strictness) {
            return bad("strictness", self.strictness, "0 to 1");
        }
        Ok(self)
    }

    fn least_correlation(&self) -> f64 {
        0.55 + 0.3 * self.strictness
    }

    /// 0.09 px at the usual strictness.
    fn max_followed_sigma_px(&self) -> f64 {
        0.12 - 0.06 * self.strictness
    }

    fn detector(&self, width: usize, height: usize) -> Detector {
        let even = ((width * height) as f64 / self.count as f64).sqrt();
        Detector {
            pattern_px: self.pattern_px,
            max_sigma_px: 0.25 - 0.15 * self.strictness,
            spacing_px: (0.35 * even).max(self.pattern_px as f64 * 0.4),
        }
    }
}

/// Why features could not be followed.
#[derive(Debug, thiserror::Error)]
pub enum TrackError {
    /// A control is outside its range.
    #[error("the {what} is {value}; it has to be {range}")]
    OutOfRange {
        /// Which control.
        what: &'static str,
        /// What it was set to.
        value: f64,
        /// What it may be.
        range: &'static str,
    },
    /// There is nothing to follow from frame to frame.
    #[error("the plate has {found} frame; following needs at least 2")]
    TooFewFrames {
        /// Frames there are.
        found: usize,
    },
    /// A frame cannot be read.
    #[error(transparent)]
    Frame(#[from] FrameError),
    /// A frame has another size than the first.
    #[error(
        "frame {frame} is {found_width}x{found_height} px, the plate is {width}x{height} px; leave it out or make it the same size"
    )]
    SizeChanged {
        /// The frame.
        frame: FrameNumber,
        /// Its width.
        found_width: usize,
        /// Its height.
        found_height: usize,
        /// The plate's width.
        width: usize,
        /// The plate's height.
        height: usize,
    },
    /// Nothing in the plate can be followed.
    #[error("no detail in the plate can be followed; it may be black, blank or out of focus")]
    NoFeatures,
    /// The artist cancelled.
    #[error("following was cancelled; the tracks there were are kept")]
    Cancelled,
}

/// Levels of the pyramid: the pattern at the coarsest covers the reach.
fn pyramid_levels(options: &TrackOptions) -> usize {
    let reach = options.reach_x_px.max(options.reach_y_px);
    let capture = options.pattern_px as f64 / 3.0;
    let levels = (reach / capture).log2().ceil().max(0.0) as usize + 1;
    levels.clamp(2, 5)
}

/// Follows features through all frames of `source`. Tracks shorter than 3 frames are left
/// out. Ids count from 1 in the order of birth.
pub fn follow_plate(
    source: &dyn FrameSource,
    options: &TrackOptions,
    progress: &dyn Progress,
) -> Result<Vec<Track>, TrackError> {
    let options = options.validated()?;
    let frames = source.frames();
    if frames.len() < 2 {
        return Err(TrackError::TooFewFrames { found: frames.len() });
    }
    let levels = pyramid_levels(&options);
    std::thread::scope(|scope| {
        let (send, receive) = mpsc::sync_channel(1);
        scope.spawn(move || {
            for index in 0..frames.len() {
                let pyramid = source.grey(index).map(|plane| Pyramid::new(plane, levels));
                let failed = pyramid.is_err();
                if send.send(pyramid).is_err() || failed {
                    return;
                }
            }
        });
        let mut session: Option<Session> = None;
        for (index, &frame) in frames.iter().enumerate() {
            if progress.is_cancelled() {
                return Err(TrackError::Cancelled);
            }
            progress.report("track", index, frames.len());
            let Ok(pyramid) = receive.recv() else { break };
            let pyramid = pyramid?;
            match &mut session {
                None => session = Some(Session::begin(options, frame, pyramid)),
                Some(session) => session.advance(frame, pyramid)?,
            }
        }
        progress.report("track", frames.len(), frames.len());
        session.map_or(Err(TrackError::NoFeatures), Session::finish)
    })
}

struct Live {
    track: usize,
    warp: Warp,
    reference: Reference,
    /// How certain positions have been lately, against this reference.
    usual: Option<Covariance>,
    /// How certain the position was when this reference was cut: what follows is relative to it.
    base: Covariance,
    /// Best correlation that this reference has had: what grain alone leaves of it.
    best_correlation: f64,
    velocity: Option<Vector2<f64>>,
    /// The first reference, once it has been renewed, and the shape it had by then.
    birth: Option<Box<(Reference, Matrix2<f64>)>>,
    /// Frames in a row on which it was too uncertain to be noted.
    doubts: usize,
}

impl Live {
    /// How certain a position is: one frame tells it but roughly, so that no frame is claimed to
    /// be more certain than the last ones were on average.
    fn claimed(&mut self, found: Covariance) -> Covariance {
        let usual = self.usual.map_or(found, |u| u.mixed(&found, LATELY));
        self.usual = Some(usual);
        let own = if found.sigma_px() > usual.sigma_px() { found } else { usual };
        own.plus(&self.base)
    }

    /// How far the first reference says the feature is from where it is followed, px. `None` where
    /// that cannot be seen any more.
    fn drift_px(&self, picture: &Plane, scratch: &mut Scratch) -> Option<f64> {
        let (first, shape) = &**self.birth.as_ref()?;
        let found = first.align(picture, Warp { centre: self.warp.centre, shape: *shape }, scratch)?;
        (found.correlation >= DRIFT_TOLD).then(|| found.warp.centre.distance_px(self.warp.centre))
    }
}

struct Session {
    options: TrackOptions,
    before: Pyramid,
    live: Vec<Live>,
    tracks: Vec<Track>,
    detector: Detector,
    frames_since_refill: usize,
    /// Features that the last look for new ones found.
    found_last: usize,
    /// Where features ended soon after they were found, and for how many frames more to keep away.
    spent: Vec<(PlatePx, usize)>,
}

/// A feature that ends before it has so many positions was no good.
const SOON_FRAMES: usize = 5;
/// For so many frames no new one is looked for in its place.
const SPENT_FRAMES: usize = 12;
/// New features are looked for when this share of the wanted number is lost, or at the
/// latest after [`REFILL_FRAMES`]; detection costs about as much as following 400 features.
const REFILL_SHARE: f64 = 0.95;
const REFILL_FRAMES: usize = 8;
/// Share of the wanted number that a look for new features has to find for the next to come soon.
const WORTHWHILE: f64 = 0.03;
/// A track shorter than this says nothing about the camera.
const SHORTEST_FRAMES: usize = 3;
/// Going back has to lead to within this distance of the start, px.
const RETURN_PX: f64 = 0.7;
/// Pyramid level on which a feature is looked for first when its speed is known.
const EXPECTED_COARSEST: usize = 2;
/// Two features nearer than this are following the same detail, px.
const SAME_DETAIL_PX: f64 = 3.0;
/// From this correlation on the first reference is still the same detail.
const DRIFT_TOLD: f64 = 0.6;
/// Share of the newest frame in what is usual for a feature.
const LATELY: f64 = 0.2;
/// A feature this much less certain than most on its frame lies on two surfaces, or its light changes.
const UNCERTAIN: f64 = 1.7;
/// So many frames in a row may be left out before a feature ends for being uncertain.
const MOST_DOUBTS: usize = 2;
/// The reference is renewed once it is this much less alike than grain alone explains.
/// Renewing lets small errors add up, so it should be rare. Chosen, not measured.
const RENEW_LOSS: f64 = 0.10;

impl Session {
    fn begin(options: TrackOptions, frame: FrameNumber, first: Pyramid) -> Self {
        let plane = first.level(0);
        let detector = options.detector(plane.width(), plane.height());
        let mut session =
            Self { options, detector, before: first, live: Vec::new(), tracks: Vec::new(), frames_since_refill: 0, found_last: 0, spent: Vec::new() };
        session.refill(frame);
        session
    }

    fn advance(&mut self, frame: FrameNumber, after: Pyramid) -> Result<(), TrackError> {
        let (old, new) = (self.before.level(0), after.level(0));
        if (old.width(), old.height()) != (new.width(), new.height()) {
            return Err(TrackError::SizeChanged {
                frame,
                found_width: new.width(),
                found_height: new.height(),
                width: old.width(),
                height: old.height(),
            });
        }
        let found = self.follow_all(&after);
        self.keep(frame, new, found);
        self.before = after;
        self.frames_since_refill += 1;
        let few = (self.live.len() as f64) < REFILL_SHARE * self.options.count as f64;
        // Where the last look found little, the next can wait.
        let worthwhile = self.found_last as f64 >= WORTHWHILE * self.options.count as f64;
        if few && worthwhile && (self.frames_since_refill >= 2 || self.live.len() * 2 < self.options.count)
            || self.frames_since_refill >= REFILL_FRAMES
        {
            self.refill(frame);
        }
        Ok(())
    }

    /// First by each feature's own speed, then by the median motion, then by search.
    fn follow_all(&self, after: &Pyramid) -> Vec<Option<Alignment>> {
        let still = Vector2::zeros();
        let own =
            |live: &Live, scratch: &mut Scratch| self.follow_one(live, live.velocity.unwrap_or(still), after, scratch);
        let mut found: Vec<Option<Alignment>> =
            self.live.par_iter().map_init(Scratch::default, |s, l| own(l, s)).collect();
        let common = self.median_motion(&found).unwrap_or(still);
        found.par_iter_mut().zip(&self.live).filter(|(f, _)| f.is_none()).for_each_init(
            Scratch::default,
            |s, (f, live)| {
                *f = self.follow_one(live, common, after, s).or_else(|| self.search_one(live, common, after, s));
            },
        );
        found
    }

    fn median_motion(&self, found: &[Option<Alignment>]) -> Option<Vector2<f64>> {
        let (mut across, mut down): (Vec<f64>, Vec<f64>) = found
            .iter()
            .zip(&self.live)
            .filter_map(|(f, live)| f.as_ref().map(|f| f.warp.centre.offset_from(live.warp.centre)))
            .map(|motion| (motion.x, motion.y))
            .unzip();
        if across.is_empty() {
            return None;
        }
        let middle = across.len() / 2;
        let median = |values: &mut Vec<f64>| *values.select_nth_unstable_by(middle, f64::total_cmp).1;
        Some(Vector2::new(median(&mut across), median(&mut down)))
    }

    fn follow_one(
        &self,
        live: &Live,
        motion: Vector2<f64>,
        after: &Pyramid,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let from = live.warp.centre;
        let last = self.before.count() - 1;
        // A feature that has a speed is near where it is expected.
        let coarsest = if live.velocity.is_some() { EXPECTED_COARSEST.min(last) } else { last };
        let levels = (1.min(coarsest), coarsest);
        let side = self.options.pattern_px;
        let to = follow::shift_between(&self.before, after, from, from.moved(motion), side, levels, scratch)?;
        self.settle(live, to, after, scratch)
    }

    fn search_one(
        &self,
        live: &Live,
        motion: Vector2<f64>,
        after: &Pyramid,
        scratch: &mut Scratch,
    ) -> Option<Alignment> {
        let from = live.warp.centre;
        let level = 2.min(self.before.count() - 1);
        let reach = (self.options.reach_x_px, self.options.reach_y_px);
        let near = follow::search(&self.before, after, from, from.moved(motion), reach, level, scratch)?;
        let side = self.options.pattern_px;
        let to = follow::shift_between(&self.before, after, from, near, side, (0, level), scratch)?;
        self.settle(live, to, after, scratch)
    }

    /// Aligns to the reference at the place found and judges the result.
    fn settle(&self, live: &Live, to: PlatePx, after: &Pyramid, scratch: &mut Scratch) -> Option<Alignment> {
        let start = Warp { centre: to, shape: live.warp.shape };
        let side = self.options.pattern_px;
        let alignment = live.reference.align(after.level(0), start, scratch)?;
        let centre = alignment.warp.centre;
        let motion = centre.offset_from(live.warp.centre);
        let within_reach = motion.x.abs() <= self.options.reach_x_px && motion.y.abs() <= self.options.reach_y_px;
        let alike = alignment.correlation >= self.options.least_correlation();
        let certain = alignment.covariance.sigma_px() <= 4.0 * self.detector.max_sigma_px;
        if !(within_reach && alike && certain) {
            return None;
        }
        let back = follow::shift_between(after, &self.before, centre, live.warp.centre, side, (0, 0), scratch)?;
        (back.distance_px(live.warp.centre) <= RETURN_PX).then_some(alignment)
    }

    fn keep(&mut self, frame: FrameNumber, picture: &Plane, found: Vec<Option<Alignment>>) {
        let gate_px = self.gate_px(&found);
        let mut taken = Occupied::new(SAME_DETAIL_PX);
        let mut scratch = Scratch::default();
        let motion = self.median_motion(&found).unwrap_or_default();
        self.spent.iter_mut().for_each(|(px, left)| (*px, *left) = (px.moved(motion), *left - 1));
        self.spent.retain(|(_, left)| *left > 0);
        let live = std::mem::take(&mut self.live);
        for (mut live, found) in live.into_iter().zip(found) {
            let Some(alignment) = found else {
                self.spend(&live, motion);
                continue;
            };
            let centre = alignment.warp.centre;
            if !taken.claim(centre) {
                continue;
            }
            live.velocity = Some(centre.offset_from(live.warp.centre));
            live.warp = alignment.warp;
            if alignment.covariance.sigma_px() > gate_px {
                live.doubts += 1;
                if live.doubts <= MOST_DOUBTS {
                    self.live.push(live);
                } else {
                    self.spend(&live, Vector2::zeros());
                }
                continue;
            }
            live.doubts = 0;
            live.best_correlation = live.best_correlation.max(alignment.correlation);
            let covariance = live.claimed(alignment.covariance);
            if needs_renewal(&alignment, live.best_correlation) {
                let Some(reference) = Reference::cut(picture, centre, self.options.pattern_px, &mut scratch) else {
                    continue;
                };
                let first = std::mem::replace(&mut live.reference, reference);
                match &mut live.birth {
                    None => live.birth = Some(Box::new((first, live.warp.shape))),
                    Some(birth) => birth.1 = live.warp.shape * birth.1,
                }
                if let Some(drift) = live.drift_px(picture, &mut scratch) {
                    self.tracks[live.track].drift_px = Some(drift);
                }
                (live.usual, live.base) = (None, covariance);
                live.best_correlation = 0.0;
                live.warp.shape = Matrix2::identity();
            }
            self.tracks[live.track].samples.push(Sample { frame, px: centre, covariance });
            self.live.push(live);
        }
    }

    /// Remembers where a feature ended, if it ended soon.
    fn spend(&mut self, live: &Live, motion: Vector2<f64>) {
        if self.tracks[live.track].samples.len() < SOON_FRAMES {
            self.spent.push((live.warp.centre.moved(motion), SPENT_FRAMES));
        }
    }

    /// Positions less certain than this are left out: what is left of a patch that lies on two surfaces, or
    /// whose light changes, grows long before its correlation says so. A plate of soft detail, on
    /// which all are uncertain, keeps its features.
    fn gate_px(&self, found: &[Option<Alignment>]) -> f64 {
        let mut sigmas: Vec<f64> = found.iter().flatten().map(|f| f.covariance.sigma_px()).collect();
        let stated = self.options.max_followed_sigma_px();
        if sigmas.is_empty() {
            return stated;
        }
        let middle = sigmas.len() / 2;
        stated.max(UNCERTAIN * *sigmas.select_nth_unstable_by(middle, f64::total_cmp).1)
    }

    fn refill(&mut self, frame: FrameNumber) {
        self.frames_since_refill = 0;
        let wanted = self.options.count.saturating_sub(self.live.len());
        let spent = self.spent.iter().map(|s| s.0);
        let followed: Vec<PlatePx> = self.live.iter().map(|l| l.warp.centre).chain(spent).collect();
        let picture = self.before.level(0);
        let noise = NOISE_LEFT * self.before.noise_level().max(0.3);
        let mut scratch = Scratch::default();
        let before = self.live.len();
        for candidate in detect::features(picture, noise, &self.detector, &followed, wanted) {
            let Some(reference) = Reference::cut(picture, candidate.px, self.options.pattern_px, &mut scratch) else {
                continue;
            };
            let sigma_px = f64::from(noise / candidate.strength.sqrt());
            let first = Sample { frame, px: candidate.px, covariance: Covariance::isotropic(sigma_px.max(0.01)) };
            let id = TrackId(self.tracks.len() as u32 + 1);
            self.live.push(Live {
                track: self.tracks.len(),
                warp: Warp { centre: candidate.px, shape: Matrix2::identity() },
                reference,
                usual: None,
                base: Covariance::isotropic(0.0),
                best_correlation: 0.0,
                velocity: None,
                birth: None,
                doubts: 0,
            });
            self.tracks.push(Track::new(id, TrackKind::Auto, vec![first]));
        }
        self.found_last = self.live.len() - before;
    }

    fn finish(self) -> Result<Vec<Track>, TrackError> {
        let mut tracks = self.tracks;
        tracks.retain(|t| t.samples.len() >= SHORTEST_FRAMES);
        if tracks.is_empty() {
            return Err(TrackError::NoFeatures);
        }
        for (index, track) in tracks.iter_mut().enumerate() {
            track.id = TrackId(index as u32 + 1);
        }
        Ok(tracks)
    }
}

fn needs_renewal(alignment: &Alignment, best_correlation: f64) -> bool {
    let singular = alignment.warp.shape.singular_values();
    let bent = singular[1] < 0.6 || singular[0] > 1.7;
    let lost = 1.0 - alignment.correlation > 2.0 * (1.0 - best_correlation) + RENEW_LOSS;
    lost || bent
}

/// Which places are taken, on a grid of the distance that counts as the same.
struct Occupied {
    cell_px: f64,
    places: std::collections::HashMap<(i32, i32), Vec<PlatePx>>,
}

impl Occupied {
    fn new(cell_px: f64) -> Self {
        Self { cell_px, places: Default::default() }
    }

    /// Takes the place unless another is nearer than one cell.
    fn claim(&mut self, px: PlatePx) -> bool {
        let (cx, cy) = ((px.x / self.cell_px).floor() as i32, (px.y / self.cell_px).floor() as i32);
        let near =
            |(x, y)| self.places.get(&(x, y)).is_some_and(|p| p.iter().any(|o| o.distance_px(px) < self.cell_px));
        let taken = (cx - 1..=cx + 1).flat_map(|x| (cy - 1..=cy + 1).map(move |y| (x, y))).any(near);
        if !taken {
            self.places.entry((cx, cy)).or_default().push(px);
        }
        !taken
    }
}
