//! `proof`: guests over a plate through a solved camera, as a movie or as numbered pictures.

use crate::{Failure, told};
use clap::Args;
use nalgebra::Vector3;
use parallax_core::camera::Eye;
use parallax_core::guest::{Guest, Lie, What, stand_ins};
use parallax_core::plate::FrameRate;
use parallax_core::render::{Cameras, Piece, Quality, Sun, Traced};
use parallax_core::spaces::FrameNumber;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::model;
use parallax_matching::proofing::{Proofing, Standing};
use parallax_media::Plate;
use parallax_media::movie_out::MovieKind;
use serde_json::json;
use std::path::{Path, PathBuf};
use std::sync::Arc;

/// A solved camera, guests and a plate.
#[derive(Args)]
pub struct ProofArgs {
    /// The neutral camera file, such as `match` or `orient` writes.
    camera: PathBuf,
    /// A model (.glb, .gltf, .obj, .ply; files that it names are looked for beside it), or a stand-in: box, figure,
    /// cylinder, corner, sphere, plane, checker, text, arrow. Can be given again.
    #[arg(long, required = true)]
    guest: Vec<String>,
    /// Where each guest stands, in their order: x,y,z in the axes and units of the file, or the name of a point.
    #[arg(long, required = true, allow_hyphen_values = true)]
    at: Vec<String>,
    /// How far each is turned about up, degrees; 0 where none is given.
    #[arg(long, allow_hyphen_values = true)]
    turn: Vec<f64>,
    /// How many times as large each is; 1 where none is given.
    #[arg(long)]
    scale: Vec<f64>,
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
    if args.at.len() != args.guest.len() {
        return Err(Failure::usage("state --at once for each --guest"));
    }
    let guests = (0..args.guest.len()).map(|k| standing(&args, &file, k));
    let guests = guests.collect::<Result<Vec<_>, _>>()?;
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

/// Guest number `k` of the command line.
fn standing(args: &ProofArgs, file: &CameraFile, k: usize) -> Result<Standing, Failure> {
    let (named, at) = (&args.guest[k], &args.at[k]);
    let place = place(file, at)?;
    let (what, mesh) = match What::usual(named) {
        Some(what) => {
            let mesh = stand_ins::mesh(&what).unwrap_or_default();
            (what, mesh)
        }
        None => (
            What::Model { model: 1 },
            model::read(&beside(Path::new(named))?).map_err(Failure::unreadable)?,
        ),
    };
    let lie = Lie {
        shift_m: place.into(),
        turn_deg: [args.turn.get(k).copied().unwrap_or(0.0), 0.0, 0.0],
        scale: args.scale.get(k).copied().unwrap_or(1.0),
    };
    let guest = Guest {
        lie,
        ..Guest::new("guest", what, None)
    };
    if !guest.is_possible() {
        return Err(Failure::usage(
            "a guest stands within 100 km, is turned by a number and 0.0001 to 10000 times as large",
        ));
    }
    Ok(Standing {
        guest,
        surface: Arc::new(Traced::of(Arc::new(mesh))),
        anchor: None,
    })
}

/// A place, in our world.
fn place(file: &CameraFile, at: &str) -> Result<Vector3<f64>, Failure> {
    if let Some(point) = file.points.iter().find(|p| p.name == at) {
        return Ok(file.point(point).0.coords);
    }
    let place: crate::slip::Place = at.parse().map_err(|e| {
        Failure::usage(format!(
            "{at} is neither a point of the camera file nor a place: {e}"
        ))
    })?;
    Ok(file.in_our_world(place.0).0.coords)
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

/// Most bytes of a file beside a model that may belong to it.
const MOST_BESIDE: u64 = 256 << 20;

/// A model with what lies beside it, itself first.
fn beside(path: &Path) -> Result<Vec<model::Named>, Failure> {
    let unreadable = |e: std::io::Error| Failure::unreadable(format!("{}: {e}", path.display()));
    let name = |path: &Path| {
        path.file_name()
            .unwrap_or_default()
            .to_string_lossy()
            .into_owned()
    };
    let mut files = vec![(name(path), std::fs::read(path).map_err(unreadable)?)];
    let endings = ["mtl", "bin", "png", "jpg", "jpeg"];
    let folder = path
        .parent()
        .filter(|p| !p.as_os_str().is_empty())
        .unwrap_or(Path::new("."));
    let mut left = MOST_BESIDE;
    for entry in std::fs::read_dir(folder).map_err(unreadable)?.flatten() {
        let other = entry.path();
        let ending = other
            .extension()
            .map(|e| e.to_string_lossy().to_lowercase())
            .unwrap_or_default();
        let size = entry.metadata().map_or(0, |m| m.len());
        if other.is_file() && endings.contains(&ending.as_str()) && size <= left {
            left -= size;
            files.push((name(&other), std::fs::read(&other).map_err(unreadable)?));
        }
    }
    Ok(files)
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
