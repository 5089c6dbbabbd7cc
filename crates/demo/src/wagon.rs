//! The shot `wagon-pass`: the terrace of the Aldermoor Observatory again, a camera in the hands, and a wagon with
//! crates for the new mirror that is pushed by close to it: a third of the picture moves by itself.

use crate::material::Material;
use crate::motion::Walk;
use crate::scene::{Mover, Scene, Thing};
use crate::shape::Shape;
use crate::take::{Look, Take, Zoom};
use crate::terrace;
use nalgebra::{Point3, Vector3};
use parallax_core::camera::Intrinsics;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::spaces::FrameNumber;

/// How many frames the shot has.
pub const FRAMES: usize = 54;
/// Where the wagon stands on the first frame, and how far it goes in a frame, m.
const BEGINS: [f64; 2] = [2.5, 2.35];
const GOES: [f64; 2] = [-0.062, -0.004];

/// The whole take at 960x540.
pub fn take() -> Take {
    let film_back = FilmBack {
        width_mm: 36.0,
        height_mm: 20.25,
    };
    let walk = Walk {
        eye: [Point3::new(1.5, 1.66, 5.4), Point3::new(-1.0, 1.6, 5.9)],
        target: [Point3::new(-0.2, 1.15, -3.4), Point3::new(-0.5, 1.1, -3.2)],
        frames: FRAMES as f64,
        sway_m: 0.03,
        tremor_rad: 0.010,
        seed: 93,
    };
    let wagon = Mover {
        things: wagon(),
        path: Box::new(|time| Vector3::new(GOES[0] * time, 0.0, GOES[1] * time)),
    };
    Take {
        name: "wagon-pass".to_owned(),
        rate: FrameRate::new(24_000, 1001).unwrap_or_else(|| unreachable!("24000/1001 is a rate")),
        first_frame: FrameNumber(1),
        frame_count: FRAMES,
        scene: Scene {
            movers: vec![wagon],
            ..terrace::scene()
        },
        motion: Box::new(move |time| walk.pose(time)),
        lens: Intrinsics::centred(960, 540, film_back.focal_px(28.0, 960)),
        zoom: Zoom::NONE,
        film_back,
        look: Look {
            grain_levels: 1.2,
            shutter: 0.5,
            rays: 9,
            exposure: 0.72,
            readout: 0.0,
        },
        seed: 2718,
    }
}

/// A bed on four wheels, crates of several woods on it, a rolled canvas on top.
fn wagon() -> Vec<Thing> {
    let [x, z] = BEGINS;
    let wood = |seed: u32, tint: [f64; 3]| Material::Wood { seed, tint };
    let block = |dx: f64, y: f64, dz: f64, sides: [f64; 3], turn: f64, material: Material| Thing {
        shape: Shape::standing_box(Point3::new(x + dx, y, z + dz), Vector3::from(sides), turn),
        material,
    };
    let iron = Material::Plaster {
        seed: 231,
        tint: [0.08, 0.08, 0.09],
    };
    let canvas = Material::Plaster {
        seed: 237,
        tint: [0.44, 0.40, 0.31],
    };
    let mut things = vec![
        block(
            0.0,
            0.42,
            0.0,
            [1.9, 0.10, 0.9],
            0.0,
            wood(230, [0.27, 0.16, 0.09]),
        ),
        block(
            -0.46,
            0.52,
            0.0,
            [0.86, 0.74, 0.78],
            0.0,
            wood(232, [0.36, 0.26, 0.15]),
        ),
        block(
            0.46,
            0.52,
            0.02,
            [0.88, 0.58, 0.76],
            0.04,
            wood(233, [0.41, 0.31, 0.19]),
        ),
        block(
            0.40,
            1.10,
            0.0,
            [0.62, 0.42, 0.60],
            -0.1,
            wood(234, [0.31, 0.19, 0.11]),
        ),
        block(
            -0.50,
            1.26,
            0.0,
            [0.56, 0.34, 0.58],
            0.12,
            wood(235, [0.38, 0.24, 0.12]),
        ),
        block(0.42, 1.52, 0.0, [0.50, 0.18, 0.44], 0.3, canvas),
    ];
    for (dx, dz) in [(-0.68, 0.40), (0.68, 0.40), (-0.68, -0.40), (0.68, -0.40)] {
        things.push(Thing {
            shape: Shape::Sphere {
                centre: Point3::new(x + dx, 0.24, z + dz),
                radius: 0.24,
            },
            material: iron,
        });
    }
    things
}
