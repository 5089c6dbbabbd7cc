//! What an artist checks a photograph's camera with: a grid on a plane of the axes and a box by
//! its corner, both in units of the placed world.

use super::{Axis, Perspective, Placed};
use crate::guest::What;
use crate::scene::shapes::{Edge, ground_grid};
use crate::spaces::{PlatePx, WorldPoint};
use nalgebra::{Point3, Vector3};
use serde::{Deserialize, Serialize};

/// Planes on which the grid can lie.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum GridPlane {
    /// Not shown.
    Off,
    /// X and Z: the ground.
    #[default]
    Ground,
    /// X and Y through the origin.
    Xy,
    /// Y and Z through the origin.
    Yz,
}

impl GridPlane {
    /// Squares of the grid each way.
    const SQUARES: usize = 24;

    /// Lines of a square grid about the origin, world units.
    pub fn grid(self, side: f64) -> Vec<Edge> {
        let turned = |to: fn(Point3<f64>) -> Point3<f64>| {
            let flat = ground_grid(&WorldPoint::new(0.0, 0.0, 0.0), side, Self::SQUARES);
            flat.into_iter()
                .map(|edge| edge.map(|p| WorldPoint(to(p.0))))
                .collect()
        };
        match self {
            Self::Off => Vec::new(),
            Self::Ground => turned(|p| p),
            Self::Xy => turned(|p| Point3::new(p.x, p.z, 0.0)),
            Self::Yz => turned(|p| Point3::new(0.0, p.x, p.z)),
        }
    }
}

/// A box whose corner stands on a point of the ground.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct CornerBox {
    /// Where its corner stands in the picture; the origin when left out.
    pub at: Option<[f64; 2]>,
    /// Along X, Y and Z, world units; negative ones run the other way.
    pub size: [f64; 3],
}

/// Sides below this are not delivered, world units.
const LEAST_SIDE: f64 = 0.001;

impl CornerBox {
    /// Where its corner stands; `None` on or above the horizon.
    pub fn foot(&self, perspective: &Perspective, placed: &Placed) -> Option<WorldPoint> {
        match self.at {
            None => Some(WorldPoint::new(0.0, 0.0, 0.0)),
            Some([x, y]) => placed.ground_point(perspective, PlatePx::new(x, y)),
        }
    }

    /// The same with its side along `axis` pulled to where the picture shows `to`, as it is where
    /// that says nothing.
    pub fn pulled(
        mut self,
        perspective: &Perspective,
        placed: &Placed,
        foot: &WorldPoint,
        axis: Axis,
        to: PlatePx,
    ) -> Self {
        if let Some((end, _)) = placed.point_along(perspective, foot, axis, to) {
            self.size[axis.index()] = (end.0 - foot.0).dot(&axis.unit());
        }
        self
    }

    fn corner(&self, foot: &WorldPoint, share: [usize; 3]) -> WorldPoint {
        let side = |k: usize| share[k] as f64 * self.size[k];
        WorldPoint(foot.0 + Vector3::new(side(0), side(1), side(2)))
    }

    /// Its twelve edges.
    pub fn edges(&self, foot: &WorldPoint) -> Vec<Edge> {
        let along = |axis: usize, i: usize, j: usize| {
            [0, 1].map(|end| {
                let mut share = [0; 3];
                share[axis] = end;
                share[(axis + 1) % 3] = i;
                share[(axis + 2) % 3] = j;
                self.corner(foot, share)
            })
        };
        let sides = [(0, 0), (0, 1), (1, 0), (1, 1)];
        sides
            .iter()
            .flat_map(|&(i, j)| [0, 1, 2].map(|axis| along(axis, i, j)))
            .collect()
    }

    /// The ends of its three sides from the corner it stands on.
    pub fn tips(&self, foot: &WorldPoint) -> [(Axis, WorldPoint); 3] {
        Axis::ALL.map(|axis| {
            let mut share = [0; 3];
            share[axis.index()] = 1;
            (axis, self.corner(foot, share))
        })
    }

    /// The box by the middle of its foot, as it is delivered; `None` where a side is next to nothing.
    pub fn stand_in(&self, foot: &WorldPoint) -> Option<(What, WorldPoint)> {
        if self.size.iter().any(|s| s.abs() < LEAST_SIDE) {
            return None;
        }
        let [x, y, z] = self.size;
        let middle = Vector3::new(0.5 * x, y.min(0.0), 0.5 * z);
        let size_m = self.size.map(f64::abs);
        Some((What::Box { size_m }, WorldPoint(foot.0 + middle)))
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::nothing(GridPlane::Off, 0, None)]
    #[case::ground(GridPlane::Ground, 50, Some(1))]
    #[case::facing(GridPlane::Xy, 50, Some(2))]
    #[case::beside(GridPlane::Yz, 50, Some(0))]
    fn a_grid_lies_in_its_plane(
        #[case] plane: GridPlane,
        #[case] lines: usize,
        #[case] none_along: Option<usize>,
    ) {
        let grid = plane.grid(0.5);
        assert_eq!(grid.len(), lines);
        for (edge, k) in grid.iter().zip(std::iter::repeat(none_along)) {
            assert!(edge.iter().all(|p| p.0[k.unwrap()].abs() < 1e-12));
            assert!(((edge[1].0 - edge[0].0).norm() - 12.0).abs() < 1e-9);
        }
    }

    #[rstest]
    #[case::upwards([1.0, 2.0, 3.0], 0.0)]
    #[case::the_other_way([-1.0, -2.0, -3.0], -2.0)]
    fn a_delivered_box_is_the_drawn_one(#[case] size: [f64; 3], #[case] lowest: f64) {
        let foot = WorldPoint::new(0.3, 0.0, -0.2);
        let drawn = CornerBox { at: None, size };
        let edges = drawn.edges(&foot);
        assert_eq!(edges.len(), 12);
        let (stand_in, middle) = drawn.stand_in(&foot).unwrap();
        assert!((middle.0.y - lowest).abs() < 1e-12);
        let mesh = crate::guest::stand_ins::plain(&stand_in).unwrap();
        let place = |p: &[f32; 3]| Vector3::from(*p).cast::<f64>() + middle.0.coords;
        let delivered: Vec<_> = mesh
            .points
            .iter()
            .map(|p| WorldPoint(place(p).into()))
            .collect();
        for end in edges.as_flattened() {
            assert!(delivered.iter().any(|c| c.distance(*end) < 1e-6), "{end:?}");
        }
        for (axis, tip) in drawn.tips(&foot) {
            let side = (tip.0 - foot.0).dot(&axis.unit());
            assert!((side - size[axis.index()]).abs() < 1e-12);
        }
    }

    #[test]
    fn a_flat_box_is_not_delivered() {
        let flat = CornerBox {
            at: None,
            size: [1.0, 0.0, 1.0],
        };
        assert!(flat.stand_in(&WorldPoint::new(0.0, 0.0, 0.0)).is_none());
    }
}
