//! `extract`: a plate out of a movie, as numbered pictures without loss.

use crate::{Failure, told};
use clap::Args;
use parallax_media::Movie;
use serde_json::json;
use std::path::PathBuf;

/// What to take out and where to.
#[derive(Args)]
pub struct ExtractArgs {
    /// The movie.
    movie: PathBuf,
    /// A new folder for the pictures, 000001.png and so on.
    #[arg(long)]
    out: PathBuf,
}

/// Runs the command.
pub fn run(args: ExtractArgs) -> Result<(), Failure> {
    if args.out.exists() {
        return Err(Failure::usage(format!(
            "{} is there already; name a new folder",
            args.out.display()
        )));
    }
    let movie = Movie::open(&args.movie).map_err(Failure::unreadable)?;
    movie
        .extract(&args.out, &told::Lines::new())
        .map_err(Failure::unreadable)?;
    let f = &movie.facts;
    let summary = json!({
        "status": "done", "frames": f.count, "rate": f.rate, "width": f.width, "height": f.height, "bits": f.bits,
        "out": args.out.display().to_string(),
    });
    println!("{summary}");
    Ok(())
}
