//! Which entries of the inverse of the reduced matrix S are needed for covariances, and what
//! are they?
//!
//! The covariance of a landmark needs the blocks of S⁻¹ between the cameras that see it, and
//! these are exactly where S itself has blocks. With S = L Lᵀ, all entries of S⁻¹ on the
//! pattern of L follow from L alone, column by column from the last one (Takahashi, Fagan and
//! Chin 1973; for supernodes as here: Erisman and Tinney 1975). With J the columns of a
//! supernode, P the rows below it and M = L_PJ L_JJ⁻¹:
//!
//! ```text
//! Z_PJ = -Z_PP M
//! Z_JJ = L_JJ⁻ᵀ L_JJ⁻¹ - Mᵀ Z_PJ
//! ```
//!
//! The factor is faer's supernodal one, so memory and time grow with the factor and never with
//! the square of the number of cameras. Fails (`None`) where S is not positive definite: the
//! evidence does not determine all unknowns.

use faer::dyn_stack::{MemBuffer, MemStack};
use faer::linalg::cholesky::llt::factor::LltRegularization;
use faer::linalg::cholesky::llt::inverse::{inverse, inverse_scratch};
use faer::linalg::triangular_solve::solve_upper_triangular_in_place;
use faer::sparse::SparseColMat;
use faer::sparse::linalg::SupernodalThreshold;
use faer::sparse::linalg::cholesky::supernodal::{SupernodalLltRef, SymbolicSupernodalCholesky};
use faer::sparse::linalg::cholesky::{
    CholeskySymbolicParams, SymbolicCholesky, SymbolicCholeskyRaw, SymmetricOrdering,
    factorize_symbolic_cholesky,
};
use faer::{Mat, MatRef, Side};
use multiversion::{multiversion, target::target_cfg_f};
use nalgebra::{Matrix3, Vector3};

/// Entries of the inverse of a sparse symmetric matrix on the pattern of its Cholesky factor.
pub struct SelectedInverse {
    symbolic: SymbolicCholesky<usize>,
    /// Where each row of the matrix stands in the factor.
    place: Vec<usize>,
    /// Supernode of each column of the factor.
    supernode_of: Vec<usize>,
    /// Z of each supernode: its own rows, of which only those from the diagonal on are right, then the rows below.
    parts: Vec<Mat<f64>>,
    /// Root of the diagonal by which the matrix was scaled before it was factored.
    scale: Vec<f64>,
}

/// Reads entries; holds the working memory that this takes.
pub struct Reader<'a> {
    inverse: &'a SelectedInverse,
    row_in_part: Vec<u32>,
}

impl SelectedInverse {
    /// Of a symmetric positive definite matrix given by its lower triangle.
    pub fn of(lower: &SparseColMat<usize, f64>) -> Option<Self> {
        let size = lower.ncols();
        let (scaled, scale) = scaled(lower)?;
        let parameters = CholeskySymbolicParams {
            supernodal_flop_ratio_threshold: SupernodalThreshold::FORCE_SUPERNODAL,
            ..Default::default()
        };
        let order = SymmetricOrdering::Amd;
        let symbolic =
            factorize_symbolic_cholesky(scaled.symbolic(), Side::Lower, order, parameters).ok()?;
        let place = match symbolic.perm() {
            Some(order) => order.arrays().1.to_vec(),
            None => (0..size).collect(),
        };
        let mut values = vec![0.0; symbolic.len_val()];
        let par = faer::get_global_parallelism();
        let scratch = symbolic.factorize_numeric_llt_scratch::<f64>(par, Default::default());
        let mut memory = MemBuffer::try_new(scratch).ok()?;
        symbolic
            .factorize_numeric_llt(
                &mut values,
                scaled.as_ref(),
                Side::Lower,
                LltRegularization::default(),
                par,
                MemStack::new(&mut memory),
                Default::default(),
            )
            .ok()?;
        let mut out = Self {
            supernode_of: vec![0; size],
            parts: Vec::new(),
            symbolic,
            place,
            scale,
        };
        let SymbolicCholeskyRaw::Supernodal(supernodes) = out.symbolic.raw() else {
            return None;
        };
        let (supernode_of, parts) = inverted(supernodes, &values)?;
        (out.supernode_of, out.parts) = (supernode_of, parts);
        Some(out)
    }

    /// A reader of entries, one for each thread.
    pub fn reader(&self) -> Reader<'_> {
        Reader {
            inverse: self,
            row_in_part: vec![u32::MAX; self.place.len()],
        }
    }

    fn supernodes(&self) -> Option<&SymbolicSupernodalCholesky<usize>> {
        match self.symbolic.raw() {
            SymbolicCholeskyRaw::Supernodal(supernodes) => Some(supernodes),
            SymbolicCholeskyRaw::Simplicial(_) => None,
        }
    }
}

impl Reader<'_> {
    /// The square block of the inverse between rows that all have entries with each other in
    /// the matrix, in the order in which they are given.
    pub fn block(&mut self, rows: &[usize]) -> Mat<f64> {
        let inverse = self.inverse;
        let mut order: Vec<usize> = (0..rows.len()).collect();
        order.sort_by_key(|&i| inverse.place[rows[i]]);
        let sorted: Vec<usize> = order.iter().map(|&i| inverse.place[rows[i]]).collect();
        let Some(supernodes) = inverse.supernodes() else {
            return Mat::zeros(rows.len(), rows.len());
        };
        let gathered = gathered(
            supernodes,
            &inverse.supernode_of,
            |s| inverse.parts[s].as_ref(),
            &sorted,
            &mut self.row_in_part,
        );
        let mut block = Mat::zeros(rows.len(), rows.len());
        for (b, &j) in order.iter().enumerate() {
            for (a, &i) in order.iter().enumerate() {
                block[(i, j)] = gathered[(a, b)] * inverse.scale[rows[i]] * inverse.scale[rows[j]];
            }
        }
        block
    }

    /// Yᵀ S⁻¹ Y for a Y of three columns that is zero but in these rows, which all have entries with each other in
    /// the matrix.
    pub fn quadratic(&mut self, rows: &[usize], y: &[[f64; 3]]) -> Matrix3<f64> {
        let inverse = self.inverse;
        let Some(supernodes) = inverse.supernodes() else {
            return Matrix3::zeros();
        };
        let mut order: Vec<usize> = (0..rows.len()).collect();
        order.sort_by_key(|&i| inverse.place[rows[i]]);
        let sorted: Vec<usize> = order.iter().map(|&i| inverse.place[rows[i]]).collect();
        let scaled = |axis: usize| -> Vec<f64> {
            let of = |&i: &usize| y[i][axis] * inverse.scale[rows[i]];
            order.iter().map(of).collect()
        };
        let [a, b, c] = [0, 1, 2].map(scaled);
        let of = |k: usize| Vector3::new(a[k], b[k], c[k]);
        let mut sum = Matrix3::zeros();
        let mut first = 0;
        while first < sorted.len() {
            let s = inverse.supernode_of[sorted[first]];
            let begin = supernodes.supernode_begin()[s];
            let end = supernodes.supernode_end()[s];
            note_rows(supernodes, s, &mut self.row_in_part);
            let last = first + sorted[first..].iter().take_while(|r| **r < end).count();
            let z = &inverse.parts[s];
            // Rows that lie one after the other in the part are read as they lie there.
            let runs = runs(sorted[first..].iter().map(|row| self.row_in_part[*row]));
            for (k, row) in (first..).zip(&sorted[first..last]) {
                let own = row - begin;
                let column = z.col_as_slice(own);
                let mut others = [0.0; 3];
                for &Run { at, from, length } in &runs {
                    // Of the rows of the supernode itself only those below this one.
                    let skip = (k + 1).saturating_sub(first + from).min(length);
                    let (at, from, length) = (at + skip, first + from + skip, length - skip);
                    let with = [&a, &b, &c].map(|y| &y[from..from + length]);
                    let sums = dots(&column[at..at + length], with);
                    others.iter_mut().zip(sums).for_each(|(o, s)| *o += s);
                }
                let (mine, others) = (of(k), Vector3::from(others));
                let across = mine * others.transpose();
                sum += across + across.transpose() + mine * mine.transpose() * z[(own, own)];
            }
            first = last;
        }
        sum
    }
}

/// Rows that lie one after the other in a part.
struct Run {
    /// Where the first of them lies there.
    at: usize,
    /// Which of the rows that are read it is.
    from: usize,
    length: usize,
}

fn runs(places: impl Iterator<Item = u32>) -> Vec<Run> {
    let mut all: Vec<Run> = Vec::new();
    for (from, place) in places.enumerate() {
        let at = place as usize;
        match all.last_mut() {
            Some(run) if run.at + run.length == at => run.length += 1,
            _ => all.push(Run {
                at,
                from,
                length: 1,
            }),
        }
    }
    all
}

/// The dot products of a column with three others, which is read once for all of them. Sums are fused where the processor
/// does that.
#[multiversion(targets("x86_64+avx512f+avx2+fma", "x86_64+avx2+fma"))]
fn dots(column: &[f64], others: [&[f64]; 3]) -> [f64; 3] {
    let more = |sum: f64, a: f64, b: f64| match target_cfg_f!(target_feature = "fma") {
        true => a.mul_add(b, sum),
        false => sum + a * b,
    };
    let [p, q, r] = others;
    let lanes = column.chunks_exact(8);
    let mut sums = [[0.0; 8]; 3];
    let (of_p, of_q, of_r) = (p.chunks_exact(8), q.chunks_exact(8), r.chunks_exact(8));
    let tails = [&of_p, &of_q, &of_r].map(|of| of.remainder());
    let tail = tails.map(|t| lanes.remainder().iter().zip(t).map(|(a, b)| a * b).sum());
    for (((a, p), q), r) in lanes.zip(of_p).zip(of_q).zip(of_r) {
        for (sums, b) in sums.iter_mut().zip([p, q, r]) {
            for (sum, (a, b)) in sums.iter_mut().zip(a.iter().zip(b)) {
                *sum = more(*sum, *a, *b);
            }
        }
    }
    let [p, q, r] = sums.map(|sums| sums.iter().sum::<f64>());
    let [of_p, of_q, of_r]: [f64; 3] = tail;
    [p + of_p, q + of_q, r + of_r]
}

/// Where each row of a supernode stands in its part.
fn note_rows(supernodes: &SymbolicSupernodalCholesky<usize>, s: usize, row_in_part: &mut [u32]) {
    let own = supernodes.supernode_begin()[s]..supernodes.supernode_end()[s];
    let node = supernodes.supernode(s);
    let rows = own.chain(node.pattern().iter().copied());
    rows.enumerate()
        .for_each(|(k, row)| row_in_part[row] = k as u32);
}

/// D S D with D one over the root of the diagonal, which conditions metres like radians.
fn scaled(lower: &SparseColMat<usize, f64>) -> Option<(SparseColMat<usize, f64>, Vec<f64>)> {
    let (starts, rows) = (lower.col_ptr(), lower.row_idx());
    let mut scale = vec![0.0; lower.ncols()];
    for (column, scale) in scale.iter_mut().enumerate() {
        let diagonal = (starts[column]..starts[column + 1]).find(|k| rows[*k] == column)?;
        let value = lower.val()[diagonal];
        if !(value.is_finite() && value > 0.0) {
            return None;
        }
        *scale = 1.0 / value.sqrt();
    }
    let mut scaled = lower.clone();
    for column in 0..lower.ncols() {
        for k in starts[column]..starts[column + 1] {
            scaled.val_mut()[k] *= scale[column] * scale[rows[k]];
        }
    }
    Some((scaled, scale))
}

/// Z of all supernodes, the last one first, with the supernode of each column.
fn inverted(
    supernodes: &SymbolicSupernodalCholesky<usize>,
    values: &[f64],
) -> Option<(Vec<usize>, Vec<Mat<f64>>)> {
    let par = faer::get_global_parallelism();
    let factor = SupernodalLltRef::new(supernodes, values);
    let count = supernodes.n_supernodes();
    let mut supernode_of = vec![0; supernodes.nrows()];
    for s in 0..count {
        supernode_of[supernodes.supernode_begin()[s]..supernodes.supernode_end()[s]].fill(s);
    }
    let mut parts: Vec<Mat<f64>> = vec![Mat::new(); count];
    let mut row_in_part = vec![u32::MAX; supernodes.nrows()];
    for s in (0..count).rev() {
        let node = factor.supernode(s);
        let width = supernodes.supernode_end()[s] - supernodes.supernode_begin()[s];
        let (own, below) = node.val().split_at_row(width);
        // Mᵀ = L_JJ⁻ᵀ L_PJᵀ.
        let mut mt = below.transpose().to_owned();
        solve_upper_triangular_in_place(own.transpose(), mt.as_mut(), par);
        let z_below = gathered(
            supernodes,
            &supernode_of,
            |t| parts[t].as_ref(),
            node.pattern(),
            &mut row_in_part,
        );
        let z_side = -(&z_below * mt.transpose());
        let mut z_own = Mat::zeros(width, width);
        let mut memory = MemBuffer::try_new(inverse_scratch::<f64>(width, par)).ok()?;
        inverse(z_own.as_mut(), own, par, MemStack::new(&mut memory));
        if below.nrows() > 0 {
            z_own -= &mt * &z_side;
        }
        let mut part = Mat::zeros(width + below.nrows(), width);
        part.as_mut().subrows_mut(0, width).copy_from(&z_own);
        part.as_mut()
            .subrows_mut(width, below.nrows())
            .copy_from(&z_side);
        if (0..width).any(|i| !part[(i, i)].is_finite()) {
            return None;
        }
        parts[s] = part;
    }
    Some((supernode_of, parts))
}

/// The symmetric block of Z between ascending rows of the factor, which have entries with each
/// other. `row_in_part` is working memory.
fn gathered<'a>(
    supernodes: &SymbolicSupernodalCholesky<usize>,
    supernode_of: &[usize],
    part: impl Fn(usize) -> MatRef<'a, f64>,
    rows: &[usize],
    row_in_part: &mut [u32],
) -> Mat<f64> {
    let mut block = Mat::zeros(rows.len(), rows.len());
    let mut first = 0;
    while first < rows.len() {
        let s = supernode_of[rows[first]];
        let (begin, end) = (
            supernodes.supernode_begin()[s],
            supernodes.supernode_end()[s],
        );
        note_rows(supernodes, s, row_in_part);
        let z = part(s);
        let last = first + rows[first..].iter().take_while(|r| **r < end).count();
        for column in first..last {
            for row in column..rows.len() {
                let value = z[(row_in_part[rows[row]] as usize, rows[column] - begin)];
                block[(row, column)] = value;
                block[(column, row)] = value;
            }
        }
        first = last;
    }
    block
}

#[cfg(test)]
mod tests {
    use super::*;
    use faer::linalg::solvers::DenseSolveCore;
    use faer::sparse::Triplet;
    use rstest::rstest;

    /// A chain of blocks that share entries with their `reach` successors, and a dense last row.
    fn matrix(size: usize, reach: usize, loop_back: bool) -> SparseColMat<usize, f64> {
        let mut random = fastrand::Rng::with_seed(size as u64);
        let mut entries = Vec::new();
        for column in 0..size {
            for row in column..size {
                let near = row - column <= reach || row + 1 == size;
                let returns = loop_back && column < 3 && row + 4 > size;
                if row == column {
                    entries.push(Triplet::new(row, column, 3.0 + reach as f64));
                } else if near || returns {
                    entries.push(Triplet::new(row, column, random.f64() - 0.5));
                }
            }
        }
        SparseColMat::try_new_from_triplets(size, size, &entries).unwrap()
    }

    #[rstest]
    #[case::diagonal(20, 0, false)]
    #[case::band(60, 5, false)]
    #[case::band_that_closes(60, 5, true)]
    #[case::dense(24, 24, false)]
    fn entries_are_those_of_the_dense_inverse(
        #[case] size: usize,
        #[case] reach: usize,
        #[case] loop_back: bool,
    ) {
        let lower = matrix(size, reach, loop_back);
        let dense = Mat::from_fn(size, size, |i, j| {
            lower.get(i.max(j), i.min(j)).copied().unwrap_or(0.0)
        });
        let wanted = dense.llt(Side::Lower).unwrap().inverse();
        let inverse = SelectedInverse::of(&lower).unwrap();
        let mut reader = inverse.reader();
        for first in 0..size {
            // Backwards, so that the order of the answer is that of the question.
            let rows: Vec<usize> = (first..size.min(first + reach + 1)).rev().collect();
            let block = reader.block(&rows);
            // The same entries in a quadratic form.
            let y: Vec<[f64; 3]> = rows
                .iter()
                .map(|i| [1.0, *i as f64, (i % 3) as f64])
                .collect();
            let form = reader.quadratic(&rows, &y);
            for (m, n) in [(0, 0), (0, 1), (1, 0), (1, 2), (2, 2)] {
                let pairs = rows.iter().enumerate().flat_map(|(a, i)| {
                    let (y, wanted) = (&y, &wanted);
                    let across = rows.iter().enumerate();
                    across.map(move |(b, j)| y[a][m] * wanted[(*i, *j)] * y[b][n])
                });
                let off = form[(m, n)] - pairs.sum::<f64>();
                assert!(off.abs() < 1e-9, "{m}, {n} from {first} is off by {off}");
            }
            for (a, i) in rows.iter().enumerate() {
                for (b, j) in rows.iter().enumerate() {
                    let off = block[(a, b)] - wanted[(*i, *j)];
                    assert!(off.abs() < 1e-12, "entry {i}, {j} is off by {off}");
                }
            }
        }
    }

    #[test]
    fn what_is_not_determined_has_no_inverse() {
        let entries = [
            Triplet::new(0, 0, 1.0),
            Triplet::new(1, 0, 1.0),
            Triplet::new(1, 1, 1.0),
        ];
        let singular = SparseColMat::try_new_from_triplets(2, 2, &entries).unwrap();
        assert!(SelectedInverse::of(&singular).is_none());
    }
}
