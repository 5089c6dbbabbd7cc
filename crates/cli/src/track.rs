//! `track`: features followed through a plate, as open text, without solving anything.

use crate::following::{FollowArgs, failure};
use crate::package::{Stages, put, round};
use crate::{Failure, told};
use clap::Args;
use parallax_core::plate::FrameRate;
use parallax_core::track::FrameSource;
use parallax_core::tracks::Track;
use parallax_formats::tracks_csv;
use parallax_matching::choosing::Choices;
use parallax_matching::following::judged;
use serde_json::{Value, json};
use std::path::PathBuf;

/// What to follow, how, where to write.
#[derive(Args)]
pub struct TrackArgs {
    /// Folder with the numbered pictures.
    plate_dir: PathBuf,
    /// Pictures per second, an exact fraction such as 24000/1001.
    #[arg(long)]
    rate: FrameRate,
    #[command(flatten)]
    follow: FollowArgs,
    /// Tracks keyed by hand, as JSON.
    #[arg(long)]
    hand: Option<PathBuf>,
    /// Folder to write into; made if it is not there.
    #[arg(long)]
    out: PathBuf,
}

/// Runs the command.
pub fn run(args: TrackArgs) -> Result<(), Failure> {
    let mut stages = Stages::begun();
    args.follow.check()?;
    let (sequence, plate) = args.follow.open(&args.plate_dir, args.rate)?;
    stages.done("open");
    let progress = told::Lines::new();
    let followed = args
        .follow
        .follow(&plate, args.hand.as_deref(), &progress)?;
    stages.done("track");
    let tracks = &followed.tracks;
    let size = (plate.width_px, plate.height_px);
    let suspects = judged(tracks, size, &progress).map_err(failure)?;
    stages.done("judge");
    let out = Choices::default().set_aside(tracks, &suspects);
    let (aside, kept): (Vec<Track>, Vec<Track>) =
        tracks.iter().cloned().partition(|t| out.contains(&t.id));
    let csv = |tracks: &[Track]| {
        let called: Vec<_> = tracks.iter().map(|t| followed.called()(t.id)).collect();
        tracks_csv::write(tracks.iter().zip(&called)).map_err(Failure::unreadable)
    };
    std::fs::create_dir_all(&args.out)
        .map_err(|e| Failure::unreadable(format!("{} cannot be made: {e}", args.out.display())))?;
    put(&args.out.join("tracks.csv"), &csv(&kept)?)?;
    put(&args.out.join("set-aside.csv"), &csv(&aside)?)?;
    stages.done("write");
    let report = json!({
        "plate": {
            "pattern": sequence.pattern(), "frames": plate.frames().len(),
            "first": plate.frames().first().map(|f| f.0), "last": plate.frames().last().map(|f| f.0),
            "width": plate.width_px, "height": plate.height_px, "rate": args.rate.to_string(),
        },
        "options": args.follow.options(&plate),
        "tracks": figures(&kept),
        "set_aside": aside.len(),
        "suspects": suspects,
        "seconds": stages.as_json(),
        "peak_memory_bytes": told::peak_memory_bytes(),
    });
    put(&args.out.join("report.json"), &format!("{report:#}\n"))?;
    println!(
        "{}",
        json!({ "status": "done", "tracks": kept.len(), "set_aside": aside.len(), "out": args.out.display().to_string() })
    );
    Ok(())
}

/// How many, how long they live and how certain they are.
fn figures(tracks: &[Track]) -> Value {
    let lives: Vec<usize> = tracks.iter().map(|t| t.samples.len()).collect();
    let mut sigmas: Vec<f64> = tracks
        .iter()
        .flat_map(|t| t.samples.iter().map(|s| s.covariance.sigma_px()))
        .collect();
    sigmas.sort_by(f64::total_cmp);
    let mean_life = lives.iter().sum::<usize>() as f64 / lives.len().max(1) as f64;
    json!({
        "count": tracks.len(),
        "positions": sigmas.len(),
        "mean_life_frames": round(mean_life, 2),
        "median_sigma_px": sigmas.get(sigmas.len() / 2).map(|s| round(*s, 4)),
    })
}
