//! Solving.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::said::words::several;
use crate::shot::{facts, solving, tracks};
use parallax_core::solve::SolveError;
use parallax_store::jobs::Job;
use std::sync::Arc;

pub async fn solve_shot(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
    again: bool,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let Some(run_id) = shot.state.run else {
        return Err(ApiError::from(Refused::NoTracks).into());
    };
    let all = tracks::of(app, &shot).await?;
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
    let solving = solving::solving_beside(&shot, present.as_ref().map(|k| &k.attempt));
    let from = present.filter(|_| again);
    let (inputs, about) = (solving::solve_inputs(&shot), shot.clone());
    let of_tracks = format!(
        "{run_id} {inputs} {}",
        facts::following(&shot).hand_inputs()
    );
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
    let label = solving::attempt_label(&about, &attempt);
    app.store
        .keep_attempt(job.shot_id, run_id, &label, &inputs, &attempt)
        .await?;
    left.done();
    Ok(format!(
        "solved {} to {:.2} px",
        several(attempt.frames.len(), "frame", "frames"),
        attempt.rms_px
    ))
}
