//! What can be said of a lens, with its evidence and what mends it.

use crate::said::finding::Shows;
use crate::said::finding::{Finding, Remedy, finding};
use crate::said::words::several;
use crate::said::words::{capital, sentence};
use crate::shot::lens::wanting;
use crate::shot::lens::{FoundLens, NoLens};
use parallax_core::lens::stated::StatedLens;
use parallax_core::lens::straights::{SolvedLens, Wanting, Widening, farthest_mark_px};
use parallax_core::statistics;
use parallax_store::lens::{LensSource, LensState};
use parallax_store::shots::Shot;
use serde_json::json;

/// What can be said of the lens.
pub fn findings(
    shot: &Shot,
    state: &LensState,
    found: Option<&Result<FoundLens, NoLens>>,
) -> Vec<Finding> {
    let lens = |level, text| finding("lens", level, text);
    match found {
        None => vec![lens(
            "ok",
            "Nothing is known of the lens. Mark edges that are straight in reality, state its values, take it from \
             the library, or solve it along with the camera."
                .to_owned(),
        )],
        Some(Err(error)) => {
            // While the first straights are being marked there is nothing wrong yet.
            let level = if state.source == LensSource::Straights && state.straights.len() < 3 { "warn" } else { "bad" };
            vec![lens(level, sentence(error))]
        }
        Some(Ok(FoundLens::Stated(StatedLens { lens: l, converted_px }))) => {
            let unit = if state.values.focal_px.is_some() { "as stated" } else { "the focal length, else the width" };
            let mut out =
                vec![lens("ok", format!("The terms hold for a radius measured in {:.1} px: {unit}.", l.focal_px))];
            if let Some(error) = converted_px {
                let level = if *error > 0.3 { "warn" } else { "ok" };
                out.push(lens(
                    level,
                    format!("Restated from the older convention with an error of {error:.3} px at most."),
                ));
            }
            out
        }
        Some(Ok(FoundLens::Solved(solved))) => {
            let mut out = of_straights(state, solved);
            let kept = *state == shot.state.lens;
            out.extend(kept.then(|| wanting(shot, solved)).flatten().map(|w| called_for(state, solved, &w)));
            out
        }
    }
}

/// That the straights call for a wider lens, with the edit that gives it.
fn called_for(state: &LensState, solved: &SolvedLens, wanting: &Wanting) -> Finding {
    let (label, edit) = match wanting.by {
        Widening::RadialTerm => ("Solve one more term", json!({ "terms": state.terms + 1 })),
        Widening::Tangential => ("Solve tangential terms", json!({ "tangential": true })),
        Widening::FreeCentre => ("Free the centre", json!({ "centre": "free" })),
    };
    let text = format!(
        "The straights call for {}: {:.2} px are left with it instead of {:.2}, and a corner moves by {:.1} px.",
        wanting.by, wanting.rms_after_px, solved.rms_after_px, wanting.corner_moves_px
    );
    finding("lens", "warn", text).mended_by(Some(Remedy {
        label,
        edit: json!({ "lens": edit }),
        things: None,
        work: None,
    }))
}

fn of_straights(state: &LensState, s: &SolvedLens) -> Vec<Finding> {
    let lens = |level, text| finding("lens", level, text);
    let mut out = vec![lens(
        "ok",
        format!(
            "{} with {} marks bend by {:.2} px as shot and by {:.2} px with this lens.",
            several(s.straights.len(), "straight", "straights"),
            s.straights.iter().map(|s| s.misses_px.len()).sum::<usize>(),
            s.rms_before_px,
            s.rms_after_px
        ),
    )];
    let after = s.straights[s.worst].after_px;
    let suspicious = s.straights.len() > 3 && after > 0.8 && after > 2.5 * median(s);
    let worst = format!(
        "straight {} on frame {}",
        s.worst + 1,
        state.straights[s.worst].frame
    );
    out.push(if suspicious {
        let bent = json!({ "lens.straights": { "remove": [state.straights[s.worst].id] } });
        let remedy = Remedy { label: "Remove it", edit: json!({}), things: Some(bent), work: None };
        lens(
            "warn",
            format!("{} stays bent by {after:.2} px, far more than the others: it is not straight in reality, or not marked on its edge.", capital(&worst)),
        )
        .mended_by(Some(remedy))
    } else {
        lens("ok", format!("Worst: {worst} with {after:.2} px.")).showing(Shows { straight: Some(s.worst), ..Shows::default() })
    });
    let level = if s.corner_sigma_px < 1.0 {
        "ok"
    } else {
        "warn"
    };
    out.push(lens(
        level,
        format!(
            "A corner is certain to ±{:.2} px (one standard error).",
            s.corner_sigma_px
        ),
    ));
    if s.lens.distortion.k1.abs() < 2.0 * s.sigma.k1 {
        out.push(lens(
            "warn",
            "These straights do not tell this lens from one that bends nothing.".to_owned(),
        ));
    }
    let corner_px = s.lens.farthest_corner_px();
    let farthest = farthest_mark_px(&s.lens, &state.marks());
    if farthest < 0.8 * corner_px {
        let share = 100.0 * farthest / corner_px;
        out.push(lens(
            "warn",
            format!("No mark lies beyond {share:.0} % of the way to the corner; what is outside is extrapolated. Mark an edge near a corner."),
        ));
    }
    if s.valid_radius_px.is_finite() {
        out.push(lens(
            "ok",
            format!(
                "The map holds up to {:.0} px from the centre; the corner lies at {corner_px:.0} px.",
                s.valid_radius_px
            ),
        ));
    }
    out
}

fn median(s: &SolvedLens) -> f64 {
    let mut all: Vec<f64> = s.straights.iter().map(|s| s.after_px).collect();
    statistics::median(&mut all).unwrap_or(0.0)
}
