//! What is stated of a shot: film back, rate, range, the files of its plate, what the artist decided about tracks.

use crate::app::Files;
use crate::error::ApiError;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::scene::Receiver;
use parallax_core::spaces::TrackId;
use parallax_formats::delivery;
use parallax_matching::choosing::Choices;
use parallax_matching::following::Following;
use parallax_media::Plate;
use parallax_store::ShotState;
use parallax_store::shots::Shot;

/// The film back as stated, else the assumed one.
pub fn film_back(shot: &Shot) -> FilmBack {
    shot.state
        .film_back
        .unwrap_or_else(|| FilmBack::assumed(shot.width_px, shot.height_px))
}

/// The plate of a shot and how it is followed.
pub fn following(shot: &Shot) -> Following<'_> {
    let s = &shot.state;
    Following {
        plate: shot.plate.pinned.as_deref().unwrap_or(&shot.folder),
        range: s.range,
        bridge_gaps: s.bridge_gaps,
        track: &s.track,
        adjust: s.adjust,
        mattes: &s.mattes,
    }
}

/// The plate of a shot within its in and out points; gaps are refused unless bridged.
pub fn plate(shot: &Shot, files: &Files) -> Result<Plate, ApiError> {
    Ok(following(shot).frames(files)?)
}

/// The plate as it is followed, less its mattes.
pub fn followable(shot: &Shot, files: &Files) -> Result<Plate, ApiError> {
    Ok(following(shot).open(files)?)
}

/// What the artist decided about tracks.
pub fn choices(state: &ShotState) -> Choices<'_> {
    let ids = |list: &[u32]| list.iter().copied().map(TrackId).collect();
    let weighed = state.notes.iter().filter(|(_, note)| note.weight != 1.0);
    Choices {
        range: state.range,
        mattes: &state.mattes,
        weights: weighed
            .map(|(id, note)| (TrackId(*id), note.weight))
            .collect(),
        culled: ids(&state.culled),
        kept: ids(&state.kept_movers),
    }
}

/// What is added to the numbers of frames in deliveries, so that the in point has its number.
pub fn renumbered_by(shot: &Shot) -> i32 {
    let first = shot.state.range.map_or(shot.plate.first, |r| r.0);
    shot.state
        .first_delivered
        .map_or(0, |wanted| wanted.saturating_sub(first))
}

/// A shot's name as part of a file's.
pub fn file_stem(name: &str) -> String {
    let is_plain = |c: &char| c.is_ascii_alphanumeric() || "-_".contains(*c);
    let kept: String = name.chars().filter(is_plain).take(80).collect();
    match kept.is_empty() {
        true => "shot".to_owned(),
        false => kept,
    }
}

/// The focal length in px where the artist stated it.
pub fn stated_focal_px(shot: &Shot) -> Option<f64> {
    let mm = shot.state.focal.mm()?;
    Some(film_back(shot).focal_px(mm, shot.width_px))
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

/// What is true of a whole shot for what is handed on of it, in our own axes.
pub fn delivered_shot(shot: &Shot, rate: FrameRate) -> delivery::Shot {
    delivery::Shot {
        name: shot.name.clone(),
        rate,
        film_back: film_back(shot),
        film_back_assumed: shot.state.film_back.is_none(),
        receiver: Receiver::default(),
        shutter_deg: (!is_photograph(shot)).then_some(shot.state.shutter_deg),
        keep: shot.state.lens.keep,
    }
}

/// Sides of the film back, and whether they are assumed.
pub fn film_back_text(shot: &Shot) -> String {
    let back = film_back(shot);
    let assumed = if shot.state.film_back.is_some() {
        ""
    } else {
        ", assumed"
    };
    format!("{:.2}×{:.2} mm{assumed}", back.width_mm, back.height_mm)
}

/// Whether a shot is one photograph.
pub fn is_photograph(shot: &Shot) -> bool {
    shot.plate.count == 1
}

/// What the artist calls a track, or its identity.
pub fn name_of(state: &ShotState, track: TrackId) -> String {
    state
        .name_of(track.0)
        .map_or_else(|| track.to_string(), str::to_owned)
}
