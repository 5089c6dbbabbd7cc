//! Viewing copies: 8-bit JPEG at the plate's size, which the browser plays from its cache.

use crate::{MediaError, picture};
use parallax_core::spaces::FrameNumber;
use std::path::Path;

/// Quality of the copies, chosen for looking at 1:1; nothing is computed from them.
const QUALITY: u8 = 88;

/// Makes the copy of one file at `to`, by way of a temporary file so that a copy is whole or absent.
pub fn make(from: &Path, to: &Path, frame: FrameNumber) -> Result<(), MediaError> {
    let failed = |reason: String| MediaError::Viewing { frame, reason };
    let rgb = picture::viewable(picture::decode(from)?);
    let (width, height) = (u16::try_from(rgb.width()), u16::try_from(rgb.height()));
    let (Ok(width), Ok(height)) = (width, height) else {
        return Err(failed("the picture is too large for JPEG".to_owned()));
    };
    let mut coded = Vec::new();
    let mut encoder = jpeg_encoder::Encoder::new(&mut coded, QUALITY);
    encoder.set_sampling_factor(jpeg_encoder::SamplingFactor::F_2_2);
    encoder.encode(rgb.as_raw(), width, height, jpeg_encoder::ColorType::Rgb).map_err(|e| failed(e.to_string()))?;
    let partial = to.with_extension("part");
    std::fs::write(&partial, coded).map_err(|e| failed(e.to_string()))?;
    std::fs::rename(&partial, to).map_err(|e| failed(e.to_string()))
}
