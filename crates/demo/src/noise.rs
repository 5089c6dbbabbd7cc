//! Repeatable noise without state: hashes of lattice points, smoothed and summed.

/// 64 well-mixed bits from a seed (the finaliser of SplitMix64, Steele et al. 2014).
pub fn mix(seed: u64) -> u64 {
    let mut z = seed.wrapping_add(0x9e37_79b9_7f4a_7c15);
    z = (z ^ (z >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
    z = (z ^ (z >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
    z ^ (z >> 31)
}

/// A number in [0, 1) that belongs to the seed.
pub fn unit(seed: u64) -> f64 {
    (mix(seed) >> 11) as f64 / (1u64 << 53) as f64
}

fn lattice(x: i32, y: i32, seed: u32) -> f32 {
    let mut h = (x as u32).wrapping_mul(0x8da6_b343)
        ^ (y as u32).wrapping_mul(0xd816_3841)
        ^ seed.wrapping_mul(0xcb1a_b31f);
    h = (h ^ (h >> 15)).wrapping_mul(0x2c1b_3c6d);
    h = (h ^ (h >> 12)).wrapping_mul(0x297a_2d39);
    h ^= h >> 15;
    (h >> 8) as f32 * (1.0 / 16_777_216.0)
}

/// A value in [0, 1) that belongs to a cell of a tiling.
pub fn cell(x: i32, y: i32, seed: u32) -> f64 {
    f64::from(lattice(x, y, seed))
}

/// The whole number at or below one within 2³¹ of zero. `floor` is a call where a processor's own rounding may not be taken
/// for granted, and nearly half of drawing a plate was noise.
fn below(number: f64) -> i32 {
    let cut = number as i32;
    cut - i32::from(f64::from(cut) > number)
}

/// Smooth noise in [-1, 1] with features of size 1.
pub fn value(u: f64, v: f64, seed: u32) -> f64 {
    let (x, y) = (below(u), below(v));
    let (fx, fy) = ((u - f64::from(x)) as f32, (v - f64::from(y)) as f32);
    let smooth = |t: f32| t * t * (3.0 - 2.0 * t);
    let (sx, sy) = (smooth(fx), smooth(fy));
    let top = lattice(x, y, seed) * (1.0 - sx) + lattice(x + 1, y, seed) * sx;
    let bottom = lattice(x, y + 1, seed) * (1.0 - sx) + lattice(x + 1, y + 1, seed) * sx;
    f64::from(2.0 * (top * (1.0 - sy) + bottom * sy) - 1.0)
}

/// Octaves of noise from features of size `largest` down to `smallest` (both in the unit of
/// u and v), each `gain` times as strong as the one before; fades out at the smallest.
pub fn octaves(u: f64, v: f64, largest: f64, smallest: f64, gain: f64, seed: u32) -> f64 {
    let (mut size, mut strength, mut sum) = (largest, 1.0, 0.0);
    for octave in 0..12 {
        let fade = ((size / smallest - 1.0) * 0.5).clamp(0.0, 1.0);
        if fade <= 0.0 {
            break;
        }
        sum += strength * fade * value(u / size, v / size, seed.wrapping_add(octave * 101));
        size *= 0.5;
        strength *= gain;
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    fn the_number_below_is_the_floor(
        #[values(-2e9, -3.0, -2.999_999_999, -1e-12, -0.0, 0.0, 0.5, 0.999_999_999, 1.0, 2e9)]
        number: f64,
    ) {
        assert_eq!(f64::from(below(number)), number.floor());
    }
}
