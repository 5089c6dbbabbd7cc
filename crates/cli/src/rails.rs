//! `rails`: what the picture itself offers as rails.

use crate::Failure;
use clap::Args;
use parallax_core::photo::suggest::suggest;
use parallax_formats::photo_json::PhotoFile;
use std::path::PathBuf;

/// Which picture.
#[derive(Args)]
pub struct RailsArgs {
    /// A photograph: PNG, JPEG or TIFF.
    picture: PathBuf,
    /// Focal length in px, where it is known.
    #[arg(long)]
    focal_px: Option<f64>,
}

/// Prints a photo file with the suggested rails.
pub fn run(args: RailsArgs) -> Result<(), Failure> {
    if args.focal_px.is_some_and(|f| !(f.is_finite() && f > 0.0)) {
        return Err(Failure::usage("the focal length has to be greater than 0"));
    }
    let picture = parallax_media::picture::decode(&args.picture).map_err(Failure::unreadable)?;
    let picture = parallax_media::picture::grey(&picture).ok_or_else(|| {
        Failure::unreadable(format!("{} holds no picture", args.picture.display()))
    })?;
    let found = suggest(&picture, args.focal_px);
    if found.rails.is_empty() {
        return Err(Failure::unsolvable(
            "the picture shows no straight edges that run with perpendicular axes; lay the rails by hand",
        ));
    }
    let file = PhotoFile {
        width: picture.width() as u32,
        height: picture.height() as u32,
        rails: found.rails,
        solve_centre: found.free_centre,
        ..PhotoFile::default()
    };
    println!(
        "{}",
        serde_json::to_string(&file).map_err(Failure::unreadable)?
    );
    Ok(())
}
