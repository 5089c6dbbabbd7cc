//! The Levenberg-Marquardt loop (Marquardt 1963): a cost, and steps that are shortened by damping
//! until they lower it. There is one of it, for the adjustment of everything
//! ([`crate::solve::bundle::minimise`]) and for a handful of unknowns alike.
//!
//! Each problem solves its own damped normal equations; what is the same everywhere is here: when
//! a step counts, how damping follows, and when to stop: where a step that damping hardly shortens gains too little.
//! The cost never rises while its weights stay; a place that no step betters is left as it was.

use std::marker::PhantomData;

/// A damping that shortens no step that counts: past a wall the depth of what is seen and a focal length hang on a
/// millionth of what the cost says of each alone.
const SLIGHT: f64 = 1e-9;

/// What damping falls by besides where a step gained too little under more than that.
const LESS_AT_REST: f64 = 0.01;

/// How damping begins, follows and ends.
#[derive(Clone, Copy, Debug)]
pub struct Damping {
    /// To begin with.
    pub first: f64,
    /// How it follows what steps gain.
    pub rule: Rule,
    /// Never below this.
    pub least: f64,
    /// Beyond this a step is too short to matter.
    pub most: f64,
}

/// How damping follows what steps gain.
#[derive(Clone, Copy, Debug)]
pub enum Rule {
    /// By a factor after a step that counted, and by another after one that did not.
    Factors {
        /// After a step that counted.
        less: f64,
        /// After one that did not.
        more: f64,
    },
    /// By how much of the foreseen decrease came true, and ever faster while none does
    /// (Nielsen 1999). Needs `foreseen` of [`Tried`].
    Foreseen,
}

/// Damping as it is now, and how fast it rises next.
struct Now {
    by: f64,
    rise: f64,
}

impl Now {
    fn lower(&mut self, damping: &Damping, gained: f64, foreseen: f64) {
        let factor = match damping.rule {
            Rule::Factors { less, .. } => less,
            Rule::Foreseen => {
                let share = gained / foreseen.max(f64::MIN_POSITIVE);
                (1.0 - (2.0 * share.min(1.5) - 1.0).powi(3)).max(0.1)
            }
        };
        self.by = (self.by * factor).max(damping.least);
        self.rise = 2.0;
    }

    fn raise(&mut self, damping: &Damping) {
        match damping.rule {
            Rule::Factors { more, .. } => self.by *= more,
            Rule::Foreseen => {
                self.by *= self.rise;
                self.rise *= 2.0;
            }
        }
    }
}

/// A step that was tried.
pub struct Tried<A> {
    /// Where it leads.
    pub at: A,
    /// The cost there; infinite where it must not lead.
    pub cost: f64,
    /// Its length in the unknowns.
    pub length: f64,
    /// The decrease that the linear model expects; infinite where it is not asked.
    pub foreseen: f64,
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

/// Why it stopped.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Stop {
    /// Further steps gain nothing.
    Converged,
    /// The allowed number of steps was used up.
    IterationsUsed,
    /// No step lowers the cost although more was foreseen: numerically at the end.
    NoDescent,
    /// It was told to; the place is that of the last good step.
    Cancelled,
}

/// Where a descent ended.
#[derive(Clone, Debug)]
pub struct Descended<A> {
    /// The place.
    pub at: A,
    /// The cost there.
    pub cost: f64,
    /// Why there.
    pub stop: Stop,
    /// Steps tried.
    pub iterations: usize,
}

/// A problem that is descended.
pub trait Descent {
    /// A place: values of all unknowns.
    type At;

    /// Tries a step under a damping; `None`: under this damping there is none.
    fn step(&mut self, at: &Self::At, damping: f64) -> Option<Tried<Self::At>>;

    /// Whether a step that counted gained so little that it is enough.
    fn is_enough(&mut self, gained: &Gained) -> bool;

    /// Least decrease that is worth a further try, for this cost.
    fn least(&self, _cost: f64) -> f64 {
        0.0
    }

    /// Hears of a new place; answers the cost there, which differs from the one that was compared
    /// where the weights follow the place.
    fn moved(&mut self, _at: &Self::At, cost: f64) -> f64 {
        cost
    }

    /// Asked before each step.
    fn is_cancelled(&self) -> bool {
        false
    }
}

/// Descends from a place whose cost is told, in at most so many steps.
pub fn descend<D: Descent>(
    problem: &mut D,
    start: D::At,
    cost: f64,
    most_steps: usize,
    damping: &Damping,
) -> Descended<D::At> {
    let mut now = Now {
        by: damping.first,
        rise: 2.0,
    };
    let (mut at, mut cost) = (start, cost);
    let mut iterations = 0;
    // Whether a longer step led nowhere since one last gained something.
    let mut refused = false;
    let stop = loop {
        if problem.is_cancelled() {
            break Stop::Cancelled;
        }
        if iterations == most_steps {
            break Stop::IterationsUsed;
        }
        iterations += 1;
        let used = now.by;
        let is_enough = match problem.step(&at, used) {
            Some(tried) if tried.cost < cost => {
                let gained = Gained {
                    by: cost - tried.cost,
                    cost: tried.cost,
                    length: tried.length,
                };
                now.lower(damping, gained.by, tried.foreseen);
                at = tried.at;
                let is_enough = problem.is_enough(&gained);
                cost = problem.moved(&at, tried.cost);
                refused &= is_enough;
                is_enough
            }
            Some(tried) if tried.cost == cost => true,
            Some(tried) if tried.foreseen < problem.least(cost) => break Stop::Converged,
            _ => {
                refused = true;
                now.raise(damping);
                false
            }
        };
        if is_enough && (refused || used <= SLIGHT) {
            break Stop::Converged;
        }
        if is_enough {
            now.by *= LESS_AT_REST;
        }
        if now.by > damping.most {
            break Stop::NoDescent;
        }
    };
    Descended {
        at,
        cost,
        stop,
        iterations,
    }
}

/// A small problem told by two closures.
struct Small<A, S, E> {
    step: S,
    is_enough: E,
    place: PhantomData<A>,
}

impl<A, S, E> Descent for Small<A, S, E>
where
    S: FnMut(&A, f64) -> Option<Tried<A>>,
    E: Fn(Gained) -> bool,
{
    type At = A;

    fn step(&mut self, at: &A, damping: f64) -> Option<Tried<A>> {
        (self.step)(at, damping)
    }

    fn is_enough(&mut self, gained: &Gained) -> bool {
        (self.is_enough)(*gained)
    }
}

/// [`descend`] for a handful of unknowns: `step` tries one under a damping, `is_enough` tells from
/// what a step gained whether to stop. Where it ends, and the cost there.
pub fn descended<A>(
    start: A,
    cost: f64,
    most_steps: usize,
    damping: Damping,
    step: impl FnMut(&A, f64) -> Option<Tried<A>>,
    is_enough: impl Fn(Gained) -> bool,
) -> (A, f64) {
    let mut small = Small {
        step,
        is_enough,
        place: PhantomData,
    };
    let done = descend(&mut small, start, cost, most_steps, &damping);
    (done.at, done.cost)
}

#[cfg(test)]
mod tests {
    #![allow(clippy::unwrap_used)]

    use super::*;
    use nalgebra::{Matrix2, Vector2};

    /// A curved valley (Rosenbrock 1960), which plain steps overshoot.
    fn misses(p: &Vector2<f64>) -> (Vector2<f64>, Matrix2<f64>) {
        let value = Vector2::new(10.0 * (p.y - p.x * p.x), 1.0 - p.x);
        (value, Matrix2::new(-20.0 * p.x, 10.0, -1.0, 0.0))
    }

    /// Along a valley with slopes of a ten-thousandth a damped step gains nothing that counts far from the bottom: that is
    /// not the end.
    #[test]
    fn too_little_gained_is_the_end_where_nothing_shortens_a_step() {
        let slopes = Matrix2::new(1000.0, -1000.0, 0.1, 0.1);
        let damping = Damping {
            first: 1e-4,
            rule: Rule::Foreseen,
            least: 1e-12,
            most: 1e9,
        };
        let cost = |p: &Vector2<f64>| 0.5 * (slopes * p).norm_squared();
        let step = |p: &Vector2<f64>, damping: f64| {
            let mut normal = slopes.tr_mul(&slopes);
            (0..2).for_each(|k| normal[(k, k)] *= 1.0 + damping);
            let by = -normal.cholesky()?.solve(&slopes.tr_mul(&(slopes * p)));
            let at = p + by;
            Some(Tried {
                at,
                cost: cost(&at),
                length: by.norm(),
                foreseen: cost(p) - cost(&at),
            })
        };
        let start = Vector2::new(50.0, 50.0);
        let is_enough = |gained: Gained| gained.by < 1e-3 * gained.cost;
        let damped = step(&start, damping.first).unwrap();
        let gained = cost(&start) - damped.cost;
        assert!(gained < 1e-3 * damped.cost, "a damped step gains {gained}");
        let (at, _) = descended(start, cost(&start), 30, damping, step, is_enough);
        assert!(at.norm() < 1.0, "{at}");
    }

    #[test]
    fn the_end_of_a_curved_valley_is_found_and_the_cost_never_rises() {
        let start = Vector2::new(-1.2, 1.0);
        let mut costs = vec![misses(&start).0.norm_squared()];
        let damping = Damping {
            first: 1e-3,
            rule: Rule::Factors {
                less: 0.2,
                more: 10.0,
            },
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
                foreseen: f64::INFINITY,
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
            rule: Rule::Factors {
                less: 0.5,
                more: 4.0,
            },
            least: 0.0,
            most: 100.0,
        };
        let up = |at: &f64, _| {
            Some(Tried {
                at: at + 1.0,
                cost: f64::INFINITY,
                length: 1.0,
                foreseen: f64::INFINITY,
            })
        };
        assert_eq!(descended(3.0, 7.0, 50, damping, up, |_| false), (3.0, 7.0));
    }
}
