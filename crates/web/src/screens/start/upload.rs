//! Dropped files: written one by one into a folder of their own, bounded, then taken in.

use crate::app::App;
use crate::error::{ApiError, Refused, TooLarge};
use crate::intake;
use crate::intake::new_folder;
use actix_multipart::Multipart;
use actix_web::{HttpResponse, web};
use futures_util::TryStreamExt;
use parallax_media::movie::is_movie;
use parallax_media::sequence;
use serde_json::json;
use std::collections::HashMap;
use std::path::{Path, PathBuf};
use tokio::io::AsyncWriteExt;

/// Largest file, bytes.
const MOST_FILE: u64 = 256 << 20;

/// Largest drop, bytes.
const MOST_TOTAL: u64 = 16 << 30;

/// Most files of a drop.
const MOST_FILES: usize = 5000;

/// Receives pictures and makes a shot of them. Nothing is left behind when it fails; files that
/// are neither pictures nor movies are named.
pub async fn receive(app: web::Data<App>, files: Multipart) -> Result<HttpResponse, ApiError> {
    let folder = new_folder(&app.config.data.join("uploads"))?;
    let shot = match take(files, &folder).await {
        Ok(left) => {
            let path = movie_in(&folder).unwrap_or_else(|| folder.clone());
            intake::open_path(&app, path, left.clone())
                .await
                .map(|shot| (shot, left))
        }
        Err(error) => Err(error),
    };
    match shot {
        Ok((shot, left)) => Ok(HttpResponse::Created().json(json!({ "shot": shot, "left": left }))),
        Err(error) => {
            if let Err(left) = std::fs::remove_dir_all(&folder) {
                tracing::warn!("an upload could not be cleared away: {left}");
            }
            Err(error.of_drop(&folder))
        }
    }
}

/// The movie of a drop that is nothing but one.
fn movie_in(folder: &Path) -> Option<PathBuf> {
    let mut files = std::fs::read_dir(folder)
        .ok()?
        .filter_map(|e| Some(e.ok()?.path()));
    let first = files.next()?;
    (files.next().is_none() && is_movie(&first)).then_some(first)
}

/// Writes the files of a drop; the names of those that are left out.
async fn take(mut files: Multipart, folder: &Path) -> Result<Vec<String>, ApiError> {
    let broken = |e: actix_multipart::MultipartError| Refused::BrokenUpload(e.to_string());
    let (mut count, mut total) = (0, 0);
    let mut frames: HashMap<(String, String, Option<u32>), String> = HashMap::new();
    let mut left = Vec::new();
    while let Some(mut field) = files.try_next().await.map_err(broken)? {
        let stated = field
            .content_disposition()
            .and_then(|d| d.get_filename())
            .map(str::to_owned);
        let Some(stated) = stated else { continue };
        count += 1;
        if count > MOST_FILES {
            return Err(TooLarge::Files { most: MOST_FILES }.into());
        }
        let Some(name) = plain_name(&stated) else {
            left.push(
                stated
                    .chars()
                    .filter(|c| !c.is_control())
                    .take(200)
                    .collect(),
            );
            while field.try_next().await.map_err(broken)?.is_some() {}
            continue;
        };
        if let Some(first) = frames.insert(frame_of(&name), name.clone()) {
            return Err(Refused::SameFrame {
                first,
                second: name,
            }
            .into());
        }
        let failed = |source| ApiError::Disk {
            what: name.clone(),
            source,
        };
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
                return Err(TooLarge::Drop { name }.into());
            }
            file.write_all(&chunk).await.map_err(failed)?;
        }
        file.flush().await.map_err(failed)?;
    }
    match left.first() {
        // Nothing but what cannot be taken in.
        Some(name) if frames.is_empty() => Err(Refused::OtherKind {
            name: String::clone(name),
        }
        .into()),
        _ => Ok(left),
    }
}

/// What two files of one frame have in common: words, ending and number.
fn frame_of(name: &str) -> (String, String, Option<u32>) {
    match sequence::parts(name) {
        Some((words, digits, ending)) => (words, ending, digits.parse().ok()),
        None => (name.to_owned(), String::new(), None),
    }
}

/// The last part of a stated name, if it is that of a picture or a movie and can be a file's.
fn plain_name(stated: &str) -> Option<String> {
    let last = stated.rsplit(['/', '\\']).next()?;
    let safe = !last.starts_with('.') && !last.chars().any(char::is_control) && last.len() <= 200;
    let known = is_movie(Path::new(last)) || sequence::stem_and_ending(last).is_some();
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
    #[case::signs_of_every_day(
        "walk+take '2' [a], #3.1001.png",
        Some("walk+take '2' [a], #3.1001.png")
    )]
    #[case::hidden(".a.1001.png", None)]
    #[case::other_kind("run.sh", None)]
    #[case::nothing("", None)]
    #[case::odd_characters("a\u{0}.1.png", None)]
    fn names_are_reduced(#[case] stated: &str, #[case] expected: Option<&str>) {
        assert_eq!(plain_name(stated).as_deref(), expected);
    }

    #[rstest]
    #[case::padding("x.1.png", "x.0001.png", true)]
    #[case::the_same("x.png", "x.png", true)]
    #[case::other_ending("x.1.png", "x.1.jpg", false)]
    #[case::other_words("x.1.png", "y.1.png", false)]
    #[case::photographs("door.png", "wall.png", false)]
    fn two_files_of_one_frame_are_found(#[case] a: &str, #[case] b: &str, #[case] same: bool) {
        assert_eq!(frame_of(a) == frame_of(b), same);
    }
}
