//! One photograph: solved on every request from what lies on it, which takes about a
//! millisecond, so that nothing needs to be kept but what the artist laid.

mod figures;

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::flow;
use crate::said::uncertain;
use crate::view::findings::of_files;
use crate::view::{
    Finding, Remedy, Standing, Station, capital, film_back_text, finding, job, of_state, readable,
    short,
};
use nalgebra::Point3;
use parallax_core::photo::perspective::Perspective;
use parallax_core::photo::place::Length;
use parallax_core::photo::stated::{Offer, StatedFinding, against_rails, weigh};
use parallax_core::photo::{
    Axis, CornerBox, PhotoFinding, PhotoOptions, Placed, Placement, findings, place, solve,
};
use parallax_core::plate::FrameRate;
use parallax_core::scene::overlay::project_edge;
use parallax_core::scene::shapes::Edge;
use parallax_core::spaces::{PlatePx, WorldPoint};
use parallax_formats::delivery::{CameraStanding, Delivery};
use parallax_formats::receipt::Receipt;
use parallax_matching::delivering::{Proven, proven};
use parallax_store::jobs::{Job, JobState};
use parallax_store::photo::PhotoState;
use parallax_store::shots::Shot;
use parallax_store::state::FocalFact;
use serde::Deserialize;
use serde_json::{Value, json};

/// Whether a shot is one photograph.
pub fn is_photograph(shot: &Shot) -> bool {
    shot.plate.count == 1
}

/// What a delivery depends on.
pub fn delivery_inputs(shot: &Shot) -> String {
    json!([
        shot.state.photo,
        flow::film_back(shot),
        shot.state.focal,
        shot.name,
        shot.state.receiver
    ])
    .to_string()
}

/// A handle of the box that is being pulled.
#[derive(Clone, Copy, Debug, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pull {
    axis: Axis,
    to: [f64; 2],
}

fn options(shot: &Shot, photo: &PhotoState) -> PhotoOptions {
    PhotoOptions {
        focal_px: flow::stated_focal_px(shot),
        solve_centre: photo.solve_centre,
        flips: photo.flips,
    }
}

fn point([x, y]: [f64; 2]) -> PlatePx {
    PlatePx::new(x, y)
}

fn placement(photo: &PhotoState) -> Placement {
    Placement {
        origin: photo.origin.map(point),
        known: photo.known,
    }
}

/// Camera, figures, findings and everything that is drawn, for rails that may still be
/// under the pointer. What cannot be solved is said in `error`, what cannot be placed in `place_error`.
pub fn answer(shot: &Shot, photo: &PhotoState, pull: Option<Pull>) -> Value {
    let (options, rails) = (options(shot, photo), photo.rails.plain());
    let perspective = match solve(shot.width_px, shot.height_px, &rails, &options) {
        Ok(perspective) => perspective,
        Err(error) => {
            let findings = stated(shot, None);
            return json!({ "error": sentence(error), "findings": findings });
        }
    };
    let said = findings::findings(&rails, &options, &perspective);
    let said = said
        .iter()
        .map(told)
        .chain(stated(shot, Some(&perspective)));
    let mut out = json!({
        "figures": figures::camera(shot, &perspective),
        "miss_px": perspective.miss_px,
        "worst": perspective.worst,
        "vanishing": perspective.vanishing,
        "horizon": perspective.horizon,
        "findings": said.collect::<Vec<_>>(),
    });
    // An impossible length must not take the ground away.
    let placed = place(&perspective, &placement(photo));
    let unscaled = || {
        place(
            &perspective,
            &Placement {
                origin: photo.origin.map(point),
                known: None,
            },
        )
    };
    if let Err(error) = &placed {
        out["place_error"] = json!(capital(&error.to_string()));
    }
    if let Ok(placed) = placed.or_else(|_| unscaled()) {
        out["placed"] = drawn(shot, photo, pull, &perspective, &placed);
    }
    out
}

fn sentence(error: impl std::fmt::Display) -> String {
    format!("{}.", capital(&error.to_string()))
}

/// What the file says of its camera, and whether rails agree; the offer is the remedy.
fn stated(shot: &Shot, perspective: Option<&Perspective>) -> Vec<Finding> {
    let Some(stated) = &shot.plate.stated else {
        return Vec::new();
    };
    let (offer, said) = weigh(stated, shot.width_px, shot.height_px);
    let rails = offer.zip(perspective.filter(|_| shot.state.focal == FocalFact::Unknown));
    let disagree = rails
        .and_then(|(o, p)| against_rails(&o, shot.width_px, p.focal_px.value, p.focal_px.sigma));
    let taken = |o: &Offer| {
        shot.state.film_back == Some(o.film_back) && shot.state.focal == FocalFact::Mm(o.focal_mm)
    };
    let wanted =
        |said: &StatedFinding| *said != StatedFinding::Absent || shot.state.film_back.is_none();
    said.into_iter()
        .filter(wanted)
        .chain(disagree)
        .map(|said| {
            let level = match said {
                StatedFinding::Offered { .. } | StatedFinding::Turned { .. } => "ok",
                _ => "warn",
            };
            let offered = matches!(said, StatedFinding::Offered { .. });
            let remedy = offer.filter(|o| offered && !taken(o)).map(|o| Remedy {
                label: "Take film back and focal length",
                edit: json!({ "film_back": o.film_back, "focal": { "mm": o.focal_mm } }),
                things: None,
                work: None,
            });
            finding("plate", level, sentence(said)).mended_by(remedy)
        })
        .collect()
}

fn told(said: &PhotoFinding) -> Finding {
    let level = if said.is_doubt() { "warn" } else { "ok" };
    let remedy = match said {
        PhotoFinding::Cropped { solved: false, .. } => {
            let edit = json!({ "photo": { "solve_centre": true } });
            Some(Remedy {
                label: "Free the centre",
                edit,
                things: None,
                work: None,
            })
        }
        _ => None,
    };
    finding("rails", level, said.to_string()).mended_by(remedy)
}

fn drawn(
    shot: &Shot,
    photo: &PhotoState,
    pull: Option<Pull>,
    p: &Perspective,
    placed: &Placed,
) -> Value {
    let lines = |edges: &[Edge]| -> Vec<Vec<f64>> {
        let cut = |edge| project_edge(&p.lens, &placed.pose, edge);
        let flat = |line: Vec<PlatePx>| {
            line.iter()
                .flat_map(|px| [short(px.x, 2), short(px.y, 2)])
                .collect()
        };
        edges.iter().flat_map(cut).map(flat).collect()
    };
    let reach = 0.16 * placed.distance;
    let origin = WorldPoint::new(0.0, 0.0, 0.0);
    let tip = |axis: Axis| WorldPoint(Point3::from(axis.unit() * reach));
    let axes: Vec<Value> = Axis::ALL
        .into_iter()
        .filter_map(|axis| Some((axis, p.lens.project(&placed.pose, &tip(axis))?)))
        .map(|(axis, px)| json!({ "axis": axis, "to": [short(px.x, 2), short(px.y, 2)] }))
        .collect();
    let origin_px = p
        .lens
        .project(&placed.pose, &origin)
        .unwrap_or(placed.origin);
    let corner_box = photo
        .corner_box
        .map(|b| drawn_box(b, pull, p, placed, &lines));
    let measured = photo
        .measure
        .map(|m| match placed.measure(p, m.axis, m.from, m.to) {
            Ok(l) => json!({
                "length": l.length, "sigma": l.sigma, "off_axis_px": l.off_axis_px,
                "ends_sigma_px": l.ends_sigma_px,
                "text": measured_text(&l, if placed.scaled { "m" } else { "units" }),
            }),
            Err(error) => json!({ "error": sentence(error) }),
        });
    json!({
        "scaled": placed.scaled, "camera_height": placed.camera_height, "distance": placed.distance,
        "rows": figures::placed(placed),
        "origin": [short(origin_px.x, 2), short(origin_px.y, 2)], "axes": axes,
        "grid": lines(&photo.grid.grid(shot.state.grid_m)),
        "box": corner_box, "measured": measured,
    })
}

fn drawn_box(
    b: CornerBox,
    pull: Option<Pull>,
    p: &Perspective,
    placed: &Placed,
    lines: &dyn Fn(&[Edge]) -> Vec<Vec<f64>>,
) -> Value {
    let Some(foot) = b.foot(p, placed) else {
        return json!({ "error": "The corner of the box lies on or above the horizon. Put it on the ground." });
    };
    let b = pull.map_or(b, |pull| {
        b.pulled(p, placed, &foot, pull.axis, point(pull.to))
    });
    let handles: Vec<Value> = b
        .tips(&foot)
        .into_iter()
        .filter_map(|(axis, tip)| Some((axis, p.lens.project(&placed.pose, &tip)?)))
        .map(|(axis, px)| json!({ "axis": axis, "px": [short(px.x, 2), short(px.y, 2)] }))
        .collect();
    json!({ "lines": lines(&b.edges(&foot)), "handles": handles, "size": b.size })
}

/// A measured length in words, with what its error assumes.
fn measured_text(l: &Length, unit: &str) -> String {
    let beside = match l.off_axis_px > 2.0 {
        true => format!(", {:.1} px beside the axis", l.off_axis_px),
        false => String::new(),
    };
    let length = uncertain(l.length, l.sigma, &format!(" {unit}"));
    format!(
        "{length} (end placed to ±{:.1} px{beside})",
        l.ends_sigma_px
    )
}

/// Writes the package of a photograph, reads it back and proves it.
pub fn deliver(shot: &Shot) -> Result<Proven, ApiError> {
    let photo = &shot.state.photo;
    let (refused, rails) = (Refused::Photo, photo.rails.plain());
    let perspective =
        solve(shot.width_px, shot.height_px, &rails, &options(shot, photo)).map_err(refused)?;
    let placed = place(&perspective, &placement(photo)).map_err(refused)?;
    let said = findings::findings(&rails, &options(shot, photo), &perspective);
    let doubts = said
        .iter()
        .filter(|f| f.is_doubt())
        .map(PhotoFinding::to_string);
    let standing = CameraStanding::doubted(doubts.collect());
    let about = flow::delivered_shot(shot, FrameRate::STILL);
    let mut delivery = Delivery::of_photograph(&about, &perspective, &placed, standing);
    let placed_box = photo
        .corner_box
        .and_then(|b| b.stand_in(&b.foot(&perspective, &placed)?));
    delivery.stand_ins = placed_box.into_iter().collect();
    Ok(proven(&delivery)?)
}

/// The view model of a photograph's page, with its work as it was before.
pub async fn view(app: &App, shot: Shot, jobs: &[Job]) -> Result<Value, ApiError> {
    let mut damaged = of_state(&shot);
    let delivery = match shot.state.delivery {
        Some(id) => {
            let read = app.store.delivery(id).await.map_err(ApiError::from);
            readable(read, "the latest delivery", &mut damaged)?
        }
        None => None,
    };
    let differences = app.differences(&shot).await?;
    let receipt: Option<Receipt> = delivery
        .as_ref()
        .and_then(|d| serde_json::from_str(&d.receipt).ok());
    let stale = delivery
        .as_ref()
        .is_some_and(|d| d.inputs != delivery_inputs(&shot));
    let asked = shot.clone();
    let solve = move || answer(&asked, &asked.state.photo, None);
    let solved = tokio::task::spawn_blocking(solve).await?;
    let viewable = !jobs
        .iter()
        .any(|j| matches!(j.state, JobState::Queued | JobState::Running));
    Ok(json!({
        "id": shot.id, "name": shot.name, "plate": shot.plate, "width": shot.width_px, "height": shot.height_px,
        "state": shot.state, "version": shot.version, "history": app.store.history(shot.id).await?,
        "facts": facts(&shot, &solved),
        "stations": stations(&shot, &solved, receipt.as_ref(), stale, viewable),
        "findings": of_files(&damaged, &differences),
        "solved": solved, "receipt": receipt, "stale": stale,
        "jobs": jobs.iter().map(|j| job(app, j)).collect::<Vec<_>>(),
    }))
}

fn facts(shot: &Shot, solved: &Value) -> Value {
    let figure = |key: &str| solved["figures"][key].as_f64();
    let focal = match (
        shot.state.focal,
        figure("focal_mm").zip(figure("focal_sigma_mm")),
    ) {
        (FocalFact::Mm(mm), _) => format!("{mm} mm, stated"),
        (FocalFact::About { mm, sigma_mm }, _) => {
            format!("{mm} ± {sigma_mm} mm, taken as exact")
        }
        (_, Some((mm, sigma))) => uncertain(mm, sigma, " mm"),
        _ => "unknown".to_owned(),
    };
    json!({
        "size": format!("{}×{}", shot.width_px, shot.height_px),
        "film_back": film_back_text(shot),
        "focal": focal,
        "unit": if solved["placed"]["scaled"] == true { "metre" } else { "no scale" },
    })
}

fn stations(
    shot: &Shot,
    solved: &Value,
    receipt: Option<&Receipt>,
    stale: bool,
    viewable: bool,
) -> Vec<Station> {
    let photo = &shot.state.photo;
    let warned = solved["findings"]
        .as_array()
        .is_some_and(|f| f.iter().any(|f| f["level"] == "warn"));
    let has_camera = solved["figures"].is_object();
    let rails = match (photo.rails.is_empty(), has_camera) {
        (true, _) => (Standing::NotBegun, "–".to_owned()),
        (_, false) => (Standing::InWork, photo.rails.len().to_string()),
        _ => {
            let standing = if warned {
                Standing::NeedsALook
            } else {
                Standing::Good
            };
            (
                standing,
                format!(
                    "{:.2} px",
                    solved["figures"]["rms_px"].as_f64().unwrap_or(0.0)
                ),
            )
        }
    };
    let orient = match (
        solved["placed"]["scaled"] == true,
        photo.origin,
        solved["place_error"].is_string(),
    ) {
        (_, _, true) => (Standing::NeedsALook, "see notes"),
        (true, _, _) => (Standing::Good, "metre"),
        (false, Some(_), _) => (Standing::InWork, "no scale"),
        _ => (Standing::NotBegun, "–"),
    };
    let proof = match (photo.corner_box, has_camera) {
        (Some(_), true) => (Standing::Good, "1 box"),
        (Some(_), false) => (Standing::NeedsALook, "1 box"),
        _ => (Standing::NotBegun, "–"),
    };
    let deliver = match receipt {
        None => (Standing::NotBegun, "–".to_owned()),
        Some(_) if stale => (Standing::Stale, "stale".to_owned()),
        Some(r) if !r.files_agree => (Standing::NeedsALook, "files differ".to_owned()),
        Some(r) if r.camera.as_ref().is_some_and(|c| c.good) => {
            (Standing::Good, "files agree".to_owned())
        }
        Some(_) => (Standing::NeedsALook, "see camera".to_owned()),
    };
    let plate = if viewable {
        Standing::Good
    } else {
        Standing::InWork
    };
    vec![
        Station::new("plate", "Plate", plate, "1 photo".to_owned()),
        Station::new("rails", "Rails", rails.0, rails.1),
        Station::new("orient", "Orient", orient.0, orient.1.to_owned()),
        Station::new("proof", "Proof", proof.0, proof.1.to_owned()),
        Station::new("deliver", "Deliver", deliver.0, deliver.1),
    ]
}
