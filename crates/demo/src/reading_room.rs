//! `reading-room`: one photograph of the observatory's reading room. A door of 2.04 m, shelves,
//! a table under the window; daylight from the window on the left and a patch of sun.

use crate::material::Material;
use crate::scene::{Scene, Thing, Window};
use crate::shape::Shape;
use crate::take::{Look, Take, Zoom};
use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::spaces::FrameNumber;

/// Height of the door's opening, m.
pub const DOOR_HEIGHT_M: f64 = 2.04;
/// Where the lower left corner of the door's opening is.
pub const DOOR_FOOT: [f64; 3] = [-1.45, 0.0, BACK];
/// Width and height of the photograph, px.
pub const SIZE_PX: (u32, u32) = (2000, 1333);

const LEFT: f64 = -2.4;
const RIGHT: f64 = 2.5;
const BACK: f64 = -3.1;
const FRONT: f64 = 3.2;
const CEILING: f64 = 2.85;

const OAK: [f64; 3] = [0.30, 0.17, 0.08];
const DEAL: [f64; 3] = [0.42, 0.29, 0.16];
const CREAM: [f64; 3] = [0.72, 0.68, 0.57];
const SAGE: [f64; 3] = [0.40, 0.45, 0.37];

/// The photograph: one frame.
pub fn take() -> Take {
    let focal_px = 1480.0;
    let eye = Point3::new(1.55, 1.58, 2.75);
    let target = Point3::new(-0.72, 1.02, -2.6);
    let up = Vector3::new(0.012, 1.0, 0.0);
    let film_back = FilmBack {
        width_mm: 36.0,
        height_mm: 24.0,
    };
    Take {
        name: "reading-room".to_owned(),
        rate: FrameRate::new(1, 1).unwrap_or_else(|| unreachable!("1/1 is a rate")),
        first_frame: FrameNumber(1),
        frame_count: 1,
        scene: scene(),
        motion: Box::new(move |_| Pose::looking_at(&eye, &target, &up)),
        lens: Intrinsics::centred(SIZE_PX.0, SIZE_PX.1, focal_px),
        zoom: Zoom::NONE,
        film_back,
        look: Look {
            grain_levels: 1.4,
            shutter: 0.0,
            rays: 16,
            exposure: 1.25,
            readout: 0.0,
        },
        seed: 1871,
    }
}

fn scene() -> Scene {
    let mut things = vec![Thing {
        shape: Shape::Ground { height: -0.9 },
        material: Material::Terrace {
            side: 1.0,
            edge: -1e6,
            seed: 3,
        },
    }];
    for part in [
        walls(),
        window_frame(),
        door(),
        shelves(),
        table(),
        chair(-0.35, -0.55),
        hangings(),
    ] {
        things.extend(part);
    }
    Scene {
        things,
        movers: Vec::new(),
        sun: Vector3::new(-0.80, 0.50, 0.16).normalize(),
        seed: 40,
        windows: vec![Window {
            corner: Point3::new(LEFT - 0.05, 0.95, -1.75),
            across: Vector3::new(0.0, 0.0, 1.7),
            up: Vector3::new(0.0, 1.45, 0.0),
        }],
    }
}

fn between(low: [f64; 3], high: [f64; 3], material: Material) -> Thing {
    let (low, high) = (Point3::from(low), Point3::from(high));
    Thing {
        shape: Shape::Box {
            centre: nalgebra::center(&low, &high),
            half: (high - low) / 2.0,
            turn_rad: 0.0,
        },
        material,
    }
}

fn plaster(seed: u32, tint: [f64; 3]) -> Material {
    Material::Plaster { seed, tint }
}

fn wood(seed: u32, tint: [f64; 3]) -> Material {
    Material::Wood { seed, tint }
}

fn walls() -> Vec<Thing> {
    let (wall, low, t) = (plaster(10, CREAM), plaster(11, SAGE), 0.25);
    let mut parts = vec![
        between(
            [LEFT - t, -0.9, BACK - t],
            [RIGHT + t, 0.0, FRONT + t],
            wood(4, [0.33, 0.20, 0.10]),
        ),
        // Ceiling, right, front.
        between(
            [LEFT - t, CEILING, BACK - t],
            [RIGHT + t, CEILING + t, FRONT + t],
            plaster(12, [0.80, 0.79, 0.74]),
        ),
        between([RIGHT, 0.0, BACK], [RIGHT + t, CEILING, FRONT], wall),
        between(
            [LEFT - t, 0.0, FRONT],
            [RIGHT + t, CEILING, FRONT + t],
            wall,
        ),
        // Back: beside and over the door.
        between([LEFT, 0.0, BACK - t], [-1.45, CEILING, BACK], wall),
        between([-0.55, 0.0, BACK - t], [RIGHT, CEILING, BACK], wall),
        between(
            [-1.45, DOOR_HEIGHT_M, BACK - t],
            [-0.55, CEILING, BACK],
            wall,
        ),
        // Left: around the window.
        between([LEFT - t, 0.0, BACK], [LEFT, 0.95, FRONT], wall),
        between([LEFT - t, 2.4, BACK], [LEFT, CEILING, FRONT], wall),
        between([LEFT - t, 0.95, BACK], [LEFT, 2.4, -1.75], wall),
        between([LEFT - t, 0.95, -0.05], [LEFT, 2.4, FRONT], wall),
        // Wainscot with its rail, skirting, cornice.
        between([LEFT, 0.0, BACK], [LEFT + 0.02, 0.86, FRONT], low),
        between(
            [LEFT, 0.86, BACK],
            [LEFT + 0.05, 0.92, FRONT],
            wood(13, OAK),
        ),
        between([LEFT, 0.0, BACK], [LEFT + 0.04, 0.14, FRONT], wood(14, OAK)),
        between(
            [LEFT, CEILING - 0.10, BACK],
            [LEFT + 0.08, CEILING, FRONT],
            plaster(15, CREAM),
        ),
        between(
            [LEFT, CEILING - 0.10, BACK],
            [RIGHT, CEILING, BACK + 0.08],
            plaster(16, CREAM),
        ),
    ];
    for (from, to) in [(LEFT, -1.57), (-0.43, RIGHT)] {
        parts.push(between([from, 0.0, BACK], [to, 0.86, BACK + 0.02], low));
        parts.push(between(
            [from, 0.86, BACK],
            [to, 0.92, BACK + 0.05],
            wood(17, OAK),
        ));
        parts.push(between(
            [from, 0.0, BACK],
            [to, 0.14, BACK + 0.04],
            wood(18, OAK),
        ));
    }
    parts
}

fn window_frame() -> Vec<Thing> {
    let white = plaster(20, [0.78, 0.77, 0.72]);
    let bar = |low: [f64; 3], high: [f64; 3]| between(low, high, white);
    let (out, inside) = (LEFT - 0.14, LEFT - 0.08);
    let mut parts = vec![
        bar([LEFT - 0.25, 0.92, -1.80], [LEFT + 0.12, 0.96, 0.0]),
        bar([LEFT, 0.96, -1.84], [LEFT + 0.03, 2.47, -1.75]),
        bar([LEFT, 0.96, -0.05], [LEFT + 0.03, 2.47, 0.04]),
        bar([LEFT, 2.40, -1.84], [LEFT + 0.03, 2.47, 0.04]),
    ];
    for z in [-1.75, -1.21, -0.63, -0.09] {
        parts.push(bar([out, 0.95, z], [inside, 2.4, z + 0.04]));
    }
    for y in [0.95, 1.42, 1.90, 2.36] {
        parts.push(bar([out, y, -1.75], [inside, y + 0.04, -0.05]));
    }
    parts
}

fn door() -> Vec<Thing> {
    let (frame, leaf) = (wood(30, OAK), wood(31, DEAL));
    let (left, right, face) = (-1.45, -0.55, BACK - 0.06);
    let mut parts = vec![
        between(
            [left - 0.12, 0.0, BACK],
            [left, DOOR_HEIGHT_M + 0.12, BACK + 0.045],
            frame,
        ),
        between(
            [right, 0.0, BACK],
            [right + 0.12, DOOR_HEIGHT_M + 0.12, BACK + 0.045],
            frame,
        ),
        between(
            [left - 0.12, DOOR_HEIGHT_M, BACK],
            [right + 0.12, DOOR_HEIGHT_M + 0.12, BACK + 0.045],
            frame,
        ),
        between([left, 0.0, face - 0.04], [right, DOOR_HEIGHT_M, face], leaf),
    ];
    for (low, high) in [(0.22, 0.88), (1.02, 1.88)] {
        for (from, to) in [(left + 0.11, left + 0.41), (right - 0.41, right - 0.11)] {
            parts.push(between(
                [from, low, face],
                [to, high, face + 0.018],
                wood(32, [0.36, 0.24, 0.13]),
            ));
        }
    }
    parts.push(Thing {
        shape: Shape::Sphere {
            centre: Point3::new(right - 0.06, 1.02, face + 0.06),
            radius: 0.032,
        },
        material: Material::Brass { seed: 33 },
    });
    parts
}

fn shelves() -> Vec<Thing> {
    let (left, right, depth, top) = (0.15, 2.30, 0.32, 2.25);
    let (back, front) = (BACK + 0.06, BACK + 0.06 + depth);
    let board = wood(40, OAK);
    let mut parts = vec![between(
        [left, 0.0, back - 0.03],
        [right, top, back],
        wood(41, [0.20, 0.11, 0.05]),
    )];
    for x in [left, 0.5 * (left + right) - 0.02, right - 0.04] {
        parts.push(between([x, 0.0, back], [x + 0.04, top, front], board));
    }
    let levels = [0.10, 0.52, 0.90, 1.26, 1.60, 1.92];
    for y in levels.into_iter().chain([top]) {
        parts.push(between(
            [left - 0.01, y, back],
            [right + 0.01, y + 0.032, front + 0.005],
            board,
        ));
    }
    let middle = 0.5 * (left + right);
    for (row, pair) in levels
        .iter()
        .zip(levels.iter().skip(1).chain([&top]))
        .enumerate()
    {
        for (bay, (from, to)) in [(left + 0.05, middle - 0.03), (middle + 0.03, right - 0.05)]
            .into_iter()
            .enumerate()
        {
            let shelf = [pair.0 + 0.032, pair.1 - 0.03, back, front];
            parts.extend(books(from, to, shelf, (row * 2 + bay) as u64));
        }
    }
    parts
}

/// Books from `from` to `to` on a shelf of (floor, ceiling, back, front).
fn books(from: f64, to: f64, [floor, ceiling, back, front]: [f64; 4], row: u64) -> Vec<Thing> {
    const SPINES: [[f64; 3]; 7] = [
        [0.30, 0.07, 0.05],
        [0.08, 0.16, 0.13],
        [0.10, 0.12, 0.22],
        [0.36, 0.25, 0.11],
        [0.15, 0.09, 0.06],
        [0.46, 0.41, 0.31],
        [0.20, 0.19, 0.10],
    ];
    let mut x = from;
    let mut out = Vec::new();
    for k in 0..40u64 {
        let draw = |salt: u64| crate::noise::unit(row * 977 + k * 31 + salt * 7919 + 5);
        let thick = 0.022 + 0.04 * draw(1);
        if x + thick > to || draw(5) < 0.02 {
            break;
        }
        let height = (ceiling - floor) * (0.68 + 0.28 * draw(2));
        let depth = (front - back) * (0.60 + 0.28 * draw(3));
        let tint = SPINES[(draw(4) * 7.0) as usize % 7];
        let cover = plaster(200 + (row * 40 + k) as u32, tint);
        out.push(between(
            [x, floor, back],
            [x + thick - 0.002, floor + height, back + depth],
            cover,
        ));
        x += thick;
    }
    out
}

fn table() -> Vec<Thing> {
    let (low, high) = ([-1.75, -1.35], [-0.25, -0.45]);
    let (top, leg) = (wood(60, [0.36, 0.21, 0.10]), wood(61, OAK));
    let mut parts = vec![
        between([low[0], 0.72, low[1]], [high[0], 0.76, high[1]], top),
        between(
            [low[0] + 0.06, 0.62, low[1] + 0.05],
            [high[0] - 0.06, 0.72, high[1] - 0.05],
            leg,
        ),
    ];
    for x in [low[0] + 0.06, high[0] - 0.13] {
        for z in [low[1] + 0.05, high[1] - 0.12] {
            parts.push(between([x, 0.0, z], [x + 0.07, 0.62, z + 0.07], leg));
        }
    }
    let brass = Material::Brass { seed: 62 };
    parts.push(between(
        [-1.40, 0.76, -1.08],
        [-1.06, 0.80, -0.84],
        plaster(63, [0.28, 0.07, 0.05]),
    ));
    parts.push(between(
        [-1.37, 0.80, -1.06],
        [-1.09, 0.835, -0.86],
        plaster(64, [0.10, 0.14, 0.20]),
    ));
    parts.push(between(
        [-0.86, 0.76, -0.96],
        [-0.56, 0.765, -0.74],
        plaster(65, [0.82, 0.80, 0.72]),
    ));
    parts.push(Thing {
        shape: Shape::Cylinder {
            foot: Point3::new(-0.52, 0.76, -1.14),
            radius: 0.09,
            height: 0.03,
        },
        material: brass,
    });
    parts.push(Thing {
        shape: Shape::Cylinder {
            foot: Point3::new(-0.52, 0.79, -1.14),
            radius: 0.014,
            height: 0.17,
        },
        material: brass,
    });
    parts.push(Thing {
        shape: Shape::Sphere {
            centre: Point3::new(-0.52, 1.09, -1.14),
            radius: 0.14,
        },
        material: brass,
    });
    parts.push(between(
        [-2.0, 0.0, -1.9],
        [1.0, 0.012, 0.9],
        plaster(66, [0.26, 0.09, 0.08]),
    ));
    parts.push(between(
        [-1.9, 0.012, -1.8],
        [0.9, 0.014, 0.8],
        plaster(67, [0.30, 0.24, 0.15]),
    ));
    parts.push(between(
        [-1.8, 0.014, -1.7],
        [0.8, 0.016, 0.7],
        plaster(68, [0.24, 0.08, 0.08]),
    ));
    parts
}

fn chair(x: f64, z: f64) -> Vec<Thing> {
    let oak = wood(70, [0.26, 0.15, 0.07]);
    let (w, d) = (0.44, 0.42);
    let mut parts = vec![between([x, 0.44, z], [x + w, 0.48, z + d], oak)];
    for (dx, dz, height) in [
        (0.0, 0.0, 0.44),
        (w - 0.04, 0.0, 0.44),
        (0.0, d - 0.04, 0.95),
        (w - 0.04, d - 0.04, 0.95),
    ] {
        parts.push(between(
            [x + dx, 0.0, z + dz],
            [x + dx + 0.04, height, z + dz + 0.04],
            oak,
        ));
    }
    for y in [0.60, 0.74, 0.88] {
        parts.push(between(
            [x + 0.04, y, z + d - 0.03],
            [x + w - 0.04, y + 0.06, z + d - 0.01],
            oak,
        ));
    }
    parts
}

fn hangings() -> Vec<Thing> {
    let mut parts = Vec::new();
    for (z, y, w, h) in [(0.75, 1.25, 0.7, 0.95), (1.75, 1.35, 0.55, 0.7)] {
        parts.push(between(
            [LEFT, y, z],
            [LEFT + 0.03, y + h, z + w],
            wood(80, [0.20, 0.12, 0.05]),
        ));
        let inner = plaster(81, [0.70, 0.67, 0.58]);
        parts.push(between(
            [LEFT + 0.03, y + 0.05, z + 0.05],
            [LEFT + 0.034, y + h - 0.05, z + w - 0.05],
            inner,
        ));
        let chart = plaster(82, [0.16, 0.20, 0.28]);
        parts.push(between(
            [LEFT + 0.034, y + 0.14, z + 0.13],
            [LEFT + 0.036, y + h - 0.14, z + w - 0.13],
            chart,
        ));
    }
    parts.push(between(
        [RIGHT - 0.03, 1.2, -1.2],
        [RIGHT, 2.0, -0.2],
        wood(83, [0.20, 0.12, 0.05]),
    ));
    parts.push(between(
        [RIGHT - 0.034, 1.26, -1.14],
        [RIGHT - 0.03, 1.94, -0.26],
        plaster(84, [0.62, 0.58, 0.46]),
    ));
    parts
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::spaces::WorldPoint;

    #[test]
    fn the_door_is_in_the_picture() {
        let take = take();
        let pose = take.pose(0);
        let [x, y, z] = DOOR_FOOT;
        for height in [0.0, DOOR_HEIGHT_M] {
            let px = take
                .lens
                .project(&pose, &WorldPoint::new(x, y + height, z))
                .unwrap();
            assert!(
                (0.0..2000.0).contains(&px.x) && (0.0..1333.0).contains(&px.y),
                "{px:?}"
            );
        }
    }
}
