//! Which way is up where the camera goes to, and which hand do its axes follow?
//!
//! Our world is right-handed with Y up, the camera looks along its -Z. A receiver may have Z
//! up and may be left-handed; there the camera looks along its +Z, so that its own axes stay a
//! rotation of the world's. The axes are changed by a permutation with signs, and lengths by the unit of the receiver
//! and by how many times larger it wants its world ([`Receiver::per_metre`]); focal lengths and pictures stay as they are.
//!
//! | receiver | takes (x, y, z) to |
//! |---|---|
//! | Y up, right-handed | (x, y, z) |
//! | Z up, right-handed | (x, -z, y) |
//! | Y up, left-handed | (x, y, -z) |
//! | Z up, left-handed | (x, z, y) |

use crate::camera::Pose;
use crate::spaces::WorldPoint;
use nalgebra::{Matrix3, Matrix4, Vector3};
use serde::{Deserialize, Serialize};
use std::fmt;

/// The axis that points up.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Up {
    /// Y, as in our own world.
    #[default]
    Y,
    /// Z.
    Z,
}

/// The hand whose thumb, first and middle finger point along X, Y and Z.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Hand {
    /// As in our own world.
    #[default]
    Right,
    /// Mirrored; the camera looks along its +Z.
    Left,
}

/// What a length of one is where the camera goes to.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum LengthUnit {
    /// 1 m, as in our own world.
    #[default]
    Metre,
    /// 10 cm.
    Decimetre,
    /// 1 cm.
    Centimetre,
    /// 1 mm.
    Millimetre,
    /// 25.4 mm.
    Inch,
    /// 304.8 mm.
    Foot,
}

impl LengthUnit {
    /// All of them.
    pub const ALL: [Self; 6] = [
        Self::Metre,
        Self::Decimetre,
        Self::Centimetre,
        Self::Millimetre,
        Self::Inch,
        Self::Foot,
    ];

    /// Its length, m.
    pub fn metres(self) -> f64 {
        match self {
            Self::Metre => 1.0,
            Self::Decimetre => 0.1,
            Self::Centimetre => 0.01,
            Self::Millimetre => 0.001,
            Self::Inch => 0.0254,
            Self::Foot => 0.3048,
        }
    }

    /// As it is written.
    pub fn word(self) -> &'static str {
        match self {
            Self::Metre => "metre",
            Self::Decimetre => "decimetre",
            Self::Centimetre => "centimetre",
            Self::Millimetre => "millimetre",
            Self::Inch => "inch",
            Self::Foot => "foot",
        }
    }

    /// As it is written behind a figure.
    pub fn short(self) -> &'static str {
        match self {
            Self::Metre => "m",
            Self::Decimetre => "dm",
            Self::Centimetre => "cm",
            Self::Millimetre => "mm",
            Self::Inch => "in",
            Self::Foot => "ft",
        }
    }
}

/// Axes and unit of the program that receives a delivery.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Receiver {
    /// Which axis points up.
    pub up: Up,
    /// Which hand the axes follow.
    pub hand: Hand,
    /// What a length of one is there.
    pub unit: LengthUnit,
    /// How many times larger the world is there, as for simulations that want one; 1 leaves it.
    pub scale: f64,
}

impl Default for Receiver {
    fn default() -> Self {
        Self {
            up: Up::default(),
            hand: Hand::default(),
            unit: LengthUnit::default(),
            scale: 1.0,
        }
    }
}

impl Receiver {
    /// Scales that can be asked for.
    pub const SCALES: std::ops::RangeInclusive<f64> = 1e-4..=1e4;

    /// Axes in metres.
    pub fn of_axes(up: Up, hand: Hand) -> Self {
        Self {
            up,
            hand,
            ..Self::default()
        }
    }

    /// The same up axis and unit, right-handed: what formats get that know no other hand.
    pub fn right_handed(self) -> Self {
        Self {
            hand: Hand::Right,
            ..self
        }
    }

    /// Y up, right-handed and in metres, as large as asked for: what formats get that know nothing else.
    pub fn in_metres(self) -> Self {
        Self {
            scale: self.scale,
            ..Self::default()
        }
    }

    /// Whether it can be asked for.
    pub fn is_possible(self) -> bool {
        Self::SCALES.contains(&self.scale)
    }

    /// How many units of the receiver a metre of our world is.
    pub fn per_metre(self) -> f64 {
        self.scale / self.unit.metres()
    }

    /// The two axes as they are said.
    pub fn axes(self) -> String {
        let up = match self.up {
            Up::Y => "Y",
            Up::Z => "Z",
        };
        let hand = match self.hand {
            Hand::Right => "right",
            Hand::Left => "left",
        };
        format!("{up}, {hand}-handed")
    }

    /// 4x4 matrix from our world to the receiver's.
    pub fn from_our_world(self) -> Matrix4<f64> {
        (self.receiver_from_world() * self.per_metre()).to_homogeneous()
    }

    /// A direction of our world in the receiver's, as long as it was.
    pub fn direction(self, direction: &Vector3<f64>) -> [f64; 3] {
        (self.receiver_from_world() * direction).into()
    }

    fn receiver_from_world(self) -> Matrix3<f64> {
        let upright = match self.up {
            Up::Y => Matrix3::identity(),
            Up::Z => Matrix3::new(1.0, 0.0, 0.0, 0.0, 0.0, -1.0, 0.0, 1.0, 0.0),
        };
        match (self.hand, self.up) {
            (Hand::Right, _) => upright,
            (Hand::Left, Up::Y) => Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, -1.0)) * upright,
            (Hand::Left, Up::Z) => Matrix3::from_diagonal(&Vector3::new(1.0, -1.0, 1.0)) * upright,
        }
    }

    /// Which of the receiver's axes each of the world's is, with its sign.
    pub fn from_world(self) -> [(usize, f64); 3] {
        let order = self.receiver_from_world();
        std::array::from_fn(|axis| {
            let column = order.column(axis);
            let at = column.iamax();
            (at, column[at])
        })
    }

    /// A point in the receiver's world.
    pub fn point(self, point: &WorldPoint) -> [f64; 3] {
        (self.receiver_from_world() * point.0.coords * self.per_metre()).into()
    }

    /// Standard errors along the receiver's axes; negative ones mark what is unknown and stay so.
    pub fn sigma(self, sigma: [f64; 3]) -> [f64; 3] {
        let order = self.receiver_from_world().abs();
        let scaled = |s: f64| if s < 0.0 { s } else { s * self.per_metre() };
        (order * Vector3::from(sigma.map(scaled))).into()
    }

    /// 4x4 matrix from the receiver's camera space to its world; the camera itself is not enlarged.
    pub fn world_from_camera(self, pose: &Pose) -> Matrix4<f64> {
        let camera = match self.hand {
            Hand::Right => Matrix3::identity(),
            Hand::Left => Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, -1.0)),
        };
        let ours = camera.to_homogeneous();
        let mut matrix =
            self.receiver_from_world().to_homogeneous() * pose.world_from_camera() * ours;
        let mut stands = matrix.fixed_view_mut::<3, 1>(0, 3);
        stands *= self.per_metre();
        matrix
    }
}

impl fmt::Display for Receiver {
    /// Axes; unit and scale where they are not the usual.
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(f, "{}", self.axes())?;
        if self.unit != LengthUnit::default() {
            write!(f, ", in units of one {}", self.unit.word())?;
        }
        if self.scale != 1.0 {
            write!(f, ", {} times as large", self.scale)?;
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::Point3;
    use rstest::rstest;

    #[rstest]
    #[case::ours(Up::Y, Hand::Right, 1.0)]
    #[case::z_up(Up::Z, Hand::Right, 1.0)]
    #[case::y_left(Up::Y, Hand::Left, -1.0)]
    #[case::z_left(Up::Z, Hand::Left, -1.0)]
    fn up_stays_up_and_the_hand_is_as_asked(#[case] up: Up, #[case] hand: Hand, #[case] sign: f64) {
        let receiver = Receiver::of_axes(up, hand);
        let above = receiver.point(&WorldPoint::new(0.0, 1.0, 0.0));
        assert_eq!(
            above,
            if up == Up::Y {
                [0.0, 1.0, 0.0]
            } else {
                [0.0, 0.0, 1.0]
            }
        );
        assert_eq!(receiver.receiver_from_world().determinant(), sign);
        // The camera's axes are a rotation of the receiver's, and a point ahead lies ahead.
        let pose = Pose::looking_at(
            &Point3::new(1.0, 1.6, 4.0),
            &Point3::new(0.2, 0.9, -1.0),
            &Vector3::y(),
        );
        let matrix = receiver.world_from_camera(&pose);
        let turn = matrix.fixed_view::<3, 3>(0, 0).into_owned();
        assert!((turn.determinant() - 1.0).abs() < 1e-12);
        let seen = Vector3::from(receiver.point(&WorldPoint::new(0.4, 0.3, -2.0)));
        let in_camera = turn.transpose() * (seen - matrix.fixed_view::<3, 1>(0, 3));
        let ours = pose.to_camera(&WorldPoint::new(0.4, 0.3, -2.0));
        let depth = if hand == Hand::Right {
            in_camera.z
        } else {
            -in_camera.z
        };
        assert!((Vector3::new(in_camera.x, in_camera.y, depth) - ours).norm() < 1e-12);
    }

    #[rstest]
    #[case::centimetres(LengthUnit::Centimetre, 1.0, 100.0)]
    #[case::feet(LengthUnit::Foot, 1.0, 1.0 / 0.3048)]
    #[case::ten_times(LengthUnit::Metre, 10.0, 10.0)]
    #[case::both(LengthUnit::Millimetre, 0.5, 500.0)]
    fn lengths_are_in_the_receivers_unit_and_turns_are_not_touched(
        #[case] unit: LengthUnit,
        #[case] scale: f64,
        #[case] wanted: f64,
    ) {
        let plain = Receiver::of_axes(Up::Z, Hand::Left);
        let receiver = Receiver {
            unit,
            scale,
            ..plain
        };
        let point = WorldPoint::new(0.4, -1.3, 2.0);
        for (own, metres) in receiver.point(&point).into_iter().zip(plain.point(&point)) {
            assert!((own - wanted * metres).abs() < 1e-9);
        }
        let known = receiver.sigma([0.01, -1.0, 0.02]);
        let metres = plain.sigma([0.01, -1.0, 0.02]);
        assert_eq!(known[2], -1.0, "what is unknown stays so: {known:?}");
        assert!((known[0] - wanted * metres[0]).abs() < 1e-9);
        let eye = Point3::new(1.0, 1.6, 4.0);
        let pose = Pose::looking_at(&eye, &Point3::origin(), &Vector3::y());
        let (own, metres) = (
            receiver.world_from_camera(&pose),
            plain.world_from_camera(&pose),
        );
        assert_eq!(
            own.fixed_view::<3, 3>(0, 0),
            metres.fixed_view::<3, 3>(0, 0)
        );
        let apart = own.fixed_view::<3, 1>(0, 3) - metres.fixed_view::<3, 1>(0, 3) * wanted;
        assert!(apart.norm() < 1e-9);
    }
}
