//! How a guest lies on frames, and between them.
//!
//! Between two keys each number runs along a cubic that passes both with the slope of their neighbours (Catmull and
//! Rom 1974, by unequal times); before the first and after the last it rests.

use crate::spaces::FrameNumber;
use nalgebra::{UnitQuaternion, Vector3};
use serde::{Deserialize, Serialize};

/// How a guest lies.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Lie {
    /// From its feature or the world's origin, m along, up and across.
    pub shift_m: [f64; 3],
    /// Turns about up, then its own along (its nose rises), then its own across (it rolls), degrees.
    pub turn_deg: [f64; 3],
    /// Times as large.
    pub scale: f64,
}

impl Default for Lie {
    fn default() -> Self {
        Self {
            shift_m: [0.0; 3],
            turn_deg: [0.0; 3],
            scale: 1.0,
        }
    }
}

/// How it lies on a frame.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Key {
    /// The frame.
    pub frame: FrameNumber,
    /// How it lies.
    pub lie: Lie,
}

/// Farthest shift, m, and most turn, degrees.
const MOST_SHIFT_M: f64 = 1e5;
const MOST_TURN_DEG: f64 = 36_000.0;

impl Lie {
    /// Within bounds and finite.
    pub fn is_possible(&self) -> bool {
        let within = |all: &[f64; 3], most: f64| all.iter().all(|v| v.abs() <= most);
        within(&self.shift_m, MOST_SHIFT_M)
            && within(&self.turn_deg, MOST_TURN_DEG)
            && (1e-4..=1e4).contains(&self.scale)
    }

    /// Its turn in the world.
    pub fn rotation(&self) -> UnitQuaternion<f64> {
        let [up, along, across] = self.turn_deg.map(f64::to_radians);
        UnitQuaternion::from_axis_angle(&Vector3::y_axis(), up)
            * UnitQuaternion::from_axis_angle(&Vector3::x_axis(), along)
            * UnitQuaternion::from_axis_angle(&Vector3::z_axis(), across)
    }

    fn numbers(&self) -> [f64; 7] {
        let ([a, b, c], [d, e, f]) = (self.shift_m, self.turn_deg);
        [a, b, c, d, e, f, self.scale.ln()]
    }

    fn of([a, b, c, d, e, f, scale]: [f64; 7]) -> Self {
        Self {
            shift_m: [a, b, c],
            turn_deg: [d, e, f],
            scale: scale.exp(),
        }
    }
}

/// How a guest lies at a time in frames; `still` where it has no keys.
pub fn at(still: &Lie, keys: &[Key], time_frames: f64) -> Lie {
    let time = |k: &Key| f64::from(k.frame.0);
    let next = keys.partition_point(|k| time(k) <= time_frames);
    match (next.checked_sub(1).map(|k| &keys[k]), keys.get(next)) {
        (None, None) => *still,
        (Some(key), None) | (None, Some(key)) => key.lie,
        (Some(from), Some(to)) => {
            let before = next.checked_sub(2).map_or(from, |k| &keys[k]);
            let after = keys.get(next + 1).unwrap_or(to);
            let [t0, t1, t2, t3] = [before, from, to, after].map(time);
            let [p0, p1, p2, p3] = [before, from, to, after].map(|k| k.lie.numbers());
            let (step, s) = (t2 - t1, (time_frames - t1) / (t2 - t1));
            let slope = |a: f64, b: f64, span: f64| {
                if span > 0.0 {
                    (b - a) / span * step
                } else {
                    0.0
                }
            };
            Lie::of(std::array::from_fn(|k| {
                // At the ends it starts and comes to rest as steadily as it moves there.
                let (m1, m2) = (slope(p0[k], p2[k], t2 - t0), slope(p1[k], p3[k], t3 - t1));
                let (s2, s3) = (s * s, s * s * s);
                (2.0 * s3 - 3.0 * s2 + 1.0) * p1[k]
                    + (s3 - 2.0 * s2 + s) * m1
                    + (3.0 * s2 - 2.0 * s3) * p2[k]
                    + (s3 - s2) * m2
            }))
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn key(frame: i32, x: f64, scale: f64) -> Key {
        let lie = Lie {
            shift_m: [x, 0.0, 0.0],
            scale,
            ..Lie::default()
        };
        Key {
            frame: FrameNumber(frame),
            lie,
        }
    }

    #[test]
    fn it_passes_its_keys_and_rests_beyond_them() {
        let keys = [
            key(1001, 0.0, 1.0),
            key(1011, 2.0, 2.0),
            key(1021, 1.0, 2.0),
        ];
        for (time, x) in [
            (990.0, 0.0),
            (1001.0, 0.0),
            (1011.0, 2.0),
            (1021.0, 1.0),
            (1400.0, 1.0),
        ] {
            let lie = at(&Lie::default(), &keys, time);
            assert!((lie.shift_m[0] - x).abs() < 1e-9, "{time}: {lie:?}");
        }
        assert_eq!(at(&Lie::default(), &[], 7.0), Lie::default());
    }

    #[test]
    fn between_keys_of_one_speed_it_moves_at_that_speed() {
        let keys = [key(0, 0.0, 1.0), key(10, 1.0, 1.0), key(30, 3.0, 1.0)];
        for time in [1.0, 4.5, 9.9, 12.0, 27.0] {
            let lie = at(&Lie::default(), &keys, time);
            assert!(
                (lie.shift_m[0] - time / 10.0).abs() < 1e-9,
                "{time}: {lie:?}"
            );
        }
    }

    #[test]
    fn turns_are_about_up_first() {
        let lie = Lie {
            turn_deg: [90.0, 0.0, 0.0],
            ..Lie::default()
        };
        let faces = lie.rotation() * Vector3::z();
        assert!(
            (faces - Vector3::x()).norm() < 1e-12,
            "its face turns from across to along"
        );
    }
}
