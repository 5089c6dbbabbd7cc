//! How far the Track station is.

use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::shot::everything::Everything;
use crate::shot::facts;
use parallax_store::jobs::JobKind;
use parallax_store::track_runs::NOTHING_FOLLOWED;

/// The station; its figure is how many tracks take part.
pub fn station(all: &Everything) -> Station {
    let s = &all.shot.state;
    let (count, aside) = all.tracks.count(s);
    let figure = if count == 0 {
        "–".to_owned()
    } else {
        count.saturating_sub(aside).to_string()
    };
    let changed =
        |inputs: &str| inputs != NOTHING_FOLLOWED && inputs != facts::following(&all.shot).inputs();
    let standing = match &all.tracks.run {
        _ if all.is_at(&[JobKind::Track, JobKind::Hand]) => Standing::InWork,
        _ if all.tracks.waiting > 0 => Standing::Stale,
        None => Standing::NotBegun,
        Some(run) if changed(&run.inputs) => Standing::Stale,
        Some(_) if count == 0 => Standing::NotBegun,
        Some(_) => Standing::Good,
    };
    Station::new("track", "Track", standing, figure)
}
