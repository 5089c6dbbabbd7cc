//! Surfaces of stand-ins: plain, matt, sized in metres.

use super::What;
use super::cards;
use super::figure;
use super::mesh::{Material, Mesh};
use nalgebra::{Matrix3, Vector3};
use std::f32::consts::PI;

/// Squares into which flat pieces are divided each way, so that a lens bends them.
const PIECES: u32 = 12;
/// Sides of what is round.
const AROUND: u32 = 48;
/// Thickness of cards, share of their height.
const CARD_SHARE: f32 = 0.02;

/// Grey card: reflects 18 %, so that light and exposure can be judged on it.
const GREY: [f32; 3] = [0.18; 3];
/// A pale ochre that stands off most plates.
const OCHRE: [f32; 3] = [0.55, 0.36, 0.13];

/// The surface of a stand-in, flat sides in pieces for drawing; `None` of a model, which brings its own.
pub fn mesh(what: &What) -> Option<Mesh> {
    in_pieces(what, PIECES)
}

/// The same with flat sides whole, for handing on.
pub fn plain(what: &What) -> Option<Mesh> {
    in_pieces(what, 1)
}

fn in_pieces(what: &What, pieces: u32) -> Option<Mesh> {
    Some(match what {
        What::Box { size_m } => block(size_m.map(|s| s as f32), pieces),
        What::Corner { size_m } => {
            let mut mesh = block(size_m.map(|s| s.abs() as f32), pieces);
            let [x, y, z] = size_m.map(|s| s as f32);
            let shift = Vector3::new(x / 2.0, y.min(0.0), z / 2.0);
            mesh.changed(&Matrix3::identity(), &shift);
            mesh
        }
        What::Plane { size_m } => flat(size_m.map(|s| s as f32), 2 * pieces),
        What::Cylinder {
            diameter_m,
            height_m,
        } => cylinder(*diameter_m as f32 / 2.0, *height_m as f32, pieces),
        What::Sphere { diameter_m } => sphere(*diameter_m as f32 / 2.0),
        What::Figure { height_m } => figure::mesh(*height_m as f32),
        What::Checker { size_m, squares } => {
            let [width, height] = size_m.map(|s| s as f32);
            card(
                width,
                height,
                cards::squares(*squares, height / width),
                pieces,
            )
        }
        What::Text { text, height_m } => {
            let texture = cards::line(text);
            let wide = texture.width as f32 / texture.height as f32;
            card(*height_m as f32 * wide, *height_m as f32, texture, pieces)
        }
        What::Arrow { length_m } => arrow(*length_m as f32),
        What::Model { .. } => return None,
    })
}

/// A box that stands on its foot.
fn block(size: [f32; 3], pieces: u32) -> Mesh {
    let mut mesh = Mesh::of(Material::matt("grey card", GREY));
    sides_of_block(&mut mesh, size, [0; 6], pieces);
    mesh
}

/// Adds the six sides of a box on the middle of its foot: front, back, right, left, top, bottom.
fn sides_of_block(mesh: &mut Mesh, [w, h, d]: [f32; 3], materials: [u16; 6], pieces: u32) {
    let (x, y, z) = (Vector3::x() * w, Vector3::y() * h, Vector3::z() * d);
    let low = -(x + z) / 2.0;
    let sides = [
        (low + z, x, y),
        (low + x, -x, y),
        (low + x + z, -z, y),
        (low, z, y),
        (low + y + z, x, -z),
        (low, x, z),
    ];
    for ((from, right, up), material) in sides.into_iter().zip(materials) {
        mesh.sheet(from, right, up, pieces, material);
    }
}

fn flat([w, d]: [f32; 2], pieces: u32) -> Mesh {
    let mut mesh = Mesh::of(Material::matt("grey card", GREY));
    let (x, z) = (Vector3::x() * w, Vector3::z() * d);
    mesh.sheet((z - x) / 2.0, x, -z, pieces, 0);
    mesh
}

fn cylinder(radius: f32, height: f32, pieces: u32) -> Mesh {
    let mut mesh = Mesh::of(Material::matt("grey card", GREY));
    let side = (0..=pieces).map(|k| (radius, height * k as f32 / pieces as f32));
    let line: Vec<_> = [(0.0, 0.0)]
        .into_iter()
        .chain(side)
        .chain([(0.0, height)])
        .collect();
    mesh.turned(&line, AROUND, 0);
    mesh
}

/// Half a circle about a height, from below to above.
pub(super) fn half_circle(radius: f32, height: f32, steps: u32) -> Vec<(f32, f32)> {
    let at = |k: u32| {
        let angle = PI * k as f32 / steps as f32;
        let r = if k == 0 || k == steps {
            0.0
        } else {
            radius * angle.sin()
        };
        (r, height - radius * angle.cos())
    };
    (0..=steps).map(at).collect()
}

fn sphere(radius: f32) -> Mesh {
    let mut mesh = Mesh::of(Material::matt("grey card", GREY));
    mesh.turned(&half_circle(radius, radius, AROUND / 2), AROUND, 0);
    mesh
}

fn card(width: f32, height: f32, texture: super::Texture, pieces: u32) -> Mesh {
    let mut mesh = Mesh::of(Material::matt("back", GREY));
    mesh.materials.push(Material {
        texture: Some(0),
        ..Material::matt("card", [1.0; 3])
    });
    mesh.textures.push(texture.into());
    let thick = CARD_SHARE * height.min(width);
    sides_of_block(
        &mut mesh,
        [width, height, thick],
        [1, 0, 0, 0, 0, 0],
        pieces,
    );
    mesh
}

/// Points down: its tip is its place.
fn arrow(length: f32) -> Mesh {
    let mut mesh = Mesh::of(Material::matt("ochre", OCHRE));
    let (tip, wide, thin) = (0.3 * length, 0.12 * length, 0.035 * length);
    let line = [
        (0.0, 0.0),
        (wide, tip),
        (thin, tip),
        (thin, length),
        (0.0, length),
    ];
    mesh.turned(&line, AROUND, 0);
    mesh
}

#[cfg(test)]
mod tests {
    use super::*;
    use rstest::rstest;

    #[rstest]
    #[case::block(What::Box { size_m: [0.4, 1.2, 0.6] }, [0.4, 1.2, 0.6])]
    #[case::plane(What::Plane { size_m: [2.0, 3.0] }, [2.0, 0.0, 3.0])]
    #[case::cylinder(What::Cylinder { diameter_m: 0.5, height_m: 2.0 }, [0.5, 2.0, 0.5])]
    #[case::sphere(What::Sphere { diameter_m: 0.3 }, [0.3, 0.3, 0.3])]
    #[case::checker(What::Checker { size_m: [0.6, 0.4], squares: 6 }, [0.6, 0.4, 0.008])]
    #[case::arrow(What::Arrow { length_m: 1.0 }, [0.24, 1.0, 0.24])]
    fn stand_ins_have_their_sizes_and_stand_on_their_foot(
        #[case] what: What,
        #[case] size: [f32; 3],
    ) {
        let made = mesh(&what).unwrap();
        let [low, high] = made.bounds().unwrap();
        for (k, side) in size.iter().enumerate() {
            assert!(
                (high[k] - low[k] - side).abs() < 1e-3 * side.max(0.1),
                "{low} {high}"
            );
        }
        assert!(low.y.abs() < 1e-6, "it stands on its foot");
        assert!((low.x + high.x).abs() < 1e-3 && (low.z + high.z).abs() < 1e-3);
        assert_eq!(made.triangles.len(), made.material_of.len());
    }

    #[test]
    fn a_box_by_its_corner_reaches_along_its_sides() {
        let made = mesh(&What::Corner {
            size_m: [0.4, 1.2, -0.6],
        })
        .unwrap();
        let [low, high] = made.bounds().unwrap();
        let off =
            |a: [f32; 3], b: [f32; 3]| (0..3).map(|k| (a[k] - b[k]).abs()).fold(0.0, f32::max);
        assert!(off(low.into(), [0.0, 0.0, -0.6]) < 1e-6, "{low}");
        assert!(off(high.into(), [0.4, 1.2, 0.0]) < 1e-6, "{high}");
    }

    /// A figure is as tall as stated, and no wider than people are.
    #[rstest]
    #[case(1.75)]
    #[case(1.1)]
    fn a_figure_is_as_tall_as_stated(#[case] height_m: f64) {
        let made = mesh(&What::Figure { height_m }).unwrap();
        let [low, high] = made.bounds().unwrap();
        assert!(
            (f64::from(high.y - low.y) - height_m).abs() < 2e-3,
            "{low} {high}"
        );
        let wide = f64::from(high.x - low.x) / height_m;
        assert!((0.2..0.4).contains(&wide), "{wide}");
    }
}
