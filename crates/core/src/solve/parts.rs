//! Parts of a shot that hang together by little.
//!
//! Where something fills the picture for a while, or a camera whips round, only a few features carry
//! over, and a camera found from these alone may be anything. So what cannot be reached firmly is solved by
//! itself ([`add`]), with the focal length that is known by now, and set beside what there is by the
//! change of world that most landmarks agree on that both parts have: those that carried over and those
//! that came back ([`crate::returns`]). Agreement is asked of where cameras see them (consensus over
//! samples of three, Fischler and Bolles 1981; refined on pixels).
//!
//! A camera that comes back has drifted meanwhile, and landmarks that it has seen before no longer fit:
//! [`close`] lets them pull, with a loss as wide as the drift that narrows again.

use super::bundle::{Loss, Motion};
use super::grow::{self, FIRMLY};
use super::misfits::legs;
use super::views::{Seen, Views};
use super::world::{FIT_PX, LEAST_ANGLE_RAD, World};
use super::{FocalKnowledge, Readout, SolveError, SolveOptions, evidence, start};
use crate::camera::Similarity;
use crate::camera::registration::{Sight, registered};
use crate::progress::Progress;
use crate::spaces::WorldPoint;

/// A part has so many key frames.
const FEWEST_KEYS: usize = 6;
/// Parts that are looked for at most.
const MOST_PARTS: usize = 4;
/// So many landmarks of both parts have to agree on how they stand to each other ...
const FEWEST_LINKS: usize = 5;
/// ... of all that they have in common this share ...
const AGREEING: f64 = 0.4;
/// ... to this, px at 1280: the parts have errors of their own.
const LINK_PX: f64 = 6.0;
/// Samples that are drawn.
const SAMPLES: usize = 400;
/// Places at which a link is looked at.
const LOOKS: usize = 4;
/// Drift over which what came back still pulls, px at 1280, wide first.
const PULLS_PX: [f64; 3] = [40.0, 10.0, 3.0];
/// Steps that each of them takes.
const PULL_STEPS: usize = 12;
/// What came back is drifting where so much of it does not fit.
const DRIFTING: f64 = 0.1;

/// Solves by themselves what key frames the world does not reach firmly, and joins what links to it.
/// Where the camera only turns or zooms all is left to growing on by little.
pub fn add(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    world: &mut World,
    progress: &dyn Progress,
) -> Result<(), SolveError> {
    if world.motion != Motion::Free || world.zooms() {
        return Ok(());
    }
    let mut parts = Vec::new();
    let mut open: Vec<usize> = keys.to_vec();
    open.retain(|k| world.poses[*k].is_none());
    while parts.len() < MOST_PARTS && open.len() >= FEWEST_KEYS {
        let Some(part) = solved(views, options, &open, world, progress)? else {
            break;
        };
        open.retain(|k| part.poses[*k].is_none());
        parts.push(part);
    }
    while let Some((best, change)) = nearest(views, world, &parts) {
        join(world, &parts.remove(best), &change);
        pull(views, world, progress);
    }
    match progress.is_cancelled() {
        true => Err(SolveError::Cancelled),
        false => Ok(()),
    }
}

/// A world over what it can be of these key frames.
fn solved(
    views: &Views,
    options: &SolveOptions,
    keys: &[usize],
    beside: &World,
    progress: &dyn Progress,
) -> Result<Option<World>, SolveError> {
    let known = SolveOptions {
        focal: FocalKnowledge::Known(beside.lens.focal_px),
        moves: options.moves,
        zooms: Some(false),
        readout: Readout::None,
        ..SolveOptions::nothing_known(beside.lens)
    };
    let found = evidence::parallax(views, &known, keys, progress)
        .and_then(|found| start::best_start(views, &known, keys, &found.pairs, progress));
    let mut part = match found {
        Ok(seed) => seed.world,
        Err(SolveError::Cancelled) => return Err(SolveError::Cancelled),
        Err(_) => return Ok(None),
    };
    if !grow::over_key_frames(views, keys, &mut part, FIRMLY, progress) {
        return Err(SolveError::Cancelled);
    }
    grow::tidy(views, &mut part, 10, progress);
    let stands = keys.iter().filter(|k| part.poses[**k].is_some()).count();
    Ok((stands >= FEWEST_KEYS).then_some(part))
}

/// Which part links best to the world, and by which change.
fn nearest(views: &Views, world: &World, parts: &[World]) -> Option<(usize, Similarity)> {
    let linked = parts.iter().enumerate().filter_map(|(index, part)| {
        let (agreeing, change) = link(views, world, part)?;
        Some((agreeing, index, change))
    });
    let best = linked.max_by_key(|(agreeing, ..)| *agreeing);
    best.map(|(_, index, change)| (index, change))
}

/// A landmark that two worlds have: its place in the other, and how cameras of this one see it.
struct Link {
    here: WorldPoint,
    there: WorldPoint,
    sights: Vec<Sight>,
}

impl Link {
    fn fits(&self, change: &Similarity, limit_px: f64) -> bool {
        let near = |s: &Sight| s.residual(change).is_some_and(|r| r.norm() < limit_px);
        self.sights.iter().all(near)
    }
}

/// How many landmarks agree on the change that brings the other world's into this one's, and which
/// that is.
fn link(views: &Views, world: &World, other: &World) -> Option<(usize, Similarity)> {
    let links = links(views, world, other);
    if links.len() < FEWEST_LINKS {
        return None;
    }
    let limit_px = LINK_PX * views.px_scale;
    let mut random = fastrand::Rng::with_seed(links.len() as u64);
    let fitting = |change: &Similarity| -> Vec<&Link> {
        links.iter().filter(|l| l.fits(change, limit_px)).collect()
    };
    let mut best: Option<(usize, Similarity)> = None;
    for _ in 0..SAMPLES {
        let drawn = [(); 3].map(|()| &links[random.usize(..links.len())]);
        let (there, here) = (drawn.map(|l| l.there), drawn.map(|l| l.here));
        let Some(change) = Similarity::fitting(&there, &here) else {
            continue;
        };
        let agreeing = fitting(&change).len();
        if best.as_ref().is_none_or(|(most, _)| agreeing > *most) {
            best = Some((agreeing, change));
        }
    }
    let (_, mut change) = best.filter(|(agreeing, _)| *agreeing >= 3)?;
    for _ in 0..3 {
        let agreeing = fitting(&change);
        let sights: Vec<Sight> = agreeing.iter().flat_map(|l| l.sights.clone()).collect();
        change = registered(change, &sights);
    }
    let agreeing = fitting(&change).len();
    let enough = agreeing >= FEWEST_LINKS && agreeing as f64 >= AGREEING * links.len() as f64;
    enough.then_some((agreeing, change))
}

fn links(views: &Views, world: &World, other: &World) -> Vec<Link> {
    let link = |track: usize| {
        let (here, there) = (world.points[track]?, other.points[track]?);
        let (here, there) = (WorldPoint(here.into()), WorldPoint(there.into()));
        let kept = views.seen[track].iter().zip(&world.left_out[track]);
        let sight = |(s, out): (&Seen, &bool)| {
            let pose = world.poses[s.frame].filter(|_| !*out)?;
            Some(Sight {
                lens: world.lens_at(s.frame),
                pose,
                point: there,
                px: s.px,
            })
        };
        let all: Vec<Sight> = kept.filter_map(sight).collect();
        let stride = all.len().div_ceil(LOOKS).max(1);
        let sights: Vec<Sight> = all.into_iter().step_by(stride).collect();
        (!sights.is_empty()).then_some(Link {
            here,
            there,
            sights,
        })
    };
    (0..views.tracks.len()).filter_map(link).collect()
}

/// Takes in the cameras of another world, and the landmarks that this one does not have.
fn join(world: &mut World, other: &World, change: &Similarity) {
    for (pose, theirs) in world.poses.iter_mut().zip(&other.poses) {
        *pose = pose.or_else(|| theirs.map(|theirs| change.pose(&theirs)));
    }
    for track in 0..world.points.len() {
        let Some(theirs) = other.points[track].filter(|_| world.points[track].is_none()) else {
            continue;
        };
        world.points[track] = Some(change.point(&WorldPoint(theirs.into())).0.coords);
        world.angles_rad[track] = other.angles_rad[track];
        world.left_out[track].clone_from(&other.left_out[track]);
    }
}

/// Brings what was seen before back to where it was seen, where that no longer fits.
pub fn close(views: &Views, world: &mut World, progress: &dyn Progress) {
    let back: Vec<usize> = (0..views.tracks.len())
        .filter(|t| !world.banned[*t] && legs(&views.seen[*t]).nth(1).is_some())
        .collect();
    let (mut all, mut astray) = (0, 0);
    for &track in &back {
        for (s, out) in views.seen[track].iter().zip(&world.left_out[track]) {
            if world.poses[s.frame].is_some() {
                all += 1;
                astray += usize::from(*out || world.points[track].is_none());
            }
        }
    }
    if all == 0 || (astray as f64) < DRIFTING * all as f64 {
        return;
    }
    let mut pulled = world.clone();
    for &track in &back {
        pulled.left_out[track]
            .iter_mut()
            .for_each(|out| *out = false);
    }
    pulled.triangulate_within(views, LEAST_ANGLE_RAD, PULLS_PX[0]);
    pull(views, &mut pulled, progress);
    if pulled.fitting(views) > world.fitting(views) {
        *world = pulled;
    }
}

/// Adjusts with a loss that is wide at first.
fn pull(views: &Views, world: &mut World, progress: &dyn Progress) {
    for pulls_px in PULLS_PX {
        let loss = Loss::Cauchy(views.in_sigmas(pulls_px / FIT_PX));
        world.adjust(views, loss, (PULL_STEPS, 1e-3), progress);
    }
    grow::tidy(views, world, PULL_STEPS, progress);
}
