//! What is found of a lens, and what is drawn of it: figures, straights, grid, the bent view.

use super::findings;
use crate::said::finding::Finding;
use crate::said::words::{error_alone, sentence, short, uncertain, with_minus};
use crate::shot::lens::{FoundLens, NoLens, found_of, of_plate, used};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::lens::convert::{Converted, to_older};
use parallax_core::lens::grid::grid;
use parallax_core::lens::maps::{Frame, Keep};
use parallax_core::lens::mesh::Mesh;
use parallax_core::lens::straights::SolvedLens;
use parallax_core::solve::Attempt;
use parallax_core::spaces::PlatePx;
use parallax_store::lens::{LensState, Straight};
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use serde::Serialize;

/// Pieces across the wider side of the picture by which a view is bent.
const MESH_PIECES: u32 = 96;

/// A term smaller than this is none.
const NO_TERM: f64 = 1e-12;

/// Points along a line of the plate: x, y, x, y …, plate px.
type Line = Vec<f64>;

/// Figures, curves, grid and findings of a lens.
#[derive(Debug, Serialize)]
pub struct Answer {
    findings: Vec<Finding>,
    straights: Vec<Marked>,
    #[serde(skip_serializing_if = "Option::is_none")]
    figures: Option<Figures>,
    /// Why the straights or values give no lens.
    #[serde(skip_serializing_if = "Option::is_none")]
    error: Option<String>,
    /// Nothing where there is no lens at all.
    #[serde(flatten)]
    in_use: Option<InUse>,
    /// Whether the plate is undistorted with a lens of its own on each frame, along a zoom.
    along: bool,
}

/// What comes of the lens that is in use.
#[derive(Debug, Serialize)]
struct InUse {
    used: UsedLens,
    grid: Vec<Line>,
    sizes: Sizes,
    /// The same lens in the older convention, where it can be put so.
    older: Option<Converted>,
}

/// The lens in use and where it comes from.
#[derive(Debug, Serialize)]
struct UsedLens {
    origin: &'static str,
    k1: f64,
    terms: Distortion,
    centre: [f64; 2],
    focal_px: f64,
}

/// Width and height of the undistorted picture, px, by what is kept; nothing where the lens folds.
#[derive(Debug, Serialize)]
struct Sizes {
    all: Option<[u32; 2]>,
    size: Option<[u32; 2]>,
}

/// A lens that was found, for programs and as the rows of the table.
#[derive(Debug, Serialize)]
struct Figures {
    terms: Distortion,
    focal_px: f64,
    centre: [f64; 2],
    #[serde(flatten)]
    by: By,
    rows: Vec<Row>,
}

/// How it was found.
#[derive(Debug, Serialize)]
#[serde(untagged)]
enum By {
    /// Values.
    Values {
        /// What converting between conventions cost, px.
        converted_px: Option<f64>,
    },
    /// Straights; errors are one sigma, distances px.
    Straights {
        sigma: Distortion,
        centre_sigma_px: Option<[f64; 2]>,
        /// How bent they are as shot and with the lens.
        rms_px: [f64; 2],
        corner_sigma_px: f64,
        /// Nothing where the lens is valid everywhere.
        valid_radius_px: Option<f64>,
        corner_px: f64,
        /// Index of the straight that is least straight.
        worst: usize,
    },
}

/// One line of the table.
#[derive(Debug, Serialize)]
struct Row {
    key: &'static str,
    value: String,
}

/// One straight: where it is marked, how bent it is, how it is drawn.
#[derive(Debug, Serialize)]
struct Marked {
    frame: i32,
    marks: usize,
    before_px: Option<f64>,
    after_px: Option<f64>,
    misses_px: Option<Vec<[f64; 2]>>,
    curve: Option<Line>,
}

/// Places by which a view is bent.
#[derive(Debug, Serialize)]
pub struct Bent {
    columns: u32,
    rows: u32,
    places: Line,
}

/// What a view needs to draw the plate undistorted, and what lies on the plate with it.
#[derive(Debug, Serialize)]
pub struct Meshes {
    size: [u32; 2],
    undistorting: Bent,
    distorting: Bent,
}

/// How the plate is bent into the undistorted picture and back.
pub fn meshes(frame: &Frame) -> Meshes {
    let bent = |mesh: Mesh| Bent {
        columns: mesh.columns,
        rows: mesh.rows,
        places: mesh
            .places
            .iter()
            .flat_map(|[x, y]| [short(*x, 3), short(*y, 3)])
            .collect(),
    };
    Meshes {
        size: [frame.width_px, frame.height_px],
        undistorting: bent(frame.undistorting_mesh(MESH_PIECES)),
        distorting: bent(frame.distorting_mesh(MESH_PIECES)),
    }
}

/// What is found of a lens whose straights may still be under the pointer.
pub fn answer(shot: &Shot, state: &LensState, attempt: Option<&Attempt>) -> Answer {
    let found = found_of(shot, state);
    let findings = findings::findings(shot, state, found.as_ref());
    let straights = marked(state, found.as_ref());
    let error = found.as_ref().and_then(|f| f.as_ref().err()).map(sentence);
    let given = found.and_then(Result::ok);
    let figures = given.as_ref().map(figures);
    let lens = given.map(|f| f.lens());
    let in_use = used(shot, state.source, lens, attempt).map(|(lens, origin)| InUse {
        used: UsedLens {
            origin: origin.word(),
            k1: lens.distortion.k1,
            terms: lens.distortion,
            centre: [lens.centre.x, lens.centre.y],
            focal_px: lens.focal_px,
        },
        grid: grid(&lens).iter().map(|line| flat(line, 1)).collect(),
        sizes: Sizes {
            all: size(&lens, Keep::All),
            size: size(&lens, Keep::Size),
        },
        older: to_older(&lens).ok(),
    });
    Answer {
        findings,
        straights,
        figures,
        error,
        in_use,
        along: of_plate(shot, attempt).is_some_and(|lens| !lens.along.is_empty()),
    }
}

fn size(lens: &Intrinsics, keep: Keep) -> Option<[u32; 2]> {
    let frame = Frame::of(lens, keep).ok()?;
    Some([frame.width_px, frame.height_px])
}

fn flat(line: &[PlatePx], digits: i32) -> Line {
    line.iter()
        .flat_map(|px| [short(px.x, digits), short(px.y, digits)])
        .collect()
}

fn figures(found: &FoundLens) -> Figures {
    let lens = found.lens();
    let by = match found {
        FoundLens::Stated(stated) => By::Values {
            converted_px: stated.converted_px,
        },
        FoundLens::Solved(s) => By::Straights {
            sigma: s.sigma,
            centre_sigma_px: s.centre_sigma_px,
            rms_px: [short(s.rms_before_px, 3), short(s.rms_after_px, 3)],
            corner_sigma_px: short(s.corner_sigma_px, 3),
            valid_radius_px: valid_radius(s),
            corner_px: short(lens.farthest_corner_px(), 0),
            worst: s.worst,
        },
    };
    let solved = match found {
        FoundLens::Solved(solved) => Some(solved.as_ref()),
        FoundLens::Stated(_) => None,
    };
    Figures {
        terms: lens.distortion,
        focal_px: short(lens.focal_px, 3),
        centre: [short(lens.centre.x, 2), short(lens.centre.y, 2)],
        by,
        rows: rows(&lens, solved),
    }
}

fn valid_radius(solved: &SolvedLens) -> Option<f64> {
    let radius = solved.valid_radius_px;
    radius.is_finite().then(|| short(radius, 0))
}

/// The table, with errors where straights gave the lens.
fn rows(lens: &Intrinsics, solved: Option<&SolvedLens>) -> Vec<Row> {
    let row = |key, value| Row { key, value };
    let (terms, none) = (lens.distortion, Distortion::default());
    let sigma = solved.map_or(none, |s| s.sigma);
    let term = |key, value: f64, sigma: f64| {
        let text = match sigma > 0.0 {
            true => uncertain(value, sigma, ""),
            false => with_minus(format!("{value:.5}")),
        };
        row(key, text)
    };
    let mut rows = vec![term("k1", terms.k1, sigma.k1)];
    let others = [
        ("k2", terms.k2, sigma.k2),
        ("k3", terms.k3, sigma.k3),
        ("p1", terms.p1, sigma.p1),
        ("p2", terms.p2, sigma.p2),
    ];
    let there = others.iter().filter(|(_, value, _)| value.abs() > NO_TERM);
    rows.extend(there.map(|(key, value, sigma)| term(key, *value, *sigma)));
    let centre = match solved.and_then(|s| s.centre_sigma_px) {
        Some([x, y]) => format!(
            "{}, {}",
            uncertain(lens.centre.x, x, ""),
            uncertain(lens.centre.y, y, " px")
        ),
        None => format!("{:.1}, {:.1} px", lens.centre.x, lens.centre.y),
    };
    rows.push(row("centre", centre));
    rows.push(row("unit of radius", format!("{:.1} px", lens.focal_px)));
    let Some(s) = solved else { return rows };
    let valid = match valid_radius(s) {
        Some(radius) => format!("{radius:.0} of {:.0} px", lens.farthest_corner_px()),
        None => "everywhere".to_owned(),
    };
    rows.extend([
        row("bent, as shot", format!("{:.2} px", s.rms_before_px)),
        row("bent, with the lens", format!("{:.2} px", s.rms_after_px)),
        row("corner certain to", error_alone(s.corner_sigma_px, " px")),
        row("valid up to", valid),
    ]);
    rows
}

/// Straight by straight.
fn marked(state: &LensState, found: Option<&Result<FoundLens, NoLens>>) -> Vec<Marked> {
    let solved = match found {
        Some(Ok(FoundLens::Solved(solved))) => Some(solved),
        _ => None,
    };
    let each = |(k, straight): (usize, &Thing<Straight>)| {
        let of = solved.and_then(|s| s.straights.get(k));
        let misses = |s: &[nalgebra::Vector2<f64>]| {
            let miss = |m: &nalgebra::Vector2<f64>| [short(m.x, 3), short(m.y, 3)];
            s.iter().map(miss).collect()
        };
        Marked {
            frame: straight.frame,
            marks: straight.marks.len(),
            before_px: of.map(|s| short(s.before_px, 3)),
            after_px: of.map(|s| short(s.after_px, 3)),
            misses_px: of.map(|s| misses(&s.misses_px)),
            curve: of.map(|s| flat(&s.curve, 2)),
        }
    };
    state.straights.iter().enumerate().map(each).collect()
}
