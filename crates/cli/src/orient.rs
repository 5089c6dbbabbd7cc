//! `orient`: puts a solved world where statements have it.

use crate::Failure;
use crate::package::{put, round};
use crate::reopened::{CameraArgs, text_of};
use clap::Args;
use parallax_core::camera::Similarity;
use parallax_core::orient::{Off, Orientation, Together, orient};
use parallax_core::spaces::FrameNumber;
use parallax_formats::camera_json;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::statements_json;
use parallax_matching::reopening::Reopened;
use serde_json::{Value, json};
use std::path::PathBuf;

/// A solved camera and what is stated about its world.
#[derive(Args)]
pub struct OrientArgs {
    #[command(flatten)]
    what: CameraArgs,
    /// Facts about the world, `true-parallax/statements@1`.
    statements: PathBuf,
    /// Where `camera.json` in the new world and `orientation.json` are written.
    #[arg(long)]
    out: PathBuf,
}

/// Runs the command.
pub fn run(args: OrientArgs) -> Result<(), Failure> {
    let (text, file, reopened) = args.what.read()?;
    let statements = statements_json::read(&text_of(&args.statements)?)
        .map_err(|e| Failure::unreadable(format!("{}: {e}", args.statements.display())))?;
    let (stated, lacking) = reopened.stated(&statements);
    let information = reopened.information();
    let together = information.as_ref().map(|i| i as &dyn Together);
    let found = orient(&reopened.solved(together), &stated);
    std::fs::create_dir_all(&args.out)
        .map_err(|e| Failure::unreadable(format!("{} cannot be made: {e}", args.out.display())))?;
    let moved = moved(&text, &file, &reopened, &found)?;
    put(&args.out.join("camera.json"), &format!("{moved:#}\n"))?;
    let report = report(&found, &lacking, together.is_some());
    put(&args.out.join("orientation.json"), &format!("{report:#}\n"))?;
    println!("{report:#}");
    if !found.levelled && !found.scaled && !found.headed {
        return Err(Failure::unsolvable(
            "nothing that was stated says where the world lies; the camera is as it was",
        ));
    }
    Ok(())
}

/// The camera file in the new world: cameras, points and the unit are those of it, all else as it was.
fn moved(
    text: &str,
    file: &CameraFile,
    reopened: &Reopened,
    found: &Orientation,
) -> Result<Value, Failure> {
    let mut all: Value = serde_json::from_str(text).map_err(Failure::unreadable)?;
    let change: &Similarity = &found.change;
    let poses: Vec<Value> = file
        .frames
        .iter()
        .filter_map(|f| file.pose(f))
        .map(|pose| {
            let matrix = file.axes.world_from_camera(&change.pose(&pose));
            json!(matrix.transpose().iter().copied().collect::<Vec<f64>>())
        })
        .collect();
    if let Some(frames) = all["frames"].as_array_mut() {
        for (frame, matrix) in frames.iter_mut().zip(poses) {
            frame["world_from_camera"] = matrix;
        }
    }
    if let Some(points) = all["points"].as_array_mut() {
        for (entry, point) in points.iter_mut().zip(&file.points) {
            let at = change.point(&file.point(point));
            entry["xyz"] = json!(file.axes.point(&at));
            let own = reopened.landmarks.iter();
            let own = own.filter(|l| l.1 == file.point(point));
            let sigma = own.filter_map(|l| l.2).next();
            entry["sigma"] = json!(sigma.map(|c| file.axes.sigma(c.in_world(change).sigma())));
        }
    }
    if !file.bodies.is_empty() {
        let frames: Vec<FrameNumber> = file.frames.iter().map(|f| FrameNumber(f.frame)).collect();
        let bodies = reopened.delivery(file, "").bodies;
        let bodies: Vec<_> = bodies.iter().map(|b| b.changed(change)).collect();
        let written = camera_json::bodies(file.axes, &frames, &bodies);
        all["bodies"] = written.map_err(Failure::unreadable)?;
    }
    all["levelled"] = json!(file.levelled.unwrap_or(false) || found.levelled);
    if found.scaled {
        all["metres_per_unit"] = json!(file.axes.per_metre().recip());
    }
    Ok(all)
}

fn report(found: &Orientation, lacking: &[(u32, String)], together: bool) -> Value {
    let statement = |m: &parallax_core::orient::Miss| {
        let (unit, off) = match &m.off {
            Off::Flat(rms, _) => (if found.scaled { "m" } else { "units" }, json!(rms)),
            Off::Length(off) => (if found.scaled { "m" } else { "units" }, json!(off)),
            Off::Degrees(degrees) => ("degrees", json!(degrees)),
            Off::Exact => ("", Value::Null),
            Off::Unused(why) => ("", json!(why.to_string())),
        };
        let heard = !matches!(m.off, Off::Unused(_));
        json!({
            "id": m.id, "heard": heard, "off": off, "unit": unit,
            "standard_errors": round(m.errors, 3), "contradicts": m.contradicts,
        })
    };
    let lacking: Vec<Value> = lacking
        .iter()
        .map(|(id, name)| json!({ "id": id, "heard": false, "off": format!("{name} is not solved in this camera") }))
        .collect();
    let misses = found.misses.iter().map(statement);
    json!({
        "levelled": found.levelled, "headed": found.headed, "scaled": found.scaled,
        "ground": found.ground,
        "up_sigma_deg": found.up_sigma_deg, "heading_sigma_deg": found.heading_sigma_deg,
        "scale_sigma_percent": found.scale_share_sigma.map(|s| 100.0 * s),
        "errors_from": if together { "all tracks together" } else { "each point by itself" },
        "change": {
            "scale": found.change.scale,
            "rotation_wxyz": [found.change.rotation.w, found.change.rotation.i, found.change.rotation.j, found.change.rotation.k],
            "translation": <[f64; 3]>::from(found.change.translation),
        },
        "statements": misses.chain(lacking).collect::<Vec<_>>(),
    })
}
