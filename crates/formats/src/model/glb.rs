//! Models as GLB (glTF 2.0 in one file): what is kept of a model, what the page draws.

use crate::gltf_scene::{Binary, Surfaces, wrapped};
use parallax_core::guest::Mesh;
use serde_json::{Value, json};

/// A mesh as a file.
pub fn write(name: &str, mesh: &Mesh) -> Vec<u8> {
    let mut binary = Binary::default();
    let mut surfaces = Surfaces::default();
    let pictures: Vec<String> = (1..=mesh.textures.len()).map(|k| k.to_string()).collect();
    surfaces.add(&mut binary, name, mesh, &pictures);
    let images: Vec<Value> = surfaces
        .pictures
        .iter()
        .map(|(_, png)| json!({ "bufferView": binary.view(png, None), "mimeType": "image/png" }))
        .collect();
    let mut root = json!({
        "asset": { "version": "2.0", "generator": "True Parallax" },
        "scene": 0, "scenes": [{ "nodes": [0] }], "nodes": [{ "name": name, "mesh": 0 }],
        "meshes": surfaces.meshes,
        "materials": surfaces.materials,
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
