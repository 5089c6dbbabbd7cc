//! The lens of a shot: found anew from what is marked or stated, so that nothing is kept but
//! that; with what is drawn of it and what can be said.

use crate::error::{ApiError, Refused};
use crate::flow;
use crate::view::{Finding, Remedy, Standing, capital, finding, short};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::convert::to_older;
use parallax_core::lens::maps::{Frame, Keep};
use parallax_core::lens::mesh::Mesh;
use parallax_core::lens::straights;
use parallax_core::lens::straights::{SolvedLens, Wanting, Widening};
use parallax_core::solve::Attempt;
use parallax_core::spaces::PlatePx;
use parallax_formats::lens_json::LensFile;
use parallax_media::colour::Written;
use parallax_store::lens::{FoundLens, LensSource, LensState, NoLens};
use parallax_store::shots::Shot;
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
        let found = state.found(asked.1, asked.2, asked.3);
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
    let solved = attempt.filter(|a| shot.state.solve_lens && a.has_solved_lens());
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
    let said = findings(shot, state, found.as_ref());
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
        out["grid"] = json!(grid(&lens));
        out["sizes"] = json!({ "all": size(&lens, Keep::All), "size": size(&lens, Keep::Size) });
        out["older"] = to_older(&lens).map_or(Value::Null, |o| json!(o));
    }
    out
}

fn size(lens: &Intrinsics, keep: Keep) -> Value {
    Frame::of(lens, keep).map_or(Value::Null, |f| json!([f.width_px, f.height_px]))
}

fn figures(found: &FoundLens) -> Value {
    let lens = found.lens();
    let mut out = json!({
        "terms": lens.distortion, "focal_px": short(lens.focal_px, 3),
        "centre": [short(lens.centre.x, 2), short(lens.centre.y, 2)],
    });
    match found {
        FoundLens::Stated { converted_px, .. } => out["converted_px"] = json!(converted_px),
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
    let each = |(k, straight): (usize, &parallax_store::lens::Straight)| {
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

/// Squares across the picture, straight in the undistorted one, as they fall on the plate.
fn grid(lens: &Intrinsics) -> Vec<Vec<f64>> {
    const ACROSS: i32 = 16;
    const POINTS: i32 = 48;
    let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let side = w / f64::from(ACROSS);
    let straight = Intrinsics {
        distortion: Distortion::NONE,
        ..*lens
    };
    let limit = lens.distortion.valid_radius();
    let place = |x: f64, y: f64| {
        let at = straight.lens_point(PlatePx::new(0.5 * w + x, 0.5 * h + y))?;
        (at.x.hypot(at.y) < limit).then(|| lens.plate_px(at))
    };
    let line = |of: &dyn Fn(f64) -> (f64, f64)| {
        let along = (-POINTS..=POINTS).filter_map(|k| {
            let (x, y) = of(f64::from(k) / f64::from(POINTS));
            let px = place(x, y)?;
            let near = px.x > -0.2 * w && px.x < 1.2 * w && px.y > -0.2 * h && px.y < 1.2 * h;
            near.then(|| [short(px.x, 1), short(px.y, 1)])
        });
        along.flatten().collect::<Vec<f64>>()
    };
    // Beyond the plate as well: a barrel draws more than the plate's own rectangle.
    let reach = 0.75;
    let columns = (reach * w / side) as i32;
    let rows = (reach * h / side) as i32;
    let upright = (-columns..=columns).map(|i| line(&|t| (f64::from(i) * side, t * reach * h)));
    let level = (-rows..=rows).map(|j| line(&|t| (t * reach * w, f64::from(j) * side)));
    upright.chain(level).filter(|l| l.len() >= 4).collect()
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
            vec![lens(level, format!("{}.", capital(&error.to_string())))]
        }
        Some(Ok(FoundLens::Stated { lens: l, converted_px })) => {
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
        work: None,
    }))
}

fn of_straights(state: &LensState, s: &SolvedLens) -> Vec<Finding> {
    let lens = |level, text| finding("lens", level, text);
    let mut out = vec![lens(
        "ok",
        format!(
            "{} straights with {} marks bend by {:.2} px as shot and by {:.2} px with this lens.",
            s.straights.len(),
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
        let rest: Vec<_> = (0..state.straights.len()).filter(|k| *k != s.worst).map(|k| &state.straights[k]).collect();
        let remedy = Remedy { label: "Remove it", edit: json!({ "lens": { "straights": rest } }), work: None };
        lens(
            "warn",
            format!("{} stays bent by {after:.2} px, far more than the others: it is not straight in reality, or not marked on its edge.", capital(&worst)),
        )
        .mended_by(Some(remedy))
    } else {
        lens("ok", format!("Worst: {worst} with {after:.2} px."))
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
    let marks = state.straights.iter().flat_map(|s| &s.marks);
    let farthest = marks
        .map(|[x, y]| s.lens.centre.distance_px(PlatePx::new(*x, *y)))
        .fold(0.0, f64::max);
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
    all.sort_by(f64::total_cmp);
    all[all.len() / 2]
}
