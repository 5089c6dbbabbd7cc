//! What a detail looks like, so that it can be recognised wherever it is seen again.
//!
//! Histograms of gradient directions over 4 by 4 cells around it, eight directions each, weighted
//! towards the middle, of unit length, no entry above 0.2 (Lowe 2004, section 6). Upright and of a
//! stated size: a camera that comes back comes back the same way up.

use crate::spaces::PlatePx;
use crate::track::picture::Pyramid;
use faer::Mat;
use std::f64::consts::TAU;

/// Cells to a side, and directions in each.
const CELLS: usize = 4;
const DIRECTIONS: usize = 8;
/// Samples to a side of a cell.
const PER_CELL: usize = 4;
/// Entries of a descriptor.
const LENGTH: usize = CELLS * CELLS * DIRECTIONS;
/// No direction may say more than this: one bright edge is not the whole pattern.
const MOST: f32 = 0.2;

/// Looks of a detail.
#[derive(Clone)]
pub struct Descriptor(Box<[f32; LENGTH]>);

impl Descriptor {
    /// Of the square of `side_px` around a place. `None` where that leaves the picture or is blank.
    pub fn of(pyramid: &Pyramid, at: PlatePx, side_px: f64) -> Option<Self> {
        let step = side_px / (CELLS * PER_CELL) as f64;
        let level = (step.log2().round().max(0.0) as usize).min(pyramid.count() - 1);
        let smaller = f64::from(1u32 << level);
        let picture = pyramid.level(level);
        let half = 0.5 * side_px + step;
        let whole = pyramid.level(0);
        if at.x < half
            || at.y < half
            || at.x > whole.width() as f64 - half
            || at.y > whole.height() as f64 - half
        {
            return None;
        }
        // One sample more on every side, for the gradients.
        const SIDE: usize = CELLS * PER_CELL + 2;
        let mut levels = [[0.0f64; SIDE]; SIDE];
        let middle = 0.5 * (SIDE as f64 - 1.0);
        for (row, out) in levels.iter_mut().enumerate() {
            for (column, level) in out.iter_mut().enumerate() {
                let (x, y) = (column as f64 - middle, row as f64 - middle);
                *level = picture.level_at(PlatePx::new(
                    (at.x + x * step) / smaller,
                    (at.y + y * step) / smaller,
                ));
            }
        }
        let mut histogram = [0.0f32; LENGTH];
        for row in 1..SIDE - 1 {
            for column in 1..SIDE - 1 {
                let across = levels[row][column + 1] - levels[row][column - 1];
                let down = levels[row + 1][column] - levels[row - 1][column];
                let off = [column, row].map(|k| (k as f64 - middle) / middle);
                let weight = (-(off[0] * off[0] + off[1] * off[1])).exp();
                add(
                    &mut histogram,
                    [column, row].map(|k| (k as f64 - 0.5) / PER_CELL as f64 - 0.5),
                    down.atan2(across),
                    weight * across.hypot(down),
                );
            }
        }
        made_unit(&mut histogram)?;
        histogram.iter_mut().for_each(|h| *h = h.min(MOST));
        made_unit(&mut histogram)?;
        Some(Self(Box::new(histogram)))
    }
}

/// Descriptors as columns: how alike two are, -1 to 1, is the product of theirs.
pub fn side_by_side<'a>(looks: impl ExactSizeIterator<Item = &'a Descriptor>) -> Mat<f64> {
    let mut columns = Mat::zeros(LENGTH, looks.len());
    for (column, look) in columns.col_iter_mut().zip(looks) {
        let entries = column.iter_mut().zip(look.0.iter());
        entries.for_each(|(entry, look)| *entry = f64::from(*look));
    }
    columns
}

/// Shares a gradient among the cells and directions that it lies between.
fn add(histogram: &mut [f32; LENGTH], cell: [f64; 2], direction: f64, amount: f64) {
    let turn = (direction / TAU).rem_euclid(1.0) * DIRECTIONS as f64;
    let (first, part) = (turn.floor(), turn.fract());
    for (dy, dx) in [(0, 0), (0, 1), (1, 0), (1, 1)] {
        let at = [
            cell[0].floor() + f64::from(dx),
            cell[1].floor() + f64::from(dy),
        ];
        if at.iter().any(|c| !(0.0..CELLS as f64).contains(c)) {
            continue;
        }
        let share = (1.0 - (at[0] - cell[0]).abs()) * (1.0 - (at[1] - cell[1]).abs());
        let base = (at[1] as usize * CELLS + at[0] as usize) * DIRECTIONS;
        let bins = [
            first as usize % DIRECTIONS,
            (first as usize + 1) % DIRECTIONS,
        ];
        histogram[base + bins[0]] += (amount * share * (1.0 - part)) as f32;
        histogram[base + bins[1]] += (amount * share * part) as f32;
    }
}

fn made_unit(histogram: &mut [f32; LENGTH]) -> Option<()> {
    let length = histogram.iter().map(|h| h * h).sum::<f32>().sqrt();
    if length < 1e-3 {
        return None;
    }
    histogram.iter_mut().for_each(|h| *h /= length);
    Some(())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::track::picture::Plane;
    use rstest::rstest;

    /// Something without repetition, seen moved, brighter or larger.
    fn pyramid(shift: f64, gain: f64, larger: f64) -> Pyramid {
        let level = |i: usize| {
            let (x, y) = (
                ((i % 120) as f64 - shift) / larger,
                (i / 120) as f64 / larger,
            );
            let waves =
                (0.31 * x + 0.07 * y).sin() + (0.11 * x - 0.29 * y).cos() * (0.05 * x).sin();
            (60.0 + gain * 30.0 * (waves + (0.002 * x * y).sin())) as f32
        };
        let plane = Plane::new(120, 90, (0..120 * 90).map(level).collect()).unwrap();
        Pyramid::new(plane, 3)
    }

    #[rstest]
    #[case::moved(6.0, 1.0, 1.0, 0.97)]
    #[case::brighter(0.0, 1.6, 1.0, 0.99)]
    #[case::a_little_larger(0.0, 1.0, 1.12, 0.85)]
    fn the_same_detail_looks_alike_and_another_does_not(
        #[case] shift: f64,
        #[case] gain: f64,
        #[case] larger: f64,
        #[case] least: f64,
    ) {
        let (before, after) = (pyramid(0.0, 1.0, 1.0), pyramid(shift, gain, larger));
        let at = PlatePx::new(55.0, 42.0);
        let there = PlatePx::new(55.0 * larger + shift, 42.0 * larger);
        let one = Descriptor::of(&before, at, 30.0).unwrap();
        let again = Descriptor::of(&after, there, 30.0).unwrap();
        let other = Descriptor::of(&after, PlatePx::new(80.0, 30.0), 30.0).unwrap();
        let looks = side_by_side([one, again, other].iter());
        let likeness = looks.transpose() * &looks;
        assert!((likeness[(0, 0)] - 1.0).abs() < 1e-5);
        assert!(likeness[(0, 1)] > least, "{}", likeness[(0, 1)]);
        assert!(likeness[(0, 1)] > likeness[(0, 2)] + 0.1);
    }

    #[test]
    fn what_is_blank_or_leaves_the_picture_has_no_looks() {
        let blank = Pyramid::new(Plane::new(64, 64, vec![40.0; 64 * 64]).unwrap(), 2);
        assert!(Descriptor::of(&blank, PlatePx::new(32.0, 32.0), 24.0).is_none());
        let textured = pyramid(0.0, 1.0, 1.0);
        assert!(Descriptor::of(&textured, PlatePx::new(5.0, 40.0), 24.0).is_none());
    }
}
