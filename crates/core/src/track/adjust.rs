//! Adjusts the picture that features are followed in, and nothing else: what is delivered never
//! sees it.
//!
//! In this order: channels are mixed to grey; noise is smoothed; exposure, gamma and contrast
//! change the levels. Values may pass 0 and 255: nothing is clipped that could still be followed.
//!
//! Noise: Lee's sigma filter (1983), the mean of those of 5 x 5 neighbours that differ by less
//! than twice the noise of the picture, which leaves edges and corners where they are.

use super::picture::Plane;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};

/// How the picture is adjusted for following.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Adjustment {
    /// Brighter by so many stops, for a screen of gamma 2.2.
    pub exposure_stops: f64,
    /// Spread of levels about the middle; 1 changes nothing.
    pub contrast: f64,
    /// Lifts the darks above 1; 1 changes nothing.
    pub gamma: f64,
    /// Shares of red, green and blue in the grey; scaled so that they add up to 1.
    pub mix: [f64; 3],
    /// Whether noise is smoothed.
    pub denoise: bool,
}

/// Rec. 709 luma weights, on the values as they are coded.
pub const LUMA: [f64; 3] = [0.2126, 0.7152, 0.0722];

impl Default for Adjustment {
    fn default() -> Self {
        Self {
            exposure_stops: 0.0,
            contrast: 1.0,
            gamma: 1.0,
            mix: LUMA,
            denoise: false,
        }
    }
}

impl Adjustment {
    /// Whether it changes anything.
    pub fn is_none(&self) -> bool {
        *self == Self::default()
    }

    /// What cannot be, if anything.
    pub fn complaint(&self) -> Option<&'static str> {
        let inside = |v: f64, low: f64, high: f64| v.is_finite() && (low..=high).contains(&v);
        match self {
            a if !inside(a.exposure_stops, -10.0, 10.0) => {
                Some("exposure lies between -10 and 10 stops")
            }
            a if !inside(a.contrast, 0.1, 10.0) => Some("contrast lies between 0.1 and 10"),
            a if !inside(a.gamma, 0.1, 10.0) => Some("gamma lies between 0.1 and 10"),
            a if !a.mix.iter().all(|m| inside(*m, 0.0, 10.0))
                || a.mix.iter().sum::<f64>() < 1e-6 =>
            {
                Some("the channels are mixed in shares of 0 or more, one of them above 0")
            }
            _ => None,
        }
    }

    /// Shares of the channels that add up to 1.
    pub fn shares(&self) -> [f32; 3] {
        let sum: f64 = self.mix.iter().sum();
        self.mix.map(|m| (m / sum) as f32)
    }

    /// The levels of a picture whose channels are mixed already.
    pub fn applied(&self, picture: Plane) -> Plane {
        let smooth = if self.denoise {
            denoised(&picture)
        } else {
            picture
        };
        let gain = (self.exposure_stops / 2.2).exp2() as f32;
        let (contrast, lift) = (self.contrast as f32, 1.0 / self.gamma as f32);
        if gain == 1.0 && contrast == 1.0 && lift == 1.0 {
            return smooth;
        }
        let level = |v: &f32| {
            let bright = v * gain / 255.0;
            let lifted = if lift == 1.0 {
                bright
            } else {
                bright.max(0.0).powf(lift)
            };
            (255.0 * lifted - 127.5) * contrast + 127.5
        };
        let (width, height) = (smooth.width(), smooth.height());
        let levels = smooth
            .levels()
            .par_iter()
            .with_min_len(1 << 14)
            .map(level)
            .collect();
        Plane::new(width, height, levels).unwrap_or(smooth)
    }
}

/// Neighbours to each side.
const REACH: isize = 2;

fn denoised(picture: &Plane) -> Plane {
    let (width, height) = (picture.width(), picture.height());
    let limit = 2.0 * picture.noise_level().max(0.5);
    let mut levels = vec![0.0f32; width * height];
    levels
        .par_chunks_mut(width)
        .enumerate()
        .for_each(|(y, row)| {
            for (x, out) in row.iter_mut().enumerate() {
                let (x, y) = (x as isize, y as isize);
                let middle = picture.clamped(x, y);
                let (mut sum, mut count) = (0.0, 0.0);
                for dy in -REACH..=REACH {
                    for dx in -REACH..=REACH {
                        let value = picture.clamped(x + dx, y + dy);
                        if (value - middle).abs() <= limit {
                            sum += value;
                            count += 1.0;
                        }
                    }
                }
                *out = sum / count;
            }
        });
    Plane::new(width, height, levels).unwrap_or_else(|| picture.clone())
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use rstest::rstest;

    fn flat(level: f32) -> Plane {
        Plane::new(8, 8, vec![level; 64]).unwrap()
    }

    #[rstest]
    #[case::nothing(Adjustment::default(), 100.0, 100.0)]
    #[case::two_point_two_stops(Adjustment { exposure_stops: 2.2, ..Adjustment::default() }, 100.0, 200.0)]
    #[case::contrast(Adjustment { contrast: 2.0, ..Adjustment::default() }, 100.0, 72.5)]
    #[case::gamma(Adjustment { gamma: 2.0, ..Adjustment::default() }, 63.75, 127.5)]
    #[case::beyond_white(Adjustment { exposure_stops: 2.2, ..Adjustment::default() }, 200.0, 400.0)]
    fn levels_change_as_stated(#[case] by: Adjustment, #[case] from: f32, #[case] to: f32) {
        assert!((by.applied(flat(from)).levels()[0] - to).abs() < 0.01);
    }

    #[test]
    fn noise_is_smoothed_and_edges_stay() {
        let mut random = fastrand::Rng::with_seed(3);
        let levels: Vec<f32> = (0..64 * 64)
            .map(|k| if k % 64 < 32 { 60.0 } else { 180.0 } + 6.0 * (random.f32() - 0.5))
            .collect();
        let noisy = Plane::new(64, 64, levels).unwrap();
        let smooth = Adjustment {
            denoise: true,
            ..Adjustment::default()
        }
        .applied(noisy.clone());
        assert!(smooth.noise_level() < 0.4 * noisy.noise_level());
        for y in 0..64 {
            assert!(smooth.row(y)[31] < 64.0 && smooth.row(y)[32] > 176.0);
        }
    }

    #[rstest]
    #[case(Adjustment { contrast: f64::NAN, ..Adjustment::default() })]
    #[case(Adjustment { mix: [0.0; 3], ..Adjustment::default() })]
    #[case(Adjustment { gamma: 0.0, ..Adjustment::default() })]
    fn impossible_values_are_named(#[case] by: Adjustment) {
        assert!(by.complaint().is_some());
    }
}
