//! Patches that reach beyond the border of the picture: what of them lies in it counts, the rest does not.
//!
//! Without it a feature ends half a pattern before it leaves the picture: a camera that pans loses each
//! of them some frames early, and those at the border are what tells most about the lens.

use super::{Reference, Scratch, Warp, made};
use crate::track::picture::Plane;
use nalgebra::Vector2;
use pulp::{Simd, WithSimd};
use serde::{Deserialize, Serialize};
use std::ops::Range;

/// The columns and rows of a patch that count.
#[derive(Clone, Debug, PartialEq, Eq, Serialize, Deserialize)]
pub struct Part {
    /// Columns.
    pub columns: Range<usize>,
    /// Rows.
    pub rows: Range<usize>,
}

/// Px between the border and what counts: [`regrid`](super::regrid) reads so far around each.
const ROOM_PX: f64 = 3.0;
/// Less than this share of the side tells too little.
const LEAST: f64 = 0.5;

impl Part {
    /// All of a patch.
    pub fn whole(side: usize) -> Self {
        Self {
            columns: 0..side,
            rows: 0..side,
        }
    }

    /// What of a patch under a warp lies in the picture; `None` where that is too little, or where it lies
    /// so askew that it has no columns and rows of its own.
    pub fn seen(picture: &Plane, warp: &Warp, side: usize) -> Option<Self> {
        let shape = warp.shape;
        let columns = seen(
            warp.centre.x,
            (shape[(0, 0)], shape[(0, 1)]),
            picture.width(),
            side,
        )?;
        let rows = seen(
            warp.centre.y,
            (shape[(1, 1)], shape[(1, 0)]),
            picture.height(),
            side,
        )?;
        Some(Self { columns, rows })
    }

    /// What of a patch of px as large as the picture's, around a place, lies in it; may be nothing.
    pub fn level(picture: &Plane, centre: Vector2<f64>, side: usize) -> Self {
        let along = |centre: f64, size: usize| {
            let first = centre - side as f64 / 2.0;
            let from = (-first).ceil().max(0.0) as usize;
            from..((size as f64 - first).floor().max(0.0) as usize)
                .min(side)
                .max(from)
        };
        Self {
            columns: along(centre.x, picture.width()),
            rows: along(centre.y, picture.height()),
        }
    }

    /// What both have.
    pub fn common(&self, other: &Self) -> Self {
        let both = |a: &Range<usize>, b: &Range<usize>| a.start.max(b.start)..a.end.min(b.end);
        Self {
            columns: both(&self.columns, &other.columns),
            rows: both(&self.rows, &other.rows),
        }
    }

    /// How many px it has.
    pub fn px_count(&self) -> usize {
        self.columns.len() * self.rows.len()
    }

    /// Whether a px belongs to it.
    pub fn has(&self, column: usize, row: usize) -> bool {
        self.columns.contains(&column) && self.rows.contains(&row)
    }

    /// Whether it lies in the picture, patches being `side` px wide.
    #[inline(always)]
    pub fn fits(&self, picture: &Plane, warp: &Warp, side: usize) -> bool {
        let middle =
            |range: &Range<usize>| (range.start + range.end) as f64 / 2.0 - side as f64 / 2.0;
        let off = warp.shape * Vector2::new(middle(&self.columns), middle(&self.rows));
        let reach = warp.shape.abs()
            * Vector2::new(self.columns.len() as f64, self.rows.len() as f64)
            / 2.0;
        let centre = warp.centre.moved(off);
        let inside =
            |at: f64, reach: f64, size: usize| at - reach >= 1.0 && at + reach <= size as f64 - 1.0;
        inside(centre.x, reach.x, picture.width()) && inside(centre.y, reach.y, picture.height())
    }
}

/// The px along one side of a patch that lie in a picture of `size`: they are `pace` apart in this
/// direction, and `sway` from one line of the patch to the next.
fn seen(centre: f64, (pace, sway): (f64, f64), size: usize, side: usize) -> Option<Range<usize>> {
    let half = side as f64 / 2.0;
    let room = ROOM_PX + sway.abs() * half;
    let whole = half * pace.abs() + room;
    if centre >= whole && centre <= size as f64 - whole {
        return Some(0..side);
    }
    if pace < 2.0 * sway.abs() {
        return None;
    }
    let place = |px: f64| (px - centre) / pace + half;
    let (first, end) = (
        place(room).ceil().max(0.0),
        place(size as f64 - room).floor().min(side as f64),
    );
    (end - first >= LEAST * side as f64).then_some(first as usize..end as usize)
}

/// What a reference is without what does not count.
pub struct Trim<'a> {
    /// The whole reference.
    pub reference: &'a Reference,
    /// What counts.
    pub part: Part,
    /// Weights of whole patches.
    pub weights: &'a [f32],
    /// Its window is that of the part.
    pub scratch: &'a mut Scratch,
}

impl WithSimd for Trim<'_> {
    type Output = Option<Reference>;

    #[inline(always)]
    fn with_simd<S: Simd>(self, simd: S) -> Self::Output {
        let Self {
            reference,
            part,
            weights,
            scratch,
        } = self;
        let Reference {
            side,
            off_middle,
            weighted_mean,
            ..
        } = *reference;
        // Gradients without their weights; the patch is less its mean already.
        let gradients = [
            (&mut scratch.across, &reference.across),
            (&mut scratch.down, &reference.down),
        ];
        for (to, from) in gradients {
            let each = to.iter_mut().zip(from).zip(weights);
            each.for_each(|((to, from), weight)| {
                *to = if *weight > 0.0 { from / weight } else { 0.0 }
            });
        }
        scratch.template.copy_from_slice(&reference.centred);
        let trimmed = made(simd, side, reference.blurs.clone(), scratch)?;
        let weighted_mean = weighted_mean + trimmed.weighted_mean;
        Some(Reference {
            off_middle,
            weighted_mean,
            part,
            ..trimmed
        })
    }
}
