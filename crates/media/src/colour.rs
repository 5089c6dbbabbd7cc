//! Pictures in colour, for what is delivered: read in full depth, written as PNG (16 bit),
//! OpenEXR (half) or JPEG.
//!
//! Values are as they are coded in the file, 0 to 1 for whole numbers; nothing is converted.

use crate::{MediaError, picture};
use exr::prelude::{
    Blocks, Compression, Encoding, Image, Layer, LayerAttributes, LineOrder, SpecificChannels,
    Vec2, WritableImage, f16,
};
use image::DynamicImage;
use parallax_core::lens::resample::Rgba;
use parallax_core::plate::FrameRate;
use serde::{Deserialize, Serialize};
use std::path::Path;

/// How a picture is written.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Serialize, Deserialize)]
#[serde(rename_all = "lowercase")]
pub enum Written {
    /// PNG of 16 bits.
    #[default]
    Png,
    /// OpenEXR in half floats, scanlines.
    Exr,
    /// JPEG of quality 95.
    Jpeg,
}

impl Written {
    /// Ending of the file name.
    pub fn ending(self) -> &'static str {
        match self {
            Self::Png => "png",
            Self::Exr => "exr",
            Self::Jpeg => "jpg",
        }
    }
}

/// What is written beside the values of a picture.
#[derive(Clone, Copy, Debug, Default)]
pub struct Beside {
    /// How much of each px is there. JPEG cannot hold it.
    pub alpha: bool,
    /// `framesPerSecond`, which OpenEXR alone can hold.
    pub rate: Option<FrameRate>,
}

/// Reads a picture with all its values, and whether it has an alpha of its own.
pub fn read(path: &Path) -> Result<(Rgba, bool), MediaError> {
    let picture = picture::decode(path)?;
    let has_alpha = picture.color().has_alpha();
    let (width_px, height_px) = (picture.width(), picture.height());
    let rgba = match picture {
        DynamicImage::ImageRgb8(p) => {
            let px = p
                .as_raw()
                .chunks_exact(3)
                .map(|c| [level(c[0]), level(c[1]), level(c[2]), 1.0]);
            Rgba::of_px(width_px, height_px, false, px)
        }
        other => {
            let values = other.into_rgba32f().into_raw();
            let px = values.chunks_exact(4).map(|c| [c[0], c[1], c[2], c[3]]);
            Rgba::of_px(width_px, height_px, has_alpha, px)
        }
    };
    Ok((rgba, has_alpha))
}

fn level(value: u8) -> f32 {
    f32::from(value) / 255.0
}

/// Writes a picture by way of a temporary file, so that it is whole or absent.
pub fn write(picture: &Rgba, beside: Beside, to: &Path, kind: Written) -> Result<(), MediaError> {
    let failed = |reason: String| MediaError::NotWritten {
        file: to.display().to_string(),
        reason,
    };
    let bytes = match kind {
        Written::Png => png(picture, beside.alpha).map_err(failed)?,
        Written::Exr => half(picture, beside).map_err(failed)?,
        Written::Jpeg => jpeg(picture).map_err(failed)?,
    };
    let partial = to.with_extension("part");
    std::fs::write(&partial, bytes).map_err(|e| failed(e.to_string()))?;
    std::fs::rename(&partial, to).map_err(|e| failed(e.to_string()))
}

fn png(picture: &Rgba, has_alpha: bool) -> Result<Vec<u8>, String> {
    let word = |v: f32| (v.clamp(0.0, 1.0) * 65535.0 + 0.5) as u16;
    let channels = if has_alpha { 4 } else { 3 };
    let words: Vec<u16> = picture
        .all_px()
        .flat_map(|px| px.into_iter().take(channels).map(word))
        .collect();
    let (width, height) = (picture.width_px, picture.height_px);
    let image = if has_alpha {
        image::ImageBuffer::from_raw(width, height, words).map(DynamicImage::ImageRgba16)
    } else {
        image::ImageBuffer::from_raw(width, height, words).map(DynamicImage::ImageRgb16)
    };
    let mut out = std::io::Cursor::new(Vec::new());
    image
        .ok_or("its size is wrong")?
        .write_to(&mut out, image::ImageFormat::Png)
        .map_err(|e| e.to_string())?;
    Ok(out.into_inner())
}

fn jpeg(picture: &Rgba) -> Result<Vec<u8>, String> {
    let byte = |v: f32| (v.clamp(0.0, 1.0) * 255.0 + 0.5) as u8;
    let bytes: Vec<u8> = picture
        .all_px()
        .flat_map(|px| px.into_iter().take(3).map(byte))
        .collect();
    let size = u16::try_from(picture.width_px)
        .ok()
        .zip(u16::try_from(picture.height_px).ok());
    let (width, height) = size.ok_or("it is too large for JPEG")?;
    let mut out = Vec::new();
    jpeg_encoder::Encoder::new(&mut out, 95)
        .encode(&bytes, width, height, jpeg_encoder::ColorType::Rgb)
        .map_err(|e| e.to_string())?;
    Ok(out)
}

fn half(picture: &Rgba, beside: Beside) -> Result<Vec<u8>, String> {
    let size = (picture.width_px as usize, picture.height_px as usize);
    let at = |at: Vec2<usize>| picture.px(at.y() * size.0 + at.x()).map(f16::from_f32);
    let encoding = Encoding {
        compression: Compression::ZIP16,
        blocks: Blocks::ScanLines,
        line_order: LineOrder::Increasing,
    };
    let mut out = std::io::Cursor::new(Vec::new());
    let stated = |rate: FrameRate| {
        i32::try_from(rate.numerator())
            .ok()
            .map(|above| (above, rate.denominator()))
    };
    let attributes = LayerAttributes {
        frames_per_second: beside.rate.and_then(stated),
        ..LayerAttributes::default()
    };
    let written = if beside.alpha {
        let values = |p: Vec2<usize>| {
            let [r, g, b, a] = at(p);
            (r, g, b, a)
        };
        let layer = Layer::new(size, attributes, encoding, SpecificChannels::rgba(values));
        Image::from_layer(layer).write().to_buffered(&mut out)
    } else {
        let values = |p: Vec2<usize>| {
            let [r, g, b, _] = at(p);
            (r, g, b)
        };
        let layer = Layer::new(size, attributes, encoding, SpecificChannels::rgb(values));
        Image::from_layer(layer).write().to_buffered(&mut out)
    };
    written.map_err(|e| e.to_string())?;
    Ok(out.into_inner())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::png(Written::Png, false, 1e-5)]
    #[case::png_with_alpha(Written::Png, true, 1e-5)]
    #[case::exr(Written::Exr, false, 1e-3)]
    #[case::exr_with_alpha(Written::Exr, true, 1e-3)]
    #[case::jpeg(Written::Jpeg, false, 0.02)]
    fn what_is_written_is_read_back(
        #[case] kind: Written,
        #[case] has_alpha: bool,
        #[case] within: f32,
    ) {
        let value = |i: u32| {
            let (x, y) = ((i % 40) as f32 / 40.0, (i / 40) as f32 / 24.0);
            [x, y, 0.5 * (x + y), if has_alpha { 1.0 - x } else { 1.0 }]
        };
        let picture = Rgba::of_px(40, 24, has_alpha, (0..40 * 24).map(value));
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join(format!("a.{}", kind.ending()));
        let rate = FrameRate::new(24_000, 1_001);
        write(
            &picture,
            Beside {
                alpha: has_alpha,
                rate,
            },
            &path,
            kind,
        )
        .unwrap();
        assert_eq!(
            crate::stated_rate::of_picture(&path),
            rate.filter(|_| kind == Written::Exr)
        );
        let (back, alpha) = read(&path).unwrap();
        assert_eq!(alpha, has_alpha);
        for (a, b) in picture.all_px().zip(back.all_px()) {
            assert!(
                a.iter().zip(b).all(|(a, b)| (a - b).abs() < within),
                "{a:?} {b:?}"
            );
        }
        assert!(!path.with_extension("part").exists());
    }

    #[test]
    fn a_truncated_exr_is_said() {
        let picture = Rgba::of_px(64, 64, false, vec![[0.25; 4]; 64 * 64]);
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.exr");
        write(&picture, Beside::default(), &path, Written::Exr).unwrap();
        let bytes = std::fs::read(&path).unwrap();
        std::fs::write(&path, &bytes[..bytes.len() / 2]).unwrap();
        let error = read(&path).unwrap_err().to_string();
        assert!(error.contains("a.exr is not a readable picture"), "{error}");
    }
}
