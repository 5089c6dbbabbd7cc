//! Features that were lost and come back are one feature.
//!
//! Something passes before the lens, or a camera comes back to where it was: the same details are
//! born again as new tracks, and the parts of the shot hang together by little or nothing. On some
//! frames ([`keys`]) every feature's looks are taken ([`describe`]); of two such frames those
//! features that had ended on the earlier side are held against those that began on the later side.
//! Pairs that are each other's most alike, and clearly so (Lowe 2004), are aligned as they would have been
//! followed ([`Reference::align`](crate::track::follow::Reference::align)), which tells where exactly the old
//! detail is on the new frame.
//! Only where enough of them, and of those that both frames see, agree on one motion
//! ([`fundamental_consensus`]) are they the same things; the later track then goes on as the earlier one,
//! moved by what the alignment found, with its uncertainty. Where little else links the two frames, other old
//! features are looked for beside those ([`grow`]); one on which no track was born again is seen on that frame.

mod describe;
mod grow;
pub mod keys;

use crate::progress::Progress;
use crate::solve::two_view::fundamental_consensus;
use crate::spaces::{FrameNumber, PlatePx};
use crate::track::follow::{Alignment, Scratch};
use crate::track::picture::Pyramid;
use crate::track::{FrameSource, TrackError, TrackOptions};
use crate::tracks::{Covariance, Sample, Track};
use describe::Descriptor;
use faer::linalg::matmul::matmul;
use faer::{Accum, Mat, Par};
use keys::Keys;
use nalgebra::Vector2;
use rayon::prelude::*;
use std::collections::{HashMap, HashSet};

/// Sides of the square whose looks are taken, patterns.
const SIDES: f64 = 2.2;
/// The most alike has to be nearer than this share of the distance of the next.
const CLEARLY: f64 = 0.8;
/// Levels of the pictures in which old features are looked for, a px at 1280 being one at most in the coarsest.
const LEVELS: usize = 3;
/// Where so many features were never lost, nothing more is looked for.
const PLENTY: usize = 40;
/// So many have to agree on one motion, with those that were never lost ...
const FEWEST: usize = 16;
/// ... among them so many that came back ...
const FEWEST_BACK: usize = 6;
/// ... of those that could be aligned this share.
const AGREEING: f64 = 0.7;
/// Correlation from which a patch is the same detail.
const LEAST_CORRELATION: f64 = 0.85;
/// The old detail is looked for so far from a new one that looks alike, px at 1280 ...
const ALIKE_PX: f64 = 8.0;
/// ... and is the same as one that lies so near.
const NEAREST_PX: f64 = 3.0;
/// How far the motion of aligned patches may miss that of the others, px at 1280.
const MOTION_PX: f64 = 1.5;
/// Share of the distance between old and new detail that the new one's turning and growing may add.
const TURNS: f64 = 0.15;

/// A track that goes on as an earlier one.
#[derive(Clone, Copy, Debug)]
struct Join {
    /// Indices of the tracks.
    earlier: usize,
    later: usize,
    /// From the later feature to the earlier one, px.
    offset: Vector2<f64>,
    /// How certain that is.
    covariance: Covariance,
}

/// A detail of an earlier frame that is seen on a later one.
struct Return {
    /// Index of its track.
    earlier: usize,
    /// The track that was born on it again, and where that is; `None` where none is known.
    later: Option<(usize, PlatePx)>,
    /// Where it is on the earlier frame.
    place: PlatePx,
    /// Where it is on the later one.
    found: Alignment,
}

impl Return {
    /// Where it is on both frames.
    fn places(&self) -> (PlatePx, PlatePx) {
        (self.place, self.found.warp.centre)
    }
}

/// The tracks, those that are one joined. Pictures are asked for out of order.
pub fn joined(
    tracks: Vec<Track>,
    source: &dyn FrameSource,
    options: &TrackOptions,
    progress: &dyn Progress,
) -> Result<Vec<Track>, TrackError> {
    let frames = source.frames();
    let Keys {
        frames: keys,
        pairs,
    } = Keys::of(&tracks, frames);
    if keys.is_empty() {
        return Ok(tracks);
    }
    let mut looks = Vec::with_capacity(keys.len());
    for (done, &key) in keys.iter().enumerate() {
        if progress.is_cancelled() {
            return Err(TrackError::Cancelled);
        }
        progress.report("track: looks", done, keys.len());
        looks.push(Looks::of(&tracks, source, key, options)?);
    }
    let mut search = Search {
        tracks: &tracks,
        source,
        options,
        looks: &looks,
        joins: Vec::new(),
        glimpses: Vec::new(),
        goes_on: HashSet::new(),
        is_old: HashSet::new(),
        pictures: HashMap::new(),
    };
    for (done, (i, j)) in pairs.iter().enumerate() {
        if progress.is_cancelled() {
            return Err(TrackError::Cancelled);
        }
        progress.report("track: returns", done, pairs.len());
        search.join_between(*i, *j)?;
    }
    let (joins, glimpses) = (search.joins, search.glimpses);
    Ok(applied(tracks, &joins, glimpses))
}

/// What the features of one frame look like.
struct Looks {
    /// Index of the frame.
    frame: usize,
    /// Track, place and looks.
    details: Vec<(usize, PlatePx, Descriptor)>,
}

impl Looks {
    fn of(
        tracks: &[Track],
        source: &dyn FrameSource,
        frame: usize,
        options: &TrackOptions,
    ) -> Result<Self, TrackError> {
        let number = source.frames()[frame];
        let pyramid = Pyramid::new(source.grey(frame)?, 3);
        let side_px = SIDES * options.pattern_px as f64;
        let details = tracks
            .par_iter()
            .enumerate()
            .filter_map(|(index, track)| {
                let px = track.at(number)?.px;
                Some((index, px, Descriptor::of(&pyramid, px, side_px)?))
            })
            .collect();
        Ok(Self { frame, details })
    }
}

struct Search<'a> {
    tracks: &'a [Track],
    source: &'a dyn FrameSource,
    options: &'a TrackOptions,
    looks: &'a [Looks],
    joins: Vec<Join>,
    /// Where tracks are seen again on one frame, no track having been born there.
    glimpses: Vec<(usize, Sample)>,
    /// Tracks that go on as a later one, and tracks that are an earlier one.
    goes_on: HashSet<usize>,
    is_old: HashSet<usize>,
    /// Pictures looked at lately, by frame.
    pictures: HashMap<usize, Pyramid>,
}

impl Search<'_> {
    /// Joins what was lost after one frame and came back before the other.
    fn join_between(&mut self, earlier: usize, later: usize) -> Result<(), TrackError> {
        let (before, after) = (&self.looks[earlier], &self.looks[later]);
        let number = |looks: &Looks| self.source.frames()[looks.frame];
        let range = |track: usize| self.tracks[track].range();
        let ended = |track: usize| {
            let over = range(track).is_some_and(|(_, last)| last < number(after));
            over && !self.goes_on.contains(&track)
        };
        let begun = |track: usize| {
            let new = range(track).is_some_and(|(first, _)| first > number(before));
            new && !self.is_old.contains(&track)
        };
        let old: Vec<_> = before.details.iter().filter(|d| ended(d.0)).collect();
        let new: Vec<_> = after.details.iter().filter(|d| begun(d.0)).collect();
        let still = shared(before, after);
        if old.len() < FEWEST_BACK || new.len() < FEWEST_BACK {
            return Ok(());
        }
        let alike = most_alike(&old, &new);
        if alike.len() < FEWEST_BACK {
            return Ok(());
        }
        let pairs: Vec<_> = alike.iter().map(|(a, b)| (old[*a], new[*b])).collect();
        let frames = [before.frame, after.frame];
        self.keep_only(frames)?;
        let mut back = self.aligned(frames, &pairs);
        if back.len() < FEWEST_BACK {
            return Ok(());
        }
        if still.len() < PLENTY {
            back.extend(self.grown(frames, &back, &still, &old));
        }
        let px_scale = self.px_scale(frames[1]);
        let back = with_new(back, &new, NEAREST_PX * px_scale);
        if let Some(agreeing) = agreeing(back, still, (px_scale, frames[0] as u64)) {
            self.join(number(after), agreeing);
        }
        Ok(())
    }

    /// Px of a picture at hand by px at 1280.
    fn px_scale(&self, frame: usize) -> f64 {
        (self.pictures[&frame].level(0).width() as f64 / 1280.0).clamp(0.5, 4.0)
    }

    /// Two pictures at hand.
    fn pictures(&self, [before, after]: [usize; 2]) -> grow::Pictures<'_> {
        grow::Pictures {
            before: &self.pictures[&before],
            after: &self.pictures[&after],
            pattern_px: self.options.pattern_px,
            px_scale: self.px_scale(after),
        }
    }

    /// Of pairs of details that look alike the old ones that are found where the new ones are, or nearby.
    fn aligned(&self, frames: [usize; 2], pairs: &[(&Detail, &Detail)]) -> Vec<Return> {
        let pictures = self.pictures(frames);
        let reach_px = ALIKE_PX * pictures.px_scale;
        let look = |scratch: &mut Scratch, (old, new): &(&Detail, &Detail)| {
            grow::look_for(&pictures, (old.0, old.1), new.1, reach_px, scratch)
        };
        let found = pairs.par_iter().map_init(Scratch::default, look);
        found.flatten().collect()
    }

    /// Of the other old details those that are found beside what came back and what was never lost.
    fn grown(
        &self,
        frames: [usize; 2],
        back: &[Return],
        still: &[(PlatePx, PlatePx)],
        old: &[&Detail],
    ) -> Vec<Return> {
        let known: HashSet<usize> = back.iter().map(|r| r.earlier).collect();
        let left = old.iter().filter(|d| !known.contains(&d.0));
        let left: Vec<(usize, PlatePx)> = left.map(|d| (d.0, d.1)).collect();
        let places = back.iter().map(Return::places);
        let seeds: Vec<_> = places.chain(still.iter().copied()).collect();
        grow::grown(&self.pictures(frames), &seeds, &left)
    }

    /// Lets tracks go on as those that came back on a frame, or be seen on it where none did.
    fn join(&mut self, frame: FrameNumber, back: Vec<Return>) {
        for Return {
            earlier,
            later,
            found,
            ..
        } in back
        {
            let Some((later, place)) = later else {
                self.glimpses.push((
                    earlier,
                    Sample {
                        frame,
                        px: found.warp.centre,
                        covariance: found.covariance,
                    },
                ));
                continue;
            };
            let apart =
                self.tracks[earlier].range().map(|r| r.1) < self.tracks[later].range().map(|r| r.0);
            let free = !self.goes_on.contains(&earlier) && !self.is_old.contains(&later);
            if apart && free {
                let offset = found.warp.centre.offset_from(place);
                let turns = Covariance::isotropic(TURNS * offset.norm());
                self.goes_on.insert(earlier);
                self.is_old.insert(later);
                self.joins.push(Join {
                    earlier,
                    later,
                    offset,
                    covariance: found.covariance.plus(&turns),
                });
            }
        }
    }

    /// Has these pictures at hand and forgets all others but a few.
    fn keep_only(&mut self, wanted: [usize; 2]) -> Result<(), TrackError> {
        const AT_HAND: usize = 6;
        if self.pictures.len() > AT_HAND {
            self.pictures.retain(|frame, _| wanted.contains(frame));
        }
        for frame in wanted {
            if !self.pictures.contains_key(&frame) {
                let picture = Pyramid::new(self.source.grey(frame)?, LEVELS);
                self.pictures.insert(frame, picture);
            }
        }
        Ok(())
    }
}

/// Where both frames see the features that neither has lost.
fn shared(before: &Looks, after: &Looks) -> Vec<(PlatePx, PlatePx)> {
    let there: HashMap<usize, PlatePx> = after.details.iter().map(|d| (d.0, d.1)).collect();
    let both = |d: &Detail| Some((d.1, *there.get(&d.0)?));
    before.details.iter().filter_map(both).collect()
}

type Detail = (usize, PlatePx, Descriptor);

/// Returns with the new feature that lies where they were found, if one does.
fn with_new(found: Vec<Return>, new: &[&Detail], limit_px: f64) -> Vec<Return> {
    let with = |r: Return| {
        let away = |d: &Detail| d.1.distance_px(r.found.warp.centre);
        let nearest = new.iter().min_by(|a, b| away(a).total_cmp(&away(b)));
        Return {
            later: nearest.filter(|d| away(d) <= limit_px).map(|d| (d.0, d.1)),
            ..r
        }
    };
    found.into_iter().map(with).collect()
}

/// Those that agree with each other, and with what was never lost, on one motion; `None` where too few do.
fn agreeing(
    back: Vec<Return>,
    still: Vec<(PlatePx, PlatePx)>,
    (px_scale, seed): (f64, u64),
) -> Option<Vec<Return>> {
    let pairs: Vec<_> = back.iter().map(Return::places).chain(still).collect();
    let limit_px = MOTION_PX * px_scale;
    let consensus = fundamental_consensus(&pairs, limit_px, seed)?;
    let agrees = |distance_px: &f64| *distance_px < limit_px;
    let all = consensus.distances_px.iter().filter(|d| agrees(d)).count();
    let (tried, agreeing) = (back.len(), back.into_iter().zip(&consensus.distances_px));
    let agreeing: Vec<Return> = agreeing
        .filter(|(_, d)| agrees(d))
        .map(|(r, _)| r)
        .collect();
    let enough = all >= FEWEST
        && agreeing.len() >= FEWEST_BACK
        && agreeing.len() as f64 >= AGREEING * tried as f64;
    enough.then_some(agreeing)
}

/// Pairs that are each other's most alike, and clearly so.
fn most_alike(old: &[&Detail], new: &[&Detail]) -> Vec<(usize, usize)> {
    let looks = |details: &[&Detail]| describe::side_by_side(details.iter().map(|d| &d.2));
    let (old, new) = (looks(old), looks(new));
    let mut likenesses = Mat::<f64>::zeros(old.ncols(), new.ncols());
    matmul(
        &mut likenesses,
        Accum::Replace,
        old.transpose(),
        &new,
        1.0,
        Par::rayon(0),
    );
    let forth: Vec<_> = (0..old.ncols())
        .map(|k| clearest(likenesses.row(k).iter()))
        .collect();
    let back: Vec<_> = (0..new.ncols())
        .map(|k| clearest(likenesses.col(k).iter()))
        .collect();
    let mutual = |(a, b): (usize, Option<usize>)| b.filter(|b| back[*b] == Some(a)).map(|b| (a, b));
    forth.into_iter().enumerate().filter_map(mutual).collect()
}

/// Which of the likenesses is the greatest, where none of the others is nearly as great.
fn clearest<'a>(likenesses: impl Iterator<Item = &'a f64>) -> Option<usize> {
    let (mut first, mut second, mut at) = (-1.0, -1.0, 0);
    for (k, likeness) in likenesses.enumerate() {
        if *likeness > first {
            (second, first, at) = (first, *likeness, k);
        } else if *likeness > second {
            second = *likeness;
        }
    }
    // Of unit vectors, the squared distance is twice what the likeness lacks to 1.
    (1.0 - first < CLEARLY * CLEARLY * (1.0 - second)).then_some(at)
}

/// The tracks with what goes on as an earlier one moved there, and with where they were seen besides.
fn applied(tracks: Vec<Track>, joins: &[Join], glimpses: Vec<(usize, Sample)>) -> Vec<Track> {
    let by_later: HashMap<usize, &Join> = joins.iter().map(|join| (join.later, join)).collect();
    let mut samples: Vec<Vec<Sample>> = tracks.iter().map(|t| t.samples.clone()).collect();
    // The latest first, so that what goes on as something that itself goes on is moved on.
    let mut order: Vec<usize> = by_later.keys().copied().collect();
    order.sort_by_key(|later| std::cmp::Reverse(tracks[*later].range()));
    for later in order {
        let join = by_later[&later];
        let moved = std::mem::take(&mut samples[later]);
        let moved = moved.into_iter().map(|s| Sample {
            px: s.px.moved(join.offset),
            covariance: s.covariance.plus(&join.covariance),
            ..s
        });
        samples[join.earlier].extend(moved);
    }
    // What was joined later may go on as something else by now.
    let earliest = |mut track: usize| {
        while let Some(join) = by_later.get(&track) {
            track = join.earlier;
        }
        track
    };
    for (track, glimpse) in glimpses {
        let own = &mut samples[earliest(track)];
        if let Err(at) = own.binary_search_by_key(&glimpse.frame, |s| s.frame) {
            own.insert(at, glimpse);
        }
    }
    let whole = |(track, samples): (Track, Vec<Sample>)| Track { samples, ..track };
    tracks
        .into_iter()
        .zip(samples)
        .map(whole)
        .filter(|t| !t.samples.is_empty())
        .collect()
}
