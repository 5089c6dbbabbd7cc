//! `compare`: how far a solved camera is from a true one, in px.

use crate::Failure;
use clap::Args;
use parallax_formats::camera_reader::CameraFile;
use serde_json::json;
use std::path::{Path, PathBuf};

/// Two neutral camera files.
#[derive(Args)]
pub struct CompareArgs {
    /// The solved camera.
    solved: PathBuf,
    /// The true camera, with true points.
    truth: PathBuf,
    /// Also the error of each frame.
    #[arg(long)]
    frames: bool,
}

fn read(path: &Path) -> Result<CameraFile, Failure> {
    let named = |e: &dyn std::fmt::Display| Failure::unreadable(format!("{}: {e}", path.display()));
    let text = std::fs::read_to_string(path).map_err(|e| named(&e))?;
    CameraFile::read(&text).map_err(|e| named(&e))
}

/// Runs the command.
pub fn run(args: CompareArgs) -> Result<(), Failure> {
    let (solved, truth) = (read(&args.solved)?, read(&args.truth)?);
    let d = parallax_demo::compare::compare(&solved, &truth).ok_or_else(|| {
        Failure::unreadable(
            "the two files share fewer than three frames, or no point is in the picture",
        )
    })?;
    let mut told = json!({
        "rms_px": d.rms_px, "rms_px_at_1280": d.rms_px_at_1280, "worst_px": d.worst_px,
        "focal_percent": 100.0 * d.focal_share, "worst_focal_percent": 100.0 * d.worst_focal_share,
        "frames": d.frames, "worst_turn_deg": d.worst_turn_deg,
    });
    if args.frames {
        told["px_by_frame"] = json!(d.by_frame);
    }
    println!("{told}");
    Ok(())
}
