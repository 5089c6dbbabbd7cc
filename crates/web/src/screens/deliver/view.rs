//! How far the Deliver station is.

use super::recipes::{MadeRow, RecipeRow};
use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::shot::everything::Everything;
use parallax_store::jobs::JobKind;

/// The station, which rests on the solve: as good as the worst of what was delivered.
pub fn station(all: &Everything, rows: &[RecipeRow], solve: Standing) -> Station {
    let made: Vec<&MadeRow> = rows.iter().filter_map(RecipeRow::made).collect();
    let at_work = all.is_at(&[JobKind::Deliver, JobKind::DeliverStale]);
    let (standing, figure) = standing(&made, at_work, solve == Standing::Stale);
    Station::new("deliver", "Deliver", standing, figure)
}

/// How deliveries stand together.
pub fn standing(made: &[&MadeRow], at_work: bool, stale: bool) -> (Standing, String) {
    if made.is_empty() {
        let standing = match at_work {
            true => Standing::InWork,
            false => Standing::NotBegun,
        };
        return (standing, "–".to_owned());
    }
    let old = made.iter().filter(|m| m.is_stale()).count();
    if stale || old > 0 {
        let figure = match made.len() {
            1 => "stale".to_owned(),
            all if stale => format!("{all} stale"),
            all => format!("{old} of {all} stale"),
        };
        return (Standing::Stale, figure);
    }
    let good = made.iter().all(|m| {
        m.receipt().is_some_and(|r| {
            r.files_agree && r.stale.is_empty() && r.camera.as_ref().is_some_and(|c| c.good)
        })
    });
    let off = made.iter().filter_map(|m| m.receipt());
    let off = off.map(|r| r.largest_difference_px).fold(0.0, f64::max);
    let standing = match good {
        true => Standing::Good,
        false => Standing::NeedsALook,
    };
    (standing, format!("{off:.4} px"))
}
