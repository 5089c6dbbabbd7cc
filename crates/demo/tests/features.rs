//! Following against truth: where features are after 30 frames of the demo plate.
#![allow(clippy::unwrap_used)]

use parallax_core::judge;
use parallax_core::progress::Silent;
use parallax_core::track::{TrackOptions, session::follow_plate};
use parallax_demo::{features, plates, terrace};
use parallax_media::Plate;

#[test]
fn features_stay_on_their_details() {
    let take = terrace::take();
    let (_, plate) = Plate::in_folder(&plates::shipped().join("terrace-walk"), false).unwrap();
    let tracks = follow_plate(
        &plate,
        &TrackOptions::for_size(plate.width_px, plate.height_px),
        &Silent,
    )
    .unwrap();
    let movers = judge::movers(&tracks, plate.width_px, &Silent);
    let mut off_px: Vec<f64> = tracks
        .iter()
        .filter(|t| !movers.contains(&t.id))
        .filter_map(|t| {
            features::strays(&take, t)?
                .into_iter()
                .find(|(frames, _)| *frames == 30)
        })
        .map(|(_, off)| off.norm())
        .collect();
    off_px.sort_by(f64::total_cmp);
    assert!(
        off_px.len() > 100,
        "{} features live 30 frames",
        off_px.len()
    );
    let median = off_px[off_px.len() / 2];
    let ninth = off_px[off_px.len() * 9 / 10];
    assert!(median < 0.12, "median {median:.3} px after 30 frames");
    assert!(ninth < 0.35, "a tenth strays by more than {ninth:.3} px");
}
