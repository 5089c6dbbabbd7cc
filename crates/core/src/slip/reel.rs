//! The patch reel: what the plate shows about the projection of a place, frame by frame, and by how much it slips there.
//!
//! Each crop is drawn over the surface on which the place lies, as the landmarks about it tell, else over the plane that faces
//! one frame, the reference: what lies there looks nearly the same on all frames, turned and foreshortened as the cameras
//! see it, the lens included. What is left of slant stretches and shears: each crop is aligned with the mean of all by least squares over an
//! affine change, gain and offset (Lucas and Kanade 1981; Baker and Matthews 2004), from the reference outwards, the
//! mean made anew from the aligned ones. By how much the crop's middle is shifted then, on its frame, is the measured
//! slip. The mean shift of all is none: it is where the place was put.

use crate::camera::Eye;
use crate::orient::solved::plane_of;
use crate::spaces::{FrameNumber, PlatePx, WorldPoint};
use crate::track::picture::Plane;
use nalgebra::{Matrix2, Matrix2x3, Matrix3, Matrix3x2, SMatrix, SVector, Vector2, Vector3};

/// Where a frame is cropped.
#[derive(Clone, Copy, Debug)]
pub struct Framing {
    /// The frame.
    pub frame: FrameNumber,
    /// The projection of the place.
    pub px: PlatePx,
    /// px of this frame for one of the reference.
    pub shape: Matrix2<f64>,
    eye: Eye,
    place: Vector3<f64>,
    /// Steps over the plane that are one px of the reference.
    face: Matrix3x2<f64>,
}

/// A part of a picture.
pub struct Piece {
    plane: Plane,
    /// Where it begins in the picture, px.
    corner: Vector2<f64>,
}

impl Framing {
    /// What an alignment may look at of a picture, so that the whole need not be kept; `None` of what is no picture.
    pub fn piece(&self, picture: &Plane, side: usize) -> Option<Piece> {
        let far = (side as f64 * STRETCHED + MOST_PX) * self.shape.singular_values().max();
        let bound = |at: f64, most: usize| (at.max(0.0) as usize).min(most);
        let (x, y) = (self.px.x, self.px.y);
        let (left, right) = (
            bound(x - far, picture.width()),
            bound(x + far + 2.0, picture.width()),
        );
        let (top, bottom) = (
            bound(y - far, picture.height()),
            bound(y + far + 2.0, picture.height()),
        );
        let rows = (top..bottom).map(|y| picture.row_from(y, left, right - left));
        let levels: Vec<f32> = rows.collect::<Option<Vec<_>>>()?.concat();
        Some(Piece {
            plane: Plane::new(right - left, bottom - top, levels)?,
            corner: Vector2::new(left as f64, top as f64),
        })
    }

    /// Where an offset in px of the reference is seen.
    fn at(&self, offset: Vector2<f64>) -> PlatePx {
        let there = WorldPoint((self.place + self.face * offset).into());
        let seen = self.eye.lens.project(&self.eye.pose, &there);
        seen.unwrap_or_else(|| self.px.moved(self.shape * offset))
    }
}

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

/// Crops that correlate less are of something else.
const ALIKE: f64 = 0.7;
/// The mean follows the alignment so many times, and each alignment takes so many steps.
const ROUNDS: usize = 4;
const STEPS: usize = 12;
/// Slip beyond this is none, px of the reference.
const MOST_PX: f64 = 4.0;
/// Crops turned or scaled by more than these times do not look alike.
const LARGEST: f64 = 3.0;

/// So many landmarks about a place tell how its surface lies.
const NEIGHBOURS: usize = 10;
/// They lie this much closer to their plane than apart on it.
const FLAT: f64 = 0.15;
/// A surface that is seen at less than this is seen edge on, sine of the angle.
const EDGE_ON: f64 = 0.12;

/// The normal of the surface on which a place lies, from the landmarks nearest to it; `None` where they lie on none.
pub fn surface(landmarks: &[Vector3<f64>], place: &Vector3<f64>) -> Option<Vector3<f64>> {
    let mut near: Vec<&Vector3<f64>> = landmarks.iter().collect();
    near.sort_by(|a, b| {
        (*a - place)
            .norm_squared()
            .total_cmp(&(*b - place).norm_squared())
    });
    let near: Vec<Vector3<f64>> = near.into_iter().take(NEIGHBOURS).copied().collect();
    if near.len() < NEIGHBOURS {
        return None;
    }
    let plane = plane_of(&near)?;
    let rms = |of: &dyn Fn(&Vector3<f64>) -> f64| {
        (near.iter().map(|p| of(p).powi(2)).sum::<f64>() / near.len() as f64).sqrt()
    };
    let off = rms(&|p| plane.normal.dot(&(p - plane.middle)));
    let apart = rms(&|p| (p - plane.middle).norm());
    (off < FLAT * apart).then_some(plane.normal)
}

/// Where cameras see a place on a surface (one that faces the reference where its normal is not known), in the shape
/// of the one at `reference`: those that have it in the picture, with its surroundings.
pub fn framings(
    cameras: &[(FrameNumber, Eye)],
    reference: usize,
    (place, normal): (&Vector3<f64>, Option<&Vector3<f64>>),
    side: usize,
) -> Vec<Framing> {
    let Some(face) = cameras.get(reference).and_then(|(_, eye)| {
        let slopes = by_place(eye, place)?;
        let view = (place - eye.pose.centre().0.coords).normalize();
        let seen = |n: &&Vector3<f64>| n.dot(&view).abs() > EDGE_ON;
        let normal = normal.filter(seen).unwrap_or(&view);
        // Steps over the surface that are one px there.
        let all = Matrix3::from_rows(&[
            slopes.row(0).into_owned(),
            slopes.row(1).into_owned(),
            normal.transpose() * slopes.norm(),
        ]);
        Some(all.try_inverse()?.fixed_columns::<2>(0).into_owned())
    }) else {
        return Vec::new();
    };
    let half = side as f64 / 2.0;
    let one = |(frame, eye): &(FrameNumber, Eye)| {
        let px = eye.lens.project(&eye.pose, &WorldPoint((*place).into()))?;
        let shape: Matrix2<f64> = by_place(eye, place)? * face;
        let corner = |x: f64, y: f64| {
            let off = shape * Vector2::new(x, y);
            eye.lens.holds(px.moved(off))
        };
        let inside = corner(-half, -half)
            && corner(half, -half)
            && corner(-half, half)
            && corner(half, half);
        let values = shape.singular_values();
        let like = values.max() < LARGEST && values.min() > 1.0 / LARGEST;
        {
            let (frame, eye, place) = (*frame, *eye, *place);
            (inside && like).then_some(Framing {
                frame,
                px,
                shape,
                eye,
                place,
                face,
            })
        }
    };
    cameras.iter().filter_map(one).collect()
}

/// How the projection moves with a place, by differences.
fn by_place(eye: &Eye, place: &Vector3<f64>) -> Option<Matrix2x3<f64>> {
    let depth = -eye.pose.to_camera(&WorldPoint((*place).into())).z;
    let small = 1e-5 * depth.abs().max(1e-9);
    let project = |p: Vector3<f64>| eye.lens.project(&eye.pose, &WorldPoint(p.into()));
    let mut slopes = Matrix2x3::zeros();
    for axis in 0..3 {
        let step = Vector3::ith(axis, small);
        let moved = project(place + step)?.offset_from(project(place - step)?);
        slopes.set_column(axis, &(moved / (2.0 * small)));
    }
    Some(slopes)
}

/// The level between px by cubic convolution (Keys 1981), which hardly blurs.
fn level(picture: &Piece, at: PlatePx) -> f64 {
    let (x, y) = (at.x - 0.5 - picture.corner.x, at.y - 0.5 - picture.corner.y);
    let (column, row) = (x.floor(), y.floor());
    let weights = |t: f64| {
        [
            ((-0.5 * t + 1.0) * t - 0.5) * t,
            (1.5 * t - 2.5) * t * t + 1.0,
            ((-1.5 * t + 2.0) * t + 0.5) * t,
            (0.5 * t - 0.5) * t * t,
        ]
    };
    let (across, down) = (weights(x - column), weights(y - row));
    let mut sum = 0.0;
    for (j, by) in down.iter().enumerate() {
        for (i, bx) in across.iter().enumerate() {
            let (x, y) = (
                column as isize + i as isize - 1,
                row as isize + j as isize - 1,
            );
            sum += bx * by * f64::from(picture.plane.clamped(x, y));
        }
    }
    sum
}

/// How a crop lies over its framing: px of the reference.
#[derive(Clone, Copy, Debug)]
struct Laid {
    shift: Vector2<f64>,
    shape: Matrix2<f64>,
}

impl Laid {
    const AS_FRAMED: Self = Self {
        shift: Vector2::new(0.0, 0.0),
        shape: Matrix2::new(1.0, 0.0, 0.0, 1.0),
    };
}

/// What a frame shows of its framing.
fn cropped(picture: &Piece, framing: &Framing, side: usize, laid: &Laid) -> Vec<f64> {
    let at = |k: usize| {
        level(
            picture,
            framing.at(laid.shape * offset(k, side) + laid.shift),
        )
    };
    (0..side * side).map(at).collect()
}

/// Where a value of a crop lies about its middle, px.
fn offset(k: usize, side: usize) -> Vector2<f64> {
    let half = (side as f64 - 1.0) / 2.0;
    Vector2::new((k % side) as f64 - half, (k / side) as f64 - half)
}

/// Derivatives of a crop across and down, by central differences; zero at its border.
fn gradients(levels: &[f64], side: usize) -> Vec<[f64; 2]> {
    let at = |x: usize, y: usize| levels[y * side + x];
    let one = |k: usize| {
        let (x, y) = (k % side, k / side);
        if x == 0 || y == 0 || x + 1 == side || y + 1 == side {
            return [0.0; 2];
        }
        [
            (at(x + 1, y) - at(x - 1, y)) / 2.0,
            (at(x, y + 1) - at(x, y - 1)) / 2.0,
        ]
    };
    (0..levels.len()).map(one).collect()
}

/// A crop aligned with a mean.
struct Aligned {
    laid: Laid,
    sigma_px: f64,
    correlation: f64,
    levels: Vec<f64>,
}

/// Unknowns of an alignment: shift (2), change of shape (4), gain, offset.
const UNKNOWNS: usize = 8;
/// A crop whose shape changes by more than these times is not what it was.
const STRETCHED: f64 = 2.5;

/// How a frame shows the mean best.
fn aligned(
    picture: &Piece,
    framing: &Framing,
    mean: &[f64],
    side: usize,
    start: Laid,
) -> Option<Aligned> {
    let half = side as f64 / 2.0;
    // The mean's own slopes, so that noise of the crop does not bias; its border has none.
    let slopes = gradients(mean, side);
    let rows: Vec<(usize, SVector<f64, UNKNOWNS>)> = (0..mean.len())
        .filter(|k| slopes[*k] != [0.0; 2])
        .map(|k| {
            let [gx, gy] = slopes[k];
            let at = offset(k, side) / half;
            let row = [
                gx,
                gy,
                gx * at.x,
                gx * at.y,
                gy * at.x,
                gy * at.y,
                mean[k],
                1.0,
            ];
            (k, SVector::from(row))
        })
        .collect();
    let normal: SMatrix<f64, UNKNOWNS, UNKNOWNS> =
        rows.iter().map(|(_, row)| row * row.transpose()).sum();
    let inverse = normal.try_inverse()?;
    let mut laid = start;
    let mut crop = cropped(picture, framing, side, &laid);
    let mut left = 0.0;
    for _ in 0..STEPS {
        let mut sides = SVector::<f64, UNKNOWNS>::zeros();
        let mut squares = 0.0;
        for (k, row) in &rows {
            let off = crop[*k] - mean[*k];
            sides += row * off;
            squares += off * off;
        }
        let step = inverse * sides;
        let spare = rows.len() as f64 - UNKNOWNS as f64;
        left = (squares - sides.dot(&step)).max(0.0) / spare.max(1.0);
        // The crop shows the mean moved by the step: taken back it shows the mean.
        let gain = (1.0 + step[6]).clamp(0.5, 2.0);
        let moved = Vector2::new(step[0], step[1]) / gain;
        let bent = Matrix2::new(step[2], step[3], step[4], step[5]) / (gain * half);
        let back = (Matrix2::identity() + bent).try_inverse()?;
        laid.shift -= laid.shape * (back * moved);
        laid.shape *= back;
        let values = laid.shape.singular_values();
        let is_like = values.max() < STRETCHED && values.min() > 1.0 / STRETCHED;
        if !(laid.shift.norm() < MOST_PX && is_like) {
            return None;
        }
        crop = cropped(picture, framing, side, &laid);
        if moved.norm() < 1e-4 && bent.norm() * half < 1e-4 {
            break;
        }
    }
    let spread = inverse.fixed_view::<2, 2>(0, 0) * left;
    let sigma_px = spread.symmetric_eigenvalues().max().max(0.0).sqrt();
    Some(Aligned {
        laid,
        sigma_px,
        correlation: correlation(mean, &crop),
        levels: crop,
    })
}

fn correlation(a: &[f64], b: &[f64]) -> f64 {
    let count = a.len() as f64;
    let (ma, mb) = (a.iter().sum::<f64>() / count, b.iter().sum::<f64>() / count);
    let (mut ab, mut aa, mut bb) = (0.0, 0.0, 0.0);
    for (x, y) in a.iter().zip(b) {
        ab += (x - ma) * (y - mb);
        aa += (x - ma).powi(2);
        bb += (y - mb).powi(2);
    }
    ab / (aa * bb).sqrt().max(f64::MIN_POSITIVE)
}

fn mean_of<'a>(crops: impl Iterator<Item = &'a Vec<f64>>, length: usize) -> Option<Vec<f64>> {
    let (mut sum, mut count) = (vec![0.0; length], 0.0);
    for crop in crops {
        sum.iter_mut().zip(crop).for_each(|(s, v)| *s += v);
        count += 1.0;
    }
    (count > 0.0).then(|| sum.into_iter().map(|s| s / count).collect())
}

/// All crops aligned with a mean, from the reference outwards, each from where the one before it lies.
fn outwards(
    framings: &[Framing],
    pictures: &[Piece],
    mean: &[f64],
    side: usize,
    reference: usize,
) -> Vec<Option<Aligned>> {
    let mut found: Vec<Option<Aligned>> = framings.iter().map(|_| None).collect();
    let onwards =
        (reference..framings.len()).map(|k| (k, k.checked_sub(1).filter(|b| *b >= reference)));
    let backwards = (0..reference).rev().map(|k| (k, Some(k + 1)));
    let mut last = Laid::AS_FRAMED;
    for (k, before) in onwards.chain(backwards) {
        last = match before.and_then(|b| found[b].as_ref()) {
            Some(before) if before.correlation > ALIKE => before.laid,
            // Over what is covered the last that was seen leads.
            _ if k == reference || k + 1 == reference => Laid::AS_FRAMED,
            _ => last,
        };
        let (framing, picture) = (&framings[k], &pictures[k]);
        found[k] = aligned(picture, framing, mean, side, last);
    }
    found
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
        let like = found.iter().flatten().filter(|a| a.correlation > ALIKE);
        mean = mean_of(like.map(|a| &a.levels), side * side)?;
    }
    let like = || found.iter().flatten().filter(|a| a.correlation > ALIKE);
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
            let slip = found.as_ref().filter(|a| a.correlation > ALIKE);
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
    use crate::camera::{Intrinsics, Pose};
    use nalgebra::Point3;
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
