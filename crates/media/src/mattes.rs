//! The mattes of a shot, opened: what is left out of each frame.
//!
//! Drawn outlines need nothing but themselves; a matte sequence is checked for size and gaps when it is
//! opened, so that following does not stop half way; alpha and colour are taken from the frame itself.

use crate::{MediaError, Plate, Sequence, picture};
use image::DynamicImage;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::FrameSource;
use parallax_core::track::matte::{Mask, Matte, MatteSource, drawn_mask};
use std::path::Path;

/// Mattes with their files.
#[derive(Clone, Debug, Default)]
pub struct Mattes {
    opened: Vec<Opened>,
}

#[derive(Clone, Debug)]
struct Opened {
    matte: Matte,
    /// The frames of a sequence.
    files: Option<Plate>,
}

impl Mattes {
    /// Checks mattes against the plate they are for, and finds the files of sequences.
    pub fn open(mattes: &[Matte], plate: &Plate) -> Result<Self, MediaError> {
        let opened = mattes
            .iter()
            .map(|m| Opened::new(m, plate))
            .collect::<Result<_, _>>()?;
        Ok(Self { opened })
    }

    /// Whether there is none that takes part.
    pub fn is_empty(&self) -> bool {
        self.opened.iter().all(|o| o.matte.off)
    }

    /// What they leave out of a frame, `None` where none of them holds.
    pub fn mask(
        &self,
        frame: FrameNumber,
        picture: &DynamicImage,
    ) -> Result<Option<Mask>, MediaError> {
        let mut all: Option<Mask> = None;
        for opened in self.opened.iter().filter(|o| o.matte.holds_on(frame)) {
            let mask = opened.mask(frame, picture)?;
            match &mut all {
                None => all = Some(mask),
                Some(all) => all.or_with(&mask),
            }
        }
        Ok(all)
    }
}

impl Opened {
    fn new(matte: &Matte, plate: &Plate) -> Result<Self, MediaError> {
        if let Some(reason) = matte.complaint() {
            return Err(MediaError::Matte { reason });
        }
        let files = match &matte.source {
            MatteSource::Sequence { folder } if !matte.off => {
                Some(frames_of(Path::new(folder), matte, plate)?)
            }
            MatteSource::Alpha if !matte.off => {
                let first = plate.frames().first().and_then(|f| plate.file(*f));
                let has_alpha = first
                    .map(picture::coding)
                    .transpose()?
                    .is_some_and(|c| c.has_alpha);
                if !has_alpha {
                    let reason = format!(
                        "the matte {} is the plate's alpha, but the plate has none",
                        matte.name
                    );
                    return Err(MediaError::Matte { reason });
                }
                None
            }
            _ => None,
        };
        Ok(Self {
            matte: matte.clone(),
            files,
        })
    }

    fn mask(&self, frame: FrameNumber, picture: &DynamicImage) -> Result<Mask, MediaError> {
        let size = (picture.width() as usize, picture.height() as usize);
        let (width, height) = size;
        let grow = (self.matte.feather_px / 2.0).round() as i32;
        let mask = match &self.matte.source {
            MatteSource::Drawn { keys } => drawn_mask(keys, frame, self.matte.feather_px, size),
            MatteSource::Sequence { .. } => self.of_file(frame, size)?.grown(grow),
            MatteSource::Alpha => {
                let alpha = picture.to_rgba8();
                Mask::of(width, height, |x, y| {
                    alpha.get_pixel(x as u32, y as u32).0[3] >= 128
                })
                .grown(grow)
            }
            MatteSource::Colour(key) => {
                let shown = picture::viewable(picture.clone(), 0.0);
                let colour = |x: usize, y: usize| {
                    shown
                        .get_pixel(x as u32, y as u32)
                        .0
                        .map(|v| f32::from(v) / 255.0)
                };
                key.mask(width, height, colour).grown(grow)
            }
        };
        Ok(if self.matte.invert {
            mask.inverted()
        } else {
            mask
        })
    }

    fn of_file(
        &self,
        frame: FrameNumber,
        (width, height): (usize, usize),
    ) -> Result<Mask, MediaError> {
        let Some(file) = self.files.as_ref().and_then(|p| p.file(frame)) else {
            return Ok(Mask::clear(width, height));
        };
        let decoded = picture::decode(file)?;
        // A file that was replaced since it was opened.
        if (decoded.width() as usize, decoded.height() as usize) != (width, height) {
            return Err(self.of_another_size(
                frame,
                (decoded.width(), decoded.height()),
                (width as u32, height as u32),
            ));
        }
        let Some(levels) = picture::grey(&decoded) else {
            return Ok(Mask::clear(width, height));
        };
        Ok(Mask::of(width, height, |x, y| levels.row(y)[x] >= 127.5))
    }

    fn of_another_size(
        &self,
        frame: FrameNumber,
        found: (u32, u32),
        wanted: (u32, u32),
    ) -> MediaError {
        other_size(&self.matte, frame, found, wanted)
    }
}

/// What is left out, as a PNG that is opaque there.
pub fn coded(mask: Option<&Mask>, (width, height): (u32, u32)) -> Result<Vec<u8>, MediaError> {
    let nothing = Mask::clear(width as usize, height as usize);
    let values = mask.unwrap_or(&nothing).values();
    let shown: Vec<u8> = values
        .iter()
        .flat_map(|out| [255, if *out { 255 } else { 0 }])
        .collect();
    let failed = |reason: String| MediaError::NotWritten {
        file: "the picture of a matte".to_owned(),
        reason,
    };
    let picture = image::GrayAlphaImage::from_raw(width, height, shown);
    let picture = picture.ok_or_else(|| failed("its size is not the plate's".to_owned()))?;
    let mut coded = std::io::Cursor::new(Vec::new());
    picture
        .write_to(&mut coded, image::ImageFormat::Png)
        .map_err(|e| failed(e.to_string()))?;
    Ok(coded.into_inner())
}

fn other_size(
    matte: &Matte,
    frame: FrameNumber,
    found: (u32, u32),
    wanted: (u32, u32),
) -> MediaError {
    let ((w, h), (width, height)) = (found, wanted);
    let reason = format!(
        "frame {frame} of the matte {} is {w}x{h} px, the plate is {width}x{height} px. Write the matte at the plate's size",
        matte.name
    );
    MediaError::Matte { reason }
}

/// The files of a matte sequence: of the plate's size, one for every frame on which the matte holds.
fn frames_of(folder: &Path, matte: &Matte, plate: &Plate) -> Result<Plate, MediaError> {
    let sequence = Sequence::find(folder)?;
    let files = Plate::of_files(&sequence.files)?;
    let (found, wanted) = (
        (files.width_px, files.height_px),
        (plate.width_px, plate.height_px),
    );
    if found != wanted {
        let first = sequence.files.first().map_or(FrameNumber(0), |f| f.0);
        return Err(other_size(matte, first, found, wanted));
    }
    let lacking = |f: &&FrameNumber| matte.holds_on(**f) && files.file(**f).is_none();
    let missing: Vec<i32> = plate.frames().iter().filter(lacking).map(|f| f.0).collect();
    if missing.is_empty() {
        return Ok(files);
    }
    let reason = format!(
        "the matte {} has no picture for frames {}. Supply them, or let it hold on fewer frames",
        matte.name,
        crate::sequence::ranges_text(&crate::sequence::runs(&missing))
    );
    Err(MediaError::Matte { reason })
}

#[cfg(test)]
mod tests {
    use super::*;
    use image::{GrayImage, Luma, Rgba, RgbaImage};
    use parallax_core::spaces::PlatePx;
    use parallax_core::track::matte::ColourKey;
    use rstest::rstest;

    /// A plate of three frames, green on the left, opaque below.
    fn plate(folder: &Path) -> Plate {
        let picture = RgbaImage::from_fn(64, 48, |x, y| {
            let colour = if x < 32 {
                [30, 200, 40]
            } else {
                [120, 110, 130]
            };
            Rgba([
                colour[0],
                colour[1],
                colour[2],
                if y < 24 { 0 } else { 255 },
            ])
        });
        (1..=3).for_each(|f| picture.save(folder.join(format!("p.{f:04}.png"))).unwrap());
        Plate::in_folder(folder, false).unwrap().1
    }

    fn matte(source: MatteSource) -> Matte {
        Matte::new("cart".to_owned(), source)
    }

    fn sequence(folder: &Path, frames: &[i32], size: (u32, u32)) -> Matte {
        let white_above =
            GrayImage::from_fn(size.0, size.1, |_, y| Luma([if y < 10 { 255 } else { 0 }]));
        frames.iter().for_each(|f| {
            white_above
                .save(folder.join(format!("m.{f:04}.png")))
                .unwrap()
        });
        matte(MatteSource::Sequence {
            folder: folder.display().to_string(),
        })
    }

    #[rstest]
    #[case::alpha(MatteSource::Alpha, (10.0, 40.0), (10.0, 5.0))]
    #[case::colour(MatteSource::Colour(ColourKey::default()), (10.0, 5.0), (50.0, 5.0))]
    fn what_the_plate_itself_says_is_left_out(
        #[case] source: MatteSource,
        #[case] out: (f64, f64),
        #[case] kept: (f64, f64),
        #[values(false, true)] invert: bool,
    ) {
        let folder = tempfile::tempdir().unwrap();
        let plate = plate(folder.path());
        let mattes = Mattes::open(
            &[Matte {
                invert,
                ..matte(source)
            }],
            &plate,
        )
        .unwrap();
        let picture = picture::decode(plate.file(FrameNumber(2)).unwrap()).unwrap();
        let mask = mattes.mask(FrameNumber(2), &picture).unwrap().unwrap();
        assert_eq!(mask.covers(PlatePx::new(out.0, out.1)), !invert);
        assert_eq!(mask.covers(PlatePx::new(kept.0, kept.1)), invert);
    }

    #[test]
    fn a_sequence_leaves_out_what_is_white_on_the_frames_it_holds() {
        let (folder, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let plate = plate(folder.path());
        let held = Matte {
            frames: Some((1, 2)),
            ..sequence(other.path(), &[1, 2], (64, 48))
        };
        let plate = plate
            .clone()
            .leaving_out(Mattes::open(&[held], &plate).unwrap());
        let mask = plate.look(1).unwrap().1.unwrap();
        assert!(mask.covers(PlatePx::new(5.0, 9.5)) && !mask.covers(PlatePx::new(5.0, 10.5)));
        assert!(plate.look(2).unwrap().1.is_none());
    }

    #[rstest]
    #[case::gap(&[1, 3], (64, 48), "no picture for frames 2")]
    #[case::size(&[1, 2, 3], (32, 48), "is 32x48 px, the plate is 64x48 px")]
    #[case::nothing(&[], (64, 48), "holds no numbered pictures")]
    fn a_sequence_that_does_not_fit_is_refused(
        #[case] frames: &[i32],
        #[case] size: (u32, u32),
        #[case] expected: &str,
    ) {
        let (folder, other) = (tempfile::tempdir().unwrap(), tempfile::tempdir().unwrap());
        let plate = plate(folder.path());
        let refused = Mattes::open(&[sequence(other.path(), frames, size)], &plate).unwrap_err();
        assert!(refused.to_string().contains(expected), "{refused}");
    }
}
