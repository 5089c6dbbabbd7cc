//! What is known of several landmarks together: lengths between two of them, and groups that lie on one plane,
//! as on a wall or a floor.
//!
//! They pull in the last adjustment with what their standard errors weigh ([`super::bundle::ties`]). Lengths are in
//! metres and the solved world is not: as many units are taken for a metre as the lengths say together, so that
//! one length alone says nothing but that, and several say where the world is bent. Where a survey holds the world
//! its metres count. Constraints with which the picture fits much worse contradict it and are left out, all of them.

use super::bundle::{Flat, Length, Loss, Ties};
use super::views::Views;
use super::world::World;
use super::{SolveOptions, stated};
use crate::progress::Progress;
use crate::spaces::TrackId;
use nalgebra::Vector3;
use serde::{Deserialize, Serialize};

/// What is known of several landmarks together.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Constraints {
    /// Lengths.
    pub lengths: Vec<KnownLength>,
    /// Planes.
    pub planes: Vec<KnownPlane>,
}

/// A length that was measured between the landmarks of two tracks.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct KnownLength {
    /// The tracks.
    pub between: [TrackId; 2],
    /// The length, m.
    pub length_m: f64,
    /// Its standard error, m.
    pub sigma_m: f64,
}

/// Tracks whose landmarks lie on one plane, wherever that is.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct KnownPlane {
    /// The tracks.
    pub tracks: Vec<TrackId>,
    /// One standard error of how far they are off it, m.
    pub sigma_m: f64,
}

/// What a constraint came to.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct ConstraintMiss {
    /// The tracks that it was stated of: two of a length, more of a plane.
    pub tracks: Vec<TrackId>,
    /// Of a length solved less stated, of a plane the root mean square off it, m.
    pub off_m: f64,
    /// What was stated as its standard error, m.
    pub sigma_m: f64,
    /// Whether it took part.
    pub used: bool,
}

impl ConstraintMiss {
    /// How far off it is in standard errors.
    pub fn errors(&self) -> f64 {
        self.off_m.abs() / self.sigma_m
    }
}

/// Lengths and their errors lie within these bounds, m.
pub const LENGTHS_M: std::ops::RangeInclusive<f64> = 1e-6..=1e6;
/// Fewer points always lie on a plane.
pub const FEWEST_ON_A_PLANE: usize = 4;
/// The picture says more than constraints with which landmarks miss it by so many times as much, and so much
/// more, px at 1280.
const MISSING: f64 = 1.5;
const SLACK_PX: f64 = 0.1;
/// Steps of an adjustment under them.
const STEPS: usize = 12;

impl Constraints {
    /// Whether there are none.
    pub fn is_empty(&self) -> bool {
        self.lengths.is_empty() && self.planes.is_empty()
    }

    /// A number that makes no sense.
    pub fn impossible(&self) -> Option<f64> {
        let lengths = self.lengths.iter().flat_map(|l| [l.length_m, l.sigma_m]);
        let planes = self.planes.iter().map(|p| p.sigma_m);
        let mut all = lengths.chain(planes);
        all.find(|metres| !LENGTHS_M.contains(metres))
    }
}

/// Ties by index of track, in the units of the world that they are of.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
pub struct Tied {
    /// Tracks, length and standard error.
    pub lengths: Vec<([usize; 2], f64, f64)>,
    /// Tracks and standard error.
    pub planes: Vec<(Vec<usize>, f64)>,
}

impl Tied {
    /// The same in a world whose units are so many of this one's.
    pub fn in_units(&mut self, units: f64) {
        for (_, length, sigma) in &mut self.lengths {
            *length /= units;
            *sigma /= units;
        }
        self.planes
            .iter_mut()
            .for_each(|(_, sigma)| *sigma /= units);
    }

    /// As ties of the points that are these tracks', ascending.
    pub fn ties(&self, points: &[usize]) -> Ties {
        let point = |track: &usize| Some(points.binary_search(track).ok()? as u32);
        let length = |([one, other], length, sigma): &([usize; 2], f64, f64)| {
            Some(Length {
                points: [point(one)?, point(other)?],
                length: *length,
                sigma: *sigma,
            })
        };
        let flat = |(tracks, sigma): &(Vec<usize>, f64)| {
            let points: Vec<u32> = tracks.iter().filter_map(point).collect();
            (points.len() >= FEWEST_ON_A_PLANE).then_some(Flat {
                points,
                sigma: *sigma,
            })
        };
        Ties {
            lengths: self.lengths.iter().filter_map(length).collect(),
            flats: self.planes.iter().filter_map(flat).collect(),
        }
    }
}

/// Lets constraints pull, where picture and constraints do not contradict each other.
pub fn hold(
    views: &Views,
    options: &SolveOptions,
    world: &mut World,
    loss: Loss,
    progress: &dyn Progress,
) {
    if options.constraints.is_empty() || world.motion.is_on_the_spot() {
        return;
    }
    let mut held = world.clone();
    held.believed.tied = tied(views, options, world);
    held.adjust(views, loss, (STEPS, 1e-4), progress);
    if held.rms_px(views) <= MISSING * world.rms_px(views) + SLACK_PX * views.px_scale {
        *world = held;
    }
}

/// What is missed of the constraints of a world, as far as their landmarks are solved.
pub fn misses(views: &Views, options: &SolveOptions, world: &World) -> Vec<ConstraintMiss> {
    if world.motion.is_on_the_spot() {
        return Vec::new();
    }
    let units = units_per_metre(views, options, world);
    let used = world.believed.tied != Tied::default();
    let of_length = |([one, other], known): ([usize; 2], KnownLength)| {
        let (p, q) = world.points[one].zip(world.points[other])?;
        Some(ConstraintMiss {
            tracks: known.between.to_vec(),
            off_m: (q - p).norm() / units - known.length_m,
            sigma_m: known.sigma_m,
            used,
        })
    };
    let of_plane = |known: &KnownPlane| {
        let solved = known.tracks.iter().filter_map(|t| solved(views, world, *t));
        let places: Vec<Vector3<f64>> = solved.filter_map(|t| world.points[t]).collect();
        let flat = Flat {
            points: (0..places.len() as u32).collect(),
            sigma: known.sigma_m * units,
        };
        (places.len() >= FEWEST_ON_A_PLANE).then(|| ConstraintMiss {
            tracks: known.tracks.clone(),
            off_m: flat.off_rms(&places) / units,
            sigma_m: known.sigma_m,
            used,
        })
    };
    let lengths = lengths(views, options, world).filter_map(of_length);
    lengths
        .chain(options.constraints.planes.iter().filter_map(of_plane))
        .collect()
}

/// Constraints of landmarks that are solved, in the units of the world.
fn tied(views: &Views, options: &SolveOptions, world: &World) -> Tied {
    let units = units_per_metre(views, options, world);
    let planes = options.constraints.planes.iter().filter_map(|plane| {
        let tracks: Vec<usize> = plane
            .tracks
            .iter()
            .filter_map(|t| solved(views, world, *t))
            .collect();
        (tracks.len() >= FEWEST_ON_A_PLANE).then_some((tracks, plane.sigma_m * units))
    });
    Tied {
        lengths: lengths(views, options, world)
            .map(|(tracks, known)| (tracks, known.length_m * units, known.sigma_m * units))
            .collect(),
        planes: planes.collect(),
    }
}

/// The index of a track that has a landmark.
fn solved(views: &Views, world: &World, track: TrackId) -> Option<usize> {
    let at = views.tracks.iter().position(|id| *id == track)?;
    world.points[at].map(|_| at)
}

/// Lengths between landmarks that are solved.
fn lengths<'a>(
    views: &'a Views,
    options: &'a SolveOptions,
    world: &'a World,
) -> impl Iterator<Item = ([usize; 2], KnownLength)> + 'a {
    options.constraints.lengths.iter().filter_map(|known| {
        let [one, other] = known.between.map(|track| solved(views, world, track));
        Some(([one?, other?], *known))
    })
}

/// How many units of the world are a metre: as a survey has it, else as lengths say together, else one of the
/// world that is handed on.
fn units_per_metre(views: &Views, options: &SolveOptions, world: &World) -> f64 {
    if !world.believed.surveyed.is_empty() {
        return 1.0;
    }
    let (mut solved, mut stated) = (0.0, 0.0);
    for ([one, other], known) in lengths(views, options, world) {
        let Some((p, q)) = world.points[one].zip(world.points[other]) else {
            continue;
        };
        let weight = known.length_m / known.sigma_m.powi(2);
        solved += weight * (q - p).norm();
        stated += weight * known.length_m;
    }
    match stated > 0.0 && solved > 0.0 {
        true => solved / stated,
        false => 1.0 / stated::gauge(views, world).scale,
    }
}
