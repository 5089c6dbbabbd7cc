//! How far the Solve station is.

use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::shot::everything::Everything;
use crate::shot::solving;
use parallax_core::solve::Verdict;
use parallax_store::attempts::KeptAttempt;
use parallax_store::jobs::JobKind;
use std::sync::Arc;

/// The station, which rests on tracks.
pub fn station(all: &Everything, track: Standing) -> Station {
    let standing = match &all.attempt {
        _ if all.is_at(&[JobKind::Solve, JobKind::SolveAgain]) => Standing::InWork,
        None => Standing::NotBegun,
        Some(a) if a.inputs != solving::solve_inputs(&all.shot) || track == Standing::Stale => {
            Standing::Stale
        }
        Some(a) if a.attempt.verdict == Verdict::Good => Standing::Good,
        Some(_) => Standing::NeedsALook,
    };
    let px = |a: &Arc<KeptAttempt>| format!("{:.2} px", a.attempt.rms_px);
    let figure = all.attempt.as_ref().map_or("–".to_owned(), px);
    Station::new("solve", "Solve", standing, figure)
}
