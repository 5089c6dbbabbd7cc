//! The one next thing to do at each station of a shot.

use crate::said::next::Next;
use crate::said::standing::{Standing, Station};
use crate::shot::everything::Everything;
use std::collections::BTreeMap;

/// The next steps, by station.
pub fn steps(all: &Everything, stations: &[Station]) -> BTreeMap<&'static str, Next> {
    let standing = |key: &str| {
        let station = stations.iter().find(|s| s.key == key);
        station.map_or(Standing::NotBegun, |s| s.standing)
    };
    let orientation = all.orientation.as_ref();
    let (levelled, scaled) = orientation.map_or((false, false), |o| (o.levelled, o.scaled));
    BTreeMap::from([
        ("plate", of_plate(all)),
        ("lens", Next::go("On to Track", "track")),
        ("track", of_track(standing("track"))),
        ("solve", of_solve(all, standing("solve"))),
        ("orient", of_orient(all, levelled, scaled)),
        ("proof", of_proof(all)),
        ("deliver", of_deliver(all, standing("deliver"))),
    ])
}

fn of_plate(all: &Everything) -> Next {
    match all.shot.state.rate {
        None => Next::field("State the rate", "#rate"),
        Some(_) => Next::go("On to Track", "track"),
    }
}

fn of_track(standing: Standing) -> Next {
    match standing {
        Standing::NotBegun => Next::work("Follow features", "track"),
        Standing::Stale => Next::work("Follow again", "track"),
        Standing::InWork | Standing::Good | Standing::NeedsALook => {
            Next::go("On to Solve", "solve")
        }
    }
}

fn of_solve(all: &Everything, standing: Standing) -> Next {
    match (all.shot.state.run, standing) {
        (None, _) => Next::go("Follow features first", "track"),
        (Some(_), Standing::NotBegun) => Next::work("Solve the camera", "solve"),
        (Some(_), Standing::Stale) => Next::work("Solve again", "solve_again"),
        (Some(_), _) => Next::go("On to Orient", "orient"),
    }
}

fn of_orient(all: &Everything, levelled: bool, scaled: bool) -> Next {
    match (&all.attempt, levelled, scaled) {
        (None, _, _) => Next::go("Solve first", "solve"),
        (Some(_), false, _) => Next::field("State the ground", "#plate"),
        (Some(_), true, false) => {
            Next::field("Select two features and state their distance", "#metres")
        }
        (Some(_), true, true) => Next::go("On to Proof", "proof"),
    }
}

fn of_proof(all: &Everything) -> Next {
    match (&all.attempt, all.shot.state.guests.is_empty()) {
        (None, _) => Next::go("Solve first", "solve"),
        (Some(_), true) => Next::field("Choose a guest, then click where it stands", "#guest-kind"),
        (Some(_), false) => Next::go("On to Deliver", "deliver"),
    }
}

fn of_deliver(all: &Everything, standing: Standing) -> Next {
    let rate = all.shot.state.rate;
    match (&all.attempt, rate, standing) {
        (None, _, _) => Next::go("Solve first", "solve"),
        (_, None, _) => Next::field("State the rate", "#rate"),
        (_, _, Standing::Good | Standing::NeedsALook) => {
            Next::field("Download the package", "#package")
        }
        _ => Next::work("Deliver and prove", "deliver"),
    }
}
