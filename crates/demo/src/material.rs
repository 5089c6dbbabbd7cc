//! What surfaces look like: stone, metal, leaves, from noise.

use crate::noise::{cell, octaves};
use nalgebra::Vector3;

/// Linear red, green and blue.
pub type Light = Vector3<f64>;

/// A surface.
#[derive(Clone, Copy, Debug)]
pub enum Material {
    /// Slabs laid in rows with joints; side in metres.
    Flags { side: f64, seed: u32 },
    /// Slabs up to a parapet at `edge` (first coordinate), a meadow beyond it.
    Terrace { side: f64, edge: f64, seed: u32 },
    /// Courses of cut stone; height of a course in metres.
    Ashlar {
        course: f64,
        seed: u32,
        tint: [f64; 3],
    },
    /// Worn metal.
    Brass { seed: u32 },
    /// Boards with grain.
    Wood { seed: u32, tint: [f64; 3] },
    /// Leaves.
    Leaves { seed: u32 },
    /// Rough paint or plaster.
    Plaster { seed: u32, tint: [f64; 3] },
    /// Old glass and shade.
    Dark { seed: u32 },
}

impl Material {
    /// Reflectance at surface coordinates in metres, with detail down to `footprint` metres.
    pub fn albedo(&self, uv: (f64, f64), footprint: f64) -> Light {
        let (u, v) = uv;
        match *self {
            Self::Flags { side, seed } => flags(u, v, side, footprint, seed),
            Self::Terrace { edge, seed, .. } if u > edge => {
                let tufts = octaves(u, v, 1.6, footprint, 0.8, seed);
                Light::new(0.15, 0.20, 0.07) * (1.0 + 0.5 * tufts).max(0.15)
            }
            Self::Terrace { side, seed, .. } => flags(u, v, side, footprint, seed),
            Self::Ashlar { course, seed, tint } => ashlar(u, v, course, footprint, seed, tint),
            Self::Brass { seed } => {
                let wear = octaves(u, v, 0.12, footprint, 0.75, seed);
                Light::new(0.46, 0.31, 0.11) * (1.0 + 0.42 * wear).max(0.1)
            }
            Self::Wood { seed, tint } => wood(u, v, footprint, seed, tint),
            Self::Leaves { seed } => {
                let leaf = octaves(u, v, 0.09, footprint, 0.85, seed);
                Light::new(0.09, 0.17, 0.05) * (1.0 + 0.8 * leaf).max(0.08)
            }
            Self::Plaster { seed, tint } => {
                let rough = octaves(u, v, 0.8, footprint, 0.72, seed);
                Light::from(tint) * (1.0 + 0.22 * rough).max(0.1)
            }
            Self::Dark { seed } => {
                let dirt = octaves(u, v, 0.3, footprint, 0.7, seed);
                Light::new(0.045, 0.05, 0.055) * (1.0 + 0.6 * dirt).max(0.1)
            }
        }
    }

    /// How much of the sky is mirrored at grazing angles, 0 to 1.
    pub fn shine(&self) -> f64 {
        match self {
            Self::Brass { .. } => 0.35,
            Self::Dark { .. } => 0.15,
            _ => 0.0,
        }
    }
}

/// 1 inside a slab, falling to 0 in its joint; widened to the footprint so that it does not flicker.
fn joint(distance: f64, width: f64, footprint: f64) -> f64 {
    let edge = (0.5 * width).max(0.5 * footprint);
    let strength = (width / (width + footprint)).clamp(0.15, 1.0);
    1.0 - strength * (1.0 - ((distance - 0.5 * width) / edge).clamp(0.0, 1.0))
}

fn flags(u: f64, v: f64, side: f64, footprint: f64, seed: u32) -> Light {
    let row = (v / side).floor();
    let width = side * (0.8 + 0.7 * cell(row as i32, 17, seed));
    let shifted = u + side * 3.0 * cell(row as i32, 5, seed);
    let column = (shifted / width).floor();
    let to_side = (shifted / width - column).min(column + 1.0 - shifted / width) * width;
    let to_row = (v / side - row).min(row + 1.0 - v / side) * side;
    let gap = joint(to_side.min(to_row), 0.016, footprint);
    let stone = cell(column as i32, row as i32, seed.wrapping_add(3));
    let warmth = cell(column as i32, row as i32, seed.wrapping_add(9));
    let grit = octaves(
        u,
        v,
        0.35,
        footprint,
        0.82,
        seed.wrapping_add((stone * 50.0) as u32),
    );
    let moss = octaves(u, v, 2.3, footprint, 0.6, seed.wrapping_add(77)).max(0.0);
    let base =
        Light::new(0.34, 0.315, 0.275) + Light::new(0.03, 0.005, -0.025) * (warmth - 0.5) * 2.0;
    let slab = base * (0.72 + 0.5 * stone) * (1.0 + 0.30 * grit).max(0.15);
    let mossy = slab.lerp(&Light::new(0.16, 0.18, 0.09), (0.45 * moss).min(0.6));
    mossy * (0.28 + 0.72 * gap)
}

fn ashlar(u: f64, v: f64, course: f64, footprint: f64, seed: u32, tint: [f64; 3]) -> Light {
    let row = (v / course).floor();
    let width = course * (1.6 + 0.9 * cell(row as i32, 3, seed));
    let shifted = u + width * (0.5 * row + cell(row as i32, 8, seed));
    let column = (shifted / width).floor();
    let to_side = (shifted / width - column).min(column + 1.0 - shifted / width) * width;
    let to_row = (v / course - row).min(row + 1.0 - v / course) * course;
    let gap = joint(to_side.min(to_row), 0.012, footprint);
    let stone = cell(column as i32, row as i32, seed.wrapping_add(1));
    let grit = octaves(
        u,
        v,
        0.25,
        footprint,
        0.8,
        seed.wrapping_add((stone * 90.0) as u32),
    );
    let streak = octaves(u * 3.0, v * 0.4, 0.9, footprint, 0.6, seed.wrapping_add(31));
    Light::from(tint)
        * (0.75 + 0.45 * stone)
        * (1.0 + 0.24 * grit + 0.14 * streak).max(0.15)
        * (0.35 + 0.65 * gap)
}

fn wood(u: f64, v: f64, footprint: f64, seed: u32, tint: [f64; 3]) -> Light {
    let board = (v / 0.14).floor();
    let to_edge = (v / 0.14 - board).min(board + 1.0 - v / 0.14) * 0.14;
    let own = cell(board as i32, 2, seed);
    let grain = octaves(
        u * 0.25,
        v * 3.0,
        0.12,
        footprint,
        0.8,
        seed.wrapping_add((own * 30.0) as u32),
    );
    let knots = octaves(u, v, 0.22, footprint, 0.7, seed.wrapping_add(63));
    Light::from(tint)
        * (0.75 + 0.5 * own)
        * (1.0 + 0.35 * grain + 0.2 * knots).max(0.1)
        * (0.4 + 0.6 * joint(to_edge, 0.008, footprint))
}
