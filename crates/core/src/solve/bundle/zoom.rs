//! A focal length of its own for each camera, and the belief that it changes smoothly.
//!
//! The rate at which the logarithm of the focal length changes wanders: from one frame to the next
//! by a stated standard error ([`RATE_WANDERS`] in the end), over longer steps by the root of their
//! length more.
//! That is a residual for each three successive cameras. It carries a focal length over frames
//! that say little and yields to those that say more.

/// One standard error of how much the rate of ln(focal length) changes within a frame, 1/frame.
pub const RATE_WANDERS: f64 = 0.003;

/// The same while a world grows: with few cameras a zoom is hardly told from a travel along the axis,
/// and nearly steady zooms are a start from which the freer ones are found.
pub const GROWING_WANDERS: f64 = 0.0005;

/// Each camera's focal length.
#[derive(Clone, Debug, PartialEq)]
pub struct Zoom {
    /// Focal length of each camera, px.
    pub focals_px: Vec<f64>,
    /// When each camera saw what it saw, frames, ascending.
    pub times: Vec<f64>,
    /// One standard error of how much the rate changes within a frame, 1/frame.
    pub wanders: f64,
}

/// What is believed of three successive focal lengths.
#[derive(Clone, Copy, Debug)]
pub struct Belief {
    /// The first of the three cameras.
    pub first: usize,
    /// Change of rate, standard errors.
    pub residual: f64,
    /// Its derivatives by the three focal lengths, 1/px.
    pub slopes: [f64; 3],
}

impl Zoom {
    /// All beliefs, with their derivatives.
    pub fn beliefs(&self) -> impl Iterator<Item = Belief> + '_ {
        (0..self.focals_px.len().saturating_sub(2)).map(|first| {
            let [f, g, h] = [0, 1, 2].map(|i| self.focals_px[first + i]);
            let [a, b, c] = [0, 1, 2].map(|i| self.times[first + i]);
            let (early, late) = ((b - a).max(1e-9), (c - b).max(1e-9));
            let scale = 1.0 / (self.wanders * (0.5 * (c - a)).max(1e-9).sqrt());
            Belief {
                first,
                residual: scale * ((h / g).ln() / late - (g / f).ln() / early),
                slopes: [
                    scale / (early * f),
                    -scale * (1.0 / late + 1.0 / early) / g,
                    scale / (late * h),
                ],
            }
        })
    }

    /// Half the sum of squares of all beliefs.
    pub fn cost(&self) -> f64 {
        self.beliefs().map(|b| 0.5 * b.residual * b.residual).sum()
    }

    /// Changes each focal length, by no more than half or double.
    pub fn step(&mut self, changes: impl Iterator<Item = f64>) {
        for (focal_px, change) in self.focals_px.iter_mut().zip(changes) {
            *focal_px = (*focal_px + change).clamp(0.5 * *focal_px, 2.0 * *focal_px);
        }
    }
}
