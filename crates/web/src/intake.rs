//! Taking in a plate: from a folder below the allowed one, from dropped files, or the demo.

use crate::app::App;
use crate::error::{Absent, ApiError, Forbidden, Refused, TooLarge};
use parallax_media::movie::is_movie;
use parallax_media::picture::Coding;
use parallax_media::pin::Pin;
use parallax_media::{Movie, Plate, Sequence, exif, picture, stated_rate};
use parallax_store::ShotState;
use parallax_store::jobs::JobKind;
use parallax_store::shots::{PlateFacts, Shot, TakenMovie};
use std::path::{Component, Path, PathBuf};

/// What a folder holds, how its values are coded, and what its files say of camera and rate.
struct Looked {
    facts: PlateFacts,
    pin: Pin,
    size: (u32, u32),
    prefix: String,
}

/// Looks at the longest sequence of a folder, or at the files that a plate is pinned to. Files
/// that are links have to lead to somewhere below `within`, where that is given.
fn looked(folder: &Path, within: Option<&Path>) -> Result<Looked, ApiError> {
    let sequence = Sequence::find(folder)?;
    if let Some(root) = within {
        let leads_out = |path: &PathBuf| !path.canonicalize().is_ok_and(|p| p.starts_with(root));
        if sequence.files.iter().any(|(_, path)| leads_out(path)) {
            return Err(Forbidden::Outside.into());
        }
    }
    let plate = Plate::open(&sequence)?;
    let stated = match &sequence.files[..] {
        [(_, photograph)] => Some(exif::stated(photograph)),
        _ => None,
    };
    let (first, last) = sequence.range();
    let facts = PlateFacts {
        pattern: match &sequence.files[..] {
            [(_, photograph)] => file_name(photograph),
            _ => sequence.pattern(),
        },
        padding: sequence.padding,
        first: first.0,
        last: last.0,
        count: sequence.files.len(),
        gaps: sequence.gaps(),
        others: sequence.others.clone(),
        stated,
        coding: Some(picture::coding(&sequence.files[0].1)?),
        rate: stated_rate::of_sequence(&sequence),
        movie: None,
        pinned: None,
    };
    Ok(Looked {
        facts,
        pin: Pin::of(&sequence)?,
        size: (plate.width_px, plate.height_px),
        prefix: sequence.prefix,
    })
}

/// Makes a shot of the longest sequence in a folder and begins its viewing copies. `left` are
/// files of a drop that were not taken.
pub async fn open_folder(
    app: &App,
    folder: PathBuf,
    name: Option<String>,
    left: Vec<String>,
) -> Result<i64, ApiError> {
    let (within, at) = (app.allowed_root(&folder), folder.clone());
    let found = tokio::task::spawn_blocking(move || looked(&at, within.as_deref()));
    let Looked {
        mut facts,
        pin,
        size,
        prefix,
    } = found.await??;
    facts.others.extend(left.into_iter().map(|name| (name, 1)));
    let name = name.unwrap_or_else(|| shot_name(&prefix, &folder));
    let state = ShotState {
        rate: facts.rate,
        ..ShotState::new(size.0, size.1)
    };
    let folder = folder.display().to_string();
    let shot = app
        .store
        .add_shot(&name, &folder, &facts, size, &state)
        .await?;
    app.store.pin_plate(shot, &pin, &facts).await?;
    app.store.add_job(shot, JobKind::Ingest).await?;
    app.wake.notify_waiters();
    Ok(shot)
}

/// Pins a shot's plate to the files that lie in its folder now. Pictures of another size are
/// refused: all that was laid on the plate would lie elsewhere.
pub async fn take_as_it_is(app: &App, shot: &Shot) -> Result<(), ApiError> {
    let folder = PathBuf::from(&shot.folder);
    let within = app.allowed_root(&folder);
    let found = tokio::task::spawn_blocking(move || looked(&folder, within.as_deref()));
    let Looked {
        facts, pin, size, ..
    } = found.await??;
    if size != (shot.width_px, shot.height_px) {
        let (lens, plate) = ((shot.width_px, shot.height_px), size);
        return Err(Refused::OtherSize {
            was: lens,
            is: plate,
        }
        .into());
    }
    let facts = PlateFacts {
        movie: shot.plate.movie.clone(),
        ..facts
    };
    app.store.pin_plate(shot.id, &pin, &facts).await?;
    app.forget_plate(shot.id);
    app.views.forget(shot.id);
    app.store.add_job_after(shot.id, JobKind::Ingest).await?;
    app.wake.notify_waiters();
    Ok(())
}

/// Makes a shot of a movie; its plate is taken out in the background, to a folder in `uploads`.
pub async fn open_movie(app: &App, path: PathBuf) -> Result<i64, ApiError> {
    let looked = tokio::task::spawn_blocking(move || Movie::open(&path));
    let movie = looked.await??;
    let folder = new_folder(&app.config.data.join("uploads"))?.join("plate");
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
        pinned: None,
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
    app.wake.notify_waiters();
    Ok(shot)
}

/// Makes a shot of what lies at a path: a folder of pictures or a movie. `left` are files of a
/// drop that were not taken.
pub async fn open_path(app: &App, path: PathBuf, left: Vec<String>) -> Result<i64, ApiError> {
    if path.is_dir() {
        open_folder(app, path, None, left).await
    } else {
        open_movie(app, path).await
    }
}

fn file_name(path: &Path) -> String {
    let name = path.file_name().unwrap_or(path.as_os_str());
    name.to_string_lossy().into_owned()
}

fn shot_name(prefix: &str, folder: &Path) -> String {
    let stem = prefix.trim_end_matches(['.', '_', '-', ' ']);
    let of_folder = || {
        let name = folder.file_name().map(|n| n.to_string_lossy().into_owned());
        name.unwrap_or_else(|| "shot".to_owned())
    };
    if stem.is_empty() {
        of_folder()
    } else {
        stem.to_owned()
    }
}

/// The folder or movie at a relative path below the allowed one; anything that leads outside is refused.
pub fn below(allowed: Option<&Path>, relative: &str) -> Result<PathBuf, ApiError> {
    let Some(allowed) = allowed else {
        return Err(Forbidden::NoPlates.into());
    };
    let relative = Path::new(relative);
    let outside = || ApiError::from(Forbidden::Outside);
    if relative
        .components()
        .any(|c| !matches!(c, Component::Normal(_) | Component::CurDir))
    {
        return Err(outside());
    }
    let missing = |_| Absent::Folder(relative.to_owned());
    let root = allowed.canonicalize().map_err(missing)?;
    let folder = root.join(relative).canonicalize().map_err(missing)?;
    // A symbolic link may lead outside although the path does not.
    let fits = folder.is_dir() || (folder.is_file() && is_movie(&folder));
    if folder.starts_with(&root) && fits {
        Ok(folder)
    } else {
        Err(outside())
    }
}

/// Opens the demo folders as shots when there are no shots yet, with the facts they were made with.
pub async fn open_demo(app: &App) -> Result<(), ApiError> {
    for (name, mesh) in &app.config.models {
        crate::shot::guests::keep_model(app, name, mesh.clone()).await?;
    }
    if !app.store.shots(false).await?.is_empty() {
        return Ok(());
    }
    for lens in &app.config.lenses {
        if let Some(label) = &lens.label {
            let text = serde_json::to_string(lens)?;
            app.store.keep_lens(label, &text).await?;
        }
    }
    for (name, folder) in &app.config.demo {
        let shot = open_folder(app, folder.clone(), Some(name.clone()), Vec::new()).await?;
        let photograph = crate::shot::facts::is_photograph(&app.store.shot(shot).await?);
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

/// A new folder for what is taken in.
pub fn new_folder(uploads: &Path) -> Result<PathBuf, ApiError> {
    for number in 1..1_000_000 {
        let folder = uploads.join(number.to_string());
        match std::fs::create_dir(&folder) {
            Ok(()) => return Ok(folder),
            Err(e) if e.kind() == std::io::ErrorKind::AlreadyExists => {}
            Err(source) => {
                let what = "the upload".to_owned();
                return Err(ApiError::Disk { what, source });
            }
        }
    }
    Err(TooLarge::Uploads.into())
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
