//! Which frames of a plate are followed, how, and what speaks against the tracks?

use parallax_core::camera::Intrinsics;
use parallax_core::judge::{self, Suspect};
use parallax_core::progress::{Checkpoints, Progress};
use parallax_core::returns;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::matte::{Matte, MatteSource};
use parallax_core::track::session::go_on;
use parallax_core::track::session::underway::Underway;
use parallax_core::track::{TrackError, TrackOptions};
use parallax_core::tracks::Track;
use parallax_media::{Mattes, MediaError, Plate};
use serde_json::json;
use std::path::PathBuf;

/// A plate and all that following depends on.
pub struct Following<'a> {
    /// What tells the plate from others: its folder, and what was in it when it was taken in.
    pub plate: &'a str,
    /// In and out, inclusive; `None` is the whole plate.
    pub range: Option<(i32, i32)>,
    /// Go on over missing frames.
    pub bridge_gaps: bool,
    /// How features are followed.
    pub track: &'a TrackOptions,
    /// How the picture is adjusted for following.
    pub adjust: Adjustment,
    /// What is not followed. Drawn ones act on tracks that there are ([`super::choosing`]).
    pub mattes: &'a [Matte],
}

/// Why a plate is not opened for following.
#[derive(Debug, thiserror::Error)]
pub enum NotOpened {
    /// The files.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// Nothing between in and out.
    #[error("the range between in and out holds no frame of the plate")]
    EmptyRange,
}

impl Following<'_> {
    /// All that tracks depend on, as text.
    pub fn inputs(&self) -> String {
        let Self {
            plate,
            range,
            bridge_gaps,
            track,
            adjust,
            mattes,
        } = self;
        let mut inputs = vec![json!(plate), json!(range), json!(bridge_gaps), json!(track)];
        if !adjust.is_none() {
            inputs.push(json!(adjust));
        }
        let mut mattes = Matte::in_use(mattes);
        mattes.retain(|m| !matches!(m.source, MatteSource::Drawn { .. }));
        if !mattes.is_empty() {
            inputs.push(json!(mattes));
        }
        json!(inputs).to_string()
    }

    /// All that paths of hand tracks depend on besides their own keys and controls, as text.
    pub fn hand_inputs(&self) -> String {
        let Self {
            plate,
            range,
            bridge_gaps,
            adjust,
            mattes,
            track: _,
        } = self;
        json!([plate, range, bridge_gaps, adjust, Matte::in_use(mattes)]).to_string()
    }

    /// The frames between in and out, adjusted, less what mattes leave out.
    pub fn open(&self, files: &[(FrameNumber, PathBuf)]) -> Result<Plate, NotOpened> {
        let plate = self.frames(files)?.adjusted(self.adjust);
        let mattes = Mattes::open(self.mattes, &plate)?;
        Ok(plate.leaving_out(mattes))
    }

    /// The frames between in and out as they are; gaps are refused unless bridged.
    pub fn frames(&self, files: &[(FrameNumber, PathBuf)]) -> Result<Plate, NotOpened> {
        let within = |frame: i32| {
            self.range
                .is_none_or(|(first, last)| (first..=last).contains(&frame))
        };
        let files: Vec<_> = files.iter().filter(|(f, _)| within(f.0)).cloned().collect();
        if files.is_empty() {
            return Err(NotOpened::EmptyRange);
        }
        let plate = Plate::of_files(&files)?;
        if !self.bridge_gaps {
            plate.refuse_gaps()?;
        }
        Ok(plate)
    }

    /// Follows features through the opened plate, from where an interrupted run left it; those that
    /// come back after they were lost are one.
    pub fn follow(
        &self,
        plate: &Plate,
        checkpoints: &dyn Checkpoints<Underway>,
        progress: &dyn Progress,
    ) -> Result<Vec<Track>, TrackError> {
        let tracks = go_on(plate, self.track, checkpoints, progress)?;
        returns::joined(tracks, plate, self.track, progress)
    }
}

/// What speaks against tracks of a plate of this size. Cancelled, it says so.
pub fn judged(
    tracks: &[Track],
    (width_px, height_px): (u32, u32),
    progress: &dyn Progress,
) -> Result<Vec<Suspect>, TrackError> {
    let lens = Intrinsics::centred(width_px, height_px, f64::from(width_px));
    let suspects = judge::suspects(tracks, &lens, progress);
    if progress.is_cancelled() {
        Err(TrackError::Cancelled)
    } else {
        Ok(suspects)
    }
}
