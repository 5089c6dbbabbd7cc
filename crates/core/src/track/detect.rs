//! Which details of a picture can be followed?
//!
//! A detail can be followed in all directions when the smaller eigenvalue of its structure
//! tensor is large (Shi and Tomasi 1994, eq. 6-9). With white noise of σ levels that
//! eigenvalue is also a promise: the position will be certain to about σ √2 / √λ px in its
//! worse direction, and that figure, not a contrast, is the threshold. Even cover comes
//! from adaptive non-maximal suppression (Brown, Szeliski and Winder 2005, section 3):
//! features are taken in the order of the distance to the next stronger one, features that
//! are already followed counting as stronger than all.

use super::picture::Plane;
use crate::spaces::PlatePx;
use multiversion::multiversion;
use rayon::prelude::*;

/// What makes a detail worth following.
#[derive(Clone, Copy, Debug)]
pub struct Detector {
    /// Side of the pattern, px, odd.
    pub pattern_px: usize,
    /// Largest expected standard error of the position, px.
    pub max_sigma_px: f64,
    /// Smallest distance between two features, px.
    pub spacing_px: f64,
}

/// A detail that can be followed.
#[derive(Clone, Copy, Debug)]
pub struct Candidate {
    /// Its place, at the peak of the strength.
    pub px: PlatePx,
    /// Smaller eigenvalue of the structure tensor, levels².
    pub strength: f32,
}

/// Suppression compares at most this many of the strongest candidates: ten times the usual
/// count of features. Chosen, not measured; the cost grows quadratically.
const MOST_COMPARED: usize = 4000;

/// A candidate gives way only to those clearly stronger (Brown et al.: c_robust = 0.9).
const CLEARLY_STRONGER: f32 = 0.9;

/// What smoothing leaves of noise where there is detail that can be followed, as a share: about
/// what the smoothing of [`Pyramid`](super::picture::Pyramid) does to waves of 6 px.
pub const NOISE_LEFT: f32 = 0.75;

/// Up to `wanted` new features where they are allowed, evenly spread and away from `followed`,
/// in a picture with noise of so many levels.
pub fn features(
    picture: &Plane,
    noise: f32,
    detector: &Detector,
    allowed: impl Fn(PlatePx) -> bool,
    followed: &[PlatePx],
    wanted: usize,
) -> Vec<Candidate> {
    if wanted == 0 {
        return Vec::new();
    }
    let mut candidates = candidates(picture, noise, detector);
    candidates.retain(|c| allowed(c.px));
    spread(candidates, followed, detector.spacing_px, wanted)
}

/// All local peaks of strength that pass the detector, strongest first.
pub fn candidates(picture: &Plane, noise: f32, detector: &Detector) -> Vec<Candidate> {
    let (width, height) = (picture.width(), picture.height());
    let margin = detector.pattern_px / 2 + 3;
    if width <= 2 * margin || height <= 2 * margin {
        return Vec::new();
    }
    // The inner half of the pattern decides, so that the detail sits in its middle.
    let radius = (detector.pattern_px / 4).max(2);
    let strength = strengths(picture, radius);
    let noise = noise.max(0.3);
    let threshold = (2.0 * noise * noise) / (detector.max_sigma_px * detector.max_sigma_px) as f32;
    let mut found: Vec<Candidate> = (margin..height - margin)
        .into_par_iter()
        .flat_map_iter(|y| {
            let strength = &strength;
            (margin..width - margin).filter_map(move |x| peak(strength, x, y, threshold))
        })
        .collect();
    found.sort_by(|a, b| b.strength.total_cmp(&a.strength));
    found
}

fn peak(strength: &Plane, x: usize, y: usize, threshold: f32) -> Option<Candidate> {
    let here = strength.row(y)[x];
    if here < threshold {
        return None;
    }
    for dy in 0..5 {
        let row = &strength.row(y + dy - 2)[x - 2..x + 3];
        let beaten = row.iter().enumerate().any(|(dx, &other)| {
            let before = (dy, dx) < (2, 2);
            (dy, dx) != (2, 2) && (other > here || (before && other == here))
        });
        if beaten {
            return None;
        }
    }
    let offset = |below: f32, above: f32| {
        let bend = below - 2.0 * here + above;
        if bend < 0.0 { f64::from((0.5 * (below - above) / bend).clamp(-0.5, 0.5)) } else { 0.0 }
    };
    let row = strength.row(y);
    let dx = offset(row[x - 1], row[x + 1]);
    let dy = offset(strength.row(y - 1)[x], strength.row(y + 1)[x]);
    Some(Candidate { px: PlatePx::new(x as f64 + 0.5 + dx, y as f64 + 0.5 + dy), strength: here })
}

/// The smaller eigenvalue of the structure tensor summed over (2 radius + 1)² px, at every px.
fn strengths(picture: &Plane, radius: usize) -> Plane {
    let (width, height) = (picture.width(), picture.height());
    let products: Vec<[Vec<f32>; 3]> = (0..height)
        .into_par_iter()
        .map(|y| {
            let above = picture.row(y.saturating_sub(1));
            let below = picture.row((y + 1).min(height - 1));
            let mut sums = [vec![0.0; width], vec![0.0; width], vec![0.0; width]];
            gradient_products(above, picture.row(y), below, radius, &mut sums);
            sums
        })
        .collect();
    let mut out = vec![0.0f32; width * height];
    const BAND: usize = 32;
    out.par_chunks_mut(width * BAND).enumerate().for_each(|(band, rows)| {
        let first = band * BAND;
        let inside = |y: isize| y.clamp(0, height as isize - 1) as usize;
        let mut sums = [vec![0.0f32; width], vec![0.0; width], vec![0.0; width]];
        for y in first as isize - radius as isize..first as isize + radius as isize {
            accumulate(&mut sums, &products[inside(y)], 1.0);
        }
        for (i, row) in rows.chunks_mut(width).enumerate() {
            let y = (first + i) as isize;
            accumulate(&mut sums, &products[inside(y + radius as isize)], 1.0);
            smaller_eigenvalues(&sums, row);
            accumulate(&mut sums, &products[inside(y - radius as isize)], -1.0);
        }
    });
    Plane::new(width, height, out).unwrap_or_else(|| picture.clone())
}

fn gradient_products(above: &[f32], at: &[f32], below: &[f32], radius: usize, sums: &mut [Vec<f32>; 3]) {
    let width = at.len();
    let mut raw = [vec![0.0f32; width], vec![0.0; width], vec![0.0; width]];
    for x in 0..width {
        let gx = 0.5 * (at[(x + 1).min(width - 1)] - at[x.saturating_sub(1)]);
        let gy = 0.5 * (below[x] - above[x]);
        raw[0][x] = gx * gx;
        raw[1][x] = gx * gy;
        raw[2][x] = gy * gy;
    }
    for (sum, raw) in sums.iter_mut().zip(&raw) {
        let mut running: f32 = raw[..radius.min(width)].iter().sum();
        for x in 0..width {
            running += if x + radius < width { raw[x + radius] } else { 0.0 };
            sum[x] = running;
            running -= if x >= radius { raw[x - radius] } else { 0.0 };
        }
    }
}

fn accumulate(sums: &mut [Vec<f32>; 3], row: &[Vec<f32>; 3], sign: f32) {
    for (sum, row) in sums.iter_mut().zip(row) {
        add_scaled(sum, row, sign);
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn add_scaled(sum: &mut [f32], row: &[f32], sign: f32) {
    for (s, r) in sum.iter_mut().zip(row) {
        *s += sign * r;
    }
}

fn smaller_eigenvalues(sums: &[Vec<f32>; 3], out: &mut [f32]) {
    for (x, o) in out.iter_mut().enumerate() {
        let (xx, xy, yy) = (sums[0][x], sums[1][x], sums[2][x]);
        let half_difference = 0.5 * (xx - yy);
        *o = 0.5 * (xx + yy) - (half_difference * half_difference + xy * xy).sqrt();
    }
}

fn spread(mut candidates: Vec<Candidate>, followed: &[PlatePx], spacing_px: f64, wanted: usize) -> Vec<Candidate> {
    candidates.truncate(MOST_COMPARED);
    let squared = |a: PlatePx, b: PlatePx| a.offset_from(b).norm_squared();
    let mut ranked: Vec<(f64, Candidate)> = candidates
        .par_iter()
        .enumerate()
        .map(|(i, c)| {
            let free = followed.iter().map(|&f| squared(c.px, f)).fold(f64::INFINITY, f64::min);
            let radius = candidates[..i]
                .iter()
                .filter(|stronger| CLEARLY_STRONGER * stronger.strength > c.strength)
                .map(|stronger| squared(c.px, stronger.px))
                .fold(free, f64::min);
            (radius, *c)
        })
        .collect();
    ranked.sort_by(|a, b| b.0.total_cmp(&a.0).then(b.1.strength.total_cmp(&a.1.strength)));
    let least = spacing_px * spacing_px;
    let mut taken: Vec<Candidate> = Vec::with_capacity(wanted);
    for (radius, candidate) in ranked {
        if taken.len() == wanted || radius < least {
            break;
        }
        if taken.iter().all(|t| squared(t.px, candidate.px) >= least) {
            taken.push(candidate);
        }
    }
    taken
}

#[cfg(test)]
mod tests {
    use super::*;

    const DETECTOR: Detector = Detector { pattern_px: 21, max_sigma_px: 0.15, spacing_px: 12.0 };

    fn picture(value: impl Fn(usize, usize) -> f32) -> Plane {
        Plane::new(160, 120, (0..160 * 120).map(|i| value(i % 160, i / 160)).collect()).unwrap()
    }

    #[test]
    fn a_corner_is_found_and_an_edge_is_not() {
        let corner = picture(|x, y| if x >= 80 && y >= 60 { 180.0 } else { 60.0 });
        let found = features(&corner, 0.0, &DETECTOR, |_| true, &[], 50);
        assert_eq!(found.len(), 1);
        // The corner lies in the inner half of the pattern, which is what decides.
        let off = found[0].px.offset_from(PlatePx::new(80.0, 60.0));
        assert!(off.x.abs().max(off.y.abs()) <= 5.5, "{off}");
        let edge = picture(|x, _| if x >= 80 { 180.0 } else { 60.0 });
        assert!(features(&edge, 0.0, &DETECTOR, |_| true, &[], 50).is_empty());
    }

    #[test]
    fn grain_alone_holds_no_features() {
        let mut random = fastrand::Rng::with_seed(9);
        let noise: Vec<f32> = (0..160 * 120).map(|_| (0..12).map(|_| random.f32()).sum::<f32>() * 2.5).collect();
        let grain = Plane::new(160, 120, noise).unwrap();
        assert!(features(&grain, grain.noise_level(), &DETECTOR, |_| true, &[], 50).is_empty());
    }

    #[test]
    fn features_keep_their_distance_from_each_other_and_from_followed_ones() {
        let checks = picture(|x, y| if (x / 9 + y / 9) % 2 == 0 { 200.0 } else { 40.0 });
        let followed = [PlatePx::new(63.0, 63.0), PlatePx::new(90.0, 45.0)];
        let found = features(&checks, 0.0, &DETECTOR, |_| true, &followed, 40);
        assert!(found.len() > 10);
        for (i, a) in found.iter().enumerate() {
            let others = found[..i].iter().map(|b| b.px).chain(followed);
            assert!(others.into_iter().all(|b| a.px.distance_px(b) >= DETECTOR.spacing_px));
        }
    }
}
