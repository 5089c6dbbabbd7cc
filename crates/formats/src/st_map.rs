//! ST maps: 32-bit OpenEXR pictures that tell every px where to read from.
//!
//! Red is the place across, 0 at the left border, 1 at the right one; green the place up, 0 at
//! the bottom border and 1 at the top; both of the centre of the px, in the picture that is
//! read. Blue is 1 where there is something to read, else 0, and red and green are -1 there. The
//! convention also stands in the header.

use exr::prelude::{
    Blocks, Compression, Encoding, Image, Layer, LayerAttributes, LineOrder, ReadChannels,
    ReadLayers, SpecificChannels, Text, Vec2, WritableImage,
};
use parallax_core::lens::maps::{Frame, Map};

/// Said in the header of every map.
pub const CONVENTION: &str = "red: across, 0 left to 1 right; green: up, 0 bottom to 1 top; both of the centre of the px, in the picture that is read; blue: 1 where there is one, else 0";

/// Why a map is not written or read.
#[derive(Debug, thiserror::Error)]
#[error("the ST map {0}")]
pub struct StMapError(String);

/// A map as OpenEXR, for reading from a picture of `width_px` x `height_px`; `said` names its
/// direction in the header.
pub fn write(
    map: &Map,
    (width_px, height_px): (u32, u32),
    said: &str,
) -> Result<Vec<u8>, StMapError> {
    let (width, height) = (map.width_px as usize, map.height_px as usize);
    let (across, up) = (1.0 / width_px as f32, 1.0 / height_px as f32);
    let value = |at: Vec2<usize>| {
        let [x, y] = map.from_px[at.y() * width + at.x()];
        if x.is_finite() {
            (x * across, 1.0 - y * up, 1.0f32)
        } else {
            (-1.0, -1.0, 0.0)
        }
    };
    let encoding = Encoding {
        compression: Compression::ZIP16,
        blocks: Blocks::ScanLines,
        line_order: LineOrder::Increasing,
    };
    let mut layer = Layer::new(
        (width, height),
        LayerAttributes::default(),
        encoding,
        SpecificChannels::rgb(value),
    );
    let text = format!("{said}. {CONVENTION}");
    layer.attributes.comments = Some(Text::new_or_panic(&text));
    let mut out = std::io::Cursor::new(Vec::new());
    Image::from_layer(layer)
        .write()
        .to_buffered(&mut out)
        .map_err(|e| StMapError(format!("cannot be written: {e}")))?;
    Ok(out.into_inner())
}

/// Both maps of an undistorted picture: the one that undistorts, and the one that distorts.
pub fn both(frame: &Frame) -> Result<[Vec<u8>; 2], StMapError> {
    let plate = (frame.lens.width_px, frame.lens.height_px);
    let straight = (frame.width_px, frame.height_px);
    let there = "Undistorts: reads from the plate as shot";
    let back = "Distorts: reads from the undistorted picture";
    Ok([
        write(&frame.undistorting(), plate, there)?,
        write(&frame.distorting(), straight, back)?,
    ])
}

/// Reads a map back, for a picture of `width_px` x `height_px`.
pub fn read(bytes: &[u8], (width_px, height_px): (u32, u32)) -> Result<Map, StMapError> {
    let image = exr::prelude::read()
        .no_deep_data()
        .largest_resolution_level()
        .rgb_channels(
            |size, _| (size.x(), vec![[0.0f32; 3]; size.area()]),
            |(width, values): &mut (usize, Vec<[f32; 3]>), at, (r, g, b): (f32, f32, f32)| {
                values[at.y() * *width + at.x()] = [r, g, b];
            },
        )
        .first_valid_layer()
        .all_attributes()
        .from_buffered(std::io::Cursor::new(bytes))
        .map_err(|e| StMapError(format!("cannot be read: {e}")))?;
    let size = image.layer_data.size;
    let (_, values) = image.layer_data.channel_data.pixels;
    let place = |[s, t, there]: [f32; 3]| {
        if there > 0.5 {
            [s * width_px as f32, (1.0 - t) * height_px as f32]
        } else {
            [f32::NAN; 2]
        }
    };
    Ok(Map {
        width_px: size.x() as u32,
        height_px: size.y() as u32,
        from_px: values.into_iter().map(place).collect(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_map_is_read_back_as_written() {
        let from_px = (0..12).map(|i| {
            if i == 5 {
                [f32::NAN; 2]
            } else {
                [i as f32 * 1.25, 30.0 - i as f32]
            }
        });
        let map = Map {
            width_px: 4,
            height_px: 3,
            from_px: from_px.collect(),
        };
        let bytes = write(&map, (64, 32), "undistorts").unwrap();
        let back = read(&bytes, (64, 32)).unwrap();
        assert_eq!((back.width_px, back.height_px), (4, 3));
        for (a, b) in map.from_px.iter().zip(&back.from_px) {
            let same = a
                .iter()
                .zip(b)
                .all(|(a, b)| (a - b).abs() < 1e-5 || (a.is_nan() && b.is_nan()));
            assert!(same, "{a:?} {b:?}");
        }
        assert!(read(&bytes[..bytes.len() / 2], (64, 32)).is_err());
    }
}
