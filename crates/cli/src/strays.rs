//! `strays`: how far tracks of a rendered plate are from where the true camera sees their points.

use crate::Failure;
use crate::package::{put, round};
use crate::render::TakeArgs;
use clap::Args;
use nalgebra::Vector2;
use parallax_core::tracks::{Covariance, Track};
use parallax_demo::features::{self, Seen};
use parallax_formats::tracks_reader;
use serde_json::{Value, json};
use std::fmt::Write;
use std::path::PathBuf;

/// A take and tracks in it.
#[derive(Args)]
pub struct StraysArgs {
    #[command(flatten)]
    what: TakeArgs,
    /// The tracks, such as `track` writes.
    #[arg(long)]
    tracks: PathBuf,
    /// Also write every offset, as comma-separated text.
    #[arg(long)]
    each: Option<PathBuf>,
}

/// Runs the command.
pub fn run(args: StraysArgs) -> Result<(), Failure> {
    let take = args.what.take()?;
    let text = std::fs::read_to_string(&args.tracks).map_err(Failure::unreadable)?;
    let tracks = tracks_reader::read_csv(&text)
        .map_err(Failure::unreadable)?
        .tracks;
    let (mut standing, mut moving) = (Vec::new(), Vec::new());
    for track in &tracks {
        match features::seen(&take, track) {
            Seen::Standing(strays) => standing.push((track, strays)),
            Seen::Moving => moving.push(json!([track.id.0, track.samples.len()])),
            Seen::Sky => {}
        }
    }
    if let Some(file) = &args.each {
        put(file, &each(&standing))?;
    }
    let at = |frames: usize| distances(&standing, |n| n == frames);
    let report = json!({
        "tracks": tracks.len(),
        "on_movers": moving.len(),
        "on_movers_with_their_lives": moving,
        "mean_life_frames": round(tracks.iter().map(|t| t.samples.len()).sum::<usize>() as f64 / tracks.len().max(1) as f64, 2),
        "after_10_frames_px": at(10),
        "after_30_frames_px": at(30),
        "anywhere_px": distances(&standing, |n| n > 0),
        "errors_over_sigma": normalised(&standing),
    });
    println!("{report:#}");
    Ok(())
}

type Strays<'a> = [(&'a Track, Vec<(usize, Vector2<f64>)>)];

fn each(all: &Strays<'_>) -> String {
    let mut text = "track,frame,since_first,off_x,off_y,sigma_x,sigma_y\n".to_owned();
    for (track, strays) in all {
        for ((since, off), s) in strays.iter().zip(&track.samples) {
            let Covariance { xx, yy, .. } = s.covariance;
            // Writing to a text cannot fail.
            let _ = writeln!(
                text,
                "{},{},{since},{:.4},{:.4},{:.4},{:.4}",
                track.id,
                s.frame,
                off.x,
                off.y,
                xx.sqrt(),
                yy.sqrt()
            );
        }
    }
    text
}

/// Median, 95th and 99th percentile of how far off features are that many frames after their first.
fn distances(all: &Strays<'_>, wanted: impl Fn(usize) -> bool) -> Value {
    let mut off: Vec<f64> = all
        .iter()
        .flat_map(|(_, s)| s.iter().filter(|(n, _)| wanted(*n)).map(|(_, o)| o.norm()))
        .collect();
    off.sort_by(f64::total_cmp);
    let share = |s: f64| {
        off.get((s * off.len() as f64) as usize)
            .map(|v| round(*v, 4))
    };
    json!({ "count": off.len(), "median": share(0.5), "p95": share(0.95), "p99": share(0.99) })
}

/// Errors in units of what is stated: root mean square, and from the median (1.0 when honest).
fn normalised(all: &Strays<'_>) -> Value {
    let mut squares: Vec<f64> = Vec::new();
    for (track, strays) in all {
        for ((frames, off), sample) in strays.iter().zip(&track.samples) {
            if *frames > 0 {
                let Covariance { xx, yy, .. } = sample.covariance;
                squares.push((off.x * off.x / xx + off.y * off.y / yy) / 2.0);
            }
        }
    }
    squares.sort_by(f64::total_cmp);
    let kept = squares.len() * 99 / 100;
    let mean = squares.iter().take(kept).sum::<f64>() / kept.max(1) as f64;
    // Half the sum of two squared normals has the median ln 2.
    let median = squares
        .get(squares.len() / 2)
        .map(|m| round((m / std::f64::consts::LN_2).sqrt(), 3));
    json!({ "rms_of_best_99_percent": round(mean.sqrt(), 3), "from_median": median })
}
