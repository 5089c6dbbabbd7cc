//! Inner loops in the vectors of the machine at hand: AVX-512, AVX2 with FMA, NEON, or one value
//! at a time.
//!
//! Left to itself, the compiler turns reductions over f32 into pairs and shuffles that take
//! twice to four times as long. What runs in here has to be always inlined, and does without
//! closures, which would be compiled without the vector instructions.

use pulp::{Simd, WithSimd};

/// Runs `work` with the machine's vectors, of at most sixteen values: for rows of many values.
#[inline(always)]
pub fn wide_vectors<W: WithSimd>(work: W) -> W::Output {
    #[cfg(target_arch = "x86_64")]
    if let Some(simd) = pulp::x86::V4::try_new() {
        return Simd::vectorize(simd, work);
    }
    vectors(work)
}

/// Runs `work` with the machine's vectors, of at most eight values: for rows as short as a pattern's.
#[inline(always)]
pub fn vectors<W: WithSimd>(work: W) -> W::Output {
    #[cfg(target_arch = "x86_64")]
    if let Some(simd) = pulp::x86::V3::try_new() {
        return Simd::vectorize(simd, work);
    }
    #[cfg(target_arch = "aarch64")]
    if let Some(simd) = pulp::aarch64::Neon::try_new() {
        return Simd::vectorize(simd, work);
    }
    Simd::vectorize(pulp::Scalar, work)
}
