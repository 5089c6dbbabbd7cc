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

/// Lines of a square grid on the ground around `middle`, `squares` squares of `side_m` each way.
pub fn ground_grid(middle: &WorldPoint, side_m: f64, squares: usize) -> Vec<Edge> {
    let reach = side_m * squares as f64 / 2.0;
    let (mx, mz) = (
        (middle.0.x / side_m).round() * side_m,
        (middle.0.z / side_m).round() * side_m,
    );
    let at = |i: usize| side_m * i as f64 - reach;
    let across = (0..=squares).map(|i| {
        [
            WorldPoint::new(mx - reach, 0.0, mz + at(i)),
            WorldPoint::new(mx + reach, 0.0, mz + at(i)),
        ]
    });
    let along = (0..=squares).map(|i| {
        [
            WorldPoint::new(mx + at(i), 0.0, mz - reach),
            WorldPoint::new(mx + at(i), 0.0, mz + reach),
        ]
    });
    across.chain(along).collect()
}

#[cfg(test)]
mod tests {
    use super::*;

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
