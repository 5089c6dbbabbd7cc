//! What is handed on of a photograph.

use crate::error::{ApiError, Refused};
use crate::screens::deliver::package::{Made, recipe_inputs};
use crate::screens::photo::answer::{options, placement};
use crate::shot::{facts, lens};
use parallax_core::camera::Similarity;
use parallax_core::guest::{What, stand_ins};
use parallax_core::photo::{PhotoFinding, findings, place, solve};
use parallax_core::plate::FrameRate;
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_formats::camera_json;
use parallax_formats::delivery::{CameraStanding, Delivered, Delivery, DeliveryError, Recipe};
use parallax_matching::delivering::{By, proven};
use parallax_store::shots::Shot;
use serde_json::{Value, json};

/// What a delivery by a recipe depends on.
pub fn delivery_inputs(shot: &Shot, recipe: &Recipe) -> String {
    let mut all = vec![
        json!(shot.state.photo),
        json!(facts::film_back(shot)),
        json!(shot.state.focal),
        json!(shot.name),
        recipe_inputs(recipe),
    ];
    if recipe.undistorted {
        all.push(json!(lens::undistorted_inputs(shot, None)));
    }
    Value::Array(all).to_string()
}

/// Writes the package of a photograph, reads it back and proves it.
pub fn deliver(shot: &Shot, by: &By<'_>) -> Result<Made, ApiError> {
    let photo = &shot.state.photo;
    let (refused, rails) = (Refused::Photo, photo.rails.plain());
    let perspective =
        solve(shot.width_px, shot.height_px, &rails, &options(shot, photo)).map_err(refused)?;
    let placed = place(&perspective, &placement(photo)).map_err(refused)?;
    let said = findings::findings(&rails, &options(shot, photo), &perspective);
    let doubts = said
        .iter()
        .filter(|f| f.is_doubt())
        .map(PhotoFinding::to_string);
    let standing = CameraStanding::doubted(doubts.collect());
    let about = facts::delivered_shot(shot, FrameRate::STILL);
    let mut delivery = Delivery::of_photograph(&about, &perspective, &placed, standing);
    let placed_box = photo
        .corner_box
        .and_then(|b| b.stand_in(&b.foot(&perspective, &placed)?));
    let delivered = |(what, foot): (What, WorldPoint)| {
        let there = Similarity {
            translation: foot.0.coords,
            ..Similarity::identity()
        };
        Some(Delivered::still(
            "box",
            stand_ins::plain(&what)?.into(),
            there,
        ))
    };
    delivery.guests = placed_box.and_then(delivered).into_iter().collect();
    let camera = camera_json::write(&delivery).map_err(DeliveryError::from)?;
    let renumbered_by = by.recipe.renumbered_by(FrameNumber(1)).unwrap_or(0);
    let delivery = by.applied(delivery.renumbered(renumbered_by), renumbered_by)?;
    Ok(Made {
        proven: proven(&delivery)?,
        camera,
        renumbered_by,
        plate_by: renumbered_by - facts::renumbered_by(shot),
        bodies: None,
    })
}
