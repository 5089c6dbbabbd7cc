//! `proof`: guests over a plate through a solved camera, as a movie or as numbered pictures.

use crate::guests::GuestArgs;
use crate::{Failure, told};
use clap::Args;
use parallax_core::camera::Eye;
use parallax_core::plate::FrameRate;
use parallax_core::render::{Cameras, Piece, Quality, Sun};
use parallax_core::spaces::FrameNumber;
use parallax_formats::camera_reader::CameraFile;
use parallax_matching::proofing::Proofing;
use parallax_media::Plate;
use parallax_media::movie_out::MovieKind;
use serde_json::json;
use std::path::PathBuf;

/// A solved camera, guests and a plate.
#[derive(Args)]
pub struct ProofArgs {
    /// The neutral camera file, such as `match` or `orient` writes.
    camera: PathBuf,
    #[command(flatten)]
    guests: GuestArgs,
    /// Folder with the numbered pictures.
    #[arg(long)]
    plate: PathBuf,
    /// An .mp4, or a folder for numbered PNG.
    #[arg(long)]
    movie: PathBuf,
    /// Where the sun stands: heading,height in degrees.
    #[arg(long, default_value = "40,50", allow_hyphen_values = true)]
    sun: String,
    /// Height of the ground that catches shadows, in units of the file; without one there are none.
    #[arg(long, allow_hyphen_values = true)]
    ground: Option<f64>,
    /// How long the shutter is open, degrees.
    #[arg(long, default_value_t = 180.0)]
    shutter: f64,
    /// Rays a px.
    #[arg(long, default_value_t = 16)]
    rays: u32,
    /// Write the frame's number into the picture.
    #[arg(long)]
    numbers: bool,
    /// Frames a second; those of the camera file where left out.
    #[arg(long)]
    rate: Option<FrameRate>,
}

/// Runs the command.
pub fn run(args: ProofArgs) -> Result<(), Failure> {
    let text = crate::reopened::text_of(&args.camera)?;
    let file = CameraFile::read(&text)
        .map_err(|e| Failure::unreadable(format!("{}: {e}", args.camera.display())))?;
    let guests = args.guests.standing(&file)?;
    if guests.is_empty() {
        return Err(Failure::usage("state at least one --guest"));
    }
    let kind = MovieKind {
        pictures: args
            .movie
            .extension()
            .is_none_or(|e| !e.eq_ignore_ascii_case("mp4")),
        numbers: args.numbers,
        rays: args.rays,
    };
    if !kind.is_possible() || !(0.0..=360.0).contains(&args.shutter) {
        return Err(Failure::usage(
            "--rays lies between 1 and 100, --shutter between 0 and 360",
        ));
    }
    let eye = |f| {
        let pose = file.pose(f)?;
        let lens = file.intrinsics(f);
        Some((FrameNumber(f.frame), Eye { lens, pose }))
    };
    let mut cameras: Vec<_> = file.frames.iter().filter_map(eye).collect();
    cameras.sort_by_key(|c| c.0);
    let readout = file.solved.as_ref().and_then(|s| s.readout_frames);
    let proofing = Proofing {
        guests,
        set: args.ground.map(Piece::ground).into_iter().collect(),
        sun: sun(&args.sun)?,
        cameras: Cameras::of(cameras, readout),
        quality: Quality {
            rays: args.rays as usize,
            shutter_frames: args.shutter / 360.0,
        },
    };
    let (sequence, _) = Plate::in_folder(&args.plate, true).map_err(Failure::unreadable)?;
    let name = args
        .movie
        .file_stem()
        .map_or_else(|| "proof".to_owned(), |n| n.to_string_lossy().into_owned());
    let rate = args.rate.unwrap_or(file.fps);
    let drawn = proofing
        .movie(
            &sequence.files,
            (&name, rate, &kind),
            &args.movie,
            &told::Lines::new(),
        )
        .map_err(Failure::unreadable)?;
    println!(
        "{:#}",
        json!({ "frames": drawn, "rate": rate.to_string(), "movie": args.movie.display().to_string() })
    );
    Ok(())
}

fn sun(text: &str) -> Result<Sun, Failure> {
    let numbers: Vec<f64> = text
        .split(',')
        .filter_map(|n| n.trim().parse().ok())
        .collect();
    let wrong = || Failure::usage("--sun is heading,height in degrees, the height 0 to 90");
    let [heading_deg, height_deg] = numbers[..].try_into().map_err(|_| wrong())?;
    let sun = Sun {
        heading_deg,
        height_deg,
        ..Sun::default()
    };
    sun.is_possible().then_some(sun).ok_or_else(wrong)
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("40,50", Some((40.0, 50.0)))]
    #[case("-120, 10.5", Some((-120.0, 10.5)))]
    #[case("40", None)]
    #[case("40,95", None)]
    #[case("a,b", None)]
    fn the_sun_is_two_angles(#[case] text: &str, #[case] expected: Option<(f64, f64)>) {
        assert_eq!(
            sun(text).ok().map(|s| (s.heading_deg, s.height_deg)),
            expected
        );
    }
}
