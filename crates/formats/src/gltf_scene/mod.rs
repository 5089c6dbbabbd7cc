//! glTF 2.0: a camera that moves, landmarks as named nodes, guests with their materials; as one file, or with bytes and
//! pictures beside it.
//!
//! The format is right-handed, Y up and in metres by definition, and counts seconds: a receiver's other axes and units
//! are left aside, its scale is kept. A camera of it has one focal length and looks through its middle: where the focal
//! length changes or the centre lies elsewhere, both are stated in the camera's extras, frame by frame, and the receipt
//! says so. Lens distortion is stated there as well.

mod binary;
mod check;
mod surface;

pub use binary::{Binary, wrapped};
pub use surface::{Surfaces, of_material};

use crate::delivery::package::NamedBytes;
use crate::delivery::{Camera, Delivered, Delivery, DeliveryError};
use crate::format::Format;
use crate::meshes::textures;
use crate::receipt::{FileReceipt, Held};
use nalgebra::UnitQuaternion;
use parallax_core::camera::{Pose, Similarity};
use serde_json::{Value, json};

/// The scene in one file.
pub const TOGETHER_FILE: &str = "scene.glb";
/// The scene with the rest beside it.
pub const SEPARATE_FILE: &str = "scene.gltf";
/// The bytes beside it.
pub const BYTES_FILE: &str = "scene.bin";

/// Everything in one file.
pub struct Together;

/// Bytes and pictures beside the scene.
pub struct Separate;

impl Format for Together {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        let mut scene = Scene::of(delivery);
        let images: Vec<Value> = scene
            .surfaces
            .pictures
            .iter()
            .map(|(name, png)| json!({ "name": name, "bufferView": scene.binary.view(png, None), "mimeType": "image/png" }))
            .collect();
        let root = scene.root(images, None);
        let file = wrapped(root.to_string().into_bytes(), scene.binary.bytes);
        Ok(vec![(delivery.named(TOGETHER_FILE), file)])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        check::together(delivery, files)
    }
}

impl Format for Separate {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        let scene = Scene::of(delivery);
        let image = |(name, _): &(String, Vec<u8>)| json!({ "name": name, "uri": uri(name) });
        let images = scene.surfaces.pictures.iter().map(image).collect();
        let bytes = delivery.named(BYTES_FILE);
        let root = scene.root(images, Some(&bytes));
        let text = serde_json::to_vec_pretty(&root)?;
        let mut files = vec![(delivery.named(SEPARATE_FILE), text)];
        if !scene.binary.bytes.is_empty() {
            files.push((bytes, scene.binary.bytes));
        }
        files.extend(scene.surfaces.pictures);
        Ok(files)
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        check::separate(delivery, files)
    }
}

/// A file name as an address.
fn uri(name: &str) -> String {
    percent_encoding::utf8_percent_encode(name, percent_encoding::NON_ALPHANUMERIC)
        .to_string()
        .replace("%2E", ".")
        .replace("%2D", "-")
        .replace("%5F", "_")
}

/// A file as it is built.
#[derive(Default)]
struct Scene {
    binary: Binary,
    surfaces: Surfaces,
    nodes: Vec<Value>,
    camera: Value,
    samplers: Vec<Value>,
    channels: Vec<Value>,
    extras: Value,
    name: String,
}

impl Scene {
    fn of(delivery: &Delivery<'_>) -> Self {
        let mut scene = Self {
            name: delivery.shot.clone(),
            extras: about(delivery),
            camera: camera(delivery),
            ..Self::default()
        };
        let seconds = delivery
            .cameras
            .iter()
            .map(|c| [delivery.seconds(c.frame) as f32]);
        let seconds: Vec<[f32; 1]> = seconds.collect();
        let times = (seconds.len() > 1).then(|| scene.binary.samples(&seconds, "SCALAR"));
        scene.add_camera(delivery, times);
        scene.add_landmarks(delivery);
        scene.add_surfaces(delivery, times, "guests", &delivery.guests);
        scene.add_surfaces(delivery, times, "set", &delivery.set);
        scene.add_bodies(delivery, times);
        scene
    }

    fn add(&mut self, node: Value) -> usize {
        self.nodes.push(node);
        self.nodes.len() - 1
    }

    /// A node that moves along a path of places and turns, and grows where sizes are given.
    fn animate(&mut self, node: usize, times: usize, stands: &[Stand], sized: bool) {
        let places: Vec<[f32; 3]> = stands.iter().map(|s| s.place.map(|v| v as f32)).collect();
        let turns: Vec<[f32; 4]> = stands.iter().map(|s| s.turn.map(|v| v as f32)).collect();
        let mut paths = vec![
            ("translation", self.binary.samples(&places, "VEC3")),
            ("rotation", self.binary.samples(&turns, "VEC4")),
        ];
        if sized {
            let sizes: Vec<[f32; 3]> = stands.iter().map(|s| [s.scale as f32; 3]).collect();
            paths.push(("scale", self.binary.samples(&sizes, "VEC3")));
        }
        for (path, output) in paths {
            let sampler = self.samplers.len();
            self.samplers
                .push(json!({ "input": times, "interpolation": "LINEAR", "output": output }));
            self.channels
                .push(json!({ "sampler": sampler, "target": { "node": node, "path": path } }));
        }
    }

    fn add_camera(&mut self, delivery: &Delivery<'_>, times: Option<usize>) {
        let scale = delivery.receiver.scale;
        let stands = delivery
            .cameras
            .iter()
            .map(|c| Stand::of_pose(&c.pose, scale));
        let stands = ongoing(stands);
        let mut node = json!({ "name": "camera", "camera": 0 });
        if let Some(first) = stands.first() {
            node["translation"] = json!(first.place);
            node["rotation"] = json!(first.turn);
        }
        let camera = self.add(node);
        if let Some(times) = times {
            self.animate(camera, times, &stands, false);
        }
    }

    fn add_landmarks(&mut self, delivery: &Delivery<'_>) {
        if delivery.points.is_empty() {
            return;
        }
        let metres = delivery.receiver.in_metres();
        let mut children = Vec::new();
        for point in &delivery.points {
            let sigma = point.covariance.map(|c| metres.sigma(c.sigma()));
            let mut extras = json!({ "residual_px": point.residual_px });
            if let Some(sigma) = sigma {
                extras["sigma"] = json!(sigma);
            }
            if !point.group.is_empty() {
                extras["group"] = json!(point.group);
            }
            children.push(self.add(json!({
                "name": point.name, "translation": metres.point(&point.place), "extras": extras,
            })));
        }
        self.add(json!({ "name": "landmarks", "children": children }));
    }

    fn add_surfaces(
        &mut self,
        delivery: &Delivery<'_>,
        times: Option<usize>,
        group: &str,
        all: &[Delivered],
    ) {
        if all.is_empty() {
            return;
        }
        let mut children = Vec::new();
        for (index, guest) in all.iter().enumerate() {
            // Planes of the set have none.
            let pictures = match guest.mesh.textures.is_empty() {
                true => Vec::new(),
                false => textures::named(delivery, index),
            };
            let mesh = (!guest.mesh.triangles.is_empty()).then(|| {
                self.surfaces
                    .add(&mut self.binary, &guest.name, &guest.mesh, &pictures)
            });
            let of = |there: &Similarity| Stand::of_similarity(there, delivery.receiver.scale);
            let first = of(&guest.there);
            let mut node = json!({
                "name": guest.name, "translation": first.place, "rotation": first.turn, "scale": [first.scale, first.scale, first.scale],
            });
            if let Some(mesh) = mesh {
                node["mesh"] = json!(mesh);
            }
            let node = self.add(node);
            if let Some(times) = times.filter(|_| !guest.moves.is_empty()) {
                let stands = ongoing(guest.moves.iter().map(of));
                self.animate(node, times, &stands, true);
            }
            children.push(node);
        }
        self.add(json!({ "name": group, "children": children }));
    }

    /// Bodies, each with its landmarks below it in its own space.
    fn add_bodies(&mut self, delivery: &Delivery<'_>, times: Option<usize>) {
        if delivery.bodies.is_empty() {
            return;
        }
        let mut bodies = Vec::new();
        for body in &delivery.bodies {
            let mut points = Vec::new();
            for point in &body.points {
                let own: [f64; 3] = point.place.0.coords.into();
                points.push(self.add(json!({ "name": point.name, "translation": own })));
            }
            let of = |there: &Similarity| Stand::of_similarity(there, delivery.receiver.scale);
            let stands = ongoing(body.moves.iter().map(of));
            let mut node = json!({
                "name": body.name, "children": points,
                "extras": { "distance_by": body.distance_by, "seen": [body.seen[0].0, body.seen[1].0] },
            });
            if let Some(first) = stands.first() {
                node["translation"] = json!(first.place);
                node["rotation"] = json!(first.turn);
                node["scale"] = json!([first.scale, first.scale, first.scale]);
            }
            let node = self.add(node);
            if let Some(times) = times {
                self.animate(node, times, &stands, true);
            }
            bodies.push(node);
        }
        self.add(json!({ "name": "bodies", "children": bodies }));
    }

    fn root(&self, images: Vec<Value>, bytes: Option<&str>) -> Value {
        // Groups come after what they hold: whatever is in none stands at the top.
        let held: std::collections::HashSet<u64> = self
            .nodes
            .iter()
            .filter_map(|n| n["children"].as_array())
            .flatten()
            .filter_map(Value::as_u64)
            .collect();
        let tops: Vec<usize> = (0..self.nodes.len())
            .filter(|k| !held.contains(&(*k as u64)))
            .collect();
        let mut root = json!({
            "asset": { "version": "2.0", "generator": concat!("True Parallax ", env!("CARGO_PKG_VERSION")) },
            "scene": 0,
            "scenes": [{ "name": self.name, "nodes": tops, "extras": self.extras }],
            "nodes": self.nodes,
            "cameras": [self.camera],
        });
        let mut some = |name: &str, values: Vec<Value>| {
            if !values.is_empty() {
                root[name] = json!(values);
            }
        };
        some("meshes", self.surfaces.meshes.clone());
        some("materials", self.surfaces.materials.clone());
        some(
            "textures",
            (0..images.len()).map(|k| json!({ "source": k })).collect(),
        );
        some("images", images);
        some("accessors", self.binary.accessors.clone());
        some("bufferViews", self.binary.views.clone());
        if !self.channels.is_empty() {
            let motion =
                json!({ "name": "shot", "channels": self.channels, "samplers": self.samplers });
            some("animations", vec![motion]);
        }
        if !self.binary.bytes.is_empty() {
            let mut buffer = json!({ "byteLength": self.binary.bytes.len() });
            if let Some(name) = bytes {
                buffer["uri"] = json!(uri(name));
            }
            some("buffers", vec![buffer]);
        }
        root
    }
}

/// Where a node stands.
struct Stand {
    place: [f64; 3],
    /// x, y, z, w.
    turn: [f64; 4],
    scale: f64,
}

impl Stand {
    fn of_pose(pose: &Pose, scale: f64) -> Self {
        Self {
            place: (pose.centre().0.coords * scale).into(),
            turn: four(&pose.camera_from_world.rotation.inverse()),
            scale: 1.0,
        }
    }

    fn of_similarity(there: &Similarity, scale: f64) -> Self {
        Self {
            place: (there.translation * scale).into(),
            turn: four(&there.rotation),
            scale: there.scale * scale,
        }
    }
}

fn four(turn: &UnitQuaternion<f64>) -> [f64; 4] {
    let q = turn.quaternion();
    [q.i, q.j, q.k, q.w]
}

/// Quaternions of the same sign as the one before, so that what lies between is the short way.
fn ongoing(stands: impl Iterator<Item = Stand>) -> Vec<Stand> {
    let mut out: Vec<Stand> = Vec::new();
    for mut stand in stands {
        if let Some(before) = out.last() {
            let along: f64 = before.turn.iter().zip(stand.turn).map(|(a, b)| a * b).sum();
            if along < 0.0 {
                stand.turn = stand.turn.map(|v| -v);
            }
        }
        out.push(stand);
    }
    out
}

/// What of a camera the format has no word for.
fn camera(delivery: &Delivery<'_>) -> Value {
    let lens = &delivery.lens;
    let (width, height) = (f64::from(lens.width_px), f64::from(lens.height_px));
    let first = delivery
        .cameras
        .first()
        .map_or(lens.focal_px, |c| c.focal_px);
    let terms = &lens.distortion;
    let mut extras = json!({
        "film_back_mm": [delivery.film_back.width_mm, delivery.film_back.height_mm],
        "plate_px": [lens.width_px, lens.height_px],
        "centre_px": [lens.centre.x, lens.centre.y],
        "focal_px": first,
        "lens": {
            "model": "brown", "k1": terms.k1, "k2": terms.k2, "k3": terms.k3, "p1": terms.p1, "p2": terms.p2,
            "k1_by_zoom": terms.k1_by_zoom, "focal_px": lens.focal_px,
        },
    });
    if delivery.zooms() {
        let by_frame = |c: &Camera| json!([c.frame.0, c.focal_px]);
        let all: Vec<Value> = delivery.cameras.iter().map(by_frame).collect();
        extras["focal_px_by_frame"] = json!(all);
    }
    let near = 0.01 * delivery.receiver.scale;
    json!({
        "name": "camera",
        "type": "perspective",
        "perspective": {
            "yfov": 2.0 * (height / (2.0 * first)).atan(), "aspectRatio": width / height,
            "znear": near, "zfar": near * 1e7,
        },
        "extras": extras,
    })
}

fn about(delivery: &Delivery<'_>) -> Value {
    json!({
        "rate": delivery.rate.to_string(),
        "first_frame": delivery.cameras.first().map_or(0, |c| c.frame.0),
        "last_frame": delivery.cameras.last().map_or(0, |c| c.frame.0),
        "units": if delivery.scaled { "metre" } else { "no scale" },
        "world_scale": delivery.receiver.scale,
        "camera": if delivery.standing.good { "good" } else { "needs a look" },
        "camera_reasons": delivery.standing.reasons,
        "assumptions": delivery.assumptions(),
        "stale_since": delivery.stale,
    })
}
