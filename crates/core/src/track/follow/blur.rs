//! What changes when a patch is blurred: by the camera's motion while the shutter is open, by focus.
//!
//! A picture smeared by a small symmetric kernel differs from the sharp one by its second derivatives
//! times the kernel's second moments (Taylor's theorem). Left in, that difference pulls a patch to
//! the side where its detail is richer, since the patch ends somewhere; a step that is blind to
//! the second derivatives, as it is to gain and bias, does not see it. Differences over two and four px
//! rather than one span kernels of some px, and answer to noise less.
//!
//! Light is blurred, and levels are shown light: an edge that is smeared in light moves to its dark
//! side in levels, by a third of a px where a bright stone passes by some px. Hence derivatives are
//! those of the light, brought back to levels. That light goes with the square of a level is near enough.

use super::kernels::{comparison_sums, dot, less_mean, products, second_differences, take};
use super::sampling::sample_block;
use super::window::Window;
use super::{Reference, Scratch};
use crate::track::picture::Plane;
use nalgebra::Vector2;
use pulp::{Simd, WithSimd};

/// Second derivatives of a picture: across, down and mixed, over two distances.
pub const BLURS: usize = 6;
/// Px between the values whose differences they are.
const APART: [usize; 2] = [2, 4];
/// Px around a patch that they reach to.
pub const BORDER: usize = 4;

/// The second derivatives of the patch around `centre`, which is in the scratch.
#[inline(always)]
pub fn derivatives<S: Simd>(
    simd: S,
    picture: &Plane,
    centre: Vector2<f64>,
    side: usize,
    scratch: &mut Scratch,
) -> [Vec<f32>; BLURS] {
    let Scratch {
        block, template, ..
    } = scratch;
    let reach = side as f64 / 2.0 + BORDER as f64;
    sample_block(
        simd,
        picture,
        centre.x - reach,
        centre.y - reach,
        side + 2 * BORDER,
        block,
    );
    block
        .iter_mut()
        .for_each(|level| *level = level.max(0.0).powi(2));
    let mut out = [(); BLURS].map(|()| vec![0.0; template.len()]);
    for (apart, out) in APART.into_iter().zip(out.as_chunks_mut().0) {
        second_differences(simd, block, side, apart, out.each_mut().map(|o| &mut o[..]));
    }
    for image in &mut out {
        image
            .iter_mut()
            .zip(&*template)
            .for_each(|(v, level)| *v /= 2.0 * level.max(DARK));
    }
    out
}

/// Makes derivatives orthogonal in the weighted sense to 1, to `centred` (whose weighted square sum is
/// `energy`) and to each other, and of length 1. Zero where there is nothing to blur.
#[inline(always)]
pub fn make_orthonormal<S: Simd>(
    simd: S,
    derivatives: &mut [Vec<f32>; BLURS],
    (centred, energy): (&[f32], f32),
    window: &Window,
) {
    for k in 0..BLURS {
        let (before, rest) = derivatives.split_at_mut(k);
        let image = &mut rest[0];
        let mean = dot(simd, image, &window.weights) / window.total;
        less_mean(simd, image, &window.inside, mean);
        let earlier = before.iter().map(|b| (&b[..], 1.0));
        for (other, length) in std::iter::once((centred, energy)).chain(earlier) {
            let along = comparison_sums(simd, &window.weights, image, other, 0.0)[2] / length;
            take(simd, image, [other], [along]);
        }
        let length = comparison_sums(simd, &window.weights, image, image, 0.0)[1].sqrt();
        let scale = if length > LEAST { 1.0 / length } else { 0.0 };
        image.iter_mut().for_each(|v| *v *= scale);
    }
}

/// In darker levels noise is all that their square tells.
const DARK: f32 = 8.0;
/// Length below which a derivative is nothing but rounding.
const LEAST: f32 = 1e-2;

/// Six derivatives explain six times the variance of white noise by chance, and 23 times in one of
/// a thousand patches (chi-squared); of smoothed noise, which has more of what they answer to, half as much again.
pub const EVIDENT: f64 = 34.0;

impl Reference {
    /// So much of each derivative is in a sampled patch.
    #[inline(always)]
    pub fn by_blur<S: Simd>(&self, simd: S, sampled: &[f32], weights: &[f32]) -> [f32; BLURS] {
        products(
            simd,
            weights,
            sampled,
            self.blurs.each_ref().map(|b| &b[..]),
            self.weighted_mean,
        )
    }
}

/// The weighted square sum that blur explains of the patch sampled last.
pub struct ByBlur<'a> {
    /// What it is held against.
    pub reference: &'a Reference,
    /// Where it is.
    pub scratch: &'a Scratch,
}

impl WithSimd for ByBlur<'_> {
    type Output = f64;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> f64 {
        let Self { reference, scratch } = self;
        reference
            .by_blur(simd, &scratch.sampled, &scratch.window.weights)
            .iter()
            .map(|b| f64::from(b * b))
            .sum()
    }
}
