//! Which bodies are there, and which tracks are theirs?
//!
//! A [`Search`] begins with what was solved first, solves what that leaves, and mends each body's camera by
//! what the others have shown to be its own or not. Each step leaves the bodies as they were where it
//! finds nothing; the only failure is being cancelled.

use super::cover::Held;
use super::found::{Found, told_apart};
use super::{Body, Candidates, USUAL_WIDTHS, begun_with, counted, covered, said, unless_cancelled};
use crate::progress::Progress;
use crate::solve::doubts::Doubt;
use crate::solve::views::Views;
use crate::solve::{
    Attempt, FEWEST_TRACKS, FocalKnowledge, Landmark, SolveError, SolveOptions, criterion, solve,
    solve_again,
};
use crate::spaces::TrackId;
use crate::tracks::Track;
use std::collections::HashSet;

/// Bodies that are looked for at most.
const MOST_BODIES: usize = 3;
/// Below this cover something is too small to be a body.
const LEAST_COVER: f64 = 0.08;
/// What was set aside and fits is taken back where it is more than this share of the tracks.
const WORTH_TAKING_BACK: f64 = 0.03;
/// So often the scene hears what is left.
const HEARINGS: usize = 2;
/// A body that covers less than this share of the picture may be part of one, grown from a start that went wrong.
const AMPLE: f64 = 0.6;

/// Bodies that were found so far.
pub struct Search<'a> {
    candidates: Candidates<'a>,
    options: &'a SolveOptions,
    views: Views,
    held: Held,
    found: Vec<Found>,
    progress: &'a dyn Progress,
}

impl<'a> Search<'a> {
    /// With the first one.
    pub fn begun(
        candidates: Candidates<'a>,
        options: &'a SolveOptions,
        first: Attempt,
        progress: &'a dyn Progress,
    ) -> Self {
        let views = Views::of(candidates.tracks, options);
        Self {
            candidates,
            options,
            held: Held::of(&views, options),
            found: vec![Found::of(first, &views)],
            views,
            progress,
        }
    }

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
    pub fn hear_the_suspected(&mut self) -> Result<(), SolveError> {
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
    pub fn try_usual_focals(&mut self) -> Result<(), SolveError> {
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
        self.try_focals_that_stay()
    }

    /// A focal length that changes as it likes lets a mixture pass for one body. Where it is stated to change, bodies are
    /// told apart by focal lengths that stay, and each is solved by itself with its own.
    fn try_focals_that_stay(&mut self) -> Result<(), SolveError> {
        if self.options.zooms != Some(true) || self.has_ample_one() {
            return Ok(());
        }
        let stays = SolveOptions {
            zooms: Some(false),
            ..self.options.clone()
        };
        for widths in USUAL_WIDTHS {
            if self.has_ample_one() {
                break;
            }
            let tracks = self.candidates.tracks;
            let solved = begun_with(widths, tracks, &stays, Some(false), self.progress);
            if let Some(attempt) = unless_cancelled(solved)? {
                let found = Found::of(attempt, &self.views);
                self.add(solve(&self.own(&found), self.options, self.progress))?;
            }
        }
        Ok(())
    }

    /// The tracks that fit a body.
    fn own(&self, found: &Found) -> Vec<Track> {
        let fits = found.fits.iter().zip(&self.views.tracks);
        let own: HashSet<TrackId> = fits.filter_map(|(fit, id)| fit.map(|_| *id)).collect();
        self.candidates.chosen(|id| own.contains(&id))
    }

    /// What no body explains that can be relied on may be another one.
    pub fn solve_what_is_left(&mut self) -> Result<(), SolveError> {
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
    pub fn drop_doubles(&mut self) {
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
    pub fn settle(&mut self) -> Result<(), SolveError> {
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

    /// Lets the focal lengths of bodies change that seem to.
    pub fn let_focals_change(&mut self) -> Result<(), SolveError> {
        (0..self.found.len()).try_for_each(|body| self.let_focal_change(body))
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
        let tracks = self.own(found);
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
        let better = other.filter(|a| criterion::explains_more(&views, a, &found.attempt));
        let is_better = better.is_some();
        if let Some(attempt) = better {
            *found = Found::of(attempt, &self.views);
        }
        is_better
    }

    /// Which of those found each body is, that for which most speaks first.
    fn weighed(&self) -> Vec<(usize, Body)> {
        let bodies = told_apart(&self.found, &self.views, &self.held);
        let mut weighed: Vec<(usize, Body)> = bodies.into_iter().enumerate().collect();
        weighed.sort_by(|a, b| b.1.weight().total_cmp(&a.1.weight()));
        weighed
    }

    /// The scene as it seems so far, with its tracks and those of other bodies that are not its own.
    fn scene(&self) -> (usize, HashSet<TrackId>, HashSet<TrackId>) {
        let mut weighed = self.weighed();
        let (scene, body) = weighed.remove(0);
        let own: HashSet<TrackId> = body.tracks.into_iter().collect();
        let others = weighed.into_iter().flat_map(|(_, body)| body.tracks);
        let foreign = others.filter(|id| !own.contains(id)).collect();
        (scene, own, foreign)
    }

    /// What others have shown to be the scene's or not puts its camera right.
    pub fn mend_scene(&mut self) -> Result<(), SolveError> {
        let is_other = self.take_back()?;
        let (scene, _, foreign) = self.scene();
        let is_heard = self.hear_what_is_left(scene, &foreign)?;
        match is_other || is_heard {
            true => self.let_focal_change(scene),
            false => Ok(()),
        }
    }

    /// Solves the scene again with what was set aside and belongs to it after all, and without what
    /// belongs to another body; whether that was worth it.
    fn take_back(&mut self) -> Result<bool, SolveError> {
        let (scene, own, foreign) = self.scene();
        let attempt = &self.found[scene].attempt;
        let new = own.iter().filter(|id| attempt.landmark(**id).is_none());
        let is_stray = |l: &&Landmark| foreign.contains(&l.track);
        let stray = attempt.landmarks.iter().filter(is_stray);
        if ((new.count() + stray.count()) as f64) < WORTH_TAKING_BACK * own.len() as f64 {
            return Ok(false);
        }
        let had = |id: TrackId| attempt.landmark(id).is_some() && !foreign.contains(&id);
        let tracks = self.candidates.chosen(|id| own.contains(&id) || had(id));
        // Where that gives no camera it stays as it was solved, with its doubts.
        let again = unless_cancelled(solve_again(&tracks, self.options, attempt, self.progress))?;
        let is_other = again.is_some();
        if let Some(attempt) = again {
            self.found[scene] = Found::of(attempt, &self.views);
        }
        Ok(is_other)
    }

    /// A camera whose focal length went wrong while it grew fits what lies at some depths and sets aside what
    /// lies at others, which would put it right. Where the scene's is doubted all that belongs to no other body is
    /// heard again, as long as more is explained by it; whether it was.
    fn hear_what_is_left(
        &mut self,
        scene: usize,
        foreign: &HashSet<TrackId>,
    ) -> Result<bool, SolveError> {
        let tracks = self.candidates.chosen(|id| !foreign.contains(&id));
        for heard in 0..HEARINGS {
            let attempt = &self.found[scene].attempt;
            if attempt.doubts.is_empty() {
                return Ok(heard > 0);
            }
            let again = solve_again(&tracks, self.options, attempt, self.progress);
            let again = unless_cancelled(again)?;
            if !self.take_if_better(scene, again, &tracks) {
                return Ok(heard > 0);
            }
        }
        Ok(true)
    }

    /// The attempt of the body for which most speaks.
    pub fn chosen(mut self) -> Attempt {
        let mut weighed = self.weighed();
        let (chosen, scene) = weighed.remove(0);
        let others: Vec<Body> = weighed.into_iter().map(|(_, body)| body).collect();
        let attempt = self.found.swap_remove(chosen).attempt;
        let attempt = covered(attempt, &self.views, &self.held);
        let attempt = counted(attempt, self.options.plate_frames);
        said(attempt, &self.views, scene, others)
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::camera::{Intrinsics, Pose};
    use crate::progress::Silent;
    use crate::spaces::{FrameNumber, WorldPoint};
    use crate::tracks::{Covariance, Sample, TrackKind};
    use nalgebra::{Point3, Vector3};
    use rstest::rstest;

    const FRAMES: usize = 40;
    const FOCAL_PX: f64 = 1100.0;

    /// A camera slides past points with their depths; half of them on a wall, the others well before and behind it.
    fn slide() -> Vec<(Track, f64)> {
        let lens = Intrinsics::centred(1280, 720, FOCAL_PX);
        let mut random = fastrand::Rng::with_seed(11);
        let mut draw = |low: f64, high: f64| low + (high - low) * random.f64();
        let poses: Vec<Pose> = (0..FRAMES)
            .map(|k| {
                let x = -2.0 + 4.0 * k as f64 / FRAMES as f64;
                let eye = Point3::new(x, 0.1 * (k as f64 / 7.0).sin(), 6.0);
                Pose::looking_at(&eye, &Point3::new(0.0, 0.0, -3.0), &Vector3::y())
            })
            .collect();
        let mut track = |id: u32| {
            let depth = match id % 4 {
                0 => draw(4.0, 5.0),
                1 => draw(14.0, 16.0),
                _ => draw(8.8, 9.2),
            };
            let wide = 0.6 * depth;
            let place = Point3::new(
                draw(-wide, wide),
                draw(-0.5 * wide, 0.5 * wide),
                6.0 - depth,
            );
            let samples = poses.iter().zip(1..).filter_map(|(pose, frame)| {
                let px = lens.project(pose, &WorldPoint(place))?;
                let off = [draw(-0.17, 0.17), draw(-0.17, 0.17)];
                let px = px.moved(nalgebra::Vector2::from(off));
                let is_inside = (0.0..1280.0).contains(&px.x) && (0.0..720.0).contains(&px.y);
                is_inside.then_some(Sample {
                    frame: FrameNumber(frame),
                    px,
                    covariance: Covariance::isotropic(0.1),
                })
            });
            let track = Track::new(TrackId(id), TrackKind::Auto, samples.collect());
            (track, depth)
        };
        (1..=400).map(&mut track).collect()
    }

    /// A camera that is doubted explains what lies at like depths with a focal length that is wrong: all that belongs
    /// to nothing else is heard again and puts it right.
    #[rstest]
    #[case::too_short(0.7)]
    #[case::too_long(1.7)]
    fn what_a_wrong_focal_length_set_aside_puts_it_right(#[case] share: f64) {
        let slide = slide();
        let lens = Intrinsics::centred(1280, 720, FOCAL_PX);
        let known = SolveOptions {
            focal: FocalKnowledge::Known(share * FOCAL_PX),
            ..SolveOptions::nothing_known(lens)
        };
        let at_like_depths = slide
            .iter()
            .filter(|(_, depth)| (8.0..10.0).contains(depth));
        let at_like_depths: Vec<Track> = at_like_depths.map(|(track, _)| track.clone()).collect();
        let mut wrong = solve(&at_like_depths, &known, &Silent).unwrap();
        wrong.doubts = vec![Doubt::FocalUncertain { percent: 5.0 }];

        let tracks: Vec<Track> = slide.into_iter().map(|(track, _)| track).collect();
        let nobody = HashSet::new();
        let candidates = Candidates {
            tracks: &tracks,
            suspected: &nobody,
        };
        let options = SolveOptions::nothing_known(lens);
        let mut search = Search::begun(candidates, &options, wrong, &Silent);
        // What fits it already does not put it right.
        search.take_back().unwrap();
        let still_off = search.found[0].attempt.lens.focal_px / FOCAL_PX - 1.0;
        assert!(still_off.abs() > 0.05, "off by {still_off} still");
        search.mend_scene().unwrap();
        let attempt = search.chosen();
        let off = attempt.lens.focal_px - FOCAL_PX;
        let sigma_px = attempt.focal_sigma_px.unwrap();
        assert!(
            off.abs() < 3.0 * sigma_px,
            "off by {off} px, sigma {sigma_px} px"
        );
        let kept = attempt.landmarks.len();
        assert!(10 * kept > 8 * tracks.len(), "{kept} kept");
    }
}
