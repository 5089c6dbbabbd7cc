//! A set: things that stand, things that move by themselves, sun and sky.

use crate::material::{Light, Material};
use crate::noise::octaves;
use crate::shape::{Hit, Ray, Shape};
use nalgebra::{Point3, Vector3};

/// A shape with a surface.
#[derive(Clone, Copy, Debug)]
pub struct Thing {
    /// Its shape.
    pub shape: Shape,
    /// Its surface.
    pub material: Material,
}

/// Things that move together, by an offset in metres at a time in frames.
pub struct Mover {
    /// What moves.
    pub things: Vec<Thing>,
    /// Offset at a time counted in frames from the first.
    pub path: Box<dyn Fn(f64) -> Vector3<f64> + Send + Sync>,
}

/// An opening that lets the light of the sky into a room: a rectangle.
#[derive(Clone, Copy, Debug)]
pub struct Window {
    /// One corner.
    pub corner: Point3<f64>,
    /// From that corner along the sill, m.
    pub across: Vector3<f64>,
    /// From that corner upwards, m.
    pub up: Vector3<f64>,
}

/// All that can be seen.
pub struct Scene {
    /// What stands still.
    pub things: Vec<Thing>,
    /// What moves by itself.
    pub movers: Vec<Mover>,
    /// Towards the sun, unit length.
    pub sun: Vector3<f64>,
    /// Seed of hills and clouds.
    pub seed: u32,
    /// Openings of a room; none out of doors.
    pub windows: Vec<Window>,
}

/// The set frozen at one time, in groups with bounds for quick rejection.
pub struct Still {
    /// Things whose nature has no bound: the ground.
    endless: Vec<(Thing, bool)>,
    groups: Vec<Group>,
    sun: Vector3<f64>,
    seed: u32,
    windows: Vec<Window>,
}

/// Neighbours under one bound; `true` marks what stands still.
struct Group {
    bound: (Point3<f64>, f64),
    things: Vec<(Thing, (Point3<f64>, f64), bool)>,
}

impl Group {
    fn new(things: Vec<(Thing, (Point3<f64>, f64), bool)>) -> Self {
        let middle = things
            .iter()
            .fold(Vector3::zeros(), |sum, t| sum + t.1.0.coords)
            / things.len() as f64;
        let centre = Point3::from(middle);
        let radius = things
            .iter()
            .map(|t| (t.1.0 - centre).norm() + t.1.1)
            .fold(0.0, f64::max);
        Self {
            bound: (centre, radius),
            things,
        }
    }
}

/// Things that are listed one after the other are near each other; so many share a bound.
const GROUP: usize = 6;

const SUN: Light = Light::new(3.5, 3.0, 2.3);
const SKY: Light = Light::new(0.58, 0.70, 0.92);
const BOUNCE: Light = Light::new(0.20, 0.18, 0.15);

const ROOM: Light = Light::new(0.26, 0.24, 0.21);
const WINDOW: Light = Light::new(0.50, 0.60, 0.78);

fn open_air(normal: &Vector3<f64>) -> Light {
    let upward = 0.5 + 0.5 * normal.y;
    (SKY * upward + BOUNCE * (1.0 - upward) * 2.0) * 0.62
}

impl Scene {
    /// The set at a time in frames from the first.
    pub fn at(&self, time_frames: f64) -> Still {
        let moved = self.movers.iter().flat_map(|mover| {
            let offset = (mover.path)(time_frames);
            mover.things.iter().map(move |t| {
                (
                    Thing {
                        shape: t.shape.moved(offset),
                        ..*t
                    },
                    false,
                )
            })
        });
        let all = self.things.iter().map(|t| (*t, true)).chain(moved);
        let (mut endless, mut bounded) = (Vec::new(), Vec::new());
        for (thing, stands) in all {
            match thing.shape.bound() {
                Some(bound) => bounded.push((thing, bound, stands)),
                None => endless.push((thing, stands)),
            }
        }
        let groups = bounded
            .chunks(GROUP)
            .map(|c| Group::new(c.to_vec()))
            .collect();
        Still {
            endless,
            groups,
            sun: self.sun,
            seed: self.seed,
            windows: self.windows.clone(),
        }
    }
}

impl Still {
    fn candidates<'a>(&'a self, ray: &'a Ray) -> impl Iterator<Item = (&'a Thing, bool)> + 'a {
        let grouped = self
            .groups
            .iter()
            .filter(|g| touches(ray, &g.bound))
            .flat_map(|g| &g.things);
        let near = grouped
            .filter(|(_, bound, _)| touches(ray, bound))
            .map(|(thing, _, stands)| (thing, *stands));
        self.endless
            .iter()
            .map(|(thing, stands)| (thing, *stands))
            .chain(near)
    }

    fn nearest<'a>(&'a self, ray: &'a Ray) -> Option<(&'a Thing, bool, Hit)> {
        let mut best: Option<(&'a Thing, bool, Hit)> = None;
        for (thing, stands) in self.candidates(ray) {
            let limit = best
                .as_ref()
                .map_or(f64::INFINITY, |(_, _, hit)| hit.distance);
            if let Some(hit) = thing.shape.meet(ray, limit) {
                best = Some((thing, stands, hit));
            }
        }
        best
    }

    fn in_shadow(&self, ray: &Ray) -> bool {
        self.in_shadow_within(ray, 200.0)
    }

    fn in_shadow_within(&self, ray: &Ray, distance: f64) -> bool {
        self.candidates(ray)
            .any(|(thing, _)| thing.shape.meet(ray, distance).is_some())
    }

    /// Where the ray meets something that stands still and nothing is in front of it.
    pub fn standing_point(&self, ray: &Ray) -> Option<Point3<f64>> {
        let (_, stands, hit) = self.nearest(ray)?;
        stands.then(|| ray.origin + ray.direction * hit.distance)
    }

    /// Whether what the ray meets first stands still; `None` where it meets nothing.
    pub fn meets_standing(&self, ray: &Ray) -> Option<bool> {
        self.nearest(ray).map(|(_, stands, _)| stands)
    }

    /// The light that comes along the ray. `spread` is the width of a pixel at 1 m;
    /// `jitter` in [0, 1)² softens the shadow's edge over many samples.
    pub fn light(&self, ray: &Ray, spread: f64, jitter: (f64, f64)) -> Light {
        let Some((thing, _, hit)) = self.nearest(ray) else {
            return self.sky(&ray.direction, spread);
        };
        let material = &thing.material;
        let slant = hit.normal.dot(&ray.direction).abs().max(0.15);
        let footprint = (spread * hit.distance / slant.sqrt()).max(1e-4);
        let albedo = material.albedo(hit.uv, footprint);
        let at = ray.origin + ray.direction * hit.distance + hit.normal * 1e-3;
        let incoming = self.incoming(&at, &hit.normal, jitter);
        let mut light = albedo.component_mul(&incoming);
        if material.shine() > 0.0 {
            let mirrored = ray.direction - hit.normal * (2.0 * hit.normal.dot(&ray.direction));
            let grazing = (1.0 - slant).powi(3);
            light += self.sky(&mirrored, 0.05) * material.shine() * (0.15 + 0.85 * grazing) * 0.5;
        }
        let haze = 1.0 - (-hit.distance / 160.0).exp();
        light.lerp(&Light::new(0.66, 0.72, 0.80), haze)
    }

    fn incoming(&self, at: &Point3<f64>, normal: &Vector3<f64>, jitter: (f64, f64)) -> Light {
        let ambient = if self.windows.is_empty() {
            open_air(normal)
        } else {
            self.indoors(at, normal, jitter)
        };
        let facing = normal.dot(&self.sun);
        if facing <= 0.0 {
            return ambient;
        }
        let side = self.sun.cross(&Vector3::y()).normalize();
        let up = side.cross(&self.sun);
        let towards =
            (self.sun + (side * (jitter.0 - 0.5) + up * (jitter.1 - 0.5)) * 0.018).normalize();
        let shadowed = self.in_shadow(&Ray {
            origin: *at,
            direction: towards,
        });
        ambient
            + if shadowed {
                Light::zeros()
            } else {
                SUN * facing
            }
    }

    /// What the walls throw back, less in corners, and the sky through the windows: one
    /// drawn ray for each.
    fn indoors(&self, at: &Point3<f64>, normal: &Vector3<f64>, jitter: (f64, f64)) -> Light {
        let fresh = |k: f64| ((jitter.0 * k).fract(), (jitter.1 * k).fract());
        let mut light = ROOM * (0.62 + 0.38 * self.openness(at, normal, fresh(157.0)));
        for window in &self.windows {
            let (s, t) = fresh(311.0);
            let towards = window.corner + window.across * s + window.up * t - at;
            let distance = towards.norm();
            let direction = towards / distance;
            let area = window.across.cross(&window.up);
            let (received, sent) = (normal.dot(&direction), area.dot(&direction).abs());
            if received > 0.0
                && !self.in_shadow_within(
                    &Ray {
                        origin: *at,
                        direction,
                    },
                    distance,
                )
            {
                light += WINDOW * (received * sent / (distance * distance).max(0.4));
            }
        }
        light
    }

    /// 1 where nothing is near, less in corners: one drawn ray.
    fn openness(&self, at: &Point3<f64>, normal: &Vector3<f64>, jitter: (f64, f64)) -> f64 {
        const REACH_M: f64 = 0.9;
        let around = std::f64::consts::TAU * jitter.0;
        let side = normal
            .cross(&if normal.y.abs() < 0.9 {
                Vector3::y()
            } else {
                Vector3::x()
            })
            .normalize();
        let other = normal.cross(&side);
        let radius = jitter.1.sqrt();
        let direction = side * (radius * around.cos())
            + other * (radius * around.sin())
            + normal * (1.0 - jitter.1).sqrt();
        let nearest = self
            .candidates(&Ray {
                origin: *at,
                direction,
            })
            .filter_map(|(thing, _)| {
                thing.shape.meet(
                    &Ray {
                        origin: *at,
                        direction,
                    },
                    REACH_M,
                )
            })
            .map(|hit| hit.distance)
            .fold(REACH_M, f64::min);
        nearest / REACH_M
    }

    fn sky(&self, direction: &Vector3<f64>, spread: f64) -> Light {
        let around = direction.z.atan2(direction.x) * 3.0;
        let ridge = |height: f64, size: f64, seed: u32| {
            height * (1.0 + 0.7 * octaves(around, 0.0, size, 0.01, 0.5, seed))
        };
        let lift = direction.y;
        let detail = spread * 2.0;
        if lift < ridge(0.035, 0.7, self.seed + 5) {
            let trees = octaves(around, lift * 3.0, 0.12, detail, 0.8, self.seed + 6);
            return Light::new(0.16, 0.21, 0.17) * (1.0 + 0.5 * trees).max(0.2)
                + Light::new(0.16, 0.19, 0.24);
        }
        if lift < ridge(0.085, 1.4, self.seed + 7) {
            let woods = octaves(around, lift * 3.0, 0.2, detail, 0.7, self.seed + 8);
            return Light::new(0.17, 0.20, 0.22) * (1.0 + 0.25 * woods)
                + Light::new(0.30, 0.35, 0.42);
        }
        let height = lift.clamp(0.0, 1.0);
        let clear = Light::new(0.78, 0.86, 0.95).lerp(&Light::new(0.30, 0.48, 0.80), height.sqrt());
        let plane = 1.0 / (lift + 0.18);
        let (u, v) = (direction.x * plane, direction.z * plane);
        let cloud = (octaves(u, v, 1.1, 0.02, 0.55, self.seed + 11) * 0.9 + 0.05).clamp(0.0, 1.0);
        clear.lerp(&Light::new(1.15, 1.13, 1.10), 0.8 * cloud)
    }
}

fn touches(ray: &Ray, &(centre, radius): &(Point3<f64>, f64)) -> bool {
    let to = centre - ray.origin;
    let along = to.dot(&ray.direction);
    let off = to.norm_squared() - along * along;
    off <= radius * radius && (along > -radius)
}
