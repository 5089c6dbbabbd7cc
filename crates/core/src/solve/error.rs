//! Why there is no camera, in sentences that say what is lacking.

use crate::spaces::FrameNumber;

/// Why there is no camera.
#[derive(Clone, Debug, PartialEq, thiserror::Error)]
pub enum SolveError {
    /// Not enough frames.
    #[error("the tracks cover {found} frame(s); a camera needs at least {needed}")]
    TooFewFrames {
        /// Frames with tracks.
        found: usize,
        /// Least number.
        needed: usize,
    },
    /// Not enough tracks.
    #[error(
        "of the tracks {found} last 3 frames or more; a camera needs at least {needed}. Follow more features, or keep some that are set aside"
    )]
    TooFewTracks {
        /// Tracks there are.
        found: usize,
        /// Least number.
        needed: usize,
    },
    /// The picture stands still.
    #[error(
        "nothing moves: the features shift by {motion_px:.2} px over the whole shot. A camera that rests gives no depth; let the move be found, or state that it is locked off"
    )]
    NoMotion {
        /// Median motion over the shot, px.
        motion_px: f64,
    },
    /// The camera only turned.
    #[error(
        "the camera turns but does not travel: after the best rotation only {parallax_px:.2} px of parallax are left. Depth cannot be told from it; let the move be found, or state that it turns on the spot"
    )]
    NoParallax {
        /// What is left after the best rotation, px.
        parallax_px: f64,
    },
    /// The camera rests, and nobody states its focal length.
    #[error(
        "nothing moves: the features shift by {motion_px:.2} px over the whole shot. A camera that rests shows no focal length; state it, and the shot is solved as locked off"
    )]
    LockedWithoutFocal {
        /// Median motion over the shot, px.
        motion_px: f64,
    },
    /// The camera rests and zooms, and nobody states a focal length.
    #[error(
        "the camera rests and zooms: the picture grows by a factor of {factor:.2} about its middle and shows nothing else. That shows no focal length: state the one of the first frame, as in \"zooms from 35 mm\", and the shot is solved as a locked-off zoom"
    )]
    LockedZoomWithoutFocal {
        /// How much larger the picture is in the end than at first.
        factor: f64,
    },
    /// The camera is said to rest and does not.
    #[error(
        "the camera is said to be locked off, but the features shift by {motion_px:.2} px over the shot. State another move, or let the program find it"
    )]
    NotLocked {
        /// Median motion over the shot, px.
        motion_px: f64,
    },
    /// The camera is said to rest with a focal length that stays, and zooms.
    #[error(
        "the camera is said to be locked off with a focal length that stays, but the picture grows by a factor of {factor:.2} about its middle. State what it zooms from, as in \"zooms from 35 mm\""
    )]
    LockedButZooms {
        /// How much larger the picture is in the end than at first.
        factor: f64,
    },
    /// No two frames agree on a motion of the camera.
    #[error(
        "no two frames agree on one motion of the camera; most features may be on things that move by themselves. Set those aside and solve again"
    )]
    NoStart,
    /// Frames have too little in common.
    #[error(
        "no two frames that were compared have more than {most} features in common; a camera needs {needed} to start from. Follow more features, or key some by hand"
    )]
    TooFewShared {
        /// Most features that two frames share.
        most: usize,
        /// Least number.
        needed: usize,
    },
    /// Frames could not be reached from the start.
    #[error(
        "only {solved} of {all} frames could be solved together; frames {first_lost} to {last_lost} are linked to them by too few features ({linking}) to be sure of. Key some by hand that are seen on both sides, or add features there"
    )]
    FramesUnreachable {
        /// Frames solved.
        solved: usize,
        /// All frames.
        all: usize,
        /// The first that could not be solved.
        first_lost: FrameNumber,
        /// The last of those that follow it and could not be solved either.
        last_lost: FrameNumber,
        /// Features that are seen on frames that are solved and on some that are not.
        linking: usize,
    },
    /// What came out cannot be trusted.
    #[error(
        "a camera was found but cannot be trusted: {share_percent:.0} % of the positions fit it, with {rms_px:.2} px. {remedy}"
    )]
    NotCredible {
        /// Share of positions that fit, percent.
        share_percent: f64,
        /// Root mean square of those, px.
        rms_px: f64,
        /// What may help.
        remedy: &'static str,
    },
    /// A stated value makes no sense.
    #[error("the {what} is {value}; it has to be {range}")]
    OutOfRange {
        /// Which value.
        what: &'static str,
        /// What was given.
        value: f64,
        /// What it may be.
        range: &'static str,
    },
    /// The artist cancelled.
    #[error("solving was cancelled; the attempts there were are kept")]
    Cancelled,
}

impl SolveError {
    /// Whether a camera was seen to rest and zoom, and what is stated does not let it be solved.
    pub fn is_of_a_locked_zoom(&self) -> bool {
        matches!(
            self,
            Self::LockedZoomWithoutFocal { .. } | Self::LockedButZooms { .. }
        )
    }
}
