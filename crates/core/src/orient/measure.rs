//! What a statement measures, in units of the solve or rad, and how exactly.

use super::model::Model;
use super::solved::Ray;
use super::statement::METRES;
use super::unknowns::{Direction, Plane, Unknowns, across};
use nalgebra::Vector3;

/// An end of a length.
#[derive(Clone, Copy, Debug)]
pub enum Place {
    /// A spot.
    Spot(usize),
    /// Where a ray meets a plane.
    OnPlane(Ray, Plane),
}

/// What is measured, in units of the solve or rad.
#[derive(Clone, Copy, Debug)]
pub enum Measure {
    /// How far a spot is off a plane.
    Off(usize, Plane),
    /// By how much an edge from spot to spot leaves a direction, to one side of two.
    Leaves([usize; 2], Direction, usize),
    /// By how much the plane through eye and rail leaves a direction.
    Rail(usize, Direction),
    /// By how much two directions are not square.
    Square(Direction, Direction),
    /// By how much a ray rises.
    Rises(usize, usize),
    /// A length in m, against what it is.
    Length([Place; 2], f64),
    /// How high a spot is above a plane, against a height in m.
    Above(usize, Plane, f64),
}

/// A row of the fit.
#[derive(Clone, Copy, Debug)]
pub struct Row {
    /// Index of its statement.
    pub statement: usize,
    /// What it measures.
    pub measure: Measure,
    /// One standard error of the statement itself, m for lengths and heights, else of the measure's unit.
    pub sigma: f64,
    /// So many rows of its statement say the same, at least 1.
    pub crowd: f64,
}

/// A rail as rays of the solve's world.
#[derive(Clone, Copy, Debug)]
pub struct Rays {
    /// To its ends, unit length.
    pub ends: [Vector3<f64>; 2],
    /// How exactly they point, rad.
    pub sigma_rad: f64,
}

impl Model {
    /// What a row comes to.
    pub fn value(&self, unknowns: &Unknowns, spots: &[Vector3<f64>], measure: &Measure) -> f64 {
        let scale = unknowns.ln_scale.exp();
        match measure {
            Measure::Off(spot, plane) => self.above(unknowns, &spots[*spot], *plane),
            Measure::Leaves([a, b], direction, side) => {
                let along = unknowns.turn * (spots[*b] - spots[*a]).normalize();
                let direction = direction.of(unknowns);
                let off = across(&direction)[*side].dot(&along);
                off * along.dot(&direction).signum()
            }
            Measure::Rail(rail, direction) => {
                let [a, b] = self.rails[*rail].ends;
                let normal = unknowns.turn * a.cross(&b).normalize();
                normal.dot(&direction.of(unknowns))
            }
            Measure::Square(one, other) => one.of(unknowns).dot(&other.of(unknowns)),
            Measure::Rises(rail, end) => (unknowns.turn * self.rails[*rail].ends[*end]).y,
            Measure::Length(ends, metres) => {
                let [a, b] = ends.map(|end| self.place(unknowns, spots, end));
                (a - b).norm() - metres / scale
            }
            Measure::Above(spot, plane, metres) => {
                self.above(unknowns, &spots[*spot], *plane) - metres / scale
            }
        }
    }

    fn above(&self, unknowns: &Unknowns, spot: &Vector3<f64>, plane: Plane) -> f64 {
        plane.normal.of(unknowns).dot(&(unknowns.turn * spot)) - plane.offset(unknowns)
    }

    /// An end of a length in the solve's world.
    fn place(&self, unknowns: &Unknowns, spots: &[Vector3<f64>], end: Place) -> Vector3<f64> {
        match end {
            Place::Spot(spot) => spots[spot],
            Place::OnPlane(ray, plane) => {
                let normal = unknowns.turn.inverse() * plane.normal.of(unknowns);
                let along = normal.dot(&ray.direction);
                let far = (plane.offset(unknowns) - normal.dot(&ray.eye)) / along;
                ray.eye + ray.direction * if far.is_finite() { far } else { 0.0 }
            }
        }
    }

    /// Spots on which a row depends.
    pub fn spots_of(&self, measure: &Measure) -> Vec<usize> {
        match measure {
            Measure::Off(spot, _) | Measure::Above(spot, ..) => vec![*spot],
            Measure::Leaves([a, b], ..) => vec![*a, *b],
            Measure::Length(ends, _) => {
                let spots = ends.iter().filter_map(|end| match end {
                    Place::Spot(spot) => Some(*spot),
                    Place::OnPlane(..) => None,
                });
                spots.collect()
            }
            Measure::Rail(..) | Measure::Square(..) | Measure::Rises(..) => Vec::new(),
        }
    }

    /// Variance of a row apart from that of its spots: of the statement itself and of marks over the plate.
    pub fn own_variance(&self, unknowns: &Unknowns, row: &Row) -> f64 {
        let scale = unknowns.ln_scale.exp();
        let of_marks = match &row.measure {
            Measure::Rail(rail, direction) => {
                let Rays { ends, sigma_rad } = &self.rails[*rail];
                let direction = unknowns.turn.inverse() * direction.of(unknowns);
                let normal = ends[0].cross(&ends[1]);
                let slope = |end: usize| {
                    let turned = ends[1 - end].cross(&direction);
                    (turned - ends[end] * ends[end].dot(&turned)).norm_squared()
                };
                sigma_rad.powi(2) * (slope(0) + slope(1)) / normal.norm_squared()
            }
            Measure::Rises(rail, _) => self.rails[*rail].sigma_rad.powi(2),
            Measure::Length(ends, _) => ends
                .iter()
                .map(|end| self.of_pointing(unknowns, *end))
                .sum(),
            _ => 0.0,
        };
        let stated = match row.measure {
            Measure::Length(..) | Measure::Above(..) => row.sigma.max(*METRES.start()) / scale,
            _ => row.sigma,
        };
        of_marks + stated.powi(2)
    }

    /// Variance of where a ray meets a plane for how exactly it was marked, units of the solve squared.
    fn of_pointing(&self, unknowns: &Unknowns, end: Place) -> f64 {
        let Place::OnPlane(ray, plane) = end else {
            return 0.0;
        };
        let normal = unknowns.turn.inverse() * plane.normal.of(unknowns);
        let far = (self.place(unknowns, &[], end) - ray.eye).norm();
        let slant = normal.dot(&ray.direction).abs().max(1e-3);
        // As far along the plane as the ray is slanted.
        (far * ray.sigma_rad / slant).powi(2)
    }
}
