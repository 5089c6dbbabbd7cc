//! Which lens draws things bent that are straight in reality?
//!
//! The artist marks points along edges. Each straight is a line in undistorted px, n . u = d
//! with |n| = 1; a mark m of the plate belongs to it when its undistorted place u(m) lies on
//! it. The error is that of the mark, so it is measured on the plate: to first order
//! `(n . u(m) - d) / |nᵀ du/dm|` is how far m is from the drawn curve, in plate px (Sampson
//! 1982). Lens terms and lines are found together by Levenberg-Marquardt with Huber weights;
//! terms join one after the other, from a search over k1 alone. Straightness as the measure of
//! a lens: Brown 1971; Devernay and Faugeras 2001.
//!
//! Only what bends is seen: a straight through the centre says nothing of radial terms, and
//! the focal length is not found at all. It is stated (the width, unless told otherwise) and
//! scales the terms.
//!
//! Covariance: s² (JᵀJ)⁻¹ at the solution, s² from what is left over.

use super::Distortion;
use crate::camera::Intrinsics;
use crate::spaces::PlatePx;
use nalgebra::{DMatrix, DVector, Matrix2, SymmetricEigen, Vector2};
use serde::{Deserialize, Serialize};

/// Where the centre of distortion is.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Centre {
    /// In the middle of the picture.
    #[default]
    Fixed,
    /// Wherever the straights put it.
    Free,
}

/// What is solved.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct LensOptions {
    /// Radial terms, 1 to 3.
    pub terms: usize,
    /// Whether the two tangential terms are solved.
    pub tangential: bool,
    /// The centre.
    pub centre: Centre,
    /// Focal length to which the terms refer, px; the width when left out.
    pub focal_px: Option<f64>,
}

impl Default for LensOptions {
    fn default() -> Self {
        Self { terms: 2, tangential: false, centre: Centre::Fixed, focal_px: None }
    }
}

/// Why straights give no lens.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum LensError {
    /// Fewer marks than unknowns.
    #[error(
        "{found} marks beyond the two ends of each straight are too few for {unknowns} unknowns; mark more points along edges, or solve fewer terms"
    )]
    TooFewMarks {
        /// Marks beyond two per straight.
        found: usize,
        /// Unknowns of the lens.
        unknowns: usize,
    },
    /// A straight of two points.
    #[error("straight {straight} has {points} points; two always lie on a line, so mark three or more along the edge")]
    TooShort {
        /// Its number, the first is 1.
        straight: usize,
        /// Its points.
        points: usize,
    },
    /// All points of a straight in one place.
    #[error("the points of straight {straight} lie within 2 px; mark along the whole edge")]
    NoLength {
        /// Its number, the first is 1.
        straight: usize,
    },
    /// A value that is none.
    #[error("{what} is out of range")]
    OutOfRange {
        /// Which.
        what: &'static str,
    },
    /// The straights do not say.
    #[error(
        "these straights do not determine the lens: they run through the centre or lie too close to it. Mark edges near the border of the picture"
    )]
    Undetermined,
    /// The map folds inside the picture.
    #[error(
        "the terms that fit fold the picture {fold_px:.0} px from the centre, before its corner at {corner_px:.0} px. Mark straights nearer to the corners, or solve fewer terms"
    )]
    Folds {
        /// Distance at which the map turns back, px of the plate.
        fold_px: f64,
        /// Distance of the farthest corner, px.
        corner_px: f64,
    },
}

/// How bent one straight is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Straightness {
    /// Root mean square distance from the best line as marked, px.
    pub before_px: f64,
    /// The same on the plate once the lens is known, px.
    pub after_px: f64,
}

/// A lens from straights.
#[derive(Clone, Debug)]
pub struct SolvedLens {
    /// The lens; its focal length is the one that was stated.
    pub lens: Intrinsics,
    /// Standard errors of the terms; 0 for those that were not solved.
    pub sigma: Distortion,
    /// Standard errors of the centre, px, where it was free.
    pub centre_sigma_px: Option<[f64; 2]>,
    /// Root mean square over all marks before, px.
    pub rms_before_px: f64,
    /// And after.
    pub rms_after_px: f64,
    /// Every straight.
    pub straights: Vec<Straightness>,
    /// Index of the one that is least straight now.
    pub worst: usize,
    /// Distance from the centre up to which the plate can be undistorted, px; infinite when everywhere.
    pub valid_radius_px: f64,
    /// What is left of marks by chance, px per coordinate.
    pub mark_sigma_px: f64,
}

/// Nobody marks better than this, px per coordinate.
const LEAST_MARK_SIGMA_PX: f64 = 0.05;

/// Marks farther off than this many times the spread of all count less.
const HUBER: f64 = 1.7;

/// Finds the lens of a picture of `width_px` x `height_px` from points along straight things.
pub fn solve_straights(
    width_px: u32,
    height_px: u32,
    straights: &[Vec<PlatePx>],
    options: &LensOptions,
) -> Result<SolvedLens, LensError> {
    check(width_px, height_px, straights, options)?;
    let focal_px = options.focal_px.unwrap_or(f64::from(width_px));
    let mut fit = Fit::start(Intrinsics::centred(width_px, height_px, focal_px), straights);
    for unknowns in stages(options) {
        fit.settle(&unknowns);
    }
    fit.solved(&unknowns_of(options))
}

fn check(width_px: u32, height_px: u32, straights: &[Vec<PlatePx>], options: &LensOptions) -> Result<(), LensError> {
    let bad = |what| Err(LensError::OutOfRange { what });
    if !(2..=100_000).contains(&width_px) || !(2..=100_000).contains(&height_px) {
        return bad("the size of the picture");
    }
    if !(1..=3).contains(&options.terms) {
        return bad("the number of radial terms (1 to 3)");
    }
    if options.focal_px.is_some_and(|f| !(f.is_finite() && f > 0.0)) {
        return bad("the focal length");
    }
    let far = 2.0 * f64::from(width_px.max(height_px));
    if straights.iter().flatten().any(|p| !(p.x.abs() < far && p.y.abs() < far)) {
        return bad("a mark");
    }
    for (i, straight) in straights.iter().enumerate() {
        if straight.len() < 3 {
            return Err(LensError::TooShort { straight: i + 1, points: straight.len() });
        }
        if straight.iter().all(|p| p.distance_px(straight[0]) < 2.0) {
            return Err(LensError::NoLength { straight: i + 1 });
        }
    }
    let found: usize = straights.iter().map(|s| s.len() - 2).sum();
    let unknowns = unknowns_of(options).len();
    if found < unknowns + 1 {
        return Err(LensError::TooFewMarks { found, unknowns });
    }
    Ok(())
}

/// A number of the lens that is solved.
#[derive(Clone, Copy, Debug, PartialEq)]
enum Unknown {
    K1,
    K2,
    K3,
    P1,
    P2,
    CentreX,
    CentreY,
}

impl Unknown {
    /// Moves the lens by so much: terms as they are, the centre in focal lengths.
    fn moved(self, lens: &mut Intrinsics, by: f64) {
        match self {
            Self::K1 => lens.distortion.k1 += by,
            Self::K2 => lens.distortion.k2 += by,
            Self::K3 => lens.distortion.k3 += by,
            Self::P1 => lens.distortion.p1 += by,
            Self::P2 => lens.distortion.p2 += by,
            Self::CentreX => lens.centre.x += by * lens.focal_px,
            Self::CentreY => lens.centre.y += by * lens.focal_px,
        }
    }
}

fn unknowns_of(options: &LensOptions) -> Vec<Unknown> {
    let mut unknowns = [Unknown::K1, Unknown::K2, Unknown::K3][..options.terms].to_vec();
    if options.tangential {
        unknowns.extend([Unknown::P1, Unknown::P2]);
    }
    if options.centre == Centre::Free {
        unknowns.extend([Unknown::CentreX, Unknown::CentreY]);
    }
    unknowns
}

/// What is solved one after the other: each stage starts where the last one ended.
fn stages(options: &LensOptions) -> Vec<Vec<Unknown>> {
    let all = unknowns_of(options);
    let mut stages: Vec<Vec<Unknown>> = (1..=options.terms).map(|n| all[..n].to_vec()).collect();
    if all.len() > options.terms {
        stages.push(all);
    }
    stages
}

/// A line in undistorted px about the middle of the picture: n = (cos, sin) of `angle_rad`.
#[derive(Clone, Copy, Debug)]
struct Line {
    angle_rad: f64,
    offset_px: f64,
}

/// Lens and lines while they are being found.
#[derive(Clone)]
struct Fit<'a> {
    lens: Intrinsics,
    lines: Vec<Line>,
    straights: &'a [Vec<PlatePx>],
}

impl<'a> Fit<'a> {
    /// The best of a search over k1 alone.
    fn start(lens: Intrinsics, straights: &'a [Vec<PlatePx>]) -> Self {
        let half = 0.5 * f64::from(lens.width_px).hypot(f64::from(lens.height_px)) / lens.focal_px;
        let bent = |step: i32| {
            // From barrel to cushion, by how much a corner moves.
            let distortion = Distortion::radial(0.02 * f64::from(step) / (half * half), 0.0);
            let mut fit = Self { lens: Intrinsics { distortion, ..lens }, lines: Vec::new(), straights };
            fit.lines = straights.iter().map(|s| fit.line_through(s)).collect::<Option<_>>()?;
            let misses = fit.misses()?;
            Some((misses.iter().map(|m| m.abs()).sum::<f64>(), fit))
        };
        let best = (0..=16).flat_map(|step| [step, -step]).filter_map(bent).min_by(|a, b| a.0.total_cmp(&b.0));
        // Without a lens every mark can be undistorted, so there always is a best one.
        best.map_or_else(|| Self { lens, lines: Vec::new(), straights }, |(_, fit)| fit)
    }

    /// The undistorted place of a mark about the middle of the picture, px.
    fn undistorted(&self, mark: PlatePx) -> Option<Vector2<f64>> {
        let straight = self.lens.lens_point(mark)?;
        Some(Vector2::new(straight.x, straight.y) * self.lens.focal_px)
    }

    /// The line nearest to a straight's undistorted marks.
    fn line_through(&self, straight: &[PlatePx]) -> Option<Line> {
        let places: Vec<Vector2<f64>> = straight.iter().map(|m| self.undistorted(*m)).collect::<Option<_>>()?;
        let middle = places.iter().sum::<Vector2<f64>>() / places.len() as f64;
        let spread: Matrix2<f64> = places.iter().map(|p| (p - middle) * (p - middle).transpose()).sum();
        let eigen = SymmetricEigen::new(spread);
        let n = eigen.eigenvectors.column(eigen.eigenvalues.imin()).into_owned();
        Some(Line { angle_rad: n.y.atan2(n.x), offset_px: n.dot(&middle) })
    }

    /// Distance of a mark from the drawn curve of a line, plate px.
    fn miss(&self, line: &Line, mark: PlatePx) -> Option<f64> {
        let place = self.undistorted(mark)?;
        let n = Vector2::new(line.angle_rad.cos(), line.angle_rad.sin());
        let at = place / self.lens.focal_px;
        let slope = self.lens.distortion.jacobian(crate::spaces::LensPoint::new(at.x, at.y)).try_inverse()?;
        Some((n.dot(&place) - line.offset_px) / slope.tr_mul(&n).norm())
    }

    fn misses(&self) -> Option<DVector<f64>> {
        let each = self.straights.iter().zip(&self.lines);
        let misses: Vec<f64> =
            each.flat_map(|(s, line)| s.iter().map(|m| self.miss(line, *m))).collect::<Option<_>>()?;
        Some(DVector::from_vec(misses))
    }

    /// By numbers of the lens first, then by angle (in radians times the focal length, so that
    /// all are px) and offset of each line.
    fn stepped(&self, unknowns: &[Unknown], step: &DVector<f64>) -> Self {
        let mut next = self.clone();
        for (unknown, by) in unknowns.iter().zip(step.iter()) {
            unknown.moved(&mut next.lens, *by);
        }
        for (i, line) in next.lines.iter_mut().enumerate() {
            line.angle_rad += step[unknowns.len() + 2 * i] / self.lens.focal_px;
            line.offset_px += step[unknowns.len() + 2 * i + 1];
        }
        next
    }

    /// Differences of the misses; a line moves only its own.
    fn jacobian(&self, unknowns: &[Unknown]) -> Option<DMatrix<f64>> {
        let rows: usize = self.straights.iter().map(Vec::len).sum();
        let mut jacobian = DMatrix::zeros(rows, unknowns.len() + 2 * self.lines.len());
        for (column, unknown) in unknowns.iter().enumerate() {
            const STEP: f64 = 1e-6;
            let (mut up, mut down) = (self.clone(), self.clone());
            unknown.moved(&mut up.lens, STEP);
            unknown.moved(&mut down.lens, -STEP);
            jacobian.set_column(column, &((up.misses()? - down.misses()?) / (2.0 * STEP)));
        }
        let mut row = 0;
        for (i, (straight, line)) in self.straights.iter().zip(&self.lines).enumerate() {
            for mark in straight {
                for (k, (turn, shift)) in [(1e-6, 0.0), (0.0, 1e-4)].into_iter().enumerate() {
                    let moved = |sign: f64| Line {
                        angle_rad: line.angle_rad + sign * turn,
                        offset_px: line.offset_px + sign * shift,
                    };
                    let change = self.miss(&moved(1.0), *mark)? - self.miss(&moved(-1.0), *mark)?;
                    let step = 2.0 * if k == 0 { turn * self.lens.focal_px } else { shift };
                    jacobian[(row, unknowns.len() + 2 * i + k)] = change / step;
                }
                row += 1;
            }
        }
        Some(jacobian)
    }

    /// Levenberg-Marquardt with Huber weights whose scale is the spread of the misses.
    fn settle(&mut self, unknowns: &[Unknown]) {
        let (mut damping, mut last) = (1e-3, f64::INFINITY);
        for _ in 0..80 {
            let Some((misses, jacobian)) = self.misses().zip(self.jacobian(unknowns)) else { return };
            let knee = HUBER * spread(&misses).max(1e-4);
            let weights = misses.map(|m| (knee / m.abs().max(knee)).sqrt());
            let weighted = DMatrix::from_fn(jacobian.nrows(), jacobian.ncols(), |i, j| jacobian[(i, j)] * weights[i]);
            let gradient = weighted.tr_mul(&misses.component_mul(&weights));
            let normal = weighted.tr_mul(&weighted);
            let cost = |m: &DVector<f64>| m.iter().map(|m| huber(*m, knee)).sum::<f64>();
            let now = cost(&misses);
            let mut settled = true;
            while damping < 1e8 {
                let mut damped = normal.clone();
                for k in 0..damped.nrows() {
                    damped[(k, k)] += damping * normal[(k, k)] + 1e-12;
                }
                let next = damped.cholesky().map(|c| self.stepped(unknowns, &-c.solve(&gradient)));
                let better = next.and_then(|n| Some((cost(&n.misses()?), n))).filter(|(c, _)| *c <= now);
                if let Some((found, next)) = better {
                    *self = next;
                    damping = (damping * 0.1).max(1e-12);
                    settled = last - found < 1e-10 * (1.0 + found) && now - found < 1e-10 * (1.0 + found);
                    last = found;
                    break;
                }
                damping *= 10.0;
            }
            if settled {
                return;
            }
        }
    }

    fn solved(self, unknowns: &[Unknown]) -> Result<SolvedLens, LensError> {
        let (Some(misses), Some(jacobian)) = (self.misses(), self.jacobian(unknowns)) else {
            return Err(LensError::Undetermined);
        };
        let lens = &self.lens;
        let (corner_px, fold_px) = (lens.farthest_corner_px(), lens.fold_px());
        if fold_px < corner_px {
            return Err(LensError::Folds { fold_px, corner_px });
        }
        let freedom = (misses.len() - jacobian.ncols()).max(1);
        // Where outliers are, the spread says more than the sum of squares.
        let sigma_px = (misses.norm_squared() / freedom as f64).sqrt().min(2.0 * spread(&misses).max(1e-9));
        let covariance = jacobian.tr_mul(&jacobian).try_inverse().ok_or(LensError::Undetermined)?;
        let sigma_of = |wanted: Unknown| {
            let at = unknowns.iter().position(|u| *u == wanted);
            at.map_or(0.0, |k| sigma_px * covariance[(k, k)].max(0.0).sqrt())
        };
        let sigma = Distortion {
            k1: sigma_of(Unknown::K1),
            k2: sigma_of(Unknown::K2),
            k3: sigma_of(Unknown::K3),
            p1: sigma_of(Unknown::P1),
            p2: sigma_of(Unknown::P2),
        };
        // What the first term may be wrong by must not move a corner by a tenth of the picture,
        // for marks as good as marks can be.
        let k1_sigma = sigma.k1 * (LEAST_MARK_SIGMA_PX / sigma_px.max(1e-30)).max(1.0);
        if k1_sigma * (corner_px / lens.focal_px).powi(3) * lens.focal_px > 0.1 * f64::from(lens.width_px) {
            return Err(LensError::Undetermined);
        }
        let free = unknowns.contains(&Unknown::CentreX);
        let centre_sigma_px = free.then(|| [Unknown::CentreX, Unknown::CentreY].map(|c| sigma_of(c) * lens.focal_px));
        let straights = self.straightness(&misses);
        let worst = (0..straights.len()).max_by(|a, b| straights[*a].after_px.total_cmp(&straights[*b].after_px));
        let all = |of: fn(&Straightness) -> f64| {
            let squares = straights.iter().zip(self.straights).map(|(s, m)| of(s).powi(2) * m.len() as f64);
            (squares.sum::<f64>() / misses.len() as f64).sqrt()
        };
        Ok(SolvedLens {
            lens: self.lens,
            sigma,
            centre_sigma_px,
            rms_before_px: all(|s| s.before_px),
            rms_after_px: all(|s| s.after_px),
            worst: worst.unwrap_or(0),
            straights,
            valid_radius_px: fold_px,
            mark_sigma_px: sigma_px,
        })
    }

    fn straightness(&self, misses: &DVector<f64>) -> Vec<Straightness> {
        let rms = |misses: &[f64]| (misses.iter().map(|m| m * m).sum::<f64>() / misses.len() as f64).sqrt();
        let plain = Intrinsics { distortion: Distortion::NONE, ..self.lens };
        let plain = Fit { lens: plain, lines: Vec::new(), straights: self.straights };
        let mut first = 0;
        self.straights
            .iter()
            .map(|straight| {
                let after_px = rms(&misses.as_slice()[first..first + straight.len()]);
                first += straight.len();
                let line = plain.line_through(straight);
                let before: Vec<f64> = straight.iter().filter_map(|m| plain.miss(line.as_ref()?, *m)).collect();
                Straightness { before_px: rms(&before), after_px }
            })
            .collect()
    }
}

fn huber(miss: f64, knee: f64) -> f64 {
    let size = miss.abs();
    if size <= knee { size * size } else { knee * (2.0 * size - knee) }
}

/// Standard deviation as the median of the sizes tells it.
fn spread(misses: &DVector<f64>) -> f64 {
    let mut sizes: Vec<f64> = misses.iter().map(|m| m.abs()).collect();
    sizes.sort_by(f64::total_cmp);
    sizes.get(sizes.len() / 2).map_or(0.0, |m| m / 0.6745)
}
