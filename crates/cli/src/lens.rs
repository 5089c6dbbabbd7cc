//! `lens`: a lens from straights, with its maps.

use crate::package::{put, round};
use crate::{Failure, values};
use clap::Args;
use parallax_core::camera::Intrinsics;
use parallax_core::lens::maps::{Frame, Keep};
use parallax_core::lens::straights::{LensError, solve_straights, wanting};
use parallax_formats::lens_json::{LensFile, StraightsFile};
use parallax_formats::undistorted::{self, LENS_FILE};
use parallax_media::Plate;
use serde_json::json;
use std::path::{Path, PathBuf};

/// What to solve and where to write.
#[derive(Args)]
pub struct LensArgs {
    /// Marks along straight things as JSON (see docs/api.md).
    straights: PathBuf,
    /// Folder for lens.json and the ST maps undistort.exr and distort.exr.
    #[arg(long)]
    out: PathBuf,
    /// What the undistorted picture of the maps keeps.
    #[arg(long, value_enum, default_value = "all")]
    keep: values::KeepArg,
}

/// Runs the command.
pub fn run(args: LensArgs) -> Result<(), Failure> {
    let text = std::fs::read_to_string(&args.straights).map_err(|e| {
        Failure::unreadable(format!("{} cannot be read: {e}", args.straights.display()))
    })?;
    let file = StraightsFile::read(&text).map_err(Failure::unreadable)?;
    let solved =
        solve_straights(file.width, file.height, &file.marks(), &file.options()).map_err(|e| {
            match e {
                LensError::OutOfRange { .. } => Failure::usage(e),
                other => Failure::unsolvable(other),
            }
        })?;
    let wanting = wanting(&file.marks(), &file.options(), &solved);
    let lens_file = LensFile::solved(&solved).calling_for(wanting.as_ref());
    if let Some(wanting) = &wanting {
        eprintln!(
            "the straights call for {}: {:.3} px are left with it instead of {:.3}, and a corner moves by {:.1} px",
            wanting.by, wanting.rms_after_px, solved.rms_after_px, wanting.corner_moves_px
        );
    }
    std::fs::create_dir_all(&args.out)
        .map_err(|e| Failure::unreadable(format!("{}: {e}", args.out.display())))?;
    let text = serde_json::to_string_pretty(&lens_file).map_err(Failure::unreadable)?;
    put(&args.out.join(LENS_FILE), &format!("{text}\n"))?;
    let frame = write_maps(&solved.lens, args.keep.keep(), &args.out)?;
    let d = &solved.lens.distortion;
    let summary = json!({
        "status": "done", "k1": d.k1, "k2": d.k2, "k3": d.k3, "p1": d.p1, "p2": d.p2,
        "focal_px": solved.lens.focal_px, "centre": lens_file.centre,
        "rms_before_px": round(solved.rms_before_px, 4), "rms_after_px": round(solved.rms_after_px, 4),
        "worst_straight": solved.worst + 1, "calls_for": lens_file.evidence.as_ref().and_then(|e| e.calls_for.clone()), "undistorted_size": [frame.width_px, frame.height_px],
        "out": args.out.display().to_string(),
    });
    println!("{summary}");
    Ok(())
}

/// Reads a lens file for a plate; another picture size or a fold inside the picture is an error.
pub fn read_for(file: &Path, plate: &Plate) -> Result<Intrinsics, Failure> {
    let text = std::fs::read_to_string(file)
        .map_err(|e| Failure::unreadable(format!("{} cannot be read: {e}", file.display())))?;
    let lens = LensFile::read(&text).map_err(Failure::unreadable)?.lens();
    if (plate.width_px, plate.height_px) != (lens.width_px, lens.height_px) {
        return Err(Failure::unsolvable(format!(
            "the plate is {}x{} px, the lens file is for {}x{}; a lens holds for its own picture size",
            plate.width_px, plate.height_px, lens.width_px, lens.height_px
        )));
    }
    Frame::of(&lens, Keep::Size).map_err(Failure::unsolvable)?;
    Ok(lens)
}

/// Writes both maps of a lens; the undistorted frame that they belong to.
fn write_maps(lens: &Intrinsics, keep: Keep, out: &Path) -> Result<Frame, Failure> {
    let frame = Frame::of(lens, keep).map_err(Failure::unsolvable)?;
    undistorted::write_maps(&frame, out).map_err(Failure::unreadable)?;
    Ok(frame)
}
