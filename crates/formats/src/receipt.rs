//! The proof that the written files hold the camera that was solved, and what else has to be known
//! of them.
//!
//! Every file is read back by code that did not write it, at the precision of its own types; all
//! landmarks are projected through the camera of each file on every frame and compared with the
//! solve itself. OpenUSD has no lens distortion, so that comparison is made on the undistorted
//! picture, and the terms that stand in its data are compared one by one.
//!
//! That the files agree says nothing of the camera itself: [`Receipt::camera`] does.

use crate::camera_reader::CameraFile;
use crate::delivery::{
    self, CAMERA_FILE, CameraStanding, Delivery, DeliveryError, SCENE_FILE, TRACKS_FILE,
};
use crate::{tracks_reader, usda_reader};
use nalgebra::Matrix4;
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Distortion;
use parallax_core::scene::{Hand, Up};
use parallax_core::spaces::{PlatePx, WorldPoint};
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use std::collections::HashMap;

/// The largest difference at which the files are said to agree, px.
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
    /// What the solve has and the file has no place for.
    #[serde(default)]
    pub lacks: Vec<String>,
}

/// The whole receipt.
#[derive(Clone, Debug, Serialize, Deserialize)]
pub struct Receipt {
    /// The shot.
    pub shot: String,
    /// True when every file agrees with the solve. Not whether the camera is good.
    #[serde(alias = "proven")]
    pub files_agree: bool,
    /// Whether the camera is good, and why not; unknown in receipts of before this was said.
    #[serde(default)]
    pub camera: Option<CameraStanding>,
    /// What was taken for granted because nobody stated it.
    #[serde(default)]
    pub assumptions: Vec<String>,
    /// What changed since the solve; empty unless it is stale.
    #[serde(default)]
    pub stale: Vec<String>,
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
    let named = |file| delivery.named(file);
    let (camera, scene) = (read(&named(CAMERA_FILE))?, read(&named(SCENE_FILE))?);
    let mut files = vec![
        file_receipt(
            named(CAMERA_FILE),
            &camera,
            "all landmarks through the camera of every frame, lens included; names",
            check_camera(delivery, &camera)?,
        ),
        scene_receipt(delivery, named(SCENE_FILE), &scene)?,
    ];
    if !delivery.tracks.is_empty() {
        let tracks = read(&named(TRACKS_FILE))?;
        let off_px = check_tracks(delivery, &tracks)?;
        let compared = "every position of every track; names and groups";
        files.push(file_receipt(named(TRACKS_FILE), &tracks, compared, off_px));
    }
    let largest = files
        .iter()
        .map(|f| f.largest_difference_px)
        .fold(0.0, f64::max);
    let number = |camera: Option<&delivery::Camera>| camera.map_or(0, |c| c.frame.0);
    Ok(Receipt {
        shot: delivery.shot.clone(),
        files_agree: largest <= PROVEN_PX,
        camera: Some(delivery.standing.clone()),
        assumptions: delivery.assumptions(),
        stale: delivery.stale.clone(),
        largest_difference_px: largest,
        rate: delivery.rate.to_string(),
        range: [
            number(delivery.cameras.first()),
            number(delivery.cameras.last()),
        ],
        units: if delivery.scaled { "metre" } else { "no scale" }.to_owned(),
        up_axis: delivery.receiver.to_string(),
        compared_points: delivery.points.len(),
        compared_frames: delivery.cameras.len(),
        files,
    })
}

fn scene_receipt(
    delivery: &Delivery<'_>,
    file: String,
    text: &str,
) -> Result<FileReceipt, DeliveryError> {
    let hand = match delivery.receiver.hand {
        Hand::Right => "",
        Hand::Left => "; right-handed, as OpenUSD always is",
    };
    let compared = format!(
        "all landmarks through the camera of every frame, undistorted, in single precision; \
         stand-ins corner by corner; lens terms; names{hand}"
    );
    let mut receipt = file_receipt(file, text, &compared, check_scene(delivery, text)?);
    if !delivery.lens.distortion.is_none() {
        receipt.lacks.push(
            "lens distortion: its camera is that of the undistorted picture. Model, terms and \
             centre stand in the layer's data, which programs do not apply by themselves"
                .to_owned(),
        );
    }
    if delivery.points.iter().any(|p| p.covariance.is_some()) {
        receipt.lacks.push("errors of landmarks".to_owned());
    }
    Ok(receipt)
}

fn file_receipt(
    file: String,
    text: &str,
    compared: &str,
    largest_difference_px: f64,
) -> FileReceipt {
    let digest = Sha256::digest(text.as_bytes());
    FileReceipt {
        file,
        bytes: text.len(),
        sha256: digest.iter().map(|b| format!("{b:02x}")).collect(),
        compared: compared.to_owned(),
        largest_difference_px,
        lacks: Vec::new(),
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
    for ((frame, read_lens, read_pose), solved) in cameras.iter().zip(&delivery.cameras) {
        if *frame != solved.frame.0 {
            return Err(unreadable(
                file,
                format!("frame {frame} stands where frame {} belongs", solved.frame),
            ));
        }
        let (lens, solved_pose) = (&lens.with_focal(solved.focal_px), &solved.pose);
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
    let mut both = file.points.iter().zip(&delivery.points);
    if !both.all(|(read, p)| read.name == p.name) {
        return Err(unreadable(CAMERA_FILE, "its landmarks have other names"));
    }
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
    check_lens(delivery, &data).map_err(|term| bad(format!("its lens term {term} is another")))?;
    let root = layer
        .prims
        .first()
        .ok_or_else(|| bad("it is empty".to_owned()))?;
    let camera = root
        .find("Camera")
        .ok_or_else(|| bad("it holds no camera".to_owned()))?;
    let up = match layer.metadata.get("upAxis").and_then(|v| v.text()) {
        Some("Y") => Up::Y,
        Some("Z") => Up::Z,
        _ => return Err(bad("the up axis is not stated".to_owned())),
    };
    if up != delivery.receiver.up {
        return Err(bad("the up axis is another".to_owned()));
    }
    let cameras = scene_cameras(delivery, camera, up)
        .ok_or_else(|| bad("the camera's motion or film back is incomplete".to_owned()))?;
    let points = root.find("Points");
    check_names(delivery, points).map_err(|reason| bad(reason.to_owned()))?;
    let landmarks = root.find("Points").and_then(|p| p.attributes.get("points"));
    let numbers = landmarks.map(|v| v.numbers()).unwrap_or_default();
    let points: Vec<WorldPoint> = numbers.chunks_exact(3).map(|c| upright(up, c)).collect();
    let straight = Intrinsics {
        distortion: Distortion::NONE,
        ..delivery.lens
    };
    let seen = largest_distance(SCENE_FILE, delivery, &straight, &cameras, &points)?;
    Ok(seen.max(guests_difference(delivery, root, &straight, up)?))
}

/// Whether the scene's landmarks have the names that they were given.
fn check_names(
    delivery: &Delivery<'_>,
    points: Option<&usda_reader::Prim>,
) -> Result<(), &'static str> {
    let names = points.and_then(|p| p.attributes.get("names"));
    let names = names.and_then(|v| v.list()).unwrap_or_default();
    let plain = |name: &str| name.chars().filter(|c| !c.is_control()).collect::<String>();
    let wanted = delivery.points.iter().map(|p| plain(&p.name));
    let same = names
        .iter()
        .zip(wanted)
        .all(|(read, name)| read.text() == Some(name.as_str()));
    let complete = names.len() == delivery.points.len();
    if same && complete {
        Ok(())
    } else {
        Err("its landmarks have other names")
    }
}

/// The term of the lens that the layer's data state otherwise.
fn check_lens(
    delivery: &Delivery<'_>,
    data: &std::collections::BTreeMap<String, usda_reader::Value>,
) -> Result<(), &'static str> {
    let (lens, terms) = (&delivery.lens, &delivery.lens.distortion);
    if data.get("lensModel").and_then(|v| v.text()) != Some("brown") {
        return Err("lensModel");
    }
    let wanted = [
        ("k1", terms.k1),
        ("k2", terms.k2),
        ("k3", terms.k3),
        ("p1", terms.p1),
        ("p2", terms.p2),
        ("k1ByZoom", terms.k1_by_zoom),
        ("lensFocalPx", lens.focal_px),
        ("lensCentreX", lens.centre.x),
        ("lensCentreY", lens.centre.y),
    ];
    let stated = |name: &str| data.get(name).and_then(|v| v.number());
    match wanted
        .into_iter()
        .find(|(name, value)| stated(name) != Some(*value))
    {
        Some((name, _)) => Err(name),
        None => Ok(()),
    }
}

/// How the scene's camera draws on a frame; a focal length that changes is stated by frame.
fn scene_lens(
    delivery: &Delivery<'_>,
    camera: &usda_reader::Prim,
    frame: &str,
) -> Option<Intrinsics> {
    let number = |name: &str| camera.attributes.get(name)?.number();
    let (width, height) = (
        f64::from(delivery.lens.width_px),
        f64::from(delivery.lens.height_px),
    );
    let px_per_mm = width / number("horizontalAperture")?;
    let focal_mm = match camera.attributes.get("focalLength.timeSamples") {
        Some(usda_reader::Value::Map(samples)) => samples.get(frame)?.number()?,
        Some(_) => return None,
        None => number("focalLength")?,
    };
    Some(Intrinsics {
        focal_px: focal_mm * px_per_mm,
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

fn scene_cameras(
    delivery: &Delivery<'_>,
    camera: &usda_reader::Prim,
    up: Up,
) -> Option<Vec<ReadCamera>> {
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
            scene_lens(delivery, camera, frame)?,
            Pose::from_world_from_camera(&matrix)?,
        ));
    }
    out.sort_by_key(|c: &ReadCamera| c.0);
    Some(out)
}

/// Corners of a guest that are projected on every frame.
const MOST_PROJECTED: usize = 5_000;
/// Rounding of a file that holds 32 bits, share, with room.
const SINGLE: f64 = 1e-6;

fn guests_difference(
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
    if meshes.len() != delivery.guests.len() {
        return Err(unreadable(SCENE_FILE, "guests are missing"));
    }
    let mut largest: f64 = 0.0;
    for (mesh, guest) in meshes.iter().zip(&delivery.guests) {
        let of = |name: &str| mesh.attributes.get(name).map(|v| v.numbers());
        let numbers = of("points").unwrap_or_default();
        let indices = of("faceVertexIndices").unwrap_or_default();
        let named = guest.mesh.triangles.iter().flatten();
        if numbers.len() != 3 * guest.mesh.points.len() || !named.map(|k| f64::from(*k)).eq(indices)
        {
            return Err(unreadable(
                SCENE_FILE,
                "a guest has other corners or triangles",
            ));
        }
        // Every corner in space; on screen as many as tell.
        let some = guest.mesh.points.len().div_ceil(MOST_PROJECTED).max(1);
        for (at, (read, corner)) in numbers.chunks_exact(3).zip(guest.corners()).enumerate() {
            let read = upright(up, read);
            if read.distance(corner) > SINGLE * (1.0 + corner.0.coords.norm()) {
                return Err(unreadable(SCENE_FILE, "a corner of a guest lies elsewhere"));
            }
            if at % some != 0 {
                continue;
            }
            for camera in &delivery.cameras {
                let (lens, pose) = (lens.with_focal(camera.focal_px), &camera.pose);
                let both = lens.project(pose, &read).zip(lens.project(pose, &corner));
                largest = largest.max(
                    both.filter(|(_, c)| near_picture(&lens, c))
                        .map_or(0.0, |(a, b)| a.distance_px(b)),
                );
            }
        }
    }
    Ok(largest)
}

fn check_tracks(delivery: &Delivery<'_>, text: &str) -> Result<f64, DeliveryError> {
    let bad = |reason: String| unreadable(TRACKS_FILE, reason);
    let read = tracks_reader::read_csv(text).map_err(|e| bad(e.to_string()))?;
    let identities = read.identities.iter().map(String::as_str);
    let by_identity: HashMap<&str, usize> = identities.enumerate().map(|(i, t)| (t, i)).collect();
    let mut largest: f64 = 0.0;
    for (track, called) in &delivery.tracks {
        let name = track.id.to_string();
        let found = by_identity.get(name.as_str()).map(|i| &read.tracks[*i]);
        let Some(found) = found.filter(|f| f.samples.len() == track.samples.len()) else {
            return Err(bad(format!("track {name} is incomplete")));
        };
        let wanted = if called.name.is_empty() {
            &name
        } else {
            &called.name
        };
        let group = read.groups.get(&found.id).map_or("", String::as_str);
        let named = read
            .names
            .get(&found.id)
            .is_some_and(|n| n == wanted.trim());
        if !named || group != called.group.trim() {
            return Err(bad(format!("track {name} is called otherwise")));
        }
        for (a, b) in found.samples.iter().zip(&track.samples) {
            let off_px = if a.frame == b.frame {
                a.px.distance_px(b.px)
            } else {
                f64::INFINITY
            };
            largest = largest.max(off_px);
        }
    }
    if largest.is_finite() {
        Ok(largest)
    } else {
        Err(bad("frames are mixed up".to_owned()))
    }
}
