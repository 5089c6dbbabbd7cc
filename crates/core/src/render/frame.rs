//! A picture of the guests: premultiplied, linear light.

use super::light::{Light, about};
use super::set::Piece;
use super::shutter::Cameras;
use super::surface::surface;
use super::touched::{Bundle, is_touched};
use super::traced::{Met, Traced};
use crate::camera::{Eye, Intrinsics, Similarity};
use crate::spaces::{FrameNumber, PlatePx, WorldPoint};
use nalgebra::{Point3, Vector3};
use rayon::prelude::*;
use std::sync::Arc;

/// How finely a picture is drawn.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Quality {
    /// Rays a px; the nearest square number is drawn.
    pub rays: usize,
    /// How long the shutter is open, frames: half a frame is 180 degrees.
    pub shutter_frames: f64,
}

impl Quality {
    /// Rays a px each way.
    fn side(&self) -> usize {
        (self.rays.max(1) as f64).sqrt().round() as usize
    }

    /// Moments of the exposure that rays are drawn at.
    fn moments(&self) -> usize {
        if self.shutter_frames > 0.0 {
            self.side() * self.side()
        } else {
            1
        }
    }

    /// When a moment is, frames from the middle of the exposure on.
    fn moment(&self, at: usize) -> f64 {
        self.shutter_frames * ((at as f64 + 0.5) / self.moments() as f64 - 0.5)
    }
}

/// A guest as it is shown on one frame.
pub struct Shown {
    traced: Arc<Traced>,
    /// From its space to the world at each moment.
    placed: Vec<Similarity>,
    /// The ball about it at each moment: middle and radius, world.
    balls: Vec<(Point3<f64>, f64)>,
}

impl Shown {
    /// A guest on a frame; `placed` says where it is at a time in frames. `None` where it is nowhere.
    pub fn of(
        traced: Arc<Traced>,
        frame: FrameNumber,
        quality: &Quality,
        placed: impl Fn(f64) -> Option<Similarity>,
    ) -> Option<Self> {
        let time = |m: usize| f64::from(frame.0) + quality.moment(m);
        let placed: Vec<Similarity> = (0..quality.moments())
            .map(|m| placed(time(m)))
            .collect::<Option<_>>()?;
        let [low, high] = traced.mesh.bounds().unwrap_or_default();
        let middle = WorldPoint(nalgebra::center(&low, &high).cast());
        let radius = f64::from((high - low).norm()) / 2.0;
        let ball = |there: &Similarity| (there.point(&middle).0, radius * there.scale);
        let balls = placed.iter().map(ball).collect();
        Some(Self {
            traced,
            placed,
            balls,
        })
    }

    /// A ray of the world in the guest's own space; distances along it stay the same.
    fn own(
        &self,
        moment: usize,
        from: &Point3<f64>,
        direction: &Vector3<f64>,
    ) -> (Point3<f64>, Vector3<f64>) {
        let there = &self.placed[moment];
        let back = there.rotation.inverse();
        let origin = back * (from.coords - there.translation) / there.scale;
        (origin.into(), back * direction / there.scale)
    }
}

/// All that a picture is made of.
pub struct Scene<'a> {
    /// Guests on this frame.
    pub guests: &'a [Shown],
    /// What of the set they meet.
    pub set: &'a [Piece],
    /// The light.
    pub light: Light,
}

/// A picture of guests alone.
pub struct Drawn {
    /// Width, px.
    pub width: usize,
    /// Height, px.
    pub height: usize,
    /// Red, green and blue in linear light, already multiplied by coverage, and coverage.
    pub rgba: Vec<[f32; 4]>,
}

/// Px between directions that are found exactly; between them a lens is as good as straight.
const STRIDE: usize = 4;

/// Directions of a lens, looked up.
struct Directions {
    across: usize,
    at: Vec<Option<[f64; 2]>>,
}

impl Directions {
    fn of(lens: &Intrinsics) -> Self {
        let count = |px: u32| px as usize / STRIDE + 2;
        let (across, down) = (count(lens.width_px), count(lens.height_px));
        let at = (0..across * down).into_par_iter().map(|k| {
            let (x, y) = ((k % across * STRIDE) as f64, (k / across * STRIDE) as f64);
            let found = lens.lens_point(PlatePx::new(x, y))?;
            Some([found.x, found.y])
        });
        Self {
            across,
            at: at.collect(),
        }
    }

    /// Where a px looks, in camera space; `None` beyond what the lens can see.
    fn ray(&self, x: f64, y: f64) -> Option<Vector3<f64>> {
        let (u, v) = (x / STRIDE as f64, y / STRIDE as f64);
        let (i, j) = (u as usize, v as usize);
        let (fu, fv) = (u - i as f64, v - j as f64);
        let corner = |i: usize, j: usize| self.at[j * self.across + i];
        let (a, b) = (corner(i, j)?, corner(i + 1, j)?);
        let (c, d) = (corner(i, j + 1)?, corner(i + 1, j + 1)?);
        let mix = |k: usize| {
            (1.0 - fv) * ((1.0 - fu) * a[k] + fu * b[k]) + fv * ((1.0 - fu) * c[k] + fu * d[k])
        };
        Some(Vector3::new(mix(0), -mix(1), -1.0))
    }
}

/// Draws the guests of a frame through its camera; `None` on a frame without one.
pub fn draw(
    scene: &Scene<'_>,
    cameras: &Cameras,
    frame: FrameNumber,
    quality: &Quality,
) -> Option<Drawn> {
    drawn(scene, cameras, frame, quality, true)
}

/// The same; px that guests cannot touch are left out by one ray where `sparing`.
fn drawn(
    scene: &Scene<'_>,
    cameras: &Cameras,
    frame: FrameNumber,
    quality: &Quality,
    sparing: bool,
) -> Option<Drawn> {
    let lens = cameras.at(frame)?.lens;
    let (width, height) = (lens.width_px as usize, lens.height_px as usize);
    let mut rgba = vec![[0.0; 4]; width * height];
    if scene.guests.is_empty() {
        return Some(Drawn {
            width,
            height,
            rgba,
        });
    }
    let directions = Directions::of(&lens);
    let side = quality.side();
    let balls = scene.balls();
    rgba.par_chunks_mut(width).enumerate().for_each(|(y, row)| {
        let later = cameras.row_time(y as f64 + 0.5, height as f64);
        let eye = |m: usize| cameras.later(frame, later + quality.moment(m));
        let Some(eyes) = (0..quality.moments())
            .map(eye)
            .collect::<Option<Vec<Eye>>>()
        else {
            return;
        };
        let (opens, closes) = (&eyes[0], &eyes[eyes.len() - 1]);
        let turn = opens.pose.turn_to_rad(&closes.pose);
        let middle = &eyes[eyes.len() / 2];
        let travel = opens.pose.centre().distance(closes.pose.centre());
        let turned = middle.pose.camera_from_world.rotation.inverse();
        let zoomed = (opens.lens.focal_px / closes.lens.focal_px).ln().abs();
        for (x, px) in row.iter_mut().enumerate() {
            let seen = directions.ray(x as f64 + 0.5, y as f64 + 0.5);
            let touched = seen.is_none_or(|seen| {
                let rays = Bundle {
                    from: middle.pose.centre().0,
                    direction: turned * seen.normalize(),
                    spread_rad: 2.0 / lens.focal_px + turn + zoomed,
                    travel,
                };
                is_touched(&rays, &balls, scene.set, &scene.light)
            });
            if sparing && !touched {
                continue;
            }
            let mut draws = fastrand::Rng::with_seed(
                ((y as u64) << 20 | x as u64).wrapping_mul(0x9e37_79b9_7f4a_7c15),
            );
            let first = draws.usize(..quality.moments());
            let mut sum = [0.0f32; 4];
            for k in 0..side * side {
                let (sx, sy) = ((k % side) as f64, (k / side) as f64);
                let at_x = x as f64 + (sx + draws.f64()) / side as f64;
                let at_y = y as f64 + (sy + draws.f64()) / side as f64;
                let Some(ray) = directions.ray(at_x, at_y) else {
                    continue;
                };
                // Coprime to the number of rays, so that every moment is drawn and none belongs to a part of the px.
                let moment = (first + (side + 1) * k) % quality.moments();
                let eye = &eyes[moment];
                let zoom = lens.focal_px / eye.lens.focal_px;
                let seen = Vector3::new(ray.x * zoom, ray.y * zoom, ray.z);
                let direction = eye.pose.camera_from_world.rotation.inverse() * seen.normalize();
                let sample = scene.sample(moment, &eye.pose.centre().0, &direction, &mut draws);
                sum.iter_mut().zip(sample).for_each(|(s, v)| *s += v);
            }
            *px = sum.map(|s| s / (side * side) as f32);
        }
    });
    Some(Drawn {
        width,
        height,
        rgba,
    })
}

/// Rays start so far off what they leave, of the distance that they came.
const OFF: f64 = 1e-4;
/// Guests darken the sky for what lies within so many of their radii.
pub(super) const SKY_REACH: f64 = 3.0;
/// So many covers are looked through.
const COVERS: usize = 6;

impl Scene<'_> {
    /// The ball about each guest over the whole exposure.
    fn balls(&self) -> Vec<(Point3<f64>, f64)> {
        let whole = |shown: &Shown| {
            let middle = shown.balls[shown.balls.len() / 2].0;
            let reach =
                |(at, radius): &(Point3<f64>, f64)| nalgebra::distance(at, &middle) + radius;
            (middle, shown.balls.iter().map(reach).fold(0.0, f64::max))
        };
        self.guests.iter().map(whole).collect()
    }

    /// Colour and coverage along a ray.
    fn sample(
        &self,
        moment: usize,
        from: &Point3<f64>,
        direction: &Vector3<f64>,
        draws: &mut fastrand::Rng,
    ) -> [f32; 4] {
        const NOTHING: [f32; 4] = [0.0; 4];
        let piece = self
            .set
            .iter()
            .filter(|p| p.catches || p.solid)
            .filter_map(|p| Some((p.met(from, direction)?, p)))
            .min_by(|a, b| a.0.total_cmp(&b.0));
        let hidden = self.set.iter().filter(|p| p.solid);
        let hidden = hidden
            .filter_map(|p| p.met(from, direction))
            .fold(f64::INFINITY, f64::min);
        let mut start = *from;
        let mut gone = 0.0;
        for _ in 0..COVERS {
            let most = hidden - gone;
            let Some((shown, met)) = self.nearest(moment, &start, direction, most) else {
                break;
            };
            let at = start + direction * met.distance;
            let (colour, cover) = surface(&shown.traced.mesh, &met);
            if cover >= 1.0 || draws.f32() < cover {
                let off = OFF * (gone + met.distance);
                return self.lit(shown, moment, &met, (&at, direction, off), colour, draws);
            }
            let step = met.distance + OFF * (gone + met.distance);
            start += direction * step;
            gone += step;
        }
        match piece {
            Some((distance, piece)) if piece.catches => {
                let at = from + direction * distance;
                let faces = piece.normal.dot(direction) < 0.0;
                let normal = if faces { piece.normal } else { -piece.normal };
                let away = at + normal * (OFF * distance);
                let (sun, sky) = self.shares(moment, &away, &normal, draws);
                let kept = self.light.left(&normal, sun, sky);
                [0.0, 0.0, 0.0, (1.0 - kept) as f32]
            }
            _ => NOTHING,
        }
    }

    fn nearest(
        &self,
        moment: usize,
        from: &Point3<f64>,
        direction: &Vector3<f64>,
        most: f64,
    ) -> Option<(&Shown, Met)> {
        let mut best: Option<(&Shown, Met)> = None;
        for shown in self.guests {
            let (origin, along) = shown.own(moment, from, direction);
            let most = best.as_ref().map_or(most, |b| b.1.distance);
            if let Some(met) = shown.traced.nearest(&origin, &along, most) {
                best = Some((shown, met));
            }
        }
        best
    }

    fn blocked(&self, moment: usize, from: &Point3<f64>, direction: &Vector3<f64>) -> bool {
        self.guests.iter().any(|shown| {
            let (origin, along) = shown.own(moment, from, direction);
            shown.traced.blocks(&origin, &along, f64::INFINITY)
        })
    }

    /// Whether a place sees the sun and a piece of the sky, 0 or 1 each.
    fn shares(
        &self,
        moment: usize,
        at: &Point3<f64>,
        normal: &Vector3<f64>,
        draws: &mut fastrand::Rng,
    ) -> (f64, f64) {
        let sun = self.light.on_disc([draws.f64(), draws.f64()]);
        let lit = normal.dot(&sun) > 0.0 && !self.blocked(moment, at, &sun);
        // By the cosine, as a matt surface takes the sky.
        let (right, up) = about(normal);
        let (radius, angle) = (draws.f64().sqrt(), std::f64::consts::TAU * draws.f64());
        let (sin, cos) = angle.sin_cos();
        let sky = right * (radius * cos)
            + up * (radius * sin)
            + normal * (1.0 - radius * radius).max(0.0).sqrt();
        // Farther off guests keep off too little of the sky to be seen, and single rays that they stop would be.
        let is_near = |g: &Shown| {
            let (middle, radius) = g.balls[moment];
            nalgebra::distance(&middle, at) < SKY_REACH * radius
        };
        let open = !(self.guests.iter().any(is_near) && self.blocked(moment, at, &sky));
        (f64::from(u8::from(lit)), f64::from(u8::from(open)))
    }

    fn lit(
        &self,
        shown: &Shown,
        moment: usize,
        met: &Met,
        (at, direction, off): (&Point3<f64>, &Vector3<f64>, f64),
        colour: [f32; 3],
        draws: &mut fastrand::Rng,
    ) -> [f32; 4] {
        let mesh = &shown.traced.mesh;
        let corners = mesh.triangles[met.triangle];
        let place = |k: u32| Vector3::from(mesh.points[k as usize]).cast::<f64>();
        let [a, b, c] = corners.map(place);
        let turn = shown.placed[moment].rotation;
        let toward = |n: Vector3<f64>| if n.dot(direction) > 0.0 { -n } else { n };
        let flat = toward(
            turn * (b - a)
                .cross(&(c - a))
                .try_normalize(1e-300)
                .unwrap_or_else(Vector3::y),
        );
        let normals = corners.map(|k| Vector3::from(mesh.normals[k as usize]).cast::<f64>());
        let smooth: Vector3<f64> = normals
            .iter()
            .zip(met.shares)
            .map(|(n, s)| n * f64::from(s))
            .sum();
        let smooth = turn * smooth.try_normalize(1e-9).unwrap_or(flat);
        let smooth = if smooth.dot(&flat) < 0.0 {
            -smooth
        } else {
            smooth
        };
        let away = at + flat * off.max(1e-6);
        let (mut sun, sky) = self.shares(moment, &away, &flat, draws);
        // What stands solid in the set throws its shadow on guests.
        let behind = |p: &Piece| p.solid && p.met(&away, &self.light.towards).is_some();
        if self.set.iter().any(behind) {
            sun = 0.0;
        }
        let material = &mesh.materials[usize::from(mesh.material_of[met.triangle])];
        let [r, g, b] = self
            .light
            .shaded((material, colour), &smooth, &-direction, (sun, sky));
        [r, g, b, 1.0]
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::Pose;
    use crate::guest::{Guest, What, stand_ins};
    use crate::lens::Distortion;
    use crate::render::Sun;
    use rstest::rstest;

    /// Px that are left out by one ray are those that show nothing.
    #[rstest]
    #[case::high_sun(60.0, 0.0)]
    #[case::low_sun(6.0, 0.0)]
    #[case::while_it_walks(35.0, 0.12)]
    fn what_is_left_out_shows_nothing(#[case] height_deg: f64, #[case] step: f64) {
        let lens = Intrinsics {
            distortion: Distortion::radial(-0.15, 0.03),
            ..Intrinsics::centred(240, 135, 180.0)
        };
        let eye = |k: i32| {
            let from = Point3::new(step * f64::from(k), 1.5, 1.0);
            let pose = Pose::looking_at(
                &from,
                &Point3::new(0.4 * step * f64::from(k), 0.3, -4.0),
                &Vector3::y(),
            );
            (FrameNumber(k), Eye { lens, pose })
        };
        let cameras = Cameras::of((0..5).map(eye), None);
        let quality = Quality {
            rays: 9,
            shutter_frames: 0.5,
        };
        let shown = |what: What, x: f64, z: f64| {
            let mut guest = Guest::new("guest", what, None);
            guest.lie.shift_m = [x, 0.0, z];
            let traced = Arc::new(Traced::of(Arc::new(stand_ins::mesh(&guest.what).unwrap())));
            Shown::of(traced, FrameNumber(2), &quality, |t| {
                guest.placed(t, |_| None)
            })
            .unwrap()
        };
        let guests = [
            shown(What::Figure { height_m: 1.7 }, 0.6, -4.5),
            shown(What::Sphere { diameter_m: 0.2 }, -1.0, -3.0),
        ];
        let wall = Piece {
            at: Point3::new(0.0, 0.0, -6.0),
            normal: Vector3::z(),
            half_m: [8.0; 2],
            catches: true,
            solid: true,
        };
        let scene = Scene {
            guests: &guests,
            set: &[Piece::ground(0.0), wall],
            light: Light::from(&Sun {
                height_deg,
                ..Sun::default()
            }),
        };
        let of =
            |sparing: bool| drawn(&scene, &cameras, FrameNumber(2), &quality, sparing).unwrap();
        let (spared, all) = (of(true), of(false));
        assert!(spared.rgba == all.rgba, "they differ");
        let shows = all.rgba.iter().filter(|px| px[3] > 0.0).count();
        assert!((300..20_000).contains(&shows), "{shows}");
    }
}
