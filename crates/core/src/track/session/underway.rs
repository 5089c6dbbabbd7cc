//! Following that was interrupted, so that it can go on: all that a session holds, but for the
//! picture it looked at last, which is read again.

use super::{Asleep, Live, Session, pyramid_levels};
use crate::spaces::PlatePx;
use crate::track::picture::Pyramid;
use crate::track::{FrameSource, TrackError, TrackOptions};
use crate::tracks::Track;
use serde::{Deserialize, Serialize};

/// What following holds from frame to frame, and needs to go on.
#[derive(Clone, Serialize, Deserialize)]
pub struct Underway {
    /// Index of the frame that comes next.
    pub(super) next: usize,
    pub(super) live: Vec<Live>,
    pub(super) asleep: Vec<Asleep>,
    pub(super) tracks: Vec<Track>,
    pub(super) frames_since_refill: usize,
    /// Features that the last look for new ones found.
    pub(super) found_last: usize,
    /// Where features ended soon after they were found, and for how many frames more to keep away.
    pub(super) spent: Vec<(PlatePx, usize)>,
}

impl Underway {
    /// The first frame is looked at, and nothing is followed yet.
    pub(super) fn begun() -> Self {
        Self {
            next: 1,
            live: Vec::new(),
            asleep: Vec::new(),
            tracks: Vec::new(),
            frames_since_refill: 0,
            found_last: 0,
            spent: Vec::new(),
        }
    }

    /// Whether it can be of a plate with so many frames.
    pub(super) fn is_of(&self, frame_count: usize) -> bool {
        let asleep = self.asleep.iter().map(|a| &a.live);
        let mut live = self.live.iter().chain(asleep);
        (1..=frame_count).contains(&self.next) && live.all(|l| l.track < self.tracks.len())
    }
}

impl Session {
    /// Goes on from what was left: the picture that it looked at last is read again.
    pub(super) fn resumed(
        left: Underway,
        options: TrackOptions,
        source: &dyn FrameSource,
    ) -> Result<Self, TrackError> {
        let (picture, mask) = source.look(left.next - 1)?;
        Ok(Self {
            before: Pyramid::new(picture, pyramid_levels(&options)),
            mask,
            options,
            now: left,
        })
    }
}
