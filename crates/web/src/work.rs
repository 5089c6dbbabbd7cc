//! The background workers: each takes one queued job of its class after the other.
//!
//! Computation runs on a blocking thread; results are written whole, with the edit that
//! makes them current. What fails or is cancelled leaves everything as it was.

use crate::app::App;
use crate::error::ApiError;
use crate::jobs::{JobProgress, Stopped};
use crate::screens::deliver::work::{deliver, undistort};
use crate::screens::plate::work::ingest;
use crate::screens::proof::work::movie;
use crate::screens::solve::work::solve_shot;
use crate::screens::track::work::{hands, judge_tracks, track};
use parallax_store::jobs::{Class, Job, JobKind, JobState};
use std::sync::Arc;
use std::time::Duration;

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
    // What waits for it may be of the other class.
    app.wake.notify_waiters();
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
        JobKind::Deliver => deliver(app, &job, progress, false).await,
        JobKind::DeliverStale => deliver(app, &job, progress, true).await,
        JobKind::Undistort => undistort(app, &job, progress).await,
        JobKind::Movie => movie(app, &job, progress).await,
    }
}
