//! What is believed of several points together: lengths between two, and groups that lie on one plane.
//!
//! Points are eliminated one by one, so that nothing may link two of them. What they have in common is a block of
//! its own beside the cameras instead, to which each is tied by itself:
//!
//! - Of a length d with standard error σ between p and q, along e = (q - p) / |q - p|, the place s of the near end
//!   along e: `(e·p - s) / τ` and `(e·q - s - d) / τ`, with τ² = σ² / 2. Without s that is `(|q - p| - d) / σ`.
//! - Of a plane its tilt about two of its directions and its shift, with `n·(p - c) / σ` for each of its points.
//!
//! The blocks have no state: at every place they are where the points fit them best (variable projection, Golub
//! and Pereyra 1973), which for a plane is the one through the middle of its points across their least extent.

use super::residual::Linear;
use super::{CAMERA, MOST_SHARED};
use nalgebra::{Matrix2x3, Matrix3, SMatrix, Vector2, Vector3};

/// A length between two points.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Length {
    /// The points.
    pub points: [u32; 2],
    /// How far they are apart, world units.
    pub length: f64,
    /// Standard error of that.
    pub sigma: f64,
}

/// Points that lie on one plane, wherever that is.
#[derive(Clone, Debug, PartialEq)]
pub struct Flat {
    /// The points, four or more: three always do.
    pub points: Vec<u32>,
    /// One standard error of how far they are off it, world units.
    pub sigma: f64,
}

/// Everything of that kind.
#[derive(Clone, Debug, Default, PartialEq)]
pub struct Ties {
    /// Lengths.
    pub lengths: Vec<Length>,
    /// Planes.
    pub flats: Vec<Flat>,
}

/// A point tied to a block.
#[derive(Clone, Debug)]
pub struct Tie {
    /// The point.
    pub point: u32,
    /// Which of the blocks, lengths first.
    pub block: usize,
    /// What is off, with derivatives by the block and the point.
    pub linear: Linear,
}

impl Ties {
    /// How many blocks they make.
    pub fn count(&self) -> usize {
        self.lengths.len() + self.flats.len()
    }

    /// Whether they say how large the world is.
    pub fn hold_the_scale(&self) -> bool {
        !self.lengths.is_empty()
    }

    /// The points of each block.
    pub fn points(&self) -> impl Iterator<Item = &[u32]> {
        let lengths = self.lengths.iter().map(|l| &l.points[..]);
        lengths.chain(self.flats.iter().map(|f| &f.points[..]))
    }

    /// Half the sum of the squares of what is off.
    pub fn cost(&self, points: &[Vector3<f64>]) -> f64 {
        let lengths = self
            .lengths
            .iter()
            .map(|l| (l.off(points) / l.sigma).powi(2));
        let flats = self
            .flats
            .iter()
            .map(|f| f.points.len() as f64 * (f.off_rms(points) / f.sigma).powi(2));
        0.5 * lengths.chain(flats).sum::<f64>()
    }

    /// How many numbers they add.
    pub fn residuals(&self) -> usize {
        self.lengths.len() + self.flats.iter().map(|f| f.points.len() - 3).sum::<usize>()
    }

    /// All ties, ascending by block.
    pub fn linear(&self, points: &[Vector3<f64>]) -> Vec<Tie> {
        let lengths = self.lengths.iter().enumerate();
        let lengths = lengths.flat_map(|(block, l)| l.ties(points, block));
        let flats = self.flats.iter().enumerate();
        let flats = flats.flat_map(|(k, f)| f.ties(points, self.lengths.len() + k));
        lengths.chain(flats).collect()
    }
}

impl Length {
    /// How much farther apart they are.
    pub fn off(&self, points: &[Vector3<f64>]) -> f64 {
        let [p, q] = self.points.map(|k| points[k as usize]);
        (q - p).norm() - self.length
    }

    fn ties(&self, points: &[Vector3<f64>], block: usize) -> [Tie; 2] {
        let [p, q] = self.points.map(|k| points[k as usize]);
        let apart = (q - p).norm().max(f64::MIN_POSITIVE);
        let (along, half) = ((q - p) / apart, 0.5 * (apart - self.length));
        let scale = std::f64::consts::SQRT_2 / self.sigma;
        [(self.points[0], -half), (self.points[1], half)].map(|(point, off)| Tie {
            point,
            block,
            linear: tied(scale * off, along * scale, &[-scale]),
        })
    }
}

impl Flat {
    /// The middle of the points, and the plane's normal with two directions in it.
    pub fn plane(&self, points: &[Vector3<f64>]) -> (Vector3<f64>, [Vector3<f64>; 3]) {
        let places = || self.points.iter().map(|p| points[*p as usize]);
        let middle = places().sum::<Vector3<f64>>() / self.points.len() as f64;
        let off = places().map(|p| p - middle);
        let scatter: Matrix3<f64> = off.map(|d| d * d.transpose()).sum();
        let extents = scatter.symmetric_eigen();
        let mut order = [0, 1, 2];
        order.sort_by(|a, b| extents.eigenvalues[*a].total_cmp(&extents.eigenvalues[*b]));
        (
            middle,
            order.map(|k| extents.eigenvectors.column(k).into_owned()),
        )
    }

    /// Root mean square of how far they are off it.
    pub fn off_rms(&self, points: &[Vector3<f64>]) -> f64 {
        let (middle, [normal, ..]) = self.plane(points);
        let off = |p: &u32| (points[*p as usize] - middle).dot(&normal).powi(2);
        (self.points.iter().map(off).sum::<f64>() / self.points.len() as f64).sqrt()
    }

    fn ties(&self, points: &[Vector3<f64>], block: usize) -> Vec<Tie> {
        let (middle, [normal, one, other]) = self.plane(points);
        let scale = 1.0 / self.sigma;
        let tie = |point: &u32| {
            let off = points[*point as usize] - middle;
            let by_plane = [off.dot(&one) * scale, off.dot(&other) * scale, scale];
            Tie {
                point: *point,
                block,
                linear: tied(off.dot(&normal) * scale, normal * scale, &by_plane),
            }
        };
        self.points.iter().map(tie).collect()
    }
}

/// One number that is off, in the shape of an observation: its second row says nothing.
fn tied(residual: f64, by_point: Vector3<f64>, by_block: &[f64]) -> Linear {
    let mut camera = SMatrix::<f64, 2, CAMERA>::zeros();
    for (slot, slope) in by_block.iter().enumerate() {
        camera[(0, slot)] = *slope;
    }
    let mut point = Matrix2x3::zeros();
    point.set_row(0, &by_point.transpose());
    Linear {
        residual: Vector2::new(residual, 0.0),
        camera,
        point,
        shared: SMatrix::<f64, 2, MOST_SHARED>::zeros(),
    }
}
