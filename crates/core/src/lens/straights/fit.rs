//! The adjustment of [`super::solve_straights`]: lens terms and lines together.

use super::normal::{Block, Normal, Step};
use super::{Centre, LEAST_MARK_SIGMA_PX, LensError, LensOptions, SolvedLens, Straightness};
use crate::camera::Intrinsics;
use crate::lens::{Distortion, LensTerms, Term};
use crate::spaces::{LensPoint, PlatePx};
use crate::statistics::median;
use nalgebra::{DMatrix, DVector, Matrix2, SymmetricEigen, Vector2};

/// Changes a number of the lens: terms as they are, the centre by focal lengths.
fn change(term: Term, lens: &mut Intrinsics, by: f64) {
    let unit = if term.is_centre() { lens.focal_px } else { 1.0 };
    term.change(lens, by * unit);
}

/// The numbers that are solved.
pub fn unknowns_of(options: &LensOptions) -> Vec<Term> {
    let terms = LensTerms {
        radial: options.terms,
        tangential: options.tangential,
        centre: options.centre == Centre::Free,
        ..LensTerms::NONE
    };
    terms.terms().collect()
}

/// What is solved one after the other: each stage starts where the last one ended.
pub fn stages(options: &LensOptions) -> Vec<Vec<Term>> {
    let all = unknowns_of(options);
    let mut stages: Vec<Vec<Term>> = (1..=options.terms).map(|n| all[..n].to_vec()).collect();
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
pub struct Fit<'a> {
    lens: Intrinsics,
    lines: Vec<Line>,
    straights: &'a [Vec<PlatePx>],
}

impl<'a> Fit<'a> {
    /// The best of a search over k1 alone.
    pub fn start(lens: Intrinsics, straights: &'a [Vec<PlatePx>]) -> Self {
        let half = 0.5 * f64::from(lens.width_px).hypot(f64::from(lens.height_px)) / lens.focal_px;
        let bent = |step: i32| {
            // From barrel to cushion, by how much a corner moves.
            let distortion = Distortion::radial(0.02 * f64::from(step) / (half * half), 0.0);
            let mut fit = Self {
                lens: Intrinsics { distortion, ..lens },
                lines: Vec::new(),
                straights,
            };
            fit.lines = straights
                .iter()
                .map(|s| fit.line_through(s))
                .collect::<Option<_>>()?;
            let misses = fit.misses()?;
            Some((misses.iter().map(|m| m.abs()).sum::<f64>(), fit))
        };
        let best = (0..=16)
            .flat_map(|step| [step, -step])
            .filter_map(bent)
            .min_by(|a, b| a.0.total_cmp(&b.0));
        // Without a lens every mark can be undistorted, so there always is a best one.
        best.map_or_else(
            || Self {
                lens,
                lines: Vec::new(),
                straights,
            },
            |(_, fit)| fit,
        )
    }

    /// The undistorted place of a mark about the middle of the picture, px.
    fn undistorted(&self, mark: PlatePx) -> Option<Vector2<f64>> {
        let straight = self.lens.lens_point(mark)?;
        Some(Vector2::new(straight.x, straight.y) * self.lens.focal_px)
    }

    /// The line nearest to a straight's undistorted marks.
    fn line_through(&self, straight: &[PlatePx]) -> Option<Line> {
        let places: Vec<Vector2<f64>> = straight
            .iter()
            .map(|m| self.undistorted(*m))
            .collect::<Option<_>>()?;
        let middle = places.iter().sum::<Vector2<f64>>() / places.len() as f64;
        let spread: Matrix2<f64> = places
            .iter()
            .map(|p| (p - middle) * (p - middle).transpose())
            .sum();
        let eigen = SymmetricEigen::new(spread);
        let n = eigen
            .eigenvectors
            .column(eigen.eigenvalues.imin())
            .into_owned();
        Some(Line {
            angle_rad: n.y.atan2(n.x),
            offset_px: n.dot(&middle),
        })
    }

    /// Distance of a mark from the drawn curve of a line, plate px.
    fn miss(&self, line: &Line, mark: PlatePx) -> Option<f64> {
        let off = self.off(line, mark)?;
        Some(off.off_px / off.slope.norm())
    }

    /// From the curve to a mark, square to the curve.
    fn needle(&self, line: &Line, mark: PlatePx) -> Option<Vector2<f64>> {
        let off = self.off(line, mark)?;
        Some(off.slope * (off.off_px / off.slope.norm_squared()))
    }

    fn off(&self, line: &Line, mark: PlatePx) -> Option<Off> {
        let place = self.undistorted(mark)?;
        let n = Vector2::new(line.angle_rad.cos(), line.angle_rad.sin());
        let at = place / self.lens.focal_px;
        let slope = self
            .lens
            .distortion
            .jacobian(LensPoint::new(at.x, at.y))
            .try_inverse()?;
        Some(Off {
            place,
            off_px: n.dot(&place) - line.offset_px,
            slope: slope.tr_mul(&n),
        })
    }

    pub(super) fn misses(&self) -> Option<DVector<f64>> {
        let each = self.straights.iter().zip(&self.lines);
        let misses: Vec<f64> = each
            .flat_map(|(s, line)| s.iter().map(|m| self.miss(line, *m)))
            .collect::<Option<_>>()?;
        Some(DVector::from_vec(misses))
    }

    /// With the numbers of the lens and the lines moved.
    pub(super) fn stepped(&self, unknowns: &[Term], step: &Step) -> Self {
        let mut next = self.clone();
        for (unknown, by) in unknowns.iter().zip(step.lens.iter()) {
            change(*unknown, &mut next.lens, *by);
        }
        for (line, by) in next.lines.iter_mut().zip(&step.lines) {
            line.angle_rad += by.x / self.lens.focal_px;
            line.offset_px += by.y;
        }
        next
    }

    /// What is believed of tangential terms and the centre before anything is marked, as the
    /// marks count: for each the weight and the value. Nothing is believed of radial terms.
    pub(super) fn beliefs(&self, unknowns: &[Term], mark_sigma_px: f64) -> Vec<(f64, f64)> {
        let lens = &self.lens;
        let (width_px, focal_px) = (f64::from(lens.width_px), lens.focal_px);
        let half = 0.5 * width_px.hypot(f64::from(lens.height_px)) / focal_px;
        let tangential = TANGENTIAL_SHARE * width_px / (3.0 * focal_px * half * half);
        let centre = CENTRE_SHARE * width_px / focal_px;
        let off = [
            lens.centre.x - 0.5 * width_px,
            lens.centre.y - 0.5 * f64::from(lens.height_px),
        ];
        let belief = |unknown: &Term| {
            let (value, usual) = match unknown {
                Term::K1 | Term::K2 | Term::K3 | Term::K1ByZoom => return (0.0, 0.0),
                Term::P1 => (lens.distortion.p1, tangential),
                Term::P2 => (lens.distortion.p2, tangential),
                Term::CentreX => (off[0] / focal_px, centre),
                Term::CentreY => (off[1] / focal_px, centre),
            };
            // Far beyond what is usual, as where a picture was cropped, the belief gives way.
            let far = value / (3.0 * usual);
            let sigma = mark_sigma_px.max(LEAST_MARK_SIGMA_PX) / usual;
            (sigma * sigma / (1.0 + far * far), value)
        };
        unknowns.iter().map(belief).collect()
    }

    /// Normal equations at this place, marks weighed by Huber's rule with this knee. A line
    /// meets only its own marks, so each has a block of two that is eliminated by itself. How the
    /// steepness of the map changes is left out of the derivatives: it is of the order of a miss.
    pub(super) fn normal(
        &self,
        unknowns: &[Term],
        knee: f64,
        beliefs: &[(f64, f64)],
    ) -> Option<Normal> {
        let count = unknowns.len();
        let mut out = Normal {
            lens: DMatrix::zeros(count, count),
            right: DVector::zeros(count),
            lines: Vec::new(),
        };
        let focal_px = self.lens.focal_px;
        for (straight, line) in self.straights.iter().zip(&self.lines) {
            let mut block = Block {
                cross: DMatrix::zeros(count, 2),
                own: Matrix2::zeros(),
                right: Vector2::zeros(),
            };
            for mark in straight {
                let off = self.off(line, *mark)?;
                let steep = off.slope.norm();
                let miss = off.off_px / steep;
                let weight = knee / miss.abs().max(knee);
                let u = off.place / focal_px;
                let by_lens = DVector::from_iterator(
                    count,
                    unknowns
                        .iter()
                        .map(|k| -focal_px * off.slope.dot(&k.draws(u)) / steep),
                );
                let along = Vector2::new(-line.angle_rad.sin(), line.angle_rad.cos());
                let by_line =
                    Vector2::new(along.dot(&off.place) / (focal_px * steep), -1.0 / steep);
                out.lens.ger(weight, &by_lens, &by_lens, 1.0);
                out.right.axpy(weight * miss, &by_lens, 1.0);
                block.cross += &by_lens * by_line.transpose() * weight;
                block.own += by_line * by_line.transpose() * weight;
                block.right += by_line * (weight * miss);
            }
            out.lines.push(block);
        }
        for (k, (weight, value)) in beliefs.iter().enumerate() {
            out.lens[(k, k)] += weight;
            out.right[k] += weight * value;
        }
        Some(out)
    }

    pub fn solved(self, unknowns: &[Term]) -> Result<SolvedLens, LensError> {
        let misses = self.misses().ok_or(LensError::Undetermined)?;
        let beliefs = self.beliefs(unknowns, spread(&misses));
        let normal = self
            .normal(unknowns, f64::MAX, &beliefs)
            .ok_or(LensError::Undetermined)?;
        let lens = &self.lens;
        let (corner_px, fold_px) = (lens.farthest_corner_px(), lens.fold_px());
        if fold_px < corner_px {
            return Err(LensError::Folds { fold_px, corner_px });
        }
        let numbers = unknowns.len() + 2 * self.lines.len();
        let freedom = misses.len().saturating_sub(numbers).max(1);
        // Where outliers are, the spread says more than the sum of squares.
        let sigma_px = (misses.norm_squared() / freedom as f64)
            .sqrt()
            .min(2.0 * spread(&misses).max(1e-9));
        let covariance = normal.covariance().ok_or(LensError::Undetermined)?;
        let sigma_of = |wanted: Term| {
            let at = unknowns.iter().position(|u| *u == wanted);
            at.map_or(0.0, |k| sigma_px * covariance[(k, k)].max(0.0).sqrt())
        };
        let sigma = Distortion {
            k1: sigma_of(Term::K1),
            k2: sigma_of(Term::K2),
            k3: sigma_of(Term::K3),
            p1: sigma_of(Term::P1),
            p2: sigma_of(Term::P2),
            ..Distortion::NONE
        };
        // What the first term may be wrong by must not move a corner by a tenth of the picture,
        // for marks as good as marks can be.
        let k1_sigma = sigma.k1 * (LEAST_MARK_SIGMA_PX / sigma_px.max(1e-30)).max(1.0);
        if k1_sigma * (corner_px / lens.focal_px).powi(3) * lens.focal_px
            > 0.1 * f64::from(lens.width_px)
        {
            return Err(LensError::Undetermined);
        }
        let corner_sigma_px =
            sigma_px * self.corner_variance(unknowns, &covariance).max(0.0).sqrt();
        let free = unknowns.contains(&Term::CentreX);
        let centre_sigma_px =
            free.then(|| [Term::CentreX, Term::CentreY].map(|c| sigma_of(c) * lens.focal_px));
        let straights = self.straightness(&misses);
        let worst = (0..straights.len())
            .max_by(|a, b| straights[*a].after_px.total_cmp(&straights[*b].after_px));
        let all = |of: fn(&Straightness) -> f64| {
            let squares = straights
                .iter()
                .zip(self.straights)
                .map(|(s, m)| of(s).powi(2) * m.len() as f64);
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
            corner_sigma_px,
            mark_sigma_px: sigma_px,
        })
    }

    /// Variance of where the first corner's undistorted place is drawn, for marks of 1 px.
    fn corner_variance(&self, unknowns: &[Term], covariance: &DMatrix<f64>) -> f64 {
        let Some(corner) = self.lens.lens_point(PlatePx::new(0.0, 0.0)) else {
            return f64::INFINITY;
        };
        let gradient = |unknown: &Term| {
            const STEP: f64 = 1e-6;
            let drawn = |by: f64| {
                let mut lens = self.lens;
                change(*unknown, &mut lens, by);
                lens.plate_px(corner)
            };
            drawn(STEP).offset_from(drawn(-STEP)) / (2.0 * STEP)
        };
        let gradients: Vec<Vector2<f64>> = unknowns.iter().map(gradient).collect();
        let pairs = gradients.iter().enumerate().flat_map(|(i, a)| {
            gradients
                .iter()
                .enumerate()
                .map(move |(j, b)| (i, j, a.dot(b)))
        });
        pairs
            .map(|(i, j, product)| product * covariance[(i, j)])
            .sum()
    }

    fn straightness(&self, misses: &DVector<f64>) -> Vec<Straightness> {
        let rms = |misses: &[f64]| {
            (misses.iter().map(|m| m * m).sum::<f64>() / misses.len() as f64).sqrt()
        };
        let plain = Intrinsics {
            distortion: Distortion::NONE,
            ..self.lens
        };
        let plain = Fit {
            lens: plain,
            lines: Vec::new(),
            straights: self.straights,
        };
        let mut first = 0;
        self.straights
            .iter()
            .zip(&self.lines)
            .map(|(straight, drawn)| {
                let after_px = rms(&misses.as_slice()[first..first + straight.len()]);
                first += straight.len();
                let needle = |m: &PlatePx| self.needle(drawn, *m).unwrap_or_default();
                let misses_px = straight.iter().map(needle).collect();
                let line = plain.line_through(straight);
                let before: Vec<f64> = straight
                    .iter()
                    .filter_map(|m| plain.miss(line.as_ref()?, *m))
                    .collect();
                let curve = self.curve(drawn, straight);
                Straightness {
                    before_px: rms(&before),
                    after_px,
                    misses_px,
                    curve,
                }
            })
            .collect()
    }

    /// A line through the lens, between the outermost of its marks.
    fn curve(&self, line: &Line, marks: &[PlatePx]) -> Vec<PlatePx> {
        let (sin, cos) = line.angle_rad.sin_cos();
        let (n, along) = (Vector2::new(cos, sin), Vector2::new(-sin, cos));
        let places = marks
            .iter()
            .filter_map(|m| Some(along.dot(&self.undistorted(*m)?)));
        let (from, to) = places.fold((f64::INFINITY, f64::NEG_INFINITY), |(a, b), p| {
            (a.min(p), b.max(p))
        });
        let at = |k: u32| {
            let p = (n * line.offset_px
                + along * (from + (to - from) * f64::from(k) / f64::from(CURVE_STEPS)))
                / self.lens.focal_px;
            self.lens.plate_px(LensPoint::new(p.x, p.y))
        };
        (0..=CURVE_STEPS).map(at).collect()
    }
}

/// A mark against a line.
struct Off {
    /// Its undistorted place about the centre, px.
    place: Vector2<f64>,
    /// How far that lies from the line, px of the undistorted picture.
    off_px: f64,
    /// How that changes over the plate.
    slope: Vector2<f64>,
}

/// By what share of the picture's width tangential terms of a lens usually move a corner. Two
/// px at 1920: several times what lenses of cameras in use show, so that only what marks do not
/// tell is decided by it.
const TANGENTIAL_SHARE: f64 = 0.001;
/// By what share of the width the centre of a lens usually lies off the middle of its picture.
const CENTRE_SHARE: f64 = 0.015;

/// Pieces in which a drawn straight is shown.
const CURVE_STEPS: u32 = 48;

/// Standard deviation as the median of the sizes tells it.
pub(super) fn spread(misses: &DVector<f64>) -> f64 {
    let mut sizes: Vec<f64> = misses.iter().map(|m| m.abs()).collect();
    median(&mut sizes).map_or(0.0, |m| m / 0.6745)
}
