//! A landmark on demand: the place of one track by the current attempt, and where it should be seen.

use crate::app::App;
use crate::error::ApiError;
use crate::said::words::{short, uncertain};
use crate::shot::tracks;
use crate::shot::world::orientation;
use actix_web::{HttpResponse, web};
use parallax_core::solve::CameraMove;
use parallax_core::solve::on_demand::{Placed, placed};
use serde_json::{Value, json};

/// Where a track is in the oriented world, whether or not it took part in the solve; `none` says why it
/// has no place.
pub async fn place(
    app: web::Data<App>,
    path: web::Path<(i64, u32)>,
) -> Result<HttpResponse, ApiError> {
    let (shot, id) = path.into_inner();
    let shot = app.store.shot(shot).await?;
    let all = tracks::of(&app, &shot).await?.all(&shot.state);
    let Some(track) = all.into_iter().find(|t| t.id.0 == id) else {
        return Ok(none("there is no such track"));
    };
    let Some(attempt) = shot.state.attempt else {
        return Ok(none("there is no camera yet; solve first"));
    };
    let kept = app.attempt(attempt).await?;
    let found = match placed(&kept.attempt, &track.samples) {
        Ok(found) => found,
        Err(why) => return Ok(none(&why.to_string())),
    };
    let orientation = orientation(&app, &shot, &kept).await?;
    let unit = match orientation.scaled {
        true => "m",
        false => "units",
    };
    let change = orientation.change;
    let place = change.point(&found.point).0;
    let sigma = found.covariance.map(|c| c.in_world(&change).sigma());
    let path: Vec<Value> = found
        .path
        .iter()
        .map(|p| {
            json!([
                p.frame.0,
                short(p.px.x, 2),
                short(p.px.y, 2),
                short(p.sigma_px, 3)
            ])
        })
        .collect();
    Ok(HttpResponse::Ok().json(json!({
        "place": [short(place.x, 5), short(place.y, 5), short(place.z, 5)],
        "sigma": sigma.map(|s| s.map(|s| short(s, 5))),
        "unit": unit,
        "parallax_deg": short(found.parallax_deg, 3),
        "rms_px": short(found.rms_px, 3),
        "took_part": kept.attempt.landmark(track.id).is_some(),
        "text": text(&found, kept.attempt.moves, [place.x, place.y, place.z], sigma, unit),
        "path": path,
    })))
}

fn none(why: &str) -> HttpResponse {
    HttpResponse::Ok().json(json!({ "none": why, "path": [] }))
}

/// The place in a line.
fn text(
    found: &Placed,
    moves: CameraMove,
    place: [f64; 3],
    sigma: Option<[f64; 3]>,
    unit: &str,
) -> String {
    if moves != CameraMove::Free {
        return format!(
            "a direction, since the camera does not travel; misses {:.2} px",
            found.rms_px
        );
    }
    let axis = |k: usize| match sigma {
        Some(sigma) => uncertain(place[k], sigma[k], ""),
        None => format!("{:.3}", place[k]),
    };
    format!(
        "X {}, Y {}, Z {} {unit}; rays {:.1}° apart, misses {:.2} px",
        axis(0),
        axis(1),
        axis(2),
        found.parallax_deg,
        found.rms_px
    )
}
