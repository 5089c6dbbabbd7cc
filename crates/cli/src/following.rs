//! Which frames of a plate, how they are adjusted and how features are followed in them: what
//! `match` and `track` have in common.

use crate::{Failure, values};
use clap::Args;
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::{TrackError, TrackOptions};
use parallax_media::{Plate, Sequence};
use std::path::Path;

/// Frames, adjustment and the controls of following.
#[derive(Args)]
pub struct FollowArgs {
    /// Only these frames, such as 1001-1072.
    #[arg(long, value_parser = values::range, allow_hyphen_values = true)]
    range: Option<(i32, i32)>,
    /// Go on over missing frames instead of refusing them.
    #[arg(long)]
    bridge_gaps: bool,
    /// Features followed at the same time.
    #[arg(long)]
    count: Option<usize>,
    /// Side of the pattern, px, odd.
    #[arg(long)]
    pattern: Option<usize>,
    /// Largest motion between frames across and up-down in px, such as 60x40.
    #[arg(long, value_parser = values::pair)]
    reach: Option<(f64, f64)>,
    /// 0 keeps what is vaguely alike, 1 only what is nearly the same.
    #[arg(long)]
    strictness: Option<f64>,
    /// The picture as it is followed in, such as exposure=1,contrast=1.3,gamma=1.2,mix=0:1:0,denoise=yes.
    #[arg(long, value_parser = values::adjustment, allow_hyphen_values = true)]
    adjust: Option<Adjustment>,
}

impl FollowArgs {
    /// Refuses controls out of range before anything is read.
    pub fn check(&self) -> Result<(), Failure> {
        self.given(TrackOptions::for_size(1280, 720)).validated().map(|_| ()).map_err(Failure::usage)
    }

    /// The plate, as far as it is wanted.
    pub fn open(&self, folder: &Path) -> Result<(Sequence, Plate), Failure> {
        let sequence = Sequence::find(folder).map_err(Failure::unreadable)?;
        let mut files = sequence.files.clone();
        if let Some((first, last)) = self.range {
            files.retain(|(f, _)| (first..=last).contains(&f.0));
        }
        if files.is_empty() {
            return Err(Failure::unreadable("the range holds no frame of the plate"));
        }
        let plate = Plate::of_files(&files).map_err(Failure::unreadable)?;
        if !self.bridge_gaps {
            plate.refuse_gaps().map_err(Failure::unreadable)?;
        }
        Ok((sequence, plate.adjusted(self.adjust.unwrap_or_default())))
    }

    /// What suits the plate, with what was given.
    pub fn options(&self, plate: &Plate) -> TrackOptions {
        self.given(TrackOptions::for_size(plate.width_px, plate.height_px))
    }

    fn given(&self, mut options: TrackOptions) -> TrackOptions {
        options.count = self.count.unwrap_or(options.count);
        options.pattern_px = self.pattern.unwrap_or(options.pattern_px);
        (options.reach_x_px, options.reach_y_px) = self.reach.unwrap_or((options.reach_x_px, options.reach_y_px));
        options.strictness = self.strictness.unwrap_or(options.strictness);
        options
    }
}

/// Why nothing was followed, with its exit status.
pub fn failure(error: TrackError) -> Failure {
    match error {
        TrackError::NoFeatures | TrackError::TooFewFrames { .. } => Failure::unsolvable(error),
        TrackError::OutOfRange { .. } => Failure::usage(error),
        other => Failure::unreadable(other),
    }
}
