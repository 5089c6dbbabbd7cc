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

/// All local peaks of strength that pass the detector, strongest first.
pub(super) fn candidates(picture: &Plane, noise: f32, detector: &Detector) -> Vec<Candidate> {
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
        .flat_map_iter(|y| peaks(&strength, y, margin..width - margin, threshold))
        .collect();
    found.sort_by(|a, b| b.strength.total_cmp(&a.strength));
    found
}

/// The peaks of a row. Most px are beaten by one of the four next to them, which is asked first.
fn peaks(
    strength: &Plane,
    y: usize,
    columns: std::ops::Range<usize>,
    threshold: f32,
) -> Vec<Candidate> {
    let [above, row, below] =
        [y - 1, y, y + 1].map(|y| &strength.row(y)[columns.start - 1..=columns.end]);
    let mut found = Vec::new();
    let around = row.windows(3).zip(&above[1..]).zip(&below[1..]);
    for (k, ((row, above), below)) in around.enumerate() {
        let (left, here, right) = (row[0], row[1], row[2]);
        // Of equals the first one counts.
        if (here >= threshold)
            & (here > left)
            & (here >= right)
            & (here > *above)
            & (here >= *below)
        {
            found.extend(peak(strength, columns.start + k, y));
        }
    }
    found
}

/// The peak at a px, unless it is beaten within two px.
fn peak(strength: &Plane, x: usize, y: usize) -> Option<Candidate> {
    let here = strength.row(y)[x];
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
        if bend < 0.0 {
            f64::from((0.5 * (below - above) / bend).clamp(-0.5, 0.5))
        } else {
            0.0
        }
    };
    let row = strength.row(y);
    let dx = offset(row[x - 1], row[x + 1]);
    let dy = offset(strength.row(y - 1)[x], strength.row(y + 1)[x]);
    Some(Candidate {
        px: PlatePx::new(x as f64 + 0.5 + dx, y as f64 + 0.5 + dy),
        strength: here,
    })
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
    out.par_chunks_mut(width * BAND)
        .enumerate()
        .for_each(|(band, rows)| {
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

/// Products of the gradients of a row, each summed over 2 `radius` + 1 px across. Beyond the ends
/// there is nothing.
fn gradient_products(
    above: &[f32],
    at: &[f32],
    below: &[f32],
    radius: usize,
    sums: &mut [Vec<f32>; 3],
) {
    let wide = at.len() + 2 * radius;
    let mut raw = [vec![0.0f32; wide], vec![0.0; wide], vec![0.0; wide]];
    let [xx, xy, yy] = raw.each_mut().map(|r| &mut r[radius..radius + at.len()]);
    products([above, at, below], [xx, xy, yy]);
    for (sum, mut raw) in sums.iter_mut().zip(raw) {
        sum_across(&mut raw, 2 * radius + 1, sum);
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn products([above, at, below]: [&[f32]; 3], [xx, xy, yy]: [&mut [f32]; 3]) {
    let last = at.len() - 1;
    let mut put = |x: usize, gx: f32, gy: f32| (xx[x], xy[x], yy[x]) = (gx * gx, gx * gy, gy * gy);
    for x in [0, last] {
        let gx = 0.5 * (at[(x + 1).min(last)] - at[x.saturating_sub(1)]);
        put(x, gx, 0.5 * (below[x] - above[x]));
    }
    if last < 2 {
        return;
    }
    let inner = 1..last;
    let across = at[..last - 1].iter().zip(&at[2..]);
    let down = above[inner.clone()].iter().zip(&below[inner.clone()]);
    let out = xx[inner.clone()]
        .iter_mut()
        .zip(&mut xy[inner.clone()])
        .zip(&mut yy[inner]);
    for (((xx, xy), yy), ((left, right), (above, below))) in out.zip(across.zip(down)) {
        let (gx, gy) = (0.5 * (right - left), 0.5 * (below - above));
        (*xx, *xy, *yy) = (gx * gx, gx * gy, gy * gy);
    }
}

/// Adds to each value the one so many further on; those at the end stay as they are. Eight at once:
/// what is ahead is read before anything is written, so that it is still the sum over `width`.
#[inline(always)]
fn double(values: &mut [f32], width: usize) {
    const LANES: usize = 8;
    let end = values.len().saturating_sub(width);
    let mut x = 0;
    while x + LANES <= end {
        let Some(ahead) = values[x + width..].first_chunk::<LANES>().copied() else {
            break;
        };
        if let Some(here) = values[x..].first_chunk_mut::<LANES>() {
            for (value, ahead) in here.iter_mut().zip(ahead) {
                *value += ahead;
            }
        }
        x += LANES;
    }
    for x in x..end {
        values[x] += values[x + width];
    }
}

/// Sums over `count` neighbours from each value on, by doubling: sums over one, two, four, … are
/// made from each other, and those that add up to the count are taken together.
#[multiversion(targets("x86_64+avx2+fma"))]
fn sum_across(values: &mut [f32], count: usize, sums: &mut [f32]) {
    sums.fill(0.0);
    let (mut width, mut taken) = (1, 0);
    while width <= count {
        if count & width != 0 {
            for (sum, value) in sums.iter_mut().zip(&values[taken..]) {
                *sum += value;
            }
            taken += width;
        }
        double(values, width);
        width *= 2;
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

#[multiversion(targets("x86_64+avx2+fma"))]
fn smaller_eigenvalues([xx, xy, yy]: &[Vec<f32>; 3], out: &mut [f32]) {
    for (((o, xx), xy), yy) in out.iter_mut().zip(xx).zip(xy).zip(yy) {
        let half_difference = 0.5 * (xx - yy);
        *o = 0.5 * (xx + yy) - (half_difference * half_difference + xy * xy).sqrt();
    }
}

/// Places as two rows of numbers, for distances to many at once.
pub(super) struct Places {
    across: Vec<f32>,
    down: Vec<f32>,
}

impl Places {
    pub(super) fn of(places: impl Iterator<Item = PlatePx>) -> Self {
        let (across, down) = places.map(|p| (p.x as f32, p.y as f32)).unzip();
        Self { across, down }
    }

    /// Squared distance from a place to the nearest of the first `count`, px²; infinite without any.
    fn nearest_squared(&self, from: PlatePx, count: usize) -> f32 {
        nearest_squared(
            &self.across[..count],
            &self.down[..count],
            [from.x as f32, from.y as f32],
        )
    }

    /// Whether one of them is nearer to a place than that.
    pub(super) fn within(&self, from: PlatePx, px: f64) -> bool {
        f64::from(self.nearest_squared(from, self.across.len())) < px * px
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn nearest_squared(across: &[f32], down: &[f32], [x, y]: [f32; 2]) -> f32 {
    const LANES: usize = 16;
    let mut nearest = [f32::INFINITY; LANES];
    let (whole_across, rest_across) = across.as_chunks::<LANES>();
    let (whole_down, rest_down) = down.as_chunks::<LANES>();
    for (across, down) in whole_across.iter().zip(whole_down) {
        for k in 0..LANES {
            let (dx, dy) = (across[k] - x, down[k] - y);
            let squared = dx * dx + dy * dy;
            nearest[k] = if squared < nearest[k] {
                squared
            } else {
                nearest[k]
            };
        }
    }
    let rest = rest_across
        .iter()
        .zip(rest_down)
        .map(|(a, d)| (a - x) * (a - x) + (d - y) * (d - y));
    rest.chain(nearest).fold(f32::INFINITY, f32::min)
}

/// Up to `wanted` of the candidates, given the strongest first, evenly spread and away from `followed`.
pub(super) fn spread(
    mut candidates: Vec<Candidate>,
    followed: &[PlatePx],
    spacing_px: f64,
    wanted: usize,
) -> Vec<Candidate> {
    if wanted == 0 {
        return Vec::new();
    }
    candidates.truncate(MOST_COMPARED);
    let followed = Places::of(followed.iter().copied());
    let places = Places::of(candidates.iter().map(|c| c.px));
    let mut ranked: Vec<(f32, Candidate)> = candidates
        .par_iter()
        .map(|c| {
            let stronger =
                candidates.partition_point(|other| CLEARLY_STRONGER * other.strength > c.strength);
            let free = followed.nearest_squared(c.px, followed.across.len());
            (places.nearest_squared(c.px, stronger).min(free), *c)
        })
        .collect();
    ranked.sort_by(|a, b| {
        b.0.total_cmp(&a.0)
            .then(b.1.strength.total_cmp(&a.1.strength))
    });
    let least = (spacing_px * spacing_px) as f32;
    let mut taken: Vec<Candidate> = Vec::with_capacity(wanted);
    for (radius, candidate) in ranked {
        if taken.len() == wanted || radius < least {
            break;
        }
        let apart = |t: &Candidate| t.px.distance_px(candidate.px) >= spacing_px;
        if taken.iter().all(apart) {
            taken.push(candidate);
        }
    }
    taken
}

#[cfg(test)]
mod tests {
    use super::*;

    const DETECTOR: Detector = Detector {
        pattern_px: 21,
        max_sigma_px: 0.15,
        spacing_px: 12.0,
    };

    fn picture(value: impl Fn(usize, usize) -> f32) -> Plane {
        Plane::new(
            160,
            120,
            (0..160 * 120).map(|i| value(i % 160, i / 160)).collect(),
        )
        .unwrap()
    }

    #[test]
    fn a_corner_is_found_and_an_edge_is_not() {
        let corner = picture(|x, y| if x >= 80 && y >= 60 { 180.0 } else { 60.0 });
        let found = candidates(&corner, 0.0, &DETECTOR);
        assert_eq!(found.len(), 1);
        // The corner lies in the inner half of the pattern, which is what decides.
        let off = found[0].px.offset_from(PlatePx::new(80.0, 60.0));
        assert!(off.x.abs().max(off.y.abs()) <= 5.5, "{off}");
        let edge = picture(|x, _| if x >= 80 { 180.0 } else { 60.0 });
        assert!(candidates(&edge, 0.0, &DETECTOR).is_empty());
    }

    /// By doubling, sums over any number of neighbours are what adding them up gives.
    #[rstest::rstest]
    fn sums_across_are_sums(#[values(1, 2, 5, 9, 19, 31)] count: usize) {
        let mut random = fastrand::Rng::with_seed(3);
        let values: Vec<f32> = (0..100).map(|_| random.f32()).collect();
        let mut sums = vec![0.0; 100 - count + 1];
        sum_across(&mut values.clone(), count, &mut sums);
        for (x, sum) in sums.iter().enumerate() {
            let plain: f32 = values[x..x + count].iter().sum();
            assert!((sum - plain).abs() < 1e-4, "{sum} for {plain} at {x}");
        }
    }

    #[test]
    fn grain_alone_holds_no_features() {
        let mut random = fastrand::Rng::with_seed(9);
        let noise: Vec<f32> = (0..160 * 120)
            .map(|_| (0..12).map(|_| random.f32()).sum::<f32>() * 2.5)
            .collect();
        let grain = Plane::new(160, 120, noise).unwrap();
        assert!(candidates(&grain, grain.noise_level(), &DETECTOR).is_empty());
    }

    #[test]
    fn features_keep_their_distance_from_each_other_and_from_followed_ones() {
        let checks = picture(|x, y| {
            if (x / 9 + y / 9) % 2 == 0 {
                200.0
            } else {
                40.0
            }
        });
        let followed = [PlatePx::new(63.0, 63.0), PlatePx::new(90.0, 45.0)];
        let all = candidates(&checks, 0.0, &DETECTOR);
        let found = spread(all, &followed, DETECTOR.spacing_px, 40);
        assert!(found.len() > 10);
        for (i, a) in found.iter().enumerate() {
            let others = found[..i].iter().map(|b| b.px).chain(followed);
            assert!(
                others
                    .into_iter()
                    .all(|b| a.px.distance_px(b) >= DETECTOR.spacing_px)
            );
        }
    }
}
