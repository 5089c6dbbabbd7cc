//! Viewing copies: 8-bit JPEG at the plate's size, which the browser plays from its cache.

use crate::{MediaError, picture};
use jpeg_encoder::{ColorType, Encoder, SamplingFactor};
use parallax_core::spaces::FrameNumber;
use parallax_core::track::adjust::Adjustment;
use std::path::Path;
use std::sync::atomic::{AtomicUsize, Ordering};

/// Quality of the copies, chosen for looking at 1:1; nothing is computed from them.
const QUALITY: u8 = 88;

/// Makes the copy of one file at `to`, by way of a temporary file so that a copy is whole or absent.
pub fn make(from: &Path, to: &Path, frame: FrameNumber) -> Result<(), MediaError> {
    let failed = |reason: String| MediaError::Viewing { frame, reason };
    let coded = shown(from, frame, 0.0)?;
    // Somebody else may be making the same copy: each writes a file of its own.
    static MADE: AtomicUsize = AtomicUsize::new(0);
    let number = MADE.fetch_add(1, Ordering::Relaxed);
    let partial = to.with_extension(format!("{}-{number}.part", std::process::id()));
    std::fs::write(&partial, coded).map_err(|e| failed(e.to_string()))?;
    std::fs::rename(&partial, to).map_err(|e| failed(e.to_string()))
}

/// One file for looking at, brighter by so many stops.
pub fn shown(from: &Path, frame: FrameNumber, stops: f64) -> Result<Vec<u8>, MediaError> {
    let rgb = picture::viewable(picture::decode(from)?, stops);
    coded(
        rgb.as_raw(),
        (rgb.width(), rgb.height()),
        ColorType::Rgb,
        frame,
    )
}

/// One file as it is adjusted for following.
pub fn adjusted(from: &Path, frame: FrameNumber, by: &Adjustment) -> Result<Vec<u8>, MediaError> {
    let failed = || MediaError::Viewing {
        frame,
        reason: "it holds no pixels".to_owned(),
    };
    let plane = picture::adjusted(&picture::decode(from)?, by).ok_or_else(failed)?;
    let levels: Vec<u8> = plane
        .levels()
        .iter()
        .map(|v| v.round().clamp(0.0, 255.0) as u8)
        .collect();
    coded(
        &levels,
        (plane.width() as u32, plane.height() as u32),
        ColorType::Luma,
        frame,
    )
}

fn coded(
    values: &[u8],
    (width, height): (u32, u32),
    kind: ColorType,
    frame: FrameNumber,
) -> Result<Vec<u8>, MediaError> {
    let failed = |reason: String| MediaError::Viewing { frame, reason };
    let (Ok(width), Ok(height)) = (u16::try_from(width), u16::try_from(height)) else {
        return Err(failed("the picture is too large for JPEG".to_owned()));
    };
    let mut coded = Vec::new();
    let mut encoder = Encoder::new(&mut coded, QUALITY);
    encoder.set_sampling_factor(SamplingFactor::F_2_2);
    encoder
        .encode(values, width, height, kind)
        .map_err(|e| failed(e.to_string()))?;
    Ok(coded)
}
