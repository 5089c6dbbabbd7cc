//! A person who stands, arms at the sides: a low surface in the proportions of an adult (head an eighth of the height).

use super::mesh::{Material, Mesh};
use super::stand_ins::half_circle;
use nalgebra::{UnitQuaternion, Vector3};

const AROUND: u32 = 20;
const SKIN: [f32; 3] = [0.42, 0.26, 0.18];
const SHIRT: [f32; 3] = [0.16, 0.26, 0.24];
const TROUSERS: [f32; 3] = [0.06, 0.06, 0.07];
const SHOES: [f32; 3] = [0.03, 0.025, 0.02];

/// A limb of a colour: (radius, height) from below to above, so flat and so turned, at a place.
struct Limb<'a> {
    line: &'a [(f32, f32)],
    /// Depth by width.
    flat: f32,
    colour: [f32; 3],
    /// About across, rad.
    tilt: f32,
    at: [f32; 3],
}

fn limb(mesh: &mut Mesh, limb: &Limb<'_>) {
    let mut own = Mesh::of(Material::matt("figure", limb.colour));
    own.turned(limb.line, AROUND, 0);
    let flattened = nalgebra::Matrix3::from_diagonal(&Vector3::new(1.0, 1.0, limb.flat));
    own.changed(&flattened, &Vector3::zeros());
    let turn = UnitQuaternion::from_axis_angle(&Vector3::z_axis(), limb.tilt);
    mesh.add(&own, &turn, &limb.at.into());
}

/// A person so tall, m, the face across.
pub fn mesh(height_m: f32) -> Mesh {
    // In heights of the figure.
    let mut mesh = Mesh::of(Material::matt("figure", SKIN));
    let skull: Vec<(f32, f32)> = half_circle(0.062, 0.938, 12)
        .into_iter()
        .map(|(r, y)| (0.72 * r, y))
        .collect();
    let parts = [
        Limb {
            line: &skull,
            flat: 1.25,
            colour: SKIN,
            tilt: 0.0,
            at: [0.0; 3],
        },
        Limb {
            line: &[(0.0, 0.79), (0.032, 0.8), (0.03, 0.9), (0.0, 0.91)],
            flat: 1.0,
            colour: SKIN,
            tilt: 0.0,
            at: [0.0; 3],
        },
        Limb {
            line: &[
                (0.0, 0.5),
                (0.088, 0.505),
                (0.094, 0.56),
                (0.08, 0.63),
                (0.1, 0.72),
                (0.112, 0.79),
                (0.09, 0.825),
                (0.03, 0.845),
                (0.0, 0.846),
            ],
            flat: 0.6,
            colour: SHIRT,
            tilt: 0.0,
            at: [0.0; 3],
        },
        Limb {
            line: &[
                (0.0, 0.44),
                (0.075, 0.45),
                (0.094, 0.49),
                (0.09, 0.53),
                (0.0, 0.54),
            ],
            flat: 0.66,
            colour: TROUSERS,
            tilt: 0.0,
            at: [0.0; 3],
        },
    ];
    parts.iter().for_each(|part| limb(&mut mesh, part));
    for side in [-1.0, 1.0] {
        let leg = [
            (0.0, 0.03),
            (0.032, 0.035),
            (0.034, 0.15),
            (0.044, 0.22),
            (0.04, 0.28),
            (0.056, 0.42),
            (0.05, 0.49),
            (0.0, 0.5),
        ];
        let arm = [
            (0.0, -0.33),
            (0.019, -0.325),
            (0.021, -0.24),
            (0.027, -0.17),
            (0.028, -0.06),
            (0.034, -0.01),
            (0.0, 0.012),
        ];
        let hand: Vec<(f32, f32)> = half_circle(0.026, -0.355, 8)
            .into_iter()
            .map(|(r, y)| (0.7 * r, y))
            .collect();
        let shoulder = [side * 0.105, 0.8, 0.0];
        let tilt = side * 0.09;
        let limbs = [
            Limb {
                line: &leg,
                flat: 1.05,
                colour: TROUSERS,
                tilt: 0.0,
                at: [side * 0.05, 0.0, 0.0],
            },
            Limb {
                line: &arm,
                flat: 1.0,
                colour: SHIRT,
                tilt,
                at: shoulder,
            },
            Limb {
                line: &hand,
                flat: 1.2,
                colour: SKIN,
                tilt,
                at: shoulder,
            },
            Limb {
                line: &[
                    (0.0, 0.0),
                    (0.033, 0.001),
                    (0.034, 0.02),
                    (0.022, 0.038),
                    (0.0, 0.04),
                ],
                flat: 2.1,
                colour: SHOES,
                tilt: 0.0,
                at: [side * 0.052, 0.0, 0.028],
            },
        ];
        limbs.iter().for_each(|part| limb(&mut mesh, part));
    }
    let tall = nalgebra::Matrix3::identity() * height_m;
    mesh.changed(&tall, &Vector3::zeros());
    mesh
}
