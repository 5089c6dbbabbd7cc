//! OpenUSD: camera, landmarks by group and guests with their materials, as text or as one zipped file.
//!
//! USD multiplies row vectors, so matrices are written transposed. Focal length and aperture
//! are in mm, as receivers expect; the offset of the aperture carries the centre of
//! projection. USD is right-handed by definition, with Y or Z up: a left-handed receiver gets its
//! up axis, right-handed. Lens distortion has no place in a USD camera: model, terms, centre and the
//! focal length that they hold for are stated in the layer's data, and the camera is that of the
//! undistorted picture. Where the lens zooms, k1 at a focal length is
//! `k1 + k1ByZoom ln(focal length / lensFocalPx)`. A guest keeps its own space, one metre to the unit; its transform
//! leads to the receiver's world, so that its corners are what they were in its file.

mod bodies;
mod check;
mod guests;
pub mod reader;
mod text;
mod zipped;

use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError, SCENE_FILE, TimeAs};
use crate::format::Format;
use crate::receipt::{FileReceipt, Held};
use nalgebra::Matrix4;
use parallax_core::camera::Similarity;
use parallax_core::scene::{Receiver, Up};
use std::collections::BTreeMap;
use text::{Lines, array, matrix, quoted, tuple};

/// The zipped scene.
pub const ZIPPED_FILE: &str = "scene.usdz";

/// As text, with pictures beside it.
pub struct Text;

/// As one zipped file.
pub struct Zipped;

impl Format for Text {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        let mut files = crate::meshes::textures::written(delivery)?;
        files.insert(
            0,
            (
                delivery.named(SCENE_FILE),
                layer(delivery, true).into_bytes(),
            ),
        );
        Ok(files)
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        check::text(delivery, files)
    }
}

impl Format for Zipped {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        // Nothing in the archive may lead out of it: the plate is named there and not referred to.
        let mut inside = crate::meshes::textures::written(delivery)?;
        let text = layer(delivery, false).into_bytes();
        inside.insert(0, (delivery.named(SCENE_FILE), text));
        Ok(vec![(delivery.named(ZIPPED_FILE), zipped::write(&inside)?)])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        check::zipped(delivery, files)
    }
}

/// What a layer is written with.
struct Writing<'a> {
    delivery: &'a Delivery<'a>,
    axes: Receiver,
    /// Whether files beside it can be referred to.
    refers: bool,
}

impl Writing<'_> {
    /// Time codes in a frame.
    fn codes_a_frame(&self) -> f64 {
        match self.delivery.time {
            TimeAs::Frames => 1.0,
            TimeAs::Seconds => self.delivery.rate.as_f64().recip(),
        }
    }

    /// The time code of each camera.
    fn times(&self) -> Vec<f64> {
        let d = self.delivery;
        let time = |c: &crate::delivery::Camera| match d.time {
            TimeAs::Frames => f64::from(c.frame.0),
            TimeAs::Seconds => d.seconds(c.frame),
        };
        d.cameras.iter().map(time).collect()
    }

    /// From a guest's own space to the receiver's world.
    fn placed(&self, there: &Similarity) -> Matrix4<f64> {
        self.axes.from_our_world() * there.matrix()
    }
}

/// The layer as text; `refers` to the plate where that is allowed.
fn layer(delivery: &Delivery<'_>, refers: bool) -> String {
    let writing = Writing {
        delivery,
        axes: delivery.receiver.right_handed(),
        refers,
    };
    let mut lines = Lines::default();
    lines.line("#usda 1.0");
    header(&mut lines, &writing);
    let kind = [("kind", quoted("component"))];
    lines.prim("Xform", "shot", &kind, |lines| {
        camera(lines, &writing);
        landmarks(lines, &writing);
        guests::write(lines, &writing);
        bodies::write(lines, &writing);
    });
    lines.finished()
}

fn header(lines: &mut Lines, writing: &Writing<'_>) {
    let d = writing.delivery;
    let times = writing.times();
    let [first, last] = [times.first(), times.last()].map(|t| t.copied().unwrap_or_default());
    lines.within(["(", ")"], |lines| {
        lines.within(["customLayerData = {", "}"], |lines| data(lines, d));
        lines.set("defaultPrim", quoted("shot"));
        lines.set("startTimeCode", first);
        lines.set("endTimeCode", last);
        lines.set(
            "timeCodesPerSecond",
            d.rate.as_f64() * writing.codes_a_frame(),
        );
        lines.set("framesPerSecond", d.rate.as_f64());
        // Without a scale a unit is taken for one of the receiver's, since the format has no other word.
        lines.set("metersPerUnit", writing.axes.unit.metres());
        let up = if writing.axes.up == Up::Z { "Z" } else { "Y" };
        lines.set("upAxis", quoted(up));
    });
}

fn data(lines: &mut Lines, d: &Delivery<'_>) {
    let lens = &d.lens.distortion;
    lines.set("string rate", quoted(&d.rate.to_string()));
    lines.set("string shot", quoted(&d.shot));
    let units = if d.scaled {
        d.receiver.unit.word()
    } else {
        "no scale"
    };
    lines.set("string units", quoted(units));
    lines.set("double worldScale", d.receiver.scale);
    lines.set("int firstFrame", d.cameras.first().map_or(0, |c| c.frame.0));
    lines.set("int plateWidth", d.lens.width_px);
    lines.set("int plateHeight", d.lens.height_px);
    lines.set("string lensModel", quoted("brown"));
    let terms = [
        ("k1", lens.k1),
        ("k2", lens.k2),
        ("k3", lens.k3),
        ("p1", lens.p1),
        ("p2", lens.p2),
        ("k1ByZoom", lens.k1_by_zoom),
        ("lensFocalPx", d.lens.focal_px),
        ("lensCentreX", d.lens.centre.x),
        ("lensCentreY", d.lens.centre.y),
    ];
    for (name, value) in terms {
        lines.set(&format!("double {name}"), value);
    }
    let standing = if d.standing.good {
        "good"
    } else {
        "needs a look"
    };
    lines.set("string camera", quoted(standing));
    for (name, sentences) in [
        ("cameraReasons", &d.standing.reasons),
        ("assumptions", &d.assumptions()),
        ("staleSince", &d.stale),
    ] {
        let all = array(sentences.iter().map(|s| quoted(s)));
        lines.set(&format!("string[] {name}"), all);
    }
    if let Some(plate) = &d.plate {
        lines.set("string platePattern", quoted(&plate.pattern));
    }
}

fn camera(lines: &mut Lines, writing: &Writing<'_>) {
    let d = writing.delivery;
    let mm_per_px = d.film_back.width_mm / f64::from(d.lens.width_px);
    let (width, height) = (f64::from(d.lens.width_px), f64::from(d.lens.height_px));
    let axes = writing.axes;
    let near = 0.01 * axes.per_metre();
    lines.prim("Camera", "camera", &[], |lines| {
        lines.set("token projection", quoted("perspective"));
        lines.set("float2 clippingRange", tuple(&[near, near * 1e7]));
        if d.zooms() {
            let mm = d
                .cameras
                .iter()
                .map(|c| (c.focal_px * mm_per_px).to_string());
            lines.samples("float focalLength", writing.times().into_iter().zip(mm));
        } else {
            let focal_px = d.cameras.first().map_or(d.lens.focal_px, |c| c.focal_px);
            lines.set("float focalLength", focal_px * mm_per_px);
        }
        lines.set("float horizontalAperture", width * mm_per_px);
        lines.set("float verticalAperture", height * mm_per_px);
        let right = (width / 2.0 - d.lens.centre.x) * mm_per_px;
        let up = (d.lens.centre.y - height / 2.0) * mm_per_px;
        lines.set("float horizontalApertureOffset", right);
        lines.set("float verticalApertureOffset", up);
        if let Some(degrees) = d.shutter_deg {
            let half = degrees / 720.0 * writing.codes_a_frame();
            lines.set("double shutter:open", -half);
            lines.set("double shutter:close", half);
        }
        if let Some(plate) = d.plate.as_ref().filter(|_| writing.refers) {
            lines.set(
                "custom asset plate:firstFrame",
                format!("@{}@", plate.first),
            );
        }
        let stands = d
            .cameras
            .iter()
            .map(|c| matrix(&axes.world_from_camera(&c.pose)));
        let samples = writing.times().into_iter().zip(stands);
        lines.samples("matrix4d xformOp:transform", samples);
        lines.set(
            "uniform token[] xformOpOrder",
            array([quoted("xformOp:transform")]),
        );
    });
}

/// Landmarks of one group each; what they are called stands with them.
fn landmarks(lines: &mut Lines, writing: &Writing<'_>) {
    let d = writing.delivery;
    let mut groups: BTreeMap<&str, Vec<&crate::delivery::Landmark>> = BTreeMap::new();
    for point in &d.points {
        groups.entry(&point.group).or_default().push(point);
    }
    lines.prim("Xform", "landmarks", &[], |lines| {
        for (number, (group, points)) in groups.iter().enumerate() {
            let named = if group.is_empty() {
                "in no group"
            } else {
                group
            };
            let metadata = [("displayName", quoted(named))];
            let name = format!("group_{}", number + 1);
            lines.prim("Points", &name, &metadata, |lines| {
                of_group(lines, writing, group, points);
            });
        }
    });
}

fn of_group(
    lines: &mut Lines,
    writing: &Writing<'_>,
    group: &str,
    points: &[&crate::delivery::Landmark],
) {
    let axes = writing.axes;
    let coloured = writing.delivery.without_colour().is_some();
    // As 32 bits hold them, so that the bounds are those of what is kept.
    let places: Vec<[f32; 3]> = points
        .iter()
        .map(|p| axes.point(&p.place).map(|v| v as f32))
        .collect();
    let wide = (0.03 * axes.per_metre()) as f32;
    lines.set("custom string group", quoted(group));
    lines.set("point3f[] points", array(places.iter().map(|p| tuple(p))));
    lines.set("float3[] extent", extent(&places, wide / 2.0));
    lines.line(format!(
        "float[] widths = [{wide}] ( interpolation = \"constant\" )"
    ));
    lines.set(
        "custom string[] names",
        array(points.iter().map(|p| quoted(&p.name))),
    );
    if points.iter().all(|p| p.covariance.is_some()) {
        let sigma = points
            .iter()
            .filter_map(|p| p.covariance)
            .map(|c| tuple(&axes.sigma(c.sigma())));
        lines.set("custom float3[] sigma", array(sigma));
    }
    if coloured {
        let linear = |v: u8| parallax_core::render::surface::linear(f32::from(v) / 255.0);
        let all = array(points.iter().map(|p| tuple(&p.shown().map(linear))));
        lines.line(format!(
            "color3f[] primvars:displayColor = {all} ( interpolation = \"vertex\" )"
        ));
    }
}

/// Lowest and highest corner of places, with so much around.
fn extent(places: &[[f32; 3]], around: f32) -> String {
    let bound = |start: f32, pick: fn(f32, f32) -> f32, more: f32| {
        let of = |k: usize| places.iter().fold(start, |b, p| pick(b, p[k])) + more;
        tuple(&[of(0), of(1), of(2)])
    };
    array([
        bound(f32::INFINITY, f32::min, -around),
        bound(f32::NEG_INFINITY, f32::max, around),
    ])
}
