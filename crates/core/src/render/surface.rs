//! The colour of a mesh where a ray meets it.

use super::traced::Met;
use crate::guest::{Mesh, Texture};

/// Colour and coverage of a surface where it is met.
pub fn surface(mesh: &Mesh, met: &Met) -> ([f32; 3], f32) {
    let material = &mesh.materials[usize::from(mesh.material_of[met.triangle])];
    let [r, g, b, a] = material.colour;
    let Some(texture) = material.texture.and_then(|t| mesh.textures.get(t)) else {
        return ([r, g, b], a);
    };
    let uvs = mesh.triangles[met.triangle].map(|k| mesh.uvs[k as usize]);
    let uv = [0, 1].map(|k| {
        uvs.iter()
            .zip(met.shares)
            .map(|(uv, s)| uv[k] * s)
            .sum::<f32>()
    });
    let [tr, tg, tb, ta] = looked_up(texture, uv);
    ([r * tr, g * tg, b * tb], a * ta)
}

/// Linear light of 8 bit as shown on screens (IEC 61966-2-1).
pub fn linear(level: f32) -> f32 {
    if level <= 0.04045 {
        level / 12.92
    } else {
        ((level + 0.055) / 1.055).powf(2.4)
    }
}

/// Between four px of a texture, which repeats.
fn looked_up(texture: &Texture, [u, v]: [f32; 2]) -> [f32; 4] {
    let (width, height) = (texture.width as i64, texture.height as i64);
    if width == 0 || height == 0 || !u.is_finite() || !v.is_finite() {
        return [1.0; 4];
    }
    let (x, y) = (
        u.rem_euclid(1.0) * width as f32 - 0.5,
        v.rem_euclid(1.0) * height as f32 - 0.5,
    );
    let (i, j) = (x.floor(), y.floor());
    let (fx, fy) = (x - i, y - j);
    let px = |dx: i64, dy: i64| -> [f32; 4] {
        let column = (i as i64 + dx).rem_euclid(width) as usize;
        let row = (j as i64 + dy).rem_euclid(height) as usize;
        let at = 4 * (row * texture.width as usize + column);
        let level = |k: usize| f32::from(texture.rgba[at + k]) / 255.0;
        [
            linear(level(0)),
            linear(level(1)),
            linear(level(2)),
            level(3),
        ]
    };
    let (a, b, c, d) = (px(0, 0), px(1, 0), px(0, 1), px(1, 1));
    std::array::from_fn(|k| {
        (1.0 - fy) * ((1.0 - fx) * a[k] + fx * b[k]) + fy * ((1.0 - fx) * c[k] + fx * d[k])
    })
}
