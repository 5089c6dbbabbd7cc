//! What a solve and its pictures themselves say about the world, to be taken with one click: the ground and walls by
//! the landmarks, and which ways the set runs by straight edges ([`edges`]).
//!
//! Planes that many landmarks lie on are drawn from three neighbouring ones (RANSAC, Fischler and Bolles 1981) and
//! refitted to all that lie on them, the largest first. Which way is up is the habit of cameras: they are held upright
//! more often than not, and stand above the ground. The ground is the level plane with hardly anything below it; walls
//! stand upright on it, and the largest of them gives the heading; others that are square to it follow. Edges sharpen
//! that, and give the heading where there is no wall.
//!
//! A plane is sure where many landmarks that spread in two directions lie on it, and where it contradicts no larger
//! one; else it says that it is not.

pub mod edges;

use super::solved::{Solved, weighted_plane};
use super::statement::{Facing, Fact, Runs, Statement};
use super::{Stated, orient};
use crate::spaces::TrackId;
use crate::statistics::median;
use edges::{Directions, Pictured};
use nalgebra::{Matrix3, Vector3};

/// A fact that is proposed, and why.
#[derive(Clone, Debug, PartialEq)]
pub struct Proposal {
    /// The fact.
    pub fact: Fact,
    /// What speaks for it.
    pub evidence: Evidence,
    /// Whether it can be relied on.
    pub sure: bool,
}

/// What speaks for a proposal.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Evidence {
    /// Landmarks that lie on a plane.
    Landmarks {
        /// How many do.
        features: usize,
        /// Which share of all that are exact enough to tell.
        share: f64,
        /// How flat they are, root mean square, share of the scene's depth.
        rough_share: f64,
    },
    /// Edges of the pictures that run the same way.
    Edges {
        /// How many do, in all pictures that were looked at.
        edges: usize,
        /// Which share of the length of all.
        share: f64,
    },
}

/// Landmarks that are less exact than this share of their distance do not take part.
const EXACT_SHARE: f64 = 0.02;
/// Farther ones, in medians, do not either.
const FAR: f64 = 3.0;
/// Planes are as rough as this share of the depth.
const ROUGH_SHARE: f64 = 0.003;
/// Planes that are drawn, and how many of a landmark's neighbours are drawn from.
const DRAWS: usize = 900;
const NEIGHBOURS: usize = 24;
/// Most planes that are looked for, and what the smallest of them holds.
const MOST_PLANES: usize = 8;
const FEWEST: usize = 10;
const LEAST_SHARE: f64 = 0.025;
/// The ground may be off the camera's up by so much, degrees; walls off upright and off each other's square.
const GROUND_DEG: f64 = 30.0;
const WALL_DEG: f64 = 4.0;
/// A wall of few or rough landmarks is off by so much while edges that run along it are exact, degrees; what differs by
/// more is another direction.
const SAME_DEG: f64 = 12.0;
/// Hardly anything lies below the ground: this share of all.
const BELOW_SHARE: f64 = 0.06;
/// What makes one sure.
const SURE_FEATURES: usize = 20;
const SURE_WALL: usize = 14;
/// Its second extent is at least this share of its first.
const SURE_SPREAD: f64 = 0.12;
/// Of more walls the smaller are not proposed.
const MOST_WALLS: usize = 3;
/// Most features of a proposed plane.
const MOST_STATED: usize = 80;

struct Point {
    track: TrackId,
    at: Vector3<f64>,
    covariance: Matrix3<f64>,
}

struct Found {
    normal: Vector3<f64>,
    offset: f64,
    on: Vec<usize>,
}

/// Facts that the landmarks and the edges of some pictures propose: the ground, walls, then edges. Landmarks of a camera
/// that does not travel are directions and propose nothing. What is certain contradicts nothing that is stated already.
pub fn propose(solved: &Solved<'_>, pictures: &[Pictured], stated: &[Stated]) -> Vec<Proposal> {
    let seen = edges::directions(solved, pictures);
    let (mut out, agree) = planar(solved, seen.as_ref());
    let of_edges = seen.iter().flat_map(|seen| seen.proposals(solved));
    out.extend(of_edges.map(|p| Proposal {
        sure: p.sure
            && (if p.is_upright() {
                agree.up
            } else {
                agree.heading
            }),
        ..p
    }));
    agreeing(solved, stated, out)
}

impl Proposal {
    /// As it is stated.
    pub fn stated(&self) -> Statement {
        Statement {
            fact: self.fact.clone(),
            off: false,
        }
    }

    fn is_upright(&self) -> bool {
        matches!(self.fact, Fact::Edge { runs: Runs::Up, .. })
    }
}

/// Whether edges do not speak against what landmarks show.
#[derive(Clone, Copy)]
struct Agree {
    up: bool,
    heading: bool,
}

impl Agree {
    const BOTH: Self = Self {
        up: true,
        heading: true,
    };
}

/// Ground and walls by the landmarks, and whether edges agree with them. Edges are more exact than a wall of few landmarks;
/// but tiles are laid and patterns run at an angle to the walls at times, and there edges yield to the largest wall.
fn planar(solved: &Solved<'_>, seen: Option<&Directions>) -> (Vec<Proposal>, Agree) {
    let points = exact(solved);
    if !solved.travels || points.len() < 3 * FEWEST {
        return (Vec::new(), Agree::BOTH);
    }
    let planes = planes(&points, solved.depth);
    let by_edges = seen.filter(|s| s.sure[0]).map(|s| s.axes[0]);
    let held = by_edges.unwrap_or_else(|| solved.held_up());
    let ground = ground(solved, &points, &planes, &held);
    let up = ground.map_or(held, |at| {
        let normal = planes[at].normal;
        normal * normal.dot(&held).signum()
    });
    let mut out = Vec::new();
    let mut sure = false;
    if let Some(at) = ground {
        let tilt = angle_deg(&up, &solved.held_up());
        sure = is_sure(&points, &planes[at], SURE_FEATURES) && tilt < 0.7 * GROUND_DEG;
        out.push(proposal(
            solved,
            &points,
            &planes[at],
            ("ground", Facing::Ground),
            sure,
        ));
    }
    let agrees = !sure || by_edges.is_none_or(|up_too| angle_deg(&up, &up_too) < WALL_DEG);
    // What stands upright on an unsure ground is no surer, unless edges say which way is up.
    let (up, sure) = match by_edges {
        Some(by_edges) if !sure => (by_edges, true),
        _ => (up, sure),
    };
    let upright: Vec<&Found> = planes
        .iter()
        .filter(|plane| (angle_deg(&plane.normal, &up) - 90.0).abs() < WALL_DEG)
        .collect();
    let across = seen.map(|s| s.axes[2]);
    let along_wall = across
        .zip(upright.first())
        .is_none_or(|(across, wall)| are_square(&across, &wall.normal));
    let agree = Agree {
        up: agrees,
        heading: agrees && along_wall,
    };
    let led = seen.is_some_and(|s| s.sure[1]) && agree.heading;
    let across = across.filter(|_| led);
    out.extend(walls(solved, &points, &upright, (&up, sure), across));
    (out, agree)
}

/// Landmarks that are exact and near enough to tell of planes.
fn exact(solved: &Solved<'_>) -> Vec<Point> {
    let Some(eye) = solved.cameras.first().map(|c| c.eye.pose.centre()) else {
        return Vec::new();
    };
    let near = solved
        .landmarks
        .iter()
        .filter_map(|(track, place, covariance)| {
            let far = place.distance(eye);
            let covariance = *covariance.as_ref()?.matrix();
            let sigma = covariance.trace().max(0.0).sqrt();
            (far < FAR * solved.depth && sigma < EXACT_SHARE * far).then_some(Point {
                track: *track,
                at: place.0.coords,
                covariance,
            })
        });
    near.collect()
}

fn angle_deg(a: &Vector3<f64>, b: &Vector3<f64>) -> f64 {
    a.cross(b).norm().atan2(a.dot(b)).to_degrees()
}

/// Whether two directions are meant to be parallel or square to each other.
fn are_square(a: &Vector3<f64>, b: &Vector3<f64>) -> bool {
    let off = angle_deg(a, b);
    (off - 90.0 * (off / 90.0).round()).abs() < SAME_DEG
}

/// Which landmarks lie on a plane, of those that are left.
fn on_plane(
    points: &[Point],
    left: &[bool],
    normal: &Vector3<f64>,
    offset: f64,
    rough: f64,
) -> Vec<usize> {
    let is_on = |i: &usize| {
        let p = &points[*i];
        let variance = normal.dot(&(p.covariance * normal)) + rough * rough;
        left[*i] && (normal.dot(&p.at) - offset).powi(2) < 6.0 * variance
    };
    (0..points.len()).filter(is_on).collect()
}

/// Planes with many landmarks, the largest first; a landmark is on one of them only.
fn planes(points: &[Point], depth: f64) -> Vec<Found> {
    let rough = ROUGH_SHARE * depth;
    let neighbours: Vec<Vec<usize>> = points.iter().map(|p| nearest(points, p)).collect();
    let mut left = vec![true; points.len()];
    let mut random = fastrand::Rng::with_seed(17);
    let fewest = FEWEST.max((LEAST_SHARE * points.len() as f64) as usize);
    let mut out = Vec::new();
    while out.len() < MOST_PLANES {
        let alive: Vec<usize> = (0..points.len()).filter(|i| left[*i]).collect();
        if alive.len() < fewest {
            break;
        }
        let mut best: Option<Found> = None;
        for _ in 0..DRAWS {
            let first = alive[random.usize(..alive.len())];
            let near: Vec<usize> = neighbours[first]
                .iter()
                .copied()
                .filter(|n| left[*n])
                .collect();
            if near.len() < 2 {
                continue;
            }
            let [second, third] = [
                near[random.usize(..near.len())],
                near[random.usize(..near.len())],
            ];
            let normal = (points[second].at - points[first].at)
                .cross(&(points[third].at - points[first].at));
            let Some(normal) = normal.try_normalize(1e-9 * depth * depth) else {
                continue;
            };
            let offset = normal.dot(&points[first].at);
            let on = on_plane(points, &left, &normal, offset, rough);
            if on.len() > best.as_ref().map_or(0, |b| b.on.len()) {
                best = Some(Found { normal, offset, on });
            }
        }
        let Some(found) = best.map(|best| refitted(points, &left, best, rough)) else {
            break;
        };
        if found.on.len() < fewest {
            break;
        }
        found.on.iter().for_each(|i| left[*i] = false);
        out.push(found);
    }
    out
}

fn nearest(points: &[Point], to: &Point) -> Vec<usize> {
    let mut all: Vec<(f64, usize)> = points
        .iter()
        .enumerate()
        .filter(|(_, p)| p.track != to.track)
        .map(|(i, p)| ((p.at - to.at).norm_squared(), i))
        .collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    all.into_iter().take(NEIGHBOURS).map(|(_, i)| i).collect()
}

/// Fitted to all that lie on it, a few times.
fn refitted(points: &[Point], left: &[bool], mut found: Found, rough: f64) -> Found {
    for _ in 0..4 {
        // What is far is off by more, and tells less of where it lies.
        let weighed = found.on.iter().map(|i| {
            let p = &points[*i];
            let variance = found.normal.dot(&(p.covariance * found.normal)) + rough * rough;
            (p.at, 1.0 / variance)
        });
        let Some(plane) = weighted_plane(weighed) else {
            return found;
        };
        let offset = plane.normal.dot(&plane.middle);
        let on = on_plane(points, left, &plane.normal, offset, rough);
        if on.len() < found.on.len() / 2 {
            return found;
        }
        found = Found {
            normal: plane.normal,
            offset,
            on,
        };
    }
    found
}

/// The level plane below the cameras with the most landmarks, and hardly any below it.
fn ground(
    solved: &Solved<'_>,
    points: &[Point],
    planes: &[Found],
    held: &Vector3<f64>,
) -> Option<usize> {
    let is_ground = |plane: &Found| {
        let up = if plane.normal.dot(held) < 0.0 {
            -1.0
        } else {
            1.0
        };
        let height = |at: &Vector3<f64>| up * (plane.normal.dot(at) - plane.offset);
        let above = |c: &&super::Stand| height(&c.eye.pose.centre().0.coords) > 0.0;
        let below = points
            .iter()
            .filter(|p| height(&p.at) < -5.0 * ROUGH_SHARE * solved.depth);
        angle_deg(&(plane.normal * up), held) < GROUND_DEG
            && 10 * solved.cameras.iter().filter(above).count() > 9 * solved.cameras.len()
            && (below.count() as f64) < BELOW_SHARE * points.len() as f64
    };
    let level = (0..planes.len()).filter(|at| is_ground(&planes[*at]));
    level.max_by_key(|at| planes[*at].on.len())
}

/// Upright planes: `across` by edges gives the heading, else the largest; those square to it or parallel follow, others
/// face anywhere.
fn walls(
    solved: &Solved<'_>,
    points: &[Point],
    walls: &[&Found],
    (up, up_is_sure): (&Vector3<f64>, bool),
    across: Option<Vector3<f64>>,
) -> Vec<Proposal> {
    let Some(largest) = walls.first() else {
        return Vec::new();
    };
    let view = solved.cameras.first();
    let view = view.map_or_else(Vector3::z, |c| c.eye.pose.viewing_direction());
    let flat = |v: &Vector3<f64>| (v - up * up.dot(v)).try_normalize(1e-6);
    let leading = across.unwrap_or(largest.normal);
    let facing_us = flat(&view).is_some_and(|view| view.dot(&leading).abs() > 0.7072);
    let (own, other) = match facing_us {
        true => (Facing::Across, Facing::Along),
        false => (Facing::Along, Facing::Across),
    };
    // Which way it faces as seen from above: what it leans by says nothing of that.
    let level = |normal: &Vector3<f64>| flat(normal).unwrap_or(*normal);
    let first = level(&leading);
    let faces = |wall: &Found| {
        let cosine = level(&wall.normal).dot(&first).abs();
        let square = WALL_DEG.to_radians().sin();
        match () {
            () if cosine > WALL_DEG.to_radians().cos() => own,
            () if cosine < square => other,
            () => Facing::Wall,
        }
    };
    let numbered = walls.iter().take(MOST_WALLS).enumerate();
    numbered
        .map(|(k, wall)| {
            let name = match k {
                0 => "wall".to_owned(),
                _ => format!("wall {}", k + 1),
            };
            let sure = up_is_sure && is_sure(points, wall, SURE_WALL);
            let told = proposal(solved, points, wall, (&name, faces(wall)), sure);
            // Bushes and rows of things stand upright too.
            let flat = matches!(told.evidence, Evidence::Landmarks { rough_share, .. } if rough_share < ROUGH_SHARE);
            Proposal {
                sure: sure && flat,
                ..told
            }
        })
        .collect()
}

/// What is proposed for certain contradicts neither what is stated nor itself: of what does, the last, which has the fewest
/// features, is not certain.
fn agreeing(solved: &Solved<'_>, stated: &[Stated], mut all: Vec<Proposal>) -> Vec<Proposal> {
    // What contradicts itself already cannot be held against.
    let stated = match orient(solved, stated).contradicting().is_empty() {
        true => stated,
        false => &[],
    };
    let before = stated.iter().map(|s| s.0).max().unwrap_or(0);
    // Where nothing is stated the first stands, and what comes after it is held against it.
    let stands = before + u32::from(stated.is_empty());
    loop {
        let sure = (before + 1..).zip(&all).filter(|(_, p)| p.sure);
        let sure: Vec<Stated> = sure.map(|(id, p)| (id, p.stated())).collect();
        let contradicting = orient(solved, &[stated, &sure].concat()).contradicting();
        if contradicting.is_empty() {
            return all;
        }
        let named = contradicting.into_iter().filter(|id| *id > stands).max();
        let last = sure.iter().map(|(id, _)| *id).filter(|id| *id > stands);
        match named.or(last.max()) {
            Some(id) => all[(id - before) as usize - 1].sure = false,
            None => return all,
        }
    }
}

/// Whether so many landmarks lie on it, spread in two directions.
fn is_sure(points: &[Point], plane: &Found, fewest: usize) -> bool {
    let places: Vec<Vector3<f64>> = plane.on.iter().map(|i| points[*i].at).collect();
    let middle = places.iter().sum::<Vector3<f64>>() / places.len().max(1) as f64;
    let spread: Matrix3<f64> = places
        .iter()
        .map(|p| (p - middle) * (p - middle).transpose())
        .sum();
    let mut values: [f64; 3] = spread.symmetric_eigenvalues().into();
    values.sort_by(f64::total_cmp);
    places.len() >= fewest && values[1].max(0.0).sqrt() > SURE_SPREAD * values[2].max(0.0).sqrt()
}

fn proposal(
    solved: &Solved<'_>,
    points: &[Point],
    plane: &Found,
    (name, faces): (&str, Facing),
    sure: bool,
) -> Proposal {
    let off = |i: &usize| (plane.normal.dot(&points[*i].at) - plane.offset).abs();
    let mut sizes: Vec<f64> = plane.on.iter().map(off).collect();
    let stride = plane.on.len().div_ceil(MOST_STATED);
    let on = plane.on.iter().step_by(stride).map(|i| points[*i].track);
    Proposal {
        fact: Fact::Plane {
            name: name.to_owned(),
            faces,
            on: on.collect(),
        },
        evidence: Evidence::Landmarks {
            features: plane.on.len(),
            share: plane.on.len() as f64 / points.len() as f64,
            rough_share: 1.4826 * median(&mut sizes).unwrap_or(0.0) / solved.depth,
        },
        sure,
    }
}
