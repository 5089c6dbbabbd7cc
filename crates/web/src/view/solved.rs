//! The figures of an attempt, and what became of the survey.

use super::{Everything, moves, short};
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::solve::Attempt;
use parallax_store::state::SurveyedPoint;
use parallax_store::things::Thing;
use serde_json::{Value, json};

/// The points of the survey with the tracks they belong to, and what the current attempt misses them by.
pub(super) fn survey_rows(all: &Everything) -> Vec<Value> {
    let state = &all.shot.state;
    let row = |point: &Thing<SurveyedPoint>| {
        let track = state.track_of(point);
        let misses = all.attempt.as_ref().map(|a| &a.attempt.survey[..]);
        let miss = misses
            .unwrap_or_default()
            .iter()
            .find(|m| Some(m.track.0) == track);
        let said = match (track, miss) {
            (None, _) => "no track".to_owned(),
            (Some(_), None) => "–".to_owned(),
            (Some(_), Some(m)) if m.used => format!("{:.1} mm", 1000.0 * m.distance_m()),
            (Some(_), Some(m)) => format!("{:.1} mm, aside", 1000.0 * m.distance_m()),
        };
        json!({
            "id": point.id, "name": point.name, "track": track, "said": said,
            "off_mm": miss.map(|m| m.off_m.map(|m| short(1000.0 * m, 2))),
        })
    };
    state.survey.iter().map(row).collect()
}

/// What an attempt came to.
pub fn solve_figures(a: &Attempt, back: &FilmBack, rate: Option<FrameRate>) -> Value {
    json!({
        "rms_px": a.rms_px, "landmarks": a.landmarks.len(), "frames": a.frames.len(), "set_aside": a.set_aside.len(),
        "focal_mm": back.focal_mm(a.lens.focal_px, a.lens.width_px), "focal_px": a.lens.focal_px,
        "focal_text": moves::focal_of(a, back), "move": a.moves, "zooms": a.zooms(), "verdict": a.verdict, "reasons": a.reasons(),
        "focal_sigma_mm": a.focal_sigma_px.map(|s| back.focal_mm(s, a.lens.width_px)),
        "readout_text": rate.and_then(|rate| moves::readout_of(a, rate)),
        "terms_text": moves::terms_of(a),
        "k1": a.lens.distortion.k1, "k2": a.lens.distortion.k2, "parallax_deg": a.parallax_deg,
        "started_from": [a.started_from.0.0, a.started_from.1.0],
    })
}
