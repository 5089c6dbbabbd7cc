//! From a take to a picture: rays through the lens, the open shutter, tone and grain.

use crate::material::Light;
use crate::noise;
use crate::take::{Eye, Take};
use parallax_core::spaces::PlatePx;
use rayon::prelude::*;

/// An 8-bit picture, red, green, blue, row by row.
pub struct Picture {
    /// Width, px.
    pub width: usize,
    /// Height, px.
    pub height: usize,
    /// Three bytes a pixel.
    pub rgb: Vec<u8>,
}

/// Renders the frame at `index`.
pub fn frame(take: &Take, index: usize) -> Picture {
    rows(take, index, 0, take.lens.height_px as usize)
}

/// Renders the rows `first` up to `end` of the frame at `index`.
pub fn rows(take: &Take, index: usize, first: usize, end: usize) -> Picture {
    let width = take.lens.width_px as usize;
    let moments: Vec<_> = take
        .moments(index)
        .map(|time| take.scene.at(time))
        .collect();
    // What moves by itself is where it is when the middle row is exposed.
    let of_row = |y: usize| -> Vec<Eye> {
        let later = take.row_time(y as f64 + 0.5);
        take.moments(index)
            .map(|time| take.eye(time + later))
            .collect()
    };
    let mut rgb = vec![0u8; width * (end - first) * 3];
    rgb.par_chunks_mut(width * 3)
        .enumerate()
        .for_each(|(row, out)| {
            let y = first + row;
            let eyes = of_row(y);
            for x in 0..width {
                let light = pixel(take, &moments, &eyes, index, x, y);
                let pixel = developed(take, light, index, x, y);
                out[x * 3..x * 3 + 3].copy_from_slice(&pixel);
            }
        });
    Picture {
        width,
        height: end - first,
        rgb,
    }
}

fn pixel(
    take: &Take,
    moments: &[crate::scene::Still],
    eyes: &[Eye],
    index: usize,
    x: usize,
    y: usize,
) -> Light {
    let side = (take.look.rays as f64).sqrt().round().max(1.0) as usize;
    let spread = 1.0 / take.lens_at(index as f64).focal_px;
    let pixel_seed = noise::mix(take.seed ^ ((index as u64) << 44) ^ ((y as u64) << 22) ^ x as u64);
    let mut sum = Light::zeros();
    for ray_index in 0..side * side {
        let seed = pixel_seed.wrapping_add(ray_index as u64 * 4);
        let jitter = (noise::unit(seed), noise::unit(seed + 1));
        let (sx, sy) = ((ray_index % side) as f64, (ray_index / side) as f64);
        let at = PlatePx::new(
            x as f64 + (sx + jitter.0) / side as f64,
            y as f64 + (sy + jitter.1) / side as f64,
        );
        let moment = (pixel_seed as usize + ray_index * 5) % moments.len();
        let (still, eye) = (&moments[moment], &eyes[moment]);
        if let Some(ray) = eye.ray(at) {
            sum += still.light(&ray, spread, (noise::unit(seed + 2), noise::unit(seed + 3)));
        }
    }
    sum / (side * side) as f64
}

/// Film-like tone, then grain in the levels that are stored.
fn developed(take: &Take, light: Light, index: usize, x: usize, y: usize) -> [u8; 3] {
    let seed =
        noise::mix(take.seed ^ 0x6721 ^ ((index as u64) << 40) ^ ((y as u64) << 20) ^ x as u64);
    let common = normal(seed);
    let mut out = [0; 3];
    for (channel, o) in out.iter_mut().enumerate() {
        let exposed = light[channel] * take.look.exposure;
        let toned = exposed * (1.0 + 0.12 * exposed) / (1.0 + exposed * 0.72);
        let level = 255.0 * toned.clamp(0.0, 1.0).powf(1.0 / 2.1);
        let own = normal(seed.wrapping_add(1 + channel as u64));
        // Shares chosen so that grey (0.21, 0.72, 0.07) has the stated deviation.
        let grain = take.look.grain_levels * (0.9 * common + 0.58 * own);
        *o = (level + grain).round().clamp(0.0, 255.0) as u8;
    }
    out
}

fn normal(seed: u64) -> f64 {
    let (a, b) = (
        noise::unit(seed ^ 0xa5a5).max(1e-12),
        noise::unit(seed ^ 0x5a5a),
    );
    (-2.0 * a.ln()).sqrt() * (std::f64::consts::TAU * b).cos()
}
