//! A shot as a whole: its view, its edits, what is done with it.

use super::{answer, view};
use crate::app::App;
use crate::edited::Edited;
use crate::error::{ApiError, Refused};
use crate::intake;
use actix_web::HttpRequest;
use actix_web::Responder;
use actix_web::{HttpResponse, web};
use parallax_store::Invalid;
use parallax_store::things::{Deeds, list_in};
use serde::Deserialize;
use serde_json::Map;
use serde_json::json;
use std::collections::BTreeMap;

type Answer = Result<HttpResponse, ApiError>;

/// Everything that the page shows of a shot, but for tracks and landmarks.
pub async fn show(app: web::Data<App>, shot: web::Path<i64>, request: HttpRequest) -> Answer {
    let seen = answer::seen(request.headers());
    let view = answer::of(&app, *shot, seen.as_deref(), Map::new()).await?;
    Ok(HttpResponse::Ok().json(view))
}

/// How far each station of a shot is, and the work that goes on: what a list of shots shows.
pub async fn route(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let view = view::of(&app, *shot).await?;
    let work = app.active_jobs(*shot).await?;
    let work: Vec<_> = work.iter().map(|j| app.job_row(j)).collect();
    Ok(HttpResponse::Ok().json(json!({ "stations": view["stations"], "work": work })))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Edit {
    label: String,
    /// Members and their new values.
    #[serde(default = "nothing")]
    patch: serde_json::Value,
    /// What is done with things of lists, by the lists' paths.
    #[serde(default)]
    things: BTreeMap<String, Deeds>,
    /// The `version` of the shot that the edit builds on.
    #[serde(default)]
    on: Option<i64>,
}

fn nothing() -> serde_json::Value {
    json!({})
}

/// Longest label of an edit.
const LONGEST_LABEL: usize = 80;

/// Changes members of the state. An edit that builds on an older state is refused where what it
/// changes was changed since; one that replaces a list has to say what it builds on. Things of lists
/// are added, changed and removed by their ids, and collide with nobody who works on others.
pub async fn edit(
    app: web::Data<App>,
    shot: web::Path<i64>,
    edit: web::Json<Edit>,
) -> Result<Edited, ApiError> {
    if edit.on.is_none()
        && let Some(at) = list_in(&edit.patch)
    {
        return Err(Invalid::ListWithoutNumber { at }.into());
    }
    let label: String = edit.label.chars().take(LONGEST_LABEL).collect();
    let plate = app.store.shot(*shot).await?.plate;
    app.store
        .edit_on(*shot, &label, edit.on, |state| {
            let next = state.changed(&edit.patch, &edit.things)?;
            let outside = |r: &(i32, i32)| r.0 < plate.first || r.1 > plate.last;
            match next
                .range
                .filter(outside)
                .filter(|_| next.range != state.range)
            {
                Some((first, last)) => Err(Invalid::RangeOutside {
                    range: (first, last),
                    plate: (plate.first, plate.last),
                }
                .into()),
                None => Ok(next),
            }
        })
        .await?;
    Ok(Edited::of(*shot))
}

/// What can be done with a shot as a whole.
#[derive(Deserialize)]
#[serde(tag = "do", rename_all = "snake_case", deny_unknown_fields)]
pub enum ShotDeed {
    /// Calls it otherwise.
    Rename {
        /// Its new name.
        name: String,
    },
    /// Puts it into the bin; its work waits.
    Bin {},
    /// Takes it out of the bin.
    TakeOut {},
    /// Deletes it, from the bin.
    Delete {},
    /// Takes the plate as it is in its folder now.
    TakePlate {},
    /// Goes on with what can be read of a damaged one.
    Mend {},
    /// Forgets slip that was measured under a place of its current attempt.
    ForgetSlip {
        /// Its number.
        id: i64,
    },
}

/// Does something with a shot as a whole.
pub async fn deed(
    app: web::Data<App>,
    id: web::Path<i64>,
    deed: web::Json<ShotDeed>,
    request: HttpRequest,
) -> Answer {
    let shot = app.store.shot(*id).await?;
    match deed.into_inner() {
        ShotDeed::Rename { name } => app.store.rename_shot(shot.id, &name).await?,
        ShotDeed::Bin {} => {
            let since = std::time::UNIX_EPOCH
                .elapsed()
                .unwrap_or_default()
                .as_secs();
            app.store
                .bin_shot(shot.id, i64::try_from(since).ok())
                .await?;
            for job in app.active_jobs(shot.id).await? {
                if let Some(progress) = app.running().get(&job.id) {
                    progress.cancel();
                }
            }
        }
        ShotDeed::TakeOut {} => {
            app.store.bin_shot(shot.id, None).await?;
            app.wake.notify_waiters();
        }
        ShotDeed::Delete {} => {
            app.delete_shot(&shot).await?;
            return Ok(HttpResponse::Ok().json(json!({ "deleted": shot.id })));
        }
        ShotDeed::Mend {} => app.store.mend(shot.id).await?,
        ShotDeed::ForgetSlip { id } => {
            let attempt = shot.state.attempt.ok_or(Refused::NoCamera)?;
            app.store.forget_slip(attempt, id).await?;
        }
        ShotDeed::TakePlate {} => intake::take_as_it_is(&app, &shot).await?,
    }
    Ok(Edited::of(shot.id).respond_to(&request))
}

/// Takes the last edit back.
pub async fn undo(app: web::Data<App>, shot: web::Path<i64>) -> Result<Edited, ApiError> {
    app.store.undo(*shot).await?;
    Ok(Edited::of(*shot))
}

/// Does it again.
pub async fn redo(app: web::Data<App>, shot: web::Path<i64>) -> Result<Edited, ApiError> {
    app.store.redo(*shot).await?;
    Ok(Edited::of(*shot))
}
