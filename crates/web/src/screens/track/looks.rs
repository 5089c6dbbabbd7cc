//! Where features would be placed, and how a track looks on a frame.

use crate::app::App;
use crate::error::{Absent, ApiError, Refused};
use crate::said::words::short;
use crate::shot::{facts, tracks};
use actix_web::{HttpResponse, web};
use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_core::track::FrameSource;
use parallax_core::track::follow::compare;
use parallax_core::track::session::preview;
use serde::Deserialize;
use serde_json::{Value, json};

type Answer = Result<HttpResponse, ApiError>;

/// A frame.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct On {
    frame: i32,
}

/// Where features would be placed on a frame, for the controls as they are.
pub async fn features(app: web::Data<App>, shot: web::Path<i64>, on: web::Query<On>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let files = app.files(&shot).await?;
    let found = web::block(move || -> Result<Value, ApiError> {
        let plate = facts::followable(&shot, &files)?;
        let index = plate.frames().binary_search(&FrameNumber(on.frame));
        let index = index.map_err(|_| Absent::InRange(on.frame))?;
        let (picture, mask) = plate.look(index).map_err(Refused::Look)?;
        let places =
            preview(picture, mask.as_ref(), &shot.state.track).map_err(Refused::Placing)?;
        let list: Vec<f64> = places
            .iter()
            .flat_map(|(px, s)| [short(px.x, 1), short(px.y, 1), short(*s, 3)])
            .collect();
        Ok(json!({ "frame": on.frame, "count": places.len(), "places": list }))
    });
    Ok(HttpResponse::Ok().json(found.await??))
}

/// The patch of a track on a frame beside the one that it is followed by, and their correlation: a
/// hand track is followed from the key before, a feature from where it was found.
pub async fn look(app: web::Data<App>, path: web::Path<(i64, u32)>, on: web::Query<On>) -> Answer {
    let (shot, id) = path.into_inner();
    let shot = app.store.shot(shot).await?;
    let all = tracks::of(&app, &shot).await?.all(&shot.state);
    let gone = || Absent::Track {
        track: id,
        frame: on.frame,
    };
    let track = all.into_iter().find(|t| t.id.0 == id).ok_or_else(gone)?;
    let now = *track.at(FrameNumber(on.frame)).ok_or_else(gone)?;
    let hand = shot.state.hands.iter().find(|h| h.id == id);
    let key = hand.and_then(|h| {
        h.keys
            .iter()
            .rev()
            .find(|k| k.frame <= on.frame)
            .or(h.keys.first())
    });
    let first = track.samples.first().ok_or_else(gone)?;
    let (frame, at) = key.map_or((first.frame.0, first.px), |k| {
        (k.frame, PlatePx::new(k.px[0], k.px[1]))
    });
    let side = hand.map_or(shot.state.track.pattern_px, |h| h.pattern_px);
    let (before, after) = (
        app.grey(&shot, frame).await?,
        app.grey(&shot, on.frame).await?,
    );
    let compared = compare((&before, at), (&after, now.px), side);
    let levels = |v: &[f32]| {
        v.iter()
            .map(|l| l.round().clamp(0.0, 255.0) as u8)
            .collect::<Vec<u8>>()
    };
    let answer = json!({
        "track": id, "frame": on.frame, "reference_frame": frame, "side": side,
        "sigma_px": short(now.covariance.sigma_px(), 4), "px": [short(now.px.x, 3), short(now.px.y, 3)],
        "patches": compared.map(|c| json!({
            "reference": levels(&c.first), "current": levels(&c.second), "correlation": short(c.correlation, 4),
        })),
    });
    Ok(HttpResponse::Ok().json(answer))
}
