//! The camera of a shot in which it rests and zooms.
//!
//! The picture grows or shrinks about its middle and shows nothing else: no place, no turn, and no focal length
//! either, but by how much that changes. So the one of the first frame has to be known
//! ([`super::FocalKnowledge::AtFirst`]); directions and all other focal lengths follow, frame by frame, and are
//! adjusted together ([`super::finish`]) with cameras that neither travel nor turn.
//!
//! Where it is ruled out by what is stated, a camera that goes straight at a wall shows the same; that is doubted.

use super::bundle::{FreeLens, Motion};
use super::criterion::explains_more;
use super::doubts::{self, Doubt};
use super::evidence::FEWEST_SHARED;
use super::finish;
use super::moves::Kind;
use super::underway::{Stage, Underway};
use super::views::Views;
use super::world::{FEWEST_SIGHTS, World};
use super::{Attempt, FocalKnowledge, SolveError, SolveOptions};
use crate::camera::Pose;
use crate::progress::{Progress, Silent};
use crate::spaces::PlatePx;
use crate::statistics::median;
use nalgebra::Vector2;

/// What growing about the middle leaves in the median is at most this where that is all, px at 1280.
const GROWING_PX: f64 = 1.2;
/// What a picture grows by is read from features that lie farther from its middle than this share of the width.
const FARTHER: f64 = 0.05;

/// A feature on two frames, as [`Views::shared`] has it.
type Shared = (usize, PlatePx, PlatePx);

/// By what factor the picture grows from the first key frame to the last, where it does nothing else.
pub fn growth(views: &Views, middle: PlatePx, keys: &[usize]) -> Option<f64> {
    let mut factor = 1.0;
    for pair in keys.windows(2) {
        factor *= grown(views, middle, &views.shared(pair[0], pair[1]))?;
    }
    // What creeps from one key frame to the next shows over many.
    for key in keys.iter().skip(2) {
        let shared = views.shared(keys[0], *key);
        if shared.len() >= FEWEST_SHARED {
            grown(views, middle, &shared)?;
        }
    }
    Some(factor)
}

/// By what factor the picture grows from one frame to another, where that is all that it does.
fn grown(views: &Views, middle: PlatePx, shared: &[Shared]) -> Option<f64> {
    if shared.len() < FEWEST_SHARED {
        return None;
    }
    let from_middle = |px: PlatePx| Vector2::new(px.x - middle.x, px.y - middle.y);
    let pair = |(_, a, b): &Shared| (from_middle(*a), from_middle(*b));
    let pairs: Vec<_> = shared.iter().map(pair).collect();
    let least = FARTHER * 1280.0 * views.px_scale;
    let far = pairs.iter().filter(|(a, _)| a.norm() > least);
    let factor = median(
        &mut far
            .map(|(a, b)| a.dot(b) / a.norm_squared())
            .collect::<Vec<_>>(),
    )?;
    let left = pairs.iter().map(|(a, b)| (b - a * factor).norm());
    let left_px = median(&mut left.collect::<Vec<_>>())?;
    (factor > 0.0 && left_px < GROWING_PX * views.px_scale).then_some(factor)
}

/// Options by which such a camera can be solved where its focal length is not known: with one that is usual, so that
/// it is seen whether it rests.
pub fn with_usual_focal(options: &SolveOptions) -> SolveOptions {
    let width_px = f64::from(options.lens.width_px);
    let (px, sigma_px) = options
        .focal
        .at_first()
        .unwrap_or((width_px, 0.01 * width_px));
    SolveOptions {
        focal: FocalKnowledge::AtFirst { px, sigma_px },
        ..options.clone()
    }
}

/// The directions of all features and the focal lengths of all frames, from the first frame on.
pub fn started(
    views: &Views,
    options: &SolveOptions,
    progress: &dyn Progress,
) -> Result<Underway, SolveError> {
    let (px, _) = options.focal.at_first().ok_or(SolveError::NoStart)?;
    let lens = options.lens.with_focal(px);
    let mut world = World::empty(views, lens, FreeLens::default());
    world.motion = Motion::Resting;
    world.believed.focal_at_first_px = options.focal.at_first();
    world.set_zooming();
    world.poses[0] = Some(Pose::identity());
    world.triangulate_missing(views);
    let all = views.frames.len();
    for frame in 1..all {
        if progress.is_cancelled() {
            return Err(SolveError::Cancelled);
        }
        world.resect(views, frame, FEWEST_SIGHTS);
        world.triangulate_missing(views);
        progress.report("solve: frames", frame + 1, all);
    }
    Ok(Underway {
        world,
        started_from: (views.frames[0], views.frames[0]),
        stage: Stage::of_finish(),
    })
}

/// The attempt, doubted where a camera that rests and zooms is ruled out by what is stated and explains the shot as well.
/// `growth` is asked where it is ruled out.
pub fn doubted(
    views: &Views,
    options: &SolveOptions,
    growth: impl FnOnce() -> Option<f64>,
    attempt: Attempt,
    progress: &dyn Progress,
) -> Result<Attempt, SolveError> {
    if Kind::LOCKED_ZOOM.is_allowed_by(options) {
        return Ok(attempt);
    }
    let Some(factor) = growth() else {
        return Ok(attempt);
    };
    let resting = with_usual_focal(&Kind::LOCKED_ZOOM.stated_in(options));
    let solved = started(views, &resting, progress)
        .and_then(|underway| finish::finish(views, &resting, underway, &Silent, progress));
    match solved {
        Err(SolveError::Cancelled) => Err(SolveError::Cancelled),
        Ok(resting) if explains_more(views, &resting, &attempt) => {
            let mut doubts = attempt.doubts;
            doubts.insert(0, Doubt::MayRestAndZoom { factor });
            Ok(Attempt {
                verdict: doubts::verdict(&doubts),
                doubts,
                ..attempt
            })
        }
        _ => Ok(attempt),
    }
}
