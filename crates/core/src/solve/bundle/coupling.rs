//! What points have to do with their cameras, and its subtraction from the blocks of cameras.
//!
//! Eliminating a point that n cameras see changes a block for each of the n²/2 pairs of them: in a shot
//! whose features live long most of a step is this. So cameras are taken in [`Group`]s of a few, each with Y and W
//! of the points that they see laid side by side, zeros where one of them does not see one. The blocks between two
//! groups are then one product of matrices over the points that both see (faer's, which fills the registers).

use super::reduced::{Block, Structure};
use super::residual::Linear;
use faer::linalg::matmul::matmul;
use faer::{Accum, MatMut, MatRef, Par};
use nalgebra::Matrix3;
use std::cmp::Ordering;
use std::ops::Range;

/// So many cameras are taken together.
pub const AT_ONCE: usize = 8;

/// So many points are multiplied at a time: they stay in the cache.
const POINTS: usize = 128;
/// So many that lie together need not be brought together.
const WHERE_THEY_LIE: usize = 24;

/// A few cameras that follow each other, with the points that any of them sees.
pub struct Group {
    /// The first of them.
    pub first: usize,
    /// What they see: camera, or what a point is tied to, and where its derivatives are.
    pub sights: Vec<(usize, usize)>,
    /// Points, ascending, with which of the sights are of them.
    pub points: Vec<(usize, Range<usize>)>,
    /// Rows of each point's Y and W: the free unknowns of all cameras.
    rows: usize,
    /// Three columns for each point.
    y: Vec<f64>,
    w: Vec<f64>,
}

impl Group {
    /// Of cameras from a first one on, which see nothing yet.
    pub fn new(first: usize, slots: &[usize]) -> Self {
        Self {
            first,
            sights: Vec::new(),
            points: Vec::new(),
            rows: AT_ONCE * slots.len(),
            y: Vec::new(),
            w: Vec::new(),
        }
    }

    /// Adds that a camera sees a point, not before those that were added.
    pub fn add(&mut self, point: usize, camera: usize, linear: usize) {
        let at = self.sights.len();
        self.sights.push((camera, linear));
        match self.points.last_mut().filter(|(last, _)| *last == point) {
            Some((_, sights)) => sights.end = at + 1,
            None => self.points.push((point, at..at + 1)),
        }
    }

    /// Lays out W and Y = W V⁻¹. `inverse` is V⁻¹ of a point.
    pub fn lay(
        &mut self,
        slots: &[usize],
        linear: &[Option<Linear>],
        inverse: impl Fn(usize) -> Matrix3<f64>,
    ) {
        let of_point = 3 * self.rows;
        for laid in [&mut self.y, &mut self.w] {
            laid.clear();
            laid.resize(of_point * self.points.len(), 0.0);
        }
        for (at, (point, sights)) in self.points.iter().enumerate() {
            let inverse = inverse(*point);
            for (camera, at_linear) in &self.sights[sights.clone()] {
                let Some(l) = &linear[*at_linear] else {
                    continue;
                };
                let from = of_point * at + slots.len() * (camera - self.first);
                let seen = l.point * inverse;
                for (r, slot) in (from..).zip(slots) {
                    let by = l.camera.column(*slot);
                    for axis in 0..3 {
                        let at = r + self.rows * axis;
                        self.w[at] = by[0] * l.point[(0, axis)] + by[1] * l.point[(1, axis)];
                        self.y[at] = by[0] * seen[(0, axis)] + by[1] * seen[(1, axis)];
                    }
                }
            }
        }
    }
}

/// The columns of blocks of a group.
pub struct Columns<'a, 'b> {
    /// The group.
    pub group: &'a Group,
    /// Blocks of each of its cameras, the diagonal one first.
    pub blocks: &'a mut [&'b mut [Block]],
    /// Where they are.
    pub structure: &'a Structure,
}

impl Columns<'_, '_> {
    /// Takes off all points: block(row, column) -= Y_row W_columnᵀ.
    pub fn subtract(&mut self, groups: &[Group], slots: &[usize]) {
        let own = self.group.first / AT_ONCE;
        let mut is_linked = vec![false; groups.len()];
        for column in 0..self.blocks.len() {
            let rows = self.structure.column(self.group.first + column).iter();
            rows.for_each(|row| is_linked[row / AT_ONCE] = true);
        }
        let mut between = Between::default();
        for rows in groups.iter().skip(own) {
            if is_linked[rows.first / AT_ONCE] {
                between.multiply_all(rows, self.group);
                self.take_off(&between.product, rows, slots);
            }
        }
    }

    fn take_off(&mut self, product: &[f64], group: &Group, slots: &[usize]) {
        let product = MatRef::from_column_major_slice(product, group.rows, group.rows);
        let free = slots.len();
        for (at, blocks) in self.blocks.iter_mut().enumerate() {
            let rows = self.structure.column(self.group.first + at);
            let from = rows.partition_point(|row| *row < group.first);
            let here = rows.iter().zip(blocks.iter_mut()).skip(from);
            for (row, block) in here.take_while(|(row, _)| **row < group.first + AT_ONCE) {
                let row = free * (row - group.first);
                for (c, column) in slots.iter().enumerate() {
                    for (r, slot) in slots.iter().enumerate() {
                        block[(*slot, *column)] -= product[(row + r, free * at + c)];
                    }
                }
            }
        }
    }
}

/// Y Wᵀ over the points that two groups see.
#[derive(Default)]
struct Between {
    /// Of points that are still to be multiplied.
    y: Vec<f64>,
    w: Vec<f64>,
    product: Vec<f64>,
}

impl Between {
    fn multiply_all(&mut self, rows: &Group, columns: &Group) {
        self.product.clear();
        self.product.resize(rows.rows * columns.rows, 0.0);
        let (mut a, mut b) = (0, 0);
        while let (Some((here, _)), Some((there, _))) = (rows.points.get(a), columns.points.get(b))
        {
            match here.cmp(there) {
                Ordering::Less => a += 1,
                Ordering::Greater => b += 1,
                Ordering::Equal => {
                    let both = rows.points[a..].iter().zip(&columns.points[b..]);
                    let run = both.take_while(|(here, there)| here.0 == there.0).count();
                    self.take(rows, columns, (a..a + run, b..b + run));
                    (a, b) = (a + run, b + run);
                }
            }
        }
        self.multiply_gathered(rows.rows);
    }

    /// Takes points that lie one after the other in both groups: many are multiplied where they lie.
    fn take(&mut self, rows: &Group, columns: &Group, (of_y, of_w): (Range<usize>, Range<usize>)) {
        let laid = |of: Range<usize>| 3 * rows.rows * of.start..3 * rows.rows * of.end;
        let count = of_y.len();
        let (y, w) = (&rows.y[laid(of_y)], &columns.w[laid(of_w)]);
        if count >= WHERE_THEY_LIE {
            multiply(&mut self.product, rows.rows, y, w);
            return;
        }
        self.y.extend_from_slice(y);
        self.w.extend_from_slice(w);
        if self.y.len() >= 3 * rows.rows * POINTS {
            self.multiply_gathered(rows.rows);
        }
    }

    fn multiply_gathered(&mut self, rows: usize) {
        multiply(&mut self.product, rows, &self.y, &self.w);
        self.y.clear();
        self.w.clear();
    }
}

fn multiply(product: &mut [f64], rows: usize, y: &[f64], w: &[f64]) {
    let count = y.len() / rows;
    let y = MatRef::from_column_major_slice(y, rows, count);
    let w = MatRef::from_column_major_slice(w, rows, count);
    let product = MatMut::from_column_major_slice_mut(product, rows, rows);
    matmul(product, Accum::Add, y, w.transpose(), 1.0, Par::Seq);
}
