//! Following features and hand tracks, judging tracks.

use crate::app::App;
use crate::error::{ApiError, Refused};
use crate::jobs::{JobProgress, Stopped, blocking};
use crate::said::words::several;
use crate::shot::{facts, tracks};
use parallax_core::track::TrackError;
use parallax_core::track::hand::{Ended, Leg, follow_legs};
use parallax_matching::following::judged;
use parallax_media::Plate;
use parallax_store::jobs::Job;
use std::sync::Arc;

pub async fn track(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let inputs = facts::following(&shot).inputs();
    let files = app.files(&shot).await?;
    let left = Arc::new(app.underway(shot.id, "track", &inputs));
    let underway = left.clone();
    let (tracks, suspects) = blocking(move || {
        let plate: Plate = facts::followable(&shot, &files)?;
        let tracks = facts::following(&shot)
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
    let followed = several(tracks.len(), "feature", "features");
    Ok(format!("{followed} followed, {aside} of them set aside"))
}

/// Judges all tracks anew: those that were taken in, and hand tracks among the others.
pub async fn judge_tracks(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let all = tracks::of(app, &shot).await?;
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
    let suspect = several(suspects.len(), "suspect track", "suspect tracks");
    Ok(format!("{suspect}, {aside} of them set aside"))
}

fn not_followed(error: TrackError) -> Stopped {
    match error {
        TrackError::Cancelled => Stopped::Cancelled(error.to_string()),
        other => Stopped::Failed(other.to_string()),
    }
}

/// Follows those legs of hand tracks that are new.
pub async fn hands(
    app: &Arc<App>,
    job: &Job,
    progress: Arc<JobProgress>,
) -> Result<String, Stopped> {
    let shot = app.store.shot(job.shot_id).await?;
    let inputs = facts::following(&shot).hand_inputs();
    let paths = tracks::paths(app, &shot).await?;
    let legs = tracks::missing(&shot.state.hands, &paths);
    if legs.is_empty() {
        return Ok("nothing new to follow".to_owned());
    }
    let wanted = legs.clone();
    let id = shot.id;
    let files = app.files(&shot).await?;
    let found = blocking(move || {
        let plate: Plate = facts::followable(&shot, &files)?;
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
    let mut said = format!("{} followed", several(legs.len(), "leg", "legs"));
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
