//! `probe`: what a plate holds, as JSON.

use crate::Failure;
use clap::Args;
use parallax_core::photo::stated::weigh;
use parallax_media::{Plate, Sequence, exif, picture};
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

/// What to look at.
#[derive(Args)]
pub struct ProbeArgs {
    /// A folder with pictures, or one picture.
    path: PathBuf,
}

/// Runs the command.
pub fn run(args: ProbeArgs) -> Result<(), Failure> {
    let told = if args.path.is_dir() { folder(&args.path)? } else { one(&args.path)? };
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
        "alpha": coding.has_alpha, "others": sequence.others, "rate": null,
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
