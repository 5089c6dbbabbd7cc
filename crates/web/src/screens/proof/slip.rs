//! How far CG is expected to slip: at a place frame by frame with what would lessen it, and over the picture.

use super::at::{At, NO_PLACE, none};
use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::said::words::{capital, sentence, short};
use crate::shot::world::{current, joint, orientation};
use crate::shot::{solving, tracks};
use actix_web::{HttpResponse, web};
use parallax_core::camera::Similarity;
use parallax_core::slip::{Advice, Joint, Slip, advice, field, forecast};
use parallax_core::spaces::{FrameNumber, TrackId, WorldPoint};
use parallax_store::attempts::KeptAttempt;
use serde::Deserialize;
use serde_json::{Value, json};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

/// What is asked about.
struct Asked {
    kept: Arc<KeptAttempt>,
    joint: Arc<Option<Joint>>,
    change: Similarity,
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
        change: orientation(app, &shot, &kept).await?.change,
        kept,
        joint,
    }))
}

/// How far CG at a place is expected to slip on each frame, and what would lessen it.
pub async fn slip(app: web::Data<App>, shot: web::Path<i64>, at: web::Query<At>) -> Answer {
    let asked = match asked(&app, *shot).await? {
        Ok(asked) => asked,
        Err(none) => return Ok(none),
    };
    let Some(place) = at.place(&asked.kept.attempt, &asked.change) else {
        return Ok(none(NO_PLACE));
    };
    let found = web::block(move || {
        let joint = Option::as_ref(&asked.joint)?;
        Some(forecast(joint, &place).map(|slip| (slip, advice(joint, &place))))
    });
    Ok(match found.await? {
        None => none("The tracks do not say how certain the camera is."),
        Some(Err(why)) => none(&sentence(why)),
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
            let what = capital(&a.candidate.to_string());
            let said = format!("{what}: {:.2} to {:.2} px.", a.before_px, a.after_px);
            json!({ "said": said, "from_px": from, "to_px": to })
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
    let pose = *asked.kept.attempt.pose(frame).ok_or(Refused::NoCamera)?;
    let far = |p: &WorldPoint| p.distance(pose.centre());
    let distance = match (over.distance, over.track) {
        (Some(distance), _) => distance / asked.change.scale,
        (None, Some(track)) => {
            let landmark = asked.kept.attempt.landmark(TrackId(track));
            match landmark {
                Some(landmark) => far(&landmark.point),
                None => {
                    return Ok(none(NO_PLACE));
                }
            }
        }
        (None, None) => {
            let mut all: Vec<f64> = asked
                .kept
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
