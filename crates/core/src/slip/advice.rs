//! What would lessen the slip at a place most?
//!
//! An observation more adds its information to that of the solve; of a candidate that is the update of a few
//! rows (Fedorov 1972), without solving anything. With Z the covariance of where the place is seen, C a candidate's rows
//! and R its noise, it becomes Z - Z_c (R + C K Cᵀ)⁻¹ Z_cᵀ. A new track at the place has a place of its own, which is
//! eliminated as slip's is.

use super::forecast::{rms, sigmas, without_place};
use super::joint::{Joint, Seen, Unknown};
use crate::lens::Term;
use crate::solve::bundle::{FOCAL, Shared};
use crate::spaces::FrameNumber;
use nalgebra::{DMatrix, Vector3};
use serde::Serialize;

/// Something that an artist can add.
#[derive(Clone, Copy, Debug, PartialEq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Candidate {
    /// A hand track of a detail at the place, followed from a frame to another.
    Track(FrameNumber, FrameNumber),
    /// The focal length, stated to this share.
    Focal(f64),
    /// The lens, its first radial term known to this.
    Lens(f64),
}

impl std::fmt::Display for Candidate {
    fn fmt(&self, f: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match self {
            Self::Track(from, to) => write!(f, "a hand track here from {from} to {to}"),
            Self::Focal(share) => {
                write!(f, "the focal length, stated to {:.1} %", 100.0 * share)
            }
            Self::Lens(_) => f.write_str("a lens from straights in the place of a solved one"),
        }
    }
}

/// What it would do.
#[derive(Clone, Copy, Debug, Serialize)]
pub struct Advice {
    /// What is added.
    pub candidate: Candidate,
    /// Root mean square slip before, px.
    pub before_px: f64,
    /// The same after, px.
    pub after_px: f64,
}

/// A focal length that is stated is known to about this share.
const FOCAL_SHARE: f64 = 0.003;
/// A calibrated k1 is known to about this.
const K1_SIGMA: f64 = 0.003;
/// What lessens slip by less than this share is not worth the work.
const WORTH: f64 = 0.05;
/// Tracks are proposed over these shares of the frames on which the place is seen.
const STRETCHES: [usize; 3] = [1, 2, 4];
/// Most that is said.
const MOST: usize = 4;

/// What would lessen the slip of a place, the best first; empty where nothing is worth it.
pub fn advice(joint: &Joint, place: &Vector3<f64>) -> Vec<Advice> {
    let seen = joint.seen(place);
    if seen.cameras.len() < 3 {
        return Vec::new();
    }
    let q = without_place(&seen.by_place);
    let slip = &q * &seen.by_unknowns;
    let before_px = rms(&sigmas(&joint.between(&slip), joint.factor));
    let mut out: Vec<Advice> = candidates(joint, &seen)
        .into_iter()
        .filter_map(|(candidate, rows)| {
            let after_px = after(joint, &slip, &rows)?;
            Some(Advice {
                candidate,
                before_px,
                after_px,
            })
        })
        .filter(|a| a.after_px < (1.0 - WORTH) * before_px)
        .collect();
    out.sort_by(|a, b| a.after_px.total_cmp(&b.after_px));
    // Of tracks the best alone, and one that is shorter.
    let mut tracks = 0;
    out.retain(|a| {
        let is_track = matches!(a.candidate, Candidate::Track(..));
        tracks += usize::from(is_track);
        !is_track || tracks <= 2
    });
    out.truncate(MOST);
    out
}

/// Root mean square slip once rows of unit noise are known as well, px.
fn after(joint: &Joint, slip: &DMatrix<f64>, rows: &DMatrix<f64>) -> Option<f64> {
    let count = slip.nrows();
    let both = DMatrix::from_fn(count + rows.nrows(), slip.ncols(), |i, j| {
        if i < count {
            slip[(i, j)]
        } else {
            rows[(i - count, j)]
        }
    });
    let all = joint.between(&both);
    let own = all.view((count, count), (rows.nrows(), rows.nrows()));
    let noisy = own + DMatrix::identity(rows.nrows(), rows.nrows());
    let across = all.view((0, count), (count, rows.nrows())).into_owned();
    let gained = noisy.cholesky()?.solve(&across.transpose());
    let left = all.view((0, 0), (count, count)) - across * gained;
    Some(rms(&sigmas(&left, joint.factor)))
}

/// Candidates as rows of unit noise.
fn candidates(joint: &Joint, seen: &Seen) -> Vec<(Candidate, DMatrix<f64>)> {
    let tracks = STRETCHES.into_iter().flat_map(|parts| {
        let count = seen.cameras.len();
        let length = count.div_ceil(parts);
        let starts = (0..=2 * (parts - 1)).map(move |k| k * length / 2);
        starts.filter_map(move |from| track(joint, seen, from..(from + length).min(count)))
    });
    tracks.chain(focal(joint)).chain(lens(joint)).collect()
}

/// A track of the place over some of the frames on which it is seen.
fn track(
    joint: &Joint,
    seen: &Seen,
    range: std::ops::Range<usize>,
) -> Option<(Candidate, DMatrix<f64>)> {
    if range.len() < 3 {
        return None;
    }
    let rows = (2 * range.start, 2 * range.len());
    let by_place = seen.by_place.rows(rows.0, rows.1).into_owned();
    let by_unknowns = seen.by_unknowns.rows(rows.0, rows.1);
    let camera = |at: usize| joint.cameras[seen.cameras[at]];
    let (first, last) = (camera(range.start), camera(range.end - 1));
    // Each frame that is looked at stands for those about it.
    let stands_for = ((last - first) as f64 / (range.len() - 1) as f64).max(1.0);
    let weight = stands_for.sqrt() / joint.usual_sigma_px;
    let rows = without_place(&by_place) * by_unknowns * weight;
    let candidate = Candidate::Track(joint.frames[first], joint.frames[last]);
    Some((candidate, rows))
}

/// A focal length that is known, where it was solved.
fn focal(joint: &Joint) -> Option<(Candidate, DMatrix<f64>)> {
    let problem = joint.problem();
    // Covariances are scaled afterwards, and this is known as it is.
    let sigma_px = FOCAL_SHARE * problem.lens.focal_px / joint.factor.sqrt();
    let own = joint.cameras.iter();
    let own: Vec<usize> = own
        .filter_map(|camera| joint.at(Unknown::OfCamera(*camera, FOCAL)))
        .collect();
    let shared = problem.free.terms().position(|t| t == Shared::Focal);
    let shared = shared.and_then(|at| joint.at(Unknown::Shared(at)));
    let rows: Vec<usize> = shared.into_iter().chain(own).collect();
    let unknown = joint.size();
    (!rows.is_empty()).then(|| {
        let mut row = DMatrix::zeros(1, unknown);
        let share = 1.0 / (rows.len() as f64 * sigma_px);
        rows.iter().for_each(|at| row[(0, *at)] = share);
        (Candidate::Focal(FOCAL_SHARE), row)
    })
}

/// A lens that is known, where it was solved.
fn lens(joint: &Joint) -> Option<(Candidate, DMatrix<f64>)> {
    let mut terms = joint.problem().free.terms();
    let at = terms.position(|t| t == Shared::Lens(Term::K1))?;
    let at = joint.at(Unknown::Shared(at))?;
    let mut row = DMatrix::zeros(1, joint.size());
    row[(0, at)] = joint.factor.sqrt() / K1_SIGMA;
    Some((Candidate::Lens(K1_SIGMA), row))
}
