//! All tracks of a shot as they are used: features that were followed, hand tracks as far as their legs
//! are, less what drawn mattes and in and out leave out since, with the artist's weights.

use crate::app::App;
use crate::error::ApiError;
use crate::shot::facts;
use parallax_core::judge::Suspect;
use parallax_core::spaces::TrackId;
use parallax_core::track::hand::{Ended, HandTrack, Leg, Path};
use parallax_core::track::matte::Matte;
use parallax_core::tracks::Track;
use parallax_formats::tracks_csv::Called;
use parallax_matching::choosing::Solvable;
use parallax_store::ShotState;
use parallax_store::shots::Shot;
use parallax_store::track_runs::TrackRun;
use serde_json::json;
use std::collections::{HashMap, HashSet};
use std::sync::Arc;

/// Tracks of a shot, and what is known of them.
pub struct ShotTracks {
    /// What was followed, if anything.
    pub run: Option<Arc<TrackRun>>,
    /// Hand tracks, one for each that the artist keyed.
    pub hands: Vec<Track>,
    /// Legs of hand tracks that have not been followed.
    pub waiting: usize,
    /// Hand tracks that are lost before their life ends, and the last frame on which they are seen.
    pub cut_short: Vec<(u32, i32)>,
}

/// The tracks of a shot.
pub async fn of(app: &App, shot: &Shot) -> Result<ShotTracks, ApiError> {
    let run = match shot.state.run {
        Some(run) => Some(app.run(run).await?),
        None => None,
    };
    let hands = &shot.state.hands;
    if hands.is_empty() {
        return Ok(ShotTracks {
            run,
            hands: Vec::new(),
            waiting: 0,
            cut_short: Vec::new(),
        });
    }
    let paths = paths(app, shot).await?;
    let waiting = missing(hands, &paths).len();
    let cut_short = hands.iter().flat_map(|h| cut_short(h, &paths)).collect();
    Ok(ShotTracks {
        run,
        hands: hands.iter().map(|h| h.joined(&paths)).collect(),
        waiting,
        cut_short,
    })
}

/// What the legs of a shot's hand tracks found, as far as they were followed.
pub async fn paths(app: &App, shot: &Shot) -> Result<HashMap<String, Path>, ApiError> {
    let legs: Vec<String> = shot
        .state
        .hands
        .iter()
        .flat_map(HandTrack::legs)
        .map(|l| l.fingerprint())
        .collect();
    Ok(app
        .store
        .hand_paths(shot.id, &facts::following(shot).hand_inputs(), &legs)
        .await?)
}

/// Where a hand track is seen for the last time before a leg that leads to no key ends.
fn cut_short(hand: &HandTrack, paths: &HashMap<String, Path>) -> Vec<(u32, i32)> {
    let is_key = |frame: i32| hand.keys.iter().any(|k| k.frame == frame);
    let lost = |leg: Leg| {
        let path = paths
            .get(&leg.fingerprint())
            .filter(|p| p.ended != Ended::Reached)?;
        Some((
            hand.id,
            path.samples.last().map_or(leg.from.frame, |s| s.frame.0),
        ))
    };
    hand.legs()
        .into_iter()
        .filter(|leg| !is_key(leg.to))
        .filter_map(lost)
        .collect()
}

/// Legs of hand tracks that are not among paths.
pub fn missing(hands: &[HandTrack], paths: &HashMap<String, Path>) -> Vec<Leg> {
    hands
        .iter()
        .flat_map(HandTrack::legs)
        .filter(|l| !paths.contains_key(&l.fingerprint()))
        .collect()
}

impl ShotTracks {
    /// No tracks at all.
    pub fn none() -> Self {
        Self {
            run: None,
            hands: Vec::new(),
            waiting: 0,
            cut_short: Vec::new(),
        }
    }

    /// What speaks against tracks.
    pub fn suspects(&self) -> &[Suspect] {
        self.run.as_ref().map_or(&[], |r| &r.suspects)
    }

    /// Tells these tracks as they are used from others: what they come from, and what leaves positions out.
    pub fn fingerprint(&self, shot: &Shot) -> String {
        let s = &shot.state;
        let drawn: Vec<_> = Matte::in_use(&s.mattes);
        let keyed: Vec<_> = self.hands.iter().map(|h| (h.id, h.samples.len())).collect();
        let by_hand = (
            &s.hands,
            keyed,
            self.waiting,
            facts::following(shot).hand_inputs(),
        );
        json!([shot.id, s.run, by_hand, drawn, s.range]).to_string()
    }

    fn followed_and_keyed(&self) -> impl Iterator<Item = &Track> {
        self.run
            .iter()
            .flat_map(|r| r.tracks.iter())
            .chain(&self.hands)
    }

    /// All of them, set aside or not.
    pub fn all(&self, state: &ShotState) -> Vec<Track> {
        facts::choices(state).used(self.followed_and_keyed())
    }

    /// Those of all that do not take part: set aside by the artist, or by themselves and not kept.
    pub fn set_aside(&self, state: &ShotState, all: &[Track]) -> HashSet<TrackId> {
        facts::choices(state).set_aside(all, self.suspects())
    }

    /// Those that may take part in a solve.
    pub fn solvable(&self, state: &ShotState) -> Solvable {
        facts::choices(state).solvable(self.followed_and_keyed(), self.suspects())
    }

    /// How many are used, and how many of them take no part.
    pub fn count(&self, state: &ShotState) -> (usize, usize) {
        facts::choices(state).count(self.followed_and_keyed(), self.suspects())
    }
}

/// What a track is called in files.
pub fn called(state: &ShotState) -> impl Fn(TrackId) -> Called {
    move |id| Called {
        name: state.name_of(id.0).unwrap_or_default().to_owned(),
        group: state
            .notes
            .get(&id.0)
            .map(|n| n.group.clone())
            .unwrap_or_default(),
        aside: String::new(),
    }
}
