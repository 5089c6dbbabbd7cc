//! The brass orrery of the Observatory's hall, a guest for the demo: a sun on a column, six worlds on arms, the great
//! ring. Metres, y up, on its foot.

use nalgebra::{Matrix3, UnitQuaternion, Vector3};
use parallax_core::guest::{Material, Mesh};
use std::f32::consts::{FRAC_PI_2, PI, TAU};

const AROUND: u32 = 40;

/// Height of the arms' plane, m.
const HALL_M: f32 = 0.62;

fn metal(name: &str, colour: [f32; 3], rough: f32) -> Material {
    Material {
        metal: 0.9,
        rough,
        ..Material::matt(name, colour)
    }
}

fn brass() -> Material {
    metal("brass", [0.72, 0.5, 0.19], 0.35)
}

/// A line of (radius, height) turned about the upright.
fn turned(material: Material, line: &[(f32, f32)]) -> Mesh {
    let mut mesh = Mesh::of(material);
    mesh.turned(line, AROUND, 0);
    mesh
}

fn ball(material: Material, radius: f32) -> Mesh {
    let at = |k: usize| {
        let angle = PI * k as f32 / 20.0;
        let r = if k == 0 || k == 20 {
            0.0
        } else {
            radius * angle.sin()
        };
        (r, -radius * angle.cos())
    };
    turned(material, &(0..=20).map(at).collect::<Vec<_>>())
}

/// A ring of a round bar about the upright.
fn ring(material: Material, radius: f32, bar: f32) -> Mesh {
    let at = |k: usize| {
        let angle = TAU * k as f32 / 16.0 - PI;
        (radius + bar * angle.cos(), bar * angle.sin())
    };
    turned(material, &(0..=16).map(at).collect::<Vec<_>>())
}

fn rod(length: f32, thick: f32) -> Mesh {
    turned(
        brass(),
        &[(0.0, 0.0), (thick, 0.0), (thick, length), (0.0, length)],
    )
}

/// A world on its arm: how far out, how large, in what colour, where along its way (rad).
struct World(f32, f32, [f32; 3], f32);

const WORLDS: [World; 6] = [
    World(0.13, 0.016, [0.45, 0.42, 0.4], 0.4),
    World(0.18, 0.024, [0.75, 0.62, 0.4], 2.5),
    World(0.24, 0.026, [0.1, 0.27, 0.42], 4.4),
    World(0.3, 0.02, [0.52, 0.18, 0.09], 5.6),
    World(0.37, 0.045, [0.62, 0.48, 0.34], 1.3),
    World(0.45, 0.038, [0.66, 0.58, 0.38], 3.4),
];

/// The orrery.
pub fn mesh() -> Mesh {
    let mut all = Mesh::of(brass());
    let still = UnitQuaternion::identity();
    let up = |y: f32| Vector3::new(0.0, y, 0.0);
    // Foot and column, a knop half way.
    let column = [
        (0.0, 0.0),
        (0.19, 0.0),
        (0.19, 0.02),
        (0.17, 0.03),
        (0.06, 0.06),
        (0.035, 0.1),
        (0.028, 0.25),
        (0.05, 0.29),
        (0.05, 0.31),
        (0.028, 0.35),
        (0.022, 0.5),
        (0.034, 0.54),
        (0.034, 0.56),
        (0.014, 0.58),
        (0.014, HALL_M + 0.06),
        (0.0, HALL_M + 0.06),
    ];
    all.add(&turned(brass(), &column), &still, &Vector3::zeros());
    all.add(
        &ball(metal("sun", [0.95, 0.68, 0.2], 0.22), 0.07),
        &still,
        &up(HALL_M + 0.11),
    );
    all.add(&ring(brass(), 0.5, 0.009), &still, &up(HALL_M - 0.05));
    for k in 0..4 {
        let lean = UnitQuaternion::from_axis_angle(&Vector3::y_axis(), k as f32 * FRAC_PI_2)
            * UnitQuaternion::from_axis_angle(&Vector3::x_axis(), FRAC_PI_2);
        all.add(&rod(0.5, 0.006), &lean, &up(HALL_M - 0.05));
    }
    for (k, World(far, large, colour, along)) in WORLDS.into_iter().enumerate() {
        let turn = UnitQuaternion::from_axis_angle(&Vector3::y_axis(), along);
        let out = turn * Vector3::z();
        let height = HALL_M + 0.004 * k as f32;
        let lying = turn * UnitQuaternion::from_axis_angle(&Vector3::x_axis(), FRAC_PI_2);
        all.add(&rod(far, 0.004), &lying, &up(height));
        all.add(&rod(0.07, 0.004), &still, &(out * far + up(height)));
        let there = out * far + up(height + 0.07 + large);
        all.add(&ball(metal("world", colour, 0.45), large), &still, &there);
        if k == 5 {
            let mut flat = ring(brass(), 0.062, 0.008);
            flat.changed(
                &Matrix3::from_diagonal(&Vector3::new(1.0, 0.25, 1.0)),
                &Vector3::zeros(),
            );
            let tilt = UnitQuaternion::from_axis_angle(&Vector3::x_axis(), 0.42);
            all.add(&flat, &tilt, &there);
        }
    }
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_stands_on_its_foot_and_is_as_large_as_a_table_takes() {
        let made = mesh();
        let [low, high] = made.bounds().unwrap();
        assert!(
            low.y.abs() < 1e-6 && (0.7..0.9).contains(&high.y),
            "{low} {high}"
        );
        assert!((0.9..1.1).contains(&(high.x - low.x)), "{low} {high}");
        assert!(
            (3_000..60_000).contains(&made.triangles.len()),
            "{}",
            made.triangles.len()
        );
        assert_eq!(made.normals.len(), made.points.len());
    }
}
