//! `deliver`: a solved camera by recipes, with guests where they are named.

use crate::Failure;
use crate::guests::GuestArgs;
use crate::recipes::{RecipeArgs, Written, deliver};
use crate::reopened::CameraArgs;
use clap::Args;
use parallax_formats::delivery::Delivered;
use parallax_matching::delivering::{By, proven};
use parallax_media::Plate;
use serde_json::{Value, json};
use std::collections::BTreeMap;
use std::path::PathBuf;

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
    let pictures: BTreeMap<_, _> = match &args.plate {
        Some(folder) => {
            let (sequence, _) = Plate::in_folder(folder, true).map_err(Failure::unreadable)?;
            sequence.files.into_iter().collect()
        }
        None => BTreeMap::new(),
    };
    let name = args.name.clone().unwrap_or_else(|| {
        let folder = args.camera.camera.canonicalize().ok();
        let folder = folder.as_deref().and_then(|f| f.parent()?.file_name());
        folder.map_or_else(|| "shot".to_owned(), |n| n.to_string_lossy().into_owned())
    });
    let make = |by: &By<'_>| {
        let first = reopened.cameras.first();
        let asked = first.and_then(|c| by.recipe.renumbered_by(c.frame));
        let renumbered_by = asked.unwrap_or(0);
        let numbered = reopened.clone().renumbered(renumbered_by);
        let mut everything = numbered.delivery(&file, &name);
        everything.guests.clone_from(&guests);
        proven(&by.applied(everything, renumbered_by)?)
    };
    let written = deliver(&args.out, &recipes, (&name, &pictures), make)?;
    let report: Vec<Value> = written.iter().map(Written::report).collect();
    println!("{:#}", json!({ "shot": name, "deliveries": report }));
    Ok(())
}
