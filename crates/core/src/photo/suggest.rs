//! Rails that the picture itself offers.
//!
//! Straight edges ([`segments`](super::segments)) are sorted into three perpendicular
//! families. Four edges, two and two, give two vanishing points and with them a focal
//! length and the third direction; draws are scored by the length of the edges that point at
//! any of the three within [`FAMILY_MISS_PX`] (RANSAC over a Manhattan frame; Coughlan and
//! Yuille 1999 for the frame, Mirzaei and Roumeliotis 2011 for draws from few lines). The best
//! frames are refined on their edges by [`perspective`](super::perspective).
//!
//! Nothing is offered unless two families of at least four edges hold well over the length
//! that the same number of draws collects by chance.

use super::perspective::{Evidence, Eye, PhotoOptions, solve};
use super::rails::{Axis, Rail};
use super::segments::{Segment, segments};
use crate::track::picture::Plane;
use nalgebra::{Matrix3, Rotation3, UnitQuaternion, Vector3};

/// An edge belongs to a family when it misses its vanishing point by less, px.
pub const FAMILY_MISS_PX: f64 = 1.0;
/// Edges shorter than this share of the diagonal are not looked at.
const LEAST_LENGTH: f64 = 0.03;
const DRAWS: usize = 6000;
/// Families smaller than this are not offered.
const LEAST_FAMILY: usize = 4;
/// Share of the length of all edges that the families have to hold.
const LEAST_SHARE: f64 = 0.45;
/// At most this many rails of a family are offered, longest first.
const MOST_OF_FAMILY: usize = 12;

/// Rails along straight edges in up to three perpendicular families; none where the picture
/// has no such structure.
pub fn suggest(picture: &Plane, focal_px: Option<f64>) -> Vec<Rail> {
    let diagonal = (picture.width() as f64).hypot(picture.height() as f64);
    let edges = segments(picture, LEAST_LENGTH * diagonal);
    if edges.len() < 2 * LEAST_FAMILY {
        return Vec::new();
    }
    let frame = Frame { edges: &edges, width_px: picture.width() as u32, height_px: picture.height() as u32, focal_px };
    let Some(rails) = frame.best() else { return Vec::new() };
    offered(rails)
}

fn offered(mut rails: Vec<Rail>) -> Vec<Rail> {
    rails.sort_by(|a, b| b.length_px().total_cmp(&a.length_px()));
    let mut counts = [0usize; 3];
    rails.retain(|r| {
        counts[r.axis.index()] += 1;
        counts[r.axis.index()] <= MOST_OF_FAMILY
    });
    rails.sort_by_key(|r| r.axis);
    rails
}

struct Frame<'a> {
    edges: &'a [Segment],
    width_px: u32,
    height_px: u32,
    focal_px: Option<f64>,
}

impl Frame<'_> {
    fn evidence<'r>(&self, rails: &'r [Rail]) -> Evidence<'r> {
        Evidence {
            rails,
            width_px: self.width_px,
            height_px: self.height_px,
            focal_px: self.focal_px,
            free_centre: false,
        }
    }

    fn best(&self) -> Option<Vec<Rail>> {
        let total: f64 = self.edges.iter().map(Segment::length_px).sum();
        let mut random = fastrand::Rng::with_seed(0x5eed);
        let mut drawn: Vec<(f64, Eye)> = (0..DRAWS)
            .filter_map(|_| self.draw(&mut random))
            .map(|eye| (self.score(&eye, 2.0 * FAMILY_MISS_PX), eye))
            .collect();
        drawn.sort_by(|a, b| b.0.total_cmp(&a.0));
        let refined = drawn.iter().take(12).filter_map(|(_, eye)| self.refined(eye));
        let (held, rails) = refined.max_by(|a, b| a.0.total_cmp(&b.0))?;
        let families = Axis::ALL.map(|a| rails.iter().filter(|r| r.axis == a).count());
        let two = families.iter().filter(|c| **c >= LEAST_FAMILY).count() >= 2;
        (two && held >= LEAST_SHARE * total).then_some(rails)
    }

    /// A frame from four edges drawn by their length.
    fn draw(&self, random: &mut fastrand::Rng) -> Option<Eye> {
        let mut pick = || {
            let skewed = random.f64() * random.f64();
            &self.edges[(skewed * self.edges.len() as f64) as usize]
        };
        let crossing = |one: &Segment, other: &Segment| {
            let v = one.rail(Axis::X).line().cross(&other.rail(Axis::X).line());
            (v.norm() > 1e-9).then_some(v)
        };
        let (first, second) = (crossing(pick(), pick())?, crossing(pick(), pick())?);
        let middle = (0.5 * f64::from(self.width_px), 0.5 * f64::from(self.height_px));
        let centred = |v: Vector3<f64>| Vector3::new(v.x - middle.0 * v.z, v.y - middle.1 * v.z, v.z);
        let (p, q) = (centred(first), centred(second));
        let width = f64::from(self.width_px);
        let focal_px = match self.focal_px {
            Some(focal_px) => focal_px,
            None => {
                // p and q are perpendicular: p.x q.x + p.y q.y + f² p.w q.w = 0.
                let squared = -(p.x * q.x + p.y * q.y) / (p.z * q.z);
                (squared > 0.0).then(|| squared.sqrt())?
            }
        };
        if !(0.3 * width..6.0 * width).contains(&focal_px) {
            return None;
        }
        let direction = |v: Vector3<f64>| Vector3::new(v.x, -v.y, -focal_px * v.z).normalize();
        Some(named(direction(p), direction(q), focal_px, self))
    }

    /// Length of the edges that point at an axis.
    fn score(&self, eye: &Eye, miss_px: f64) -> f64 {
        self.edges.iter().filter(|e| self.family(eye, e, miss_px).is_some()).map(|e| e.length_px()).sum()
    }

    fn family(&self, eye: &Eye, edge: &Segment, miss_px: f64) -> Option<Axis> {
        let rail = edge.rail(Axis::X);
        Axis::ALL
            .into_iter()
            .map(|axis| (axis, rail.miss_px(&eye.vanishing(&axis.unit())).abs()))
            .filter(|(_, miss)| *miss < miss_px)
            .min_by(|a, b| a.1.total_cmp(&b.1))
            .map(|(axis, _)| axis)
    }

    fn members(&self, eye: &Eye, miss_px: f64) -> Vec<Rail> {
        self.edges.iter().filter_map(|e| Some(e.rail(self.family(eye, e, miss_px)?))).collect()
    }

    /// Refined on its members, which are then chosen anew, narrower each time.
    fn refined(&self, eye: &Eye) -> Option<(f64, Vec<Rail>)> {
        let mut eye = *eye;
        for miss_px in [2.0 * FAMILY_MISS_PX, 1.5 * FAMILY_MISS_PX, FAMILY_MISS_PX, FAMILY_MISS_PX] {
            let members = self.members(&eye, miss_px);
            if members.len() < 5 {
                return None;
            }
            eye = self.evidence(&members).refined(&eye).0;
        }
        let mut members = self.members(&eye, FAMILY_MISS_PX);
        for axis in Axis::ALL {
            if members.iter().filter(|r| r.axis == axis).count() < LEAST_FAMILY {
                members.retain(|r| r.axis != axis);
            }
        }
        // What is offered has to stand by itself, without the frame that found it.
        let options = PhotoOptions { focal_px: self.focal_px, ..PhotoOptions::default() };
        for _ in 0..4 {
            let alone = solve(self.width_px, self.height_px, &members, &options).ok()?;
            let before = members.len();
            let mut misses = alone.miss_px.iter();
            members.retain(|_| misses.next().is_some_and(|m| m.abs() < FAMILY_MISS_PX));
            if members.len() == before {
                break;
            }
        }
        let held = members.iter().map(Rail::length_px).sum();
        Some((held, members))
    }
}

/// The frame of two perpendicular directions, its axes named: Y is the one most upright in the
/// picture, X the one most across of the others.
fn named(p: Vector3<f64>, q: Vector3<f64>, focal_px: f64, frame: &Frame) -> Eye {
    let third = p.cross(&q).normalize();
    let second = third.cross(&p).normalize();
    let mut axes = vec![p, second, third];
    let upright = (0..3).max_by(|a, b| axes[*a].y.abs().total_cmp(&axes[*b].y.abs())).unwrap_or(0);
    let y = axes.remove(upright);
    let across = usize::from(axes[1].x.abs() > axes[0].x.abs());
    let x = axes.remove(across);
    let (x, y) = (if x.x < 0.0 { -x } else { x }, if y.y < 0.0 { -y } else { y });
    let matrix = Matrix3::from_columns(&[x, y, x.cross(&y)]);
    let rotation = UnitQuaternion::from_rotation_matrix(&Rotation3::from_matrix_unchecked(matrix));
    Eye { rotation, focal_px, centre: frame.evidence(&[]).middle() }
}
