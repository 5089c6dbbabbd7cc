//! Surfaces as triangles.
//!
//! Corners are listed once per triangle strip of one normal: a corner has a place, a normal and a place on the
//! texture. Triangles run counter-clockwise from outside. Colours are linear light, 0 to 1.

use nalgebra::{Matrix3, Point3, UnitQuaternion, Vector3};
use std::sync::Arc;

/// A picture on a surface.
#[derive(Clone, Debug, PartialEq)]
pub struct Texture {
    /// Width, px.
    pub width: u32,
    /// Height, px.
    pub height: u32,
    /// Red, green, blue and coverage, 8 bit as shown on screens (sRGB), row by row from the top.
    pub rgba: Vec<u8>,
}

/// How a surface takes the light.
#[derive(Clone, Debug, PartialEq)]
pub struct Material {
    /// Its name.
    pub name: String,
    /// Colour and coverage; with a texture both are multiplied.
    pub colour: [f32; 4],
    /// The picture on it, index.
    pub texture: Option<usize>,
    /// 0 a paint, 1 a bare metal.
    pub metal: f32,
    /// 0 a mirror, 1 chalk.
    pub rough: f32,
}

impl Material {
    /// Matt paint.
    pub fn matt(name: &str, colour: [f32; 3]) -> Self {
        let [r, g, b] = colour;
        Self {
            name: name.to_owned(),
            colour: [r, g, b, 1.0],
            texture: None,
            metal: 0.0,
            rough: 0.8,
        }
    }
}

/// A surface.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Mesh {
    /// Places of corners, m.
    pub points: Vec<[f32; 3]>,
    /// Normals of corners, unit length.
    pub normals: Vec<[f32; 3]>,
    /// Places of corners on the texture, (0, 0) its upper left.
    pub uvs: Vec<[f32; 2]>,
    /// Corners of triangles.
    pub triangles: Vec<[u32; 3]>,
    /// Material of each triangle.
    pub material_of: Vec<u16>,
    /// Materials.
    pub materials: Vec<Material>,
    /// Textures.
    pub textures: Vec<Arc<Texture>>,
}

/// A corner.
type Corner = ([f32; 3], [f32; 3], [f32; 2]);

impl Mesh {
    /// Nothing yet, of one material.
    pub fn of(material: Material) -> Self {
        Self {
            materials: vec![material],
            ..Self::default()
        }
    }

    /// Adds a corner; its number.
    pub fn corner(&mut self, (point, normal, uv): Corner) -> u32 {
        self.points.push(point);
        self.normals.push(normal);
        self.uvs.push(uv);
        self.points.len() as u32 - 1
    }

    /// Adds a triangle.
    pub fn triangle(&mut self, corners: [u32; 3], material: u16) {
        self.triangles.push(corners);
        self.material_of.push(material);
    }

    /// Adds a flat four-sided piece in `pieces` by `pieces` squares, so that a lens that bends bends it: from `from`
    /// along `right` and `up`, seen from where the one turns counter-clockwise to the other.
    pub fn sheet(
        &mut self,
        from: Vector3<f32>,
        right: Vector3<f32>,
        up: Vector3<f32>,
        pieces: u32,
        material: u16,
    ) {
        let normal = right.cross(&up).normalize().into();
        let first = self.points.len() as u32;
        for row in 0..=pieces {
            for column in 0..=pieces {
                let (u, v) = (column as f32 / pieces as f32, row as f32 / pieces as f32);
                self.corner(((from + right * u + up * v).into(), normal, [u, 1.0 - v]));
            }
        }
        let at = |column: u32, row: u32| first + row * (pieces + 1) + column;
        for row in 0..pieces {
            for column in 0..pieces {
                let (a, b) = (at(column, row), at(column + 1, row));
                let (c, d) = (at(column + 1, row + 1), at(column, row + 1));
                self.triangle([a, b, c], material);
                self.triangle([a, c, d], material);
            }
        }
    }

    /// Adds what a line of (radius, height) sweeps about the upright, from below to above; a line that touches the
    /// upright closes it. Corners of the line sharper than 40 degrees stay sharp.
    pub fn turned(&mut self, line: &[(f32, f32)], around: u32, material: u16) {
        const SHARP: f32 = 0.766;
        let leg = |k: usize| {
            let ((r0, y0), (r1, y1)) = (line[k], line[k + 1]);
            let (dr, dy) = (r1 - r0, y1 - y0);
            let length = dr.hypot(dy).max(1e-12);
            // Outwards of a line that rises.
            (dy / length, -dr / length)
        };
        let legs: Vec<(f32, f32)> = (0..line.len() - 1).map(leg).collect();
        let meet = |a: (f32, f32), b: (f32, f32)| {
            let sum = (a.0 + b.0, a.1 + b.1);
            let length = sum.0.hypot(sum.1).max(1e-12);
            match a.0 * b.0 + a.1 * b.1 > SHARP {
                true => (sum.0 / length, sum.1 / length),
                false => a,
            }
        };
        for (k, own) in legs.iter().enumerate() {
            let below = k.checked_sub(1).map_or(*own, |b| meet(*own, legs[b]));
            let above = legs.get(k + 1).map_or(*own, |a| meet(*own, *a));
            let first = self.points.len() as u32;
            for step in 0..=around {
                let share = step as f32 / around as f32;
                let (sin, cos) = (share * std::f32::consts::TAU).sin_cos();
                for (at, (nr, ny)) in [(k, below), (k + 1, above)] {
                    let ((r, y), v) = (line[at], 1.0 - at as f32 / legs.len() as f32);
                    self.corner(([r * sin, y, r * cos], [nr * sin, ny, nr * cos], [share, v]));
                }
            }
            for step in 0..around {
                let at = first + 2 * step;
                let (a, b, c, d) = (at, at + 2, at + 3, at + 1);
                if line[k].0 > 0.0 {
                    self.triangle([a, b, c], material);
                }
                if line[k + 1].0 > 0.0 {
                    self.triangle([a, c, d], material);
                }
            }
        }
    }

    /// Adds triangles of one material, with their corners.
    pub fn append(&mut self, piece: Self, material: u16) {
        let first = self.points.len() as u32;
        let count = piece.triangles.len();
        self.material_of
            .extend(std::iter::repeat_n(material, count));
        let triangles = piece.triangles.iter().map(|t| t.map(|c| c + first));
        self.triangles.extend(triangles);
        self.points.extend(piece.points);
        self.normals.extend(piece.normals);
        self.uvs.extend(piece.uvs);
    }

    /// Adds another, turned and shifted; its materials and textures come along.
    pub fn add(&mut self, other: &Self, turn: &UnitQuaternion<f32>, shift: &Vector3<f32>) {
        let first = self.points.len() as u32;
        let (materials, textures) = (self.materials.len(), self.textures.len());
        let moved = other
            .points
            .iter()
            .map(|p| <[f32; 3]>::from(turn * Vector3::from(*p) + shift));
        self.points.extend(moved);
        let turned = other
            .normals
            .iter()
            .map(|n| <[f32; 3]>::from(turn * Vector3::from(*n)));
        self.normals.extend(turned);
        self.uvs.extend(&other.uvs);
        let triangles = other.triangles.iter().map(|t| t.map(|c| c + first));
        self.triangles.extend(triangles);
        let known: Vec<u16> = other
            .materials
            .iter()
            .map(|m| {
                let own = Material {
                    texture: m.texture.map(|t| t + textures),
                    ..m.clone()
                };
                let same = self.materials[..materials].iter().position(|k| *k == own);
                let at = same.unwrap_or_else(|| {
                    self.materials.push(own);
                    self.materials.len() - 1
                });
                at as u16
            })
            .collect();
        self.material_of
            .extend(other.material_of.iter().map(|m| known[usize::from(*m)]));
        self.textures.extend(other.textures.iter().cloned());
    }

    /// Room that it takes, bytes.
    pub fn bytes(&self) -> usize {
        let corners = size_of_val(&self.points[..])
            + size_of_val(&self.normals[..])
            + size_of_val(&self.uvs[..]);
        let triangles = size_of_val(&self.triangles[..]) + size_of_val(&self.material_of[..]);
        corners + triangles + self.textures.iter().map(|t| t.rgba.len()).sum::<usize>()
    }

    /// The box about it: its least and greatest corner; `None` of nothing.
    pub fn bounds(&self) -> Option<[Point3<f32>; 2]> {
        let mut corners = self.points.iter().map(|p| Point3::from(*p));
        let first = corners.next()?;
        Some(corners.fold([first, first], |[low, high], p| [low.inf(&p), high.sup(&p)]))
    }

    /// Every place changed by a matrix and a shift, normals along with it.
    pub fn changed(&mut self, matrix: &Matrix3<f32>, shift: &Vector3<f32>) {
        let of_normals = matrix
            .try_inverse()
            .map_or_else(Matrix3::identity, |m| m.transpose());
        for p in &mut self.points {
            *p = (matrix * Vector3::from(*p) + shift).into();
        }
        for n in &mut self.normals {
            let turned = of_normals * Vector3::from(*n);
            *n = turned
                .try_normalize(1e-12)
                .unwrap_or_else(Vector3::y)
                .into();
        }
        if matrix.determinant() < 0.0 {
            self.triangles.iter_mut().for_each(|t| t.swap(1, 2));
        }
    }

    /// Normals from the triangles themselves, where a file brings none: a corner's is the mean of its triangles.
    pub fn with_own_normals(mut self) -> Self {
        let mut sums = vec![Vector3::<f32>::zeros(); self.points.len()];
        for t in &self.triangles {
            let [a, b, c] = t.map(|k| Vector3::from(self.points[k as usize]));
            let normal = (b - a).cross(&(c - a));
            t.iter().for_each(|k| sums[*k as usize] += normal);
        }
        let unit = |n: &Vector3<f32>| n.try_normalize(1e-20).unwrap_or_else(Vector3::y).into();
        self.normals = sums.iter().map(unit).collect();
        self
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Volume by the divergence theorem: positive where all triangles look outwards and nothing is open.
    fn volume(mesh: &Mesh) -> f32 {
        let of = |t: &[u32; 3]| {
            let [a, b, c] = t.map(|k| Vector3::from(mesh.points[k as usize]));
            a.dot(&b.cross(&c)) / 6.0
        };
        mesh.triangles.iter().map(of).sum()
    }

    #[test]
    fn what_is_turned_is_closed_and_looks_outwards() {
        let mut mesh = Mesh::of(Material::matt("m", [0.5; 3]));
        mesh.turned(&[(0.0, 0.0), (0.5, 0.0), (0.5, 2.0), (0.0, 2.0)], 64, 0);
        let round = std::f32::consts::PI * 0.25 * 2.0;
        assert!(
            (volume(&mesh) / round - 1.0).abs() < 0.01,
            "{}",
            volume(&mesh)
        );
        for (p, n) in mesh.points.iter().zip(&mesh.normals) {
            let out = Vector3::new(p[0], p[1] - 1.0, p[2]);
            assert!(Vector3::from(*n).dot(&out) > 0.0, "{p:?} {n:?}");
        }
    }

    #[test]
    fn a_mirrored_mesh_still_looks_outwards() {
        let mut mesh = Mesh::of(Material::matt("m", [0.5; 3]));
        mesh.turned(&[(0.0, 0.0), (0.5, 0.0), (0.0, 1.0)], 24, 0);
        let before = volume(&mesh);
        mesh.changed(
            &Matrix3::from_diagonal(&Vector3::new(-1.0, 1.0, 1.0)),
            &Vector3::x(),
        );
        assert!((volume(&mesh) - before).abs() < 1e-3);
    }

    #[test]
    fn materials_of_what_is_added_come_along_once() {
        let red = Mesh {
            triangles: vec![[0, 0, 0]],
            material_of: vec![0],
            ..Mesh::of(Material::matt("red", [1.0, 0.0, 0.0]))
        };
        let mut both = Mesh::of(Material::matt("blue", [0.0, 0.0, 1.0]));
        both.add(&red, &UnitQuaternion::identity(), &Vector3::zeros());
        both.add(&red, &UnitQuaternion::identity(), &Vector3::zeros());
        assert_eq!(both.materials.len(), 2);
        assert_eq!(both.material_of, [1, 1]);
    }
}
