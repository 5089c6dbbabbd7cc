//! Tracks that the artist keys: where a feature is on a few frames, followed from there forwards
//! and backwards, and joined between the keys.
//!
//! Each stretch between a key and the next one (or the end of the track's life) is a *leg*: it
//! begins with a reference cut at its key, so that a key is also where a feature whose
//! surroundings change is looked at anew. A leg depends on its key, its last frame and the
//! controls, and on nothing else: moving one key leaves all other legs as they are
//! ([`Leg::fingerprint`]). Between two keys the leg from the left and the leg from the right are
//! blended; how far they disagree goes into the stated uncertainty.
//!
//! Where a solved camera predicts the track ([`HandTrack::guide`]), it is looked for there, and a leg that loses it
//! goes on along the prediction until it is seen again ([`walk`]).

mod keys;
mod walk;

pub use keys::Way;
pub use walk::{Ended, Path, follow_legs};

use super::{FrameSource, TrackError, TrackOptions};
use crate::progress::Progress;
use crate::spaces::{FrameNumber, PlatePx, TrackId};
use crate::tracks::{Covariance, Sample, Track, TrackKind};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::{BTreeMap, HashMap};

/// Where the artist says that the feature is.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HandKey {
    /// The frame.
    pub frame: i32,
    /// The place in the plate as shot, px.
    pub px: [f64; 2],
}

/// A track keyed by the artist.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct HandTrack {
    /// Identity inside the shot; the tracks made from it have it.
    pub id: u32,
    /// What the artist calls it.
    pub name: String,
    /// Its keys, ascending by frame.
    pub keys: Vec<HandKey>,
    /// Frames on which it lives, from and to, ascending and apart. Keys beyond are kept and unused.
    pub life: Vec<(i32, i32)>,
    /// Side of the pattern, px, odd, 9 to 61.
    pub pattern_px: usize,
    /// Largest motion from frame to frame across and up-down, px.
    pub reach_px: [f64; 2],
    /// 0 keeps what is vaguely alike, 1 only what is nearly the same.
    pub strictness: f64,
    /// Where a solved camera predicts it, ascending by frame; empty where it is followed by its looks alone.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub guide: Vec<HandKey>,
}

/// Why a hand track cannot be followed.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum HandError {
    /// There is no key.
    #[error("{name} has no key; place it on a frame first")]
    NoKeys {
        /// The track.
        name: String,
    },
    /// Keys are not ascending by frame.
    #[error(
        "the keys of {name} are not in the order of frames, at frame {frame}; there is one key a frame"
    )]
    Disorder {
        /// The track.
        name: String,
        /// Where.
        frame: i32,
    },
    /// A key is not in the picture.
    #[error("the key of {name} on frame {frame} lies outside the picture of {width}x{height} px")]
    Outside {
        /// The track.
        name: String,
        /// Where.
        frame: i32,
        /// Width of the plate, px.
        width: u32,
        /// Its height.
        height: u32,
    },
    /// A key lies on a frame that the plate has not.
    #[error("{name} has a key on frame {frame}, which the plate has not")]
    NoFrame {
        /// The track.
        name: String,
        /// Where.
        frame: i32,
    },
    /// Stretches of its life overlap or end before they begin.
    #[error("the life of {name} is not in order at frame {frame}")]
    Life {
        /// The track.
        name: String,
        /// Where.
        frame: i32,
    },
    /// A control is out of range.
    #[error("{name}: {reason}")]
    Control {
        /// The track.
        name: String,
        /// What is wrong.
        reason: String,
    },
}

impl HandTrack {
    /// What cannot be, if anything: keys out of order, outside the picture or on no frame, a life
    /// out of order, controls out of range.
    pub fn checked(
        &self,
        (width, height): (u32, u32),
        frames: &[FrameNumber],
    ) -> Result<(), HandError> {
        let name = || self.name.clone();
        if self.keys.is_empty() {
            return Err(HandError::NoKeys { name: name() });
        }
        if let Some(w) = self.keys.windows(2).find(|w| w[0].frame >= w[1].frame) {
            return Err(HandError::Disorder {
                name: name(),
                frame: w[1].frame,
            });
        }
        for key in self.keys.iter().chain(&self.guide) {
            let frame = key.frame;
            let inside = |at: f64, most: u32| (0.0..=f64::from(most)).contains(&at);
            if !(inside(key.px[0], width) && inside(key.px[1], height)) {
                return Err(HandError::Outside {
                    name: name(),
                    frame,
                    width,
                    height,
                });
            }
            if frames.binary_search(&FrameNumber(frame)).is_err() {
                return Err(HandError::NoFrame {
                    name: name(),
                    frame,
                });
            }
        }
        if let Some(w) = self.guide.windows(2).find(|w| w[0].frame >= w[1].frame) {
            return Err(HandError::Disorder {
                name: name(),
                frame: w[1].frame,
            });
        }
        if let Some(l) = self.life.iter().find(|l| l.0 > l.1) {
            return Err(HandError::Life {
                name: name(),
                frame: l.0,
            });
        }
        if let Some(w) = self.life.windows(2).find(|w| w[0].1 >= w[1].0) {
            return Err(HandError::Life {
                name: name(),
                frame: w[1].0,
            });
        }
        let controls = self.options().validated();
        controls.map(|_| ()).map_err(|e| HandError::Control {
            name: name(),
            reason: e.to_string(),
        })
    }

    /// The controls of following, for one feature.
    pub fn options(&self) -> TrackOptions {
        TrackOptions {
            count: 8,
            pattern_px: self.pattern_px,
            reach_x_px: self.reach_px[0],
            reach_y_px: self.reach_px[1],
            strictness: self.strictness,
        }
    }

    /// All stretches that have to be followed: from each key to the next and back, and from the
    /// outer keys of each stretch of life to its ends.
    pub fn legs(&self) -> Vec<Leg> {
        let mut legs = Vec::new();
        for &(first, last) in &self.life {
            let keys: Vec<&HandKey> = self
                .keys
                .iter()
                .filter(|k| (first..=last).contains(&k.frame))
                .collect();
            for (i, key) in keys.iter().enumerate() {
                let before = if i == 0 { first } else { keys[i - 1].frame };
                let after = keys.get(i + 1).map_or(last, |k| k.frame);
                for to in [before, after].into_iter().filter(|to| *to != key.frame) {
                    let between = before_and_after(key.frame, to);
                    let guide = self.guide.iter().filter(|g| between.contains(&g.frame));
                    legs.push(Leg {
                        from: **key,
                        to,
                        options: self.options(),
                        guide: guide.copied().collect(),
                    });
                }
            }
        }
        legs
    }

    /// Joins what the legs found to one track; legs that were not followed leave gaps.
    pub fn joined(&self, paths: &HashMap<String, Path>) -> Track {
        let mut found: BTreeMap<i32, Vec<(f64, Sample)>> = BTreeMap::new();
        for leg in self.legs() {
            let length = f64::from(leg.to - leg.from.frame);
            let to_key = self.keys.iter().any(|k| k.frame == leg.to);
            for sample in paths
                .get(&leg.fingerprint())
                .iter()
                .flat_map(|p| &p.samples)
            {
                // A leg that leads to no key is believed to its end.
                let gone = if to_key {
                    f64::from(sample.frame.0 - leg.from.frame) / length
                } else {
                    0.0
                };
                found
                    .entry(sample.frame.0)
                    .or_default()
                    .push((1.0 - gone, *sample));
            }
        }
        let mut samples: BTreeMap<i32, Sample> = BTreeMap::new();
        for (frame, legs) in &found {
            samples.extend(blended(legs).map(|s| (*frame, s)));
        }
        let lives = |frame: i32| self.life.iter().any(|l| (l.0..=l.1).contains(&frame));
        for key in self.keys.iter().filter(|k| lives(k.frame)) {
            let arrived = found.get(&key.frame).map_or(&[][..], Vec::as_slice);
            samples.insert(key.frame, key.sample(arrived));
        }
        Track::new(
            TrackId(self.id),
            TrackKind::Hand,
            samples.into_values().collect(),
        )
    }
}

/// A key defines the feature; it is taken to be placed to this, px, or half as well as the legs
/// from other keys say.
const KEY_SIGMA_PX: f64 = 0.05;

impl HandKey {
    fn at(&self) -> PlatePx {
        PlatePx::new(self.px[0], self.px[1])
    }

    fn sample(&self, arrived: &[(f64, Sample)]) -> Sample {
        let off = arrived
            .iter()
            .map(|(_, s)| 0.5 * s.px.distance_px(self.at()))
            .fold(0.0, f64::max);
        Sample {
            frame: FrameNumber(self.frame),
            px: self.at(),
            covariance: Covariance::isotropic(off.max(KEY_SIGMA_PX)),
        }
    }
}

/// The mean of what up to two legs say, by their weights: the variance of the mean and that of
/// their disagreement.
fn blended(legs: &[(f64, Sample)]) -> Option<Sample> {
    let (first, rest) = legs.split_first()?;
    let Some(second) = rest.first() else {
        return Some(first.1);
    };
    let total = first.0 + second.0;
    let share = if total > 0.0 { second.0 / total } else { 0.5 };
    let apart = second.1.px.offset_from(first.1.px);
    let spread = share * (1.0 - share);
    let part =
        |a: f64, b: f64, apart: f64| (1.0 - share).powi(2) * a + share.powi(2) * b + spread * apart;
    let (a, b) = (&first.1.covariance, &second.1.covariance);
    let covariance = Covariance {
        xx: part(a.xx, b.xx, apart.x * apart.x),
        xy: part(a.xy, b.xy, apart.x * apart.y),
        yy: part(a.yy, b.yy, apart.y * apart.y),
    };
    Some(Sample {
        px: first.1.px.moved(apart * share),
        covariance,
        ..first.1
    })
}

/// A key and how far to follow from it, in one direction.
#[derive(Clone, Debug, PartialEq)]
pub struct Leg {
    /// Where it begins.
    pub from: HandKey,
    /// Its last frame, before or after.
    pub to: i32,
    options: TrackOptions,
    /// Where it is predicted, ascending by frame.
    guide: Vec<HandKey>,
}

fn before_and_after(one: i32, other: i32) -> std::ops::RangeInclusive<i32> {
    one.min(other)..=one.max(other)
}

/// Stands for a prediction in a fingerprint.
fn digest(guide: &[HandKey]) -> String {
    let mut sum = Sha256::new();
    for HandKey { frame, px } in guide {
        sum.update(frame.to_le_bytes());
        px.iter().for_each(|v| sum.update(v.to_le_bytes()));
    }
    let bytes = sum.finalize();
    bytes[..8].iter().map(|b| format!("{b:02x}")).collect()
}

impl Leg {
    /// All that its path depends on besides the plate, its adjustment and its mattes.
    pub fn fingerprint(&self) -> String {
        let Self {
            from: HandKey { frame, px: [x, y] },
            to,
            options,
            guide,
        } = self;
        let TrackOptions {
            pattern_px,
            reach_x_px,
            reach_y_px,
            strictness,
            ..
        } = options;
        let own =
            format!("{frame}>{to} {x} {y} {pattern_px} {reach_x_px} {reach_y_px} {strictness}");
        match guide.is_empty() {
            true => own,
            false => format!("{own} {}", digest(guide)),
        }
    }

    fn lies_on(&self, frame: i32) -> bool {
        before_and_after(self.from.frame, self.to).contains(&frame)
    }
}

/// Follows hand tracks from nothing, and joins them.
pub fn follow_hands(
    source: &dyn FrameSource,
    size: (u32, u32),
    hands: &[HandTrack],
    progress: &dyn Progress,
) -> Result<Vec<Track>, TrackError> {
    for hand in hands {
        hand.checked(size, source.frames())?;
    }
    let legs: Vec<Leg> = hands.iter().flat_map(HandTrack::legs).collect();
    let paths = follow_legs(source, &legs, progress)?;
    let paths = legs.iter().map(Leg::fingerprint).zip(paths).collect();
    Ok(hands.iter().map(|h| h.joined(&paths)).collect())
}
