//! Is an oriented world as true as it says, and does CG slip as is forecast?
//!
//! `cargo bench -p true-parallax --bench worlds -- FIRST COUNT` draws so many trials from the seeds that begin with
//! FIRST: walks past sets of which the truth is known, rendered and matched with defaults by the command line. Ten
//! landmarks of the ground, an edge and a length between landmarks are stated as they truly are; up, heading and scale
//! are held against the truth, each also in the standard errors that are stated. Slip is forecast for places on
//! landmarks and before them and held against how far CG there is truly drawn off. What landmarks and edges propose by
//! themselves is held against the truth as well (NaN: no wall that is sure; walls of the sets run along and across). A line for each trial, then
//! the root mean squares; a trial whose camera is called no good is left out.
#![allow(clippy::unwrap_used)]

use nalgebra::Vector3;
use parallax_core::camera::{Eye, Similarity};
use parallax_core::orient::propose::edges::pictured;
use parallax_core::orient::{
    Edge, End, Facing, Fact, Pictured, Runs, Stated, Statement, orient, propose,
};
use parallax_core::slip::{Joint, forecast};
use parallax_core::solve::bundle::{Loss, Motion};
use parallax_core::solve::information::Information;
use parallax_core::solve::triangulate::{Sighting, triangulate};
use parallax_core::solve::views::Seen;
use parallax_core::spaces::{TrackId, WorldPoint};
use parallax_core::statistics::median;
use parallax_demo::compare::aligned;
use parallax_demo::features;
use parallax_demo::plates::{self, Coding};
use parallax_demo::take::Take;
use parallax_demo::trial::Trial;
use parallax_formats::camera_reader::CameraFile;
use parallax_formats::tracks_reader::read_csv;
use parallax_matching::reopening::Reopened;
use parallax_media::Plate;
use std::collections::HashMap;
use std::path::Path;
use std::process::Command;

const FRAMES: usize = 56;
/// A landmark counts as on the ground within this, m.
const ON_GROUND_M: f64 = 1e-3;
/// Features whose place is known better than this, share of their distance.
const EXACT_SHARE: f64 = 0.01;

/// Off by, and in standard errors: up and heading in degrees, scale in percent; true by forecast slip of each place.
struct Outcome {
    off: [f64; 3],
    errors: [f64; 3],
    slips: Vec<f64>,
    /// Up and heading of what is proposed for certain by landmarks alone and with edges of the pictures, degrees; `None`
    /// where that is unsure.
    proposed: [Option<(f64, f64)>; 2],
}

fn run(args: &[&str]) -> bool {
    let binary = Command::new(env!("CARGO_BIN_EXE_true-parallax"))
        .args(args)
        .output();
    binary.unwrap().status.success()
}

fn trial(seed: u64) -> Trial {
    let mut random = fastrand::Rng::with_seed(seed ^ 0x51a7);
    Trial {
        width_px: 640,
        height_px: 360,
        frame_count: FRAMES,
        grain_levels: 0.5 + 2.0 * random.f64(),
        rays: 4,
        ..Trial::new(seed)
    }
}

/// What a trial came to; `None` where there is no good camera.
fn tried(seed: u64, folder: &Path) -> Option<Outcome> {
    let take = trial(seed).take();
    let (plate, out) = (folder.join("p"), folder.join("o"));
    plates::write(&take, &plate, Coding::Png, |_| ()).unwrap();
    if !run(&[
        "match",
        plate.to_str()?,
        "--rate",
        "25",
        "--out",
        out.to_str()?,
    ]) {
        return None;
    }
    let text = |name: &str| std::fs::read_to_string(out.join(name)).unwrap();
    let report: serde_json::Value = serde_json::from_str(&text("report.json")).unwrap();
    if report["solve"]["verdict"] != "good" {
        return None;
    }
    let file = CameraFile::read(&text("camera.json")).unwrap();
    let truth = take.truth().unwrap();
    let hidden = aligned(&file, &truth)?;
    let named = read_csv(&text("tracks.csv")).unwrap();
    let places: HashMap<TrackId, WorldPoint> = named
        .tracks
        .iter()
        .filter_map(|t| Some((t.id, features::place(&take, t)?)))
        .collect();
    let reopened = Reopened::of(&file, Some(named));
    let information = reopened.information()?;
    let mut outcome = oriented(&reopened, &information, &places, &hidden)?;
    let (_, pictures) = Plate::in_folder(&plate, true).unwrap();
    let edges = pictured(&reopened.solved(None), &pictures).unwrap();
    outcome.proposed = [&edges[..0], &edges].map(|edges| proposed(&reopened, edges, &hidden));
    outcome.slips = slips(&reopened, &information, &take, &truth);
    Some(outcome)
}

/// States ten landmarks of the ground, an edge and a length as they truly are.
fn oriented(
    reopened: &Reopened,
    information: &Information,
    places: &HashMap<TrackId, WorldPoint>,
    hidden: &Similarity,
) -> Option<Outcome> {
    let eye = reopened.cameras[0].eye.pose.centre();
    let known: Vec<(TrackId, Vector3<f64>)> = reopened
        .landmarks
        .iter()
        .filter(|l| {
            l.2.is_some_and(|c| c.sigma().iter().sum::<f64>() < EXACT_SHARE * l.1.distance(eye))
        })
        .filter_map(|l| Some((l.0, places.get(&l.0)?.0.coords)))
        // What is far off where it is seen to be is on an edge, and another place by the next frame.
        .filter(|(id, at)| {
            let solved = reopened.landmarks.iter().find(|l| l.0 == *id).unwrap().1;
            hidden.point(&WorldPoint((*at).into())).distance(solved) < 0.02 * solved.distance(eye)
        })
        .collect();
    let ground: Vec<_> = known.iter().filter(|k| k.1.y.abs() < ON_GROUND_M).collect();
    if ground.len() < 10 {
        return None;
    }
    let stride = ground.len() / 10;
    let on = ground
        .iter()
        .step_by(stride)
        .take(10)
        .map(|g| g.0)
        .collect();
    let pairs = || {
        known
            .iter()
            .enumerate()
            .flat_map(|(i, a)| known[i + 1..].iter().map(move |b| (a, b)))
    };
    let slant = |(a, b): &(&Placed, &Placed)| {
        let d = b.1 - a.1;
        if d.norm() < 1.2 {
            f64::MAX
        } else {
            d.y.hypot(d.z) / d.norm()
        }
    };
    let edge = pairs().min_by(|p, q| slant(p).total_cmp(&slant(q)))?;
    let length =
        pairs().max_by(|p, q| (p.0.1 - p.1.1).norm().total_cmp(&(q.0.1 - q.1.1).norm()))?;
    let facts = [
        Fact::Plane {
            name: "ground".into(),
            faces: Facing::Ground,
            on,
        },
        Fact::Edge {
            edge: Edge::Features([edge.0.0, edge.1.0]),
            runs: Runs::Along,
        },
        Fact::Length {
            between: [End::Feature(length.0.0), End::Feature(length.1.0)],
            length_m: (length.0.1 - length.1.1).norm(),
            sigma_m: 1e-4,
        },
    ];
    let on = |(i, fact)| (i as u32 + 1, Statement { fact, off: false });
    let stated: Vec<Stated> = facts.into_iter().enumerate().map(on).collect();
    let found = orient(&reopened.solved(Some(information)), &stated);
    let turn = found.change.rotation * hidden.rotation;
    let up = (turn * Vector3::y()).angle(&Vector3::y()).to_degrees();
    let along = turn * Vector3::x();
    // The edge may run either way, and the first camera decides which.
    let heading = (-along.z).atan2(along.x).to_degrees();
    let heading = heading - 180.0 * (heading / 180.0).round();
    let scale = 100.0 * (found.change.scale * hidden.scale).ln();
    let off = [up, heading, scale];
    let sigmas = [
        found.up_sigma_deg?,
        found.heading_sigma_deg?,
        100.0 * found.scale_share_sigma?,
    ];
    let errors = [0, 1, 2].map(|k| off[k] / sigmas[k]);
    Some(Outcome {
        off,
        errors,
        slips: Vec::new(),
        proposed: [None; 2],
    })
}

/// How far off the world is once what is proposed for certain is taken: up, and the heading from the nearest wall.
fn proposed(reopened: &Reopened, edges: &[Pictured], hidden: &Similarity) -> Option<(f64, f64)> {
    let solved = reopened.solved(None);
    let sure = propose(&solved, edges, &[]).into_iter().filter(|p| p.sure);
    let stated: Vec<Stated> = (1..).zip(sure.map(|p| p.stated())).collect();
    let found = orient(&solved, &stated);
    let turn = found.change.rotation * hidden.rotation;
    let up = (turn * Vector3::y()).angle(&Vector3::y()).to_degrees();
    let along = turn * Vector3::x();
    let heading = (-along.z).atan2(along.x).to_degrees();
    let heading = heading - 90.0 * (heading / 90.0).round();
    let heading = if found.headed { heading } else { f64::NAN };
    found.levelled.then_some((up, heading))
}

/// True slip by the one that is forecast, of places on landmarks and before them.
fn slips(
    reopened: &Reopened,
    information: &Information,
    take: &Take,
    truth: &CameraFile,
) -> Vec<f64> {
    let joint = Joint::of(information).unwrap();
    let centre = reopened.cameras[reopened.cameras.len() / 2]
        .eye
        .pose
        .centre()
        .0
        .coords;
    let some = reopened
        .landmarks
        .iter()
        .step_by(reopened.landmarks.len().div_ceil(40));
    let places = some.flat_map(|l| [l.1.0.coords, centre + (l.1.0.coords - centre) * 0.7]);
    let ratio = |place: Vector3<f64>| {
        let slip = forecast(&joint, &place).ok()?;
        let drawn: Vec<(usize, Sighting)> = reopened
            .cameras
            .iter()
            .filter_map(|c| {
                let px = c.eye.lens.project(&c.eye.pose, &WorldPoint(place.into()))?;
                let t = truth.frames.iter().find(|t| t.frame == c.frame.0)?;
                let eye = Eye {
                    lens: truth.intrinsics(t),
                    pose: truth.pose(t)?,
                };
                let seen = Seen {
                    frame: 0,
                    px,
                    whitening: [1.0, 0.0, 1.0],
                };
                let at = (c.frame.0 - take.first_frame.0) as usize;
                (c.eye.lens.holds(px)).then_some((at, Sighting { eye, seen }))
            })
            .collect();
        let sightings: Vec<Sighting> = drawn.iter().map(|(_, s)| *s).collect();
        let still = triangulate(Motion::Free, &sightings, Loss::Squares, 1e3)?.point;
        let still = WorldPoint(still.into());
        // A picture shows no other place than the mean over its exposure.
        let off = |(at, s): &(usize, Sighting)| {
            let px = take.smeared(*at, &still);
            px.map_or(1e3, |px| px.distance_px(s.seen.px)).powi(2)
        };
        let rms = (drawn.iter().map(off).sum::<f64>() / drawn.len() as f64).sqrt();
        Some(rms / slip.rms_px)
    };
    places.filter_map(ratio).collect()
}

type Placed = (TrackId, Vector3<f64>);

fn rms(values: impl Iterator<Item = f64>) -> f64 {
    let all: Vec<f64> = values.collect();
    (all.iter().map(|v| v * v).sum::<f64>() / all.len().max(1) as f64).sqrt()
}

fn main() {
    let numbers: Vec<u64> = std::env::args().filter_map(|a| a.parse().ok()).collect();
    let (first, count) = match numbers[..] {
        [first, count, ..] => (first, count),
        _ => (8000, 3),
    };
    let mut all = Vec::new();
    let mut ratios = Vec::new();
    for seed in first..first + count {
        let folder = tempfile::tempdir().unwrap();
        let Some(mut outcome) = tried(seed, folder.path()) else {
            println!("{seed}: no good camera, or too few landmarks on the ground");
            continue;
        };
        let slip = median(&mut outcome.slips).unwrap_or(f64::NAN);
        let [up, heading, scale] = outcome.off;
        let [u, h, s] = outcome.errors;
        println!(
            "{seed}: up {up:.3}° ({u:.2}), heading {heading:+.3}° ({h:+.2}), scale {scale:+.3} % ({s:+.2}), true by forecast slip {slip:.2}"
        );
        for (proposed, by) in outcome.proposed.iter().zip(["landmarks", "edges too"]) {
            match proposed {
                Some((up, heading)) => {
                    println!("    proposed by {by}: up {up:.2}°, heading {heading:+.2}°")
                }
                None => println!("    proposed by {by}: unsure"),
            }
        }
        ratios.push(slip);
        all.push(outcome);
    }
    let of = |k: usize| {
        (
            rms(all.iter().map(|o| o.off[k])),
            rms(all.iter().map(|o| o.errors[k])),
        )
    };
    let [up, heading, scale] = [0, 1, 2].map(of);
    println!(
        "{} of {count}: up {:.3}° ({:.2} standard errors), heading {:.3}° ({:.2}), scale {:.3} % ({:.2}); slip {:.2} of the forecast in the median",
        all.len(),
        up.0,
        up.1,
        heading.0,
        heading.1,
        scale.0,
        scale.1,
        median(&mut ratios).unwrap_or(f64::NAN)
    );
}
