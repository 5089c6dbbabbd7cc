//! A place that something is asked about: a landmark's, or one of the artist's world.

use actix_web::HttpResponse;
use nalgebra::Vector3;
use parallax_core::camera::Similarity;
use parallax_core::solve::Attempt;
use parallax_core::spaces::TrackId;
use serde::Deserialize;
use serde_json::json;

/// A place: a landmark, or a place of the artist's world.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct At {
    pub track: Option<u32>,
    pub x: Option<f64>,
    pub y: Option<f64>,
    pub z: Option<f64>,
}

impl At {
    /// The place in the solve's world, of which `change` leads to the artist's; `None` of a track without a landmark.
    pub fn place(&self, attempt: &Attempt, change: &Similarity) -> Option<Vector3<f64>> {
        if let Some(track) = self.track {
            return Some(attempt.landmark(TrackId(track))?.point.0.coords);
        }
        let place = Vector3::new(self.x?, self.y?, self.z?);
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
}

/// What is said of a track without a landmark.
pub const NO_PLACE: &str = "This feature has no place in the solve; choose another.";

/// What cannot be told, and why: no failure of anybody.
pub fn none(why: &str) -> HttpResponse {
    HttpResponse::Ok().json(json!({ "none": why }))
}
