//! Where a guest comes to stand under the pointer, and where the sun stands by a shadow.

use super::at::none;
use crate::app::App;
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::guests::anchor;
use crate::shot::world::current_world;
use actix_web::{HttpResponse, web};
use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Eye, Similarity};
use parallax_core::orient::Orientation;
use parallax_core::render::Piece;
use parallax_core::solve::Attempt;
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use parallax_matching::in_scene::piece_of;
use parallax_store::shots::Shot;
use serde::Deserialize;
use serde_json::json;

/// A place on the plate.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Pointed {
    frame: i32,
    x: f64,
    y: f64,
    /// Whether a landmark nearby takes it.
    #[serde(default)]
    snap: bool,
}

/// A landmark takes what is so near, px.
const SNAP_PX: f64 = 9.0;
/// Where nothing is stated of planes, one so near does, px.
const NEAREST_PX: f64 = 60.0;

/// What is under the pointer, in the artist's world.
struct Under {
    place: Vector3<f64>,
    feature: Option<TrackId>,
    on: String,
    /// Turn about up so that a face looks off the plane, degrees; of upright planes.
    turn_deg: Option<f64>,
}

fn eye_of(attempt: &Attempt, change: &Similarity, frame: i32) -> Option<Eye> {
    let at = attempt
        .frames
        .binary_search_by_key(&FrameNumber(frame), |f| f.frame)
        .ok()?;
    let mut eye = attempt.eye(&attempt.frames[at]);
    eye.pose = change.pose(&eye.pose);
    Some(eye)
}

/// The landmark that is seen nearest to a place of the plate, with how far off, px.
fn nearest(
    attempt: &Attempt,
    change: &Similarity,
    eye: &Eye,
    px: PlatePx,
) -> Option<(TrackId, f64)> {
    let seen = attempt.landmarks.iter().filter_map(|l| {
        let at = eye.lens.project(&eye.pose, &change.point(&l.point))?;
        Some((l.track, at.distance_px(px)))
    });
    seen.min_by(|a, b| a.1.total_cmp(&b.1))
}

fn under(
    shot: &Shot,
    attempt: &Attempt,
    orientation: &Orientation,
    pointed: &Pointed,
) -> Option<Under> {
    let change = &orientation.change;
    let eye = eye_of(attempt, change, pointed.frame)?;
    let px = PlatePx::new(pointed.x, pointed.y);
    let on_feature = |feature: TrackId| {
        let place = anchor(attempt, change, feature)?.0.coords;
        Some(Under {
            place,
            feature: Some(feature),
            on: "a landmark".to_owned(),
            turn_deg: None,
        })
    };
    let near = nearest(attempt, change, &eye, px);
    if let Some((feature, _)) = near.filter(|n| pointed.snap && n.1 < SNAP_PX) {
        return on_feature(feature);
    }
    let ray = eye.lens.lens_point(px)?.ray();
    let direction = eye.pose.camera_from_world.rotation.inverse() * ray.normalize();
    let from: Point3<f64> = eye.pose.centre().0;
    let ground = orientation.levelled.then(|| {
        (
            Piece::ground(orientation.ground.unwrap_or(0.0)),
            "the ground".to_owned(),
            None,
        )
    });
    let planes = orientation.planes.iter().filter_map(|p| {
        let piece = piece_of(p)?;
        let normal = if piece.normal.dot(&direction) > 0.0 {
            -piece.normal
        } else {
            piece.normal
        };
        let upright = normal.y.abs() < 0.5;
        let turn = upright.then(|| normal.x.atan2(normal.z).to_degrees());
        Some((piece, plane_name(shot, p.id), turn))
    });
    let met = ground
        .into_iter()
        .chain(planes)
        .filter_map(|(piece, on, turn_deg)| {
            let distance = piece.met(&from, &direction)?;
            Some((
                distance,
                Under {
                    place: from.coords + direction * distance,
                    feature: None,
                    on,
                    turn_deg,
                },
            ))
        });
    let met = met
        .min_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, under)| under);
    met.or_else(|| on_feature(near.filter(|n| n.1 < NEAREST_PX)?.0))
}

/// What a plane's statement calls it.
fn plane_name(shot: &Shot, id: u32) -> String {
    let fact = shot
        .state
        .statements
        .iter()
        .find(|s| s.id == id)
        .map(|s| &s.fact);
    match fact {
        Some(parallax_core::orient::Fact::Plane { name, .. }) => name.clone(),
        _ => "a plane".to_owned(),
    }
}

/// What is said where nothing is under the pointer.
const NOTHING: &str = "Nothing is known of what is there: point at a landmark or at the ground, or state a plane at Orient.";

/// Where a guest would stand.
pub async fn place(
    app: web::Data<App>,
    shot: web::Path<i64>,
    pointed: web::Query<Pointed>,
) -> Result<HttpResponse, ApiError> {
    let (shot, kept, orientation) = current_world(&app, *shot).await?;
    let Some(under) = under(&shot, &kept.attempt, &orientation, &pointed) else {
        return Ok(none(NOTHING));
    };
    let place = [under.place.x, under.place.y, under.place.z].map(|v| short(v, 5));
    let feature = under.feature.map(|f| f.0);
    Ok(HttpResponse::Ok().json(json!({ "place": place, "feature": feature, "on": under.on, "turn_deg": under.turn_deg.map(|t| short(t, 2)) })))
}

/// A corner, by its landmark, and its shadow on the plate.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Shadow {
    corner: u32,
    frame: i32,
    x: f64,
    y: f64,
}

/// Where the sun stands, of a corner and its shadow.
pub async fn sun(
    app: web::Data<App>,
    shot: web::Path<i64>,
    shadow: web::Query<Shadow>,
) -> Result<HttpResponse, ApiError> {
    let (shot, kept, orientation) = current_world(&app, *shot).await?;
    let corner: Option<WorldPoint> =
        anchor(&kept.attempt, &orientation.change, TrackId(shadow.corner));
    let Some(corner) = corner else {
        return Ok(none(
            "The corner has no place in the solve; choose another.",
        ));
    };
    let Shadow { frame, x, y, .. } = *shadow;
    let pointed = Pointed {
        frame,
        x,
        y,
        snap: true,
    };
    let Some(under) = under(&shot, &kept.attempt, &orientation, &pointed) else {
        return Ok(none(NOTHING));
    };
    Ok(match shot.state.sun.casting(&corner.0.coords, &under.place) {
        Some(sun) => HttpResponse::Ok().json(json!({ "heading_deg": short(sun.heading_deg, 2), "height_deg": short(sun.height_deg, 2), "on": under.on })),
        None => none("The shadow lies above its corner or on it: choose the corner first, then click where its shadow falls."),
    })
}
