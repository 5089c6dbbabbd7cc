//! Writes the neutral camera file: `true-parallax/camera@1`, JSON.
//!
//! Rates are exact fractions, matrices row by row, `world_from_camera` takes the camera's
//! space (x right, y up, looking along -Z) to the world (right-handed, Y up). `axes` states
//! another up axis, hand, unit or scale where the receiver asked for it; in a left-handed world the camera
//! looks along its +Z. Pixel positions have the picture's top-left corner as origin. `sigma`
//! is one standard error along each world axis, null where it is not known. `metres_per_unit` is
//! null while the world has no scale. Where k1 follows a zoom, frames state their own `k1`. `directions_at` is there where the
//! camera does not travel: points are directions then, set so many units away. `levelled` says whether the world stands on a ground, `camera` whether the camera is good, and why not.
//! A body has its points in a space of its own, in the same axes and unit, and where that is in the world on each frame.
//! It is read by [`crate::camera_reader`], which shares nothing with this file but the schema.

use crate::camera_reader::CameraFile;
use crate::delivery::package::NamedBytes;
use crate::delivery::{
    CAMERA_FILE, Camera, CameraStanding, Delivery, DeliveryError, Landmark, MovingBody, Solved,
};
use crate::format::Format;
use crate::receipt::compare::{self, ReadCamera};
use crate::receipt::{FileReceipt, Held, unreadable};
use nalgebra::Matrix4;
use parallax_core::camera::Similarity;
use parallax_core::plate::FrameRate;
use parallax_core::scene::Receiver;
use parallax_core::spaces::FrameNumber;
use serde::Serialize;

/// The value of the key `schema`.
pub const SCHEMA: &str = "true-parallax/camera@1";

#[derive(Serialize)]
struct File<'a> {
    schema: &'static str,
    fps: FrameRate,
    first_frame: i32,
    width: u32,
    height: u32,
    film_back_mm: [f64; 2],
    film_back_assumed: bool,
    distortion: Terms,
    metres_per_unit: Option<f64>,
    axes: Receiver,
    #[serde(skip_serializing_if = "Option::is_none")]
    directions_at: Option<f64>,
    #[serde(skip_serializing_if = "Option::is_none")]
    solved: Option<&'a Solved>,
    levelled: bool,
    camera: &'a CameraStanding,
    #[serde(skip_serializing_if = "<[String]>::is_empty")]
    stale: &'a [String],
    frames: Vec<Frame>,
    points: Vec<Point<'a>>,
    #[serde(skip_serializing_if = "Vec::is_empty")]
    bodies: Vec<Body<'a>>,
}

/// Radial and tangential terms, undistorted to distorted (Brown 1966).
#[derive(Serialize)]
struct Terms {
    model: &'static str,
    k1: f64,
    k2: f64,
    k3: f64,
    p1: f64,
    p2: f64,
}

#[derive(Serialize)]
struct Frame {
    frame: i32,
    focal_px: f64,
    #[serde(skip_serializing_if = "Option::is_none")]
    k1: Option<f64>,
    cx: f64,
    cy: f64,
    world_from_camera: Vec<f64>,
}

#[derive(Serialize)]
struct Point<'a> {
    name: &'a str,
    xyz: [f64; 3],
    sigma: Option<[f64; 3]>,
    residual_px: f64,
}

/// A thing that moves by itself, its points in a space of its own.
#[derive(Serialize)]
struct Body<'a> {
    name: &'a str,
    distance_by: &'a str,
    assumed: bool,
    seen: [i32; 2],
    points: Vec<Point<'a>>,
    frames: Vec<BodyFrame>,
}

#[derive(Serialize)]
struct BodyFrame {
    frame: i32,
    world_from_body: Vec<f64>,
}

fn row_by_row(matrix: &Matrix4<f64>) -> Vec<f64> {
    matrix.transpose().iter().copied().collect()
}

fn body<'a>(axes: Receiver, frames: &[FrameNumber], body: &'a MovingBody) -> Body<'a> {
    let from_ours = axes.from_our_world();
    let to_ours = from_ours.try_inverse().unwrap_or_default();
    let frame = |(frame, there): (&FrameNumber, &Similarity)| BodyFrame {
        frame: frame.0,
        world_from_body: row_by_row(&(from_ours * there.matrix() * to_ours)),
    };
    Body {
        name: &body.name,
        distance_by: &body.distance_by,
        assumed: body.is_assumed,
        seen: body.seen.map(|f| f.0),
        points: body.points.iter().map(|p| point(axes, p)).collect(),
        frames: frames.iter().zip(&body.moves).map(frame).collect(),
    }
}

/// Bodies in the axes of a receiver, as the file holds them.
pub fn bodies(
    axes: Receiver,
    frames: &[FrameNumber],
    all: &[MovingBody],
) -> Result<serde_json::Value, serde_json::Error> {
    let all: Vec<Body<'_>> = all.iter().map(|b| body(axes, frames, b)).collect();
    serde_json::to_value(all)
}

fn point(axes: Receiver, p: &Landmark) -> Point<'_> {
    Point {
        name: &p.name,
        xyz: axes.point(&p.place),
        sigma: p.covariance.map(|c| axes.sigma(c.sigma())),
        residual_px: p.residual_px,
    }
}

/// The text of the file in the receiver's axes.
pub fn write(delivery: &Delivery<'_>) -> Result<String, serde_json::Error> {
    let (lens, axes) = (&delivery.lens, delivery.receiver);
    let terms = &lens.distortion;
    let frame = |camera: &Camera| Frame {
        frame: camera.frame.0,
        focal_px: camera.focal_px,
        k1: (terms.k1_by_zoom != 0.0).then(|| delivery.lens_of(camera).distortion.k1),
        cx: lens.centre.x,
        cy: lens.centre.y,
        world_from_camera: row_by_row(&axes.world_from_camera(&camera.pose)),
    };
    let frames: Vec<Frame> = delivery.cameras.iter().map(frame).collect();
    let points = delivery.points.iter().map(|p| point(axes, p));
    let numbers: Vec<FrameNumber> = delivery.cameras.iter().map(|c| c.frame).collect();
    let moving = delivery.bodies.iter();
    serde_json::to_string_pretty(&File {
        schema: SCHEMA,
        fps: delivery.rate,
        first_frame: frames.first().map_or(0, |f| f.frame),
        width: lens.width_px,
        height: lens.height_px,
        film_back_mm: [delivery.film_back.width_mm, delivery.film_back.height_mm],
        film_back_assumed: delivery.film_back_assumed,
        distortion: Terms {
            model: "brown",
            k1: terms.k1,
            k2: terms.k2,
            k3: terms.k3,
            p1: terms.p1,
            p2: terms.p2,
        },
        metres_per_unit: delivery.scaled.then_some(axes.per_metre().recip()),
        axes,
        directions_at: delivery.directions_at.map(|d| d * axes.per_metre()),
        solved: delivery.solved.as_ref(),
        levelled: delivery.levelled,
        camera: &delivery.standing,
        stale: &delivery.stale,
        points: points.collect(),
        bodies: moving.map(|b| body(axes, &numbers, b)).collect(),
        frames,
    })
}

/// The format.
pub struct Neutral;

impl Format for Neutral {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        let text = write(delivery)?;
        Ok(vec![(delivery.named(CAMERA_FILE), text.into_bytes())])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        let file = delivery.named(CAMERA_FILE);
        let off = read_back(delivery, &file, files.text(&file)?)?;
        let seen = match delivery.points.is_empty() {
            true => "places of the scene",
            false => "all landmarks",
        };
        let said = format!("{seen} through the camera of every frame, lens included; names");
        let surfaces = delivery.surfaces().next().is_some();
        let receipt = FileReceipt::of(&file, files, said, off)?;
        Ok(vec![
            receipt.lacking(surfaces, "surfaces of guests and of the set"),
        ])
    }
}

fn read_back(delivery: &Delivery<'_>, name: &str, text: &str) -> Result<f64, DeliveryError> {
    let file = CameraFile::read(text).map_err(|e| unreadable(name, e))?;
    if file.fps != delivery.rate {
        return Err(unreadable(name, format!("it states the rate {}", file.fps)));
    }
    if file.axes != delivery.receiver {
        return Err(unreadable(
            name,
            format!("it states the axes {}", file.axes),
        ));
    }
    let cameras: Vec<ReadCamera> = file
        .frames
        .iter()
        .filter_map(|f| Some((f.frame, file.intrinsics(f), file.pose(f)?)))
        .collect();
    let seen = compare::cameras(name, delivery, &delivery.lens, &cameras)?;
    let points: Vec<_> = file.points.iter().map(|p| file.point(p)).collect();
    let off = compare::points(name, delivery, &delivery.lens, &points)?;
    let bodies = bodies_off(delivery, name, &file)?;
    let mut both = file.points.iter().zip(&delivery.points);
    match both.all(|(read, p)| read.name == p.name) {
        true => Ok(seen.max(off).max(bodies)),
        false => Err(unreadable(name, "its landmarks have other names")),
    }
}

/// Landmarks of bodies on every frame.
fn bodies_off(
    delivery: &Delivery<'_>,
    name: &str,
    file: &CameraFile,
) -> Result<f64, DeliveryError> {
    if file.bodies.len() != delivery.bodies.len() {
        return Err(unreadable(name, "bodies are missing"));
    }
    let mut largest: f64 = 0.0;
    for (read, body) in file.bodies.iter().zip(&delivery.bodies) {
        let named = read.points.iter().map(|p| &p.name);
        if read.name != body.name || !named.eq(body.points.iter().map(|p| &p.name)) {
            return Err(unreadable(
                name,
                "a body or its landmarks are called otherwise",
            ));
        }
        for (at, camera) in delivery.cameras.iter().enumerate() {
            let on = read.frames.get(at).filter(|f| f.frame == camera.frame.0);
            let missing = || unreadable(name, "the motion of a body is incomplete");
            let there = on
                .and_then(|f| file.body_places(read, f))
                .ok_or_else(missing)?;
            let both = (&there[..], &body.places(at)[..]);
            let off = compare::places(name, delivery, &delivery.lens, both, at)?;
            largest = largest.max(off);
        }
    }
    Ok(largest)
}
