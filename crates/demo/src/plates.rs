//! Writes a take as a plate on disk, with its truth, and finds the plates that ship.

use crate::render::{self, Picture};
use crate::take::Take;
use std::io;
use std::path::{Path, PathBuf};

/// How pictures are written.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Coding {
    /// Without loss.
    Png,
    /// JPEG of a quality, 1 to 100.
    Jpeg(u8),
}

impl Coding {
    fn ending(self) -> &'static str {
        match self {
            Self::Png => "png",
            Self::Jpeg(_) => "jpg",
        }
    }
}

/// Renders all frames of a take into `folder/NAME.FRAME.ext` and the truth into
/// `folder/../NAME.truth.json`. Pictures that are there are kept, so that what was broken off goes
/// on where it stood. `told` hears the number of frames done.
pub fn write(take: &Take, folder: &Path, coding: Coding, told: impl Fn(usize)) -> io::Result<()> {
    std::fs::create_dir_all(folder)?;
    for index in 0..take.frame_count {
        let name = format!("{}.{:04}", take.name, take.frame_number(index).0);
        let file = folder.join(format!("{name}.{}", coding.ending()));
        if !file.exists() {
            write_picture(&render::frame(take, index), &file, coding)?;
        }
        told(index + 1);
    }
    std::fs::write(truth_path(folder, &take.name), take.truth_text()?)
}

/// Where the truth of a plate lies.
pub fn truth_path(folder: &Path, name: &str) -> PathBuf {
    folder
        .parent()
        .unwrap_or(folder)
        .join(format!("{name}.truth.json"))
}

fn write_picture(picture: &Picture, file: &Path, coding: Coding) -> io::Result<()> {
    let (width, height) = (picture.width as u32, picture.height as u32);
    let partial = file.with_extension("part");
    match coding {
        Coding::Png => {
            let kind = image::ExtendedColorType::Rgb8;
            image::save_buffer_with_format(
                &partial,
                &picture.rgb,
                width,
                height,
                kind,
                image::ImageFormat::Png,
            )
            .map_err(io::Error::other)?;
        }
        Coding::Jpeg(quality) => {
            let mut encoder =
                jpeg_encoder::Encoder::new_file(&partial, quality).map_err(io::Error::other)?;
            encoder.set_sampling_factor(jpeg_encoder::SamplingFactor::F_2_2);
            encoder
                .encode(
                    &picture.rgb,
                    picture.width as u16,
                    picture.height as u16,
                    jpeg_encoder::ColorType::Rgb,
                )
                .map_err(io::Error::other)?;
        }
    }
    std::fs::rename(partial, file)
}

/// The folder in which the demo plates ship: `TRUE_PARALLAX_DEMO`, else beside this crate.
pub fn shipped() -> PathBuf {
    std::env::var_os("TRUE_PARALLAX_DEMO").map_or_else(
        || Path::new(env!("CARGO_MANIFEST_DIR")).join("plates"),
        PathBuf::from,
    )
}
