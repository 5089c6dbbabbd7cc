//! A wall of square panels seen straight on through a lens: every edge is straight in reality.
//! For tests of the lens.

use image::{Rgb, RgbImage};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::spaces::{LensPoint, PlatePx};
use std::f64::consts::PI;
use std::path::Path;

/// Side of a panel, in lens coordinates.
pub const PANEL: f64 = 0.1;

/// A barrel lens on a plate of this size, its terms in units of the width.
pub fn lens(width_px: u32, height_px: u32) -> Intrinsics {
    let distortion = Distortion::radial(-0.15, 0.02);
    Intrinsics {
        distortion,
        ..Intrinsics::centred(width_px, height_px, f64::from(width_px))
    }
}

/// Writes frames `first` to `last` of the wall as `board.FRAME.png`; nothing moves.
pub fn write(lens: &Intrinsics, folder: &Path, first: u32, last: u32) -> std::io::Result<()> {
    std::fs::create_dir_all(folder)?;
    const RAYS: u32 = 4;
    let level = |x: u32, y: u32| {
        let rays = (0..RAYS * RAYS).map(|k| {
            let part = |k: u32| (f64::from(k) + 0.5) / f64::from(RAYS);
            let at = lens.lens_point(PlatePx::new(
                f64::from(x) + part(k % RAYS),
                f64::from(y) + part(k / RAYS),
            ));
            // As sharp as an optic draws: an edge is spread over some three px.
            let sharp = PANEL / PI * lens.focal_px / 1.5;
            let side = |v: f64| ((v / PANEL * PI).sin() * sharp).clamp(-1.0, 1.0);
            at.map_or(0.0, |at| side(at.x) * side(at.y))
        });
        (128.0 + 70.0 * rays.sum::<f64>() / f64::from(RAYS * RAYS)).round() as u8
    };
    let picture = RgbImage::from_fn(lens.width_px, lens.height_px, |x, y| Rgb([level(x, y); 3]));
    (first..=last).try_for_each(|frame| {
        picture
            .save(folder.join(format!("board.{frame:04}.png")))
            .map_err(std::io::Error::other)
    })
}

/// Where the lens draws a place of the wall, px.
pub fn place(lens: &Intrinsics, x: f64, y: f64) -> [f64; 2] {
    let px = lens.plate_px(LensPoint::new(x, y));
    [px.x, px.y]
}
