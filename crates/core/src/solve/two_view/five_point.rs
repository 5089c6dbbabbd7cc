//! Essential matrices from five bearing pairs (Nistér 2004).
//!
//! E = x X + y Y + z Z + W over the null space of the epipolar equations. The ten cubic
//! constraints (det E = 0 and 2 E Eᵀ E - tr(E Eᵀ) E = 0) are brought to echelon form over
//! the monomials ordered as in Nistér's table; three combinations of rows leave a 3x3 matrix
//! of polynomials in z whose determinant, of degree 10, has the solutions as real roots.
//! Roots are found as eigenvalues of the companion matrix and polished by Newton's method.
//!
//! Works for points of a plane as well. Fails (returns nothing) where the null space is
//! larger than four, as it is when views coincide.

use nalgebra::{DMatrix, Matrix3, SMatrix, SVector, Vector3};

/// Coefficients of a polynomial in z, constant first, degree up to 10.
type InZ = [f64; 11];

/// A polynomial of degree up to 3 in x, y, z: twenty coefficients in the order of [`MONOMIALS`].
type Cubic = [f64; 20];

/// Exponents of x, y, z in Nistér's order.
const MONOMIALS: [(u8, u8, u8); 20] = [
    (3, 0, 0),
    (0, 3, 0),
    (2, 1, 0),
    (1, 2, 0),
    (2, 0, 1),
    (2, 0, 0),
    (0, 2, 1),
    (0, 2, 0),
    (1, 1, 1),
    (1, 1, 0),
    (1, 0, 2),
    (1, 0, 1),
    (1, 0, 0),
    (0, 1, 2),
    (0, 1, 1),
    (0, 1, 0),
    (0, 0, 3),
    (0, 0, 2),
    (0, 0, 1),
    (0, 0, 0),
];

/// All real essential matrices that fit five bearing pairs (first view, second view).
pub fn essential_matrices(pairs: &[(Vector3<f64>, Vector3<f64>); 5]) -> Vec<Matrix3<f64>> {
    let Some(basis) = null_space(pairs) else {
        return Vec::new();
    };
    let Some(rows) = echelon(&constraints(&basis)) else {
        return Vec::new();
    };
    let b = polynomial_matrix(&rows);
    let determinant = determinant(&b);
    real_roots(&determinant)
        .into_iter()
        .filter_map(|z| {
            let (x, y) = x_and_y(&b, z)?;
            let e = basis[0] * x + basis[1] * y + basis[2] * z + basis[3];
            let norm = e.norm();
            (norm.is_finite() && norm > 0.0).then(|| e / norm)
        })
        .collect()
}

fn null_space(pairs: &[(Vector3<f64>, Vector3<f64>); 5]) -> Option<[Matrix3<f64>; 4]> {
    let mut equations = SMatrix::<f64, 9, 9>::zeros();
    for (row, (a, b)) in pairs.iter().enumerate() {
        let (a, b) = (a.normalize(), b.normalize());
        for i in 0..3 {
            for j in 0..3 {
                equations[(row, 3 * i + j)] = b[i] * a[j];
            }
        }
    }
    let svd = equations.svd(false, true);
    let v_t = svd.v_t?;
    let mut order: Vec<usize> = (0..9).collect();
    order.sort_by(|&i, &j| svd.singular_values[i].total_cmp(&svd.singular_values[j]));
    // A fifth direction without weight: the five pairs do not pin four dimensions.
    if svd.singular_values[order[4]] < 1e-9 {
        return None;
    }
    let matrix = |k: usize| {
        let v: SVector<f64, 9> = v_t.row(order[k]).transpose();
        Matrix3::from_row_slice(v.as_slice())
    };
    Some([matrix(0), matrix(1), matrix(2), matrix(3)])
}

fn index_of(x: u8, y: u8, z: u8) -> usize {
    MONOMIALS.iter().position(|m| *m == (x, y, z)).unwrap_or(19)
}

/// Index of the product of two monomials, or 255 where the degree passes 3.
fn product_table() -> &'static [[u8; 20]; 20] {
    static TABLE: std::sync::OnceLock<[[u8; 20]; 20]> = std::sync::OnceLock::new();
    TABLE.get_or_init(|| {
        let mut table = [[255; 20]; 20];
        for (i, a) in MONOMIALS.iter().enumerate() {
            for (j, b) in MONOMIALS.iter().enumerate() {
                let sum = (a.0 + b.0, a.1 + b.1, a.2 + b.2);
                if sum.0 + sum.1 + sum.2 <= 3 {
                    table[i][j] = index_of(sum.0, sum.1, sum.2) as u8;
                }
            }
        }
        table
    })
}

fn multiply(a: &Cubic, b: &Cubic) -> Cubic {
    let table = product_table();
    let mut out = [0.0; 20];
    for (i, &ai) in a.iter().enumerate().filter(|(_, v)| **v != 0.0) {
        for (j, &bj) in b.iter().enumerate().filter(|(_, v)| **v != 0.0) {
            let at = table[i][j];
            if at != 255 {
                out[usize::from(at)] += ai * bj;
            }
        }
    }
    out
}

fn add_scaled(sum: &mut Cubic, other: &Cubic, factor: f64) {
    for (s, o) in sum.iter_mut().zip(other) {
        *s += factor * o;
    }
}

fn constraints(basis: &[Matrix3<f64>; 4]) -> SMatrix<f64, 10, 20> {
    let (ix, iy, iz, one) = (index_of(1, 0, 0), index_of(0, 1, 0), index_of(0, 0, 1), 19);
    let entry = |i: usize, j: usize| -> Cubic {
        let mut p = [0.0; 20];
        p[ix] = basis[0][(i, j)];
        p[iy] = basis[1][(i, j)];
        p[iz] = basis[2][(i, j)];
        p[one] = basis[3][(i, j)];
        p
    };
    let e: [[Cubic; 3]; 3] = std::array::from_fn(|i| std::array::from_fn(|j| entry(i, j)));
    let gram: [[Cubic; 3]; 3] = std::array::from_fn(|i| {
        std::array::from_fn(|j| {
            let mut sum = [0.0; 20];
            for (a, b) in e[i].iter().zip(&e[j]) {
                add_scaled(&mut sum, &multiply(a, b), 1.0);
            }
            sum
        })
    });
    let mut trace = [0.0; 20];
    (0..3).for_each(|i| add_scaled(&mut trace, &gram[i][i], 1.0));
    let mut rows = SMatrix::<f64, 10, 20>::zeros();
    for i in 0..3 {
        for (j, entry_of_e) in e[i].iter().enumerate() {
            let mut sum = [0.0; 20];
            for (g, row) in gram[i].iter().zip(&e) {
                add_scaled(&mut sum, &multiply(g, &row[j]), 2.0);
            }
            add_scaled(&mut sum, &multiply(&trace, entry_of_e), -1.0);
            rows.set_row(
                3 * i + j,
                &SVector::<f64, 20>::from_row_slice(&sum).transpose(),
            );
        }
    }
    let mut det = [0.0; 20];
    for (j, k, l) in [(0, 1, 2), (1, 2, 0), (2, 0, 1)] {
        let mut minor = multiply(&e[1][k], &e[2][l]);
        add_scaled(&mut minor, &multiply(&e[1][l], &e[2][k]), -1.0);
        add_scaled(&mut det, &multiply(&e[0][j], &minor), 1.0);
    }
    rows.set_row(9, &SVector::<f64, 20>::from_row_slice(&det).transpose());
    rows
}

/// Reduced echelon form over the first ten monomials: what is left of rows 5 to 10, ten columns each.
fn echelon(rows: &SMatrix<f64, 10, 20>) -> Option<SMatrix<f64, 10, 10>> {
    let left = rows.fixed_view::<10, 10>(0, 0).into_owned();
    let right = rows.fixed_view::<10, 10>(0, 10).into_owned();
    left.lu().solve(&right)
}

/// Three combinations of the reduced rows (Nistér's k, l, m): a 3x3 matrix of polynomials in
/// z that annihilates (x, y, 1).
fn polynomial_matrix(rows: &SMatrix<f64, 10, 10>) -> [[InZ; 3]; 3] {
    // Rows 4..9 (0-based) lead with x²z, x², y²z, y², xyz, xy; columns are
    // xz², xz, x, yz², yz, y, z³, z², z, 1.
    let row = |r: usize| -> [InZ; 3] {
        let mut out = [[0.0; 11]; 3];
        for c in 0..3 {
            out[0][2 - c] = rows[(r, c)];
            out[1][2 - c] = rows[(r, 3 + c)];
        }
        for c in 0..4 {
            out[2][3 - c] = rows[(r, 6 + c)];
        }
        out
    };
    let combine = |with_z: usize, without: usize| -> [InZ; 3] {
        let (a, b) = (row(with_z), row(without));
        std::array::from_fn(|entry| {
            let mut out = a[entry];
            for power in 0..10 {
                out[power + 1] -= b[entry][power];
            }
            out
        })
    };
    [combine(4, 5), combine(6, 7), combine(8, 9)]
}

fn times(a: &InZ, b: &InZ) -> InZ {
    let mut out = [0.0; 11];
    for (i, a) in a.iter().enumerate() {
        for (j, b) in b.iter().enumerate().take(11 - i) {
            out[i + j] += a * b;
        }
    }
    out
}

fn minus(a: &InZ, b: &InZ) -> InZ {
    std::array::from_fn(|i| a[i] - b[i])
}

fn determinant(b: &[[InZ; 3]; 3]) -> InZ {
    let minor = |j: usize, k: usize| minus(&times(&b[0][j], &b[1][k]), &times(&b[0][k], &b[1][j]));
    let mut out = [0.0; 11];
    for (j, k, l) in [(0, 1, 2), (1, 2, 0), (2, 0, 1)] {
        let term = times(&minor(j, k), &b[2][l]);
        out.iter_mut().zip(term).for_each(|(o, t)| *o += t);
    }
    out
}

fn evaluate(p: &InZ, z: f64) -> f64 {
    p.iter().rev().fold(0.0, |sum, c| sum * z + c)
}

/// Two real roots that nearly coincide, as they do for points of a plane, come out of the
/// eigenvalues as a complex pair; imaginary parts up to this share count as rounding.
const DOUBLE_ROOT: f64 = 1e-3;

fn real_roots(p: &InZ) -> Vec<f64> {
    let largest = p.iter().fold(0.0f64, |m, c| m.max(c.abs()));
    let Some(degree) = (1..11).rev().find(|&d| p[d].abs() > 1e-14 * largest) else {
        return Vec::new();
    };
    let mut companion = DMatrix::<f64>::zeros(degree, degree);
    for i in 0..degree {
        companion[(0, i)] = -p[degree - 1 - i] / p[degree];
        if i + 1 < degree {
            companion[(i + 1, i)] = 1.0;
        }
    }
    let Some(schur) = nalgebra::linalg::Schur::try_new(companion, 1e-12, 400) else {
        return Vec::new();
    };
    let slope: InZ = std::array::from_fn(|i| {
        if i < 10 {
            p[i + 1] * (i + 1) as f64
        } else {
            0.0
        }
    });
    let polished = |mut z: f64| {
        for _ in 0..4 {
            let step = evaluate(p, z) / evaluate(&slope, z);
            if !step.is_finite() {
                break;
            }
            z -= step;
        }
        z
    };
    let roots = schur.complex_eigenvalues();
    roots
        .iter()
        .filter(|r| r.im.abs() < DOUBLE_ROOT * (1.0 + r.re.abs()))
        .map(|r| polished(r.re))
        .collect()
}

fn x_and_y(b: &[[InZ; 3]; 3], z: f64) -> Option<(f64, f64)> {
    let m = Matrix3::from_fn(|i, j| evaluate(&b[i][j], z));
    // The null vector is the cross product of the two most independent rows.
    let rows: [Vector3<f64>; 3] = std::array::from_fn(|i| m.row(i).transpose());
    let null = [(0, 1), (1, 2), (0, 2)]
        .map(|(i, j)| rows[i].cross(&rows[j]))
        .into_iter()
        .max_by(|a, b| a.norm().total_cmp(&b.norm()))?;
    (null.z.abs() > 1e-12 * null.norm()).then(|| (null.x / null.z, null.y / null.z))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::camera::Pose;
    use crate::solve::two_view::sampson_squared;
    use nalgebra::{Point3, UnitQuaternion};
    use rstest::rstest;

    #[rstest]
    #[case::in_space(1.0, 2)]
    #[case::on_a_plane(0.0, 20)]
    fn one_of_the_solutions_is_the_truth(#[case] depth: f64, #[case] may_be_lost: usize) {
        let mut random = fastrand::Rng::with_seed(3);
        let mut draw = |range: f64| (random.f64() - 0.5) * 2.0 * range;
        let mut lost = 0;
        for _ in 0..200 {
            let second = Pose::from_parts(
                UnitQuaternion::new(Vector3::new(draw(0.2), draw(0.3), draw(0.2))),
                Vector3::new(draw(1.0), draw(0.5), draw(0.5)),
            );
            let pairs: [_; 5] = std::array::from_fn(|_| {
                let p = Point3::new(draw(2.0), draw(2.0), -6.0 + depth * draw(2.0));
                (p.coords, (second.camera_from_world * p).coords)
            });
            let t = second.camera_from_world.translation.vector;
            let truth = t.cross_matrix()
                * second
                    .camera_from_world
                    .rotation
                    .to_rotation_matrix()
                    .into_inner();
            let truth = truth / truth.norm();
            let found = essential_matrices(&pairs);
            let nearest = found
                .iter()
                .map(|e| (e - truth).norm().min((e + truth).norm()))
                .fold(9.0, f64::min);
            // On a plane two solutions nearly coincide, which costs half of the digits.
            lost += usize::from(nearest > 1e-3);
            let off = pairs
                .iter()
                .map(|(a, b)| sampson_squared(&truth, a, b))
                .fold(0.0, f64::max);
            assert!(off < 1e-20);
        }
        // Draws near a critical configuration have no well-conditioned solution; on a plane
        // there are more of them. Consensus draws again.
        assert!(
            lost <= may_be_lost,
            "{lost} of 200 truths not among the solutions"
        );
    }
}
