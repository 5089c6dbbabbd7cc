//! A layer read back and held against what was solved.

use super::reader::{self, Layer, Prim, Value};
use super::{ZIPPED_FILE, zipped as archive};
use crate::delivery::{Delivered, Delivery, DeliveryError, SCENE_FILE, TimeAs};
use crate::meshes::textures;
use crate::receipt::compare::{self, ReadCamera, straight};
use crate::receipt::{FileReceipt, Held, unreadable};
use nalgebra::{Matrix4, Point3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::scene::{Hand, Up};
use parallax_core::spaces::{PlatePx, WorldPoint};
use std::collections::BTreeMap;

/// Of the text and the pictures beside it.
pub fn text(delivery: &Delivery<'_>, files: &Held<'_>) -> Result<Vec<FileReceipt>, DeliveryError> {
    let file = delivery.named(SCENE_FILE);
    let mut receipts = vec![of_layer(delivery, files, &file, files.text(&file)?)?];
    receipts.extend(textures::receipts(delivery, files)?);
    Ok(receipts)
}

/// Of the zipped file, with the pictures in it.
pub fn zipped(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
) -> Result<Vec<FileReceipt>, DeliveryError> {
    let file = delivery.named(ZIPPED_FILE);
    let bad = |reason: &str| unreadable(&file, reason);
    let inside = archive::read(files.bytes(&file)?)
        .ok_or_else(|| bad("it is no archive of the kind that OpenUSD asks for"))?;
    let inside: Vec<_> = inside.into_iter().map(|(n, b)| (n, b.to_vec())).collect();
    let (name, bytes) = inside.first().ok_or_else(|| bad("it is empty"))?;
    if !name.ends_with(".usda") {
        return Err(bad("its first file is no layer"));
    }
    let text = std::str::from_utf8(bytes).map_err(|_| bad("its layer is no text"))?;
    textures::receipts(delivery, &Held::of(&inside))?;
    Ok(vec![of_layer(delivery, files, &file, text)?])
}

fn of_layer(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
    file: &str,
    text: &str,
) -> Result<FileReceipt, DeliveryError> {
    let hand = match delivery.receiver.hand {
        Hand::Right => "",
        Hand::Left => "; right-handed, as OpenUSD always is",
    };
    let seen = match delivery.points.is_empty() {
        true => "places of the scene",
        false => "all landmarks",
    };
    let compared = format!(
        "{seen} through the camera of every frame, undistorted, in single precision; \
         guests and set corner by corner; bodies on every frame; lens terms; names{hand}"
    );
    let bent = !delivery.lens.distortion.is_none();
    let unknown = delivery.points.iter().any(|p| p.covariance.is_none());
    let receipt = FileReceipt::of(file, files, compared, held(delivery, file, text)?)?;
    Ok(receipt
        .lacking(
            bent,
            "lens distortion: its camera is that of the undistorted picture. Model, terms and \
             centre stand in the layer's data, which programs do not apply by themselves",
        )
        .lacking(
            delivery.without_colour().is_some_and(|n| n > 0),
            "colours of landmarks that no frame shows that was read: they are grey",
        )
        .lacking(
            unknown && !delivery.points.is_empty(),
            "errors of landmarks, which are not known of all",
        ))
}

/// What a layer is read with.
struct Reading<'a, 'b> {
    delivery: &'a Delivery<'b>,
    file: &'a str,
    up: Up,
}

fn held(delivery: &Delivery<'_>, file: &str, text: &str) -> Result<f64, DeliveryError> {
    let bad = |reason: &str| unreadable(file, reason);
    let layer = reader::read(text).map_err(|e| bad(&e.to_string()))?;
    let up = match layer.metadata.get("upAxis").and_then(Value::text) {
        Some("Y") => Up::Y,
        Some("Z") => Up::Z,
        _ => return Err(bad("the up axis is not stated")),
    };
    let reading = Reading { delivery, file, up };
    reading.metadata(&layer)?;
    let root = layer.prims.first().ok_or_else(|| bad("it is empty"))?;
    let camera = root
        .find("Camera")
        .ok_or_else(|| bad("it holds no camera"))?;
    let cameras = reading
        .cameras(camera)
        .ok_or_else(|| bad("the camera's motion or film back is incomplete"))?;
    let lens = straight(&delivery.lens);
    let seen = compare::cameras(file, delivery, &lens, &cameras)?;
    let points = reading.landmarks(root)?;
    let off = compare::points(file, delivery, &lens, &points)?;
    let d = delivery;
    let guests = reading.surfaces(root, ("guests", "guest"), &d.guests)?;
    let set = reading.surfaces(root, ("set", "plane"), &d.set)?;
    let bodies = reading.bodies(root)?;
    Ok([seen, off, guests, set, bodies]
        .into_iter()
        .fold(0.0, f64::max))
}

impl Reading<'_, '_> {
    fn bad(&self, reason: impl ToString) -> DeliveryError {
        unreadable(self.file, reason)
    }

    /// The time code of a frame counted from the first.
    fn time(&self, frame: i32) -> f64 {
        match self.delivery.time {
            TimeAs::Frames => f64::from(frame),
            TimeAs::Seconds => {
                let first = self.delivery.cameras.first().map_or(frame, |c| c.frame.0);
                f64::from(frame - first) / self.delivery.rate.as_f64()
            }
        }
    }

    fn metadata(&self, layer: &Layer) -> Result<(), DeliveryError> {
        let d = self.delivery;
        let Some(Value::Map(data)) = layer.metadata.get("customLayerData") else {
            return Err(self.bad("the layer's data is missing"));
        };
        if data.get("rate").and_then(Value::text) != Some(&d.rate.to_string()) {
            return Err(self.bad("the rate is another"));
        }
        let number = |name: &str| layer.metadata.get(name).and_then(Value::number);
        let rate = d.rate.as_f64();
        let codes = if d.time == TimeAs::Frames { rate } else { 1.0 };
        let [first, last] =
            [d.cameras.first(), d.cameras.last()].map(|c| self.time(c.map_or(0, |c| c.frame.0)));
        for (name, wanted) in [
            ("timeCodesPerSecond", codes),
            ("framesPerSecond", rate),
            ("startTimeCode", first),
            ("endTimeCode", last),
            ("metersPerUnit", d.receiver.unit.metres()),
        ] {
            if number(name).is_none_or(|s| (s - wanted).abs() > 1e-9) {
                return Err(self.bad(format!("{name} is another")));
            }
        }
        if self.up != d.receiver.up {
            return Err(self.bad("the up axis is another"));
        }
        check_lens(d, data).map_err(|term| self.bad(format!("its lens term {term} is another")))
    }

    /// A place of the layer in our world.
    fn place(&self, xyz: &[f64]) -> Point3<f64> {
        let [x, y, z] = [xyz[0], xyz[1], xyz[2]].map(|v| v / self.delivery.receiver.per_metre());
        match self.up {
            Up::Y => Point3::new(x, y, z),
            Up::Z => Point3::new(x, z, -y),
        }
    }

    /// Row vectors in the file: each row is where an axis points, the last one where the thing stands.
    fn matrix(value: &Value) -> Option<Matrix4<f64>> {
        let numbers = value.numbers();
        (numbers.len() == 16).then(|| Matrix4::from_row_slice(&numbers).transpose())
    }

    fn cameras(&self, camera: &Prim) -> Option<Vec<ReadCamera>> {
        let samples = Samples::of(camera, "xformOp:transform")?;
        let focal = Samples::of(camera, "focalLength");
        let mut out = Vec::new();
        for solved in &self.delivery.cameras {
            let time = self.time(solved.frame.0);
            let mut matrix = Self::matrix(samples.at(time)?)?;
            for column in 0..4 {
                let mut column = matrix.column_mut(column);
                let [x, y, z] = [column[0], column[1], column[2]];
                let turned = match self.up {
                    Up::Y => [x, y, z],
                    Up::Z => [x, z, -y],
                };
                (0..3).for_each(|k| column[k] = turned[k]);
            }
            let mut stands = matrix.fixed_view_mut::<3, 1>(0, 3);
            stands /= self.delivery.receiver.per_metre();
            let focal_mm = match &focal {
                Some(focal) => focal.at(time)?.number()?,
                None => camera.attributes.get("focalLength")?.number()?,
            };
            let lens = self.lens(camera, focal_mm)?;
            out.push((solved.frame.0, lens, Pose::from_world_from_camera(&matrix)?));
        }
        (samples.len() == out.len()).then_some(out)
    }

    fn lens(&self, camera: &Prim, focal_mm: f64) -> Option<Intrinsics> {
        let number = |name: &str| camera.attributes.get(name)?.number();
        let lens = &self.delivery.lens;
        let (width, height) = (f64::from(lens.width_px), f64::from(lens.height_px));
        let px_per_mm = width / number("horizontalAperture")?;
        Some(Intrinsics {
            focal_px: focal_mm * px_per_mm,
            centre: PlatePx::new(
                width / 2.0 - number("horizontalApertureOffset")? * px_per_mm,
                height / 2.0 + number("verticalApertureOffset")? * px_per_mm,
            ),
            ..straight(lens)
        })
    }

    /// Landmarks of all groups in the order of the delivery.
    fn landmarks(&self, root: &Prim) -> Result<Vec<WorldPoint>, DeliveryError> {
        let mut found: BTreeMap<(String, String), Point3<f64>> = BTreeMap::new();
        for group in below(root, "landmarks") {
            let text = |name: &str| group.attributes.get(name).and_then(Value::text);
            let named = text("group").unwrap_or_default().to_owned();
            let numbers = |name: &str| group.attributes.get(name).map(Value::numbers);
            let points = numbers("points").unwrap_or_default();
            let names = group.attributes.get("names").and_then(Value::list);
            let names = names.unwrap_or_default();
            if names.len() * 3 != points.len() {
                return Err(self.bad("its landmarks are not named one by one"));
            }
            for (name, at) in names.iter().zip(points.chunks_exact(3)) {
                let name = name.text().unwrap_or_default().to_owned();
                found.insert((named.clone(), name), self.place(at));
            }
        }
        let wanted = self.delivery.points.iter();
        let of = |p: &crate::delivery::Landmark| found.get(&(plain(&p.group), plain(&p.name)));
        let places: Option<Vec<_>> = wanted.map(|p| of(p).copied().map(WorldPoint)).collect();
        match places {
            Some(places) if found.len() == places.len() => Ok(places),
            _ => Err(self.bad("its landmarks have other names")),
        }
    }

    fn surfaces(
        &self,
        root: &Prim,
        (scope, one): (&str, &str),
        wanted: &[Delivered],
    ) -> Result<f64, DeliveryError> {
        let all = below(root, scope);
        if all.len() != wanted.len() {
            return Err(self.bad(format!("a {one} is missing")));
        }
        let mut largest: f64 = 0.0;
        for (prim, guest) in all.into_iter().zip(wanted) {
            self.called(prim, &guest.name)?;
            largest = largest.max(self.guest(prim, guest)?);
        }
        Ok(largest)
    }

    fn called(&self, prim: &Prim, name: &str) -> Result<(), DeliveryError> {
        match prim.attributes.get("label").and_then(Value::text) == Some(&plain(name)) {
            true => Ok(()),
            false => Err(self.bad(format!("{name} is called otherwise"))),
        }
    }

    /// Landmarks of bodies on every frame.
    fn bodies(&self, root: &Prim) -> Result<f64, DeliveryError> {
        let (all, wanted) = (below(root, "bodies"), &self.delivery.bodies);
        if all.len() != wanted.len() {
            return Err(self.bad("bodies are missing"));
        }
        let mut largest: f64 = 0.0;
        for (prim, body) in all.into_iter().zip(wanted) {
            self.called(prim, &body.name)?;
            let missing = || self.bad("the landmarks of a body are missing");
            let points = prim.find("Points").ok_or_else(missing)?;
            let names = points.attributes.get("names").and_then(Value::list);
            let names = names.unwrap_or_default().iter().map(Value::text);
            let wanted: Vec<String> = body.points.iter().map(|p| plain(&p.name)).collect();
            if !names.eq(wanted.iter().map(|n| Some(n.as_str()))) {
                return Err(self.bad("the landmarks of a body have other names"));
            }
            let own = points.attributes.get("points").map(Value::numbers);
            let own = own.ok_or_else(missing)?;
            let samples = Samples::of(prim, "xformOp:transform").ok_or_else(missing)?;
            for (at, camera) in self.delivery.cameras.iter().enumerate() {
                let matrix = samples.at(self.time(camera.frame.0)).ok_or_else(missing)?;
                let read = self.placed(matrix, &own).ok_or_else(missing)?;
                let (both, lens) = ((&read[..], &body.places(at)[..]), &self.delivery.lens);
                let off = compare::places(self.file, self.delivery, &straight(lens), both, at)?;
                largest = largest.max(off);
            }
        }
        Ok(largest)
    }

    /// Corners in their own space where a matrix puts them, in our world.
    fn placed(&self, matrix: &Value, own: &[f64]) -> Option<Vec<WorldPoint>> {
        let matrix = Self::matrix(matrix)?;
        let own = own.chunks_exact(3).map(|c| Point3::new(c[0], c[1], c[2]));
        let placed = own.map(|p| matrix.transform_point(&p));
        let places = placed.map(|p| WorldPoint(self.place(p.coords.as_slice())));
        Some(places.collect())
    }

    fn guest(&self, prim: &Prim, guest: &Delivered) -> Result<f64, DeliveryError> {
        let mesh = prim
            .find("Mesh")
            .ok_or_else(|| self.bad("a guest has no surface"))?;
        let of = |name: &str| mesh.attributes.get(name).map(Value::numbers);
        let corners = of("points").unwrap_or_default();
        let named = guest.mesh.triangles.iter().flatten();
        if !named
            .map(|k| f64::from(*k))
            .eq(of("faceVertexIndices").unwrap_or_default())
        {
            return Err(self.bad("a guest has other corners or triangles"));
        }
        let there = |matrix: &Value| self.placed(matrix, &corners);
        let unplaced = || self.bad("a guest stands nowhere");
        let frames = self.delivery.cameras.len();
        if guest.moves.is_empty() {
            let matrix = prim.attributes.get("xformOp:transform");
            let read = matrix.and_then(there).ok_or_else(unplaced)?;
            return compare::corners(self.file, self.delivery, guest, &read, (0, 0..frames));
        }
        let samples = Samples::of(prim, "xformOp:transform").ok_or_else(unplaced)?;
        let mut largest: f64 = 0.0;
        for (at, camera) in self.delivery.cameras.iter().enumerate() {
            let matrix = samples.at(self.time(camera.frame.0));
            let read = matrix.and_then(there).ok_or_else(unplaced)?;
            let off = compare::corners(self.file, self.delivery, guest, &read, (at, at..at + 1))?;
            largest = largest.max(off);
        }
        Ok(largest)
    }
}

/// Prims inside the group of a name.
fn below<'a>(root: &'a Prim, name: &str) -> Vec<&'a Prim> {
    let groups = root.children.iter().filter(|c| c.name == name);
    groups.flat_map(|g| &g.children).collect()
}

/// A name as text holds it.
fn plain(name: &str) -> String {
    name.chars().filter(|c| !c.is_control()).collect()
}

/// Values by time.
struct Samples<'a>(Vec<(f64, &'a Value)>);

impl<'a> Samples<'a> {
    fn of(prim: &'a Prim, name: &str) -> Option<Self> {
        let Value::Map(samples) = prim.attributes.get(&format!("{name}.timeSamples"))? else {
            return None;
        };
        let mut all = Vec::with_capacity(samples.len());
        for (time, value) in samples {
            all.push((time.parse().ok()?, value));
        }
        all.sort_by(|a: &(f64, _), b| a.0.total_cmp(&b.0));
        Some(Self(all))
    }

    fn len(&self) -> usize {
        self.0.len()
    }

    fn at(&self, time: f64) -> Option<&'a Value> {
        let after = self.0.partition_point(|(t, _)| *t < time - 1e-6);
        let (found, value) = self.0.get(after)?;
        ((found - time).abs() <= 1e-6).then_some(value)
    }
}

/// The term of the lens that the layer's data state otherwise.
fn check_lens(delivery: &Delivery<'_>, data: &BTreeMap<String, Value>) -> Result<(), &'static str> {
    let (lens, terms) = (&delivery.lens, &delivery.lens.distortion);
    if data.get("lensModel").and_then(Value::text) != Some("brown") {
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
    let stated = |name: &str| data.get(name).and_then(Value::number);
    let other = wanted
        .into_iter()
        .find(|(name, value)| stated(name) != Some(*value));
    match other {
        Some((name, _)) => Err(name),
        None => Ok(()),
    }
}
