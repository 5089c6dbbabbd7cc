//! What follows from what: options from the state, fingerprints that tell what is stale,
//! the oriented world, the delivery.

use crate::error::ApiError;
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::plate::FilmBack;
use parallax_core::scene::{OrientError, Orientation, StandIn, orient};
use parallax_core::solve::{Attempt, FocalKnowledge, SolveOptions};
use parallax_core::spaces::{TrackId, WorldPoint};
use parallax_core::track::Track;
use parallax_formats::delivery::{self, Delivery, RECEIPT_FILE};
use parallax_formats::receipt::{self, Receipt};
use parallax_media::{Plate, Sequence};
use parallax_store::ShotState;
use parallax_store::shots::Shot;
use parallax_store::state::FocalFact;
use parallax_store::track_runs::TrackRun;
use serde_json::json;
use std::collections::HashSet;
use std::path::Path;

/// The film back as stated, else the assumed one.
pub fn film_back(shot: &Shot) -> FilmBack {
    shot.state.film_back.unwrap_or_else(|| FilmBack::assumed(shot.width_px, shot.height_px))
}

/// The plate of a shot within its in and out points; gaps are refused unless bridged.
pub fn plate(shot: &Shot) -> Result<Plate, ApiError> {
    let sequence = Sequence::find(Path::new(&shot.folder))?;
    let mut files = sequence.files;
    if let Some((first, last)) = shot.state.range {
        files.retain(|(f, _)| (first..=last).contains(&f.0));
    }
    if files.is_empty() {
        return Err(ApiError::Refused("the range between in and out holds no frame".to_owned()));
    }
    let plate = Plate::of_files(&files)?;
    if !shot.state.bridge_gaps {
        plate.refuse_gaps()?;
    }
    Ok(plate)
}

/// What the tracks depend on.
pub fn track_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    json!([shot.folder, s.range, s.bridge_gaps, s.track]).to_string()
}

/// What an attempt depends on.
pub fn solve_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    let width = matches!(s.focal, FocalFact::Mm(_)).then(|| film_back(shot).width_mm);
    json!([s.run, s.culled, s.kept_movers, s.focal, width, s.lens, s.solve_lens, s.limit_px]).to_string()
}

/// What a delivery depends on.
pub fn delivery_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    json!([s.attempt, s.picks, s.stand_ins, s.rate, film_back(shot), shot.name, s.receiver]).to_string()
}

/// What to solve.
pub fn solve_options(shot: &Shot) -> SolveOptions {
    let s = &shot.state;
    let focal = match s.focal {
        FocalFact::Unknown => FocalKnowledge::Unknown,
        FocalFact::Mm(mm) => FocalKnowledge::Known(film_back(shot).focal_px(mm, shot.width_px)),
    };
    let lens = Intrinsics { distortion: s.lens, ..Intrinsics::centred(shot.width_px, shot.height_px, 1.0) };
    SolveOptions { lens, focal, solve_lens: s.solve_lens, limit_px: s.limit_px }
}

/// A short name for an attempt: what was known and what was solved.
pub fn attempt_label(shot: &Shot) -> String {
    let s = &shot.state;
    let focal = match s.focal {
        FocalFact::Unknown => "focal solved".to_owned(),
        FocalFact::Mm(mm) => format!("focal {mm} mm"),
    };
    let lens = if s.solve_lens { ", lens solved" } else { "" };
    let limit = s.limit_px.map(|l| format!(", limit {l} px")).unwrap_or_default();
    format!("{focal}{lens}{limit}")
}

/// Tracks that take part: neither culled nor movers, unless brought back.
pub fn solvable_tracks(state: &ShotState, run: &TrackRun) -> Vec<Track> {
    let out = set_aside(state, run);
    run.tracks.iter().filter(|t| !out.contains(&t.id)).cloned().collect()
}

/// Tracks that do not take part.
pub fn set_aside(state: &ShotState, run: &TrackRun) -> HashSet<TrackId> {
    let kept: HashSet<u32> = state.kept_movers.iter().copied().collect();
    let movers = run.movers.iter().copied().filter(|m| !kept.contains(&m.0));
    movers.chain(state.culled.iter().map(|c| TrackId(*c))).collect()
}

/// The change of world for the picks on an attempt.
pub fn orientation(attempt: &Attempt, state: &ShotState) -> Result<Orientation, OrientError> {
    let landmarks: Vec<_> = attempt.landmarks.iter().map(|l| (l.track, l.point, l.sigma)).collect();
    let cameras: Vec<Pose> = attempt.frames.iter().map(|f| f.pose).collect();
    orient(&landmarks, &cameras, &state.picks)
}

/// Stand-ins with the place of their foot in the oriented world; those whose landmark is not
/// in the attempt are left out.
pub fn placed_stand_ins(attempt: &Attempt, state: &ShotState, orientation: &Orientation) -> Vec<(StandIn, WorldPoint)> {
    let foot = |s: &StandIn| Some(orientation.change.point(&attempt.landmark(s.at)?.point));
    state.stand_ins.iter().filter_map(|s| Some((s.clone(), foot(s)?))).collect()
}

/// Writes a package, reads it back and proves it.
pub fn deliver(shot: &Shot, attempt: &Attempt, tracks: &[Track]) -> Result<(Vec<u8>, Receipt), ApiError> {
    let Some(rate) = shot.state.rate else {
        return Err(ApiError::Refused(
            "the rate of the plate is not known; state it in the facts row, then deliver".to_owned(),
        ));
    };
    let orientation = orientation(attempt, &shot.state)?;
    let mut delivery = Delivery::of_attempt(
        &shot.name,
        rate,
        film_back(shot),
        attempt,
        &orientation.change,
        orientation.scaled,
        tracks,
    );
    delivery.receiver = shot.state.receiver;
    delivery.stand_ins = placed_stand_ins(attempt, &shot.state, &orientation);
    proven_package(&delivery)
}

/// Writes the files of a delivery into a package, reads them back and adds the receipt.
pub fn proven_package(delivery: &Delivery<'_>) -> Result<(Vec<u8>, Receipt), ApiError> {
    let files = delivery.files()?;
    let named: Vec<(&str, &str)> = files.iter().map(|(n, t)| (*n, t.as_str())).collect();
    let first = delivery::zipped(&named)?;
    let receipt = receipt::make(delivery, |name| delivery::unzipped(&first, name))?;
    let text = serde_json::to_string_pretty(&receipt).map_err(|e| ApiError::Failed(e.to_string()))?;
    let mut all = named;
    all.push((RECEIPT_FILE, &text));
    Ok((delivery::zipped(&all)?, receipt))
}
