//! Footage that nothing was tuned to: sets, moves and looks drawn from a seed, in the
//! kinds that the work meets (sizes, grain, blur, something large that moves by itself).

use crate::material::Material;
use crate::motion::Walk;
use crate::noise;
use crate::scene::{Mover, Scene, Thing};
use crate::shape::Shape;
use crate::take::{Look, Take};
use nalgebra::{Point3, Vector3};
use parallax_core::camera::{Intrinsics, Pose};
use parallax_core::lens::Distortion;
use parallax_core::plate::{FilmBack, FrameRate};
use parallax_core::spaces::FrameNumber;

/// How the camera of a trial moves.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Move {
    /// Walks through the set.
    Walk,
    /// Turns on the spot.
    Turn,
    /// Does not move at all.
    Rest,
}

/// What a trial is made of.
#[derive(Clone, Copy, Debug)]
pub struct Trial {
    /// Draws set, path and textures.
    pub seed: u64,
    /// Picture width, px.
    pub width_px: u32,
    /// Picture height, px.
    pub height_px: u32,
    /// Frames.
    pub frame_count: usize,
    /// Focal length in picture widths.
    pub focal_widths: f64,
    /// Standard deviation of the grain, levels.
    pub grain_levels: f64,
    /// Share of the frame for which the shutter is open.
    pub shutter: f64,
    /// Rays per pixel.
    pub rays: usize,
    /// Whether something that fills about a quarter of the picture moves by itself.
    pub large_mover: bool,
    /// Lens terms.
    pub distortion: Distortion,
    /// How the camera moves.
    pub camera: Move,
}

impl Trial {
    /// A small one that is rendered, followed and solved within a second or two, for tests.
    pub fn small(frame_count: usize) -> Self {
        Self {
            width_px: 320,
            height_px: 180,
            frame_count,
            rays: 4,
            grain_levels: 0.8,
            ..Self::new(6)
        }
    }

    /// A trial of the usual kind.
    pub fn new(seed: u64) -> Self {
        Self {
            seed,
            width_px: 1280,
            height_px: 720,
            frame_count: 72,
            focal_widths: 0.7 + 0.7 * noise::unit(seed ^ 0xf0ca),
            grain_levels: 1.5,
            shutter: 0.5,
            rays: 9,
            large_mover: false,
            distortion: Distortion::NONE,
            camera: Move::Walk,
        }
    }

    /// The take.
    pub fn take(&self) -> Take {
        let focal_px = self.focal_widths * f64::from(self.width_px);
        let lens = Intrinsics {
            distortion: self.distortion,
            ..Intrinsics::centred(self.width_px, self.height_px, focal_px)
        };
        Take {
            name: format!("trial-{}", self.seed),
            rate: FrameRate::new(25, 1).unwrap_or_else(|| unreachable!("25 is a rate")),
            first_frame: FrameNumber(1),
            frame_count: self.frame_count,
            scene: self.scene(),
            motion: self.motion(),
            lens,
            film_back: FilmBack::assumed(self.width_px, self.height_px),
            look: Look {
                grain_levels: self.grain_levels,
                shutter: self.shutter,
                rays: self.rays,
                exposure: 0.6,
            },
            seed: noise::mix(self.seed),
        }
    }

    fn draw(&self, salt: u64, low: f64, high: f64) -> f64 {
        low + (high - low) * noise::unit(noise::mix(self.seed) ^ salt)
    }

    fn motion(&self) -> Box<dyn Fn(f64) -> Pose + Send + Sync> {
        let side = if self.draw(1, 0.0, 1.0) < 0.5 {
            -1.0
        } else {
            1.0
        };
        let start = Point3::new(
            side * self.draw(2, 1.0, 2.5),
            self.draw(3, 1.2, 2.2),
            self.draw(4, 5.5, 7.5),
        );
        // About 3 cm a frame, a walking pace.
        let length = 0.03 * self.frame_count as f64;
        let across = length.min(4.0);
        let end = start
            + Vector3::new(
                -side * across,
                self.draw(5, -0.2, 0.3),
                self.draw(6, -0.4, 0.1) * across,
            );
        let walk = Walk {
            eye: [start, end],
            target: [
                Point3::new(self.draw(7, -1.0, 1.0), 0.9, -2.0),
                Point3::new(self.draw(8, -1.0, 1.0), 0.9, -2.5),
            ],
            frames: self.frame_count as f64,
            sway_m: 0.03,
            tremor_rad: self.draw(9, 0.006, 0.016),
            seed: self.seed,
        };
        match self.camera {
            Move::Walk => Box::new(move |time| walk.pose(time)),
            Move::Turn => {
                let speed = 0.35 / self.frame_count as f64;
                Box::new(move |time| {
                    let turn =
                        nalgebra::UnitQuaternion::from_axis_angle(&Vector3::y_axis(), speed * time);
                    let rotation = turn * walk.pose(0.0).camera_from_world.rotation;
                    Pose::from_parts(rotation, -(rotation * start.coords))
                })
            }
            Move::Rest => Box::new(move |_| walk.pose(0.0)),
        }
    }

    fn material(&self, salt: u64) -> Material {
        let seed = noise::mix(self.seed ^ salt) as u32 & 0xffff;
        let tint = [
            0.2 + 0.4 * noise::unit(salt ^ 1),
            0.2 + 0.35 * noise::unit(salt ^ 2),
            0.15 + 0.3 * noise::unit(salt ^ 3),
        ];
        match salt % 3 {
            0 => Material::Ashlar {
                course: 0.2 + 0.2 * noise::unit(salt ^ 4),
                seed,
                tint,
            },
            1 => Material::Wood { seed, tint },
            _ => Material::Plaster { seed, tint },
        }
    }

    fn scene(&self) -> Scene {
        let ground = Material::Flags {
            side: self.draw(20, 0.4, 0.9),
            seed: noise::mix(self.seed) as u32 & 0xfff,
        };
        let mut things = vec![Thing {
            shape: Shape::Ground { height: 0.0 },
            material: ground,
        }];
        for i in 0..14u64 {
            let at = |salt: u64, low: f64, high: f64| self.draw(100 + i * 10 + salt, low, high);
            let foot = Point3::new(at(0, -4.5, 4.5), 0.0, at(1, -7.0, 1.5));
            let sides = Vector3::new(at(2, 0.3, 1.3), at(3, 0.3, 2.0), at(4, 0.3, 1.3));
            let shape = Shape::standing_box(foot, sides, at(5, -0.8, 0.8));
            things.push(Thing {
                shape,
                material: self.material(i),
            });
        }
        let back = Shape::standing_box(
            Point3::new(0.0, 0.0, -9.0),
            Vector3::new(22.0, self.draw(31, 2.5, 5.0), 0.6),
            0.0,
        );
        things.push(Thing {
            shape: back,
            material: self.material(60),
        });
        let movers = if self.large_mover {
            vec![self.mover()]
        } else {
            Vec::new()
        };
        let sun = Vector3::new(self.draw(32, -0.7, 0.7), 0.65, self.draw(33, 0.2, 0.6)).normalize();
        Scene {
            things,
            movers,
            sun,
            seed: noise::mix(self.seed) as u32 & 0xff,
            windows: Vec::new(),
        }
    }

    /// A cart near the camera that crosses the picture, about a quarter of its area.
    fn mover(&self) -> Mover {
        let size = 1.35 / self.focal_widths;
        let foot = Point3::new(-0.7, 0.15, 2.6);
        let cart = Shape::standing_box(foot, Vector3::new(size, 0.8 * size, 0.5), 0.3);
        let mast = Shape::standing_box(
            foot + Vector3::new(0.1, 0.8 * size, 0.0),
            Vector3::new(0.4, 0.5, 0.3),
            0.1,
        );
        let things = vec![
            Thing {
                shape: cart,
                material: self.material(71),
            },
            Thing {
                shape: mast,
                material: self.material(72),
            },
        ];
        let span = self.frame_count as f64;
        let seed = self.seed;
        let path = move |time: f64| {
            let bob = 0.03 * crate::motion::wander(time, 25.0, seed ^ 5);
            Vector3::new(
                1.6 * (time / span) + 0.1 * crate::motion::wander(time, 60.0, seed),
                bob.abs(),
                0.25 * (time / span),
            )
        };
        Mover {
            things,
            path: Box::new(path),
        }
    }
}
