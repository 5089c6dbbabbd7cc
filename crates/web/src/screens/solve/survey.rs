//! Points that were measured on the set, from a file.

use crate::app::App;
use crate::edited::Edited;
use crate::error::ApiError;
use actix_web::web;
use parallax_core::scene::{Hand, Receiver, Up};
use parallax_formats::survey_csv;
use parallax_store::state::SurveyedPoint;
use parallax_store::{Invalid, ShotState};
use serde::Deserialize;

/// Longest file that is read.
pub const MOST_BYTES: usize = 4 << 20;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct About {
    /// Its up axis.
    #[serde(default)]
    up: Up,
    /// The version of the shot that the artist saw.
    on: Option<i64>,
}

/// Takes the points of a survey in place of those there are, as one edit; refused where somebody changed these
/// since the version that it is said to be on.
pub async fn import(
    app: web::Data<App>,
    shot: web::Path<i64>,
    about: web::Query<About>,
    body: web::Bytes,
) -> Result<Edited, ApiError> {
    let invalid = |e: &dyn std::fmt::Display| ApiError::from(Invalid::SurveyFile(e.to_string()));
    let text =
        std::str::from_utf8(&body).map_err(|_| invalid(&"the survey is no text in UTF-8"))?;
    let axes = Receiver::of_axes(about.up, Hand::Right);
    let points = survey_csv::read(text, axes).map_err(|e| invalid(&e))?;
    let survey = points
        .into_iter()
        .map(|p| SurveyedPoint {
            name: p.name,
            track: None,
            at_m: p.at_m,
            sigma_m: p.sigma_m,
        })
        .collect();
    let id = *shot;
    app.store
        .edit_on(id, "import a survey", about.on, |state| {
            let next = ShotState {
                survey,
                ..state.clone()
            };
            next.checked_taken_in()
        })
        .await?;
    Ok(Edited::of(id))
}
