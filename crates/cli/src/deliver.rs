//! `deliver`: a solved camera by recipes, with guests where they are named.

use crate::Failure;
use crate::guests::GuestArgs;
use crate::recipes::{About, PlateOf, RecipeArgs, Written, deliver};
use crate::reopened::{CameraArgs, text_of};
use clap::Args;
use parallax_core::orient::orient;
use parallax_core::spaces::FrameNumber;
use parallax_formats::delivery::{Camera, Delivered, Delivery};
use parallax_formats::plate_lens::PlateLens;
use parallax_formats::statements_json;
use parallax_matching::delivering::{By, proven, undistorts};
use parallax_matching::in_scene;
use parallax_matching::reopening::Reopened;
use parallax_media::Plate;
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::path::{Path, PathBuf};

/// A solved camera and what is made of it.
#[derive(Args)]
pub struct DeliverArgs {
    #[command(flatten)]
    camera: CameraArgs,
    #[command(flatten)]
    recipes: RecipeArgs,
    #[command(flatten)]
    guests: GuestArgs,
    /// Folder with the numbered pictures: colours of landmarks are read from it, and files name it.
    #[arg(long)]
    plate: Option<PathBuf>,
    /// Facts about the world, `true-parallax/statements@1`: planes that they state go in as the set.
    #[arg(long)]
    statements: Option<PathBuf>,
    /// What the shot is called; as the folder of the camera file where left out.
    #[arg(long)]
    name: Option<String>,
    /// Folder in which each delivery gets one of its own.
    #[arg(long)]
    out: PathBuf,
}

/// Runs the command.
pub fn run(args: DeliverArgs) -> Result<(), Failure> {
    let recipes = args.recipes.read()?;
    if recipes.is_empty() {
        return Err(Failure::usage("state at least one --recipe"));
    }
    let (_, file, reopened) = args.camera.read()?;
    let guests: Vec<Delivered> = args
        .guests
        .standing(&file)?
        .into_iter()
        .filter_map(|s| {
            let there = s.placed(0.0)?;
            Some(Delivered::still(
                s.guest.name.clone(),
                s.surface.mesh.clone(),
                there,
            ))
        })
        .collect();
    let set = match &args.statements {
        Some(path) => set_of(&reopened, path)?,
        None => Vec::new(),
    };
    let found = match &args.plate {
        Some(folder) => Some(Plate::in_folder(folder, true).map_err(Failure::unreadable)?),
        None => None,
    };
    let files = found.iter().flat_map(|(sequence, _)| &sequence.files);
    let pictures: BTreeMap<_, _> = files.cloned().collect();
    let name = args.name.clone().unwrap_or_else(|| {
        let folder = args.camera.camera.canonicalize().ok();
        let folder = folder.as_deref().and_then(|f| f.parent()?.file_name());
        folder.map_or_else(|| "shot".to_owned(), |n| n.to_string_lossy().into_owned())
    });
    let first = reopened.cameras.first().map_or(FrameNumber(0), |c| c.frame);
    let make = |by: &By<'_>| {
        let renumbered_by = by.recipe.renumbered_by(first).unwrap_or(0);
        let numbered = reopened.clone().renumbered(renumbered_by);
        let mut everything = numbered.delivery(&file, &name);
        everything.guests.clone_from(&guests);
        everything.set.clone_from(&set);
        proven(&by.applied(everything, renumbered_by)?)
    };
    let whole = reopened.delivery(&file, &name);
    let plate = match &found {
        None => Err("state --plate".to_owned()),
        Some((sequence, plate)) => undistorts(Some(plate_lens(&whole))).map(|lens| PlateOf {
            sequence,
            plate,
            lens,
            rate: file.fps,
        }),
    };
    let about = About {
        name: &name,
        pictures: &pictures,
        first,
        plate,
    };
    let written = deliver(&args.out, &recipes, &about, make)?;
    let report: Vec<Value> = written.iter().map(Written::report).collect();
    println!("{:#}", json!({ "shot": name, "deliveries": report }));
    Ok(())
}

/// Stated planes as they stand in the world of the camera file, wherever statements would put that.
fn set_of(reopened: &Reopened, path: &Path) -> Result<Vec<Delivered>, Failure> {
    let statements = statements_json::read(&text_of(path)?)
        .map_err(|e| Failure::unreadable(format!("{}: {e}", path.display())))?;
    let (stated, _) = reopened.stated(&statements);
    let found = orient(&reopened.solved(None), &stated);
    let landmark = |track| {
        let own = reopened.landmarks.iter().find(|l| l.0 == track)?;
        Some(found.change.point(&own.1))
    };
    let back = found.change.inverse();
    let mut set = in_scene::set(&found, &stated, landmark);
    for plane in &mut set {
        plane.there = plane.there.then(&back);
    }
    Ok(set)
}

/// The lens of a delivery, on each frame where it zooms.
fn plate_lens(delivery: &Delivery<'_>) -> PlateLens {
    let lens_of = |c: &Camera| (c.frame, delivery.lens_of(c));
    let along: Vec<_> = match delivery.zooms() {
        true => delivery.cameras.iter().map(lens_of).collect(),
        false => Vec::new(),
    };
    PlateLens {
        lens: delivery
            .cameras
            .first()
            .map_or(delivery.lens, |c| lens_of(c).1),
        along,
    }
}
