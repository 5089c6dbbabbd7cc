//! What the page shows of a photograph: stations, facts, findings, work.

use crate::app::App;
use crate::error::ApiError;
use crate::jobs::JobRow;
use crate::said::finding::Finding;
use crate::said::next::Next;
use crate::said::standing::{Standing, Station};
use crate::screens::deliver;
use crate::screens::deliver::recipes::{self, FormatRow, MadeRow, RecipeRow, formats};
use crate::screens::photo::answer::{Answer, answer};
use crate::screens::plate::findings::of_files;
use crate::shot::everything::{delivered, of_state};
use crate::shot::facts::film_back_text;
use parallax_store::ShotState;
use parallax_store::edits::History;
use parallax_store::jobs::{Job, JobState};
use parallax_store::shots::PlateFacts;
use parallax_store::shots::Shot;
use serde::Serialize;
use serde_json::Value;
use std::collections::BTreeMap;

/// The view model of a photograph.
#[derive(Serialize)]
struct PhotoView {
    id: i64,
    name: String,
    plate: PlateFacts,
    width: u32,
    height: u32,
    state: ShotState,
    version: i64,
    history: History,
    facts: Facts,
    stations: Vec<Station>,
    findings: Vec<Finding>,
    /// Camera and drawing of what is laid.
    solved: Answer,
    recipes: Vec<RecipeRow>,
    formats: Vec<FormatRow>,
    next: BTreeMap<&'static str, Next>,
    jobs: Vec<JobRow>,
}

/// The facts row.
#[derive(Serialize)]
struct Facts {
    size: String,
    film_back: String,
    focal: String,
    unit: &'static str,
}

/// The view model of a photograph's page, with its work as it was before.
pub async fn view(app: &App, shot: Shot, jobs: &[Job]) -> Result<Value, ApiError> {
    let mut damaged = of_state(&shot);
    let delivered = delivered(app, &shot, &mut damaged).await?;
    let differences = app.differences(&shot).await?;
    let recipes = recipes::rows(&shot, &delivered);
    let asked = shot.clone();
    let solve = move || answer(&asked, &asked.state.photo, None);
    let solved = tokio::task::spawn_blocking(solve).await?;
    let is_active = |j: &Job| matches!(j.state, JobState::Queued | JobState::Running);
    let viewable = !jobs.iter().any(is_active);
    let stations = stations(&shot, &solved, &recipes, viewable);
    let view = PhotoView {
        recipes,
        formats: formats(),
        next: next(&shot, &solved, stations.last().map(|s| s.standing)),
        facts: facts(&shot, &solved),
        stations,
        findings: of_files(&damaged, &differences),
        history: app.store.history(shot.id).await?,
        jobs: jobs.iter().map(|j| app.job_row(j)).collect(),
        id: shot.id,
        name: shot.name,
        plate: shot.plate,
        width: shot.width_px,
        height: shot.height_px,
        state: shot.state,
        version: shot.version,
        solved,
    };
    Ok(serde_json::to_value(view)?)
}

/// The next steps, by station.
fn next(shot: &Shot, solved: &Answer, deliver: Option<Standing>) -> BTreeMap<&'static str, Next> {
    let has_camera = solved.camera.is_some();
    let rails = match (has_camera, shot.state.photo.rails.is_empty()) {
        (true, _) => Next::go("On to Orient", "orient"),
        (false, true) => Next::field("Find straight edges", "#suggest"),
        (false, false) => Next::field("Lay another rail", "#plate"),
    };
    let needs_rails = Next::go("Lay rails first", "rails");
    let orient = match (has_camera, solved.is_scaled()) {
        (false, _) => Next::go("Lay rails first", "rails"),
        (true, false) => Next::field("State a known length", "#plate"),
        (true, true) => Next::go("On to Proof", "proof"),
    };
    let proof = match (has_camera, shot.state.photo.corner_box) {
        (false, _) => Next::go("Lay rails first", "rails"),
        (true, None) => Next::field("Stand a box", "#stand-box"),
        (true, Some(_)) => Next::go("On to Deliver", "deliver"),
    };
    let deliver = match (has_camera, deliver) {
        (false, _) => needs_rails,
        (true, Some(Standing::Good | Standing::NeedsALook)) => {
            Next::field("Download the package", "#package")
        }
        (true, _) => Next::work("Deliver and prove", "deliver"),
    };
    BTreeMap::from([
        ("plate", Next::go("On to Rails", "rails")),
        ("rails", rails),
        ("orient", orient),
        ("proof", proof),
        ("deliver", deliver),
    ])
}

fn facts(shot: &Shot, solved: &Answer) -> Facts {
    let stated = shot.state.focal;
    let focal = match (stated.mm(), stated.sigma_mm(), &solved.camera) {
        (Some(mm), None, _) => format!("{mm} mm, stated"),
        (Some(mm), Some(sigma_mm), _) => format!("{mm} ± {sigma_mm} mm, taken as exact"),
        (None, _, Some(camera)) => camera.figures.focal_text.clone(),
        (None, _, None) => "unknown".to_owned(),
    };
    Facts {
        size: format!("{}×{}", shot.width_px, shot.height_px),
        film_back: film_back_text(shot),
        focal,
        unit: if solved.is_scaled() {
            "metre"
        } else {
            "no scale"
        },
    }
}

fn stations(shot: &Shot, solved: &Answer, recipes: &[RecipeRow], viewable: bool) -> Vec<Station> {
    let photo = &shot.state.photo;
    let warned = solved.findings.iter().any(Finding::is_doubt);
    let has_camera = solved.camera.is_some();
    let rails = match (photo.rails.is_empty(), &solved.camera) {
        (true, _) => (Standing::NotBegun, "–".to_owned()),
        (_, None) => (Standing::InWork, photo.rails.len().to_string()),
        (_, Some(camera)) => {
            let standing = if warned {
                Standing::NeedsALook
            } else {
                Standing::Good
            };
            (standing, format!("{:.2} px", camera.figures.rms_px))
        }
    };
    let place_error = solved
        .camera
        .as_ref()
        .is_some_and(|c| c.place_error.is_some());
    let orient = match (solved.is_scaled(), photo.origin, place_error) {
        (_, _, true) => (Standing::NeedsALook, "see notes"),
        (true, _, _) => (Standing::Good, "metre"),
        (false, Some(_), _) => (Standing::InWork, "no scale"),
        _ => (Standing::NotBegun, "–"),
    };
    let proof = match (photo.corner_box, has_camera) {
        (Some(_), true) => (Standing::Good, "1 box"),
        (Some(_), false) => (Standing::NeedsALook, "1 box"),
        _ => (Standing::NotBegun, "–"),
    };
    let made: Vec<&MadeRow> = recipes.iter().filter_map(RecipeRow::made).collect();
    let deliver = deliver::view::standing(&made, false, false);
    let plate = if viewable {
        Standing::Good
    } else {
        Standing::InWork
    };
    vec![
        Station::new("plate", "Plate", plate, "1 photo".to_owned()),
        Station::new("rails", "Rails", rails.0, rails.1),
        Station::new("orient", "Orient", orient.0, orient.1.to_owned()),
        Station::new("proof", "Proof", proof.0, proof.1.to_owned()),
        Station::new("deliver", "Deliver", deliver.0, deliver.1),
    ]
}
