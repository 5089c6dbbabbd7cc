//! Which frames of a plate, how they are adjusted and how features are followed in them: what
//! `match` and `track` have in common.

use crate::{Failure, values};
use clap::Args;
use parallax_core::plate::FrameRate;
use parallax_core::progress::{Progress, Silent};
use parallax_core::spaces::TrackId;
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::hand::{HandKey, HandTrack, follow_hands};
use parallax_core::track::matte::{Matte, MatteSource};
use parallax_core::track::{FrameSource, TrackError, TrackOptions};
use parallax_core::tracks::Track;
use parallax_formats::tracks_csv::Called;
use parallax_matching::following::Following;
use parallax_media::{Plate, Sequence, stated_rate};
use serde::Deserialize;
use std::collections::HashMap;
use std::path::{Path, PathBuf};

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
    /// Largest motion between frames across and up-down in px, such as 60x40; soft detail may go twice as far.
    #[arg(long, value_parser = values::pair)]
    reach: Option<(f64, f64)>,
    /// 0 keeps what is vaguely alike, 1 only what is nearly the same.
    #[arg(long)]
    strictness: Option<f64>,
    /// The picture as it is followed in, such as exposure=1,contrast=1.3,gamma=1.2,mix=0:1:0,denoise=yes.
    #[arg(long, value_parser = values::adjustment, allow_hyphen_values = true)]
    adjust: Option<Adjustment>,
    /// What not to follow: a folder with a sequence, white being left out, or a JSON list of mattes.
    #[arg(long)]
    mattes: Option<PathBuf>,
}

/// A file of hand tracks; what is left out is as for features, over the whole plate.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct HandFile {
    tracks: Vec<HandEntry>,
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct HandEntry {
    name: String,
    keys: Vec<HandKey>,
    life: Option<Vec<(i32, i32)>>,
    pattern_px: Option<usize>,
    reach_px: Option<[f64; 2]>,
    strictness: Option<f64>,
    #[serde(default)]
    guide: Vec<HandKey>,
}

/// What was followed, and what the artist calls those that have a name.
pub struct Followed {
    /// Features, then hand tracks.
    pub tracks: Vec<Track>,
    /// What those are called that have a name or a group.
    pub called: HashMap<TrackId, Called>,
}

impl Followed {
    /// What a track is called.
    pub fn called(&self) -> impl Fn(TrackId) -> Called {
        |id| self.called.get(&id).cloned().unwrap_or_default()
    }
}

impl FollowArgs {
    /// Refuses controls out of range before anything is read.
    pub fn check(&self) -> Result<(), Failure> {
        self.given(TrackOptions::for_size(1280, 720))
            .validated()
            .map(|_| ())
            .map_err(Failure::usage)
    }

    /// The plate, as far as it is wanted. That its pictures state another rate is said.
    pub fn open(&self, folder: &Path, rate: FrameRate) -> Result<(Sequence, Plate), Failure> {
        let sequence = Sequence::find(folder).map_err(Failure::unreadable)?;
        if let Some(stated) = stated_rate::of_sequence(&sequence).filter(|stated| *stated != rate) {
            eprintln!(
                "note: the pictures' headers state {stated} frames a second; {rate} was given and is used"
            );
        }
        let mattes = self
            .mattes
            .as_deref()
            .map(mattes_of)
            .transpose()?
            .unwrap_or_default();
        // How features are followed does not matter for opening; it depends on the size.
        let usual = TrackOptions::for_size(1280, 720);
        let plate = self
            .following(&usual, &mattes)
            .open(&sequence.files)
            .map_err(Failure::unreadable)?;
        Ok((sequence, plate))
    }

    fn following<'a>(&self, track: &'a TrackOptions, mattes: &'a [Matte]) -> Following<'a> {
        Following {
            plate: "",
            range: self.range,
            bridge_gaps: self.bridge_gaps,
            track,
            adjust: self.adjust.unwrap_or_default(),
            mattes,
        }
    }

    /// What suits the plate, with what was given.
    pub fn options(&self, plate: &Plate) -> TrackOptions {
        self.given(TrackOptions::for_size(plate.width_px, plate.height_px))
    }

    /// Follows features, and what a file keys by hand.
    pub fn follow(
        &self,
        plate: &Plate,
        hand: Option<&Path>,
        progress: &dyn Progress,
    ) -> Result<Followed, Failure> {
        let hands = hand
            .map(|f| self.hands_of(f, plate))
            .transpose()?
            .unwrap_or_default();
        for hand in &hands {
            hand.checked((plate.width_px, plate.height_px), plate.frames())
                .map_err(Failure::unreadable)?;
        }
        let options = self.options(plate);
        let following = self.following(&options, &[]);
        let mut tracks = following
            .follow(plate, &Silent, progress)
            .map_err(failure)?;
        let mut called = HashMap::new();
        if !hands.is_empty() {
            let size = (plate.width_px, plate.height_px);
            let followed = follow_hands(plate, size, &hands, progress).map_err(failure)?;
            for (track, hand) in followed.into_iter().zip(hands) {
                let id = TrackId(tracks.len() as u32 + 1);
                let name = hand.name;
                called.insert(
                    id,
                    Called {
                        name,
                        group: String::new(),
                        aside: String::new(),
                    },
                );
                tracks.push(Track { id, ..track });
            }
        }
        Ok(Followed { tracks, called })
    }

    fn hands_of(&self, file: &Path, plate: &Plate) -> Result<Vec<HandTrack>, Failure> {
        let HandFile { tracks } = read_json(file, "hand tracks")?;
        let usual = self.options(plate);
        let whole = plate
            .frames()
            .first()
            .zip(plate.frames().last())
            .map(|(a, b)| (a.0, b.0));
        let hand = |(index, entry): (usize, HandEntry)| HandTrack {
            id: index as u32 + 1,
            name: entry.name,
            keys: entry.keys,
            life: entry.life.unwrap_or_else(|| whole.into_iter().collect()),
            pattern_px: entry.pattern_px.unwrap_or(usual.pattern_px),
            reach_px: entry
                .reach_px
                .unwrap_or([usual.reach_x_px, usual.reach_y_px]),
            strictness: entry.strictness.unwrap_or(usual.strictness),
            guide: entry.guide,
        };
        Ok(tracks.into_iter().enumerate().map(hand).collect())
    }

    fn given(&self, mut options: TrackOptions) -> TrackOptions {
        options.count = self.count.unwrap_or(options.count);
        options.pattern_px = self.pattern.unwrap_or(options.pattern_px);
        (options.reach_x_px, options.reach_y_px) = self
            .reach
            .unwrap_or((options.reach_x_px, options.reach_y_px));
        options.strictness = self.strictness.unwrap_or(options.strictness);
        options
    }
}

/// A folder is one sequence; a file lists mattes.
fn mattes_of(path: &Path) -> Result<Vec<Matte>, Failure> {
    if !path.is_dir() {
        return read_json(path, "mattes");
    }
    let folder = path.display().to_string();
    let name = path
        .file_name()
        .map_or_else(|| folder.clone(), |n| n.to_string_lossy().into_owned());
    let source = MatteSource::Sequence { folder };
    Ok(vec![Matte::new(name, source)])
}

fn read_json<T: for<'a> Deserialize<'a>>(file: &Path, what: &str) -> Result<T, Failure> {
    let text = std::fs::read_to_string(file)
        .map_err(|e| Failure::unreadable(format!("{} cannot be read: {e}", file.display())))?;
    serde_json::from_str(&text)
        .map_err(|e| Failure::unreadable(format!("{} does not state {what}: {e}", file.display())))
}

/// Why nothing was followed, with its exit status.
pub fn failure(error: TrackError) -> Failure {
    match error {
        TrackError::NoFeatures | TrackError::TooFewFrames { .. } => Failure::unsolvable(error),
        TrackError::OutOfRange { .. } => Failure::usage(error),
        other => Failure::unreadable(other),
    }
}
