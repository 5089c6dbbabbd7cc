//! How the camera moves and what its focal length does, in the words of the facts row.

use crate::said::words::uncertain;
use parallax_core::lens::Term;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::solve::{Attempt, CameraMove};
use parallax_store::state::{FocalFact, ShotState};

/// What a move is called.
pub fn word(moves: CameraMove) -> &'static str {
    match moves {
        CameraMove::Free => "travels",
        CameraMove::Nodal => "turns on the spot",
        CameraMove::Locked => "locked off",
    }
}

/// What was found out of the move; the fact itself is what the artist states.
pub fn found(attempt: Option<&Attempt>) -> String {
    let Some(a) = attempt else {
        return "find out".to_owned();
    };
    let parallax = match (a.moves, a.parallax_deg >= 2.0) {
        (CameraMove::Free, true) => ", parallax ample",
        (CameraMove::Free, false) => ", little parallax",
        (CameraMove::Nodal | CameraMove::Locked, _) => "",
    };
    format!("found: {}{parallax}", word(a.moves))
}

/// The fact about the focal length.
pub fn focal(state: &ShotState, attempt: Option<&Attempt>, back: &FilmBack) -> String {
    let solved = attempt.map(|a| focal_of(a, back));
    // One that is stated exactly is what is solved with.
    let solved = solved.filter(|_| !matches!(state.focal, FocalFact::Mm(_)));
    solved.unwrap_or_else(|| match (stated(state.focal), state.focal) {
        (Some(stated), _) => format!("{stated}, stated"),
        (None, FocalFact::Zooms) => "zooms".to_owned(),
        (None, FocalFact::Stays) => "stays".to_owned(),
        (None, _) => "unknown".to_owned(),
    })
}

/// The value that is stated of the focal length, as it is typed.
pub fn stated(focal: FocalFact) -> Option<String> {
    let mm = focal.mm()?;
    let from = match focal {
        FocalFact::ZoomsFrom { .. } => "zooms from ",
        _ => "",
    };
    let error = focal.sigma_mm();
    let error = error.map_or_else(String::new, |sigma_mm| format!(" ± {sigma_mm}"));
    Some(format!("{from}{mm}{error} mm"))
}

/// The focal length of an attempt in words: solved with its error, as it was given to it, or where it
/// begins and ends.
pub fn focal_of(attempt: &Attempt, back: &FilmBack) -> String {
    let in_mm = |px: f64| back.focal_mm(px, attempt.lens.width_px);
    let mm = in_mm(attempt.lens.focal_px);
    if attempt.zooms() {
        let last = attempt.frames.last().map(|f| attempt.lens_at(f).focal_px);
        return format!("{mm:.1}–{:.1} mm", last.map_or(mm, in_mm));
    }
    let was_solved = attempt
        .focal_solved
        .unwrap_or(attempt.focal_sigma_px.is_some());
    match attempt.focal_sigma_px {
        Some(sigma) => uncertain(mm, in_mm(sigma), " mm"),
        None if was_solved => format!("{mm:.2} mm, error unknown"),
        None => format!("{mm:.2} mm, given"),
    }
}

/// The read-out time that an attempt was solved with, in words; `None` where all rows are exposed at once.
pub fn readout_of(attempt: &Attempt, rate: FrameRate) -> Option<String> {
    let (frames, sigma) = attempt.readout?;
    let ms = rate.ms_in_frames(frames);
    Some(match sigma > 0.0 {
        true => uncertain(ms, rate.ms_in_frames(sigma), " ms"),
        false => format!("{ms:.1} ms, stated"),
    })
}

/// The lens terms that an attempt solved, with their errors, each in a line.
pub fn terms_of(attempt: &Attempt) -> Vec<String> {
    let one = |(term, sigma): &(Term, f64)| {
        let unit = if term.is_centre() { " px" } else { "" };
        let value = uncertain(term.of(&attempt.lens), *sigma, unit);
        format!("{} {value}", term.name())
    };
    attempt.lens_errors.iter().map(one).collect()
}

/// The shortest and the longest focal length of a zoom, mm.
pub fn focal_range_mm(attempt: &Attempt, back: &FilmBack) -> Option<(f64, f64)> {
    let own = attempt.frames.iter().filter_map(|f| f.focal_px);
    let (low, high) = own.fold((f64::INFINITY, 0.0f64), |(low, high), f| {
        (low.min(f), high.max(f))
    });
    let in_mm = |px: f64| back.focal_mm(px, attempt.lens.width_px);
    attempt.zooms().then(|| (in_mm(low), in_mm(high)))
}

/// The focal length that is known least, with its standard error, px.
pub fn vaguest_focal_px(attempt: &Attempt) -> Option<(f64, f64)> {
    let own = attempt
        .frames
        .iter()
        .filter_map(|f| Some((f.focal_px?, f.focal_sigma_px?)));
    let vaguest = own.max_by(|a, b| (a.1 / a.0).total_cmp(&(b.1 / b.0)));
    vaguest.or_else(|| Some((attempt.lens.focal_px, attempt.focal_sigma_px?)))
}
