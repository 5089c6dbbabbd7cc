//! The shot `terrace-walk`: the terrace of the Aldermoor Observatory in the afternoon, a
//! camera in the hands, an instrument trolley rolling by.

use crate::material::Material;
use crate::motion::Walk;
use crate::scene::{Mover, Scene, Thing};
use crate::shape::Shape;
use crate::take::{Look, Take, Zoom};
use nalgebra::{Point3, Vector3};
use parallax_core::camera::Intrinsics;
use parallax_core::lens::Distortion;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::spaces::FrameNumber;

const STONE: [f64; 3] = [0.42, 0.375, 0.30];
const PALE: [f64; 3] = [0.52, 0.49, 0.42];
const OAK: [f64; 3] = [0.24, 0.15, 0.08];

/// How many frames the shot has.
pub const FRAMES: usize = 72;

/// The whole take at 1280x720.
pub fn take() -> Take {
    let film_back = FilmBack {
        width_mm: 36.0,
        height_mm: 20.25,
    };
    let lens = Intrinsics {
        distortion: Distortion::radial(-0.09, 0.015),
        ..Intrinsics::centred(1280, 720, film_back.focal_px(27.0, 1280))
    };
    let walk = Walk {
        eye: [Point3::new(-2.6, 1.62, 5.6), Point3::new(0.9, 1.56, 4.0)],
        target: [Point3::new(0.5, 0.85, -3.2), Point3::new(-0.2, 0.95, -3.0)],
        frames: FRAMES as f64,
        sway_m: 0.035,
        tremor_rad: 0.012,
        seed: 71,
    };
    Take {
        name: "terrace-walk".to_owned(),
        rate: FrameRate::new(24_000, 1001).unwrap_or_else(|| unreachable!("24000/1001 is a rate")),
        first_frame: FrameNumber(1001),
        frame_count: FRAMES,
        scene: scene(),
        motion: Box::new(move |time| walk.pose(time)),
        lens,
        zoom: Zoom::NONE,
        film_back,
        look: Look {
            grain_levels: 1.2,
            shutter: 0.5,
            rays: 9,
            exposure: 0.72,
            readout: 0.0,
        },
        seed: 1893,
    }
}

/// All that stands and moves on the terrace.
pub(crate) fn scene() -> Scene {
    let mut things = vec![Thing {
        shape: Shape::Ground { height: 0.0 },
        material: Material::Terrace {
            side: 0.62,
            edge: 4.4,
            seed: 4,
        },
    }];
    things.extend(plinth());
    things.extend(steps());
    things.extend(house());
    things.extend(parapet());
    things.extend(clutter());
    let trolley = Mover {
        things: trolley(),
        path: Box::new(|t| Vector3::new(-0.026 * t, 0.0, 0.010 * t)),
    };
    Scene {
        things,
        movers: vec![trolley],
        sun: Vector3::new(0.52, 0.62, 0.48).normalize(),
        seed: 40,
        windows: Vec::new(),
    }
}

fn block(x: f64, y: f64, z: f64, sides: [f64; 3], material: Material) -> Thing {
    Thing {
        shape: Shape::standing_box(Point3::new(x, y, z), Vector3::from(sides), 0.0),
        material,
    }
}

fn turned_block(
    x: f64,
    y: f64,
    z: f64,
    sides: [f64; 3],
    turn_rad: f64,
    material: Material,
) -> Thing {
    Thing {
        shape: Shape::standing_box(Point3::new(x, y, z), Vector3::from(sides), turn_rad),
        material,
    }
}

fn post(x: f64, y: f64, z: f64, radius: f64, height: f64, material: Material) -> Thing {
    Thing {
        shape: Shape::Cylinder {
            foot: Point3::new(x, y, z),
            radius,
            height,
        },
        material,
    }
}

fn ball(x: f64, y: f64, z: f64, radius: f64, material: Material) -> Thing {
    Thing {
        shape: Shape::Sphere {
            centre: Point3::new(x, y, z),
            radius,
        },
        material,
    }
}

fn plinth() -> Vec<Thing> {
    let stone = |seed| Material::Ashlar {
        course: 0.32,
        seed,
        tint: PALE,
    };
    vec![
        block(0.3, 0.0, -1.6, [1.3, 0.16, 1.3], stone(21)),
        block(0.3, 0.16, -1.6, [0.78, 0.86, 0.78], stone(22)),
        block(0.3, 1.02, -1.6, [0.98, 0.10, 0.98], stone(23)),
        post(0.3, 1.12, -1.6, 0.09, 0.16, Material::Brass { seed: 24 }),
        ball(0.3, 1.52, -1.6, 0.26, Material::Brass { seed: 25 }),
    ]
}

fn steps() -> Vec<Thing> {
    (0..5)
        .map(|i| {
            let material = Material::Ashlar {
                course: 0.5,
                seed: 30 + i,
                tint: STONE,
            };
            let rise = 0.17 * f64::from(i + 1);
            block(
                -2.7,
                0.0,
                -6.2 - 0.19 * f64::from(i),
                [3.0, rise, 3.6 - 0.38 * f64::from(i)],
                material,
            )
        })
        .collect()
}

fn house() -> Vec<Thing> {
    let wall = |seed| Material::Ashlar {
        course: 0.36,
        seed,
        tint: STONE,
    };
    let mut things = vec![
        block(-3.0, 0.0, -10.2, [11.5, 5.2, 3.0], wall(50)),
        block(
            -3.0,
            5.2,
            -10.2,
            [11.9, 0.35, 3.4],
            Material::Plaster {
                seed: 51,
                tint: PALE,
            },
        ),
        block(
            -2.7,
            0.85,
            -8.72,
            [1.25, 2.35, 0.12],
            Material::Wood {
                seed: 52,
                tint: OAK,
            },
        ),
        block(
            -2.7,
            3.2,
            -8.70,
            [1.6, 0.22, 0.25],
            Material::Plaster {
                seed: 53,
                tint: PALE,
            },
        ),
        post(5.4, 0.0, -12.5, 2.6, 4.6, wall(55)),
        ball(
            5.4,
            4.5,
            -12.5,
            2.55,
            Material::Plaster {
                seed: 56,
                tint: [0.34, 0.43, 0.38],
            },
        ),
        block(
            5.4,
            4.5,
            -12.5,
            [5.5, 0.22, 5.5],
            Material::Plaster {
                seed: 57,
                tint: PALE,
            },
        ),
    ];
    for (i, x) in [-7.2, -5.2, -0.5, 1.4].into_iter().enumerate() {
        let seed = 60 + i as u32;
        things.push(block(
            x,
            1.5,
            -8.71,
            [0.95, 1.7, 0.08],
            Material::Dark { seed },
        ));
        things.push(block(
            x,
            1.36,
            -8.66,
            [1.25, 0.14, 0.3],
            Material::Plaster {
                seed: seed + 10,
                tint: PALE,
            },
        ));
        things.push(block(
            x,
            2.3,
            -8.68,
            [0.95, 0.05, 0.1],
            Material::Wood {
                seed: seed + 20,
                tint: PALE,
            },
        ));
        things.push(block(
            x,
            1.5,
            -8.68,
            [0.05, 1.7, 0.1],
            Material::Wood {
                seed: seed + 30,
                tint: PALE,
            },
        ));
    }
    things
}

fn parapet() -> Vec<Thing> {
    let stone = |seed| Material::Ashlar {
        course: 0.3,
        seed,
        tint: PALE,
    };
    let mut things = vec![
        block(4.3, 0.0, -3.0, [0.34, 0.28, 15.0], stone(80)),
        block(4.3, 0.88, -3.0, [0.44, 0.14, 15.0], stone(81)),
    ];
    for i in 0..9 {
        let z = 3.6 - 1.8 * f64::from(i);
        things.push(block(4.3, 0.0, z, [0.5, 1.12, 0.5], stone(82 + i as u32)));
        for k in 1..4 {
            things.push(post(
                4.3,
                0.28,
                z - 0.45 * f64::from(k),
                0.10,
                0.6,
                stone(95 + k as u32),
            ));
        }
    }
    things
}

fn clutter() -> Vec<Thing> {
    let pot = |seed| Material::Plaster {
        seed,
        tint: [0.42, 0.20, 0.12],
    };
    vec![
        post(-1.05, 0.0, -3.4, 0.26, 0.42, pot(110)),
        ball(-1.05, 0.78, -3.4, 0.42, Material::Leaves { seed: 111 }),
        post(2.5, 0.0, -4.9, 0.30, 0.46, pot(112)),
        ball(2.5, 0.92, -4.9, 0.50, Material::Leaves { seed: 113 }),
        turned_block(
            -3.0,
            0.0,
            -0.9,
            [0.72, 0.52, 0.56],
            0.5,
            Material::Wood {
                seed: 114,
                tint: [0.36, 0.25, 0.14],
            },
        ),
        turned_block(
            -2.9,
            0.52,
            -0.95,
            [0.48, 0.34, 0.42],
            0.15,
            Material::Wood {
                seed: 115,
                tint: [0.30, 0.22, 0.15],
            },
        ),
        turned_block(
            2.2,
            0.0,
            0.3,
            [0.60, 0.44, 0.50],
            -0.35,
            Material::Wood {
                seed: 116,
                tint: [0.38, 0.28, 0.17],
            },
        ),
        block(
            1.9,
            0.0,
            -7.6,
            [2.0, 0.46, 0.5],
            Material::Ashlar {
                course: 0.46,
                seed: 117,
                tint: PALE,
            },
        ),
    ]
}

fn trolley() -> Vec<Thing> {
    let (x, z) = (2.9, -3.5);
    let wood = Material::Wood {
        seed: 130,
        tint: [0.33, 0.14, 0.09],
    };
    let iron = Material::Plaster {
        seed: 131,
        tint: [0.07, 0.07, 0.08],
    };
    let mut things = vec![
        block(x, 0.30, z, [0.95, 0.10, 0.55], wood),
        block(
            x,
            0.40,
            z,
            [0.70, 0.38, 0.42],
            Material::Wood {
                seed: 132,
                tint: [0.30, 0.24, 0.15],
            },
        ),
        post(x + 0.10, 0.78, z, 0.13, 0.42, Material::Brass { seed: 133 }),
        ball(x + 0.10, 1.22, z, 0.14, Material::Brass { seed: 134 }),
        post(x - 0.44, 0.4, z, 0.025, 0.62, iron),
    ];
    for (dx, dz) in [(-0.38, -0.22), (0.38, -0.22), (-0.38, 0.22), (0.38, 0.22)] {
        things.push(ball(x + dx, 0.15, z + dz, 0.15, iron));
    }
    things
}

#[cfg(test)]
mod tests {
    use super::*;
    use parallax_core::spaces::{PlatePx, WorldPoint};

    #[test]
    fn the_truth_is_where_the_rays_say() {
        let take = take();
        let pose = take.pose(30);
        let px = PlatePx::new(401.0, 655.0);
        let ray = take.eye(30.0).ray(px).unwrap();
        let hit = take.scene.at(30.0).standing_point(&ray).unwrap();
        let back = take.lens.project(&pose, &WorldPoint(hit)).unwrap();
        assert!(back.distance_px(px) < 1e-6, "{back:?}");
    }
}
