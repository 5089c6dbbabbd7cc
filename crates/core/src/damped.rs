//! The small Levenberg-Marquardt loop (Marquardt 1963): a handful of unknowns, a cost, and steps
//! that are shortened until they lower it.
//!
//! Each problem solves its own damped normal equations; what is the same everywhere is when a step
//! counts, how damping follows, and when to stop. The adjustment of everything has a loop of its
//! own ([`crate::solve::bundle::minimise`]), since there a step is worth minutes of care.

/// How damping begins, follows and ends.
#[derive(Clone, Copy, Debug)]
pub struct Damping {
    /// To begin with.
    pub first: f64,
    /// Factor after a step that counted.
    pub less: f64,
    /// Factor after one that did not.
    pub more: f64,
    /// Never below this.
    pub least: f64,
    /// Beyond this a step is too short to matter.
    pub most: f64,
}

/// A step that was tried.
pub struct Tried<A> {
    /// Where it leads.
    pub at: A,
    /// The cost there; infinite where it must not lead.
    pub cost: f64,
    /// Its length in the unknowns.
    pub length: f64,
}

/// What a step that counted gained.
#[derive(Clone, Copy, Debug)]
pub struct Gained {
    /// Cost before less cost after, not negative.
    pub by: f64,
    /// Cost after.
    pub cost: f64,
    /// Length of the step.
    pub length: f64,
}

/// Descends from a place: `step` tries one under a damping (`None`: there is no step),
/// `is_enough` tells from what a step gained whether to stop. Where it ends, and the cost there.
pub fn descended<A>(
    start: A,
    cost: f64,
    most_steps: usize,
    damping: Damping,
    mut step: impl FnMut(&A, f64) -> Option<Tried<A>>,
    is_enough: impl Fn(Gained) -> bool,
) -> (A, f64) {
    let (mut at, mut cost, mut now) = (start, cost, damping.first);
    for _ in 0..most_steps {
        let Some(tried) = step(&at, now) else { break };
        if tried.cost <= cost {
            let by = cost - tried.cost;
            (at, cost) = (tried.at, tried.cost);
            now = (now * damping.less).max(damping.least);
            if is_enough(Gained {
                by,
                cost,
                length: tried.length,
            }) {
                break;
            }
        } else {
            now *= damping.more;
            if now > damping.most {
                break;
            }
        }
    }
    (at, cost)
}

#[cfg(test)]
mod tests {
    use super::*;
    use nalgebra::{Matrix2, Vector2};

    /// A curved valley (Rosenbrock 1960), which plain steps overshoot.
    fn misses(p: &Vector2<f64>) -> (Vector2<f64>, Matrix2<f64>) {
        let value = Vector2::new(10.0 * (p.y - p.x * p.x), 1.0 - p.x);
        (value, Matrix2::new(-20.0 * p.x, 10.0, -1.0, 0.0))
    }

    #[test]
    fn the_end_of_a_curved_valley_is_found_and_the_cost_never_rises() {
        let start = Vector2::new(-1.2, 1.0);
        let mut costs = vec![misses(&start).0.norm_squared()];
        let damping = Damping {
            first: 1e-3,
            less: 0.2,
            more: 10.0,
            least: 1e-12,
            most: 1e9,
        };
        let step = |p: &Vector2<f64>, damping: f64| {
            let (value, slope) = misses(p);
            let mut normal = slope.tr_mul(&slope);
            normal[(0, 0)] *= 1.0 + damping;
            normal[(1, 1)] *= 1.0 + damping;
            let step = -(normal.try_inverse()? * slope.tr_mul(&value));
            let at = p + step;
            Some(Tried {
                at,
                cost: misses(&at).0.norm_squared(),
                length: step.norm(),
            })
        };
        let (end, cost) = descended(start, costs[0], 200, damping, step, |g| g.by < 1e-20);
        costs.push(cost);
        assert!((end - Vector2::new(1.0, 1.0)).norm() < 1e-6, "{end}");
        assert!(costs[1] < costs[0]);
    }

    #[test]
    fn where_no_step_helps_it_stays() {
        let damping = Damping {
            first: 1.0,
            less: 0.5,
            more: 4.0,
            least: 0.0,
            most: 100.0,
        };
        let up = |at: &f64, _| {
            Some(Tried {
                at: at + 1.0,
                cost: f64::INFINITY,
                length: 1.0,
            })
        };
        assert_eq!(descended(3.0, 7.0, 50, damping, up, |_| false), (3.0, 7.0));
    }
}
