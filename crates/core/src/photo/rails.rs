//! Rails: lines along real edges, each running with one axis of the scene.

use crate::spaces::PlatePx;
use nalgebra::{Vector2, Vector3};
use serde::{Deserialize, Serialize};

/// An axis of the world; in words it is one of the directions of the scene: X runs along, Y up, Z across.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Axis {
    /// To the right, by default.
    X,
    /// Up.
    Y,
    /// Towards the viewer, by default.
    Z,
}

impl Axis {
    /// All three.
    pub const ALL: [Self; 3] = [Self::X, Self::Y, Self::Z];

    /// Its unit vector.
    pub fn unit(self) -> Vector3<f64> {
        Vector3::ith(self.index(), 1.0)
    }

    /// 0, 1 or 2.
    pub fn index(self) -> usize {
        self as usize
    }
}

/// The number of a rail among those of its direction, from 1.
pub fn number_of(rails: &[Rail], index: usize) -> usize {
    let own = rails.get(index).map(|r| r.axis);
    let before = rails.iter().take(index);
    1 + before.filter(|r| Some(r.axis) == own).count()
}

impl std::fmt::Display for Axis {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        f.write_str(["along", "up", "across"][self.index()])
    }
}

/// A line along an edge that runs with an axis.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Rail {
    /// The axis.
    pub axis: Axis,
    /// One end, px.
    #[serde(with = "as_pair")]
    pub a: PlatePx,
    /// The other end, px.
    #[serde(with = "as_pair")]
    pub b: PlatePx,
}

impl Rail {
    /// How long it is in the picture, px.
    pub fn length_px(&self) -> f64 {
        self.a.distance_px(self.b)
    }

    /// Its middle.
    pub fn middle(&self) -> PlatePx {
        PlatePx::new(0.5 * (self.a.x + self.b.x), 0.5 * (self.a.y + self.b.y))
    }

    /// The line through both ends, normalised: its product with (x, y, 1) is the distance in px.
    pub fn line(&self) -> Vector3<f64> {
        let along = self.b.offset_from(self.a);
        let normal = Vector2::new(-along.y, along.x) / along.norm();
        Vector3::new(
            normal.x,
            normal.y,
            -(normal.x * self.a.x + normal.y * self.a.y),
        )
    }

    /// Px by which the rail misses the vanishing point `v` (homogeneous, plate px): the root
    /// of the least sum of squared distances of both ends from a line through `v`, signed.
    ///
    /// This is the maximum-likelihood residual of a rail whose ends are equally uncertain,
    /// the line itself eliminated (Liebowitz and Zisserman 1998, section 3.1, here in closed
    /// form): with p, q the ends as seen from `v`, the smaller eigenvalue of p pᵀ + q qᵀ.
    /// Finite for vanishing points at infinity.
    pub fn miss_px(&self, v: &Vector3<f64>) -> f64 {
        let from_v = |end: PlatePx| Vector2::new(v.z * end.x - v.x, v.z * end.y - v.y);
        let (p, q) = (from_v(self.a), from_v(self.b));
        let volume = self.a.x * (self.b.y * v.z - v.y) - self.a.y * (self.b.x * v.z - v.x)
            + (self.b.x * v.y - self.b.y * v.x);
        let trace = p.norm_squared() + q.norm_squared();
        if trace <= 0.0 {
            return 0.0;
        }
        let discriminant = (trace * trace - 4.0 * (v.z * volume).powi(2))
            .max(0.0)
            .sqrt();
        volume * (2.0 / (trace + discriminant)).sqrt()
    }
}

/// Which axes are turned round from where they would point by default. The world stays
/// right-handed: an odd number of flips turns one further axis, Z before X before Y.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Flips {
    /// X points to the left.
    pub x: bool,
    /// Y points down.
    pub y: bool,
    /// Z points away.
    pub z: bool,
}

impl Flips {
    /// Sign of each axis, their product 1.
    pub fn signs(self) -> [f64; 3] {
        let mut flipped = [self.x, self.y, self.z];
        if flipped.iter().filter(|f| **f).count() % 2 == 1 {
            let further = [2, 0, 1].into_iter().find(|i| !flipped[*i]);
            match further {
                Some(i) => flipped[i] = true,
                // All three: one is turned back.
                None => flipped[2] = false,
            }
        }
        flipped.map(|f| if f { -1.0 } else { 1.0 })
    }
}

/// Plate positions as `[x, y]`.
pub mod as_pair {
    use crate::spaces::PlatePx;
    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    /// Writes a position.
    pub fn serialize<S: Serializer>(px: &PlatePx, to: S) -> Result<S::Ok, S::Error> {
        [px.x, px.y].serialize(to)
    }

    /// Reads a position.
    pub fn deserialize<'d, D: Deserializer<'d>>(from: D) -> Result<PlatePx, D::Error> {
        let [x, y] = <[f64; 2]>::deserialize(from)?;
        Ok(PlatePx::new(x, y))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;
    use rstest::rstest;

    fn rail(a: (f64, f64), b: (f64, f64)) -> Rail {
        Rail {
            axis: Axis::X,
            a: PlatePx::new(a.0, a.1),
            b: PlatePx::new(b.0, b.1),
        }
    }

    /// Least sum of squares over lines through `v`, by trying all directions.
    fn searched(r: &Rail, v: (f64, f64)) -> f64 {
        let sum = |t: f64| {
            let normal = Vector2::new(-t.sin(), t.cos());
            let off = |p: PlatePx| normal.dot(&Vector2::new(p.x - v.0, p.y - v.1)).powi(2);
            off(r.a) + off(r.b)
        };
        (0..20_000)
            .map(|i| sum(f64::from(i) * std::f64::consts::PI / 20_000.0))
            .fold(f64::INFINITY, f64::min)
            .sqrt()
    }

    proptest! {
        #[test]
        fn the_miss_is_the_least_distance_of_the_ends(
            a in (0.0..100.0, 0.0..100.0), b in (0.0..100.0, 0.0..100.0), v in (-300.0..300.0, -300.0..300.0), w in 0.1..3.0f64,
        ) {
            let r = rail(a, b);
            prop_assume!(r.length_px() > 1.0);
            let miss = r.miss_px(&(Vector3::new(v.0, v.1, 1.0) * w));
            prop_assert!((miss.abs() - searched(&r, v)).abs() < 0.05, "{} {}", miss, searched(&r, v));
        }

        #[test]
        fn an_end_on_the_line_does_not_miss(a in (0.0..100.0, 0.0..100.0), along in 0.2..5.0f64) {
            let v = Vector3::new(500.0, -80.0, 1.0);
            let b = (a.0 + along * (v.x - a.0) / 10.0, a.1 + along * (v.y - a.1) / 10.0);
            prop_assert!(rail(a, b).miss_px(&v).abs() < 1e-6);
        }
    }

    #[test]
    fn a_point_at_infinity_is_a_direction() {
        let level = rail((10.0, 20.0), (110.0, 24.0));
        let miss = level.miss_px(&Vector3::new(1.0, 0.0, 0.0));
        assert!(
            (miss.abs() - 8.0f64.sqrt()).abs() < 1e-9,
            "two px off at either end: {miss}"
        );
    }

    #[rstest]
    #[case(Flips::default(), [1.0, 1.0, 1.0])]
    #[case(Flips { x: true, ..Flips::default() }, [-1.0, 1.0, -1.0])]
    #[case(Flips { z: true, ..Flips::default() }, [-1.0, 1.0, -1.0])]
    #[case(Flips { y: true, ..Flips::default() }, [1.0, -1.0, -1.0])]
    #[case(Flips { x: true, y: true, z: true }, [-1.0, -1.0, 1.0])]
    fn flipping_keeps_the_world_right_handed(#[case] flips: Flips, #[case] signs: [f64; 3]) {
        assert_eq!(flips.signs(), signs);
        assert_eq!(signs.iter().product::<f64>(), 1.0);
    }
}
