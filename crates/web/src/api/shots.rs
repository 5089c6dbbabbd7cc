//! Shots, their edits and their jobs.

use crate::app::App;
use crate::error::ApiError;
use crate::{intake, view};
use actix_web::{HttpResponse, web};
use parallax_media::movie::is_movie;
use parallax_store::jobs::JobKind;
use serde::Deserialize;
use serde_json::json;

type Answer = Result<HttpResponse, ApiError>;

/// All shots.
pub async fn list(app: web::Data<App>) -> Answer {
    let shots = app.store.shots().await?;
    let entries: Vec<_> = shots
        .iter()
        .map(|s| {
            json!({
                "id": s.id, "name": s.name, "frames": s.plate.count, "first": s.plate.first, "last": s.plate.last,
                "width": s.width_px, "height": s.height_px, "rate": s.state.rate,
            })
        })
        .collect();
    Ok(HttpResponse::Ok().json(entries))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Open {
    folder: String,
}

/// Makes a shot of a folder, or of a movie, below the allowed one.
pub async fn open(app: web::Data<App>, asked: web::Json<Open>) -> Answer {
    let folder = intake::below(app.config.plates.as_deref(), &asked.folder)?;
    let shot = intake::open_path(&app, folder).await?;
    Ok(HttpResponse::Created().json(json!({ "shot": shot })))
}

#[derive(Deserialize)]
pub struct Under {
    #[serde(default)]
    path: String,
}

/// Folders below the allowed one.
pub async fn folders(app: web::Data<App>, asked: web::Query<Under>) -> Answer {
    let path = if asked.path.is_empty() {
        "."
    } else {
        &asked.path
    };
    let folder = intake::below(app.config.plates.as_deref(), path)?;
    let entries = std::fs::read_dir(&folder)
        .map_err(|e| ApiError::NotFound(format!("the folder cannot be listed: {e}")))?;
    let paths: Vec<std::path::PathBuf> = entries.filter_map(|e| Some(e.ok()?.path())).collect();
    let names = |wanted: fn(&std::path::Path) -> bool| {
        let named = paths
            .iter()
            .filter(|p| wanted(p))
            .filter_map(|p| p.file_name()?.to_str().map(str::to_owned));
        let mut names: Vec<String> = named.filter(|n| !n.starts_with('.')).collect();
        names.sort();
        names
    };
    let (names, movies) = (names(|p| p.is_dir()), names(|p| p.is_file() && is_movie(p)));
    let sequence = parallax_media::Sequence::find(&folder).ok();
    let plate = sequence.map(|s| json!({ "pattern": s.pattern(), "count": s.files.len() }));
    Ok(HttpResponse::Ok()
        .json(json!({ "path": asked.path, "folders": names, "movies": movies, "plate": plate })))
}

/// Everything that the page shows of a shot, but for tracks and landmarks.
pub async fn show(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    Ok(HttpResponse::Ok().json(view::shot(&app, *shot).await?))
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Edit {
    label: String,
    patch: serde_json::Value,
}

/// Keys that only results set, or requests of their own that check them.
const RESULTS: [&str; 6] = ["run", "delivery", "undistorted", "hands", "mattes", "notes"];

/// Changes the state by a JSON merge patch.
pub async fn edit(app: web::Data<App>, shot: web::Path<i64>, edit: web::Json<Edit>) -> Answer {
    if let Some(key) = RESULTS.iter().find(|k| edit.patch.get(k).is_some()) {
        return Err(ApiError::Refused(format!(
            "`{key}` is set by the work itself or by requests of its own"
        )));
    }
    if let Some(attempt) = edit.patch.get("attempt").and_then(|a| a.as_i64())
        && !app
            .store
            .attempts(*shot)
            .await?
            .iter()
            .any(|a| a.id == attempt)
    {
        return Err(ApiError::NotFound(format!(
            "this shot has no attempt {attempt}"
        )));
    }
    let label: String = edit.label.chars().take(80).collect();
    app.store
        .edit(*shot, &label, |state| state.patched(&edit.patch))
        .await?;
    show(app, shot).await
}

/// Takes the last edit back.
pub async fn undo(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    app.store.undo(*shot).await?;
    show(app, shot).await
}

/// Does it again.
pub async fn redo(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    app.store.redo(*shot).await?;
    show(app, shot).await
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Cull {
    /// Tracks to set aside.
    #[serde(default)]
    aside: Vec<u32>,
    /// Tracks to bring back, movers included.
    #[serde(default)]
    back: Vec<u32>,
}

/// Sets tracks aside or brings them back.
pub async fn cull(app: web::Data<App>, shot: web::Path<i64>, cull: web::Json<Cull>) -> Answer {
    let label = match (cull.aside.len(), cull.back.len()) {
        (0, n) => format!("bring back {n}"),
        (n, _) => format!("set aside {n}"),
    };
    app.store
        .edit(*shot, &label, |state| {
            Ok(state.culled(&cull.aside, &cull.back))
        })
        .await?;
    show(app, shot).await
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Begin {
    kind: JobKind,
}

/// Queues a job; one of a kind at a time.
pub async fn begin(app: web::Data<App>, shot: web::Path<i64>, begin: web::Json<Begin>) -> Answer {
    app.store.shot(*shot).await?;
    let busy = view::active_jobs(&app, *shot).await?;
    if busy.iter().any(|j| j.kind == begin.kind) {
        return Err(ApiError::Refused("that is being done already".to_owned()));
    }
    let job = app.store.add_job(*shot, begin.kind).await?;
    app.wake.notify_one();
    Ok(HttpResponse::Accepted().json(json!({ "job": job })))
}

/// Cancels a job, waiting or running.
pub async fn cancel(app: web::Data<App>, job: web::Path<i64>) -> Answer {
    let waiting = app.store.cancel_queued(*job).await?;
    let running = app.running.lock().ok().and_then(|r| r.get(&*job).cloned());
    if let Some(progress) = &running {
        progress.cancel();
    }
    if waiting || running.is_some() {
        Ok(HttpResponse::Accepted().json(json!({ "cancelled": true })))
    } else {
        Err(ApiError::NotFound("that work is not going on".to_owned()))
    }
}
