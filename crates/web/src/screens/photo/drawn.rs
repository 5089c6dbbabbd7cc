//! What is drawn of a photograph's world: station mark, axes, staff, grid, box, and the length that is measured.

use super::answer::point;
use super::figures::{Row, placed as rows};
use crate::said::words::{sentence, short, uncertain};
use nalgebra::Point3;
use parallax_core::photo::perspective::Perspective;
use parallax_core::photo::place::{KnownLength, Length};
use parallax_core::photo::{Axis, CornerBox, Placed};
use parallax_core::scene::overlay::project_edge;
use parallax_core::scene::shapes::Edge;
use parallax_core::spaces::{PlatePx, WorldPoint};
use parallax_store::photo::PhotoState;
use parallax_store::shots::Shot;
use serde::{Deserialize, Serialize};

/// A handle of the box that is being pulled.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pull {
    axis: Axis,
    to: [f64; 2],
}

/// A line along which the plate is drawn on: x, y, x, y …, plate px.
type Line = Vec<f64>;

/// The placed world, as it is drawn. Lengths in m, or in units where there is no scale.
#[derive(Debug, Serialize)]
pub struct Drawn {
    pub scaled: bool,
    camera_height: f64,
    distance: f64,
    rows: Vec<Row>,
    /// The station mark, plate px.
    origin: [f64; 2],
    axes: Vec<Tip>,
    staff: Option<Staff>,
    grid: Vec<Line>,
    #[serde(rename = "box")]
    corner_box: Option<DrawnBox>,
    measured: Option<Measured>,
}

/// Where an axis ends in the picture.
#[derive(Debug, Serialize)]
struct Tip {
    axis: Axis,
    /// Plate px.
    to: [f64; 2],
}

/// A graduated staff: where its graduations fall, of which every fifth is a long one, and how far they are apart.
#[derive(Debug, Serialize)]
struct Staff {
    graduations: Vec<[f64; 2]>,
    step_m: f64,
}

/// A box that stands on the ground, or why it does not.
#[derive(Debug, Serialize)]
#[serde(untagged)]
enum DrawnBox {
    Stands {
        lines: Vec<Line>,
        handles: Vec<Handle>,
        size: [f64; 3],
    },
    Not {
        error: &'static str,
    },
}

/// Where a box is pulled.
#[derive(Debug, Serialize)]
struct Handle {
    axis: Axis,
    px: [f64; 2],
}

/// A measured length, or why it is none.
#[derive(Debug, Serialize)]
#[serde(untagged)]
enum Measured {
    Length {
        length: f64,
        sigma: f64,
        off_axis_px: f64,
        ends_sigma_px: f64,
        text: String,
    },
    Not {
        error: String,
    },
}

fn rounded(px: PlatePx) -> [f64; 2] {
    [short(px.x, 2), short(px.y, 2)]
}

/// What is drawn, with a box that may be pulled.
pub fn drawn(
    shot: &Shot,
    photo: &PhotoState,
    pull: Option<Pull>,
    p: &Perspective,
    placed: &Placed,
) -> Drawn {
    let reach = 0.16 * placed.distance;
    let seen = |point: &WorldPoint| p.lens.project(&placed.pose, point);
    let tip = |axis: Axis| seen(&WorldPoint(Point3::from(axis.unit() * reach)));
    let axes = Axis::ALL.into_iter().filter_map(|axis| {
        let to = rounded(tip(axis)?);
        Some(Tip { axis, to })
    });
    let origin = seen(&WorldPoint::new(0.0, 0.0, 0.0)).unwrap_or(placed.origin);
    Drawn {
        scaled: placed.scaled,
        camera_height: placed.camera_height,
        distance: placed.distance,
        rows: rows(placed),
        origin: rounded(origin),
        axes: axes.collect(),
        staff: photo.known.and_then(|known| staff(&known, p, placed)),
        grid: lines(p, placed, &photo.grid.grid(shot.state.grid_m)),
        corner_box: photo.corner_box.map(|b| drawn_box(b, pull, p, placed)),
        measured: photo
            .measure
            .map(|m| measured(placed, placed.measure(p, m.axis, m.from, m.to))),
    }
}

/// Edges as the camera sees them, cut to what lies before it.
fn lines(p: &Perspective, placed: &Placed, edges: &[Edge]) -> Vec<Line> {
    let cut = |edge| project_edge(&p.lens, &placed.pose, edge);
    let flat = |line: Vec<PlatePx>| line.into_iter().flat_map(rounded).collect();
    edges.iter().flat_map(cut).map(flat).collect()
}

fn measured<E: std::fmt::Display>(placed: &Placed, length: Result<Length, E>) -> Measured {
    match length {
        Ok(l) => Measured::Length {
            length: l.length,
            sigma: l.sigma,
            off_axis_px: l.off_axis_px,
            ends_sigma_px: l.ends_sigma_px,
            text: measured_text(&l, if placed.scaled { "m" } else { "units" }),
        },
        Err(error) => Measured::Not {
            error: sentence(error),
        },
    }
}

/// Most graduations of a staff.
const MOST_GRADUATIONS: f64 = 40.0;

/// The known length as a graduated staff, none where it cannot be placed.
fn staff(known: &KnownLength, p: &Perspective, placed: &Placed) -> Option<Staff> {
    let foot = placed.ground_point(p, known.from)?;
    let end = match known.axis {
        Some(axis) => placed.point_along(p, &foot, axis, known.to)?.0,
        None => placed.ground_point(p, known.to)?,
    };
    let steps = [0.01, 0.02, 0.05, 0.1, 0.2, 0.5, 1.0, 2.0, 5.0, 10.0];
    let step = steps
        .into_iter()
        .find(|s| known.metres / s <= MOST_GRADUATIONS)?;
    let count = (known.metres / step + 1e-9) as usize;
    let way = (end.0 - foot.0) / known.metres;
    let at = |k: usize| {
        let point = WorldPoint(foot.0 + way * (step * k as f64));
        p.lens.project(&placed.pose, &point).map(rounded)
    };
    placed.scaled.then(|| Staff {
        graduations: (0..=count).filter_map(at).collect(),
        step_m: step,
    })
}

fn drawn_box(b: CornerBox, pull: Option<Pull>, p: &Perspective, placed: &Placed) -> DrawnBox {
    let Some(foot) = b.foot(p, placed) else {
        let error = "The corner of the box lies on or above the horizon. Put it on the ground.";
        return DrawnBox::Not { error };
    };
    let b = pull.map_or(b, |pull| {
        b.pulled(p, placed, &foot, pull.axis, point(pull.to))
    });
    let handles = b.tips(&foot).into_iter().filter_map(|(axis, tip)| {
        let px = rounded(p.lens.project(&placed.pose, &tip)?);
        Some(Handle { axis, px })
    });
    DrawnBox::Stands {
        lines: lines(p, placed, &b.edges(&foot)),
        handles: handles.collect(),
        size: b.size,
    }
}

/// A measured length in words, with what its error assumes.
fn measured_text(l: &Length, unit: &str) -> String {
    let beside = match l.off_axis_px > 2.0 {
        true => format!(", {:.1} px beside its way", l.off_axis_px),
        false => String::new(),
    };
    let length = uncertain(l.length, l.sigma, &format!(" {unit}"));
    format!(
        "{length} (end placed to ±{:.1} px{beside})",
        l.ends_sigma_px
    )
}
