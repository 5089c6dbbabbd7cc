//! Guests as PLY: all surfaces in one file, with normals, places on pictures and the colours of their materials.

use super::{ReadSurface, about, placed, surface_off, wound};
use crate::delivery::package::NamedBytes;
use crate::delivery::{Delivery, DeliveryError};
use crate::format::Format;
use crate::receipt::{FileReceipt, Held, unreadable};
use parallax_core::guest::Mesh;
use ply_rs_bw::parser::{Parser, Reader};
use ply_rs_bw::ply::{Property, PropertyAccess, PropertyAccessResult};

/// The file.
const FILE: &str = "meshes.ply";

/// The format.
pub struct Ply;

/// Linear light as 8 bit as shown on screens (IEC 61966-2-1).
fn shown(level: f32) -> u8 {
    let level = level.clamp(0.0, 1.0);
    let shown = if level <= 0.003_130_8 {
        12.92 * level
    } else {
        1.055 * level.powf(1.0 / 2.4) - 0.055
    };
    (255.0 * shown).round() as u8
}

/// The colour of each corner: of the first of its triangles.
fn colours(mesh: &Mesh) -> Vec<[u8; 3]> {
    let mut colours = vec![[128; 3]; mesh.points.len()];
    for (triangle, material) in mesh.triangles.iter().zip(&mesh.material_of).rev() {
        if let Some(m) = mesh.materials.get(usize::from(*material)) {
            let [r, g, b, _] = m.colour;
            let colour = [r, g, b].map(shown);
            triangle.iter().for_each(|k| colours[*k as usize] = colour);
        }
    }
    colours
}

/// The head of a file of corners, and of so many triangles where there are any; their bytes follow it.
pub(super) fn head(
    delivery: &Delivery<'_>,
    said: &[String],
    floats: &[&str],
    coloured: bool,
    triangles: Option<[usize; 2]>,
) -> Vec<u8> {
    let corners = triangles.map_or(delivery.points.len(), |[corners, _]| corners);
    let mut out = "ply\nformat binary_little_endian 1.0\n".to_owned();
    for line in [about(delivery)].iter().chain(said) {
        out.push_str(&format!("comment {line}\n"));
    }
    out.push_str(&format!("element vertex {corners}\n"));
    for name in floats {
        out.push_str(&format!("property float {name}\n"));
    }
    if coloured {
        out.push_str("property uchar red\nproperty uchar green\nproperty uchar blue\n");
    }
    if let Some([_, triangles]) = triangles {
        out.push_str(&format!(
            "element face {triangles}\nproperty list uchar int vertex_indices\n"
        ));
    }
    out.push_str("end_header\n");
    out.into_bytes()
}

fn write(delivery: &Delivery<'_>) -> Vec<u8> {
    let count =
        |of: fn(&Mesh) -> usize| -> usize { delivery.surfaces().map(|g| of(&g.mesh)).sum() };
    let counts = [count(|m| m.points.len()), count(|m| m.triangles.len())];
    let floats = ["x", "y", "z", "nx", "ny", "nz", "s", "t"];
    let mut out = head(delivery, &[], &floats, true, Some(counts));
    for guest in delivery.surfaces() {
        let rest = guest.mesh.uvs.iter().zip(colours(&guest.mesh));
        for ((place, normal), ([u, v], colour)) in placed(delivery, guest).into_iter().zip(rest) {
            let floats = place.into_iter().chain(normal).chain([*u, 1.0 - v]);
            out.extend(floats.flat_map(f32::to_le_bytes));
            out.extend(colour);
        }
    }
    let mut before = 0;
    for guest in delivery.surfaces() {
        for triangle in &guest.mesh.triangles {
            out.push(3);
            let corners = wound(delivery, *triangle).map(|k| (k + before) as i32);
            out.extend(corners.into_iter().flat_map(i32::to_le_bytes));
        }
        before += guest.mesh.points.len() as u32;
    }
    out
}

impl Format for Ply {
    fn write(&self, delivery: &Delivery<'_>) -> Result<Vec<NamedBytes>, DeliveryError> {
        if delivery.surfaces().next().is_none() {
            return Ok(Vec::new());
        }
        Ok(vec![(delivery.named(FILE), write(delivery))])
    }

    fn check(
        &self,
        delivery: &Delivery<'_>,
        files: &Held<'_>,
    ) -> Result<Vec<FileReceipt>, DeliveryError> {
        if delivery.surfaces().next().is_none() {
            return Ok(Vec::new());
        }
        let file = delivery.named(FILE);
        let off = read_back(delivery, &file, files.bytes(&file)?)?;
        let moves = delivery.surfaces().any(|g| !g.moves.is_empty());
        let pictured = delivery.surfaces().any(|g| !g.mesh.textures.is_empty());
        let said = "guests and set corner by corner in single precision";
        let receipt = FileReceipt::of(&file, files, said, off)?
            .lacking(
                moves,
                "motion: guests that move stand as on the first frame",
            )
            .lacking(pictured, "pictures, which PLY has no word for")
            .lacking(true, "names of guests and planes");
        Ok(vec![receipt])
    }
}

#[derive(Default)]
struct Corner([f32; 3]);

impl PropertyAccess for Corner {
    fn new() -> Self {
        Self::default()
    }

    fn set_property(&mut self, name: &str, property: Property) -> PropertyAccessResult {
        let (Some(at), Property::Float(value)) =
            (["x", "y", "z"].iter().position(|n| *n == name), property)
        else {
            return PropertyAccessResult::Ignored;
        };
        self.0[at] = value;
        PropertyAccessResult::Set
    }
}

#[derive(Default)]
struct Face(Vec<i32>);

impl PropertyAccess for Face {
    fn new() -> Self {
        Self::default()
    }

    fn set_property(&mut self, _: &str, property: Property) -> PropertyAccessResult {
        if let Property::ListInt(corners) = property {
            self.0 = corners;
            return PropertyAccessResult::Set;
        }
        PropertyAccessResult::Ignored
    }
}

fn read_back(delivery: &Delivery<'_>, file: &str, bytes: &[u8]) -> Result<f64, DeliveryError> {
    let bad = |e: &dyn std::fmt::Display| unreadable(file, e);
    let mut input = Reader::new(bytes);
    let header = Parser::<Corner>::new()
        .read_header(&mut input)
        .map_err(|e| bad(&e))?;
    let (mut corners, mut faces) = (Vec::new(), Vec::new());
    for (name, element) in &header.elements {
        match name.as_str() {
            "vertex" => {
                let read =
                    Parser::<Corner>::new().read_payload_for_element(&mut input, element, &header);
                corners = read.map_err(|e| bad(&e))?;
            }
            _ => {
                let read =
                    Parser::<Face>::new().read_payload_for_element(&mut input, element, &header);
                faces = read.map_err(|e| bad(&e))?;
            }
        }
    }
    let (mut largest, mut first, mut first_face) = (0.0f64, 0, 0);
    for guest in delivery.surfaces() {
        let (count, triangles) = (guest.mesh.points.len(), guest.mesh.triangles.len());
        let own = corners.get(first..first + count);
        let drawn = faces.get(first_face..first_face + triangles);
        let (Some(own), Some(drawn)) = (own, drawn) else {
            return Err(bad(&"guests are missing"));
        };
        let of = |face: &Face| -> [u32; 3] {
            let at = |k: usize| {
                face.0
                    .get(k)
                    .map_or(u32::MAX, |v| (*v as u32).wrapping_sub(first as u32))
            };
            [at(0), at(1), at(2)]
        };
        let surface = ReadSurface {
            corners: own.iter().map(|c| c.0).collect(),
            triangles: drawn.iter().map(of).collect(),
        };
        largest = largest.max(surface_off(file, delivery, guest, &surface)?);
        first += count;
        first_face += triangles;
    }
    match (first, first_face) == (corners.len(), faces.len()) {
        true => Ok(largest),
        false => Err(bad(&"there is more in it than the guests")),
    }
}
