//! What of the set guests meet: planes that catch their shadows, or that they stand behind.

use nalgebra::{Point3, Vector3};

/// A plane of the set in the artist's world.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Piece {
    /// A place on it.
    pub at: Point3<f64>,
    /// Square to it, towards the open, unit length.
    pub normal: Vector3<f64>,
    /// Half its sides along [`super::light::about`] of its normal, m; without end where infinite.
    pub half_m: [f64; 2],
    /// Whether guests cast shadows on it.
    pub catches: bool,
    /// Whether it hides what is behind it.
    pub solid: bool,
}

impl Piece {
    /// The level ground at a height: it catches shadows.
    pub fn ground(height_m: f64) -> Self {
        Self {
            at: Point3::new(0.0, height_m, 0.0),
            normal: Vector3::y(),
            half_m: [f64::INFINITY; 2],
            catches: true,
            solid: false,
        }
    }

    /// How far along a ray it lies, in lengths of its direction.
    pub fn met(&self, from: &Point3<f64>, direction: &Vector3<f64>) -> Option<f64> {
        let falls = self.normal.dot(direction);
        if falls.abs() < 1e-9 * direction.norm() {
            return None;
        }
        let distance = self.normal.dot(&(self.at - from)) / falls;
        let place = from + direction * distance - self.at;
        let (right, up) = super::light::about(&self.normal);
        let within =
            right.dot(&place).abs() <= self.half_m[0] && up.dot(&place).abs() <= self.half_m[1];
        (distance > 1e-6 && within).then_some(distance)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_piece_is_met_within_its_sides_only() {
        let wall = Piece {
            at: Point3::new(0.0, 1.0, -5.0),
            normal: Vector3::z(),
            half_m: [2.0, 1.0],
            catches: true,
            solid: true,
        };
        let from = Point3::new(0.0, 1.0, 0.0);
        assert_eq!(wall.met(&from, &-Vector3::z()), Some(5.0));
        assert_eq!(wall.met(&from, &Vector3::z()), None, "behind the eye");
        assert_eq!(wall.met(&from, &Vector3::x()), None, "along it");
        assert!(wall.met(&from, &Vector3::new(0.39, 0.0, -1.0)).is_some());
        assert!(wall.met(&from, &Vector3::new(0.41, 0.0, -1.0)).is_none());
        assert!(wall.met(&from, &Vector3::new(0.0, 0.21, -1.0)).is_none());
        let down = Piece::ground(0.0).met(&from, &Vector3::new(9.0, -0.5, 0.0));
        assert_eq!(down, Some(2.0));
    }
}
