//! Taking in a plate: from a folder below the allowed one, from dropped files, or the demo.

use crate::App;
use crate::api::upload;
use crate::error::ApiError;
use parallax_core::photo::stated::Stated;
use parallax_core::plate::FrameRate;
use parallax_media::movie::is_movie;
use parallax_media::picture::{self, Coding};
use parallax_media::{Movie, Plate, Sequence, exif, stated_rate};
use parallax_store::ShotState;
use parallax_store::jobs::JobKind;
use parallax_store::shots::{PlateFacts, Shot, TakenMovie};
use std::collections::HashSet;
use std::path::{Component, Path, PathBuf};

/// The numbers of all frames of a shot.
pub fn numbers(shot: &Shot) -> Result<HashSet<i32>, ApiError> {
    let sequence = Sequence::find(Path::new(&shot.folder))?;
    Ok(sequence.files.iter().map(|(f, _)| f.0).collect())
}

/// What a folder holds, how its values are coded, and what its files say of camera and rate.
type Looked = (Sequence, Plate, Coding, Option<Stated>, Option<FrameRate>);

/// Makes a shot of the longest sequence in a folder and begins its viewing copies.
pub async fn open_folder(
    app: &App,
    folder: PathBuf,
    name: Option<String>,
) -> Result<i64, ApiError> {
    let found = tokio::task::spawn_blocking({
        let folder = folder.clone();
        move || -> Result<Looked, ApiError> {
            let sequence = Sequence::find(&folder)?;
            let plate = Plate::open(&sequence)?;
            let stated = match &sequence.files[..] {
                [(_, photograph)] => Some(exif::stated(photograph)),
                _ => None,
            };
            let coding = picture::coding(&sequence.files[0].1)?;
            let rate = stated_rate::of_sequence(&sequence);
            Ok((sequence, plate, coding, stated, rate))
        }
    });
    let (sequence, plate, coding, stated, rate) =
        found.await.map_err(|e| ApiError::Failed(e.to_string()))??;
    let (first, last) = sequence.range();
    let facts = PlateFacts {
        pattern: sequence.pattern(),
        padding: sequence.padding,
        first: first.0,
        last: last.0,
        count: sequence.files.len(),
        gaps: sequence.gaps(),
        others: sequence.others.clone(),
        stated,
        coding: Some(coding),
        rate,
        movie: None,
    };
    let name = name.unwrap_or_else(|| shot_name(&sequence));
    let state = ShotState {
        rate,
        ..ShotState::new(plate.width_px, plate.height_px)
    };
    let size = (plate.width_px, plate.height_px);
    let shot = app
        .store
        .add_shot(&name, &folder.display().to_string(), &facts, size, &state)
        .await?;
    app.store.add_job(shot, JobKind::Ingest).await?;
    app.wake.notify_one();
    Ok(shot)
}

/// Makes a shot of a movie; its plate is taken out in the background, to a folder in `uploads`.
pub async fn open_movie(app: &App, path: PathBuf) -> Result<i64, ApiError> {
    let looked = tokio::task::spawn_blocking(move || Movie::open(&path));
    let movie = looked
        .await
        .map_err(|e| ApiError::Failed(e.to_string()))??;
    let folder = upload::new_folder(&app.config.data.join("uploads"))?.join("plate");
    let count = movie.facts.count;
    let facts = PlateFacts {
        pattern: format!("{} as ######.png", movie.facts.file),
        padding: 6,
        first: 1,
        last: i32::try_from(count).unwrap_or(i32::MAX),
        count,
        gaps: Vec::new(),
        others: Vec::new(),
        stated: None,
        coding: Some(Coding {
            bits: if movie.facts.bits > 8 { 16 } else { 8 },
            is_float: false,
            has_alpha: false,
        }),
        rate: None,
        movie: Some(TakenMovie {
            path: movie.path.display().to_string(),
            facts: movie.facts.clone(),
        }),
    };
    let size = (movie.facts.width, movie.facts.height);
    let state = ShotState {
        rate: Some(movie.facts.rate),
        ..ShotState::new(size.0, size.1)
    };
    let name = movie
        .path
        .file_stem()
        .map_or_else(|| "movie".to_owned(), |n| n.to_string_lossy().into_owned());
    let shot = app
        .store
        .add_shot(&name, &folder.display().to_string(), &facts, size, &state)
        .await?;
    app.store.add_job(shot, JobKind::Ingest).await?;
    app.wake.notify_one();
    Ok(shot)
}

/// Makes a shot of what lies at a path: a folder of pictures or a movie.
pub async fn open_path(app: &App, path: PathBuf) -> Result<i64, ApiError> {
    if path.is_dir() {
        open_folder(app, path, None).await
    } else {
        open_movie(app, path).await
    }
}

fn shot_name(sequence: &Sequence) -> String {
    let stem = sequence.prefix.trim_end_matches(['.', '_', '-', ' ']);
    let folder = || {
        sequence
            .folder
            .file_name()
            .map_or_else(|| "shot".to_owned(), |n| n.to_string_lossy().into_owned())
    };
    if stem.is_empty() {
        folder()
    } else {
        stem.to_owned()
    }
}

/// The folder or movie at a relative path below the allowed one; anything that leads outside is refused.
pub fn below(allowed: Option<&Path>, relative: &str) -> Result<PathBuf, ApiError> {
    let Some(allowed) = allowed else {
        return Err(ApiError::Forbidden(
            "the application was started without --plates, so no folder can be picked; drop the files instead"
                .to_owned(),
        ));
    };
    let relative = Path::new(relative);
    let outside = || {
        ApiError::Forbidden(
            "that folder is outside the one that was allowed with --plates".to_owned(),
        )
    };
    if relative
        .components()
        .any(|c| !matches!(c, Component::Normal(_) | Component::CurDir))
    {
        return Err(outside());
    }
    let missing = |_| ApiError::NotFound(format!("there is no folder {}", relative.display()));
    let root = allowed.canonicalize().map_err(missing)?;
    let folder = root.join(relative).canonicalize().map_err(missing)?;
    // A symbolic link may lead outside although the path does not.
    let fits = folder.is_dir() || is_movie(&folder);
    if folder.starts_with(&root) && fits {
        Ok(folder)
    } else {
        Err(outside())
    }
}

/// Opens the demo folders as shots when there are no shots yet, with the facts they were made with.
pub async fn open_demo(app: &App) -> Result<(), ApiError> {
    if !app.store.shots().await?.is_empty() {
        return Ok(());
    }
    for lens in &app.config.lenses {
        if let Some(label) = &lens.label {
            let text = serde_json::to_string(lens).map_err(|e| ApiError::Failed(e.to_string()))?;
            app.store.keep_lens(label, &text).await?;
        }
    }
    for (name, folder) in &app.config.demo {
        let shot = open_folder(app, folder.clone(), Some(name.clone())).await?;
        let photograph = crate::photo::is_photograph(&app.store.shot(shot).await?);
        let facts = if photograph {
            serde_json::json!({ "film_back": { "width_mm": 36.0, "height_mm": 24.0 } })
        } else {
            serde_json::json!({ "rate": "24000/1001", "film_back": { "width_mm": 36.0, "height_mm": 20.25 } })
        };
        app.store
            .edit(shot, "state the plate's facts", |s| s.patched(&facts))
            .await?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::inside("a", true)]
    #[case::itself(".", true)]
    #[case::above("..", false)]
    #[case::around("a/../..", false)]
    #[case::absolute("/etc", false)]
    #[case::by_link("link", false)]
    #[case::missing("b", false)]
    fn only_folders_below_are_opened(#[case] path: &str, #[case] allowed: bool) {
        let root = tempfile::tempdir().unwrap();
        std::fs::create_dir(root.path().join("a")).unwrap();
        std::os::unix::fs::symlink("/etc", root.path().join("link")).unwrap();
        assert_eq!(below(Some(root.path()), path).is_ok(), allowed);
    }
}
