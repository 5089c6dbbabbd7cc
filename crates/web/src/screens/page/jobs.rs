//! Work on a shot is asked for and cancelled.

use crate::app::App;
use crate::error::{Absent, ApiError, Refused};
use crate::screens::deliver;
use actix_web::{HttpResponse, web};
use parallax_store::jobs::JobKind;
use serde::Deserialize;
use serde_json::json;

type Answer = Result<HttpResponse, ApiError>;

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Begin {
    kind: JobKind,
    /// The recipe of a delivery; the first where left out.
    #[serde(default)]
    recipe: u32,
}

/// Queues a job; one of a kind at a time.
pub async fn begin(app: web::Data<App>, shot: web::Path<i64>, begin: web::Json<Begin>) -> Answer {
    if app.store.shot(*shot).await?.binned.is_some() {
        return Err(Refused::InBin.into());
    }
    if matches!(begin.kind, JobKind::Deliver | JobKind::DeliverStale) {
        deliver::plate::queue(&app, *shot, begin.recipe).await?;
    }
    let job = app
        .store
        .add_job_about(*shot, begin.kind, begin.recipe)
        .await?
        .ok_or(Refused::Busy)?;
    app.wake.notify_waiters();
    Ok(HttpResponse::Accepted().json(json!({ "job": job })))
}

/// Cancels a job, waiting or running.
pub async fn cancel(app: web::Data<App>, job: web::Path<i64>) -> Answer {
    let waiting = app.store.cancel_queued(*job).await?;
    let running = app.running().get(&*job).cloned();
    if let Some(progress) = &running {
        progress.cancel();
    }
    if waiting || running.is_some() {
        Ok(HttpResponse::Accepted().json(json!({ "cancelled": true })))
    } else {
        Err(Absent::Work.into())
    }
}
