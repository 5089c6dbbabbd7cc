//! Writes the neutral camera file: `true-parallax/camera@1`, JSON.
//!
//! Rates are exact fractions, matrices row by row, `world_from_camera` takes the camera's
//! space (x right, y up, looking along -Z) to the world (right-handed, Y up). `axes` states
//! another up axis, hand, unit or scale where the receiver asked for it; in a left-handed world the camera
//! looks along its +Z. Pixel positions have the picture's top-left corner as origin. `sigma`
//! is one standard error along each world axis, null where it is not known. `metres_per_unit` is
//! null while the world has no scale. Where k1 follows a zoom, frames state their own `k1`. `directions_at` is there where the
//! camera does not travel: points are directions then, set so many units away. `levelled` says whether the world stands on a ground, `camera` whether the camera is good, and why not.
//! It is read by [`crate::camera_reader`], which shares nothing with this file but the schema.

use crate::camera_reader::CameraFile;
use crate::delivery::package::NamedBytes;
use crate::delivery::{CAMERA_FILE, Camera, CameraStanding, Delivery, DeliveryError, Solved};
use crate::format::Format;
use crate::receipt::compare::{self, ReadCamera};
use crate::receipt::{FileReceipt, Held, unreadable};
use parallax_core::plate::FrameRate;
use parallax_core::scene::Receiver;
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
        world_from_camera: axes
            .world_from_camera(&camera.pose)
            .transpose()
            .iter()
            .copied()
            .collect(),
    };
    let frames: Vec<Frame> = delivery.cameras.iter().map(frame).collect();
    let points = delivery.points.iter().map(|p| Point {
        name: &p.name,
        xyz: axes.point(&p.place),
        sigma: p.covariance.map(|c| axes.sigma(c.sigma())),
        residual_px: p.residual_px,
    });
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
        let guests = !delivery.guests.is_empty();
        let receipt = FileReceipt::of(&file, files, said, off)?;
        Ok(vec![receipt.lacking(guests, "guests")])
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
    let mut both = file.points.iter().zip(&delivery.points);
    match both.all(|(read, p)| read.name == p.name) {
        true => Ok(seen.max(off)),
        false => Err(unreadable(name, "its landmarks have other names")),
    }
}
