//! Frames on which it is worth while to take the looks of all features: all along the shot, and closely about
//! gaps, where something passes before the lens and the last frames before it share the most with the first behind it.

use crate::spaces::FrameNumber;
use crate::tracks::Track;
use std::collections::HashSet;

/// A frame is a key frame once it shares less than so much of its features, or of those of the last
/// one, with that ...
const LEFT: f64 = 0.6;
/// ... or after so many frames.
const LONGEST: usize = 24;
/// At most so many; all pairs of them are looked at.
const MOST: usize = 96;
/// A shot in which so many of the features of the first key frame are still there on each other one
/// hangs together by itself.
const SHARED: f64 = 0.5;
/// The frame before one on which so many of its features have ended is one as well: nothing was lost yet.
const ABRUPT: f64 = 0.8;

/// A gap is where fewer features than this ...
const FEW: usize = 16;
/// ... are seen both so many frames before and so many after a frame.
const ASIDE: usize = 8;
/// A gap longer than this is no passer-by: the camera looks elsewhere.
const LONGEST_GAP: usize = 36;
/// At most so many gaps are looked at closely, the shortest first.
const MOST_GAPS: usize = 6;
/// Frames looked at on each side of a gap, and how far they are apart.
const SIDE: usize = 7;
const STRIDE: usize = 2;

/// Frames whose features are held against those of others.
pub struct Keys {
    /// Their indices, ascending.
    pub frames: Vec<usize>,
    /// Which are held against each other, as places among them: what was lost shortly before what was lost long ago.
    pub pairs: Vec<(usize, usize)>,
}

impl Keys {
    /// All key frames along a shot, in pairs of any two, and those about its gaps, in pairs across each; none of
    /// a shot that hangs together by itself.
    pub fn of(tracks: &[Track], frames: &[FrameNumber]) -> Self {
        let along = chosen(tracks, frames);
        let gaps = match along.is_empty() {
            true => Vec::new(),
            false => gaps(tracks, frames),
        };
        // Those across a gap with the neighbours, the nearest first.
        let mut ranked: Vec<([usize; 2], [usize; 2])> = Vec::new();
        for (k, earlier) in along.iter().enumerate() {
            let later = along[k + 1..].iter().enumerate();
            ranked.extend(later.map(|(apart, later)| ([apart + 1, 0], [*earlier, *later])));
        }
        for Gap { before, after } in &gaps {
            for earlier in before {
                let later = after.iter();
                ranked.extend(later.map(|later| ([1, later - earlier], [*earlier, *later])));
            }
        }
        ranked.sort();
        // A frame beside a gap can be a key frame of its own.
        let mut met = HashSet::new();
        ranked.retain(|(_, pair)| met.insert(*pair));
        let mut all = along;
        all.extend(gaps.into_iter().flat_map(|g| [g.before, g.after]).flatten());
        all.sort_unstable();
        all.dedup();
        let place = |frame: usize| all.partition_point(|f| *f < frame);
        let pairs = ranked.iter().map(|(_, [a, b])| (place(*a), place(*b)));
        Self {
            pairs: pairs.collect(),
            frames: all,
        }
    }
}

/// Where little links a shot: indices of the frames before and after, the nearest first.
struct Gap {
    before: Vec<usize>,
    after: Vec<usize>,
}

/// The gaps of a shot, in the order of their lengths. What the frames at the ends of a shot see does not tell.
fn gaps(tracks: &[Track], frames: &[FrameNumber]) -> Vec<Gap> {
    // How many tracks span each frame by so much, from where each begins and ceases to.
    let mut changes = vec![0isize; frames.len() + 1];
    for (first, last) in tracks.iter().filter_map(Track::range) {
        let index = |frame| frames.binary_search(&frame).ok();
        let (Some(first), Some(last)) = (index(first), index(last)) else {
            continue;
        };
        if last >= first + 2 * ASIDE {
            changes[first + ASIDE] += 1;
            changes[last - ASIDE + 1] -= 1;
        }
    }
    let mut spanning = 0;
    let links = |change: &isize| {
        spanning += change;
        spanning >= FEW as isize
    };
    let linked: Vec<bool> = changes[..frames.len()].iter().map(links).collect();
    let mut found: Vec<std::ops::Range<usize>> = Vec::new();
    let mut next = linked.iter().position(|l| *l).unwrap_or(linked.len());
    while let Some(start) = (next..linked.len()).find(|k| !linked[*k]) {
        // One that lasts to the end has nothing behind it.
        let Some(end) = (start..linked.len()).find(|k| linked[*k]) else {
            break;
        };
        found.extend((end - start <= LONGEST_GAP).then_some(start..end));
        next = end;
    }
    found.sort_by_key(|gap| (gap.len(), gap.start));
    found.truncate(MOST_GAPS);
    let about = |gap: std::ops::Range<usize>| Gap {
        before: (0..SIDE)
            .filter_map(|k| gap.start.checked_sub(1 + STRIDE * k))
            .collect(),
        after: (0..SIDE)
            .map(|k| gap.end + STRIDE * k)
            .filter(|k| *k < frames.len())
            .collect(),
    };
    found.into_iter().map(about).collect()
}

/// Indices of key frames, ascending; none of a shot that hangs together by itself.
fn chosen(tracks: &[Track], frames: &[FrameNumber]) -> Vec<usize> {
    let seen = seen(tracks, frames);
    let mut keys: Vec<usize> = Vec::new();
    for (index, here) in seen.iter().enumerate() {
        let is_next = keys.last().is_none_or(|&last| {
            let (there, left) = (&seen[last], shared(&seen[last], here) as f64);
            left < LEFT * there.len().max(here.len()) as f64 || index - last >= LONGEST
        });
        let goes_on = index.checked_sub(1).map(|before| &seen[before]);
        let abrupt = goes_on.filter(|before| {
            (shared(before, here) as f64) < ABRUPT * before.len() as f64
                && keys.last().is_some_and(|last| last + 1 < index)
        });
        if abrupt.is_some() {
            keys.push(index - 1);
        }
        if is_next && !here.is_empty() {
            keys.push(index);
        }
    }
    let first = keys.first().map(|first| &seen[*first]);
    let is_still_there = |first: &Vec<usize>, key: &usize| {
        shared(first, &seen[*key]) as f64 >= SHARED * first.len() as f64
    };
    if first.is_none_or(|first| keys.iter().all(|key| is_still_there(first, key))) {
        return Vec::new();
    }
    let stride = keys.len().div_ceil(MOST).max(1);
    keys.into_iter().step_by(stride).collect()
}

/// Tracks that each frame sees, ascending.
fn seen(tracks: &[Track], frames: &[FrameNumber]) -> Vec<Vec<usize>> {
    let mut seen = vec![Vec::new(); frames.len()];
    for (track, t) in tracks.iter().enumerate() {
        for s in &t.samples {
            if let Ok(index) = frames.binary_search(&s.frame) {
                seen[index].push(track);
            }
        }
    }
    seen
}

fn shared(a: &[usize], b: &[usize]) -> usize {
    a.iter().filter(|t| b.binary_search(t).is_ok()).count()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spaces::{PlatePx, TrackId};
    use crate::tracks::{Covariance, Sample, TrackKind};
    use rstest::rstest;

    /// Twenty features each on frames from and to; whether a gap is seen between two of them.
    #[rstest]
    #[case::whole(&[(0, 99)], None)]
    #[case::broken(&[(0, 45), (54, 99)], Some((38, 62)))]
    #[case::overlapping(&[(0, 60), (40, 99)], None)]
    #[case::looks_elsewhere(&[(0, 30), (69, 99)], None)]
    #[case::ends_early(&[(0, 60)], None)]
    #[case::hardly_begun(&[(0, 12), (20, 99)], None)]
    fn gaps_are_where_little_links(
        #[case] lives: &[(i32, i32)],
        #[case] expected: Option<(usize, usize)>,
    ) {
        let frames: Vec<FrameNumber> = (0..100).map(FrameNumber).collect();
        let track = |(first, last): (i32, i32)| {
            let sample = |frame| Sample {
                frame: FrameNumber(frame),
                px: PlatePx::new(5.0, 5.0),
                covariance: Covariance::isotropic(0.1),
            };
            let samples = (first..=last).map(sample).collect();
            Track::new(TrackId(1), TrackKind::Auto, samples)
        };
        let lives = lives.iter().flat_map(|life| std::iter::repeat_n(*life, 20));
        let tracks: Vec<Track> = lives.map(track).collect();
        let found = gaps(&tracks, &frames);
        assert!(found.len() <= 1);
        let nearest = found.first().map(|gap| (gap.before[0], gap.after[0]));
        assert_eq!(nearest, expected.map(|(start, end)| (start - 1, end)));
        // Where there is a gap its sides are held against each other, the later against the earlier.
        let keys = Keys::of(&tracks, &frames);
        let pairs = keys
            .pairs
            .iter()
            .map(|(a, b)| (keys.frames[*a], keys.frames[*b]));
        let pairs: Vec<(usize, usize)> = pairs.collect();
        assert!(pairs.iter().all(|(earlier, later)| earlier < later));
        assert!(nearest.is_none_or(|across| pairs.contains(&across)));
        let once: HashSet<_> = pairs.iter().collect();
        assert_eq!(once.len(), pairs.len());
    }
}
