//! Following that was interrupted, so that it can go on: all that a session holds, but for the
//! picture it looked at last, which is read again.

use super::{Asleep, Live, Look, Session, pyramid_levels};
use crate::spaces::PlatePx;
use crate::track::picture::Pyramid;
use crate::track::{FrameSource, TrackError, TrackOptions};
use crate::tracks::Track;
use serde::{Deserialize, Serialize};

/// What following needs to go on.
#[derive(Clone, Serialize, Deserialize)]
pub struct Underway {
    next: usize,
    live: Vec<Live>,
    asleep: Vec<Asleep>,
    tracks: Vec<Track>,
    frames_since_refill: usize,
    found_last: usize,
    spent: Vec<(PlatePx, usize)>,
}

impl Underway {
    /// Frames that were looked at.
    pub fn frames_done(&self) -> usize {
        self.next
    }

    /// Whether it can be of a plate with so many frames.
    pub(super) fn is_of(&self, frame_count: usize) -> bool {
        let asleep = self.asleep.iter().map(|a| &a.live);
        let mut live = self.live.iter().chain(asleep);
        (1..=frame_count).contains(&self.next) && live.all(|l| l.track < self.tracks.len())
    }
}

impl Session {
    pub(super) fn underway(&self) -> Underway {
        Underway {
            next: self.next,
            live: self.live.clone(),
            asleep: self.asleep.clone(),
            tracks: self.tracks.clone(),
            frames_since_refill: self.frames_since_refill,
            found_last: self.found_last,
            spent: self.spent.clone(),
        }
    }

    pub(super) fn resumed(
        left: Underway,
        options: TrackOptions,
        source: &dyn FrameSource,
    ) -> Result<Self, TrackError> {
        let (picture, mask) = source.look(left.next - 1)?;
        let look = Look {
            pyramid: Pyramid::new(picture, pyramid_levels(&options)),
            mask,
        };
        Ok(Self {
            next: left.next,
            options,
            before: look.pyramid,
            mask: look.mask,
            live: left.live,
            asleep: left.asleep,
            tracks: left.tracks,
            frames_since_refill: left.frames_since_refill,
            found_last: left.found_last,
            spent: left.spent,
        })
    }
}
