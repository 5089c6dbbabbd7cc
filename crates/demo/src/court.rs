//! Once round a court: the way leads back to where it began, and something near covers the
//! picture on the way.
//!
//! The camera is carried round a circle and looks outward, at walls with posters and at boxes and
//! tubs before them. What stood in the picture at the beginning stands in it again at the end.
//! A pillar close to the way passes before the lens once; above it a strip of the wall stays in
//! sight, or nothing where it is taller than the picture.

use crate::material::Material;
use crate::motion::wander;
use crate::noise;
use crate::scene::Thing;
use crate::shape::Shape;
use nalgebra::{Point3, UnitQuaternion, Vector3};
use parallax_core::camera::Pose;

/// Radius of the way, half the side of the court, height of the eye, m.
const WAY: f64 = 1.6;
const HALF: f64 = 5.0;
const EYE: f64 = 1.55;
/// Where on the way the pillar stands, share of the shot.
const PILLAR_AT: f64 = 0.62;
/// How far beyond the way, m.
const PILLAR_BEYOND: f64 = 0.42;

/// A court drawn from a seed.
#[derive(Clone, Copy, Debug)]
pub struct Court {
    /// Draws what stands in it and the tremor of the hands.
    pub seed: u64,
    /// Length of the shot, frames.
    pub frame_count: usize,
    /// Height of the picture by its focal length.
    pub height_by_focal: f64,
    /// Width of the picture by its focal length.
    pub width_by_focal: f64,
    /// Whether the pillar covers all of the picture, or leaves a strip above it.
    pub covers_all: bool,
}

impl Court {
    fn draw(&self, salt: u64, low: f64, high: f64) -> f64 {
        low + (high - low) * noise::unit(noise::mix(self.seed) ^ salt ^ 0xc0a7)
    }

    /// Where on the circle the camera is, rad: a little more than once around, so that the end sees what
    /// the beginning saw.
    fn angle(&self, time: f64) -> f64 {
        let share = time / self.frame_count as f64;
        self.draw(1, 0.0, std::f64::consts::TAU) + 1.04 * std::f64::consts::TAU * share
    }

    fn outward(angle: f64) -> Vector3<f64> {
        Vector3::new(angle.sin(), 0.0, -angle.cos())
    }

    /// The camera at a time in frames from the first.
    pub fn pose(&self, time: f64) -> Pose {
        let angle = self.angle(time);
        let sway = |salt: u64, period: f64| wander(time, period, self.seed ^ salt);
        let way = Self::outward(angle) * (WAY + 0.05 * sway(1, 61.0));
        let eye = Point3::new(way.x, EYE + 0.03 * sway(2, 27.0), way.z);
        let ahead = Self::outward(angle + 0.25 + 0.06 * sway(3, 83.0));
        let target = eye + ahead + Vector3::new(0.0, -0.05 + 0.02 * sway(4, 71.0), 0.0);
        let steady = Pose::looking_at(&eye, &target, &Vector3::y());
        let hands = UnitQuaternion::new(
            0.006 * Vector3::new(sway(5, 23.0), sway(6, 29.0), 0.6 * sway(7, 37.0)),
        );
        let rotation = hands * steady.camera_from_world.rotation;
        Pose::from_parts(rotation, -(rotation * eye.coords))
    }

    fn material(&self, salt: u64) -> Material {
        let seed = noise::mix(self.seed ^ salt) as u32 & 0xffff;
        let tint = [0.85, 0.78, 0.66].map(|most| most * (0.6 + 0.4 * self.draw(salt, 0.0, 1.0)));
        match salt % 3 {
            0 => Material::Ashlar {
                course: self.draw(salt ^ 7, 0.12, 0.24),
                seed,
                tint,
            },
            1 => Material::Wood { seed, tint },
            _ => Material::Plaster { seed, tint },
        }
    }

    /// Walls, posters, boxes, tubs and the pillar; the ground is not among them.
    pub fn things(&self) -> Vec<Thing> {
        let mut things: Vec<Thing> = (0..4).map(|side| self.wall(side)).collect();
        things.extend((0..16).map(|i| self.poster(i)));
        things.extend((0..22).map(|i| self.thing(i)));
        things.push(self.pillar());
        things
    }

    fn wall(&self, side: u64) -> Thing {
        let (x, z) = [(0.0, -1.0), (1.0, 0.0), (0.0, 1.0), (-1.0, 0.0)][side as usize % 4];
        let foot = Point3::new(x * (HALF + 0.2), 0.0, z * (HALF + 0.2));
        let long = 2.0 * HALF + 0.8;
        let sides = Vector3::new(
            if z == 0.0 { 0.4 } else { long },
            4.2,
            if x == 0.0 { 0.4 } else { long },
        );
        Thing {
            shape: Shape::standing_box(foot, sides, 0.0),
            material: self.material(900 + 3 * side),
        }
    }

    fn poster(&self, i: u64) -> Thing {
        let (side, along) = (
            i % 4,
            -3.4 + 2.2 * (i / 4) as f64 + self.draw(300 + i, -0.5, 0.5),
        );
        let (x, z) = [(along, -HALF), (HALF, along), (along, HALF), (-HALF, along)][side as usize];
        let foot = Point3::new(x, self.draw(320 + i, 0.9, 1.6), z);
        let (wide, tall) = (self.draw(340 + i, 0.6, 1.1), self.draw(360 + i, 0.7, 1.3));
        let sides = match side % 2 {
            0 => Vector3::new(wide, tall, 0.06),
            _ => Vector3::new(0.06, tall, wide),
        };
        Thing {
            shape: Shape::standing_box(foot, sides, 0.0),
            material: self.material(400 + i),
        }
    }

    fn thing(&self, i: u64) -> Thing {
        let angle = std::f64::consts::TAU * (i as f64 + self.draw(500 + i, -0.3, 0.3)) / 22.0;
        let place = Self::outward(angle) * self.draw(530 + i, 2.9, 4.4);
        let side = self.draw(560 + i, 0.25, 0.6);
        let height = self.draw(590 + i, 0.4, 1.7);
        let foot = Point3::new(place.x, 0.0, place.z);
        let shape = match i % 4 {
            0 => Shape::Cylinder {
                foot,
                radius: 0.6 * side,
                height,
            },
            _ => Shape::standing_box(
                foot,
                Vector3::new(side, height, side),
                self.draw(620 + i, -0.8, 0.8),
            ),
        };
        Thing {
            shape,
            material: self.material(700 + i),
        }
    }

    /// As wide as the picture is where it passes, and a little wider.
    fn pillar(&self) -> Thing {
        let angle = self.angle(PILLAR_AT * self.frame_count as f64) + 0.2;
        let place = Self::outward(angle) * (WAY + PILLAR_BEYOND);
        let near = PILLAR_BEYOND - 0.06;
        let strip = if self.covers_all { 2.0 } else { 0.36 };
        Thing {
            shape: Shape::standing_box(
                Point3::new(place.x, 0.0, place.z),
                Vector3::new(
                    0.9 * self.width_by_focal * PILLAR_BEYOND,
                    EYE + strip * self.height_by_focal * near,
                    0.12,
                ),
                -angle,
            ),
            material: self.material(960),
        }
    }
}
