//! glTF 2.0, as JSON with its files or as GLB, read by the `gltf` crate: the default scene's meshes where their nodes
//! put them. Skins, morphs, cameras, lights and animations are left out.

use super::{Files, MOST_TRIANGLES, ModelError, Textures, check};
use base64::Engine;
use base64::engine::general_purpose::STANDARD;
use gltf::mesh::Mode;
use gltf::{Gltf, Node, Primitive};
use nalgebra::{Matrix3, Matrix4, Vector3};
use parallax_core::guest::{Material, Mesh};

/// Most nodes that are followed, and how deep: a node that holds itself would be followed without end.
const MOST_NODES: usize = 100_000;
const DEEPEST: usize = 100;

pub(super) fn read(files: &Files<'_>, bytes: &[u8]) -> Result<Mesh, ModelError> {
    let Gltf { document, mut blob } = Gltf::from_slice(bytes).map_err(|e| files.unreadable(e))?;
    let mut buffers = Vec::new();
    for buffer in document.buffers() {
        let data = match buffer.source() {
            gltf::buffer::Source::Bin => blob.take().unwrap_or_default(),
            gltf::buffer::Source::Uri(uri) => fetched(files, uri)?,
        };
        if data.len() < buffer.length() {
            return Err(files.unreadable(format!(
                "a buffer states {} bytes and has {}",
                buffer.length(),
                data.len()
            )));
        }
        buffers.push(data);
    }
    let mut reading = Reading {
        files,
        buffers: &buffers,
        mesh: Mesh::default(),
        nodes: 0,
    };
    reading.textures(&document)?;
    reading.materials(&document);
    let scene = document
        .default_scene()
        .or_else(|| document.scenes().next());
    match scene {
        Some(scene) => scene
            .nodes()
            .try_for_each(|node| reading.node(&node, &Matrix4::identity(), 0))?,
        // A file without a scene has its meshes where they are.
        None => document
            .meshes()
            .flat_map(|m| m.primitives().collect::<Vec<_>>())
            .try_for_each(|p| reading.primitive(&p, &Matrix4::identity()))?,
    }
    Ok(reading.mesh)
}

/// A file that is named, or data in the name itself.
fn fetched(files: &Files<'_>, uri: &str) -> Result<Vec<u8>, ModelError> {
    if let Some(data) = uri.strip_prefix("data:") {
        let (_, coded) = data
            .split_once(";base64,")
            .ok_or_else(|| files.unreadable("data that is not base64"))?;
        return STANDARD.decode(coded).map_err(|e| files.unreadable(e));
    }
    let plain = percent_encoding::percent_decode_str(uri).decode_utf8_lossy();
    files.named(&plain).map(<[u8]>::to_vec)
}

struct Reading<'a> {
    files: &'a Files<'a>,
    buffers: &'a [Vec<u8>],
    mesh: Mesh,
    nodes: usize,
}

impl Reading<'_> {
    fn textures(&mut self, document: &gltf::Document) -> Result<(), ModelError> {
        let mut room = Textures::new();
        for texture in document.textures() {
            let made = match texture.source().source() {
                gltf::image::Source::View { view, .. } => {
                    let buffer = self.buffers.get(view.buffer().index());
                    let end = view.offset().saturating_add(view.length());
                    let bytes = buffer.and_then(|b| b.get(view.offset()..end));
                    let bytes = bytes
                        .ok_or_else(|| self.files.unreadable("a texture lies beyond its buffer"))?;
                    room.decode(self.files, bytes)?
                }
                gltf::image::Source::Uri { uri, .. } => {
                    room.decode(self.files, &fetched(self.files, uri)?)?
                }
            };
            self.mesh.textures.push(made.into());
        }
        Ok(())
    }

    /// All materials, and one for what has none.
    fn materials(&mut self, document: &gltf::Document) {
        let made = document.materials().map(|m| {
            let of = m.pbr_metallic_roughness();
            let [r, g, b, a] = of.base_color_factor();
            let covers = m.alpha_mode() != gltf::material::AlphaMode::Opaque;
            Material {
                name: m.name().unwrap_or("material").chars().take(80).collect(),
                colour: [r, g, b, if covers { a } else { 1.0 }],
                texture: of.base_color_texture().map(|t| t.texture().index()),
                metal: of.metallic_factor(),
                rough: of.roughness_factor(),
            }
        });
        self.mesh.materials.extend(made);
        self.mesh.materials.push(Material::matt("plain", [0.5; 3]));
    }

    fn node(
        &mut self,
        node: &Node<'_>,
        above: &Matrix4<f32>,
        depth: usize,
    ) -> Result<(), ModelError> {
        self.nodes += 1;
        if depth > DEEPEST || self.nodes > MOST_NODES {
            return Err(self
                .files
                .unreadable("its nodes hold each other, or too many of them"));
        }
        let own = Matrix4::from(node.transform().matrix());
        let there = above * own;
        if let Some(mesh) = node.mesh() {
            mesh.primitives()
                .try_for_each(|p| self.primitive(&p, &there))?;
        }
        node.children()
            .try_for_each(|child| self.node(&child, &there, depth + 1))
    }

    fn primitive(
        &mut self,
        primitive: &Primitive<'_>,
        there: &Matrix4<f32>,
    ) -> Result<(), ModelError> {
        if !matches!(
            primitive.mode(),
            Mode::Triangles | Mode::TriangleStrip | Mode::TriangleFan
        ) {
            return Ok(());
        }
        // Counts are what a file says: they are checked before anything is made of them.
        for accessor in primitive
            .attributes()
            .map(|a| a.1)
            .chain(primitive.indices())
        {
            check(
                "corners",
                self.mesh.points.len() + accessor.count(),
                3 * MOST_TRIANGLES,
            )?;
            if !is_within_its_view(&accessor) {
                return Err(self.files.unreadable("it states more corners than it has"));
            }
        }
        let buffers = self.buffers;
        let reader = primitive.reader(|buffer| buffers.get(buffer.index()).map(Vec::as_slice));
        let Some(places) = reader.read_positions() else {
            return Ok(());
        };
        let points: Vec<[f32; 3]> = places.collect();
        let corners: Vec<u32> = match reader.read_indices() {
            Some(indices) => indices.into_u32().collect(),
            None => (0..points.len() as u32).collect(),
        };
        let triangles = triangles(primitive.mode(), &corners);
        if triangles
            .iter()
            .flatten()
            .any(|k| *k as usize >= points.len())
        {
            return Err(self
                .files
                .unreadable("triangles name corners that it does not have"));
        }
        check(
            "triangles",
            self.mesh.triangles.len() + triangles.len(),
            MOST_TRIANGLES,
        )?;
        let count = points.len();
        let mut piece = Mesh {
            points,
            triangles,
            ..Mesh::default()
        };
        piece = match reader.read_normals().map(Iterator::collect::<Vec<_>>) {
            Some(normals) if normals.len() == count => Mesh { normals, ..piece },
            _ => piece.with_own_normals(),
        };
        let uvs = reader
            .read_tex_coords(0)
            .map(|uvs| uvs.into_f32().collect::<Vec<_>>());
        piece.uvs = uvs
            .filter(|uvs| uvs.len() == count)
            .unwrap_or_else(|| vec![[0.0; 2]; count]);
        let linear: Matrix3<f32> = there.fixed_view::<3, 3>(0, 0).into_owned();
        let shift: Vector3<f32> = there.fixed_view::<3, 1>(0, 3).into_owned();
        piece.changed(&linear, &shift);
        let material = primitive
            .material()
            .index()
            .unwrap_or(self.mesh.materials.len() - 1);
        self.mesh.append(piece, material as u16);
        Ok(())
    }
}

/// Whether all that an accessor states lies in the piece of the buffer that it names.
fn is_within_its_view(accessor: &gltf::Accessor<'_>) -> bool {
    let Some(view) = accessor.view() else {
        return true;
    };
    let stride = view.stride().unwrap_or(accessor.size());
    let end = accessor
        .count()
        .checked_sub(1)
        .map_or(Some(0), |last| {
            last.checked_mul(stride)?.checked_add(accessor.size())
        })
        .and_then(|end| end.checked_add(accessor.offset()));
    end.is_some_and(|end| end <= view.length())
}

/// Corners as triangles; of a strip every other one is turned about.
fn triangles(mode: Mode, corners: &[u32]) -> Vec<[u32; 3]> {
    let three = |w: &[u32]| [w[0], w[1], w[2]];
    match mode {
        Mode::TriangleStrip => corners
            .windows(3)
            .enumerate()
            .map(|(k, w)| {
                if k % 2 == 0 {
                    three(w)
                } else {
                    [w[1], w[0], w[2]]
                }
            })
            .collect(),
        Mode::TriangleFan => corners
            .get(1..)
            .unwrap_or_default()
            .windows(2)
            .map(|w| [corners[0], w[0], w[1]])
            .collect(),
        _ => corners.chunks_exact(3).map(three).collect(),
    }
}
