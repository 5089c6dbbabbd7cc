//! What points have to do with their cameras, and its subtraction from the blocks of cameras.
//!
//! Eliminating a point that n cameras see changes a block for each of the n²/2 pairs of them: in a shot
//! whose features live long most of a step is this. So cameras are taken in [`Group`]s of a few, each with Z = W R of
//! the points that they see laid side by side, where R Rᵀ is V⁻¹, and zeros where one of them does not see one. The
//! blocks between two groups, W V⁻¹ Wᵀ, are then one product Z Zᵀ over the points that both see (faer's, which fills the
//! registers).

use super::CAMERA;
use super::derivatives::Derivatives;
use super::products::PointPart;
use super::reduced::{Block, Structure};
use super::residual::Linear;
use faer::linalg::matmul::matmul;
use faer::{Accum, MatMut, MatRef, Par};
use multiversion::multiversion;
use std::array;
use std::cmp::Ordering;
use std::ops::Range;

/// So many cameras are taken together.
pub const AT_ONCE: usize = 8;

/// So many points are multiplied at a time: they stay in the cache.
const POINTS: usize = 128;
/// So many that lie together need not be brought together.
const WHERE_THEY_LIE: usize = 24;

/// What is seen, or a tie, and a block of unknowns that it hangs on.
#[derive(Clone, Copy, Debug)]
pub struct Sight {
    /// The camera, or what a point is tied to.
    pub block: usize,
    /// Where its derivatives are.
    pub at: usize,
    /// Which of the cameras beside the one that sees it ([`super::neighbours`]); `None` of itself.
    pub beside: Option<usize>,
}

/// A few cameras that follow each other, with the points that any of them sees.
pub struct Group {
    /// The first of them.
    pub first: usize,
    /// What they have to do with what is seen.
    pub sights: Vec<Sight>,
    /// Points, ascending, with which of the sights are of them.
    pub points: Vec<(usize, Range<usize>)>,
    /// Rows of each point's Z: the free unknowns of all cameras.
    rows: usize,
    /// Three columns for each point.
    z: Vec<f64>,
    /// Whether several sights of one point add up.
    adds: bool,
}

impl Group {
    /// Of cameras from a first one on, which see nothing yet.
    pub fn new(first: usize, slots: &[usize]) -> Self {
        Self {
            first,
            sights: Vec::new(),
            points: Vec::new(),
            rows: AT_ONCE * slots.len(),
            z: Vec::new(),
            adds: false,
        }
    }

    /// Adds what a point has to do with one of them, not before those that were added.
    pub fn add(&mut self, point: usize, sight: Sight) {
        let at = self.sights.len();
        self.sights.push(sight);
        self.adds |= sight.beside.is_some();
        match self.points.last_mut().filter(|(last, _)| *last == point) {
            Some((_, sights)) => sights.end = at + 1,
            None => self.points.push((point, at..at + 1)),
        }
    }

    /// Lays out Z, of each camera the unknowns in `slots`: the same ones of the same group each time.
    pub fn lay(&mut self, slots: &[usize], derivatives: &Derivatives, points: &[PointPart]) {
        // Where a camera does not see a point zeros stay.
        self.z.resize(3 * self.rows * self.points.len(), 0.0);
        if self.adds {
            self.z.fill(0.0);
        }
        match slots.len() {
            1 => lay::<1>(self, slots, derivatives, points),
            3 => lay::<3>(self, slots, derivatives, points),
            4 => lay::<4>(self, slots, derivatives, points),
            6 => lay::<6>(self, slots, derivatives, points),
            CAMERA => lay::<CAMERA>(self, slots, derivatives, points),
            _ => debug_assert!(slots.is_empty()),
        }
    }
}

#[multiversion(targets("x86_64+avx2+fma"))]
fn lay<const SLOTS: usize>(
    group: &mut Group,
    slots: &[usize],
    derivatives: &Derivatives,
    points: &[PointPart],
) {
    let Group {
        first,
        sights,
        points: seen,
        rows,
        z,
        adds,
    } = group;
    for (at, (point, of_point)) in seen.iter().enumerate() {
        let root = &points[*point].root;
        for sight in &sights[of_point.clone()] {
            let seen = derivatives.of(sight);
            let by = |row| array::from_fn(|k| seen.map_or(0.0, |(_, by)| by[(row, slots[k])]));
            let by: [[f64; SLOTS]; 2] = array::from_fn(by);
            let turned = |row, axis| {
                let of = |(l, _): (&Linear, _)| {
                    (0..3).map(|k| l.point[(row, k)] * root[(k, axis)]).sum()
                };
                seen.map_or(0.0, of)
            };
            for axis in 0..3 {
                let [a, b]: [f64; 2] = array::from_fn(|row| turned(row, axis));
                let from = *rows * (3 * at + axis) + SLOTS * (sight.block - *first);
                let z = &mut z[from..from + SLOTS];
                for k in 0..SLOTS {
                    let before = if *adds { z[k] } else { 0.0 };
                    z[k] = before + by[0][k] * a + by[1][k] * b;
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
    /// Takes off all points: block(row, column) -= Z_row Z_columnᵀ.
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

/// Z Zᵀ over the points that two groups see.
#[derive(Default)]
struct Between {
    /// Of points that are still to be multiplied, of the rows' group and of the columns'.
    of_rows: Vec<f64>,
    of_columns: Vec<f64>,
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
    fn take(&mut self, rows: &Group, columns: &Group, (here, there): (Range<usize>, Range<usize>)) {
        let laid = |of: Range<usize>| 3 * rows.rows * of.start..3 * rows.rows * of.end;
        let count = here.len();
        let (of_rows, of_columns) = (&rows.z[laid(here)], &columns.z[laid(there)]);
        if count >= WHERE_THEY_LIE {
            multiply(&mut self.product, rows.rows, of_rows, of_columns);
            return;
        }
        self.of_rows.extend_from_slice(of_rows);
        self.of_columns.extend_from_slice(of_columns);
        if self.of_rows.len() >= 3 * rows.rows * POINTS {
            self.multiply_gathered(rows.rows);
        }
    }

    fn multiply_gathered(&mut self, rows: usize) {
        multiply(&mut self.product, rows, &self.of_rows, &self.of_columns);
        self.of_rows.clear();
        self.of_columns.clear();
    }
}

/// Adds the product of columns laid out one after the other, of so many rows each, to one of as many rows and columns.
pub fn multiply(product: &mut [f64], rows: usize, of_rows: &[f64], of_columns: &[f64]) {
    let count = of_rows.len() / rows;
    let of_rows = MatRef::from_column_major_slice(of_rows, rows, count);
    let of_columns = MatRef::from_column_major_slice(of_columns, rows, count);
    let product = MatMut::from_column_major_slice_mut(product, rows, rows);
    let columns = of_columns.transpose();
    matmul(product, Accum::Add, of_rows, columns, 1.0, Par::Seq);
}
