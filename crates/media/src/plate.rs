//! A plate that is taken in: its frames, one size, decoded one at a time.

use crate::sequence::{Sequence, gaps};
use crate::{Mattes, MediaError, picture};
use image::DynamicImage;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::matte::Mask;
use parallax_core::track::picture::Plane;
use parallax_core::track::{FrameError, FrameSource};
use rayon::prelude::*;
use std::path::{Path, PathBuf};

/// Frames of one size with their files.
#[derive(Clone, Debug)]
pub struct Plate {
    /// Width of all frames, px.
    pub width_px: u32,
    /// Height of all frames, px.
    pub height_px: u32,
    adjust: Adjustment,
    mattes: Mattes,
    numbers: Vec<FrameNumber>,
    files: Vec<PathBuf>,
}

impl Plate {
    /// Checks the headers of all files of a sequence.
    pub fn open(sequence: &Sequence) -> Result<Self, MediaError> {
        Self::of_files(&sequence.files)
    }

    /// The longest sequence of a folder as a plate; gaps are refused unless bridged.
    pub fn in_folder(folder: &Path, bridge_gaps: bool) -> Result<(Sequence, Self), MediaError> {
        let sequence = Sequence::find(folder)?;
        let plate = Self::open(&sequence)?;
        if !bridge_gaps {
            plate.refuse_gaps()?;
        }
        Ok((sequence, plate))
    }

    /// Checks the headers of files, ascending by frame.
    pub fn of_files(files: &[(FrameNumber, PathBuf)]) -> Result<Self, MediaError> {
        let sizes: Vec<(u32, u32)> = files
            .par_iter()
            .map(|(_, path)| picture::size(path))
            .collect::<Result<_, _>>()?;
        let Some((&(width_px, height_px), (first, _))) = sizes.first().zip(files.first()) else {
            return Err(MediaError::NoPictures {
                folder: PathBuf::new(),
            });
        };
        if let Some(k) = sizes.iter().position(|s| *s != (width_px, height_px)) {
            return Err(MediaError::MixedSizes {
                first: *first,
                width: width_px,
                height: height_px,
                frame: files[k].0,
                other_width: sizes[k].0,
                other_height: sizes[k].1,
            });
        }
        let (numbers, files) = files.iter().cloned().unzip();
        Ok(Self {
            width_px,
            height_px,
            adjust: Adjustment::default(),
            mattes: Mattes::default(),
            numbers,
            files,
        })
    }

    /// The same frames, handed on as they are adjusted for following.
    pub fn adjusted(self, adjust: Adjustment) -> Self {
        Self { adjust, ..self }
    }

    /// The same frames, less what mattes leave out.
    pub fn leaving_out(self, mattes: Mattes) -> Self {
        Self { mattes, ..self }
    }

    /// Only the frames from `first` to `last`, inclusive.
    pub fn between(&self, first: FrameNumber, last: FrameNumber) -> Self {
        let kept = self
            .numbers
            .iter()
            .zip(&self.files)
            .filter(|(n, _)| **n >= first && **n <= last);
        let (numbers, files) = kept.map(|(n, f)| (*n, f.clone())).unzip();
        Self {
            mattes: self.mattes.clone(),
            numbers,
            files,
            ..*self
        }
    }

    /// An error that names the missing frames, if there are any.
    pub fn refuse_gaps(&self) -> Result<(), MediaError> {
        let gaps = gaps(self.numbers.iter().copied());
        if gaps.is_empty() {
            Ok(())
        } else {
            Err(MediaError::Gaps { gaps })
        }
    }

    /// File of a frame.
    pub fn file(&self, frame: FrameNumber) -> Option<&Path> {
        self.numbers
            .binary_search(&frame)
            .ok()
            .map(|i| self.files[i].as_path())
    }
}

impl FrameSource for Plate {
    fn frames(&self) -> &[FrameNumber] {
        &self.numbers
    }

    fn grey(&self, index: usize) -> Result<Plane, FrameError> {
        self.grey_of(index, &self.decoded(index)?)
    }

    fn look(&self, index: usize) -> Result<(Plane, Option<Mask>), FrameError> {
        let decoded = self.decoded(index)?;
        let frame = self.numbers[index];
        let mask = self.mattes.mask(frame, &decoded).map_err(|e| FrameError {
            frame,
            reason: e.to_string(),
        })?;
        Ok((self.grey_of(index, &decoded)?, mask))
    }
}

impl Plate {
    fn decoded(&self, index: usize) -> Result<DynamicImage, FrameError> {
        let failed = |e: MediaError| FrameError {
            frame: self.numbers[index],
            reason: e.to_string(),
        };
        picture::decode(&self.files[index]).map_err(failed)
    }

    fn grey_of(&self, index: usize, decoded: &DynamicImage) -> Result<Plane, FrameError> {
        let nothing = || FrameError {
            frame: self.numbers[index],
            reason: "it holds no pixels".to_owned(),
        };
        picture::adjusted(decoded, &self.adjust).ok_or_else(nothing)
    }
}
