//! Footage that nothing was tuned to: sets, moves and looks drawn from a seed, in the
//! kinds that the work meets (sizes, grain, blur, something large that moves by itself).

use crate::court::Court;
use crate::material::Material;
use crate::motion::Walk;
use crate::noise;
use crate::scene::{Mover, Scene, Thing};
use crate::shape::Shape;
use crate::take::{Look, Take, Zoom};
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
    /// Slides along a wall with columns before it, hardly turning.
    Slide,
    /// Turns on the spot.
    Turn,
    /// Rests for a third of the shot, then walks.
    Start,
    /// Does not move at all.
    Rest,
    /// Once round a court; a pillar leaves a strip of the picture in sight when it passes.
    Loop,
    /// The same with a pillar that leaves nothing in sight.
    Covered,
}

/// What moves by itself in a trial.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
pub enum Moving {
    /// Nothing.
    #[default]
    Nothing,
    /// A cart that crosses about a quarter of the picture.
    Cart,
    /// A hanging cloth that goes along with the camera and waves, over this share of the picture.
    Cloth(f64),
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
    /// What moves by itself.
    pub moving: Moving,
    /// Lens terms.
    pub distortion: Distortion,
    /// How the camera moves.
    pub camera: Move,
    /// How far a camera turns that turns on the spot, degrees.
    pub turn_deg: f64,
    /// Focal length at the end by that at the start.
    pub zoom: f64,
    /// Time from the first row's exposure to the last's, frames.
    pub readout: f64,
    /// How much more than usual the hands shake.
    pub shake: f64,
}

/// Where the wall of a slide stands, and where its camera slides, m.
const WALL_Z: f64 = -2.5;
const SLIDE_Z: f64 = 4.0;

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
            moving: Moving::Nothing,
            distortion: Distortion::NONE,
            camera: Move::Walk,
            turn_deg: 20.0,
            zoom: 1.0,
            readout: 0.0,
            shake: 1.0,
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
            zoom: Zoom {
                factor: self.zoom,
                between: [0.15, 0.85].map(|share| share * self.frame_count as f64),
            },
            film_back: FilmBack::assumed(self.width_px, self.height_px),
            look: Look {
                grain_levels: self.grain_levels,
                shutter: self.shutter,
                rays: self.rays,
                exposure: 0.6,
                readout: self.readout,
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
            tremor_rad: self.shake * self.draw(9, 0.006, 0.016),
            seed: self.seed,
        };
        let slide = self.slide();
        match self.camera {
            Move::Slide => Box::new(move |time| slide.pose(time)),
            Move::Walk => Box::new(move |time| walk.pose(time)),
            Move::Turn => {
                let (half, frames) = (0.5 * self.turn_deg.to_radians(), self.frame_count as f64);
                let seed = self.seed;
                Box::new(move |time| {
                    let yaw = half * (2.0 * time / frames - 1.0);
                    let pitch = 0.06 * half * crate::motion::wander(time, 80.0, seed ^ 31);
                    let turn = nalgebra::UnitQuaternion::from_euler_angles(pitch, yaw, 0.0);
                    let rotation = turn * walk.pose(0.0).camera_from_world.rotation;
                    Pose::from_parts(rotation, -(rotation * start.coords))
                })
            }
            Move::Start => {
                let rests = self.frame_count as f64 / 3.0;
                Box::new(move |time| walk.pose((time - rests).max(0.0)))
            }
            Move::Rest => Box::new(move |_| walk.pose(0.0)),
            Move::Loop | Move::Covered => {
                let court = self.court();
                Box::new(move |time| court.pose(time))
            }
        }
    }

    fn court(&self) -> Court {
        let width_by_focal = 1.0 / self.focal_widths;
        Court {
            seed: self.seed,
            frame_count: self.frame_count,
            width_by_focal,
            height_by_focal: width_by_focal * f64::from(self.height_px) / f64::from(self.width_px),
            covers_all: self.camera == Move::Covered,
        }
    }

    /// Along the wall of [`Trial::wall`], 2 to 3 cm a frame.
    fn slide(&self) -> Walk {
        let half = 0.5 * self.draw(50, 0.02, 0.03) * self.frame_count as f64;
        let from = Point3::new(-half, self.draw(51, 1.3, 1.8), SLIDE_Z);
        let to = Point3::new(half, from.y + self.draw(52, -0.1, 0.1), SLIDE_Z - 0.1);
        let ahead = |eye: Point3<f64>| Point3::new(eye.x + self.draw(53, -0.3, 0.3), 1.2, WALL_Z);
        Walk {
            eye: [from, to],
            target: [ahead(from), ahead(to)],
            frames: self.frame_count as f64,
            sway_m: 0.01,
            tremor_rad: 0.003,
            seed: self.seed,
        }
    }

    /// A wall along the slide, with columns before it.
    fn wall(&self) -> Vec<Thing> {
        let mut things = vec![Thing {
            shape: Shape::standing_box(
                Point3::new(0.0, 0.0, WALL_Z - 0.3),
                Vector3::new(24.0, 5.0, 0.6),
                0.0,
            ),
            material: self.material(60),
        }];
        for i in 0..7u64 {
            let foot = Point3::new(
                -4.5 + 1.5 * i as f64 + self.draw(200 + i, -0.4, 0.4),
                0.0,
                self.draw(210 + i, WALL_Z + 0.6, 1.6),
            );
            let side = self.draw(220 + i, 0.15, 0.35);
            let sides = Vector3::new(side, self.draw(230 + i, 1.0, 3.0), side);
            let shape = Shape::standing_box(foot, sides, self.draw(240 + i, -0.8, 0.8));
            let material = self.material(i + 1);
            things.push(Thing { shape, material });
        }
        things
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
        things.extend(match self.camera {
            Move::Slide => self.wall(),
            Move::Loop | Move::Covered => self.court().things(),
            Move::Walk | Move::Turn | Move::Start | Move::Rest => self.yard(),
        });
        let movers = match self.moving {
            Moving::Nothing => Vec::new(),
            Moving::Cart => vec![self.cart()],
            Moving::Cloth(share) => self.cloth(share),
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

    /// Boxes on the ground before a wall.
    fn yard(&self) -> Vec<Thing> {
        let mut things = Vec::new();
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
        things
    }

    /// A cloth in panels, between camera and set: it goes along with the camera for the most part,
    /// drifts and waves.
    fn cloth(&self, share: f64) -> Vec<Mover> {
        const PANELS: (i32, i32) = (8, 5);
        let (first, last) = (
            (self.motion())(0.0),
            (self.motion())((self.frame_count - 1) as f64),
        );
        let (from, to) = (first.centre().0, last.centre().0);
        let distance = 2.2;
        // A picture is this large there.
        let width = distance / self.focal_widths;
        let height = width * f64::from(self.height_px) / f64::from(self.width_px);
        let side = share.sqrt();
        let (across, down) = (
            width * side.max(0.5),
            height * (share / side.max(0.5)).min(1.0),
        );
        let ahead = |pose: &Pose| pose.camera_from_world.rotation.inverse() * -Vector3::z();
        let middle = from + ahead(&first) * distance + Vector3::new(-0.15 * width, 0.0, 0.0);
        let span = (self.frame_count - 1).max(1) as f64;
        let seed = self.seed;
        let material = Material::Ashlar {
            course: 0.03 * width,
            seed: noise::mix(self.seed ^ 0xc107) as u32 & 0xffff,
            tint: [0.5, 0.35, 0.25],
        };
        let panel = move |column: i32, row: i32| {
            let (u, v) = (
                (f64::from(column) + 0.5) / f64::from(PANELS.0) - 0.5,
                (f64::from(row) + 0.5) / f64::from(PANELS.1) - 0.5,
            );
            let foot =
                middle + Vector3::new(u * across, (v - 0.5 / f64::from(PANELS.1)) * down, 0.0);
            let sides = Vector3::new(
                1.02 * across / f64::from(PANELS.0),
                1.02 * down / f64::from(PANELS.1),
                0.02,
            );
            let path = move |time: f64| {
                let along = (to - from) * (0.92 * time / span);
                let wave =
                    |period: f64, salt: u64| crate::motion::wander(time, period, seed ^ salt);
                along
                    + Vector3::new(
                        0.10 * wave(55.0, 1),
                        0.05 * wave(43.0, 2),
                        0.08 * wave(61.0, 3) + 0.02 * wave(37.0, 4) * (3.0 * u + 2.0 * v).sin(),
                    )
            };
            Mover {
                things: vec![Thing {
                    shape: Shape::standing_box(foot, sides, 0.0),
                    material,
                }],
                path: Box::new(path),
            }
        };
        let panels = (0..PANELS.0).flat_map(|c| (0..PANELS.1).map(move |r| (c, r)));
        panels.map(|(c, r)| panel(c, r)).collect()
    }

    /// A cart near the camera that crosses the picture, about a quarter of its area.
    fn cart(&self) -> Mover {
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
