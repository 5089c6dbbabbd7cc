//! Rails that the picture itself offers.
//!
//! Straight edges ([`segments`](super::segments)) are sorted into three perpendicular
//! families. Four edges, two and two, give two vanishing points and with them a focal
//! length and the third direction; draws are scored by the length of the edges that point at
//! any of the three within [`FAMILY_MISS_PX`] (RANSAC over a Manhattan frame; Coughlan and
//! Yuille 1999 for the frame, Mirzaei and Roumeliotis 2011 for draws from few lines). The best
//! frames are refined on their edges by [`perspective`](super::perspective).
//!
//! A picture that was cropped to one side has its centre of projection elsewhere: its two
//! strongest families still fit, but the third does not. Where a third vanishing point with
//! another centre (three of them determine it; Caprile and Torre 1990) holds clearly more
//! of the edges, that is offered, and said.
//!
//! Nothing is offered unless two families of at least four edges hold well over the length
//! that the same number of draws collects by chance.

use super::perspective::{Evidence, Eye, PhotoOptions, solve};
use super::rails::{Axis, Rail};
use super::segments::{Segment, segments};
use super::start::vanishing_point;
use crate::spaces::PlatePx;
use crate::track::picture::Plane;
use nalgebra::{Matrix3, Matrix3x2, Rotation3, UnitQuaternion, Vector3};

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

/// A free centre has to hold more of the length of all edges than one in the middle, by this share.
const CENTRE_GAIN: f64 = 0.02;
/// And this many edges of the family that did not fit before.
const LEAST_THIRD: usize = 8;
/// Pairs of edges drawn for the third vanishing point of a free centre.
const THIRD_DRAWS: usize = 1500;

/// Rails that a picture offers.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Suggestion {
    /// The rails; none where the picture has no such structure.
    pub rails: Vec<Rail>,
    /// Whether they fit only with the centre of projection away from the middle.
    pub free_centre: bool,
}

/// Longer sides are halved before edges are looked for: photographs of many megapixels are
/// soft from one px to the next, and their edges are as exact in fewer px.
const LONGEST_SIDE_PX: usize = 2600;

/// Rails along straight edges in up to three perpendicular families.
pub fn suggest(picture: &Plane, focal_px: Option<f64>) -> Suggestion {
    if picture.width().max(picture.height()) > LONGEST_SIDE_PX {
        let whole = |p: PlatePx| PlatePx::new(2.0 * p.x, 2.0 * p.y);
        let found = suggest(&picture.reduced(), focal_px.map(|f| 0.5 * f));
        let rails = found
            .rails
            .into_iter()
            .map(|r| Rail {
                a: whole(r.a),
                b: whole(r.b),
                ..r
            })
            .collect();
        return Suggestion { rails, ..found };
    }
    let diagonal = (picture.width() as f64).hypot(picture.height() as f64);
    let edges = segments(picture, LEAST_LENGTH * diagonal);
    if edges.len() < 2 * LEAST_FAMILY {
        return Suggestion::default();
    }
    let (width_px, height_px) = (picture.width() as u32, picture.height() as u32);
    let frame = Frame {
        edges: &edges,
        width_px,
        height_px,
        focal_px,
        free_centre: false,
    };
    match frame.best() {
        Some(found) => Suggestion {
            rails: offered(found.rails),
            ..found
        },
        None => Suggestion::default(),
    }
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

/// What fits with a free centre.
struct Freed {
    /// Length of its edges, px.
    held: f64,
    rails: Vec<Rail>,
    /// Edges of the family that the middle did not allow.
    of_third: usize,
}

struct Frame<'a> {
    edges: &'a [Segment],
    width_px: u32,
    height_px: u32,
    focal_px: Option<f64>,
    free_centre: bool,
}

impl Frame<'_> {
    fn evidence<'r>(&self, rails: &'r [Rail]) -> Evidence<'r> {
        Evidence {
            rails,
            width_px: self.width_px,
            height_px: self.height_px,
            focal_px: self.focal_px,
            free_centre: self.free_centre,
        }
    }

    fn best(&self) -> Option<Suggestion> {
        let total: f64 = self.edges.iter().map(Segment::length_px).sum();
        let mut random = fastrand::Rng::with_seed(0x5eed);
        let mut drawn: Vec<(f64, Eye)> = (0..DRAWS)
            .filter_map(|_| self.draw(&mut random))
            .map(|eye| (self.score(&eye, 2.0 * FAMILY_MISS_PX), eye))
            .collect();
        drawn.sort_by(|a, b| b.0.total_cmp(&a.0));
        let most = |one: &(f64, Vec<Rail>), other: &(f64, Vec<Rail>)| one.0.total_cmp(&other.0);
        let refined = drawn
            .iter()
            .take(12)
            .filter_map(|(_, eye)| self.refined(eye));
        let (mut held, mut rails) = refined.max_by(most)?;
        let freed = Self {
            free_centre: true,
            ..*self
        };
        let uncentred = (self.focal_px.is_none())
            .then(|| freed.with_third(&rails, &mut random))
            .flatten();
        let uncentred =
            uncentred.filter(|u| u.of_third >= LEAST_THIRD && u.held - held >= CENTRE_GAIN * total);
        let free_centre = uncentred.is_some();
        if let Some(freed) = uncentred {
            (held, rails) = (freed.held, freed.rails);
        }
        (families(&rails) >= 2 && held >= LEAST_SHARE * total)
            .then_some(Suggestion { rails, free_centre })
    }

    /// The two strongest families of a frame with a third from the other edges, wherever that
    /// puts the centre: three vanishing points determine it.
    fn with_third(&self, rails: &[Rail], random: &mut fastrand::Rng) -> Option<Freed> {
        let evidence = self.evidence(rails);
        let length = |axis: Axis| {
            rails
                .iter()
                .filter(|r| r.axis == axis)
                .map(Rail::length_px)
                .sum::<f64>()
        };
        let mut axes = Axis::ALL;
        axes.sort_by(|a, b| length(*b).total_cmp(&length(*a)));
        let strongest = [
            vanishing_point(rails, axes[0], &evidence)?,
            vanishing_point(rails, axes[1], &evidence)?,
        ];
        let points =
            |e: &Segment, v: &Vector3<f64>| e.rail(Axis::X).miss_px(v).abs() < 2.0 * FAMILY_MISS_PX;
        let others: Vec<&Segment> = self
            .edges
            .iter()
            .filter(|e| !strongest.iter().any(|v| points(e, v)))
            .collect();
        if others.len() < LEAST_THIRD {
            return None;
        }
        let mut pick = || others[random.usize(..others.len())].rail(Axis::X).line();
        let held = |v: &Vector3<f64>| {
            others
                .iter()
                .filter(|e| points(e, v))
                .map(|e| e.length_px())
                .sum::<f64>()
        };
        let (w, h) = (f64::from(self.width_px), f64::from(self.height_px));
        let likely = |v: &Vector3<f64>| {
            orthocentre([strongest[0], strongest[1], *v]).is_some_and(|(centre, focal_px)| {
                let inside = (0.0..w).contains(&centre.x) && (0.0..h).contains(&centre.y);
                inside && (0.3 * w..6.0 * w).contains(&focal_px)
            })
        };
        let thirds = (0..THIRD_DRAWS)
            .map(|_| pick().cross(&pick()))
            .filter(likely);
        let mut thirds: Vec<(f64, Vector3<f64>)> = thirds.map(|v| (held(&v), v)).collect();
        thirds.sort_by(|a, b| b.0.total_cmp(&a.0));
        // The strongest may be remains of the others; each has to stand up to a solve.
        let freed = |(_, third): (f64, Vector3<f64>)| {
            let kept = rails.iter().filter(|r| r.axis != axes[2]).copied();
            let with = others
                .iter()
                .filter(|e| points(e, &third))
                .map(|e| e.rail(axes[2]));
            let options = PhotoOptions {
                solve_centre: true,
                ..PhotoOptions::default()
            };
            let alone = solve(
                self.width_px,
                self.height_px,
                &kept.chain(with).collect::<Vec<_>>(),
                &options,
            )
            .ok()?;
            let (held, rails) = self.refined(&alone.eye())?;
            let of_third = rails.iter().filter(|r| r.axis == axes[2]).count();
            Some(Freed {
                held,
                rails,
                of_third,
            })
        };
        apart(thirds, self.evidence(&[]).half_diagonal_px())
            .into_iter()
            .filter_map(freed)
            .max_by(|a, b| a.held.total_cmp(&b.held))
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
        let middle = (
            0.5 * f64::from(self.width_px),
            0.5 * f64::from(self.height_px),
        );
        let centred =
            |v: Vector3<f64>| Vector3::new(v.x - middle.0 * v.z, v.y - middle.1 * v.z, v.z);
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
        self.edges
            .iter()
            .filter(|e| self.family(eye, e, miss_px).is_some())
            .map(|e| e.length_px())
            .sum()
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
        self.edges
            .iter()
            .filter_map(|e| Some(e.rail(self.family(eye, e, miss_px)?)))
            .collect()
    }

    /// Refined on its members, which are then chosen anew, narrower each time.
    fn refined(&self, eye: &Eye) -> Option<(f64, Vec<Rail>)> {
        let mut eye = *eye;
        for miss_px in [
            2.0 * FAMILY_MISS_PX,
            1.5 * FAMILY_MISS_PX,
            FAMILY_MISS_PX,
            FAMILY_MISS_PX,
        ] {
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
        let options = PhotoOptions {
            focal_px: self.focal_px,
            solve_centre: self.free_centre,
            ..PhotoOptions::default()
        };
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

/// The best scored vanishing points of which no two lie within a few degrees, seen from a
/// camera whose focal length is half the diagonal.
fn apart(scored: Vec<(f64, Vector3<f64>)>, half_diagonal_px: f64) -> Vec<(f64, Vector3<f64>)> {
    const APART_RAD: f64 = 0.05;
    const MOST: usize = 12;
    let direction = |v: &Vector3<f64>| Vector3::new(v.x, v.y, half_diagonal_px * v.z).normalize();
    let mut out: Vec<(f64, Vector3<f64>)> = Vec::new();
    for (score, v) in scored {
        if out
            .iter()
            .all(|(_, o)| direction(o).cross(&direction(&v)).norm() > APART_RAD)
        {
            out.push((score, v));
        }
        if out.len() == MOST {
            break;
        }
    }
    out
}

/// Families with enough members.
fn families(rails: &[Rail]) -> usize {
    Axis::ALL
        .iter()
        .filter(|a| rails.iter().filter(|r| r.axis == **a).count() >= LEAST_FAMILY)
        .count()
}

/// The centre of projection and the focal length that make three vanishing points mutually
/// perpendicular: for each pair p, q holds (p - c) . (q - c) + f² = 0, so that c is where the
/// heights of their triangle meet. `None` when they do not determine it.
fn orthocentre([p, q, r]: [Vector3<f64>; 3]) -> Option<(PlatePx, f64)> {
    // (p/p_w - q/q_w) . (r - r_w c) = 0 and the same for the other two pairs, free of division.
    let row = |p: &Vector3<f64>, q: &Vector3<f64>, r: &Vector3<f64>| {
        let side = (p.xy() * q.z - q.xy() * p.z).try_normalize(1e-12)?;
        Some((side * r.z, side.dot(&r.xy())))
    };
    let rows = [row(&p, &q, &r)?, row(&q, &r, &p)?, row(&r, &p, &q)?];
    let matrix = Matrix3x2::from_rows(&rows.map(|(side, _)| side.transpose()));
    let centre = matrix
        .svd(true, true)
        .solve(&Vector3::from(rows.map(|(_, off)| off)), 1e-9)
        .ok()?;
    let from = |v: &Vector3<f64>| v.xy() - centre * v.z;
    let squared = -from(&p).dot(&from(&q)) / (p.z * q.z);
    (squared.is_finite() && squared > 0.0)
        .then(|| (PlatePx::new(centre.x, centre.y), squared.sqrt()))
}

/// The frame of two perpendicular directions, its axes named: Y is the one most upright in the
/// picture, X the one most across of the others.
fn named(p: Vector3<f64>, q: Vector3<f64>, focal_px: f64, frame: &Frame) -> Eye {
    let third = p.cross(&q).normalize();
    let second = third.cross(&p).normalize();
    let mut axes = vec![p, second, third];
    let upright = (0..3)
        .max_by(|a, b| axes[*a].y.abs().total_cmp(&axes[*b].y.abs()))
        .unwrap_or(0);
    let y = axes.remove(upright);
    let across = usize::from(axes[1].x.abs() > axes[0].x.abs());
    let x = axes.remove(across);
    let (x, y) = (
        if x.x < 0.0 { -x } else { x },
        if y.y < 0.0 { -y } else { y },
    );
    let matrix = Matrix3::from_columns(&[x, y, x.cross(&y)]);
    let rotation = UnitQuaternion::from_rotation_matrix(&Rotation3::from_matrix_unchecked(matrix));
    Eye {
        rotation,
        focal_px,
        centre: frame.evidence(&[]).middle(),
    }
}
