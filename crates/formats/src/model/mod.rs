//! Models that are put into the plate: glTF 2.0 and GLB, OBJ with MTL, PLY; kept and handed on as GLB.
//!
//! All readers are of libraries that others keep; what they are given is checked first and bounded, and what comes
//! out is checked again: places that are no numbers, corners that are not there and models without a triangle are
//! named errors. A model stands on the middle of its foot afterwards, y up, in the units of its file.

pub mod glb;
mod gltf_reader;
mod obj_reader;
mod ply_reader;

use nalgebra::{Matrix3, Vector3};
use parallax_core::guest::Mesh;
use thiserror::Error;

/// Most triangles of a model.
pub const MOST_TRIANGLES: usize = 2_000_000;
/// Most bytes of all files of a model together.
pub const MOST_BYTES: usize = 256 << 20;
/// Most px of all its textures together.
const MOST_TEXTURE_PX: u64 = 64_000_000;
/// Most materials and textures.
const MOST_MATERIALS: usize = 1000;
/// Places beyond this are none, units of the file.
const FARTHEST: f32 = 1e7;

/// Why a model cannot be taken in.
#[derive(Clone, Debug, Error, PartialEq)]
pub enum ModelError {
    /// None of the files is of a known kind.
    #[error(
        "none of the files is a model: give a .glb, .gltf, .obj or .ply, with the files that it names"
    )]
    NoModel,
    /// Its reader gave up.
    #[error("{file} cannot be read as a model: {reason}")]
    Unreadable {
        /// The file.
        file: String,
        /// Why.
        reason: String,
    },
    /// A file that it names is not there.
    #[error("{file} names {missing}, which was not given: give it together with the model")]
    Missing {
        /// The model.
        file: String,
        /// What it names.
        missing: String,
    },
    /// Too large.
    #[error("the model has {found} {what}, at most {most} are taken in: give a lighter one")]
    TooLarge {
        /// What there is too much of.
        what: &'static str,
        /// How many.
        found: usize,
        /// How many are taken in.
        most: usize,
    },
    /// Nothing to draw.
    #[error("{file} has no triangles: points and lines alone cannot be drawn")]
    Empty {
        /// The file.
        file: String,
    },
    /// Places that are no numbers.
    #[error("{file} has places that are no numbers or farther than 10,000 km")]
    NotFinite {
        /// The file.
        file: String,
    },
}

/// A file by its name.
pub type Named = (String, Vec<u8>);

/// Files that came together.
pub(crate) struct Files<'a> {
    main: &'a str,
    all: &'a [Named],
}

impl Files<'_> {
    /// A file that the model names, by the last part of its path: nothing else is ever opened.
    fn named(&self, path: &str) -> Result<&[u8], ModelError> {
        let last = |path: &str| {
            path.rsplit(['/', '\\'])
                .next()
                .unwrap_or(path)
                .to_lowercase()
        };
        let wanted = last(path);
        let found = self.all.iter().find(|(name, _)| last(name) == wanted);
        found
            .map(|(_, bytes)| bytes.as_slice())
            .ok_or_else(|| ModelError::Missing {
                file: self.main.to_owned(),
                missing: path.chars().take(80).collect(),
            })
    }

    fn unreadable(&self, reason: impl ToString) -> ModelError {
        ModelError::Unreadable {
            file: self.main.to_owned(),
            reason: reason.to_string().chars().take(200).collect(),
        }
    }
}

/// Reads a model out of files that came together.
pub fn read(all: &[Named]) -> Result<Mesh, ModelError> {
    let bytes: usize = all.iter().map(|(_, bytes)| bytes.len()).sum();
    check("bytes", bytes, MOST_BYTES)?;
    let kind = |name: &str| {
        name.rsplit('.')
            .next()
            .map(str::to_lowercase)
            .unwrap_or_default()
    };
    let kinds = ["glb", "gltf", "obj", "ply"];
    let of_kind = |wanted: &&str| all.iter().find(|(name, _)| kind(name) == *wanted);
    let (name, bytes) = kinds.iter().find_map(of_kind).ok_or(ModelError::NoModel)?;
    let files = Files { main: name, all };
    let reading = || match kind(name).as_str() {
        "obj" => obj_reader::read(&files, bytes),
        "ply" => ply_reader::read(&files, bytes),
        _ => gltf_reader::read(&files, bytes),
    };
    // Libraries are well tested, not proven: one that panics at what it reads is an error like any other.
    let read = std::panic::catch_unwind(std::panic::AssertUnwindSafe(reading));
    let mesh =
        read.unwrap_or_else(|_| Err(files.unreadable("its reader failed at what it holds")))?;
    Ok(standing(checked(mesh, name)?))
}

fn check(what: &'static str, found: usize, most: usize) -> Result<(), ModelError> {
    match found > most {
        true => Err(ModelError::TooLarge { what, found, most }),
        false => Ok(()),
    }
}

/// A mesh of which everything is there and finite.
fn checked(mut mesh: Mesh, file: &str) -> Result<Mesh, ModelError> {
    let file = file.to_owned();
    let is_place = |p: &[f32; 3]| p.iter().all(|v| v.is_finite() && v.abs() < FARTHEST);
    check("triangles", mesh.triangles.len(), MOST_TRIANGLES)?;
    check("materials", mesh.materials.len(), MOST_MATERIALS)?;
    let count = mesh.points.len();
    let whole = mesh
        .triangles
        .iter()
        .flatten()
        .all(|k| (*k as usize) < count);
    if !whole
        || mesh
            .material_of
            .iter()
            .any(|m| usize::from(*m) >= mesh.materials.len())
    {
        let reason = "triangles name corners or materials that it does not have".to_owned();
        return Err(ModelError::Unreadable { file, reason });
    }
    if !mesh.points.iter().all(is_place) {
        return Err(ModelError::NotFinite { file });
    }
    if mesh.triangles.is_empty() {
        return Err(ModelError::Empty { file });
    }
    if mesh.normals.len() != count {
        mesh = mesh.with_own_normals();
    }
    let unit = |n: &mut [f32; 3]| {
        let of = Vector3::from(*n);
        *n = of
            .try_normalize(1e-12)
            .filter(|n| n.iter().all(|v| v.is_finite()))
            .unwrap_or_else(Vector3::y)
            .into();
    };
    mesh.normals.iter_mut().for_each(unit);
    mesh.uvs.resize(count, [0.0; 2]);
    mesh.uvs
        .iter_mut()
        .flatten()
        .filter(|v| !v.is_finite())
        .for_each(|v| *v = 0.0);
    for material in &mut mesh.materials {
        material.colour = material.colour.map(|c| {
            if c.is_finite() {
                c.clamp(0.0, 1.0)
            } else {
                0.5
            }
        });
        let share = |v: f32, usual: f32| {
            if v.is_finite() {
                v.clamp(0.0, 1.0)
            } else {
                usual
            }
        };
        (material.metal, material.rough) = (share(material.metal, 0.0), share(material.rough, 0.8));
        material.texture = material.texture.filter(|t| *t < mesh.textures.len());
    }
    Ok(mesh)
}

/// On the middle of its foot.
fn standing(mut mesh: Mesh) -> Mesh {
    if let Some([low, high]) = mesh.bounds() {
        let middle = (low.coords + high.coords) / 2.0;
        mesh.changed(
            &Matrix3::identity(),
            &-Vector3::new(middle.x, low.y, middle.z),
        );
    }
    mesh
}

/// Pictures on models so far, with room for so many more px.
struct Textures {
    left_px: u64,
}

impl Textures {
    fn new() -> Self {
        Self {
            left_px: MOST_TEXTURE_PX,
        }
    }

    fn decode(
        &mut self,
        files: &Files<'_>,
        bytes: &[u8],
    ) -> Result<parallax_core::guest::Texture, ModelError> {
        let texture = parallax_media::texture::decode(bytes, self.left_px)
            .map_err(|e| files.unreadable(e))?;
        self.left_px -= u64::from(texture.width) * u64::from(texture.height);
        Ok(texture)
    }
}

#[cfg(test)]
mod tests;
