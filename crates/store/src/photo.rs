//! What an artist lays on a photograph.

use crate::things::Things;
use parallax_core::photo::{CornerBox, Flips, GridPlane, KnownLength, Rail};
use serde::{Deserialize, Serialize};

/// Rails, origin, known length and what to check with.
#[derive(Clone, Debug, Default, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct PhotoState {
    /// The rails.
    pub rails: Things<Rail>,
    /// Axes that point the other way.
    pub flips: Flips,
    /// Whether the centre of projection is found.
    pub solve_centre: bool,
    /// The world's origin in the picture.
    pub origin: Option<[f64; 2]>,
    /// A length that is known.
    pub known: Option<KnownLength>,
    /// Where the grid lies.
    pub grid: GridPlane,
    /// A box to check with.
    pub corner_box: Option<CornerBox>,
    /// A length to be measured; its own metres are not used.
    pub measure: Option<KnownLength>,
}

/// Rails that are kept at most.
pub const MOST_RAILS: usize = 400;

impl PhotoState {
    /// What cannot be kept; what only cannot be solved is said by the solve.
    pub fn complaint(&self) -> Option<String> {
        if self.rails.len() > MOST_RAILS {
            return Some(format!("a photograph has {MOST_RAILS} rails at most"));
        }
        let lengths = [self.known, self.measure];
        let ends = self.rails.iter().flat_map(|r| [r.a, r.b]);
        let ends = ends
            .chain(lengths.iter().flatten().flat_map(|k| [k.from, k.to]))
            .map(|p| [p.x, p.y]);
        let points = ends
            .chain(self.origin)
            .chain(self.corner_box.and_then(|b| b.at));
        if points.flatten().any(|v| !v.is_finite() || v.abs() > 1e6) {
            return Some("a point lies beyond all measure".to_owned());
        }
        if self
            .known
            .is_some_and(|k| !(k.metres.is_finite() && k.metres > 0.0 && k.metres < 1e5))
        {
            return Some("a known length has to be greater than 0 m".to_owned());
        }
        let plausible = |s: &f64| s.is_finite() && s.abs() < 1e5;
        if self
            .corner_box
            .is_some_and(|b| !b.size.iter().all(plausible))
        {
            return Some("the box is larger than can be".to_owned());
        }
        None
    }
}
