//! How far the Orient station is, and what is said there.

use crate::said::finding::{Finding, Remedy, finding};
use crate::said::standing::Standing;
use crate::said::standing::Station;
use crate::said::words::{error_alone, sentence};
use crate::shot::everything::Everything;
use parallax_core::scene::Picks;
use serde_json::json;

/// The station, which rests on the solve.
pub fn station(all: &Everything, solve: Standing) -> Station {
    let (standing, figure) = match &all.orientation {
        None => (Standing::NotBegun, "–".to_owned()),
        Some(Err(_)) => (Standing::NeedsALook, "pick again".to_owned()),
        Some(Ok(o)) if !o.levelled && !o.scaled => (Standing::NotBegun, "–".to_owned()),
        Some(Ok(_)) if solve == Standing::Stale => (Standing::Stale, "stale".to_owned()),
        Some(Ok(o)) if o.levelled && o.scaled => (Standing::Good, "metre".to_owned()),
        Some(Ok(o)) => (
            Standing::InWork,
            if o.levelled { "no scale" } else { "not level" }.to_owned(),
        ),
    };
    Station::new("orient", "Orient", standing, figure)
}

/// What is said of the world.
pub fn findings(all: &Everything) -> Vec<Finding> {
    match &all.orientation {
        None => vec![finding(
            "orient",
            "warn",
            "Solve first: there are no landmarks to pick yet.".to_owned(),
        )],
        Some(Err(e)) => vec![finding("orient", "bad", sentence(e))],
        Some(Ok(_))
            if all
                .attempt
                .as_ref()
                .is_some_and(|a| a.attempt.is_surveyed()) =>
        {
            surveyed(all)
        }
        Some(Ok(o)) => {
            let mut out = Vec::new();
            if o.levelled {
                let unit = if o.scaled {
                    format!("{:.1} mm", 1000.0 * o.flatness)
                } else {
                    format!("{:.4} units", o.flatness)
                };
                out.push(finding(
                    "orient",
                    "ok",
                    format!("The ground landmarks lie within {unit} (rms) of their plane."),
                ));
            } else {
                out.push(finding(
                    "orient",
                    "warn",
                    "Pick three or more landmarks on the ground, then make them the ground."
                        .to_owned(),
                ));
            }
            if o.scaled {
                let certain = o.scale_share_sigma.map_or_else(
                    || "How certain the scale is, this solve does not say.".to_owned(),
                    |share| {
                        let error = error_alone(100.0 * share, " %");
                        format!("Scale is certain to {error}, if the stated distance is exact.")
                    },
                );
                out.push(finding("orient", "ok", certain));
            } else {
                out.push(finding(
                    "orient",
                    "warn",
                    "Pick two landmarks whose distance you know and state it.".to_owned(),
                ));
            }
            out
        }
    }
}

/// What is said at Orient of a world that a survey holds.
fn surveyed(all: &Everything) -> Vec<Finding> {
    let misses = all.attempt.iter().flat_map(|a| &a.attempt.survey);
    let used: Vec<f64> = misses
        .filter(|m| m.used)
        .map(|m| m.distance_m().powi(2))
        .collect();
    let rms_mm = 1000.0 * (used.iter().sum::<f64>() / used.len().max(1) as f64).sqrt();
    let held = finding(
        "orient",
        "ok",
        format!(
            "The survey holds the world: it is upright and in metres. {} points are missed by {rms_mm:.1} mm (rms).",
            used.len()
        ),
    );
    if all.shot.state.picks == Picks::default() {
        return vec![held];
    }
    let picked = finding(
        "orient",
        "warn",
        "Ground, origin or distance were picked as well and are laid over the survey. Clear them to stand in its coordinates.".to_owned(),
    );
    let clear = Remedy {
        label: "Clear what was picked",
        edit: json!({ "picks": { "ground": [], "origin": null, "distance": null } }),
        things: None,
        work: None,
    };
    vec![held, picked.mended_by(Some(clear))]
}
