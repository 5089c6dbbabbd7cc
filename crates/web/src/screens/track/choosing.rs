//! What the artist says of tracks: set aside, brought back, named, weighed.

use crate::app::App;
use crate::edited::Edited;
use crate::error::ApiError;
use crate::said::words::several;
use actix_web::web;
use parallax_store::tracking::NoteChange;
use serde::Deserialize;

/// Tracks and what to say of them.
#[derive(Deserialize)]
pub struct Said {
    tracks: Vec<u32>,
    #[serde(flatten)]
    change: NoteChange,
}

/// Names, groups, locks, hides or weighs tracks, as one edit.
pub async fn note(
    app: web::Data<App>,
    shot: web::Path<i64>,
    said: web::Json<Said>,
) -> Result<Edited, ApiError> {
    let label = match said.tracks.len() {
        1 => "what is said of a track".to_owned(),
        n => format!("what is said of {n} tracks"),
    };
    app.store
        .edit(*shot, &label, |state| {
            state.noted(&said.tracks, &said.change)
        })
        .await?;
    Ok(Edited::of(*shot))
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
pub async fn cull(
    app: web::Data<App>,
    shot: web::Path<i64>,
    cull: web::Json<Cull>,
) -> Result<Edited, ApiError> {
    let label = match (cull.aside.len(), cull.back.len()) {
        (0, n) => format!("keep {}", several(n, "track", "tracks")),
        (n, _) => format!("set aside {}", several(n, "track", "tracks")),
    };
    app.store
        .edit(*shot, &label, |state| {
            Ok(state.culled(&cull.aside, &cull.back))
        })
        .await?;
    Ok(Edited::of(*shot))
}
