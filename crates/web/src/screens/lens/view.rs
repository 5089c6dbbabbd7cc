//! The Lens station: how far it is.

use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::said::words::with_minus;
use crate::shot::everything::Everything;
use crate::shot::lens::{Origin, found, in_use};
use parallax_core::camera::Intrinsics;
use parallax_core::solve::Attempt;
use parallax_store::shots::Shot;

/// The station.
pub fn station(all: &Everything) -> Station {
    let attempt = all.attempt.as_ref().map(|a| &a.attempt);
    let (standing, figure) = standing(&all.shot, attempt);
    Station::new("lens", "Lens", standing, figure)
}

/// How far the station is, with its one figure.
fn standing(shot: &Shot, attempt: Option<&Attempt>) -> (Standing, String) {
    let figure = |lens: &Intrinsics| {
        let k1 = with_minus(format!("{:.3}", lens.distortion.k1));
        format!("k1 {k1}")
    };
    match (found(shot), in_use(shot, attempt)) {
        (_, Some((lens, Origin::Solve))) => (Standing::Good, figure(&lens)),
        (Some(Ok(f)), _) => (Standing::Good, figure(&f.lens())),
        (Some(Err(_)), _) => (Standing::NeedsALook, "no lens".to_owned()),
        (None, _) if shot.state.solve_lens => (Standing::InWork, "–".to_owned()),
        (None, _) => (Standing::NotBegun, "–".to_owned()),
    }
}
