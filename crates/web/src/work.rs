//! The background workers: each takes one queued job of its class after the other.
//!
//! Computation runs on a blocking thread; results are written whole, with the edit that
//! makes them current. What fails or is cancelled leaves everything as it was.

use crate::app::{App, JobProgress};
use crate::error::{ApiError, Refused};
use crate::flow::Files;
use crate::view_cache::ViewCache;
use crate::{flow, lens, photo, tracking};
use parallax_core::progress::Progress;
use parallax_core::solve::SolveError;
use parallax_core::track::TrackError;
use parallax_core::track::hand::{Ended, Leg, follow_legs};
use parallax_formats::undistorted::{self, UndistortError, Undistorting};
use parallax_matching::delivering::Proven;
use parallax_matching::following::judged;
use parallax_media::pin::Pin;
use parallax_media::{MediaError, Movie, Plate, Sequence, viewing};
use parallax_store::jobs::{Class, Job, JobKind, JobState};
use parallax_store::shots::{PlateFacts, Shot};
use rayon::prelude::*;
use std::path::Path;
use std::sync::Arc;
use std::sync::atomic::{AtomicUsize, Ordering};
use std::time::Duration;

/// How a job ended when it did not finish.
enum Stopped {
    Cancelled(String),
    Failed(String),
}

impl<E: Into<ApiError>> From<E> for Stopped {
    fn from(error: E) -> Self {
        Self::Failed(error.into().to_string())
    }
}

/// Works until the process ends: one worker for each class of work. A worker whose own code fails
/// is begun again.
pub fn begin(app: &Arc<App>) {
    for class in Class::ALL {
        let app = app.clone();
        tokio::spawn(async move {
            loop {
                if let Err(error) = tokio::spawn(run(app.clone(), class)).await {
                    tracing::error!("a worker broke off and is begun again: {error}");
                }
            }
        });
    }
}

/// Before trying again what the disk or the database refused.
const PAUSE: Duration = Duration::from_secs(1);

async fn run(app: Arc<App>, class: Class) {
    loop {
        // Before the queue is looked at, so that nothing that comes meanwhile is missed.
        let woken = app.wake.notified();
        tokio::pin!(woken);
        woken.as_mut().enable();
        if app.is_ending() {
            return std::future::pending().await;
        }
        match app.store.take_job(class).await {
            Ok(Some(job)) => perform(&app, job).await,
            Ok(None) => woken.await,
            Err(error) => {
                tracing::error!("the queue cannot be read: {error}");
                tokio::time::sleep(PAUSE).await;
            }
        }
    }
}

async fn perform(app: &Arc<App>, job: Job) {
    let progress = Arc::new(JobProgress::default());
    app.running().insert(job.id, progress.clone());
    let again = job.message.clone();
    let done = match tokio::spawn(done(app.clone(), job.clone(), progress)).await {
        Ok(done) => done,
        Err(error) => Err(ApiError::from(error).into()),
    };
    let (state, message) = match done {
        Ok(message) if again.is_empty() => (JobState::Done, message),
        Ok(message) => (JobState::Done, format!("{message} ({again})")),
        Err(Stopped::Cancelled(message)) => (JobState::Cancelled, message),
        Err(Stopped::Failed(message)) => (JobState::Failed, message),
    };
    // No job stays running without a worker: its end is kept before the next one is taken.
    loop {
        let kept = match app.is_ending() && state == JobState::Cancelled {
            true => app.store.put_back(job.id).await,
            false => app.store.end_job(job.id, state, &message).await,
        };
        match kept {
            Ok(()) => break,
            Err(error) => {
                tracing::error!("the end of job {} cannot be kept yet: {error}", job.id);
                tokio::time::sleep(PAUSE).await;
            }
        }
    }
    app.running().remove(&job.id);
    app.forget_plate(job.shot_id);
}

async fn done(app: Arc<App>, job: Job, progress: Arc<JobProgress>) -> Result<String, Stopped> {
    let app = &app;
    match job.kind {
        JobKind::Ingest => ingest(app, &job, progress).await,
        JobKind::Track => track(app, &job, progress).await,
        JobKind::Hand => hands(app, &job, progress).await,
        JobKind::Judge => judge_tracks(app, &job, progress).await,
        JobKind::Solve => solve_shot(app, &job, progress, false).await,
        JobKind::SolveAgain => solve_shot(app, &job, progress, true).await,
        JobKind::Deliver => deliver(app, &job, false).await,
        JobKind::DeliverStale => deliver(app, &job, true).await,
        JobKind::Undistort => undistort(app, &job, progress).await,
    }
}

async fn blocking<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, Stopped> + Send + 'static,
) -> Result<T, Stopped> {
    match tokio::task::spawn_blocking(work).await {
        Ok(done) => done,
        Err(error) => Err(ApiError::from(error).into()),
    }
}

async fn ingest(app: &Arc<App>, job: &Job, progress: Arc<JobProgress>) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let app = app.clone();
    if shot.plate.movie.is_some() && !Path::new(&shot.folder).is_dir() {
        let (taken, told) = (shot.clone(), progress.clone());
        let (pin, facts) = blocking(move || taken_out(&taken, &told)).await?;
        app.store.pin_plate(shot.id, &pin, &facts).await?;
    }
    let files = app.files(&shot).await?;
    blocking(move || make_views(&shot, &files, &app.views, &progress)).await
}

/// Takes a plate out of its movie; the files that it is then.
fn taken_out(shot: &Shot, progress: &JobProgress) -> Result<(Pin, PlateFacts), Stopped> {
    let to = Path::new(&shot.folder);
    if let Some(taken) = &shot.plate.movie {
        let movie = Movie::open(Path::new(&taken.path)).map_err(ApiError::from)?;
        movie.extract(to, progress).map_err(|e| match e {
            MediaError::Cancelled => {
                Stopped::Cancelled("taking the plate out of the movie was cancelled".to_owned())
            }
            other => Stopped::Failed(other.to_string()),
        })?;
    }
    let pin = Pin::of(&Sequence::find(to).map_err(ApiError::from)?).map_err(ApiError::from)?;
    Ok((pin, shot.plate.clone()))
}

fn make_views(
    shot: &Shot,
    files: &Files,
    views: &ViewCache,
    progress: &JobProgress,
) -> Result<String, Stopped> {
    std::fs::create_dir_all(views.shot(shot.id)).map_err(|source| ApiError::Disk {
        what: "viewing copies".to_owned(),
        source,
    })?;
    let done = AtomicUsize::new(0);
    let total = files.len();
    progress.report("viewing copies", 0, total);
    files.par_iter().try_for_each(|(frame, file)| {
        if progress.is_cancelled() {
            return Err(Stopped::Cancelled(
                "making viewing copies was cancelled".to_owned(),
            ));
        }
        let copy = (shot.id, frame.0);
        let to = views.path(copy);
        if !to.exists() && !views.is_full_of(shot.id) {
            viewing::make(file, &to, *frame).map_err(ApiError::from)?;
            views.used(copy);
        }
        progress.report(
            "viewing copies",
            done.fetch_add(1, Ordering::Relaxed) + 1,
            total,
        );
        Ok(())
    })?;
    let made = views.count(shot.id);
    Ok(if made < total {
        format!(
            "{made} viewing copies of {total} frames fit into the room for them; the others are made as they are looked at"
        )
    } else {
        format!("{total} viewing copies")
    })
}

async fn track(app: &Arc<App>, job: &Job, progress: Arc<JobProgress>) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let inputs = flow::following(&shot).inputs();
    let files = app.files(&shot).await?;
    let left = Arc::new(app.underway(shot.id, "track", &inputs));
    let underway = left.clone();
    let (tracks, suspects) = blocking(move || {
        let plate: Plate = flow::followable(&shot, &files)?;
        let tracks = flow::following(&shot)
            .follow(&plate, underway.as_ref(), progress.as_ref())
            .map_err(not_followed)?;
        let size = (shot.width_px, shot.height_px);
        let suspects = judged(&tracks, size, progress.as_ref()).map_err(not_followed)?;
        Ok((tracks, suspects))
    })
    .await?;
    app.store
        .keep_tracks(job.shot_id, &inputs, &tracks, &suspects)
        .await?;
    left.done();
    let aside = suspects.iter().filter(|s| s.why.sets_aside()).count();
    Ok(format!(
        "{} features followed, {aside} of them are set aside",
        tracks.len()
    ))
}

/// Judges all tracks anew: those that were taken in, and hand tracks among the others.
async fn judge_tracks(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let all = tracking::of(app, &shot).await?;
    let Some(run) = all.run.clone() else {
        return Err(ApiError::from(Refused::NoTracks).into());
    };
    let suspects = blocking(move || {
        let size = (shot.width_px, shot.height_px);
        judged(&all.all(&shot.state), size, progress.as_ref()).map_err(not_followed)
    })
    .await?;
    if suspects != run.suspects {
        app.store.judge_anew(job.shot_id, run.id, &suspects).await?;
    }
    let aside = suspects.iter().filter(|s| s.why.sets_aside()).count();
    Ok(format!(
        "{} tracks are suspect, {aside} of them are set aside",
        suspects.len()
    ))
}

fn not_followed(error: TrackError) -> Stopped {
    match error {
        TrackError::Cancelled => Stopped::Cancelled(error.to_string()),
        other => Stopped::Failed(other.to_string()),
    }
}

/// Follows those legs of hand tracks that are new.
async fn hands(app: &Arc<App>, job: &Job, progress: Arc<JobProgress>) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let inputs = flow::following(&shot).hand_inputs();
    let paths = tracking::paths(app, &shot).await?;
    let legs = tracking::missing(&shot.state.hands, &paths);
    if legs.is_empty() {
        return Ok("nothing new to follow".to_owned());
    }
    let wanted = legs.clone();
    let id = shot.id;
    let files = app.files(&shot).await?;
    let found = blocking(move || {
        let plate: Plate = flow::followable(&shot, &files)?;
        follow_legs(&plate, &wanted, progress.as_ref()).map_err(not_followed)
    })
    .await?;
    let ended = |why: Ended| found.iter().filter(|p| p.ended == why).count();
    let (lost, hidden) = (
        ended(Ended::Lost) + ended(Ended::NoDetail),
        ended(Ended::Matte),
    );
    let paths = legs.iter().map(Leg::fingerprint).zip(found).collect();
    app.store.keep_hand_paths(id, &inputs, &paths).await?;
    let mut said = if legs.len() == 1 {
        "1 leg followed".to_owned()
    } else {
        format!("{} legs followed", legs.len())
    };
    for (count, how) in [
        (lost, "ended early because the detail was lost"),
        (hidden, "ended at a matte"),
    ] {
        if count > 0 {
            said.push_str(&format!(", {count} {how}"));
        }
    }
    Ok(said)
}

async fn solve_shot(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
    again: bool,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let Some(run_id) = shot.state.run else {
        return Err(ApiError::from(Refused::NoTracks).into());
    };
    let all = tracking::of(app, &shot).await?;
    if all.waiting > 0 {
        return Err(ApiError::from(Refused::HandsWait).into());
    }
    let present = match shot.state.attempt {
        Some(id) => app
            .attempt(id)
            .await
            .map(Some)
            .or_else(|e| if again { Err(e) } else { Ok(None) })?,
        None => None,
    };
    let solving = flow::solving_beside(&shot, present.as_ref().map(|k| &k.attempt));
    let from = present.filter(|_| again);
    let (inputs, about) = (flow::solve_inputs(&shot), shot.clone());
    let of_tracks = format!("{run_id} {inputs} {}", flow::following(&shot).hand_inputs());
    let left = Arc::new(app.underway(shot.id, "solve", &of_tracks));
    let underway = left.clone();
    let attempt = blocking(move || {
        let tracks = all.solvable(&shot.state);
        let from = from.as_ref().map(|k| &k.attempt);
        let solved = solving.solve(
            tracks.candidates(),
            from,
            underway.as_ref(),
            progress.as_ref(),
        );
        solved.map_err(|e| match e {
            SolveError::Cancelled => Stopped::Cancelled(e.to_string()),
            other => Stopped::Failed(other.to_string()),
        })
    })
    .await?;
    let label = flow::attempt_label(&about, &attempt);
    app.store
        .keep_attempt(job.shot_id, run_id, &label, &inputs, &attempt)
        .await?;
    left.done();
    Ok(format!(
        "solved {} frames to {:.2} px",
        attempt.frames.len(),
        attempt.rms_px
    ))
}

/// Delivers; a stale solve only where that was asked for, and marked as stale.
async fn deliver(app: &Arc<App>, job: &Job, stale_too: bool) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    if photo::is_photograph(&shot) {
        let inputs = photo::delivery_inputs(&shot);
        let proven = blocking(move || Ok(photo::deliver(&shot)?)).await?;
        return keep_delivery(app, job, &inputs, &proven).await;
    }
    let Some(id) = shot.state.attempt else {
        return Err(ApiError::from(Refused::NoCamera).into());
    };
    let kept = app.attempt(id).await?;
    let all = tracking::of(app, &shot).await?;
    let inputs = flow::delivery_inputs(&shot);
    let stale = flow::stale_since(&shot, &kept, &all);
    if !(stale.is_empty() || stale_too) {
        return Err(ApiError::from(Refused::Stale { reasons: stale }).into());
    }
    let tracks = all.all(&shot.state);
    let proven = blocking(move || Ok(flow::deliver(&shot, &kept.attempt, &tracks, stale)?)).await?;
    keep_delivery(app, job, &inputs, &proven).await
}

async fn undistort(
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
    let (frame, file) = (lens::frame(&shot, attempt)?, lens::file(&shot, attempt)?);
    let inputs = lens::undistorted_inputs(&shot, attempt);
    // One folder for the same inputs: what was broken off goes on where it stood.
    let folder = app.undistorted(shot.id, &inputs);
    let (to, kind) = (folder.clone(), shot.state.written);
    let files = app.files(&shot).await?;
    let (written, receipt) = blocking(move || {
        let sequence = Sequence::of_files(Path::new(&shot.folder), files.to_vec());
        let plate = flow::plate(&shot, &files)?;
        let renumbered_by = flow::renumbered_by(&shot);
        let (sequence, plate, frame, lens) = (&sequence, &plate, &frame, &file);
        let what = Undistorting {
            sequence,
            plate,
            frame,
            lens,
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
    blocking(move || {
        clearing.clear_undistorted(shot_id);
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
    Ok(format!("{} frames {word}{kept}", receipt.frames))
}

async fn keep_delivery(
    app: &Arc<App>,
    job: &Job,
    inputs: &str,
    proven: &Proven,
) -> Result<String, Stopped> {
    let receipt = &proven.receipt;
    let text = serde_json::to_string(receipt)?;
    let package = proven.package().map_err(ApiError::from)?;
    app.store
        .keep_delivery(job.shot_id, inputs, &text, &package)
        .await?;
    let word = match (receipt.stale.is_empty(), receipt.files_agree) {
        (true, true) => "delivered; the files agree with the solve",
        (true, false) => "delivered, but the files do not agree with the solve",
        (false, _) => "delivered as stale",
    };
    Ok(format!(
        "{word} ({:.5} px at most)",
        receipt.largest_difference_px
    ))
}
