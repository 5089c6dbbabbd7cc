//! A plate with straight things straight, its maps, and the proof that they lead back.
//!
//! The folder holds one picture per frame, numbered as the plate's files are; `undistort.exr` and
//! `distort.exr`, the ST maps; `lens.json`; `README.txt` with the convention; and `receipt.json`.
//! Pictures are written whole or not at all, and those that are there are kept, so that what was
//! broken off goes on where it stood. The receipt goes there and back through the maps as they
//! are read from their files.

use crate::lens_json::LensFile;
use crate::st_map::{self, StMapError};
use parallax_core::lens::maps::{Frame, Map};
use parallax_core::lens::resample::Rgba;
use parallax_core::plate::FrameRate;
use parallax_core::progress::Progress;
use parallax_core::spaces::FrameNumber;
use parallax_core::track::FrameSource;
use parallax_media::colour::{self, Beside, Written};
use parallax_media::{MediaError, Plate, Sequence};
use rayon::prelude::*;
use serde::{Deserialize, Serialize};
use std::path::{Path, PathBuf};
use std::sync::Mutex;
use std::sync::atomic::{AtomicUsize, Ordering};

/// The lens.
pub const LENS_FILE: &str = "lens.json";
/// Reads from the plate: makes the undistorted picture.
pub const UNDISTORTING_FILE: &str = "undistort.exr";
/// Reads from the undistorted picture: makes the plate.
pub const DISTORTING_FILE: &str = "distort.exr";
/// What is what, in words.
pub const README_FILE: &str = "README.txt";
/// The proof.
pub const RECEIPT_FILE: &str = "receipt.json";

/// Positions have to lead back to within this, px.
pub const PROVEN_PX: f64 = 0.02;
/// And the inside of a picture to within this, levels of 255 rms, or to within what reading between its px costs
/// wherever the lens leads.
pub const PROVEN_LEVELS: f64 = 1.0;

/// Why a plate is not undistorted.
#[derive(Debug, thiserror::Error)]
pub enum UndistortError {
    /// A picture.
    #[error(transparent)]
    Media(#[from] MediaError),
    /// A map.
    #[error(transparent)]
    Map(#[from] StMapError),
    /// A file.
    #[error("{file} cannot be written or read back: {reason}")]
    File {
        /// Which.
        file: String,
        /// Why.
        reason: String,
    },
    /// The artist stopped it.
    #[error(
        "undistorting was cancelled; {written} frames are written and are kept for the next time"
    )]
    Cancelled {
        /// Frames that are there.
        written: usize,
    },
    /// Nothing to do.
    #[error("the plate has no frames")]
    Empty,
}

/// That maps and pictures lead back to the plate.
#[derive(Clone, Debug, PartialEq, Serialize, Deserialize)]
pub struct UndistortReceipt {
    /// Whether both limits hold.
    pub proven: bool,
    /// Size of the plate, px.
    pub plate: [u32; 2],
    /// Size of the undistorted picture, px.
    pub undistorted: [u32; 2],
    /// Px added on the left and at the top.
    pub added: [u32; 2],
    /// Frames that are there.
    pub frames: usize,
    /// Largest distance after both maps, px.
    pub largest_difference_px: f64,
    /// Positions that were compared.
    pub compared_px: usize,
    /// Difference of the first frame after both maps, away from the border, levels of 255 rms.
    pub interior_rms_levels: f64,
    /// What being moved by half a px and back would cost the same picture: the most that reading between px does.
    #[serde(default)]
    pub resampling_levels: f64,
    /// What the maps hold.
    pub convention: String,
}

/// Whether a file of the folder is one that is handed on: a whole one, of a name that leads nowhere else.
pub fn is_finished(name: &str) -> bool {
    let plain = name
        .chars()
        .all(|c| c.is_alphanumeric() || "._- ()".contains(c))
        && !name.starts_with('.');
    plain && !name.ends_with(".part")
}

/// Writes both maps of an undistorted picture into a folder.
pub fn write_maps(frame: &Frame, folder: &Path) -> Result<(), UndistortError> {
    let [undistorting, distorting] = st_map::both(frame)?;
    put(&folder.join(UNDISTORTING_FILE), &undistorting)?;
    put(&folder.join(DISTORTING_FILE), &distorting)
}

/// A plate that is to be undistorted.
#[derive(Clone, Copy, Debug)]
pub struct Undistorting<'a> {
    /// How its files are named.
    pub sequence: &'a Sequence,
    /// Its frames.
    pub plate: &'a Plate,
    /// The undistorted picture.
    pub frame: &'a Frame,
    /// The lens, as it is written beside the pictures.
    pub lens: &'a LensFile,
    /// How pictures are written.
    pub kind: Written,
    /// Frames a second, where that is known: OpenEXR states it.
    pub rate: Option<FrameRate>,
    /// Added to the numbers of the frames.
    pub renumbered_by: i32,
}

impl Undistorting<'_> {
    /// The name of an undistorted frame.
    pub fn name(&self, number: FrameNumber) -> String {
        let Sequence {
            prefix, padding, ..
        } = self.sequence;
        let number = number.0.saturating_add(self.renumbered_by);
        format!("{prefix}{number:0padding$}.{}", self.kind.ending())
    }
}

/// Undistorts the frames of a plate into a folder and proves it. How many frames were not there
/// before, and the receipt.
pub fn deliver(
    what: &Undistorting<'_>,
    folder: &Path,
    progress: &dyn Progress,
) -> Result<(usize, UndistortReceipt), UndistortError> {
    let Undistorting {
        plate,
        frame,
        lens,
        kind,
        ..
    } = *what;
    // Nothing else can state it, so that nothing else is written anew for it.
    let rate = what.rate.filter(|_| kind == Written::Exr);
    std::fs::create_dir_all(folder).map_err(|e| file_error(folder, &e))?;
    progress.report("ST maps", 0, plate.frames().len());
    write_maps(frame, folder)?;
    let text = format!(
        "{}\n",
        serde_json::to_string_pretty(lens).unwrap_or_default()
    );
    let told = readme(frame, rate);
    // Frames of another lens, size or rate are written anew.
    let is_there = |file: &str, text: &str| {
        std::fs::read_to_string(folder.join(file)).is_ok_and(|there| there == text)
    };
    let keeps = is_there(LENS_FILE, &text) && is_there(README_FILE, &told);
    let there = read_map(
        &folder.join(UNDISTORTING_FILE),
        (frame.lens.width_px, frame.lens.height_px),
    )?;
    let back = read_map(
        &folder.join(DISTORTING_FILE),
        (frame.width_px, frame.height_px),
    )?;
    if !keeps {
        for number in plate.frames() {
            let _ = std::fs::remove_file(folder.join(what.name(*number)));
        }
    }
    put(&folder.join(README_FILE), told.as_bytes())?;
    put(&folder.join(LENS_FILE), text.as_bytes())?;
    let has_border = there.leads_beyond(frame.lens.width_px, frame.lens.height_px);
    let (written, done) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let total = plate.frames().len();
    // Pictures that are written, for those that come next: memory is not asked for anew.
    let spare = Mutex::new(Vec::<Rgba>::new());
    plate
        .frames()
        .par_iter()
        .with_max_len(1)
        .try_for_each(|number| {
            if progress.is_cancelled() {
                return Err(UndistortError::Cancelled {
                    written: done.load(Ordering::Relaxed),
                });
            }
            let to = folder.join(what.name(*number));
            if let Some(from) = plate.file(*number).filter(|_| !to.exists()) {
                let (picture, has_alpha) = colour::read(from)?;
                let mut out = spare
                    .lock()
                    .ok()
                    .and_then(|mut spare| spare.pop())
                    .unwrap_or_default();
                picture.through_into(&there, &mut out);
                colour::write(
                    &out,
                    Beside {
                        alpha: has_alpha || has_border,
                        rate,
                    },
                    &to,
                    kind,
                )?;
                if let Ok(mut spare) = spare.lock() {
                    spare.push(out);
                }
                written.fetch_add(1, Ordering::Relaxed);
            }
            progress.report("undistort", done.fetch_add(1, Ordering::Relaxed) + 1, total);
            Ok(())
        })?;
    let receipt = prove(frame, plate, &there, &back)?;
    let text = serde_json::to_string_pretty(&receipt).unwrap_or_default();
    put(&folder.join(RECEIPT_FILE), format!("{text}\n").as_bytes())?;
    Ok((written.into_inner(), receipt))
}

fn readme(frame: &Frame, rate: Option<FrameRate>) -> String {
    let Frame {
        lens,
        width_px,
        height_px,
        added_px,
    } = frame;
    let rate = rate.map_or_else(String::new, |rate| format!(" {rate} frames a second."));
    format!(
        "Undistorted plate\n\nPlate as shot: {}x{} px. Undistorted: {width_px}x{height_px} px; {} px were added on the \
         left, {} px at the top; where the plate shows nothing, alpha is 0 and JPEG black.{rate}\n\n\
         {UNDISTORTING_FILE} makes the undistorted picture from the plate; {DISTORTING_FILE} makes the plate, \
         with its distortion, from the undistorted picture and what was added to it.\n\n{}\n",
        lens.width_px,
        lens.height_px,
        added_px[0],
        added_px[1],
        st_map::CONVENTION
    )
}

fn file_error(path: &Path, error: &std::io::Error) -> UndistortError {
    UndistortError::File {
        file: path.display().to_string(),
        reason: error.to_string(),
    }
}

fn put(path: &Path, bytes: &[u8]) -> Result<(), UndistortError> {
    let partial: PathBuf = path.with_extension("part");
    std::fs::write(&partial, bytes)
        .and_then(|()| std::fs::rename(&partial, path))
        .map_err(|e| file_error(path, &e))
}

fn read_map(path: &Path, size: (u32, u32)) -> Result<Map, UndistortError> {
    let bytes = std::fs::read(path).map_err(|e| file_error(path, &e))?;
    Ok(st_map::read(&bytes, size)?)
}

/// From every px of the plate to the undistorted picture and back through the maps: largest distance, px, and how many
/// px have a way.
pub fn there_and_back(there: &Map, back: &Map) -> (f64, usize) {
    let (mut largest, mut compared) = (0.0f64, 0usize);
    for y in 0..back.height_px {
        for x in 0..back.width_px {
            let [u, v] = back.from_px[(y * back.width_px + x) as usize].map(f64::from);
            if let Some([px, py]) = there.at([u, v]) {
                largest = largest.max((px - f64::from(x) - 0.5).hypot(py - f64::from(y) - 0.5));
                compared += 1;
            }
        }
    }
    (largest, compared)
}

/// Goes there and back through the maps as they were read from their files.
fn prove(
    frame: &Frame,
    plate: &Plate,
    there: &Map,
    back: &Map,
) -> Result<UndistortReceipt, UndistortError> {
    let (width, height) = (plate.width_px, plate.height_px);
    let (largest, compared) = there_and_back(there, back);
    let first = plate
        .frames()
        .first()
        .and_then(|f| plate.file(*f))
        .ok_or(UndistortError::Empty)?;
    let (source, _) = colour::read(first)?;
    let levels = interior_levels(&source, &source.through(there).through(back));
    let [right, left] = [0.5, -0.5].map(|by| shifting(width, height, by));
    let resampling = interior_levels(&source, &source.through(&right).through(&left));
    Ok(UndistortReceipt {
        proven: largest <= PROVEN_PX && levels <= PROVEN_LEVELS.max(resampling) && compared > 0,
        plate: [width, height],
        undistorted: [frame.width_px, frame.height_px],
        added: frame.added_px,
        frames: plate.frames().len(),
        largest_difference_px: largest,
        compared_px: compared,
        interior_rms_levels: levels,
        resampling_levels: resampling,
        convention: st_map::CONVENTION.to_owned(),
    })
}

/// A map that moves a picture across and down.
fn shifting(width_px: u32, height_px: u32, by: f32) -> Map {
    let px = (0..height_px).flat_map(|y| (0..width_px).map(move |x| [x, y]));
    Map {
        width_px,
        height_px,
        from_px: px.map(|at| at.map(|v| v as f32 + 0.5 + by)).collect(),
    }
}

/// Difference of two pictures away from the border, levels of 255 rms.
fn interior_levels(source: &Rgba, again: &Rgba) -> f64 {
    let (width, height) = (source.width_px as usize, source.height_px as usize);
    let border = 8.max(width / 50).min(width.min(height) / 3);
    let (mut squares, mut count) = (0.0, 0usize);
    for y in border..height - border {
        for k in y * width + border..(y + 1) * width - border {
            // What the undistorted picture cut off cannot come back.
            let (source, again) = (source.px(k), again.px(k));
            if again[3] > 0.99 {
                squares += (0..3)
                    .map(|c| f64::from(source[c] - again[c]).powi(2))
                    .sum::<f64>();
                count += 3;
            }
        }
    }
    255.0 * (squares / count.max(1) as f64).sqrt()
}
