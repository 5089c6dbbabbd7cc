//! Lens distortion: the map from undistorted to distorted lens coordinates and back.
//!
//! The usual open definition (Brown 1966), with r² = x² + y²:
//!
//! ```text
//! x_d = x (1 + k1 r² + k2 r⁴ + k3 r⁶) + 2 p1 x y + p2 (r² + 2 x²)
//! y_d = y (1 + k1 r² + k2 r⁴ + k3 r⁶) + p1 (r² + 2 y²) + 2 p2 x y
//! ```
//!
//! The inverse is solved by Newton's method. It exists only inside the radius in which
//! the radial map still grows; outside it `undistort` answers `None`.
//!
//! [`straights`] finds a lens from things that are straight in reality, whose marks [`edge`]
//! puts on the picture's edges; [`convert`] speaks the older convention; [`maps`] says where
//! every px of a straight picture comes from, [`resample`] takes it there, [`mesh`] and [`grid`] show it;
//! [`stated`] takes a lens from its values; [`terms`] are its numbers that can be solved;
//! [`correct`] lets a solve use a lens that is known from elsewhere.

pub mod convert;
pub mod correct;
pub mod edge;
pub mod grid;
pub mod maps;
pub mod mesh;
pub mod resample;
pub mod stated;
pub mod straights;
pub mod terms;

pub use terms::{LensTerms, Term};

use crate::spaces::{DistortedPoint, LensPoint};
use nalgebra::{Matrix2, Vector2};
use serde::{Deserialize, Serialize};

/// Radial and tangential terms, undistorted to distorted.
#[derive(Clone, Copy, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Distortion {
    /// Radial, r².
    #[serde(default)]
    pub k1: f64,
    /// Radial, r⁴.
    #[serde(default)]
    pub k2: f64,
    /// Radial, r⁶.
    #[serde(default)]
    pub k3: f64,
    /// Tangential.
    #[serde(default)]
    pub p1: f64,
    /// Tangential.
    #[serde(default)]
    pub p2: f64,
    /// By how much k1 changes while the focal length grows to e times, where the lens zooms.
    #[serde(default, skip_serializing_if = "is_zero")]
    pub k1_by_zoom: f64,
}

fn is_zero(value: &f64) -> bool {
    *value == 0.0
}

/// Largest change of a Newton step at which the inverse counts as found, lens units.
const INVERSE_TOLERANCE: f64 = 1e-12;

impl Distortion {
    /// A lens that draws straight things straight.
    pub const NONE: Self = Self {
        k1: 0.0,
        k2: 0.0,
        k3: 0.0,
        p1: 0.0,
        p2: 0.0,
        k1_by_zoom: 0.0,
    };

    /// Two radial terms.
    pub const fn radial(k1: f64, k2: f64) -> Self {
        Self {
            k1,
            k2,
            ..Self::NONE
        }
    }

    /// The terms at another focal length, `by` times as long: k1 follows it.
    pub fn zoomed(self, by: f64) -> Self {
        // Hot, and of most lenses not known.
        if self.k1_by_zoom == 0.0 {
            return self;
        }
        Self {
            k1: self.k1 + self.k1_by_zoom * by.ln(),
            ..self
        }
    }

    /// True when all terms are zero.
    pub fn is_none(&self) -> bool {
        *self == Self::NONE
    }

    /// Distorted from undistorted lens coordinates.
    pub fn distort(&self, p: LensPoint) -> DistortedPoint {
        let [x, y] = self.polynomial([p.x, p.y]);
        DistortedPoint::new(x, y)
    }

    /// The polynomial alone, whichever way a convention reads it; lens units.
    pub fn polynomial(&self, [x, y]: [f64; 2]) -> [f64; 2] {
        let r2 = x * x + y * y;
        let radial = 1.0 + r2 * (self.k1 + r2 * (self.k2 + r2 * self.k3));
        [
            x * radial + 2.0 * self.p1 * x * y + self.p2 * (r2 + 2.0 * x * x),
            y * radial + self.p1 * (r2 + 2.0 * y * y) + 2.0 * self.p2 * x * y,
        ]
    }

    /// d(distorted)/d(undistorted) at `p`.
    pub fn jacobian(&self, p: LensPoint) -> Matrix2<f64> {
        let (x, y) = (p.x, p.y);
        let r2 = x * x + y * y;
        let radial = 1.0 + r2 * (self.k1 + r2 * (self.k2 + r2 * self.k3));
        let slope = 2.0 * (self.k1 + r2 * (2.0 * self.k2 + r2 * 3.0 * self.k3));
        let cross = x * y * slope + 2.0 * self.p1 * x + 2.0 * self.p2 * y;
        Matrix2::new(
            radial + x * x * slope + 2.0 * self.p1 * y + 6.0 * self.p2 * x,
            cross,
            cross,
            radial + y * y * slope + 6.0 * self.p1 * y + 2.0 * self.p2 * x,
        )
    }

    /// The undistorted radius up to which the radial map grows, infinite if it always does.
    ///
    /// The first positive root of `1 + 3 k1 q + 5 k2 q² + 7 k3 q³`, q = r².
    pub fn valid_radius(&self) -> f64 {
        let slope = |q: f64| 1.0 + q * (3.0 * self.k1 + q * (5.0 * self.k2 + q * 7.0 * self.k3));
        if self.k1 >= 0.0 && self.k2 >= 0.0 && self.k3 >= 0.0 {
            return f64::INFINITY;
        }
        if self.k3 == 0.0 {
            return first_turn_of_two_terms(self.k1, self.k2);
        }
        // A picture corner beyond a tangent of 4 (76 degrees off axis) is not a rectilinear lens.
        const STEPS: u32 = 400;
        const FAR: f64 = 16.0;
        let mut low = 0.0;
        for step in 1..=STEPS {
            let high = FAR * f64::from(step) / f64::from(STEPS);
            if slope(high) <= 0.0 {
                return bisect(low, high, slope).sqrt();
            }
            low = high;
        }
        f64::INFINITY
    }

    /// Undistorted from distorted lens coordinates, to 1e-9 or better. `None` where the
    /// map folds back and no inverse exists.
    pub fn undistort(&self, distorted: DistortedPoint) -> Option<LensPoint> {
        let same = LensPoint::new(distorted.x, distorted.y);
        if self.is_none() {
            return Some(same);
        }
        self.undistort_near(distorted, same)
    }

    /// The same from a guess, such as the answer for a neighbouring position.
    pub fn undistort_near(&self, distorted: DistortedPoint, guess: LensPoint) -> Option<LensPoint> {
        let limit = self.valid_radius();
        let target = Vector2::new(distorted.x, distorted.y);
        let mut guess = Vector2::new(guess.x, guess.y);
        if guess.norm() > limit {
            guess *= 0.95 * limit / guess.norm();
        }
        for _ in 0..40 {
            let at = LensPoint::new(guess.x, guess.y);
            let d = self.distort(at);
            let step = self
                .jacobian(at)
                .lu()
                .solve(&(Vector2::new(d.x, d.y) - target))?;
            guess -= step;
            if guess.norm() > limit {
                guess *= 0.999 * limit / guess.norm();
            }
            if step.norm() < INVERSE_TOLERANCE {
                break;
            }
        }
        let found = LensPoint::new(guess.x, guess.y);
        let back = self.distort(found);
        let off = (back.x - distorted.x).hypot(back.y - distorted.y);
        (off < 1e-9).then_some(found)
    }
}

/// Root of the smallest positive q with `1 + 3 k1 q + 5 k2 q² = 0`.
fn first_turn_of_two_terms(k1: f64, k2: f64) -> f64 {
    let (b, a) = (3.0 * k1, 5.0 * k2);
    if a == 0.0 {
        return if b < 0.0 {
            (-1.0 / b).sqrt()
        } else {
            f64::INFINITY
        };
    }
    let root = b * b - 4.0 * a;
    if root < 0.0 {
        return f64::INFINITY;
    }
    // The numerically stable form; both solutions, the smaller positive one counts.
    let half = -0.5 * (b + b.signum() * root.sqrt());
    [half / a, 1.0 / half]
        .into_iter()
        .filter(|q| *q > 0.0)
        .fold(f64::INFINITY, f64::min)
        .sqrt()
}

fn bisect(mut low: f64, mut high: f64, f: impl Fn(f64) -> f64) -> f64 {
    for _ in 0..60 {
        let middle = 0.5 * (low + high);
        if f(middle) > 0.0 {
            low = middle
        } else {
            high = middle
        }
    }
    low
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        /// Domain: terms of real lenses, inside the valid radius and a tangent of 0.9.
        #[test]
        fn undistort_after_distort_is_identity(
            k1 in -0.3..0.3f64, k2 in -0.08..0.08f64, p1 in -0.005..0.005f64, p2 in -0.005..0.005f64,
            x in -0.6..0.6f64, y in -0.6..0.6f64,
        ) {
            let lens = Distortion { k1, k2, p1, p2, ..Distortion::NONE };
            prop_assume!(x.hypot(y) < 0.9 * lens.valid_radius());
            let back = lens.undistort(lens.distort(LensPoint::new(x, y)));
            prop_assert!(back.is_some_and(|b| (b.x - x).hypot(b.y - y) < 1e-9));
        }

        #[test]
        fn the_jacobian_is_the_numeric_one(
            k1 in -0.3..0.3f64, k2 in -0.1..0.1f64, k3 in -0.02..0.02f64, p1 in -0.01..0.01f64, p2 in -0.01..0.01f64,
            x in -0.8..0.8f64, y in -0.8..0.8f64,
        ) {
            let lens = Distortion { k1, k2, k3, p1, p2, ..Distortion::NONE };
            let h = 1e-6;
            let analytic = lens.jacobian(LensPoint::new(x, y));
            for (axis, (dx, dy)) in [(h, 0.0), (0.0, h)].into_iter().enumerate() {
                let above = lens.distort(LensPoint::new(x + dx, y + dy));
                let below = lens.distort(LensPoint::new(x - dx, y - dy));
                prop_assert!(((above.x - below.x) / (2.0 * h) - analytic[(0, axis)]).abs() < 1e-7);
                prop_assert!(((above.y - below.y) / (2.0 * h) - analytic[(1, axis)]).abs() < 1e-7);
            }
        }
    }

    #[test]
    fn beyond_the_fold_there_is_no_inverse() {
        let folding = Distortion::radial(-0.5, 0.0);
        let turn = folding.valid_radius();
        assert!((turn - (2.0f64 / 3.0).sqrt()).abs() < 1e-6);
        let outermost = folding.distort(LensPoint::new(turn, 0.0)).x;
        assert!(
            folding
                .undistort(DistortedPoint::new(outermost * 1.01, 0.0))
                .is_none()
        );
        assert!(
            folding
                .undistort(DistortedPoint::new(outermost * 0.98, 0.0))
                .is_some()
        );
    }
}
