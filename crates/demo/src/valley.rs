//! The shot `valley-pan`: the valley below the Aldermoor Observatory from the wall of the terrace, a
//! camera on a stand that pans to the right and zooms in a little.

use crate::material::Material;
use crate::motion::wander;
use crate::noise;
use crate::scene::{Scene, Thing};
use crate::shape::Shape;
use crate::take::{Look, Take, Zoom};
use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::spaces::FrameNumber;

/// How many frames the shot has.
pub const FRAMES: usize = 48;
/// Where the camera stands above the meadow, m.
const EYE_M: f64 = 11.0;
/// How far it pans, and how far it looks down, degrees.
const PAN_DEG: f64 = 34.0;
const DOWN_DEG: f64 = 9.0;

/// The whole take at 1280x720.
pub fn take() -> Take {
    let film_back = FilmBack {
        width_mm: 36.0,
        height_mm: 20.25,
    };
    Take {
        name: "valley-pan".to_owned(),
        rate: FrameRate::new(24_000, 1001).unwrap_or_else(|| unreachable!("24000/1001 is a rate")),
        first_frame: FrameNumber(1),
        frame_count: FRAMES,
        scene: scene(),
        motion: Box::new(pose),
        lens: Intrinsics::centred(1280, 720, film_back.focal_px(32.0, 1280)),
        zoom: Zoom {
            factor: 1.12,
            between: [8.0, 40.0],
        },
        film_back,
        look: Look {
            grain_levels: 1.2,
            shutter: 0.5,
            rays: 9,
            exposure: 0.72,
            readout: 0.0,
        },
        seed: 4711,
    }
}

/// It begins and ends slowly and is never quite level.
fn pose(time: f64) -> Pose {
    let share = (time / (FRAMES - 1) as f64).clamp(-0.1, 1.1);
    let eased = 0.5 * share + 0.5 * share * share * (3.0 - 2.0 * share);
    let yaw = (PAN_DEG * (0.5 - eased)).to_radians();
    let pitch = (-DOWN_DEG + 0.6 * wander(time, 60.0, 5)).to_radians();
    let turn = UnitQuaternion::from_axis_angle(&Vector3::y_axis(), yaw)
        * UnitQuaternion::from_axis_angle(&Vector3::x_axis(), pitch);
    let rotation = turn.inverse();
    Pose::from_parts(rotation, -(rotation * Vector3::new(0.0, EYE_M, 0.0)))
}

fn draw(salt: u64, low: f64, high: f64) -> f64 {
    low + (high - low) * noise::unit(noise::mix(0x7a11e7) ^ salt)
}

fn scene() -> Scene {
    let mut things = vec![Thing {
        shape: Shape::Ground { height: 0.0 },
        // All of it beyond the edge: a meadow.
        material: Material::Terrace {
            side: 1.0,
            edge: -1e9,
            seed: 12,
        },
    }];
    for i in 0..11 {
        things.extend(cottage(i));
    }
    for i in 0..26 {
        things.extend(tree(i));
    }
    for i in 0..9 {
        things.push(field_wall(i));
    }
    things.extend(tower());
    Scene {
        things,
        movers: Vec::new(),
        sun: Vector3::new(-0.55, 0.6, 0.45).normalize(),
        seed: 41,
        windows: Vec::new(),
    }
}

/// A house of plaster or stone with a dark roof and a chimney.
fn cottage(i: u64) -> Vec<Thing> {
    let salt = 100 * i;
    let at = Vector3::new(
        draw(salt + 1, -34.0, 34.0),
        0.0,
        -draw(salt + 2, 24.0, 78.0),
    );
    let turn = draw(salt + 3, -0.7, 0.7);
    let sides = Vector3::new(
        draw(salt + 4, 5.0, 9.0),
        draw(salt + 5, 2.8, 4.6),
        draw(salt + 6, 4.0, 6.0),
    );
    let seed = (noise::mix(salt) & 0xfff) as u32;
    let walls = match i % 2 {
        0 => Material::Plaster {
            seed,
            tint: [0.55, 0.5, 0.42],
        },
        _ => Material::Ashlar {
            course: 0.35,
            seed,
            tint: [0.42, 0.38, 0.31],
        },
    };
    let roof = Material::Wood {
        seed: seed + 1,
        tint: [0.24, 0.13, 0.1],
    };
    let standing = |foot: Vector3<f64>, sides: Vector3<f64>, material| Thing {
        shape: Shape::standing_box(Point3::from(foot), sides, turn),
        material,
    };
    let above = |height: f64| at + Vector3::new(0.0, height, 0.0);
    let wider = Vector3::new(sides.x + 0.8, 0.5, sides.z + 0.8);
    vec![
        standing(at, sides, walls),
        standing(above(sides.y), wider, roof),
        standing(
            above(sides.y + 0.5),
            Vector3::new(sides.x * 0.7, 0.8, sides.z * 0.6),
            roof,
        ),
        standing(
            above(sides.y),
            Vector3::new(0.8, 2.3, 0.8),
            Material::Ashlar {
                course: 0.2,
                seed: seed + 2,
                tint: [0.36, 0.24, 0.18],
            },
        ),
    ]
}

fn tree(i: u64) -> Vec<Thing> {
    let salt = 5000 + 10 * i;
    let (x, z) = (draw(salt, -42.0, 42.0), -draw(salt + 1, 16.0, 90.0));
    let (height, radius) = (draw(salt + 2, 1.6, 3.2), draw(salt + 3, 1.2, 2.4));
    let seed = (noise::mix(salt) & 0xfff) as u32;
    vec![
        Thing {
            shape: Shape::Cylinder {
                foot: Point3::new(x, 0.0, z),
                radius: 0.22,
                height,
            },
            material: Material::Wood {
                seed,
                tint: [0.2, 0.14, 0.09],
            },
        },
        Thing {
            shape: Shape::Sphere {
                centre: Point3::new(x, height + 0.7 * radius, z),
                radius,
            },
            material: Material::Leaves { seed },
        },
    ]
}

/// Dry stone between the fields.
fn field_wall(i: u64) -> Thing {
    let salt = 9000 + 10 * i;
    let foot = Point3::new(draw(salt, -36.0, 36.0), 0.0, -draw(salt + 1, 18.0, 70.0));
    let sides = Vector3::new(draw(salt + 2, 8.0, 22.0), 1.1, 0.5);
    Thing {
        shape: Shape::standing_box(foot, sides, draw(salt + 3, -1.2, 1.2)),
        material: Material::Ashlar {
            course: 0.22,
            seed: (noise::mix(salt) & 0xfff) as u32,
            tint: [0.38, 0.36, 0.33],
        },
    }
}

/// The old dome on its hill side, far to the right.
fn tower() -> Vec<Thing> {
    let (x, z) = (16.0, -52.0);
    vec![
        Thing {
            shape: Shape::Cylinder {
                foot: Point3::new(x, 0.0, z),
                radius: 3.4,
                height: 7.5,
            },
            material: Material::Ashlar {
                course: 0.45,
                seed: 77,
                tint: [0.52, 0.49, 0.42],
            },
        },
        Thing {
            shape: Shape::Sphere {
                centre: Point3::new(x, 7.5, z),
                radius: 3.3,
            },
            material: Material::Brass { seed: 78 },
        },
    ]
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_turns_on_the_spot() {
        let take = take();
        let eye = take.pose(0).centre();
        let moved = (0..FRAMES).map(|i| take.pose(i).centre().distance(eye));
        assert!(moved.fold(0.0, f64::max) < 1e-9);
        let turned = take
            .pose(0)
            .turn_to_rad(&take.pose(FRAMES - 1))
            .to_degrees();
        assert!((PAN_DEG - 1.0..PAN_DEG + 2.0).contains(&turned), "{turned}");
    }
}
