//! A glTF file read back by the `gltf` crate and held against what was solved.

use super::{BYTES_FILE, SEPARATE_FILE, TOGETHER_FILE, of_material};
use crate::delivery::{Delivered, Delivery, DeliveryError, MovingBody};
use crate::meshes::textures;
use crate::receipt::compare::{self, ReadCamera, straight};
use crate::receipt::{FileReceipt, Held, unreadable};
use gltf::animation::util::ReadOutputs;
use nalgebra::{Isometry3, Point3, Quaternion, Translation3, UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::scene::{Hand, LengthUnit, Up};
use parallax_core::spaces::{PlatePx, WorldPoint};
use serde_json::Value;
use std::collections::HashMap;

/// Of the one file.
pub fn together(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
) -> Result<Vec<FileReceipt>, DeliveryError> {
    let file = delivery.named(TOGETHER_FILE);
    let bytes = files.bytes(&file)?;
    let glb = gltf::Glb::from_slice(bytes).map_err(|e| unreadable(&file, e))?;
    let (read, json) = opened(&file, bytes, &glb.json)?;
    let blob = read.blob.as_deref().unwrap_or_default();
    pictures(delivery, &file, &read, blob)?;
    let off = held(
        delivery,
        &file,
        &Read {
            read: &read,
            blob,
            json: &json,
        },
    )?;
    Ok(vec![said(delivery, files, &file, off)?])
}

/// Of the scene with bytes and pictures beside it.
pub fn separate(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
) -> Result<Vec<FileReceipt>, DeliveryError> {
    let file = delivery.named(SEPARATE_FILE);
    let bytes = files.bytes(&file)?;
    let bad = |e: &dyn std::fmt::Display| unreadable(&file, e);
    let (read, json) = opened(&file, bytes, bytes)?;
    let beside = delivery.named(BYTES_FILE);
    let mut receipts = Vec::new();
    let mut blob: &[u8] = &[];
    for buffer in read.buffers() {
        let gltf::buffer::Source::Uri(uri) = buffer.source() else {
            return Err(bad(&"its bytes are nowhere"));
        };
        if decoded(uri) != beside {
            return Err(bad(&"it names other bytes"));
        }
        blob = files.bytes(&beside)?;
        receipts.push(FileReceipt::of(&beside, files, "with the scene", 0.0)?);
    }
    for image in read.images() {
        match image.source() {
            gltf::image::Source::Uri { uri, .. } if files.has(&decoded(uri)) => {}
            _ => return Err(bad(&"it names a picture that is not there")),
        }
    }
    let off = held(
        delivery,
        &file,
        &Read {
            read: &read,
            blob,
            json: &json,
        },
    )?;
    receipts.insert(0, said(delivery, files, &file, off)?);
    receipts.extend(textures::receipts(delivery, files)?);
    Ok(receipts)
}

/// A file as the library reads it, and its text for what the library leaves aside.
fn opened(file: &str, bytes: &[u8], text: &[u8]) -> Result<(gltf::Gltf, Value), DeliveryError> {
    let json = serde_json::from_slice(text).map_err(|e| unreadable(file, e))?;
    let read = gltf::Gltf::from_slice(bytes).map_err(|e| unreadable(file, e))?;
    Ok((read, json))
}

fn decoded(uri: &str) -> String {
    percent_encoding::percent_decode_str(uri)
        .decode_utf8_lossy()
        .into_owned()
}

fn said(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
    file: &str,
    off: f64,
) -> Result<FileReceipt, DeliveryError> {
    let receiver = delivery.receiver;
    let other =
        receiver.up != Up::Y || receiver.hand != Hand::Right || receiver.unit != LengthUnit::Metre;
    let axes = match other {
        true => "; right-handed, Y up and in metres, as glTF always is",
        false => "",
    };
    let compared = format!(
        "places of the scene through the camera of every frame, undistorted, in single precision; \
         guests and set corner by corner; bodies on every frame; pictures; names; seconds{axes}"
    );
    let lens = &delivery.lens;
    let middle = PlatePx::new(
        f64::from(lens.width_px) / 2.0,
        f64::from(lens.height_px) / 2.0,
    );
    Ok(FileReceipt::of(file, files, compared, off)?
        .lacking(
            !lens.distortion.is_none(),
            "lens distortion: its camera is that of the undistorted picture. Model, terms and \
             centre stand in the camera's extras, which programs do not apply by themselves",
        )
        .lacking(
            delivery.zooms(),
            "a focal length that changes: the camera has that of the first frame; all of them stand in its extras",
        )
        .lacking(
            lens.centre.distance_px(middle) > 1e-9,
            "a centre beside the middle of the picture: it stands in the camera's extras",
        ))
}

/// A file as read: by the library, and its text for what the library leaves aside.
struct Read<'a> {
    read: &'a gltf::Gltf,
    blob: &'a [u8],
    json: &'a Value,
}

/// Places, turns and sizes of a node over time.
#[derive(Default)]
struct Motion {
    seconds: Vec<f32>,
    places: Vec<[f32; 3]>,
    turns: Vec<[f32; 4]>,
    sizes: Vec<[f32; 3]>,
}

impl Motion {
    /// Place, turn and size on a frame.
    fn at(&self, frame: usize) -> Option<([f32; 3], [f32; 4], [f32; 3])> {
        let (place, turn) = self.places.get(frame).zip(self.turns.get(frame))?;
        Some((*place, *turn, *self.sizes.get(frame)?))
    }
}

impl Read<'_> {
    fn motions(&self) -> HashMap<usize, Motion> {
        let mut out: HashMap<usize, Motion> = HashMap::new();
        for channel in self
            .read
            .animations()
            .flat_map(|a| a.channels().collect::<Vec<_>>())
        {
            let reader = channel.reader(|buffer| (buffer.index() == 0).then_some(self.blob));
            let motion = out.entry(channel.target().node().index()).or_default();
            motion.seconds = reader
                .read_inputs()
                .map(Iterator::collect)
                .unwrap_or_default();
            match reader.read_outputs() {
                Some(ReadOutputs::Translations(all)) => motion.places = all.collect(),
                Some(ReadOutputs::Rotations(all)) => motion.turns = all.into_f32().collect(),
                Some(ReadOutputs::Scales(all)) => motion.sizes = all.collect(),
                _ => {}
            }
        }
        out
    }
}

fn turn([x, y, z, w]: [f32; 4]) -> UnitQuaternion<f64> {
    let parts = [w, x, y, z].map(f64::from);
    UnitQuaternion::from_quaternion(Quaternion::new(parts[0], parts[1], parts[2], parts[3]))
}

fn held(delivery: &Delivery<'_>, file: &str, read: &Read<'_>) -> Result<f64, DeliveryError> {
    let bad = |reason: &str| unreadable(file, reason);
    let about = &read.json["scenes"][0]["extras"];
    if about["rate"].as_str() != Some(&delivery.rate.to_string()) {
        return Err(bad("the rate is another"));
    }
    let motions = read.motions();
    let lens = straight(&delivery.lens);
    let cameras = cameras(delivery, read, &motions)
        .ok_or_else(|| bad("the camera's motion or focal length is incomplete"))?;
    let seen = compare::cameras(file, delivery, &lens, &cameras)?;
    let points = landmarks(delivery, read).ok_or_else(|| bad("its landmarks have other names"))?;
    let off = compare::points(file, delivery, &lens, &points)?;
    let mut largest = seen.max(off);
    for (group, wanted) in [("guests", &delivery.guests), ("set", &delivery.set)] {
        let found = below(read, group);
        if found.len() != wanted.len() {
            return Err(bad(&format!("something is missing of {group}")));
        }
        for (node, guest) in found.iter().zip(wanted) {
            if node.name() != Some(&guest.name) {
                return Err(bad(&format!("something of {group} is called otherwise")));
            }
            let motion = motions.get(&node.index());
            let off = guest_off(delivery, (file, read), node, (guest, motion))?;
            largest = largest.max(off);
        }
    }
    let found = below(read, "bodies");
    if found.len() != delivery.bodies.len() {
        return Err(bad("bodies are missing"));
    }
    for (node, body) in found.iter().zip(&delivery.bodies) {
        let motion = motions.get(&node.index());
        largest = largest.max(body_off((file, delivery, &lens), node, body, motion)?);
    }
    Ok(largest)
}

/// Nodes inside the group of a name.
fn below<'a>(read: &Read<'a>, name: &str) -> Vec<gltf::Node<'a>> {
    let tops = read
        .read
        .scenes()
        .flat_map(|s| s.nodes().collect::<Vec<_>>());
    let group = tops
        .filter(|n| n.name() == Some(name) && n.camera().is_none())
        .last();
    group.map(|g| g.children().collect()).unwrap_or_default()
}

fn cameras(
    delivery: &Delivery<'_>,
    read: &Read<'_>,
    motions: &HashMap<usize, Motion>,
) -> Option<Vec<ReadCamera>> {
    let node = read.read.nodes().find(|n| n.camera().is_some())?;
    let camera = node.camera()?;
    let gltf::camera::Projection::Perspective(view) = camera.projection() else {
        return None;
    };
    let lens = &delivery.lens;
    let height = f64::from(lens.height_px);
    let focal = height / 2.0 / (f64::from(view.yfov()) / 2.0).tan();
    let extras = &read.json["cameras"][0]["extras"];
    let number = |value: &Value| value.as_f64();
    let centre = PlatePx::new(
        number(&extras["centre_px"][0])?,
        number(&extras["centre_px"][1])?,
    );
    let by_frame: HashMap<i64, f64> = extras["focal_px_by_frame"]
        .as_array()
        .into_iter()
        .flatten()
        .filter_map(|pair| Some((pair[0].as_i64()?, number(&pair[1])?)))
        .collect();
    let standing = |place: [f32; 3], turned: [f32; 4]| {
        let place = Vector3::from(place).cast::<f64>() / delivery.receiver.scale;
        let world_from_camera = Isometry3::from_parts(Translation3::from(place), turn(turned));
        Pose {
            camera_from_world: world_from_camera.inverse(),
        }
    };
    let aspect = f64::from(view.aspect_ratio()?);
    if (aspect - f64::from(lens.width_px) / height).abs() > 1e-5 {
        return None;
    }
    let first = delivery.cameras.first()?.frame;
    let of = |frame: i32, pose: Pose| {
        let zoomed = by_frame.get(&i64::from(frame)).copied();
        let read = Intrinsics {
            focal_px: zoomed.unwrap_or(focal),
            centre,
            ..straight(lens)
        };
        (frame, read, pose)
    };
    let Some(motion) = motions.get(&node.index()) else {
        let (place, turned, _) = node.transform().decomposed();
        return Some(vec![of(first.0, standing(place, turned))]);
    };
    let mut out = Vec::new();
    for ((seconds, place), turned) in motion.seconds.iter().zip(&motion.places).zip(&motion.turns) {
        let frame = f64::from(first.0) + f64::from(*seconds) * delivery.rate.as_f64();
        if (frame - frame.round()).abs() > 1e-2 {
            return None;
        }
        out.push(of(frame.round() as i32, standing(*place, *turned)));
    }
    Some(out)
}

fn landmarks(delivery: &Delivery<'_>, read: &Read<'_>) -> Option<Vec<WorldPoint>> {
    let mut found = HashMap::new();
    for node in below(read, "landmarks") {
        let ([x, y, z], ..) = node.transform().decomposed();
        let place = [x, y, z].map(|v| f64::from(v) / delivery.receiver.scale);
        found.insert(
            node.name()?.to_owned(),
            WorldPoint::new(place[0], place[1], place[2]),
        );
    }
    let of = |p: &crate::delivery::Landmark| found.get(&p.name).copied();
    let places: Option<Vec<_>> = delivery.points.iter().map(of).collect();
    places.filter(|p| p.len() == found.len())
}

fn guest_off(
    delivery: &Delivery<'_>,
    (file, read): (&str, &Read<'_>),
    node: &gltf::Node<'_>,
    (guest, motion): (&Delivered, Option<&Motion>),
) -> Result<f64, DeliveryError> {
    let bad = |reason: &str| unreadable(file, reason);
    let corners =
        surface(read, node, guest).ok_or_else(|| bad("a guest has other corners or triangles"))?;
    let placed = |stand| stood(&corners, stand, delivery.receiver.scale);
    let frames = delivery.cameras.len();
    let Some(motion) = motion else {
        let (place, turned, size) = node.transform().decomposed();
        let moves = !guest.moves.is_empty() && frames > 1;
        if moves {
            return Err(bad("a guest that moves stands still in it"));
        }
        return compare::corners(
            file,
            delivery,
            guest,
            &placed((place, turned, size)),
            (0, 0..frames),
        );
    };
    let counts = [motion.places.len(), motion.turns.len(), motion.sizes.len()];
    if counts != [frames; 3] {
        return Err(bad("the motion of a guest is incomplete"));
    }
    let mut largest: f64 = 0.0;
    for at in 0..frames {
        let there = placed((motion.places[at], motion.turns[at], motion.sizes[at]));
        largest = largest.max(compare::corners(
            file,
            delivery,
            guest,
            &there,
            (at, at..at + 1),
        )?);
    }
    Ok(largest)
}

/// The landmarks of a body on every frame.
fn body_off(
    (file, delivery, lens): (&str, &Delivery<'_>, &Intrinsics),
    node: &gltf::Node<'_>,
    body: &MovingBody,
    motion: Option<&Motion>,
) -> Result<f64, DeliveryError> {
    let bad = |reason: &str| unreadable(file, reason);
    let points: Vec<_> = node.children().collect();
    let names = points.iter().map(gltf::Node::name);
    let wanted = body.points.iter().map(|p| Some(p.name.as_str()));
    if node.name() != Some(&body.name) || !names.eq(wanted) {
        return Err(bad("a body or its landmarks are called otherwise"));
    }
    let own: Vec<[f32; 3]> = points
        .iter()
        .map(|p| p.transform().decomposed().0)
        .collect();
    let mut largest: f64 = 0.0;
    for at in 0..delivery.cameras.len() {
        let stand = match motion {
            None if delivery.cameras.len() == 1 => Some(node.transform().decomposed()),
            None => None,
            Some(motion) => motion.at(at),
        };
        let stand = stand.ok_or_else(|| bad("the motion of a body is incomplete"))?;
        let read = stood(&own, stand, delivery.receiver.scale);
        let both = (&read[..], &body.places(at)[..]);
        largest = largest.max(compare::places(file, delivery, lens, both, at)?);
    }
    Ok(largest)
}

/// Corners in their own space where a node's place, turn and size put them, in our world.
fn stood(
    own: &[[f32; 3]],
    (place, turned, size): ([f32; 3], [f32; 4], [f32; 3]),
    scale: f64,
) -> Vec<WorldPoint> {
    let (place, turned) = (Vector3::from(place).cast::<f64>(), turn(turned));
    let stood = |c: &[f32; 3]| {
        let sized = Vector3::from(*c).cast::<f64>() * f64::from(size[0]);
        WorldPoint(Point3::from((turned * sized + place) / scale))
    };
    own.iter().map(stood).collect()
}

/// The corners of a guest where its triangles are those that were handed on.
fn surface(read: &Read<'_>, node: &gltf::Node<'_>, guest: &Delivered) -> Option<Vec<[f32; 3]>> {
    let mesh = &guest.mesh;
    let Some(found) = node.mesh() else {
        return mesh.triangles.is_empty().then(Vec::new);
    };
    let mut corners = Vec::new();
    let mut primitives = found.primitives();
    for material in 0..mesh.materials.len() {
        let wanted: Vec<u32> = of_material(mesh, material).flatten().collect();
        if wanted.is_empty() {
            continue;
        }
        let primitive = primitives.next()?;
        let reader = primitive.reader(|buffer| (buffer.index() == 0).then_some(read.blob));
        let indices: Vec<u32> = reader.read_indices()?.into_u32().collect();
        let own = &mesh.materials[material];
        let colour = primitive.material().pbr_metallic_roughness();
        let same = indices == wanted
            && colour.base_color_factor() == own.colour
            && colour.base_color_texture().is_some() == own.texture.is_some();
        if !same {
            return None;
        }
        corners = reader.read_positions()?.collect();
    }
    primitives.next().is_none().then_some(corners)
}

/// That each picture in the file is what it was, px by px.
fn pictures(
    delivery: &Delivery<'_>,
    file: &str,
    read: &gltf::Gltf,
    blob: &[u8],
) -> Result<(), DeliveryError> {
    let bad = |reason: &str| unreadable(file, reason);
    let all = delivery
        .guests
        .iter()
        .filter(|g| !g.mesh.triangles.is_empty());
    let mut wanted = all.flat_map(|g| &g.mesh.textures);
    for image in read.images() {
        let gltf::image::Source::View { view, .. } = image.source() else {
            return Err(bad("a picture is not in it"));
        };
        let texture = wanted
            .next()
            .ok_or_else(|| bad("there are too many pictures"))?;
        let bytes = blob.get(view.offset()..view.offset() + view.length());
        let bytes = bytes.ok_or_else(|| bad("a picture is cut off"))?;
        let most = u64::from(texture.width) * u64::from(texture.height);
        let read = parallax_media::texture::decode(bytes, most);
        if read.map_err(|e| unreadable(file, e))? != **texture {
            return Err(bad("a picture is another"));
        }
    }
    match wanted.next() {
        Some(_) => Err(bad("a picture is missing")),
        None => Ok(()),
    }
}
