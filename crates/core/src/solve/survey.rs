//! Landmarks whose places were measured on the set.
//!
//! Three of them or more, not on a line, say where the world stands, how it is turned and how large it is, in
//! metres. The solved world is brought to where most of them agree it belongs (least median of squares over
//! samples of three, Rousseeuw 1984, then Umeyama 1991); those that disagree, as one that was taken for
//! another, take no part and are named. The others pull in the adjustment with what their standard errors
//! weigh, also those of which only some coordinates were measured, as the height of a floor.

use super::SolveOptions;
use super::believed::Measured;
use super::bundle::beliefs::HOLDING;
use super::views::{Seen, Views};
use super::world::World;
use crate::camera::{Eye, Similarity};
use crate::spaces::{TrackId, WorldPoint};
use crate::statistics::median;
use nalgebra::{Matrix3, Vector3};
use serde::{Deserialize, Serialize};
use std::collections::HashSet;

/// A track whose landmark was measured.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Surveyed {
    /// The track.
    pub track: TrackId,
    /// Its place, m, y up; `None` for a coordinate that was not measured.
    pub at_m: [Option<f64>; 3],
    /// One standard error of each, m.
    pub sigma_m: [f64; 3],
}

/// What a surveyed landmark came to.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct SurveyMiss {
    /// The track.
    pub track: TrackId,
    /// Solved less measured, m; 0 where it was not measured.
    pub off_m: [f64; 3],
    /// One standard error of the measurement, m, the largest of its coordinates.
    pub sigma_m: f64,
    /// Whether it took part; one that contradicts the others does not.
    pub used: bool,
}

impl SurveyMiss {
    /// How far off it is, m.
    pub fn distance_m(&self) -> f64 {
        Vector3::from(self.off_m).norm()
    }
}

/// Why surveyed points hold nothing.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum NoHold {
    /// The camera does not travel, so that there are no places.
    NoPlaces,
    /// Fewer than three landmarks were measured in all coordinates.
    TooFew,
    /// They lie on a line.
    OnALine,
    /// No three agree with the rest on one world.
    NoAgreement,
}

impl Surveyed {
    fn is_whole(&self) -> bool {
        self.at_m.iter().all(Option::is_some)
    }

    fn place(&self) -> Vector3<f64> {
        Vector3::from(self.at_m.map(|c| c.unwrap_or(0.0)))
    }

    fn precision(&self) -> Vector3<f64> {
        let one = |k: usize| self.at_m[k].map_or(0.0, |_| 1.0 / self.sigma_m[k]);
        Vector3::new(one(0), one(1), one(2))
    }

    /// Whether its numbers make sense.
    pub fn is_possible(&self) -> bool {
        let near = |c: &f64| c.abs() <= MOST_M;
        self.at_m.iter().flatten().all(near)
            && self.at_m.iter().any(Option::is_some)
            && self.sigma_m.iter().all(|s| SIGMAS_M.contains(s))
    }
}

/// Surveyed places lie within so many m of their origin.
pub const MOST_M: f64 = 1e6;
/// Standard errors of a survey that are possible, m.
pub const SIGMAS_M: std::ops::RangeInclusive<f64> = 1e-6..=1e4;
/// Samples of three that are looked at.
const SAMPLES: usize = 300;
/// Points off their line by less than this share of their length lie on it.
const ON_A_LINE: f64 = 0.02;
/// A point belongs where it is off by less than so many standard errors of its own ...
const BELONGING: f64 = 4.0;
/// ... or by less than so many times the median of all: the solve has errors too.
const AS_OTHERS: f64 = 4.0;
/// A point is seen where it was measured where it is off by this, px at 1280, besides its own error.
const SEEN_PX: f64 = 1.5;
/// Points agree on a world where each is off by less than this share of their span.
const SAME_SHAPE: f64 = 0.1;

/// Brings a world to where its surveyed landmarks were measured and lets them pull.
pub fn anchor(views: &Views, options: &SolveOptions, world: &mut World) -> Result<(), NoHold> {
    if world.motion.is_on_the_spot() {
        return Err(NoHold::NoPlaces);
    }
    let solved = solved(views, options, world);
    let whole: Vec<Pair> = solved
        .iter()
        .filter(|p| p.surveyed.is_whole())
        .copied()
        .collect();
    if whole.len() < HOLDING {
        return Err(NoHold::TooFew);
    }
    if is_on_a_line(&whole) {
        return Err(NoHold::OnALine);
    }
    let (change, limit) = agreed(&whole).ok_or(NoHold::NoAgreement)?;
    if limit > SAME_SHAPE * span(&whole) {
        return Err(NoHold::NoAgreement);
    }
    let belongs = |p: &&Pair| p.is_within(&change, limit);
    let fitting: Vec<Pair> = whole.iter().filter(belongs).copied().collect();
    if fitting.len() < HOLDING || is_on_a_line(&fitting) {
        return Err(NoHold::NoAgreement);
    }
    let change = fitted(&fitting).ok_or(NoHold::NoAgreement)?;
    world.changed(&change);
    let partly = |p: &&Pair| !p.surveyed.is_whole();
    let kept = fitting.iter().chain(solved.iter().filter(partly));
    world.believed.surveyed = kept.map(Pair::measured).collect();
    world.believed.surveyed.sort_by_key(|m| m.track);
    Ok(())
}

/// Takes in what seemed to contradict the others and is seen where it was measured: a landmark of nearly
/// parallel rays is far off along them, and no contradiction. For a world that was anchored and adjusted.
pub fn hear_again(views: &Views, options: &SolveOptions, world: &mut World) {
    let known: HashSet<usize> = world.believed.surveyed.iter().map(|m| m.track).collect();
    let unheard = solved(views, options, world).into_iter();
    let unheard = unheard.filter(|p| !known.contains(&p.track));
    let seen: Vec<Measured> = unheard
        .filter(|p| is_seen_there(views, world, p))
        .map(|p| p.measured())
        .collect();
    world.believed.surveyed.extend(seen);
    world.believed.surveyed.sort_by_key(|m| m.track);
}

/// Whether cameras see a point where it was measured.
fn is_seen_there(views: &Views, world: &World, pair: &Pair) -> bool {
    let rows = world.row_cameras(views);
    let place = WorldPoint(pair.surveyed.place().into());
    let own_m = pair.surveyed.sigma_m.into_iter().fold(0.0, f64::max);
    let miss = |s: &Seen| {
        let Eye { lens, pose } = rows.at(s.frame, s.px.y)?;
        let off_px = lens
            .project(&pose, &place)
            .map_or(f64::INFINITY, |px| px.distance_px(s.px));
        let allowed_px = lens.focal_px * BELONGING * own_m / pose.centre().distance(place);
        Some((off_px / (SEEN_PX * views.px_scale + allowed_px)).powi(2))
    };
    let misses: Vec<f64> = views.seen[pair.track].iter().filter_map(miss).collect();
    misses.iter().sum::<f64>() <= misses.len() as f64
}

/// What the surveyed landmarks of an anchored world miss.
pub fn misses(views: &Views, options: &SolveOptions, world: &World) -> Vec<SurveyMiss> {
    let miss = |pair: &Pair| {
        let measured = pair.measured();
        let off = (pair.at - measured.at).zip_map(&measured.precision, |off, precision| {
            if precision > 0.0 { off } else { 0.0 }
        });
        let used = world
            .believed
            .surveyed
            .iter()
            .any(|m| m.track == pair.track);
        SurveyMiss {
            track: pair.surveyed.track,
            off_m: off.into(),
            sigma_m: pair.surveyed.sigma_m.into_iter().fold(0.0, f64::max),
            used,
        }
    };
    solved(views, options, world).iter().map(miss).collect()
}

/// A surveyed landmark as it is solved.
#[derive(Clone, Copy)]
struct Pair {
    track: usize,
    at: Vector3<f64>,
    surveyed: Surveyed,
}

impl Pair {
    fn measured(&self) -> Measured {
        Measured {
            track: self.track,
            at: self.surveyed.place(),
            precision: self.surveyed.precision(),
        }
    }

    fn off(&self, change: &Similarity) -> f64 {
        let moved = change.point(&WorldPoint(self.at.into()));
        (moved.0.coords - self.surveyed.place()).norm()
    }

    fn is_within(&self, change: &Similarity, limit: f64) -> bool {
        let own = self.surveyed.sigma_m.into_iter().fold(0.0, f64::max);
        self.off(change) <= limit.max(BELONGING * own)
    }
}

fn solved(views: &Views, options: &SolveOptions, world: &World) -> Vec<Pair> {
    let pair = |surveyed: &Surveyed| {
        let track = views.tracks.iter().position(|id| *id == surveyed.track)?;
        Some(Pair {
            track,
            at: world.points[track]?,
            surveyed: *surveyed,
        })
    };
    options.survey.iter().filter_map(pair).collect()
}

fn is_on_a_line(pairs: &[Pair]) -> bool {
    let mean: Vector3<f64> = pairs
        .iter()
        .map(|p| p.surveyed.place())
        .sum::<Vector3<f64>>()
        / pairs.len() as f64;
    let scatter: Matrix3<f64> = pairs
        .iter()
        .map(|p| p.surveyed.place() - mean)
        .map(|d| d * d.transpose())
        .sum();
    let mut spread: Vec<f64> = scatter.symmetric_eigenvalues().iter().copied().collect();
    spread.sort_by(f64::total_cmp);
    spread[1].max(0.0).sqrt() <= ON_A_LINE * spread[2].max(0.0).sqrt()
}

/// The greatest distance from the first.
fn span(pairs: &[Pair]) -> f64 {
    let place = |k: usize| pairs[k].surveyed.place();
    (1..pairs.len())
        .map(|k| (place(k) - place(0)).norm())
        .fold(0.0, f64::max)
}

fn fitted(pairs: &[Pair]) -> Option<Similarity> {
    let from: Vec<WorldPoint> = pairs.iter().map(|p| WorldPoint(p.at.into())).collect();
    let to = pairs.iter().map(|p| WorldPoint(p.surveyed.place().into()));
    Similarity::fitting(&from, &to.collect::<Vec<_>>())
}

/// The change of world on which most agree, and how far off one may be that does.
fn agreed(pairs: &[Pair]) -> Option<(Similarity, f64)> {
    if pairs.len() == HOLDING {
        // Their distances alone can contradict each other.
        return Some((fitted(pairs)?, SAME_SHAPE * span(pairs)));
    }
    let mut random = fastrand::Rng::with_seed(pairs.len() as u64);
    let mut best: Option<(f64, Similarity)> = None;
    for _ in 0..SAMPLES {
        let three = random.choose_multiple(pairs.iter().copied(), HOLDING);
        if is_on_a_line(&three) {
            continue;
        }
        let Some(change) = fitted(&three) else {
            continue;
        };
        let mut off: Vec<f64> = pairs.iter().map(|p| p.off(&change)).collect();
        let Some(middle) = median(&mut off) else {
            continue;
        };
        if best.as_ref().is_none_or(|(least, _)| middle < *least) {
            best = Some((middle, change));
        }
    }
    best.map(|(middle, change)| (change, AS_OTHERS * middle))
}
