//! What an artist knows of several features together: lengths between two, and features that lie on one plane.

use crate::things::Thing;
use parallax_core::solve::constraints::{FEWEST_ON_A_PLANE, LENGTHS_M};
use parallax_core::solve::{Constraints, KnownLength, KnownPlane};
use parallax_core::spaces::TrackId;
use serde::{Deserialize, Serialize};
use std::collections::BTreeSet;

/// Most constraints of a shot.
pub const MOST_CONSTRAINTS: usize = 500;

/// Something that is known of several features together.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Constraint {
    /// A length that was measured between two.
    Length {
        /// Their tracks.
        between: [u32; 2],
        /// The length, m.
        length_m: f64,
        /// Its standard error, m.
        sigma_m: f64,
    },
    /// They lie on one plane.
    Plane {
        /// Their tracks, four or more.
        tracks: Vec<u32>,
        /// One standard error of how far they are off it, m.
        sigma_m: f64,
    },
}

impl Constraint {
    /// The tracks that it is of.
    pub fn tracks(&self) -> &[u32] {
        match self {
            Self::Length { between, .. } => between,
            Self::Plane { tracks, .. } => tracks,
        }
    }

    pub(crate) fn is_possible(&self) -> bool {
        let own: BTreeSet<u32> = self.tracks().iter().copied().collect();
        let is_sane = |metres: &f64| LENGTHS_M.contains(metres);
        own.len() == self.tracks().len()
            && match self {
                Self::Length {
                    length_m, sigma_m, ..
                } => is_sane(length_m) && is_sane(sigma_m),
                Self::Plane { tracks, sigma_m } => {
                    tracks.len() >= FEWEST_ON_A_PLANE && is_sane(sigma_m)
                }
            }
    }
}

/// What is known of a shot's features together, for a solve.
pub fn constraints(all: &[Thing<Constraint>]) -> Constraints {
    let mut known = Constraints::default();
    for constraint in all {
        match &constraint.it {
            Constraint::Length {
                between,
                length_m,
                sigma_m,
            } => known.lengths.push(KnownLength {
                between: between.map(TrackId),
                length_m: *length_m,
                sigma_m: *sigma_m,
            }),
            Constraint::Plane { tracks, sigma_m } => known.planes.push(KnownPlane {
                tracks: tracks.iter().copied().map(TrackId).collect(),
                sigma_m: *sigma_m,
            }),
        }
    }
    known
}
