//! `match`: from files to a verified camera, without browser or database.

use crate::following::FollowArgs;
use crate::package::{Stages, put, round, write};
use crate::{Failure, lens, told, values};
use clap::{ArgGroup, Args};
use parallax_core::camera::{Intrinsics, Similarity};
use parallax_core::lens::Distortion;
use parallax_core::lens::correct::solve_with_lens;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::solve::{Attempt, FocalKnowledge, SolveOptions, solve};
use parallax_core::spaces::FrameNumber;
use parallax_core::track::{FrameSource, Track, judge};
use parallax_formats::delivery::Delivery;
use parallax_formats::{receipt, tracks_csv};
use parallax_media::{Plate, Sequence};
use serde_json::{Value, json};
use std::collections::HashSet;
use std::path::{Path, PathBuf};

/// What to match, what is known, where to write.
#[derive(Args)]
#[command(group(ArgGroup::new("focal").args(["focal_mm", "focal_px"])))]
#[command(group(ArgGroup::new("terms").args(["lens", "lens_file", "solve_lens"])))]
pub struct MatchArgs {
    /// Folder with the numbered pictures.
    plate_dir: PathBuf,
    /// Pictures per second, an exact fraction such as 24000/1001.
    #[arg(long)]
    rate: FrameRate,
    /// Film back in mm, such as 36x20.25; 36 mm wide is assumed when it is left out.
    #[arg(long, value_parser = values::film_back)]
    film_back: Option<FilmBack>,
    /// Focal length in mm, if known.
    #[arg(long)]
    focal_mm: Option<f64>,
    /// Focal length in px, if known.
    #[arg(long)]
    focal_px: Option<f64>,
    /// Lens terms, such as k1=-0.1,k2=0.02.
    #[arg(long, value_parser = values::distortion, allow_hyphen_values = true)]
    lens: Option<Distortion>,
    /// A lens file, such as `lens` writes; its terms are restated for the focal length that is found.
    #[arg(long)]
    lens_file: Option<PathBuf>,
    /// Solve two radial lens terms along with the camera.
    #[arg(long)]
    solve_lens: bool,
    /// Solve from these tracks instead of following features.
    #[arg(long)]
    tracks: Option<PathBuf>,
    #[command(flatten)]
    receiver: values::ReceiverArgs,
    /// Folder to write into; made if it is not there.
    #[arg(long)]
    out: PathBuf,
    #[command(flatten)]
    follow: FollowArgs,
    /// Tracks keyed by hand, as JSON; `--hand` is the receiver's.
    #[arg(long)]
    hand_tracks: Option<PathBuf>,
    /// Drop features whose residual exceeds this, px.
    #[arg(long)]
    limit_px: Option<f64>,
}

/// Runs the command.
pub fn run(args: MatchArgs) -> Result<(), Failure> {
    let mut stages = Stages::begun();
    args.follow.check()?;
    check_focal(&args)?;
    let (sequence, plate) = args.follow.open(&args.plate_dir, args.rate)?;
    stages.done("open");
    let film_back = args
        .film_back
        .unwrap_or_else(|| FilmBack::assumed(plate.width_px, plate.height_px));
    let solve_options = solve_options(&args, &plate, film_back);
    let known_lens = args
        .lens_file
        .as_deref()
        .map(|f| lens::read_for(f, &plate))
        .transpose()?;
    let progress = told::Lines::new();
    let tracks = match &args.tracks {
        Some(file) => read_tracks(file, &plate)?,
        None => {
            args.follow
                .follow(&plate, args.hand_tracks.as_deref(), &progress)?
                .tracks
        }
    };
    stages.done("track");
    let movers: HashSet<_> = if args.tracks.is_some() {
        HashSet::new()
    } else {
        judge::movers(&tracks, plate.width_px, &progress)
            .into_iter()
            .collect()
    };
    let solvable: Vec<Track> = tracks
        .iter()
        .filter(|t| !movers.contains(&t.id))
        .cloned()
        .collect();
    stages.done("judge");
    let solved = match &known_lens {
        Some(lens) => solve_with_lens(&solvable, &solve_options, lens, None, &progress),
        None => solve(&solvable, &solve_options, &progress),
    };
    let attempt = solved.map_err(|e| match e {
        parallax_core::solve::SolveError::OutOfRange { .. } => Failure::usage(e),
        other => Failure::unsolvable(other),
    })?;
    stages.done("solve");
    let mut delivery = Delivery::of_attempt(
        &shot_name(&args.plate_dir),
        args.rate,
        film_back,
        &attempt,
        &Similarity::identity(),
        false,
        &tracks,
    );
    delivery.receiver = args.receiver.receiver();
    let receipt = write(&args.out, &delivery)?;
    stages.done("deliver");
    let report = report(
        &args,
        &sequence,
        &plate,
        &tracks,
        movers.len(),
        &attempt,
        &receipt,
        &stages,
    );
    put(&args.out.join("report.json"), &format!("{report:#}\n"))?;
    println!("{}", summary(&attempt, &receipt, &args.out));
    Ok(())
}

fn shot_name(folder: &Path) -> String {
    folder
        .file_name()
        .map_or_else(|| "shot".to_owned(), |n| n.to_string_lossy().into_owned())
}

fn check_focal(args: &MatchArgs) -> Result<(), Failure> {
    let possible = |f: &f64| f.is_finite() && *f > 0.0;
    if [args.focal_mm, args.focal_px]
        .iter()
        .flatten()
        .all(possible)
    {
        Ok(())
    } else {
        Err(Failure::usage("the focal length has to be greater than 0"))
    }
}

fn solve_options(args: &MatchArgs, plate: &Plate, film_back: FilmBack) -> SolveOptions {
    let focal = match (args.focal_px, args.focal_mm) {
        (Some(px), _) => FocalKnowledge::Known(px),
        (None, Some(mm)) => FocalKnowledge::Known(film_back.focal_px(mm, plate.width_px)),
        (None, None) => FocalKnowledge::Unknown,
    };
    let distortion = args.lens.unwrap_or(Distortion::NONE);
    let lens = Intrinsics {
        distortion,
        ..Intrinsics::centred(plate.width_px, plate.height_px, 1.0)
    };
    SolveOptions {
        lens,
        focal,
        solve_lens: args.solve_lens,
        limit_px: args.limit_px,
    }
}

fn read_tracks(file: &Path, plate: &Plate) -> Result<Vec<Track>, Failure> {
    let text = std::fs::read_to_string(file).map_err(|e| {
        Failure::unreadable(format!(
            "the track file {} cannot be read: {e}",
            file.display()
        ))
    })?;
    let tracks = tracks_csv::read(&text).map_err(Failure::unreadable)?.tracks;
    let known: HashSet<FrameNumber> = plate.frames().iter().copied().collect();
    let stray = tracks
        .iter()
        .flat_map(|t| &t.samples)
        .find(|s| !known.contains(&s.frame));
    match stray {
        Some(s) => Err(Failure::unreadable(format!(
            "the track file has positions on frame {}, which the plate does not have",
            s.frame
        ))),
        None => Ok(tracks),
    }
}

#[allow(clippy::too_many_arguments)]
fn report(
    args: &MatchArgs,
    sequence: &Sequence,
    plate: &Plate,
    tracks: &[Track],
    movers: usize,
    attempt: &Attempt,
    receipt: &receipt::Receipt,
    stages: &Stages,
) -> Value {
    let lens = &attempt.lens;
    json!({
        "plate": {
            "pattern": sequence.pattern(), "frames": plate.frames().len(),
            "first": plate.frames().first().map(|f| f.0), "last": plate.frames().last().map(|f| f.0),
            "width": plate.width_px, "height": plate.height_px, "rate": args.rate.to_string(),
        },
        "seconds": stages.as_json(),
        "tracks": {
            "count": tracks.len(),
            "positions": tracks.iter().map(|t| t.samples.len()).sum::<usize>(),
            "movers": movers,
        },
        "solve": {
            "verdict": attempt.verdict,
            "rms_px": attempt.rms_px,
            "frames": attempt.frames.len(),
            "landmarks": attempt.landmarks.len(),
            "positions": attempt.positions,
            "set_aside": attempt.set_aside.len() + movers,
            "focal_px": lens.focal_px,
            "focal_sigma_px": attempt.focal_sigma_px,
            "distortion": lens.distortion,
            "radial_sigma": attempt.radial_sigma,
            "lens_suspicion": attempt.lens_suspicion,
            "parallax_deg": attempt.parallax_deg,
            "started_from": [attempt.started_from.0.0, attempt.started_from.1.0],
        },
        "receipt": { "proven": receipt.proven, "largest_difference_px": receipt.largest_difference_px },
        "peak_memory_bytes": told::peak_memory_bytes(),
    })
}

fn summary(attempt: &Attempt, receipt: &receipt::Receipt, out: &Path) -> Value {
    json!({
        "status": "done",
        "verdict": attempt.verdict,
        "rms_px": round(attempt.rms_px, 4),
        "frames": attempt.frames.len(),
        "landmarks": attempt.landmarks.len(),
        "lens_suspected": attempt.lens_suspicion.is_some(),
        "focal_px": round(attempt.lens.focal_px, 3),
        "receipt_px": receipt.largest_difference_px,
        "out": out.display().to_string(),
    })
}
