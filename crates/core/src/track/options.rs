//! What the artist controls when features are followed, and why following may fail.

use super::FrameError;
use super::detect::Detector;
use crate::spaces::FrameNumber;
use serde::{Deserialize, Serialize};

/// What the artist controls.
#[derive(Clone, Copy, Debug, PartialEq, Serialize, Deserialize)]
#[serde(deny_unknown_fields)]
pub struct TrackOptions {
    /// Features followed at the same time, 8 to 4000.
    pub count: usize,
    /// Side of the pattern, px, odd, 9 to 61. Soft detail has patterns twice as large, and may go twice as far.
    pub pattern_px: usize,
    /// Largest motion from frame to frame across, px.
    pub reach_x_px: f64,
    /// Largest motion from frame to frame up and down, px.
    pub reach_y_px: f64,
    /// 0 keeps what is vaguely alike, 1 only what is nearly the same.
    pub strictness: f64,
}

impl TrackOptions {
    /// What suits most plates of a size: 400 features, a reach of 6 % of the width, patterns
    /// of 25 px that grow with plates wider than 640 px (33 px at 1280, 37 px at 1920), since the
    /// same detail spreads over more px there; beyond 1280 px more slowly, since they cost time.
    pub fn for_size(width_px: u32, _height_px: u32) -> Self {
        let reach = (0.06 * f64::from(width_px)).round();
        let grown = if width_px <= 1280 {
            17 + width_px / 80
        } else {
            25 + width_px / 160
        };
        let pattern_px = (grown as usize).clamp(25, 45) | 1;
        Self {
            count: 400,
            pattern_px,
            reach_x_px: reach,
            reach_y_px: reach,
            strictness: 0.5,
        }
    }

    /// Checks all ranges.
    pub fn validated(self) -> Result<Self, TrackError> {
        let bad = |what, value: f64, range| Err(TrackError::OutOfRange { what, value, range });
        if !(8..=4000).contains(&self.count) {
            return bad("number of features", self.count as f64, "8 to 4000");
        }
        if !(9..=61).contains(&self.pattern_px) || self.pattern_px.is_multiple_of(2) {
            return bad("pattern size", self.pattern_px as f64, "odd, 9 to 61 px");
        }
        for (what, reach) in [
            ("reach across", self.reach_x_px),
            ("reach up and down", self.reach_y_px),
        ] {
            if !(1.0..=1000.0).contains(&reach) {
                return bad(what, reach, "1 to 1000 px");
            }
        }
        if !(0.0..=1.0).contains(&self.strictness) {
            return bad("strictness", self.strictness, "0 to 1");
        }
        Ok(self)
    }

    pub(super) fn least_correlation(&self) -> f64 {
        0.55 + 0.3 * self.strictness
    }

    /// 0.09 px at the usual strictness.
    pub(super) fn max_followed_sigma_px(&self) -> f64 {
        0.12 - 0.06 * self.strictness
    }

    /// 0.175 px at the usual strictness.
    pub(super) fn max_found_sigma_px(&self) -> f64 {
        0.25 - 0.15 * self.strictness
    }

    /// 0.13 px at the usual strictness: with 0.175 features in heavy grain live a tenth shorter and are off more.
    fn max_expected_sigma_px(&self) -> f64 {
        0.20 - 0.14 * self.strictness
    }

    pub(super) fn detector(&self, width: usize, height: usize) -> Detector {
        let even = ((width * height) as f64 / self.count as f64).sqrt();
        Detector {
            pattern_px: self.pattern_px,
            max_sigma_px: self.max_expected_sigma_px(),
            spacing_px: (0.35 * even).max(self.pattern_px as f64 * 0.4),
        }
    }
}

/// Why features could not be followed.
#[derive(Debug, thiserror::Error)]
pub enum TrackError {
    /// A control is outside its range.
    #[error("the {what} is {value}; it has to be {range}")]
    OutOfRange {
        /// Which control.
        what: &'static str,
        /// What it was set to.
        value: f64,
        /// What it may be.
        range: &'static str,
    },
    /// There is nothing to follow from frame to frame.
    #[error("the plate has {found} frame; following needs at least 2")]
    TooFewFrames {
        /// Frames there are.
        found: usize,
    },
    /// A frame cannot be read.
    #[error(transparent)]
    Frame(#[from] FrameError),
    /// A hand track cannot be followed.
    #[error(transparent)]
    Hand(#[from] super::hand::HandError),
    /// A frame has another size than the first.
    #[error(
        "frame {frame} is {found_width}x{found_height} px, the plate is {width}x{height} px; leave it out or make it the same size"
    )]
    SizeChanged {
        /// The frame.
        frame: FrameNumber,
        /// Its width.
        found_width: usize,
        /// Its height.
        found_height: usize,
        /// The plate's width.
        width: usize,
        /// The plate's height.
        height: usize,
    },
    /// Nothing in the plate can be followed.
    #[error("no detail in the plate can be followed; it may be black, blank or out of focus")]
    NoFeatures,
    /// The artist cancelled.
    #[error("following was cancelled; the tracks there were are kept")]
    Cancelled,
}
