//! `slip`: how far CG at a place is expected to slip, and what would lessen it. `path`: where a place is seen on
//! each frame.

use crate::Failure;
use crate::package::{put, round};
use crate::reopened::CameraArgs;
use clap::Args;
use nalgebra::Vector3;
use parallax_core::slip::{Advice, Joint, Slip, advice, forecast};
use parallax_core::spaces::{FrameNumber, WorldPoint};
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::path;
use serde_json::{Value, json};
use std::path::PathBuf;
use std::str::FromStr;

/// A place of the camera file's world, in its axes.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Place(pub [f64; 3]);

impl FromStr for Place {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let numbers: Vec<f64> = text
            .split(',')
            .map(|part| part.trim().parse::<f64>())
            .collect::<Result<_, _>>()
            .map_err(|e| format!("a place is x,y,z: {e}"))?;
        let three: [f64; 3] = numbers
            .try_into()
            .map_err(|_| "a place is three numbers: x,y,z".to_owned())?;
        match three.iter().all(|v| v.is_finite()) {
            true => Ok(Self(three)),
            false => Err("a place is three finite numbers".to_owned()),
        }
    }
}

/// Where.
#[derive(Args)]
#[group(required = true, multiple = false)]
pub struct WhereArgs {
    /// A place, `x,y,z` in the axes and units of the file.
    #[arg(long, allow_hyphen_values = true)]
    at: Option<Place>,
    /// A point of the file, by its name.
    #[arg(long)]
    point: Option<String>,
}

impl WhereArgs {
    /// In our world.
    fn place(&self, file: &CameraFile) -> Result<Vector3<f64>, Failure> {
        if let Some(name) = &self.point {
            let known = file.points.iter().find(|p| p.name == *name);
            let known = known.ok_or_else(|| {
                Failure::usage(format!("the camera file has no point called {name}"))
            })?;
            return Ok(file.point(known).0.coords);
        }
        let Some(Place(at)) = self.at else {
            return Err(Failure::usage("state --at x,y,z or --point NAME"));
        };
        Ok(file.in_our_world(at).0.coords)
    }
}

/// A solved camera and a place.
#[derive(Args)]
pub struct SlipArgs {
    #[command(flatten)]
    what: CameraArgs,
    #[command(flatten)]
    place: WhereArgs,
}

/// Runs `slip`.
pub fn run(args: SlipArgs) -> Result<(), Failure> {
    let (_, file, reopened) = args.what.read()?;
    let place = args.place.place(&file)?;
    let information = reopened.information().ok_or_else(|| {
        Failure::unreadable(
            "slip is told from the tracks that the camera was solved from: there are none beside it, or they do not determine it. Name them by --tracks",
        )
    })?;
    let joint = Joint::of(&information)
        .ok_or_else(|| Failure::unsolvable("the tracks do not determine this camera"))?;
    let slip = forecast(&joint, &place).map_err(Failure::unsolvable)?;
    println!("{:#}", told(&slip, &advice(&joint, &place)));
    Ok(())
}

fn told(slip: &Slip, advice: &[Advice]) -> Value {
    let frames = slip.frames.iter();
    let frames: Vec<Value> = frames
        .map(|(frame, px, sigma)| {
            json!([frame.0, round(px.x, 3), round(px.y, 3), round(*sigma, 4)])
        })
        .collect();
    let advice: Vec<Value> = advice
        .iter()
        .map(|a| json!({ "add": a.candidate.to_string(), "from_px": round(a.before_px, 4), "to_px": round(a.after_px, 4) }))
        .collect();
    json!({
        "rms_px": round(slip.rms_px, 4),
        "worst": { "frame": slip.worst.0.0, "px": round(slip.worst.1, 4) },
        "columns": ["frame", "x", "y", "slip_px"],
        "frames": frames,
        "advice": advice,
    })
}

/// A solved camera, a place and where its path goes.
#[derive(Args)]
pub struct PathArgs {
    #[command(flatten)]
    what: CameraArgs,
    #[command(flatten)]
    place: WhereArgs,
    /// The file: comma-separated text, or JSON where it ends so.
    #[arg(long)]
    out: PathBuf,
}

/// Runs `path`.
pub fn path(args: PathArgs) -> Result<(), Failure> {
    let (_, file, _) = args.what.read()?;
    let place = WorldPoint(args.place.place(&file)?.into());
    let cameras = file
        .frames
        .iter()
        .filter_map(|f| Some((FrameNumber(f.frame), file.intrinsics(f), file.pose(f)?)));
    let rows = path::path(cameras, &place);
    let is_json = args.out.extension().is_some_and(|e| e == "json");
    let text = match is_json {
        true => path::as_json(&rows).map_err(Failure::unreadable)?,
        false => path::as_csv(&rows),
    };
    put(&args.out, &text)?;
    let visible = rows.iter().filter(|r| r.visible).count();
    println!("{} frames, in the picture on {visible}", rows.len());
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case("1,2,3", Some([1.0, 2.0, 3.0]))]
    #[case("-1.5, 0, 2e1", Some([-1.5, 0.0, 20.0]))]
    #[case("1,2", None)]
    #[case("1,2,NaN", None)]
    #[case("a,b,c", None)]
    fn a_place_is_three_numbers(#[case] text: &str, #[case] place: Option<[f64; 3]>) {
        assert_eq!(text.parse::<Place>().ok(), place.map(Place));
    }
}
