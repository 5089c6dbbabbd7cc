//! The same lens in the other convention, by refitting.
//!
//! Here terms map undistorted to distorted positions. An older convention writes the same
//! polynomial the other way round, distorted to undistorted; neither is the exact inverse of the
//! other. So positions all over the plate are paired with their undistorted places by the
//! convention that is given, and the terms of the other one are fitted to the pairs. Both
//! polynomials are linear in their terms, so the fit is one least-squares solution, and what is
//! left of it in plate px is the error of the conversion.
//!
//! Radii are measured in units of [`Intrinsics::focal_px`] in both. Lenses whose radius is
//! measured by half the width or half the diagonal state that as the unit instead.

use super::Distortion;
use crate::camera::Intrinsics;
use crate::spaces::{DistortedPoint, PlatePx};
use nalgebra::{DMatrix, DVector};
use serde::{Deserialize, Serialize};

/// What the polynomial of a lens maps.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Convention {
    /// Undistorted to distorted positions: ours.
    #[default]
    UndistortedToDistorted,
    /// Distorted to undistorted positions: the older one.
    DistortedToUndistorted,
}

/// A lens in the other convention.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
pub struct Converted {
    /// The terms.
    pub terms: Distortion,
    /// Root mean square error anywhere on the plate, px.
    pub rms_px: f64,
    /// Largest error anywhere on the plate, px.
    pub largest_px: f64,
}

/// Why a lens cannot be converted.
#[derive(Clone, Copy, Debug, PartialEq, thiserror::Error)]
pub enum ConvertError {
    /// The polynomial turns back inside the plate.
    #[error(
        "these terms fold the picture before its corner; check them, their convention and the unit of the radius"
    )]
    Folds,
    /// The polynomial throws parts of the plate far out of it.
    #[error(
        "these terms move parts of the picture by more than twice its diagonal; check them, their convention and the unit of the radius"
    )]
    Wild,
}

/// Positions across and down at which both conventions are compared.
const STEPS: u32 = 40;

/// Terms of our convention for terms of the older one; `older.distortion` holds the latter.
pub fn from_older(older: &Intrinsics) -> Result<Converted, ConvertError> {
    check_tame(older)?;
    // Here the polynomial is read at distorted radii, which the plate's corner bounds.
    if older.distortion.valid_radius() * older.focal_px < older.farthest_corner_px() {
        return Err(ConvertError::Folds);
    }
    let pairs: Vec<Pair> = plate(older)
        .map(|distorted| Pair {
            from: older.distortion.polynomial(distorted),
            to: distorted,
        })
        .collect();
    let found = fitted(&pairs, &older.distortion, older.focal_px)?;
    let lens = Intrinsics {
        distortion: found.terms,
        ..*older
    };
    // The inverse has to exist wherever the plate is.
    if lens.fold_px() < lens.farthest_corner_px() {
        Err(ConvertError::Folds)
    } else {
        Ok(found)
    }
}

/// Terms of the older convention for a lens of ours.
pub fn to_older(lens: &Intrinsics) -> Result<Converted, ConvertError> {
    check_tame(lens)?;
    let pair = |[x, y]: [f64; 2]| {
        let to = lens.distortion.undistort(DistortedPoint::new(x, y))?;
        Some(Pair {
            from: [x, y],
            to: [to.x, to.y],
        })
    };
    let pairs: Vec<Pair> = plate(lens)
        .map(pair)
        .collect::<Option<_>>()
        .ok_or(ConvertError::Folds)?;
    fitted(&pairs, &lens.distortion, lens.focal_px)
}

/// Refuses terms by what they do to the picture: whatever their convention, the polynomial moves no
/// position of the plate by more than twice its diagonal, and none to infinity.
pub fn check_tame(lens: &Intrinsics) -> Result<(), ConvertError> {
    let most_px = 2.0 * f64::from(lens.width_px).hypot(f64::from(lens.height_px));
    let is_tame = |[x, y]: [f64; 2]| {
        let to = lens.distortion.polynomial([x, y]);
        lens.focal_px * (to[0] - x).hypot(to[1] - y) <= most_px
    };
    if plate(lens).all(is_tame) {
        Ok(())
    } else {
        Err(ConvertError::Wild)
    }
}

/// A position and where the wanted polynomial has to take it, lens units; which of the two is
/// distorted depends on the convention.
struct Pair {
    from: [f64; 2],
    to: [f64; 2],
}

/// Positions all over the plate, distorted, lens units.
fn plate(lens: &Intrinsics) -> impl Iterator<Item = [f64; 2]> {
    let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let (centre, focal) = (lens.centre, lens.focal_px);
    let at = move |i: u32, j: u32| {
        let px = PlatePx::new(
            w * f64::from(i) / f64::from(STEPS),
            h * f64::from(j) / f64::from(STEPS),
        );
        [(px.x - centre.x) / focal, (px.y - centre.y) / focal]
    };
    (0..=STEPS).flat_map(move |j| (0..=STEPS).map(move |i| at(i, j)))
}

/// Least squares over three radial terms, and the tangential ones where the other lens has them.
fn fitted(pairs: &[Pair], other: &Distortion, focal_px: f64) -> Result<Converted, ConvertError> {
    if other.is_none() {
        return Ok(Converted {
            terms: Distortion::NONE,
            rms_px: 0.0,
            largest_px: 0.0,
        });
    }
    let tangential = other.p1 != 0.0 || other.p2 != 0.0;
    let count = if tangential { 5 } else { 3 };
    // Columns are scaled by the farthest radius, so that high powers are conditioned like low ones.
    let far = pairs
        .iter()
        .map(|p| p.from[0].hypot(p.from[1]))
        .fold(0.0, f64::max)
        .max(1e-9);
    let scales = [far.powi(2), far.powi(4), far.powi(6), far, far];
    let mut design = DMatrix::zeros(2 * pairs.len(), count);
    let mut wanted = DVector::zeros(2 * pairs.len());
    for (k, Pair { from, to }) in pairs.iter().enumerate() {
        let [x, y] = *from;
        let q = x * x + y * y;
        let columns = [
            (x * q, y * q),
            (x * q * q, y * q * q),
            (x * q * q * q, y * q * q * q),
            (2.0 * x * y, q + 2.0 * y * y),
            (q + 2.0 * x * x, 2.0 * x * y),
        ];
        for (c, (across, down)) in columns.into_iter().enumerate().take(count) {
            design[(2 * k, c)] = across / scales[c];
            design[(2 * k + 1, c)] = down / scales[c];
        }
        wanted[2 * k] = to[0] - x;
        wanted[2 * k + 1] = to[1] - y;
    }
    if !design.iter().chain(&wanted).all(|v| v.is_finite()) {
        return Err(ConvertError::Wild);
    }
    let found = design
        .clone()
        .svd(true, true)
        .solve(&wanted, 1e-12)
        .map_err(|_| ConvertError::Folds)?;
    let left = (design * &found - wanted) * focal_px;
    let term = |k: usize| if k < count { found[k] / scales[k] } else { 0.0 };
    let sizes = left.as_slice().chunks_exact(2).map(|e| e[0].hypot(e[1]));
    Ok(Converted {
        terms: Distortion {
            k1: term(0),
            k2: term(1),
            k3: term(2),
            p1: term(3),
            p2: term(4),
            ..Distortion::NONE
        },
        rms_px: (left.norm_squared() / pairs.len() as f64).sqrt(),
        largest_px: sizes.fold(0.0, f64::max),
    })
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use proptest::prelude::*;

    fn lens(distortion: Distortion) -> Intrinsics {
        Intrinsics {
            distortion,
            ..Intrinsics::centred(1920, 1080, 1920.0)
        }
    }

    proptest! {
        /// Domain: lenses as they are on cameras, corners moved by up to a tenth of the picture.
        #[test]
        fn there_and_back_is_the_same_lens(k1 in -0.25..0.1f64, k2 in 0.0..0.06f64, p1 in -0.002..0.002f64) {
            let ours = lens(Distortion { k1, k2, p1, ..Distortion::NONE });
            let older = to_older(&ours).unwrap();
            let again = from_older(&lens(older.terms)).unwrap();
            let far = plate(&ours).filter_map(|[x, y]| ours.distortion.undistort(DistortedPoint::new(x, y))).map(|u| {
                let (a, b) = (ours.plate_px(u), lens(again.terms).plate_px(u));
                a.distance_px(b)
            }).fold(0.0, f64::max);
            let allowed = older.largest_px + again.largest_px + 0.05;
            prop_assert!(far < allowed, "{far} px where {allowed} was said");
        }
    }

    #[test]
    fn the_stated_error_is_the_true_one() {
        let ours = lens(Distortion::radial(-0.25, 0.06));
        let older = to_older(&ours).unwrap();
        let error = |[x, y]: [f64; 2]| {
            let u = ours
                .distortion
                .undistort(DistortedPoint::new(x, y))
                .unwrap();
            let v = older.terms.polynomial([x, y]);
            1920.0 * (u.x - v[0]).hypot(u.y - v[1])
        };
        let largest = plate(&ours).map(error).fold(0.0, f64::max);
        assert!((largest - older.largest_px).abs() < 1e-6);
        assert!(older.largest_px < 0.2, "{} px", older.largest_px);
        // Signs are the other way round: a barrel widens when it is undone.
        assert!(older.terms.k1 > 0.2);
    }

    /// These sent infinities into a decomposition that never ended.
    #[test]
    fn wild_terms_are_refused_in_both_conventions() {
        let tiny = |focal_px: f64, distortion| Intrinsics {
            distortion,
            ..Intrinsics::centred(1920, 1080, focal_px)
        };
        let wild = [
            tiny(
                1.0,
                Distortion {
                    k3: 1000.0,
                    ..Distortion::NONE
                },
            ),
            tiny(1920.0, Distortion::radial(1000.0, 0.0)),
            tiny(1e-200, Distortion::radial(0.1, 0.0)),
            tiny(
                1920.0,
                Distortion {
                    p1: 1e300,
                    ..Distortion::NONE
                },
            ),
            tiny(1920.0, Distortion::radial(f64::NAN, 0.0)),
        ];
        for lens in wild {
            assert_eq!(from_older(&lens), Err(ConvertError::Wild), "{lens:?}");
            assert_eq!(to_older(&lens), Err(ConvertError::Wild), "{lens:?}");
        }
    }

    #[test]
    fn terms_that_fold_are_refused() {
        assert_eq!(
            from_older(&lens(Distortion::radial(-2.0, 0.0))),
            Err(ConvertError::Folds)
        );
        assert_eq!(
            to_older(&lens(Distortion::radial(-2.0, 0.0))),
            Err(ConvertError::Folds)
        );
    }
}
