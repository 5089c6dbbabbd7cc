//! Hand tracks: each request is one thing that an artist does, and one edit.

use crate::app::App;
use crate::edited::Edited;
use crate::error::{ApiError, Refused};
use crate::shot::tracks;
use actix_web::web;
use parallax_core::solve::on_demand::{Predicted, placed};
use parallax_core::spaces::FrameNumber;
use parallax_core::track::hand::{HandKey, HandTrack, Way};
use parallax_core::tracks::Track;
use parallax_store::jobs::JobKind;
use parallax_store::shots::Shot;
use parallax_store::{Invalid, ShotState, StoreError};
use serde::Deserialize;
use std::collections::HashSet;

/// What can be done with hand tracks.
#[derive(Deserialize)]
#[serde(tag = "do", rename_all = "snake_case", deny_unknown_fields)]
pub enum HandDeed {
    /// Begins one.
    Place {
        frame: i32,
        px: [f64; 2],
        name: Option<String>,
    },
    /// Keys one on a frame.
    Key { hand: u32, frame: i32, px: [f64; 2] },
    /// Removes a key.
    Unkey { hand: u32, frame: i32 },
    /// Follows one from a frame.
    Follow { hand: u32, frame: i32, way: Way },
    /// Follows one along the path that the current solve predicts for it.
    Guide { hand: u32 },
    /// Ends its life on a frame.
    End { hand: u32, frame: i32 },
    /// Begins its life on a frame.
    Begin { hand: u32, frame: i32 },
    /// Other controls.
    Shape {
        hand: u32,
        pattern_px: Option<usize>,
        reach_px: Option<[f64; 2]>,
        strictness: Option<f64>,
    },
    /// Removes one.
    Remove { hand: u32 },
    /// Makes hand tracks of features, which are set aside.
    Promote { tracks: Vec<u32> },
}

impl HandDeed {
    fn label(&self) -> &'static str {
        match self {
            Self::Place { .. } => "place a hand track",
            Self::Key { .. } => "key a hand track",
            Self::Unkey { .. } => "remove a key",
            Self::Follow { .. } => "follow a hand track",
            Self::Guide { .. } => "follow along the prediction",
            Self::End { .. } => "end a hand track",
            Self::Begin { .. } => "begin a hand track",
            Self::Shape { .. } => "shape a hand track",
            Self::Remove { .. } => "remove a hand track",
            Self::Promote { .. } => "promote to hand tracks",
        }
    }

    /// The hand track it changes, if it changes one.
    fn about(&self) -> Option<u32> {
        match *self {
            Self::Key { hand, .. }
            | Self::Unkey { hand, .. }
            | Self::Follow { hand, .. }
            | Self::Guide { hand }
            | Self::End { hand, .. }
            | Self::Begin { hand, .. }
            | Self::Shape { hand, .. }
            | Self::Remove { hand } => Some(hand),
            Self::Place { .. } | Self::Promote { .. } => None,
        }
    }

    /// That hand track after it, within the first and last frame of the shot, where it is predicted if that is
    /// asked for; `None` removes it.
    fn changed(
        &self,
        hand: &HandTrack,
        whole: (i32, i32),
        predicted: &[HandKey],
    ) -> Option<HandTrack> {
        Some(match *self {
            Self::Key { frame, px, .. } => hand.keyed(HandKey { frame, px }),
            Self::Unkey { frame, .. } => hand.unkeyed(frame),
            Self::Follow { frame, way, .. } => hand.followed(way, frame, whole),
            Self::Guide { .. } => {
                let within = |key: &&HandKey| (whole.0..=whole.1).contains(&key.frame);
                hand.guided(predicted.iter().filter(within).copied().collect())
            }
            Self::End { frame, .. } => hand.ended(frame),
            Self::Begin { frame, .. } => hand.begun(frame),
            Self::Shape {
                pattern_px,
                reach_px,
                strictness,
                ..
            } => HandTrack {
                pattern_px: pattern_px.unwrap_or(hand.pattern_px),
                reach_px: reach_px.unwrap_or(hand.reach_px),
                strictness: strictness.unwrap_or(hand.strictness),
                ..hand.clone()
            },
            Self::Remove { .. } => return None,
            Self::Place { .. } | Self::Promote { .. } => hand.clone(),
        })
    }

    /// The state after it, and the hand track to look at then.
    fn done(
        &self,
        shot: &Shot,
        state: &ShotState,
        known: &Known,
    ) -> Result<(ShotState, Option<u32>), StoreError> {
        let mut next = state.clone();
        if let Some(about) = self.about() {
            let place = next.hands.iter().position(|h| h.id == about);
            let place = place.ok_or(StoreError::Missing {
                what: "hand track",
                id: i64::from(about),
            })?;
            if state.is_locked(about) {
                return Err(Invalid::Locked.into());
            }
            let whole = state.range.unwrap_or((shot.plate.first, shot.plate.last));
            if let Self::Unkey { frame, .. } = self
                && let [only] = &state.hands[place].keys[..]
                && only.frame == *frame
            {
                return Err(Invalid::OnlyKey.into());
            }
            match self.changed(&state.hands[place], whole, &known.predicted) {
                Some(hand) => next.hands[place] = hand,
                None => {
                    next.hands.remove(place);
                    next.notes.remove(&about);
                    return Ok((next, None));
                }
            }
            return Ok((next, Some(about)));
        }
        let mut about = None;
        if let Self::Place { frame, px, name } = self {
            let id = state.next_hand();
            let given = name
                .as_deref()
                .map(str::trim)
                .filter(|n| !n.is_empty())
                .map(str::to_owned);
            let name = given.unwrap_or_else(|| format!("hand {}", id % 1000));
            next.hands.push(HandTrack::placed(
                id,
                name,
                HandKey {
                    frame: *frame,
                    px: *px,
                },
                &state.track,
            ));
            about = Some(id);
        }
        for track in &known.promoted {
            let id = next.next_hand();
            next.hands
                .extend(HandTrack::promoted(id, track, &state.track));
            about = Some(id);
        }
        let aside: Vec<u32> = known.promoted.iter().map(|t| t.id.0).collect();
        Ok((next.culled(&aside, &[]), about))
    }
}

/// Does something with hand tracks; what it makes necessary is followed in the background.
pub async fn hands(
    app: web::Data<App>,
    shot: web::Path<i64>,
    deed: web::Json<HandDeed>,
) -> Result<Edited, ApiError> {
    let shot = app.store.shot(*shot).await?;
    let frames: Vec<FrameNumber> = app.files(&shot).await?.iter().map(|(f, _)| *f).collect();
    let mut known = Known::default();
    match &*deed {
        HandDeed::Promote { tracks } => known.promoted = features_of(&app, &shot, tracks).await?,
        HandDeed::Guide { hand } => known.predicted = predicted(&app, &shot, *hand).await?,
        _ => {}
    }
    let run = match shot.state.run {
        Some(run) => run,
        None => app.store.empty_run(shot.id).await?,
    };
    let mut about = None;
    app.store
        .edit(shot.id, deed.label(), |state| {
            let (mut next, hand) = deed.done(&shot, state, &known)?;
            next.run = next.run.or(Some(run));
            about = hand;
            let checked = next
                .hands
                .iter()
                .try_for_each(|h| h.checked((shot.width_px, shot.height_px), &frames));
            checked.map_err(|e| Invalid::Hand(e.to_string()))?;
            Ok(next)
        })
        .await?;
    follow_what_waits(&app, shot.id).await?;
    Ok(Edited::of(shot.id).with("hand", about))
}

/// What a deed needs to know besides the state.
#[derive(Default)]
struct Known {
    /// Features that become hand tracks.
    promoted: Vec<Track>,
    /// Where the current solve predicts the hand track, ascending by frame.
    predicted: Vec<HandKey>,
}

/// Where the current solve predicts a track, to a hundredth of a px.
async fn predicted(app: &App, shot: &Shot, id: u32) -> Result<Vec<HandKey>, ApiError> {
    let attempt = shot.state.attempt.ok_or(Refused::NoCamera)?;
    let kept = app.attempt(attempt).await?;
    let all = tracks::of(app, shot).await?.all(&shot.state);
    let track = all.into_iter().find(|t| t.id.0 == id);
    let samples = track.map(|t| t.samples).unwrap_or_default();
    let found = placed(&kept.attempt, &samples).map_err(Invalid::NoPlace)?;
    let key = |at: &Predicted| HandKey {
        frame: at.frame.0,
        px: [at.px.x, at.px.y].map(|v| (100.0 * v).round() / 100.0),
    };
    Ok(found.path.iter().map(key).collect())
}

async fn features_of(app: &App, shot: &Shot, wanted: &[u32]) -> Result<Vec<Track>, ApiError> {
    let wanted: HashSet<u32> = wanted.iter().copied().collect();
    let all = tracks::of(app, shot).await?.all(&shot.state);
    let by_hand: HashSet<u32> = shot.state.hands.iter().map(|h| h.id).collect();
    Ok(all
        .into_iter()
        .filter(|t| wanted.contains(&t.id.0) && !by_hand.contains(&t.id.0))
        .collect())
}

/// Queues following where legs are new and none is queued yet.
pub async fn follow_what_waits(app: &App, shot: i64) -> Result<(), ApiError> {
    let now = app.store.shot(shot).await?;
    if tracks::of(app, &now).await?.waiting > 0 {
        app.store.add_job_after(shot, JobKind::Hand).await?;
        app.wake.notify_waiters();
    }
    Ok(())
}
