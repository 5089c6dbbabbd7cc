//! Guests and set as OBJ with MTL: one object each, a material with its picture each.

use super::{ReadSurface, about, placed, surface_off, textures, wound};
use crate::delivery::naming::safe;
use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivered, Delivery, DeliveryError};
use crate::format::Format;
use crate::receipt::{FileReceipt, Held, unreadable};
use parallax_core::guest::Material;
use std::fmt::Write;

/// The surfaces.
const FILE: &str = "meshes.obj";
/// Their materials.
const MATERIALS: &str = "meshes.mtl";

/// The format.
pub struct Obj;

fn object(index: usize, guest: &Delivered) -> String {
    format!("mesh_{}_{}", index + 1, safe(&guest.name))
}

fn material(guest: usize, material: usize) -> String {
    format!("mesh_{}_material_{}", guest + 1, material + 1)
}

fn surfaces(delivery: &Delivery<'_>) -> String {
    let mut out = format!("# {}\n", about(delivery));
    let library = delivery.named(MATERIALS);
    // Writing to a String cannot fail.
    let _ = writeln!(out, "mtllib {library}");
    let mut before = 1;
    for (index, guest) in delivery.surfaces().enumerate() {
        let mesh = &guest.mesh;
        let _ = writeln!(out, "o {}", object(index, guest));
        let corners = placed(delivery, guest);
        for ([x, y, z], _) in &corners {
            let _ = writeln!(out, "v {x} {y} {z}");
        }
        for [u, v] in &mesh.uvs {
            let _ = writeln!(out, "vt {u} {}", 1.0 - v);
        }
        for (_, [x, y, z]) in &corners {
            let _ = writeln!(out, "vn {x} {y} {z}");
        }
        let mut of = None;
        for (triangle, made_of) in mesh.triangles.iter().zip(&mesh.material_of) {
            if of != Some(made_of) {
                let _ = writeln!(out, "usemtl {}", material(index, usize::from(*made_of)));
                of = Some(made_of);
            }
            let [a, b, c] = wound(delivery, *triangle).map(|k| k + before);
            let _ = writeln!(out, "f {a}/{a}/{a} {b}/{b}/{b} {c}/{c}/{c}");
        }
        before += mesh.points.len() as u32;
    }
    out
}

fn library(delivery: &Delivery<'_>) -> String {
    let mut out = String::new();
    for (index, guest) in delivery.surfaces().enumerate() {
        let pictures = textures::named(delivery, index);
        for (k, m) in guest.mesh.materials.iter().enumerate() {
            let picture = m.texture.and_then(|t| pictures.get(t));
            of_material(&mut out, &material(index, k), m, picture);
        }
    }
    out
}

fn of_material(out: &mut String, name: &str, m: &Material, picture: Option<&String>) {
    let [r, g, b, opacity] = m.colour;
    // The exponent whose highlight is as wide as that of the roughness (Walter et al. 2007).
    let shine = (2.0 / m.rough.max(0.05).powi(4) - 2.0).clamp(0.0, 1000.0);
    let specular = 0.04 + 0.96 * m.metal;
    let _ = writeln!(out, "newmtl {name}");
    let _ = writeln!(out, "Kd {r} {g} {b}\nKs {specular} {specular} {specular}");
    let _ = writeln!(out, "Ns {shine}\nd {opacity}\nillum 2");
    if let Some(picture) = picture {
        let _ = writeln!(out, "map_Kd {picture}");
    }
}

impl Format for Obj {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        if delivery.surfaces().next().is_none() {
            return Ok(Vec::new());
        }
        let mut files = vec![
            (delivery.named(FILE), surfaces(delivery).into_bytes()),
            (delivery.named(MATERIALS), library(delivery).into_bytes()),
        ];
        files.extend(textures::written(delivery)?);
        Ok(files)
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        if delivery.surfaces().next().is_none() {
            return Ok(Vec::new());
        }
        let (file, library) = (delivery.named(FILE), delivery.named(MATERIALS));
        let off = read_back(delivery, files, (&file, &library))?;
        let said =
            "guests and set corner by corner in single precision; names, materials and pictures";
        let moves = delivery.surfaces().any(|g| !g.moves.is_empty());
        let surfaces = FileReceipt::of(&file, files, said, off)?.lacking(
            moves,
            "motion: guests that move stand as on the first frame",
        );
        let said = "colours and names of pictures";
        let mut receipts = vec![surfaces, FileReceipt::of(&library, files, said, 0.0)?];
        receipts.extend(textures::receipts(delivery, files)?);
        Ok(receipts)
    }
}

fn read_back(
    delivery: &Delivery<'_>,
    files: &Held<'_>,
    (file, library): (&str, &str),
) -> Result<f64, DeliveryError> {
    let bad = |reason: &str| unreadable(file, reason);
    let mut text = files.bytes(file)?;
    let given = |path: &std::path::Path| match files.bytes(&path.to_string_lossy()) {
        Ok(mut text) => tobj::load_mtl_buf(&mut text),
        Err(_) => Err(tobj::LoadError::OpenFileFailed),
    };
    // Corners keep their numbers: an object may come in parts, by its materials.
    let how = tobj::LoadOptions {
        single_index: false,
        ..tobj::LoadOptions::default()
    };
    let read = tobj::load_obj_buf(&mut text, &how, given).map_err(|e| bad(&e.to_string()))?;
    let materials = read.1.map_err(|e| unreadable(library, e))?;
    let mut parts = read.0.into_iter().peekable();
    let mut largest: f64 = 0.0;
    for (index, guest) in delivery.surfaces().enumerate() {
        let name = object(index, guest);
        let mut surface = Joined::default();
        while let Some(part) = parts.next_if(|p| p.name == name) {
            surface.add(&part.mesh, &materials);
        }
        largest = largest.max(surface.off(delivery, (file, index), guest)?);
    }
    match parts.next() {
        Some(other) => Err(bad(&format!("{} is no guest", other.name))),
        None => Ok(largest),
    }
}

/// The parts of an object together, triangles in the order of the file.
#[derive(Default)]
struct Joined {
    triangles: Vec<[[f32; 3]; 3]>,
    materials: Vec<(String, [f32; 3], Option<String>)>,
}

impl Joined {
    fn add(&mut self, mesh: &tobj::Mesh, materials: &[tobj::Material]) {
        let place = |k: u32| {
            let at = 3 * k as usize;
            [0, 1, 2].map(|i| mesh.positions.get(at + i).copied().unwrap_or(f32::NAN))
        };
        let own = mesh.material_id.and_then(|k| materials.get(k));
        for triangle in mesh.indices.chunks_exact(3) {
            self.triangles
                .push([triangle[0], triangle[1], triangle[2]].map(place));
            if let Some(m) = own {
                let colour = m.diffuse.unwrap_or([f32::NAN; 3]);
                self.materials
                    .push((m.name.clone(), colour, m.diffuse_texture.clone()));
            }
        }
    }

    fn off(
        &self,
        delivery: &Delivery<'_>,
        (file, index): (&str, usize),
        guest: &Delivered,
    ) -> Result<f64, DeliveryError> {
        let mesh = &guest.mesh;
        if self.triangles.len() != mesh.triangles.len()
            || self.materials.len() != self.triangles.len()
        {
            return Err(unreadable(file, "a guest has other corners or triangles"));
        }
        let pictures = textures::named(delivery, index);
        let mut corners = vec![[f32::NAN; 3]; mesh.points.len()];
        let all = mesh.triangles.iter().zip(&mesh.material_of);
        for ((triangle, made_of), (read, (name, colour, picture))) in
            all.zip(self.triangles.iter().zip(&self.materials))
        {
            for (k, place) in wound(delivery, *triangle).into_iter().zip(read) {
                corners[k as usize] = *place;
            }
            let wanted = &mesh.materials[usize::from(*made_of)];
            let pictured = wanted.texture.and_then(|t| pictures.get(t));
            let same = *name == material(index, usize::from(*made_of))
                && colour[..] == wanted.colour[..3]
                && picture.as_ref() == pictured;
            if !same {
                return Err(unreadable(file, "a guest is made of something else"));
            }
        }
        // Corners of no triangle are in no file that is read by triangles.
        for (read, own) in corners.iter_mut().zip(placed(delivery, guest)) {
            if read[0].is_nan() {
                *read = own.0;
            }
        }
        let triangles = mesh.triangles.iter().map(|t| wound(delivery, *t)).collect();
        surface_off(file, delivery, guest, &ReadSurface { corners, triangles })
    }
}
