//! What an artist does to a hand track: keys, how far it is followed, where it ends and begins again,
//! and how an automatic track becomes one.

use super::{HandKey, HandTrack};
use crate::track::TrackOptions;
use crate::tracks::Track;
use serde::{Deserialize, Serialize};

/// Which way a track is followed from a frame.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Way {
    /// On to the last frame.
    Forwards,
    /// Back to the first.
    Backwards,
    /// To both ends.
    Both,
    /// From its first key to its last.
    Between,
}

/// Frames between the keys that an automatic track is given when it is promoted.
const PROMOTED_EVERY: usize = 24;

impl HandTrack {
    /// Placed on a frame, living there only.
    pub fn placed(id: u32, name: String, key: HandKey, options: &TrackOptions) -> Self {
        Self {
            id,
            name,
            keys: vec![key],
            life: vec![(key.frame, key.frame)],
            pattern_px: options.pattern_px,
            reach_px: [options.reach_x_px, options.reach_y_px],
            strictness: options.strictness,
            guide: Vec::new(),
        }
    }

    /// An automatic track with keys where it begins and ends, and every so many frames between.
    /// `None` without positions.
    pub fn promoted(id: u32, track: &Track, options: &TrackOptions) -> Option<Self> {
        let (first, last) = track.range()?;
        let end = track.samples.len() - 1;
        let keyed = track
            .samples
            .iter()
            .enumerate()
            .filter(|(i, _)| i % PROMOTED_EVERY == 0 || *i == end);
        let keys = keyed
            .map(|(_, s)| HandKey {
                frame: s.frame.0,
                px: [s.px.x, s.px.y],
            })
            .collect();
        let key = HandKey {
            frame: first.0,
            px: [0.0; 2],
        };
        Some(Self {
            keys,
            life: vec![(first.0, last.0)],
            ..Self::placed(id, track.id.to_string(), key, options)
        })
    }

    /// With a key on a frame, in the place of one that is there. Beyond its life it lives there again.
    pub fn keyed(&self, key: HandKey) -> Self {
        let mut next = self.clone();
        next.keys.retain(|k| k.frame != key.frame);
        next.keys.push(key);
        next.keys.sort_by_key(|k| k.frame);
        if !next.life.iter().any(|l| (l.0..=l.1).contains(&key.frame)) {
            next.lives(key.frame, key.frame);
        }
        next
    }

    /// Without its key on a frame; the last one stays.
    pub fn unkeyed(&self, frame: i32) -> Self {
        let mut next = self.clone();
        if next.keys.len() > 1 {
            next.keys.retain(|k| k.frame != frame);
            let keys = &next.keys;
            next.life
                .retain(|l| keys.iter().any(|k| (l.0..=l.1).contains(&k.frame)));
        }
        next
    }

    /// Followed along a prediction, from its first frame to its last and over its keys.
    pub fn guided(&self, path: Vec<HandKey>) -> Self {
        let mut next = self.clone();
        let keys = [self.keys.first(), self.keys.last()];
        let all = [path.first(), path.last()]
            .into_iter()
            .chain(keys)
            .flatten();
        let frames: Vec<i32> = all.map(|k| k.frame).collect();
        if let (Some(first), Some(last)) = (frames.iter().min(), frames.iter().max()) {
            next.life.clear();
            next.lives(*first, *last);
        }
        next.guide = path;
        next
    }

    /// Followed from a frame by its looks alone, within the first and last frame of the shot.
    pub fn followed(&self, way: Way, frame: i32, (first, last): (i32, i32)) -> Self {
        let mut next = self.clone();
        next.guide.clear();
        let here = self
            .life
            .iter()
            .find(|l| (l.0..=l.1).contains(&frame))
            .or(self.life.last());
        let (from, to) = here.copied().unwrap_or((frame, frame));
        let keys = self
            .keys
            .first()
            .zip(self.keys.last())
            .map_or((frame, frame), |(a, b)| (a.frame, b.frame));
        match way {
            Way::Forwards => next.lives(from, last),
            Way::Backwards => next.lives(first, to),
            Way::Both => next.lives(first, last),
            Way::Between => next.lives(keys.0, keys.1),
        }
        next
    }

    /// Seen on this frame for the last time; a later key is where it begins again.
    pub fn ended(&self, frame: i32) -> Self {
        let later = |to: i32| {
            self.keys
                .iter()
                .map(|k| k.frame)
                .find(|k| (frame + 1..=to).contains(k))
        };
        self.cut(frame, |from, to| {
            [Some((from, frame)), later(to).map(|k| (k, to))]
        })
    }

    /// Seen on this frame for the first time; an earlier key is where it ended.
    pub fn begun(&self, frame: i32) -> Self {
        let earlier = |from: i32| {
            self.keys
                .iter()
                .rev()
                .map(|k| k.frame)
                .find(|k| (from..frame).contains(k))
        };
        self.cut(frame, |from, to| {
            [earlier(from).map(|k| (from, k)), Some((frame, to))]
        })
    }

    /// The stretch of life that holds a frame, in parts; those without a key are no life.
    fn cut(&self, frame: i32, parts: impl Fn(i32, i32) -> [Option<(i32, i32)>; 2]) -> Self {
        let is_keyed = |l: &(i32, i32)| self.keys.iter().any(|k| (l.0..=l.1).contains(&k.frame));
        let split = |&(from, to): &(i32, i32)| match (from..=to).contains(&frame) {
            true => parts(from, to),
            false => [Some((from, to)), None],
        };
        let life: Vec<_> = self
            .life
            .iter()
            .flat_map(split)
            .flatten()
            .filter(is_keyed)
            .collect();
        Self {
            life,
            ..self.clone()
        }
    }

    /// Adds a stretch of life and joins it with what it touches.
    fn lives(&mut self, from: i32, to: i32) {
        self.life.push((from.min(to), from.max(to)));
        self.life.sort_unstable();
        let mut joined: Vec<(i32, i32)> = Vec::new();
        for stretch in self.life.drain(..) {
            match joined.last_mut() {
                Some(last) if stretch.0 <= last.1 => last.1 = last.1.max(stretch.1),
                _ => joined.push(stretch),
            }
        }
        self.life = joined;
    }
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use crate::spaces::{FrameNumber, PlatePx, TrackId};
    use crate::tracks::{Covariance, Sample, TrackKind};
    use rstest::rstest;

    fn hand(keys: &[i32], life: &[(i32, i32)]) -> HandTrack {
        let key = |f: &i32| HandKey {
            frame: *f,
            px: [10.0, 10.0],
        };
        let options = TrackOptions::for_size(1280, 720);
        let hand = HandTrack::placed(100_001, "nail".to_owned(), key(&keys[0]), &options);
        HandTrack {
            keys: keys.iter().map(key).collect(),
            life: life.to_vec(),
            ..hand
        }
    }

    #[rstest]
    #[case::forwards(hand(&[5], &[(5, 5)]).followed(Way::Forwards, 5, (1, 40)), &[(5, 40)])]
    #[case::backwards(hand(&[5], &[(5, 5)]).followed(Way::Backwards, 5, (1, 40)), &[(1, 5)])]
    #[case::both(hand(&[5], &[(5, 5)]).followed(Way::Both, 5, (1, 40)), &[(1, 40)])]
    #[case::between(hand(&[5, 20], &[(5, 5), (20, 20)]).followed(Way::Between, 9, (1, 40)), &[(5, 20)])]
    #[case::second_life(hand(&[5, 20], &[(1, 9), (20, 20)]).followed(Way::Forwards, 20, (1, 40)), &[(1, 9), (20, 40)])]
    #[case::ended(hand(&[5], &[(1, 40)]).ended(12), &[(1, 12)])]
    #[case::ended_before_a_key(hand(&[5, 30], &[(1, 40)]).ended(12), &[(1, 12), (30, 40)])]
    #[case::ended_before_all_keys(hand(&[20], &[(1, 40)]).ended(12), &[(20, 40)])]
    #[case::begun(hand(&[20], &[(1, 40)]).begun(12), &[(12, 40)])]
    #[case::begun_after_a_key(hand(&[5, 20], &[(1, 40)]).begun(12), &[(1, 5), (12, 40)])]
    #[case::key_beyond(hand(&[5], &[(1, 9)]).keyed(HandKey { frame: 20, px: [1.0, 1.0] }), &[(1, 9), (20, 20)])]
    #[case::key_within(hand(&[5], &[(1, 9)]).keyed(HandKey { frame: 7, px: [1.0, 1.0] }), &[(1, 9)])]
    #[case::key_removed(hand(&[5, 20], &[(1, 9), (20, 24)]).unkeyed(20), &[(1, 9)])]
    #[case::last_key_stays(hand(&[5], &[(1, 9)]).unkeyed(5), &[(1, 9)])]
    fn life_is_where_it_is_followed(#[case] hand: HandTrack, #[case] life: &[(i32, i32)]) {
        assert_eq!(hand.life, life);
        let frames: Vec<FrameNumber> = (1..=40).map(FrameNumber).collect();
        assert_eq!(hand.checked((640, 360), &frames), Ok(()));
    }

    #[test]
    fn a_key_takes_the_place_of_the_one_that_is_there() {
        let hand = hand(&[5, 20], &[(1, 30)]).keyed(HandKey {
            frame: 20,
            px: [3.0, 4.0],
        });
        assert_eq!(hand.keys.len(), 2);
        assert_eq!(hand.keys[1].px, [3.0, 4.0]);
    }

    #[test]
    fn a_promoted_track_is_keyed_where_it_was() {
        let at = |f: i32| Sample {
            frame: FrameNumber(f),
            px: PlatePx::new(f64::from(f), 9.0),
            covariance: Covariance::isotropic(0.1),
        };
        let track = Track::new(TrackId(3), TrackKind::Auto, (11..=70).map(at).collect());
        let hand = HandTrack::promoted(100_001, &track, &TrackOptions::for_size(640, 360)).unwrap();
        assert_eq!(hand.life, [(11, 70)]);
        assert_eq!(
            hand.keys.iter().map(|k| k.frame).collect::<Vec<_>>(),
            [11, 35, 59, 70]
        );
        assert_eq!(hand.keys[1].px, [35.0, 9.0]);
    }
}
