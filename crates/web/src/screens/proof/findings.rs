//! What was measured in the plate, as it stays said while the attempt stands.

use super::reel::run_said;
use crate::said::finding::{Finding, Shows, finding};
use crate::shot::everything::Everything;
use crate::shot::facts::name_of;
use parallax_core::spaces::{TrackId, WorldPoint};
use parallax_store::slips::MeasuredSlip;
use serde_json::json;

/// Measured slips of the current attempt, those that can be seen first.
pub fn findings(all: &Everything) -> Vec<Finding> {
    let (seen, unseen): (Vec<_>, Vec<_>) = all.slips.iter().partition(|(_, s)| s.worst.is_some());
    let ordered = seen.into_iter().chain(unseen);
    ordered.map(|(id, slip)| said(all, *id, slip)).collect()
}

fn said(all: &Everything, id: i64, slip: &MeasuredSlip) -> Finding {
    let place = match slip.track {
        Some(track) => name_of(&all.shot.state, TrackId(track)),
        None => {
            let change = all.orientation.as_ref().map(|o| o.change);
            let at = WorldPoint(slip.place.into());
            let at = change.map_or(at, |change| change.point(&at)).0;
            format!("{:.2}, {:.2}, {:.2}", at.x, at.y, at.z)
        }
    };
    let measured = format!("{:.2} px rms on {} frames", slip.rms_px, slip.crops);
    let (level, text) = match slip.worst {
        Some((from, to, px)) => {
            let (on, by) = run_said(from, to, px);
            let text =
                format!("{on} the plate slips by {by} under {place}, as measured ({measured}).");
            ("warn", text)
        }
        None => (
            "ok",
            format!("Nothing slips under {place} that can be seen: measured {measured}."),
        ),
    };
    let shows = Shows {
        frame: slip.worst.map(|(from, ..)| from),
        track: slip.track,
        ..Shows::default()
    };
    finding("proof", level, text)
        .showing(shows)
        .attended_by("Forget it", json!({ "do": "forget_slip", "id": id }))
}
