//! What a page shows of a shot: stations with their one figure, facts, findings, work in progress.

pub mod findings;
mod moves;
pub mod solved;

use crate::app::{App, JobStanding};
use crate::error::ApiError;
use crate::tracking::ShotTracks;
use crate::{flow, lens, photo, tracking};
use parallax_core::plate::FilmBack;
use parallax_core::scene::{OrientError, Orientation, oriented};
use parallax_core::solve::Verdict;
use parallax_formats::receipt::Receipt;
use parallax_media::pin::Differences;
use parallax_store::StoreError;
use parallax_store::deliveries::KeptDelivery;
use parallax_store::jobs::{Job, JobKind, JobState};
use parallax_store::shots::Shot;
use parallax_store::state::FocalFact;
use parallax_store::track_runs::NOTHING_FOLLOWED;
use parallax_store::undistortions::Undistortion;
use serde::Serialize;
use serde_json::{Value, json};
use std::sync::Arc;

/// How far a station is.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize)]
#[serde(rename_all = "kebab-case")]
pub enum Standing {
    /// Nothing done.
    NotBegun,
    /// Begun, or being worked on.
    InWork,
    /// Done.
    Good,
    /// Done, with something to look at.
    NeedsALook,
    /// Something before it changed.
    Stale,
}

/// One stop of the route.
#[derive(Clone, Debug, Serialize)]
pub struct Station {
    key: &'static str,
    name: &'static str,
    standing: Standing,
    figure: String,
}

impl Station {
    /// A station with its one figure.
    pub fn new(key: &'static str, name: &'static str, standing: Standing, figure: String) -> Self {
        Self {
            key,
            name,
            standing,
            figure,
        }
    }
}

/// A sentence about the shot.
#[derive(Clone, Debug, Serialize)]
pub struct Finding {
    station: &'static str,
    level: &'static str,
    text: String,
    /// What mends it, where one thing does.
    #[serde(skip_serializing_if = "Option::is_none")]
    remedy: Option<Remedy>,
    /// The tracks it is about, to be seen, kept or dropped together.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    tracks: Vec<u32>,
    /// Tracks of the scene that these are to take the place of.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    instead_of: Vec<u32>,
    /// What can be done with the shot as a whole about it.
    #[serde(skip_serializing_if = "Option::is_none")]
    deed: Option<Deed>,
}

/// Something that is done with a shot as a whole.
#[derive(Clone, Debug, Serialize)]
pub struct Deed {
    /// What the button says.
    pub label: &'static str,
    /// What is asked of the shot's address.
    pub body: Value,
}

/// An edit of the state and the work that follows it.
#[derive(Clone, Debug, Serialize)]
pub struct Remedy {
    /// What the button says.
    pub label: &'static str,
    /// Merge patch of the state.
    pub edit: Value,
    /// What is done with things of lists, where anything is.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub things: Option<Value>,
    /// The kind of job that follows, if one does.
    pub work: Option<&'static str>,
}

impl Finding {
    /// With what mends it.
    pub fn mended_by(self, remedy: Option<Remedy>) -> Self {
        Self { remedy, ..self }
    }

    /// With what can be done with the shot about it.
    pub fn attended_by(self, label: &'static str, body: Value) -> Self {
        let deed = Some(Deed { label, body });
        Self { deed, ..self }
    }

    /// With the tracks that those it is about can take the place of.
    pub fn instead_of(self, instead_of: Vec<u32>) -> Self {
        Self { instead_of, ..self }
    }

    /// With the tracks it is about.
    pub fn about(self, tracks: Vec<u32>) -> Self {
        Self { tracks, ..self }
    }
}

/// A finding without a remedy.
pub fn finding(station: &'static str, level: &'static str, text: String) -> Finding {
    Finding {
        station,
        level,
        text,
        remedy: None,
        tracks: Vec::new(),
        instead_of: Vec::new(),
        deed: None,
    }
}

/// Jobs of a shot that wait or run.
pub async fn active_jobs(app: &App, shot: i64) -> Result<Vec<Job>, ApiError> {
    let jobs = app.store.jobs(shot).await?;
    Ok(jobs
        .into_iter()
        .filter(|j| matches!(j.state, JobState::Queued | JobState::Running))
        .collect())
}

struct Everything {
    shot: Shot,
    tracks: ShotTracks,
    attempt: Option<Arc<parallax_store::attempts::KeptAttempt>>,
    delivery: Option<KeptDelivery>,
    undistorted: Option<Undistortion>,
    orientation: Option<Result<Orientation, OrientError>>,
    jobs: Vec<Job>,
    /// In what the folder differs from the files that the plate is.
    differences: Differences,
    /// What of the shot cannot be read.
    damaged: Vec<&'static str>,
}

/// What is damaged where the shot itself is.
const THE_SHOT: &str = "the shot itself";

/// The state of a shot, where that cannot be read.
pub fn of_state(shot: &Shot) -> Vec<&'static str> {
    shot.damage.iter().map(|_| THE_SHOT).collect()
}

/// What was read; nothing where it is damaged or gone, which is noted.
pub fn readable<T>(
    read: Result<T, ApiError>,
    what: &'static str,
    damaged: &mut Vec<&'static str>,
) -> Result<Option<T>, ApiError> {
    match read {
        Ok(read) => Ok(Some(read)),
        Err(ApiError::Store(StoreError::Damaged { .. } | StoreError::Missing { .. })) => {
            damaged.push(what);
            Ok(None)
        }
        Err(error) => Err(error),
    }
}

impl Everything {
    /// Whether the current attempt was made with another focal length than the one stated now.
    fn other_focal_of_attempt(&self) -> Option<(f64, String)> {
        // One that is stated with an error may come out another.
        let FocalFact::Mm(stated_mm) = self.shot.state.focal else {
            return None;
        };
        let (kept, back) = (self.attempt.as_ref()?, flow::film_back(&self.shot));
        let mm = back.focal_mm(kept.attempt.lens.focal_px, kept.attempt.lens.width_px);
        let differs = (mm / stated_mm - 1.0).abs() > 1e-6 || kept.attempt.zooms();
        differs.then(|| (stated_mm, moves::focal_of(&kept.attempt, &back)))
    }
}

/// The whole view model of a shot.
pub async fn shot(app: &App, id: i64) -> Result<Value, ApiError> {
    // Work is looked at first: whoever reads that it is done reads what it came to as well.
    let jobs = app.store.jobs(id).await?;
    let shot = app.store.shot(id).await?;
    if photo::is_photograph(&shot) {
        return photo::view(app, shot, &jobs).await;
    }
    let mut damaged = of_state(&shot);
    let tracks = readable(tracking::of(app, &shot).await, "its tracks", &mut damaged)?;
    let tracks = tracks.unwrap_or_else(ShotTracks::none);
    let attempt = match shot.state.attempt {
        Some(id) => {
            let read = app.attempt(id).await.map_err(ApiError::from);
            readable(read, "the current attempt", &mut damaged)?
        }
        None => None,
    };
    let delivery = match shot.state.delivery {
        Some(id) => {
            let read = app.store.delivery(id).await.map_err(ApiError::from);
            readable(read, "the latest delivery", &mut damaged)?
        }
        None => None,
    };
    let undistorted = match shot.state.undistorted {
        Some(kept) => {
            let read = app
                .store
                .undistortion(id, kept)
                .await
                .map_err(ApiError::from);
            readable(read, "the undistorted plate", &mut damaged)?
        }
        None => None,
    };
    let differences = app.differences(&shot).await?;
    let orientation = attempt
        .as_ref()
        .map(|a| oriented(&a.attempt, &shot.state.picks));
    let (asked, solved) = (shot.clone(), attempt.clone());
    let solve = move || {
        let attempt = solved.as_ref().map(|a| &a.attempt);
        lens::answer(&asked, &asked.state.lens, attempt)
    };
    let lens = tokio::task::spawn_blocking(solve).await?;
    let all = Everything {
        shot,
        tracks,
        attempt,
        delivery,
        undistorted,
        orientation,
        jobs,
        differences,
        damaged,
    };
    let receipt: Option<Receipt> = all
        .delivery
        .as_ref()
        .and_then(|d| serde_json::from_str(&d.receipt).ok());
    let back = flow::film_back(&all.shot);
    Ok(json!({
        "id": all.shot.id,
        "name": all.shot.name,
        "plate": all.shot.plate,
        "width": all.shot.width_px,
        "height": all.shot.height_px,
        "state": all.shot.state,
        "version": all.shot.version,
        "film_back": back,
        "facts": facts(&all, &back),
        "history": app.store.history(id).await?,
        "stations": stations(&all),
        "findings": findings::findings(&all),
        "attempts": app.store.attempts(id).await?,
        "solve": all.attempt.as_ref().map(|a| solved::solve_figures(&a.attempt, &back, all.shot.state.rate)),
        "orientation": all.orientation.as_ref().and_then(|o| o.as_ref().ok()).map(|o| json!({
            "levelled": o.levelled, "scaled": o.scaled, "flatness": o.flatness, "scale_percent": o.scale_share_sigma.map(|s| 100.0 * s),
        })),
        "receipt": receipt,
        "survey": solved::survey_rows(&all),
        "stale_since": all.attempt.as_ref().map_or_else(Vec::new, |a| {
            flow::stale_since(&all.shot, a, &all.tracks)
        }),
        "undistorted": all.undistorted.as_ref().map(|u| json!({
            "receipt": serde_json::from_str::<Value>(&u.receipt).ok(), "folder": u.folder,
            "stale": u.inputs != lens::undistorted_inputs(&all.shot, all.attempt.as_ref().map(|a| &a.attempt)),
        })),
        "lens": lens,
        "jobs": all.jobs.iter().map(|j| job(app, j)).collect::<Vec<_>>(),
    }))
}

/// A job with how far it is.
pub fn job(app: &App, job: &Job) -> Value {
    let progress = app.running().get(&job.id).cloned();
    let JobStanding {
        stage,
        done,
        total,
        left_s,
    } = progress.map_or_else(JobStanding::default, |p| p.now());
    json!({
        "id": job.id, "kind": job.kind, "state": job.state, "message": job.message,
        "stage": stage, "done": done, "total": total, "left_s": left_s.map(|s| short(s, 1)),
    })
}

fn facts(all: &Everything, back: &FilmBack) -> Value {
    let s = &all.shot.state;
    let (first, last) = s
        .range
        .unwrap_or((all.shot.plate.first, all.shot.plate.last));
    let solved = all.attempt.as_ref().map(|a| &a.attempt);
    let focal = moves::focal(s, solved, back);
    let unit = match &all.orientation {
        Some(Ok(o)) if o.scaled => "metre",
        _ => "no scale",
    };
    json!({
        "rate": s.rate.map_or("unknown".to_owned(), |r| r.to_string()),
        "range": format!("{first}–{last}"),
        "size": format!("{}×{}", all.shot.width_px, all.shot.height_px),
        "film_back": film_back_text(&all.shot),
        "focal": focal, "move_found": moves::found(solved), "unit": unit,
    })
}

/// Sides of the film back, and whether they are assumed.
pub fn film_back_text(shot: &Shot) -> String {
    let back = flow::film_back(shot);
    let assumed = if shot.state.film_back.is_some() {
        ""
    } else {
        ", assumed"
    };
    format!("{:.2}×{:.2} mm{assumed}", back.width_mm, back.height_mm)
}

fn working(all: &Everything, kinds: &[JobKind]) -> bool {
    all.jobs
        .iter()
        .any(|j| kinds.contains(&j.kind) && matches!(j.state, JobState::Queued | JobState::Running))
}

fn stations(all: &Everything) -> Vec<Station> {
    let s = &all.shot.state;
    let station = |key, name, standing, figure| Station {
        key,
        name,
        standing,
        figure,
    };
    let plate = match (
        working(all, &[JobKind::Ingest]),
        s.rate,
        all.shot.plate.gaps.is_empty() || s.bridge_gaps,
    ) {
        (true, _, _) => Standing::InWork,
        (false, Some(_), true) => Standing::Good,
        _ => Standing::NeedsALook,
    };
    let (lens, lens_figure) = lens::standing(&all.shot, all.attempt.as_ref().map(|a| &a.attempt));
    let (track, tracks) = track_standing(all);
    let solve = solve_standing(all, track);
    let solve_figure = all
        .attempt
        .as_ref()
        .map_or("–".to_owned(), |a| format!("{:.2} px", a.attempt.rms_px));
    let (orient, orient_figure) = orient_standing(all, solve);
    let proof = match (s.stand_ins.is_empty(), orient) {
        (true, _) => Standing::NotBegun,
        (false, Standing::Good) => Standing::Good,
        (false, Standing::Stale) => Standing::Stale,
        (false, _) => Standing::NeedsALook,
    };
    let proof_figure = match s.stand_ins.len() {
        0 => "–".to_owned(),
        1 => "1 box".to_owned(),
        count => format!("{count} boxes"),
    };
    let (deliver, deliver_figure) = deliver_standing(all, solve);
    vec![
        station(
            "plate",
            "Plate",
            plate,
            format!("{} fr", all.shot.plate.count),
        ),
        station("lens", "Lens", lens, lens_figure),
        station("track", "Track", track, tracks),
        station("solve", "Solve", solve, solve_figure),
        station("orient", "Orient", orient, orient_figure),
        station("proof", "Proof", proof, proof_figure),
        station("deliver", "Deliver", deliver, deliver_figure),
    ]
}

fn track_standing(all: &Everything) -> (Standing, String) {
    let s = &all.shot.state;
    let (count, aside) = all.tracks.count(s);
    let figure = if count == 0 {
        "–".to_owned()
    } else {
        count.saturating_sub(aside).to_string()
    };
    let changed =
        |inputs: &str| inputs != NOTHING_FOLLOWED && inputs != flow::following(&all.shot).inputs();
    let standing = match &all.tracks.run {
        _ if working(all, &[JobKind::Track, JobKind::Hand]) => Standing::InWork,
        _ if all.tracks.waiting > 0 => Standing::Stale,
        None => Standing::NotBegun,
        Some(run) if changed(&run.inputs) => Standing::Stale,
        Some(_) if count == 0 => Standing::NotBegun,
        Some(_) => Standing::Good,
    };
    (standing, figure)
}

fn solve_standing(all: &Everything, track: Standing) -> Standing {
    match &all.attempt {
        _ if working(all, &[JobKind::Solve, JobKind::SolveAgain]) => Standing::InWork,
        None => Standing::NotBegun,
        Some(a) if a.inputs != flow::solve_inputs(&all.shot) || track == Standing::Stale => {
            Standing::Stale
        }
        Some(a) if a.attempt.verdict == Verdict::Good => Standing::Good,
        Some(_) => Standing::NeedsALook,
    }
}

fn orient_standing(all: &Everything, solve: Standing) -> (Standing, String) {
    match &all.orientation {
        None => (Standing::NotBegun, "–".to_owned()),
        Some(Err(_)) => (Standing::NeedsALook, "pick again".to_owned()),
        Some(Ok(o)) if !o.levelled && !o.scaled => (Standing::NotBegun, "–".to_owned()),
        Some(Ok(_)) if solve == Standing::Stale => (Standing::Stale, "stale".to_owned()),
        Some(Ok(o)) if o.levelled && o.scaled => (Standing::Good, "metre".to_owned()),
        Some(Ok(o)) => (
            Standing::InWork,
            if o.levelled { "no scale" } else { "not level" }.to_owned(),
        ),
    }
}

fn deliver_standing(all: &Everything, solve: Standing) -> (Standing, String) {
    let Some(delivery) = &all.delivery else {
        let standing = if working(all, &[JobKind::Deliver, JobKind::DeliverStale]) {
            Standing::InWork
        } else {
            Standing::NotBegun
        };
        return (standing, "–".to_owned());
    };
    let receipt: Option<Receipt> = serde_json::from_str(&delivery.receipt).ok();
    let figure = receipt.as_ref().map_or("–".to_owned(), |r| {
        format!("{:.4} px", r.largest_difference_px)
    });
    if delivery.inputs != flow::delivery_inputs(&all.shot) || solve == Standing::Stale {
        return (Standing::Stale, "stale".to_owned());
    }
    let good = receipt.is_some_and(|r| {
        r.files_agree && r.stale.is_empty() && r.camera.is_some_and(|camera| camera.good)
    });
    let standing = if good {
        Standing::Good
    } else {
        Standing::NeedsALook
    };
    (standing, figure)
}

/// Rounded to so many digits behind the point: answers stay short.
pub fn short(value: f64, digits: i32) -> f64 {
    let scale = 10f64.powi(digits);
    (value * scale).round() / scale
}

/// With a capital letter at its head, as sentences have.
pub fn capital(text: &str) -> String {
    let mut letters = text.chars();
    letters
        .next()
        .map_or_else(String::new, |c| c.to_uppercase().chain(letters).collect())
}
