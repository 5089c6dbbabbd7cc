//! What is known of a shot's lens: found anew from what is marked or stated, so that nothing is kept but that.

mod found;

use crate::error::{ApiError, Refused};
use crate::shot::facts;
pub use found::{FoundLens, NoLens};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::maps::Frame;
use parallax_core::lens::straights;
use parallax_core::lens::straights::{SolvedLens, Wanting};
use parallax_core::solve::Attempt;
use parallax_formats::lens_json::LensFile;
use parallax_formats::plate_lens::PlateLens;
use parallax_matching::delivering::plate_lens;
use parallax_media::colour::Written;
use parallax_store::lens::{LensSource, LensState};
use parallax_store::shots::Shot;
use serde_json::json;
use std::sync::Mutex;

/// Where the lens that pictures are undistorted with comes from.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Origin {
    /// Straights.
    Straights,
    /// Values.
    Values,
    /// The solve, which found terms along with the camera.
    Solve,
}

impl Origin {
    /// In words.
    pub fn word(self) -> &'static str {
        match self {
            Self::Straights => "from straights",
            Self::Values => "from values",
            Self::Solve => "solved with the camera",
        }
    }
}

/// The lens that is marked or stated.
pub fn found(shot: &Shot) -> Option<Result<FoundLens, NoLens>> {
    found_of(shot, &shot.state.lens)
}

/// What a lens is found from, and the answer.
type Kept = (Asked, Option<Result<FoundLens, NoLens>>);

/// State, size of the picture, stated focal length.
type Asked = (LensState, u32, u32, Option<f64>);

/// What straights call for beyond the terms that are solved. It takes several solves, so the
/// latest answer is remembered and drafts do without it.
pub fn wanting(shot: &Shot, solved: &SolvedLens) -> Option<Wanting> {
    static LATEST: Mutex<Option<(Asked, Option<Wanting>)>> = Mutex::new(None);
    let state = &shot.state.lens;
    let focal_px = facts::stated_focal_px(shot);
    let asked = (state.clone(), shot.width_px, shot.height_px, focal_px);
    let mut latest = LATEST.lock().ok()?;
    if let Some((known, answer)) = latest.as_ref()
        && *known == asked
    {
        return *answer;
    }
    let answer = straights::wanting(&state.marks(), &state.options(focal_px), solved);
    *latest = Some((asked, answer));
    answer
}

/// The lens of a state of the shot. One view asks for it several times and a page that waits for
/// work asks for the view again and again, so the latest answers are remembered.
pub fn found_of(shot: &Shot, state: &LensState) -> Option<Result<FoundLens, NoLens>> {
    const MOST: usize = 8;
    static LATEST: Mutex<Vec<Kept>> = Mutex::new(Vec::new());
    let asked = (
        state.clone(),
        shot.width_px,
        shot.height_px,
        facts::stated_focal_px(shot),
    );
    let known = LATEST
        .lock()
        .ok()
        .and_then(|kept| kept.iter().find(|k| k.0 == asked).map(|k| k.1.clone()));
    known.unwrap_or_else(|| {
        let found = found::of(state, asked.1, asked.2, asked.3);
        if let Ok(mut kept) = LATEST.lock() {
            kept.truncate(MOST - 1);
            kept.insert(0, (asked, found.clone()));
        }
        found
    })
}

/// The lens that is marked or stated, without how it was found; an error is no lens.
pub fn given(shot: &Shot) -> Option<Intrinsics> {
    found(shot)?.ok().map(|f| f.lens())
}

/// The lens that pictures are undistorted with: that of the camera where it was solved along.
pub fn in_use(shot: &Shot, attempt: Option<&Attempt>) -> Option<(Intrinsics, Origin)> {
    used(shot, shot.state.lens.source, given(shot), attempt)
}

pub fn used(
    shot: &Shot,
    source: LensSource,
    given: Option<Intrinsics>,
    attempt: Option<&Attempt>,
) -> Option<(Intrinsics, Origin)> {
    // Along a zoom a solved lens bends every frame otherwise; one for all there is not.
    let is_solved = |a: &&Attempt| shot.state.solve_lens && a.has_solved_lens() && !a.zooms();
    let solved = attempt.filter(is_solved);
    let origin = match source {
        LensSource::Straights => Origin::Straights,
        LensSource::Values => Origin::Values,
    };
    solved
        .map(|a| (a.lens, Origin::Solve))
        .or_else(|| Some((given?, origin)))
}

/// The undistorted picture of a shot.
pub fn frame(shot: &Shot, attempt: Option<&Attempt>) -> Result<Frame, ApiError> {
    let (lens, _) = in_use(shot, attempt).ok_or(Refused::NoLens)?;
    Ok(Frame::of(&lens, shot.state.lens.keep).map_err(Refused::Frame)?)
}

/// The lens that a plate is undistorted with: on each frame its own where the camera zooms through a lens that bends.
pub fn of_plate(shot: &Shot, attempt: Option<&Attempt>) -> Option<PlateLens> {
    let zooming = attempt.filter(|a| a.zooms() && !a.lens.distortion.is_none());
    match zooming {
        Some(attempt) => Some(plate_lens(attempt)),
        None => Some(PlateLens::still(in_use(shot, attempt)?.0)),
    }
}

/// The lens that pictures are undistorted with, as a file.
pub fn file(shot: &Shot, attempt: Option<&Attempt>) -> Result<LensFile, ApiError> {
    let frame = frame(shot, attempt)?;
    Ok(match found(shot) {
        Some(Ok(FoundLens::Solved(solved))) if solved.lens == frame.lens => {
            LensFile::solved(&solved)
        }
        _ => LensFile::of(&frame.lens),
    })
}

/// What an undistorted plate depends on.
pub fn undistorted_inputs(shot: &Shot, attempt: Option<&Attempt>) -> String {
    let s = &shot.state;
    let plate = of_plate(shot, attempt);
    let lens = plate.as_ref().map(|p| p.lens);
    // OpenEXR alone states the rate.
    let rate = (s.written == Written::Exr).then_some(s.rate);
    let mut all = json!([
        facts::following(shot).plate,
        s.range,
        s.bridge_gaps,
        lens,
        s.lens.keep,
        s.written,
        facts::renumbered_by(shot),
        rate
    ]);
    let along = plate.map(|p| p.along).filter(|along| !along.is_empty());
    if let (Some(all), Some(along)) = (all.as_array_mut(), along) {
        all.push(json!(along));
    }
    all.to_string()
}
