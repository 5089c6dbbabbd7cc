//! Follows many features through a whole plate, picture by picture.
//!
//! Per frame: predict (own speed, else the median motion), find by translation coarse to
//! fine, align to the reference, accept or end; then, where features have ended, detect new
//! ones. Only two pyramids are alive at a time; the next picture is decoded meanwhile.
//!
//! A feature ends when its correlation with the reference falls below the strictness, when
//! going back does not lead to where it came from (Kalal, Mikolajczyk and Matas 2010), when
//! it leaves the picture or meets another, or when it is far less certain than most. Its
//! reference is renewed while it is still well followed but has changed its looks. A feature
//! that enters a matte sleeps: it is moved with its neighbours, and wakes where it is found again
//! beyond the matte with the same pattern. Where they are born, and that soft detail has larger patterns,
//! is said in [`births`]. What was interrupted goes on where it was ([`underway`]).

use super::feature::{Feature, Step, pyramid_levels};
use super::follow::{Alignment, Scratch};
use super::matte::Mask;
use super::picture::{Plane, Pyramid};
use super::{FrameError, FrameSource, TrackError, TrackOptions};
use crate::progress::{Checkpoints, Progress, Silent};
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use crate::statistics;
use crate::tracks::{Sample, Track};
use births::is_left_out;
use nalgebra::Vector2;
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::sync::mpsc;
use underway::Underway;

mod births;
pub mod underway;

pub use births::preview;

/// Follows features through all frames of `source`. Tracks shorter than 3 frames are left
/// out. Ids count from 1 in the order of birth.
pub fn follow_plate(
    source: &dyn FrameSource,
    options: &TrackOptions,
    progress: &dyn Progress,
) -> Result<Vec<Track>, TrackError> {
    go_on(source, options, &Silent, progress)
}

/// [`follow_plate`] from where an interrupted run of it was, over the same frames with the same
/// options: what comes out is the same as without the interruption.
pub fn go_on(
    source: &dyn FrameSource,
    options: &TrackOptions,
    checkpoints: &dyn Checkpoints<Underway>,
    progress: &dyn Progress,
) -> Result<Vec<Track>, TrackError> {
    let options = options.validated()?;
    let frames = source.frames();
    if frames.len() < 2 {
        return Err(TrackError::TooFewFrames {
            found: frames.len(),
        });
    }
    let left = checkpoints.left().filter(|u| u.is_of(frames.len()));
    let mut session = left
        .map(|left| Session::resumed(left, options, source))
        .transpose()?;
    let next = session.as_ref().map_or(0, |s| s.now.next);
    let looked = look_ahead(
        source,
        (next..frames.len()).collect(),
        pyramid_levels(&options),
        |index, look| {
            let cancelled = progress.is_cancelled();
            if let Some(session) = session
                .as_ref()
                .filter(|_| cancelled || checkpoints.is_due())
            {
                checkpoints.leave(&session.now);
            }
            if cancelled {
                return Err(TrackError::Cancelled);
            }
            progress.report("track", index, frames.len());
            match &mut session {
                None => session = Some(Session::begin(options, frames[index], look)),
                Some(session) => session.advance(frames[index], look)?,
            }
            Ok(())
        },
    );
    looked?;
    progress.report("track", frames.len(), frames.len());
    if let Some(session) = session.as_ref().filter(|_| checkpoints.is_due()) {
        checkpoints.leave(&session.now);
    }
    session.map_or(Err(TrackError::NoFeatures), Session::finish)
}

/// A frame as it is followed: its picture at all sizes, and what is left out of it.
pub(super) struct Look {
    pub pyramid: Pyramid,
    pub mask: Option<Mask>,
}

impl Look {
    /// Whether a pattern there reaches into a matte.
    pub fn leaves_out(&self, at: PlatePx, pattern_px: usize) -> bool {
        is_left_out(self.mask.as_ref(), at, pattern_px)
    }
}

/// Hands the frames at `indices` to `each`, one after the other; the next is decoded meanwhile.
pub(super) fn look_ahead(
    source: &dyn FrameSource,
    indices: Vec<usize>,
    levels: usize,
    mut each: impl FnMut(usize, Look) -> Result<(), TrackError>,
) -> Result<(), TrackError> {
    let look = |index| -> Result<Look, FrameError> {
        let (picture, mask) = source.look(index)?;
        Ok(Look {
            pyramid: Pyramid::new(picture, levels),
            mask,
        })
    };
    std::thread::scope(|scope| {
        let (send, receive) = mpsc::sync_channel(1);
        let wanted = indices.clone();
        scope.spawn(move || {
            for index in wanted {
                let looked = look(index);
                let failed = looked.is_err();
                if send.send(looked).is_err() || failed {
                    return;
                }
            }
        });
        for index in indices {
            let Ok(looked) = receive.recv() else { break };
            each(index, looked?)?;
        }
        Ok(())
    })
}

struct Session {
    options: TrackOptions,
    before: Pyramid,
    mask: Option<Mask>,
    now: Underway,
}

/// A feature that is followed, and its track.
#[derive(Clone, Serialize, Deserialize)]
struct Live {
    track: usize,
    feature: Feature,
}

/// A feature behind a matte, and for how long.
#[derive(Clone, Serialize, Deserialize)]
struct Asleep {
    live: Live,
    frames: usize,
}

/// After so many frames behind a matte a feature has ended: the place where it should be is too
/// uncertain by then. Chosen, not measured.
const LONGEST_SLEEP: usize = 48;
/// Neighbours whose median motion carries a sleeping feature.
const NEIGHBOURS: usize = 6;
/// How far from where its neighbours carried it a feature may be found again, px, and so much
/// more for each frame asleep, up to the last.
const ASTRAY_PX: (f64, f64, f64) = (3.0, 0.5, 12.0);
/// A feature that ends before it has so many positions was no good.
const SOON_FRAMES: usize = 5;
/// For so many frames no new one is looked for in its place.
const SPENT_FRAMES: usize = 12;
/// New features are looked for when this share of the wanted number is lost, or at the
/// latest after [`REFILL_FRAMES`]; detection costs about as much as following 400 features.
const REFILL_SHARE: f64 = 0.95;
const REFILL_FRAMES: usize = 8;
/// Share of the wanted number that a look for new features has to find for the next to come soon.
const WORTHWHILE: f64 = 0.03;
/// A track shorter than this says nothing about the camera.
const SHORTEST_FRAMES: usize = 3;
/// Two features nearer than this are following the same detail, px.
const SAME_DETAIL_PX: f64 = 3.0;
/// A feature this much less certain than most on its frame lies on two surfaces, or its light changes.
const UNCERTAIN: f64 = 1.7;
/// So many frames in a row may be left out before a feature ends for being uncertain: as long as a
/// hand-held camera jerks. With 2 a tenth of all life is lost on trial 25.
const MOST_DOUBTS: usize = 6;

impl Session {
    fn begin(options: TrackOptions, frame: FrameNumber, first: Look) -> Self {
        let mut session = Self {
            options,
            before: first.pyramid,
            mask: first.mask,
            now: Underway::begun(),
        };
        session.refill(frame);
        session
    }

    fn advance(&mut self, frame: FrameNumber, look: Look) -> Result<(), TrackError> {
        let Look {
            pyramid: after,
            mask,
        } = look;
        same_size(&self.before, &after, frame)?;
        self.now.next += 1;
        let found = self.follow_all(&after);
        self.mask = mask;
        let motions = self.motions(&found);
        self.keep(frame, after.level(0), found, &motions);
        self.wake(frame, after.level(0), &motions);
        self.before = after;
        self.now.frames_since_refill += 1;
        let fine = self.fine_count();
        let few = (fine as f64) < REFILL_SHARE * self.options.count as f64;
        // Where the last look found little, the next can wait.
        let worthwhile = self.now.found_last as f64 >= WORTHWHILE * self.options.count as f64;
        if few && worthwhile && (self.now.frames_since_refill >= 2 || fine * 2 < self.options.count)
            || self.now.frames_since_refill >= REFILL_FRAMES
        {
            self.refill(frame);
        }
        Ok(())
    }

    /// First by each feature's own speed, then by the median motion, then by search.
    fn follow_all(&self, after: &Pyramid) -> Vec<Option<Alignment>> {
        let step = Step {
            options: &self.options,
            before: &self.before,
            after,
        };
        let own = |s: &mut Scratch, live: &Live| step.by_own_speed(&live.feature, s);
        let mut found: Vec<Option<Alignment>> = self
            .now
            .live
            .par_iter()
            .map_init(Scratch::default, own)
            .collect();
        let common = median(self.motions(&found).iter().map(|m| m.1)).unwrap_or_default();
        found
            .par_iter_mut()
            .zip(&self.now.live)
            .filter(|(f, _)| f.is_none())
            .for_each_init(Scratch::default, |s, (f, live)| {
                *f = step.by_motion(&live.feature, common, s)
            });
        found
    }

    /// From where to where all that were found went.
    fn motions(&self, found: &[Option<Alignment>]) -> Vec<(PlatePx, Vector2<f64>)> {
        let motion = |(f, live): (&Option<Alignment>, &Live)| {
            let from = live.feature.warp.centre;
            f.as_ref().map(|f| (from, f.warp.centre.offset_from(from)))
        };
        found
            .iter()
            .zip(&self.now.live)
            .filter_map(motion)
            .collect()
    }

    fn keep(
        &mut self,
        frame: FrameNumber,
        picture: &Plane,
        found: Vec<Option<Alignment>>,
        motions: &[(PlatePx, Vector2<f64>)],
    ) {
        let gate_px = self.gate_px(&found);
        let mut taken = Occupied::new(SAME_DETAIL_PX);
        let mut scratch = Scratch::default();
        let motion = median(motions.iter().map(|m| m.1)).unwrap_or_default();
        self.now
            .spent
            .iter_mut()
            .for_each(|(px, left)| (*px, *left) = (px.moved(motion), *left - 1));
        self.now.spent.retain(|(_, left)| *left > 0);
        let live = std::mem::take(&mut self.now.live);
        for (mut live, found) in live.into_iter().zip(found) {
            let side = live.feature.side_px();
            let Some(alignment) = found else {
                let expected = live.feature.warp.centre.moved(motion);
                if is_left_out(self.mask.as_ref(), expected, side) {
                    live.feature.drift_along(motion);
                    self.now.asleep.push(Asleep { live, frames: 1 });
                } else {
                    self.spend(live.track, expected);
                }
                continue;
            };
            let centre = alignment.warp.centre;
            if !taken.claim(centre) {
                continue;
            }
            if is_left_out(self.mask.as_ref(), centre, side) {
                live.feature
                    .drift_along(centre.offset_from(live.feature.warp.centre));
                self.now.asleep.push(Asleep { live, frames: 1 });
                continue;
            }
            live.feature.go(&alignment);
            if alignment.covariance.sigma_px() > gate_px {
                live.feature.doubts += 1;
                if live.feature.doubts <= MOST_DOUBTS {
                    self.now.live.push(live);
                } else {
                    self.spend(live.track, centre);
                }
                continue;
            }
            self.note(frame, picture, live, &alignment, &mut scratch);
        }
    }

    /// Notes where a feature is and keeps it alive.
    fn note(
        &mut self,
        frame: FrameNumber,
        picture: &Plane,
        mut live: Live,
        found: &Alignment,
        scratch: &mut Scratch,
    ) {
        let Some(noted) = live.feature.note(found, picture, scratch) else {
            return;
        };
        let is_soft = live.feature.is_soft(&self.options);
        let track = &mut self.now.tracks[live.track];
        track.drift_px = noted.drift_px.or(track.drift_px);
        track.samples.push(Sample {
            frame,
            px: found.warp.centre,
            covariance: births::claimed(noted.covariance, is_soft),
        });
        self.now.live.push(live);
    }

    /// Moves the sleeping with their neighbours and wakes those that are seen again.
    fn wake(&mut self, frame: FrameNumber, picture: &Plane, motions: &[(PlatePx, Vector2<f64>)]) {
        let mut asleep = std::mem::take(&mut self.now.asleep);
        for sleeper in asleep.iter_mut().filter(|s| s.frames > 1) {
            sleeper
                .live
                .feature
                .drift_along(around(sleeper.live.feature.warp.centre, motions));
        }
        let (options, mask) = (&self.options, self.mask.as_ref());
        let look = |s: &mut Scratch, sleeper: &Asleep| {
            let (least, more, most) = ASTRAY_PX;
            let astray = (least + more * sleeper.frames as f64).min(most);
            let feature = &sleeper.live.feature;
            let left_out = |at: PlatePx| is_left_out(mask, at, feature.side_px());
            if sleeper.frames < 2 || left_out(feature.warp.centre) {
                return None;
            }
            let found = feature.found_again(picture, astray, options, s)?;
            (!left_out(found.warp.centre)).then_some(found)
        };
        let found: Vec<Option<Alignment>> =
            asleep.par_iter().map_init(Scratch::default, look).collect();
        let mut taken = Occupied::new(SAME_DETAIL_PX);
        self.now
            .live
            .iter()
            .for_each(|l| _ = taken.claim(l.feature.warp.centre));
        let mut scratch = Scratch::default();
        for (mut sleeper, found) in asleep.into_iter().zip(found) {
            match found {
                Some(found) if taken.claim(found.warp.centre) => {
                    sleeper.live.feature.warp = found.warp;
                    self.note(frame, picture, sleeper.live, &found, &mut scratch);
                }
                Some(_) => {}
                None if sleeper.frames < LONGEST_SLEEP => {
                    sleeper.frames += 1;
                    self.now.asleep.push(sleeper);
                }
                None => {}
            }
        }
    }

    /// Remembers where a feature ended, if it ended soon.
    fn spend(&mut self, track: usize, at: PlatePx) {
        if self.now.tracks[track].samples.len() < SOON_FRAMES {
            self.now.spent.push((at, SPENT_FRAMES));
        }
    }

    /// Positions less certain than this are left out: what is left of a patch that lies on two surfaces, or
    /// whose light changes, grows long before its correlation says so. A plate of soft detail, on
    /// which all are uncertain, keeps its features.
    fn gate_px(&self, found: &[Option<Alignment>]) -> f64 {
        let mut sigmas: Vec<f64> = found
            .iter()
            .flatten()
            .map(|f| f.covariance.sigma_px())
            .collect();
        let stated = self.options.max_followed_sigma_px();
        statistics::median(&mut sigmas).map_or(stated, |m| stated.max(UNCERTAIN * m))
    }

    fn finish(self) -> Result<Vec<Track>, TrackError> {
        let mut tracks = self.now.tracks;
        tracks.retain(|t| t.samples.len() >= SHORTEST_FRAMES);
        if tracks.is_empty() {
            return Err(TrackError::NoFeatures);
        }
        for (index, track) in tracks.iter_mut().enumerate() {
            track.id = TrackId(index as u32 + 1);
        }
        Ok(tracks)
    }
}

fn median(motions: impl Iterator<Item = Vector2<f64>>) -> Option<Vector2<f64>> {
    let (mut across, mut down): (Vec<f64>, Vec<f64>) = motions.map(|m| (m.x, m.y)).unzip();
    let (across, down) = (
        statistics::median(&mut across)?,
        statistics::median(&mut down)?,
    );
    Some(Vector2::new(across, down))
}

/// The median motion of the nearest neighbours.
fn around(at: PlatePx, motions: &[(PlatePx, Vector2<f64>)]) -> Vector2<f64> {
    let mut near: Vec<(f64, Vector2<f64>)> = motions
        .iter()
        .map(|(px, m)| (px.distance_px(at), *m))
        .collect();
    if near.len() > NEIGHBOURS {
        near.select_nth_unstable_by(NEIGHBOURS - 1, |a, b| a.0.total_cmp(&b.0));
        near.truncate(NEIGHBOURS);
    }
    median(near.into_iter().map(|n| n.1)).unwrap_or_default()
}

/// All frames of a plate are of one size.
pub(super) fn same_size(
    before: &Pyramid,
    after: &Pyramid,
    frame: FrameNumber,
) -> Result<(), TrackError> {
    let (old, new) = (before.level(0), after.level(0));
    if (old.width(), old.height()) == (new.width(), new.height()) {
        return Ok(());
    }
    Err(TrackError::SizeChanged {
        frame,
        found_width: new.width(),
        found_height: new.height(),
        width: old.width(),
        height: old.height(),
    })
}

/// Which places are taken, on a grid of the distance that counts as the same.
struct Occupied {
    cell_px: f64,
    places: std::collections::HashMap<(i32, i32), Vec<PlatePx>>,
}

impl Occupied {
    fn new(cell_px: f64) -> Self {
        Self {
            cell_px,
            places: Default::default(),
        }
    }

    /// Takes the place unless another is nearer than one cell.
    fn claim(&mut self, px: PlatePx) -> bool {
        let (cx, cy) = (
            (px.x / self.cell_px).floor() as i32,
            (px.y / self.cell_px).floor() as i32,
        );
        let near = |(x, y)| {
            self.places
                .get(&(x, y))
                .is_some_and(|p| p.iter().any(|o| o.distance_px(px) < self.cell_px))
        };
        let taken = (cx - 1..=cx + 1)
            .flat_map(|x| (cy - 1..=cy + 1).map(move |y| (x, y)))
            .any(near);
        if !taken {
            self.places.entry((cx, cy)).or_default().push(px);
        }
        !taken
    }
}
