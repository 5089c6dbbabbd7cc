//! Guests as they are named on the command line.

use crate::Failure;
use clap::Args;
use nalgebra::Vector3;
use parallax_core::guest::{Guest, Lie, What, stand_ins};
use parallax_core::render::Traced;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::model;
use parallax_matching::proofing::Standing;
use std::path::Path;
use std::sync::Arc;

/// What is put into the plate, and where.
#[derive(Args)]
pub struct GuestArgs {
    /// A model (.glb, .gltf, .obj, .ply; files that it names are looked for beside it), or a stand-in: box, figure,
    /// cylinder, corner, sphere, plane, checker, text, arrow. Can be given again.
    #[arg(long)]
    guest: Vec<String>,
    /// Where each guest stands, in their order: x,y,z in the axes and units of the file, or the name of a point.
    #[arg(long, allow_hyphen_values = true)]
    at: Vec<String>,
    /// How far each is turned about up, degrees; 0 where none is given.
    #[arg(long, allow_hyphen_values = true)]
    turn: Vec<f64>,
    /// How many times as large each is; 1 where none is given.
    #[arg(long)]
    scale: Vec<f64>,
}

impl GuestArgs {
    /// All of them where they stand.
    pub fn standing(&self, file: &CameraFile) -> Result<Vec<Standing>, Failure> {
        if self.at.len() != self.guest.len() {
            return Err(Failure::usage("state --at once for each --guest"));
        }
        (0..self.guest.len())
            .map(|k| standing(self, file, k))
            .collect()
    }
}

/// A guest is called by its file, or by what it is.
fn name_of(named: &str, k: usize) -> String {
    let stem = Path::new(named).file_stem().map(|s| s.to_string_lossy());
    let stem: String = stem.unwrap_or_default().chars().take(70).collect();
    format!("{stem} {}", k + 1)
}

/// Guest number `k` of the command line.
fn standing(args: &GuestArgs, file: &CameraFile, k: usize) -> Result<Standing, Failure> {
    let (named, at) = (&args.guest[k], &args.at[k]);
    let place = place(file, at)?;
    let (what, mesh) = match What::usual(named) {
        Some(what) => {
            let mesh = stand_ins::mesh(&what).unwrap_or_default();
            (what, mesh)
        }
        None => (
            What::Model { model: 1 },
            model::read(&beside(Path::new(named))?).map_err(Failure::unreadable)?,
        ),
    };
    let lie = Lie {
        shift_m: place.into(),
        turn_deg: [args.turn.get(k).copied().unwrap_or(0.0), 0.0, 0.0],
        scale: args.scale.get(k).copied().unwrap_or(1.0),
    };
    let guest = Guest {
        lie,
        ..Guest::new(&name_of(named, k), what, None)
    };
    if !guest.is_possible() {
        return Err(Failure::usage(
            "a guest stands within 100 km, is turned by a number and 0.0001 to 10000 times as large",
        ));
    }
    Ok(Standing {
        guest,
        surface: Arc::new(Traced::of(Arc::new(mesh))),
        anchor: None,
    })
}

/// A place, in our world.
fn place(file: &CameraFile, at: &str) -> Result<Vector3<f64>, Failure> {
    if let Some(point) = file.points.iter().find(|p| p.name == at) {
        return Ok(file.point(point).0.coords);
    }
    let place: crate::slip::Place = at.parse().map_err(|e| {
        Failure::usage(format!(
            "{at} is neither a point of the camera file nor a place: {e}"
        ))
    })?;
    Ok(file.in_our_world(place.0).0.coords)
}

/// Most bytes of a file beside a model that may belong to it.
const MOST_BESIDE: u64 = 256 << 20;

/// A model with what lies beside it, itself first.
fn beside(path: &Path) -> Result<Vec<model::Named>, Failure> {
    let unreadable = |e: std::io::Error| Failure::unreadable(format!("{}: {e}", path.display()));
    let name = |path: &Path| {
        path.file_name()
            .unwrap_or_default()
            .to_string_lossy()
            .into_owned()
    };
    let mut files = vec![(name(path), std::fs::read(path).map_err(unreadable)?)];
    let endings = ["mtl", "bin", "png", "jpg", "jpeg"];
    let folder = path
        .parent()
        .filter(|p| !p.as_os_str().is_empty())
        .unwrap_or(Path::new("."));
    let mut left = MOST_BESIDE;
    for entry in std::fs::read_dir(folder).map_err(unreadable)?.flatten() {
        let other = entry.path();
        let ending = other
            .extension()
            .map(|e| e.to_string_lossy().to_lowercase())
            .unwrap_or_default();
        let size = entry.metadata().map_or(0, |m| m.len());
        if other.is_file() && endings.contains(&ending.as_str()) && size <= left {
            left -= size;
            files.push((name(&other), std::fs::read(&other).map_err(unreadable)?));
        }
    }
    Ok(files)
}
