//! Pictures on models: decoded from bytes within bounds, written without loss.

use crate::{MediaError, jpeg_end};
use image::codecs::png::{CompressionType, FilterType, PngEncoder};
use image::{
    ExtendedColorType, ImageEncoder, ImageFormat, ImageReader, Limits, RgbImage, RgbaImage,
};
use parallax_core::guest::Texture;
use std::io::Cursor;

/// Longest side, px.
const MOST_SIDE_PX: u32 = 8192;

fn refused(reason: impl ToString) -> MediaError {
    MediaError::NotAPicture {
        file: "a texture".to_owned(),
        reason: reason.to_string(),
    }
}

/// A PNG or JPEG of at most so many px.
pub fn decode(bytes: &[u8], most_px: u64) -> Result<Texture, MediaError> {
    let reading = || {
        let mut reader = ImageReader::new(Cursor::new(bytes))
            .with_guessed_format()
            .map_err(refused)?;
        match reader.format() {
            Some(ImageFormat::Jpeg) if !jpeg_end::is_whole(bytes) => {
                return Err(refused("it is cut off before its end"));
            }
            Some(ImageFormat::Png | ImageFormat::Jpeg) => {}
            _ => return Err(refused("it is neither PNG nor JPEG inside")),
        }
        let size = ImageReader::new(Cursor::new(bytes))
            .with_guessed_format()
            .map_err(refused)?;
        let (width, height) = size.into_dimensions().map_err(refused)?;
        if width > MOST_SIDE_PX
            || height > MOST_SIDE_PX
            || u64::from(width) * u64::from(height) > most_px
        {
            return Err(refused(format!(
                "{width}x{height} px is too large beside the others"
            )));
        }
        let mut limits = Limits::default();
        limits.max_alloc = Some(most_px * 16);
        reader.limits(limits);
        Ok(reader.decode().map_err(refused)?.into_rgba8())
    };
    let picture = std::panic::catch_unwind(reading)
        .unwrap_or_else(|_| Err(refused("its decoder failed at what it holds")))?;
    Ok(Texture {
        width: picture.width(),
        height: picture.height(),
        rgba: picture.into_raw(),
    })
}

/// As PNG; nothing of a texture whose px are not as many as it says.
pub fn encode(texture: &Texture) -> Vec<u8> {
    let picture = RgbaImage::from_raw(texture.width, texture.height, texture.rgba.clone())
        .unwrap_or_default();
    let mut out = Cursor::new(Vec::new());
    // Writing to memory cannot fail.
    let _ = picture.write_to(&mut out, ImageFormat::Png);
    out.into_inner()
}

/// A picture of red, green and blue as PNG, quickly rather than small; nothing where its px are not as many as it says.
pub fn encode_rgb(width: u32, height: u32, rgb: Vec<u8>) -> Vec<u8> {
    let picture = RgbImage::from_raw(width, height, rgb).unwrap_or_default();
    let mut out = Vec::new();
    let how = PngEncoder::new_with_quality(&mut out, CompressionType::Fast, FilterType::Sub);
    // Writing to memory cannot fail.
    let _ = how.write_image(
        &picture,
        picture.width(),
        picture.height(),
        ExtendedColorType::Rgb8,
    );
    out
}
