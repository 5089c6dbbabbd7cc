//! Following features through a plate: which details can be followed ([`detect`]), where
//! each of them is on every frame and how certain that is ([`follow`], [`session`]).
//! What comes out are [`tracks`](crate::tracks).

pub mod adjust;
pub mod detect;
mod feature;
pub mod follow;
pub mod hand;
pub mod matte;
mod options;
pub mod picture;
pub mod session;

pub use options::{TrackError, TrackOptions};

use crate::spaces::FrameNumber;
use matte::Mask;
use picture::Plane;

/// A frame could not be had.
#[derive(Clone, Debug, thiserror::Error)]
#[error("frame {frame} cannot be read: {reason}")]
pub struct FrameError {
    /// Which frame.
    pub frame: FrameNumber,
    /// Why, as a clause.
    pub reason: String,
}

/// Where pictures come from. Frames are asked for one after the other, forwards or backwards, so
/// that no implementation has to hold more than one.
pub trait FrameSource: Sync {
    /// The frames there are, ascending.
    fn frames(&self) -> &[FrameNumber];

    /// The picture of the frame at `index` of [`FrameSource::frames`], grey in levels 0 to 255.
    fn grey(&self, index: usize) -> Result<Plane, FrameError>;

    /// The picture, and what is not to be followed on it, if anything.
    fn look(&self, index: usize) -> Result<(Plane, Option<Mask>), FrameError> {
        Ok((self.grey(index)?, None))
    }
}
