//! Tracks out of the program and into it.

use super::list::Listing;
use crate::app::App;
use crate::error::{ApiError, Refused, TooLarge};
use crate::said::words::several;
use crate::shot::tracks;
use actix_web::{HttpResponse, web};
use parallax_core::spaces::{PlatePx, TrackId};
use parallax_core::tracks::{Track, TrackKind};
use parallax_formats::delivery::DeliveryError;
use parallax_formats::tracks_csv::Called;
use parallax_formats::tracks_reader::{NamedTracks, read_csv};
use parallax_formats::{tracks_csv, tracks_json};
use parallax_media::sequence::ranges_text;
use parallax_store::Invalid;
use parallax_store::jobs::JobKind;
use parallax_store::shots::Shot;
use parallax_store::track_runs::NOTHING_FOLLOWED;
use parallax_store::track_runs::TrackRun;
use parallax_store::tracking::{FIRST_HAND, TrackNote};
use serde::Deserialize;
use serde_json::json;
use std::collections::{BTreeMap, HashMap, HashSet};

type Answer = Result<HttpResponse, ApiError>;

/// Why each track that takes no part does not, in a word.
async fn asides(app: &web::Data<App>, shot: i64) -> Result<HashMap<u32, String>, ApiError> {
    let listing = Listing::read(app, shot).await?;
    if listing.used.tracks.is_empty() {
        return Err(Refused::NoTracks.into());
    }
    let standing = listing.standing();
    let one = |t: &Track| {
        let why = serde_json::to_value(standing.aside(t.id)?).ok()?;
        Some((t.id.0, why.as_str()?.to_owned()))
    };
    Ok(listing.used.tracks.iter().filter_map(one).collect())
}

/// All tracks of a shot, and what each is called.
async fn for_files(
    app: &web::Data<App>,
    shot: i64,
) -> Result<(Vec<Track>, impl Fn(TrackId) -> Called), ApiError> {
    let aside = asides(app, shot).await?;
    let shot = app.store.shot(shot).await?;
    let all = tracks::of(app, &shot).await?.all(&shot.state);
    let called = move |id: TrackId| Called {
        aside: aside.get(&id.0).cloned().unwrap_or_default(),
        ..tracks::called(&shot.state)(id)
    };
    Ok((all, called))
}

/// The tracks as comma-separated text.
pub async fn csv(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (all, called) = for_files(&app, *shot).await?;
    let called: Vec<_> = all.iter().map(|t| called(t.id)).collect();
    let text = tracks_csv::write(all.iter().zip(&called)).map_err(DeliveryError::from)?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .body(text))
}

/// The tracks as JSON.
pub async fn json(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let (all, called) = for_files(&app, *shot).await?;
    Ok(HttpResponse::Ok().json(tracks_json::write(&all, called)))
}

/// Largest file of tracks that is taken in, bytes: about two million rows.
pub const MOST_BYTES: usize = 128 << 20;

/// What becomes of tracks that have the names of some that there are.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Same {
    /// They take the places of those.
    Replace,
    /// They are left out.
    Skip,
    /// They come in as tracks of their own.
    Add,
}

/// How a file is taken in.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct How {
    same: Option<Same>,
}

/// Takes tracks in, CSV or JSON by the first letter; says what could not be placed. Where some have the names of
/// tracks that there are, it has to be said what becomes of them.
pub async fn import(
    app: web::Data<App>,
    shot: web::Path<i64>,
    how: web::Query<How>,
    body: web::Bytes,
) -> Answer {
    let shot = app.store.shot(*shot).await?;
    let all = tracks::of(&app, &shot).await?;
    let id = shot.id;
    let frames: HashSet<i32> = app.files(&shot).await?.iter().map(|(f, _)| f.0).collect();
    let run = all.run.clone();
    let asked = shot.clone();
    let taken = web::block(move || -> Result<Placed, ApiError> {
        let known = Known::of(&asked, run.as_deref());
        let named = read(&body)?;
        placed(
            named,
            &known,
            how.same,
            &frames,
            (asked.width_px, asked.height_px),
        )
    });
    let taken = taken.await??;
    let said = taken.said();
    if taken.tracks.is_empty() {
        // Nothing to undo, and no solve grows old by it.
        return Ok(HttpResponse::Ok().json(json!({ "taken": 0, "said": said })));
    }
    let (inputs, mut tracks, suspects) = match &all.run {
        Some(run) => (
            run.inputs.as_str(),
            run.tracks.clone(),
            run.suspects.clone(),
        ),
        None => (NOTHING_FOLLOWED, Vec::new(), Vec::new()),
    };
    let come: HashSet<TrackId> = taken.tracks.iter().map(|t| t.id).collect();
    tracks.retain(|t| !come.contains(&t.id));
    tracks.extend(taken.tracks.iter().cloned());
    tracks.sort_by_key(|t| t.id);
    let label = format!("import {}", several(taken.tracks.len(), "track", "tracks"));
    let from = all.run.as_ref().map(|r| r.id);
    let kept = (inputs, &tracks[..], &suspects[..]);
    app.store
        .add_tracks(id, &label, from, kept, &taken.notes, &taken.aside)
        .await?;
    app.store.add_job_after(id, JobKind::Judge).await?;
    app.wake.notify_waiters();
    Ok(HttpResponse::Ok().json(json!({ "taken": taken.tracks.len(), "said": said })))
}

fn read(body: &[u8]) -> Result<NamedTracks, ApiError> {
    let invalid = |e: &dyn std::fmt::Display| ApiError::from(Invalid::Tracks(e.to_string()));
    let text = std::str::from_utf8(body).map_err(|_| invalid(&"the file is no text in UTF-8"))?;
    match text.trim_start().starts_with('{') {
        true => tracks_json::read(text).map_err(|e| invalid(&e)),
        false => read_csv(text).map_err(|e| invalid(&e)),
    }
}

/// Tracks that there are, by what they are called in files.
struct Known {
    /// Followed ones; several may have one name.
    followed: HashMap<String, Vec<u32>>,
    /// Those that were keyed by hand.
    keyed: HashSet<String>,
    /// What is said of each.
    notes: BTreeMap<u32, TrackNote>,
    /// The first number that no followed track has.
    next: u32,
}

impl Known {
    fn of(shot: &Shot, run: Option<&TrackRun>) -> Self {
        let tracks = run.map_or(&[][..], |r| &r.tracks);
        let name = |t: &Track| {
            let given = shot.state.name_of(t.id.0);
            given.map_or_else(|| t.id.to_string(), str::to_owned)
        };
        let mut followed: HashMap<String, Vec<u32>> = HashMap::new();
        for track in tracks {
            followed.entry(name(track)).or_default().push(track.id.0);
        }
        Self {
            followed,
            keyed: shot.state.hands.iter().map(|h| h.name.clone()).collect(),
            notes: shot.state.notes.clone(),
            next: tracks.iter().map(|t| t.id.0).max().unwrap_or(0) + 1,
        }
    }

    fn has(&self, name: &str) -> bool {
        self.followed.contains_key(name) || self.keyed.contains(name)
    }
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
    /// Those that take no part.
    aside: Vec<u32>,
    /// How many were left out because there is a track of their name.
    same: usize,
    /// How many take the place of one.
    replaced: usize,
}

fn placed(
    named: NamedTracks,
    known: &Known,
    same: Option<Same>,
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
        aside: Vec::new(),
        same: 0,
        replaced: 0,
    };
    let name_of = |id: TrackId| named.names.get(&id).cloned().unwrap_or_default();
    let doubled = named.tracks.iter().filter(|t| known.has(&name_of(t.id)));
    let doubled = doubled.count();
    if doubled > 0 && same.is_none() {
        let all = named.tracks.len();
        return Err(Refused::SameNames { doubled, all }.into());
    }
    let mut next = known.next;
    let mut unknown: Vec<i32> = Vec::new();
    let mut replaced: HashSet<u32> = HashSet::new();
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
        let on_frames = track.samples.len();
        track.samples.retain(|s| near(s.px));
        out.outside += on_frames - track.samples.len();
        let name = name_of(old);
        let places = known.followed.get(&name);
        // What was keyed by hand stays as it was keyed.
        let stays = places.is_none() && same == Some(Same::Replace);
        if known.has(&name) && (stays || same == Some(Same::Skip)) {
            out.same += 1;
            continue;
        }
        if track.samples.len() < 2 {
            out.lost.push(name);
            continue;
        }
        // Several of one name take the places of those of that name one after the other.
        let is_free = |id: &u32| same == Some(Same::Replace) && !replaced.contains(id);
        let place = places.into_iter().flatten().copied().find(is_free);
        replaced.extend(place);
        let id = place.unwrap_or(next);
        next += u32::from(place.is_none());
        if id >= FIRST_HAND {
            return Err(TooLarge::Tracks {
                most: FIRST_HAND - 1,
            }
            .into());
        }
        // A lock, a weight and a group stay with the place, unless the file has another group.
        let said = place.and_then(|id| known.notes.get(&id).cloned());
        let said = said.unwrap_or_default();
        let group = named.groups.get(&old).cloned().unwrap_or(said.group);
        // A name that is only its number is none.
        let name = Some(name).filter(|n| *n != TrackId(id).to_string());
        let note = TrackNote {
            name: name.unwrap_or_default(),
            group,
            ..said
        };
        if named.aside.contains(&old) {
            out.aside.push(id);
        }
        if note != TrackNote::default() {
            out.notes.insert(id, note);
        }
        track.id = TrackId(id);
        out.tracks.push(track);
    }
    out.replaced = replaced.len();
    unknown.sort_unstable();
    unknown.dedup();
    out.unknown = parallax_media::sequence::runs(&unknown);
    if out.tracks.is_empty() && out.same == 0 {
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
        let taken = several(self.tracks.len(), "track", "tracks");
        let mut said = format!("{taken} taken in, {by_hand} of them by hand.");
        if self.replaced > 0 {
            said.push_str(&format!(
                " {} took the place of one of the same name.",
                self.replaced
            ));
        }
        if self.same > 0 {
            let left = several(self.same, "track was", "tracks were");
            said.push_str(&format!(" {left} left out: there is one of the same name."));
        }
        if !self.unknown.is_empty() {
            said.push_str(&format!(
                " The plate has no frames {}: positions there were left out.",
                ranges_text(&self.unknown)
            ));
        }
        if self.outside > 0 {
            said.push_str(&format!(
                " {} far outside the picture left out.",
                several(self.outside, "position", "positions")
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
