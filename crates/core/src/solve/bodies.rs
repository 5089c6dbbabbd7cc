//! Which things move rigidly, and which of them is the scene?
//!
//! Votes of frame pairs know neither the whole shot nor how much of the picture something fills: a
//! large thing full of detail that moves by itself can win most of them. So nothing that was set
//! aside before the solve stays so unheard. One body is solved from what was left; what was set
//! aside and fits its cameras is taken back; what fits it nowhere is solved by itself, as often as
//! enough is left for another body (sequential consensus, as in Torr 1998, on whole solves instead
//! of pairs). The scene is the body that covers most of the picture over most of the frames and
//! reaches its borders ([`Body::weight`]); the camera of the attempt is that one's. A rival of comparable
//! weight is a doubt, so that such an attempt is never called good.

mod cover;
mod found;
pub mod motion;

use super::doubts::{self, Doubt};
use super::moves;
use super::underway::Underway;
use super::views::Views;
use super::{
    Attempt, FEWEST_TRACKS, FocalKnowledge, SetAside, SolveError, SolveOptions, go_on, solve,
    solve_again,
};
use crate::progress::{Checkpoints, Progress};
use crate::spaces::TrackId;
use crate::tracks::Track;
use cover::Held;
use found::{Found, told_apart};
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

/// Bodies that are looked for at most.
const MOST_BODIES: usize = 3;
/// A rival of this share of the scene's weight is a doubt.
const RIVAL: f64 = 0.4;
/// Below this cover something is too small to be a body.
const LEAST_COVER: f64 = 0.08;
/// A camera that uses less than this share of the positions explains too little ...
const LEAST_USED: f64 = 0.2;
/// ... and so does one whose landmarks are the nearest in less than this share of a frame.
const LEAST_ON_A_FRAME: f64 = 0.25;
/// What was set aside and fits is taken back where it is more than this share of the tracks.
const WORTH_TAKING_BACK: f64 = 0.03;
/// So often the scene hears what is left.
const HEARINGS: usize = 2;
/// A body that covers less than this share of the picture may be part of one, grown from a start that went wrong.
const AMPLE: f64 = 0.6;
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

/// Where a focal length ran away: begun with a usual one, and solved again with its own.
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
    let views = Views::of(candidates.tracks, options);
    // All bodies are seen through one sensor.
    let options = &SolveOptions {
        readout: options.readout.or_found(&first),
        ..options.clone()
    };
    let mut search = Search {
        candidates,
        options,
        held: Held::of(&views, options),
        found: vec![Found::of(first, &views)],
        views,
        progress,
    };
    search.hear_the_suspected()?;
    search.try_usual_focals()?;
    search.solve_what_is_left()?;
    search.drop_doubles();
    search.settle()?;
    search.drop_doubles();
    for body in 0..search.found.len() {
        search.let_focal_change(body)?;
    }
    search.take_back()?;
    search.hear_what_is_left()?;
    search.drop_doubles();
    Ok(search.chosen())
}

/// Bodies that were found so far.
struct Search<'a> {
    candidates: Candidates<'a>,
    options: &'a SolveOptions,
    views: Views,
    held: Held,
    found: Vec<Found>,
    progress: &'a dyn Progress,
}

impl Search<'_> {
    /// Takes in what a solve found; whether it found anything.
    fn add(&mut self, solved: Result<Attempt, SolveError>) -> Result<bool, SolveError> {
        let attempt = unless_cancelled(solved)?;
        let found = attempt.map(|attempt| Found::of(attempt, &self.views));
        let any = found.is_some();
        self.found.extend(found);
        Ok(any)
    }

    fn has_sound_one(&self) -> bool {
        self.found.iter().any(|f| f.is_sound(&self.views))
    }

    /// Where the first camera is doubtful, those that were not heard may know better.
    fn hear_the_suspected(&mut self) -> Result<(), SolveError> {
        if self.has_sound_one() || self.candidates.suspected.len() < FEWEST_TRACKS {
            return Ok(());
        }
        let unheard = self.candidates.suspected();
        self.add(solve(&unheard, self.options, self.progress))?;
        Ok(())
    }

    /// Whether another focal length to begin with is not worth trying: one body lacks little and covers much.
    fn has_ample_one(&self) -> bool {
        let covers = |f: &Found| {
            let body = self.held.body(&self.views, |track| f.fits[track].is_some());
            body.cover >= AMPLE
        };
        let mut found = self.found.iter();
        found.any(|f| f.is_nearly_sound(&self.views) && covers(f))
    }

    /// Seen from far away two bodies can pass for one: solved with a usual focal length first,
    /// which only one body can have, and then with its own. What zooms can begin with a focal length so wrong that most
    /// of the scene never fits.
    fn try_usual_focals(&mut self) -> Result<(), SolveError> {
        if self.options.focal != FocalKnowledge::Unknown {
            return Ok(());
        }
        let nearly = self.found.iter().find(|f| f.is_nearly_sound(&self.views));
        let zooms = nearly.is_some_and(|f| f.attempt.zooms());
        for widths in USUAL_WIDTHS {
            if self.has_ample_one() {
                break;
            }
            let tracks = self.candidates.tracks;
            let zooms = Some(self.options.zooms.unwrap_or(zooms));
            let solved = begun_with(widths, tracks, self.options, zooms, self.progress);
            self.add(solved)?;
        }
        Ok(())
    }

    /// What no body explains that can be relied on may be another one.
    fn solve_what_is_left(&mut self) -> Result<(), SolveError> {
        for _ in 1..MOST_BODIES {
            let sound: Vec<&Found> = self
                .found
                .iter()
                .filter(|f| f.is_sound(&self.views))
                .collect();
            let explained = |track: usize| match sound.is_empty() {
                true => self.found.iter().any(|f| f.fits[track].is_some()),
                false => sound.iter().any(|f| f.fits[track].is_some()),
            };
            let is_left = |track: &usize| !explained(*track);
            let left: HashSet<TrackId> = (0..self.views.tracks.len())
                .filter(is_left)
                .map(|t| self.views.tracks[t])
                .collect();
            let cover = self.held.body(&self.views, |t| !explained(t)).cover;
            if left.len() < FEWEST_TRACKS || cover < LEAST_COVER {
                break;
            }
            let rest = self.candidates.chosen(|id| left.contains(&id));
            // What is left may move in no rigid way.
            if !self.add(solve(&rest, self.options, self.progress))? {
                break;
            }
        }
        Ok(())
    }

    /// Of several solves of one body the one that explains most is kept, a sound one first.
    fn drop_doubles(&mut self) {
        let mut all = std::mem::take(&mut self.found);
        let rank = |f: &Found| (f.is_sound(&self.views), f.fitting());
        all.sort_by_key(|f| std::cmp::Reverse(rank(f)));
        for found in all {
            if !self.found.iter().any(|kept| kept.is_same(&found)) {
                self.found.push(found);
            }
        }
    }

    /// Bodies that were solved from a mixture are solved again from what is their own.
    fn settle(&mut self) -> Result<(), SolveError> {
        if self.found.len() < 2 {
            return Ok(());
        }
        let bodies = told_apart(&self.found, &self.views, &self.held);
        for (found, body) in self.found.iter_mut().zip(bodies) {
            if found.is_sound(&self.views) || body.tracks.len() < FEWEST_TRACKS {
                continue;
            }
            let own: HashSet<TrackId> = body.tracks.into_iter().collect();
            let tracks = self.candidates.chosen(|id| own.contains(&id));
            let again = solve_again(&tracks, self.options, &found.attempt, self.progress);
            if let Some(attempt) = unless_cancelled(again)? {
                *found = Found::of(attempt, &self.views);
            }
        }
        Ok(())
    }

    /// A body whose focal length seems to change is solved by itself with one that does: among the tracks of
    /// all bodies another model may have explained more.
    fn let_focal_change(&mut self, body: usize) -> Result<(), SolveError> {
        if self.options.zooms.is_some() || self.options.focal != FocalKnowledge::Unknown {
            return Ok(());
        }
        let found = &self.found[body];
        let seems_to = |d: &Doubt| matches!(d, Doubt::FocalChanges { .. });
        if !found.attempt.doubts.iter().any(seems_to) {
            return Ok(());
        }
        let fits = found.fits.iter().zip(&self.views.tracks);
        let own: HashSet<TrackId> = fits.filter_map(|(fit, id)| fit.map(|_| *id)).collect();
        let tracks = self.candidates.chosen(|id| own.contains(&id));
        let zooming = SolveOptions {
            moves: Some(found.attempt.moves),
            zooms: Some(true),
            ..self.options.clone()
        };
        let zoomed = unless_cancelled(solve(&tracks, &zooming, self.progress))?;
        self.take_if_better(body, zoomed, &tracks);
        Ok(())
    }

    /// Takes another attempt of a body where it explains these tracks better; whether it did.
    fn take_if_better(&mut self, body: usize, other: Option<Attempt>, tracks: &[Track]) -> bool {
        let views = Views::of(tracks, self.options);
        let found = &mut self.found[body];
        let better = other.filter(|a| moves::explains_more(&views, a, &found.attempt));
        let is_better = better.is_some();
        if let Some(attempt) = better {
            *found = Found::of(attempt, &self.views);
        }
        is_better
    }

    /// The body for which most speaks so far, with its tracks and those of the others that are not its own.
    fn scene(&self) -> (usize, Vec<TrackId>, HashSet<TrackId>) {
        let mut bodies = told_apart(&self.found, &self.views, &self.held);
        let by_weight = |a: &usize, b: &usize| {
            let [a, b] = [a, b].map(|body| bodies[*body].weight());
            a.total_cmp(&b)
        };
        // The first of those that weigh the same.
        let scene = (0..bodies.len()).rev().max_by(by_weight).unwrap_or(0);
        let own = bodies.remove(scene).tracks;
        let mut foreign: HashSet<TrackId> = bodies.into_iter().flat_map(|b| b.tracks).collect();
        for track in &own {
            foreign.remove(track);
        }
        (scene, own, foreign)
    }

    /// Solves the scene again with what was set aside and belongs to it after all, and without what
    /// belongs to another body.
    fn take_back(&mut self) -> Result<(), SolveError> {
        let (scene, own, foreign) = self.scene();
        let attempt = &self.found[scene].attempt;
        let new = own.iter().filter(|id| attempt.landmark(**id).is_none());
        let stray = attempt
            .landmarks
            .iter()
            .filter(|l| foreign.contains(&l.track));
        if ((new.count() + stray.count()) as f64) < WORTH_TAKING_BACK * own.len() as f64 {
            return Ok(());
        }
        let own: HashSet<TrackId> = own.into_iter().collect();
        let had = |id: TrackId| attempt.landmark(id).is_some() && !foreign.contains(&id);
        let tracks = self.candidates.chosen(|id| own.contains(&id) || had(id));
        // Where that gives no camera it stays as it was solved, with its doubts.
        let again = solve_again(&tracks, self.options, attempt, self.progress);
        if let Some(attempt) = unless_cancelled(again)? {
            self.found[scene] = Found::of(attempt, &self.views);
        }
        Ok(())
    }

    /// A camera whose focal length went wrong while it grew fits what lies at some depths and sets aside what
    /// lies at others, which would put it right. Where the scene's is doubted all that belongs to no other body is
    /// heard again, as long as more is explained by it.
    fn hear_what_is_left(&mut self) -> Result<(), SolveError> {
        let (scene, _, foreign) = self.scene();
        let tracks = self.candidates.chosen(|id| !foreign.contains(&id));
        for _ in 0..HEARINGS {
            let attempt = &self.found[scene].attempt;
            if attempt.doubts.is_empty() {
                return Ok(());
            }
            let again = solve_again(&tracks, self.options, attempt, self.progress);
            let again = unless_cancelled(again)?;
            if !self.take_if_better(scene, again, &tracks) {
                break;
            }
        }
        self.let_focal_change(scene)
    }

    /// The attempt of the body for which most speaks.
    fn chosen(self) -> Attempt {
        let bodies = told_apart(&self.found, &self.views, &self.held);
        let attempts = self.found.into_iter().map(|f| f.attempt);
        let mut found: Vec<(Attempt, Body)> = attempts.zip(bodies).collect();
        found.sort_by(|a, b| b.1.weight().total_cmp(&a.1.weight()));
        let (attempt, scene) = found.remove(0);
        let others: Vec<Body> = found.into_iter().map(|(_, body)| body).collect();
        let attempt = covered(attempt, &self.views, &self.held);
        let attempt = counted(attempt, self.options.plate_frames);
        said(attempt, &self.views, scene, others)
    }
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
