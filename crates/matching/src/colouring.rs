//! What landmarks look like: read from few frames of the plate.

use parallax_core::spaces::{FrameNumber, PlatePx};
use parallax_formats::delivery::{Delivery, colours};
use parallax_media::picture;
use std::collections::BTreeMap;
use std::path::PathBuf;

/// Half the side of the square whose mean is taken, px.
const HALF: i64 = 1;

/// Colours the landmarks of a delivery whose frames are numbered higher by so many than those of the plate; those that
/// no frame shows, and all where a frame cannot be read, stay without.
pub fn put(
    delivery: &mut Delivery<'_>,
    pictures: &BTreeMap<FrameNumber, PathBuf>,
    renumbered_by: i32,
) {
    // One frame after the other: pictures are large, and decoding takes all cores by itself where it can.
    for (frame, seen) in colours::wanted(delivery) {
        let own = FrameNumber(frame.0.saturating_sub(renumbered_by));
        let decoded = pictures
            .get(&own)
            .and_then(|file| picture::decode(file).ok());
        let Some(decoded) = decoded else {
            continue;
        };
        let shown = picture::viewable(decoded, 0.0);
        let size = (shown.width() as usize, shown.height() as usize);
        let rgb = shown.into_raw();
        for (index, px) in seen {
            if let Some(point) = delivery.points.get_mut(index) {
                point.colour = mean(&rgb, size, px);
            }
        }
    }
}

/// The mean of the px around a position.
fn mean(rgb: &[u8], (width, height): (usize, usize), px: PlatePx) -> Option<[u8; 3]> {
    let (column, row) = (px.x.floor() as i64, px.y.floor() as i64);
    let mut sum = [0u32; 3];
    let mut count = 0;
    for y in row - HALF..=row + HALF {
        for x in column - HALF..=column + HALF {
            let inside = (0..width as i64).contains(&x) && (0..height as i64).contains(&y);
            if !inside {
                continue;
            }
            let at = 3 * (y as usize * width + x as usize);
            let own = rgb.get(at..at + 3)?;
            (0..3).for_each(|k| sum[k] += u32::from(own[k]));
            count += 1;
        }
    }
    (count > 0).then(|| sum.map(|s| ((s + count / 2) / count) as u8))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_colour_is_that_around_the_position() {
        let (width, height) = (8, 6);
        let mut rgb = vec![0u8; 3 * width * height];
        for y in 2..5 {
            for x in 3..6 {
                let at = 3 * (y * width + x);
                rgb[at..at + 3].copy_from_slice(&[200, 100, 50]);
            }
        }
        let size = (width, height);
        let at = |x, y| mean(&rgb, size, PlatePx::new(x, y));
        assert_eq!(at(4.5, 3.5), Some([200, 100, 50]));
        assert_eq!(at(0.5, 0.5), Some([0, 0, 0]));
        assert_eq!(at(-20.0, 3.0), None);
    }
}
