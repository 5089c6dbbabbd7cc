//! A plate with straight things straight, its maps, and the proof that they lead back.
//!
//! The folder holds one picture per frame, numbered as the plate's files are; `undistort.exr` and
//! `distort.exr`, the ST maps, along a zoom a pair for each frame with its number; `lens.json`; `README.txt` with the convention; and `receipt.json`.
//! Pictures are written whole or not at all, and those that are there are kept, so that what was
//! broken off goes on where it stood. The receipt goes there and back through the maps as they
//! are read from their files.

use crate::lens_json::LensFile;
use crate::plate_lens::PlateFrames;
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
    /// The undistorted pictures.
    pub frames: &'a PlateFrames,
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

    /// The name of a map, with the number of its frame along a zoom.
    fn map_name(&self, file: &str, number: Option<FrameNumber>) -> String {
        let padding = self.sequence.padding;
        match number {
            None => file.to_owned(),
            Some(number) => {
                let number = number.0.saturating_add(self.renumbered_by);
                let stem = file.trim_end_matches(".exr");
                format!("{stem}.{number:0padding$}.exr")
            }
        }
    }

    /// Removes pictures and maps.
    fn remove_from(&self, folder: &Path) {
        let numbers = self.plate.frames().iter().map(|n| Some(*n));
        for number in std::iter::once(None).chain(numbers) {
            let pictures = number.map(|n| self.name(n));
            let maps = [UNDISTORTING_FILE, DISTORTING_FILE].map(|f| self.map_name(f, number));
            for file in maps.into_iter().chain(pictures) {
                let _ = std::fs::remove_file(folder.join(file));
            }
        }
    }

    /// Has the maps of an undistorted picture read back, written where they are not there.
    fn maps(
        &self,
        folder: &Path,
        frame: &Frame,
        number: Option<FrameNumber>,
    ) -> Result<Maps, UndistortError> {
        let named = |file: &str| folder.join(self.map_name(file, number));
        // Those of this lens are there where it was broken off.
        if !(named(UNDISTORTING_FILE).exists() && named(DISTORTING_FILE).exists()) {
            let [undistorting, distorting] = st_map::both(frame)?;
            put(&named(UNDISTORTING_FILE), &undistorting)?;
            put(&named(DISTORTING_FILE), &distorting)?;
        }
        let plate = (frame.lens.width_px, frame.lens.height_px);
        let straight = (frame.width_px, frame.height_px);
        Ok(Maps {
            there: read_map(&named(UNDISTORTING_FILE), plate)?,
            back: read_map(&named(DISTORTING_FILE), straight)?,
        })
    }
}

/// Both maps of a picture, as they were read from their files.
struct Maps {
    there: Map,
    back: Map,
}

impl Maps {
    fn there_and_back(&self) -> (f64, usize) {
        there_and_back(&self.there, &self.back)
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
        frames,
        lens,
        kind,
        ..
    } = *what;
    // Nothing else can state it, so that nothing else is written anew for it.
    let rate = what.rate.filter(|_| kind == Written::Exr);
    std::fs::create_dir_all(folder).map_err(|e| file_error(folder, &e))?;
    progress.report("ST maps", 0, plate.frames().len());
    let text = format!(
        "{}\n",
        serde_json::to_string_pretty(lens).unwrap_or_default()
    );
    let told = readme(frames, rate);
    // Frames of another lens, size or rate are written anew.
    let is_there = |file: &str, text: &str| {
        std::fs::read_to_string(folder.join(file)).is_ok_and(|there| there == text)
    };
    if !(is_there(LENS_FILE, &text) && is_there(README_FILE, &told)) {
        what.remove_from(folder);
    }
    put(&folder.join(README_FILE), told.as_bytes())?;
    put(&folder.join(LENS_FILE), text.as_bytes())?;
    let ways = written(what, folder, rate, progress)?;
    let receipt = prove(frames, plate, &ways)?;
    let text = serde_json::to_string_pretty(&receipt).unwrap_or_default();
    put(&folder.join(RECEIPT_FILE), format!("{text}\n").as_bytes())?;
    Ok((ways.written, receipt))
}

/// What came of the ways there and back.
#[derive(Default)]
struct Ways {
    /// Frames that were not there before.
    written: usize,
    /// Largest distance, px.
    largest_px: f64,
    /// Positions that were compared.
    compared: usize,
    /// The maps of the first frame.
    first: Option<Maps>,
}

impl Ways {
    fn add(&mut self, (largest, compared): (f64, usize)) {
        self.largest_px = self.largest_px.max(largest);
        self.compared += compared;
    }
}

/// Writes maps and pictures; those pictures that are there are kept.
fn written(
    what: &Undistorting<'_>,
    folder: &Path,
    rate: Option<FrameRate>,
    progress: &dyn Progress,
) -> Result<Ways, UndistortError> {
    let PlateFrames { frame, along } = what.frames;
    let only = match along.is_empty() {
        true => Some(what.maps(folder, frame, None)?),
        false => None,
    };
    let numbers = what.plate.frames();
    let (done, fresh) = (AtomicUsize::new(0), AtomicUsize::new(0));
    let ways = Mutex::new(Ways::default());
    // Pictures that are written, for those that come next: memory is not asked for anew.
    let spare = Mutex::new(Vec::<Rgba>::new());
    numbers.par_iter().with_max_len(1).try_for_each(|number| {
        if progress.is_cancelled() {
            return Err(UndistortError::Cancelled {
                written: done.load(Ordering::Relaxed),
            });
        }
        let own = match (&only, along.get(number)) {
            (Some(_), _) | (None, None) => None,
            (None, Some(frame)) => Some(what.maps(folder, frame, Some(*number))?),
        };
        let to = folder.join(what.name(*number));
        let from = what.plate.file(*number).filter(|_| !to.exists());
        if let (Some(from), Some(maps)) = (from, own.as_ref().or(only.as_ref())) {
            picture(from, (&maps.there, &spare), &to, (what.kind, rate))?;
            fresh.fetch_add(1, Ordering::Relaxed);
        }
        let compared = own.as_ref().map(Maps::there_and_back);
        if let (Some(own), Some(compared), Ok(mut ways)) = (own, compared, ways.lock()) {
            ways.add(compared);
            if numbers.first() == Some(number) {
                ways.first = Some(own);
            }
        }
        let done = done.fetch_add(1, Ordering::Relaxed) + 1;
        progress.report("undistort", done, numbers.len());
        Ok(())
    })?;
    let mut ways = ways.into_inner().unwrap_or_default();
    if let Some(only) = only {
        ways.add(only.there_and_back());
        ways.first = Some(only);
    }
    ways.written = fresh.into_inner();
    Ok(ways)
}

/// Undistorts one picture.
fn picture(
    from: &Path,
    (there, spare): (&Map, &Mutex<Vec<Rgba>>),
    to: &Path,
    (kind, rate): (Written, Option<FrameRate>),
) -> Result<(), UndistortError> {
    let (picture, has_alpha) = colour::read(from)?;
    let taken = spare.lock().ok().and_then(|mut spare| spare.pop());
    let mut out = taken.unwrap_or_default();
    picture.through_into(there, &mut out);
    let beside = Beside {
        alpha: has_alpha || there.leads_beyond(picture.width_px, picture.height_px),
        rate,
    };
    colour::write(&out, beside, to, kind)?;
    if let Ok(mut spare) = spare.lock() {
        spare.push(out);
    }
    Ok(())
}

fn readme(frames: &PlateFrames, rate: Option<FrameRate>) -> String {
    let Frame {
        lens,
        width_px,
        height_px,
        added_px,
    } = &frames.frame;
    let zooms = match frames.along.is_empty() {
        true => "",
        false => {
            "The lens zooms: each frame has maps of its own, which have its number in their names.\n\n"
        }
    };
    let rate = rate.map_or_else(String::new, |rate| format!(" {rate} frames a second."));
    format!(
        "Undistorted plate\n\nPlate as shot: {}x{} px. Undistorted: {width_px}x{height_px} px; {} px were added on the \
         left, {} px at the top; where the plate shows nothing, alpha is 0 and JPEG black.{rate}\n\n\
         {UNDISTORTING_FILE} makes the undistorted picture from the plate; {DISTORTING_FILE} makes the plate, \
         with its distortion, from the undistorted picture and what was added to it.\n\n{zooms}{}\n",
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

/// Takes the first frame there and back through the maps as they were read from their files, beside what came of the
/// ways of all.
fn prove(
    frames: &PlateFrames,
    plate: &Plate,
    ways: &Ways,
) -> Result<UndistortReceipt, UndistortError> {
    let (width, height) = (plate.width_px, plate.height_px);
    let first = plate.frames().first().and_then(|f| plate.file(*f));
    let (first, maps) = first
        .zip(ways.first.as_ref())
        .ok_or(UndistortError::Empty)?;
    let (source, _) = colour::read(first)?;
    let levels = interior_levels(&source, &source.through(&maps.there).through(&maps.back));
    let [right, left] = [0.5, -0.5].map(|by| shifting(width, height, by));
    let resampling = interior_levels(&source, &source.through(&right).through(&left));
    let frame = &frames.frame;
    let leads_back = ways.largest_px <= PROVEN_PX && ways.compared > 0;
    Ok(UndistortReceipt {
        proven: leads_back && levels <= PROVEN_LEVELS.max(resampling),
        plate: [width, height],
        undistorted: [frame.width_px, frame.height_px],
        added: frame.added_px,
        frames: plate.frames().len(),
        largest_difference_px: ways.largest_px,
        compared_px: ways.compared,
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
