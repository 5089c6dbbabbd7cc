//! A mesh in glTF: one primitive a material, pictures with it.

use super::binary::Binary;
use parallax_core::guest::{Material, Mesh};
use serde_json::{Value, json};

/// Meshes, materials and pictures of a file.
#[derive(Default)]
pub struct Surfaces {
    /// Meshes.
    pub meshes: Vec<Value>,
    /// Materials of all of them.
    pub materials: Vec<Value>,
    /// Pictures as PNG, with what they are called.
    pub pictures: Vec<(String, Vec<u8>)>,
}

/// Unit length, which the format asks for; up where it has none.
fn unit([x, y, z]: [f32; 3]) -> [f32; 3] {
    let length = (x * x + y * y + z * z).sqrt();
    match length.is_finite() && length > 1e-6 {
        true => [x / length, y / length, z / length],
        false => [0.0, 1.0, 0.0],
    }
}

impl Surfaces {
    /// Adds a mesh; its number. `pictures` is what its pictures are called.
    pub fn add(
        &mut self,
        binary: &mut Binary,
        name: &str,
        mesh: &Mesh,
        pictures: &[String],
    ) -> usize {
        let normals: Vec<[f32; 3]> = mesh.normals.iter().copied().map(unit).collect();
        let mut attributes = json!({
            "POSITION": binary.corners(&mesh.points, "VEC3", true),
            "NORMAL": binary.corners(&normals, "VEC3", false),
        });
        if !mesh.textures.is_empty() {
            attributes["TEXCOORD_0"] = json!(binary.corners(&mesh.uvs, "VEC2", false));
        }
        let (first, first_picture) = (self.materials.len(), self.pictures.len());
        let mut primitives = Vec::new();
        let mut used = 0;
        for (number, made_of) in mesh.materials.iter().enumerate() {
            let corners: Vec<u32> = of_material(mesh, number).flatten().collect();
            if !corners.is_empty() {
                let indices = binary.indices(&corners);
                primitives.push(
                    json!({ "attributes": attributes, "indices": indices, "material": first + used }),
                );
                self.materials.push(material(made_of, first_picture));
                used += 1;
            }
        }
        for (name, texture) in pictures.iter().zip(&mesh.textures) {
            self.pictures
                .push((name.clone(), parallax_media::texture::encode(texture)));
        }
        self.meshes
            .push(json!({ "name": name, "primitives": primitives }));
        self.meshes.len() - 1
    }
}

/// Triangles of one material.
pub fn of_material(mesh: &Mesh, material: usize) -> impl Iterator<Item = [u32; 3]> + '_ {
    let all = mesh.triangles.iter().zip(&mesh.material_of);
    all.filter(move |(_, of)| usize::from(**of) == material)
        .map(|(triangle, _)| *triangle)
}

fn material(m: &Material, first_picture: usize) -> Value {
    let mut pbr = json!({ "baseColorFactor": m.colour, "metallicFactor": m.metal, "roughnessFactor": m.rough });
    if let Some(texture) = m.texture {
        pbr["baseColorTexture"] = json!({ "index": first_picture + texture });
    }
    let mut out = json!({ "name": m.name, "pbrMetallicRoughness": pbr, "doubleSided": true });
    if m.colour[3] < 1.0 {
        out["alphaMode"] = json!("BLEND");
    }
    out
}
