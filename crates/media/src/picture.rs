//! Decoding one picture, within limits that a hostile header cannot pass.

use crate::{MediaError, apart, exr_header, jpeg_end};
use image::metadata::Orientation;
use image::{DynamicImage, ImageDecoder, ImageFormat, ImageReader, Limits, RgbImage};
use parallax_core::track::adjust::Adjustment;
use parallax_core::track::picture::Plane;
use serde::{Deserialize, Serialize};
use std::path::Path;

/// Longest side that is decoded, px.
pub const MOST_SIDE_PX: u32 = 16_384;
/// Largest area that is decoded, million px.
pub const MOST_MEGAPIXELS: u64 = 100;
/// Room that decoding one picture may take, bytes: for every decoder the same.
pub const MOST_BYTES: u64 = MOST_MEGAPIXELS * 1_000_000 * 8;

pub(crate) fn name_of(path: &Path) -> String {
    path.file_name().map_or_else(
        || path.display().to_string(),
        |n| n.to_string_lossy().into_owned(),
    )
}

fn reader(path: &Path) -> Result<ImageReader<std::io::BufReader<std::fs::File>>, MediaError> {
    let failed = |reason: String| MediaError::NotAPicture {
        file: name_of(path),
        reason,
    };
    // A pipe or a device would be waited for without end.
    let about = std::fs::metadata(path).map_err(|e| failed(e.to_string()))?;
    if !about.is_file() || about.len() > MOST_BYTES {
        return Err(failed(
            "it is no file, or too large to be a picture".to_owned(),
        ));
    }
    let mut reader = ImageReader::open(path)
        .and_then(ImageReader::with_guessed_format)
        .map_err(|e| failed(e.to_string()))?;
    if reader.format().is_none() {
        return Err(failed(
            "it is neither PNG, JPEG, TIFF nor OpenEXR inside".to_owned(),
        ));
    }
    let mut limits = Limits::default();
    limits.max_alloc = Some(MOST_BYTES);
    reader.limits(limits);
    if reader.format() == Some(ImageFormat::OpenExr) {
        exr_header::check(path)?;
    }
    Ok(reader)
}

/// Runs a decoder; one that panics at what it reads is an error like any other.
pub(crate) fn guarded<T>(
    path: &Path,
    decode: impl FnOnce() -> Result<T, String>,
) -> Result<T, MediaError> {
    let panicked = |_| Err("its decoder failed at what it holds".to_owned());
    let done = std::panic::catch_unwind(std::panic::AssertUnwindSafe(decode));
    done.unwrap_or_else(panicked)
        .map_err(|reason| MediaError::NotAPicture {
            file: name_of(path),
            reason,
        })
}

fn decoder(path: &Path) -> Result<impl ImageDecoder, MediaError> {
    let reader = reader(path)?;
    guarded(path, || reader.into_decoder().map_err(|e| e.to_string()))
}

/// How the file asks to be turned for viewing; as it is where that cannot be read.
fn orientation(decoder: &mut impl ImageDecoder) -> Orientation {
    decoder.orientation().unwrap_or(Orientation::NoTransforms)
}

/// Upright width and height as stated in the header, px, checked against the limits.
pub fn size(path: &Path) -> Result<(u32, u32), MediaError> {
    if let Some(apart) = apart::decoder_for(path) {
        return apart.size(path);
    }
    let mut decoder = decoder(path)?;
    let (width, height) = decoder.dimensions();
    let area = u64::from(width) * u64::from(height);
    if width > MOST_SIDE_PX || height > MOST_SIDE_PX || area > MOST_MEGAPIXELS * 1_000_000 {
        return Err(MediaError::TooLarge {
            file: name_of(path),
            width,
            height,
        });
    }
    if width < 16 || height < 16 {
        let reason = format!("{width}x{height} px is too small to follow anything");
        return Err(MediaError::NotAPicture {
            file: name_of(path),
            reason,
        });
    }
    let on_its_side = matches!(
        orientation(&mut decoder),
        Orientation::Rotate90
            | Orientation::Rotate270
            | Orientation::Rotate90FlipH
            | Orientation::Rotate270FlipH
    );
    Ok(if on_its_side {
        (height, width)
    } else {
        (width, height)
    })
}

/// How the values of a picture are coded.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Coding {
    /// Bits per channel.
    pub bits: u16,
    /// Whether values are floating-point numbers.
    pub is_float: bool,
    /// Whether there is an alpha channel.
    pub has_alpha: bool,
}

/// How a file codes its values, from its header.
pub fn coding(path: &Path) -> Result<Coding, MediaError> {
    if let Some(apart) = apart::decoder_for(path) {
        return apart.coding(path);
    }
    let colour = decoder(path)?.color_type();
    let bits = 8 * u16::from(colour.bytes_per_pixel()) / u16::from(colour.channel_count().max(1));
    Ok(Coding {
        bits,
        is_float: bits == 32,
        has_alpha: colour.has_alpha(),
    })
}

/// The whole picture, upright.
pub fn decode(path: &Path) -> Result<DynamicImage, MediaError> {
    if let Some(apart) = apart::decoder_for(path) {
        return apart.decode(path);
    }
    size(path)?;
    check_whole(path)?;
    let mut decoder = decoder(path)?;
    let turn = orientation(&mut decoder);
    let mut picture = guarded(path, || {
        DynamicImage::from_decoder(decoder).map_err(|e| e.to_string())
    })?;
    picture.apply_orientation(turn);
    Ok(picture)
}

/// Refuses a JPEG that is cut off: its decoder would fill what is missing with grey.
fn check_whole(path: &Path) -> Result<(), MediaError> {
    let failed = |reason: String| MediaError::NotAPicture {
        file: name_of(path),
        reason,
    };
    if reader(path)?.format() == Some(ImageFormat::Jpeg) {
        let bytes = std::fs::read(path).map_err(|e| failed(e.to_string()))?;
        if !jpeg_end::is_whole(&bytes) {
            return Err(failed("it is cut off before its end".to_owned()));
        }
    }
    Ok(())
}

/// Linear light as a screen shows it, level 0 to 255 (IEC 61966-2-1): float files hold light,
/// and features are followed in what the eye sees. Brighter than white stays brighter.
fn shown(light: f32) -> f32 {
    let light = if light.is_finite() {
        light.max(0.0)
    } else {
        0.0
    };
    255.0
        * if light <= 0.003_130_8 {
            12.92 * light
        } else {
            1.055 * light.powf(1.0 / 2.4) - 0.055
        }
}

/// Eight bits a channel for looking at, brighter by so many stops.
pub fn viewable(picture: DynamicImage, stops: f64) -> RgbImage {
    let gain = stops.exp2() as f32;
    match picture {
        DynamicImage::ImageRgb32F(_) | DynamicImage::ImageRgba32F(_) => {
            let light = picture.into_rgb32f();
            let levels = light
                .as_raw()
                .iter()
                .map(|v| shown(gain * *v).min(255.0).round() as u8)
                .collect();
            RgbImage::from_raw(light.width(), light.height(), levels).unwrap_or_default()
        }
        other if gain == 1.0 => other.into_rgb8(),
        other => {
            let mut rgb = other.into_rgb8();
            let brighter: Vec<u8> = (0..=255)
                .map(|v| shown(gain * light(v)).min(255.0).round() as u8)
                .collect();
            rgb.iter_mut().for_each(|v| *v = brighter[usize::from(*v)]);
            rgb
        }
    }
}

/// Light of a level as it is coded, 0 to 1: the inverse of [`shown`].
fn light(level: u8) -> f32 {
    let v = f32::from(level) / 255.0;
    if v <= 0.040_45 {
        v / 12.92
    } else {
        ((v + 0.055) / 1.055).powf(2.4)
    }
}

/// Grey in levels 0 to 255; 16-bit pictures keep their fractions.
pub fn grey(picture: &DynamicImage) -> Option<Plane> {
    adjusted(picture, &Adjustment::default())
}

/// Grey as it is adjusted for following.
pub fn adjusted(picture: &DynamicImage, by: &Adjustment) -> Option<Plane> {
    mixed(picture, by.shares()).map(|plane| by.applied(plane))
}

fn mixed(picture: &DynamicImage, [red, green, blue]: [f32; 3]) -> Option<Plane> {
    let (width, height) = (picture.width() as usize, picture.height() as usize);
    let luma = |r: f32, g: f32, b: f32| red * r + green * g + blue * b;
    let levels: Vec<f32> = match picture {
        DynamicImage::ImageLuma8(p) => p.as_raw().iter().map(|v| f32::from(*v)).collect(),
        DynamicImage::ImageLuma16(p) => p.as_raw().iter().map(|v| f32::from(*v) / 257.0).collect(),
        DynamicImage::ImageRgb8(p) => p
            .as_raw()
            .chunks_exact(3)
            .map(|c| luma(f32::from(c[0]), f32::from(c[1]), f32::from(c[2])))
            .collect(),
        DynamicImage::ImageRgb16(_)
        | DynamicImage::ImageRgba16(_)
        | DynamicImage::ImageLumaA16(_) => {
            let rgb = picture.to_rgb16();
            let level = |c: &[u16]| luma(f32::from(c[0]), f32::from(c[1]), f32::from(c[2])) / 257.0;
            rgb.as_raw().chunks_exact(3).map(level).collect()
        }
        DynamicImage::ImageRgb32F(_) | DynamicImage::ImageRgba32F(_) => {
            let rgb = picture.to_rgb32f();
            let level = |c: &[f32]| luma(shown(c[0]), shown(c[1]), shown(c[2]));
            rgb.as_raw().chunks_exact(3).map(level).collect()
        }
        other => {
            let rgb = other.to_rgb8();
            rgb.as_raw()
                .chunks_exact(3)
                .map(|c| luma(f32::from(c[0]), f32::from(c[1]), f32::from(c[2])))
                .collect()
        }
    };
    Plane::new(width, height, levels)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use image::{ImageBuffer, Luma, Rgb};
    use rstest::rstest;

    /// A ramp of 16-bit values along x, as grey and as colours that are grey.
    fn ramp(x: u32) -> u16 {
        (x * 600) as u16
    }

    #[rstest]
    #[case::sixteen_bit_png("ramp.png", DynamicImage::ImageRgb16(ImageBuffer::from_fn(40, 20, |x, _| Rgb([ramp(x); 3]))), 0.01)]
    #[case::sixteen_bit_grey_png("grey.png", DynamicImage::ImageLuma16(ImageBuffer::from_fn(40, 20, |x, _| Luma([ramp(x)]))), 0.01)]
    #[case::eight_bit_png("ramp.png", DynamicImage::ImageRgb8(ImageBuffer::from_fn(40, 20, |x, _| Rgb([(ramp(x) / 257) as u8; 3]))), 1.0)]
    #[case::sixteen_bit_tiff("ramp.tif", DynamicImage::ImageRgb16(ImageBuffer::from_fn(40, 20, |x, _| Rgb([ramp(x); 3]))), 0.01)]
    #[case::eight_bit_jpeg("ramp.jpg", DynamicImage::ImageRgb8(ImageBuffer::from_fn(40, 20, |x, _| Rgb([(ramp(x) / 257) as u8; 3]))), 4.0)]
    fn levels_keep_the_depth_of_the_file(
        #[case] name: &str,
        #[case] picture: DynamicImage,
        #[case] within: f32,
    ) {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join(name);
        picture.save(&path).unwrap();
        let plane = grey(&decode(&path).unwrap()).unwrap();
        for x in 0..40 {
            let (level, wanted) = (
                plane.levels()[10 * 40 + x],
                f32::from(ramp(x as u32)) / 257.0,
            );
            assert!(
                (level - wanted).abs() <= within,
                "{name}: {level} for {wanted} at {x}"
            );
        }
    }

    /// An OpenEXR of 64 x 48 halves in tiles, its channels named as given.
    fn tiles(path: &std::path::Path, names: [&str; 3]) {
        use exr::prelude::*;
        let (width, height) = (64usize, 48usize);
        let ramp: Vec<f16> = (0..width * height)
            .map(|k| f16::from_f32((k % width) as f32 / 64.0))
            .collect();
        let channels = names.map(|name| AnyChannel::new(name, FlatSamples::F16(ramp.clone())));
        let encoding = Encoding {
            compression: Compression::ZIP1,
            blocks: Blocks::Tiles(Vec2(16, 16)),
            line_order: LineOrder::Increasing,
        };
        let channels = AnyChannels::sort(channels.into_iter().collect());
        let layer = Layer::new(
            (width, height),
            LayerAttributes::default(),
            encoding,
            channels,
        );
        Image::from_layer(layer).write().to_file(path).unwrap();
    }

    #[test]
    fn tiled_half_floats_are_read() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.exr");
        tiles(&path, ["R", "G", "B"]);
        assert_eq!(
            coding(&path).unwrap(),
            Coding {
                bits: 32,
                is_float: true,
                has_alpha: false
            }
        );
        let plane = grey(&decode(&path).unwrap()).unwrap();
        for x in 0..64 {
            let wanted = shown(x as f32 / 64.0);
            assert!(
                (plane.row(30)[x] - wanted).abs() < 0.1,
                "{} for {wanted} at {x}",
                plane.row(30)[x]
            );
        }
        let brighter = viewable(decode(&path).unwrap(), 1.0);
        assert_eq!(brighter.get_pixel(16, 30).0[0], shown(0.5).round() as u8);
    }

    #[test]
    fn channels_that_are_no_colours_are_said() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("a.exr");
        tiles(&path, ["depth", "forward", "matte"]);
        let error = decode(&path).unwrap_err().to_string();
        assert!(
            error.starts_with("a.exr is not a readable picture"),
            "{error}"
        );
    }
}
