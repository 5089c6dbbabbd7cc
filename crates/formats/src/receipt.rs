//! The proof that the written files hold the camera that was solved.
//!
//! Every file is read back by code that did not write it; all landmarks are projected
//! through the camera of each file on every frame and compared with the solve itself. OpenUSD
//! has no lens distortion, so that comparison is made on the undistorted picture.

use crate::camera_json::CameraFile;
use crate::delivery::{CAMERA_FILE, Delivery, DeliveryError, SCENE_FILE, TRACKS_FILE};
use crate::{tracks_csv, usda_reader};
use nalgebra::Matrix4;
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Distortion;
use parallax_core::scene::{Hand, Up};
use parallax_core::spaces::{PlatePx, WorldPoint};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::HashMap;

/// The largest difference at which a delivery is called proven, px.
pub const PROVEN_PX: f64 = 0.01;

/// What was found in one file.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct FileReceipt {
    /// File name.
    pub file: String,
    /// Bytes.
    pub bytes: usize,
    /// SHA-256, hexadecimal.
    pub sha256: String,
    /// What was compared, as a sentence.
    pub compared: String,
    /// Largest difference to the solve, px.
    pub largest_difference_px: f64,
}

/// The whole receipt.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Receipt {
    /// The shot.
    pub shot: String,
    /// True when every file agrees with the solve.
    pub proven: bool,
    /// Largest difference over all files, px.
    pub largest_difference_px: f64,
    /// Exact rate, the same in all files.
    pub rate: String,
    /// First and last frame, the same in all files.
    pub range: [i32; 2],
    /// Unit of the world.
    pub units: String,
    /// Up axis of the world.
    pub up_axis: String,
    /// Landmarks and frames that were compared.
    pub compared_points: usize,
    /// Frames that were compared.
    pub compared_frames: usize,
    /// File by file.
    pub files: Vec<FileReceipt>,
}

fn unreadable(file: &str, reason: impl ToString) -> DeliveryError {
    DeliveryError::ReadBack {
        file: file.to_owned(),
        reason: reason.to_string(),
    }
}

/// Reads the files back by `read` and holds them against the solve.
pub fn make(
    delivery: &Delivery<'_>,
    read: impl Fn(&str) -> Result<String, DeliveryError>,
) -> Result<Receipt, DeliveryError> {
    let (camera, scene) = (read(CAMERA_FILE)?, read(SCENE_FILE)?);
    let from_camera = check_camera(delivery, &camera)?;
    let from_scene = check_scene(delivery, &scene)?;
    let of_scene = match delivery.receiver.hand {
        Hand::Right => {
            "all landmarks through the camera of every frame, undistorted; stand-ins corner by corner"
        }
        Hand::Left => {
            "all landmarks through the camera of every frame, undistorted; stand-ins corner by corner; \
             right-handed, as OpenUSD always is"
        }
    };
    let mut files = vec![
        file_receipt(
            CAMERA_FILE,
            &camera,
            "all landmarks through the camera of every frame, lens included",
            from_camera,
        ),
        file_receipt(SCENE_FILE, &scene, of_scene, from_scene),
    ];
    if !delivery.tracks.is_empty() {
        let tracks = read(TRACKS_FILE)?;
        let off_px = check_tracks(delivery, &tracks)?;
        files.push(file_receipt(
            TRACKS_FILE,
            &tracks,
            "every position of every track",
            off_px,
        ));
    }
    let largest = files
        .iter()
        .map(|f| f.largest_difference_px)
        .fold(0.0, f64::max);
    let first = delivery.cameras.first().map_or(0, |c| c.0.0);
    let last = delivery.cameras.last().map_or(0, |c| c.0.0);
    Ok(Receipt {
        shot: delivery.shot.clone(),
        proven: largest <= PROVEN_PX,
        largest_difference_px: largest,
        rate: delivery.rate.to_string(),
        range: [first, last],
        units: if delivery.scaled { "metre" } else { "no scale" }.to_owned(),
        up_axis: delivery.receiver.to_string(),
        compared_points: delivery.points.len(),
        compared_frames: delivery.cameras.len(),
        files,
    })
}

fn file_receipt(file: &str, text: &str, compared: &str, largest_difference_px: f64) -> FileReceipt {
    let digest = Sha256::digest(text.as_bytes());
    FileReceipt {
        file: file.to_owned(),
        bytes: text.len(),
        sha256: digest.iter().map(|b| format!("{b:02x}")).collect(),
        compared: compared.to_owned(),
        largest_difference_px,
    }
}

/// A camera as read back: frame, how it draws, where it stands.
type ReadCamera = (i32, Intrinsics, Pose);

/// Largest distance between projections of all points; a frame or point that is missing or
/// projects on one side only is an error.
fn largest_distance(
    file: &str,
    delivery: &Delivery<'_>,
    lens: &Intrinsics,
    cameras: &[ReadCamera],
    points: &[WorldPoint],
) -> Result<f64, DeliveryError> {
    if cameras.len() != delivery.cameras.len() || points.len() != delivery.points.len() {
        return Err(unreadable(file, "frames or landmarks are missing"));
    }
    let mut largest: f64 = 0.0;
    for ((frame, read_lens, read_pose), (solved_frame, solved_pose)) in
        cameras.iter().zip(&delivery.cameras)
    {
        if *frame != solved_frame.0 {
            return Err(unreadable(
                file,
                format!("frame {frame} stands where frame {solved_frame} belongs"),
            ));
        }
        for (read_point, solved_point) in points.iter().zip(&delivery.points) {
            let solved = lens.project(solved_pose, &solved_point.place);
            // Beyond the border by a picture's width nobody looks, and px lose their meaning.
            let Some(solved) = solved.filter(|px| near_picture(lens, px)) else {
                continue;
            };
            // Each against the other's: a world turned as a whole would agree with itself.
            let found = [
                read_lens.project(read_pose, &solved_point.place),
                read_lens.project(solved_pose, read_point),
            ];
            for px in found {
                largest = largest.max(px.map_or(f64::INFINITY, |px| px.distance_px(solved)));
            }
        }
    }
    if largest.is_finite() {
        Ok(largest)
    } else {
        Err(unreadable(file, "a landmark is behind the camera"))
    }
}

fn near_picture(lens: &Intrinsics, px: &PlatePx) -> bool {
    let (w, h) = (f64::from(lens.width_px), f64::from(lens.height_px));
    (-w..=2.0 * w).contains(&px.x) && (-h..=2.0 * h).contains(&px.y)
}

fn check_camera(delivery: &Delivery<'_>, text: &str) -> Result<f64, DeliveryError> {
    let file = CameraFile::read(text).map_err(|e| unreadable(CAMERA_FILE, e))?;
    if file.fps != delivery.rate {
        return Err(unreadable(
            CAMERA_FILE,
            format!("it states the rate {}", file.fps),
        ));
    }
    let cameras: Vec<ReadCamera> = file
        .frames
        .iter()
        .filter_map(|f| Some((f.frame, file.intrinsics(f), file.pose(f)?)))
        .collect();
    let points: Vec<WorldPoint> = file.points.iter().map(|p| file.point(p)).collect();
    if file.axes != delivery.receiver {
        return Err(unreadable(
            CAMERA_FILE,
            format!("it states the axes {}", file.axes),
        ));
    }
    largest_distance(CAMERA_FILE, delivery, &delivery.lens, &cameras, &points)
}

fn check_scene(delivery: &Delivery<'_>, text: &str) -> Result<f64, DeliveryError> {
    let bad = |reason: String| unreadable(SCENE_FILE, reason);
    let layer = usda_reader::read(text).map_err(|e| bad(e.to_string()))?;
    let data = match layer.metadata.get("customLayerData") {
        Some(usda_reader::Value::Map(data)) => data.clone(),
        _ => return Err(bad("the layer's data is missing".to_owned())),
    };
    if data.get("rate").and_then(|v| v.text()) != Some(&delivery.rate.to_string()) {
        return Err(bad("the rate is another".to_owned()));
    }
    let stated = layer
        .metadata
        .get("timeCodesPerSecond")
        .and_then(|v| v.number());
    if stated.is_none_or(|s| (s - delivery.rate.as_f64()).abs() > 1e-9) {
        return Err(bad("the time codes per second are others".to_owned()));
    }
    let root = layer
        .prims
        .first()
        .ok_or_else(|| bad("it is empty".to_owned()))?;
    let camera = root
        .find("Camera")
        .ok_or_else(|| bad("it holds no camera".to_owned()))?;
    let lens = scene_lens(delivery, camera)
        .ok_or_else(|| bad("the camera's film back is incomplete".to_owned()))?;
    let up = match layer.metadata.get("upAxis").and_then(|v| v.text()) {
        Some("Y") => Up::Y,
        Some("Z") => Up::Z,
        _ => return Err(bad("the up axis is not stated".to_owned())),
    };
    if up != delivery.receiver.up {
        return Err(bad("the up axis is another".to_owned()));
    }
    let cameras = scene_cameras(camera, &lens, up)
        .ok_or_else(|| bad("the camera's motion is incomplete".to_owned()))?;
    let landmarks = root.find("Points").and_then(|p| p.attributes.get("points"));
    let numbers = landmarks.map(|v| v.numbers()).unwrap_or_default();
    let points: Vec<WorldPoint> = numbers.chunks_exact(3).map(|c| upright(up, c)).collect();
    let straight = Intrinsics {
        distortion: Distortion::NONE,
        ..delivery.lens
    };
    let seen = largest_distance(SCENE_FILE, delivery, &straight, &cameras, &points)?;
    Ok(seen.max(stand_ins_difference(delivery, root, &straight, up)?))
}

fn scene_lens(delivery: &Delivery<'_>, camera: &usda_reader::Prim) -> Option<Intrinsics> {
    let number = |name: &str| camera.attributes.get(name)?.number();
    let (width, height) = (
        f64::from(delivery.lens.width_px),
        f64::from(delivery.lens.height_px),
    );
    let px_per_mm = width / number("horizontalAperture")?;
    Some(Intrinsics {
        focal_px: number("focalLength")? * px_per_mm,
        centre: PlatePx::new(
            width / 2.0 - number("horizontalApertureOffset")? * px_per_mm,
            height / 2.0 + number("verticalApertureOffset")? * px_per_mm,
        ),
        distortion: Distortion::NONE,
        ..delivery.lens
    })
}

/// A point of the scene with Y up.
fn upright(up: Up, xyz: &[f64]) -> WorldPoint {
    match up {
        Up::Y => WorldPoint::new(xyz[0], xyz[1], xyz[2]),
        Up::Z => WorldPoint::new(xyz[0], xyz[2], -xyz[1]),
    }
}

fn scene_cameras(camera: &usda_reader::Prim, lens: &Intrinsics, up: Up) -> Option<Vec<ReadCamera>> {
    let Some(usda_reader::Value::Map(samples)) =
        camera.attributes.get("xformOp:transform.timeSamples")
    else {
        return None;
    };
    let mut out = Vec::with_capacity(samples.len());
    for (frame, value) in samples {
        let numbers = value.numbers();
        if numbers.len() != 16 {
            return None;
        }
        // Row vectors in the file: each row is where an axis of the camera points, the last
        // one where it stands.
        let mut matrix = Matrix4::from_row_slice(&numbers).transpose();
        for (mut column, row) in matrix.column_iter_mut().zip(numbers.chunks_exact(4)) {
            column
                .fixed_rows_mut::<3>(0)
                .copy_from(&upright(up, row).0.coords);
        }
        out.push((
            frame.parse().ok()?,
            *lens,
            Pose::from_world_from_camera(&matrix)?,
        ));
    }
    out.sort_by_key(|c: &ReadCamera| c.0);
    Some(out)
}

fn stand_ins_difference(
    delivery: &Delivery<'_>,
    root: &usda_reader::Prim,
    lens: &Intrinsics,
    up: Up,
) -> Result<f64, DeliveryError> {
    let meshes: Vec<_> = root
        .children
        .iter()
        .filter(|c| c.type_name == "Mesh")
        .collect();
    if meshes.len() != delivery.stand_ins.len() {
        return Err(unreadable(SCENE_FILE, "stand-ins are missing"));
    }
    let mut largest: f64 = 0.0;
    for (mesh, (stand_in, foot)) in meshes.iter().zip(&delivery.stand_ins) {
        let numbers = mesh
            .attributes
            .get("points")
            .map(|v| v.numbers())
            .unwrap_or_default();
        let corners = stand_in.corners(foot);
        if numbers.len() != 24 {
            return Err(unreadable(SCENE_FILE, "a stand-in has no eight corners"));
        }
        for (read, corner) in numbers.chunks_exact(3).zip(corners) {
            let read = upright(up, read);
            for (_, pose) in &delivery.cameras {
                let both = lens.project(pose, &read).zip(lens.project(pose, &corner));
                largest = largest.max(
                    both.filter(|(_, c)| near_picture(lens, c))
                        .map_or(0.0, |(a, b)| a.distance_px(b)),
                );
            }
        }
    }
    Ok(largest)
}

fn check_tracks(delivery: &Delivery<'_>, text: &str) -> Result<f64, DeliveryError> {
    let read = tracks_csv::read(text).map_err(|e| unreadable(TRACKS_FILE, e))?;
    let by_name: HashMap<&str, usize> = read
        .tracks
        .iter()
        .enumerate()
        .filter_map(|(i, t)| Some((read.names.get(&t.id)?.as_str(), i)))
        .collect();
    let mut largest: f64 = 0.0;
    for track in &delivery.tracks {
        let name = track.id.to_string();
        let found = by_name.get(name.as_str()).map(|i| &read.tracks[*i]);
        let Some(found) = found.filter(|f| f.samples.len() == track.samples.len()) else {
            return Err(unreadable(
                TRACKS_FILE,
                format!("track {name} is incomplete"),
            ));
        };
        for (a, b) in found.samples.iter().zip(&track.samples) {
            let same = if a.frame == b.frame {
                a.px.distance_px(b.px)
            } else {
                f64::INFINITY
            };
            largest = largest.max(same);
        }
    }
    if largest.is_finite() {
        Ok(largest)
    } else {
        Err(unreadable(TRACKS_FILE, "frames are mixed up"))
    }
}
