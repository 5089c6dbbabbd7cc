//! Dropped files: written one by one into a folder of their own, bounded, then taken in.

use crate::app::App;
use crate::error::ApiError;
use crate::intake;
use actix_multipart::Multipart;
use actix_web::{HttpResponse, web};
use futures_util::TryStreamExt;
use parallax_media::movie::is_movie;
use serde_json::json;
use std::path::{Path, PathBuf};
use tokio::io::AsyncWriteExt;

/// Largest file, bytes.
const MOST_FILE: u64 = 256 << 20;
/// Largest drop, bytes.
const MOST_TOTAL: u64 = 16 << 30;
/// Most files of a drop.
const MOST_FILES: usize = 5000;

/// Receives pictures and makes a shot of them. Nothing is left behind when it fails.
pub async fn receive(app: web::Data<App>, files: Multipart) -> Result<HttpResponse, ApiError> {
    let folder = new_folder(&app.config.data.join("uploads"))?;
    let taken = take(files, &folder).await;
    let shot = match taken {
        Ok(()) => {
            intake::open_path(&app, movie_in(&folder).unwrap_or_else(|| folder.clone())).await
        }
        Err(error) => Err(error),
    };
    match shot {
        Ok(shot) => Ok(HttpResponse::Created().json(json!({ "shot": shot }))),
        Err(error) => {
            if let Err(left) = std::fs::remove_dir_all(&folder) {
                tracing::warn!("an upload could not be cleared away: {left}");
            }
            Err(error)
        }
    }
}

/// A new folder for what is taken in.
pub fn new_folder(uploads: &Path) -> Result<PathBuf, ApiError> {
    for number in 1..1_000_000 {
        let folder = uploads.join(number.to_string());
        match std::fs::create_dir(&folder) {
            Ok(()) => return Ok(folder),
            Err(e) if e.kind() == std::io::ErrorKind::AlreadyExists => {}
            Err(e) => return Err(ApiError::Failed(format!("the upload cannot be kept: {e}"))),
        }
    }
    Err(ApiError::Failed("there are too many uploads".to_owned()))
}

/// The movie of a drop that is nothing but one.
fn movie_in(folder: &Path) -> Option<PathBuf> {
    let mut files = std::fs::read_dir(folder)
        .ok()?
        .filter_map(|e| Some(e.ok()?.path()));
    let first = files.next()?;
    (files.next().is_none() && is_movie(&first)).then_some(first)
}

async fn take(mut files: Multipart, folder: &Path) -> Result<(), ApiError> {
    let broken = |e: actix_multipart::MultipartError| {
        ApiError::Refused(format!("the upload broke off: {e}. Nothing was kept"))
    };
    let (mut count, mut total) = (0, 0);
    while let Some(mut field) = files.try_next().await.map_err(broken)? {
        let stated = field
            .content_disposition()
            .and_then(|d| d.get_filename())
            .map(str::to_owned);
        let Some(name) = stated.as_deref().and_then(plain_name) else {
            continue;
        };
        count += 1;
        if count > MOST_FILES {
            return Err(ApiError::TooLarge(format!(
                "more than {MOST_FILES} files were dropped at once"
            )));
        }
        let failed = |e: std::io::Error| ApiError::Failed(format!("{name} cannot be kept: {e}"));
        let mut file = tokio::fs::File::create(folder.join(&name))
            .await
            .map_err(failed)?;
        let mut size = 0;
        // A movie is a whole plate in one file.
        let most = if is_movie(Path::new(&name)) {
            MOST_TOTAL
        } else {
            MOST_FILE
        };
        while let Some(chunk) = field.try_next().await.map_err(broken)? {
            size += chunk.len() as u64;
            total += chunk.len() as u64;
            if size > most || total > MOST_TOTAL {
                return Err(ApiError::TooLarge(format!(
                    "{name} or the whole drop is too large. Nothing was kept"
                )));
            }
            file.write_all(&chunk).await.map_err(failed)?;
        }
        file.flush().await.map_err(failed)?;
    }
    Ok(())
}

/// The last part of a stated name, if it is that of a picture or a movie.
fn plain_name(stated: &str) -> Option<String> {
    let last = stated.rsplit(['/', '\\']).next()?;
    let safe = last
        .chars()
        .all(|c| c.is_alphanumeric() || "._- ()".contains(c))
        && last.len() <= 200;
    let known =
        is_movie(Path::new(last)) || parallax_media::sequence::stem_and_ending(last).is_some();
    (safe && known).then(|| last.to_owned())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::plain("a.1001.png", Some("a.1001.png"))]
    #[case::with_folder("plates/a.1001.png", Some("a.1001.png"))]
    #[case::climbing("../../a.1001.png", Some("a.1001.png"))]
    #[case::movie("walk.MOV", Some("walk.MOV"))]
    #[case::other_kind("run.sh", None)]
    #[case::nothing("", None)]
    #[case::odd_characters("a\u{0}.1.png", None)]
    fn names_are_reduced(#[case] stated: &str, #[case] expected: Option<&str>) {
        assert_eq!(plain_name(stated).as_deref(), expected);
    }
}
