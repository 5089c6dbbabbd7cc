//! Which features do not stay where the scene is?
//!
//! Epipolar lines let a feature slide along them. Three and more views do not: the shot is solved
//! in windows, and a feature that no point in space explains is named. Between a near and a far
//! surface it is a false corner (the crossing of two edges at different depths, which looks good
//! and is no place); elsewhere it moves by itself. Where a window cannot be solved (a camera that
//! rests or only turns) nothing is said.

use super::{Suspect, Why};
use crate::camera::{Intrinsics, Pose};
use crate::progress::Progress;
use crate::solve::{
    Attempt, CameraMove, LensTerms, Readout, SetAside, SolveOptions, Verdict, solve,
};
use crate::spaces::{FrameNumber, PlatePx, TrackId, WorldPoint};
use crate::tracks::{Sample, Track, frames_of};
use nalgebra::Vector3;
use rayon::prelude::*;
use std::collections::HashMap;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Frames that are solved together, and how many of them the next window sees again.
const WINDOW: usize = 72;
const OVERLAP: usize = 24;
/// Landmarks nearer than this share of the picture's width tell the depths around a feature.
const AROUND: f64 = 0.05;
/// Depths that differ by this factor belong to two surfaces.
const TWO_DEPTHS: f64 = 1.25;

/// One window's solve as a part of all, which are solved side by side: each window has its share, and of that what
/// its own solve says it has done, whose stages follow each other and are counted as alike.
struct Within<'a> {
    all: &'a dyn Progress,
    /// Steps that each window has done.
    done: &'a [AtomicUsize],
    window: usize,
}

/// Steps of progress for each window, and the stages of a solve in their order.
const STEPS: usize = 100;
const STAGES: [&str; 5] = [
    "solve: evidence",
    "solve: start",
    "solve: grow",
    "solve: frames",
    "solve: adjust",
];

impl Progress for Within<'_> {
    fn report(&self, stage: &'static str, done: usize, total: usize) {
        let before = STAGES.iter().position(|s| *s == stage).unwrap_or(0);
        let steps = (before * STEPS + STEPS * done.min(total) / total.max(1)) / STAGES.len();
        // A solve that tries another model begins anew; what was said does not go back.
        self.done[self.window].fetch_max(steps, Ordering::Relaxed);
        let so_far = self.done.iter().map(|d| d.load(Ordering::Relaxed)).sum();
        self.all
            .report("judge: scene", so_far, self.done.len() * STEPS);
    }

    fn is_cancelled(&self) -> bool {
        self.all.is_cancelled()
    }
}

/// What a window's solve says of its tracks, and its focal length, px.
type Window = (Vec<(TrackId, Option<Suspect>)>, f64);

/// A shot that is solved in windows.
struct Shot<'a> {
    tracks: &'a [Track],
    frames: Vec<FrameNumber>,
    /// Where windows begin.
    firsts: Vec<usize>,
    /// Steps that each of them has done.
    done: Vec<AtomicUsize>,
    progress: &'a dyn Progress,
}

impl<'a> Shot<'a> {
    fn of(tracks: &'a [Track], progress: &'a dyn Progress) -> Self {
        let frames = frames_of(tracks);
        let stride = WINDOW - OVERLAP;
        let beyond = frames.len().saturating_sub(WINDOW);
        let firsts = (0..=beyond.next_multiple_of(stride)).step_by(stride);
        let firsts: Vec<usize> = firsts.filter(|first| *first < frames.len()).collect();
        Self {
            done: firsts.iter().map(|_| AtomicUsize::new(0)).collect(),
            tracks,
            frames,
            firsts,
            progress,
        }
    }

    /// One window; nothing where it has no camera that can be relied on.
    fn window(&self, window: usize, options: &SolveOptions) -> Option<Window> {
        let first = self.firsts[window];
        let last = (first + WINDOW).min(self.frames.len()) - 1;
        let inside = within(self.tracks, self.frames[first], self.frames[last]);
        let progress = Within {
            all: self.progress,
            done: &self.done,
            window,
        };
        let attempt = solve(&inside, options, &progress).ok()?;
        let is_good = attempt.verdict == Verdict::Good;
        is_good.then(|| (judged(&inside, &attempt), attempt.lens.focal_px))
    }
}

/// Tracks that no point of the scene explains.
pub fn against(tracks: &[Track], lens: &Intrinsics, progress: &dyn Progress) -> Vec<Suspect> {
    let options = SolveOptions {
        moves: Some(CameraMove::Free),
        zooms: Some(false),
        readout: Readout::None,
        solve_lens: LensTerms::TWO,
        ..SolveOptions::nothing_known(*lens)
    };
    let shot = Shot::of(tracks, progress);
    if shot.firsts.is_empty() {
        return Vec::new();
    }
    let first = shot.window(0, &options);
    // One camera sees all of them: where the first tells its focal length, the others begin with that, and look for
    // another only where it leads nowhere.
    let begun = first.as_ref().map(|(_, focal_px)| SolveOptions {
        focal_to_begin_with: Some(*focal_px),
        ..options.clone()
    });
    let of_other = |window| {
        let with_known = begun.as_ref().and_then(|begun| shot.window(window, begun));
        with_known.or_else(|| shot.window(window, &options))
    };
    let others = (1..shot.firsts.len()).into_par_iter().map(of_other);
    let others: Vec<Option<Window>> = others.collect();
    let windows = std::iter::once(first).chain(others).flatten();
    let mut verdicts: HashMap<TrackId, Option<Suspect>> = HashMap::new();
    for (track, suspect) in windows.flat_map(|(judged, _)| judged) {
        // Good in one window is good: a later one may see too little of it.
        let known = verdicts.entry(track).or_insert(suspect);
        if suspect.is_none() {
            *known = None;
        }
    }
    verdicts.into_values().flatten().collect()
}

fn within(tracks: &[Track], first: FrameNumber, last: FrameNumber) -> Vec<Track> {
    let cut = |t: &Track| {
        let samples: Vec<Sample> = t
            .samples
            .iter()
            .filter(|s| (first..=last).contains(&s.frame))
            .copied()
            .collect();
        (samples.len() >= 3).then(|| Track {
            samples,
            ..t.clone()
        })
    };
    tracks.iter().filter_map(cut).collect()
}

fn judged(tracks: &[Track], attempt: &Attempt) -> Vec<(TrackId, Option<Suspect>)> {
    let by_id: HashMap<TrackId, &Track> = tracks.iter().map(|t| (t.id, t)).collect();
    let kept = attempt.landmarks.iter().map(|l| (l.track, None));
    let against = attempt
        .set_aside
        .iter()
        .filter(|(_, why)| *why == SetAside::AgainstTheScene);
    let suspects =
        against.filter_map(|(id, _)| Some((*id, Some(evidence(by_id.get(id)?, attempt, &by_id)?))));
    kept.chain(suspects).collect()
}

/// How far off a track is from the point that explains most of it, where most so, and whether
/// it lies between two depths there.
fn evidence(track: &Track, attempt: &Attempt, all: &HashMap<TrackId, &Track>) -> Option<Suspect> {
    let views: Vec<(Pose, &Sample)> = track
        .samples
        .iter()
        .filter_map(|s| Some((*attempt.pose(s.frame)?, s)))
        .collect();
    let (first, last) = (views.first()?, views.last()?);
    let point = nearest_point(attempt, first, last)?;
    let off = |(pose, s): &(Pose, &Sample)| {
        attempt
            .lens
            .project(pose, &point)
            .map(|px| (s.frame, px.distance_px(s.px)))
    };
    let (frame, figure) = views
        .iter()
        .filter_map(off)
        .max_by(|a, b| a.1.total_cmp(&b.1))?;
    let at = track.at(frame)?.px;
    let why = if lies_between(at, frame, attempt, all) {
        Why::FalseCorner
    } else {
        Why::Mover
    };
    Some(Suspect {
        track: track.id,
        why,
        figure,
        frame,
        other: None,
    })
}

/// The point that the rays of the first and the last view come nearest to.
fn nearest_point(
    attempt: &Attempt,
    first: &(Pose, &Sample),
    last: &(Pose, &Sample),
) -> Option<WorldPoint> {
    let ray = |(pose, s): &(Pose, &Sample)| {
        let at = attempt.lens.lens_point(s.px)?;
        let direction = pose.camera_from_world.rotation.inverse() * Vector3::new(at.x, -at.y, -1.0);
        Some((pose.centre().0, direction.normalize()))
    };
    let ((a, u), (b, v)) = (ray(first)?, ray(last)?);
    let between = b - a;
    let along = u.dot(&v);
    let depth = (between.dot(&u) - between.dot(&v) * along) / (1.0 - along * along).max(1e-9);
    (depth > 0.0).then(|| WorldPoint(a + u * depth))
}

/// Whether landmarks near a place on a frame lie at two depths.
fn lies_between(
    at: PlatePx,
    frame: FrameNumber,
    attempt: &Attempt,
    all: &HashMap<TrackId, &Track>,
) -> bool {
    let Some(pose) = attempt.pose(frame) else {
        return false;
    };
    let reach = AROUND * f64::from(attempt.lens.width_px);
    let mut depths: Vec<f64> = attempt
        .landmarks
        .iter()
        .filter(|l| {
            all.get(&l.track)
                .and_then(|t| t.at(frame))
                .is_some_and(|s| s.px.distance_px(at) < reach)
        })
        .map(|l| (l.point.0 - pose.centre().0).norm())
        .collect();
    depths.sort_by(f64::total_cmp);
    matches!((depths.first(), depths.last()), (Some(near), Some(far)) if far / near > TWO_DEPTHS)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::progress::Silent;
    use crate::tracks::{Covariance, TrackKind};
    use rstest::rstest;

    #[rstest]
    #[case::nothing(0, &[])]
    #[case::short(50, &[0])]
    #[case::one_window(72, &[0])]
    #[case::a_frame_more(73, &[0, 48])]
    #[case::two_windows(120, &[0, 48])]
    #[case::long(400, &[0, 48, 96, 144, 192, 240, 288, 336])]
    fn windows_reach_over_the_whole_shot(#[case] frames: i32, #[case] firsts: &[usize]) {
        let at = |frame| Sample {
            frame: FrameNumber(frame),
            px: PlatePx::new(9.0, 5.0),
            covariance: Covariance::isotropic(0.1),
        };
        let track = Track::new(TrackId(1), TrackKind::Auto, (0..frames).map(at).collect());
        let tracks = [track];
        let shot = Shot::of(&tracks, &Silent);
        assert_eq!(shot.firsts, firsts);
        let end = firsts.last().map_or(0, |first| first + WINDOW);
        assert!(end >= shot.frames.len());
    }
}
