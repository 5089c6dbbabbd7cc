//! Tracks as they are listed: positions, figures, and why those that are set aside are.

use crate::app::{App, fingerprint};
use crate::error::ApiError;
use crate::said::words::short;
use crate::shot::tracks::{self, ShotTracks};
use crate::used::{Measure, Used};
use actix_web::http::header::ContentEncoding;
use actix_web::{HttpResponse, web};
use parallax_core::judge::{Suspect, Why};
use parallax_core::solve::{Attempt, SetAside};
use parallax_core::spaces::TrackId;
use parallax_core::tracks::{Track, TrackKind};
use parallax_store::ShotState;
use parallax_store::shots::Shot;
use parallax_store::tracking::TrackNote;
use serde::{Deserialize, Serialize};
use serde_json::{Value, json};
use std::collections::hash_map::DefaultHasher;
use std::collections::{HashMap, HashSet};
use std::hash::{Hash, Hasher};
use std::sync::Arc;

type Answer = Result<HttpResponse, ApiError>;

/// What is said of a track beside its positions.
#[derive(Serialize)]
struct Figures<'a> {
    id: u32,
    kind: TrackKind,
    name: Option<&'a str>,
    note: Option<&'a TrackNote>,
    sigma: f64,
    drift: Option<f64>,
    jitter: Option<f64>,
    rms: Option<f64>,
    worst: Option<i32>,
    aside: Option<Aside>,
    suspect: Option<Suspected>,
}

/// Why a track takes no part.
#[derive(Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Aside {
    /// The artist set it aside.
    Culled,
    /// It is with another body.
    Body,
    /// It is against the scene.
    Against,
    /// It is above the limit.
    Limit,
    /// Its rays are nearly parallel.
    Parallel,
    /// Something speaks against it by itself.
    #[serde(untagged)]
    Suspect(Why),
}

/// What speaks against a track.
#[derive(Serialize)]
struct Suspected {
    why: Why,
    figure: f64,
    other: Option<TrackId>,
}

/// All that tells how tracks stand.
pub struct Standing<'a> {
    state: &'a ShotState,
    attempt: Option<&'a Attempt>,
    by_solve: HashMap<u32, SetAside>,
    suspects: HashMap<TrackId, &'a Suspect>,
    out: HashSet<TrackId>,
    used: &'a Used,
}

impl Standing<'_> {
    /// Why a track takes no part, if it does not.
    pub fn aside(&self, id: TrackId) -> Option<Aside> {
        let by_solve = self.by_solve.get(&id.0);
        if self.state.culled.contains(&id.0) {
            Some(Aside::Culled)
        } else if self.attempt.is_some_and(|a| a.landmark(id).is_some()) {
            // The solve took it back.
            None
        } else if by_solve == Some(&SetAside::AnotherBody) {
            Some(Aside::Body)
        } else if self.out.contains(&id) {
            self.suspects.get(&id).map(|s| Aside::Suspect(s.why))
        } else {
            by_solve.map(|why| match why {
                SetAside::AgainstTheScene => Aside::Against,
                SetAside::AnotherBody => Aside::Body,
                SetAside::AboveLimit => Aside::Limit,
                SetAside::TooLittleParallax => Aside::Parallel,
            })
        }
    }

    fn figures(&self, t: &Track, measure: &Measure) -> Figures<'_> {
        let suspect = self.suspects.get(&t.id);
        let landmark = self.attempt.and_then(|a| a.landmark(t.id));
        Figures {
            id: t.id.0,
            kind: t.kind,
            name: self.state.name_of(t.id.0),
            note: self.state.notes.get(&t.id.0),
            sigma: short(measure.sigma_px, 4),
            drift: t.drift_px.map(|d| short(d, 3)),
            jitter: self.used.jitters_px.get(&t.id).map(|j| short(*j, 3)),
            rms: landmark.map(|l| short(l.rms_px, 3)),
            worst: suspect.map_or(measure.worst, |s| Some(s.frame.0)),
            aside: self.aside(t.id),
            suspect: suspect.map(|s| Suspected {
                why: s.why,
                figure: short(s.figure, 2),
                other: s.other,
            }),
        }
    }
}

/// A shot with its tracks, measured, and the attempt that was made of them.
pub struct Listing {
    shot: Shot,
    tracks: ShotTracks,
    /// The tracks as they are used.
    pub used: Arc<Used>,
    attempt: Option<Arc<parallax_store::attempts::KeptAttempt>>,
}

impl Listing {
    /// Reads them.
    pub async fn read(app: &web::Data<App>, shot: i64) -> Result<Self, ApiError> {
        let shot = app.store.shot(shot).await?;
        let all = tracks::of(app, &shot).await?;
        let attempt = match shot.state.attempt {
            Some(id) => Some(app.attempt(id).await?).filter(|a| Some(a.run) == shot.state.run),
            None => None,
        };
        let key = all.fingerprint(&shot);
        let used = match app.used.get(key.clone()) {
            Some(used) => used,
            None => {
                let all = all.all(&shot.state);
                let used = Arc::new(web::block(move || Used::of(all)).await?);
                app.used.put(key, used.clone());
                used
            }
        };
        Ok(Self {
            shot,
            tracks: all,
            used,
            attempt,
        })
    }

    /// How they stand.
    pub fn standing(&self) -> Standing<'_> {
        let attempt = self.attempt.as_ref().map(|a| &a.attempt);
        let aside = attempt.iter().flat_map(|a| &a.set_aside);
        Standing {
            state: &self.shot.state,
            attempt,
            by_solve: aside.map(|(t, why)| (t.0, *why)).collect(),
            suspects: self
                .tracks
                .suspects()
                .iter()
                .map(|s| (s.track, s))
                .collect(),
            out: self.tracks.set_aside(&self.shot.state, &self.used.tracks),
            used: &self.used,
        }
    }
}

/// Tracks with their positions and figures, and why those that are set aside are.
pub async fn list(app: web::Data<App>, shot: web::Path<i64>) -> Answer {
    let listing = Listing::read(&app, *shot).await?;
    let tracks = web::block(move || {
        let standing = listing.standing();
        let one = |(t, measure): (&Track, &Measure)| -> Result<Value, ApiError> {
            let mut out = serde_json::to_value(standing.figures(t, measure))?;
            let samples = t.samples.iter();
            out["frames"] = json!(samples.clone().map(|s| s.frame.0).collect::<Vec<_>>());
            let xy = samples
                .clone()
                .flat_map(|s| [short(s.px.x, 2), short(s.px.y, 2)]);
            out["xy"] = json!(xy.collect::<Vec<_>>());
            let sigmas = samples.map(|s| short(s.covariance.sigma_px(), 3));
            out["sigmas"] = json!(sigmas.collect::<Vec<_>>());
            Ok(out)
        };
        let tracks = listing.used.tracks.iter().zip(&listing.used.measures);
        tracks.map(one).collect::<Result<Vec<_>, _>>()
    });
    Ok(HttpResponse::Ok().json(json!({ "tracks": tracks.await?? })))
}

/// What a page has of the tracks already.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
pub struct Since {
    since: Option<String>,
}

/// Tracks packed for pages: all of them, or those that changed since a list that is remembered. A header in
/// JSON behind its length, then the positions of the tracks that the header gives `runs` for, one after the
/// other: x and y by turns, then standard errors, px, all as 32-bit floats, little endian.
pub async fn packed(app: web::Data<App>, shot: web::Path<i64>, since: web::Query<Since>) -> Answer {
    let listing = Listing::read(&app, *shot).await?;
    let shot = *shot;
    let had = since.since.as_ref();
    let had = had.and_then(|tag| Some((tag.clone(), app.listed.get((shot, tag.clone()))?)));
    let (body, tag, marks) = web::block(move || pack(&listing, had)).await??;
    app.listed.put((shot, tag), Arc::new(marks));
    Ok(HttpResponse::Ok()
        .content_type("application/octet-stream")
        .insert_header(("cache-control", "no-store"))
        // Positions hardly get shorter, and take long to try.
        .insert_header(ContentEncoding::Identity)
        .body(body))
}

type Marks = HashMap<u32, [u64; 2]>;

fn pack(
    listing: &Listing,
    had: Option<(String, Arc<Marks>)>,
) -> Result<(Vec<u8>, String, Marks), ApiError> {
    let standing = listing.standing();
    let known = had.as_ref().map(|(_, marks)| marks.as_ref());
    let (mut rows, mut positions, mut marks) = (Vec::new(), Vec::new(), Marks::new());
    for (track, measure) in listing.used.tracks.iter().zip(&listing.used.measures) {
        let text = serde_json::to_string(&standing.figures(track, measure))?;
        let mut hash = DefaultHasher::new();
        text.hash(&mut hash);
        let mark = [measure.mark, hash.finish()];
        marks.insert(track.id.0, mark);
        let before = known.and_then(|k| k.get(&track.id.0));
        if before == Some(&mark) {
            continue;
        }
        let mut row: Value = serde_json::from_str(&text)?;
        if before.is_none_or(|b| b[0] != measure.mark) {
            row["runs"] = json!(runs(track));
            put_positions(track, &mut positions);
        }
        rows.push(row);
    }
    let gone = known.into_iter().flat_map(|k| k.keys());
    let gone: Vec<&u32> = gone.filter(|id| !marks.contains_key(id)).collect();
    let mut all: Vec<_> = marks.iter().collect();
    all.sort_unstable();
    let tag = fingerprint(&format!("{all:?}"))[..16].to_owned();
    let since = had.as_ref().map(|(tag, _)| tag);
    let head = json!({ "tag": tag, "since": since, "tracks": rows, "gone": gone });
    let mut head = head.to_string();
    // Positions begin where 32-bit floats may.
    while !head.len().is_multiple_of(4) {
        head.push(' ');
    }
    let mut body = Vec::with_capacity(4 + head.len() + positions.len());
    body.extend((head.len() as u32).to_le_bytes());
    body.extend(head.as_bytes());
    body.extend(positions);
    Ok((body, tag, marks))
}

/// Frames of a track as runs: first frame and how many.
fn runs(track: &Track) -> Vec<[i32; 2]> {
    let mut runs: Vec<[i32; 2]> = Vec::new();
    for sample in &track.samples {
        match runs.last_mut() {
            Some([first, count]) if *first + *count == sample.frame.0 => *count += 1,
            _ => runs.push([sample.frame.0, 1]),
        }
    }
    runs
}

fn put_positions(track: &Track, out: &mut Vec<u8>) {
    for s in &track.samples {
        out.extend((s.px.x as f32).to_le_bytes());
        out.extend((s.px.y as f32).to_le_bytes());
    }
    for s in &track.samples {
        out.extend((s.covariance.sigma_px() as f32).to_le_bytes());
    }
}
