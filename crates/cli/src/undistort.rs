//! `undistort`: a plate with straight things straight, its maps, and the proof that they lead back.

use crate::lens::{DISTORTING_FILE, UNDISTORTING_FILE, read_for, write_maps};
use crate::package::{Stages, put};
use crate::{Failure, told, values};
use clap::Args;
use parallax_core::lens::maps::{Frame, Map};
use parallax_core::lens::resample::Rgba;
use parallax_core::progress::Progress;
use parallax_core::spaces::PlatePx;
use parallax_core::track::FrameSource;
use parallax_formats::st_map;
use parallax_media::colour::{self, Written};
use parallax_media::{Plate, Sequence};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

/// What to undistort and where to write.
#[derive(Args)]
pub struct UndistortArgs {
    /// Folder with the numbered pictures.
    plate_dir: PathBuf,
    /// The lens (see docs/api.md).
    #[arg(long)]
    lens: PathBuf,
    /// Folder for the pictures, the ST maps and receipt.json; frames that are there already are kept.
    #[arg(long)]
    out: PathBuf,
    /// What the undistorted picture keeps.
    #[arg(long, value_enum, default_value = "all")]
    keep: values::KeepArg,
    /// How pictures are written: png has 16 bits, exr is half float.
    #[arg(long, value_enum, default_value = "png")]
    format: FormatArg,
    /// Go on over missing frames instead of refusing them.
    #[arg(long)]
    bridge_gaps: bool,
}

#[derive(Clone, Copy, clap::ValueEnum)]
enum FormatArg {
    Png,
    Exr,
    Jpeg,
}

impl FormatArg {
    fn written(self) -> Written {
        match self {
            Self::Png => Written::Png,
            Self::Exr => Written::Exr,
            Self::Jpeg => Written::Jpeg,
        }
    }
}

/// Positions have to lead back to within this, px.
const PROVEN_PX: f64 = 0.02;
/// And the inside of a picture to within this, levels of 255 rms.
const PROVEN_LEVELS: f64 = 1.0;

/// Runs the command.
pub fn run(args: UndistortArgs) -> Result<(), Failure> {
    let mut stages = Stages::begun();
    let (sequence, plate) = Plate::in_folder(&args.plate_dir, args.bridge_gaps).map_err(Failure::unreadable)?;
    let lens = read_for(&args.lens, &plate)?;
    std::fs::create_dir_all(&args.out).map_err(|e| Failure::unreadable(format!("{}: {e}", args.out.display())))?;
    let frame = write_maps(&lens, args.keep.keep(), &args.out)?;
    let undistorting = read_map(&args.out.join(UNDISTORTING_FILE), (lens.width_px, lens.height_px))?;
    let distorting = read_map(&args.out.join(DISTORTING_FILE), (frame.width_px, frame.height_px))?;
    stages.done("maps");
    let written = write_frames(&args, &sequence, &plate, &undistorting)?;
    stages.done("pictures");
    let receipt = receipt(&frame, &plate, &undistorting, &distorting, &stages)?;
    put(&args.out.join("receipt.json"), &format!("{receipt:#}\n"))?;
    let summary = json!({
        "status": "done", "frames": plate.frames().len(), "written": written, "proven": receipt["proven"],
        "size": [frame.width_px, frame.height_px], "out": args.out.display().to_string(),
    });
    println!("{summary}");
    Ok(())
}

fn read_map(path: &Path, size: (u32, u32)) -> Result<Map, Failure> {
    let bytes =
        std::fs::read(path).map_err(|e| Failure::unreadable(format!("{} cannot be read: {e}", path.display())))?;
    st_map::read(&bytes, size).map_err(Failure::unreadable)
}

/// Writes the frames that are not there yet; how many these were.
fn write_frames(args: &UndistortArgs, sequence: &Sequence, plate: &Plate, map: &Map) -> Result<usize, Failure> {
    let kind = args.format.written();
    let progress = told::Lines::new();
    let total = plate.frames().len();
    let mut written = 0;
    for (done, number) in plate.frames().iter().enumerate() {
        let name = format!("{}{:0width$}.{}", sequence.prefix, number.0, kind.ending(), width = sequence.padding);
        let to = args.out.join(name);
        let from = plate.file(*number).filter(|_| !to.exists());
        if let Some(from) = from {
            let (picture, has_alpha) = colour::read(from).map_err(Failure::unreadable)?;
            colour::write(&picture.through(map), has_alpha, &to, kind).map_err(Failure::unreadable)?;
            written += 1;
        }
        progress.report("undistort", done + 1, total);
    }
    Ok(written)
}

/// Goes there and back through the maps as they were read from their files.
fn receipt(frame: &Frame, plate: &Plate, there: &Map, back: &Map, stages: &Stages) -> Result<Value, Failure> {
    let (width, height) = (plate.width_px, plate.height_px);
    let mut largest: f64 = 0.0;
    let mut compared = 0usize;
    for y in 0..height {
        for x in 0..width {
            let [u, v] = back.from_px[(y * width + x) as usize].map(f64::from);
            if let Some([px, py]) = there.at(PlatePx::new(u, v)) {
                largest = largest.max((px - f64::from(x) - 0.5).hypot(py - f64::from(y) - 0.5));
                compared += 1;
            }
        }
    }
    let first = plate.frames().first().and_then(|f| plate.file(*f));
    let first = first.ok_or_else(|| Failure::unreadable("the plate has no frames"))?;
    let (source, _) = colour::read(first).map_err(Failure::unreadable)?;
    let again = source.through(there).through(back);
    let levels = interior_levels(&source, &again);
    Ok(json!({
        "proven": largest <= PROVEN_PX && levels <= PROVEN_LEVELS && compared > 0,
        "plate": [width, height], "undistorted": [frame.width_px, frame.height_px], "added": frame.added_px,
        "largest_difference_px": largest, "compared_px": compared,
        "interior_rms_levels": levels,
        "convention": st_map::CONVENTION,
        "seconds": stages.as_json(),
    }))
}

/// Difference of two pictures away from the border, levels of 255 rms.
fn interior_levels(source: &Rgba, again: &Rgba) -> f64 {
    let (width, height) = (source.width_px as usize, source.height_px as usize);
    let border = 8.max(width / 50).min(width.min(height) / 3);
    let (mut squares, mut count) = (0.0, 0usize);
    for y in border..height - border {
        for k in y * width + border..(y + 1) * width - border {
            // What the undistorted picture cut off cannot come back.
            if again.values[k][3] > 0.99 {
                squares += (0..3).map(|c| f64::from(source.values[k][c] - again.values[k][c]).powi(2)).sum::<f64>();
                count += 3;
            }
        }
    }
    255.0 * (squares / count.max(1) as f64).sqrt()
}
