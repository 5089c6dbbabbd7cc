//! PLY, as text or in either order of bytes, read by the `ply-rs-bw` crate: places, normals and the mean of the
//! corners' colours. Faces are cut into fans.

use super::{Files, MOST_TRIANGLES, ModelError, check};
use parallax_core::guest::{Material, Mesh};
use ply_rs_bw::parser::{Parser, Reader};
use ply_rs_bw::ply::{Property, PropertyAccess, PropertyAccessResult};

/// A corner: place, normal, and colour of 0 to 255.
#[derive(Default)]
struct Corner {
    place: [f32; 3],
    normal: [f32; 3],
    colour: [f32; 3],
}

fn number(property: &Property) -> Option<f32> {
    Some(match *property {
        Property::Char(v) => f32::from(v),
        Property::UChar(v) => f32::from(v),
        Property::Short(v) => f32::from(v),
        Property::UShort(v) => f32::from(v),
        Property::Int(v) => v as f32,
        Property::UInt(v) => v as f32,
        Property::Float(v) => v,
        Property::Double(v) => v as f32,
        _ => return None,
    })
}

impl PropertyAccess for Corner {
    fn new() -> Self {
        Self::default()
    }

    fn set_property(&mut self, name: &str, property: Property) -> PropertyAccessResult {
        let Some(value) = number(&property) else {
            return PropertyAccessResult::Ignored;
        };
        let to = match name {
            "x" => &mut self.place[0],
            "y" => &mut self.place[1],
            "z" => &mut self.place[2],
            "nx" => &mut self.normal[0],
            "ny" => &mut self.normal[1],
            "nz" => &mut self.normal[2],
            "red" => &mut self.colour[0],
            "green" => &mut self.colour[1],
            "blue" => &mut self.colour[2],
            _ => return PropertyAccessResult::Ignored,
        };
        *to = value;
        PropertyAccessResult::Set
    }
}

/// A face: its corners.
#[derive(Default)]
struct Face(Vec<u32>);

impl PropertyAccess for Face {
    fn new() -> Self {
        Self::default()
    }

    fn set_property(&mut self, name: &str, property: Property) -> PropertyAccessResult {
        if name != "vertex_indices" && name != "vertex_index" {
            return PropertyAccessResult::Ignored;
        }
        self.0 = match property {
            Property::ListChar(v) => v.into_iter().map(|k| k as u32).collect(),
            Property::ListUChar(v) => v.into_iter().map(u32::from).collect(),
            Property::ListShort(v) => v.into_iter().map(|k| k as u32).collect(),
            Property::ListUShort(v) => v.into_iter().map(u32::from).collect(),
            Property::ListInt(v) => v.into_iter().map(|k| k as u32).collect(),
            Property::ListUInt(v) => v,
            _ => return PropertyAccessResult::Ignored,
        };
        PropertyAccessResult::Set
    }
}

/// What is skipped: an element of another kind.
struct Other;

impl PropertyAccess for Other {
    fn new() -> Self {
        Self
    }
}

pub(super) fn read(files: &Files<'_>, bytes: &[u8]) -> Result<Mesh, ModelError> {
    let failed = |e| files.unreadable(e);
    let mut reader = Reader::new(bytes);
    let header = Parser::<Corner>::new()
        .read_header(&mut reader)
        .map_err(failed)?;
    let (mut corners, mut faces) = (Vec::new(), Vec::new());
    for (name, element) in &header.elements {
        // Each takes a byte at least.
        check(
            "elements",
            element.count,
            bytes.len().min(3 * MOST_TRIANGLES),
        )?;
        match name.as_str() {
            "vertex" => {
                let parser = Parser::<Corner>::new();
                corners = parser
                    .read_payload_for_element(&mut reader, element, &header)
                    .map_err(failed)?;
            }
            "face" => {
                let parser = Parser::<Face>::new();
                faces = parser
                    .read_payload_for_element(&mut reader, element, &header)
                    .map_err(failed)?;
            }
            _ => {
                let parser = Parser::<Other>::new();
                parser
                    .read_payload_for_element(&mut reader, element, &header)
                    .map_err(failed)?;
            }
        }
    }
    let mut mesh = Mesh {
        points: corners.iter().map(|c| c.place).collect(),
        ..Mesh::of(material(&corners))
    };
    for Face(around) in faces {
        for pair in around.get(1..).unwrap_or_default().windows(2) {
            mesh.triangle([around[0], pair[0], pair[1]], 0);
        }
        check("triangles", mesh.triangles.len(), MOST_TRIANGLES)?;
    }
    if mesh
        .triangles
        .iter()
        .flatten()
        .any(|k| *k as usize >= corners.len())
    {
        return Err(files.unreadable("faces name corners that it does not have"));
    }
    let has_normals = corners.iter().any(|c| c.normal != [0.0; 3]);
    Ok(match has_normals {
        true => Mesh {
            normals: corners.iter().map(|c| c.normal).collect(),
            ..mesh
        },
        false => mesh.with_own_normals(),
    })
}

/// One paint in the mean of the corners' colours.
fn material(corners: &[Corner]) -> Material {
    let coloured: Vec<&Corner> = corners.iter().filter(|c| c.colour != [0.0; 3]).collect();
    let count = coloured.len().max(1) as f32;
    let mean = [0, 1, 2].map(|k| coloured.iter().map(|c| c.colour[k] / 255.0).sum::<f32>() / count);
    Material::matt(
        "plain",
        if coloured.is_empty() {
            [0.5; 3]
        } else {
            mean.map(|v| v.powf(2.2))
        },
    )
}
