//! The figures of an attempt, and what became of the survey.

use crate::said::camera;
use crate::said::words::{short, with_minus};
use crate::shot::everything::Everything;
use crate::shot::facts::name_of;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::solve::{Attempt, CameraMove, ConstraintMiss, Verdict};
use parallax_core::spaces::TrackId;
use parallax_store::constraints::Constraint;
use parallax_store::state::SurveyedPoint;
use parallax_store::things::Thing;
use serde::Serialize;

/// A point of the survey with the track it belongs to, and what the current attempt misses it by.
#[derive(Serialize)]
pub struct SurveyRow {
    id: u32,
    name: String,
    track: Option<u32>,
    said: String,
    off_mm: Option<[f64; 3]>,
}

/// The points of the survey, row by row.
pub fn survey_rows(all: &Everything) -> Vec<SurveyRow> {
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
        SurveyRow {
            id: point.id,
            name: point.name.clone(),
            track,
            said,
            off_mm: miss.map(|m| m.off_m.map(|m| short(1000.0 * m, 2))),
        }
    };
    state.survey.iter().map(row).collect()
}

/// A known length or plane, and what the current attempt misses it by.
#[derive(Serialize)]
pub struct ConstraintRow {
    id: u32,
    tracks: Vec<u32>,
    stated: String,
    said: String,
}

/// Known lengths and planes, row by row.
pub fn constraint_rows(all: &Everything) -> Vec<ConstraintRow> {
    let misses = all.attempt.as_ref().map(|a| &a.attempt.constraints[..]);
    let row = |constraint: &Thing<Constraint>| {
        let tracks = constraint.tracks();
        let stated = match &constraint.it {
            Constraint::Length {
                between: [one, other],
                length_m,
                sigma_m,
            } => format!(
                "{} to {}: {length_m} m ± {} mm",
                name_of(&all.shot.state, TrackId(*one)),
                name_of(&all.shot.state, TrackId(*other)),
                short(1000.0 * sigma_m, 3),
            ),
            Constraint::Plane { tracks, sigma_m } => format!(
                "{} features on one plane ± {} mm",
                tracks.len(),
                short(1000.0 * sigma_m, 3)
            ),
        };
        let own = |m: &&ConstraintMiss| m.tracks.iter().map(|t| &t.0).eq(tracks);
        let miss = misses.unwrap_or_default().iter().find(own);
        let said = miss.map_or_else(
            || "–".to_owned(),
            |m| {
                let aside = if m.used { "" } else { ", aside" };
                // Rounded to nothing it has no sign.
                let off_mm = short(1000.0 * m.off_m, 1) + 0.0;
                with_minus(format!("{off_mm:.1} mm{aside}"))
            },
        );
        ConstraintRow {
            id: constraint.id,
            tracks: tracks.to_vec(),
            stated,
            said,
        }
    };
    all.shot.state.constraints.iter().map(row).collect()
}

/// What an attempt came to.
#[derive(Serialize)]
pub struct SolveFigures {
    rms_px: f64,
    landmarks: usize,
    frames: usize,
    set_aside: usize,
    focal_mm: f64,
    focal_px: f64,
    focal_text: String,
    #[serde(rename = "move")]
    moves: CameraMove,
    zooms: bool,
    verdict: Verdict,
    reasons: Vec<String>,
    focal_sigma_mm: Option<f64>,
    readout_text: Option<String>,
    terms_text: Vec<String>,
    k1: f64,
    k2: f64,
    parallax_deg: f64,
    started_from: [i32; 2],
}

/// The figures of an attempt.
pub fn solve_figures(a: &Attempt, back: &FilmBack, rate: Option<FrameRate>) -> SolveFigures {
    let in_mm = |px: f64| back.focal_mm(px, a.lens.width_px);
    SolveFigures {
        rms_px: a.rms_px,
        landmarks: a.landmarks.len(),
        frames: a.frames.len(),
        set_aside: a.set_aside.len(),
        focal_mm: in_mm(a.lens.focal_px),
        focal_px: a.lens.focal_px,
        focal_text: camera::focal_of(a, back),
        moves: a.moves,
        zooms: a.zooms(),
        verdict: a.verdict,
        reasons: a.reasons(),
        focal_sigma_mm: a.focal_sigma_px.map(in_mm),
        readout_text: rate.and_then(|rate| camera::readout_of(a, rate)),
        terms_text: camera::terms_of(a),
        k1: a.lens.distortion.k1,
        k2: a.lens.distortion.k2,
        parallax_deg: a.parallax_deg,
        started_from: [a.started_from.0.0, a.started_from.1.0],
    }
}
