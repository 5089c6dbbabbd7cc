//! Aligning a crop with the mean of all.

use super::framing::{Framing, Piece};
use nalgebra::{Matrix2, SMatrix, SVector, Vector2};

/// Crops that correlate less are of something else.
const ALIKE: f64 = 0.7;
/// Steps of an alignment.
const STEPS: usize = 12;
/// Slip beyond this is none, px of the reference.
pub const MOST_PX: f64 = 4.0;
/// A crop whose shape changes by more than these times is not what it was.
pub const STRETCHED: f64 = 2.5;
/// Unknowns of an alignment: shift (2), change of shape (4), gain, offset.
const UNKNOWNS: usize = 8;

/// How a crop lies over its framing: px of the reference.
#[derive(Clone, Copy, Debug)]
pub struct Laid {
    /// Where its middle is.
    pub shift: Vector2<f64>,
    /// Its sides.
    pub shape: Matrix2<f64>,
}

impl Laid {
    /// As it was framed.
    pub const AS_FRAMED: Self = Self {
        shift: Vector2::new(0.0, 0.0),
        shape: Matrix2::new(1.0, 0.0, 0.0, 1.0),
    };
}

/// What a frame shows of its framing.
pub fn cropped(picture: &Piece, framing: &Framing, side: usize, laid: &Laid) -> Vec<f64> {
    let at = |k: usize| picture.level(framing.at(laid.shape * offset(k, side) + laid.shift));
    (0..side * side).map(at).collect()
}

/// Where a value of a crop lies about its middle, px.
fn offset(k: usize, side: usize) -> Vector2<f64> {
    let half = (side as f64 - 1.0) / 2.0;
    Vector2::new((k % side) as f64 - half, (k / side) as f64 - half)
}

/// Derivatives of a crop across and down, by central differences; zero at its border.
fn gradients(levels: &[f64], side: usize) -> Vec<[f64; 2]> {
    let at = |x: usize, y: usize| levels[y * side + x];
    let one = |k: usize| {
        let (x, y) = (k % side, k / side);
        if x == 0 || y == 0 || x + 1 == side || y + 1 == side {
            return [0.0; 2];
        }
        [
            (at(x + 1, y) - at(x - 1, y)) / 2.0,
            (at(x, y + 1) - at(x, y - 1)) / 2.0,
        ]
    };
    (0..levels.len()).map(one).collect()
}

/// A crop aligned with a mean.
pub struct Aligned {
    /// How it lies.
    pub laid: Laid,
    /// One standard error of its shift along the worse direction, px of the reference.
    pub sigma_px: f64,
    /// Correlation with the mean.
    pub correlation: f64,
    /// What it shows, aligned.
    pub levels: Vec<f64>,
}

impl Aligned {
    /// Whether it shows what the mean shows.
    pub fn is_alike(&self) -> bool {
        self.correlation > ALIKE
    }
}

/// How a frame shows the mean best.
fn aligned(
    picture: &Piece,
    framing: &Framing,
    mean: &[f64],
    side: usize,
    start: Laid,
) -> Option<Aligned> {
    let half = side as f64 / 2.0;
    // The mean's own slopes, so that noise of the crop does not bias; its border has none.
    let slopes = gradients(mean, side);
    let rows: Vec<(usize, SVector<f64, UNKNOWNS>)> = (0..mean.len())
        .filter(|k| slopes[*k] != [0.0; 2])
        .map(|k| {
            let [gx, gy] = slopes[k];
            let at = offset(k, side) / half;
            let row = [
                gx,
                gy,
                gx * at.x,
                gx * at.y,
                gy * at.x,
                gy * at.y,
                mean[k],
                1.0,
            ];
            (k, SVector::from(row))
        })
        .collect();
    let normal: SMatrix<f64, UNKNOWNS, UNKNOWNS> =
        rows.iter().map(|(_, row)| row * row.transpose()).sum();
    let inverse = normal.try_inverse()?;
    let mut laid = start;
    let mut crop = cropped(picture, framing, side, &laid);
    let mut left = 0.0;
    for _ in 0..STEPS {
        let mut sides = SVector::<f64, UNKNOWNS>::zeros();
        let mut squares = 0.0;
        for (k, row) in &rows {
            let off = crop[*k] - mean[*k];
            sides += row * off;
            squares += off * off;
        }
        let step = inverse * sides;
        let spare = rows.len() as f64 - UNKNOWNS as f64;
        left = (squares - sides.dot(&step)).max(0.0) / spare.max(1.0);
        // The crop shows the mean moved by the step: taken back it shows the mean.
        let gain = (1.0 + step[6]).clamp(0.5, 2.0);
        let moved = Vector2::new(step[0], step[1]) / gain;
        let bent = Matrix2::new(step[2], step[3], step[4], step[5]) / (gain * half);
        let back = (Matrix2::identity() + bent).try_inverse()?;
        laid.shift -= laid.shape * (back * moved);
        laid.shape *= back;
        let values = laid.shape.singular_values();
        let is_like = values.max() < STRETCHED && values.min() > 1.0 / STRETCHED;
        if !(laid.shift.norm() < MOST_PX && is_like) {
            return None;
        }
        crop = cropped(picture, framing, side, &laid);
        if moved.norm() < 1e-4 && bent.norm() * half < 1e-4 {
            break;
        }
    }
    let spread = inverse.fixed_view::<2, 2>(0, 0) * left;
    let sigma_px = spread.symmetric_eigenvalues().max().max(0.0).sqrt();
    Some(Aligned {
        laid,
        sigma_px,
        correlation: correlation(mean, &crop),
        levels: crop,
    })
}

fn correlation(a: &[f64], b: &[f64]) -> f64 {
    let count = a.len() as f64;
    let (ma, mb) = (a.iter().sum::<f64>() / count, b.iter().sum::<f64>() / count);
    let (mut ab, mut aa, mut bb) = (0.0, 0.0, 0.0);
    for (x, y) in a.iter().zip(b) {
        ab += (x - ma) * (y - mb);
        aa += (x - ma).powi(2);
        bb += (y - mb).powi(2);
    }
    ab / (aa * bb).sqrt().max(f64::MIN_POSITIVE)
}

/// All crops aligned with a mean, from the reference outwards, each from where the one before it lies.
pub fn outwards(
    framings: &[Framing],
    pictures: &[Piece],
    mean: &[f64],
    side: usize,
    reference: usize,
) -> Vec<Option<Aligned>> {
    let mut found: Vec<Option<Aligned>> = framings.iter().map(|_| None).collect();
    let onwards =
        (reference..framings.len()).map(|k| (k, k.checked_sub(1).filter(|b| *b >= reference)));
    let backwards = (0..reference).rev().map(|k| (k, Some(k + 1)));
    let mut last = Laid::AS_FRAMED;
    for (k, before) in onwards.chain(backwards) {
        last = match before.and_then(|b| found[b].as_ref()) {
            Some(before) if before.is_alike() => before.laid,
            // Over what is covered the last that was seen leads.
            _ if k == reference || k + 1 == reference => Laid::AS_FRAMED,
            _ => last,
        };
        let (framing, picture) = (&framings[k], &pictures[k]);
        found[k] = aligned(picture, framing, mean, side, last);
    }
    found
}
