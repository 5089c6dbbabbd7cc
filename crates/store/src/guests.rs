//! What of guests is kept with a shot, and how that was before there were guests.

use parallax_core::guest::{Guest, What};
use parallax_core::spaces::TrackId;
use serde::{Deserialize, Serialize};

/// Most guests of a shot.
pub const MOST_GUESTS: usize = 200;

/// A shutter that is open for half of the time.
pub(crate) fn usual_shutter_deg() -> f64 {
    180.0
}

/// What of the set guests meet.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(default, deny_unknown_fields)]
pub struct Met {
    /// Whether the ground catches shadows.
    pub ground_catches: bool,
    /// Planes of statements that do more than stand there.
    pub planes: Vec<MetPlane>,
}

impl Default for Met {
    fn default() -> Self {
        Self {
            ground_catches: true,
            planes: Vec::new(),
        }
    }
}

/// A plane of a statement.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct MetPlane {
    /// Number of the statement.
    pub statement: u32,
    /// Whether it catches shadows.
    pub catches: bool,
    /// Whether it hides what is behind it.
    pub solid: bool,
}

/// A box on a landmark, as shots of before there were guests have them: read, never written.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct OldBox {
    name: String,
    at: TrackId,
    size_m: [f64; 3],
    turn_deg: f64,
}

impl From<OldBox> for Guest {
    fn from(old: OldBox) -> Self {
        let size_m = old.size_m;
        let mut guest = Self::new(&old.name, What::Box { size_m }, Some(old.at));
        guest.lie.turn_deg[0] = old.turn_deg;
        guest
    }
}
