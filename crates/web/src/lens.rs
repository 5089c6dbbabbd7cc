//! The lens of a shot: found anew from what is marked or stated, so that nothing is kept but
//! that; with what is drawn of it and what can be said.

mod findings;
mod found;

use crate::error::{ApiError, Refused};
use crate::flow;
use crate::view::{Standing, capital, short};
use found::{FoundLens, NoLens};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::convert::to_older;
use parallax_core::lens::grid::grid;
use parallax_core::lens::maps::{Frame, Keep};
use parallax_core::lens::mesh::Mesh;
use parallax_core::lens::straights;
use parallax_core::lens::straights::{SolvedLens, Wanting};
use parallax_core::solve::Attempt;
use parallax_core::spaces::PlatePx;
use parallax_formats::lens_json::LensFile;
use parallax_media::colour::Written;
use parallax_store::lens::{LensSource, LensState, Straight};
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use serde_json::{Value, json};
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
fn wanting(shot: &Shot, solved: &SolvedLens) -> Option<Wanting> {
    static LATEST: Mutex<Option<(Asked, Option<Wanting>)>> = Mutex::new(None);
    let state = &shot.state.lens;
    let focal_px = flow::stated_focal_px(shot);
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
fn found_of(shot: &Shot, state: &LensState) -> Option<Result<FoundLens, NoLens>> {
    const MOST: usize = 8;
    static LATEST: Mutex<Vec<Kept>> = Mutex::new(Vec::new());
    let asked = (
        state.clone(),
        shot.width_px,
        shot.height_px,
        flow::stated_focal_px(shot),
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

fn used(
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
    let lens = in_use(shot, attempt).map(|(lens, _)| lens);
    // OpenEXR alone states the rate.
    let rate = (s.written == Written::Exr).then_some(s.rate);
    json!([
        flow::following(shot).plate,
        s.range,
        s.bridge_gaps,
        lens,
        s.lens.keep,
        s.written,
        flow::renumbered_by(shot),
        rate
    ])
    .to_string()
}

/// Pieces across the wider side of the picture by which a view is bent.
const MESH_PIECES: u32 = 96;

/// What a view needs to draw the plate undistorted, and what lies on the plate with it.
pub fn mesh(frame: &Frame) -> Value {
    let numbers = |mesh: Mesh| {
        let flat: Vec<f64> = mesh
            .places
            .iter()
            .flat_map(|[x, y]| [short(*x, 3), short(*y, 3)])
            .collect();
        json!({ "columns": mesh.columns, "rows": mesh.rows, "places": flat })
    };
    json!({
        "size": [frame.width_px, frame.height_px],
        "undistorting": numbers(frame.undistorting_mesh(MESH_PIECES)),
        "distorting": numbers(frame.distorting_mesh(MESH_PIECES)),
    })
}

/// Figures, curves, grid and findings of a lens that may still be under the pointer.
pub fn answer(shot: &Shot, state: &LensState, attempt: Option<&Attempt>) -> Value {
    let found = found_of(shot, state);
    let said = findings::findings(shot, state, found.as_ref());
    let mut out = json!({ "findings": said, "straights": marked(state, found.as_ref()) });
    match &found {
        Some(Ok(found)) => out["figures"] = figures(found),
        Some(Err(error)) => out["error"] = json!(format!("{}.", capital(&error.to_string()))),
        None => {}
    }
    let given = found.and_then(|f| f.ok()).map(|f| f.lens());
    if let Some((lens, origin)) = used(shot, state.source, given, attempt) {
        out["used"] = json!({
            "origin": origin.word(), "k1": lens.distortion.k1, "terms": lens.distortion,
            "centre": [lens.centre.x, lens.centre.y], "focal_px": lens.focal_px,
        });
        out["grid"] = json!(rounded(&grid(&lens)));
        out["sizes"] = json!({ "all": size(&lens, Keep::All), "size": size(&lens, Keep::Size) });
        out["older"] = to_older(&lens).map_or(Value::Null, |o| json!(o));
    }
    out
}

fn size(lens: &Intrinsics, keep: Keep) -> Value {
    Frame::of(lens, keep).map_or(Value::Null, |f| json!([f.width_px, f.height_px]))
}

fn rounded(lines: &[Vec<PlatePx>]) -> Vec<Vec<f64>> {
    let flat = |line: &Vec<PlatePx>| {
        line.iter()
            .flat_map(|px| [short(px.x, 1), short(px.y, 1)])
            .collect()
    };
    lines.iter().map(flat).collect()
}

fn figures(found: &FoundLens) -> Value {
    let lens = found.lens();
    let mut out = json!({
        "terms": lens.distortion, "focal_px": short(lens.focal_px, 3),
        "centre": [short(lens.centre.x, 2), short(lens.centre.y, 2)],
    });
    match found {
        FoundLens::Stated(stated) => out["converted_px"] = json!(stated.converted_px),
        FoundLens::Solved(s) => {
            out["sigma"] = json!(s.sigma);
            out["centre_sigma_px"] = json!(s.centre_sigma_px);
            out["rms_px"] = json!([short(s.rms_before_px, 3), short(s.rms_after_px, 3)]);
            out["corner_sigma_px"] = json!(short(s.corner_sigma_px, 3));
            out["valid_radius_px"] = json!(
                s.valid_radius_px
                    .is_finite()
                    .then(|| short(s.valid_radius_px, 0))
            );
            out["corner_px"] = json!(short(lens.farthest_corner_px(), 0));
            out["worst"] = json!(s.worst);
        }
    }
    out
}

/// Straight by straight: where it is marked, how bent it is, how it is drawn.
fn marked(state: &LensState, found: Option<&Result<FoundLens, NoLens>>) -> Vec<Value> {
    let solved = match found {
        Some(Ok(FoundLens::Solved(solved))) => Some(solved),
        _ => None,
    };
    let each = |(k, straight): (usize, &Thing<Straight>)| {
        let of = solved.and_then(|s| s.straights.get(k));
        let curve: Option<Vec<f64>> = of.map(|s| {
            s.curve
                .iter()
                .flat_map(|p| [short(p.x, 2), short(p.y, 2)])
                .collect()
        });
        json!({
            "frame": straight.frame, "marks": straight.marks.len(),
            "before_px": of.map(|s| short(s.before_px, 3)), "after_px": of.map(|s| short(s.after_px, 3)),
            "misses_px": of.map(|s| s.misses_px.iter().map(|m| [short(m.x, 3), short(m.y, 3)]).collect::<Vec<_>>()),
            "curve": curve,
        })
    };
    state.straights.iter().enumerate().map(each).collect()
}

/// How far the station is, with its one figure.
pub fn standing(shot: &Shot, attempt: Option<&Attempt>) -> (Standing, String) {
    let figure = |lens: &Intrinsics| format!("k1 {:.3}", lens.distortion.k1);
    match (found(shot), in_use(shot, attempt)) {
        (_, Some((lens, Origin::Solve))) => (Standing::Good, figure(&lens)),
        (Some(Ok(f)), _) => (Standing::Good, figure(&f.lens())),
        (Some(Err(_)), _) => (Standing::NeedsALook, "no lens".to_owned()),
        (None, _) if shot.state.solve_lens => (Standing::InWork, "–".to_owned()),
        (None, _) => (Standing::NotBegun, "–".to_owned()),
    }
}
