//! The six weights of a place between px, for as many places at once as the machine's vectors hold.
//!
//! Lanczos windowed sinc of three lobes (Duchon 1979), its sum divided out. In the distance `t`
//! from the middle between the third px and the fourth, the weights of two px that mirror each
//! other are the sum and the difference of an even and an odd function; each is a polynomial in
//! `t` squared through its values at Chebyshev's points, within 1e-5 of the window. That takes
//! three operations per place; a table would have to be read six times.

use nalgebra::{SMatrix, SVector};
use pulp::Simd;
use std::f64::consts::PI;
use std::sync::OnceLock;

/// Px along one direction that take part.
pub const TAPS: usize = 6;
/// Of them, how many lie before the third, after which the place is.
pub const BEFORE: i32 = 2;

/// Terms of each polynomial.
const TERMS: usize = 4;

/// Polynomials in `t` squared, from the term without it on, of the three pairs of px from the
/// outermost to the innermost.
pub struct Kernel {
    even: [[f32; TERMS]; TAPS / 2],
    /// Divided by `t`.
    odd: [[f32; TERMS]; TAPS / 2],
}

impl Kernel {
    /// Computed once.
    pub fn get() -> &'static Self {
        static KERNEL: OnceLock<Kernel> = OnceLock::new();
        KERNEL.get_or_init(|| {
            let mirrored = |k: usize, t: f64| (lanczos(t)[k], lanczos(t)[TAPS - 1 - k]);
            let even = |k: usize| through(|t| 0.5 * (mirrored(k, t).0 + mirrored(k, t).1));
            let odd = |k: usize| through(|t| 0.5 * (mirrored(k, t).0 - mirrored(k, t).1) / t);
            Self {
                even: std::array::from_fn(even),
                odd: std::array::from_fn(odd),
            }
        })
    }

    /// Weights of the six px around places `t` beyond the middle of the inner two, -0.5 to 0.5 px.
    #[inline(always)]
    pub fn weights<S: Simd>(&self, simd: S, t: S::f32s) -> [S::f32s; TAPS] {
        let square = simd.mul_f32s(t, t);
        let mut weights = [t; TAPS];
        for k in 0..TAPS / 2 {
            let even = polynomial(simd, &self.even[k], square);
            let odd = simd.mul_f32s(t, polynomial(simd, &self.odd[k], square));
            weights[k] = simd.add_f32s(even, odd);
            weights[TAPS - 1 - k] = simd.sub_f32s(even, odd);
        }
        weights
    }
}

#[inline(always)]
fn polynomial<S: Simd>(simd: S, terms: &[f32; TERMS], u: S::f32s) -> S::f32s {
    let mut value = simd.splat_f32s(terms[TERMS - 1]);
    for term in terms[..TERMS - 1].iter().rev() {
        value = simd.mul_add_e_f32s(value, u, simd.splat_f32s(*term));
    }
    value
}

/// The weights themselves.
fn lanczos(t: f64) -> [f64; TAPS] {
    let sinc = |x: f64| if x.abs() < 1e-9 { 1.0 } else { x.sin() / x };
    let weights: [f64; TAPS] = std::array::from_fn(|k| {
        let x = t + 0.5 - (k as f64 - f64::from(BEFORE));
        if x.abs() < 3.0 {
            sinc(PI * x) * sinc(PI * x / 3.0)
        } else {
            0.0
        }
    });
    let total: f64 = weights.iter().sum();
    weights.map(|w| w / total)
}

/// The polynomial in `t` squared through a function's values at Chebyshev's points.
fn through(value: impl Fn(f64) -> f64) -> [f32; TERMS] {
    let squares: [f64; TERMS] =
        std::array::from_fn(|i| 0.125 * (1.0 + (PI * (i as f64 + 0.5) / TERMS as f64).cos()));
    let powers = SMatrix::<f64, TERMS, TERMS>::from_fn(|i, j| squares[i].powi(j as i32));
    let values = SVector::<f64, TERMS>::from_fn(|i, _| value(squares[i].sqrt()));
    let terms = powers.lu().solve(&values).unwrap_or_default();
    std::array::from_fn(|i| terms[i] as f32)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn polynomials_are_the_window() {
        for step in -500..=500 {
            let t = f64::from(step) / 1000.0;
            let weights = Kernel::get().weights(pulp::Scalar::new(), t as f32);
            let worst = weights
                .iter()
                .zip(lanczos(t))
                .map(|(a, b)| (f64::from(*a) - b).abs())
                .fold(0.0, f64::max);
            assert!(worst < 1e-5, "{worst} at {t}");
            assert!((weights.iter().sum::<f32>() - 1.0).abs() < 1e-6);
        }
    }
}
