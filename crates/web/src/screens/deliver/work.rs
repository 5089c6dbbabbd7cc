//! Delivering, and undistorting plates.

use super::package::{Made, Scene, body_inputs};
use super::plate::{self, Plate};
use super::{folder, recipes};
use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::said::words::several;
use crate::screens::{deliver, photo};
use crate::shot::world::orientation;
use crate::shot::{facts, guests, lens, solving, tracks};
use parallax_core::progress::Progress;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::FrameSource;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::delivery::Recipe;
use parallax_formats::undistorted;
use parallax_formats::undistorted::{UndistortError, Undistorting};
use parallax_matching::changes::Changes;
use parallax_matching::delivering::{By, now};
use parallax_matching::folders;
use parallax_media::Sequence;
use parallax_store::deliveries::NewDelivery;
use parallax_store::jobs::Job;
use parallax_store::shots::Shot;
use parallax_store::things::Thing;
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// Delivers by the recipe that the job is about, or by the first; a stale solve only where that was asked for, and
/// marked as stale.
pub async fn deliver(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
    stale_too: bool,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let all = &shot.state.recipes;
    let asked = u32::try_from(job.about).unwrap_or(0);
    let recipe = all.iter().find(|r| asked == 0 || r.id == asked).cloned();
    let recipe = recipe.ok_or(ApiError::from(Refused::NoRecipe))?;
    let version = app.store.last_version(shot.id, recipe.id).await? + 1;
    let to = match recipe.folder.is_empty() {
        true => None,
        false => Some(folder::made(app.config.plates.as_deref(), &recipe.folder)?),
    };
    let attempt = match shot.state.attempt {
        Some(id) => Some(app.attempt(id).await?),
        None => None,
    };
    let attempt = attempt.as_ref().map(|a| &a.attempt);
    let plate = plate::at_hand(app, &shot, attempt, &recipe).await?;
    let pictures = app.files(&shot).await?.iter().cloned().collect();
    let making = Making {
        version,
        date: now(),
        to,
        pictures,
        recipe,
        plate,
    };
    let inputs = recipes::inputs(&shot, &making.recipe.it);
    let (made, making) = match facts::is_photograph(&shot) {
        true => {
            let shot = shot.clone();
            blocking(move || {
                let made = photo::package::deliver(&shot, &making.by())?;
                Ok((made, making))
            })
            .await?
        }
        false => of_footage(app, &shot, making, (stale_too, progress.clone())).await?,
    };
    if progress.is_cancelled() {
        let said = "cancelled before anything was kept or written";
        return Err(Stopped::Cancelled(said.to_owned()));
    }
    keep_delivery(app, &shot, (made, making), &inputs).await
}

/// What a delivery is made with.
struct Making {
    recipe: Thing<Recipe>,
    version: i64,
    date: String,
    to: Option<PathBuf>,
    pictures: BTreeMap<FrameNumber, PathBuf>,
    plate: Option<Plate>,
}

impl Making {
    fn by(&self) -> By<'_> {
        By {
            recipe: &self.recipe.it,
            version: u32::try_from(self.version).unwrap_or(u32::MAX),
            date: self.date.clone(),
            pictures: &self.pictures,
            within: self.to.as_deref(),
            undistorted: self.plate.clone().map(|p| p.map(|(_, proof)| proof)),
        }
    }

    /// The folder of the undistorted plate that goes along.
    fn plate(&self) -> Option<&Path> {
        let plate = self.plate.as_ref()?.as_ref().ok()?;
        Some(&plate.0)
    }
}

async fn of_footage(
    app: &Arc<App>,
    shot: &Shot,
    making: Making,
    (stale_too, progress): (bool, Arc<JobProgress>),
) -> Result<(Made, Making), Stopped> {
    let Some(id) = shot.state.attempt else {
        return Err(ApiError::from(Refused::NoCamera).into());
    };
    let kept = app.attempt(id).await?;
    let all = tracks::of(app, shot).await?;
    let stale = solving::stale_since(shot, &kept, &all);
    if !(stale.is_empty() || stale_too) {
        return Err(ApiError::from(Refused::Stale { reasons: stale }).into());
    }
    let tracks = all.all(&shot.state);
    let orientation = orientation(app, shot, &kept).await?;
    let guests = match making.recipe.guests {
        true => guests::delivered(app, shot, &kept, &orientation).await?,
        false => Vec::new(),
    };
    // Each recipe asks for the same bodies, which are a solve each.
    let key = (kept.id, body_inputs(shot, &all.fingerprint(shot)));
    let bodies = app.moving.get(key.clone()).map(|known| (*known).clone());
    let (shot, watched) = (shot.clone(), progress.clone());
    let (made, making) = blocking(move || {
        let scene = Scene {
            attempt: &kept.attempt,
            tracks: &tracks,
            guests,
            stale,
            progress: watched.as_ref(),
            bodies,
        };
        let made = deliver::package::deliver(&shot, scene, &making.by())?;
        Ok((made, making))
    })
    .await?;
    if let Some(solved) = made.bodies.clone().filter(|_| !progress.is_cancelled()) {
        app.moving.put(key, Arc::new(solved));
    }
    Ok((made, making))
}

pub async fn undistort(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let attempt = match shot.state.attempt {
        Some(id) => Some(app.attempt(id).await?),
        None => None,
    };
    let attempt = attempt.as_ref().map(|a| &a.attempt);
    let lens = lens::of_plate(&shot, attempt).ok_or(ApiError::from(Refused::NoLens))?;
    let file = match lens.along.is_empty() {
        true => lens::file(&shot, attempt)?,
        false => lens.file(facts::renumbered_by(&shot)),
    };
    let inputs = lens::undistorted_inputs(&shot, attempt);
    // One folder for the same inputs: what was broken off goes on where it stood.
    let folder = app.undistorted(shot.id, &inputs);
    let (to, kind) = (folder.clone(), shot.state.written);
    let files = app.files(&shot).await?;
    let (written, receipt) = blocking(move || {
        let sequence = Sequence::of_files(Path::new(&shot.folder), files.to_vec());
        let plate = facts::plate(&shot, &files)?;
        let renumbered_by = facts::renumbered_by(&shot);
        let frames = lens.frames(plate.frames(), shot.state.lens.keep);
        let what = Undistorting {
            sequence: &sequence,
            plate: &plate,
            frames: &frames.map_err(|e| ApiError::from(Refused::Frame(e)))?,
            lens: &file,
            kind,
            rate: shot.state.rate,
            renumbered_by,
        };
        undistorted::deliver(&what, &to, progress.as_ref()).map_err(|e| match e {
            UndistortError::Cancelled { .. } => Stopped::Cancelled(e.to_string()),
            other => Stopped::Failed(other.to_string()),
        })
    })
    .await?;
    let text = serde_json::to_string(&receipt)?;
    app.store
        .keep_undistortion(job.shot_id, &inputs, &folder.display().to_string(), &text)
        .await?;
    let (clearing, shot_id) = (Arc::clone(app), job.shot_id);
    let delivered = app.store.delivered_plates(job.shot_id).await?;
    blocking(move || {
        clearing.clear_undistorted(shot_id, &delivered);
        Ok(())
    })
    .await?;
    let word = if receipt.proven {
        "undistorted and proven"
    } else {
        "undistorted, but not proven"
    };
    let again = receipt.frames - written;
    let kept = if again > 0 {
        format!(", {again} of them were there already")
    } else {
        String::new()
    };
    let frames = several(receipt.frames, "frame", "frames");
    Ok(format!("{frames} {word}{kept}"))
}

async fn keep_delivery(
    app: &Arc<App>,
    shot: &Shot,
    (made, making): (Made, Making),
    inputs: &str,
) -> Result<String, Stopped> {
    let recipe = making.recipe.id;
    let changed = match shot.state.delivered.get(&recipe) {
        Some(last) => changed(app, *last, &made).await?,
        None => String::new(),
    };
    let (made, making, package, written) = blocking(move || {
        let package = made.proven.package().map_err(ApiError::from)?;
        let written = written(&making, &made)?;
        Ok((made, making, package, written))
    })
    .await?;
    let receipt = &made.proven.receipt;
    let text = serde_json::to_string(receipt)?;
    let new = NewDelivery {
        plate_by: made.plate_by,
        recipe,
        version: making.version,
        name: &made.proven.name,
        inputs,
        receipt: &text,
        package: &package,
        camera: &made.camera,
        changed: &changed,
        folder: &written,
        made: &making.date,
        plate: &making
            .plate()
            .map_or_else(String::new, |p| p.display().to_string()),
    };
    app.store.keep_delivery(shot.id, &new).await?;
    let word = match (receipt.stale.is_empty(), receipt.files_agree) {
        (true, true) => "delivered; the files agree with the solve",
        (true, false) => "delivered, but the files do not agree with the solve",
        (false, _) => "delivered as stale",
    };
    let off = receipt.largest_difference_px;
    let against = match changed.is_empty() {
        true => String::new(),
        false => format!("; {changed}"),
    };
    Ok(format!(
        "{} {word} ({off:.5} px at most){against}",
        making.recipe.name
    ))
}

/// Writes the files into a folder of their own where the recipe names one; its path.
fn written(making: &Making, made: &Made) -> Result<String, Stopped> {
    let Some(within) = &making.to else {
        return Ok(String::new());
    };
    let to = folders::free(within, &made.proven.name);
    let failed = |e| {
        let to = to.display();
        Stopped::Failed(format!(
            "{to} cannot be written: {e}. Nothing was delivered"
        ))
    };
    let plate = making.plate().map(|folder| (folder, made.plate_by));
    folders::write(&to, &made.proven.files, plate).map_err(failed)?;
    Ok(to.display().to_string())
}

/// What changes against an earlier delivery, as a sentence.
async fn changed(app: &App, last: i64, made: &Made) -> Result<String, Stopped> {
    let (before, version) = match app.store.delivery(last).await {
        Ok(kept) => (app.store.delivered_camera(last).await?, kept.version),
        Err(_) => return Ok(String::new()),
    };
    let (old, new) = (CameraFile::read(&before), CameraFile::read(&made.camera));
    Ok(match (old, new) {
        (Ok(old), Ok(new)) => {
            let changes = Changes::between(&old, &new).renumbered(made.renumbered_by);
            format!("against version {version}: {changes}")
        }
        _ => String::new(),
    })
}
