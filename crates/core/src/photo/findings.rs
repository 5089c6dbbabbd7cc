//! What the rails do not say well, in findings with their evidence.
//!
//! Lens and cropping are tested without solving again: further unknowns are added to the
//! linearised problem at the solution, and their estimates held against their standard errors
//! (a Wald test; Wald 1943).

use super::perspective::{Evidence, Eye, Perspective, PhotoOptions, end_variance};
use super::rails::{Axis, Rail, number_of};
use crate::spaces::PlatePx;
use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};

impl PhotoFinding {
    /// Whether it speaks against relying on the camera without having looked.
    pub fn is_doubt(&self) -> bool {
        !matches!(self, Self::VanishingInside { .. })
    }
}

/// Something the artist should know about the rails or the picture.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum PhotoFinding {
    /// One family only: the picture's upright was taken.
    OneFamily {
        /// The family.
        axis: Axis,
    },
    /// Rails of a family lie side by side.
    TooClose {
        /// The family.
        axis: Axis,
        /// Greatest distance between them, px.
        apart_px: f64,
    },
    /// A family has nothing to spare: an error in one of its rails does not show.
    Unchecked {
        /// The family.
        axis: Axis,
    },
    /// Rails of a family hardly converge, and the focal length suffers.
    NearlyParallel {
        /// The family.
        axis: Axis,
        /// Greatest angle between them in the picture, degrees.
        converge_deg: f64,
    },
    /// The focal length is uncertain.
    FocalUncertain {
        /// One standard error, percent.
        percent: f64,
    },
    /// A vanishing point lies in the picture.
    VanishingInside {
        /// The family.
        axis: Axis,
        /// Where, px.
        px: [f64; 2],
    },
    /// Rails miss as they would through a bent lens.
    LensBends {
        /// By how much in the corner, px, outwards positive.
        corner_px: f64,
        /// Of how many standard errors that is.
        sigmas: f64,
    },
    /// The centre was found far from the middle, or would be.
    Cropped {
        /// Offset from the middle, px.
        off_px: [f64; 2],
        /// Of how many standard errors that is.
        sigmas: f64,
        /// Whether the centre was free.
        solved: bool,
    },
    /// One rail misses by much more than the others.
    RailMisses {
        /// Its number among those of its direction, from 1.
        rail: usize,
        /// Its direction.
        axis: Axis,
        /// Its miss, px.
        miss_px: f64,
    },
}

impl std::fmt::Display for PhotoFinding {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::OneFamily { axis } => write!(
                f,
                "Only {axis} rails are laid: the turn about that direction is not measured, the picture's own upright is taken. Lay rails of a second direction."
            ),
            Self::TooClose { axis, apart_px } => write!(
                f,
                "The {axis} rails lie within {apart_px:.0} px of each other. Lay one farther off, at the other side of the picture."
            ),
            Self::Unchecked { axis } => write!(
                f,
                "Only two {axis} rails are laid: if one of them is on the wrong edge, no figure shows it. Lay a third."
            ),
            Self::NearlyParallel { axis, converge_deg } => write!(
                f,
                "The {axis} rails are parallel in the picture to {converge_deg:.1}°. Its vanishing point hardly helps the focal length."
            ),
            Self::FocalUncertain { percent } => write!(
                f,
                "The focal length is certain to {percent:.1} % only. Add rails of the direction that recedes, long and far apart, or state the focal length."
            ),
            Self::VanishingInside { axis, px } => write!(
                f,
                "The vanishing point of the {axis} rails lies in the picture, at {:.0}, {:.0}: you look their way.",
                px[0], px[1]
            ),
            Self::LensBends { corner_px, sigmas } => write!(
                f,
                "The rails miss as through a lens that bends by {corner_px:+.1} px in the corner ({sigmas:.1} standard errors). Remove the distortion first, or lay rails nearer to the middle."
            ),
            Self::Cropped {
                off_px,
                sigmas,
                solved: false,
            } => write!(
                f,
                "The rails fit better with the centre {:+.0}, {:+.0} px from the middle ({sigmas:.1} standard errors). Is the picture cropped? Free the centre.",
                off_px[0], off_px[1]
            ),
            Self::Cropped {
                off_px,
                sigmas,
                solved: true,
            } => write!(
                f,
                "The centre is {:+.0}, {:+.0} px from the middle ({sigmas:.1} standard errors): the picture seems cropped or shifted.",
                off_px[0], off_px[1]
            ),
            Self::RailMisses {
                rail,
                axis,
                miss_px,
            } => write!(
                f,
                "The {axis} rail {rail} misses its vanishing point by {:.1} px, far more than the others. Is it on the right edge, and does that run {axis}?",
                miss_px.abs()
            ),
        }
    }
}

/// Findings about a solved photograph.
pub fn findings(rails: &[Rail], options: &PhotoOptions, solved: &Perspective) -> Vec<PhotoFinding> {
    let evidence = Evidence {
        rails,
        width_px: solved.lens.width_px,
        height_px: solved.lens.height_px,
        focal_px: options.focal_px,
        free_centre: options.solve_centre,
    };
    // Flipped axes have the same vanishing points, so that misses only change their sign.
    let eye = solved.eye();
    let mut out = Vec::new();
    let laid: Vec<Axis> = Axis::ALL
        .into_iter()
        .filter(|a| rails.iter().filter(|r| r.axis == *a).count() >= 2)
        .collect();
    if let [axis] = laid.as_slice() {
        out.push(PhotoFinding::OneFamily { axis: *axis });
    }
    if options.focal_px.is_none() {
        let pairs = laid
            .iter()
            .filter(|a| rails.iter().filter(|r| r.axis == **a).count() == 2);
        out.extend(pairs.map(|axis| PhotoFinding::Unchecked { axis: *axis }));
    }
    let focal_percent = 100.0 * solved.focal_px.sigma / solved.focal_px.value;
    out.extend(
        laid.iter()
            .filter_map(|axis| family(&evidence, *axis, focal_percent)),
    );
    if focal_percent > 3.0 {
        out.push(PhotoFinding::FocalUncertain {
            percent: focal_percent,
        });
    }
    out.extend(inside(solved));
    out.extend(rail_that_misses(rails, solved));
    out.extend(bent(&evidence, &eye));
    out.extend(cropped(&evidence, &eye, solved, laid.len()));
    out
}

fn family(evidence: &Evidence, axis: Axis, focal_percent: f64) -> Option<PhotoFinding> {
    let rails: Vec<&Rail> = evidence.rails.iter().filter(|r| r.axis == axis).collect();
    let pairs = || {
        rails
            .iter()
            .enumerate()
            .flat_map(|(i, a)| rails[i + 1..].iter().map(move |b| (*a, *b)))
    };
    let distance = |a: &Rail, p: PlatePx| {
        let line = a.line();
        (line.x * p.x + line.y * p.y + line.z).abs()
    };
    let apart_px = pairs()
        .map(|(a, b)| distance(a, b.middle()).max(distance(b, a.middle())))
        .fold(0.0, f64::max);
    if apart_px < 0.05 * evidence.half_diagonal_px() {
        return Some(PhotoFinding::TooClose { axis, apart_px });
    }
    let sine = |a: &Rail, b: &Rail| {
        let (p, q) = (a.line(), b.line());
        (p.x * q.y - p.y * q.x).abs()
    };
    let converge_deg = pairs()
        .map(|(a, b)| sine(a, b))
        .fold(0.0, f64::max)
        .min(1.0)
        .asin()
        .to_degrees();
    (converge_deg < 2.0 && focal_percent > 2.0)
        .then_some(PhotoFinding::NearlyParallel { axis, converge_deg })
}

fn inside(solved: &Perspective) -> Vec<PhotoFinding> {
    let (width, height) = (
        f64::from(solved.lens.width_px),
        f64::from(solved.lens.height_px),
    );
    let in_picture =
        |px: &[f64; 2]| (0.0..width).contains(&px[0]) && (0.0..height).contains(&px[1]);
    let found = solved
        .vanishing
        .iter()
        .filter_map(|v| Some((v.axis, v.px.filter(in_picture)?)));
    found
        .map(|(axis, px)| PhotoFinding::VanishingInside { axis, px })
        .collect()
}

fn rail_that_misses(rails: &[Rail], solved: &Perspective) -> Option<PhotoFinding> {
    let miss_px = *solved.miss_px.get(solved.worst)?;
    let others: f64 = solved.miss_px.iter().map(|m| m * m).sum::<f64>() - miss_px * miss_px;
    let typical = (others / (rails.len() as f64 - 1.0).max(1.0))
        .sqrt()
        .max(super::perspective::END_SIGMA_PX);
    (miss_px.abs() > 4.0 * typical).then(|| PhotoFinding::RailMisses {
        rail: number_of(rails, solved.worst),
        axis: rails[solved.worst].axis,
        miss_px,
    })
}

/// Rails that have to be left once all unknowns are paid for.
const LEAST_SPARE: usize = 4;

/// Estimates and standard errors of further unknowns, each given by the change of all
/// misses that one unit of it makes. The error of a rail's end is that which is left with them.
fn added(evidence: &Evidence, eye: &Eye, changes: &[DVector<f64>]) -> Option<Vec<(f64, f64)>> {
    let own = evidence.jacobian_at(eye);
    let mut all = DMatrix::zeros(own.nrows(), own.ncols() + changes.len());
    all.columns_mut(0, own.ncols()).copy_from(&own);
    for (k, change) in changes.iter().enumerate() {
        all.set_column(own.ncols() + k, change);
    }
    // Fewer rails to spare would make a crop or a lens out of a slip of the hand.
    if all.nrows() < all.ncols() + LEAST_SPARE {
        return None;
    }
    let inverse = all.tr_mul(&all).try_inverse()?;
    let misses = evidence.misses(eye);
    let estimate = -(&inverse * all.tr_mul(&misses));
    let left = misses + &all * &estimate;
    let end_sigma_px = end_variance(left.norm_squared(), all.nrows() - all.ncols()).sqrt();
    let of = |k: usize| {
        (
            estimate[own.ncols() + k],
            end_sigma_px * inverse[(own.ncols() + k, own.ncols() + k)].sqrt(),
        )
    };
    Some((0..changes.len()).map(of).collect())
}

/// A lens that moves points by k r³, k in px at the corner.
fn bent(evidence: &Evidence, eye: &Eye) -> Option<PhotoFinding> {
    let half = evidence.half_diagonal_px();
    let straightened = |px: PlatePx, k: f64| {
        let off = px.offset_from(eye.centre) / half;
        px.moved(-off * off.norm_squared() * k)
    };
    let misses = |k: f64| {
        let moved: Vec<Rail> = evidence
            .rails
            .iter()
            .map(|r| Rail {
                a: straightened(r.a, k),
                b: straightened(r.b, k),
                ..*r
            })
            .collect();
        Evidence {
            rails: &moved,
            ..*evidence
        }
        .misses(eye)
    };
    let change = (misses(0.5) - misses(-0.5)) / 1.0;
    let (corner_px, sigma) = *added(evidence, eye, &[change])?.first()?;
    let sigmas = corner_px.abs() / sigma;
    (sigmas > 4.0 && corner_px.abs() > 3.0 && evidence.rails.len() >= 8)
        .then_some(PhotoFinding::LensBends { corner_px, sigmas })
}

fn cropped(
    evidence: &Evidence,
    eye: &Eye,
    solved: &Perspective,
    families: usize,
) -> Option<PhotoFinding> {
    let middle = evidence.middle();
    let (off_px, sigma_px, is_solved) = match solved.centre_sigma_px {
        Some(sigma_px) => (
            [eye.centre.x - middle.x, eye.centre.y - middle.y],
            sigma_px,
            true,
        ),
        None if families == 3 && evidence.focal_px.is_none() => {
            let change = |dx: f64, dy: f64| {
                let moved = |s: f64| {
                    let centre = PlatePx::new(eye.centre.x + s * dx, eye.centre.y + s * dy);
                    evidence.misses(&Eye { centre, ..*eye })
                };
                moved(0.5) - moved(-0.5)
            };
            let found = added(evidence, eye, &[change(1.0, 0.0), change(0.0, 1.0)])?;
            ([found[0].0, found[1].0], [found[0].1, found[1].1], false)
        }
        None => return None,
    };
    let sigmas = (off_px[0] / sigma_px[0])
        .abs()
        .max((off_px[1] / sigma_px[1]).abs());
    let far = off_px[0].hypot(off_px[1]) > 0.06 * evidence.half_diagonal_px();
    (sigmas > 4.0 && far).then_some(PhotoFinding::Cropped {
        off_px,
        sigmas,
        solved: is_solved,
    })
}
