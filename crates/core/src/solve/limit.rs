//! What would a limit on residuals leave?
//!
//! Landmarks whose root mean square residual exceeds a limit are dropped by a solve. Before one is run, this
//! counts what would be dropped and which frames would starve, from the residuals there are.

use super::Attempt;
use super::doubts::FEW_FEATURES;
use crate::spaces::FrameNumber;
use serde::Serialize;

/// What a limit would do.
#[derive(Clone, Debug, PartialEq, Serialize)]
pub struct Limited {
    /// Landmarks that would be dropped.
    pub dropped: usize,
    /// Landmarks that would stay.
    pub kept: usize,
    /// The frame that would see fewest, and how many that is; `None` where there are no frames.
    pub poorest: Option<(FrameNumber, usize)>,
    /// Stretches of solved frames that would see fewer than a camera needs to be sure of, from to.
    pub starving: Vec<(FrameNumber, FrameNumber)>,
}

/// What a limit in px would leave of an attempt.
pub fn limited(attempt: &Attempt, limit_px: f64) -> Limited {
    let mut seen = vec![0usize; attempt.frames.len()];
    let kept = attempt.landmarks.iter().filter(|l| l.rms_px <= limit_px);
    let mut count = 0;
    for landmark in kept {
        count += 1;
        for (frame, _) in &landmark.residuals_px {
            if let Ok(at) = attempt.frames.binary_search_by_key(frame, |f| f.frame) {
                seen[at] += 1;
            }
        }
    }
    let frames = || attempt.frames.iter().map(|f| f.frame).zip(&seen);
    let mut starving: Vec<(FrameNumber, FrameNumber)> = Vec::new();
    let mut before = false;
    for (frame, features) in frames() {
        let starves = *features < FEW_FEATURES;
        match starving.last_mut().filter(|_| before && starves) {
            Some(stretch) => stretch.1 = frame,
            None if starves => starving.push((frame, frame)),
            None => {}
        }
        before = starves;
    }
    Limited {
        dropped: attempt.landmarks.len() - count,
        kept: count,
        poorest: frames().min_by_key(|(_, n)| **n).map(|(f, n)| (f, *n)),
        starving,
    }
}
