//! What a page shows of a shot: stations with their one figure, facts, findings, work in progress.

use super::next;
use crate::app::App;
use crate::error::ApiError;
use crate::jobs::JobRow;
use crate::said::camera;
use crate::said::finding::Finding;
use crate::said::next::Next;
use crate::said::standing::Station;
use crate::screens::deliver::recipes::{self, FormatRow, RecipeRow, formats};
use crate::screens::lens::{answer as lens_answer, view as lens_view};
use crate::screens::orient::statements::StatementRow;
use crate::screens::proof::movie;
use crate::screens::solve::figures::{
    ConstraintRow, SolveFigures, SurveyRow, constraint_rows, solve_figures, survey_rows,
};
use crate::screens::{deliver, orient, photo, plate, proof, solve, track};
use crate::shot::everything::Everything;
use crate::shot::{facts, lens, solving};
use parallax_core::orient::Orientation;
use parallax_core::plate::FilmBack;
use parallax_store::ShotState;
use parallax_store::attempts::AttemptEntry;
use parallax_store::edits::History;
use parallax_store::shots::PlateFacts;
use serde::Serialize;
use serde_json::Value;
use std::collections::BTreeMap;

/// The view model of a shot that takes footage.
#[derive(Serialize)]
struct ShotView {
    id: i64,
    name: String,
    plate: PlateFacts,
    width: u32,
    height: u32,
    state: ShotState,
    version: i64,
    film_back: FilmBack,
    facts: Facts,
    history: History,
    stations: Vec<Station>,
    next: BTreeMap<&'static str, Next>,
    findings: Vec<Finding>,
    attempts: Vec<AttemptEntry>,
    solve: Option<SolveFigures>,
    orientation: Option<Oriented>,
    recipes: Vec<RecipeRow>,
    formats: Vec<FormatRow>,
    survey: Vec<SurveyRow>,
    constraints: Vec<ConstraintRow>,
    statements: Vec<StatementRow>,
    stale_since: Vec<String>,
    undistorted: Option<Undistorted>,
    movie: Option<movie::Made>,
    lens: lens_answer::Answer,
    jobs: Vec<JobRow>,
}

/// The facts row.
#[derive(Serialize)]
struct Facts {
    rate: String,
    range: String,
    size: String,
    film_back: String,
    focal: String,
    move_found: String,
    unit: &'static str,
}

/// How the artist's world lies.
#[derive(Serialize)]
struct Oriented {
    levelled: bool,
    headed: bool,
    scaled: bool,
    ground: Option<f64>,
    up_sigma_deg: Option<f64>,
    heading_sigma_deg: Option<f64>,
    scale_percent: Option<f64>,
}

/// The plate undistorted.
#[derive(Serialize)]
struct Undistorted {
    receipt: Option<Value>,
    folder: String,
    stale: bool,
}

/// The whole view model of a shot, of footage or one photograph.
pub async fn of(app: &App, id: i64) -> Result<Value, ApiError> {
    // Work is looked at first: whoever reads that it is done reads what it came to as well.
    let jobs = app.store.jobs(id).await?;
    let shot = app.store.shot(id).await?;
    if facts::is_photograph(&shot) {
        return photo::view::view(app, shot, &jobs).await;
    }
    let all = Everything::read(app, shot, jobs).await?;
    let history = app.store.history(id).await?;
    let attempts = app.store.attempts(id).await?;
    let work = all.jobs.iter().map(|j| app.job_row(j)).collect();
    // Straights are solved for it.
    let movie = movie::made(app, &all.shot);
    let made = move || put_together(all, history, attempts, movie, work);
    let view = tokio::task::spawn_blocking(made).await?;
    Ok(serde_json::to_value(view)?)
}

fn put_together(
    all: Everything,
    history: History,
    attempts: Vec<AttemptEntry>,
    movie: Option<movie::Made>,
    jobs: Vec<JobRow>,
) -> ShotView {
    let shot = &all.shot;
    let recipes = recipes::rows(shot, &all.delivered);
    let stations = stations(&all, &recipes);
    let next = next::steps(&all, &stations);
    let attempt = all.attempt.as_ref().map(|a| &a.attempt);
    let back = facts::film_back(shot);
    let stale_since = all.attempt.as_ref();
    let stale_since = stale_since.map(|a| solving::stale_since(shot, a, &all.tracks));
    let undistorted = all.undistorted.as_ref().map(|u| Undistorted {
        receipt: serde_json::from_str(&u.receipt).ok(),
        folder: u.folder.clone(),
        stale: u.inputs != lens::undistorted_inputs(shot, attempt),
    });
    ShotView {
        id: shot.id,
        name: shot.name.clone(),
        plate: shot.plate.clone(),
        width: shot.width_px,
        height: shot.height_px,
        state: shot.state.clone(),
        version: shot.version,
        film_back: back,
        facts: facts_row(&all, &back),
        history,
        stations,
        next,
        findings: findings(&all),
        attempts,
        solve: attempt.map(|a| solve_figures(a, &back, shot.state.rate)),
        orientation: all.orientation.as_deref().map(orientation),
        statements: orient::statements::rows(&all),
        recipes,
        formats: formats(),
        survey: survey_rows(&all),
        constraints: constraint_rows(&all),
        stale_since: stale_since.unwrap_or_default(),
        undistorted,
        movie,
        lens: lens_answer::answer(shot, &shot.state.lens, attempt),
        jobs,
    }
}

fn orientation(o: &Orientation) -> Oriented {
    Oriented {
        levelled: o.levelled,
        headed: o.headed,
        scaled: o.scaled,
        ground: o.ground,
        up_sigma_deg: o.up_sigma_deg,
        heading_sigma_deg: o.heading_sigma_deg,
        scale_percent: o.scale_share_sigma.map(|s| 100.0 * s),
    }
}

fn facts_row(all: &Everything, back: &FilmBack) -> Facts {
    let s = &all.shot.state;
    let plate = &all.shot.plate;
    let (first, last) = s.range.unwrap_or((plate.first, plate.last));
    let solved = all.attempt.as_ref().map(|a| &a.attempt);
    let unit = match &all.orientation {
        Some(o) if o.scaled => "metre",
        _ => "no scale",
    };
    Facts {
        rate: s.rate.map_or("unknown".to_owned(), |r| r.to_string()),
        range: format!("{first}–{last}"),
        size: format!("{}×{}", all.shot.width_px, all.shot.height_px),
        film_back: facts::film_back_text(&all.shot),
        focal: camera::focal(s, solved, back),
        move_found: camera::found(solved),
        unit,
    }
}

/// The route: each station rests on those before it.
fn stations(all: &Everything, recipes: &[RecipeRow]) -> Vec<Station> {
    let track = track::view::station(all);
    let solve = solve::view::station(all, track.standing);
    let orient = orient::view::station(all, solve.standing);
    let proof = proof::view::station(all, orient.standing);
    let deliver = deliver::view::station(all, recipes, solve.standing);
    let (plate, lens) = (plate::view::station(all), lens_view::station(all));
    vec![plate, lens, track, solve, orient, proof, deliver]
}

/// All that can be said of a shot, but for its lens.
fn findings(all: &Everything) -> Vec<Finding> {
    let stations = [
        plate::findings::findings(all),
        track::findings::findings(all),
        solve::findings::findings(all),
        orient::view::findings(all),
        proof::findings::findings(all),
    ];
    stations.into_iter().flatten().collect()
}
