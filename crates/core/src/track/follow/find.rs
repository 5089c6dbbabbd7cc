//! Where is the patch of the last frame on this one? Translation only: from a guess, coarse to
//! fine, or by looking everywhere within the artist's reach.

use super::edge::Part;
use super::kernels::{comparison_sums, dot, gradient_sums, less_mean, step_sums, weigh};
use super::sampling::sample_block;
use super::window::inside;
use super::{MOST_ITERATIONS, Scratch};
use crate::spaces::PlatePx;
use crate::track::picture::{Plane, Pyramid};
use crate::vectors::vectors;
use nalgebra::{Matrix2, Vector2};
use pulp::{Simd, WithSimd};

/// Finds the translation of the patch around `from` in `before` to `after`, starting from
/// the guess `to`, over the pyramid levels `coarsest` down to `finest`.
///
/// Positions are level-0 px. `None` when the patch at the finest level has no texture in
/// some direction or the guess runs out of the picture.
pub fn shift_between(
    before: &Pyramid,
    after: &Pyramid,
    from: PlatePx,
    to: PlatePx,
    pattern_px: usize,
    levels: (usize, usize),
    scratch: &mut Scratch,
) -> Option<PlatePx> {
    let (finest, coarsest) = levels;
    let mut shift = to.offset_from(from);
    for level in (finest..=coarsest).rev() {
        let scale = 1.0 / (1usize << level) as f64;
        let centre = Vector2::new(from.x, from.y) * scale;
        let (before, after) = (before.level(level), after.level(level));
        let work = ShiftAtLevel {
            before,
            after,
            centre,
            start: shift * scale,
            side: pattern_px,
            scratch,
        };
        match vectors(work) {
            Some(found) => shift = found / scale,
            // Coarse levels may hold nothing to follow; the finest one has to.
            None if level == finest => return None,
            None => {}
        }
    }
    Some(from.moved(shift))
}

/// The translation at one level of the pyramids, in its px.
struct ShiftAtLevel<'a> {
    before: &'a Plane,
    after: &'a Plane,
    centre: Vector2<f64>,
    start: Vector2<f64>,
    side: usize,
    scratch: &'a mut Scratch,
}

impl WithSimd for ShiftAtLevel<'_> {
    type Output = Option<Vector2<f64>>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Self::Output {
        let Self {
            before,
            after,
            centre,
            start,
            side,
            scratch,
        } = self;
        scratch.resize(side);
        scratch.cut(simd, before, centre, side);
        let part =
            Part::level(before, centre, side).common(&Part::level(after, centre + start, side));
        let Scratch {
            template,
            across,
            down,
            sampled,
            window,
            ..
        } = scratch;
        let trimmed;
        let counts = if part == Part::whole(side) {
            &window.inside
        } else {
            trimmed = inside(side, &part);
            weigh(simd, across, &trimmed);
            weigh(simd, down, &trimmed);
            &trimmed
        };
        // A change of brightness takes no part: gradients count less their means.
        let [x, y, xx, xy, yy] = gradient_sums(simd, across, down).map(f64::from);
        let count = part.px_count().max(1) as f64;
        let means = Vector2::new(x, y) / count;
        let normal = Matrix2::new(xx, xy, xy, yy) - means * means.transpose() * count;
        if normal.trace() < 1.0 || normal.determinant() < 1e-4 * normal.trace().powi(2) {
            return None;
        }
        let inverse = normal.try_inverse()?;
        less_mean(simd, across, counts, means.x as f32);
        less_mean(simd, down, counts, means.y as f32);
        let (width, height) = (after.width() as f64, after.height() as f64);
        let half = side as f64 / 2.0;
        let mut shift = start;
        for _ in 0..MOST_ITERATIONS {
            let at = centre + shift;
            if at.x < 0.0 || at.y < 0.0 || at.x > width || at.y > height {
                return None;
            }
            sample_block(simd, after, at.x - half, at.y - half, side, sampled);
            let step = inverse
                * Vector2::from(step_sums(simd, [across, down], sampled, template).map(f64::from));
            shift -= step;
            if step.norm_squared() < 1e-4 {
                return Some(shift);
            }
            if (shift - start).norm() > side as f64 {
                return None;
            }
        }
        Some(shift)
    }
}

/// Searches exhaustively within `reach` (level-0 px, across and up-down) around `to` for the
/// patch that `before` has around `from`, at pyramid `level`, by zero-mean normalised
/// correlation. `None` where nothing correlates by more than 0.7.
pub fn search(
    before: &Pyramid,
    after: &Pyramid,
    from: PlatePx,
    to: PlatePx,
    reach: (f64, f64),
    level: usize,
    scratch: &mut Scratch,
) -> Option<PlatePx> {
    vectors(Search {
        before: before.level(level),
        after: after.level(level),
        from,
        to,
        reach,
        level,
        scratch,
    })
}

/// What [`search`] does, in vectors.
struct Search<'a> {
    before: &'a Plane,
    after: &'a Plane,
    from: PlatePx,
    to: PlatePx,
    reach: (f64, f64),
    level: usize,
    scratch: &'a mut Scratch,
}

impl WithSimd for Search<'_> {
    type Output = Option<PlatePx>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Self::Output {
        const SIDE: usize = 11;
        const COUNT: f32 = (SIDE * SIDE) as f32;
        let Self {
            before: old,
            after: new,
            from,
            to,
            reach,
            level,
            scratch,
        } = self;
        let scale = 1.0 / (1usize << level) as f64;
        let half = SIDE as f64 / 2.0;
        scratch.resize(SIDE);
        let Scratch {
            template,
            sampled,
            window,
            ..
        } = scratch;
        sample_block(
            simd,
            old,
            from.x * scale - half,
            from.y * scale - half,
            SIDE,
            template,
        );
        let mean = dot(simd, template, &window.inside) / COUNT;
        less_mean(simd, template, &window.inside, mean);
        let energy = comparison_sums(simd, &window.inside, template, template, 0.0)[1];
        let (steps_x, steps_y) = (
            (reach.0 * scale).ceil() as i32,
            (reach.1 * scale).ceil() as i32,
        );
        let mut best = (0.7f32, None);
        for dy in -steps_y..=steps_y {
            for dx in -steps_x..=steps_x {
                let (x, y) = (to.x * scale + f64::from(dx), to.y * scale + f64::from(dy));
                if x < half
                    || y < half
                    || x > new.width() as f64 - half
                    || y > new.height() as f64 - half
                {
                    continue;
                }
                sample_block(simd, new, x - half, y - half, SIDE, sampled);
                let [sum, squares, product] =
                    comparison_sums(simd, &window.inside, sampled, template, mean);
                let spread = squares - sum * sum / COUNT;
                let likeness = if spread > 1e-3 && energy > 1e-3 {
                    product / (spread * energy).sqrt()
                } else {
                    0.0
                };
                if likeness > best.0 {
                    best = (likeness, Some(PlatePx::new(x / scale, y / scale)));
                }
            }
        }
        best.1
    }
}
