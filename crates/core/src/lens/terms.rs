//! The numbers of a lens that can be solved, whatever they are solved from: marks along straight things
//! ([`super::straights`]) or what a camera saw ([`crate::solve::bundle`]).

use crate::camera::Intrinsics;
use nalgebra::Vector2;
use serde::{Deserialize, Serialize};

/// A number of the lens, its focal length aside.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Term {
    /// Radial, r².
    K1,
    /// Radial, r⁴.
    K2,
    /// Radial, r⁶.
    K3,
    /// Tangential.
    P1,
    /// Tangential.
    P2,
    /// How k1 follows a zoom: by how much it changes while the focal length grows to e times.
    K1ByZoom,
    /// Centre of projection and of distortion, across.
    CentreX,
    /// The same, down.
    CentreY,
}

impl Term {
    /// How a drawn place changes with it, lens coordinates, for the undistorted place `u`; with the
    /// centre by focal lengths, and where k1 follows a zoom at e times the focal length of the lens.
    pub fn draws(self, u: Vector2<f64>) -> Vector2<f64> {
        let (x, y, q) = (u.x, u.y, u.norm_squared());
        match self {
            Self::K1 | Self::K1ByZoom => u * q,
            Self::K2 => u * q * q,
            Self::K3 => u * q * q * q,
            Self::P1 => Vector2::new(2.0 * x * y, q + 2.0 * y * y),
            Self::P2 => Vector2::new(q + 2.0 * x * x, 2.0 * x * y),
            Self::CentreX => Vector2::x(),
            Self::CentreY => Vector2::y(),
        }
    }

    /// Where it stands in a lens; the centre is in px.
    fn slot(self, lens: &mut Intrinsics) -> &mut f64 {
        match self {
            Self::K1 => &mut lens.distortion.k1,
            Self::K2 => &mut lens.distortion.k2,
            Self::K3 => &mut lens.distortion.k3,
            Self::P1 => &mut lens.distortion.p1,
            Self::P2 => &mut lens.distortion.p2,
            Self::K1ByZoom => &mut lens.distortion.k1_by_zoom,
            Self::CentreX => &mut lens.centre.x,
            Self::CentreY => &mut lens.centre.y,
        }
    }

    /// Its value; of the centre px.
    pub fn of(self, lens: &Intrinsics) -> f64 {
        *self.slot(&mut lens.to_owned())
    }

    /// Changes it by so much, the centre by px.
    pub fn change(self, lens: &mut Intrinsics, by: f64) {
        *self.slot(lens) += by;
    }

    /// Whether it is one of the two that are px.
    pub fn is_centre(self) -> bool {
        matches!(self, Self::CentreX | Self::CentreY)
    }

    /// What it is called.
    pub fn name(self) -> &'static str {
        match self {
            Self::K1 => "k1",
            Self::K2 => "k2",
            Self::K3 => "k3",
            Self::P1 => "p1",
            Self::P2 => "p2",
            Self::K1ByZoom => "k1 by zoom",
            Self::CentreX => "centre x",
            Self::CentreY => "centre y",
        }
    }
}

/// Which terms of the lens are solved.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
pub struct LensTerms {
    /// How many radial terms, 0 to 3.
    pub radial: usize,
    /// The tangential terms p1 and p2.
    pub tangential: bool,
    /// The centre of projection and of distortion.
    pub centre: bool,
    /// How k1 follows a zoom.
    #[serde(default)]
    pub by_zoom: bool,
}

impl LensTerms {
    /// None.
    pub const NONE: Self = Self {
        radial: 0,
        tangential: false,
        centre: false,
        by_zoom: false,
    };

    /// The usual two: k1 and k2.
    pub const TWO: Self = Self {
        radial: 2,
        ..Self::NONE
    };

    /// Whether any is.
    pub fn any(&self) -> bool {
        *self != Self::NONE
    }

    /// The same of a lens that zooms: where k1 is solved, so is how it follows.
    pub fn where_it_zooms(self, zooms: bool) -> Self {
        Self {
            by_zoom: zooms && self.radial > 0,
            ..self
        }
    }

    /// They themselves, in their order.
    pub fn terms(self) -> impl Iterator<Item = Term> {
        let radial = [Term::K1, Term::K2, Term::K3].into_iter().take(self.radial);
        let of = |free: bool, pair: [Term; 2]| pair.into_iter().filter(move |_| free);
        radial
            .chain(of(self.tangential, [Term::P1, Term::P2]))
            .chain(of(self.centre, [Term::CentreX, Term::CentreY]))
            .chain(self.by_zoom.then_some(Term::K1ByZoom))
    }
}
