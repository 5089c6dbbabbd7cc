//! Writes a take as a plate on disk, with its truth, and finds the plates that ship.

use crate::render::{self, Picture};
use crate::take::Take;
use crate::trial::Trial;
use std::collections::HashMap;
use std::io;
use std::path::{Path, PathBuf};
use std::sync::{Arc, Mutex, PoisonError};

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
        let file = folder.join(file_name(take, index, coding));
        if !file.exists() {
            write_picture(&render::frame(take, index), &file, coding)?;
        }
        told(index + 1);
    }
    std::fs::write(truth_path(folder, &take.name), take.truth_text()?)
}

/// Pictures of a plate by the names of their files, and its truth.
struct Drawn {
    pictures: Vec<(String, Vec<u8>)>,
    truth: Vec<u8>,
}

/// A plate that is drawn once; the lock is held while it is.
type Once = Arc<Mutex<Option<Drawn>>>;

/// Writes a trial as [`write`] does. What this process has drawn before is kept in memory and not drawn again: many
/// tests want the same few plates.
pub fn write_trial(trial: &Trial, folder: &Path, coding: Coding) -> io::Result<()> {
    static ALL: Mutex<Option<HashMap<String, Once>>> = Mutex::new(None);
    let once = {
        let mut all = ALL.lock().unwrap_or_else(PoisonError::into_inner);
        let key = format!("{trial:?} {coding:?}");
        let all = all.get_or_insert_default();
        all.entry(key).or_default().clone()
    };
    let take = trial.take();
    let mut drawn = once.lock().unwrap_or_else(PoisonError::into_inner);
    if let Some(drawn) = &*drawn {
        std::fs::create_dir_all(folder)?;
        for (name, picture) in &drawn.pictures {
            std::fs::write(folder.join(name), picture)?;
        }
        return std::fs::write(truth_path(folder, &take.name), &drawn.truth);
    }
    write(&take, folder, coding, |_| {})?;
    let read = |index: usize| {
        let name = file_name(&take, index, coding);
        let picture = std::fs::read(folder.join(&name))?;
        Ok((name, picture))
    };
    *drawn = Some(Drawn {
        pictures: (0..take.frame_count).map(read).collect::<io::Result<_>>()?,
        truth: std::fs::read(truth_path(folder, &take.name))?,
    });
    Ok(())
}

fn file_name(take: &Take, index: usize, coding: Coding) -> String {
    let frame = take.frame_number(index).0;
    format!("{}.{frame:04}.{}", take.name, coding.ending())
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

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]
    use super::*;
    use std::collections::BTreeMap;

    /// All files below a folder by their paths in it.
    fn files(root: &Path) -> BTreeMap<PathBuf, Vec<u8>> {
        let inside = |folder: &Path| -> Vec<PathBuf> {
            let entries = std::fs::read_dir(folder).unwrap();
            entries.map(|entry| entry.unwrap().path()).collect()
        };
        let all = inside(root).into_iter().chain(inside(&root.join("p")));
        all.filter(|path| path.is_file())
            .map(|path| {
                let name = path.strip_prefix(root).unwrap().to_owned();
                (name, std::fs::read(&path).unwrap())
            })
            .collect()
    }

    #[test]
    fn a_plate_that_was_drawn_before_is_the_same() {
        let roots = [(); 4].map(|()| tempfile::tempdir().unwrap());
        let folder = |k: usize| roots[k].path().join("p");
        let trial = Trial {
            width_px: 64,
            height_px: 36,
            ..Trial::small(3)
        };
        write(&trial.take(), &folder(0), Coding::Png, |_| {}).unwrap();
        write_trial(&trial, &folder(1), Coding::Png).unwrap();
        write_trial(&trial, &folder(2), Coding::Png).unwrap();
        let other = Trial { seed: 7, ..trial };
        write_trial(&other, &folder(3), Coding::Png).unwrap();
        let [drawn, first, again, other] = [0, 1, 2, 3].map(|k| files(roots[k].path()));
        assert_eq!(drawn.len(), 4, "three pictures and the truth");
        assert!(drawn == first && drawn == again);
        assert_ne!(drawn, other);
    }
}
