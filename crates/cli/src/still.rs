//! `still`: the camera of one photograph from rails.

use crate::package::{Stages, put, round, write};
use crate::recipes::{About, RecipeArgs, Written, deliver};
use crate::values::ReceiverArgs;
use crate::{Failure, told};
use clap::Args;
use parallax_core::lens::maps::Keep;
use parallax_core::photo::perspective::Perspective;
use parallax_core::photo::{PhotoError, PhotoFinding, Placed, findings, place, solve};
use parallax_core::plate::FrameRate;
use parallax_core::spaces::FrameNumber;
use parallax_formats::delivery::{self, CameraStanding, Delivery};
use parallax_formats::photo_json::PhotoFile;
use parallax_formats::receipt::Receipt;
use parallax_matching::delivering::{By, proven};
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::path::PathBuf;

/// What to solve and where to write.
#[derive(Args)]
pub struct StillArgs {
    /// Picture size, rails, origin and known length as JSON (see docs/api.md).
    photo: PathBuf,
    /// Folder for camera.json, scene.usda, receipt.json and report.json.
    #[arg(long)]
    out: PathBuf,
    #[command(flatten)]
    receiver: ReceiverArgs,
    #[command(flatten)]
    recipes: RecipeArgs,
}

/// Runs the command.
pub fn run(args: StillArgs) -> Result<(), Failure> {
    let mut stages = Stages::begun();
    let recipes = args.recipes.read()?;
    let text = std::fs::read_to_string(&args.photo).map_err(|e| {
        Failure::unreadable(format!("{} cannot be read: {e}", args.photo.display()))
    })?;
    let file = PhotoFile::read(&text).map_err(Failure::unreadable)?;
    let options = file.options();
    let perspective = solve(file.width, file.height, &file.rails, &options).map_err(failure)?;
    let placed = place(&perspective, &file.placement()).map_err(failure)?;
    stages.done("solve");
    let findings = findings::findings(&file.rails, &options, &perspective);
    let name = args
        .photo
        .file_stem()
        .map_or_else(|| "photo".to_owned(), |n| n.to_string_lossy().into_owned());
    let shot = delivery::Shot {
        name,
        rate: FrameRate::STILL,
        film_back: file.film_back(),
        film_back_assumed: file.film_back_mm.is_none(),
        receiver: args.receiver.receiver(),
        shutter_deg: None,
        keep: Keep::All,
    };
    let doubts = findings
        .iter()
        .filter(|f| f.is_doubt())
        .map(PhotoFinding::to_string);
    let standing = CameraStanding::doubted(doubts.collect());
    let everything = || Delivery::of_photograph(&shot, &perspective, &placed, standing.clone());
    let plain = proven(&everything()).map_err(Failure::unreadable)?;
    write(&args.out, &plain)?;
    let make = |by: &By<'_>| {
        let renumbered_by = by.recipe.renumbered_by(FrameNumber(1)).unwrap_or(0);
        let everything = everything().renumbered(renumbered_by);
        proven(&by.applied(everything, renumbered_by)?)
    };
    let about = About {
        name: &shot.name,
        pictures: &BTreeMap::new(),
        first: FrameNumber(1),
        plate: Err("the picture is not at hand here".to_owned()),
    };
    let written = deliver(&args.out, &recipes, &about, make)?;
    let receipt = plain.receipt;
    stages.done("deliver");
    let mut report = report(&file, &perspective, &placed, &findings, &receipt, &stages);
    report["deliveries"] = written.iter().map(Written::report).collect();
    put(&args.out.join("report.json"), &format!("{report:#}\n"))?;
    println!(
        "{}",
        summary(&file, &perspective, &placed, &findings, &receipt, &args.out)
    );
    Ok(())
}

fn failure(error: PhotoError) -> Failure {
    match error {
        PhotoError::OutOfRange { .. } => Failure::usage(error),
        other => Failure::unsolvable(other),
    }
}

fn report(
    file: &PhotoFile,
    perspective: &Perspective,
    placed: &Placed,
    findings: &[PhotoFinding],
    receipt: &Receipt,
    stages: &Stages,
) -> Value {
    let mm = |px: f64| file.film_back().focal_mm(px, file.width);
    let lens = &perspective.lens;
    let (tall, narrow) = (f64::from(lens.height_px), f64::from(lens.width_px));
    json!({
        "picture": { "width": file.width, "height": file.height },
        "film_back_mm": [file.film_back().width_mm, file.film_back().height_mm],
        "film_back_assumed": file.film_back_mm.is_none(),
        "seconds": stages.as_json(),
        "focal_px": perspective.focal_px.value,
        "focal_sigma_px": perspective.focal_px.sigma,
        "focal_mm": mm(perspective.focal_px.value),
        "focal_sigma_mm": mm(perspective.focal_px.sigma),
        "view_deg": { "horizontal": perspective.view_deg.value, "sigma": perspective.view_deg.sigma,
            "vertical": 2.0 * (tall / (2.0 * lens.focal_px)).atan().to_degrees(),
            "diagonal": 2.0 * (tall.hypot(narrow) / (2.0 * lens.focal_px)).atan().to_degrees() },
        "tilt_deg": perspective.tilt_deg,
        "centre_px": [lens.centre.x, lens.centre.y],
        "centre_sigma_px": perspective.centre_sigma_px,
        "rails": file.rails.iter().zip(&perspective.miss_px).enumerate()
            .map(|(i, (r, miss))| json!({ "rail": i + 1, "axis": r.axis, "miss_px": miss })).collect::<Vec<_>>(),
        "rms_px": perspective.rms_px,
        "worst_rail": perspective.worst + 1,
        "end_sigma_px": perspective.end_sigma_px,
        "vanishing": perspective.vanishing,
        "horizon": perspective.horizon,
        "scaled": placed.scaled,
        "camera_height": placed.camera_height,
        "distance_to_origin": placed.distance,
        "scale_share_sigma": placed.scale_share_sigma,
        "findings": findings.iter().map(|f| json!({ "text": f.to_string(), "evidence": f })).collect::<Vec<_>>(),
        "receipt": { "files_agree": receipt.files_agree, "largest_difference_px": receipt.largest_difference_px },
        "peak_memory_bytes": told::peak_memory_bytes(),
    })
}

fn summary(
    file: &PhotoFile,
    perspective: &Perspective,
    placed: &Placed,
    findings: &[PhotoFinding],
    receipt: &Receipt,
    out: &std::path::Path,
) -> Value {
    json!({
        "status": "done",
        "focal_px": round(perspective.focal_px.value, 3),
        "focal_sigma_px": round(perspective.focal_px.sigma, 3),
        "focal_mm": round(file.film_back().focal_mm(perspective.focal_px.value, file.width), 3),
        "tilt_deg": round(perspective.tilt_deg.value, 3),
        "rms_px": round(perspective.rms_px, 3),
        "scaled": placed.scaled,
        "camera_height": round(placed.camera_height, 4),
        "findings": findings.len(),
        "receipt_px": receipt.largest_difference_px,
        "out": out.display().to_string(),
    })
}
