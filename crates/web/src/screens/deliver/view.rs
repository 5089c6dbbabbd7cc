//! How far the Deliver station is.

use super::package;
use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::shot::everything::Everything;
use parallax_formats::receipt::Receipt;
use parallax_store::jobs::JobKind;

/// The station, which rests on the solve.
pub fn station(all: &Everything, solve: Standing) -> Station {
    let (standing, figure) = standing(all, solve);
    Station::new("deliver", "Deliver", standing, figure)
}

fn standing(all: &Everything, solve: Standing) -> (Standing, String) {
    let Some(delivery) = &all.delivery else {
        let standing = if all.is_at(&[JobKind::Deliver, JobKind::DeliverStale]) {
            Standing::InWork
        } else {
            Standing::NotBegun
        };
        return (standing, "–".to_owned());
    };
    let receipt: Option<Receipt> = serde_json::from_str(&delivery.receipt).ok();
    let figure = receipt.as_ref().map_or("–".to_owned(), |r| {
        format!("{:.4} px", r.largest_difference_px)
    });
    if delivery.inputs != package::delivery_inputs(&all.shot) || solve == Standing::Stale {
        return (Standing::Stale, "stale".to_owned());
    }
    let good = receipt.is_some_and(|r| {
        r.files_agree && r.stale.is_empty() && r.camera.is_some_and(|camera| camera.good)
    });
    let standing = if good {
        Standing::Good
    } else {
        Standing::NeedsALook
    };
    (standing, figure)
}
