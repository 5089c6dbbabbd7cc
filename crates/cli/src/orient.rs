//! `orient`: puts a solved world where statements have it.

use crate::Failure;
use crate::package::{put, round};
use crate::reopened::{CameraArgs, text_of};
use clap::Args;
use parallax_core::camera::Similarity;
use parallax_core::orient::propose::edges::pictured;
use parallax_core::orient::{
    Evidence, Off, Orientation, Proposal, Solved, Stated, Together, orient, propose,
};
use parallax_core::spaces::FrameNumber;
use parallax_formats::camera_json;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::statements_json;
use parallax_matching::reopening::Reopened;
use parallax_media::Plate;
use serde_json::{Value, json};
use std::path::{Path, PathBuf};

/// A solved camera and what is stated about its world.
#[derive(Args)]
pub struct OrientArgs {
    #[command(flatten)]
    what: CameraArgs,
    /// Facts about the world, `true-parallax/statements@1`.
    #[arg(required_unless_present = "propose")]
    statements: Option<PathBuf>,
    /// Also take what landmarks and, with `--plate`, straight edges of the pictures show for certain about ground, walls
    /// and directions, as far as it contradicts nothing that is stated.
    #[arg(long)]
    propose: bool,
    /// Folder of the plate, for its edges.
    #[arg(long, requires = "propose")]
    plate: Option<PathBuf>,
    /// Where `camera.json` in the new world and `orientation.json` are written.
    #[arg(long)]
    out: PathBuf,
}

/// Runs the command.
pub fn run(args: OrientArgs) -> Result<(), Failure> {
    let (text, file, reopened) = args.what.read()?;
    let statements = match &args.statements {
        Some(path) => statements_json::read(&text_of(path)?)
            .map_err(|e| Failure::unreadable(format!("{}: {e}", path.display())))?,
        None => Vec::new(),
    };
    let (stated, lacking) = reopened.stated(&statements);
    let information = reopened.information();
    let together = information.as_ref().map(|i| i as &dyn Together);
    let solved = reopened.solved(together);
    let proposed = match args.propose {
        true => proposed(&solved, &stated, args.plate.as_deref())?,
        false => Vec::new(),
    };
    let taken = proposed.iter().map(|(id, p)| (*id, p.stated())).collect();
    let all = [stated, taken].concat();
    let found = orient(&solved, &all);
    std::fs::create_dir_all(&args.out)
        .map_err(|e| Failure::unreadable(format!("{} cannot be made: {e}", args.out.display())))?;
    let moved = moved(&text, &file, &reopened, &found)?;
    put(&args.out.join("camera.json"), &format!("{moved:#}\n"))?;
    let mut report = report(&found, &lacking, together.is_some());
    if args.propose {
        report["proposed"] = proposed.iter().map(|p| told(p, &reopened)).collect();
    }
    put(&args.out.join("orientation.json"), &format!("{report:#}\n"))?;
    println!("{report:#}");
    if !found.levelled && !found.scaled && !found.headed {
        return Err(Failure::unsolvable(
            "nothing that was stated or is certain says where the world lies; the camera is as it was",
        ));
    }
    Ok(())
}

/// What the solve and its pictures show for certain beside what is stated, numbered on.
fn proposed(
    solved: &Solved<'_>,
    stated: &[Stated],
    plate: Option<&Path>,
) -> Result<Vec<(u32, Proposal)>, Failure> {
    let edges = match plate {
        Some(folder) => {
            let (_, plate) = Plate::in_folder(folder, true).map_err(Failure::unreadable)?;
            pictured(solved, &plate).map_err(Failure::unreadable)?
        }
        None => Vec::new(),
    };
    let first = 1 + stated.iter().map(|s| s.0).max().unwrap_or(0);
    let all = propose(solved, &edges, stated).into_iter();
    Ok((first..).zip(all.filter(|p| p.sure)).collect())
}

fn told((id, proposal): &(u32, Proposal), reopened: &Reopened) -> Value {
    let fact = (proposal.fact).named(|track| reopened.name(*track).ok_or(()));
    let evidence = match proposal.evidence {
        Evidence::Landmarks {
            features,
            share,
            rough_share,
        } => json!({ "landmarks": features, "share": round(share, 4), "rough_share": rough_share }),
        Evidence::Edges { edges, share } => json!({ "edges": edges, "share": round(share, 4) }),
    };
    let mut told = json!(fact.ok());
    told["id"] = json!(id);
    told["evidence"] = evidence;
    told
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
