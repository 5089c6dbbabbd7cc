//! How far CG is expected to slip: at a place frame by frame with what would lessen it, and over the picture.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::said::words::short;
use crate::shot::world::{change_of, current, joint};
use crate::shot::{solving, tracks};
use actix_web::{HttpResponse, web};
use nalgebra::Vector3;
use parallax_core::camera::Similarity;
use parallax_core::slip::advice::Candidate;
use parallax_core::slip::{Advice, Joint, Slip, advice, field, forecast};
use parallax_core::solve::Attempt;
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_formats::path;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

/// A place: a landmark, or a place of the artist's world.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct At {
    pub track: Option<u32>,
    pub x: Option<f64>,
    pub y: Option<f64>,
    pub z: Option<f64>,
}

/// What is asked about.
struct Asked {
    attempt: Attempt,
    joint: Arc<Option<Joint>>,
    change: Similarity,
}

/// Slip that cannot be told, and why: no failure of anybody.
pub fn none(why: &str) -> HttpResponse {
    HttpResponse::Ok().json(json!({ "none": why, "frames": [], "advice": [] }))
}

/// The current attempt with what its tracks say together, or why they say nothing.
async fn asked(app: &App, shot: i64) -> Result<Result<Asked, HttpResponse>, ApiError> {
    let (shot, kept) = current(app, shot).await?;
    let tracks = tracks::of(app, &shot).await?;
    if !solving::stale_since(&shot, &kept, &tracks).is_empty() {
        return Ok(Err(none(
            "The solve is stale: solve again, and slip is forecast of what there is now.",
        )));
    }
    let joint = joint(app, &shot, &kept, &tracks).await?;
    Ok(Ok(Asked {
        change: change_of(&kept.attempt, &shot),
        attempt: kept.attempt.clone(),
        joint,
    }))
}

impl Asked {
    /// A place of the solve's world.
    fn place(&self, at: &At) -> Option<Vector3<f64>> {
        place_of(&self.attempt, &self.change, at)
    }
}

/// A place of the solve's world: a landmark's, or one of the artist's world.
pub fn place_of(attempt: &Attempt, change: &Similarity, at: &At) -> Option<Vector3<f64>> {
    if let Some(track) = at.track {
        return Some(attempt.landmark(TrackId(track))?.point.0.coords);
    }
    let place = Vector3::new(at.x?, at.y?, at.z?);
    let Similarity {
        rotation,
        translation,
        scale,
    } = change;
    place
        .iter()
        .all(|v| v.is_finite())
        .then(|| rotation.inverse() * (place - translation) / *scale)
}

/// How far CG at a place is expected to slip on each frame, and what would lessen it.
pub async fn slip(app: web::Data<App>, shot: web::Path<i64>, at: web::Query<At>) -> Answer {
    let asked = match asked(&app, *shot).await? {
        Ok(asked) => asked,
        Err(none) => return Ok(none),
    };
    let Some(place) = asked.place(&at) else {
        return Ok(none(
            "This feature has no place in the solve; choose another.",
        ));
    };
    let found = web::block(move || {
        let joint = Option::as_ref(&asked.joint)?;
        Some(forecast(joint, &place).map(|slip| (slip, advice(joint, &place))))
    });
    Ok(match found.await? {
        None => none("The tracks do not say how certain the camera is."),
        Some(Err(why)) => none(&crate::said::words::sentence(why)),
        Some(Ok((slip, advice))) => HttpResponse::Ok().json(told(&slip, &advice)),
    })
}

fn told(slip: &Slip, advice: &[Advice]) -> Value {
    let frames: Vec<Value> = slip
        .frames
        .iter()
        .map(|(frame, px, sigma)| {
            json!([frame.0, short(px.x, 2), short(px.y, 2), short(*sigma, 4)])
        })
        .collect();
    let advice: Vec<Value> = advice
        .iter()
        .map(|a| {
            let (from, to) = (short(a.before_px, 4), short(a.after_px, 4));
            json!({ "said": advised(a), "from_px": from, "to_px": to })
        })
        .collect();
    json!({
        "rms_px": short(slip.rms_px, 4),
        "worst": { "frame": slip.worst.0.0, "px": short(slip.worst.1, 4) },
        "frames": frames, "advice": advice,
        "said": format!(
            "CG here slips by {:.2} px (rms); most on {}, by {:.2} px.",
            slip.rms_px, slip.worst.0, slip.worst.1
        ),
    })
}

fn advised(advice: &Advice) -> String {
    let gain = format!("{:.2} to {:.2} px", advice.before_px, advice.after_px);
    match advice.candidate {
        Candidate::Track(from, to) => format!("A hand track here from {from} to {to}: {gain}."),
        Candidate::Focal(share) => {
            format!(
                "The focal length, stated to {} %: {gain}.",
                short(100.0 * share, 2)
            )
        }
        Candidate::Lens(_) => {
            format!("A lens from straights in the place of a solved one: {gain}.")
        }
    }
}

/// A place and the kind of file.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Path {
    track: Option<u32>,
    x: Option<f64>,
    y: Option<f64>,
    z: Option<f64>,
    /// `json`, or comma-separated text.
    kind: Option<String>,
}

/// Where a place is seen on each frame, as a file.
pub async fn path_of(app: web::Data<App>, shot: web::Path<i64>, of: web::Query<Path>) -> Answer {
    let (shot, kept) = current(&app, *shot).await?;
    let change = change_of(&kept.attempt, &shot);
    let Path { track, x, y, z, .. } = *of;
    let place = place_of(&kept.attempt, &change, &At { track, x, y, z });
    let Some(place) = place else {
        return Ok(none(
            "This feature has no place in the solve; choose another.",
        ));
    };
    // In the artist's world, so that depths are of its units.
    let there = change.point(&WorldPoint(place.into()));
    let cameras = kept.attempt.frames.iter();
    let cameras = cameras.map(|f| (f.frame, kept.attempt.lens_at(f), change.pose(&f.pose)));
    let rows = path::path(cameras, &there);
    let (kind, name, text) = match of.kind.as_deref() {
        Some("json") => ("application/json", "path.json", path::as_json(&rows)?),
        _ => ("text/csv", "path.csv", path::as_csv(&rows)),
    };
    let named = format!("attachment; filename=\"{name}\"");
    Ok(HttpResponse::Ok()
        .content_type(kind)
        .insert_header(("content-disposition", named))
        .body(text))
}

/// Where a field is asked for.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Over {
    frame: i32,
    /// At the distance of this landmark, or ...
    track: Option<u32>,
    /// ... at this one, units of the artist's world; else at the median of the landmarks.
    distance: Option<f64>,
}

/// Columns and rows of a field.
const FIELD: [usize; 2] = [32, 18];

/// How far CG at one distance is expected to slip, over the picture of a frame.
pub async fn over_picture(
    app: web::Data<App>,
    shot: web::Path<i64>,
    over: web::Query<Over>,
) -> Answer {
    let asked = match asked(&app, *shot).await? {
        Ok(asked) => asked,
        Err(none) => return Ok(none),
    };
    let frame = FrameNumber(over.frame);
    let pose = *asked.attempt.pose(frame).ok_or(Refused::NoCamera)?;
    let far = |p: &parallax_core::spaces::WorldPoint| p.distance(pose.centre());
    let distance = match (over.distance, over.track) {
        (Some(distance), _) => distance / asked.change.scale,
        (None, Some(track)) => {
            let landmark = asked.attempt.landmark(TrackId(track));
            match landmark {
                Some(landmark) => far(&landmark.point),
                None => {
                    return Ok(none(
                        "This feature has no place in the solve; choose another.",
                    ));
                }
            }
        }
        (None, None) => {
            let mut all: Vec<f64> = asked
                .attempt
                .landmarks
                .iter()
                .map(|l| far(&l.point))
                .collect();
            parallax_core::statistics::median(&mut all).unwrap_or(1.0)
        }
    };
    if !(distance.is_finite() && distance > 0.0) {
        return Ok(none("A distance is greater than 0."));
    }
    let scale = asked.change.scale;
    let found = web::block(move || {
        let joint = Option::as_ref(&asked.joint)?;
        field(joint, frame, distance, FIELD)
    });
    Ok(match found.await? {
        None => none("The tracks do not say how certain the camera is on this frame."),
        Some(field) => {
            let px: Vec<Option<f64>> = field
                .px
                .iter()
                .map(|px| px.map(|px| short(px, 4)))
                .collect();
            HttpResponse::Ok().json(
                json!({ "size": field.size, "px": px, "distance": short(distance * scale, 4) }),
            )
        }
    })
}
