//! `undistort`: a plate with straight things straight, its maps, and the proof that they lead back.

use crate::lens::read_for;
use crate::{Failure, told, values};
use clap::Args;
use parallax_core::lens::maps::Frame;
use parallax_core::plate::FrameRate;
use parallax_formats::lens_json::LensFile;
use parallax_formats::undistorted::{self, Undistorting};
use parallax_media::colour::Written;
use parallax_media::{Plate, stated_rate};
use serde_json::json;
use std::path::PathBuf;

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
    /// Frames a second, such as 24000/1001, which exr states; default is what the plate's headers state.
    #[arg(long)]
    rate: Option<FrameRate>,
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

/// Runs the command.
pub fn run(args: UndistortArgs) -> Result<(), Failure> {
    let (sequence, plate) =
        Plate::in_folder(&args.plate_dir, args.bridge_gaps).map_err(Failure::unreadable)?;
    let lens = read_for(&args.lens, &plate)?;
    let frame = Frame::of(&lens, args.keep.keep()).map_err(Failure::unsolvable)?;
    let (file, kind) = (LensFile::of(&lens), args.format.written());
    let rate = args.rate.or_else(|| stated_rate::of_sequence(&sequence));
    let what = Undistorting {
        sequence: &sequence,
        plate: &plate,
        frames: &frame.into(),
        lens: &file,
        kind,
        rate,
        renumbered_by: 0,
    };
    let (written, receipt) =
        undistorted::deliver(&what, &args.out, &told::Lines::new()).map_err(Failure::unreadable)?;
    let summary = json!({
        "status": "done", "frames": receipt.frames, "written": written, "proven": receipt.proven,
        "size": receipt.undistorted, "out": args.out.display().to_string(),
    });
    println!("{summary}");
    Ok(())
}
