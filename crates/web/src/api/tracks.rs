//! Tracks: out, in, how each is, where new ones would be placed, and what is said of them.

use crate::app::App;
use crate::error::{Absent, ApiError, Refused, TooLarge};
use crate::flow;
use crate::tracking::{self, ShotTracks};
use crate::view::{self, short};
use actix_web::{HttpResponse, web};
use parallax_core::judge;
use parallax_core::solve::SetAside;
use parallax_core::spaces::{FrameNumber, PlatePx, TrackId};
use parallax_core::track::FrameSource;
use parallax_core::track::follow::compare;
use parallax_core::track::session::preview;
use parallax_core::tracks::{Track, TrackKind};
use parallax_formats::delivery::DeliveryError;
use parallax_formats::tracks_reader::{NamedTracks, read_csv};
use parallax_formats::{tracks_csv, tracks_json};
use parallax_media::sequence::ranges_text;
use parallax_store::Invalid;
use parallax_store::attempts::KeptAttempt;
use parallax_store::jobs::JobKind;
use parallax_store::shots::Shot;
use parallax_store::track_runs::NOTHING_FOLLOWED;
use parallax_store::tracking::{FIRST_HAND, NoteChange, TrackNote};
use serde::Deserialize;
use serde_json::{Value, json};
use std::collections::{BTreeMap, HashMap, HashSet};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

/// Tracks with their positions and figures, and why those that are set aside are.
pub async fn list(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let all = tracking::of(&app, &shot).await?;
    let attempt = match shot.state.attempt {
        Some(id) => Some(app.attempt(id).await?).filter(|a| Some(a.run) == shot.state.run),
        None => None,
    };
    let tracks = web::block(move || figures(&shot, &all, attempt)).await?;
    Ok(HttpResponse::Ok().json(json!({ "tracks": tracks })))
}

fn figures(shot: &Shot, all: &ShotTracks, attempt: Option<Arc<KeptAttempt>>) -> Vec<Value> {
    let state = &shot.state;
    let by_solve: HashMap<u32, SetAside> = attempt
        .iter()
        .flat_map(|a| a.attempt.set_aside.iter().map(|(t, why)| (t.0, *why)))
        .collect();
    let suspects: HashMap<TrackId, &judge::Suspect> =
        all.suspects().iter().map(|s| (s.track, s)).collect();
    let tracks = all.all(state);
    let out = all.set_aside(state, &tracks);
    let jitters = judge::jitters_px(&tracks);
    let one = |t: &Track| {
        let suspect = suspects.get(&t.id);
        let landmark = attempt.as_ref().and_then(|a| a.attempt.landmark(t.id));
        let aside = if state.culled.contains(&t.id.0) {
            Some(json!("culled"))
        } else if landmark.is_some() {
            // The solve took it back.
            None
        } else if by_solve.get(&t.id.0) == Some(&SetAside::AnotherBody) {
            Some(json!("body"))
        } else if out.contains(&t.id) {
            suspect.map(|s| json!(s.why))
        } else {
            by_solve.get(&t.id.0).map(|why| match why {
                SetAside::AgainstTheScene => json!("against"),
                SetAside::AnotherBody => json!("body"),
                SetAside::AboveLimit => json!("limit"),
                SetAside::TooLittleParallax => json!("parallel"),
            })
        };
        let note = state.notes.get(&t.id.0);
        let sigmas = t.samples.iter().map(|s| s.covariance.sigma_px());
        let (count, sum) = (t.samples.len().max(1) as f64, sigmas.clone().sum::<f64>());
        let worst = t
            .samples
            .iter()
            .max_by(|a, b| a.covariance.sigma_px().total_cmp(&b.covariance.sigma_px()));
        json!({
            "id": t.id.0, "kind": t.kind, "name": state.name_of(t.id.0), "note": note,
            "frames": t.samples.iter().map(|s| s.frame.0).collect::<Vec<_>>(),
            "xy": t.samples.iter().flat_map(|s| [short(s.px.x, 2), short(s.px.y, 2)]).collect::<Vec<_>>(),
            "sigmas": sigmas.map(|s| short(s, 3)).collect::<Vec<_>>(),
            "sigma": short(sum / count, 4), "drift": t.drift_px.map(|d| short(d, 3)),
            "jitter": jitters.get(&t.id).map(|j| short(*j, 3)), "rms": landmark.map(|l| short(l.rms_px, 3)),
            "worst": suspect.map_or_else(|| worst.map(|s| s.frame.0), |s| Some(s.frame.0)),
            "aside": aside,
            "suspect": suspect.map(|s| json!({ "why": s.why, "figure": short(s.figure, 2), "other": s.other })),
        })
    };
    tracks.iter().map(one).collect()
}

/// A frame.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct On {
    frame: i32,
}

/// Where features would be placed on a frame, for the controls as they are.
pub async fn features(app: web::Data<App>, shot: web::Path<i64>, on: web::Query<On>) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let files = app.files(&shot).await?;
    let found = web::block(move || -> Result<Value, ApiError> {
        let plate = flow::followable(&shot, &files)?;
        let index = plate.frames().binary_search(&FrameNumber(on.frame));
        let index = index.map_err(|_| Absent::InRange(on.frame))?;
        let (picture, mask) = plate.look(index).map_err(Refused::Look)?;
        let places =
            preview(picture, mask.as_ref(), &shot.state.track).map_err(Refused::Placing)?;
        let list: Vec<f64> = places
            .iter()
            .flat_map(|(px, s)| [short(px.x, 1), short(px.y, 1), short(*s, 3)])
            .collect();
        Ok(json!({ "frame": on.frame, "count": places.len(), "places": list }))
    });
    Ok(HttpResponse::Ok().json(found.await??))
}

/// The patch of a track on a frame beside the one that it is followed by, and their correlation: a
/// hand track is followed from the key before, a feature from where it was found.
pub async fn look(app: web::Data<App>, path: web::Path<(i64, u32)>, on: web::Query<On>) -> Answer {
    let (shot, id) = path.into_inner();
    let shot = app.store.shot(shot).await?;
    let all = tracking::of(&app, &shot).await?.all(&shot.state);
    let gone = || Absent::Track {
        track: id,
        frame: on.frame,
    };
    let track = all.into_iter().find(|t| t.id.0 == id).ok_or_else(gone)?;
    let now = *track.at(FrameNumber(on.frame)).ok_or_else(gone)?;
    let hand = shot.state.hands.iter().find(|h| h.id == id);
    let key = hand.and_then(|h| {
        h.keys
            .iter()
            .rev()
            .find(|k| k.frame <= on.frame)
            .or(h.keys.first())
    });
    let first = track.samples.first().ok_or_else(gone)?;
    let (frame, at) = key.map_or((first.frame.0, first.px), |k| {
        (k.frame, PlatePx::new(k.px[0], k.px[1]))
    });
    let side = hand.map_or(shot.state.track.pattern_px, |h| h.pattern_px);
    let (before, after) = (
        app.grey(&shot, frame).await?,
        app.grey(&shot, on.frame).await?,
    );
    let compared = compare((&before, at), (&after, now.px), side);
    let levels = |v: &[f32]| {
        v.iter()
            .map(|l| l.round().clamp(0.0, 255.0) as u8)
            .collect::<Vec<u8>>()
    };
    let answer = json!({
        "track": id, "frame": on.frame, "reference_frame": frame, "side": side,
        "sigma_px": short(now.covariance.sigma_px(), 4), "px": [short(now.px.x, 3), short(now.px.y, 3)],
        "patches": compared.map(|c| json!({
            "reference": levels(&c.first), "current": levels(&c.second), "correlation": short(c.correlation, 4),
        })),
    });
    Ok(HttpResponse::Ok().json(answer))
}

/// Tracks and what to say of them.
#[derive(Deserialize)]
pub struct Said {
    tracks: Vec<u32>,
    #[serde(flatten)]
    change: NoteChange,
}

/// Names, groups, locks, hides or weighs tracks, as one edit.
pub async fn note(app: web::Data<App>, shot: web::Path<i64>, said: web::Json<Said>) -> Answer {
    let label = match said.tracks.len() {
        1 => "note of a track".to_owned(),
        n => format!("note of {n} tracks"),
    };
    app.store
        .edit(*shot, &label, |state| {
            state.noted(&said.tracks, &said.change)
        })
        .await?;
    Ok(HttpResponse::Ok().json(view::shot(&app, *shot).await?))
}

async fn for_files(app: &App, shot: i64) -> Result<(Shot, Vec<Track>), ApiError> {
    let shot = app.store.shot(shot).await?;
    let all = tracking::of(app, &shot).await?.all(&shot.state);
    if all.is_empty() {
        return Err(Refused::NoTracks.into());
    }
    Ok((shot, all))
}

/// The tracks as comma-separated text.
pub async fn csv(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, all) = for_files(&app, *shot).await?;
    let called = tracking::called(&shot.state);
    let called: Vec<_> = all.iter().map(|t| called(t.id)).collect();
    let text = tracks_csv::write(all.iter().zip(&called)).map_err(DeliveryError::from)?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .body(text))
}

/// The tracks as JSON.
pub async fn json(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (shot, all) = for_files(&app, *shot).await?;
    Ok(HttpResponse::Ok().json(tracks_json::write(&all, tracking::called(&shot.state))))
}

/// Largest file of tracks that is taken in, bytes: about two million rows.
pub const MOST_BYTES: usize = 128 << 20;

/// Takes tracks in, CSV or JSON by the first letter; says what could not be placed.
pub async fn import(app: web::Data<App>, shot: web::Path<i64>, body: web::Bytes) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let all = tracking::of(&app, &shot).await?;
    let id = shot.id;
    let run = all.run.clone();
    let frames: HashSet<i32> = app.files(&shot).await?.iter().map(|(f, _)| f.0).collect();
    let taken = web::block(move || -> Result<Placed, ApiError> {
        let invalid = |e: &dyn std::fmt::Display| ApiError::from(Invalid::Tracks(e.to_string()));
        let text =
            std::str::from_utf8(&body).map_err(|_| invalid(&"the file is no text in UTF-8"))?;
        let named = if text.trim_start().starts_with('{') {
            tracks_json::read(text).map_err(|e| invalid(&e))?
        } else {
            read_csv(text).map_err(|e| invalid(&e))?
        };
        let first = run
            .as_ref()
            .and_then(|r| r.tracks.iter().map(|t| t.id.0).max())
            .unwrap_or(0)
            + 1;
        placed(named, first, &frames, (shot.width_px, shot.height_px))
    });
    let taken = taken.await??;
    let said = taken.said();
    let (inputs, mut tracks, suspects) = match &all.run {
        Some(run) => (
            run.inputs.as_str(),
            run.tracks.clone(),
            run.suspects.clone(),
        ),
        None => (NOTHING_FOLLOWED, Vec::new(), Vec::new()),
    };
    tracks.extend(taken.tracks.iter().cloned());
    let label = format!("import {} tracks", taken.tracks.len());
    let from = all.run.as_ref().map(|r| r.id);
    app.store
        .add_tracks(id, &label, from, (inputs, &tracks, &suspects), &taken.notes)
        .await?;
    app.store.add_job_after(id, JobKind::Judge).await?;
    app.wake.notify_waiters();
    Ok(HttpResponse::Ok().json(json!({ "taken": taken.tracks.len(), "said": said })))
}

/// What of a file lies on the plate.
struct Placed {
    tracks: Vec<Track>,
    notes: BTreeMap<u32, TrackNote>,
    /// Frames that the plate has not.
    unknown: Vec<(i32, i32)>,
    /// Positions off the picture by more than its size.
    outside: usize,
    /// Tracks of which fewer than two positions are left.
    lost: Vec<String>,
}

fn placed(
    named: NamedTracks,
    first: u32,
    frames: &HashSet<i32>,
    size: (u32, u32),
) -> Result<Placed, ApiError> {
    let (width, height) = (f64::from(size.0), f64::from(size.1));
    let near = |px: PlatePx| {
        (-width..=2.0 * width).contains(&px.x) && (-height..=2.0 * height).contains(&px.y)
    };
    let mut out = Placed {
        tracks: Vec::new(),
        notes: BTreeMap::new(),
        unknown: Vec::new(),
        outside: 0,
        lost: Vec::new(),
    };
    let mut unknown: Vec<i32> = Vec::new();
    for mut track in named.tracks {
        let old = track.id;
        unknown.extend(
            track
                .samples
                .iter()
                .map(|s| s.frame.0)
                .filter(|f| !frames.contains(f)),
        );
        track.samples.retain(|s| frames.contains(&s.frame.0));
        let known = track.samples.len();
        track.samples.retain(|s| near(s.px));
        out.outside += known - track.samples.len();
        let name = named.names.get(&old).cloned().unwrap_or_default();
        if track.samples.len() < 2 {
            out.lost.push(name);
            continue;
        }
        let id = first + out.tracks.len() as u32;
        if id >= FIRST_HAND {
            return Err(TooLarge::Tracks {
                most: FIRST_HAND - 1,
            }
            .into());
        }
        let group = named.groups.get(&old).cloned().unwrap_or_default();
        let note = TrackNote {
            name,
            group,
            ..TrackNote::default()
        };
        if note != TrackNote::default() {
            out.notes.insert(id, note);
        }
        track.id = TrackId(id);
        out.tracks.push(track);
    }
    unknown.sort_unstable();
    unknown.dedup();
    out.unknown = parallax_media::sequence::runs(&unknown);
    if out.tracks.is_empty() {
        return Err(Invalid::Tracks(out.said().trim_end_matches('.').to_owned()).into());
    }
    Ok(out)
}

impl Placed {
    fn said(&self) -> String {
        let by_hand = self
            .tracks
            .iter()
            .filter(|t| t.kind == TrackKind::Hand)
            .count();
        let mut said = format!(
            "{} tracks taken in, {by_hand} of them by hand.",
            self.tracks.len()
        );
        if !self.unknown.is_empty() {
            said.push_str(&format!(
                " The plate has no frames {}: positions there were left out.",
                ranges_text(&self.unknown)
            ));
        }
        if self.outside > 0 {
            said.push_str(&format!(
                " {} positions lie far outside the picture and were left out.",
                self.outside
            ));
        }
        if let [first, ..] = &self.lost[..] {
            let more = if self.lost.len() > 1 {
                format!(" and {} more", self.lost.len() - 1)
            } else {
                String::new()
            };
            said.push_str(&format!(
                " Not placed, fewer than two positions being left: {first}{more}."
            ));
        }
        said
    }
}
