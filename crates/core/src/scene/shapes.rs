//! Ground grid and stand-ins, in metres of the oriented world.

use crate::spaces::{TrackId, WorldPoint};
use nalgebra::{Rotation3, Vector3};
use serde::{Deserialize, Serialize};

/// A box that stands with the middle of its foot on a landmark.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct StandIn {
    /// Its name.
    pub name: String,
    /// The landmark it stands on.
    pub at: TrackId,
    /// Width, height and depth, m.
    pub size_m: [f64; 3],
    /// Turn about the vertical, degrees.
    pub turn_deg: f64,
}

/// A line in the world.
pub type Edge = [WorldPoint; 2];

impl StandIn {
    /// All sides between 1 mm and 1 km, the turn finite.
    pub fn is_plausible(&self) -> bool {
        self.size_m
            .iter()
            .all(|s| s.is_finite() && (0.001..=1000.0).contains(s))
            && self.turn_deg.is_finite()
    }

    /// The eight corners with the foot's middle at `foot`: four below, then four above, each
    /// counter-clockwise as seen from above, from (-x, +z).
    pub fn corners(&self, foot: &WorldPoint) -> [WorldPoint; 8] {
        let turn = Rotation3::from_axis_angle(&Vector3::y_axis(), self.turn_deg.to_radians());
        let [w, h, d] = self.size_m;
        let ring = [(-0.5, 0.5), (0.5, 0.5), (0.5, -0.5), (-0.5, -0.5)];
        std::array::from_fn(|i| {
            let (x, z) = ring[i % 4];
            let height = if i < 4 { 0.0 } else { h };
            WorldPoint(foot.0 + turn * Vector3::new(x * w, height, z * d))
        })
    }

    /// Its twelve edges.
    pub fn edges(&self, foot: &WorldPoint) -> Vec<Edge> {
        let c = self.corners(foot);
        let around = |base: usize| (0..4).map(move |i| (base + i, base + (i + 1) % 4));
        let upright = (0..4).map(|i| (i, i + 4));
        around(0)
            .chain(around(4))
            .chain(upright)
            .map(|(a, b)| [c[a], c[b]])
            .collect()
    }

    /// Its six faces as corner indices, counter-clockwise from outside.
    pub const FACES: [[usize; 4]; 6] = [
        [3, 2, 1, 0],
        [4, 5, 6, 7],
        [0, 1, 5, 4],
        [1, 2, 6, 5],
        [2, 3, 7, 6],
        [3, 0, 4, 7],
    ];
}

/// Lines of a square grid on an upright or slanted plane about `middle`: one direction level, squares of `side_m`,
/// as far as `reach`.
pub fn plane_grid(
    middle: &WorldPoint,
    normal: &Vector3<f64>,
    side_m: f64,
    reach: f64,
) -> Vec<Edge> {
    const MOST: f64 = 40.0;
    let level = Vector3::y().cross(normal);
    let level = level.try_normalize(1e-6).unwrap_or_else(Vector3::x);
    let other = normal.normalize().cross(&level);
    let side = side_m.max(2.0 * reach / MOST);
    let squares = (reach / side).ceil().max(1.0);
    let far = squares * side;
    let at = |u: f64, v: f64| WorldPoint(middle.0 + level * u + other * v);
    let count = 2 * squares as usize;
    let lines = (0..=count).flat_map(|i| {
        let s = side * i as f64 - far;
        [[at(s, -far), at(s, far)], [at(-far, s), at(far, s)]]
    });
    lines.collect()
}

/// Lines of a level square grid around `middle`, `squares` squares of `side_m` each way.
pub fn ground_grid(middle: &WorldPoint, side_m: f64, squares: usize) -> Vec<Edge> {
    let reach = side_m * squares as f64 / 2.0;
    let height = middle.0.y;
    let (mx, mz) = (
        (middle.0.x / side_m).round() * side_m,
        (middle.0.z / side_m).round() * side_m,
    );
    let at = |i: usize| side_m * i as f64 - reach;
    let across = (0..=squares).map(|i| {
        [
            WorldPoint::new(mx - reach, height, mz + at(i)),
            WorldPoint::new(mx + reach, height, mz + at(i)),
        ]
    });
    let along = (0..=squares).map(|i| {
        [
            WorldPoint::new(mx + at(i), height, mz - reach),
            WorldPoint::new(mx + at(i), height, mz + reach),
        ]
    });
    across.chain(along).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_grid_on_a_wall_lies_on_it() {
        let (middle, normal) = (WorldPoint::new(1.0, 1.5, -4.0), Vector3::new(0.6, 0.0, 0.8));
        let grid = plane_grid(&middle, &normal, 0.5, 1.9);
        assert_eq!(grid.len(), 2 * 9);
        for end in grid.iter().flatten() {
            assert!((end.0 - middle.0).dot(&normal).abs() < 1e-9);
        }
        // Squares of the stated size, as long as there are not too many.
        let side = (grid[0][0].0 - grid[2][0].0).norm();
        assert!((side - 0.5).abs() < 1e-9);
        assert!(plane_grid(&middle, &normal, 0.001, 10.0).len() <= 2 * 41);
    }

    #[test]
    fn faces_look_outwards() {
        let size_m = [1.0, 2.0, 3.0];
        let stand_in = StandIn {
            name: "case".to_owned(),
            at: TrackId(1),
            size_m,
            turn_deg: 30.0,
        };
        let foot = WorldPoint::new(1.0, 0.0, -2.0);
        let corners = stand_in.corners(&foot);
        let middle = foot.0 + Vector3::new(0.0, 1.0, 0.0);
        for face in StandIn::FACES {
            let [a, b, c, d] = face.map(|i| corners[i].0);
            let normal = (b - a).cross(&(c - b));
            let centre = (a.coords + b.coords + c.coords + d.coords) / 4.0;
            assert!(normal.dot(&(centre - middle.coords)) > 0.0, "{face:?}");
        }
        assert_eq!(stand_in.edges(&foot).len(), 12);
    }
}
