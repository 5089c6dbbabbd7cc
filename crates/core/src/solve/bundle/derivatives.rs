//! Derivatives of all residuals at one place: of what is seen by the camera that sees it, and where rows are read one after
//! the other by the cameras beside it ([`super::neighbours`]); of ties by what points are tied to.

use super::coupling::Sight;
use super::neighbours::{Beside, ByCamera, PathSlopes};
use super::residual::{self, Linear};
use super::rolling::MOST_NEAR;
use super::{Loss, Problem};
use rayon::prelude::*;

/// Derivatives of residuals, robustly weighted.
#[derive(Default)]
pub struct Derivatives {
    /// Of what was seen, in the order of the observations, then of what points are tied to. `None` marks points behind
    /// the camera.
    pub linear: Vec<Option<Linear>>,
    /// By cameras beside the one that sees it, [`MOST_NEAR`] of each observation; empty where rows are read at once.
    beside: Vec<Beside>,
}

/// So many observations at least are differentiated by one thread.
const AT_ONCE: usize = 512;

impl Derivatives {
    /// Those of what was seen, at another place, in the same memory; no ties any more.
    pub fn seen_again(&mut self, problem: &Problem, loss: Loss) {
        let count = problem.observations.len();
        self.linear.truncate(count);
        self.linear.resize_with(count, || None);
        let rotations = problem.rotations();
        let weighted = |mut l: Linear| {
            let root = loss.weight(l.residual.norm_squared()).sqrt();
            l.residual *= root;
            l.camera *= root;
            l.point *= root;
            l.shared *= root;
            (l, root)
        };
        let paths = PathSlopes::all(problem);
        let seen = self.linear.par_iter_mut().zip(&problem.observations[..]);
        if paths.is_empty() {
            self.beside.clear();
            seen.with_min_len(AT_ONCE).for_each(|(linear, o)| {
                let l = residual::linear(problem, &rotations[o.camera as usize], o);
                *linear = l.map(|l| weighted(l).0);
            });
            return;
        }
        self.beside.resize(MOST_NEAR * count, Beside::none(0));
        let beside = self.beside.par_chunks_mut(MOST_NEAR);
        let seen = seen.zip(beside).with_min_len(AT_ONCE);
        seen.for_each(|((linear, o), beside)| {
            let camera = o.camera as usize;
            let l = residual::linear_with_path(problem, &rotations[camera], o);
            let (l, of_path) = l.unzip();
            let (l, root) = l.map(weighted).unzip();
            // Which cameras there are is the same wherever the point is.
            let of_path = of_path.flatten().unwrap_or_default();
            let of_path = of_path.weighted(root.unwrap_or(0.0));
            beside.copy_from_slice(&paths[camera].beside(camera, &of_path));
            *linear = l.map(|mut l| {
                l.camera += paths[camera].own(&of_path);
                l
            });
        });
    }

    /// Adds those of a tie; where they are.
    pub fn tied(&mut self, linear: Linear) -> usize {
        self.linear.push(Some(linear));
        self.linear.len() - 1
    }

    /// By cameras beside the one that sees it; none of a tie.
    pub fn beside(&self, at: usize) -> &[Beside] {
        let from = MOST_NEAR * at;
        self.beside.get(from..from + MOST_NEAR).unwrap_or(&[])
    }

    /// Of a residual, and by the block of unknowns that is asked for; `None` behind the camera.
    pub fn of(&self, sight: &Sight) -> Option<(&Linear, &ByCamera)> {
        let linear = self.linear[sight.at].as_ref()?;
        let by = match sight.beside {
            None => &linear.camera,
            Some(k) => &self.beside[MOST_NEAR * sight.at + k].by,
        };
        Some((linear, by))
    }
}
