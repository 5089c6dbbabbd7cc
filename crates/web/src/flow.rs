//! What follows from what: options from the state, fingerprints that tell what is stale,
//! the oriented world, the delivery.

use crate::error::ApiError;
use crate::lens;
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::correct::solve_with_lens;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::progress::Progress;
use parallax_core::scene::{OrientError, Orientation, StandIn, orient};
use parallax_core::solve::{Attempt, FocalKnowledge, SolveError, SolveOptions, solve, solve_again};
use parallax_core::spaces::WorldPoint;
use parallax_core::track::Track;
use parallax_core::track::matte::{Matte, MatteSource};
use parallax_formats::delivery::{self, Delivery, RECEIPT_FILE};
use parallax_formats::receipt::{self, Receipt};
use parallax_media::{Mattes, Plate, Sequence};
use parallax_store::ShotState;
use parallax_store::shots::Shot;
use parallax_store::state::FocalFact;
use serde_json::json;
use std::path::Path;

/// The film back as stated, else the assumed one.
pub fn film_back(shot: &Shot) -> FilmBack {
    shot.state
        .film_back
        .unwrap_or_else(|| FilmBack::assumed(shot.width_px, shot.height_px))
}

/// The plate of a shot within its in and out points; gaps are refused unless bridged.
pub fn plate(shot: &Shot) -> Result<Plate, ApiError> {
    let sequence = Sequence::find(Path::new(&shot.folder))?;
    let mut files = sequence.files;
    if let Some((first, last)) = shot.state.range {
        files.retain(|(f, _)| (first..=last).contains(&f.0));
    }
    if files.is_empty() {
        return Err(ApiError::Refused(
            "the range between in and out holds no frame".to_owned(),
        ));
    }
    let plate = Plate::of_files(&files)?;
    if !shot.state.bridge_gaps {
        plate.refuse_gaps()?;
    }
    Ok(plate.adjusted(shot.state.adjust))
}

/// The plate as it is followed, less its mattes.
pub fn followable(shot: &Shot) -> Result<Plate, ApiError> {
    let plate = plate(shot)?;
    let mattes = Mattes::open(&shot.state.mattes, &plate)?;
    Ok(plate.leaving_out(mattes))
}

/// What the tracks depend on. Drawn mattes are not among it: what falls inside is left out later.
pub fn track_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    let mut inputs = vec![
        json!(shot.folder),
        json!(s.range),
        json!(s.bridge_gaps),
        json!(s.track),
    ];
    if !s.adjust.is_none() {
        inputs.push(json!(s.adjust));
    }
    let mut mattes = Matte::in_use(&s.mattes);
    mattes.retain(|m| !matches!(m.source, MatteSource::Drawn { .. }));
    if !mattes.is_empty() {
        inputs.push(json!(mattes));
    }
    json!(inputs).to_string()
}

/// What all hand tracks depend on, besides their own keys and controls.
pub fn hand_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    json!([
        shot.folder,
        s.range,
        s.bridge_gaps,
        s.adjust,
        Matte::in_use(&s.mattes)
    ])
    .to_string()
}

/// What an attempt depends on.
pub fn solve_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    let width = matches!(s.focal, FocalFact::Mm(_)).then(|| film_back(shot).width_mm);
    let mut inputs = json!([
        s.run,
        s.culled,
        s.kept_movers,
        s.focal,
        width,
        lens::given(shot),
        s.solve_lens,
        s.limit_px
    ]);
    let mattes = Matte::in_use(&s.mattes);
    let weights: Vec<(u32, f64)> = s
        .notes
        .iter()
        .map(|(id, n)| (*id, n.weight))
        .filter(|w| w.1 != 1.0)
        .collect();
    if let Some(list) = inputs.as_array_mut()
        && !(s.hands.is_empty() && mattes.is_empty() && weights.is_empty())
    {
        let hands: Vec<_> = s
            .hands
            .iter()
            .map(|h| (h.id, &h.keys, &h.life, h.options()))
            .collect();
        list.push(json!([hands, mattes, weights]));
    }
    inputs.to_string()
}

/// What a delivery depends on.
pub fn delivery_inputs(shot: &Shot) -> String {
    let s = &shot.state;
    let facts = (s.rate, film_back(shot), renumbered_by(shot));
    json!([
        s.attempt,
        s.picks,
        s.stand_ins,
        facts,
        shot.name,
        s.receiver
    ])
    .to_string()
}

/// What is added to the numbers of frames in deliveries, so that the in point has its number.
pub fn renumbered_by(shot: &Shot) -> i32 {
    let first = shot.state.range.map_or(shot.plate.first, |r| r.0);
    shot.state
        .first_delivered
        .map_or(0, |wanted| wanted.saturating_sub(first))
}

/// Attempt and tracks with other frame numbers, all by the same step.
fn renumbered(by: i32, attempt: &Attempt, tracks: &[Track]) -> (Attempt, Vec<Track>) {
    let (mut attempt, mut tracks) = (attempt.clone(), tracks.to_vec());
    let samples = tracks
        .iter_mut()
        .flat_map(|t| t.samples.iter_mut().map(|s| &mut s.frame));
    let residuals = attempt
        .landmarks
        .iter_mut()
        .flat_map(|l| l.residuals_px.iter_mut().map(|r| &mut r.0));
    let cameras = attempt.frames.iter_mut().map(|f| &mut f.frame);
    samples
        .chain(residuals)
        .chain(cameras)
        .for_each(|frame| frame.0 = frame.0.saturating_add(by));
    (attempt, tracks)
}

/// What to solve.
pub fn solve_options(shot: &Shot) -> SolveOptions {
    let s = &shot.state;
    let focal = stated_focal_px(shot).map_or(FocalKnowledge::Unknown, FocalKnowledge::Known);
    let lens = Intrinsics::centred(shot.width_px, shot.height_px, 1.0);
    SolveOptions {
        lens,
        focal,
        solve_lens: s.solve_lens,
        limit_px: s.limit_px,
    }
}

/// The focal length in px where the artist stated it.
pub fn stated_focal_px(shot: &Shot) -> Option<f64> {
    match shot.state.focal {
        FocalFact::Unknown | FocalFact::Zooms => None,
        FocalFact::Mm(mm) => Some(film_back(shot).focal_px(mm, shot.width_px)),
    }
}

/// Solves anew, or again from an attempt, with the lens that is marked or stated.
pub fn solved(
    shot: &Shot,
    tracks: &[Track],
    from: Option<&Attempt>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    let options = solve_options(shot);
    match (lens::given(shot), from) {
        (Some(lens), from) => solve_with_lens(tracks, &options, &lens, from, progress),
        (None, Some(attempt)) => solve_again(tracks, &options, attempt, progress),
        (None, None) => solve(tracks, &options, progress),
    }
}

/// A short name for an attempt: what was known and what was solved.
pub fn attempt_label(shot: &Shot) -> String {
    let s = &shot.state;
    let focal = match s.focal {
        FocalFact::Unknown | FocalFact::Zooms => "focal solved".to_owned(),
        FocalFact::Mm(mm) => format!("focal {mm} mm"),
    };
    let lens = match (s.solve_lens, lens::given(shot)) {
        (true, _) => ", lens solved",
        (false, Some(_)) => ", lens given",
        (false, None) => "",
    };
    let limit = s
        .limit_px
        .map(|l| format!(", limit {l} px"))
        .unwrap_or_default();
    format!("{focal}{lens}{limit}")
}

/// The change of world for the picks on an attempt.
pub fn orientation(attempt: &Attempt, state: &ShotState) -> Result<Orientation, OrientError> {
    let landmarks: Vec<_> = attempt
        .landmarks
        .iter()
        .map(|l| (l.track, l.point, l.sigma))
        .collect();
    let cameras: Vec<Pose> = attempt.frames.iter().map(|f| f.pose).collect();
    orient(&landmarks, &cameras, &state.picks)
}

/// Stand-ins with the place of their foot in the oriented world; those whose landmark is not
/// in the attempt are left out.
pub fn placed_stand_ins(
    attempt: &Attempt,
    state: &ShotState,
    orientation: &Orientation,
) -> Vec<(StandIn, WorldPoint)> {
    let foot = |s: &StandIn| Some(orientation.change.point(&attempt.landmark(s.at)?.point));
    state
        .stand_ins
        .iter()
        .filter_map(|s| Some((s.clone(), foot(s)?)))
        .collect()
}

/// The rate that the plate states, and who says so, where the shot has another that was not settled.
pub fn contradicted_rate(shot: &Shot) -> Option<(FrameRate, &'static str)> {
    let movie = shot
        .plate
        .movie
        .as_ref()
        .map(|movie| (movie.facts.rate, "the movie states"));
    let pictures = shot
        .plate
        .rate
        .map(|rate| (rate, "the pictures' headers state"));
    let rate = shot.state.rate?;
    movie
        .or(pictures)
        .filter(|(stated, _)| *stated != rate && shot.state.settled_rate != Some(rate))
}

/// Writes a package, reads it back and proves it.
pub fn deliver(
    shot: &Shot,
    attempt: &Attempt,
    tracks: &[Track],
) -> Result<(Vec<u8>, Receipt), ApiError> {
    let Some(rate) = shot.state.rate else {
        return Err(ApiError::Refused(
            "the rate of the plate is not known; state it in the facts row, then deliver"
                .to_owned(),
        ));
    };
    if let Some((stated, whose)) = contradicted_rate(shot) {
        return Err(ApiError::Refused(format!(
            "{whose} {stated} frames a second, the shot says {rate}; settle at the Plate station which one holds, then deliver"
        )));
    }
    let orientation = orientation(attempt, &shot.state)?;
    let (attempt, tracks) = renumbered(renumbered_by(shot), attempt, tracks);
    let mut delivery = Delivery::of_attempt(
        &shot.name,
        rate,
        film_back(shot),
        &attempt,
        &orientation.change,
        orientation.scaled,
        &tracks,
    );
    delivery.receiver = shot.state.receiver;
    delivery.stand_ins = placed_stand_ins(&attempt, &shot.state, &orientation);
    proven_package(&delivery)
}

/// Writes the files of a delivery into a package, reads them back and adds the receipt.
pub fn proven_package(delivery: &Delivery<'_>) -> Result<(Vec<u8>, Receipt), ApiError> {
    let files = delivery.files()?;
    let named: Vec<(&str, &str)> = files.iter().map(|(n, t)| (*n, t.as_str())).collect();
    let first = delivery::zipped(&named)?;
    let receipt = receipt::make(delivery, |name| delivery::unzipped(&first, name))?;
    let text =
        serde_json::to_string_pretty(&receipt).map_err(|e| ApiError::Failed(e.to_string()))?;
    let mut all = named;
    all.push((RECEIPT_FILE, &text));
    Ok((delivery::zipped(&all)?, receipt))
}
