//! The oriented world over the plate, frame by frame.

use super::world::said;
use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::guests::standing_all;
use crate::shot::world::orientation;
use actix_web::{HttpResponse, web};
use parallax_core::camera::{Intrinsics, Pose, Similarity};
use parallax_core::orient::{Fact, Orientation, change_of};
use parallax_core::scene::handle;
use parallax_core::scene::overlay::{project_edge, project_horizon};
use parallax_core::scene::shapes::{Edge, box_edges, ground_grid, plane_grid, plumb_lines};
use parallax_core::spaces::{FrameNumber, PlatePx, WorldPoint};
use parallax_matching::proofing::Standing;
use parallax_store::shots::Shot;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;

/// Which frames, with or without the handle, and a change by hand that is not kept yet.
#[derive(Deserialize)]
pub struct Asked {
    from: i32,
    to: i32,
    #[serde(default)]
    handle: bool,
    /// Three numbers with commas between them, degrees.
    turn: Option<String>,
    /// The same, units of the world.
    shift: Option<String>,
    scale: Option<f64>,
}

/// Squares of the ground grid each way, and how many plumb lines are tall.
const SQUARES: usize = 24;
const PLUMB_SQUARES: f64 = 5.0;
/// Most frames of overlay in one answer.
const MOST_FRAMES: i32 = 64;

/// Ground grid, boxes about guests and landmarks as they fall on the plate, frame by frame: landmarks as their rows were
/// read, the others as the delivered camera of the middle row draws them, which is how CG will lie there.
pub async fn overlay(
    app: web::Data<App>,
    shot: web::Path<i64>,
    asked: web::Query<Asked>,
) -> Result<HttpResponse, ApiError> {
    let shot = app.store.shot(*shot).await?;
    let Some(id) = shot.state.attempt else {
        return Ok(HttpResponse::Ok().json(json!({})));
    };
    let kept = app.attempt(id).await?;
    let orientation = orientation(&app, &shot, &kept).await?;
    let orientation = match asked.draft()? {
        Some(draft) => Arc::new(orientation.moved(&draft)),
        None => orientation,
    };
    let change = orientation.change;
    let (landmarks, rows) = (&kept.attempt.landmarks, kept.attempt.rows());
    let laid = Laid::of(&orientation, &shot);
    let guests = standing_all(&app, &shot, &kept, &orientation).await?;
    let last = asked.to.min(asked.from.saturating_add(MOST_FRAMES));
    let mut out = serde_json::Map::new();
    let all = kept.attempt.frames.iter().enumerate();
    for (k, f) in all.filter(|(_, f)| (asked.from..=last).contains(&f.frame.0)) {
        let (pose, lens) = (change.pose(&f.pose), kept.attempt.lens_at(f));
        let seen: Vec<f64> = landmarks
            .iter()
            .filter(|l| {
                l.residuals_px
                    .binary_search_by_key(&f.frame, |r| r.0)
                    .is_ok()
            })
            .filter_map(|l| {
                let (px, _) = rows.seen(k, &l.point)?;
                Some([f64::from(l.track.0), short(px.x, 1), short(px.y, 1)])
            })
            .flatten()
            .collect();
        let mut drawn = laid.drawn(&lens, &pose);
        drawn["guests"] = json!(outlines(&guests, f.frame, |edges| lines(
            &lens, &pose, edges
        )));
        drawn["points"] = json!(seen);
        if asked.handle {
            drawn["handle"] = grips(&lens, &pose);
        }
        out.insert(f.frame.to_string(), drawn);
    }
    Ok(HttpResponse::Ok().json(out))
}

impl Asked {
    /// The change that is not kept yet; refused where it could not be stated.
    fn draft(&self) -> Result<Option<Similarity>, ApiError> {
        let none = self.turn.is_none() && self.shift.is_none() && self.scale.is_none();
        if none {
            return Ok(None);
        }
        let three = |text: &Option<String>| -> Option<[f64; 3]> {
            let Some(text) = text else {
                return Some([0.0; 3]);
            };
            let numbers: Result<Vec<f64>, _> = text.split(',').map(str::parse).collect();
            numbers.ok()?.try_into().ok()
        };
        let scale = self.scale.unwrap_or(1.0);
        let possible = |(turn_deg, shift_m): &([f64; 3], [f64; 3])| {
            let (turn_deg, shift_m) = (*turn_deg, *shift_m);
            let fact = Fact::<u32>::ByHand {
                turn_deg,
                shift_m,
                scale,
            };
            fact.is_possible()
        };
        match three(&self.turn).zip(three(&self.shift)).filter(possible) {
            Some((turn_deg, shift_m)) => Ok(Some(change_of(turn_deg, shift_m, scale))),
            _ => Err(ApiError::Unreadable { what: "query" }),
        }
    }
}

/// What lies in the world, whatever the frame.
struct Laid {
    levelled: bool,
    up_sigma_rad: Option<f64>,
    grid: Vec<Edge>,
    plumbs: Vec<Edge>,
    walls: Vec<(u32, Vec<Edge>)>,
    axes: Vec<Edge>,
}

impl Laid {
    fn of(orientation: &Orientation, shot: &Shot) -> Self {
        let side_m = shot.state.grid_m;
        let ground = WorldPoint::new(0.0, orientation.ground.unwrap_or(0.0), 0.0);
        let levelled = |edges: Vec<Edge>| match orientation.levelled {
            true => edges,
            false => Vec::new(),
        };
        let walls = orientation.planes.iter();
        let walls = walls.map(|p| (p.id, plane_grid(&p.middle, &p.normal, side_m, p.reach)));
        Self {
            levelled: orientation.levelled,
            up_sigma_rad: orientation.up_sigma_deg.map(f64::to_radians),
            grid: levelled(ground_grid(&ground, side_m, SQUARES)),
            plumbs: levelled(plumb_lines(&ground, side_m, SQUARES / 3, PLUMB_SQUARES)),
            walls: walls.collect(),
            axes: levelled(origin_axes()),
        }
    }

    fn drawn(&self, lens: &Intrinsics, pose: &Pose) -> Value {
        let level = |rise_rad: f64| match self.levelled {
            true => flat(project_horizon(lens, pose, rise_rad)),
            false => Vec::new(),
        };
        let band = self.up_sigma_rad.iter();
        let band: Vec<_> = band.flat_map(|s| [level(-s), level(*s)]).collect();
        let walls = self.walls.iter();
        json!({
            "grid": lines(lens, pose, &self.grid), "plumbs": lines(lens, pose, &self.plumbs),
            "walls": walls.map(|(id, edges)| (id, lines(lens, pose, edges))).collect::<Vec<_>>(),
            "axes": self.axes.iter().map(|axis| lines(lens, pose, std::slice::from_ref(axis))).collect::<Vec<_>>(),
            "horizon": level(0.0), "horizon_band": band,
        })
    }
}

/// The handle of the world on the plate: the length of its arms, units, and its parts.
fn grips(lens: &Intrinsics, pose: &Pose) -> Value {
    let Some((arm, parts)) = handle::on_plate(lens, pose, &Similarity::identity()) else {
        return Value::Null;
    };
    let px = |p: &PlatePx| [short(p.x, 2), short(p.y, 2)];
    let part = |p: &handle::Drawn| {
        let lines = p.lines.iter().map(|[a, b]| [px(a), px(b)].concat());
        json!({ "what": said(p.drags), "axis": p.axis, "at": px(&p.knob), "later": px(&p.later),
            "lines": lines.collect::<Vec<_>>() })
    };
    json!({ "arm": arm, "later": handle::LATER, "parts": parts.iter().map(part).collect::<Vec<_>>() })
}

/// The box about each guest on a frame; of one that is hidden too, as lines to hold edges of the picture against.
fn outlines(
    guests: &[(u32, Standing)],
    frame: FrameNumber,
    drawn: impl Fn(&[Edge]) -> Vec<Vec<f64>>,
) -> Vec<(u32, Vec<Vec<f64>>)> {
    let one = |(id, standing): &(u32, Standing)| {
        let there = standing.placed(f64::from(frame.0))?;
        let bounds = standing.surface.mesh.bounds()?;
        let edges =
            box_edges(&bounds.map(|c| c.coords.cast())).map(|edge| edge.map(|p| there.point(&p)));
        Some((*id, drawn(&edges)))
    };
    guests.iter().filter_map(one).collect()
}

fn lines(lens: &Intrinsics, pose: &Pose, edges: &[Edge]) -> Vec<Vec<f64>> {
    flat(edges.iter().flat_map(|e| project_edge(lens, pose, e)))
}

/// Lines as they are sent.
fn flat(lines: impl IntoIterator<Item = Vec<PlatePx>>) -> Vec<Vec<f64>> {
    let one = |line: Vec<PlatePx>| {
        let ends = line.iter().flat_map(|p| [short(p.x, 1), short(p.y, 1)]);
        ends.collect()
    };
    lines.into_iter().map(one).collect()
}

/// The directions of the scene at the origin, along, up and across, a unit long.
fn origin_axes() -> Vec<Edge> {
    let origin = WorldPoint::new(0.0, 0.0, 0.0);
    let to = |x: f64, y: f64, z: f64| [origin, WorldPoint::new(x, y, z)];
    vec![to(1.0, 0.0, 0.0), to(0.0, 1.0, 0.0), to(0.0, 0.0, 1.0)]
}
