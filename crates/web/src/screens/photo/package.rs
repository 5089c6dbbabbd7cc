//! What is handed on of a photograph.

use crate::error::{ApiError, Refused};
use crate::screens::photo::answer::{options, placement};
use crate::shot::facts;
use parallax_core::camera::Similarity;
use parallax_core::guest::{What, stand_ins};
use parallax_core::photo::{PhotoFinding, findings, place, solve};
use parallax_core::plate::FrameRate;
use parallax_core::spaces::WorldPoint;
use parallax_formats::delivery::{CameraStanding, Delivered, Delivery};
use parallax_matching::delivering::{Proven, proven};
use parallax_store::shots::Shot;
use serde_json::json;

/// What a delivery depends on.
pub fn delivery_inputs(shot: &Shot) -> String {
    json!([
        shot.state.photo,
        facts::film_back(shot),
        shot.state.focal,
        shot.name,
        shot.state.receiver
    ])
    .to_string()
}

/// Writes the package of a photograph, reads it back and proves it.
pub fn deliver(shot: &Shot) -> Result<Proven, ApiError> {
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
        Some(Delivered {
            name: "box".to_owned(),
            mesh: stand_ins::plain(&what)?.into(),
            there: Similarity {
                translation: foot.0.coords,
                ..Similarity::identity()
            },
        })
    };
    delivery.guests = placed_box.and_then(delivered).into_iter().collect();
    Ok(proven(&delivery)?)
}
