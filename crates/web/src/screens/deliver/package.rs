//! What is handed on of a shot: written, read back and proven.

use crate::error::{ApiError, Refused};
use crate::shot::facts::{contradicted_rate, delivered_shot, film_back, renumbered_by};
use crate::shot::tracks;
use crate::shot::world::orientation_of;
use parallax_core::solve::Attempt;
use parallax_core::tracks::Track;
use parallax_formats::delivery::Delivered;
use parallax_matching::delivering::{Delivering, Proven};
use parallax_store::shots::Shot;
use parallax_store::statements::Picks;
use serde_json::json;

/// What a delivery depends on.
pub fn delivery_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    let facts = (s.rate, film_back(shot), renumbered_by(shot));
    // Where nothing is stated deliveries of before there were statements are not stale.
    let world = match s.stated() {
        stated if stated.is_empty() => json!(Picks::default()),
        stated => json!(stated),
    };
    let mut inputs = json!([
        s.attempt,
        world,
        s.guests.plain(),
        facts,
        shot.name,
        s.receiver
    ]);
    let called = s
        .notes
        .iter()
        .filter(|(_, n)| !(n.name.is_empty() && n.group.is_empty()));
    let called: Vec<_> = called.map(|(id, n)| (id, &n.name, &n.group)).collect();
    let hands: Vec<_> = s.hands.iter().map(|h| (h.id, &h.name)).collect();
    if let Some(list) = inputs.as_array_mut()
        && !(called.is_empty() && hands.is_empty())
    {
        list.push(json!([called, hands]));
    }
    inputs.to_string()
}

/// Writes a package, reads it back and proves it; `guests` stand still, so many more move, `stale` says what changed since the solve.
pub fn deliver(
    shot: &Shot,
    attempt: &Attempt,
    tracks: &[Track],
    (guests, moving): (Vec<Delivered>, usize),
    stale: Vec<String>,
) -> Result<Proven, ApiError> {
    let Some(rate) = shot.state.rate else {
        return Err(Refused::NoRate.into());
    };
    if let Some((stated, whose)) = contradicted_rate(shot) {
        return Err(Refused::RateContradicted {
            stated,
            whose,
            rate,
        }
        .into());
    }
    let orientation = orientation_of(attempt, shot);
    let delivering = Delivering {
        shot: delivered_shot(shot, rate),
        attempt,
        tracks,
        guests,
        moving,
        orientation,
        renumbered_by: renumbered_by(shot),
        stale,
    };
    Ok(delivering.proven(tracks::called(&shot.state))?)
}
