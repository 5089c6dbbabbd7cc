//! Which things move rigidly, and which of them is the scene?
//!
//! Votes of frame pairs know neither the whole shot nor how much of the picture something fills: a
//! large thing full of detail that moves by itself can win most of them. So nothing that was set
//! aside before the solve stays so unheard. One body is solved from what was left; what was set
//! aside and fits its cameras is taken back; what fits it nowhere is solved by itself, as often as
//! enough is left for another body (sequential consensus, as in Torr 1998, on whole solves instead
//! of pairs). Where the scene's camera is doubted, all that belongs to no other body is heard once
//! more. The scene is the body that covers most of the picture over most of the frames and
//! reaches its borders ([`Body::weight`]); the camera of the attempt is that one's. A rival of comparable
//! weight is a doubt, so that such an attempt is never called good.

mod cover;
mod found;
pub mod motion;
mod search;

use super::doubts::{self, Doubt};
use super::underway::Underway;
use super::views::Views;
use super::{
    Attempt, FocalKnowledge, SetAside, SolveError, SolveOptions, go_on, solve, solve_again,
};
use crate::progress::{Checkpoints, Progress};
use crate::spaces::TrackId;
use crate::tracks::Track;
use cover::Held;
use search::Search;
use serde::{Deserialize, Serialize};
use std::collections::{HashMap, HashSet};

/// Something that moves rigidly in the picture.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct Body {
    /// Its tracks, ascending.
    pub tracks: Vec<TrackId>,
    /// Share of the picture in which its features are the nearest, over all frames.
    pub cover: f64,
    /// The same at the picture's border.
    pub border: f64,
    /// Share of the shot's frames on which it holds several features.
    pub life: f64,
    /// Root mean square of its residuals, px.
    pub rms_px: f64,
    /// 1 where residuals are as small as the tracks claim to be certain, less where they are larger
    /// or its camera is doubted: what bends or waves is no rigid body.
    pub fit: f64,
}

impl Body {
    /// How much speaks for its being the scene, 0 to 1: area, most of all at the borders, time, and
    /// how rigid it is.
    pub fn weight(&self) -> f64 {
        (0.3 * self.cover + 0.7 * self.border) * self.life * self.fit
    }
}

/// A rival of this share of the scene's weight is a doubt.
const RIVAL: f64 = 0.4;
/// A camera that uses less than this share of the positions explains too little ...
const LEAST_USED: f64 = 0.2;
/// ... and so does one whose landmarks are the nearest in less than this share of a frame.
const LEAST_ON_A_FRAME: f64 = 0.25;
/// Focal lengths that are tried where no camera can be relied on, picture widths.
const USUAL_WIDTHS: [f64; 3] = [0.75, 1.15, 1.75];

/// Tracks that may take part, and which of them were set aside for moving by themselves.
#[derive(Clone, Copy)]
pub struct Candidates<'a> {
    /// All of them.
    pub tracks: &'a [Track],
    /// Those that were set aside before anything was solved.
    pub suspected: &'a HashSet<TrackId>,
}

impl Candidates<'_> {
    fn trusted(&self) -> Vec<Track> {
        self.chosen(|id| !self.suspected.contains(&id))
    }

    fn suspected(&self) -> Vec<Track> {
        self.chosen(|id| self.suspected.contains(&id))
    }

    fn chosen(&self, takes_part: impl Fn(TrackId) -> bool) -> Vec<Track> {
        let wanted = self.tracks.iter().filter(|t| takes_part(t.id));
        wanted.cloned().collect()
    }
}

/// Solves the camera against the scene, anew or where an interrupted run left it.
pub fn solve_scene(
    candidates: Candidates<'_>,
    options: &SolveOptions,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    let first = match go_on(&candidates.trusted(), options, checkpoints, progress) {
        // Whatever else there is, this is what the scene shows, and what it lacks.
        Err(error) if error.is_of_a_locked_zoom() => return Err(error),
        Err(error) if error != SolveError::Cancelled => {
            let otherwise = solved_otherwise(candidates, options, progress)?;
            match (otherwise, &error) {
                (None, SolveError::NotCredible { .. }) => {
                    from_usual_focals(candidates, options, progress)?.ok_or(error)?
                }
                (otherwise, _) => otherwise.ok_or(error)?,
            }
        }
        first => first?,
    };
    among_bodies(candidates, options, first, progress)
}

/// Solves again from an attempt.
pub fn solve_scene_again(
    candidates: Candidates<'_>,
    options: &SolveOptions,
    from: &Attempt,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    // What the attempt took back takes part as it did.
    let had = |id: TrackId| from.landmark(id).is_some() || !candidates.suspected.contains(&id);
    let first = solve_again(&candidates.chosen(had), options, from, progress)?;
    among_bodies(candidates, options, first, progress)
}

/// Where what was trusted gives no camera: all tracks, or those that were set aside.
fn solved_otherwise(
    candidates: Candidates<'_>,
    options: &SolveOptions,
    progress: &dyn Progress,
) -> Result<Option<Attempt>, SolveError> {
    if candidates.suspected.is_empty() {
        return Ok(None);
    }
    if let Some(attempt) = unless_cancelled(solve(candidates.tracks, options, progress))? {
        return Ok(Some(attempt));
    }
    unless_cancelled(solve(&candidates.suspected(), options, progress))
}

/// Where a camera came out that cannot be trusted, as one whose focal length ran away: begun with a usual one, and
/// solved again with its own.
fn from_usual_focals(
    candidates: Candidates<'_>,
    options: &SolveOptions,
    progress: &dyn Progress,
) -> Result<Option<Attempt>, SolveError> {
    if options.focal != FocalKnowledge::Unknown {
        return Ok(None);
    }
    let tracks = candidates.trusted();
    for widths in USUAL_WIDTHS {
        let solved = begun_with(widths, &tracks, options, options.zooms, progress);
        if let Some(attempt) = unless_cancelled(solved)? {
            return Ok(Some(attempt));
        }
    }
    Ok(None)
}

/// Solved with a focal length of so many picture widths first, and then with its own.
fn begun_with(
    widths: f64,
    tracks: &[Track],
    options: &SolveOptions,
    zooms: Option<bool>,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    let focal_px = widths * f64::from(options.lens.width_px);
    let stated = SolveOptions {
        focal: FocalKnowledge::Known(focal_px),
        zooms,
        ..options.clone()
    };
    let first = solve(tracks, &stated, progress)?;
    solve_again(tracks, options, &first, progress)
}

/// What a solve found; that it found nothing is no failure here, being cancelled is.
fn unless_cancelled(solved: Result<Attempt, SolveError>) -> Result<Option<Attempt>, SolveError> {
    match solved {
        Err(SolveError::Cancelled) => Err(SolveError::Cancelled),
        solved => Ok(solved.ok()),
    }
}

/// The attempt of the scene among all bodies that there are.
fn among_bodies(
    candidates: Candidates<'_>,
    options: &SolveOptions,
    first: Attempt,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    // All bodies are seen through one sensor.
    let options = &SolveOptions {
        readout: options.readout.or_found(&first),
        ..options.clone()
    };
    let mut search = Search::begun(candidates, options, first, progress);
    search.hear_the_suspected()?;
    search.try_usual_focals()?;
    search.solve_what_is_left()?;
    search.drop_doubles();
    search.settle()?;
    search.drop_doubles();
    search.let_focals_change()?;
    search.mend_scene()?;
    search.drop_doubles();
    Ok(search.chosen())
}

/// The attempt with what speaks against it for what it does not explain.
fn covered(mut attempt: Attempt, views: &Views, held: &Held) -> Attempt {
    let solved: HashSet<TrackId> = attempt.landmarks.iter().map(|l| l.track).collect();
    let all: usize = views.seen.iter().map(Vec::len).sum();
    let share = attempt.positions as f64 / all.max(1) as f64;
    if share < LEAST_USED {
        let percent = 100.0 * share;
        attempt.doubts.push(Doubt::LittleUsed { percent });
    }
    let least = held.least_on_a_frame(|track| solved.contains(&views.tracks[track]));
    if let Some((frame, cover)) = least.filter(|(_, cover)| *cover < LEAST_ON_A_FRAME) {
        attempt.doubts.push(Doubt::LittleCover {
            frame: views.frames[frame],
            percent: 100.0 * cover,
        });
    }
    attempt
}

/// The attempt with what speaks against it for frames of the plate that have no camera.
fn counted(mut attempt: Attempt, plate_frames: Option<usize>) -> Attempt {
    let solved = attempt.frames.len();
    let Some(all) = plate_frames.filter(|all| *all > solved) else {
        return attempt;
    };
    attempt
        .doubts
        .retain(|d| !matches!(d, Doubt::FramesLost { .. }));
    attempt.doubts.push(Doubt::FramesLost { solved, all });
    attempt
}

/// The attempt with its bodies, and what speaks against it on their account.
fn said(mut attempt: Attempt, views: &Views, scene: Body, others: Vec<Body>) -> Attempt {
    if let Some(rival) = others.first()
        && rival.weight() > RIVAL * scene.weight()
    {
        attempt.doubts.insert(
            0,
            Doubt::Rival {
                scene_percent: 100.0 * scene.cover,
                rival_percent: 100.0 * rival.cover,
            },
        );
    }
    let elsewhere: HashSet<TrackId> = others.iter().flat_map(|b| b.tracks.clone()).collect();
    let by_solve: HashMap<TrackId, SetAside> = attempt.set_aside.iter().copied().collect();
    let has_landmark = |id: &TrackId| attempt.landmark(*id).is_some();
    let why = |id: &TrackId| match by_solve.get(id).unwrap_or(&SetAside::AgainstTheScene) {
        SetAside::AgainstTheScene if elsewhere.contains(id) => (*id, SetAside::AnotherBody),
        why => (*id, *why),
    };
    let aside = views.tracks.iter().filter(|id| !has_landmark(id));
    attempt.set_aside = aside.map(why).collect();
    attempt.verdict = doubts::verdict(&attempt.doubts);
    attempt.bodies = std::iter::once(scene).chain(others).collect();
    attempt
}
