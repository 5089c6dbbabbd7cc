//! Rotation, focal length and centre of projection that fit all rails best.
//!
//! Minimises `Σ miss²` over the camera, where a rail's miss is its distance from the vanishing
//! point of its axis ([`Rail::miss_px`]): maximum likelihood for ends with equal independent
//! normal errors (Liebowitz and Zisserman 1998; the camera itself as the unknown, so that
//! the axes are perpendicular by construction). Levenberg-Marquardt, derivatives by central
//! differences (at most six unknowns).
//!
//! Unknowns: three of rotation, the logarithm of the focal length unless it is stated, two of
//! the centre when it is freed. Standard errors come from the inverse of JᵀJ, with the error
//! of a rail's end taken from the misses themselves, leaning on [`END_SIGMA_PX`] while they are few.
//!
//! A single family leaves the turn about its axis open; the picture's own upright decides.

use super::rails::{Axis, Flips, Rail, number_of};
use super::{PhotoError, start};
use crate::camera::{Intrinsics, Pose};
use crate::damped::{Damping, Gained, Rule, Tried, descended};
use crate::spaces::{LensPoint, PlatePx};
use nalgebra::{DMatrix, DVector, Matrix3, Rotation3, UnitQuaternion, Vector3};
use serde::{Deserialize, Serialize};

/// What is known and what is asked.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default)]
pub struct PhotoOptions {
    /// Focal length, px, where it is stated.
    pub focal_px: Option<f64>,
    /// Whether the centre of projection is found (cropped pictures).
    pub solve_centre: bool,
    /// Axes that point the other way.
    pub flips: Flips,
}

/// How far a hand misses an edge, px, one standard error along each coordinate.
pub const END_SIGMA_PX: f64 = 0.5;
/// As how many misses [`END_SIGMA_PX`] counts against those that are seen.
const END_SIGMA_WEIGHT: f64 = 4.0;
/// Focal lengths that are believed, in widths of the picture.
const BELIEVED_WIDTHS: std::ops::Range<f64> = 0.15..30.0;

/// A value with its standard error.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct Measured {
    /// The value.
    pub value: f64,
    /// One standard error; 0 where the value was stated.
    pub sigma: f64,
}

/// The vanishing point of an axis.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
pub struct VanishingPoint {
    /// The axis.
    pub axis: Axis,
    /// Homogeneous, plate px: (x/w, y/w), or the direction (x, y) where w is 0.
    pub homogeneous: [f64; 3],
    /// Its place, px, unless it is beyond all measure (a thousand widths).
    pub px: Option<[f64; 2]>,
}

/// The camera of a photograph, without place and scale.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Perspective {
    /// Focal length and centre; no distortion.
    pub lens: Intrinsics,
    /// Camera from world.
    pub rotation: UnitQuaternion<f64>,
    /// Focal length, px.
    pub focal_px: Measured,
    /// Horizontal field of view, degrees.
    pub view_deg: Measured,
    /// Horizon against the picture's rows, degrees, positive when its right end is lower.
    pub tilt_deg: Measured,
    /// Standard errors of the centre, px; `None` when it was kept in the middle.
    pub centre_sigma_px: Option<[f64; 2]>,
    /// Signed miss of each rail, px, in the order of the rails.
    pub miss_px: Vec<f64>,
    /// Root mean square of the misses, px.
    pub rms_px: f64,
    /// Index of the rail that misses most.
    pub worst: usize,
    /// Error of a rail's end that the standard errors rest on, px.
    pub end_sigma_px: f64,
    /// Of the axes that have rails.
    pub vanishing: Vec<VanishingPoint>,
    /// Horizon: a, b, c with a x + b y + c = 0 on it and above 0 below it, plate px; `None`
    /// when the camera looks straight up or down.
    pub horizon: Option<[f64; 3]>,
}

/// Rotation, focal length and centre while they are being found.
#[derive(Clone, Copy, Debug)]
pub struct Eye {
    /// Camera from world.
    pub rotation: UnitQuaternion<f64>,
    /// Focal length, px.
    pub focal_px: f64,
    /// Centre of projection.
    pub centre: PlatePx,
}

impl Eye {
    /// Vanishing point of a world direction, homogeneous, plate px.
    pub fn vanishing(&self, direction: &Vector3<f64>) -> Vector3<f64> {
        let d = self.rotation * direction;
        Vector3::new(
            self.focal_px * d.x - self.centre.x * d.z,
            -self.focal_px * d.y - self.centre.y * d.z,
            -d.z,
        )
    }

    fn horizon(&self) -> Option<Vector3<f64>> {
        // Directions on the horizon are perpendicular to up; px = K d, so the line is K⁻ᵀ up.
        let up = self.rotation * Vector3::y();
        let line = Vector3::new(up.x, -up.y, 0.0);
        let at_centre = -up.z * self.focal_px - line.x * self.centre.x - line.y * self.centre.y;
        let norm = line.norm();
        (norm > 1e-6).then(|| -Vector3::new(line.x, line.y, at_centre) / norm)
    }

    fn tilt_rad(&self) -> f64 {
        let up = self.rotation * Vector3::y();
        // For a world turned upside down the tilt is that of the same line.
        let sign = if up.y < 0.0 { -1.0 } else { 1.0 };
        (sign * up.x).atan2(sign * up.y)
    }
}

/// The rails with what is known of the picture.
pub struct Evidence<'a> {
    /// The rails.
    pub rails: &'a [Rail],
    /// Picture width, px.
    pub width_px: u32,
    /// Picture height, px.
    pub height_px: u32,
    /// Focal length where it is stated, px.
    pub focal_px: Option<f64>,
    /// Whether the centre is free.
    pub free_centre: bool,
}

impl Evidence<'_> {
    /// Half the picture's diagonal, px.
    pub fn half_diagonal_px(&self) -> f64 {
        0.5 * f64::from(self.width_px).hypot(f64::from(self.height_px))
    }

    /// The middle of the picture.
    pub fn middle(&self) -> PlatePx {
        PlatePx::new(
            0.5 * f64::from(self.width_px),
            0.5 * f64::from(self.height_px),
        )
    }

    /// Misses of all rails, px.
    pub fn misses(&self, eye: &Eye) -> DVector<f64> {
        let vanishing = Axis::ALL.map(|axis| eye.vanishing(&axis.unit()));
        DVector::from_iterator(
            self.rails.len(),
            self.rails
                .iter()
                .map(|r| r.miss_px(&vanishing[r.axis.index()])),
        )
    }

    /// Half the sum of squared misses.
    pub fn cost(&self, eye: &Eye) -> f64 {
        0.5 * self.misses(eye).norm_squared()
    }

    fn unknowns(&self) -> usize {
        3 + usize::from(self.focal_px.is_none()) + 2 * usize::from(self.free_centre)
    }

    /// The camera after a step: turn, logarithm of the focal length, centre in half diagonals.
    fn stepped(&self, eye: &Eye, step: &DVector<f64>) -> Eye {
        let turn = UnitQuaternion::from_scaled_axis(Vector3::new(step[0], step[1], step[2]));
        let mut rest = step.iter().skip(3);
        let mut next = Eye {
            rotation: turn * eye.rotation,
            ..*eye
        };
        if self.focal_px.is_none() {
            next.focal_px *= rest.next().copied().unwrap_or(0.0).clamp(-0.7, 0.7).exp();
        }
        if self.free_centre {
            let half = self.half_diagonal_px();
            next.centre.x += half * rest.next().copied().unwrap_or(0.0);
            next.centre.y += half * rest.next().copied().unwrap_or(0.0);
        }
        next
    }

    /// Slopes of all misses along the unknowns.
    pub fn jacobian_at(&self, eye: &Eye) -> DMatrix<f64> {
        const STEP: f64 = 1e-6;
        let count = self.unknowns();
        let mut jacobian = DMatrix::zeros(self.rails.len(), count);
        for k in 0..count {
            let moved = |by: f64| {
                let mut step = DVector::zeros(count);
                step[k] = by;
                self.misses(&self.stepped(eye, &step))
            };
            jacobian.set_column(k, &((moved(STEP) - moved(-STEP)) / (2.0 * STEP)));
        }
        jacobian
    }

    /// Levenberg-Marquardt from `eye`: the camera and its cost.
    pub fn refined(&self, eye: &Eye) -> (Eye, f64) {
        let width = f64::from(self.width_px);
        let damping = Damping {
            first: 1e-3,
            rule: Rule::Factors {
                less: 0.2,
                more: 8.0,
            },
            least: 1e-12,
            most: 1e9,
        };
        let step = |eye: &Eye, damping: f64| {
            let jacobian = self.jacobian_at(eye);
            let gradient = jacobian.tr_mul(&self.misses(eye));
            let mut normal = jacobian.tr_mul(&jacobian);
            for k in 0..normal.nrows() {
                normal[(k, k)] += damping * normal[(k, k)] + 1e-9;
            }
            let step = -normal.cholesky()?.solve(&gradient);
            let at = self.stepped(eye, &step);
            let believed = (0.02 * width..200.0 * width).contains(&at.focal_px);
            let cost = if believed {
                self.cost(&at)
            } else {
                f64::INFINITY
            };
            Some(Tried {
                at,
                cost,
                length: step.norm(),
                foreseen: f64::INFINITY,
            })
        };
        let is_enough =
            |gained: Gained| gained.by <= 1e-12 * (1.0 + gained.cost) && gained.length < 1e-9;
        descended(*eye, self.cost(eye), 60, damping, step, is_enough)
    }

    /// Covariance of the unknowns for ends with an error of 1 px; directions that the rails
    /// say nothing about are left out.
    fn covariance(&self, eye: &Eye) -> DMatrix<f64> {
        let jacobian = self.jacobian_at(eye);
        let eigen = jacobian.tr_mul(&jacobian).symmetric_eigen();
        let least = 1e-12 * eigen.eigenvalues.max();
        let inverted = eigen
            .eigenvalues
            .map(|v| if v > least { 1.0 / v } else { 0.0 });
        &eigen.eigenvectors * DMatrix::from_diagonal(&inverted) * eigen.eigenvectors.transpose()
    }

    /// Standard error of a function of the camera, for ends with an error of 1 px.
    fn sigma(&self, eye: &Eye, covariance: &DMatrix<f64>, of: impl Fn(&Eye) -> f64) -> f64 {
        const STEP: f64 = 1e-6;
        let slope = DVector::from_fn(covariance.nrows(), |k, _| {
            let moved = |by: f64| {
                let mut step = DVector::zeros(covariance.nrows());
                step[k] = by;
                of(&self.stepped(eye, &step))
            };
            (moved(STEP) - moved(-STEP)) / (2.0 * STEP)
        });
        slope.dot(&(covariance * &slope)).max(0.0).sqrt()
    }
}

/// Variance of a rail's end from the sum of squared misses and how many of them are free,
/// leaning on [`END_SIGMA_PX`].
pub fn end_variance(squares: f64, freedom: usize) -> f64 {
    (END_SIGMA_WEIGHT * END_SIGMA_PX * END_SIGMA_PX + squares) / (END_SIGMA_WEIGHT + freedom as f64)
}

/// Solves the camera of a photograph `width_px` x `height_px` from its rails.
pub fn solve(
    width_px: u32,
    height_px: u32,
    rails: &[Rail],
    options: &PhotoOptions,
) -> Result<Perspective, PhotoError> {
    let evidence = Evidence {
        rails,
        width_px,
        height_px,
        focal_px: options.focal_px,
        free_centre: options.solve_centre,
    };
    check(&evidence)?;
    let (eye, cost) = start::eyes(&evidence, 4)
        .iter()
        .map(|eye| centred_first(&evidence, eye))
        .min_by(|a, b| a.1.total_cmp(&b.1))
        .ok_or_else(|| contradiction(&evidence, None))?;
    check_real(&evidence, &eye, cost)?;
    Ok(stated(&evidence, &eye, cost, options))
}

/// With the centre in the middle first, then with it free: fewer minima to fall into.
fn centred_first(evidence: &Evidence, eye: &Eye) -> (Eye, f64) {
    if !evidence.free_centre {
        return evidence.refined(eye);
    }
    let centred = Evidence {
        free_centre: false,
        ..*evidence
    };
    evidence.refined(&centred.refined(eye).0)
}

fn check(evidence: &Evidence) -> Result<(), PhotoError> {
    let bad = |what, value, range| Err(PhotoError::OutOfRange { what, value, range });
    let (width, height) = (f64::from(evidence.width_px), f64::from(evidence.height_px));
    if evidence.width_px < 16 || evidence.height_px < 16 {
        return bad(
            "shorter side of the picture in px",
            width.min(height),
            "16 or more",
        );
    }
    if let Some(focal) = evidence.focal_px
        && !(focal.is_finite() && (0.1 * width..=50.0 * width).contains(&focal))
    {
        return bad(
            "focal length in px",
            focal,
            "between a tenth and fifty times the picture's width",
        );
    }
    for (index, rail) in evidence.rails.iter().enumerate() {
        let near = |v: f64, size: f64| v.is_finite() && (-10.0 * size..=11.0 * size).contains(&v);
        if ![rail.a, rail.b]
            .iter()
            .all(|p| near(p.x, width) && near(p.y, height))
        {
            return Err(PhotoError::NotAPlace { rail: index + 1 });
        }
        if rail.length_px() < 1.0 {
            return Err(PhotoError::NoLength { rail: index + 1 });
        }
    }
    let with_two: Vec<Axis> = axes_with_two(evidence.rails);
    match (with_two.as_slice(), evidence.focal_px) {
        ([], _) => return Err(PhotoError::TooFewRails { axes_with_two: 0 }),
        ([axis], None) => return Err(PhotoError::OneAxis { axis: *axis }),
        _ => {}
    }
    if evidence.free_centre && with_two.len() < 3 {
        return Err(PhotoError::CentreNeedsThreeAxes);
    }
    check_crossing(evidence.rails)
}

fn axes_with_two(rails: &[Rail]) -> Vec<Axis> {
    Axis::ALL
        .into_iter()
        .filter(|axis| rails.iter().filter(|r| r.axis == *axis).count() >= 2)
        .collect()
}

/// Rails of a family that meet between their ends at more than a degree or two.
fn check_crossing(rails: &[Rail]) -> Result<(), PhotoError> {
    const LEAST_SINE: f64 = 0.03;
    for (i, one) in rails.iter().enumerate() {
        for (j, other) in rails
            .iter()
            .enumerate()
            .skip(i + 1)
            .filter(|(_, o)| o.axis == one.axis)
        {
            let (p, q) = (one.b.offset_from(one.a), other.b.offset_from(other.a));
            let between = other.a.offset_from(one.a);
            let cross = p.perp(&q);
            if cross.abs() < LEAST_SINE * p.norm() * q.norm() {
                continue;
            }
            let (s, t) = (between.perp(&q) / cross, between.perp(&p) / cross);
            if (0.02..0.98).contains(&s) && (0.02..0.98).contains(&t) {
                return Err(PhotoError::CrossingRails {
                    axis: one.axis,
                    first: number_of(rails, i),
                    second: number_of(rails, j),
                });
            }
        }
    }
    Ok(())
}

/// Whether the focal length is a real one: found, believable and in keeping with the rails.
fn check_real(evidence: &Evidence, eye: &Eye, cost: f64) -> Result<(), PhotoError> {
    if evidence.focal_px.is_some() {
        return Ok(());
    }
    let width = f64::from(evidence.width_px);
    let rms = (2.0 * cost / evidence.rails.len() as f64).sqrt();
    let believed =
        (BELIEVED_WIDTHS.start * width..BELIEVED_WIDTHS.end * width).contains(&eye.focal_px);
    let sigma =
        END_SIGMA_PX.max(rms) * evidence.sigma(eye, &evidence.covariance(eye), |e| e.focal_px.ln());
    if all_parallel(evidence) || sigma > 1.0 && rms < 4.0 * END_SIGMA_PX {
        return Err(PhotoError::AllParallel);
    }
    // Rails that miss by a hundredth of the picture do not run with these axes at all.
    if !believed || rms > 0.01 * evidence.half_diagonal_px().max(400.0) {
        return Err(contradiction(evidence, Some(eye)));
    }
    Ok(())
}

/// Whether no family converges by more than the error of its ends.
fn all_parallel(evidence: &Evidence) -> bool {
    Axis::ALL.into_iter().all(|axis| {
        let family: Vec<&Rail> = evidence.rails.iter().filter(|r| r.axis == axis).collect();
        let longest = family.iter().map(|r| r.length_px()).fold(1.0, f64::max);
        family.iter().all(|one| {
            family.iter().all(|other| {
                let (p, q) = (one.line(), other.line());
                (p.x * q.y - p.y * q.x).abs() < 2.0 * END_SIGMA_PX / longest
            })
        })
    })
}

fn contradiction(evidence: &Evidence, eye: Option<&Eye>) -> PhotoError {
    let worse = match eye {
        None => "no rotation has its directions near their vanishing points".to_owned(),
        Some(eye) => {
            let misses = evidence.misses(eye);
            let rms_of = |axis: Axis| {
                let squares: Vec<f64> = evidence
                    .rails
                    .iter()
                    .zip(&misses)
                    .filter(|(r, _)| r.axis == axis)
                    .map(|(_, m)| m * m)
                    .collect();
                (squares.iter().sum::<f64>() / squares.len().max(1) as f64).sqrt()
            };
            let parts: Vec<String> = Axis::ALL
                .into_iter()
                .filter(|a| evidence.rails.iter().any(|r| r.axis == *a))
                .map(|a| format!("{a} rails would miss by {:.0} px", rms_of(a)))
                .collect();
            parts.join(", ")
        }
    };
    PhotoError::NoRealFocal { worse }
}

fn stated(evidence: &Evidence, eye: &Eye, cost: f64, options: &PhotoOptions) -> Perspective {
    let misses = evidence.misses(eye);
    let freedom = evidence.rails.len().saturating_sub(evidence.unknowns());
    let variance = end_variance(2.0 * cost, freedom);
    let end_sigma_px = variance.sqrt();
    let covariance = evidence.covariance(eye) * variance;
    let sigma = |of: &dyn Fn(&Eye) -> f64| evidence.sigma(eye, &covariance, of);
    let width = f64::from(evidence.width_px);
    let view = move |e: &Eye| 2.0 * (0.5 * width / e.focal_px).atan().to_degrees();
    let tilt = |e: &Eye| e.tilt_rad().to_degrees();
    let signs = options.flips.signs();
    let flip = Rotation3::from_matrix_unchecked(Matrix3::from_diagonal(&Vector3::from(signs)));
    let rotation = eye.rotation * UnitQuaternion::from_rotation_matrix(&flip);
    let lens = Intrinsics {
        centre: eye.centre,
        ..Intrinsics::centred(evidence.width_px, evidence.height_px, eye.focal_px)
    };
    Perspective {
        lens,
        rotation,
        focal_px: Measured {
            value: eye.focal_px,
            sigma: sigma(&|e| e.focal_px),
        },
        view_deg: Measured {
            value: view(eye),
            sigma: sigma(&view),
        },
        tilt_deg: Measured {
            value: tilt(eye),
            sigma: sigma(&tilt),
        },
        centre_sigma_px: evidence
            .free_centre
            .then(|| [sigma(&|e| e.centre.x), sigma(&|e| e.centre.y)]),
        rms_px: (misses.norm_squared() / misses.len().max(1) as f64).sqrt(),
        worst: misses.map(f64::abs).imax(),
        miss_px: misses.iter().copied().collect(),
        end_sigma_px,
        vanishing: vanishing_points(evidence, eye),
        horizon: eye.horizon().map(Into::into),
    }
}

fn vanishing_points(evidence: &Evidence, eye: &Eye) -> Vec<VanishingPoint> {
    let width = f64::from(evidence.width_px);
    Axis::ALL
        .into_iter()
        .filter(|axis| evidence.rails.iter().any(|r| r.axis == *axis))
        .map(|axis| {
            let v = eye.vanishing(&axis.unit());
            let near = v.z.abs() * 1000.0 * width > v.x.hypot(v.y);
            VanishingPoint {
                axis,
                homogeneous: v.into(),
                px: near.then(|| [v.x / v.z, v.y / v.z]),
            }
        })
        .collect()
}

impl Perspective {
    /// Its rotation, focal length and centre.
    pub fn eye(&self) -> Eye {
        Eye {
            rotation: self.rotation,
            focal_px: self.lens.focal_px,
            centre: self.lens.centre,
        }
    }

    /// Camera with its centre at `eye`, world units.
    pub fn pose(&self, eye: &nalgebra::Point3<f64>) -> Pose {
        Pose::from_parts(self.rotation, -(self.rotation * eye.coords))
    }

    /// World direction seen at a plate position, unit length.
    pub fn direction(&self, px: PlatePx) -> Vector3<f64> {
        let lens = LensPoint::new(
            (px.x - self.lens.centre.x) / self.lens.focal_px,
            (px.y - self.lens.centre.y) / self.lens.focal_px,
        );
        (self.rotation.inverse() * lens.ray()).normalize()
    }
}
