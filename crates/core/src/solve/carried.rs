//! What about frames that see hardly anything of the scene?
//!
//! While something passes close before the lens, or a light goes out, a few frames show too little to find a
//! camera from, or one that is anybody's guess. Between frames that are known well the camera can hardly be
//! anywhere: it moves there as it does before and after. So such frames are held by the belief of steady movement
//! ([`super::bundle::beliefs`]), with a few times the standard error that the frames about them show
//! (the root mean square by which the speed of turn and place changes there), and by what they do see. Those
//! that had no camera begin between their neighbours. The covariances then hold how far off a frame may be,
//! in the middle of a long stretch more than at its ends; a frame that stands on nothing else raises
//! [`super::Doubt::Carried`].
//!
//! What lies before the first or after the last frame that is known well is not carried on, nor a stretch
//! without cameras that is longer than [`LONGEST`] frames.

use super::attempt::SolvedFrame;
use super::believed::{Carried, Steady};
use super::bundle::Motion;
use super::bundle::beliefs::{changes, successive};
use super::views::Views;
use super::world::{FEWEST_SIGHTS, World};
use crate::camera::Pose;
use crate::spaces::FrameNumber;
use crate::statistics::{median, spread};
use nalgebra::Vector3;
use std::ops::Range;

/// So many frames without a camera in a row are carried over.
pub const LONGEST: usize = 24;
/// A frame says little that has fewer landmarks ...
const FEWEST: usize = 12;
/// ... or of which number and spread come to less than this share of the usual.
const LITTLE: f64 = 0.05;
/// Frames that see little are taken to be so many times as unsteady as those about them: what they see counts for more,
/// and a camera may move in another way behind what covers it.
const UNSTEADY: f64 = 3.0;
/// How steadily the camera moves is read from so many frames before and after a stretch ...
const AROUND: usize = 36;
/// ... of which so many in a row, three at a time, have to be known well.
const FEWEST_THREES: usize = 6;

/// Gives frames that see little the belief that the camera moves steadily over them, and a camera to those that
/// have none; false where there are no such frames.
pub fn carry(views: &Views, world: &mut World) -> bool {
    world.believed.carried = None;
    let little = seeing_little(views, world);
    let known = |frame: &usize| !little[*frame];
    let (Some(first), Some(last)) = (
        (0..little.len()).find(known),
        (0..little.len()).rfind(known),
    ) else {
        return false;
    };
    let mut frames: Vec<usize> = Vec::new();
    for stretch in stretches(&little[first..=last]) {
        let stretch = first + stretch.start..first + stretch.end;
        if longest_without(world, stretch.clone()) <= LONGEST {
            frames.extend(stretch);
        }
    }
    let steady = match world.motion {
        // One that rests is where it was.
        Motion::Resting => Some(Steady::default()).filter(|_| !frames.is_empty()),
        Motion::Free | Motion::Turning => steadiness(views, world, &little, &frames),
    };
    let Some(steady) = steady else {
        return false;
    };
    for &frame in &frames {
        if world.poses[frame].is_none() {
            between(views, world, &little, frame);
        }
    }
    world.believed.carried = Some(Carried { frames, steady });
    true
}

/// Frames that are carried over and see no more than would make no camera, ascending.
pub fn standing_on_others(
    views: &Views,
    world: &World,
    solved: &[SolvedFrame],
) -> Vec<FrameNumber> {
    let carried = world.believed.carried.iter().flat_map(|c| &c.frames);
    let carried: Vec<FrameNumber> = carried.map(|f| views.frames[*f]).collect();
    let stands =
        |f: &&SolvedFrame| f.features < FEWEST_SIGHTS && carried.binary_search(&f.frame).is_ok();
    solved.iter().filter(stands).map(|f| f.frame).collect()
}

/// How many frames have no camera and cannot be carried over.
pub fn out_of_reach(world: &World) -> usize {
    let lost: Vec<bool> = world.poses.iter().map(Option::is_none).collect();
    let at_an_end = |s: &Range<usize>| s.start == 0 || s.end == lost.len();
    let runs = stretches(&lost).into_iter();
    runs.filter(|s| at_an_end(s) || s.len() > LONGEST)
        .map(|s| s.len())
        .sum()
}

/// Which frames see too little to stand by themselves.
fn seeing_little(views: &Views, world: &World) -> Vec<bool> {
    let mut seen = vec![Vec::new(); views.frames.len()];
    for (track, k, _) in world.residuals_px(views) {
        let s = &views.seen[track][k];
        seen[s.frame].push([s.px.x, s.px.y]);
    }
    let said: Vec<f64> = seen.iter().map(|places| spread(places)).collect();
    let usual = median(&mut said.clone()).unwrap_or(0.0);
    let says_little = |frame: usize| {
        world.poses[frame].is_none() || seen[frame].len() < FEWEST || said[frame] < LITTLE * usual
    };
    (0..seen.len()).map(says_little).collect()
}

/// Runs of what is marked.
fn stretches(marked: &[bool]) -> Vec<Range<usize>> {
    let mut all = Vec::new();
    let mut next = 0;
    while let Some(start) = (next..marked.len()).find(|i| marked[*i]) {
        next = (start..marked.len())
            .find(|i| !marked[*i])
            .unwrap_or(marked.len());
        all.push(start..next);
    }
    all
}

/// The most frames in a row that have no camera.
fn longest_without(world: &World, frames: Range<usize>) -> usize {
    let has_none: Vec<bool> = frames.map(|f| world.poses[f].is_none()).collect();
    let runs = stretches(&has_none);
    runs.iter().map(ExactSizeIterator::len).max().unwrap_or(0)
}

/// How steadily the camera moves about some frames; `None` where too little is known of that.
fn steadiness(views: &Views, world: &World, little: &[bool], frames: &[usize]) -> Option<Steady> {
    let known: Vec<usize> = (0..little.len()).filter(|f| !little[*f]).collect();
    let near = |frame: &usize| frames.iter().any(|f| f.abs_diff(*frame) <= AROUND);
    let times: Vec<f64> = known
        .iter()
        .map(|f| f64::from(views.frames[*f].0))
        .collect();
    let (mut turn, mut place, mut count) = (0.0, 0.0, 0);
    for three in successive(&times) {
        let of = three.cameras.map(|k| known[k]);
        // Across a stretch that sees little nothing is read.
        if of[2] != of[0] + 2 || !near(&of[1]) {
            continue;
        }
        let [Some(a), Some(b), Some(c)] = of.map(|f| world.poses[f]) else {
            continue;
        };
        let [turns, places] = changes([&a, &b, &c], three.steps);
        turn += (turns / three.wanders).norm_squared() / 3.0;
        place += (places / three.wanders).norm_squared() / 3.0;
        count += 1;
    }
    if count < FEWEST_THREES {
        return None;
    }
    let rms = |sum: f64| Some(UNSTEADY * (sum / count as f64).sqrt()).filter(|rms| *rms > 0.0);
    let steady = Steady {
        place: rms(place).filter(|_| world.motion == Motion::Free),
        turn_deg: rms(turn).map(f64::to_degrees),
    };
    steady.any().then_some(steady)
}

/// Puts the camera of a frame between those of the nearest frames that are known well.
fn between(views: &Views, world: &mut World, little: &[bool], frame: usize) {
    let is_known = |f: &usize| !little[*f];
    let (Some(before), Some(after)) = (
        (0..frame).rfind(is_known),
        (frame + 1..little.len()).find(is_known),
    ) else {
        return;
    };
    let (Some(a), Some(b)) = (world.poses[before], world.poses[after]) else {
        return;
    };
    let time = |f: usize| f64::from(views.frames[f].0);
    let share = (time(frame) - time(before)) / (time(after) - time(before));
    let (from, to) = (a.camera_from_world.rotation, b.camera_from_world.rotation);
    let turn = (to * from.inverse()).scaled_axis() * share;
    let rotation = nalgebra::UnitQuaternion::from_scaled_axis(turn) * from;
    let centre = a.centre().0.coords.lerp(&b.centre().0.coords, share);
    let shift: Vector3<f64> = -(rotation * centre);
    world.poses[frame] = Some(Pose::from_parts(rotation, shift));
    if world.zooms() {
        let ln = |f: usize| world.focals_px[f].ln();
        world.focals_px[frame] = (ln(before) + share * (ln(after) - ln(before))).exp();
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::none(&[false, false], &[])]
    #[case::inside(&[false, true, true, false, true], &[1..3, 4..5])]
    #[case::all_but_one(&[true, false, true], &[0..1, 2..3])]
    fn stretches_are_runs(#[case] marked: &[bool], #[case] expected: &[Range<usize>]) {
        assert_eq!(stretches(marked), expected);
    }
}
