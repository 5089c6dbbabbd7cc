//! Grids on the ground and on walls, in metres of the oriented world.

use crate::spaces::WorldPoint;
use nalgebra::Vector3;

/// A line in the world.
pub type Edge = [WorldPoint; 2];

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

/// Plumb lines over the nodes of a ground grid, every `apart` squares and `high` squares tall, from above to below.
pub fn plumb_lines(middle: &WorldPoint, side_m: f64, apart: usize, high: f64) -> Vec<Edge> {
    let at = |k: i32| f64::from(k) * apart as f64 * side_m;
    let nodes = (-1..=1).flat_map(|i| (-1..=1).map(move |j| (i, j)));
    let line = |(i, j): (i32, i32)| {
        let foot = middle.0 + Vector3::new(at(i), 0.0, at(j));
        [
            WorldPoint(foot + Vector3::y() * (high * side_m)),
            WorldPoint(foot),
        ]
    };
    nodes.map(line).collect()
}

/// The twelve edges of an upright box between its least and its greatest corner.
pub fn box_edges([low, high]: &[Vector3<f64>; 2]) -> [Edge; 12] {
    let corner = |k: usize| {
        let pick = |axis: usize| {
            if k >> axis & 1 == 1 {
                high[axis]
            } else {
                low[axis]
            }
        };
        WorldPoint::new(pick(0), pick(1), pick(2))
    };
    // Each corner leads to those that differ from it along one axis.
    let mut edges = [[corner(0); 2]; 12];
    let pairs = (0..8usize).flat_map(|a| (0..3).map(move |axis| (a, a | 1 << axis)));
    for (edge, (a, b)) in edges.iter_mut().zip(pairs.filter(|(a, b)| a != b)) {
        *edge = [corner(a), corner(b)];
    }
    edges
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
    fn plumb_lines_hang_over_the_nodes_of_the_grid() {
        let lines = plumb_lines(&WorldPoint::new(0.0, 0.3, 0.0), 0.5, 4, 3.0);
        assert_eq!(lines.len(), 9);
        for [above, foot] in lines {
            assert!((above.0 - foot.0 - Vector3::y() * 1.5).norm() < 1e-12);
            assert_eq!(foot.0.y, 0.3);
            assert_eq!((foot.0.x / 0.5).fract(), 0.0);
        }
    }

    #[test]
    fn a_box_has_twelve_edges_along_its_sides() {
        let edges = box_edges(&[Vector3::zeros(), Vector3::new(1.0, 2.0, 3.0)]);
        let mut lengths = edges.map(|[a, b]| a.distance(b));
        lengths.sort_by(f64::total_cmp);
        assert_eq!(
            lengths,
            [1.0, 1.0, 1.0, 1.0, 2.0, 2.0, 2.0, 2.0, 3.0, 3.0, 3.0, 3.0]
        );
    }

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
}
