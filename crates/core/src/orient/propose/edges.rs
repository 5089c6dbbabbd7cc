//! Which ways the set runs, by the straight edges of some of its pictures.
//!
//! What is built runs up and in two level directions square to each other, and so do its edges. Edges of a few frames
//! ([`segments`](crate::photo::segments)), each with its eye a plane of the solve's world, are drawn in threes: two of
//! one direction and one of a second give three, and the draw along which most of the edges' length runs is the
//! frame of the set (RANSAC over a Manhattan frame; Coughlan and Yuille 1999), refined on all edges that run along it.
//! The camera's turn is known from the solve, so that edges of all frames are held against one frame of directions.
//!
//! A frame of directions is sure where its edges are clearly longer than what as many draws collect from the edges
//! of one picture turned at random: edges of several pictures are the same ones and no further evidence. Cameras
//! are held upright more often than not, so that one of the directions has to lie near the cameras' up.

use super::super::solved::Solved;
use super::super::statement::{Edge, Fact, Rail, Runs};
use super::{Evidence, Proposal};
use crate::camera::Eye;
use crate::photo::segments::{Segment, segments};
use crate::spaces::{FrameNumber, LensPoint, PlatePx};
use crate::track::picture::Plane;
use crate::track::{FrameError, FrameSource};
use nalgebra::{Matrix3, Rotation3, Vector3};

/// Straight edges of a frame, px of the plate as shot.
#[derive(Clone, Debug, PartialEq)]
pub struct Pictured {
    /// The frame.
    pub frame: FrameNumber,
    /// Its edges, the longest first.
    pub edges: Vec<Segment>,
}

/// Frames that are looked at.
const LOOKED_AT: usize = 5;
/// Pictures are halved until they are smaller: edges are as exact, and fewer.
const LONGEST_SIDE_PX: usize = 1400;
/// Edges shorter than this share of the diagonal are not looked at.
const LEAST_LENGTH: f64 = 0.035;
/// Most edges of a picture.
const MOST_OF_PICTURE: usize = 120;
/// An edge runs along a direction when its ends miss that by less, px of the picture that was looked at.
const MISS_PX: f64 = 1.2;
/// Rounds in which directions are refined, and the least that edges miss them by as a rule, in limits.
const ROUNDS: usize = 15;
const LEAST_USUAL: f64 = 0.05;
/// A direction that is seen end on says nothing of an edge, as a sine.
const END_ON: f64 = 0.08;
const DRAWS: usize = 4000;
/// Draws that are refined, and what edges miss a direction by as a rule, in limits.
const REFINED: usize = 24;
const USUAL: f64 = 0.25;
/// One of the directions is off the cameras' up by no more, degrees.
const HELD_DEG: f64 = 30.0;
/// The edges of a frame of directions are longer than by chance by this factor, and so are those of each direction.
const SURE_GAIN: f64 = 1.25;
/// So many edges of each picture run along a direction, at least.
const SURE_EDGES: f64 = 4.0;

/// The frames of which edges are worth looking for, spread over the shot.
pub fn worth_a_look(solved: &Solved<'_>) -> Vec<FrameNumber> {
    let last = solved.cameras.len().saturating_sub(1);
    let count = LOOKED_AT.min(solved.cameras.len());
    let spread = (0..count).map(|k| k * last / (count - 1).max(1));
    spread.map(|at| solved.cameras[at].frame).collect()
}

/// Edges of those frames of a plate; frames that it lacks are passed over.
pub fn pictured(solved: &Solved<'_>, plate: &dyn FrameSource) -> Result<Vec<Pictured>, FrameError> {
    let there = |frame: FrameNumber| plate.frames().iter().position(|own| *own == frame);
    let frames = worth_a_look(solved).into_iter();
    frames
        .filter_map(|frame| Some((frame, there(frame)?)))
        .map(|(frame, at)| {
            let edges = edges_of(&plate.grey(at)?);
            Ok(Pictured { frame, edges })
        })
        .collect()
}

/// Straight edges of a picture, px of it as it is.
pub fn edges_of(picture: &Plane) -> Vec<Segment> {
    if picture.width().max(picture.height()) > LONGEST_SIDE_PX {
        let whole = |p: PlatePx| PlatePx::new(2.0 * p.x, 2.0 * p.y);
        let half = edges_of(&picture.reduced()).into_iter();
        return half
            .map(|s| Segment {
                a: whole(s.a),
                b: whole(s.b),
                rms_px: 2.0 * s.rms_px,
            })
            .collect();
    }
    let diagonal = (picture.width() as f64).hypot(picture.height() as f64);
    let mut all = segments(picture, LEAST_LENGTH * diagonal);
    all.truncate(MOST_OF_PICTURE);
    all
}

/// An edge in the solve's world.
#[derive(Clone, Copy)]
struct Seen {
    picture: usize,
    rail: Rail,
    /// To its middle.
    middle: Vector3<f64>,
    /// Of the plane through it and its eye.
    normal: Vector3<f64>,
    /// Half its length, in limits of how far an end may miss a direction.
    half: f64,
}

/// Directions of a set.
pub struct Directions {
    /// Up, along (as nearly across the first picture as there is one), across: orthonormal, in the solve's world.
    pub axes: [Vector3<f64>; 3],
    /// Whether up is sure, and whether the heading is.
    pub sure: [bool; 2],
    families: [Family; 3],
}

/// Edges along a direction.
#[derive(Default)]
struct Family {
    edges: Vec<(Seen, f64)>,
    share: f64,
    sure: bool,
}

impl Seen {
    fn of(solved: &Solved<'_>, picture: usize, frame: FrameNumber, edge: &Segment) -> Option<Self> {
        let [a, b] = [edge.a, edge.b].map(|end| solved.ray(frame, end).ok());
        let (a, b) = (a?.direction, b?.direction);
        Some(Self {
            picture,
            rail: Rail {
                frame,
                a: edge.a,
                b: edge.b,
            },
            middle: (a + b).try_normalize(1e-9)?,
            normal: a.cross(&b).try_normalize(1e-9)?,
            half: 0.5 * edge.length_px(),
        })
    }

    /// By how much its ends miss a direction, signed, in limits; far where that is seen end on.
    fn miss(&self, direction: &Vector3<f64>) -> f64 {
        let beside = self.middle.cross(&self.normal).dot(direction);
        match beside.abs() < END_ON {
            true => f64::INFINITY,
            false => self.half * self.normal.dot(direction) / beside,
        }
    }

    /// Its rail as it lies when it runs along a direction truly.
    fn along(&self, solved: &Solved<'_>, direction: &Vector3<f64>) -> Option<Rail> {
        let frame = self.rail.frame;
        let Eye { lens, pose } = solved.cameras.iter().find(|c| c.frame == frame)?.eye;
        let normal = self.middle.cross(direction).try_normalize(1e-6)?;
        let moved = |px: PlatePx| {
            let ray = solved.ray(frame, px).ok()?.direction;
            let ray = ray - normal * normal.dot(&ray);
            let seen = LensPoint::of_camera_point(&(pose.camera_from_world.rotation * ray))?;
            Some(lens.plate_px(seen))
        };
        let [a, b] = [moved(self.rail.a)?, moved(self.rail.b)?];
        Some(Rail { frame, a, b })
    }

    /// Turned about its middle.
    fn turned(self, rad: f64) -> Self {
        let axis = nalgebra::Unit::new_unchecked(self.middle);
        let normal = Rotation3::from_axis_angle(&axis, rad) * self.normal;
        Self { normal, ..self }
    }

    /// Which of the directions it runs along, and by how much it misses it.
    fn family(&self, axes: &[Vector3<f64>; 3]) -> Option<(usize, f64)> {
        let misses = axes.iter().map(|axis| self.miss(axis)).enumerate();
        misses
            .filter(|(_, miss)| miss.abs() < 1.0)
            .min_by(|a, b| a.1.abs().total_cmp(&b.1.abs()))
    }
}

/// Directions of the set by the edges of some frames; none where nothing runs along any.
pub fn directions(solved: &Solved<'_>, pictures: &[Pictured]) -> Option<Directions> {
    let limit = |p: &Pictured| limit_px(solved, p.frame);
    let mut all: Vec<Seen> = Vec::new();
    for (picture, pictured) in pictures.iter().enumerate() {
        let miss_px = limit(pictured)?;
        let edges = pictured.edges.iter();
        let seen = edges.filter_map(|edge| Seen::of(solved, picture, pictured.frame, edge));
        all.extend(seen.map(|s| Seen {
            half: s.half / miss_px,
            ..s
        }));
    }
    let held = solved.held_up();
    let refined = drawn(&all, &held, 5)?.best.into_iter();
    let refined = refined.map(|axes| refined_on(&all, axes));
    let axes = refined.max_by(|a, b| truth(&all, a).total_cmp(&truth(&all, b)))?;
    // As many draws from the edges of one picture turned at random.
    let mut random = fastrand::Rng::with_seed(23);
    let chance = (0..pictures.len()).filter_map(|picture| {
        let own = all.iter().filter(|s| s.picture == picture);
        let turned: Vec<Seen> = own
            .map(|s| s.turned(std::f64::consts::PI * random.f64()))
            .collect();
        drawn(&turned, &held, 7 + picture as u64)
    });
    let shares: Vec<[f64; 2]> = chance.map(|d| [d.share, d.one]).collect();
    let typical = |k: usize| {
        let mut values: Vec<f64> = shares.iter().map(|s| s[k]).collect();
        crate::statistics::median(&mut values).unwrap_or(1.0)
    };
    let looks = solved.cameras.first()?.eye.pose.viewing_direction();
    Some(Directions::of(
        &all,
        named(axes, &held, &looks),
        [typical(0), typical(1)],
        pictures.len(),
    ))
}

/// How far an edge's ends may miss what it runs along, px of the plate.
fn limit_px(solved: &Solved<'_>, frame: FrameNumber) -> Option<f64> {
    let stand = solved.cameras.iter().find(|c| c.frame == frame)?;
    let longest = stand.eye.lens.width_px.max(stand.eye.lens.height_px) as usize;
    let halved = (0..).find(|k| longest >> k <= LONGEST_SIDE_PX)?;
    Some(MISS_PX * f64::from(1u32 << halved))
}

impl Directions {
    fn of(all: &[Seen], axes: [Vector3<f64>; 3], chance: [f64; 2], pictures: usize) -> Self {
        let total: f64 = all.iter().map(|s| s.half).sum();
        let mut families: [Family; 3] = Default::default();
        for seen in all {
            if let Some((k, miss)) = seen.family(&axes) {
                families[k].edges.push((*seen, miss));
                families[k].share += seen.half / total;
            }
        }
        let held: f64 = families.iter().map(|f| f.share).sum();
        for family in &mut families {
            let enough = family.edges.len() as f64 >= SURE_EDGES * pictures as f64;
            family.sure = held > SURE_GAIN * chance[0] && family.share > chance[1] && enough;
        }
        let sure = [families[0].sure, families[1].sure || families[2].sure];
        Self {
            axes,
            sure,
            families,
        }
    }

    /// Edges to be stated: of each direction two long ones that run along it most truly, moved onto it by what they miss
    /// it by, less than a px, so that they say what all edges of the direction say together.
    pub fn proposals(&self, solved: &Solved<'_>) -> Vec<Proposal> {
        let runs = [Runs::Up, Runs::Along, Runs::Across];
        let named = self.families.iter().zip(runs).zip(&self.axes);
        named
            .flat_map(|((family, runs), axis)| {
                let mut off: Vec<f64> = family.edges.iter().map(|(_, miss)| miss.abs()).collect();
                let typical = crate::statistics::median(&mut off).unwrap_or(0.0);
                let chosen = family.standing_for(typical).into_iter();
                chosen.filter_map(move |seen| {
                    let edge = Edge::Rail(seen.along(solved, axis)?);
                    Some(Proposal {
                        fact: Fact::Edge { edge, runs },
                        evidence: Evidence::Edges {
                            edges: family.edges.len(),
                            share: family.share,
                        },
                        sure: family.sure,
                    })
                })
            })
            .collect()
    }
}

impl Family {
    /// A long edge that misses the direction by less than is typical, and another whose plane crosses that of the first
    /// widely: the same edge once more, seen from nearly the same place, would leave the direction open.
    fn standing_for(&self, typical: f64) -> Vec<&Seen> {
        let true_ones = self.edges.iter().filter(|(_, m)| m.abs() <= 0.5 * typical);
        let all: Vec<&Seen> = true_ones.map(|(seen, _)| seen).collect();
        let longest = |a: &&&Seen, b: &&&Seen| a.half.total_cmp(&b.half);
        let Some(first) = all.iter().max_by(longest) else {
            return Vec::new();
        };
        let says = |seen: &Seen| seen.half * seen.normal.cross(&first.normal).norm();
        let second = all.iter().max_by(|a, b| says(a).total_cmp(&says(b)));
        let second = second.filter(|seen| says(seen) > 0.0);
        std::iter::once(first).chain(second).copied().collect()
    }
}

/// Directions that much of the length of edges runs along, the best first, with the shares that the best has by chance:
/// of all, and the largest of one direction.
struct Drawn {
    best: Vec<[Vector3<f64>; 3]>,
    share: f64,
    one: f64,
}

fn drawn(all: &[Seen], held: &Vector3<f64>, seed: u64) -> Option<Drawn> {
    if all.len() < 3 {
        return None;
    }
    let mut random = fastrand::Rng::with_seed(seed);
    let total: f64 = all.iter().map(|s| s.half).sum();
    let near_up = HELD_DEG.to_radians().cos();
    let mut found: Vec<(f64, [Vector3<f64>; 3])> = Vec::new();
    let (mut most, mut one) = (0.0f64, 0.0f64);
    for _ in 0..DRAWS {
        let mut pick = || all[random.usize(..all.len())].normal;
        let Some(first) = pick().cross(&pick()).try_normalize(0.02) else {
            continue;
        };
        let Some(second) = pick().cross(&first).try_normalize(0.02) else {
            continue;
        };
        let axes = [first, second, first.cross(&second)];
        if !axes.iter().any(|axis| axis.dot(held).abs() > near_up) {
            continue;
        }
        let mut shares = [0.0; 3];
        for seen in all {
            if let Some((k, _)) = seen.family(&axes) {
                shares[k] += seen.half / total;
            }
        }
        one = shares.iter().copied().fold(one, f64::max);
        most = most.max(shares.iter().sum());
        found.push((truth(all, &axes), axes));
    }
    found.sort_by(|a, b| b.0.total_cmp(&a.0));
    let best = found.into_iter().take(REFINED).map(|(_, axes)| axes);
    Some(Drawn {
        best: best.collect(),
        share: most,
        one,
    })
}

/// How much of the edges' length runs along directions, less where it misses them by more (Torr and Zisserman 2000).
fn truth(all: &[Seen], axes: &[Vector3<f64>; 3]) -> f64 {
    let along = all.iter().filter_map(|s| Some((s, s.family(axes)?.1)));
    along
        .map(|(seen, miss)| seen.half / (1.0 + (miss / USUAL).powi(2)))
        .sum()
}

/// Turned to where the edges that run along them miss them least (Gauss-Newton over the turn). What misses by more than
/// is usual hardly counts (Geman and McClure 1987): among many edges that run anyhow some nearly run along.
fn refined_on(all: &[Seen], mut axes: [Vector3<f64>; 3]) -> [Vector3<f64>; 3] {
    for _ in 0..ROUNDS {
        let along: Vec<(&Seen, usize, f64)> = all
            .iter()
            .filter_map(|seen| seen.family(&axes).map(|(k, miss)| (seen, k, miss)))
            .collect();
        let mut sizes: Vec<f64> = along.iter().map(|(.., miss)| miss.abs()).collect();
        let usual = crate::statistics::median(&mut sizes).unwrap_or(1.0);
        let usual = (1.4826 * usual).max(LEAST_USUAL);
        let (mut normal, mut right) = (Matrix3::identity() * 1e-9, Vector3::zeros());
        for (seen, k, miss) in along {
            let weight = (1.0 + (miss / usual).powi(2)).powi(-2);
            let beside = seen.middle.cross(&seen.normal).dot(&axes[k]);
            let slope = axes[k].cross(&seen.normal) * (seen.half / beside);
            normal += slope * slope.transpose() * weight;
            right -= slope * (weight * miss);
        }
        let Some(inverse) = normal.try_inverse() else {
            break;
        };
        let turn = Rotation3::from_scaled_axis(inverse * right);
        axes = axes.map(|axis| turn * axis);
    }
    axes
}

/// Up, along and across: the one nearest to the cameras' up, then the one that runs across the first picture.
fn named(axes: [Vector3<f64>; 3], held: &Vector3<f64>, looks: &Vector3<f64>) -> [Vector3<f64>; 3] {
    let upright = |v: &Vector3<f64>| v.dot(held).abs();
    let mut order = [0, 1, 2];
    order.sort_by(|a, b| upright(&axes[*b]).total_cmp(&upright(&axes[*a])));
    let up = axes[order[0]] * axes[order[0]].dot(held).signum();
    let level = [axes[order[1]], axes[order[2]]];
    let deep = usize::from(level[1].dot(looks).abs() > level[0].dot(looks).abs());
    [up, level[1 - deep], level[deep]]
}
