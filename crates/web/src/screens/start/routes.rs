//! Shots in the list, new ones, folders of plates.

use crate::app::App;
use crate::error::{Absent, ApiError};
use crate::intake;
use actix_web::{HttpResponse, web};
use parallax_media::movie::is_movie;
use serde::Deserialize;
use serde_json::json;

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
