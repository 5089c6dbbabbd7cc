//! The descent of a [`Fit`]: Huber weights that follow the spread of the misses, from place to place.

use super::HUBER;
use super::fit::{Fit, spread};
use super::normal::Normal;
use crate::damped::{Damping, Descent, Gained, Rule, Tried, descend};
use crate::lens::Term;
use std::marker::PhantomData;

/// Most steps that are tried from one start.
const MOST_STEPS: usize = 400;

impl Fit<'_> {
    /// Levenberg-Marquardt with Huber weights whose scale is the spread of the misses.
    pub fn settle(&mut self, unknowns: &[Term]) {
        let Some(weighed) = Weighed::at(self, unknowns) else {
            return;
        };
        let mut settling = Settling {
            unknowns,
            last: f64::INFINITY,
            weighed: Some(weighed),
            place: PhantomData,
        };
        let damping = Damping {
            first: 1e-3,
            rule: Rule::Factors {
                less: 0.1,
                more: 10.0,
            },
            least: 1e-12,
            most: 1e8,
        };
        let cost = settling.cost(self);
        *self = descend(&mut settling, self.clone(), cost, MOST_STEPS, &damping).at;
    }
}

/// How marks and beliefs count, and the normal equations, at one place.
struct Weighed {
    knee: f64,
    spread_px: f64,
    beliefs: Vec<(f64, f64)>,
    normal: Normal,
}

impl Weighed {
    fn at(fit: &Fit, unknowns: &[Term]) -> Option<Self> {
        let spread_px = spread(&fit.misses()?);
        let knee = HUBER * spread_px.max(1e-4);
        let beliefs = fit.beliefs(unknowns, spread_px);
        let normal = fit.normal(unknowns, knee, &beliefs)?;
        Some(Self {
            knee,
            spread_px,
            beliefs,
            normal,
        })
    }
}

/// A fit on its way; weights follow it from place to place.
struct Settling<'u, 'a> {
    unknowns: &'u [Term],
    /// Cost where it last came to, as it was weighed there.
    last: f64,
    /// `None` where marks cannot be undistorted.
    weighed: Option<Weighed>,
    place: PhantomData<Fit<'a>>,
}

impl Settling<'_, '_> {
    /// With the weights of the place where it stands, infinite where marks cannot be undistorted.
    fn cost(&self, fit: &Fit) -> f64 {
        let (Some(weighed), Some(misses)) = (&self.weighed, fit.misses()) else {
            return f64::INFINITY;
        };
        let values = fit.beliefs(self.unknowns, weighed.spread_px);
        let each = weighed.beliefs.iter().zip(values);
        let believed: f64 = each.map(|((w, _), (_, v))| w * v * v).sum();
        believed + misses.iter().map(|m| huber(*m, weighed.knee)).sum::<f64>()
    }
}

impl<'a> Descent for Settling<'_, 'a> {
    type At = Fit<'a>;

    fn step(&mut self, at: &Fit<'a>, damping: f64) -> Option<Tried<Fit<'a>>> {
        let step = self.weighed.as_ref()?.normal.step(damping)?;
        let next = at.stepped(self.unknowns, &step);
        Some(Tried {
            cost: self.cost(&next),
            at: next,
            length: step.lens.norm(),
            foreseen: f64::INFINITY,
        })
    }

    fn is_enough(&mut self, gained: &Gained) -> bool {
        let little = 1e-10 * (1.0 + gained.cost);
        // Twice: the weights of the last place may have hidden what it gained.
        let settled = self.last - gained.cost < little && gained.by < little;
        self.last = gained.cost;
        settled
    }

    fn moved(&mut self, at: &Fit<'a>, _cost: f64) -> f64 {
        self.weighed = Weighed::at(at, self.unknowns);
        self.cost(at)
    }
}

fn huber(miss: f64, knee: f64) -> f64 {
    let size = miss.abs();
    if size <= knee {
        size * size
    } else {
        knee * (2.0 * size - knee)
    }
}
