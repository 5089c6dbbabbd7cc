//! Shots, their edits and their jobs.

use crate::app::App;
use crate::error::{Absent, ApiError, Refused};
use crate::{intake, view};
use actix_web::{HttpResponse, web};
use parallax_media::movie::is_movie;
use parallax_store::jobs::JobKind;
use parallax_store::things::{Deeds, list_in};
use parallax_store::{Invalid, ShotState};
use serde::Deserialize;
use serde_json::json;
use std::collections::BTreeMap;

type Answer = Result<HttpResponse, ApiError>;

/// Which shots.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Bin {
    /// Those in the bin instead of those that are not.
    #[serde(default)]
    bin: bool,
}

/// All shots, or those in the bin.
pub async fn list(app: web::Data<App>, bin: web::Query<Bin>) -> Answer {
    let shots = app.store.shots(bin.bin).await?;
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
    let shot = intake::open_path(&app, folder, Vec::new()).await?;
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
    let path = asked.path.clone();
    let listed = web::block(move || -> Result<serde_json::Value, ApiError> {
        let unreadable = |_| Absent::Folder(folder.clone());
        let entries = std::fs::read_dir(&folder).map_err(unreadable)?;
        let paths: Vec<std::path::PathBuf> = entries.filter_map(|e| Some(e.ok()?.path())).collect();
        let names = |wanted: fn(&std::path::Path) -> bool| {
            let named = paths.iter().filter(|p| wanted(p));
            let named = named.filter_map(|p| p.file_name()?.to_str().map(str::to_owned));
            let mut names: Vec<String> = named.filter(|n| !n.starts_with('.')).collect();
            names.sort();
            names
        };
        let (names, movies) = (names(|p| p.is_dir()), names(|p| p.is_file() && is_movie(p)));
        let sequence = parallax_media::Sequence::find(&folder).ok();
        let plate = sequence.map(|s| json!({ "pattern": s.pattern(), "count": s.files.len() }));
        Ok(json!({ "path": path, "folders": names, "movies": movies, "plate": plate }))
    });
    Ok(HttpResponse::Ok().json(listed.await??))
}

/// Everything that the page shows of a shot, but for tracks and landmarks.
pub async fn show(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    Ok(HttpResponse::Ok().json(view::shot(&app, *shot).await?))
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
pub async fn edit(app: web::Data<App>, shot: web::Path<i64>, edit: web::Json<Edit>) -> Answer {
    if edit.on.is_none()
        && let Some(at) = list_in(&edit.patch)
    {
        return Err(Invalid::ListWithoutNumber { at }.into());
    }
    let label: String = edit.label.chars().take(LONGEST_LABEL).collect();
    app.store
        .edit_on(*shot, &label, edit.on, |state| {
            state.changed(&edit.patch, &edit.things)
        })
        .await?;
    show(app, shot).await
}

/// Makes another attempt the current one.
pub async fn take_attempt(app: web::Data<App>, path: web::Path<(i64, i64)>) -> Answer {
    let (shot, attempt) = path.into_inner();
    if !app
        .store
        .attempts(shot)
        .await?
        .iter()
        .any(|a| a.id == attempt)
    {
        return Err(Absent::Attempt(attempt).into());
    }
    let take = |state: &ShotState| {
        Ok(ShotState {
            attempt: Some(attempt),
            ..state.clone()
        })
    };
    app.store.edit(shot, "choose attempt", take).await?;
    show(app, web::Path::from(shot)).await
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
}

/// Does something with a shot as a whole.
pub async fn deed(app: web::Data<App>, id: web::Path<i64>, deed: web::Json<ShotDeed>) -> Answer {
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
            for job in view::active_jobs(&app, shot.id).await? {
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
        ShotDeed::TakePlate {} => intake::take_as_it_is(&app, &shot).await?,
    }
    show(app, id).await
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
    if app.store.shot(*shot).await?.binned.is_some() {
        return Err(Refused::InBin.into());
    }
    let job = app
        .store
        .add_job(*shot, begin.kind)
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
