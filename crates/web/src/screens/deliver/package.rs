//! What is handed on of a shot by a recipe: written, read back and proven.

use crate::error::{ApiError, Refused};
use crate::shot::facts::{contradicted_rate, delivered_shot, film_back, renumbered_by};
use crate::shot::tracks;
use crate::shot::world::orientation_of;
use parallax_core::progress::Progress;
use parallax_core::solve::Attempt;
use parallax_core::solve::bodies::motion::BodyLength;
use parallax_core::tracks::Track;
use parallax_formats::delivery::{Delivered, Recipe};
use parallax_matching::delivering::{Bodies, By, Delivering, Proven};
use parallax_store::constraints::constraints;
use parallax_store::shots::Shot;
use parallax_store::statements::Picks;
use serde_json::{Value, json};
use std::cell::OnceCell;

/// What a delivery by a recipe depends on.
pub fn delivery_inputs(shot: &Shot, recipe: &Recipe) -> String {
    let s = &shot.state;
    let facts = (s.rate, film_back(shot), renumbered_by(shot));
    // Where nothing is stated deliveries of before there were statements are not stale.
    let world = match s.stated() {
        stated if stated.is_empty() => json!(Picks::default()),
        stated => json!(stated),
    };
    let guests = recipe.guests.then(|| (s.guests.plain(), s.shutter_deg));
    let called = s
        .notes
        .iter()
        .filter(|(_, n)| !(n.name.is_empty() && n.group.is_empty()));
    let called: Vec<_> = called.map(|(id, n)| (id, &n.name, &n.group)).collect();
    let hands: Vec<_> = s.hands.iter().map(|h| (h.id, &h.name)).collect();
    let mut all = vec![
        json!(s.attempt),
        world,
        json!(guests),
        json!(facts),
        json!(shot.name),
        recipe_inputs(recipe),
        json!(called),
        json!(hands),
        json!(s.lens.keep),
    ];
    if recipe.undistorted {
        all.push(json!(s.written));
    }
    Value::Array(all).to_string()
}

/// A recipe without what it does not ask for, so that deliveries of before that could be asked for are not stale.
pub fn recipe_inputs(recipe: &Recipe) -> Value {
    let mut value = json!(recipe);
    if let Some(members) = value.as_object_mut() {
        for later in ["set", "bodies", "undistorted"] {
            if members.get(later) == Some(&Value::Bool(false)) {
                members.remove(later);
            }
        }
    }
    value
}

/// What is delivered, and whose changes it is held against.
pub struct Made {
    /// The files with their receipt.
    pub proven: Proven,
    /// The neutral camera of everything, frames as the plate has them.
    pub camera: String,
    /// By how much frames are numbered higher in the files.
    pub renumbered_by: i32,
    /// The same for an undistorted plate, whose files have the shot's numbers already.
    pub plate_by: i32,
    /// Bodies, where they were asked for and solved.
    pub bodies: Option<Bodies>,
}

/// What the bodies of an attempt depend on besides it.
pub fn body_inputs(shot: &Shot, tracks: &str) -> String {
    let s = &shot.state;
    json!([s.stated(), s.constraints, s.notes, s.hands, tracks]).to_string()
}

/// What of a shot is handed on.
pub struct Scene<'a> {
    /// The solve.
    pub attempt: &'a Attempt,
    /// All tracks.
    pub tracks: &'a [Track],
    /// Guests in the artist's world.
    pub guests: Vec<Delivered>,
    /// What changed since the solve.
    pub stale: Vec<String>,
    /// Told while bodies are solved.
    pub progress: &'a dyn Progress,
    /// Bodies, where they are known from before.
    pub bodies: Option<Bodies>,
}

/// Writes a package, reads it back and proves it.
pub fn deliver(shot: &Shot, scene: Scene<'_>, by: &By<'_>) -> Result<Made, ApiError> {
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
    let Scene {
        attempt,
        tracks,
        guests,
        stale,
        progress,
        bodies,
    } = scene;
    let known = constraints(&shot.state.constraints).lengths;
    let delivering = Delivering {
        shot: delivered_shot(shot, rate),
        attempt,
        tracks,
        guests,
        orientation: orientation_of(attempt, shot),
        stated: shot.state.stated(),
        lengths: known.iter().map(BodyLength::from).collect(),
        progress,
        bodies: bodies.map_or_else(OnceCell::new, OnceCell::from),
        renumbered_by: renumbered_by(shot),
        stale,
    };
    let called = || tracks::called(&shot.state);
    Ok(Made {
        proven: delivering.proven_by(by, called())?,
        camera: delivering.camera(called())?,
        renumbered_by: delivering.renumbered_by(by.recipe),
        plate_by: delivering.renumbered_by(by.recipe) - renumbered_by(shot),
        bodies: delivering.bodies.into_inner(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_formats::format::FormatKind;

    #[test]
    fn what_a_recipe_does_not_ask_for_makes_nothing_stale() {
        let asking = Recipe::of("scene", &[FormatKind::Usd]);
        let plain = Recipe {
            set: false,
            bodies: false,
            ..asking.clone()
        };
        let members = recipe_inputs(&plain);
        for later in ["set", "bodies", "undistorted"] {
            assert!(members.get(later).is_none(), "{later}");
        }
        assert_eq!(recipe_inputs(&asking)["bodies"], true);
        assert_ne!(recipe_inputs(&asking), members);
    }
}
