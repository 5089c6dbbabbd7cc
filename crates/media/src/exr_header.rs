//! Is an OpenEXR file safe to decode?
//!
//! Sizes of windows, tiles and channels stand in the header, and decoders allocate by them. All
//! parts are held against the limits before a decoder sees the file: data window and display
//! window in size and place, number of channels and parts, the room of one block of lines or one
//! tile, and of all px together.

use crate::MediaError;
use crate::picture::{MOST_BYTES, MOST_MEGAPIXELS, MOST_SIDE_PX, guarded, name_of};
use exr::meta::header::Header;
use exr::meta::{BlockDescription, MetaData};
use exr::prelude::IntegerBounds;
use std::path::Path;

/// Most parts of a file.
const MOST_PARTS: usize = 64;
/// Most channels of a part.
const MOST_CHANNELS: usize = 256;
/// Windows lie within so many px of the origin.
const FARTHEST_PX: i32 = 1_000_000;

/// Refuses a file whose header asks for more than is decoded.
pub fn check(path: &Path) -> Result<(), MediaError> {
    let meta = header(path)?;
    let bad = |reason: String| MediaError::NotAPicture {
        file: name_of(path),
        reason,
    };
    if meta.headers.len() > MOST_PARTS {
        return Err(bad(format!(
            "it has {} parts, {MOST_PARTS} are read",
            meta.headers.len()
        )));
    }
    meta.headers
        .iter()
        .try_for_each(|part| check_part(path, part))
}

/// The header of a file as it stands there; a reader that panics at it is an error.
pub fn header(path: &Path) -> Result<MetaData, MediaError> {
    guarded(path, || {
        MetaData::read_from_file(path, false).map_err(|e| e.to_string())
    })
}

fn check_part(path: &Path, part: &Header) -> Result<(), MediaError> {
    let bad = |reason: String| MediaError::NotAPicture {
        file: name_of(path),
        reason,
    };
    if part.deep {
        return Err(bad("it is a deep picture, which is not read".to_owned()));
    }
    let channels = &part.channels.list;
    if channels.len() > MOST_CHANNELS {
        return Err(bad(format!(
            "it has {} channels, {MOST_CHANNELS} are read",
            channels.len()
        )));
    }
    let data = IntegerBounds::new(part.own_attributes.layer_position, part.layer_size);
    for window in [data, part.shared_attributes.display_window] {
        let (width, height) = (window.size.width(), window.size.height());
        let most = MOST_SIDE_PX as usize;
        if width > most || height > most || (width * height) as u64 > MOST_MEGAPIXELS * 1_000_000 {
            let clamped = |side: usize| u32::try_from(side).unwrap_or(u32::MAX);
            let (width, height) = (clamped(width), clamped(height));
            return Err(MediaError::TooLarge {
                file: name_of(path),
                width,
                height,
            });
        }
        let far = |at: i32| at.unsigned_abs() > FARTHEST_PX.unsigned_abs();
        if far(window.position.x()) || far(window.position.y()) {
            return Err(bad("its picture lies far from the origin".to_owned()));
        }
    }
    // Decoders hold four channels as 32-bit floats, and a block in the file's own types.
    let px = (data.size.width() * data.size.height()) as u64;
    let bytes_per_px = part.channels.bytes_per_pixel as u64;
    let block_px = match part.blocks {
        BlockDescription::ScanLines => {
            data.size.width() as u64 * part.compression.scan_lines_per_block() as u64
        }
        BlockDescription::Tiles(tiles) => {
            (tiles.tile_size.width() as u64).saturating_mul(tiles.tile_size.height() as u64)
        }
    };
    let room = (px * 16).max(block_px.saturating_mul(bytes_per_px.max(4)));
    if room > MOST_BYTES {
        let megabytes = room >> 20;
        return Err(bad(format!(
            "decoding it takes {megabytes} MB, {} are given to a picture",
            MOST_BYTES >> 20
        )));
    }
    Ok(())
}
