//! How far the Plate station is.

use crate::said::standing::{Standing, Station};
use crate::shot::everything::Everything;
use parallax_store::jobs::JobKind;

/// The station: a plate is good once its rate is known and no frame is missing unbridged.
pub fn station(all: &Everything) -> Station {
    let (s, plate) = (&all.shot.state, &all.shot.plate);
    let is_whole = plate.gaps.is_empty() || s.bridge_gaps;
    let standing = match (all.is_at(&[JobKind::Ingest]), s.rate, is_whole) {
        (true, _, _) => Standing::InWork,
        (false, Some(_), true) => Standing::Good,
        _ => Standing::NeedsALook,
    };
    Station::new("plate", "Plate", standing, format!("{} fr", plate.count))
}
