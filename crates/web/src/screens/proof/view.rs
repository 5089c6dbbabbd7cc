//! How far the Proof station is.

use crate::said::standing::{Standing, Station};
use crate::said::words::several;
use crate::shot::everything::Everything;

/// The station; what stands in an oriented world is as good as that world.
pub fn station(all: &Everything, orient: Standing) -> Station {
    let count = all.shot.state.guests.len();
    let (standing, figure) = match (count, orient) {
        (0, _) => (Standing::NotBegun, "–".to_owned()),
        (_, Standing::Good | Standing::Stale) => (orient, several(count, "guest", "guests")),
        (_, _) => (Standing::NeedsALook, several(count, "guest", "guests")),
    };
    Station::new("proof", "Proof", standing, figure)
}
