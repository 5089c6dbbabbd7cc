//! OBJ with MTL, read by the `tobj` crate: all objects of a file, polygons cut into triangles.

use super::{Files, MOST_TRIANGLES, ModelError, Textures, check};
use parallax_core::guest::{Material, Mesh};
use std::cell::RefCell;
use std::collections::HashMap;
use tobj::{LoadOptions, MTLLoadResult};

pub(super) fn read(files: &Files<'_>, bytes: &[u8]) -> Result<Mesh, ModelError> {
    check("triangles", triangles(bytes), MOST_TRIANGLES)?;
    let lacking: RefCell<Option<ModelError>> = RefCell::new(None);
    let library = |path: &std::path::Path| -> MTLLoadResult {
        match files.named(&path.to_string_lossy()) {
            Ok(mut text) => tobj::load_mtl_buf(&mut text),
            Err(e) => {
                lacking.borrow_mut().get_or_insert(e);
                Err(tobj::LoadError::OpenFileFailed)
            }
        }
    };
    let how = LoadOptions {
        triangulate: true,
        single_index: true,
        ignore_points: true,
        ignore_lines: true,
    };
    let mut text = bytes;
    let (objects, materials) =
        tobj::load_obj_buf(&mut text, &how, library).map_err(|e| files.unreadable(e))?;
    if let Some(e) = lacking.into_inner() {
        return Err(e);
    }
    let materials = materials.map_err(|e| files.unreadable(e))?;
    let mut mesh = Mesh::default();
    let mut room = Textures::new();
    let mut known: HashMap<String, usize> = HashMap::new();
    for material in &materials {
        let texture = match &material.diffuse_texture {
            Some(path) => Some(match known.get(path) {
                Some(at) => *at,
                None => {
                    let made = room.decode(files, files.named(path)?)?;
                    mesh.textures.push(made.into());
                    known.insert(path.clone(), mesh.textures.len() - 1);
                    mesh.textures.len() - 1
                }
            }),
            None => None,
        };
        let [r, g, b] = material.diffuse.unwrap_or([0.5; 3]);
        mesh.materials.push(Material {
            name: material.name.chars().take(80).collect(),
            colour: [r, g, b, material.dissolve.unwrap_or(1.0)],
            texture,
            metal: 0.0,
            // Phong's exponent as the roughness of the same highlight.
            rough: material
                .shininess
                .map_or(0.8, |s| (2.0 / (s.max(0.0) + 2.0)).powf(0.25)),
        });
    }
    mesh.materials.push(Material::matt("plain", [0.5; 3]));
    for object in objects {
        take(&mut mesh, object.mesh)?;
    }
    Ok(mesh)
}

/// How many triangles the faces of a text are cut into, before anything is made of them.
fn triangles(text: &[u8]) -> usize {
    let is_gap = |b: &u8| b.is_ascii_whitespace();
    let of = |line: &[u8]| {
        let mut words = line.split(is_gap).filter(|w| !w.is_empty());
        let is_face = words.next() == Some(b"f");
        if is_face {
            words.count().saturating_sub(2)
        } else {
            0
        }
    };
    text.split(|b| *b == b'\n').map(of).sum()
}

fn take(mesh: &mut Mesh, object: tobj::Mesh) -> Result<(), ModelError> {
    check(
        "triangles",
        mesh.triangles.len() + object.indices.len() / 3,
        MOST_TRIANGLES,
    )?;
    let three = |w: &[f32]| [w[0], w[1], w[2]];
    let count = object.positions.len() / 3;
    let mut piece = Mesh {
        points: object.positions.chunks_exact(3).map(three).collect(),
        triangles: object
            .indices
            .chunks_exact(3)
            .map(|w| [w[0], w[1], w[2]])
            .collect(),
        ..Mesh::default()
    };
    piece
        .triangles
        .retain(|t| t.iter().all(|k| (*k as usize) < count));
    piece = match object.normals.len() == 3 * count {
        true => Mesh {
            normals: object.normals.chunks_exact(3).map(three).collect(),
            ..piece
        },
        false => piece.with_own_normals(),
    };
    // In this format v runs up.
    let uv = |w: &[f32]| [w[0], 1.0 - w[1]];
    piece.uvs = match object.texcoords.len() == 2 * count {
        true => object.texcoords.chunks_exact(2).map(uv).collect(),
        false => vec![[0.0; 2]; count],
    };
    let material = object.material_id.unwrap_or(mesh.materials.len() - 1) as u16;
    mesh.append(piece, material);
    Ok(())
}
