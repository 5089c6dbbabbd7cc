//! The patch reel: what the plate shows about the projection of a place, frame by frame, and by how much it slips there.
//!
//! Each crop is drawn over the surface on which the place lies, as the landmarks about it tell, else over the plane that faces
//! one frame, the reference: what lies there looks nearly the same on all frames, turned and foreshortened as the cameras
//! see it, the lens included. What is left of slant stretches and shears: each crop is aligned with the mean of all by least
//! squares over an affine change, gain and offset (Lucas and Kanade 1981; Baker and Matthews 2004), from the reference outwards, the
//! mean made anew from the aligned ones. By how much the crop's middle is shifted then, on its frame, is the measured
//! slip. The mean shift of all is none: it is where the place was put.
//!
//! - [`framing`]: where crops lie.
//! - [`align`]: aligning one with the mean.

pub mod align;
pub mod framing;

pub use framing::{Framing, Piece, framings, surface};

use crate::spaces::{FrameNumber, PlatePx};
use align::{Aligned, Laid, cropped, outwards};
use nalgebra::{Matrix2, Vector2};

/// One crop with what was measured.
#[derive(Clone, Debug)]
pub struct Crop {
    /// The frame.
    pub frame: FrameNumber,
    /// The projection of the place.
    pub px: PlatePx,
    /// Levels, row by row, as the camera has it: not aligned.
    pub levels: Vec<f32>,
    /// By how much the plate is off the projection, px of the frame; `None` where the crop is not like the others.
    pub slip: Option<Vector2<f64>>,
    /// One standard error of that along its worse direction, px.
    pub sigma_px: f64,
    /// Correlation with the mean of all.
    pub correlation: f64,
}

/// All crops and their mean.
#[derive(Clone, Debug)]
pub struct Reel {
    /// Side of a crop, px of the reference.
    pub side: usize,
    /// The crops, ascending by frame.
    pub crops: Vec<Crop>,
    /// The mean of the aligned ones, row by row.
    pub mean: Vec<f32>,
    /// Root mean square slip of those that are alike, px.
    pub rms_px: f64,
}

/// The mean follows the alignment so many times.
const ROUNDS: usize = 4;

fn mean_of<'a>(crops: impl Iterator<Item = &'a Vec<f64>>, length: usize) -> Option<Vec<f64>> {
    let (mut sum, mut count) = (vec![0.0; length], 0.0);
    for crop in crops {
        sum.iter_mut().zip(crop).for_each(|(s, v)| *s += v);
        count += 1.0;
    }
    (count > 0.0).then(|| sum.into_iter().map(|s| s / count).collect())
}

/// Crops, aligns and measures; `pictures` are [`Framing::piece`]s, one a framing. Nothing with fewer than three.
pub fn reel(framings: &[Framing], pictures: &[Piece], side: usize) -> Option<Reel> {
    if framings.len() < 3 || framings.len() != pictures.len() || side < 8 {
        return None;
    }
    let all = || framings.iter().zip(pictures);
    let raw: Vec<Vec<f64>> = all()
        .map(|(f, p)| cropped(p, f, side, &Laid::AS_FRAMED))
        .collect();
    let reference = (0..framings.len()).min_by(|a, b| {
        let off = |k: usize| (framings[k].shape - Matrix2::identity()).norm();
        off(*a).total_cmp(&off(*b))
    })?;
    let mut mean = raw[reference].clone();
    let mut found: Vec<Option<Aligned>> = Vec::new();
    for _ in 0..ROUNDS {
        found = outwards(framings, pictures, &mean, side, reference);
        let like = found.iter().flatten().filter(|a| a.is_alike());
        mean = mean_of(like.map(|a| &a.levels), side * side)?;
    }
    let like = || found.iter().flatten().filter(|a| a.is_alike());
    let count = like().count();
    if count < 3 {
        return None;
    }
    let common = like().map(|a| a.laid.shift).sum::<Vector2<f64>>() / count as f64;
    let crops = framings
        .iter()
        .zip(&raw)
        .zip(&found)
        .map(|((framing, levels), found)| {
            let slip = found.as_ref().filter(|a| a.is_alike());
            Crop {
                frame: framing.frame,
                px: framing.px,
                levels: levels.iter().map(|l| *l as f32).collect(),
                slip: slip.map(|a| framing.shape * (a.laid.shift - common)),
                sigma_px: found
                    .as_ref()
                    .map_or(0.0, |a| a.sigma_px * framing.shape.singular_values().max()),
                correlation: found.as_ref().map_or(0.0, |a| a.correlation),
            }
        });
    let crops: Vec<Crop> = crops.collect();
    let squares: Vec<f64> = crops
        .iter()
        .filter_map(|c| Some(c.slip?.norm_squared()))
        .collect();
    Some(Reel {
        side,
        rms_px: (squares.iter().sum::<f64>() / squares.len() as f64).sqrt(),
        mean: mean.into_iter().map(|l| l as f32).collect(),
        crops,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::{Eye, Intrinsics, Pose};
    use crate::track::picture::Plane;
    use nalgebra::{Point3, Vector3};
    use rstest::rstest;

    /// A texture without end, smooth enough for px.
    fn texture(x: f64, y: f64) -> f64 {
        let waves = [
            (0.31, 0.12, 0.4),
            (-0.17, 0.42, 1.9),
            (0.55, -0.38, 2.3),
            (0.09, 0.61, 4.0),
            (0.72, 0.25, 5.1),
        ];
        let sum: f64 = waves
            .iter()
            .map(|(a, b, c)| (a * x + b * y + c).sin())
            .sum();
        118.0 + 17.0 * sum
    }

    /// A wall through the origin with the texture on it, slanted by so much, as a camera sees it that is truly `off` px
    /// from where it is said to be.
    fn seen(
        eye: &Eye,
        off: Vector2<f64>,
        (slant, noise): (f64, f64),
        random: &mut fastrand::Rng,
    ) -> Plane {
        let (w, h) = (eye.lens.width_px as usize, eye.lens.height_px as usize);
        let centre = eye.pose.centre().0.coords;
        let levels = (0..w * h).map(|k| {
            let px = PlatePx::new((k % w) as f64 + 0.5 - off.x, (k / w) as f64 + 0.5 - off.y);
            let ray = eye.lens.lens_point(px).unwrap().ray();
            let ray = eye.pose.camera_from_world.rotation.inverse() * ray;
            // The wall is where z = slant y.
            let far = (slant * centre.y - centre.z) / (ray.z - slant * ray.y);
            let at = centre + ray * far;
            let grain = noise * ((0..6).map(|_| random.f64()).sum::<f64>() - 3.0) * 1.41;
            (texture(40.0 * at.x, 40.0 * at.y) + grain) as f32
        });
        Plane::new(w, h, levels.collect()).unwrap()
    }

    fn pieces(framings: &[Framing], pictures: &[Plane], side: usize) -> Vec<Piece> {
        let all = framings.iter().zip(pictures);
        all.map(|(f, p)| f.piece(p, side).unwrap()).collect()
    }

    fn cameras() -> Vec<(FrameNumber, Eye)> {
        let eye = |k: i32| {
            let t = f64::from(k) / 11.0 - 0.5;
            let at = Point3::new(0.6 * t, 0.1 * t, 3.0 - 0.8 * t);
            let up = Vector3::new(0.15 * t, 1.0, 0.0);
            Eye {
                lens: Intrinsics::centred(160, 120, 150.0),
                pose: Pose::looking_at(&at, &Point3::new(0.1, 0.0, 0.0), &up),
            }
        };
        (0..12).map(|k| (FrameNumber(1001 + k), eye(k))).collect()
    }

    /// Slips that were planted are measured: each frame against its own, the common part aside.
    #[rstest]
    #[case::facing(0.0)]
    #[case::a_floor(-1.5)]
    fn planted_slips_are_measured(#[case] slant: f64) {
        let cameras = cameras();
        let mut random = fastrand::Rng::with_seed(3);
        let planted: Vec<Vector2<f64>> = (0..12)
            .map(|k| {
                if k % 4 == 1 {
                    Vector2::new(0.1, -0.05)
                } else if k == 6 {
                    Vector2::new(-0.3, 0.2)
                } else {
                    Vector2::zeros()
                }
            })
            .collect();
        let place = Vector3::new(0.05, -0.02, -0.02 * slant);
        let normal = Vector3::new(0.0, slant, -1.0).normalize();
        let framings = framings(&cameras, 5, (&place, Some(&normal)), 33);
        assert_eq!(framings.len(), 12);
        let pictures: Vec<Plane> = cameras
            .iter()
            .zip(&planted)
            .map(|((_, eye), off)| seen(eye, *off, (slant, 1.5), &mut random))
            .collect();
        let reel = reel(&framings, &pieces(&framings, &pictures, 33), 33).unwrap();
        let mean = planted.iter().sum::<Vector2<f64>>() / 12.0;
        for (crop, planted) in reel.crops.iter().zip(&planted) {
            let off = crop.slip.unwrap() - (planted - mean);
            assert!(
                off.norm() < 0.03,
                "{}: off by {off:?} ± {}",
                crop.frame,
                crop.sigma_px
            );
            assert!(crop.correlation > 0.95 && crop.sigma_px < 0.03);
        }
    }

    #[test]
    fn landmarks_tell_how_a_surface_lies() {
        let mut random = fastrand::Rng::with_seed(8);
        let mut draw = || random.f64() - 0.5;
        let floor: Vec<Vector3<f64>> = (0..40)
            .map(|_| Vector3::new(draw(), 0.005 * draw(), draw()))
            .collect();
        let found = surface(&floor, &Vector3::zeros()).unwrap();
        assert!(found.y.abs() > 0.999);
        let bush: Vec<Vector3<f64>> = (0..40)
            .map(|_| Vector3::new(draw(), draw(), draw()))
            .collect();
        assert!(surface(&bush, &Vector3::zeros()).is_none());
        assert!(surface(&floor[..5], &Vector3::zeros()).is_none());
    }

    /// Something that passes before the place is no slip; a place that is not in the picture has no reel.
    #[test]
    fn what_is_covered_is_left_out() {
        let cameras = cameras();
        let mut random = fastrand::Rng::with_seed(4);
        let place = Vector3::new(0.05, -0.02, 0.0);
        let framings = framings(&cameras, 5, (&place, None), 25);
        let mut pictures: Vec<Plane> = cameras
            .iter()
            .map(|(_, eye)| seen(eye, Vector2::zeros(), (0.0, 1.0), &mut random))
            .collect();
        let noise = (0..160 * 120).map(|_| 255.0 * random.f32());
        pictures[7] = Plane::new(160, 120, noise.collect()).unwrap();
        let reel = reel(&framings, &pieces(&framings, &pictures, 25), 25).unwrap();
        let covered: Vec<i32> = reel
            .crops
            .iter()
            .filter(|c| c.slip.is_none())
            .map(|c| c.frame.0)
            .collect();
        assert_eq!(covered, [1008]);
        assert!(reel.rms_px < 0.03, "{}", reel.rms_px);
        assert!(super::framings(&cameras, 5, (&Vector3::new(50.0, 0.0, 0.0), None), 25).is_empty());
    }
}
