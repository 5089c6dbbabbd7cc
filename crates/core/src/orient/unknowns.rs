//! What the fit of statements does not know: how the world is turned, how large it is, and what statements bring
//! with them.

use nalgebra::{UnitQuaternion, Vector3};

/// Values of all unknowns.
#[derive(Clone, Debug)]
pub struct Unknowns {
    /// From the solve's directions to the artist's.
    pub turn: UnitQuaternion<f64>,
    /// Logarithm of metres per unit of the solve.
    pub ln_scale: f64,
    /// What statements bring.
    pub own: Vec<Own>,
}

/// An unknown that a statement brings.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Own {
    /// How far a plane is from the solve's origin, units of the solve.
    Offset(f64),
    /// A level direction by its angle about up, rad.
    Heading(f64),
    /// A direction, of unit length.
    Direction(Vector3<f64>),
}

impl Own {
    /// How many numbers it is.
    pub fn size(&self) -> usize {
        match self {
            Self::Direction(_) => 2,
            Self::Offset(_) | Self::Heading(_) => 1,
        }
    }

    fn direction(&self) -> Vector3<f64> {
        match self {
            Self::Direction(direction) => *direction,
            Self::Heading(angle) => Vector3::new(angle.sin(), 0.0, angle.cos()),
            Self::Offset(_) => Vector3::y(),
        }
    }
}

impl Unknowns {
    /// How many numbers there are: turn (3), scale, then those of statements.
    pub fn size(&self) -> usize {
        4 + self.own.iter().map(Own::size).sum::<usize>()
    }

    /// After a step.
    pub fn stepped(&self, step: &[f64]) -> Self {
        let mut next = self.clone();
        next.turn =
            UnitQuaternion::from_scaled_axis(Vector3::new(step[0], step[1], step[2])) * next.turn;
        // No step makes more than seven times as much or as little of it.
        next.ln_scale += step[3].clamp(-2.0, 2.0);
        let mut at = 4;
        for own in &mut next.own {
            match own {
                Own::Offset(value) | Own::Heading(value) => *value += step[at],
                Own::Direction(direction) => {
                    let [one, other] = across(direction);
                    *direction = (*direction + one * step[at] + other * step[at + 1]).normalize();
                }
            }
            at += own.size();
        }
        next
    }
}

/// Two directions square to one and to each other.
pub fn across(direction: &Vector3<f64>) -> [Vector3<f64>; 2] {
    let least = direction.iamin();
    let one = direction.cross(&Vector3::ith(least, 1.0)).normalize();
    [one, direction.cross(&one)]
}

/// A direction that statements name.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Direction {
    /// One of the scene's.
    Axis(usize),
    /// One of the unknowns.
    Own(usize),
}

impl Direction {
    /// In the artist's world.
    pub fn of(self, unknowns: &Unknowns) -> Vector3<f64> {
        match self {
            Self::Axis(axis) => Vector3::ith(axis, 1.0),
            Self::Own(at) => unknowns.own[at].direction(),
        }
    }
}

/// A plane that statements name: its normal and its offset among the unknowns.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Plane {
    /// Its normal.
    pub normal: Direction,
    /// Which of the unknowns is its offset.
    pub offset: usize,
}

impl Plane {
    /// How far it is from the origin of the solve, its units.
    pub fn offset(self, unknowns: &Unknowns) -> f64 {
        match unknowns.own[self.offset] {
            Own::Offset(value) => value,
            Own::Heading(_) | Own::Direction(_) => 0.0,
        }
    }
}
