//! `probe`: what a plate holds, as JSON.

use crate::Failure;
use clap::Args;
use parallax_core::photo::stated::weigh;
use parallax_media::movie::is_movie;
use parallax_media::{Movie, Plate, Sequence, exif, picture, stated_rate};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

/// What to look at.
#[derive(Args)]
pub struct ProbeArgs {
    /// A folder with pictures, a movie, or one picture.
    path: PathBuf,
}

/// Runs the command.
pub fn run(args: ProbeArgs) -> Result<(), Failure> {
    let told = match args.path.as_path() {
        path if path.is_dir() => folder(path)?,
        path if is_movie(path) => movie(path)?,
        path => one(path)?,
    };
    println!("{told}");
    Ok(())
}

fn folder(path: &Path) -> Result<Value, Failure> {
    let sequence = Sequence::find(path).map_err(Failure::unreadable)?;
    if let [(_, file)] = &sequence.files[..] {
        return one(file);
    }
    let plate = Plate::open(&sequence).map_err(Failure::unreadable)?;
    let (first, last) = sequence.range();
    let coding = picture::coding(&sequence.files[0].1).map_err(Failure::unreadable)?;
    Ok(json!({
        "kind": "sequence", "pattern": sequence.pattern(), "padding": sequence.padding,
        "first": first.0, "last": last.0, "count": sequence.files.len(), "gaps": sequence.gaps(),
        "width": plate.width_px, "height": plate.height_px, "bits": coding.bits, "float": coding.is_float,
        "alpha": coding.has_alpha, "others": sequence.others,
        "rate": stated_rate::of_sequence(&sequence),
    }))
}

fn movie(path: &Path) -> Result<Value, Failure> {
    let facts = Movie::open(path).map_err(Failure::unreadable)?.facts;
    Ok(json!({
        "kind": "movie", "pattern": facts.file, "codec": facts.codec, "first": 1, "last": facts.count,
        "count": facts.count, "width": facts.width, "height": facts.height, "bits": facts.bits, "rate": facts.rate,
        "timecode": facts.timecode, "interlaced": facts.interlaced,
    }))
}

fn one(path: &Path) -> Result<Value, Failure> {
    let (width, height) = picture::size(path).map_err(Failure::unreadable)?;
    let coding = picture::coding(path).map_err(Failure::unreadable)?;
    let stated = exif::stated(path);
    let (offer, said) = weigh(&stated, width, height);
    Ok(json!({
        "kind": "photograph", "pattern": path.file_name().map(|n| n.to_string_lossy()),
        "width": width, "height": height, "bits": coding.bits, "float": coding.is_float, "alpha": coding.has_alpha,
        "stated": stated, "offer": offer, "findings": said.iter().map(ToString::to_string).collect::<Vec<_>>(),
    }))
}
