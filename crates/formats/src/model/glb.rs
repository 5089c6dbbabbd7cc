//! Models as GLB (glTF 2.0 in one file): what is kept of a model, what the page draws, what may be handed on.

use parallax_core::guest::Mesh;
use serde_json::{Value, json};

const ARRAY: u32 = 34962;
const ELEMENTS: u32 = 34963;
const FLOAT: u32 = 5126;
const UINT: u32 = 5125;

#[derive(Default)]
struct Binary {
    bytes: Vec<u8>,
    views: Vec<Value>,
    accessors: Vec<Value>,
}

impl Binary {
    fn view(&mut self, bytes: &[u8], target: Option<u32>) -> usize {
        self.bytes.resize(self.bytes.len().next_multiple_of(4), 0);
        let mut view =
            json!({ "buffer": 0, "byteOffset": self.bytes.len(), "byteLength": bytes.len() });
        if let Some(target) = target {
            view["target"] = json!(target);
        }
        self.bytes.extend_from_slice(bytes);
        self.views.push(view);
        self.views.len() - 1
    }

    fn floats<const N: usize>(
        &mut self,
        values: &[[f32; N]],
        kind: &str,
        with_bounds: bool,
    ) -> usize {
        let bytes: Vec<u8> = values
            .iter()
            .flatten()
            .flat_map(|v| v.to_le_bytes())
            .collect();
        let view = self.view(&bytes, Some(ARRAY));
        let mut accessor = json!({ "bufferView": view, "componentType": FLOAT, "count": values.len(), "type": kind });
        if with_bounds {
            let bound = |pick: fn(f32, f32) -> f32| -> Vec<f32> {
                let of = |k: usize| values.iter().map(|v| v[k]).reduce(pick).unwrap_or(0.0);
                (0..N).map(of).collect()
            };
            accessor["min"] = json!(bound(f32::min));
            accessor["max"] = json!(bound(f32::max));
        }
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }

    fn indices(&mut self, corners: &[u32]) -> usize {
        let bytes: Vec<u8> = corners.iter().flat_map(|v| v.to_le_bytes()).collect();
        let view = self.view(&bytes, Some(ELEMENTS));
        let accessor = json!({ "bufferView": view, "componentType": UINT, "count": corners.len(), "type": "SCALAR" });
        self.accessors.push(accessor);
        self.accessors.len() - 1
    }
}

/// A mesh as a file.
pub fn write(name: &str, mesh: &Mesh) -> Vec<u8> {
    let mut binary = Binary::default();
    let attributes = json!({
        "POSITION": binary.floats(&mesh.points, "VEC3", true),
        "NORMAL": binary.floats(&mesh.normals, "VEC3", false),
        "TEXCOORD_0": binary.floats(&mesh.uvs, "VEC2", false),
    });
    let mut primitives = Vec::new();
    for material in 0..mesh.materials.len() {
        let of = |k: &usize| usize::from(mesh.material_of[*k]) == material;
        let corners: Vec<u32> = (0..mesh.triangles.len())
            .filter(of)
            .flat_map(|k| mesh.triangles[k])
            .collect();
        if !corners.is_empty() {
            let indices = binary.indices(&corners);
            primitives.push(
                json!({ "attributes": attributes, "indices": indices, "material": material }),
            );
        }
    }
    let images: Vec<Value> = mesh
        .textures
        .iter()
        .map(|t| {
            let view = binary.view(&parallax_media::texture::encode(t), None);
            json!({ "bufferView": view, "mimeType": "image/png" })
        })
        .collect();
    let mut root = json!({
        "asset": { "version": "2.0", "generator": "True Parallax" },
        "scene": 0, "scenes": [{ "nodes": [0] }], "nodes": [{ "name": name, "mesh": 0 }],
        "meshes": [{ "name": name, "primitives": primitives }],
        "materials": mesh.materials.iter().map(material).collect::<Vec<_>>(),
        "accessors": binary.accessors,
        "bufferViews": binary.views,
        "buffers": [{ "byteLength": binary.bytes.len() }],
    });
    if !images.is_empty() {
        root["textures"] = (0..images.len()).map(|k| json!({ "source": k })).collect();
        root["images"] = json!(images);
    }
    wrapped(root.to_string().into_bytes(), binary.bytes)
}

fn material(m: &parallax_core::guest::Material) -> Value {
    let mut pbr = json!({ "baseColorFactor": m.colour, "metallicFactor": m.metal, "roughnessFactor": m.rough });
    if let Some(texture) = m.texture {
        pbr["baseColorTexture"] = json!({ "index": texture });
    }
    let mut out = json!({ "name": m.name, "pbrMetallicRoughness": pbr, "doubleSided": true });
    if m.colour[3] < 1.0 {
        out["alphaMode"] = json!("BLEND");
    }
    out
}

/// Header and the two chunks, each padded to four bytes.
fn wrapped(mut text: Vec<u8>, mut bytes: Vec<u8>) -> Vec<u8> {
    text.resize(text.len().next_multiple_of(4), b' ');
    bytes.resize(bytes.len().next_multiple_of(4), 0);
    let word = |v: usize| (v as u32).to_le_bytes();
    let mut out = Vec::with_capacity(28 + text.len() + bytes.len());
    out.extend(b"glTF");
    out.extend(word(2));
    out.extend(word(28 + text.len() + bytes.len()));
    out.extend(word(text.len()));
    out.extend(b"JSON");
    out.extend(text);
    out.extend(word(bytes.len()));
    out.extend(b"BIN\0");
    out.extend(bytes);
    out
}
