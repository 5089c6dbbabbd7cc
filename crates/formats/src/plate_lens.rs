//! The lens that a plate is undistorted with, on each frame its own where it zooms, and the undistorted pictures.

use crate::lens_json::LensFile;
use parallax_core::camera::Intrinsics;
use parallax_core::lens::maps::{Frame, Keep, MapError};
use parallax_core::spaces::FrameNumber;
use std::collections::BTreeMap;

/// A lens of a plate, and what it is on each frame where it zooms.
#[derive(Clone, Debug, PartialEq)]
pub struct PlateLens {
    /// The lens; of a zoom, that of the first frame.
    pub lens: Intrinsics,
    /// Along a zoom, the lens of each frame, ascending; empty where it does not.
    pub along: Vec<(FrameNumber, Intrinsics)>,
}

/// Undistorted pictures of a plate.
#[derive(Clone, Debug)]
pub struct PlateFrames {
    /// That of all frames, or of the first.
    pub frame: Frame,
    /// Along a zoom, that of each frame.
    pub along: BTreeMap<FrameNumber, Frame>,
}

impl From<Frame> for PlateFrames {
    fn from(frame: Frame) -> Self {
        let along = BTreeMap::new();
        Self { frame, along }
    }
}

impl PlateLens {
    /// One that does not zoom.
    pub fn still(lens: Intrinsics) -> Self {
        let along = Vec::new();
        Self { lens, along }
    }

    /// The undistorted pictures of the frames of a plate; on one without a lens of its own, that of the nearest.
    pub fn frames(&self, plate: &[FrameNumber], keep: Keep) -> Result<PlateFrames, MapError> {
        let nearest = |frame: &FrameNumber| {
            let far = |own: &&(FrameNumber, Intrinsics)| own.0.0.abs_diff(frame.0);
            self.along.iter().min_by_key(far).map_or(self.lens, |l| l.1)
        };
        if self.along.is_empty() {
            return Ok(Frame::of(&self.lens, keep)?.into());
        }
        let lenses: Vec<Intrinsics> = plate.iter().map(nearest).collect();
        let frames = Frame::along(&lenses, keep)?;
        let first = frames.first().copied();
        Ok(PlateFrames {
            frame: first.map_or_else(|| Frame::of(&self.lens, keep), Ok)?,
            along: plate.iter().copied().zip(frames).collect(),
        })
    }

    /// As a file, frames numbered higher by so many.
    pub fn file(&self, renumbered_by: i32) -> LensFile {
        LensFile::along(&self.lens, &self.along, renumbered_by)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::undistorted::{self, Undistorting};
    use crate::{st_map, undistorted::DISTORTING_FILE};
    use parallax_core::lens::Distortion;
    use parallax_core::progress::Silent;
    use parallax_core::track::FrameSource;
    use parallax_media::Plate;
    use parallax_media::colour::Written;
    use rstest::rstest;

    fn lens(focal_px: f64) -> Intrinsics {
        Intrinsics {
            distortion: Distortion::radial(-0.12, 0.02),
            ..Intrinsics::centred(96, 64, focal_px)
        }
    }

    /// A zoom from the first frame on; the plate has a frame more than the lens knows.
    fn zoom() -> PlateLens {
        let along = (1..=3).map(|k| (FrameNumber(k), lens(70.0 + 10.0 * f64::from(k))));
        PlateLens {
            lens: lens(80.0),
            along: along.collect(),
        }
    }

    #[rstest]
    #[case::all(Keep::All)]
    #[case::size(Keep::Size)]
    fn pictures_along_a_zoom_are_of_one_size_that_takes_each_in(#[case] keep: Keep) {
        let numbers: Vec<_> = (1..=4).map(FrameNumber).collect();
        let frames = zoom().frames(&numbers, keep).unwrap();
        let sizes = frames.along.values().map(|f| [f.width_px, f.height_px]);
        let sizes: Vec<_> = sizes.collect();
        assert!(sizes.iter().all(|s| *s == sizes[0]), "{sizes:?}");
        assert_eq!(frames.along[&FrameNumber(4)], frames.along[&FrameNumber(3)]);
        for frame in frames.along.values() {
            let own = Frame::of(&frame.lens, keep).unwrap();
            assert!(frame.width_px >= own.width_px && frame.height_px >= own.height_px);
            let right = frame.width_px - frame.added_px[0];
            assert!(right >= own.width_px - own.added_px[0], "{frame:?} {own:?}");
        }
        if keep == Keep::Size {
            assert_eq!(sizes[0], [96, 64]);
        }
    }

    #[test]
    fn each_frame_of_a_zoom_is_undistorted_by_its_own_lens_and_proven() {
        let root = tempfile::tempdir().unwrap();
        for k in 1..=3u8 {
            let px = |x: u32, y: u32| image::Rgb([(x * 3 / 2) as u8, (2 * y) as u8, 40 * k]);
            let picture = image::RgbImage::from_fn(96, 64, px);
            picture
                .save(root.path().join(format!("p.{k:04}.png")))
                .unwrap();
        }
        let (sequence, plate) = Plate::in_folder(root.path(), false).unwrap();
        let lens = zoom();
        let frames = lens.frames(plate.frames(), Keep::All).unwrap();
        let what = Undistorting {
            sequence: &sequence,
            plate: &plate,
            frames: &frames,
            lens: &lens.file(1000),
            kind: Written::Png,
            rate: None,
            renumbered_by: 1000,
        };
        assert_eq!(
            what.lens.frames[0].frame, 1001,
            "as its pictures are numbered"
        );
        let out = root.path().join("out");
        let (written, receipt) = undistorted::deliver(&what, &out, &Silent).unwrap();
        assert_eq!(
            (written, receipt.frames, receipt.proven),
            (3, 3, true),
            "{receipt:?}"
        );
        let size = |k: u32| image::image_dimensions(out.join(format!("p.{k}.png"))).unwrap();
        assert_eq!([size(1002), size(1003)], [size(1001); 2]);
        for (number, frame) in &frames.along {
            let name = format!("distort.{}.exr", number.0 + 1000);
            let map = std::fs::read(out.join(name)).unwrap();
            let map = st_map::read(&map, (frame.width_px, frame.height_px)).unwrap();
            let wanted = frame.distorting();
            let far = map.from_px.iter().zip(&wanted.from_px);
            let far = far.map(|(a, b)| (a[0] - b[0]).abs().max((a[1] - b[1]).abs()));
            assert!(far.fold(0.0, f32::max) < 1e-3);
        }
        assert!(
            !out.join(DISTORTING_FILE).exists(),
            "one for all frames would be wrong"
        );
        // It goes on where it stood.
        std::fs::remove_file(out.join("p.1002.png")).unwrap();
        let (written, again) = undistorted::deliver(&what, &out, &Silent).unwrap();
        assert_eq!((written, again), (1, receipt));
    }
}
